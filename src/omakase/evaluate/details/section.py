"""A section through a detail as a drawing: its layers to scale, and what goes through them."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec
import numpy as np

from omakase.core.details.bond import Bond
from omakase.core.details.detail import PointCase
from omakase.core.details.doubler import Doubler
from omakase.core.details.edge import Edge
from omakase.core.details.fastener import Fastener
from omakase.core.details.insert import ROUND, Insert
from omakase.core.laminate.stack import Stack
from omakase.evaluate.members.drawing import Arrow, Drawing, Line, Mark, Note, Point, Shape

METAL = "metal"


def box(left: float, right: float, low: float, high: float, family: str = "", width: float = 1.0) -> Line:
    """A rectangle, filled with the tone of a family of materials."""
    points: tuple[Point, ...] = ((left, low), (right, low), (right, high), (left, high), (left, low))
    return Line(points, "ink", width, family=family, fill="" if family else "fill")


def layers(stack: Stack, left: float, right: float, top: float = 0.0) -> list[Shape]:
    """The layers of a stack between two places, face A at ``top``; plies of one family that touch are one shape."""
    shapes: list[Shape] = []
    high, index = top, 0
    while index < len(stack.layers):
        own, low = stack.layers[index], high
        while index < len(stack.layers) and _like(stack.layers[index], own):
            low -= stack.layers[index].thickness
            index += 1
        shapes.append(box(left, right, low, high, own.material.family))
        high = low
    return shapes


def _like(one, other) -> bool:  # type: ignore[no-untyped-def]
    return (one.material.family, one.role) == (other.material.family, other.role)


def bolt_section(own: Fastener) -> Drawing:
    """A fastener with its washers or plates, sleeve, plug and the part it holds."""
    stack = own.site.stack
    thickness = stack.thickness
    seat = own.washer if own.seat is None else own.seat[0]
    plug = own.plug.diameter if own.plug is not None else 0.0
    reach = max(1.3 * max(seat, plug), 2.0 * thickness, 6.0 * own.diameter) / 2.0 * 1.2
    shapes: list[Shape] = layers(stack, -reach, reach)
    hole, bore = own.hole / 2.0, own.bore / 2.0
    if own.plug is not None:
        top = -own.faces[0].thickness
        bottom = -thickness + own.faces[-1].thickness
        shapes.append(box(-plug / 2.0, plug / 2.0, bottom, top, own.plug.material.family))
    shapes.append(box(-hole, hole, -thickness, 0.0))
    if own.sleeve is not None:
        low = -thickness + own.sleeve.short
        shapes += [box(-hole, -bore, low, 0.0, METAL), box(bore, hole, low, 0.0, METAL)]
    above = 0.0
    if own.plate is not None:
        above = own.plate.thickness
        family = own.plate.material.family
        shapes += [box(-reach * 0.75, -bore, 0.0, above, family), box(bore, reach * 0.75, 0.0, above, family)]
    thick = max(0.1 * seat, 0.15 * own.diameter)
    half, d = seat / 2.0, own.diameter / 2.0
    if own.kind == "bolt":
        shapes += [
            box(-half, half, above, above + thick, METAL), box(-half, half, -thickness - thick, -thickness, METAL),
            box(-1.6 * d, 1.6 * d, above + thick, above + thick + 1.2 * d, METAL),
            box(-1.6 * d, 1.6 * d, -thickness - thick - 1.4 * d, -thickness - thick, METAL),
        ]  # fmt: skip
    low, high = -thickness - thick - 2.0 * d, above + thick + 1.2 * d
    shapes.append(box(-d, d, low, above + thick if own.kind == "bolt" else high, METAL))
    pull = max((case.pull for case in own.cases), key=abs, default=0.0) / own.count
    shear = max((own.worst(case)[0] for case in own.cases), default=0.0)
    if pull:
        up = pull > 0.0
        tip = high + (0.35 * reach if up else 0.0)
        shapes.append(Arrow((0.0, tip), (0.0, 1.0 if up else -1.0)))
        shapes.append(Note((0.0, high + 0.2 * reach), f"{abs(pull):.0f} N", "right"))
    if shear >= 0.5:
        middle = above / 2.0 if own.plate is not None else above + thick + 0.6 * d
        shapes.append(Arrow((reach * 0.98, middle), (1.0, 0.0)))
        shapes.append(Note((reach * 0.8, middle), f"{shear:.0f} N", "above"))
    shapes.append(Note((-reach, 0.0), "face A", "above", "quiet"))
    room = 0.1 * reach
    return Drawing(tuple(shapes), (-reach, low - room, reach, high + 0.4 * reach))


def seam_section(own: Bond) -> Drawing:
    """Two sheets with the glue between them: a lap, or sheets that taper into each other."""
    one, two = own.first, own.second
    overlap, gap = own.overlap, max(own.gap, 0.02 * (one.thickness + two.thickness))
    reach = 0.6 * overlap
    shapes: list[Shape] = []
    if own.peels:
        low = -one.thickness - gap
        shapes += layers(one, -reach, overlap)
        shapes += layers(two, 0.0, overlap + reach, low)
        shapes.append(Line(((0.0, low), (overlap, low), (overlap, low + gap), (0.0, low + gap)), "accent", 0.0,
                           fill="high"))  # fmt: skip
        middles = -one.thickness / 2.0, low - two.thickness / 2.0
        bottom = low - two.thickness
    else:
        family = one.layers[0].material.family, two.layers[0].material.family
        t = one.thickness
        left = ((-reach, 0.0), (0.0, 0.0), *_edge(own, t), (-reach, -t), (-reach, 0.0))
        right = ((overlap + reach, 0.0), (0.0, 0.0), *_edge(own, t), (overlap + reach, -t), (overlap + reach, 0.0))
        shapes += [Line(right, "ink", 1.0, family=family[1]), Line(left, "ink", 1.0, family=family[0])]
        middles, bottom = (-t / 2.0, -t / 2.0), -t
    worst = max(own.cases, key=lambda case: abs(case.pull) + case.flow + abs(case.opening), default=None)
    if worst is not None and worst.pull:
        out = 1.0 if worst.pull > 0.0 else -1.0
        end = (1.35 if out > 0.0 else 1.02) * reach
        shapes += [
            Arrow((-end, middles[0]), (-out, 0.0)), Arrow((overlap + end, middles[1]), (out, 0.0)),
            Note((-reach, 0.0), f"{worst.pull / 1e3:.3g} N/mm", "above"),
        ]  # fmt: skip
    if worst is not None and worst.opening:
        shapes += [
            Arrow((0.0, 0.6 * one.thickness), (0.0, 1.0)),
            Arrow((0.0, bottom - 0.6 * two.thickness), (0.0, -1.0)),
        ]
    shapes.append(
        Note((overlap / 2.0, 0.0), f"glue {own.gap * 1e3:g} mm, overlap {overlap * 1e3:g} mm", "above", "quiet")
    )
    more = 1.5 * (one.thickness + two.thickness)
    return Drawing(tuple(shapes), (-1.35 * reach, bottom - more, overlap + 1.35 * reach, more), even=False)


def _edge(own: Bond, thickness: float) -> list[Point]:
    """The line along which two tapered sheets meet, from the top at x = 0 to the bottom at the end of the overlap."""
    if own.form == "scarf":
        return [(own.overlap, -thickness)]
    points: list[Point] = []
    for k in range(own.steps):
        low = -thickness * (k + 1) / own.steps
        points += [(own.overlap * k / own.steps, low), (own.overlap * (k + 1) / own.steps, low)]
    return points


def insert_section(own: Insert) -> Drawing:
    """An insert with its potting, plate or plug in the sandwich."""
    stack = own.site.stack
    thickness = stack.thickness
    block = 2.0 * own.radius if own.kind in ROUND else own.length
    reach = max(0.9 * block, 1.5 * thickness, 2.0 * own.diameter)
    shapes: list[Shape] = layers(stack, -reach, reach)
    top = -own.faces[0].thickness
    bottom = -thickness + (own.faces[-1].thickness if len(own.faces) > 1 else 0.0)
    family = own.filler.family if own.filler is not None else METAL
    half, r = block / 2.0, own.diameter / 2.0
    low = -own.depth if own.kind == "potted" else -thickness
    if own.kind in ("potted", "through"):
        shapes.append(box(-half, half, max(low, bottom), top, family))
        shapes.append(box(-r, r, low, 0.0, METAL))
    elif own.kind == "bush":
        shapes += [box(-r, r, -thickness, 0.0, METAL), box(-0.55 * r, 0.55 * r, -thickness, 0.0)]
    elif own.kind == "plate":
        shapes += [box(-half, half, top - own.thickness, top, family), box(-r, r, top - own.thickness, 0.0, METAL)]
    else:
        shapes += [box(-half, half, bottom, top, family), box(-r, r, 0.7 * bottom, 0.0, METAL)]
    high = _forces(shapes, own.cases, reach)
    shapes.append(Note((-reach, 0.0), "face A", "above", "quiet"))
    return Drawing(tuple(shapes), (-reach, -thickness - 0.15 * reach, reach, max(high, 0.5 * reach)))


def _forces(shapes: list[Shape], cases: Sequence[PointCase], reach: float) -> float:
    """Arrows of the largest forces of any case, from face A up; how high they reach."""
    pull = max((case.pull for case in cases), key=abs, default=0.0)
    shear = max((case.shear for case in cases), default=0.0)
    if pull:
        up = pull > 0.0
        shapes.append(Arrow((0.0, 0.45 * reach if up else 0.02 * reach), (0.0, 1.0 if up else -1.0)))
        shapes.append(Note((0.0, 0.3 * reach), f"{abs(pull):.0f} N", "right"))
    if shear:
        shapes.append(Arrow((0.6 * reach, 0.12 * reach), (1.0, 0.0)))
        shapes.append(Note((0.6 * reach, 0.12 * reach), f"{shear:.0f} N", "right"))
    return 0.5 * reach


def edge_section(own: Edge) -> Drawing:
    """The end of a sandwich: its slope and flange, or what closes it square; the edge at the left."""
    stack, thickness = own.site.stack, own.site.stack.thickness
    reach = max(4.0 * thickness, own.width + own.run + 2.0 * thickness)
    if own.closing != "run_out":
        shapes = layers(stack, 0.0, reach)
        top, bottom = -own.core_top, -thickness + own.core_bottom
        if own.closing in ("potted", "strip"):
            shapes.append(box(0.0, own.width, bottom, top, own.filler.family if own.filler is not None else "epoxy"))
        elif own.closing in ("wrap", "tape"):
            over = own.width if own.closing == "wrap" else 0.02
            wrap = own.wrap.thickness if own.wrap is not None else 0.04 * thickness
            points = ((over, 0.0), (0.0, 0.0), (0.0, -thickness), (over, -thickness), (over, -thickness - wrap),
                      (-wrap, -thickness - wrap), (-wrap, wrap), (over, wrap), (over, 0.0))  # fmt: skip
            family = own.wrap.layers[0].material.family if own.wrap is not None else "glass"
            shapes.append(Line(points, "ink", 1.0, family=family))
        return Drawing(tuple(shapes), (-0.1 * reach, -1.5 * thickness, reach, 0.5 * thickness))
    flange = own.flange.thickness if own.flange is not None else 0.0
    start, kink = own.width, own.width + own.run
    flat, sloped = own.sheets[0].layers[0].material.family, own.sheets[1].layers[0].material.family
    t_flat, t_slope = own.sheets[0].thickness, own.sheets[1].thickness
    low = -thickness
    core = ((start, -t_flat), (reach, -t_flat), (reach, low + t_slope), (kink, low + t_slope), (start, -t_flat))
    face = ((start, -t_flat), (kink, low + t_slope), (reach, low + t_slope), (reach, low), (kink, low),
            (start, -t_flat - t_slope), (start, -t_flat))  # fmt: skip
    shapes = [
        Line(core, "ink", 1.0, family=own.site.stack.layers[own.site.stack.core.start].material.family)
        if own.site.stack.core is not None else box(start, reach, low, 0.0),
        Line(face, "ink", 1.0, family=sloped), box(0.0, reach, -t_flat, 0.0, flat),
        box(0.0, start, -flange, 0.0, sloped),
    ]  # fmt: skip
    if own.tongue is not None:
        wide = own.tongue.thickness
        shapes.append(
            box(kink - wide / 2.0, kink + wide / 2.0, low + t_slope, -t_flat, own.tongue.layers[0].material.family)
        )
    shapes.append(Mark((start / 2.0, -flange), "knife"))
    shapes.append(Note((kink, low), f"kink, {own.slope:g}°", "below", "quiet"))
    drawing = Drawing(tuple(shapes), (-0.05 * reach, -1.9 * thickness, reach, 0.6 * thickness))
    if own.flat == "face_a":
        return drawing
    return Drawing(
        tuple(_mirrored(shape) for shape in shapes), (-0.05 * reach, -0.6 * thickness, reach, 1.9 * thickness)
    )


def _mirrored(shape: Shape) -> Shape:
    """The shape upside down."""
    if isinstance(shape, Line):
        return msgspec.structs.replace(shape, points=tuple((x, -y) for x, y in shape.points))
    if isinstance(shape, Note):
        return msgspec.structs.replace(shape, at=(shape.at[0], -shape.at[1]), side="above")
    return shape


def doubler_section(own: Doubler) -> Drawing:
    """A doubler with its ends on the sheet, higher than true; over it the share of the load that it takes."""
    base = own.site.stack.thickness
    total, length = own.layers.thickness, own.length
    over = 0.25 * length
    shapes: list[Shape] = layers(own.site.stack, -over, length + over)
    x = np.linspace(0.0, length, 401)
    outline = [(float(place), float(share) * total) for place, share in zip(x, own.thickness_at(x), strict=True)]
    points = ((0.0, 0.0), *outline, (length, 0.0), (0.0, 0.0))
    shapes.append(Line(points, "ink", 1.0, family=own.layers.layers[0].material.family))
    high = 2.2 * (base + total)
    places, _, taken = own.answer
    lift = total + 0.25 * high
    curve = tuple((float(p), lift + float(t) * high) for p, t in zip(places, taken, strict=True))
    shapes.append(Line(curve, "accent", 1.6))
    shapes.append(Line(((0.0, lift), (length, lift)), "quiet", 0.8, dashed=True))
    told = f"takes {own.reached * own.share:.0%} of the load"
    shapes.append(Note((length / 2.0, lift + own.share * high), told, "above"))
    return Drawing(
        tuple(shapes), (-over, -1.3 * base, length + over, lift + 1.2 * max(own.share, 0.2) * high), even=False
    )
