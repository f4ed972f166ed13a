"""The unit each dimension is shown in, for both unit systems, and how many digits it deserves."""

from __future__ import annotations

import math
from typing import Literal

import msgspec

UnitSystem = Literal["si", "inch_pound"]
UNIT_SYSTEM_NAMES: dict[UnitSystem, str] = {"si": "SI (mm, N, MPa)", "inch_pound": "inch-pound (in, lbf, psi)"}


class Unit(msgspec.Struct, frozen=True):
    """``factor``: SI value of one display unit.  ``decimals``: most digits after the point that mean something.

    ``zero``: SI value of the display unit's zero, other than 0 for temperatures only.
    """

    label: str
    factor: float
    decimals: int
    zero: float = 0.0


_INCH, _POUND, _FORCE = 0.0254, 0.45359237, 4.4482216152605
_PSI = _FORCE / _INCH**2

_SAME: dict[str, Unit] = {
    "frequency": Unit("Hz", 1.0, 1),
    "ratio": Unit("", 1.0, 3),
    "money": Unit("", 1.0, 0),
    "angle": Unit("°", 1.0, 1),
    "acceleration": Unit("g", 1.0, 2),
    "strain": Unit("µε", 1e-6, 0),
    "duration": Unit("h", 3600.0, 2),
    "minutes": Unit("min", 60.0, 1),
    "seconds": Unit("s", 1.0, 2),
}
_TABLES: dict[UnitSystem, dict[str, Unit]] = {
    "si": {
        "length": Unit("mm", 1e-3, 2),
        "deflection": Unit("mm", 1e-3, 2),
        "pressure": Unit("kPa", 1e3, 3),
        "stress": Unit("MPa", 1e6, 2),
        "strength": Unit("MPa", 1e6, 2),
        "core_stress": Unit("MPa", 1e6, 3),
        "modulus": Unit("GPa", 1e9, 4),
        "force": Unit("N", 1.0, 1),
        "energy": Unit("J", 1.0, 3),
        "speed": Unit("mm/min", 1e-3 / 60.0, 2),
        "air_speed": Unit("m/s", 1.0, 1),
        "compliance": Unit("µm/kN", 1e-9, 2),
        "mass": Unit("kg", 1.0, 3),
        "areal_mass": Unit("g/m²", 1e-3, 0),
        "line_mass": Unit("kg/m", 1.0, 3),
        "density": Unit("kg/m³", 1.0, 0),
        "line_load": Unit("N/mm", 1e3, 2),
        "bending": Unit("N m", 1.0, 3),
        "beam_stiffness": Unit("N m²", 1.0, 1),
        "temperature": Unit("°C", 1.0, 0, 273.15),
        "temperature_change": Unit("K", 1.0, 1),
        "expansion": Unit("µm/(m K)", 1e-6, 2),
        "curvature": Unit("1/m", 1.0, 3),
        "edge_spring": Unit("N/mm²", 1e6, 3),
        "bed": Unit("N/cm³", 1e6, 3),
        "area": Unit("m²", 1.0, 3),
        "run": Unit("m", 1.0, 2),
        "small_mass": Unit("g", 1e-3, 1),
        "vacuum": Unit("mbar", 100.0, 1),
        **_SAME,
    },
    "inch_pound": {
        "length": Unit("in", _INCH, 4),
        "deflection": Unit("in", _INCH, 4),
        "pressure": Unit("psi", _PSI, 4),
        "stress": Unit("ksi", 1e3 * _PSI, 3),
        "strength": Unit("ksi", 1e3 * _PSI, 3),
        "core_stress": Unit("psi", _PSI, 1),
        "modulus": Unit("Msi", 1e6 * _PSI, 5),
        "force": Unit("lbf", _FORCE, 2),
        "energy": Unit("in lbf", _FORCE * _INCH, 3),
        "speed": Unit("in/min", _INCH / 60.0, 3),
        "air_speed": Unit("ft/s", 12.0 * _INCH, 1),
        "compliance": Unit("µin/lbf", 1e-6 * _INCH / _FORCE, 3),
        "mass": Unit("lb", _POUND, 3),
        "areal_mass": Unit("oz/yd²", _POUND / 16.0 / (36.0 * _INCH) ** 2, 2),
        "line_mass": Unit("lb/ft", _POUND / (12.0 * _INCH), 3),
        "density": Unit("lb/ft³", _POUND / (12.0 * _INCH) ** 3, 2),
        "line_load": Unit("lbf/in", _FORCE / _INCH, 2),
        "bending": Unit("lbf in", _FORCE * _INCH, 3),
        "beam_stiffness": Unit("lbf in²", _FORCE * _INCH**2, 0),
        "temperature": Unit("°F", 5.0 / 9.0, 0, 459.67 * 5.0 / 9.0),
        "temperature_change": Unit("°F", 5.0 / 9.0, 1),
        "expansion": Unit("µin/(in °F)", 1.8e-6, 2),
        "curvature": Unit("1/in", 1.0 / _INCH, 5),
        "edge_spring": Unit("psi", _PSI, 1),
        "bed": Unit("lbf/in³", _FORCE / _INCH**3, 2),
        "area": Unit("ft²", (12.0 * _INCH) ** 2, 2),
        "run": Unit("yd", 36.0 * _INCH, 2),
        "small_mass": Unit("oz", _POUND / 16.0, 2),
        "vacuum": Unit("inHg", 3386.389, 3),
        **_SAME,
    },
}
FIELD, TYPED = 6, 10  # significant digits
AS_WRITTEN = 0.0025  # of a value in inch-pound units that was stated in others
DIMENSIONS = tuple(_TABLES["si"])


