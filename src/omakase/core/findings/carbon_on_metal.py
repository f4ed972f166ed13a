"""Carbon touching metal without an isolating layer."""

from __future__ import annotations

from collections.abc import Sequence

from omakase.core.checks.result import CheckResult
from omakase.core.findings.finding import Finding, Surroundings, is_metallic, names
from omakase.core.findings.registry import register
from omakase.core.laminate.stack import Stack


@register(
    "carbon_on_metal",
    "Carbon touches aluminium, steel or another metal with no glass between them",
    "Galvanic corrosion; guidance of CMH-17, from memory",
)
def carbon_on_metal(stack: Stack, _checks: Sequence[CheckResult], _surroundings: Surroundings) -> Finding | None:
    """Neighbouring layers of which one is carbon and the other metal, or honeycomb of metal."""
    touching: list[int] = []
    for i, (upper, lower) in enumerate(zip(stack.layers, stack.layers[1:], strict=False)):
        pair = upper.material, lower.material
        if any(m.family == "carbon" for m in pair) and any(is_metallic(m) for m in pair):
            touching += [j for j in (i, i + 1) if j not in touching]
    if not touching:
        return None
    return Finding(
        "carbon_on_metal",
        f"carbon touches metal at {names(touching)}",
        "the metal corrodes where it touches carbon and gets wet",
        "lay a ply of glass between them, reaching beyond the edge",
        tuple(touching),
    )
