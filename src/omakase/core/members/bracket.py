"""A bracket: a strip of one laminate bent once, held at the end of its first arm and loaded at the end of its second.

Section forces come from statics; the arms are computed as strips, the bend by the theory of ``bend``.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from functools import cached_property
from typing import NamedTuple

import msgspec
import numpy as np

from omakase.core.errors import MemberError, both_units
from omakase.core.laminate.bend import BendStress, radial_strength
from omakase.core.laminate.stack import Stack
from omakase.core.members.field import Measured, Place, WallField
from omakase.core.plates.loads import PatchLoad
from omakase.core.plates.section import PlateSection
from omakase.core.sections.profile import StripWall

ON_ARM, ON_BEND = 41, 61  # places looked at
WIDE = 1.0  # widths per arm from which it bends flat across
WORKING_STRAIN = 3e-3  # at limit load, up to which carbon laminates are taken to withstand many million cycles
WEIGHTLESS = "its own weight is not counted: it is small beside what a bracket carries"
SMALLEST, LARGEST = 1e-3, 2.0  # m, of arms


class Bracket(msgspec.Struct, frozen=True):
    """``arm`` : straight length from the held end to the bend, ``reach`` : from the bend to the loaded end,
    ``radius`` : inside, ``width``, all m; ``angle`` : by which it turns, degrees.  Face A lies inside.

    Raises MemberError.
    """

    arm: float
    reach: float
    radius: float
    width: float
    angle: float = 90.0

    def __post_init__(self) -> None:
        for name, size in (("first arm", self.arm), ("second arm", self.reach), ("width", self.width)):
            if not SMALLEST <= size <= LARGEST:
                raise MemberError(f"a {name} of {both_units(size)} is outside 1 mm to 2 m (0.04 in to 79 in)")
        if not 1e-4 <= self.radius <= LARGEST:
            raise MemberError(f"an inside radius of {both_units(self.radius)} is outside 0.1 mm to 2 m")
        if not 5.0 <= self.angle <= 175.0:
            raise MemberError("a bend turns by 5 to 175 degrees")


class TipForce(msgspec.Struct, frozen=True):
    """At the end of the second arm: ``opening`` N square to it, positive opening the bend; ``along`` N along it, away
    from the bend; ``moment`` N m, positive opening."""

    opening: float = 0.0
    along: float = 0.0
    moment: float = 0.0


class BracketCase(msgspec.Struct, frozen=True):
    """A named sum of limit loads at the tip; ``gravity`` : times g, not counted and told."""

    name: str
    loads: tuple[TipForce, ...] = ()
    id: str = ""
    gravity: float = 0.0

    @property
    def key(self) -> str:
        return self.id or self.name

    @property
    def pressures(self) -> tuple[float, ...]:
        return ()

    @property
    def patches(self) -> tuple[PatchLoad, ...]:
        return ()


class Line(msgspec.Struct, frozen=True, eq=False):
    """The middle of the laminate: ``s`` m along it, ``points`` (n, 2) m from the held end, ``tangent`` (n, 2), and
    which places lie in the ``bend``."""

    s: np.ndarray
    points: np.ndarray
    tangent: np.ndarray
    bend: np.ndarray


def middle_line(member: Bracket, thickness: float) -> Line:
    """Of a laminate of a thickness in m; the first arm lies along x, and the bend turns toward y."""
    radius, turn = member.radius + thickness / 2.0, np.radians(member.angle)
    first = np.linspace(0.0, member.arm, ON_ARM)
    angles, second = np.linspace(0.0, turn, ON_BEND), np.linspace(0.0, member.reach, ON_ARM)
    arc = np.stack([member.arm + radius * np.sin(angles), radius * (1.0 - np.cos(angles))], axis=1)
    along = np.array([np.cos(turn), np.sin(turn)])
    points = np.concatenate([np.stack([first, 0.0 * first], axis=1), arc, arc[-1] + second[:, None] * along])
    tangents = np.concatenate([np.zeros(ON_ARM), angles, np.full(ON_ARM, turn)])
    s = np.concatenate([first, member.arm + radius * angles, member.arm + radius * turn + second])
    bend = np.zeros(len(s), bool)
    bend[ON_ARM : ON_ARM + ON_BEND] = True
    return Line(s, points, np.stack([np.cos(tangents), np.sin(tangents)], axis=1), bend)


class SectionForces(msgspec.Struct, frozen=True, eq=False):
    """Along the line: ``moment`` N m, positive opening the bend, ``axial`` N, tension positive, ``shear`` N."""

    moment: np.ndarray
    axial: np.ndarray
    shear: np.ndarray


def section_forces(line: Line, case: BracketCase) -> SectionForces:
    """Of the free part behind each place."""
    along = line.tangent[-1]
    outward = np.array([along[1], -along[0]])  # away from the inside: opens
    force = np.zeros(2)
    moment = 0.0
    for load in case.loads:
        force += load.opening * outward + load.along * along
        moment += load.moment
    arms = line.points[-1] - line.points
    about = -(arms[:, 0] * force[1] - arms[:, 1] * force[0]) + moment
    normal = np.stack([-line.tangent[:, 1], line.tangent[:, 0]], axis=1)
    return SectionForces(about, line.tangent @ force, normal @ force)


class BracketWallCase:
    """One load case on the wall: places along the line (x), one across (y)."""

    def __init__(self, case: BracketCase, response: BracketResponse, forces: SectionForces) -> None:
        self.case, self.forces = case, forces
        self.x, self.y = response.line.s, np.zeros(1)
        self._response = response
        self.left_out = np.zeros((len(self.x), 1), bool)

    @cached_property
    def strains(self) -> np.ndarray:
        """(x, 1, 11); in the bend the curvature is raised to what the surfaces see there."""
        own, width = self._response, self._response.member.width
        given = np.stack([self.forces.axial / width, self.forces.moment / width], axis=1)
        small = given @ own.flexible.T  # (ε, κ)
        small[own.line.bend, 1] *= own.raised
        strains = np.zeros((len(self.x), 1, 11))
        strains[:, 0, :9] = small[:, :1] * own.wall.recover[:, 0] + small[:, 1:] * (
            own.wall.recover[:, 1] + own.wall.recover[:, 2]
        )
        shear = self.forces.shear / width / own.wall.stiffness[3, 3]
        strains[:, 0, 9:] = shear[:, None] * own.wall.shear_recover
        return strains

    def place(self, i: int, _j: int) -> Place:
        return Place(float(self.x[i]))

    def nearest(self, place: Place) -> tuple[int, int]:
        return (0 if place.x is None else int(np.argmin(np.abs(self.x - place.x)))), 0

    def ply_shear(self, _section: PlateSection) -> np.ndarray | None:
        """Shear force over the width."""
        shear = np.zeros((len(self.x), 1, 2))
        shear[:, 0, 0] = self.forces.shear / self._response.member.width
        return shear


class WorstBorder(NamedTuple):
    """Between which layers a bend parts first: the sampled ``place``, the ``layer``; ``pulled``, ``slid`` : radial and
    shear stress over their strengths per moment and per shear force of a width; ``moment`` N, ``shear`` N/m there."""

    place: int
    layer: int
    pulled: float
    slid: float
    moment: float
    shear: float


class BracketResponse:
    """Everything the checks need of one bracket."""

    def __init__(self, member: Bracket, stack: Stack, cases: Sequence[BracketCase]) -> None:
        self.member, self.stack, self.cases = member, stack, tuple(cases)
        self.plate = PlateSection(stack)
        if self.plate.faces:
            raise MemberError("a bracket is solid: remove the core, the bend would crush it")
        self.wide = member.width > WIDE * max(member.arm, member.reach)
        self.wall = StripWall(self.plate, self.wide)
        tie = np.array([[1.0, 0.0], [0.0, 1.0], [0.0, 1.0]])
        self.flexible = np.linalg.inv(tie.T @ self.wall.stiffness[:3, :3] @ tie)  # (ε, κ) of (N, M) per width
        self.bend = BendStress(stack, member.radius, self.wide)
        self.raised = self.bend.thick(float(self.flexible[1, 1]), float(self.flexible[0, 1]))
        self.line = middle_line(member, stack.thickness)
        self.forces = tuple(section_forces(self.line, case) for case in self.cases)
        self.area = float(self.line.s[-1] * member.width)
        self.areal_mass = self.plate.areal_mass
        self.mass = self.area * self.areal_mass
        self.frequencies: tuple[float, ...] = ()
        walls = tuple(BracketWallCase(case, self, forces) for case, forces in zip(self.cases, self.forces, strict=True))
        self.fields = (WallField(stack, self.plate, walls),)
        self.measures = self._measures()

    @property
    def left_over(self) -> float:
        """Moment at the held end against that of the loads about it, worked out apart, relative to the largest."""
        worst = 0.0
        for case, forces in zip(self.cases, self.forces, strict=True):
            turn = np.radians(self.member.angle)
            radius = self.member.radius + self.stack.thickness / 2.0
            x = self.member.arm + radius * np.sin(turn) + self.member.reach * np.cos(turn)
            y = radius * (1.0 - np.cos(turn)) + self.member.reach * np.sin(turn)
            total = sum(
                load.moment + load.opening * (x * np.cos(turn) + y * np.sin(turn))
                + load.along * (y * np.cos(turn) - x * np.sin(turn)) for load in case.loads
            )  # fmt: skip
            size = max(float(np.abs(forces.moment).max()), 1e-12)
            worst = max(worst, abs(float(forces.moment[0]) - float(total)) / size)
        return worst

    @property
    def case_remarks(self) -> Mapping[str, tuple[str, ...]]:
        """The working strain, by which fatigue is judged."""
        if all(layer.material.is_metal for layer in self.stack.layers):
            return {}
        remarks = {}
        for case in self.fields[0].cases:
            strains = case.strains[:, 0]
            half = self.stack.thickness / 2.0
            most = float(np.abs(strains[:, [0]] + np.array([[half, -half]]) * strains[:, [3]]).max())
            verdict = "below" if most <= WORKING_STRAIN else "above"
            remarks[case.case.key] = (
                f"{1e6 * most:,.0f} µε at limit load, {verdict} the {1e6 * WORKING_STRAIN:,.0f} µε up to which carbon "
                "laminates are taken to withstand many million cycles (common practice, no source)",
            )
        return remarks

    def _measures(self) -> dict[str, tuple[Measured, ...]]:
        remarks: tuple[str, ...] = ()
        if self.stack.thickness > self.member.radius:
            remarks += ("thicker than its inside radius: the stresses in the bend are right, its making may not be",)
        if min(self.member.arm, self.member.reach) < 2.0 * self.stack.thickness:
            remarks += ("an arm is shorter than twice the thickness: how it is held disturbs the bend",)
        deflections = tuple(
            Measured(
                self.deflection(forces),
                case.name,
                case.key,
                float(self.line.s[-1]),
                None,
                (*remarks, WEIGHTLESS) if case.gravity else remarks,
            )
            for case, forces in zip(self.cases, self.forces, strict=True)
        )
        return {"deflection": deflections, "thickness": (Measured(self.stack.thickness),)}

    def deflection(self, forces: SectionForces) -> float:
        """How far the loaded end moves, m: by unit forces (Castigliano) from bending, stretch and shear."""
        width = self.member.width
        strain = np.stack([forces.axial, forces.moment], axis=1) / width @ self.flexible.T
        shear = forces.shear / width / self.wall.stiffness[3, 3]
        moved = []
        for unit in (TipForce(opening=1.0), TipForce(along=1.0)):
            one = section_forces(self.line, BracketCase("one", (unit,)))
            work = strain[:, 0] * one.axial + strain[:, 1] * one.moment + shear * one.shear
            moved.append(float(np.trapezoid(work, self.line.s)))
        return math.hypot(*moved)

    @cached_property
    def _borders(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Inside the bend, at every border of cells and on both its sides: the layer, the radial stress of 1 N m/m over
        that layer's strength, and the shear stress of 1 N/m over its."""
        distribution = self.plate.transverse_shear
        assert distribution is not None  # solid
        owners, pulled, slid = [], [], []
        for k, i in self.bend.borders():
            z = self.stack.thickness / 2.0 - (self.bend.r[k] - self.bend.r[0])
            layer = self.stack.layers[i]
            owners.append(i)
            pulled.append(self.bend.radial[k] / radial_strength(layer)[0])
            shear = float(distribution.distribution(i, float(z))[0, 0])
            slid.append(abs(shear) / layer.material.value("S13"))
        return np.array(owners), np.array(pulled), np.array(slid)

    def delamination(self, forces: SectionForces) -> tuple[float, int, int, bool]:
        """Largest √((σ_r/Z_t)² + (τ/S13)²) over the bend at limit load: (index, place, layer, whether all strengths are
        stated).  Radial pressure does no harm."""
        worst = self.worst_border(forces)
        index = float(np.hypot(max(worst.pulled * worst.moment, 0.0), worst.slid * worst.shear))
        return index, worst.place, worst.layer, radial_strength(self.stack.layers[worst.layer])[1]

    def worst_border(self, forces: SectionForces) -> WorstBorder:
        """Where ``delamination`` is largest at limit load."""
        bend = np.nonzero(self.line.bend)[0]
        owners, pulled, slid = self._borders
        moment, shear = (values[bend] / self.member.width for values in (forces.moment, forces.shear))
        squares = np.maximum(np.outer(pulled, moment), 0.0) ** 2 + np.outer(slid, shear) ** 2
        height, at = np.unravel_index(int(np.argmax(squares)), squares.shape)
        return WorstBorder(
            int(bend[at]), int(owners[height]), float(pulled[height]), float(slid[height]), float(moment[at]),
            float(shear[at]),
        )  # fmt: skip
