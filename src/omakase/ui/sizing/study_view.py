"""Studies: a number of the candidate or brief over a range against a result, as a curve or, over two, as a map."""

from __future__ import annotations

import csv
import math
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QHideEvent, QMouseEvent, QPainter, QPaintEvent, QShowEvent
from PyQt6.QtWidgets import QComboBox, QFileDialog, QGridLayout, QPushButton, QWidget

from omakase.core.errors import OmakaseError
from omakase.evaluate.results.wording import quantity
from omakase.evaluate.sizing.study import (
    Curve,
    Map,
    Measure,
    Parameter,
    Study,
    as_command,
    csv_rows,
    lightest,
    measures,
    parameters,
    table,
)
from omakase.project.library import materials_of
from omakase.ui.kit.flow import FlowLayout, page_column
from omakase.ui.kit.labels import Label, Message
from omakase.ui.kit.leaving import leave
from omakase.ui.kit.plot_frame import MIDDLE, RIGHT, PlotFrame
from omakase.ui.kit.searching import Searching
from omakase.ui.kit.telling import TellingPainter
from omakase.ui.kit.theme import SPACE, Theme, font, pen
from omakase.ui.kit.top_page import TopPage
from omakase.ui.session import Session

RIGHT_SIDE = Qt.AlignmentFlag.AlignRight


