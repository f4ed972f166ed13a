"""Outlines of spars as mid-lines: channel, Z, I, box of one or two cells, hat, the nose of an aerofoil, or by points.

Sizes are measured over the outside; each mid-line lies half its wall's thickness inside, so that it moves when layers
are added.  Walls run clockwise, seen along x with y to the right and z up: face A is outside.  Of the Z and the hat,
which bend both ways, face A is the side seen when their cloth is laid out flat.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Mapping, Sequence
from typing import Literal

import msgspec
import numpy as np

from omakase.core.errors import MemberError, both_units
from omakase.core.sections.aerofoils import half_thickness
from omakase.core.sections.drawn import DrawnOutline, inset
from omakase.core.sections.thin_walled import MidLines

OutlineName = Literal["channel", "z", "i", "box", "two_cells", "hat", "nose", "drawn"]
OUTLINE_WALLS: Mapping[str, tuple[str, ...]] = {
    "channel": ("upper flange", "web", "lower flange"),
    "z": ("upper flange", "web", "lower flange"),
    "i": ("upper cap", "web", "lower cap"),
    "box": ("upper cap", "front web", "rear web", "lower cap"),
    "two_cells": ("upper cap", "front web", "middle web", "rear web", "lower cap"),
    "hat": ("crown", "sides", "feet"),
    "nose": ("upper cap", "lower cap", "nose skin", "web"),
}
ARC_PIECES = 4
SKIN_PIECES = 14
Point = tuple[np.ndarray, np.ndarray]
Thickness = float | np.ndarray


class OutlineSizes(msgspec.Struct, frozen=True, eq=False):
    """Outside sizes in m at a number of stations, each (stations,).

    ``height`` : over all.  ``width`` : of each flange of a channel or Z from the back of the web; of both caps of an I;
    over all of a box; of a hat between its feet; of a nose from its leading edge to the back of its web.
    ``crown``, ``foot`` : of a hat.  ``cap`` : width of each cap of a nose; of a drawn
    outline as a share of its width.  ``radius`` : outside radius of corners.
    ``chord`` and ``ratio`` : of a nose's aerofoil, and its thickness over the chord.  ``drawn`` : an outline by points.
    """

    height: np.ndarray
    width: np.ndarray
    radius: float = 0.0
    crown: float = 0.0
    foot: float = 0.0
    cap: float = 0.0
    chord: np.ndarray | None = None
    ratio: float = 0.12
    drawn: DrawnOutline | None = None


def outline_walls(outline: OutlineName, drawn: DrawnOutline | None = None, cap: float = 0.0) -> tuple[str, ...]:
    """Names of the walls of an outline, in the order in which its mid-lines have them.

    Raises MemberError where an outline is to be drawn that has no points.
    """
    if outline != "drawn":
        return OUTLINE_WALLS[outline]
    if drawn is None:
        raise MemberError("the outline has no points yet: read them from a file of coordinates")
    return drawn.walls(cap > 0.0)


class _Path:
    """Mid-lines as they are put together."""

    def __init__(self, walls: tuple[str, ...]) -> None:
        self.names = walls
        self.nodes: list[np.ndarray] = []
        self.pieces: list[tuple[int, int]] = []
        self.walls: list[int] = []

    def node(self, y: np.ndarray, z: np.ndarray) -> int:
        self.nodes.append(np.stack(np.broadcast_arrays(y, z), axis=-1))
        return len(self.nodes) - 1

    def piece(self, a: int, b: int, wall: str) -> None:
        self.pieces.append((a, b))
        self.walls.append(self.names.index(wall))

    def through(self, corners: Sequence[Point], walls: Sequence[str], radius: np.ndarray, closed: bool = False) -> None:
        """Straight walls between corners, rounded by ``radius`` (stations,) where it is not zero.

        Half of each arc belongs to either wall.
        """
        count = len(corners)
        ends: list[tuple[int, int]] = []  # nodes at which the wall before ends and the next begins
        arcs: list[list[int]] = []
        rounded = bool((radius > 0.0).any())
        for i, corner in enumerate(corners):
            inside = closed or 0 < i < count - 1
            if not (rounded and inside):
                node = self.node(*corner)
                ends.append((node, node))
                arcs.append([node])
                continue
            before, after = corners[i - 1], corners[(i + 1) % count]
            arc = [self.node(*point) for point in _arc(before, corner, after, radius)]
            ends.append((arc[0], arc[-1]))
            arcs.append(arc)
        for i, arc in enumerate(arcs):
            if len(arc) > 1:
                middle = (len(arc) - 1) // 2
                for j, (a, b) in enumerate(itertools.pairwise(arc)):
                    self.piece(a, b, walls[i - 1] if j < middle else walls[i % len(walls)])
            if i + 1 < count or closed:
                self.piece(ends[i][1], ends[(i + 1) % count][0], walls[i])

    def lines(self) -> MidLines:
        nodes = np.stack(np.broadcast_arrays(*self.nodes), axis=1)
        order = np.argsort(self.walls, kind="stable")  # pieces of a wall together, in the way of their path
        return MidLines(nodes, np.array(self.pieces)[order], np.array(self.walls)[order])


def _arc(before: Point, corner: Point, after: Point, radius: np.ndarray) -> list[Point]:
    """Points of the arc of ``radius`` that rounds a corner, first and last on the straight walls."""
    at = np.stack(np.broadcast_arrays(*corner), axis=-1)
    into, out = (np.stack(np.broadcast_arrays(*other), axis=-1) - at for other in (before, after))
    lengths = np.linalg.norm(into, axis=-1), np.linalg.norm(out, axis=-1)
    a, b = into / lengths[0][:, None], out / lengths[1][:, None]
    half = np.arccos(np.clip((a * b).sum(axis=-1), -1.0, 1.0)) / 2.0
    back = radius / np.tan(half)
    if (2.0 * back > 1.999 * np.minimum(*lengths)).any():
        raise MemberError(f"a corner radius of {both_units(float(radius.max()))} does not fit on the walls beside it")
    centre = at + (a + b) / np.linalg.norm(a + b, axis=-1)[:, None] * (radius / np.sin(half))[:, None]
    start, end = at + a * back[:, None] - centre, at + b * back[:, None] - centre
    turn = np.arccos(np.clip((start * end).sum(axis=-1) / radius**2, -1.0, 1.0))
    points = []
    for t in np.linspace(0.0, 1.0, ARC_PIECES + 1):
        share = (np.sin((1.0 - t) * turn) / np.sin(turn))[:, None], (np.sin(t * turn) / np.sin(turn))[:, None]
        point = centre + share[0] * start + share[1] * end
        points.append((point[:, 0], point[:, 1]))
    return points


def mid_lines(outline: OutlineName, sizes: OutlineSizes, thickness: Mapping[str, Thickness]) -> MidLines:
    """The mid-lines of an outline with walls of a ``thickness`` each by name, m, (stations,) or one for all.

    Raises MemberError.
    """
    h, w = sizes.height, sizes.width
    if not ((h > 0.0).all() and (w > 0.0).all()):
        raise MemberError("a section needs a positive height and width all along")
    names = outline_walls(outline, sizes.drawn, sizes.cap)
    path = _Path(names)
    _BUILDERS[outline](path, sizes, [np.asarray(thickness[name]) + np.zeros_like(h) for name in names])
    return path.lines()


def _levels(sizes: OutlineSizes, upper: np.ndarray, lower: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Middles of the upper and the lower wall.  Raises MemberError where nothing is left between them."""
    top, bottom = sizes.height / 2.0 - upper / 2.0, -sizes.height / 2.0 + lower / 2.0
    _must_leave(top - bottom, "height", np.maximum(upper, lower))
    return top, bottom


