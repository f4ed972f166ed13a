"""A spar: thin walls of laminate or sandwich along a span, open or closed, bent, twisted and pulled all at once."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from functools import cached_property
from itertools import pairwise
from typing import Any

import msgspec
import numpy as np

from omakase.core.errors import MemberError, both_units
from omakase.core.members.field import Measured, Place, WallField
from omakase.core.members.span import SpanAnswers, SpanModel, SpanResult
from omakase.core.members.span_banded import ENOUGH
from omakase.core.members.span_loads import SpanCase
from omakase.core.members.span_mesh import Kinematics, Term
from omakase.core.members.span_sideways import sideways
from omakase.core.members.spar_given import Spar
from omakase.core.members.spar_parts import Chain, Piece, chains, chebyshev
from omakase.core.members.stretches import Stretch, stretch_at
from omakase.core.members.tube import KINEMATICS, TubeActing
from omakase.core.plates.basis import gauss
from omakase.core.plates.section import PlateSection
from omakase.core.sections.outlines import mid_lines
from omakase.core.sections.thin_walled import MidLines, ThinWalled, WallLaw, wall_law

ORDER = 4
WARPING = msgspec.structs.replace(  # what ``KINEMATICS`` says, with the stiffness against a change of twist
    KINEMATICS,
    fields=tuple((field, smooth or field == "theta") for field, smooth in KINEMATICS.fields),
    strains=(*KINEMATICS.strains, (Term("theta", 2),)),
)
WARPING_HELD = msgspec.structs.replace(WARPING, clamped=(*WARPING.clamped, ("theta", 1)))
CLAMP_WARPS = "open section: its clamp is taken to let it warp; one that does not holds up to twice as much"
WEBS = ("web", "front web", "middle web", "rear web", "sides", "web 1", "web 2", "web 3")
STATIONS = 4  # of a tapering stretch at which its section is solved: a deflection is met to 1e-6 (checked with 9)


class SparCase:
    """One load case on one stretch of one wall: samples along the span (x) and along the wall's mid-line (y, in m)."""

    def __init__(self, result: SpanResult, x: np.ndarray, wall: str, along: np.ndarray, maps: np.ndarray,
                 forces: np.ndarray, recover: np.ndarray) -> None:  # fmt: skip
        self.result, self.x, self.y = result, x, along
        self.case = TubeActing(result.case)
        self.left_out = np.zeros((len(x), len(along)), bool)
        self.forces = forces
        self._wall, self._maps, self._recover = wall, maps, recover

    @cached_property
    def strains(self) -> np.ndarray:
        """(x, y, 11)."""
        line_forces = (self._maps @ self.forces[:, None, :, None])[..., 0]
        return line_forces @ self._recover.T

    def place(self, i: int, j: int) -> Place:
        return Place(float(self.x[i]), wall=self._wall, s=float(self.y[j]))

    def nearest(self, place: Place) -> tuple[int, int]:
        """The sample nearest to a place; the middle of the wall where none is named."""
        i = 0 if place.x is None else int(np.argmin(np.abs(self.x - place.x)))
        middle = float(self.y[-1]) / 2.0
        return i, int(np.argmin(np.abs(self.y - (middle if place.s is None else place.s))))

    def ply_shear(self, _section: PlateSection) -> None:
        """A thin wall passes no shear across its plies worth looking at."""
        return


class SparWall(msgspec.Struct, frozen=True, eq=False):
    """A wall in the section: its ``name``, stacks along the span, and which pieces of the mid-lines are its own.

    ``samples`` : (piece, point) of each place where strains are looked at; ``along`` : (samples,) m of mid-line up to
    it, at the first station.
    """

    name: str
    stretches: tuple[Stretch, ...]
    plates: tuple[PlateSection, ...]
    laws: tuple[WallLaw, ...]
    pieces: np.ndarray
    samples: np.ndarray
    along: np.ndarray


