"""A part that is twisted, with too little at ±45 outside."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from omakase.core.checks.result import CheckResult
from omakase.core.findings.finding import Finding, Surroundings
from omakase.core.findings.registry import register
from omakase.core.laminate.stack import Stack
from omakase.core.laminate.stiffness import layer_stiffness

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
        turned = [layer_stiffness(type(layer)(layer.material, float(a), layer.thickness))[2, 2] for a in (0.0, 45.0)]
        if layer_stiffness(layer)[2, 2] < LEAST * float(np.max(turned)):
            weak.append(i)
    if not weak:
        return None
    places = " and ".join(f"layer {i + 1}" for i in weak)
    return Finding(
        "twist",
        f"twisted, but {places} outside does not lie near ±45°",
        "twist is carried by fibres at ±45, and most by those farthest out",
        "a ply at ±45 outside each face",
        tuple(weak),
    )
