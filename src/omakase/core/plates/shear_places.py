"""Where on a plate the shear between plies may be read from the gradients of its moments, and where not."""

from __future__ import annotations

import numpy as np

from omakase.core.plates.grid import Edges
from omakase.core.plates.lines import corner_reach, couples_twist
from omakase.core.plates.section import PlateSection

ROUGH_REMARK = (
    "this shear comes from the gradients of the moments, which are rough where bending twists the laminate and where a "
    "clamped edge meets a free one: it may be off by a quarter, more at that clamp; test it where it governs"
)


def in_corners(
    x: np.ndarray, y: np.ndarray, size: tuple[float, float], corners: np.ndarray, reach: float
) -> np.ndarray:
    """Whether places on a panel of ``size`` lie within ``reach`` of both sides of a corner: (x, y) booleans.

    ``corners`` : (2, 2) booleans, which of them count, by ends along x and y.
    """
    inside = reach * (1.0 - 1e-6)  # a place on the border is looked at
    near_x = np.stack([x < inside, size[0] - x < inside])
    near_y = np.stack([y < inside, size[1] - y < inside])
    return np.any(corners[:, :, None, None] & near_x[:, None, :, None] & near_y[None, :, None, :], axis=(0, 1))


def rough_shear(edges: Edges, section: PlateSection) -> str:
    """Why the shear between plies may be off under these supports, or nothing."""
    return ROUGH_REMARK if couples_twist(section) or bool(loose_corners(edges).any()) else ""


def loose_corners(edges: Edges) -> np.ndarray:
    """Corners where a clamped and a free edge meet: (2, 2) booleans, by end along x and along y."""
    return np.array([[{x, y} == {"clamped", "free"} for y in (edges.y0, edges.y1)] for x in (edges.x0, edges.x1)])


def shear_left_out(x: np.ndarray, y: np.ndarray, edges: Edges, skew: bool) -> np.ndarray:
    """Mask of the samples in the corners and beside resting and free edges, or beside all of a skew section, (x, y)."""
    size = (float(x[-1]), float(y[-1]))
    double = 2.0 * corner_reach(*size)
    loose = loose_corners(edges)
    mask = in_corners(x, y, size, ~loose, double) | in_corners(x, y, size, loose, 2.0 * double)
    reach = double if skew else double / 2.0
    first_x, last_x = x < reach, x[-1] - x < reach
    first_y, last_y = y < reach, y[-1] - y < reach
    soft = ("free", "resting", "simple", "clamped") if skew else ("free", "resting")
    for edge, near in ((edges.x0, first_x), (edges.x1, last_x)):
        mask |= near[:, None] if edge in soft else False
    for edge, near in ((edges.y0, first_y), (edges.y1, last_y)):
        mask |= near[None, :] if edge in soft else False
    return mask
