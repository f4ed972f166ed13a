"""Recipes side by side under one method: bars with their scatter, ties, and what a part gains."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent
from PyQt6.QtWidgets import QVBoxLayout

from omakase.core.specimens.statistics import difference
from omakase.evaluate.results.wording import percent_text, quantity
from omakase.evaluate.testing.comparing import MEASURES, Bar, Comparison, compare, on_the_part, same_specimen
from omakase.evaluate.testing.reducing import SeriesReport
from omakase.project.library import materials_of
from omakase.ui.kit.fields import ChoiceField, QuantityField, framed, positive
from omakase.ui.kit.flow import FlowLayout
from omakase.ui.kit.labels import Label
from omakase.ui.kit.theme import SPACE, Theme, draw_elided, font, pen
from omakase.ui.testing.model import SeriesModel
from omakase.ui.testing.page import BenchPage
from omakase.ui.testing.page_picture import PagePicture
from omakase.units import UnitSystem

DIMENSION = {"force": "force", "stiffness": "line_load", "work": "energy", "sag": "deflection"}
PER = {"specimen": "per specimen", "size": "per size", "mass": "per mass", "cost": "per cost"}
LEFT = int(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
RIGHT = int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)


class BarsPicture(PagePicture):
    """Bars of each measure, the best on top; the scatter as a whisker, a tie as ≈, a bound as ≥."""

    def __init__(self, theme: Theme) -> None:
        super().__init__(theme, "Comparison of recipes", (300, 160))
        self.comparison: Comparison | None = None
        self.per, self.chosen = "specimen", ""

    def sizeHint(self) -> QSize:
        return QSize(640, 420)

    def show_comparison(self, comparison: Comparison | None, per: str, chosen: str, units: UnitSystem) -> None:
        self.comparison, self.per, self.chosen, self.units = comparison, per, chosen, units
        self.update()

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        if self.comparison is None or not self.comparison.bars:
            self.begin("nothing to compare: a series with values is needed, and a cost, mass or size to compare per")
            return
        painter = self.begin()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        lines = sum(len(bars) + 1.6 for bars in self.comparison.bars.values())
        row = min(24.0, (self.height() - 8) / lines)
        y = 4.0
        for measure, bars in self.comparison.bars.items():
            painter.setPen(pen(self.theme.ink))
            painter.setFont(font("small", True))
            title = f"{MEASURES[measure][0]}, {PER[self.per]}" if measure != "sag" else MEASURES[measure][0]
            painter.drawText(QRectF(8, y, self.width() - 16, row), LEFT, title)
            painter.setFont(font("small"))
            y += row
            largest = max((bar.mean or 0.0) + bar.deviation for bar in bars) or 1.0
            for bar in bars:
                self._paint_bar(painter, measure, bar, QRectF(8, y, self.width() - 16, row), largest)
                y += row
            y += 0.6 * row

    def _paint_bar(self, painter: QPainter, measure: str, bar: Bar, box: QRectF, largest: float) -> None:
        t = self.theme
        name = QRectF(box.left() + 8, box.top(), 0.36 * box.width(), box.height())
        right = QRectF(box.right() - 130, box.top(), 130, box.height())
        room = right.left() - name.right() - 12
        painter.setPen(pen(t.accent if bar.series == self.chosen else t.ink))
        draw_elided(painter, name, LEFT, bar.name)
        mean = bar.mean or 0.0
        length = room * mean / largest
        middle = box.center().y()
        tone = QColor(t.accent if bar.series == self.chosen else t.carbon)
        tone.setAlpha(150)
        painter.fillRect(QRectF(name.right() + 6, box.top() + 4, length, box.height() - 8), tone)
        reach = room * bar.deviation / largest
        painter.setPen(pen(t.ink, 1.5))
        end = name.right() + 6 + length
        painter.drawLine(QPointF(end - reach, middle), QPointF(end + reach, middle))
        for x in (end - reach, end + reach):
            painter.drawLine(QPointF(x, middle - 4), QPointF(x, middle + 4))
        mark = ("≈ " if bar.tie else "") + ("≥ " if bar.at_least and bar.n == 0 else "")
        painter.setPen(pen(t.ink))
        painter.drawText(right, RIGHT, mark + self._text(measure, mean) + f"  n {bar.n}")

    def _text(self, measure: str, value: float) -> str:
        if self.per == "specimen" or measure == "sag":
            return quantity(value, DIMENSION[measure], self.units)
        return f"{value:.4g}"


class ComparePage(BenchPage):
    """All series of the chosen one's method."""

    def __init__(self, model: SeriesModel, theme: Theme) -> None:
        super().__init__()
        self.follow(model)
        self.per = ChoiceField("Compare per", PER)
        self.area = QuantityField("ratio", "Area of the part, m²", positive)
        self.area.set_value(1.0, "si")
        self.area.committed.connect(lambda _v: self.refresh())
        self.per.committed.connect(lambda _v: self.refresh())
        self.entry = self.per
        self.picture = BarsPicture(theme)
        self.words, self.part = Label(), Label()
        for label in (self.words, self.part):
            label.setWordWrap(True)
        row = FlowLayout(gap=SPACE)
        for field in (self.per, self.area):
            framed(field)
        for widget in (Label("Recipes under the same method"), self.per, Label("on a part of, m²"), self.area):
            row.addWidget(widget)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(SPACE)
        layout.addLayout(row)
        layout.addWidget(self.picture, 1)
        layout.addWidget(self.words)
        layout.addWidget(self.part)

    def set_theme(self, theme: Theme) -> None:
        self.picture.set_theme(theme)

    def fill(self) -> None:
        report, units = self.model.report, self.model.session.units
        if report is None:
            self.picture.show_comparison(None, "specimen", "", units)
            return
        same = [other for other in self.model.reports if same_specimen(report, other)]
        per = self.per.currentData()
        materials = materials_of(self.model.session.document.project)
        comparison = compare(same, materials, per)
        self.picture.show_comparison(comparison, per, report.series.id, units)
        words = list(comparison.words)
        if len(same) < 2:
            words.append("No other series broke the same specimen: test another recipe the same way to compare.")
        self.words.setText("\n".join(words))
        self.part.setText("\n".join(self._on_the_part(report, other) for other in same if other is not report))

    def _on_the_part(self, report: SeriesReport, other: SeriesReport) -> str:
        """What another recipe does to the whole part, and the difference of the main number with its interval."""
        project, units = self.model.session.document.project, self.model.session.units
        mass = on_the_part(report, other, materials_of(project), self.area._value or 1.0)
        remark = (
            f"{other.series.name} instead: {'+' if mass >= 0 else '−'}{quantity(abs(mass), 'mass', units)} on the part"
        )
        first, second = report.main, other.main
        if first is None or second is None:
            return remark
        lost = difference(
            [o.value for o in first.observations if o.exact], [o.value for o in second.observations if o.exact]
        )
        if lost is None or not first.mean:
            return remark
        low, high = (percent_text(value / first.mean) for value in (lost.lower, lost.upper))
        remark += f"; {report.titles[report.method.main].title.lower()} {percent_text(lost.value / first.mean)}"
        return f"{remark} (95 %: {low} to {high}{', no difference shown' if lost.tie else ''})"
