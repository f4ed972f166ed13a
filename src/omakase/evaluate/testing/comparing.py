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
    "force": ("force borne", True),
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


def values_of(own: SpecimenReport, working_load: float) -> dict[str, tuple[float, bool]]:
    """(value, is a bound) of each measure of one specimen."""
    if own.data is None or own.reduction is None or own.verdict == "void":
        return {}
    bound = own.verdict == "at_least"
    bore = Observation("", own.data.held, np.inf if own.data.failed is None else own.data.failed)
    found = {"force": (bore.value, bound or not bore.exact)}
    work = own.reduction.get("work")
    if work is not None:
        found["work"] = work.lower, bound
    line = own.reduction.line
    if line is not None and line.slope > 0.0:
        found["stiffness"] = line.slope, False
        sag = _sag(own, working_load)
        if sag is not None:
            found["sag"] = sag, False
    return found


def _sag(own: SpecimenReport, load: float) -> float | None:
    """Deflection under the working load, from the curve rather than the line, toe taken off."""
    reduction, curve = own.reduction, own.curve
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
    if len({own.series.method for own in reports}) > 1:
        raise OmakaseError("only series of one method can be compared")
    bars: dict[str, tuple[Bar, ...]] = {}
    without = [own.series.name for own in reports if _scale(own, per, materials) <= 0.0]
    for measure, (_, more) in MEASURES.items():
        gathered = []
        for own in reports:
            scale = _scale(own, per, materials)
            if scale <= 0.0:
                continue
            seen = [values_of(one, own.series.working_load).get(measure) for one in own.specimens]
            values = [(value / scale, bound) for value, bound in (s for s in seen if s is not None)]
            if values:
                gathered.append((own, values))
        if gathered:
            bars[measure] = _ranked(gathered, more)
    told = (f"Left out, since no {per} is stated: {', '.join(without)}.",) if without else ()
    return Comparison(bars, (*told, *_words(bars)))


def _ranked(gathered: list[tuple[SeriesReport, list[tuple[float, bool]]]], more: bool) -> tuple[Bar, ...]:
    found = []
    exact = {own.series.id: [value for value, bound in values if not bound] for own, values in gathered}
    for own, values in gathered:
        summary = summarise([Observation("", value, np.inf if bound else value) for value, bound in values])
        mean = summary.mean if summary.mean is not None else max(value for value, _ in values)
        found.append(Bar(own.series.id, own.series.name, mean, summary.deviation or 0.0, summary.n,
                         at_least=any(bound for _, bound in values)))  # fmt: skip
    found.sort(key=lambda bar: bar.mean or 0.0, reverse=more)
    best = found[0]
    ranked = [best]
    for bar in found[1:]:
        lost = difference(exact[best.series], exact[bar.series])
        ranked.append(msgspec.structs.replace(bar, tie=lost is not None and lost.tie, lost=lost))
    return tuple(ranked)


def specimen_area(sizes: Mapping[str, float], *more: str) -> float:
    """Width of a specimen times what it is long by, one of LENGTHS or ``more``, m²; 0 where neither is known."""
    return sizes.get("width", 0.0) * max(sizes.get(key, 0.0) for key in (*LENGTHS, *more))


def _scale(own: SeriesReport, per: str, materials: Mapping[str, Material]) -> float:
    """What a value is divided by: 1, the specimen's width × thickness, its mass, or its cost."""
    sizes = own.series.sizes
    if per == "size":
        return sizes.get("width", 0.0) * sizes.get("thickness", sizes.get("core_thickness", 1.0)) or 0.0
    area = specimen_area(sizes, "overlap")
    if per == "cost":
        return area * own.series.cost
    if per == "mass":
        weighed = [one.specimen.mass.value for one in own.specimens if one.specimen.mass is not None]
        return float(np.mean(weighed)) if weighed else area * areal_mass(own, materials)
    return 1.0


def areal_mass(own: SeriesReport, materials: Mapping[str, Material]) -> float:
    """kg/m² of a series' layup; 0 where it has none."""
    try:
        stack = stack_of(own.series.layers, own.series.turned, materials)
    except OmakaseError:
        return 0.0
    return sum(stack.areal_mass().values())


def _words(bars: Mapping[str, tuple[Bar, ...]]) -> tuple[str, ...]:
    """Where the ranks by strength, stiffness and sag differ beyond a tie."""
    words = []
    first = {measure: own[0] for measure, own in bars.items() if len(own) > 1}
    if "force" in first:
        for measure in ("stiffness", "sag", "work"):
            if measure in first and first[measure].series != first["force"].series:
                second = next((bar for bar in bars[measure] if bar.series == first["force"].series), None)
                if second is not None and not second.tie:
                    words.append(f"{first['force'].name} carries the most, but {first[measure].name} is best in "
                                 f"{MEASURES[measure][0]}: a part can be strong and still feel soft")  # fmt: skip
    for measure, own in bars.items():
        ties = [bar.name for bar in own if bar.tie]
        if ties:
            words.append(f"{MEASURES[measure][0]}: {own[0].name} cannot be told from {', '.join(ties)}")
        if any(bar.at_least for bar in own):
            names = ", ".join(bar.name for bar in own if bar.at_least)
            words.append(f"{MEASURES[measure][0]}: some specimens of {names} held more than is shown")
    return tuple(words)


def on_the_part(first: SeriesReport, second: SeriesReport, materials: Mapping[str, Material], area: float) -> float:
    """Mass in kg that a part of this area gains when it goes from the first recipe to the second."""
    return (areal_mass(second, materials) - areal_mass(first, materials)) * area
