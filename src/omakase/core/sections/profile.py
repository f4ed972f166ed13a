"""The mid-line of a strip's cross-section: flat, a shallow arc, or a hat; and the strip's section put together from it.

A strip keeps its cloth: its *width* is that of the flat cloth, measured along the mid-line.
"""

from __future__ import annotations

import itertools
from functools import cached_property, lru_cache
from typing import Literal

import msgspec
import numpy as np

from omakase.core.errors import MemberError, both_units
from omakase.core.plates.section import PlateSection

Shape = Literal["flat", "arched", "hat"]
ARC_POINTS, WALL_POINTS = 24, 4
STEEPEST_ARC = 60.0  # degrees at its sides


class Profile(msgspec.Struct, frozen=True):
    """Shape of the mid-line. ``rise`` of the arc or height of the hat; ``crown`` and ``flange``: widths of a hat's top
    and of each of its feet, m, at the strip's first end; elsewhere all scale with the width."""

    shape: Shape = "flat"
    rise: float = 0.0
    crown: float = 0.0
    flange: float = 0.0


class MidLine(msgspec.Struct, frozen=True, eq=False):
    """Points along the mid-line, each standing for ``share`` of the cloth's width.

    ``s`` from the middle and ``y`` across, ``z`` up from the lowest point, all over the width; ``cosine`` of the slope;
    ``wall`` the name of the part it lies on; ``span`` : width of the projected section over that of the cloth.
    """

    share: np.ndarray
    s: np.ndarray
    y: np.ndarray
    z: np.ndarray
    cosine: np.ndarray
    wall: tuple[str, ...]
    span: float

    @property
    def height(self) -> float:
        """Of the mid-line, over the width."""
        return float(self.z.max() - self.z.min())


@lru_cache(maxsize=256)
def mid_line(profile: Profile, width: float) -> MidLine:
    """The mid-line of a cloth ``width`` m wide.  Raises MemberError where it does not fit."""
    if profile.shape == "flat" or profile.rise == 0.0:
        zero = np.zeros(1)
        return MidLine(np.ones(1), zero, zero, zero, np.ones(1), ("",), 1.0)
    if not profile.rise > 0.0:
        raise MemberError("the rise of an arch or hat must be positive")
    return _arc(profile.rise / width) if profile.shape == "arched" else _hat(profile, width)


def _arc(rise: float) -> MidLine:
    """A circular arc of unit length that rises by ``rise``: its half angle ψ solves (1 − cos ψ)/(2ψ) = rise."""
    psi = np.linspace(1e-6, np.radians(STEEPEST_ARC), 4001)
    rises = (1.0 - np.cos(psi)) / (2.0 * psi)
    if rise > rises[-1]:
        raise MemberError(
            f"an arch that rises by more than {rises[-1]:.0%} of its cloth's width is no shallow arc: make it a hat"
        )
    half = float(np.interp(rise, rises, psi))
    from numpy.polynomial import legendre

    points, weights = legendre.leggauss(ARC_POINTS)
    points, weights = np.concatenate([[-1.0], points, [1.0]]), np.concatenate([[0.0], weights / 2.0, [0.0]])
    radius, angle = 1.0 / (2.0 * half), half * points
    z = radius * (np.cos(angle) - np.cos(half))
    return MidLine(weights, points / 2.0, radius * np.sin(angle), z, np.cos(angle), ("",) * len(points),
                   2.0 * radius * float(np.sin(half)))  # fmt: skip