def _channel(path: _Path, sizes: OutlineSizes, t: Sequence[np.ndarray]) -> None:
    """The middle of the web is the reference; flanges to the right."""
    _flanged(path, sizes, t, 1.0)


def _z(path: _Path, sizes: OutlineSizes, t: Sequence[np.ndarray]) -> None:
    """The upper flange to the right, the lower one to the left."""
    _flanged(path, sizes, t, -1.0)


def _flanged(path: _Path, sizes: OutlineSizes, t: Sequence[np.ndarray], lower_side: float) -> None:
    top, bottom = _levels(sizes, t[0], t[2])
    _must_leave(sizes.width - t[1], "width", t[1])
    tip, back = sizes.width - t[1] / 2.0, np.zeros_like(top)
    path.through([(lower_side * tip, bottom), (back, bottom), (back, top), (tip, top)],
                 ["lower flange", "web", "upper flange"], _inside(sizes.radius, t, top))  # fmt: skip


def _i(path: _Path, sizes: OutlineSizes, t: Sequence[np.ndarray]) -> None:
    top, bottom = _levels(sizes, t[0], t[2])
    w, zero = sizes.width, np.zeros_like(top)
    a, b, c = (path.node(y, top) for y in (-w / 2.0, zero, w / 2.0))
    d, e, f = (path.node(y, bottom) for y in (w / 2.0, zero, -w / 2.0))
    for start, end, wall in ((a, b, "upper cap"), (b, c, "upper cap"), (e, b, "web"), (d, e, "lower cap"),
                             (e, f, "lower cap")):  # fmt: skip
        path.piece(start, end, wall)


