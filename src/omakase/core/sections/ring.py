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
    """Stiffness of tubes of one wall, of mean radii ``radius`` m, (n,).

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
        # tension goes with twist; My with Vy and Mz with Vz: ∮ N_x b16 q, cos α with cos α and sin α with −sin α
        blocks = (
            (
                0,
                1,
                a[:, 0, 0] / (2.0 * np.pi * R),
                a[:, 1, 1] / (2.0 * np.pi * R**3),
                a[:, 0, 1] / (2.0 * np.pi * R**2),
            ),
            (2, 5, b[:, 0, 0] / (np.pi * R**3), b[:, 1, 1] / (np.pi * R), b[:, 0, 1] / (np.pi * R**2)),
            (3, 4, b[:, 0, 0] / (np.pi * R**3), b[:, 1, 1] / (np.pi * R), -b[:, 0, 1] / (np.pi * R**2)),
        )
        self.wall_stiffness = K = np.zeros((len(R), 6, 6))
        for i, j, first, second, couple in blocks:
            det = first * second - couple * couple
            K[:, i, i], K[:, j, j], K[:, i, j] = second / det, first / det, -couple / det
            K[:, j, i] = K[:, i, j]
        self.stiffness = K
        if core_modulus > 0.0:
            self.stiffness = K.copy()
            inner = R - thickness / 2.0
            filling = np.pi * inner**2 * core_modulus
            for index, share in ((0, 1.0), (2, inner**2 / 4.0), (3, inner**2 / 4.0)):
                self.stiffness[:, index, index] += filling * share

    @property
    def compliance(self) -> np.ndarray:
        """Strains per force of the wall alone, (n, 6, 6)."""
        return np.linalg.inv(self.wall_stiffness)

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
        strains = np.zeros((11, len(forces), len(angles)))
        # N_x and the shear flow: what is even round the section, and what bending and transverse forces add
        pull, flow = N / (2.0 * np.pi * R), T / (2.0 * np.pi * R**2)
        bend, shear = (My * cos + Mz * sin) / (np.pi * R**2), (Vy * cos - Vz * sin) / (np.pi * R)
        even, bent = self.even[:, :, :, None], self.bent[:, :, :, None]
        along = bent[:, 0, 0] * bend + bent[:, 0, 1] * shear
        strains[0] = even[:, 0, 0] * pull + even[:, 0, 1] * flow + along
        strains[2] = even[:, 1, 0] * pull + even[:, 1, 1] * flow + bent[:, 1, 0] * bend + bent[:, 1, 1] * shear
        A = self.plate.membrane
        strains[1] = (-A[1, 0] / A[1, 1]) * strains[0] - (A[1, 2] / A[1, 1]) * strains[2]
        # a ply further out is strained more: the curvature along x, and the twist
        strains[3] = along / R
        strains[5] = strains[2] / R
        if self.plate.faces:
            strains[6:9] = strains[3:6]
        return np.moveaxis(strains, 0, -1)


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
    compliance = np.empty((len(stiffness), 2, 2))
    det = a * d - b * b
    compliance[:, 0, 0], compliance[:, 1, 1] = d / det, a / det
    compliance[:, 0, 1] = compliance[:, 1, 0] = -b / det
    return compliance
