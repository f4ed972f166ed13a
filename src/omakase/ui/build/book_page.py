"""The ply book: steps of the chosen part, what each takes, and a picture of its piece."""

from __future__ import annotations

from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout

from omakase.evaluate.build.book import Step
from omakase.ui.build.model import BuildModel
from omakase.ui.build.page import BuildPage
from omakase.ui.build.part_choice import PartChoice
from omakase.ui.build.pictures import PiecePicture
from omakase.ui.kit.fitting_list import chosen_key, fill_list, fitting_list
from omakase.ui.kit.labels import Label
from omakase.ui.kit.theme import SPACE, Theme, set_property

WORKS = "works"


class BookPage(BuildPage):
    """One step a line; the chosen one is shown in full beside the list."""

    def __init__(self, model: BuildModel, theme: Theme) -> None:
        super().__init__(model)
        self.choice = PartChoice(model, ((WORKS, "works on the unit"),))
        self.list = fitting_list("Steps of the ply book", ("", "Step"), 2)
        header = self.list.header()
        assert header is not None
        header.setSectionResizeMode(0, header.ResizeMode.ResizeToContents)
        self.told, self.warning = Label(), Label()
        for label in (self.told, self.warning):
            label.setWordWrap(True)
        set_property(self.warning, "role", "alarm")
        self.picture = PiecePicture(theme)
        self.chosen = "1"
        left, right, row = QVBoxLayout(), QVBoxLayout(), QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(2 * SPACE)
        left.addWidget(self.choice)
        left.addWidget(self.list, 1)
        right.addWidget(self.told)
        right.addWidget(self.warning)
        right.addWidget(self.picture, 1)
        row.addLayout(left, 6)
        row.addLayout(right, 5)
        self.choice.chosen.connect(self._other)
        self.list.currentItemChanged.connect(lambda _now, _before: self._choose(chosen_key(self.list)))

    def set_theme(self, theme: Theme) -> None:
        self.picture.set_theme(theme)

    def fill(self) -> None:
        self.choice.refresh()
        steps = self._steps()
        rows = [(str(step.number), (str(step.number), step.title)) for step in steps]
        if self.chosen not in {key for key, _ in rows}:
            self.chosen = rows[0][0] if rows else ""
        fill_list(self.list, rows, self.chosen, (0,))
        self._show(next((step for step in steps if str(step.number) == self.chosen), None))

    def _steps(self) -> tuple[Step, ...]:
        plan, part = self.model.plan, self.model.part
        if plan is None:
            return ()
        if self.choice.key == WORKS:
            return plan.works_steps
        return next((own.steps for own in plan.books if part is not None and own.part is part.made), ())

    def _show(self, step: Step | None) -> None:
        plan, part = self.model.plan, self.model.part
        self.told.setText("\n".join(step.lines) if step is not None else "")
        self.warning.setText(step.warning if step is not None else "")
        if plan is None or part is None or step is None:
            self.picture.show_pieces((), 0.0, False)
            return
        index = part.made.index
        pieces = [own for own in plan.cutting.pieces if own.part == index and own.name in step.pieces]
        self.picture.show_pieces(pieces, step.seen or 0.0, part.made.part.first == "face_a")

    def _choose(self, key: str) -> None:
        if key and key != self.chosen:
            self.chosen = key
            self.refresh()

    def _other(self) -> None:
        self.chosen = "1"
        self.refresh()
