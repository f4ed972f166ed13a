"""Statics, natural frequencies and buckling of a plate, and the fields sampled from a solution."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property

import numpy as np

from omakase.core.errors import SolverError
from omakase.core.plates.assembly import Assembler, GroupedForm, grouped
from omakase.core.plates.attached import Attached, add_to
from omakase.core.plates.condensation import Factorisation, Product, multiply
from omakase.core.plates.energies import Form, inertia, inertia_in_plane, membrane_load, strain_energy, strain_terms
from omakase.core.plates.grid import FIELDS
from omakase.core.plates.loads import PlateLoad
from omakase.core.plates.samples import Samples
from omakase.core.plates.section import PlateSection

START_SEED = 20260101
MOST_RESTARTS = 120  # of the search for buckling: loads of any consequence settle within some ten


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
        return samples.field(name, self._coefficients[name], dx, dy)

    def coefficients(self, name: str) -> np.ndarray:
        """Of a field's functions, (x count, y count); zeros where they are held."""
        return self._coefficients[name]

    def deflection_at(self, x: np.ndarray, y: np.ndarray) -> np.ndarray:
        """Deflection in m at the crossings of any places ``x`` (n,) and ``y`` (m,) in m: (n, m)."""
        return self.grid.values_at("w", self._coefficients["w"], x, y)

    def deflection(self, samples: Samples) -> np.ndarray:
        """Deflection at the samples, m, positive up: (x points, y points)."""
        return self.field("w", samples)

    def strains(self, samples: Samples, dx: int = 0, dy: int = 0) -> np.ndarray:
        """Generalised strains (ε0, κφ, κw, γ) at the samples, or a derivative: (x points, y points, 11)."""
        present = {name: self._coefficients[name] for name in self.grid.fields}
        return samples.strains(strain_terms(self.grid.curvature), present, dx, dy)


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
            vector += self.assembler.load_vector(load)
        return vector

    def stiffened(
        self, load: np.ndarray, stiffening: Sequence[np.ndarray], factors: Sequence[float]
    ) -> list[PlateSolution]:
        """Solutions under a load vector with strip matrices, times each of ``factors``, added to the stiffness.

        Raises SolverError where the sum carries nothing any more.
        """
        own = self.stiffness()
        sums = ([matrix + factor * more for matrix, more in zip(own, stiffening, strict=True)] for factor in factors)
        return [PlateSolution(self.assembler, Factorisation(self.assembler, both).solve(load)) for both in sums]

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
        """Lowest natural frequencies in Hz, ascending, with their shapes.

        Of a curved panel the movement in its plane slows each mode down by Rayleigh's quotient of its shape.
        """
        masses = add_to(self._matrices([inertia(own) for own in self.sections]), self.assembler, self._heavy)
        values, shapes = self._largest(masses, count, tolerance)
        if np.any(values <= 0.0):
            raise SolverError("no natural frequency found: the panel has no mass")
        if self.grid.curvature != (0.0, 0.0):
            values = values * (1.0 + self._in_plane_share(masses, shapes))
            order = np.argsort(-values)
            values, shapes = values[order], [shapes[k] for k in order]
        return 1.0 / (2.0 * np.pi * np.sqrt(values)), shapes

    def _in_plane_share(self, masses: list[np.ndarray], shapes: Sequence[PlateSolution]) -> np.ndarray:
        """Kinetic energy in the plane of each shape by that of its deflection: (shapes,)."""
        vectors = np.stack([shape.vector for shape in shapes], axis=1)
        beside = self._matrices([inertia_in_plane(own) for own in self.sections])
        up, along = (
            (vectors * multiply(self.assembler, own, vectors)).sum(axis=0) for own in (masses, beside)
        )  # fmt: skip
        return np.asarray(along / up)

    def buckling(self, Nx: float, Ny: float, Nxy: float, count: int = 1) -> tuple[np.ndarray, list[PlateSolution]]:
        """Factors on a uniform membrane load (N/m, tension positive) at which the panel buckles, ascending.

        Infinite factors are left out: the arrays are shorter than ``count``, or empty, where tension rules.
        """
        load = self._matrices([membrane_load(-Nx, -Ny, -Nxy)] * len(self.sections))
        return self.buckling_of(load, max(abs(Nx), abs(Ny), abs(Nxy)), count)

    def buckling_of(
        self, load: list[np.ndarray], largest: float, count: int = 1, tolerance: float = 1e-8
    ) -> tuple[np.ndarray, list[PlateSolution]]:
        """``buckling`` under any membrane forces, given as the strip matrices of their work with compression positive;
        ``largest`` of them in N/m.  ``tolerance`` : relative, of shapes; their factors are closer by far."""
        try:
            values, shapes = self._largest(load, count, tolerance, MOST_RESTARTS)
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
        room = min(size, max(2 * wanted + 8, 20) if tolerance <= 1e-6 else 2 * wanted + 8)
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
