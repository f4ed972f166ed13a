"""Ribs on a panel: straight beams of laminate bonded to one of its faces along a line.

Its feet are laminates that follow their face in all directions, over their width.  Its other walls follow it along the
lines where they stand: their strain varies linearly from that of the face, they shear as a beam does whose deflection
is half a wave (Timoshenko), they twist with the face, and have no force and no moment across (N_s = 0).  Of a hat or a
bead the lines are where its sides begin.  A bead formed into the sheet takes away what the flat sheet carried along it,
and in the plane across it.  Compared with bricks: deflections within 2 %, of formed beads 5 % too small.  Not counted:
that a rib rolls over and bends sideways.

Feet are read along their middles: at their root, on the line where a wall stands, a plate bends without bound.  About
ends that no edge holds, half a foot and at least the panel's thickness, neither rib nor panel is read.  The shear of
the bond is a mean over the rib's height or the width of the bond, the longer of them.
"""

from __future__ import annotations

from functools import cached_property
from itertools import pairwise
from typing import Literal

import msgspec
import numpy as np

from omakase.core.errors import PanelError, both_units
from omakase.core.laminate.stack import Stack
from omakase.core.members.field import SPOTS, Acting, Place, WallField
from omakase.core.plates.section import PlateSection
from omakase.core.sections.cylinder import axial_buckling, knock_down, wall_stiffness
from omakase.core.sections.long_plates import long_plate
from omakase.core.sections.thin_walled import wall_law

RibOutline = Literal["strip", "blade", "tee", "hat", "triangle", "half_round"]
CLOSED, BEADS = ("hat", "triangle", "half_round"), ("triangle", "half_round")
FACETS = 16  # straight walls that stand for a round one
MOST_RIBS = 24
RIB = "rib"  # the wall that all ribs share
UPRIGHT = ("web", "blade", "side", "round")
CLOSING = ("side", "crown", "round")
ACROSS = np.array([0.0, 0.5, 1.0])  # shares of a piece where its strains are looked at
SLENDER = 5.0  # heights, below which a rib is no beam
FEET = ("foot", "strip")  # pieces that lie on the face
OPEN_TOP = 5.0 / 6.0  # of the shear stiffness of a wall whose shear flow falls to nothing at its top: a parabola

# strains of ``rib_energies.rib_strains``: along at the face, curvature along, twist, across at the face, shear,
# curvature across, and twice the twist of the deflection; which of them a foot has, in the order of ``RibBeam.foot``
FOOT = [0, 3, 4, 1, 5, 6]


class Rib(msgspec.Struct, frozen=True):
    """A rib along x or y at ``place`` m, from ``low`` to ``high`` m; sizes in m.

    ``outline`` : a strip of ``width``; a blade of ``height`` with a foot of ``foot`` to either side, 0 for none; a tee,
    whose blade has a flange of ``width``; a hat of ``width`` between its feet and ``crown`` on top, with feet of
    ``foot``; a triangle, or the arc of a circle, of ``width`` and ``height``, with such feet.  Heights count from the
    face.  ``on_a`` : bonded to face A, else to face B.  ``filling`` : kg/m³ of what a hat is laid over.

    ``formed`` : a bead, a triangle or arc into which the sheet itself is formed, so that it is open below.
    """

    along_x: bool
    place: float
    low: float
    high: float
    outline: RibOutline = "hat"
    height: float = 0.02
    width: float = 0.03
    crown: float = 0.015
    foot: float = 0.015
    on_a: bool = False
    filling: float = 0.0
    formed: bool = False

    def check(self, length: float, width: float, number: int) -> None:
        """Raises PanelError, which names the rib by its ``number``, where it is off the panel or has no shape."""
        along, across = (length, width) if self.along_x else (width, length)
        name = f"rib {number}"
        if not 0.0 <= self.place <= across:
            raise PanelError(f"{name} at {both_units(self.place)} is off the panel of {both_units(length, width)}")
        if not -1e-9 <= self.low < self.high <= along * (1.0 + 1e-9):
            raise PanelError(f"{name} must end further on than it begins, and on the panel")
        if self.outline != "strip" and not 0.0 < self.height <= min(length, width):
            raise PanelError(f"{name} needs a height, of at most the panel's shorter side")
        if self.outline != "blade" and not 0.0 < self.width <= across:
            raise PanelError(f"{name} needs a width")
        if self.outline == "hat" and not 0.0 < self.crown <= 3.0 * self.width:
            raise PanelError(f"{name} needs a crown, of at most three times its width between the feet")
        if self.outline == "half_round" and self.height > 0.5001 * self.width:
            raise PanelError(f"{name} is higher than half its width: no arc of a circle has such a height")
        if self.foot < 0.0 or self.filling < 0.0:
            raise PanelError(f"the foot of {name} has a negative size")


