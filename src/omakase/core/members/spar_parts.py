"""The parts of a spar: stretches along the span between whose stations it is drawn, and walls across it."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

import msgspec
import numpy as np

from omakase.core.sections.thin_walled import MidLines


class Piece(msgspec.Struct, frozen=True, eq=False):
    """A part of the span over which no wall changes its layers and no law has a kink.

    ``which`` : of each wall, the stretch it has there.  ``nodes`` : places at which the sections are solved.
    """

    low: float
    high: float
    which: tuple[int, ...]
    nodes: np.ndarray

    def shares(self, x: np.ndarray) -> np.ndarray:
        """Weights of the sections solved for places x, (places, nodes): the polynomial through them."""
        if len(self.nodes) == 1:
            return np.ones((len(x), 1))
        t = (2.0 * x - self.low - self.high) / (self.high - self.low)
        return _powers(t, len(self.nodes)) @ _through(len(self.nodes))


@lru_cache(maxsize=16)
def chebyshev(count: int) -> np.ndarray:
    """Chebyshev's points on −1 to 1, (count,)."""
    return -np.cos(np.pi * (np.arange(count) + 0.5) / count)


@lru_cache(maxsize=16)
def _through(count: int) -> np.ndarray:
    """Coefficients of the polynomial through values at Chebyshev's points, (count, count)."""
    return np.linalg.inv(_powers(chebyshev(count), count))


def _powers(t: np.ndarray, count: int) -> np.ndarray:
    """Chebyshev polynomials at t: (places, count)."""
    return np.cos(np.arange(count) * np.arccos(np.clip(t, -1.0, 1.0))[:, None])


class Chain(msgspec.Struct, frozen=True):
    """Pieces of one wall one after the other, between corners, junctions and free edges: what buckles as a plate.

    ``turning`` : by how much it turns from end to end, rad.  ``free`` : whether one of its ends is a free edge.
    ``longest`` : share of its width that its longest piece is.
    """

    wall: str
    pieces: tuple[int, ...]
    turning: float
    free: bool
    longest: float


def chains(lines: MidLines, names: Sequence[str]) -> tuple[Chain, ...]:
    """The chains of a section, wall by wall."""
    degree = np.bincount(lines.pieces.ravel(), minlength=lines.nodes.shape[1])
    series = []
    for wall, name in enumerate(names):
        run: list[int] = []
        for piece in [*np.nonzero(lines.walls == wall)[0].tolist(), -1]:
            goes_on = run and piece >= 0 and lines.pieces[piece, 0] == lines.pieces[run[-1], 1]
            if run and not (goes_on and degree[lines.pieces[piece, 0]] == 2):
                ends = degree[[lines.pieces[run[0], 0], lines.pieces[run[-1], 1]]]
                angles = np.unwrap(np.arctan2(lines.tangents[0, run, 1], lines.tangents[0, run, 0]))
                turning, free = float(np.abs(np.diff(angles)).sum()), bool((ends == 1).any())
                widths = lines.lengths[0, run]
                series.append(Chain(name, tuple(run), turning, free, float(widths.max() / widths.sum())))
                run = []
            run.append(piece)
    return tuple(series)


def sampled_across(lengths: np.ndarray) -> np.ndarray:
    """Where ``SparResponse.flows`` looks at a chain of pieces so long, (pieces,): its start, their middles, its end."""
    ends = np.concatenate([[0.0], np.cumsum(lengths)])
    return np.concatenate([[0.0], (ends[1:] + ends[:-1]) / 2.0, [ends[-1]]])
