"""The same specimen from several recipes side by side: strength, stiffness, work, sag under the working load."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import msgspec
import numpy as np

from omakase.core.errors import OmakaseError
from omakase.core.materials.material import Material
from omakase.core.specimens.statistics import Difference, Observation, difference, summarise
from omakase.evaluate.testing.planning import stack_of
from omakase.evaluate.testing.reducing import SeriesReport, SpecimenReport

MEASURES: dict[str, tuple[str, bool]] = {
    "force": ("force carried", True),
    "stiffness": ("stiffness", True),
    "work": ("work to failure", True),
    "sag": ("sag under the working load", False),
}
LENGTHS = ("span", "gauge_length", "length", "height")
PER = ("specimen", "size", "mass", "cost")


class Bar(msgspec.Struct, frozen=True):
    """One series in one measure: mean and deviation, n; ``tie`` with the best; ``at_least`` where bounds were seen."""

    series: str
    name: str
    mean: float | None
    deviation: float
    n: int
    tie: bool = False
    at_least: bool = False
    lost: Difference | None = None


class Comparison(msgspec.Struct, frozen=True):
    """Bars by measure, best first, and what to know about the ranks."""

    bars: dict[str, tuple[Bar, ...]]
    words: tuple[str, ...]


def values_of(report: SpecimenReport, working_load: float) -> dict[str, tuple[float, bool]]:
    """(value, is a bound) of each measure of one specimen."""
    if report.data is None or report.reduction is None or report.verdict == "void":
        return {}
    bound = report.verdict == "at_least"
    bore = Observation("", report.data.held, np.inf if report.data.failed is None else report.data.failed)
    values = {"force": (bore.value, bound or not bore.exact)}
    work = report.reduction.get("work")
    if work is not None:
        values["work"] = work.lower, bound
    line = report.reduction.line
    if line is not None and line.slope > 0.0:
        values["stiffness"] = line.slope, False
        sag = _sag(report, working_load)
        if sag is not None:
            values["sag"] = sag, False
    return values


def _sag(report: SpecimenReport, load: float) -> float | None:
    """Deflection under the working load, from the curve rather than the line, toe taken off."""
    reduction, curve = report.reduction, report.curve
    assert reduction is not None
    assert reduction.line is not None
    if load <= 0.0:
        return None
    if curve is None or reduction.axis not in curve.columns:
        return load / reduction.line.slope
    x = curve.columns[reduction.axis]
    reached = np.nonzero(curve.force[: curve.peak + 1] >= load)[0]
    return float(x[reached[0]]) - reduction.line.toe if len(reached) else None


def same_specimen(first: SeriesReport, second: SeriesReport) -> bool:
    """Whether two series broke the same specimen: one method, and every length but width and thickness alike to 5 %."""
    if first.method is not second.method:
        return False
    keys = [size.key for size in first.method.sizes if size.dimension == "length"]
    loose = ("width", "thickness", "core_thickness", "face_thickness")
    a, b = first.series.sizes, second.series.sizes
    return all(np.isclose(a.get(key, 0.0), b.get(key, 0.0), rtol=0.05) for key in keys if key not in loose)


def compare(
    reports: Sequence[SeriesReport], materials: Mapping[str, Material], per: str = "specimen",
) -> Comparison:  # fmt: skip
    """All measures of several series; ``per`` : one of PER.  Raises OmakaseError for mixed methods."""
    if len({report.series.method for report in reports}) > 1:
        raise OmakaseError("only series of one method can be compared")
    bars: dict[str, tuple[Bar, ...]] = {}
    without = [report.series.name for report in reports if _scale(report, per, materials) <= 0.0]
    for measure, (_, more) in MEASURES.items():
        gathered = []
        for report in reports:
            scale = _scale(report, per, materials)
            if scale <= 0.0:
                continue
            seen = [values_of(one, report.series.working_load).get(measure) for one in report.specimens]
            values = [(value / scale, bound) for value, bound in (s for s in seen if s is not None)]
            if values:
                gathered.append((report, values))
        if gathered:
            bars[measure] = _ranked(gathered, more)
    remarks = (f"Left out, since no {per} is stated: {', '.join(without)}.",) if without else ()
    return Comparison(bars, (*remarks, *_words(bars)))


def _ranked(gathered: list[tuple[SeriesReport, list[tuple[float, bool]]]], more: bool) -> tuple[Bar, ...]:
    bars = []
    exact = {report.series.id: [value for value, bound in values if not bound] for report, values in gathered}
    for report, values in gathered:
        summary = summarise([Observation("", value, np.inf if bound else value) for value, bound in values])
        mean = summary.mean if summary.mean is not None else max(value for value, _ in values)
        bars.append(Bar(report.series.id, report.series.name, mean, summary.deviation or 0.0, summary.n,
                         at_least=any(bound for _, bound in values)))  # fmt: skip
    bars.sort(key=lambda bar: bar.mean or 0.0, reverse=more)
    best = bars[0]
    ranked = [best]
    for bar in bars[1:]:
        lost = difference(exact[best.series], exact[bar.series])
        ranked.append(msgspec.structs.replace(bar, tie=lost is not None and lost.tie, lost=lost))
    return tuple(ranked)


def specimen_area(sizes: Mapping[str, float], *more: str) -> float:
    """Width of a specimen times what it is long by, one of LENGTHS or ``more``, m²; 0 where neither is known."""
    return sizes.get("width", 0.0) * max(sizes.get(key, 0.0) for key in (*LENGTHS, *more))


def _scale(report: SeriesReport, per: str, materials: Mapping[str, Material]) -> float:
    """What a value is divided by: 1, the specimen's width × thickness, its mass, or its cost."""
    sizes = report.series.sizes
    if per == "size":
        return sizes.get("width", 0.0) * sizes.get("thickness", sizes.get("core_thickness", 1.0)) or 0.0
    area = specimen_area(sizes, "overlap")
    if per == "cost":
        return area * report.series.cost
    if per == "mass":
        weighed = [one.specimen.mass.value for one in report.specimens if one.specimen.mass is not None]
        return float(np.mean(weighed)) if weighed else area * areal_mass(report, materials)
    return 1.0


