"""How the edge of a sandwich may fail: its core under the kink of a face, the face, the flange, the tongue."""

from __future__ import annotations

import math

from omakase.core.checks.registry import register_detail
from omakase.core.checks.result import CheckResult, DetailContext
from omakase.core.details.detail import bent_reserve, core_layers, strength_along, turned
from omakase.core.details.edge import GENTLE, Edge
from omakase.core.laminate.bend import RADIAL_SHARE, radial_strength
from omakase.core.laminate.stack import Layer, source_of
from omakase.core.materials.provenance import Source

PLIES = ("Xt", "Xc", "S12")


@register_detail(
    Edge, "edge_kink", "The core is crushed or the face pulled off it where a face slopes down to the flange",
    "N sin α of the face as a line load on a beam on an elastic core that shears (Fourier's integral, derived), "
    "against Z_c or Z_t; N from what the flange holds up (statics)",
    "A sharp kink: one with a radius loads the core less. Within 20 % of finite elements for slopes of 15 to 30 "
    "degrees; for steeper ones a correction is fitted to finite elements.",
    ("Zc", "Zt"),
)  # fmt: skip
def edge_kink(context: DetailContext) -> list[CheckResult]:
    """One result per load case of a run-out without tongue."""
    own = _edge(context)
    if own.closing != "run_out" or own.tongue is not None:
        return []
    results = []
    for case in own.cases:
        stress = own.core_stress(case)
        if stress == 0.0:
            continue
        key = "Zc" if stress > 0.0 else "Zt"
        weakest, strength, source = _weakest(core_layers(own.site.stack), key)
        told = [
            f"{abs(own.turned_load(case)):.0f} N/m turn at the kink, {'pressing' if stress > 0.0 else 'pulling off'}"
        ]
        if own.slope > GENTLE:
            told.append("steeper than the usual 20 to 30 degrees (common practice, no source)")
        results.append(
            context.result(
                "edge_kink", f"Core at the kink, {weakest}", case, abs(stress) * context.settings.ultimate_factor,
                strength, dimension="core_stress", method="line load of the kink on a beam on the core", source=source,
                remarks=tuple(told),
            )
        )  # fmt: skip
    return results


def _weakest(layers: tuple[Layer, ...], key: str) -> tuple[str, float, Source]:
    """(name, flatwise strength in Pa, provenance); the compressive one where a core states no other."""
    found = []
    for layer in layers:
        known = key if key in layer.material.properties else "Zc"
        source: Source = layer.material.source((known,)) if known == key else "assumed"
        found.append((layer.material.value(known), layer.material.id, source))
    strength, name, source = min(found, key=lambda own: own[0])
    return name, strength, source


@register_detail(
    Edge, "edge_tongue", "A tongue of laminate between the faces is crushed or torn where a face slopes down",
    "N sin α of the face over the tongue's thickness, against the first ply's strength (statics)",
    "A tongue that reaches both faces and is glued to them over more than its thickness.",
)  # fmt: skip
def edge_tongue(context: DetailContext) -> list[CheckResult]:
    """One result per load case of a run-out with a tongue."""
    own = _edge(context)
    if own.closing != "run_out" or own.tongue is None:
        return []
    tongue = own.tongue
    results = []
    for case in own.cases:
        load = own.turned_load(case)
        if load == 0.0:
            continue
        strength = strength_along(tongue, 0.0, load < 0.0, context.settings.criterion)
        results.append(
            context.result(
                "edge_tongue", "Tongue between the faces", case,
                abs(load) / tongue.thickness * context.settings.ultimate_factor, strength, dimension="strength",
                method="what turns at the kink over the tongue's thickness", source=source_of(tongue.layers, PLIES),
            )
        )  # fmt: skip
    return results


@register_detail(
    Edge, "edge_face", "A face breaks at the kink where it slopes down",
    "First-ply failure under N and the moment of a beam on the core, as for the core at the kink",
    "As for the core; a tongue holds the face and is not counted here.",
)  # fmt: skip
def edge_face(context: DetailContext) -> list[CheckResult]:
    """One result per load case of a run-out."""
    own = _edge(context)
    if own.closing != "run_out":
        return []
    face = turned(own.sheets[1], -own.angle)
    results = []
    for case in own.cases:
        load, moment = own.face_load(case), own.face_moment(case)
        if load == 0.0:
            continue
        least = min(bent_reserve(face, load, side * moment, context.settings.criterion) for side in (1.0, -1.0))
        reserve = least / context.settings.ultimate_factor
        results.append(
            context.result(
                "edge_face", "Face at the kink", case, 1.0 / reserve, 1.0, reserve=reserve,
                method=f"first ply under {load / 1e3:.2f} N/mm and the moment of the kink",
                source=source_of(face.layers, PLIES),
            )
        )  # fmt: skip
    return results


@register_detail(
    Edge, "edge_flange", "The solid flange of an edge breaks where the slope ends",
    "First-ply failure under the pull, and the load on the flange times half its width (statics)",
    "Held along its middle, free to turn there; bolts through it are details of their own.",
)  # fmt: skip
def edge_flange(context: DetailContext) -> list[CheckResult]:
    """One result per load case of a run-out."""
    own = _edge(context)
    if own.closing != "run_out" or own.flange is None:
        return []
    flange = turned(own.flange, -own.angle)
    results = []
    for case in own.cases:
        moment = own.flange_moment(case)
        least = min(bent_reserve(flange, case.pull, side * moment, context.settings.criterion) for side in (1.0, -1.0))
        if not math.isfinite(least):
            continue
        reserve = least / context.settings.ultimate_factor
        results.append(
            context.result(
                "edge_flange", "Flange at the slope", case, 1.0 / reserve, 1.0, reserve=reserve,
                method="first ply under pull and bending of the flange", source=source_of(flange.layers, PLIES),
            )
        )  # fmt: skip
    return results


@register_detail(
    Edge, "free_edge", "Layers separate at a free edge that is loaded along the edge",
    "Moments of the layers' stresses across the edge, carried within a thickness of it: 90 M/7 h² (Pagano and Pipes "
    "1973, from memory), against the flatwise tensile strength of the plies",
    "An index to rank stacking orders by, not a strength; symmetric laminates. Only where a flow along the edge is "
    "given.",
    ("Zt", "S13"),
)  # fmt: skip
def free_edge(context: DetailContext) -> list[CheckResult]:
    """One result per load case with a force along an open or taped edge, taken as a pull along it."""
    own = _edge(context)
    if own.closing not in ("open", "tape"):
        return []
    plies = [layer for layer in own.site.stack.layers if layer.structural and layer.role == "ply"]
    weakest = min(plies, key=lambda layer: radial_strength(layer)[0])
    strength, stated = radial_strength(weakest)
    results = []
    for case in own.cases:
        if case.flow == 0.0:
            continue
        stress, below = own.parting(case.flow)
        if stress > 0.0:
            told = () if stated else (f"strength taken as {RADIAL_SHARE:g} of S13",)
            results.append(
                context.result(
                    "free_edge", f"Layers part below layer {below + 1}", case,
                    stress * context.settings.ultimate_factor, strength, dimension="strength",
                    method="stress through the thickness at a free edge",
                    source=weakest.material.source(("Zt",)) if stated else "assumed",
                    remarks=("an index to rank stacking orders by", *told),
                )
            )  # fmt: skip
    return results


def _edge(context: DetailContext) -> Edge:
    assert isinstance(context.detail, Edge)
    return context.detail
