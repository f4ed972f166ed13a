"""Predicted against measured, and what may be accepted from a series: a tested allowable, or a factor on a check."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

import msgspec
import numpy as np

from omakase.core.checks.registry import all_checks
from omakase.core.errors import OmakaseError
from omakase.core.materials.material import Material
from omakase.core.materials.properties import PROPERTIES
from omakase.core.specimens.statistics import Observation, Summary, summarise
from omakase.evaluate.testing.planning import stack_of
from omakase.evaluate.testing.reducing import SeriesReport
from omakase.project.commands import ArrangeAcceptances
from omakase.project.library import stated_materials, with_accepted
from omakase.project.model import Acceptance, Project
from omakase.project.series import accept

ABOVE = (
    "The factor is above 1: it would raise an allowable on the strength of this series alone. Look for a datasheet "
    "value that is too low, and accept the tested strength instead."
)
STRESSES = ("strength", "core_stress", "stress")
BASES = {"B": "B-basis", "mean": "mean", "minimum": "minimum", "A": "A-basis"}


class Point(msgspec.Struct, frozen=True):
    """One specimen in the picture of predicted against measured, Pa; ``at_least`` where it did not fail properly."""

    series: str
    name: str
    specimen: str
    manner: str
    material: str
    check: str
    predicted: float
    measured: float
    at_least: bool


class Offer(msgspec.Struct, frozen=True):
    """Something a series may change.  ``before`` : the value now, SI, 1 for a factor; ``bases`` : basis to value."""

    title: str
    kind: str
    material: str
    keys: tuple[str, ...]
    dimension: str
    before: float
    bases: dict[str, float]
    text: str
    warning: str = ""  # what to look at before accepting it

    @property
    def usual(self) -> str:
        """What to take if nobody says otherwise: B-basis for strength, the smallest of few values, the mean else."""
        if "stiff" in self.text:
            return "mean"
        return "B" if "B" in self.bases else "minimum"


def points(reports: Iterable[SeriesReport]) -> list[Point]:
    """Every specimen with a value and a prediction frozen before it."""
    marks = []
    for report in reports:
        frozen = report.series.prediction
        expected = frozen.values.get("strength") if frozen is not None else None
        title = report.titles.get("strength")
        if not expected or title is None or title.dimension not in STRESSES or frozen is None:
            continue
        predicted_manner = min(frozen.forces, key=frozen.forces.__getitem__, default="")
        for specimen in report.specimens:
            seen = specimen.observation("strength")
            if seen is not None:
                marks.append(
                    Point(report.series.id, report.series.name, specimen.specimen.name,
                          specimen.specimen.manner or predicted_manner, report.series.material, report.method.check,
                          expected, seen.value, not seen.exact)
                )  # fmt: skip
    return marks


def factor_summary(report: SeriesReport) -> Summary | None:
    """Statistics of measured over predicted strength; None without a prediction."""
    frozen = report.series.prediction
    expected = frozen.values.get("strength") if frozen is not None else None
    if not expected:
        return None
    seen = [one for specimen in report.specimens if (one := specimen.observation("strength")) is not None]
    return summarise([Observation(one.name, one.lower / expected, one.upper / expected, one.batch) for one in seen])


def mode_agrees(report: SeriesReport) -> bool:
    """Whether the prediction named first the failure that the test is for, so that its ratio speaks of that check.

    What the specimens showed is in their verdicts: one that failed elsewhere gives a bound.
    """
    frozen = report.series.prediction
    if frozen is None or not report.method.wanted:
        return True
    return min(frozen.forces, key=frozen.forces.__getitem__, default="") == report.method.wanted


def offers(report: SeriesReport, materials: Mapping[str, Material]) -> list[Offer]:
    """What may be accepted from a series, the property it measures first."""
    listed = [*_allowables(report, materials)]
    ratio = factor_summary(report)
    check = report.method.check
    if (
        ratio is not None
        and ratio.mean is not None
        and check in all_checks()
        and report.series.material in materials
        and mode_agrees(report)
    ):
        text = f"measured/predicted, {_words(ratio)}"
        title = f"factor on {check.replace('_', ' ')} wherever {report.series.material} is used"
        doubt = _doubt(ratio) or (ABOVE if ratio.mean > 1.0 else "")
        listed.append(
            Offer(title, "factor", report.series.material, (check,), "ratio", 1.0, _bases(ratio), text, doubt)
        )
    return listed


def _allowables(report: SeriesReport, materials: Mapping[str, Material]) -> Iterable[Offer]:
    material = materials.get(report.series.material)
    if material is None:
        return
    for result_key, properties in report.method.becomes:
        summary = report.summaries.get(result_key)
        if summary is None or summary.mean is None:
            continue
        keys = _properties(report, material, properties, materials)
        if not keys:
            continue
        spec = PROPERTIES[keys[0]]
        stiff = "stiffness" if result_key != "strength" else "strength"
        before = material.properties[keys[0]].value if keys[0] in material.properties else np.nan
        symbols = " and ".join(PROPERTIES[key].symbol for key in keys)
        yield Offer(f"{symbols} of {material.id}", "allowable", material.id, keys, spec.dimension, before,
                    _bases(summary), f"{stiff}, {_words(summary)}", _doubt(summary))  # fmt: skip


def _properties(
    report: SeriesReport, material: Material, properties: tuple[str, ...], materials: Mapping[str, Material]
) -> tuple[str, ...]:
    """The properties that this series speaks of: along or across by how the specimens lie, both where the material
    states no difference; none for a mixed laminate, whose strength is not that of a ply."""
    series, method = report.series, report.method
    if not method.layer or method.reads == "any":
        return properties
    try:
        stack = stack_of(series.layers, series.turned, materials)
    except OmakaseError:
        return ()
    layers = [layer for layer in stack.layers if layer.material.id == series.material]
    if method.layer == "ply" and (method.reads == "faces" or len(layers) != len(stack.layers)):
        return ()
    angles = {round(layer.angle % 180.0, 6) for layer in layers}
    if method.reads == "at 45":
        return properties if angles <= {45.0, 135.0} else ()
    if angles not in ({0.0}, {90.0}):
        return ()
    across = angles == {90.0}
    if len(properties) == 1:
        return () if across else properties
    along = properties[across]
    first, second = (material.properties.get(key) for key in properties[:2])
    even = first is not None and second is not None and np.isclose(first.value, second.value)
    return properties[:2] if even and material.family == "foam" else (along,)


def _bases(summary: Summary) -> dict[str, float]:
    values = {
        "mean": summary.mean,
        "minimum": summary.minimum,
        **{name: value[0] for name, value in summary.basis.items()},
    }
    return {name: float(value) for name, value in values.items() if value is not None and value > 0.0}


def _doubt(summary: Summary) -> str:
    """What to look at before a value is accepted."""
    if summary.outlier is not None and summary.outlier.found:
        return f"{summary.outlier.name} stands out from the others: settle that first."
    return ""


def _words(summary: Summary) -> str:
    scatter = f", CV {summary.variation:.1%}" if summary.variation is not None else ""
    return f"n = {summary.n}{scatter}"


def take(project: Project, report: SeriesReport, offer: Offer, basis: str, on: str) -> ArrangeAcceptances:
    """Command that accepts an offer on a basis.  Raises OmakaseError for a value the material cannot have."""
    if basis not in offer.bases:
        raise OmakaseError(f"there is no {BASES[basis]} value from so few specimens")
    materials, accepted = project.acceptances, None
    for key in offer.keys:
        entry = Acceptance(
            "", report.series.id, report.series.name, "factor" if offer.kind == "factor" else "allowable",
            offer.material, key, offer.bases[basis], f"{BASES[basis]}, {offer.text}", on,
        )  # fmt: skip
        with_accepted(stated_materials(project)[offer.material], entry)
        step = accept(msgspec.structs.replace(project, acceptances=materials), entry)
        materials, accepted = step.new, step
    assert accepted is not None
    return ArrangeAcceptances(project.acceptances, materials, accepted.text)
