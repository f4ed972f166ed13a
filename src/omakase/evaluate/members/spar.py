"""The spar as a kind of member."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from functools import partial

import numpy as np

from omakase.core.errors import MemberError
from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material
from omakase.core.members.field import Response
from omakase.core.members.panel_given import FULL, Accuracy
from omakase.core.members.spar import ORDER, SparResponse
from omakase.core.sections.drawn import MOST_WEBS
from omakase.evaluate.members import span_sizing, spans
from omakase.evaluate.members.flat import Layers, flat_walls
from omakase.evaluate.members.sentence import Act, Choice, Name, Number, Part, Range, Sentence, Words, with_value
from omakase.evaluate.sizing.lever import Lever, Option
from omakase.evaluate.sizing.parameter import Parameter
from omakase.project import span_translate, translate
from omakase.project.commands import replace
from omakase.project.model import Brief, Candidate
from omakase.project.spans import OutlinePoint, SparForm, SparMember, Station
from omakase.project.wings import SurfaceForm
from omakase.units import UnitSystem

OUTLINES = (
    ("channel", "a channel", "channel"), ("z", "a Z", "z"), ("i", "an I", "i"), ("box", "a box", "box"),
    ("two_cells", "a box of two cells", "two_cells"), ("hat", "a hat", "hat"),
    ("nose", "the nose of an aerofoil", "nose"), ("drawn", "drawn by points", "drawn"),
)  # fmt: skip
OUTLINES_EXPLAINED = (
    ("channel", "a web with a flange at either end, both to one side: open, laid over one male mould"),
    ("z", "a web with a flange to either side: open, bends askew"),
    ("i", "two caps on one web: open, the most bending for its mass, soft in torsion"),
    ("box", "two caps and two webs: closed, stiff in torsion"),
    ("two_cells", "a box with a third web at its middle, which holds wide caps"),
    ("hat", "a crown on two sides with feet: open until it is bonded to a skin"),
    ("nose", "the skin of an aerofoil's front closed by a web: stiff in torsion"),
    ("drawn", "any closed outline, as an aerofoil from a file of coordinates, with webs where you put them"),
)
WIDTHS = {
    "channel": "flanges", "z": "flanges", "i": "caps", "box": "wide over all", "hat": "between its feet",
    "nose": "from the leading edge to the web", "two_cells": "wide over all", "drawn": "wide over all",
}  # fmt: skip


PROFILE = "0012"  # a drawn outline to begin with
CAP_SHARE = 0.2  # of the width of a drawn outline, that its caps take at most to begin with


class SparKind(spans.SpanKind):
    """A straight member of thin walls, each with its own layers."""

    name, title = "spar", "spar"
    quicker = True  # without its walls together, where they buckle
    member, form = SparMember, SparForm
    loads = (spans.LIFT, spans.LIFT_TABLE, *(load for load in spans.SPAN_LOADS if load.kind != "drop"), spans.TORQUE)
    first_load = "lift"
    limits = ("deflection", "rotation", "twist", "frequency_minimum", "frequency_band", "mass", "thickness")
    opening, noun = "A spar", "spar"
    can_be_drawn = True
    missing: Mapping[str, str] = {}

    def walls(self, candidate: Candidate) -> tuple[str, ...]:
        """Those of its outline; those that its layers name where the outline cannot be drawn."""
        if not isinstance(candidate.form, SparForm):
            return ("",)
        try:
            return span_translate.form_walls(candidate.form)
        except MemberError:
            return tuple(dict.fromkeys(layer.wall for layer in candidate.layers)) or ("skin",)

    def respond(
        self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material], accuracy: Accuracy
    ) -> tuple[Stack, Response]:
        member = span_translate.spar(brief, candidate)
        walls = span_translate.spar_walls(brief, candidate, materials)
        chord = span_translate.chord_of(brief)
        cases = tuple(span_translate.span_case(case, chord) for case in brief.load_cases)
        stack = translate.stack(candidate, materials, brief.surroundings)
        response = SparResponse(member, walls, cases, ORDER, accuracy.cells)
        response.walls_together = accuracy == FULL
        return stack, response

    def layer_areas(self, brief: Brief, candidate: Candidate) -> tuple[float, ...]:
        """m² of each layer, at walls of no thickness."""
        member = span_translate.spar(brief, candidate)
        return spans.walled_areas(candidate, member.shape, member.span.length)

    def flat_layers(self, brief: Brief, candidate: Candidate) -> Layers:
        member = span_translate.spar(brief, candidate)
        return flat_walls(candidate, member.shape, member.span.length)

    def drawn_by(self, candidate: Candidate, points: tuple[OutlinePoint, ...]) -> Candidate:
        """In the proportions of the points; its walls take the layers of those that did the same before."""
        form = candidate.form
        assert isinstance(form, SparForm)
        new = replace(form, outline="drawn", points=points, profile="", height=(), webs=form.webs or (0.3,))
        return _with_walls(candidate, replace(candidate, form=new))

    # --- sentences ------------------------------------------------------------------------------------------

    def sentence(self, brief: Brief) -> Sentence:
        """Length, supports and carried masses; the wing's chord where there is one, and the ribs."""
        member = brief.member
        assert isinstance(member, SparMember)
        parts: list[Part] = [*super().sentence(brief)]
        if member.chord:
            parts += [
                Words("; wing chord"),
                *spans.stations_sentence(("member", "chord"), member.chord, "Chord", member.length),
                Words(", aerofoil thickness"),
                Number(("member", "ratio"), "ratio", "Thickness of the aerofoil over its chord", "aerofoil thickness"),
                Act("×", "Remove the chord of the wing", "remove the chord", _without_chord),
            ]
        else:
            parts.append(Act("+ chord", "Give the chord of the wing, by which lift may be shared out",
                             "add the chord", _with_chord))  # fmt: skip
        parts += [
            Words("; ribs every"),
            Number(("member", "rib_pitch"), "length", "Pitch of the ribs, 0 for none", "pitch of the ribs",
                   "not_negative"),
        ]  # fmt: skip
        return tuple(parts)

    def load_sentence(self, brief: Brief, case: int, load: int) -> Sentence:
        return spans.load_sentence(brief, case, load, False, True)

    def form_sentence(self, brief: Brief, candidate: Candidate, _materials: Mapping[str, Material]) -> Sentence:
        form = candidate.form
        if not isinstance(form, SparForm):
            return ()
        length = spans.long_member(brief).length
        parts: list[Part] = [
            Words("Section"),
            Choice(("form", "outline"), "Outline of the section", "outline of the section", OUTLINES,
                   OUTLINES_EXPLAINED, _with_walls),
        ]  # fmt: skip
        parts += _height_sentence(brief, form)
        parts += [
            Words(f", {WIDTHS[form.outline]}"),
            *spans.stations_sentence(("form", "width"), form.width, "Width", length),
        ]
        if form.outline == "drawn":
            parts += _webs_sentence(form)
        more = {
            "drawn": (("cap", "caps", "Width of each cap where the spar begins, 0 for none"),) if form.webs else (),
            "hat": (("crown", "crown", "Width of the crown"), ("foot", "feet", "Width of each foot")),
            "nose": (("cap", "caps", "Width of each cap"),),
        }.get(form.outline, ())
        for field, word, name in more:
            least: Range = "not_negative" if form.outline == "drawn" else "positive"
            parts += [Words(f", {word}"), Number(("form", field), "length", name, word, least)]
        if form.outline not in ("i", "nose", "two_cells", "drawn"):
            parts += [
                Words(", corners"),
                Number(("form", "radius"), "length", "Outside radius of the corners", "corner radius", "not_negative"),
            ]
        to_skin = form.outline in ("channel", "z", "hat")
        parts += bond_sentence(
            form, ", its flanges bonded to a skin over" if to_skin else ", caps bonded to webs over",
            "Width of the bond of cap to web or flange to skin, 0 for none",
        )  # fmt: skip
        return (*parts, Words("."), *spans.zones_sentence(candidate, length))

    # --- sizing ---------------------------------------------------------------------------------------------

    def parameters(self, brief: Brief, candidate: Candidate, _materials: Mapping[str, Material]) -> Iterator[Parameter]:
        yield span_sizing.length_parameter("spar", brief)
        form = candidate.form
        if isinstance(form, SparForm):
            for field, title in (("height", "height of the spar"), ("width", f"width, {WIDTHS[form.outline]}")):
                if field == "height" and form.outline == "nose":
                    continue
                yield from span_sizing.scaled_sizes(field, title, getattr(form, field))

    def levers(self, brief: Brief, candidate: Candidate, units: UnitSystem, passes: bool) -> Iterator[Lever]:
        """Another width of its flanges or caps, another height, zones that end elsewhere, one cell or two."""
        form = candidate.form
        if not isinstance(form, SparForm):
            return
        if form.width:
            noun = {"channel": "flange", "z": "flange", "i": "cap"}.get(form.outline, "section")
            yield span_sizing.size_lever(candidate, "width", "width", noun, 0.05, units, passes)
        if form.height and form.outline != "nose":
            yield span_sizing.size_lever(candidate, "height", "height", "spar", 0.05, units, passes)
        yield from span_sizing.zone_levers(brief, candidate, units, passes)
        other = {"box": "two_cells"} if not passes else {"two_cells": "box"}
        if form.outline in other:
            words = {"two_cells": "a third web at its middle", "box": "no web at its middle"}[other[form.outline]]
            new = replace(candidate, form=replace(form, outline=other[form.outline]))
            yield Lever("cells", words, (Option(words, _with_walls(candidate, new)),))


