"""Limits of the brief that belong to the member as a whole: deflection, turns, frequency, mass, sizes, strut."""

from __future__ import annotations

import numpy as np

from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context
from omakase.core.checks.working import Sheet, worked
from omakase.core.laminate.stack import source_of
from omakase.core.materials.provenance import Source, least_trusted
from omakase.core.members.field import Measured, Named, Place
from omakase.core.members.measured import MeasuredResponse
from omakase.core.members.panel import PanelResponse
from omakase.core.members.strip import StripResponse

STIFFNESS_KEYS = ("E1", "E2", "G12", "G13", "G23")
OWN_VIBRATION = "own vibration"
VIBRATION = Measured(0.0, OWN_VIBRATION, OWN_VIBRATION)  # stands for a load case
AREAL_KEYS = ("fibre_areal_mass", "fibre_density", "resin_density", "resin_mass_fraction", "density", "resin_uptake")


def at_most(allowable: float | None, value: float) -> tuple[float, float]:
    """(allowable, reserve) of what must not exceed a limit; both infinite without one."""
    if allowable is None:
        return np.inf, np.inf
    return allowable, allowable / value if value > 0.0 else np.inf


def _theory(context: Context) -> str:
    return "plate" if isinstance(context.response, PanelResponse) else "beam"


def _folded(context: Context) -> StripResponse | None:
    """The member, where it vibrates as folded walls."""
    response = context.response
    return response if isinstance(response, StripResponse) and response.section.bent else None


def _vibration_theory(context: Context) -> str:
    return "folded plate, in twist and aside too" if _folded(context) else f"{_theory(context)} solution"


def _of_carried(context: Context) -> tuple[str, ...]:
    """A mass that stands on a crown shakes the crown."""
    response = _folded(context)
    if response is None or not response.model.span.masses:
        return ()
    return ("what it carries counts as spread round the section: on a crown or a side alone it vibrates more slowly",)


def stiffness_source(context: Context) -> Source:
    """Least trusted stiffness among the counted layers."""
    return source_of(context.stack.layers, STIFFNESS_KEYS)


def ratio(
    context: Context, check: str, title: str, case: Named, least: float, place: Place, method: str,
    remarks: tuple[str, ...] = (), wall: str = "",
) -> CheckResult:  # fmt: skip
    """A ratio against 1 whose reserve factor is ``least``, resting on the stiffness."""
    return context.result(
        check, title, case, 1.0 / least, 1.0, place if np.isfinite(least) else Place(), reserve=least, method=method,
        source=stiffness_source(context), remarks=remarks, wall=wall,
    )  # fmt: skip


@register(
    "deflection",
    "Largest deflection at limit load",
    "Plate or beam solution (docs/methods.md)",
    "Small deflection: up to about half a panel's thickness, a tenth of a strip's or tube's length.",
    per="member",
)
def deflection(context: Context) -> list[CheckResult]:
    """One result per load case, also without a limit set (then with an infinite reserve factor)."""
    results = []
    for measure in context.response.measures["deflection"]:
        allowable, reserve = at_most(context.limits.deflection, measure.value)
        results.append(
            context.result(
                "deflection", "Deflection", measure, measure.value, allowable, Place(measure.x, measure.y),
                reserve=reserve, method=f"{_theory(context)} solution at limit load", source=stiffness_source(context),
                remarks=measure.remarks, dimension="deflection", kind="stiffness",
            )
        )  # fmt: skip
    return results


VIBRATES = "In vacuum, with its own mass and what it carries only; air and equipment lower the frequencies."