class Ribbed(msgspec.Struct, frozen=True, eq=False):
    """A rib with the ``stack`` of its walls; ``rows`` : which of all the panel's layers these are, empty for all."""

    rib: Rib
    stack: Stack
    rows: tuple[int, ...] = ()


class Piece(msgspec.Struct, frozen=True):
    """A straight wall of a rib from (y, ζ) to (y, ζ), m: across it, and above the face it is bonded to.

    ``free`` : whether one of its long edges is free.
    """

    name: str
    start: tuple[float, float]
    end: tuple[float, float]
    free: bool = False

    @property
    def length(self) -> float:
        return float(np.hypot(self.end[0] - self.start[0], self.end[1] - self.start[1]))


def _moments(piece: Piece, own: np.ndarray) -> np.ndarray:
    """EA, ES and EI about the face, (2, 2), of a wall whose stiffness per width is ``own``."""
    (y0, low), (y1, high) = piece.start, piece.end
    length, flat = piece.length, abs(y1 - y0) / piece.length
    first, second = (low + high) / 2.0, (low * low + low * high + high * high) / 3.0
    found = own[0, 0] * length * np.array([[1.0, first], [first, second]])
    # a flat wall bends with the rib; face A of its laminate lies away from the panel
    found += length * flat * own[0, 1] * np.array([[0.0, 1.0], [1.0, 2.0 * first]])
    found[1, 1] += own[1, 1] * length * flat**2
    return found


def rib_pieces(rib: Rib, thickness: float) -> tuple[Piece, ...]:
    """Mid-lines of a rib's walls of a ``thickness`` in m.  Raises PanelError where they leave no room."""
    half = thickness / 2.0
    if rib.outline in BEADS:
        return _bead(rib, thickness)
    if rib.outline == "strip":
        return (Piece("strip", (-rib.width / 2.0, half), (rib.width / 2.0, half)),)
    top = rib.height - half
    if top <= thickness:
        raise PanelError(f"a rib of {both_units(rib.height)} has no room for walls of {both_units(thickness)}")
    if rib.outline == "hat":
        base, crown = rib.width / 2.0, rib.crown / 2.0
        feet = [Piece("foot", (side * base, half), (side * (base + rib.foot), half)) for side in (-1.0, 1.0)]
        sides = [Piece("side", (side * base, half), (side * crown, top)) for side in (-1.0, 1.0)]
        return (*(feet if rib.foot else ()), *sides, Piece("crown", (-crown, top), (crown, top)))
    low = half if rib.foot else 0.0
    feet = [Piece("foot", (0.0, half), (side * rib.foot, half)) for side in (-1.0, 1.0)] if rib.foot else []
    if rib.outline == "blade":
        return (*feet, Piece("blade", (0.0, low), (0.0, rib.height), free=True))
    flange = [Piece("flange", (0.0, top), (side * rib.width / 2.0, top), free=True) for side in (-1.0, 1.0)]
    return (*feet, Piece("web", (0.0, low), (0.0, top)), *flange)


def _bead(rib: Rib, thickness: float) -> tuple[Piece, ...]:
    """Mid-lines of a triangle or an arc; of one that is formed they begin at the middle of the sheet."""
    half = thickness / 2.0
    low, top = -half if rib.formed else half, rib.height - half
    if top - low <= thickness:
        raise PanelError(f"a rib of {both_units(rib.height)} has no room for walls of {both_units(thickness)}")
    base, rise = rib.width / 2.0, top - low
    foot = 0.0 if rib.formed else rib.foot
    feet = [Piece("foot", (side * base, low), (side * (base + foot), low)) for side in (-1.0, 1.0)] if foot else []
    if rib.outline == "triangle":
        return (*feet, *(Piece("side", (side * base, low), (0.0, top)) for side in (-1.0, 1.0)))
    radius = arc_radius(rib.width, rise)
    reach = np.arctan2(base, radius - rise)
    at = np.linspace(-reach, reach, FACETS + 1)
    y, z = radius * np.sin(at), top - radius + radius * np.cos(at)
    ends = [(float(a), float(b)) for a, b in zip(y, z, strict=True)]
    return (*feet, *(Piece("round", start, end) for start, end in pairwise(ends)))


def arc_radius(width: float, height: float) -> float:
    """Of a circle's arc over a chord, m."""
    return (width**2 / 4.0 + height**2) / (2.0 * height)


