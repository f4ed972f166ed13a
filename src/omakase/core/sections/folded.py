"""An open section that flattens as it bends, twists and vibrates: a folded plate by finite strips.

Y. K. Cheung, Finite Strip Method in Structural Analysis (1976): along the span all is half a wave, across each straight
wall bends as a plate (cubics) and stretches as a sheet (linear); walls meet at corners that keep their angle.
"""

from __future__ import annotations

import numpy as np

from omakase.core.sections.strip_functions import WEIGHTS, among, cubics, edge_turned, linear

UNKNOWNS = 4  # of a corner: along, across, up, turn


class FoldedPlate:
    """Walls through the corners ``line`` (n, 2), y and z in m, that are alike on both sides of y = 0.

    ``A``, ``B``, ``D`` : (3, 3) stiffness of the wall along and across, N/m, N and N m, whose couplings of what is
    along and across with shear and twist are not counted; ``areal_mass`` : kg/m².
    """

    def __init__(self, line: np.ndarray, A: np.ndarray, B: np.ndarray, D: np.ndarray, areal_mass: float = 0.0) -> None:
        self.line, self.law, self.areal_mass = line, (A, B, D), areal_mass
        runs = np.diff(line, axis=0)
        self._widths = np.round(np.hypot(runs[:, 0], runs[:, 1]), 12)  # alike to a millionth of a micrometre are one
        self._turns = np.array([np.kron(np.eye(2), edge_turned(*run)) for run in runs / self._widths[:, None]])

    def sag(self, wave: float, pushed: np.ndarray) -> float:
        """Sag in m, the mean where it is ``pushed``, at the middle of half a wave ``wave`` m long under a load of
        half a wave, 1 N/m at its middle.  ``pushed`` : (n − 1,) shares of the load on each wall, alike on both sides,
        whose sum is 1."""
        K, _ = self._assembled(wave)
        load = np.zeros(len(K))
        for k, share in enumerate(pushed):
            load[[UNKNOWNS * k + 2, UNKNOWNS * (k + 1) + 2]] += share / 2.0
        P = self._alike(True)  # aside as a whole nothing holds it
        load = P.T @ load
        return float(load @ np.linalg.solve(P.T @ K @ P, load))

    def frequencies(self, wave: float, even: bool) -> np.ndarray:
        """Natural frequencies in Hz, ascending, of vibrations of half a wave along the span: ``even`` ones move both
        sides alike, up and down; the others twist and move aside."""
        K, M = self._assembled(wave)
        P = self._alike(even)
        whole = np.linalg.inv(np.linalg.cholesky(P.T @ M @ P))
        squares = np.linalg.eigvalsh(whole @ (P.T @ K @ P) @ whole.T)
        return np.asarray(np.sqrt(np.maximum(squares, 0.0)) / (2.0 * np.pi))

    def _assembled(self, wave: float) -> tuple[np.ndarray, np.ndarray]:
        """Stiffness and mass of all corners."""
        size = UNKNOWNS * len(self.line)
        K, M = np.zeros((size, size)), np.zeros((size, size))
        known = {width: _strip(self.law, np.pi / wave, float(width)) for width in np.unique(self._widths)}
        for k, (width, turn) in enumerate(zip(self._widths, self._turns, strict=True)):
            at = slice(UNKNOWNS * k, UNKNOWNS * (k + 2))
            stiff, heavy = known[width]
            K[at, at] += turn.T @ stiff @ turn
            M[at, at] += self.areal_mass * turn.T @ heavy @ turn
        return K, M

    def _alike(self, even: bool) -> np.ndarray:
        """Columns that move the corners of both sides alike, or against each other."""
        count, sign = len(self.line), 1.0 if even else -1.0
        columns = []
        for own in range((count + 1) // 2):
            for axis, other in enumerate((sign, -sign, sign, -sign)):  # along, across, up, turn
                column = np.zeros((count, UNKNOWNS))
                column[own, axis], column[count - 1 - own, axis] = 1.0, other
                if 2 * own != count - 1 or other > 0.0:
                    columns.append(column.ravel())
        return np.array(columns).T


def _strip(law: tuple[np.ndarray, np.ndarray, np.ndarray], k: float, b: float) -> tuple[np.ndarray, np.ndarray]:
    """Stiffness (8, 8) of a strip b m wide in u, v, w and turn of both its edges, u = U cos kx, v and w = V, W sin kx;
    and its mass for 1 kg/m²."""
    straight, bent = linear(np.array(b)), cubics(np.array(b))
    (U, dU), (V, dV) = ([among(own, (at, at + 4), 8) for own in straight] for at in (0, 1))
    W, dW, ddW = (among(own, (2, 3, 6, 7), 8) for own in bent)
    strains = np.stack([-k * U, dV, k**2 * W, -ddW])  # along, across, and curvatures: all sin kx
    A, B, D = law
    stiff = np.block([[A[:2, :2], B[:2, :2]], [B[:2, :2], D[:2, :2]]])
    sheared, twisted = dU + k * V, 2.0 * k * dW  # cos kx
    weights = WEIGHTS * b / 2.0

    def product(own: np.ndarray, other: np.ndarray) -> np.ndarray:
        return np.einsum("p,pa,pb->ab", weights, own, other)

    K = np.einsum("p,ipa,ij,jpb->ab", weights, strains, stiff, strains)
    K += A[2, 2] * product(sheared, sheared) + D[2, 2] * product(twisted, twisted)
    both = B[2, 2] * product(sheared, twisted)
    return K + both + both.T, product(U, U) + product(V, V) + product(W, W)
