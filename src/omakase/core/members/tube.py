"""A round tube, constant or tapering, bare or filled: bent, twisted, pulled and pressed, all at once."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import cached_property
from itertools import pairwise

import msgspec
import numpy as np

from omakase.core.errors import MemberError, both_units
from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material
from omakase.core.members.field import Measured, Place, WallField
from omakase.core.members.span import Diagrams, Kinematics, SpanModel, SpanResult, Term
from omakase.core.members.span_loads import SpanCase, Spanned
from omakase.core.members.strip import WidthLaw
from omakase.core.plates.loads import PatchLoad
from omakase.core.plates.section import PlateSection
from omakase.core.sections.ring import Ring

AROUND = np.radians(np.arange(0.0, 360.0, 15.0))
STRETCHES = 8  # of a tube whose wall changes with its diameter
ORDER = 6
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
    """Span, outside diameter along it, overlap of each wrap in m, and what it is filled with, if anything."""

    span: Spanned
    diameter: WidthLaw
    overlap: float = 0.0
    filling: Material | None = None

    @property
    def ends(self) -> tuple[float, float]:
        """Smallest and largest outside diameter on the span, m."""
        places = [0.0, self.span.length, *(x for x, _ in self.diameter.points if 0.0 < x < self.span.length)]
        widths = self.diameter(np.array(places))
        return float(widths.min()), float(widths.max())


StackAt = Callable[[float], Stack]


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

    def ply_shear(self, _section: PlateSection) -> None:
        """A thin wall passes no shear across its plies worth looking at."""
        return


class TubeResponse:
    """Everything the checks need of one tube.  ``stack_at`` : the wall of a tube of an outside diameter."""

    def __init__(self, member: Tube, stack_at: StackAt, cases: Sequence[SpanCase], order: int = ORDER, parts: int = 1,
                 with_frequencies: bool = True) -> None:  # fmt: skip
        for case in cases:
            case.check_on(member.span.length)
        self.member = member
        self._stack_at = stack_at
        self._walls: dict[Stack, PlateSection] = {}
        smallest, largest = member.ends
        first = stack_at(smallest)
        self._changes = smallest < largest * (1.0 - 1e-9) and stack_at(largest) is not first
        self.stretches = self._stretches(smallest, largest)
        self.stack = stack_at(float(member.diameter(np.zeros(1))[0]))
        knots = [x for x, _ in member.diameter.points if 0.0 < x < member.span.length]
        self.model = SpanModel(member.span, KINEMATICS, self._stiffness, self._inertia, cases, knots, order=order,
                               parts=parts)  # fmt: skip
        self.results = self.model.results()
        self.x = self.model.x
        self.diameters = member.diameter(self.x)
        self.sections = self.rings(self.diameters)
        self.radii = np.empty(len(self.x))
        self.forces = [np.empty((len(self.x), 6)) for _ in self.results]
        for at, ring in self.sections:
            self.radii[at] = ring.radius
            for forces, result in zip(self.forces, self.results, strict=True):
                # of the wall: what a filling carries is its own
                forces[at] = np.linalg.solve(ring.compliance, result.strains[at][..., None])[..., 0]
        self.frequencies = self.model.frequencies() if with_frequencies else ()
        self.mass, self.area = self._mass_and_area()
        self.areal_mass = self.mass / self.area
        self.fields = tuple(self._fields())
        self.measures = self._measures()

    @property
    def diagrams(self) -> tuple[Diagrams, ...]:
        return tuple(result.diagrams for result in self.results)

    @property
    def left_over(self) -> float:
        """Largest share of the loads that reactions do not balance."""
        return max((result.left_over for result in self.results), default=0.0)

    # --- sections along the span ------------------------------------------------------------------------------

    def _stretches(self, smallest: float, largest: float) -> np.ndarray:
        """Diameters at which the wall is worked out, where it changes with the diameter; else none."""
        if not self._changes:
            return np.zeros(0)
        return np.linspace(smallest, largest, STRETCHES + 1)

    def wall_at(self, diameter: float) -> PlateSection:
        """The wall where the tube is so wide outside; where it changes, that of the nearest of a few diameters."""
        if len(self.stretches):
            diameter = float(self.stretches[np.argmin(np.abs(self.stretches - diameter))])
        stack = self._stack_at(diameter)
        if stack not in self._walls:
            self._walls[stack] = PlateSection(stack)
        return self._walls[stack]

    def rings(self, diameters: np.ndarray) -> list[tuple[np.ndarray, Ring]]:
        """Sections of so many diameters, those of one wall together: (indices, sections of these)."""
        modulus = self._filling_modulus()
        return [
            (at, Ring(plate, (diameters[at] - plate.stack.thickness) / 2.0, modulus))
            for plate, at in self._by_wall(diameters)
        ]

    def _by_wall(self, diameters: np.ndarray) -> list[tuple[PlateSection, np.ndarray]]:
        if not len(self.stretches):
            return [(self.wall_at(float(diameters[0])), np.arange(len(diameters)))]
        groups: dict[PlateSection, list[int]] = {}
        for i, diameter in enumerate(diameters):
            groups.setdefault(self.wall_at(float(diameter)), []).append(i)
        return [(plate, np.array(at)) for plate, at in groups.items()]

    def _filling_modulus(self) -> float:
        filling = self.member.filling
        if filling is None:
            return 0.0
        return next((filling.value(key) for key in ("E1", "E3") if key in filling.properties), 0.0)

    def _stiffness(self, x: np.ndarray) -> np.ndarray:
        found = np.empty((len(x), 6, 6))
        for at, ring in self.rings(self.member.diameter(x)):
            found[at] = ring.stiffness
        return found

    def _inertia(self, x: np.ndarray) -> np.ndarray:
        """kg/m for w, v, u; kg m for turns about y, z and x."""
        found = np.empty((len(x), 6))
        density = 0.0 if self.member.filling is None else self.member.filling.value("density")
        diameters = self.member.diameter(x)
        for plate, at in self._by_wall(diameters):
            R = (diameters[at] - plate.stack.thickness) / 2.0
            wall, inner = plate.areal_mass * 2.0 * np.pi * R, R - plate.stack.thickness / 2.0
            inside = density * np.pi * inner**2
            turn = wall * R**2 / 2.0 + inside * inner**2 / 4.0
            line = wall + inside + self.member.overlap * plate.areal_mass
            found[at] = np.stack([line, line, line, turn, turn, 2.0 * turn], axis=1)
        return found

    def _mass_and_area(self) -> tuple[float, float]:
        """kg, and m² of wall at its middle, with the overlaps of its wraps."""
        nodes = self.model.nodes
        x = np.unique(np.concatenate([np.linspace(a, b, 5) for a, b in pairwise(nodes)]))
        diameters = self.member.diameter(x)
        around = np.empty(len(x))
        for plate, at in self._by_wall(diameters):
            around[at] = np.pi * (diameters[at] - plate.stack.thickness)
        return float(np.trapezoid(self._inertia(x)[:, 0], x)), float(np.trapezoid(around, x))

    def _fields(self) -> list[WallField]:
        """One field for each wall there is along the span."""
        fields = []
        for at, ring in self.sections:
            cases = tuple(
                TubeCase(result, self.x[at], forces[at], ring)
                for result, forces in zip(self.results, self.forces, strict=True)
            )
            fields.append(WallField(ring.plate.stack, ring.plate, cases))
        return fields

    # --- its own numbers --------------------------------------------------------------------------------------

    def remarks(self) -> tuple[str, ...]:
        """What of the theory is at its edge."""
        smallest, largest = self.member.ends
        found = []
        thickest = max(plate.stack.thickness for plate in self._walls.values())
        if thickest > 0.4 * smallest / 2.0:
            found.append("the wall is thicker than 0.4 of the outer radius: stress through it is taken as even along s")
        if self.member.span.length < 5.0 * largest:
            found.append("shorter than five diameters: the ends' own deformation is not counted")
        return tuple(found)

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
            for found, name in ((twists, "theta"), (rotations, "turn")):
                values = np.abs(result.displacements[name])
                j = int(np.argmax(values))
                found.append(Measured(float(values[j]), case.name, case.key, float(self.x[j])))
            if np.isfinite(result.buckling):
                buckling.append(Measured(result.buckling, case.name, case.key))
        thickest = max(plate.stack.thickness for plate in self._walls.values())
        return {"deflection": tuple(deflections), "rotation": tuple(rotations), "twist": tuple(twists),
                "strut": tuple(buckling), "thickness": (Measured(thickest),),
                "diameter": (Measured(self.member.ends[1]),)}  # fmt: skip


def check_tube(member: Tube, thickness: float) -> None:
    """Raises MemberError where the wall does not fit or a wrap's overlap reaches round the tube."""
    smallest = member.ends[0]
    if thickness >= smallest / 2.0:
        raise MemberError(
            f"a wall of {both_units(thickness)} is thicker than the radius of {both_units(smallest / 2.0)}"
        )
    if not 0.0 <= member.overlap < np.pi * smallest:
        raise MemberError(f"an overlap of {both_units(member.overlap)} does not fit round the tube")
