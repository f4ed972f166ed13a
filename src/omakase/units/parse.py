"""Reading what a person types: a number in any usual spelling, and an optional unit.

A units library reads "1 1/2 in" as half an inch and "12,5 mm" as 125 mm, so the number is taken apart here first;
the unit text that is left goes to pint with a small definition file of our own.
"""

from __future__ import annotations

import re
from fractions import Fraction
from functools import lru_cache
from typing import TYPE_CHECKING

from omakase.shipped import shipped
from omakase.units.display import UnitSystem, display_unit
from omakase.units.expression import ExpressionError, product

if TYPE_CHECKING:
    from pint import UnitRegistry
    from pint.registry import Quantity

MAX_TEXT = 80
LARGEST = 1e15  # in SI: beyond anything that is built
SIGNS = {'"': "inch", "''": "inch", "'": "foot", "%": "percent", "#": "lb"}

# dimension -> an SI unit expression that pint can compare with
SI_UNITS: dict[str, str] = {
    "length": "m",
    "deflection": "m",
    "pressure": "Pa",
    "stress": "Pa",
    "strength": "Pa",
    "core_stress": "Pa",
    "modulus": "Pa",
    "force": "N",
    "mass": "kg",
    "areal_mass": "kg/m**2",
    "line_mass": "kg/m",
    "density": "kg/m**3",
    "frequency": "1/s",
    "line_load": "N/m",
    "duration": "s",
    "bending": "N*m",
    "beam_stiffness": "N*m**2",
    "curvature": "1/m",
    "energy": "J",
    "speed": "m/s",
    "air_speed": "m/s",
    "compliance": "m/N",
    "edge_spring": "Pa",
    "bed": "N/m**3",
    "area": "m**2",
    "run": "m",
    "small_mass": "kg",
    "vacuum": "Pa",
    "minutes": "s",
    "seconds": "s",
    "strain": "",
    "ratio": "",
    "money": "",
}
DIMENSION_NAMES: dict[str, str] = {
    "length": "a length",
    "deflection": "a length",
    "pressure": "a pressure",
    "stress": "a stress",
    "strength": "a stress",
    "core_stress": "a stress",
    "modulus": "a modulus",
    "force": "a force",
    "mass": "a mass",
    "areal_mass": "a mass per area",
    "line_mass": "a mass per length",
    "density": "a density",
    "frequency": "a frequency",
    "line_load": "a force per length",
    "ratio": "a plain number",
    "money": "a plain number",
    "duration": "a time",
    "bending": "a bending stiffness per width",
    "beam_stiffness": "a stiffness of a beam",
    "temperature": "a temperature",
    "temperature_change": "a change of temperature",
    "expansion": "an expansion per degree",
    "curvature": "a curvature",
    "energy": "an energy",
    "speed": "a speed",
    "air_speed": "a speed",
    "compliance": "a compliance, travel per force",
    "edge_spring": "a force per length and travel",
    "bed": "a force per area and travel",
    "area": "an area",
    "run": "a length",
    "small_mass": "a mass",
    "vacuum": "a pressure",
    "minutes": "a time",
    "seconds": "a time",
    "strain": "a strain",
    "angle": "an angle",
    "acceleration": "a multiple of g",
}

# dimension -> unit in small letters -> (factor, zero) in SI: pint's degrees need care that a table does not
_FAHRENHEIT = 5.0 / 9.0
DEGREES: dict[str, dict[str, tuple[float, float]]] = {
    "temperature": {
        **dict.fromkeys(("°c", "c", "degc", "celsius"), (1.0, 273.15)),
        **dict.fromkeys(("°f", "f", "degf", "fahrenheit"), (_FAHRENHEIT, 459.67 * _FAHRENHEIT)),
        "k": (1.0, 0.0),
    },
    "temperature_change": {
        **dict.fromkeys(("°c", "c", "k"), (1.0, 0.0)),
        **dict.fromkeys(("°f", "f"), (_FAHRENHEIT, 0.0)),
    },
    "expansion": {
        **dict.fromkeys(("1/k", "1/°c"), (1.0, 0.0)),
        **dict.fromkeys(("1e-6/k", "ppm/k", "µm/(mk)", "um/(mk)", "µm/mk", "µε/k"), (1e-6, 0.0)),
        **dict.fromkeys(("1/°f", "1/f"), (1.8, 0.0)),
        **dict.fromkeys(("ppm/°f", "ppm/f", "µin/(in°f)", "uin/(inf)", "µin/in°f"), (1.8e-6, 0.0)),
    },
}

