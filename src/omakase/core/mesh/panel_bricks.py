"""A flat rectangular panel as layered bricks: plies and cores are solids, so nothing is assumed about the section.

Of a panel with zones each has the bricks of its own layers, and neighbours share the nodes where they touch, so that a
doubler lies on the face.  Where a core ends at a zone without one, the faces of the sandwich follow the solid laminate,
as a face does that comes down to it at a slope."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec
import numpy as np

from omakase.core.errors import MemberError
from omakase.core.laminate.stack import Layer, Stack
from omakase.core.laminate.stiffness import layer_stiffness
from omakase.core.members.panel_given import LoadCase, Panel
from omakase.core.members.panel_patchwork import Patchwork
from omakase.core.mesh.mesh import Group, Loading, Mesh, over_rectangle
from omakase.core.plates.grid import Edge
from omakase.core.plates.loads import STANDARD_GRAVITY, EdgeLoad

Tie = tuple[np.ndarray, int, np.ndarray]  # nodes, axis, weights of displacements whose sum is zero
CORE_PARTS = 2  # bricks through the thickness of a core
SAME = 1e-7  # m; heights closer than this are one
X, Y, _ = np.eye(3)


class Piece(msgspec.Struct, frozen=True, eq=False):
    """One stack of a panel: heights between its layers from the lowest up, and (number, layer) between them."""

    levels: np.ndarray
    layers: tuple[tuple[int, Layer], ...]
    densities: tuple[float, ...]

    def layer_at(self, z: float) -> int | None:
        """Which of its layers lies at a height; None above and below them."""
        k = int(np.searchsorted(self.levels, z)) - 1
        return k if 0 <= k < len(self.layers) else None


class Lines(msgspec.Struct, frozen=True, eq=False):
    """Where a panel is cut into bricks: ``x``, ``y``, ``z`` in m, and (bricks along x, along y, through the thickness)
    whether one is there."""

    x: np.ndarray
    y: np.ndarray
    z: np.ndarray
    there: np.ndarray

    @property
    def top(self) -> np.ndarray:
        """The level on which each column of bricks ends, −1 of an opening."""
        return np.where(self.there.any(axis=2), self.there.shape[2] - self.there[:, :, ::-1].argmax(axis=2), -1)

    @property
    def bottom(self) -> np.ndarray:
        """The level on which each column of bricks begins, −1 of an opening."""
        return np.where(self.there.any(axis=2), self.there.argmax(axis=2), -1)


def panel_bricks(
    panel: Panel, stack: Stack, cases: tuple[LoadCase, ...], along: int, large: frozenset[str] = frozenset(),
    patches: Patchwork | None = None, heights: Sequence[float] = (),
) -> Mesh:  # fmt: skip
    """``along`` bricks along the longer side, as many across as keep them square.  ``large`` : keys of the load cases
    whose deflection is large.  ``patches`` : the stacks of a panel with zones or openings, whose middles lie
    ``heights`` m above the plane of reference.

    Raises MemberError for what is not flat and rectangular, and for supports other than edges and lines.
    """
    held = panel.held
    if panel.outline != "rectangle" or panel.curved or held.bolts or any(held.springs) or held.bed:
        raise MemberError("only flat rectangular panels held at edges and along lines can be written as bricks")
    pulled = any(case.edge is not None for case in cases)
    if pulled and patches is not None:
        raise MemberError("a panel with zones or openings and forces along its edges cannot be written as bricks")
    stacks = (stack,) if patches is None else patches.stacks
    pieces = [_piece(own, height) for own, height in zip(stacks, heights or (0.0,) * len(stacks), strict=True)]
    lines, which = _lines(panel, pieces, patches, along)
    ids, nodes, groups, numbers = _elements(lines, which, pieces)
    kept = _held(panel, lines, ids, nodes, tied=pulled)
    turning = list(_not_turning(panel, ids) if pulled else _ended_cores(lines, which, pieces, ids, nodes, kept))
    tied = frozenset((int(own[0]), axis) for own, axis, _ in turning)
    spreading = _not_spreading(panel, ids, nodes, kept, tied)
    _keep_from_sliding(kept, nodes, frozenset(axis for _, axis, _ in spreading))
    loose = None
    if pulled:
        loose = _held(panel, lines, ids, nodes, loose=True)
        _keep_from_sliding(loose, nodes, frozenset())
        nodes, kept, loose, spreading = _released(nodes, kept, loose, spreading)
    ties = (*turning, *spreading)
    stiffness = (pieces[0].levels, np.array([layer_stiffness(layer) for _, layer in pieces[0].layers]))
    loadings = tuple(_loading(panel, case, ids, nodes, lines, stiffness, case.key in large) for case in cases)
    columns = _columns(ids)
    outer = np.nonzero(which == (patches.base if patches is not None else 0))
    watched = np.concatenate([numbers[(*outer, own[outer])] for own in (lines.bottom, lines.top - 1)])
    return Mesh("brick", nodes, tuple(groups), kept, loadings, columns, nodes[columns[:, 0], :2], True, watched,
                ties, loose)  # fmt: skip


def _piece(stack: Stack, height: float) -> Piece:
    """Like plies that lie on each other are one brick, a core is several."""
    levels: list[float] = [float(stack.z_bottom[-1])]
    layers: list[tuple[int, Layer]] = []
    for number in range(len(stack.layers) - 1, -1, -1):
        layer, top = stack.layers[number], float(stack.z_top[number])
        if not layer.structural:
            raise MemberError("a layer that is not counted on cannot be written as a solid: leave it out first")
        before = layers[-1][1] if layers else None
        if (
            layer.role == "ply"
            and before is not None
            and before.material is layer.material
            and (before.angle == layer.angle and before.role == "ply")
        ):
            levels[-1] = top
            continue
        parts = CORE_PARTS if layer.role == "core" else 1
        low = levels[-1]
        for part in range(1, parts + 1):
            levels.append(low + (top - low) * part / parts)
            layers.append((number, layer))
    densities = stack.layer_densities()
    return Piece(np.array(levels) + height, tuple(layers), tuple(float(densities[number]) for number, _ in layers))


def _lines(
    panel: Panel, pieces: Sequence[Piece], patches: Patchwork | None, along: int
) -> tuple[Lines, np.ndarray]:  # fmt: skip
    """The lines of the bricks, and which piece each column of them is of, −1 of an opening.

    Heights are those of all pieces, so that neighbours meet at their nodes; ones closer than ``SAME`` are one.
    """
    longest = max(panel.length, panel.width) / along
    sides = []
    for size, zones, held in (
        (panel.length, None if patches is None else patches.x, panel.held.across),
        (panel.width, None if patches is None else patches.y, panel.held.along),
    ):
        fixed = np.unique(np.concatenate([[0.0, size], [] if zones is None else zones, held]))
        least = 4 if len(fixed) == 2 else 1
        cells = [max(least, round(step / longest)) for step in np.diff(fixed)]
        parts = [np.linspace(a, b, n + 1)[:-1] for a, b, n in zip(fixed[:-1], fixed[1:], cells, strict=True)]
        sides.append(np.concatenate([*parts, [size]]))
    x, y = sides
    every = np.sort(np.concatenate([piece.levels for piece in pieces]))
    z = every[np.concatenate([[True], np.diff(every) > SAME])]
    which = np.zeros((len(x) - 1, len(y) - 1), int)
    if patches is not None:
        i = np.clip(np.searchsorted(patches.x, (x[1:] + x[:-1]) / 2.0) - 1, 0, len(patches.x) - 2)
        j = np.clip(np.searchsorted(patches.y, (y[1:] + y[:-1]) / 2.0) - 1, 0, len(patches.y) - 2)
        which = np.where(patches.which == len(pieces), -1, patches.which)[np.ix_(i, j)]
    middles = (z[1:] + z[:-1]) / 2.0
    filled = [[piece.layer_at(own) is not None for own in middles] for piece in pieces]
    return Lines(x, y, z, np.array([*filled, [False] * len(middles)])[which]), which


def _elements(
    lines: Lines, which: np.ndarray, pieces: Sequence[Piece]
) -> tuple[np.ndarray, np.ndarray, list[Group], np.ndarray]:  # fmt: skip
    """(numbers of the nodes at every half step, −1 where no brick has one; the nodes; the bricks by level and layer;
    their numbers, counted through the groups, by place)."""
    shape = tuple(2 * size + 1 for size in lines.there.shape)
    used = np.zeros(shape, bool)
    a, b, c = (2 * part for part in np.nonzero(lines.there))
    for i, j, k in OFFSETS:
        used[a + i, b + j, c + k] = True
    ids = np.full(shape, -1)
    ids[used] = np.arange(int(used.sum()))
    half = [
        np.interp(np.arange(n) / 2.0, np.arange(len(own)), own)
        for n, own in zip(shape, (lines.x, lines.y, lines.z), strict=True)
    ]
    nodes = np.stack(np.meshgrid(*half, indexing="ij"), axis=-1)[used]
    groups: list[Group] = []
    numbers = np.full(lines.there.shape, -1)
    for k, z in enumerate((lines.z[1:] + lines.z[:-1]) / 2.0):
        alike: dict[tuple[object, ...], tuple[Layer, float, list[int]]] = {}
        for number, piece in enumerate(pieces):
            at = piece.layer_at(float(z))
            if at is not None:
                layer, density = piece.layers[at][1], piece.densities[at]
                key = id(layer.material), layer.angle, layer.role, density
                alike.setdefault(key, (layer, density, []))[2].append(number)
        for layer, density, alike_pieces in alike.values():
            at_x, at_y = np.nonzero(np.isin(which, alike_pieces))
            if len(at_x):
                numbers[at_x, at_y, k] = numbers.max() + 1 + np.arange(len(at_x))
                own = _brick_nodes(ids, 2 * at_x, 2 * at_y, np.full(len(at_x), 2 * k))
                groups.append(Group(f"L{k + 1}_{len(groups) + 1}", own, (layer,), (density,), X, Y))
    return ids, nodes, groups, numbers


def _ended_cores(
    lines: Lines, which: np.ndarray, pieces: Sequence[Piece], ids: np.ndarray, nodes: np.ndarray, held: np.ndarray
) -> tuple[Tie, ...]:  # fmt: skip
    """Nodes of a sandwich above and below a zone without core that it borders on: they move with the section of the
    solid laminate, which stays plane."""
    cored = np.array([any(layer.role == "core" for _, layer in piece.layers) for piece in pieces] + [False])
    has_core, solid = cored[which], (which >= 0) & ~cored[which]
    ties: list[Tie] = []
    for p, q in np.ndindex(ids.shape[:2]):
        beside = slice(max((p - 1) // 2, 0), p // 2 + 1), slice(max((q - 1) // 2, 0), q // 2 + 1)
        if not (has_core[beside].any() and solid[beside].any()):
            continue
        low, high = lines.bottom[beside][solid[beside]].min(), lines.top[beside][solid[beside]].max()
        bottom, top = ids[p, q, 2 * low], ids[p, q, 2 * high]
        for level in (*range(2 * low), *range(2 * high + 1, ids.shape[2])):
            node = ids[p, q, level]
            if node < 0 or bottom < 0 or top < 0:
                continue
            beyond = float((nodes[node, 2] - nodes[top, 2]) / (nodes[top, 2] - nodes[bottom, 2]))
            three = np.array([node, top, bottom])
            ties += [(three, axis, np.array([1.0, -1.0 - beyond, beyond])) for axis in (0, 1) if not held[node, axis]]
            if not held[node, 2]:
                ties.append((np.array([node, top]), 2, np.array([1.0, -1.0])))
    return tuple(ties)


def _columns(ids: np.ndarray) -> np.ndarray:
    """The lowest and the highest node of each place that has nodes over each other, (places, 2)."""
    flat = ids.reshape(-1, ids.shape[2])
    flat = flat[(flat >= 0).sum(axis=1) > 1]
    lowest = (flat >= 0).argmax(axis=1)
    highest = flat.shape[1] - 1 - (flat[:, ::-1] >= 0).argmax(axis=1)
    rows = np.arange(len(flat))
    return np.stack([flat[rows, lowest], flat[rows, highest]], axis=1)


OFFSETS = (
    (0, 0, 0), (2, 0, 0), (2, 2, 0), (0, 2, 0), (0, 0, 2), (2, 0, 2), (2, 2, 2), (0, 2, 2),
    (1, 0, 0), (2, 1, 0), (1, 2, 0), (0, 1, 0), (1, 0, 2), (2, 1, 2), (1, 2, 2), (0, 1, 2),
    (0, 0, 1), (2, 0, 1), (2, 2, 1), (0, 2, 1),
)  # fmt: skip


def _brick_nodes(ids: np.ndarray, a: np.ndarray, b: np.ndarray, c: np.ndarray) -> np.ndarray:
    return np.stack([ids[a + i, b + j, c + k] for i, j, k in OFFSETS], axis=1)


def _sides(panel: Panel, ids: np.ndarray) -> tuple[tuple[Edge, np.ndarray, int], ...]:
    """How each edge is held, its nodes (along, through the thickness), and the direction along it."""
    edges = panel.edges
    return ((edges.x0, ids[0], 1), (edges.x1, ids[-1], 1), (edges.y0, ids[:, 0], 0), (edges.y1, ids[:, -1], 0))


def _not_turning(panel: Panel, ids: np.ndarray) -> tuple[Tie, ...]:
    """Nodes over each other on an edge move alike along it, and across it where it is clamped: (upper, lowest)."""
    found: dict[tuple[int, int], np.ndarray] = {}
    for edge, side, tangential in _sides(panel, ids):
        axes = {"simple": (tangential,), "clamped": (0, 1)}.get(edge, ())
        for column in side:
            lowest, *upper = column[column >= 0]  # a panel that is pulled has no openings
            for axis in axes:
                found |= {(int(node), axis): np.array([node, lowest]) for node in upper}
    return tuple((pair, axis, np.array([1.0, -1.0])) for (_, axis), pair in found.items())


def _held(
    panel: Panel, lines: Lines, ids: np.ndarray, nodes: np.ndarray, tied: bool = False, loose: bool = False
) -> np.ndarray:  # fmt: skip
    """Simple: w and the movement along the edge, through the whole thickness; clamped: everything; resting, and lines
    of support: w.

    ``tied`` : ``_not_turning`` says the rest of what the lowest node does.  ``loose`` : w only.
    """
    held = np.zeros((len(nodes), 3), bool)
    for edge, side, tangential in _sides(panel, ids):
        own = side[side >= 0]
        if edge != "free":
            held[own, 2] = True
        if loose:
            continue
        kept = side[:, 0][side[:, 0] >= 0] if tied else own
        if edge in ("simple", "clamped"):
            held[kept, tangential] = True
        if edge == "clamped":
            held[kept, 1 - tangential] = True
    for axis, places in enumerate((panel.held.across, panel.held.along)):
        for place in places:
            at = 2 * int(np.argmin(np.abs((lines.x, lines.y)[axis] - place)))
            line = ids[at] if axis == 0 else ids[:, at]
            held[line[line >= 0], 2] = True
    return held


def _not_spreading(
    panel: Panel, ids: np.ndarray, nodes: np.ndarray, held: np.ndarray, tied: frozenset[tuple[int, int]]
) -> list[Tie]:
    """Holds the middle plane of supported edges that cannot spread, so that they turn freely: what the lowest and the
    highest node give there, since a soft core alone holds nothing.  ``tied`` : (node, axis) of nodes that move with the
    lowest of their place."""
    ties: list[Tie] = []
    spread = {"ends": (0,), "sides": (1,), "all": (0, 1)}.get(panel.in_plane, ())
    sides = [(axis, side) for axis in spread for edge, side, tangential in _sides(panel, ids)
             if tangential != axis and edge not in ("free", "clamped")]  # fmt: skip
    for axis, side in sides:
        for place in side:
            column = place[place >= 0]
            if not len(column) or held[column, axis].all():
                continue
            low, high = nodes[column[[0, -1]], 2]
            if any((int(node), axis) in tied for node in column):
                held[column[0], axis] = True
            elif not low < 0.0 < high:
                held[column[int(np.argmin(np.abs(nodes[column, 2])))], axis] = True
            else:
                ties.append((column[[0, -1]], axis, np.array([high, -low]) / (high - low)))
    return ties


def _released(
    nodes: np.ndarray, kept: np.ndarray, loose: np.ndarray, ties: Sequence[Tie]
) -> tuple[np.ndarray, np.ndarray, np.ndarray, list[Tie]]:  # fmt: skip
    """Sums of displacements that are zero only where supports are not ``loose``: each is the movement of a node of its
    own, which no brick has, and which is held where the supports are."""
    more = np.array([nodes[own[0]] for own, _, _ in ties]).reshape(-1, 3)
    held = np.zeros((len(ties), 3), bool)
    held[np.arange(len(ties)), [axis for _, axis, _ in ties]] = True
    new = [
        (np.array([*own, len(nodes) + n]), axis, np.array([*weights, -1.0]))
        for n, (own, axis, weights) in enumerate(ties)
    ]
    # what it does not stand for is held everywhere: nothing else would
    idle = ~held
    return (
        np.concatenate([nodes, more]), np.concatenate([kept, np.ones_like(held)]), np.concatenate([loose, idle]), new,
    )  # fmt: skip


def _keep_from_sliding(held: np.ndarray, nodes: np.ndarray, summed: frozenset[int]) -> None:
    """Holds the node nearest to the middle, and one beside it, where nothing else keeps the panel in its plane.
    ``summed`` : axes along which a sum of displacements does."""
    middle = (nodes.max(axis=0) + nodes.min(axis=0)) / 2.0
    nearest = int(np.argmin(np.abs(nodes - middle).sum(axis=1)))
    for axis in (0, 1):
        if not held[:, axis].any() and axis not in summed:
            held[nearest, axis] = True
    if held[:, 0].sum() + held[:, 1].sum() == 2 and not summed:
        beside = np.argmin(np.abs(nodes - middle - np.array([nodes[:, 0].max() / 4.0, 0.0, 0.0])).sum(axis=1))
        held[int(beside), 1] = True


def _loading(
    panel: Panel, case: LoadCase, ids: np.ndarray, nodes: np.ndarray, lines: Lines,
    stiffness: tuple[np.ndarray, np.ndarray], large: bool,
) -> Loading:  # fmt: skip
    forces = np.zeros((len(nodes), 3))
    everywhere = (0.0, panel.length, 0.0, panel.width)
    for pressure in case.pressures:
        _press(forces, ids, lines, everywhere, pressure)
    for patch in case.patches:
        _press(forces, ids, lines, patch.bounds, patch.pressure)
    if case.edge is not None:
        _pull(panel, forces, ids, nodes, case.edge, stiffness)
    return Loading(case.name, case.key, forces, case.gravity * STANDARD_GRAVITY, large, case.edge is not None)


def _press(
    forces: np.ndarray, ids: np.ndarray, lines: Lines, bounds: tuple[float, float, float, float], pressure: float
) -> None:  # fmt: skip
    """A pressure on the face that it pushes at; an opening takes none."""
    x, y = lines.x, lines.y
    levels = lines.top if pressure > 0.0 else lines.bottom
    for i in np.nonzero((x[1:] > bounds[0]) & (x[:-1] < bounds[1]))[0]:
        for j in np.nonzero((y[1:] > bounds[2]) & (y[:-1] < bounds[3]))[0]:
            if levels[i, j] < 0:
                continue
            share = over_rectangle((x[i], y[j]), (x[i + 1], y[j + 1]), bounds)
            face = [ids[2 * i + a, 2 * j + b, 2 * levels[i, j]] for a, b, _ in (*OFFSETS[:4], *OFFSETS[8:12])]
            forces[face, 2] -= pressure * share


def _pull(
    panel: Panel, forces: np.ndarray, ids: np.ndarray, nodes: np.ndarray, edge: EdgeLoad,
    stiffness: tuple[np.ndarray, np.ndarray],
) -> None:  # fmt: skip
    """Forces in the middle plane along the edges: through the thickness as an even strain with a turn gives them, so
    that they have no moment about that plane; even ones along an edge, or straight from one corner to the other."""
    sides = ((ids[0], 0, -1.0, edge.Nx), (ids[-1], 0, 1.0, edge.Nx), (ids[:, 0], 1, -1.0, edge.Ny),
             (ids[:, -1], 1, 1.0, edge.Ny))  # fmt: skip
    levels, Q = stiffness
    for side, axis, sign, pull in sides:
        run = 1 - axis
        length = panel.width if axis == 0 else panel.length
        per_level = _tractions(levels, Q[:, axis, axis])
        for a in range(0, side.shape[0] - 2, 2):
            for c in range(0, side.shape[1] - 2, 2):
                own = [side[a + i, c + k] for i, k in ((0, 0), (2, 0), (2, 2), (0, 2), (1, 0), (2, 1), (1, 2), (0, 1))]
                low, high = nodes[own[0], [run, 2]].tolist(), nodes[own[2], [run, 2]].tolist()
                share = over_rectangle(low, high, (low[0], high[0], low[1], high[1]))
                at = nodes[own, run] / length
                even, turn = per_level[c // 2]
                forces[own, axis] += sign * share * (even + turn * nodes[own, 2]) * (pull[0] + (pull[1] - pull[0]) * at)
                forces[own, run] += sign * share / (levels[-1] - levels[0]) * edge.Nxy


def _tractions(levels: np.ndarray, Q: np.ndarray) -> np.ndarray:
    """Q (a + b z) between levels whose sum is 1 and whose moment about z = 0 is none: (bricks, 2) Q a and Q b."""
    sums = [float((Q * (levels[1:] ** power - levels[:-1] ** power)).sum()) / power for power in (1, 2, 3)]
    a, b = np.linalg.solve(np.array([[sums[0], sums[1]], [sums[1], sums[2]]]), np.array([1.0, 0.0]))
    return np.stack([Q * a, Q * b], axis=1)
