"""Supports of a panel other than its edges, as energies of its grid, and the forces that they carry."""

from __future__ import annotations

import math

import msgspec
import numpy as np

from omakase.core.members.panel_given import Bolt, Held, Surface
from omakase.core.plates.assembly import Assembler
from omakase.core.plates.attached import HELD_UP, Attached, OnArea, OnLine
from omakase.core.plates.lines import FADING, Fixed

RIGID = 1e7  # times D/size² of a bolt, D/size³ of a line of support: it deflects by about 1e-5 of the panel's sag
EDGE_TITLES = ("left end", "right end", "near side", "far side")


class Reaction(msgspec.Struct, frozen=True):
    """What a support takes under one load case: ``force`` N, positive pushing the panel up, toward face A.

    ``kind`` : "bolt", "line" or "edge", and ``name`` which one.  ``x``, ``y`` : where, m; of a line or edge where its
    force per length is the largest, ``most`` N/m.  ``shear`` : N that a bolt takes in the plane.
    """

    kind: str
    name: str
    force: float
    x: float
    y: float
    most: float | None = None
    shear: float = 0.0


class Holding:
    """A panel's ``held`` on its ``surface``.

    ``bending``, ``stretching`` : the largest bending and membrane stiffness of the panel's sections, N m and N/m, by
    which rigid supports are measured.
    """

    def __init__(self, held: Held, surface: Surface, bending: float, stretching: float) -> None:
        self._held, self._surface = held, surface
        size = max(surface.length, surface.width)
        self._bolt, self._line, self._plane = (
            RIGID * bending / size**2, RIGID * bending / size**3, RIGID * stretching * 1e-3,
        )  # fmt: skip
        self.bounds = tuple(washer_bounds(surface, bolt) for bolt in held.bolts)

    def fixed(self) -> tuple[Fixed, Fixed]:
        """The lines that it asks for along x and along y."""
        surface, held = self._surface, self._held
        return (
            Fixed(tuple(surface.x.along(x) for x in held.across), tuple((own[0], own[1]) for own in self.bounds)),
            Fixed(tuple(surface.y.along(y) for y in held.along), tuple((own[2], own[3]) for own in self.bounds)),
        )

    def _areas(self, assembler: Assembler) -> list[list[OnArea]]:
        """Of every bolt what it holds up, and in the plane.  Of a washer that a line of the grid cuts, the larger part
        holds."""
        grid = assembler.grid
        areas = []
        for bolt, (low_x, high_x, low_y, high_y) in zip(self._held.bolts, self.bounds, strict=True):
            bounds = *_uncut(low_x, high_x, grid.x_nodes), *_uncut(low_y, high_y, grid.y_nodes)
            held = [OnArea("w", self._bolt, bounds)]
            if bolt.in_plane and "u" in assembler.grid.fields:
                held += [OnArea("u", self._plane, bounds), OnArea("v", self._plane, bounds)]
            areas.append(held)
        return areas

    def _lines(self) -> list[tuple[str, str, OnLine]]:
        """(kind, name, line) of lines of support and elastic edges."""
        held, surface = self._held, self._surface
        length, width = surface.length, surface.width
        lines = []
        for along_x, places, arc, reach in (
            (False, held.across, surface.x, width),
            (True, held.along, surface.y, length),
        ):
            for k, place in enumerate(places):
                name = f"line {'along' if along_x else 'across'} {k + 1}"
                stiff = np.array([[self._line]])
                lines.append(("line", name, OnLine(along_x, arc.along(place), 0.0, reach, HELD_UP, stiff)))
        ends = ((False, 0.0, width), (False, length, width), (True, 0.0, length), (True, width, length))
        for name, (along_x, place, reach), spring in zip(EDGE_TITLES, ends, held.springs, strict=True):
            if spring:
                lines.append(("edge", name, OnLine(along_x, place, 0.0, reach, HELD_UP, np.array([[spring]]))))
        return lines

    def beside(self, x: np.ndarray, y: np.ndarray, fading: float) -> np.ndarray:
        """Places (x, y) on the surface under a washer or within half its width or three times ``fading`` m of it, where
        strains of a plate say nothing of a bolt: booleans."""
        near = np.zeros((len(x), len(y)), bool)
        for bolt, (low_x, high_x, low_y, high_y) in zip(self._held.bolts, self.bounds, strict=True):
            more = max(bolt.washer / 2.0, FADING * fading)
            in_x = (x >= low_x - more) & (x <= high_x + more)
            near |= np.outer(in_x, (y >= low_y - more) & (y <= high_y + more))
        return near

    def attached(self, assembler: Assembler) -> list[Attached]:
        """Its energies."""
        return [area for areas in self._areas(assembler) for area in areas] + [line for _, _, line in self._lines()]

    def reactions(self, assembler: Assembler, vector: np.ndarray) -> list[Reaction]:
        """What bolts, lines of support and elastic edges take, of the panel's unknowns."""
        taken = []
        for k, (bolt, (up, *plane)) in enumerate(zip(self._held.bolts, self._areas(assembler), strict=True)):
            force = float(-up.stiffness * up.mean(assembler, vector))
            shear = math.hypot(*(own.stiffness * own.mean(assembler, vector) for own in plane))
            taken.append(Reaction("bolt", f"bolt {k + 1}", force, bolt.x, bolt.y, shear=shear))
        for kind, name, line in self._lines():
            places, weights, moved = line.strained(assembler, vector)
            per_length = -line.stiffness[0, 0] * moved[:, 0]
            k = int(np.argmax(np.abs(per_length)))
            x, y = in_plan(self._surface, float(places[k]), line.place, line.along_x)
            taken.append(Reaction(kind, name, float(weights @ per_length), x, y, float(per_length[k])))
        return taken


def washer_bounds(surface: Surface, bolt: Bolt) -> tuple[float, float, float, float]:
    """x low, x high, y low, y high of a bolt's washer on the surface, m, as a square, cut off at the panel's edges."""
    x, y, half = surface.x.along(bolt.x), surface.y.along(bolt.y), bolt.washer / 2.0 * SQUARE
    return max(x - half, 0.0), min(x + half, surface.length), max(y - half, 0.0), min(y + half, surface.width)


def _uncut(low: float, high: float, nodes: np.ndarray) -> tuple[float, float]:
    """The longest part between two places that no node cuts."""
    ends = [low, *(float(node) for node in nodes if low + 1e-9 < node < high - 1e-9), high]
    k = int(np.argmax(np.diff(ends)))
    return ends[k], ends[k + 1]


def in_plan(surface: Surface, along: float, place: float, along_x: bool) -> tuple[float, float]:
    """(x, y) of the plan, m, of a place ``along`` a line at ``place`` of the surface."""
    x, y = (along, place) if along_x else (place, along)
    return float(surface.x.on_chord(np.array([x]))[0]), float(surface.y.on_chord(np.array([y]))[0])


SQUARE = float(np.sqrt(np.pi) / 2.0)  # a square as large as the round washer
