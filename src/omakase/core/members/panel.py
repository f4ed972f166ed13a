"""A rectangular panel: from size, supports, load cases and a stack to deflections, strains and frequencies."""

from __future__ import annotations

import math
from collections.abc import Mapping
from functools import lru_cache

import msgspec
import numpy as np

from omakase.core.errors import PanelError, both_units
from omakase.core.laminate.stack import Stack
from omakase.core.members.field import Measured, Place, WallField
from omakase.core.plates.assembly import Assembler, grouped
from omakase.core.plates.energies import strain_energy
from omakase.core.plates.grid import Edges, Grid, merge_breaks
from omakase.core.plates.lines import (
    CELL_ASPECT,
    SKEW,
    break_lines,
    corner_reach,
    couples_twist,
    coupling,
    singular_corners,
)
from omakase.core.plates.loads import STANDARD_GRAVITY, PatchLoad, Pressure
from omakase.core.plates.reduced import ReducedSolution
from omakase.core.plates.section import PlateSection
from omakase.core.plates.shear_places import in_corners, rough_shear, shear_left_out
from omakase.core.plates.solver import PlateModel, PlateSolution, Samples, lobatto, plate_fields

MIN_SIDE, MAX_SIDE = 0.01, 50.0
MAX_ASPECT = 30.0
MAX_PATCHES_PER_CASE = 6


class Accuracy(msgspec.Struct, frozen=True):
    """How finely a panel is solved.

    Polynomial orders of the grid of one cell, of one cut along its edges or into equal cells, and of one cut around
    patches or into several layers; sample points per cell for each unit of order; relative tolerance of the
    frequencies' Lanczos iteration; how many modes; places per cell and direction at which the deflection is looked at;
    parts that every cell is cut into each way; whether lines follow the layers that fade beside edges and patches.
    """

    smooth_order: int
    edge_order: int
    patch_order: int
    sampling: float = 2.0
    eigen_tolerance: float = 1e-9
    modes: int = 6
    deflections: int = 25
    cells: int = 1
    layers: bool = True


FULL = Accuracy(10, 8, 6)
QUICK = Accuracy(7, 6, 4, 2.0, 1e-5, 2, 15, layers=False)
REFINED = Accuracy(10, 8, 6, cells=2)  # cells halved: what the full order is checked with


class Panel(msgspec.Struct, frozen=True):
    """Size in m (length along x, width along y) and supports.  Raises PanelError outside the stated ranges."""

    length: float
    width: float
    edges: Edges = Edges()

    def __post_init__(self) -> None:
        for name, side in (("length", self.length), ("width", self.width)):
            if not MIN_SIDE <= side <= MAX_SIDE:
                raise PanelError(f"a {name} of {both_units(side)} is outside 10 mm to 50 m (0.4 in to 164 ft)")
        if max(self.length, self.width) > MAX_ASPECT * min(self.length, self.width):
            raise PanelError(f"a panel more than {MAX_ASPECT:g} times as long as wide is a beam, not a plate")
        self.edges.check_held()


class LoadCase(msgspec.Struct, frozen=True):
    """A named sum of limit loads.  ``gravity``: own weight in multiples of g, positive pressing down on face A.

    Load cases are told apart by ``id``, or by name where none is given.
    """

    name: str
    pressures: tuple[float, ...] = ()
    patches: tuple[PatchLoad, ...] = ()
    gravity: float = 0.0
    id: str = ""

    @property
    def key(self) -> str:
        """What tells it from others of the same brief."""
        return self.id or self.name

    def check_on(self, panel: Panel) -> None:
        """Raises PanelError when a load is not finite, does not fit on the panel, or there are too many patches."""
        if not all(math.isfinite(p) for p in (*self.pressures, self.gravity)):
            raise PanelError(f"load case '{self.name}': a load is not a finite number")
        if len(self.patches) > MAX_PATCHES_PER_CASE:
            raise PanelError(f"load case '{self.name}' has more than {MAX_PATCHES_PER_CASE} patches")
        for patch in self.patches:
            try:
                patch.check_inside(panel.length, panel.width)
            except PanelError as error:
                raise PanelError(f"load case '{self.name}': {error}") from None


