"""A strip: a straight narrow member of one layup, solid or sandwich, flat, arched or a hat, constant or tapering."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from functools import cached_property
from typing import Any

import msgspec
import numpy as np

from omakase.core.errors import MemberError, both_units
from omakase.core.laminate.stack import Stack
from omakase.core.members.field import Measured, Place, WallField
from omakase.core.members.span import SpanAnswers, SpanModel, SpanResult
from omakase.core.members.span_loads import Drop, PointLoad, SpanCase, Spanned
from omakase.core.members.span_mesh import Kinematics, Term
from omakase.core.members.stretches import Stretch, stretch_at, whole
from omakase.core.members.strip_folding import frequencies_as_folded, half_wave, held_across, kept_of_height
from omakase.core.plates.loads import STANDARD_GRAVITY, PatchLoad
from omakase.core.plates.section import PlateSection
from omakase.core.sections.profile import MidLine, Profile, StripSection, StripWall, mid_line

MIN_WIDTH = 1e-3
SHARP = 0.98  # of the stiffness of its height, from which on a section keeps its shape
STOUT = 0.25  # widths to a bay, from which on it may be held from curving across
TOLD = 5e-3  # of its bending stiffness, from which on a remark says what holds it from curving across
UNEVEN = 0.1  # change of the bending stiffness from curving freely to flat across, from which on strengths say so
COUPLED = 1e-4  # share of its bending stiffness that is lost to twist, from which on it is looked for
STOCKY = 1.5  # widths to a half wave, below which a bent section gives under the load by itself


class WidthLaw(msgspec.Struct, frozen=True):
    """Width in m of the cloth along the span: straight between (x, width) pairs, x rising, constant beyond them."""

    points: tuple[tuple[float, float], ...]

    def __post_init__(self) -> None:
        if not self.points:
            raise MemberError("a strip needs a width")
        places = [x for x, _ in self.points]
        if any(b <= a for a, b in itertools.pairwise(places)):
            raise MemberError("the places of a table of widths must rise along the span")
        for _, width in self.points:
            if not MIN_WIDTH <= width <= 5.0:
                raise MemberError(f"a width of {both_units(width)} is outside 1 mm to 5 m (0.04 in to 16 ft)")

    def __call__(self, x: np.ndarray) -> np.ndarray:
        places, widths = zip(*self.points, strict=True)
        return np.interp(x, places, widths)

    @property
    def first(self) -> float:
        return self.points[0][1]

    def area(self, low: float, high: float) -> float:
        """m² from ``low`` to ``high`` m."""
        nodes = np.array([low, *(x for x, _ in self.points if low < x < high), high])
        return float(np.trapezoid(self(nodes), nodes))

    def mean(self, length: float) -> float:
        """Mean width over the span."""
        return self.area(0.0, length) / length


class Strip(msgspec.Struct, frozen=True):
    """Span, width along it and shape of the section."""

    span: Spanned
    width: WidthLaw
    profile: Profile = Profile()

    def longest_bay(self) -> float:
        """Longest distance between supports or from one to a free end, m: what the width is compared with."""
        places = sorted({0.0, self.span.length, *(support.x for support in self.span.supports)})
        return max(b - a for a, b in itertools.pairwise(places))


class StripCase:
    """One load case on one stretch of the strip's wall: samples along the span (x) and along the mid-line (y)."""

    def __init__(self, acting: StripActing, section: StripSection, result: SpanResult, at: np.ndarray, x: np.ndarray,
                 widths: np.ndarray) -> None:  # fmt: skip
        self.case, self.x, self.widths = acting, x, widths
        self._result, self._at, self._section = result, at, section
        self.y = section.line.y
        self.left_out = np.zeros((len(x), len(self.y)), bool)

    @cached_property
    def strains(self) -> np.ndarray:
        """(x, y, 11) generalised strains of the wall."""
        return self._flatwise()

    def _flatwise(self) -> np.ndarray:
        """Those of bending in the plane of the strip's loads, along its mid-line."""
        section, line = self._section, self._section.line
        strains = self._result.strains[self._at]
        count = len(section.wall.stiffness)
        if strains.shape[1] < count:  # no own curvature
            strains = np.insert(strains, 2, 0.0, axis=1)
        line_strains = np.empty((len(self.x), len(line.share), count))
        lifted = strains[:, 0] + section.offset * strains[:, 1]
        line_strains[..., 0] = lifted[:, None] + self.widths[:, None] * section.heights * strains[:, None, 2]
        line_strains[..., 1:] = strains[:, None, 1:] * line.cosine[None, :, None]
        wall = section.wall
        return np.concatenate([line_strains @ wall.recover.T, line_strains[..., 3:4] * wall.shear_recover], axis=-1)

    def place(self, i: int, j: int) -> Place:
        across = float(self.y[j] * self.widths[i]) if self._section.bent else None
        return Place(float(self.x[i]), across, wall=self._section.line.wall[j])

    def nearest(self, place: Place) -> tuple[int, int]:
        """The sample nearest to a place; the highest of a bent section where none is named."""
        i = 0 if place.x is None else int(np.argmin(np.abs(self.x - place.x)))
        line = self._section.line
        if place.y is None:
            return i, int(np.argmax(line.z))
        return i, int(np.argmin(np.abs(line.y * self.widths[i] - place.y)))

    def ply_shear(self, section: PlateSection) -> np.ndarray | None:
        """The shear force of the diagram over the width; of a bent section the share across the wall."""
        if self._section.bent:
            return self.strains[..., 9:11] @ section.shear.T
        shear = np.zeros((len(self.x), len(self.y), 2))
        shear[..., 0] = (self._result.diagrams.shear[self._at] / self.widths)[:, None]
        return shear


