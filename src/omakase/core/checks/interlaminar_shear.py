"""Transverse shear between the plies of a monolithic laminate."""

from __future__ import annotations

import numpy as np

from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context, Place
from omakase.core.members.panel import CaseResponse
from omakase.core.plates.grid import Edges

EDGE_SHARE = 0.05


@register(
    "interlaminar_shear",
    "Transverse shear between the plies of a monolithic laminate",
    "Equilibrium of ply stresses (two cylindrical bending modes, after Rolfes and Rohwer 1997)",
    "First-order shear laminates; free-edge stresses are not included: a strip of 5 % of the shorter side along "
    "free and resting edges and in the corners is left out, where twist turns into shear within about one thickness.",
    ("S13", "S23"),
)
def interlaminar_shear(context: Context) -> list[CheckResult]:
    """Largest √((τ_xz/S13)² + (τ_yz/S23)²) over the layers' borders and middles of a monolithic laminate."""
    section = context.response.section
    shear = section.transverse_shear
    if shear is None:
        return []
    results = []
    for case in context.response.cases:
        force = case.equilibrium_shear(section)
        force[_left_out(case, context.response.panel.edges)] = 0.0
        worst, place, governing = 0.0, Place(), context.stack.layers[0].material
        for i, layer in enumerate(context.stack.layers):
            c, s = np.cos(np.radians(layer.angle)), np.sin(np.radians(layer.angle))
            R = np.array([[c, s], [-s, c]])
            strength = np.array([layer.material.value("S13"), layer.material.value("S23")])
            for z in np.linspace(section.stack.z_bottom[i], section.stack.z_top[i], 3):
                stress = force @ (R @ shear.distribution(i, float(z))).T
                index = np.sqrt(np.sum((stress / strength) ** 2, axis=-1))
                a, b = np.unravel_index(np.argmax(index), index.shape)
                if index[a, b] > worst:
                    worst = float(index[a, b])
                    place = Place(float(case.x[a]), float(case.y[b]), i, "inside")
                    governing = layer.material
        value = worst * context.settings.ultimate_factor
        results.append(
            CheckResult(
                check="interlaminar_shear",
                title="Interlaminar shear",
                kind="strength",
                dimension="ratio",
                value=value,
                allowable=1.0,
                reserve_factor=1.0 / value if value > 0.0 else np.inf,
                required=context.limits.reserve_factor,
                load_case=case.case.name,
                place=place,
                method="equilibrium of ply stresses, S13 and S23 combined quadratically",
                source=governing.source(("S13", "S23")),
            )
        )
    return results


def _left_out(case: CaseResponse, edges: Edges) -> np.ndarray:
    """Mask of the samples in the corners and beside resting and free edges, (x, y)."""
    reach = EDGE_SHARE * min(case.x[-1], case.y[-1])
    first_x, last_x = case.x < reach, case.x[-1] - case.x < reach
    first_y, last_y = case.y < reach, case.y[-1] - case.y < reach
    mask = np.outer(first_x | last_x, first_y | last_y)
    soft = ("free", "resting")
    for edge, near in ((edges.x0, first_x), (edges.x1, last_x)):
        mask |= near[:, None] if edge in soft else False
    for edge, near in ((edges.y0, first_y), (edges.y1, last_y)):
        mask |= near[None, :] if edge in soft else False
    return mask
