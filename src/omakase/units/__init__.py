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
from omakase.units.parse import QuantityError, parse_number, parse_quantity

__all__ = [
    "FIELD",
    "TYPED",
    "UNIT_SYSTEM_NAMES",
    "QuantityError",
    "UnitSystem",
    "display_unit",
    "format_value",
    "from_display",
    "parse_number",
    "parse_quantity",
    "to_display",
]
