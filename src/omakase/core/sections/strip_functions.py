"""What finite strips share (Y. K. Cheung, Finite Strip Method in Structural Analysis, 1976): their functions across,
and how the unknowns of an edge lie in a strip."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

POINTS, WEIGHTS = np.polynomial.legendre.leggauss(4)


def linear(b: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The two linear functions of strips ``b`` (...) wide and their slopes at Gauss's points: (..., points, 2) each."""
    t, b = _across(b)
    one = np.ones_like(t)
    return np.stack([1.0 - t, t], axis=-1), np.stack([-one, one], axis=-1) / b[..., None]


def cubics(b: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """The cubics of value and slope at one edge and at the other, their slopes and second derivatives, at the same
    points: (..., points, 4) each."""
    t, b = _across(b)
    values = [1 - 3 * t**2 + 2 * t**3, b * (t - 2 * t**2 + t**3), 3 * t**2 - 2 * t**3, b * (t**3 - t**2)]
    slopes = [6 * t**2 - 6 * t, b * (1 - 4 * t + 3 * t**2), 6 * t - 6 * t**2, b * (3 * t**2 - 2 * t)]
    bends = [12 * t - 6, b * (6 * t - 4), 6 - 12 * t, b * (6 * t - 2)]
    wide = b[..., None]
    return np.stack(values, axis=-1), np.stack(slopes, axis=-1) / wide, np.stack(bends, axis=-1) / wide**2


def _across(b: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Gauss's points from 0 to 1 and the widths, (..., points) both."""
    wide = np.asarray(b, float)[..., None] * np.ones_like(POINTS)
    return np.broadcast_to((POINTS + 1.0) / 2.0, wide.shape), wide


def among(functions: np.ndarray, columns: Sequence[int], count: int) -> np.ndarray:
    """Functions (..., n) at these columns of ``count``, zeros elsewhere: (..., count)."""
    table = np.zeros((*functions.shape[:-1], count))
    table[..., list(columns)] = functions
    return table


def edge_turned(c: float, s: float) -> np.ndarray:
    """(4, 4) from along, y, z and turn of an edge to along, across, out and turn of a strip that runs along (c, s)."""
    return np.array([[1.0, 0.0, 0.0, 0.0], [0.0, c, s, 0.0], [0.0, -s, c, 0.0], [0.0, 0.0, 0.0, 1.0]])


def half_waves(shortest: float, longest: float, step: float) -> np.ndarray:
    """Half waves from the shortest up to the longest, each ``step`` times the one before; the shortest in any case."""
    return np.asarray(shortest * step ** np.arange(int(np.log(max(longest / shortest, 1.0)) / np.log(step)) + 1))
