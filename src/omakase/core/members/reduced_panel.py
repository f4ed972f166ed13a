"""A panel in a few shapes: answers for layups like those it was made from in a few milliseconds."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

import msgspec
import numpy as np

from omakase.core.laminate.stack import Stack
from omakase.core.members.panel import Answer, PanelResponse, Unit, footprints, responses, unit_loads
from omakase.core.members.panel_given import Accuracy, LoadCase, Panel
from omakase.core.members.panel_grid import GridKey, assembler, grid_key
from omakase.core.plates.assembly import grouped
from omakase.core.plates.energies import strain_energy
from omakase.core.plates.grid import FIELDS
from omakase.core.plates.lines import singular_corners
from omakase.core.plates.loads import PatchLoad, Pressure
from omakase.core.plates.reduced import Operator, ReducedPlate, krylov, sheared, stretched
from omakase.core.plates.section import PlateSection
from omakase.core.plates.solver import PlateModel

LIVE = Accuracy(10, 8, 6, 1.3, 1e-5, 2, 15)  # the grids of the full order, looked at in fewer places
OTHER_CORES = (4.0, 0.25)  # ratios of the shear stiffness along and across, for which it has shapes too
OTHER_CLOTH, OTHER_ANGLES = 4.0, (0.0, 90.0, 45.0, -45.0)  # the same for the stiffness of one face along an angle
MOST_SHAPES = 48  # per load; each is kept with its strains at every place looked at
MOST_MOVING = 96  # for the frequencies, of which nothing but the small matrices is kept
SPARE_SHAPES = 2  # beyond the modes asked for, so that two that change places stay in sight


class ReducedPanel:
    """A panel in few shapes, for many layups like those it was made from.

    ``cases`` : their footprints are what it can be loaded with.  ``stacks`` : the first is solved on the whole grid;
    the shapes are those from which the solutions of the others follow in ``steps`` steps of conjugate gradients.  All
    must be of one kind, with or without a core.  Raises PanelError, LayupError or SolverError.

    Accuracy, measured over 557 single edits of the demo's candidates (core half to three times as thick and of other
    kinds; any ply turned, doubled, left out or of other cloth): deflection within 1 % in 553 and within 6 % in all,
    first frequency within 0.5 % in 544 and 1.5 % in all; of the reserve factors of strength 95 of 100 within 3 %, the
    others up to about 60 % off, where an edit adds boundary layers that the shapes do not contain.  So a quick answer
    is shown only until the full one is ready.  It is never softer than the whole grid, and its frequencies are never
    lower, as in any Rayleigh–Ritz solution.
    """

    def __init__(
        self,
        panel: Panel,
        cases: tuple[LoadCase, ...],
        stacks: Sequence[Stack],
        accuracy: Accuracy = LIVE,
        steps: int = 2,
    ) -> None:
        for case in cases:
            case.check_on(panel)
        self.panel, self._accuracy = panel, accuracy
        surface = self._surface = panel.surface
        sections = [PlateSection(stack) for stack in stacks]
        first = sections[0]
        self._kinematics = first.kinematics
        others = [
            *sections[1:],
            *(sheared(first, ratio) for ratio in OTHER_CORES),
            *(stretched(first, face, OTHER_CLOTH, angle) for face in first.faces for angle in OTHER_ANGLES),
        ]
        size = max(surface.length, surface.width)
        energies = [grouped(strain_energy(section, size, surface.curvature)) for section in others]

        def grid(patch: PatchLoad | None, moving: bool = False) -> GridKey:
            return msgspec.structs.replace(grid_key(surface, first, patch, accuracy, moving), fields=FIELDS)

        def operators(model: PlateModel) -> Iterator[Operator]:
            return (Operator(model.assembler, energy) for energy in energies)  # one at a time: they are large

        def reduced(model: PlateModel, load: PatchLoad | Pressure) -> ReducedPlate:
            vector = model.load_vector([load])
            start = model.factor.solve(vector)[:, None]
            shapes = krylov(model, operators(model), start, steps)
            return ReducedPlate(model.assembler, first, shapes, vector, MOST_SHAPES)

        plain, moving = grid(None), grid(None, moving=True)
        model = PlateModel(first, assembler(plain))
        self._units: dict[Unit, tuple[GridKey, ReducedPlate]] = {None: (plain, reduced(model, Pressure(1.0)))}
        if moving != plain:
            model = PlateModel(first, assembler(moving))
        modes = model.frequencies(accuracy.modes + SPARE_SHAPES, accuracy.eigen_tolerance)[1]
        shapes = np.stack([mode.vector for mode in modes], axis=1)
        spanning = krylov(model, operators(model), shapes, 1)
        self._moving = ReducedPlate(model.assembler, first, spanning, most=MOST_MOVING)
        for patch in footprints(cases):
            key = grid(patch)
            self._units[patch] = key, reduced(PlateModel(first, assembler(key)), patch)

    def fits(self, section: PlateSection, cases: tuple[LoadCase, ...]) -> bool:
        """Whether a section is of the kind that the shapes were made from, and the loads stand where they stood."""
        return section.kinematics == self._kinematics and all(patch in self._units for patch in footprints(cases))

    def respond(self, stack: Stack, cases: tuple[LoadCase, ...]) -> PanelResponse | None:
        """Response of the panel with another layup; None when it does not fit.  Raises LayupError."""
        section = PlateSection(stack)
        return self.respond_section(section, cases) if self.fits(section, cases) else None

    def sample(self, stacks: Iterable[Stack], cases: tuple[LoadCase, ...]) -> None:
        """Looks at the shapes wherever an answer for one of ``stacks`` does, so that the first edit need not."""
        seen: set[bytes] = set()
        for stack in stacks:
            section = PlateSection(stack)
            pattern = singular_corners(self._surface.edges, section).tobytes()
            if pattern not in seen and self.fits(section, cases):
                seen.add(pattern)
                self.respond_section(section, cases)

    def respond_section(self, section: PlateSection, cases: tuple[LoadCase, ...]) -> PanelResponse:
        """Response with a section that fits."""
        kept = {unit: self._units[unit] for unit in unit_loads(cases, section)}
        units: dict[Unit, Answer] = {unit: (key, plate.solve(section)) for unit, (key, plate) in kept.items()}
        answers = responses(cases, section, units, self._accuracy)
        frequencies = tuple(float(f) for f in self._moving.frequencies(section, self._accuracy.modes))
        return PanelResponse(self.panel, section, answers, frequencies, self._units[None][1].size)
