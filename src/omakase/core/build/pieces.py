"""Flat pieces of cloth and core: their outline, the way their warp runs, and how they lie on a roll.

Outlines are (n, 2) arrays in m without the first point repeated, x along the member's datum, angles in degrees
from it.  Areas by the shoelace formula; offsets, cuts and holes by shapely.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING

import msgspec
import numpy as np

from omakase.core.build.errors import BuildError

if TYPE_CHECKING:
    from shapely import Polygon

ROUND_POINTS = 96  # of a round piece, drawn around its circle so that nothing is missing
LEAST_PART = 1e-8  # m²: what a cut leaves below that is no piece


class Piece(msgspec.Struct, frozen=True, eq=False):
    """A flat piece.

    ``outline`` : (n, 2) m.  ``grain`` : angle of the warp, or of a core's ribbon, from x.  ``holes`` : outlines of what
    is not there.  ``turns`` : angles by which it may be turned on the roll and still be the same piece.
    """

    outline: np.ndarray
    grain: float = 0.0
    holes: tuple[np.ndarray, ...] = ()
    turns: tuple[float, ...] = (0.0, 180.0)

    @property
    def area(self) -> float:
        """m² that are there, without its holes."""
        return shoelace(self.outline) - sum(shoelace(hole) for hole in self.holes)

    @property
    def gross(self) -> float:
        """m² within its outline."""
        return shoelace(self.outline)

    @property
    def size(self) -> tuple[float, float]:
        """m along x and across."""
        along, across = np.ptp(self.outline, axis=0)
        return float(along), float(across)


def shoelace(outline: np.ndarray) -> float:
    """Area in m² of a polygon, whichever way round it runs."""
    x, y = outline.T
    return abs(float(x @ np.roll(y, -1) - y @ np.roll(x, -1))) / 2.0


def rectangle(length: float, width: float, x: float = 0.0, y: float = 0.0) -> np.ndarray:
    """Outline of a rectangle from (x, y)."""
    return np.array([(x, y), (x + length, y), (x + length, y + width), (x, y + width)])


def oval(length: float, width: float) -> np.ndarray:
    """Outline of an ellipse of these axes: a polygon of the same area, whose corners reach out by 0.07 %."""
    angle = 2.0 * np.pi * np.arange(ROUND_POINTS) / ROUND_POINTS
    step = 2.0 * np.pi / ROUND_POINTS
    out = math.sqrt(step / math.sin(step))
    return np.column_stack([length / 2.0 * (1.0 + out * np.cos(angle)), width / 2.0 * (1.0 + out * np.sin(angle))])


def from_widths(x: Sequence[float] | np.ndarray, widths: Sequence[float] | np.ndarray) -> np.ndarray:
    """Outline of what is ``widths`` m wide at the stations ``x``, straight between them and even about its middle."""
    x, half = np.asarray(x, float), np.asarray(widths, float) / 2.0
    lower, upper = np.column_stack([x, -half]), np.column_stack([x, half])
    ring = np.vstack([lower, upper[::-1]])
    keep = np.hypot(*(ring - np.roll(ring, 1, axis=0)).T) > 1e-12
    return ring[keep]


def turned(points: np.ndarray, angle: float) -> np.ndarray:
    """Points turned by ``angle`` degrees about the origin, counter-clockwise."""
    c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))
    return points @ np.array([[c, s], [-s, c]])


def mirrored(piece: Piece) -> Piece:
    """The piece seen from its other side: what is cut from a cloth that is laid with its face down."""
    flip = np.array([1.0, -1.0])
    return msgspec.structs.replace(
        piece, outline=(piece.outline * flip)[::-1], grain=-piece.grain,
        holes=tuple((hole * flip)[::-1] for hole in piece.holes),
    )  # fmt: skip


def with_trim(piece: Piece, trim: float) -> Piece:
    """The piece with ``trim`` m more all round, its corners kept sharp; holes get as much smaller, and may close."""
    if trim <= 0.0:
        return piece
    outline = _ring(_polygon(piece.outline).buffer(trim, join_style="mitre", mitre_limit=2.5))
    holes = []
    for hole in piece.holes:
        inner = _polygon(hole).buffer(-trim, join_style="mitre")
        holes += [_ring(part) for part in _parts(inner)]
    return msgspec.structs.replace(piece, outline=outline, holes=tuple(holes))


def cut_to_fit(piece: Piece, width: float, overlap: float, length: float = 0.0) -> list[Piece]:
    """The piece in strips along its warp that fit a roll ``width`` m wide; ``overlap`` m at each splice, 0 butts them.

    Of a sheet ``length`` m long also across.  What fits whole in any of its turns stays whole.  Pieces keep the
    member's axes.  Raises BuildError where the overlap leaves no width.
    """
    for turn in piece.turns:
        long, wide = np.ptp(turned(piece.outline, turn - piece.grain), axis=0) * (1.0 - 1e-9)
        if wide <= width and (not length or long <= length):
            return [piece]
    on_roll = turned(piece.outline, -piece.grain)
    low, size = on_roll.min(axis=0), np.ptp(on_roll, axis=0)
    across = strips(float(size[1]), width, overlap)
    along = strips(float(size[0]), length, overlap) if length > 0.0 else [(0.0, float(size[0]))]
    whole = _polygon(on_roll, [turned(hole, -piece.grain) for hole in piece.holes])
    made = []
    for x0, x1 in along:
        for y0, y1 in across:
            window = _polygon(rectangle(x1 - x0, y1 - y0, low[0] + x0, low[1] + y0))
            for part in _parts(whole.intersection(window)):
                made.append(
                    msgspec.structs.replace(
                        piece, outline=turned(_ring(part), piece.grain),
                        holes=tuple(turned(np.asarray(hole.coords)[:-1], piece.grain) for hole in part.interiors),
                    )
                )  # fmt: skip
    return made


def strips(size: float, most: float, overlap: float) -> list[tuple[float, float]]:
    """(from, to) of equal strips at most ``most`` m wide that cover ``size`` m and overlap.  Raises BuildError."""
    if size <= most * (1.0 + 1e-9):
        return [(0.0, size)]
    if most <= overlap:
        raise BuildError("the overlap of a splice is wider than the roll", "splice")
    count = math.ceil((size - overlap) / (most - overlap) - 1e-9)
    each = (size + (count - 1) * overlap) / count
    step = each - overlap
    return [(i * step, i * step + each) for i in range(count)]


def without(
    outline: np.ndarray, boxes: Sequence[np.ndarray], holes: Sequence[np.ndarray] = ()
) -> list[tuple[np.ndarray, tuple[np.ndarray, ...]]]:
    """(outline, holes) of each part of a polygon with ``holes`` that lies outside some others."""
    rest = _polygon(outline, holes)
    for box in boxes:
        rest = rest.difference(_polygon(box))
    return _outlines(rest)


def within(outline: np.ndarray, boxes: Sequence[np.ndarray]) -> list[tuple[np.ndarray, tuple[np.ndarray, ...]]]:
    """(outline, holes) of each part of a polygon that lies in any of some others."""
    import shapely

    return _outlines(_polygon(outline).intersection(shapely.union_all([_polygon(box) for box in boxes])))


def _outlines(shape: object) -> list[tuple[np.ndarray, tuple[np.ndarray, ...]]]:
    return [
        (_ring(part), tuple(np.asarray(hole.coords)[:-1] for hole in part.interiors)) for part in _parts(shape)
    ]  # fmt: skip


def _polygon(outline: np.ndarray, holes: Sequence[np.ndarray] = ()) -> Polygon:
    import shapely  # not before it is needed: the window starts without it

    return shapely.Polygon(outline, holes)


def _parts(shape: object) -> list[Polygon]:
    """Polygons of whatever a cut has left, without slivers."""
    parts = getattr(shape, "geoms", [shape])
    return [part for part in parts if part.geom_type == "Polygon" and part.area > LEAST_PART]


def _ring(part: Polygon) -> np.ndarray:
    return np.asarray(part.exterior.coords)[:-1]
