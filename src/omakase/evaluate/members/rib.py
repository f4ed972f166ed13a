"""The rib as a kind of member."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping

import msgspec
import numpy as np

from omakase.core.errors import OmakaseError
from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material
from omakase.core.members.field import Response
from omakase.core.members.panel_given import FULL, Accuracy
from omakase.core.members.rib import RibResponse
from omakase.core.members.spar import ORDER
from omakase.core.sections.aerofoils import camber, digits
from omakase.evaluate.members import span_sizing, spans
from omakase.evaluate.members.drawing import Arrow, Drawing, Handle, Line, Note, Shape
from omakase.evaluate.members.flat import Layers, flat_walls
from omakase.evaluate.members.kind import LoadOffer
from omakase.evaluate.members.sentence import (
    Act,
    Choice,
    Name,
    Number,
    Part,
    Path,
    Sentence,
    Words,
    with_entry,
    with_value,
    without_entry,
)
from omakase.evaluate.sizing.lever import Lever, Option
from omakase.evaluate.sizing.parameter import Parameter, State
from omakase.project import rib_translate, span_translate, translate
from omakase.project.commands import replace
from omakase.project.model import Brief, Candidate, Load, LoadCase
from omakase.project.spans import LoadStation, Station
from omakase.project.wings import AirLoad, AirTable, HoleRecord, RibForm, RibMember, SkinLoad
from omakase.units import UnitSystem

OUTLINES = (("channel", "a channel", "channel"), ("i", "an I", "i"))
OUTLINES_EXPLAINED = (
    ("channel", "a web with a flange turned to one side at either edge: laid over one mould"),
    ("i", "a web with a cap strip bonded to either edge"),
)
CELLS = (
    ("none", "nothing but its spars", "none"), ("nose", "the skin of the nose", "nose"),
    ("box", "the box between its spars", "box"),
)  # fmt: skip
CELLS_EXPLAINED = (
    ("none", "the rib passes its load to its spars alone; a clamped one takes the moment, as a tube does"),
    ("nose", "the closed skin in front of the first spar takes torque as a shear flow along the rib's edge"),
    ("box", "the closed skin between two spars takes torque; each spar takes its share of the lift"),
)
SHAPES = (("even", "evenly", "even"), ("falling", "falling from its front to nothing", "falling"))
SHAPES_EXPLAINED = (
    ("even", "the same on every part of the chord"),
    ("falling", "a triangle, largest in front: nearer to the air on a wing (common practice, no source)"),
)
PITCH_STEP = 0.05


class RibKind(spans.SpanKind):
    """A beam along the chord between spars, and the skin between two of them."""

    name, title = "rib", "rib of a wing"
    member, form = RibMember, RibForm
    loads = (
        LoadOffer("air", "lift along the chord"), LoadOffer("air_table", "lift along the chord from a table"),
        LoadOffer("skin", "what the skin carries along the wing"),
        *(load for load in spans.SPAN_LOADS if load.kind not in ("drop", "axial")),
    )  # fmt: skip
    first_load = "air"
    limits = ("deflection", "bay_sag", "frequency_minimum", "frequency_band", "mass", "span_mass", "thickness")
    opening, noun, held = "A rib", "rib", "on spars:"
    missing: Mapping[str, str] = spans.MISSING
    quicker = True  # the skin between two ribs is a panel, and walls may buckle together

    def walls(self, candidate: Candidate) -> tuple[str, ...]:
        form = candidate.form
        return (*rib_translate.walls(form), rib_translate.SKIN) if isinstance(form, RibForm) else ("",)

    def respond(
        self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material], accuracy: Accuracy
    ) -> tuple[Stack, Response]:
        member = rib_translate.rib(brief, candidate)
        form, given = candidate.form, rib_translate.given(brief)
        assert isinstance(form, RibForm)
        walls = span_translate.named_walls(
            brief, candidate, materials, given.length, rib_translate.walls(form), (rib_translate.SKIN,)
        )
        skin, rows = rib_translate.skin(brief, candidate, materials)
        cases = tuple(rib_translate.rib_case(case, given, form.pitch) for case in brief.load_cases)
        stack = translate.stack(candidate, materials, brief.surroundings)
        ultimate = translate.settings(brief).ultimate_factor
        response = RibResponse(member, walls, cases, skin, rows, ORDER, accuracy.cells, accuracy, ultimate)
        response.walls_together = accuracy == FULL
        return stack, response

    def layer_areas(self, brief: Brief, candidate: Candidate) -> tuple[float, ...]:
        """m² of each layer of the rib itself, its holes taken out of the web; the skin is the wing's."""
        member = rib_translate.rib(brief, candidate)
        areas = spans.walled_areas(candidate, member.beam.shape, member.beam.span.length)
        gone = sum(math.pi * hole.diameter * (hole.diameter / 4.0 - member.lip) for hole in member.holes)
        return tuple(
            area - gone if layer.wall == "web" and area else area
            for layer, area in zip(candidate.layers, areas, strict=True)
        )

    def flat_layers(self, brief: Brief, candidate: Candidate) -> Layers:
        member = rib_translate.rib(brief, candidate)
        cut = tuple(
            msgspec.structs.replace(own, diameter=2.0 * math.sqrt(own.diameter * (own.diameter / 4.0 - member.lip)))
            for own in member.holes
        )  # what stays is turned into the lip
        return flat_walls(candidate, member.beam.shape, member.beam.span.length, cut)

    # --- sentences ------------------------------------------------------------------------------------------

    def sentence(self, brief: Brief) -> Sentence:
        """Its length and spars, its depth or aerofoil, and what takes torque."""
        member = rib_translate.given(brief)
        parts: list[Part] = [*super().sentence(brief)]
        if member.depth:
            parts += [
                Words("; deep"), *spans.stations_sentence(("member", "depth"), member.depth, "Depth", member.length),
                Act("as an aerofoil", "Let the depth follow an aerofoil", "depth by an aerofoil", _by_aerofoil),
            ]  # fmt: skip
        else:
            parts += [
                Words("; in a 4-digit aerofoil"),
                Name(("member", "profile"), "Number of the 4-digit profile", "another profile"),
                Words("of"),
                Number(("member", "chord"), "length", "Chord", "chord"),
                Words("chord, beginning"),
                Number(("member", "ahead"), "length", "Front end behind the leading edge", "place of the front end"),
                Words("behind its leading edge, or"),
                Act("own depth", "State the depth along the rib", "state the depth", _by_depth),
            ]
        parts += [
            Words("; torque is taken by"),
            Choice(("member", "cell"), "What takes torque", "what takes torque", CELLS, CELLS_EXPLAINED),
        ]
        if member.cell == "box":
            parts += [
                Words(", the front spar takes"),
                Number(("member", "share"), "ratio", "Share of the lift on the front spar", "share of the front spar"),
                Words("of the lift"),
            ]
        return tuple(parts)

    def load_sentence(self, brief: Brief, case: int, load: int) -> Sentence:
        record = brief.load_cases[case].loads[load]
        base: Path = ("load_cases", case, "loads", load)
        which = f"{brief.load_cases[case].id} load {load + 1}"
        if isinstance(record, AirLoad):
            return (
                Number((*base, "lift"), "line_load", f"Lift per length of wing, {which}", "lift", "anything"),
                Words("of lift per length of wing, spread"),
                Choice(
                    (*base, "shape"), f"How lift is spread, {which}", "how lift is spread", SHAPES, SHAPES_EXPLAINED
                ),
                Words("from x"),
                Number((*base, "low"), "length", f"Where lift begins, {which}", "where lift begins", "not_negative"),
                Words("to"),
                Number((*base, "high"), "length", f"Where lift ends, {which}", "where lift ends"),
            )
        if isinstance(record, SkinLoad):
            return (
                Words("skin compressed along the wing by"),
                Number((*base, "pressed"), "line_load", f"Compression of the skin, {which}", "compression", "anything"),
                Words("and sheared by"),
                Number((*base, "shear"), "line_load", f"Shear of the skin, {which}", "shear of the skin", "anything"),
                Words("in a wing bent to a radius of"),
                Number((*base, "radius"), "length", f"Radius of the bent wing, 0 if not counted, {which}",
                       "radius of the bent wing", "not_negative"),
            )  # fmt: skip
        if isinstance(record, AirTable):
            return spans.table_sentence(base, record, which, "pressure")
        return spans.load_sentence(brief, case, load, False)

    def default_load(self, brief: Brief, kind: str) -> Load:
        length = rib_translate.given(brief).length
        own: dict[str, Load] = {
            "air": AirLoad(300.0, 0.0, length, "falling"),
            "air_table": AirTable((LoadStation(0.0, 2000.0), LoadStation(length, 0.0))),
            "skin": SkinLoad(10e3, 0.0, 0.0),
        }
        return own[kind] if kind in own else spans.default_load(brief, kind)

    def form_sentence(self, brief: Brief, candidate: Candidate, _materials: Mapping[str, Material]) -> Sentence:
        form = candidate.form
        if not isinstance(form, RibForm):
            return ()
        caps = "flanges" if form.outline == "channel" else "caps"
        parts: list[Part] = [
            Words("Ribs every"), Number(("form", "pitch"), "length", "Pitch of the ribs", "pitch of the ribs"),
            Words(", each"),
            Choice(("form", "outline"), "Section of the rib", "section of the rib", OUTLINES, OUTLINES_EXPLAINED,
                   _with_walls),
            Words(f"with {caps}"), Number(("form", "width"), "length", "Width of flanges or caps", f"width of {caps}"),
            Words("wide"),
        ]  # fmt: skip
        if form.outline == "channel":
            parts += [
                Words(", corners"),
                Number(("form", "radius"), "length", "Outside radius of the corners", "corner radius", "not_negative"),
            ]
        parts.append(Words("; holes:" if form.holes else "; no holes"))
        for i, _ in enumerate(form.holes):
            path: Path = ("form", "holes", i)
            parts += [
                Number((*path, "diameter"), "length", f"Diameter of hole {i + 1}", "diameter of a hole"), Words("at x"),
                Number((*path, "x"), "length", f"Place of hole {i + 1}", "place of a hole"),
                Act("×", f"Remove hole {i + 1}", "remove a hole", _hole_dropper(i)),
            ]  # fmt: skip
        parts.append(Act("+ hole", "Another lightening hole", "add a hole", _another_hole(brief, form)))
        if form.holes:
            parts += [
                Words(", their lips"),
                Number(("form", "lip"), "length", "Height of the holes' turned lip, 0 for none", "lip", "not_negative"),
                Words("high"),
            ]
        parts += [
            Words("; bonded to each skin over"),
            Number(("form", "bond"), "length", "Width of the bond to the skin, 0 if not looked at",
                   "width of the bond", "not_negative"),
        ]  # fmt: skip
        if form.bond > 0.0:
            parts += [
                Words("with"),
                Number(("form", "bond_strength"), "stress", "Shear strength of the bond", "strength of the bond"),
                Words("in shear and"),
                Number(("form", "bond_tension"), "stress", "Tensile strength of the bond", "strength of the bond"),
                Words("in tension"),
            ]
        return (*parts, Words("."), *spans.zones_sentence(candidate, spans.long_member(brief).length))

    # --- the picture ----------------------------------------------------------------------------------------

    def plan(self, brief: Brief, case: LoadCase | None, units: UnitSystem) -> Drawing:
        """The rib from the side at one scale, with its spars and the loads of a case."""
        member = rib_translate.given(brief)
        length = member.length
        try:
            law = rib_translate.depth(member)
        except OmakaseError:
            return spans.side_view(brief, case, units)
        x = np.linspace(0.0, length, 41)
        middle, half = _mean_line(member, x), law(x) / 2.0
        upper = list(zip(x.tolist(), (middle + half).tolist(), strict=True))
        lower = list(zip(x.tolist(), (middle - half).tolist(), strict=True))
        shapes: list[Shape] = [Line((*upper, *reversed(lower), upper[0]), fill="fill")]
        handles: list[Handle] = []
        for i, own in enumerate(member.supports):
            at, deep = float(np.interp(own.x, x, middle)), float(law(np.array([own.x]))[0]) / 2.0
            shapes.append(Line(((own.x, at - deep), (own.x, at + deep)), "ink", 3.0))
            handles.append(Handle((own.x, at), ("member", "supports", i, "x"), 0.0, length))
        most = float(half.max())
        shapes += _loads(case, length, most, units)
        shapes.append(Note((length / 2.0, -2.2 * most), f"chord x → {spans.shown(length, 'length', units)}", "centre",
                           "quiet"))  # fmt: skip
        frame = (-0.06 * length, -2.6 * most, 1.06 * length, 5.0 * most)
        return Drawing(tuple(shapes), frame, False, tuple(handles))

    # --- sizing ---------------------------------------------------------------------------------------------

    def parameters(self, brief: Brief, candidate: Candidate, _materials: Mapping[str, Material]) -> Iterator[Parameter]:
        form = candidate.form
        if isinstance(form, RibForm):
            yield replace(span_sizing.plain_size(candidate, "pitch", "pitch of the ribs", 0.3, 2.5), table=True)
            yield span_sizing.plain_size(candidate, "width", "width of flanges or caps", 0.5, 2.0)
            if form.holes:
                now = form.holes[0].diameter
                yield Parameter("holes", "diameter of the holes", "length", now, 0.3 * now, 1.5 * now, _holes)

    def levers(self, _brief: Brief, candidate: Candidate, units: UnitSystem, passes: bool) -> Iterator[Lever]:
        """Ribs closer together or further apart, wider or narrower flanges, smaller holes or none."""
        form = candidate.form
        if not isinstance(form, RibForm):
            return
        way = 1.0 if passes else -1.0
        title = "ribs further apart" if passes else "ribs closer together"
        shares = [1.0 + way * PITCH_STEP * k for k in range(1, 16)]
        yield span_sizing.plain_lever(candidate, "pitch", "ribs every {}", title, shares, units, 4)
        shares = [1.0 - 0.05 * k for k in range(1, 11)] if passes else [1.0 + 0.1 * k for k in range(1, 21)]
        title = f"a {'narrower' if passes else 'wider'} {'flange' if form.outline == 'channel' else 'cap'}"
        yield span_sizing.plain_lever(candidate, "width", "width {}", title, shares, units)
        if form.holes and not passes:
            smaller = [replace(candidate, form=_with_holes(form, 1.0 - 0.1 * k)) for k in range(1, 8)]
            bare = replace(candidate, form=replace(form, holes=()))
            named = (*(Option(f"holes {10 * k} % smaller", own) for k, own in enumerate(smaller, 1)),
                     Option("no holes", bare))  # fmt: skip
            yield Lever("holes", "smaller holes", named, "steps")


