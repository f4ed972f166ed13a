"""Compression in the faces: principal values of the face force, shared by wrinkling, dimpling and crimping."""

from __future__ import annotations

from typing import Any

import numpy as np

from omakase.core.checks.places import Places
from omakase.core.plates.section import Core, Face, PlateSection

# the curvature (cos² θ, sin² θ, 2 sin θ cos θ), 1 along a direction and 0 across it, is (1, cos 2θ, sin 2θ) times these
CURVATURE = np.array([[0.5, 0.5, 0.0], [0.5, -0.5, 0.0], [0.0, 0.0, 1.0]])
EVEN = 1e-12  # a core whose moduli differ by no more is the same in all directions, as foam is


class Compression:
    """Principal compression under forces (N_x, N_y, N_xy), N/m, (3, ...).

    ``first``, ``second`` : the largest and the smallest, (...), N/m, positive, zero where there is tension.
    """

    def __init__(self, force: np.ndarray) -> None:
        self._mean = mean = (force[0] + force[1]) / 2.0
        self._half, self._shear = (force[0] - force[1]) / 2.0, force[2]
        self._radius = np.sqrt(self._half * self._half + self._shear * self._shear)
        self.first = np.maximum(self._radius - mean, 0.0)
        self.second = np.maximum(-mean - self._radius, 0.0)

    def parts(self, at: Any = ...) -> np.ndarray:
        """(mean, half the difference, shear) where ``at`` points, (3, ...), N/m.

        The force along an axis, see ``axis_at``, is the first plus the others times the axis.
        """
        return np.stack([self._mean[at], self._half[at], self._shear[at]])

    def axis(self, at: Any = ...) -> np.ndarray:
        """Direction of the largest where the index ``at`` points, as an axis (2, ...), see ``axis_at``.

        That of the smallest is at right angles to it: the same with its sign changed.
        """
        # the most negative principal value lies at right angles to the most positive, at half the angle of (half, N_xy)
        radius = self._radius[at]
        acts = radius > 0.0
        divisor = np.where(acts, -radius, 1.0)
        return np.stack([np.where(acts, self._half[at] / divisor, -1.0), self._shear[at] / divisor])


def face_compression(section: PlateSection, places: Places) -> Compression:
    """Compression under the membrane forces of face A, of face B and of both together: (3, places); kept."""
    if "compression" not in places.derived:
        per_strain = [np.concatenate([face.A, face.z_middle * face.A, face.B], axis=1) for face in section.faces]
        rows = np.concatenate([*per_strain, per_strain[0] + per_strain[1]])
        forces = (rows @ places.strains[0:9]).reshape(3, 3, -1)
        places.derived["compression"] = Compression(forces.swapaxes(0, 1))
    return places.derived["compression"]


def axis_at(angle: np.ndarray) -> np.ndarray:
    """(cos 2θ, sin 2θ), (2, ...), of directions at ``angle`` (...) in degrees from x toward y.

    A stiffness in a direction is a polynomial of these two; no further sine or cosine is needed.
    """
    double = np.radians(2.0 * np.asarray(angle))
    return np.stack([np.cos(double), np.sin(double)])


def turned_bending(bending: np.ndarray) -> np.ndarray:
    """Bending stiffness (..., 3, 3) of a face in the terms of ``bending_along``."""
    return CURVATURE @ bending @ CURVATURE.T


def bending_along(turned: Any, axis: np.ndarray) -> np.ndarray:
    """Bending stiffness D11 along an ``axis`` (2, ...), N m, from rows and columns of ``turned_bending``.

    Its entries may be numbers, or arrays that go with the axis: one face, or many.
    """
    q, (cos, sin) = turned, axis
    return cos * (q[1][1] * cos + 2.0 * q[1][2] * sin + 2.0 * q[0][1]) + sin * (q[2][2] * sin + 2.0 * q[0][2]) + q[0][0]


def directional_bending(face: Face, axis: np.ndarray) -> np.ndarray:
    """Bending stiffness D11 of a face along an ``axis`` (2, ...), N m, with its membrane coupling relaxed."""
    return bending_along(turned_bending(face.bending).tolist(), axis)


def mean_bending(face: Face) -> float:
    """(3 D11 + 3 D22 + 2 D12 + 4 D66)/8 of a face, N m: what a round dent meets, whatever the direction of the load.

    Exact for a clamped circular orthotropic plate (Timoshenko and Woinowsky-Krieger 1959, section 86, from memory;
    derived again as the mean of the bending stiffness over all directions).
    """
    D = face.bending
    return float(3.0 * D[0, 0] + 3.0 * D[1, 1] + 2.0 * D[0, 1] + 4.0 * D[2, 2]) / 8.0


def alike_all_round(core: Core) -> bool:
    """Whether the shear modulus of a core is the same in all directions."""
    G = core.shear_modulus
    return bool(abs(G[0, 0] - G[1, 1]) + abs(G[0, 1]) <= EVEN * G[0, 0])


def directional_core_shear(core: Core, axis: np.ndarray) -> np.ndarray:
    """Shear modulus of the core in a vertical plane along an ``axis`` (2, ...), Pa; (...), or () if always the same."""
    G = core.shear_modulus
    return np.array(G[0, 0]) if alike_all_round(core) else shear_along(G, axis)


def shear_along(G: Any, axis: np.ndarray) -> np.ndarray:
    """Shear modulus along an ``axis`` (2, ...), Pa, from rows and columns of it: numbers, or arrays of many cores."""
    return (G[0][0] + G[1][1]) / 2.0 + (G[0][0] - G[1][1]) / 2.0 * axis[0] + G[0][1] * axis[1]


def core_share(core: Core, compression: Compression) -> np.ndarray:
    """Largest share of compression over core shear modulus in any direction, (...), m.

    The largest eigenvalue of G⁻¹ (−N): with nᵀ(−N)n the compression and nᵀ G n the modulus along n.
    """
    root = np.linalg.inv(np.linalg.cholesky(core.shear_modulus))
    mean, half, shear = compression.parts()
    N = np.array([[mean + half, shear], [shear, mean - half]])
    scaled = np.einsum("ij,jk...,lk->il...", root, N, root)
    return Compression(np.stack([scaled[0, 0], scaled[1, 1], scaled[0, 1]])).first
