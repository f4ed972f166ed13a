"""A member with a span as layered shells on the mid-lines of its walls, loaded as its diagrams say; what fills a tube
is bricks inside."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from itertools import pairwise

import msgspec
import numpy as np

from omakase.core.errors import MemberError
from omakase.core.laminate.stack import Stack
from omakase.core.members.span import SpanAnswers
from omakase.core.members.span_loads import Spanned
from omakase.core.members.spar import SparResponse
from omakase.core.members.stretches import stretch_at
from omakase.core.members.strip import StripResponse
from omakase.core.members.tube import TubeResponse
from omakase.core.mesh.altered import as_written
from omakase.core.mesh.mesh import Group, Loading, Mesh, Tie, half_steps
from omakase.core.mesh.tube_filling import filling_of
from omakase.core.sections.outlines import mid_lines

ROUND = 16  # shells round a tube
ACROSS = 4  # shells across each straight wall
X = np.array([1.0, 0.0, 0.0])


class Walls(msgspec.Struct, frozen=True, eq=False):
    """The mid-lines of a section, alike all along: points at half steps and the shells between them.

    ``points`` : x (stations,) to (stations, p, 2) y and z.  ``shells`` : (k, 3) points of each shell: its ends and the
    middle between.  ``stack`` : of shell and x, what it is made of.
    """

    points: Callable[[np.ndarray], np.ndarray]
    shells: np.ndarray
    stack: Callable[[int, float], Stack]


def span_shells(response: SpanAnswers, along: int, watched: Sequence[float] = ()) -> Mesh:
    """``along`` shells along the span.  ``watched`` : places x whose shells' stress is asked for.  Raises MemberError
    for what cannot be written."""
    walls = _walls(response)
    span = response.model.span
    x = stations_of(response, along)
    halves = half_steps(x)
    section = walls.points(halves)
    ids = np.full((len(halves), section.shape[1]), -1)
    middles = np.zeros(section.shape[1], bool)
    middles[walls.shells[:, 1]] = True
    for i in range(len(halves)):
        ids[i, ~middles if i % 2 else slice(None)] = 0
    ids[ids == 0] = np.arange(int((ids == 0).sum()))
    nodes = np.zeros((int(ids.max()) + 1, 3))
    for i, place in enumerate(halves):
        own = ids[i] >= 0
        nodes[ids[i, own]] = np.column_stack([np.full(int(own.sum()), place), section[i, own]])
    carried = _carried_along(response, x)
    weights, aside = _weights(walls, section, ids, 1), _weights(walls, section, ids, 0)
    groups = _groups(walls, ids, halves, section, carried)
    middle = np.concatenate([nodes[group.elements, 0].mean(axis=1) for group in groups])
    held, sums = _held_at(span, x, ids, weights, aside, len(nodes))
    if isinstance(response, TubeResponse) and response.member.filling is not None:
        clamped = [2 * station_at(x, own.x) for own in span.supports if own.held == "clamped"]
        inside = response.member.diameter(halves) / 2.0
        filling = filling_of(response.member.filling, inside, ids, nodes, clamped)
        nodes, held = np.concatenate([nodes, filling.nodes]), np.concatenate([held, filling.held])
        groups = (*groups, *filling.groups)
    cases = tuple(
        Loading(result.case.name, result.case.key, forces_of(response, k, x, ids, nodes, weights))
        for k, result in enumerate(response.results)
    )
    columns = np.array([row[(row >= 0) & ~middles] for row in ids[::2]])
    places = np.column_stack([x, np.zeros(len(x))])
    return Mesh(nodes, groups, held, cases, columns, places, False, seen_at(x, middle, watched),
                sums)  # fmt: skip


def _held_at(
    span: Spanned, x: np.ndarray, ids: np.ndarray, upward: np.ndarray, aside: np.ndarray, count: int
) -> tuple[np.ndarray, tuple[Tie, ...]]:  # fmt: skip
    """Which displacements of ``count`` nodes the supports hold, and the sums of them that they hold.

    ``ids`` : nodes of the section at half steps, −1 where there is none; ``upward`` and ``aside`` : share of a force
    along z and along y that each takes.  Without a clamped end the first support holds twist, the others the section in
    the mean.
    """
    held = np.zeros((count, 3), bool)
    sums: list[Tie] = []
    anchored = any(support.held == "clamped" for support in span.supports)
    for support in span.supports:
        at = 2 * station_at(x, support.x)
        own = ids[at][ids[at] >= 0]
        if support.held == "clamped":
            held[own] = True
        elif not anchored:  # the first one holds twist
            held[own, 1:], anchored = True, True
        else:
            for spread, axis in ((upward, 2), (aside, 1)):
                ring, share = _ring(ids, spread, at)
                sums.append((ring, np.full(len(ring), axis), share))
    if not held[:, 0].any():
        held[int(np.nonzero(held[:, 1])[0][0]), 0] = True
    return held, tuple(sums)


def _carried_along(response: SpanAnswers, x: np.ndarray) -> np.ndarray:
    """kg between stations that weighs and carries nothing: masses, and of a tube the overlaps of its wraps."""
    carried = carried_between(response.model.span, x)
    if isinstance(response, TubeResponse) and response.member.overlap:
        plates = [response.walls.plates[k] for k in response.walls.index((x[1:] + x[:-1]) / 2.0)]
        carried += np.diff(x) * [plate.areal_mass * response.member.overlap for plate in plates]
    return carried


def carried_between(span: Spanned, x: np.ndarray) -> np.ndarray:
    """kg of carried masses between stations, half on either side of where they are."""
    carried = np.zeros(len(x) - 1)
    for own in span.masses:
        at = station_at(x, own.x)
        beside = [cell for cell in (at - 1, at) if 0 <= cell < len(carried)]
        for cell in beside:
            carried[cell] += own.mass / len(beside)
    return carried


def seen_at(x: np.ndarray, middle: np.ndarray, watched: Sequence[float]) -> np.ndarray:
    """Which elements, by the ``middle`` of each along, lie between the stations around watched places."""
    cells = {min(int(np.searchsorted(x, at, "right")) - 1, len(x) - 2) for at in watched}
    seen = [np.nonzero((middle > x[cell]) & (middle < x[cell + 1]))[0] for cell in cells]
    return np.concatenate([np.zeros(0, int), *seen])


def station_at(x: np.ndarray, place: float) -> int:
    """The station nearest to a place."""
    return int(np.argmin(np.abs(x - place)))


def stations_of(response: SpanAnswers, along: int) -> np.ndarray:
    """Even stations with those that must be there: a load beside a support bends with the arm it has."""
    span = response.model.span
    size = span.length / along
    wanted = {0.0, span.length, *(own.x for own in span.supports), *(own.x for own in span.masses)}
    wanted |= {float(load.x) for case in response.model.cases for load in case.loads if hasattr(load, "x")}
    for stretches in _stretches(response):
        wanted |= {own.low for own in stretches}
    fixed = sorted(place for place in wanted if 0.0 <= place <= span.length)
    kept = [fixed[0]]
    for place in fixed[1:]:
        if place - kept[-1] > 0.05 * size:
            kept.append(place)
    kept[-1] = span.length
    stations = [0.0]
    for low, high in pairwise(kept):
        stations += list(np.linspace(low, high, max(1, round((high - low) / size)) + 1)[1:])
    return np.array(stations)


def _stretches(response: SpanAnswers) -> Sequence[Sequence]:
    if isinstance(response, SparResponse):
        return [wall.stretches for wall in response.walls]
    if isinstance(response, TubeResponse):
        return [response.walls.stretches]
    return [response.stretches] if isinstance(response, StripResponse) else []


def _walls(response: SpanAnswers) -> Walls:
    if isinstance(response, SparResponse) and type(response) is SparResponse:
        return _spar_walls(response)
    if isinstance(response, TubeResponse):
        return _tube_wall(response)
    raise MemberError("this kind of member cannot be written for a finite-element solver")


def _spar_walls(response: SparResponse) -> Walls:
    shape = response.member.shape
    lines = response.sections.lines
    parts = [_parts(float(length), float(shape.width.first)) for length in lines.lengths[0]]
    count = lines.nodes.shape[1]
    shells, at, made = [], [], count  # at: (first node, second node, share) of each point beyond the nodes
    for piece, (first, second) in enumerate(lines.pieces):
        before = int(first)
        for part in range(parts[piece]):
            middle, after = made, int(second)
            at.append((first, second, (part + 0.5) / parts[piece]))
            made += 1
            if part < parts[piece] - 1:
                after = made
                at.append((first, second, (part + 1.0) / parts[piece]))
                made += 1
            shells.append((before, middle, after))
            before = after
    of_piece = np.repeat(np.arange(len(lines.pieces)), parts)
    first, second, share = (np.array(column) for column in zip(*at, strict=True))

    def points(x: np.ndarray) -> np.ndarray:
        thickness = {
            wall.name: np.array([own.stack.thickness for own in wall.stretches])[stretch_at(wall.stretches, x)]
            for wall in response.walls
        }
        ends = mid_lines(shape.outline, shape.sizes(x), thickness).nodes
        between = ends[:, first] * (1.0 - share[:, None]) + ends[:, second] * share[:, None]
        return np.concatenate([ends, between], axis=1)

    def stack(shell: int, x: float) -> Stack:
        wall = response.walls[int(lines.walls[of_piece[shell]])]
        return wall.stretches[int(stretch_at(wall.stretches, np.array([x]))[0])].stack

    return Walls(points, np.array(shells), stack)


def _parts(length: float, width: float) -> int:
    """Shells across one piece of a mid-line: curved outlines have many short pieces already."""
    return ACROSS if length > 0.2 * width else 1


def _tube_wall(response: TubeResponse) -> Walls:
    angles = np.arange(2 * ROUND) * np.pi / ROUND
    shells = np.array([(2 * k, 2 * k + 1, (2 * k + 2) % (2 * ROUND)) for k in range(ROUND)])

    def points(x: np.ndarray) -> np.ndarray:
        which = response.walls.index(x)
        thickness = np.array([plate.stack.thickness for plate in response.walls.plates])[which]
        radius = (response.member.diameter(x) + thickness)[:, None] / 2.0
        return np.stack([radius * np.sin(angles), radius * np.cos(angles)], axis=-1)

    def stack(_shell: int, x: float) -> Stack:
        return response.walls.plates[int(response.walls.index(np.array([x]))[0])].stack

    return Walls(points, shells, stack)


def _groups(
    walls: Walls, ids: np.ndarray, halves: np.ndarray, section: np.ndarray, carried: np.ndarray
) -> tuple[Group, ...]:  # fmt: skip
    """Shells of like layers and direction together; the normal looks along ``along`` × ``across``.

    ``carried`` : kg spread over the shells between two stations, as density.
    """
    gathered: dict[tuple, tuple[list[list[int]], Stack, np.ndarray, float]] = {}
    for i in range(0, len(halves) - 2, 2):
        middle, more = float(halves[i + 1]), 0.0
        if carried[i // 2]:
            girth = np.hypot(
                *np.moveaxis(section[i + 1, walls.shells[:, 2]] - section[i + 1, walls.shells[:, 0]], -1, 0)
            )
            solid = sum(length * walls.stack(k, middle).thickness for k, length in enumerate(girth))
            more = float(carried[i // 2] / (solid * (halves[i + 2] - halves[i])))
        for shell, (a, m, b) in enumerate(walls.shells):
            across = section[i + 1, b] - section[i + 1, a]
            across = across / np.hypot(*across)
            stack = walls.stack(shell, middle)
            key = id(stack), more, *np.round(across, 4).tolist()
            own = [ids[i, a], ids[i + 2, a], ids[i + 2, b], ids[i, b],
                   ids[i + 1, a], ids[i + 2, m], ids[i + 1, b], ids[i, m]]  # fmt: skip
            gathered.setdefault(key, ([], stack, across, more))[0].append(own)
    groups = []
    for number, (elements, stack, across, more) in enumerate(gathered.values(), 1):
        direction = np.array([0.0, *across])
        # shells are stacked along their normal, x × across, which looks out of a tube; a wall's first layer is outside
        densities = tuple(float(own) + more for own in stack.layer_densities()[::-1])
        layers = tuple(as_written(layer) for layer in stack.layers[::-1])
        groups.append(Group(f"W{number}", np.array(elements), layers, densities, X, direction))
    return tuple(groups)


def _weights(walls: Walls, section: np.ndarray, ids: np.ndarray, axis: int) -> np.ndarray:
    """Share of a force along y or z (``axis`` 0 or 1) that each point of the section takes: walls that run that way."""
    weights = np.zeros(section.shape[:2])
    for a, m, b in walls.shells:
        run = section[:, b] - section[:, a]
        length = np.hypot(run[:, 0], run[:, 1])
        along = length * (run[:, axis] / length) ** 2
        for point, part in ((a, 1.0 / 6.0), (m, 4.0 / 6.0), (b, 1.0 / 6.0)):
            weights[:, point] += along * part
    flat = weights.sum(axis=1) < 1e-9
    weights[flat] = 1.0
    weights[ids < 0] = 0.0
    return weights / weights.sum(axis=1, keepdims=True)


def _ring(ids: np.ndarray, weights: np.ndarray, at: int) -> tuple[np.ndarray, np.ndarray]:
    own = (ids[at] >= 0) & (weights[at] > 0.0)
    return ids[at, own], weights[at, own]


def forces_of(
    response: SpanAnswers, k: int, x: np.ndarray, ids: np.ndarray, nodes: np.ndarray, weights: np.ndarray
) -> np.ndarray:  # fmt: skip
    """Forces on the nodes that give the section forces of the diagrams: at each station what these change by there.

    A force along z goes to the along walls, with a couple that brings it to the reference line y = 0.
    """
    forces = np.zeros((len(nodes), 3))
    diagrams, places = response.results[k].diagrams, response.x
    between = np.concatenate([[x[0]], (x[1:] + x[:-1]) / 2.0, [x[-1]]])
    jumps = []
    for values in (diagrams.shear, diagrams.torque, diagrams.axial):
        at = np.interp(between, places, values)
        at[0] = at[-1] = 0.0
        jumps.append(at[:-1] - at[1:])
    for station, (down, torque, pull) in enumerate(zip(*jumps, strict=True)):
        ring, share = _ring(ids, weights, 2 * station)
        y, z = nodes[ring, 1], nodes[ring, 2]
        forces[ring, 2] -= down * share
        # at the reference line, so that it bends nothing by itself
        forces[ring, 0] += pull * np.linalg.pinv(np.stack([np.ones_like(y), y, z]))[:, 0]
        middle_y, middle_z = float(y.mean()), float(z.mean())
        spread = float(((y - middle_y) ** 2 + (z - middle_z) ** 2).sum())
        couple = (torque - down * float(share @ y)) / spread
        forces[ring, 1] += couple * (z - middle_z)
        forces[ring, 2] -= couple * (y - middle_y)
    return forces
