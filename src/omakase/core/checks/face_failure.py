"""First-ply failure of faces and laminates."""

from __future__ import annotations

import numpy as np

from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context, Place
from omakase.core.laminate.failure import CRITERIA, CRITERION_NAMES, inverse, strain_limits
from omakase.core.materials.material import Material
from omakase.core.plates.section import PlateSection
from omakase.core.rotation import strain_rotation

STRENGTHS = ("E1", "E2", "G12", "Xt", "Xc", "Yt", "Yc", "S12")


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
    names = [(i, name) for group in by_material.values() for i, name, _ in group]
    rules = [
        PlyRows(context.settings.criterion, context.stack.layers[group[0][0]].material, [own for _, _, own in group])
        for group in by_material.values()
    ]
    least = np.min([rule.least(places.strains[0:9]) for rule in rules], axis=0)
    governing_places = list(places.largest(-least))
    if not governing_places:
        return []
    there = places.strains[0:9, [k for _, k in governing_places]]
    surface = np.argmin(np.concatenate([rule.each(there) for rule in rules]), axis=0)
    results = []
    for n, (case, k) in enumerate(governing_places):
        i, name = names[surface[n]]
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


class PlyRows:
    """Surfaces of plies of one material: their strains are ``rows`` (3, 9) times the generalised strains (9, places).

    By maximum strain the limits go into the rows, so that one product and its maximum say it all.
    """

    def __init__(self, criterion: str, material: Material, rows: list[np.ndarray]) -> None:
        self._criterion, self._material, self._count = criterion, material, len(rows)
        self._by_strain = criterion == "maximum_strain"
        if self._by_strain:
            limits = strain_limits(material)
            rows = [limits @ own for own in rows]
        self._rows = np.vstack(rows)

    def least(self, strains: np.ndarray) -> np.ndarray:
        """Lowest load factor of all surfaces at each place, (places,)."""
        if self._by_strain:
            return inverse(np.max(self._rows @ strains, axis=0))
        return np.min(self.each(strains), axis=0)

    def each(self, strains: np.ndarray) -> np.ndarray:
        """Load factor of each surface at each place, (surfaces, places)."""
        own = (self._rows @ strains).reshape(self._count, -1, strains.shape[1])
        if self._by_strain:
            return inverse(np.max(own, axis=1))
        return CRITERIA[self._criterion](np.moveaxis(own, 1, -1), self._material)


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