def bond_sentence(form: SparForm | SurfaceForm, words: str, name: str) -> list[Part]:
    """Over which width something is bonded, and how strong the bond is where there is one."""
    parts: list[Part] = [
        Words(words), Number(("form", "bond"), "length", name, "width of the bond", "not_negative"),
    ]  # fmt: skip
    if form.bond > 0.0:
        parts += [
            Words("with"),
            Number(("form", "bond_strength"), "stress", "Shear strength of the bond", "strength of the bond"),
            Words("in shear"),
        ]
    return parts


def _height_sentence(brief: Brief, form: SparForm) -> list[Part]:
    """The height along the span, or that it follows from the aerofoil, with a button for the other way."""
    if form.outline == "nose":
        return []
    chord = isinstance(brief.member, SparMember) and bool(brief.member.chord)
    if form.height:
        parts: list[Part] = [
            Words(", high"),
            *spans.stations_sentence(("form", "height"), form.height, "Height", spans.long_member(brief).length),
        ]
        if form.outline == "drawn" or chord:
            what = "in proportion" if form.outline == "drawn" else "as the aerofoil"
            parts.append(Words("or"))
            parts.append(Act(what, f"Let the height follow: {what}", "let the height follow", partial(_high, sizes=())))
        return parts
    act = Act(
        "own height", "State the height of the section", "state a height", partial(_high, sizes=(_height(brief, form),))
    )
    if form.outline == "drawn":
        return [Words(", high in proportion, or"), act]
    return [
        Words(", as high as the aerofoil at"), Number(("form", "at"), "ratio", "Place of the spar on the chord",
                                                      "place on the chord"),
        Words("of its chord, or"), act,
    ]  # fmt: skip


