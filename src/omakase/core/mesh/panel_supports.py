"""What holds a panel of bricks: its edges, lines, bolts, elastic edges and a bed."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from omakase.core.errors import MemberError
from omakase.core.members.panel_given import Bolt, Panel
from omakase.core.members.panel_held import washer_bounds
from omakase.core.mesh.lifted import Lifted
from omakase.core.mesh.mesh import HRZ, POINTS, WEIGHTS, edge_speed
from omakase.core.mesh.panel_plan import Side
from omakase.core.mesh.rib_bricks import RibBricks, hold_ribs
from omakase.core.mesh.supports import Supports, When

THIRDS = np.array([1.0, 1.0, 4.0]) / 6.0  # of a length: ends and middle

Follower = tuple[int, int, int, float]  # a node, top and bottom of what leads it, how far beyond by their distance


def supports_of(
    panel: Panel, lifted: Lifted, pulled: bool, large: bool, ends: Sequence[Follower], ribs: RibBricks | None = None
) -> Supports:  # fmt: skip
    """Simple: w and the movement along the edge, through the whole thickness; clamped: everything; resting, and lines
    of support: w.  Bolts keep the mean of w under their washers.

    ``large`` : some deflections are, so that w is held in the mean of both faces: a section that turns far is thinner
    from below to above, and one held through its thickness would be clamped by that.
    ``pulled`` : some load cases pull at the edges, which then hold w only; what holds them else acts on the lowest
    nodes, and those over it follow.  ``ends`` : nodes of ended cores that follow the solid laminate beside them.
    """
    own = Supports(lifted.nodes, () if ribs is None else ribs.nodes)
    when: When = "held" if pulled else "always"
    following = frozenset(node for node, *_ in ends)
    for side in lifted.plan.sides:
        for column, (along, across, normal) in _places(lifted, side):
            if side.edge != "free":
                _hold_up(own, column, normal, following, large and side.edge != "clamped")
            kept = column[:1] if pulled else column
            for direction in {"simple": [along], "clamped": [along, across]}.get(side.edge, []):
                own.hold(kept, direction, when)
                for upper in column[1:] if pulled else ():
                    own.tie(np.array([upper, column[0]]), np.array([direction, -direction]))
    for line in lifted.plan.lines:
        for node in line:
            _hold_up(own, lifted.over(node), lifted.frames[node, 2], following, large)
    heights = lifted.heights
    spread = {"ends": {0}, "sides": {1}, "all": {0, 1}}.get(panel.in_plane, set())
    for side in lifted.plan.sides:
        if side.edge not in ("free", "clamped") and set(side.across) <= spread:
            for column, (_, across, _) in _places(lifted, side):
                _keep_from_spreading(own, column, across, heights, following, when)
    for bolt in panel.held.bolts:
        _bolt(own, panel, lifted, bolt)
    own.keep_from_sliding(("always", "held"), when)
    if pulled:
        own.keep_from_sliding(("always", "loose"), "loose")
    _springs(own, panel, lifted)
    _follow(own, lifted, ends)
    if ribs is not None:
        hold_ribs(own, ribs, pulled)
    return own


def _hold_up(own: Supports, column: np.ndarray, normal: np.ndarray, following: frozenset[int], mean: bool) -> None:
    """Keeps the nodes over each other, or the ``mean`` of the lowest and the highest, from moving away from the
    surface."""
    if not mean:
        own.hold(column, normal)
    elif not all(own.holds(node, normal) for node in column):
        ends = _ends(column, following)
        own.tie(ends, np.stack([normal, normal]) / 2.0)


def _ends(column: np.ndarray, following: frozenset[int]) -> np.ndarray:
    """The lowest and the highest node of a place that follow no others."""
    free = [node for node in column if node not in following]
    return np.array([free[0], free[-1]])


def _places(lifted: Lifted, side: Side) -> Iterator[tuple[np.ndarray, np.ndarray]]:
    """Of each place along an edge its nodes from the lowest up, and its frame; openings have none."""
    for node, frame in zip(side.nodes, lifted.edge_frames(side), strict=True):
        column = lifted.over(node)
        if len(column):
            yield column, frame


def _keep_from_spreading(
    own: Supports, column: np.ndarray, across: np.ndarray, heights: np.ndarray, following: frozenset[int], when: When
) -> None:
    """Holds the middle plane of a supported edge, so that it turns freely: what the lowest and the highest node give
    there, since a soft core alone holds nothing."""
    if all(own.holds(node, across) for node in column):
        return
    ends = _ends(column, following)
    low, high = heights[ends]
    if low < 0.0 < high:
        shares = np.array([high, -low]) / (high - low)
        own.tie(ends, shares[:, None] * across, when)
    else:
        own.hold([int(column[int(np.argmin(np.abs(heights[column])))])], across, when)


def _bolt(own: Supports, panel: Panel, lifted: Lifted, bolt: Bolt) -> None:
    """Keeps the mean of the deflection under a washer at zero, and of both displacements in the plane where it does."""
    plan = lifted.plan
    shares = np.zeros(len(plan.nodes))
    np.add.at(shares, plan.quads, plan.over(washer_bounds(panel.surface, bolt)))
    under = np.nonzero((np.abs(shares) > 0.0) & (lifted.ends[:, 0] >= 0))[0]
    if not len(under):
        raise MemberError("a bolt that stands in an opening holds nothing and cannot be written as bricks")
    weights = shares[under] / shares[under].sum() / 2.0
    frames = lifted.frames[under]
    nodes = lifted.ends[under].ravel()
    for k in (0, 1, 2) if bolt.in_plane else (2,):
        own.tie(nodes, np.repeat(weights[:, None] * frames[:, k], 2, axis=0))


def _springs(own: Supports, panel: Panel, lifted: Lifted) -> None:
    """Springs of elastic edges and of a bed, at the mean of the deflection through the thickness."""
    plan, ends = lifted.plan, lifted.ends
    stiffness = np.zeros(len(plan.nodes))
    for side in plan.sides:
        if side.spring:
            points = lifted.curving.points(plan.nodes[side.nodes])
            for piece in side.pieces:
                length = float(WEIGHTS @ edge_speed(points[piece], POINTS))
                stiffness[side.nodes[piece]] += side.spring * length * THIRDS
    if panel.held.bed:
        area = np.where(plan.which >= 0, plan.everywhere().sum(axis=1), 0.0)
        np.add.at(stiffness, plan.quads, panel.held.bed * area[:, None] * HRZ)
    normals = lifted.frames[:, 2]
    for node in np.nonzero((stiffness > 0.0) & (ends[:, 0] >= 0))[0]:
        own.spring(ends[node], 0.5 * np.stack([normals[node]] * 2), float(stiffness[node]))


def _follow(own: Supports, lifted: Lifted, ends: Sequence[Follower]) -> None:
    """Nodes of ended cores move with the section of the solid laminate, which stays plane."""
    frames = np.zeros((len(lifted.nodes), 3, 3))
    for level in lifted.ids.T:
        frames[level[level >= 0]] = lifted.frames[level >= 0]
    for node, top, bottom, beyond in ends:
        in_x, in_y, normal = frames[node]
        for direction in (in_x, in_y):
            if not own.holds(node, direction):
                weights = np.array([1.0, -1.0 - beyond, beyond])
                own.tie(np.array([node, top, bottom]), weights[:, None] * direction)
        if not own.holds(node, normal):
            own.tie(np.array([node, top]), np.array([normal, -normal]))
