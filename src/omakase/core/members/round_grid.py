"""Where the grid of a round panel is cut into rings and sectors, and what is fixed to it."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from omakase.core.members.panel_given import Bolt, Surface
from omakase.core.members.panel_held import RIGID, SQUARE
from omakase.core.plates.assembly import Assembler
from omakase.core.plates.attached import Attached
from omakase.core.plates.disc_attached import OnRim, OnWasher, over_middle
from omakase.core.plates.lines import (
    FADING,
    WIDE,
    WIDEST_SHELL,
    corner_reach,
    couples_twist,
    equal_cells,
    joined,
    rounded,
    twist_layer,
)
from omakase.core.plates.loads import PatchLoad
from omakase.core.plates.section import PlateSection

SECTORS, OVAL_SECTORS, FEW_SECTORS = 8, 12, 6  # of a plain disc, of a long oval, and of a quick answer
OVAL = 1.5  # times as long as wide
LONGEST_RING = 0.5  # of the half axes
NEAR = 0.02  # of the half axes, or rad: lines nearer to each other than this are one
RIM_GRIP = 1e6  # times D/size or A/size: a simple edge moves along itself by about 1e-6
AROUND_WASHER = 1.5  # of its size from a bolt to the circles before and behind it
TURN = 2.0 * math.pi


def rings_of(
    surface: Surface, section: PlateSection, patches: Sequence[PatchLoad], layers: bool, shell: float
) -> tuple[float, ...]:
    """Circles inside the unit disc that separate the rings.

    Beside the edge they follow what fades there, as the lines of a rectangle do; a patch has one at its nearest and
    one at its furthest place from the middle, bolts have them on both sides and none through a washer.

    Measured with cells cut in two each way: sag, frequencies and strains of bending within 0.3 %, shear of a core
    within 1.5 %, the faces' own bending at the corners of a foot within 10 % of itself; on bolts sag and frequencies
    within 1 %.
    """
    least = min(surface.length, surface.width) / 2.0
    washers = [_radii(surface, bolt.x, bolt.y, AROUND_WASHER * bolt.washer * SQUARE) for bolt in _aside(surface)]
    spans = joined(washers)
    wanted = [end for span in spans for end in span]
    edge = surface.edges.x0
    if layers:
        gaps = []
        if section.faces and (edge == "clamped" or couples_twist(section)):
            gaps.append(FADING * section.boundary_layer)
        if edge != "free" and FADING * shell < WIDEST_SHELL * 2.0 * least:
            gaps.append(FADING * shell)
        if edge in ("free", "resting") and FADING * twist_layer(section) < WIDE * 2.0 * least:
            gaps.append(FADING * twist_layer(section))
        if couples_twist(section):
            gaps.append(corner_reach(surface.length, surface.width))
        wanted += [1.0 - rounded(gap / least) for gap in sorted(gaps, reverse=True) if gap > 0.0]
    for patch in patches:
        wanted += _patch_radii(surface, patch, rounded(FADING * section.boundary_layer) if layers else 0.0)
    nodes = [0.0, 1.0]
    for place in wanted:
        inside = any(low + 1e-9 < place < high - 1e-9 for low, high in spans)
        if NEAR < place < 1.0 and not inside and min(abs(place - node) for node in nodes) > NEAR / 4.0:
            nodes.append(place)
    return equal_cells(sorted(nodes), LONGEST_RING)[1:-1]


def sectors_of(surface: Surface, patches: Sequence[PatchLoad], few: bool) -> tuple[float, ...]:
    """Borders of the sectors, rad, once round: beside a patch's ends, and between the washers of bolts."""
    oval = max(surface.length, surface.width) > OVAL * min(surface.length, surface.width)
    longest = TURN / (FEW_SECTORS if few else OVAL_SECTORS if oval else SECTORS)
    sides = [(bolt, bolt.washer * SQUARE) for bolt in _aside(surface)]
    spans = [_angles(surface, bolt.x, bolt.y, side, side) for bolt, side in sides]
    if spans:
        return _between(spans, longest)
    ends: list[float] = []
    for patch in patches:
        if not _covers_middle(surface, patch):
            ends += _angles(surface, patch.x, patch.y, patch.along_x, patch.along_y)
    if not ends:
        return tuple(np.linspace(0.0, TURN, math.ceil(TURN / longest - 1e-9) + 1))
    first = ends[0]
    nodes = [first]
    for angle in sorted((end - first) % TURN for end in ends[1:]):
        if angle > 4.0 * NEAR + nodes[-1] - first and angle < TURN - 4.0 * NEAR:
            nodes.append(first + angle)
    return equal_cells([*nodes, first + TURN], longest)