_VULGAR = {"½": "1/2", "¼": "1/4", "¾": "3/4", "⅛": "1/8", "⅜": "3/8", "⅝": "5/8", "⅞": "7/8", "⅓": "1/3", "⅔": "2/3"}
_NUMBER = re.compile(
    r"""\s*(?P<sign>[+\-−])?\s*(?:
        (?P<whole>\d+)[\s-]+(?P<n1>\d+)\s*/\s*(?P<d1>\d+) |
        (?P<n2>\d+)\s*/\s*(?P<d2>\d+) |
        (?P<decimal>\d+(?:[.,]\d+)*|[.,]\d+)(?P<exponent>[eE][+\-−]?\d+)?
    )""",
    re.VERBOSE,
)


class QuantityError(ValueError):
    """The text is not a quantity of the wanted dimension; the message says why, for the person who typed it."""


def _decimal(text: str) -> float:
    """A decimal with point or comma.  "1.250,5" and "1,250.5" are read by their last mark; "1,250" is refused."""
    marks = [c for c in text if c in ".,"]
    if not marks:
        return float(text)
    if len(set(marks)) == 2:
        last = max(text.rfind("."), text.rfind(","))
        if marks.count(text[last]) > 1:
            raise QuantityError(f"'{text}' mixes points and commas: write it without thousands marks")
        return float(re.sub(r"[.,]", "", text[:last]) + "." + text[last + 1 :])
    if len(marks) > 1:
        raise QuantityError(f"'{text}' has more than one decimal mark: write it without thousands marks")
    if marks[0] == "," and re.fullmatch(r"[1-9]\d{0,2},\d{3}", text):
        raise QuantityError(f"'{text}' could be {text.replace(',', '')} or {text.replace(',', '.')}: write it plainly")
    return float(text.replace(",", "."))


def _number(text: str) -> re.Match[str]:
    """The number a text starts with.  Raises QuantityError where there is none."""
    plain = text
    for sign, fraction in _VULGAR.items():
        plain = plain.replace(sign, f" {fraction}")
    match = _NUMBER.match(plain)
    if match is None:
        raise QuantityError(f"'{text.strip()}' does not start with a number" if text.strip() else "type a number")
    return match


def parse_number(text: str) -> tuple[float, str]:
    """(number, rest) of a text that starts with one: "1 1/2 in" -> (1.5, "in"), "12,5 mm" -> (12.5, "mm").

    Raises QuantityError where no number starts the text or it can be read in two ways.
    """
    if len(text) > MAX_TEXT:
        raise QuantityError("too long for a number with a unit")
    match = _number(text)
    if match["d1"] or match["d2"]:
        denominator = int(match["d1"] or match["d2"])
        if denominator == 0:
            raise QuantityError("a fraction cannot have 0 below the line")
        value = float(int(match["whole"] or 0) + Fraction(int(match["n1"] or match["n2"]), denominator))
    else:
        value = _decimal(match["decimal"])
        if match["exponent"]:
            value *= float("1e" + match["exponent"][1:].replace("−", "-"))
    if match["sign"] in ("-", "−"):
        value = -value
    if not abs(value) < 1e300:
        raise QuantityError("that number is beyond all bounds")
    return value, match.string[match.end() :].strip()