class StudyPicture(QWidget):
    """A curve with its limit, crossings and the present point, which can be dragged; or a map in shades."""

    dragged = pyqtSignal(float, bool)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.study: Curve | Map | None = None
        self.at = math.nan
        self._box = QRectF()
        self._dragging = False
        self.setMinimumSize(300, 160)
        self.setAccessibleName("Study")

    def sizeHint(self) -> QSize:
        return QSize(700, 300)

    def show_study(self, study: Curve | Map | None, at: float) -> None:
        """Shows a study, with the present value of its first parameter."""
        self.study, self.at = study, at
        self.update()

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = TellingPainter(self)
        painter.fillRect(self.rect(), QColor(self.theme.panel))
        painter.setFont(font("small"))
        em = float(painter.fontMetrics().height())
        self._box = QRectF(5.4 * em, 0.9 * em, self.width() - 6.6 * em, self.height() - 3.3 * em)
        if isinstance(self.study, Curve) and len(self.study.x) > 1:
            self._paint_curve(painter, self.study, em)
        elif isinstance(self.study, Map):
            self._paint_map(painter, self.study, em)
        else:
            painter.setPen(pen(self.theme.quiet))
            painter.drawText(self.rect(), int(Qt.AlignmentFlag.AlignCenter), "nothing worked out yet")

    # --- curves ---------------------------------------------------------------------------------------------

    def _paint_curve(self, painter: QPainter, curve: Curve, em: float) -> None:
        box, measure = self._box, curve.measure
        real = curve.y[np.isfinite(curve.y)]
        if not len(real):
            painter.setPen(pen(self.theme.quiet))
            painter.drawText(box, int(Qt.AlignmentFlag.AlignCenter), "none of these values can be evaluated")
            return
        shown = [*real, *([measure.limit] if measure.limit is not None else [])]
        low, high = min(shown), max(shown)
        margin = 0.06 * (high - low or abs(high) or 1.0)
        low, high = low - margin, high + margin

        parameter = curve.parameter
        frame = PlotFrame(painter, self.theme, box, (parameter.low, parameter.high), (low, high))
        if measure.limit is not None:
            edge = frame.at(parameter.low, measure.limit).y()
            bad = QRectF(box.left(), box.top(), box.width(), edge - box.top())
            if not measure.most:
                bad = QRectF(box.left(), edge, box.width(), box.bottom() - edge)
            shade = QColor(self.theme.alarm)
            shade.setAlpha(26)
            painter.fillRect(bad, shade)
            painter.setPen(pen(self.theme.alarm))
            painter.drawLine(QPointF(box.left(), edge), QPointF(box.right(), edge))
            text = f"{'at most' if measure.most else 'at least'} {self._text(measure.limit, measure.dimension)}"
            painter.drawText(QRectF(box.left() + 4.0, edge - 1.1 * em, box.width() - 8.0, em), RIGHT, text)
        frame.outline()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(pen(self.theme.accent, 1.8))
        frame.line(zip(curve.x.tolist(), curve.y.tolist(), strict=True))
        self._crossings(frame, curve)
        if math.isfinite(self.at):
            y = float(np.interp(self.at, curve.x[np.isfinite(curve.y)], real))
            spot = frame.at(self.at, y)
            painter.setPen(pen(self.theme.ink, 1.4))
            frame.dot(spot, 5.0, self.theme.accent)
            words = f"{self._text(self.at, parameter.dimension)}: {self._text(y, measure.dimension)}"
            frame.beside(spot, 0.3 * em, words)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        self._ends(frame, parameter, measure.dimension)
        frame.below(0, parameter.title)
        frame.below(1, f"{measure.title}; drag the point to change the candidate")

    def _crossings(self, frame: PlotFrame, curve: Curve) -> None:
        if curve.measure.limit is None:
            return
        painter, box = frame.painter, frame.box
        for k, crossing in enumerate(curve.crossings):
            x = frame.at(crossing.value, curve.measure.limit).x()
            painter.setPen(pen(self.theme.ink))
            painter.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))
            text = f"{self._text(crossing.value, curve.parameter.dimension)} {'→' if crossing.above else '←'} good"
            frame.beside(QPointF(x, box.top()), (0.2 + k % 3) * frame.em, text)

    def _text(self, value: float, dimension: str) -> str:
        return quantity(value, dimension, self.session.units)

    def _ends(self, frame: PlotFrame, parameter: Parameter, dimension: str) -> None:
        x = self._text(parameter.low, parameter.dimension), self._text(parameter.high, parameter.dimension)
        frame.ends(x, (self._text(frame.y[0], dimension), self._text(frame.y[1], dimension)))

    # --- maps -----------------------------------------------------------------------------------------------

    def _paint_map(self, painter: QPainter, study: Map, em: float) -> None:
        box = self._box
        rows, columns = len(study.y), len(study.x)
        real = study.values[np.isfinite(study.values)]
        if not len(real):
            return
        low, high = float(real.min()), float(real.max())
        width, height = box.width() / columns, box.height() / rows
        for i in range(columns):
            for j in range(rows):
                value, share = study.values[i, j], study.shares[i, j]
                left, top = round(box.left() + i * width), round(box.bottom() - (j + 1) * height)
                right, bottom = round(box.left() + (i + 1) * width), round(box.bottom() - j * height)
                cell = QRectF(left, top, right - left, bottom - top)
                if not math.isfinite(value):
                    continue
                shade = QColor(self.theme.accent)
                shade.setAlphaF(float(0.08 + 0.72 * (value - low) / ((high - low) or 1.0)))
                painter.fillRect(cell, shade)
                if math.isfinite(share) and share < 1.0:  # fails: hatched, so that it is not told by colour alone
                    painter.fillRect(cell, Qt.BrushStyle.BDiagPattern)
        self._paint_limit(painter, study)
        first, second, measure = study.first, study.second, study.measure
        frame = PlotFrame(painter, self.theme, box, (first.low, first.high), (second.low, second.high))
        frame.outline()
        now = frame.at(first.now, second.now)
        # a value stands in the middle of its cell
        x = box.left() + ((now.x() - box.left()) * (columns - 1) / columns) + 0.5 * width
        y = box.bottom() - ((box.bottom() - now.y()) * (rows - 1) / rows) - 0.5 * height
        painter.setPen(pen(self.theme.ink, 1.4))
        frame.dot(QPointF(x, y), 5.0, self.theme.panel)
        self._ends(frame, first, second.dimension)
        frame.below(0, first.title)
        key = (f"up: {second.title}; dark: {measure.title.lower()} {self._text(high, measure.dimension)}, light: "
               f"{self._text(low, measure.dimension)}; hatched: fails the brief, thick line: the limit")  # fmt: skip
        painter.drawText(QRectF(0.0, box.bottom() + 1.3 * em, self.width() - 4.0, em), MIDDLE, key)

    def _paint_limit(self, painter: QPainter, study: Map) -> None:
        """The border between what meets the brief and what fails, where two cells beside each other differ."""
        box, passes = self._box, study.shares >= 1.0
        width, height = box.width() / len(study.x), box.height() / len(study.y)
        painter.setPen(pen(self.theme.alarm, 2.5))
        for i, j in zip(*np.nonzero(passes[1:] != passes[:-1]), strict=True):
            x = box.left() + (i + 1) * width
            painter.drawLine(QPointF(x, box.bottom() - j * height), QPointF(x, box.bottom() - (j + 1) * height))
        for i, j in zip(*np.nonzero(passes[:, 1:] != passes[:, :-1]), strict=True):
            y = box.bottom() - (j + 1) * height
            painter.drawLine(QPointF(box.left() + i * width, y), QPointF(box.left() + (i + 1) * width, y))

    # --- dragging -------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and isinstance(self.study, Curve) and self._box.contains(event.position()):
            self._dragging = True
            self._drag(event, False)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._dragging:
            self._drag(event, False)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._dragging:
            self._dragging = False
            self._drag(event, True)

    def _drag(self, event: QMouseEvent, last: bool) -> None:
        if isinstance(self.study, Curve) and self._box.width() > 0.0:
            share = min(max((event.position().x() - self._box.left()) / self._box.width(), 0.0), 1.0)
            parameter = self.study.parameter
            self.at = parameter.low + share * (parameter.high - parameter.low)
            self.update()
            self.dragged.emit(self.at, last)


