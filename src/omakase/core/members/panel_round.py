"""A round or oval panel: from size, support, load cases and a stack to deflections, strains and frequencies.

Solved on rings and sectors, see ``plates.disc``; what a sum of linear solutions does not answer as of any panel.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from functools import cached_property

import msgspec
import numpy as np

from omakase.core.errors import SolverError
from omakase.core.kept import keep_last
from omakase.core.members.field import SPOTS, Place
from omakase.core.members.panel_beyond import NO_BALANCE, THIN, CaseSolver, Solved
from omakase.core.members.panel_case import Answered, Beyond, CaseResponse, Part, nothing
from omakase.core.members.panel_edges import NOTHING_HELD
from omakase.core.members.panel_given import Accuracy, LoadCase, Panel, Surface
from omakase.core.members.panel_grid import GridKey, assembler, round_key
from omakase.core.members.panel_held import Reaction
from omakase.core.members.round_grid import Fixed
from omakase.core.plates.assembly import GroupedForm
from omakase.core.plates.attached import add_to
from omakase.core.plates.condensation import multiply
from omakase.core.plates.disc import DiscAssembler, DiscGrid, DiscSamples
from omakase.core.plates.large_deflection import LargeSolution
from omakase.core.plates.lines import FADING, corner_reach, couples_twist
from omakase.core.plates.loads import PlateLoad
from omakase.core.plates.samples import lobatto
from omakase.core.plates.section import PlateSection
from omakase.core.plates.solver import PlateSolution

CALM = 0.25  # of the first ring: nearer to the middle, where derivatives divide by r, strains are means round it


class RoundCase(CaseResponse):
    """A load case of a round panel; its samples lie on circles, ``x`` is r and ``y`` θ on the unit disc."""

    left_out_told = SPOTS

    def __init__(self, case: LoadCase, solved: Solved, accuracy: Accuracy, near_bolts: float) -> None:
        self.case, beyond = case, solved.beyond
        plain = beyond.buckling is None and not (beyond.large or beyond.remarks)
        self.beyond = None if plain else beyond
        surface = solved.key.surface
        self._surface = surface
        factor, solution = solved.strains
        self._grid = _disc(solved.key).grid
        per_cell = 2 * round(solved.key.order * accuracy.sampling / 2.0) + 1
        samples = _samples(solved.key, per_cell, per_cell // 2 + 1)
        self._moved_grid = _disc(solved.moved_key).grid
        w_samples = _samples(solved.moved_key, accuracy.deflections, accuracy.deflections)
        self.parts = [Part(factor, solution, samples, samples)]
        self.x, self.y = samples.x, samples.y
        self.strains = calmed(self.parts[0].strains(), self.x, self.y, CALM * self._grid.x_nodes[1])
        self._at = self._grid.places(self.x, self.y)
        self.left_out = self._beside_bolts(surface, near_bolts)
        moved_factor, self._moved = solved.moved
        self._moved_factor = moved_factor
        self.w_x, self.w_y = w_samples.x, w_samples.y
        self.w = moved_factor * self._moved.deflection(w_samples)
        self.inside, self.on_edges, self.again = (), (), None
        self.rest: Callable[[], None] = nothing

    def _beside_bolts(self, surface: Surface, near: float) -> np.ndarray:
        """Places under a washer, or within half its width or ``near`` m of it."""
        left = np.zeros(self._at[0].shape, bool)
        for bolt in surface.bolts:
            off = np.hypot(self._at[0] - bolt.x, self._at[1] - bolt.y)
            left |= off < bolt.washer / 2.0 + max(bolt.washer / 2.0, near)
        return left

    @cached_property
    def reactions(self) -> tuple[Reaction, ...]:
        return self.inside

    def ply_shear(self, section: PlateSection) -> np.ndarray:
        """As of a rectangle, zero beside an edge where it cannot be read and at the middle."""
        force = self.equilibrium_shear(section)
        reach = corner_reach(self._surface.length, self._surface.width)
        skew, edge = couples_twist(section), self._surface.edges.x0
        if skew:
            reach *= 2.0
        near = 2.0 * reach / min(self._surface.length, self._surface.width)
        rows = self.x < CALM * self._grid.x_nodes[1]
        if skew or edge in ("free", "resting"):
            rows |= 1.0 - self.x < near
        force[rows] = 0.0
        return force

    def place(self, i: int, j: int) -> Place:
        return Place(float(self._at[0][i, j]), float(self._at[1][i, j]))

    def nearest(self, place: Place) -> tuple[int, int]:
        x = self._surface.length / 2.0 if place.x is None else place.x
        y = self._surface.width / 2.0 if place.y is None else place.y
        off = np.hypot(self._at[0] - x, self._at[1] - y)
        i, j = np.unravel_index(int(np.argmin(off)), off.shape)
        return int(i), int(j)

    @property
    def largest_deflection(self) -> tuple[float, float, float]:
        i, j = np.unravel_index(np.argmax(np.abs(self.w)), self.w.shape)
        x, y = self._moved_grid.places(self.w_x[[i]], self.w_y[[j]])
        return float(abs(self.w[i, j])), float(x[0, 0]), float(y[0, 0])

    def deflection_at(self, x: np.ndarray, y: np.ndarray) -> np.ndarray:
        """Deflection in m at the crossings of places x (n,) and y (m,) in m; no number outside: (n, m)."""
        solution = self._moved.linear if isinstance(self._moved, LargeSolution) else self._moved
        assert isinstance(solution, PlateSolution)
        return self._moved_factor * solution.deflection_at(x, y)


class RoundPanel:
    """Load cases and vibrations of one round panel of one layup.  Raises PanelError, LayupError or SolverError."""

    def __init__(self, panel: Panel, section: PlateSection, accuracy: Accuracy, ultimate: float) -> None:
        self._panel, self._section, self._accuracy = panel, section, accuracy
        self._surface = panel.surface
        stiff = np.diag(section.membrane)
        self._fixed = Fixed(
            self._surface, float(stiff[3:5].max()), float(stiff[:2].max()), panel.held.springs[0]
        )  # fmt: skip
        self._solver = CaseSolver(
            self._surface, section, accuracy, ultimate, self._fixed.attached, panel.held.bed
        )  # fmt: skip
        self.unknowns = 0

    def respond(self, case: LoadCase) -> RoundCase:
        """The answer to one case."""
        solved = self._solver.solve(case)
        _, moved = solved.moved
        far = isinstance(moved, PlateSolution) and self._moves_far(solved)
        if far and not self._surface.curved and case.edge is None and self._accuracy.large:
            try:
                solved = self._solver.solve_large(case)
            except SolverError:
                solved = msgspec.structs.replace(solved, beyond=Beyond(remarks=(NO_BALANCE,)))
        self.unknowns = max(self.unknowns, _disc(solved.key).unknowns)
        fading = FADING * self._section.boundary_layer
        response = RoundCase(case, solved, self._accuracy, fading)
        factor, moved = solved.moved
        if isinstance(moved, PlateSolution) and case.edge is None:
            response.inside = tuple(self._reactions(solved.moved_key, moved, self._solver.loads(case), factor))
        if isinstance(solved.strains[1], LargeSolution):
            first = solved
            response.again = lambda level: Answered(
                RoundCase(case, self._solver.at_level(case, first, level), self._accuracy, fading)
            )
            response.rest = self._solver.rest
        return response

    def _moves_far(self, solved: Solved) -> bool:
        factor, moved = solved.moved
        w = factor * moved.deflection(_disc(solved.moved_key).samples(lobatto(self._accuracy.deflections)))
        return float(np.abs(w).max()) > THIN * self._section.sheet_thickness

    def frequencies(self) -> tuple[np.ndarray, list[PlateSolution]]:
        """Natural frequencies, Hz, and shapes."""
        key = round_key(self._surface, self._section, (), self._accuracy, in_plane=False)
        model = self._solver.model(key)
        self.unknowns = max(self.unknowns, model.assembler.unknowns)
        return model.frequencies(self._accuracy.modes, self._accuracy.eigen_tolerance)

    def _reactions(
        self, key: GridKey, solution: PlateSolution, loads: Sequence[PlateLoad], factor: float
    ) -> list[Reaction]:
        """What bolts and the edge take."""
        own, taken = _disc(key), []
        fields = own.grid.fields
        for k, (bolt, (up, *plane)) in enumerate(zip(self._surface.bolts, self._fixed.washers, strict=True), 1):
            force = -factor * up.stiffness * up.mean(own, solution.vector)
            shears = [held.stiffness * held.mean(own, solution.vector) for held in plane if held.field in fields]
            shear = math.hypot(*shears) if shears else 0.0
            taken.append(Reaction("bolt", f"bolt {k}", force, bolt.x, bolt.y, shear=factor * shear))
        if self._fixed.spring is not None:
            theta, weights, per_length = self._fixed.spring.forces(own, solution.vector)
            taken.append(self._edge(own.grid, theta, weights, factor * per_length))
        elif self._surface.edges.x0 != "free":
            taken.append(
                self._edge(own.grid, *_rim_forces(key, self._solver.energies, self._fixed, solution, loads, factor))
            )
        return taken

    def _edge(self, grid: DiscGrid, theta: np.ndarray, weights: np.ndarray, per_length: np.ndarray) -> Reaction:
        k = int(np.argmax(np.abs(per_length)))
        x, y = grid.places(np.ones(1), theta[[k]])
        total, most = float(weights @ per_length), float(per_length[k])
        return Reaction("edge", "edge", total, float(x[0, 0]), float(y[0, 0]), most)


def calmed(strains: np.ndarray, r: np.ndarray, theta: np.ndarray, within: float) -> np.ndarray:
    """Strains along x and y (r, θ, 11), near the middle as their means round it, which there equal the strains at the
    middle: terms divided by r vary with θ there, and their mean is zero."""
    near = r < within
    shares = np.zeros_like(theta)
    shares[1:] += np.diff(theta) / 2.0
    shares[:-1] += np.diff(theta) / 2.0
    strains[near] = (np.einsum("rts,t->rs", strains[near], shares) / shares.sum())[:, None]
    return strains


@keep_last(8)
def _samples(key: GridKey, per_cell: int, narrow: int) -> DiscSamples:
    """So many samples in each cell each way, ``narrow`` in narrow ones; kept, with what is worked out at them."""
    return DiscSamples(_disc(key).grid, lobatto(per_cell), lobatto(narrow))


def _disc(key: GridKey) -> DiscAssembler:
    own = assembler(key)
    assert isinstance(own, DiscAssembler)
    return own


def _rim_forces(
    key: GridKey, energies: Sequence[GroupedForm], fixed: Fixed, solution: PlateSolution, loads: Sequence[PlateLoad],
    factor: float,
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:  # fmt: skip
    """(θ, weights in m, force per length pushing up, N/m) that a held edge takes: those that, spread along it as the
    deflection's own functions run there, do the work of what is left over on the grid without that edge."""
    loose = msgspec.structs.replace(key.surface, edges=NOTHING_HELD)
    free = _disc(msgspec.structs.replace(key, surface=loose))
    vector = np.zeros(free.unknowns)
    held = _disc(key)
    for field, table in held.gather(solution.vector).items():
        if field in free.grid.fields:
            vector += free.scatter(field, table)
            for (_, _, number), (_, _, own) in zip(free.middle[field], held.middle[field], strict=True):
                vector[number] = solution.vector[own]
    matrices = add_to(free.matrices(list(energies)), free, fixed.attached(free))
    left = multiply(free, matrices, vector) - sum(free.load_vector(load) for load in loads)
    rim = free.numbers["w"][free.grid.x["w"].edge_functions(1)[0]]
    theta, weights, shapes = _round_the_rim(free.grid)
    products = shapes.T @ (weights[:, None] * shapes)
    return theta, weights, factor * (shapes @ np.linalg.solve(products, left[rim]))


