"""Drawings as data: lines, areas and words in the member's own metres; the window and paper each have one painter.

x to the right, y up, both m.  Widths of lines and sizes of marks are those of the painter, so that a drawing is
sharp at any scale.  ``role`` names a colour of the theme.
"""

from __future__ import annotations

from typing import Literal

import msgspec

Role = Literal["ink", "quiet", "accent", "alarm", "line", "low", "high", "fill"]
Point = tuple[float, float]


class Line(msgspec.Struct, frozen=True):
    """A line through points; closed and filled with a role where one is named."""

    points: tuple[Point, ...]
    role: Role = "ink"
    width: float = 1.2
    dashed: bool = False
    fill: str = ""
    family: str = ""  # material family that tones the fill


class Arrow(msgspec.Struct, frozen=True):
    """An arrow that ends at ``tip``, ``length`` in px of the screen, coming from the direction (dx, dy)."""

    tip: Point
    direction: Point
    length: float = 26.0
    role: Role = "accent"
    turning: bool = False  # a moment or torque: an arc with a head


class Mark(msgspec.Struct, frozen=True):
    """A sign of fixed size at a place: supports, the worst place, the largest value."""

    at: Point
    kind: Literal["clamp", "knife", "cross", "ring", "dot", "mass"]
    role: Role = "ink"


class Note(msgspec.Struct, frozen=True):
    """Words at a place; ``side`` says on which side of it they stand."""

    at: Point
    text: str
    side: Literal["above", "below", "left", "right", "centre"] = "above"
    role: Role = "ink"


class Handle(msgspec.Struct, frozen=True):
    """A place that can be dragged along x: what it sets by its path in the record, and how far."""

    at: Point
    path: tuple[str | int, ...]
    low: float
    high: float


Shape = Line | Arrow | Mark | Note


class Drawing(msgspec.Struct, frozen=True):
    """Shapes, the frame they lie in (left, bottom, right, top) in m, and whether both axes share one scale."""

    shapes: tuple[Shape, ...]
    frame: tuple[float, float, float, float]
    even: bool = True
    handles: tuple[Handle, ...] = ()
