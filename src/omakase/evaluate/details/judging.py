"""Details judged: from records and the member's response to results of checks, and to what is found beside them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

import msgspec

from omakase.core.checks.registry import run_details
from omakase.core.checks.result import CheckResult
from omakase.core.details.broken import BrokenDetail
from omakase.core.details.detail import Detail as CoreDetail
from omakase.core.details.detail import Site
from omakase.core.errors import OmakaseError
from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material
from omakase.core.members.field import Response
from omakase.evaluate.details.loads import cases_of
from omakase.project import detail_translate, translate
from omakase.project.detail_translate import Cases
from omakase.project.details import Detail
from omakase.project.model import Brief, Candidate

NOT_TOLD = "the reactions of a panel that stretches or is compressed are not computed: type the load"


class Judged(msgspec.Struct, frozen=True, eq=False):
    """The details of a candidate as the core's, and the results of their checks, in the order of the records."""

    details: tuple[CoreDetail, ...] = ()
    checks: tuple[CheckResult, ...] = ()


def judge_details(
    brief: Brief, candidate: Candidate, stack: Stack, response: Response, materials: Mapping[str, Material],
    last: Mapping[str, Cases] | None = None,
) -> Judged:  # fmt: skip
    """All details of a candidate.  One that makes no sense keeps the candidate from passing.

    ``last`` : of a quick response, loads of the last full one by the detail's id: what a quick response does not tell
    is taken from there, and left out where it is not known yet.  None for a full one.
    """
    if not candidate.details or candidate.measured is not None:
        return Judged()
    made = [
        own for record in candidate.details
        if (own := made_detail(brief, candidate, record, stack, response, materials, last)) is not None
    ]  # fmt: skip
    return Judged(tuple(made), tuple(run_details(made, translate.settings(brief), translate.limits(brief))))


def made_detail(
    brief: Brief, candidate: Candidate, record: Detail, stack: Stack, response: Response,
    materials: Mapping[str, Material], last: Mapping[str, Cases] | None = None,
) -> CoreDetail | None:  # fmt: skip
    """The core's detail with its loads; a broken one where it makes no sense; None while its loads are not known."""
    try:
        where = detail_translate.site(brief, candidate, record, materials)
        cases = cases_of(brief, record, response)
        if cases is None and last is None:
            return _broken(record, stack, NOT_TOLD)
        if cases is None and last is not None:
            cases = last.get(record.id)
        if cases is None:
            return None
        return detail_translate.made(record, where, cases, brief, materials)
    except OmakaseError as error:
        return _broken(record, stack, str(error))


def _broken(record: Detail, stack: Stack, problem: str) -> BrokenDetail:
    return BrokenDetail(record.id, record.name, Site(stack, wall=record.wall), problem)


def loads_taken(candidate: Candidate, details: Iterable[CoreDetail]) -> dict[str, Cases]:
    """The loads that details took from their member, by id."""
    taken = {record.id for record in candidate.details if record.taken != "typed"}
    return {own.key: own.cases for own in details if own.key in taken and hasattr(own, "cases")}
