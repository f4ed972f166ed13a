"""From the records of ribs to the core's, and what is wrong with them."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from itertools import pairwise

import numpy as np

from omakase.core.errors import MemberError, OmakaseError, both_units
from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material
from omakase.core.members import span_loads as core
from omakase.core.members.rib import Hole, Rib, RibCase
from omakase.core.members.spar_given import Spar, SparShape
from omakase.core.members.strip import WidthLaw
from omakase.core.sections.aerofoils import digits, half_thickness
from omakase.core.sections.outlines import OUTLINE_WALLS
from omakase.project import edits, model, span_translate, spans, translate, wings

SKIN = "skin"
DEPTHS = 9  # places between which an aerofoil's depth is taken as straight


def given(brief: model.Brief) -> wings.RibMember:
    """The rib of a brief.  Raises MemberError for another kind."""
    if not isinstance(brief.member, wings.RibMember):
        raise MemberError("this brief is not about a rib")
    return brief.member


def depth(member: wings.RibMember) -> WidthLaw:
    """Depth over the outside along the rib, m.  Raises MemberError."""
    if member.depth:
        return span_translate.law(member.depth)
    if not member.chord > 0.0:
        raise MemberError("an aerofoil needs a chord")
    ratio = digits(member.profile)[2]
    x = np.linspace(0.0, member.length, DEPTHS)
    share = (member.ahead + x) / member.chord
    if not (share[0] >= 0.005 and share[-1] <= 0.98):
        raise MemberError(
            f"in a chord of {both_units(member.chord)} the rib reaches from {share[0]:.0%} to {share[-1]:.0%}: it must "
            "lie between 0.5 % and 98 %, where there is room for one"
        )
    deep = 2.0 * half_thickness(share, ratio) * member.chord
    return WidthLaw(tuple((float(a), float(b)) for a, b in zip(x, deep, strict=True)))


def supports(member: wings.RibMember) -> tuple[core.Support, ...]:
    """Its spars; a single one under a nose that takes the torque is held until that is known.  Raises MemberError."""
    count = len(member.supports)
    if member.cell == "box" and count != 2:
        raise MemberError("a box between two spars needs two of them")
    if member.cell != "none" and count > 2:
        raise MemberError("torque is shared out between a cell and one or two spars, not more")
    held = tuple(core.Support(own.x, own.held, own.along) for own in member.supports)
    if member.cell == "none":
        return held
    if any(own.held == "clamped" for own in held):
        raise MemberError("where a cell of skin takes the torque, spars hold the rib without clamping it")
    return tuple(core.Support(own.x, "clamped" if count == 1 else "simple", own.along) for own in held)


def cell(member: wings.RibMember) -> tuple[float, float] | None:
    """From where to where along the rib the cell of skin runs, m.  Raises MemberError."""
    places = sorted(own.x for own in member.supports)
    if member.cell == "none" or not places:
        return None
    if member.cell == "box":
        return places[0], places[-1]
    if not places[0] > 0.02 * member.length:
        raise MemberError("the nose in front of the first spar has no room: the rib begins at that spar")
    return 0.0, places[0]


def bay_width(member: wings.RibMember) -> float:
    """m of skin between its spars, of a single spar the longer part of the rib."""
    places = sorted(own.x for own in member.supports)
    gaps = [b - a for a, b in pairwise(places)]
    return max(gaps) if gaps else max(places[0], member.length - places[0]) if places else member.length


def rib(brief: model.Brief, candidate: model.Candidate) -> Rib:
    """The core's rib.  Raises MemberError."""
    form, member = candidate.form, given(brief)
    if not isinstance(form, wings.RibForm):
        raise MemberError("this candidate was not made for a rib: start a new one in this brief")
    masses = tuple(core.CarriedMass(entry.mass, entry.x) for entry in member.carried)
    span = core.Spanned(member.length, supports(member), masses)
    shape = SparShape(form.outline, WidthLaw(((0.0, form.width),)), depth(member), form.radius)
    holes = tuple(Hole(hole.x, hole.diameter) for hole in form.holes)
    return Rib(Spar(span, shape), form.pitch, bay_width(member), cell(member), member.share, holes, form.lip, form.bond,
               form.bond_strength, form.bond_tension)  # fmt: skip


def walls(form: wings.RibForm) -> tuple[str, ...]:
    """Names of the walls of its own section; the skin is none of them."""
    return OUTLINE_WALLS[form.outline]


def skin(
    brief: model.Brief, candidate: model.Candidate, materials: Mapping[str, Material]
) -> tuple[Stack | None, tuple[int, ...]]:
    """The skin's stack, None without layers, and which of the candidate's layers these are.  Raises LayupError."""
    rows = edits.rows_of_wall(candidate, SKIN)
    if not rows:
        return None, ()
    if any(candidate.layers[row].zone for row in rows):
        raise MemberError("the skin between two ribs has no zones of the rib")
    return translate.stack(edits.of_wall(candidate, SKIN), materials, brief.surroundings), rows


