"""Pictures of sections: layers to scale, ply swatches hatched at the ply's angle, cores by fill texture."""

from __future__ import annotations

import math
from functools import lru_cache

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPixmap, QPolygonF

from omakase.core.laminate.stack import Layer, Role, Stack
from omakase.core.materials.material import Material
from omakase.evaluate.members.outline import Outline
from omakase.ui.kit.theme import Theme, family_colour, pen


def _contrast(colour: QColor) -> QColor:
    return colour.darker(155) if colour.lightness() > 110 else colour.lighter(190)


def hatch(painter: QPainter, box: QRectF, angle: float, spacing: float) -> None:
    """Parallel lines at ``angle`` degrees (0 = along the member, drawn level; counted counter-clockwise)."""
    painter.save()
    painter.setClipRect(box, Qt.ClipOperation.IntersectClip)
    back, possible = painter.combinedTransform().inverted()
    if possible:  # lines are counted in what can be seen: a box may be a million pixels wide
        box = box.intersected(back.mapRect(QRectF(painter.viewport())))
    painter.translate(box.center())
    painter.rotate(-angle)
    reach = math.hypot(box.width(), box.height()) / 2.0
    steps = int(reach / spacing) + 1
    painter.drawLines([QLineF(-reach, i * spacing, reach, i * spacing) for i in range(-steps, steps + 1)])
    painter.restore()


def draw_swatch(painter: QPainter, box: QRectF, layer: Layer, theme: Theme) -> None:
    """A ply as a small tile: tone by family, hatching at its angle, crossed for cloth, dashed frame if not counted."""
    painter.save()
    fill = family_colour(theme, layer.material.family)
    painter.fillRect(box, fill)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    if layer.role == "core" or layer.material.kind != "ply":
        _texture(painter, box, layer.material, fill)
    else:
        painter.setPen(QPen(_contrast(fill), 1.1))
        spacing = 4.0
        hatch(painter, box, layer.angle, spacing)
        if layer.material.is_woven:
            hatch(painter, box, layer.angle + 90.0, spacing)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    frame = QPen(QColor(theme.ink), 1.0)
    if not layer.structural:
        frame.setStyle(Qt.PenStyle.DashLine)
    painter.setPen(frame)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(box)
    painter.restore()


def _texture(painter: QPainter, box: QRectF, material: Material, fill: QColor) -> None:
    """Fill texture by family: dots for foam, cell walls for honeycomb, strokes for wood, plain for metal."""
    device = painter.device()
    tile = _tile(material.family, fill.rgba(), device.devicePixelRatioF() if device is not None else 1.0)
    if tile is not None:
        whole = QRectF(int(box.left()), int(box.top()), int(box.right()) - int(box.left()), box.height())
        painter.drawTiledPixmap(whole, tile)


TILES = {"foam": (6, 10), "honeycomb": (6, 6), "wood": (14, 8)}  # px, width and height of what repeats


@lru_cache(maxsize=64)
def _tile(family: str, fill: int, ratio: float) -> QPixmap | None:
    """What repeats in a family's texture over a fill; None for a plain one.  Kept: strokes take ten times as long."""
    if family not in TILES:
        return None
    width, height = TILES[family]
    pixmap = QPixmap(round(width * ratio), round(height * ratio))
    pixmap.setDevicePixelRatio(ratio)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    painter.setPen(QPen(_contrast(QColor.fromRgba(fill)), 1.0))
    if family == "foam":
        painter.drawPoints([QPointF(5, 2), QPointF(2, 7)])
    elif family == "honeycomb":
        painter.drawLine(QLineF(3, 0, 3, height))
    else:
        painter.drawLines([QLineF(0, 2, 9, 2), QLineF(7, 6, 14, 6), QLineF(0, 6, 2, 6)])
    painter.end()
    return pixmap


def draw_section(painter: QPainter, box: QRectF, stack: Stack, scale: float, theme: Theme) -> QRectF:
    """The section at true scale (px per m), centred in ``box``; layers under a pixel are drawn as hairlines.

    Returns the rectangle that was filled.
    """
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    height = stack.thickness * scale
    top = box.center().y() - height / 2.0
    for layer, z_top, z_bottom in zip(stack.layers, stack.z_top, stack.z_bottom, strict=True):
        upper = top + (stack.z_top[0] - z_top) * scale
        band = QRectF(box.left(), upper, box.width(), (z_top - z_bottom) * scale)
        fill = family_colour(theme, layer.material.family)
        if band.height() < 1.0:
            painter.setPen(pen(fill.name()))
            painter.drawLine(QLineF(band.left(), upper + 0.5, band.right(), upper + 0.5))
            continue
        painter.fillRect(band, fill)
        if layer.role == "core" or layer.material.kind != "ply":
            _texture(painter, band, layer.material, fill)
        elif band.height() >= 7.0:
            painter.setPen(QPen(_contrast(fill), 1.0))
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            hatch(painter, band, layer.angle, 4.0)
            if layer.material.is_woven:
                hatch(painter, band, layer.angle + 90.0, 4.0)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    drawn = QRectF(box.left(), top, box.width(), height)
    painter.setPen(pen(theme.ink))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(drawn)
    painter.restore()
    return drawn