class StudyView(TopPage):
    """Choices of what is varied and looked at, above the picture."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(session)
        self.search = Searching("study", self)
        self._inputs: object = None
        self._held = False
        self.first = self.entry = QComboBox()
        self.second, self.measure = QComboBox(), QComboBox()
        for box, name in (
            (self.first, "Number to vary"), (self.second, "Second number to vary"), (self.measure, "Result to look at"),
        ):  # fmt: skip
            box.setAccessibleName(name)
            box.setProperty("glue", "loose")
        self.picture = StudyPicture(session, theme)
        self.message = Message()
        self.keep_csv, self.keep_picture = QPushButton("Save as CSV…"), QPushButton("Save as picture…")
        flow = FlowLayout(gap=SPACE)
        for text, box in (("vary", self.first), ("and", self.second), ("look at", self.measure)):
            flow.addWidget(Label(text))
            flow.addWidget(box)
        flow.addWidget(self.keep_csv)
        flow.addWidget(self.keep_picture)
        layout = page_column(self)
        layout.addLayout(flow)
        layout.addWidget(self.picture, 1)
        layout.addWidget(self.message)
        self.table = QWidget()
        self.cells = QGridLayout(self.table)
        self.cells.setContentsMargins(0, 0, 0, 0)
        self.cells.setHorizontalSpacing(2 * SPACE)
        self.cells.setVerticalSpacing(0)
        self.table.setVisible(False)
        layout.addWidget(self.table)
        for box in (self.first, self.second, self.measure):
            box.activated.connect(lambda _index: self.restart())
        self.picture.dragged.connect(self.set_value)
        self.search.found.connect(self._receive)
        self.search.ended.connect(self._end)
        self.keep_csv.clicked.connect(lambda: self.save_csv())
        self.keep_picture.clicked.connect(lambda: self.save_picture())
        session.brief_changed.connect(self.follow)
        session.chosen_changed.connect(self.follow)

    def set_theme(self, theme: Theme) -> None:
        self.picture.theme = theme
        self.picture.update()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.follow()

    def hideEvent(self, event: QHideEvent | None) -> None:
        super().hideEvent(event)
        self.search.stop()
        self._inputs = None

    # --- what is studied ------------------------------------------------------------------------------------

    def follow(self) -> None:
        """Starts anew when the layup, the brief or the choice is another and the view is in sight."""
        brief, candidate = self.session.brief, self.session.candidate
        inputs = self.session.searched
        if not self.isVisible() or self._held or inputs == self._inputs:
            return
        self._inputs = inputs
        if brief is None or candidate is None:
            self.message.say("Choose a candidate to study.")
            return
        offered = parameters(brief, candidate, materials_of(self.session.document.project))
        self._fill(self.first, [(parameter.title, parameter.key) for parameter in offered])
        self._fill(self.second, [("nothing else", ""), *((parameter.title, parameter.key) for parameter in offered)])
        self._fill(self.measure, [(measure.title, measure.key) for measure in measures(brief)])
        self.restart()

    @staticmethod
    def _fill(box: QComboBox, entries: list[tuple[str, str]]) -> None:
        before = box.currentData()
        if [box.itemData(i) for i in range(box.count())] != [key for _, key in entries]:
            box.clear()
            for title, key in entries:
                box.addItem(title, key)
        box.setCurrentIndex(max(box.findData(before), 0))

    def chosen(self) -> tuple[Parameter | None, Parameter | None, Measure | None]:
        """(first, second, result) as they are chosen for the present candidate."""
        brief, candidate = self.session.brief, self.session.candidate
        if brief is None or candidate is None:
            return None, None, None
        by_key = {
            parameter.key: parameter
            for parameter in parameters(brief, candidate, materials_of(self.session.document.project))
        }
        results = {measure.key: measure for measure in measures(brief)}
        return (
            by_key.get(self.first.currentData()),
            by_key.get(self.second.currentData()),
            results.get(self.measure.currentData()),
        )

    def restart(self) -> None:
        """Begins the study of what is chosen."""
        first, second, measure = self.chosen()
        brief, candidate = self.session.judged_brief, self.session.candidate
        if first is None or measure is None or brief is None or candidate is None:
            return
        self.picture.show_study(None, first.now)
        self.message.say("Working it out …")
        self.table.setVisible(False)
        project, evaluator = self.session.document.project, self.session.evaluator
        workers = self.session.workers

        def make(stopped: Callable[[], bool]) -> Iterator[object]:
            study = Study(brief, candidate, materials_of(project), evaluator, stopped)
            return study.curve(first, measure, workers=workers) if second is None else study.map(first, second, measure)

        self.search.begin(make)

    def _receive(self, study: Curve | Map) -> None:
        at = study.parameter.now if isinstance(study, Curve) else study.first.now
        self.picture.show_study(study, at)

    def _end(self, message: str) -> None:
        if message:
            self.message.warn(message)
            return
        study, units = self.picture.study, self.session.units
        if isinstance(study, Curve):
            places = [
                f"{quantity(crossing.value, study.parameter.dimension, units)} "
                f"(good {'above' if crossing.above else 'below'})"
                for crossing in study.crossings
            ]
            limit = study.measure.limit is not None
            text = f"Crosses the limit at {', '.join(places)}, by the full evaluator." if places else (
                "Does not cross its limit in this range." if limit else "The brief sets no limit on this."
            )  # fmt: skip
            by = "full" if study.verified == len(study.x) else "quick"
            best = lightest(study)
            if best is not None:
                x, *mass = best
                at = quantity(x, study.parameter.dimension, units)
                text += f" Lightest that meets the brief: {at}, {quantity(*mass, units)}."
            self.message.say(f"{len(study.x)} points by the {by} evaluator. {text}")
            self._tell_table(study)
        elif isinstance(study, Map):
            good = float(np.mean(study.shares[np.isfinite(study.shares)] >= 1.0)) if study.shares.size else 0.0
            remark = f"{study.values.size} points by the quick answer; {good:.0%} of them meet the brief."
            if study.checked:
                remark += f" Of {study.checked} points judged in full, none is more than {study.error:.1%} off."
            self.message.say(remark)

    def _tell_table(self, study: Curve) -> None:
        """All that may be studied at some values, of a number whose study asks for it."""
        brief, units = self.session.brief, self.session.units
        self.table.setVisible(study.parameter.table and brief is not None)
        if not study.parameter.table or brief is None:
            return
        while self.cells.count():
            item = self.cells.takeAt(0)
            widget = item.widget() if item is not None else None
            if widget is not None:
                leave(widget)
        titles = [study.parameter.title, *(own.title for own in measures(brief)[1:])]
        for row, (title, values) in enumerate(zip(titles, zip(*table(study, brief), strict=True), strict=True)):
            if len({value for value, _ in values}) == 1:
                continue  # what stays as it is says nothing
            self.cells.addWidget(Label(title), row, 0)
            for column, (value, dimension) in enumerate(values, 1):
                text = quantity(value, dimension, units) if np.isfinite(value) else "–"
                self.cells.addWidget(Label(text), row, column, RIGHT_SIDE)
        self.cells.setColumnStretch(self.cells.columnCount(), 1)

    def set_value(self, value: float, last: bool = True) -> None:
        """Puts a value of the first number into the candidate or brief; the study follows after the last of a drag."""
        first, _, _ = self.chosen()
        brief, candidate, project = self.session.brief, self.session.candidate, self.session.document.project
        if first is None or brief is None or candidate is None:
            return
        self._held = not last
        if first.dimension == "length":
            value = round(value, 4)
        elif first.dimension == "angle":
            value = round(value)
        try:
            command = as_command(brief, candidate, materials_of(project), first, float(value))
        except OmakaseError as error:
            self._held = False
            self.message.warn(str(error))
            return
        self.session.do(command)
        if last:
            self.session.document.end_merging()
            self.follow()

    # --- keeping it -----------------------------------------------------------------------------------------

    def save_csv(self, path: str = "") -> None:
        """Writes the study as a table in SI units."""
        if self.picture.study is None:
            return
        path = path or QFileDialog.getSaveFileName(self, "Save the study", "study.csv", "CSV (*.csv)")[0]
        if not path:
            return
        try:
            with Path(path).open("w", encoding="utf-8", newline="") as file:
                csv.writer(file).writerows(csv_rows(self.picture.study, self.session.brief))
        except OSError as error:
            self.message.warn(f"'{path}' cannot be written: {error.strerror}")
            return
        self.message.say(f"saved {Path(path).name}")

    def save_picture(self, path: str = "") -> None:
        """Writes the picture as PNG."""
        path = path or QFileDialog.getSaveFileName(self, "Save the picture", "study.png", "PNG (*.png)")[0]
        if path and not self.picture.grab().save(path):
            self.message.warn(f"'{path}' cannot be written")
        elif path:
            self.message.say(f"saved {Path(path).name}")