class StripActing:
    """What presses on a strip in one load case: loads on their footprints, and supports that have one."""

    def __init__(self, member: Strip, result: SpanResult) -> None:
        self.name, self.key = result.case.name, result.case.key
        self.pressures: tuple[float, ...] = ()
        pieces = []
        for load in result.case.loads:
            if isinstance(load, PointLoad | Drop) and load.along > 0.0:
                force = load.force if isinstance(load, PointLoad) else load.mass * STANDARD_GRAVITY * result.drop_factor
                pieces.append(self._patch(member, force, load.x, load.along, load.across))
        for support, reaction in zip(member.span.supports, result.reactions, strict=True):
            if support.along > 0.0 and reaction[0] != 0.0:
                low = max(0.0, support.x - support.along / 2.0)
                high = min(member.span.length, support.x + support.along / 2.0)
                # pushing up on face B dents that face: the same as a load of its size from below
                pieces.append(self._patch(member, -float(reaction[0]), (low + high) / 2.0, high - low, 0.0))
        self.patches = tuple(pieces)

    @staticmethod
    def _patch(member: Strip, force: float, x: float, along: float, across: float) -> PatchLoad:
        width = float(member.width(np.array([x]))[0])
        across = min(across, width) if across > 0.0 else width
        return PatchLoad(force, x, width / 2.0, along, across)


class _Part:
    """A stretch with its section."""

    def __init__(
        self, member: Strip, stretch: Stretch, plate: PlateSection, line: MidLine, flush: float, flat: bool,
        twisting: bool,
    ) -> None:  # fmt: skip
        self.stretch, self.plate = stretch, plate
        offset = (stretch.stack.thickness - flush) / 2.0
        width = member.width.mean(member.span.length)
        # what twists as it bends is held less
        self.held = held_across(member.span, width, self.plate) if flat and not twisting else 0.0
        wall = StripWall(self.plate, False, twisting, self.held)
        kept = kept_of_height(member.span, width, StripSection(wall, line, offset))
        self.section = StripSection(wall, line, offset, kept)


