"""A solution near a known one: conjugate gradients, preconditioned by the factorisation of a plate much like it.

A small edit to a layup changes the stiffness by a few percent.  The factorisation made before the edit then is so good
a preconditioner that three or four iterations do, without the new matrix being put together at all: its product with
a vector is a sum of small products along x and along y.
"""

from __future__ import annotations

import numpy as np

from omakase.core.plates.assembly import Assembler, GroupedForm
from omakase.core.plates.condensation import Factorisation

TOLERANCE = 1e-4  # of the residual in the preconditioner's norm; reserve factors move by less than 0.1 %
MAX_ITERATIONS = 10


class Operator:
    """The matrix of a form on a grid of one layup, as a product with a vector; nothing is assembled."""

    def __init__(self, assembler: Assembler, form: GroupedForm) -> None:
        self._shape: dict[str, tuple[slice, tuple[int, int]]] = {}
        start = 0
        for field in assembler.grid.fields:
            shape = (int(assembler.grid.free_x[field].sum()), int(assembler.grid.free_y[field].sum()))
            self._shape[field] = slice(start, start + shape[0] * shape[1]), shape
            start += shape[0] * shape[1]
        self._terms = []
        for f in assembler.grid.fields:
            for g in assembler.grid.fields:
                if (f, g) in form:
                    coefficients = form[f, g]
                    X = assembler.along_x(f, g, coefficients.x_pairs)
                    Y = assembler.along_y(f, g, coefficients.y_pairs)
                    self._terms.append((f, g, X, np.tensordot(coefficients.table, Y, axes=1)))

    def __call__(self, vector: np.ndarray) -> np.ndarray:
        """Product with ``vector`` (unknowns,)."""
        result = np.zeros_like(vector)
        for f, g, X, W in self._terms:
            self._add(result, f, g, X, W, vector)
            if f != g:
                self._add(result, g, f, X.transpose(0, 2, 1), W.transpose(0, 2, 1), vector)
        return result

    def _add(self, result: np.ndarray, f: str, g: str, X: np.ndarray, W: np.ndarray, vector: np.ndarray) -> None:
        """Adds Σ X_k U Wᵀ_k of field g to the rows of field f."""
        own, _ = self._shape[f]
        other, shape = self._shape[g]
        product = np.matmul(np.matmul(X, vector[other].reshape(shape)), W.transpose(0, 2, 1))
        result[own] += product.sum(axis=0).ravel()


def solve_near(
    operator: Operator, near: Factorisation, load: np.ndarray, guess: np.ndarray
) -> tuple[np.ndarray, int] | None:
    """(solution, iterations) of ``operator`` x = ``load`` starting from ``guess``; None if it is not near enough.

    Hestenes and Stiefel, Journal of Research of the National Bureau of Standards 49 (1952) 409.
    """
    x = guess.copy()
    residual = load - operator(x)
    target = TOLERANCE**2 * float(load @ near.solve(load))
    direction = np.zeros_like(x)
    previous = 1.0
    for iteration in range(MAX_ITERATIONS):
        preconditioned = near.solve(residual)
        size = float(residual @ preconditioned)
        if size <= target:
            return x, iteration
        direction = preconditioned + (size / previous if iteration else 0.0) * direction
        product = operator(direction)
        step = size / float(direction @ product)
        x += step * direction
        residual -= step * product
        previous = size
    return None
