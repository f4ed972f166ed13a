"""A section to scale for paper: hatched at the ply's angle, cores by texture; readable in grey."""

from __future__ import annotations

import math
from typing import Any

from reportlab.lib.colors import HexColor, black
from reportlab.platypus.flowables import Flowable

from omakase.core.laminate.stack import Layer, Stack
from omakase.evaluate.members.outline import Outline
from omakase.evaluate.results.wording import LIKE

FILLS = {
    "carbon": "#55606b", "glass": "#a9c4b9", "aramid": "#dcc078", "metal": "#b9c1c8", "wood": "#d3b48c",
    "foam": "#f1ebda", "honeycomb": "#ece0bd",
}  # fmt: skip
INK = HexColor("#2b3036")
SWATCH = 6.5


class SectionDrawing(Flowable):  # type: ignore[misc]
    """A section standing on the bottom of its box, ``scale`` points per m; the plies of each face as tiles."""

    def __init__(self, stack: Stack | None, width: float, height: float, scale: float) -> None:
        super().__init__()
        self.stack, self.width, self.height, self.scale = stack, width, height, scale

    def wrap(self, _width: float, _height: float) -> tuple[float, float]:
        return self.width, self.height

    def draw(self) -> None:
        """Called by the page layout."""
        if self.stack is None:
            return
        stack, canvas = self.stack, self.canv
        ground = SWATCH + 3.0
        for layer, z_top, z_bottom in zip(stack.layers, stack.z_top, stack.z_bottom, strict=True):
            bottom = ground + (z_bottom - stack.z_bottom[-1]) * self.scale
            self._layer(canvas, layer, 0.0, bottom, self.width, (z_top - z_bottom) * self.scale)
        canvas.setStrokeColor(INK)
        canvas.setLineWidth(0.5)
        height = stack.thickness * self.scale
        canvas.rect(0.0, ground, self.width, height, stroke=1, fill=0)
        core = stack.core or slice(len(stack.layers), len(stack.layers))
        self._tiles(canvas, stack.layers[: core.start], ground + height + 2.0)
        self._tiles(canvas, stack.layers[core.stop :], 1.0)

    def _tiles(self, canvas: Any, layers: tuple[Layer, ...], y: float) -> None:
        room = max(1, int(self.width // (SWATCH + 2.0)))
        shown = layers if len(layers) <= room else layers[: room - 2]
        for i, layer in enumerate(shown):
            self._layer(canvas, layer, i * (SWATCH + 2.0), y, SWATCH, SWATCH, tile=True)
        if len(shown) < len(layers):
            canvas.setFillColor(black)
            canvas.setFont("Body", 6)
            canvas.drawString(len(shown) * (SWATCH + 2.0), y + 1.0, f"+{len(layers) - len(shown)}")

    def _layer(
        self, canvas: Any, layer: Layer, x: float, y: float, width: float, height: float, tile: bool = False
    ) -> None:  # fmt: skip
        canvas.saveState()
        family = layer.material.family
        canvas.setFillColor(HexColor(FILLS.get(LIKE.get(family, family), "#cccccc")))
        canvas.setStrokeColor(INK)
        canvas.setLineWidth(0.4)
        if tile and not layer.structural:
            canvas.setDash(1.0, 1.0)
        canvas.rect(x, y, width, height, stroke=int(tile), fill=1)
        canvas.setDash()
        clip = canvas.beginPath()
        clip.rect(x, y, width, height)
        canvas.clipPath(clip, stroke=0, fill=0)
        canvas.setLineWidth(0.3)
        ply = layer.material.kind == "ply" and layer.role == "ply"
        if ply and (tile or height >= 4.0):
            canvas.setStrokeColor(HexColor("#ffffff") if layer.material.family == "carbon" else INK)
            for angle in (layer.angle, layer.angle + 90.0) if layer.material.is_woven else (layer.angle,):
                _hatch(canvas, x, y, width, height, angle, 2.0)
        elif layer.material.family == "honeycomb":
            _hatch(canvas, x, y, width, height, 90.0, 4.0)
        elif layer.material.family == "foam":
            for row in range(int(height // 4.0) + 1):
                for column in range(int(width // 5.0) + 1):
                    canvas.circle(x + 2.0 + 5.0 * column + 2.5 * (row % 2), y + 2.0 + 4.0 * row, 0.25, stroke=0, fill=1)
                    canvas.setFillColor(INK)
        elif layer.material.family == "wood":
            canvas.setDash(7.0, 3.0)
            _hatch(canvas, x, y, width, height, 0.0, 3.0)
        canvas.restoreState()


class WallsDrawing(Flowable):  # type: ignore[misc]
    """A section of several walls on the bottom of its box, ``scale`` points per m: each wall as thick as it is, its
    core lighter."""

    def __init__(self, outline: Outline, width: float, height: float, scale: float) -> None:
        super().__init__()
        self.outline, self.width, self.height, self.scale = outline, width, height, scale

    def wrap(self, _width: float, _height: float) -> tuple[float, float]:
        return self.width, self.height

    def draw(self) -> None:
        """Called by the page layout."""
        left, bottom, right, _ = self.outline.frame
        self.canv.translate(self.width / 2.0 - (left + right) / 2.0 * self.scale, SWATCH - bottom * self.scale)
        for ink in (True, False):
            for wall in self.outline.walls:
                for line in wall.lines:
                    if ink:
                        self._run(line, wall.stack.thickness * self.scale + 0.8, INK)
                    else:
                        self._layers(line, wall.stack)

    def _layers(self, line: tuple[tuple[float, float], ...], stack: Stack) -> None:
        plies = [layer for layer in stack.layers if layer.role != "core"]
        thickest = max(plies, key=lambda layer: layer.thickness)
        self._run(line, stack.thickness * self.scale, _fill(thickest))
        for layer in stack.layers:
            if layer.role == "core":
                self._run(line, layer.thickness * self.scale, _fill(layer))

    def _run(self, line: tuple[tuple[float, float], ...], width: float, colour: HexColor) -> None:
        path = self.canv.beginPath()
        for i, (y, z) in enumerate(line):
            (path.lineTo if i else path.moveTo)(y * self.scale, z * self.scale)
        self.canv.setStrokeColor(colour)
        self.canv.setLineWidth(max(width, 0.4))
        self.canv.setLineJoin(1)
        self.canv.drawPath(path)


def _fill(layer: Layer) -> HexColor:
    family = layer.material.family
    return HexColor(FILLS.get(LIKE.get(family, family), "#cccccc"))


def _hatch(canvas: Any, x: float, y: float, width: float, height: float, angle: float, spacing: float) -> None:
    """Parallel lines at ``angle`` degrees across the clipped box."""
    reach = math.hypot(width, height) / 2.0
    c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))
    middle_x, middle_y = x + width / 2.0, y + height / 2.0
    count = int(reach / spacing)
    for i in range(-count, count + 1):
        off_x, off_y = -s * i * spacing, c * i * spacing
        canvas.line(
            middle_x + off_x - c * reach, middle_y + off_y - s * reach,
            middle_x + off_x + c * reach, middle_y + off_y + s * reach,
        )  # fmt: skip
