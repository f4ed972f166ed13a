"""The outline of a member's section at a station, for pictures: what is drawn at one scale beside others."""

from __future__ import annotations

import msgspec
import numpy as np

from omakase.core.laminate.stack import Stack
from omakase.core.members.field import Response
from omakase.core.members.stretches import stretch_at
from omakase.core.members.strip import StripResponse
from omakase.core.members.tube import TubeResponse


class Outline(msgspec.Struct, frozen=True, eq=False):
    """A section: its ``stack`` there, its height in m, and its shape.

    ``ring`` : outside diameter of a round one.  ``line`` : (n, 2) y and z in m of the middle of a bent wall, else
    empty; a flat wall is a bar of its stack.
    """

    stack: Stack
    height: float
    ring: float = 0.0
    line: tuple[tuple[float, float], ...] = ()


def outline(response: Response, stack: Stack, station: float) -> Outline:
    """The section of a response at a station along it."""
    if isinstance(response, TubeResponse):
        plate, radius, _ = response.wall(station)
        outside = 2.0 * radius + plate.stack.thickness
        return Outline(plate.stack, outside, outside)
    if isinstance(response, StripResponse):
        at = np.array([station])
        own = response.stretches[int(stretch_at(response.stretches, at)[0])].stack
        line, width = response.section.line, float(response.member.width(at)[0])
        if not response.section.bent:
            return Outline(own, own.thickness)
        points = tuple(zip((line.y * width).tolist(), (line.z * width).tolist(), strict=True))
        return Outline(own, own.thickness + line.height * width, line=points)
    return Outline(stack, stack.thickness)
