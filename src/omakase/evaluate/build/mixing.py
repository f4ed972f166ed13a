"""The resin card: what each laying-up takes, in batches, against what is in stock."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import msgspec

from omakase.core.build.errors import BuildError
from omakase.core.build.resin import Demand, Mix, ResinPlan, plan_batches, pot_life_at, short_batch
from omakase.core.materials.areal import ply_masses
from omakase.core.materials.material import Material
from omakase.evaluate.build.cutting import Cutting, plies_of
from omakase.evaluate.build.parts import MadePart, Problem
from omakase.evaluate.build.weights import face_area, kerf_resin, uptakes
from omakase.project.build import Shop


class Card(msgspec.Struct, frozen=True, eq=False):
    """The resin of one laying-up of a part, which is done ``times`` in the job.

    ``factor`` : by which measured use has changed the demand.  ``pot_life`` : s, of a batch at the shop's temperature.
    """

    part: MadePart
    resin: Material
    mix: Mix
    plan: ResinPlan
    times: int
    factor: float
    pot_life: float
    price: float | None


class ResinTotal(msgspec.Struct, frozen=True):
    """A resin over the whole job: kg mixed, of resin and hardener, kg ``left`` in stock and what is missing of it.

    ``short`` : kg of resin and hardener of the last batch, where what is left does not reach for a whole one.
    """

    resin: Material
    mixed: float
    base: float
    hardener: float
    left: float | None
    missing: float
    short: tuple[float, float]


def mix_of(resin: Material, shop: Shop) -> Mix:
    """The resin's mix.  Raises BuildError where it does not state its hardener or pot life."""
    for key, words in (("hardener", "how much hardener it takes"), ("pot_life", "its pot life")):
        if key not in resin.properties:
            raise BuildError(f"'{resin.id}' does not state {words}: add it in the library (Ctrl+5)", "resin")
    hardener = resin.value("hardener")
    volume = resin.value("hardener_volume") if "hardener_volume" in resin.properties else hardener
    return Mix(hardener, volume, resin.value("pot_life"), shop.largest_cup)


def demand(
    part: MadePart, cutting: Cutting, areas: Sequence[float], shop: Shop, materials: Mapping[str, Material]
) -> Demand:  # fmt: skip
    """kg that one laying-up of a part takes: cut pieces with their trim and splices are wetted whole."""
    laminate = cloth = 0.0
    for piece in cutting.pieces:
        if piece.part == part.index and piece.material.kind == "ply":
            scale = plies_of(piece.record, piece.material)
            laminate += ply_masses(piece.material)[1] * scale * piece.cut.area
            cloth += piece.cut.area * scale
    core = sum(mass for mass, _ in uptakes(part, materials, areas).values())
    core += sum(
        kerf_resin(part, layer) * area
        for layer, area in zip(part.candidate.layers, areas, strict=True) if layer.role == "core"
    )  # fmt: skip
    face = face_area(part, areas)
    consumed = sum(own.uptake * own.share * face for own in part.process.consumables)
    return Demand(laminate, core, consumed, shop.tool_loss * cloth, cloth)


def cards(
    parts: Sequence[MadePart], units: int, cutting: Cutting, areas: Mapping[int, Sequence[float]], shop: Shop,
    materials: Mapping[str, Material],
) -> tuple[list[Card], list[Problem]]:  # fmt: skip
    """A card for each part that resin is mixed for."""
    made: list[Card] = []
    problems: list[Problem] = []
    for part in parts:
        if part.resin is None or part.index not in areas:
            continue
        try:
            made.append(_card(part, units, cutting, areas[part.index], shop, materials))
        except BuildError as error:
            place = ("parts", part.index, "resin") if error.field in ("resin", "pot_life") else ("shop", error.field)
            problems.append((place, f"{part.title}: {error}"))
    return made, problems


def _card(
    part: MadePart, units: int, cutting: Cutting, areas: Sequence[float], shop: Shop, materials: Mapping[str, Material]
) -> Card:  # fmt: skip
    assert part.resin is not None
    if shop.wetting <= 0.0:
        raise BuildError("wetting out 1 m² must take some time", "wetting")
    if shop.cup_loss < 0.0 or shop.tool_loss < 0.0:
        raise BuildError("what stays in cups and brushes is zero or more", "cup_loss")
    mix = mix_of(part.resin, shop)
    wanted = demand(part, cutting, areas, shop, materials)
    known = next((own for own in shop.factors if own.what == "resin" and own.process == part.process.id), None)
    factor = known.value if known is not None else 1.0
    if factor != 1.0:
        wanted = Demand(
            wanted.laminate * factor, wanted.core * factor, wanted.consumables * factor, wanted.tools * factor,
            wanted.area,
        )  # fmt: skip
    speed = min(part.process.people, shop.people) / shop.wetting
    plan = plan_batches(wanted, mix, shop.temperature, speed, shop.pot_share, shop.cup_loss)
    cup = plan.batches[0].total if plan.batches else 0.0
    price = part.resin.value("price_mass") * plan.mixed if "price_mass" in part.resin.properties else None
    life = pot_life_at(mix.pot_life, shop.temperature, cup)
    return Card(part, part.resin, mix, plan, part.part.count * units, factor, life, price)


def resin_totals(made: Sequence[Card], shop: Shop) -> list[ResinTotal]:
    """Each resin over the job, against stock."""
    stock = {own.material: own.left for own in shop.stock}
    totals: dict[str, list[Card]] = {}
    for card in made:
        totals.setdefault(card.resin.id, []).append(card)
    rows = []
    for name, own in totals.items():
        base = sum(batch.resin for card in own for batch in card.plan.batches * card.times)
        hardener = sum(batch.hardener for card in own for batch in card.plan.batches * card.times)
        left = stock.get(name)
        missing = 0.0 if left is None else max(base + hardener - left, 0.0)
        short = _last_batch(own[0], left) if left is not None and missing else (0.0, 0.0)
        rows.append(ResinTotal(own[0].resin, base + hardener, base, hardener, left, missing, short))
    return rows


def _last_batch(card: Card, left: float) -> tuple[float, float]:
    """(kg of resin, of hardener) that remain after as many whole batches as stock gives."""
    each = card.plan.batches[0].total if card.plan.batches else 0.0
    rest = left - each * int(left / each) if each > 0.0 else 0.0
    return short_batch(rest / (1.0 + card.mix.hardener), card.mix)
