"""The live picture of a member with a span: from the side, with supports, loads and what it carries."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QMouseEvent, QPaintEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from omakase.evaluate.members.drawing import Handle
from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.members.sentence import value_at, with_value
from omakase.ui.brief.panel_picture import SNAP
from omakase.ui.details.marks import marked, paint_details
from omakase.ui.kit.drawing_painter import DrawingPainter
from omakase.ui.kit.telling import TellingPainter
from omakase.ui.kit.theme import Theme, draw_elided, font, pen
from omakase.ui.session import Session

NEAR = 12.0  # px within which a handle is taken


class SpanPicture(QWidget):
    """Paints the plan of the brief's kind; supports, masses and loads are dragged along it."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self._dragged: Handle | None = None
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName("Picture of the member with its supports and loads")
        self.setToolTip("Drag a support, a load or a mass along it; click beside them to see the next load case.")
        self.setMouseTracking(True)
        self.setMinimumHeight(150)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self._shown: object = None
        session.looked_at.connect(self.update)
        for changed in (session.brief_changed, session.chosen_changed, session.results_changed):
            changed.connect(self._refresh)

    def _refresh(self) -> None:
        """Paints anew when the member, loads, forms, the candidate's details or the units are other than shown."""
        brief = self.session.brief
        shown = brief and (
            brief.id, brief.member, brief.load_cases, [own.form for own in brief.candidates], self.session.units,
            marked(self.session),
        )  # fmt: skip
        if shown != self._shown:
            self._shown = shown
            self.update()

    def sizeHint(self) -> QSize:
        return QSize(280, 230)

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.update()

    def painter_of_plan(self) -> DrawingPainter | None:
        """The plan fitted into the widget; None where the brief's kind has a picture of its own."""
        brief = self.session.brief
        if brief is None:
            return None
        plan = kind_of(brief).plan(brief, self.session.load_case, self.session.units)
        if plan is None:
            return None
        em = float(self.fontMetrics().height())
        return DrawingPainter(plan, QRectF(self.rect()).adjusted(10.0, 1.6 * em, -10.0, -0.5 * em), self.theme)

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = TellingPainter(self)
        painter.fillRect(self.rect(), QColor(self.theme.panel))
        plan, brief, case = self.painter_of_plan(), self.session.brief, self.session.load_case
        if plan is None or brief is None:
            return
        plan.paint(painter)
        paint_details(painter, self.theme, self.session, lambda own: plan.point((own.x, 0.0)))
        if case is not None:
            count = len(brief.load_cases)
            others = f"  ({brief.load_cases.index(case) + 1} of {count})" if count > 1 else ""
            painter.setFont(font("normal", bold=True))
            painter.setPen(pen(self.theme.ink))
            draw_elided(painter, QRectF(8, 2, self.width() - 12, 1.4 * self.fontMetrics().height()), 0,
                        case.name + others)  # fmt: skip

    def handle_at(self, point: QPointF) -> Handle | None:
        """The handle nearest to a point, if one is near."""
        plan = self.painter_of_plan()
        if plan is None:
            return None
        near = [
            (abs(plan.point(handle.at).x() - point.x()) + 0.3 * abs(plan.point(handle.at).y() - point.y()), handle)
            for handle in plan.drawing.handles
        ]
        other_name = min(near, key=lambda pair: pair[0], default=None)
        return other_name[1] if other_name is not None and other_name[0] < NEAR else None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        brief, case = self.session.brief, self.session.load_case
        if event is None or brief is None:
            return
        self._dragged = self.handle_at(event.position())
        if self._dragged is None and case is not None:
            following = brief.load_cases[(brief.load_cases.index(case) + 1) % len(brief.load_cases)]
            self.session.look_at_case(following.id)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if self._dragged is None:
            over = self.handle_at(event.position()) is not None
            self.setCursor(Qt.CursorShape.SizeHorCursor if over else Qt.CursorShape.ArrowCursor)
            return
        plan, brief = self.painter_of_plan(), self.session.brief
        if plan is None or brief is None:
            return
        snap = SNAP[self.session.units]
        x = round(plan.metres(event.position())[0] / snap) * snap
        x = round(max(self._dragged.low, min(x, self._dragged.high)), 9)
        if value_at(brief, self._dragged.path) != x:
            key = "drag " + ".".join(map(str, self._dragged.path))
            self.session.edit_brief(with_value(brief, self._dragged.path, x), "move it along", key)

    def mouseReleaseEvent(self, _event: QMouseEvent | None) -> None:
        if self._dragged is not None:
            self._dragged = None
            self.session.document.end_merging()
