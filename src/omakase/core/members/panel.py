"""A rectangular panel: from size, supports, load cases and a stack to deflections, strains and frequencies."""

from __future__ import annotations

import math
from functools import lru_cache

import msgspec
import numpy as np

from omakase.core.errors import PanelError
from omakase.core.laminate.stack import Stack
from omakase.core.plates.assembly import Assembler, GroupedForm, grouped
from omakase.core.plates.energies import strain_energy
from omakase.core.plates.grid import Edges, Grid
from omakase.core.plates.loads import PatchLoad, PlateLoad, Pressure
from omakase.core.plates.section import PlateSection
from omakase.core.plates.solver import PlateModel, PlateSolution, Samples, plate_fields

STANDARD_GRAVITY = 9.80665
MIN_SIDE, MAX_SIDE = 0.01, 50.0
MAX_ASPECT = 30.0
MAX_PATCHES_PER_CASE = 6
CLAMP_BREAK = 3.0  # boundary layers from a clamped edge to the break line beside it; see docs/methods.md
CELL_ASPECT = 3.0
W_SAMPLES = 25  # per cell and direction


class Accuracy(msgspec.Struct, frozen=True):
    """How finely a panel is solved.

    Polynomial orders of the grid without break lines, of one cut beside clamps and of one cut around patches; sample
    points per cell for each unit of order; relative tolerance of the frequencies' Lanczos iteration; how many modes.
    """

    smooth_order: int
    clamp_order: int
    patch_order: int
    sampling: float = 2.0
    eigen_tolerance: float = 1e-9
    modes: int = 6


FULL = Accuracy(10, 6, 6)
QUICK = Accuracy(8, 5, 4, 2.0, 1e-5, 2)
RAISED = Accuracy(12, 8, 8)


class Panel(msgspec.Struct, frozen=True):
    """Size in m (length along x, width along y) and supports.  Raises PanelError outside the stated ranges."""

    length: float
    width: float
    edges: Edges = Edges()

    def __post_init__(self) -> None:
        for name, side in (("length", self.length), ("width", self.width)):
            if not MIN_SIDE <= side <= MAX_SIDE:
                raise PanelError(f"a {name} of {side * 1e3:g} mm is outside 10 mm to 50 m")
        if max(self.length, self.width) > MAX_ASPECT * min(self.length, self.width):
            raise PanelError(f"a panel more than {MAX_ASPECT:g} times as long as wide is a beam, not a plate")
        self.edges.check_held()


class LoadCase(msgspec.Struct, frozen=True):
    """A named sum of limit loads.  ``gravity``: own weight in multiples of g, positive pressing down on face A."""

    name: str
    pressures: tuple[float, ...] = ()
    patches: tuple[PatchLoad, ...] = ()
    gravity: float = 0.0

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


class CaseResponse:
    """Fields of one load case at limit load.

    ``x``, ``y`` : sample places, m.  ``strains`` : (x, y, 11) generalised strains there.  ``w`` : deflection in m,
    positive up, at places of its own ``w_x``, ``w_y``, close enough together that its largest value is met.
    """

    def __init__(self, case: LoadCase, solution: PlateSolution, samples: Samples, w_samples: Samples) -> None:
        self.case = case
        self.solution = solution
        self.x, self.y = samples.x, samples.y
        self._samples = samples
        self.derived: dict[str, tuple[np.ndarray, ...]] = {}  # what one check worked out and others need too
        self.strains = solution.strains(samples)
        self.w_x, self.w_y = w_samples.x, w_samples.y
        self.w = solution.field("w", w_samples)

    def equilibrium_shear(self, section: PlateSection) -> np.ndarray:
        """Shear force (V_x, V_y), N/m, of a monolithic plate from the gradients of its moments: (x, y, 2).

        V_x = M_x,x + M_xy,y and V_y = M_xy,x + M_y,y.  In a thin plate the shear strain is the small difference of
        slope and rotation, so that its stiffness would blow up what is left of the discretisation error.
        """
        stiffness = section.membrane[3:6, 0:6]
        along_x = self.solution.strains(self._samples, dx=1)[..., 0:6] @ stiffness.T
        along_y = self.solution.strains(self._samples, dy=1)[..., 0:6] @ stiffness.T
        return np.stack([along_x[..., 0] + along_y[..., 2], along_x[..., 2] + along_y[..., 1]], axis=-1)

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


GridKey = tuple[Panel, int, tuple[float, ...], tuple[float, ...], bool, tuple[str, ...]]


