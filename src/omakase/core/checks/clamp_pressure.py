"""What the clamps of a leg press on its plies: through the thickness, where a bending moment is held over a length."""

from __future__ import annotations

import numpy as np

from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context
from omakase.core.details.detail import crushing_strength
from omakase.core.members.field import Place
from omakase.core.members.leg import LegResponse


@register(
    "clamp_pressure",
    "Pressure of the clamps on the plies of a leg",
    "Pressure that varies linearly over the clamp: R/(b a) + 6 M/(b a²), a long and b wide (statics)",
    "Clamps that are stiff compared with the leg and press over all of their length; the bolts' own preload "
    "is not included.",
    ("Zc",),
    per="member",
)
def clamp_pressure(context: Context) -> list[CheckResult]:
    """The worst clamp of each load case; none where no support has a length."""
    response = context.response
    if not isinstance(response, LegResponse):
        return []
    supports = response.member.span.supports
    if not any(support.along > 0.0 for support in supports):
        return []
    layers = [layer for layer in response.parts[0].stretch.stack.layers if layer.structural]
    weakest = min(layers, key=lambda layer: crushing_strength(layer)[0])
    strength, stated = crushing_strength(weakest)
    remarks = () if stated else (
        "strength through the thickness taken as the lesser of Y_c and 3 S12 (common practice, no source)",
    )  # fmt: skip
    results = []
    for result in response.results:
        pressures = []
        for support, reaction in zip(supports, result.reactions, strict=True):
            if support.along > 0.0:
                width = float(response.member.width(np.array([support.x]))[0])
                even = abs(float(reaction[0])) / (width * support.along)
                turned = 6.0 * abs(float(reaction[1])) / (width * support.along**2)
                pressures.append((even + turned, support.x))
        pressure, x = max(pressures)
        results.append(
            context.result(
                "clamp_pressure", "Clamp pressure", result.case, pressure * context.settings.ultimate_factor, strength,
                Place(x), method="reaction and moment over the length of the clamp", dimension="stress",
                source=weakest.material.source(("Zc",)) if stated else "estimated", remarks=remarks,
            )
        )  # fmt: skip
    return results
