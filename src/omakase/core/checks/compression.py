"""Compression in the faces: principal values of the face force, shared by wrinkling, dimpling and crimping."""

from __future__ import annotations

import numpy as np

from omakase.core.checks.places import Places
from omakase.core.plates.section import Core, Face

EVEN = 1e-12  # a core whose moduli differ by no more is the same in all directions, as foam is


def face_forces(face: Face, places: Places) -> np.ndarray:
    """Membrane force of a face (N_x, N_y, N_xy), N/m: (3, places)."""
    s = places.strains
    return face.A @ (s[0:3] + face.z_middle * s[3:6]) + face.B @ s[6:9]


def face_compression(face: Face, places: Places) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """``principal_compression`` of a face's force; worked out once."""
    key = f"compression of face {face.name}"
    if key not in places.derived:
        places.derived[key] = principal_compression(face_forces(face, places))
    first, second, direction = places.derived[key]
    return first, second, direction


def principal_compression(force: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Largest and smallest principal compression (N/m, positive, zero where tension) and direction of the largest.

    ``force`` (3, ...) gives arrays (...); the direction is in degrees from x toward y, that of the other is at
    right angles to it.
    """
    mean = (force[0] + force[1]) / 2.0
    half = (force[0] - force[1]) / 2.0
    radius = np.hypot(half, force[2])
    first = np.maximum(-(mean - radius), 0.0)
    second = np.maximum(-(mean + radius), 0.0)
    # the most negative principal value lies at right angles to the most positive
    direction = np.degrees(0.5 * np.arctan2(force[2], half)) + 90.0
    return first, second, direction


def directional_bending(face: Face, direction: np.ndarray) -> np.ndarray:
    """Bending stiffness D11 of a face in ``direction`` (degrees), N m, with its membrane coupling relaxed."""
    D = face.bending
    c, s = np.cos(np.radians(direction)), np.sin(np.radians(direction))
    x, y, xy = c * c, s * s, 2.0 * c * s  # curvature 1 along the direction, 0 across
    return (
        D[0, 0] * x * x
        + D[1, 1] * y * y
        + D[2, 2] * xy * xy
        + 2.0 * (D[0, 1] * x * y + D[0, 2] * x * xy + D[1, 2] * y * xy)
    )


def directional_core_shear(core: Core, direction: np.ndarray) -> np.ndarray:
    """Shear modulus of the core in a vertical plane along ``direction`` (degrees), Pa."""
    G = core.shear_modulus
    if abs(G[0, 0] - G[1, 1]) + abs(G[0, 1]) <= EVEN * G[0, 0]:
        return np.full(np.shape(direction), G[0, 0])
    c, s = np.cos(np.radians(direction)), np.sin(np.radians(direction))
    return G[0, 0] * c * c + 2.0 * G[0, 1] * c * s + G[1, 1] * s * s
