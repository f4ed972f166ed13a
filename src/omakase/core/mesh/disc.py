"""A round plane of quadrilaterals: a square with bulging sides in its middle and four blocks around it, so that no
quadrilateral has a flat corner."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from omakase.core.mesh.mesh import HALF_STEPS

Where = Callable[[np.ndarray, np.ndarray], np.ndarray]  # s and t in a block to places on the unit disc
SAME = 1e-7  # on the unit disc; places closer than this are one
SQUARE, BULGE = 0.45, 0.15  # half side of the middle square on the unit disc, and how far its sides bulge, of that


def disc(middle: int, rings: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """``middle`` quadrilaterals along each side of the middle square, ``rings`` between it and the rim.

    Nodes (p, 2) on the unit disc; quadrilaterals (q, 8), corners and then middles, turning from the first axis to the
    second; the nodes of the rim that way round, corners and middles by turns, a corner first.
    """
    blocks: list[tuple[int, int, Where]] = [(middle, middle, _square)]
    blocks += [(middle, rings, _ring(turn)) for turn in range(4)]
    known: dict[tuple[int, int], int] = {}
    places: list[np.ndarray] = []
    quads: list[list[int]] = []
    for across, out, where in blocks:
        s, t = (own.ravel() for own in np.meshgrid(
            np.linspace(-1.0, 1.0, 2 * across + 1), np.linspace(-1.0, 1.0, 2 * out + 1), indexing="ij"
        ))  # fmt: skip
        grid = where(s, t)
        numbers = np.zeros(len(grid), int)
        for k, place in enumerate(grid):
            if k // (2 * out + 1) % 2 and k % (2 * out + 1) % 2:
                continue  # no node in the middle of a quadrilateral
            key = round(place[0] / SAME), round(place[1] / SAME)
            if key not in known:
                known[key] = len(places)
                places.append(place)
            numbers[k] = known[key]
        table = numbers.reshape(2 * across + 1, 2 * out + 1)
        quads += [[int(table[2 * i + a, 2 * j + b]) for a, b in HALF_STEPS] for i in range(across) for j in range(out)]
    unit = np.array(places)
    listed = np.array(quads)
    corners = unit[listed[:, :4]]
    sides = np.roll(corners, -1, axis=1) - corners
    turned = sides[:, 0, 0] * sides[:, 1, 1] - sides[:, 0, 1] * sides[:, 1, 0] < 0.0
    listed[turned] = listed[turned][:, [0, 3, 2, 1, 7, 6, 5, 4]]
    rim = np.nonzero(np.abs(np.hypot(*unit.T) - 1.0) < 1e-9)[0]
    rim = rim[np.argsort(np.arctan2(unit[rim, 1], unit[rim, 0]))]
    start = int(np.argmax(np.isin(rim, listed[:, :4])))
    return unit, listed, np.roll(rim, -start)


def _square(s: np.ndarray, t: np.ndarray) -> np.ndarray:
    """The middle square on the unit disc, s and t from −1 to 1."""
    return SQUARE * np.column_stack([s * (1.0 + BULGE * (1.0 - t**2)), t * (1.0 + BULGE * (1.0 - s**2))])


def _ring(turn: int) -> Where:
    """The block beside the middle square that is ``turn`` quarters from the one at +x, s around and t outward."""

    def where(s: np.ndarray, t: np.ndarray) -> np.ndarray:
        inner = _square(np.ones_like(s), s)
        angle = math.pi / 4.0 * s
        outer = np.column_stack([np.cos(angle), np.sin(angle)])
        share = ((1.0 + t) / 2.0)[:, None]
        x, y = ((1.0 - share) * inner + share * outer).T
        for _ in range(turn):
            x, y = -y, x
        return np.column_stack([x, y])

    return where
