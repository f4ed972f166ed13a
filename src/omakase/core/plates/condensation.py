"""Cholesky factorisation strip by strip: private unknowns are eliminated first, the border lines last.

For a grid of m strips this does the work of m small dense factorisations instead of one large one; every step is
a BLAS-3 call.  K = R Rᵀ with R applied implicitly, so that R⁻¹ G R⁻ᵀ serves symmetric eigenproblems.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from omakase.core.errors import SolverError
from omakase.core.plates.assembly import Assembler, Strip


class Factorisation:
    """Factor of a symmetric positive definite plate matrix given as strip matrices.

    Raises SolverError where the matrix is not positive definite (a panel that is not held).
    """

    def __init__(self, assembler: Assembler, matrices: list[np.ndarray]) -> None:
        self._strips = assembler.strips
        self.unknowns = assembler.unknowns
        shared = np.unique(np.concatenate([strip.dofs[strip.shared] for strip in self._strips]))
        self._shared = shared
        self._place = [np.searchsorted(shared, strip.dofs[strip.shared]) for strip in self._strips]
        border = np.zeros((len(shared), len(shared)))
        self._private_factor: list[np.ndarray] = []
        self._coupling: list[np.ndarray] = []
        for strip, matrix, place in zip(self._strips, matrices, self._place, strict=True):
            factor = self._cholesky(matrix[strip.private, strip.private])
            coupling = _triangular(factor, matrix[strip.private, strip.shared], transposed=False)
            border[np.ix_(place, place)] += matrix[strip.shared, strip.shared] - coupling.T @ coupling
            self._private_factor.append(factor)
            self._coupling.append(coupling)
        self._border_factor = self._cholesky(border)

    @staticmethod
    def _cholesky(matrix: np.ndarray) -> np.ndarray:
        if not len(matrix):
            return matrix
        from scipy.linalg import lapack  # a third of a second at start-up, so not before it is needed

        factor, status = lapack.dpotrf(matrix, lower=True, clean=False)
        if status:
            raise SolverError("the panel's stiffness is not positive: are the supports enough?")
        return factor

    def forward(self, load: np.ndarray) -> np.ndarray:
        """R⁻¹ load; ``load`` is (unknowns,) or (unknowns, cases)."""
        result = np.empty_like(load)
        border = load[self._shared].copy()
        for strip, factor, coupling, place in self._parts():
            dofs = strip.dofs[strip.private]
            private = _triangular(factor, load[dofs], transposed=False)
            result[dofs] = private
            border[place] -= coupling.T @ private
        result[self._shared] = _triangular(self._border_factor, border, transposed=False)
        return result

    def backward(self, right: np.ndarray) -> np.ndarray:
        """R⁻ᵀ right."""
        result = np.empty_like(right)
        border = _triangular(self._border_factor, right[self._shared], transposed=True)
        result[self._shared] = border
        for strip, factor, coupling, place in self._parts():
            dofs = strip.dofs[strip.private]
            result[dofs] = _triangular(factor, right[dofs] - coupling @ border[place], transposed=True)
        return result

    def solve(self, load: np.ndarray) -> np.ndarray:
        """K⁻¹ load."""
        return self.backward(self.forward(load))

    def _parts(self) -> Iterator[tuple[Strip, np.ndarray, np.ndarray, np.ndarray]]:
        return zip(self._strips, self._private_factor, self._coupling, self._place, strict=True)


def _triangular(factor: np.ndarray, right: np.ndarray, transposed: bool) -> np.ndarray:
    """Solution of L x = right or Lᵀ x = right; straight to BLAS, since a Lanczos run makes hundreds of small calls."""
    from scipy.linalg import blas  # see _cholesky

    if not len(factor):
        return right
    if right.ndim == 1:
        return blas.dtrsv(factor, right, lower=True, trans=int(transposed))
    return blas.dtrsm(1.0, factor, right, lower=True, trans_a=int(transposed))


def multiply(assembler: Assembler, matrices: list[np.ndarray], vector: np.ndarray) -> np.ndarray:
    """Product of an assembled matrix, given as strip matrices, with ``vector`` (unknowns,) or (unknowns, cases)."""
    result = np.zeros_like(vector)
    for strip, matrix in zip(assembler.strips, matrices, strict=True):
        result[strip.dofs] += matrix @ vector[strip.dofs]
    return result
