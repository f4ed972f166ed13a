"""How a bolted place may fail: what the clamp crushes, the hole's edge, and the bolt itself."""

from __future__ import annotations

import math

from omakase.core.checks.registry import register_detail
from omakase.core.checks.result import CheckResult, DetailContext
from omakase.core.checks.working import Sheet, worked
from omakase.core.details.bolts import GRADES, SHEAR_SHARE, stress_area
from omakase.core.details.detail import (
    PointCase,
    core_layers,
    crushing_strength,
    shear_strength,
    strength_along,
)
from omakase.core.details.fastener import Fastener
from omakase.core.laminate.stack import Layer, Stack, source_of
from omakase.core.laminate.strength import shear_strength_along
from omakase.core.materials.provenance import Source, least_trusted

COVERED = "the preload is taken times the factor of safety, which covers what friction makes of a torque (± 30 %)"
ESTIMATE = "an estimate until tested"
METAL_BEARING = 1.5  # bearing strength of a metal over F_tu, two diameters from an edge (common practice, no source)
SOFTENED = 0.25  # of what a hole concentrates beyond 1 that is left in a fibre laminate when it breaks (Hart-Smith)
PLIES = ("Xt", "Xc", "Yt", "Yc", "S12")


def _clamped(own: Fastener, case: PointCase) -> float:
    """Force in N that presses what is under one head or washer: preload, and all that pulls or presses there."""
    return own.preload + own.tension(case)


@register_detail(
    Fastener, "clamp_core", "The clamp of a bolt crushes the core",
    "F = T/(K d) and the force on the bolt over the washer's area, spread at 45° through the face (common practice, no "
    "source) or as a thin face on an elastic core spreads it, whichever presses more; less the share that a hard "
    "sleeve carries by its stiffness; against Z_c",
    "Washers that press evenly: one that is stiffer than the face presses more at its rim.", ("Zc",),
)  # fmt: skip
def clamp_core(context: DetailContext) -> list[CheckResult]:
    """One result per load case, of a sandwich; the torque that crushes the core is given."""
    own = _fastener(context)
    if not own.soft_core:
        return []
    strength, name, material = own.core_strength()
    crushes = own.clamp_that_crushes(strength)
    factor = context.settings.ultimate_factor
    results = []
    for case in own.cases:
        clamped = _clamped(own, case) * factor
        on_core, on_sleeve = own.on_core(clamped)
        remarks = [COVERED] if own.preload else []
        if own.kind == "bolt":
            remarks.append(
                f"{name} is crushed at a clamp of {crushes:.0f} N, a torque of "
                f"{both_torques(own.torque_of(crushes))} {own.lubrication}"
            )
        if own.sleeve is not None:
            remarks.append(f"the sleeve takes {on_sleeve / clamped:.0%} of it" if clamped else "nothing presses it")
            remarks.append(_flush(own, clamped, strength))
        results.append(
            context.result(
                "clamp_core", "Core under the clamp", case, on_core / own.core_area, strength, dimension="strength",
                method="preload and pull over the washer's area, spread through the face",
                source=material.source(("Zc", "E3") if own.sleeve is not None else ("Zc",)), remarks=tuple(remarks),
                reserve=crushes / clamped if clamped else math.inf,
            )
        )  # fmt: skip
    return results


def both_torques(torque: float) -> str:
    """A torque in N m as words, in N m and in lbf in."""
    return f"{torque:.2g} N m ({torque / 0.1129848:.2g} lbf in)"


def _flush(own: Fastener, clamped: float, strength: float) -> str:
    """How flush a sleeve must be."""
    soft, hard = own.core_stiffness(), own.sleeve_stiffness()
    share = soft / (soft + hard)
    most = (strength * own.core_area - clamped * share) / (soft * (1.0 - share))
    if most <= 0.0:
        return "even a flush sleeve does not protect the core: use a larger one"
    return f"it may be at most {most * 1e3:.2f} mm shorter than the laminate is thick"


