"""The cost sheet of a job, and how its price moves."""

from __future__ import annotations

from PyQt6.QtWidgets import QVBoxLayout

from omakase.evaluate.build.tables import COST_TITLES, cost_rows, swing_words
from omakase.ui.build.model import BuildModel
from omakase.ui.build.page import BuildPage
from omakase.ui.kit.fitting_list import chosen_key, fill_list, fitting_list
from omakase.ui.kit.labels import Label
from omakase.ui.kit.theme import SPACE, set_property


class CostPage(BuildPage):
    """One list: what is bought and worked, then how that adds up to a price."""

    def __init__(self, model: BuildModel) -> None:
        super().__init__(model)
        self.list = fitting_list("Cost of one unit", COST_TITLES, 1)
        self.told, self.swings = Label(), Label()
        for label in (self.told, self.swings):
            label.setWordWrap(True)
            set_property(label, "role", "quiet")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(SPACE)
        layout.addWidget(self.list, 1)
        layout.addWidget(self.swings)
        layout.addWidget(self.told)

    def fill(self) -> None:
        plan, shop = self.model.plan, self.model.project.shop
        sheet = plan.cost if plan is not None else None
        rows = cost_rows(sheet, shop.currency) if sheet is not None else []
        fill_list(self.list, rows, chosen_key(self.list), (1, 2))
        self.swings.setText(f"The price moves with {swing_words(sheet)}" if sheet is not None else "")
        notes = []
        if sheet is not None and sheet.missing:
            notes.append(f"No price is stated for {', '.join(sheet.missing)}.")
        if shop.rate <= 0.0:
            notes.append("An hour of hands costs nothing yet: set it on the page Shop.")
        self.told.setText(" ".join(notes))
