"""Details judged: from records and the member's response to results of checks, and to what is found beside them."""

from __future__ import annotations

from collections.abc import Mapping

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
from omakase.project.details import Detail
from omakase.project.model import Brief, Candidate

NOT_TOLD = "what its supports take is not known of a panel that stretches or is pressed: type the load"


class Judged(msgspec.Struct, frozen=True, eq=False):
    """The details of a candidate as the core's, and the results of their checks, in the order of the records."""

    details: tuple[CoreDetail, ...] = ()
    checks: tuple[CheckResult, ...] = ()


def judge_details(
    brief: Brief, candidate: Candidate, stack: Stack, response: Response, materials: Mapping[str, Material],
    quick: bool = False,
) -> Judged:  # fmt: skip
    """All details of a candidate.  One that makes no sense keeps the candidate from passing; one whose loads a
    ``quick`` response does not tell is left out until the full one is there."""
    if not candidate.details or candidate.measured is not None:
        return Judged()
    made = [
        own for record in candidate.details
        if (own := made_detail(brief, candidate, record, stack, response, materials, quick)) is not None
    ]  # fmt: skip
    return Judged(tuple(made), tuple(run_details(made, translate.settings(brief), translate.limits(brief))))


def made_detail(
    brief: Brief, candidate: Candidate, record: Detail, stack: Stack, response: Response,
    materials: Mapping[str, Material], quick: bool = False,
) -> CoreDetail | None:  # fmt: skip
    """The core's detail with its loads; a broken one where it makes no sense; None while its loads are not known."""
    try:
        where = detail_translate.site(brief, candidate, record, materials)
        cases = cases_of(brief, record, response)
        if cases is None:
            return None if quick else _broken(record, stack, NOT_TOLD)
        return detail_translate.made(record, where, cases, brief, materials)
    except OmakaseError as error:
        return _broken(record, stack, str(error))


def _broken(record: Detail, stack: Stack, problem: str) -> BrokenDetail:
    return BrokenDetail(record.id, record.name, Site(stack, wall=record.wall), problem)
