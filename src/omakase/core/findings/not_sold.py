"""A thickness that nobody sells."""

from __future__ import annotations

from collections.abc import Sequence

from omakase.core.checks.result import CheckResult
from omakase.core.findings.finding import Finding, Measure, Surroundings, names
from omakase.core.findings.registry import register
from omakase.core.laminate.stack import Stack

TOLERANCE = 0.02  # of a thickness, beyond which it is another


@register(
    "not_sold",
    "A core or sheet in a thickness that is not sold",
    "The material's own list of thicknesses sold, to 2 % (common practice, no source)",
)
def not_sold(stack: Stack, _checks: Sequence[CheckResult], _surroundings: Surroundings) -> Finding | None:
    """Layers bought by thickness whose material lists what is sold; the nearest thicker one is the fix."""
    unsold = []
    for i, layer in enumerate(stack.layers):
        sold = layer.material.sold
        if sold and all(abs(layer.thickness - t) > TOLERANCE * t for t in sold):
            unsold.append(i)
    if not unsold:
        return None
    layer = stack.layers[unsold[0]]
    thicker = [t for t in layer.material.sold if t > layer.thickness]
    nearest = min(thicker, default=max(layer.material.sold))
    return Finding(
        "not_sold",
        f"{names(unsold)}: {layer.material.id} is not sold {{thickness}} thick",
        "another thickness is planed or glued up by hand, which costs time and bond lines",
        "{nearest} is the nearest thicker one",
        tuple(unsold),
        (Measure("thickness", layer.thickness, "length", True), Measure("nearest", nearest, "length", True)),
    )
