"""A flat rectangular panel as layered bricks: plies and cores are solids, so nothing is assumed about the section."""

from __future__ import annotations

import numpy as np

from omakase.core.errors import MemberError
from omakase.core.laminate.stack import Layer, Stack
from omakase.core.laminate.stiffness import layer_stiffness
from omakase.core.members.panel_given import LoadCase, Panel
from omakase.core.mesh.mesh import Group, Loading, Mesh, over_rectangle
from omakase.core.plates.grid import Edge
from omakase.core.plates.loads import STANDARD_GRAVITY, EdgeLoad

CORE_PARTS = 2  # bricks through the thickness of a core
X, Y, _ = np.eye(3)


def panel_bricks(
    panel: Panel, stack: Stack, cases: tuple[LoadCase, ...], along: int, large: frozenset[str] = frozenset()
) -> Mesh:  # fmt: skip
    """``along`` bricks along the longer side, as many across as keep them square.  ``large`` : keys of the load cases
    whose deflection is large.

    Raises MemberError for what is not flat, even and rectangular, and for supports other than its edges.
    """
    if panel.outline != "rectangle" or panel.curved or panel.held.anything:
        raise MemberError("only flat rectangular panels that are held at their edges can be written as bricks")
    longest = max(panel.length, panel.width)
    nx, ny = (max(4, round(along * side / longest)) for side in (panel.length, panel.width))
    levels, layers = _levels(stack)
    ids, nodes = _grid(panel, nx, ny, levels)
    groups, densities = [], stack.layer_densities()
    for k, (number, layer) in enumerate(layers):
        a, b, c = (2 * part.ravel() for part in np.meshgrid(np.arange(nx), np.arange(ny), [k], indexing="ij"))
        groups.append(
            Group(f"L{number + 1}_{k + 1}", _brick_nodes(ids, a, b, c), (layer,), (float(densities[number]),), X, Y)
        )
    pulled = any(case.edge is not None for case in cases)
    held = _held(panel, ids, nodes, tied=pulled)
    ties = _not_turning(panel, ids) if pulled else ()
    loose = _held(panel, ids, nodes, loose=True) if pulled else None
    stiffness = (levels, np.array([layer_stiffness(layer) for _, layer in layers]))
    loadings = tuple(_loading(panel, case, ids, nodes, (nx, ny), stiffness, case.key in large) for case in cases)
    bottom, top = ids[:, :, 0], ids[:, :, -1]
    both = (bottom >= 0) & (top >= 0)
    columns = np.stack([bottom[both], top[both]], axis=1)
    lowest, highest = np.arange(nx * ny), np.arange(nx * ny * (len(groups) - 1), nx * ny * len(groups))
    watched = np.concatenate([lowest, highest])
    return Mesh("brick", nodes, tuple(groups), held, loadings, columns, nodes[columns[:, 0], :2], True, watched,
                ties, loose)  # fmt: skip


def _levels(stack: Stack) -> tuple[np.ndarray, list[tuple[int, Layer]]]:
    """Heights between bricks from the lowest up, and (number, layer) of each: like plies that lie on each other are
    one brick, a core several."""
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
    return np.array(levels), layers


