"""Limits of the brief that are not strength: deflection, frequency, mass and thickness."""

from __future__ import annotations

import numpy as np

from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context, Kind, Place
from omakase.core.materials.provenance import Source, least_trusted

STIFFNESS_KEYS = ("E1", "E2", "G12", "G13", "G23")
OWN_VIBRATION = "own vibration"
AREAL_KEYS = ("fibre_areal_mass", "fibre_density", "resin_density", "resin_mass_fraction", "density", "resin_uptake")


def _limit(
    context: Context, check: str, title: str, kind: Kind, dimension: str, value: float, allowable: float,
    reserve: float, load_case: str, place: Place, method: str, source: Source, remarks: tuple[str, ...] = (),
    case_id: str = "",
) -> CheckResult:  # fmt: skip
    return CheckResult(
        check,
        title,
        kind,
        dimension,
        value,
        allowable,
        reserve,
        1.0,
        load_case,
        place,
        method,
        source,
        remarks,
        case_id,
    )


def stiffness_source(context: Context) -> Source:
    """Least trusted stiffness among the counted layers."""
    return least_trusted(layer.material.source(STIFFNESS_KEYS) for layer in context.stack.layers if layer.structural)


@register(
    "deflection",
    "Largest deflection at limit load",
    "Plate solution (docs/methods.md)",
    "Small deflection: up to about half the panel's thickness.",
)
def deflection(context: Context) -> list[CheckResult]:
    """One result per load case, also without a limit set (then with an infinite reserve factor)."""
    results = []
    for case in context.response.cases:
        value, x, y = case.largest_deflection
        allowable = context.limits.deflection
        remarks = []
        if value > context.stack.thickness / 2.0:
            remarks.append(
                f"deflection is {value / context.stack.thickness:.1f} times the thickness: beyond half of it, "
                "stretching stiffens the panel and small-deflection theory overstates the sag"
            )
        if any(edge in ("resting",) for edge in _edges(context)):
            remarks.append("resting edges are taken as not lifting off; corners may need holding down")
        results.append(
            _limit(
                context, "deflection", "Deflection", "stiffness", "deflection", value,
                np.inf if allowable is None else allowable,
                np.inf if allowable is None or value == 0.0 else allowable / value,
                case.case.name, Place(x, y), "plate solution at limit load", stiffness_source(context), tuple(remarks),
                case.case.key,
            )
        )  # fmt: skip
    return results


def _edges(context: Context) -> tuple[str, ...]:
    edges = context.response.panel.edges
    return edges.x0, edges.x1, edges.y0, edges.y1


@register(
    "frequency",
    "Natural frequencies against a minimum or a forbidden band",
    "Plate solution (docs/methods.md)",
    "Panel in vacuum with its own mass only; air and equipment lower the frequencies.",
)
def frequency(context: Context) -> list[CheckResult]:
    """First frequency against its minimum; for a band, the mode nearest to or deepest in it."""
    frequencies = np.array(context.response.frequencies)
    if not len(frequencies):
        return []
    source = least_trusted(
        [stiffness_source(context), *(layer.material.source(AREAL_KEYS) for layer in context.stack.layers)]
    )
    minimum = context.limits.frequency_minimum
    first = float(frequencies[0])
    results = [
        _limit(
            context, "frequency", "First frequency", "stiffness", "frequency", first,
            0.0 if minimum is None else minimum, np.inf if minimum is None else first / minimum,
            OWN_VIBRATION, Place(), "plate solution, lowest mode", source,
            case_id=OWN_VIBRATION,
        )
    ]  # fmt: skip
    band = context.limits.frequency_band
    if band is not None:
        # ratio by which the nearest mode clears the band: f/high above it, low/f below it, below 1 inside
        clearance = np.maximum(frequencies / band[1], band[0] / frequencies)
        mode = int(np.argmin(clearance))
        value = float(frequencies[mode])
        nearest = band[1] if value / band[1] >= band[0] / value else band[0]
        remarks: tuple[str, ...] = ()
        if frequencies[-1] < band[1]:
            remarks = (f"only the lowest {len(frequencies)} modes were looked at; higher ones may fall in the band",)
        results.append(
            _limit(
                context, "frequency_band", "Forbidden band", "stiffness", "frequency", value, nearest,
                float(clearance[mode]), OWN_VIBRATION, Place(), f"mode {mode + 1} is nearest to the band", source,
                remarks, OWN_VIBRATION,
            )
        )  # fmt: skip
    return results


@register("mass", "Mass of the panel", "Areal bookkeeping", "Flat panel without edge close-outs and fittings.")
def mass(context: Context) -> list[CheckResult]:
    """Mass against its limit."""
    panel = context.response.panel
    value = context.response.section.areal_mass * panel.length * panel.width
    allowable = context.limits.mass
    source = least_trusted(layer.material.source(AREAL_KEYS) for layer in context.stack.layers)
    return [
        _limit(
            context, "mass", "Mass", "limit", "mass", value, np.inf if allowable is None else allowable,
            np.inf if allowable is None else allowable / value, "", Place(), "cloth + resin + core + uptake", source,
        )
    ]  # fmt: skip


@register(
    "thickness",
    "Total thickness",
    "Sum of the layers",
    "Sum of the cured plies, from cloth and resin mass, and of core and sheet as stated.",
)
def thickness(context: Context) -> list[CheckResult]:
    """Total thickness against its limit."""
    value = context.stack.thickness
    allowable = context.limits.thickness
    source = least_trusted(layer.material.source(AREAL_KEYS) for layer in context.stack.layers)
    return [
        _limit(
            context, "thickness", "Thickness", "limit", "length", value, np.inf if allowable is None else allowable,
            np.inf if allowable is None else allowable / value, "", Place(), "sum of the layers", source,
        )
    ]  # fmt: skip
