"""Honeycomb with its ribbon the weak way."""

from __future__ import annotations

from collections.abc import Sequence

from omakase.core.checks.result import CheckResult
from omakase.core.findings.finding import Finding, Surroundings
from omakase.core.findings.registry import register
from omakase.core.laminate.stack import Stack

MATTERS = 2.0  # times what is required: with more reserve nobody needs to turn the ribbon


@register(
    "ribbon",
    "The governing core shear runs across the ribbon of a honeycomb",
    "L and W strengths of the core's record",
)
def ribbon(stack: Stack, checks: Sequence[CheckResult], _surroundings: Surroundings) -> Finding | None:
    """The least reserve in core shear is in W, W is weaker than L, and there is less than twice what is required."""
    shear = min((c for c in checks if c.check == "core_shear"), key=lambda c: c.reserve_factor, default=None)
    if shear is None or shear.place.layer is None or shear.place.surface != "mostly W":
        return None
    if shear.reserve_factor > MATTERS * shear.required:
        return None
    core = stack.layers[shear.place.layer]
    if core.material.family != "honeycomb" or core.material.value("S23") > 0.9 * core.material.value("S13"):
        return None
    turned = core.angle + 90.0 if core.angle < 90.0 else core.angle - 90.0
    return Finding(
        "ribbon",
        f"layer {shear.place.layer + 1}: the core shears across its ribbon (RF {shear.reserve_factor:.2f})",
        f"across it the core has {core.material.value('S23') / core.material.value('S13'):.0%} of its strength along",
        f"turn the ribbon to {turned:g}°",
        (shear.place.layer,),
    )