class RibBeam:
    """A rib of one laminate in all its walls.  ``skin`` : in-plane shear stiffness in N/m of the face below a hat.

    ``stiffness`` : (3, 3) in the strain at the face, the curvature away from it and the twist per length: EA, ES, EI
    about the face and GJ, N, N m, N m²; ``standing`` : of the walls other than feet.  ``mass`` : kg/m.  ``wave`` : m of
    half a wave of the deflection along it; infinite where its shear is not counted.
    """

    def __init__(
        self, rib: Rib, plate: PlateSection, skin: float, rows: tuple[int, ...] = (), wave: float = np.inf
    ) -> None:  # fmt: skip
        self.rib, self.plate, self.rows, self.wave = rib, plate, rows, wave
        self.pieces = rib_pieces(rib, plate.stack.thickness)
        law = wall_law(plate)
        self._follow = law.follow
        kept, other = [0, 2], [1, 3]
        free = np.linalg.solve(law.stiffness[np.ix_(other, other)], law.stiffness[np.ix_(other, kept)])
        own = law.stiffness[np.ix_(kept, kept)] - law.stiffness[np.ix_(kept, other)] @ free
        self._others = -free
        self.axial = own[0, 0]
        self.standing, feet = np.zeros((3, 3)), np.zeros((3, 3))
        for piece in self.pieces:
            (feet if piece.name in FEET else self.standing)[:2, :2] += _moments(piece, own)
        self._sheared, self._closed = float(law.stiffness[1, 1]), 0.0
        lying = sum(piece.length for piece in self.pieces if piece.name in FEET)  # m of feet
        developed = sum(piece.length for piece in self.pieces) - (rib.width if rib.formed else 0.0)
        feet[2, 2] = 4.0 * law.stiffness[3, 3] * lying
        twist = 4.0 * law.stiffness[3, 3] * (developed - lying)
        if rib.outline in CLOSED and not rib.formed:
            closed = [piece.length for piece in self.pieces if piece.name in CLOSING]
            flow = sum(closed) / law.stiffness[1, 1] + rib.width / skin
            self._closed = 2.0 * self.enclosed / flow  # shear flow per twist (Bredt)
            twist += 2.0 * self.enclosed * self._closed
        self.standing[2, 2] = twist
        self.stiffness = self.standing + feet
        self.mass = developed * plate.areal_mass + rib.filling * (self.enclosed if rib.outline in CLOSED else 0.0)

    @cached_property
    def shear_turn(self) -> np.ndarray:
        """(2,) by how much the sections curve less than the deflection does, per strain at the face and curvature.

        They stay plane; their curvature κ + q is that of least energy with G A (L/π)² q² for the shear of the upright
        walls: q = −c·(ε, κ)/(EI + G A L²/π²), c = (ES, EI).  A shear flow that is the same all the way up gives
        G A = G t (Σ rise)²/Σ length of the upright walls, one that falls to nothing 5/6 of it.
        """
        upright = [piece for piece in self.pieces if piece.name in UPRIGHT]
        if not upright or not np.isfinite(self.wave):
            return np.zeros(2)
        rise = sum(abs(piece.end[1] - piece.start[1]) for piece in upright)
        stiffness = self._sheared * rise**2 / sum(piece.length for piece in upright)
        stiffness *= 1.0 if self.rib.outline in ("hat", "tee") else OPEN_TOP
        turned = self.standing[:2, 1]
        return np.asarray(turned / (turned[1] + stiffness * (self.wave / np.pi) ** 2))

    @cached_property
    def sheared(self) -> np.ndarray:
        """``standing`` with the shear of its upright walls: C − c cᵀ/(EI + G A L²/π²)."""
        found = self.standing.copy()
        found[:2, :2] -= np.outer(self.standing[:2, 1], self.shear_turn)
        return found

    @cached_property
    def foot(self) -> np.ndarray:
        """(6, 6) stiffness of a foot per m² in the strains (along, across, shear) at the face and the curvatures away
        from it, N/m, N, N m."""
        A, B, D = wall_stiffness(self.plate)
        z = self.plate.stack.thickness / 2.0
        return np.block([[A, B + z * A], [B + z * A, D + 2.0 * z * B + z * z * A]])

    @cached_property
    def force(self) -> np.ndarray:
        """(2, 7) force along the standing walls, N, and along a foot per width, N/m, by the strains ``FOOT`` is of."""
        found = np.zeros((2, 7))
        found[0, :2] = self.sheared[0, :2]
        found[1, FOOT] = self.foot[0]
        return found

    def forces(self, strains: np.ndarray, on_feet: np.ndarray) -> np.ndarray:
        """(2, places) force along the standing walls and along all of the rib, N, of strains as ``wall_strains`` takes
        them."""
        standing = self.force[0] @ strains.T
        lying = sum(
            piece.length * (self.force[1] @ self._below(piece, strains, on_feet).T)
            for piece in self.pieces
            if piece.name in FEET
        )
        return np.stack([standing, standing + lying])

    def _below(self, piece: Piece, strains: np.ndarray, on_feet: np.ndarray) -> np.ndarray:
        """The strains of the face below a foot or strip, (places, 7)."""
        return on_feet[self.feet.index(piece)] if piece.name == "foot" else strains

    @property
    def enclosed(self) -> float:
        """m² between a hat and the face."""
        rib, height = self.rib, self.rib.height - self.plate.stack.thickness / 2.0
        if rib.outline == "half_round":
            radius = arc_radius(rib.width, height)
            half = float(np.arctan2(rib.width / 2.0, radius - height))
            return radius**2 * (half - np.sin(half) * np.cos(half))
        return (rib.width + (rib.crown if rib.outline == "hat" else 0.0)) / 2.0 * height

    @cached_property
    def lying(self) -> np.ndarray:
        """(points,) which of ``samples`` are of feet and strips."""
        return np.repeat([piece.name in FEET for piece in self.pieces], len(ACROSS))

    @cached_property
    def feet(self) -> tuple[Piece, ...]:
        """Those that stand away from the line of the rib."""
        return tuple(piece for piece in self.pieces if piece.name == "foot")

    @cached_property
    def half_width(self) -> float:
        """m to either side of its place that it lies or stands on."""
        return max(abs(end[0]) for piece in self.pieces for end in (piece.start, piece.end) if piece.name != "flange")

    @property
    def even(self) -> float:
        """Length in m over which the shear between rib and panel is a mean: within its height its sections do not stay
        plane, and a bond evens out what is shorter than it is wide."""
        return max(self.rib.height if self.rib.outline != "strip" else 0.0, self.bond)

    @property
    def bond(self) -> float:
        """Width in m over which it is bonded."""
        rib = self.rib
        if rib.outline == "strip":
            return rib.width
        return 2.0 * rib.foot or self.plate.stack.thickness * (2.0 if rib.outline in CLOSED else 1.0)

    @cached_property
    def samples(self) -> np.ndarray:
        """(points, 5): y and ζ of every piece's ends and middle, how flat the wall lies there, which share it has of
        the rib's shear flow, and whether it closes a cell."""
        paths = 2 if self.rib.outline in CLOSED else 1  # of the shear from the panel to the far side
        points = []
        for piece in self.pieces:
            start, end = np.array(piece.start), np.array(piece.end)
            flat = abs(end[0] - start[0]) / piece.length
            share = 1.0 / paths if piece.name in UPRIGHT else 0.0
            closing = float(piece.name in CLOSING)
            points += [(*(start + at * (end - start)), flat, share, closing) for at in ACROSS]
        return np.array(points)

    def wall_strains(self, strains: np.ndarray, on_feet: np.ndarray, flow: np.ndarray) -> np.ndarray:
        """Generalised strains (places, points, 11) of the walls from those of a rib's line (places, 7), those along the
        middles of its feet (feet, places, 7), and the shear ``flow`` between standing walls and panel, N/m, (places,);
        webs carry all of it over their whole height."""
        zeta, flat = self.samples[:, 1], self.samples[:, 2]
        own = np.zeros((len(strains), len(zeta), 4))
        curved = strains[:, 1] - strains[:, :2] @ self.shear_turn
        own[..., 0] = strains[:, 0, None] + curved[:, None] * zeta
        own[..., 2] = curved[:, None] * flat
        own[..., [1, 3]] = own[..., [0, 2]] @ self._others.T
        own[..., 3] += 2.0 * strains[:, 2, None]
        twisted = np.abs(strains[:, 2, None]) * self._closed * self.samples[:, 4]
        own[..., 1] += (flow[:, None] * self.samples[:, 3] + twisted) / self._sheared
        result = np.zeros((*own.shape[:2], 11))
        result[..., [0, 2, 3, 5]] = own
        result[..., [1, 4]] = own @ self._follow.T
        for k in np.nonzero(self.lying)[0]:
            below = self._below(self.pieces[k // len(ACROSS)], strains, on_feet)
            strained, bent = below[:, FOOT[:3]], below[:, FOOT[3:]]
            result[:, k, 0:3], result[:, k, 3:6] = strained + zeta[k] * bent, bent
        if self.plate.faces:
            result[..., 6:9] = result[..., 3:6]
        return result

    @cached_property
    def buckling_strains(self) -> tuple[float, ...]:
        """Of each piece the pressing strain at which it buckles as a long plate; infinite for feet and strips."""
        law = long_plate(self.plate)
        strains = []
        for piece in self.pieces:
            if piece.name in FEET:
                strains.append(np.inf)
                continue
            if piece.name == "round":
                strains.append(self._round_buckling)
                continue
            wide = np.array(piece.length)
            load = law.flange(wide) if piece.free else law.compression(wide)
            strains.append(float(load) / float(self.axial))
        return tuple(strains)

    @cached_property
    def _round_buckling(self) -> float:
        """Pressing strain at which an arc buckles as the wall of a cylinder, with its knock-down."""
        rib = self.rib
        radius = np.array([arc_radius(rib.width, rib.height)])
        load = axial_buckling(self.plate, radius, rib.high - rib.low)[0] * knock_down(self.plate, radius, "axial")[0]
        return float(load) / float(self.axial)


def change_along(
    along: np.ndarray, forces: np.ndarray, ends: tuple[float, float], held: tuple[bool, bool], over: float
) -> np.ndarray:
    """How fast ``forces`` (n, places) at places ``along`` m change, mean ``over`` a length in m within the ``ends``.

    At an end that is not ``held`` there is no force: what is there a little before it came in between.
    """
    low, high = ends
    over = min(over, high - low)
    middle = np.clip(along, low + over / 2.0, high - over / 2.0)
    order = np.argsort(along)
    places = np.concatenate([[low], along[order], [high]])
    changes = []
    for force in forces:
        sorted_ = force[order]
        at_ends = [edge if own else 0.0 for edge, own in zip((sorted_[0], sorted_[-1]), held, strict=True)]
        known = np.concatenate([at_ends[:1], sorted_, at_ends[1:]])
        ahead, behind = (np.interp(middle + side * over / 2.0, places, known) for side in (1.0, -1.0))
        changes.append((ahead - behind) / over)
    return np.array(changes)


class RibCase:
    """One load case on a rib: see ``field.WallCase``.  ``strains`` : at places along and at points of its walls.

    ``own``, ``on_feet`` : strains of its line (places, 7) and along the middles of its feet (feet, places, 7).
    ``held`` : whether its lower and its higher end stand at edges that take its force; about the others strains are
    left out within ``spot`` m.
    """

    left_out_told = SPOTS

    def __init__(
        self, case: Acting, beam: RibBeam, x: np.ndarray, y: np.ndarray, own: np.ndarray, on_feet: np.ndarray,
        held: tuple[bool, bool], spot: float,
    ) -> None:  # fmt: skip
        self.case, self.beam = case, beam
        rib = beam.rib
        self.x = x if rib.along_x else y
        self._x, self._y = x, y
        self.y = beam.samples[:, 1]
        # shear flow of the standing walls and of the whole bond, N/m
        standing, self.flow = np.abs(
            change_along(self.x, beam.forces(own, on_feet), (rib.low, rib.high), held, beam.even)
        )
        self.strains = beam.wall_strains(own, on_feet, standing)
        near = [np.abs(self.x - end) <= spot for end, own in zip((rib.low, rib.high), held, strict=True) if not own]
        self.left_out = np.repeat(np.any([*near, np.zeros(len(self.x), bool)], axis=0)[:, None], len(self.y), axis=1)

    def place(self, i: int, j: int) -> Place:
        """Where place ``i`` along and point ``j`` of its walls lie."""
        return Place(float(self._x[i]), float(self._y[i]), wall=RIB, s=float(self.y[j]))

    def nearest(self, place: Place) -> tuple[int, int]:
        """The sample nearest to a place; the middle of the rib where none is named."""
        x = self._x.mean() if place.x is None else place.x
        y = self._y.mean() if place.y is None else place.y
        i = int(np.argmin((self._x - x) ** 2 + (self._y - y) ** 2))
        return i, int(np.argmin(np.abs(self.y - (0.0 if place.s is None else place.s))))

    def ply_shear(self, _section: PlateSection) -> None:
        """A thin wall passes no shear across its plies worth looking at."""
        return


class RibAnswer(msgspec.Struct, frozen=True, eq=False):
    """A rib with what each load case does to it."""

    beam: RibBeam
    cases: tuple[RibCase, ...]

    @property
    def field(self) -> WallField:
        """As the checks of plies see it."""
        return WallField(self.beam.plate.stack, self.beam.plate, self.cases, RIB, rows=self.beam.rows)

    @property
    def mass(self) -> float:
        """kg."""
        return self.beam.mass * (self.beam.rib.high - self.beam.rib.low)
