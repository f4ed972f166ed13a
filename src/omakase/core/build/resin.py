"""How much resin to mix, in which cups, and with how much hardener.

Mass is kept: what is mixed is what goes into the laminate, the core and the consumables, what stays in cups and
brushes, and what rounding adds.  Masses in kg, areas in m², times in s, temperatures in K.
"""

from __future__ import annotations

import math

import msgspec

from omakase.core.build.errors import BuildError

REFERENCE_TEMPERATURE = 296.15  # K, at which a pot life is stated
REFERENCE_CUP = 0.1  # kg, for which it is stated
HALVING = 10.0  # K that halve the pot life of an epoxy or polyester: common practice, no source
GRAM = 1e-3
MOST_BATCHES = 100
CUP = "largest safe cup"
LEAST = 1e-6  # kg below which nothing is mixed
KITCHEN_STEP = 1e-3  # kg, to which a shop's scale is read: batches are rounded up to it


class Mix(msgspec.Struct, frozen=True):
    """A resin system.

    ``hardener`` : kg for each kg of resin; ``hardener_volume`` : the same by volume.  ``pot_life`` : s, of 100 g at
    23 °C; ``largest_cup`` : kg that may be mixed at once, for the heat that it gives off.
    """

    hardener: float
    hardener_volume: float
    pot_life: float
    largest_cup: float


class Demand(msgspec.Struct, frozen=True):
    """kg that a laying-up takes, row by row: ``laminate`` in the cloth with its trim, ``core`` drunk by cores,
    ``consumables`` in peel ply and breather, ``tools`` in brushes and rollers; ``area`` m² of cloth to wet out."""

    laminate: float
    core: float = 0.0
    consumables: float = 0.0
    tools: float = 0.0
    area: float = 0.0

    @property
    def total(self) -> float:
        return self.laminate + self.core + self.consumables + self.tools


class Batch(msgspec.Struct, frozen=True):
    """One cup: kg of resin and hardener, and m³ of hardener to m³ of resin where mixed by volume."""

    resin: float
    hardener: float
    usable: float  # kg that leave the cup
    seconds: float  # until it must be used

    @property
    def total(self) -> float:
        return self.resin + self.hardener


class ResinPlan(msgspec.Struct, frozen=True):
    """``batches`` of a laying-up.  ``cups`` : kg that stay in cups, ``rounding`` : kg more for whole grams.

    ``limit`` : what sets the size of a batch, in words.
    """

    demand: Demand
    batches: tuple[Batch, ...]
    cups: float
    rounding: float
    limit: str

    @property
    def mixed(self) -> float:
        """kg of resin and hardener together."""
        return sum(batch.total for batch in self.batches)


def pot_life_at(pot_life: float, temperature: float, cup: float = REFERENCE_CUP) -> float:
    """s that a cup can be used at ``temperature`` K.

    Halves for each 10 K above 23 °C and doubles below (common practice, no source, near the reaction's own rule of
    Arrhenius with 50 to 60 kJ/mol); a cup above 100 g goes off sooner, as the square root of its mass, since it keeps
    its heat (common practice, no source).
    """
    heat = 2.0 ** ((REFERENCE_TEMPERATURE - temperature) / HALVING)
    return pot_life * heat * math.sqrt(REFERENCE_CUP / max(cup, REFERENCE_CUP))


def largest_batch(
    mix: Mix, temperature: float, speed: float, per_area: float, share: float
) -> tuple[float, str]:  # fmt: skip
    """(kg, what limits it): what a crew that wets out ``speed`` m²/s with ``per_area`` kg/m² uses within ``share`` of
    the pot life, or the largest safe cup.  Raises BuildError."""
    for value, name, field in (
        (mix.pot_life, "pot life", "pot_life"), (speed, "wet-out speed", "speed"),
        (share, "share of pot life", "share"), (mix.largest_cup, "largest cup", "largest_cup"),
    ):  # fmt: skip
        if not (value > 0.0 and math.isfinite(value)):
            raise BuildError(f"the {name} must be more than zero", field)
    rate = speed * per_area
    base = share * pot_life_at(mix.pot_life, temperature)
    by_time = rate * base
    if by_time > REFERENCE_CUP:  # the pot life falls with the cup: m = rate · base · sqrt(ref/m)
        by_time = (by_time * math.sqrt(REFERENCE_CUP)) ** (2.0 / 3.0)
    return (mix.largest_cup, CUP) if mix.largest_cup < by_time else (by_time, "pot life")


def plan_batches(
    demand: Demand, mix: Mix, temperature: float, speed: float, share: float, cup_loss: float
) -> ResinPlan:  # fmt: skip
    """Equal batches that give ``demand``; ``cup_loss`` kg stay in each cup.  ``speed`` in m²/s.  Raises BuildError."""
    if demand.total <= LEAST:
        return ResinPlan(demand, (), 0.0, -demand.total, "nothing to mix")
    if demand.area <= 0.0:
        raise BuildError("resin is wanted, but there is no cloth to wet out")
    most, limit = largest_batch(mix, temperature, speed, demand.total / demand.area, share)
    if most <= cup_loss:
        raise BuildError("more stays in the cup than one batch may be", "cup_loss")
    count = max(1, math.ceil(demand.total / (most - cup_loss) - 1e-9))
    if count > MOST_BATCHES:
        field = "largest_cup" if limit == CUP else "wetting"
        raise BuildError(f"{count:,} batches for one laying-up: a larger cup, more people or a slower resin", field)
    each = demand.total / count
    mixed = _rounded_up(each + cup_loss)
    resin = mixed / (1.0 + mix.hardener)
    seconds = share * pot_life_at(mix.pot_life, temperature, mixed)
    batch = Batch(resin, mixed - resin, mixed - cup_loss, seconds)
    return ResinPlan(
        demand, (batch,) * count, count * cup_loss, count * (mixed - cup_loss) - demand.total,
        limit if count > 1 else "one batch is enough",
    )  # fmt: skip


def _rounded_up(mass: float) -> float:
    return math.ceil(mass / KITCHEN_STEP - 1e-6) * KITCHEN_STEP


def short_batch(left: float, mix: Mix) -> tuple[float, float]:
    """(kg of resin, kg of hardener) of a batch that uses ``left`` kg of resin up."""
    return left, left * mix.hardener
