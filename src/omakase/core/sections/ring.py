"""The section of a round tube: a laminated wall bent to a ring.

Axes: x along, z up, y across; α from the top (z) toward y, so that a place of the wall's middle lies at
(y, z) = R (sin α, cos α).  The wall's second direction s runs along growing α, its face A is outside.
"""

from __future__ import annotations

import numpy as np

from omakase.core.errors import MemberError, both_units
from omakase.core.plates.section import PlateSection

FORCES = ("N", "T", "My", "Mz", "Vz", "Vy")
MIN_RADIUS = 0.5e-3


class Ring:
    """Compliance of tubes of one wall, of mean radii ``radius`` m, (n,).

    Strains of the member: ε, θ,x, φy,x, φz,x, γ_z = w,x + φy, γ_y = v,x + φz, with u = ε + z φy + y φz.

    A closed ring keeps its round shape and carries no force along s (N_s = 0).  In a uniform wall the shear flow of a
    transverse force is V sin α/(πR), of a torque T/(2πR²), whatever the laminate: equilibrium and, for the strains that
    follow, compatibility are both met (derived; the result of the thin-walled beam theory of Librescu and Song 2006,
    chapter 6, for a circumferentially uniform wall).  Fibres that wind one way only couple pull with twist, and
    bending with shear sideways.

    Thickness counts through the distance of each ply from the middle: strains of bending and torsion grow with the
    radius, so that EA, EI and GJ of a thick isotropic tube are exact; the shear stiffness is that of a thin one.
    """

    def __init__(self, plate: PlateSection, radius: np.ndarray, core_modulus: float = 0.0) -> None:
        radius = np.atleast_1d(np.asarray(radius, float))
        thickness = plate.stack.thickness
        least = float(radius.min())
        if least - thickness / 2.0 < MIN_RADIUS:
            raise MemberError(
                f"a wall of {both_units(thickness)} does not fit into a tube of {both_units(2.0 * least + thickness)} "
                "outside"
            )
        self.plate, self.radius = plate, radius
        self.even, self.bent = wall_compliances(plate, radius)
        R, a, b = radius, self.even, self.bent
        F = np.zeros((len(R), 6, 6))
        F[:, 0, 0], F[:, 1, 1] = a[:, 0, 0] / (2.0 * np.pi * R), a[:, 1, 1] / (2.0 * np.pi * R**3)
        F[:, 0, 1] = F[:, 1, 0] = a[:, 0, 1] / (2.0 * np.pi * R**2)
        F[:, 2, 2] = F[:, 3, 3] = b[:, 0, 0] / (np.pi * R**3)
        F[:, 4, 4] = F[:, 5, 5] = b[:, 1, 1] / (np.pi * R)
        # My with Vy and Mz with Vz: ∮ N_x b16 q, cos α with cos α and sin α with −sin α
        F[:, 2, 5] = F[:, 5, 2] = b[:, 0, 1] / (np.pi * R**2)
        F[:, 3, 4] = F[:, 4, 3] = -b[:, 0, 1] / (np.pi * R**2)
        self.compliance = F
        self.stiffness = np.linalg.inv(F)
        if core_modulus > 0.0:
            inner = R - thickness / 2.0
            filling = np.pi * inner**2 * core_modulus
            for index, share in ((0, 1.0), (2, inner**2 / 4.0), (3, inner**2 / 4.0)):
                self.stiffness[:, index, index] += filling * share

    def _free(self, index: int) -> np.ndarray:
        """Stiffness against one strain, the others free: (n,)."""
        return 1.0 / np.linalg.inv(self.stiffness)[:, index, index]

    @property
    def axial(self) -> np.ndarray:
        """EA in N, free to twist."""
        return self._free(0)

    @property
    def bending(self) -> np.ndarray:
        """EI in N m², free to shear."""
        return self._free(2)

    @property
    def torsion(self) -> np.ndarray:
        """GJ in N m², free to lengthen."""
        return self._free(1)

    def wall_strains(self, forces: np.ndarray, angles: np.ndarray) -> np.ndarray:
        """Generalised strains (n, angles, 11) of the wall under section forces (n, 6) N, T, My, Mz, Vz, Vy.

        ``angles`` α in rad.  Hoop strain follows from N_s = 0; along s the wall keeps its curvature.
        """
        R = self.radius[:, None]
        N, T, My, Mz, Vz, Vy = forces.T[:, :, None]
        cos, sin = np.cos(angles), np.sin(angles)
        strains = np.zeros((len(forces), len(angles), 11))
        pulled = np.stack([N, T / R], axis=-1) / (2.0 * np.pi * R[..., None])
        even = pulled @ self.even.swapaxes(1, 2)
        bending = np.stack([(My * cos + Mz * sin) / R, Vy * cos - Vz * sin], axis=-1) / (np.pi * R[..., None])
        bent = bending @ self.bent.swapaxes(1, 2)
        strains[..., [0, 2]] = even + bent
        A = self.plate.membrane
        strains[..., 1] = -(A[1, 0] * strains[..., 0] + A[1, 2] * strains[..., 2]) / A[1, 1]
        # a ply further out is strained more: the curvature along x, and the twist
        strains[..., 3] = bent[..., 0] / R
        strains[..., 5] = strains[..., 2] / R
        if self.plate.faces:
            strains[..., 6:9] = strains[..., 3:6]
        return strains


def wall_compliances(plate: PlateSection, radius: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(ε_x, γ_xs) at the wall's middle per (N_x, q), with N_s = 0, for radii (n,): (n, 2, 2) each, m/N.

    The first where ε_x and ε_s are even through the wall and γ grows with the radius, as in tension and torsion; the
    second where all three grow with it, as in bending.  The area of a ply grows with the radius too.  Exact integrals
    over each layer.
    """
    stack, R = plate.stack, radius[:, None]
    outer, inner = 1.0 + stack.z_top / R, 1.0 + stack.z_bottom / R
    # ∫ (1 + z/R)^n dz = R/(n + 1) [(1 + z/R)^(n + 1)] for n of 1 (no strain grows), 2 (one of a pair) and 3 (both)
    weights = np.array([R / n * (outer**n - inner**n) for n in (2, 3, 4)])
    none, one, both = (weights @ np.asarray(plate.Q).reshape(-1, 9)).reshape(3, -1, 3, 3)
    even = none.copy()
    even[:, 2, :2], even[:, :2, 2], even[:, 2, 2] = one[:, 2, :2], one[:, :2, 2], both[:, 2, 2]
    return _without_hoop_force(even), _without_hoop_force(both)


def _without_hoop_force(stiffness: np.ndarray) -> np.ndarray:
    """Compliance (n, 2, 2) of ε_x, γ_xs with N_s = 0 from stiffness (n, 3, 3) of ε_x, ε_s, γ_xs."""
    a, b, d = stiffness[:, 0, 0], stiffness[:, 0, 2], stiffness[:, 2, 2]
    p, q, hoop = stiffness[:, 0, 1], stiffness[:, 1, 2], stiffness[:, 1, 1]
    a, b, d = a - p * p / hoop, b - p * q / hoop, d - q * q / hoop
    return np.moveaxis(np.array([[d, -b], [-b, a]]) / (a * d - b * b), -1, 0)
