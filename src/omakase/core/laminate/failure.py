"""First-ply failure: the factor on the load at which a ply's criterion is reached.

Every function takes ply strains or stresses in material axes, shape (..., 3), order 11, 22, 12, and gives the
load multiplier, shape (...), infinite where nothing loads the ply.  It multiplies the load, not the index.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache

import numpy as np

from omakase.core.laminate.stiffness import material_stiffness
from omakase.core.materials.material import DIRECTION_LIMITS, Material
from omakase.core.rotation import strain_rotation


def inverse(index: np.ndarray) -> np.ndarray:
    """1/index, infinite where nothing acts."""
    return np.divide(1.0, index, out=np.full(np.shape(index), np.inf), where=index > 0.0)


def maximum_strain(strain: np.ndarray, material: Material) -> np.ndarray:
    """Load factor by the maximum strain criterion; strain allowables are strength over modulus.

    A ply of several directions of fibres (multiaxial, braid) fails when the fibres or the shear of one of them reach
    their own strain: cracks of the resin between the fibres of one direction are not counted while others cross it, as
    in a woven cloth.  Metals by von Mises.  Range: linear to failure along 1 and 2.  In shear a cloth yields well
    before it breaks, so S12/G12 is conservative.  Jones (1999), section 2.9.2.
    """
    if material.is_metal:
        return von_mises(strain, material)
    # of the two rows of a strain only the one with its own sign is positive
    rows = strain_limits(material) @ strain.reshape(-1, 3).T  # a few long rows: their largest is found far faster so
    return inverse(rows.max(axis=0).reshape(strain.shape[:-1]))


@lru_cache(maxsize=1024)
def strain_limits(material: Material) -> np.ndarray:
    """Rows (m, 3) whose largest product with a ply's strain is the index of maximum strain."""
    if material.directions:
        return _limits_by_direction(material)
    E1, E2, G12 = (material.value(key) for key in ("E1", "E2", "G12"))
    S12 = material.value("S12")
    tension = np.diag([E1 / material.value("Xt"), E2 / material.value("Yt"), G12 / S12])
    compression = np.diag([E1 / material.value("Xc"), E2 / material.value("Yc"), G12 / S12])
    return np.vstack([tension, -compression])


def _limits_by_direction(material: Material) -> np.ndarray:
    """Fibres pulled and pressed and the shear of every direction: (4 · directions, 3).

    Where a strength of the ply as a whole is tested, all are scaled by the worst ratio of the one that the directions
    give to the tested one.
    """
    pulled, pressed, sheared = (1.0 / material.value(key) for key in DIRECTION_LIMITS)
    turns = [strain_rotation(angle) for angle in material.directions]
    rows = np.array([row for T in turns for row in (T[0] * pulled, -T[0] * pressed, T[2] * sheared, -T[2] * sheared)])
    compliance = np.linalg.inv(material_stiffness(material))
    loads = {"Xt": (0, 1.0), "Xc": (0, -1.0), "Yt": (1, 1.0), "Yc": (1, -1.0), "S12": (2, 1.0)}
    scale = max(
        (
            1.0 / (float(np.max(rows @ compliance[:, column] * sign)) * material.value(key))
            for key, (column, sign) in loads.items()
            if material.properties[key].source == "tested"
        ),
        default=1.0,
    )
    return rows * scale


def von_mises(strain: np.ndarray, material: Material) -> np.ndarray:
    """Load factor of a metal at first yield: the lesser of X_t and X_c over √(σ1² − σ1 σ2 + σ2² + 3 τ12²).

    von Mises (1913), as in Timoshenko, Strength of Materials, part II (1956), section 85 (section from memory).
    """
    return inverse(von_mises_stress(strain, material) / yield_stress(material))


def yield_stress(material: Material) -> float:
    """Yield stress of a metal, Pa: the lesser of X_t and X_c."""
    return min(material.value("Xt"), material.value("Xc"))


def von_mises_stress(strain: np.ndarray, material: Material) -> np.ndarray:
    """Von Mises stress of a metal, Pa, (...), from strains in its own axes (..., 3)."""
    stress = strain @ material_stiffness(material)
    s1, s2, s12 = stress[..., 0], stress[..., 1], stress[..., 2]
    return np.sqrt(np.maximum(s1 * s1 - s1 * s2 + s2 * s2 + 3.0 * s12 * s12, 0.0))


def metal_allowable(material: Material, factor_of_safety: float) -> tuple[float, str]:
    """(stress in Pa that ultimate load may reach, which of the two it is) of a metal.

    Yield may be reached at limit load, that is at ``factor_of_safety`` times the stress at ultimate load, and the
    ultimate strength at ultimate load: the usual rule of airworthiness codes (common practice, no source).  A metal
    that states no ultimate strength may not yield at ultimate load.
    """
    if "Fu" not in material.properties:
        return yield_stress(material), "yield at ultimate load"
    at_limit, at_ultimate = factor_of_safety * yield_stress(material), material.value("Fu")
    if at_limit <= at_ultimate:
        return at_limit, "yield at limit load"
    return at_ultimate, "ultimate strength at ultimate load"


def tsai_wu(strain: np.ndarray, material: Material) -> np.ndarray:
    """Load factor by Tsai–Wu with F12* = −1/2: the positive root of a λ² + b λ − 1 = 0.

    Tsai and Wu, Journal of Composite Materials 5 (1971) 58.  For an isotropic sheet with S = X/√3 this is the
    von Mises criterion.  Metals by von Mises, plies of several directions by the strain of each of them.
    """
    if material.is_metal or material.directions:
        return maximum_strain(strain, material)
    stress = strain @ material_stiffness(material)
    Xt, Xc, Yt, Yc, S = (material.value(key) for key in ("Xt", "Xc", "Yt", "Yc", "S12"))
    F1, F2 = 1.0 / Xt - 1.0 / Xc, 1.0 / Yt - 1.0 / Yc
    F11, F22, F66 = 1.0 / (Xt * Xc), 1.0 / (Yt * Yc), 1.0 / S**2
    F12 = -0.5 * np.sqrt(F11 * F22)
    s1, s2, s12 = stress[..., 0], stress[..., 1], stress[..., 2]
    a = F11 * s1**2 + F22 * s2**2 + F66 * s12**2 + 2.0 * F12 * s1 * s2
    b = F1 * s1 + F2 * s2
    # the root 2/(b + √(b² + 4a)) keeps its digits for small a and is infinite for an unloaded ply
    denominator = b + np.sqrt(b**2 + 4.0 * a)
    return inverse(denominator / 2.0)


Criterion = Callable[[np.ndarray, Material], np.ndarray]

CRITERIA: dict[str, Criterion] = {"maximum_strain": maximum_strain, "tsai_wu": tsai_wu}
CRITERION_NAMES: dict[str, str] = {"maximum_strain": "maximum strain", "tsai_wu": "Tsai–Wu"}
