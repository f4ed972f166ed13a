"""Loads of a panel as forces on the nodes of its bricks."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from omakase.core.members.panel_given import LoadCase
from omakase.core.mesh.lifted import Lifted
from omakase.core.mesh.mesh import POINTS, WEIGHTS, Loading, edge_speed, quadratic
from omakase.core.mesh.panel_plan import Side
from omakase.core.mesh.rib_bricks import Shares
from omakase.core.plates.loads import STANDARD_GRAVITY, EdgeLoad

Stiffness = np.ndarray  # (pieces, levels less one, 3, 3) of the bricks of each piece between heights, 0 where none are


def loading(
    case: LoadCase, lifted: Lifted, nodes: int, stiffness: Stiffness, large: bool, pushed: Mapping[int, Shares]
) -> Loading:  # fmt: skip
    """A load case; ``nodes`` : of the whole mesh; ``pushed`` : what takes loads where there is no sheet but a bead."""
    forces = np.zeros((nodes, 3))
    plan = lifted.plan
    for pressure in case.pressures:
        _press(forces, lifted, plan.everywhere(), pressure, pushed)
    for patch in case.patches:
        _press(forces, lifted, plan.over(patch.bounds), patch.pressure, pushed)
    if case.edge is not None:
        for side in plan.sides:
            _pull(forces, lifted, side, case.edge, stiffness)
    return Loading(case.name, case.key, forces, case.gravity * STANDARD_GRAVITY, large, case.edge is not None)


def _press(
    forces: np.ndarray, lifted: Lifted, shares: np.ndarray, pressure: float, pushed: Mapping[int, Shares]
) -> None:  # fmt: skip
    """A pressure, whose ``shares`` (quadrilaterals, 8) nodes take, on the face that it pushes at; an opening takes
    none."""
    plan = lifted.plan
    levels = lifted.top if pressure > 0.0 else lifted.bottom
    away = lifted.curving.pushed(plan.nodes)
    for quad in np.nonzero((levels >= 0) & (shares != 0.0).any(axis=1))[0]:
        own = plan.quads[quad]
        forces[lifted.ids[own, 2 * levels[quad]]] -= pressure * shares[quad][:, None] * away[own]
    for quad in np.nonzero(np.isin(plan.quads, list(pushed)).any(axis=1))[0]:
        for node, share in zip(plan.quads[quad].tolist(), shares[quad], strict=True):
            beside = lifted.ends[node, [1 if pressure > 0.0 else 0]], np.ones(1)
            nodes, parts = pushed.get(node, beside)
            np.add.at(forces, nodes, -pressure * share * parts[:, None] * away[node])


def _pull(
    forces: np.ndarray, lifted: Lifted, side: Side, edge: EdgeLoad, stiffness: Stiffness
) -> None:  # fmt: skip
    """Forces in the plane of reference along an edge: through the thickness as an even strain with a turn gives them,
    so that they have no moment about that plane; even ones along an edge, or straight from one corner to the other."""
    plan, ids, z = lifted.plan, lifted.ids, lifted.z
    frames, points, heights = lifted.edge_frames(side), lifted.curving.points(plan.nodes), lifted.heights
    square = np.array([(a, b) for a in POINTS for b in POINTS])
    weights, shapes = np.outer(WEIGHTS, WEIGHTS).ravel(), quadratic(square)
    for first, last, middle in side.pieces:
        own = side.nodes[[first, last, middle]]
        which = plan.which[np.nonzero(np.isin(plan.quads, own).sum(axis=1) == len(own))[0][0]]
        if which < 0:
            continue  # nothing is there
        there = stiffness[which].any(axis=(1, 2))
        low, high = (z[np.nonzero(there)[0][end] + step] for end, step in ((0, 0), (-1, 1)))
        speed = edge_speed(points[own], square[:, 0])
        tractions = {
            place: _tractions(z, _across(stiffness[which], *side.outward[place])) for place in (first, last, middle)
        }
        for k in np.nonzero(there)[0]:
            shares = (weights * speed * (z[k + 1] - z[k]) / 2.0) @ shapes
            at = [(own[0], 2 * k, first), (own[1], 2 * k, last), (own[1], 2 * k + 2, last), (own[0], 2 * k + 2, first),
                  (own[2], 2 * k, middle), (own[1], 2 * k + 1, last), (own[2], 2 * k + 2, middle),
                  (own[0], 2 * k + 1, first)]  # fmt: skip
            for (node, level, place), share in zip(at, shares, strict=True):
                c, s = side.outward[place]
                x, y = plan.nodes[node] / plan.size
                Nx, Ny = (pull[0] + (pull[1] - pull[0]) * part for pull, part in ((edge.Nx, y), (edge.Ny, x)))
                pulls = np.array([Nx * c + edge.Nxy * s, edge.Nxy * c + Ny * s])
                outward, along = float(pulls @ (c, s)), float(pulls @ (-s, c))
                even, turn = tractions[place][k]
                number = ids[node, level]
                away = share * (even + turn * heights[number]) * outward
                beside = share / (high - low) * along
                forces[number] += away * frames[place, 1] + beside * frames[place, 0]


def _across(Q: np.ndarray, c: float, s: float) -> np.ndarray:
    """Stiffness in a direction whose cosine and sine are c and s, of (m, 3, 3) along x."""
    both = Q[:, 0, 1] + 2.0 * Q[:, 2, 2]
    return (
        c**4 * Q[:, 0, 0] + s**4 * Q[:, 1, 1] + 2.0 * c**2 * s**2 * both
        + 4.0 * c**3 * s * Q[:, 0, 2] + 4.0 * c * s**3 * Q[:, 1, 2]
    )  # fmt: skip


def _tractions(levels: np.ndarray, Q: np.ndarray) -> np.ndarray:
    """Q (a + b z) between levels whose sum is 1 and whose moment about z = 0 is none: (bricks, 2) Q a and Q b."""
    sums = [float((Q * (levels[1:] ** power - levels[:-1] ** power)).sum()) / power for power in (1, 2, 3)]
    a, b = np.linalg.solve(np.array([[sums[0], sums[1]], [sums[1], sums[2]]]), np.array([1.0, 0.0]))
    return np.stack([Q * a, Q * b], axis=1)
