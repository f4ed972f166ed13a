"""How the chosen layup breaks: load against strain, stretched and bent, and which layer fails when."""

from __future__ import annotations

from PyQt6.QtCore import QLineF, QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPolygonF

from omakase.core.laminate.breaking import Breaking, Event, Loading, breaking_order
from omakase.core.laminate.stack import Stack
from omakase.evaluate.results.wording import breaking_words, event_words
from omakase.ui.kit.picture import Picture
from omakase.ui.kit.theme import Theme, draw_elided, pen
from omakase.ui.session import Session

LINES = 4  # events told in words below each chart
RIGHT = int(Qt.AlignmentFlag.AlignRight)
LOADINGS: dict[str, tuple[Loading, Loading]] = {"x": ("stretch_x", "bend_x"), "y": ("stretch_y", "bend_y")}


class BreakPicture(Picture):
    """Two charts one above the other; a click shows the other axis."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(session, theme, "How the layup breaks")
        session.wall_changed.connect(self.update)
        self.axis = "x"
        self._kept: tuple[object, tuple[Breaking, ...]] | None = None

    def sizeHint(self) -> QSize:
        return QSize(280, 330)

    def turn(self) -> None:
        """Shows the other axis."""
        self.axis = "y" if self.axis == "x" else "x"
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self.turn()

    def walks(self, stack: Stack) -> tuple[Breaking, ...]:
        """Stretched and bent along the axis shown; worked out once for each stack."""
        wanted = (stack, self.axis)
        if self._kept is None or self._kept[0] != wanted:
            self._kept = wanted, tuple(breaking_order(stack, loading) for loading in LOADINGS[self.axis])
        return self._kept[1]

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = self.begin()
        stack = self.session.stack
        em = float(painter.fontMetrics().height())
        if stack is None:
            self.say(painter, "no layup to break")
            return
        half = self.height() / 2.0
        for k, walk in enumerate(self.walks(stack)):
            box = QRectF(8.0, k * half + 2.0, self.width() - 16.0, half - 4.0)
            self._paint_walk(painter, stack, walk, box, em)

    def _paint_walk(self, painter: QPainter, stack: Stack, walk: Breaking, box: QRectF, em: float) -> None:
        head, rest = breaking_words(walk, self.session.units)
        painter.setPen(pen(self.theme.ink))
        draw_elided(painter, QRectF(box.left(), box.top(), box.width(), em), 0, head)
        painter.setPen(pen(self.theme.quiet))
        draw_elided(painter, QRectF(box.left(), box.top() + 1.05 * em, box.width(), em), 0, rest)
        remark = _told(walk)
        words = 1.05 * em * min(len(remark), LINES) + 0.4 * em
        plot = QRectF(box.left(), box.top() + 2.2 * em, box.width(), box.height() - 2.2 * em - words)
        if plot.height() > 24.0:
            self._paint_curve(painter, walk, plot, em)
        y = box.bottom() - words + 0.2 * em
        for number, event in remark[:LINES]:
            text = f"{number}  {event_words(stack, event)}"
            if number == LINES and len(remark) > LINES:
                text += f"; {len(remark) - LINES} more"
            painter.setPen(pen(self.theme.quiet))
            draw_elided(painter, QRectF(box.left(), y, box.width(), em), 0, text)
            y += 1.05 * em

    def _paint_curve(self, painter: QPainter, walk: Breaking, box: QRectF, em: float) -> None:
        strain, load = walk.curve()
        most, highest = float(strain.max()) or 1.0, float(load.max()) or 1.0
        painter.setPen(pen(self.theme.line))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box)
        x = box.left() + strain / most * box.width() * 0.94
        y = box.bottom() - load / highest * box.height() * 0.86
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(pen(self.theme.accent, 1.7))
        painter.drawPolyline(QPolygonF([QPointF(float(a), float(b)) for a, b in zip(x, y, strict=True)]))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        painter.setPen(pen(self.theme.ink))
        taken: list[QRectF] = []
        for number, event in _told(walk):
            at = QPointF(box.left() + event.strain / most * box.width() * 0.94,
                         box.bottom() - event.before / highest * box.height() * 0.86)  # fmt: skip
            spot = QRectF(at.x() + 2.0, at.y() - em, 1.2 * em, em)
            if not any(spot.intersects(other) for other in taken):
                taken.append(spot)
                painter.drawText(spot, 0, str(number))
                painter.drawLine(QLineF(at.x(), at.y() - 3.0, at.x(), at.y() + 3.0))
        painter.setPen(pen(self.theme.quiet))
        foot = QRectF(box.left(), box.bottom() - 1.05 * em, 0.94 * box.width() - 3.0, em)
        painter.drawText(foot, RIGHT, f"{most * 100.0:.2f} %")


def _told(walk: Breaking) -> list[tuple[int, Event]]:
    """Events with their numbers, those past the point where nothing is left of the load excepted."""
    worth = [event for event in walk.events if event.before > 0.005 * walk.strongest]
    return list(enumerate(worth, start=1))
