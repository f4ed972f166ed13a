"""How a glued seam may fail: in shear, in peel, in the plies beside the glue, or in the sheets as they should."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import partial

from omakase.core.checks.registry import register_detail
from omakase.core.checks.result import CheckResult, DetailContext
from omakase.core.details.bond import Bond
from omakase.core.details.detail import LineCase
from omakase.core.laminate.bend import RADIAL_SHARE, radial_strength
from omakase.core.laminate.stack import source_of
from omakase.core.materials.provenance import Source, least_trusted

FLAWLESS = "a bond without flaws: scatter of surface and filling is in the factors only; test the seam"
SHEARED, PEELED = ("S12", "G12", "plastic", "lap_shear"), ("Zt", "E1")
FURTHEST = 100.0  # times the load, up to which a reserve is looked for


@register_detail(
    Bond, "bond_mean", "A glued seam shears off: mean over its width",
    "Line load over the overlap against the glue's lap strength, reduced for surface preparation and environment "
    "(common practice, no source)",
    "Short overlaps: a wide one is loaded at its ends only, which the next check counts.", ("lap_shear",),
)  # fmt: skip
def bond_mean(context: DetailContext) -> list[CheckResult]:
    """One result per load case."""
    own = _bond(context)
    return [
        context.result(
            "bond_mean", "Glue, mean shear", case,
            math.hypot(case.pull, case.flow) / own.overlap * context.settings.ultimate_factor, own.mean_strength,
            dimension="strength", method="line load over the overlap", source=own.adhesive.source(("lap_shear",)),
            remarks=_factors(own),
        )
        for case in own.cases
        if case.pull or case.flow
    ]  # fmt: skip


@register_detail(
    Bond, "bond_shear", "A glued seam shears off at its ends, where the two sheets stretch differently",
    "Volkersen 1938 for unlike sheets; a glue that yields until its shear strain is used up (Hart-Smith, NASA "
    "CR-112235 and -112236, 1973, from memory), scarfs and steps elastic by bars with springs between them; pull and "
    "flow combined as squares",
    "Sheets that stretch and do not bend; glue elastic, then perfectly plastic.", ("S12", "plastic"),
)  # fmt: skip
def bond_shear(context: DetailContext) -> list[CheckResult]:
    """One result per load case: line load against the load that the glue carries."""
    own = _bond(context)
    yields = own.peels and own.glue.plastic > 0.0
    results = []
    for case in own.cases:
        used = math.hypot(case.pull / own.capacity, case.flow / own.flow_capacity)
        if used <= 0.0:
            continue
        load = math.hypot(case.pull, case.flow) * context.settings.ultimate_factor
        results.append(
            context.result(
                "bond_shear", "Glue, shear at the ends", case, load,
                load / (used * context.settings.ultimate_factor), dimension="line_load",
                method=f"{'shear strain of a yielding glue' if yields else 'elastic peak'}, elastic peak "
                f"{own.peak:.1f} times the mean",
                source=own.adhesive.source(SHEARED), remarks=(FLAWLESS,),
            )
        )  # fmt: skip
    return results


@register_detail(
    Bond, "bond_peel", "A glued seam is peeled open by the eccentricity of its sheets, or by a load that opens it",
    "Sheets as beams on the glue as springs, moments at the ends of a lap as the pull straightens it (Goland and "
    "Reissner 1944, for unlike sheets; Hart-Smith 1973), against the glue's strength in tension",
    "Elastic; a fillet of glue at the end lowers the peak and is not counted.", ("Zt",),
)  # fmt: skip
def bond_peel(context: DetailContext) -> list[CheckResult]:
    """One result per load case that opens the seam."""
    own = _bond(context)
    return _peeled(context, "bond_peel", "Glue, peel", own.glue.peel_strength, own.adhesive.source(PEELED), ())


@register_detail(
    Bond, "bond_parting", "The plies beside the glue separate before the glue fails",
    "Peel stress of the glue against the flatwise tensile strength of the sheets' plies (Hart-Smith 1973)",
    "The full peak stress of the glue acts on the plies beside it.", ("Zt", "S13"),
)  # fmt: skip
def bond_parting(context: DetailContext) -> list[CheckResult]:
    """One result per load case that opens a seam between laminates."""
    own = _bond(context)
    plies = [
        layer for stack in (own.first, own.second) for layer in stack.layers
        if layer.structural and not layer.material.is_metal
    ]  # fmt: skip
    if not plies:
        return []
    weakest = min(plies, key=lambda layer: radial_strength(layer)[0])
    strength, stated = radial_strength(weakest)
    told = () if stated else (f"strength taken as {RADIAL_SHARE:g} of S13: a flatwise tension test gives it",)
    source: Source = weakest.material.source(("Zt",)) if stated else "assumed"
    return _peeled(context, "bond_parting", f"Plies pulled apart, {weakest.material.id}", strength, source, told)


@register_detail(
    Bond, "bond_sheet", "A sheet breaks where it enters the overlap, pulled and bent",
    "First-ply failure under the pull and the moment at the end of the lap (Goland and Reissner 1944)",
    "Sheets that are long compared with the overlap.", ("Xt", "Xc"),
)  # fmt: skip
def bond_sheet(context: DetailContext) -> list[CheckResult]:
    """One result per load case that pulls across the seam."""
    own = _bond(context)
    results = []
    for case in own.cases:
        if not (case.pull and own.peels):
            continue
        criterion, level = context.settings.criterion, context.settings.ultimate_factor
        reserve = _reserve(partial(_sheet_at, own, case, level, criterion), 1.0)
        results.append(
            context.result(
                "bond_sheet", "Sheet at the end of the lap", case, 1.0 / reserve, 1.0, reserve=reserve,
                method=f"first ply under pull and moment, {context.settings.criterion.replace('_', ' ')}",
                source=_plies_source(own),
                remarks=("in compression the moment is counted without its own growth",) if case.pull < 0.0 else (),
            )
        )  # fmt: skip
    return results


@register_detail(
    Bond, "laminate_first", "The laminate fails before the glue",
    "What the glue carries in shear against the weaker sheet's first-ply strength, pulled across the seam (common "
    "practice, no source)",
    "Where the brief asks for it; peel is judged by its own checks.",
)  # fmt: skip
def laminate_first(context: DetailContext) -> list[CheckResult]:
    """One result without load case, where it is asked for; the overlap and the bond line at which this changes are
    given."""
    own = _bond(context)
    if not own.laminate_first:
        return []
    wanted = own.sheet_strength()
    bears = min(own.capacity, own.mean_strength * own.overlap)
    wider, thicker = own.turns_at(wanted)
    wider = None if wider is None else max(wider, wanted / own.mean_strength)
    remarks = [
        f"turns at an overlap of {wider * 1e3:.1f} mm" if wider is not None
        else "no overlap is enough at this bond line: the ends of the glue fail first",
        f"at this overlap at a bond line of {thicker * 1e3:.2f} mm" if thicker is not None
        else "no bond line of this glue is enough at this overlap",
    ]  # fmt: skip
    return [
        context.result(
            "laminate_first", "Laminate before glue", None, wanted, bears, dimension="line_load", kind="limit",
            method="strength of the glue over that of the weaker sheet",
            source=least_trusted([own.adhesive.source(SHEARED), _plies_source(own)]), remarks=tuple(remarks),
        )
    ]  # fmt: skip


def _peeled(
    context: DetailContext, check: str, title: str, strength: float, source: Source, told: tuple[str, ...]
) -> list[CheckResult]:
    own = _bond(context)
    level = context.settings.ultimate_factor
    results = []
    for case in own.cases:
        value = own.largest_peel(case, level) if own.peels else 0.0
        if value <= 0.0:
            continue
        reserve = _reserve(partial(_peel_at, own, case, level), strength)
        results.append(
            context.result(
                check, title, case, value, strength, dimension="strength", reserve=reserve,
                method="peel at the ends of the lap, " + ("free to bend" if own.bends else "held against bending"),
                source=source, remarks=told,
            )
        )  # fmt: skip
    return results


def _peel_at(own: Bond, case: LineCase, level: float, factor: float) -> float:
    return own.largest_peel(case, level * factor)


def _sheet_at(own: Bond, case: LineCase, level: float, criterion: str, factor: float) -> float:
    return own.sheet_index(case, level * factor, criterion)


def _reserve(grows: Callable[[float], float], bound: float) -> float:
    """The factor on the load at which something that grows with it reaches its bound; infinite beyond ``FURTHEST``."""
    from scipy.optimize import brentq  # slow to import

    if grows(FURTHEST) < bound:
        return math.inf
    return math.exp(brentq(lambda k: grows(math.exp(k)) - bound, math.log(1e-6), math.log(FURTHEST), xtol=1e-8))


def _factors(own: Bond) -> tuple[str, ...]:
    if own.kept >= 1.0:
        return ()
    return (f"× {own.kept:.2f} for surface and surroundings (common practice, no source)",)


def _plies_source(own: Bond) -> Source:
    return source_of((*own.first.layers, *own.second.layers), ("Xt", "Xc", "S12"))


def _bond(context: DetailContext) -> Bond:
    assert isinstance(context.detail, Bond)
    return context.detail
