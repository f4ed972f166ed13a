"""How a line-up is drawn: labels, ruler, heads, sections, numbers, each in the place it is given."""

from __future__ import annotations

import itertools
from typing import NamedTuple

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter

from omakase.evaluate.members.outline import Outline
from omakase.evaluate.results.candidate_result import WAITING, CandidateResult
from omakase.evaluate.results.lineup import Cell, LineUp, Row
from omakase.evaluate.results.wording import SOURCE_MARKS, distance_text, limit_text, percent_text, value_text
from omakase.ui.kit.theme import Theme, advance, draw_words, font, pen
from omakase.ui.lineup.section_picture import draw_bent, draw_face_swatches, draw_ring, draw_section, draw_walls
from omakase.units import UnitSystem

GAP = 4.0  # px between two texts on one line
MARKS = {"meets": "✓", "fails": "✗", "fact": "", "none": ""}
ALIGN_LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
ALIGN_RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
Head = tuple[str, str, tuple[str, ...], str]  # name, code of the layup, verdict and shorter ones, name of its colour
LEGEND = ("T tested here", "D datasheet", "E estimated", "A assumed", "N non-linear", "≈ a tie")


def nice_step(largest: float, room: float) -> float:
    """A round step of 1, 2 or 5 so that at most ``room`` steps make ``largest``."""
    step = 10.0**-6
    while True:
        for factor in (1.0, 2.0, 5.0):
            if largest / (step * factor) <= room:
                return step * factor
        step *= 10.0


