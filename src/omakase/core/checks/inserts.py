"""How an insert may fail: the core round it, its glue, the face beside it, its thread."""

from __future__ import annotations

import math

from omakase.core.checks.fasteners import bearing_strength
from omakase.core.checks.registry import register_detail
from omakase.core.checks.result import CheckResult, DetailContext
from omakase.core.details.detail import PointCase, core_layers, stiffness_along
from omakase.core.details.insert import Insert
from omakase.core.laminate.stack import Layer
from omakase.core.materials.provenance import Source

ESTIMATE = "an estimate until tested: type the pull-out load of a test"
VON_MISES = 1.0 / math.sqrt(3.0)


@register_detail(
    Insert, "insert_core", "The core shears round an insert",
    "P/(u h) and M/(W h), u the circumference of the body that the core holds and h its depth (ESA "
    "PSS-03-1202, from memory), against the lesser of the core's shear strengths; what the faces carry by their own "
    "bending is given (Ericksen 1953, derived anew)",
    "Far from edges and from other inserts: twice its own width. On the safe side where it goes through.",
    ("S13", "S23"),
)  # fmt: skip
def insert_core(context: DetailContext) -> list[CheckResult]:
    """One result per load case without a tested pull-out load."""
    own = _insert(context)
    layers = core_layers(own.site.stack)
    if own.tested is not None or not layers:
        return []
    weakest = min(layers, key=lambda layer: layer.material.transverse_strength)
    strength = weakest.material.transverse_strength
    remarks = [ESTIMATE]
    if own.is_through:
        remarks.append(
            f"with the faces' own bending the core sees {own.faces_share:.0%} of it: {_bears(own, strength):.0f} N"
        )
    return [
        context.result(
            "insert_core", "Core shear round the insert", case,
            own.core_stress(case) * context.settings.ultimate_factor, strength, dimension="core_stress",
            method=f"force and moment round {own.rim * 1e3:.0f} mm and {own.held_depth * 1e3:.1f} mm deep",
            source=weakest.material.source(("S13", "S23")), remarks=tuple(remarks),
        )
        for case in own.cases
        if case.pull or case.moment
    ]  # fmt: skip


def _bears(own: Insert, strength: float) -> float:
    return strength * own.rim * own.held_depth / own.faces_share


@register_detail(
    Insert, "insert_tested", "An insert is pulled out, judged by a tested load",
    "The pull, with a moment converted to the pull that loads the core equally, against a pull-out load of a test",
    "The same insert in the same laminate.",
)  # fmt: skip
def insert_tested(context: DetailContext) -> list[CheckResult]:
    """One result per load case of an insert whose pull-out load was tested."""
    own = _insert(context)
    if own.tested is None:
        return []
    return [
        context.result(
            "insert_tested", "Pull-out, tested", case, _pull(own, case) * context.settings.ultimate_factor, own.tested,
            dimension="force", method="pull against a pull-out test", source="tested",
            remarks=(own.tested_by,) if own.tested_by else (),
        )
        for case in own.cases
        if case.pull or case.moment
    ]  # fmt: skip


def _pull(own: Insert, case: PointCase) -> float:
    return own.pulled_by(case) if core_layers(own.site.stack) else abs(case.pull)


@register_detail(
    Insert, "insert_glue", "The bond of an insert to its potting or glue fails",
    "P/(π d h) of a round one against the lesser shear strength of filler and glue; of a plate P/(a b) + 6 M/(a² b) "
    "against glue and core in tension (common practice, no source)",
    "Even stress: a grooved or perforated insert holds better, a smooth one worse.", ("S13", "Zt", "S12"),
)  # fmt: skip
def insert_glue(context: DetailContext) -> list[CheckResult]:
    """One result per load case of a potted or glued insert, or of a plate."""
    own = _insert(context)
    if own.tested is not None or own.kind == "plug":
        return []
    if own.kind == "plate":
        return _plate_glue(context, own)
    strength, source = _round_glue(own)
    deep = min(own.depth, own.site.stack.thickness) if own.kind == "potted" else own.site.stack.thickness
    return [
        context.result(
            "insert_glue", "Glue of the insert", case,
            (abs(case.pull) + 4.0 * abs(case.moment) / own.diameter) / (math.pi * own.diameter * deep)
            * context.settings.ultimate_factor,
            strength, dimension="strength", method="pull over the side of the insert", source=source,
            remarks=(ESTIMATE,),
        )
        for case in own.cases
        if case.pull or case.moment
    ]  # fmt: skip


def _round_glue(own: Insert) -> tuple[float, Source]:
    """(Pa, provenance) of what holds a round insert."""
    if own.kind == "bush" or own.filler is None:
        assert own.glue is not None
        return own.kept * own.glue.value("lap_shear"), own.glue.source(("lap_shear",))
    return own.filler.transverse_strength, own.filler.source(("S13", "S23"))


def _plate_glue(context: DetailContext, own: Insert) -> list[CheckResult]:
    glue = own.glue
    assert glue is not None
    a, b = min(own.length, own.width), max(own.length, own.width)
    core = min(core_layers(own.site.stack), key=lambda layer: _tension(layer)[0])
    held, source = _tension(core)
    known = own.kept * (glue.value("Zt") if "Zt" in glue.properties else glue.value("lap_shear"))
    if known < held:
        held, source = known, glue.source(("Zt", "lap_shear"))
    return [
        context.result(
            "insert_glue", "Bond of the plate", case,
            (abs(case.pull) / (a * b) + 6.0 * abs(case.moment) / (a**2 * b)) * context.settings.ultimate_factor, held,
            dimension="strength", method="pull and moment over the plate, glue or core in tension", source=source,
            remarks=(ESTIMATE,),
        )
        for case in own.cases
        if case.pull or case.moment
    ]  # fmt: skip


