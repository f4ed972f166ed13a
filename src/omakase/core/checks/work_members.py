"""How the checks of legs, brackets, tubes, spars, ribs and surfaces are worked out by hand."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import wraps
from typing import TypeVar

import numpy as np

from omakase.core.checks.corners import FLANGED, _parting
from omakase.core.checks.result import CheckResult, Context
from omakase.core.checks.rib_walls import SHEAR_POWER, _shear, _under, crushing_capacity
from omakase.core.checks.spar_walls import web_capacity
from omakase.core.checks.surface import wrinkling_waves
from omakase.core.checks.tube_walls import SPREAD, WHOLE_CLAMP, _per_wall
from omakase.core.checks.working import AGREES, Sheet, Worker, worked
from omakase.core.checks.wrinkling import SOLID_CORE
from omakase.core.members.bracket import BracketResponse
from omakase.core.members.leg import LegResponse
from omakase.core.members.rib import RibCase, RibResponse
from omakase.core.members.span import SpanAnswers
from omakase.core.members.spar import SparResponse
from omakase.core.members.surface import SurfaceResponse
from omakase.core.members.tube import TubeResponse
from omakase.core.sections.cylinder import (
    axial_buckling,
    flattening_moment,
    knock_down,
    ring_moment,
    torsion_buckling,
)
from omakase.core.sections.long_plates import long_plate

SAME = 1e-9  # relative: two numbers that are one
Answers = TypeVar("Answers", bound=SpanAnswers)


def _answer(context: Context, result: CheckResult, kind: type[Answers]) -> tuple[Answers, int] | None:
    """A member's response, and which of its load cases a result is of; None for another kind of member."""
    response = context.response
    if not isinstance(response, kind):
        return None
    keys = [own.case.key for own in response.results]
    return (response, keys.index(result.case_id)) if result.case_id in keys else None


def of_kind(kind: type[Answers]) -> Callable[[Callable[..., None]], Callable[..., None]]:
    """Decorator of a worker that takes the response of a member of this kind, and which of its load cases a result is
    of; nothing is worked out for other kinds."""

    def with_answer(work: Callable[..., None]) -> Callable[..., None]:
        @wraps(work)
        def worker(context: Context, result: CheckResult, sheet: Sheet, *place: int) -> None:
            found = _answer(context, result, kind)
            if found is not None:
                work(*found, context, result, sheet, *place)

        return worker

    return with_answer


Placed = Callable[[Context, CheckResult, Sheet, int], None]


def at_places(work: Placed) -> Worker:
    """A worker that needs the sampled place along the span: where a section changes there are two at one x."""

    @wraps(work)
    def worker(context: Context, result: CheckResult, sheet: Sheet) -> None:
        if not isinstance(context.response, SpanAnswers):
            return
        away = np.abs(context.response.x - (result.place.x or 0.0))
        for k in np.nonzero(away <= away.min() + SAME)[0]:
            trial = Sheet()
            work(context, result, trial, int(k))
            if any(math.isclose(step.value, result.value, rel_tol=AGREES) for step in trial.steps):
                sheet.adopt(trial)
                return

    return worker


# --- legs -----------------------------------------------------------------------------------------------------------


@worked("clamp_pressure")
@of_kind(LegResponse)
def work_clamp_pressure(response: LegResponse, index: int, context: Context, result: CheckResult, sheet: Sheet) -> None:
    """Reaction and moment of the clamp over its length."""
    supports = response.member.span.supports
    for support, reaction in zip(supports, response.results[index].reactions, strict=True):
        if support.along > 0.0 and support.x == result.place.x:
            sheet.given("R", abs(float(reaction[0])), "force", "reaction of the clamp, limit load")
            sheet.given("M", abs(float(reaction[1])), "bending", "moment of the clamp, limit load")
            sheet.given("b", float(response.member.width(np.array([support.x]))[0]), "length", "width of the leg")
            sheet.given("a", support.along, "length", "length of the clamp")
            sheet.give_level(context)
            sheet.step("p", "j * (R / (b * a) + 6 * M / (b * a^2))", "stress", "pressure at ultimate load")
            return


