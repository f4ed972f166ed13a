"""Transverse shear between the plies of a monolithic laminate."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace

from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context
from omakase.core.laminate.strength import shear_ratios
from omakase.core.members.field import Place


@register(
    "interlaminar_shear",
    "Transverse shear between the plies of a monolithic laminate",
    "Equilibrium of ply stresses (two cylindrical bending modes, after Rolfes and Rohwer 1997)",
    "First-order shear laminates; free-edge stresses are not included: a strip of 5 % of the shorter side along "
    "free and resting edges is left out, where twist turns into shear within about one thickness, and 10 % in the "
    "corners, 20 % where a clamped and a free edge meet, where the gradients of the moments have no bound; 10 % along "
    "all edges where bending twists the laminate. There, and at a clamped edge that meets a free one, the rest may be "
    "a quarter off and more; the result says so.",
    ("S13", "S23"),
)
def interlaminar_shear(context: Context) -> list[CheckResult]:
    """Largest √((τ_xz/S13)² + (τ_yz/S23)²) over the layers' borders and middles of a monolithic laminate."""
    section = context.section
    if section.core is not None or all(layer.material.is_metal for layer in context.stack.layers):
        return []  # one sheet of metal has no plies to slide on each other
    forces = [case.ply_shear(section) for case in context.cases]
    shear = section.transverse_shear if any(force is not None for force in forces) else None
    if shear is None:
        return []
    # the index's square is a quadratic form of the shear force, at each border and middle of a layer: (n, 3)
    owners, forms = [], []
    for i, layer in enumerate(context.stack.layers):
        layer_ratios = shear_ratios(layer)
        for z in np.linspace(section.stack.z_bottom[i], section.stack.z_top[i], 3):
            ratios = layer_ratios @ shear.distribution(i, float(z))
            form = ratios.T @ ratios
            owners.append(i)
            forms.append((form[0, 0], 2.0 * form[0, 1], form[1, 1]))
    squares = np.array(forms)
    results = []
    for case, force in zip(context.cases, forces, strict=True):
        if force is None:
            continue
        x, y = force[..., 0].ravel(), force[..., 1].ravel()
        index = squares @ np.stack([x * x, x * y, y * y])
        height, at = np.unravel_index(np.argmax(index), index.shape)
        worst, place, governing = float(np.sqrt(max(index[height, at], 0.0))), Place(), context.stack.layers[0].material
        if worst > 0.0:
            a, b = divmod(int(at), len(case.y))
            place = replace(case.place(a, b), layer=owners[height], surface="inside")
            governing = context.stack.layers[owners[height]].material
        value = worst * context.settings.ultimate_factor
        results.append(
            context.result(
                "interlaminar_shear",
                "Interlaminar shear",
                case.case,
                value,
                1.0,
                place,
                method="equilibrium of ply stresses, S13 and S23 combined quadratically",
                source=governing.source(("S13", "S23")),
                remarks=(context.field.rough_shear,) if context.field.rough_shear else (),
            )
        )
    return results
