"""Plies with more or less resin than a process leaves."""

from __future__ import annotations

from collections.abc import Sequence

from omakase.core.checks.result import CheckResult
from omakase.core.findings.finding import Finding, Surroundings, names
from omakase.core.findings.registry import register
from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material

LEAST, MOST, MOST_IN_MAT = 0.28, 0.60, 0.75


@register(
    "resin_share",
    "A ply with less resin than any process gives, or with too much",
    "Resin mass fraction 0.28 to 0.60 for cloth, to 0.75 for mat (common practice, no source)",
)
def resin_share(stack: Stack, _checks: Sequence[CheckResult], _surroundings: Surroundings) -> Finding | None:
    """Resin mass fraction of each ply's material."""
    plies = [i for i, layer in enumerate(stack.layers) if layer.material.kind == "ply"]
    dry = [i for i in plies if stack.layers[i].material.value("resin_mass_fraction") < LEAST]
    rich = [i for i in plies if stack.layers[i].material.value("resin_mass_fraction") > _most(stack.layers[i].material)]
    if not dry and not rich:
        return None
    layer_share, what = (dry, "less resin than a process leaves") if dry else (rich, "rich in resin")
    share = stack.layers[layer_share[0]].material.value("resin_mass_fraction")
    return Finding(
        "resin_share",
        f"{names(layer_share)}: {what} ({share:.0%} of the mass)",
        "dry plies leak and come apart; resin beyond what wets the fibres is mass without strength",
        "weigh a sample and put the measured share into the material",
        tuple(layer_share),
    )


def _most(ply: Material) -> float:
    """A mat absorbs more than a cloth: two to three times its own mass by hand."""
    return MOST_IN_MAT if ply.build is not None and ply.build.architecture == "mat" else MOST
