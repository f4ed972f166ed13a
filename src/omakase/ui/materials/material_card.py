"""A material with every value, its unit, where it comes from and what was noted: the one of the selected layer."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, NamedTuple

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QShowEvent
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QHeaderView,
    QPushButton,
    QStyleOptionViewItem,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from omakase.core.errors import OmakaseError
from omakase.core.materials.areal import fibre_volume_fraction, ply_masses, ply_thickness
from omakase.core.materials.material import Material
from omakase.core.materials.processing import PROCESSES
from omakase.core.materials.properties import PROPERTIES
from omakase.core.materials.provenance import RANKING, Sourced
from omakase.evaluate.results.wording import SOURCE_WORDS, quantity
from omakase.project import materials as own_materials
from omakase.project.commands import ArrangeMaterials, replace
from omakase.project.library import materials_of
from omakase.project.model import Project
from omakase.ui.kit.fields import QuantityField, positive
from omakase.ui.kit.labels import Label, plain
from omakase.ui.kit.theme import SPACE, Theme
from omakase.ui.layup.layer_table import ChosenInList, LayerTable
from omakase.ui.session import Session
from omakase.units import FIELD, QuantityError, display_unit, format_value, parse_quantity

SYMBOL, VALUE, SOURCE, NOTE = range(4)
TITLES = ("", "Value", "From", "Note")
SOFT = 1e9  # Pa; moduli below are shown in MPa


class Entry(NamedTuple):
    """A row: a stated property by its key, or one that is worked out (no key)."""

    key: str
    symbol: str
    meaning: str
    value: str
    source: str
    note: str


def _worked_out(material: Material, units: Any) -> list[Entry]:
    """Thickness and mass of a ply from the areal masses of cloth and resin."""
    if material.kind != "ply":
        return []
    fraction = fibre_volume_fraction(
        material.value("resin_mass_fraction"), material.value("fibre_density"), material.value("resin_density")
    )
    cloth, resin = ply_masses(material)
    route = "cloth and resin by mass, no voids (ASTM D3171)"
    return [
        Entry("", "t", "cured thickness", quantity(ply_thickness(material), "length", units), "computed", route),
        Entry("", "V_f", "fibre volume fraction", f"{fraction:.3f}", "computed", route),
        Entry("", "m", "areal mass of the ply", quantity(cloth + resin, "areal_mass", units), "computed", route),
    ]


class MaterialModel(QAbstractTableModel):
    """Properties of one material; those of the project's own can be changed in place, in any unit."""

    problem = pyqtSignal(str)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.short_name = ""
        self.rows: list[Entry] = []
        self._own = False
        self._wrong: dict[tuple[int, int], str] = {}  # typed texts that cannot be taken, kept until they are mended

    @property
    def material(self) -> Material | None:
        """The material shown."""
        return materials_of(self.session.document.project).get(self.short_name)

    @property
    def is_own(self) -> bool:
        return self._own

    def show(self, short_name: str) -> None:
        """Shows a material, or its present values anew."""
        self.beginResetModel()
        if short_name != self.short_name:
            self._wrong = {}
        self.short_name = short_name
        self._own = own_materials.is_own(self.session.document.project, short_name)
        material, units = self.material, self.session.units
        self.rows = []
        if material is not None:
            self.rows = _worked_out(material, units)
            if material.sold:
                sold = ", ".join(format_value(t, "length", units, digits=FIELD) for t in material.sold)
                unit = display_unit("length", units).label
                self.rows.append(
                    Entry("", "sold", f"thicknesses sold, {unit}: {sold}", f"{len(material.sold)} sizes", "", sold)
                )
            for key, spec in PROPERTIES.items():
                if key in material.properties:
                    sourced = material.properties[key]
                    value = quantity(sourced.value, self._dimension(key, sourced.value), units)
                    self.rows.append(Entry(key, spec.symbol, spec.meaning, value, sourced.source, sourced.note))
        self.endResetModel()

    @staticmethod
    def _dimension(key: str, value: float) -> str:
        dimension = PROPERTIES[key].dimension
        return "strength" if dimension == "modulus" and value < SOFT else dimension

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008 - Qt's own signature
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008 - Qt's own signature
        return 0 if parent.isValid() else len(TITLES)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return TITLES[section]
        return None

    def flags(self, index: QModelIndex) -> Qt.ItemFlag:
        flags = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        if index.isValid() and self.is_own and self.rows[index.row()].key and index.column() != SYMBOL:
            flags |= Qt.ItemFlag.ItemIsEditable
        return flags

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        row, column = self.rows[index.row()], index.column()
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            return self._wrong.get((index.row(), column), (row.symbol, row.value, row.source, row.note)[column])
        if role == Qt.ItemDataRole.AccessibleTextRole:
            return f"{row.meaning or row.symbol}, {TITLES[column].lower() or 'symbol'}: {self.data(index)}"
        if role == Qt.ItemDataRole.TextAlignmentRole and column == VALUE:
            return (Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter).value
        if role == Qt.ItemDataRole.ForegroundRole and (index.row(), column) in self._wrong:
            return QColor(self.theme.alarm)
        if role == Qt.ItemDataRole.ToolTipRole:
            words = SOURCE_WORDS.get(row.source, "worked out from the values below")
            return plain("\n".join(text for text in (row.meaning, words, row.note) if text))
        return None

    def setData(self, index: QModelIndex, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        material, row = self.material, self.rows[index.row()]
        if role != Qt.ItemDataRole.EditRole or material is None or not row.key:
            return False
        place, text = (index.row(), index.column()), str(value).strip()
        try:
            new = self._changed(material.properties[row.key], row, index.column(), text)
            command = own_materials.set_value(self.session.document.project, self.short_name, row.key, new)
        except (QuantityError, OmakaseError) as error:
            self._wrong[place] = text
            self.problem.emit(f"{row.meaning}: {error}")
            return False
        self._wrong.pop(place, None)
        self.problem.emit("")
        if new != material.properties[row.key]:
            self.session.do(command)
        return True

    def _changed(self, old: Sourced, row: Entry, column: int, text: str) -> Sourced:
        if column == VALUE:
            if text == row.value:
                return old
            value = parse_quantity(text, self._dimension(row.key, old.value), self.session.units)
            if value == old.value:
                return old
            # nobody knows where a typed number is from until the next column says so
            return Sourced(value, "assumed", f"typed by hand, was {row.value} ({old.source})"[:200])
        if column == SOURCE:
            return replace(old, source=text if text in RANKING else old.source)
        return replace(old, note=text[:200])


class SourceDelegate(ChosenInList):
    """The four classes of provenance as a choice."""

    def createEditor(
        self, parent: QWidget | None, _option: QStyleOptionViewItem, _index: QModelIndex
    ) -> QWidget | None:
        combo = QComboBox(parent)
        combo.addItems(RANKING)
        return combo


class MaterialCard(QWidget):
    """Follows the layer that is selected in the list; another material can be looked up in the box on top."""

    def __init__(self, session: Session, layers: LayerTable, theme: Theme) -> None:
        super().__init__()
        self.session, self.layers = session, layers
        self._shown: object = None
        self._listed: tuple[str, ...] = ()
        self.model = MaterialModel(session, theme)
        self.chooser = QComboBox()
        self.chooser.setAccessibleName("Material shown")
        self.copy_button = QPushButton("Copy")
        self.copy_button.setToolTip("Copy it into the project, put the copy into the selected layers, and change it")
        self.name = Label()
        self.name.setWordWrap(True)
        self.process = QComboBox()
        self.process.setAccessibleName("How the cloth is laid up")
        self.process.setToolTip("Sets the resin that the process leaves; thickness, mass and moduli follow")
        self.resin = QComboBox()
        self.resin.setAccessibleName("Resin of the ply")
        for box in (self.chooser, self.process, self.resin):
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.setMinimumContentsLength(5)
        self.process.addItem("laid up …", "")
        for key, process in PROCESSES.items():
            self.process.addItem(process.label, key)
        self.thickness = QuantityField("length", "Measured thickness of one ply", positive)
        self.thickness.setPlaceholderText("measured t")
        self.thickness.extra_height = 8
        self.thickness.setMinimumWidth(84)
        self.burn_off = QuantityField("ratio", "Resin mass fraction by burn-off", positive)
        self.burn_off_label = Label("burn-off")
        self.burn_off_label.setProperty("role", "quiet")
        self.burn_off.setPlaceholderText("burn-off")
        self.burn_off.setToolTip("Resin share of the mass, weighed before and after burning off: 0.42 or 42 %")
        self.burn_off.extra_height = 8
        self.burn_off.setMinimumWidth(60)
        self.message = Label()
        self.message.setWordWrap(True)
        self.message.setProperty("role", "alarm")
        self.message.hide()
        self.table = QTableView()
        self.table.setModel(self.model)
        self.table.setAccessibleName("Properties of the material")
        self.table.setItemDelegateForColumn(SOURCE, SourceDelegate(self.table))
        self.table.setShowGrid(False)
        self.table.setTabKeyNavigation(False)
        self.table.setWordWrap(False)
        vertical, horizontal = self.table.verticalHeader(), self.table.horizontalHeader()
        assert vertical is not None
        assert horizontal is not None
        vertical.hide()
        horizontal.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        for column in (SYMBOL, VALUE, SOURCE):
            horizontal.setSectionResizeMode(column, QHeaderView.ResizeMode.ResizeToContents)
        horizontal.setSectionResizeMode(NOTE, QHeaderView.ResizeMode.Stretch)
        self._arrange()
        self.chooser.activated.connect(lambda index: self.show_material(self.chooser.itemData(index)))
        self.copy_button.clicked.connect(lambda: self.copy())
        self.model.problem.connect(self._say)
        self.process.activated.connect(lambda index: self._set_process(self.process.itemData(index)))
        self.thickness.committed.connect(self._set_thickness)
        self.thickness.problem.connect(self._say)
        self.resin.activated.connect(lambda index: self._set_resin(self.resin.itemData(index)))
        self.burn_off.committed.connect(self._set_fraction)
        self.burn_off.problem.connect(self._say)
        selection = layers.selectionModel()
        assert selection is not None
        selection.currentRowChanged.connect(lambda _now, _before: self.follow())
        session.chosen_changed.connect(self.follow)
        session.brief_changed.connect(self.refresh)

    def help_topic(self) -> str:
        """What F1 explains: the property of the chosen row."""
        row = self.table.currentIndex().row()
        key = self.model.rows[row].key if 0 <= row < len(self.model.rows) else ""
        return f"property:{key}" if key else ""

    def _arrange(self) -> None:
        top = QHBoxLayout()
        top.addWidget(self.chooser, 1)
        top.addWidget(self.copy_button)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(SPACE, SPACE, SPACE, SPACE)
        layout.setSpacing(SPACE // 2)
        layout.addLayout(top)
        layout.addWidget(self.name)
        row = QHBoxLayout()
        row.addWidget(self.process, 1)
        row.addWidget(self.thickness)
        layout.addLayout(row)
        second = QHBoxLayout()
        second.addWidget(self.resin, 1)
        second.addWidget(self.burn_off_label)
        second.addWidget(self.burn_off)
        layout.addLayout(second)
        layout.addWidget(self.message)
        layout.addWidget(self.table, 1)

    def set_theme(self, theme: Theme) -> None:
        self.model.theme = theme

    def _say(self, text: str) -> None:
        self.message.setText(text)
        self.message.setVisible(bool(text))

    def follow(self) -> None:
        """Shows the material of the selected layer, or of the first."""
        candidate = self.session.layup
        if candidate is not None and candidate.layers and self.isVisible():
            row = max(0, min(self.layers.currentIndex().row(), len(candidate.layers) - 1))
            self.show_material(candidate.layers[row].material)

    def refresh(self) -> None:
        """Shows the present values, or another material where the one shown is gone."""
        if self.isVisible() and self.model.material is not None:
            self.show_material(self.model.short_name)
        else:
            self.follow()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.follow()

    def show_material(self, short_name: str) -> None:
        """Shows a material by its short name."""
        project = self.session.document.project
        materials = materials_of(project)
        material = materials.get(short_name)
        shown = (material, self.session.units, tuple(materials))
        if material is None or shown == self._shown:
            return
        self._shown = shown
        if self._listed != tuple(materials):
            self._listed = tuple(materials)
            self.chooser.clear()
            self.resin.clear()
            for name, other in materials.items():
                if other.kind == "resin":
                    self.resin.addItem(other.name, name)
            own_ones = {material.id for material in project.materials}
            for name in materials:
                self.chooser.addItem(f"{name} (own)" if name in own_ones else name, name)
        self.chooser.setCurrentIndex(self.chooser.findData(short_name))
        self._say("")
        vertical = self.table.verticalHeader()
        if vertical is not None:
            vertical.setDefaultSectionSize(int(self.fontMetrics().height() * 1.4))
        self.model.show(short_name)
        changeable = self.model.is_own and material.kind == "ply"
        self.process.setVisible(changeable)
        self.thickness.setVisible(changeable)
        self.burn_off.setVisible(changeable)
        self.burn_off_label.setVisible(changeable)
        self.resin.setVisible(changeable and material.recipe is not None)
        self.process.setCurrentIndex(0)
        if changeable:
            self.thickness.set_value(round(ply_thickness(material), 7), self.session.units)  # to 0.1 µm
            self.burn_off.set_value(round(material.value("resin_mass_fraction"), 4), self.session.units)
        if material.recipe is not None:
            self.process.setCurrentIndex(self.process.findData(material.recipe.process))
            self.resin.setCurrentIndex(self.resin.findData(material.recipe.resin))
        hint = "double-click a value to change it" if self.model.is_own else "shipped; Copy makes one to change"
        made = f"Of {material.recipe.cloth} in {material.recipe.resin}. " if material.recipe is not None else ""
        self.name.setText(f"{material.name}. {made}{material.note} ({hint})".replace("  ", " "))

    def _set_process(self, process: str) -> None:
        if process:
            self._do(lambda project: own_materials.set_process(project, self.model.short_name, process))

    def _set_thickness(self, thickness: float) -> None:
        self._do(lambda project: own_materials.set_measured_thickness(project, self.model.short_name, thickness))

    def _set_resin(self, resin: str) -> None:
        self._do(lambda project: own_materials.set_resin(project, self.model.short_name, resin))

    def _set_fraction(self, fraction: float) -> None:
        self._do(lambda project: own_materials.set_measured_fraction(project, self.model.short_name, fraction))

    def _do(self, make: Callable[[Project], ArrangeMaterials]) -> None:
        """Does a command on the material shown, or says why it cannot be."""
        try:
            command = make(self.session.document.project)
        except OmakaseError as error:
            self._say(str(error))
            return
        self._say("")
        self.session.do(command)

    def copy(self) -> str:
        """Copies the material shown into the project and puts the copy into the layers that are selected with it."""
        project, short_name = self.session.document.project, self.model.short_name
        try:
            command, new = own_materials.copy(project, short_name)
        except OmakaseError as error:
            self._say(str(error))
            return ""
        self.session.do(command)
        candidate = self.session.layup
        rows = set(self.layers.rows())
        if candidate is not None and any(candidate.layers[row].material == short_name for row in rows):
            layers = tuple(
                replace(layer, material=new) if i in rows and layer.material == short_name else layer
                for i, layer in enumerate(candidate.layers)
            )
            self.session.edit_layup(replace(candidate, layers=layers), f"use {new}")
        self.show_material(new)
        return new
