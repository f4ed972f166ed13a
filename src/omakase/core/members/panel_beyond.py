"""Load cases that need a solution of their own: a sum of linear solutions does not give their answer.

A curved panel, and one that is compressed at its edges, may buckle; a thin one deflects so far that it stretches.
Strengths are judged at ultimate load: there the panel is solved, and its strains are divided by the ultimate factor, so
that a check that scales them is exact where the panel just fails.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

import msgspec
import numpy as np

from omakase.core.errors import SolverError
from omakase.core.members.panel_case import Beyond
from omakase.core.members.panel_given import Accuracy, LoadCase, Surface
from omakase.core.members.panel_grid import GridKey, assembler, case_key, quadrature
from omakase.core.members.pressing import buckling_of_forces, grown, knock_down
from omakase.core.plates.assembly import Assembler, grouped
from omakase.core.plates.attached import Attached
from omakase.core.plates.energies import strain_energy
from omakase.core.plates.grid import FIELDS, InPlane
from omakase.core.plates.large_deflection import LargeDeflection, LargeSolution, carried_over, raised
from omakase.core.plates.lines import shell_layer
from omakase.core.plates.loads import STANDARD_GRAVITY, PlateLoad, Pressure
from omakase.core.plates.section import PlateSection
from omakase.core.plates.solver import PlateModel, PlateSolution

THIN = 0.5  # of the thickness of a sheet that stretches and bends in the same proportion: beyond it, stretching tells
ROUGH = Accuracy(7, 6, 4, layers=False)  # with which it is found how tight a panel is pulled
STRETCHED_FREE, STRETCHED_HELD = 1.2, 6.0  # c on edges that may spread, where 0.36 was the most, and held ones: 2.5
SEEN = 0.06  # of the shorter side: the shortest fading length that a coarse grid answers well (measured)
SOFT = 40.0  # times the ultimate load: where a shell as round as drawn buckles later, it is linear to some 3 %
SOFTER = 20.0  # the same from which a quick answer, which is linear, says little
FAR_BUCKLING = 2.0  # times the ultimate load: one that moves little is not near a snap there

LARGE = "large deflection: stretching counted (von Kármán), solved at limit and at ultimate load"
AT_ULTIMATE = "from the panel solved at ultimate load, where it stretches: exact where the reserve is 1"
AT_LEVEL = (
    "found on the load: solved at {:.2f} times ultimate load, where the first strength under this load case is reached"
)
MOST_LEVEL = 4.0  # times ultimate load: what holds it is solved no further
AT_MOST = f"found on the load: solved at {MOST_LEVEL:g} times ultimate load, which it holds"
MUCH = 7.5  # times ultimate load: what buckles beyond it is not looked for more closely
FEWER, SETTLED = 2, 1.03  # orders less, and by how much the buckling load may differ with them
NO_BALANCE = "no equilibrium was found with large deflection: the numbers are those of the linear plate"
STEPS = "load raised in steps until no state follows"
UNSAFE = "it buckles before its ultimate load: numbers are those of the linear shell"
SNAPPED = "no equilibrium at ultimate load: strengths are those of the linear shell"


class Solved(msgspec.Struct, frozen=True, eq=False):
    """The answer to one case: the solution for strains, with the factor on it, and that for deflections, each on its
    grid."""

    key: GridKey
    strains: tuple[float, PlateSolution | LargeSolution]
    moved_key: GridKey
    moved: tuple[float, PlateSolution | LargeSolution]
    beyond: Beyond


class CaseSolver:
    """Solves load cases of one panel of one layup, each on its own grid.

    ``attached`` : what is fixed to it on a grid.  ``bed`` : N/m per m² that it lies on.
    """

    def __init__(
        self, surface: Surface, section: PlateSection, accuracy: Accuracy, ultimate: float,
        attached: Callable[[Assembler], list[Attached]] | None = None, bed: float = 0.0,
    ) -> None:  # fmt: skip
        self._surface, self._section, self._accuracy, self._ultimate = surface, section, accuracy, ultimate
        self._attached, self._bed = attached, bed
        self._models: dict[GridKey, PlateModel] = {}
        self._plates: dict[GridKey, LargeDeflection] = {}
        size = max(surface.length, surface.width)
        self.energies = [grouped(strain_energy(section, size, surface.curvature, bed))]

    def solve(self, case: LoadCase) -> Solved:
        """``case`` has its patches where they stand on the surface."""
        surface = self._surface
        if case.edge is not None:  # an edge that is pulled moves in its plane
            surface = msgspec.structs.replace(surface, in_plane="loose")
        key = case_key(surface, self._section, case.patches, self._accuracy, in_plane=case.edge is not None)
        if case.edge is not None and self._apart(key):
            return self._pulled_apart(case, key)
        model = self.model(key)
        load = model.load_vector(self.loads(case))
        linear = PlateSolution(model.assembler, model.factor.solve(load))
        if case.edge is not None:
            forces = self._membrane(key, linear)
            beyond, strained, moved = self._pulled(key, model, forces, load, linear)
            return Solved(key, (1.0, strained), key, (1.0, moved), beyond)
        beyond = Beyond()
        if surface.curved:
            beyond = self._pressed(case, key, linear)
        blurred = not self._accuracy.layers and edges_blurred(self._section, surface)
        near = surface.curved and self._may_snap(key, linear, beyond)
        if blurred or near or (surface.curved and self._softens(surface, beyond)):
            if self._accuracy.large and not blurred:
                if near:
                    return self._arched(case, key, model, linear, load, beyond)
                return self._at_once(key, model, linear, load, beyond)
            beyond = msgspec.structs.replace(beyond, large=True)
        return Solved(key, (1.0, linear), key, (1.0, linear), beyond)

    def _apart(self, key: GridKey) -> bool:
        """Whether what lies in the plane and what bends have nothing to do with each other in linear theory."""
        flat = not key.surface.curved and not key.surface.round and self._attached is None
        return flat and self._section.uncoupled

    def _pulled_apart(self, case: LoadCase, key: GridKey) -> Solved:
        """A flat panel with forces along its edges: its plane and its bending each with fields of their own, in half
        the unknowns."""
        assert case.edge is not None
        in_plane, bent = (msgspec.structs.replace(key, fields=fields) for fields in (FIELDS[:2], FIELDS[2:]))
        pulled, model = self.model(in_plane), self.model(bent)
        stretched = pulled.solve([[case.edge]])[0]
        load = model.load_vector(self.loads(msgspec.structs.replace(case, edge=None)))
        linear = PlateSolution(model.assembler, model.factor.solve(load))
        forces = self._membrane(in_plane, stretched)
        beyond, strained, moved = self._pulled(bent, model, forces, load, linear)
        both = [PlateSolution(assembler(key), _joined(assembler(key), stretched, own)) for own in (strained, moved)]
        return Solved(key, (1.0, both[0]), key, (1.0, both[1]), beyond)

    def _pulled(
        self, key: GridKey, model: PlateModel, forces: np.ndarray, load: np.ndarray, linear: PlateSolution
    ) -> tuple[Beyond, PlateSolution, PlateSolution]:
        """What membrane forces do, and the solutions for strains and for deflections."""
        beyond = buckling_of_forces(key, model, forces, self._section, self._accuracy.eigen_tolerance)
        return grown(key, model, forces, load, linear, beyond, self._ultimate)

    def _pressed(self, case: LoadCase, key: GridKey, linear: PlateSolution) -> Beyond:
        """At which factor the membrane forces of the ``linear`` answer to a case buckle a curved panel.

        In short waves beside free edges and rims it may buckle earlier than the grid of the deflection shows: where
        fewer functions give another factor, and it matters, the factor is that of cells cut in two each way.
        """
        found = buckling_of_forces(key, self.model(key), self._membrane(key, linear), self._section)
        assert found.buckling is not None
        own = self._accuracy
        if not (own.large and own.layers and self._ultimate <= found.buckling <= MUCH * self._ultimate):
            return found
        orders = (own.smooth_order, own.edge_order, own.patch_order)
        smooth, edge, patch = (order - FEWER for order in orders)
        fewer = self._pressed_on(case, key.surface, Accuracy(smooth, edge, patch, cells=own.cells))
        assert fewer.buckling is not None
        if fewer.buckling < SETTLED * found.buckling:
            return found
        return self._pressed_on(case, key.surface, Accuracy(*orders, cells=2 * own.cells))

    def _pressed_on(self, case: LoadCase, surface: Surface, accuracy: Accuracy) -> Beyond:
        """The same on another grid."""
        key = case_key(surface, self._section, case.patches, accuracy)
        model = self.model(key)
        linear = PlateSolution(model.assembler, model.factor.solve(model.load_vector(self.loads(case))))
        return buckling_of_forces(key, model, self._membrane(key, linear), self._section)

    def solve_large(self, case: LoadCase) -> Solved:
        """A flat panel that moves far, on a coarse grid first.  Raises SolverError where it finds no equilibrium."""
        plate, key, load = self._large(case, ROUGH, 0.0)
        ultimate = plate.solve(self._ultimate * load)
        limit = ultimate if self._ultimate == 1.0 else plate.solve(load, ultimate.vector)
        if self._accuracy.layers:
            layer = self._edge_layer(key, ultimate)
            plate, key, load = self._large(case, self._accuracy, layer)
            starts = [carried_over(state.linear, assembler(key)) for state in (ultimate, limit)]
            ultimate = plate.solve(self._ultimate * load, starts[0])
            limit = ultimate if self._ultimate == 1.0 else plate.solve(load, starts[1])
        beyond = Beyond(large=True, remarks=(LARGE,))
        return Solved(key, (1.0 / self._ultimate, ultimate), key, (1.0, limit), beyond)

    def at_level(self, case: LoadCase, solved: Solved, level: float) -> Solved:
        """A case that moves far, its strains at ``level`` times ultimate load.  Raises SolverError without balance."""
        _, state = solved.strains
        limit_factor, limit = solved.moved
        assert isinstance(state, LargeSolution)
        beyond = msgspec.structs.replace(solved.beyond, level=level)
        if isinstance(limit, LargeSolution) and math.isclose(level * self._ultimate, 1.0):
            return msgspec.structs.replace(
                solved, key=solved.moved_key, strains=(limit_factor, limit), beyond=beyond
            )  # fmt: skip
        plate, fine = self._plate(solved.key), assembler(solved.key)
        load = plate.load(self.loads(case))
        start = state.vector
        # how the state changes with its load is seen on few functions
        if not edges_blurred(self._section, self._surface):
            key = case_key(self._surface, self._section, case.patches, ROUGH)
            coarse = self._plate(key)
            few = self._ultimate * coarse.load(self.loads(case))
            coarse.anew()
            before = coarse.solve(solved.beyond.level * few, carried_over(state.linear, assembler(key)))
            after = coarse.solve(level * few, before.vector)
            start = start + carried_over(after.linear, fine) - carried_over(before.linear, fine)
        plate.anew()
        found = plate.solve(level * self._ultimate * load, start)
        return msgspec.structs.replace(solved, strains=(1.0 / (level * self._ultimate), found), beyond=beyond)

    def _plate(self, key: GridKey) -> LargeDeflection:
        """The equations of a panel that moves far on one grid."""
        plate = self._plates.get(key)  # another thread may clear them at any moment: see ``rest``
        if plate is None:
            plate = self._plates[key] = LargeDeflection(self.model(key))
        return plate

    def rest(self) -> None:
        """Gives back what was worked out on grids; asked for once more it is made anew."""
        self._models.clear()
        self._plates.clear()

    def _edge_layer(self, key: GridKey, solution: LargeSolution) -> float:
        """Pulled tight, a panel bends beside its edges only: over √(D/N), in m, as a beam under tension does."""
        tension = self._membrane(key, solution)[..., :2].sum(axis=-1) / 2.0
        pull = max(float(tension.mean()), 0.0)
        bending = float(np.diag(self._section.membrane)[3:5].max())
        return math.sqrt(bending / pull) if pull > 0.0 else 0.0

    def _large(self, case: LoadCase, accuracy: Accuracy, layer: float) -> tuple[LargeDeflection, GridKey, np.ndarray]:
        """The equations of a case on its grid, and its loads."""
        key = case_key(self._surface, self._section, case.patches, accuracy, layer)
        return self._plate(key), key, self.model(key).load_vector(self.loads(case))

    def model(self, key: GridKey) -> PlateModel:
        """The panel on one grid."""
        model = self._models.get(key)
        if model is None:
            own = assembler(key)
            held = self._attached(own) if self._attached else ()
            model = self._models[key] = PlateModel(self._section, own, self.energies, held)
        return model

    def loads(self, case: LoadCase) -> Sequence[PlateLoad]:
        """The loads of a case on the surface."""
        loads: list[PlateLoad] = list(case.patches)
        pressure = smooth_pressure(case, self._section)
        if pressure or not loads:
            loads.append(Pressure(pressure))
        return [*loads, case.edge] if case.edge is not None else loads

    def _membrane(self, key: GridKey, solution: PlateSolution | LargeSolution) -> np.ndarray:
        """N_x, N_y, N_xy in N/m at the grid's Gauss points."""
        return solution.strains(quadrature(key).samples)[..., :9] @ self._section.membrane[:, :3]

    def _may_snap(self, key: GridKey, linear: PlateSolution, buckling: Beyond) -> bool:
        """Whether a curved panel is near a snap at ultimate load, or moves far there."""
        moved = self._ultimate * np.abs(linear.deflection(quadrature(key).samples)).max()
        if moved > THIN * self._section.sheet_thickness:
            return True
        return buckling.buckling is not None and buckling.buckling < FAR_BUCKLING * self._ultimate

    def _softens(self, surface: Surface, buckling: Beyond) -> bool:
        """Whether the deflection of a curved panel grows noticeably more than in proportion to the load, at ultimate
        load."""
        if buckling.buckling is None or not math.isfinite(buckling.buckling):
            return False
        soft = SOFT if self._accuracy.large else SOFTER
        return buckling.buckling / knock_down(self._section, surface) < soft * self._ultimate

    def _arched(
        self, case: LoadCase, key: GridKey, model: PlateModel, linear: PlateSolution, load: np.ndarray,
        buckling: Beyond,
    ) -> Solved:  # fmt: skip
        """A curved panel that may snap through or moves far: its load is raised in steps.

        How far it can be raised is found on a coarse grid; the states wanted are then found again on the fine one.
        """
        assert buckling.buckling is not None
        if edges_blurred(self._section, self._surface):
            return self._at_once(key, model, linear, load, buckling)
        coarse, coarse_key, coarse_load = self._large(case, ROUGH, 0.0)
        found, reached = raised(coarse, coarse_load, (1.0, self._ultimate))
        if reached == 0.0:  # the coarse grid finds not even a first state: it says nothing of a snap
            return self._at_once(key, model, linear, load, buckling)
        if self._ultimate in found and buckling.buckling < self._ultimate:
            beyond = msgspec.structs.replace(buckling, remarks=(*buckling.remarks, UNSAFE))
            return Solved(key, (1.0, linear), key, (1.0, linear), beyond)
        plate = self._plate(key)
        states: dict[float, tuple[GridKey, PlateSolution | LargeSolution]] = {}
        for factor, state in found.items():
            try:
                states[factor] = key, plate.solve(factor * load, carried_over(state.linear, assembler(key)))
            except SolverError:  # beside a snap the finer grid may be past it
                states[factor] = coarse_key, state
        snapped = self._ultimate not in states
        remarks = (*buckling.remarks, LARGE)
        snap = reached if snapped else math.inf
        factor, how = min((buckling.buckling, buckling.how), (snap, STEPS))
        beyond = Beyond(factor, how, True, (*remarks, SNAPPED) if snapped else remarks, buckling.shape, snap)
        limit_key, limit = states.get(1.0, (key, linear))
        if snapped:
            return Solved(key, (1.0, linear), limit_key, (1.0, limit), beyond)
        own_key, own = states[self._ultimate]
        return Solved(own_key, (1.0 / self._ultimate, own), limit_key, (1.0, limit), beyond)

    def _at_once(
        self, key: GridKey, model: PlateModel, linear: PlateSolution, load: np.ndarray, buckling: Beyond
    ) -> Solved:
        """A shell whose load need not be raised in steps, or cannot be: one far from its snap, or one of which a coarse
        grid says nothing, where its buckling load does."""
        assert buckling.buckling is not None
        wanted: dict[float, LargeSolution] = {}
        told = UNSAFE
        if buckling.buckling > self._ultimate:
            plate, told = self._plate(key), LARGE
            try:
                for factor in (self._ultimate, 1.0):
                    wanted[factor] = plate.solve(factor * load, factor * linear.vector)
            except SolverError:
                told = NO_BALANCE
        beyond = msgspec.structs.replace(buckling, large=told == LARGE, remarks=(*buckling.remarks, told))
        if told != LARGE:
            return Solved(key, (1.0, linear), key, (1.0, linear), beyond)
        return Solved(key, (1.0 / self._ultimate, wanted[self._ultimate]), key, (1.0, wanted[1.0]), beyond)


