"""A measured part compared with a brief, and the sentence in which its measurements are edited."""

from __future__ import annotations

import math
from collections.abc import Mapping

from omakase.core.errors import MemberError
from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material
from omakase.core.members.field import Response
from omakase.core.members.measured import MeasuredCase, MeasuredResponse
from omakase.evaluate.members.loading import total_force
from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.members.sentence import Act, Number, Part, Sentence, Words, with_value
from omakase.project import translate
from omakase.project.model import Brief, Candidate
from omakase.project.panels import PanelMember
from omakase.project.validation import candidate_problems


def measured_response(brief: Brief, candidate: Candidate) -> tuple[Stack, Response]:
    """Raises MemberError with everything that is wrong with the measurements."""
    own = candidate.measured
    assert own is not None
    for _, text in candidate_problems(brief, candidate, {}):
        raise MemberError(text)
    area = translate.panel(brief).plan_area if isinstance(brief.member, PanelMember) else math.nan
    cases = [
        MeasuredCase(case.name or case.id, case.id, abs(total_force(brief, case))) for case in brief.load_cases
    ]  # fmt: skip
    response = MeasuredResponse(own.mass, own.thickness, area, cases, own.stiffness, own.breaking)
    return response.stack, response


def measured_sentence(candidate: Candidate) -> Sentence:
    """The measurements; paths from the candidate."""
    own = candidate.measured
    assert own is not None
    parts: list[Part] = [
        Words("Measured, its layup is unknown: it weighs"),
        Number(("measured", "mass"), "mass", "Measured mass", "measured mass"),
        Words(", is"), Number(("measured", "thickness"), "length", "Measured thickness", "measured thickness"),
        Words("thick"),
    ]  # fmt: skip
    for field, dimension, before, after, what, start in (
        ("stiffness", "line_load", "; under its load it gives", "of force per deflection", "stiffness", 1e5),
        ("breaking", "force", "; it broke at", "", "breaking load", 1000.0),
    ):
        path = ("measured", field)
        if getattr(own, field) is None:
            parts.append(_act(f"+ {what}", f"Add its measured {what}", path, start))
            continue
        parts += [Words(before), Number(path, dimension, f"Measured {what}", f"measured {what}")]
        parts += [Words(after)] if after else []
        parts.append(_act("×", f"Remove its measured {what}", path, None))
    return (*parts, Words("."))


def _act(text: str, what: str, path: tuple[str, str], value: float | None) -> Act:
    return Act(text, what, what.lower(), lambda candidate: with_value(candidate, path, value))


def form_sentence(brief: Brief, candidate: Candidate, materials: Mapping[str, Material]) -> Sentence:
    """What a candidate chooses beside its layers, or what was measured of it."""
    if candidate.measured is not None:
        return measured_sentence(candidate)
    return kind_of(brief).form_sentence(brief, candidate, materials)
