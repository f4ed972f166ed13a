"""An outline drawn by points, such as an aerofoil from a file of coordinates, with webs and caps put into it."""

from __future__ import annotations

import itertools
from functools import cached_property

import msgspec
import numpy as np

from omakase.core.errors import MemberError

MOST_POINTS, MOST_WEBS = 80, 3
SAME = 1e-6  # of the width, that two points must lie apart
SNAP = 2e-3  # of the width or height, within which a web or the end of a cap takes a point that is there
SHARPEST = 6.0  # half thicknesses that a corner of the mid-line may lie inside the outline's


class DrawnOutline(msgspec.Struct, frozen=True, dict=True):
    """``points`` : y and z of the outside, in any unit, either way round, closed from the last to the first.

    ``webs`` : where webs stand, as shares of the width from the smallest y.  Raises MemberError naming the points that
    are the same or whose lines cross, and webs that are not inside.
    """

    points: tuple[tuple[float, float], ...]
    webs: tuple[float, ...] = ()

    def __post_init__(self) -> None:
        count = len(self.points)
        if not 3 <= count <= MOST_POINTS:
            raise MemberError(f"an outline is drawn by 3 to {MOST_POINTS} points, not {count}")
        if len(self.webs) > MOST_WEBS:
            raise MemberError(f"more than {MOST_WEBS} webs")
        values = np.array(self.points)
        if not np.isfinite(values).all() or np.ptp(values[:, 0]) <= 0.0 or np.ptp(values[:, 1]) <= 0.0:
            raise MemberError("the points of an outline must be finite, and not all on one line")
        p = self._as_drawn
        for i in range(count):
            if np.hypot(*(p[i] - p[(i + 1) % count])) < SAME:
                raise MemberError(f"points {i + 1} and {(i + 1) % count + 1} of the outline are the same")
        for i, j in itertools.combinations(range(count), 2):
            if j - i > 1 and not (i == 0 and j == count - 1) and _cross(p[i], p[i + 1], p[j], p[(j + 1) % count]):
                raise MemberError(f"the outline crosses itself: from point {i + 1} on, and from point {j + 1} on")
        for one, two in itertools.pairwise(self.webs):
            if not two - one > SAME:
                raise MemberError("webs must be named from the smallest y on, each at a place of its own")
        for web in self.webs:
            if not 0.001 <= web <= 0.999:
                raise MemberError("a web must stand between the two ends of the outline: more than 0, less than 1")
            if len(self._crossings(web)) != 2:
                raise MemberError(f"a web at {web:g} of the width meets the outline more than twice: move it")

    @cached_property
    def _as_drawn(self) -> np.ndarray:
        """(n, 2) as shares of width and height, y from 0, z from −½."""
        values = np.array(self.points, float)
        return (values - values.min(axis=0)) / np.ptp(values, axis=0) - [0.0, 0.5]

    @cached_property
    def shares(self) -> np.ndarray:
        """(n, 2) as shares of width and height, y from 0, z from −½; the way of the clock with y to the right."""
        p = self._as_drawn
        after = np.roll(p, -1, axis=0)
        return p[::-1] if float((p[:, 0] * after[:, 1] - after[:, 0] * p[:, 1]).sum()) > 0.0 else p

    @property
    def aspect(self) -> float:
        """Height over width as drawn."""
        size = np.ptp(np.array(self.points, float), axis=0)
        return float(size[1] / size[0])

    def _crossings(self, y: float) -> list[tuple[int, float]]:
        """(edge, share of it) where the outline passes a place across."""
        p, crossings = self.shares, []
        for i in range(len(p)):
            a, b = p[i, 0] - y, p[(i + 1) % len(p), 0] - y
            if (a <= 0.0 < b) or (b <= 0.0 < a):
                crossings.append((i, float(a / (a - b))))
        return crossings

    def walls(self, caps: bool) -> tuple[str, ...]:
        """Names of its walls: the skin, caps where webs meet it, and the webs."""
        webs = {1: ("web",), 2: ("front web", "rear web")}.get(
            len(self.webs), tuple(f"web {i + 1}" for i in range(len(self.webs)))
        )
        return ("skin", *(("upper cap", "lower cap") if caps and self.webs else ()), *webs)

    def cut(self, cap: float) -> Cut:
        """The outline with a node wherever a web or the end of a cap lies; ``cap`` : its width as a share.

        Raises MemberError where caps reach over the ends of the outline.
        """
        marks: dict[float, str] = {web: f"web {i}" for i, web in enumerate(self.webs)}
        if cap > 0.0:
            for web in self.webs:
                for end in (web - cap / 2.0, web + cap / 2.0):
                    if not 0.0 < end < 1.0:
                        raise MemberError("the caps are wider than the outline leaves room for")
                    marks.setdefault(end, "")
        p = self.shares
        on_vertex: dict[int, list[str]] = {}
        added: dict[int, list[tuple[float, str]]] = {}
        for y, what in marks.items():
            crossings = self._crossings(y)
            if len(crossings) != 2:
                raise MemberError("the end of a cap meets the outline more than twice: make it narrower")
            for edge, share in crossings:
                ends = edge, (edge + 1) % len(p)
                place = p[ends[0]] + share * (p[ends[1]] - p[ends[0]])
                near = next((k for k in ends if np.hypot(*(place - p[k])) < SNAP), None)
                if near is not None:
                    on_vertex.setdefault(near, []).append(what)
                else:
                    added.setdefault(edge, []).append((share, what))
        points: list[np.ndarray] = []
        meets: dict[str, list[int]] = {}
        for i in range(len(p)):
            points.append(p[i])
            for what in on_vertex.get(i, ()):
                meets.setdefault(what, []).append(len(points) - 1)
            for share, what in sorted(added.get(i, ())):
                points.append(p[i] + share * (p[(i + 1) % len(p)] - p[i]))
                meets.setdefault(what, []).append(len(points) - 1)
        table = np.array(points)
        middles = (table + np.roll(table, -1, axis=0)) / 2.0
        inside = np.array([cap > 0.0 and any(abs(y - web) < cap / 2.0 for web in self.webs) for y in middles[:, 0]])
        upper = np.roll(table, -1, axis=0)[:, 0] > table[:, 0]  # the way of the clock goes to the right on top
        corners = [sorted(meets[f"web {i}"], key=lambda k: -table[k, 1]) for i in range(len(self.webs))]
        return Cut(table, np.where(inside, np.where(upper, 1, 2), 0), tuple((two[0], two[1]) for two in corners))