def _tension(layer: Layer) -> tuple[float, Source]:
    """(flatwise tensile strength, provenance) of a core; its compressive one where it states no other."""
    key = "Zt" if "Zt" in layer.material.properties else "Zc"
    return layer.material.value(key), layer.material.source((key,)) if key == "Zt" else "assumed"


@register_detail(
    Insert, "insert_face", "An insert crushes the face beside it",
    "V/(d t) of the faces that it reaches, by their stiffness, against their bearing strength as for bolts; of a plate "
    "or plug over its width",
    "Faces bonded to it all round.", ("Fbr",),
)  # fmt: skip
def insert_face(context: DetailContext) -> list[CheckResult]:
    """One result per load case that pushes in the plane."""
    own = _insert(context)
    across = own.diameter if own.kind in ("potted", "through", "bush") else min(own.length, own.width)
    results = []
    for case in own.cases:
        if case.shear == 0.0:
            continue
        angle = 0.0 if case.either_way else case.angle
        borne = own.faces if own.is_through or len(own.faces) == 1 else own.faces[:1]
        stiff = [stiffness_along(face, angle) for face in borne]
        found = []
        for face, share in zip(borne, stiff, strict=True):
            strength, what, source = bearing_strength(face, angle, own.diameter, context.settings.criterion)
            stress = case.shear * share / sum(stiff) / (across * face.thickness) * context.settings.ultimate_factor
            found.append((strength / stress, stress, strength, what, source))
        reserve, stress, strength, what, source = min(found, key=lambda entry: entry[0])
        results.append(
            context.result(
                "insert_face", "Face beside the insert", case, stress, strength, dimension="strength", reserve=reserve,
                method=f"V/(d t) against {what}", source=source,
                remarks=() if own.is_through else ("face A alone: the insert does not reach face B",),
            )
        )  # fmt: skip
    return results


@register_detail(
    Insert, "insert_thread", "A screw strips out of a plate or is pulled out of a plug of wood",
    "Half of the thread's cylinder in shear at F_tu/√3 of a metal plate (common practice, no source); of wood "
    "0.52 d^-0.5 l^-0.1 ρ^0.8 N/mm² over d l, times d/8 mm below 8 mm (EN 1995-1-1, equations 8.38 to 8.40; from "
    "memory)",
    "Threads that fit; screws at right angles to the face, 6 to 12 mm thick in wood.",
)  # fmt: skip
def insert_thread(context: DetailContext) -> list[CheckResult]:
    """One result per load case that pulls at a plate or a plug of wood."""
    own = _insert(context)
    known = _thread(own)
    if own.tested is not None or known is None:
        return []
    bears, method, source = known
    return [
        context.result(
            "insert_thread", "Thread of the screw", case, abs(case.pull) * context.settings.ultimate_factor, bears,
            dimension="force", method=method, source=source, remarks=(ESTIMATE,),
        )
        for case in own.cases
        if case.pull
    ]  # fmt: skip


def _thread(own: Insert) -> tuple[float, str, Source] | None:
    """(N, how it is found, provenance) that a screw of the insert's diameter carries."""
    if own.filler is None:
        return None
    if own.kind == "plate" and own.filler.is_metal:
        ultimate = own.filler.value("Fu" if "Fu" in own.filler.properties else "Xt")
        bears = 0.5 * math.pi * own.diameter * own.thickness * VON_MISES * ultimate
        return bears, "half of the thread's cylinder in shear", own.filler.source(("Fu", "Xt"))
    if own.kind == "plug" and own.filler.family == "wood":
        d, deep = own.diameter * 1e3, own.core_height * 1e3
        stress = 0.52 * d**-0.5 * deep**-0.1 * own.filler.value("density") ** 0.8
        return stress * d * deep * min(d / 8.0, 1.0), "screw drawn from wood, EN 1995-1-1", "estimated"
    return None


@register_detail(
    Insert, "insert_both", "Pull and shear of an insert together",
    "Squares of the shares of its strength in pull and in shear add up to less than one (ESA PSS-03-1202, from "
    "memory)",
    "As for pull and shear alone.",
)  # fmt: skip
def insert_both(context: DetailContext) -> list[CheckResult]:
    """One result per load case that pulls and pushes."""
    pulls = (insert_core, insert_tested, insert_glue, insert_thread)
    pulled: dict[str, CheckResult] = {}
    for result in (own for check in pulls for own in check(context)):
        if result.case_id not in pulled or result.reserve_factor < pulled[result.case_id].reserve_factor:
            pulled[result.case_id] = result
    pushed = {result.case_id: result for result in insert_face(context)}
    results = []
    for case in _insert(context).cases:
        if case.key in pulled and case.key in pushed:
            one, two = pulled[case.key], pushed[case.key]
            used = math.hypot(1.0 / one.reserve_factor, 1.0 / two.reserve_factor)
            worse: Source = one.source if one.reserve_factor < two.reserve_factor else two.source
            results.append(
                context.result(
                    "insert_both", "Pull and shear together", case, used, 1.0, source=worse,
                    method=f"squares of the shares of {one.title.lower()} and {two.title.lower()}",
                )
            )  # fmt: skip
    return results


def _insert(context: DetailContext) -> Insert:
    assert isinstance(context.detail, Insert)
    return context.detail
