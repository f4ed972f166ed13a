"""Which cloth?  A wanted stiffness, and what reaches it; one key makes a candidate of it."""

from __future__ import annotations

import math
import time
from collections.abc import Iterator

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QHideEvent, QShowEvent
from PyQt6.QtWidgets import (
    QHeaderView,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
)

from omakase.evaluate.materials.which_cloth import Option, Wanted, as_candidate, face_of, options, reached_by
from omakase.evaluate.results.wording import quantity
from omakase.project.commands import replace
from omakase.project.library import materials_of
from omakase.ui.kit.fields import QuantityField
from omakase.ui.kit.flow import FlowLayout
from omakase.ui.kit.labels import Heading, Label, plain
from omakase.ui.kit.theme import SPACE
from omakase.ui.kit.top_page import TopPage
from omakase.ui.session import Session
from omakase.units import display_unit, format_value

# field -> (label, dimension)
FIELDS = {
    "stretch_x": ("E t along x", "line_load"), "stretch_y": ("along y", "line_load"),
    "bend_x": ("E t³/12 along x", "bending"), "bend_y": ("along y", "bending"), "mass": ("mass up to", "areal_mass"),
}  # fmt: skip
SLICE = 8e-3  # s
LAYERS, THICKNESS, MASS, COST, DRAPE, RESIN = range(6)


def not_negative(value: float) -> str:
    return "" if 0.0 <= value < math.inf else "zero or more; zero means that it does not matter"


class Row(QTreeWidgetItem):
    """Sorts by numbers, not by their texts."""

    def __init__(self, option: Option, texts: list[str], numbers: list[float]) -> None:
        super().__init__(texts)
        self.option = option
        self._numbers = numbers

    def __lt__(self, other: QTreeWidgetItem) -> bool:
        tree = self.treeWidget()
        column = tree.sortColumn() if tree is not None else 0
        return isinstance(other, Row) and self._numbers[column] < other._numbers[column]


