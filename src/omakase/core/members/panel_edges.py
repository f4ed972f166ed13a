"""What the edges of a panel take: forces across its plane, from what is left over of its equilibrium there."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec
import numpy as np

from omakase.core.members.panel_grid import GridKey, assembler
from omakase.core.members.panel_held import EDGE_TITLES, Reaction, in_plan
from omakase.core.plates.assembly import Assembler, GroupedForm
from omakase.core.plates.attached import Attached, add_to
from omakase.core.plates.basis import Basis, interval_integral
from omakase.core.plates.condensation import multiply
from omakase.core.plates.grid import Edges
from omakase.core.plates.loads import PlateLoad, load_tables

CORNER, LOOKED_AT = 0.05, 181  # share of an edge left out at its ends, places between
NOTHING_HELD = Edges("free", "free", "free", "free")


class EdgeForces(msgspec.Struct, frozen=True, eq=False):
    """A panel's linear answer on one grid; ``spread`` gives the reactions along its supported edges.

    ``vector`` : its unknowns.  The forces are those that, spread along the held edges as the deflection's own functions
    run there, do the same work as the residual, stiffness times deflection less load, on the grid without supports.
    Together they balance the loads exactly; near corners, where a thin plate needs single forces, the force per length
    rises with the fineness of the grid.
    """

    key: GridKey
    energies: Sequence[GroupedForm]
    attached: Sequence[Attached]
    vector: np.ndarray
    loads: Sequence[PlateLoad]
    factor: float = 1.0

    def spread(self) -> dict[int, tuple[Basis, np.ndarray]]:
        """For each held edge, by its number, the basis along it and the coefficients of its force per length, N/m."""
        edges = self.key.surface.edges
        held = [k for k, name in enumerate(("x0", "x1", "y0", "y1")) if getattr(edges, name) != "free"]
        if not held:
            return {}
        free = self._free()
        left, grid = self._left_over(free), free.grid
        numbers = np.arange(left.size).reshape(left.shape)
        first, last = ((basis.edge_functions(0)[0], basis.edge_functions(1)[0]) for basis in (grid.x["w"], grid.y["w"]))
        lines = numbers[first[0], :], numbers[first[1], :], numbers[:, last[0]], numbers[:, last[1]]
        bases = grid.y["w"], grid.y["w"], grid.x["w"], grid.x["w"]
        along_x, along_y = (along("w", "w", ((0, 0),))[0] for along in (free.along_x, free.along_y))
        used = np.unique(np.concatenate([lines[k] for k in held]))
        products = np.zeros((len(used), len(used)))
        for k in held:
            at = np.searchsorted(used, lines[k])
            products[np.ix_(at, at)] += along_y if k < 2 else along_x
        forces = np.zeros(left.size)
        forces[used] = np.linalg.solve(products, left.ravel()[used])
        return {k: (bases[k], self.factor * forces[lines[k]]) for k in held}

    def _free(self) -> Assembler:
        """The grid without the edges' supports, on which all functions are free."""
        loose = msgspec.structs.replace(self.key.surface, edges=NOTHING_HELD, in_plane="loose", held_inside=True)
        return assembler(msgspec.structs.replace(self.key, surface=loose))

    def _left_over(self, free: Assembler) -> np.ndarray:
        """Stiffness times deflection less load, on the functions of w of the panel without its edges' supports."""
        own = assembler(self.key)
        vector = np.zeros(free.unknowns)
        for field, table in own.gather(self.vector).items():
            if field in free.grid.fields:
                vector += free.scatter(field, table)
        matrices = add_to(free.matrices(list(self.energies)), free, self.attached)
        left = multiply(free, matrices, vector)
        for load in self.loads:
            for field, table in load_tables(free.grid, load):
                left -= free.scatter(field, table)
        return free.gather(left)["w"]


def edge_reactions(forces: Sequence[EdgeForces]) -> tuple[Reaction, ...]:
    """What each held edge takes under a load case that is the sum of these answers, positive pushing up.

    ``most`` is the largest force per length and its place, looked for away from the ends of the edge.
    """
    spreads = [own.spread() for own in forces]
    reactions = []
    for k in sorted(spreads[0]) if spreads else ():
        surface = forces[0].key.surface
        length = surface.width if k < 2 else surface.length
        places = np.linspace(CORNER, 1.0 - CORNER, LOOKED_AT) * length
        per_length, total = np.zeros(LOOKED_AT), 0.0
        for basis, own in (spread[k] for spread in spreads):
            per_length += basis.values_at(places) @ own
            total += float(interval_integral(basis, 0.0, length) @ own)
        most = int(np.argmax(np.abs(per_length)))
        end = (0.0, surface.length, 0.0, surface.width)[k]
        x, y = in_plan(surface, float(places[most]), end, k >= 2)
        reactions.append(Reaction("edge", EDGE_TITLES[k], total, x, y, float(per_length[most])))
    return tuple(reactions)
