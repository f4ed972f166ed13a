"""A strip as layered bricks along its span: flat, arched or a hat, with plies that end, loaded as its diagrams say.

Its layers lie flush on face B.  Nothing is assumed of its section: it may flatten, and its core shears.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from omakase.core.laminate.stack import Layer
from omakase.core.members.stretches import stretch_at
from omakase.core.members.strip import StripResponse
from omakase.core.mesh.mesh import HALF_STEPS, HRZ, SAME, Group, Loading, Mesh, bricks_between, half_steps, quad_areas
from omakase.core.mesh.piece import Piece, levels_of, piece_of
from omakase.core.mesh.rib_profile import Strand, walls_of
from omakase.core.mesh.span_shells import carried_between, forces_of, seen_at, station_at, stations_of
from omakase.core.sections.profile import corners_of

MANY = 65  # bricks in a section, from which on like plies on each other are one
FACETS = 2  # straight pieces of an arch for each brick across a flat strip
X = np.array([1.0, 0.0, 0.0])


def strip_bricks(response: StripResponse, along: int, watched: Sequence[float] = ()) -> Mesh:
    """``along`` bricks along the span.  ``watched`` : places x whose bricks' stress is asked for.  Raises MemberError
    for layers that are not counted on."""
    span, stretches = response.model.span, response.stretches
    flush = stretches[0].stack.thickness
    parts = max(2, round(along / 6))
    few = len(corners_of(response.section.line, parts)[1]) * max(len(own.stack.layers) for own in stretches) < MANY
    pieces = [piece_of(own.stack, (own.stack.thickness - flush) / 2.0, not few) for own in stretches]
    z = levels_of(pieces)
    x = stations_of(response, along)
    halves = half_steps(x)
    of_cell = [pieces[k] for k in stretch_at(stretches, halves[1::2])]
    grids, directions = _sections(response, halves, z, parts)
    ids = _numbered(grids.shape[:3], of_cell, z)
    nodes = np.zeros((int(ids.max()) + 1, 3))
    i, a, b = np.nonzero(ids >= 0)
    nodes[ids[i, a, b]] = np.column_stack([halves[i], grids[i, a, b]])
    level = grids[0, ::2, 0, 1]  # along face B
    hat = response.member.profile.shape == "hat"  # loads stand on its crown
    pressed = np.minimum(level[1:], level[:-1]) > (level.max() - SAME if hat else -np.inf)
    read = 2 * np.nonzero(np.concatenate([pressed[:1], pressed[1:] | pressed[:-1], pressed[-1:]]))[0]
    groups, weights = _groups(ids, nodes, of_cell, z, directions, carried_between(span, x), pressed)
    held = np.zeros((len(nodes), 3), bool)
    for support in span.supports:
        own = ids[2 * station_at(x, support.x)]
        own = own[own >= 0]
        held[own, 1:] = True
        if support.held == "clamped":
            held[own] = True
    if not held[:, 0].any():
        held[int(np.nonzero(held[:, 1])[0][0]), 0] = True
    flat_ids = ids.reshape(len(halves), -1)
    shares = np.where(flat_ids >= 0, weights[flat_ids], 0.0)
    shares /= np.maximum(shares.sum(axis=1, keepdims=True), 1e-300)
    cases = tuple(
        Loading(result.case.name, result.case.key, forces_of(response, k, x, flat_ids, nodes, shares))
        for k, result in enumerate(response.results)
    )
    middle = np.concatenate([nodes[group.elements, 0].mean(axis=1) for group in groups])
    places = np.column_stack([x, np.zeros(len(x))])
    return Mesh(nodes, tuple(groups), held, cases, ids[::2, read, 0], places, False,
                seen_at(x, middle, watched), upright=not response.section.bent)  # fmt: skip


def _sections(
    response: StripResponse, halves: np.ndarray, z: np.ndarray, parts: int
) -> tuple[np.ndarray, np.ndarray]:  # fmt: skip
    """Places (stations, along, out, 2) of the section at half steps, and the direction of each quadrilateral along."""
    pieces, of_wall = parts, 1  # of a flat one
    if response.member.profile.shape == "hat":
        pieces, of_wall = 1, parts
    elif response.section.bent:
        pieces = max(1, FACETS * parts // 4)
    ends, _ = corners_of(response.section.line, pieces)
    grids, known = [], {}
    directions: list[np.ndarray] = []
    for width in response.member.width(halves).tolist():
        if width not in known:
            walls = list(walls_of(Strand(ends * width), z, of_wall))
            known[width] = np.concatenate([grid[1 if k else 0 :] for k, (grid, _) in enumerate(walls)])
            directions = [direction for grid, direction in walls for _ in range((len(grid) - 1) // 2)]
        grids.append(known[width])
    return np.array(grids), np.array(directions)


def _numbered(shape: Sequence[int], of_cell: Sequence[Piece], z: np.ndarray) -> np.ndarray:
    """Numbers of the nodes that bricks use, −1 where there is none."""
    used = np.zeros(shape, bool)
    odd_along, odd_out = (np.arange(size) % 2 == 1 for size in shape[1:])
    for cell, piece in enumerate(of_cell):
        for k, level in enumerate((z[1:] + z[:-1]) / 2.0):
            if piece.layer_at(float(level)) is not None:
                out = np.zeros(shape[2], bool)
                out[2 * k : 2 * k + 3] = True
                used[[2 * cell, 2 * cell + 2]] |= out & ~(odd_along[:, None] & odd_out)
                used[2 * cell + 1] |= out & ~odd_along[:, None] & ~odd_out
    ids = np.full(shape, -1)
    ids[used] = np.arange(int(used.sum()))
    return ids


def _groups(
    ids: np.ndarray, nodes: np.ndarray, of_cell: Sequence[Piece], z: np.ndarray, directions: np.ndarray,
    carried: np.ndarray, pressed: np.ndarray,
) -> tuple[list[Group], np.ndarray]:  # fmt: skip
    """Bricks of one layer and direction together, and what each node stands for of the section's area.

    ``carried`` : kg spread over the bricks between two stations, as density.  ``pressed`` : which quadrilaterals
    along the section loads stand on.
    """
    weights = np.zeros(len(nodes))
    gathered: dict[tuple[object, ...], tuple[list[np.ndarray], Layer, float, np.ndarray]] = {}
    for cell, piece in enumerate(of_cell):
        here, between, there = ids[2 * cell : 2 * cell + 3]
        found = []
        for k, level in enumerate((z[1:] + z[:-1]) / 2.0):
            at = piece.layer_at(float(level))
            if at is None:
                continue
            for q, direction in enumerate(directions):
                steps = [(2 * q + a, 2 * k + b) for a, b in HALF_STEPS]
                first, last = (np.array([own[step] for step in steps]) for own in (here, there))
                middle = np.array([between[step] for step in steps[:4]])
                area = float(quad_areas(nodes[first[None, :4], 1:])[0])
                for own in (first, last) if pressed[q] else ():
                    weights[own] += HRZ * area
                brick = bricks_between(first, middle, last)
                found.append((brick, at, direction, area))
        length = float(nodes[there[0, 0], 0] - nodes[here[0, 0], 0])
        more = float(carried[cell]) / (sum(own[3] for own in found) * length)
        for brick, at, direction, _ in found:
            layer, density = piece.layers[at][1], piece.densities[at] + more
            key = id(layer.material), layer.angle, layer.role, density, *np.round(direction, 6).tolist()
            gathered.setdefault(key, ([], layer, density, direction))[0].append(brick)
    groups = [
        Group(f"S{number}", np.array(elements), (layer,), (density,), X, np.array([0.0, *direction]))
        for number, (elements, layer, density, direction) in enumerate(gathered.values(), 1)
    ]
    return groups, weights
