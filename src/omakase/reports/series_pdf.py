"""A series of tests on paper: method, specimens with their curves and numbers, statistics, deviations, prediction."""

from __future__ import annotations

import math
from collections.abc import Iterator
from pathlib import Path

import numpy as np
from reportlab.platypus import Flowable, KeepTogether, PageBreak, Spacer

from omakase.core.errors import OmakaseError
from omakase.core.progress import working_on
from omakase.core.specimens.method import Result
from omakase.core.specimens.statistics import Summary
from omakase.evaluate.results.wording import CAUTION, quantity
from omakase.evaluate.testing.reducing import VERDICT_WORDS, Reducer, SeriesReport, SpecimenReport
from omakase.project.disk import write_atomically
from omakase.project.model import Project
from omakase.reports.drawings import ACCENT, WORDS
from omakase.reports.page import LINE, QUIET, register_fonts
from omakase.reports.paper import BODY, HEADING, SMALL, TITLE, WARN, grid, in_pairs, page_width, pages, shares, text
from omakase.reports.section_drawing import INK
from omakase.units import UnitSystem

MOST_POINTS = 400  # of a curve on paper
AXES = {"strain": "strain", "deflection": "deflection", "travel": "deflection", "time": "seconds"}
CURVE = 110.0  # points, height of a drawn curve


def series_pdf(project: Project, wanted: str, day: str) -> bytes:
    """One series by its id or name, or all of them where none is named, as PDF bytes.  Raises OmakaseError."""
    register_fonts()
    reducer, width = Reducer(), page_width(project.units)
    chosen = [own for own in project.series if not wanted or wanted in (own.id, own.name)]
    reports = [report for own in chosen if (report := reducer.report(own)) is not None]
    if not reports:
        missing = f"there is no series of tests '{wanted}'" if wanted else "the project has no series of tests"
        raise OmakaseError(missing)
    story: list[Flowable] = []
    for report in reports:
        working_on(report.series.name)
        story += [*([PageBreak()] if story else []), *_series(report, project.units, width)]
    title = reports[0].series.name if len(reports) == 1 else "Series of tests"
    about = f"{project.title} · printed {day}"
    return pages(story, project.units, f"Test report: {title}", about, project.title, "Tested by: ____________")


def write_series_report(target: Path, project: Project, wanted: str, day: str) -> None:
    """Writes the report of a series.  Raises OmakaseError; an existing file is then as it was."""
    if target.suffix.lower() != ".pdf":
        raise OmakaseError(f"'{target.name}' should end in .pdf")
    write_atomically(target, series_pdf(project, wanted, day))


def _series(report: SeriesReport, units: UnitSystem, width: float) -> Iterator[Flowable]:
    series, method = report.series, report.method
    yield text(series.name, TITLE)
    yield text(f"Method: {method.title}. {method.basis}.")
    yield text(f"Valid for: {method.validity}", SMALL)
    if series.material:
        yield text(f"Material: {series.material}")
    if series.prediction is not None:
        yield text(f"Predicted on {series.prediction.on}, before the test.")
    yield text("Specimens", HEADING)
    yield grid(
        ("Specimen", "Batch", "Failed at", "How", "Worth", "Why"),
        [(own.specimen.name, own.specimen.batch, own.specimen.place, own.specimen.manner,
          VERDICT_WORDS.get(own.verdict, own.verdict), own.error or own.why) for own in report.specimens],
        shares(width, 14, 10, 13, 20, 11, 32),
    )  # fmt: skip
    drawn: list[Flowable] = [_Curve(own, units, width / 2.0 - 8.0) for own in report.specimens if own.curve is not None]
    if drawn:
        yield text("Curves", HEADING)
        yield in_pairs(drawn, width)
    yield text("Numbers of each specimen", HEADING)
    for own in report.specimens:
        if own.reduction is not None:
            yield KeepTogether(list(_numbers(own, units, width)))
    yield text("Statistics", HEADING)
    for key, summary in report.summaries.items():
        yield from _statistics(report.titles[key], summary, report.ratio(key), units)
    deviations = [f"{own.specimen.name}: {remark}" for own in report.specimens if own.reduction is not None
                  for remark in own.reduction.remarks]  # fmt: skip
    yield text("Deviations from the method", HEADING)
    for words in deviations or ["None was found by the program's rules."]:
        yield text(words, WARN if deviations else BODY)
    yield Spacer(0.0, 6.0)
    yield text(CAUTION, SMALL)