def rib_case(case: model.LoadCase, member: wings.RibMember, pitch: float) -> RibCase:
    """The core's load case of ribs ``pitch`` m apart.  Raises MemberError."""
    named = f"load case '{case.name or case.id}'"
    rest, loads = [], []
    low, high = (0.0, member.length) if len(member.supports) < 2 else _outer(member)
    pressed = sheared = bent = pressure = 0.0
    for load in edits.acting(case).loads:
        if isinstance(load, wings.SkinLoad):
            if not all(math.isfinite(value) for value in (load.pressed, load.shear, load.radius)):
                raise MemberError(f"{named}: a load is not a finite number")
            pressed, sheared = pressed + load.pressed, sheared + load.shear
            bent += 1.0 / load.radius if load.radius else 0.0
        elif isinstance(load, wings.AirLoad | wings.AirTable):
            pieces = _air(load, named)
            loads.append(
                core.Distribution(tuple(core.LineLoad(-a * pitch, -b * pitch, x0, x1) for x0, x1, a, b in pieces))
            )
            pressure += _mean(pieces, low, high)
        elif isinstance(load, spans.TorqueLoad | spans.SideLoad | spans.DropLoad | spans.LiftLoad | spans.TableLoad):
            raise MemberError(f"{named}: a rib cannot carry such a load")
        else:
            rest.append(load)
    plain = span_translate.span_case(model.LoadCase(case.id, case.name, tuple(rest)))
    return RibCase(plain.name, (*loads, *plain.loads), plain.gravity, plain.id, pressure, pressed, sheared, bent)


def _outer(member: wings.RibMember) -> tuple[float, float]:
    places = sorted(own.x for own in member.supports)
    return max(pairwise(places), key=lambda pair: pair[1] - pair[0])


Pieces = tuple[tuple[float, float, float, float], ...]  # (from, to, there, there), Pa


def _air(load: wings.AirLoad | wings.AirTable, named: str) -> Pieces:
    """The lift per area along the rib in straight pieces.  Raises MemberError."""
    if isinstance(load, wings.AirLoad):
        if not load.low < load.high:
            raise MemberError(f"{named}: air must press on some of the rib: it ends further back than it begins")
        mean = load.lift / (load.high - load.low)
        ends = (mean, mean) if load.shape == "even" else (2.0 * mean, 0.0)
        return ((load.low, load.high, *ends),)
    if len(load.stations) < 2:
        raise MemberError(f"{named}: a table of air loads needs two stations or more")
    for i, (one, two) in enumerate(pairwise(load.stations)):
        if not one.x < two.x:
            raise MemberError(f"{named}: station {i + 2} must lie further back than station {i + 1}")
    return tuple((one.x, two.x, one.load, two.load) for one, two in pairwise(load.stations))


def _mean(pieces: Pieces, low: float, high: float) -> float:
    """Mean lift per area between two places, Pa."""
    total = 0.0
    for x0, x1, a, b in pieces:
        start, end = max(x0, low), min(x1, high)
        if start < end:
            slope = (b - a) / (x1 - x0)
            total += (end - start) * (a + slope * ((start + end) / 2.0 - x0))
    return total / (high - low)


def rib_problems(brief: model.Brief) -> Iterator[tuple[str, str]]:
    """(field, message) of what is wrong with a rib and its loads."""
    member = given(brief)
    try:
        depth(member)
        core.Spanned(member.length, supports(member))
        cell(member)
        if not 0.0 <= member.share <= 1.0:
            raise MemberError("the front spar carries between none and all of the lift")
    except OmakaseError as error:
        yield "member", str(error)
        return
    for i, case in enumerate(brief.load_cases):
        try:
            rib_case(case, member, 1.0).check_on(member.length)
        except OmakaseError as error:
            yield f"load_cases[{i}]", str(error)


def rib_form_problems(
    brief: model.Brief, candidate: model.Candidate, materials: Mapping[str, Material]
) -> Iterator[tuple[str, str]]:
    """(place below the candidate, message) of what is wrong with its form, walls and skin."""
    yield from span_translate.zone_problems(candidate, given(brief).length)
    try:
        depth(given(brief))
    except OmakaseError:
        return  # told at the brief
    try:
        member = rib(brief, candidate)
    except OmakaseError as error:
        yield ".form", str(error)
        return
    yield from span_translate.walled_problems(
        brief, candidate, materials, member.beam, member.beam.shape.walls, (SKIN,)
    )
    try:
        skin(brief, candidate, materials)
    except OmakaseError as error:
        yield ".layers", f"{SKIN}, {error}"
