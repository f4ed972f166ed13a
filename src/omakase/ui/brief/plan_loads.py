"""The loads of one case on a panel in plan."""

from __future__ import annotations

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QFont, QFontMetricsF, QPen, QPolygonF

from omakase.evaluate.members.panel import is_round
from omakase.evaluate.results.wording import quantity
from omakase.project.model import LoadCase
from omakase.project.panels import EdgeLoad, PatchLoad, PressureLoad
from omakase.ui.brief.plan_painter import PlanPainter
from omakase.ui.kit.theme import font
from omakase.ui.lineup.section_picture import hatch

EDGE_ARROWS = 5


def patch_box(load: PatchLoad, plan: QRectF, scale: float) -> QRectF:
    """Where a patch lies on the screen."""
    return QRectF(
        plan.left() + (load.x - load.along_x / 2) * scale,
        plan.bottom() - (load.y + load.along_y / 2) * scale,
        load.along_x * scale,
        load.along_y * scale,
    )


class PlanLoads(PlanPainter):
    """Pressures as fields of marks, patches hatched, forces along edges as arrows."""

    def paint(self, case: LoadCase) -> None:
        """All loads of a case."""
        for load in case.loads:
            if isinstance(load, PressureLoad):
                self.painter.save()
                self.painter.setClipPath(self.outline())
                self._paint_pressure(load)
                self.painter.restore()
                self._pressure_label(load)
        for k, load in enumerate(case.loads):
            if isinstance(load, PatchLoad):
                self._paint_patch(load, k % 2 == 1)
            elif isinstance(load, EdgeLoad):
                self._paint_edge_load(load)

    def _paint_pressure(self, load: PressureLoad) -> None:
        """A field of small chevrons; they point down for face A, up for face B."""
        colour = QColor(self.theme.accent)
        colour.setAlpha(110)
        self.painter.setPen(QPen(colour, 1.3))
        direction = 1.0 if load.pressure >= 0.0 else -1.0
        step = 22.0
        y = self.plan.top() + step / 2
        while y < self.plan.bottom() - 4:
            x = self.plan.left() + step / 2
            while x < self.plan.right() - 4:
                self.painter.drawPolyline(
                    QPolygonF([QPointF(x - 3.5, y - 2 * direction), QPointF(x, y + 2 * direction),
                               QPointF(x + 3.5, y - 2 * direction)])
                )  # fmt: skip
                x += step
            y += step

    def _pressure_label(self, load: PressureLoad) -> None:
        text = quantity(abs(load.pressure), "pressure", self.units) + ("" if load.pressure >= 0.0 else " on face B")
        down = 0.16 * self.plan.height() if is_round(self.brief) else 0.0
        self._label(QPointF(self.plan.center().x(), self.plan.top() + 12.0 + down), text)

    def _paint_edge_load(self, load: EdgeLoad) -> None:
        """Arrows just inside the edges, as long as the force there; shear by one arrow along each edge."""
        self.painter.setPen(QPen(QColor(self.theme.accent), 1.6))
        ends = load.ends, load.ends if load.ends_far is None else load.ends_far
        sides = load.sides, load.sides if load.sides_far is None else load.sides_far
        largest = max(abs(force) for force in (*ends, *sides, load.shear))
        if largest == 0.0:
            return
        longest = min(40.0, min(self.plan.width(), self.plan.height()) / 4.0)
        near, far = (
            QLineF(self.plan.bottomLeft(), self.plan.bottomRight()),
            QLineF(self.plan.topLeft(), self.plan.topRight()),
        )
        left, right = (
            QLineF(self.plan.bottomLeft(), self.plan.topLeft()),
            QLineF(self.plan.bottomRight(), self.plan.topRight()),
        )
        pulled = (
            (left, QPointF(1.0, 0.0), ends), (right, QPointF(-1.0, 0.0), ends),
            (near, QPointF(0.0, -1.0), sides), (far, QPointF(0.0, 1.0), sides),
        )  # fmt: skip
        for line, inward, (start, end) in pulled:
            for k in range(EDGE_ARROWS):
                share = (k + 0.5) / EDGE_ARROWS
                force = start + (end - start) * share
                at = line.pointAt(share) + inward * 2.0
                inner = at + inward * (longest * abs(force) / largest)
                self._arrow(QLineF(inner, at) if force > 0.0 else QLineF(at, inner))
        if load.shear:
            for line, inward in ((right, QPointF(-7.0, 0.0)), (far, QPointF(0.0, 7.0))):
                self._arrow(self._middle(line.translated(inward), load.shear < 0.0))
            for line, inward in ((left, QPointF(7.0, 0.0)), (near, QPointF(0.0, -7.0))):
                self._arrow(self._middle(line.translated(inward), load.shear > 0.0))
        for name, (start, end), at in (
            ("ends", ends, self.plan.center()),
            ("sides", sides, QPointF(self.plan.center().x(), self.plan.bottom() - longest - 16.0)),
            ("shear", (load.shear, load.shear), QPointF(self.plan.center().x(), self.plan.top() + 20.0)),
        ):
            if start or end:
                self._label(at, self._edge_words(name, start, end))

    def _edge_words(self, name: str, start: float, end: float) -> str:
        first, last = (quantity(abs(force), "line_load", self.units) for force in (start, end))
        size = first if start == end else f"{first} to {last}"
        if name == "shear":
            return f"shear {size}"
        way = "push" if start + end < 0.0 else "pull"
        return f"{name} {way} {size}"

    @staticmethod
    def _middle(line: QLineF, back: bool) -> QLineF:
        """The middle third of a line, or the same the other way."""
        middle = QLineF(line.pointAt(1.0 / 3.0), line.pointAt(2.0 / 3.0))
        return QLineF(middle.p2(), middle.p1()) if back else middle

    def _arrow(self, line: QLineF) -> None:
        if line.length() < 3.0:
            return
        self.painter.drawLine(line)
        back = (line.p1() - line.p2()) / line.length() * 5.0
        side = QPointF(-back.y(), back.x()) * 0.55
        self.painter.drawPolyline(QPolygonF([line.p2() + back + side, line.p2(), line.p2() + back - side]))

    def _paint_patch(self, load: PatchLoad, high: bool) -> None:
        """``high`` : its words higher by a line, so that those of two side by side do not meet."""
        box = patch_box(load, self.plan, self.scale)
        tint = QColor(self.theme.accent)
        tint.setAlpha(50)
        self.painter.fillRect(box, tint)
        self.painter.setPen(QPen(QColor(self.theme.accent), 1.0))
        hatch(self.painter, box, 60.0, 7.0)
        self.painter.setPen(QPen(QColor(self.theme.accent), 1.6))
        self.painter.setBrush(Qt.BrushStyle.NoBrush)
        self.painter.drawRect(box)
        face = "" if load.force >= 0.0 else " on face B"
        text = f"{load.what} {quantity(abs(load.force), 'force', self.units)}{face}"
        below = box.bottom() + 9.0
        above = box.top() - 9.0
        place = below if below < self.plan.bottom() - 6.0 else above
        if high:
            place += QFontMetricsF(font("small")).height() * (1.0 if place == below else -1.0)
        self._label(QPointF(box.center().x(), place), text)

    def _label(self, middle: QPointF, text: str) -> None:
        """Text on a plate of the background, kept inside the picture."""
        chosen: QFont = font("small")
        metrics = QFontMetricsF(chosen)
        width, height = metrics.horizontalAdvance(text) + 6.0, metrics.height()
        left = max(2.0, min(middle.x() - width / 2.0, self.width - width - 2.0))
        box = QRectF(left, middle.y() - height / 2.0, width, height)
        plate = QColor(self.theme.raised)
        plate.setAlpha(225)
        self.painter.fillRect(box, plate)
        self.painter.setFont(chosen)
        self.painter.setPen(QColor(self.theme.ink))
        self.painter.drawText(box, int(Qt.AlignmentFlag.AlignCenter), text)
