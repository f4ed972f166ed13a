"""A stack of layers with their places through the thickness.

Listed from the top face (face A, positive z) down to the bottom face (face B).  z = 0 is the mid-plane of the
whole stack.  A stack with exactly one run of core layers between two faces is a sandwich; everything else
is treated as one monolithic laminate.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import Literal

import msgspec
import numpy as np

from omakase.core.errors import LayupError, both_units
from omakase.core.materials.areal import ply_masses, ply_thickness
from omakase.core.materials.material import LAYER_KINDS, Material
from omakase.core.materials.provenance import Source, least_trusted

Role = Literal["ply", "core"]

MAX_LAYERS = 400
MIN_THICKNESS = 1e-6
MAX_THICKNESS = 1.0


class Layer(msgspec.Struct, frozen=True):
    """One layer: material, angle in degrees from x toward y, thickness in m, its role, and whether it is counted on.

    ``turned``: laid with its other side up; it tells only for a satin, whose warp side is up otherwise.  Raises
    LayupError for an angle beyond ±360°, a thickness outside 1 µm to 1 m, or a material that cannot take the role.
    """

    material: Material
    angle: float
    thickness: float
    role: Role = "ply"
    structural: bool = True
    turned: bool = False

    def __post_init__(self) -> None:
        if not abs(self.angle) <= 360.0:
            raise LayupError(f"an angle of {self.angle:g}° is outside −360° to 360°")
        if not MIN_THICKNESS <= self.thickness <= MAX_THICKNESS:
            raise LayupError(
                f"a thickness of {both_units(self.thickness)} for '{self.material.id}' is outside 0.001 mm to 1000 mm "
                "(39 in)"
            )
        if self.material.kind not in LAYER_KINDS:
            raise LayupError(f"'{self.material.id}' is a {self.material.kind}, not a layer: make a ply of it first")
        if self.role == "core" and not self.material.can_be_core:
            raise LayupError(f"'{self.material.id}' has no flatwise properties and cannot serve as a core")
        if self.role == "ply" and self.material.kind == "core":
            raise LayupError(f"'{self.material.id}' is a core material and cannot be a ply of a face")


def make_layer(
    material: Material,
    angle: float = 0.0,
    thickness: float | None = None,
    role: Role | None = None,
    structural: bool = True,
    turned: bool = False,
) -> Layer:
    """A layer with its thickness from cloth and resin mass unless one is given (m)."""
    if thickness is None:
        if material.kind != "ply":
            raise LayupError(f"'{material.id}' is bought by thickness: state one")
        thickness = ply_thickness(material)
    if role is None:
        role = "core" if material.kind == "core" else "ply"
    return Layer(material, angle, thickness, role, structural, turned)


class Stack:
    """An ordered, validated stack of layers.

    Attributes: ``layers`` from face A down; ``z_top`` and ``z_bottom`` : (n,) arrays, m, of each layer's bounds
    above the mid-plane; ``core`` : slice of the core's layers or None.  Raises LayupError for an empty stack,
    a core as outer layer, or a stack without any structural layer.
    """

    def __init__(self, layers: tuple[Layer, ...]) -> None:
        if not layers:
            raise LayupError("the layup is empty: add a ply, for example 'twill200 0'")
        if len(layers) > MAX_LAYERS:
            raise LayupError(f"{len(layers)} layers are more than the {MAX_LAYERS} a layup may have")
        if not any(layer.structural and layer.role == "ply" for layer in layers):
            raise LayupError("no structural ply: something must carry the load")
        for layer, name in ((layers[0], "A (top)"), (layers[-1], "B (bottom)")):
            if layer.role == "core":
                raise LayupError(f"the core '{layer.material.id}' is the outer layer on face {name}: add a face ply")
        self.layers = layers
        thickness = np.array([layer.thickness for layer in layers])
        self.thickness = float(thickness.sum())
        self.z_bottom = self.thickness / 2.0 - np.cumsum(thickness)
        self.z_top = self.z_bottom + thickness
        self.core = self._find_core()
        if self.core is not None:
            for part, name in ((layers[: self.core.start], "A"), (layers[self.core.stop :], "B")):
                if not any(layer.structural for layer in part):
                    raise LayupError(f"face {name} has no structural ply")

    def _find_core(self) -> slice | None:
        """The one run of core layers; None for monolithic stacks and for several cores."""
        index = [i for i, layer in enumerate(self.layers) if layer.role == "core" and layer.structural]
        if not index or index[-1] - index[0] + 1 != len(index):
            return None
        return slice(index[0], index[-1] + 1)

    @property
    def several_cores(self) -> bool:
        """True where cores are separated by plies, which the three-layer theory does not describe."""
        return self.core is None and any(layer.role == "core" for layer in self.layers)

    def areal_mass(self) -> dict[str, float]:
        """Mass per area in kg/m² by cause: cloth, resin, core, uptake, sheet."""
        parts = {"cloth": 0.0, "resin": 0.0, "core": 0.0, "uptake": 0.0, "sheet": 0.0}
        for i, layer in enumerate(self.layers):
            material = layer.material
            if material.kind == "ply":
                cloth, resin = ply_masses(material)
                # a thickness given by hand is taken as so many plies' worth of the same cloth and resin
                scale = layer.thickness / ply_thickness(material)
                parts["cloth"] += cloth * scale
                parts["resin"] += resin * scale
            elif layer.role == "core":
                parts["core"] += material.value("density") * layer.thickness
                # each core face wetted by a ply with resin absorbs some; two cores back to back share one bond
                wetted = sum(1 for j in (i - 1, i + 1) if 0 <= j < len(self.layers) and self.layers[j].role == "ply")
                if "resin_uptake" in material.properties:
                    parts["uptake"] += wetted * material.value("resin_uptake")
            else:
                parts["sheet"] += material.value("density") * layer.thickness
        return parts

    def layer_densities(self) -> np.ndarray:
        """Smeared mass density of each layer, (n,), kg/m³; the uptake is added to the core it soaked into."""
        masses = []
        for layer in self.layers:
            if layer.material.kind == "ply":
                masses.append(sum(ply_masses(layer.material)) / ply_thickness(layer.material))
            else:
                masses.append(layer.material.value("density"))
        density = np.array(masses, dtype=float)
        core_thickness = sum(layer.thickness for layer in self.layers if layer.role == "core")
        if core_thickness > 0.0:
            extra = self.areal_mass()["uptake"] / core_thickness
            density += np.array([extra if layer.role == "core" else 0.0 for layer in self.layers])
        return density

    def flipped(self) -> Stack:
        """The same stack turned over about the x axis: order reversed, angles negated, other sides up."""
        turned = tuple(
            Layer(layer.material, -layer.angle, layer.thickness, layer.role, layer.structural, not layer.turned)
            for layer in reversed(self.layers)
        )
        return Stack(turned)


def source_of(layers: Iterable[Layer], keys: Iterable[str]) -> Source:
    """The least trusted provenance of some properties among the layers that are counted."""
    wanted = tuple(keys)
    return least_trusted(layer.material.source(wanted) for layer in layers if layer.structural)
