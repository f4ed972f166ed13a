"""What may happen to the ribs of a panel beside their plies: their walls buckle, and their bond shears off."""

from __future__ import annotations

import numpy as np

from omakase.core.checks.limits import ratio
from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context
from omakase.core.members.panel import PanelResponse
from omakase.core.members.panel_ribs import ACROSS, RIB

NOT_PEELED = (
    "mean over the foot: peaks at its edges, peel at the ends of the rib and a flawed bond are not counted; taper the "
    "ends or lead them to a support, and test the bond"
)


@register(
    "rib_buckling", "The web, side, crown or flange of a rib buckles",
    "Long orthotropic plates compressed along (Kollár and Springer 2003): between two edges that turn freely, or with "
    "one free; the arc of a bead as the wall of a cylinder; by the largest compressive strain of each wall",
    "Walls long against their width; a former that a hat is laid over helps and is not counted.",
    per="member",
)  # fmt: skip
def rib_buckling(context: Context) -> list[CheckResult]:
    """One result per load case: the worst wall of the worst rib."""
    response = context.response
    if not isinstance(response, PanelResponse) or not response.ribs:
        return []
    results = []
    for index, first in enumerate(response.ribs[0].cases):
        worst, place, name = np.inf, first.place(0, 0), ""
        for rib in response.ribs:
            case = rib.cases[index]
            pressed = np.maximum(-case.strains[..., 0], 0.0)
            for k, (piece, limit) in enumerate(zip(rib.beam.pieces, rib.beam.buckling_strains, strict=True)):
                own = pressed[:, k * len(ACROSS) : (k + 1) * len(ACROSS)]
                i, j = np.unravel_index(np.argmax(own), own.shape)
                strain = float(own[i, j])
                if strain > 0.0 and np.isfinite(limit) and limit / strain < worst:
                    worst = limit / strain
                    place, name = case.place(int(i), k * len(ACROSS) + int(j)), piece.name
        if np.isfinite(worst):
            least = worst / context.settings.ultimate_factor
            results.append(
                ratio(context, "rib_buckling", f"Buckling of a rib's {name}", first.case, least, place,
                      "long orthotropic plate under its largest pressing strain", wall=RIB)
            )  # fmt: skip
    return results


@register(
    "rib_bond", "The bond of a rib to the panel shears off",
    "Change of the rib's force along it, mean over the rib's height or the width of its bond, over that width; against "
    "the lesser interlaminar shear strength of the plies that meet there (common practice, no source)",
    "Assumes that the laminate fails before the glue; a weaker adhesive or peel ply is not considered.",
    ("S13", "S23"), per="member",
)  # fmt: skip
def rib_bond(context: Context) -> list[CheckResult]:
    """One result per load case: the worst place of all ribs."""
    response = context.response
    bonded = [rib for rib in response.ribs if not rib.beam.rib.formed] if isinstance(response, PanelResponse) else []
    if not isinstance(response, PanelResponse) or not bonded:
        return []
    results = []
    for index, first in enumerate(bonded[0].cases):
        found = []
        for rib in bonded:
            case, beam = rib.cases[index], rib.beam
            flow = case.flow / beam.bond
            meeting = beam.plate.stack.layers[-1], response.section.stack.layers[0 if beam.rib.on_a else -1]
            strength, material = min(
                ((own.material.transverse_strength, own.material) for own in meeting),
                key=lambda pair: pair[0],
            )
            i = int(np.argmax(flow))
            found.append((float(flow[i]), strength, case.place(i, 0), material))
        stress, strength, place, material = max(found, key=lambda own: own[0] / own[1])
        if stress > 0.0:
            results.append(
                context.result(
                    "rib_bond", "Bond of a rib", first.case, stress * context.settings.ultimate_factor, strength,
                    place, method="change of the rib's force over the width of its foot",
                    source=material.source(("S13", "S23")), remarks=(NOT_PEELED,),
                    dimension="stress", wall=RIB,
                )
            )  # fmt: skip
    return results
