"""Half of a lifting surface: a spar whose section is the whole aerofoil, hollow, or filled with a core.

Its planform gives area, mean chord and aspect ratio; the air acts at the quarter chord, about which it may turn the
section too.  A core that fills it is stiff and heavy, holds the skins against buckling, and shears.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import cached_property
from itertools import pairwise
from typing import Literal

import msgspec
import numpy as np

from omakase.core.errors import MemberError, both_units
from omakase.core.materials.material import Material
from omakase.core.members.field import Measured
from omakase.core.members.span import SpanResult
from omakase.core.members.span_loads import MAX_LENGTH, MIN_LENGTH, SpanCase
from omakase.core.members.spar import ORDER, STATIONS, WEBS, SparResponse
from omakase.core.members.spar_given import Spar
from omakase.core.members.stretches import Stretch
from omakase.core.members.strip import WidthLaw
from omakase.core.sections.thin_walled import MidLines

AIR_DENSITY = 1.225  # kg/m³ at sea level, standard atmosphere
ELLIPTIC_PIECES = 8
TIP_KEPT = 0.25  # chord over root chord at which the structure of a half-elliptic planform is taken to end
ELEMENTS = 24  # of the equation of divergence
FAST = 250.0  # m/s, beyond which air can no longer be taken as incompressible
SWEPT = 30.0  # degrees, beyond which a straight beam along the axis is a poor model
Form = Literal["tapered", "half_elliptic", "stations"]


class Planform(msgspec.Struct, frozen=True, dict=True):
    """Chord along the flow at places along the axis of one half, m; the axis is swept by ``sweep`` degrees.

    ``length`` of the half along its axis.  Raises MemberError.
    """

    form: Form
    length: float
    root: float
    tip: float = 0.0
    stations: tuple[tuple[float, float], ...] = ()
    sweep: float = 0.0

    def __post_init__(self) -> None:
        if not MIN_LENGTH <= self.length <= MAX_LENGTH:
            raise MemberError(f"a length of {both_units(self.length)} is outside 10 mm to 50 m (0.4 in to 164 ft)")
        if not abs(self.sweep) <= 60.0:
            raise MemberError("an axis is swept by at most 60 degrees")
        if self.form == "stations":
            if len(self.stations) < 2:
                raise MemberError("a planform by stations needs two of them or more")
            if any(not two[0] > one[0] for one, two in pairwise(self.stations)):
                raise MemberError("stations of the chord must lie one further out than the other")
        sizes = [size for _, size in self.stations] if self.form == "stations" else [self.root]
        sizes += [self.tip] if self.form == "tapered" else []
        if not all(0.01 <= size <= 20.0 for size in sizes):
            raise MemberError("a chord lies between 10 mm and 20 m (0.4 in to 66 ft)")

    @property
    def cosine(self) -> float:
        """Of the sweep."""
        return float(np.cos(np.radians(self.sweep)))

    @property
    def span(self) -> float:
        """Of both halves across the flow, m."""
        return 2.0 * self.length * self.cosine

    @property
    def area(self) -> float:
        """Of one half, m²: of a half-elliptic one π/4 · half span · root chord (exact)."""
        if self.form == "half_elliptic":
            return np.pi / 4.0 * self.span / 2.0 * self.root
        x, c = (np.array(column) for column in zip(*self.law.points, strict=True))
        ends = np.unique(np.concatenate([[0.0, self.length], x[(x > 0.0) & (x < self.length)]]))
        return float(np.trapezoid(np.interp(ends, x, c), ends)) * self.cosine

    @property
    def aspect_ratio(self) -> float:
        """Span² over the area of both halves."""
        return self.span**2 / (2.0 * self.area)

    @property
    def mean_chord(self) -> float:
        """Area over span, m."""
        return 2.0 * self.area / self.span

    @property
    def lift_slope(self) -> float:
        """Of lift over angle, 1/rad: 2π A/(A + 2) (lifting line of an elliptic wing, Prandtl 1918)."""
        return 2.0 * np.pi * self.aspect_ratio / (self.aspect_ratio + 2.0)

    @cached_property
    def law(self) -> WidthLaw:
        """The chord in straight pieces; near the tip of an ellipse it stays at a quarter of the root's."""
        if self.form == "stations":
            return WidthLaw(self.stations)
        if self.form == "tapered":
            return WidthLaw(((0.0, self.root), (self.length, self.tip)))
        end = np.sqrt(1.0 - TIP_KEPT**2)
        angles = np.linspace(0.0, np.arcsin(end), ELLIPTIC_PIECES + 1)
        points = [(self.length * float(np.sin(a)), self.root * float(np.cos(a))) for a in angles]
        return WidthLaw((*points, (self.length, TIP_KEPT * self.root)))


