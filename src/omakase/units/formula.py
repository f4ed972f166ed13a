"""Formulas of named quantities, with dimensions: "airframe + payload", "mass * n * g0 / 2", "0.5 * 1.2 kg/m³ * v^2".

Read by a grammar of its own and worked out on the way; nothing typed is ever handed to the language underneath.

    formula = ["="] sum
    sum     = product {("+" | "-") product}
    product = sign {("*" | "·" | "×" | "/") sign}
    sign    = ["-"] power
    power   = atom [("^" | "**") ["-"] number | "²" | "³"]
    atom    = number [unit] | name | function "(" sum {("," space | ";") sum} ")" | "(" sum ")"

A unit stands right behind its number and is written without spaces: "1.225 kg/m³", "1/8 in".
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Iterator, Mapping
from fractions import Fraction
from functools import lru_cache

import msgspec

from omakase.units.display import UnitSystem, display_unit
from omakase.units.expression import ExpressionError, Parts, factors
from omakase.units.parse import DIMENSION_NAMES, SI_UNITS, QuantityError, parse_number, unit_in_base, unit_names

LONGEST, MOST_TOKENS, DEEPEST, HIGHEST = 200, 150, 20, 6
LARGEST, SMALLEST = 1e30, 1e-30
BASES = ("kg", "m", "s", "K", "°")
NAME = re.compile(r"[^\W\d][^\W²³]{0,39}\Z")

Dimension = tuple[Fraction, ...]
NONE: Dimension = (Fraction(0),) * len(BASES)
_ACCELERATION: Dimension = (Fraction(0), Fraction(1), Fraction(-2), Fraction(0), Fraction(0))
_ANGLE: Dimension = (*(Fraction(0),) * 4, Fraction(1))
_KELVIN: Dimension = (*(Fraction(0),) * 3, Fraction(1), Fraction(0))

_TOKEN = re.compile(
    r"\s*(?:(?P<power>\^|\*\*)|(?P<sign>[-+−*·×/()])|(?P<raised>[²³])|(?P<next>;|,)"
    r"|(?P<number>\d+/\d+(?=[ ]?[^\W\d])|(?:\d+(?:[.,]\d+)?|[.,]\d+)(?:[eE][-+−]?\d+)?)|(?P<name>[^\W\d²³][^\W²³]*))"
)
_UNIT = re.compile(
    r"[ ]?(?P<unit>(?:[^\W\d²³_]+|°[CF]?|%)(?:(?:\^|\*\*)?-?[1-4](?![\d.,])|[²³])?"
    r"(?:[*·/](?:[^\W\d²³_]+|°)(?:(?:\^|\*\*)?-?[1-4](?![\d.,])|[²³])?)*)(?!\w|\s*\()"
)


class Value(msgspec.Struct, frozen=True):
    """A number in SI and its dimension, the powers of kg, m, s, K and degree of angle."""

    number: float
    dimension: Dimension = NONE


# SI value and powers of kg, m, s: what most sheets need, without the third of a second that a units library takes
COMMON_UNITS: dict[str, tuple[float, int, int, int]] = {
    "kg": (1.0, 1, 0, 0), "g": (1e-3, 1, 0, 0), "m": (1.0, 0, 1, 0), "mm": (1e-3, 0, 1, 0), "cm": (1e-2, 0, 1, 0),
    "km": (1e3, 0, 1, 0), "s": (1.0, 0, 0, 1), "min": (60.0, 0, 0, 1), "h": (3600.0, 0, 0, 1),
    "N": (1.0, 1, 1, -2), "kN": (1e3, 1, 1, -2), "Pa": (1.0, 1, -1, -2), "kPa": (1e3, 1, -1, -2),
    "MPa": (1e6, 1, -1, -2), "J": (1.0, 1, 2, -2), "Hz": (1.0, 0, 0, -1), "W": (1.0, 1, 2, -3),
}  # fmt: skip


CONSTANTS = {"g0": Value(9.80665, _ACCELERATION), "pi": Value(math.pi), "π": Value(math.pi)}


def _plain(value: Value, what: str) -> float:
    if value.dimension != NONE:
        raise QuantityError(f"{what} needs a plain number, not {dimension_text(value.dimension)}")
    return value.number


def _radians(value: Value) -> float:
    return math.radians(value.number) if value.dimension == _ANGLE else _plain(value, "an angle")


def _root(value: Value) -> Value:
    if value.number < 0.0:
        raise QuantityError("a square root needs a number that is not negative")
    return Value(math.sqrt(value.number), tuple(power / 2 for power in value.dimension))


def _same(values: tuple[Value, ...], choose: Callable[[list[float]], float]) -> Value:
    if len(values) < 2:
        raise QuantityError("min and max need two values or more; write '; ' between them")
    for other in values[1:]:
        _fitting(values[0], other)
    return Value(choose([value.number for value in values]), values[0].dimension)


_OF_ONE: dict[str, Callable[[Value], Value]] = {
    "sqrt": _root,
    "abs": lambda value: Value(abs(value.number), value.dimension),
    "sin": lambda value: Value(math.sin(_radians(value))),
    "cos": lambda value: Value(math.cos(_radians(value))),
    "tan": lambda value: Value(math.tan(_radians(value))),
}
_OF_MANY: dict[str, Callable[[list[float]], float]] = {"min": min, "max": max}
FUNCTIONS = (*_OF_ONE, *_OF_MANY)
RESERVED = frozenset((*CONSTANTS, *FUNCTIONS))


def name_problem(name: str) -> str:
    """Why a quantity cannot have this name; empty where it can."""
    if not NAME.match(name):
        return "a name begins with a letter and has letters, digits and _ only, 40 at most"
    if name in RESERVED:
        return f"'{name}' is taken: it stands for a constant or a function"
    return f"'{name}' is a unit: take a longer name" if name in unit_names() else ""


def dimension_text(dimension: Dimension) -> str:
    """As people write it: "kg m/s²", "a plain number"."""
    above = [_raised(base, power) for base, power in zip(BASES, dimension, strict=True) if power > 0]
    below = [_raised(base, -power) for base, power in zip(BASES, dimension, strict=True) if power < 0]
    if not above and not below:
        return "a plain number"
    text = " ".join(above) or "1"
    return f"{text}/{below[0]}" if len(below) == 1 else f"{text}/({' '.join(below)})" if below else text


def _raised(base: str, power: Fraction) -> str:
    return base if power == 1 else f"{base}{ {2: '²', 3: '³'}.get(power, f'^{power}') }"  # type: ignore[call-overload]


def _fitting(one: Value, other: Value) -> None:
    if one.dimension != other.dimension:
        raise QuantityError(
            f"{dimension_text(one.dimension)} and {dimension_text(other.dimension)} cannot be added or compared"
        )


class _Reader(Parts):
    """Tokens of one formula; a number comes with the unit behind it."""

    def __init__(self, text: str, names: Mapping[str, Value]) -> None:
        if len(text) > LONGEST:
            raise QuantityError(f"a formula may have {LONGEST} characters at most")
        super().__init__(_tokens(text))
        self.names = names
        if len(self.parts) > MOST_TOKENS:
            raise QuantityError("that formula is too long")

    def sum(self, depth: int) -> Value:
        if depth > DEEPEST:
            raise QuantityError(f"brackets may be {DEEPEST} deep at most")
        value = self.product(depth)
        while self.peek() in (("sign", "+"), ("sign", "-")):
            sign = self.take()[1]
            other = self.product(depth)
            _fitting(value, other)
            value = _checked(value.number + (other.number if sign == "+" else -other.number), value.dimension)
        return value

    def product(self, depth: int) -> Value:
        value = self.signed(depth)
        while self.peek() in (("sign", "*"), ("sign", "/")):
            sign = self.take()[1]
            other = self.signed(depth)
            if sign == "/" and other.number == 0.0:
                raise QuantityError("it divides by zero")
            turn = 1 if sign == "*" else -1
            number = value.number * other.number if sign == "*" else value.number / other.number
            value = _checked(
                number, tuple(a + turn * b for a, b in zip(value.dimension, other.dimension, strict=True))
            )  # fmt: skip
        return value

    def signed(self, depth: int) -> Value:
        turn = 1.0
        while self.peek() in (("sign", "-"), ("sign", "+")):
            turn = -turn if self.take()[1] == "-" else turn
        value = self.power(depth)
        return Value(turn * value.number, value.dimension)

    def power(self, depth: int) -> Value:
        value = self.atom(depth)
        kind, text = self.peek()
        if kind == "raised":
            self.take()
            return _power(value, Fraction({"²": 2, "³": 3}[text]))
        if kind != "power":
            return value
        self.take()
        turn = 1
        if self.peek() == ("sign", "-"):
            self.take()
            turn = -1
        kind, text = self.take()
        if kind != "number":
            raise QuantityError("a power is a number, such as 2 or 0.5")
        return _power(value, turn * Fraction(parse_number(text)[0]).limit_denominator(12))

    def atom(self, depth: int) -> Value:
        kind, text = self.take()
        if kind == "number":
            number, unit = parse_number(text)
            return _with_unit(number, unit) if unit else _checked(number, NONE)
        if kind == "name":
            return self.function(text, depth) if self.peek() == ("sign", "(") else self.named(text)
        if (kind, text) == ("sign", "("):
            value = self.sum(depth + 1)
            self.close()
            return value
        raise QuantityError(f"'{text}' is not expected there" if text else "something is missing at its end")

    def named(self, name: str) -> Value:
        if name in CONSTANTS:
            return CONSTANTS[name]
        if name not in self.names:
            raise QuantityError(f"there is no quantity '{name[:40]}'")
        return self.names[name]

    def function(self, name: str, depth: int) -> Value:
        if name not in FUNCTIONS:
            raise QuantityError(f"'{name[:40]}' is not a function; there are {', '.join(FUNCTIONS)}")
        self.take()
        values = [self.sum(depth + 1)]
        while self.peek()[0] == "next":
            self.take()
            values.append(self.sum(depth + 1))
        self.close()
        if name in _OF_MANY:
            return _same(tuple(values), _OF_MANY[name])
        if len(values) != 1:
            raise QuantityError(f"{name} takes one value")
        value = _OF_ONE[name](values[0])
        return _checked(value.number, value.dimension)

    def close(self) -> None:
        if self.take() != ("sign", ")"):
            raise QuantityError("a bracket is not closed")


def _tokens(text: str) -> Iterator[tuple[str, str]]:
    at, end = 0, len(text.rstrip())
    while at < end:
        match = _TOKEN.match(text, at)
        if match is None:
            raise QuantityError(f"'{text[at:].strip()[:20]}' is not part of a formula")
        at = match.end()
        kind = str(match.lastgroup)
        found = match[kind].replace("−", "-").replace("·", "*").replace("×", "*")
        if kind == "number":
            unit = _UNIT.match(text, at)
            if unit is not None:
                at = unit.end()
                found = f"{found} {unit['unit']}"
        yield kind, found


@lru_cache(maxsize=256)
def _in_base(unit: str) -> tuple[float, Dimension]:
    """(SI value of one unit, its dimension).  Raises QuantityError."""
    try:
        parts = factors(unit)
    except ExpressionError as error:
        raise QuantityError(f"'{unit}' is not a unit: {error}") from None
    if all(name in COMMON_UNITS for name, _ in parts):
        value, dimension = 1.0, list(NONE)
        for name, power in parts:
            factor, *powers = COMMON_UNITS[name]
            value *= factor**power
            for k, own in enumerate(powers):
                dimension[k] += own * power
        return value, tuple(dimension)
    factor, of_base = unit_in_base(unit)
    return factor, tuple(Fraction(of_base.get(base, 0)) for base in BASES)


def _with_unit(number: float, unit: str) -> Value:
    if unit in ("°", "deg"):
        return _checked(number, _ANGLE)
    try:
        factor, dimension = _in_base(unit)
    except QuantityError:
        several = re.search(r"[*·/]", unit)
        hint = ": put spaces round signs that are not part of a unit" if several else ": write * before a name"
        if unit in ("°C", "°F"):
            hint = " of a formula: temperatures are in K there"
        raise QuantityError(f"'{unit}' is not a unit{hint}") from None
    return _checked(number * factor, dimension)


def _power(value: Value, power: Fraction) -> Value:
    if abs(power) > HIGHEST:
        raise QuantityError(f"a power beyond {HIGHEST} is not worked out")
    if value.number == 0.0 and power < 0:
        raise QuantityError("it divides by zero")
    if value.number < 0.0 and power.denominator != 1:
        raise QuantityError("a root needs a number that is not negative")
    return _checked(value.number ** float(power), tuple(own * power for own in value.dimension))


def _checked(number: float, dimension: Dimension) -> Value:
    if not abs(number) <= LARGEST:
        raise QuantityError("its value is beyond all bounds")
    if any(abs(power) > 4 * HIGHEST for power in dimension):
        raise QuantityError("its dimension is beyond all bounds")
    return Value(number, dimension)


def work_out(text: str, names: Mapping[str, Value] = {}) -> Value:
    """The value of a formula of named quantities.

    Raises QuantityError with a message for the person.
    """
    plain = text.strip().removeprefix("=")
    alone = _alone(plain)
    if alone is not None:
        return alone
    reader = _Reader(plain, names)
    value = reader.sum(0)
    kind, rest = reader.peek()
    if kind != "end":
        raise QuantityError(f"'{rest}' is not expected there")
    return value


def _alone(text: str) -> Value | None:
    """The value of a text that is one number with a unit, in any usual spelling: "1 1/2 in", "½ in", "12,5 kg"."""
    try:
        number, unit = parse_number(text)
        if not unit:
            return _checked(number, NONE)
        match = _UNIT.match(f"{unit} ")
        return _with_unit(number, unit) if match and match["unit"] == unit else None
    except QuantityError:
        return None


def names_in(text: str) -> tuple[str, ...]:
    """The names of quantities in a formula, each once; empty where it cannot be read."""
    try:
        parts = _Reader(text.strip().removeprefix("="), {}).parts
    except QuantityError:
        return ()
    found = [
        text
        for (kind, text), after in zip(parts, [*parts[1:], ("end", "")], strict=True)
        if kind == "name" and after != ("sign", "(") and text not in CONSTANTS
    ]
    return tuple(dict.fromkeys(found))


def as_field(value: Value, dimension: str) -> float:
    """The value as a field of this dimension keeps it.  Raises QuantityError where it does not fit."""
    fits = {
        "temperature": _KELVIN, "temperature_change": _KELVIN, "angle": _ANGLE,
    }.get(dimension)  # fmt: skip
    if fits is None:
        fits = NONE if dimension == "acceleration" else _dimension_of(SI_UNITS.get(dimension, ""))
    if value.dimension == fits or (dimension == "angle" and value.dimension == NONE):
        return value.number
    if dimension == "acceleration" and value.dimension == _ACCELERATION:
        return value.number / CONSTANTS["g0"].number
    wanted = DIMENSION_NAMES.get(dimension, dimension)
    raise QuantityError(f"it comes to {dimension_text(value.dimension)}; {wanted} is wanted here")


def _dimension_of(unit: str) -> Dimension:
    return _with_unit(1.0, unit).dimension if unit else NONE


def in_unit(value: Value, unit: str) -> float:
    """The number of these units.  Raises QuantityError where the unit does not fit."""
    one = _with_unit(1.0, unit.strip()) if unit.strip() else Value(1.0)
    if one.dimension != value.dimension:
        raise QuantityError(
            f"'{unit}' is {dimension_text(one.dimension)}; it comes to {dimension_text(value.dimension)}"
            if unit.strip()
            else f"it comes to {dimension_text(value.dimension)}"
        )
    return value.number / one.number


# dimensions that quantities of a vehicle are shown in where no unit is given
_SHOWN = ("length", "force", "mass", "pressure", "line_load", "bending", "areal_mass", "density", "frequency")


def shown_unit(value: Value, system: UnitSystem) -> str:
    """A unit to show a value in where none is given; empty for a plain number."""
    if value.dimension == NONE:
        return ""
    if value.dimension == _ANGLE:
        return "°"
    for dimension in _SHOWN:
        if _dimension_of(SI_UNITS[dimension]) == value.dimension:
            return display_unit(dimension, system).label.replace(" ", "·")
    whole = [(base, power) for base, power in zip(BASES, value.dimension, strict=True) if power]
    if any(power.denominator != 1 or abs(power) > 4 for _, power in whole):
        return ""
    above = [_raised(base, power) for base, power in whole if power > 0]
    below = [_raised(base, -power) for base, power in whole if power < 0]
    if above:
        return "/".join(["·".join(above), *below])
    return "·".join(f"{base}^{power}" for base, power in whole)
