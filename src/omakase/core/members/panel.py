"""A rectangular panel: from size, supports, load cases and a stack to deflections, strains and frequencies."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from functools import cached_property

import msgspec
import numpy as np

from omakase.core.errors import SolverError
from omakase.core.kept import keep_last
from omakase.core.laminate.stack import Stack
from omakase.core.members.field import Measured, WallField
from omakase.core.members.panel_beyond import (
    AT_LEVEL,
    AT_MOST,
    AT_ULTIMATE,
    LARGE,
    MOST_LEVEL,
    NO_BALANCE,
    THIN,
    CaseSolver,
    Solved,
    edges_blurred,
    sags_at_least,
    smooth_pressure,
)  # fmt: skip
from omakase.core.members.panel_case import Answered, Beyond, CaseResponse, Part
from omakase.core.members.panel_edges import EdgeForces
from omakase.core.members.panel_given import LINEAR, Accuracy, LoadCase, Panel, Surface
from omakase.core.members.panel_grid import GridKey, assembler, grid_key, samples
from omakase.core.members.panel_patchwork import Patchwork
from omakase.core.members.panel_regions import Flush
from omakase.core.members.panel_ribbed import over_bolts
from omakase.core.members.panel_ribs import RIB, SLENDER, RibAnswer, Ribbed
from omakase.core.members.panel_round import respond_round
from omakase.core.members.panel_zones import ZonedPanel
from omakase.core.plates.assembly import GroupedForm
from omakase.core.plates.large_deflection import LargeSolution
from omakase.core.plates.lines import (
    corner_reach,
    singular_corners,
)
from omakase.core.plates.loads import PatchLoad, Pressure
from omakase.core.plates.reduced import ReducedSolution
from omakase.core.plates.samples import Samples
from omakase.core.plates.section import PlateSection
from omakase.core.plates.shear_places import rough_shear
from omakase.core.plates.solver import PlateModel, PlateSolution

MOST_RISE = 0.2  # of the span


ENDS_OF_RIBS = (
    "walls of ribs are judged by themselves, and where a rib ends beside a free edge shells of a solver buckled a "
    "quarter earlier"
)


class PanelResponse(msgspec.Struct, frozen=True, eq=False, dict=True):
    """Everything the checks need of one panel of one layup, or of a patchwork of layups.

    ``section`` : of the layup, or of that of the largest area.  ``zones`` : the fields of a
    patchwork's stacks; ``ribs`` : what is bonded to it.
    ``modes`` : shapes of the natural vibrations, as many as ``frequencies``, or none where they were not kept.
    """

    panel: Panel
    section: PlateSection
    cases: tuple[CaseResponse, ...]
    frequencies: tuple[float, ...]
    unknowns: int
    modes: tuple[PlateSolution, ...] = ()
    patchwork: Patchwork | None = None
    zones: tuple[WallField, ...] = ()
    ribs: tuple[RibAnswer, ...] = ()

    @cached_property
    def fields(self) -> tuple[WallField, ...]:
        """Its one wall, or one for each stack that its zones make, and the ribs."""
        if self.zones:
            return (*self.zones, *(own.field for own in self.ribs))
        rough = rough_shear(self.panel.edges, self.section)
        return (WallField(self.section.stack, self.section, self.cases, "", rough),)

    def with_answer(self, answer: Answered) -> PanelResponse:
        """The same with another answer to the case that it answers."""
        k = [case.case.key for case in self.cases].index(answer.whole.case.key)
        zones = tuple(
            msgspec.structs.replace(field, cases=(*field.cases[:k], own, *field.cases[k + 1 :]))
            for field, own in zip(self.zones, answer.on_stacks, strict=True)
        )
        ribs = tuple(
            RibAnswer(rib.beam, (*rib.cases[:k], own, *rib.cases[k + 1 :]))
            for rib, own in zip(self.ribs, answer.on_ribs, strict=True)
        )
        cases = (*self.cases[:k], answer.whole, *self.cases[k + 1 :])
        return msgspec.structs.replace(self, cases=cases, zones=zones, ribs=ribs)

    @property
    def area(self) -> float:
        """m² of layup, of a curved panel along its arcs, without openings."""
        whole = self.panel.area
        if self.patchwork is None:
            return whole
        return whole * float(self.patchwork.areas.sum()) / (self.panel.length * self.panel.width)

    @property
    def areal_mass(self) -> float:
        """kg/m², of a patchwork the mean."""
        if self.patchwork is None:
            return self.section.areal_mass
        areas = self.patchwork.areas
        return float(areas @ [field.section.areal_mass for field in self.zones] / areas.sum())

    @property
    def mass(self) -> float:
        """kg, with its ribs."""
        return self.areal_mass * self.area + sum(own.mass for own in self.ribs)

    @cached_property
    def measures(self) -> dict[str, tuple[Measured, ...]]:
        """Largest deflection and buckling factor of each load case, the thickness, and of panels with ribs the mass of
        these and of the rest."""
        thickness, edges = self._thickness, self.panel.edges
        resting = "resting" in (edges.x0, edges.x1, edges.y0, edges.y1)
        deflections, buckling = [], []
        for case in self.cases:
            value, x, y = case.largest_deflection
            remarks = list(self._shape_remarks())
            beyond = case.beyond
            if beyond is not None:
                remarks += beyond.remarks
                if beyond.buckling is not None and np.isfinite(beyond.buckling):
                    told = (*self._shape_remarks(), *beyond.remarks, *((ENDS_OF_RIBS,) if self.ribs else ()))
                    buckling.append(Measured(beyond.buckling, case.case.name, case.case.key, remarks=told))
            if value > thickness / 2.0 and not (beyond is not None and beyond.large):
                remarks.append(
                    f"deflection is {value / thickness:.1f} times the thickness: beyond half of it, "
                    "stretching stiffens the panel and small-deflection theory overstates the sag"
                )
            if resting:
                remarks.append("resting edges are taken as not lifting off; corners may need holding down")
            deflections.append(Measured(value, case.case.name, case.case.key, x, y, tuple(remarks)))
        measures = {"deflection": tuple(deflections), "thickness": (Measured(thickness),)}
        if self.ribs:
            ribs = sum(own.mass for own in self.ribs)
            measures |= {"rib_mass": (Measured(ribs),), "skin_mass": (Measured(self.mass - ribs),)}
        return {**measures, "buckling": tuple(buckling)} if buckling else measures

    @property
    def _thickness(self) -> float:
        """Of the panel itself, without ribs."""
        return max(field.stack.thickness for field in self.fields if field.name != RIB)

    @property
    def case_remarks(self) -> dict[str, tuple[str, ...]]:
        """Of cases that were solved case by case."""
        remarks = {}
        for case in self.cases:
            if case.beyond is not None:
                level = case.beyond.level
                where = {1.0: AT_ULTIMATE, MOST_LEVEL: AT_MOST}.get(level) or AT_LEVEL.format(level)
                told = tuple(where if remark == LARGE else remark for remark in case.beyond.remarks)
                remarks[case.case.key] = told
        return remarks

    @property
    def moving_far(self) -> frozenset[str]:
        """Keys of the cases under which it moves so far that a linear answer to them says little."""
        thin = THIN * self.section.sheet_thickness
        return frozenset(
            case.case.key
            for case in self.cases
            if (case.beyond.large if case.beyond is not None else case.largest_deflection[0] > thin)
        )

    def rest(self) -> None:
        """Gives back what its cases were worked out with."""
        for case in self.cases:
            case.rest()

    @property
    def sag_at_least(self) -> float:
        """m; of a linear answer to a flat panel that stretches what it will sag at least."""
        sags = np.array([case.largest_deflection[0] for case in self.cases if case.beyond is None])
        sheet = np.full(len(sags), self.section.sheet_thickness)
        return float(sags_at_least(sags, sheet, self.panel.in_plane).max(initial=0.0))

    @property
    def edges_blurred(self) -> bool:
        """Whether only a grid that follows its edges says anything of it."""
        return edges_blurred(self.section, self.panel.surface)

    def _shape_remarks(self) -> Iterator[str]:
        """What of the theory is at its edge for this shape and these supports."""
        for number, own in enumerate(self.ribs, 1):
            rib = own.beam.rib
            if rib.outline != "strip" and rib.high - rib.low < SLENDER * rib.height:
                yield f"rib {number} is shorter than five of its heights: no beam any more, take it as a first estimate"
        for number, bolt in over_bolts(self.panel, [own.beam for own in self.ribs]):
            yield f"rib {number} lies on the washer of bolt {bolt}: end the rib before it, or move one of them"
        if self.ribs and any(case.beyond is not None and case.beyond.large for case in self.cases):
            yield "the panel stretches; that its ribs stretch with it is not counted, which is on the safe side"
        held = self.panel.held
        if held.bolts:
            yield "bolts hold up and down; what happens round a bolt, within a washer's width, is not judged here"
        if held.bed:
            yield "the bed pulls as well as it pushes: look for places that lift off"
        for rise, size in zip(self.panel.rise, (self.panel.length, self.panel.width), strict=True):
            if abs(rise) > MOST_RISE * size:
                yield (
                    f"a rise of {abs(rise) / size:.0%} of the span is beyond the fifth for which the theory of shallow "
                    "shells is meant"
                )


def respond_zoned(
    panel: Panel,
    work: Patchwork,
    cases: tuple[LoadCase, ...],
    flush: Flush,
    accuracy: Accuracy = LINEAR,
    with_frequencies: bool = True,
    ultimate: float = 1.0,
    ribs: Sequence[Ribbed] = (),
) -> PanelResponse:
    """Response of a panel whose layers run over zones, see ``panel_zones``.  ``flush`` : which surface is even,
    ``ribs`` : what is bonded to it.

    Raises PanelError, LayupError or SolverError.
    """
    for case in cases:
        case.check_on(panel)
    on_surface = tuple(_on_surface(case, panel.surface) for case in cases)
    first = next((case.patches for case in on_surface if case.patches), ())
    zoned = ZonedPanel(panel, work, flush, accuracy, ultimate, ribs, first)
    answers = tuple(zoned.respond(case) for case in on_surface)
    frequencies, modes = zoned.frequencies() if with_frequencies else (np.zeros(0), [])
    return PanelResponse(
        panel, zoned.base, tuple(own.whole for own in answers), tuple(float(f) for f in frequencies),
        zoned.unknowns, tuple(modes), work, zoned.fields(answers),
        tuple(RibAnswer(beam, tuple(own.on_ribs[k] for own in answers)) for k, beam in enumerate(zoned.ribs.beams)),
    )  # fmt: skip


Answer = tuple[GridKey, PlateSolution | ReducedSolution]
Unit = PatchLoad | None  # a footprint under a unit force, or None for a unit pressure


def _footprint(patch: PatchLoad) -> PatchLoad:
    return msgspec.structs.replace(patch, force=1.0)


def footprints(cases: tuple[LoadCase, ...]) -> list[PatchLoad]:
    """Different footprints of the patches, each under a unit force, in the order they come."""
    return list({_footprint(patch): None for case in cases for patch in case.patches})


def respond(
    panel: Panel,
    stack: Stack,
    cases: tuple[LoadCase, ...],
    accuracy: Accuracy = LINEAR,
    with_frequencies: bool = True,
    ultimate: float = 1.0,
) -> PanelResponse:
    """Response of a panel to its load cases.

    A linear panel: each footprint is solved once under a unit force on a grid cut along its edges, pressure and the
    natural frequencies on the plain grid; a load case is a sum of these.  What that does not answer is solved case by
    case, see ``panel_beyond``, with strains read at ``ultimate`` times the load.  Raises PanelError, LayupError or
    SolverError.
    """
    section, surface = PlateSection(stack), panel.surface
    for case in cases:
        case.check_on(panel)
    if surface.round:
        answers, values, shapes, unknowns = respond_round(panel, section, cases, accuracy, with_frequencies, ultimate)
        return PanelResponse(panel, section, answers, tuple(float(f) for f in values), unknowns, tuple(shapes))
    on_surface = tuple(_on_surface(case, surface) for case in cases)
    solver = CaseSolver(surface, section, accuracy, ultimate)
    plain = grid_key(surface, section, None, accuracy)
    model = PlateModel(section, assembler(plain), solver.energies)
    unknowns = model.assembler.unknowns
    units: dict[Unit, tuple[GridKey, PlateSolution]] = {}
    linear = tuple(case for case in on_surface if case.edge is None and not surface.curved)
    for unit in unit_loads(linear, section):
        key = plain if unit is None else grid_key(surface, section, unit, accuracy)
        own = model if unit is None else PlateModel(section, assembler(key), solver.energies)
        unknowns = max(unknowns, own.assembler.unknowns)
        units[unit] = key, own.solve([[_applied(unit)]])[0]
    summed = responses(linear, section, units, accuracy)
    for response in summed:
        response.on_edges = _edge_forces(response.case, section, solver.energies, units)
    answered = {response.case.key: response for response in summed}
    fields = tuple(_beyond(case, answered.get(case.key), solver, surface, section, accuracy) for case in on_surface)
    frequencies: tuple[float, ...] = ()
    modes: tuple[PlateSolution, ...] = ()
    if with_frequencies:
        moving = grid_key(surface, section, None, accuracy, moving=True)
        if moving != plain:
            model = PlateModel(section, assembler(moving), solver.energies)
        values, shapes = model.frequencies(accuracy.modes, accuracy.eigen_tolerance)
        frequencies, modes = tuple(float(f) for f in values), tuple(shapes)
    return PanelResponse(panel, section, fields, frequencies, unknowns, modes)


def _on_surface(case: LoadCase, surface: Surface) -> LoadCase:
    if not surface.curved:
        return case
    return msgspec.structs.replace(case, patches=tuple(surface.patch(patch) for patch in case.patches))


def _beyond(
    case: LoadCase, linear: CaseResponse | None, solver: CaseSolver, surface: Surface, section: PlateSection,
    accuracy: Accuracy,
) -> CaseResponse:  # fmt: skip
    """The linear answer to a case where that is enough, else its own."""
    if linear is None:
        solved = solver.solve(case)
    elif accuracy.large and linear.largest_deflection[0] > THIN * section.sheet_thickness:
        try:
            solved = solver.solve_large(case)
        except SolverError:
            linear.beyond = Beyond(remarks=(NO_BALANCE,))
            return linear
    else:
        return linear
    return _answered(case, solved, solver, surface, section, accuracy)


def _answered(
    case: LoadCase, solved: Solved, solver: CaseSolver, surface: Surface, section: PlateSection, accuracy: Accuracy
) -> CaseResponse:
    """A case as it was solved on its own."""
    corners, reach = singular_corners(surface.edges, section), corner_reach(surface.length, surface.width)
    (factor, solution), (moved_factor, moved) = solved.strains, solved.moved
    parts = _parts([(factor, solved.key, solution), (moved_factor, solved.moved_key, moved)], accuracy, corners, reach)
    response = CaseResponse(case, parts[:1], corners, reach, surface, parts[1], solved.beyond)
    if isinstance(moved, PlateSolution) and case.edge is None:
        loads = solver.loads(case)
        response.on_edges = (EdgeForces(solved.moved_key, solver.energies, (), moved.vector, loads, moved_factor),)
    if isinstance(solution, LargeSolution):
        response.again = lambda level: Answered(
            _answered(case, solver.at_level(case, solved, level), solver, surface, section, accuracy)
        )
        response.rest = solver.rest
    return response


def _edge_forces(
    case: LoadCase, section: PlateSection, energies: Sequence[GroupedForm],
    units: Mapping[Unit, tuple[GridKey, PlateSolution]],
) -> tuple[EdgeForces, ...]:  # fmt: skip
    """The answers that a linear case is the sum of, as ``panel_edges`` takes them."""
    forces = []
    for factor, unit in _terms(case, section):
        key, solution = units[unit]
        forces.append(EdgeForces(key, energies, (), solution.vector, [_applied(unit)], factor))
    return tuple(forces)


def _applied(unit: Unit) -> PatchLoad | Pressure:
    return Pressure(1.0) if unit is None else unit


def unit_loads(cases: tuple[LoadCase, ...], section: PlateSection) -> list[Unit]:
    """The different loads that linear cases are sums of, in the order they come."""
    return list({unit: None for case in cases for _, unit in _terms(case, section)})


def _terms(case: LoadCase, section: PlateSection) -> list[tuple[float, Unit]]:
    """What a linear case is the sum of, each with its factor."""
    terms: list[tuple[float, Unit]] = [(patch.force, _footprint(patch)) for patch in case.patches]
    pressure = smooth_pressure(case, section)
    if pressure or not terms:
        terms.append((pressure, None))
    return terms


def responses(
    cases: tuple[LoadCase, ...], section: PlateSection, units: Mapping[Unit, Answer], accuracy: Accuracy
) -> tuple[CaseResponse, ...]:
    """Load cases as sums of the solutions under their unit loads."""
    if not cases:
        return ()
    surface = next(iter(units.values()))[0].surface
    corners, reach = singular_corners(surface.edges, section), corner_reach(surface.length, surface.width)
    solved = []
    for case in cases:
        terms = _terms(case, section)
        solutions = [(factor, *units[unit]) for factor, unit in terms]
        parts = _parts(solutions, accuracy, corners, reach)
        solved.append(CaseResponse(case, parts, corners, reach, surface))
    return tuple(solved)


def _parts(
    solutions: Sequence[tuple[float, GridKey, PlateSolution | ReducedSolution | LargeSolution]], accuracy: Accuracy,
    corners: np.ndarray, reach: float,
) -> list[Part]:  # fmt: skip
    """Solutions of one load case with common sample points: the cells that all their break lines make.

    The borders of what is left out at corners are among the places looked at.
    """
    sampled = _sampled(tuple(key for _, key, _ in solutions), accuracy, tuple(map(tuple, corners.tolist())), reach)
    return [
        Part(factor, solution, at, w_at) for (factor, _, solution), (at, w_at) in zip(solutions, sampled, strict=True)
    ]


@keep_last(64)
def _sampled(
    keys: tuple[GridKey, ...], accuracy: Accuracy, corners: tuple[tuple[bool, bool], ...], reach: float
) -> list[tuple[Samples, Samples]]:
    """Sample points of strains and of deflections on each grid: the same for most layups, so kept."""
    panel = keys[0].surface
    at_ends = (
        [end for end in (0, 1) if any(corners[end])],
        [end for end in (0, 1) if corners[0][end] or corners[1][end]],
    )
    x_border, y_border = (
        {abs(size * end - reach) for end in ends}
        for size, ends in zip((panel.length, panel.width), at_ends, strict=True)
    )
    x_breaks = tuple(sorted(x_border.union(*(key.x_breaks for key in keys))))
    y_breaks = tuple(sorted(y_border.union(*(key.y_breaks for key in keys))))
    per_cell = 2 * round(keys[0].order * accuracy.sampling / 2.0) + 1  # the order of the patches where there are any
    return [
        (samples(key, per_cell, x_breaks, y_breaks), samples(key, accuracy.deflections, x_breaks, y_breaks))
        for key in keys
    ]
