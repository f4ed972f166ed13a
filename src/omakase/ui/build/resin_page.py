"""The resin card: batches of each laying-up, where the resin goes, stock, and what was really used."""

from __future__ import annotations

from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QSplitter, QVBoxLayout, QWidget

from omakase.core.errors import OmakaseError
from omakase.evaluate.build.mixing import Card
from omakase.evaluate.build.tables import (
    DEMAND_TITLES,
    RESIN_TITLES,
    card_words,
    demand_rows,
    resin_rows,
    total_words,
)
from omakase.evaluate.build.weighing import with_use, without_log
from omakase.project.build import Job, ResinUse
from omakase.ui.build.model import BuildModel
from omakase.ui.build.page import BuildPage
from omakase.ui.kit.day import today
from omakase.ui.kit.fields import QuantityField, framed, not_negative, positive
from omakase.ui.kit.fitting_list import chosen_key, fill_list, fitting_list
from omakase.ui.kit.labels import Label
from omakase.ui.kit.theme import SPACE, set_property
from omakase.units import format_value

USE_TITLES = ("Used", "Planned", "Mixed", "Left", "Share")


class ResinPage(BuildPage):
    """Cards above; where the chosen one's resin goes, and measured uses, below."""

    def __init__(self, model: BuildModel) -> None:
        super().__init__(model)
        self.list = fitting_list("Resin of each part", RESIN_TITLES, 2)
        self.goes = fitting_list("Where the resin goes", DEMAND_TITLES, 1)
        self.uses = fitting_list("Measured use", USE_TITLES, 1)
        self.told, self.stock = Label(), Label()
        for label in (self.told, self.stock):
            label.setWordWrap(True)
        set_property(self.told, "role", "quiet")
        self.mixed = QuantityField("small_mass", "Mixed, resin and hardener", positive)
        self.left = QuantityField("small_mass", "Left over", not_negative)
        self.note, self.drop = QPushButton("Write it down"), QPushButton("Remove the use")
        self.values = {"mixed": 0.0, "left": 0.0}
        self.chosen = ""
        self._arrange()
        self.list.currentItemChanged.connect(lambda _now, _before: self._choose(chosen_key(self.list)))
        self.mixed.committed.connect(lambda value: self.values.update(mixed=value))
        self.left.committed.connect(lambda value: self.values.update(left=value))
        self.note.clicked.connect(lambda: self.write_down())
        self.drop.clicked.connect(lambda: self.remove_use())

    def _arrange(self) -> None:
        left, right, split = QWidget(), QWidget(), QSplitter()
        one, two, line = QVBoxLayout(left), QVBoxLayout(right), QHBoxLayout()
        for layout in (one, two):
            layout.setContentsMargins(0, 0, 0, 0)
        one.addWidget(self.goes)
        for widget in (Label("Used for it: mixed"), self.mixed, Label("left over"), self.left, self.note, self.drop):
            if isinstance(widget, QuantityField):
                framed(widget)
            line.addWidget(widget)
        line.addStretch(1)
        two.addWidget(self.uses)
        two.addLayout(line)
        split.addWidget(left)
        split.addWidget(right)
        split.setSizes([360, 520])
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(SPACE)
        layout.addWidget(self.list, 3)
        layout.addWidget(self.told)
        layout.addWidget(split, 4)
        layout.addWidget(self.stock)

    # --- what is shown --------------------------------------------------------------------------------------

    def fill(self) -> None:
        plan, job, units = self.model.plan, self.model.job, self.model.session.units
        cards = plan.cards if plan is not None else ()
        rows = resin_rows(cards, units)
        if self.chosen not in {key for key, _ in rows}:
            self.chosen = rows[0][0] if rows else ""
        fill_list(self.list, rows, self.chosen, (2, 3, 4, 5, 6))
        card = self.card
        fill_list(self.goes, demand_rows(card, units) if card is not None else [], "", (1,))
        self.told.setText(card_words(card, units) if card is not None else "No resin is mixed for this job.")
        totals = plan.resins if plan is not None else ()
        self.stock.setText("\n".join(total_words(own, units) for own in totals))
        set_property(self.stock, "role", "alarm" if any(own.missing for own in totals) else "quiet")
        uses = [own for own in job.uses if own.part == self.chosen] if job is not None else []
        fill_list(self.uses, [self._use_row(own) for own in uses], chosen_key(self.uses), (1, 2, 3, 4))
        self.mixed.set_value(self.values["mixed"], units)
        self.left.set_value(self.values["left"], units)
        self.note.setEnabled(card is not None)
        self.drop.setEnabled(bool(uses))

    def _use_row(self, own: ResinUse) -> tuple[str, tuple[str, ...]]:
        units = self.model.session.units
        masses = (format_value(v, "small_mass", units, with_unit=True) for v in (own.planned, own.mixed, own.left))
        return own.id, (own.on, *masses, f"{100.0 * (own.mixed - own.left) / own.planned:.0f} %")

    @property
    def card(self) -> Card | None:
        """The chosen card."""
        plan = self.model.plan
        return next((own for own in plan.cards if own.part.part.id == self.chosen), None) if plan is not None else None

    def _choose(self, key: str) -> None:
        if key and key != self.chosen:
            self.chosen = key
            self.refresh()

    # --- acts -----------------------------------------------------------------------------------------------

    def write_down(self) -> None:
        """Keeps what was mixed and left over for the chosen part."""
        card, plan = self.card, self.model.plan
        part = plan.part(self.chosen) if plan is not None else None
        if card is None or part is None:
            return
        mixed, left = self.values["mixed"], self.values["left"]
        for field in (self.mixed, self.left):
            field.show_problem("")

        def put(job: Job) -> Job:
            return with_use(job, part, card.plan.mixed / card.factor, mixed, left, today())

        try:
            job = self.model.job
            assert job is not None
            put(job)
        except OmakaseError as error:
            field = self.left if getattr(error, "field", "") == "left" else self.mixed
            field.show_problem(str(error))
            self.model.told.emit(str(error), True)
            return
        self.model.edit_job(put, "write down the resin used")

    def remove_use(self) -> None:
        """Removes the chosen measured use."""
        identity = chosen_key(self.uses)
        if identity:
            self.model.edit_job(lambda job: without_log(job, identity), "remove a resin use")
