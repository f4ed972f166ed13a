"""A member's equations in a narrow band: solutions, and eigenvalues of other matrices beside theirs."""

from __future__ import annotations

import numpy as np

from omakase.core.errors import SolverError
from omakase.core.members.span_mesh import Layout

NEARLY, ENOUGH = 1e-3, 100.0  # of a factor of buckling: how near it is looked for by halving, and what is no matter
START_SEED = 20261127
EXTRA, ITERATIONS, TOLERANCE = 2, 80, 1e-5  # of the subspace iteration, which gains two digits a step
DEPENDENT = 1e-12  # share of the largest under which a direction of the subspace says nothing new
SAFELY_APART = 0.999  # cosine between two directions up to which LAPACK's own division by K is exact enough


class Banded:
    """K of the free unknowns from its ``local`` matrices, (cells, local, local), factored.

    Raises SolverError when it is not positive definite: the member is not held.
    """

    def __init__(self, layout: Layout, local: np.ndarray) -> None:
        from scipy.linalg import LinAlgError, cholesky_banded  # slow to import

        self._layout, self._local = layout, local
        try:
            self._factor = cholesky_banded(layout.bands(local), lower=True)
        except (LinAlgError, ValueError):
            raise SolverError("the equations of the member cannot be solved: is it held?") from None

    def solve(self, right: np.ndarray) -> np.ndarray:
        """K⁻¹ right, (n, ...)."""
        from scipy.linalg.lapack import dpbtrs  # without the checks of what is known to be right

        return dpbtrs(self._factor, right, lower=1)[0]

    def least_factor(self, work: np.ndarray) -> float:
        """Least positive λ at which K − λ G is singular, G from local matrices of ``work``; inf where there is none, or
        none below ``ENOUGH`` where loads the other way round make it buckle much earlier.

        Subspace iteration finds what is largest of either sign, so that those may hide it.  Below the least λ the
        matrix has a Cholesky factor and above it none: that tells, and finds it by halving.
        """
        inverse = float(self.largest(work, 1)[0])
        found = 1.0 / inverse if inverse > 1e-9 else float("inf")
        high = min(found * (1.0 - NEARLY), ENOUGH)
        if self.stands(work, high):
            return found
        low = 0.0
        while high - low > NEARLY * high:
            middle = (low + high) / 2.0
            low, high = (middle, high) if self.stands(work, middle) else (low, middle)
        return high

    def stands(self, work: np.ndarray, factor: float) -> bool:
        """Whether K − λ G is positive definite."""
        from scipy.linalg.lapack import dpbtrf  # without the checks of what is known to be right

        return bool(dpbtrf(self._layout.bands(self._local - factor * work), lower=1)[1] == 0)

    def largest(self, work: np.ndarray, wanted: int, rows: np.ndarray | None = None) -> np.ndarray:
        """Largest λ of G x = λ K x, descending, (wanted,): subspace iteration (Bathe and Wilson 1972).

        G from local matrices of ``work``; ``rows`` : (k, n) whose rowᵀ row add to it.
        """
        G, size = self._layout.sparse(work), self._layout.size
        count = min(size, 2 * wanted + EXTRA)

        def times(X: np.ndarray) -> np.ndarray:
            return G @ X if rows is None else G @ X + rows.T @ (rows @ X)

        GX = times(np.random.default_rng(START_SEED).standard_normal((size, count)))
        before = np.zeros(wanted)
        for _ in range(ITERATIONS):
            Y = self.solve(GX)
            GY = times(Y)
            values, vectors = _small_problem(Y.T @ GY, Y.T @ GX)  # the second is Yᵀ K Y
            GX = GY @ vectors  # of X = Y vectors
            largest = np.zeros(wanted)
            largest[: len(values)] = values[::-1][:wanted]
            if np.abs(largest - before).max() <= TOLERANCE * np.abs(largest).max():
                break
            before = largest
        return largest


def _small_problem(G: np.ndarray, K: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """G x = λ K x of the subspace: λ ascending, (m,), and x, (n, m), with xᵀ K x = 1.

    m is less than n where a mass far above all others leaves few directions that differ.
    """
    from scipy.linalg.lapack import dsygvd

    size = 1.0 / np.sqrt(np.diag(K))
    scaled = K * np.outer(size, size)
    if np.abs(np.tril(scaled, -1)).max(initial=0.0) < SAFELY_APART:
        values, vectors, failed = dsygvd(G * np.outer(size, size), scaled)
        if not failed:
            return values, size[:, None] * vectors
    share, directions = np.linalg.eigh(scaled)
    kept = share > DEPENDENT
    root = size[:, None] * directions[:, kept] / np.sqrt(share[kept])
    values, vectors = np.linalg.eigh(root.T @ G @ root)
    return values, root @ vectors
