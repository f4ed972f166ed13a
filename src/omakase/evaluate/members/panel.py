"""The panel, flat or curved, as a kind of member."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from functools import partial

import msgspec

from omakase.core.errors import PanelError
from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material
from omakase.core.members.field import Response
from omakase.core.members.panel import respond, respond_zoned
from omakase.core.members.panel_given import Accuracy
from omakase.core.members.panel_held import EDGE_TITLES
from omakase.core.members.panel_patchwork import layer_areas, patchwork
from omakase.core.members.panel_ribs import RIB
from omakase.evaluate.members.flat import Layers, flat_panel
from omakase.evaluate.members.kind import LoadOffer
from omakase.evaluate.members.panel_holding import circle_sentence, circle_words, held_sentence, held_words, new_circle
from omakase.evaluate.members.panel_ribs import rib_areas, rib_levers, rib_parameters, ribs_sentence, with_ribs
from omakase.evaluate.members.sentence import (
    NOT_TAKEN,
    Act,
    Choice,
    Name,
    Number,
    Part,
    Path,
    Range,
    Sentence,
    Side,
    Words,
    own_weight,
    with_entry,
    with_value,
)
from omakase.evaluate.members.spans import zone_dropper
from omakase.evaluate.sizing.lever import Lever, Option
from omakase.evaluate.sizing.parameter import Parameter, State
from omakase.project import edits, translate
from omakase.project.commands import replace
from omakase.project.model import Brief, Candidate, Load, LoadCase, new_id
from omakase.project.panels import EdgeLoad, OwnWeight, PanelMember, PatchLoad, PressureLoad, Supports
from omakase.project.spans import OutlinePoint, PanelForm, Zone
from omakase.units import FIELD, UnitSystem, format_value

EDGE_WORDS = {
    "free": "free", "resting": "resting", "simple": "simply supported", "clamped": "clamped", "elastic": "elastic",
}  # fmt: skip
EDGE_SHORT = {**EDGE_WORDS, "simple": "simple"}
EDGE_EXPLAINED = {
    "free": "nothing holds the edge",
    "resting": "held up (w = 0) but free to slide and twist on its support",
    "simple": "held by a frame or a row of fasteners: w, sliding along and twisting along the edge are zero",
    "clamped": "built in: nothing moves or turns",
    "elastic": "on an elastic support, even along the edge, and free to turn",
}
IN_PLANE = (
    ("may_spread", "may spread", "may_spread"), ("ends", "are held at the ends", "ends"),
    ("sides", "are held at the sides", "sides"), ("all", "are all held", "all"),
)  # fmt: skip
IN_PLANE_EXPLAINED = (
    ("may_spread", "simple and resting edges move apart when the panel stretches or an arch flattens"),
    ("ends", "the supported ends keep their distance, as feet of an arch do"),
    ("sides", "the supported sides keep their distance"),
    ("all", "all supported edges keep their distance: a stiff frame"),
)
ROUND_IN_PLANE = (("may_spread", "may spread", "may_spread"), ("all", "cannot spread", "all"))
OUTLINES = (("rectangle", "rectangular", "rectangle"), ("round", "round or oval", "round"))
FLUSH = (("face_a", "face A", "face_a"), ("middle", "neither face", "middle"), ("face_b", "face B", "face_b"))
ARCHES = (0.02, 0.05, 0.1, 0.15)  # of the shorter side
WHAT_ZONES = (("layers", "for layers", False), ("opening", "open", True))
EDGE_NAMES = dict(zip(("x0", "x1", "y0", "y1"), EDGE_TITLES, strict=True))


class PanelKind:
    """A rectangle held along its edges."""

    name, title = "panel", "flat panel"
    member, form = PanelMember, PanelForm
    loads = (
        LoadOffer("patch", "force on a patch: a foot, a wheel, a box"),
        LoadOffer("pressure", "pressure over the whole face"),
        LoadOffer("edge", "forces along its edges"),
        LoadOffer("own_weight", "own weight times g"),
    )
    first_load = "pressure"
    limits = ("deflection", "frequency_minimum", "frequency_band", "mass", "thickness")
    reduced = quicker = True
    missing: Mapping[str, str] = {}
    can_be_drawn = False

    def respond(
        self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material], accuracy: Accuracy
    ) -> tuple[Stack, Response]:
        stack = translate.stack(candidate, materials, brief.surroundings)
        cases = tuple(translate.load_case(case) for case in brief.load_cases)
        ultimate = translate.settings(brief).ultimate_factor
        panel = translate.panel(brief, candidate)
        if panel.outline == "round" or not translate.is_built(brief, candidate):
            return stack, respond(panel, stack, cases, accuracy, ultimate=ultimate)
        flush = candidate.form.flush if isinstance(candidate.form, PanelForm) else "face_b"
        rows = edits.rows_of_wall(candidate, "")  # among all layers, those of ribs too
        layers = tuple(stack.layers[row] for row in rows)
        lying = translate.lying(edits.of_wall(candidate, ""), panel.length, panel.width)
        openings = translate.openings(candidate, panel.length, panel.width)
        work = patchwork(layers, lying, panel.length, panel.width, openings)
        work = msgspec.structs.replace(work, rows=tuple(tuple(rows[row] for row in own) for own in work.rows))
        ribs = translate.ribs(brief, candidate, materials)
        return stack, respond_zoned(panel, work, cases, flush, accuracy, ultimate=ultimate, ribs=ribs)

    def walls(self, candidate: Candidate) -> tuple[str, ...]:
        """The panel itself, which has no name, and that of its ribs where it has any."""
        form = candidate.form
        bonded = isinstance(form, PanelForm) and any(not rib.is_bead for rib in form.ribs)
        return ("", RIB) if bonded else ("",)

    def drawn_by(self, candidate: Candidate, _points: tuple[OutlinePoint, ...]) -> Candidate:
        return candidate

    def layer_areas(self, brief: Brief, candidate: Candidate) -> tuple[float, ...]:
        panel = translate.panel(brief, candidate)
        ribs, formed = rib_areas(brief, candidate)
        whole = panel.area + formed
        if not translate.has_zones(candidate):
            return tuple(ribs if layer.wall == RIB else whole for layer in candidate.layers)
        own = edits.of_wall(candidate, "")
        openings = translate.openings(candidate, panel.length, panel.width)
        lying = translate.lying(own, panel.length, panel.width)
        areas = iter(layer_areas(lying, panel.length, panel.width, openings))
        share = whole / (panel.length * panel.width)
        return tuple(ribs if layer.wall == RIB else next(areas) * share for layer in candidate.layers)

    def flat_layers(self, brief: Brief, candidate: Candidate) -> Layers:
        return flat_panel(brief, candidate)

    def new_member(self) -> PanelMember:
        return PanelMember()

    def new_form(self, _brief: Brief) -> PanelForm:
        return PanelForm()

    def default_load(self, brief: Brief, kind: str) -> Load:
        return edits.default_load(brief, kind)

    # --- sentences ------------------------------------------------------------------------------------------

    def sentence(self, brief: Brief) -> Sentence:
        options = tuple((key, word, key) for key, word in EDGE_SHORT.items())
        explained = tuple(EDGE_EXPLAINED.items())
        member = brief.member
        assert isinstance(member, PanelMember)
        outline = Choice(("member", "outline"), "Outline of the panel", "outline of the panel", OUTLINES, (), _outlined)

        def edge(field: str) -> Choice:
            name = f"upport of the {EDGE_NAMES[field]}"
            return Choice(("member", "supports", field), f"S{name}", f"s{name}", options, explained)

        may = (("may", "may be clamped", False), ("given", "stay so", True))
        given = Choice(("supports_given",), "Whether the supports may change", "whether supports may change", may)
        if member.outline == "round":
            return (
                Words("A"), outline, Words("panel"), _size("length"), Words("long and"), _size("width"),
                Words("wide. Its edge is"),
                Choice(("member", "supports", "x0"), "Support of the edge", "support of the edge", options, explained),
                Words("all round; in its plane it"),
                Choice(("member", "supports", "in_plane"), "Whether the edge may spread", "whether the edge may spread",
                       ROUND_IN_PLANE),
                Words("; the support"), given, *circle_sentence(brief),
            )  # fmt: skip
        return (
            Words("A"), outline, Words("panel"), _size("length"), Words("long and"), _size("width"),
            Words("wide. Supports: left"),
            edge("x0"), Words(", right"), edge("x1"), Words(", near"), edge("y0"), Words(", far"), edge("y1"),
            Words("; in its plane the edges"),
            Choice(("member", "supports", "in_plane"), "Whether the edges may spread", "whether the edges may spread",
                   IN_PLANE, IN_PLANE_EXPLAINED),
            Words("; the supports"), given, *held_sentence(brief),
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
        if isinstance(record, EdgeLoad):
            return _edge_sentence(record, base, which)
        return own_weight((*base, "g"), which) if isinstance(record, OwnWeight) else NOT_TAKEN

    def form_sentence(self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material]) -> Sentence:
        if not isinstance(candidate.form, PanelForm):
            return ()
        if is_round(brief):
            return (
                Words("Its middle rises"),
                Number(("form", "rise_along"), "length", "Rise of the middle", "rise of the middle", "anything"),
                Words("above its edge, toward face A."), *_leftovers(candidate),
            )  # fmt: skip
        return (
            Words("It rises"),
            Number(("form", "rise_along"), "length", "Rise along the length", "rise along the length", "anything"),
            Words("along and"),
            Number(("form", "rise_across"), "length", "Rise across the width", "rise across the width", "anything"),
            Words("across, toward face A."),
            *_zones_sentence(brief, candidate), *ribs_sentence(brief, candidate, materials),
        )  # fmt: skip

    def plain_member(self, brief: Brief, units: UnitSystem) -> str:
        member = brief.member
        assert isinstance(member, PanelMember)
        supports = member.supports
        edges = [supports.x0, supports.x1, supports.y0, supports.y1]
        length, width = (
            format_value(size, "length", units, with_unit=True, digits=FIELD) for size in (member.length, member.width)
        )
        size = f"{length} long and {width} wide"
        if member.outline == "round":
            spread = "" if supports.in_plane == "may_spread" else "; the edge cannot spread"
            return (
                f"A round or oval panel, {size}; its edge {EDGE_WORDS[edges[0]]}{spread}{circle_words(member, units)}."
            )
        more = held_words(supports, units)
        held = {"may_spread": "", "ends": "; the ends cannot spread", "sides": "; the sides cannot spread",
                "all": "; the edges cannot spread"}[supports.in_plane]  # fmt: skip
        if len(set(edges)) == 1:
            return f"A panel, {size}, {EDGE_WORDS[edges[0]]} on all four edges{held}{more}."
        return (
            f"A panel, {size}; ends {EDGE_WORDS[edges[0]]} and {EDGE_WORDS[edges[1]]}, "
            f"sides {EDGE_WORDS[edges[2]]} and {EDGE_WORDS[edges[3]]}{held}{more}."
        )

    def plan(self, _brief: Brief, _case: LoadCase | None, _units: UnitSystem) -> None:
        return None

    # --- sizing ---------------------------------------------------------------------------------------------

    def parameters(self, brief: Brief, candidate: Candidate, _materials: Mapping[str, Material]) -> Iterator[Parameter]:
        for key, title in (("length", "length of the panel"), ("width", "width of the panel")):
            now = getattr(brief.member, key)

            def put(state: State, value: float, key: str = key) -> State:
                return _resized(state[0], key, value), state[1], state[2]

            yield Parameter(key, title, "length", now, 0.5 * now, 1.6 * now, put, True)
        if not isinstance(candidate.form, PanelForm):
            return
        for field, title, size in _rises(brief):

            def raise_(state: State, value: float, field: str = field) -> State:
                return state[0], with_value(state[1], ("form", field), round(value, 6)), state[2]

            yield Parameter(field, title, "length", getattr(candidate.form, field), 0.0, 0.15 * size, raise_)
        if candidate.form.ribs and not is_round(brief):
            yield from rib_parameters(brief, candidate)

    def levers(self, brief: Brief, candidate: Candidate, units: UnitSystem, passes: bool) -> Iterator[Lever]:
        """The panel arched; edges held in another way where the brief lets them, all or the longer or shorter ones."""
        if passes:
            return
        yield from _arches(brief, candidate, units)
        if not is_round(brief):
            yield from rib_levers(brief, candidate, units)
        if brief.supports_given:
            return
        member = brief.member
        assert isinstance(member, PanelMember)
        if member.outline == "round":
            if member.supports.x0 in ("simple", "resting"):
                built_in = replace(brief, member=replace(member, supports=replace(member.supports, x0="clamped")))
                yield Lever("edges", "clamped edges", (Option("edge clamped (brief)", candidate, built_in),), "first")
            return
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


def _edge_sentence(record: EdgeLoad, base: Path, which: str) -> Sentence:
    """Forces along the edges; where they change from one corner to the next, both numbers."""

    def number(field: str, what: str) -> Number:
        return Number((*base, field), "line_load", f"{what}, {which}", what.lower(), "anything")

    parts: list[Part] = []
    for field, where, far in (("ends", "the ends", "at the far side"), ("sides", "the sides", "at the right end")):
        what = f"Pull at {where}"
        parts += [number(field, what), Words(f"pull at {where}")]
        other = f"{field}_far"
        if getattr(record, other) is None:
            change = partial(with_value, path=(*base, other), value=getattr(record, field))
            parts.append(
                Act("changes along the edge", f"{what} changes along the edge, {which}", "let a load change", change)
            )
        else:
            change = partial(with_value, path=(*base, other), value=None)
            parts += [
                Words("running to"), number(other, f"{what} {far}"), Words(far),
                Act("even", f"{what} even along the edge, {which}", "make a load even", change),
            ]  # fmt: skip
        parts.append(Words(","))
    return (*parts, number("shear", "Shear along the edges"), Words("shear along all edges; compression is negative"))


def is_round(brief: Brief) -> bool:
    """Whether a brief asks for a round or oval panel."""
    return isinstance(brief.member, PanelMember) and brief.member.outline == "round"


def _outlined(before: Brief, after: Brief) -> Brief:
    """A panel of another outline, held in the same way: bolts along the sides of a rectangle become a circle."""
    member = after.member
    assert isinstance(member, PanelMember)
    supports = member.supports
    if member.outline == "round" and not is_round(before):
        try:
            bolts = len(translate.held(supports).bolts)
        except PanelError:  # a pitch that makes no sense
            bolts = 0
        circle = new_circle(member, bolts) if bolts >= 3 and supports.circle is None else supports.circle
        return replace(after, member=replace(member, supports=replace(supports, circle=circle)))
    return after


def _leftovers(candidate: Candidate) -> Sentence:
    """Zones and ribs that a round panel cannot have, to be taken off."""
    parts: list[Part] = []
    if candidate.zones:
        parts.append(Act("× zones", "Remove all zones", "remove zones", _without_zones))
    if isinstance(candidate.form, PanelForm) and candidate.form.ribs:
        parts.append(Act("× ribs", "Remove all ribs", "remove ribs", partial(with_ribs, ribs=())))
    return tuple(parts)


def _without_zones(candidate: Candidate) -> Candidate:
    layers = tuple(replace(layer, zone="", outside=False) for layer in candidate.layers if not layer.zone)
    return replace(candidate, zones=(), layers=layers)


def _rises(brief: Brief) -> tuple[tuple[str, str, float], ...]:
    member = brief.member
    assert isinstance(member, PanelMember)
    if member.outline == "round":
        return (("rise_along", "rise of the middle", min(member.length, member.width)),)
    return ("rise_along", "rise along the length", member.length), (
        "rise_across",
        "rise across the width",
        member.width,
    )


def _arches(brief: Brief, candidate: Candidate, units: UnitSystem) -> Iterator[Lever]:
    """A flat panel arched over its shorter side, or a curved one raised."""
    if not isinstance(candidate.form, PanelForm):
        return
    field, title, size = min(_rises(brief), key=lambda rise: rise[2])
    now: float = getattr(candidate.form, field)
    options = []
    for share in ARCHES:
        rise = round(share * size, 4)
        if rise > now:
            text = f"{title} {format_value(rise, 'length', units, with_unit=True, digits=FIELD)}"
            options.append(Option(text, with_value(candidate, ("form", field), rise)))
    if options:
        yield Lever("arch", "dished" if is_round(brief) else "arched", tuple(options), "first")
    if is_round(brief):
        return
    form = candidate.form
    dishes = []
    for share in ARCHES:
        rise = round(share * size, 4)
        if rise > max(form.rise_along, form.rise_across):
            text = f"dished by {format_value(rise, 'length', units, with_unit=True, digits=FIELD)} both ways"
            dishes.append(Option(text, replace(candidate, form=replace(form, rise_along=rise, rise_across=rise))))
    if dishes:
        yield Lever("dish", "dished", tuple(dishes), "first")


def _zones_sentence(brief: Brief, candidate: Candidate) -> Sentence:
    """The parts of the panel that layers may lie in, and which surface stays even."""
    parts: list[Part] = [Words("Zones:" if candidate.zones else "")]
    for i, zone in enumerate(candidate.zones):

        def number(field: str, what: str, range_: Range = "not_negative", i: int = i) -> Number:
            return Number(("zones", i, field), "length", f"{what} of zone {i + 1}", f"{what.lower()} of a zone", range_)

        parts.append(Name(("zones", i, "name"), f"Name of zone {i + 1}", "name a zone"))
        if zone.rim is not None:
            parts += [Words("within"), number("rim", "Rim", "positive"), Words("of the edges")]
        else:
            parts += [Words("x"), number("low", "Start along"), Words("to"), number("high", "End along", "positive")]
            parts += _across(zone, i, number, brief)
            parts.append(Choice(("zones", i, "opening"), f"What zone {i + 1} is", "what a zone is", WHAT_ZONES))
        parts.append(Act("×", f"Remove zone {i + 1}", "remove a zone", zone_dropper(i)))
    member = brief.member
    assert isinstance(member, PanelMember)
    identity, count = new_id("z", {zone.id for zone in candidate.zones}), len(candidate.zones)
    shorter = min(member.length, member.width)
    third = Zone(identity, f"zone {identity[1:]}", 0.0, _third(member.length), 0.0, _third(member.width))
    rim = Zone(identity, _free_name("rim", candidate), 0.0, 0.0, rim=round(shorter / 10.0, 3))
    window = Zone(
        identity, _free_name("opening", candidate), _third(member.length), 2.0 * _third(member.length),
        _third(member.width), 2.0 * _third(member.width), opening=True,
    )  # fmt: skip
    offers = (third, "+ zone", "Add a zone"), (rim, "+ rim", "Add a rim"), (window, "+ opening", "Add an opening")
    for new, text, what in offers:
        add = partial(with_entry, path=("zones",), index=count, entry=new)
        parts.append(Act(text, what, what.lower(), add))
    if candidate.zones:
        parts += [Words("Even on"), Choice(("form", "flush"), "Even surface", "even surface", FLUSH)]
    return tuple(parts)


def _across(zone: Zone, index: int, number: Callable[..., Number], brief: Brief) -> list[Part]:
    """From where to where a zone runs across the width, or that it runs over all of it."""
    if zone.near is not None and zone.far is not None:
        return [Words(", y"), number("near", "Start across"), Words("to"), number("far", "End across", "positive")]
    width = getattr(brief.member, "width", 0.0)

    def narrower(candidate: Candidate) -> Candidate:
        new = replace(zone, near=0.0, far=_third(width))
        return replace(candidate, zones=(*candidate.zones[:index], new, *candidate.zones[index + 1 :]))

    what = f"Zone {index + 1} over a part of the width"
    return [Words(", all across"), Act("only a part", what, "narrow a zone", narrower)]


def _third(size: float) -> float:
    return round(size / 3.0, 3)


def _free_name(name: str, candidate: Candidate) -> str:
    taken = {zone.name for zone in candidate.zones}
    return next(own for own in (name, *(f"{name} {k}" for k in range(2, len(taken) + 3))) if own not in taken)


def _size(field: str) -> Number:
    return Number(("member", field), "length", f"Panel {field}", f"panel {field}")


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