def _numbers(own: SpecimenReport, units: UnitSystem, width: float) -> Iterator[Flowable]:
    assert own.reduction is not None
    yield text(f"{own.specimen.name}: {', '.join(_size(key, value, units) for key, value in own.sizes.items())}", SMALL)
    rows = [(result.title, _value(result, units), result.formula, result.source) for result in own.reduction.results]
    yield grid(("Number", "Value", "Worked out", "Source"), rows, shares(width, 24, 14, 40, 22), (1,))
    yield Spacer(0.0, 5.0)


def _size(key: str, value: float, units: UnitSystem) -> str:
    return f"{key.replace('_', ' ')} {quantity(value, 'length', units)}"


def _value(result: Result, units: UnitSystem) -> str:
    low = quantity(result.lower, result.dimension, units)
    if result.lower == result.upper:
        return low
    if math.isinf(result.upper):
        return f"at least {low}"
    return f"{low} to {quantity(result.upper, result.dimension, units)}"


def _statistics(title: Result, summary: Summary, ratio: float | None, units: UnitSystem) -> Iterator[Flowable]:
    parts = [f"n = {summary.n}"]
    for name, value in (("mean", summary.mean), ("least", summary.minimum), ("deviation", summary.deviation)):
        if value is not None:
            parts.append(f"{name} {quantity(value, title.dimension, units)}")
    if summary.variation is not None:
        parts.append(f"variation {summary.variation:.1%}")
    for name, (value, factor) in summary.basis.items():
        parts.append(f"{name}-basis {quantity(value, title.dimension, units)} (k = {factor:.3f})")
    if ratio is not None:
        parts.append(f"measured over predicted {ratio:.3f}")
    yield text(f"{title.title}: {'; '.join(parts)}")
    for words in summary.words:
        yield text(words, SMALL)


class _Curve(Flowable):  # type: ignore[misc]
    """Force over strain, deflection or travel of one specimen."""

    def __init__(self, own: SpecimenReport, units: UnitSystem, width: float) -> None:
        super().__init__()
        assert own.curve is not None
        columns = own.curve.columns
        self.axis = next((name for name in AXES if name in columns), "")
        x = columns[self.axis] if self.axis else np.arange(len(own.curve.force), dtype=float)  # type: ignore[index]
        every = max(1, len(x) // MOST_POINTS)
        self.force, self.x = own.curve.force[::every], x[::every]
        self.most, self.name, self.units, self.width = float(own.curve.force.max()), own.specimen.name, units, width

    def wrap(self, *_room: float) -> tuple[float, float]:
        return self.width, CURVE

    def draw(self) -> None:
        canvas, low, top = self.canv, 12.0, CURVE - 14.0
        span = float(np.ptp(self.x)) or 1.0
        x = (self.x - self.x.min()) / span * self.width
        y = low + np.maximum(self.force, 0.0) / (self.most or 1.0) * (top - low)
        canvas.setStrokeColor(LINE)
        canvas.line(0.0, low, self.width, low)
        path = canvas.beginPath()
        path.moveTo(x[0], y[0])
        for px, py in zip(x[1:], y[1:], strict=True):
            path.lineTo(px, py)
        canvas.setStrokeColor(ACCENT)
        canvas.setLineWidth(0.7)
        canvas.drawPath(path)
        canvas.setFont("Body", WORDS)
        canvas.setFillColor(INK)
        canvas.drawString(0.0, CURVE - 8.0, f"{self.name}: up to {quantity(self.most, 'force', self.units)}")
        canvas.setFillColor(QUIET)
        if self.axis:
            across = quantity(span, AXES[self.axis], self.units)
            canvas.drawRightString(self.width, 3.0, f"{self.axis} over {across}")
