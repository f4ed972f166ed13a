"""Statistics of a series: every result in a table, the specimens as a strip of points with mean and basis values."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent
from PyQt6.QtWidgets import QVBoxLayout

from omakase.core.specimens.statistics import Summary
from omakase.evaluate.testing.reducing import SeriesReport
from omakase.ui.kit.fitting_list import chosen_key, fill_list, fitting_list
from omakase.ui.kit.labels import Label
from omakase.ui.kit.theme import SPACE, Theme, draw_elided, pen
from omakase.ui.testing.model import SeriesModel
from omakase.ui.testing.page import BenchPage
from omakase.ui.testing.page_picture import PagePicture
from omakase.units import UnitSystem, display_unit, format_value

TITLES = ("Number", "n", "Mean", "CV", "Least", "B-basis (k)", "A-basis (k)", "Outlier", "Predicted")


class StripPicture(PagePicture):
    """One row: a point for each specimen, an arrow for "at least", a bar for an interval; mean, B and A as marks."""

    def __init__(self, theme: Theme) -> None:
        super().__init__(theme, "Strip plot of the series", (300, 150))
        self.summary: Summary | None = None
        self.predicted: float | None = None
        self.dimension, self.title = "strength", ""

    def sizeHint(self) -> QSize:
        return QSize(600, 190)

    def show_summary(self, report: SeriesReport | None, key: str, units: UnitSystem) -> None:
        self.units = units
        self.summary = report.summaries.get(key) if report is not None else None
        if report is not None and self.summary is not None:
            title = report.titles[key]
            self.dimension, self.title = title.dimension, title.title
            frozen = report.series.prediction
            self.predicted = frozen.values.get(key) if frozen is not None else None
        self.update()

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        if self.summary is None or not self.summary.observations:
            self.begin("no values yet")
            return
        self._paint(self.begin(), self.summary)

    def _paint(self, painter: QPainter, summary: Summary) -> None:
        values = [seen.lower for seen in summary.observations]
        values += [seen.upper for seen in summary.observations if np.isfinite(seen.upper)]
        values += [bound[0] for bound in summary.basis.values()]
        values += [value for value in (self.predicted, summary.bounded_mean) if value is not None]
        low, high = min(values), max(values)
        reach = (high - low) or abs(high) or 1.0
        low, high = low - 0.08 * reach, high + 0.12 * reach
        box = QRectF(14, 26, self.width() - 28, self.height() - 62)

        def at(value: float) -> float:
            return float(box.left() + (value - low) / (high - low) * box.width())

        t = self.theme
        painter.setPen(pen(t.quiet))
        draw_elided(painter, QRectF(14, 4, box.width(), 18), int(Qt.AlignmentFlag.AlignLeft),
                    f"{self.title}, {display_unit(self.dimension, self.units).label}")  # fmt: skip
        painter.setPen(pen(t.line))
        painter.drawLine(QPointF(box.left(), box.bottom()), QPointF(box.right(), box.bottom()))
        marks = [("mean", summary.mean, t.ink), ("predicted", self.predicted, t.accent),
                 ("fit with bounds", summary.bounded_mean, t.quiet)]  # fmt: skip
        marks += [(f"{name}", value[0], t.alarm) for name, value in summary.basis.items()]
        self._paint_marks(painter, box, at, [(n, v, c) for n, v, c in marks if v is not None])
        bound = summary.outlier.name if summary.outlier is not None and summary.outlier.found else None
        rows = max(len(summary.observations), 1)
        for i, seen in enumerate(summary.observations):
            y = box.top() + 10 + (box.height() - 20) * (i + 0.5) / rows
            strange = seen.exact and seen.name == bound
            colour = t.alarm if strange else t.accent
            painter.setPen(pen(colour, 1.5))
            x = at(seen.value if seen.exact else seen.lower)
            if seen.exact:
                painter.setBrush(QColor(colour))
                painter.drawEllipse(QPointF(x, y), 4, 4)
            elif np.isinf(seen.upper):
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawEllipse(QPointF(x, y), 4, 4)
                painter.drawLine(QPointF(x + 5, y), QPointF(x + 22, y))
                painter.drawLine(QPointF(x + 17, y - 4), QPointF(x + 22, y))
                painter.drawLine(QPointF(x + 17, y + 4), QPointF(x + 22, y))
            else:
                painter.drawLine(QPointF(x, y), QPointF(at(seen.upper), y))
                for end in (x, at(seen.upper)):
                    painter.drawLine(QPointF(end, y - 4), QPointF(end, y + 4))
            painter.setPen(pen(t.alarm if strange else t.quiet))
            painter.drawText(
                QPointF(x + (26 if np.isinf(seen.upper) else 8), y + 4), seen.name + (" ?" if strange else "")
            )

    def _paint_marks(self, painter: QPainter, box: QRectF, at: object, marks: list[tuple[str, float, str]]) -> None:
        right = -1e9
        level = 0
        for name, value, colour in sorted(marks, key=lambda mark: mark[1]):
            x = at(value)  # type: ignore[operator]
            painter.setPen(pen(colour, 1.0, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom() + 4))
            text = f"{name} {format_value(value, self.dimension, self.units)}"
            width = painter.fontMetrics().horizontalAdvance(text)
            start = min(max(x - width / 2, 2.0), self.width() - width - 2.0)
            level = level + 1 if start < right + 6 else 0
            right = start + width
            painter.setPen(pen(colour))
            painter.drawText(QPointF(start, box.bottom() + 15 + 13 * (level % 2)), text)


class StatisticsPage(BenchPage):
    """The table, the strip of the row that is chosen, and a warning in words."""

    def __init__(self, model: SeriesModel, theme: Theme) -> None:
        super().__init__()
        self.follow(model)
        self.key = ""
        self.list = self.entry = fitting_list("Statistics of the series", TITLES, 1)
        self.strip = StripPicture(theme)
        self.words = Label()
        self.words.setWordWrap(True)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(SPACE)
        layout.addWidget(self.list, 2)
        layout.addWidget(self.strip, 3)
        layout.addWidget(self.words)
        selection = self.list.selectionModel()
        assert selection is not None
        selection.currentRowChanged.connect(lambda _now, _before: self._choose())

    def fill(self) -> None:
        report, units = self.model.report, self.model.session.units
        before, rows = self.key, []
        for key, summary in report.summaries.items() if report is not None else ():
            rows.append((key, self._row(report, key, summary, units)))
        main = report.method.main if report is not None else ""
        fill_list(self.list, rows, before if before in dict(rows) else main, range(1, len(TITLES)))
        self._choose()

    @staticmethod
    def _row(report: SeriesReport, key: str, summary: Summary, units: UnitSystem) -> list[str]:
        title = report.titles[key]

        def shown(value: float | None) -> str:
            return "" if value is None else format_value(value, title.dimension, units)

        unit = display_unit(title.dimension, units).label
        basis = [f"{shown(value[0])} ({value[1]:.3f})" if value else "" for value in map(summary.basis.get, ("B", "A"))]
        strange = ""
        if summary.outlier is not None:
            outlier = summary.outlier
            strange = f"{outlier.name}: {outlier.residual:.2f} > {outlier.critical:.2f}" if outlier.found else "none"
        frozen = report.series.prediction
        ratio = report.ratio(key)
        count = len(summary.observations)
        expected = shown(frozen.values.get(key) if frozen is not None else None)
        return [
            f"{title.title}, {unit}" if unit else title.title,
            f"{summary.n}" if summary.n == count else f"{summary.n} + {count - summary.n}",
            shown(summary.mean),
            "" if summary.variation is None else f"{summary.variation:.1%}",
            shown(summary.minimum),
            *basis,
            strange,
            expected if ratio is None else f"{expected}, × {ratio:.2f}",
        ]

    def _choose(self) -> None:
        self.key = chosen_key(self.list)
        report = self.model.report
        self.strip.show_summary(report, self.key, self.model.session.units)
        summary = report.summaries.get(self.key) if report is not None else None
        self.words.setText("\n".join(summary.words) if summary is not None else "No specimen has been reduced yet.")

    def set_theme(self, theme: Theme) -> None:
        self.strip.set_theme(theme)
