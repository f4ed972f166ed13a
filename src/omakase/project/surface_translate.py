"""From the records of lifting surfaces to the core's, and what is wrong with them."""

from __future__ import annotations

import math
import re
from collections.abc import Iterator, Mapping
from functools import lru_cache

import msgspec
import numpy as np

from omakase.core.errors import MemberError, OmakaseError
from omakase.core.materials.material import Material
from omakase.core.members import span_loads as core
from omakase.core.members.spar_given import Spar, SparShape
from omakase.core.members.strip import WidthLaw
from omakase.core.members.surface import Planform, Surface
from omakase.core.sections.aerofoils import four_digit
from omakase.project import edits, model, span_translate, spans, wings

HEIGHTS = 9  # places between which a thickness that changes along the span is taken as straight
TURNS = 12  # pieces of the turning of the air, which goes with the square of the chord
SIX_SERIES = re.compile(r"\s*6\d([-(,A]|\d{3})")


def given(brief: model.Brief) -> wings.SurfaceMember:
    """The surface of a brief.  Raises MemberError for another kind."""
    if not isinstance(brief.member, wings.SurfaceMember):
        raise MemberError("this brief is not about a lifting surface")
    return brief.member


def planform(member: wings.SurfaceMember) -> Planform:
    """The core's planform.  Raises MemberError."""
    stations = tuple((own.x, own.size) for own in member.chord) if member.planform == "stations" else ()
    return Planform(member.planform, member.length, member.root, member.tip, stations, member.sweep)


@lru_cache(maxsize=64)
def as_spar(form: wings.SurfaceForm) -> spans.SparForm:
    """The section as the drawn one of a spar.  Raises MemberError for a profile that no equation gives."""
    if SIX_SERIES.match(form.profile):
        raise MemberError(
            f"'{form.profile[:20]}': profiles of the 6-series have no closed equation, they are computed backward "
            "from a flow: read their coordinates from a file (Ctrl+K, outline)"
        )
    points = form.points
    if form.profile:
        points = tuple(spans.OutlinePoint(y, z) for y, z in four_digit(form.profile, form.cut))
    return spans.SparForm("drawn", (), (spans.Station(0.0, 1.0),), cap=form.cap, points=points, webs=form.webs)


def walls(form: wings.SurfaceForm) -> tuple[str, ...]:
    """Names of its walls.  Raises MemberError."""
    return span_translate.form_walls(as_spar(form))


def surface(brief: model.Brief, candidate: model.Candidate, materials: Mapping[str, Material]) -> Surface:
    """The core's surface with what fills it.  Raises MemberError."""
    shell, form = hollow(brief, candidate), candidate.form
    assert isinstance(form, wings.SurfaceForm)
    if not form.filling:
        return shell
    filling = materials.get(form.filling)
    if filling is None:
        raise MemberError(f"no material is named '{form.filling}' to fill the surface with")
    if filling.kind != "core":
        raise MemberError(f"'{form.filling}' is a {filling.kind}: fill a surface with a core material")
    return msgspec.structs.replace(shell, filling=filling)


def hollow(brief: model.Brief, candidate: model.Candidate) -> Surface:
    """The core's surface, whatever fills it.  Raises MemberError."""
    form, member = candidate.form, given(brief)
    if not isinstance(form, wings.SurfaceForm):
        raise MemberError("this candidate was not made for a lifting surface: start a new one in this brief")
    return _hollow(member, form)


@lru_cache(maxsize=64)
def _hollow(member: wings.SurfaceMember, form: wings.SurfaceForm) -> Surface:
    """Kept, since edits of layers change neither.  Raises MemberError."""
    plan, outline = planform(member), span_translate.drawn(as_spar(form))
    if outline is None:
        raise MemberError("the section has no outline yet: name a 4-digit profile, or read a file of coordinates")
    if not 0.2 <= form.tip_ratio <= 5.0:
        raise MemberError("the thickness over chord changes to 20 % to 500 % of the root's")
    drawn_share = form.cut if form.profile else 1.0
    knots = [x for x, _ in plan.law.points if 0.0 <= x <= member.length]
    x = np.unique(np.concatenate([np.linspace(0.0, member.length, HEIGHTS) if form.tip_ratio != 1.0 else [0.0], knots,
                                  [member.length]]))  # fmt: skip
    chord, ratio = plan.law(x), 1.0 + (form.tip_ratio - 1.0) * x / member.length
    width = _law(x, drawn_share * plan.cosine * chord)
    height = _law(x, outline.aspect * drawn_share * chord * ratio)
    cap = form.cap if form.webs else 0.0
    shape = SparShape("drawn", width, height, cap=cap, drawn=outline)
    first = form.webs[0] if form.webs else 0.5
    beam = Spar(span_translate.spanned(member), shape, 0.0, form.bond if cap else 0.0, form.bond_strength)
    return Surface(beam, plan, None, drawn_share * first)


