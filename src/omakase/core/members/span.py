"""A straight member along its span, solved with piecewise polynomials: statics, vibration and buckling.

The kind of member says which displacements there are, which strains do work, and how stiff and heavy the section is at
each place.  Cells end where loads, supports and sections change, and beside clamps and loads of a sandwich where the
faces' own bending fades.  Order 7 leaves less than 0.01 % (checked by halving cells).
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from functools import cached_property
from itertools import pairwise

import msgspec
import numpy as np

from omakase.core.members.span_banded import Banded
from omakase.core.members.span_loads import (
    AxialForce,
    Couples,
    Distribution,
    Drop,
    LineLoad,
    Moment,
    PointLoad,
    SpanCase,
    Spanned,
    Support,
    Torque,
)
from omakase.core.members.span_mesh import SAMPLES, Kinematics, mesh, mesh_nodes
from omakase.core.plates.basis import gauss
from omakase.core.plates.loads import STANDARD_GRAVITY

ORDER = 7
MODES = 4


class Diagrams(msgspec.Struct, frozen=True, eq=False):
    """Section forces along the span from equilibrium, (places,): N and N m.

    ``load`` N/m down; ``shear`` V of the part to the left pushing up; ``moment`` positive where it sags; ``axial``
    positive in tension; ``torque``.
    """

    load: np.ndarray
    shear: np.ndarray
    moment: np.ndarray
    axial: np.ndarray
    torque: np.ndarray


class SpanResult(msgspec.Struct, frozen=True, eq=False):
    """One load case: strains (places, n), displacements by field and the section's ``turn`` (places,), diagrams.

    ``reactions`` : (supports, 4), N up, N m that turns face A toward the far end, N along the span, N m about it.
    ``left_over`` : largest of what does not balance, over what is applied.  ``drop_factor`` : how many times its
    static effect a falling mass has, 1 without one.  ``buckling`` : factor on the loads at which it buckles, or inf.
    """

    case: SpanCase
    strains: np.ndarray
    displacements: dict[str, np.ndarray]
    diagrams: Diagrams
    reactions: np.ndarray
    left_over: float
    drop_factor: float = 1.0
    buckling: float = float("inf")


class SpanAnswers:
    """What the response of any member with a span says of its ``results``, one for each load case."""

    results: tuple[SpanResult, ...]
    x: np.ndarray
    model: SpanModel

    @property
    def supports(self) -> tuple[Support, ...]:
        return self.model.span.supports

    @property
    def case_remarks(self) -> Mapping[str, tuple[str, ...]]:
        return {}

    @property
    def diagrams(self) -> tuple[Diagrams, ...]:
        return tuple(result.diagrams for result in self.results)

    @property
    def left_over(self) -> float:
        """Largest share of the loads that reactions do not balance."""
        return max((result.left_over for result in self.results), default=0.0)


class _Forces:
    """Everything that acts in one case, as points and as trapezoids: what the diagrams are summed from."""

    def __init__(self) -> None:
        self.down: list[tuple[float, float]] = []  # (x, N)
        self.spread: list[tuple[float, float, float, float]] = []  # (low, high, N/m at low, at high)
        self.moments: list[tuple[float, float]] = []
        self.turning: list[tuple[float, float, float, float]] = []  # (low, high, N m/m at low, at high)
        self.along: list[tuple[float, float]] = []
        self.torques: list[tuple[float, float]] = []
        self.twisting: list[tuple[float, float, float, float]] = []  # (low, high, N m/m at low, at high)

    def press(self, force: float, x: float, along: float, offset: float = 0.0) -> None:
        """A force at a point, or spread evenly over a length, ``offset`` to the right of the reference."""
        if along > 0.0:
            self.run(x - along / 2.0, x + along / 2.0, force / along, force / along, offset)
            return
        self.down.append((x, force))
        if offset:
            self.torques.append((x, force * offset))

    def run(self, low: float, high: float, start: float, end: float, offset: float = 0.0) -> None:
        """A force per length that runs straight."""
        self.spread.append((low, high, start, end))
        if offset:
            self.twisting.append((low, high, start * offset, end * offset))


class SpanModel:
    """The equations of one member.

    ``stiffness`` (x) → (len(x), n, n) and ``inertia`` (x) → (len(x), n) of the section, the first of which is kg/m;
    ``breaks`` : places where the section changes; ``fading`` : decay length of what fades beside clamps and loads, m.
    Raises SolverError when it is not held.
    """

    def __init__(
        self, span: Spanned, kinematics: Kinematics, stiffness: Callable[[np.ndarray], np.ndarray],
        inertia: Callable[[np.ndarray], np.ndarray], cases: Sequence[SpanCase], breaks: Sequence[float] = (),
        fading: float = 0.0, order: int = ORDER, parts: int = 1,
    ) -> None:  # fmt: skip
        self.span, self.kinematics, self.cases = span, kinematics, tuple(cases)
        self._stiffness_at = stiffness
        nodes = mesh_nodes(span, cases, breaks, fading, parts)
        self.mesh = cells = mesh(tuple(nodes.tolist()), order, kinematics)
        self.nodes, self.x, self.centres = cells.nodes, cells.x, cells.centres
        self.unknowns = cells.unknowns
        inside = 1e-9 * np.diff(self.nodes)
        ends = np.concatenate([self.nodes[:-1] + inside, self.nodes[1:] - inside])
        self._line_mass = inertia(ends)[:, 0].reshape(2, -1)  # at both ends of each cell, kg/m
        shape, places = cells.gauss_x.shape, cells.gauss_x.ravel()
        C = stiffness(places).reshape(*shape, *([len(kinematics.strains)] * 2))
        self._K = cells.local(cells.strains, C * cells.weights[..., None, None])
        rho = inertia(places).reshape(*shape, len(kinematics.inertia)) * cells.weights[..., None]
        self._M = cells.local(cells.inertia, rho[..., None] * np.eye(len(kinematics.inertia)))
        self._held = self._held_functions()
        self._layout = cells.layout(tuple(self._held.tolist()))
        self._free = self._layout.free
        self.banded = Banded(self._layout, self._K)

    # --- equations ------------------------------------------------------------------------------------------

    def _holds(self, index: int) -> tuple[tuple[str, int], ...]:
        """What a support holds."""
        held_by, supports = self.kinematics, self.span.supports
        if supports[index].held == "clamped":
            return held_by.clamped
        first = not any(support.held == "clamped" for support in supports) and supports[index] == supports[0]
        return held_by.simple + (held_by.anchor if first else ())

    def _held_functions(self) -> np.ndarray:
        functions = [
            self.mesh.function(field, support.x, derivative)
            for i, support in enumerate(self.span.supports)
            for field, derivative in self._holds(i)
            if derivative == 0 or self.mesh.smooth[field]
        ]
        return np.array(sorted(functions), dtype=int)

    def _solve(self, right: np.ndarray) -> np.ndarray:
        solution = np.zeros_like(right)
        solution[self._free] = self.banded.solve(right[self._free])
        return solution

    # --- loads ----------------------------------------------------------------------------------------------

    def _forces(self, case: SpanCase, drop_factors: Sequence[float] = ()) -> _Forces:
        forces = _Forces()
        for load in case.loads:
            if isinstance(load, PointLoad):
                forces.press(load.force, load.x, load.along, load.offset)
            elif isinstance(load, LineLoad | Distribution):
                for piece in load.pieces if isinstance(load, Distribution) else (load,):
                    forces.run(piece.low, piece.high, piece.start, piece.end, piece.offset)
            elif isinstance(load, Couples):
                turned = forces.turning if load.about == "width" else forces.twisting
                turned += [(piece.low, piece.high, piece.start, piece.end) for piece in load.pieces]
            elif isinstance(load, Moment):
                forces.moments.append((load.x, load.moment))
            elif isinstance(load, AxialForce):
                forces.along.append((load.x, load.force))
            elif isinstance(load, Torque):
                forces.torques.append((load.x, load.torque))
        for drop, factor in zip(case.of(Drop), drop_factors, strict=False):
            forces.press(drop.mass * STANDARD_GRAVITY * factor, drop.x, drop.along)
        if case.gravity:
            g = case.gravity * STANDARD_GRAVITY
            forces.spread += [
                (low, high, start * g, end * g)
                for low, high, start, end in zip(
                    self.nodes[:-1].tolist(), self.nodes[1:].tolist(), *self._line_mass.tolist(), strict=True
                )
            ]
            forces.down += [(mass.x, mass.mass * g) for mass in self.span.masses]
        return forces

    def _load_vector(self, forces: _Forces) -> np.ndarray:
        vector = np.zeros(self.unknowns)
        for x, force in forces.down:
            vector -= force * self.mesh.row("w", x)
        vector -= self._spread("w", forces.spread)
        for x, moment in forces.moments:
            turn = self.kinematics.rotation
            vector += moment * turn.factor * self.mesh.row(turn.field, x, turn.derivative)
        if forces.turning:
            turn = self.kinematics.rotation
            assert turn.derivative == 0, "couples along the span are for members with a rotation of their own"
            vector += turn.factor * self._spread(turn.field, forces.turning)
        for x, force in forces.along:
            vector += force * self.mesh.row("u", x)
        if "theta" in self.mesh.start:
            for x, torque in forces.torques:
                vector += torque * self.mesh.row("theta", x)
            vector += self._spread("theta", forces.twisting)
        return vector

    def _spread(self, field: str, trapezoids: Sequence[tuple[float, float, float, float]]) -> np.ndarray:
        """Work on a displacement, per unknown, of loads that run evenly from low to high: (low, high, there, there)."""
        work = np.zeros(self.unknowns)
        if not trapezoids:
            return work
        basis = self.mesh.basis(field)
        points, weights = gauss(basis.order // 2 + 2)
        low, high, start, end = np.array(trapezoids).T
        # every trapezoid in every cell that it reaches, cell by cell
        a, b = np.maximum(low, self.nodes[:-1, None]), np.minimum(high, self.nodes[1:, None])
        cells, at = np.nonzero(b - a > 1e-12 * self.span.length)
        a, b, low = a[cells, at], b[cells, at], low[at]
        half = (b - a)[:, None] / 2.0
        x = (a + b)[:, None] / 2.0 + half * points
        slope = (end[at] - start[at]) / (high[at] - low)
        q = half * weights * (start[at, None] + slope[:, None] * (x - low[:, None]))
        # rounded, so that cells under one run of load have the same places and look their functions up
        places = np.round((x - self.mesh.middle[cells, None]) / self.mesh.half[cells, None], 12)
        first = np.searchsorted(cells, np.arange(self.mesh.cells + 1))
        for cell, (begin, stop) in enumerate(pairwise(first.tolist())):
            if begin < stop:
                values = basis.values(cell, tuple(places[begin:stop].ravel().tolist()))
                work[self.mesh.start[field] + basis.of_cell[cell]] += q[begin:stop].ravel() @ values
        return work

    # --- answers --------------------------------------------------------------------------------------------

    def results(self, cases: Sequence[SpanCase] | None = None) -> tuple[SpanResult, ...]:
        """The response to every load case, or to others whose loads begin and end where cells do."""
        cases = self.cases if cases is None else cases
        if not cases:
            return ()
        factors = [[self.drop_factor(drop) for drop in case.of(Drop)] for case in cases]
        forces = [self._forces(case, falls) for case, falls in zip(cases, factors, strict=True)]
        vectors = np.array([self._load_vector(force) for force in forces]).T
        solutions = self._solve(vectors)
        strains, displacements = self._at_samples(solutions)
        reactions = self._reactions(solutions, vectors)
        diagrams = [self._diagrams(*pair) for pair in zip(forces, reactions, strict=True)]
        return tuple(
            SpanResult(
                case, strains[i], {name: values[i] for name, values in displacements.items()}, diagrams[i],
                reactions[i], self._left_over(forces[i], reactions[i]), max(factors[i], default=1.0),
                self._buckling(case, diagrams[i]),
            )
            for i, case in enumerate(cases)
        )  # fmt: skip

    def drop_factor(self, drop: Drop) -> float:
        """How many times its weight a falling mass presses: 1 + √(1 + 2 h/δ), δ the deflection under its weight.

        Balance of the energy of the fall and of the member, whose own mass is neglected (textbook result; on the safe
        side for a heavy member).
        """
        forces = _Forces()
        forces.press(drop.mass * STANDARD_GRAVITY, drop.x, drop.along)
        vector = self._load_vector(forces)
        solution = self._solve(vector)
        # of a force that is spread, the mean under it: what its fall loses
        static = float(vector @ solution) / (drop.mass * STANDARD_GRAVITY)
        if static <= 0.0:
            return 1.0
        return 1.0 + float(np.sqrt(1.0 + 2.0 * drop.height / static))

    def _at_samples(self, solutions: np.ndarray) -> tuple[np.ndarray, dict[str, np.ndarray]]:
        """Strains (cases, places, n) and displacements by name (cases, places) of solutions (unknowns, cases)."""
        values = self.mesh.samples @ solutions[self.mesh.dofs]
        values = np.moveaxis(values.reshape(len(self.x), -1, solutions.shape[1]), 2, 0)
        n = len(self.kinematics.strains)
        return values[..., :n], {name: values[..., n + i] for i, name in enumerate(self.mesh.shown)}

    def energy_density(self, result: SpanResult) -> np.ndarray:
        """Twice the strain energy per length at the samples, N: the strains times what they cause, (places,)."""
        inside = self.x + 1e-9 * (self.centres - self.x)
        forces = np.einsum("xij,xj->xi", self._stiffness_at(inside), result.strains)
        return np.asarray(np.sum(forces * result.strains, axis=1))

    def _reactions(self, solutions: np.ndarray, vectors: np.ndarray) -> np.ndarray:
        """(cases, supports, 4): N up, N m on the section's turn, N along, N m about the span."""
        residual = np.zeros_like(vectors)
        np.add.at(residual, self.mesh.dofs, self._K @ solutions[self.mesh.dofs])
        residual -= vectors
        slope_unit = 2.0 / self.span.length
        reactions = np.zeros((vectors.shape[1], len(self.span.supports), 4))
        for i, support in enumerate(self.span.supports):
            for field, derivative in self._holds(i):
                if derivative and not self.mesh.smooth[field]:
                    continue
                value = residual[self.mesh.function(field, support.x, derivative)]
                if field == "w":
                    if derivative:
                        reactions[:, i, 1] -= value / slope_unit
                    else:
                        reactions[:, i, 0] += value
                elif field == "phi":
                    reactions[:, i, 1] += value
                elif field == "u":
                    reactions[:, i, 2] += value
                elif field == "theta":
                    reactions[:, i, 3] += value
        return reactions

    def _diagrams(self, forces: _Forces, reactions: np.ndarray) -> Diagrams:
        x = self.x + 1e-9 * (self.centres - self.x)  # inside its cell, so that a step lies on one side
        axial, torque = np.zeros((2, len(x)))
        load, total, first = _summed(forces.spread, x)
        shear, moment = -total, -first
        points = [(px, -force) for px, force in forces.down]
        supports = self.span.supports
        points += [(support.x, float(r[0])) for support, r in zip(supports, reactions, strict=True)]
        for at, up in points:
            left = x > at
            shear += up * left
            moment += up * (x - at) * left
        for at, couple in [*forces.moments, *((s.x, float(r[1])) for s, r in zip(supports, reactions, strict=True))]:
            moment += couple * (x > at)
        moment += _summed(forces.turning, x)[1]
        for at, force in [*forces.along, *((s.x, float(r[2])) for s, r in zip(supports, reactions, strict=True))]:
            axial -= force * (x > at)
        for at, about in [*forces.torques, *((s.x, float(r[3])) for s, r in zip(supports, reactions, strict=True))]:
            torque -= about * (x > at)
        torque -= _summed(forces.twisting, x)[1]
        return Diagrams(load, shear, moment, axial, torque)

    def _left_over(self, forces: _Forces, reactions: np.ndarray) -> float:
        """What forces and moments leave over when summed over the member, relative to the largest of them."""
        length = self.span.length
        up = [-force for _, force in forces.down]
        about = [-force * (length - x) for x, force in forces.down]
        for low, high, start, end in forces.spread:
            total = (start + end) / 2.0 * (high - low)
            first = (high - low) ** 2 * (start / 6.0 + end / 3.0)  # ∫ q (ξ − low) dξ
            up.append(-total)
            about += [-total * (length - low), first]
        about += [moment for _, moment in forces.moments]
        about += [(start + end) / 2.0 * (high - low) for low, high, start, end in forces.turning]
        for support, part in zip(self.span.supports, reactions, strict=True):
            up.append(float(part[0]))
            about += [float(part[0]) * (length - support.x), float(part[1])]
        along = [force for _, force in forces.along] + [float(part[2]) for part in reactions]
        torque = [part for _, part in forces.torques] + [float(part[3]) for part in reactions]
        torque += [(start + end) / 2.0 * (high - low) for low, high, start, end in forces.twisting]
        turning = [part / length for part in [*about, *torque]]
        size = max(abs(part) for part in [*up, *along, *turning, 0.0])
        if size == 0.0:
            return 0.0
        sums = (sum(up), sum(along), sum(about) / length, sum(torque) / length)
        return max(abs(part) for part in sums) / size

    def _buckling(self, case: SpanCase, diagrams: Diagrams) -> float:
        """Factor on the loads at which the member buckles sideways under its compression; inf without any."""
        most = max((abs(load.force) for load in case.of(AxialForce)), default=0.0)
        if most == 0.0 or diagrams.axial.min() >= -1e-9 * most:
            return float("inf")
        # axial force is constant in each cell: forces along the span act at nodes
        axial = diagrams.axial.reshape(self.mesh.cells, -1)[:, len(SAMPLES) // 2]
        C = (-axial[:, None] * self.mesh.weights)[..., None, None]
        return self.banded.least_factor(self.mesh.local(self.mesh.slope, C))

    @cached_property
    def about_twist(self) -> tuple[tuple[np.ndarray, np.ndarray], tuple[np.ndarray, np.ndarray]]:
        """y and z of the shear centre, and EI_z/EI_y and EI_y/EI_z, at the points of integration: (cells, points)."""
        at = self.mesh.gauss_x
        C = self._stiffness_at(at.ravel())[:, :6, :6]
        F = np.linalg.inv(C)
        ys, zs = (own.reshape(at.shape) for own in (F[:, 1, 4] / F[:, 1, 1], -F[:, 1, 5] / F[:, 1, 1]))
        weaker = (C[:, 3, 3] / C[:, 2, 2]).reshape(at.shape)
        return (ys, zs), (weaker, 1.0 / weaker)

    def frequencies(self, modes: int = MODES) -> tuple[float, ...]:
        """The lowest natural frequencies in Hz, ascending."""
        fields = [field for field in ("u", "v", "w") if field in self.mesh.start]
        rows = [
            np.sqrt(mass.mass) * self.mesh.row(field, mass.x)[self._free]
            for mass in self.span.masses for field in fields
        ]  # fmt: skip
        largest = self.banded.largest(self._M, modes, np.array(rows) if rows else None)
        return tuple(float(np.sqrt(1.0 / square) / (2.0 * np.pi)) for square in largest if square > 0.0)


def _summed(
    trapezoids: Sequence[tuple[float, float, float, float]], x: np.ndarray
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """What trapezoids (low, high, start, end) come to at places x: their value there, the sum of what lies to the left,
    and its moment ∫ q (x − ξ) dξ, (places,) each."""
    if not trapezoids:
        return tuple(np.zeros((3, len(x))))  # type: ignore[return-value]
    low, high, start, end = (column[:, None] for column in np.array(trapezoids).T)
    slope = (end - start) / (high - low)
    inside = np.clip(x, low, high) - low
    value = np.where((x > low) & (x < high), start + slope * (x - low), 0.0)
    total = start * inside + slope * inside**2 / 2.0
    first = total * (x - low) - (start * inside**2 / 2.0 + slope * inside**3 / 3.0)
    return value.sum(axis=0), total.sum(axis=0), first.sum(axis=0)