def _joined(whole: Assembler, *parts: PlateSolution) -> np.ndarray:
    """The unknowns of a grid with all fields, from solutions on the same grid with some of them each."""
    return sum(
        (whole.scatter(field, part.coefficients(field)) for part in parts for field in part.grid.fields),
        np.zeros(whole.unknowns),
    )


def edges_blurred(section: PlateSection, surface: Surface) -> bool:
    """Whether what edges and patches disturb in a curved panel fades within less than a coarse grid can see."""
    return 0.0 < shell_layer(section, surface.curvature) < SEEN * min(surface.length, surface.width)


def sags_at_least(sag: np.ndarray, sheet: np.ndarray, in_plane: InPlane) -> np.ndarray:
    """What flat panels that stretch sag at least, m, of the linear plates' sags and sheet thicknesses in m.

    w of w + c w³/t² = the linear sag, by Cardano, with a c that no panel measured came near.
    """
    root = np.sqrt(3.0 * (STRETCHED_FREE if in_plane == "may_spread" else STRETCHED_HELD)) / sheet
    return 2.0 / root * np.sinh(np.arcsinh(1.5 * root * sag) / 3.0)


def smooth_pressure(case: LoadCase, section: PlateSection) -> float:
    """What presses on the whole face, Pa: pressures and own weight."""
    return sum(case.pressures) + section.areal_mass * STANDARD_GRAVITY * case.gravity