def _sides(sizes: OutlineSizes, front: np.ndarray, rear: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Middles of the front and the rear web of a box, which stands around the reference."""
    left, right = -sizes.width / 2.0 + front / 2.0, sizes.width / 2.0 - rear / 2.0
    _must_leave(right - left, "width", np.maximum(front, rear))
    return left, right


def _box(path: _Path, sizes: OutlineSizes, t: Sequence[np.ndarray]) -> None:
    top, bottom = _levels(sizes, t[0], t[3])
    left, right = _sides(sizes, t[1], t[2])
    path.through([(left, top), (right, top), (right, bottom), (left, bottom)],
                 ["upper cap", "rear web", "lower cap", "front web"], _inside(sizes.radius, t, top),
                 closed=True)  # fmt: skip


def _two_cells(path: _Path, sizes: OutlineSizes, t: Sequence[np.ndarray]) -> None:
    """A box with a web at its middle."""
    top, bottom = _levels(sizes, t[0], t[4])
    left, right = _sides(sizes, t[1], t[3])
    middle = np.zeros_like(top)
    a, b, c = (path.node(y, top) for y in (left, middle, right))
    d, e, f = (path.node(y, bottom) for y in (right, middle, left))
    for start, end, wall in ((a, b, "upper cap"), (b, c, "upper cap"), (c, d, "rear web"), (d, e, "lower cap"),
                             (e, f, "lower cap"), (f, a, "front web"), (b, e, "middle web")):  # fmt: skip
        path.piece(start, end, wall)


def _hat(path: _Path, sizes: OutlineSizes, t: Sequence[np.ndarray]) -> None:
    top, bottom = _levels(sizes, t[0], t[2])
    crown, foot, base = (sizes.crown - t[1]) / 2.0, sizes.foot, sizes.width / 2.0
    if not ((crown > 0.0).all() and foot > 0.0):
        raise MemberError("a hat needs a crown wider than its sides are thick, and feet")
    path.through([(-base - foot, bottom), (-base, bottom), (-crown, top), (crown, top), (base, bottom),
                  (base + foot, bottom)],
                 ["feet", "sides", "crown", "sides", "feet"], _inside(sizes.radius, t, top))  # fmt: skip


def _drawn(path: _Path, sizes: OutlineSizes, t: Sequence[np.ndarray]) -> None:
    """The first web is the reference, or the middle of the width where there is none."""
    drawn, names = sizes.drawn, path.names
    assert drawn is not None
    cut = drawn.cut(sizes.cap if drawn.webs else 0.0)
    start = drawn.webs[0] if drawn.webs else 0.5
    outside = np.stack([
        (cut.points[:, 0] - start) * sizes.width[:, None], cut.points[:, 1] * sizes.height[:, None],
    ], axis=-1)  # fmt: skip
    parameters = np.stack([t[kind] for kind in cut.kinds], axis=1)
    middle = inset(outside, parameters)
    for upper, lower in cut.webs:
        room = np.linalg.norm(middle[:, upper] - middle[:, lower], axis=1)
        _must_leave(room, "height", (parameters[:, upper] + parameters[:, lower]) / 2.0)
    nodes = [path.node(middle[:, k, 0], middle[:, k, 1]) for k in range(len(cut.points))]
    for k, kind in enumerate(cut.kinds):
        path.piece(nodes[k], nodes[(k + 1) % len(nodes)], names[kind])
    for name, (upper, lower) in zip(names[len(names) - len(drawn.webs) :], cut.webs, strict=True):
        path.piece(nodes[upper], nodes[lower], name)


def _must_leave(room: np.ndarray, what: str, wall: np.ndarray) -> None:
    if not (room > wall).all():
        raise MemberError(f"walls of {both_units(float(wall.max()))} leave nothing of the {what} of the section")


def _inside(radius: float, thickness: Sequence[np.ndarray], like: np.ndarray) -> np.ndarray:
    """The radius of the mid-line from that of the outside."""
    if radius == 0.0:
        return np.zeros_like(like)
    mean = np.mean(thickness, axis=0)
    if (radius <= mean / 2.0).any():
        raise MemberError(
            f"an outside corner radius of {both_units(radius)} is less than half the walls' "
            f"{both_units(float(mean.max()))}: give 0 for a sharp corner, or more"
        )
    return radius - mean / 2.0


def _nose(path: _Path, sizes: OutlineSizes, t: Sequence[np.ndarray]) -> None:
    """The front of a symmetric aerofoil: the web's middle at y = 0, the leading edge at −y."""
    chord = sizes.chord
    if chord is None:
        raise MemberError("a nose needs a chord: give it in the brief")
    share = sizes.width / chord
    if not ((share > 0.05).all() and (share < 0.9).all()):
        raise MemberError("the web of a nose must stand between 5 % and 90 % of the chord")
    if not (0.0 < sizes.cap < 0.8 * float(sizes.width.min())):
        raise MemberError("the caps of a nose must be wider than nothing and leave some of the skin")
    upper, lower, skin, _ = t
    # along the outside from the web to the leading edge, closer together where it bends
    angle = np.linspace(0.0, np.pi / 2.0, SKIN_PIECES // 2 + 1)
    cap_at = share - sizes.cap / chord
    if (2.0 * half_thickness(cap_at, sizes.ratio) * chord <= upper + lower).any():
        raise MemberError("the walls of the nose are thicker than the aerofoil leaves room for")

    def point(x: np.ndarray, side: float, thick: np.ndarray) -> Point:
        half = half_thickness(x, sizes.ratio) * chord
        # half the wall inside: along z where the skin is flat, and along y at the leading edge
        z = np.maximum(half - thick / 2.0, 0.0)
        y = np.where(x > 0.0, (x - share) * chord, -share * chord + thick / 2.0)
        return y + 0.0 * chord, side * z

    names = ("upper cap", "lower cap", "nose skin", "web")
    top, bottom = path.node(*point(share, 1.0, upper)), path.node(*point(share, -1.0, lower))
    low_cap = path.node(*point(cap_at, -1.0, (lower + skin) / 2.0))
    path.piece(bottom, low_cap, names[1])
    last = low_cap
    for k, a in enumerate(angle[::-1][1:]):
        x = cap_at * np.sin(a) ** 2
        node = path.node(*point(x, -1.0, skin)) if k < len(angle) - 2 else path.node(*point(0.0 * x, -1.0, skin))
        path.piece(last, node, names[2])
        last = node
    for a in angle[1:-1]:
        node = path.node(*point(cap_at * np.sin(a) ** 2, 1.0, skin))
        path.piece(last, node, names[2])
        last = node
    high_cap = path.node(*point(cap_at, 1.0, (upper + skin) / 2.0))
    path.piece(last, high_cap, names[2])
    path.piece(high_cap, top, names[0])
    path.piece(top, bottom, names[3])


_BUILDERS: Mapping[str, Callable[[_Path, OutlineSizes, Sequence[np.ndarray]], None]] = {
    "channel": _channel, "z": _z, "i": _i, "box": _box, "two_cells": _two_cells, "hat": _hat, "nose": _nose,
    "drawn": _drawn,
}  # fmt: skip
