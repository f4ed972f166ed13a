"""Matrices whose coefficients change from place to place, integrated cell by cell at Gauss points.

The products of ``assembly`` need coefficients that are even in a cell.  Membrane forces are not, nor are the slopes of
a plate that has moved far.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property

import numpy as np

from omakase.core.plates.assembly import Assembler
from omakase.core.plates.basis import gauss

Derivative = tuple[int, int]
SLOPES: tuple[Derivative, Derivative] = ((1, 0), (0, 1))


class Cell:
    """One cell's Gauss points: which samples they are, their weights in m², and the functions of a field there."""

    def __init__(self, quadrature: Quadrature, i: int, j: int) -> None:
        self._quadrature, self._i, self._j = quadrature, i, j
        count = quadrature.count
        self.rows, self.columns = slice(i * count, (i + 1) * count), slice(j * count, (j + 1) * count)
        self.weights = quadrature.weights[self.rows, self.columns].ravel()

    def at(self, values: np.ndarray) -> np.ndarray:
        """What sampled ``values`` (x, y, ...) are at the cell's points, (points, ...)."""
        part = values[self.rows, self.columns]
        return part.reshape(-1, *part.shape[2:])

    def table(self, field: str, derivative: Derivative) -> np.ndarray:
        """A derivative of the field's free functions at the points, (points, functions)."""
        return self._quadrature.table(field, derivative, self._i, self._j)

    def places(self, field: str) -> np.ndarray:
        """Where these functions stand in the strip's matrix, (functions,)."""
        return self._quadrature.places(field, self._i, self._j)


class Quadrature:
    """Gauss points of all cells of a grid, along each side as many as the order and ``more``.

    Two more are enough for products of two functions with a smooth coefficient.

    ``samples`` : the points, for ``PlateSolution.strains`` and its like; ``weights`` : their areas, m², (x, y).
    """

    def __init__(self, assembler: Assembler, more: int = 2) -> None:
        self.assembler, self.count = assembler, assembler.grid.order + more
        points, weights = gauss(self.count)
        self._points = points
        self.samples, self.weights = assembler.samples(np.array(points)), assembler.areas(np.array(points), weights)
        self._tables: dict[tuple[str, Derivative, int, int], np.ndarray] = {}
        self._placed: dict[tuple[str, int, int], np.ndarray] = {}

    @cached_property
    def cells(self) -> list[list[Cell]]:
        """By column of cells (strip) and then along y."""
        grid = self.assembler.grid
        return [[Cell(self, i, j) for j in range(len(grid.y_nodes) - 1)] for i in range(len(grid.x_nodes) - 1)]

    def table(self, field: str, derivative: Derivative, i: int, j: int) -> np.ndarray:
        """See ``Cell.table``."""
        key = field, derivative, i, j
        if key not in self._tables:
            points = self._points
            self._tables[key] = self.assembler.cell_table(field, derivative, i, j, points, points)
        return self._tables[key]

    def places(self, field: str, i: int, j: int) -> np.ndarray:
        """See ``Cell.places``."""
        key = field, i, j
        if key not in self._placed:
            self._placed[key] = self.assembler.places_in_cell(field, i, j)
        return self._placed[key]

    def membrane_matrices(self, forces: np.ndarray) -> list[np.ndarray]:
        """Work of membrane ``forces`` (x, y, 3) N_x, N_y, N_xy in N/m at ``samples`` on the slopes of w, per strip.

        Tension counts as positive: it stiffens.
        """
        matrices = []
        for strip, column in zip(self.assembler.strips, self.cells, strict=True):
            matrix = np.zeros((strip.size, strip.size), order="F")
            for cell in column:
                at, N = cell.places("w"), cell.at(forces) * cell.weights[:, None]
                by_x, by_y = cell.table("w", (1, 0)), cell.table("w", (0, 1))
                pull_x = N[:, 0, None] * by_x + N[:, 2, None] * by_y
                pull_y = N[:, 2, None] * by_x + N[:, 1, None] * by_y
                matrix[np.ix_(at, at)] += by_x.T @ pull_x + by_y.T @ pull_y
            matrices.append(matrix)
        return matrices


def membrane_forces(strains: np.ndarray, membranes: Sequence[np.ndarray], there: np.ndarray) -> np.ndarray:
    """N_x, N_y, N_xy in N/m of strains (x, y, 9), or of membrane strains alone (x, y, 3): (x, y, 3).

    ``membranes`` : (9, 9) stiffness of each section; ``there`` : (x, y), which of them each place has.
    """
    count = strains.shape[-1]
    if len(membranes) == 1:
        return strains @ membranes[0][:count, :3]
    forces = np.empty((*strains.shape[:2], 3))
    for k, membrane in enumerate(membranes):
        forces[there == k] = strains[there == k] @ membrane[:count, :3]
    return forces
