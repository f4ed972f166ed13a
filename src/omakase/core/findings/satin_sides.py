"""Satin plies laid so that they bow when stretched, or are weak in bending one way."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from omakase.core.checks.result import CheckResult
from omakase.core.findings.finding import Finding, Surroundings, names
from omakase.core.findings.registry import register
from omakase.core.laminate.stack import Stack
from omakase.core.laminate.stiffness import abd, laminate_abd, stack_stiffness

BOW = 0.02  # of the thickness: how far the sides alone may shift the plane that does not stretch
# by how much the sides alone may raise the ratio of bending stiffness along to across: four plies that mirror each
# other with the inner pair turned still have 1.2
UNEVEN = 1.25


@register(
    "satin_sides",
    "The two unlike sides of satin plies make a laminate bow, or weaken it in bending one way",
    "Two half-thick layers per ply, warp share (n − 1)/n on one side and 1/n on the other (derived)",
)
def satin_sides(stack: Stack, _checks: Sequence[CheckResult], _surroundings: Surroundings) -> Finding | None:
    """B and D with the two sides of each satin ply against those with its mean; monolithic laminates only."""
    plies = [i for i, layer in enumerate(stack.layers) if layer.material.has_face and layer.structural]
    if not plies or stack.core is not None:
        return None
    _, B0, D0 = abd(stack_stiffness(stack), stack.z_top, stack.z_bottom)
    A, B, D = laminate_abd(stack)
    shift = float(np.max(np.abs((B - B0)[:2, :2]) / np.trace(A[:2, :2])) * 2.0) / stack.thickness
    ratio = (D[0, 0] / D[1, 1]) / (D0[0, 0] / D0[1, 1])
    uneven = max(ratio, 1.0 / ratio)
    if shift < BOW and uneven < UNEVEN:
        return None
    if uneven >= UNEVEN:
        text = f"{names(plies)}: the satin's sides make it bend {uneven:.1f} times as stiffly one way as the other"
        fix = (
            "turn an inner pair of plies that mirror each other by 90°, both of them, so that it stays symmetric; two "
            "plies alone are always uneven: put the stiff way where the part needs it"
        )
    else:
        text = f"{names(plies)}: the satin's warp sides do not balance, it bows when stretched, heated or cured"
        fix = "turn one ply's other side up, until the warp sides mirror each other about the middle"
    return Finding(
        "satin_sides",
        text,
        "a satin is mostly warp on one side and mostly weft on the other",
        fix,
        tuple(plies),
    )