def _hat(profile: Profile, width: float) -> MidLine:
    web = (width - profile.crown - 2.0 * profile.flange) / 2.0
    if not (profile.crown > 0.0 and profile.flange >= 0.0):
        raise MemberError("a hat needs a positive crown, and feet that are not negative")
    if web < profile.rise * (1.0 - 1e-9):
        raise MemberError(
            f"a hat {both_units(profile.rise)} high needs more cloth: crown, feet and two sides do not fit into "
            f"{both_units(width)}"
        )
    cosine = float(np.sqrt(max(0.0, 1.0 - (profile.rise / web) ** 2)))
    from numpy.polynomial import legendre

    points, weights = legendre.leggauss(WALL_POINTS)
    points, weights = np.concatenate([[-1.0], points, [1.0]]), np.concatenate([[0.0], weights, [0.0]])
    columns: dict[str, list] = {name: [] for name in ("share", "s", "y", "z", "cosine")}
    walls: list[str] = []
    s, y, z = -width / 2.0, -(profile.crown / 2.0 + web * cosine + profile.flange), 0.0
    for name, length, run, up in (
        ("foot", profile.flange, 1.0, 0.0),
        ("side", web, cosine, profile.rise / web),
        ("crown", profile.crown, 1.0, 0.0),
        ("side", web, cosine, -profile.rise / web),
        ("foot", profile.flange, 1.0, 0.0),
    ):
        if length > 0.0:
            part = (points + 1.0) / 2.0 * length
            columns["share"].append(weights / 2.0 * length)
            columns["s"].append(s + part)
            columns["y"].append(y + part * run)
            columns["z"].append(z + part * up)
            columns["cosine"].append(np.full(len(points), run))
            walls += [name] * len(points)
        s, y, z = s + length, y + length * run, z + length * up
    table = {name: np.concatenate(parts) for name, parts in columns.items()}
    return MidLine(table["share"] / width, table["s"] / width, table["y"] / width, table["z"] / width, table["cosine"],
                   tuple(walls), -2.0 * float(table["y"][0]) / width)  # fmt: skip


def corners_of(line: MidLine, parts: int) -> tuple[np.ndarray, tuple[str, ...]]:
    """Corners (n, 2) y and z over the width of straight pieces along a mid-line, and the name of the wall of each:
    ``parts`` to a wall of a hat, four times as many to an arc."""
    if len(line.share) == 1:
        return np.column_stack([np.linspace(-0.5, 0.5, parts + 1), np.zeros(parts + 1)]), ("",) * parts
    turns = [k for k in range(len(line.s) - 1) if line.wall[k] != line.wall[k + 1]]
    if not turns:
        half = float(np.arccos(line.cosine[0]))  # slope at the ends of an arc
        turn = np.linspace(-half, half, 4 * parts + 1)
        return np.column_stack([np.sin(turn), np.cos(turn) - np.cos(half)]) / (2.0 * half), ("",) * (4 * parts)
    at = [0, *turns, len(line.s) - 1]
    ends = np.column_stack([line.y, line.z])[at]
    share = np.linspace(0.0, 1.0, parts + 1)[:-1, None]
    pieces = [a + share * (b - a) for a, b in itertools.pairwise(ends)]
    names = [line.wall[k] for k in at[1:] for _ in range(parts)]
    return np.concatenate([*pieces, ends[-1:]]), tuple(names)


class StripWall:
    """A plate section as a narrow or wide strip: its stiffness along x; the other strains follow from it.

    ``stiffness`` : (4, 4) in (ε_x, κφ_x, κw_x, γ_x) per width; ``recover`` : (9, 4) the generalised strains that go
    with them; ``shear_recover`` : (2,) both transverse shear strains per γ_x.

    *Narrow*: N_y = N_xy = M_y = M_xy = 0, the section free to bend across and to twist (1/d11).  *Wide*: N_y = N_xy = 0
    but no curvature across and no twist (D11).  *Held*: a share of the way from narrow to no curvature across.
    *Twisting*: narrow, with the twist κ_xy as a fifth strain that the member says, since what holds it across its width
    holds its twist.  Both faces of a sandwich bend across alike.
    """

    def __init__(self, section: PlateSection, wide: bool, twisting: bool = False, held: float = 0.0) -> None:
        self.section, self.wide, self.twisting = section, wide, twisting
        C = section.membrane
        own = [0, 1, 2, 4] if twisting else [0, 1, 2]  # κ_xy is the last
        given = np.zeros((9, 4))
        given[[0, 3, 6], [0, 1, 2]] = given[[5, 8], 3] = 1.0
        follows = np.zeros((9, 4))
        follows[1, 0] = follows[2, 1] = 1.0
        follows[[4, 7], 2] = follows[[5, 8], 3] = 1.0
        given = given[:, : len(own)]
        free = [0, 1] if wide else [0, 1, 2] if twisting else [0, 1, 2, 3]
        recover = (1.0 - held) * _recovered(C, given, follows[:, free])
        if held:
            recover = recover + held * _recovered(C, given, follows[:, [k for k in free if k != 2]])
        count = 5 if twisting else 4
        self.recover = np.zeros((9, count))
        self.recover[:, own] = recover
        S = section.shear
        other = 0.0 if wide else -float(S[0, 1] / S[1, 1])
        self.shear_recover = np.array([1.0, other])
        self.stiffness = np.zeros((count, count))
        self.stiffness[np.ix_(own, own)] = given.T @ C @ recover
        self.stiffness[3, 3] = float(self.shear_recover @ S @ self.shear_recover)

    @property
    def twists(self) -> float:
        """Share of its bending stiffness that a strip loses where it may twist as it bends; 0 without off-axis plies.
        Of one that is twisting."""
        bent, both, turned = self.stiffness[1:3, 1:3].sum(), self.stiffness[1:3, 4].sum(), self.stiffness[4, 4]
        return float(both**2 / (bent * turned))


