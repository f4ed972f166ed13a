"""First-ply failure of faces and laminates."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context, Place
from omakase.core.laminate.failure import CRITERIA, CRITERION_NAMES, inverse, strain_limits
from omakase.core.materials.material import Material
from omakase.core.plates.section import PlateSection
from omakase.core.rotation import strain_rotation

STRENGTHS = ("E1", "E2", "G12", "Xt", "Xc", "Yt", "Yc", "S12")


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
    # plies of one material are judged together, all places and load cases at once
    by_material: dict[str, list[int]] = {}
    for i, layer in enumerate(context.stack.layers):
        if layer.structural and layer.role == "ply":
            by_material.setdefault(layer.material.id, []).append(i)
    places = context.places
    names = [(i, name) for plies in by_material.values() for i in plies for name in ("upper", "lower")]
    rules = [PlyRows(context.settings.criterion, section, plies) for plies in by_material.values()]
    severity = rules[0].severity(places.strains[0:9])
    for rule in rules[1:]:
        severity = np.maximum(severity, rule.severity(places.strains[0:9]))
    governing_places = list(places.largest(severity))
    if not governing_places:
        return []
    there = places.strains[0:9, [k for _, k in governing_places]]
    factors = np.concatenate([rule.factors(there) for rule in rules])
    surface, least = np.argmin(factors, axis=0), factors.min(axis=0)
    results = []
    for n, (case, k) in enumerate(governing_places):
        i, name = names[surface[n]]
        place = Place(*places.at(k), i, name) if np.isfinite(least[n]) else Place()
        governing = context.stack.layers[i].material
        factor = float(least[n]) / context.settings.ultimate_factor
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
                remarks=(*_remarks(context), *places.remarks(severity, k)),
            )
        )
    return results


class PlyRows:
    """Upper and lower surfaces of ``plies`` of one material, whose strains are rows times the generalised (9, places).

    By maximum strain the limits go into the rows, so that one product and its maximum say it all.
    """

    def __init__(self, criterion: str, section: PlateSection, plies: list[int]) -> None:
        stack = section.stack
        self._criterion, self._material = criterion, stack.layers[plies[0]].material
        self._by_strain, self._count = criterion == "maximum_strain", 2 * len(plies)
        turned = np.array([_turned(self._material, stack.layers[i].angle, self._by_strain) for i in plies])
        surfaces = ((i, float(z[i])) for i in plies for z in (stack.z_top, stack.z_bottom))
        levels = np.array([(1.0, *section.levels(i, z)) for i, z in surfaces]).reshape(len(plies), 2, 1, 3, 1)
        self._rows = (turned[:, None, :, None, :] * levels).reshape(-1, 9)

    def severity(self, strains: np.ndarray) -> np.ndarray:
        """The larger, the nearer the worst surface is to failure at each place, (places,)."""
        if self._by_strain:
            return (self._rows @ strains).max(axis=0)
        return -self.factors(strains).min(axis=0)

    def factors(self, strains: np.ndarray) -> np.ndarray:
        """Load factor of each surface at each place, (surfaces, places)."""
        own = (self._rows @ strains).reshape(self._count, -1, strains.shape[1])
        if self._by_strain:
            return inverse(own.max(axis=1))
        return CRITERIA[self._criterion](np.moveaxis(own, 1, -1), self._material)


@lru_cache(maxsize=1024)
def _turned(material: Material, angle: float, by_strain: bool) -> np.ndarray:
    """Strains of a ply in its own axes per strain in panel axes, (3, 3), or over their limits, (6, 3)."""
    rotation = strain_rotation(angle)
    return strain_limits(material) @ rotation if by_strain else rotation


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
