"""A round tube, constant or tapering, bare or filled: bent, twisted, pulled and pressed, all at once."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property

import msgspec
import numpy as np

from omakase.core.errors import MemberError, both_units
from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material
from omakase.core.members.field import Measured, Place, WallField
from omakase.core.members.span import SpanAnswers, SpanModel, SpanResult
from omakase.core.members.span_loads import SpanCase, Spanned
from omakase.core.members.span_mesh import Kinematics, Term
from omakase.core.members.stretches import Stretch, stretch_at, whole
from omakase.core.members.strip import WidthLaw
from omakase.core.plates.loads import PatchLoad
from omakase.core.plates.section import PlateSection
from omakase.core.sections.ring import Ring

AROUND = np.radians(np.arange(0.0, 360.0, 22.5))
ORDER = 4  # twice the cells change a tapering tube by less than 1e-8
KINEMATICS = Kinematics(
    (("u", False), ("v", False), ("w", False), ("theta", False), ("phi", False), ("psi", False)),
    (
        (Term("u", 1),),
        (Term("theta", 1),),
        (Term("phi", 1),),
        (Term("psi", 1),),
        (Term("phi", 0), Term("w", 1)),
        (Term("psi", 0), Term("v", 1)),
    ),
    (Term("w", 0), Term("v", 0), Term("u", 0), Term("phi", 0), Term("psi", 0), Term("theta", 0)),
    (("u", 0), ("v", 0), ("w", 0), ("theta", 0), ("phi", 0), ("psi", 0)),
    (("v", 0), ("w", 0)),
    (("u", 0), ("theta", 0)),
    Term("phi", 0),
)


class Tube(msgspec.Struct, frozen=True):
    """Span, inside diameter along it, overlap of each wrap in m, and what it is filled with, if anything."""

    span: Spanned
    diameter: WidthLaw
    overlap: float = 0.0
    filling: Material | None = None

    @property
    def ends(self) -> tuple[float, float]:
        """Smallest and largest inside diameter on the span, m."""
        places = [0.0, self.span.length, *(x for x, _ in self.diameter.points if 0.0 < x < self.span.length)]
        widths = self.diameter(np.array(places))
        return float(widths.min()), float(widths.max())


class Walls:
    """The wall along a tube: a stack at each place, of which there are only a few.

    ``breaks`` : where it changes, m.
    """

    def __init__(self, stretches: Sequence[Stretch]) -> None:
        self.stretches = tuple(stretches)
        self.breaks = tuple(stretch.low for stretch in stretches[1:])
        self.plates = [PlateSection(stretch.stack) for stretch in stretches]

    def index(self, x: np.ndarray) -> np.ndarray:
        """Which stretch each place lies in: (places,)."""
        return stretch_at(self.stretches, x)

    def thickness(self, x: np.ndarray) -> np.ndarray:
        """m, (places,)."""
        return np.array([plate.stack.thickness for plate in self.plates])[self.index(x)]


class TubeActing:
    """A load case of a tube as the wall sees it: nothing presses on the wall itself."""

    def __init__(self, case: SpanCase) -> None:
        self.name, self.key = case.name, case.key
        self.pressures: tuple[float, ...] = ()
        self.patches: tuple[PatchLoad, ...] = ()


class TubeCase:
    """One load case on one stretch of wall: samples along the span (x) and round the section (y, rad from the top)."""

    def __init__(self, result: SpanResult, x: np.ndarray, forces: np.ndarray, ring: Ring) -> None:
        self.result, self.x, self.y = result, x, AROUND
        self.forces, self._ring = forces, ring
        self.case = TubeActing(result.case)
        self.left_out = np.zeros((len(x), len(AROUND)), bool)

    @cached_property
    def strains(self) -> np.ndarray:
        """(x, angles, 11)."""
        return self._ring.wall_strains(self.forces, AROUND)

    def place(self, i: int, j: int) -> Place:
        return Place(float(self.x[i]), around=round(float(np.degrees(AROUND[j])), 6))

    def nearest(self, place: Place) -> tuple[int, int]:
        """The sample nearest to a place; the top where none is named."""
        i = 0 if place.x is None else int(np.argmin(np.abs(self.x - place.x)))
        around = np.radians(place.around or 0.0)
        return i, int(np.argmax(np.cos(AROUND - around)))

    def ply_shear(self, _section: PlateSection) -> None:
        """A thin wall passes no shear across its plies worth looking at."""
        return


class TubeResponse(SpanAnswers):
    """Everything the checks need of one tube; layers are laid on its inside diameter, the mandrel's, so that it grows
    outward."""

    def __init__(self, member: Tube, wall: Stack | tuple[Stretch, ...], cases: Sequence[SpanCase], order: int = ORDER,
                 parts: int = 1, with_frequencies: bool = True) -> None:  # fmt: skip
        length = member.span.length
        for case in cases:
            case.check_on(length)
        self.member = member
        self.derived: dict[str, list[np.ndarray]] = {}  # what one check worked out and others need too
        self.walls = Walls(whole(wall, length) if isinstance(wall, Stack) else wall)
        check_tube(member)
        knots = [x for x, _ in member.diameter.points if 0.0 < x < length]
        self.model = SpanModel(member.span, KINEMATICS, self._stiffness, self._inertia, cases,
                               [*knots, *self.walls.breaks], order=order, parts=parts)  # fmt: skip
        self.results = self.model.results()
        self.x = self.model.x
        self.sections = self._sections(self.x, self.model.centres)
        self.radii = np.empty(len(self.x))
        self.forces = [np.empty((len(self.x), 6)) for _ in self.results]
        for _, at, ring in self.sections:
            self.radii[at] = ring.radius
            for forces, result in zip(self.forces, self.results, strict=True):
                # of the wall: what a filling carries is its own
                forces[at] = (ring.wall_stiffness @ result.strains[at][..., None])[..., 0]
        self.frequencies = self.model.frequencies() if with_frequencies else ()
        self.mass, self.area = self._mass_and_area()
        self.areal_mass = self.mass / self.area
        self.fields = tuple(self._fields())
        self.measures = self._measures()

    # --- sections along the span ------------------------------------------------------------------------------

    def wall(self, x: float) -> tuple[PlateSection, float, tuple[int, ...]]:
        """The wall at a place, its mean radius in m, and which of the whole wall's layers it has."""
        index = int(self.walls.index(np.array([x]))[0])
        plate = self.walls.plates[index]
        radius = float(self.member.diameter(np.array([x]))[0] + plate.stack.thickness) / 2.0
        return plate, radius, self.walls.stretches[index].rows

    def _sections(self, x: np.ndarray, centres: np.ndarray) -> list[tuple[int, np.ndarray, Ring]]:
        """Sections at places in cells with these centres, those of one wall together: (stretch, indices, sections)."""
        which = self.walls.index(centres)
        filling = self.member.filling
        modulus = 0.0
        if filling is not None:
            modulus = next((filling.value(key) for key in ("E1", "E3") if key in filling.properties), 0.0)
        sections = []
        for index in np.unique(which):
            at, plate = np.nonzero(which == index)[0], self.walls.plates[index]
            radius = (self.member.diameter(x[at]) + plate.stack.thickness) / 2.0
            sections.append((int(index), at, Ring(plate, radius, modulus)))
        return sections

    def _stiffness(self, x: np.ndarray) -> np.ndarray:
        stiffness = np.empty((len(x), 6, 6))
        for _, at, ring in self._sections(x, x):
            stiffness[at] = ring.stiffness
        return stiffness

    def _inertia(self, x: np.ndarray) -> np.ndarray:
        """kg/m for w, v, u; kg m for turns about y, z and x."""
        inertia = np.empty((len(x), 6))
        density = 0.0 if self.member.filling is None else self.member.filling.value("density")
        which, diameters = self.walls.index(x), self.member.diameter(x)
        for index, plate in enumerate(self.walls.plates):
            at = np.nonzero(which == index)[0]
            inner = diameters[at] / 2.0
            R = inner + plate.stack.thickness / 2.0
            wall, inside = plate.areal_mass * 2.0 * np.pi * R, density * np.pi * inner**2
            turn = wall * R**2 / 2.0 + inside * inner**2 / 4.0
            line = wall + inside + self.member.overlap * plate.areal_mass
            inertia[at, :3], inertia[at, 3:5], inertia[at, 5] = line[:, None], turn[:, None], 2.0 * turn
        return inertia

    def _mass_and_area(self) -> tuple[float, float]:
        """kg, and m² of wall at its middle; the section is even or straight between the borders of cells."""
        nodes = self.model.nodes
        low, high = nodes[:-1], nodes[1:]
        inside = 1e-9 * (high - low)
        mass = (high - low) * (self._inertia(low + inside)[:, 0] + self._inertia(high - inside)[:, 0]) / 2.0
        if self.member.filling is not None:  # π r² is not straight: Simpson's rule
            middle = self._inertia((low + high) / 2.0)[:, 0]
            mass = (2.0 * mass + 4.0 * (high - low) * middle) / 6.0
        middles = (low + high) / 2.0
        diameter = self.member.diameter(middles) + self.walls.thickness(middles)
        area = float(np.sum((high - low) * np.pi * diameter))
        return float(mass.sum()), area

    def _fields(self) -> list[WallField]:
        """One field for each wall there is along the span."""
        fields = []
        for index, at, ring in self.sections:
            cases = tuple(
                TubeCase(result, self.x[at], forces[at], ring)
                for result, forces in zip(self.results, self.forces, strict=True)
            )
            rows = self.walls.stretches[index].rows
            fields.append(WallField(ring.plate.stack, ring.plate, cases, rows=rows, stations=at))
        return fields

    # --- its own numbers --------------------------------------------------------------------------------------

    @property
    def thickness(self) -> float:
        """Of the thickest wall, m."""
        return max(plate.stack.thickness for plate in self.walls.plates)

    def remarks(self) -> tuple[str, ...]:
        """What of the theory is at its edge."""
        largest = 2.0 * float(self.radii.max())
        remarks = []
        if self.thickness > 0.4 * (self.member.ends[0] / 2.0 + self.thickness):
            text = "the wall is thicker than 0.4 of the outer radius: stress through it is taken as even along s"
            remarks.append(text)
        if self.member.span.length < 5.0 * largest:
            remarks.append("shorter than five diameters: the ends' own deformation is not counted")
        return tuple(remarks)

    def _measures(self) -> dict[str, tuple[Measured, ...]]:
        deflections: list[Measured] = []
        twists: list[Measured] = []
        rotations: list[Measured] = []
        buckling: list[Measured] = []
        remarks = self.remarks()
        for result in self.results:
            case = result.case
            w, v = result.displacements["w"], result.displacements["v"]
            moved = np.hypot(w, v)
            k = int(np.argmax(moved))
            more: tuple[str, ...] = (
                () if result.drop_factor == 1.0 else (f"the fall counts {result.drop_factor:.1f} times the weight",)
            )
            if abs(v[k]) > 0.02 * moved[k] > 0.0:
                more += (f"it moves sideways too, {abs(v[k]) / moved[k]:.0%} of that: fibres wind one way",)
            if moved[k] > 0.1 * self.member.span.length:
                more += ("deflection is more than a tenth of the length: small-deflection theory is off by then",)
            place = float(self.x[k])
            deflections.append(Measured(float(moved[k]), case.name, case.key, place, None, (*remarks, *more)))
            for measured, name in ((twists, "theta"), (rotations, "turn")):
                values = np.abs(result.displacements[name])
                j = int(np.argmax(values))
                measured.append(Measured(float(np.degrees(values[j])), case.name, case.key, float(self.x[j])))
            if np.isfinite(result.buckling):
                buckling.append(Measured(result.buckling, case.name, case.key))
        thickness = self.walls.thickness(self.model.centres)
        return {"deflection": tuple(deflections), "rotation": tuple(rotations), "twist": tuple(twists),
                "strut": tuple(buckling), "thickness": (Measured(self.thickness),),
                "diameter": (Measured(float((2.0 * self.radii + thickness).max())),)}  # fmt: skip


def check_tube(member: Tube) -> None:
    """Raises MemberError where a wrap's overlap reaches round the tube."""
    smallest = member.ends[0]
    if not 0.0 <= member.overlap < np.pi * smallest:
        raise MemberError(f"an overlap of {both_units(member.overlap)} does not fit round the tube")
