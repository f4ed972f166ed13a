"""Plates and shallow shells that deflect so far that their slopes stretch them (von Kármán 1910; Marguerre 1938).

The membrane strains gain ½ w,x², ½ w,y² and w,x w,y; everything else is as in the linear plate, in the same basis.
Equilibrium is found by Newton's method on the potential energy, which a step may never raise.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np

from omakase.core.errors import SolverError
from omakase.core.plates.assembly import Assembler
from omakase.core.plates.basis import gauss
from omakase.core.plates.condensation import Factorisation, multiply
from omakase.core.plates.disc import DiscAssembler
from omakase.core.plates.energies import STRAINS, strain_terms
from omakase.core.plates.grid import Grid
from omakase.core.plates.loads import PlateLoad
from omakase.core.plates.quadrature import Cell, Quadrature, membrane_forces
from omakase.core.plates.samples import Samples
from omakase.core.plates.solver import PlateModel, PlateSolution

TOLERANCE = 1e-5  # of the load: what may be left over
FRESH = 0.5  # of what was left over one step before: where more is left, the tangent is made anew
MOST_STEPS = 60
SHORTEST = 2.0**-12  # of a Newton step
RAISING = 6  # steps to the highest load wanted, where none has to be shortened
LEAST = 1.0 / 16.0  # of such a step: shorter ones are not tried
FEW = 8  # Newton steps to a state that follows from the last
JUMP = 0.5  # of a state's size: one further from where it was looked for does not follow
MORE_POINTS = 4  # Gauss points per cell and side beyond the order: the energy is of the fourth degree


class LargeSolution:
    """A state of equilibrium; stands in for a ``PlateSolution`` of strains and deflections.

    ``steps`` : Newton steps that it took.
    """

    def __init__(self, solution: PlateSolution, steps: int) -> None:
        self.linear, self.steps = solution, steps
        self.vector, self.grid = solution.vector, solution.grid

    def deflection(self, samples: Samples) -> np.ndarray:
        """Deflection at the samples, m, positive up: (x points, y points)."""
        return self.linear.deflection(samples)

    def field(self, name: str, samples: Samples, dx: int = 0, dy: int = 0) -> np.ndarray:
        """As of a ``PlateSolution``."""
        return self.linear.field(name, samples, dx, dy)

    def strains(self, samples: Samples, dx: int = 0, dy: int = 0) -> np.ndarray:
        """Generalised strains at the samples, or a first derivative of them: (x points, y points, 11)."""
        strains = self.linear.strains(samples, dx, dy)
        slope_x, slope_y = (self.field("w", samples, *by) for by in ((1, 0), (0, 1)))
        if (dx, dy) == (0, 0):
            strains[..., 0] += slope_x**2 / 2.0
            strains[..., 1] += slope_y**2 / 2.0
            strains[..., 2] += slope_x * slope_y
            return strains
        if dx + dy > 1:
            raise SolverError("of a plate that has moved far only first derivatives are known")
        bent_x, bent_y = (self.field("w", samples, a + dx, b + dy) for a, b in ((1, 0), (0, 1)))
        strains[..., 0] += slope_x * bent_x
        strains[..., 1] += slope_y * bent_y
        strains[..., 2] += slope_x * bent_y + slope_y * bent_x
        return strains


class LargeDeflection:
    """The equations of one plate on one grid, which must have the fields u and v.

    Valid for slopes that are small beside 1 (some 0.3) and strains of a linear material.
    """

    def __init__(self, model: PlateModel) -> None:
        self._model, self._assembler = model, model.assembler
        if "u" not in self._assembler.grid.fields:
            raise SolverError("a plate that moves far stretches: its grid needs the fields in its plane")
        self._quadrature = Quadrature(self._assembler, MORE_POINTS)
        self._stiffness = model.stiffness()
        self._membranes = [section.membrane for section in model.sections]
        samples = self._quadrature.samples
        self._there = self._assembler.layout[np.ix_(samples.x_cells, samples.y_cells)]
        self._factor: Factorisation | None = None  # of the last tangent
        self._followed: Factorisation | None = None  # of the last one while a load is raised
        self._forces: dict[tuple[int, int, str], np.ndarray] = {}
        self._weights = self._quadrature.weights

    def solve(self, load: np.ndarray, start: np.ndarray | None = None) -> LargeSolution:
        """Equilibrium under a load vector (unknowns,), from the unknowns ``start`` or from what the plate does at once.

        Raises SolverError where none is found that is stable: the plate has snapped through, or buckled.
        """
        scale = float(np.linalg.norm(load))
        if scale == 0.0:
            return LargeSolution(PlateSolution(self._assembler, np.zeros_like(load)), 0)
        now = self._first_guess(load) if start is None else start
        energy, residual, state = self._energy(now, load)
        left, before = float(np.linalg.norm(residual)), math.inf
        for step in range(MOST_STEPS):
            if left <= TOLERANCE * scale:
                return LargeSolution(PlateSolution(self._assembler, now), step)
            if self._factor is None or left > FRESH * before:  # while an old tangent serves, it saves most of the work
                self._factor = self._factored(*state)
            change = self._factor.solve(-residual)
            slope, share = float(residual @ change), 1.0
            while True:
                trial = now + share * change
                trial_energy, trial_residual, trial_state = self._energy(trial, load)
                trial_left = float(np.linalg.norm(trial_residual))
                if trial_energy <= energy + 1e-4 * share * slope or trial_left < 0.5 * left:
                    break
                share /= 2.0
                if share < SHORTEST:
                    raise SolverError("no equilibrium found: the panel snaps through or buckles under this load")
            before = left if share == 1.0 else 0.0
            now, energy, residual, state, left = trial, trial_energy, trial_residual, trial_state, trial_left
        raise SolverError("no equilibrium found: the panel snaps through or buckles under this load")

    def anew(self) -> None:
        """Forgets the tangent of the last state: what is solved next does not depend on what was solved before."""
        self._factor = None

    def load(self, loads: Sequence[PlateLoad]) -> np.ndarray:
        """The load vector of a sum of loads, (unknowns,)."""
        return self._model.load_vector(loads)

    def linear(self, load: np.ndarray) -> np.ndarray:
        """The unknowns of the linear plate."""
        return self._model.factor.solve(load)

    def _factored(self, strains: np.ndarray, slopes: np.ndarray) -> Factorisation:
        """The tangent; away from equilibrium, where pressed places make it useless, without their pressing."""
        try:
            return Factorisation(self._assembler, self._tangent(strains, slopes))
        except SolverError:
            return Factorisation(self._assembler, self._tangent(strains, slopes, pulled_only=True))

    def follow(self, load: np.ndarray, guess: np.ndarray, most: int) -> LargeSolution:
        """Stable equilibrium near ``guess``, with at most so many new tangents.  Raises SolverError without one.

        While steps by the tangent of the last state bring it nearer, none is made anew; one at the end says that the
        state is stable.
        """
        scale, now, made, before = float(np.linalg.norm(load)), guess, 0, math.inf
        for step in range(MOST_STEPS):
            _, residual, state = self._energy(now, load)
            left = float(np.linalg.norm(residual))
            settled = left <= TOLERANCE * scale
            if settled or self._followed is None or left > FRESH * before:
                if made == most:
                    break
                self._followed, made = None, made + 1
                self._followed = Factorisation(self._assembler, self._tangent(*state))  # fails where it is not stable
            if settled:
                return LargeSolution(PlateSolution(self._assembler, now), step)
            now, before = now + self._followed.solve(-residual), left
        raise SolverError("no equilibrium near this state")

    # --- energy and its derivatives ---------------------------------------------------------------------------

    def _strains(self, vector: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Linear strains (x, y, 9) and slopes of w (x, y, 2) at the Gauss points."""
        solution, samples = PlateSolution(self._assembler, vector), self._quadrature.samples
        slopes = np.stack([solution.field("w", samples, 1, 0), solution.field("w", samples, 0, 1)], axis=-1)
        return solution.strains(samples)[..., :9], slopes

    @staticmethod
    def _stretch(slopes: np.ndarray) -> np.ndarray:
        """Membrane strains by the slopes, (x, y, 3)."""
        x, y = slopes[..., 0], slopes[..., 1]
        return np.stack([x * x / 2.0, y * y / 2.0, x * y], axis=-1)

    def _pull(self, strains: np.ndarray) -> np.ndarray:
        return membrane_forces(strains, self._membranes, self._there)

    def _membrane_of(self, i: int, j: int) -> np.ndarray:
        """Of the section that a cell has, (9, 9)."""
        return self._membranes[int(self._assembler.layout[i, j])]

    def _energy(self, vector: np.ndarray, load: np.ndarray) -> tuple[float, np.ndarray, tuple[np.ndarray, np.ndarray]]:
        """Potential energy, its gradient, and the state at the Gauss points that the tangent is made of."""
        strains, slopes = self._strains(vector)
        stretch = self._stretch(slopes)
        linear = multiply(self._assembler, self._stiffness, vector)
        forces, own = self._pull(strains), self._pull(stretch)
        density = np.sum(stretch * (forces + own / 2.0), axis=-1)
        energy = float(vector @ linear / 2.0 + np.sum(self._weights * density) - load @ vector)
        gradient = linear - load
        total = forces + own
        pull = np.stack(
            [
                total[..., 0] * slopes[..., 0] + total[..., 2] * slopes[..., 1],
                total[..., 1] * slopes[..., 1] + total[..., 2] * slopes[..., 0],
            ],
            axis=-1,
        )
        for i, strip, column in self._columns():
            part = np.zeros(strip.size)
            for j, cell in enumerate(column):
                weights = cell.weights[:, None]
                at_pull, at_stretch = cell.at(pull) * weights, cell.at(stretch) * weights
                part[cell.places("w")] += (
                    cell.table("w", (1, 0)).T @ at_pull[:, 0] + cell.table("w", (0, 1)).T @ (at_pull[:, 1])
                )
                for field in self._assembler.grid.fields:
                    part[cell.places(field)] += self._caused(i, j, cell, field).T @ at_stretch.T.ravel()
            gradient[strip.dofs] += part
        return energy, gradient, (strains, slopes)

    def _tangent(self, strains: np.ndarray, slopes: np.ndarray, pulled_only: bool = False) -> list[np.ndarray]:
        """Strip matrices of the energy's second derivative; ``pulled_only`` : membrane forces that press left out."""
        total = self._pull(strains) + self._pull(self._stretch(slopes))
        matrices = self._quadrature.membrane_matrices(_pulled(total) if pulled_only else total)
        for (i, _, column), matrix, linear in zip(self._columns(), matrices, self._stiffness, strict=True):
            matrix += linear
            for j, cell in enumerate(column):
                at, by_x, by_y = cell.places("w"), cell.table("w", (1, 0)), cell.table("w", (0, 1))
                slope = cell.at(slopes)
                # how the stretch follows w: (3, points, functions)
                along_x, along_y = slope[:, 0, None], slope[:, 1, None]
                follows = np.stack([along_x * by_x, along_y * by_y, along_x * by_y + along_y * by_x])
                weighted = follows * cell.weights[None, :, None]
                flat = weighted.reshape(-1, len(at))
                forces = np.tensordot(self._membrane_of(i, j)[:3, :3], follows, axes=1).reshape(-1, len(at))
                matrix[np.ix_(at, at)] += flat.T @ forces
                for field in self._assembler.grid.fields:
                    block = self._caused(i, j, cell, field).T @ flat
                    matrix[np.ix_(cell.places(field), at)] += block
                    matrix[np.ix_(at, cell.places(field))] += block.T
        return matrices

    def _columns(self) -> Any:
        return zip(range(len(self._assembler.strips)), self._assembler.strips, self._quadrature.cells, strict=True)

    def _caused(self, i: int, j: int, cell: Cell, field: str) -> np.ndarray:
        """Membrane forces that a field's functions cause, (3 · points, functions)."""
        key = i, j, field
        if key not in self._forces:
            total: np.ndarray | None = None
            for strain, terms in enumerate(strain_terms(self._assembler.grid.curvature)[: len(STRAINS) - 2]):
                for name, factor, dx, dy in terms:
                    column = self._membrane_of(i, j)[:3, strain]
                    if name == field and column.any():
                        part = factor * column[:, None, None] * cell.table(field, (dx, dy))
                        total = part if total is None else total + part
            count = len(cell.places(field))
            rows = 3 * len(cell.weights)
            self._forces[key] = np.zeros((rows, count)) if total is None else total.reshape(rows, count)
        return self._forces[key]

    def _first_guess(self, load: np.ndarray) -> np.ndarray:
        """The linear answer times what lets it balance its load along its own shape: a cubic equation."""
        linear = self.linear(load)
        strains, slopes = self._strains(linear)
        stretch = self._stretch(slopes)
        forces, own = self._pull(strains), self._pull(stretch)
        second = float(np.sum(self._weights * np.sum(stretch * forces, axis=-1)))
        fourth = float(np.sum(self._weights * np.sum(stretch * own, axis=-1)))
        work = float(load @ linear)
        # energy of s times the shape: work (s²/2 − s) + second s³ + fourth s⁴/2
        roots = np.roots([2.0 * fourth, 3.0 * second, work, -work])
        real = roots[np.abs(roots.imag) < 1e-9 * np.abs(roots).max()].real
        least = real[real > 0.0]
        return linear * float(least.min() if least.size else 1.0)


