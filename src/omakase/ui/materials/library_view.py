"""The library: all materials at hand as a table that narrows as one types, and plies made of cloth and resin."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QAbstractTableModel, QEvent, QModelIndex, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QKeySequence, QResizeEvent, QShowEvent
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QPushButton,
    QTableView,
)

from omakase.core.errors import OmakaseError
from omakase.core.materials.areal import ply_masses, ply_thickness
from omakase.core.materials.grades import grades_of
from omakase.core.materials.material import LAYER_KINDS, Material
from omakase.core.materials.processing import PROCESSES
from omakase.evaluate.materials.searching import search_text
from omakase.evaluate.results.wording import SOURCE_MARKS
from omakase.project import materials as own_materials
from omakase.project.disk import WriteError
from omakase.project.library import USUAL_PROCESS, USUAL_RESIN, materials_of, stated_materials
from omakase.project.material_json import Shelf
from omakase.project.material_table import bring_in
from omakase.ui.kit.fields import QuantityField, framed, positive
from omakase.ui.kit.flow import FlowLayout, page_column
from omakase.ui.kit.labels import Heading, Label, plain
from omakase.ui.kit.theme import SPACE, Theme
from omakase.ui.kit.top_page import TopPage
from omakase.ui.session import Session
from omakase.units import display_unit, format_value

KINDS = {
    "all": "everything", "ply": "plies", "core": "cores", "sheet": "metal and wood", "cloth": "cloths",
    "fibre": "fibres", "resin": "resins", "adhesive": "adhesives", "own": "the project's own", "shelf": "my shelf",
}  # fmt: skip
# (title, property, dimension); the first two and the mass are worked out
COLUMNS = (
    ("Short name", "", ""), ("Material", "", ""), ("", "mass", ""), ("E₁", "E1", "modulus"), ("E₂", "E2", "modulus"),
    ("X_t", "Xt", "strength"), ("X_c", "Xc", "strength"), ("Drape", "drape", "ratio"), ("Price", "price", "ratio"),
)  # fmt: skip
NAME, TITLE, MASS, _E1, _E2, STRENGTH_T, STRENGTH_C, DRAPE, PRICE = range(9)
AREAL_KINDS = ("ply", "cloth")


def mass_of(material: Material) -> float:
    """Mass per area in kg/m² of a ply or cloth, density in kg/m³ of all else."""
    if material.kind == "ply":
        return sum(ply_masses(material))
    return material.value("fibre_areal_mass" if material.kind == "cloth" else "density")


class LibraryModel(QAbstractTableModel):
    """The materials that fit the words and the kind, sorted by a column."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.rows: list[Material] = []
        self.words, self.kind = "", "all"
        self.shelf: Shelf | None = None
        self._order: tuple[int, bool] = (-1, False)
        self._texts: list[tuple[str, Material]] = []
        self._texts_of: object = None

    def refresh(self) -> None:
        """Picks and sorts the rows anew."""
        project = self.session.document.project
        of_project = {material.id for material in project.materials}
        words = self.words.lower().split()
        shown = materials_of(project)
        if self.kind == "shelf":
            shown = self.shelf.materials if self.shelf is not None else {}
        if self._texts_of is not shown:  # what is searched is put together once for all the words typed
            self._texts_of, self._texts = shown, [(search_text(material), material) for material in shown.values()]
        texts = self._texts
        for word in words:
            texts = [entry for entry in texts if word in entry[0]]
        rows = [
            material
            for _, material in texts
            if self.kind in ("all", "shelf", material.kind) or (self.kind == "own" and material.id in of_project)
        ]
        column, descending = self._order
        if column >= 0:
            rows.sort(key=lambda material: self._sort_key(material, column), reverse=descending)
        elif of_project:
            rows.sort(key=lambda material: material.id not in of_project)
        self.beginResetModel()
        self.rows = rows
        self.endResetModel()

    def _sort_key(self, material: Material, column: int) -> tuple[bool, Any]:
        if column in (NAME, TITLE):
            return False, (material.id if column == NAME else material.name).lower()
        if column == MASS:
            return material.kind in AREAL_KINDS, mass_of(material)
        sourced = material.properties.get(COLUMNS[column][1])
        return sourced is not None, sourced.value if sourced is not None else 0.0

    def sort(self, column: int, order: Qt.SortOrder = Qt.SortOrder.AscendingOrder) -> None:
        self._order = column, order == Qt.SortOrder.DescendingOrder
        self.refresh()

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008 - Qt's own signature
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008 - Qt's own signature
        return 0 if parent.isValid() else len(COLUMNS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if orientation != Qt.Orientation.Horizontal or role != Qt.ItemDataRole.DisplayRole:
            return None
        title, _, dimension = COLUMNS[section]
        units = self.session.units
        if section == MASS:
            return f"{display_unit('areal_mass', units).label} or {display_unit('density', units).label}"
        return f"{title}, {display_unit(dimension, units).label}" if dimension not in ("", "ratio") else title

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        material, column = self.rows[index.row()], index.column()
        if role == Qt.ItemDataRole.DisplayRole:
            return self._shown(material, column)
        if role == Qt.ItemDataRole.TextAlignmentRole and column > TITLE:
            return int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        if role == Qt.ItemDataRole.ToolTipRole:
            return plain(f"{material.name}. {material.note}")
        return None

    def _shown(self, material: Material, column: int) -> str:
        units = self.session.units
        if column == NAME:
            return material.id
        if column == TITLE:
            return material.name
        if column == MASS:
            areal = material.kind in AREAL_KINDS
            return format_value(mass_of(material), "areal_mass" if areal else "density", units, with_unit=True)
        _, key, dimension = COLUMNS[column]
        sourced = material.properties.get(key)
        if sourced is None:
            return ""
        if dimension == "ratio":
            return f"{sourced.value:g}"
        return f"{format_value(sourced.value, dimension, units)} {SOURCE_MARKS[sourced.source]}"


class SearchField(QLineEdit):
    """Down goes into the table, Escape back to the line-up; undo is the document's, not the words'."""

    down = pyqtSignal()
    left = pyqtSignal()

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride:
            keys = QKeySequence.StandardKey
            if event.matches(keys.Undo) or event.matches(keys.Redo):
                return False
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Down:
            self.down.emit()
        elif event is not None and event.key() == Qt.Key.Key_Escape:
            self.left.emit()
        else:
            super().keyPressEvent(event)


class LibraryView(TopPage):
    """``chosen``: a material to look at; ``used``: one for the selected layers."""

    chosen = pyqtSignal(str)
    used = pyqtSignal(str)
    alone = True

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.model = LibraryModel(session)
        self.search = self.entry = SearchField()
        self.search.setPlaceholderText("type to find: carbon twill, foam 80, satin")
        self.search.setAccessibleName("Find a material")
        self.kind = QComboBox()
        self.kind.setAccessibleName("Kind of material")
        for key, text in KINDS.items():
            self.kind.addItem(text, key)
        self.count = Label()
        self.count.setProperty("role", "quiet")
        self.table = QTableView()
        self.table.setModel(self.model)
        self.table.setAccessibleName("Materials")
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.table.setShowGrid(False)
        self.table.setAlternatingRowColors(True)
        self.table.setWordWrap(False)
        self.table.setTabKeyNavigation(False)
        self.use = QPushButton("Use it (Enter)")
        self.use.setToolTip("Puts it into the selected layers of the layup")
        self.resin, self.process = QComboBox(), QComboBox()
        for box in (self.kind, self.resin, self.process):
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.setMinimumContentsLength(10)
        self.resin.setAccessibleName("Resin of the ply")
        self.process.setAccessibleName("How the ply is laid up")
        for key, process in PROCESSES.items():
            self.process.addItem(process.label, key)
        self.process.setCurrentIndex(self.process.findData(USUAL_PROCESS))
        self.make = QPushButton("Make a ply of it")
        self.density = QuantityField("density", "Density of a grade between those listed", positive)
        self.density.setPlaceholderText("density")
        framed(self.density)
        self.grade = QPushButton("Make this grade")
        self.grade.setToolTip("A core of that density between the two grades beside it, estimated, for this project")
        self.keep, self.drop = QPushButton("Put it on my shelf"), QPushButton("Take it off my shelf")
        self.keep.setToolTip("Keeps it beside the settings, to be had in every project")
        self.message = Label()
        self.message.setProperty("role", "quiet")
        self._arrange()
        self.search.textChanged.connect(lambda _text: self._narrow())
        self.kind.currentIndexChanged.connect(lambda _index: self._narrow())
        self.search.down.connect(self._enter)
        self.search.returnPressed.connect(self.use_chosen)
        self.search.left.connect(self.left.emit)
        self.table.activated.connect(lambda _index: self.use_chosen())
        self.use.clicked.connect(lambda: self.use_chosen())
        self.make.clicked.connect(lambda: self.make_ply())
        self.grade.clicked.connect(lambda: self.make_grade())
        self.density.problem.connect(self.message.setText)
        self.keep.clicked.connect(lambda: self.keep_chosen())
        self.drop.clicked.connect(lambda: self.drop_chosen())
        selection = self.table.selectionModel()
        assert selection is not None
        selection.currentRowChanged.connect(lambda _now, _before: self._follow())
        session.brief_changed.connect(self.refresh)

    def _arrange(self) -> None:
        header, vertical = self.table.horizontalHeader(), self.table.verticalHeader()
        assert header is not None
        assert vertical is not None
        vertical.hide()
        header.setHighlightSections(False)
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        header.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        header.setSectionResizeMode(TITLE, QHeaderView.ResizeMode.Stretch)
        header.setSortIndicator(-1, Qt.SortOrder.AscendingOrder)
        self.table.setSortingEnabled(True)
        top, bottom = QHBoxLayout(), FlowLayout(gap=SPACE)
        head = Heading("Library")
        for widget, stretch in ((head, 0), (self.search, 2), (self.kind, 1), (self.count, 0)):
            top.addWidget(widget, stretch)
        for widget in (self.use, self.resin, self.process, self.make, self.density, self.grade, self.keep, self.drop):
            bottom.addWidget(widget)
        layout = page_column(self)
        layout.addLayout(top)
        layout.addWidget(self.table, 1)
        layout.addLayout(bottom)
        layout.addWidget(self.message)

    def set_theme(self, theme: Theme) -> None:
        super().set_theme(theme)
        self._fit()

    def _fit(self) -> None:
        metrics, vertical = self.table.fontMetrics(), self.table.verticalHeader()
        if vertical is not None:
            vertical.setDefaultSectionSize(int(metrics.height() * 1.4))
        widths = ("polyester150-2", "", "g/m² or kg/m³", "E₁, GPa 00", "E₂, GPa 00", "000.0 MPa", "000.0 MPa", "Drape",
                  "Price 0")  # fmt: skip
        for column, widest in enumerate(widths):
            if widest:
                self.table.setColumnWidth(column, metrics.horizontalAdvance(widest) + 14)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        ems = self.width() / self.fontMetrics().height()  # narrow ones leave out what the card says too
        for column, least in ((PRICE, 66.0), (DRAPE, 62.0), (STRENGTH_C, 56.0), (STRENGTH_T, 50.0)):
            self.table.setColumnHidden(column, ems < least)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._fit()
        if self.model.shelf is None:
            self.model.shelf = Shelf()
        self.refresh()

    # --- what is shown --------------------------------------------------------------------------------------

    @property
    def material(self) -> Material | None:
        """The chosen material."""
        row = self.table.currentIndex().row()
        return self.model.rows[row] if 0 <= row < len(self.model.rows) else None

    def refresh(self) -> None:
        """Shows the present materials; the cursor stays on its material."""
        if not self.isVisible():
            return
        resins = [m for m in materials_of(self.session.document.project).values() if m.kind == "resin"]
        if [self.resin.itemData(i) for i in range(self.resin.count())] != [m.id for m in resins]:
            before = self.resin.currentData() or USUAL_RESIN
            self.resin.clear()
            for resin in resins:
                self.resin.addItem(resin.name, resin.id)
            self.resin.setCurrentIndex(max(self.resin.findData(before), 0))
        self._narrow()

    def _narrow(self) -> None:
        before = self.material
        self.model.words, self.model.kind = self.search.text(), self.kind.currentData()
        self.model.refresh()
        rows = self.model.rows
        self.count.setText(f"{len(rows)} found" if rows else "nothing found: fewer words, or everything")
        if rows:
            row = next((i for i, m in enumerate(rows) if before is not None and m.id == before.id), 0)
            self.table.selectRow(row)
        self._follow()

    def _enter(self) -> None:
        self.table.setFocus()

    def choose(self, short_name: str) -> None:
        """Puts the cursor on a material; what was typed stays where it does not hide it."""
        material = materials_of(self.session.document.project).get(short_name)
        if material is None or not all(word in search_text(material) for word in self.search.text().lower().split()):
            self.search.clear()
        self.kind.setCurrentIndex(0)
        for row, material in enumerate(self.model.rows):
            if material.id == short_name:
                self.table.selectRow(row)

    def _follow(self) -> None:
        material = self.material
        cloth = material is not None and material.kind == "cloth"
        for widget in (self.resin, self.process, self.make):
            widget.setVisible(cloth)
        graded = material is not None and bool(grades_of(material.id, stated_materials(self.session.document.project)))
        self.density.setVisible(graded)
        self.grade.setVisible(graded)
        if graded and material is not None:
            self.density.set_value(material.value("density"), self.session.units)
        self.use.setVisible(material is not None and material.kind in LAYER_KINDS)
        on_shelf = self.model.kind == "shelf"
        self.keep.setVisible(material is not None and not on_shelf)
        self.drop.setVisible(material is not None and on_shelf)
        if material is None:
            self.message.setText("")
        elif cloth:
            self.message.setText("A cloth becomes a ply with resin: choose both, then Make (Enter).")
        elif material.kind == "ply":
            t = format_value(ply_thickness(material), "length", self.session.units, with_unit=True)
            made = f", of {material.recipe.cloth} in {material.recipe.resin}" if material.recipe else ""
            self.message.setText(f"One ply is {t} thick{made}. Its card is on the right (Ctrl+3).")
        else:
            self.message.setText(material.note)
        if on_shelf and self.model.shelf is not None and self.model.shelf.problem:
            self.message.setText(self.model.shelf.problem)
        if material is not None:
            self.chosen.emit(material.id)

    # --- acts -----------------------------------------------------------------------------------------------

    def use_chosen(self) -> None:
        """Puts the chosen material into the selected layers; a cloth becomes a ply first."""
        material = self.material
        if material is None:
            return
        if material.kind == "cloth":
            self.make_ply()
        elif material.kind in LAYER_KINDS:
            self._bring_from_shelf(material)
            self.used.emit(material.id)
        else:
            self.message.setText(f"A {material.kind} is not a layer: use it in a ply with a cloth.")

    def _bring_from_shelf(self, material: Material) -> None:
        """What is used of the shelf becomes the project's own, so that its file stands alone."""
        if self.model.kind == "shelf" and materials_of(self.session.document.project).get(material.id) is not material:
            self.session.do(bring_in(self.session.document.project, [material]))

    def keep_chosen(self) -> None:
        """Puts the chosen material on the user's shelf."""
        material, shelf = self.material, self.model.shelf
        if material is not None and shelf is not None:
            try:
                shelf.put(material)
            except WriteError as error:
                self.message.setText(f"{error}.")
            else:
                self.message.setText(f"'{material.id}' is on your shelf; choose 'my shelf' above to see it.")

    def drop_chosen(self) -> None:
        """Takes the chosen material off the shelf; projects that use it keep theirs."""
        material, shelf = self.material, self.model.shelf
        if material is not None and shelf is not None and self.model.kind == "shelf":
            try:
                shelf.remove(material.id)
            except WriteError as error:
                self.message.setText(f"{error}.")
            self._narrow()

    def make_grade(self) -> str:
        """Makes a core of the density typed, between the grades known, the project's own, and its short name."""
        material, density = self.material, self.density._value
        if material is None or density is None:
            return ""
        try:
            command, new = own_materials.new_grade(self.session.document.project, material.id, density)
        except OmakaseError as error:
            self.message.setText(str(error))
            return ""
        self.session.do(command)
        self.choose(new)
        self.message.setText(f"'{new}' is the project's own, estimated; Enter puts it into the selected layers.")
        return new

    def make_ply(self) -> str:
        """Makes a ply of the chosen cloth the project's own, and its short name."""
        cloth = self.material
        if cloth is None or cloth.kind != "cloth":
            return ""
        try:
            command, new = own_materials.new_ply(
                self.session.document.project, cloth.id, self.resin.currentData(), self.process.currentData()
            )
        except OmakaseError as error:
            self.message.setText(str(error))
            return ""
        self.session.do(command)
        self.choose(new)
        self.message.setText(f"'{new}' is the project's own ply; Enter puts it into the selected layers.")
        return new
