"""What plots of one number over another share: a frame with its two scales, their ends in words, lines and marks."""

from __future__ import annotations

import math
from collections.abc import Iterable

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPolygonF

from omakase.ui.kit.theme import Theme, pen

MIDDLE = int(Qt.AlignmentFlag.AlignHCenter)
RIGHT = int(Qt.AlignmentFlag.AlignRight)
Ends = tuple[float, float]


class PlotFrame:
    """A box on a widget in which ``x`` and ``y``, each from its first to its second end, run right and up.

    ``at`` gives the place of a value, ``line``, ``dot`` and ``cross`` paint it; a scale of logarithms is the caller's.
    """

    def __init__(self, painter: QPainter, theme: Theme, box: QRectF, x: Ends, y: Ends) -> None:
        self.painter, self.theme, self.box = painter, theme, box
        self.x, self.y = x, y
        self.em = float(painter.fontMetrics().height())

    def at(self, x: float, y: float) -> QPointF:
        """Where a value stands on the widget; in the middle of a scale whose ends are one."""
        across = (x - self.x[0]) / (self.x[1] - self.x[0]) if self.x[1] != self.x[0] else 0.5
        up = (y - self.y[0]) / (self.y[1] - self.y[0]) if self.y[1] != self.y[0] else 0.5
        return QPointF(self.box.left() + across * self.box.width(), self.box.bottom() - up * self.box.height())

    # --- the frame ------------------------------------------------------------------------------------------

    def outline(self) -> None:
        self.painter.setPen(pen(self.theme.line))
        self.painter.drawRect(self.box)

    def ends(self, x: tuple[str, str], y: tuple[str, str]) -> None:
        """The values at the ends of both scales, below and to the left of the frame."""
        box, em, draw = self.box, self.em, self.painter.drawText
        self.painter.setPen(pen(self.theme.quiet))
        foot = QRectF(box.left(), box.bottom() + 0.2 * em, box.width(), em)
        draw(foot, 0, x[0])
        draw(foot, RIGHT, x[1])
        draw(QRectF(0.0, box.bottom() - em, box.left() - 4.0, em), RIGHT, y[0])
        draw(QRectF(0.0, box.top(), box.left() - 4.0, em), RIGHT, y[1])

    def below(self, line: int, text: str, flags: int = MIDDLE) -> None:
        """Words in a line below the frame; line 0 holds the ends of the scale."""
        self.painter.setPen(pen(self.theme.quiet))
        foot = QRectF(self.box.left(), self.box.bottom() + (0.2 + 1.1 * line) * self.em, self.box.width(), self.em)
        self.painter.drawText(foot, flags, text)

    def upright(self, text: str, left: float) -> None:
        """The title of the scale that runs up, turned, beginning ``left`` px from the widget's edge."""
        self.painter.save()
        self.painter.setPen(pen(self.theme.quiet))
        self.painter.translate(left, self.box.center().y())
        self.painter.rotate(-90.0)
        half = self.box.height() / 2.0
        self.painter.drawText(QRectF(-half, 0.0, 2.0 * half, self.em), MIDDLE, text)
        self.painter.restore()

    # --- marks ----------------------------------------------------------------------------------------------

    def line(self, points: Iterable[tuple[float, float]]) -> None:
        """A line in the painter's pen, with gaps where a value is not finite."""
        run: list[QPointF] = []
        for x, y in (*points, (math.nan, math.nan)):
            if math.isfinite(x) and math.isfinite(y):
                run.append(self.at(x, y))
            elif run:
                self.painter.drawPolyline(QPolygonF(run))
                run = []

    def dot(self, place: QPointF, radius: float, filling: str = "") -> None:
        """A circle in the painter's pen, filled with a colour of the theme or hollow."""
        self.painter.setBrush(QColor(filling) if filling else Qt.BrushStyle.NoBrush)
        self.painter.drawEllipse(place, radius, radius)
        self.painter.setBrush(Qt.BrushStyle.NoBrush)

    def cross(self, place: QPointF, reach: float) -> None:
        self.painter.drawLine(place + QPointF(-reach, -reach), place + QPointF(reach, reach))
        self.painter.drawLine(place + QPointF(-reach, reach), place + QPointF(reach, -reach))

    def beside(self, place: QPointF, down: float, text: str) -> None:
        """Words beside a place, on its left in the right half of the frame, from ``down`` px below it."""
        wide, left = 15.0 * self.em, place.x() > self.box.center().x()
        start = place.x() - wide - 0.6 * self.em if left else place.x() + 0.6 * self.em
        self.painter.drawText(QRectF(start, place.y() + down, wide, self.em), RIGHT if left else 0, text)