@register_detail(
    Fastener, "clamp_sleeve", "A sleeve round a bolt yields under the clamp",
    "The sleeve's share of the clamp force over its area, against its yield stress",
    "Short sleeves, which do not buckle.", ("Xc",),
)  # fmt: skip
def clamp_sleeve(context: DetailContext) -> list[CheckResult]:
    """One result per load case, where there is a sleeve."""
    own = _fastener(context)
    if own.sleeve is None or not own.soft_core:
        return []
    return [
        context.result(
            "clamp_sleeve", "Sleeve under the clamp", case,
            own.on_core(_clamped(own, case) * context.settings.ultimate_factor)[1] / own.sleeve_area,
            own.sleeve.material.value("Xc"), dimension="strength", method="clamp less the core's share, over its area",
            source=own.sleeve.material.source(("Xc", "E1")),
        )
        for case in own.cases
    ]  # fmt: skip


@register_detail(
    Fastener, "clamp_laminate", "The washer of a bolt crushes the plies under it",
    "Preload and pull over the washer's area less the hole (statics), against Z_c of the weakest ply",
    "Even pressure: a washer that bends presses more at the hole.", ("Zc",),
)  # fmt: skip
def clamp_laminate(context: DetailContext) -> list[CheckResult]:
    """One result per load case; with a sleeve only the rest of the force goes through the faces."""
    own = _fastener(context)
    layers = [layer for face in own.faces for layer in face.layers if layer.structural]
    weakest = min(layers, key=lambda layer: crushing_strength(layer)[0])
    strength, stated = crushing_strength(weakest)
    told = () if stated else (
        "strength through the thickness taken as the lesser of Y_c and 3 S12 (common practice, no source)",
    )  # fmt: skip
    results = []
    for case in own.cases:
        clamped = _clamped(own, case) * context.settings.ultimate_factor
        pressed = own.on_core(clamped)[0] if own.soft_core else clamped
        results.append(
            context.result(
                "clamp_laminate", "Plies under the washer", case, pressed / own.seat_area(), strength,
                dimension="strength", method="clamp over the washer's area",
                source=weakest.material.source(("Zc",)) if stated else "assumed", remarks=told,
            )
        )  # fmt: skip
    return results


@register_detail(
    Fastener, "bolt_strength", "A bolt breaks or is pulled beyond its proof load",
    "Preload and pull at limit load against the proof load; pull and shear at ultimate load combined as squares "
    "against R_m A_s and 0.6 R_m A_s (ISO 898-1, ISO 3506-1 for the strengths; from memory)",
    "Shear through the thread; bending of a bolt between parts that lie apart is not counted.",
)  # fmt: skip
def bolt_strength(context: DetailContext) -> list[CheckResult]:
    """One result per load case: the share of its strength that is used."""
    own = _fastener(context)
    grade, area = GRADES[own.grade], stress_area(own.diameter)
    if own.kind == "pin":
        area = math.pi / 4.0 * own.diameter**2
    results = []
    for case in own.cases:
        pull, shear = own.tension(case), own.worst(case)[0]
        factor = context.settings.ultimate_factor
        broken = factor * math.hypot(pull / (grade.tensile * area), shear / (SHEAR_SHARE * grade.tensile * area))
        proof = (own.preload + pull) / (grade.proof * area)
        remarks = []
        if own.preload > 0.75 * grade.proof * area:
            remarks.append("the preload is above 75 % of the proof load (common practice)")
        by_proof = proof > broken
        results.append(
            context.result(
                "bolt_strength", "Bolt", case, max(proof, broken), 1.0,
                method="preload and pull against the proof load at limit load" if by_proof
                else "pull and shear combined at ultimate load",
                source="datasheet", remarks=tuple(remarks),
            )
        )  # fmt: skip
    return results


def bearing_strength(stack: Stack, angle: float, diameter: float, criterion: str) -> tuple[float, str, Source]:
    """(Pa, what it is, provenance) of a face against a pin that pushes at ``angle``, degrees.

    F_br of its plies where all state one; a metal's 1.5 F_tu (at two diameters from an edge, common practice); plywood
    0.11 (1 − 0.01 d) ρ in N/mm², d in mm (EN 1995-1-1, equation 8.20 for plywood; from memory), of a mean and thus
    characteristic density; else the laminate's strength pressed, an estimate for a pin that nothing clamps.
    """
    plies = [layer for layer in stack.layers if layer.structural]
    if all("Fbr" in layer.material.properties for layer in plies):
        weakest = min(plies, key=lambda layer: layer.material.value("Fbr"))
        return weakest.material.value("Fbr"), "F_br of its plies", weakest.material.source(("Fbr",))
    if all(layer.material.is_metal for layer in plies):
        known = min(_ultimate(layer) for layer in plies)
        return METAL_BEARING * known, "1.5 times the ultimate strength of the metal", source_of(plies, ("Fu", "Xt"))
    if all(layer.material.family == "wood" for layer in plies):
        density = min(layer.material.value("density") for layer in plies)
        return 0.11e6 * (1.0 - 10.0 * diameter) * density, "0.11 (1 − 0.01 d) ρ of plywood", "estimated"
    return (
        strength_along(stack, angle, pulled=False, criterion=criterion), "the laminate's own strength in compression",
        least_trusted([source_of(plies, PLIES), "estimated"]),
    )  # fmt: skip


