"""The numbers of a member that a brief may limit: one table for rows, limits, studies and sentences."""

from __future__ import annotations

from typing import Literal

import msgspec

Way = Literal["at_most", "at_least", "outside"]


class Quantity(msgspec.Struct, frozen=True):
    """``key`` : of the result, ``limit`` : of the brief's limit on it; ``dimension`` for display.

    ``before``, ``after`` : the words of the limit's sentence around its value; ``offer`` : what a menu calls it,
    ``field`` what the field of its value is called, ``problem`` the same in a message; ``start`` : the value of a new
    limit.
    ``always`` : shown also where no limit is set.
    """

    key: str
    limit: str
    title: str
    dimension: str
    way: Way
    before: str
    after: str
    offer: str
    field: str
    problem: str
    start: float | tuple[float, float]
    always: bool = True


QUANTITIES: tuple[Quantity, ...] = (
    Quantity("deflection", "deflection", "Deflection", "deflection", "at_most", "It may sag at most", "",
             "sag at most", "Largest deflection allowed", "sag allowed", 0.005),
    Quantity("rotation", "rotation", "Rotation", "angle", "at_most", "Its section turns at most", "",
             "turn of a section at most", "Largest turn allowed", "turn allowed", 3.0, False),
    Quantity("twist", "twist", "Twist", "angle", "at_most", "It twists at most", "",
             "twist at most", "Largest twist allowed", "twist allowed", 3.0, False),
    Quantity("frequency", "frequency_minimum", "First frequency", "frequency", "at_least", "First frequency at least",
             "", "first frequency at least", "Lowest first frequency allowed", "lowest first frequency", 40.0),
    Quantity("frequency_band", "frequency_band", "Nearest mode", "frequency", "outside", "No mode lies between", "",
             "a band without modes", "Lower end of the forbidden band", "forbidden band", (80.0, 120.0), False),
    Quantity("mass", "mass", "Mass", "mass", "at_most", "It weighs at most", "",
             "mass at most", "Largest mass allowed", "mass allowed", 1.0),
    Quantity("thickness", "thickness", "Thickness", "length", "at_most", "It is at most", "thick",
             "thickness at most", "Largest thickness allowed", "thickness allowed", 0.02),
    Quantity("diameter", "diameter", "Outside diameter", "length", "at_most", "Its outside diameter is at most", "",
             "outside diameter at most", "Largest outside diameter allowed", "outside diameter allowed", 0.05),
    Quantity("bay_sag", "bay_sag", "Sag of the skin", "deflection", "at_most", "The skin between ribs sags at most", "",
             "sag of the skin between ribs at most", "Largest sag of the skin allowed", "sag of the skin allowed",
             0.001),
    Quantity("span_mass", "span_mass", "Mass per length of wing", "line_mass", "at_most",
             "With its share of skin it weighs at most", "of wing", "mass per length of wing at most",
             "Largest mass per length of wing", "mass per length allowed", 2.0),
    Quantity("divergence", "divergence", "Divergence speed", "air_speed", "at_least", "It diverges not below", "",
             "divergence speed at least", "Lowest divergence speed allowed", "divergence speed allowed", 50.0),
)  # fmt: skip
BY_LIMIT = {quantity.limit: quantity for quantity in QUANTITIES}
