"""Drawings for paper: members with their loads, diagrams along the span, and the deflection of panels as a field."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
from reportlab.lib.colors import Color, HexColor, white
from reportlab.pdfbase.pdfmetrics import stringWidth
from reportlab.platypus import Flowable

from omakase.core.members.panel import PanelResponse
from omakase.evaluate.members.drawing import Arrow, Drawing, Line, Mark, Note
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.results.diagrams import Curve
from omakase.evaluate.results.profile import deflection_map
from omakase.evaluate.results.wording import quantity
from omakase.reports.page import ALARM, LINE, QUIET
from omakase.reports.section_drawing import FILLS, INK
from omakase.units import UnitSystem

ACCENT, PALE = HexColor("#17607a"), HexColor("#f7f4ea")
ROLES = {"ink": INK, "quiet": QUIET, "accent": ACCENT, "alarm": ALARM, "line": LINE, "low": PALE, "high": ACCENT,
         "fill": white}  # fmt: skip
SCALE = 0.62  # points on paper per pixel of the screen, for marks and arrows
WORDS = 6.5
CELLS = 48
STEPS = 8  # tones of a field


class MemberDrawing(Flowable):  # type: ignore[misc]
    """A drawing that is data, fitted into a box."""

    def __init__(self, drawing: Drawing, width: float, height: float) -> None:
        super().__init__()
        self.drawing, self.size = drawing, (width, height)
        left, bottom, right, top = drawing.frame
        x, y = width / max(right - left, 1e-12), height / max(top - bottom, 1e-12)
        self._x, self._y = (min(x, y), min(x, y)) if drawing.even else (x, y)
        self._middle = ((left + right) / 2.0, (bottom + top) / 2.0)

    def wrap(self, *_room: float) -> tuple[float, float]:
        return self.size

    def _point(self, at: tuple[float, float]) -> tuple[float, float]:
        return (
            self.size[0] / 2.0 + (at[0] - self._middle[0]) * self._x,
            self.size[1] / 2.0 + (at[1] - self._middle[1]) * self._y,
        )

    def draw(self) -> None:
        for shape in self.drawing.shapes:
            if isinstance(shape, Line):
                self._line(shape)
            elif isinstance(shape, Arrow):
                self._arrow(shape)
            elif isinstance(shape, Mark):
                self._mark(shape)
        for shape in self.drawing.shapes:
            if isinstance(shape, Note):
                self._note(shape)

    def _line(self, line: Line) -> None:
        canvas = self.canv
        path = canvas.beginPath()
        for n, at in enumerate(line.points):
            (path.lineTo if n else path.moveTo)(*self._point(at))
        fill = FILLS.get(line.family) if line.family else None
        if line.fill:
            path.close()
            canvas.setFillColor(HexColor(fill) if fill else _tint(line.fill))
        canvas.setStrokeColor(ROLES[line.role])
        canvas.setLineWidth(line.width * SCALE)
        canvas.setDash(*((3, 2),) if line.dashed else ())
        canvas.drawPath(path, stroke=1, fill=1 if line.fill else 0)
        canvas.setDash()

    def _arrow(self, arrow: Arrow) -> None:
        canvas, (x, y) = self.canv, self._point(arrow.tip)
        canvas.setStrokeColor(ROLES[arrow.role])
        canvas.setFillColor(ROLES[arrow.role])
        canvas.setLineWidth(0.9)
        if arrow.turning:
            r = arrow.length * 0.7 * SCALE
            clockwise = arrow.direction[0] > 0.0
            canvas.arc(x - r, y - r, x + r, y + r, -60 if clockwise else -120, 240)
            end = math.radians(-60 if clockwise else 240)
            turn = 1.0 if clockwise else -1.0
            self._head(x + r * math.cos(end), y + r * math.sin(end), -turn * math.sin(-end), -turn * math.cos(end))
            return
        long = math.hypot(*arrow.direction) or 1.0
        dx, dy = arrow.direction[0] / long, arrow.direction[1] / long
        reach = arrow.length * SCALE
        canvas.line(x - dx * reach, y - dy * reach, x - 3.0 * dx, y - 3.0 * dy)
        self._head(x, y, dx, dy)

    def _head(self, x: float, y: float, dx: float, dy: float) -> None:
        path = self.canv.beginPath()
        path.moveTo(x, y)
        path.lineTo(x - 4.5 * dx - 1.8 * dy, y - 4.5 * dy + 1.8 * dx)
        path.lineTo(x - 4.5 * dx + 1.8 * dy, y - 4.5 * dy - 1.8 * dx)
        path.close()
        self.canv.drawPath(path, stroke=0, fill=1)

    def _mark(self, mark: Mark) -> None:
        canvas, (x, y) = self.canv, self._point(mark.at)
        canvas.setStrokeColor(ROLES[mark.role])
        canvas.setFillColor(ROLES[mark.role])
        canvas.setLineWidth(0.8)
        if mark.kind == "knife":
            path = canvas.beginPath()
            path.moveTo(x, y)
            path.lineTo(x - 3.7, y - 6.2)
            path.lineTo(x + 3.7, y - 6.2)
            path.close()
            canvas.drawPath(path, stroke=0, fill=1)
        elif mark.kind == "clamp":
            canvas.setLineWidth(3.0)
            canvas.line(x, y - 7.5, x, y + 10.0)
        elif mark.kind == "mass":
            canvas.rect(x - 2.5, y, 5.0, 5.0, stroke=0, fill=1)
        elif mark.kind == "cross":
            canvas.line(x - 3.7, y, x + 3.7, y)
            canvas.line(x, y - 3.7, x, y + 3.7)
        else:
            canvas.circle(x, y, 2.8 if mark.kind == "ring" else 1.4, stroke=1, fill=0 if mark.kind == "ring" else 1)

    def _note(self, note: Note) -> None:
        x, y = self._point(note.at)
        y += {"above": 2.0, "below": -WORDS}.get(note.side, -WORDS / 3.0)
        wide = stringWidth(note.text, "Body", WORDS)
        left = {"left": x - wide - 3.0, "right": x + 3.0}.get(note.side, x - wide / 2.0)
        left = max(0.0, min(left, self.size[0] - wide))
        self.canv.setFillColor(ROLES[note.role])
        self.canv.setFont("Body", WORDS)
        self.canv.drawString(left, y, note.text)


class Diagram(Flowable):  # type: ignore[misc]
    """A curve along the span with its extreme values written at their places."""

    def __init__(self, curve: Curve, units: UnitSystem, width: float, height: float = 58.0) -> None:
        super().__init__()
        self.curve, self.units, self.size = curve, units, (width, height)

    def wrap(self, *_room: float) -> tuple[float, float]:
        return self.size

    def draw(self) -> None:
        canvas, curve, (width, height) = self.canv, self.curve, self.size
        values = curve.values if curve.cut is None else np.minimum(curve.values, curve.cut)
        low, high = min(float(values.min()), 0.0), max(float(values.max()), 0.0, curve.limit or 0.0)
        room = height - 18.0
        x = curve.x / (float(curve.x[-1]) or 1.0) * width

        def at(value: float) -> float:
            return 4.0 + (value - low) / ((high - low) or 1.0) * room

        canvas.setFont("Body", WORDS)
        canvas.setFillColor(INK)
        canvas.drawString(0.0, height - 7.0, curve.title)
        path = canvas.beginPath()
        path.moveTo(x[0], at(0.0))
        for px, value in zip(x, values, strict=True):
            path.lineTo(px, at(float(value)))
        path.lineTo(x[-1], at(0.0))
        path.close()
        canvas.setFillColor(PALE)
        canvas.setStrokeColor(ACCENT)
        canvas.setLineWidth(0.7)
        canvas.drawPath(path, stroke=1, fill=1 if curve.limit is None else 0)
        canvas.setStrokeColor(LINE)
        canvas.line(0.0, at(0.0), width, at(0.0))
        if curve.limit is not None:
            canvas.setStrokeColor(ALARM)
            canvas.setDash(3, 2)
            canvas.line(0.0, at(curve.limit), width, at(curve.limit))
            canvas.setDash()
        canvas.setFillColor(INK)
        extremes = {int(np.argmin(curve.values))} if curve.limit is not None else {
            int(np.argmax(np.abs(curve.values)))
        }  # fmt: skip
        for k in extremes:
            value, place = float(curve.values[k]), float(curve.x[k])
            words = f"{quantity(value, curve.dimension, self.units)} at x {quantity(place, 'length', self.units)}"
            wide = stringWidth(words, "Body", WORDS)
            left = max(0.0, min(float(x[k]) + 2.0, width - wide))
            canvas.drawString(left, min(at(value) + 2.0, height - 15.0), words)


class PanelField(Flowable):  # type: ignore[misc]
    """The deflection of a panel under one load case in tones, with the patches that load it."""

    def __init__(self, result: CandidateResult, index: int, units: UnitSystem, width: float, height: float) -> None:
        super().__init__()
        response = result.response
        assert isinstance(response, PanelResponse)
        self.case, self.panel, self.units = response.cases[index].case, response.panel, units
        rows = max(8, int(CELLS * self.panel.width / self.panel.length))
        self.field = deflection_map(result, index, CELLS, rows)
        self.scale = min(width / self.panel.length, (height - 16.0) / self.panel.width)

    def wrap(self, *_room: float) -> tuple[float, float]:
        return self.panel.length * self.scale, self.panel.width * self.scale + 16.0

    def draw(self) -> None:
        canvas, scale = self.canv, self.scale
        size = np.abs(self.field)
        largest = float(np.nanmax(size)) or 1.0
        columns, rows = size.shape
        dx, dy = self.panel.length * scale / columns, self.panel.width * scale / rows
        for i in range(columns):
            for j in range(rows):
                if math.isfinite(size[i, j]):
                    canvas.setFillColor(_tone(round(float(size[i, j]) / largest * STEPS) / STEPS))
                    canvas.rect(i * dx, j * dy, dx + 0.2, dy + 0.2, stroke=0, fill=1)
        canvas.setStrokeColor(INK)
        canvas.setLineWidth(0.6)
        canvas.rect(0.0, 0.0, self.panel.length * scale, self.panel.width * scale)
        for patch in self.case.patches:
            left, right, low, high = patch.bounds
            canvas.setDash(2, 1.5)
            canvas.rect(left * scale, low * scale, (right - left) * scale, (high - low) * scale)
            canvas.setDash()
        canvas.setFont("Body", WORDS)
        canvas.setFillColor(INK)
        words = f"{self.case.name}: deflection up to {quantity(largest, 'deflection', self.units)}"
        canvas.drawString(0.0, self.panel.width * scale + 5.0, words)


def _tint(role: str) -> Color:
    """The pale tone that fills an area of a role."""
    colour = ROLES.get(role, PALE)
    return white if role == "fill" else Color(*(1.0 - 0.18 * (1.0 - own) for own in colour.rgb()))


def _tone(share: float) -> Color:
    low, high = PALE, ACCENT
    mixed: Sequence[Any] = [a + (b - a) * share for a, b in zip(low.rgb(), high.rgb(), strict=True)]
    return Color(*mixed)
