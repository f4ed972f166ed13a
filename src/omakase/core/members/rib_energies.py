"""A rib as energies of the panel that it is bonded to: its standing walls on lines, its feet on bands, what a bead
takes from the sheet, and its weight."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import msgspec
import numpy as np

from omakase.core.members.panel_ribs import CLOSED, FEET, FOOT, Rib, RibBeam
from omakase.core.plates.attached import OnBand, OnLine
from omakase.core.plates.energies import StrainTerms
from omakase.core.plates.grid import Curvature
from omakase.core.plates.loads import PatchLoad
from omakase.core.sections.cylinder import wall_stiffness

TAKEN = 0.999  # of the stiffness of a sheet that is formed into a bead: all of it would leave some shapes none
RIGID_END, SHORT = 1e5, 1e-4  # times EI/length of a rib that is built in; the share of the length that is held
BUILT_IN = (1.0, 0.7, 0.5)  # of the length, between places of no moment, by ends that are built in (Euler)


class Surfaced(msgspec.Struct, frozen=True):
    """The panel's layup below a stretch of a rib: from ``low`` to ``high`` m, the height of the ``surface`` it is
    bonded to above the plane of reference, and of the middle of the ``face`` that carries it, m."""

    low: float
    high: float
    surface: float
    face: float


def rib_strains(rib: Rib, own: Surfaced, curvature: Curvature) -> StrainTerms:
    """The seven strains of the face below a rib, and of what is bonded to it, along and across the rib."""
    # it twists with the panel as a whole: on a sandwich its foot is wider than the faces' own bending beside it
    along_x, off = rib.along_x, own.face - own.surface
    right = 1.0 if along_x == rib.on_a else -1.0  # whether along, across and away are turned as x, y and z
    away = -1.0 if rib.on_a else 1.0  # κ of the rib is w,xx where it hangs below
    kx, ky = curvature

    def turned(factor: float) -> StrainTerms:
        """``factor`` times the curvatures of the deflection; what moves along a curved surface turns, too."""
        return tuple(
            tuple((field, factor * by, dx, dy) for field, by, dx, dy in row if by)
            for row in (
                (("w", 1.0, 2, 0), ("u", -kx, 1, 0)), (("w", 1.0, 0, 2), ("v", -ky, 0, 1)),
                (("w", 2.0, 1, 1), ("u", -kx, 0, 1), ("v", -ky, 1, 0)),
            )
        )  # fmt: skip

    beyond = turned(off)  # how far the rib's face lies from where the panel's own does
    arched_x, arched_y = ((("w", k, 0, 0),) if k else () for k in curvature)
    in_x = (("u", 1.0, 1, 0), ("px", own.face, 1, 0), *beyond[0], *arched_x)
    in_y = (("v", 1.0, 0, 1), ("py", own.face, 0, 1), *beyond[1], *arched_y)
    sheared = (("u", 1.0, 0, 1), ("v", 1.0, 1, 0), ("px", own.face, 0, 1), ("py", own.face, 1, 0), *beyond[2])
    sheared = tuple((field, right * by, dx, dy) for field, by, dx, dy in sheared)
    bent_x, bent_y, _ = turned(away)
    twisted = turned(right * away)[2]
    along, across = (in_x, in_y) if along_x else (in_y, in_x)
    first, second = (bent_x, bent_y) if along_x else (bent_y, bent_x)
    twist = (("py", -1.0, 1, 0),) if along_x else (("px", -1.0, 0, 1),)
    return along, first, twist, across, sheared, second, twisted


def stands_at(rib: Rib) -> tuple[float, ...]:
    """Where the standing walls of a rib begin, m across from its place."""
    return (-rib.width / 2.0, rib.width / 2.0) if rib.outline in CLOSED else (0.0,)


def rib_lines(
    beam: RibBeam, below: Sequence[Surfaced], place: float, curvature: Curvature, width: float
) -> list[tuple[OnLine, ...]]:
    """The energy of the standing walls of a rib at ``place`` of a surface ``width`` m across, stretch by stretch on
    one line or two."""
    rib = beam.rib
    places = [min(max(place + side, 0.0), width) for side in stands_at(rib)]
    stiffness = np.zeros((7, 7))
    stiffness[:3, :3] = beam.sheared / len(places)
    return [
        tuple(OnLine(rib.along_x, at, own.low, own.high, rib_strains(rib, own, curvature), stiffness) for at in places)
        for own in below
    ]


def foot_lines(
    beam: RibBeam, below: Sequence[Surfaced], place: float, curvature: Curvature, width: float
) -> list[tuple[OnLine, ...]]:
    """Lines along the middles of its feet, stretch by stretch, on which they are read: at their root, where a wall
    stands on them, a plate on a line bends without bound."""
    rib, nothing = beam.rib, np.zeros((7, 7))
    places = [min(max(place + (foot.start[0] + foot.end[0]) / 2.0, 0.0), width) for foot in beam.feet]
    return [
        tuple(OnLine(rib.along_x, at, own.low, own.high, rib_strains(rib, own, curvature), nothing) for at in places)
        for own in below
    ]


def rib_feet(beam: RibBeam, below: Sequence[Surfaced], place: float, curvature: Curvature) -> list[OnBand]:
    """The energy of the feet of a rib, over the width of each."""
    bands = []
    for own in below:
        every = rib_strains(beam.rib, own, curvature)
        terms = tuple(every[k] for k in FOOT)
        for piece in beam.pieces:
            if piece.name in FEET:
                near, far = sorted((piece.start[0], piece.end[0]))
                bands.append(OnBand(beam.rib.along_x, place + near, place + far, own.low, own.high, terms, beam.foot,
                                    added=True))  # fmt: skip
    return bands


def sheet_below(beam: RibBeam, below: Sequence[Surfaced], place: float, curvature: Curvature) -> list[OnBand]:
    """What a formed bead leaves out: of the flat sheet below it the stiffness along, and that in the plane across,
    since a bead gives like bellows, as energies that are taken away; its shear and its bending across stay.

    A pull N across bends walls that are ζ above the sheet by N ζ: the width/(E t) of a flat one becomes
    ∫ (1/(E t) + ζ²/D) ds.
    """
    along_x, half = beam.rib.along_x, beam.rib.width / 2.0
    A, B, D = wall_stiffness(beam.plate)
    every = np.block([[A, B], [B, D]])
    taken, left = [0, 1, 3], [2, 4, 5]
    most = every[np.ix_(taken, taken)] - every[np.ix_(taken, left)] @ np.linalg.solve(
        every[np.ix_(left, left)], every[np.ix_(left, taken)]
    )  # what no strain of the others can save
    pulled, turned = 1.0 / np.linalg.inv(A)[1, 1], float(D[1, 1])
    opened = sum(
        piece.length * (1.0 / pulled + (low * low + low * high + high * high) / 3.0 / turned)
        for piece in beam.pieces
        for low, high in [(piece.start[1] - beam.pieces[0].start[1], piece.end[1] - beam.pieces[0].start[1])]
    )
    taken_away = TAKEN * most
    taken_away[1, 1] -= beam.rib.width / opened
    bands = []
    for own in below:
        middle = own.surface - (0.5 if beam.rib.on_a else -0.5) * beam.plate.stack.thickness
        arched_x, arched_y = ((("w", k, 0, 0),) if k else () for k in curvature)
        in_x = (("u", 1.0, 1, 0), ("px", middle, 1, 0), *arched_x)
        in_y = (("v", 1.0, 0, 1), ("py", middle, 0, 1), *arched_y)
        bent = (("px", 1.0, 1, 0),) if along_x else (("py", 1.0, 0, 1),)
        terms: StrainTerms = (in_x, in_y, bent) if along_x else (in_y, in_x, bent)
        bands.append(OnBand(along_x, place - half, place + half, own.low, own.high, terms, -taken_away))
    return bands


def half_wave(rib: Rib, clamped: tuple[bool, bool], length: float) -> float:
    """Of the deflection along a rib, m: between the places where it has no moment."""
    reached = abs(rib.low) < SHORT * length, abs(length - rib.high) < SHORT * length
    return BUILT_IN[sum(at and held for at, held in zip(reached, clamped, strict=True))] * (rib.high - rib.low)


def built_in_ends(beam: RibBeam, place: float, length: float, clamped: tuple[bool, bool]) -> list[OnLine]:
    """Where a rib reaches a clamped edge, that its end does not turn there; ``length`` of the panel along it, m."""
    rib, by = beam.rib, (1, 0) if beam.rib.along_x else (0, 1)
    stiffness = np.array([[RIGID_END * beam.stiffness[1, 1] / length / (SHORT * length)]])
    ends = []
    for at, reached, held in ((0.0, rib.low, clamped[0]), (length, rib.high, clamped[1])):
        if held and abs(at - reached) < 1e-3 * length:
            low, high = (0.0, SHORT * length) if at == 0.0 else ((1.0 - SHORT) * length, length)
            ends.append(OnLine(rib.along_x, place, low, high, ((("w", 1.0, *by),),), stiffness))
    return ends


def rib_weights(beams: Sequence[RibBeam], g: float, length: float, width: float) -> Iterator[PatchLoad]:
    """Weight of ribs under an acceleration in m/s², spread over their width."""
    for beam in beams:
        rib = beam.rib
        wide = max(rib.width if rib.outline in (*CLOSED, "strip") else 2.0 * rib.foot, 1e-3)
        across = width if rib.along_x else length
        low, high = max(rib.place - wide / 2.0, 0.0), min(rib.place + wide / 2.0, across)
        sizes, middles = (rib.high - rib.low, high - low), ((rib.high + rib.low) / 2.0, (high + low) / 2.0)
        if not rib.along_x:
            sizes, middles = sizes[::-1], middles[::-1]
        yield PatchLoad(beam.mass * g * (rib.high - rib.low), *middles, *sizes)
