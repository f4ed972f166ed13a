"""A response judged: its checks and details; and strengths of what moves far, found as factors on the load."""

from __future__ import annotations

import math
from collections import deque
from collections.abc import Mapping

from omakase.core.checks.registry import all_checks, run_all, worst_first
from omakase.core.checks.result import CheckResult, Limits, Settings
from omakase.core.errors import OmakaseError
from omakase.core.kept import released_with_it
from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material
from omakase.core.members.field import Response
from omakase.core.members.panel import PanelResponse
from omakase.core.members.panel_beyond import MOST_LEVEL
from omakase.core.members.panel_given import FULL, Accuracy
from omakase.evaluate.details.judging import judge_details
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.project import translate
from omakase.project.detail_translate import Cases
from omakase.project.model import Brief, Candidate

# reserve factors of what moves far are found on the load: those so many times the least; to this share, in so many
# steps, between these times ultimate load; a reserve over its level falls at least so steeply with the level
WEAKEST, ON_LOAD, MOST_LEVELS, LEAST_LEVEL, STEEP = 1.5, 0.01, 5, 0.2, -0.2
# walls judged last, of candidates with details: edits of a detail, and searches for one that passes, leave them as they
# are; a result holds its response, so that nothing is freed but by the bound
_judged_walls: deque[tuple[Response, Settings, Limits, list[CheckResult]]] = deque(maxlen=8)
released_with_it(_judged_walls.clear)


def _walls_judged(brief: Brief, candidate: Candidate, response: Response) -> list[CheckResult]:
    """All checks of a response, kept."""
    asked = translate.settings(brief, candidate), translate.limits(brief)
    for kept, *known, checks in tuple(_judged_walls):
        if kept is response and known == [*asked]:
            return checks
    made = run_all(response, *asked)
    _judged_walls.append((response, *asked, made))
    return made


def judge(
    brief: Brief, candidate: Candidate, stack: Stack, response: Response, accuracy: Accuracy,
    materials: Mapping[str, Material], taken: Mapping[str, Cases] | None = None,
) -> CandidateResult:  # fmt: skip
    """All checks of a candidate whose response is known, and of its details; ``taken`` : their loads by the last full
    response, of a quick one."""
    if candidate.details and candidate.measured is None:
        checks = _walls_judged(brief, candidate, response)
    else:
        checks = run_all(response, translate.settings(brief, candidate), translate.limits(brief))
    last = None if accuracy == FULL else taken or {}
    judged = judge_details(brief, candidate, stack, response, materials, last)
    if judged.checks:
        checks = worst_first((*checks, *judged.checks))
    return CandidateResult(candidate, "", stack, response, tuple(checks), accuracy, brief, candidate, judged.details)


def on_the_load(
    brief: Brief, candidate: Candidate, result: CandidateResult, materials: Mapping[str, Material]
) -> PanelResponse:
    """The response whose weakest cases, where they move so far that strains do not follow their load, have strains
    solved where the first strength is reached: there reserve factors are factors on the load.

    The same response where nothing moves so far, or where it holds far more or far less than it must.
    """
    response = result.response
    assert isinstance(response, PanelResponse)
    reserves = {}
    for case in response.cases:
        least = _least_strength(result, case.case.key) if case.again is not None else None
        if least is not None:
            reserves[case.case.key] = least.reserve_factor
    for key, reserve in reserves.items():
        if reserve <= MOST_LEVEL and reserve <= WEAKEST * min(reserves.values()):
            result = _on_the_load(brief, candidate, result, key, reserve, materials)
    assert isinstance(result.response, PanelResponse)
    return result.response


def _on_the_load(
    brief: Brief, candidate: Candidate, result: CandidateResult, key: str, reserve: float,
    materials: Mapping[str, Material],
) -> CandidateResult:  # fmt: skip
    """``on_the_load`` of one case, whose least reserve is the factor ``reserve`` at ultimate load; solved at the
    highest level where it holds that, the result as it was where no level is found."""
    present = result
    response = result.response
    assert isinstance(response, PanelResponse)
    own = next(case.again for case in response.cases if case.case.key == key)
    assert own is not None
    assert result.stack is not None
    ultimate = translate.settings(brief).ultimate_factor
    level = 1.0 / ultimate if ultimate > 1.0 else reserve  # its state at limit load is known
    x, y = 0.0, math.log(max(reserve, 1e-9))  # logarithms of the level and of reserve over level
    for _ in range(MOST_LEVELS):
        if abs(y) < ON_LOAD:
            return result
        try:
            response = response.with_answer(own(level))
        except OmakaseError:
            return present
        result = judge(brief, candidate, result.stack, response, result.accuracy, materials)
        found = _least_strength(result, key)
        if found is None:
            return present
        before, x, y = (x, y), math.log(level), math.log(max(found.reserve_factor, 1e-9) / level)
        slope = (y - before[1]) / (x - before[0]) if x != before[0] else -1.0
        solved, level = level, min(max(math.exp(x - y / min(slope, STEEP)), LEAST_LEVEL), MOST_LEVEL)
        if level == solved:
            return result if level == MOST_LEVEL else present
    return result if abs(y) < ON_LOAD else present


def _least_strength(result: CandidateResult, case: str) -> CheckResult | None:
    """The strength that is reached first under a load case."""
    known = all_checks()
    own = [
        check
        for check in result.checks
        if check.case_id == case and check.check in known and known[check.check].per == "wall"
    ]
    return min(own, key=lambda check: check.reserve_factor, default=None)
