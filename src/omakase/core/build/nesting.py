"""Pieces laid out on rolls and sheets, with their warp along the roll.

Rows run along the roll.  In each row a piece reaches from its least to its largest x there, so that a band of rows
contains the whole of it; it is pushed against what lies before it in its rows, at the place across the roll that wastes
least. The order of the pieces is improved by swapping, a set number of times, so that the same job always gives the
same layout.  No layout is shorter than the area bound Σ areas / width: the yield is stated against what is bought.
"""

from __future__ import annotations

import math
import random
from collections.abc import Callable, Sequence

import msgspec
import numpy as np

from omakase.core.build.errors import BuildError
from omakase.core.build.pieces import Piece, turned

ROWS = 200  # at least so many across a roll
FINEST = 0.002  # m, of a row
WASTE = 0.5  # how much an empty stretch before a piece counts against its end lying further out
PATIENCE = 40  # tries without a shorter layout, after which no more are made
MANY = 60  # pieces above which fewer orders are tried


class Band(msgspec.Struct, frozen=True, eq=False):
    """A piece turned as it may lie: in each row its least x and its largest with the spacing, m; ``origin`` : what
    is taken off its turned points.  ``least``, ``mean`` : of its least, ``most`` : of its largest x."""

    turn: float
    low: np.ndarray
    high: np.ndarray
    origin: np.ndarray
    least: float
    mean: float
    most: float


class Placed(msgspec.Struct, frozen=True):
    """Where a piece lies: ``index`` of the piece, turned by ``turn`` degrees from the member's axes, then moved by
    (``x``, ``y``) m; ``sheet`` : on which sheet, 0 on a roll."""

    index: int
    turn: float
    x: float
    y: float
    sheet: int = 0

    def outline(self, piece: Piece) -> np.ndarray:
        """Of the piece as it lies, m."""
        return turned(piece.outline, self.turn) + np.array([self.x, self.y])

    def holes(self, piece: Piece) -> list[np.ndarray]:
        return [turned(hole, self.turn) + np.array([self.x, self.y]) for hole in piece.holes]


class Layout(msgspec.Struct, frozen=True, eq=False):
    """A roll ``width`` m wide with its pieces, ``length`` m long in all; of sheets each is so long, and there are
    ``sheets``, the last of them used up to ``end`` m.  ``area`` : m² of the pieces, without their holes."""

    width: float
    length: float
    placed: tuple[Placed, ...]
    area: float
    sheets: int = 0
    end: float = 0.0

    @property
    def bought(self) -> float:
        """m² of cloth or sheet that the pieces take; what lies behind the last of them goes back on the shelf."""
        return self.width * (self.length * max(self.sheets - 1, 0) + self.end)

    @property
    def offcut(self) -> float:
        """m of the last sheet that are left; 0 of a roll."""
        return self.length - self.end

    @property
    def used(self) -> float:
        """Share of it that is in the pieces."""
        return self.area / self.bought if self.bought > 0.0 else 0.0

    @property
    def bound(self) -> float:
        """m of roll below which no layout can be."""
        return self.area / self.width


def lay_out(
    pieces: Sequence[Piece], width: float, spacing: float = 0.0, tries: int = 40, length: float = 0.0,
    cancelled: Callable[[], bool] = lambda: False,
) -> Layout:  # fmt: skip
    """Pieces on a roll ``width`` m wide, or on sheets also ``length`` m long; ``spacing`` m between any two.

    ``tries`` : orders that are tried.  Raises BuildError for a piece that fits in no way.
    """
    if not (width > 0.0 and math.isfinite(width)):
        raise BuildError("the roll needs a width", "width")
    row = max(FINEST, width / ROWS)
    count = int((width + spacing) / row + 1e-9)
    made: dict[object, list[Band]] = {}  # alike pieces are banded once
    bands = []
    for index, piece in enumerate(pieces):
        key = piece.outline.tobytes(), piece.grain, piece.turns
        if key not in made:
            made[key] = _bands(piece, row, count, spacing, width, length)
        if not made[key]:
            raise BuildError(f"piece {index + 1} is larger than the roll or sheet", "width")
        bands.append(made[key])
    order = sorted(range(len(pieces)), key=lambda i: -min(band.most for band in bands[i]))
    best = _laid(bands, order, count, row, spacing, length)
    chance = random.Random(len(pieces))
    if len(pieces) > MANY:
        tries = tries * MANY // len(pieces)
    waited = 0  # tries since the last shorter layout
    for _ in range(tries if len(pieces) > 2 else 0):
        if cancelled() or waited > PATIENCE:
            break
        other = order[:]
        for _ in range(chance.randint(1, 3)):
            i, j = chance.sample(range(len(other)), 2)
            other[i], other[j] = other[j], other[i]
        trial = _laid(bands, other, count, row, spacing, length)
        waited = 0 if trial[:2] < best[:2] else waited + 1
        if trial[:2] <= best[:2]:
            best, order = trial, other
    sheets, end, placed = best
    area = sum(piece.area for piece in pieces)
    return Layout(width, length or end, tuple(placed), area, sheets if length else 0, end)


