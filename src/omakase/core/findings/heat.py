"""Resin and core that get too warm."""

from __future__ import annotations

from collections.abc import Sequence

from omakase.core.checks.result import CheckResult
from omakase.core.findings.finding import Finding, Measure, Surroundings, names
from omakase.core.findings.registry import register
from omakase.core.laminate.stack import Stack
from omakase.core.materials.conditions import transition

MARGIN = 28.0  # K below the glass transition


@register(
    "heat",
    "Service temperature too close to the resin's glass transition, or above the limit of the core",
    "Wet glass transition less 28 K (guidance of CMH-17); cores by their stated limit",
)
def heat(stack: Stack, _checks: Sequence[CheckResult], surroundings: Surroundings) -> Finding | None:
    """Counted layers that state a wet glass transition or a service limit, against the brief's temperature."""
    limits = {}
    for i, layer in enumerate(stack.layers):
        properties = layer.material.properties
        if "service_limit" in properties:
            limits[i] = layer.material.value("service_limit")
        elif "glass_wet" in properties:
            limits[i] = transition(layer.material, surroundings.wet) - MARGIN
    over = [i for i, limit in limits.items() if surroundings.temperature > limit]
    if not over:
        return None
    least = min(limits[i] for i in over)
    return Finding(
        "heat",
        f"{names(over)}: limit {{limit}}, the part works at {{service}}",
        "near its glass transition a resin creeps and lets the fibres buckle; foam shrinks and creeps",
        "a resin or core for more heat, a post-cure that is measured, or a light colour in the sun",
        tuple(over),
        (Measure("limit", least, "temperature"), Measure("service", surroundings.temperature, "temperature")),
    )
