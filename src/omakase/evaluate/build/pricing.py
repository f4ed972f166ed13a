"""The cost sheet of a job: one unit's material, hours, tooling, overhead and margin."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import msgspec

from omakase.core.build.cost import Line, Price, Rates, Swing, price, sensitivity
from omakase.core.build.errors import BuildError
from omakase.core.materials.material import Material
from omakase.evaluate.build.cutting import Cutting, Roll
from omakase.evaluate.build.mixing import Card
from omakase.evaluate.build.parts import MadePart, Problem
from omakase.evaluate.build.weights import face_area
from omakase.evaluate.build.working import Hours
from omakase.project.build import HOUR, Job, Shop
from omakase.units import UnitSystem, format_value


class CostSheet(msgspec.Struct, frozen=True):
    """Of one unit: ``lines`` of material and of the first unit's hours, the ``price`` when the job's planned number is
    made, that of ``one`` and of ``ten``, how it moves, and what states no price."""

    lines: tuple[Line, ...]
    price: Price
    one: Price
    ten: Price
    swings: tuple[Swing, ...]
    missing: tuple[str, ...]
    rates: Rates


def rates_of(job: Job, parts: Sequence[MadePart], shop: Shop) -> Rates:
    """The shop's rates for a job: tooling is its moulds', each counted once.  Raises BuildError."""
    wanted = {part.part.mould for part in parts} | {work.mould for work in job.works}
    tooling = sum(own.cost * own.count for own in shop.moulds if own.name in wanted)
    learning = max((part.process.learning for part in parts), default=1.0)
    return Rates(shop.rate, shop.overhead, shop.margin, shop.scrap, learning, tooling, max(job.planned, 1))


def cost_sheet(
    job: Job, parts: Sequence[MadePart], cutting: Cutting, cards: Sequence[Card], hours: Mapping[int, Hours],
    areas: Mapping[int, Sequence[float]], shop: Shop, materials: Mapping[str, Material], units: UnitSystem,
) -> tuple[CostSheet | None, list[Problem]]:  # fmt: skip
    """The sheet, or what stands in its way."""
    try:
        rates = rates_of(job, parts, shop)
    except BuildError as error:
        field = {"hour": "rate", "parts": "planned"}.get(error.field, error.field)
        return None, [(("planned",) if field == "planned" else ("shop", field), str(error))]
    lines: list[Line] = []
    missing: list[str] = []
    for roll in cutting.rolls:
        lines.append(Line("material", roll.material.name, roll_amount(roll, units), _share(roll.price, job.units)))
        if roll.price is None:
            missing.append(roll.material.id)
    for card in cards:
        each = card.times / job.units
        amount = format_value(card.plan.mixed * each, "mass", units, with_unit=True)
        lines.append(Line("material", card.resin.name, amount, None if card.price is None else card.price * each))
        if card.price is None:
            missing.append(card.resin.id)
    lines += _consumables(parts, areas, units)
    for work in job.works:
        adhesive = materials.get(work.adhesive)
        if adhesive is not None and work.area > 0.0:
            mass = work.area * work.gap * adhesive.value("density")
            money = adhesive.value("price_mass") * mass if "price_mass" in adhesive.properties else None
            amount = format_value(mass, "mass", units, with_unit=True)
            lines.append(Line("material", f"{adhesive.name}, {work.name}", amount, money))
    hands = _labour(job, parts, hours, rates)
    lines += hands
    material = sum(line.money or 0.0 for line in lines if line.kind == "material")
    spent = sum(_hours_of(job, parts, hours))
    made = price(material, spent, rates)
    return CostSheet(
        tuple(lines), made, price(material, spent, rates, 1), price(material, spent, rates, 10),
        tuple(sensitivity(material, spent, rates, rates.parts)), tuple(dict.fromkeys(missing)), rates,
    ), []  # fmt: skip


def roll_amount(roll: Roll, units: UnitSystem) -> str:
    """How much of a material is bought, in words."""
    if roll.sheets:
        assert roll.layout is not None
        size = " × ".join(
            format_value(own, "length", units, with_unit=last)
            for own, last in ((roll.layout.length, False), (roll.layout.width, True))
        )
        return f"{roll.sheets} × sheet of {size}"
    return format_value(roll.metres, "run", units, with_unit=True)


def _share(money: float | None, units: int) -> float | None:
    return None if money is None else money / units


def _consumables(
    parts: Sequence[MadePart], areas: Mapping[int, Sequence[float]], units: UnitSystem
) -> list[Line]:  # fmt: skip
    totals: dict[str, tuple[float, float]] = {}
    for part in parts:
        if part.index not in areas:
            continue
        face = face_area(part, areas[part.index]) * part.part.count
        for own in part.process.consumables:
            area, money = totals.get(own.name, (0.0, 0.0))
            totals[own.name] = area + own.share * face, money + own.share * face * own.price
    return [
        Line("material", name, format_value(area, "area", units, with_unit=True), money)
        for name, (area, money) in totals.items()
    ]


def _hours_of(job: Job, parts: Sequence[MadePart], hours: Mapping[int, Hours]) -> list[float]:
    """h of hands of one unit, part by part and work by work."""
    made = [hours[part.index].total * part.part.count / HOUR for part in parts]
    return made + [work.hours * work.people / HOUR for work in job.works]


def _labour(job: Job, parts: Sequence[MadePart], hours: Mapping[int, Hours], rates: Rates) -> list[Line]:
    names = [part.title for part in parts] + [work.name for work in job.works]
    return [
        Line("labour", name, f"{spent:.2f} h, the first", spent * rates.hour)
        for name, spent in zip(names, _hours_of(job, parts, hours), strict=True)
    ]
