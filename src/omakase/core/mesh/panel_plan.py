"""The plan of a panel's bricks: quadrilaterals of 8 nodes on its surface laid out flat, and its edges.

A rectangle is cut by lines; a round panel is a disc drawn to its size.
"""

from __future__ import annotations

from collections.abc import Sequence

import msgspec
import numpy as np

from omakase.core.members.panel_given import Panel
from omakase.core.members.panel_held import washer_bounds
from omakase.core.members.panel_patchwork import Patchwork
from omakase.core.mesh.disc import disc
from omakase.core.mesh.mesh import HALF_STEPS, POINTS, WEIGHTS, half_steps, over_rectangle, quadratic, quadratic_slopes
from omakase.core.plates.grid import Edge, merge_breaks

Lines = tuple[Sequence[float], Sequence[float]]
CUTS = 12  # parts each way of a quadrilateral that a patch is looked for in


class Side(msgspec.Struct, frozen=True, eq=False):
    """An edge.  ``across`` : the axes, 0 or 1, that cross it, both of a rim.

    ``nodes`` : of the plan, along the edge; ``outward`` : (nodes, 2) unit vectors.  ``pieces`` : (m, 3) first, last and
    middle node of the sides of quadrilaterals, as places in ``nodes``.  ``spring`` : N/m per metre.
    """

    edge: Edge
    across: tuple[int, ...]
    nodes: np.ndarray
    outward: np.ndarray
    pieces: np.ndarray
    spring: float = 0.0


class Plan(msgspec.Struct, frozen=True, eq=False):
    """``nodes`` : (p, 2) m on the surface laid out flat; ``quads`` : (q, 8) of them, corners and then middles, turning
    from x to y.  ``which`` : (q,) piece of each, −1 of an opening.  ``lines`` : nodes on each line of support.
    """

    nodes: np.ndarray
    quads: np.ndarray
    which: np.ndarray
    sides: tuple[Side, ...]
    lines: tuple[np.ndarray, ...]
    rectangular: bool

    @property
    def size(self) -> np.ndarray:
        """(2,) m along x and y."""
        return self.nodes.max(axis=0)

    def everywhere(self) -> np.ndarray:
        """Shares of a uniform pressure of 1 that the nodes of each quadrilateral take: (q, 8) m²."""
        reference = np.array([(a, b) for a in POINTS for b in POINTS])
        weights = np.outer(WEIGHTS, WEIGHTS).ravel()
        return self._integrated(reference, np.ones((len(self.quads), len(reference))) * weights)

    def over(self, bounds: Sequence[float]) -> np.ndarray:
        """The same of a pressure over a rectangle (x low, x high, y low, y high) only.

        Exact where the quadrilaterals are rectangles, elsewhere right in sum.
        """
        if self.rectangular:
            low, high = self.nodes[self.quads[:, 0]], self.nodes[self.quads[:, 2]]
            touched = (
                (high[:, 0] > bounds[0]) & (low[:, 0] < bounds[1]) & (high[:, 1] > bounds[2]) & (low[:, 1] < bounds[3])
            )
            shares = np.zeros((len(self.quads), 8))
            for k in np.nonzero(touched)[0]:
                shares[k] = over_rectangle(low[k], high[k], bounds)
            return shares
        steps = (2.0 * np.arange(CUTS) + 1.0) / CUTS - 1.0
        reference = np.array([(a, b) for a in steps for b in steps])
        places = np.einsum("rn,qnk->qrk", quadratic(reference), self.nodes[self.quads])
        x, y = places[..., 0], places[..., 1]
        inside = (x > bounds[0]) & (x < bounds[1]) & (y > bounds[2]) & (y < bounds[3])
        shares = self._integrated(reference, inside * (4.0 / CUTS**2))
        found = float(shares.sum())
        size = (bounds[1] - bounds[0]) * (bounds[3] - bounds[2])
        return shares * (size / found) if found else self._at_a_point(bounds)

    def _integrated(self, reference: np.ndarray, weights: np.ndarray) -> np.ndarray:
        """∫ N over quadrilaterals, by ``weights`` (q, r) of places ``reference`` (r, 2): (q, 8)."""
        corners = self.nodes[self.quads]
        along, across = np.einsum("kra,qap->kqrp", quadratic_slopes(reference), corners)
        area = along[..., 0] * across[..., 1] - along[..., 1] * across[..., 0]
        return (weights * area) @ quadratic(reference)

    def _at_a_point(self, bounds: Sequence[float]) -> np.ndarray:
        """A rectangle smaller than what it is looked for by: all of it at the nearest corner."""
        middle = np.array([(bounds[0] + bounds[1]) / 2.0, (bounds[2] + bounds[3]) / 2.0])
        off = np.linalg.norm(self.nodes[self.quads[:, :4]] - middle, axis=2)
        shares = np.zeros((len(self.quads), 8))
        shares[np.unravel_index(int(off.argmin()), off.shape)] = (bounds[1] - bounds[0]) * (bounds[3] - bounds[2])
        return shares


