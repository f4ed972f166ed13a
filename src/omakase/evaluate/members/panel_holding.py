"""What holds a panel beside its edges, as a sentence and as words: bolts, lines of support, elastic edges, a bed."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import partial

from omakase.core.errors import PanelError
from omakase.evaluate.members.sentence import (
    WAYS,
    Act,
    Choice,
    Number,
    Part,
    Path,
    Range,
    Sentence,
    Words,
    with_entry,
    with_value,
    without_entry,
)
from omakase.project import translate
from omakase.project.commands import replace
from omakase.project.model import Brief
from omakase.project.panels import BoltCircle, BoltRow, PanelMember, SupportLine, Supports
from omakase.units import FIELD, UnitSystem, format_value

BOLT_COUNTS = (3, 4, 6, 8, 10, 12, 16, 20, 24, 32, 40, 48)
HOLDING = (("up", "up", False), ("plane", "up and in the plane", True))


def held_sentence(brief: Brief) -> Sentence:
    """Bolts, lines of support, the stiffness of elastic edges, and the bed."""
    member = brief.member
    assert isinstance(member, PanelMember)
    supports, base = member.supports, ("member", "supports")
    parts: list[Part] = []
    if "elastic" in (supports.x0, supports.x1, supports.y0, supports.y1):
        parts += [Words("; elastic edges take"), Number((*base, "spring"), "edge_spring",
                  "Stiffness of elastic edges, force per length and travel", "stiffness of elastic edges")]  # fmt: skip
    for i, row in enumerate(supports.bolts):

        def number(field: str, what: str, range_: Range = "not_negative", i: int = i) -> Number:
            return Number((*base, "bolts", i, field), "length", f"{what}, bolts {i + 1}", what.lower(), range_)

        parts += [
            Words("; bolts from x"),
            number("x", "First bolt along"),
            Words("y"),
            number("y", "First bolt across"),
        ]
        if (row.x, row.y) != (row.to_x, row.to_y):
            parts += [
                Words("to x"), number("to_x", "Last bolt along"), Words("y"), number("to_y", "Last bolt across"),
                Words("every"), number("pitch", "Largest pitch", "positive"), Words(f"({_count(row)})"),
            ]  # fmt: skip
        parts += [
            Words(", washers"), number("washer", "Width of the washers", "positive"), Words("hold"),
            Choice((*base, "bolts", i, "in_plane"), f"What bolts {i + 1} hold", "what bolts hold", HOLDING),
            Act("×", f"Remove bolts {i + 1}", "remove bolts", partial(without_entry, path=(*base, "bolts"), index=i)),
        ]  # fmt: skip
    for i in range(len(supports.lines)):
        parts += [
            Words("; a line of support"),
            Choice((*base, "lines", i, "along"), f"Way of line {i + 1}", "way of a line of support", WAYS),
            Number((*base, "lines", i, "place"), "length", f"Place of line {i + 1}", "place of a line of support"),
            Act("×", f"Remove line {i + 1}", "remove a line of support",
                partial(without_entry, path=(*base, "lines"), index=i)),
        ]  # fmt: skip
    if supports.bed:
        parts += _bed(base)
    line = SupportLine(round(member.length / 2.0, 4))
    offers: list[tuple[str, str, Callable[[Brief], Brief]]] = [
        ("+ bolts", "Add a row of bolts", partial(_with_bolts, around=False)),
        ("+ bolts all round", "Bolts along all four sides instead of its edges", partial(_with_bolts, around=True)),
        ("+ line", "Add a line of support",
         partial(with_entry, path=(*base, "lines"), index=len(supports.lines), entry=line)),
    ]  # fmt: skip
    parts += [Act(text, what, what.lower(), change) for text, what, change in offers]
    if not supports.bed:
        parts.append(_bed_offer(base))
    return tuple(parts)


def circle_sentence(brief: Brief) -> Sentence:
    """Of a round panel: the stiffness of an elastic edge, the circle of bolts and the bed."""
    member = brief.member
    assert isinstance(member, PanelMember)
    supports, base = member.supports, ("member", "supports")
    parts: list[Part] = []
    if supports.x0 == "elastic":
        parts += [Words("; it takes"), Number((*base, "spring"), "edge_spring",
                  "Stiffness of the elastic edge, force per length and travel", "stiffness of the edge")]  # fmt: skip
    circle = (*base, "circle")
    if supports.circle is not None:
        numbers = tuple((str(k), str(k), k) for k in sorted({*BOLT_COUNTS, supports.circle.count}))
        parts += [
            Words(";"),
            Choice((*circle, "count"), "Number of bolts", "number of bolts", numbers),
            Words("bolts round it,"), Number((*circle, "inset"), "length", "Bolts inside the edge by",
                                             "place of the bolts", "not_negative"),
            Words("inside the edge, washers"), Number((*circle, "washer"), "length", "Width of the washers", "washers"),
            Words("hold"), Choice((*circle, "in_plane"), "What the bolts hold", "what bolts hold", HOLDING),
            Act("×", "Remove the bolts", "remove bolts", partial(with_value, path=circle, value=None)),
        ]  # fmt: skip
    if supports.bed:
        parts += _bed(base)
    if supports.circle is None:
        parts.append(
            Act("+ bolts all round", "A circle of bolts instead of its edge", "a circle of bolts", _with_circle)
        )
    if not supports.bed:
        parts.append(_bed_offer(base))
    return tuple(parts)


def new_circle(member: PanelMember, count: int = 12) -> BoltCircle:
    """Bolts round a panel of this size."""
    shorter = min(member.length, member.width)
    nearest = min(BOLT_COUNTS, key=lambda own: abs(own - count))
    return BoltCircle(nearest, round(max(0.012, shorter / 40.0), 3), round(min(0.02, shorter / 12.0), 4))


def _with_circle(brief: Brief) -> Brief:
    member = brief.member
    assert isinstance(member, PanelMember)
    supports = replace(member.supports, x0="free", circle=new_circle(member))
    return replace(brief, member=replace(member, supports=supports))


def _bed(base: Path) -> list[Part]:
    return [
        Words("; on a bed of"),
        Number((*base, "bed"), "bed", "Stiffness of the bed, pressure per travel", "stiffness of the bed"),
        Act("×", "Remove the bed", "remove the bed", partial(with_value, path=(*base, "bed"), value=0.0)),
    ]  # fmt: skip


def _bed_offer(base: Path) -> Act:
    what = "Put it on an elastic bed"
    return Act("+ bed", what, what.lower(), partial(with_value, path=(*base, "bed"), value=1e7))


def circle_words(member: PanelMember, units: UnitSystem) -> str:
    """``circle_sentence`` as text for paper."""
    supports, words = member.supports, ""
    if supports.x0 == "elastic":
        words += f"; it takes {format_value(supports.spring, 'edge_spring', units, with_unit=True, digits=FIELD)}"
    if supports.circle is not None:
        circle = supports.circle
        inset, washer = (
            format_value(size, "length", units, with_unit=True, digits=FIELD) for size in (circle.inset, circle.washer)
        )
        plane = " and hold the plane" if circle.in_plane else ""
        words += f"; {circle.count} bolts round it, {inset} inside the edge, washers {washer}{plane}"
    return words + _bed_words(supports, units)


def _bed_words(supports: Supports, units: UnitSystem) -> str:
    if not supports.bed:
        return ""
    return f"; on a bed of {format_value(supports.bed, 'bed', units, with_unit=True, digits=FIELD)}"


def _count(row: BoltRow) -> str:
    try:
        count = len(translate.bolts_of(row))
    except PanelError:
        return "no pitch"
    return f"{count} bolts"


def _with_bolts(brief: Brief, around: bool) -> Brief:
    """Another row of bolts along the near side, or rows along all sides in place of what holds the edges."""
    member = brief.member
    assert isinstance(member, PanelMember)
    shorter = min(member.length, member.width)
    inset, washer = round(max(0.015, shorter / 40.0), 3), round(min(0.02, shorter / 10.0), 4)
    pitch = round(max(0.1, max(member.length, member.width) / 8.0), 3)
    x, y = (round(size - inset, 4) for size in (member.length, member.width))
    sides = [BoltRow(inset, inset, x, inset, pitch, washer)]
    if not around:
        supports = replace(member.supports, bolts=(*member.supports.bolts, *sides))
        return replace(brief, member=replace(member, supports=supports))
    sides.append(BoltRow(inset, y, x, y, pitch, washer))
    between = y - inset
    count = max(1, math.ceil(between / pitch - 1e-9))
    step = between / count
    for place in (inset, x):  # the corners' bolts belong to the long rows
        if count > 1:
            low, high = round(inset + step, 4), round(y - step, 4)
            sides.append(BoltRow(place, low, place, high, pitch, washer))
    free = dict.fromkeys(("x0", "x1", "y0", "y1"), "free")
    supports = replace(member.supports, bolts=tuple(sides), **free)
    return replace(brief, member=replace(member, supports=supports))


def held_words(supports: Supports, units: UnitSystem) -> str:
    """The same as text for paper."""

    def size(value: float, dimension: str = "length") -> str:
        return format_value(value, dimension, units, with_unit=True, digits=FIELD)

    words = []
    if "elastic" in (supports.x0, supports.x1, supports.y0, supports.y1):
        words.append(f"; elastic edges take {size(supports.spring, 'edge_spring')}")
    for row in supports.bolts:
        single = (row.x, row.y) == (row.to_x, row.to_y)
        where = f"a bolt at x {size(row.x)}, y {size(row.y)}"
        if not single:
            where = f"{_count(row)} from x {size(row.x)}, y {size(row.y)} to x {size(row.to_x)}, y {size(row.to_y)}"
        plane = " and hold the plane" if row.in_plane else ""
        words.append(f"; {where}, washers {size(row.washer)}{plane}")
    words += [f"; a line of support {'along at y' if line.along else 'across at x'} {size(line.place)}"
              for line in supports.lines]  # fmt: skip
    return "".join(words) + _bed_words(supports, units)