@register(
    "frequency",
    "First natural frequency against a minimum",
    "Plate or beam solution, of arched and hat strips folded plates (docs/methods.md)",
    VIBRATES,
    per="member",
)
def frequency(context: Context) -> list[CheckResult]:
    """The lowest mode, also where no minimum is set."""
    frequencies = context.response.frequencies
    if not len(frequencies):
        return []
    minimum, first = context.limits.frequency_minimum, float(frequencies[0])
    return [
        context.result(
            "frequency", "First frequency", VIBRATION, first, 0.0 if minimum is None else minimum,
            reserve=np.inf if minimum is None else first / minimum, method=f"{_vibration_theory(context)}, lowest mode",
            source=_vibration_source(context), remarks=_of_carried(context), dimension="frequency", kind="stiffness",
        )
    ]  # fmt: skip


def _vibration_source(context: Context) -> Source:
    masses = (layer.material.source(AREAL_KEYS) for layer in context.stack.layers)
    return least_trusted([stiffness_source(context), *masses])


@register(
    "frequency_band",
    "Natural frequencies against a forbidden band",
    "Plate or beam solution (docs/methods.md); the mode nearest to the band, or deepest in it",
    VIBRATES,
    per="member",
)
def frequency_band(context: Context) -> list[CheckResult]:
    """The ratio by which the nearest mode clears the band: f/high above it, low/f below it, below 1 inside."""
    frequencies, band = np.array(context.response.frequencies), context.limits.frequency_band
    if not len(frequencies) or band is None:
        return []
    clearance = np.maximum(frequencies / band[1], band[0] / frequencies)
    mode = int(np.argmin(clearance))
    value = float(frequencies[mode])
    nearest = band[1] if value / band[1] >= band[0] / value else band[0]
    remarks = _of_carried(context)
    if frequencies[-1] < band[1]:
        remarks += (f"only the lowest {len(frequencies)} modes were looked at; higher ones may fall in the band",)
    return [
        context.result(
            "frequency_band", "Forbidden band", VIBRATION, value, nearest, reserve=float(clearance[mode]),
            method=f"mode {mode + 1} is nearest to the band", source=_vibration_source(context), remarks=remarks,
            dimension="frequency", kind="stiffness",
        )
    ]  # fmt: skip


@register(
    "mass",
    "Mass of the member",
    "Sum of the layers, from cloth and resin mass",
    "Without edge close-outs, fittings and paint.",
    per="member",
)
def mass(context: Context) -> list[CheckResult]:
    """Mass against its limit."""
    measured = isinstance(context.response, MeasuredResponse)
    value = context.response.mass
    allowable, reserve = at_most(context.limits.mass, value)
    source = least_trusted(layer.material.source(AREAL_KEYS) for layer in context.stack.layers)
    return [
        context.result("mass", "Mass", None, value, allowable, reserve=reserve,
                       method="weighed" if measured else "cloth + resin + core + uptake",
                       source=source, dimension="mass", kind="limit")
    ]  # fmt: skip


@register(
    "thickness",
    "Total thickness",
    "Sum of the layers",
    "Sum of the cured plies, from cloth and resin mass, and of core and sheet as stated; of an arch or hat with its "
    "rise, of a tube its wall, of a spar its whole depth.",
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


def _sizes(context: Context, check: str, title: str, limit: float | None, method: str) -> list[CheckResult]:
    """One result for a size that the member has."""
    source = least_trusted(layer.material.source(AREAL_KEYS) for layer in context.stack.layers)
    results = []
    for measure in context.response.measures.get(check, ()):
        allowable, reserve = at_most(limit, measure.value)
        results.append(
            context.result(check, title, None, measure.value, allowable, reserve=reserve, method=method, source=source,
                           dimension="length", kind="limit")
        )  # fmt: skip
    return results


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
        context.result(
            check, title, measure, measure.value, allowable, Place(measure.x, measure.y),
            method="beam solution at limit load", source=stiffness_source(context), remarks=measure.remarks,
            dimension="angle", kind="stiffness",
        )
        for measure in context.response.measures.get(check, ())
    ]  # fmt: skip


