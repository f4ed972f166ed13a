"""What holds a panel, and what the chosen candidate has on it, in plan."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainterPath, QPen, QPolygonF

from omakase.core.errors import PanelError
from omakase.core.members.panel_given import Bolt
from omakase.evaluate.members.panel import EDGE_SHORT, is_round
from omakase.project.spans import PanelForm, Zone
from omakase.project.translate import held_of
from omakase.ui.brief.plan_painter import PlanPainter
from omakase.ui.kit.theme import font
from omakase.ui.lineup.section_picture import hatch


class PlanParts(PlanPainter):
    """Edges in marks and words, bolts, lines of support and a bed; zones and ribs."""

    def paint_edges(self) -> None:
        """How each edge is held."""
        supports = self.brief.member.supports
        out = 5.0
        if is_round(self.brief):
            self._round_edge(out, supports.x0)
            return
        edges = {
            "x0": (QLineF(self.plan.topLeft(), self.plan.bottomLeft()), QPointF(-out, 0.0), supports.x0),
            "x1": (QLineF(self.plan.topRight(), self.plan.bottomRight()), QPointF(out, 0.0), supports.x1),
            "y0": (QLineF(self.plan.bottomLeft(), self.plan.bottomRight()), QPointF(0.0, out), supports.y0),
            "y1": (QLineF(self.plan.topLeft(), self.plan.topRight()), QPointF(0.0, -out), supports.y1),
        }
        for line, outward, edge in edges.values():
            self._edge_mark(line, outward, edge)
            self._edge_word(line, outward, EDGE_SHORT[edge])

    def _edge_mark(self, line: QLineF, outward: QPointF, edge: str) -> None:
        """Clamped: a solid bar; simple: a row of dots as of fasteners; resting: a second line; elastic: a
        zigzag; free: nothing."""
        ink = QColor(self.theme.ink)
        if edge == "clamped":
            self.painter.setPen(QPen(ink, 5.0, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
            self.painter.drawLine(line.translated(outward * 0.7))
        elif edge == "simple":
            self.painter.setPen(Qt.PenStyle.NoPen)
            self.painter.setBrush(ink)
            count = max(2, int(line.length() / 18.0))
            for i in range(count + 1):
                self.painter.drawEllipse(line.pointAt(i / count) + outward * 0.9, 1.9, 1.9)
        elif edge == "resting":
            self.painter.setPen(QPen(ink, 1.2))
            self.painter.drawLine(line.translated(outward * 0.8))
        elif edge == "elastic":
            self.painter.setPen(QPen(ink, 1.0))
            count = max(8, int(line.length() / 5.0))
            points = [line.pointAt(i / count) + outward * (0.4 if i % 2 else 1.1) for i in range(count + 1)]
            self.painter.drawPolyline(QPolygonF(points))

    def _round_edge(self, out: float, edge: str) -> None:
        """The same marks all round, and the word below."""
        steps = np.linspace(0.0, 2.0 * np.pi, 97)

        def ring(off: float) -> list[QPointF]:
            half = self.plan.width() / 2.0 + off, self.plan.height() / 2.0 + off
            return [self.plan.center() + QPointF(half[0] * np.cos(t), half[1] * np.sin(t)) for t in steps]

        ink = QColor(self.theme.ink)
        self.painter.setBrush(Qt.BrushStyle.NoBrush)
        if edge == "clamped":
            self.painter.setPen(QPen(ink, 5.0))
            self.painter.drawPolyline(QPolygonF(ring(out * 0.7)))
        elif edge == "simple":
            self.painter.setPen(Qt.PenStyle.NoPen)
            self.painter.setBrush(ink)
            for point in ring(out * 0.9)[::2]:
                self.painter.drawEllipse(point, 1.9, 1.9)
        elif edge == "resting":
            self.painter.setPen(QPen(ink, 1.2))
            self.painter.drawPolyline(QPolygonF(ring(out * 0.8)))
        elif edge == "elastic":
            self.painter.setPen(QPen(ink, 1.0))
            inner, outer = ring(out * 0.4), ring(out * 1.1)
            self.painter.drawPolyline(QPolygonF([(outer if k % 2 else inner)[k] for k in range(len(steps))]))
        below = QLineF(self.plan.bottomLeft(), self.plan.bottomRight())
        self._edge_word(below, QPointF(0.0, out), EDGE_SHORT[edge])

    def _edge_word(self, line: QLineF, outward: QPointF, word: str) -> None:
        self.painter.save()
        self.painter.setFont(font("small"))
        self.painter.setPen(QColor(self.theme.quiet))
        em = self.painter.fontMetrics().height()
        self.painter.translate(line.center() + outward * (1.0 + 0.5 * em / 5.0 + 0.6))
        if abs(outward.x()) > 0.0:
            self.painter.rotate(-90.0)
        self.painter.drawText(QRectF(-60.0, -em / 2.0, 120.0, em), int(Qt.AlignmentFlag.AlignCenter), word)
        self.painter.restore()

    def paint_held(self) -> None:
        """Bolts as rings of their washers' size, lines of support as double lines, a bed as rows of strokes."""
        ink, supports = QColor(self.theme.ink), self.brief.member.supports
        if supports.bed:
            self.painter.save()
            self.painter.setClipPath(self.outline())
            self.painter.setPen(QPen(QColor(self.theme.quiet), 0.8))
            hatch(self.painter, self.plan, 45.0, 26.0)
            self.painter.restore()
        self.painter.setPen(QPen(ink, 1.1))
        self.painter.setBrush(Qt.BrushStyle.NoBrush)
        for line in () if is_round(self.brief) else supports.lines:
            at = (
                self.plan.bottom() - line.place * self.scale
                if line.along
                else self.plan.left() + line.place * self.scale
            )
            for off in (-1.8, 1.8):
                if line.along:
                    self.painter.drawLine(QPointF(self.plan.left(), at + off), QPointF(self.plan.right(), at + off))
                else:
                    self.painter.drawLine(QPointF(at + off, self.plan.top()), QPointF(at + off, self.plan.bottom()))
        for bolt in self._bolts():
            centre = QPointF(self.plan.left() + bolt.x * self.scale, self.plan.bottom() - bolt.y * self.scale)
            radius = max(2.5, bolt.washer * self.scale / 2.0)
            self.painter.setBrush(QColor(self.theme.raised))
            self.painter.drawEllipse(centre, radius, radius)
            self.painter.setBrush(ink)
            inner = radius * 0.45
            self.painter.drawEllipse(centre, inner, inner)
            if bolt.in_plane:  # a cross through those that hold the plane
                self.painter.drawLine(centre - QPointF(radius, 0.0), centre + QPointF(radius, 0.0))
                self.painter.drawLine(centre - QPointF(0.0, radius), centre + QPointF(0.0, radius))
        self.painter.setBrush(Qt.BrushStyle.NoBrush)

    def _bolts(self) -> tuple[Bolt, ...]:
        """Those whose rows or circle make sense; none while one does not."""
        try:
            return held_of(self.brief.member).bolts
        except PanelError:
            return ()

    def paint_ribs(self, form: PanelForm) -> None:
        """The chosen candidate's ribs as bands of their foot's width, dashed where they lie on face B."""
        tint = QColor(self.theme.ink)
        tint.setAlpha(34)
        self.painter.setFont(font("small"))
        for number, rib in enumerate(form.ribs, 1):
            reach = (self.plan.width() if rib.along else self.plan.height()) / self.scale
            low, high = rib.low, reach if rib.high is None else rib.high
            foot = 2.0 * rib.foot if rib.outline != "strip" else 0.0
            wide = max(foot + (rib.width if rib.outline not in ("blade", "tee") else 0.0), 2.0 / self.scale)
            across = rib.place - wide / 2.0, rib.place + wide / 2.0
            box = self.rectangle(low, high, *across) if rib.along else self.rectangle(*across, low, high)
            self.painter.fillRect(box, tint)
            style = Qt.PenStyle.DashLine if rib.face == "face_b" else Qt.PenStyle.SolidLine
            self.painter.setPen(QPen(QColor(self.theme.ink), 1.0, style))
            self.painter.drawRect(box)
            self.painter.setPen(QColor(self.theme.quiet))
            # beside the band, away from its end, where bolts are
            beside = QPointF(0.06 * box.width(), -2.0) if rib.along else QPointF(box.width() + 3.0, 0.2 * box.height())
            self.painter.drawText(box.topLeft() + beside, f"rib {number}")

    def paint_zones(self, zones: Sequence[Zone]) -> None:
        """The chosen candidate's zones: tinted, with their names in a corner."""
        tint = QColor(self.theme.quiet)
        tint.setAlpha(38)
        self.painter.setFont(font("small"))
        em = float(self.painter.fontMetrics().height())
        for zone in zones:
            if zone.rim is not None:
                wide = zone.rim * self.scale
                outside = QPainterPath()
                outside.addRect(self.plan)
                outside.addRect(self.plan.adjusted(wide, wide, -wide, -wide))  # odd-even: a frame
                self.painter.fillPath(outside, tint)
                box = self.plan.adjusted(wide, wide, -wide, -wide)
            else:
                near, far = zone.near or 0.0, self.plan.height() / self.scale if zone.far is None else zone.far
                box = self.rectangle(zone.low, zone.high, near, far)
                self.painter.fillRect(box, QColor(self.theme.panel) if zone.opening else tint)
            style = Qt.PenStyle.SolidLine if zone.opening else Qt.PenStyle.DashLine
            self.painter.setPen(QPen(QColor(self.theme.quiet), 1.0, style))
            self.painter.setBrush(Qt.BrushStyle.NoBrush)
            self.painter.drawRect(box)
            self.painter.setPen(QColor(self.theme.quiet))
            top = box.top() + 1.0 if zone.rim is not None or box.bottom() + em > self.plan.bottom() else box.bottom()
            if zone.rim is None and top != box.bottom():
                top = box.top() - em
            self.painter.drawText(QRectF(box.left() + 2.0, top, 160.0, em), 0, zone.name)