class StripResponse(SpanAnswers):
    """Everything the checks need of one strip.

    Its layers lie flush on face B, which lies in the mould; where some end, the section's middle steps.  A flat one
    whose plies lie askew twists as it bends; supports across its width hold the twist (narrow laminated beams with
    bending and twist coupled: Librescu and Song 2006, chapter 3).
    """

    slender = False  # so narrow that its bending neither twists it nor is held across

    def __init__(self, member: Strip, wall: Stack | tuple[Stretch, ...], cases: Sequence[SpanCase],
                 order: int | None = None, parts: int = 1, with_frequencies: bool = True) -> None:  # fmt: skip
        length = member.span.length
        for case in cases:
            case.check_on(length)
        self.derived: dict[str, Any] = {}  # what one check worked out and others need too
        self.member = member
        self.stretches = stretches = whole(wall, length) if isinstance(wall, Stack) else wall
        line = mid_line(member.profile, member.width.first)
        flush = stretches[0].stack.thickness
        flat = member.profile.shape == "flat" and not self.slender
        plates = [PlateSection(own.stack) for own in stretches]
        twisting = flat and any(StripWall(own, False, True).twists > COUPLED for own in plates)
        self.parts = [
            _Part(member, stretch, plate, line, flush, flat, twisting)
            for stretch, plate in zip(stretches, plates, strict=True)
        ]
        self.plate, self.section = self.parts[0].plate, self.parts[0].section
        self.thickness = max(part.stretch.stack.thickness for part in self.parts)
        self.model = _model(member, self.parts, cases, order, parts)
        self.results = self.model.results()
        self.x = self.model.x
        self.widths = member.width(self.x)
        self.frequencies = self._frequencies() if with_frequencies else ()
        areas = [member.width.area(part.stretch.low, part.stretch.high) for part in self.parts]
        self.area = sum(areas)
        self.mass = sum(area * part.plate.areal_mass for area, part in zip(areas, self.parts, strict=True))
        self.areal_mass = self.mass / self.area
        self.acting = [StripActing(member, result) for result in self.results]
        self.fields = tuple(self._field(i) for i in range(len(self.parts)))
        self.measures = self._measures()

    def _frequencies(self) -> tuple[float, ...]:
        """Those of the beam; of a bent section those of its folded walls as well, up and down, in twist and aside."""
        beam = self.model.frequencies()
        if not self.section.bent:
            return beam
        lengths = [part.stretch.high - part.stretch.low for part in self.parts]
        width = self.member.width.mean(self.member.span.length)
        sections = [part.section for part in self.parts]
        return frequencies_as_folded(self.member.span, width, sections, lengths, beam)

    def _field(self, index: int) -> WallField:
        part = self.parts[index]
        at = np.nonzero(stretch_at(self.stretches, self.model.centres) == index)[0]
        cases = tuple(self._case(k, part.section, at) for k in range(len(self.acting)))
        return WallField(part.stretch.stack, part.plate, cases, rows=part.stretch.rows, stations=at)

    def _case(self, k: int, section: StripSection, at: np.ndarray) -> StripCase:
        """Load case ``k`` at the samples of one stretch."""
        return StripCase(self.acting[k], section, self.results[k], at, self.x[at], self.widths[at])

    def _stiffer(self, held: float) -> float:
        """By how much more stiffly it bends ``held`` from curving across than if it curves freely."""
        free, other = (StripSection(StripWall(self.plate, False, held=own), self.section.line) for own in (0.0, held))
        return other.bending(1.0) / free.bending(1.0) - 1.0

    @property
    def _stout(self) -> bool:
        """Whether it is so wide that it may not curve across freely."""
        return self.member.width.mean(self.member.span.length) > STOUT * self.member.longest_bay()

    @property
    def case_remarks(self) -> dict[str, tuple[str, ...]]:
        """That stress is not even over the width where it is held from curving across."""
        if self.slender or self.section.bent or not self._stout or self._stiffer(1.0) < UNEVEN:
            return {}
        text = (
            "it is too wide to curve across freely: stress is not even over the width, as it is taken here; with plies "
            "askew, or at ±45° on one side only, bricks showed up to two fifths more at the edges"
        )
        return {acting.key: (text,) for acting in self.acting}

    def remarks(self) -> tuple[str, ...]:
        """What of the theory is at its edge."""
        member, held = self.member, self.parts[0].held
        notes = ["bends as a narrow strip, free to curve across (1/d11)"]
        more = self._stiffer(held) if held else 0.0
        if more > TOLD:
            ratio = member.width.mean(member.span.length) / member.longest_bay()
            notes = [
                f"at {ratio:.1f} widths per bay it is held from curving across by {held:.0%} of what a very wide strip "
                f"is, which makes it {more:.0%} stiffer"
            ]
        if self.section.wall.twisting:
            notes.append("its plies lie askew: it twists as it bends, and its supports hold the twist across its width")
            if self._stout:
                notes.append("so wide it also curves less across, which is not counted: it is stiffer than this")
        if member.longest_bay() < 5.0 * self.depth:
            notes.append("the bay is shorter than five times the depth: no beam any more, use it as a first estimate")
        if self.section.kept < SHARP:
            notes.append(
                f"the section flattens as it bends and keeps {self.section.kept:.0%} of the stiffness of its height; "
                "this is the mean under the load, some of it sags more"
            )
        if self.section.bent and half_wave(member.span) < STOCKY * member.width.mean(member.span.length):
            notes.append(
                "it bends over less than one and a half widths: the section also gives where the load stands, which is "
                "not counted; bricks sagged up to half more"
            )
        return tuple(notes)

    def _measures(self) -> dict[str, tuple[Measured, ...]]:
        deflections, rotations, buckling = [], [], []
        remarks = self.remarks()
        for result in self.results:
            name, key, w = result.case.name, result.case.key, result.displacements["w"]
            k = int(np.argmax(np.abs(w)))
            value = float(abs(w[k]))
            more = () if result.drop_factor == 1.0 else (f"the fall counts {result.drop_factor:.1f} times the weight",)
            large: tuple[str, ...] = ()
            if value > 0.1 * self.member.longest_bay():
                large = ("deflection is more than a tenth of the bay: small-deflection theory is off by then",)
            deflections.append(Measured(value, name, key, float(self.x[k]), None, (*remarks, *more, *large)))
            turn = result.displacements["turn"]
            k = int(np.argmax(np.abs(turn)))
            rotations.append(Measured(float(np.degrees(abs(turn[k]))), name, key, float(self.x[k])))
            if np.isfinite(result.buckling):
                buckling.append(Measured(result.buckling, name, key))
        return {"deflection": tuple(deflections), "rotation": tuple(rotations), "strut": tuple(buckling),
                "thickness": (Measured(self.depth),)}  # fmt: skip

    @property
    def depth(self) -> float:
        """Thickness of the stack and rise of the section together, m."""
        return self.thickness + self.section.line.height * self.member.width.first