def _by_factor(context: Context, check: str, title: str, method: str) -> list[CheckResult]:
    """Of each load case the factor at which the member buckles, against ultimate load."""
    ultimate = context.settings.ultimate_factor
    return [
        context.result(
            check, title, measure, ultimate / measure.value, 1.0, reserve=measure.value / ultimate, method=method,
            source=stiffness_source(context), remarks=measure.remarks,
        )
        for measure in context.response.measures.get(check, ())
    ]  # fmt: skip


@register(
    "strut", "The member buckles sideways as a strut under its compression",
    "Eigenvalue of the beam with shear; for a pinned even strut P_E/(1 + P_E/S) (Engesser, in Timoshenko and Gere)",
    "A straight member that bends about one axis, compression along it only; ultimate load.", per="member",
)  # fmt: skip
def strut(context: Context) -> list[CheckResult]:
    """One result per load case that compresses a strip or tube along its span."""
    return _by_factor(context, "strut", "Buckling as a strut", "lowest eigenvalue of the beam with shear")


@register(
    "tipping", "A spar that is bent or pressed buckles sideways and twists",
    "Eigenvalue of the beam with ∫ M θ v'' dx (Timoshenko and Gere 1961, chapter 6), M times √(1 − EI_z/EI_y), and the "
    "work of what is pressed in its walls on twist (Wagner 1929); open sections with the stiffness of their warping",
    "Loads on the reference line, nothing between supports that holds the spar from the side: ribs, skin and bracing "
    "hold most spars. Supports other than the first let it twist unless they clamp; clamps let it warp. Loads above "
    "the line make it buckle earlier; ultimate load.", per="member",
)  # fmt: skip
def tipping(context: Context) -> list[CheckResult]:
    """One result per load case that bends a spar which is stiffer upright than sideways, or presses what twists."""
    return _by_factor(
        context, "tipping", "Buckling sideways", "lowest eigenvalue of the beam that bends sideways and twists"
    )


@register(
    "buckling", "The panel buckles, its skin between ribs, or an arch snaps through",
    "Eigenvalue of the plate under its membrane forces, also those by which bending presses the skin of ribs; of a "
    "curved panel with NASA SP-8007's knock-down, and by raising the load in steps",
    "Small imperfections; shallow shells; ultimate load.", per="member",
)  # fmt: skip
def buckling(context: Context) -> list[CheckResult]:
    """One result per load case that compresses a panel in its plane, or its skin where that is bent with ribs."""
    return _by_factor(context, "buckling", "Panel buckling", "lowest eigenvalue of the plate")


@worked("thickness")
def work_thickness(context: Context, result: CheckResult, sheet: Sheet) -> None:
    """The layers added up, those of one kind together; left out where a shape adds to them."""
    parts: dict[tuple[str, float], int] = {}
    for layer in context.stack.layers:
        key = layer.material.id, layer.thickness
        parts[key] = parts.get(key, 0) + 1
    _added(sheet, "t", "length", [(f"a layer of {name}", value, count) for (name, value), count in parts.items()])


@worked("mass")
def work_mass(context: Context, result: CheckResult, sheet: Sheet) -> None:
    """Mass per area by cause, times the area; left out where zones, ribs or several walls share it."""
    parts = [(cause, value, 1) for cause, value in context.stack.areal_mass().items() if value > 0.0]
    if not parts or len(context.response.fields) != 1:
        return
    areal = _added(sheet, "m_A", "areal_mass", parts)
    sheet.given("A", result.value / areal, "area", "area that weighs as much")
    sheet.step("m", "m_A * A", "mass", "mass")


def _added(sheet: Sheet, symbol: str, dimension: str, parts: list[tuple[str, float, int]]) -> float:
    """(what, value, how often) added up."""
    terms = []
    for n, (what, value, count) in enumerate(parts, 1):
        sheet.given(f"{symbol}{n}", value, dimension, what)
        terms.append(f"{symbol}{n}" if count == 1 else f"{count} * {symbol}{n}")
    return sheet.step(symbol, " + ".join(terms), dimension, "together")