def _bands(piece: Piece, row: float, count: int, spacing: float, width: float, length: float) -> list[Band]:
    """The piece in each way that it may lie and fits."""
    made = []
    for turn in piece.turns:
        points = turned(piece.outline, turn - piece.grain)
        size = np.ptp(points, axis=0)
        if size[1] <= width * (1.0 + 1e-9) and (not length or size[0] <= length * (1.0 + 1e-9)):
            low, high = reach(points - points.min(axis=0), row, spacing)
            low, high = low[:count], high[:count]  # of a piece as wide as the roll the spacing lies outside it
            least, mean, most = float(low.min()), float(low.mean()), float(high.max())
            made.append(Band(turn - piece.grain, low, high, points.min(axis=0), least, mean, most))
    return made


def reach(points: np.ndarray, row: float, spacing: float) -> tuple[np.ndarray, np.ndarray]:
    """(least, largest with spacing) x of a polygon in each row of height ``row``, its points not below zero.

    Rows over which the spacing reaches belong to it, so that what lies in other rows keeps its distance across.
    """
    height = float(points[:, 1].max())
    rows = max(1, math.ceil(height / row - 1e-9))
    low, high = np.full(rows, np.inf), np.full(rows, -np.inf)
    for (x0, y0), (x1, y1) in zip(points, np.roll(points, -1, axis=0), strict=True):
        if y1 < y0:
            x0, y0, x1, y1 = x1, y1, x0, y0
        first = min(int(y0 / row + 1e-9), rows - 1)
        last = max(first, min(rows, math.ceil(y1 / row - 1e-9)) - 1)
        k = np.arange(first, last + 1)
        if y1 - y0 > 1e-12:
            slope = (x1 - x0) / (y1 - y0)
            ends = x0 + slope * (np.clip([k * row, (k + 1) * row], y0, y1) - y0)
        else:
            ends = np.array([np.full(len(k), x0), np.full(len(k), x1)])
        low[k] = np.minimum(low[k], ends.min(axis=0))
        high[k] = np.maximum(high[k], ends.max(axis=0))
    # spacing across: a piece takes also the rows above it that begin within the spacing from its own top
    above = math.ceil((height + spacing) / row - 1e-9) - rows if spacing > 0.0 else 0
    wide_low = np.concatenate([low, np.full(above, np.inf)])
    wide_high = np.concatenate([high, np.full(above, -np.inf)])
    for step in range(1, math.ceil(spacing / row - 1e-9) + 1 if spacing > 0.0 else 1):
        to = slice(step, min(step + rows, rows + above))
        taken = to.stop - step
        wide_low[to] = np.minimum(wide_low[to], low[:taken])
        wide_high[to] = np.maximum(wide_high[to], high[:taken])
    return wide_low, wide_high + spacing


def _laid(
    bands: Sequence[Sequence[Band]], order: Sequence[int], count: int, row: float, spacing: float, length: float
) -> tuple[int, float, list[Placed]]:
    """(sheets, end of the last, places) of pieces laid one after another."""
    fronts = [np.zeros(count)]
    placed = []
    for index in order:
        best: tuple[float, int, int, float, Band] | None = None
        for sheet, front in enumerate(fronts):
            sums = np.concatenate([[0.0], np.cumsum(front)])
            for band in bands[index]:
                rows = len(band.low)
                step = front.strides[0]
                windows = np.ndarray((count - rows + 1, rows), float, front, 0, (step, step))
                x = np.maximum((windows - band.low).max(axis=1), -band.least)
                end = x + band.most
                gap = x + band.mean - (sums[rows:] - sums[:-rows]) / rows
                # of equal places the one nearest to the edge, whatever rounding says
                value = np.round(end + WASTE * gap, 9)
                if length:
                    value = np.where(end - spacing <= length * (1.0 + 1e-9), value, np.inf)
                at = int(value.argmin())
                if math.isfinite(value[at]) and (best is None or value[at] < best[0] - 1e-12):
                    best = float(value[at]), sheet, at, float(x[at]), band
            if best is not None and length:
                break  # the first sheet with room
        if best is None:
            fronts.append(np.zeros(count))
            band = bands[index][0]
            best = 0.0, len(fronts) - 1, 0, -band.least, band
        _, sheet, at, x_at, band = best
        rows = min(len(band.low), count - at)
        part = fronts[sheet][at : at + rows]
        np.maximum(part, x_at + band.high[:rows], out=part)
        placed.append(Placed(index, band.turn, x_at - band.origin[0], at * row - band.origin[1], sheet))
    end = float(fronts[-1].max()) - spacing
    return len(fronts), max(end, 0.0), placed
