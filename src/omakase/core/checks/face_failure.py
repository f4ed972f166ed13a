"""First-ply failure of faces and laminates."""

from __future__ import annotations

import numpy as np

from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context, Place
from omakase.core.laminate.failure import CRITERIA, CRITERION_NAMES, inverse, strain_limits
from omakase.core.materials.material import Material
from omakase.core.members.panel import CaseResponse
from omakase.core.plates.section import PlateSection
from omakase.core.rotation import strain_rotation

STRENGTHS = ("E1", "E2", "G12", "Xt", "Xc", "Yt", "Yc", "S12")


def layer_strains(section: PlateSection, case: CaseResponse, layer: int, z: float) -> np.ndarray:
    """In-plane strains (εx, εy, γxy) at height z of a face ply or laminate layer: (x, y, 3)."""
    z_phi, z_w = section.levels(layer, z)
    s = case.strains
    return s[..., 0:3] + z_phi * s[..., 3:6] + z_w * s[..., 6:9]


def surfaces(section: PlateSection, layer: int) -> tuple[tuple[str, float], tuple[str, float]]:
    """(name, z) of a layer's upper and lower surface."""
    return ("upper", float(section.stack.z_top[layer])), ("lower", float(section.stack.z_bottom[layer]))


@register(
    "face_failure",
    "First ply of a face or laminate to reach its strength",
    "Maximum strain (Jones 1999, 2.9.2) or Tsai–Wu with F12* = −1/2 (Tsai and Wu 1971)",
    "Linear material up to first-ply failure; residual stresses from cure are not counted.",
    ("Xt", "Xc", "Yt", "Yc", "S12"),
)
def face_failure(context: Context) -> list[CheckResult]:
    """Lowest load factor over all structural plies, both surfaces, all sampled places; one result per load case."""
    section = context.response.section
    # plies of one material are judged together, all places and load cases at once; rows (3, 9) of each surface
    by_material: dict[str, list[tuple[int, str, np.ndarray]]] = {}
    for i, layer in enumerate(context.stack.layers):
        if layer.structural and layer.role == "ply":
            T = strain_rotation(layer.angle)
            group = by_material.setdefault(layer.material.id, [])
            for name, z in surfaces(section, i):
                z_phi, z_w = section.levels(i, z)
                group.append((i, name, np.hstack([T, z_phi * T, z_w * T])))
    places = context.places
    least, surface = np.full(len(places), np.inf), np.zeros(len(places), dtype=int)
    names: list[tuple[int, str]] = []
    for group in by_material.values():
        material = context.stack.layers[group[0][0]].material
        factors = _factors(context.settings.criterion, [rows for _, _, rows in group], places.strains[0:9], material)
        worst = np.argmin(factors, axis=0)
        factor_there = np.take_along_axis(factors, worst[None], axis=0)[0]
        surface = np.where(factor_there < least, len(names) + worst, surface)
        least = np.minimum(least, factor_there)
        names += [(i, name) for i, name, _ in group]
    results = []
    for case, k in places.largest(-least):
        i, name = names[surface[k]]
        place = Place(*places.at(k), i, name) if np.isfinite(least[k]) else Place()
        governing = context.stack.layers[i].material
        factor = float(least[k]) / context.settings.ultimate_factor
        results.append(
            CheckResult(
                check="face_failure",
                title="Face failure" if section.faces else "Ply failure",
                kind="strength",
                dimension="ratio",
                value=1.0 / factor,
                allowable=1.0,
                reserve_factor=factor,
                required=context.limits.reserve_factor,
                load_case=case.case.name,
                place=place,
                method=f"first ply, {CRITERION_NAMES[context.settings.criterion]}",
                source=governing.source(STRENGTHS),
                remarks=_remarks(context),
            )
        )
    return results


def _factors(criterion: str, rows: list[np.ndarray], strains: np.ndarray, material: Material) -> np.ndarray:
    """Load factors (surfaces, places) of plies whose strains are ``rows`` (3, 9) times the generalised (9, places).

    By maximum strain the limits go into the rows, so that one product and its maximum say it all.
    """
    count = strains.shape[1]
    if criterion == "maximum_strain":
        limits = strain_limits(material)
        indices = (np.vstack([limits @ own for own in rows]) @ strains).reshape(len(rows), len(limits), count)
        return inverse(np.max(indices, axis=1))
    own = (np.vstack(rows) @ strains).reshape(len(rows), 3, count)
    return CRITERIA[criterion](np.moveaxis(own, 1, -1), material)


def _remarks(context: Context) -> tuple[str, ...]:
    section = context.response.section
    remarks = []
    for face in section.faces:
        if face.thickness > 0.25 * context.stack.thickness:
            remarks.append(
                f"face {face.name} is more than a quarter of the total thickness; its own shear strain is neglected"
            )
    if context.stack.several_cores:
        remarks.append("several cores: judged as one laminate with first-order shear, less exact than three layers")
    if any(layer.material.family == "metal" for layer in context.stack.layers):
        remarks.append("metal: first yield at ultimate load is taken as failure, on the safe side")
    return tuple(remarks)
