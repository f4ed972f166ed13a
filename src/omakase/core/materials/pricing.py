"""What a layer costs, from whichever way its price is stated, and how long it takes to lay."""

from __future__ import annotations

from collections.abc import Iterable

from omakase.core.materials.material import Laid, Material

HOUR = 3600.0

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
    return laid.factor * (bought / (1.0 - laid.waste) + laid.resin + laid.rate * laid.area / HOUR)


def piece_price(material: Material) -> float:
    """Price of cutting a piece of it; 0 where no shop says what that takes."""
    laid = material.laid
    return 0.0 if laid is None else laid.factor * laid.rate * laid.piece / HOUR


def part_price(laid: Laid | None, face: float) -> float:
    """Price of what a part of ``face`` m² takes beside its layers: setting up, bag, demoulding, consumables."""
    return 0.0 if laid is None else laid.factor * (laid.rate * laid.part / HOUR + laid.face * face)


def part_hours(laid: Laid | None) -> float:
    """h of hands that a part takes beside its layers."""
    return 0.0 if laid is None else laid.part / HOUR


def laying_hours(material: Material, area: float, core: bool = False) -> float:
    """h of hands to cut and lay one layer of ``area`` m²: as the shop states it, else by common practice."""
    laid = material.laid
    if laid is None:
        return (CORE_LAYERS if core else 1.0) * (HOURS_PER_LAYER + HOURS_PER_AREA * area)
    return (laid.piece + laid.area * area) / HOUR


def way_of(materials: Iterable[Material]) -> Laid | None:
    """How a part of these plies is laid up: by the process of most of them; None without plies, or where no shop
    says."""
    ways = [own.laid for own in materials if own.kind == "ply" and own.laid is not None]
    names = [own.process for own in ways]
    return max(ways, key=lambda own: names.count(own.process), default=None)