@lru_cache(maxsize=48)
def _prepared(key: GridKey, per_cell: int) -> tuple[Assembler, tuple[Samples, Samples]]:
    """Grid with its integrals and sample points; kept, since most edits change the layup and not the panel."""
    panel, order, x_breaks, y_breaks, three_layer, fields = key
    grid = Grid(panel.length, panel.width, panel.edges, order, x_breaks, y_breaks, three_layer, fields)
    return Assembler(grid), (Samples(grid, per_cell), Samples(grid, W_SAMPLES))


def _clamp_breaks(panel: Panel, section: PlateSection) -> tuple[list[float], list[float]]:
    """Break lines beside clamped edges of a sandwich, where the faces' own bending fades within a few ℓ."""
    x: list[float] = []
    y: list[float] = []
    if section.kinematics == "three_layer":
        reach = CLAMP_BREAK * section.boundary_layer
        for breaks, size, first, last in (
            (x, panel.length, panel.edges.x0, panel.edges.x1),
            (y, panel.width, panel.edges.y0, panel.edges.y1),
        ):
            # rounded so that a small edit to the layup finds the same grid again
            distance = float(f"{min(reach, size / 4.0):.1g}")
            if first == "clamped":
                breaks.append(distance)
            if last == "clamped":
                breaks.append(size - distance)
    return x, y


def _base_breaks(size: float, other: float) -> list[float]:
    """Equal cells along the longer side so that no cell is more than CELL_ASPECT times as long as wide."""
    count = max(1, math.ceil(size / other / CELL_ASPECT - 1e-9))
    return [size * i / count for i in range(1, count)]


def _model(
    panel: Panel, section: PlateSection, energy: GroupedForm, patches: tuple[PatchLoad, ...], accuracy: Accuracy
) -> tuple[PlateModel, tuple[Samples, Samples]]:
    x_breaks, y_breaks = _clamp_breaks(panel, section)
    for patch in patches:
        low_x, high_x, low_y, high_y = patch.bounds
        x_breaks += [low_x, high_x]
        y_breaks += [low_y, high_y]
    if patches:
        order = accuracy.patch_order
    else:
        order = accuracy.clamp_order if x_breaks or y_breaks else accuracy.smooth_order
    if not x_breaks:
        x_breaks = _base_breaks(panel.length, panel.width)
    if not y_breaks:
        y_breaks = _base_breaks(panel.width, panel.length)
    key = (
        panel,
        order,
        tuple(sorted(x_breaks)),
        tuple(sorted(y_breaks)),
        section.kinematics == "three_layer",
        plate_fields(section),
    )
    assembler, samples = _prepared(key, 2 * round(order * accuracy.sampling / 2.0) + 1)
    return PlateModel(section, assembler, energy), samples


def _plate_loads(case: LoadCase, section: PlateSection) -> list[PlateLoad]:
    loads: list[PlateLoad] = [Pressure(p) for p in case.pressures]
    loads += case.patches
    if case.gravity:
        loads.append(Pressure(section.areal_mass * STANDARD_GRAVITY * case.gravity))
    return loads


def respond(
    panel: Panel,
    stack: Stack,
    cases: tuple[LoadCase, ...],
    accuracy: Accuracy = FULL,
    with_frequencies: bool = True,
) -> PanelResponse:
    """Response of a panel to its load cases.

    Each set of patches gets a grid of its own, cut along the patches' edges; cases without patches and the
    natural frequencies share the plain grid.  Raises PanelError, LayupError or SolverError.
    """
    section = PlateSection(stack)
    for case in cases:
        case.check_on(panel)
    models: dict[tuple[PatchLoad, ...], PlateModel] = {}
    groups: dict[tuple[PatchLoad, ...], list[int]] = {}
    for i, case in enumerate(cases):
        # forces differ between cases on the same rectangles; the grid does not care
        footprint = tuple(sorted((msgspec.structs.replace(p, force=1.0) for p in case.patches), key=lambda p: p.bounds))
        groups.setdefault(footprint, []).append(i)
    solutions: dict[int, tuple[PlateSolution, Samples, Samples]] = {}
    energy = grouped(strain_energy(section, max(panel.length, panel.width)))
    for footprint, members in groups.items():
        models[footprint], samples = _model(panel, section, energy, footprint, accuracy)
        loads = [_plate_loads(cases[i], section) for i in members]
        for i, solution in zip(members, models[footprint].solve(loads), strict=True):
            solutions[i] = solution, *samples
    frequencies: tuple[float, ...] = ()
    if with_frequencies:
        base = models.get(()) or _model(panel, section, energy, (), accuracy)[0]
        models[()] = base
        frequencies = tuple(float(f) for f in base.frequencies(accuracy.modes, accuracy.eigen_tolerance)[0])
    responses = tuple(CaseResponse(case, *solutions[i]) for i, case in enumerate(cases))
    unknowns = max((model.assembler.unknowns for model in models.values()), default=0)
    return PanelResponse(panel, section, responses, frequencies, unknowns)
