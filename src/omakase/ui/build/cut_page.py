"""The cut list: rolls and sheets with their pieces, what is bought and left over, and a change of cloth priced."""

from __future__ import annotations

from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QPushButton, QSplitter, QVBoxLayout, QWidget

from omakase.core.materials.material import LAYER_KINDS
from omakase.evaluate.build.cutting import Roll
from omakase.evaluate.build.exchange import Exchange
from omakase.evaluate.build.tables import PIECE_TITLES, ROLL_TITLES, piece_rows, roll_rows, roll_words
from omakase.project.library import materials_of
from omakase.ui.build.model import BuildModel
from omakase.ui.build.page import BuildPage
from omakase.ui.build.pictures import RollPicture
from omakase.ui.kit.fitting_list import chosen_key, fill_list, fitting_list
from omakase.ui.kit.labels import Label
from omakase.ui.kit.searching import Searching
from omakase.ui.kit.theme import SPACE, Theme, set_property


class CutPage(BuildPage):
    """Rolls above, the chosen one drawn below with its pieces beside."""

    def __init__(self, model: BuildModel, theme: Theme) -> None:
        super().__init__(model)
        self.list = fitting_list("Rolls and sheets", ROLL_TITLES, 1)
        self.pieces = fitting_list("Pieces of the roll", PIECE_TITLES, 1)
        self.picture = RollPicture(theme)
        self.told, self.swap_told = Label(), Label()
        for label in (self.told, self.swap_told):
            label.setWordWrap(True)
            set_property(label, "role", "quiet")
        self.other = QComboBox()
        self.other.setAccessibleName("Another material in its place")
        self.swap = QPushButton("What would it change?")
        self.search = Searching("exchange", self, 0)
        self.chosen = ""
        line = QHBoxLayout()
        line.addWidget(Label("In its place:"))
        line.addWidget(self.other)
        line.addWidget(self.swap)
        line.addWidget(self.swap_told, 1)
        lower, side = QSplitter(), QWidget()
        beside = QVBoxLayout(side)
        beside.setContentsMargins(0, 0, 0, 0)
        beside.addWidget(self.pieces)
        lower.addWidget(self.picture)
        lower.addWidget(side)
        lower.setSizes([560, 300])
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(SPACE)
        layout.addWidget(self.list, 3)
        layout.addWidget(self.told)
        layout.addLayout(line)
        layout.addWidget(lower, 5)
        self.list.currentItemChanged.connect(lambda _now, _before: self._choose(chosen_key(self.list)))
        self.swap.clicked.connect(lambda: self.ask())
        self.search.found.connect(self._answer)
        self.search.ended.connect(self._answered)

    def set_theme(self, theme: Theme) -> None:
        self.picture.set_theme(theme)

    def fill(self) -> None:
        plan = self.model.plan
        rolls = plan.cutting.rolls if plan is not None else ()
        rows = roll_rows(rolls, self.model.session.units)
        if self.chosen not in {key for key, _ in rows}:
            self.chosen = rows[0][0] if rows else ""
        fill_list(self.list, rows, self.chosen, range(1, len(ROLL_TITLES)))
        roll = self.roll
        self.picture.show_roll(roll)
        fill_list(self.pieces, piece_rows(roll, self.model.session.units) if roll is not None else [], "", (1, 2, 3))
        self.told.setText(roll_words(roll, self.model.session.units) if roll is not None else "")
        self._offer(roll)

    @property
    def roll(self) -> Roll | None:
        """The chosen roll."""
        plan = self.model.plan
        rows = roll_rows(plan.cutting.rolls, self.model.session.units) if plan is not None else []
        at = next((i for i, (key, _) in enumerate(rows) if key == self.chosen), None)
        return plan.cutting.rolls[at] if plan is not None and at is not None else None

    def _offer(self, roll: Roll | None) -> None:
        names: list[str] = []
        if roll is not None:
            materials = materials_of(self.model.project)
            names = sorted(
                name for name, own in materials.items()
                if own.kind == roll.material.kind and own.kind in LAYER_KINDS and name != roll.material.id
            )  # fmt: skip
        if [self.other.itemText(i) for i in range(self.other.count())] != names:
            kept = self.other.currentText()
            self.other.clear()
            self.other.addItems(names)
            self.other.setCurrentText(kept)
        self.swap.setEnabled(bool(names))

    def _choose(self, key: str) -> None:
        if key and key != self.chosen:
            self.chosen = key
            self.swap_told.setText("")
            self.refresh()

    # --- another material -----------------------------------------------------------------------------------

    def ask(self) -> None:
        """Prices the chosen material in place of the roll's: grams and money of the unit."""
        job, roll, plan = self.model.job, self.roll, self.model.plan
        if job is None or roll is None or plan is None:
            return
        exchange = Exchange(self.model.project, job, plan, roll.material.id, self.other.currentText())
        planner = self.model.planner
        self.swap_told.setText("Being worked out.")
        self.search.begin(lambda stopped: iter([exchange.told(planner, stopped)]))

    def _answer(self, found: object) -> None:
        self.swap_told.setText(str(found))

    def _answered(self, message: str) -> None:
        if message:
            self.swap_told.setText(message)
