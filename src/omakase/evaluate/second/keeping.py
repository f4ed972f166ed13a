"""Second opinions kept in the project: of which state they are, and whether that is the present one."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

import msgspec

from omakase.core.materials.material import Material
from omakase.evaluate.results.inputs import materials_used
from omakase.evaluate.second.comparing import Line
from omakase.project.commands import ArrangeOpinions, as_stated, replace
from omakase.project.disk import sha256
from omakase.project.model import Brief, Candidate, Limits, Opinion, OpinionLine, Project, find_brief, new_id

DIGITS = 32


def digest(brief: Brief, candidate: Candidate, materials: Mapping[str, Material]) -> str:
    """Tells a state of what a solver was asked from all others: member, loads, surroundings, candidate and materials.
    Names and limits do not matter, nor do digits beyond the sixth: machines differ in the last ones."""
    asked = replace(brief, name="", candidates=(), baseline="", limits=Limits())
    made = replace(candidate, name="", note="")
    used = [as_stated(own) for own in materials_used(candidate, materials)]
    plain = _rounded(msgspec.to_builtins((asked, made, used), enc_hook=float))
    return sha256(msgspec.json.encode(plain))[:DIGITS]


def _rounded(value: Any) -> Any:
    if isinstance(value, float):
        return float(f"{value:.6g}")
    if isinstance(value, dict):
        return {key: _rounded(own) for key, own in value.items()}
    return [_rounded(own) for own in value] if isinstance(value, list | tuple) else value


def kept(project: Project, brief: Brief, candidate: Candidate, materials: Mapping[str, Material]) -> Opinion | None:
    """What was said of a candidate as it is now; None where nothing was, or only of another state."""
    own = of_candidate(project, brief.id, candidate.id)
    return own if own is not None and own.of == digest(brief, candidate, materials) else None


def of_candidate(project: Project, brief_id: str, candidate_id: str) -> Opinion | None:
    """What was said of a candidate in any state."""
    found = (own for own in project.opinions if (own.brief, own.candidate) == (brief_id, candidate_id))
    return next(found, None)


def lines_of(opinion: Opinion | None) -> tuple[Line, ...]:
    """Its lines, none of none."""
    lines = () if opinion is None else opinion.lines
    return tuple(Line(own.what, own.dimension, own.program, own.solver, own.mesh) for own in lines)


def keep(
    project: Project, brief: Brief, candidate: Candidate, materials: Mapping[str, Material], lines: tuple[Line, ...],
    on: str,
) -> ArrangeOpinions:  # fmt: skip
    """The command that keeps what was said, in the place of what was said before; what is about candidates that are
    gone goes too."""
    rows = tuple(
        OpinionLine(own.what, own.dimension, float(own.program), float(own.solver), _plain(own.mesh)) for own in lines
    )
    made = Opinion(
        new_id("o", {own.id for own in project.opinions}), brief.id, candidate.id, on,
        digest(brief, candidate, materials), rows,
    )  # fmt: skip
    others = tuple(own for own in _others(project, brief.id, candidate.id) if _is_there(project, own))
    return ArrangeOpinions(project.opinions, (*others, made), f"keep the second opinion on {_name(candidate)}")


def drop(project: Project, brief: Brief, candidate: Candidate) -> ArrangeOpinions:
    """The command that keeps it no longer."""
    others = _others(project, brief.id, candidate.id)
    return ArrangeOpinions(project.opinions, others, f"drop the second opinion on {_name(candidate)}")


def _others(project: Project, brief_id: str, candidate_id: str) -> tuple[Opinion, ...]:
    return tuple(own for own in project.opinions if (own.brief, own.candidate) != (brief_id, candidate_id))


def _is_there(project: Project, own: Opinion) -> bool:
    try:
        return any(candidate.id == own.candidate for candidate in find_brief(project, own.brief).candidates)
    except KeyError:
        return False


def _plain(value: float | None) -> float | None:
    """A number that a file can hold: not one of NumPy's, and finite."""
    return None if value is None or not math.isfinite(value) else float(value)


def _name(candidate: Candidate) -> str:
    return candidate.name or candidate.id
