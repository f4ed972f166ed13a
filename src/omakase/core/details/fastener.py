"""A fastener, or a row of them: what it clamps, what presses on it, and how it may fail."""

from __future__ import annotations

import math
from functools import cached_property
from typing import Literal

import msgspec
import numpy as np

from omakase.core.details.bolts import GRADES, NUT_FACTORS, flexibility, preload, row_shares
from omakase.core.details.detail import (
    DetailError,
    PointCase,
    Site,
    bending_stiffness,
    core_layers,
    faces,
    stiffness_along,
)
from omakase.core.errors import both_units
from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material

CLEARANCE = 1.05  # hole over bolt where no hole is given
HARD_CORE = 3.0e6  # Pa flatwise, from which a core ties the two faces at a bolt (common practice, no source)
EDGE, PITCH = 3.0, 5.0  # times the diameter: distance to an edge, and of fasteners (common practice, no source)


class Sleeve(msgspec.Struct, frozen=True):
    """A hard sleeve round the bolt: outside diameter m, what it is made of, and by how much it is shorter than the
    laminate is thick, m."""

    outside: float
    material: Material
    short: float = 0.0


class Plug(msgspec.Struct, frozen=True):
    """What is round the bolt in place of the core: its diameter in m and its material."""

    diameter: float
    material: Material


class Plate(msgspec.Struct, frozen=True):
    """The part that is fastened on: its material and thickness in m."""

    material: Material
    thickness: float


