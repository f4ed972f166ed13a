"""All fibres along one axis."""

from __future__ import annotations

from collections.abc import Sequence

from omakase.core.checks.result import CheckResult
from omakase.core.findings.finding import Finding, Surroundings
from omakase.core.findings.registry import register
from omakase.core.laminate.stack import Stack

WITHIN = 10.0  # degrees


@register(
    "one_axis",
    "Every counted ply is unidirectional and lies along one axis",
    "Splitting between the fibres (common practice, no source)",
)
def one_axis(stack: Stack, _checks: Sequence[CheckResult], _surroundings: Surroundings) -> Finding | None:
    """Unidirectional plies only, all within 10° of each other."""
    plies = [layer for layer in stack.layers if layer.structural and layer.role == "ply"]
    if any(ply.material.kind != "ply" or ply.material.is_woven for ply in plies):
        return None
    first = plies[0].angle
    if any(abs((ply.angle - first + 90.0) % 180.0 - 90.0) > WITHIN for ply in plies):
        return None
    return Finding(
        "one_axis",
        f"all fibres lie along {first:g}°",
        "only the resin holds it across, and it splits along the fibres",
        "put a ply of cloth or ±45 outside: it holds the fibres together and gives torsion",
    )
