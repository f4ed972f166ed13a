"""Local indentation: the loaded face as a beam on the core under a patch."""

from __future__ import annotations

import numpy as np

from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context, Place
from omakase.core.laminate.failure import CRITERIA
from omakase.core.laminate.stack import Stack
from omakase.core.plates.section import Core, Face
from omakase.core.rotation import strain_rotation

INSIDE = np.linspace(0.0, 0.5, 33)  # shares of a strip of load, from its end to its middle


def plastic_indentation_load(
    width: float, length: float, t_face: float, core_strength: float, face_strength: float
) -> float:
    """Load in N at which a strip patch sinks in: 2 b t √(σ_c σ_f) + a b σ_c.

    ``width`` b across and ``length`` a along the strip of face that bends, in m; strengths in Pa.  Metal-foam design
    literature, from memory; derived again: four plastic hinges of moment σ_f b t²/4, crushed length a + λ, and the
    hinge distance λ that makes the load least.
    """
    return 2.0 * width * t_face * float(np.sqrt(core_strength * face_strength)) + length * width * core_strength


def foundation_moment(pressure: float, length: float, D_face: float, foundation: float) -> float:
    """Largest moment in N (per metre of width) in a long beam on an elastic foundation under a uniform load strip.

    M = p/(4β²) (e^(−βc) sin βc + e^(−βd) sin βd) at distances c, d from the ends of the strip; the largest is found
    by sampling half of it.  ``pressure`` Pa over ``length`` in m, ``D_face`` in N m, ``foundation`` k = E_z/t_c in
    Pa/m, β = (k/4D)^(1/4).  Hetényi, Beams on Elastic Foundation (1946), chapter II.
    """
    beta = (foundation / (4.0 * D_face)) ** 0.25
    # distances to the two ends of the strip from points inside it
    near = beta * length * INSIDE
    far = beta * length - near
    largest = np.abs(np.exp(-near) * np.sin(near) + np.exp(-far) * np.sin(far)).max()
    return float(abs(pressure) / (4.0 * beta**2) * largest)


def _face_strength(stack: Stack, face: Face) -> float:
    """Mean compressive strength of the face's counted plies in its weaker direction, Pa."""
    plies = [stack.layers[i] for i in face.layers if stack.layers[i].structural]
    total = sum(ply.thickness for ply in plies)
    return sum(min(ply.material.value("Xc"), ply.material.value("Yc")) * ply.thickness for ply in plies) / total


def _elastic_load(context: Context, face: Face, core: Core, along_x: float, along_y: float) -> float:
    """Load in N on a patch of that size at first ply failure of the face's own bending, the worse of x and y."""
    weakest = min(core.layers, key=lambda i: context.stack.layers[i].material.value("E3"))
    foundation = context.stack.layers[weakest].material.value("E3") / core.thickness
    criterion = CRITERIA[context.settings.criterion]
    bending = face.bending
    moments = [
        foundation_moment(1.0 / (along_x * along_y), length, float(bending[axis, axis]), foundation)
        for axis, length in ((0, along_x), (1, along_y))
    ]
    curvatures = np.linalg.solve(bending, np.eye(3)[:, :2] * moments)  # under each of the two moments: (3, 2)
    strains: dict[str, list[np.ndarray]] = {}
    for i in face.layers:
        layer = context.stack.layers[i]
        if layer.structural:
            surfaces = np.array([context.stack.z_top[i], context.stack.z_bottom[i]]) - face.z_middle
            heights = np.concatenate([surfaces, -surfaces])  # the moment changes its sign beside the patch
            strain = (strain_rotation(layer.angle) @ curvatures).T[:, None, :] * heights[:, None]
            strains.setdefault(layer.material.id, []).append(strain)
    materials = {context.stack.layers[i].material.id: context.stack.layers[i].material for i in face.layers}
    return min(float(np.min(criterion(np.array(own), materials[name]))) for name, own in strains.items())


@register(
    "indentation",
    "A patch dents the face it stands on",
    "Lower of the plastic load 2 b t √(σ_c σ_f) + a b σ_c (metal-foam literature, from memory) and the face as an "
    "elastic beam on the core (Hetényi 1946)",
    "Patches with straight edges; the face's bending with the whole panel is judged by face failure, not here.",
    ("Zc",),
)
def indentation(context: Context) -> list[CheckResult]:
    """Worst patch of each load case; positive forces dent face A, negative ones face B."""
    section = context.response.section
    if section.core is None:
        return []
    core = section.core
    elastic_loads: dict[tuple[str, float, float], float] = {}
    results = []
    for response in context.response.cases:
        best: CheckResult | None = None
        for patch in response.case.patches:
            if patch.force == 0.0:
                continue
            face = section.faces[0] if patch.force > 0.0 else section.faces[1]
            crush = min(context.stack.layers[i].material.value("Zc") for i in core.layers)
            strength = _face_strength(context.stack, face)
            plastic = min(
                plastic_indentation_load(across, along, face.thickness, crush, strength)
                for along, across in ((patch.along_x, patch.along_y), (patch.along_y, patch.along_x))
            )
            load = abs(patch.force) * context.settings.ultimate_factor
            size = face.name, patch.along_x, patch.along_y
            if size not in elastic_loads:
                elastic_loads[size] = _elastic_load(context, face, core, patch.along_x, patch.along_y)
            elastic = elastic_loads[size]
            allowable = min(plastic, elastic)
            kind = "plastic collapse" if plastic <= elastic else "elastic beam on the core, first ply"
            outer = face.layers[0] if face.name == "A" else face.layers[-1]
            result = CheckResult(
                check="indentation",
                title="Local indentation",
                kind="strength",
                dimension="force",
                value=load,
                allowable=allowable,
                reserve_factor=allowable / load,
                required=context.limits.reserve_factor,
                load_case=response.case.name,
                place=Place(patch.x, patch.y, outer, f"face {face.name}"),
                method=kind,
                source=context.stack.layers[core.layers[0]].material.source(("Zc", "E3")),
                remarks=("an estimate until tested with the real foot or wheel",),
            )
            if best is None or result.reserve_factor < best.reserve_factor:
                best = result
        if best is not None:
            results.append(best)
    return results
