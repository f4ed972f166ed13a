"""Quantities as people type and read them; SI inside, units only at the edges."""

from omakase.units.display import (
    FIELD,
    TYPED,
    UNIT_SYSTEM_NAMES,
    UnitSystem,
    display_unit,
    format_value,
    from_display,
    to_display,
)
from omakase.units.parse import QuantityError, last_place, parse_number, parse_quantity, parse_reading

__all__ = [
    "FIELD",
    "TYPED",
    "UNIT_SYSTEM_NAMES",
    "QuantityError",
    "UnitSystem",
    "display_unit",
    "format_value",
    "from_display",
    "last_place",
    "parse_number",
    "parse_quantity",
    "parse_reading",
    "to_display",
]
