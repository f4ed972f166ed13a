"""A step log as it is typed at the rig, one step a line: what was added, and the deflection read.

    2 block ; 1.2 mm
    5 l water ; 2.4 mm
    1 bar ; broke

``;`` or two spaces part the columns.  What is added is a number of a named item, a mass, a volume of water, or a force.
"= 40 kg" states the whole load hung instead of what is added; "0" or "unloaded" takes everything off.
"""

from __future__ import annotations

import re
from collections.abc import Sequence

import msgspec

from omakase.core.errors import OmakaseError
from omakase.core.plates.loads import STANDARD_GRAVITY
from omakase.core.specimens.steps import Step, force_of
from omakase.project.model import LoadItem
from omakase.units import QuantityError, UnitSystem, display_unit, parse_number, parse_quantity

BROKE = ("broke", "failed", "broken", "cracked", "let go")
HELD = ("held", "ok", "")
BARE = re.compile(r"[-+]?\d*[.,]?\d+(\s+\d+/\d+|/\d+)?")
UNLOADED = ("unloaded", "off", "0")


class LogError(OmakaseError):
    """Why a log cannot be read, by line."""


class Rig(msgspec.Struct, frozen=True):
    """How the load is applied: tare in kg that hangs from the first step on, lever ratio, and named items."""

    tare: float = 0.0
    lever: float = 1.0
    items: tuple[LoadItem, ...] = ()


def read_log(text: str, rig: Rig, units: UnitSystem = "si") -> list[Step]:
    """Steps of a log.  Raises LogError naming the line."""
    steps: list[Step] = []
    hung, pulled = 0.0, 0.0  # kg on the lever, N applied straight
    for number, line in enumerate(text.splitlines(), 1):
        if not line.strip() or line.lstrip().startswith("#"):
            continue
        added, *rest = [part.strip() for part in re.split(r";|\t|\s{2,}", line.strip())]
        try:
            hung, pulled = _added(added, hung, pulled, rig, units)
            deflection, held = _read(rest, units)
        except QuantityError as error:
            raise LogError(f"line {number}: {error}") from None
        loaded = hung > 0.0 or pulled > 0.0
        force = force_of(hung + (rig.tare if loaded else 0.0), rig.lever) + pulled
        steps.append(Step(force, deflection, held))
    return steps


def with_units(text: str, units: UnitSystem) -> str:
    """The log with the unit of deflections behind bare numbers, where the units shown are not those of files."""
    if units == "si":
        return text
    symbol = display_unit("deflection", units).label
    lines = []
    for line in text.splitlines(keepends=True):
        parts = re.split(r"(;|\t|\s{2,})", line)
        for k in range(2, len(parts), 2):
            if BARE.fullmatch(parts[k].strip()):
                parts[k] = parts[k].rstrip() + f" {symbol}" + parts[k][len(parts[k].rstrip()) :]
        lines.append("".join(parts))
    return "".join(lines)


def _added(text: str, hung: float, pulled: float, rig: Rig, units: UnitSystem) -> tuple[float, float]:
    if text.lower() in UNLOADED:
        return 0.0, 0.0
    whole = text.startswith("=")
    text = text.lstrip("=+ ")
    number, unit = parse_number(text)
    named = {item.name.lower(): item.mass for item in rig.items}
    name = unit.lower()
    mass = named.get(name, named.get(name.removesuffix("s")))
    if mass is not None:
        amount, force = number * mass, 0.0
    else:
        amount, force = _amount(text, unit, named, units)
    if whole:
        return amount, force
    return hung + amount, pulled + force


def _amount(text: str, unit: str, named: dict[str, float], units: UnitSystem) -> tuple[float, float]:
    """(kg, N) of a mass, water or force."""
    if not unit:
        raise QuantityError(f"'{text}': of what? Write a mass, a force, litres of water or a named item")
    try:
        return parse_quantity(text, "mass", units), 0.0
    except QuantityError:
        pass
    try:
        return 0.0, parse_quantity(text, "force", units)
    except QuantityError:
        known = ", ".join(named) or "none is named yet"
        raise QuantityError(f"'{unit}' is neither a mass, a force, water nor a named item ({known})") from None


def _read(rest: Sequence[str], units: UnitSystem) -> tuple[float | None, bool]:
    deflection, held = None, True
    for part in rest:
        word = part.lower().rstrip(".!")
        if word in BROKE:
            held = False
        elif word not in HELD:
            deflection = parse_quantity(part, "deflection", units)
    return deflection, held


def mass_for(force: float, rig: Rig) -> float:
    """kg to hang so that the specimen sees ``force`` N, tare and lever counted."""
    return max(force / STANDARD_GRAVITY / (rig.lever or 1.0) - rig.tare, 0.0)
