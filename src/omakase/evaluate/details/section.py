"""A section through a detail as a drawing: its layers to scale, and what goes through them."""

from __future__ import annotations

from collections.abc import Sequence

from omakase.core.details.bond import Bond
from omakase.core.details.detail import PointCase
from omakase.core.details.fastener import Fastener
from omakase.core.details.insert import ROUND, Insert
from omakase.core.laminate.stack import Stack
from omakase.evaluate.members.drawing import Arrow, Drawing, Line, Note, Point, Shape

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
    worst = max(own.cases, key=lambda case: max(abs(case.pull), case.shear), default=None)
    if worst is not None and worst.pull:
        up = worst.pull > 0.0
        tip = high + (0.35 * reach if up else 0.0)
        shapes.append(Arrow((0.0, tip), (0.0, 1.0 if up else -1.0)))
        shapes.append(Note((0.0, high + 0.2 * reach), f"{abs(worst.pull):.0f} N", "right"))
    if worst is not None and worst.shear:
        middle = above / 2.0 if own.plate is not None else above + thick + 0.6 * d
        shapes.append(Arrow((reach * 0.98, middle), (1.0, 0.0)))
        shapes.append(Note((reach * 0.8, middle), f"{worst.shear:.0f} N", "above"))
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
