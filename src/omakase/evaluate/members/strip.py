"""The strip as a kind of member."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

import numpy as np

from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material
from omakase.core.members.field import Response
from omakase.core.members.panel import Accuracy
from omakase.core.members.strip import StripResponse, WidthLaw
from omakase.evaluate.members import spans
from omakase.evaluate.members.drawing import Drawing
from omakase.evaluate.members.sentence import Choice, Number, Part, Sentence, Words, plain
from omakase.evaluate.sizing.lever import Lever, Option
from omakase.evaluate.sizing.parameter import Parameter, State
from omakase.project import span_translate, translate
from omakase.project.commands import replace
from omakase.project.model import Brief, Candidate, Load, LoadCase
from omakase.project.spans import StripForm, StripMember
from omakase.units import UnitSystem, format_value

SECTIONS = (("flat", "flat", "flat"), ("arched", "arched", "arched"), ("hat", "a hat", "hat"))
SECTIONS_EXPLAINED = (
    ("flat", "the layup as it lies"),
    ("arched", "the same cloth bent to a shallow arc: deeper, and stiffer"),
    ("hat", "a crown on two sides with feet"),
)
RISES = (0.04, 0.06, 0.08, 0.1, 0.15)  # of the width, that a lever tries
MISSING = {
    "menu": "The menu of combinations works for flat panels only so far. Ways out and studies work here.",
}


class StripKind:
    """A straight member of one layup, narrow beside its length."""

    name, title = "strip", "strip"
    member, form = StripMember, StripForm
    loads = spans.SPAN_LOADS
    limits = ("deflection", "rotation", "frequency_minimum", "frequency_band", "mass", "thickness")
    reduced = False
    missing: Mapping[str, str] = MISSING

    def respond(
        self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material], accuracy: Accuracy
    ) -> tuple[Stack, Response]:
        member = span_translate.strip(brief, candidate)
        wall = span_translate.wall(candidate, member.span.length, materials, brief.surroundings)
        cases = tuple(span_translate.span_case(case) for case in brief.load_cases)
        stack = translate.stack(candidate, materials, brief.surroundings)
        return stack, StripResponse(member, wall, cases, parts=accuracy.cells)

    def layer_areas(self, brief: Brief, candidate: Candidate) -> tuple[float, ...]:
        member = span_translate.strip(brief, candidate)
        length = member.span.length
        zones = {zone.id: (zone.low, zone.high) for zone in candidate.zones}
        return tuple(
            _area(member.width, *zones.get(layer.zone, (0.0, length)), length) for layer in candidate.layers
        )  # fmt: skip

    def new_member(self) -> StripMember:
        return StripMember()

    def new_form(self, brief: Brief) -> StripForm:
        before = next((own.form for own in reversed(brief.candidates) if isinstance(own.form, StripForm)), None)
        return before or StripForm()

    def default_load(self, brief: Brief, kind: str) -> Load:
        return spans.default_load(brief, kind)

    # --- sentences ------------------------------------------------------------------------------------------

    def sentence(self, brief: Brief) -> Sentence:
        return spans.member_sentence(brief, "A strip", "Strip")

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

    def plain_member(self, brief: Brief, units: UnitSystem) -> str:
        return plain(self.sentence(brief), brief, units)

    def plan(self, brief: Brief, case: LoadCase | None, units: UnitSystem) -> Drawing:
        return spans.side_view(brief, case, units)

    # --- sizing ---------------------------------------------------------------------------------------------

    def parameters(self, brief: Brief, candidate: Candidate, _materials: Mapping[str, Material]) -> Iterator[Parameter]:
        yield spans.length_parameter("strip", brief)
        form = candidate.form
        if isinstance(form, StripForm):
            width = spans.scaled_sizes("width", "width of the strip", form.width)
            if width is not None:
                yield width
                if form.section == "arched":
                    yield Parameter("rise", "rise of the arch", "length", form.rise, 0.0, 0.2 * width.now, _put_rise)

    def levers(self, _brief: Brief, candidate: Candidate, units: UnitSystem, passes: bool) -> Iterator[Lever]:
        """Wider or narrower, or arched."""
        form = candidate.form
        if not isinstance(form, StripForm) or not form.width:
            return
        now = form.width[0].size
        shares = [1.0 - 0.02 * k for k in range(1, 26)] if passes else [1.0 + 0.05 * k for k in range(1, 31)]
        options = []
        for share in shares:
            stations = tuple(replace(own, size=round(own.size * share, 6)) for own in form.width)
            text = f"width {format_value(now * share, 'length', units, with_unit=True)}"
            options.append(Option(text, replace(candidate, form=replace(form, width=stations))))
        yield Lever("width", f"a {'narrower' if passes else 'wider'} strip", tuple(options), "steps")
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


def _area(width: WidthLaw, low: float, high: float, length: float) -> float:
    low, high = max(0.0, low), min(high, length)
    nodes = np.array([low, *(x for x, _ in width.points if low < x < high), high])
    return float(np.trapezoid(width(nodes), nodes)) if high > low else 0.0


KIND = StripKind()
