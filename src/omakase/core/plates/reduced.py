"""A plate in a few shapes: its equations reduced to sums of solutions of similar plates.

The stiffness is linear in the section's numbers, so that the integrals of all products of two shapes' strains, made
once, give the small matrix of *any* section.  Solving it is a Rayleigh–Ritz solution (Noor and Peters, AIAA Journal 18
(1980) 455: reduced basis technique): the work of a load is never more, and frequencies are never lower, than on the
whole grid.
"""

from __future__ import annotations

import copy
import math
from collections.abc import Iterable

import msgspec
import numpy as np

from omakase.core.errors import SolverError
from omakase.core.plates.assembly import Assembler, GroupedForm
from omakase.core.plates.basis import gauss
from omakase.core.plates.energies import STRAINS
from omakase.core.plates.samples import Samples
from omakase.core.plates.section import Face, PlateSection
from omakase.core.plates.solver import PlateModel, PlateSolution
from omakase.core.rotation import strain_rotation

COUNT = len(STRAINS)
INDEPENDENT = 1e-9  # least share of the reference energy, over the largest, that a shape adds to the others
SPANNED = 1e-7  # of the largest singular value
MOST_SPANNING = 128
MOVING = ("w", "px", "py")  # fields with inertia, as in ``energies.inertia``


MEMBRANE, SHEAR = np.triu_indices(9), np.triu_indices(2)  # what is left of symmetric matrices


def section_matrix(section: PlateSection) -> np.ndarray:
    """Stiffness of a section in the generalised strains, (11, 11)."""
    matrix = np.zeros((COUNT, COUNT))
    matrix[:9, :9] = section.membrane
    matrix[9:, 9:] = section.shear
    return matrix


class Operator:
    """The matrix of a form on a grid of one layup, as a product with a vector; nothing is assembled."""

    def __init__(self, assembler: Assembler, form: GroupedForm) -> None:
        self._shape: dict[str, tuple[slice, tuple[int, int]]] = {}
        start = 0
        for field in assembler.grid.fields:
            shape = (int(assembler.grid.free_x[field].sum()), int(assembler.grid.free_y[field].sum()))
            self._shape[field] = slice(start, start + shape[0] * shape[1]), shape
            start += shape[0] * shape[1]
        self._terms: list[tuple[str, str, np.ndarray, np.ndarray]] = []
        for f in assembler.grid.fields:
            for g in assembler.grid.fields:
                if (f, g) in form:
                    coefficients = form[f, g]
                    X = assembler.along_x(f, g, coefficients.x_pairs)
                    W = np.tensordot(coefficients.table, assembler.along_y(f, g, coefficients.y_pairs), axes=1)
                    self._keep(f, g, X, W)
                    if f != g:
                        self._keep(g, f, X.transpose(0, 2, 1), W.transpose(0, 2, 1))

    def _keep(self, f: str, g: str, X: np.ndarray, W: np.ndarray) -> None:
        """Keeps X_k and W_k so arranged that Σ X_k U W_kᵀ is two products without a copy between them."""
        rows = X.transpose(1, 0, 2).reshape(-1, X.shape[2])
        self._terms.append((f, g, rows, W.transpose(0, 2, 1).reshape(-1, W.shape[1])))

    def __call__(self, vector: np.ndarray) -> np.ndarray:
        """Product with ``vector`` (unknowns,)."""
        result = np.zeros_like(vector)
        for f, g, rows, columns in self._terms:
            wave, size = self._shape[f]
            other, shape = self._shape[g]
            product = rows @ vector[other].reshape(shape)
            result[wave] += (product.reshape(size[0], -1) @ columns).ravel()
        return result


def sheared(section: PlateSection, ratio: float) -> PlateSection:
    """The section with its shear stiffness along x times ``ratio`` and across divided by it: another kind of core."""
    other = copy.copy(section)
    root = np.diag([math.sqrt(ratio), math.sqrt(1.0 / ratio)])
    other.shear = root @ section.shear @ root
    return other


def stretched(section: PlateSection, face: Face, ratio: float, angle: float) -> PlateSection:
    """The section with one face's stiffness along ``angle`` times ``ratio`` and across divided by it: other cloth."""
    other = copy.copy(section)
    turn = strain_rotation(angle)
    root = np.linalg.solve(turn, np.diag([math.sqrt(ratio), math.sqrt(1.0 / ratio), 1.0]) @ turn)
    changed = msgspec.structs.replace(face, **{name: root.T @ getattr(face, name) @ root for name in ("A", "B", "D")})
    other.membrane = section.membrane + changed.energy() - face.energy()
    return other


