"""A part that is twisted, with too little at ±45 outside."""

from __future__ import annotations

from collections.abc import Sequence

from omakase.core.checks.result import CheckResult
from omakase.core.findings.finding import Finding, Surroundings, names
from omakase.core.findings.registry import register
from omakase.core.laminate.stack import Stack
from omakase.core.laminate.stiffness import layer_stiffness, material_stiffness
from omakase.core.rotation import transformed_stiffness

LEAST = 0.5  # of the largest in-plane shear stiffness, over all angles, that the outermost counted ply should have


@register(
    "twist",
    "A twisted part whose outermost plies do not lie near ±45°",
    "Shear stiffness of the outermost counted ply against the same ply at 45° (common practice, no source)",
)
def twist(stack: Stack, _checks: Sequence[CheckResult], surroundings: Surroundings) -> Finding | None:
    """Outermost counted ply of each face: its Q66 against the largest that turning it could give."""
    counted = [i for i, layer in enumerate(stack.layers) if layer.structural and layer.role == "ply"]
    if not surroundings.twisted or not counted:
        return None
    weak = []
    for i in sorted({counted[0], counted[-1]}):
        layer = stack.layers[i]
        Q = material_stiffness(layer.material)
        stiffest = max(transformed_stiffness(Q, angle)[2, 2] for angle in (0.0, 45.0))
        if layer_stiffness(layer)[2, 2] < LEAST * stiffest:
            weak.append(i)
    if not weak:
        return None
    return Finding(
        "twist",
        f"twisted, but not near ±45° outside ({names(weak)})",
        "twist is carried by fibres at ±45, and most by those farthest out",
        "a ply at ±45 outside each face",
        tuple(weak),
    )