def draw_ring(painter: QPainter, box: QRectF, stack: Stack, scale: float, theme: Theme) -> None:
    """A tube's section at true scale, as high as ``box``: each layer a ring, thinner than a pixel as hairlines."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    centre, radius = box.center(), box.height() / 2.0
    painter.setPen(Qt.PenStyle.NoPen)
    for layer, z_top in zip(stack.layers, stack.z_top, strict=True):
        inner = radius - (stack.z_top[0] - z_top) * scale
        painter.setBrush(family_colour(theme, layer.material.family))
        painter.drawEllipse(centre, inner, inner)
    inside = radius - stack.thickness * scale
    painter.setBrush(QColor(theme.panel))
    painter.drawEllipse(centre, inside, inside)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(QColor(theme.ink), 1.0))
    painter.drawEllipse(centre, radius, radius)
    painter.drawEllipse(centre, inside, inside)
    painter.restore()


def draw_bent(
    painter: QPainter, box: QRectF, line: tuple[tuple[float, float], ...], stack: Stack, scale: float, theme: Theme
) -> None:
    """An arched or hat-shaped section: heights at true scale, the width fitted into ``box``."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    reach = max(abs(y) for y, _ in line)
    across = min(scale, (box.width() / 2.0 - 1.0) / reach)
    low = min(z for _, z in line)
    middle = box.bottom() - stack.thickness * scale / 2.0
    points = QPolygonF([QPointF(box.center().x() + y * across, middle - (z - low) * scale) for y, z in line])
    outer = next((layer for layer in stack.layers if layer.role == "core"), stack.layers[0])
    thickness = max(2.0, stack.thickness * scale)
    for width, colour in (
        (thickness + 1.5, QColor(theme.ink)),
        (thickness, family_colour(theme, outer.material.family)),
    ):
        painter.setPen(QPen(colour, width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap, Qt.PenJoinStyle.RoundJoin))
        painter.drawPolyline(points)
    painter.restore()


def draw_walls(
    painter: QPainter, box: QRectF, outlined: Outline, scale: float, theme: Theme
) -> None:  # fmt: skip
    """A section of several walls at true scale, its frame centred on the foot of ``box``; each wall is drawn as
    thick as it is, core and faces apart where there is room, over what fills it."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    left, bottom, right, _ = outlined.frame
    zero = QPointF(box.center().x() - (left + right) / 2.0 * scale, box.bottom() + bottom * scale)
    if outlined.inside:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(family_colour(theme, outlined.filling))
        painter.drawPolygon(QPolygonF([zero + QPointF(y * scale, -z * scale) for y, z in outlined.inside]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
    for ink in (True, False):
        for wall in outlined.walls:
            for line in wall.lines:
                points = [zero + QPointF(y * scale, -z * scale) for y, z in line]
                if ink:
                    width = max(2.0, wall.stack.thickness * scale) + 1.5
                    _draw_run(painter, points, width, QColor(theme.ink))
                else:
                    _draw_layers(painter, points, wall.stack, scale, theme)
    painter.restore()


def _draw_layers(painter: QPainter, points: list[QPointF], stack: Stack, scale: float, theme: Theme) -> None:
    """The layers of a wall side by side along its middle, face A to the left; one colour where they are too thin."""
    core = next((layer for layer in stack.layers if layer.role == "core"), None)
    plies = [layer for layer in stack.layers if layer.role != "core"]
    thickness = max(2.0, stack.thickness * scale)
    faces = max(plies, key=lambda layer: layer.thickness)
    _draw_run(painter, points, thickness, family_colour(theme, faces.material.family))
    if core is not None:
        start = next(i for i, layer in enumerate(stack.layers) if layer.role == "core")
        middle = (stack.z_top[start] + stack.z_bottom[start]) / 2.0 * scale
        moved = _shifted(points, float(middle))
        _draw_run(painter, moved, max(1.0, core.thickness * scale), family_colour(theme, core.material.family))


def _draw_run(painter: QPainter, points: list[QPointF], width: float, colour: QColor) -> None:
    painter.setPen(QPen(colour, width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap, Qt.PenJoinStyle.RoundJoin))
    painter.drawPolyline(QPolygonF(points))


def _shifted(points: list[QPointF], left: float) -> list[QPointF]:
    """A line moved by ``left`` px to the left of its way, on a screen whose y points down."""
    moved = []
    for i, point in enumerate(points):
        along = points[min(i + 1, len(points) - 1)] - points[max(i - 1, 0)]
        length = math.hypot(along.x(), along.y()) or 1.0
        moved.append(point + QPointF(along.y(), -along.x()) * (left / length))
    return moved


@lru_cache(maxsize=200)
def _swatch_tile(
    material: Material, angle: float, role: Role, structural: bool, theme: Theme, size: float, ratio: float
) -> QPixmap:
    """A swatch with a pixel to spare all round; kept, since candidates share plies and most stay at an edit."""
    side = math.ceil(size) + 2
    pixmap = QPixmap(round(side * ratio), round(side * ratio))
    pixmap.setDevicePixelRatio(ratio)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    layer = Layer(material, angle, 1.0, role, structural)
    draw_swatch(painter, QRectF(1.0, 1.0, size, size), layer, theme)
    painter.end()
    return pixmap


def draw_face_swatches(
    painter: QPainter, box: QRectF, layers: tuple[Layer, ...], theme: Theme, size: float = 13.0
) -> None:
    """The plies of one face, outermost first, as tiles in a row; a count stands for those that do not fit."""
    room = max(1, int(box.width() // (size + 3.0)))
    shown = layers if len(layers) <= room else layers[: room - 2]
    x = box.left()
    device = painter.device()
    ratio = device.devicePixelRatioF() if device is not None else 1.0
    for layer in shown:
        tile = _swatch_tile(layer.material, layer.angle, layer.role, layer.structural, theme, size, ratio)
        painter.drawPixmap(QPointF(x - 1.0, box.top() - 1.0), tile)
        x += size + 3.0
    if len(shown) < len(layers):
        painter.setPen(QColor(theme.quiet))
        painter.drawText(QRectF(x, box.top() - 1, 40.0, size + 2), 0, f"+{len(layers) - len(shown)}")