def last_place(text: str) -> float:
    """The worth of the last digit written, in the unit written: 412 -> 1, 14.50 -> 0.01, 1/8 -> 1/8, 1.2e3 -> 100."""
    match = _number(text)
    if match["d1"] or match["d2"]:
        return 1.0 / int(match["d1"] or match["d2"])
    digits = match["decimal"].replace(",", ".")
    exponent = int(match["exponent"][1:].replace("−", "-")) if match["exponent"] else 0
    decimals = len(digits.rsplit(".", 1)[1]) if digits.count(".") == 1 else 0
    return float(10.0 ** (exponent - decimals))


@lru_cache(maxsize=1)
def registry() -> UnitRegistry:
    """The pint registry with our definitions; imported at first use because that takes a third of a second."""
    import pint

    return pint.UnitRegistry(str(shipped("units/units.txt")), autoconvert_offset_to_baseunit=False)


def _unit_factor(unit: str, dimension: str) -> float:
    """SI value of one ``unit`` typed into a field of ``dimension``."""
    import pint

    quantity = _quantity_of(unit)
    wanted = SI_UNITS[dimension]
    if quantity.check("[mass]") and dimension == "force":
        raise QuantityError(f"'{unit}' is a mass; for its weight type '{_weight_hint(unit)}'")
    try:
        return float(quantity.to(wanted or "dimensionless").magnitude)
    except pint.errors.DimensionalityError:
        raise QuantityError(f"'{unit}' does not fit: {DIMENSION_NAMES[dimension]} is wanted here") from None


def _quantity_of(unit: str) -> Quantity:
    """One of a unit that was typed.  Raises QuantityError."""
    ureg = registry()

    def named(name: str) -> Quantity:
        return ureg.Quantity(1.0, ureg.parse_units(SIGNS.get(name, name)))

    try:
        return product(unit, ureg.Quantity(1.0), named)
    except ExpressionError as error:
        raise QuantityError(f"'{unit}' is not a unit: {error}") from None
    except Exception:  # the library raises nearly anything on names that it does not know
        raise QuantityError(f"'{unit}' is not a unit for this field") from None


@lru_cache(maxsize=1)
def unit_names() -> frozenset[str]:
    """Every name of a unit, with and without a prefix, read from the definitions: without the library's import."""
    text = shipped("units/units.txt").read_text("utf-8")
    prefixes, names = [""], []
    for line in text.splitlines():
        parts = [part.strip() for part in line.split("#")[0].split("=")]
        if len(parts) < 2:
            continue
        known = [parts[0], *parts[2:]]
        if parts[0].endswith("-"):
            prefixes += [name.removesuffix("-") for name in known]
        else:
            names += known
    return frozenset(prefix + name for prefix in prefixes for name in names)


@lru_cache(maxsize=256)
def unit_in_base(unit: str) -> tuple[float, dict[str, int]]:
    """(SI value of one unit, its powers of m, kg, s and K).  Raises QuantityError."""
    base = _quantity_of(unit).to_base_units()
    powers = {str(name): int(power) for name, power in base.unit_items()}
    kilograms = powers.pop("gram", 0)
    factor = float(base.magnitude) * 1e-3**kilograms
    symbols = {"meter": "m", "second": "s", "kelvin": "K"}
    return factor, {"kg": kilograms, **{symbols[name]: power for name, power in powers.items() if name in symbols}}


def _weight_hint(unit: str) -> str:
    return {"kg": "kgf", "lb": "lbf", "lbs": "lbf", "g": "gf"}.get(unit, "a force such as N")


_WATER = re.compile(r"(?P<unit>.+?)\s*(?:of\s+)?water\Z")
WATER_DENSITY = 998.2  # kg/m³ at 20 °C


_SUM = re.compile(r"(?<=\S)\s+(?P<sign>[+\-−])\s+(?=\S)")
_TIMES = re.compile(r"(?P<rest>.*\S)\s*(?P<sign>[*×/])\s*(?P<number>\d+(?:[.,]\d+)?)\s*\Z")
_FIRST = re.compile(r"\s*(?P<number>\d+(?:[.,]\d+)?)\s*[*×]\s*(?P<rest>.+)\Z")


