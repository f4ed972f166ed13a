"""Cholesky factorisation strip by strip: what belongs to one cell is eliminated first, then what belongs to one strip,
then one border line after the other.

For a grid of m strips this does the work of 2 m small dense factorisations instead of one large one; every step is
a BLAS-3 call.  Cells are looked at only where a strip has several.  K = R Rᵀ with R applied implicitly, so that
R⁻¹ G R⁻ᵀ serves symmetric eigenproblems.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import cache
from itertools import pairwise
from typing import Any

import numpy as np

from omakase.core.errors import SolverError
from omakase.core.plates.assembly import Assembler, Strip

NOT_POSITIVE = "the panel's stiffness is not positive: are the supports enough?"
FEW_CELLS = 5  # in a strip, below which its cells are not looked at one by one


class Inner:
    """The functions of single cells, which touch nothing beyond their cell: eliminated first, cell by cell.

    What is left of a strip's matrix, of the functions that cells share, is in ``left``, and ``order`` says which of the
    strip's functions these are, those of its border lines first.
    """

    def __init__(self, strips: Sequence[Strip], matrices: Sequence[np.ndarray], unknowns: int) -> None:
        from scipy.linalg.lapack import dtrtri
        from scipy.sparse import csr_matrix  # slow to import, and small grids do without

        self.order: list[np.ndarray] = []
        self.left: list[np.ndarray] = []
        inverses, values, columns, dofs = [], [], [], []
        for strip, stored in zip(strips, matrices, strict=True):
            matrix = stored.T  # the same, row by row in memory, from which parts are taken far faster
            inner = np.zeros(strip.size, bool)
            own = np.array([cell for cell, _ in strip.cells])
            inner[own] = True
            order = np.flatnonzero(~inner)
            left = matrix[~inner][:, ~inner]  # row by row, then column by column: far faster than both at once
            entries = left.ravel(order="K")  # the same memory, and symmetric whichever way it runs
            place = np.cumsum(~inner) - 1
            factors = _lower(matrix[own[:, :, None], own[:, None, :]])
            inverse = np.array([dtrtri(factor, lower=1)[0] for factor in factors])
            inverses.append(inverse)
            dofs.append(strip.dofs[own].ravel())
            for cell, (at, around) in enumerate(strip.cells):
                coupling = inverse[cell] @ matrix.take(at, 0).take(around, 1)
                there = place[around]
                entries[there[:, None] * len(order) + there] -= coupling.T @ coupling
                values.append(coupling)
                columns.append(strip.dofs[around])
            self.order.append(order)
            self.left.append(left)
        self._dofs = np.concatenate(dofs)
        self._inverse = np.concatenate(inverses)
        each = self._inverse.shape[1]
        # a row for each function of a cell: so many entries as the cell has functions around
        starts = np.concatenate([[0], np.cumsum(np.repeat([len(at) for at in columns], each))])
        around_all = np.concatenate([np.tile(at, each) for at in columns])
        flat = np.concatenate([coupling.ravel() for coupling in values])
        self._coupling = csr_matrix((flat, around_all, starts), shape=(len(self._dofs), unknowns))

    def forward(self, load: np.ndarray, result: np.ndarray) -> np.ndarray:
        """Puts the cells' part of R⁻¹ load into ``result`` and gives what is left for the others."""
        own = self._times(self._inverse, load[self._dofs])
        result[self._dofs] = own
        return np.asarray(load - self._coupling.T @ own)

    def backward(self, right: np.ndarray, result: np.ndarray) -> None:
        """Puts the cells' part of R⁻ᵀ right into ``result``, which has that of the others."""
        result[self._dofs] = 0.0
        own = right[self._dofs] - self._coupling @ result
        result[self._dofs] = self._times(self._inverse.swapaxes(1, 2), own)

    def _times(self, matrices: np.ndarray, vectors: np.ndarray) -> np.ndarray:
        cells = vectors.reshape(*self._inverse.shape[:2], -1)
        return (matrices @ cells).reshape(vectors.shape)


