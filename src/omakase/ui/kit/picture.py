"""What the pictures of the chosen candidate share: they paint all of themselves, again with every result."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QPainter
from PyQt6.QtWidgets import QSizePolicy, QWidget

from omakase.ui.kit.telling import TellingPainter
from omakase.ui.kit.theme import Theme, font, pen
from omakase.ui.session import Session


class Picture(QWidget):
    """Follows the session's results, choice of candidate and choice of check."""

    def __init__(self, session: Session, theme: Theme, name: str) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName(name)
        self.setMinimumHeight(90)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        session.results_changed.connect(self._take_results)
        session.chosen_changed.connect(self.update)
        session.looked_at.connect(self.update)

    def _take_results(self) -> None:
        self.session.after_numbers(self.update)

    def begin(self) -> QPainter:
        """A painter on the cleared picture, with the small font."""
        painter = TellingPainter(self)
        painter.fillRect(self.rect(), QColor(self.theme.panel))
        painter.setFont(font("small"))
        return painter

    def say(self, painter: QPainter, text: str) -> None:
        """Words in the middle, where there is nothing to show."""
        painter.setPen(pen(self.theme.quiet))
        painter.drawText(self.rect(), int(Qt.AlignmentFlag.AlignCenter), text)

    def set_theme(self, theme: Theme) -> None:
        """Takes other colours."""
        self.theme = theme
        self.update()
