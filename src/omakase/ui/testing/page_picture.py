"""What the pictures of the test bench share: a clear ground in the theme's colours, and words where nothing is."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QPainter
from PyQt6.QtWidgets import QWidget

from omakase.ui.kit.telling import TellingPainter
from omakase.ui.kit.theme import Theme, font, pen
from omakase.units import UnitSystem


class PagePicture(QWidget):
    """Painted whole each time."""

    def __init__(self, theme: Theme, name: str, least: tuple[int, int]) -> None:
        super().__init__()
        self.theme = theme
        self.units: UnitSystem = "si"
        self.setMinimumSize(*least)
        self.setAccessibleName(name)

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.update()

    def begin(self, nothing: str = "") -> QPainter:
        """A painter on the cleared picture; ``nothing`` is said in its middle."""
        painter = TellingPainter(self)
        painter.fillRect(self.rect(), QColor(self.theme.raised))
        painter.setFont(font("small"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if nothing:
            painter.setPen(pen(self.theme.quiet))
            painter.drawText(self.rect(), int(Qt.AlignmentFlag.AlignCenter), nothing)
        return painter
