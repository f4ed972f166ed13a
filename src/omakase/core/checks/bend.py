"""Plies of a bent laminate that are pulled apart where a moment opens the bend."""

from __future__ import annotations

from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context
from omakase.core.laminate.bend import RADIAL_SHARE
from omakase.core.members.bracket import BracketResponse
from omakase.core.members.field import Place


@register(
    "bend",
    "Plies separate in a bend that is opened",
    "Pure bending of a ring sector of orthotropic layers (Lekhnitskii, Anisotropic Plates 1968), close to "
    "3M/(2t√(r_i r_o)) of Kedward, Wilson and McLean (1989); shear as of a straight laminate",
    "The moment at each place of the bend; what a force along the laminate adds, less than N/10R, is neglected. The "
    "radial strength is that of a curved-beam test (ASTM D6415) where it is stated, else a share of S13.",
    ("Zt", "S13"),
    per="member",
)
def bend(context: Context) -> list[CheckResult]:
    """One result per load case; none for metal, which has no plies."""
    response = context.response
    if not isinstance(response, BracketResponse):
        return []
    if all(layer.material.is_metal for layer in response.stack.layers):
        return []
    results = []
    for case, forces in zip(response.cases, response.forces, strict=True):
        index, place, layer, stated = response.delamination(forces)
        material = response.stack.layers[layer].material
        remarks = () if stated else (
            f"the radial strength is taken as {RADIAL_SHARE:g} of S13 (common practice, no source): a curved-beam test "
            "gives it",
        )  # fmt: skip
        results.append(
            context.result(
                "bend", "Plies pulled apart in the bend", case, index * context.settings.ultimate_factor, 1.0,
                Place(float(response.line.s[place]), layer=layer, surface="inside"),
                method="radial stress of a ring sector with interlaminar shear, √((σ_r/Z_t)² + (τ/S13)²)",
                source=material.source(("Zt",)) if stated else "assumed", remarks=remarks,
            )
        )  # fmt: skip
    return results
