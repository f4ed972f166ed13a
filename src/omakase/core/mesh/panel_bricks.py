"""A panel as layered bricks: plies and cores are solids, so nothing is assumed about the section.

Of a panel with zones each has the bricks of its own layers, and neighbours share the nodes where they touch, so that a
doubler lies on the face.  Where a core ends at a zone without one, the faces of the sandwich follow the solid laminate,
as a face does that comes down to it at a slope."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import msgspec
import numpy as np

from omakase.core.laminate.stack import Layer, Stack
from omakase.core.laminate.stiffness import layer_stiffness
from omakase.core.members.panel_given import LoadCase, Panel
from omakase.core.members.panel_patchwork import Patchwork
from omakase.core.members.panel_ribs import RibBeam
from omakase.core.mesh.curving import curving_of
from omakase.core.mesh.lifted import Lifted, lifted_nodes
from omakase.core.mesh.mesh import Group, Mesh, bricks_between
from omakase.core.mesh.panel_loads import loading
from omakase.core.mesh.panel_plan import plan_of
from omakase.core.mesh.panel_supports import Follower, supports_of
from omakase.core.mesh.piece import Piece, levels_of, piece_of
from omakase.core.mesh.rib_bricks import RibBricks, lines_of, rib_bricks, under_beads

WALL_PARTS = 8  # bricks along the panel for one along each wall of a rib's section
X, Y, _ = np.eye(3)


def panel_bricks(
    panel: Panel, stack: Stack, cases: tuple[LoadCase, ...], along: int, large: frozenset[str] = frozenset(),
    patches: Patchwork | None = None, heights: Sequence[float] = (), ribs: Sequence[RibBeam] = (),
) -> Mesh:  # fmt: skip
    """``along`` bricks along the longer side, as many across as keep them square.  ``large`` : keys of the load cases
    whose deflection is large.  ``patches`` : the stacks of a panel with zones or openings, whose middles lie
    ``heights`` m above the plane of reference.  ``ribs`` : bonded to its faces.

    Raises MemberError for layers that are not counted on, and for ribs on a step.
    """
    pulled = any(case.edge is not None for case in cases)
    stacks = (stack,) if patches is None else patches.stacks
    pieces = [piece_of(own, height) for own, height in zip(stacks, heights or (0.0,) * len(stacks), strict=True)]
    z = levels_of(pieces)
    filled = [[piece.layer_at(own) is not None for own in (z[1:] + z[:-1]) / 2.0] for piece in pieces]
    plan = plan_of(panel, patches, along, lines_of(panel.surface, ribs))
    plan = msgspec.structs.replace(plan, which=np.where(under_beads(plan, panel.surface, ribs), -1, plan.which))
    there = np.array([*filled, [False] * (len(z) - 1)])[plan.which]
    lifted = lifted_nodes(plan, curving_of(panel), z, there)
    groups, numbers = _groups(lifted, pieces)
    ends = list(_ended_cores(lifted, pieces))
    bonded = _ribs(panel, lifted, ribs, max(1, round(along / WALL_PARTS))) if ribs else None
    if bonded is not None:
        groups += bonded.groups
    supports = supports_of(panel, lifted, pulled, any(case.key in large for case in cases), ends, bonded)
    found = supports.resolved()
    stiffness = np.array([_stiffness(piece, z) for piece in pieces])
    pushed = {} if bonded is None else bonded.pushed
    loadings = tuple(loading(case, lifted, len(found.nodes), stiffness, case.key in large, pushed) for case in cases)
    kept = lifted.ends[:, 0] < lifted.ends[:, 1]
    columns, places, normals = lifted.ends[kept], plan.nodes[kept], lifted.frames[kept, 2]
    if bonded is not None:
        columns, places = np.concatenate([columns, bonded.columns]), np.concatenate([places, bonded.places])
        normals = np.concatenate([normals, lifted.curving.frames(bonded.places)[:, 2]])
    outer = np.nonzero(plan.which == (patches.base if patches is not None else 0))[0]
    watched = np.concatenate([numbers[outer, own[outer]] for own in (lifted.bottom, lifted.top - 1)])
    return Mesh(
        found.nodes, tuple(groups), found.held, loadings, columns, places, True, watched,
        found.sums, found.loose if pulled else None, normals, found.springs,
        () if bonded is None else bonded.tips,
    )  # fmt: skip


def _stiffness(piece: Piece, z: np.ndarray) -> np.ndarray:
    """Of its layers between heights, (levels less one, 3, 3), 0 above and below it."""
    layers = [piece.layer_at(own) for own in (z[1:] + z[:-1]) / 2.0]
    none = np.zeros((3, 3))
    return np.array([none if at is None else layer_stiffness(piece.layers[at][1]) for at in layers])


def _ribs(panel: Panel, lifted: Lifted, beams: Sequence[RibBeam], parts: int) -> RibBricks:
    """``parts`` : bricks along each wall of a section."""
    edges = panel.edges
    x0, x1, y0, y1 = edges.x0, edges.x1, edges.y0, edges.y1
    clamped = x0 == "clamped", x1 == "clamped", y0 == "clamped", y1 == "clamped"
    held = x0 != "free", x1 != "free", y0 != "free", y1 != "free"
    walls = [(beam, piece_of(beam.plate.stack, 0.0)) for beam in beams]
    return rib_bricks(lifted, walls, parts, clamped, held)


def _groups(lifted: Lifted, pieces: Sequence[Piece]) -> tuple[list[Group], np.ndarray]:
    """The bricks by level and layer, and their numbers, counted through the groups, by quadrilateral and level."""
    plan, ids = lifted.plan, lifted.ids
    groups: list[Group] = []
    numbers = np.full(lifted.there.shape, -1)
    frames = None
    if not lifted.curving.flat:
        frames = lifted.curving.frames(plan.nodes[plan.quads[:, :4]].mean(axis=1))[:, :2]
    for k, z in enumerate((lifted.z[1:] + lifted.z[:-1]) / 2.0):
        alike: dict[tuple[object, ...], tuple[Layer, float, list[int]]] = {}
        for number, piece in enumerate(pieces):
            at = piece.layer_at(float(z))
            if at is not None:
                layer, density = piece.layers[at][1], piece.densities[at]
                key = id(layer.material), layer.angle, layer.role, density
                alike.setdefault(key, (layer, density, []))[2].append(number)
        for layer, density, alike_pieces in alike.values():
            at_quads = np.nonzero(np.isin(plan.which, alike_pieces))[0]
            if len(at_quads):
                numbers[at_quads, k] = numbers.max() + 1 + np.arange(len(at_quads))
                quads = plan.quads[at_quads]
                bricks = bricks_between(ids[quads, 2 * k], ids[quads[:, :4], 2 * k + 1], ids[quads, 2 * k + 2])
                turned = None if frames is None else frames[at_quads]
                name = f"L{k + 1}_{len(groups) + 1}"
                groups.append(Group(name, bricks, (layer,), (density,), X, Y, turned))
    return groups, numbers


def _ended_cores(lifted: Lifted, pieces: Sequence[Piece]) -> Iterator[Follower]:
    """Nodes of a sandwich above and below a zone without core that it borders on, with the top and the bottom node of
    the solid laminate, whose section stays plane, and how far beyond its top they lie by its thickness."""
    plan, ids = lifted.plan, lifted.ids
    heights = lifted.heights
    cored = np.array([any(layer.role == "core" for _, layer in piece.layers) for piece in pieces] + [False])
    has_core, solid = cored[plan.which], (plan.which >= 0) & ~cored[plan.which]
    beside: list[list[int]] = [[] for _ in plan.nodes]
    for quad, nodes in enumerate(plan.quads.tolist()):
        for node in nodes:
            beside[node].append(quad)
    for p, quads in enumerate(beside):
        if not (has_core[quads].any() and solid[quads].any()):
            continue
        low, high = lifted.bottom[quads][solid[quads]].min(), lifted.top[quads][solid[quads]].max()
        bottom, top = int(ids[p, 2 * low]), int(ids[p, 2 * high])
        for level in (*range(2 * low), *range(2 * high + 1, ids.shape[1])):
            node = int(ids[p, level])
            if node >= 0:
                yield node, top, bottom, float((heights[node] - heights[top]) / (heights[top] - heights[bottom]))
