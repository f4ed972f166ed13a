"""The outline of a member's section at a station, for pictures: what is drawn at one scale beside others."""

from __future__ import annotations

from functools import cached_property

import msgspec
import numpy as np

from omakase.core.laminate.stack import Stack
from omakase.core.members.field import Response
from omakase.core.members.panel import PanelResponse
from omakase.core.members.spar import SparResponse
from omakase.core.members.stretches import stretch_at
from omakase.core.members.strip import StripResponse
from omakase.core.members.surface import SurfaceResponse
from omakase.core.members.tube import TubeResponse


class OutlineWall(msgspec.Struct, frozen=True, eq=False):
    """A wall of a section: its ``stack``, and the lines of its middle, y and z in m, each with face A to its left."""

    name: str
    stack: Stack
    lines: tuple[tuple[tuple[float, float], ...], ...]


class Outline(msgspec.Struct, frozen=True, eq=False, dict=True):
    """A section: its ``stack`` there, its height in m, and its shape.

    ``ring`` : outside diameter of a round one.  ``line`` : (n, 2) y and z in m of the middle of a bent wall, else
    empty; a flat wall is a bar of its stack.  ``walls`` : of a section of several.  ``inside`` : corners of what a core
    of a ``filling`` family fills, empty where it is hollow.
    """

    stack: Stack
    height: float
    ring: float = 0.0
    line: tuple[tuple[float, float], ...] = ()
    walls: tuple[OutlineWall, ...] = ()
    inside: tuple[tuple[float, float], ...] = ()
    filling: str = ""

    def at(self, wall: str, along: float | None) -> tuple[float, float] | None:
        """y and z in m of a place ``along`` a wall's middle, m, or of its own middle; None where it has none."""
        drawn = next((outlined for outlined in self.walls if outlined.name == wall), None)
        if drawn is None:
            return None
        steps = np.concatenate([np.hypot(*np.diff(np.array(line), axis=0).T) for line in drawn.lines])
        starts = np.concatenate([np.array(line[:-1]) for line in drawn.lines])
        ends = np.concatenate([np.array(line[1:]) for line in drawn.lines])
        before = np.concatenate([[0.0], np.cumsum(steps)])
        place = before[-1] / 2.0 if along is None else min(max(along, 0.0), float(before[-1]))
        k = min(int(np.searchsorted(before, place, "right")) - 1, len(steps) - 1)
        share = (place - before[k]) / steps[k]
        y, z = starts[k] + share * (ends[k] - starts[k])
        return float(y), float(z)

    @cached_property
    def frame(self) -> tuple[float, float, float, float]:
        """Left, bottom, right and top in m of a section of several walls, over its outside."""
        corners = []
        for wall in self.walls:
            for line in wall.lines:
                points = np.array(line)
                along = np.diff(points, axis=0)
                aside = along[:, ::-1] / np.hypot(*along.T)[:, None] * [-1.0, 1.0] * wall.stack.thickness / 2.0
                corners += [end + side * aside for end in (points[:-1], points[1:]) for side in (-1.0, 1.0)]
        (left, bottom), (right, top) = np.concatenate(corners).min(axis=0), np.concatenate(corners).max(axis=0)
        return float(left), float(bottom), float(right), float(top)


def outline(response: Response, stack: Stack, station: float) -> Outline:
    """The section of a response at a station along it."""
    if isinstance(response, TubeResponse):
        plate, radius, _ = response.wall(station)
        outside = 2.0 * radius + plate.stack.thickness
        return Outline(plate.stack, outside, outside)
    if isinstance(response, SparResponse):
        return _spar(response, station)
    if isinstance(response, StripResponse):
        at = np.array([station])
        here = response.stretches[int(stretch_at(response.stretches, at)[0])].stack
        line, width = response.section.line, float(response.member.width(at)[0])
        if not response.section.bent:
            return Outline(here, here.thickness)
        points = tuple(zip((line.y * width).tolist(), (line.z * width).tolist(), strict=True))
        return Outline(here, here.thickness + line.height * width, line=points)
    if isinstance(response, PanelResponse):  # of a patchwork the layup of most of it
        stack = response.section.stack
    return Outline(stack, stack.thickness)


def _spar(response: SparResponse, station: float) -> Outline:
    lines, plates = response.lines_at(station)
    walls = []
    for wall, plate in zip(response.walls, plates, strict=True):
        runs = []
        for chain in response.chains:
            if chain.wall == wall.name:
                nodes = lines.through(chain.pieces)
                runs.append(tuple((float(y), float(z)) for y, z in lines.nodes[0, nodes]))
        walls.append(OutlineWall(wall.name, plate.stack, tuple(runs)))
    outline = Outline(plates[0].stack, 0.0, walls=tuple(walls))
    outline = msgspec.structs.replace(outline, height=outline.frame[3] - outline.frame[1])
    if not isinstance(response, SurfaceResponse) or response.surface.filling is None:
        return outline
    corners = lines.nodes[0, lines.pieces[response.round_it(lines), 0]].tolist()
    inside = tuple((float(y), float(z)) for y, z in corners)
    return msgspec.structs.replace(outline, inside=inside, filling=response.surface.filling.family)
