"""Strains and stresses against the design values of the conditions that a brief names."""

from __future__ import annotations

from functools import partial

import numpy as np

from omakase.core.checks.face_failure import surface_rows
from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context
from omakase.core.design_values import DesignCondition, FamilyValues
from omakase.core.laminate.failure import von_mises_stress
from omakase.core.laminate.stack import Layer
from omakase.core.rotation import strain_rotation


@register(
    "design_values", "A ply or sheet beyond the design value of a condition that the brief names",
    "Strain along the fibres and in shear at ultimate load over the family's cut-off; a metal's von Mises stress over "
    "yield at limit and over ultimate at ultimate load (CMH-17, from memory, for the way; values as stated)",
    "Strains of the sound laminate at room stiffness: what heat, holes and impacts do is in the values.",
)  # fmt: skip
def design_values(context: Context) -> list[CheckResult]:
    """One result per load case: the condition, layer and place nearest to its cut-off."""
    conditions = context.settings.conditions
    if not conditions or not len(context.places):
        return []
    found = [_of_condition(context, condition) for condition in conditions]
    places = context.places
    results = []
    for n, condition_rows in enumerate(zip(*(rows for rows in found if rows), strict=True)):
        index, k, layer, surface, values, name = max(condition_rows, key=lambda row: row[0])
        material = context.stack.layers[layer].material
        if index <= 0.0:
            continue
        case = context.cases[n]
        stated = values[material.family]
        results.append(
            context.result(
                "design_values", f"Design value, {name}", case.case, index, 1.0,
                places.place(k, layer, surface),
                method=f"cut-off of {material.family}, {name}",
                source="assumed" if stated.assumed else "datasheet", remarks=(stated.told,) if stated.told else (),
            )
        )  # fmt: skip
    return results


Row = tuple[float, int, int, str, dict[str, FamilyValues], str]


def _of_condition(context: Context, condition: DesignCondition) -> list[Row]:
    """Of each load case the largest share of a cut-off: (share, place, number of the layer, surface, values, name)."""
    places = context.places
    inside = _inside(context, condition)
    rows: list[Row] = [(0.0, 0, 0, "", condition.families, condition.name) for _ in context.cases]
    for i, layer in enumerate(context.stack.layers):
        values = condition.families.get(layer.material.family)
        if values is None or not layer.structural or layer.role != "ply":
            continue
        share = _shares(context, i, layer, values)
        if share is None:
            continue
        upper_lower = share.reshape(2, -1)
        worst = np.where(inside, upper_lower.max(axis=0), 0.0)
        for n, (_, k) in enumerate(places.largest(worst)):
            if worst[k] > rows[n][0]:
                surface = ("upper", "lower")[int(np.argmax(upper_lower[:, k]))]
                rows[n] = (float(worst[k]), k, i, surface, condition.families, condition.name)
    return rows


def _shares(context: Context, index: int, layer: Layer, values: FamilyValues) -> np.ndarray | None:
    """Share of its cut-off at ultimate load, on both surfaces at every place, (2 · places,)."""
    strains = context.places.strains[0:9]
    level = context.settings.ultimate_factor
    if layer.material.is_metal:
        if values.yield_stress is None and values.ultimate is None:
            return None
        own = (surface_rows(context.section, [index], strain_rotation) @ strains).reshape(2, 3, -1)
        stress = von_mises_stress(np.moveaxis(own, 1, -1), layer.material)
        at_limit = stress / values.yield_stress if values.yield_stress else 0.0 * stress
        at_ultimate = level * stress / values.ultimate if values.ultimate else 0.0 * stress
        return np.maximum(at_limit, at_ultimate).ravel()
    limits = _limit_rows(layer, values)
    if limits is None:
        return None
    rows = surface_rows(context.section, [index], partial(_turned, limits))
    return level * (rows @ strains).reshape(2, len(limits), -1).max(axis=1).ravel()


def _turned(limits: np.ndarray, angle: float) -> np.ndarray:
    return limits @ strain_rotation(angle)


def _limit_rows(layer: Layer, values: FamilyValues) -> np.ndarray | None:
    """Rows whose largest product with a ply's strain is the share of its cut-offs; of cloth along 2 too."""
    rows = []
    for axis in (0, 1) if layer.material.is_woven else (0,):
        for cut_off, sign in ((values.tension, 1.0), (values.compression, -1.0)):
            if cut_off:
                rows.append([sign / cut_off if k == axis else 0.0 for k in range(3)])
    if values.shear:
        rows += [[0.0, 0.0, sign / values.shear] for sign in (1.0, -1.0)]
    return np.array(rows) if rows else None


def _inside(context: Context, condition: DesignCondition) -> np.ndarray:
    """Which places a condition is for: (places,) booleans."""
    if condition.boxes is None:
        return np.ones(len(context.places), bool)
    parts = []
    for case in context.cases:
        x = np.repeat(case.x, len(case.y))
        y = np.tile(case.y, len(case.x))
        within = np.zeros(len(x), bool)
        for low_x, high_x, low_y, high_y in condition.boxes:
            within |= (x >= low_x) & (x <= high_x) & (y >= low_y) & (y <= high_y)
        parts.append(within)
    return np.concatenate(parts) if parts else np.zeros(0, bool)