class Factorisation:
    """Factor of a symmetric positive definite plate matrix given as strip matrices.

    Raises SolverError where the matrix is not positive definite (a panel that is not held).
    """

    def __init__(self, assembler: Assembler, matrices: list[np.ndarray]) -> None:
        self._strips = assembler.strips
        self.unknowns = assembler.unknowns
        self._lines = assembler.border_lines
        self._meets = assembler.meets
        many = assembler.layout.shape[1] >= FEW_CELLS
        self._inner = Inner(self._strips, matrices, self.unknowns) if many else None
        self._spine = [
            strip.dofs[strip.private if self._inner is None else self._inner.order[k][strip.shared.stop :]]
            for k, strip in enumerate(self._strips)
        ]
        sizes = [len(line) for line in self._lines]
        diagonal = [np.zeros((size, size), order="F") for size in sizes]
        self._beside = [np.zeros((far, near), order="F") for near, far in pairwise(sizes)]
        self._private_factor: list[np.ndarray] = []
        self._coupling: list[np.ndarray] = []
        left = matrices if self._inner is None else self._inner.left
        for k, (strip, matrix) in enumerate(zip(self._strips, left, strict=True)):
            private = slice(strip.shared.stop, len(matrix))
            factor = _cholesky(matrix[private, private])
            coupling = _triangular(factor, matrix[private, strip.shared], transposed=False)
            border = matrix[strip.shared, strip.shared] - coupling.T @ coupling
            near, far = self._meets[k]
            diagonal[k] += border[np.ix_(near, near)]
            diagonal[k + 1] += border[np.ix_(far, far)]
            self._beside[k] += border[np.ix_(far, near)]
            self._private_factor.append(factor)
            self._coupling.append(coupling)
        if self._inner is not None:
            self._inner.left = []
        # one line after the other, since each touches its neighbours only
        self._line_factor: list[np.ndarray] = []
        for k, block in enumerate(diagonal):
            if k:
                self._beside[k - 1] = _triangular(self._line_factor[k - 1], self._beside[k - 1].T, transposed=False).T
                block -= self._beside[k - 1] @ self._beside[k - 1].T
            self._line_factor.append(_cholesky(block))

    def forward(self, load: np.ndarray) -> np.ndarray:
        """R⁻¹ load; ``load`` is (unknowns,) or (unknowns, cases)."""
        result = np.empty_like(load)
        if self._inner is not None:
            load = self._inner.forward(load, result)
        lines = [load[line].copy() for line in self._lines]
        for k, (dofs, factor, coupling) in enumerate(self._parts()):
            private = _triangular(factor, load[dofs], transposed=False)
            result[dofs] = private
            border = coupling.T @ private
            near, far = self._meets[k]
            lines[k] -= border[near]
            lines[k + 1] -= border[far]
        for k, line in enumerate(self._lines):
            if k:
                lines[k] -= self._beside[k - 1] @ lines[k - 1]
            lines[k] = _triangular(self._line_factor[k], lines[k], transposed=False)
            result[line] = lines[k]
        return result

    def backward(self, right: np.ndarray) -> np.ndarray:
        """R⁻ᵀ right."""
        result = np.empty_like(right)
        lines = [right[line] for line in self._lines]
        for k in reversed(range(len(lines))):
            if k + 1 < len(lines):
                lines[k] = lines[k] - self._beside[k].T @ lines[k + 1]
            lines[k] = _triangular(self._line_factor[k], lines[k], transposed=True)
            result[self._lines[k]] = lines[k]
        for strip, (dofs, factor, coupling) in zip(self._strips, self._parts(), strict=True):
            result[dofs] = _triangular(
                factor, right[dofs] - coupling @ result[strip.dofs[strip.shared]], transposed=True
            )
        if self._inner is not None:
            self._inner.backward(right, result)
        return result

    def solve(self, load: np.ndarray) -> np.ndarray:
        """K⁻¹ load."""
        return self.backward(self.forward(load))

    def _parts(self) -> Iterator[tuple[np.ndarray, np.ndarray, np.ndarray]]:
        return zip(self._spine, self._private_factor, self._coupling, strict=True)


def _lower(matrices: np.ndarray) -> np.ndarray:
    """Cholesky factors of (n, k, k) matrices.  Raises SolverError."""
    try:
        return np.asarray(np.linalg.cholesky(matrices))
    except np.linalg.LinAlgError:
        raise SolverError(NOT_POSITIVE) from None


def _cholesky(matrix: np.ndarray) -> np.ndarray:
    if not len(matrix):
        return matrix
    from scipy.linalg import lapack  # a third of a second at start-up, so not before it is needed

    factor, status = lapack.dpotrf(matrix, lower=True, clean=False)
    if status:
        raise SolverError(NOT_POSITIVE)
    return factor


def _triangular(factor: np.ndarray, right: np.ndarray, transposed: bool) -> np.ndarray:
    """Solution of L x = right or Lᵀ x = right; straight to BLAS, since a Lanczos run makes hundreds of small calls."""
    if not len(factor):
        return right
    blas = _blas()
    if right.ndim == 1:
        return blas.dtrsv(factor, right, lower=True, trans=int(transposed))
    return blas.dtrsm(1.0, factor, right, lower=True, trans_a=int(transposed))


@cache
def _blas() -> Any:
    """Looked up once: an import statement takes as long as a small solution."""
    from scipy.linalg import blas  # see _cholesky

    return blas


class Product:
    """Products of an assembled matrix, given as strip matrices, with many vectors."""

    def __init__(self, assembler: Assembler, matrices: Sequence[np.ndarray]) -> None:
        self._assembler, self._matrices = assembler, matrices
        self._sparse: Any = None
        if assembler.layout.shape[1] >= FEW_CELLS:
            from scipy.sparse import csr_matrix  # see Inner

            rows, columns, values = [], [], []
            for strip, matrix in zip(assembler.strips, matrices, strict=True):
                flat = matrix.ravel(order="F")  # as the matrices are stored; far faster to look through
                used = np.flatnonzero(flat != 0.0)  # of booleans: three times as fast
                rows.append(strip.dofs[used % strip.size])
                columns.append(strip.dofs[used // strip.size])
                values.append(flat[used])
            places = np.concatenate(rows), np.concatenate(columns)
            self._sparse = csr_matrix((np.concatenate(values), places), shape=(assembler.unknowns,) * 2)

    def __call__(self, vector: np.ndarray) -> np.ndarray:
        """The product with ``vector`` (unknowns,)."""
        if self._sparse is None:
            return multiply(self._assembler, self._matrices, vector)
        return np.asarray(self._sparse @ vector)


def multiply(assembler: Assembler, matrices: Sequence[np.ndarray], vector: np.ndarray) -> np.ndarray:
    """Product of an assembled matrix, given as strip matrices, with ``vector`` (unknowns,) or (unknowns, cases)."""
    result = np.zeros_like(vector)
    for strip, matrix in zip(assembler.strips, matrices, strict=True):
        result[strip.dofs] += matrix @ vector[strip.dofs]
    return result
