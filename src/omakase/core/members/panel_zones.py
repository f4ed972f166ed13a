"""A panel whose layers run over parts of it: doublers, rims, inserts in place of the core, stretches without core.

The panel is a patchwork of rectangles with a stack each; neighbours share their displacements, and where their
middle planes lie at different heights, pull on one bends the other.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import msgspec
import numpy as np

from omakase.core.errors import PanelError, SolverError, both_units
from omakase.core.members.field import WallField
from omakase.core.members.panel_beyond import LARGE, NO_BALANCE, THIN
from omakase.core.members.panel_case import Answered, Beyond, CaseResponse, Part
from omakase.core.members.panel_edges import EdgeForces
from omakase.core.members.panel_given import Accuracy, Arc, LoadCase, Panel, Surface
from omakase.core.members.panel_grid import GridKey, assembler, cut, quadrature, samples
from omakase.core.members.panel_held import Holding
from omakase.core.members.panel_patchwork import Box, Patchwork, pieces_of
from omakase.core.members.panel_regions import Flush, RegionCase, heights_of, shifted, void
from omakase.core.members.panel_ribbed import RibsOn
from omakase.core.members.panel_ribs import Ribbed
from omakase.core.members.pressing import buckling_of_forces, grown
from omakase.core.plates.assembly import grouped
from omakase.core.plates.energies import strain_energy
from omakase.core.plates.grid import FIELDS
from omakase.core.plates.large_deflection import LargeDeflection, LargeSolution, carried_over
from omakase.core.plates.lines import FADING, Fixed, corner_reach, singular_corners, zone_lines
from omakase.core.plates.loads import STANDARD_GRAVITY, PatchLoad, PlateLoad, Pressure
from omakase.core.plates.quadrature import membrane_forces
from omakase.core.plates.section import PlateSection
from omakase.core.plates.shear_places import rough_shear
from omakase.core.plates.solver import PlateModel, PlateSolution

START_ORDER = 3  # with which states of large deflection are looked for first
MOST_CELLS = 120  # with the lines beside patches; a grid of more does without them
MANY_CELLS = 30, 80  # beyond which a grid does with an order less than that of patches, and with two less
SMALL_AREA = 0.02  # of the panel: a zone smaller than that does not tell whether it stretches
STEP = 1.3  # ratio of shear stiffness of two cores beside each other, from which the faces kink between them
BESIDE = "beside the borders of zones it cannot be read and is left out"


def _near(places: np.ndarray, arc: Arc, lines: np.ndarray, reach: float) -> list[np.ndarray]:
    """For each of the ``lines`` across an arc which places lie within ``reach`` of it, or within a quarter of the
    narrower piece beside it."""
    at = np.array([arc.along(float(line)) for line in lines])
    narrow = np.minimum(np.diff(at, prepend=-np.inf), np.diff(at, append=np.inf))
    return [np.abs(places - line) <= min(reach, width / 4.0) for line, width in zip(at, narrow, strict=True)]


class ZonedPanel:
    """The solver of one patchwork, on a grid cut along all zones and what a load case has."""

    def __init__(
        self, panel: Panel, patches: Patchwork, flush: Flush, accuracy: Accuracy, ultimate: float,
        ribs: Sequence[Ribbed] = (), common: Sequence[PatchLoad] = (),
    ) -> None:  # fmt: skip
        """``common`` : patches along which the grid of all that has none is cut too, so that it is also theirs."""
        self._common = tuple(common)
        self.panel, self.patchwork, self._accuracy, self._ultimate = panel, patches, accuracy, ultimate
        self.sections = tuple(PlateSection(stack) for stack in patches.stacks)
        self.base = self.sections[patches.base]
        self.heights = heights_of(patches, flush)
        size = max(panel.surface.length, panel.surface.width)
        self._moved = tuple(shifted(own, height) for own, height in zip(self.sections, self.heights, strict=True))
        if patches.has_openings:
            self._moved = (*self._moved, void(self.base))
        self._energies = [
            grouped(strain_energy(own, size, panel.surface.curvature, panel.held.bed)) for own in self._moved
        ]
        self._openings = [box for k, box in patches.boxes() if k == len(self.sections)]  # in the plan
        for bolt in panel.held.bolts:
            if any(box.holds(bolt.x, bolt.y) for box in self._openings):
                raise PanelError(f"the bolt at x, y of {both_units(bolt.x, bolt.y, between=', ')} is in an opening")
        stiffness = np.array([np.diag(own.membrane) for own in self._moved])
        self._holding = Holding(panel.held, panel.surface, stiffness[:, 3:5].max(), stiffness[:, :2].max())
        self._fading = max(own.boundary_layer for own in self.sections)
        self.ribs = RibsOn(panel, patches, self.sections, self.heights, self.base, self._fading, ribs)
        self._models: dict[GridKey, PlateModel] = {}
        self._plates: dict[GridKey, LargeDeflection] = {}

    def rest(self) -> None:
        """Gives back what was worked out on grids; asked for once more it is made anew."""
        self._models.clear()
        self._plates.clear()

    def _plate(self, key: GridKey) -> LargeDeflection:
        """The equations of a panel that moves far on one grid."""
        plate = self._plates.get(key)  # another thread may clear them at any moment: see ``rest``
        if plate is None:
            plate = self._plates[key] = LargeDeflection(self._model(key))
        return plate

    @property
    def unknowns(self) -> int:
        """Of its grids the most."""
        return max((model.assembler.unknowns for model in self._models.values()), default=0)

    @property
    def _stays(self) -> bool:
        """Whether nothing that bends the panel moves its middle plane: its grid can do without the fields there."""
        return not self.panel.surface.curved and not self.ribs.beams and all(own.uncoupled for own in self._moved)

    def frequencies(self) -> tuple[np.ndarray, list[PlateSolution]]:
        """Lowest natural frequencies, Hz, with their shapes."""
        model = self._model(self._key(self.panel.surface, self._common, self._stays))
        return model.frequencies(self._accuracy.modes, self._accuracy.eigen_tolerance)

    def respond(self, case: LoadCase) -> Answered:
        """A load case on the whole panel, with what it does on each stack and on each rib."""
        surface = self.panel.surface
        if case.edge is not None:
            surface = msgspec.structs.replace(surface, in_plane="loose")
        for patch in case.patches:
            if any(box.holds(patch.x, patch.y) for box in self._openings):
                raise PanelError(f"load case '{case.name}': a load patch is in an opening")
        key = self._key(surface, case.patches or self._common, self._stays and case.edge is None)
        model = self._model(key)
        loads = self._loads(case)
        load = model.load_vector(loads)
        solution = PlateSolution(model.assembler, model.factor.solve(load))
        beyond = Beyond()
        strained: PlateSolution | LargeSolution = solution
        moved: PlateSolution | LargeSolution = solution
        if case.edge is not None or surface.curved or self.ribs.beams:  # between ribs bending presses the skin
            forces = self._membrane(key, solution)
            beyond = buckling_of_forces(key, model, forces, self.base)
            if case.edge is not None:
                beyond, strained, moved = grown(key, model, forces, load, solution, beyond, self._ultimate)
        if case.edge is None and not surface.curved and self._moves_far(key, solution):
            return self._stretched(case, key, solution)
        answer = self._answered(case, surface, key, (1.0, strained), moved, beyond)
        if moved is solution:
            answer.whole.on_edges = (EdgeForces(key, self._energies, model.attached, moved.vector, loads),)
        return answer

    def _answered(
        self, case: LoadCase, surface: Surface, key: GridKey, strained: tuple[float, PlateSolution | LargeSolution],
        moved: PlateSolution | LargeSolution, beyond: Beyond,
    ) -> Answered:  # fmt: skip
        """A case as it was solved on one grid: (factor, solution) of strains, and the solution of deflections."""
        model = self._model(key)
        factor, solution = strained
        corners, reach = singular_corners(surface.edges, self.base), corner_reach(surface.length, surface.width)
        per_cell = 2 * round(key.order * self._accuracy.sampling / 2.0) + 1
        at, w_at = (samples(key, n, key.x_breaks, key.y_breaks) for n in (per_cell, self._accuracy.deflections))
        parts = [Part(factor, solution, at, w_at), Part(1.0, moved, at, w_at)]
        whole = CaseResponse(case, parts[:1], corners, reach, surface, parts[1], beyond)
        in_opening = np.array(key.layout)[np.ix_(w_at.x_cells, w_at.y_cells)] == len(self.sections)
        whole.w = np.where(in_opening, 0.0, whole.w)
        beside, corner = self._beside(at.x, at.y, reach)
        bolted = self._holding.beside(at.x, at.y, self._fading)
        whole.left_out = whole.left_out | corner | bolted | self.ribs.beside(at.x, at.y)
        whole.inside = tuple(self._holding.reactions(model.assembler, moved.vector))
        there = np.array(key.layout)[np.ix_(at.x_cells, at.y_cells)]
        stacks = tuple(
            RegionCase(whole, there == k, beside | bolted, height, self._standing_in(case, k))
            for k, height in enumerate(self.heights)
        )
        return Answered(whole, stacks, self.ribs.cases(case, model.assembler, factor * solution.vector))

    def _moves_far(self, key: GridKey, solution: PlateSolution) -> bool:
        """Beyond half the sheet thickness of the thinnest stack of some area: a thin rim stretches before the rest."""
        areas = self.patchwork.areas
        told = [own for own, area in zip(self.sections, areas, strict=True) if area > SMALL_AREA * areas.sum()]
        moved = np.abs(solution.deflection(quadrature(key).samples)).max()
        return bool(moved > THIN * min(own.sheet_thickness for own in told))

    def _stretched(self, case: LoadCase, linear_key: GridKey, linear: PlateSolution) -> Answered:
        """The answer to a case that moves far, on a grid without lines where something fades: it is solved many
        times."""
        surface, large = self.panel.surface, self._accuracy.large
        if large:
            key = self._key(surface, case.patches, layers=False)
            try:
                # first with few functions, so that the fine grid is near its answer from the start
                starts: list[np.ndarray | None] = [None, None]
                few = self._few(key)
                if few is not None:
                    found = self._states(case, few, starts)
                    starts = [carried_over(state.linear, assembler(key)) for state in found]
                ultimate, limit = self._states(case, key, starts)
            except SolverError:
                return self._answered(case, surface, linear_key, (1.0, linear), linear, Beyond(remarks=(NO_BALANCE,)))
            beyond = Beyond(large=True, remarks=(LARGE,))
            answer = self._answered(case, surface, key, (1.0 / self._ultimate, ultimate), limit, beyond)
            answer.whole.again = lambda level: self.at_level(case, key, (ultimate, limit), level)
            answer.whole.rest = self.rest
            return answer
        return self._answered(case, surface, linear_key, (1.0, linear), linear, Beyond(large=True))

    def at_level(
        self, case: LoadCase, key: GridKey, states: tuple[LargeSolution, LargeSolution], level: float
    ) -> Answered:
        """A case that moves far, its strains at ``level`` times ultimate load, of its ``states`` at ultimate and at
        limit load.  Raises SolverError without balance."""
        ultimate, limit = states
        found = limit
        if not math.isclose(level * self._ultimate, 1.0):
            model, start = self._model(key), ultimate.vector
            few = self._few(key)
            if few is not None:  # how the state changes with its load is seen on few functions
                coarse, plate = self._model(few), self._plate(few)
                load = self._ultimate * coarse.load_vector(self._loads(case))
                plate.anew()
                before = plate.solve(load, carried_over(ultimate.linear, coarse.assembler))
                after = plate.solve(level * load, before.vector)
                start = start + carried_over(after.linear, model.assembler)
                start -= carried_over(before.linear, model.assembler)
            load = level * self._ultimate * model.load_vector(self._loads(case))
            self._plate(key).anew()
            found = self._plate(key).solve(load, start)
        beyond = Beyond(large=True, remarks=(LARGE,), level=level)
        return self._answered(case, self.panel.surface, key, (1.0 / (level * self._ultimate), found), limit, beyond)

    @staticmethod
    def _few(key: GridKey) -> GridKey | None:
        """The same grid with few functions; None where it has no more."""
        return msgspec.structs.replace(key, order=START_ORDER) if key.order > START_ORDER else None

    def _states(
        self, case: LoadCase, key: GridKey, starts: Sequence[np.ndarray | None]
    ) -> tuple[LargeSolution, LargeSolution]:
        """The states at ultimate and at limit load.  Raises SolverError where none is found."""
        model = self._model(key)
        load, plate = model.load_vector(self._loads(case)), self._plate(key)
        ultimate = plate.solve(self._ultimate * load, starts[0])
        return ultimate, plate.solve(load, ultimate.vector if starts[1] is None else starts[1])

    # --- stacks ----------------------------------------------------------------------------------------

    def fields(self, answers: Sequence[Answered]) -> tuple[WallField, ...]:
        """One for each stack, of what ``respond`` says case by case."""
        edges = self.panel.surface.edges
        fields = []
        for k, section in enumerate(self.sections):
            rough = "; ".join(remark for remark in (rough_shear(edges, section), BESIDE) if remark)
            cases = tuple(own.on_stacks[k] for own in answers)
            fields.append(WallField(section.stack, section, cases, "", rough, self.patchwork.rows[k]))
        return tuple(fields)

    def _beside(self, x: np.ndarray, y: np.ndarray, reach: float) -> tuple[np.ndarray, np.ndarray]:
        """Places (x, y) within ``reach`` of a border of a zone, and of both lines of a corner of one: booleans.

        At corners strains have no bound; beside borders the gradients of moments, and so the shear of plies, cannot be
        read.  Never more than a quarter of a narrow zone.
        """
        which, surface = self.patchwork.which, self.panel.surface
        near_x = _near(x, surface.x, self.patchwork.x, reach)
        near_y = _near(y, surface.y, self.patchwork.y, reach)
        border, corner = np.zeros((2, len(x), len(y)), bool)
        for i, near in enumerate(near_x[1:-1]):
            if (which[i] != which[i + 1]).any():
                border |= near[:, None]
        for j, near in enumerate(near_y[1:-1]):
            if (which[:, j] != which[:, j + 1]).any():
                border |= near[None, :]
        for i, j in np.ndindex(which.shape[0] - 1, which.shape[1] - 1):
            four = which[i : i + 2, j : j + 2]
            if not ((four[0] == four[1]).all() or (four[:, 0] == four[:, 1]).all()):
                corner |= np.outer(near_x[i + 1], near_y[j + 1])
        return border, corner

    def _standing_in(self, case: LoadCase, k: int) -> LoadCase:
        """The case with the patches that stand on a stack."""
        boxes = [box for which, box in self._on_surface() if which == k]

        def touches(patch: PatchLoad) -> bool:
            low_x, high_x, low_y, high_y = patch.bounds
            return any(
                min(high_x, box.high_x) - max(low_x, box.low_x) > 1e-6 * patch.along_x
                and min(high_y, box.high_y) - max(low_y, box.low_y) > 1e-6 * patch.along_y
                for box in boxes
            )

        return msgspec.structs.replace(case, patches=tuple(patch for patch in case.patches if touches(patch)))

    def _on_surface(self) -> list[tuple[int, Box]]:
        """The rectangles where they lie on the panel laid out flat."""
        surface = self.panel.surface
        if not surface.curved:
            return self.patchwork.boxes()
        return [
            (k, Box(*(surface.x.along(end) for end in (box.low_x, box.high_x)),
                    *(surface.y.along(end) for end in (box.low_y, box.high_y))))
            for k, box in self.patchwork.boxes()
        ]  # fmt: skip

    def _loads(self, case: LoadCase) -> list[PlateLoad]:
        loads: list[PlateLoad] = [*case.patches, *((case.edge,) if case.edge is not None else ())]
        if any(case.pressures) or not loads:
            loads.append(Pressure(sum(case.pressures)))
        for k, box in self._on_surface():
            if k < len(self.sections):
                pressure = self.sections[k].areal_mass * STANDARD_GRAVITY * case.gravity
            else:  # nothing presses on an opening
                pressure = -sum(case.pressures)
            if pressure:
                size = box.high_x - box.low_x, box.high_y - box.low_y
                middle = (box.low_x + box.high_x) / 2.0, (box.low_y + box.high_y) / 2.0
                loads.append(PatchLoad(pressure * size[0] * size[1], *middle, *size))
        if case.gravity:
            loads += self.ribs.weights(STANDARD_GRAVITY * case.gravity)
        return loads

    def _membrane(self, key: GridKey, solution: PlateSolution) -> np.ndarray:
        """N_x, N_y, N_xy in N/m at the grid's Gauss points."""
        points = quadrature(key).samples
        strains = solution.strains(points)[..., :9]
        there = np.array(key.layout)[np.ix_(points.x_cells, points.y_cells)]
        return membrane_forces(strains, [section.membrane for section in self._moved], there)

    def _key(
        self, surface: Surface, patches: Sequence[PatchLoad] = (), stays: bool = False, layers: bool = True
    ) -> GridKey:
        """The grid, cut along every border of the patchwork and the patches of a case.

        Without the fields in the plane where that ``stays``; ``layers`` : with lines beside all where something fades,
        where the accuracy asks for them.
        """
        work, accuracy = self.patchwork, self._accuracy
        ends = [
            np.array([arc.along(float(line)) for line in lines])
            for arc, lines in ((surface.x, work.x), (surface.y, work.y))
        ]
        layers = layers and accuracy.layers
        borders, fixed = [tuple(own[1:-1]) for own in ends], self._fixed(ends, layers)
        for beside in (True, False):
            lines = zone_lines(
                surface.length, surface.width, surface.edges, self.base, borders, patches, layers, self._fading, fixed,
                beside,
            )  # fmt: skip
            cells = (len(lines[0]) + 1) * (len(lines[1]) + 1)
            if cells <= MOST_CELLS:
                break
        if accuracy.cells > 1:
            x, y = (
                cut(float(own[-1]), inner, accuracy.cells, held.joined())
                for inner, own, held in zip(lines, ends, fixed, strict=True)
            )
            lines = x, y
        i, j = (pieces_of(own, np.array([0.0, *inner, own[-1]])) for own, inner in zip(ends, lines, strict=True))
        layout = tuple(tuple(int(k) for k in row) for row in work.which[np.ix_(i, j)])
        three_layer = any(own.kinematics == "three_layer" for own in self.sections)
        order = max(accuracy.patch_order - sum(cells > many for many in MANY_CELLS), 3)
        return GridKey(
            surface, order, tuple(lines[0]), tuple(lines[1]), three_layer, FIELDS[2:] if stays else FIELDS, layout
        )

    def _fixed(self, ends: Sequence[np.ndarray], layers: bool) -> tuple[Fixed, Fixed]:
        """The lines that bolts and supports ask for along x and y, and those beside the borders between cores that
        shear differently: there the faces bend over a length of their own."""
        bare = zip(self._holding.fixed(), (True, False), strict=True)
        held = [self.ribs.with_lines(own, of_x, layers) for own, of_x in bare]
        if not layers:
            return held[0], held[1]
        which = self.patchwork.which
        # beside an opening nothing kinks: a free edge
        shear = np.array([*(np.trace(own.shear) if own.faces else np.inf for own in self.sections), np.nan])
        reach = np.array([*(FADING * own.boundary_layer for own in self.sections), 0.0])
        fixed = []
        for own, lines, pairs in zip(held, ends, (which, which.T), strict=True):
            fading = list(own.fading)
            for i, place in enumerate(lines[1:-1]):
                before, behind = pairs[i], pairs[i + 1]
                steps = np.maximum(shear[before], shear[behind]) > STEP * np.minimum(shear[before], shear[behind])
                if steps.any():
                    fading.append((float(place), float(reach[before][steps].max()), float(reach[behind][steps].max())))
            fixed.append(msgspec.structs.replace(own, fading=tuple(fading)))
        return fixed[0], fixed[1]

    def _model(self, key: GridKey) -> PlateModel:
        model = self._models.get(key)
        if model is None:
            grid = assembler(key)
            attached = [*self._holding.attached(grid), *self.ribs.attached]
            model = self._models[key] = PlateModel(self._moved, grid, self._energies, attached, self.ribs.heavy)
        return model
