"""The flat panel as a kind of member."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material
from omakase.core.members.field import Response
from omakase.core.members.panel import Accuracy, respond
from omakase.evaluate.members.kind import LoadOffer
from omakase.evaluate.members.sentence import Choice, Name, Number, Sentence, Side, Words
from omakase.evaluate.sizing.lever import Lever, Option
from omakase.evaluate.sizing.parameter import Parameter, State
from omakase.project import edits, translate
from omakase.project.commands import replace
from omakase.project.model import (
    Brief,
    Candidate,
    Load,
    LoadCase,
    OwnWeight,
    PanelMember,
    PatchLoad,
    PressureLoad,
    Supports,
)
from omakase.project.spans import OutlinePoint, PanelForm
from omakase.units import FIELD, UnitSystem, format_value

EDGE_WORDS = {"free": "free", "resting": "resting", "simple": "simply supported", "clamped": "clamped"}
EDGE_SHORT = {**EDGE_WORDS, "simple": "simple"}
EDGE_EXPLAINED = {
    "free": "nothing holds the edge",
    "resting": "held up (w = 0) but free to slide and twist on its support",
    "simple": "held by a frame or a row of fasteners: w, sliding along and twisting along the edge are zero",
    "clamped": "built in: nothing moves or turns",
}
EDGE_NAMES = {"x0": "left end", "x1": "right end", "y0": "near side", "y1": "far side"}


class PanelKind:
    """A rectangle held along its edges."""

    name, title = "panel", "flat panel"
    member, form = PanelMember, PanelForm
    loads = (
        LoadOffer("patch", "force on a patch: a foot, a wheel, a box"),
        LoadOffer("pressure", "pressure over the whole face"),
        LoadOffer("own_weight", "own weight times g"),
    )
    first_load = "pressure"
    limits = ("deflection", "frequency_minimum", "frequency_band", "mass", "thickness")
    reduced = True
    missing: Mapping[str, str] = {}
    can_be_drawn = False

    def respond(
        self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material], accuracy: Accuracy
    ) -> tuple[Stack, Response]:
        stack = translate.stack(candidate, materials, brief.surroundings)
        cases = tuple(translate.load_case(case) for case in brief.load_cases)
        return stack, respond(translate.panel(brief), stack, cases, accuracy)

    def walls(self, _candidate: Candidate) -> tuple[str, ...]:
        return ("",)

    def drawn_by(self, candidate: Candidate, _points: tuple[OutlinePoint, ...]) -> Candidate:
        return candidate

    def layer_areas(self, brief: Brief, candidate: Candidate) -> tuple[float, ...]:
        panel = translate.panel(brief)
        return (panel.length * panel.width,) * len(candidate.layers)

    def new_member(self) -> PanelMember:
        return PanelMember()

    def new_form(self, _brief: Brief) -> PanelForm:
        return PanelForm()

    def default_load(self, brief: Brief, kind: str) -> Load:
        return edits.default_load(brief, kind)

    # --- sentences ------------------------------------------------------------------------------------------

    def sentence(self, _brief: Brief) -> Sentence:
        options = tuple((key, word, key) for key, word in EDGE_SHORT.items())
        explained = tuple(EDGE_EXPLAINED.items())

        def edge(field: str) -> Choice:
            name = f"upport of the {EDGE_NAMES[field]}"
            return Choice(("member", "supports", field), f"S{name}", f"s{name}", options, explained)

        may = (("may", "may be clamped", False), ("given", "stay so", True))
        return (
            Words("A flat panel"), _size("length"), Words("long and"), _size("width"), Words("wide. Supports: left"),
            edge("x0"), Words(", right"), edge("x1"), Words(", near"), edge("y0"), Words(", far"), edge("y1"),
            Words("; they"),
            Choice(("supports_given",), "Whether the supports may change", "whether supports may change", may),
        )  # fmt: skip

    def load_sentence(self, brief: Brief, case: int, load: int) -> Sentence:
        record, base = brief.load_cases[case].loads[load], ("load_cases", case, "loads", load)
        which = f"{brief.load_cases[case].id} load {load + 1}"
        if isinstance(record, PressureLoad):
            path = (*base, "pressure")
            return (
                Number(path, "pressure", f"Pressure, {which}", "pressure", signed=True), Words("on"),
                Side(path, f"Face pressed on, {which}", "turn a load over"),
            )  # fmt: skip
        if isinstance(record, PatchLoad):
            force = (*base, "force")

            def number(field: str, what: str, any_value: bool = False) -> Number:
                return Number(
                    (*base, field), "length", f"{what}, {which}", what.lower(), "anything" if any_value else "positive"
                )

            return (
                Number(force, "force", f"Force, {which}", "force", signed=True), Words("from a"),
                Name((*base, "what"), f"What presses, {which}", "name a load"), Words("of"),
                number("along_x", "Patch length"), Words("×"), number("along_y", "Patch width"), Words("at x"),
                number("x", "Patch centre along the length", True), Words("y"),
                number("y", "Patch centre across the width", True), Words("on"),
                Side(force, f"Face pressed on, {which}", "turn a load over"),
            )  # fmt: skip
        return own_weight((*base, "g"), which)

    def form_sentence(self, _brief: Brief, _candidate: Candidate, _materials: Mapping[str, Material]) -> Sentence:
        return ()

    def plain_member(self, brief: Brief, units: UnitSystem) -> str:
        member = brief.member
        assert isinstance(member, PanelMember)
        supports = member.supports
        edges = [supports.x0, supports.x1, supports.y0, supports.y1]
        length, width = (
            format_value(size, "length", units, with_unit=True, digits=FIELD) for size in (member.length, member.width)
        )
        size = f"{length} long and {width} wide"
        if len(set(edges)) == 1:
            return f"A flat panel, {size}, {EDGE_WORDS[edges[0]]} on all four edges."
        return (
            f"A flat panel, {size}; ends {EDGE_WORDS[edges[0]]} and {EDGE_WORDS[edges[1]]}, "
            f"sides {EDGE_WORDS[edges[2]]} and {EDGE_WORDS[edges[3]]}."
        )

    def plan(self, _brief: Brief, _case: LoadCase | None, _units: UnitSystem) -> None:
        return None

    # --- sizing ---------------------------------------------------------------------------------------------

    def parameters(
        self, brief: Brief, _candidate: Candidate, _materials: Mapping[str, Material]
    ) -> Iterator[Parameter]:
        for key, title in (("length", "length of the panel"), ("width", "width of the panel")):
            now = getattr(brief.member, key)

            def put(state: State, value: float, key: str = key) -> State:
                return _resized(state[0], key, value), state[1], state[2]

            yield Parameter(key, title, "length", now, 0.5 * now, 1.6 * now, put, True)

    def levers(self, brief: Brief, candidate: Candidate, _units: UnitSystem, passes: bool) -> Iterator[Lever]:
        """Edges held in another way, where the brief lets them: all clamped, or the two longer or shorter ones."""
        if passes or brief.supports_given:
            return
        member = brief.member
        assert isinstance(member, PanelMember)
        along = ("x0", "x1") if member.length <= member.width else ("y0", "y1")
        across = ("y0", "y1") if along[0] == "x0" else ("x0", "x1")
        options = []
        for text, edges in (("longer edges", along), ("shorter edges", across), ("edges", along + across)):
            held = [edge for edge in edges if getattr(member.supports, edge) in ("simple", "resting")]
            if held:
                clamped: Supports = replace(member.supports, **dict.fromkeys(held, "clamped"))
                changed = replace(brief, member=replace(member, supports=clamped))
                options.append(Option(f"{text} clamped (brief)", candidate, changed))
        if options:
            yield Lever("edges", "clamped edges", tuple(options), "first")


def _size(field: str) -> Number:
    return Number(("member", field), "length", f"Panel {field}", f"panel {field}")


def own_weight(path: tuple[str | int, ...], which: str) -> Sentence:
    """Own weight times g; for every kind alike."""
    number = Number(path, "acceleration", f"Multiple of g, {which}", "multiple of g", "anything")
    return Words("its own weight times"), number


def _resized(brief: Brief, key: str, value: float) -> Brief:
    """Another length or width; a foot stays as big as it is, at the same share of the side."""
    share = value / getattr(brief.member, key)
    member = replace(brief.member, **{key: round(value, 6)})
    cases = []
    for case in brief.load_cases:
        loads: list[Load] = []
        for load in case.loads:
            if isinstance(load, PatchLoad):
                load = replace(load, **({"x": load.x * share} if key == "length" else {"y": load.y * share}))
            loads.append(load)
        cases.append(replace(case, loads=tuple(loads)))
    return replace(brief, member=member, load_cases=tuple(cases))


KIND = PanelKind()
WEIGHT = OwnWeight(1.0)