class ClothView(TopPage):
    """Starts from what the chosen layup's face has; searches a little at a time, so that nothing waits for it."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.wanted = Wanted()
        self._search: Iterator[Option | None] | None = None
        self._base: object = None
        self._timer = QTimer(self)
        self._timer.setInterval(0)
        self._timer.timeout.connect(self._step)
        self.head = Heading()
        self.head.setWordWrap(True)
        self.fields: dict[str, QuantityField] = {}
        row = FlowLayout(gap=SPACE)
        for k, (key, (label, dimension)) in enumerate(FIELDS.items()):
            field = QuantityField(dimension, f"Wanted: {label} {'xy'[k % 2]}", not_negative)
            field.extra_height = 6
            field.setMinimumWidth(94)
            field.committed.connect(lambda value, key=key: self._want(key, value))
            field.problem.connect(lambda text: self.head.show_parts("", text))
            self.fields[key] = field
            row.addWidget(Label(label))
            row.addWidget(field)
            field.setProperty("glue", "loose")
        self.list = self.entry = QTreeWidget()
        self.list.setAccessibleName("Cloths that reach it")
        self.list.setRootIsDecorated(False)
        self.list.setSortingEnabled(True)
        self.list.sortByColumn(MASS, Qt.SortOrder.AscendingOrder)
        header = self.list.header()
        assert header is not None
        header.setStretchLastSection(False)
        header.setMinimumSectionSize(24)
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        for column in range(1, RESIN + 1):
            header.setSectionResizeMode(column, QHeaderView.ResizeMode.Fixed)
            header.resizeSection(column, 9 * self.fontMetrics().height() // 2 + 24)
        self.take = QPushButton("Make it a candidate (Enter)")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(SPACE, SPACE, SPACE, SPACE)
        layout.setSpacing(SPACE // 2)
        layout.addWidget(self.head)
        layout.addLayout(row)
        layout.addWidget(self.list, 1)
        layout.addWidget(self.take)
        self.take.clicked.connect(lambda: self.take_chosen())
        self.list.itemActivated.connect(lambda _item, _column: self.take_chosen())
        session.brief_changed.connect(self.follow)
        session.chosen_changed.connect(self.follow)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.follow()

    def hideEvent(self, event: QHideEvent | None) -> None:
        super().hideEvent(event)
        self._timer.stop()
        self._base = None

    # --- the question ---------------------------------------------------------------------------------------

    def follow(self) -> None:
        """Asks for as much as the chosen layup's face has, when that is another one."""
        stack, candidate = self.session.stack, self.session.layup
        base = candidate and (
            candidate.id,
            candidate.layers,
            self.session.units,
            self.session.document.project.materials,
        )
        if not self.isVisible() or base == self._base:
            return
        self._base = base
        self.wanted = Wanted()
        if stack is not None:
            self.wanted = replace(reached_by(face_of(stack)), mass=math.inf)
        self._ask()

    def _want(self, key: str, value: float) -> None:
        if key == "mass" and value == 0.0:
            value = math.inf
        self.wanted = replace(self.wanted, **{key: value})
        self._ask()

    def _ask(self) -> None:
        units, stack = self.session.units, self.session.stack
        cored = stack is not None and stack.core is not None
        what = "face A of the chosen candidate" if cored else "the chosen candidate"
        for key, field in self.fields.items():
            value = getattr(self.wanted, key)
            field.set_value(None if math.isinf(value) else float(f"{value:.4g}"), units)
        self.list.clear()
        header = self.list.header()
        order = (MASS, Qt.SortOrder.AscendingOrder)
        if header is not None and header.sortIndicatorSection() <= RESIN:
            order = (header.sortIndicatorSection(), header.sortIndicatorOrder())
        areal = display_unit("areal_mass", units).label
        self.list.setHeaderLabels(
            ["Layers", f"t, {display_unit('length', units).label}", f"Mass, {areal}", "Cost, per m²", "Drape",
             f"Resin, {areal}"]
        )  # fmt: skip
        self.list.sortByColumn(*order)
        self.take.setEnabled(False)
        self._search = options(self.wanted, materials_of(self.session.document.project))
        self.head.show_parts(
            "Which cloth?", f"The fewest layers as stiff as {what}, or as you ask below; Esc goes back."
        )
        self._timer.start()

    # --- the answer -----------------------------------------------------------------------------------------

    @property
    def searching(self) -> bool:
        return self._timer.isActive()

    def _step(self) -> None:
        """As many cloths as fit into half a frame, then the interface has its turn."""
        end = time.perf_counter() + SLICE
        while self._search is not None and time.perf_counter() < end:
            try:
                option = next(self._search)
            except StopIteration:
                self._timer.stop()
                if not self.list.topLevelItemCount():
                    self.head.show_parts("", "No cloth in the library reaches that: ask for less, or allow more mass.")
                return
            if option is not None:
                self._add(option)

    def _add(self, option: Option) -> None:
        units = self.session.units
        count = len(option.angles)
        texts = [
            f"{count} {option.material.id} {option.pattern}",
            format_value(option.thickness, "length", units),
            format_value(option.mass, "areal_mass", units),
            "" if option.cost is None else f"{option.cost:.0f}",
            "" if option.drape is None else f"{option.drape:g}",
            format_value(option.resin, "areal_mass", units),
        ]
        nothing = math.inf
        numbers = [float(count), option.thickness, option.mass, nothing if option.cost is None else option.cost,
                   nothing if option.drape is None else option.drape, option.resin]  # fmt: skip
        row = Row(option, texts, numbers)
        for column in range(1, RESIN + 1):
            row.setTextAlignment(column, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        has = option.reached
        along = [quantity(value, "line_load", units) for value in (has.stretch_x, has.stretch_y)]
        row.setToolTip(0, plain(f"{option.material.name}. Reaches {along[0]} along x, {along[1]} along y"))
        self.list.addTopLevelItem(row)
        if self.list.currentItem() is None:
            self.list.setCurrentItem(row)
            self.take.setEnabled(True)

    def take_chosen(self) -> None:
        """Makes a candidate of the chosen option beside the one it stands for, and chooses it."""
        row, brief, candidate = self.list.currentItem(), self.session.brief, self.session.candidate
        if isinstance(row, Row) and brief is not None and candidate is not None:
            command, identity = as_candidate(row.option, brief, candidate)
            self.session.do(command)
            self.session.choose(identity)
            self.left.emit()
