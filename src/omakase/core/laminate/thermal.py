"""What heat and cure do to a laminate that is free to move: expansion, and the curvature of an unsymmetric one."""

from __future__ import annotations

import msgspec
import numpy as np

from omakase.core.laminate.stack import Stack
from omakase.core.laminate.stiffness import laminate_abd, slices
from omakase.core.rotation import strain_rotation


class ThermalResponse(msgspec.Struct, frozen=True, eq=False):
    """``strain`` : (3,) of the mid-plane and ``curvature`` : (3,), 1/m, for the change of temperature asked for.

    ``missing`` : short names of counted materials that state no expansion and were taken as not expanding.
    """

    strain: np.ndarray
    curvature: np.ndarray
    missing: tuple[str, ...] = ()

    def rise(self, axis: int, length: float = 1.0) -> float:
        """Height in m of the arc that ``length`` in m becomes along x (0) or y (1): κ L²/8, shallow."""
        return float(self.curvature[axis]) * length**2 / 8.0


def free_expansion(stack: Stack, change: float) -> ThermalResponse:
    """Strain and curvature of a free plate whose temperature changes evenly by ``change`` in K.

    [ε; κ] = [[A, B], [B, D]]⁻¹ Σ ∫ Q α ΔT (1, z) dz; Jones (1999), section 4.5.4.  Expansions do not change with
    temperature; the two sides of a satin are taken to expand alike; resin that sets without heat, and its shrinkage,
    are not in it.  A thin wide plate snaps into a cylinder instead of a saddle when its bow is beyond about its
    thickness.
    """
    parts = slices(stack)
    A, B, D = laminate_abd(stack)
    force, moment = np.zeros(3), np.zeros(3)
    missing = []
    for Q, top, bottom, index in zip(parts.Q, parts.z_top, parts.z_bottom, parts.layer, strict=True):
        layer = stack.layers[index]
        if not layer.structural:
            continue
        if "alpha1" not in layer.material.properties:
            missing.append(layer.material.id)
            continue
        alpha = [layer.material.value("alpha1"), layer.material.value("alpha2"), 0.0]
        stress = Q @ np.linalg.solve(strain_rotation(layer.angle), alpha) * change
        force += stress * (top - bottom)
        moment += stress * (top**2 - bottom**2) / 2.0
    both = np.linalg.solve(np.block([[A, B], [B, D]]), np.concatenate([force, moment]))
    return ThermalResponse(both[:3], both[3:], tuple(dict.fromkeys(missing)))
