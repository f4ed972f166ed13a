"""How much of its height's stiffness an open section keeps as it flattens: a folded plate by finite strips.

Y. K. Cheung, Finite Strip Method in Structural Analysis (1976): along the span all is half a wave, across each straight
wall bends as a plate (cubics) and stretches as a sheet (linear); walls meet at corners that keep their angle.
"""

from __future__ import annotations

import numpy as np

POINTS, WEIGHTS = np.polynomial.legendre.leggauss(4)
UNKNOWNS = 4  # of a corner: along, across, up, turn


def sag_of(line: np.ndarray, A: np.ndarray, D: np.ndarray, wave: float, pushed: np.ndarray) -> float:
    """Sag in m, the mean where it is ``pushed``, of walls through the corners ``line`` (n, 2) y and z in m, at the
    middle of half a wave ``wave`` m long under a load of half a wave, 1 N/m at its middle.

    ``A``, ``D`` : (3, 3) stiffness of the wall along and across, N/m and N m, whose couplings of stretch with shear are
    not counted.  ``pushed`` : (n − 1,) shares of the load on each wall, whose sum is 1.
    """
    count = len(line)
    K, load = np.zeros((UNKNOWNS * count, UNKNOWNS * count)), np.zeros(UNKNOWNS * count)
    for k, share in enumerate(pushed):
        run = line[k + 1] - line[k]
        width = float(np.hypot(*run))
        c, s = run / width
        own = _strip(A, D, np.pi / wave, width)
        turn = np.zeros((8, 8))
        for end in (0, 4):
            turn[end, end] = turn[end + 3, end + 3] = 1.0
            turn[end + 1, end + 1 : end + 3], turn[end + 2, end + 1 : end + 3] = (c, s), (-s, c)
        at = slice(UNKNOWNS * k, UNKNOWNS * (k + 2))
        K[at, at] += turn.T @ own @ turn
        load[[UNKNOWNS * k + 2, UNKNOWNS * (k + 1) + 2]] += share / 2.0
    # it may slide aside as a whole, which nothing pushes at
    K += np.trace(K) / len(K) * 1e-12 * np.eye(len(K))
    return float(load @ np.linalg.solve(K, load))


def _strip(A: np.ndarray, D: np.ndarray, k: float, b: float) -> np.ndarray:
    """(8, 8) of a strip b m wide in u, v, w and turn of both its edges: u = U cos kx, v and w = V, W sin kx."""
    t = (POINTS + 1.0) / 2.0
    none, one = np.zeros_like(t), np.ones_like(t)
    U = np.stack([1.0 - t, none, none, none, t, none, none, none], axis=1)
    dU = np.stack([-one, none, none, none, one, none, none, none], axis=1) / b
    V, dV = np.roll(U, 1, axis=1), np.roll(dU, 1, axis=1)
    W = np.stack([none, none, 1 - 3 * t**2 + 2 * t**3, b * (t - 2 * t**2 + t**3),
                  none, none, 3 * t**2 - 2 * t**3, b * (t**3 - t**2)], axis=1)  # fmt: skip
    dW = np.stack([none, none, 6 * t**2 - 6 * t, b * (1 - 4 * t + 3 * t**2),
                   none, none, 6 * t - 6 * t**2, b * (3 * t**2 - 2 * t)], axis=1) / b  # fmt: skip
    ddW = np.stack([none, none, 12 * t - 6, b * (6 * t - 4), none, none, 6 - 12 * t, b * (6 * t - 2)], axis=1) / b**2
    strains = np.stack([-k * U, dV, k**2 * W, -ddW])  # along, across, and curvatures: all sin kx
    law = np.zeros((4, 4))
    law[:2, :2], law[2:, 2:] = A[:2, :2], D[:2, :2]
    sheared, twisted = dU + k * V, 2.0 * k * dW  # cos kx
    weights = WEIGHTS * b / 2.0
    return np.asarray(
        np.einsum("p,ipa,ij,jpb->ab", weights, strains, law, strains)
        + A[2, 2] * np.einsum("p,pa,pb->ab", weights, sheared, sheared)
        + D[2, 2] * np.einsum("p,pa,pb->ab", weights, twisted, twisted)
    )
