"""From the records of brackets to the core's, and what is wrong with them."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping

from omakase.core.errors import MemberError, OmakaseError
from omakase.core.materials.material import Material
from omakase.core.members.bracket import Bracket, BracketCase, BracketResponse, TipForce
from omakase.project import edits, model, panels, spans, translate


def bracket(brief: model.Brief, candidate: model.Candidate) -> Bracket:
    """The core's bracket.  Raises MemberError."""
    form, member = candidate.form, brief.member
    if not isinstance(member, spans.BracketMember) or not isinstance(form, spans.BracketForm):
        raise MemberError("this candidate was not made for a bracket: start a new one in this brief")
    if candidate.zones or any(layer.zone for layer in candidate.layers):
        raise MemberError("a bracket has no zones: its layers run all along")
    if any(layer.wall for layer in candidate.layers):
        raise MemberError("a bracket has one wall")
    return Bracket(member.arm, member.reach, form.radius, form.width, member.angle)


def bracket_case(case: model.LoadCase) -> BracketCase:
    """The core's load case.  Raises MemberError for a load that a bracket does not take."""
    loads, weight = [], 0.0
    for load in edits.acting(case).loads:
        if isinstance(load, panels.OwnWeight):
            weight += load.g
            continue
        if not isinstance(load, spans.TipLoad):
            raise MemberError(f"load case '{case.name or case.id}': a bracket takes forces and moments at its end only")
        if not all(math.isfinite(value) for value in (load.opening, load.pull, load.moment)):
            raise MemberError(f"load case '{case.name or case.id}': a load is not a finite number")
        loads.append(TipForce(load.opening, load.pull, load.moment))
    return BracketCase(case.name or case.id, tuple(loads), case.id, weight)


def bracket_problems(brief: model.Brief) -> Iterator[tuple[str, str]]:
    """(field, message) of what is wrong with a bracket and its loads."""
    member = brief.member
    assert isinstance(member, spans.BracketMember)
    try:
        Bracket(member.arm, member.reach, 0.006, 0.04, member.angle)
    except MemberError as error:
        yield "member", str(error)
    for i, case in enumerate(brief.load_cases):
        try:
            bracket_case(case)
        except OmakaseError as error:
            yield f"load_cases[{i}]", str(error)


def bracket_form_problems(
    brief: model.Brief, candidate: model.Candidate, materials: Mapping[str, Material]
) -> Iterator[tuple[str, str]]:
    """(place below the candidate, message) of what is wrong with its form, and a core that the bend would crush."""
    try:
        member = bracket(brief, candidate)
    except OmakaseError as error:
        yield ".form", str(error)
        return
    try:
        stack = translate.stack(candidate, materials, model.Surroundings())
    except OmakaseError:
        return  # told layer by layer
    try:
        BracketResponse(member, stack, ())
    except OmakaseError as error:
        yield ".layers", str(error)
