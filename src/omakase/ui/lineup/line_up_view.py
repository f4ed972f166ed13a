"""The line-up: baseline and candidates as columns, each headed by its section to one common scale."""

from __future__ import annotations

import bisect
import itertools
import math
from collections.abc import Callable
from typing import NamedTuple

from PyQt6.QtCore import QEvent, QPointF, QRect, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QCursor,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPixmap,
    QRegion,
    QShowEvent,
)
from PyQt6.QtWidgets import QSizePolicy, QToolTip, QWidget

from omakase.core.members.field import Response
from omakase.evaluate.members.outline import Outline, outline
from omakase.evaluate.results.candidate_result import WAITING, CandidateResult
from omakase.evaluate.results.lineup import Cell, LineUp, Row
from omakase.evaluate.results.wording import (
    SOURCE_MARKS,
    cell_explained,
    counted,
    distance_text,
    findings_text,
    governing_text,
    layup_text,
    limit_text,
    percent_text,
    value_text,
    verdict,
    verdict_line,
)
from omakase.ui.kit.kept_pictures import KeptPictures, Part
from omakase.ui.kit.labels import plain
from omakase.ui.kit.theme import Theme, advance, draw_words, font, pen
from omakase.ui.lineup.section_picture import draw_bent, draw_face_swatches, draw_ring, draw_section, draw_walls
from omakase.ui.session import Session

LABEL_WIDTH, COLUMN_WIDTH, WIDEST = 23.0, 20.0, 36.0  # in digits
STEP = 1.05
GAP = 4.0  # px between two texts on one line
MARKS = {"meets": "✓", "fails": "✗", "fact": "", "none": ""}
ALIGN_LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
ALIGN_RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
Head = tuple[str, str, tuple[str, ...], str]  # name, code of the layup, verdict and shorter ones, name of its colour
LEGEND = ("T tested here", "D datasheet", "E estimated", "A assumed", "N non-linear", "≈ a tie")
HINT = (
    "No candidate yet. Press Ctrl+N to add one, then type a layup into the quick line, for example\n"
    "2 twill200 ±45 ; core pvc80 12 ; 2 twill200 ±45        or        al6082 3 mm"
)


def nice_step(largest: float, room: int) -> float:
    """A round step of 1, 2 or 5 so that at most ``room`` steps make ``largest``."""
    step = 10.0**-6
    while True:
        for factor in (1.0, 2.0, 5.0):
            if largest / (step * factor) <= room:
                return step * factor
        step *= 10.0


def stepped_up(thickest: float) -> float:
    """The next of the numbers a STEP apart: a little more room keeps the scale of all while one grows."""
    return float(STEP ** math.ceil(math.log(thickest) / math.log(STEP) - 1e-9))


class Placed(NamedTuple):
    """Where sections stand in the window, what each shows, m of the thickest, and pixels to a metre."""

    section: QRectF
    outlines: list[Outline | None]
    thickest: float
    scale: float


