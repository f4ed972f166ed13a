"""Pictures of the build view: a piece with its warp, rolls with their pieces, the calendar, a log."""

from __future__ import annotations

import datetime
from collections.abc import Callable, Sequence

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QMouseEvent, QPainter, QPaintEvent, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from omakase.core.build.calendar import Slot
from omakase.core.build.pieces import shoelace
from omakase.evaluate.build.cutting import CutPiece, Roll
from omakase.evaluate.build.working import Calendar
from omakase.ui.kit.telling import TellingPainter
from omakase.ui.kit.theme import Theme, draw_elided, family_colour, font, pen

LEFT = int(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
CENTRE = int(Qt.AlignmentFlag.AlignCenter)
READABLE = 11.0  # px of a piece below which its name is left out
HATCHES = 9  # lines of warp across a piece
DAY = 24.0


def tint(theme: Theme, family: str) -> QColor:
    """The tone of a material family, so pale that names and lines stand out on it."""
    full, ground = family_colour(theme, family), QColor(theme.panel)
    share = 0.28
    mixed = [round(share * a + (1.0 - share) * b) for a, b in zip(full.getRgb()[:3], ground.getRgb()[:3], strict=True)]
    return QColor(*mixed)


class BuildPicture(QWidget):
    """A picture that paints all of itself."""

    def __init__(self, theme: Theme, name: str) -> None:
        super().__init__()
        self.theme = theme
        self.setAccessibleName(name)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setMinimumHeight(90)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.update()

    def begin(self) -> QPainter:
        painter = TellingPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(self.theme.panel))
        painter.setFont(font("small"))
        return painter

    def say(self, painter: QPainter, text: str) -> None:
        painter.setPen(pen(self.theme.quiet))
        painter.drawText(self.rect(), CENTRE, text)


class Scale:
    """Metres to pixels: ``low`` … ``high`` fill a box, y upward."""

    def __init__(self, low: np.ndarray, high: np.ndarray, box: QRectF) -> None:
        size = np.maximum(high - low, 1e-9)
        self.factor = min(box.width() / size[0], box.height() / size[1])
        self.low = low
        self.left = box.left() + (box.width() - size[0] * self.factor) / 2.0
        self.bottom = box.bottom() - (box.height() - size[1] * self.factor) / 2.0

    def point(self, at: Sequence[float] | np.ndarray) -> QPointF:
        return QPointF(
            self.left + (float(at[0]) - self.low[0]) * self.factor,
            self.bottom - (float(at[1]) - self.low[1]) * self.factor,
        )

    def polygon(self, outline: np.ndarray) -> QPolygonF:
        return QPolygonF([self.point(own) for own in outline])


def hatch(painter: QPainter, outline: np.ndarray, angle: float, scale: Scale, lines: int = HATCHES) -> None:
    """Lines along the warp, clipped to the outline."""
    painter.save()
    path_polygon = scale.polygon(outline)
    from PyQt6.QtGui import QPainterPath

    path = QPainterPath()
    path.addPolygon(path_polygon)
    path.closeSubpath()
    painter.setClipPath(path, Qt.ClipOperation.IntersectClip)
    c, s = np.cos(np.radians(angle)), np.sin(np.radians(angle))
    along, across = outline @ np.array([c, s]), outline @ np.array([-s, c])
    for own in np.linspace(across.min(), across.max(), lines + 2)[1:-1]:
        ends = [(a * c - own * s, a * s + own * c) for a in (along.min(), along.max())]
        painter.drawLine(scale.point(ends[0]), scale.point(ends[1]))
    painter.restore()


