"""Stress beside a round hole in a wide laminate under forces in its plane."""

from __future__ import annotations

import numpy as np

AROUND = np.radians(np.arange(0.0, 360.0, 3.0))
CHARACTERISTIC = 1.0e-3  # m from the edge, at which a laminate's strength is read


def beside_hole(A: np.ndarray, forces: np.ndarray, reach: float = 0.0) -> np.ndarray:
    """Forces per width (n, 3) round a hole, ``reach`` radii off its edge, of a laminate of stiffness ``A`` (3, 3) N/m
    under far ``forces`` (N_x, N_y, N_xy) N/m.

    Complex potentials of an anisotropic sheet, exact for one that is wide compared with its hole (Lekhnitskii,
    Anisotropic Plates, 1968; derived here anew and checked against a sheet of isotropic and of orthotropic stiffness,
    whose factors in tension are 3 and 1 + √(2 (√(E_x/E_y) − ν_xy) + E_x/G_xy)).  Equal roots are separated by 1e-4.
    """
    a = np.linalg.inv(A)
    roots = np.roots([a[0, 0], -2.0 * a[0, 2], 2.0 * a[0, 1] + a[2, 2], -2.0 * a[1, 2], a[1, 1]])
    one, two = sorted(roots[roots.imag > 0.0], key=lambda root: (root.imag, root.real))
    if abs(one - two) < 1e-4:
        one, two = one - 1e-4j, two + 1e-4j
    Nx, Ny, Nxy = forces
    first, second = np.linalg.solve(
        np.array([[1.0, 1.0], [one, two]]), np.array([(-Ny + 1j * Nxy) / 2.0, (Nxy - 1j * Nx) / 2.0])
    )
    x, y = (1.0 + reach) * np.cos(AROUND), (1.0 + reach) * np.sin(AROUND)
    slopes = []
    for root, amount in ((one, first), (two, second)):
        z = x + root * y
        edge = np.sqrt(z**2 - 1.0 - root**2 + 0j)
        # of the two branches the one that lies outside the unit circle
        zeta = (z + edge) / (1.0 - 1j * root)
        inside = np.abs(zeta) < 1.0 - 1e-9
        edge = np.where(inside, -edge, edge)
        zeta = (z + edge) / (1.0 - 1j * root)
        slopes.append(-amount / zeta**2 * (1.0 + z / edge) / (1.0 - 1j * root))
    f, g = slopes
    return np.stack([
        Nx + 2.0 * np.real(one**2 * f + two**2 * g), Ny + 2.0 * np.real(f + g),
        Nxy - 2.0 * np.real(one * f + two * g),
    ], axis=1)  # fmt: skip
