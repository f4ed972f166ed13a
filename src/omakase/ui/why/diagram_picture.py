"""Diagrams along the span of the chosen candidate, on one axis with one cursor."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPolygonF

from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.results.diagrams import Curve, curves, has_span
from omakase.evaluate.results.profile import case_index
from omakase.evaluate.results.wording import quantity, reserve_text
from omakase.ui.kit.picture import Picture
from omakase.ui.kit.theme import Theme, draw_elided, pen
from omakase.ui.session import Session

# what is shown where not all have room, what matters most first
SHORT = (
    "reserve", "moment", "thickness", "deflection", "twist", "shear", "torque", "load", "axial", "slope", "sideways",
    "bending_stiffness", "torsional_stiffness", "shear_centre", "chord",
)  # fmt: skip
LOWEST = 2.6  # lines of text that a diagram with its title needs
LEFT = int(Qt.AlignmentFlag.AlignLeft)
RIGHT = int(Qt.AlignmentFlag.AlignRight)


class DiagramPicture(Picture):
    """Load, shear, moment, torque, deflection, twist, reserve and so on; a second load case is thin and dashed, what
    would do is a thin line."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(session, theme, "Diagrams along the span")
        self._other = -1  # a second load case laid over the first; -1 for none
        self._kept: tuple[object, tuple[tuple[Curve, ...], ...]] | None = None
        self.nothing = "no diagrams to show"
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setToolTip(
            "← → moves the cursor along the span, Home jumps to the worst place, O lays the next load case over it."
        )
        session.station_changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(280, 180)

    # --- what is shown --------------------------------------------------------------------------------------

    def shown(self) -> tuple[tuple[Curve, ...], ...]:
        """The diagrams of the chosen check's load case, and of the one laid over it; kept until the result changes."""
        result, brief = self.session.result, self.session.judged_brief
        if result is None or brief is None or not has_span(result) or not brief.load_cases:
            return ()
        check = self.session.check
        index = case_index(result, check.case_id if check else "")
        count = len(result.response.results) if result.response is not None else 0  # type: ignore[attr-defined]
        if not count:
            return ()
        key = (result, brief.judgement, brief.limits, index, self._other % count if self._other >= 0 else -1)
        if self._kept is None or self._kept[0] != key:
            overlaid = [curves(brief, result, index)]
            if self._other >= 0 and self._other % count != index:
                overlaid.append(curves(brief, result, self._other % count))
            self._kept = key, tuple(overlaid)
        return self._kept[1]

    def rows(self) -> list[tuple[Curve, Curve | None]]:
        """Each diagram with that of the second load case; where not all have room, those that matter most."""
        shown = self.shown()
        if not shown:
            return []
        others = {curve.key: curve for curve in shown[1]} if len(shown) > 1 else {}
        there = {curve.key for curve in shown[0]}
        kept = [key for key in SHORT if key in there][: self._room()]
        return [(curve, others.get(curve.key)) for curve in shown[0] if curve.key in kept]

    def _room(self) -> int:
        """How many diagrams fit under each other, at least one."""
        return max(1, int(self.plot().height() / (LOWEST * self.fontMetrics().height())))

    @property
    def is_small(self) -> bool:
        """True where not all diagrams have room."""
        shown = self.shown()
        return bool(shown) and self._room() < len(shown[0])

    @property
    def length(self) -> float:
        brief = self.session.brief
        return float(getattr(brief.member, "length", 0.0)) if brief is not None else 0.0

    def overlay(self) -> None:
        """Lays the next load case over the shown one; after the last, none."""
        brief = self.session.brief
        count = len(brief.load_cases) if brief is not None else 0
        self._other = self._other + 1 if self._other + 1 < count else -1
        self.update()

    # --- painting -------------------------------------------------------------------------------------------

    def plot(self) -> QRectF:
        """The part of the widget that the span runs over."""
        em = float(self.fontMetrics().height())
        return QRectF(8.0, 1.6 * em, self.width() - 16.0, self.height() - 2.9 * em)

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = self.begin()
        rows = self.rows()
        if not rows or self.length <= 0.0:
            brief = self.session.brief
            told = kind_of(brief).missing.get("diagrams", "") if brief is not None else ""
            self.say(painter, told or self.nothing)
            return
        em = float(painter.fontMetrics().height())
        box = self.plot()
        each = box.height() / len(rows)
        station = self.session.station
        painter.setPen(pen(self.theme.ink))
        draw_elided(painter, QRectF(8, 2, self.width() - 12, em), 0, self._head())
        for k, (curve, other) in enumerate(rows):
            area = QRectF(box.left(), box.top() + k * each + 1.05 * em, box.width(), each - 1.35 * em)
            self._paint_row(painter, curve, other, area, station, em)
            x = box.left() + station / self.length * box.width()
            painter.setPen(pen(self.theme.accent, 1.0, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()))  # not through the words above
        painter.setPen(pen(self.theme.quiet))
        foot = QRectF(8, self.height() - 1.15 * em, self.width() - 16, em)
        draw_elided(painter, foot, LEFT, f"cursor at x {quantity(station, 'length', self.session.units)}")
        if self.hasFocus():
            painter.setPen(pen(self.theme.accent, 1.6))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(1, 1, -2, -2))

    def _head(self) -> str:
        result, check = self.session.result, self.session.check
        assert result is not None
        cases = result.response.results  # type: ignore[union-attr]
        index = case_index(result, check.case_id if check else "")
        text = f"Along the span, {cases[index].case.name}"
        if self._other >= 0 and len(self.shown()) > 1:
            text += f"; dashed: {cases[self._other % len(cases)].case.name}"
        return text

    def _paint_row(
        self, painter: QPainter, curve: Curve, other: Curve | None, area: QRectF, station: float, em: float
    ) -> None:
        """A diagram: its title and value at the cursor above, its extreme value at its place."""
        values = np.minimum(curve.values, curve.cut) if curve.cut is not None else curve.values
        both = values if other is None else np.concatenate([values, np.minimum(other.values, curve.cut or np.inf)])
        if curve.wanted is not None:
            both = np.concatenate([both, curve.wanted])
        low, high = min(0.0, float(both.min())), max(0.0, float(both.max()))
        if curve.limit is not None:
            high = max(high, 1.2 * curve.limit)
        if high - low <= 0.0:
            return
        scale = area.height() / (high - low)

        def points(x: np.ndarray, y: np.ndarray) -> QPolygonF:
            drawn = y if curve.cut is None else np.minimum(y, curve.cut)
            return QPolygonF([
                QPointF(area.left() + a / self.length * area.width(), area.bottom() - (b - low) * scale)
                for a, b in zip(x.tolist(), drawn.tolist(), strict=True)
            ])  # fmt: skip

        zero = area.bottom() + low * scale
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(pen(self.theme.line))
        painter.drawLine(QPointF(area.left(), zero), QPointF(area.right(), zero))
        if curve.limit is not None:
            y = area.bottom() - (curve.limit - low) * scale
            painter.setPen(pen(self.theme.alarm, 1.0, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y))
        line = points(curve.x, curve.values)
        if curve.limit is None:
            fill = QColor(self.theme.accent)
            fill.setAlpha(40)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(fill)
            painter.drawPolygon(QPolygonF([QPointF(area.left(), zero), *line, QPointF(area.right(), zero)]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(pen(self.theme.accent if curve.limit is None else self.theme.ink, 1.4))
        painter.drawPolyline(line)
        if curve.wanted is not None:  # of all load cases
            painter.setPen(pen(self.theme.ink, 1.0))
            painter.drawPolyline(points(curve.x, curve.wanted))
        elif other is not None:
            painter.setPen(pen(self.theme.quiet, 1.0, Qt.PenStyle.DashLine))
            painter.drawPolyline(points(other.x, other.values))
        k = int(np.argmin(curve.values)) if curve.limit is not None else int(np.argmax(np.abs(curve.values)))
        painter.setPen(pen(self.theme.ink, 1.2))
        painter.drawEllipse(line[k], 2.5, 2.5)
        head = QRectF(area.left(), area.top() - 1.05 * em, area.width(), em)
        word = "least" if curve.limit is not None else "largest"
        place = quantity(float(curve.x[k]), "length", self.session.units)
        painter.setPen(pen(self.theme.ink))
        here, wanted = self._text(curve, curve.at(station)), curve.wanted_at(station)
        if wanted is not None:
            why = "wanted" if self.is_small else "to be as strong everywhere"
            here = f"{here}, {why} {self._text(curve, wanted)}"
        room = painter.fontMetrics().horizontalAdvance(here) + em
        text = f"{curve.title}: {word} {self._text(curve, float(curve.values[k]))} at {place}"
        if self.is_small:
            text = f"{curve.title} {self._text(curve, float(curve.values[k]))} at {place}"
        draw_elided(painter, head.adjusted(0.0, 0.0, -room, 0.0), LEFT, text)
        painter.setPen(pen(self.theme.accent))
        draw_elided(painter, head, RIGHT, here)

    def _text(self, curve: Curve, value: float) -> str:
        if curve.key == "reserve":
            return reserve_text(value)
        return quantity(value, curve.dimension, self.session.units)

    # --- input ----------------------------------------------------------------------------------------------

    def _follow(self, point: QPointF) -> None:
        box = self.plot()
        if self.length > 0.0 and box.width() > 0.0:
            share = min(max((point.x() - box.left()) / box.width(), 0.0), 1.0)
            self.session.move_to(share * self.length)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self.setFocus()
            self._follow(event.position())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.buttons() & Qt.MouseButton.LeftButton:
            self._follow(event.position())

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        step = self.length / (200.0 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 40.0)
        if event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            toward = 1.0 if event.key() == Qt.Key.Key_Right else -1.0
            self.session.move_to(min(max(self.session.station + toward * step, 0.0), self.length))
        elif event.key() == Qt.Key.Key_Home:
            self.session.move_to(None)
        elif event.key() == Qt.Key.Key_O:
            self.overlay()
        else:
            super().keyPressEvent(event)
