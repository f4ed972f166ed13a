"""Buckling of a wall that bends over its width, by different amounts as the skin of an aerofoil does."""

from __future__ import annotations

from functools import cached_property
from itertools import combinations

import numpy as np

from omakase.core.kept import keep_last
from omakase.core.plates.section import PlateSection
from omakase.core.sections.cylinder import knock_down, torsion_buckling, wall_stiffness
from omakase.core.sections.long_plates import long_plate

WAVES = np.geomspace(0.06, 3.0, 28)  # half waves along that are tried, in widths of the part
FLATTEST = 1e3  # radius of a part that counts as flat, in its widths


class CurvedWall:
    """A wall through corners (n, 2), y and z in m, and all its parts from corner to corner.

    Each part is taken as a simply supported curved panel of its width b, its mean load and its curvature κ, of which
    the roots are averaged, so that rounded ends do not stiffen a flat: by the weights sin² of half a wave across.  The
    part that buckles first counts.  From Donnell's equations (derived), with a half wave π/k along, β = π/b and
    a = A⁻¹,

        N k² = D11 k⁴ + 2 (D12 + 2 D66) k² β² + D22 β⁴ + γ² κ² k⁴/(a22 k⁴ + (2 a12 + a66) k² β² + a11 β⁴),

    which is the long plate where it is flat, and a cylinder times its knock-down γ where the part is wide.  Against
    finite strips of whole sections, without a knock-down: 15 to 35 % low on noses and wing skins, since parts turn
    freely at their edges here.  A16, A26, D16 and D26 are left out; a layup that is not symmetric counts D − B A⁻¹ B;
    transverse shear of a sandwich acts in series.
    """

    def __init__(self, corners: np.ndarray) -> None:
        runs = np.diff(corners, axis=0)
        along = np.concatenate([[0.0], np.cumsum(np.hypot(*runs.T))])
        bent = _curvatures(runs)
        first, last = np.array(list(combinations(range(len(corners)), 2))).T
        self.wide = along[last] - along[first]  # (parts,) m

        def through(s: np.ndarray) -> np.ndarray:
            """What of sin² over each part lies before ``s``: (parts, ...), from 0 to 1."""
            t = np.clip((s - along[first][:, None]) / self.wide[:, None], 0.0, 1.0)
            return np.asarray(t - np.sin(2.0 * np.pi * t) / (2.0 * np.pi))

        self.weights = np.diff(through(along), axis=1)  # (parts, pieces): of the load of each piece
        roots = np.sign(bent) * np.sqrt(np.abs(bent))
        self.curvature = (self.weights @ roots) ** 2  # (parts,) 1/m

    @cached_property
    def radii(self) -> np.ndarray:
        """m, (parts,), of flat ones that of ``FLATTEST``."""
        return 1.0 / np.maximum(self.curvature, 1.0 / (FLATTEST * self.wide))

    def pressed(self, plate: PlateSection, loading: str = "") -> tuple[np.ndarray, np.ndarray]:
        """Loads along, N/m, at which the parts buckle, and their half waves in m: (parts,) each.

        ``loading`` : "axial" where the whole section is pressed, "bending" where it is pulled elsewhere: that is
        knocked down less (NASA SP-8007); without one it is not knocked down.
        """
        A, _, _ = wall_stiffness(plate)
        law, a = long_plate(plate), np.linalg.inv(A)
        k2, b2 = (np.pi / (WAVES * self.wide[:, None])) ** 2, (np.pi / self.wide[:, None]) ** 2
        bending = law.D11 * k2 + 2.0 * (law.D12 + 2.0 * law.D66) * b2 + law.D22 * b2**2 / k2
        stretching = k2 / (a[1, 1] * k2**2 + (2.0 * a[0, 1] + a[2, 2]) * k2 * b2 + a[0, 0] * b2**2)
        arch = (self.curvature * (knock_down(plate, self.radii, loading) if loading else 1.0)) ** 2
        loads = bending + arch[:, None] * stretching
        best = loads.argmin(axis=1)
        found = loads[np.arange(len(best)), best]
        return 1.0 / (1.0 / found + 1.0 / law.shear), WAVES[best] * self.wide

    def sheared(self, plate: PlateSection, length: float) -> np.ndarray:
        """Shear flow in N/m at which the parts of a wall ``length`` m long buckle, the flat ones as long plates, those
        that bend as cylinders in torsion, knocked down: (parts,)."""
        torsion = torsion_buckling(plate, self.radii, length) * knock_down(plate, self.radii, "torsion")
        return np.maximum(long_plate(plate).in_shear(self.wide), torsion)


@keep_last(64)
def curved_wall(corners: bytes) -> CurvedWall:
    """The wall through corners (n, 2) given as bytes; kept, since turning a ply does not move them."""
    return CurvedWall(np.frombuffer(corners).reshape(-1, 2))


def _curvatures(runs: np.ndarray) -> np.ndarray:
    """Of each straight piece (pieces, 2), 1/m with a sign: corners between pieces alike belong to both, one between an
    arc's short piece and a long one, which is flat, to the short."""
    lengths = np.hypot(*runs.T)
    turns = np.diff(np.unwrap(np.arctan2(runs[:, 1], runs[:, 0])))
    share = lengths[1:] ** 2 / (lengths[:-1] ** 2 + lengths[1:] ** 2)  # that the piece before a corner has of it
    bent = np.zeros(len(runs))
    bent[:-1] += share * turns
    bent[1:] += (1.0 - share) * turns
    if len(runs) > 1:  # nothing is known beyond the ends: as far on as inside
        bent[[0, -1]] *= 2.0
    return np.asarray(bent / lengths)
