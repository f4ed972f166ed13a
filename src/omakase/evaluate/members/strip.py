"""The strip as a kind of member."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material
from omakase.core.members.field import Response
from omakase.core.members.panel_given import Accuracy
from omakase.core.members.strip import Strip, StripResponse
from omakase.evaluate.members import span_sizing, spans
from omakase.evaluate.members.flat import Layers, flat_runs
from omakase.evaluate.members.kind import LoadOffer
from omakase.evaluate.members.sentence import Choice, Number, Part, Sentence, Words
from omakase.evaluate.sizing.lever import Lever, Option
from omakase.evaluate.sizing.parameter import Parameter, State
from omakase.project import edits, span_translate, translate
from omakase.project.commands import replace
from omakase.project.model import Brief, Candidate
from omakase.project.span_translate import SpanMember
from omakase.project.spans import LegForm, StripForm, StripMember
from omakase.units import UnitSystem, format_value

SECTIONS = (("flat", "flat", "flat"), ("arched", "arched", "arched"), ("hat", "a hat", "hat"))
SECTIONS_EXPLAINED = (
    ("flat", "the layup, flat"),
    ("arched", "the same cloth bent to a shallow arc: deeper, and stiffer"),
    ("hat", "a crown on two sides with feet"),
)
RISES = (0.04, 0.06, 0.08, 0.1, 0.15)  # of the width, that a lever tries


class StripKind(spans.SpanKind):
    """A straight member of one layup, narrow beside its length."""

    name, title = "strip", "strip"
    member: type[SpanMember] = StripMember
    form: type[StripForm | LegForm] = StripForm
    loads: tuple[LoadOffer, ...] = spans.SPAN_LOADS
    limits: tuple[str, ...] = ("deflection", "rotation", "frequency_minimum", "frequency_band", "mass", "thickness")
    opening, noun = "A strip", "strip"
    answer: type[StripResponse] = StripResponse

    def made(self, brief: Brief, candidate: Candidate) -> Strip:
        """The core's strip.  Raises MemberError."""
        return span_translate.strip(brief, candidate)

    def respond(
        self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material], accuracy: Accuracy
    ) -> tuple[Stack, Response]:
        member = self.made(brief, candidate)
        wall = span_translate.wall(candidate, member.span.length, materials, brief.surroundings)
        cases = tuple(span_translate.span_case(case) for case in brief.load_cases)
        stack = translate.stack(candidate, materials, brief.surroundings)
        return stack, self.answer(member, wall, cases, parts=accuracy.cells)

    def layer_areas(self, brief: Brief, candidate: Candidate) -> tuple[float, ...]:
        member = self.made(brief, candidate)
        runs = edits.runs(candidate, member.span.length)
        return tuple(member.width.area(low, high) if high > low else 0.0 for low, high in runs)

    def flat_layers(self, brief: Brief, candidate: Candidate) -> Layers:
        member = self.made(brief, candidate)
        return flat_runs(candidate, member.span.length, member.width)

    # --- sentences ------------------------------------------------------------------------------------------

    def load_sentence(self, brief: Brief, case: int, load: int) -> Sentence:
        return spans.load_sentence(brief, case, load, True)

    def form_sentence(self, brief: Brief, candidate: Candidate, _materials: Mapping[str, Material]) -> Sentence:
        form = candidate.form
        if not isinstance(form, StripForm):
            return ()
        length = spans.long_member(brief).length
        parts: list[Part] = [
            Words("Width"),
            *spans.stations_sentence(("form", "width"), form.width, "Width", length),
            Words("; section"),
            Choice(("form", "section"), "Shape of the section", "shape of the section", SECTIONS, SECTIONS_EXPLAINED),
        ]
        if form.section != "flat":
            what = "Rise of the arch" if form.section == "arched" else "Height of the hat"
            parts += [Words(", high"), Number(("form", "rise"), "length", what, what.lower(), "not_negative")]
        if form.section == "hat":
            parts += [
                Words(", crown"), Number(("form", "crown"), "length", "Width of the crown", "width of the crown"),
                Words(", feet"),
                Number(("form", "flange"), "length", "Width of each foot", "width of the feet", "not_negative"),
            ]  # fmt: skip
        return (*parts, Words("."), *spans.zones_sentence(candidate, length))

    # --- sizing ---------------------------------------------------------------------------------------------

    def parameters(self, brief: Brief, candidate: Candidate, _materials: Mapping[str, Material]) -> Iterator[Parameter]:
        yield span_sizing.length_parameter("strip", brief)
        form = candidate.form
        if isinstance(form, StripForm):
            for width in span_sizing.scaled_sizes("width", "width of the strip", form.width):
                yield width
                if form.section == "arched":
                    yield Parameter("rise", "rise of the arch", "length", form.rise, 0.0, 0.2 * width.now, _put_rise)

    def levers(self, brief: Brief, candidate: Candidate, units: UnitSystem, passes: bool) -> Iterator[Lever]:
        """Wider or narrower, or arched."""
        form = candidate.form
        if not isinstance(form, StripForm) or not form.width:
            return
        now = form.width[0].size
        yield span_sizing.size_lever(candidate, "width", "width", "strip", 0.05, units, passes)
        yield from span_sizing.zone_levers(brief, candidate, units, passes)
        if not passes and form.section != "hat":
            arched = []
            for share in RISES:
                rise = round(share * now, 6)
                if rise > form.rise * 1.001 or form.section == "flat":
                    text = f"arched by {format_value(rise, 'length', units, with_unit=True)}"
                    arched.append(Option(text, replace(candidate, form=replace(form, section="arched", rise=rise))))
            if arched:
                yield Lever("arch", "an arch across", tuple(arched), "steps")


def _put_rise(state: State, value: float) -> State:
    brief, candidate, materials = state
    return brief, replace(candidate, form=replace(candidate.form, rise=round(value, 9))), materials


KIND = StripKind()
