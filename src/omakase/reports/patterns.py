"""Flat patterns as a drawing: every roll with its pieces as they are cut, at full size, a layer for each material."""

from __future__ import annotations

import re
from typing import Any

import numpy as np

from omakase.core.build.pieces import rectangle
from omakase.evaluate.build.cutting import CutPiece, Roll
from omakase.evaluate.build.plan import JobPlan
from omakase.reports.vector import new_drawing

MM = 1000.0
GAP = 0.2  # m between rolls
ARROW, HEAD, TEXT = 0.5, 0.12, 0.06  # of a piece's smaller side: its arrow, the arrow's head, its text
COLOURS = (7, 1, 3, 5, 6, 4, 2)
_UNSAFE = re.compile(r"[^A-Za-z0-9_-]")


def layer_name(roll: Roll) -> str:
    """A layer's name from a material's: letters, digits, - and _ only, with the thickness of a core or sheet."""
    name = _UNSAFE.sub("_", roll.material.id).upper()
    return name if roll.thickness is None else f"{name}_{roll.thickness * MM:.2f}MM".replace(".", "P")


def patterns(plan: JobPlan) -> Any:
    """A drawing in mm.  Pieces are closed polylines on the layer of their material, holes too; the warp, or a core's
    ribbon, is an arrow and the piece's name a text on that layer with GRAIN after its name; the edge of each roll or
    sheet is on a layer with ROLL.  Sleeves are cut to length and not drawn."""
    document = new_drawing()
    space = document.modelspace()
    below = 0.0
    for index, roll in enumerate(plan.cutting.rolls):
        layout = roll.layout
        if layout is None:
            continue
        name = layer_name(roll)
        colour = COLOURS[index % len(COLOURS)]
        for suffix in ("", "_GRAIN", "_ROLL"):
            document.layers.add(f"{name}{suffix}", color=colour if suffix != "_ROLL" else 8)
        for sheet in range(max(layout.sheets, 1)):
            below -= layout.width + GAP
            base = np.array([0.0, below])
            _line(space, rectangle(layout.length, layout.width) + base, f"{name}_ROLL")
            for placed in layout.placed:
                if placed.sheet != sheet:
                    continue
                piece = roll.pieces[placed.index]
                outline = placed.outline(piece.cut) + base
                _line(space, outline, name)
                for hole in placed.holes(piece.cut):
                    _line(space, hole + base, name)
                _mark(space, piece, outline, placed.turn + piece.cut.grain, f"{name}_GRAIN")
    return document


def _line(space, outline: np.ndarray, layer: str) -> None:  # type: ignore[no-untyped-def]
    space.add_lwpolyline((outline * MM).tolist(), close=True, dxfattribs={"layer": layer})


def _mark(space, piece: CutPiece, outline: np.ndarray, warp: float, layer: str) -> None:  # type: ignore[no-untyped-def]
    """The arrow along the warp through the middle of a piece, and its name."""
    middle, small = outline.mean(axis=0), float(np.ptp(outline, axis=0).min())
    along = np.array([np.cos(np.radians(warp)), np.sin(np.radians(warp))])
    across = np.array([-along[1], along[0]])
    tip, tail = middle + 0.5 * ARROW * small * along, middle - 0.5 * ARROW * small * along
    for start, end in (
        (tail, tip), (tip, tip - HEAD * small * (along + 0.5 * across)),
        (tip, tip - HEAD * small * (along - 0.5 * across)),
    ):  # fmt: skip
        space.add_line((start * MM).tolist(), (end * MM).tolist(), dxfattribs={"layer": layer})
    text = space.add_text(piece.name, height=max(TEXT * small * MM, 2.0), dxfattribs={"layer": layer})
    text.set_placement(((middle + 0.04 * small * across) * MM).tolist())
