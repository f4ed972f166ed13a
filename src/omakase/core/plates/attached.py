"""What is fixed to a plate along lines and over small areas: beams, line supports, elastic edges, washers.

Each is an energy of the plate's own fields where it is fixed, so that it adds to the plate's strip matrices and brings
no unknowns of its own.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import pairwise
from typing import Protocol

import msgspec
import numpy as np

from omakase.core.errors import SolverError
from omakase.core.plates.assembly import Assembler
from omakase.core.plates.basis import Basis, gauss, interval_integral
from omakase.core.plates.energies import StrainTerms

HELD_UP: StrainTerms = ((("w", 1.0, 0, 0),),)

# of a line in one cell: strip, places along in m, weights in m, columns of the strip's matrix, (places, n, columns)
# strains by them
LineTable = tuple[int, np.ndarray, np.ndarray, np.ndarray, np.ndarray]


class OnLine(msgspec.Struct, frozen=True, eq=False, dict=True):
    """½ ∫ eᵀ C e along a line parallel to x (``along_x``) or to y at ``place``, from ``low`` to ``high``, all in m.

    ``strains`` : the n strains e, each a sum of terms; ``stiffness`` : C, (n, n), per metre of line.
    """

    along_x: bool
    place: float
    low: float
    high: float
    strains: StrainTerms
    stiffness: np.ndarray

    def matrices(self, assembler: Assembler) -> Iterator[tuple[int, np.ndarray, np.ndarray]]:
        """(strip, places in it, matrix there) of the energy."""
        for strip, _, weights, columns, table in self.kept(assembler):
            weighted = np.einsum("g,ij,gjk->gik", weights, self.stiffness, table)
            rows = table.reshape(-1, len(columns))
            yield strip, columns, rows.T @ weighted.reshape(-1, len(columns))

    def strained(self, assembler: Assembler, vector: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """(places along the line in m, weights in m, the strains there (places, n)) at Gauss points, of the plate's
        unknowns."""
        tables = self.kept(assembler)
        values = [table @ vector[assembler.strips[strip].dofs[columns]] for strip, _, _, columns, table in tables]
        places, weights = (np.concatenate([own[k] for own in tables]) for k in (1, 2))
        return places, weights, np.concatenate(values)

    def kept(self, assembler: Assembler) -> list[LineTable]:
        """``tables`` of a grid, kept as long as the line itself: its energy and its strains both ask for them."""
        known: dict[int, tuple[Assembler, list[LineTable]]] = self.__dict__.setdefault("known", {})
        key = id(assembler)
        if key not in known:
            known[key] = assembler, list(self.tables(assembler))
        return known[key][1]

    def tables(self, assembler: Assembler) -> Iterator[LineTable]:
        """Cell by cell."""
        grid = assembler.grid
        along, across = (grid.x_nodes, grid.y_nodes) if self.along_x else (grid.y_nodes, grid.x_nodes)
        points, shares = (np.array(values) for values in gauss(grid.order + 1))
        other = _cell_of(across, self.place)
        at = (2.0 * self.place - across[other] - across[other + 1]) / (across[other + 1] - across[other])
        for cell in range(len(along) - 1):
            low, high = max(self.low, along[cell]), min(self.high, along[cell + 1])
            if high - low <= 1e-9 * (along[-1] - along[0]):
                continue
            x = (low + high) / 2.0 + (high - low) / 2.0 * points
            inside = tuple((2.0 * x - along[cell] - along[cell + 1]) / (along[cell + 1] - along[cell]))
            strip, cell_y = (cell, other) if self.along_x else (other, cell)
            in_x, in_y = (inside, (at,)) if self.along_x else ((at,), inside)
            columns, tables = [], []
            for name in grid.fields:
                place = assembler.places_in_cell(name, strip, cell_y)
                own = np.zeros((len(x), len(self.strains), len(place)))
                derivatives: dict[tuple[int, int], np.ndarray] = {}  # several strains ask for the same
                for row, terms in enumerate(self.strains):
                    for field, factor, dx, dy in terms:
                        if field == name:
                            if (dx, dy) not in derivatives:
                                derivatives[dx, dy] = assembler.cell_table(field, (dx, dy), strip, cell_y, in_x, in_y)
                            own[:, row] += factor * derivatives[dx, dy]
                columns.append(place)
                tables.append(own)
            yield strip, x, shares * (high - low) / 2.0, np.concatenate(columns), np.concatenate(tables, axis=2)


class OnBand(msgspec.Struct, frozen=True, eq=False):
    """½ ∫ eᵀ C e over a band along x (``along_x``) or along y, from ``near`` to ``far`` across and ``low`` to ``high``
    along, m.  ``strains``, ``stiffness`` : as of ``OnLine``, per m².

    Exact where it is taken away, so that of an energy of the plate's own no more is than there is.  What is ``added``
    is summed up at half as many points across.
    """

    along_x: bool
    near: float
    far: float
    low: float
    high: float
    strains: StrainTerms
    stiffness: np.ndarray
    added: bool = False

    def matrices(self, assembler: Assembler) -> Iterator[tuple[int, np.ndarray, np.ndarray]]:
        """As of ``OnLine``."""
        grid = assembler.grid
        nodes = grid.y_nodes if self.along_x else grid.x_nodes
        points, weights = gauss(grid.order // 2 + 1 if self.added else grid.order + 1)
        for start, end in pairwise(nodes):
            near, far = max(self.near, start), min(self.far, end)
            if far - near > 1e-9 * nodes[-1]:
                for point, weight in zip(points, weights, strict=True):
                    place, share = (near + far) / 2.0 + (far - near) / 2.0 * point, weight * (far - near) / 2.0
                    line = OnLine(self.along_x, place, self.low, self.high, self.strains, share * self.stiffness)
                    yield from line.matrices(assembler)


class OnMean(msgspec.Struct, frozen=True):
    """½ k (mean of a field over a small area)²: a washer that holds a plate but lets it turn.  ``stiffness`` : N/m."""

    field: str
    stiffness: float

    def matrices(self, assembler: Assembler) -> Iterator[tuple[int, np.ndarray, np.ndarray]]:
        """As of ``OnLine``.  Raises SolverError where a line of the grid cuts the area."""
        strip, columns, mean = self._mean(assembler)
        yield strip, columns, self.stiffness * np.outer(mean, mean)

    def mean(self, assembler: Assembler, vector: np.ndarray) -> float:
        """Mean of the field over the area, of the plate's unknowns."""
        strip, columns, mean = self._mean(assembler)
        return float(mean @ vector[assembler.strips[strip].dofs[columns]])

    def _mean(self, assembler: Assembler) -> tuple[int, np.ndarray, np.ndarray]:
        """(strip, places in it, the mean by the unknowns there)."""
        raise NotImplementedError