@worked("bend")
def work_bend(context: Context, result: CheckResult, sheet: Sheet) -> None:
    """Moment and shear of the bend, with the stresses of a ring sector."""
    response = context.response
    if not isinstance(response, BracketResponse):
        return
    keys = [case.key for case in response.cases]
    if result.case_id not in keys:
        return
    worst = response.worst_border(response.forces[keys.index(result.case_id)])
    sheet.given("m", worst.moment, "force", "moment per width that opens the bend, N m/m, limit load")
    sheet.given("v", abs(worst.shear), "line_load", "shear force per width, limit load")
    sheet.given("i_r", max(worst.pulled, 0.0), "ratio", "radial stress over its strength, per N m/m")
    sheet.given("i_s", abs(worst.slid), "ratio", "shear between plies over its strength, per N/m")
    sheet.give_level(context)
    sheet.step("f", "j * sqrt((max(i_r * m, 0))^2 + (i_s * v)^2)", "ratio", "share at ultimate load")


# --- tubes ----------------------------------------------------------------------------------------------------------


@worked("tube_buckling")
@at_places
@of_kind(TubeResponse)
def work_tube_buckling(
    response: TubeResponse, index: int, context: Context, result: CheckResult, sheet: Sheet, k: int
) -> None:
    """Compression, bending and torsion over the loads at which the cylinder buckles."""
    length = response.member.span.length
    known = _per_wall(response, lambda wall, radius: (
        axial_buckling(wall, radius, length), knock_down(wall, radius, "axial"), knock_down(wall, radius, "bending"),
        torsion_buckling(wall, radius, length), knock_down(wall, radius, "torsion"),
    ))[k]  # fmt: skip
    forces = response.forces[index][k]
    sheet.given("P", max(-float(forces[0]), 0.0), "force", "compression, limit load")
    sheet.given("M", float(np.hypot(forces[2], forces[3])), "bending", "bending moment, limit load")
    sheet.given("T", abs(float(forces[1])), "bending", "torque, limit load")
    sheet.given("R", float(response.radii[k]), "length", "mean radius")
    sheet.given("N_c", float(known[0]), "line_load", "classical buckling load in compression")
    sheet.given("S_c", float(known[3] * known[4]), "line_load", "buckling load in torsion, knocked down")
    sheet.given("γ_a", float(known[1]), "ratio", "knock-down in compression")
    sheet.given("γ_b", float(known[2]), "ratio", "knock-down in bending")
    sheet.given("π", math.pi, "ratio", "")
    sheet.step("a", "P / (2 * π * R) / (γ_a * N_c) + M / (π * R^2) / (γ_b * N_c)", "ratio", "compression and bending")
    sheet.step("b", "T / (2 * π * R^2) / S_c", "ratio", "torsion")
    sheet.give_level(context)
    sheet.step("f", "j * (a + sqrt(a^2 + 4 * b^2)) / 2", "ratio", "1 over the factor at which both shares add up")


@worked("flattening")
@at_places
@of_kind(TubeResponse)
def work_flattening(
    response: TubeResponse, index: int, context: Context, result: CheckResult, sheet: Sheet, k: int
) -> None:
    """The bending moment over the one at which the tube collapses."""
    allowed = _per_wall(response, lambda wall, radius: (flattening_moment(wall, radius),))[k, 0]
    forces = response.forces[index][k]
    sheet.given("M", float(np.hypot(forces[2], forces[3])), "bending", "bending moment, limit load")
    sheet.given("M_c", float(allowed), "bending", "at which a long tube collapses")
    sheet.give_level(context)
    sheet.step("f", "j * M / M_c", "ratio", "share at ultimate load")


@worked("clamp_crushing")
@of_kind(TubeResponse)
def work_clamp_crushing(
    response: TubeResponse, index: int, context: Context, result: CheckResult, sheet: Sheet
) -> None:
    """The moment of a ring between two forces, over the one at which its first ply fails."""
    supports = response.member.span.supports
    for support, reaction in zip(supports, response.results[index].reactions, strict=True):
        if support.along <= 0.0 or support.x != result.place.x:
            continue
        plate, radius, _ = response.wall(support.x)
        sheet.given("R", abs(float(reaction[0])), "force", "reaction, limit load")
        sheet.given("a", support.along, "length", "length of the support")
        if support.held == "clamped":
            sheet.given("M", abs(float(reaction[1])), "bending", "moment of the clamp, limit load")
            sheet.given("c", WHOLE_CLAMP, "ratio", "of the pinch of two plates, for a clamp all round")
            sheet.step("F", "c * (R + 1.5 * M / a)", "force", "force that pinches")
        else:
            sheet.step("F", "R * 1", "force", "force that pinches")
        sheet.given("r", radius, "length", "mean radius")
        sheet.given("t", plate.stack.thickness, "length", "thickness of the wall")
        sheet.given("s", SPREAD, "ratio", "spread, times √(r t) to each side")
        sheet.given("m_1", ring_moment(1.0, 1.0), "ratio", "moment of the ring over F r, 1/π")
        acts = sheet.step("m", "m_1 * F * r / (a + 2 * s * sqrt(r * t))", "force", "moment per width, N m/m")
        sheet.give_level(context)
        allowed = acts * context.settings.ultimate_factor / result.value
        sheet.given("m_f", allowed, "force", "moment per width at which a ply fails by the brief's criterion")
        sheet.step("f", "j * m / m_f", "ratio", "share at ultimate load")
        return


