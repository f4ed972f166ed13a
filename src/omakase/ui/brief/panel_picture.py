"""The live picture of the panel in plan: size, supports in words and marks, and the loads of one case."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QFont, QFontMetricsF, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from omakase.core.errors import PanelError
from omakase.core.members.panel_given import Bolt
from omakase.evaluate.members.panel import EDGE_SHORT, is_round
from omakase.evaluate.results.wording import quantity
from omakase.project import edits
from omakase.project.commands import replace
from omakase.project.model import Brief, EdgeLoad, LoadCase, OwnWeight, PatchLoad, PressureLoad
from omakase.project.spans import PanelForm, Zone
from omakase.project.translate import held_of
from omakase.ui.details.marks import marked, paint_details
from omakase.ui.kit.telling import TellingPainter
from omakase.ui.kit.theme import Theme, font
from omakase.ui.lineup.section_picture import hatch
from omakase.ui.session import Session

EDGE_ARROWS = 5
SNAP = {"si": 0.001, "inch_pound": 0.0254 / 16.0}


class PanelPicture(QWidget):
    """Length to the right, width upward, seen on face A.  Patches of the shown case can be dragged."""

    case_shown = pyqtSignal(str)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self._dragged: tuple[int, QPointF] | None = None
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)  # paints all of itself
        self.setAccessibleName("Picture of the panel with its supports and loads")
        self.setToolTip("Drag a patch to move it; click beside it to see the next load case.")
        self.setMouseTracking(True)
        self.setMinimumHeight(150)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self._shown: object = None
        session.brief_changed.connect(self._refresh)
        session.looked_at.connect(self.update)
        session.chosen_changed.connect(self._refresh)
        session.results_changed.connect(self._refresh)

    def sizeHint(self) -> QSize:
        return QSize(280, 230)

    def _refresh(self) -> None:
        """Paints anew when the panel, loads, the candidate's zones and details or the units are other than shown."""
        brief = self.session.brief
        shown = brief and (
            brief.id, brief.member, brief.load_cases, self.session.units, self._zones(), self._form(),
            marked(self.session),
        )  # fmt: skip
        if shown != self._shown:
            self._shown = shown
            self.update()

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.update()

    # --- geometry -------------------------------------------------------------------------------------------

    def plan(self) -> tuple[QRectF, float]:
        """The panel's rectangle on the screen and the scale, px per m."""
        brief = self.session.brief
        em = float(self.fontMetrics().height())
        room = QRectF(self.rect()).adjusted(2.2 * em, 2.8 * em, -2.2 * em, -3.1 * em)
        if brief is None or brief.member.length <= 0.0 or brief.member.width <= 0.0:
            return room, 0.0
        scale = max(0.0, min(room.width() / brief.member.length, room.height() / brief.member.width))
        width, height = brief.member.length * scale, brief.member.width * scale
        return QRectF(room.center().x() - width / 2, room.center().y() - height / 2, width, height), scale

    def _patch_box(self, load: PatchLoad, plan: QRectF, scale: float) -> QRectF:
        return QRectF(
            plan.left() + (load.x - load.along_x / 2) * scale,
            plan.bottom() - (load.y + load.along_y / 2) * scale,
            load.along_x * scale,
            load.along_y * scale,
        )

    def patch_at(self, point: QPointF) -> int:
        """Index, in the shown case, of the patch under a point; −1 for none."""
        plan, scale = self.plan()
        case = self.session.load_case
        for i, load in enumerate(case.loads if case else ()):
            if isinstance(load, PatchLoad) and self._patch_box(load, plan, scale).contains(point):
                return i
        return -1

    def _form(self) -> PanelForm | None:
        candidate = self.session.candidate
        form = candidate.form if candidate is not None else None
        return form if isinstance(form, PanelForm) else None

    def _zones(self) -> tuple[Zone, ...]:
        candidate = self.session.candidate
        return candidate.zones if candidate is not None else ()

    # --- painting -------------------------------------------------------------------------------------------

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = TellingPainter(self)
        painter.fillRect(self.rect(), QColor(self.theme.panel))
        brief = self.session.brief
        plan, scale = self.plan()
        if brief is None or scale <= 0.0:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillPath(self._outline(brief, plan), QColor(self.theme.raised))
        case = self.session.load_case
        self._paint_zones(painter, plan, scale)
        if case is not None:
            self._paint_case(painter, case, plan, scale)
        painter.setPen(QPen(QColor(self.theme.ink), 1.2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(self._outline(brief, plan))
        self._paint_edges(painter, brief, plan)
        self._paint_held(painter, brief, plan, scale)
        self._paint_ribs(painter, plan, scale)
        self._paint_sizes(painter, brief, plan)
        paint_details(
            painter, self.theme, self.session,
            lambda own: QPointF(plan.left() + own.x * scale, plan.bottom() - own.y * scale),
        )  # fmt: skip
        if case is not None:
            self._caption(painter, brief, case)

    @staticmethod
    def _outline(brief: Brief, plan: QRectF) -> QPainterPath:
        path = QPainterPath()
        if is_round(brief):
            path.addEllipse(plan)
        else:
            path.addRect(plan)
        return path

    def _paint_zones(self, painter: QPainter, plan: QRectF, scale: float) -> None:
        """The chosen candidate's zones: tinted, with their names in a corner."""
        tint = QColor(self.theme.quiet)
        tint.setAlpha(38)
        painter.setFont(font("small"))
        em = float(painter.fontMetrics().height())
        for zone in self._zones():
            if zone.rim is not None:
                wide = zone.rim * scale
                outside = QPainterPath()
                outside.addRect(plan)
                outside.addRect(plan.adjusted(wide, wide, -wide, -wide))  # odd-even: a frame
                painter.fillPath(outside, tint)
                box = plan.adjusted(wide, wide, -wide, -wide)
            else:
                near, far = zone.near or 0.0, plan.height() / scale if zone.far is None else zone.far
                box = QRectF(
                    plan.left() + zone.low * scale, plan.bottom() - far * scale, (zone.high - zone.low) * scale,
                    (far - near) * scale,
                )  # fmt: skip
                painter.fillRect(box, QColor(self.theme.panel) if zone.opening else tint)
            style = Qt.PenStyle.SolidLine if zone.opening else Qt.PenStyle.DashLine
            painter.setPen(QPen(QColor(self.theme.quiet), 1.0, style))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(box)
            painter.setPen(QColor(self.theme.quiet))
            top = box.top() + 1.0 if zone.rim is not None or box.bottom() + em > plan.bottom() else box.bottom()
            if zone.rim is None and top != box.bottom():
                top = box.top() - em
            painter.drawText(QRectF(box.left() + 2.0, top, 160.0, em), 0, zone.name)

    def _caption(self, painter: QPainter, brief: Brief, case: LoadCase) -> None:
        em = self.fontMetrics().height()
        others = (
            f"  ({brief.load_cases.index(case) + 1} of {len(brief.load_cases)})" if len(brief.load_cases) > 1 else ""
        )
        weights = "".join(f" · own weight × {load.g:g}" for load in case.loads if isinstance(load, OwnWeight))
        painter.setFont(font("normal", bold=True))
        painter.setPen(QColor(self.theme.ink))
        text = painter.fontMetrics().elidedText(
            case.name + others + weights, Qt.TextElideMode.ElideRight, self.width() - 12
        )
        painter.drawText(QPointF(8, 2 + em * 0.9), text)

    def _paint_case(self, painter: QPainter, case: LoadCase, plan: QRectF, scale: float) -> None:
        for load in case.loads:
            if isinstance(load, PressureLoad):
                painter.save()
                brief = self.session.brief
                if brief is not None:
                    painter.setClipPath(self._outline(brief, plan))
                self._paint_pressure(painter, load, plan)
                painter.restore()
                self._pressure_label(painter, load, plan)
        for k, load in enumerate(case.loads):
            if isinstance(load, PatchLoad):
                self._paint_patch(painter, load, plan, scale, k % 2 == 1)
            elif isinstance(load, EdgeLoad):
                self._paint_edge_load(painter, load, plan)

    def _paint_pressure(self, painter: QPainter, load: PressureLoad, plan: QRectF) -> None:
        """A field of small chevrons; they point down for face A, up for face B."""
        colour = QColor(self.theme.accent)
        colour.setAlpha(110)
        painter.setPen(QPen(colour, 1.3))
        direction = 1.0 if load.pressure >= 0.0 else -1.0
        step = 22.0
        y = plan.top() + step / 2
        while y < plan.bottom() - 4:
            x = plan.left() + step / 2
            while x < plan.right() - 4:
                painter.drawPolyline(
                    QPolygonF([QPointF(x - 3.5, y - 2 * direction), QPointF(x, y + 2 * direction),
                               QPointF(x + 3.5, y - 2 * direction)])
                )  # fmt: skip
                x += step
            y += step

    def _pressure_label(self, painter: QPainter, load: PressureLoad, plan: QRectF) -> None:
        text = quantity(abs(load.pressure), "pressure", self.session.units) + (
            "" if load.pressure >= 0.0 else " on face B"
        )
        brief = self.session.brief
        down = 0.16 * plan.height() if brief is not None and is_round(brief) else 0.0
        self._label(painter, QPointF(plan.center().x(), plan.top() + 12.0 + down), text)

    def _paint_edge_load(self, painter: QPainter, load: EdgeLoad, plan: QRectF) -> None:
        """Arrows just inside the edges, as long as the force there; shear by one arrow along each edge."""
        painter.setPen(QPen(QColor(self.theme.accent), 1.6))
        ends = load.ends, load.ends if load.ends_far is None else load.ends_far
        sides = load.sides, load.sides if load.sides_far is None else load.sides_far
        largest = max(abs(force) for force in (*ends, *sides, load.shear))
        if largest == 0.0:
            return
        longest = min(40.0, min(plan.width(), plan.height()) / 4.0)
        near, far = QLineF(plan.bottomLeft(), plan.bottomRight()), QLineF(plan.topLeft(), plan.topRight())
        left, right = QLineF(plan.bottomLeft(), plan.topLeft()), QLineF(plan.bottomRight(), plan.topRight())
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
                self._arrow(painter, QLineF(inner, at) if force > 0.0 else QLineF(at, inner))
        if load.shear:
            for line, inward in ((right, QPointF(-7.0, 0.0)), (far, QPointF(0.0, 7.0))):
                self._arrow(painter, self._middle(line.translated(inward), load.shear < 0.0))
            for line, inward in ((left, QPointF(7.0, 0.0)), (near, QPointF(0.0, -7.0))):
                self._arrow(painter, self._middle(line.translated(inward), load.shear > 0.0))
        for name, (start, end), at in (
            ("ends", ends, plan.center()),
            ("sides", sides, QPointF(plan.center().x(), plan.bottom() - longest - 16.0)),
            ("shear", (load.shear, load.shear), QPointF(plan.center().x(), plan.top() + 20.0)),
        ):
            if start or end:
                self._label(painter, at, self._edge_words(name, start, end))

    def _edge_words(self, name: str, start: float, end: float) -> str:
        first, last = (quantity(abs(force), "line_load", self.session.units) for force in (start, end))
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

    @staticmethod
    def _arrow(painter: QPainter, line: QLineF) -> None:
        if line.length() < 3.0:
            return
        painter.drawLine(line)
        back = (line.p1() - line.p2()) / line.length() * 5.0
        side = QPointF(-back.y(), back.x()) * 0.55
        painter.drawPolyline(QPolygonF([line.p2() + back + side, line.p2(), line.p2() + back - side]))

    def _paint_patch(self, painter: QPainter, load: PatchLoad, plan: QRectF, scale: float, high: bool) -> None:
        """``high`` : its words higher by a line, so that those of two side by side do not meet."""
        box = self._patch_box(load, plan, scale)
        tint = QColor(self.theme.accent)
        tint.setAlpha(50)
        painter.fillRect(box, tint)
        painter.setPen(QPen(QColor(self.theme.accent), 1.0))
        hatch(painter, box, 60.0, 7.0)
        painter.setPen(QPen(QColor(self.theme.accent), 1.6))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box)
        face = "" if load.force >= 0.0 else " on face B"
        text = f"{load.what} {quantity(abs(load.force), 'force', self.session.units)}{face}"
        below = box.bottom() + 9.0
        above = box.top() - 9.0
        place = below if below < plan.bottom() - 6.0 else above
        if high:
            place += QFontMetricsF(font("small")).height() * (1.0 if place == below else -1.0)
        self._label(painter, QPointF(box.center().x(), place), text)

    def _label(self, painter: QPainter, middle: QPointF, text: str) -> None:
        """Text on a plate of the background, kept inside the picture."""
        chosen: QFont = font("small")
        metrics = QFontMetricsF(chosen)
        width, height = metrics.horizontalAdvance(text) + 6.0, metrics.height()
        left = max(2.0, min(middle.x() - width / 2.0, self.width() - width - 2.0))
        box = QRectF(left, middle.y() - height / 2.0, width, height)
        plate = QColor(self.theme.raised)
        plate.setAlpha(225)
        painter.fillRect(box, plate)
        painter.setFont(chosen)
        painter.setPen(QColor(self.theme.ink))
        painter.drawText(box, int(Qt.AlignmentFlag.AlignCenter), text)

    def _paint_edges(self, painter: QPainter, brief: Brief, plan: QRectF) -> None:
        supports = brief.member.supports
        out = 5.0
        if is_round(brief):
            self._round_edge(painter, plan, out, supports.x0)
            return
        edges = {
            "x0": (QLineF(plan.topLeft(), plan.bottomLeft()), QPointF(-out, 0.0), supports.x0),
            "x1": (QLineF(plan.topRight(), plan.bottomRight()), QPointF(out, 0.0), supports.x1),
            "y0": (QLineF(plan.bottomLeft(), plan.bottomRight()), QPointF(0.0, out), supports.y0),
            "y1": (QLineF(plan.topLeft(), plan.topRight()), QPointF(0.0, -out), supports.y1),
        }
        for line, outward, edge in edges.values():
            self._edge_mark(painter, line, outward, edge)
            self._edge_word(painter, line, outward, EDGE_SHORT[edge])

    def _edge_mark(self, painter: QPainter, line: QLineF, outward: QPointF, edge: str) -> None:
        """Clamped: a solid bar; simple: a row of dots as of fasteners; resting: a second line; elastic: a
        zigzag; free: nothing."""
        ink = QColor(self.theme.ink)
        if edge == "clamped":
            painter.setPen(QPen(ink, 5.0, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
            painter.drawLine(line.translated(outward * 0.7))
        elif edge == "simple":
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(ink)
            count = max(2, int(line.length() / 18.0))
            for i in range(count + 1):
                painter.drawEllipse(line.pointAt(i / count) + outward * 0.9, 1.9, 1.9)
        elif edge == "resting":
            painter.setPen(QPen(ink, 1.2))
            painter.drawLine(line.translated(outward * 0.8))
        elif edge == "elastic":
            painter.setPen(QPen(ink, 1.0))
            count = max(8, int(line.length() / 5.0))
            points = [line.pointAt(i / count) + outward * (0.4 if i % 2 else 1.1) for i in range(count + 1)]
            painter.drawPolyline(QPolygonF(points))

    def _round_edge(self, painter: QPainter, plan: QRectF, out: float, edge: str) -> None:
        """The same marks all round, and the word below."""
        steps = np.linspace(0.0, 2.0 * np.pi, 97)

        def ring(off: float) -> list[QPointF]:
            half = plan.width() / 2.0 + off, plan.height() / 2.0 + off
            return [plan.center() + QPointF(half[0] * np.cos(t), half[1] * np.sin(t)) for t in steps]

        ink = QColor(self.theme.ink)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if edge == "clamped":
            painter.setPen(QPen(ink, 5.0))
            painter.drawPolyline(QPolygonF(ring(out * 0.7)))
        elif edge == "simple":
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(ink)
            for point in ring(out * 0.9)[::2]:
                painter.drawEllipse(point, 1.9, 1.9)
        elif edge == "resting":
            painter.setPen(QPen(ink, 1.2))
            painter.drawPolyline(QPolygonF(ring(out * 0.8)))
        elif edge == "elastic":
            painter.setPen(QPen(ink, 1.0))
            inner, outer = ring(out * 0.4), ring(out * 1.1)
            painter.drawPolyline(QPolygonF([(outer if k % 2 else inner)[k] for k in range(len(steps))]))
        below = QLineF(plan.bottomLeft(), plan.bottomRight())
        self._edge_word(painter, below, QPointF(0.0, out), EDGE_SHORT[edge])

    def _edge_word(self, painter: QPainter, line: QLineF, outward: QPointF, word: str) -> None:
        painter.save()
        painter.setFont(font("small"))
        painter.setPen(QColor(self.theme.quiet))
        em = painter.fontMetrics().height()
        painter.translate(line.center() + outward * (1.0 + 0.5 * em / 5.0 + 0.6))
        if abs(outward.x()) > 0.0:
            painter.rotate(-90.0)
        painter.drawText(QRectF(-60.0, -em / 2.0, 120.0, em), int(Qt.AlignmentFlag.AlignCenter), word)
        painter.restore()

    def _paint_held(self, painter: QPainter, brief: Brief, plan: QRectF, scale: float) -> None:
        """Bolts as rings of their washers' size, lines of support as double lines, a bed as rows of strokes."""
        ink, supports = QColor(self.theme.ink), brief.member.supports
        if supports.bed:
            painter.save()
            painter.setClipPath(self._outline(brief, plan))
            painter.setPen(QPen(QColor(self.theme.quiet), 0.8))
            hatch(painter, plan, 45.0, 26.0)
            painter.restore()
        painter.setPen(QPen(ink, 1.1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for line in () if is_round(brief) else supports.lines:
            at = plan.bottom() - line.place * scale if line.along else plan.left() + line.place * scale
            for off in (-1.8, 1.8):
                if line.along:
                    painter.drawLine(QPointF(plan.left(), at + off), QPointF(plan.right(), at + off))
                else:
                    painter.drawLine(QPointF(at + off, plan.top()), QPointF(at + off, plan.bottom()))
        for bolt in self._bolts(brief):
            centre = QPointF(plan.left() + bolt.x * scale, plan.bottom() - bolt.y * scale)
            radius = max(2.5, bolt.washer * scale / 2.0)
            painter.setBrush(QColor(self.theme.raised))
            painter.drawEllipse(centre, radius, radius)
            painter.setBrush(ink)
            inner = radius * 0.45
            painter.drawEllipse(centre, inner, inner)
            if bolt.in_plane:  # a cross through those that hold the plane
                painter.drawLine(centre - QPointF(radius, 0.0), centre + QPointF(radius, 0.0))
                painter.drawLine(centre - QPointF(0.0, radius), centre + QPointF(0.0, radius))
        painter.setBrush(Qt.BrushStyle.NoBrush)

    @staticmethod
    def _bolts(brief: Brief) -> tuple[Bolt, ...]:
        """Those whose rows or circle make sense; none while one does not."""
        try:
            return held_of(brief.member).bolts
        except PanelError:
            return ()

    def _paint_ribs(self, painter: QPainter, plan: QRectF, scale: float) -> None:
        """The chosen candidate's ribs as bands of their foot's width, dashed where they lie on face B."""
        form = self._form()
        if form is None:
            return
        tint = QColor(self.theme.ink)
        tint.setAlpha(34)
        painter.setFont(font("small"))
        for number, rib in enumerate(form.ribs, 1):
            reach = (plan.width() if rib.along else plan.height()) / scale
            low, high = rib.low, reach if rib.high is None else rib.high
            foot = 2.0 * rib.foot if rib.outline != "strip" else 0.0
            wide = max(foot + (rib.width if rib.outline not in ("blade", "tee") else 0.0), 2.0 / scale)
            if rib.along:
                box = QRectF(plan.left() + low * scale, plan.bottom() - (rib.place + wide / 2.0) * scale,
                             (high - low) * scale, wide * scale)  # fmt: skip
            else:
                box = QRectF(plan.left() + (rib.place - wide / 2.0) * scale, plan.bottom() - high * scale,
                             wide * scale, (high - low) * scale)  # fmt: skip
            painter.fillRect(box, tint)
            style = Qt.PenStyle.DashLine if rib.face == "face_b" else Qt.PenStyle.SolidLine
            painter.setPen(QPen(QColor(self.theme.ink), 1.0, style))
            painter.drawRect(box)
            painter.setPen(QColor(self.theme.quiet))
            # beside the band, away from its end, where bolts are
            beside = QPointF(0.06 * box.width(), -2.0) if rib.along else QPointF(box.width() + 3.0, 0.2 * box.height())
            painter.drawText(box.topLeft() + beside, f"rib {number}")

    def _paint_sizes(self, painter: QPainter, brief: Brief, plan: QRectF) -> None:
        units, em = self.session.units, float(self.fontMetrics().height())
        painter.setFont(font("small"))
        painter.setPen(QColor(self.theme.quiet))
        length, width = (quantity(size, "length", units) for size in (brief.member.length, brief.member.width))
        text = f"x → {length}     y ↑ {width}"
        box = QRectF(0.0, self.height() - 1.2 * em, self.width(), em)
        painter.drawText(box, int(Qt.AlignmentFlag.AlignCenter), text)

    # --- input ----------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        brief, case = self.session.brief, self.session.load_case
        if event is None or brief is None or case is None:
            return
        index = self.patch_at(event.position())
        if index < 0:
            following = brief.load_cases[(brief.load_cases.index(case) + 1) % len(brief.load_cases)]
            self.session.look_at_case(following.id)
            return
        load = case.loads[index]
        assert isinstance(load, PatchLoad)
        plan, scale = self.plan()
        centre = QPointF(plan.left() + load.x * scale, plan.bottom() - load.y * scale)
        self._dragged = (index, event.position() - centre)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if self._dragged is None:
            over = self.patch_at(event.position()) >= 0
            self.setCursor(Qt.CursorShape.SizeAllCursor if over else Qt.CursorShape.ArrowCursor)
            return
        brief, case = self.session.brief, self.session.load_case
        index, offset = self._dragged
        load = case.loads[index] if case and index < len(case.loads) else None
        plan, scale = self.plan()
        if brief is None or case is None or not isinstance(load, PatchLoad) or not scale:
            return
        snap = SNAP[self.session.units]
        point = event.position() - offset
        x = round((point.x() - plan.left()) / scale / snap) * snap
        y = round((plan.bottom() - point.y()) / scale / snap) * snap
        x = max(load.along_x / 2, min(x, brief.member.length - load.along_x / 2))
        y = max(load.along_y / 2, min(y, brief.member.width - load.along_y / 2))
        moved = replace(load, x=round(x, 9), y=round(y, 9))
        self.session.edit_brief(
            edits.set_load(brief, case.id, index, moved), f"move the {load.what}", f"drag {case.id} {index}"
        )

    def mouseReleaseEvent(self, _event: QMouseEvent | None) -> None:
        if self._dragged is not None:
            self._dragged = None
            self.session.document.end_merging()