class Surface(msgspec.Struct, frozen=True):
    """``beam`` : span along the axis and the section across it; ``filling`` : a core that fills it, or None.

    ``reference`` : where loads act on the section by themselves, as a share of the chord.
    """

    beam: Spar
    planform: Planform
    filling: Material | None = None
    reference: float = 0.3


class CoreSection(msgspec.Struct, frozen=True, eq=False):
    """What fills the sections, (stations,): area m², first and second moments m³, m⁴, and Saint-Venant's torsion
    constant A⁴/(4π² I_p) m⁴ (his estimate for solid sections, 1855; exact for an ellipse)."""

    area: np.ndarray
    y: np.ndarray
    z: np.ndarray
    yy: np.ndarray
    zz: np.ndarray
    yz: np.ndarray
    torsion: np.ndarray


def core_section(lines: MidLines, thickness: np.ndarray) -> CoreSection:
    """Inside of the closed run of pieces, in their order, less half the ``thickness`` (stations, pieces) m of each.

    The polygon of the mid-line by Green's theorem; the strip of half a wall is taken off along the mid-line, which is
    right to the first order of the thickness.
    """
    nodes, after = (lines.nodes[:, lines.pieces[:, end]] for end in (0, 1))
    y0, z0 = np.moveaxis(nodes, -1, 0)
    y1, z1 = np.moveaxis(after, -1, 0)
    cross = y1 * z0 - y0 * z1  # the way of the clock: positive inside
    half = thickness / 2.0 * lines.lengths
    my, mz = (y0 + y1) / 2.0, (z0 + z1) / 2.0

    def less(polygon: np.ndarray, strip: np.ndarray) -> np.ndarray:
        return np.asarray(polygon.sum(axis=1) - strip.sum(axis=1))

    area = less(cross / 2.0, half)
    y, z = less(cross * (y0 + y1) / 6.0, half * my), less(cross * (z0 + z1) / 6.0, half * mz)
    yy = less(cross * (y0**2 + y0 * y1 + y1**2) / 12.0, half * my**2)
    zz = less(cross * (z0**2 + z0 * z1 + z1**2) / 12.0, half * mz**2)
    yz = less(cross * (2 * y0 * z0 + y0 * z1 + y1 * z0 + 2 * y1 * z1) / 24.0, half * my * mz)
    polar = yy + zz - (y**2 + z**2) / area
    return CoreSection(area, y, z, yy, zz, yz, area**4 / (4.0 * np.pi**2 * polar))


