"""Which candidate a record is of: the one decided on, or the one that is looked at."""

from __future__ import annotations

from collections.abc import Mapping

import msgspec

from omakase.core.checks.result import CheckResult
from omakase.core.materials.material import Material
from omakase.evaluate.history.decisions import Since, since, standing
from omakase.evaluate.members.drawing import Drawing
from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.members.sentence import Number, value_at
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.results.inputs import materials_used
from omakase.evaluate.results.lineup import LineUp
from omakase.evaluate.vehicle.fields import numbers_of
from omakase.project.model import Brief, Decision, Project
from omakase.project.vehicle import Sheet, read_path
from omakase.units.formula import names_in


class Subject(msgspec.Struct, frozen=True, eq=False):
    """A result among its line-up, what was decided, and what changed since."""

    result: CandidateResult
    decision: Decision | None
    changed: Since | None
    materials: tuple[Material, ...]
    checks: tuple[CheckResult, ...]


def subject(
    project: Project, line_up: LineUp, materials: Mapping[str, Material], candidate: str = ""
) -> Subject | None:  # fmt: skip
    """The candidate that stands decided, else ``candidate``, else the lightest that passes; None where none can be
    computed.  ``checks`` : of each check, wall and detail the load case that is worst."""
    decision = standing(project, line_up.brief.id)
    results = {own.candidate.id: own for own in line_up.results if own.ok}
    passing = sorted((own for own in results.values() if own.passes), key=lambda own: own.mass)
    wanted = candidate or (decision.candidate if decision is not None else "")
    result = results.get(wanted) or next(iter(passing or results.values()), None)
    if result is None:
        return None
    if decision is not None and decision.candidate != result.candidate.id:
        decision = None
    changed = since(project, decision, materials) if decision is not None else None
    used = tuple(materials_used(result.candidate, materials))
    return Subject(result, decision, changed, used, worst_cases(result))


def worst_cases(result: CandidateResult) -> tuple[CheckResult, ...]:
    """Of each check, wall and detail the load case with the least reserve, those first that have least."""
    kept: dict[tuple[str, str, str], CheckResult] = {}
    for check in result.checks:  # sorted, the worst first
        kept.setdefault((check.check, check.wall, check.detail), check)
    return tuple(kept.values())


def quantities_used(brief: Brief) -> list[tuple[str, str, Number, float]]:
    """(what in the brief, its formula, the number, its value in SI) of each number that follows the vehicle."""
    numbers = numbers_of(brief)
    used = []
    for own in brief.formulas:
        number = numbers.get(read_path(own.path))
        if number is not None:
            used.append((number.name, own.text, number, float(value_at(brief, number.path))))
    return used


def quantity_names(project: Project, brief: Brief) -> list[str]:
    """The vehicle's quantities that the brief's formulas rest on, as the sheet orders them."""
    wanted = {name for own in brief.formulas for name in names_in(own.text)}
    texts = {own.name: own.text for own in project.quantities}
    while True:
        more = {name for own in wanted if own in texts for name in names_in(texts[own])} - wanted
        if not more:
            return [own.name for own in project.quantities if own.name in wanted]
        wanted |= more


def sheet_of(project: Project) -> Sheet:
    """The vehicle's sheet worked out."""
    return Sheet(project.quantities)


def plan_of(project: Project, brief: Brief, case: int) -> Drawing | None:
    """The drawing of a member with one load case; None for panels, which are drawn with their deflection."""
    cases = brief.load_cases
    return kind_of(brief).plan(brief, cases[case] if case < len(cases) else None, project.units)
