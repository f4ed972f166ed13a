"""What heat and cure do to a laminate that is free to move: expansion, and the curvature of an unsymmetric one."""

from __future__ import annotations

import msgspec
import numpy as np

from omakase.core.laminate.stack import Stack
from omakase.core.laminate.stiffness import laminate_abd, material_stiffness, more_warp, slices, straight_stiffness
from omakase.core.materials.material import Material
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


# Expansion along straight fibres in resin, 1/K, by family (typical, assumed); see ``stiffness.ACROSS``
ALONG: dict[str, float] = {"carbon": 0.5e-6, "glass": 8e-6, "basalt": 8e-6, "aramid": -3e-6}
ALONG_OTHERS = 5e-6


def thermal_stress(material: Material) -> np.ndarray:
    """Q α, the stress in material axes that holds a material at its size, per degree warmer: (3,), Pa/K, pressing."""
    return material_stiffness(material) @ np.array([material.value("alpha1"), material.value("alpha2"), 0.0])


def satin_stress_difference(material: Material) -> np.ndarray:
    """Half the difference of the thermal stress of a satin's two halves, warp side less weft side: (3,), Pa/K.

    As for the stiffness, each half is a mixture of crossed straight fibres, s = (n − 1)/n of them warp on one side.
    Straight fibres along 1 hold b = Q (α_along, α_across, 0), crossed ones the same with 1 and 2 exchanged; their
    mean is the cloth's Q̄ ᾱ, which gives α_across for the family's α_along, and with it b₁ − b₂ (derived).
    """
    total = float(np.sum(thermal_stress(material)))
    along, across = straight_stiffness(material)
    mixed = material_stiffness(material)[0, 1]
    expansion_along = ALONG.get(material.family, ALONG_OTHERS)
    expansion_across = (total - (along + mixed) * expansion_along) / (mixed + across)
    first = along * expansion_along + mixed * expansion_across
    return more_warp(material) * (2.0 * first - total) * np.array([1.0, -1.0, 0.0])


def free_expansion(stack: Stack, change: float) -> ThermalResponse:
    """Strain and curvature of a free plate whose temperature changes evenly by ``change`` in K.

    [ε; κ] = [[A, B], [B, D]]⁻¹ Σ ∫ Q α ΔT (1, z) dz; Jones (1999), section 4.5.4.  Expansions do not change with
    temperature; the two sides of a satin differ as ``satin_stress_difference`` says; resin that sets without heat, and
    its shrinkage, are not included.  A thin wide plate snaps into a cylinder instead of a saddle when its bow is beyond
    about its thickness.
    """
    parts = slices(stack)
    A, B, D = laminate_abd(stack)
    force, moment = np.zeros(3), np.zeros(3)
    missing = []
    for top, bottom, index in zip(parts.z_top, parts.z_bottom, parts.layer, strict=True):
        layer = stack.layers[index]
        if not layer.structural:
            continue
        if "alpha1" not in layer.material.properties:
            missing.append(layer.material.id)
            continue
        free_stress = thermal_stress(layer.material)
        if layer.material.has_face and layer.role == "ply":
            upper = np.isclose(top, stack.z_top[index])  # the slice on face A's side
            free_stress = free_stress + satin_stress_difference(layer.material) * (
                1.0 if upper != layer.turned else -1.0
            )
        stress = strain_rotation(layer.angle).T @ free_stress * change
        force += stress * (top - bottom)
        moment += stress * (top**2 - bottom**2) / 2.0
    both = np.linalg.solve(np.block([[A, B], [B, D]]), np.concatenate([force, moment]))
    return ThermalResponse(both[:3], both[3:], tuple(dict.fromkeys(missing)))
