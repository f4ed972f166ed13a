"""What a part costs a shop: material, hours, tooling, overhead and margin, each for itself."""

from __future__ import annotations

import math

import msgspec

from omakase.core.build.errors import BuildError


class Line(msgspec.Struct, frozen=True):
    """A line of the sheet for one good part: what, how much of it in words, money; ``kind`` : where it belongs."""

    kind: str
    what: str
    amount: str
    money: float | None


class Rates(msgspec.Struct, frozen=True):
    """What a shop reckons with.

    ``hour`` : money of an hour of hands, with what comes on top of wages.  ``overhead`` and ``margin`` : shares on
    what stands above them.  ``scrap`` : share of parts made that are not good.  ``learning`` : hours when the number
    made doubles (Wright 1936: 0.8 to 0.95).  ``tooling`` : money of all moulds, spread over ``parts``.
    """

    hour: float
    overhead: float = 0.0
    margin: float = 0.0
    scrap: float = 0.0
    learning: float = 1.0
    tooling: float = 0.0
    parts: int = 1

    def __post_init__(self) -> None:
        for value, name in ((self.hour, "hour"), (self.overhead, "overhead"), (self.margin, "margin"),
                            (self.tooling, "tooling")):  # fmt: skip
            if not (value >= 0.0 and math.isfinite(value)):
                raise BuildError(f"the {name} must not be less than zero", name)
        if not 0.0 <= self.scrap < 1.0:
            raise BuildError("the share of scrap lies between 0 and 1", "scrap")
        if not 0.5 <= self.learning <= 1.0:
            raise BuildError("the learning lies between 0.5 and 1", "learning")
        if self.parts < 1:
            raise BuildError("tooling is spread over one part or more", "parts")


class Price(msgspec.Struct, frozen=True):
    """Of one good part, money: what it is made of and what the part is sold for."""

    material: float
    labour: float
    scrap: float
    tooling: float
    overhead: float
    margin: float
    hours: float

    @property
    def cost(self) -> float:
        return self.material + self.labour + self.scrap + self.tooling

    @property
    def total(self) -> float:
        return self.cost + self.overhead + self.margin


def learnt(count: int, learning: float) -> float:
    """Mean hours of the first ``count`` parts over those of the first one, n^(log₂ learning).

    Wright's cumulative average (T. P. Wright, Factors affecting the cost of airplanes, J. Aeronautical Sciences 3,
    1936, from memory): the mean of all falls to ``learning`` each time their number doubles.
    """
    return float(count) ** math.log2(learning)


def price(material: float, hours: float, rates: Rates, count: int | None = None) -> Price:
    """Price of each of ``count`` parts; the rates' own number where none is given.

    ``material`` money and ``hours`` of the first part as it is made.  Tooling is spread over the count; parts that are
    scrapped cost material and hours: 1/(1 − scrap) are made for each good one.
    """
    number = rates.parts if count is None else count
    if number < 1:
        raise BuildError("a price is of one part or more", "parts")
    hours = hours * learnt(number, rates.learning)
    labour = hours * rates.hour
    scrap = (material + labour) * rates.scrap / (1.0 - rates.scrap)
    tooling = rates.tooling / number
    cost = material + labour + scrap + tooling
    overhead = cost * rates.overhead
    return Price(material, labour, scrap, tooling, overhead, (cost + overhead) * rates.margin, hours)


class Swing(msgspec.Struct, frozen=True):
    """How the price moves when one number does: ``low`` and ``high`` are prices."""

    what: str
    low: float
    high: float


def sensitivity(material: float, hours: float, rates: Rates, count: int) -> list[Swing]:
    """The price with hours 20 % less and more, material 10 %, and half and double the scrap; the widest first."""
    replace = msgspec.structs.replace

    def of(m: float, h: float, r: Rates) -> float:
        return price(m, h, r, count).total

    double = replace(rates, scrap=min(2.0 * rates.scrap, 0.9))
    half = replace(rates, scrap=rates.scrap / 2.0)
    swings = [
        Swing("hours ±20 %", of(material, 0.8 * hours, rates), of(material, 1.2 * hours, rates)),
        Swing("material ±10 %", of(0.9 * material, hours, rates), of(1.1 * material, hours, rates)),
        Swing("scrap halved or doubled", of(material, hours, half), of(material, hours, double)),
    ]
    return sorted(swings, key=lambda own: own.low - own.high)
