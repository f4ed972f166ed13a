"""The live picture of the panel in plan: size, supports in words and marks, and the loads of one case."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from omakase.evaluate.results.wording import quantity
from omakase.project import edits
from omakase.project.commands import replace
from omakase.project.model import Brief, LoadCase
from omakase.project.panels import OwnWeight, PatchLoad
from omakase.project.spans import PanelForm, Zone
from omakase.ui.brief.plan_loads import PlanLoads, patch_box
from omakase.ui.brief.plan_parts import PlanParts
from omakase.ui.details.marks import marked, paint_details
from omakase.ui.kit.telling import TellingPainter
from omakase.ui.kit.theme import Theme, font
from omakase.ui.session import Session

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

    def patch_at(self, point: QPointF) -> int:
        """Index, in the shown case, of the patch under a point; −1 for none."""
        plan, scale = self.plan()
        case = self.session.load_case
        for i, load in enumerate(case.loads if case else ()):
            if isinstance(load, PatchLoad) and patch_box(load, plan, scale).contains(point):
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
        common = painter, self.theme, brief, self.session.units, plan, scale, self.width()
        parts = PlanParts(*common)
        painter.fillPath(parts.outline(), QColor(self.theme.raised))
        case, form = self.session.load_case, self._form()
        parts.paint_zones(self._zones())
        if case is not None:
            PlanLoads(*common).paint(case)
        painter.setPen(QPen(QColor(self.theme.ink), 1.2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(parts.outline())
        parts.paint_edges()
        parts.paint_held()
        if form is not None:
            parts.paint_ribs(form)
        self._paint_sizes(painter, brief, plan)
        paint_details(
            painter, self.theme, self.session,
            lambda own: QPointF(plan.left() + own.x * scale, plan.bottom() - own.y * scale),
        )  # fmt: skip
        if case is not None:
            self._caption(painter, brief, case)

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
