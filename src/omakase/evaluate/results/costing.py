"""What one part of a candidate costs and takes of hands in the project's shop, before a job is made of it."""

from __future__ import annotations

from collections.abc import Mapping

import msgspec

from omakase.core.errors import OmakaseError
from omakase.core.materials.material import Material
from omakase.core.materials.pricing import (
    bought_price,
    laying_hours,
    part_hours,
    part_price,
    piece_price,
    price_per_area,
    way_of,
)
from omakase.evaluate.members.registry import kind_of
from omakase.project.model import Brief, Candidate

HOUR = 3600.0


class PartCost(msgspec.Struct, frozen=True):
    """``price`` of one part in the shop's money and ``hours``, s of hands, of the first one; None of what is not laid
    up.

    ``missing`` : materials that state no price.  ``laid`` : with waste, resin and hands.  ``note`` : what it rests on.
    """

    price: float
    hours: float | None
    missing: tuple[str, ...]
    laid: bool
    note: str


def part_cost(brief: Brief, candidate: Candidate, materials: Mapping[str, Material]) -> PartCost | None:
    """Price and hours of one part, without its moulds; None where nothing of it states a price.

    Where the shop states its rates: cloth and core with its usual waste, resin in plies and cores, consumables by area,
    hands by the process that the plies are worked out for, and scrap, overhead and margin on all.  Else what is bought.
    """
    try:
        areas = kind_of(brief).layer_areas(brief, candidate)
    except OmakaseError:
        return None
    known = [(layer, materials[layer.material], area) for layer, area in zip(candidate.layers, areas, strict=True)
             if layer.material in materials]  # fmt: skip
    missing = [layer.material for layer in candidate.layers if layer.material not in materials]
    way = way_of(material for _, material, _ in known)
    shop = any(material.laid is not None for _, material, _ in known)
    price = hours = 0.0
    faces: dict[str, float] = {}
    for layer, material, area in known:
        bought = bought_price(material, layer.thickness or 0.0)
        if bought is None:
            missing.append(material.id)
            continue
        faces[layer.wall] = max(faces.get(layer.wall, 0.0), area)
        if shop and way is None:  # a part of metal or wood, which is not laid up
            assert material.laid is not None
            price += material.laid.factor * bought / (1.0 - material.laid.waste) * area
            continue
        price += (price_per_area(material, layer.thickness or 0.0) or 0.0) * area
        if area > 0.0:
            price += piece_price(material)
            hours += laying_hours(material, area, layer.role == "core") * HOUR
    if not faces:
        return None
    absent = tuple(dict.fromkeys(missing))
    if way is None:
        return PartCost(price, None, absent, shop, "material only")
    price += part_price(way, sum(faces.values()))
    return PartCost(price, hours + part_hours(way) * HOUR, absent, True, "by the shop's rates")


def costs_of(brief: Brief, materials: Mapping[str, Material]) -> dict[str, PartCost]:
    """Of all candidates by id; none where the shop states no rate."""
    made = {own.id: part_cost(brief, own, materials) for own in brief.candidates}
    return {key: cost for key, cost in made.items() if cost is not None and cost.laid}