class SparResponse(SpanAnswers):
    """Everything the checks need of one spar.  ``walls`` : stacks along the span by the name of the wall.

    The sections are solved at one place of each even stretch, at four of each tapering one, with the polynomial through
    them in between: twice as many change a deflection by less than 1e-6.  Loads act at the section's reference (y = 0)
    and turn it about that; masses count there too in vibration.  Stresses are those of a straight member: the part of
    the shear force that tapering caps carry is not counted, nor stress from restrained warping.
    """

    walls_together = False  # whether its walls are looked at together where they buckle; takes 30 to 200 ms
    together_before: Mapping[str, Any] = {}  # what is known of that from an answer before, by the key of a load case

    def __init__(self, member: Spar, walls: Mapping[str, tuple[Stretch, ...]], cases: Sequence[SpanCase],
                 order: int = ORDER, parts: int = 1, stations: int = STATIONS) -> None:  # fmt: skip
        length = member.span.length
        for case in cases:
            case.check_on(length)
        self.member = member
        names = member.shape.walls
        missing = [name for name in names if name not in walls]
        if missing:
            raise MemberError(f"the {missing[0]} has no layers")
        self.derived: dict[str, Any] = {}  # what one check worked out and others need too
        self._flows: dict[Chain, np.ndarray] = {}
        self._plates = {name: tuple(PlateSection(section.stack) for section in walls[name]) for name in names}
        self._laws = {name: tuple(wall_law(plate) for plate in plates) for name, plates in self._plates.items()}
        self._stretches = {name: walls[name] for name in names}
        self.pieces = self._parts(stations)
        self.sections = self._solved()
        self.walls = tuple(self._wall(name) for name in names)
        self.chains = chains(self.sections.lines, names)
        self.webs = tuple(chain for chain in self.chains if chain.wall in WEBS)
        self._fineness = order, parts
        self._warping_models: dict[bool, SpanModel] = {}
        self.model = self._model(KINEMATICS, self._stiffness, cases)
        self.results = self._solved_cases()
        self.x = self.model.x
        self._shares = self.shares(self.x, self.model.centres)
        self.stiffness = self.gathered(self.sections.stiffness)
        self.forces = [(self.stiffness @ result.strains[..., None])[..., 0] for result in self.results]
        self.frequencies = self._frequencies()
        self.mass, self.area = self._mass_and_area()
        self.areal_mass = self.mass / self.area
        self.fields = tuple(field for wall in self.walls for field in self._fields(wall))
        self.measures = self._measures()

    @property
    def held_walls(self) -> frozenset[str]:
        """Walls that lie on something which keeps them from buckling."""
        return frozenset()

    def _model(
        self, kinematics: Kinematics, stiffness: Callable[[np.ndarray], np.ndarray], cases: Sequence[SpanCase]
    ) -> SpanModel:
        order, parts = self._fineness
        breaks = [piece.low for piece in self.pieces[1:]]
        return SpanModel(
            self.member.span, kinematics, stiffness, self._inertia, cases, breaks, order=order, parts=parts
        )

    def _solved_cases(self) -> tuple[SpanResult, ...]:
        return self.model.results()

    def _frequencies(self) -> tuple[float, ...]:
        return self.model.frequencies()

    # --- sections along the span ------------------------------------------------------------------------------

    def _parts(self, stations: int) -> tuple[Piece, ...]:
        length, shape = self.member.span.length, self.member.shape
        borders = {0.0, length, *shape.knots(length)}
        borders |= {stretch.low for stretches in self._stretches.values() for stretch in stretches}
        parts = []
        for low, high in pairwise(sorted(borders)):
            if high - low <= 1e-9 * length:
                continue
            middle = np.array([(low + high) / 2.0])
            which = tuple(int(stretch_at(stretches, middle)[0]) for stretches in self._stretches.values())
            ends = shape.sizes(np.array([low, high]))
            even = all(np.ptp(value) <= 1e-9 * value.max() for value in (ends.height, ends.width))
            nodes = middle if even else middle + chebyshev(stations) * (high - low) / 2.0
            parts.append(Piece(low, high, which, nodes))
        return tuple(parts)

    def _solved(self) -> ThinWalled:
        """The sections at the nodes of all pieces, one after the other."""
        of_node = [piece.which for piece in self.pieces for _ in piece.nodes]
        thickness = dict(zip(self._stretches, self.of_walls(lambda plate: plate.stack.thickness).T, strict=True))
        shape = self.member.shape
        lines = mid_lines(shape.outline, shape.sizes(self.nodes), thickness)
        laws = np.array([
            [laws[i].stiffness for laws, i in zip(self._laws.values(), which, strict=True)] for which in of_node
        ])  # fmt: skip
        return ThinWalled(lines, laws)

    @cached_property
    def nodes(self) -> np.ndarray:
        """Places at which the sections are solved, m: (stations,)."""
        return np.concatenate([piece.nodes for piece in self.pieces])

    def of_walls(self, value: Callable[[PlateSection], float]) -> np.ndarray:
        """A number of each wall's laminate at the sections solved: (stations, walls)."""
        return np.array([
            [value(plates[i]) for plates, i in zip(self._plates.values(), piece.which, strict=True)]
            for piece in self.pieces for _ in piece.nodes
        ])  # fmt: skip

    def _piece_at(self, x: np.ndarray) -> np.ndarray:
        return np.searchsorted([piece.low for piece in self.pieces[1:]], x, "right")

    def shares(self, x: np.ndarray, centres: np.ndarray) -> np.ndarray:
        """Weights of all sections solved for places x that lie in cells with these centres: (places, stations)."""
        share = np.zeros((len(x), len(self.sections.lines.nodes)))
        which, start = self._piece_at(centres), 0
        for i, piece in enumerate(self.pieces):
            at = np.nonzero(which == i)[0]
            share[at, start : start + len(piece.nodes)] = piece.shares(x[at])
            start += len(piece.nodes)
        return share

    def gathered(self, values: np.ndarray) -> np.ndarray:
        """What is known of the sections solved, (stations, ...), at every sampled place along: (places, ...)."""
        return np.tensordot(self._shares, values, 1)

    def _stiffness(self, x: np.ndarray) -> np.ndarray:
        return np.tensordot(self.shares(x, x), self.sections.stiffness, 1)

    def _inertia(self, x: np.ndarray) -> np.ndarray:
        """kg/m for w, v, u; kg m for turns about y, z and x."""
        return self.shares(x, x) @ self._section_inertia

    @cached_property
    def _section_inertia(self) -> np.ndarray:
        """The same of the sections solved: (stations, 6)."""
        return self._walls_inertia()

    def _walls_inertia(self) -> np.ndarray:
        lines = self.sections.lines
        areal = self.of_walls(lambda plate: plate.areal_mass)
        line_mass = areal[:, lines.walls] * lines.lengths
        ends = lines.at(np.array([-1.0, 0.0, 1.0]))
        square = (ends**2 * np.array([1.0, 4.0, 1.0])[:, None]).sum(axis=2) / 6.0
        total = line_mass.sum(axis=1)
        about_z, about_y = np.moveaxis((line_mass[..., None] * square).sum(axis=1), -1, 0)
        return np.stack([total, total, total, about_y, about_z, about_y + about_z], axis=1)

    def _mass_and_area(self) -> tuple[float, float]:
        points, weights = (np.array(values) for values in gauss(3))
        half = np.array([(piece.high - piece.low) / 2.0 for piece in self.pieces])[:, None]
        middle = np.array([(piece.high + piece.low) / 2.0 for piece in self.pieces])[:, None]
        x = (middle + half * points).ravel()
        shares = (half * weights).ravel() @ self.shares(x, x)
        return float(shares @ self._section_inertia[:, 0]), float(shares @ self.sections.lines.lengths.sum(axis=1))

    # --- walls ------------------------------------------------------------------------------------------------

    def _wall(self, name: str) -> SparWall:
        lines = self.sections.lines
        index = tuple(self._stretches).index(name)
        nodes = np.nonzero(lines.walls == index)[0]
        # straight walls at ends and middle; of the many pieces of a bent one the first point of each, and the last
        points = (0, 1, 2) if len(nodes) <= 2 else (0,)
        samples = [(piece, point) for piece in nodes for point in points]
        if len(points) == 1:
            samples.append((nodes[-1], 2))
        before = np.concatenate([[0.0], np.cumsum(lines.lengths[0, nodes])])
        along = [before[list(nodes).index(piece)] + lines.lengths[0, piece] * point / 2.0 for piece, point in samples]
        return SparWall(name, self._stretches[name], self._plates[name], self._laws[name], nodes, np.array(samples),
                        np.array(along))  # fmt: skip

    def _fields(self, wall: SparWall) -> list[WallField]:
        maps = self.gathered(self.sections.strain_maps[:, wall.samples[:, 0], wall.samples[:, 1]])
        which = stretch_at(wall.stretches, self.model.centres)
        fields = []
        for index, (stretch, plate, law) in enumerate(zip(wall.stretches, wall.plates, wall.laws, strict=True)):
            at = np.nonzero(which == index)[0]
            recover = _recovered(plate, law)
            cases = tuple(
                SparCase(result, self.x[at], wall.name, wall.along, maps[at], forces[at], recover)
                for result, forces in zip(self.results, self.forces, strict=True)
            )
            fields.append(WallField(stretch.stack, plate, cases, wall.name, rows=stretch.rows, stations=at))
        return fields

    def wall_at(self, name: str) -> Iterator[tuple[Stretch, np.ndarray, PlateSection]]:
        """The stretches of a wall with the sampled places along in each, and its laminate there."""
        which = stretch_at(self._stretches[name], self.model.centres)
        for index, (stretch, plate) in enumerate(zip(self._stretches[name], self._plates[name], strict=True)):
            yield stretch, np.nonzero(which == index)[0], plate

    def plate_at(self, name: str, k: int) -> PlateSection:
        """The laminate of a wall at sampled place ``k`` along."""
        return next(plate for _, at, plate in self.wall_at(name) if k in at)

    def width(self, chain: Chain) -> np.ndarray:
        """m along its mid-line, at every sampled place along: (places,)."""
        return self.gathered(self.sections.lines.lengths[:, chain.pieces].sum(axis=1))

    def flows(self, chain: Chain) -> np.ndarray:
        """(N_x, N_xs) at the start of a chain, its middles and its end per force: (places, samples, 2, 6); kept."""
        if chain not in self._flows:
            samples = [(chain.pieces[0], 0), *((piece, 1) for piece in chain.pieces), (chain.pieces[-1], 2)]
            pieces, points = np.array(samples).T
            self._flows[chain] = self.gathered(self.sections.flows[:, pieces, points])
        return self._flows[chain]

    def line_forces(self, chain: Chain, index: int) -> np.ndarray:
        """(N_x, N_xs) under a load case at the same samples, N/m: (places, samples, 2)."""
        return np.asarray((self.flows(chain) @ self.forces[index][:, None, :, None])[..., 0])

    @cached_property
    def pulled(self) -> list[np.ndarray]:
        """Where some wall is pulled along it under each load case, (places,) each: it bends rather than being pressed
        as a whole."""
        flows = [self.flows(chain)[..., 0, :] for chain in self.chains]
        return [
            np.max([(own @ forces[..., None])[..., 0].max(axis=1) for own in flows], axis=0) > 0.0
            for forces in self.forces
        ]

    def flow_at_ends(self, chain: Chain, index: int) -> np.ndarray:
        """Size of the shear flow at the ends of a chain under a load case, the larger of both, N/m: (places,)."""
        flow = np.abs(self.line_forces(chain, index)[..., 1])
        return np.maximum(flow[:, 0], flow[:, -1])

    def lines_at(self, x: float) -> tuple[MidLines, tuple[PlateSection, ...]]:
        """The mid-lines at a place along, one station, and each wall's laminate there in the order of the outline."""
        index = int(self._piece_at(np.array([x]))[0])
        piece, shape = self.pieces[index], self.member.shape
        plates = tuple(sections[i] for sections, i in zip(self._plates.values(), piece.which, strict=True))
        names = shape.walls
        thickness = {name: plate.stack.thickness for name, plate in zip(names, plates, strict=True)}
        return mid_lines(shape.outline, shape.sizes(np.array([x])), thickness), plates

    # --- its own numbers --------------------------------------------------------------------------------------

    @property
    def cells(self) -> int:
        return self.sections.lines.cells

    @property
    def thickness(self) -> float:
        """Height of the section where it is highest, m."""
        length = self.member.span.length
        at = np.array([0.0, *self.member.shape.knots(length), length])
        return float(self.member.shape.sizes(at).height.max())

    @cached_property
    def warping_length(self) -> float:
        """Length √(EI_ω/GJ) over which warping that a clamp holds back dies away, m, the largest along the span."""
        return float(np.sqrt(self.sections.warping / self.sections.torsion).max())

    def remarks(self) -> tuple[str, ...]:
        """What of the theory is at its edge."""
        remarks = []
        lines = self.sections.lines
        thickness = np.array([plates[0].stack.thickness for plates in self._plates.values()])
        share = float((thickness[lines.walls] * lines.lengths[0]).sum())
        overlap = float((thickness[lines.walls][:, None] * thickness[lines.walls][None]).max())
        if overlap / share > 0.02:
            remarks.append(
                f"corners of thick walls are counted once for each wall: up to {overlap / share:.0%} of the section"
            )
        if self.member.span.length < 5.0 * self.thickness:
            remarks.append("shorter than five heights: no beam any more, use it as a first estimate")
        return tuple(remarks)

    @cached_property
    def loose_torsion(self) -> float:
        """GJ of an open section over its GJ where the edges of walls do not connect their two faces, the largest along
        the span; 1 for closed sections.

        A wall of width b resists twist with 4 D66 b (1 − tanh(kb/2)/(kb/2)), k² = S/D66: toward such an edge the shear
        flow turns round by transverse shear S.  Gives 1 − 0.63 t/b of an even strip (Timoshenko and Goodier 1970,
        article 109); checked against a finite-element solver.
        """
        if self.cells:
            return 1.0
        lines = self.sections.lines
        widths = np.stack([lines.lengths[:, lines.walls == k].sum(axis=1) for k in range(len(self.walls))], axis=1)
        laws = [self._laws[wall.name] for wall in self.walls]
        twist = np.array([[own[i].stiffness[3, 3] for own, i in zip(laws, piece.which, strict=True)]
                          for piece in self.pieces for _ in piece.nodes])  # fmt: skip
        half = np.sqrt(self.of_walls(lambda plate: float(plate.shear[0, 0])) / twist) * widths / 2.0
        tied = twist * widths
        return float((tied.sum(axis=1) / (tied * (1.0 - np.tanh(half) / half)).sum(axis=1)).max())

    def _twist_remarks(self) -> tuple[str, ...]:
        remarks = []
        if self.loose_torsion > 1.02:
            remarks.append(
                f"open section: this holds where corners and edges tie both sides of each wall together; where they do "
                f"not, it twists up to {self.loose_torsion:.2g} times as far"
            )
        return (*remarks, *self._clamp_remarks())

    def _clamp_remarks(self) -> tuple[str, ...]:
        length = self.member.span.length
        if self.cells or not any(support.held == "clamped" for support in self.member.span.supports):
            return ()
        reach = self.warping_length
        if reach > 0.05 * length:
            share = 1.0 - np.tanh(length / reach) * reach / length
            return (
                f"open section: the clamp holds its warping back over about {both_units(round(reach, 3))}, so that a "
                f"torque at the far end twists it by only {share:.0%} of this; the stress there is not counted",
            )
        return ()

    def _measures(self) -> dict[str, tuple[Measured, ...]]:
        deflections: list[Measured] = []
        twists: list[Measured] = []
        rotations: list[Measured] = []
        buckling: list[Measured] = []
        remarks, twisted = self.remarks(), self._twist_remarks()
        for result in self.results:
            case = result.case
            w, v = result.displacements["w"], result.displacements["v"]
            moved = np.hypot(w, v)
            k = int(np.argmax(moved))
            more: tuple[str, ...] = ()
            if abs(v[k]) > 0.02 * moved[k] > 0.0:
                more = (f"it moves sideways too, {abs(v[k]) / moved[k]:.0%} of that",)
            if moved[k] > 0.1 * self.member.span.length:
                more += ("deflection is more than a tenth of the length: small-deflection theory is off by then",)
            deflections.append(
                Measured(float(moved[k]), case.name, case.key, float(self.x[k]), None, (*remarks, *more))
            )
            for measured, name, words in ((twists, "theta", twisted), (rotations, "turn", ())):
                values = np.abs(result.displacements[name])
                j = int(np.argmax(values))
                measured.append(
                    Measured(float(np.degrees(values[j])), case.name, case.key, float(self.x[j]), None, words)
                )
            if np.isfinite(result.buckling):
                buckling.append(Measured(result.buckling, case.name, case.key))
        return {"deflection": tuple(deflections), "rotation": tuple(rotations), "twist": tuple(twists),
                "strut": tuple(buckling), "tipping": self._tipping(),
                "thickness": (Measured(self.thickness),)}  # fmt: skip

    def _tipping(self) -> tuple[Measured, ...]:
        """The factors at which it buckles sideways with a twist, where they are near enough to matter."""
        told = (CLAMP_WARPS,) if self._clamp_remarks() else ()
        tips = [(self.sideways(index, enough=ENOUGH), result.case) for index, result in enumerate(self.results)]
        return tuple(Measured(tip, case.name, case.key, remarks=told) for tip, case in tips if tip < ENOUGH)

    def sideways(self, index: int, linear: bool = False, enough: float = float("inf")) -> float:
        """Factor on the loads of a case at which it buckles sideways with a twist; see ``span_sideways``.
        ``linear`` : as general solvers find it, not bent before, and its warping held by clamps."""
        turning = np.sum(self._turning * self.forces[index], axis=1)
        model = self.model if self.cells else self._warping_model(linear)
        return sideways(model, self.forces[index], turning, not linear, enough)

    @cached_property
    def _turning(self) -> np.ndarray:
        return self.gathered(self.sections.turning)

    def _warping_model(self, held: bool) -> SpanModel:
        """The member with the stiffness of its warping, which holds short open ones against twist; ``held`` : also by
        clamps."""

        def stiffness(x: np.ndarray) -> np.ndarray:
            C = np.zeros((len(x), 7, 7))
            C[:, :6, :6] = self._stiffness(x)
            C[:, 6, 6] = self.shares(x, x) @ self.sections.warping
            return C

        if held not in self._warping_models:
            self._warping_models[held] = self._model(WARPING_HELD if held else WARPING, stiffness, self.model.cases)
        return self._warping_models[held]


def _recovered(plate: PlateSection, law: WallLaw) -> np.ndarray:
    """Generalised strains (11, 4) of a wall from (ε_x, γ_xs, κ_x, κ_xs)."""
    recover = np.zeros((11, 4))
    recover[[0, 2, 3, 5], [0, 1, 2, 3]] = 1.0
    recover[[1, 4]] = law.follow
    if plate.faces:
        recover[6:9] = recover[3:6]
    return recover