def krylov(model: PlateModel, operators: Iterable[Operator], starts: np.ndarray, steps: int) -> np.ndarray:
    """Shapes that solutions near ``model`` are made of, (unknowns, count): ``starts`` and what follows from them.

    For the operator K of each other section, (K₀⁻¹ K)ⁿ of every start, n up to ``steps``: the space in which
    conjugate gradients, preconditioned by the factorised K₀, would look for the solution of K.
    """
    basis = [starts]
    for operator in operators:
        now = starts
        for _ in range(steps):
            now = model.factor.solve(np.stack([operator(column) for column in now.T], axis=1))
            now /= np.linalg.norm(now, axis=0)
            basis.append(now)
    return np.concatenate(basis, axis=1)


def _spanning(vectors: np.ndarray) -> np.ndarray:
    """Fewer vectors that span nearly the same, at most MOST_SPANNING, since what is worked with must stay small."""
    if vectors.shape[1] <= MOST_SPANNING // 2:
        return vectors
    left, values, _ = np.linalg.svd(vectors, full_matrices=False)
    return left[:, values > SPANNED * values[0]][:, :MOST_SPANNING]


def _half_of_work(work: np.ndarray, half: tuple[np.ndarray, np.ndarray]) -> np.ndarray:
    """Work of each pair of strains in each pair of shapes, (11, 11, r, r), without what symmetry gives: for the upper
    triangles of a section's membrane and shear and of the small matrix, (45 + 3, r (r + 1)/2)."""
    both = work[..., half[0], half[1]] + work[..., half[1], half[0]]
    both[np.arange(COUNT), np.arange(COUNT)] /= 2.0
    return np.concatenate([both[:9, :9][MEMBRANE], both[9:, 9:][SHEAR]])


