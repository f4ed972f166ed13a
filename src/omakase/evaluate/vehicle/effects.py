"""What a change of the vehicle's quantities does to every candidate of every brief: before and after."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from typing import Literal

import msgspec

from omakase.core.materials.material import Material
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.results.engine import Evaluator
from omakase.evaluate.results.inputs import materials_used, result_inputs
from omakase.evaluate.results.relative import resolved
from omakase.evaluate.sizing.workers import Workers
from omakase.project.library import materials_of
from omakase.project.model import Brief, Candidate, Project, find_candidate

ROOM = 1.15  # times what is required, from which a candidate is said to have room
SAME = 0.005  # relative change of the least reserve that is reported

Verdict = Literal["passes", "fails", "error"]
Turn = Literal["lost", "gained", "room", "less", "more", "same", "error"]
ORDER: tuple[Turn, ...] = ("lost", "error", "gained", "room", "less", "more", "same")


class State(msgspec.Struct, frozen=True):
    """How a candidate stands: its verdict, what governs and how many times what is required it has, or why nothing can
    be said."""

    verdict: Verdict
    governs: str = ""
    reserve: float | None = None
    error: str = ""

    @property
    def has_room(self) -> bool:
        return self.verdict == "passes" and self.reserve is not None and self.reserve >= ROOM


class Effect(msgspec.Struct, frozen=True):
    """A candidate before and after."""

    brief: str
    candidate: str
    brief_name: str
    candidate_name: str
    before: State
    after: State

    @property
    def turn(self) -> Turn:
        """What the change did."""
        before, after = self.before, self.after
        if after.verdict == "error":
            return "error"
        if before.verdict == "passes" and after.verdict == "fails":
            return "lost"
        if before.verdict != "passes" and after.verdict == "passes":
            return "gained"
        if before.reserve is None or after.reserve is None:
            return "same"
        change = after.reserve / before.reserve - 1.0
        if abs(change) < SAME:
            return "same"
        if after.has_room and not before.has_room:
            return "room"
        return "less" if change < 0.0 else "more"


Task = tuple[Brief, str]  # a brief as its candidates are judged by it, and the id of one


def state_of(result: CandidateResult) -> State:
    """How a judged candidate stands."""
    if not result.ok:
        return State("error", error=result.error)
    governing = result.governing
    if governing is None:
        return State("passes")
    reserve = governing.reserve_factor / governing.required if governing.required > 0.0 else governing.reserve_factor
    return State("passes" if result.passes else "fails", governing.full_title, reserve)


def changed_candidates(before: Project, after: Project) -> list[tuple[Brief, Brief, Candidate]]:
    """(brief before, brief after, candidate after) of all whose results may differ, without new and removed ones."""
    old = {brief.id: brief for brief in before.briefs}
    listed = []
    one, two = (
        ({}, {})
        if before.materials == after.materials and before.acceptances == after.acceptances
        else (materials_of(before), materials_of(after))
    )
    for brief in after.briefs:
        was = old.get(brief.id)
        if was is None or (was is brief and not two):
            continue
        candidates = {candidate.id: candidate for candidate in was.candidates}
        for candidate in brief.candidates:
            other = candidates.get(candidate.id)
            if other is None:
                continue
            same = result_inputs(was, other) == result_inputs(brief, candidate)
            if not same or _encoded(candidate, one) != _encoded(candidate, two):
                listed.append((was, brief, candidate))
    return listed


def _encoded(candidate: Candidate, materials: Mapping[str, Material]) -> bytes:
    """The materials of a candidate as they would be written: records of two files are never the same ones."""
    return msgspec.json.encode(materials_used(candidate, materials))


def effects(
    before: Project,
    after: Project,
    evaluator: Evaluator,
    workers: Workers | None = None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Iterator[tuple[Effect | None, int, int]]:
    """(the next effect, or None while there is none; how many are done; of how many)."""
    listed = changed_candidates(before, after)
    materials = materials_of(before), materials_of(after)
    resolve: dict[tuple[int, str], Brief] = {}
    tasks: list[tuple[int, Task]] = []
    for was, brief, candidate in listed:
        for side, own in ((0, was), (1, brief)):
            key = side, own.id
            if key not in resolve:
                resolve[key] = resolved(own, materials[side], evaluator)
            tasks.append((side, (resolve[key], candidate.id)))
    states: dict[int, State] = {}
    yield None, 0, len(listed)
    done = 0
    for k, state in _states(tasks, materials, evaluator, workers, cancelled):
        states[k] = state
        if k ^ 1 in states:
            _, brief, candidate = listed[k // 2]
            done += 1
            yield (
                Effect(brief.id, candidate.id, brief.name, candidate.name, states[k & ~1], states[k | 1]),
                done,
                len(listed),
            )


Common = tuple[Mapping[str, Material], Mapping[str, Material]]


def _states(
    tasks: list[tuple[int, Task]], materials: Common, evaluator: Evaluator, workers: Workers | None,
    cancelled: Callable[[], bool],
) -> Iterator[tuple[int, State]]:  # fmt: skip
    if workers is None:
        for k, task in enumerate(tasks):
            if cancelled():
                return
            yield k, _state(evaluator, materials, task)
        return
    yield from workers.run(_state, materials, tasks, cancelled)


def _state(evaluator: Evaluator, materials: Common, task: tuple[int, Task]) -> State:
    side, (brief, candidate) = task
    return state_of(evaluator.evaluate(brief, find_candidate(brief, candidate), materials[side]))
