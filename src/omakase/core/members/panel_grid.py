"""The grids a panel is solved on, and their sample points; kept from one layup to the next."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import msgspec
import numpy as np

from omakase.core.kept import keep_last
from omakase.core.members.panel_given import Accuracy, Surface
from omakase.core.members.round_grid import rings_of, sectors_of
from omakase.core.plates.assembly import Assembler
from omakase.core.plates.disc import DiscAssembler, DiscGrid
from omakase.core.plates.grid import FIELDS, Grid, merge_breaks
from omakase.core.plates.lines import (
    CELL_ASPECT,
    SKEW,
    break_lines,
    coupling,
    shell_layer,
)
from omakase.core.plates.loads import PatchLoad
from omakase.core.plates.quadrature import Quadrature
from omakase.core.plates.samples import Samples, lobatto
from omakase.core.plates.section import PlateSection
from omakase.core.plates.solver import plate_fields

MANY_SECTORS, LOW_ORDER = 25, 5  # of a round panel: where sectors are narrow, or bolts hold a flat sheet (0.1 %)
CLOSE = 0.01  # of a side: lines nearer to another than this are left out of a common grid


class GridKey(msgspec.Struct, frozen=True):
    """What decides a grid: of a round panel the breaks are the circles between its rings and the borders of its
    sectors."""

    surface: Surface
    order: int
    x_breaks: tuple[float, ...]
    y_breaks: tuple[float, ...]
    three_layer: bool
    fields: tuple[str, ...]
    layout: tuple[tuple[int, ...], ...] = ()  # which section each cell has, where there are several


@keep_last(20)
def assembler(key: GridKey) -> Assembler:
    """Grid with its integrals; kept, since most edits change the layup and not the panel."""
    surface = key.surface
    if surface.round:
        return DiscAssembler(
            DiscGrid(
                surface.length, surface.width, surface.edges.x0, key.order, (0.0, *key.x_breaks, 1.0), key.y_breaks,
                key.three_layer, key.fields, surface.in_plane, surface.curvature,
            )
        )  # fmt: skip
    grid = Grid(
        surface.length, surface.width, surface.edges, key.order, key.x_breaks, key.y_breaks, key.three_layer,
        key.fields, surface.in_plane, surface.curvature, surface.held_inside,
    )  # fmt: skip
    return Assembler(grid, np.array(key.layout) if key.layout else None)


@keep_last(16)
def quadrature(key: GridKey) -> Quadrature:
    """Gauss points on a grid; kept like the grid itself."""
    return Quadrature(assembler(key))


@keep_last(256)
def samples(key: GridKey, per_cell: int, x_breaks: tuple[float, ...], y_breaks: tuple[float, ...]) -> Samples:
    """Samples on one grid in the cells that the break lines of all grids of a load case make."""
    grid = assembler(key).grid
    x_nodes, y_nodes = merge_breaks(grid.length, x_breaks), merge_breaks(grid.width, y_breaks)
    return Samples(grid, lobatto(per_cell), x_nodes, y_nodes, lobatto(per_cell // 2 + 1))


def grid_key(
    panel: Surface, section: PlateSection, patch: PatchLoad | None, accuracy: Accuracy, moving: bool = False,
    layer: float = 0.0,
) -> GridKey:  # fmt: skip
    """The grid for one patch, or for loads without edges.

    ``moving`` : for the natural frequencies.  ``layer`` : length in m over which bending fades from the edges of
    a panel that is pulled tight; 0 for none.
    """
    shell = layer or (shell_layer(section, panel.curvature) if accuracy.layers else 0.0)
    lines = break_lines(panel.length, panel.width, panel.edges, section, patch, accuracy.layers, moving, shell)
    order = {
        "plain": accuracy.edge_order if lines.x or lines.y else accuracy.smooth_order,
        "edges": accuracy.edge_order,
        "layers": accuracy.patch_order,
        "patch": accuracy.patch_order,
    }[lines.crowd]
    if (
        moving
        and lines.crowd == "edges"
        and max(panel.length, panel.width) <= CELL_ASPECT * min(panel.length, panel.width)
    ):
        order += 1  # the cell between the edges' layers is nearly the whole panel and holds several half waves
    if accuracy.layers and section.faces and lines.crowd in ("layers", "patch") and coupling(section) > SKEW:
        order += 1  # faces of skew fibres turn pull into shear beside every line: reserves were 4 to 5 % too high
    three_layer = section.kinematics == "three_layer"
    x, y = (cut(size, breaks, accuracy.cells) for size, breaks in ((panel.length, lines.x), (panel.width, lines.y)))
    fields = FIELDS if panel.curvature != (0.0, 0.0) else plate_fields(section)
    return GridKey(panel, order, x, y, three_layer, fields)


def case_key(
    surface: Surface, section: PlateSection, patches: Sequence[PatchLoad], accuracy: Accuracy, layer: float = 0.0,
    in_plane: bool = True,
) -> GridKey:  # fmt: skip
    """One grid for a whole load case, cut along all its patches, with the fields in the plane; of a round panel
    that needs none without where not ``in_plane``."""
    if surface.round:
        return round_key(surface, section, patches, accuracy, layer, in_plane)
    plain = grid_key(surface, section, None, accuracy, layer=layer)
    keys = [plain, *(grid_key(surface, section, patch, accuracy, layer=layer) for patch in patches)]
    order = min(key.order for key in keys)
    borders = []
    for axis, (size, name) in enumerate(((surface.length, "x_breaks"), (surface.width, "y_breaks"))):
        edges = [end for patch in patches for end in patch.bounds[2 * axis : 2 * axis + 2]]
        lines = sorted(place for key in keys for place in getattr(key, name))
        kept: list[float] = [place for place in sorted(set(edges)) if CLOSE * size < place < (1.0 - CLOSE) * size]
        for place in lines:  # those of one patch may lie beside those of another
            if all(abs(place - other) > CLOSE * size for other in (0.0, size, *kept)):
                kept.append(place)
        borders.append(tuple(sorted(kept)))
    return GridKey(surface, order, borders[0], borders[1], plain.three_layer, FIELDS)


def round_key(
    surface: Surface, section: PlateSection, patches: Sequence[PatchLoad], accuracy: Accuracy, layer: float = 0.0,
    in_plane: bool = True,
) -> GridKey:  # fmt: skip
    """The grid of a round panel for a whole load case, or for its natural frequencies; ``in_plane`` : with the fields
    in its plane also where bending does not move them."""
    shell = layer or (shell_layer(section, surface.curvature) if accuracy.layers else 0.0)
    rings = rings_of(surface, section, patches, accuracy.layers, shell)
    sectors = sectors_of(surface, patches, not accuracy.layers)
    if accuracy.cells > 1:
        rings = cut(1.0, rings, accuracy.cells)
        whole = sectors[-1] - sectors[0]
        inside = cut(whole, tuple(place - sectors[0] for place in sectors[1:-1]), accuracy.cells)
        sectors = (sectors[0], *(sectors[0] + place for place in inside), sectors[-1])
    plain = bool(surface.bolts) and not (section.faces or surface.curved)
    low = plain or len(sectors) > MANY_SECTORS
    order = min(accuracy.patch_order, LOW_ORDER) if low else accuracy.patch_order
    three_layer = section.kinematics == "three_layer"
    in_plane |= surface.curved or any(bolt.in_plane for bolt in surface.bolts)
    fields = FIELDS if in_plane else plate_fields(section)
    return GridKey(surface, order, rings, sectors, three_layer, fields)


def cut(
    size: float, lines: Sequence[float], parts: int, whole: Sequence[tuple[float, float]] = ()
) -> tuple[float, ...]:
    """Lines inside ``size`` with every cell cut in so many equal parts, but for those in ``whole`` spans."""
    finer: list[float] = []
    for low, high in pairwise([0.0, *lines, size]):
        kept = any(start <= (low + high) / 2.0 <= end for start, end in whole)
        finer += [low + (high - low) * k / parts for k in range(1 if kept else parts)]
    return tuple(finer[1:])
