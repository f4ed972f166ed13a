"""Deflection over the panel in bands, with the place where the chosen check governs; or shapes of vibration and
buckling."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QHideEvent, QImage, QMouseEvent, QPainter, QPaintEvent

from omakase.core.members.panel_case import CaseResponse
from omakase.core.members.panel_given import FULL
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.results.profile import Shape, case_index, deflection_map, shapes
from omakase.evaluate.results.wording import quantity, shape_text
from omakase.project.translate import openings
from omakase.ui.kit.picture import Picture
from omakase.ui.kit.theme import Theme, draw_elided, elided, font, pen
from omakase.ui.session import Session

BANDS = 9


@lru_cache(maxsize=4)
def band_colours(theme: Theme) -> np.ndarray:
    """(BANDS, 3) RGB from rest to the largest deflection; even steps, so that grey print keeps their order."""
    low, high = QColor(theme.low), QColor(theme.high)
    share = np.linspace(0.0, 1.0, BANDS)[:, None]
    first = np.array([low.red(), low.green(), low.blue()])
    last = np.array([high.red(), high.green(), high.blue()])
    return np.round(first + share * (last - first)).astype(np.uint8)


@lru_cache(maxsize=4)
def _band_pixels(theme: Theme) -> np.ndarray:
    """Opaque pixels (2 · BANDS + 1,) as 0xAARRGGBB: the bands, the same darker, and one that is seen through."""
    colours = band_colours(theme).astype(np.uint32)
    both = np.concatenate([colours, (0.82 * colours).astype(np.uint32)])
    return np.append(0xFF000000 + (both[:, 0] << 16) + (both[:, 1] << 8) + both[:, 2], 0).astype(np.uint32)


def _image(pixels: np.ndarray) -> QImage:
    rows, columns = pixels.shape
    made = QImage(pixels.tobytes(), columns, rows, 4 * columns, QImage.Format.Format_ARGB32_Premultiplied)
    return made.copy()  # that owns its pixels


@lru_cache(maxsize=4)
def band_strip(theme: Theme) -> QImage:
    """The bands side by side, a pixel each, for a legend."""
    return _image(_band_pixels(theme)[None, :BANDS])


def band_image(deflection: np.ndarray, theme: Theme) -> QImage:
    """An image, a pixel per value of (columns, rows), y upward, see-through where there is none; lines darken where one
    band meets the next."""
    size = np.abs(deflection.T[::-1])
    outside = np.isnan(size)
    if outside.any():
        size = np.where(outside, 0.0, size)
    largest = float(size.max())
    band = np.zeros(size.shape, np.uint8)
    if largest > 0.0:
        band = np.minimum(size * (BANDS / largest), BANDS - 1).astype(np.uint8)
    index = band.copy()
    border = np.zeros(size.shape, bool)
    border[:, 1:] |= band[:, 1:] != band[:, :-1]
    border[1:, :] |= band[1:, :] != band[:-1, :]
    index[border] += BANDS
    index[outside] = 2 * BANDS  # beyond a round panel
    return _image(_band_pixels(theme)[index])


class FieldPicture(Picture):
    """Paints the deflection of the load case of the session's chosen check; for frequencies and buckling the shape, the
    next one at a click."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(session, theme, "Deflection over the panel")
        self._image: QImage | None = None
        self._image_of: tuple[object, ...] = ()
        self._turn = 0  # how many shapes on from the one the check is about
        self._turned: tuple[object, ...] = ()
        self._last: Shape | None = None

    def sizeHint(self) -> QSize:
        return QSize(280, 180)

    def set_theme(self, theme: Theme) -> None:
        self._image_of = ()
        super().set_theme(theme)

    def hideEvent(self, event: QHideEvent | None) -> None:
        self._image, self._image_of = None, ()  # it holds a response
        super().hideEvent(event)

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = self.begin()
        result = self.session.result
        em = float(self.fontMetrics().height())
        measured = result is not None and result.is_measured
        if result is None or not result.ok or result.response is None or measured or not result.response.cases:
            self.say(painter, "no deflection to show")
            return
        check = self.session.check
        index = case_index(result, check.case_id if check else "")
        case, panel = result.response.cases[index], result.response.panel
        shape = self._shape(result)
        room = QRectF(self.rect()).adjusted(8, 1.5 * em, -8, -1.4 * em)
        scale = min(room.width() / panel.length, room.height() / panel.width)
        if scale <= 0.0:
            return
        size = (panel.length * scale, panel.width * scale)
        plan = QRectF(room.left() + (room.width() - size[0]) / 2, room.top() + (room.height() - size[1]) / 2, *size)
        painter.drawImage(plan, self._bands(result, index, shape, plan))
        painter.setPen(pen(self.theme.ink, 1.0))
        if panel.outline == "round":
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.drawEllipse(plan)
        else:
            painter.drawRect(plan)
        for open_ in openings(result.candidate, panel.length, panel.width):
            box = QRectF(plan.left() + open_.low_x * scale, plan.bottom() - open_.high_y * scale,
                         (open_.high_x - open_.low_x) * scale, (open_.high_y - open_.low_y) * scale)  # fmt: skip
            painter.fillRect(box, QColor(self.theme.panel))
            painter.drawRect(box)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if shape is not None:
            self._title(painter, shape_text(result, shape, self.session.units), em)
            return
        self._paint_patches(painter, case, plan, scale)
        if result.accuracy == FULL:
            self._paint_reactions(painter, case, plan, scale)
        largest, x, y = case.largest_deflection
        self._mark(painter, QPointF(plan.left() + x * scale, plan.bottom() - y * scale), "○")
        if check is not None and check.place.x is not None and check.place.y is not None:
            place = QPointF(plan.left() + check.place.x * scale, plan.bottom() - check.place.y * scale)
            self._mark(painter, place, "+")
        size_text = quantity(largest, "deflection", self.session.units)
        self._title(painter, f"Deflection, {case.case.name}: {size_text} at ○", em)
        self._paint_legend(painter, largest, em, check.title.lower() if check else "")

    def _shape(self, result: CandidateResult) -> Shape | None:
        """The shape to show, or None for the deflection."""
        turns, known = self._turns(), shapes(result, self.session.check)
        if known:
            self._last = known[turns % len(known)]
        elif result.accuracy == FULL:
            self._last = None
        return self._last  # a quick result has none: the one before stays until the full one is there

    def _turns(self) -> int:
        """How far it was turned on by clicks since the candidate and the check were chosen."""
        check = self.session.check
        of = self.session.candidate_id, check.key if check is not None else None
        if of != self._turned:
            self._turned, self._turn, self._last = of, 0, None
        return self._turn

    def mousePressEvent(self, _event: QMouseEvent | None) -> None:
        self._turn = self._turns() + 1
        self.update()

    def _title(self, painter: QPainter, text: str, em: float) -> None:
        room = self.width() - 12
        painter.setPen(pen(self.theme.ink))
        text = elided(painter.font(), text, room, Qt.TextElideMode.ElideMiddle)
        draw_elided(painter, QRectF(8, 2, room, em), 0, text)

    def _bands(self, result: CandidateResult, index: int, shape: Shape | None, plan: QRectF) -> QImage:
        columns, rows = max(2, int(plan.width())), max(2, int(plan.height()))
        wanted = (result.response, index, columns, rows, self.theme.name, shape and shape.solution)
        if self._image is None or self._image_of != wanted:
            values = deflection_map(result, index, columns, rows) if shape is None else shape.map(columns, rows)
            self._image = band_image(values, self.theme)
            self._image_of = wanted
        return self._image

    def _paint_patches(self, painter: QPainter, case: CaseResponse, plan: QRectF, scale: float) -> None:
        painter.setPen(pen(self.theme.ink, 1.0, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for patch in case.case.patches:
            low_x, high_x, low_y, high_y = patch.bounds
            painter.drawRect(
                QRectF(
                    plan.left() + low_x * scale, plan.bottom() - high_y * scale,
                    (high_x - low_x) * scale, (high_y - low_y) * scale,
                )
            )  # fmt: skip

    def _paint_reactions(self, painter: QPainter, case: CaseResponse, plan: QRectF, scale: float) -> None:
        """What bolts take, beside each where there is room, and what edges and lines of support take in all."""
        painter.setFont(font("small"))
        metrics, units = painter.fontMetrics(), self.session.units
        taken: list[QRectF] = []
        largest_first = sorted(case.reactions, key=lambda own: (own.kind == "bolt", -abs(own.force)))
        for own in largest_first:
            at = QPointF(plan.left() + own.x * scale, plan.bottom() - own.y * scale)
            if own.kind == "edge":  # all that it takes, at its middle
                beside = abs(at.x() - plan.left()) < 1.0 or abs(at.x() - plan.right()) < 1.0
                at = QPointF(at.x(), plan.center().y()) if beside else QPointF(plan.center().x(), at.y())
            text = quantity(own.force, "force", units)
            if own.kind == "bolt":
                painter.setPen(pen(self.theme.ink, 1.0))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawEllipse(at, 3.0, 3.0)
            wide, high = float(metrics.horizontalAdvance(text)) + 4.0, float(metrics.height()) - 2.0
            box = QRectF(at.x() - wide / 2.0, at.y() - high / 2.0, wide, high)
            inward = plan.center() - at
            reach = max(abs(inward.x()) / (wide / 2.0 + 6.0), abs(inward.y()) / (high / 2.0 + 6.0), 1e-6)
            box.translate(inward / reach)
            if any(box.intersects(other) for other in taken):
                continue
            taken.append(box)
            plate = QColor(self.theme.raised)
            plate.setAlpha(215)
            painter.fillRect(box, plate)
            painter.setPen(pen(self.theme.ink))
            draw_elided(painter, box, int(Qt.AlignmentFlag.AlignCenter), text)
        painter.setFont(self.font())

    def _mark(self, painter: QPainter, point: QPointF, kind: str) -> None:
        for colour, width in ((self.theme.raised, 4.0), (self.theme.alarm if kind == "+" else self.theme.ink, 1.8)):
            painter.setPen(pen(colour, width))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            if kind == "○":
                painter.drawEllipse(point, 4.5, 4.5)
            else:
                painter.drawLine(point + QPointF(-7, 0), point + QPointF(7, 0))
                painter.drawLine(point + QPointF(0, -7), point + QPointF(0, 7))

    def _paint_legend(self, painter: QPainter, largest: float, em: float, title: str) -> None:
        width = 13.0
        top = self.height() - 1.15 * em
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        painter.drawImage(QRectF(20.0, top, BANDS * width, 0.8 * em), band_strip(self.theme))
        painter.setPen(pen(self.theme.quiet))
        draw_elided(painter, QRectF(8, top - 0.1 * em, 12, em), 0, "0")
        end = 24.0 + BANDS * width
        text = quantity(largest, "deflection", self.session.units) + (f"   + {title}" if title else "")
        draw_elided(painter, QRectF(end, top - 0.1 * em, self.width() - end, em), 0, text)