class LineUpView(QWidget):
    """Paints the line-up; a click or ← → chooses a candidate, ``opened`` asks for its layup."""

    opened = pyqtSignal()

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self._kept_em = 0.0
        self._outlines: dict[str, tuple[Response, float, Outline]] = {}  # by candidate, of which response and where
        self._kept = KeptPictures()
        self._shown: LineUp | None = None
        # what stood there when a repaint was last asked for: what is common to all, beside the ruler, in each column
        self._seen: tuple[object, object, list[object]] = None, None, []
        self._sections_follow = False  # those kept from before are shown until the numbers are painted
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)  # paints all of itself
        self.setAccessibleName("Line-up of candidates")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.MinimumExpanding)
        session.results_changed.connect(self.refresh)
        session.chosen_changed.connect(self.refresh)
        session.brief_changed.connect(self._follow_brief)
        session.station_changed.connect(self._repaint)
        session.looked_at.connect(self._repaint)

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self._repaint()

    def _repaint(self) -> None:
        self._seen = None, None, []
        self.update()

    def refresh(self) -> None:
        self._sections_follow = True
        self._shown = line_up = self.session.line_up()
        count = len(line_up.results) if line_up else 0
        self.setMinimumSize(int((LABEL_WIDTH + count * COLUMN_WIDTH) * advance("0")), self._needed_height(line_up))
        self._describe(count)
        self.session.after_numbers(self._show_sections)
        if self._sections_follow:
            self._repaint_changed()

    def _follow_brief(self) -> None:
        """A brief changes after its results: most often they are shown already."""
        if self.session.line_up() is not self._shown:
            self.refresh()

    def _describe(self, count: int) -> None:
        candidate, result = self.session.candidate, self.session.result
        chosen = f"; chosen: {candidate.name}, {verdict(result)}" if candidate and result else ""
        self.setAccessibleDescription(f"{counted(count, 'candidate')}{chosen}")

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        line_up = self.session.line_up()
        self._describe(len(line_up.results) if line_up else 0)

    def _show_sections(self) -> None:
        self._sections_follow = False
        self._repaint_changed()

    def _repaint_changed(self) -> None:
        """Asks for those columns to be painted that show something else than before; most edits change one."""
        line_up = self.session.line_up()
        if line_up is None or not line_up.results:
            self._repaint()
            return
        place = self._placed(line_up)
        of_all = (
            place.section, place.scale, self.size(), len(line_up.results), self.devicePixelRatioF(),
            self._labels_shown(line_up, place.section),
        )  # fmt: skip
        of_each: list[object] = [
            (*self._column_shown(line_up, i, result, place.section), self._section_shown(result, drawn, place))
            for i, (result, drawn) in enumerate(zip(line_up.results, place.outlines, strict=True))
        ]
        before, self._seen = self._seen, (of_all, place.thickest, of_each)
        if before[0] != of_all:
            self.update()
            return
        if before[1] != place.thickest:
            self.update(QRect(0, 0, int(self._label_width()), self.height()))
        for i, (old, new) in enumerate(zip(before[2], of_each, strict=True)):
            if old != new:
                self.update(self._column_box(i, len(of_each)))

    def sizeHint(self) -> QSize:
        return QSize(900, self._needed_height(self.session.line_up()))

    # --- geometry -------------------------------------------------------------------------------------------

    def _em(self) -> float:
        if not self._kept_em:  # asked for a hundred times at every edit
            self._kept_em = float(self.fontMetrics().height())
        return self._kept_em

    def changeEvent(self, event: QEvent | None) -> None:
        self._kept_em = 0.0
        super().changeEvent(event)

    def _needed_height(self, line_up: LineUp | None) -> int:
        rows = self._tops(line_up)[-1] if line_up else 0.0
        return int(self._head() + 5.0 * self._em() + rows + 2.6 * self._em())

    def _head(self) -> float:
        return 3.5 * self._em()

    def _row(self, row: Row) -> float:
        """A row with a limit has two lines, a fact one."""
        return (2.05 if row.limit is not None else 1.2) * self._em()

    def _tops(self, line_up: LineUp) -> list[float]:
        """Where each row begins below the sections, and where the last one ends."""
        return list(itertools.accumulate((self._row(row) for row in line_up.rows), initial=0.0))

    def _label_width(self) -> float:
        return LABEL_WIDTH * advance("0")

    def _section_height(self, line_up: LineUp) -> float:
        return self.height() - self._head() - self._tops(line_up)[-1] - 2.6 * self._em()

    def column_at(self, x: float) -> int:
        """Index of the candidate under x; −1 beside the columns."""
        line_up = self.session.line_up()
        if line_up is None or not line_up.results or x < self._label_width():
            return -1
        index = int((x - self._label_width()) / self._column_width(len(line_up.results)))
        return index if index < len(line_up.results) else -1

    def _column_width(self, count: int) -> float:
        return min((self.width() - self._label_width()) / count, WIDEST * advance("0"))

    def row_at(self, y: float) -> int:
        """Index of the row under y; −1 above or below the rows."""
        line_up = self.session.line_up()
        if line_up is None:
            return -1
        below = y - self._head() - self._section_height(line_up)
        tops = self._tops(line_up)
        return bisect.bisect_right(tops, below) - 1 if 0.0 <= below < tops[-1] else -1

    # --- painting -------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        line_up = self.session.line_up()
        if line_up is None or not line_up.results:
            painter.fillRect(self.rect(), QColor(self.theme.panel))
            painter.setPen(pen(self.theme.quiet))
            painter.drawText(self.rect(), int(Qt.AlignmentFlag.AlignCenter), HINT)
            return
        count, wanted = len(line_up.results), QRegion() if event is None else event.region()
        place = self._placed(line_up)
        columns = [self._column_box(i, count) for i in range(count)]
        labels = self._labels(line_up, place.section)
        right = columns[-1].right() + 1
        for beside in (QRect(0, 0, columns[0].left(), self.height()),
                       QRect(right, 0, self.width() - right, self.height())):  # fmt: skip
            if wanted.intersects(beside):
                ratio = labels.devicePixelRatio()
                part = QRectF(beside.left() * ratio, 0.0, beside.width() * ratio, self.height() * ratio)
                painter.drawPixmap(QRectF(beside), labels, part)
        if place.scale and wanted.boundingRect().left() < columns[0].left():
            self._paint_ruler(painter, place.section, place.scale, place.thickest)
        for i, (result, drawn, box) in enumerate(zip(line_up.results, place.outlines, columns, strict=True)):
            if not wanted.intersects(box):
                continue
            painter.drawPixmap(box.topLeft(), self._column(line_up, i, result, box.size(), place.section))
            if drawn is not None and place.scale:
                top = int(place.section.top())
                painter.drawPixmap(box.left(), top, self._section(result, drawn, box.width(), place))
        if self.hasFocus():
            painter.setPen(pen(self.theme.accent, 2.0))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.visibleRegion().boundingRect().adjusted(1, 1, -1, -1))

    def _placed(self, line_up: LineUp) -> Placed:
        """Where the sections stand, and how large they are drawn."""
        width = self._column_width(len(line_up.results))
        section = QRectF(0.0, self._head(), self.width(), self._section_height(line_up))
        ids = {result.candidate.id for result in line_up.results}
        self._outlines = {key: kept for key, kept in self._outlines.items() if key in ids}
        outlines = [self._outline(result) for result in line_up.results]
        thickest = max((drawn.height for drawn in outlines if drawn is not None), default=0.0)
        scale = (section.height() - 1.7 * self._em() - 10.0) / stepped_up(thickest) if thickest else 0.0
        widest = max(
            (drawn.frame[2] - drawn.frame[0] for drawn in outlines if drawn is not None and drawn.walls), default=0.0
        )
        if widest:  # one scale for all, also across
            scale = min(scale, (width - 22.0) / widest)
        return Placed(section, outlines, thickest, scale)

    def _column_box(self, index: int, count: int) -> QRect:
        left, right = (int(self._label_width() + i * self._column_width(count)) for i in (index, index + 1))
        return QRect(left, 0, right - left, self.height())

    def _labels(self, line_up: LineUp, section: QRectF) -> QPixmap:
        """Titles and limits as a picture, kept like the columns; the stripes run on under the columns."""
        return self._kept.picture(
            "labels", self._labels_shown(line_up, section), self.size(), self.devicePixelRatioF(),
            QColor(self.theme.panel), lambda painter: self._paint_labels(painter, line_up, section),
        )  # fmt: skip

    def _labels_shown(self, line_up: LineUp, section: QRectF) -> tuple[object, ...]:
        return [(row.title, row.limit) for row in line_up.rows], section, *self._look()

    def _look(self) -> tuple[object, ...]:
        """Colours, units and fonts."""
        return self.theme.name, self.session.units, self.font(), font()

    def _outline(self, result: CandidateResult) -> Outline | None:
        """The section at the cursor's station."""
        if result.stack is None or result.response is None:
            return None
        kept = self._outlines.get(result.candidate.id)
        if kept is None or kept[0] is not result.response or kept[1] != self.session.station:
            drawn = outline(result.response, result.stack, self.session.station)
            kept = self._outlines[result.candidate.id] = result.response, self.session.station, drawn
        return kept[2]

    def _section_shown(self, result: CandidateResult, drawn: Outline | None, place: Placed) -> tuple[object, ...]:
        if drawn is None or self._sections_follow:
            return ()
        mark = self._mark_of(result, drawn)
        return drawn.stack, drawn.ring, drawn.line, drawn.walls, mark, place.section, place.scale, *self._look()

    def _section(self, result: CandidateResult, drawn: Outline, width: int, place: Placed) -> QPixmap:
        """A column's section as a picture of its own: it changes with the common scale, the words do not."""
        section, scale = place.section, place.scale
        size = QSize(width, int(section.height() + self._em()))
        key = "section", result.candidate.id
        before = self._kept.last(key, size, self.devicePixelRatioF()) if self._sections_follow else None
        if before is not None:
            return before
        mark = self._mark_of(result, drawn)

        def paint(painter: QPainter) -> None:
            painter.translate(0.0, -float(int(section.top())))
            self._paint_section(painter, drawn, QRectF(0.0, 0.0, width, self.height()), section, scale)
            if mark is not None:
                self._paint_mark(painter, drawn, mark, width, section, scale)

        shown = self._section_shown(result, drawn, place)
        return self._kept.picture(key, shown, size, self.devicePixelRatioF(), QColor(0, 0, 0, 0), paint)

    def _column(self, line_up: LineUp, index: int, result: CandidateResult, size: QSize, section: QRectF) -> QPixmap:
        """A column's words and numbers as a picture, of which is painted again only what is other than before."""
        shown = self._column_shown(line_up, index, result, section)
        return self._kept.in_parts(
            ("column", result.candidate.id), shown, shown[0], size, self.devicePixelRatioF(),
            QColor(self.theme.panel), lambda: self._parts(line_up, index, result, size, section),
        )  # fmt: skip

    def _column_shown(
        self, line_up: LineUp, index: int, result: CandidateResult, section: QRectF
    ) -> tuple[object, ...]:
        """What its parts have in common, and what they show."""
        candidate = result.candidate
        common = section, candidate.id == self.session.candidate_id, result.ok, *self._look()
        return (
            common, candidate, result, [(row.title, row.limit, row.cells[index]) for row in line_up.rows],
            self.session.is_final(candidate.id), candidate.id == line_up.brief.baseline,
            self._is_decided(candidate.id),
        )  # fmt: skip

    def _parts(self, line_up: LineUp, index: int, result: CandidateResult, size: QSize, section: QRectF) -> list[Part]:
        """A column from its name down: head, room for the section, a part for each row, what governs."""
        chosen = result.candidate.id == self.session.candidate_id
        parts: list[Part] = []

        def add(
            shown: object, top: float, bottom: float, paint: Callable[[QPainter], None], colour: str = self.theme.panel
        ) -> None:
            box = QRect(0, int(top), size.width(), int(bottom) - int(top))

            def painted(painter: QPainter) -> None:
                if chosen:
                    tint = QColor(self.theme.accent)
                    tint.setAlpha(26)
                    painter.fillRect(box, tint)
                paint(painter)
                painter.setPen(pen(self.theme.line, 1.0))
                painter.drawLine(0, box.top(), 0, box.bottom())

            parts.append(Part(shown, box, QColor(colour), painted))

        head = self._head_words(line_up, result)
        add(head, 0.0, section.top(), lambda painter: self._paint_head(painter, head, size.width(), chosen))
        add("", section.top(), section.bottom(), lambda painter: None)
        if not result.ok:
            box = QRectF(8, section.bottom(), size.width() - 14, size.height() - section.bottom())
            add(result.error, section.bottom(), size.height(), lambda painter: self._paint_error(painter, box, result))
            return parts
        tops = [section.bottom() + top for top in self._tops(line_up)]
        for k, row in enumerate(line_up.rows):
            top = tops[k]
            box = QRectF(0.0, top, size.width(), self._row(row))

            def cell(painter: QPainter, row: Row = row, box: QRectF = box) -> None:
                self._paint_cell(painter, row, row.cells[index], box)

            colour = self.theme.panel if k % 2 else self.theme.paper
            add((row.title, row.limit, row.cells[index]), top, tops[k + 1], cell, colour)
        bottom = tops[-1]
        words = ("", "being computed") if result.rough else governing_text(result)
        add(words, bottom, size.height(), lambda painter: self._paint_foot(painter, words, bottom + 2, size.width()))
        return parts

    def _text(
        self, painter: QPainter, box: QRectF, text: str, align: Qt.AlignmentFlag, kind: str = "normal",
        colour: str = "", bold: bool = False,
    ) -> None:  # fmt: skip
        if not text:
            return
        draw_words(painter, box, int(align), text, colour or self.theme.ink, kind, bold)

    def _paint_labels(self, painter: QPainter, line_up: LineUp, section: QRectF) -> None:
        em, units = self._em(), self.session.units
        self._text(
            painter, QRectF(10, 3, self._label_width() - 14, 1.5 * em), "Line-up", ALIGN_LEFT, "large", bold=True
        )
        self._text(
            painter, QRectF(10, 6 + 1.35 * em, self._label_width() - 14, em), "sections to one scale", ALIGN_LEFT,
            "small", self.theme.quiet,
        )  # fmt: skip
        tops = [section.bottom() + top for top in self._tops(line_up)]
        for k, row in enumerate(line_up.rows):
            top, high = tops[k], self._row(row)
            line = high / (1.0 if row.limit is None else 2.0)
            box = QRectF(10, top, self._label_width() - 14, line)
            stripe = QColor(self.theme.panel if k % 2 else self.theme.paper)
            painter.fillRect(QRectF(0, top, self.width(), high), stripe)
            self._text(painter, box, row.title, ALIGN_LEFT, bold=row.limit is not None)
            if row.limit is not None:
                self._text(
                    painter, box.translated(0, line - 2), limit_text(row, units), ALIGN_LEFT, "small", self.theme.quiet
                )  # fmt: skip
        bottom = tops[-1]
        self._text(
            painter,
            QRectF(10, bottom + 2, self._label_width() - 14, em),
            "Governs",
            ALIGN_LEFT,
            colour=self.theme.quiet,
        )
        for k, line in enumerate(LEGEND):
            box = QRectF(10, section.bottom() - (len(LEGEND) - k) * 0.95 * em - 4.0, self._label_width() - 60, em)
            self._text(painter, box, line, ALIGN_LEFT, "small", self.theme.quiet)

    def _paint_ruler(self, painter: QPainter, section: QRectF, scale: float, thickest: float) -> None:
        """Height above the common ground line, in the project's unit of length."""
        factor = 25.4e-3 if self.session.units == "inch_pound" else 1e-3
        step = nice_step(thickest / factor, 4)
        ground, x = self._ground(section), self._label_width() - 12.0
        painter.setPen(pen(self.theme.quiet, 1.0))
        painter.drawLine(QPointF(x, ground), QPointF(x, ground - thickest * scale))
        value = 0.0
        while value <= thickest / factor + 1e-9:
            y = ground - value * factor * scale
            painter.setPen(pen(self.theme.quiet, 1.0))
            painter.drawLine(QPointF(x - 5.0, y), QPointF(x, y))
            unit = " in" if factor > 0.01 else " mm"
            label = f"{value:g}" + (unit if value == 0.0 else "")
            box = QRectF(0.0, y - self._em() / 2.0, x - 8.0, self._em())
            self._text(painter, box, label, ALIGN_RIGHT, "small", self.theme.quiet)
            value = round(value + step, 9)

    def _ground(self, section: QRectF) -> float:
        return section.bottom() - 1.0 * self._em() - 4.0

    def _head_words(self, line_up: LineUp, result: CandidateResult) -> Head:
        """What stands above a candidate's column."""
        candidate = result.candidate
        base = "baseline · " if candidate.id == line_up.brief.baseline else ""
        decided = "decided · " if self._is_decided(candidate.id) else ""  # the line above the columns says it, too
        more = " …" if not self.session.is_final(candidate.id) and result.ok else ""
        ways = ((decided + base, False), (decided + base, True), (base, True))
        choices = tuple(f"{before}{verdict_line(result, short)}{more}" for before, short in ways)
        code = layup_text(result, self.session.units)
        tone = "quiet" if result.error == WAITING else "good" if result.ok and result.passes else "alarm"
        return candidate.name or candidate.id, code, choices, tone

    def _is_decided(self, candidate_id: str) -> bool:
        decision = self.session.decision
        return decision is not None and decision.candidate == candidate_id

    def _paint_head(self, painter: QPainter, head: Head, width: int, chosen: bool) -> None:
        em, (name, code, choices, tone) = self._em(), head
        if chosen:
            painter.fillRect(QRectF(0, 0, width, 3), QColor(self.theme.accent))
        box = QRectF(8, 6, width - 12, em)
        self._text(painter, box, name, ALIGN_LEFT, bold=True)
        self._text(painter, box.translated(0, 1.05 * em), code, ALIGN_LEFT, "small", self.theme.quiet)
        colour, bold = getattr(self.theme, tone), tone == "alarm"
        words = next((own for own in choices if advance(own, "small", bold) <= box.width()), choices[-1])
        self._text(painter, box.translated(0, 2.05 * em), words, ALIGN_LEFT, "small", colour, bold=bold)

    def _paint_error(self, painter: QPainter, box: QRectF, result: CandidateResult) -> None:
        painter.setPen(pen(self.theme.quiet if result.error == WAITING else self.theme.alarm))
        painter.setFont(font("normal"))
        painter.drawText(box, int(Qt.TextFlag.TextWordWrap), result.error)

    def _paint_foot(self, painter: QPainter, words: tuple[str, str], top: float, width: int) -> None:
        em, (check, place) = self._em(), words
        box = QRectF(8, top, width - 14, em)
        self._text(painter, box, check, ALIGN_LEFT)
        self._text(painter, box.translated(0, 1.1 * em), place, ALIGN_LEFT, "small", self.theme.quiet)

    def _paint_section(
        self, painter: QPainter, outlined: Outline, column: QRectF, section: QRectF, scale: float
    ) -> None:
        stack, ground, height = outlined.stack, self._ground(section), outlined.height * scale
        box = QRectF(column.left() + 10, ground - height, column.width() - 20, height)
        if outlined.ring:
            draw_ring(painter, box, stack, scale, self.theme)
            self._paint_swatches_beside(painter, box, outlined, section)
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
        size = min(12.0, self._em() - 2.0)
        painter.setFont(font("small"))
        above = QRectF(drawn.left(), drawn.top() - size - 4.0, drawn.width(), size)
        draw_face_swatches(painter, above, stack.layers[: core.start], self.theme, size)
        below = QRectF(drawn.left(), ground + 3.0, drawn.width(), size)
        draw_face_swatches(painter, below, stack.layers[core.stop :], self.theme, size)

    def _mark_of(self, result: CandidateResult, drawn: Outline) -> tuple[float, float] | None:
        """Where the chosen check governs in the section, m across and up from its middle or lowest point, if there."""
        check = self.session.check
        if result.candidate.id != self.session.candidate_id or check is None:
            return None
        if drawn.walls:
            left, bottom, right, _ = drawn.frame
            at = drawn.at(check.place.wall, check.place.s)
            return None if at is None else (at[0] - (left + right) / 2.0, at[1] - bottom)
        if drawn.ring and check.place.around is not None:
            angle = math.radians(check.place.around)
            return drawn.ring / 2.0 * math.sin(angle), drawn.ring / 2.0 * (1.0 + math.cos(angle))
        if drawn.line and check.place.y is not None:
            y, z = min(drawn.line, key=lambda point: abs(point[0] - check.place.y))
            return y, z - min(own_z for _, own_z in drawn.line) + drawn.stack.thickness / 2.0
        return None

    def _paint_mark(
        self, painter: QPainter, drawn: Outline, mark: tuple[float, float], width: int, section: QRectF, scale: float
    ) -> None:
        """A cross in the section, on a plate so that it is seen on dark plies."""
        across = scale
        if drawn.line:
            across = min(scale, ((width - 20.0) / 2.0 - 1.0) / max(abs(y) for y, _ in drawn.line))
        at = QPointF(width / 2.0 + mark[0] * across, self._ground(section) - mark[1] * scale)
        for colour, thickness in ((self.theme.raised, 4.0), (self.theme.alarm, 1.8)):
            painter.setPen(pen(colour, thickness))
            painter.drawLine(at + QPointF(-5, 0), at + QPointF(5, 0))
            painter.drawLine(at + QPointF(0, -5), at + QPointF(0, 5))

    def _paint_swatches_beside(self, painter: QPainter, box: QRectF, drawn: Outline, section: QRectF) -> None:
        """The plies of a tube's wall, outermost first, beside the ring or above it where there is no room."""
        size = min(12.0, self._em() - 2.0)
        painter.setFont(font("small"))
        above = QRectF(box.left(), section.top() + 1.0, box.width(), size)
        draw_face_swatches(painter, above, drawn.stack.layers, self.theme, size)

    def _paint_cell(self, painter: QPainter, row: Row, cell: Cell, box: QRectF) -> None:
        if cell.value is None:
            return
        em = self._em()
        fact = row.limit is None
        upper = QRectF(box.left() + 8, box.top() + 1, box.width() - 16, box.height() / (1.0 if fact else 2.0))
        lower = upper if fact else upper.translated(0, box.height() / 2.0 - 2)
        value = upper.adjusted(em, 0, -1.5 * em, 0)
        if cell.rough:  # nothing is said of it yet but the order of size
            text = f"{value_text(row, cell, self.session.units)} …"
            self._text(painter, value, text, ALIGN_RIGHT, colour=self.theme.quiet)
            return
        failed = cell.status == "fails"
        colour = self.theme.alarm if failed else ""
        self._text(painter, upper, MARKS[cell.status], ALIGN_LEFT, colour=colour or self.theme.good, bold=True)
        shown = value_text(row, cell, self.session.units)
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

    # --- input ----------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        line_up = self.session.line_up()
        if event is None or line_up is None:
            return
        index = self.column_at(event.position().x())
        if index >= 0:
            self.session.choose(line_up.results[index].candidate.id)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        self.mousePressEvent(event)
        self.opened.emit()

    def step(self, by: int) -> None:
        """Chooses the next candidate to the right (+1) or left (−1)."""
        line_up = self.session.line_up()
        if line_up is None or not line_up.results:
            return
        ids = [result.candidate.id for result in line_up.results]
        here = ids.index(self.session.candidate_id) if self.session.candidate_id in ids else 0
        self.session.choose(ids[max(0, min(here + by, len(ids) - 1))])

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        if event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self.step(1 if event.key() == Qt.Key.Key_Right else -1)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.opened.emit()
        else:
            super().keyPressEvent(event)

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent):
            text = self.explanation(event.pos().x(), event.pos().y())
            QToolTip.showText(event.globalPos(), plain(text), self)
            return True
        return super().event(event)

    def help_topic(self) -> str:
        """What F1 explains: the row under the pointer."""
        line_up, pointer = self.session.line_up(), self.mapFromGlobal(QCursor.pos())
        row = self.row_at(pointer.y()) if self.rect().contains(pointer) else -1
        return f"quantity:{line_up.rows[row].key}" if line_up is not None and row >= 0 else ""

    def explanation(self, x: float, y: float) -> str:
        """What the number under a point is, where it comes from and how far it may be trusted."""
        line_up = self.session.line_up()
        column, row = self.column_at(x), self.row_at(y)
        if line_up is None or column < 0:
            return ""
        result = line_up.results[column]
        if row < 0 or not result.ok:
            words = [result.error or f"{result.candidate.name}: {verdict(result)}. {result.candidate.note}".strip()]
            words.append(layup_text(result, self.session.units, materials=True))
            words += [f"Rests on the test series '{name}'" for name in result.tests]
            return "\n".join([*words, *(f"Finding: {text}" for text in findings_text(result, self.session.units))])
        return cell_explained(line_up.rows[row], line_up.rows[row].cells[column], self.session.units)