def _height(brief: Brief, form: SparForm) -> Station:
    """The height that a section has at its root now, to start a law of its own from."""
    try:
        shape = span_translate.spar(brief, Candidate("", "", form=form)).shape
        return Station(0.0, round(float(shape.sizes(np.zeros(1)).height[0]), 5))
    except MemberError:
        return SparForm().height[0]


def _high(candidate: Candidate, sizes: tuple[Station, ...]) -> Candidate:
    return replace(candidate, form=replace(candidate.form, height=sizes))


def _webs_sentence(form: SparForm) -> list[Part]:
    """How many points there are, and where webs stand."""
    if form.profile:
        parts: list[Part] = [
            Words(", 4-digit profile"),
            Name(("form", "profile"), "Number of the 4-digit profile", "another profile"),
            Act("its points", "Keep the outline as points of its own", "outline by points", _by_points),
            Words(", webs at"),
        ]
    else:
        profile = Act("4-digit profile", f"Draw it as the 4-digit profile {PROFILE}, then type another", "a profile",
                      partial(_by_profile, number=PROFILE))  # fmt: skip
        parts = [Words(f", {len(form.points)} points, or a"), profile, Words(", webs at")]
    return [*parts, *web_parts(form.webs, _other_webs, 0.5)]


def web_parts(webs: tuple[float, ...], change: Callable[..., Candidate], first: float) -> Iterator[Part]:
    """The places of webs, with buttons that take one out or put in another, the ``first`` of all there.

    ``change`` : (candidate, gone, new) → the candidate without the web ``gone``, −1 for none, and with a ``new`` one.
    """
    for i, _ in enumerate(webs):
        yield Number(("form", "webs", i), "ratio", f"Place of web {i + 1} as a share of the width",
                     f"place of web {i + 1}")  # fmt: skip
        yield Act("×", f"Remove web {i + 1}", "remove a web", partial(change, gone=i))
    if len(webs) < MOST_WEBS:
        place = (webs[-1] + 1.0) / 2.0 if webs else first
        yield Act("+ web", "Another web", "add a web", partial(change, gone=-1, new=place))