def _pulled(forces: np.ndarray) -> np.ndarray:
    """Membrane forces (x, y, 3) without their negative principal parts."""
    tensors = forces[..., [0, 2, 2, 1]].reshape(*forces.shape[:2], 2, 2)
    values, axes = np.linalg.eigh(tensors)
    kept = (axes * np.maximum(values, 0.0)[..., None, :]) @ axes.swapaxes(-1, -2)
    return np.stack([kept[..., 0, 0], kept[..., 1, 1], kept[..., 0, 1]], axis=-1)


def carried_over(solution: PlateSolution, assembler: Assembler) -> np.ndarray:
    """The unknowns on another grid that come nearest to a solution, field by field by least squares."""
    if isinstance(assembler, DiscAssembler):
        return _carried_over_disc(solution, assembler)
    grid = assembler.grid
    vector = np.zeros(assembler.unknowns)
    for field in grid.fields:
        free_x, free_y = grid.free_x[field], grid.free_y[field]
        vector[assembler.numbers[field][np.ix_(free_x, free_y)]] = _nearest(solution, grid, field, free_x, free_y)
    return vector


def _nearest(solution: PlateSolution, grid: Grid, field: str, free_x: np.ndarray, free_y: np.ndarray) -> np.ndarray:
    """Coefficients of some functions of a grid that come nearest to a field of a solution: (x, y functions)."""
    points, weights = gauss(grid.order + 2)
    nearest = []
    for nodes, own, other, free in (
        (grid.x_nodes, grid.x[field], solution.grid.x[field], free_x),
        (grid.y_nodes, grid.y[field], solution.grid.y[field], free_y),
    ):
        middle, half = (nodes[1:] + nodes[:-1]) / 2.0, np.diff(nodes) / 2.0
        places = (middle[:, None] + np.outer(half, points)).ravel()
        table = own.values_at(places)[:, free]
        weighted = table * np.outer(half, weights).ravel()[:, None]
        nearest.append(np.linalg.solve(weighted.T @ table, weighted.T @ other.values_at(places)))
    return np.asarray(nearest[0] @ solution.coefficients(field) @ nearest[1].T)


