"""Limits of the brief that belong to the member as a whole: deflection, turns, frequency, mass, sizes, strut."""

from __future__ import annotations

import numpy as np

from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context, Kind
from omakase.core.materials.provenance import Source, least_trusted
from omakase.core.members.field import Place
from omakase.core.members.panel import PanelResponse

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


def _theory(context: Context) -> str:
    return "plate" if isinstance(context.response, PanelResponse) else "beam"


def stiffness_source(context: Context) -> Source:
    """Least trusted stiffness among the counted layers."""
    return least_trusted(layer.material.source(STIFFNESS_KEYS) for layer in context.stack.layers if layer.structural)


@register(
    "deflection",
    "Largest deflection at limit load",
    "Plate or beam solution (docs/methods.md)",
    "Small deflection: up to about half a panel's thickness, a tenth of a strip's or tube's length.",
    per="member",
)
def deflection(context: Context) -> list[CheckResult]:
    """One result per load case, also without a limit set (then with an infinite reserve factor)."""
    allowable = context.limits.deflection
    basis = f"{_theory(context)} solution at limit load"
    return [
        _limit(
            context, "deflection", "Deflection", "stiffness", "deflection", own.value,
            np.inf if allowable is None else allowable,
            np.inf if allowable is None or own.value == 0.0 else allowable / own.value,
            own.name, Place(own.x, own.y), basis, stiffness_source(context), own.remarks, own.case,
        )
        for own in context.response.measures["deflection"]
    ]  # fmt: skip


@register(
    "frequency",
    "Natural frequencies against a minimum or a forbidden band",
    "Plate or beam solution (docs/methods.md)",
    "In vacuum, with its own mass and what it carries only; air and equipment lower the frequencies.",
    per="member",
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
    basis = f"{_theory(context)} solution, lowest mode"
    results = [
        _limit(
            context, "frequency", "First frequency", "stiffness", "frequency", first,
            0.0 if minimum is None else minimum, np.inf if minimum is None else first / minimum,
            OWN_VIBRATION, Place(), basis, source,
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


@register(
    "mass", "Mass of the member", "Areal bookkeeping", "Without edge close-outs, fittings and paint.", per="member"
)
def mass(context: Context) -> list[CheckResult]:
    """Mass against its limit."""
    value, allowable = context.response.mass, context.limits.mass
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
    "Sum of the cured plies, from cloth and resin mass, and of core and sheet as stated; with the rise of an arch or "
    "hat; of a tube's wall.",
    per="member",
)
def thickness(context: Context) -> list[CheckResult]:
    """Total thickness against its limit."""
    return _sizes(context, "thickness", "Thickness", context.limits.thickness, "sum of the layers")


@register(
    "diameter",
    "Largest outside diameter of a tube",
    "Inside diameter and wall",
    "The tube without fittings.",
    per="member",
)
def diameter(context: Context) -> list[CheckResult]:
    """Outside diameter against its limit."""
    return _sizes(context, "diameter", "Outside diameter", context.limits.diameter, "largest along the span")


def _sizes(context: Context, check: str, title: str, allowable: float | None, method: str) -> list[CheckResult]:
    """One result for a size that the member has."""
    source = least_trusted(layer.material.source(AREAL_KEYS) for layer in context.stack.layers)
    return [
        _limit(
            context, check, title, "limit", "length", own.value, np.inf if allowable is None else allowable,
            np.inf if allowable is None else allowable / own.value, "", Place(), method, source,
        )
        for own in context.response.measures.get(check, ())
    ]  # fmt: skip


@register(
    "rotation", "Largest turn of the section at limit load", "Beam solution (docs/methods.md)",
    "Small turns, up to about ten degrees.", per="member",
)  # fmt: skip
def rotation(context: Context) -> list[CheckResult]:
    """One result per load case of a strip or tube where a limit is set."""
    return _turns(context, "rotation", "Rotation", context.limits.rotation)


@register(
    "twist", "Largest twist at limit load", "Beam solution (docs/methods.md)", "Small turns, up to about ten degrees.",
    per="member",
)  # fmt: skip
def twist(context: Context) -> list[CheckResult]:
    """One result per load case of a tube where a limit is set."""
    return _turns(context, "twist", "Twist", context.limits.twist)


def _turns(context: Context, check: str, title: str, allowable: float | None) -> list[CheckResult]:
    if allowable is None:
        return []
    return [
        _limit(
            context, check, title, "stiffness", "angle", own.value, allowable,
            allowable / own.value if own.value > 0.0 else np.inf, own.name, Place(own.x, own.y),
            "beam solution at limit load", stiffness_source(context), own.remarks, own.case,
        )
        for own in context.response.measures.get(check, ())
    ]  # fmt: skip


@register(
    "strut", "The member buckles sideways as a strut under its compression",
    "Eigenvalue of the beam with shear; for a pinned even strut P_E/(1 + P_E/S) (Engesser, in Timoshenko and Gere)",
    "A straight member that bends about one axis, compression along it only; ultimate load.", per="member",
)  # fmt: skip
def strut(context: Context) -> list[CheckResult]:
    """One result per load case that presses a strip or tube along its span."""
    ultimate = context.settings.ultimate_factor
    return [
        CheckResult(
            "strut", "Buckling as a strut", "strength", "ratio", ultimate / own.value, 1.0, own.value / ultimate,
            context.limits.reserve_factor, own.name, Place(), "lowest eigenvalue of the beam with shear",
            stiffness_source(context), case_id=own.case,
        )
        for own in context.response.measures.get("strut", ())
    ]  # fmt: skip
