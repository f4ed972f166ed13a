"""Carbon laid directly on wood."""

from __future__ import annotations

from collections.abc import Sequence

from omakase.core.checks.result import CheckResult
from omakase.core.findings.finding import Finding, Surroundings, names
from omakase.core.findings.registry import register
from omakase.core.laminate.stack import Stack

RATIO = 5.0


@register(
    "stiff_on_wood",
    "A stiff, brittle skin on plywood that is meant to carry load",
    "The stiffer layer takes the load first (common practice, no source)",
)
def stiff_on_wood(stack: Stack, _checks: Sequence[CheckResult], _surroundings: Surroundings) -> Finding | None:
    """A ply more than five times as stiff as the wooden sheet beside it, where the sheet is counted as a ply."""
    rows: list[int] = []
    for i, (upper, lower) in enumerate(zip(stack.layers, stack.layers[1:], strict=False)):
        for skin, wood, at in ((upper, lower, i), (lower, upper, i + 1)):
            carried = wood.material.family == "wood" and wood.role == "ply" and wood.structural
            stiff = skin.material.kind == "ply" and skin.material.value("E1") > RATIO * wood.material.value("E1")
            if carried and stiff and skin.structural:
                rows.append(at)
    if not rows:
        return None
    return Finding(
        "stiff_on_wood",
        f"{names(rows)}: a stiff skin on wood",
        "the skin carries nearly all of the load and breaks before the wood carries its share",
        "size the skin to carry alone, or use glass, which stretches with the wood",
        tuple(rows),
    )
