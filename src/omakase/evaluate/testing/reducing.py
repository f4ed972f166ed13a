"""What the specimens of a series say: reduced, judged, and gathered into statistics."""

from __future__ import annotations

import msgspec
import numpy as np

from omakase.core.errors import OmakaseError
from omakase.core.specimens.curve import Curve
from omakase.core.specimens.method import BOUND_PLACES, Data, Method, Options, Reduction, Result, newtons
from omakase.core.specimens.registry import all_methods
from omakase.core.specimens.statistics import Observation, Summary, summarise
from omakase.core.specimens.steps import data_of
from omakase.project.curves import to_curve
from omakase.project.model import Series, Specimen
from omakase.project.series import sizes_of
from omakase.project.step_log import Rig, read_log

CLIPPED = 10  # rows in a row at the very largest force: the load cell or amplifier was at its end
NEAR_CAPACITY = 0.98
# numbers that a failure at the wrong place leaves whole
STIFF = ("modulus", "modulus_without_shear", "shear_modulus", "poisson", "stiffness", "bending", "shear", "yield",
         "departure", "set", "compliance")  # fmt: skip
VERDICT_WORDS = {"valid": "valid", "at_least": "at least", "void": "void", "": "no data yet"}


class SpecimenReport(msgspec.Struct, frozen=True, eq=False):
    """One specimen: its data and numbers, what they are worth and why.  ``error`` where it cannot be reduced."""

    specimen: Specimen
    sizes: dict[str, float]
    data: Data | None = None
    reduction: Reduction | None = None
    verdict: str = ""
    why: str = ""
    error: str = ""

    @property
    def curve(self) -> Curve | None:
        return self.data.curve if self.data is not None else None

    def observation(self, key: str) -> Observation | None:
        """Its value of one result for the statistics; None for a void specimen or without that result."""
        result = self.reduction.get(key) if self.reduction is not None else None
        if result is None or self.verdict == "void":
            return None
        upper = result.upper
        if self.verdict == "at_least" and key not in STIFF:
            upper = np.inf
        return Observation(self.specimen.name, result.lower, upper, self.specimen.batch)


class SeriesReport(msgspec.Struct, frozen=True, eq=False):
    """All specimens of a series and the statistics of each result they have."""

    series: Series
    method: Method
    specimens: tuple[SpecimenReport, ...]
    summaries: dict[str, Summary]
    titles: dict[str, Result]

    @property
    def main(self) -> Summary | None:
        """Statistics of the number the method is for."""
        return self.summaries.get(self.method.main)

    def ratio(self, key: str) -> float | None:
        """Measured mean over the frozen prediction."""
        summary, predicted = self.summaries.get(key), self.series.prediction
        if summary is None or summary.mean is None or predicted is None or not predicted.values.get(key):
            return None
        return summary.mean / predicted.values[key]


def options_of(series: Series, specimen: Specimen) -> Options:
    region = None if specimen.region is None else (specimen.region.start, specimen.region.end)
    return Options(region, series.toe, series.compliance, series.shear_modulus, series.offset)


def rig_of(series: Series) -> Rig:
    return Rig(series.tare, series.lever, series.items)


def data_from(series: Series, specimen: Specimen) -> Data | None:
    """What a specimen's test gave, whichever way it was taken in; None without any.  Raises OmakaseError."""
    if specimen.curve is not None:
        curve = to_curve(specimen.curve)
        peak = float(curve.force[curve.peak])
        ended = not curve.broke and not specimen.manner
        return Data(peak, None if ended else peak, curve)
    if specimen.log.strip():
        return data_of(read_log(specimen.log, rig_of(series)))
    if specimen.force is not None:
        force, half = specimen.force.value, specimen.force.half
        return Data(force - half, None if specimen.place == "none" else force + half)
    return None