def _law(x: np.ndarray, sizes: np.ndarray) -> WidthLaw:
    return WidthLaw(tuple((float(a), float(b)) for a, b in zip(x, sizes, strict=True)))


def surface_case(case: model.LoadCase, plan: Planform, reference: float) -> core.SpanCase:
    """The core's load case: lift acts at the quarter chord, other loads as stated from the first web.

    Raises MemberError.
    """
    loads: list[core.SpanLoad] = []
    rest = []
    named = f"load case '{case.name or case.id}'"
    for load in edits.acting(case).loads:
        if isinstance(load, spans.LiftLoad):
            pieces = span_translate.lift(msgspec.structs.replace(load, offset=0.0), plan.law).pieces
            loads.append(core.Distribution(tuple(_at_quarter(piece, plan, reference, load.offset) for piece in pieces)))
        elif isinstance(load, wings.AirTorque):
            if not (math.isfinite(load.coefficient) and math.isfinite(load.pressure)):
                raise MemberError(f"{named}: a load is not a finite number")
            loads.append(_turning(load, plan))
        elif isinstance(load, wings.AirLoad | wings.AirTable | wings.SkinLoad | spans.SideLoad | spans.DropLoad):
            raise MemberError(f"{named}: a lifting surface cannot carry such a load")
        else:
            rest.append(load)
    plain = span_translate.span_case(model.LoadCase(case.id, case.name, tuple(rest)), plan.law)
    return core.SpanCase(plain.name, (*loads, *plain.loads), plain.gravity, plain.id)


def _at_quarter(piece: core.LineLoad, plan: Planform, reference: float, offset: float) -> core.LineLoad:
    """A piece of lift where it acts: the quarter chord in its middle, from the section's reference."""
    chord = float(plan.law(np.array([(piece.low + piece.high) / 2.0]))[0])
    return msgspec.structs.replace(piece, offset=(0.25 - reference) * chord * plan.cosine + offset)


def _turning(load: wings.AirTorque, plan: Planform) -> core.Couples:
    """The turning of the air per length in straight pieces."""
    knots = [x for x, _ in plan.law.points if 0.0 < x < plan.length]
    x = np.unique(np.concatenate([np.linspace(0.0, plan.length, TURNS + 1), knots]))
    values = load.coefficient * load.pressure * plan.law(x) ** 2
    pieces = zip(x[:-1].tolist(), x[1:].tolist(), values[:-1].tolist(), values[1:].tolist(), strict=True)
    return core.Couples(tuple(core.LineLoad(a, b, low, high) for low, high, a, b in pieces), "span")


def surface_problems(brief: model.Brief) -> Iterator[tuple[str, str]]:
    """(field, message) of what is wrong with a lifting surface and its loads."""
    member = given(brief)
    try:
        span_translate.spanned(member)
        plan = planform(member)
    except OmakaseError as error:
        yield "member", str(error)
        return
    for i, case in enumerate(brief.load_cases):
        try:
            surface_case(case, plan, 0.3).check_on(member.length)
        except OmakaseError as error:
            yield f"load_cases[{i}]", str(error)


def surface_form_problems(
    brief: model.Brief, candidate: model.Candidate, materials: Mapping[str, Material]
) -> Iterator[tuple[str, str]]:
    """(place below the candidate, message) of what is wrong with its form and walls."""
    try:
        planform(given(brief))
    except OmakaseError:
        return  # told at the brief
    yield from span_translate.zone_problems(candidate, given(brief).length)
    try:
        member = surface(brief, candidate, materials)
    except OmakaseError as error:
        yield ".form", str(error)
        return
    yield from span_translate.walled_problems(brief, candidate, materials, member.beam, member.beam.shape.walls)
