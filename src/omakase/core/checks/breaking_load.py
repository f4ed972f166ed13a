"""The load at which a measured part broke, against what a brief asks of it."""

from __future__ import annotations

from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context
from omakase.core.members.field import Place
from omakase.core.members.measured import MeasuredResponse


@register(
    "breaking_load",
    "Breaking load of a measured part",
    "A test of the part itself",
    "One part, loaded one way: the whole force of a load case is compared with it, wherever it acts.",
    per="member",
)
def breaking_load(context: Context) -> list[CheckResult]:
    """One result per load case that has a force; none for a part that is computed, or was not broken."""
    response = context.response
    if not isinstance(response, MeasuredResponse) or response.breaking is None:
        return []
    results = []
    for case in response.loaded:
        value = case.force * context.settings.ultimate_factor
        results.append(
            context.result(
                "breaking_load", "Breaking load", case, value, response.breaking, Place(),
                reserve=response.breaking / value,
                method="ultimate force of the load case against the force at which the part broke", source="tested",
                dimension="force",
            )
        )  # fmt: skip
    return results
