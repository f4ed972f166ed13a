"""What strips and tubes have in common: supports and loads along a span, their sentences and their picture."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator, Mapping, Sequence
from functools import lru_cache
from typing import Any

import numpy as np

from omakase.core.errors import OmakaseError
from omakase.core.members.spar_given import SparShape
from omakase.core.members.strip import WidthLaw
from omakase.core.sections.outlines import mid_lines
from omakase.evaluate.members.drawing import Arrow, Drawing, Handle, Line, Mark, Note, Shape
from omakase.evaluate.members.kind import LoadOffer
from omakase.evaluate.members.sentence import (
    NOT_TAKEN,
    Act,
    Choice,
    Name,
    Number,
    Part,
    Path,
    Sentence,
    Side,
    Words,
    own_weight,
    plain,
    with_entry,
    without_entry,
)
from omakase.project import edits, span_translate
from omakase.project.commands import replace
from omakase.project.model import Brief, Candidate, Load, LoadCase
from omakase.project.panels import OwnWeight
from omakase.project.span_translate import SpanMember
from omakase.project.spans import (
    AxialLoad,
    Carried,
    DropLoad,
    ForceLoad,
    LegForm,
    LiftLoad,
    LoadStation,
    MomentLoad,
    OutlinePoint,
    SideLoad,
    SpanSupport,
    SparForm,
    SpreadLoad,
    Station,
    StripForm,
    TableLoad,
    TorqueLoad,
    TubeForm,
    Zone,
)
from omakase.project.wings import AirTable, RibForm, SurfaceForm
from omakase.units import UnitSystem, format_value

HELD = (("clamped", "clamped", "clamped"), ("simple", "resting", "simple"))
HELD_EXPLAINED = (
    ("clamped", "built in: nothing moves or turns"),
    ("simple", "held up or down and free to turn: a pin, a roller, an edge"),
)
SPAN_LOADS = (
    LoadOffer("force", "force at a place: a foot, a hand, a bolt"),
    LoadOffer("spread", "load spread along it"),
    LoadOffer("own_weight", "own weight and what it carries, times g"),
    LoadOffer("moment", "bending moment"),
    LoadOffer("axial", "push or pull along it"),
    LoadOffer("drop", "mass that falls on it"),
)
SIDE = LoadOffer("side", "force edgewise: drag on an axle")
TORQUE = LoadOffer("torque", "torque")
LIFT = LoadOffer("lift", "lift along the span")
LIFT_TABLE = LoadOffer("table", "load along the span from a table")
LIFT_SHAPES = (
    ("even", "evenly", "even"), ("elliptic", "as an ellipse", "elliptic"), ("chord", "as the chord", "chord"),
    ("mean", "as the mean of chord and ellipse", "mean"),
)  # fmt: skip
LIFT_EXPLAINED = (
    ("even", "the same on every metre"),
    ("elliptic", "a quarter of an ellipse, largest at the root"),
    ("chord", "as wide as the wing is there"),
    ("mean", "halfway between the chord and an ellipse: the usual first estimate (common practice, no source)"),
)


MISSING = {
    "menu": "The menu of combinations works for flat panels only so far. Ways out and studies work here.",
}


class SpanKind:
    """What the kinds of strip and tube answer alike; see ``MemberKind``."""

    member: type[SpanMember]
    form: type[StripForm | TubeForm | SparForm | LegForm | RibForm | SurfaceForm]
    first_load = SPAN_LOADS[0].kind
    opening: str  # of its sentence, as "A strip"
    held = "held:"  # the words before its supports
    noun: str
    reduced = quicker = False
    missing: Mapping[str, str] = MISSING
    can_be_drawn = False

    def walls(self, _candidate: Candidate) -> tuple[str, ...]:
        return ("",)

    def drawn_by(self, candidate: Candidate, _points: tuple[OutlinePoint, ...]) -> Candidate:
        return candidate

    def new_member(self) -> SpanMember:
        return self.member()

    def new_form(self, brief: Brief) -> StripForm | TubeForm | SparForm | LegForm | RibForm | SurfaceForm:
        before = next((other.form for other in reversed(brief.candidates) if isinstance(other.form, self.form)), None)
        return before or self.form()

    def default_load(self, brief: Brief, kind: str) -> Load:
        return default_load(brief, kind)

    def sentence(self, brief: Brief) -> Sentence:
        return member_sentence(brief, self.opening, self.noun.capitalize(), self.held)

    def plain_member(self, brief: Brief, units: UnitSystem) -> str:
        return plain(self.sentence(brief), brief, units)

    def plan(self, brief: Brief, case: LoadCase | None, units: UnitSystem) -> Drawing:
        return side_view(brief, case, units)


def long_member(brief: Brief) -> SpanMember:
    """The member of a brief whose kind has a span."""
    assert isinstance(brief.member, SpanMember)
    return brief.member


def default_load(brief: Brief, kind: str) -> Load:
    """A load to start from, at the far end of a cantilever, else in the middle."""
    member = long_member(brief)
    ends = [support.x for support in member.supports]
    cantilever = len(ends) == 1
    x = member.length if cantilever and ends[0] < member.length / 2.0 else (0.0 if cantilever else member.length / 2.0)
    offered: dict[str, Load] = {
        "force": ForceLoad(200.0, x),
        "spread": SpreadLoad(100.0, 100.0, 0.0, member.length),
        "own_weight": OwnWeight(1.0),
        "moment": MomentLoad(10.0, x),
        "axial": AxialLoad(-200.0, x if cantilever else member.length),
        "torque": TorqueLoad(5.0, x),
        "side": SideLoad(100.0, x),
        "drop": DropLoad(5.0, 0.1, x),
        "lift": LiftLoad(200.0, 0.0, member.length),
        "table": TableLoad((LoadStation(0.0, 200.0), LoadStation(member.length, 50.0))),
    }
    return offered[kind]


# --- sentences ----------------------------------------------------------------------------------------------


def member_sentence(brief: Brief, opening: str, noun: str, held: str = "held:") -> Sentence:
    """Length, supports one after the other, and what it carries; ``held`` : the words before the supports."""
    member = long_member(brief)
    parts: list[Part] = [
        Words(opening),
        Number(("member", "length"), "length", f"{noun} length", f"{noun.lower()} length"),
        Words(f"long, {held}"),
    ]
    for i, _ in enumerate(member.supports):
        path: Path = ("member", "supports", i)
        which = f"support {i + 1}"
        if i:
            parts.append(Words("and"))
        parts += [
            Choice((*path, "held"), f"How it is held, {which}", f"{which}: how it is held", HELD, HELD_EXPLAINED),
            Words("at"),
            Number((*path, "x"), "length", f"Place of {which}", f"place of {which}", "not_negative"),
            Words("over"),
            Number(
                (*path, "along"), "length", f"Length of {which}, 0 for an edge", f"length of {which}", "not_negative"
            ),
        ]
        if len(member.supports) > 1:
            parts.append(_drop(("member", "supports"), i, f"Remove {which}", "remove a support"))
    parts.append(_add(("member", "supports"), len(member.supports), SpanSupport(_free_place(member)), "+ support",
                      "Add a support", "add a support"))  # fmt: skip
    for i, _ in enumerate(member.carried):
        path = ("member", "carried", i)
        which = f"carried mass {i + 1}"
        parts += [
            Words("; carries" if i == 0 else "and"),
            Name((*path, "what"), f"What is {which}", "name a carried mass"),
            Words("of"),
            Number((*path, "mass"), "mass", f"Size of {which}", which),
            Words("at"),
            Number((*path, "x"), "length", f"Place of {which}", f"place of {which}", "not_negative"),
            _drop(("member", "carried"), i, f"Remove {which}", "remove a carried mass"),
        ]
    parts.append(_add(("member", "carried"), len(member.carried), Carried("mass", 1.0, member.length), "+ mass",
                      "Add a mass that it carries", "add a carried mass"))  # fmt: skip
    return tuple(parts)


def _free_place(member: SpanMember) -> float:
    """Where no support stands yet: the far end, the near end, or the middle of the widest gap."""
    places = sorted(support.x for support in member.supports)
    for end in (member.length, 0.0):
        if all(abs(place - end) > 0.05 * member.length for place in places):
            return end
    gaps = [(b - a, (a + b) / 2.0) for a, b in itertools.pairwise(places)]
    return max(gaps, default=(0.0, member.length / 2.0))[1]


def _drop(path: Path, index: int, what: str, step: str) -> Act:
    return Act("×", what, step, lambda record: without_entry(record, path, index))


def _add(path: Path, index: int, entry: Any, text: str, what: str, step: str) -> Act:
    return Act(text, what, step, lambda record: with_entry(record, path, index, entry))


def load_sentence(brief: Brief, case: int, load: int, wide: bool, aside: bool = False) -> Sentence:
    """One load; ``wide`` : a strip, on which what presses has a size across too.

    ``aside`` : a spar, whose loads may act beside its reference line and turn it.
    """
    record = brief.load_cases[case].loads[load]
    base: Path = ("load_cases", case, "loads", load)
    which = f"{brief.load_cases[case].id} load {load + 1}"

    def number(field: str, dimension: str, what: str, range_: str = "not_negative", signed: bool = False) -> Number:
        return Number((*base, field), dimension, f"{what}, {which}", what.lower(), range_, signed)  # type: ignore[arg-type]

    at = (Words("at x"), number("x", "length", "Place along it"))
    over: tuple[Part, ...] = (Words("over"), number("along", "length", "Size along it, 0 for a line"))
    if wide:
        over += (Words("×"), number("across", "length", "Size across, 0 for the whole width"))
    faces = ("face A", "face B") if wide else ("downward", "upward")

    def side(field: str, words: tuple[str, str]) -> Side:
        return Side((*base, field), f"Direction, {which}", "turn a load over", words)

    on = Words("on" if wide else ",")
    behind: tuple[Part, ...] = ()
    if aside and hasattr(record, "offset"):
        behind = (
            Words(", acting"), number("offset", "length", "Distance behind the reference line", "anything"),
            Words("behind the line"),
        )  # fmt: skip
    if isinstance(record, ForceLoad):
        return (
            number("force", "force", "Force", "positive", True), Words("from a"),
            Name((*base, "what"), f"What presses, {which}", "name a load"), *at, *over, on, side("force", faces),
            *behind,
        )  # fmt: skip
    if isinstance(record, LiftLoad):
        return (
            number("total", "force", "Lift in all", "anything"), Words("of lift, shared out"),
            Choice((*base, "shape"), f"How lift is shared out, {which}", "how lift is shared out", LIFT_SHAPES,
                   LIFT_EXPLAINED),
            Words("from x"), number("low", "length", "Where lift begins"),
            Words("to the tip at"), number("high", "length", "Where lift ends"), *behind,
        )  # fmt: skip
    if isinstance(record, TableLoad):
        return (*table_sentence(base, record, which), *behind)
    if isinstance(record, SpreadLoad):
        return (
            number("start", "line_load", "Load where it begins", "anything"), Words("at x"),
            number("low", "length", "Where it begins"), Words("to"),
            number("end", "line_load", "Load where it ends", "anything"), Words("at x"),
            number("high", "length", "Where it ends"), Words("on face A" if wide else ", downward"), *behind,
        )  # fmt: skip
    if isinstance(record, MomentLoad):
        return (
            Words("a moment of"), number("moment", "bending", "Moment", "positive", True), *at, Words("that lifts"),
            side("moment", ("the near side", "the far side")),
        )  # fmt: skip
    if isinstance(record, AxialLoad):
        return (
            Words("a force along it of"), number("force", "force", "Force along it", "positive", True), *at,
            Words("toward"), side("force", ("the far end", "the near end")),
        )  # fmt: skip
    if isinstance(record, TorqueLoad):
        return Words("a torque of"), number("torque", "bending", "Torque", "anything"), *at
    if isinstance(record, SideLoad):
        return (
            number("force", "force", "Force edgewise", "positive", True), Words("edgewise from a"),
            Name((*base, "what"), f"What pushes edgewise, {which}", "name a load"), *at, Words("at"),
            number("arm", "length", "Arm below the leg", "anything"), Words("below it, toward its"),
            side("force", ("back", "front")),
        )  # fmt: skip
    if isinstance(record, DropLoad):
        return (
            Name((*base, "what"), f"What falls, {which}", "name a load"), Words("of"),
            number("mass", "mass", "Mass", "positive"), Words("that falls"), number("height", "length", "Height"),
            *at, *over,
        )  # fmt: skip
    return own_weight((*base, "g"), which) if isinstance(record, OwnWeight) else NOT_TAKEN


def table_sentence(base: Path, record: TableLoad | AirTable, which: str, dimension: str = "line_load") -> Sentence:
    """Loads of a dimension at stations, upward."""
    parts: list[Part] = [Words("upward")]
    for i, _ in enumerate(record.stations):
        path: Path = (*base, "stations", i)
        parts += [
            Number((*path, "load"), dimension, f"Load at station {i + 1}, {which}", "load of a table", "anything"),
            Words("at x"),
            Number((*path, "x"), "length", f"Place of station {i + 1}, {which}", "place in a table", "not_negative"),
        ]
        if len(record.stations) > 2:
            parts.append(_drop((*base, "stations"), i, f"Remove station {i + 1}, {which}", "remove a station"))
        parts.append(Words("," if i + 1 < len(record.stations) else ""))
    one, two = record.stations[-2:]
    middle = LoadStation((one.x + two.x) / 2.0, (one.load + two.load) / 2.0)
    parts.append(_add((*base, "stations"), len(record.stations) - 1, middle, "+ station",
                      f"Another station, {which}", "add a station"))  # fmt: skip
    return tuple(part for part in parts if not isinstance(part, Words) or part.text)


def stations_sentence(path: Path, stations: tuple[Station, ...], what: str, length: float) -> Sentence:
    """A size along the span: one for all, or stations with straight lines between them."""
    parts: list[Part] = []
    for i, station in enumerate(stations):
        parts.append(Number((*path, i, "size"), "length", f"{what} at station {i + 1}", f"{what.lower()}"))
        if len(stations) > 1:
            parts += [
                Words("at x"),
                Number((*path, i, "x"), "length", f"Place of station {i + 1}", f"place of a {what.lower()}",
                       "not_negative"),
                _drop(path, i, f"Remove station {i + 1}", f"remove a {what.lower()}"),
                Words("," if i + 1 < len(stations) else ""),
            ]  # fmt: skip
        elif station.x != 0.0:
            parts.append(Words("all along"))
    last = stations[-1] if stations else Station(0.0, 0.03)
    place = length if last.x < length * (1.0 - 1e-9) else length / 2.0
    at = sum(station.x < place for station in stations)
    parts.append(_add(path, at, Station(place, last.size), "+ station", f"Another {what.lower()} further along",
                      f"add a {what.lower()}"))  # fmt: skip
    return tuple(part for part in parts if not isinstance(part, Words) or part.text)


def zones_sentence(candidate: Candidate, length: float) -> Sentence:
    """The named stretches that layers may run over."""
    parts: list[Part] = [Words("Zones:" if candidate.zones else "No zones:")]
    for i, _zone in enumerate(candidate.zones):
        path: Path = ("zones", i)
        parts += [
            Name((*path, "name"), f"Name of zone {i + 1}", "name a zone"),
            Words("from"),
            Number((*path, "low"), "length", f"Start of zone {i + 1}", "start of a zone", "not_negative"),
            Words("to"),
            Number((*path, "high"), "length", f"End of zone {i + 1}", "end of a zone"),
            Act("×", f"Remove zone {i + 1}", "remove a zone", zone_dropper(i)),
        ]  # fmt: skip
    taken = {zone.id for zone in candidate.zones}
    number = next(k for k in range(1, len(taken) + 2) if f"z{k}" not in taken)
    new = Zone(f"z{number}", "root" if not taken else f"zone {number}", 0.0, round(length / 3.0, 3))
    parts.append(_add(("zones",), len(candidate.zones), new, "+ zone", "Add a zone", "add a zone"))
    return tuple(parts)


def zone_dropper(index: int) -> Callable[[Candidate], Candidate]:
    """The edit that takes a zone out."""
    return lambda candidate: _without_zone(candidate, index)


def _without_zone(candidate: Candidate, index: int) -> Candidate:
    """A zone taken out; its layers run all along again."""
    gone = candidate.zones[index].id
    layers = tuple(
        replace(layer, zone="", outside=False) if layer.zone == gone else layer for layer in candidate.layers
    )
    return replace(candidate, zones=(*candidate.zones[:index], *candidate.zones[index + 1 :]), layers=layers)


# --- the picture --------------------------------------------------------------------------------------------


def walled_areas(candidate: Candidate, shape: SparShape, length: float) -> tuple[float, ...]:
    """m² of each layer of a section's walls: its run times the length of its wall's mid-line, at walls of no thickness;
    0 of a layer of none of them."""
    areas = []
    for layer, run in zip(candidate.layers, wall_widths(candidate, shape, length), strict=True):
        x, widths = run
        areas.append(float(np.trapezoid(widths[layer.wall], x)) if layer.wall in widths else 0.0)
    return tuple(areas)


def wall_widths(
    candidate: Candidate, shape: SparShape, length: float
) -> list[tuple[np.ndarray, dict[str, np.ndarray]]]:  # fmt: skip
    """For each layer (x, width there of each wall's mid-line) over its run; no walls where it has no run."""
    known: dict[tuple[float, float], tuple[np.ndarray, dict[str, np.ndarray]]] = {}
    made = []
    for low, high in edits.runs(candidate, length):
        if (low, high) not in known:
            if low < high:
                known[low, high] = _widths(shape, length, low, high)
            else:
                known[low, high] = np.array([low]), {}
        made.append(known[low, high])
    return made


@lru_cache(maxsize=256)
def _widths(shape: SparShape, length: float, low: float, high: float) -> tuple[np.ndarray, dict[str, np.ndarray]]:
    """One run of ``wall_widths``; kept, since edits of layers do not change it."""
    x = np.unique([low, high, *(knot for knot in shape.knots(length) if low < knot < high)])
    lines = mid_lines(shape.outline, shape.sizes(x), dict.fromkeys(shape.walls, 0.0))
    return x, {name: lines.lengths[:, lines.walls == k].sum(axis=1) for k, name in enumerate(shape.walls)}


def side_view(brief: Brief, case: LoadCase | None, units: UnitSystem) -> Drawing:
    """The member from the side as a bar, with supports, carried masses and the loads of a case."""
    member = long_member(brief)
    length = member.length
    tall = 0.012 * length
    bar = ((0.0, -tall), (length, -tall), (length, tall), (0.0, tall), (0.0, -tall))
    shapes: list[Shape] = [Line(bar, fill="fill")]
    handles: list[Handle] = []
    for i, support in enumerate(member.supports):
        kind = "clamp" if support.held == "clamped" else "knife"
        shapes.append(Mark((support.x, -tall), kind))  # type: ignore[arg-type]
        handles.append(Handle((support.x, -tall), ("member", "supports", i, "x"), 0.0, length))
    for i, mass in enumerate(member.carried):
        shapes.append(Mark((mass.x, tall), "mass"))
        shapes.append(Note((mass.x, tall), f"{mass.what} {shown(mass.mass, 'mass', units)}", "below", "quiet"))
        handles.append(Handle((mass.x, tall), ("member", "carried", i, "x"), 0.0, length))
    try:
        chord = span_translate.chord_of(brief)
    except OmakaseError:
        chord = None
    index = brief.load_cases.index(case) if case in brief.load_cases else -1
    for k, load in enumerate(case.loads if case is not None else ()):
        pieces = list(_load_shapes(load, tall, length, units, chord))
        shapes += pieces
        if hasattr(load, "x") and not isinstance(load, OwnWeight):
            handles.append(Handle((load.x, tall), ("load_cases", index, "loads", k, "x"), 0.0, length))
    shapes.append(Note((length / 2.0, -0.17 * length), f"x → {shown(length, 'length', units)}", "centre", "quiet"))
    return Drawing(tuple(shapes), (-0.04 * length, -0.2 * length, 1.04 * length, 0.26 * length), False, tuple(handles))


def shown(value: float, dimension: str, units: UnitSystem) -> str:
    return format_value(value, dimension, units, with_unit=True)


def load_area(ends: Sequence[tuple[float, float]], foot: float, tall: float) -> Line:
    """A load that runs along, (place, size) each, as an area over the height ``foot``, ``tall`` where it is largest."""
    most = max((abs(size) for _, size in ends), default=0.0) or 1.0
    tops = tuple((x, foot + tall * size / most) for x, size in ends)
    return Line(((ends[0][0], foot), *tops, (ends[-1][0], foot)), "accent", 1.2, fill="accent")


def _lift_shapes(
    load: LiftLoad | TableLoad, tall: float, length: float, units: UnitSystem, chord: WidthLaw | None
) -> Iterator[Shape]:
    """A load that runs along the span as an area above it, with arrows that say it acts upward."""
    try:
        pieces = span_translate.lift(load, chord).pieces if isinstance(load, LiftLoad) else ()
    except OmakaseError:
        return  # the brief says what is wrong with it
    if isinstance(load, TableLoad):
        ends = [(station.x, station.load) for station in load.stations]
    else:
        ends = [end for piece in pieces for end in ((piece.low, -piece.start), (piece.high, -piece.end))]
    yield load_area(ends, tall, 0.11 * length)
    if isinstance(load, LiftLoad):
        text = f"lift {shown(load.total, 'force', units)}"
    else:
        text = f"{shown(ends[0][1], 'line_load', units)} to {shown(ends[-1][1], 'line_load', units)}"
    yield Note((ends[0][0] + 0.4 * (ends[-1][0] - ends[0][0]), tall + 0.12 * length), text, "above", "accent")


def _load_shapes(
    load: Load, tall: float, length: float, units: UnitSystem, chord: WidthLaw | None = None
) -> Iterator[Shape]:
    if isinstance(load, ForceLoad | DropLoad):
        if isinstance(load, ForceLoad):
            text, down = f"{load.what} {shown(abs(load.force), 'force', units)}", load.force >= 0.0
        else:
            fall = shown(load.height, "length", units)
            text, down = f"{load.what} {shown(load.mass, 'mass', units)} falls {fall}", True
        y = tall if down else -tall
        yield Arrow((load.x, y), (0.0, -1.0 if down else 1.0))
        if load.along > 0.0:
            yield Line(((load.x - load.along / 2.0, y), (load.x + load.along / 2.0, y)), "accent", 4.0)
        yield Note((load.x, y + (0.09 if down else -0.09) * length), text, "above" if down else "below", "accent")
    elif isinstance(load, LiftLoad | TableLoad):
        yield from _lift_shapes(load, tall, length, units, chord)
    elif isinstance(load, SpreadLoad):
        yield load_area([(load.low, load.start), (load.high, load.end)], tall, 0.07 * length)
        text = shown(load.start, "line_load", units)
        if load.end != load.start:
            text += f" to {shown(load.end, 'line_load', units)}"
        yield Note(((load.low + load.high) / 2.0, tall + 0.07 * length), text, "above", "accent")
    elif isinstance(load, MomentLoad | TorqueLoad):
        value = load.moment if isinstance(load, MomentLoad) else load.torque
        what = "moment" if isinstance(load, MomentLoad) else "torque"
        yield Arrow((load.x, 0.0), (1.0 if value >= 0.0 else -1.0, 0.0), 18.0, turning=True)
        yield Note((load.x, -0.1 * length), f"{what} {shown(abs(value), 'bending', units)}", "below", "accent")
    elif isinstance(load, SideLoad):
        yield Mark((load.x, 0.0), "ring", "accent")
        text = f"{load.what} {shown(abs(load.force), 'force', units)} edgewise"
        yield Note((load.x, -0.1 * length), text, "below", "accent")
    elif isinstance(load, AxialLoad):
        toward = 1.0 if load.force >= 0.0 else -1.0
        yield Arrow((load.x + 0.08 * length * toward, 0.0), (toward, 0.0), 30.0)
        yield Note((load.x, 0.06 * length), shown(abs(load.force), "force", units), "above", "accent")
