"""Strength of a laminate pulled in any direction of its plane."""

from __future__ import annotations

import numpy as np

from omakase.core.laminate.failure import CRITERIA
from omakase.core.laminate.stack import Stack
from omakase.core.laminate.stiffness import laminate_abd
from omakase.core.rotation import strain_rotation


def first_layer_strength(
    stack: Stack, angles: np.ndarray, criterion: str = "maximum_strain", pulled: bool = True
) -> np.ndarray:
    """Mean stress in Pa over the whole thickness at which the first counted ply fails, pulled at ``angles``.

    ``angles`` in degrees from x toward y; False for ``pulled`` presses instead.  The plate is held flat and free to
    move in its plane: ε = A⁻¹ N with N = (c², s², c s) N; Jones (1999), section 4.5.2.
    """
    A, _, _ = laminate_abd(stack)
    c, s = np.cos(np.radians(angles)), np.sin(np.radians(angles))
    load = np.stack([c * c, s * s, c * s], axis=-1) * (stack.thickness if pulled else -stack.thickness)
    strain = load @ np.linalg.inv(A).T  # per Pa of mean stress
    least = np.full(np.shape(angles), np.inf)
    for layer in stack.layers:
        if layer.structural and layer.role == "ply":
            own = strain @ strain_rotation(layer.angle).T
            least = np.minimum(least, CRITERIA[criterion](own, layer.material))
    return least