def _mean_line(member: RibMember, x: np.ndarray) -> np.ndarray:
    """Height of the middle of the rib, m: of a cambered aerofoil its mean line."""
    if member.depth:
        return np.zeros_like(x)
    most, place, _ = digits(member.profile)
    return camber((member.ahead + x) / member.chord, most, place)[0] * member.chord


def _loads(case: LoadCase | None, length: float, tall: float, units: UnitSystem) -> Iterator[Shape]:
    for load in case.loads if case is not None else ():
        if isinstance(load, AirLoad | AirTable):
            if isinstance(load, AirLoad):
                ends = [(load.low, 1.0), (load.high, 1.0 if load.shape == "even" else 0.0)]
                text = f"lift {spans.shown(load.lift, 'line_load', units)}"
            else:
                ends = [(own.x, own.load) for own in load.stations]
                most = max((abs(own.load) for own in load.stations), default=0.0) or 1.0
                text = f"lift to {spans.shown(most, 'pressure', units)}"
            yield spans.load_area(ends, 1.5 * tall, 2.0 * tall)
            yield Note((ends[0][0] + 0.4 * (ends[-1][0] - ends[0][0]), 3.6 * tall), text, "above", "accent")
        elif isinstance(load, SkinLoad):
            text = f"skin pressed {spans.shown(load.pressed, 'line_load', units)}"
            yield Note((0.75 * length, -1.5 * tall), text, "below", "accent")
        elif hasattr(load, "x"):
            yield Arrow((load.x, 1.2 * tall), (0.0, -1.0))


