"""What every detail has: where it sits on the member, the layup there, and the forces of each load case."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import Protocol

import msgspec
import numpy as np

from omakase.core.errors import OmakaseError
from omakase.core.laminate.failure import CRITERIA
from omakase.core.laminate.stack import Layer, Stack
from omakase.core.laminate.stiffness import laminate_abd
from omakase.core.laminate.strength import first_layer_strength
from omakase.core.materials.material import Material
from omakase.core.rotation import strain_rotation

BY_SHEAR = 3.0  # times S12: shear of a ply through its thickness, where no more is known (common practice, no source)


class DetailError(OmakaseError):
    """A detail that makes no sense; ``field`` names what is wrong."""

    def __init__(self, field: str, message: str) -> None:
        super().__init__(message)
        self.field = field


class PointCase(msgspec.Struct, frozen=True):
    """Forces of one load case at a point, N at limit load.

    ``pull`` off face A, negative pressing on it; ``along`` x and ``across`` (along y) in the plane; ``moment`` N m that
    tilts, ``turn`` N m about the normal of the plane.

    ``either_way`` : the direction in the plane is not known, only its size, which is ``along``.
    """

    name: str
    key: str
    pull: float = 0.0
    along: float = 0.0
    across: float = 0.0
    moment: float = 0.0
    turn: float = 0.0
    either_way: bool = False

    @property
    def shear(self) -> float:
        """Size of the force in the plane, N."""
        return math.hypot(self.along, self.across)

    @property
    def angle(self) -> float:
        """Direction of the force in the plane, degrees from x toward y."""
        return math.degrees(math.atan2(self.across, self.along))


class LineCase(msgspec.Struct, frozen=True):
    """Forces of one load case along a seam, N/m at limit load: ``pull`` across it in the plane of the sheets, negative
    pressing, ``flow`` along it, ``opening`` that pulls the sheets apart at one edge of the bond."""

    name: str
    key: str
    pull: float = 0.0
    flow: float = 0.0
    opening: float = 0.0


class Site(msgspec.Struct, frozen=True, eq=False):
    """A place on the member: the layup there and the distances to the edges toward −x, +x, −y, +y, m, infinite where
    there is none."""

    stack: Stack
    x: float | None = None
    y: float | None = None
    edges: tuple[float, float, float, float] = (math.inf, math.inf, math.inf, math.inf)
    wall: str = ""

    def ahead(self, angle: float) -> float:
        """Distance to the edge in a direction, degrees from x toward y."""
        c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))
        low_x, high_x, low_y, high_y = self.edges
        ways = [(high_x if c > 0.0 else low_x, abs(c)), (high_y if s > 0.0 else low_y, abs(s))]
        return min(distance / share if share > 1e-9 else math.inf for distance, share in ways)

    @property
    def nearest(self) -> float:
        """Distance to the nearest edge."""
        return min(self.edges)

    def beside(self, angle: float) -> float:
        """The lesser distance to an edge to either side of a direction."""
        return min(self.ahead(angle + 90.0), self.ahead(angle - 90.0))


class Detail(Protocol):
    """A detail as checks see it: ``key`` its id, ``name`` as people call it, ``site`` where it is."""

    @property
    def key(self) -> str: ...
    @property
    def name(self) -> str: ...
    @property
    def site(self) -> Site: ...


def crushing_strength(layer: Layer) -> tuple[float, bool]:
    """(strength in Pa of a layer pressed through its thickness, whether it is stated).

    A metal by its yield stress.  Else the lesser of Y_c and 3 S12 (common practice, no source).
    """
    known = layer.material.properties
    if "Zc" in known:
        return layer.material.value("Zc"), True
    if layer.material.is_metal:
        return layer.material.value("Xc"), True
    return min(layer.material.value("Yc"), BY_SHEAR * layer.material.value("S12")), False


def sub_stack(stack: Stack, rows: slice) -> Stack:
    """Some neighbouring layers of a stack as one of their own; the same for the same layers, so that what is known of
    a face stays known while the core is edited."""
    return _stack_of(stack.layers[rows])


@lru_cache(maxsize=256)
def _stack_of(layers: tuple[Layer, ...]) -> Stack:
    return Stack(layers)


def turned(stack: Stack, by: float) -> Stack:
    """The stack with all its layers turned by ``by`` degrees from x toward y."""
    if by == 0.0:
        return stack
    layers = tuple(msgspec.structs.replace(own, angle=(own.angle + by + 180.0) % 360.0 - 180.0) for own in stack.layers)
    return Stack(layers)


def faces(stack: Stack) -> tuple[Stack, ...]:
    """Face A and face B of a sandwich; the whole stack where it has no core."""
    if stack.core is None:
        return (stack,)
    return sub_stack(stack, slice(0, stack.core.start)), sub_stack(stack, slice(stack.core.stop, None))


def core_layers(stack: Stack) -> tuple[Layer, ...]:
    """The layers between the faces of a sandwich."""
    return () if stack.core is None else stack.layers[stack.core]


@lru_cache(maxsize=512)
def stiffness_along(stack: Stack, angle: float) -> float:
    """Force per width and strain of a laminate pulled in one direction, free to contract across, N/m."""
    A, _, _ = laminate_abd(stack)
    c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))
    n = np.array([c * c, s * s, c * s])
    return float(1.0 / (n @ np.linalg.inv(A) @ n))


def bending_stiffness(stack: Stack) -> float:
    """Bending stiffness of a laminate per width that is free to stretch, N m: the mean of both ways, 1/√(d11 d22)."""
    A, B, D = laminate_abd(stack)
    d = np.linalg.inv(D - B @ np.linalg.solve(A, B))
    return float(1.0 / math.sqrt(d[0, 0] * d[1, 1]))


@lru_cache(maxsize=512)
def strength_along(stack: Stack, angle: float, pulled: bool = True, criterion: str = "maximum_strain") -> float:
    """Mean stress in Pa over all of the thickness at which the first ply fails, pulled or pressed at ``angle``."""
    return float(first_layer_strength(stack, np.array([angle]), criterion, pulled)[0])


@lru_cache(maxsize=512)
def shear_strength(stack: Stack, angle: float, criterion: str = "maximum_strain") -> float:
    """Mean shear stress in Pa at which the first counted ply fails, sheared in its plane along ``angle``.

    ε = A⁻¹ N with N = τ h (−2 c s, 2 c s, c² − s²); both signs are looked at.
    """
    A, _, _ = laminate_abd(stack)
    c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))
    strain = np.linalg.solve(A, stack.thickness * np.array([-2.0 * c * s, 2.0 * c * s, c * c - s * s]))
    least = math.inf
    for layer in stack.layers:
        if layer.structural and layer.role == "ply":
            own = strain_rotation(layer.angle) @ strain
            for sign in (1.0, -1.0):
                least = min(least, float(CRITERIA[criterion](sign * own, layer.material)))
    return least


def bending_across(stack: Stack, angle: float) -> float:
    """Bending stiffness of a sheet bent across a long seam or edge, free to stretch, N m."""
    A, B, D = laminate_abd(turned(stack, -angle))
    return float((D - B @ np.linalg.solve(A, B))[0, 0])


class BentSheet:
    """A sheet pulled and bent along its own x, which cannot curve across: the first ply's load factor, quickly."""

    def __init__(self, stack: Stack) -> None:
        A, B, D = laminate_abd(stack)
        whole = np.block([[A, B], [B, D]])
        free = [0, 1, 2, 3]  # strains and the curvature across the seam; others are zero for a long one
        answers = np.zeros((6, 2))
        answers[free] = np.linalg.solve(whole[np.ix_(free, free)], np.eye(4)[:, [0, 3]])
        surfaces: dict[str, tuple[Material, list[np.ndarray]]] = {}
        for layer, top, bottom in zip(stack.layers, stack.z_top, stack.z_bottom, strict=True):
            if layer.structural and layer.role == "ply":
                _, rows = surfaces.setdefault(layer.material.id, (layer.material, []))
                T = strain_rotation(layer.angle)
                rows += [T @ (answers[:3] + z * answers[3:]) for z in (top, bottom)]
        self._surfaces = [(material, np.array(rows)) for material, rows in surfaces.values()]

    def reserve(self, pull: float, moment: float, criterion: str) -> float:
        """Factor on a pull N/m and a moment N at which the first ply fails."""
        load = np.array([pull, moment])
        return min(float(CRITERIA[criterion](rows @ load, material).min()) for material, rows in self._surfaces)


def bent_reserve(stack: Stack, pull: float, moment: float, criterion: str) -> float:
    """``BentSheet.reserve`` of a sheet that is looked at once."""
    return BentSheet(stack).reserve(pull, moment, criterion)
