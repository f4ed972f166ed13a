"""Words for the vehicle sheet: values of quantities, and what a change does."""

from __future__ import annotations

from omakase.evaluate.members.sentence import within
from omakase.evaluate.vehicle.effects import ROOM, State, Turn
from omakase.project.model import VehicleQuantity
from omakase.units import QuantityError, UnitSystem
from omakase.units.formula import Value, in_unit, shown_unit

TURN_WORDS: dict[Turn, str] = {
    "lost": "× no longer passes",
    "gained": "✓ passes now",
    "room": f"has room now, more than {ROOM - 1.0:.0%}",
    "less": "less reserve",
    "more": "more reserve",
    "same": "the same",
    "error": "! cannot be judged",
}


def value_text(quantity: VehicleQuantity, value: Value | None, units: UnitSystem) -> str:
    """What a quantity comes to, in the unit it is shown in; empty where that cannot be said."""
    if value is None:
        return ""
    unit = quantity.unit or shown_unit(value, units)
    try:
        number = in_unit(value, unit)
    except QuantityError:
        return ""
    text = f"{number:,.5g}" if abs(number) < 1e6 else f"{number:.5g}"
    return f"{text} {unit}".strip().replace("-", "−", 1) if number < 0.0 else f"{text} {unit}".strip()


def state_text(state: State) -> str:
    """A verdict with what governs: "✓ 1.24 deflection"."""
    if state.verdict == "error":
        return state.error
    mark = "✓" if state.verdict == "passes" else "×"
    if state.reserve is None:
        return mark
    return f"{mark} {state.reserve:.2f} {within(state.governs)}"
