"""Where a plate's grid is cut: along patches, in the layers that fade beside clamps and loads, and into short cells.

The orders follow from the cells, so the lines are decided first.  Lines by which the load or the support changes come
before those that only follow a fading layer, and a line close to one that is there already is left out.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from functools import lru_cache
from itertools import pairwise
from typing import Literal

import msgspec
import numpy as np

from omakase.core.plates.grid import Curvature, Edges
from omakase.core.plates.loads import PatchLoad
from omakase.core.plates.section import PlateSection

CELL_ASPECT = 1.5  # no cell is longer than so many times the panel's shorter side
FADING = 3.0  # decay lengths ℓ from a clamp, an edge or a patch to the line that follows the layer beside it
SPREAD = 1.5  # sizes of a patch from its edge to the line within which the stress beside it falls off
CORNER_SHARE = 0.05  # of the shorter side: what strength checks leave out at singular corners
SMALL, THICK = 4.0, 8.0  # a patch is large where its edge is nearer than 4 patch sizes, and wider than 8 layers
ROOM = 0.6  # of the way to the edge: no line that follows a patch's stress stands further out
COUPLED = 0.01  # share of the geometric mean of two stiffnesses above which they count as coupled
SKEW = 0.3  # the same, above which bending twists a section so much that layers form beside every edge
NORMAL, SHEARED = (0, 1, 3, 4, 6, 7), (2, 5, 8)  # generalised strains: along x and y, and in shear or twist

WIDEST_SHELL = 0.3  # of a side: a shell's layer that reaches further is followed by the cells that are there
WIDE = 0.1  # of a side: a layer that reaches further is smooth enough for the cells that are there

Crowd = Literal["plain", "edges", "layers", "patch"]


class Lines(msgspec.Struct, frozen=True):
    """Cell borders inside a panel, m, and what they follow.

    ``crowd`` : nothing but equal cells; one layer at an edge; several at every edge; a patch.
    """

    x: tuple[float, ...]
    y: tuple[float, ...]
    crowd: Crowd


@lru_cache(maxsize=64)
def coupling(section: PlateSection, first: int = 0) -> float:
    """Largest stiffness between a normal and a shear strain from generalised strain ``first`` on, over their mean.

    Zero where fibres lie along the sides or balance; 0.4 to 0.8 for unidirectional faces at 30 to 45°.
    """
    C = section.membrane[first:, first:]
    root = np.sqrt(np.diag(C))
    normal, sheared = ([i - first for i in kind if i >= first and root[i - first] > 0.0] for kind in (NORMAL, SHEARED))
    both = np.abs(C[np.ix_(normal, sheared)]) / np.outer(root[normal], root[sheared])
    return float(both.max()) if both.size else 0.0


def twist_layer(section: PlateSection) -> float:
    """Decay length in m in which twist turns into shear beside free and resting edges of a sandwich, √(D66/S).

    Zero for a laminate, where it is about a third of the thickness and the checks leave a strip out.
    """
    if not section.faces:
        return 0.0
    return float(np.sqrt(section.membrane[5, 5] / np.diag(section.shear).max()))


def shell_layer(section: PlateSection, curvature: Curvature) -> float:
    """Length in m over which an edge disturbs a curved panel, (4 D R²/A)^¼: a beam on the spring A/R² of its hoops."""
    k = max(abs(value) for value in curvature)
    if k == 0.0:
        return 0.0
    bending = float(np.diag(section.membrane)[3:5].max())
    return float((4.0 * bending / (np.diag(section.membrane)[:2].max() * k * k)) ** 0.25)


def couples_twist(section: PlateSection) -> bool:
    """Whether bending twists the section so much that layers beside every edge have to turn it back."""
    return coupling(section, 3) > SKEW


def corner_reach(length: float, width: float) -> float:
    """Side in m of the square that strength checks leave out at a singular corner."""
    return CORNER_SHARE * min(length, width)


def singular_corners(edges: Edges, section: PlateSection) -> np.ndarray:
    """Corners at which the theory gives infinite strains: (2, 2) booleans, by end along x and end along y.

    Corners between two clamped edges are not among them, nor those between a clamped and a simply supported edge if the
    section does not couple normal strain with shear: refining the grid gave a finite value there.
    """
    skew = coupling(section) > COUPLED

    def regular(pair: tuple[str, str]) -> bool:
        return pair == ("clamped", "clamped") or (not skew and set(pair) <= {"clamped", "simple"})

    return np.array([[not regular((x, y)) for y in (edges.y0, edges.y1)] for x in (edges.x0, edges.x1)])


def rounded(distance: float) -> float:
    """One digit, so that a small edit to the layup finds the same grid again."""
    return float(f"{distance:.1g}")


def equal_cells(nodes: Sequence[float], longest: float) -> tuple[float, ...]:
    """Ascending nodes, with equal cells between them where they are further apart than ``longest``."""
    places: list[float] = []
    for low, high in pairwise(nodes):
        count = max(1, math.ceil((high - low) / longest - 1e-9))
        places += [low + (high - low) * k / count for k in range(count)]
    return (*places, nodes[-1])


class _Axis:
    """Lines along one axis as they are gathered."""

    def __init__(self, size: float) -> None:
        self.size = size
        self.lines = [0.0, size]

    def put(self, place: float, room: float) -> None:
        """A line at ``place``, unless one is nearer than ``room`` or it lies outside."""
        if 0.0 < place < self.size and min(abs(place - line) for line in self.lines) >= room:
            self.lines.append(place)

    def beside(self, place: float, distance: float, side: int) -> None:
        """A line ``distance`` from ``place`` that follows a layer fading there."""
        if distance > 0.0:
            gap = rounded(min(distance, self.size / 4.0))
            self.put(place + side * gap, gap / 3.0)

    def cut(self, longest: float) -> tuple[float, ...]:
        """The lines inside, with equal cells between them where they are further apart than ``longest``."""
        self.lines.sort()
        return equal_cells(self.lines, longest)[1:-1]


def break_lines(
    length: float, width: float, edges: Edges, section: PlateSection, patch: PatchLoad | None = None,
    layers: bool = True, moving: bool = False, shell: float = 0.0,
) -> Lines:  # fmt: skip
    """The lines of the grid for one patch, or for loads without edges.

    ``moving`` : for frequencies, on which the boundary layers at the edges of a skew sandwich have almost no effect.
    Without ``layers`` only the lines that the load and the length need:

    * a patch's edges, and outside those of a small patch a line at 1.5 patch sizes, or at 3 ℓ if that is further or the
      first does not fit: the stress falls off over the size of a small foot, and the step of load in the faces over ℓ;
    * beside clamped edges of a sandwich, 3 ℓ; beside its free and resting edges three of the lengths in which
      twist turns into shear;
    * where bending also twists the section strongly, layers along every edge take the twist back: lines 3 ℓ of a
      sandwich and a twentieth of the shorter side from the edges;
    * beside supported edges of a curved panel, three of the lengths ``shell`` in which they disturb it;
    * equal cells so that none is longer than 1.5 times the shorter side.
    """
    fade, twisting, reach = FADING * section.boundary_layer, FADING * twist_layer(section), corner_reach(length, width)
    skew = couples_twist(section) and not (moving and section.faces)
    ends: Sequence[tuple[float, tuple[str, str]]] = ((length, (edges.x0, edges.x1)), (width, (edges.y0, edges.y1)))
    crowd: Crowd = "plain"
    borders = []
    for along, (size, pair) in enumerate(ends):
        axis = _Axis(size)
        if patch is not None:
            low, high = patch.bounds[2 * along : 2 * along + 2]
            axis.put(low, 1e-6 * size)
            axis.put(high, 1e-6 * size)
            least = min(patch.along_x, patch.along_y)
            spread = max(fade, SPREAD * least)
            for place, room, side in ((low, low, -1), (high, size - high, 1)) if layers else ():
                if room > SMALL * least or fade > least / THICK:
                    axis.beside(place, spread if spread < ROOM * room else fade, side)
        for place, edge, side in zip((0.0, size), pair, (1, -1), strict=True) if layers else ():
            if section.faces and (edge == "clamped" or (skew and patch is None)):
                axis.beside(place, fade, side)
            if edge != "free" and FADING * shell < WIDEST_SHELL * size:
                axis.beside(place, FADING * shell, side)
            if edge in ("free", "resting") and twisting < WIDE * size:
                axis.beside(place, twisting, side)
            if skew:
                axis.beside(place, reach, side)
        if len(axis.lines) > 2 and crowd == "plain":
            crowd = "layers" if skew and section.faces else "edges"
        borders.append(axis.cut(CELL_ASPECT * min(length, width)))
    if patch is not None:
        crowd = "patch"
    return Lines(borders[0], borders[1], crowd)


class Fixed(msgspec.Struct, frozen=True):
    """What along one axis of a panel asks for lines of its own: ``places`` with a line each, ``spans``, m, with a
    line at both ends and none inside, and ``fading`` (place, m before it, m behind it) where something fades."""

    places: tuple[float, ...] = ()
    spans: tuple[tuple[float, float], ...] = ()
    fading: tuple[tuple[float, float, float], ...] = ()

    def joined(self) -> tuple[tuple[float, float], ...]:
        """The spans, those that overlap as one."""
        return joined(self.spans)


def joined(spans: Iterable[tuple[float, float]]) -> tuple[tuple[float, float], ...]:
    """Spans in ascending order, those that overlap as one."""
    whole: list[tuple[float, float]] = []
    for low, high in sorted(spans):
        if whole and low < whole[-1][1]:
            whole[-1] = whole[-1][0], max(high, whole[-1][1])
        else:
            whole.append((low, high))
    return tuple(whole)


LONGEST = 0.6  # of the shorter side: cells of low order, where a single one had 1.2 % too much sag
NOTHING_FIXED = Fixed(), Fixed()


def zone_lines(
    length: float, width: float, edges: Edges, section: PlateSection, borders: Sequence[tuple[float, ...]],
    patches: Sequence[PatchLoad], layers: bool, fading: float, fixed: tuple[Fixed, Fixed] = NOTHING_FIXED,
    beside: bool = True,
) -> tuple[tuple[float, ...], tuple[float, ...]]:  # fmt: skip
    """The lines of one grid for a panel with zones: all ``borders`` of zones along x and along y, what is ``fixed`` to
    the panel, all patches' edges, and with ``layers`` beside the panel's edges the lines that follow what fades there;
    ``beside`` : beside patches too.

    ``section`` : of most of the panel; ``fading`` : the longest boundary layer of its sections, m.
    """
    whole = break_lines(length, width, edges, section, None, layers)
    lines = []
    for along, (size, held) in enumerate(((length, whole.x), (width, whole.y))):
        axis, fade = _Axis(size), FADING * fading
        spans = fixed[along].joined()
        ends = sorted({end for patch in patches for end in patch.bounds[2 * along : 2 * along + 2]})
        for place in (*borders[along], *fixed[along].places, *(end for span in spans for end in span)):
            axis.put(place, 1e-9 * size)
        for place, before, behind in fixed[along].fading:
            axis.beside(place, before, -1)
            axis.beside(place, behind, 1)
        for patch in patches if layers and beside else ():
            low, high = patch.bounds[2 * along : 2 * along + 2]
            axis.beside(low, fade, -1)
            axis.beside(high, fade, 1)
        for places, room in ((ends, 2e-3 * size), (held, fade / 3.0 or 1e-2 * size)):
            for place in places:
                if not any(low < place < high for low, high in spans):
                    axis.put(place, room)
        lines.append(axis.cut(LONGEST * min(length, width)))
    return lines[0], lines[1]
