"""The bracket as a kind of member: a bent laminate in place of a metal angle."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping

import numpy as np

from omakase.core.build.pieces import rectangle
from omakase.core.errors import OmakaseError
from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material
from omakase.core.members.bracket import Bracket, BracketResponse, middle_line
from omakase.core.members.field import Response
from omakase.core.members.panel_given import Accuracy
from omakase.evaluate.members import span_sizing
from omakase.evaluate.members.drawing import Arrow, Drawing, Line, Mark, Note, Shape
from omakase.evaluate.members.flat import Layers
from omakase.evaluate.members.kind import Flat, LoadOffer
from omakase.evaluate.members.sentence import NOT_TAKEN, Name, Number, Sentence, Words, own_weight, plain
from omakase.evaluate.sizing.lever import Lever
from omakase.evaluate.sizing.parameter import Parameter
from omakase.project import bracket_translate, translate
from omakase.project.model import Brief, Candidate, Load, LoadCase
from omakase.project.panels import OwnWeight
from omakase.project.spans import BracketForm, BracketMember, OutlinePoint, TipLoad
from omakase.units import UnitSystem, format_value

DRAWN = 0.004  # m, thickness of the bracket in its picture
STEPS = tuple(1.0 + 0.15 * k for k in range(1, 16))
MISSING = {
    "menu": "The menu of combinations works for flat panels only so far. Ways out and studies work here.",
    "diagrams": "A bracket has no diagrams along a span: its checks say where along the bend they govern.",
}


class BracketKind:
    """A laminate bent once; see ``MemberKind``."""

    name, title = "bracket", "bracket or corner"
    member, form = BracketMember, BracketForm
    loads = (LoadOffer("tip", "force or moment at its end"),)
    first_load = "tip"
    limits = ("deflection", "mass", "thickness")
    reduced = quicker = False
    missing: Mapping[str, str] = MISSING
    can_be_drawn = False

    def respond(
        self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material], _accuracy: Accuracy
    ) -> tuple[Stack, Response]:
        member = bracket_translate.bracket(brief, candidate)
        stack = translate.stack(candidate, materials, brief.surroundings)
        cases = tuple(bracket_translate.bracket_case(case) for case in brief.load_cases)
        return stack, BracketResponse(member, stack, cases)

    def walls(self, _candidate: Candidate) -> tuple[str, ...]:
        return ("",)

    def layer_areas(self, brief: Brief, candidate: Candidate) -> tuple[float, ...]:
        """m² of each layer at the inside of the bend; what the outside adds is left out."""
        try:
            member = bracket_translate.bracket(brief, candidate)
        except OmakaseError:
            return (0.0,) * len(candidate.layers)
        length = member.arm + member.reach + math.radians(member.angle) * member.radius
        return (length * member.width,) * len(candidate.layers)

    def flat_layers(self, brief: Brief, candidate: Candidate) -> Layers:
        member = bracket_translate.bracket(brief, candidate)
        length = member.arm + member.reach + math.radians(member.angle) * member.radius
        return ((Flat(rectangle(length, member.width)),),) * len(candidate.layers)

    def drawn_by(self, candidate: Candidate, _points: tuple[OutlinePoint, ...]) -> Candidate:
        return candidate

    def new_member(self) -> BracketMember:
        return BracketMember()

    def new_form(self, brief: Brief) -> BracketForm:
        forms = [own.form for own in reversed(brief.candidates) if isinstance(own.form, BracketForm)]
        return forms[0] if forms else BracketForm()

    def default_load(self, _brief: Brief, kind: str) -> Load:
        assert kind == "tip"
        return TipLoad(opening=100.0)

    # --- sentences ------------------------------------------------------------------------------------------

    def sentence(self, _brief: Brief) -> Sentence:
        return (
            Words("A bent laminate, held at the end of its first arm of"),
            Number(("member", "arm"), "length", "Length of the held arm", "length of the held arm"),
            Words(", turning by"),
            Number(("member", "angle"), "angle", "Angle of the bend", "angle of the bend"),
            Words("into a second arm of"),
            Number(("member", "reach"), "length", "Length of the loaded arm", "length of the loaded arm"),
            Words(", loaded at its end."),
        )

    def load_sentence(self, brief: Brief, case: int, load: int) -> Sentence:
        base = ("load_cases", case, "loads", load)
        which = f"{brief.load_cases[case].id} load {load + 1}"

        def number(field: str, dimension: str, what: str) -> Number:
            return Number((*base, field), dimension, f"{what}, {which}", what.lower(), "anything")

        record = brief.load_cases[case].loads[load]
        if not isinstance(record, TipLoad):
            return own_weight((*base, "g"), which) if isinstance(record, OwnWeight) else NOT_TAKEN
        return (
            Words("from a"), Name((*base, "what"), f"What pushes, {which}", "name a load"),
            number("opening", "force", "Force across"), Words("across the arm (+ opens the bend),"),
            number("pull", "force", "Force along"), Words("along it (+ away from the bend), and a moment of"),
            number("moment", "bending", "Moment"), Words("(+ opens it)"),
        )  # fmt: skip

    def form_sentence(self, _brief: Brief, candidate: Candidate, _materials: Mapping[str, Material]) -> Sentence:
        if not isinstance(candidate.form, BracketForm):
            return ()
        return (
            Words("Inside radius"), Number(("form", "radius"), "length", "Inside radius", "inside radius"),
            Words(", width"), Number(("form", "width"), "length", "Width", "width of the bracket"),
            Words(". Face A lies inside the bend."),
        )  # fmt: skip

    def plain_member(self, brief: Brief, units: UnitSystem) -> str:
        return plain(self.sentence(brief), brief, units)

    # --- the picture ----------------------------------------------------------------------------------------

    def plan(self, brief: Brief, case: LoadCase | None, units: UnitSystem) -> Drawing:
        """From the side: the held arm along x, the bend, the loaded arm with what acts at its end."""
        given = brief.member
        assert isinstance(given, BracketMember)
        form = next((own.form for own in brief.candidates if isinstance(own.form, BracketForm)), BracketForm())
        try:
            member = Bracket(given.arm, given.reach, form.radius, form.width, given.angle)
        except OmakaseError:
            return Drawing(
                (Note((0.0, 0.0), "these sizes make no bracket", "centre", "alarm"),), (-1.0, -1.0, 1.0, 1.0)
            )
        line = middle_line(member, DRAWN)
        normal = np.stack([-line.tangent[:, 1], line.tangent[:, 0]], axis=1) * DRAWN / 2.0
        outside, inside = line.points - normal, line.points + normal
        border = np.concatenate([outside, inside[::-1], outside[:1]])
        shapes: list[Shape] = [Line(tuple(map(tuple, border.tolist())), fill="fill"), Mark((0.0, 0.0), "clamp")]
        tip = (float(line.points[-1, 0]), float(line.points[-1, 1]))
        size = max(given.arm + given.reach, 1e-6)
        for load in case.loads if case is not None else ():
            if isinstance(load, TipLoad):
                shapes += _load_shapes(load, tip, line.tangent[-1], size, units)
        low = border.min(axis=0) - 0.32 * size
        high = border.max(axis=0) + 0.32 * size
        return Drawing(tuple(shapes), (float(low[0]), float(low[1]), float(high[0]), float(high[1])))

    # --- sizing ---------------------------------------------------------------------------------------------

    def parameters(self, brief: Brief, candidate: Candidate, _materials: Mapping[str, Material]) -> Iterator[Parameter]:
        form = candidate.form
        if isinstance(form, BracketForm):
            for field, title, least, most in (
                ("radius", "inside radius", 0.3, 4.0), ("width", "width of the bracket", 0.5, 2.0),
            ):  # fmt: skip
                yield span_sizing.plain_size(candidate, field, title, least, most)

    def levers(self, _brief: Brief, candidate: Candidate, units: UnitSystem, passes: bool) -> Iterator[Lever]:
        """A larger radius, where it is opened, and a wider or narrower one."""
        form = candidate.form
        if not isinstance(form, BracketForm):
            return
        if not passes:
            title = "a larger inside radius"
            yield span_sizing.plain_lever(candidate, "radius", "inside radius {}", title, STEPS, units)
            yield span_sizing.plain_lever(candidate, "width", "width {}", "a wider bracket", STEPS, units)
        else:
            narrower = tuple(1.0 - 0.03 * k for k in range(1, 24))
            yield span_sizing.plain_lever(candidate, "width", "width {}", "a narrower bracket", narrower, units)


def _load_shapes(
    load: TipLoad, tip: tuple[float, float], along: np.ndarray, size: float, units: UnitSystem
) -> Iterator[Shape]:
    outward = np.array([along[1], -along[0]])
    for value, way, shift in ((load.opening, outward, 0.0), (load.pull, along, 0.14)):
        if value:
            direction = way if value > 0.0 else -way
            yield Arrow(tip, (float(direction[0]), float(direction[1])))
            at = np.array(tip) - 0.16 * size * direction + np.array([0.0, shift * size])
            text = f"{load.what} {format_value(abs(value), 'force', units, with_unit=True)}"
            yield Note((float(at[0]), float(at[1])), text, "above", "accent")
    if load.moment:
        yield Arrow(tip, (1.0 if load.moment > 0.0 else -1.0, 0.0), 18.0, turning=True)
        text = f"moment {format_value(abs(load.moment), 'bending', units, with_unit=True)}"
        yield Note((tip[0], tip[1] + 0.2 * size), text, "above", "accent")


KIND = BracketKind()
