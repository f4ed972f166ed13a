"""Which layers lie where on a panel: a patchwork of rectangles with a stack each, and openings."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from typing import Any

import msgspec
import numpy as np

from omakase.core.errors import LayupError, PanelError, both_units
from omakase.core.laminate.stack import Layer, Stack

MOST_LINES = 24  # of a patchwork along one side
OPEN = -1  # of which stack a rectangle is, while they are counted


class Box(msgspec.Struct, frozen=True):
    """A rectangle of the panel, m, in the plan."""

    low_x: float
    high_x: float
    low_y: float
    high_y: float

    def holds(self, x: float, y: float) -> bool:
        return self.low_x <= x <= self.high_x and self.low_y <= y <= self.high_y


class Lying(msgspec.Struct, frozen=True):
    """Where a layer lies: in one of the ``boxes``, or ``outside`` all of them; everywhere without any."""

    boxes: tuple[Box, ...] = ()
    outside: bool = False
    is_core: bool = False

    def at(self, x: float, y: float) -> bool:
        return not self.boxes or any(box.holds(x, y) for box in self.boxes) != self.outside

    @property
    def in_zone(self) -> bool:
        return bool(self.boxes) and not self.outside


class Patchwork(msgspec.Struct, frozen=True, eq=False):
    """Lines ``x``, ``y`` from edge to edge, and for each rectangle between them which of the ``stacks`` is there; their
    number for an opening.

    ``rows`` : for each stack which of the panel's layers it is made of.  ``areas`` : of each stack, m².
    """

    x: np.ndarray
    y: np.ndarray
    which: np.ndarray
    stacks: tuple[Stack, ...]
    rows: tuple[tuple[int, ...], ...]

    @property
    def areas(self) -> np.ndarray:
        size = np.outer(np.diff(self.x), np.diff(self.y))
        return np.bincount(self.which.ravel(), size.ravel(), len(self.stacks) + 1)[:-1]

    @property
    def has_openings(self) -> bool:
        return bool((self.which == len(self.stacks)).any())

    @property
    def base(self) -> int:
        """The stack of the largest area."""
        return int(np.argmax(self.areas))

    def boxes(self) -> list[tuple[int, Box]]:
        """Every rectangle with the number of its stack, openings too."""
        x, y = self.x, self.y
        return [
            (int(self.which[i, j]), Box(float(x[i]), float(x[i + 1]), float(y[j]), float(y[j + 1])))
            for i, j in np.ndindex(self.which.shape)
        ]


def patchwork(
    layers: Sequence[Layer], lying: Sequence[Lying], length: float, width: float, openings: Sequence[Box] = ()
) -> Patchwork:
    """The stacks of all places, see ``rows_at``; nothing is there in ``openings``.

    Raises LayupError where a place has no layers or ones that make no stack, PanelError for too many zones.
    """
    x, y, rows = _pieces(lying, length, width, openings)
    which = np.zeros(rows.shape, int)
    known: dict[tuple[int, ...], Stack] = {}
    for i, j in np.ndindex(rows.shape):
        here: Any = rows[i, j]  # a tuple of rows, or None
        if here is None:
            which[i, j] = OPEN
            continue
        if here not in known:
            middle = (float(lines[k] + lines[k + 1]) / 2.0 for lines, k in ((x, i), (y, j)))
            where = ", y ".join(both_units(place) for place in middle)
            if not here:
                raise LayupError(f"at x {where} no layer is left")
            try:
                known[here] = Stack(tuple(layers[row] for row in here))
            except LayupError as error:
                raise LayupError(f"at x {where}: {error}") from None
        which[i, j] = list(known).index(here)
    if not known:
        raise LayupError("the openings leave nothing of the panel")
    which[which == OPEN] = len(known)
    return Patchwork(x, y, which, tuple(known.values()), tuple(known))


def layer_areas(lying: Sequence[Lying], length: float, width: float, openings: Sequence[Box] = ()) -> tuple[float, ...]:
    """The area of each layer, m².  Raises PanelError for too many zones."""
    x, y, rows = _pieces(lying, length, width, openings)
    sizes = np.outer(np.diff(x), np.diff(y))
    areas = np.zeros(len(lying))
    for i, j in np.ndindex(rows.shape):
        if rows[i, j] is not None:
            areas[list(rows[i, j])] += sizes[i, j]
    return tuple(float(area) for area in areas)


def _pieces(
    lying: Sequence[Lying], length: float, width: float, openings: Sequence[Box]
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Lines from edge to edge along x and y, and which layers lie in each rectangle between them: (x, y) of tuples, or
    None in an opening."""
    boxes = [*openings, *(box for own in lying for box in own.boxes)]
    x = _lines([end for box in boxes for end in (box.low_x, box.high_x)], length)
    y = _lines([end for box in boxes for end in (box.low_y, box.high_y)], width)
    if max(len(x), len(y)) > MOST_LINES:
        raise PanelError(f"zones cut the panel at more than {MOST_LINES} places along a side")
    rows = np.empty((len(x) - 1, len(y) - 1), object)
    for i, j in np.ndindex(rows.shape):
        middle = float(x[i] + x[i + 1]) / 2.0, float(y[j] + y[j + 1]) / 2.0
        rows[i, j] = None if any(box.holds(*middle) for box in openings) else rows_at(lying, *middle)
    return x, y, rows


def pieces_of(ends: np.ndarray, nodes: np.ndarray) -> np.ndarray:
    """For each cell between ``nodes`` the piece between ``ends`` that it lies in."""
    return np.clip(np.searchsorted(ends, (nodes[1:] + nodes[:-1]) / 2.0) - 1, 0, len(ends) - 2)


def _lines(ends: Sequence[float], size: float) -> np.ndarray:
    """Ends of zones on the panel, with its own."""
    lines = np.unique(np.round([0.0, size, *ends], 9))
    return lines[(lines >= 0.0) & (lines <= round(size, 9))]


def rows_at(lying: Sequence[Lying], x: float, y: float) -> tuple[int, ...]:
    """The layers of a place.  A core in a zone replaces the cores beside it in the list."""
    here = [own.at(x, y) for own in lying]
    for is_core, group in itertools.groupby(range(len(lying)), lambda row: lying[row].is_core):
        cores = list(group)
        inserts = [row for row in cores if here[row] and lying[row].in_zone]
        if is_core and inserts:
            for row in cores:
                here[row] = row == inserts[0]
    return tuple(row for row, lies in enumerate(here) if lies)