def _round_the_rim(grid: DiscGrid) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """(θ, weights in m, the functions of w there) at Gauss points round the edge."""
    points, shares = np.polynomial.legendre.leggauss(grid.order + 2)
    nodes = grid.y_nodes
    theta = ((nodes[1:, None] + nodes[:-1, None]) / 2.0 + np.diff(nodes)[:, None] / 2.0 * points).ravel()
    speed = np.hypot(grid.half[0] * np.sin(theta), grid.half[1] * np.cos(theta))
    weights = np.outer(np.diff(nodes) / 2.0, shares).ravel() * speed
    shapes = grid.y["w"].table([(j, tuple(points)) for j in range(len(nodes) - 1)])
    return theta, weights, shapes


def respond_round(
    panel: Panel,
    section: PlateSection,
    cases: tuple[LoadCase, ...],
    accuracy: Accuracy,
    with_frequencies: bool = True,
    ultimate: float = 1.0,
) -> tuple[tuple[RoundCase, ...], np.ndarray, list[PlateSolution], int]:
    """Answers to load cases, natural frequencies in Hz with their shapes, and the unknowns of the largest grid."""
    whole = RoundPanel(panel, section, accuracy, ultimate)
    answers = tuple(whole.respond(case) for case in cases)
    frequencies, modes = whole.frequencies() if with_frequencies else (np.zeros(0), [])
    return answers, frequencies, modes, whole.unknowns