def judged(series: Series, specimen: Specimen, data: Data, method: Method) -> tuple[str, str]:
    """(verdict, why): what the failure is worth; a person's own verdict goes first."""
    if specimen.verdict:
        return specimen.verdict, specimen.reason or "by hand, no reason given"
    if specimen.place in BOUND_PLACES:
        return "at_least", BOUND_PLACES[specimen.place]
    if specimen.place == "none":
        return "at_least", "a run-out: it held and did not fail"
    if specimen.place and method.accepted and specimen.place not in method.accepted:
        asked = " or ".join(method.accepted)
        return "at_least", f"it failed at the {specimen.place}: this test shows a strength only where the {asked} fails"
    if data.curve is not None and _clipped(data.curve):
        return "at_least", "off scale: the force stays constant at its largest value"
    if series.capacity > 0.0 and data.held >= NEAR_CAPACITY * series.capacity:
        return "at_least", "the rig ran out of load"
    if data.failed is None:
        if data.curve is not None:
            return "at_least", "the curve ends without a drop: say how it failed if it did"
        return "at_least", "a run-out: it held the last step"
    if data.held == data.failed:
        return "valid", ""
    return "valid", "read to half its last digit" if specimen.force is not None else "held one step, failed at the next"


def _clipped(curve: Curve) -> bool:
    at = np.nonzero(curve.force >= curve.force[curve.peak])[0]
    return len(at) >= CLIPPED and bool(np.all(np.diff(at[:CLIPPED]) == 1))


def reduce_specimen(series: Series, specimen: Specimen, method: Method) -> SpecimenReport:
    """One specimen reduced and judged; what is wrong comes back as text."""
    sizes = sizes_of(series, specimen)
    try:
        data = data_from(series, specimen)
    except OmakaseError as error:
        return SpecimenReport(specimen, sizes, error=str(error))
    if data is None:
        return SpecimenReport(specimen, sizes)
    verdict, why = judged(series, specimen, data, method)
    try:
        reduction = method.reduce(data, sizes, options_of(series, specimen))
    except OmakaseError as error:  # the data stays in sight, so that a size or region can be mended
        return SpecimenReport(specimen, sizes, data, None, verdict, why, str(error))
    remarks = (*method.size_remarks(sizes), *_other_failures(series, method, data))
    if remarks:
        reduction = msgspec.structs.replace(reduction, remarks=(*reduction.remarks, *remarks))
    return SpecimenReport(specimen, sizes, data, reduction, verdict, why)


def _other_failures(series: Series, method: Method, data: Data) -> tuple[str, ...]:
    """Failures other than the wanted that were predicted below what the specimen carried, which C393 and D7249 ask for.

    A facing or the core under a pad that should have failed earlier makes the number doubtful, whichever place of
    failure was written down.
    """
    predicted = {} if series.prediction is None else series.prediction.forces
    return tuple(
        f"'{manner}' was predicted at {newtons(force)}, below the {newtons(data.held)} it carried: check what failed "
        "first"
        for manner, force in predicted.items()
        if method.wanted and manner != method.wanted and 0.0 < force < data.held
    )


class Reducer:
    """Reduces series, remembering what has not changed: a specimen costs a millisecond, a project has hundreds."""

    def __init__(self) -> None:
        self._kept: dict[tuple[str, str], tuple[Specimen, tuple[object, ...], SpecimenReport]] = {}
        self._whole: dict[str, SeriesReport] = {}

    def report(self, series: Series) -> SeriesReport | None:
        """The report of a series; None for a method that this program does not know."""
        whole = self._whole.get(series.id)
        if whole is not None and whole.series is series:
            return whole
        method = all_methods().get(series.method)
        if method is None:
            return None
        basis = (series.method, series.sizes, series.compliance, series.shear_modulus, series.tare, series.lever,
                 series.items, series.capacity, series.toe, series.offset)  # fmt: skip
        reports = []
        for specimen in series.specimens:
            key = series.id, specimen.id
            kept = self._kept.get(key)
            if kept is None or kept[0] is not specimen or kept[1] != basis:
                kept = specimen, basis, reduce_specimen(series, specimen, method)
                self._kept[key] = kept
            reports.append(kept[2])
        titles: dict[str, Result] = {}
        for specimen_report in reports:
            for result in specimen_report.reduction.results if specimen_report.reduction is not None else ():
                titles.setdefault(result.key, result)
        summaries = {
            key: summarise([seen for specimen in reports if (seen := specimen.observation(key)) is not None])
            for key in titles
        }
        self._whole[series.id] = SeriesReport(series, method, tuple(reports), summaries, titles)
        return self._whole[series.id]