def display_unit(dimension: str, system: UnitSystem) -> Unit:
    """The unit ``dimension`` is shown in."""
    return _TABLES[system][dimension]


def to_display(value: float, dimension: str, system: UnitSystem) -> float:
    """SI value in the display unit."""
    unit = display_unit(dimension, system)
    return (value - unit.zero) / unit.factor


def from_display(value: float, dimension: str, system: UnitSystem) -> float:
    """Display value in SI."""
    unit = display_unit(dimension, system)
    return value * unit.factor + unit.zero


def _as_written(shown: float, digits: int) -> str:
    """A number in inches or pounds as people write it: whole where it is, else to a quarter of a percent.

    0.25 m are 9.84 in in a field, not 9.84252; what is stated to five digits, 24.125 say, stays.
    """
    if math.isclose(float(f"{shown:.5g}"), shown, rel_tol=1e-9):
        return f"{shown:.5g}"
    for count in range(2, digits):
        rounded = float(f"{shown:.{count}g}")
        if math.isclose(rounded, shown, rel_tol=AS_WRITTEN):
            return f"{rounded:.{digits}g}"  # not with an exponent: 4,500 rather than 4.5e+03
    return f"{shown:.{digits}g}"


def format_value(value: float, dimension: str, system: UnitSystem, with_unit: bool = False, digits: int = 0) -> str:
    """Text of an SI value in the display unit, as many decimals as the dimension deserves.

    With ``digits``, that many significant digits and no trailing zeros: ``FIELD`` for a field, ``TYPED`` to keep all
    that a person may have typed.
    """
    unit = display_unit(dimension, system)
    if math.isnan(value):
        return "–"
    if math.isinf(value):
        return "∞" if value > 0 else "−∞"
    shown = (value - unit.zero) / unit.factor
    if digits:
        text = f"{shown:.{digits}g}" if system == "si" or digits > FIELD else _as_written(shown, digits)
    else:
        # four significant digits, but no more decimals than the dimension deserves
        magnitude = math.floor(math.log10(abs(shown))) if shown else 0
        decimals = 2 if dimension == "money" and 0.0 < abs(shown) < 10.0 else unit.decimals
        text = f"{shown:.{max(0, min(decimals, 3 - magnitude))}f}"
    if float(text) == 0.0:
        text = text.lstrip("-")
    text = text.replace("-", "−") if "e" not in text else text
    return f"{text} {unit.label}".rstrip() if with_unit else text