@worked("overlap")
def work_overlap(context: Context, result: CheckResult, sheet: Sheet) -> None:
    """The forces of a ply across its seam, over the overlap."""
    found, place = _answer(context, result, TubeResponse), result.place
    if found is None or place.layer is None:
        return
    response, index = found
    lap, level = response.member.overlap, context.settings.ultimate_factor
    for field in response.fields:
        rows = list(field.rows or range(len(field.stack.layers)))
        if place.layer not in rows:
            continue
        i = rows.index(place.layer)
        layer = field.stack.layers[i]
        if "S13" not in layer.material.properties:
            continue
        forces = field.cases[index].strains[..., 0:3] @ field.section.Q[i][1:3].T * layer.thickness
        shares = np.hypot(forces[..., 0], forces[..., 1]) / (lap * layer.material.value("S13"))
        a, b = np.unravel_index(int(np.argmax(shares)), shares.shape)
        if math.isclose(level * float(shares[a, b]), result.value, rel_tol=SAME):
            sheet.given("n_s", float(forces[a, b, 0]), "line_load", "force of the ply around, limit load")
            sheet.given("n_xs", float(forces[a, b, 1]), "line_load", "shear of the ply, limit load")
            sheet.given("l", lap, "length", "overlap")
            sheet.given("S_13", layer.material.value("S13"), "strength", "shear strength between plies")
            sheet.give_level(context)
            sheet.step("f", "j * sqrt(n_s^2 + n_xs^2) / (l * S_13)", "ratio", "share at ultimate load")
            return


# --- spars and ribs -------------------------------------------------------------------------------------------------


@worked("wall_core_shear")
def work_wall_core_shear(context: Context, result: CheckResult, sheet: Sheet) -> None:
    """The shear strain of the faces times the core's modulus."""
    core = context.section.core
    if core is None:
        return
    material = context.stack.layers[core.layers[0]].material
    modulus = min(material.value(key) for key in ("G13", "G23"))
    strain = result.value / modulus / context.settings.ultimate_factor
    near = np.abs(context.places.strains[2])
    if not np.isclose(near, strain, rtol=1e-9).any():
        return
    sheet.given("γ", strain, "strain", "shear strain of the wall in its plane, limit load")
    sheet.given("G", modulus, "modulus", "shear modulus of the core, the lesser of both")
    sheet.give_level(context)
    sheet.step("τ", "j * G * γ", "core_stress", "shear of the core at ultimate load")


@worked("cap_crushing")
@at_places
@of_kind(SparResponse)
def work_cap_crushing(
    response: SparResponse, index: int, context: Context, result: CheckResult, sheet: Sheet, k: int
) -> None:
    """Force of the cap times curvature against what the webs carry; both grow with the load."""
    height = response.width(response.webs[0])
    carried = np.sum([web_capacity(context, response, chain.wall, height)[0] for chain in response.webs], axis=0)
    sheet.given("M", abs(float(response.forces[index][k, 2])), "bending", "bending moment, limit load")
    sheet.given("κ", abs(float(response.results[index].strains[k, 2])), "curvature", "curvature, limit load")
    sheet.given("h", float(height[k]), "length", "height of the web")
    sheet.given("n_w", float(carried[k]), "line_load", "compression that the webs carry")
    sheet.step("p", "M / h * κ", "line_load", "compression of the webs by the caps, limit load")
    sheet.give_level(context)
    sheet.step("f", "j * sqrt(p / n_w)", "ratio", "share, on the load: p grows with its square")