@register_detail(
    Fastener, "bearing", "A bolt crushes the side of its hole",
    "V/(d t) with half of a countersink's depth taken off; against F_br, 1.5 F_tu of a metal, "
    "0.11 (1 − 0.01 d) ρ of plywood (EN 1995-1-1), or the laminate's strength in compression (common practice, no "
    "source)",
    "Holes that fit; what a clamp adds is not counted.", ("Fbr",),
)  # fmt: skip
def bearing(context: DetailContext) -> list[CheckResult]:
    """One result per load case that pushes in the plane: the face with the least reserve."""
    own = _fastener(context)
    results = []
    for case in own.cases:
        found = []
        push, angle = own.worst(case)
        for index, face, force in _in_plane(own, push, angle, context):
            thickness = own.bearing_thickness(index)
            strength, what, source = bearing_strength(face, angle, own.bears, context.settings.criterion)
            found.append((strength * own.bears * thickness / force, force / (own.bears * thickness), index, what,
                          strength, source))  # fmt: skip
        if not found:
            continue
        reserve, value, index, what, strength, source = min(found, key=lambda entry: entry[0])
        results.append(
            context.result(
                "bearing", "Bearing", case, value, strength, dimension="strength",
                method=f"V/(d t){_of_face(own, index)} against {what}", source=source, reserve=reserve,
                remarks=(*_shared(own, case), *((ESTIMATE,) if what.startswith("the laminate") else ())),
            )
        )  # fmt: skip
    return results


@register_detail(
    Fastener, "shear_out", "A bolt tears out toward the edge",
    "V/(2 e t), e from the middle of the hole to the edge ahead of the bolt (common practice, no source); against the "
    "laminate's own first-ply strength in shear",
    "Edge distances of about 1.5 to 5 diameters.", ("S12",),
)  # fmt: skip
def shear_out(context: DetailContext) -> list[CheckResult]:
    """One result per load case that pushes toward an edge."""
    own = _fastener(context)
    results = []
    for case in own.cases:
        push, angle = own.worst(case)
        ahead = own.ahead(case, angle)
        found = []
        for index, face, force in _in_plane(own, push, angle, context):
            area = 2.0 * ahead * own.bearing_thickness(index)
            strength = shear_strength(face, angle, context.settings.criterion)
            found.append((strength * area / force, force / area, index, strength, face))
        if not found or not math.isfinite(ahead):
            continue
        reserve, value, index, strength, face = min(found, key=lambda entry: entry[0])
        results.append(
            context.result(
                "shear_out", "Shear-out", case, value, strength, dimension="strength",
                method=f"V/(2 e t){_of_face(own, index)}, e {ahead * 1e3:.1f} mm",
                source=source_of(face.layers, PLIES), reserve=reserve, remarks=_shared(own, case),
            )
        )  # fmt: skip
    return results


def hole_factor(width: float, diameter: float, edge: float) -> float:
    """Stress beside a loaded hole over the mean of the net section, elastic.

    Hart-Smith, NASA CR-144899 (1977), from memory: 2 + (w/d − 1) − 1.5 (w/d − 1)/(w/d + 1) θ, θ = 1.5 − 0.5 w/e where
    the edge is nearer than the width, else 1.
    """
    ratio = width / diameter
    theta = 1.0 if edge >= width else 1.5 - 0.5 * width / edge
    return 2.0 + (ratio - 1.0) - 1.5 * (ratio - 1.0) / (ratio + 1.0) * theta


