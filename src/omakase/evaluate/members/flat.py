"""Layers of members laid out flat, as they are cut: one or more outlines for each layer, in m along and across."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence

import numpy as np

from omakase.core.build.pieces import from_widths, oval, rectangle, within, without
from omakase.core.members.panel_patchwork import Box, Lying
from omakase.core.members.panel_ribs import RIB, rib_pieces
from omakase.core.members.rib import Hole
from omakase.core.members.spar_given import SparShape
from omakase.core.members.strip import WidthLaw
from omakase.evaluate.members.kind import Flat
from omakase.evaluate.members.panel_ribs import rib_areas
from omakase.evaluate.members.spans import wall_widths
from omakase.project import edits, translate
from omakase.project.model import Brief, Candidate
from omakase.project.panels import PanelMember
from omakase.project.spans import PanelForm

Layers = tuple[tuple[Flat, ...], ...]


def flat_panel(brief: Brief, candidate: Candidate) -> Layers:
    """Of a panel laid out with the lengths of its arcs; what beads add lies across."""
    panel = translate.panel(brief, candidate)
    member = brief.member
    assert isinstance(member, PanelMember)
    whole = panel.area + rib_areas(brief, candidate)[1]
    surface = panel.surface
    stretch = np.array([surface.length / panel.length, 1.0])
    base = oval(panel.length, panel.width) if panel.outline == "round" else rectangle(panel.length, panel.width)
    stretch[1] = whole / (Flat(base).area * stretch[0])
    openings = [_outline(box) for box in translate.openings(candidate, panel.length, panel.width)]
    own = edits.of_wall(candidate, "")
    zoned = translate.has_zones(candidate)
    lying = translate.lying(own, panel.length, panel.width) if zoned else (Lying(),) * len(own.layers)
    places = iter(_where(base, lying, openings))
    ribs = _flat_ribs(candidate, panel.length, panel.width)
    return tuple(
        ribs if layer.wall == RIB
        else tuple(Flat(part.outline * stretch, tuple(hole * stretch for hole in part.holes)) for part in next(places))
        for layer in candidate.layers
    )  # fmt: skip


def _where(base: np.ndarray, lying: Sequence[Lying], openings: Sequence[np.ndarray]) -> Iterator[list[Flat]]:
    """The parts of each layer; a core in a zone stands in place of the cores beside it in the list."""
    for is_core, group in itertools.groupby(lying, lambda own: own.is_core):
        inserts: list[np.ndarray] = []
        layers = list(group)
        every = [_outline(box) for own in layers if own.in_zone for box in own.boxes] if is_core else []
        for own in layers:
            boxes = [_outline(box) for box in own.boxes]
            gone = [*openings, *(inserts if own.in_zone else every)]
            if own.in_zone:
                inserts += boxes if is_core else []
                parts = _strips(base, boxes)
            else:
                parts, gone = [Flat(base)], [*gone, *boxes]
            yield [Flat(*cut) for part in parts for cut in without(part.outline, gone, part.holes)] if gone else parts


def _strips(base: np.ndarray, boxes: Sequence[np.ndarray]) -> list[Flat]:
    """Where a layer lies, box by box: a rim is cut as strips that butt at its corners, not as a frame."""
    parts = []
    for i, box in enumerate(boxes):
        for outline, holes in within(base, [box]):
            cut = without(outline, boxes[:i], holes) if i else [(outline, holes)]
            parts += [Flat(*own) for own in cut]
    return parts


def _outline(box: Box) -> np.ndarray:
    return rectangle(box.high_x - box.low_x, box.high_y - box.low_y, box.low_x, box.low_y)


def _flat_ribs(candidate: Candidate, length: float, width: float) -> tuple[Flat, ...]:
    """A layer of each rib that is laid on a panel, unfolded."""
    form, made = candidate.form, []
    for own in form.ribs if isinstance(form, PanelForm) else ():
        rib = translate.rib_of(own, length, width)
        if not rib.formed:
            developed = sum(piece.length for piece in rib_pieces(rib, 1e-9))
            made.append(Flat(rectangle(rib.high - rib.low, developed)))
    return tuple(made)


def flat_runs(candidate: Candidate, length: float, law: WidthLaw, factor: float = 1.0, more: float = 0.0) -> Layers:
    """Layers ``factor`` times the law wide, and ``more`` m, from where to where each runs."""
    made = []
    for low, high in edits.runs(candidate, length):
        x = np.unique([low, high, *(place for place, _ in law.points if low < place < high)])
        made.append((Flat(from_widths(x, factor * law(x) + more)),) if high > low else ())
    return tuple(made)


def flat_walls(candidate: Candidate, shape: SparShape, length: float, holes: tuple[Hole, ...] = ()) -> Layers:
    """Layers of a section's walls, each its run long and as wide as its wall's mid-line; ``holes`` in the web."""
    made: list[tuple[Flat, ...]] = []
    for layer, (x, widths) in zip(candidate.layers, wall_widths(candidate, shape, length), strict=True):
        if layer.wall not in widths:
            made.append(())
            continue
        cut = holes if layer.wall == "web" else ()
        gone = tuple(oval(hole.diameter, hole.diameter) - hole.diameter / 2.0 + (hole.x, 0.0) for hole in cut)
        made.append((Flat(from_widths(x, widths[layer.wall]), gone),))
    return tuple(made)