class OnArea(OnMean, frozen=True):
    """Over a rectangle: ``bounds``, x low, x high, y low, y high, m, inside one column of cells."""

    bounds: tuple[float, float, float, float]

    def _mean(self, assembler: Assembler) -> tuple[int, np.ndarray, np.ndarray]:
        grid = assembler.grid
        low_x, high_x, low_y, high_y = self.bounds
        strip = _cell_of(grid.x_nodes, (low_x + high_x) / 2.0)
        slack = 1e-9 * grid.length
        if low_x < grid.x_nodes[strip] - slack or high_x > grid.x_nodes[strip + 1] + slack:
            raise SolverError("a line of the grid cuts a washer")
        along = _mean_of(grid.x[self.field], low_x, high_x)[grid.x[self.field].of_cell[strip]]
        along = along[assembler.strips[strip].x_local[self.field]]
        across = _mean_of(grid.y[self.field], low_y, high_y)[grid.free_y[self.field]]
        table = np.outer(along, across)
        used = np.abs(table) > 0.0
        return strip, assembler.strips[strip].places(self.field)[used], table[used]


class Attached(Protocol):
    """What is fixed to a plate."""

    def matrices(self, assembler: Assembler) -> Iterator[tuple[int, np.ndarray, np.ndarray]]:
        """(strip, places in it, matrix there) of its energy."""
        ...


def add_to(matrices: list[np.ndarray], assembler: Assembler, attached: Sequence[Attached]) -> list[np.ndarray]:
    """Strip matrices with the energies of what is attached added to them, in place."""
    for own in attached:
        for strip, columns, matrix in own.matrices(assembler):
            matrices[strip].T[np.ix_(columns, columns)] += matrix  # symmetric; row by row, as it lies in memory
    return matrices


def _cell_of(nodes: np.ndarray, place: float) -> int:
    return int(np.clip(np.searchsorted(nodes, place) - 1, 0, len(nodes) - 2))


def _mean_of(basis: Basis, low: float, high: float) -> np.ndarray:
    return interval_integral(basis, low, high) / (high - low)
