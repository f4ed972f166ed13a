"""A solution near a known one: conjugate gradients, preconditioned by the factorisation of a plate much like it.

A small edit to a layup changes the stiffness by a few percent.  The factorisation made before the edit then is so good
a preconditioner that three or four iterations do, without the new matrix being put together at all: its product with
a vector is a sum of small products along x and along y.
"""

from __future__ import annotations

import numpy as np

from omakase.core.plates.assembly import Assembler, GroupedForm
from omakase.core.plates.condensation import Factorisation

TOLERANCE = 3e-4  # of the residual in the preconditioner's norm; reserve factors move by less than 0.2 %
MAX_ITERATIONS = 12  # as many cost as much as a new factorisation
FIRST_LOOK = 3  # iterations after which the rate is known well enough to give up early


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
            own, size = self._shape[f]
            other, shape = self._shape[g]
            product = rows @ vector[other].reshape(shape)
            result[own] += (product.reshape(size[0], -1) @ columns).ravel()
        return result


def solve_near(
    operator: Operator, near: Factorisation, load: np.ndarray, guesses: list[np.ndarray], scale: float | None = None
) -> tuple[np.ndarray, int] | None:
    """(solution, iterations) of ``operator`` x = ``load`` from solutions of its like; None if they are not near enough.

    It starts from the sum of the ``guesses`` with the least energy: an edit mostly makes the plate stiffer or softer
    as a whole, and a row of edits goes on as it began.  ``scale`` : load · K⁻¹ load of the factorised K, if known; the
    residual is measured against it.
    Hestenes and Stiefel, Journal of Research of the National Bureau of Standards 49 (1952) 409.
    """
    basis = np.stack(guesses)
    products = np.stack([operator(guess) for guess in guesses])
    shares = np.linalg.lstsq(basis @ products.T, basis @ load, rcond=1e-12)[0]
    x = shares @ basis
    residual = load - shares @ products
    target = TOLERANCE**2 * (float(load @ near.solve(load)) if scale is None else scale)
    first = 0.0
    direction = np.zeros_like(x)
    previous = 1.0
    for iteration in range(MAX_ITERATIONS):
        preconditioned = near.solve(residual)
        size = float(residual @ preconditioned)
        if size <= target:
            return x, iteration
        if iteration == 0:
            first = size
        elif iteration == FIRST_LOOK:
            rate = (size / first) ** (1.0 / FIRST_LOOK)
            if rate >= 1.0 or iteration + np.log(target / size) / np.log(rate) > MAX_ITERATIONS:
                return None
        direction = preconditioned + (size / previous if iteration else 0.0) * direction
        product = operator(direction)
        step = size / float(direction @ product)
        x += step * direction
        residual -= step * product
        previous = size
    return None
