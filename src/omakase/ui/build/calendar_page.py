"""The calendar of a job: bars of all operations, which chain sets the end, what a second mould would save."""

from __future__ import annotations

import datetime

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout

from omakase.evaluate.build.tables import CALENDAR_TITLES, calendar_rows, calendar_words
from omakase.project.commands import replace
from omakase.ui.build.model import BuildModel
from omakase.ui.build.page import BuildPage
from omakase.ui.build.pictures import CalendarPicture
from omakase.ui.kit.fitting_list import chosen_key, fill_list, fitting_list
from omakase.ui.kit.labels import Label
from omakase.ui.kit.theme import SPACE, Theme


class CalendarPage(BuildPage):
    """The picture is dragged to another first day; the list below tells each operation's hours."""

    def __init__(self, model: BuildModel, theme: Theme) -> None:
        super().__init__(model)
        self.told = Label()
        self.told.setWordWrap(True)
        self.picture = CalendarPicture(theme, self.move)
        self.list = fitting_list("Operations", CALENDAR_TITLES, 1)
        self.earlier, self.later = QPushButton("A day earlier"), QPushButton("A day later")
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(self.picture)
        line = QHBoxLayout()
        line.addWidget(self.told, 1)
        line.addWidget(self.earlier)
        line.addWidget(self.later)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(SPACE)
        layout.addLayout(line)
        layout.addWidget(scroll, 3)
        layout.addWidget(self.list, 2)
        self.earlier.clicked.connect(lambda: self.move(-1))
        self.later.clicked.connect(lambda: self.move(1))

    def set_theme(self, theme: Theme) -> None:
        self.picture.set_theme(theme)

    def fill(self) -> None:
        plan = self.model.plan
        self.picture.show_calendar(plan.calendar if plan is not None else None)
        self.told.setText(calendar_words(plan) if plan is not None else "")
        fill_list(self.list, calendar_rows(plan) if plan is not None else [], chosen_key(self.list), (4,))
        for button in (self.earlier, self.later):
            button.setEnabled(plan is not None and plan.calendar is not None)

    def move(self, days: int) -> None:
        """Begins the job some days later."""
        plan = self.model.plan
        if plan is None or plan.calendar is None:
            return
        try:
            start = (plan.calendar.day + datetime.timedelta(days=days)).isoformat()
        except OverflowError:
            return
        self.model.edit_job(lambda job: replace(job, start=start), "first day of the job", "start")
