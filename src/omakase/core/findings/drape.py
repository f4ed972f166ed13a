"""Cloth that is too stiff for the bend it has to follow."""

from __future__ import annotations

from collections.abc import Sequence

from omakase.core.checks.result import CheckResult
from omakase.core.findings.finding import Finding, Measure, Surroundings, names
from omakase.core.findings.registry import register
from omakase.core.laminate.stack import Stack

# tightest radius over ply thickness that a cloth of each drape rating follows (common practice, no source)
RADIUS_OVER_THICKNESS = {5: 5.0, 4: 10.0, 3: 20.0, 2: 40.0, 1: 80.0}


@register(
    "drape",
    "A ply too thick to drape around the part's tightest bend",
    "Radius of the bend over ply thickness by the cloth's drape rating, 5 to 80 (common practice, no source)",
)
def drape(stack: Stack, _checks: Sequence[CheckResult], surroundings: Surroundings) -> Finding | None:
    """Plies with a drape rating against the brief's tightest radius; none given means flat."""
    if surroundings.radius is None:
        return None
    stiff = [
        i
        for i, layer in enumerate(stack.layers)
        if "drape" in layer.material.properties
        and surroundings.radius < _least_radius(layer.material.value("drape"), layer.thickness)
    ]
    if not stiff:
        return None
    layer = stack.layers[stiff[0]]
    least = _least_radius(layer.material.value("drape"), layer.thickness)
    return Finding(
        "drape",
        f"{names(stiff)}: {layer.material.id} drapes around {{radius}}, the part bends tighter",
        "a stiff cloth bridges the corner: resin gathers under it and the ply is not where it is counted",
        "a cloth that drapes better, the same fibre in thinner plies, or a rounder corner",
        tuple(stiff),
        (Measure("radius", least, "length"),),
    )


def _least_radius(rating: float, thickness: float) -> float:
    return RADIUS_OVER_THICKNESS[max(1, min(5, round(rating)))] * thickness
