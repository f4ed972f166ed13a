"""What is fixed to a round plate: springs along its edge and washers, as energies of its own fields."""

from __future__ import annotations

from collections.abc import Iterator

import msgspec
import numpy as np

from omakase.core.errors import SolverError
from omakase.core.plates.assembly import Assembler
from omakase.core.plates.attached import OnMean
from omakase.core.plates.basis import gauss
from omakase.core.plates.disc import DiscAssembler

WASHER_POINTS = 6  # Gauss points each way of the square that a washer is taken as


class OnRim(msgspec.Struct, frozen=True):
    """½ k ∫ e² ds round the edge, k in N/m per metre or N m per metre.

    e is the one field of ``fields``, or of two of them what they are along the edge.
    """

    fields: tuple[str, ...]
    stiffness: float

    def matrices(self, assembler: Assembler) -> Iterator[tuple[int, np.ndarray, np.ndarray]]:
        """(strip, places in it, matrix there) of the energy."""
        strip = len(assembler.strips) - 1
        for columns, table, weights, _ in self._tables(assembler):
            yield strip, columns, table.T @ (self.stiffness * weights[:, None] * table)

    def forces(self, assembler: Assembler, vector: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """(θ, weights in m, force per length against what moves, N/m) round the edge."""
        dofs = assembler.strips[-1].dofs
        parts = [
            (theta, weights, -self.stiffness * (table @ vector[dofs[columns]]))
            for columns, table, weights, theta in self._tables(assembler)
        ]
        theta, weights, force = (np.concatenate(own) for own in zip(*parts, strict=True))
        return theta, weights, force

    def _tables(self, assembler: Assembler) -> Iterator[tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]]:
        """Sector by sector (columns of the last ring's matrix, e by them, weights in m, θ)."""
        assert isinstance(assembler, DiscAssembler)
        grid, ring = assembler.grid, len(assembler.strips) - 1
        points, shares = gauss(grid.order + 2)
        a, b = grid.half
        for j, (low, high) in enumerate(zip(grid.y_nodes[:-1], grid.y_nodes[1:], strict=True)):
            theta = (low + high) / 2.0 + (high - low) / 2.0 * np.array(points)
            along = np.stack([-a * np.sin(theta), b * np.cos(theta)])
            speed = np.hypot(*along)
            shown = [np.ones_like(theta)] if len(self.fields) == 1 else list(along / speed)
            tables = [
                own[:, None] * assembler.cell_table(field, (0, 0), ring, j, (1.0,), points)
                for field, own in zip(self.fields, shown, strict=True)
            ]
            columns = [assembler.places_in_cell(field, ring, j) for field in self.fields]
            yield np.concatenate(columns), np.hstack(tables), shares * speed * (high - low) / 2.0, theta


class OnWasher(OnMean, frozen=True):
    """Over a square of ``side`` m at x, y, inside one cell; at the middle the value there."""

    x: float
    y: float
    side: float

    def _mean(self, assembler: Assembler) -> tuple[int, np.ndarray, np.ndarray]:
        assert isinstance(assembler, DiscAssembler)
        grid = assembler.grid
        if over_middle(self.x, self.y, self.side, *grid.half):
            number = assembler.middle[self.field][0][2]
            return 0, np.flatnonzero(assembler.strips[0].dofs == number), np.ones(1)
        points, weights = gauss(WASHER_POINTS)
        steps = self.side / 2.0 * np.array(points)
        x, y = np.meshgrid(self.x + steps, self.y + steps, indexing="ij")
        inside = grid.polar(x, y)[0] <= 1.0
        shares = np.outer(weights, weights) * inside
        cells = [own[:2] for own in grid.by_cell(*grid.polar(x[inside], y[inside]))]
        if len(cells) != 1:
            raise SolverError("a line of the grid cuts a washer")
        (strip, sector), vector = cells[0], assembler.point_vector(self.field, x, y, shares / shares.sum())
        columns = assembler.places_in_cell(self.field, strip, sector)
        return strip, columns, vector[assembler.strips[strip].dofs[columns]]


def over_middle(x: float, y: float, side: float, a: float, b: float) -> bool:
    """Whether a square covers the middle of a plate with half axes a and b."""
    return max(abs(x - a), abs(y - b)) < side / 2.0
