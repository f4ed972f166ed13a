"""What may happen to the walls of a spar besides buckling: crushing by curved caps or at a pin, and their bonds."""

from __future__ import annotations

import numpy as np

from omakase.core.checks.limits import ratio
from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context
from omakase.core.laminate.failure import CRITERIA
from omakase.core.members.field import Place
from omakase.core.members.spar import SparResponse
from omakase.core.plates.section import PlateSection
from omakase.core.rotation import strain_rotation
from omakase.core.sections.cylinder import wall_stiffness
from omakase.core.sections.long_plates import LongPlate, long_plate


@register(
    "wall_core_shear", "The core of a sandwich wall shears in its own plane with the faces",
    "In-plane shear strain of the wall times the core's shear modulus, against its shear strength",
    "Cores glued to both faces, with the same strain; moduli and strengths of the weaker direction.",
    ("S13", "S23"),
)  # fmt: skip
def wall_core_shear(context: Context) -> list[CheckResult]:
    """One result per load case for each wall of a spar that has a core."""
    core = context.section.core
    if core is None or not isinstance(context.response, SparResponse):
        return []
    layer = core.layers[0]
    material = context.stack.layers[layer].material
    modulus = min(material.value(key) for key in ("G13", "G23"))
    strength = min(material.value(key) for key in ("S13", "S23"))
    strain = np.abs(context.places.strains[2])
    results = []
    for case, k in context.places.largest(strain):
        acts = strain[k] > 0.0
        results.append(
            context.result(
                "wall_core_shear", "Core shear in its plane", case.case,
                float(strain[k]) * modulus * context.settings.ultimate_factor, strength,
                context.places.place(k, layer, "") if acts else Place(), method="strain of the faces in the core",
                source=material.source(("G13", "G23", "S13", "S23")), dimension="core_stress",
            )
        )  # fmt: skip
    return results


@register(
    "cap_crushing", "The caps of a bent spar press its webs together",
    "Each cap of force F presses with F κ per length on what lies between (Brazier 1927): ply failure of the webs "
    "under force along s by the brief's criterion, and their buckling as a wide column between the caps",
    "Webs carry it alone, evenly; a core that fills the spar is not counted.",
    ("Xc", "Yc"), per="member",
)  # fmt: skip
def cap_crushing(context: Context) -> list[CheckResult]:
    """One result per load case that bends the spar."""
    response = context.response
    if not isinstance(response, SparResponse) or not response.webs or response.webs[0].wall in response.held_walls:
        return []
    height = response.width(response.webs[0])
    carried = np.sum([web_capacity(context, response, chain.wall, height)[0] for chain in response.webs], axis=0)
    results = []
    for result, forces in zip(response.results, response.forces, strict=True):
        cap = np.abs(forces[:, 2]) / height
        pressure = cap * np.abs(result.strains[:, 2])
        with np.errstate(divide="ignore"):
            factor = np.sqrt(np.where(pressure > 0.0, carried / np.maximum(pressure, 1e-300), np.inf))
        k = int(np.argmin(factor))
        if np.isfinite(factor[k]):
            results.append(
                ratio(
                    context, "cap_crushing", "Crushing by the caps", result.case,
                    float(factor[k]) / context.settings.ultimate_factor,
                    Place(float(response.x[k]), wall=response.webs[0].wall),
                    "force of the cap times curvature on the webs; grows with the square of the load",
                )
            )  # fmt: skip
    return results


def web_capacity(
    context: Context, response: SparResponse, wall: str, height: np.ndarray
) -> tuple[np.ndarray, np.ndarray]:
    """Compression along s that a web takes, N/m, at every place along, and the same without buckling."""
    least, strength = np.empty((2, len(height)))
    for _, at, plate in response.wall_at(wall):
        law: LongPlate = long_plate(plate)
        column = np.pi**2 * law.D22 / height[at] ** 2
        strength[at] = _across_strength(context, plate)
        least[at] = np.minimum(1.0 / (1.0 / column + 1.0 / law.shear), strength[at])
    return least, strength


def _across_strength(context: Context, plate: PlateSection) -> float:
    """Compression along s at first ply failure, N/m, of a wall that stays flat."""
    A, _, _ = wall_stiffness(plate)
    strain = np.linalg.solve(A, np.array([0.0, -1.0, 0.0]))
    criterion = CRITERIA[context.settings.criterion]
    least = np.inf
    for layer in plate.stack.layers:
        if layer.structural and layer.role == "ply":
            turned = (strain_rotation(layer.angle) @ strain)[None]
            least = min(least, float(criterion(turned, layer.material)[0]))
    return least


@register(
    "cap_bond", "The bond of a cap to its web, or of a flange to the skin, shears off",
    "Shear flow of the web at its ends over the width of the bond, mean; a flange passes all of it to its skin (common "
    "practice, no source)",
    "Peaks at the bond's edges, peel and a flawed bond are not counted: test the bond and reduce its strength.",
    per="member",
)  # fmt: skip
def cap_bond(context: Context) -> list[CheckResult]:
    """One result per load case of a spar whose caps are bonded over a stated width."""
    response = context.response
    if not isinstance(response, SparResponse) or response.member.bond <= 0.0:
        return []
    results = []
    for index, result in enumerate(response.results):
        worst = (0.0, 0.0, "")
        for chain in response.webs:
            ends = response.flow_at_ends(chain, index)
            k = int(np.argmax(ends))
            if ends[k] > worst[0]:
                worst = float(ends[k]), float(response.x[k]), chain.wall
        if worst[0] > 0.0:
            stress = worst[0] / response.member.bond * context.settings.ultimate_factor
            results.append(
                context.result(
                    "cap_bond", "Bond of cap or flange", result.case, stress, response.member.bond_strength,
                    Place(worst[1], wall=worst[2]), method="shear flow over the width of the bond", source="assumed",
                    remarks=("the strength of the bond is as stated in the form: test it",), dimension="stress",
                )
            )  # fmt: skip
    return results


@register(
    "support_crushing", "A pin, bolt or clamp crushes the webs of a spar",
    "Reaction over the length of the support on the webs' strength along s; a clamp's moment as a pair of forces over "
    "two thirds of its length (common practice, no source)",
    "Supports that state how long they are; the force is taken to reach both webs alike, without spreading. An "
    "estimate until tested: judge bolts and inserts as details.",
    ("Xc", "Yc"), per="member",
)  # fmt: skip
def support_crushing(context: Context) -> list[CheckResult]:
    """The worst support of each load case."""
    response = context.response
    if not isinstance(response, SparResponse) or not response.webs:
        return []
    height = np.ones(len(response.x))
    strength = np.sum([web_capacity(context, response, chain.wall, height)[1] for chain in response.webs], axis=0)
    results = []
    for result in response.results:
        worst = (np.inf, Place())
        for support, reaction in zip(response.member.span.supports, result.reactions, strict=True):
            if support.along <= 0.0:
                continue
            force = abs(float(reaction[0]))
            if support.held == "clamped":
                force += 1.5 * abs(float(reaction[1])) / support.along
            if force > 0.0:
                k = int(np.argmin(np.abs(response.x - support.x)))
                least = float(strength[k]) * support.along / force / context.settings.ultimate_factor
                worst = min(worst, (least, Place(support.x, wall=response.webs[0].wall)), key=lambda pair: pair[0])
        if np.isfinite(worst[0]):
            results.append(
                ratio(context, "support_crushing", "Crushing at a support", result.case, worst[0], worst[1],
                       "reaction over the length of the support", ("an estimate until tested with the real fitting",))
            )  # fmt: skip
    return results