class PiecePicture(BuildPicture):
    """The pieces of a step as they are seen from above, their warp as lines, and the arrow that angles start from."""

    def __init__(self, theme: Theme) -> None:
        super().__init__(theme, "Piece of the step, with its warp")
        self.pieces: list[CutPiece] = []
        self.seen = 0.0
        self.mirrored = False

    def show_pieces(self, pieces: Sequence[CutPiece], seen: float, mirrored: bool) -> None:
        """``seen`` : angle of the warp from above; ``mirrored`` : it is looked at from face B."""
        self.pieces, self.seen, self.mirrored = list(pieces), seen, mirrored
        self.update()

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = self.begin()
        if not self.pieces:
            self.say(painter, "no piece of cloth in this step")
            return
        flip = np.array([1.0, -1.0 if self.mirrored else 1.0])
        nets = [piece.net.outline * flip for piece in self.pieces]
        every = np.vstack(nets)
        box = QRectF(self.rect()).adjusted(24.0, 16.0, -24.0, -40.0)
        scale = Scale(every.min(axis=0), every.max(axis=0), box)
        for piece, outline in zip(self.pieces, nets, strict=True):
            painter.setPen(pen(self.theme.ink, 1.5))
            painter.setBrush(QBrush(tint(self.theme, piece.material.family)))
            painter.drawPolygon(scale.polygon(outline))
            painter.setBrush(QBrush(QColor(self.theme.panel)))
            for hole in piece.net.holes:
                painter.drawPolygon(scale.polygon(hole * flip))
            painter.setPen(pen(self.theme.ink, 1.0))
            hatch(painter, outline, self.seen, scale)
        self._datum(painter)

    def _datum(self, painter: QPainter) -> None:
        y = self.height() - 18.0
        painter.setPen(pen(self.theme.accent, 2.0))
        painter.drawLine(QPointF(24.0, y), QPointF(104.0, y))
        painter.drawLine(QPointF(104.0, y), QPointF(96.0, y - 5.0))
        painter.drawLine(QPointF(104.0, y), QPointF(96.0, y + 5.0))
        painter.setPen(pen(self.theme.ink))
        painter.drawText(QRectF(112.0, y - 10.0, self.width() - 120.0, 20.0), LEFT, "0°, along the length; lines: warp")


class RollPicture(BuildPicture):
    """A roll or the sheets of a material with the pieces on them."""

    def __init__(self, theme: Theme) -> None:
        super().__init__(theme, "Roll or sheets with their pieces")
        self.roll: Roll | None = None

    def show_roll(self, roll: Roll | None) -> None:
        self.roll = roll
        self.update()

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = self.begin()
        roll = self.roll
        if roll is None or roll.layout is None:
            self.say(painter, "" if roll is None else "A sleeve is cut to length.")
            return
        layout = roll.layout
        sheets = max(layout.sheets, 1)
        gap = 0.05 * layout.width
        high = np.array([layout.length, sheets * layout.width + (sheets - 1) * gap])
        scale = Scale(np.zeros(2), high, QRectF(self.rect()).adjusted(8.0, 8.0, -8.0, -26.0))
        for sheet in range(sheets):
            base = np.array([0.0, (sheets - 1 - sheet) * (layout.width + gap)])
            painter.setPen(pen(self.theme.line, 1.0))
            painter.setBrush(QBrush(QColor(self.theme.raised)))
            corners = np.array([[0, 0], [layout.length, 0], [layout.length, layout.width], [0, layout.width]])
            painter.drawPolygon(scale.polygon(corners + base))
            for placed in layout.placed:
                if placed.sheet == sheet:
                    self._piece(painter, roll, placed, base, scale)
        painter.setPen(pen(self.theme.quiet))
        painter.drawText(QRectF(8.0, self.height() - 22.0, self.width() - 16.0, 20.0), LEFT,
                         "warp, ribbon →   each piece as it lies with its face up")  # fmt: skip

    def _piece(self, painter: QPainter, roll: Roll, placed, base: np.ndarray, scale: Scale) -> None:  # type: ignore[no-untyped-def]
        piece = roll.pieces[placed.index]
        outline = placed.outline(piece.cut) + base
        painter.setPen(pen(self.theme.ink, 1.0))
        painter.setBrush(QBrush(tint(self.theme, piece.material.family)))
        polygon = scale.polygon(outline)
        painter.drawPolygon(polygon)
        painter.setBrush(QBrush(QColor(self.theme.panel)))
        for hole in placed.holes(piece.cut):
            painter.drawPolygon(scale.polygon(hole + base))
        self._name(painter, piece.name, np.array([[own.x(), own.y()] for own in polygon]))

    def _name(self, painter: QPainter, name: str, points: np.ndarray) -> None:
        """The piece's name along its longest edge, where it is thick enough to read it."""
        edges = np.roll(points, -1, axis=0) - points
        longest = edges[int(np.hypot(*edges.T).argmax())]
        long = float(np.hypot(*longest))
        if shoelace(points) < READABLE * max(long, 1.0) or long < READABLE:
            return
        angle = float(np.degrees(np.arctan2(longest[1], longest[0])))
        angle = (angle + 90.0) % 180.0 - 90.0
        painter.save()
        painter.translate(QPointF(*points.mean(axis=0)))
        painter.rotate(angle if abs(angle) < 89.0 else 0.0)
        painter.setPen(pen(self.theme.ink))
        painter.drawText(QRectF(-60.0, -8.0, 120.0, 16.0), CENTRE, name)
        painter.restore()