def _holes(state: State, value: float) -> State:
    brief, candidate, materials = state
    form = candidate.form
    assert isinstance(form, RibForm)
    return brief, replace(candidate, form=_with_holes(form, value / form.holes[0].diameter)), materials


def _with_holes(form: RibForm, share: float) -> RibForm:
    return replace(form, holes=tuple(replace(hole, diameter=round(hole.diameter * share, 6)) for hole in form.holes))


def _hole_dropper(index: int) -> Callable[[Candidate], Candidate]:
    return lambda candidate: without_entry(candidate, ("form", "holes"), index)


def _another_hole(brief: Brief, form: RibForm) -> Callable[[Candidate], Candidate]:
    """A hole in the widest room that is left, half as wide as the rib is deep there."""
    length = spans.long_member(brief).length
    ends = [0.0]
    for hole in sorted(form.holes, key=lambda own: own.x):
        ends += [hole.x - hole.diameter / 2.0, hole.x + hole.diameter / 2.0]
    ends.append(length)
    room, x = max((high - low, (low + high) / 2.0) for low, high in zip(ends[::2], ends[1::2], strict=True))
    try:
        deep = float(rib_translate.depth(rib_translate.given(brief))(np.array([x]))[0])
    except OmakaseError:
        deep = room
    hole = HoleRecord(round(x, 4), round(min(0.5 * deep, 0.5 * room), 4))
    return lambda candidate: with_entry(candidate, ("form", "holes"), len(form.holes), hole)


def _with_walls(before: Candidate, after: Candidate) -> Candidate:
    """Flanges become caps, caps flanges."""
    names = dict(zip(KIND.walls(before), KIND.walls(after), strict=True))
    layers = tuple(replace(layer, wall=names.get(layer.wall, layer.wall)) for layer in after.layers)
    return replace(after, layers=layers)


def _by_aerofoil(brief: Brief) -> Brief:
    return with_value(brief, ("member", "depth"), ())


def _by_depth(brief: Brief) -> Brief:
    """The depths it has now at its ends and middle."""
    member = rib_translate.given(brief)
    try:
        law = rib_translate.depth(member)
    except OmakaseError:
        return with_value(brief, ("member", "depth"), (Station(0.0, 0.04),))
    x = np.array([0.0, member.length / 2.0, member.length])
    stations = tuple(Station(float(a), round(float(b), 5)) for a, b in zip(x, law(x), strict=True))
    return with_value(brief, ("member", "depth"), stations)


KIND = RibKind()
