"""Crushing of the core under pressure and patches."""

from __future__ import annotations

import numpy as np

from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context, Place


@register(
    "core_crushing",
    "The core is pressed flat under the load that stands on it",
    "Mean pressure under the load against the flatwise compressive strength (common practice, no source)",
    "Loads pushing on either face; the spread of load by the face is not counted, on the safe side.",
    ("Zc",),
)
def core_crushing(context: Context) -> list[CheckResult]:
    """Largest pressure of a load case, patches added to the uniform part, over the core's Z_c."""
    section = context.response.section
    if section.core is None:
        return []
    weakest = min(section.core.layers, key=lambda i: context.stack.layers[i].material.value("Zc"))
    material = context.stack.layers[weakest].material
    results = []
    for response in context.response.cases:
        case = response.case
        uniform = sum(case.pressures)
        loads = [(uniform, Place(layer=weakest))]
        for patch in case.patches:
            covering = sum(
                other.pressure
                for other in case.patches
                if other.bounds[0] <= patch.x <= other.bounds[1] and other.bounds[2] <= patch.y <= other.bounds[3]
            )
            loads.append((uniform + covering, Place(patch.x, patch.y, weakest, "")))
        # a suction pulls the face off instead of crushing the core: that is the bond's business, not this check's
        pressing = [(abs(p), place) for p, place in loads if p != 0.0]
        if not pressing:
            continue
        pressure, place = max(pressing, key=lambda item: item[0])
        value = pressure * context.settings.ultimate_factor
        allowable = material.value("Zc")
        results.append(
            CheckResult(
                check="core_crushing",
                title="Core crushing",
                kind="strength",
                dimension="core_stress",
                value=value,
                allowable=allowable,
                reserve_factor=allowable / value if value > 0.0 else np.inf,
                required=context.limits.reserve_factor,
                load_case=case.name,
                place=place,
                method="mean pressure under the load / Z_c",
                source=material.source(("Zc",)),
            )
        )
    return results
