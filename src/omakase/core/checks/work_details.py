"""How the checks of details are worked out by hand: fasteners, inserts, seams, edges, doublers."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import wraps
from typing import TypeVar

from omakase.core.checks.fasteners import SOFTENED, hole_factor
from omakase.core.checks.inserts import insert_core, insert_face, insert_glue, insert_tested, insert_thread
from omakase.core.checks.result import CheckResult, DetailContext
from omakase.core.checks.working import Sheet, Worker, worked
from omakase.core.details.bond import Bond
from omakase.core.details.detail import LineCase, PointCase, core_layers, stiffness_along
from omakase.core.details.doubler import ENOUGH, Doubler
from omakase.core.details.edge import GENTLE, Edge
from omakase.core.details.fastener import Fastener
from omakase.core.details.insert import ROUND, Insert

SAME = 1e-9  # relative: two numbers that are one
Case = TypeVar("Case", PointCase, LineCase)
Kind = TypeVar("Kind", Fastener, Insert, Bond, Edge, Doubler)


def _case(cases: tuple[Case, ...], result: CheckResult) -> Case | None:
    return next((case for case in cases if case.key == result.case_id), None)


def _of(kind: type[Kind]) -> Callable[[Callable[..., None]], Worker]:
    """Decorator of a worker that takes the detail of this kind and the load case that a result is of."""

    def with_case(work: Callable[..., None]) -> Worker:
        @wraps(work)
        def worker(context: DetailContext, result: CheckResult, sheet: Sheet) -> None:
            own = context.detail
            assert isinstance(own, kind)
            case = _case(own.cases, result)
            if case is not None:
                work(own, case, context, result, sheet)

        return worker

    return with_case


# --- fasteners ------------------------------------------------------------------------------------------------------


def _clamp(context: DetailContext, own: Fastener, case: PointCase, sheet: Sheet) -> None:
    """F, all that presses under one head or washer."""
    sheet.given("F_v", own.preload, "force", "preload")
    sheet.given("P", own.tension(case), "force", "pull on the bolt, limit load")
    sheet.give_level(context)
    sheet.step("F", "j * (F_v + P)", "force", "force under the washer at ultimate load")


def _shared_clamp(own: Fastener, sheet: Sheet) -> str:
    """F_c, what of F goes through the faces and the core; the symbol that it has."""
    if own.sleeve is None or not own.soft_core:
        return "F"
    sheet.given("k_c", own.core_stiffness(), "line_load", "stiffness of the core under the washer")
    sheet.given("k_s", own.sleeve_stiffness(), "line_load", "stiffness of the sleeve")
    sheet.given("s", own.sleeve.short, "length", "how much shorter the sleeve is")
    sheet.step("F_0", "min(F, k_c * s)", "force", "until the faces reach the sleeve")
    sheet.step("F_c", "F_0 + (F − F_0) * k_c / (k_c + k_s)", "force", "on the core")
    return "F_c"


@worked("clamp_core")
@_of(Fastener)
def work_clamp_core(own: Fastener, case: PointCase, context: DetailContext, result: CheckResult, sheet: Sheet) -> None:
    """Preload and pull over the area of core that they press."""
    _clamp(context, own, case, sheet)
    on_core = _shared_clamp(own, sheet)
    sheet.given("A", own.core_area, "area", "area of core under the washer, spread through the face")
    sheet.step("σ", f"{on_core} / A", "core_stress", "pressure on the core")


@worked("clamp_sleeve")
@_of(Fastener)
def work_clamp_sleeve(
    own: Fastener, case: PointCase, context: DetailContext, result: CheckResult, sheet: Sheet
) -> None:
    """What the core does not carry, over the area of the sleeve."""
    _clamp(context, own, case, sheet)
    on_core = _shared_clamp(own, sheet)
    sheet.given("A_s", own.sleeve_area, "area", "area of the sleeve")
    sheet.step("σ", f"(F − {on_core}) / A_s", "strength", "stress of the sleeve")


@worked("clamp_laminate")
@_of(Fastener)
def work_clamp_laminate(
    own: Fastener, case: PointCase, context: DetailContext, result: CheckResult, sheet: Sheet
) -> None:
    """Preload and pull over the washer."""
    _clamp(context, own, case, sheet)
    pressed = _shared_clamp(own, sheet)
    sheet.given("A", own.seat_area(), "area", "area under the washer, less the hole")
    sheet.step("p", f"{pressed} / A", "strength", "pressure on the plies")


def _faces(context: DetailContext, own: Fastener, push: float, angle: float) -> list[tuple[int, float]]:
    """(face, force on it at limit load) of a push in the plane."""
    return [(k, push * part) for k, part in enumerate(own.face_shares(angle)) if push * part > 0.0]


@worked("shear_out")
@_of(Fastener)
def work_shear_out(own: Fastener, case: PointCase, context: DetailContext, result: CheckResult, sheet: Sheet) -> None:
    """From the push on the face with the least reserve."""
    push, angle = own.worst(case)
    level, ahead = context.settings.ultimate_factor, own.ahead(case, angle)
    for index, force in _faces(context, own, push, angle):
        thickness = own.bearing_thickness(index)
        if math.isclose(level * force / (2.0 * ahead * thickness), result.value, rel_tol=SAME):
            sheet.given("V", force, "force", "push on this face, limit load")
            sheet.given("e", ahead, "length", "from the middle of the hole to the edge ahead")
            sheet.given("t", thickness, "length", "thickness that shears")
            sheet.give_level(context)
            sheet.step("τ", "j * V / (2 * e * t)", "strength", "shear at ultimate load")
            return


@worked("net_section")
@_of(Fastener)
def work_net_section(own: Fastener, case: PointCase, context: DetailContext, result: CheckResult, sheet: Sheet) -> None:
    """From the pull over what is left beside the hole, with what remains of its concentration."""
    push, angle = own.worst(case)
    row = math.radians(own.row_angle)
    push = max(push, abs(case.along * math.cos(row) + case.across * math.sin(row)))
    width, edge = own.net_width(case, angle), own.ahead(case, angle)
    level = context.settings.ultimate_factor
    for index, force in _faces(context, own, push, angle):
        face, thickness = own.faces[index], own.bearing_thickness(index)
        metal = all(layer.material.is_metal for layer in face.layers)
        more = 1.0 if metal else 1.0 + SOFTENED * (hole_factor(width, own.hole, edge) - 1.0)
        if not math.isclose(level * more * force / ((width - own.hole) * thickness), result.value, rel_tol=SAME):
            continue
        sheet.given("V", force, "force", "pull on this face, limit load")
        sheet.given("w", width, "length", "width")
        sheet.given("d", own.hole, "length", "diameter of the hole")
        sheet.given("t", thickness, "length", "thickness")
        sheet.give_level(context)
        if metal:
            sheet.step("σ", "j * V / ((w − d) * t)", "strength", "stress of the net section at ultimate load")
            return
        if edge >= width:
            sheet.given("θ", 1.0, "ratio", "the edge is further than the width")
        else:
            sheet.given("e", edge, "length", "to the edge ahead")
            sheet.step("θ", "1.5 − 0.5 * w / e", "ratio", "for an edge nearer than the width")
        sheet.step("k", "2 + (w / d − 1) − 1.5 * (w / d − 1) / (w / d + 1) * θ", "ratio", "elastic concentration")
        sheet.given("c", SOFTENED, "ratio", "of it that is left when the laminate breaks")
        sheet.step("σ", "(1 + c * (k − 1)) * j * V / ((w − d) * t)", "strength", "stress at ultimate load")
        return


@worked("pull_through")
@_of(Fastener)
def work_pull_through(
    own: Fastener, case: PointCase, context: DetailContext, result: CheckResult, sheet: Sheet
) -> None:
    """Pull over the rim of the washer and the thickness."""
    sheet.given("P", own.tension(case), "force", "pull on the bolt, limit load")
    sheet.given("u", own.seat_perimeter(), "length", "length round the washer")
    sheet.given("t", own.site.stack.thickness - own.countersink / 2.0, "length", "thickness that shears")
    sheet.give_level(context)
    sheet.step("τ", "j * P / (u * t)", "strength", "shear at ultimate load")


@worked("pulled_core")
@_of(Fastener)
def work_pulled_core(own: Fastener, case: PointCase, context: DetailContext, result: CheckResult, sheet: Sheet) -> None:
    """Force over the rim of the washer and the depth of the core."""
    face_a, face_b = own.faces
    rim = own.seat_perimeter(min(face_a.thickness, face_b.thickness))
    rim = rim if own.plug is None else max(rim, math.pi * own.plug.diameter)
    sheet.given("P", own.tension(case), "force", "pull or push on the bolt, limit load")
    sheet.given("u", rim, "length", "length round the washer, spread through the face, or round the plug")
    sheet.given("H", own.site.stack.thickness, "length", "thickness of the sandwich")
    sheet.given("t_A", face_a.thickness, "length", "thickness of face A")
    sheet.given("t_B", face_b.thickness, "length", "thickness of face B")
    sheet.give_level(context)
    sheet.step("h", "H − (t_A + t_B) / 2", "length", "between the middles of the faces")
    sheet.step("τ", "j * P / (u * h)", "core_stress", "shear of the core at ultimate load")


# --- inserts --------------------------------------------------------------------------------------------------------


def _insert_stress(own: Insert, case: PointCase, sheet: Sheet) -> None:
    """τ_0, the shear of the core round an insert at limit load."""
    sheet.given("P", abs(case.pull), "force", "pull, limit load")
    sheet.given("M", abs(case.moment), "bending", "moment, limit load")
    sheet.given("h", own.held_depth, "length", "depth over which the core holds it")
    if own.kind in ROUND:
        sheet.given("r", own.radius, "length", "radius of the body that the core holds")
        sheet.given("π", math.pi, "ratio", "")
        sheet.step("τ_0", "P / (2 * π * r * h) + M / (π * r^2 * h)", "core_stress", "shear at limit load")
        return
    sheet.given("u", own.rim, "length", "length round it")
    sheet.given("W", own.tilting, "area", "moment over the largest shear per length round it")
    sheet.step("τ_0", "P / (u * h) + M / (W * h)", "core_stress", "shear at limit load")


@worked("insert_core")
@_of(Insert)
def work_insert_core(own: Insert, case: PointCase, context: DetailContext, result: CheckResult, sheet: Sheet) -> None:
    """Force and moment round the body that the core holds."""
    _insert_stress(own, case, sheet)
    sheet.give_level(context)
    sheet.step("τ", "j * τ_0", "core_stress", "shear of the core at ultimate load")


@worked("insert_tested")
@_of(Insert)
def work_insert_tested(own: Insert, case: PointCase, context: DetailContext, result: CheckResult, sheet: Sheet) -> None:
    """The pull that loads the core as pull and moment do."""
    if core_layers(own.site.stack):
        _insert_stress(own, case, sheet)
        sheet.given("u", own.rim, "length", "length round the body that the core holds")
        sheet.give_level(context)
        sheet.step("F", "j * τ_0 * u * h", "force", "pull that gives the same shear, at ultimate load")
        return
    sheet.given("P", abs(case.pull), "force", "pull, limit load")
    sheet.give_level(context)
    sheet.step("F", "j * P", "force", "pull at ultimate load")


@worked("insert_glue")
@_of(Insert)
def work_insert_glue(own: Insert, case: PointCase, context: DetailContext, result: CheckResult, sheet: Sheet) -> None:
    """Pull and moment over what is glued."""
    sheet.given("P", abs(case.pull), "force", "pull, limit load")
    sheet.given("M", abs(case.moment), "bending", "moment, limit load")
    sheet.give_level(context)
    if own.kind == "plate":
        sheet.given("a", min(own.length, own.width), "length", "shorter side of the plate")
        sheet.given("b", max(own.length, own.width), "length", "longer side of the plate")
        sheet.step("σ", "j * (P / (a * b) + 6 * M / (a^2 * b))", "strength", "tension of the bond at ultimate load")
        return
    deep = own.site.stack.thickness
    sheet.given("d", own.diameter, "length", "diameter of the insert")
    sheet.given("h", min(own.depth, deep) if own.kind == "potted" else deep, "length", "glued length")
    sheet.given("π", math.pi, "ratio", "")
    sheet.step("τ", "j * (P + 4 * M / d) / (π * d * h)", "strength", "shear of the bond at ultimate load")


@worked("insert_face")
@_of(Insert)
def work_insert_face(own: Insert, case: PointCase, context: DetailContext, result: CheckResult, sheet: Sheet) -> None:
    """Push over the width of the insert and the thickness of the face with the least reserve."""
    across = own.diameter if own.kind in ("potted", "through", "bush") else min(own.length, own.width)
    angle, level = 0.0 if case.either_way else case.angle, context.settings.ultimate_factor
    pushed = own.faces if own.is_through or len(own.faces) == 1 else own.faces[:1]
    stiff = [stiffness_along(face, angle) for face in pushed]
    for face, stiffness in zip(pushed, stiff, strict=True):
        stress = case.shear * stiffness / sum(stiff) / (across * face.thickness) * level
        if math.isclose(stress, result.value, rel_tol=SAME):
            sheet.given("V", case.shear, "force", "push in the plane, limit load")
            sheet.given("s", stiffness / sum(stiff), "ratio", "share of this face, by stiffness")
            sheet.given("d", across, "length", "width of the insert")
            sheet.given("t", face.thickness, "length", "thickness of the face")
            sheet.give_level(context)
            sheet.step("σ_b", "j * s * V / (d * t)", "strength", "bearing stress at ultimate load")
            return


@worked("insert_thread")
@_of(Insert)
def work_insert_thread(own: Insert, case: PointCase, context: DetailContext, result: CheckResult, sheet: Sheet) -> None:
    """The pull; what the thread carries is in the method."""
    sheet.given("P", abs(case.pull), "force", "pull, limit load")
    sheet.give_level(context)
    sheet.step("F", "j * P", "force", "pull at ultimate load")


@worked("insert_both")
def work_insert_both(context: DetailContext, result: CheckResult, sheet: Sheet) -> None:
    """Squares of the shares of two checks."""
    pulls = (insert_core, insert_tested, insert_glue, insert_thread)
    pulled = [own for check in pulls for own in check(context) if own.case_id == result.case_id]
    pushed = [own for own in insert_face(context) if own.case_id == result.case_id]
    if not pulled or not pushed:
        return
    one = min(pulled, key=lambda own: own.reserve_factor)
    sheet.given("RF_1", one.reserve_factor, "ratio", f"reserve factor of {one.title.lower()}")
    sheet.given("RF_2", pushed[0].reserve_factor, "ratio", f"reserve factor of {pushed[0].title.lower()}")
    sheet.step("f", "sqrt(1 / RF_1^2 + 1 / RF_2^2)", "ratio", "share of both together")


# --- seams ----------------------------------------------------------------------------------------------------------


def _line_load(case: LineCase, sheet: Sheet) -> None:
    sheet.given("N", case.pull, "line_load", "pull across the seam, limit load")
    sheet.given("q", case.flow, "line_load", "flow along the seam, limit load")


@worked("bond_mean")
@_of(Bond)
def work_bond_mean(own: Bond, case: LineCase, context: DetailContext, result: CheckResult, sheet: Sheet) -> None:
    """Line load over the overlap."""
    _line_load(case, sheet)
    sheet.given("b", own.overlap, "length", "overlap")
    sheet.give_level(context)
    sheet.step("τ", "j * sqrt(N^2 + q^2) / b", "strength", "mean shear at ultimate load")


@worked("bond_shear")
@_of(Bond)
def work_bond_shear(own: Bond, case: LineCase, context: DetailContext, result: CheckResult, sheet: Sheet) -> None:
    """Shares of what the glue carries across and along, as squares."""
    _line_load(case, sheet)
    sheet.give_level(context)
    sheet.step("n", "j * sqrt(N^2 + q^2)", "line_load", "line load at ultimate load")
    sheet.given("N_g", own.capacity, "line_load", "what the glue carries across")
    sheet.given("q_g", own.flow_capacity, "line_load", "what the glue carries along")
    sheet.step("f", "j * sqrt((N / N_g)^2 + (q / q_g)^2)", "ratio", "share of both")
    sheet.step("RF", "1 / f", "ratio", f"reserve factor, required {result.required:g}")
    sheet.closed = True


@worked("laminate_first")
def work_laminate_first(context: DetailContext, result: CheckResult, sheet: Sheet) -> None:
    """The lesser of the mean and the ends of the glue against the weaker sheet."""
    own = context.detail
    assert isinstance(own, Bond)
    sheet.given("N_s", own.sheet_strength(), "line_load", "at which the weaker sheet fails")
    sheet.given("N_g", own.capacity, "line_load", "that the glue carries by its ends")
    sheet.given("τ_m", own.mean_strength, "strength", "lap strength of the glue, reduced")
    sheet.given("b", own.overlap, "length", "overlap")
    sheet.step("N_c", "min(N_g, τ_m * b)", "line_load", "that the glue carries")
    sheet.step("n", "N_s * 1", "line_load", "wanted of the glue")
    sheet.step("RF", "N_c / n", "ratio", "of the glue over the sheet, required 1")
    sheet.closed = True


# --- edges and doublers ---------------------------------------------------------------------------------------------


def _turned(own: Edge, case: LineCase, sheet: Sheet) -> None:
    """T, the line load of the kink at limit load."""
    sheet.given("n", abs(case.opening), "line_load", "load on the flange, limit load")
    sheet.given("l", own.run, "length", "length of the slope")
    sheet.given("w", own.width, "length", "width of the flange")
    sheet.given("d", own.distance, "length", "between the middles of the faces")
    sheet.given("α", own.slope, "angle", "slope")
    sheet.step("N", "n * (l + w / 2) / d", "line_load", "force of the face that slopes down")
    sheet.step("T", "N * sin(α)", "line_load", "what turns at the kink")


@worked("edge_kink")
@_of(Edge)
def work_edge_kink(own: Edge, case: LineCase, context: DetailContext, result: CheckResult, sheet: Sheet) -> None:
    """What turns at the kink, on the core as a bed that shears."""
    _turned(own, case, sheet)
    sheet.given("s", own.under_line[0], "curvature", "stress of the core per line load, by Fourier's integral")
    sheet.given("g", GENTLE, "angle", "slope up to which that holds")
    sheet.give_level(context)
    sheet.step("m", "1 + 0.8 * max(0, α − g) / g", "ratio", "for a steeper slope")
    sheet.step("σ", "j * m * s * T", "core_stress", "stress of the core at ultimate load")


@worked("edge_tongue")
def work_edge_tongue(context: DetailContext, result: CheckResult, sheet: Sheet) -> None:
    """What turns at the kink, over the tongue."""
    own = context.detail
    assert isinstance(own, Edge)
    case = _case(own.cases, result)
    if case is None or own.tongue is None:
        return
    _turned(own, case, sheet)
    sheet.given("t", own.tongue.thickness, "length", "thickness of the tongue")
    sheet.give_level(context)
    sheet.step("σ", "j * T / t", "strength", "stress of the tongue at ultimate load")


@worked("edge_face")
@_of(Edge)
def work_edge_face(own: Edge, case: LineCase, context: DetailContext, result: CheckResult, sheet: Sheet) -> None:
    """Force and moment of the face at the kink, and the factor on both at which its first ply fails."""
    _turned(own, case, sheet)
    sheet.given("c", own.under_line[1], "length", "moment of the face per line load, by Fourier's integral")
    sheet.give_level(context)
    sheet.step("m", "c * T", "force", "moment of the face per width, N m/m, limit load")
    sheet.given("λ", context.settings.ultimate_factor / result.value, "ratio",
                "factor on N and m at which a ply fails by the brief's criterion")  # fmt: skip
    sheet.step("f", "j / λ", "ratio", "share at ultimate load")


@worked("edge_flange")
@_of(Edge)
def work_edge_flange(own: Edge, case: LineCase, context: DetailContext, result: CheckResult, sheet: Sheet) -> None:
    """Pull and moment of the flange, and the factor on both at which its first ply fails."""
    sheet.given("N", case.pull, "line_load", "pull of the flange, limit load")
    sheet.given("n", abs(case.opening), "line_load", "load on the flange, limit load")
    sheet.given("w", own.width, "length", "width of the flange")
    sheet.give_level(context)
    sheet.step("m", "n * w / 2", "force", "moment of the flange per width, N m/m, limit load")
    sheet.given("λ", context.settings.ultimate_factor / result.value, "ratio",
                "factor on N and m at which a ply fails by the brief's criterion")  # fmt: skip
    sheet.step("f", "j / λ", "ratio", "share at ultimate load")


@worked("free_edge")
@_of(Edge)
def work_free_edge(own: Edge, case: LineCase, context: DetailContext, result: CheckResult, sheet: Sheet) -> None:
    """The moment that the stresses across the edge leave about an interface."""
    thickness = own.site.stack.thickness
    sheet.given("M", own.parting(case.flow)[0] * 7.0 / 90.0 * thickness**2, "force",
                "moment per width about the interface of the stresses across, N m/m, limit load")  # fmt: skip
    sheet.given("h", thickness, "length", "thickness of the laminate")
    sheet.give_level(context)
    sheet.step("σ", "j * 90 * M / (7 * h^2)", "strength", "stress that separates the layers, at ultimate load")


@worked("doubler_shear")
@_of(Doubler)
def work_doubler_shear(own: Doubler, case: LineCase, context: DetailContext, result: CheckResult, sheet: Sheet) -> None:
    """The line load against what the glue carries at an end."""
    sheet.given("N", abs(case.pull), "line_load", "pull or compression along it, limit load")
    sheet.give_level(context)
    sheet.step("n", "j * N", "line_load", "line load at ultimate load")


@worked("doubler_length")
def work_doubler_length(context: DetailContext, result: CheckResult, sheet: Sheet) -> None:
    """2 arcosh(20)/λ of shear lag, and both ends."""
    own = context.detail
    assert isinstance(own, Doubler)
    sheet.given("G", own.glue.G, "modulus", "shear modulus of the glue")
    sheet.given("g", own.glue.gap, "length", "thickness of the glue")
    sheet.given("A_s", own.base, "line_load", "stiffness of the sheet")
    sheet.given("A_d", own.full, "line_load", "stiffness of the doubler")
    sheet.given("c", math.acosh(1.0 / (1.0 - ENOUGH)), "ratio", f"arcosh of 1 / (1 − {ENOUGH:g})")
    sheet.given("l", own.ends, "length", "length of one stepped or tapered end")
    sheet.step("λ", "sqrt(G / g * (1 / A_s + 1 / A_d))", "curvature", "rate at which the doubler takes load")
    sheet.step("L", "2 * c / λ + 2 * l", "length", "length that is needed")
