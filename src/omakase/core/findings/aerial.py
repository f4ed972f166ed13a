"""What an aerial behind the part cannot see through."""

from __future__ import annotations

from collections.abc import Sequence

from omakase.core.checks.result import CheckResult
from omakase.core.findings.finding import Finding, Surroundings, is_metallic, names
from omakase.core.findings.registry import register
from omakase.core.laminate.stack import Stack


@register(
    "aerial",
    "Carbon or metal in front of an aerial",
    "Carbon and metal conduct and shield; glass, aramid and most cores let radio through (common practice, no source)",
)
def aerial(stack: Stack, _checks: Sequence[CheckResult], surroundings: Surroundings) -> Finding | None:
    """Layers that conduct, where the brief has an aerial; aluminium honeycomb is one of them."""
    conducting = [
        i for i, layer in enumerate(stack.layers) if layer.material.family == "carbon" or is_metallic(layer.material)
    ]
    if not surroundings.aerial or not conducting:
        return None
    return Finding(
        "aerial",
        f"{names(conducting)}: the aerial behind it is shielded",
        "carbon and metal conduct, so that radio does not pass",
        "lay glass or aramid over the aerial's window, or move the aerial outside",
        tuple(conducting),
    )