class SurfaceResponse(SparResponse):
    """Everything the checks need of one half of a lifting surface.

    A straight beam along its axis: the effect of sweep and of an oblique root, within one chord of the root, is not
    counted.  A core that fills it deforms with the section: its own E, the shear of its area, Saint-Venant's torsion.
    """

    def __init__(self, member: Surface, walls: Mapping[str, tuple[Stretch, ...]], cases: Sequence[SpanCase],
                 order: int = ORDER, parts: int = 1) -> None:  # fmt: skip
        self.surface = member
        stations = STATIONS if member.planform.form == "tapered" else 2
        super().__init__(member.beam, walls, cases, order, parts, stations)
        self.measures = self._with_air(self.measures)

    # --- the core that fills it ---------------------------------------------------------------------------------

    @property
    def held_walls(self) -> frozenset[str]:
        """All walls, on a core that fills it: skins wrinkle on it, webs stand between two halves of it."""
        return frozenset(self.member.shape.walls) if self.surface.filling is not None else frozenset()

    @cached_property
    def filled(self) -> CoreSection:
        """The inside of the sections that are solved."""
        lines = self.sections.lines
        order = self.round_it(lines)
        thickness = self.of_walls(lambda plate: plate.stack.thickness)[:, lines.walls[order]]
        return core_section(MidLines(lines.nodes, lines.pieces[order], lines.walls[order]), thickness)

    def round_it(self, lines: MidLines) -> np.ndarray:
        """The pieces of skin and caps in the order in which they follow each other round a section."""
        names = self.member.shape.walls
        count = sum(name not in WEBS for name in names)  # webs come last
        return _round(lines, int(np.count_nonzero(lines.walls < count)))

    @cached_property
    def _filling_stiffness(self) -> np.ndarray:
        """(stations, 6, 6) of the core in the strains of the member, see ``ThinWalled``."""
        K, material = np.zeros((len(self.nodes), 6, 6)), self.surface.filling
        if material is None:
            return K
        core = self.filled
        E = next((material.value(key) for key in ("E1", "E3") if key in material.properties), 0.0)
        G = min(material.value(key) for key in ("G13", "G23"))
        K[:, 0, 0], K[:, 2, 2], K[:, 3, 3] = E * core.area, E * core.zz, E * core.yy
        K[:, 0, 2] = K[:, 2, 0] = E * core.z
        K[:, 0, 3] = K[:, 3, 0] = E * core.y
        K[:, 2, 3] = K[:, 3, 2] = E * core.yz
        K[:, 1, 1] = G * core.torsion
        K[:, 4, 4] = K[:, 5, 5] = 5.0 / 6.0 * G * core.area
        return K

    def _stiffness(self, x: np.ndarray) -> np.ndarray:
        walls = super()._stiffness(x)
        if self.surface.filling is None:
            return walls
        return walls + np.tensordot(self.shares(x, x), self._filling_stiffness, 1)

    @cached_property
    def _section_inertia(self) -> np.ndarray:
        walls = self._walls_inertia()
        if self.surface.filling is None:
            return walls
        core, density = self.filled, self.surface.filling.value("density")
        line = density * core.area
        return walls + np.stack(
            [line, line, line, density * core.zz, density * core.yy, density * (core.yy + core.zz)], axis=1
        )

    # --- what the air makes of it -------------------------------------------------------------------------------

    @cached_property
    def _compliance(self) -> np.ndarray:
        """(stations, 6, 6) of the sections solved, with what fills them."""
        return np.asarray(np.linalg.inv(self.sections.stiffness + self._filling_stiffness))

    @property
    def torsion(self) -> np.ndarray:
        """GJ in N m² of the sections solved, with what fills them: (stations,)."""
        return np.asarray(1.0 / self._compliance[:, 1, 1])

    @property
    def along(self) -> dict[str, np.ndarray]:
        """The section at the sampled places along: chord m, EI flatwise and GJ N m², shear centre m behind the quarter
        chord."""
        bending = np.linalg.inv(self._compliance[:, 2:4, 2:4])[:, 0, 0]
        return {
            "chord": self.surface.planform.law(self.x), "bending_stiffness": self.gathered(bending),
            "torsional_stiffness": self.gathered(self.torsion), "shear_centre": self.gathered(self.behind),
        }  # fmt: skip

    @cached_property
    def behind(self) -> np.ndarray:
        """m by which the shear centre lies behind the quarter chord, of the sections solved: (stations,)."""
        centre = self._compliance[:, 1, 4] / self._compliance[:, 1, 1]  # as ThinWalled.shear_centre, y
        planform = self.surface.planform
        return np.asarray(centre + (self.surface.reference - 0.25) * planform.law(self.nodes) * planform.cosine)

    @cached_property
    def divergence(self) -> float:
        """Speed in m/s at sea level from which on lift twists it until it breaks; inf where its axis lies in front of
        the quarter chord all along.

        (GJ θ')' + q a c e θ = 0 by linear elements, a of the lifting line, which for an even wing gives q = π² GJ/(4
        L² e c a) (Bisplinghoff, Ashley and Halfman 1955, chapter 8).  Strip theory of a straight wing; sweep backward
        raises it, sweep forward lowers it far.
        """
        planform = self.surface.planform
        lift = self.behind * planform.law(self.nodes) * planform.lift_slope
        most = self._twisting(lift)
        return float(np.sqrt(2.0 / (most * AIR_DENSITY))) if most > 0.0 else float("inf")

    @cached_property
    def torsion_frequency(self) -> float:
        """First frequency in Hz at which it twists by itself, from its root on: (GJ θ')' + ω² I_p θ = 0; what it
        carries and its coupling with bending are in the frequencies of the whole only."""
        most = self._twisting(self._section_inertia[:, 5])
        return float(1.0 / (2.0 * np.pi * np.sqrt(most)))

    @cached_property
    def _bar(self) -> tuple[np.ndarray, np.ndarray]:
        """(weights of the sections solved in the middle of each element, times its length; the turn of each node but
        the root for a torque at each) of the surface as a bar that twists."""
        step = self.member.span.length / ELEMENTS
        middles = (np.arange(ELEMENTS) + 0.5) * step
        shares = self.shares(middles, middles)
        stiff = _linear(shares @ self.torsion / step, np.array([[1.0, -1.0], [-1.0, 1.0]]))
        return shares * step, np.linalg.inv(stiff)

    def _twisting(self, weight: np.ndarray) -> float:
        """Largest λ of λ (GJ θ')' + w θ = 0, clamped at the root, by linear elements; ``weight`` (stations,) w."""
        shares, flexible = self._bar
        turning = _linear(shares @ weight, np.array([[2.0, 1.0], [1.0, 2.0]]) / 6.0)
        return float(np.max(np.linalg.eigvals(flexible @ turning).real))

    def _with_air(self, beam: Mapping[str, tuple[Measured, ...]]) -> dict[str, tuple[Measured, ...]]:
        planform = self.surface.planform
        told = [
            f"area of this half {planform.area:.4g} m², mean chord {both_units(planform.mean_chord)}, aspect ratio of "
            f"the whole {planform.aspect_ratio:.3g}"
        ]
        if abs(planform.sweep) > SWEPT:
            told.append(f"an axis swept by more than {SWEPT:g} degrees: take it as a first estimate")
        measures = dict(beam)
        measures["deflection"] = tuple(
            msgspec.structs.replace(own, remarks=(*own.remarks, *told)) for own in beam["deflection"]
        )
        torsion = f"it twists by itself at {self.torsion_frequency:.3g} Hz, without what it carries"
        measures["twist"] = tuple(
            msgspec.structs.replace(own, remarks=(*own.remarks, torsion)) for own in beam["twist"]
        )
        if np.isfinite(self.divergence):
            remarks: tuple[str, ...] = (
                f"at sea level; strip theory with a lift slope of {planform.lift_slope:.3g} per radian",
            )
            if self.divergence > FAST:
                remarks += ("far above the speeds at which strip theory holds: it will not diverge in slow flight",)
            if planform.sweep:
                remarks += ("of the wing without its sweep: forward sweep lowers it far",)
            measures["divergence"] = (Measured(self.divergence, remarks=remarks),)
        return measures

    def crushing(self, case: int) -> tuple[float, float]:
        """(pressure of the skins of the bent section on what fills it, Pa, at which place): N κ (Brazier 1927)."""
        curvature = np.abs(self.results[case].strains[:, 2])
        pressed = np.zeros(len(self.x))
        for chain in self.chains:
            if chain.wall not in WEBS:
                pressed = np.maximum(pressed, np.abs(self.line_forces(chain, case)[..., 0]).max(axis=1))
        k = int(np.argmax(pressed * curvature))
        return float(pressed[k] * curvature[k]), float(self.x[k])

    def largest_shear(self, result: SpanResult) -> tuple[float, float]:
        """(shear strain of the core that fills it, at which place along): three halves of the mean that both walls and
        core share, since a solid core's own shear is a parabola over its height."""
        shear = np.abs(result.strains[:, 4])
        k = int(np.argmax(shear))
        return 1.5 * float(shear[k]), float(self.x[k])


def _linear(sizes: np.ndarray, element: np.ndarray) -> np.ndarray:
    """The sum over linear elements one after the other of their sizes times one matrix, without the first node."""
    count = len(sizes)
    whole = np.zeros((count + 1, count + 1))
    for k, size in enumerate(sizes):
        whole[k : k + 2, k : k + 2] += size * element
    return whole[1:, 1:]


def _round(lines: MidLines, count: int) -> np.ndarray:
    """The first ``count`` pieces of a section in the order in which they follow each other round it."""
    begins = {int(lines.pieces[k, 0]): k for k in range(count)}
    order: list[int] = []
    k = 0
    while len(order) < count:
        order.append(k)
        k = begins[int(lines.pieces[k, 1])]
    return np.array(order)
