"""A mesh as plain numbers: layered bricks of 20 nodes, or layered shells of 8, in the order that solvers share.

Corners first, then the middles of the edges (of a brick: below, above, upright).  SI units throughout.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import msgspec
import numpy as np

from omakase.core.laminate.stack import Layer

Shape = Literal["brick", "shell"]
Tie = tuple[np.ndarray, np.ndarray, np.ndarray]  # nodes, axes, weights of displacements whose sum is zero


class Group(msgspec.Struct, frozen=True, eq=False):
    """Elements of one make-up.  ``elements`` : (m, 20 or 8) nodes.

    ``layers`` : from the first node side up (bricks: the one layer that they are; shells: all, the lowest first).
    ``densities`` : of each layer, kg/m³, with the resin that cores absorb.
    ``along`` : (3,) direction that angles start from, ``across`` : (3,) the one they turn toward; ``frames`` : both of
    each element, (m, 2, 3), where a member is curved.
    """

    name: str
    elements: np.ndarray
    layers: tuple[Layer, ...]
    densities: tuple[float, ...]
    along: np.ndarray
    across: np.ndarray
    frames: np.ndarray | None = None

    @property
    def shape(self) -> Shape:
        """What its elements are."""
        return "shell" if self.elements.shape[1] == 8 else "brick"


class Loading(msgspec.Struct, frozen=True, eq=False):
    """A load case.  ``forces`` : (n, 3) N on each node; ``gravity`` : m/s² along −z on all that weighs; ``large`` :
    whether displacements are too large for linear equations; ``loose`` : whether its supports are ``Mesh.held_loose``.
    """

    name: str
    key: str
    forces: np.ndarray
    gravity: float = 0.0
    large: bool = False
    loose: bool = False


class Mesh(msgspec.Struct, frozen=True, eq=False):
    """``nodes`` : (n, 3) m.  ``held`` : (n, 3) which displacements are zero;
    ``held_loose`` : under load cases that pull at edges, which must move for it.

    ``columns`` : (c, k) nodes that stand for one place each, with ``places`` (c, 2) x, y, for reading displacements:
    of bricks those over each other, of a member with a span all of one station.  ``plates`` : whether they are the
    first of these, whose deflection is along ``normals`` (c, 3).  ``watched`` : elements, counted through the groups,
    whose stress is printed.
    ``upright`` : whether the program knows no vibrations but those up and down.
    ``sums`` : of displacements whose weighted sum is zero: of a section that is held and may twist, of an edge that may
    move but not turn, of a direction that is no axis.  ``springs`` : (node, axis, N/m).  ``tips`` : nodes of ribs that
    tell vibrations of their own from those of the panel.
    """

    nodes: np.ndarray
    groups: tuple[Group, ...]
    held: np.ndarray
    cases: tuple[Loading, ...]
    columns: np.ndarray
    places: np.ndarray
    plates: bool
    watched: np.ndarray
    sums: tuple[Tie, ...] = ()
    held_loose: np.ndarray | None = None
    normals: np.ndarray | None = None
    springs: tuple[tuple[int, int, float], ...] = ()
    tips: tuple[int, ...] = ()
    upright: bool = False

    @property
    def elements(self) -> int:
        """How many elements there are."""
        return sum(len(group.elements) for group in self.groups)


CORNERS = np.array([[-1.0, -1.0], [1.0, -1.0], [1.0, 1.0], [-1.0, 1.0]])
HALF_STEPS = ((0, 0), (2, 0), (2, 2), (0, 2), (1, 0), (2, 1), (1, 2), (0, 1))  # of the 8 nodes of a quadrilateral
HRZ = np.array([3.0] * 4 + [16.0] * 4) / 76.0  # shares of an area, all positive (Hinton 1976, from memory)
SAME = 1e-7  # m; places closer than this are one
POINTS, WEIGHTS = np.polynomial.legendre.leggauss(3)


def quadratic(at: np.ndarray) -> np.ndarray:
    """Shape functions of the 8-node square, corners then middles, at (p, 2) places in −1 to 1: (p, 8)."""
    x, y = at[:, 0], at[:, 1]
    corners = [(1 + a * x) * (1 + b * y) * (a * x + b * y - 1) / 4.0 for a, b in CORNERS]
    middles = [(1 - x**2) * (1 - y) / 2, (1 + x) * (1 - y**2) / 2, (1 - x**2) * (1 + y) / 2, (1 - x) * (1 - y**2) / 2]
    return np.stack([*corners, *middles], axis=1)


def quadratic_slopes(at: np.ndarray) -> np.ndarray:
    """Derivatives of ``quadratic`` along both coordinates: (2, p, 8)."""
    x, y = at[:, 0], at[:, 1]
    along = [a * (1 + b * y) * (2 * a * x + b * y) / 4.0 for a, b in CORNERS]
    across = [b * (1 + a * x) * (2 * b * y + a * x) / 4.0 for a, b in CORNERS]
    along += [-x * (1 - y), (1 - y**2) / 2, -x * (1 + y), -(1 - y**2) / 2]
    across += [-(1 - x**2) / 2, -(1 + x) * y, (1 - x**2) / 2, -(1 - x) * y]
    return np.stack([np.stack(along, axis=1), np.stack(across, axis=1)])


def half_steps(places: np.ndarray) -> np.ndarray:
    """Places and the middles between them."""
    return np.interp(np.arange(2 * len(places) - 1) / 2.0, np.arange(len(places)), places)


def bricks_between(low: np.ndarray, between: np.ndarray, high: np.ndarray) -> np.ndarray:
    """(..., 20) nodes of bricks whose ends are the quadrilaterals ``low`` and ``high`` (..., 8), with the nodes between
    their corners (..., 4)."""
    return np.concatenate([low[..., :4], high[..., :4], low[..., 4:], high[..., 4:], between], axis=-1)


def quad_areas(corners: np.ndarray) -> np.ndarray:
    """Of quadrilaterals with straight sides, (n, 4, 2) m, positive where they turn from the first axis to the second:
    (n,) m²."""
    first, second, third, fourth = np.moveaxis(corners, 1, 0)
    one, other = third - first, fourth - second
    return np.asarray((one[:, 0] * other[:, 1] - one[:, 1] * other[:, 0]) / 2.0)


def edge_speed(points: np.ndarray, at: np.ndarray) -> np.ndarray:
    """How fast a curved edge through (3, k) ``points``, its ends and its middle, is run along at places (n,) from −1 to
    1: (n,) m."""
    t = at[:, None]
    first, last, middle = points
    return np.asarray(np.linalg.norm((t - 0.5) * first + (t + 0.5) * last - 2.0 * t * middle, axis=1))


def over_rectangle(low: Sequence[float], high: Sequence[float], part: Sequence[float]) -> np.ndarray:
    """Shares of a uniform pressure of 1 over the part (x low, x high, y low, y high) of an upright rectangle that its
    8 nodes take: (8,) m²; exact."""
    x_low, x_high = max(low[0], part[0]), min(high[0], part[1])
    y_low, y_high = max(low[1], part[2]), min(high[1], part[3])
    if x_high <= x_low or y_high <= y_low:
        return np.zeros(8)
    x = (x_low + x_high) / 2.0 + POINTS * (x_high - x_low) / 2.0
    y = (y_low + y_high) / 2.0 + POINTS * (y_high - y_low) / 2.0
    grid = np.array([(a, b) for a in x for b in y])
    weights = np.outer(WEIGHTS, WEIGHTS).ravel() * (x_high - x_low) * (y_high - y_low) / 4.0
    size = np.array([high[0] - low[0], high[1] - low[1]])
    local = 2.0 * (grid - np.array([low[0], low[1]])) / size - 1.0
    return weights @ quadratic(local)
