"""First-ply failure: the factor on the load at which a ply's criterion is reached.

Every function takes ply strains or stresses in material axes, shape (..., 3), order 11, 22, 12, and gives the
load multiplier, shape (...), infinite where nothing loads the ply.  It multiplies the load, not the index.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache

import numpy as np

from omakase.core.laminate.stiffness import material_stiffness
from omakase.core.materials.material import Material


def inverse(index: np.ndarray) -> np.ndarray:
    """1/index, infinite where nothing acts."""
    return np.divide(1.0, index, out=np.full(np.shape(index), np.inf), where=index > 0.0)


def maximum_strain(strain: np.ndarray, material: Material) -> np.ndarray:
    """Load factor by the maximum strain criterion; strain allowables are strength over modulus.

    Range: linear to failure along 1 and 2.  In shear a cloth yields well before it breaks, so S12/G12 is
    conservative.  Jones (1999), section 2.9.2.
    """
    # of the two rows of a strain only the one with its own sign is positive
    return inverse(np.max(strain @ strain_limits(material).T, axis=-1))


@lru_cache(maxsize=1024)
def strain_limits(material: Material) -> np.ndarray:
    """Rows (6, 3) whose largest product with a ply's strain is the index of maximum strain, pulled and then pressed."""
    E1, E2, G12 = (material.value(key) for key in ("E1", "E2", "G12"))
    S12 = material.value("S12")
    tension = np.diag([E1 / material.value("Xt"), E2 / material.value("Yt"), G12 / S12])
    compression = np.diag([E1 / material.value("Xc"), E2 / material.value("Yc"), G12 / S12])
    return np.vstack([tension, -compression])


def tsai_wu(strain: np.ndarray, material: Material) -> np.ndarray:
    """Load factor by Tsai–Wu with F12* = −1/2: the positive root of a λ² + b λ − 1 = 0.

    Tsai and Wu, Journal of Composite Materials 5 (1971) 58.  For an isotropic sheet with S = X/√3 this is the
    von Mises criterion.
    """
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
