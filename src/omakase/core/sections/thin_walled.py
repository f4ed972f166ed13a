"""Sections of thin walls, open or closed, of one cell or several: mid-lines with a laminate each.

Axes: x along the member, z up, y to the right of who looks along x.  A wall runs along s from node to node; its face A
lies to the left of that way in this view, so that x, s and the way to face A lie as x, y and z of a plate do.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property, lru_cache

import msgspec
import numpy as np

from omakase.core.errors import MemberError
from omakase.core.plates.section import PlateSection
from omakase.core.sections.cylinder import wall_stiffness

FORCES = ("N", "T", "My", "Mz", "Vz", "Vy")
LOCAL = 4  # warping of a piece: its two ends and two bubbles, so that shear flow may be a parabola
POINTS, WEIGHTS = np.polynomial.legendre.leggauss(4)
SAMPLED = np.array([-1.0, 0.0, 1.0])  # where strains of a piece are looked at
SIMPSON = np.array([1.0, 4.0, 1.0]) / 6.0


class WallLaw(msgspec.Struct, frozen=True, eq=False):
    """What a wall does with no force and no moment along s: N_s = 0, M_s = 0.

    ``stiffness`` : (4, 4) in (ε_x, γ_xs, κ_x, κ_xs), N/m, N, N m.  ``follow`` : (2, 4) ε_s and κ_s that go with them.
    """

    stiffness: np.ndarray
    follow: np.ndarray


def wall_law(plate: PlateSection) -> WallLaw:
    """The law of a laminate, or of a sandwich whose faces bend together (Kollár and Springer 2003, chapter 6)."""
    A, B, D = wall_stiffness(plate)
    C = np.block([[A, B], [B.T, D]])
    kept, free = [0, 2, 3, 5], [1, 4]
    follow = -np.linalg.solve(C[np.ix_(free, free)], C[np.ix_(free, kept)])
    return WallLaw(C[np.ix_(kept, kept)] + C[np.ix_(kept, free)] @ follow, follow)


class MidLines(msgspec.Struct, frozen=True, eq=False, dict=True):
    """Straight pieces between nodes, of sections alike in their make-up at a number of stations.

    ``nodes`` : (stations, n, 2) y and z in m; ``pieces`` : (k, 2) nodes they join; ``walls`` : (k,) which wall each
    belongs to.  Raises MemberError where a piece has no length or the pieces are not connected.
    """

    nodes: np.ndarray
    pieces: np.ndarray
    walls: np.ndarray

    def __post_init__(self) -> None:
        size = np.abs(self.nodes - self.nodes.mean(axis=1, keepdims=True)).max(axis=(1, 2))
        short = np.nonzero((self.lengths <= 1e-6 * size[:, None]).any(axis=0))[0]
        if len(short):
            raise MemberError(f"piece {short[0] + 1} of the section has no length: two of its points are the same")
        if not _connected(self.pieces.astype(np.int64).tobytes()):
            raise MemberError("the walls of the section are not connected")

    @cached_property
    def lengths(self) -> np.ndarray:
        """(stations, k) m."""
        return np.hypot(*np.moveaxis(self._along, -1, 0))

    @cached_property
    def tangents(self) -> np.ndarray:
        """(stations, k, 2), 1."""
        return self._along / self.lengths[..., None]

    @property
    def _along(self) -> np.ndarray:
        return self.nodes[:, self.pieces[:, 1]] - self.nodes[:, self.pieces[:, 0]]

    def at(self, points: np.ndarray) -> np.ndarray:
        """y and z of places −1 to 1 on each piece: (stations, k, points, 2)."""
        share = (points[:, None] + 1.0) / 2.0
        return self.nodes[:, self.pieces[:, 0], None] + share * self._along[:, :, None]

    def through(self, pieces: Sequence[int]) -> list[int]:
        """The nodes that a run of pieces goes through, from its start to its end."""
        return [int(self.pieces[pieces[0], 0]), *(int(self.pieces[piece, 1]) for piece in pieces)]

    @property
    def cells(self) -> int:
        """How many closed cells there are (Euler: pieces − nodes + 1)."""
        return len(self.pieces) - len(np.unique(self.pieces)) + 1


@lru_cache(maxsize=256)
def _connected(pieces: bytes) -> bool:
    """Whether pieces, pairs of nodes as 64-bit numbers, are connected; kept, since edits seldom change them."""
    left = {tuple(pair) for pair in np.frombuffer(pieces, np.int64).reshape(-1, 2).tolist()}
    reached = set(next(iter(left)))
    while more := {pair for pair in left if reached & set(pair)}:
        reached |= {node for pair in more for node in pair}
        left -= more
    return not left


class ThinWalled:
    """Stiffness of sections and the strains of their walls, at each station of their mid-lines.

    Strains of the member: ε, θ,x, φy,x, φz,x, γ_z = w,x + φy, γ_y = v,x + φz of the reference point y = z = 0, with
    u = u₀ + z φy + y φz + warping; θ turns z toward y.  Forces that go with them: N, T, My, Mz, Vz, Vy.

    The section keeps its shape, apart from the strain across that N_s = 0 gives, and warps along x.  Warping u(s) is a
    cubic on each straight piece.  Constant forces, and shear forces whose moment grows along x, each have a solution in
    which strains and warping are constant or grow linearly: the central solutions of Giavotto and others, Computers &
    Structures 16 (1983) 403.  Their energy per length is the compliance; open parts and closed cells, couplings of
    laminates, shear flow and shear stiffness all follow from it.  Taper along x and restrained warping are not
    included.

    The mid-line represents the wall: corners of thick walls are counted twice, and the torsional stiffness of a box
    reads low by about a third of wall over height (checked against Saint-Venant's solution).

    ``walls`` : (walls, 4, 4) or, where they change along, (stations, walls, 4, 4) stiffness as of ``WallLaw``.
    ``compliance`` : (stations, 6, 6).
    """

    def __init__(self, lines: MidLines, walls: np.ndarray) -> None:
        self.lines = lines
        self._half = lines.lengths / 2.0
        k = len(lines.pieces)
        # nodes that pieces join, then the bubbles
        nodes, numbers = np.unique(lines.pieces, return_inverse=True)
        self._joined = joined = len(nodes)
        self._unknowns = joined + 2 * k
        self._dofs = np.concatenate([numbers.reshape(k, 2), joined + np.arange(2 * k).reshape(k, 2)], axis=1)
        self._K = np.broadcast_to(walls[..., lines.walls, :, :], (len(lines.nodes), k, 4, 4))
        self._solve()

    # --- the equations ----------------------------------------------------------------------------------------

    def _columns(self, local: np.ndarray) -> np.ndarray:
        """The sum over pieces of (stations, k, local, m): (stations, unknowns, m)."""
        full = np.zeros((len(local), self._unknowns, local.shape[-1]))
        np.add.at(full, np.s_[:, self._dofs], local)  # type: ignore[arg-type]
        return full

    def _of_nodes(self, local: np.ndarray) -> np.ndarray:
        """The sum over pieces of (stations, k, 2, 2) of their ends: (stations, nodes, nodes)."""
        ends, count, stations = self._dofs[:, :2], self._joined, len(local)
        places = (ends[:, :, None] * count + ends[:, None, :]).ravel()
        every = (np.arange(stations)[:, None] * count**2 + places).ravel()
        return np.bincount(every, local.ravel(), stations * count**2).reshape(stations, count, count)

    def _solve(self) -> None:
        K, S = self._K, self.rigid(POINTS)
        weights = self._half[..., None] * WEIGHTS
        # warping: γ gains u,s and ε gains u,x
        slope = _shape_slopes(POINTS) / self._half[..., None, None]
        value = np.broadcast_to(_shapes(POINTS), slope.shape)
        slope_work, value_work = (part.swapaxes(2, 3) * weights[:, :, None] for part in (slope, value))
        KS = K[:, :, None] @ S
        # of each piece, (stations, k, 4, 4)
        E = K[..., 1, 1, None, None] * (slope_work @ slope)
        C = K[..., 0, 1, None, None] * (slope_work @ value)
        M = K[..., 0, 0, None, None] * (value_work @ value)
        R, L = self._columns(slope_work @ KS[..., 1, :]), self._columns(value_work @ KS[..., 0, :])
        A = (S.swapaxes(3, 4) @ (KS * weights[..., None, None])).sum(axis=(1, 2))
        # the warping has no mean and does not turn the section: those are strains of the member
        y, z = np.moveaxis(self.lines.at(POINTS), -1, 0)
        D = self._columns(value_work @ np.stack([np.ones_like(y), z, y], axis=-1))
        stations, n = len(E), self._unknowns
        bubbles = np.einsum("skii->ski", E)[..., 2:].reshape(stations, -1)
        solve = _Solver(self._of_nodes(E[..., :2, :2]), bubbles, R, A, D)
        right = np.zeros((stations, n + 6, 6))
        right[:, n + 2, 4] = right[:, n + 3, 5] = 1.0  # moments grow with their shear: My' = Vz, Mz' = Vy
        growing = solve(right)
        dX, dY = growing[:, :n], growing[:, n:]
        right = np.zeros((stations, n + 6, 6))
        on_pieces = dX[:, self._dofs]
        right[:, :n] = self._columns((C.swapaxes(2, 3) - C) @ on_pieces) + L @ dY
        right[:, n:] = np.eye(6) - L.swapaxes(1, 2) @ dX
        steady = solve(right)
        X, Y = steady[:, :n], steady[:, n:]
        moved = X[:, self._dofs]
        pieces = moved.swapaxes(2, 3) @ (E @ moved + C @ on_pieces)
        pieces += on_pieces.swapaxes(2, 3) @ (C.swapaxes(2, 3) @ moved + M @ on_pieces)
        work = X.swapaxes(1, 2) @ R + dX.swapaxes(1, 2) @ L
        energy = pieces.sum(axis=1) + work @ Y + Y.swapaxes(1, 2) @ (work.swapaxes(1, 2) + A @ Y)
        self.compliance = (energy + energy.swapaxes(1, 2)) / 2.0
        self._strains = Y
        self._warping, self._growing = X, dX

    def rigid(self, points: np.ndarray) -> np.ndarray:
        """(ε_x, γ_xs, κ_x, κ_xs) of walls per strain of the member without warping: (stations, k, points, 4, 6)."""
        y, z = np.moveaxis(self.lines.at(points), -1, 0)
        ty, tz = np.moveaxis(self.lines.tangents[:, :, None], -1, 0)
        S = np.zeros((*y.shape, 4, 6))
        S[..., 0, 0], S[..., 0, 2], S[..., 0, 3] = 1.0, z, y
        S[..., 1, 1] = z * ty - y * tz
        S[..., 1, 4], S[..., 1, 5] = tz, ty
        S[..., 2, 2], S[..., 2, 3] = ty, -tz  # the way to face A is (−tz, ty)
        S[..., 3, 1] = 2.0
        return S

    # --- answers ----------------------------------------------------------------------------------------------

    @cached_property
    def stiffness(self) -> np.ndarray:
        """(stations, 6, 6)."""
        return np.linalg.inv(self.compliance)

    @cached_property
    def strain_maps(self) -> np.ndarray:
        """(ε_x, γ_xs, κ_x, κ_xs) at both ends and the middle of each piece per force of the section:
        (stations, k, 3, 4, 6)."""
        maps = self.rigid(SAMPLED) @ self._strains[:, None, None]
        slope = _shape_slopes(SAMPLED) / self._half[..., None, None]
        maps[..., 1, :] += slope @ self._warping[:, self._dofs]
        maps[..., 0, :] += _shapes(SAMPLED) @ self._growing[:, self._dofs]
        return maps

    @cached_property
    def flows(self) -> np.ndarray:
        """(N_x, N_xs), N/m, at both ends and the middle of each piece per force: (stations, k, 3, 2, 6)."""
        return self._K[:, :, None, :2] @ self.strain_maps

    @cached_property
    def turning(self) -> np.ndarray:
        """W = ∫ N_x (y² + z²) ds in N m² per force of the section, about its reference: (stations, 6)."""
        square = (self.lines.at(SAMPLED) ** 2).sum(axis=-1)  # N_x is about linear on a piece: Simpson is exact
        weights = square * SIMPSON * self.lines.lengths[..., None]
        return np.einsum("skp,skpf->sf", weights, self.flows[..., 0, :])

    @property
    def axial(self) -> np.ndarray:
        """EA in N, free to bend and twist: (stations,)."""
        return 1.0 / self.moved(*self.tension_centre)[:, 0, 0]

    @property
    def torsion(self) -> np.ndarray:
        """GJ in N m², free to lengthen, bend and warp: (stations,)."""
        return 1.0 / self.compliance[:, 1, 1]

    @property
    def bending(self) -> np.ndarray:
        """Stiffness in N m² about y and z of the tension centre, free to twist and lengthen: (stations, 2, 2)."""
        return np.linalg.inv(self.compliance[:, 2:4, 2:4])

    @cached_property
    def tension_centre(self) -> tuple[np.ndarray, np.ndarray]:
        """y and z in m, (stations,), at which a pull does not bend."""
        F = self.compliance
        about = np.linalg.solve(F[:, 2:4, 2:4], -F[:, 2:4, 0, None])[..., 0]
        return about[:, 1], about[:, 0]

    @property
    def shear_centre(self) -> tuple[np.ndarray, np.ndarray]:
        """y and z in m, (stations,), at which a shear force does not twist: T = Vy z − Vz y of a force at (y, z)."""
        F = self.compliance
        return F[:, 1, 4] / F[:, 1, 1], -F[:, 1, 5] / F[:, 1, 1]

    @cached_property
    def warping(self) -> np.ndarray:
        """Warping stiffness EI_ω in N m⁴ about the shear centre (Vlasov): (stations,)."""
        weights = (self._half * self._K[..., 0, 0])[..., None] * WEIGHTS
        warped = (_shapes(POINTS) @ self._warping[:, self._dofs, 1, None])[..., 0] / self.compliance[
            :, 1, 1, None, None
        ]
        y, z = np.moveaxis(self.lines.at(POINTS), -1, 0)
        plane = np.stack([np.ones_like(y), y, z], axis=-1).reshape(len(y), -1, 3)
        weights, warped = weights.reshape(len(y), -1), warped.reshape(len(y), -1)
        weighted = plane.swapaxes(1, 2) * weights[:, None]
        rigid = np.linalg.pinv(weighted @ plane) @ (weighted @ warped[..., None])
        return (weights * (warped - (plane @ rigid)[..., 0]) ** 2).sum(axis=1)

    def moved(self, y: np.ndarray, z: np.ndarray) -> np.ndarray:
        """The compliance (stations, 6, 6) for forces that act at other reference points (stations,)."""
        carried = np.broadcast_to(np.eye(6), self.compliance.shape).copy()
        carried[:, 2, 0], carried[:, 3, 0] = z, y
        carried[:, 1, 4], carried[:, 1, 5] = -y, z
        return carried.swapaxes(1, 2) @ self.compliance @ carried


class _Solver:
    """The warping and the member's strains at stations, from what does work on both; factored once.

    ``nodes`` (stations, p, p) of the warping where pieces join and ``bubbles`` (stations, 2 k) of that between, ``R``
    (stations, p + 2 k, 6) of it with the strains, ``A`` (stations, 6, 6) of those; ``D`` (stations, p + 2 k, 3) is kept
    from moving.  The bubbles have nothing to do with each other nor with the nodes (their slopes have no mean, and one
    is even where the other is odd): each is put into the strains and what is kept, and only the nodes are solved for.
    """

    def __init__(self, nodes: np.ndarray, bubbles: np.ndarray, R: np.ndarray, A: np.ndarray, D: np.ndarray) -> None:
        from scipy.linalg.lapack import dgetrf  # slow to import

        (stations, joined), held = nodes.shape[:2], np.concatenate([R, D], axis=2)
        self._joined, self._count = joined, joined + bubbles.shape[1]
        self._soft = 1.0 / bubbles[..., None]
        self._bubbles = self._soft * held[:, joined:]
        size = joined + 9
        system = np.zeros((stations, size, size))
        system[:, :joined, :joined] = nodes
        system[:, :joined, joined:] = held[:, :joined]
        system[:, joined:, :joined] = held[:, :joined].swapaxes(1, 2)
        system[:, joined:, joined:] = -held[:, joined:].swapaxes(1, 2) @ self._bubbles
        system[:, joined : joined + 6, joined : joined + 6] += A
        # scaled, so that displacements, strains and turns are of one size
        stiff = np.concatenate([np.einsum("sii->si", nodes), np.einsum("sii->si", A)], axis=1)
        self._scale = np.empty((stations, size, 1))
        self._scale[:, : joined + 6, 0] = 1.0 / np.sqrt(np.maximum(stiff, 1e-300))
        self._scale[:, joined + 6 :, 0] = np.sqrt(stiff[:, :joined].max(axis=1))[:, None] / np.abs(D).max(axis=1)
        self._factors = [dgetrf(matrix)[:2] for matrix in self._scale * system * self._scale.swapaxes(1, 2)]

    def __call__(self, right: np.ndarray) -> np.ndarray:
        """Solutions for right sides (stations, p + 2 k + 6, m) of the warping and the strains."""
        from scipy.linalg.lapack import dgetrs

        joined, count = self._joined, self._count
        own = right[:, joined:count]
        small = np.zeros((len(right), joined + 9, right.shape[2]))
        small[:, :joined], small[:, joined : joined + 6] = right[:, :joined], right[:, count:]
        small[:, joined:] -= self._bubbles.swapaxes(1, 2) @ own
        scaled = self._scale * small
        found = self._scale * np.array([dgetrs(*f, load)[0] for f, load in zip(self._factors, scaled, strict=True)])
        bubbles = self._soft * own - self._bubbles @ found[:, joined:]
        return np.concatenate([found[:, :joined], bubbles, found[:, joined : joined + 6]], axis=1)


def _shapes(points: np.ndarray) -> np.ndarray:
    """Ends and bubbles at places −1 to 1: (points, 4)."""
    t = points
    return np.stack([(1.0 - t) / 2.0, (1.0 + t) / 2.0, 1.0 - t * t, t * (1.0 - t * t)], axis=-1)


def _shape_slopes(points: np.ndarray) -> np.ndarray:
    t = points
    return np.stack([-np.ones_like(t) / 2.0, np.ones_like(t) / 2.0, -2.0 * t, 1.0 - 3.0 * t * t], axis=-1)
