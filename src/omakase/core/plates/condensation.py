"""Cholesky factorisation strip by strip: private unknowns are eliminated first, then one border line after the other.

For a grid of m strips this does the work of 2 m small dense factorisations instead of one large one; every step is
a BLAS-3 call.  K = R Rᵀ with R applied implicitly, so that R⁻¹ G R⁻ᵀ serves symmetric eigenproblems.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import pairwise

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
        self._lines = _lines(self._strips)
        sizes = [len(line) for line in self._lines]
        diagonal = [np.zeros((size, size), order="F") for size in sizes]
        self._beside = [np.zeros((far, near), order="F") for near, far in pairwise(sizes)]
        self._private_factor: list[np.ndarray] = []
        self._coupling: list[np.ndarray] = []
        self._place = [
            (np.searchsorted(dofs, near), np.searchsorted(dofs, far), order)
            for strip, near, far in zip(self._strips, self._lines[:-1], self._lines[1:], strict=True)
            for order in [np.argsort(strip.dofs[strip.shared])]
            for dofs in [strip.dofs[strip.shared][order]]
        ]
        for k, (strip, matrix) in enumerate(zip(self._strips, matrices, strict=True)):
            factor = self._cholesky(matrix[strip.private, strip.private])
            coupling = _triangular(factor, matrix[strip.private, strip.shared], transposed=False)
            border = matrix[strip.shared, strip.shared] - coupling.T @ coupling
            near, far = self._near_and_far(k)
            diagonal[k] += border[np.ix_(near, near)]
            diagonal[k + 1] += border[np.ix_(far, far)]
            self._beside[k] += border[np.ix_(far, near)]
            self._private_factor.append(factor)
            self._coupling.append(coupling)
        # one line after the other, since each touches its neighbours only
        self._line_factor: list[np.ndarray] = []
        for k, block in enumerate(diagonal):
            if k:
                self._beside[k - 1] = _triangular(self._line_factor[k - 1], self._beside[k - 1].T, transposed=False).T
                block -= self._beside[k - 1] @ self._beside[k - 1].T
            self._line_factor.append(self._cholesky(block))

    def _near_and_far(self, k: int) -> tuple[np.ndarray, np.ndarray]:
        """Places, among a strip's shared unknowns, of those of its line to the left and of its line to the right."""
        near, far, order = self._place[k]
        return order[near], order[far]

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
        lines = [load[line].copy() for line in self._lines]
        for k, (strip, factor, coupling) in enumerate(self._parts()):
            dofs = strip.dofs[strip.private]
            private = _triangular(factor, load[dofs], transposed=False)
            result[dofs] = private
            border = coupling.T @ private
            near, far = self._near_and_far(k)
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
        for strip, factor, coupling in self._parts():
            dofs = strip.dofs[strip.private]
            result[dofs] = _triangular(
                factor, right[dofs] - coupling @ result[strip.dofs[strip.shared]], transposed=True
            )
        return result

    def solve(self, load: np.ndarray) -> np.ndarray:
        """K⁻¹ load."""
        return self.backward(self.forward(load))

    def _parts(self) -> Iterator[tuple[Strip, np.ndarray, np.ndarray]]:
        return zip(self._strips, self._private_factor, self._coupling, strict=True)


def _lines(strips: Sequence[Strip]) -> list[np.ndarray]:
    """The unknowns of each border line, from the left end to the right one, ascending."""
    shared = [np.sort(strip.dofs[strip.shared]) for strip in strips]
    between = [np.intersect1d(near, far) for near, far in pairwise(shared)]
    nothing = np.zeros(0, int)
    ends = (
        np.setdiff1d(shared[0], between[0] if between else nothing),
        (np.setdiff1d(shared[-1], between[-1]) if between else nothing),
    )
    return [ends[0], *between, ends[1]]


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
