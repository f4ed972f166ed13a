"""Buckling of a section whose walls move together: finite strips along its mid-lines.

Y. K. Cheung, Finite Strip Method in Structural Analysis (1976): along the span all is half a wave; across, each strip
bends as a plate (cubics) and stretches as a sheet (linear); strips meet at nodes that keep their angle.  Normals of a
sandwich turn by the slope of a part of its deflection only, the rest is shear (linear).
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from omakase.core.sections.strip_functions import POINTS, WEIGHTS, among, cubics, edge_turned, linear

if TYPE_CHECKING:
    from scipy.sparse import csc_array

UNKNOWNS = 5  # of a node: along, y, z, turn, and the part of the deflection that is shear
START_SEED, TOLERANCE, VECTORS, ROUNDS = 20261130, 1e-3, 24, 20  # of the search for eigenvalues
STRAIGHT = np.cos(np.radians(30.0))  # of the angle between strips, up to which a sandwich goes on
DENSE = 120  # unknowns up to which full matrices are faster
NOTHING = 1e-15  # an eigenvalue of what is not pressed at all


class SectionStrips:
    """A section cut in strips between nodes (n, 2), y and z in m; ``strips`` : (m, 2) nodes that each joins.

    ``A``, ``D`` : (m, 3, 3) stiffness of each strip in its plane and in bending, N/m and N m; A16, A26, D16 and D26
    are left out.  ``shear`` : (m, 2) transverse shear along and across, N/m, inf where there is none to speak of; none
    at a node where strips meet at an angle, or with one that has none.  ``held`` : nodes that stay in their place and
    keep their angle.
    """

    def __init__(
        self, nodes: np.ndarray, strips: np.ndarray, A: np.ndarray, D: np.ndarray, shear: np.ndarray,
        held: Sequence[int] = (),
    ) -> None:  # fmt: skip
        self.count = len(strips)
        runs = nodes[strips[:, 1]] - nodes[strips[:, 0]]
        b = np.hypot(*runs.T)
        along = runs / b[:, None]
        sheared, signs = _sheared_nodes(len(nodes), strips, along, np.isfinite(shear).all(axis=1))
        turns = np.array([_turned(*own) for own in np.concatenate([along, signs], axis=1)])
        straight, bent = linear(b), cubics(b)
        (U, dU), (V, dV), (L, dL) = ([among(own, (at, at + 5), 10) for own in straight] for at in (0, 1, 4))
        # what bends is the deflection less its part that is shear
        W, dW, ddW = (among(own, (2, 3, 7, 8), 10) - among(own[..., ::2], (4, 9), 10) for own in bent)
        moved = W + L
        U, dU, V, dV, W, dW, ddW, L, dL, moved = (
            own @ turns for own in (U, dU, V, dV, W, dW, ddW, L, dL, moved)
        )  # fmt: skip
        weights, t = WEIGHTS * b[:, None] / 2.0, (POINTS + 1.0) / 2.0

        def product(own: np.ndarray, other: np.ndarray) -> np.ndarray:
            return np.einsum("mp,mpa,mpb->mab", weights, own, other)

        def both(own: np.ndarray, other: np.ndarray) -> np.ndarray:
            one_way = product(own, other)
            return one_way + one_way.transpose(0, 2, 1)

        a, d = (law[:, :, :, None, None] for law in (A, D))
        S = np.where(np.isfinite(shear), shear, 0.0)[:, :, None, None]
        self._by_powers = (
            a[:, 1, 1] * product(dV, dV) + a[:, 2, 2] * product(dU, dU) + d[:, 1, 1] * product(ddW, ddW)
            + S[:, 1] * product(dL, dL),
            -a[:, 0, 1] * both(U, dV) + a[:, 2, 2] * both(dU, V),
            a[:, 0, 0] * product(U, U) + a[:, 2, 2] * product(V, V) - d[:, 0, 1] * both(W, ddW)
            + 4.0 * d[:, 2, 2] * product(dW, dW) + S[:, 0] * product(L, L),
            d[:, 0, 0] * product(W, W),
        )  # by k⁰, k¹, k² and k⁴, k = π/wave  # fmt: skip
        moving = np.einsum("mpa,mpb->mpab", V, V) + np.einsum("mpa,mpb->mpab", moved, moved)
        self._moving = [np.einsum("mp,mpab->mab", weights * share, moving) for share in (1.0 - t, t)]
        free = np.ones((len(nodes), UNKNOWNS), bool)
        free[list(held), 1:] = False
        free[~sheared, 4] = False
        dofs = (UNKNOWNS * strips[:, :, None] + np.arange(UNKNOWNS)).reshape(len(strips), -1)
        place = np.full(UNKNOWNS * len(nodes), -1)
        place[free.ravel()] = np.arange(int(free.sum()))
        self._dofs = place[dofs]  # −1 where held
        rows, columns = np.broadcast_arrays(self._dofs[:, :, None], self._dofs[:, None, :])
        self._kept = np.nonzero(((rows >= 0) & (columns >= 0)).ravel())[0]
        self._at = rows.ravel()[self._kept], columns.ravel()[self._kept]
        self._size = int(free.sum())

    def _gathered(self, matrices: np.ndarray) -> csc_array | np.ndarray:
        if self._size < DENSE:
            places = self._at[0] * self._size + self._at[1]
            total = np.bincount(places, matrices.ravel()[self._kept], self._size**2)
            return np.asarray(total.reshape(self._size, self._size))
        from scipy.sparse import coo_array

        return coo_array((matrices.ravel()[self._kept], self._at), shape=(self._size, self._size)).tocsc()

    def buckling(self, loads: np.ndarray, waves: np.ndarray, modes: int = 1) -> tuple[np.ndarray, np.ndarray]:
        """Factors (waves, modes), ascending, on ``loads`` (strips, 2), compression along in N/m at both edges of every
        strip, at which the section buckles in half waves so many m long, inf where it does not; and the shares (waves,
        modes, strips) of the work of the loads that each strip does then."""
        factors, shares = np.full((len(waves), modes), np.inf), np.zeros((len(waves), modes, len(loads)))
        own_work = loads[:, 0, None, None] * self._moving[0] + loads[:, 1, None, None] * self._moving[1]
        work = self._gathered(own_work)
        start = np.random.default_rng(START_SEED).standard_normal(self._size)
        none, one, two, four = self._by_powers
        for number, length in enumerate(waves):
            k = float(np.pi / length)
            values, shapes = _largest(work, self._gathered(none + k * one + k**2 * two + k**4 * four), start, modes)
            if len(values):
                start = shapes[:, -1]
            for mode, (value, shape) in enumerate(zip(values[::-1], shapes.T[::-1], strict=True)):
                if value > NOTHING:
                    factors[number, mode] = 1.0 / (value * k * k)
                    own = np.append(shape, 0.0)[self._dofs]
                    spent = np.einsum("ma,mab,mb->m", own, own_work, own)
                    shares[number, mode] = spent / spent.sum()
        return factors, shares


def _largest(
    G: csc_array | np.ndarray, K: csc_array | np.ndarray, start: np.ndarray, count: int
) -> tuple[np.ndarray, np.ndarray]:
    """Largest λ of G x = λ K x, ascending, and their x in columns; none where they are not found: nothing to speak of
    is pressed, or the wave is far out of proportion to the section."""
    nothing = np.zeros(0), np.zeros((len(start), 0))
    if isinstance(K, np.ndarray):
        from scipy.linalg import eigh  # a third of a second at start

        last = len(start) - 1
        try:
            return eigh(G, K, subset_by_index=[max(last + 1 - count, 0), last], check_finite=False)
        except np.linalg.LinAlgError:
            return nothing
    from scipy.sparse.linalg import ArpackNoConvergence, LinearOperator, eigsh, splu

    try:
        solve = LinearOperator(K.shape, splu(K).solve)
        values, shapes = eigsh(
            G, count, K, which="LA", Minv=solve, tol=TOLERANCE, v0=start, ncv=VECTORS, maxiter=ROUNDS
        )
    except ArpackNoConvergence as found:
        values, shapes = found.eigenvalues, found.eigenvectors
    except RuntimeError:
        return nothing
    order = np.argsort(values)
    return values[order], shapes[:, order]


def least_between(factors: np.ndarray, waves: np.ndarray, k: int) -> tuple[float, float]:
    """The least factor near the one numbered ``k``, which is less than those on both sides, and its half wave: the
    parabola through the three, in logarithms.  At either end that one itself."""
    if not 0 < k < len(waves) - 1 or not np.isfinite(factors[k - 1 : k + 2]).all():
        return float(factors[k]), float(waves[k])
    a, b, c = np.polyfit(np.log(waves[k - 1 : k + 2] / waves[k]), np.log(factors[k - 1 : k + 2]), 2)
    return float(np.exp(c - b * b / (4.0 * a))), float(waves[k] * np.exp(-b / (2.0 * a)))


def _sheared_nodes(
    count: int, strips: np.ndarray, along: np.ndarray, soft: np.ndarray
) -> tuple[np.ndarray, np.ndarray]:
    """At which nodes all strips can shear and go on straight, (count,), and for both ends of each strip, (m, 2), if
    its way out is that of the first strip at the node, 1, or against it, −1."""
    sheared, signs = np.ones(count, bool), np.ones(strips.shape)
    for node in range(count):
        which, ends = np.nonzero(strips == node)
        straight = along[which] @ along[which[0]]
        sheared[node] = soft[which].all() and (np.abs(straight) > STRAIGHT).all()
        signs[which, ends] = np.where(straight < 0.0, -1.0, 1.0)
    return sheared, signs


def _turned(c: float, s: float, *signs: float) -> np.ndarray:
    """(10, 10) from along, y, z, turn and shear of both edges to along, across, out, turn and shear of a strip."""
    turn = np.zeros((2 * UNKNOWNS, 2 * UNKNOWNS))
    for end, sign in zip((0, UNKNOWNS), signs, strict=True):
        turn[end : end + 4, end : end + 4] = edge_turned(c, s)
        turn[end + 4, end + 4] = sign
    return turn