class CalendarPicture(BuildPicture):
    """Operations as bars: hands on full, waiting hatched; the chain that sets the end is outlined.  Dragging moves the
    first day."""

    ROW = 20.0
    HEAD = 24.0

    def __init__(self, theme: Theme, moved: Callable[[int], None]) -> None:
        super().__init__(theme, "Calendar of the job")
        self.calendar: Calendar | None = None
        self._moved = moved
        self._from: float | None = None
        self._days = 0
        self.setCursor(Qt.CursorShape.SizeHorCursor)

    def show_calendar(self, calendar: Calendar | None) -> None:
        self.calendar = calendar
        rows = len(calendar.plan.slots) if calendar is not None else 0
        self.setMinimumHeight(int(self.HEAD + self.ROW * rows + 8.0))
        self.update()

    def _span(self) -> tuple[float, float, float]:
        """(first h, last h, pixels per h)."""
        assert self.calendar is not None
        first = DAY * np.floor(self.calendar.plan.begin / DAY)
        last = DAY * np.ceil(self.calendar.plan.end / DAY + 1e-9)
        return float(first), float(last), (self.width() - self._names() - 16.0) / max(float(last - first), 1.0)

    def _names(self) -> float:
        return min(270.0, 0.34 * self.width())

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = self.begin()
        if self.calendar is None:
            self.say(painter, "no calendar yet")
            return
        first, last, per_hour = self._span()
        left = self._names()
        bottom = self.HEAD + self.ROW * len(self.calendar.plan.slots)
        days = int((last - first) / DAY)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QBrush(QColor(self.theme.raised)))
        for low, high in self.calendar.shift.stretches(first, last):
            wide = (high - low) * per_hour
            painter.drawRect(QRectF(left + (low - first) * per_hour, self.HEAD, wide, bottom - self.HEAD))
        every = max(1, int(np.ceil(46.0 / max(DAY * per_hour, 1e-6))))
        for day in range(days + 1):
            x = left + day * DAY * per_hour
            painter.setPen(pen(self.theme.line))
            painter.drawLine(QPointF(x, self.HEAD - 4.0), QPointF(x, bottom))
            if day < days and day % every == 0:
                date = self.calendar.day + datetime.timedelta(days=day + int(first / DAY) + self._days)
                painter.setPen(pen(self.theme.quiet))
                box = QRectF(x + 2.0, 2.0, DAY * per_hour * every, 18.0)
                painter.drawText(box, LEFT, f"{date:%a} {date.day}.{date.month}.")
        for row, slot in enumerate(self.calendar.plan.slots):
            self._slot(painter, slot, row, left, first, per_hour)

    def _slot(self, painter: QPainter, slot: Slot, row: int, left: float, first: float, per_hour: float) -> None:
        y = self.HEAD + row * self.ROW
        painter.setPen(pen(self.theme.ink))
        mark = "● " if slot.critical else ""
        draw_elided(painter, QRectF(6.0, y, left - 12.0, self.ROW), LEFT, f"{mark}{slot.operation.what}")

        def bar(begin: float, end: float) -> QRectF:
            return QRectF(
                left + (begin - first) * per_hour, y + 4.0, max((end - begin) * per_hour, 1.5), self.ROW - 8.0
            )

        painter.setPen(Qt.PenStyle.NoPen)
        if slot.end > slot.worked:
            painter.setBrush(QBrush(QColor(self.theme.quiet), Qt.BrushStyle.BDiagPattern))
            painter.drawRect(bar(slot.worked, slot.end))
        if slot.worked > slot.start:
            painter.setBrush(QBrush(QColor(self.theme.accent)))
            for low, high in self.calendar.shift.stretches(slot.start, slot.worked) if self.calendar else ():
                painter.drawRect(bar(low, high))
        if slot.critical:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(pen(self.theme.alarm, 1.5))
            painter.drawRect(bar(slot.start, slot.end))

    # --- dragging -------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self.calendar is not None:
            self._from, self._days = event.position().x(), 0

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._from is not None and self.calendar is not None:
            self._days = round((event.position().x() - self._from) / (DAY * self._span()[2]))
            self.update()

    def mouseReleaseEvent(self, _event: QMouseEvent | None) -> None:
        days, self._from, self._days = self._days, None, 0
        if days:
            self._moved(days)
        self.update()