@register_detail(
    Fastener, "net_section", "The laminate tears across the hole of a bolt",
    "All of the load over (w − d) t, times 1 + 0.25 (k − 1) in a fibre laminate with k of a loaded hole (Hart-Smith, "
    "NASA CR-144899, 1977, from memory); against its first-ply strength pulled",
    "Widths of 2 to 10 diameters; load that passes by the hole from other bolts is not counted.", ("Xt",),
)  # fmt: skip
def net_section(context: DetailContext) -> list[CheckResult]:
    """One result per load case; a row along the force has all of it at its first bolt."""
    own = _fastener(context)
    results = []
    for case in own.cases:
        push, angle = own.worst(case)
        c, s = math.cos(math.radians(own.row_angle)), math.sin(math.radians(own.row_angle))
        push = max(push, abs(case.along * c + case.across * s))  # at its first hole a row has all that pulls along it
        width = own.net_width(case, angle)
        if not math.isfinite(width) or width <= own.hole:
            continue
        found = []
        for index, face, force in _in_plane(own, push, angle, context):
            metal = all(layer.material.is_metal for layer in face.layers)
            more = 1.0 if metal else 1.0 + SOFTENED * (hole_factor(width, own.hole, own.ahead(case, angle)) - 1.0)
            stress = more * force / ((width - own.hole) * own.bearing_thickness(index))
            strength = strength_along(face, angle, criterion=context.settings.criterion)
            found.append((strength / stress, stress, index, strength, face))
        if not found:
            continue
        reserve, value, index, strength, face = min(found, key=lambda entry: entry[0])
        results.append(
            context.result(
                "net_section", "Net section", case, value, strength, dimension="strength",
                method=f"V/((w − d) t){_of_face(own, index)}, w {width * 1e3:.1f} mm", reserve=reserve,
                source=least_trusted([source_of(face.layers, PLIES), "estimated"]), remarks=_shared(own, case),
            )
        )  # fmt: skip
    return results


@register_detail(
    Fastener, "pull_through", "The head of a bolt is pulled through the laminate",
    "Pull over the rim of the washer times the laminate's thickness, against the plies' transverse shear strength "
    "(common practice, no source)",
    "Laminates without core; those whose fibres must be cut carry more: on the safe side.", ("S13", "S23"),
)  # fmt: skip
def pull_through(context: DetailContext) -> list[CheckResult]:
    """One result per load case that pulls at a laminate without core."""
    own = _fastener(context)
    if own.soft_core:
        return []
    stack = own.site.stack
    plies = [layer for layer in stack.layers if layer.structural]
    strength = min(shear_strength_along(plies), shear_strength_along(_turned(plies)))
    area = own.seat_perimeter() * (stack.thickness - own.countersink / 2.0)
    return [
        context.result(
            "pull_through", "Pull-through", case, own.tension(case) * context.settings.ultimate_factor / area,
            strength, dimension="strength", method="pull over the rim of the washer through the thickness",
            source=source_of(plies, ("S13", "S23")), remarks=(ESTIMATE,),
        )
        for case in own.cases
        if own.tension(case) > 0.0
    ]  # fmt: skip


@register_detail(
    Fastener, "pulled_core", "The core shears round the washer of a bolt that is pulled or pushed through",
    "P over the rim of the washer, spread at 45° through the face, times the distance between the faces' middles; "
    "against the lesser of the core's shear strengths (as for inserts: ESA PSS-03-1202, from memory)",
    "Far from edges; what the faces carry by their own bending is not counted: on the safe side.", ("S13", "S23"),
)  # fmt: skip
def pulled_core(context: DetailContext) -> list[CheckResult]:
    """One result per load case that pulls at a sandwich or presses on it."""
    own = _fastener(context)
    if not own.soft_core:
        return []
    face_a, face_b = own.faces
    spread = min(face_a.thickness, face_b.thickness)
    rim = own.seat_perimeter(spread)
    if own.plug is not None:
        rim = max(rim, math.pi * own.plug.diameter)
    layers = core_layers(own.site.stack)
    depth = own.site.stack.thickness - (face_a.thickness + face_b.thickness) / 2.0
    weakest = min(layers, key=lambda layer: layer.material.transverse_strength)
    strength = weakest.material.transverse_strength
    return [
        context.result(
            "pulled_core", "Core shear round the bolt", case,
            own.tension(case) * context.settings.ultimate_factor / (rim * depth), strength,
            dimension="strength", method="force over the rim of the washer and the depth of the core",
            source=weakest.material.source(("S13", "S23")), remarks=(ESTIMATE,),
        )
        for case in own.cases
        if own.tension(case) > 0.0
    ]  # fmt: skip


