"""Units as they are typed, read by a small grammar: names, whole powers up to four, products, quotients, brackets.

Nothing typed is ever evaluated: each name alone goes to the units library.

    expression = factor {("*" | "·" | space | "/") factor}
    factor     = name [power] | "1" | "(" expression ")" [power]
    power      = ("^" | "**") integer | "²" | "³" | a digit 2 or 3 behind the name
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator
from typing import TypeVar

HIGHEST_POWER = 4
DEEPEST = 5

_TOKEN = re.compile(
    r"\s*(?:(?P<power>\^|\*\*)|(?P<sign>[*·/()])|(?P<number>[+\-−]?\d+)|(?P<raised>[²³])"
    r"|(?P<name>[^\W\d²³_]+|[%°\"'#]+))"
)

Unit = TypeVar("Unit")


class ExpressionError(ValueError):
    """The text is not a unit as this grammar has them."""


def tokens(text: str) -> Iterator[tuple[str, str]]:
    """(kind, text) of each part; "gap" between two parts that stand apart.  Raises ExpressionError."""
    at = 0
    while at < len(text.rstrip()):
        match = _TOKEN.match(text, at)
        if match is None:
            raise ExpressionError(f"'{text[at:].strip()[:20]}' is not part of a unit")
        assert match.lastgroup is not None
        if match.group()[0].isspace() and at:
            yield "gap", " "
        yield match.lastgroup, match[match.lastgroup]
        at = match.end()


class Parts:
    """The parts of a text one after the other, as (kind, text)."""

    def __init__(self, parts: Iterable[tuple[str, str]]) -> None:
        self.parts = list(parts)
        self.at = 0

    def peek(self) -> tuple[str, str]:
        return self.parts[self.at] if self.at < len(self.parts) else ("end", "")

    def take(self) -> tuple[str, str]:
        part = self.peek()
        self.at += 1
        return part


def factors(text: str) -> list[tuple[str, int]]:
    """(name, power) of all names in a unit.  Raises ExpressionError."""
    reader = Parts(part for part in tokens(text) if part[0] != "gap")
    result = _expression(reader, 0)
    if reader.peek()[0] != "end":
        raise ExpressionError(f"'{reader.peek()[1]}' is not expected in a unit")
    return result


def _expression(reader: Parts, depth: int) -> list[tuple[str, int]]:
    if depth > DEEPEST:
        raise ExpressionError("too many brackets for a unit")
    value = _factor(reader, depth)
    while True:
        kind, text = reader.peek()
        if kind == "end" or text == ")":
            return value
        sign = 1
        if kind == "sign" and text in "*·/":
            reader.take()
            sign = -1 if text == "/" else 1
        elif kind not in ("name", "sign"):
            raise ExpressionError(f"'{text}' is not expected in a unit")
        value += [(name, power * sign) for name, power in _factor(reader, depth)]


def _factor(reader: Parts, depth: int) -> list[tuple[str, int]]:
    kind, text = reader.take()
    if text == "(":
        inside = _expression(reader, depth + 1)
        if reader.take()[1] != ")":
            raise ExpressionError("a bracket is not closed")
    elif kind == "name":
        inside = [(text, 1)]
    elif kind == "number" and text == "1":
        return []
    else:
        raise ExpressionError(f"'{text}' is not a unit" if text else "a unit is missing")
    power = _power(reader, behind_name=kind == "name")
    return [(name, factor * power) for name, factor in inside]


def _power(reader: Parts, behind_name: bool) -> int:
    kind, text = reader.peek()
    if kind == "raised":
        reader.take()
        return {"²": 2, "³": 3}[text]
    if kind == "number" and behind_name and text in ("2", "3", "-1", "−1", "-2", "−2"):
        reader.take()
        return int(text.replace("−", "-"))
    if kind != "power":
        return 1
    reader.take()
    kind, text = reader.take()
    if kind != "number" or len(text) > 3:
        raise ExpressionError("a power is a whole number")
    power = int(text.replace("−", "-"))
    if abs(power) > HIGHEST_POWER:
        raise ExpressionError(f"a power of {power} is beyond any unit")
    return power


def product(text: str, one: Unit, unit: Callable[[str], Unit]) -> Unit:
    """The unit that ``text`` stands for, from that of each name.  Raises ExpressionError."""
    result = one
    for name, power in factors(text):
        result = result * unit(name) ** power  # type: ignore[operator]
    return result
