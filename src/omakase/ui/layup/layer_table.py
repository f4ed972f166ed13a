"""The plies and core of a candidate as one list from face A down, edited in place."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from PyQt6.QtCore import (
    QAbstractItemModel,
    QAbstractTableModel,
    QByteArray,
    QItemSelectionModel,
    QMimeData,
    QModelIndex,
    QRectF,
    Qt,
    pyqtSignal,
)
from PyQt6.QtGui import QKeyEvent, QPainter, QPixmap, QShowEvent
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QHeaderView,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QWidget,
)

from omakase.core.errors import OmakaseError
from omakase.core.laminate.stack import Layer
from omakase.core.materials.areal import ply_thickness
from omakase.core.materials.material import LAYER_KINDS
from omakase.project import edits, translate
from omakase.project.commands import replace
from omakase.project.library import layer_materials, materials_of
from omakase.project.model import Candidate, LayerRecord
from omakase.project.quickline import over_words
from omakase.ui.kit.labels import plain
from omakase.ui.kit.plain_cells import Cell, PlainCells
from omakase.ui.kit.theme import Theme, fill_own_ground
from omakase.ui.lineup.section_picture import draw_swatch
from omakase.ui.session import Session
from omakase.units import TYPED, QuantityError, display_unit, format_value, parse_quantity

NUMBER, MATERIAL, ANGLE, THICKNESS, COUNTED = range(5)
LAYER_MIME = "application/x-omakase-layer"
ANGLE_STEP, FINE_ANGLE_STEP = 15.0, 1.0
THICKNESS_STEP = {"si": 0.5e-3, "inch_pound": 25.4e-3 / 32.0}


class LayerModel(QAbstractTableModel):
    """Rows are the layers of the session's chosen candidate; it holds no second copy of them."""

    problem = pyqtSignal(str)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self._swatches: dict[tuple[object, ...], QPixmap] = {}

    @property
    def candidate(self) -> Candidate | None:
        return self.session.layup

    def layers(self) -> tuple[LayerRecord, ...]:
        candidate = self.session.layup
        return candidate.layers if candidate is not None else ()

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008 - Qt's own signature
        return 0 if parent.isValid() else len(self.layers())

    def columnCount(self, _parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008 - Qt's own signature
        return 5

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if role == Qt.ItemDataRole.DisplayRole and orientation == Qt.Orientation.Horizontal:
            unit = display_unit("length", self.session.units).label
            return ("A ↓", "Material", "Angle", f"t, {unit}", "Use")[section]
        return None

    def flags(self, index: QModelIndex) -> Qt.ItemFlag:
        flags = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable | Qt.ItemFlag.ItemIsDropEnabled
        if index.isValid():
            flags |= Qt.ItemFlag.ItemIsDragEnabled
            if index.column() in (MATERIAL, ANGLE, THICKNESS):
                flags |= Qt.ItemFlag.ItemIsEditable
            if index.column() == COUNTED:
                flags |= Qt.ItemFlag.ItemIsUserCheckable
        return flags

    def thickness_of(self, record: LayerRecord) -> float | None:
        """Thickness in m, from cloth and resin mass where none is stated; None for an unknown material."""
        if record.thickness is not None:
            return record.thickness
        material = materials_of(self.session.document.project).get(record.material)
        return ply_thickness(material) if material is not None and material.kind == "ply" else None

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        record = self.layers()[index.row()]
        column = index.column()
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            return self._text(record, index.row(), column, exact=role == Qt.ItemDataRole.EditRole)
        if role == Qt.ItemDataRole.TextAlignmentRole and column in (ANGLE, THICKNESS):
            return int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        if role == Qt.ItemDataRole.CheckStateRole and column == COUNTED:
            return Qt.CheckState.Checked if record.structural else Qt.CheckState.Unchecked
        if role == Qt.ItemDataRole.DecorationRole:
            return self.picture(index.row(), column)
        if role == Qt.ItemDataRole.ToolTipRole:
            return plain(self._tip(record))
        return None

    def cell(self, row: int, column: int) -> Cell:
        """(text, colour or empty for the usual, bold) of a cell."""
        return self._text(self.layers()[row], row, column, exact=False), "", False

    def picture(self, row: int, column: int) -> QPixmap | None:
        """The swatch before the number of a layer."""
        return self._swatch(self.layers()[row]) if column == NUMBER else None

    def _text(self, record: LayerRecord, row: int, column: int, exact: bool) -> str:
        if column == NUMBER:
            return str(row + 1)
        if column == MATERIAL:
            marks = (" ᵗ" if record.turned else "") + (f"  ({record.shared})" if record.shared else "")
            candidate = self.session.candidate
            over = over_words(record, {z.id: z.name for z in candidate.zones} if candidate is not None else {})
            marks += f" {over}" if over else ""
            return record.material + ("" if exact else marks)
        if column == ANGLE:
            return f"{record.angle:g}°".replace("-", "−")
        if column == THICKNESS:
            thickness = self.thickness_of(record)
            if thickness is None:
                return "" if exact else "–"
            return format_value(thickness, "length", self.session.units, digits=TYPED if exact else 0)
        return ""

    def _swatch(self, record: LayerRecord) -> QPixmap:
        materials = materials_of(self.session.document.project)
        key = (materials.get(record.material), record.angle, record.role, record.structural, self.theme.name)
        if key not in self._swatches:
            if len(self._swatches) > 500:
                self._swatches.clear()
            self._swatches[key] = self._drawn_swatch(record)
        return self._swatches[key]

    def _drawn_swatch(self, record: LayerRecord) -> QPixmap:
        pixmap = QPixmap(18, 16)
        pixmap.fill(Qt.GlobalColor.transparent)
        try:
            layer: Layer = translate.layer(record, materials_of(self.session.document.project))
        except OmakaseError:
            return pixmap
        painter = QPainter(pixmap)
        draw_swatch(painter, QRectF(0.5, 0.5, 16.0, 14.0), layer, self.theme)
        painter.end()
        return pixmap

    def _tip(self, record: LayerRecord) -> str:
        material = materials_of(self.session.document.project).get(record.material)
        if material is None:
            return f"no material is named '{record.material}'"
        lines = [material.name + (f": {material.note}" if material.note else "")]
        for key, sourced in material.properties.items():
            lines.append(f"{key} = {sourced.value:g} (SI), {sourced.source}")
        return "\n".join(lines)

    def setData(self, index: QModelIndex, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        candidate = self.candidate
        if candidate is None or not index.isValid():
            return False
        record = candidate.layers[index.row()]
        try:
            new = self._edited(record, index.column(), value)
            if new != record:
                translate.layer(new, materials_of(self.session.document.project))
        except (QuantityError, OmakaseError) as error:
            self.problem.emit(f"layer {index.row() + 1}: {error}")
            return False
        self.problem.emit("")
        self.session.edit_layup(edits.set_layer(candidate, index.row(), new), f"edit layer {index.row() + 1}")
        return True

    def _edited(self, record: LayerRecord, column: int, value: Any) -> LayerRecord:
        units = self.session.units
        if column == MATERIAL:
            return self.other_material(record, str(value))
        if column == ANGLE:
            return replace(record, angle=parse_quantity(str(value), "angle", units))
        if column == THICKNESS:
            if not str(value).strip():
                return replace(record, thickness=None)
            if str(value) == self._text(record, 0, THICKNESS, exact=True):
                return record
            return replace(record, thickness=parse_quantity(str(value), "length", units))
        if column == COUNTED:
            return replace(record, structural=Qt.CheckState(value) == Qt.CheckState.Checked)
        return record

    def other_material(self, record: LayerRecord, name: str) -> LayerRecord:
        """The layer in another material: it keeps its angle, and its thickness where the new one is bought by it."""
        material = materials_of(self.session.document.project).get(name.strip())
        if material is None:
            raise OmakaseError(f"no material is named '{name}'")
        if material.kind not in LAYER_KINDS:
            raise OmakaseError(f"'{name}' is a {material.kind}, not a layer: make a ply of it first")
        thickness = None if material.kind == "ply" else (self.thickness_of(record) or 0.01)
        role = "core" if material.kind == "core" or (record.role == "core" and material.can_be_core) else "ply"
        return replace(record, material=material.id, thickness=thickness, role=role)

    def step(self, index: QModelIndex, steps: int, fine: bool) -> None:
        """Turns or thickens a layer by arrow key; a run of keys is one undo step."""
        candidate = self.candidate
        if candidate is None or not index.isValid() or index.column() not in (ANGLE, THICKNESS):
            return
        record = candidate.layers[index.row()]
        if index.column() == ANGLE:
            new = replace(
                record, angle=edits.step_angle(record.angle, steps * (FINE_ANGLE_STEP if fine else ANGLE_STEP))
            )
        else:
            thickness = self.thickness_of(record)
            if thickness is None:
                return
            step = THICKNESS_STEP[self.session.units] * (0.1 if fine else 1.0)
            new = replace(record, thickness=round(thickness + steps * step, 9))
        try:
            translate.layer(new, materials_of(self.session.document.project))
        except OmakaseError as error:
            self.problem.emit(f"layer {index.row() + 1}: {error}")
            return
        key = f"step {candidate.id} {index.row()} {index.column()}"
        self.session.edit_layup(edits.set_layer(candidate, index.row(), new), f"edit layer {index.row() + 1}", key)

    # --- dragging -------------------------------------------------------------------------------------------

    def supportedDropActions(self) -> Qt.DropAction:
        return Qt.DropAction.MoveAction

    def mimeTypes(self) -> list[str]:
        return [LAYER_MIME]

    def mimeData(self, indexes: Iterable[QModelIndex]) -> QMimeData:
        data = QMimeData()
        rows = sorted({index.row() for index in indexes})
        data.setData(LAYER_MIME, QByteArray(str(rows[0] if rows else -1).encode()))
        return data

    def dropMimeData(
        self, data: QMimeData | None, _action: Qt.DropAction, row: int, _column: int, parent: QModelIndex
    ) -> bool:
        candidate = self.candidate
        if data is None or candidate is None or not data.hasFormat(LAYER_MIME):
            return False
        source = int(data.data(LAYER_MIME).data().decode())
        target = row if row >= 0 else (parent.row() if parent.isValid() else len(candidate.layers))
        if source < target and row >= 0:
            target -= 1
        if 0 <= source < len(candidate.layers) and source != target:
            self.session.edit_layup(edits.move_layer(candidate, source, target), f"move layer {source + 1}")
        return False  # the view must not remove the row itself


class ChosenInList(QStyledItemDelegate):
    """Edits a cell with the combo box that ``createEditor`` of a subclass makes."""

    def setEditorData(self, editor: QWidget | None, index: QModelIndex) -> None:
        if isinstance(editor, QComboBox):
            editor.setCurrentText(str(index.data(Qt.ItemDataRole.EditRole)))

    def setModelData(self, editor: QWidget | None, model: QAbstractItemModel | None, index: QModelIndex) -> None:
        if isinstance(editor, QComboBox) and model is not None:
            model.setData(index, editor.currentText(), Qt.ItemDataRole.EditRole)


class MaterialDelegate(ChosenInList, PlainCells):
    """A searchable list of short names in the material column."""

    def __init__(self, session: Session, model: LayerModel, parent: QWidget) -> None:
        super().__init__(model, parent)
        self._session = session

    def createEditor(
        self, parent: QWidget | None, _option: QStyleOptionViewItem, _index: QModelIndex
    ) -> QWidget | None:
        combo = QComboBox(parent)
        combo.setEditable(True)
        combo.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
        for name, material in layer_materials(self._session.document.project).items():
            combo.addItem(name)
            combo.setItemData(combo.count() - 1, plain(material.name), Qt.ItemDataRole.ToolTipRole)
        return combo


class LayerTable(QTableView):
    """The list with its keys: ← → step an angle or thickness, Delete removes, dragging reorders."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session = session
        self.layer_model = LayerModel(session, theme)
        self._shown: tuple[str, str, tuple[LayerRecord, ...]] = ("", "", self.layer_model.layers())
        self.setModel(self.layer_model)
        self.setAccessibleName("Layers from face A down to face B")
        plain = PlainCells(self.layer_model, self, (ANGLE, THICKNESS))
        for column in (NUMBER, ANGLE, THICKNESS):  # the mark of what is counted is the style's own
            self.setItemDelegateForColumn(column, plain)
        self.setItemDelegateForColumn(MATERIAL, MaterialDelegate(session, self.layer_model, self))
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.setDragDropOverwriteMode(False)
        self.setShowGrid(False)
        self.setAlternatingRowColors(True)
        self.setWordWrap(False)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        vertical, horizontal = self.verticalHeader(), self.horizontalHeader()
        assert vertical is not None
        assert horizontal is not None
        vertical.hide()
        horizontal.setHighlightSections(False)
        horizontal.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        horizontal.setMinimumSectionSize(20)
        horizontal.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        horizontal.setSectionResizeMode(MATERIAL, QHeaderView.ResizeMode.Stretch)
        self._fit_rows()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        fill_own_ground(self)

    def set_theme(self, theme: Theme) -> None:
        self.layer_model.theme = theme
        fill_own_ground(self)
        self.refresh()
        viewport = self.viewport()
        if viewport is not None:
            viewport.update()

    def _fit_rows(self) -> None:
        """Sizes of rows and columns for the present font; to the contents would be measured at every edit."""
        vertical, metrics = self.verticalHeader(), self.fontMetrics()
        height = int(metrics.height() * 1.55)
        if vertical is None or vertical.defaultSectionSize() == height:
            return
        vertical.setDefaultSectionSize(height)
        self.setColumnWidth(NUMBER, metrics.horizontalAdvance("88") + 28)
        for column, widest in ((ANGLE, "Angle"), (THICKNESS, "0.0000"), (COUNTED, "Use")):
            self.setColumnWidth(column, metrics.horizontalAdvance(widest) + 12)
        fixed = sum(self.columnWidth(column) for column in (NUMBER, ANGLE, THICKNESS, COUNTED))
        self.setMinimumWidth(fixed + metrics.horizontalAdvance("twill200") + 14)

    def refresh(self) -> None:
        """Shows the present layers; the cursor stays on its row."""
        row, column = self.currentIndex().row(), max(self.currentIndex().column(), 0)
        editing = self.state() == QAbstractItemView.State.EditingState
        if editing:
            return
        count = self.layer_model.rowCount()
        shown, self._shown = self._shown, (
            f"{self.session.candidate_id} {self.session.wall}", self.session.units, self.layer_model.layers()
        )  # fmt: skip
        if count == len(shown[2]):
            for changed in range(count):
                if shown[:2] != self._shown[:2] or shown[2][changed] != self._shown[2][changed]:
                    for column in range(self.layer_model.columnCount()):  # told together, a view paints all of itself
                        cell = self.layer_model.index(changed, column)
                        self.layer_model.dataChanged.emit(cell, cell)
        else:
            self.layer_model.beginResetModel()
            self.layer_model.endResetModel()
            if count and row >= 0:  # where a selected row went, the one in its place is meant next
                self.select_row(min(row, count - 1), column)
        self._fit_rows()

    def rows(self) -> list[int]:
        """Selected rows, ascending."""
        selection = self.selectionModel()
        return sorted({index.row() for index in selection.selectedRows()}) if selection else []

    def remove_selected(self) -> None:
        """Removes the selected layers from the candidate."""
        rows, candidate = self.rows(), self.session.layup
        if rows and candidate is not None:
            what = f"layer {rows[0] + 1}" if len(rows) == 1 else f"{len(rows)} layers"
            self.session.edit_layup(edits.remove_layers(candidate, rows), f"remove {what}")

    def select_row(self, row: int, column: int = ANGLE) -> None:
        selection = self.selectionModel()
        if selection is not None:  # not setCurrentIndex: with Ctrl held down that adds to the selection
            flags = QItemSelectionModel.SelectionFlag.ClearAndSelect | QItemSelectionModel.SelectionFlag.Rows
            selection.setCurrentIndex(self.layer_model.index(row, column), flags)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        key, shift = event.key(), bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        plain = not event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
        stepping = self.currentIndex().column() in (ANGLE, THICKNESS)
        if plain and stepping and key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self.layer_model.step(self.currentIndex(), 1 if key == Qt.Key.Key_Right else -1, shift)
        elif key == Qt.Key.Key_Delete and plain:
            self.remove_selected()
        elif key == Qt.Key.Key_Space and self.currentIndex().isValid():
            index = self.layer_model.index(self.currentIndex().row(), COUNTED)
            checked = index.data(Qt.ItemDataRole.CheckStateRole) == Qt.CheckState.Checked
            self.layer_model.setData(index, Qt.CheckState.Unchecked if checked else Qt.CheckState.Checked)
        else:
            super().keyPressEvent(event)