def areal_mass(report: SeriesReport, materials: Mapping[str, Material]) -> float:
    """kg/m² of a series' layup; 0 where it has none."""
    try:
        stack = stack_of(report.series.layers, report.series.turned, materials)
    except OmakaseError:
        return 0.0
    return sum(stack.areal_mass().values())


def _words(bars: Mapping[str, tuple[Bar, ...]]) -> tuple[str, ...]:
    """Where the ranks by strength, stiffness and sag differ beyond a tie."""
    words = []
    first = {measure: pair[0] for measure, pair in bars.items() if len(pair) > 1}
    if "force" in first:
        for measure in ("stiffness", "sag", "work"):
            if measure in first and first[measure].series != first["force"].series:
                second = next((bar for bar in bars[measure] if bar.series == first["force"].series), None)
                if second is not None and not second.tie:
                    words.append(f"{first['force'].name} carries the most, but {first[measure].name} is best in "
                                 f"{MEASURES[measure][0]}: a part can be strong and still feel soft")  # fmt: skip
    for measure, pair in bars.items():
        ties = [bar.name for bar in pair if bar.tie]
        if ties:
            words.append(f"{MEASURES[measure][0]}: {pair[0].name} is within scatter of {', '.join(ties)}")
        if any(bar.at_least for bar in pair):
            names = ", ".join(bar.name for bar in pair if bar.at_least)
            words.append(f"{MEASURES[measure][0]}: some specimens of {names} held more than is shown")
    return tuple(words)


def on_the_part(first: SeriesReport, second: SeriesReport, materials: Mapping[str, Material], area: float) -> float:
    """Mass in kg that a part of this area gains when it goes from the first recipe to the second."""
    return (areal_mass(second, materials) - areal_mass(first, materials)) * area
