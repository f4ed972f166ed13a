"""What may happen to the wall of a tube: buckling, flattening, crushing in a clamp, and a wrap that pulls apart."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from omakase.core.checks.limits import ratio
from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context
from omakase.core.laminate.failure import CRITERIA
from omakase.core.members.field import Place
from omakase.core.members.tube import TubeResponse
from omakase.core.plates.section import PlateSection
from omakase.core.rotation import strain_rotation
from omakase.core.sections.cylinder import (
    axial_buckling,
    flattening_moment,
    knock_down,
    ring_moment,
    torsion_buckling,
)

PLACES = 5  # diameters, at most, at which a tapering tube's wall is looked at
APART = 0.1  # of the smallest, about how far they lie apart
# √(R t) to each side of a clamp over which the wall takes part: √(R t)/(3(1−ν²))^¼, edge length of a cylinder
SPREAD = 0.78
WHOLE_CLAMP = 0.25  # of a clamp's force: held all round, the moment is less than between two plates (assumed)


@register(
    "tube_buckling", "The wall of a tube buckles in compression, bending or torsion",
    "Orthotropic cylinder with the knock-downs of NASA SP-8007 (1968): R_axial + R_bending + R_torsion² = 1",
    "Unfilled tubes: a foam core or mandrel helps and is not counted; simple ends.",
    per="member",
)  # fmt: skip
def tube_buckling(context: Context) -> list[CheckResult]:
    """One result per load case: the worst place along the span."""
    response = context.response
    if not isinstance(response, TubeResponse):
        return []
    results = []
    for result, forces, factor in zip(response.results, response.forces, wall_factors(response), strict=True):
        k = int(np.argmin(factor))
        least = float(factor[k]) / context.settings.ultimate_factor
        remarks = ("a filling helps the wall against buckling and is not counted",) if response.member.filling else ()
        results.append(
            ratio(context, "tube_buckling", "Buckling of the wall", result.case, least, _at(response, k, forces),
                    "orthotropic cylinder, knocked down after NASA SP-8007", remarks)
        )  # fmt: skip
    return results


def wall_factors(response: TubeResponse) -> list[np.ndarray]:
    """For each load case the factor on limit loads at which the wall buckles, at every place along: (places,); kept."""
    if "wall_factors" not in response.derived:
        response.derived["wall_factors"] = _wall_factors(response)
    return response.derived["wall_factors"]


def _wall_factors(response: TubeResponse) -> list[np.ndarray]:
    length = response.member.span.length
    known = _per_wall(response, lambda wall, radius: (
        axial_buckling(wall, radius, length), knock_down(wall, radius, "axial"), knock_down(wall, radius, "bending"),
        torsion_buckling(wall, radius, length) * knock_down(wall, radius, "torsion"),
    ))  # fmt: skip
    axial, gamma_a, gamma_b, torsion = known.T
    R = response.radii
    factors = []
    for forces in response.forces:
        N, T, My, Mz = forces[:, 0], forces[:, 1], forces[:, 2], forces[:, 3]
        pressed = np.maximum(-N, 0.0) / (2.0 * np.pi * R) / (axial * gamma_a)
        bent = np.hypot(My, Mz) / (np.pi * R**2) / (axial * gamma_b)
        sheared = np.abs(T) / (2.0 * np.pi * R**2) / torsion
        straight = pressed + bent
        with np.errstate(divide="ignore"):  # λ a + λ² b² = 1
            factors.append(2.0 / (straight + np.sqrt(straight**2 + 4.0 * sheared**2)))
    return factors


@register(
    "flattening", "A bent tube goes oval until it collapses",
    "M = (2√2/9) π E r t²/√(1 − ν²) (Brazier 1927); layered walls derived from the same energy",
    "Long unfilled tubes away from clamps and fittings, which hold the section round.",
    per="member",
)  # fmt: skip
def flattening(context: Context) -> list[CheckResult]:
    """One result per load case that bends the tube; a filled one is kept round."""
    response = context.response
    if not isinstance(response, TubeResponse) or response.member.filling is not None:
        return []
    allowed = _per_wall(response, lambda wall, radius: (flattening_moment(wall, radius),))[:, 0]
    results = []
    for result, forces in zip(response.results, response.forces, strict=True):
        bent = np.hypot(forces[:, 2], forces[:, 3])
        k = int(np.argmax(bent / allowed))
        if bent[k] > 0.0:
            least = float(allowed[k] / bent[k]) / context.settings.ultimate_factor
            results.append(
                ratio(context, "flattening", "Flattening", result.case, least, _at(response, k, forces),
                        "collapse by ovalisation of a long tube")
            )  # fmt: skip
    return results


@register(
    "clamp_crushing", "A clamp or support crushes the tube",
    "Ring between two opposite forces, M = F R/π (textbook), over the clamp and 0.78 √(R t) to each side; ply failure "
    "by the brief's criterion",
    "Supports and clamps that state how long they are; a clamp that holds all round is taken as a quarter of the pinch "
    "between two plates (assumed). An estimate until tested; a filling is not counted.",
    ("Xt", "Xc", "Yt", "Yc", "S12"), per="member",
)  # fmt: skip
def clamp_crushing(context: Context) -> list[CheckResult]:
    """The worst support of each load case."""
    response = context.response
    if not isinstance(response, TubeResponse):
        return []
    results = []
    for result in response.results:
        worst: CheckResult | None = None
        for support, reaction in zip(response.member.span.supports, result.reactions, strict=True):
            if support.along <= 0.0:
                continue
            force = abs(float(reaction[0]))
            share = 1.0
            if support.held == "clamped":
                # both edges of a clamp press: the moment it takes is a pair of forces over two thirds of its length
                force, share = force + 1.5 * abs(float(reaction[1])) / support.along, WHOLE_CLAMP
            if force == 0.0:
                continue
            plate, radius, rows = response.wall(support.x)
            length = support.along + 2.0 * SPREAD * float(np.sqrt(radius * plate.stack.thickness))
            factor, layer, surface = _ring_failure(context, plate, share * ring_moment(force, radius) / length)
            clamped = ratio(
                context, "clamp_crushing", "Crushing at a support", result.case,
                factor / context.settings.ultimate_factor, Place(support.x, None, rows[layer], surface, 0.0),
                "ring between two forces, first ply", ("an estimate until tested with the real clamp",),
            )  # fmt: skip
            if worst is None or clamped.reserve_factor < worst.reserve_factor:
                worst = clamped
        if worst is not None:
            results.append(worst)
    return results


@register(
    "overlap", "A wrap pulls apart at its overlap",
    "Mean shear over the overlap against the shear strength between plies (common practice, no source)",
    "Each ply's force across its own seam, which runs along the tube: from shear and from around; peaks at the ends of "
    "the overlap are not counted.",
    ("S13",), per="member",
)  # fmt: skip
def overlap(context: Context) -> list[CheckResult]:
    """One result per load case of a tube whose wraps overlap by a stated length."""
    response = context.response
    if not isinstance(response, TubeResponse) or response.member.overlap <= 0.0:
        return []
    results = []
    for index, result in enumerate(response.results):
        worst = (0.0, Place())
        for field in response.fields:
            case = field.cases[index]
            seams = [
                (i, layer) for i, layer in enumerate(field.stack.layers)
                if layer.role == "ply" and layer.structural and "S13" in layer.material.properties
            ]  # fmt: skip
            if not seams:
                continue
            lap = response.member.overlap
            per_strain = np.array([
                field.section.Q[i][1:3] * (layer.thickness / (lap * layer.material.value("S13"))) for i, layer in seams
            ])  # fmt: skip
            forces = case.strains[..., 0:3] @ per_strain.reshape(-1, 3).T
            shares = forces[..., 0::2] ** 2 + forces[..., 1::2] ** 2
            a, b, k = np.unravel_index(int(np.argmax(shares)), shares.shape)
            largest = float(np.sqrt(shares[a, b, k]))
            if largest > worst[0]:
                place, i = case.place(int(a), int(b)), seams[int(k)][0]
                row = field.rows[i] if field.rows else i
                worst = largest, Place(place.x, None, row, "seam", place.around)
        if worst[0] > 0.0:
            least = 1.0 / worst[0] / context.settings.ultimate_factor
            results.append(ratio(context, "overlap", "Overlap of a wrap", result.case, least, worst[1],
                                   "mean shear over the overlap"))  # fmt: skip
    return results


def _per_wall(
    response: TubeResponse, value: Callable[[PlateSection, np.ndarray], tuple[np.ndarray, ...]]
) -> np.ndarray:
    """``value`` (wall, radius) → numbers at a few radii of each wall, straight in between: (places, numbers)."""
    placed: np.ndarray | None = None
    for _, at, ring in response.sections:
        low, high = float(ring.radius.min()), float(ring.radius.max())
        count = min(PLACES, 2 + round((high - low) / (APART * low))) if high - low > 1e-6 * high else 1
        radii = np.linspace(low, high, count)
        table = value(ring.plate, radii)
        values = np.stack([np.interp(ring.radius, radii, column) for column in table], axis=1)
        placed = np.empty((len(response.x), values.shape[1])) if placed is None else placed
        placed[at] = values
    assert placed is not None
    return placed


def _at(response: TubeResponse, k: int, forces: np.ndarray) -> Place:
    """Place k along the span, on the side that bending presses."""
    bent = bool(np.hypot(forces[k, 2], forces[k, 3]) > 0.0)
    around = round(float(np.degrees(np.arctan2(-forces[k, 3], -forces[k, 2]))) % 360.0, 6) if bent else None
    return Place(float(response.x[k]), around=around)


def _ring_failure(context: Context, plate: PlateSection, moment: float) -> tuple[float, int, str]:
    """Factor on a moment per width around (N m/m, either sign) at first ply failure, with layer and surface."""
    D = plate.membrane[3:6, 3:6]
    if plate.faces:
        D = D + plate.membrane[3:6, 6:9] + plate.membrane[6:9, 3:6] + plate.membrane[6:9, 6:9]
    curvature = np.linalg.solve(D, np.array([0.0, moment, 0.0]))
    criterion = CRITERIA[context.settings.criterion]
    by_material: dict[str, list[int]] = {}
    for i, layer in enumerate(plate.stack.layers):
        if layer.structural and layer.role == "ply":
            by_material.setdefault(layer.material.id, []).append(i)
    best = (np.inf, 0, "")
    for plies in by_material.values():
        z = np.array([(plate.stack.z_top[i], plate.stack.z_bottom[i]) for i in plies])
        strain = (
            np.array([strain_rotation(plate.stack.layers[i].angle) @ curvature for i in plies])[:, None] * z[..., None]
        )
        factors = criterion(np.stack([strain, -strain]), plate.stack.layers[plies[0]].material).min(axis=0)
        k, side = np.unravel_index(int(np.argmin(factors)), factors.shape)
        if factors[k, side] < best[0]:
            best = float(factors[k, side]), plies[int(k)], ("upper", "lower")[int(side)]
    return best
