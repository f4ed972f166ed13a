"""Suction that pulls a face off its core."""

from __future__ import annotations

from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context
from omakase.core.members.field import Place


@register(
    "flatwise_tension",
    "Suction pulls a face off: the core tears, or the bond opens",
    "Suction against the flatwise tensile strength of the core and its bond, as ASTM C297 measures them together",
    "Even upward pressures, taken as suction on face A; cores that state a flatwise tensile strength.",
    ("Zt",),
)
def flatwise_tension(context: Context) -> list[CheckResult]:
    """Net upward pressure of each load case that has one, over the least Z_t of the core's layers."""
    core = context.section.core
    if core is None:
        return []
    stating = [i for i in core.layers if "Zt" in context.stack.layers[i].material.properties]
    if not stating:
        return []
    weakest = min(stating, key=lambda i: context.stack.layers[i].material.value("Zt"))
    material = context.stack.layers[weakest].material
    results = []
    for response in context.cases:
        suction = -sum(response.case.pressures)
        if suction <= 0.0:
            continue
        value, allowable = suction * context.settings.ultimate_factor, material.value("Zt")
        results.append(
            context.result(
                "flatwise_tension",
                "Flatwise tension",
                response.case,
                value,
                allowable,
                Place(layer=weakest),
                method="suction / Z_t of core and bond",
                source=material.source(("Zt",)),
                remarks=("the bond counts as strong as the core until a flatwise tension test of it is accepted",),
                dimension="core_stress",
            )
        )
    return results
