"""Ribs of a panel as bricks: their walls along their lines, bonded to the face that they stand on.

What is bonded moves as the face does there, whichever way the bricks of the panel are cut.  Ribs that cross lie in the
same place and hold each other through the face only.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import msgspec
import numpy as np

from omakase.core.errors import MemberError
from omakase.core.members.panel_given import Surface
from omakase.core.members.panel_ribs import CLOSED, Rib, RibBeam
from omakase.core.mesh.lifted import Lifted
from omakase.core.mesh.mesh import SAME, Group, bricks_between, half_steps, quadratic
from omakase.core.mesh.panel_plan import Plan
from omakase.core.mesh.piece import Piece
from omakase.core.mesh.rib_profile import Profile, profile_of, sheet_of
from omakase.core.mesh.supports import Supports

SMALL = 1e-9  # of a weight
TURNED = [0, 3, 2, 1, 7, 6, 5, 4]  # a quadrilateral the other way round

Shares = tuple[np.ndarray, np.ndarray]  # nodes and their weights
Ends = tuple[bool, bool, bool, bool]  # of the edges x = 0, x = L, y = 0, y = W
Bonded = tuple[int, np.ndarray, np.ndarray]  # a node, and those of the face that it moves with, by their weights


class RibBricks(msgspec.Struct, frozen=True, eq=False):
    """``nodes`` : (n, 3) m, numbered after those of the panel.  ``bonded`` : what moves with the face.  ``built_in`` :
    (node of a clamped end, node of the panel's edge beside it).  ``held_up`` : nodes of ends of beads on edges that
    hold them.

    ``tips`` : nodes farthest from the face.

    Of beads, over whose width there is no sheet: ``pushed`` : the nodes that take a load there, with their shares, by
    the node of the plan; ``columns`` (c, 2) nodes over each other, and their ``places`` on the plan (c, 2).
    """

    nodes: np.ndarray
    groups: tuple[Group, ...]
    bonded: tuple[Bonded, ...]
    built_in: tuple[tuple[int, int], ...]
    held_up: tuple[int, ...]
    tips: tuple[int, ...]
    pushed: dict[int, Shares]
    columns: np.ndarray
    places: np.ndarray


def lines_of(surface: Surface, beams: Sequence[RibBeam]) -> tuple[list[float], list[float]]:
    """Lines across x and across y along which ribs want the panel's bricks to be cut, m along the surface."""
    lines: tuple[list[float], list[float]] = ([], [])
    for beam in beams:
        rib = beam.rib
        along, over = (surface.x, surface.y) if rib.along_x else (surface.y, surface.x)
        across = {0.0, *(end[0] for piece in beam.pieces for end in (piece.start, piece.end) if piece.name == "foot")}
        if rib.outline in CLOSED:
            beside = rib.width / 2.0 + (sheet_of(rib, beam.plate.stack.thickness) if rib.formed else 0.0)
            across |= {-beside, beside}
        lines[0 if rib.along_x else 1].extend((along.along(rib.low), along.along(rib.high)))
        lines[1 if rib.along_x else 0].extend(over.along(rib.place) + y for y in across)
    return lines


def under_beads(plan: Plan, surface: Surface, beams: Sequence[RibBeam]) -> np.ndarray:
    """(q,) which quadrilaterals of a plan are formed into a bead."""
    middles, found = plan.nodes[plan.quads[:, :4]].mean(axis=1), np.zeros(len(plan.quads), bool)
    for beam in beams:
        rib = beam.rib
        if rib.formed:
            along, across = (0, 1) if rib.along_x else (1, 0)
            arcs = surface.x, surface.y
            reach = rib.width / 2.0 + sheet_of(rib, beam.plate.stack.thickness)
            found |= (
                (np.abs(middles[:, across] - arcs[across].along(rib.place)) < reach)
                & (middles[:, along] > arcs[along].along(rib.low)) & (middles[:, along] < arcs[along].along(rib.high))
            )  # fmt: skip
    return found


def rib_bricks(
    lifted: Lifted, beams: Sequence[tuple[RibBeam, Piece]], parts: int, clamped: Ends, held: Ends
) -> RibBricks:  # fmt: skip
    """``beams`` : with the layers of their walls, the lowest toward the panel.  ``parts`` : bricks along each wall of a
    section.  ``clamped``, ``held`` : which edges are, and do not deflect.

    A rib follows the steps of its face, as in the program.  Raises MemberError where a step runs along a rib, and for a
    bead beside which the layers are not its own.
    """
    nodes: list[np.ndarray] = []
    groups: list[Group] = []
    bonded: list[Bonded] = []
    built_in: list[tuple[int, int]] = []
    held_up: list[int] = []
    tips: list[int] = []
    pushed: dict[int, Shares] = {}
    columns: list[np.ndarray] = [np.zeros((0, 2), int)]
    places: list[np.ndarray] = [np.zeros((0, 2))]
    first = len(lifted.nodes)
    for number, (beam, walls) in enumerate(beams, 1):
        own = _Placed(lifted, beam, walls, parts, number, first)
        first += len(own.nodes)
        nodes.append(np.reshape(own.nodes, (-1, 3)))
        groups += own.groups()
        bonded += own.bonded
        built_in += own.built_in(clamped)
        tips += own.ids[::2, int(np.argmax(own.profile.points[:, 1]))].tolist()
        if beam.rib.formed:
            held_up += own.on_edges(held)
            pushed |= own.pushed()
            columns.append(own.ids[::2, own.top])
            places.append(_on_plan(lifted, beam.rib, own.stations[::2], np.zeros((len(columns[-1]), 2)))[0])
    return RibBricks(
        np.concatenate(nodes), tuple(groups), tuple(bonded), tuple(built_in), tuple(held_up), tuple(tips), pushed,
        np.concatenate(columns), np.concatenate(places),
    )  # fmt: skip


class _Placed:
    """A rib where it stands.  ``ids`` : its nodes by station and point of its section, −1 where there is none."""

    def __init__(
        self, lifted: Lifted, beam: RibBeam, walls: Piece, parts: int, number: int, first: int
    ) -> None:  # fmt: skip
        """``number`` : of the rib, from 1; ``first`` : of its own nodes."""
        rib = beam.rib
        self._lifted, self.beam, self.walls, self.number = lifted, beam, walls, number
        self.profile = profile = profile_of(rib, walls.levels, parts)
        self.stations = _stations(lifted, rib)
        levels = _levels(lifted, rib, profile, self.stations, number)
        heights = lifted.z[levels]
        heights[1::2] = (heights[:-2:2] + heights[2::2]) / 2.0  # where it steps with its face it slopes over a brick
        sloping = np.zeros(len(levels), bool)
        sloping[1::2] = levels[:-2:2] != levels[2::2]
        used = np.ones((len(self.stations), len(profile.points)), bool)
        corners = np.zeros(len(profile.points), bool)
        corners[profile.quads[:, :4]] = True
        used[1::2, ~corners] = False
        i, j = np.nonzero(used)
        at, above = _on_plan(lifted, rib, self.stations[i], profile.points[j])
        height = above + heights[i]
        places = lifted.curving.points(at) + height[:, None] * lifted.curving.frames(at)[:, 2]
        self.ids = np.full(used.shape, -1)
        self.nodes: list[np.ndarray] = []
        self.bonded: list[Bonded] = []
        sides = np.abs(np.abs(profile.points[:, 0]) - profile.reach) < SAME
        for k, (a, b) in enumerate(zip(i, j, strict=True)):
            leaders = None
            if rib.formed and sides[b]:
                self.ids[a, b] = self._beside(at[k], height[k])
                continue
            if not rib.formed and profile.seated[b] and not sloping[a]:
                leaders = _face_below(lifted, at[k], int(levels[a]), rib.on_a)
            if leaders is not None and len(leaders[0]) == 1:
                self.ids[a, b] = leaders[0][0]
                continue
            self.ids[a, b] = first + len(self.nodes)
            self.nodes.append(places[k])
            if leaders is not None:
                self.bonded.append((int(self.ids[a, b]), *leaders))

    @property
    def top(self) -> np.ndarray:
        """(2,) the points inside and outside of the middle of a bead."""
        y, z = self.profile.points.T
        middle = np.nonzero(np.abs(y) < np.abs(y).min() + SAME)[0]
        return np.array([middle[np.argmin(z[middle])], middle[np.argmax(z[middle])]])

    def _beside(self, at: np.ndarray, height: float) -> int:
        """The node of the flat sheet beside a bead.  Raises MemberError where there is none."""
        lifted = self._lifted
        place = int(np.argmin(np.abs(lifted.plan.nodes - at).max(axis=1)))
        level = int(np.argmin(np.abs(half_steps(lifted.z) - height)))
        node = int(lifted.ids[place, level])
        off = max(float(np.abs(lifted.plan.nodes[place] - at).max()), abs(half_steps(lifted.z)[level] - height))
        if node < 0 or off > 10.0 * SAME:
            raise MemberError(f"rib {self.number} is formed into a sheet that is not the same on both sides of it: "
                              "it cannot be written as bricks")  # fmt: skip
        return node

    def groups(self) -> list[Group]:
        """Its bricks, wall by wall and layer by layer."""
        rib, walls, profile, lifted, ids = self.beam.rib, self.walls, self.profile, self._lifted, self.ids
        right = rib.along_x == rib.on_a  # whether along, across and out are turned as x, y and z
        quads = profile.quads if right else profile.quads[:, TURNED]
        weight = np.array(walls.densities)[profile.layers] @ profile.areas
        filled = rib.filling * self.beam.enclosed if rib.outline in CLOSED else 0.0
        up = 1.0 if rib.on_a else -1.0
        axes = np.array([[0.0, 1.0, 0.0], [0.0, 0.0, up]] if rib.along_x else [[1.0, 0.0, 0.0], [0.0, 0.0, up]])
        along = np.eye(3)[0 if rib.along_x else 1]
        groups = []
        keys = np.column_stack([profile.layers, (profile.along * 1e9).round()])
        for k, key in enumerate(np.unique(keys, axis=0), 1):
            own = np.nonzero((keys == key).all(axis=1))[0]
            layer = int(profile.layers[own[0]])
            ends = quads[own]
            elements = [
                bricks_between(here[ends], between[ends[:, :4]], there[ends])
                for here, between, there in zip(ids[:-2:2], ids[1::2], ids[2::2], strict=True)
            ]
            direction = profile.along[own[0]] * (1.0 if right else -1.0)
            across, frames = direction @ axes, None
            if not lifted.curving.flat:
                centres = np.tile(profile.points[profile.quads[own, :4]].mean(axis=1), (len(elements), 1))
                at, _ = _on_plan(lifted, rib, np.repeat(self.stations[1::2], len(own)), centres)
                frames = np.stack([along, across]) @ lifted.curving.frames(at)
            density = walls.densities[layer] * (1.0 + filled / weight)
            groups.append(Group(f"R{self.number}_{k}", np.concatenate(elements), (walls.layers[layer][1],), (density,),
                                along, across, frames))  # fmt: skip
        return groups

    def _on_edge(self, wanted: Ends) -> Iterator[tuple[float, np.ndarray]]:
        """Of ends on edges that are ``wanted`` the place of the edge and the nodes that are not the panel's."""
        lifted, rib = self._lifted, self.beam.rib
        axis = 0 if rib.along_x else 1
        size = float(lifted.plan.size[axis])
        for end, at in enumerate((0.0, size)):
            station = 0 if end == 0 else -1
            if wanted[2 * axis + end] and abs(at - self.stations[station]) < 1e-3 * size:
                yield at, self.ids[station][self.ids[station] >= len(lifted.nodes)]

    def built_in(self, clamped: Ends) -> Iterator[tuple[int, int]]:
        """Nodes of ends on clamped edges, with the lowest node of the edge beside them."""
        lifted, rib = self._lifted, self.beam.rib
        plan, axis = lifted.plan, 0 if rib.along_x else 1
        place = (lifted.curving.y if rib.along_x else lifted.curving.x).along(rib.place)
        for at, nodes in self._on_edge(clamped):
            off = np.abs(plan.nodes[:, axis] - at) + np.abs(plan.nodes[:, 1 - axis] - place)
            edge = int(lifted.ends[int(np.argmin(np.where(lifted.ends[:, 0] < 0, np.inf, off))), 0])
            yield from ((int(node), edge) for node in nodes)

    def on_edges(self, held: Ends) -> Iterator[int]:
        """Nodes of ends on edges that are held."""
        for _, nodes in self._on_edge(held):
            yield from nodes.tolist()

    def pushed(self) -> dict[int, Shares]:
        """Where a load on the sheet that became a bead goes, by nodes of the plan, with the same moment."""
        lifted, rib = self._lifted, self.beam.rib
        along, across = (0, 1) if rib.along_x else (1, 0)
        place = (lifted.curving.y if rib.along_x else lifted.curving.x).along(rib.place)
        y, z = self.profile.points.T
        used = np.nonzero((self.ids >= 0).all(axis=0))[0]
        line = {round(float(y[k]) / SAME): k for k in used[np.argsort(-z[used])]}  # the lowest at each place
        sites = np.array(sorted(line))
        points = np.array([line[site] for site in sites])
        plan, found = lifted.plan, {}
        inside = (np.abs(plan.nodes[:, across] - place) < self.profile.reach + SAME) & (lifted.ends[:, 0] < 0)
        for node in np.nonzero(inside)[0]:
            station = int(np.argmin(np.abs(self.stations - plan.nodes[node, along])))
            if abs(self.stations[station] - plan.nodes[node, along]) > SAME:
                continue
            at = (plan.nodes[node, across] - place) / SAME
            k = int(np.clip(np.searchsorted(sites, at), 1, len(sites) - 1))
            share = (at - sites[k - 1]) / (sites[k] - sites[k - 1])
            found[int(node)] = self.ids[station, points[k - 1 : k + 1]], np.array([1.0 - share, share])
        return found


def _stations(lifted: Lifted, rib: Rib) -> np.ndarray:
    """Where the panel's bricks are cut from one end of a rib to the other, and the middles between, m."""
    axis = 0 if rib.along_x else 1
    lines = np.unique(lifted.plan.nodes[lifted.plan.quads[:, :4].ravel(), axis])
    arc = (lifted.curving.x, lifted.curving.y)[axis]
    low, high = arc.along(rib.low), arc.along(rib.high)
    ends = [lines[int(np.argmin(np.abs(lines - end)))] for end in (low, high)]
    own = lines[(lines > ends[0] - SAME) & (lines < ends[1] + SAME)]
    return half_steps(own)


def _levels(lifted: Lifted, rib: Rib, profile: Profile, stations: np.ndarray, number: int) -> np.ndarray:
    """Which height the face of a rib is at, of a bead that beside it, at its stations; a station on a step has that of
    the bricks before it.  Raises MemberError where the face steps along the rib, or beside a bead."""
    plan = lifted.plan
    low, high = plan.nodes[plan.quads[:, 0]], plan.nodes[plan.quads[:, 2]]
    along, across = (0, 1) if rib.along_x else (1, 0)
    place = (lifted.curving.x, lifted.curving.y)[across].along(rib.place)
    reach = profile.reach + SAME if rib.formed else float(np.abs(profile.points[profile.seated, 0]).max()) - SAME
    beside = (high[:, across] > place - reach) & (low[:, across] < place + reach)
    ends, found = lifted.top if rib.on_a else lifted.bottom, np.full(len(stations), -1)
    for k in range(1, len(stations), 2):
        here = beside & (high[:, along] > stations[k] + SAME) & (low[:, along] < stations[k] - SAME)
        levels = np.unique(ends[here & (ends >= 0)])
        if len(levels) > 1:
            raise MemberError(f"rib {number} stands on a step that runs along it and cannot be written as bricks")
        if len(levels):
            found[k] = levels[0]
    known = np.nonzero(found >= 0)[0]
    if not len(known):
        raise MemberError(f"rib {number} has no face to stand on")
    # over an opening it goes on as before it, or as behind it
    before = np.maximum.accumulate(np.where(found >= 0, np.arange(len(found)), known[0]))
    found = found[before]
    if rib.formed and len(np.unique(found)) > 1:
        raise MemberError(f"rib {number} is formed into a sheet with a step and cannot be written as bricks")
    return found


def _on_plan(
    lifted: Lifted, rib: Rib, along: np.ndarray, points: np.ndarray
) -> tuple[np.ndarray, np.ndarray]:  # fmt: skip
    """Places (n, 2) on the panel's plan, and heights over the face that a rib is bonded to toward face A."""
    across = (lifted.curving.y if rib.along_x else lifted.curving.x).along(rib.place) + points[:, 0]
    at = np.column_stack([along, across] if rib.along_x else [across, along])
    return at, points[:, 1] * (1.0 if rib.on_a else -1.0)


def _face_below(lifted: Lifted, at: np.ndarray, level: int, on_a: bool) -> tuple[np.ndarray, np.ndarray] | None:
    """Nodes of the face at a place with their weights; None beside the panel and over openings."""
    plan = lifted.plan
    low, high = plan.nodes[plan.quads[:, 0]], plan.nodes[plan.quads[:, 2]]
    ends = lifted.top if on_a else lifted.bottom
    inside = (at > low - SAME).all(axis=1) & (at < high + SAME).all(axis=1) & (ends == level)
    if not inside.any():
        return None
    quad = int(np.argmax(inside))
    local = 2.0 * (at - low[quad]) / (high[quad] - low[quad]) - 1.0
    near = np.abs(plan.nodes[plan.quads[quad]] - at).max(axis=1) < SAME
    weights = near.astype(float) if near.any() else quadratic(local[None])[0]
    kept = np.abs(weights) > SMALL
    return lifted.ids[plan.quads[quad][kept], 2 * level], weights[kept]


def hold_ribs(own: Supports, ribs: RibBricks, pulled: bool) -> None:
    """Bonds ribs to their faces, and holds what is built in at clamped edges; ``pulled`` : these may move then, but do
    not turn."""
    for node, edge in ribs.built_in:
        for axis in np.eye(3):
            if pulled and axis[2] == 0.0:
                own.tie(np.array([node, edge]), np.stack([axis, -axis]))
            else:
                own.hold([node], axis)
    if ribs.held_up:
        own.hold(ribs.held_up, np.eye(3)[2])
    for node, leaders, weights in ribs.bonded:
        for axis in np.eye(3):
            own.tie(np.array([node, *leaders]), np.concatenate([[1.0], -weights])[:, None] * axis)
