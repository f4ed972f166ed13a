"""How a doubler may fail to do its work: too short to take its share, or its glue lets go at an end."""

from __future__ import annotations

from omakase.core.checks.registry import register_detail
from omakase.core.checks.result import CheckResult, DetailContext
from omakase.core.details.doubler import ENOUGH, Doubler

LAG = "two bars with the glue as springs between them (shear lag, Volkersen 1938)"


@register_detail(
    Doubler, "doubler_length", "A doubler is too short to take its share of the load",
    "Share of the load in its middle over that by stiffness, shear lag (Volkersen 1938); at least 95 % (common "
    "practice, no source)",
    "Load that enters and leaves through the sheet; bending is not counted.",
)  # fmt: skip
def doubler_length(context: DetailContext) -> list[CheckResult]:
    """One result without load case."""
    own = _doubler(context)
    needed = own.needed_length()
    told = f"it takes {own.reached * own.share:.0%} of the load in its middle, {own.share:.0%} at most"
    reserve = own.length / needed
    if (own.reached >= ENOUGH) != (reserve >= 1.0):  # steps need a little more than the formula says, or less
        reserve = 1.0 if own.reached >= ENOUGH else own.reached / ENOUGH
    return [
        context.result(
            "doubler_length", "Length of the doubler", None, needed, own.length, kind="limit", dimension="length",
            reserve=reserve, method=LAG, source="estimated", remarks=(told,),
        )
    ]  # fmt: skip


@register_detail(
    Doubler, "doubler_shear", "The glue or resin of a doubler fails at its end",
    "Largest shear stress at its ends and steps, elastic (Volkersen 1938); a glue that yields under a single step "
    "until its shear strain is used up (Hart-Smith 1973, from memory)",
    "Peel at the ends is not counted: gentle steps and a covering ply keep it low.", ("S12", "S13"),
)  # fmt: skip
def doubler_shear(context: DetailContext) -> list[CheckResult]:
    """One result per load case that pulls or presses along it."""
    own = _doubler(context)
    return [
        context.result(
            "doubler_shear", "Glue at the ends of the doubler", case, abs(case.pull) * context.settings.ultimate_factor,
            own.capacity, dimension="line_load", method=LAG, source="estimated",
            remarks=(f"{own.glue_name}, {'scarfed' if own.tapered else f'{own.steps} steps'}",),
        )
        for case in own.cases
        if case.pull
    ]  # fmt: skip


def _doubler(context: DetailContext) -> Doubler:
    assert isinstance(context.detail, Doubler)
    return context.detail