def _by_points(candidate: Candidate) -> Candidate:
    """The same outline, by points; a number that is no profile leaves the points that were there."""
    form = candidate.form
    assert isinstance(form, SparForm)
    try:
        points = span_translate.outline_points(form)
    except MemberError:
        points = form.points
    return replace(candidate, form=replace(form, points=points, profile=""))


def _by_profile(candidate: Candidate, number: str) -> Candidate:
    return replace(candidate, form=replace(candidate.form, profile=number))


def changed_webs(candidate: Candidate, gone: int, new: float | None) -> Candidate:
    """The candidate with a web taken out, or one more; its layers are as they were."""
    webs = tuple(web for i, web in enumerate(candidate.form.webs) if i != gone)  # type: ignore[union-attr]
    return replace(candidate, form=replace(candidate.form, webs=webs if new is None else (*webs, round(new, 3))))


def _other_webs(candidate: Candidate, gone: int, new: float | None = None) -> Candidate:
    return _with_walls(candidate, changed_webs(candidate, gone, new))


def _with_walls(before: Candidate, after: Candidate) -> Candidate:
    """A candidate under another outline, with the layers of that before; caps are no wider than it has room for."""
    form = after.form
    if isinstance(form, SparForm) and form.outline == "drawn":
        if not (form.points or form.profile):
            form = replace(form, profile=PROFILE, webs=(0.3,))
        widest = CAP_SHARE * form.width[0].size if form.width else 0.0
        after = replace(after, form=replace(form, cap=round(min(form.cap, widest), 6)))
    return with_layers_of(before, after, KIND.walls)


def with_layers_of(before: Candidate, after: Candidate, walls: Callable[[Candidate], tuple[str, ...]]) -> Candidate:
    """A candidate of other ``walls``, each with the layers of one that did the same before."""
    was, layers = walls(before), []
    for wall in walls(after):
        alike = [other for other in (wall, *was) if other in was and role_of(other) == role_of(wall)]
        source = next(iter(alike), next((other for other in was if role_of(other) == "web"), was[0]))
        copied = [replace(layer, wall=wall) for layer in before.layers if layer.wall == source]
        # a core does not go round a nose: of a web a new skin takes the plies only
        layers += (
            [layer for layer in copied if layer.role == "ply"] if role_of(wall) == "skin" and not alike else copied
        )
    return replace(after, layers=tuple(layers))


def role_of(wall: str) -> str:
    """What a wall does in its section: top, bottom, web or skin."""
    if "web" in wall or wall == "sides":
        return "web"
    if "skin" in wall:
        return "skin"
    return "top" if wall.startswith("upper") or wall == "crown" else "bottom"


def _with_chord(brief: Brief) -> Brief:
    return with_value(brief, ("member", "chord"), (Station(0.0, 0.3),))


def _without_chord(brief: Brief) -> Brief:
    return with_value(brief, ("member", "chord"), ())


KIND = SparKind()
