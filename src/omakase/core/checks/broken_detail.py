"""A detail that is not possible where it is: it is reported, and nothing passes with it."""

from __future__ import annotations

from omakase.core.checks.registry import register_detail
from omakase.core.checks.result import CheckResult, DetailContext
from omakase.core.details.broken import BrokenDetail


@register_detail(
    BrokenDetail, "detail", "A detail cannot be judged", "Its place, sizes or loads are not possible",
    "The reason is shown beside it.",
)  # fmt: skip
def broken_detail(context: DetailContext) -> list[CheckResult]:
    """One result without any reserve."""
    own = context.detail
    assert isinstance(own, BrokenDetail)
    return [
        context.result(
            "detail", "Detail cannot be judged", None, 1.0, 0.0, method=own.problem, source="assumed", reserve=0.0,
            kind="limit",
        )
    ]  # fmt: skip
