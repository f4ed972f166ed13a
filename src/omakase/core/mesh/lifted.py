"""Bricks over a plan: where their nodes are, and which lie over each other."""

from __future__ import annotations

from functools import cached_property

import msgspec
import numpy as np

from omakase.core.mesh.curving import Curving
from omakase.core.mesh.mesh import half_steps
from omakase.core.mesh.panel_plan import Plan, Side


class Lifted(msgspec.Struct, frozen=True, eq=False, dict=True):
    """``z`` : heights between which the bricks lie, m from the middle surface.  ``there`` : (quadrilaterals, levels)
    whether one is.  ``ids`` : nodes over each node of the plan at half levels, −1 where no brick has one; ``nodes``
    (n, 3) m.
    """

    plan: Plan
    curving: Curving
    z: np.ndarray
    there: np.ndarray
    ids: np.ndarray
    nodes: np.ndarray

    @cached_property
    def top(self) -> np.ndarray:
        """The level on which each column of bricks ends, −1 of an opening."""
        return np.where(self.there.any(axis=1), self.there.shape[1] - self.there[:, ::-1].argmax(axis=1), -1)

    @cached_property
    def bottom(self) -> np.ndarray:
        """The level on which each column of bricks begins, −1 of an opening."""
        return np.where(self.there.any(axis=1), self.there.argmax(axis=1), -1)

    @cached_property
    def ends(self) -> np.ndarray:
        """The lowest and the highest node over each node of the plan, −1 of an opening: (p, 2)."""
        above, rows = self.ids >= 0, np.arange(len(self.ids))
        low, high = above.argmax(axis=1), above.shape[1] - 1 - above[:, ::-1].argmax(axis=1)
        found = np.stack([self.ids[rows, low], self.ids[rows, high]], axis=1)
        found[(found < 0).any(axis=1)] = -1
        return found

    def over(self, node: int) -> np.ndarray:
        """The nodes over one of the plan, from the lowest up."""
        own = self.ids[node]
        return own[own >= 0]

    def edge_frames(self, side: Side) -> np.ndarray:
        """Unit vectors at the nodes of an edge: along it, out of it, and away from the surface: (k, 3, 3)."""
        at = self.plan.nodes[side.nodes]
        x, y = self.curving.tangents(at)
        along = side.outward[:, :1] * y - side.outward[:, 1:] * x
        along /= np.linalg.norm(along, axis=1)[:, None]
        normals = self.frames[side.nodes, 2]
        return np.stack([along, np.cross(along, normals), normals], axis=1)

    @cached_property
    def frames(self) -> np.ndarray:
        """``Curving.frames`` at each node of the plan: (p, 3, 3)."""
        return self.curving.frames(self.plan.nodes)

    @cached_property
    def heights(self) -> np.ndarray:
        """Height of each node above the middle surface, m: (n,)."""
        steps, found = half_steps(self.z), np.zeros(len(self.nodes))
        for level, own in enumerate(self.ids.T):
            found[own[own >= 0]] = steps[level]
        return found


def lifted_nodes(plan: Plan, curving: Curving, z: np.ndarray, there: np.ndarray) -> Lifted:
    """The nodes of all bricks that are ``there``, numbered column by column."""
    used = np.zeros((len(plan.nodes), 2 * len(z) - 1), bool)
    for k in range(len(z) - 1):
        quads = plan.quads[there[:, k]]
        used[quads, 2 * k] = used[quads, 2 * k + 2] = True
        used[quads[:, :4], 2 * k + 1] = True
    ids = np.full(used.shape, -1)
    ids[used] = np.arange(int(used.sum()))
    places, levels = np.nonzero(used)
    nodes = curving.points(plan.nodes)[places] + half_steps(z)[levels, None] * curving.frames(plan.nodes)[places, 2]
    return Lifted(plan, curving, z, there, ids, nodes)