@worked("cap_bond")
@of_kind(SparResponse)
def work_cap_bond(response: SparResponse, index: int, context: Context, result: CheckResult, sheet: Sheet) -> None:
    """Shear flow of the web over the width of the bond."""
    flow = max(float(response.flow_at_ends(chain, index).max()) for chain in response.webs)
    sheet.given("q", flow, "line_load", "shear flow at the end of the web, limit load")
    sheet.given("b", response.member.bond, "length", "width of the bond")
    sheet.give_level(context)
    sheet.step("τ", "j * q / b", "stress", "mean shear at ultimate load")


@worked("support_crushing")
@at_places
@of_kind(SparResponse)
def work_support_crushing(
    response: SparResponse, index: int, context: Context, result: CheckResult, sheet: Sheet, k: int
) -> None:
    """The reaction over the length of the support, against the webs."""
    height = np.ones(len(response.x))
    strength = np.sum([web_capacity(context, response, chain.wall, height)[1] for chain in response.webs], axis=0)
    supports = response.member.span.supports
    for support, reaction in zip(supports, response.results[index].reactions, strict=True):
        if support.along <= 0.0 or support.x != result.place.x:
            continue
        sheet.given("R", abs(float(reaction[0])), "force", "reaction, limit load")
        sheet.given("a", support.along, "length", "length of the support")
        sheet.given("n_w", float(strength[k]), "line_load", "compression that the webs carry")
        if support.held == "clamped":
            sheet.given("M", abs(float(reaction[1])), "bending", "moment of the clamp, limit load")
            sheet.step("F", "R + 1.5 * M / a", "force", "force on the webs")
        else:
            sheet.step("F", "R * 1", "force", "force on the webs")
        sheet.give_level(context)
        sheet.step("f", "j * F / (a * n_w)", "ratio", "share at ultimate load")
        return


@worked("flange_corner")
@at_places
@of_kind(SparResponse)
def work_flange_corner(
    response: SparResponse, index: int, context: Context, result: CheckResult, sheet: Sheet, k: int
) -> None:
    """The pull of the skin times its arm, on the corner as a ring sector."""
    shape = response.member.shape
    wall, flanges = FLANGED[shape.outline]
    bond = response.rib.bond if isinstance(response, RibResponse) else response.member.bond
    arm = (bond or (shape.foot if shape.outline == "hat" else float(shape.width.first))) / 2.0
    plate = response.plate_at(wall, k)
    parting = _parting(plate, shape.radius)
    if parting is None:
        return
    sheet.given("q", abs(float(response.results[index].diagrams.load[k])), "line_load", "load along it, limit load")
    sheet.given("n", float(flanges), "ratio", "corners that share it")
    sheet.given("l", arm, "length", "arm of the pull of the skin")
    sheet.given("i", parting[0], "ratio", "radial stress over strength under 1 N m/m, of a ring sector")
    sheet.give_level(context)
    sheet.step("f", "j * i * l * q / n", "ratio", "share of the radial strength at ultimate load")


@worked("hole_buckling")
@of_kind(RibResponse)
def work_hole_buckling(response: RibResponse, index: int, context: Context, result: CheckResult, sheet: Sheet) -> None:
    """The shear flow over the buckling load of the web with its hole."""
    hole = next((own for own in response.rib.holes if own.x == result.place.x), None)
    if hole is None:
        return
    deep = _under(response, hole, response.depth)
    sheet.given("q", _under(response, hole, _shear(response, index)), "line_load", "shear flow, limit load")
    sheet.given("q_0", float(long_plate(response.web_at(hole.x)).in_shear(np.array([deep]))[0]), "line_load",
                "at which the web without holes buckles")  # fmt: skip
    sheet.given("d", hole.diameter, "length", "diameter of the hole")
    sheet.given("h", deep, "length", "height of the web")
    sheet.given("e", SHEAR_POWER, "ratio", "power, fitted to finite elements")
    sheet.give_level(context)
    sheet.step("f", "j * q / (q_0 * (1 − d / h)^e)", "ratio", "share at ultimate load")


@worked("rib_crushing")
@of_kind(RibResponse)
def work_rib_crushing(response: RibResponse, index: int, context: Context, result: CheckResult, sheet: Sheet) -> None:
    """The pressure of the skins on the web; it grows with the square of the load."""
    case = response.results[index].case
    assert isinstance(case, RibCase)
    carried = crushing_capacity(context, response)
    sheet.given("N", abs(case.pressed), "line_load", "force of the skin along the wing, limit load")
    sheet.given("κ", abs(case.bent), "curvature", "curvature of the box, limit load")
    sheet.given("s", response.rib.pitch, "length", "pitch of the ribs")
    sheet.given("n_w", float(carried.min()), "line_load", "compression that the web carries, beside holes")
    sheet.step("p", "N * κ * s", "line_load", "compression of the web, limit load")
    sheet.give_level(context)
    sheet.step("f", "j * sqrt(p / n_w)", "ratio", "share, on the load: p grows with its square")


