"""Outlines of sections from files of coordinates: two numbers a line, in the order in which they are joined."""

from __future__ import annotations

import math
import re

from omakase.core.errors import LayupError
from omakase.core.sections.drawn import MOST_POINTS, DrawnOutline
from omakase.project.spans import OutlinePoint

MOST_LINES = 5000
COMMENT = "#"


class OutlineFileError(LayupError):
    """A file of coordinates that cannot be read; the message names the line."""


def read_outline(text: str) -> tuple[OutlinePoint, ...]:
    """Points of a closed outline from text: y and z on each line, apart by spaces, tabs, commas or semicolons.

    Lines that begin with # and empty ones count for nothing, and a first line without numbers is a title.  The first
    point may be repeated at the end.  Of very many points those are kept that say most of the shape.
    Raises OutlineFileError naming the line, or MemberError for an outline that crosses itself.
    """
    points: list[tuple[float, float]] = []
    lines: list[int] = []
    rows = text.splitlines()
    if len(rows) > MOST_LINES:
        raise OutlineFileError(f"{len(rows):,} lines are more than the {MOST_LINES:,} that an outline may have")
    for number, row in enumerate(rows, 1):
        plain = row.strip()
        if not plain or plain.startswith(COMMENT):
            continue
        try:
            point = _numbers(plain)
        except ValueError as error:
            if not points and not re.match(r"[-+.\d]", plain):
                continue  # a title
            raise OutlineFileError(f"line {number}: {error}") from None
        if points and point == points[-1]:
            raise OutlineFileError(f"line {number}: the same point as on line {lines[-1]}")
        points.append(point)
        lines.append(number)
    if len(points) > 1 and points[0] == points[-1]:
        points.pop()
    if len(points) < 3:
        raise OutlineFileError(f"an outline needs three points or more: {len(points)} found, two numbers a line")
    kept = _fewer(points)
    DrawnOutline(tuple(kept))
    return tuple(OutlinePoint(y, z) for y, z in kept)


def _numbers(row: str) -> tuple[float, float]:
    """Raises ValueError in words."""
    # a comma between digits is a decimal one where something else keeps the two numbers apart
    parts = [part for part in re.split(r"[;\t ]+", row) if part]
    if len(parts) == 1:
        parts = row.split(",")
    elif any("," in part.strip(",") for part in parts):
        parts = [part.replace(",", ".") for part in parts]
    parts = [part.strip(", ") for part in parts if part.strip(", ")]
    if len(parts) != 2:
        raise ValueError(f"two numbers are wanted, found '{row[:40]}'")
    values = []
    for part in parts:
        try:
            values.append(float(part))
        except ValueError:
            raise ValueError(f"'{part[:20]}' is not a number") from None
        if not math.isfinite(values[-1]):
            raise ValueError(f"'{part[:20]}' is not a finite number")
    return values[0], values[1]


def _fewer(points: list[tuple[float, float]]) -> list[tuple[float, float]]:
    """At most MOST_POINTS: the one that changes the shape least is left out, again and again."""
    kept = list(points)
    while len(kept) > MOST_POINTS - 16:  # room for the nodes of webs and caps
        areas = [
            abs((b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]))
            for a, b, c in zip([kept[-1], *kept[:-1]], kept, [*kept[1:], kept[0]], strict=True)
        ]
        kept.pop(areas.index(min(areas)))
    return kept
