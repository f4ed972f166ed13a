"""A light outer ply that will be sanded off, yet is counted on."""

from __future__ import annotations

from collections.abc import Sequence

from omakase.core.checks.result import CheckResult
from omakase.core.findings.finding import Finding, Surroundings, names
from omakase.core.findings.registry import register
from omakase.core.laminate.stack import Stack

LIGHT = 0.06  # kg/m² of dry cloth


@register(
    "sanding_ply",
    "A light outer glass ply, meant to be sanded, is counted as structural",
    "Outer glass cloth up to 60 g/m² over other fibres (common practice, no source)",
)
def sanding_ply(stack: Stack, _checks: Sequence[CheckResult], _surroundings: Surroundings) -> Finding | None:
    """The first and the last layer, where they are light glass and not all is glass."""
    if all(layer.material.family == "glass" for layer in stack.layers if layer.role == "ply"):
        return None
    rows = [
        i
        for i in sorted({0, len(stack.layers) - 1})
        for layer in (stack.layers[i],)
        if layer.structural
        and layer.material.family == "glass"
        and layer.material.kind == "ply"
        and layer.material.value("fibre_areal_mass") <= LIGHT
    ]
    if not rows:
        return None
    return Finding(
        "sanding_ply",
        f"{names(rows)}: a light glass ply outside is counted on",
        "it is meant to be sanded and painted, and may be sanded through in places",
        "untick it in the list: it keeps its mass and carries nothing",
        tuple(rows),
    )
