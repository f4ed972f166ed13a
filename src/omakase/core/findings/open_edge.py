"""A core that ends at an edge which nothing closes."""

from __future__ import annotations

from collections.abc import Sequence

from omakase.core.checks.result import CheckResult
from omakase.core.findings.finding import Finding, Surroundings
from omakase.core.findings.registry import register
from omakase.core.laminate.stack import Stack


@register(
    "open_edge",
    "A core that ends at a free edge",
    "Free edges of sandwiches are closed by a solid edge, a lip or filler (common practice, no source)",
)
def open_edge(stack: Stack, _checks: Sequence[CheckResult], surroundings: Surroundings) -> Finding | None:
    """Sandwiches with a free edge in the brief; the mass of the close-out is not in the panel's."""
    if stack.core is None or not surroundings.open_edge:
        return None
    core = [layer.material.properties for layer in stack.layers[stack.core]]
    closed = all("open_cells" in core_layer and core_layer["open_cells"].value == 0.0 for core_layer in core)
    return Finding(
        "open_edge",
        "a free edge shows the core: it needs a close-out, whose mass is not counted here",
        "knocks peel the faces and the edge crushes" + ("" if closed else "; the cells are open and water gets in"),
        "run the core out to solid laminate, turn a lip, or fill the edge",
        tuple(range(stack.core.start, stack.core.stop)),
    )