def parse_quantity(text: str, dimension: str, system: UnitSystem = "si") -> float:
    """SI value of a typed text; without a unit the project's display unit of the dimension is meant.

    Water by volume counts as mass or weight: "10 l water".  Sums, and products and quotients with plain numbers, are
    worked out: "200 lb * 2", "1 m + 20 mm", "8 mm / 3".  Raises QuantityError with a message for the person.
    """
    if len(text) > MAX_TEXT:
        raise QuantityError("too long for a number with a unit")
    try:
        value = _plain_quantity(text, dimension, system)
    except QuantityError as error:
        try:
            value = _worked_out(text, dimension, system)
        except QuantityError:
            raise error from None
    if not abs(value) <= LARGEST:
        raise QuantityError("that number is beyond all bounds")
    return value


def _worked_out(text: str, dimension: str, system: UnitSystem) -> float:
    """Value of a text with arithmetic.  Raises QuantityError where there is none."""
    if dimension in ("temperature", "angle"):
        raise QuantityError("not added up")
    parts = _SUM.split(text)
    if len(parts) > 1:
        value = parse_quantity(parts[0], dimension, system)
        for sign, part in zip(parts[1::2], parts[2::2], strict=True):
            value += (1.0 if sign == "+" else -1.0) * parse_quantity(part, dimension, system)
        return value
    behind, before = _TIMES.match(text), _FIRST.match(text)
    if behind is not None:
        number, value = _decimal(behind["number"]), parse_quantity(behind["rest"], dimension, system)
        if behind["sign"] == "/":
            if number == 0.0:
                raise QuantityError("nothing can be divided by 0")
            return value / number
        return value * number
    if before is not None:
        return _decimal(before["number"]) * parse_quantity(before["rest"], dimension, system)
    raise QuantityError("no arithmetic in it")


def _plain_quantity(text: str, dimension: str, system: UnitSystem) -> float:
    value, unit = parse_number(text)
    shown = display_unit(dimension, system)
    if unit in ("", shown.label):
        return value * shown.factor + shown.zero
    if dimension in DEGREES:
        factor, zero = DEGREES[dimension].get(unit.lower().replace(" ", ""), (0.0, 0.0))
        if not factor:
            raise QuantityError(f"'{unit}' does not fit: {DIMENSION_NAMES[dimension]} is wanted here")
        return value * factor + zero
    if dimension in ("angle", "acceleration"):
        if unit.lower() in {"angle": ("°", "deg"), "acceleration": ("g", "x", "×")}[dimension]:
            return value
        raise QuantityError(f"'{unit}' does not fit: {DIMENSION_NAMES[dimension]} is wanted here")
    water = _WATER.match(unit)
    if water and dimension in ("force", "mass"):
        mass = value * _volume(water["unit"]) * WATER_DENSITY
        return mass * 9.80665 if dimension == "force" else mass
    if dimension not in SI_UNITS:
        raise QuantityError(f"'{unit}' does not fit: {DIMENSION_NAMES.get(dimension, dimension)} is wanted here")
    return value * _unit_factor(unit, dimension)


def _volume(unit: str) -> float:

    try:
        return float(_quantity_of(unit).to("m**3").magnitude)
    except Exception:  # not a unit, or not one of volume
        raise QuantityError(f"'{unit}' is not a volume: try '12 l water'") from None


def parse_reading(text: str, dimension: str, system: UnitSystem = "si") -> tuple[float, float]:
    """(SI value, half the worth of its last digit in SI) of a reading as it was written down.

    Two readings of one thing agree where the ranges value ± half overlap.  Raises QuantityError.
    """
    value = parse_quantity(text, dimension, system)
    number, unit = parse_number(text)
    if number == 0.0:
        return value, 0.0
    one = parse_quantity(f"1 {unit}".strip(), dimension, system) - parse_quantity(
        f"0 {unit}".strip(), dimension, system
    )
    return value, abs(one) * last_place(text) / 2.0
