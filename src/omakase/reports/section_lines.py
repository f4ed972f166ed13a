"""The section of a member at a station as a drawing: every layer with its thickness, in mm at full size."""

from __future__ import annotations

import re
from typing import Any

import numpy as np

from omakase.core.laminate.stack import Stack
from omakase.evaluate.members.outline import Outline
from omakase.reports.vector import new_drawing

MM = 1000.0
FLAT = 0.1  # m of a panel's section that is drawn
COLOURS = (7, 5, 3, 1, 6, 4, 2)
HAIRLINE = 5  # hundredths of mm
NAMES = "NAMES"
_UNSAFE = re.compile(r"[^A-Za-z0-9_-]")


def section(outline: Outline) -> Any:
    """A drawing with one closed line for each layer of each wall, or two circles for each of a ring, on the layer of
    its material; y to the right, z up."""
    document = new_drawing()
    space = document.modelspace()
    text_height = max(1.0, 0.05 * outline.height * MM)
    for wall, stack, line in _lines(outline):
        for layer, top, bottom in zip(stack.layers, stack.z_top, stack.z_bottom, strict=True):
            name = _UNSAFE.sub("_", layer.material.id).upper()
            if name not in document.layers:
                document.layers.add(name, color=COLOURS[len(document.layers) % len(COLOURS)], lineweight=HAIRLINE)
            on = {"layer": name}
            if outline.ring:
                for z in (top, bottom):
                    space.add_circle((0.0, 0.0), (np.hypot(*line[0]) + z) * MM, dxfattribs=on)
                continue
            ring = np.concatenate([_offset(line, float(top)), _offset(line, float(bottom))[::-1]])
            space.add_lwpolyline((ring * MM).tolist(), close=True, dxfattribs=on)
        if wall:
            if NAMES not in document.layers:
                document.layers.add(NAMES, color=8, lineweight=HAIRLINE)
            text = space.add_text(wall, height=text_height, dxfattribs={"layer": NAMES})
            text.set_placement((_offset(line, float(stack.z_top[0])).mean(axis=0) * MM).tolist())
    return document


def _lines(outline: Outline) -> list[tuple[str, Stack, np.ndarray]]:
    """(wall, stack, its middle with face A to the left) of every run of wall."""
    if outline.walls:
        return [(wall.name, wall.stack, np.array(line)) for wall in outline.walls for line in wall.lines]
    if outline.ring:
        radius = (outline.ring - outline.stack.thickness) / 2.0
        return [("", outline.stack, np.array([[0.0, radius]]))]
    if outline.line:
        return [("", outline.stack, np.array(outline.line))]
    return [("", outline.stack, np.array([[-FLAT / 2.0, 0.0], [FLAT / 2.0, 0.0]]))]


def _offset(line: np.ndarray, distance: float) -> np.ndarray:
    """The line moved to its left, its corners mitred."""
    along = np.diff(line, axis=0)
    left = along[:, ::-1] / np.hypot(*along.T)[:, None] * [-1.0, 1.0]
    before, after = np.vstack([left[:1], left]), np.vstack([left, left[-1:]])
    mitre = (before + after) / (1.0 + (before * after).sum(axis=1, keepdims=True))
    return np.asarray(line + distance * mitre)
