"""Decisions: made with a frozen copy of inputs and results, compared with the present state, withdrawn with a
reason."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping

import msgspec

from omakase.core.materials.material import Material
from omakase.core.quantities import QUANTITIES
from omakase.evaluate.history.changes import brief_changes, candidate_changes, material_changes
from omakase.evaluate.members.sentence import within
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.results.inputs import materials_used
from omakase.evaluate.results.wording import counted, quantity
from omakase.evaluate.vehicle.effects import state_of
from omakase.project.commands import ArrangeDecisions, as_stated, replace
from omakase.project.model import Brief, Candidate, Decision, Project, by_id, new_id
from omakase.units import UnitSystem


class DecisionError(ValueError):
    """The candidate cannot be decided on, or the decision not be withdrawn; the message says why."""


def decide(
    project: Project, brief: Brief, candidate: Candidate, result: CandidateResult, materials: Mapping[str, Material],
    who: str, why: str, on: str,
) -> ArrangeDecisions:  # fmt: skip
    """The command that decides for a candidate; an earlier decision for the brief is withdrawn by it.

    Raises DecisionError where it has no result, or nobody or no reason is named.
    """
    if not result.ok or result.stale:
        raise DecisionError("the candidate has no result yet to decide on")
    for text, what in ((who, "who decides"), (why, "why")):
        if not text.strip():
            raise DecisionError(f"write down {what} first")
    state = state_of(result)
    values = {"mass": result.mass}
    for own in QUANTITIES:
        check = result.worst(own.key)
        if check is not None:
            values[own.key] = check.value
    earlier = [own.revision for own in project.decisions if own.brief == brief.id]
    made = Decision(
        new_id("d", {own.id for own in project.decisions}), brief.id, candidate.id, max(earlier, default=0) + 1, on,
        who.strip(), why.strip(), replace(brief, candidates=()), candidate,
        tuple(as_stated(own) for own in materials_used(candidate, materials)),
        state.verdict == "passes", state.governs, state.reserve, values,
    )  # fmt: skip
    kept = tuple(
        replace(own, withdrawn=on, withdrawn_why=f"R{made.revision} takes its place")
        if own.brief == brief.id and not own.withdrawn
        else own
        for own in project.decisions
    )
    return ArrangeDecisions(project.decisions, (*kept, made), f"decide for {candidate.name or candidate.id}")


def withdraw(project: Project, decision: Decision, why: str, on: str) -> ArrangeDecisions:
    """The command that withdraws a decision.  Raises DecisionError without a reason, or where it does not stand."""
    if decision.withdrawn:
        raise DecisionError(f"it was withdrawn on {decision.withdrawn}")
    if not why.strip():
        raise DecisionError("write down why it is withdrawn first")
    changed = replace(decision, withdrawn=on, withdrawn_why=why.strip())
    new = tuple(changed if own.id == decision.id else own for own in project.decisions)
    return ArrangeDecisions(project.decisions, new, f"withdraw R{decision.revision}")


def standing(project: Project, brief_id: str) -> Decision | None:
    """The decision for a brief that is not withdrawn."""
    return next((own for own in project.decisions if own.brief == brief_id and not own.withdrawn), None)


class Since(msgspec.Struct, frozen=True):
    """What changed since a decision.  ``gone`` : why it cannot be compared with anything any more."""

    changes: tuple[str, ...] = ()
    gone: str = ""


def since(project: Project, decision: Decision, materials: Mapping[str, Material]) -> Since:
    """What differs in the brief, the candidate and its materials."""
    brief = by_id(project.briefs, decision.brief)
    if brief is None:
        return Since(gone="its brief was removed")
    candidate = by_id(brief.candidates, decision.candidate)
    if candidate is None:
        return Since(gone="its candidate was removed")
    then = {own.id: own for own in decision.materials}
    now = {name: materials[name] for name in then if name in materials}
    units = project.units
    listed = brief_changes(decision.given, brief, units)
    listed += candidate_changes(brief, decision.chosen, candidate, units)
    listed += material_changes(then, now)
    return Since(tuple(listed))


def as_decided(decision: Decision) -> Brief:
    """The brief with its one candidate as they were when it was decided."""
    return replace(decision.given, candidates=(decision.chosen,), baseline="")


def standing_text(decision: Decision, found: Since, result: CandidateResult | None) -> str:
    """One line for a window: what was decided, whether it changed since, and whether it still holds."""
    text = f"Decided R{decision.revision}: {decision.chosen.name or decision.candidate}"
    if found.gone:
        return f"{text}; since then {found.gone}."
    if not found.changes:
        return f"{text}, unchanged."
    count = len(found.changes)
    text += f". Changed since: {found.changes[0]}" + (f" and {count - 1} more" if count > 1 else "") + "."
    if result is None or not result.ok or result.stale:
        return text
    if result.passes:
        return f"{text} It still passes." if decision.passes else f"{text} It passes now."
    return f"{text} It no longer passes." if decision.passes else f"{text} It does not pass."


def result_text(decision: Decision, units: UnitSystem) -> str:
    """What it came to when it was decided: mass, verdict and what governed."""
    verdict = "passed" if decision.passes else "did not pass"
    governed = f", {within(decision.governs)} governed" if decision.governs else ""
    reserve = f" at {decision.reserve:.2f} times what was required" if decision.reserve is not None else ""
    return f"{quantity(decision.values.get('mass', 0.0), 'mass', units)}, {verdict}{governed}{reserve}"


def log(project: Project) -> list[tuple[str, str, str]]:
    """(day, what was done, about what) of everything that has a day, the newest first."""
    names = {brief.id: brief.name for brief in project.briefs}
    entries = []
    for own in project.decisions:
        about = names.get(own.brief, own.given.name)
        entries.append((own.on, f"decided R{own.revision}: {own.chosen.name}, {own.who}: {own.why}", about))
        if own.withdrawn:
            entries.append((own.withdrawn, f"withdrawn R{own.revision}: {own.withdrawn_why}", about))
    for series in project.series:
        if series.prediction is not None and series.prediction.on:
            entries.append((series.prediction.on, f"predicted: {series.name}", names.get(series.brief, "")))
        for what in ("weighed", "tested"):
            days = Counter(getattr(specimen, what) for specimen in series.specimens)
            entries += [
                (day, f"{what}: {counted(count, 'specimen')} of {series.name}", names.get(series.brief, ""))
                for day, count in sorted(days.items())
                if day
            ]
    for entry in project.acceptances:
        if entry.on:
            entries.append((entry.on, f"accepted: {entry.name}", f"{entry.material}, {entry.key}"))
    for brief in project.briefs:
        for candidate in brief.candidates:
            entries += [
                (own.on, f"lives with '{own.rule.replace('_', ' ')}': {own.reason}", f"{brief.name}, {candidate.name}")
                for own in candidate.accepted
                if own.on
            ]
    return [entry for _, entry in sorted(enumerate(entries), key=lambda own: (own[1][0], own[0]), reverse=True)]
