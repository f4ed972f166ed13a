"""Plies that end together, or one soon after the other, along a span."""

from __future__ import annotations

from collections.abc import Sequence

from omakase.core.checks.result import CheckResult
from omakase.core.findings.finding import Finding, Measure, Surroundings, names
from omakase.core.findings.registry import register
from omakase.core.laminate.stack import Stack

RATIO = 20.0  # of step to thickness that drops (common practice, no source)
THICK = 0.15  # of the thickness there, that may drop at once


@register(
    "ply_drops",
    "Plies that end together or too steeply along the span",
    "A step of 20 times the thickness that ends there for each ply (common practice, no source); drops of less than "
    "15 % of the wall's thickness at one place are let pass",
)
def ply_drops(stack: Stack, _checks: Sequence[CheckResult], surroundings: Surroundings) -> Finding | None:
    """The steepest group of ends inside the span; counted layers only, of one wall."""
    worst: tuple[float, tuple[int, ...], float, float] | None = None
    for side in (0, 1):
        ends = sorted(
            (run[side], i)
            for i, run in enumerate(surroundings.runs)
            if stack.layers[i].structural and 0.0 < run[side] < surroundings.length
        )
        for first in range(len(ends)):
            dropped, span = 0.0, 0.0
            rows: list[int] = []
            for place, i in ends[first:]:
                span = place - ends[first][0]
                if rows and span >= RATIO * dropped:
                    break
                dropped += stack.layers[i].thickness
                rows.append(i)
                there = sum(
                    layer.thickness
                    for layer, (low, high) in zip(stack.layers, surroundings.runs, strict=True)
                    if low <= place <= high
                )
                together = len(rows) > 1 and dropped > THICK * there
                if together and (worst is None or span / dropped < worst[0]):
                    worst = span / dropped, tuple(rows), ends[first][0], dropped
    if worst is None:
        return None
    ratio, rows_, place, dropped = worst
    return Finding(
        "ply_drops",
        f"{names(rows_)} end within {ratio:.0f} times their thickness of {{drop}} at x {{place}}",
        "the force of what ends goes through the resin into the rest over one short stretch, which peels there first",
        f"let each end {RATIO:.0f} times its thickness or more from the next",
        rows_,
        (Measure("drop", dropped, "length"), Measure("place", place, "length")),
    )
