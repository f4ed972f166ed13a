"""One-dimensional hierarchic basis functions on a row of cells.

*C0*: linear hat functions at the nodes and integrated Legendre bubbles; for u, v, φx, φy.
*C1*: cubic Hermite functions (value and slope at each node) and twice-integrated Legendre bubbles; for w.
Szabó and Babuška, Finite Element Analysis (1991), chapter 2, for the former; the latter follow the same idea,
their second derivatives being Legendre polynomials, so that they are orthogonal in bending energy.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.polynomial import legendre

from omakase.core.errors import SolverError
from omakase.core.kept import keep_last

MIN_ORDER, MAX_ORDER = 3, 24


@lru_cache(maxsize=256)
def _coefficients(order: int, smooth: bool, derivative: int) -> np.ndarray:
    """Legendre coefficients, (order + 1 functions, order + 1), of the cell functions' derivatives in ξ."""
    rows: list[np.ndarray] = []
    if smooth:
        # Hermite: value left, slope left, value right, slope right, in powers of ξ
        for powers in (
            [0.5, -0.75, 0.0, 0.25],
            [0.25, -0.25, -0.25, 0.25],
            [0.5, 0.75, 0.0, -0.25],
            [-0.25, -0.25, 0.25, 0.25],
        ):
            rows.append(legendre.poly2leg(powers))
        first, times = 4, 2
    else:
        rows += [legendre.poly2leg([0.5, -0.5]), legendre.poly2leg([0.5, 0.5])]
        first, times = 2, 1
    for k in range(first, order + 1):
        base = np.zeros(k - times + 1)
        base[-1] = np.sqrt((2 * (k - times) + 1) / 2.0)
        rows.append(legendre.legint(base, m=times, lbnd=-1))
    table = np.zeros((len(rows), order + 1))
    for i, row in enumerate(rows):
        if derivative:
            row = legendre.legder(row, derivative)
        table[i, : len(row)] = row
    return table


@keep_last(1024)
def _reference_values(order: int, smooth: bool, derivative: int, points: tuple[float, ...]) -> np.ndarray:
    return legendre.legvander(np.array(points), order) @ _coefficients(order, smooth, derivative).T


class Basis:
    """Basis of one field along one axis.

    ``nodes`` : (n + 1,) array, m, the cell borders.  Functions are numbered node by node (a C1 node has value and
    slope), then the bubbles cell by cell.  ``of_cell[i]`` lists the order + 1 functions of cell i, left
    node's first, then right node's, then bubbles.  Raises SolverError for an order outside 3 to 24.
    """

    def __init__(self, nodes: np.ndarray, order: int, smooth: bool) -> None:
        if not MIN_ORDER <= order <= MAX_ORDER:
            raise SolverError(f"order {order} is outside {MIN_ORDER} to {MAX_ORDER}")
        self.nodes, self.order, self.smooth = nodes, order, smooth
        self.cells = len(nodes) - 1
        self.per_node = 2 if smooth else 1
        self.bubbles = order + 1 - 2 * self.per_node
        self.count = self.per_node * (self.cells + 1) + self.bubbles * self.cells
        start = self.per_node * (self.cells + 1)
        self.of_cell = [
            np.concatenate(
                [
                    self.per_node * i + np.arange(2 * self.per_node),
                    start + self.bubbles * i + np.arange(self.bubbles),
                ]
            )
            for i in range(self.cells)
        ]
        # unit of the slope functions: keeps matrix entries of one size whatever the panel's length
        self._slope_unit = 2.0 / (nodes[-1] - nodes[0])

    def values(self, cell: int, points: tuple[float, ...], derivative: int = 0) -> np.ndarray:
        """Derivative of the functions of one cell at reference ``points`` in [−1, 1]: (points, order + 1)."""
        half = (self.nodes[cell + 1] - self.nodes[cell]) / 2.0
        values = _reference_values(self.order, self.smooth, derivative, points) / half**derivative
        if self.smooth:
            values = values.copy()
            values[:, [1, 3]] *= half * self._slope_unit
        return values

    def table(self, samples: list[tuple[int, tuple[float, ...]]], derivative: int = 0) -> np.ndarray:
        """Values of all functions at (cell, reference points) pairs: (total points, count)."""
        blocks = []
        for cell, points in samples:
            block = np.zeros((len(points), self.count))
            block[:, self.of_cell[cell]] = self.values(cell, points, derivative)
            blocks.append(block)
        return np.vstack(blocks)

    def values_at(self, places: np.ndarray) -> np.ndarray:
        """Values of all functions at ``places`` in m, ascending: (places, count)."""
        cells = np.clip(np.searchsorted(self.nodes, places, side="right") - 1, 0, self.cells - 1)
        middle, half = (self.nodes[1:] + self.nodes[:-1]) / 2.0, np.diff(self.nodes) / 2.0
        inside = (places - middle[cells]) / half[cells]
        return self.table([(int(cell), tuple(inside[cells == cell])) for cell in np.unique(cells)])

    def edge_functions(self, end: int) -> tuple[int, ...]:
        """Indices of the functions that live at the first (end 0) or last (end 1) node: value, and slope for C1."""
        first = 0 if end == 0 else self.per_node * self.cells
        return tuple(range(first, first + self.per_node))


@lru_cache(maxsize=64)
def gauss(count: int) -> tuple[tuple[float, ...], np.ndarray]:
    """Gauss–Legendre points (as a tuple) and weights on [−1, 1]."""
    points, weights = legendre.leggauss(count)
    return tuple(points), weights


def straight_integral(basis: Basis, start: float, end: float) -> np.ndarray:
    """∫ of every function times what runs straight from ``start`` at one end to ``end`` at the other: (count,)."""
    points, weights = gauss(basis.order // 2 + 2)
    total = np.zeros(basis.count)
    low, high = basis.nodes[0], basis.nodes[-1]
    for cell in range(basis.cells):
        left, right = basis.nodes[cell], basis.nodes[cell + 1]
        x = (left + right) / 2.0 + (right - left) / 2.0 * np.array(points)
        value = start + (end - start) * (x - low) / (high - low)
        total[basis.of_cell[cell]] += (right - left) / 2.0 * (weights * value) @ basis.values(cell, points)
    return total


def interval_integral(basis: Basis, low: float, high: float) -> np.ndarray:
    """∫ of every function from ``low`` to ``high`` (m): (count,).  Exact also where these are not cell borders."""
    points, weights = gauss(basis.order // 2 + 1)
    total = np.zeros(basis.count)
    for cell in range(basis.cells):
        left, right = basis.nodes[cell], basis.nodes[cell + 1]
        a, b = max(low, left), min(high, right)
        if b <= a:
            continue
        middle, half = (left + right) / 2.0, (right - left) / 2.0
        x = (a + b) / 2.0 + (b - a) / 2.0 * np.array(points)
        values = basis.values(cell, tuple((x - middle) / half))
        total[basis.of_cell[cell]] += (b - a) / 2.0 * weights @ values
    return total
