"""Materials and layers that a solver is given other than they are."""

from __future__ import annotations

from collections.abc import Collection

import msgspec

from omakase.core.laminate.stack import Layer
from omakase.core.materials.material import Material
from omakase.core.materials.provenance import Sourced

NEXT_TO_NOTHING = 1e-3  # of its stiffness in the plane; none at all would leave the solver's equations without a pivot
IN_PLANE = ("E1", "E2", "G12")
BEHIND = {"E3": "E2", "G13": "G12", "G23": "G13"}  # what stands in where a stiffness through the thickness is not known


def with_thickness(material: Material) -> dict[str, Sourced]:
    """Its properties, those through the thickness too: what is not known of the third direction is that of the
    second."""
    known = dict(material.properties)
    for key, other in BEHIND.items():
        known.setdefault(key, known[other])
    return known


def scaled(material: Material, keys: Collection[str], factor: float, words: str) -> Material:
    """The material with some of its properties times a factor; ``words`` : what its name says of that."""
    properties = {
        key: msgspec.structs.replace(own, value=own.value * factor) if key in keys else own
        for key, own in material.properties.items()
    }
    return msgspec.structs.replace(material, name=f"{material.name}, {words}", properties=properties)


def as_written(layer: Layer) -> Layer:
    """The layer itself, or one that carries next to nothing along itself but holds apart and together what lies on both
    sides of it, as the program's own theory takes layers that are not counted on."""
    if layer.structural:
        return layer
    whole = msgspec.structs.replace(layer.material, properties=with_thickness(layer.material))
    idle = scaled(whole, IN_PLANE, NEXT_TO_NOTHING, "not counted on")
    return msgspec.structs.replace(layer, material=idle, structural=True)
