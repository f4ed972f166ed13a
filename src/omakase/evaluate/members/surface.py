"""The lifting surface as a kind of member."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping

import numpy as np

from omakase.core.errors import MemberError, OmakaseError
from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material
from omakase.core.members.field import Response
from omakase.core.members.panel_given import FULL, Accuracy
from omakase.core.members.spar import ORDER
from omakase.core.members.surface import SurfaceResponse
from omakase.core.sections.drawn import MOST_WEBS
from omakase.evaluate.members import span_sizing, spans
from omakase.evaluate.members.drawing import Drawing, Handle, Line, Note, Shape
from omakase.evaluate.members.flat import Layers, flat_walls
from omakase.evaluate.members.kind import LoadOffer
from omakase.evaluate.members.sentence import Act, Choice, Name, Number, Part, Path, Sentence, Words
from omakase.evaluate.members.spar import bond_sentence, changed_webs, web_parts, with_layers_of
from omakase.evaluate.sizing.lever import Lever, Option
from omakase.evaluate.sizing.parameter import Parameter, State
from omakase.project import span_translate, surface_translate, translate
from omakase.project.commands import replace
from omakase.project.model import Brief, Candidate, Load, LoadCase
from omakase.project.spans import LiftLoad, OutlinePoint, Station
from omakase.project.wings import AirTorque, SurfaceForm, SurfaceMember
from omakase.units import UnitSystem

PROFILE = "0012"
PLANFORMS = (
    ("tapered", "straight edges", "tapered"), ("half_elliptic", "half an ellipse", "half_elliptic"),
    ("stations", "stations", "stations"),
)  # fmt: skip
PLANFORMS_EXPLAINED = (
    ("tapered", "a root and a tip chord with straight lines between them; the same twice for an even one"),
    ("half_elliptic", "the chord of half an ellipse, which lifts evenly: area π/4 × span × root chord"),
    ("stations", "chords at places along the span, straight between them"),
)


class SurfaceKind(spans.SpanKind):
    """Half of a wing, fin, tail or foil: a whole aerofoil along a span, hollow or filled."""

    name, title = "surface", "lifting surface"
    quicker = True  # without its walls together, where they buckle
    member, form = SurfaceMember, SurfaceForm
    loads = (
        spans.LIFT, spans.LIFT_TABLE, LoadOffer("air_torque", "turning of the air about the quarter chord"),
        *(load for load in spans.SPAN_LOADS if load.kind != "drop"), spans.TORQUE,
    )  # fmt: skip
    first_load = "lift"
    limits = (
        "deflection", "rotation", "twist", "divergence", "frequency_minimum", "frequency_band", "mass", "thickness",
    )  # fmt: skip
    opening, noun = "Half of a lifting surface", "surface"
    can_be_drawn = True
    missing: Mapping[str, str] = spans.MISSING

    def walls(self, candidate: Candidate) -> tuple[str, ...]:
        """Those of its outline; those that its layers name where that cannot be drawn."""
        if not isinstance(candidate.form, SurfaceForm):
            return ("",)
        try:
            return surface_translate.walls(candidate.form)
        except MemberError:
            return tuple(dict.fromkeys(layer.wall for layer in candidate.layers)) or ("skin",)

    def respond(
        self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material], accuracy: Accuracy
    ) -> tuple[Stack, Response]:
        member = surface_translate.surface(brief, candidate, materials)
        walls = span_translate.named_walls(
            brief, candidate, materials, member.beam.span.length, member.beam.shape.walls
        )
        cases = tuple(
            surface_translate.surface_case(case, member.planform, member.reference) for case in brief.load_cases
        )
        stack = translate.stack(candidate, materials, brief.surroundings)
        response = SurfaceResponse(member, walls, cases, ORDER, accuracy.cells)
        response.walls_together = accuracy == FULL
        return stack, response

    def layer_areas(self, brief: Brief, candidate: Candidate) -> tuple[float, ...]:
        """m² of each layer, at walls of no thickness."""
        member = surface_translate.hollow(brief, candidate).beam
        return spans.walled_areas(candidate, member.shape, member.span.length)

    def flat_layers(self, brief: Brief, candidate: Candidate) -> Layers:
        member = surface_translate.hollow(brief, candidate).beam
        return flat_walls(candidate, member.shape, member.span.length)

    def drawn_by(self, candidate: Candidate, points: tuple[OutlinePoint, ...]) -> Candidate:
        form = candidate.form
        if not isinstance(form, SurfaceForm):
            return candidate
        drawn = replace(candidate, form=replace(form, points=points, profile=""))
        return with_layers_of(candidate, drawn, self.walls)

    def default_load(self, brief: Brief, kind: str) -> Load:
        if kind == "air_torque":
            return AirTorque(-0.05, 500.0)
        return spans.default_load(brief, kind)

    # --- sentences ------------------------------------------------------------------------------------------

    def sentence(self, brief: Brief) -> Sentence:
        """Its length along the axis and what holds it, its planform and sweep."""
        member = surface_translate.given(brief)
        parts: list[Part] = [
            *super().sentence(brief), Words("; planform of"),
            Choice(("member", "planform"), "Planform", "planform", PLANFORMS, PLANFORMS_EXPLAINED, _with_planform),
        ]  # fmt: skip
        if member.planform == "stations":
            parts += [Words("with chord"), *spans.stations_sentence(("member", "chord"), member.chord, "Chord",
                                                                   member.length)]  # fmt: skip
        else:
            parts += [Words("with root chord"), Number(("member", "root"), "length", "Root chord", "root chord")]
        if member.planform == "tapered":
            parts += [Words("and tip chord"), Number(("member", "tip"), "length", "Tip chord", "tip chord")]
        parts += [Words(", axis swept by"), Number(("member", "sweep"), "angle", "Sweep of the axis", "sweep",
                                                   "anything")]  # fmt: skip
        return tuple(parts)

    def load_sentence(self, brief: Brief, case: int, load: int) -> Sentence:
        record = brief.load_cases[case].loads[load]
        if not isinstance(record, AirTorque):
            return spans.load_sentence(brief, case, load, False, True)
        base: Path = ("load_cases", case, "loads", load)
        which = f"{brief.load_cases[case].id} load {load + 1}"
        return (
            Words("turning about the quarter chord by a moment coefficient of"),
            Number((*base, "coefficient"), "ratio", f"Moment coefficient, {which}", "moment coefficient", "anything"),
            Words("(nose up) at a dynamic pressure of"),
            Number((*base, "pressure"), "pressure", f"Dynamic pressure, {which}", "dynamic pressure", "anything"),
        )

    def form_sentence(self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material]) -> Sentence:
        form = candidate.form
        if not isinstance(form, SurfaceForm):
            return ()
        parts: list[Part] = []
        if form.profile or not form.points:
            parts += [
                Words("Section of the 4-digit profile"),
                Name(("form", "profile"), "Number of the 4-digit profile", "another profile"),
                Words("to"),
                Number(("form", "cut"), "ratio", "Share of the chord at which the section ends", "end of the section"),
                Words("of the chord"),
            ]
        else:
            parts += [
                Words(f"Section by {len(form.points)} points, or a"),
                Act("4-digit profile", f"Draw it as the 4-digit profile {PROFILE}, then type another", "a profile",
                    _by_profile),
            ]  # fmt: skip
        parts += [
            Words(", at the tip"),
            Number(("form", "tip_ratio"), "ratio", "Thickness over chord at the tip over that at the root",
                   "thickness at the tip"),
            Words("times as thick for its chord;"),
        ]  # fmt: skip
        cores = sorted(name for name, own in materials.items() if own.kind == "core")
        options = (("", "hollow", ""), *((name, f"filled with {name}", name) for name in cores))
        parts.append(Choice(("form", "filling"), "What fills it", "what fills it", options))
        parts.append(Words(", webs at" if form.webs else ", no webs"))
        parts += web_parts(form.webs, _other_webs, 0.3)
        if form.webs:
            parts += [
                Words(", caps"),
                Number(("form", "cap"), "length", "Width of each cap at the root, 0 for none", "caps", "not_negative"),
            ]
            if form.cap > 0.0:
                parts += bond_sentence(form, "bonded to webs over", "Width of the bond of cap to web, 0 for none")
        length = spans.long_member(brief).length
        return (*parts, Words("."), *spans.zones_sentence(candidate, length))

    # --- the picture ----------------------------------------------------------------------------------------

    def plan(self, brief: Brief, case: LoadCase | None, units: UnitSystem) -> Drawing:
        """The planform from above, with the lift of a case over it and what it comes to."""
        try:
            planform = surface_translate.planform(surface_translate.given(brief))
        except OmakaseError:
            return spans.side_view(brief, case, units)
        length = planform.length
        x = np.unique(np.concatenate([np.linspace(0.0, length, 41), [p for p, _ in planform.law.points]]))
        x = x[(x >= 0.0) & (x <= length)]
        if planform.form == "half_elliptic":
            chord = planform.root * np.sqrt(np.maximum(1.0 - (x / length) ** 2, 0.0))
        else:
            chord = planform.law(x)
        across, back = x * planform.cosine, x * np.sin(np.radians(planform.sweep))
        front, rear = -back + 0.25 * chord, -back - 0.75 * chord
        edge = (*zip(across.tolist(), front.tolist(), strict=True),
                *reversed(list(zip(across.tolist(), rear.tolist(), strict=True))))  # fmt: skip
        shapes: list[Shape] = [
            Line((*edge, edge[0]), fill="fill"),
            Line(((0.0, float(front.max()) * 1.1), (0.0, float(rear[0]) * 1.1)), "ink", 3.0),
            Line(tuple(zip(across.tolist(), (-back).tolist(), strict=True)), "quiet", 1.0, True),
        ]
        handles = [
            Handle((mass.x * planform.cosine, 0.0), ("member", "carried", i, "x"), 0.0, length)
            for i, mass in enumerate(brief.member.carried)  # type: ignore[union-attr]
        ]
        top, low, half = float(front.max()), float(rear.min()), planform.span / 2.0
        tall = max(0.12 * half, 0.5 * planform.root)
        for load in case.loads if case is not None else ():
            if isinstance(load, LiftLoad):
                try:
                    pieces = span_translate.lift(load, planform.law).pieces
                except OmakaseError:
                    continue
                ends = [
                    (at * planform.cosine, abs(q))
                    for piece in pieces for at, q in ((piece.low, piece.start), (piece.high, piece.end))
                ]  # fmt: skip
                shapes.append(spans.load_area(ends, 1.3 * top, tall))
                text = f"lift {spans.shown(load.total, 'force', units)}"
                shapes.append(Note((0.45 * half, 1.3 * top + tall), text, "above", "accent"))
                break
        wide, mean = (spans.shown(size, "length", units) for size in (half, planform.mean_chord))
        shapes.append(Note((half / 2.0, low - 0.2 * tall), f"half span {wide}, mean chord {mean}", "centre", "quiet"))
        ratio = f"aspect ratio {planform.aspect_ratio:.1f}"
        shapes.append(Note((half / 2.0, low - 0.5 * tall), ratio, "centre", "quiet"))
        frame = (-0.05 * half, low - 0.8 * tall, 1.05 * half, 1.3 * top + 1.7 * tall)
        return Drawing(tuple(shapes), frame, False, tuple(handles))

    # --- sizing ---------------------------------------------------------------------------------------------

    def parameters(self, brief: Brief, candidate: Candidate, _materials: Mapping[str, Material]) -> Iterator[Parameter]:
        yield span_sizing.length_parameter("surface", brief)
        form, member = candidate.form, surface_translate.given(brief)
        if member.planform != "stations":
            yield Parameter("root", "root chord", "length", member.root, 0.5 * member.root, 2.0 * member.root, _chord,
                            True)  # fmt: skip
        if isinstance(form, SurfaceForm):
            for i, web in enumerate(form.webs):
                low = form.webs[i - 1] + 0.05 if i else 0.08
                high = form.webs[i + 1] - 0.05 if i + 1 < len(form.webs) else 0.92
                if low < web < high:
                    yield Parameter(f"web{i}", f"place of web {i + 1}", "ratio", web, low, high, _web(i))
            if form.cap > 0.0 and form.webs:
                yield span_sizing.plain_size(candidate, "cap", "width of the caps", 0.4, 1.6)

    def levers(self, brief: Brief, candidate: Candidate, units: UnitSystem, passes: bool) -> Iterator[Lever]:
        """Wider or narrower caps, zones that end elsewhere, one web more or less."""
        form = candidate.form
        if not isinstance(form, SurfaceForm):
            return
        if form.cap > 0.0 and form.webs:
            shares = [1.0 - 0.05 * k for k in range(1, 16)] if passes else [1.0 + 0.1 * k for k in range(1, 16)]
            title = f"{'narrower' if passes else 'wider'} caps"
            yield span_sizing.plain_lever(candidate, "cap", "caps {} wide", title, shares, units)
        yield from span_sizing.zone_levers(brief, candidate, units, passes)
        if form.filling and not passes:
            hollow = replace(candidate, form=replace(form, filling=""))
            yield Lever("filling", "hollow", (Option("no core inside", hollow),))
        if not passes and 0 < len(form.webs) < MOST_WEBS:
            place = round((form.webs[-1] + 1.0) / 2.0, 3)
            yield Lever("web", "another web", (Option("another web", _other_webs(candidate, -1, place)),))


def _other_webs(candidate: Candidate, gone: int, new: float | None = None) -> Candidate:
    return with_layers_of(candidate, changed_webs(candidate, gone, new), KIND.walls)


def _by_profile(candidate: Candidate) -> Candidate:
    return with_layers_of(candidate, replace(candidate, form=replace(candidate.form, profile=PROFILE)), KIND.walls)


def _with_planform(before: Brief, after: Brief) -> Brief:
    """Stations to begin with are those of the planform that was."""
    member = surface_translate.given(after)
    if member.planform != "stations" or member.chord:
        return after
    try:
        law = surface_translate.planform(surface_translate.given(before)).law
        stations = tuple(Station(round(x, 4), round(size, 5)) for x, size in law.points)
    except MemberError:
        stations = (Station(0.0, member.root), Station(member.length, member.root))
    return replace(after, member=replace(member, chord=stations))


def _chord(state: State, value: float) -> State:
    brief, candidate, materials = state
    member = surface_translate.given(brief)
    share = value / member.root
    new = replace(member, root=round(value, 6), tip=round(member.tip * share, 6))
    return replace(brief, member=new), candidate, materials


def _web(index: int) -> Callable[[State, float], State]:
    def put(state: State, value: float) -> State:
        brief, candidate, materials = state
        webs = tuple(value if i == index else web for i, web in enumerate(candidate.form.webs))  # type: ignore[union-attr]
        return brief, replace(candidate, form=replace(candidate.form, webs=webs)), materials

    return put


KIND = SurfaceKind()
