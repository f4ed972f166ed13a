"""A wall whose layers run over stretches of the span: one stack for each stretch."""

from __future__ import annotations

import itertools
from collections.abc import Sequence

import msgspec
import numpy as np

from omakase.core.errors import LayupError, both_units
from omakase.core.laminate.stack import Layer, Stack


class Stretch(msgspec.Struct, frozen=True, eq=False):
    """From ``low`` to ``high`` m the wall is ``stack``; ``rows`` : which of the whole wall's layers these are."""

    low: float
    high: float
    stack: Stack
    rows: tuple[int, ...]


class Run(msgspec.Struct, frozen=True):
    """A layer and the stretch it runs over, m."""

    layer: Layer
    low: float
    high: float


def stretches(runs: Sequence[Run], length: float) -> tuple[Stretch, ...]:
    """The stacks along a span of ``length`` m, in order.

    Raises LayupError where a run has no length or lies outside, or where nothing is left of the wall.
    """
    for i, run in enumerate(runs):
        if not -1e-9 <= run.low < run.high <= length * (1.0 + 1e-9):
            raise LayupError(
                f"layer {i + 1} runs from {both_units(run.low)} to {both_units(run.high)}: it must begin before it "
                f"ends, on the member of {both_units(length)}"
            )
    ends = np.unique(np.round([0.0, length, *(end for run in runs for end in (run.low, run.high))], 9))
    parts: list[Stretch] = []
    for low, high in itertools.pairwise(ends):
        middle = (low + high) / 2.0
        rows = tuple(i for i, run in enumerate(runs) if run.low <= middle <= run.high)
        if not rows:
            raise LayupError(f"no layer runs from {both_units(float(low))} to {both_units(float(high))}")
        if parts and parts[-1].rows == rows:
            parts[-1] = msgspec.structs.replace(parts[-1], high=float(high))
            continue
        try:
            stack = Stack(tuple(runs[i].layer for i in rows))
        except LayupError as error:
            raise LayupError(f"from {both_units(float(low))} to {both_units(float(high))}: {error}") from None
        parts.append(Stretch(float(low), float(high), stack, rows))
    return tuple(parts)


def stretch_at(along: Sequence[Stretch], x: np.ndarray) -> np.ndarray:
    """Index of the stretch that each place lies in: (places,)."""
    return np.searchsorted([stretch.low for stretch in along[1:]], x, "right")


def whole(stack: Stack, length: float) -> tuple[Stretch, ...]:
    """One wall all along."""
    return (Stretch(0.0, length, stack, tuple(range(len(stack.layers)))),)