def _grid(panel: Panel, nx: int, ny: int, levels: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Numbers of the nodes at every half step, −1 where no brick has one, and the nodes."""
    shape = 2 * nx + 1, 2 * ny + 1, 2 * len(levels) - 1
    odd = sum((index % 2 for index in np.indices(shape)), np.zeros(shape, int))
    ids = np.full(shape, -1)
    ids[odd <= 1] = np.arange(int((odd <= 1).sum()))
    x, y = np.linspace(0.0, panel.length, shape[0]), np.linspace(0.0, panel.width, shape[1])
    z = np.interp(np.arange(shape[2]) / 2.0, np.arange(len(levels)), levels)
    grid = np.stack(np.meshgrid(x, y, z, indexing="ij"), axis=-1)
    return ids, grid[odd <= 1]


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


def _not_turning(panel: Panel, ids: np.ndarray) -> tuple[tuple[np.ndarray, int, np.ndarray], ...]:
    """Nodes over each other on an edge move alike along it, and across it where it is clamped: (upper, lowest)."""
    found: dict[tuple[int, int], np.ndarray] = {}
    for edge, side, tangential in _sides(panel, ids):
        axes = {"simple": (tangential,), "clamped": (0, 1)}.get(edge, ())
        for column in side:
            lowest, *upper = column[column >= 0]
            for axis in axes:
                found |= {(int(node), axis): np.array([node, lowest]) for node in upper}
    return tuple((pair, axis, np.array([1.0, -1.0])) for (_, axis), pair in found.items())


def _held(panel: Panel, ids: np.ndarray, nodes: np.ndarray, tied: bool = False, loose: bool = False) -> np.ndarray:
    """Simple: w and the movement along the edge, through the whole thickness; clamped: everything; resting: w.

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
    spread = {"ends": (0,), "sides": (1,), "all": (0, 1)}.get(panel.in_plane, ())
    for axis in () if loose else spread:
        for own_edge, side, tangential in _sides(panel, ids):
            if tangential != axis and not (tied and own_edge == "clamped"):
                held[side[side >= 0], axis] = True
    _keep_from_sliding(held, nodes)
    return held


def _keep_from_sliding(held: np.ndarray, nodes: np.ndarray) -> None:
    """Holds the node nearest to the middle, and one beside it, where nothing else keeps the panel in its plane."""
    middle = (nodes.max(axis=0) + nodes.min(axis=0)) / 2.0
    nearest = int(np.argmin(np.abs(nodes - middle).sum(axis=1)))
    for axis in (0, 1):
        if not held[:, axis].any():
            held[nearest, axis] = True
    if held[:, 0].sum() + held[:, 1].sum() == 2:
        beside = np.argmin(np.abs(nodes - middle - np.array([nodes[:, 0].max() / 4.0, 0.0, 0.0])).sum(axis=1))
        held[int(beside), 1] = True


def _loading(
    panel: Panel, case: LoadCase, ids: np.ndarray, nodes: np.ndarray, bricks: tuple[int, int],
    stiffness: tuple[np.ndarray, np.ndarray], large: bool,
) -> Loading:  # fmt: skip
    forces = np.zeros((len(nodes), 3))
    everywhere = (0.0, panel.length, 0.0, panel.width)
    for pressure in case.pressures:
        _press(panel, forces, ids[:, :, -1 if pressure > 0.0 else 0], *bricks, everywhere, pressure)
    for patch in case.patches:
        _press(panel, forces, ids[:, :, -1 if patch.force > 0.0 else 0], *bricks, patch.bounds, patch.pressure)
    if case.edge is not None:
        _pull(panel, forces, ids, nodes, case.edge, stiffness)
    return Loading(case.name, case.key, forces, case.gravity * STANDARD_GRAVITY, large, case.edge is not None)


def _press(
    panel: Panel, forces: np.ndarray, face: np.ndarray, nx: int, ny: int,
    bounds: tuple[float, float, float, float], pressure: float,
) -> None:  # fmt: skip
    dx, dy = panel.length / nx, panel.width / ny
    for i in range(max(0, int(bounds[0] / dx)), min(nx, int(np.ceil(bounds[1] / dx)))):
        for j in range(max(0, int(bounds[2] / dy)), min(ny, int(np.ceil(bounds[3] / dy)))):
            share = over_rectangle((i * dx, j * dy), ((i + 1) * dx, (j + 1) * dy), bounds)
            corner = [face[2 * i + a, 2 * j + b] for a, b, c in OFFSETS[:4]]
            middle = [face[2 * i + a, 2 * j + b] for a, b, c in OFFSETS[8:12]]
            forces[[*corner, *middle], 2] -= pressure * share


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
