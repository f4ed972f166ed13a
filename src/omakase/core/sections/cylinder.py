"""Buckling of the wall of a cylinder and flattening of a bent tube."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from omakase.core.plates.section import PlateSection

LONGEST_WAVES = 40  # half waves along, at most, in the search for the least
MOST_AROUND = 16


def wall_stiffness(plate: PlateSection) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """A, B, D of the wall, (3, 3) each; of a sandwich with faces that bend with it."""
    C = plate.membrane
    A = C[:3, :3]
    if not plate.faces:
        return A, C[:3, 3:6], C[3:6, 3:6]
    B = C[:3, 3:6] + C[:3, 6:9]
    D = C[3:6, 3:6] + C[3:6, 6:9] + C[6:9, 3:6] + C[6:9, 6:9]
    return A, B, D


def bending_alone(A: np.ndarray, B: np.ndarray, D: np.ndarray) -> np.ndarray:
    """Bending stiffness D − B A⁻¹ B of a wall that is free to stretch as it bends, (3, 3)."""
    return np.asarray(D - B.T @ np.linalg.solve(A, B))


def axial_buckling(plate: PlateSection, radius: np.ndarray, length: float) -> np.ndarray:
    """Classical buckling load per width, N/m, of orthotropic cylinders of radii (n,) with simple ends: (n,), without a
    knock-down.

    The determinant of NASA SP-8007 (1968), section 4.2.3.1, least over half waves m along and full waves n around;
    written here from Donnell's equations (derived).  A16, A26 and similar couplings are neglected.  Transverse shear of
    a sandwich is counted in series, N = 1/(1/N_cl + 1/S).  In m and N/m.
    """
    A, B, D = wall_stiffness(plate)
    shortest = float(np.sqrt(radius.min() * plate.stack.thickness))
    longest = max(1, min(LONGEST_WAVES * 8, int(np.ceil(4.0 * length / shortest))))
    m = _half_waves(longest)[:, None]
    # n = 1 bends the tube as a strut: that is judged as one
    n = np.array([0, *range(2, MOST_AROUND + 1)])[None, :]
    R = radius = np.asarray(radius, float)[:, None, None]
    a, b = m * np.pi / length, n / R
    a2, b2 = a * a, b * b
    A11 = A[0, 0] * a2 + A[2, 2] * b2
    A22 = A[1, 1] * b2 + A[2, 2] * a2
    A12 = (A[0, 1] + A[2, 2]) * a * b
    A33 = (
        D[0, 0] * a2 * a2 + (4.0 * D[2, 2] + 2.0 * D[0, 1]) * a2 * b2 + D[1, 1] * b2 * b2
        + A[1, 1] / radius**2 + 2.0 * B[1, 1] / radius * b2 + 2.0 * B[0, 1] / radius * a2
    )  # fmt: skip
    A23 = (B[0, 1] + 2.0 * B[2, 2]) * a2 * b + A[1, 1] / radius * b + B[1, 1] * b2 * b
    A13 = A[0, 1] / radius * a + B[0, 0] * a2 * a + (B[0, 1] + 2.0 * B[2, 2]) * a * b2
    with np.errstate(divide="ignore", invalid="ignore"):
        det2 = A11 * A22 - A12**2
        det3 = A11 * (A22 * A33 - A23**2) - A12 * (A12 * A33 - A23 * A13) + A13 * (A12 * A23 - A22 * A13)
        plain = A33 - A13**2 / A11  # n = 0: no displacement around
        load = np.where(b > 0.0, det3 / det2, plain) / a2
    classical: np.ndarray = load.min(axis=(1, 2))
    if plate.faces:
        return 1.0 / (1.0 / classical + 1.0 / float(np.diag(plate.shear).min()))
    return classical


@lru_cache(maxsize=64)
def _half_waves(longest: int) -> np.ndarray:
    """Whole numbers from 1 to ``longest``, at most 60 of them and closer at the low end."""
    return np.unique(np.round(np.geomspace(1, longest, 60)).astype(int))


def torsion_buckling(plate: PlateSection, radius: np.ndarray, length: float) -> np.ndarray:
    """Shear per width, N/m, at which orthotropic cylinders of radii (n,) buckle under torque, without a knock-down.

    T = 20.6 D_y^(5/8) ((E_x E_y − …)/E_y)^(3/8) R^(5/4)/L^(1/2): the form of NASA SP-8007 (1968), section 4.2.3.3 (from
    memory, there with 21.75), set to that manual's isotropic 0.747 E t (t/R)^(5/4) (R/L)^(1/2), which is lower.  For
    moderately long cylinders; a longer one is taken as two waves around, E t (t/R)^(3/2)/(3√2
    (1 − ν²)^(3/4)) (Schwerin 1925, from memory), by the geometric means of the wall's stiffness, where that is more.
    """
    A, _, D = wall_stiffness(plate)
    along = A[0, 0] - A[0, 1] ** 2 / A[1, 1]
    moderate = 20.64 * D[1, 1] ** 0.625 * along**0.375 * radius**1.25 / np.sqrt(length) / (2.0 * np.pi * radius**2)
    # of an isotropic wall D^(3/4) A^(1/4) is E t^(5/2)/(12 (1 − ν²))^(3/4)
    endless = 12.0**0.75 / (3.0 * np.sqrt(2.0)) * D[1, 1] ** 0.75 * along**0.25 / radius**1.5
    return np.maximum(moderate, endless)


def knock_down(plate: PlateSection, radius: np.ndarray, loading: str) -> np.ndarray:
    """γ of NASA SP-8007 (1968): axial 1 − 0.901 (1 − e^−φ), bending 1 − 0.731 (1 − e^−φ), φ = √(r/t)/16; torsion 0.67.

    For a layered wall t is the thickness of an even one with its bending and stretching: √12 (D_x D_y/(A_x A_y))^¼, the
    manual's own rule (t = 3.4689 …).
    """
    if loading == "torsion":
        return np.full(len(radius), 0.67)
    A, _, D = wall_stiffness(plate)
    thickness = np.sqrt(12.0) * (D[0, 0] * D[1, 1] / (A[0, 0] * A[1, 1])) ** 0.25
    phi = np.sqrt(radius / thickness) / 16.0
    share = {"axial": 0.901, "bending": 0.731}[loading]
    return 1.0 - share * (1.0 - np.exp(-phi))


def flattening_moment(plate: PlateSection, radius: np.ndarray) -> np.ndarray:
    """Moment in N m, (n,), at which bent long tubes of radii (n,) collapse by flattening: (2π/3)√(8/3) R √(A_x D_s).

    Brazier 1927, for an isotropic wall (2√2/9) π E r t²/√(1 − ν²).  Derived for a layered one from the energy of
    ovalisation w = R ζ cos 2α, per length ½κ² π R³ A_x (1 − 3ζ/2) + (9π/2) D_s ζ²/R: M = π R³ A_x κ (1 − κ² R⁴
    A_x/(8 D_s)) is largest at κ² = 8 D_s/(3 R⁴ A_x).  A_x along with no force around, D_s around.
    """
    A, _, D = wall_stiffness(plate)
    along = 1.0 / np.linalg.inv(A)[0, 0]
    return 2.0 * np.pi / 3.0 * np.sqrt(8.0 / 3.0) * radius * np.sqrt(along * D[1, 1])


def ring_moment(force: float, radius: float) -> float:
    """Moment in N m in a ring under two opposite forces in N, below each: F R/π (textbook; Roark, table 9.2)."""
    return abs(force) * radius / np.pi