@worked("skin_bond")
@of_kind(RibResponse)
def work_skin_bond(response: RibResponse, index: int, context: Context, result: CheckResult, sheet: Sheet) -> None:
    """Shear flow and pull over the width of the bond, as squares."""
    rib = response.rib
    pull = float(np.abs(response.results[index].diagrams.load).max())
    sheet.given("q", abs(float(response.flows_of[index])), "line_load", "shear flow of the cell, limit load")
    sheet.given("n", pull, "line_load", "pull of the skin, limit load")
    sheet.given("b", rib.bond, "length", "width of the bond")
    sheet.given("τ_b", rib.bond_shear, "stress", "shear strength of the bond")
    sheet.given("σ_b", rib.bond_tension, "stress", "tensile strength of the bond")
    sheet.give_level(context)
    sheet.step("f", "j * sqrt((q / b / τ_b)^2 + (n / b / σ_b)^2)", "ratio", "share at ultimate load")


# --- surfaces -------------------------------------------------------------------------------------------------------


@worked("filling_shear")
@of_kind(SurfaceResponse)
def work_filling_shear(
    response: SurfaceResponse, index: int, context: Context, result: CheckResult, sheet: Sheet
) -> None:
    """Shear strain of the section times the core's modulus."""
    core = response.surface.filling
    if core is None:
        return
    sheet.given("γ", response.largest_shear(response.results[index])[0], "strain", "shear strain, limit load")
    sheet.given("G", min(core.value(key) for key in ("G13", "G23")), "modulus", "shear modulus of the core")
    sheet.give_level(context)
    sheet.step("τ", "j * G * γ", "core_stress", "shear of the core at ultimate load")


@worked("filling_crushing")
@of_kind(SurfaceResponse)
def work_filling_crushing(
    response: SurfaceResponse, index: int, context: Context, result: CheckResult, sheet: Sheet
) -> None:
    """The pressure of the skins on the core; it grows with the square of the load."""
    core = response.surface.filling
    if core is None:
        return
    sheet.given("p", response.crushing(index)[0], "core_stress", "skin force times curvature, limit load")
    sheet.given("Z_c", core.value("Zc"), "core_stress", "crushing strength of the core")
    sheet.give_level(context)
    sheet.step("f", "j * sqrt(p / Z_c)", "ratio", "share, on the load: p grows with its square")


@worked("skin_wrinkling")
def work_skin_wrinkling(context: Context, result: CheckResult, sheet: Sheet) -> None:
    """The compression along the wave over the wrinkling stress of the skin in that direction."""
    waves = wrinkling_waves(context)
    if waves is None:
        return
    level, t = context.settings.ultimate_factor, context.stack.thickness
    acting = waves.share * waves.stress[waves.along]
    found = np.nonzero(np.isclose(acting * level, result.value, rtol=SAME))[0]
    if not len(found):
        return
    k = int(found[0])
    E, G = waves.core.value("E3"), min(waves.core.value(key) for key in ("G13", "G23"))
    rule = SOLID_CORE[context.settings.wrinkling]
    sheet.given("D_f", float(waves.bending[waves.along[k]]), "bending", "bending stiffness of the skin along the wave")
    sheet.given("t", t, "length", "thickness of the skin")
    sheet.step("E_f", "12 * D_f / t^3", "modulus", "bending modulus of the skin")
    sheet.given("E_c", E, "modulus", "modulus of the core through its thickness")
    sheet.given("G_c", G, "modulus", "shear modulus of the core, the lesser of both")
    sheet.given("k", rule, "ratio", "coefficient of the brief's rule")
    sheet.step("σ_w", "k * (E_f * E_c * G_c)^(1 / 3)", "stress", "wrinkling stress")
    sheet.given("N", float(acting[k]) * t, "line_load", "compression of the skin along the wave, limit load")
    sheet.give_level(context)
    sheet.step("σ", "j * N / t", "stress", "compression at ultimate load")
    sheet.step("RF", "σ_w / σ", "ratio", f"reserve factor, required {result.required:g}")
    sheet.closed = True