class Part(msgspec.Struct, frozen=True, eq=False):
    """One solution that a load case is the sum of, times ``factor``, with the case's sample points on its grid."""

    factor: float
    solution: PlateSolution | ReducedSolution
    samples: Samples
    w_samples: Samples

    def strains(self, dx: int = 0, dy: int = 0) -> np.ndarray:
        """Generalised strains at the samples, or a derivative of them: (x, y, 11)."""
        return self.factor * self.solution.strains(self.samples, dx, dy)


class CaseResponse:
    """Fields of one load case at limit load.

    ``x``, ``y`` : sample places, m.  ``strains`` : (x, y, 11) generalised strains there.  ``w`` : deflection in m,
    positive up, at places of its own ``w_x``, ``w_y``, close enough together that its largest value is met.
    ``left_out`` : (x, y) booleans, the places in ``corners`` (2, 2), by ends along x and y, within ``reach`` of both
    sides, where the theory's strains have no bound.
    """

    def __init__(self, case: LoadCase, parts: list[Part], corners: np.ndarray, reach: float, edges: Edges) -> None:
        self.case, self._edges = case, edges
        self.parts = parts
        first = parts[0]
        self.x, self.y = first.samples.x, first.samples.y
        self.strains: np.ndarray = sum((part.strains() for part in parts[1:]), first.strains())
        self.left_out = in_corners(self.x, self.y, (self.x[-1], self.y[-1]), corners, reach)
        self.w_x, self.w_y = first.w_samples.x, first.w_samples.y
        self.w: np.ndarray = np.sum([part.factor * part.solution.deflection(part.w_samples) for part in parts], axis=0)

    def equilibrium_shear(self, section: PlateSection) -> np.ndarray:
        """Shear force (V_x, V_y), N/m, of a monolithic plate from the gradients of its moments: (x, y, 2).

        V_x = M_x,x + M_xy,y and V_y = M_xy,x + M_y,y.  In a thin plate the shear strain is the small difference of
        slope and rotation, so that its stiffness would blow up what is left of the discretisation error.
        """
        stiffness = section.membrane[3:6, 0:6]
        along_x = np.sum([part.strains(dx=1)[..., 0:6] for part in self.parts], axis=0) @ stiffness.T
        along_y = np.sum([part.strains(dy=1)[..., 0:6] for part in self.parts], axis=0) @ stiffness.T
        return np.stack([along_x[..., 0] + along_y[..., 2], along_x[..., 2] + along_y[..., 1]], axis=-1)

    def ply_shear(self, section: PlateSection) -> np.ndarray:
        """``equilibrium_shear``, zero in the corners and beside edges where it cannot be read: (x, y, 2)."""
        force = self.equilibrium_shear(section)
        force[shear_left_out(self.x, self.y, self._edges, couples_twist(section))] = 0.0
        return force

    def place(self, i: int, j: int) -> Place:
        """Where sample (i, j) lies."""
        return Place(float(self.x[i]), float(self.y[j]))

    def nearest(self, place: Place) -> tuple[int, int]:
        """The sample nearest to a place; the middle of a side that the place does not name."""
        x = (self.x[0] + self.x[-1]) / 2.0 if place.x is None else place.x
        y = (self.y[0] + self.y[-1]) / 2.0 if place.y is None else place.y
        return int(np.argmin(np.abs(self.x - x))), int(np.argmin(np.abs(self.y - y)))

    @property
    def largest_deflection(self) -> tuple[float, float, float]:
        """(|w|, x, y) of the sample that moves most, m."""
        i, j = np.unravel_index(np.argmax(np.abs(self.w)), self.w.shape)
        return float(abs(self.w[i, j])), float(self.w_x[i]), float(self.w_y[j])


