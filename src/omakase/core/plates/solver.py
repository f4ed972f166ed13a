"""Statics, natural frequencies and buckling of a plate, and the fields sampled from a solution."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property

import numpy as np

from omakase.core.errors import SolverError
from omakase.core.plates.assembly import Assembler, GroupedForm, grouped
from omakase.core.plates.attached import Attached, add_to
from omakase.core.plates.basis import Basis
from omakase.core.plates.condensation import Factorisation, Product
from omakase.core.plates.energies import STRAINS, Form, inertia, membrane_load, strain_energy, strain_terms
from omakase.core.plates.grid import FIELDS, Grid
from omakase.core.plates.loads import PlateLoad, load_tables
from omakase.core.plates.section import PlateSection

START_SEED = 20260101
MOST_RESTARTS = 120  # of the search for buckling: loads of any consequence settle within some ten
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


class PlateSolution:
    """Coefficients of the five fields for one load case or mode."""

    def __init__(self, assembler: Assembler, vector: np.ndarray) -> None:
        self.grid = assembler.grid
        self.vector = vector
        self._coefficients = assembler.gather(vector)

    def field(self, name: str, samples: Samples, dx: int = 0, dy: int = 0) -> np.ndarray:
        """Derivative of a field at the samples, (x points, y points)."""
        if name not in self.grid.fields:
            return np.zeros((len(samples.x), len(samples.y)))
        return samples.table_x(name, dx) @ self._coefficients[name] @ samples.table_y(name, dy).T

    def coefficients(self, name: str) -> np.ndarray:
        """Of a field's functions, (x count, y count); zeros where they are held."""
        return self._coefficients[name]

    def deflection_at(self, x: np.ndarray, y: np.ndarray) -> np.ndarray:
        """Deflection in m at the crossings of any places ``x`` (n,) and ``y`` (m,) in m: (n, m)."""
        along, across = self.grid.x["w"].values_at(x), self.grid.y["w"].values_at(y)
        return along @ self._coefficients["w"] @ across.T

    def deflection(self, samples: Samples) -> np.ndarray:
        """Deflection at the samples, m, positive up: (x points, y points)."""
        return self.field("w", samples)

    def strains(self, samples: Samples, dx: int = 0, dy: int = 0) -> np.ndarray:
        """Generalised strains (ε0, κφ, κw, γ) at the samples, or a derivative: (x points, y points, 11)."""
        result = np.zeros((len(STRAINS), len(samples.x), len(samples.y)))
        along_x: dict[tuple[str, int], np.ndarray] = {}  # several strains start from the same derivative along x
        for strain, terms in zip(result, strain_terms(self.grid.curvature), strict=True):
            for name, factor, own_dx, own_dy in terms:
                if name in self.grid.fields:
                    key = (name, own_dx + dx)
                    if key not in along_x:
                        along_x[key] = samples.table_x(*key) @ self._coefficients[name]
                    strain += factor * (along_x[key] @ samples.table_y(name, own_dy + dy).T)
        return np.moveaxis(result, 0, -1)