class Fastener(msgspec.Struct, frozen=True, eq=False, dict=True):
    """``count`` bolts of a ``diameter`` through the site's layup, ``pitch`` m apart in a row at ``row_angle`` degrees.

    ``torque`` N m or ``tightened`` N of preload, or neither; ``washer`` m across, or ``seat`` (length, width) m of a
    plate under the head; ``countersink`` m deep into face A.  ``edge`` m from the hole's middle to the free edge,
    where it is given; else that of the site.  ``cases`` : of the whole row.  Raises DetailError.
    """

    key: str
    name: str
    site: Site
    cases: tuple[PointCase, ...]
    diameter: float
    count: int = 1
    pitch: float = 0.0
    row_angle: float = 0.0
    grade: str = "8.8"
    torque: float | None = None
    tightened: float | None = None
    lubrication: str = "dry"
    washer: float = 0.0
    seat: tuple[float, float] | None = None
    countersink: float = 0.0
    edge: float | None = None
    sleeve: Sleeve | None = None
    plug: Plug | None = None
    plate: Plate | None = None
    kind: Literal["bolt", "pin"] = "bolt"

    def check(self) -> None:
        """Raises DetailError for sizes that cannot be."""
        d = self.diameter
        for fails, field, message in (
            (not 0.5e-3 <= d <= 0.1, "diameter", f"a diameter of {both_units(d)} is outside 0.5 to 100 mm"),
            (self.count < 1, "count", "at least one fastener"),
            (self.count > 1 and self.pitch < 1.5 * d, "pitch", "the fasteners are closer than 1.5 diameters"),
            (self.kind == "bolt" and self.torque is None and self.tightened is None, "torque",
             "a bolt needs a torque or a preload: type one, or make it a pin"),
            ((self.torque or 0.0) < 0.0 or (self.tightened or 0.0) < 0.0, "torque", "a torque is not negative"),
            (self.sleeve is not None and self.sleeve.outside <= self.bore, "sleeve_outside",
             "the sleeve is not larger than the bolt that goes through it"),
            (self.seat is None and self.washer <= self.hole, "washer",
             f"the washer of {both_units(self.washer)} is not larger than the hole of {both_units(self.hole)}"),
            (self.seat is not None and min(self.seat) <= self.hole, "seat_length",
             "the plate is smaller than the hole"),
            (self.edge is None and self.count > 1 and self.sites[-1].nearest < 0.0, "pitch",
             "the last bolt of the row is beyond the edge of the part"),
            (self.edge_distance <= self.hole / 2.0, "edge",
             f"the hole's middle is {both_units(self.edge_distance)} from the edge: nearer than its radius"),
            (self.plate is not None and self.plate.thickness < 1e-5, "plate_thickness",
             "what is fastened on has no thickness"),
            (self.countersink < 0.0, "countersink", "a countersink is not negative"),
            (self.countersink >= self.site.stack.thickness, "countersink", "the countersink goes through the laminate"),
            (self.sleeve is not None and not 0.0 <= self.sleeve.short < self.site.stack.thickness, "sleeve_short",
             "the sleeve is shorter by more than the laminate is thick"),
            (self.plug is not None and self.plug.diameter <= self.hole, "plug_diameter",
             "what is round the bolt is not larger than the hole"),
            (self.plug is not None and not self.soft_core, "plug", "there is no core here to take out"),
        ):  # fmt: skip
            if fails:
                raise DetailError(field, message)

    @property
    def hole(self) -> float:
        """Diameter of the hole in the laminate, m: that of the sleeve where there is one."""
        return self.bore if self.sleeve is None else self.sleeve.outside

    @property
    def bore(self) -> float:
        """Diameter of the hole that the bolt goes through, m."""
        return self.diameter * CLEARANCE

    @property
    def bears(self) -> float:
        """Diameter that bears on the laminate, m: the sleeve's where there is one."""
        return self.diameter if self.sleeve is None else self.sleeve.outside

    @cached_property
    def soft_core(self) -> bool:
        """Whether a core lies between two faces here, of whatever strength."""
        return self.site.stack.core is not None

    @property
    def nut_factor(self) -> float:
        return NUT_FACTORS[self.lubrication]

    @property
    def preload(self) -> float:
        """N that one bolt is tightened to."""
        if self.kind == "pin":
            return 0.0
        if self.torque is not None:
            return preload(self.torque, self.nut_factor, self.diameter)
        return self.tightened or 0.0

    @property
    def edge_distance(self) -> float:
        """m from the bolt of the row that is nearest to a free edge."""
        return self.edge if self.edge is not None else min(site.nearest for site in self.sites)

    @cached_property
    def sites(self) -> tuple[Site, ...]:
        """The site as each bolt of the row sees it: the first is at its place, the others further along."""
        c, s = math.cos(math.radians(self.row_angle)), math.sin(math.radians(self.row_angle))
        low_x, high_x, low_y, high_y = self.site.edges
        steps = [self.pitch * k for k in range(max(self.count, 1))]
        return tuple(
            msgspec.structs.replace(
                self.site, edges=(low_x + c * on, high_x - c * on, low_y + s * on, high_y - s * on)
            )
            for on in steps
        )  # fmt: skip

    def ahead(self, case: PointCase, angle: float) -> float:
        """m to the edge in the direction in which a bolt pushes."""
        if self.edge is not None or case.either_way:
            return self.edge_distance
        return min(site.ahead(angle) for site in self.sites)

    def net_width(self, case: PointCase, angle: float) -> float:
        """Width of laminate that one bolt's load is spread over: the pitch of a row across it, else twice the distance
        to the side, m."""
        across = abs(math.sin(math.radians(angle - self.row_angle))) > math.sin(math.radians(45.0))
        beside = 2.0 * (self.edge_distance if self.edge is not None else min(site.beside(angle) for site in self.sites))
        return min(beside, self.pitch) if self.count > 1 and (across or case.either_way) else beside

    # --- what is pressed --------------------------------------------------------------------------------------

    @cached_property
    def faces(self) -> tuple[Stack, ...]:
        """Face A and face B, or the whole laminate."""
        return faces(self.site.stack)

    @property
    def tied(self) -> bool:
        """Whether a sleeve, a plug or a hard core lets both faces take a force in the plane."""
        if self.site.stack.core is None:
            return True
        return (
            self.sleeve is not None or self.plug is not None
            or all(layer.material.value("Zc") >= HARD_CORE for layer in core_layers(self.site.stack))
        )  # fmt: skip

    def seat_area(self, spread: float = 0.0) -> float:
        """Area under the washer or plate, less the hole, with ``spread`` m more on every side, m²."""
        hole = math.pi / 4.0 * self.hole**2
        if self.seat is not None:
            length, width = self.seat
            return (length + 2.0 * spread) * (width + 2.0 * spread) - hole
        return math.pi / 4.0 * (self.washer + 2.0 * spread) ** 2 - hole

    def seat_perimeter(self, spread: float = 0.0) -> float:
        """Length round the washer or plate, m."""
        if self.seat is not None:
            return 2.0 * (self.seat[0] + self.seat[1]) + 8.0 * spread
        return math.pi * (self.washer + 2.0 * spread)

    @cached_property
    def core_area(self) -> float:
        """Area of core over which a clamp's force gives its largest pressure, m².

        The washer's, spread at 45° through the thinner face (common practice, no source), or less where the face is too
        thin for that: under an even round load of radius a an elastic plate on a bed of springs presses in the middle
        with 1 + x ker'(x) times the load's pressure, x = a (k/D)^(1/4) (Westergaard 1926; Timoshenko and
        Woinowsky-Krieger, plates on an elastic foundation).  Of a plug no more than itself.
        """
        from scipy.special import kerp  # slow to import

        face = min(self.faces, key=lambda own: own.thickness)
        spread = self.seat_area(face.thickness)
        radius = math.sqrt((self.seat_area() + math.pi / 4.0 * self.hole**2) / math.pi)
        x = radius * (self.bed / bending_stiffness(face)) ** 0.25
        area = min(spread, self.seat_area() / float(1.0 + x * kerp(x)))
        if self.plug is not None:
            area = min(area, math.pi / 4.0 * (self.plug.diameter**2 - self.hole**2))
        return area

    @property
    def bed(self) -> float:
        """Pressure on what is between the faces, and how far they come together, N/m³."""
        layers = core_layers(self.site.stack)
        if self.plug is not None:
            return self.plug.material.value("E3") / sum(layer.thickness for layer in layers)
        return 1.0 / sum(layer.thickness / layer.material.value("E3") for layer in layers)

    def core_strength(self) -> tuple[float, str, Material]:
        """(flatwise compressive strength Pa, name, material) of what is between the faces at the bolt."""
        if self.plug is not None:
            own = self.plug.material
            return own.value("Zc"), own.id, own
        weakest = min(core_layers(self.site.stack), key=lambda layer: layer.material.value("Zc"))
        return weakest.material.value("Zc"), weakest.material.id, weakest.material

    def core_stiffness(self) -> float:
        """N/m of what is between the faces, pressed by the clamp."""
        return self.bed * self.core_area

    def sleeve_stiffness(self) -> float:
        """N/m of the sleeve."""
        assert self.sleeve is not None
        return self.sleeve.material.value("E1") * self.sleeve_area / self.site.stack.thickness

    @property
    def sleeve_area(self) -> float:
        assert self.sleeve is not None
        return math.pi / 4.0 * (self.sleeve.outside**2 - self.bore**2)

    def on_core(self, force: float) -> tuple[float, float]:
        """(N on the core, N on the sleeve) of a clamp's force.

        The core alone is pressed until the faces reach the sleeve; what comes beyond goes by stiffness.
        """
        if self.sleeve is None:
            return force, 0.0
        soft, hard = self.core_stiffness(), self.sleeve_stiffness()
        first = min(force, soft * self.sleeve.short)
        share = soft / (soft + hard)
        return first + (force - first) * share, (force - first) * (1.0 - share)

    def clamp_that_crushes(self, strength: float) -> float:
        """Clamp force in N at which the pressure on the core reaches a strength in Pa."""
        bears = strength * self.core_area
        if self.sleeve is None:
            return bears
        soft, hard = self.core_stiffness(), self.sleeve_stiffness()
        first = soft * self.sleeve.short
        return bears if bears <= first else first + (bears - first) * (soft + hard) / soft

    def torque_of(self, force: float) -> float:
        """Torque in N m that gives a preload."""
        return force * self.nut_factor * self.diameter

    # --- what presses -------------------------------------------------------------------------------------------

    def bearing_thickness(self, index: int) -> float:
        """Thickness of a face that bears on the bolt, m: half of a countersink's depth does not (common practice)."""
        thickness = self.faces[index].thickness
        return thickness - (min(self.countersink, thickness) / 2.0 if index == 0 else 0.0)

    def face_shares(self, angle: float) -> tuple[float, ...]:
        """Share of a force in the plane that each face takes: by stiffness where they are tied, else all face A."""
        if len(self.faces) == 1:
            return (1.0,)
        if not self.tied:
            return 1.0, 0.0
        stiff = [stiffness_along(face, angle) for face in self.faces]
        return tuple(own / sum(stiff) for own in stiff)

    def forces(self, case: PointCase) -> np.ndarray:
        """Force in the plane on each bolt of the row, along x and across, (count, 2), N at limit load.

        Across the row all bolts carry the same.  Along it they share by the stiffness of plates and bolts if the
        attached part is known, else equally.  A moment on the row is carried by forces across it, in proportion to the
        distance from its middle.  Raises DetailError where a single bolt would have to carry it.
        """
        if case not in self._known:
            self._known[case] = self._forces(case)
        return self._known[case]

    @cached_property
    def _known(self) -> dict[PointCase, np.ndarray]:
        """Forces that were asked for: every check asks for the same."""
        return {}

    def _forces(self, case: PointCase) -> np.ndarray:
        c, s = math.cos(math.radians(self.row_angle)), math.sin(math.radians(self.row_angle))
        along, across = case.along * c + case.across * s, case.across * c - case.along * s
        shares = np.full(self.count, 1.0 / self.count)
        if self.count > 1 and self.plate is not None:
            shares = self.shares_along
        own = np.stack([along * shares, np.full(self.count, across / self.count) + self.turning(case.turn)], axis=-1)
        return own @ np.array([[c, s], [-s, c]])

    def turning(self, moment: float) -> np.ndarray:
        """Forces across the row that together are a moment about its middle, (count,), N."""
        if moment == 0.0:
            return np.zeros(self.count)
        if self.count == 1:
            raise DetailError("count", f"one bolt cannot carry the moment of {abs(moment):.3g} N m: use a row of two")
        arms = self.pitch * (np.arange(self.count) - (self.count - 1) / 2.0)
        return moment * arms / float(arms @ arms)

    def worst(self, case: PointCase) -> tuple[float, float]:
        """(N, direction in degrees) of the force on the bolt that takes most; toward the nearest edge where the
        direction is not known."""
        forces = self.forces(case)
        sizes = np.hypot(forces[:, 0], forces[:, 1])
        k = int(np.argmax(sizes))
        if case.either_way:
            return float(sizes[k]), self.row_angle
        return float(sizes[k]), math.degrees(math.atan2(forces[k, 1], forces[k, 0]))

    def tension(self, case: PointCase) -> float:
        """N that the load adds to the bolt that takes most: its share of the pull or push, and what tilts the row, or
        tilts a single bolt's head about the rim of its washer."""
        even = abs(case.pull) / self.count
        if case.moment == 0.0:
            return even
        if self.count == 1:
            return even + abs(case.moment) / (self.washer / 2.0 if self.seat is None else min(self.seat) / 2.0)
        return even + float(np.abs(self.turning(case.moment)).max())

    @cached_property
    def shares_along(self) -> np.ndarray:
        """Shares of the bolts of the row under a force along it."""
        assert self.plate is not None
        width = self.pitch if self.pitch else PITCH * self.diameter
        own = stiffness_along(self.site.stack, self.row_angle)
        thickness = sum(face.thickness for face in self.faces) if self.tied else self.faces[0].thickness
        if self.site.stack.core is not None:
            own = sum(stiffness_along(face, self.row_angle) for face in (self.faces if self.tied else self.faces[:1]))
        other = self.plate.material.value("E1")
        give = flexibility(
            self.diameter, (thickness, own / thickness), (self.plate.thickness, other), GRADES[self.grade].modulus
        )
        return row_shares(self.count, self.pitch, own * width, other * self.plate.thickness * width, give)
