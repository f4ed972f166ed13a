"""Bending that comes with stretching: a layup that is not symmetric about its middle."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from omakase.core.checks.result import CheckResult
from omakase.core.findings.finding import Finding, Measure, Surroundings
from omakase.core.findings.registry import register
from omakase.core.laminate.stack import Stack
from omakase.core.laminate.stiffness import laminate_abd

STRETCH = 1e-3
SYMMETRIC = 1e-9  # largest of B over that of A and the thickness, from rounding alone
SPAN = 1.0  # m
LEAST_RISE = 0.002  # of a length, at the stretch above; below it nobody sees the bow


@register(
    "unsymmetric",
    "The two halves differ, so that stretching, cure and heat bend or twist it",
    "Classical lamination theory, B matrix (Jones 1999, 4.3)",
)
def unsymmetric(stack: Stack, _checks: Sequence[CheckResult], surroundings: Surroundings) -> Finding | None:
    """Curvature and twist that a stretch of 0.1 % along x or y brings, the rest left free."""
    if surroundings.closed:
        return None
    A, B, D = laminate_abd(stack)
    if np.abs(B).max() <= SYMMETRIC * stack.thickness * np.abs(A).max():
        return None
    compliance = np.linalg.inv(np.block([[A, B], [B, D]]))
    worst, twist = 0.0, 0.0
    for axis in (0, 1):
        response = compliance[:, axis] * (STRETCH / compliance[axis, axis])
        worst = max(worst, float(np.abs(response[3:5]).max()))
        twist = max(twist, float(abs(response[5])) / 2.0)
    # rise of an arc of length L is κ L²/8, lift of a corner of a square of 1 m is the twist
    if worst / 8.0 < LEAST_RISE and twist < LEAST_RISE:
        return None
    return Finding(
        "unsymmetric",
        "not symmetric: stretched by 0.1 % along an axis, {span} of it rise by {rise}"
        + (f" and twists by {np.degrees(twist):.1f}°" if twist >= LEAST_RISE else ""),
        "cure and heat strain its halves differently, and it comes out of the mould bowed or twisted",
        "mirror the plies about the middle, or hold the part in a frame",
        measures=(Measure("span", SPAN, "length", True), Measure("rise", worst * SPAN**2 / 8.0, "length")),
    )