class Cut(msgspec.Struct, frozen=True, eq=False):
    """``points`` : (n, 2) shares; ``kinds`` : (n,) of the piece from each point on: 0 skin, 1 upper and 2 lower cap;
    ``webs`` : upper and lower point of each."""

    points: np.ndarray
    kinds: np.ndarray
    webs: tuple[tuple[int, int], ...]


def inset(outside: np.ndarray, thickness: np.ndarray) -> np.ndarray:
    """Corners of the mid-line (stations, n, 2) of closed outlines (stations, n, 2) the way of the clock, whose pieces
    are ``thickness`` (stations, n) m thick.  Raises MemberError at a corner too sharp for its walls."""
    along = np.roll(outside, -1, axis=1) - outside
    along = along / np.linalg.norm(along, axis=2, keepdims=True)
    inward = np.stack([along[..., 1], -along[..., 0]], axis=-1)
    before, half = np.roll(inward, 1, axis=1), thickness / 2.0
    half_before = np.roll(half, 1, axis=1)
    cosine = (inward * before).sum(axis=-1)
    # the displacement d with d·n = half on both sides, in the plane of both normals; along the bisector where they are
    # as good as one
    with np.errstate(divide="ignore", invalid="ignore"):
        a = (half - half_before * cosine) / (1.0 - cosine**2)
        b = (half_before - half * cosine) / (1.0 - cosine**2)
        moved = a[..., None] * inward + b[..., None] * before
    bisector = inward + before
    bisector = bisector / np.linalg.norm(bisector, axis=-1, keepdims=True)
    moved = np.where((cosine > 0.98)[..., None], bisector * ((half + half_before) / 2.0)[..., None], moved)
    too_far = np.linalg.norm(moved, axis=-1) > SHARPEST * np.maximum(half, half_before)
    if too_far.any():
        raise MemberError("the outline is too sharp at a corner for its walls: cut it off there, as a real part is")
    new = outside + moved
    turned = ((np.roll(new, -1, axis=1) - new) * along).sum(axis=-1) <= 0.0
    if turned.any():
        raise MemberError("the walls are too thick for the outline: pieces of their middle have no length left")
    return new


def _cross(a: np.ndarray, b: np.ndarray, c: np.ndarray, d: np.ndarray) -> bool:
    """Whether two lines from a to b and from c to d cross or touch."""

    def side(p: np.ndarray, q: np.ndarray, r: np.ndarray) -> float:
        area = float((q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0]))
        return 0.0 if abs(area) < 1e-12 else area

    if not (side(a, b, c) or side(a, b, d)):  # all on one line: do they lie over each other?
        along = (b - a) / float((b - a) @ (b - a))
        ends = sorted((float((c - a) @ along), float((d - a) @ along)))
        return ends[0] <= 1.0 and ends[1] >= 0.0
    return side(a, b, c) * side(a, b, d) <= 0.0 and side(c, d, a) * side(c, d, b) <= 0.0
