"""What one part of a candidate costs and takes of hands in the project's shop, before a job is made of it."""

from __future__ import annotations

from collections.abc import Mapping

import msgspec

from omakase.core.build.cost import Rates, price
from omakase.core.build.errors import BuildError
from omakase.core.errors import OmakaseError
from omakase.core.materials.areal import ply_masses
from omakase.core.materials.material import Material
from omakase.core.materials.pricing import bought_price
from omakase.evaluate.members.registry import kind_of
from omakase.project.build import ProcessRecord, Shop
from omakase.project.library import ROUTES, USUAL_RESIN
from omakase.project.model import Brief, Candidate, by_id


class ShopCost(msgspec.Struct, frozen=True):
    """``price`` of one part in the shop's money and ``hours``, s of hands, of the first one; None of what is not laid
    up. ``missing`` : materials that state no price.  ``note`` : what the price rests on."""

    price: float
    hours: float | None
    missing: tuple[str, ...]
    note: str


def process_of(candidate: Candidate, materials: Mapping[str, Material], shop: Shop) -> ProcessRecord | None:
    """The shop's process that most plies of a candidate are worked out for; None without plies."""
    plies = [materials[own.material] for own in candidate.layers if own.material in materials]
    routes = [
        ROUTES.get(own.recipe.process, "") if own.recipe is not None else "bag" for own in plies if own.kind == "ply"
    ]
    if not routes or not shop.processes:
        return None
    most = max(dict.fromkeys(routes), key=routes.count)
    return by_id(shop.processes, most) or shop.processes[0]


def shop_cost(
    shop: Shop, brief: Brief, candidate: Candidate, materials: Mapping[str, Material]
) -> ShopCost | None:  # fmt: skip
    """Price and hours of one part, without tooling; None where nothing can be said.

    Cloth and core with the shop's usual waste, resin in plies and cores, consumables by area, hands by the process that
    the plies are worked out for, overhead and margin on all.
    """
    try:
        areas = kind_of(brief).layer_areas(brief, candidate)
        rates = Rates(shop.rate, shop.overhead, shop.margin, shop.scrap)
    except (OmakaseError, BuildError):
        return None
    if not candidate.layers or not 0.0 <= shop.waste < 1.0:
        return None
    process = process_of(candidate, materials, shop)
    money = hours = 0.0
    missing = []
    largest: dict[str, float] = {}
    for layer, area in zip(candidate.layers, areas, strict=True):
        material = materials.get(layer.material)
        bought = None if material is None else bought_price(material, layer.thickness or 0.0)
        if material is None or bought is None:
            missing.append(layer.material)
            continue
        money += bought / (1.0 - shop.waste) * area + _resin(material, materials) * area
        largest[layer.wall] = max(largest.get(layer.wall, 0.0), area)
        if process is not None and area > 0.0:
            hours += process.cutting + process.laying * area
    if not largest:
        return None
    if process is None:
        return ShopCost(price(money, 0.0, rates).total, None, tuple(dict.fromkeys(missing)), "material only")
    face = sum(largest.values())
    money += sum(own.share * own.price for own in process.consumables) * face
    hours += process.set_up + process.bagging + process.demoulding
    made = price(money, hours / 3600.0, rates)
    return ShopCost(made.total, hours, tuple(dict.fromkeys(missing)), process.name)


def costs_of(shop: Shop, brief: Brief, materials: Mapping[str, Material]) -> dict[str, ShopCost]:
    """Of all candidates by id; none where the shop states no rate."""
    if shop.rate <= 0.0:
        return {}
    made = {own.id: shop_cost(shop, brief, own, materials) for own in brief.candidates}
    return {key: cost for key, cost in made.items() if cost is not None}


def _resin(material: Material, materials: Mapping[str, Material]) -> float:
    """Money of the resin in 1 m² of a ply, or that a core drinks on both faces."""
    recipe = material.recipe
    resin = materials.get(recipe.resin if recipe is not None else USUAL_RESIN)
    if resin is None or "price_mass" not in resin.properties:
        return 0.0
    mass = 0.0
    if material.kind == "ply":
        mass = ply_masses(material)[1]
    elif material.kind == "core" and "resin_uptake" in material.properties:
        mass = 2.0 * material.value("resin_uptake")
    return mass * resin.value("price_mass")