class Fixed:
    """What holds a round panel beside what its grid holds.

    ``bending``, ``stretching`` : the largest bending and membrane stiffness of its section, N m and N/m; ``springs`` :
    of its edge, N/m per metre, 0 for none.
    """

    def __init__(self, surface: Surface, bending: float, stretching: float, springs: float) -> None:
        size = max(surface.length, surface.width)
        self.rim: list[OnRim] = []
        if surface.edges.x0 == "simple":
            self.rim.append(OnRim(("px", "py"), RIM_GRIP * bending / size))
            if surface.in_plane != "all":
                self.rim.append(OnRim(("u", "v"), RIM_GRIP * stretching / size))
        self.spring = OnRim(("w",), springs) if springs else None
        self.washers: list[list[OnWasher]] = []
        for bolt in surface.bolts:
            side, up = bolt.washer * SQUARE, RIGID * bending / size**2
            held = [OnWasher("w", up, bolt.x, bolt.y, side)]
            if bolt.in_plane:
                held += [OnWasher(f, RIGID * 1e-3 * stretching, bolt.x, bolt.y, side) for f in ("u", "v")]
            self.washers.append(held)

    def attached(self, assembler: Assembler) -> list[Attached]:
        """All of it that holds fields of the grid."""
        fields = assembler.grid.fields
        loose = assembler.grid.in_plane == "loose"
        own: list[Attached] = [rim for rim in self.rim if rim.fields[0] in fields and not (loose and "u" in rim.fields)]
        own += [self.spring] if self.spring is not None else []
        return own + [washer for held in self.washers for washer in held if washer.field in fields]


def _aside(surface: Surface) -> list[Bolt]:
    """The bolts, without one in the middle, which needs no lines."""
    half = surface.length / 2.0, surface.width / 2.0
    return [bolt for bolt in surface.bolts if not over_middle(bolt.x, bolt.y, bolt.washer * SQUARE, *half)]


def _corners(surface: Surface, x: float, y: float, along_x: float, along_y: float) -> tuple[np.ndarray, np.ndarray]:
    """The rim of a rectangle on the unit disc, from its middle: (places,) each."""
    steps = np.linspace(-0.5, 0.5, 41)
    ends = np.full_like(steps, 0.5)
    px = x + along_x * np.concatenate([steps, steps, ends, -ends])
    py = y + along_y * np.concatenate([ends, -ends, steps, steps])
    return 2.0 * px / surface.length - 1.0, 2.0 * py / surface.width - 1.0


def _radii(surface: Surface, x: float, y: float, side: float) -> tuple[float, float]:
    r = np.hypot(*_corners(surface, x, y, side, side))
    return float(r.min()), min(float(r.max()), 1.0)


def _angles(surface: Surface, x: float, y: float, along_x: float, along_y: float) -> tuple[float, float]:
    """(low, high) of a rectangle beside the middle, rad."""
    across, up = _corners(surface, x, y, along_x, along_y)
    middle = math.atan2(2.0 * y / surface.width - 1.0, 2.0 * x / surface.length - 1.0)
    off = np.mod(np.arctan2(up, across) - middle + math.pi, TURN) - math.pi
    return middle + float(off.min()), middle + float(off.max())


def _patch_radii(surface: Surface, patch: PatchLoad, fade: float) -> list[float]:
    across, up = _corners(surface, patch.x, patch.y, patch.along_x, patch.along_y)
    r, least = np.hypot(across, up), min(surface.length, surface.width) / 2.0
    more = [] if 4.0 * fade > least else [float(r.max()) + fade / least]
    if _covers_middle(surface, patch):
        return [float(r.min()), float(r.max()), *more]
    return [float(r.min()), float(r.max()), *more, *([float(r.min()) - fade / least] if more else [])]


def _covers_middle(surface: Surface, patch: PatchLoad) -> bool:
    low_x, high_x, low_y, high_y = patch.bounds
    return low_x <= surface.length / 2.0 <= high_x and low_y <= surface.width / 2.0 <= high_y


def _between(spans: Sequence[tuple[float, float]], longest: float) -> tuple[float, ...]:
    """Borders in the middle of the gaps between spans of angles; a wide gap has several."""
    first = min(low % TURN for low, _ in spans)
    starts = [first + (low - first + 1e-12) % TURN for low, _ in spans]
    ahead = ((start, start + high - low) for start, (low, high) in zip(starts, spans, strict=True))
    turned = joined(ahead)
    borders = []
    for (_, end), (start, _) in zip(turned, [*turned[1:], (turned[0][0] + TURN, 0.0)], strict=True):
        count = max(1, math.ceil((start - end) / longest))
        borders += [end + (start - end) * (k + 0.5) / count for k in range(count)]
    if len(borders) < 3:  # a sector may not be more than a third of the whole
        ends = [*borders, borders[0] + TURN]
        borders = [*equal_cells(ends, TURN / 3.0)[:-1]]
    return (*borders, borders[0] + TURN)