def _model(member: Strip, parts: Sequence[_Part], cases: Sequence[SpanCase], order: int | None, cut: int) -> SpanModel:
    three = any(part.plate.faces for part in parts)
    bent = parts[0].section.bent
    twisting = parts[0].section.wall.twisting
    rows = np.array(([0, 1, 2, 3] if three or bent else [0, 1, 3]) + [4] * twisting)
    along = [part.stretch for part in parts]
    line = parts[0].section.line
    spread = float(line.share @ (line.z - float(line.share @ line.z)) ** 2)
    areal = np.array([part.plate.areal_mass for part in parts])
    rotary = np.array([part.plate.rotary_inertia for part in parts])
    # of a flat section the stiffness is the width times that of one metre
    of_one = np.array([part.section.stiffness(1.0)[np.ix_(rows, rows)] for part in parts])

    def stiffness(x: np.ndarray) -> np.ndarray:
        width, which = member.width(x), stretch_at(along, x)
        if not bent:
            return width[:, None, None] * of_one[which]
        known: dict[tuple[float, int], np.ndarray] = {}
        pieces = []
        for key in zip(width.tolist(), which.tolist(), strict=True):
            if key not in known:
                known[key] = parts[key[1]].section.stiffness(key[0])[np.ix_(rows, rows)]
            pieces.append(known[key])
        return np.array(pieces)

    def inertia(x: np.ndarray) -> np.ndarray:
        width, which = member.width(x), stretch_at(along, x)
        line_mass = areal[which] * width
        own = [line_mass, line_mass, rotary[which] * width + line_mass * spread * width**2]
        return np.stack([*own, rotary[which] * width + line_mass * width**2 / 12.0][: 3 + twisting], axis=1)

    knots = [x for x, _ in member.width.points if 0.0 < x < member.span.length]
    knots += [part.stretch.low for part in parts[1:]]
    fading = min((part.plate.boundary_layer for part in parts if part.plate.faces), default=0.0)
    options = {} if order is None else {"order": order}
    kinematics = _kinematics(three, bent, twisting)
    return SpanModel(member.span, kinematics, stiffness, inertia, cases, knots, fading, parts=cut, **options)


def _kinematics(three: bool, bent: bool, twisting: bool) -> Kinematics:
    """Fields u, w, φ; with the faces' own bending, or a bent mid-line, w has a slope that is continuous; θ of one that
    is twisting."""
    smooth = three or bent
    strains: tuple[tuple[Term, ...], ...] = (
        (Term("u", 1),),
        (Term("phi", 1),),
        (Term("w", 2, -1.0),),
        (Term("phi", 0), Term("w", 1)),
    )
    strains = strains if smooth else (strains[0], strains[1], strains[3])
    held = (("u", 0), ("w", 0), ("phi", 0), ("w", 1)) if smooth else (("u", 0), ("w", 0), ("phi", 0))
    twist = (("theta", 0),) if twisting else ()
    return Kinematics(
        (("u", False), ("w", smooth), ("phi", False), *((name, False) for name, _ in twist)),
        (*strains, (Term("theta", 1, 2.0),)) if twisting else strains,
        (Term("w", 0), Term("u", 0), Term("phi", 0), *(Term(*own) for own in twist)),
        (*held, *twist),
        (("w", 0), *twist),
        (("u", 0),),
        Term("w", 1, -1.0) if bent else Term("phi", 0),  # of a bent section the mid-line carries the moment
    )