def _recovered(C: np.ndarray, given: np.ndarray, follows: np.ndarray) -> np.ndarray:
    """Strains per given ones where those in ``follows`` are free: (9, given)."""
    return np.asarray(given - follows @ np.linalg.solve(follows.T @ C @ follows, follows.T @ C @ given))


class StripSection:
    """The whole section of a strip over its width's scale.

    Strains of the member: ε of the lowest point of the mid-line, κφ = φ,x, κw = −w,xx, γ = φ + w,x.  A place of the
    mid-line at height z and slope β sees ε + z κw, κφ cos β, κw cos β, γ cos β: the mid-line itself does not shear, the
    wall does.  ``offset`` : how far above the member's reference the stack's own middle lies, m, where layers end along
    the span and all lie flush on face B; it sees ε + offset κφ.  ``kept`` : share of the bending stiffness that its
    height gives, where the section flattens as it bends.
    """

    def __init__(self, wall: StripWall, line: MidLine, offset: float = 0.0, kept: float = 1.0) -> None:
        self.wall, self.line, self.offset, self.kept = wall, line, offset, kept
        self.bent = len(line.share) > 1

    @cached_property
    def heights(self) -> np.ndarray:
        """Of the places of the mid-line over the width, as far from their mean as the section keeps them."""
        mean = float(self.line.share @ self.line.z)
        return np.asarray(mean + self.kept**0.5 * (self.line.z - mean))

    def maps(self, width: float) -> np.ndarray:
        """Strains of the wall at each place of the mid-line from those of the member: (places, 4, 4)."""
        line, count = self.line, len(self.wall.stiffness)
        T = np.zeros((len(line.share), count, count))
        T[:, 0, 0] = 1.0
        T[:, 0, 1] = self.offset
        T[:, 0, 2] = self.heights * width
        for i in range(1, count):
            T[:, i, i] = line.cosine
        return T

    def stiffness(self, width: float) -> np.ndarray:
        """(4, 4), of a twisting one (5, 5): N, N m, N m², N, N m of the strip ``width`` m wide."""
        T = self.maps(width)
        return width * np.einsum("p,pji,jk,pkl->il", self.line.share, T, self.wall.stiffness, T)

    def axial(self, width: float) -> float:
        """EA in N, free to bend."""
        return float(1.0 / np.linalg.inv(self._plain(width))[0, 0])

    def bending(self, width: float) -> float:
        """EI in N m² about the neutral axis, without shear."""
        return float(1.0 / np.linalg.inv(self._plain(width))[1, 1])

    def _plain(self, width: float) -> np.ndarray:
        """Stiffness in (ε, κ) where plane sections stay plane, κφ = κw, and in κ_xy of one that is twisting."""
        tie = np.zeros((len(self.wall.stiffness), len(self.wall.stiffness) - 2))
        tie[0, 0] = tie[1, 1] = tie[2, 1] = 1.0
        tie[4:, 2:] = np.eye(len(tie) - 4)
        return tie.T @ self.stiffness(width) @ tie
