"""All diagrams along the span and the runs of plies under them, in the line-up's place."""

from __future__ import annotations

from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QVBoxLayout

from omakase.ui.kit.theme import Theme
from omakase.ui.kit.top_page import TopPage
from omakase.ui.session import Session
from omakase.ui.why.diagram_picture import DiagramPicture
from omakase.ui.why.runs_picture import RunsPicture

LOW = 16.0  # lines of text under which the page has no room for the runs of plies


class DiagramPage(TopPage):
    """The diagrams of the chosen candidate and load case, large."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(session)
        self.picture = DiagramPicture(session, theme)
        self.runs = RunsPicture(session, theme)
        self.picture.nothing = "Diagrams are for members with a span; a panel shows its deflection below."
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.picture, 3)
        layout.addWidget(self.runs, 1)
        self.entry = self.picture
        self.searches = (self.runs.search,)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """A low page gives all its room to the diagrams."""
        super().resizeEvent(event)
        self.runs.setVisible(self.height() > LOW * self.fontMetrics().height())

    def set_theme(self, theme: Theme) -> None:
        self.picture.set_theme(theme)
        self.runs.set_theme(theme)