def _carried_over_disc(solution: PlateSolution, assembler: DiscAssembler) -> np.ndarray:
    """``carried_over`` of a round plate, whose middle has unknowns of its own."""
    grid, vector = assembler.grid, np.zeros(assembler.unknowns)
    for field in grid.fields:
        middle = assembler.middle[field]
        rows = sorted({function for function, _, _ in middle})
        free = grid.free_x[field].copy()
        free[rows] = True
        whole = np.zeros((len(free), grid.y[field].count))
        whole[free] = _nearest(solution, grid, field, free, grid.free_y[field])
        for row in rows:
            own = [(around, number) for function, around, number in middle if function == row]
            shapes = np.stack([around for around, _ in own], axis=1)
            vector[[number for _, number in own]] = np.linalg.lstsq(shapes, whole[row], rcond=None)[0]
        vector[assembler.numbers[field][grid.free_x[field]]] = whole[grid.free_x[field]]
    return vector


def raised(
    plate: LargeDeflection, load: np.ndarray, wanted: Sequence[float]
) -> tuple[dict[float, LargeSolution], float]:
    """States at the ``wanted`` multiples of a load that is raised from zero, and the largest multiple reached.

    Every state is stable and follows from the one before, the first from the linear plate's.  Raising stops
    where no such state is found near the last one even in small steps: there the panel snaps through or buckles.
    """
    last, linear = max(wanted), plate.linear(load)
    longest = step = last / RAISING
    states: dict[float, LargeSolution] = {}
    reached, before = 0.0, 0.0
    now = earlier = np.zeros_like(load)
    while reached < last:
        factor = min([reached + step, *(target for target in wanted if target > reached)])
        guess = now + (now - earlier) * (factor - reached) / (reached - before) if reached else factor * linear
        try:
            state = plate.follow(factor * load, guess, FEW)
            if np.linalg.norm(state.vector - guess) > JUMP * np.linalg.norm(state.vector):
                raise SolverError("another state than the one that follows")
        except SolverError:
            step /= 2.0
            if step < longest * LEAST:
                break
            continue
        before, earlier, reached, now = reached, now, factor, state.vector
        step = min(longest, 1.5 * step)
        if factor in wanted:
            states[factor] = state
    return states, reached