def _fastener(context: DetailContext) -> Fastener:
    assert isinstance(context.detail, Fastener)
    return context.detail


def _in_plane(own: Fastener, push: float, angle: float, context: DetailContext) -> list[tuple[int, Stack, float]]:
    """(number, face, N at ultimate load that it takes of a force in the plane) for each face that presses on the
    bolt."""
    force = push * context.settings.ultimate_factor
    return [
        (index, face, force * part)
        for index, (face, part) in enumerate(zip(own.faces, own.face_shares(angle), strict=True))
        if force * part > 0.0
    ]


def _shared(own: Fastener, case: PointCase) -> tuple[str, ...]:
    told = []
    if own.count > 1:
        told.append(f"the most loaded of {own.count} bolts takes {own.worst(case)[0]:.0f} N at limit load")
    if case.either_way:
        told.append("the direction of the force is not known: taken toward the nearest edge")
    if own.soft_core and not own.tied:
        told.append("face A alone: nothing at the bolt ties it to face B")
    return tuple(told)


def _of_face(own: Fastener, index: int) -> str:
    return "" if len(own.faces) == 1 else f" of face {'AB'[index]}"


def _ultimate(layer: Layer) -> float:
    known = layer.material.properties
    return layer.material.value("Fu") if "Fu" in known else layer.material.value("Xt")


def _turned(layers: list[Layer]) -> list[Layer]:
    """The layers turned by 90°."""
    return [Layer(own.material, own.angle - math.copysign(90.0, own.angle), own.thickness) for own in layers]


@worked("bearing")
def work_bearing(context: DetailContext, result: CheckResult, sheet: Sheet) -> None:
    """From the push on the face with the least reserve."""
    own = _fastener(context)
    case = next((case for case in own.cases if case.key == result.case_id), None)
    if case is None:
        return
    push, angle = own.worst(case)
    for index, _, force in _in_plane(own, push, angle, context):
        thickness = own.bearing_thickness(index)
        if math.isclose(force / (own.bears * thickness), result.value, rel_tol=1e-9):
            factor = context.settings.ultimate_factor
            sheet.given("V", force / factor, "force", "push on this face, limit load")
            sheet.given("j", factor, "ratio", "ultimate over limit load")
            sheet.given("d", own.bears, "length", "diameter in bearing")
            sheet.given("t", thickness, "length", "thickness in bearing")
            sheet.step("σ_b", "j * V / (d * t)", "strength", "bearing stress at ultimate load")
            return


@worked("bolt_strength")
def work_bolt_strength(context: DetailContext, result: CheckResult, sheet: Sheet) -> None:
    """Preload and pull against the proof load, or pull and shear at ultimate load, whichever governs."""
    own = _fastener(context)
    case = next((case for case in own.cases if case.key == result.case_id), None)
    if case is None:
        return
    grade, pull, shear = GRADES[own.grade], own.tension(case), own.worst(case)[0]
    area = math.pi / 4.0 * own.diameter**2 if own.kind == "pin" else stress_area(own.diameter)
    sheet.given("A_s", area, "area", "stress area of the thread, or of the pin")
    sheet.given("P", pull, "force", "pull on the bolt, limit load")
    proof = (own.preload + pull) / (grade.proof * area)
    if math.isclose(proof, result.value, rel_tol=1e-9):
        sheet.given("F_v", own.preload, "force", "preload")
        sheet.given("R_p", grade.proof, "strength", f"proof stress of {own.grade}")
        sheet.step("f", "(F_v + P) / (R_p * A_s)", "ratio", "share of the proof load at limit load")
        return
    sheet.given("V", shear, "force", "shear of the worst bolt, limit load")
    sheet.given("R_m", grade.tensile, "strength", f"tensile strength of {own.grade}")
    sheet.given("c", SHEAR_SHARE, "ratio", "shear strength over tensile strength")
    sheet.given("j", context.settings.ultimate_factor, "ratio", "ultimate over limit load")
    sheet.step("f", "j * sqrt((P / (R_m * A_s))^2 + (V / (c * R_m * A_s))^2)", "ratio", "pull and shear together")