class LineUpDrawn(NamedTuple):
    """Colours and sizes: ``em`` height of a line and ``label_width`` of the titles beside the columns, px."""

    theme: Theme
    units: UnitSystem
    em: float
    label_width: float

    def head_height(self) -> float:
        """Above the sections: name, code and verdict."""
        return 3.5 * self.em

    def row(self, row: Row) -> float:
        """A row with a limit has two lines, a fact one."""
        return (2.05 if row.limit is not None else 1.2) * self.em

    def tops(self, line_up: LineUp) -> list[float]:
        """Where each row begins below the sections, and where the last one ends."""
        return list(itertools.accumulate((self.row(row) for row in line_up.rows), initial=0.0))

    def ground(self, section: QRectF) -> float:
        """The common line that all sections stand on."""
        return section.bottom() - 1.0 * self.em - 4.0

    def labels(self, painter: QPainter, line_up: LineUp, section: QRectF, width: float) -> None:
        """Titles, limits and the legend, on stripes that run on over all of ``width``."""
        em, units = self.em, self.units
        self._text(painter, QRectF(10, 3, self.label_width - 14, 1.5 * em), "Line-up", ALIGN_LEFT, "large", bold=True)
        self._text(
            painter, QRectF(10, 6 + 1.35 * em, self.label_width - 14, em), "sections to one scale", ALIGN_LEFT,
            "small", self.theme.quiet,
        )  # fmt: skip
        tops = [section.bottom() + top for top in self.tops(line_up)]
        for k, row in enumerate(line_up.rows):
            top, high = tops[k], self.row(row)
            line = high / (1.0 if row.limit is None else 2.0)
            box = QRectF(10, top, self.label_width - 14, line)
            stripe = QColor(self.theme.panel if k % 2 else self.theme.paper)
            painter.fillRect(QRectF(0, top, width, high), stripe)
            self._text(painter, box, row.title, ALIGN_LEFT, bold=row.limit is not None)
            if row.limit is not None:
                self._text(
                    painter, box.translated(0, line - 2), limit_text(row, units), ALIGN_LEFT, "small", self.theme.quiet
                )  # fmt: skip
        bottom = tops[-1]
        self._text(
            painter,
            QRectF(10, bottom + 2, self.label_width - 14, em),
            "Governs",
            ALIGN_LEFT,
            colour=self.theme.quiet,
        )
        for k, line in enumerate(LEGEND):
            box = QRectF(10, section.bottom() - (len(LEGEND) - k) * 0.95 * em - 4.0, self.label_width - 60, em)
            self._text(painter, box, line, ALIGN_LEFT, "small", self.theme.quiet)

    def ruler(self, painter: QPainter, section: QRectF, scale: float, thickest: float) -> None:
        """Height above the common ground line, in the project's unit of length."""
        factor = 25.4e-3 if self.units == "inch_pound" else 1e-3
        room = thickest * scale / (0.8 * self.em)  # small numbers that stand above each other
        step = nice_step(thickest / factor, min(4.0, max(room, 0.5)))
        ground, x = self.ground(section), self.label_width - 12.0
        painter.setPen(pen(self.theme.quiet, 1.0))
        painter.drawLine(QPointF(x, ground), QPointF(x, ground - thickest * scale))
        value = 0.0
        while value <= thickest / factor + 1e-9:
            y = ground - value * factor * scale
            painter.setPen(pen(self.theme.quiet, 1.0))
            painter.drawLine(QPointF(x - 5.0, y), QPointF(x, y))
            unit = " in" if factor > 0.01 else " mm"
            label = f"{value:g}" + (unit if value == 0.0 else "")
            box = QRectF(0.0, y - self.em / 2.0, x - 8.0, self.em)
            self._text(painter, box, label, ALIGN_RIGHT, "small", self.theme.quiet)
            value = round(value + step, 9)

    def head(self, painter: QPainter, head: Head, width: int, chosen: bool) -> None:
        """Name, code and verdict of a candidate."""
        em, (name, code, choices, tone) = self.em, head
        if chosen:
            painter.fillRect(QRectF(0, 0, width, 3), QColor(self.theme.accent))
        box = QRectF(8, 6, width - 12, em)
        self._text(painter, box, name, ALIGN_LEFT, bold=True)
        self._text(painter, box.translated(0, 1.05 * em), code, ALIGN_LEFT, "small", self.theme.quiet)
        colour, bold = getattr(self.theme, tone), tone == "alarm"
        words = next((own for own in choices if advance(own, "small", bold) <= box.width()), choices[-1])
        self._text(painter, box.translated(0, 2.05 * em), words, ALIGN_LEFT, "small", colour, bold=bold)

    def cell(self, painter: QPainter, row: Row, cell: Cell, box: QRectF) -> None:
        """A number with its mark, where it comes from, its margin and its difference to the baseline."""
        if cell.value is None:
            return
        em = self.em
        fact = row.limit is None
        upper = QRectF(box.left() + 8, box.top() + 1, box.width() - 16, box.height() / (1.0 if fact else 2.0))
        lower = upper if fact else upper.translated(0, box.height() / 2.0 - 2)
        value = upper.adjusted(em, 0, -1.5 * em, 0)
        if cell.rough:  # nothing is said of it yet but the order of size
            text = f"{value_text(row, cell, self.units)} …"
            self._text(painter, value, text, ALIGN_RIGHT, colour=self.theme.quiet)
            return
        failed = cell.status == "fails"
        colour = self.theme.alarm if failed else ""
        self._text(painter, upper, MARKS[cell.status], ALIGN_LEFT, colour=colour or self.theme.good, bold=True)
        shown = value_text(row, cell, self.units)
        self._text(painter, value, shown, ALIGN_RIGHT, colour=colour, bold=failed)
        mark = QRectF(upper.right() - 1.4 * em, upper.top(), 1.4 * em, upper.height())
        marks = ("N" if cell.far else "") + SOURCE_MARKS[cell.source]
        self._text(painter, mark, marks, ALIGN_RIGHT, "small", self.theme.quiet)
        left = distance_text(row, cell) or ("≈" if cell.tie else "")
        if cell.tie and cell.status != "fact":
            left += " ≈"
        right = "" if cell.difference is None else percent_text(cell.difference)
        if fact:  # one line: the difference stands before the value
            before = f"{right} {left}".strip()
            if advance(before, "small") + GAP <= value.right() - advance(shown) - lower.left():
                self._text(painter, lower, before, ALIGN_LEFT, "small", self.theme.quiet)
            return
        taken = advance(right, "small") + 4.0 if right else 0.0
        self._text(painter, lower, right, ALIGN_RIGHT, "small", self.theme.quiet)
        room = lower.adjusted(0, 0, -taken, 0)
        if advance(left, "small") > room.width():
            left = left.split(" ")[0]  # the share alone; mark and colour say which way
        self._text(painter, room, left, ALIGN_LEFT, "small", colour or self.theme.quiet)

    def foot(self, painter: QPainter, words: tuple[str, str], top: float, width: int) -> None:
        """What governs, and where."""
        em, (check, place) = self.em, words
        box = QRectF(8, top, width - 14, em)
        self._text(painter, box, check, ALIGN_LEFT)
        self._text(painter, box.translated(0, 1.1 * em), place, ALIGN_LEFT, "small", self.theme.quiet)

    def error(self, painter: QPainter, box: QRectF, result: CandidateResult) -> None:
        """Why there is no result."""
        painter.setPen(pen(self.theme.quiet if result.error == WAITING else self.theme.alarm))
        painter.setFont(font("normal"))
        painter.drawText(box, int(Qt.TextFlag.TextWordWrap), result.error)

    def section(self, painter: QPainter, outlined: Outline, column: QRectF, section: QRectF, scale: float) -> None:
        """The section itself, with its plies as tiles."""
        stack, ground, height = outlined.stack, self.ground(section), outlined.height * scale
        box = QRectF(column.left() + 10, ground - height, column.width() - 20, height)
        if outlined.ring:
            draw_ring(painter, box, stack, scale, self.theme)
            self._swatches_beside(painter, box, outlined, section)
            return
        if outlined.walls:
            draw_walls(painter, box, outlined, scale, self.theme)
            return
        if outlined.line:
            draw_bent(painter, box, outlined.line, stack, scale, self.theme)
            drawn = box
        else:
            drawn = draw_section(painter, box, stack, scale, self.theme)
        # face A's plies above the section and face B's below it, as tiles hatched at their angles
        core = stack.core or slice(len(stack.layers), len(stack.layers))
        size = min(12.0, self.em - 2.0)
        painter.setFont(font("small"))
        above = QRectF(drawn.left(), drawn.top() - size - 4.0, drawn.width(), size)
        draw_face_swatches(painter, above, stack.layers[: core.start], self.theme, size)
        below = QRectF(drawn.left(), ground + 3.0, drawn.width(), size)
        draw_face_swatches(painter, below, stack.layers[core.stop :], self.theme, size)

    def _swatches_beside(self, painter: QPainter, box: QRectF, drawn: Outline, section: QRectF) -> None:
        """The plies of a tube's wall, outermost first, beside the ring or above it where there is no room."""
        size = min(12.0, self.em - 2.0)
        painter.setFont(font("small"))
        above = QRectF(box.left(), section.top() + 1.0, box.width(), size)
        draw_face_swatches(painter, above, drawn.stack.layers, self.theme, size)

    def mark(
        self, painter: QPainter, drawn: Outline, mark: tuple[float, float], width: int, section: QRectF, scale: float
    ) -> None:
        """A cross in the section, on a plate so that it is seen on dark plies."""
        across = scale
        if drawn.line:
            across = min(scale, ((width - 20.0) / 2.0 - 1.0) / max(abs(y) for y, _ in drawn.line))
        at = QPointF(width / 2.0 + mark[0] * across, self.ground(section) - mark[1] * scale)
        for colour, thickness in ((self.theme.raised, 4.0), (self.theme.alarm, 1.8)):
            painter.setPen(pen(colour, thickness))
            painter.drawLine(at + QPointF(-5, 0), at + QPointF(5, 0))
            painter.drawLine(at + QPointF(0, -5), at + QPointF(0, 5))

    def _text(
        self, painter: QPainter, box: QRectF, text: str, align: Qt.AlignmentFlag, kind: str = "normal",
        colour: str = "", bold: bool = False,
    ) -> None:  # fmt: skip
        if not text:
            return
        draw_words(painter, box, int(align), text, colour or self.theme.ink, kind, bold)