class ReducedPlate:
    """A plate on one grid in the shapes ``vectors`` (unknowns, n), of which it keeps the independent ones.

    With ``most``, only so many combinations that carry most of the energy of all, each shape counting alike.

    Attributes
    ----------
    size : number of shapes kept, r.
    load : (r,) work of the load on each shape; zeros without a load.
    """

    def __init__(
        self,
        assembler: Assembler,
        reference: PlateSection,
        vectors: np.ndarray,
        load: np.ndarray | None = None,
        most: int | None = None,
    ) -> None:
        grid = assembler.grid
        points, weights = gauss(grid.order + 1)
        samples = Samples(grid, np.array(points))
        along_x = np.concatenate([half * weights for half in np.diff(grid.x_nodes) / 2.0])
        along_y = np.concatenate([half * weights for half in np.diff(grid.y_nodes) / 2.0])
        root = np.sqrt(np.outer(along_x, along_y))
        scaled = _spanning(vectors / np.linalg.norm(vectors, axis=0))
        solutions = [PlateSolution(assembler, column) for column in scaled.T]
        strains = np.stack([solution.strains(samples) * root[..., None] for solution in solutions])
        flat = np.moveaxis(strains, -1, 0).reshape(COUNT * len(solutions), -1)
        work = (flat @ flat.T).reshape(COUNT, len(solutions), COUNT, len(solutions)).transpose(0, 2, 1, 3)
        energy = np.tensordot(section_matrix(reference), work, axes=2)
        alike = 1.0 / np.sqrt(np.diag(energy))
        values, turn = np.linalg.eigh((energy + energy.T) / 2.0 * np.outer(alike, alike))
        keep = values > INDEPENDENT * values[-1]
        turn = (alike[:, None] * turn[:, keep] / np.sqrt(values[keep]))[:, ::-1][:, :most]
        if not turn.size or not np.all(np.isfinite(turn)):
            raise SolverError("the shapes of a reduced plate are not finite")
        self.size = turn.shape[1]
        self._half = np.triu_indices(self.size)
        self._packed = _half_of_work(np.einsum("ijkl,ka,lb->ijab", work, turn, turn, optimize=True), self._half)
        self.vectors = scaled @ turn
        self._solutions = [PlateSolution(assembler, column) for column in self.vectors.T]
        self.load = np.zeros(self.size) if load is None else self.vectors.T @ load
        fields = np.stack([[shape.field(name, samples) * root for name in MOVING] for shape in self._solutions])
        values_of = [fields[:, i].reshape(self.size, -1) for i in range(len(MOVING))]
        self._moving = values_of[0] @ values_of[0].T
        self._turning = sum((value @ value.T for value in values_of[1:]), np.zeros_like(self._moving))
        self._strains: dict[tuple[bytes, int, int], np.ndarray] = {}
        self._fields: dict[bytes, np.ndarray] = {}

    def stiffness(self, section: PlateSection) -> np.ndarray:
        """Small stiffness matrix of a section, (r, r)."""
        rows, columns = self._half
        result = np.empty((self.size, self.size))
        result[rows, columns] = np.concatenate([section.membrane[MEMBRANE], section.shear[SHEAR]]) @ self._packed
        result[columns, rows] = result[rows, columns]
        return result

    def stiffnesses(self, membrane: np.ndarray, shear: np.ndarray) -> np.ndarray:
        """The same of n sections, (n, r, r), from their ``membrane`` (n, 9, 9) and ``shear`` (n, 2, 2)."""
        rows, columns = self._half
        half = np.concatenate([membrane[:, *MEMBRANE], shear[:, *SHEAR]], axis=1) @ self._packed
        result = np.empty((len(half), self.size, self.size))
        result[:, rows, columns] = half
        result[:, columns, rows] = half
        return result

    def mass(self, areal_mass: float, rotary_inertia: float) -> np.ndarray:
        """Small mass matrix, (r, r), of kg/m² and kg."""
        return areal_mass * self._moving + rotary_inertia * self._turning

    def solve(self, section: PlateSection) -> ReducedSolution:
        """Solution of a section under the load."""
        return ReducedSolution(self, np.linalg.solve(self.stiffness(section), self.load))

    def frequencies(self, section: PlateSection, count: int) -> np.ndarray:
        """Lowest natural frequencies of a section in Hz, ascending.  Raises LinAlgError without a stiffness."""
        from scipy.linalg import lapack  # a third of a second at start-up, so not before it is needed

        mass = self.mass(section.areal_mass, section.rotary_inertia)
        # largest θ of M x = θ K x, so that shapes almost without mass do no harm
        values, _, failed = lapack.dsygv(mass, self.stiffness(section), jobz="N")
        if failed:
            raise np.linalg.LinAlgError("the stiffness of the shapes is not positive definite")
        return 1.0 / (2.0 * np.pi * np.sqrt(values[::-1][:count]))

    def strains(self, samples: Samples, dx: int, dy: int) -> np.ndarray:
        """Generalised strains of the shapes, or a derivative, at the samples: (r, x · y · 11).

        In single precision: reading these tables takes longest, and the shapes themselves are good to some 1e-4.
        """
        key = samples.key, dx, dy
        if key not in self._strains:
            rows = [shape.strains(samples, dx, dy).ravel() for shape in self._solutions]
            self._strains[key] = np.array(rows, np.float32)
        return self._strains[key]

    def deflections(self, samples: Samples) -> np.ndarray:
        """Deflections of the shapes at the samples: (r, x · y), in single precision like the strains."""
        if samples.key not in self._fields:
            rows = [shape.deflection(samples).ravel() for shape in self._solutions]
            self._fields[samples.key] = np.array(rows, np.float32)
        return self._fields[samples.key]


class ReducedSolution:
    """A sum of shapes, ``shares`` (r,) of each; stands in for a ``PlateSolution`` of strains and deflections."""

    def __init__(self, plate: ReducedPlate, shares: np.ndarray) -> None:
        self._plate, self._shares = plate, shares

    def strains(self, samples: Samples, dx: int = 0, dy: int = 0) -> np.ndarray:
        """Generalised strains at the samples, or a derivative: (x points, y points, 11)."""
        flat = self._shares.astype(np.float32) @ self._plate.strains(samples, dx, dy)
        return flat.reshape(len(samples.x), len(samples.y), COUNT)

    def deflection(self, samples: Samples) -> np.ndarray:
        """Deflection at the samples, m, positive up: (x points, y points)."""
        size = float(np.abs(self._shares).max()) or 1.0  # so that twice the load sags twice as far to all digits
        flat = size * ((self._shares / size).astype(np.float32) @ self._plate.deflections(samples)).astype(float)
        return flat.reshape(len(samples.x), len(samples.y))
