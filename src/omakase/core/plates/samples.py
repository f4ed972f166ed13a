"""Where a plate's fields are looked at: the same points in every cell of a grid."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from omakase.core.plates.basis import Basis
from omakase.core.plates.energies import StrainTerms
from omakase.core.plates.grid import Grid

NARROW = 0.2  # of the widest cell along an axis, below which a cell is narrow


class Samples:
    """Sample points: the same reference ``points`` in [−1, 1] in every cell; ends are sampled from both sides.

    ``x_nodes``, ``y_nodes`` : cells to sample, the grid's own by default; finer ones serve a sum of solutions on
    several grids.  Each must lie inside one cell of the grid.  ``narrow`` : fewer points for cells that are narrow
    beside the widest, which follow a fading layer; all take ``points`` by default.
    """

    def __init__(
        self,
        grid: Grid,
        points: np.ndarray,
        x_nodes: np.ndarray | None = None,
        y_nodes: np.ndarray | None = None,
        narrow: np.ndarray | None = None,
    ) -> None:
        x_nodes, y_nodes = (
            (grid.x_nodes if x_nodes is None else x_nodes),
            (grid.y_nodes if y_nodes is None else y_nodes),
        )
        self.grid = grid
        narrow = points if narrow is None else narrow
        # tells samples of one grid apart
        self.key = points.tobytes() + narrow.tobytes() + x_nodes.tobytes() + y_nodes.tobytes()
        self.x, self._in_x = _places(grid.x_nodes, x_nodes, points, narrow)
        self.y, self._in_y = _places(grid.y_nodes, y_nodes, points, narrow)
        self._tables: dict[tuple[bool, bool, int], np.ndarray] = {}

    @property
    def x_cells(self) -> np.ndarray:
        """Which of the grid's cells each place along x is sampled in, (x points,)."""
        return np.repeat([cell for cell, _ in self._in_x], [len(points) for _, points in self._in_x])

    @property
    def y_cells(self) -> np.ndarray:
        """Which of the grid's cells each place along y is sampled in, (y points,)."""
        return np.repeat([cell for cell, _ in self._in_y], [len(points) for _, points in self._in_y])

    def table_x(self, field: str, derivative: int) -> np.ndarray:
        """Derivative along x of the field's x functions at the samples, (x points, count)."""
        return self._table(self.grid.x[field], self._in_x, True, derivative)

    def table_y(self, field: str, derivative: int) -> np.ndarray:
        """Derivative along y of the field's y functions at the samples, (y points, count)."""
        return self._table(self.grid.y[field], self._in_y, False, derivative)

    def field(self, name: str, coefficients: np.ndarray, dx: int, dy: int) -> np.ndarray:
        """Derivative of a field of these ``coefficients`` (x count, y count) at the samples, (x points, y points)."""
        return self.table_x(name, dx) @ coefficients @ self.table_y(name, dy).T

    def strains(self, terms: StrainTerms, coefficients: Mapping[str, np.ndarray], dx: int, dy: int) -> np.ndarray:
        """Strains of the given ``terms``, or a derivative of them, by the fields' coefficients: (x points, y points,
        strains)."""
        result = np.zeros((len(terms), len(self.x), len(self.y)))
        along_x: dict[tuple[str, int], np.ndarray] = {}  # several strains start from the same derivative along x
        for strain, own in zip(result, terms, strict=True):
            for name, factor, own_dx, own_dy in own:
                if name in coefficients:
                    key = (name, own_dx + dx)
                    if key not in along_x:
                        along_x[key] = self.table_x(*key) @ coefficients[name]
                    strain += factor * (along_x[key] @ self.table_y(name, own_dy + dy).T)
        return np.moveaxis(result, 0, -1)

    def _table(
        self, basis: Basis, places: list[tuple[int, tuple[float, ...]]], along_x: bool, derivative: int
    ) -> np.ndarray:
        key = (along_x, basis.smooth, derivative)
        if key not in self._tables:
            self._tables[key] = basis.table(places, derivative)
        return self._tables[key]


def lobatto(count: int) -> np.ndarray:
    """Chebyshev–Lobatto points on [−1, 1], ends included: close together where a polynomial bends most."""
    return -np.cos(np.pi * np.arange(count) / (count - 1))


def _places(
    grid_nodes: np.ndarray, nodes: np.ndarray, points: np.ndarray, narrow: np.ndarray
) -> tuple[np.ndarray, list[tuple[int, tuple[float, ...]]]]:
    """Places along an axis, and for each cell of ``nodes`` the grid's cell it lies in with reference points there."""
    middle, half = (nodes[1:] + nodes[:-1]) / 2.0, (nodes[1:] - nodes[:-1]) / 2.0
    rows = [
        np.clip(centre + reach * (narrow if reach < NARROW * half.max() else points), low, high)  # not a hair outside
        for centre, reach, low, high in zip(middle, half, nodes[:-1], nodes[1:], strict=True)
    ]
    inside = []
    for row, centre in zip(rows, middle, strict=True):
        cell = int(np.clip(np.searchsorted(grid_nodes, centre) - 1, 0, len(grid_nodes) - 2))
        low, high = grid_nodes[cell], grid_nodes[cell + 1]
        inside.append((cell, tuple((2.0 * row - low - high) / (high - low))))
    return np.concatenate(rows), inside