def plan_of(panel: Panel, patches: Patchwork | None, along: int, lines: Lines = ((), ())) -> Plan:
    """``along`` quadrilaterals along the longer side, as many across as keep them square.  ``lines`` : across x and
    across y that a rectangle is cut along as well, m on its surface."""
    return _round(panel, along) if panel.outline == "round" else _rectangle(panel, patches, along, lines)


def _rectangle(panel: Panel, patches: Patchwork | None, along: int, more: Lines) -> Plan:
    surface, held = panel.surface, panel.held
    longest = max(surface.length, surface.width) / along
    zones = (None, None) if patches is None else (patches.x, patches.y)
    sides = []
    for axis, (arc, own) in enumerate(zip((surface.x, surface.y), zones, strict=True)):
        cuts = [arc.along(place) for place in (held.across, held.along)[axis]]
        cuts += [] if own is None else [arc.along(float(place)) for place in own]
        cuts += more[axis]
        cuts += [end for bolt in held.bolts for end in washer_bounds(surface, bolt)[2 * axis : 2 * axis + 2]]
        sides.append(_cut(arc.length, cuts, longest))
    x, y = sides
    half_x, half_y = (half_steps(own) for own in sides)
    ids = np.full((len(half_x), len(half_y)), -1)
    ids[::2, :] = ids[:, ::2] = 0
    ids[ids == 0] = np.arange(int((ids == 0).sum()))
    nodes = np.stack(np.meshgrid(half_x, half_y, indexing="ij"), axis=-1)[ids >= 0]
    i, j = (own.ravel() for own in np.meshgrid(np.arange(len(x) - 1), np.arange(len(y) - 1), indexing="ij"))
    quads = np.stack([ids[2 * i + a, 2 * j + b] for a, b in HALF_STEPS], axis=1)
    which = np.zeros(len(quads), int)
    if patches is not None:
        lines_x, lines_y = (np.array([arc.along(float(place)) for place in own])
                            for arc, own in ((surface.x, patches.x), (surface.y, patches.y)))  # fmt: skip
        in_x = np.clip(np.searchsorted(lines_x, (x[1:] + x[:-1]) / 2.0) - 1, 0, len(lines_x) - 2)
        in_y = np.clip(np.searchsorted(lines_y, (y[1:] + y[:-1]) / 2.0) - 1, 0, len(lines_y) - 2)
        which = np.where(patches.which == len(patches.stacks), -1, patches.which)[in_x[i], in_y[j]]
    edges = panel.edges
    ends = (
        (edges.x0, 0, ids[0], (-1.0, 0.0)), (edges.x1, 0, ids[-1], (1.0, 0.0)),
        (edges.y0, 1, ids[:, 0], (0.0, -1.0)), (edges.y1, 1, ids[:, -1], (0.0, 1.0)),
    )  # fmt: skip
    found = []
    for (edge, axis, own, outward), spring in zip(ends, held.springs, strict=True):
        first = np.arange(0, len(own) - 2, 2)
        pieces = np.stack([first, first + 2, first + 1], axis=1)
        found.append(Side(edge, (axis,), own, np.tile(outward, (len(own), 1)), pieces, spring))
    lines = [
        ids[2 * int(np.argmin(np.abs(x - surface.x.along(place))))] for place in held.across
    ] + [ids[:, 2 * int(np.argmin(np.abs(y - surface.y.along(place))))] for place in held.along]  # fmt: skip
    return Plan(nodes, quads, which, tuple(found), tuple(own[own >= 0] for own in lines), True)


def _cut(size: float, lines: Sequence[float], longest: float) -> np.ndarray:
    """Places from 0 to ``size`` through all ``lines``, as even as they allow."""
    fixed = merge_breaks(size, lines)
    least = 4 if len(fixed) == 2 else 1
    cells = [max(least, round(step / longest)) for step in np.diff(fixed)]
    parts = [np.linspace(a, b, n + 1)[:-1] for a, b, n in zip(fixed[:-1], fixed[1:], cells, strict=True)]
    return np.concatenate([*parts, [size]])


def _round(panel: Panel, along: int) -> Plan:
    middle, rings = 2 * max(2, round(along / 4.0)), max(2, round(along / 4.0))
    unit, quads, rim = disc(middle, rings)
    half = np.array([panel.length, panel.width]) / 2.0
    outward = unit[rim] / half
    outward /= np.linalg.norm(outward, axis=1)[:, None]
    first = np.arange(0, len(rim), 2)
    pieces = np.stack([first, (first + 2) % len(rim), first + 1], axis=1)
    side = Side(panel.edges.x0, (0, 1), rim, outward, pieces, panel.held.springs[0])
    return Plan((1.0 + unit) * half, quads, np.zeros(len(quads), int), (side,), (), False)
