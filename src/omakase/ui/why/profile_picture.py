"""Strain and stress through the thickness at the place of the chosen check, beside the section drawn true."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace
from PyQt6.QtCore import QLineF, QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPolygonF

from omakase.core.checks.result import CheckResult
from omakase.core.members.field import Place
from omakase.evaluate.results.diagrams import has_span
from omakase.evaluate.results.profile import ThicknessProfile, case_index, thickness_profile
from omakase.evaluate.results.wording import governing_layer_label, where_text
from omakase.ui.kit.picture import Picture
from omakase.ui.kit.theme import Theme, draw_elided, pen
from omakase.ui.lineup.section_picture import draw_section
from omakase.ui.session import Session
from omakase.units import display_unit, format_value

STYLES = (("x", Qt.PenStyle.SolidLine), ("y", Qt.PenStyle.DashLine), ("xy", Qt.PenStyle.DotLine))

SAMPLE = 18.0  # px of a line in the legend
ENDS = (1.0, 1.2, 1.5, 2.0, 2.5, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0)
NOTHING = 1e-9  # µε and MPa, below which a profile is drawn as none


def round_end(largest: float) -> float:
    """The smallest round number that is not less: where a scale ends."""
    power = 10.0 ** np.floor(np.log10(largest))
    return float(next(end for end in (*ENDS, 20.0) if end * power >= largest * (1.0 - 1e-9)) * power)


class ProfilePicture(Picture):
    """Three bands side by side, faces and core to scale: the section, strains, and stress along each ply."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(session, theme, "Strain and stress through the thickness")
        session.station_changed.connect(self.update)
        session.wall_changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(280, 160)

    def profile(self) -> ThicknessProfile | None:
        """What is shown: the profile at the chosen check's place, else where the panel moves most."""
        result, check = self.session.result, self.session.check
        if result is None or result.response is None or result.is_measured:
            return None
        if not result.response.measures["deflection"]:
            return None
        index = case_index(result, check.case_id if check else "")
        place = Place() if check is None else check.place
        if has_span(result):
            wall = place.wall or self.session.wall
            return thickness_profile(result, index, replace(place, x=self.session.station, wall=wall))
        if place.x is None or place.y is None:
            largest = result.response.measures["deflection"][index]
            place = Place(largest.x, largest.y)
        return thickness_profile(result, index, place)

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = self.begin()
        profile, result = self.profile(), self.session.result
        if profile is None or result is None or result.stack is None:
            measured = result is not None and result.is_measured
            self.say(painter, "a measured part: nothing is known inside it" if measured else "no stresses to show")
            return
        em = float(painter.fontMetrics().height())
        units = self.session.units
        place = where_text(profile.place, units)
        painter.setPen(pen(self.theme.ink))
        draw_elided(painter, QRectF(8, 2, self.width() - 12, em), 0, f"Through the thickness at {place}")
        room = QRectF(self.rect()).adjusted(8, 2.5 * em, -8, -2.4 * em)
        if room.height() < 20.0:
            return
        width = room.width()
        section = QRectF(room.left(), room.top(), 0.2 * width, room.height())
        strains = QRectF(room.left() + 0.27 * width, room.top(), 0.32 * width, room.height())
        stresses = QRectF(room.left() + 0.67 * width, room.top(), 0.33 * width, room.height())
        self._paint_section(painter, profile, section, em)
        height = np.ptp(profile.z)
        y = room.top() + (profile.z.max() - profile.z) / height * room.height()
        strain_unit, stress_unit = display_unit("strain", units), display_unit("stress", units)
        lines = [
            (f"{name}", profile.strain[:, i] / strain_unit.factor, style) for i, (name, style) in enumerate(STYLES)
        ]
        self._paint_graph(painter, strains, y, lines, f"strain, {strain_unit.label}", em)
        along = [("along the ply", profile.along / stress_unit.factor, Qt.PenStyle.SolidLine)]
        self._paint_graph(painter, stresses, y, along, f"along ply, {stress_unit.label}", em)
        if profile.core_shear is not None:
            tau = max(abs(t) for t in profile.core_shear)
            text = f"τ {format_value(tau, 'core_stress', units, with_unit=True)}"
            box = QRectF(stresses.left() + 4.0, stresses.center().y() - 0.5 * em, stresses.width() - 8.0, em)
            wide = min(float(painter.fontMetrics().horizontalAdvance(text)), box.width())
            painter.fillRect(QRectF(box.left(), box.top(), wide, em), QColor(self.theme.panel))  # over the curve
            draw_elided(painter, box, int(Qt.AlignmentFlag.AlignVCenter), text)
        self._paint_foot(painter, em)

    def _paint_section(self, painter: QPainter, profile: ThicknessProfile, box: QRectF, em: float) -> None:
        stack = profile.stack
        scale = box.height() / stack.thickness
        draw_section(painter, box, stack, scale, self.theme)
        check: CheckResult | None = self.session.check
        painter.setPen(pen(self.theme.quiet))
        draw_elided(painter, QRectF(box.left(), box.top() - 1.1 * em, box.width(), em), 0, "face A")
        draw_elided(painter, QRectF(box.left(), box.bottom() + 0.1 * em, box.width(), em), 0, "face B")
        if check is not None and check.place.layer in profile.rows:
            k = profile.rows.index(check.place.layer)
            top = box.top() + (stack.z_top[0] - stack.z_top[k]) * scale
            bottom = box.top() + (stack.z_top[0] - stack.z_bottom[k]) * scale
            middle = (top + bottom) / 2.0
            painter.setPen(pen(self.theme.alarm, 1.6))
            painter.setBrush(QColor(self.theme.alarm))
            tip = QPointF(box.right() + 1.0, middle)
            painter.drawPolygon(QPolygonF([tip, tip + QPointF(7, -4), tip + QPointF(7, 4)]))

    def _paint_graph(
        self, painter: QPainter, box: QRectF, y: np.ndarray, lines: list, title: str, em: float
    ) -> None:  # fmt: skip
        painter.setPen(pen(self.theme.quiet))
        draw_elided(painter, QRectF(box.left(), box.top() - 1.15 * em, box.width() + 10, em), 0, title)
        largest = max(float(np.abs(values).max()) for _, values, _ in lines)
        if largest < NOTHING:
            lines, largest = [(name, 0.0 * values, style) for name, values, style in lines], 1.0
        largest = round_end(largest)
        middle, half = box.center().x(), box.width() / 2.0
        painter.setPen(pen(self.theme.line, 1.0))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box)
        painter.setPen(pen(self.theme.quiet, 1.0))
        painter.drawLine(QLineF(middle, box.top(), middle, box.bottom()))
        for share in (-1.0, -0.5, 0.5, 1.0):
            tick = middle + share * half
            painter.drawLine(QLineF(tick, box.bottom() - 3.0, tick, box.bottom()))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for _name, values, style in lines:
            painter.setPen(pen(self.theme.accent, 1.6, style))
            points = [QPointF(middle + v / largest * half, float(h)) for v, h in zip(values, y, strict=True)]
            painter.drawPolyline(QPolygonF(points))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        painter.setPen(pen(self.theme.quiet))
        foot = QRectF(box.left() - 4.0, box.bottom() + 0.1 * em, box.width() + 8.0, em)
        for side, text in ((Qt.AlignmentFlag.AlignLeft, f"−{largest:g}"), (Qt.AlignmentFlag.AlignHCenter, "0"),
                           (Qt.AlignmentFlag.AlignRight, f"{largest:g}")):  # fmt: skip
            draw_elided(painter, foot, int(side), text)

    def _paint_foot(self, painter: QPainter, em: float) -> None:
        check, result = self.session.check, self.session.result
        box = QRectF(8, self.height() - 1.1 * em, self.width() - 16, em)
        metrics = painter.fontMetrics()
        x = box.right() - sum(metrics.horizontalAdvance(name) + SAMPLE + em for name, _ in STYLES) + 0.6 * em
        if check is not None and result is not None and result.stack is not None and check.place.layer is not None:
            painter.setPen(pen(self.theme.quiet))
            told = QRectF(box.left(), box.top(), x - box.left() - em, em)
            draw_elided(painter, told, 0, f"◂ {governing_layer_label(result, check)}")
        for name, style in STYLES:
            painter.setPen(pen(self.theme.accent, 1.6, style))
            painter.drawLine(QLineF(x, box.center().y(), x + SAMPLE, box.center().y()))
            painter.setPen(pen(self.theme.quiet))
            painter.drawText(QPointF(x + SAMPLE + 0.3 * em, box.bottom() - metrics.descent()), name)
            x += metrics.horizontalAdvance(name) + SAMPLE + em
