"""What the chosen candidate depends on, as ranked bars, and why it differs from another one."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QHideEvent, QPainter, QPaintEvent, QShowEvent

from omakase.core.errors import OmakaseError
from omakase.evaluate.results.wording import percent_text, quantity
from omakase.evaluate.sizing.explain import Difference, explain
from omakase.evaluate.sizing.sensitivity import Sensitivity, SensitivitySearch
from omakase.project.library import materials_of
from omakase.project.model import Candidate
from omakase.ui.kit.picture import Picture
from omakase.ui.kit.searching import Searching
from omakase.ui.kit.theme import Theme, draw_elided, pen
from omakase.ui.session import Session

RIGHT = int(Qt.AlignmentFlag.AlignRight)
BARS = 8
WORDS = {"mass": "Mass", "deflection": "Deflection", "frequency": "First frequency"}
DIMENSIONS = {"mass": "mass", "deflection": "deflection", "frequency": "frequency"}


class ReasonsPicture(Picture):
    """Above what it depends on, below why it differs from the baseline or the candidate before it."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(session, theme, "What drives its result")
        self.sensitivity: Sensitivity | None = None
        self.differences: tuple[Difference, ...] = ()
        self.message = ""
        self.search = Searching("reasons", self)
        self._inputs: object = None
        self._against = 0
        session.brief_changed.connect(self.follow)
        session.chosen_changed.connect(self.follow)
        self.search.found.connect(self._receive)
        self.search.ended.connect(self._end)

    def sizeHint(self) -> QSize:
        return QSize(280, 330)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.follow()

    def hideEvent(self, event: QHideEvent | None) -> None:
        super().hideEvent(event)
        self.search.stop()
        self._inputs = None

    @property
    def other(self) -> Candidate | None:
        """The candidate that the chosen one is compared with: the baseline first, or the next one asked for."""
        brief, candidate = self.session.brief, self.session.candidate
        if brief is None or candidate is None:
            return None
        others = [other for other in brief.candidates if other.id != candidate.id and other.layers]
        others.sort(key=lambda other: other.id != brief.baseline)
        return others[self._against % len(others)] if others else None

    def turn(self) -> None:
        """Compares with the next other candidate."""
        self._against += 1
        self._inputs = None
        self.follow()

    def follow(self) -> None:
        """Works it out anew when the layup, the brief or the choice is another and the picture is in sight."""
        brief, candidate = self.session.judged_brief, self.session.candidate
        other = self.other
        inputs = self.session.searched, other and other.layers
        if not self.isVisible() or inputs == self._inputs:
            return
        self._inputs = inputs
        self.sensitivity, self.differences, self.message = None, (), "drawing samples …"
        self.update()
        if brief is None or candidate is None or not candidate.layers:
            self.message = "no layup to look into"
            return
        materials, evaluator = materials_of(self.session.document.project), self.session.evaluator

        def make(stopped: Callable[[], bool]) -> Iterator[object]:
            if other is not None:
                try:
                    yield explain(brief, other, candidate, materials, evaluator)
                except OmakaseError as error:
                    yield str(error)
            sensitivity = SensitivitySearch(brief, candidate, materials, evaluator, stopped).run()
            if sensitivity is not None:
                yield candidate, sensitivity

        self.search.begin(make)

    def _receive(self, thing: object) -> None:
        if isinstance(thing, str):
            self.message = thing
        elif isinstance(thing, tuple) and len(thing) == 2 and isinstance(thing[1], Sensitivity):
            self.sensitivity = thing[1]
            self.session.take_spread(thing[0], thing[1].spread)
        elif isinstance(thing, tuple):
            self.differences = thing
        self.update()

    def _end(self, message: str) -> None:
        self.message = message or ("" if self.sensitivity else "it cannot be evaluated")
        self.update()

    # --- painting -------------------------------------------------------------------------------------------

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = self.begin()
        em = float(painter.fontMetrics().height())
        y = 0.3 * em
        if self.sensitivity is None:
            painter.setPen(pen(self.theme.quiet))
            draw_elided(painter, QRectF(8.0, y, self.width() - 16.0, em), 0, self.message)
            y += 1.4 * em
        else:
            y = self._paint_bars(painter, self.sensitivity, y, em)
        self._paint_differences(painter, y + 0.4 * em, em)

    def _paint_bars(self, painter: QPainter, sensitivity: Sensitivity, y: float, em: float) -> float:
        width = self.width() - 16.0
        painter.setPen(pen(self.theme.ink))
        draw_elided(painter, QRectF(8.0, y, width, em), 0, f"What drives it; governs: {sensitivity.governs}")
        y += 1.15 * em
        bars = [bar for bar in sensitivity.bars if bar.width > 0.002][:BARS]
        most = max((bar.width for bar in bars), default=1.0)
        middle, half = 8.0 + 0.76 * width, 0.24 * width
        for bar in bars:
            painter.setPen(pen(self.theme.quiet))
            by = f"±{bar.deviation:.0%}"
            draw_elided(painter, QRectF(8.0, y, 0.36 * width, em), 0, bar.name)
            painter.drawText(QRectF(8.0 + 0.36 * width, y, 0.14 * width, em), RIGHT, by)
            for value, colour, down in ((bar.low, self.theme.quiet, 0.2), (bar.high, self.theme.accent, 0.5)):
                line = QRectF(middle, y + down * em, value / most * half, 0.28 * em)
                painter.fillRect(line.normalized(), QColor(colour))
            y += 1.1 * em
        painter.setPen(pen(self.theme.line))
        painter.drawLine(int(middle), int(y - 1.1 * em * len(bars)), int(middle), int(y))
        painter.setPen(pen(self.theme.quiet))
        text = f"reserve ±{most:.2f}"
        draw_elided(painter, QRectF(middle - half, y, 2.0 * half, em), int(Qt.AlignmentFlag.AlignHCenter), text)
        y += 1.1 * em
        frame = QRectF(8.0, y, width, 3.2 * em)
        painter.setPen(pen(self.theme.ink))
        painter.drawText(frame, int(Qt.TextFlag.TextWordWrap), sensitivity.sentence)
        used = painter.boundingRect(frame, int(Qt.TextFlag.TextWordWrap), sensitivity.sentence)
        return y + used.height() + 0.3 * em

    def _paint_differences(self, painter: QPainter, y: float, em: float) -> None:
        other, width = self.other, self.width() - 16.0
        if other is None or not self.differences:
            return
        painter.setPen(pen(self.theme.ink))
        draw_elided(painter, QRectF(8.0, y, width, em), 0, f"Against {other.name}")
        y += 1.2 * em
        units = self.session.units
        for difference in self.differences:
            painter.setPen(pen(self.theme.ink))
            ends = [
                quantity(value, DIMENSIONS[difference.key], units) for value in (difference.before, difference.after)
            ]
            change = percent_text(difference.after / difference.before - 1.0) if difference.before else ""
            draw_elided(
                painter, QRectF(8.0, y, width, em), 0, f"{WORDS[difference.key]} {ends[0]} → {ends[1]}, {change}"
            )
            y += 1.05 * em
            painter.setPen(pen(self.theme.quiet))
            for cause, part in difference.parts:
                text = f"{part * 1e3:+.0f} g".replace("-", "−") if difference.key == "mass" and units == "si" else (
                    f"{'+' if part > 0 else '−'}{quantity(abs(part), 'mass', units)}" if difference.key == "mass"
                    else percent_text(part - 1.0)
                )  # fmt: skip
                if difference.key != "mass" and abs(part - 1.0) < 0.005:
                    continue
                draw_elided(painter, QRectF(20.0, y, 0.62 * width, em), 0, cause)
                painter.drawText(QRectF(8.0, y, width, em), RIGHT, text)
                y += 1.0 * em
            y += 0.25 * em
        painter.setPen(pen(self.theme.quiet))
        draw_elided(painter, QRectF(8.0, y, width, em), 0, "Ctrl+Shift+D: against the next candidate")
