"""The line-up: baseline and candidates as columns, each headed by its section to one common scale."""

from __future__ import annotations

import bisect
import math
from collections.abc import Callable
from typing import NamedTuple

from PyQt6.QtCore import QEvent, QRect, QRectF, QSize, Qt, pyqtSignal
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
from omakase.evaluate.results.lineup import LineUp, Row
from omakase.evaluate.results.wording import (
    cell_explained,
    counted,
    findings_text,
    governing_text,
    layup_text,
    verdict,
    verdict_line,
)
from omakase.ui.kit.kept_pictures import KeptPictures, Part
from omakase.ui.kit.labels import plain
from omakase.ui.kit.theme import Theme, advance, font, pen
from omakase.ui.lineup.line_up_drawn import Head, LineUpDrawn
from omakase.ui.session import Session

LABEL_WIDTH, COLUMN_WIDTH, WIDEST = 23.0, 20.0, 36.0  # in digits
STEP = 1.05
HINT = (
    "No candidate yet. Press Ctrl+N to add one, then type a layup into the quick line, for example\n"
    "2 twill200 ±45 ; core pvc80 12 ; 2 twill200 ±45        or        al6082 3 mm"
)


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

    @property
    def _drawn(self) -> LineUpDrawn:
        return LineUpDrawn(self.theme, self.session.units, self._em(), self._label_width())

    # --- geometry -------------------------------------------------------------------------------------------

    def _em(self) -> float:
        if not self._kept_em:  # asked for a hundred times at every edit
            self._kept_em = float(self.fontMetrics().height())
        return self._kept_em

    def changeEvent(self, event: QEvent | None) -> None:
        self._kept_em = 0.0
        super().changeEvent(event)

    def _needed_height(self, line_up: LineUp | None) -> int:
        rows = self._drawn.tops(line_up)[-1] if line_up else 0.0
        return int(self._drawn.head_height() + 5.0 * self._em() + rows + 2.6 * self._em())

    def _label_width(self) -> float:
        return LABEL_WIDTH * advance("0")

    def _section_height(self, line_up: LineUp) -> float:
        return self.height() - self._drawn.head_height() - self._drawn.tops(line_up)[-1] - 2.6 * self._em()

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
        below = y - self._drawn.head_height() - self._section_height(line_up)
        tops = self._drawn.tops(line_up)
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
            self._drawn.ruler(painter, place.section, place.scale, place.thickest)
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
        section = QRectF(0.0, self._drawn.head_height(), self.width(), self._section_height(line_up))
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
            QColor(self.theme.panel), lambda painter: self._drawn.labels(painter, line_up, section, self.width()),
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
            self._drawn.section(painter, drawn, QRectF(0.0, 0.0, width, self.height()), section, scale)
            if mark is not None:
                self._drawn.mark(painter, drawn, mark, width, section, scale)

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
        add(head, 0.0, section.top(), lambda painter: self._drawn.head(painter, head, size.width(), chosen))
        add("", section.top(), section.bottom(), lambda painter: None)
        if not result.ok:
            box = QRectF(8, section.bottom(), size.width() - 14, size.height() - section.bottom())
            add(result.error, section.bottom(), size.height(), lambda painter: self._drawn.error(painter, box, result))
            return parts
        tops = [section.bottom() + top for top in self._drawn.tops(line_up)]
        for k, row in enumerate(line_up.rows):
            top = tops[k]
            box = QRectF(0.0, top, size.width(), self._drawn.row(row))

            def cell(painter: QPainter, row: Row = row, box: QRectF = box) -> None:
                self._drawn.cell(painter, row, row.cells[index], box)

            colour = self.theme.panel if k % 2 else self.theme.paper
            add((row.title, row.limit, row.cells[index]), top, tops[k + 1], cell, colour)
        bottom = tops[-1]
        words = ("", "being computed") if result.rough else governing_text(result)
        add(words, bottom, size.height(), lambda painter: self._drawn.foot(painter, words, bottom + 2, size.width()))
        return parts

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