class LogPicture(BuildPicture):
    """Readings of a log over time, with the line that they must stay under or over."""

    def __init__(self, theme: Theme) -> None:
        super().__init__(theme, "Readings of the log")
        self.points: list[tuple[float, float]] = []
        self.limit: tuple[tuple[float, float], tuple[float, float]] | None = None
        self.words = ("", "")

    def show_log(
        self, points: Sequence[tuple[float, float]], limit: tuple[tuple[float, float], tuple[float, float]] | None,
        words: tuple[str, str],
    ) -> None:  # fmt: skip
        """``limit`` : a line from one (time, value) to another; ``words`` : of the axes."""
        self.points, self.limit, self.words = list(points), limit, words
        self.update()

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = self.begin()
        if len(self.points) < 2:
            self.say(painter, "no log yet")
            return
        every = [*self.points, *(self.limit or ())]
        low, high = np.min(every, axis=0), np.max(every, axis=0)
        span = np.maximum(high - low, 1e-9)
        box = QRectF(self.rect()).adjusted(64.0, 12.0, -12.0, -34.0)

        def at(own: Sequence[float]) -> QPointF:
            share = (np.asarray(own) - low) / span
            return QPointF(box.left() + share[0] * box.width(), box.bottom() - share[1] * box.height())

        painter.setPen(pen(self.theme.line))
        painter.drawRect(box)
        if self.limit is not None:
            painter.setPen(pen(self.theme.alarm, 1.5, Qt.PenStyle.DashLine))
            painter.drawLine(at(self.limit[0]), at(self.limit[1]))
        painter.setPen(pen(self.theme.accent, 2.0))
        painter.drawPolyline(QPolygonF([at(own) for own in self.points]))
        painter.setPen(pen(self.theme.ink))
        for own in self.points if len(self.points) < 40 else ():
            painter.drawEllipse(at(own), 2.5, 2.5)
        painter.setPen(pen(self.theme.quiet))
        painter.drawText(QRectF(4.0, box.top() - 8.0, 58.0, 16.0), CENTRE, f"{high[1]:.4g}")
        painter.drawText(QRectF(4.0, box.bottom() - 8.0, 58.0, 16.0), CENTRE, f"{low[1]:.4g}")
        painter.drawText(QRectF(4.0, (box.top() + box.bottom()) / 2.0 - 8.0, 58.0, 16.0), CENTRE, self.words[1])
        painter.drawText(QRectF(box.left(), box.bottom() + 4.0, box.width(), 18.0), LEFT, f"{low[0]:.4g}")
        painter.drawText(QRectF(box.left(), box.bottom() + 4.0, box.width(), 18.0), CENTRE, self.words[0])
        right = int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        painter.drawText(QRectF(box.left(), box.bottom() + 4.0, box.width(), 18.0), right, f"{high[0]:.4g}")
