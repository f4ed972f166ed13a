"""How each check of a candidate's result is worked out."""

from __future__ import annotations

from msgspec.structs import replace

from omakase.core.checks import work_details as _details  # noqa: F401  # all register how checks are worked out
from omakase.core.checks import work_members as _members  # noqa: F401
from omakase.core.checks import work_panels as _panels  # noqa: F401
from omakase.core.checks import work_walls as _walls  # noqa: F401
from omakase.core.checks.registry import contexts_of
from omakase.core.checks.result import CheckResult, Context, DetailContext
from omakase.core.checks.working import Step, working
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.project import translate


def worked_out(result: CandidateResult, check: CheckResult) -> tuple[Step, ...]:
    """The steps of one check of a result; at least its reserve factor, where it has a finite one."""
    if result.brief is None or result.judged is None or result.response is None:
        return working(None, check)
    if check.detail:
        limits, settings = translate.limits(result.brief), translate.settings(result.brief)
        for own in result.details:
            if own.key == check.detail:
                return working(DetailContext(own, settings, limits), check)
        return working(None, check)
    best: tuple[Step, ...] = ()
    for context in _contexts(result):
        placed = _in_stretch(context, check)
        if placed is not None and check.wall in ("", context.field.name):
            best = max(best, working(context, placed), key=len)
    return best or working(None, check)


def _contexts(result: CandidateResult) -> list[Context]:
    assert result.brief is not None
    assert result.judged is not None
    assert result.response is not None
    return contexts_of(result.response, translate.settings(result.brief, result.judged), translate.limits(result.brief))


def _in_stretch(context: Context, check: CheckResult) -> CheckResult | None:
    """The check with its layer counted in the stretch that the context is of; None where that lacks the layer."""
    rows, layer = tuple(context.field.rows or range(len(context.stack.layers))), check.place.layer
    if layer is None:
        return check
    if layer not in rows:
        return None
    return replace(check, place=replace(check.place, layer=rows.index(layer)))