class PanelResponse(msgspec.Struct, frozen=True, eq=False):
    """Everything the checks need of one panel of one layup."""

    panel: Panel
    section: PlateSection
    cases: tuple[CaseResponse, ...]
    frequencies: tuple[float, ...]
    unknowns: int

    @property
    def fields(self) -> tuple[WallField, ...]:
        """Its one wall."""
        rough = rough_shear(self.panel.edges, self.section)
        return (WallField(self.section.stack, self.section, self.cases, "", rough),)

    @property
    def area(self) -> float:
        """m² of layup."""
        return self.panel.length * self.panel.width

    @property
    def areal_mass(self) -> float:
        return self.section.areal_mass

    @property
    def mass(self) -> float:
        return self.areal_mass * self.panel.length * self.panel.width

    @property
    def measures(self) -> dict[str, tuple[Measured, ...]]:
        """Largest deflection of each load case, and the thickness."""
        thickness, edges = self.section.stack.thickness, self.panel.edges
        resting = "resting" in (edges.x0, edges.x1, edges.y0, edges.y1)
        deflections = []
        for case in self.cases:
            value, x, y = case.largest_deflection
            remarks = []
            if value > thickness / 2.0:
                remarks.append(
                    f"deflection is {value / thickness:.1f} times the thickness: beyond half of it, "
                    "stretching stiffens the panel and small-deflection theory overstates the sag"
                )
            if resting:
                remarks.append("resting edges are taken as not lifting off; corners may need holding down")
            deflections.append(Measured(value, case.case.name, case.case.key, x, y, tuple(remarks)))
        return {"deflection": tuple(deflections), "thickness": (Measured(thickness),)}


class GridKey(msgspec.Struct, frozen=True):
    """What decides a grid."""

    panel: Panel
    order: int
    x_breaks: tuple[float, ...]
    y_breaks: tuple[float, ...]
    three_layer: bool
    fields: tuple[str, ...]


Solved = tuple[GridKey, PlateSolution | ReducedSolution]


@lru_cache(maxsize=48)
def assembler(key: GridKey) -> Assembler:
    """Grid with its integrals; kept, since most edits change the layup and not the panel."""
    panel = key.panel
    return Assembler(
        Grid(panel.length, panel.width, panel.edges, key.order, key.x_breaks, key.y_breaks, key.three_layer, key.fields)
    )


