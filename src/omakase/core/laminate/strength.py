"""Strength of a laminate pulled in any direction of its plane."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from omakase.core.laminate.failure import CRITERIA
from omakase.core.laminate.stack import Layer, Stack
from omakase.core.laminate.stiffness import laminate_abd
from omakase.core.rotation import strain_rotation


def shear_ratios(layer: Layer) -> np.ndarray:
    """(τ_13/S_13, τ_23/S_23) of a layer per transverse shear stress (τ_xz, τ_yz): (2, 2), 1/Pa."""
    c, s = np.cos(np.radians(layer.angle)), np.sin(np.radians(layer.angle))
    return np.array([[c, s], [-s, c]]) / [[layer.material.value("S13")], [layer.material.value("S23")]]


def shear_strength_along(layers: Iterable[Layer]) -> float:
    """Least strength of layers in transverse shear along x, both directions combined quadratically, Pa."""
    return min((float(1.0 / np.linalg.norm(shear_ratios(layer)[:, 0])) for layer in layers), default=np.inf)


def first_layer_strength(
    stack: Stack, angles: np.ndarray, criterion: str = "maximum_strain", pulled: bool = True
) -> np.ndarray:
    """Mean stress in Pa over the whole thickness at which the first counted ply fails, pulled at ``angles``.

    ``angles`` in degrees from x toward y; ``pulled`` False is compression.  The plate is held flat and free to
    move in its plane: ε = A⁻¹ N with N = (c², s², c s) N; Jones (1999), section 4.5.2.
    """
    A, _, _ = laminate_abd(stack)
    c, s = np.cos(np.radians(angles)), np.sin(np.radians(angles))
    load = np.stack([c * c, s * s, c * s], axis=-1) * (stack.thickness if pulled else -stack.thickness)
    strain = load @ np.linalg.inv(A).T  # per Pa of mean stress
    least = np.full(np.shape(angles), np.inf)
    for layer in stack.layers:
        if layer.structural and layer.role == "ply":
            layer_strain = strain @ strain_rotation(layer.angle).T
            least = np.minimum(least, CRITERIA[criterion](layer_strain, layer.material))
    return least
