"""Layers that are not counted on, as a solver is given them."""

from __future__ import annotations

import msgspec

from omakase.core.laminate.stack import Layer
from omakase.core.materials.material import Material

NEXT_TO_NOTHING = 1e-3  # of its stiffness in the plane; none at all would leave the solver's equations without a pivot
IN_PLANE = ("E1", "E2", "G12")
BEHIND = {"E3": "E2", "G13": "G12", "G23": "G13"}  # what stands in where a stiffness through the thickness is not known


def as_written(layer: Layer) -> Layer:
    """The layer itself, or one that carries next to nothing along itself but holds apart and together what lies on both
    sides of it, as the program's own theory takes layers that are not counted on."""
    if layer.structural:
        return layer
    return msgspec.structs.replace(layer, material=_idle(layer.material), structural=True)


def _idle(material: Material) -> Material:
    known = dict(material.properties)
    for key, other in BEHIND.items():
        if key not in known and other in known:
            known[key] = known[other]
    for key in IN_PLANE:
        little = material.value(key) * NEXT_TO_NOTHING
        known[key] = msgspec.structs.replace(known[key], value=little)
    return msgspec.structs.replace(material, name=f"{material.name}, not counted on", properties=known)
