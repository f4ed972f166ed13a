"""Local indentation: the loaded face as a beam on the core under a patch."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context
from omakase.core.laminate.failure import CRITERIA, metal_allowable, yield_stress
from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material
from omakase.core.members.field import Acting, Place
from omakase.core.plates.loads import PatchLoad
from omakase.core.plates.section import Core, Face, PlateSection
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


def brittle_indentation_load(
    width: float, length: float, t_face: float, core_strength: float, face_strength: float
) -> float:
    """Load in N at which an elastic face breaks over a core that has yielded under and beside a patch.

    The face as a beam of ``width`` b under an even load over ``length`` a = 2c, the core pressing back with its
    strength σ_c over a zone that reaches L from the middle, flat beyond: w = w' = w'' = 0 there.  Then, per width, half
    the load is F = 2 σ_c L³/(3 L² − c²) and the moment in the middle F (L − c/2) − σ_c L²/2; it breaks where that is
    σ_f t²/6.
    For a line load it is (4/3) b t √(σ_c σ_f), the form of Soden, Journal of Strain Analysis 31 (1996) (from memory;
    derived again for the patch).  In m, Pa and N.
    """
    from scipy.optimize import brentq  # slow to import, and only needed where a patch stands

    c, strength = length / 2.0, face_strength * t_face**2 / 6.0

    def half_load(L: float) -> float:
        return 2.0 * core_strength * L**3 / (3.0 * L**2 - c**2)

    def missing(L: float) -> float:
        return half_load(L) * (L - c / 2.0) - core_strength * L**2 / 2.0 - strength

    far = c + 4.0 * t_face * float(np.sqrt(face_strength / core_strength))  # more than the reach under a line load
    return 2.0 * width * half_load(brentq(missing, c, far))


def core_yield_load(width: float, length: float, D_face: float, foundation: float, core_strength: float) -> float:
    """Load in N at which the core first yields under a patch, the face as an elastic beam on it.

    The pressure on the core is largest in the middle: p (1 − e^(−βa/2) cos(βa/2)), β = (k/4D)^(1/4).  Hetényi, Beams
    on Elastic Foundation (1946), chapter II.  In m, N m, Pa/m and Pa.
    """
    reach = (foundation / (4.0 * D_face)) ** 0.25 * length / 2.0
    return core_strength * width * length / (1.0 - float(np.exp(-reach) * np.cos(reach)))


def standing(section: PlateSection, case: Acting) -> Iterator[tuple[PatchLoad, Face]]:
    """The patches of a load case that press, each with the face it stands on: positive forces on A, negative on B."""
    for patch in case.patches:
        if patch.force != 0.0:
            yield patch, section.faces[0] if patch.force > 0.0 else section.faces[1]


def foundation_stiffness(stack: Stack, core: Core) -> float:
    """Spring stiffness of the core under a face, E_z of its softest layer over the whole thickness, Pa/m."""
    return min(stack.layers[i].material.value("E3") for i in core.layers) / core.thickness


def crushing_strength(stack: Stack, core: Core) -> float:
    """Z_c of the weakest layer of the core, Pa."""
    return min(stack.layers[i].material.value("Zc") for i in core.layers)


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
    foundation = foundation_stiffness(context.stack, core)
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
    return min(
        float(np.min(criterion(np.array(strain), materials[name]))) * _above_yield(context, materials[name])
        for name, strain in strains.items()
    )


def _above_yield(context: Context, material: Material) -> float:
    """How far beyond first yield ultimate load may take a metal; 1 for other materials."""
    if not material.is_metal:
        return 1.0
    return metal_allowable(material, context.settings.factor_of_safety)[0] / yield_stress(material)


def _yielded_load(context: Context, face: Face, core: Core, patch: PatchLoad) -> tuple[float, str]:
    """Load at which the face fails over a core that has yielded, the worse of x and y, and how."""
    ductile = all(context.stack.layers[i].material.is_metal for i in face.layers if context.stack.layers[i].structural)
    law = plastic_indentation_load if ductile else brittle_indentation_load
    load = min(
        law(across, along, face.thickness, crushing_strength(context.stack, core), _face_strength(context.stack, face))
        for along, across in ((patch.along_x, patch.along_y), (patch.along_y, patch.along_x))
    )
    return load, "plastic hinges over a yielded core" if ductile else "elastic face breaks over a yielded core"


@register(
    "indentation",
    "A load patch dents the face under it",
    "The face as an elastic beam on the core (Hetényi 1946), or over a yielded core if that is less: metal faces "
    "with plastic hinges, 2 b t √(σ_c σ_f) + a b σ_c (metal-foam literature, from memory), others break elastically, "
    "(4/3) b t √(σ_c σ_f) under a line (Soden 1996, from memory; derived for the patch)",
    "Patches with straight edges; the face's bending with the whole panel is judged by face failure, not here.",
    ("Zc",),
)
def indentation(context: Context) -> list[CheckResult]:
    """Worst patch of each load case; positive forces dent face A, negative ones face B."""
    section = context.section
    if section.core is None:
        return []
    core = section.core
    elastic_loads: dict[tuple[str, float, float], float] = {}
    yielded_loads: dict[tuple[str, float, float], tuple[float, str]] = {}
    results = []
    for response in context.cases:
        best: CheckResult | None = None
        for patch, face in standing(section, response.case):
            load = abs(patch.force) * context.settings.ultimate_factor
            size = face.name, patch.along_x, patch.along_y
            if size not in elastic_loads:
                elastic_loads[size] = _elastic_load(context, face, core, patch.along_x, patch.along_y)
                yielded_loads[size] = _yielded_load(context, face, core, patch)
            elastic, (yielded, how) = elastic_loads[size], yielded_loads[size]
            allowable = min(yielded, elastic)
            kind = how if yielded <= elastic else "elastic beam on the core, first ply"
            outer = face.layers[0] if face.name == "A" else face.layers[-1]
            result = context.result(
                "indentation",
                "Local indentation",
                response.case,
                load,
                allowable,
                Place(patch.x, patch.y, outer, f"face {face.name}"),
                method=kind,
                source=context.stack.layers[core.layers[0]].material.source(("Zc", "E3")),
                remarks=("an estimate until tested with the real foot or wheel",),
                dimension="force",
            )
            if best is None or result.reserve_factor < best.reserve_factor:
                best = result
        if best is not None:
            results.append(best)
    return results
