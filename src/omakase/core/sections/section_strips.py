"""Buckling of a section whose walls move together: finite strips along its mid-lines.

Y. K. Cheung, Finite Strip Method in Structural Analysis (1976): along the span all is half a wave; across, each strip
bends as a plate (cubics) and stretches as a sheet (linear); strips meet at nodes that keep their angle.
"""

from __future__ import annotations

from collections.abc import Sequence

import msgspec
import numpy as np

UNKNOWNS = 4  # of a node: along, y, z, turn
POINTS, WEIGHTS = np.polynomial.legendre.leggauss(4)


class Wave(msgspec.Struct, frozen=True, eq=False):
    """How a section buckles first: at ``factor`` times the loads, in half waves ``length`` m long; ``shares`` (strips,)
    of the work of the loads that each strip does."""

    factor: float
    length: float
    shares: np.ndarray


class SectionStrips:
    """Strips between nodes (n, 2), y and z in m; ``strips`` : (m, 2) nodes that each joins.

    ``A``, ``D`` : (m, 3, 3) stiffness of each strip in its plane and in bending, N/m and N m; A16, A26, D16 and D26
    are left out.  ``shear`` : (m,) transverse shear in N/m, and ``wide`` : (m,) the width of the wall that a strip is
    part of, m: for the wave that a plate of this width makes, D is taken as much softer as its buckling load in
    series with the shear is.  ``held`` : nodes that stay in their place and keep their angle.
    """

    def __init__(
        self, nodes: np.ndarray, strips: np.ndarray, A: np.ndarray, D: np.ndarray, shear: np.ndarray, wide: np.ndarray,
        held: Sequence[int] = (),
    ) -> None:  # fmt: skip
        self._A, self._D, self._shear, self._wide = A, D, shear, wide
        runs = nodes[strips[:, 1]] - nodes[strips[:, 0]]
        self._b = b = np.hypot(*runs.T)
        turns = np.array([_turned(*run) for run in runs / b[:, None]])
        t = np.broadcast_to((POINTS + 1.0) / 2.0, (len(b), len(POINTS)))
        none, one, b = np.zeros_like(t), np.ones_like(t), b[:, None]
        U = np.stack([1.0 - t, none, none, none, t, none, none, none], axis=2)
        dU = np.stack([-one, none, none, none, one, none, none, none], axis=2) / b[..., None]
        W = np.stack([none, none, 1 - 3 * t**2 + 2 * t**3, b * (t - 2 * t**2 + t**3),
                      none, none, 3 * t**2 - 2 * t**3, b * (t**3 - t**2)], axis=2)  # fmt: skip
        dW = np.stack([none, none, 6 * t**2 - 6 * t, b * (1 - 4 * t + 3 * t**2),
                       none, none, 6 * t - 6 * t**2, b * (3 * t**2 - 2 * t)], axis=2) / b[..., None]  # fmt: skip
        ddW = np.stack([none, none, 12 * t - 6, b * (6 * t - 4), none, none, 6 - 12 * t, b * (6 * t - 2)], axis=2)
        ddW = ddW / b[..., None] ** 2
        U, dU, W, dW, ddW = (values @ turns for values in (U, dU, W, dW, ddW))
        V = np.stack([none, 1.0 - t, none, none, none, t, none, none], axis=2) @ turns
        dV = np.stack([none, -one, none, none, none, one, none, none], axis=2) / b[..., None] @ turns
        weights = WEIGHTS * b / 2.0

        def product(own: np.ndarray, other: np.ndarray) -> np.ndarray:
            return np.einsum("mp,mpa,mpb->mab", weights, own, other)

        a, d = ((law[:, :, :, None, None]) for law in (A, D))
        both = product(U, dV)
        crossed = product(dU, V)
        self._sheet = (
            a[:, 1, 1] * product(dV, dV) + a[:, 2, 2] * product(dU, dU),
            -a[:, 0, 1] * (both + both.transpose(0, 2, 1)) + a[:, 2, 2] * (crossed + crossed.transpose(0, 2, 1)),
            a[:, 0, 0] * product(U, U) + a[:, 2, 2] * product(V, V),
        )  # by powers of k = π/wave
        both = product(W, ddW)
        self._plate = (
            d[:, 1, 1] * product(ddW, ddW),
            -d[:, 0, 1] * (both + both.transpose(0, 2, 1)) + 4.0 * d[:, 2, 2] * product(dW, dW),
            d[:, 0, 0] * product(W, W),
        )  # by powers of k²
        moving = np.einsum("mpa,mpb->mpab", V, V) + np.einsum("mpa,mpb->mpab", W, W)
        self._moving = [np.einsum("mp,mpab->mab", weights * share, moving) for share in (1.0 - t, t)]
        free = np.ones((len(nodes), UNKNOWNS), bool)
        free[list(held), 1:] = False
        self._free = np.nonzero(free.ravel())[0]
        dofs = (UNKNOWNS * strips[:, :, None] + np.arange(UNKNOWNS)).reshape(len(strips), -1)
        self._size = UNKNOWNS * len(nodes)
        self._at = (dofs[:, :, None] * self._size + dofs[:, None, :]).ravel()
        self._dofs = dofs

    def _gathered(self, matrices: np.ndarray) -> np.ndarray:
        total = np.bincount(self._at, matrices.ravel(), self._size**2).reshape(self._size, self._size)
        return np.asarray(total[np.ix_(self._free, self._free)])

    def _stiffness(self, k: float) -> np.ndarray:
        k2, b2, D = k * k, (np.pi / self._wide) ** 2, self._D
        load = D[:, 0, 0] * k2 + 2.0 * (D[:, 0, 1] + 2.0 * D[:, 2, 2]) * b2 + D[:, 1, 1] * b2**2 / k2
        softer = (1.0 / (1.0 + load / self._shear))[:, None, None]
        none, one, two = self._sheet
        sheet = none + k * one + k2 * two
        none, one, two = self._plate
        return self._gathered(sheet + softer * (none + k2 * one + k2 * k2 * two))

    def buckling(self, loads: np.ndarray, waves: np.ndarray) -> list[Wave | None]:
        """How the section buckles first under each of ``loads`` (cases, strips, 2), compression along in N/m at both
        edges of every strip, in one of ``waves`` long; None where nothing is pressed."""
        from scipy.linalg import eigh, solve_triangular  # a third of a second at start-up

        found: list[Wave | None] = [None] * len(loads)
        works = [self._gathered(self._work(load)) for load in loads]
        for length in waves:
            k = float(np.pi / length)
            L = np.linalg.cholesky(self._stiffness(k))
            for case, (load, work) in enumerate(zip(loads, works, strict=True)):
                half = solve_triangular(L, k * k * work, lower=True)
                whole = solve_triangular(L, half.T, lower=True)
                last = len(whole) - 1
                value, shape = eigh(whole, subset_by_index=[last, last])
                best = found[case]
                if value[0] > 0.0 and (best is None or 1.0 / value[0] < best.factor):
                    moved = np.zeros(self._size)
                    moved[self._free] = solve_triangular(L.T, shape[:, 0])
                    own = moved[self._dofs]
                    shares = np.einsum("ma,mab,mb->m", own, self._work(load), own) * k * k
                    found[case] = Wave(float(1.0 / value[0]), float(length), shares / shares.sum())
        return found

    def _work(self, load: np.ndarray) -> np.ndarray:
        first, second = self._moving
        return load[:, 0, None, None] * first + load[:, 1, None, None] * second


def _turned(c: float, s: float) -> np.ndarray:
    """(8, 8) from along, y, z and turn of both edges to along, across, out and turn of a strip."""
    turn = np.zeros((2 * UNKNOWNS, 2 * UNKNOWNS))
    for end in (0, UNKNOWNS):
        turn[end, end] = turn[end + 3, end + 3] = 1.0
        turn[end + 1, end + 1 : end + 3], turn[end + 2, end + 1 : end + 3] = (c, s), (-s, c)
    return turn
