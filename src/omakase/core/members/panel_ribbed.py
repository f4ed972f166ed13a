"""What ribs add to a panel: energies on its grid, lines that they ask for, and what each load case does to them."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence

import msgspec
import numpy as np

from omakase.core.errors import PanelError
from omakase.core.members.panel_given import Arc, LoadCase, Panel, Surface
from omakase.core.members.panel_held import in_plan, washer_bounds
from omakase.core.members.panel_patchwork import Patchwork, pieces_of
from omakase.core.members.panel_ribs import Rib, RibBeam, Ribbed, RibCase
from omakase.core.members.rib_energies import (
    Surfaced,
    built_in_ends,
    foot_lines,
    half_wave,
    rib_feet,
    rib_lines,
    rib_weights,
    sheet_below,
    stands_at,
)
from omakase.core.plates.assembly import Assembler
from omakase.core.plates.attached import HELD_UP, Attached, OnLine
from omakase.core.plates.grid import Edge
from omakase.core.plates.lines import FADING, Fixed
from omakase.core.plates.loads import PatchLoad
from omakase.core.plates.section import PlateSection

KINK = 2.0  # decay lengths of the faces' own bending beside a line where walls of a rib stand


class _Bonded(msgspec.Struct, frozen=True, eq=False):
    """A rib as it is read: of each stretch the lines of its standing walls, and those of its feet."""

    beam: RibBeam
    standing: list[tuple[OnLine, ...]]
    feet: list[tuple[OnLine, ...]]


class RibsOn:
    """The ribs of a panel that is a patchwork with ``sections`` whose middles lie at ``heights`` m; ``base`` : the
    section of the largest area, ``fading`` : the longest decay length of faces beside borders, m.

    ``beams`` : one for each.  ``attached`` : their energies.  ``heavy`` : what takes part in vibrations.
    Raises PanelError where a rib is off the panel, has no shape, or nothing below it.
    """

    def __init__(
        self, panel: Panel, work: Patchwork, sections: Sequence[PlateSection], heights: Sequence[float],
        base: PlateSection, fading: float, ribs: Sequence[Ribbed],
    ) -> None:  # fmt: skip
        self._panel, self._work, self._sections, self._heights = panel, work, sections, heights
        self._base, self._fading = base, fading
        for number, own in enumerate(ribs, 1):
            own.rib.check(panel.length, panel.width, number)
        plates = {id(own.stack): PlateSection(own.stack) for own in ribs}
        self.beams = tuple(
            RibBeam(own.rib, plates[id(own.stack)], self._skin(own.rib), own.rows, self._wave(own.rib)) for own in ribs
        )
        self.attached: list[Attached] = []
        self._bonded = [self._put_on(beam) for beam in self.beams]
        self.heavy = [
            OnLine(line.along_x, line.place, line.low, line.high, HELD_UP, np.array([[own.beam.mass / len(lines)]]))
            for own in self._bonded
            for lines in own.standing
            for line in lines
        ]

    def _skin(self, rib: Rib) -> float:
        """In-plane shear stiffness in N/m of the face below a rib."""
        faces = self._base.faces
        if not faces:
            return float(self._base.membrane[2, 2])
        return float(faces[0 if rib.on_a else 1].A[2, 2])

    def _edges(self, rib: Rib) -> tuple[Edge, Edge]:
        """The edges across which it runs, the one at the lower place first."""
        edges = self._panel.edges
        return (edges.x0, edges.x1) if rib.along_x else (edges.y0, edges.y1)

    def _clamped(self, rib: Rib) -> tuple[bool, bool]:
        """Whether these edges are clamped."""
        low, high = self._edges(rib)
        return low == "clamped", high == "clamped"

    def _wave(self, rib: Rib) -> float:
        return half_wave(rib, self._clamped(rib), self._reach(rib))

    def _reach(self, rib: Rib) -> float:
        """Size of the panel along a rib, m."""
        return self._panel.length if rib.along_x else self._panel.width

    def _put_on(self, beam: RibBeam) -> _Bonded:
        """Its energies, one for each stretch of one layup below it, and where it is read."""
        rib, work, surface = beam.rib, self._work, self._panel.surface
        along, across = (work.x, work.y) if rib.along_x else (work.y, work.x)
        which = work.which if rib.along_x else work.which.T
        row = int(pieces_of(across, np.array([rib.place - 1e-6, rib.place + 1e-6]))[0])
        arc, other = _arcs(surface, rib)
        below = []
        for k, (low, high) in enumerate(itertools.pairwise(along)):
            start, end = max(float(low), rib.low), min(float(high), rib.high)
            if end - start > 1e-9 and which[k, row] < len(self._sections):
                own, height = self._sections[which[k, row]], self._heights[which[k, row]]
                side = 1.0 if rib.on_a else -1.0
                at = height + side * own.stack.thickness / 2.0
                face = height + own.faces[0 if rib.on_a else 1].z_middle if own.faces else at
                below.append(Surfaced(arc.along(start), arc.along(end), at, face))
        if not below:
            raise PanelError("a rib lies over an opening all along")
        place = other.along(rib.place)
        standing = rib_lines(beam, below, place, surface.curvature, other.length)
        self.attached += [line for lines in standing for line in lines]
        self.attached += rib_feet(beam, below, place, surface.curvature)
        self.attached += built_in_ends(beam, place, arc.length, self._clamped(rib))
        if rib.formed:
            self.attached += sheet_below(beam, below, place, surface.curvature)
        return _Bonded(beam, standing, foot_lines(beam, below, place, surface.curvature, other.length))

    # --- what load cases do -----------------------------------------------------------------------------------

    def cases(self, case: LoadCase, grid: Assembler, vector: np.ndarray) -> tuple[RibCase, ...]:
        """What a case does to each rib, of the panel's unknowns."""
        return tuple(self._case(case, own, grid, vector) for own in self._bonded)

    def _case(self, case: LoadCase, bonded: _Bonded, grid: Assembler, vector: np.ndarray) -> RibCase:
        beam, surface = bonded.beam, self._panel.surface
        strains, feet, at = [], [], []
        for lines, below_feet in zip(bonded.standing, bonded.feet, strict=True):
            read = [line.strained(grid, vector) for line in lines]
            place = sum(line.place for line in lines) / len(lines)
            at += [in_plan(surface, float(along), place, lines[0].along_x) for along in read[0][0]]
            strains.append(np.mean([own for _, _, own in read], axis=0))
            feet.append([line.strained(grid, vector)[2] for line in below_feet])
        x, y = np.array(at).T
        on_feet = np.concatenate(
            [np.reshape(own, (len(beam.feet), len(line), 7)) for own, line in zip(feet, strains, strict=True)], axis=1
        )
        return RibCase(case, beam, x, y, np.concatenate(strains), on_feet, self._held(beam.rib), self._spot(beam.rib))

    def _spot(self, rib: Rib) -> float:
        """m about the ends of a rib within which strains are not read: half a foot and at least the panel's thickness,
        never more than a quarter of the rib."""
        return min(max(rib.foot / 2.0, self._base.stack.thickness), (rib.high - rib.low) / 4.0)

    def _held(self, rib: Rib) -> tuple[bool, bool]:
        """Whether the panel's edges take what a rib brings to them along it, at its lower and at its higher end."""
        reach, held_in_plane = self._reach(rib), self._panel.in_plane in ("all", "ends" if rib.along_x else "sides")

        def takes(end: float, place: float, edge: Edge) -> bool:
            reached = abs(end - place) < 1e-3 * reach
            return reached and (edge == "clamped" or (edge != "free" and held_in_plane))

        low, high = self._edges(rib)
        return takes(rib.low, 0.0, low), takes(rib.high, reach, high)

    def beside(self, x: np.ndarray, y: np.ndarray) -> np.ndarray:
        """Places (x, y) on the surface at which no grid reads strains: booleans.

        Where the faces of a sandwich bend over the lines on which walls of ribs stand, since a line has no width; and
        about the ends of ribs that no edge holds, half a foot's width before and beside them and at least a thickness
        of the panel: there strains have no bound.
        """
        near, surface = np.zeros((len(x), len(y)), bool), self._panel.surface
        kink = KINK * self._fading
        for own in self._bonded:
            rib = own.beam.rib
            along, across = (x, y) if rib.along_x else (y, x)
            there = np.zeros((len(along), len(across)), bool)
            for line in (line for lines in own.standing for line in lines):
                there |= np.outer((along >= line.low - kink) & (along <= line.high + kink),
                                  np.abs(across - line.place) <= kink)  # fmt: skip
            arc, other = _arcs(surface, rib)
            reach = self._spot(rib)
            beside = np.abs(across - other.along(rib.place)) <= own.beam.half_width + reach
            for end, held in zip((rib.low, rib.high), self._held(rib), strict=True):
                if not held:
                    there |= np.outer(np.abs(along - arc.along(end)) <= reach, beside)
            near |= there if rib.along_x else there.T
        return near

    # --- what they ask of the grid and add to the loads ---------------------------------------------------------

    def with_lines(self, fixed: Fixed, of_x: bool, layers: bool) -> Fixed:
        """Lines along x or y that ribs ask for: where those across stand and where their feet end, which would be cut
        off in the middle of a cell; where those along begin and end; and beside these and beside walls without feet
        where what they disturb fades, round an end inside the panel over some half of its width."""
        surface = self._panel.surface
        arc = surface.x if of_x else surface.y
        places, fading = list(fixed.places), list(fixed.fading)
        for beam in self.beams:
            rib = beam.rib
            ends = [end for end in (rib.low, rib.high) if 1e-9 < end < self._reach(rib) - 1e-9]
            near = max(rib.width, 2.0 * rib.foot) / 2.0
            if rib.along_x == of_x:
                places += [arc.along(rib.low), arc.along(rib.high)]
                fading += [(arc.along(end), near, near) for end in ends]
                continue
            middle = arc.along(rib.place)
            stands = stands_at(rib) if rib.outline != "strip" else ()
            places += [middle + side for side in stands]
            low, high = middle - beam.half_width, middle + beam.half_width
            if beam.lying.any():
                places += [low, high]
                reach = FADING * self._fading
            else:
                reach = near if ends else FADING * self._fading
            if layers or beam.lying.any():
                fading += [(low, reach, 0.0), (high, 0.0, reach)]
        return msgspec.structs.replace(fixed, places=tuple(places), fading=tuple(fading))

    def weights(self, g: float) -> Iterator[PatchLoad]:
        """Their weight under an acceleration in m/s²."""
        surface = self._panel.surface
        return rib_weights(self.beams, g, surface.length, surface.width)


def _arcs(surface: Surface, rib: Rib) -> tuple[Arc, Arc]:
    """Of a panel along a rib and across it."""
    return (surface.x, surface.y) if rib.along_x else (surface.y, surface.x)


def over_bolts(panel: Panel, beams: Sequence[RibBeam]) -> Iterator[tuple[int, int]]:
    """(number of a rib, number of a bolt) where a rib lies on the washer of a bolt."""
    surface = panel.surface
    for number, beam in enumerate(beams, 1):
        rib = beam.rib
        arc, other = _arcs(surface, rib)
        low, high, place = arc.along(rib.low), arc.along(rib.high), other.along(rib.place)
        near, far = place - beam.half_width, place + beam.half_width
        for bolt, own in enumerate(panel.held.bolts, 1):
            bounds = washer_bounds(surface, own)
            along, across = (bounds[:2], bounds[2:]) if rib.along_x else (bounds[2:], bounds[:2])
            if along[0] < high and along[1] > low and across[0] < far and across[1] > near:
                yield number, bolt