class PlateModel:
    """A panel on one grid, factorised at most once.

    Of one section, or of several that the assembler's layout lays out.  ``grid.fields`` may leave out u and v when it
    is uncoupled.  ``attached`` : what is fixed to it, ``heavy`` : the kinetic energy of that.
    Validity: small deflection (say so beyond half the thickness), linear material.
    """

    def __init__(
        self, section: PlateSection | Sequence[PlateSection], assembler: Assembler,
        energies: Sequence[GroupedForm] = (), attached: Sequence[Attached] = (), heavy: Sequence[Attached] = (),
    ) -> None:  # fmt: skip
        self.attached, self._heavy = tuple(attached), tuple(heavy)
        self.sections = (section,) if isinstance(section, PlateSection) else tuple(section)
        self.section, self.assembler, self.grid = self.sections[0], assembler, assembler.grid
        size = max(self.grid.length, self.grid.width)
        self.energies = list(energies) or [
            grouped(strain_energy(own, size, self.grid.curvature)) for own in self.sections
        ]

    @cached_property
    def factor(self) -> Factorisation:
        """Of its stiffness, made when first needed.  Raises SolverError for a panel that is not held."""
        return Factorisation(self.assembler, self.stiffness())

    def stiffness(self) -> list[np.ndarray]:
        """Strip matrices of the panel and all that is attached to it."""
        return add_to(self.assembler.matrices(self.energies), self.assembler, self.attached)

    def load_vector(self, loads: Sequence[PlateLoad]) -> np.ndarray:
        """Work of a sum of loads per unit of each unknown, (unknowns,)."""
        vector = np.zeros(self.assembler.unknowns)
        for load in loads:
            for field, table in load_tables(self.grid, load):
                vector += self.assembler.scatter(field, table)
        return vector

    def solve_vector(self, load: np.ndarray, stiffening: Sequence[np.ndarray]) -> np.ndarray:
        """Unknowns under a load vector with strip matrices added to the stiffness.

        Raises SolverError where the sum carries nothing any more.
        """
        both = [matrix + more for matrix, more in zip(self.stiffness(), stiffening, strict=True)]
        return Factorisation(self.assembler, both).solve(load)

    def solve(self, cases: Sequence[Sequence[PlateLoad]]) -> list[PlateSolution]:
        """Static solution for each case, a sum of loads."""
        if not cases:
            return []
        loads = np.stack([self.load_vector(case) for case in cases], axis=1)
        result = self.factor.solve(loads)
        if not np.all(np.isfinite(result)):
            raise SolverError("the solution is not finite: a stiffness or load is out of all proportion")
        return [PlateSolution(self.assembler, result[:, i]) for i in range(len(cases))]

    def frequencies(self, count: int = 6, tolerance: float = 1e-9) -> tuple[np.ndarray, list[PlateSolution]]:
        """Lowest natural frequencies in Hz, ascending, with their shapes."""
        masses = add_to(self._matrices([inertia(own) for own in self.sections]), self.assembler, self._heavy)
        values, shapes = self._largest(masses, count, tolerance)
        if np.any(values <= 0.0):
            raise SolverError("no natural frequency found: the panel has no mass")
        return 1.0 / (2.0 * np.pi * np.sqrt(values)), shapes

    def buckling(self, Nx: float, Ny: float, Nxy: float, count: int = 1) -> tuple[np.ndarray, list[PlateSolution]]:
        """Factors on a uniform membrane load (N/m, tension positive) at which the panel buckles, ascending.

        Infinite factors are left out: the arrays are shorter than ``count``, or empty, where tension rules.
        """
        load = self._matrices([membrane_load(-Nx, -Ny, -Nxy)] * len(self.sections))
        return self.buckling_of(load, max(abs(Nx), abs(Ny), abs(Nxy)), count)

    def buckling_of(
        self, load: list[np.ndarray], largest: float, count: int = 1
    ) -> tuple[np.ndarray, list[PlateSolution]]:
        """``buckling`` under any membrane forces, given as the strip matrices of their work with compression positive;
        ``largest`` of them in N/m."""
        try:
            values, shapes = self._largest(load, count, 1e-8, MOST_RESTARTS)
        except SolverError:  # its largest values crowd around zero: tension rules
            return np.zeros(0), []
        # no panel carries more than its shear stiffness; what lies far beyond is the rounding of a zero (tension)
        positive = values > 1e-9 * largest / max(np.trace(own.shear) for own in self.sections)
        return 1.0 / values[positive], [shape for shape, keep in zip(shapes, positive, strict=True) if keep]

    def _matrices(self, forms: Sequence[Form]) -> list[np.ndarray]:
        return self.assembler.matrices([grouped(form) for form in forms])

    def _largest(
        self, matrices: list[np.ndarray], count: int, tolerance: float, restarts: int | None = None
    ) -> tuple[np.ndarray, list[PlateSolution]]:
        """Largest θ of G x = θ K x, descending, by Lanczos on R⁻¹ G R⁻ᵀ (K = R Rᵀ)."""
        from scipy.sparse.linalg import (
            ArpackNoConvergence,
            LinearOperator,
            eigsh,
        )  # slow to import and not needed for statics

        size = self.assembler.unknowns

        times = Product(self.assembler, matrices)

        def product(vector: np.ndarray) -> np.ndarray:
            return self.factor.forward(times(self.factor.backward(vector.reshape(size))))

        operator = LinearOperator((size, size), matvec=product, dtype=float)
        start = np.random.default_rng(START_SEED).standard_normal(size)
        wanted = min(count, size - 1)
        room = min(size, max(2 * wanted + 8, 20) if tolerance < 1e-6 else 2 * wanted + 8)
        try:
            values, vectors = eigsh(operator, k=wanted, which="LA", v0=start, ncv=room, tol=tolerance, maxiter=restarts)
        except ArpackNoConvergence:
            raise SolverError("the eigenvalue iteration did not settle: a stiffness is out of all proportion") from None
        order = np.argsort(values)[::-1]
        shapes = self.factor.backward(vectors[:, order])
        return values[order], [PlateSolution(self.assembler, shapes[:, i]) for i in range(wanted)]


def plate_fields(section: PlateSection) -> tuple[str, ...]:
    """The fields a section needs: without u, v where bending does not stretch it."""
    return FIELDS[2:] if section.uncoupled else FIELDS
