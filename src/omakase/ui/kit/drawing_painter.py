"""Paints a drawing that is data: shapes in metres, marks and words in pixels."""

from __future__ import annotations

import math

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QFontMetricsF, QPainter, QPen, QPolygonF

from omakase.evaluate.members.drawing import Arrow, Drawing, Line, Mark, Note
from omakase.ui.kit.theme import Theme, family_colour, font

HEAD = 7.0  # px, of an arrow


class DrawingPainter:
    """A drawing fitted into a box of a widget."""

    def __init__(self, drawing: Drawing, box: QRectF, theme: Theme) -> None:
        self.drawing, self.theme = drawing, theme
        left, bottom, right, top = drawing.frame
        x = box.width() / max(right - left, 1e-12)
        y = box.height() / max(top - bottom, 1e-12)
        self._x, self._y = (min(x, y), min(x, y)) if drawing.even else (x, y)
        self._centre = box.center()
        self._middle = ((left + right) / 2.0, (bottom + top) / 2.0)
        self._box = box

    def point(self, at: tuple[float, float]) -> QPointF:
        """Where a place in metres lies on the widget."""
        return QPointF(
            self._centre.x() + (at[0] - self._middle[0]) * self._x,
            self._centre.y() - (at[1] - self._middle[1]) * self._y,
        )

    def metres(self, point: QPointF) -> tuple[float, float]:
        """The place in metres of a point of the widget."""
        return (
            (point.x() - self._centre.x()) / self._x + self._middle[0],
            (self._centre.y() - point.y()) / self._y + self._middle[1],
        )

    def paint(self, painter: QPainter) -> None:
        """All shapes, words last."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for shape in self.drawing.shapes:
            if isinstance(shape, Line):
                self._line(painter, shape)
            elif isinstance(shape, Arrow):
                self._turn(painter, shape) if shape.turning else self._arrow(painter, shape)
            elif isinstance(shape, Mark):
                self._mark(painter, shape)
        taken: list[QRectF] = []
        for shape in self.drawing.shapes:
            if isinstance(shape, Note):
                self._note(painter, shape, taken)

    def _colour(self, role: str) -> QColor:
        return QColor(self.theme.raised if role == "fill" else getattr(self.theme, role))

    def _line(self, painter: QPainter, line: Line) -> None:
        points = QPolygonF([self.point(point) for point in line.points])
        pen = QPen(self._colour(line.role), line.width)
        if line.dashed:
            pen.setStyle(Qt.PenStyle.DashLine)
        if line.fill or line.family:
            fill = family_colour(self.theme, line.family) if line.family else self._colour(line.fill)
            if line.fill == "accent":
                fill.setAlpha(45)
            painter.setPen(Qt.PenStyle.NoPen if line.width == 0.0 else pen)
            painter.setBrush(fill)
            painter.drawPolygon(points)
            return
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(points)

    def _arrow(self, painter: QPainter, arrow: Arrow) -> None:
        tip = self.point(arrow.tip)
        size = math.hypot(*arrow.direction) or 1.0
        dx, dy = arrow.direction[0] / size, -arrow.direction[1] / size
        tail = QPointF(tip.x() - dx * arrow.length, tip.y() - dy * arrow.length)
        painter.setPen(QPen(self._colour(arrow.role), 2.0))
        painter.drawLine(tail, QPointF(tip.x() - dx * HEAD * 0.8, tip.y() - dy * HEAD * 0.8))
        self._head(painter, tip, dx, dy, arrow.role)

    def _head(self, painter: QPainter, tip: QPointF, dx: float, dy: float, role: str) -> None:
        back = QPointF(tip.x() - dx * HEAD, tip.y() - dy * HEAD)
        side = QPointF(-dy * HEAD * 0.5, dx * HEAD * 0.5)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._colour(role))
        painter.drawPolygon(QPolygonF([tip, back + side, back - side]))

    def _turn(self, painter: QPainter, arrow: Arrow) -> None:
        """An arc of three quarters with a head: a moment or torque."""
        at, r = self.point(arrow.tip), arrow.length * 0.7
        painter.setPen(QPen(self._colour(arrow.role), 2.0))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        clockwise = arrow.direction[0] > 0.0
        painter.drawArc(QRectF(at.x() - r, at.y() - r, 2 * r, 2 * r), 16 * (-60 if clockwise else -120), 16 * 240)
        end = math.radians(-60 if clockwise else 240)
        tip = QPointF(at.x() + r * math.cos(end), at.y() - r * math.sin(end))
        turn = 1.0 if clockwise else -1.0
        self._head(painter, tip, -turn * math.sin(end), turn * math.cos(end), arrow.role)

    def _mark(self, painter: QPainter, mark: Mark) -> None:
        at, colour = self.point(mark.at), self._colour(mark.role)
        painter.setPen(QPen(colour, 1.6))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if mark.kind == "knife":
            painter.setBrush(colour)
            painter.drawPolygon(QPolygonF([at, at + QPointF(-6.0, 10.0), at + QPointF(6.0, 10.0)]))
        elif mark.kind == "clamp":
            painter.setPen(QPen(colour, 5.0, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
            painter.drawLine(at + QPointF(0.0, 12.0), at + QPointF(0.0, -16.0))
        elif mark.kind == "mass":
            painter.setBrush(colour)
            painter.drawRect(QRectF(at.x() - 4.0, at.y() - 8.0, 8.0, 8.0))
        elif mark.kind == "cross":
            painter.drawLine(at + QPointF(-6.0, 0.0), at + QPointF(6.0, 0.0))
            painter.drawLine(at + QPointF(0.0, -6.0), at + QPointF(0.0, 6.0))
        elif mark.kind == "ring":
            painter.drawEllipse(at, 4.5, 4.5)
        else:
            painter.setBrush(colour)
            painter.drawEllipse(at, 2.2, 2.2)

    def _note(self, painter: QPainter, note: Note, taken: list[QRectF]) -> None:
        """Words on a plate of the background, kept inside the box and off the words before."""
        chosen = font("small")
        metrics = QFontMetricsF(chosen)
        width, height = metrics.horizontalAdvance(note.text) + 6.0, metrics.height()
        at = self.point(note.at)
        shift = {"above": -height, "below": 0.0}.get(note.side, -height / 2.0)
        left = at.x() - width / 2.0
        if note.side == "left":
            left = at.x() - width - 4.0
        elif note.side == "right":
            left = at.x() + 4.0
        left = max(self._box.left(), min(left, self._box.right() - width))
        box = QRectF(left, at.y() + shift, width, height)
        step = height if note.side == "below" else -height
        for _ in range(6):
            if not any(box.intersects(other) for other in taken):
                break
            box.translate(0.0, step)
        taken.append(box)
        plate = self._colour("fill")
        plate.setAlpha(225)
        painter.fillRect(box, plate)
        painter.setFont(chosen)
        painter.setPen(self._colour(note.role))
        painter.drawText(box, int(Qt.AlignmentFlag.AlignCenter), note.text)
