"""Flatwise tension: the faces pulled off the core."""

from __future__ import annotations

from omakase.core.errors import SpecimenError
from omakase.core.laminate.stack import Stack
from omakase.core.specimens.expected import SandwichStrip
from omakase.core.specimens.method import Data, Method, Options, Prediction, Reduction, Sizes, positive
from omakase.core.specimens.methods.flatwise import FLAT_SIZES, reduce_flat

BASIS = "ASTM C297"


def reduce(data: Data, sizes: Sizes, options: Options) -> Reduction:
    """P/A; where it parted tells more than the number: in the core is good, at the bond is not."""
    return reduce_flat(data, sizes, options, "Flatwise tensile strength", BASIS, False)


def predict(stack: Stack, sizes: Sizes) -> Prediction:
    """The core's flatwise tensile strength, where it is stated."""
    length, width, thickness = positive(sizes, "length", "width", "core_thickness")
    strip = SandwichStrip(stack)
    strength, modulus = strip.core_value("Zt"), strip.core_value("E3")
    if strength is None or modulus is None:
        raise SpecimenError("the core states no flatwise tensile strength: nothing can be predicted")
    return Prediction({"the core parts": strength * length * width}, modulus * length * width / thickness,
                      {"strength": strength})  # fmt: skip


METHOD = Method(
    "flatwise_tension", "Flatwise tension", BASIS, "Blocks bonded to the faces; even load.",
    FLAT_SIZES, reduce, predict, (("strength", ("Zt",)),), "core", "the core parts", "",
)  # fmt: skip
