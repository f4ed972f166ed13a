"""The section through the chosen detail."""

from __future__ import annotations

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPaintEvent

from omakase.core.details.detail import Detail as CoreDetail
from omakase.evaluate.details.registry import detail_drawing
from omakase.ui.kit.drawing_painter import DrawingPainter
from omakase.ui.kit.picture import Picture
from omakase.ui.kit.theme import Theme
from omakase.ui.session import Session


class DetailPicture(Picture):
    """Layers to scale with what goes through them, and the largest forces."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(session, theme, "Section through the detail")
        self.made: CoreDetail | None = None

    def show_detail(self, made: CoreDetail | None) -> None:
        """Shows another detail, or the same one changed."""
        self.made = made
        self.update()

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = self.begin()
        drawing = None if self.made is None else detail_drawing(self.made)
        if drawing is None:
            self.say(painter, "no detail is chosen" if self.made is None else "nothing to draw until it makes sense")
            return
        DrawingPainter(drawing, QRectF(self.rect()).adjusted(8.0, 8.0, -8.0, -8.0), self.theme).paint(painter)
