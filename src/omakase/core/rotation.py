"""Stiffness of an orthotropic sheet in its own and in turned axes."""

from __future__ import annotations

import numpy as np


def reduced_stiffness(E1: float, E2: float, G12: float, nu12: float) -> np.ndarray:
    """Plane-stress stiffness Q in material axes, (3, 3), Pa; order 11, 22, 12 with engineering shear strain.

    Jones, Mechanics of Composite Materials (1999), eq. 2.70.
    """
    nu21 = nu12 * E2 / E1
    factor = 1.0 / (1.0 - nu12 * nu21)
    return np.array([[E1 * factor, nu12 * E2 * factor, 0.0], [nu12 * E2 * factor, E2 * factor, 0.0], [0.0, 0.0, G12]])


def strain_rotation(angle: float) -> np.ndarray:
    """Matrix T with (ε1, ε2, γ12) = T (εx, εy, γxy) for a material axis at ``angle`` degrees from x toward y."""
    c, s = np.cos(np.radians(angle)), np.sin(np.radians(angle))
    return np.array([[c * c, s * s, c * s], [s * s, c * c, -c * s], [-2 * c * s, 2 * c * s, c * c - s * s]])


def transformed_stiffness(Q: np.ndarray, angle: float) -> np.ndarray:
    """Q in panel axes, (3, 3), Pa: Tᵀ Q T with the strain rotation T (energy is invariant)."""
    T = strain_rotation(angle)
    return T.T @ Q @ T
