"""What a layer costs, from whichever way its price is stated, and how long it takes to lay."""

from __future__ import annotations

from omakase.core.materials.material import Material

# time to cut, wet and lay a layer, and to fit and bed a core, where no shop says otherwise: common practice, no source
HOURS_PER_LAYER, HOURS_PER_AREA, CORE_LAYERS = 0.15, 0.4, 2.0  # h, h/m², layers that a core takes as long as


def bought_price(material: Material, thickness: float) -> float | None:
    """Price per m² in the shop's money as it is bought: as stated for a cloth, or by volume or mass and the
    ``thickness`` in m.

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


def price_per_area(material: Material, thickness: float) -> float | None:
    """Price per m² as it lies in the part: with waste, resin and hands where the shop states its rates, else as bought.

    None where the material states no price.
    """
    bought, laid = bought_price(material, thickness), material.laid
    if bought is None or laid is None:
        return bought
    return bought / (1.0 - laid.waste) + laid.money


def laying_hours(material: Material, area: float, core: bool = False) -> float:
    """h of hands to cut and lay one layer of ``area`` m²: as the shop states it, else by common practice."""
    laid = material.laid
    if laid is None:
        return (CORE_LAYERS if core else 1.0) * (HOURS_PER_LAYER + HOURS_PER_AREA * area)
    return (laid.piece + laid.area * area) / 3600.0