@lru_cache(maxsize=256)
def _samples(key: GridKey, per_cell: int, x_breaks: tuple[float, ...], y_breaks: tuple[float, ...]) -> Samples:
    """Samples on one grid in the cells that the break lines of all grids of a load case make."""
    grid = assembler(key).grid
    x_nodes, y_nodes = merge_breaks(grid.length, x_breaks), merge_breaks(grid.width, y_breaks)
    return Samples(grid, lobatto(per_cell), x_nodes, y_nodes, lobatto(per_cell // 2 + 1))


def grid_key(
    panel: Panel, section: PlateSection, patch: PatchLoad | None, accuracy: Accuracy, moving: bool = False
) -> GridKey:
    """The grid for one patch, or for loads without edges; ``moving`` : for the natural frequencies."""
    lines = break_lines(panel.length, panel.width, panel.edges, section, patch, accuracy.layers, moving)
    order = {
        "plain": accuracy.edge_order if lines.x or lines.y else accuracy.smooth_order,
        "edges": accuracy.edge_order,
        "layers": accuracy.patch_order,
        "patch": accuracy.patch_order,
    }[lines.crowd]
    if (
        moving
        and lines.crowd == "edges"
        and max(panel.length, panel.width) <= CELL_ASPECT * min(panel.length, panel.width)
    ):
        order += 1  # the cell between the edges' layers is nearly the whole panel and holds several half waves
    if accuracy.layers and section.faces and lines.crowd in ("layers", "patch") and coupling(section) > SKEW:
        order += 1  # faces of skew fibres turn pull into shear beside every line: reserves were 4 to 5 % too high
    three_layer = section.kinematics == "three_layer"
    x, y = (_cut(size, breaks, accuracy.cells) for size, breaks in ((panel.length, lines.x), (panel.width, lines.y)))
    return GridKey(panel, order, x, y, three_layer, plate_fields(section))


def _cut(size: float, lines: tuple[float, ...], parts: int) -> tuple[float, ...]:
    """Every cell cut in so many equal parts."""
    nodes = np.array([0.0, *lines, size])
    steps = np.arange(parts) / parts
    return tuple((nodes[:-1, None] + np.diff(nodes)[:, None] * steps).ravel()[1:])


def _smooth_pressure(case: LoadCase, section: PlateSection) -> float:
    """What presses on the whole face, Pa: pressures and own weight."""
    return sum(case.pressures) + section.areal_mass * STANDARD_GRAVITY * case.gravity


def _footprint(patch: PatchLoad) -> PatchLoad:
    return msgspec.structs.replace(patch, force=1.0)


def footprints(cases: tuple[LoadCase, ...]) -> list[PatchLoad]:
    """Different footprints of the patches, each under a unit force, in the order they come."""
    return list({_footprint(patch): None for case in cases for patch in case.patches})


def respond(
    panel: Panel,
    stack: Stack,
    cases: tuple[LoadCase, ...],
    accuracy: Accuracy = FULL,
    with_frequencies: bool = True,
) -> PanelResponse:
    """Response of a panel to its load cases.

    A linear panel: each footprint is solved once under a unit force on a grid cut along its edges, pressure and the
    natural frequencies on the plain grid; a load case is a sum of these.  Raises PanelError, LayupError or
    SolverError.
    """
    section = PlateSection(stack)
    for case in cases:
        case.check_on(panel)
    energy = grouped(strain_energy(section, max(panel.length, panel.width)))
    plain = grid_key(panel, section, None, accuracy)
    model = PlateModel(section, assembler(plain), energy)
    even = model.solve([[Pressure(1.0)]])[0]
    unknowns = model.assembler.unknowns
    units: dict[PatchLoad, Solved] = {}
    for patch in footprints(cases):
        key = grid_key(panel, section, patch, accuracy)
        assembled = assembler(key)
        unknowns = max(unknowns, assembled.unknowns)
        units[patch] = key, PlateModel(section, assembled, energy).solve([[patch]])[0]
    fields = responses(cases, section, (plain, even), units, accuracy)
    frequencies: tuple[float, ...] = ()
    if with_frequencies:
        moving = grid_key(panel, section, None, accuracy, moving=True)
        if moving != plain:
            model = PlateModel(section, assembler(moving), energy)
        frequencies = tuple(float(f) for f in model.frequencies(accuracy.modes, accuracy.eigen_tolerance)[0])
    return PanelResponse(panel, section, fields, frequencies, unknowns)


def responses(
    cases: tuple[LoadCase, ...], section: PlateSection, even: Solved, units: Mapping[PatchLoad, Solved],
    accuracy: Accuracy,
) -> tuple[CaseResponse, ...]:  # fmt: skip
    """Load cases as sums of the solutions under unit pressure (``even``) and under the unit force of each footprint."""
    panel = even[0].panel
    corners, reach = singular_corners(panel.edges, section), corner_reach(panel.length, panel.width)
    solved = []
    for case in cases:
        solutions = [(patch.force, *units[_footprint(patch)]) for patch in case.patches]
        pressure = _smooth_pressure(case, section)
        if pressure or not solutions:
            solutions.append((pressure, *even))
        parts = _parts(solutions, accuracy, corners, reach)
        solved.append(CaseResponse(case, parts, corners, reach, panel.edges))
    return tuple(solved)


def _parts(
    solutions: list[tuple[float, GridKey, PlateSolution | ReducedSolution]], accuracy: Accuracy, corners: np.ndarray,
    reach: float,
) -> list[Part]:  # fmt: skip
    """Solutions of one load case with common sample points: the cells that all their break lines make.

    The borders of what is left out at corners are among the places looked at.
    """
    panel = solutions[0][1].panel
    at_ends = [end for end in (0, 1) if corners[end].any()], [end for end in (0, 1) if corners[:, end].any()]
    x_border, y_border = (
        {abs(size * end - reach) for end in ends}
        for size, ends in zip((panel.length, panel.width), at_ends, strict=True)
    )
    x_breaks = tuple(sorted(x_border.union(*(key.x_breaks for _, key, _ in solutions))))
    y_breaks = tuple(sorted(y_border.union(*(key.y_breaks for _, key, _ in solutions))))
    order = solutions[0][1].order  # of the patches where there are any
    per_cell = 2 * round(order * accuracy.sampling / 2.0) + 1
    return [
        Part(
            factor,
            solution,
            _samples(key, per_cell, x_breaks, y_breaks),
            _samples(key, accuracy.deflections, x_breaks, y_breaks),
        )
        for factor, key, solution in solutions
    ]
