"""What a laminate is as if it were one material: engineering constants in its plane and in bending, by direction."""

from __future__ import annotations

import msgspec
import numpy as np

from omakase.core.laminate.stack import Stack
from omakase.core.laminate.stiffness import laminate_abd


class Constants(msgspec.Struct, frozen=True):
    """Equivalent moduli in Pa along the panel's axes, and Poisson's ratio."""

    Ex: float
    Ey: float
    Gxy: float
    nuxy: float


class LaminateConstants:
    """Constants of a stack as a whole, thickness h of all layers, also those not counted on.

    ``A``, ``B``, ``D`` : (3, 3) arrays, N/m, N, N m, about the middle of the stack.  In the plane with bending free:
    the compliance a of [[A, B], [B, D]]⁻¹ gives E_x = 1/(h a11); in bending with stretching free: d gives
    E_x = 12/(h³ d11).  Jones, Mechanics of Composite Materials (1999), section 4.3.  A sandwich's core shear is not in
    these numbers: they are those of a thin plate.
    """

    def __init__(self, stack: Stack) -> None:
        self.thickness = stack.thickness
        self.A, self.B, self.D = laminate_abd(stack)
        compliance = np.linalg.inv(np.block([[self.A, self.B], [self.B, self.D]]))
        self._in_plane = compliance[:3, :3] * self.thickness
        self._bending = compliance[3:, 3:] * self.thickness**3 / 12.0

    @property
    def in_plane(self) -> Constants:
        """Constants under stretching."""
        return _constants(self._in_plane)

    @property
    def bending(self) -> Constants:
        """Constants under bending: those of a homogeneous plate of this thickness that bends alike."""
        return _constants(self._bending)

    def modulus(self, angles: np.ndarray, bending: bool = False) -> np.ndarray:
        """Young's modulus in Pa in directions ``angles``, degrees from x toward y: 1/(nᵀ S n), n = (c², s², cs)."""
        c, s = np.cos(np.radians(angles)), np.sin(np.radians(angles))
        n = np.stack([c * c, s * s, c * s], axis=-1)
        return 1.0 / np.einsum("...i,ij,...j->...", n, self._bending if bending else self._in_plane, n)


def _constants(compliance: np.ndarray) -> Constants:
    return Constants(
        float(1.0 / compliance[0, 0]),
        float(1.0 / compliance[1, 1]),
        float(1.0 / compliance[2, 2]),
        float(-compliance[1, 0] / compliance[0, 0]),
    )
