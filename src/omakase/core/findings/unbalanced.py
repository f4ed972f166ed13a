"""Shear that comes with stretching: angles without their opposites."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from omakase.core.checks.result import CheckResult
from omakase.core.findings.finding import Finding, Surroundings
from omakase.core.findings.registry import register
from omakase.core.laminate.stack import Stack
from omakase.core.laminate.stiffness import laminate_abd

LEAST_SHARE = 0.05


@register(
    "unbalanced",
    "Angles without their opposites, so that stretching shears it",
    "Classical lamination theory, A16 and A26 (Jones 1999, 4.3)",
)
def unbalanced(stack: Stack, _checks: Sequence[CheckResult], _surroundings: Surroundings) -> Finding | None:
    """Shear strain per stretch along x or y, from A alone."""
    A, _, _ = laminate_abd(stack)
    compliance = np.linalg.inv(A)
    share = max(abs(compliance[2, axis] / compliance[axis, axis]) for axis in (0, 1))
    if share < LEAST_SHARE:
        return None
    turned = tuple(
        i
        for i, layer in enumerate(stack.layers)
        if layer.structural and layer.role == "ply" and layer.angle % 90.0 != 0.0
    )
    return Finding(
        "unbalanced",
        f"not balanced: a stretch along an axis comes with {share:.0%} of it as shear",
        "it pulls out of square under load and twists if the plies are not at one height",
        "give each ply at an angle one at the opposite angle, or use cloth",
        turned,
    )
