"""The spar as a kind of member."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

import numpy as np

from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material
from omakase.core.members.field import Response
from omakase.core.members.panel import Accuracy
from omakase.core.members.spar import ORDER, SparResponse
from omakase.core.sections.outlines import OUTLINE_WALLS, mid_lines
from omakase.evaluate.members import spans
from omakase.evaluate.members.sentence import Act, Choice, Number, Part, Sentence, Words, with_value
from omakase.evaluate.sizing.lever import Lever
from omakase.evaluate.sizing.parameter import Parameter
from omakase.project import span_translate, translate
from omakase.project.commands import replace
from omakase.project.model import Brief, Candidate
from omakase.project.spans import SparForm, SparMember, Station
from omakase.units import UnitSystem

OUTLINES = (
    ("channel", "a channel", "channel"), ("z", "a Z", "z"), ("i", "an I", "i"), ("box", "a box", "box"),
    ("hat", "a hat", "hat"), ("nose", "the nose of an aerofoil", "nose"),
)  # fmt: skip
OUTLINES_EXPLAINED = (
    ("channel", "a web with a flange at either end, both to one side: open, laid over one male mould"),
    ("z", "a web with a flange to either side: open, bends askew"),
    ("i", "two caps on one web: open, the most bending for its mass, soft in torsion"),
    ("box", "two caps and two webs: closed, stiff in torsion"),
    ("hat", "a crown on two sides with feet: open until it is bonded to a skin"),
    ("nose", "the skin of an aerofoil's front closed by a web: stiff in torsion"),
)
WIDTHS = {
    "channel": "flanges", "z": "flanges", "i": "caps", "box": "wide over all", "hat": "between its feet",
    "nose": "from the leading edge to the web",
}  # fmt: skip


ROLES = {
    "upper flange": "top", "upper cap": "top", "crown": "top", "lower flange": "bottom", "lower cap": "bottom",
    "feet": "bottom", "web": "web", "front web": "web", "rear web": "web", "sides": "web", "nose skin": "skin",
}  # fmt: skip


class SparKind(spans.SpanKind):
    """A straight member of thin walls, each with its own layers."""

    name, title = "spar", "spar"
    member, form = SparMember, SparForm
    loads = (spans.LIFT, spans.LIFT_TABLE, *(own for own in spans.SPAN_LOADS if own.kind != "drop"), spans.TORQUE)
    first_load = "lift"
    limits = ("deflection", "rotation", "twist", "frequency_minimum", "frequency_band", "mass", "thickness")
    opening, noun = "A spar", "spar"

    def walls(self, candidate: Candidate) -> tuple[str, ...]:
        return OUTLINE_WALLS[candidate.form.outline] if isinstance(candidate.form, SparForm) else ("",)

    def respond(
        self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material], accuracy: Accuracy
    ) -> tuple[Stack, Response]:
        member = span_translate.spar(brief, candidate)
        walls = span_translate.spar_walls(brief, candidate, materials)
        chord = span_translate.chord_of(brief)
        cases = tuple(span_translate.span_case(case, chord) for case in brief.load_cases)
        stack = translate.stack(candidate, materials, brief.surroundings)
        return stack, SparResponse(member, walls, cases, ORDER, accuracy.cells)

    def layer_areas(self, brief: Brief, candidate: Candidate) -> tuple[float, ...]:
        """m² of each layer: its run times the length of its wall's mid-line, at walls of no thickness."""
        member = span_translate.spar(brief, candidate)
        names, length = self.walls(candidate), member.span.length
        areas = []
        for layer, (low, high) in zip(candidate.layers, spans.layer_runs(candidate, length), strict=True):
            if not (low < high and layer.wall in names):
                areas.append(0.0)
                continue
            x = np.unique([low, high, *(knot for knot in member.shape.knots(length) if low < knot < high)])
            lines = mid_lines(member.shape.outline, member.shape.sizes(x), dict.fromkeys(names, 0.0))
            wide = lines.lengths[:, lines.walls == names.index(layer.wall)].sum(axis=1)
            areas.append(float(np.trapezoid(wide, x)))
        return tuple(areas)

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
        if form.outline != "nose":
            parts += [Words(", high"), *spans.stations_sentence(("form", "height"), form.height, "Height", length)]
        parts += [
            Words(f", {WIDTHS[form.outline]}"),
            *spans.stations_sentence(("form", "width"), form.width, "Width", length),
        ]
        more = {
            "hat": (("crown", "crown", "Width of the crown"), ("foot", "feet", "Width of each foot")),
            "nose": (("cap", "caps", "Width of each cap"),),
        }.get(form.outline, ())
        for field, word, name in more:
            parts += [Words(f", {word}"), Number(("form", field), "length", name, name.lower())]
        if form.outline not in ("i", "nose"):
            parts += [
                Words(", corners"),
                Number(("form", "radius"), "length", "Outside radius of the corners", "corner radius", "not_negative"),
            ]
        if form.outline in ("i", "box", "nose"):
            parts += [
                Words(", bonded over"),
                Number(("form", "bond"), "length", "Width of the bond of cap to web, 0 for none", "width of the bond",
                       "not_negative"),
            ]  # fmt: skip
            if form.bond > 0.0:
                parts += [
                    Words("with"), Number(("form", "bond_strength"), "stress", "Shear strength of the bond",
                                          "strength of the bond"), Words("in shear"),
                ]  # fmt: skip
        return (*parts, Words("."), *spans.zones_sentence(candidate, length))

    # --- sizing ---------------------------------------------------------------------------------------------

    def parameters(self, brief: Brief, candidate: Candidate, _materials: Mapping[str, Material]) -> Iterator[Parameter]:
        yield spans.length_parameter("spar", brief)
        form = candidate.form
        if isinstance(form, SparForm):
            for field, title in (("height", "height of the spar"), ("width", f"width, {WIDTHS[form.outline]}")):
                if field == "height" and form.outline == "nose":
                    continue
                law = spans.scaled_sizes(field, title, getattr(form, field))
                if law is not None:
                    yield law

    def levers(self, _brief: Brief, candidate: Candidate, units: UnitSystem, passes: bool) -> Iterator[Lever]:
        """Another width of its flanges or caps, and another height."""
        form = candidate.form
        if not isinstance(form, SparForm):
            return
        if form.width:
            yield spans.size_lever(candidate, "width", "width", WIDTHS[form.outline], 0.05, units, passes)
        if form.height and form.outline != "nose":
            yield spans.size_lever(candidate, "height", "height", "spar in height", 0.05, units, passes)


def _with_walls(before: Candidate, after: Candidate) -> Candidate:
    """The layers of a candidate under another outline: each wall takes those of one that did the same before."""
    was, now = OUTLINE_WALLS[before.form.outline], OUTLINE_WALLS[after.form.outline]  # type: ignore[union-attr]
    layers = []
    for wall in now:
        alike = [own for own in (wall, *was) if own in was and ROLES[own] == ROLES[wall]]
        source = next(iter(alike), next((own for own in was if ROLES[own] == "web"), was[0]))
        layers += [replace(layer, wall=wall) for layer in before.layers if layer.wall == source]
    return replace(after, layers=tuple(layers))


def _with_chord(brief: Brief) -> Brief:
    return with_value(brief, ("member", "chord"), (Station(0.0, 0.3),))


def _without_chord(brief: Brief) -> Brief:
    return with_value(brief, ("member", "chord"), ())


KIND = SparKind()
