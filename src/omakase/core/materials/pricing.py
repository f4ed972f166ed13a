"""What a layer costs, from whichever way its price is stated."""

from __future__ import annotations

from omakase.core.materials.material import Material


def price_per_area(material: Material, thickness: float) -> float | None:
    """Price per m² in the shop's money: as stated for a cloth, or by volume or mass and the ``thickness`` in m.

    None where the material states no price.  The resin in a ply is not in it.
    """
    properties = material.properties
    if "price" in properties:
        return material.value("price")
    if "price_volume" in properties:
        return material.value("price_volume") * thickness
    if "price_mass" in properties and "density" in properties:
        return material.value("price_mass") * material.value("density") * thickness
    return None
