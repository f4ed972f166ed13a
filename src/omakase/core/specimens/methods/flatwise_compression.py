"""Flatwise compression of a core."""

from __future__ import annotations

from omakase.core.errors import SpecimenError
from omakase.core.laminate.stack import Stack
from omakase.core.specimens.expected import SandwichStrip
from omakase.core.specimens.method import Data, Method, Options, Prediction, Reduction, Sizes, positive
from omakase.core.specimens.methods.flatwise import FLAT_SIZES, reduce_flat

BASIS = "ASTM C365"


def reduce(data: Data, sizes: Sizes, options: Options) -> Reduction:
    """P/A and S t/A."""
    return reduce_flat(data, sizes, options, "Flatwise compressive strength", BASIS, True)


def predict(stack: Stack, sizes: Sizes) -> Prediction:
    """The core's crushing strength and its modulus through the thickness."""
    length, width, thickness = positive(sizes, "length", "width", "core_thickness")
    strip = SandwichStrip(stack)
    strength, modulus = strip.core_value("Zc"), strip.core_value("E3")
    if strength is None or modulus is None:
        raise SpecimenError("the core states no flatwise properties: nothing can be predicted")
    area = length * width
    return Prediction({"the core crushes": strength * area}, modulus * area / thickness,
                      {"strength": strength, "modulus": modulus})  # fmt: skip


METHOD = Method(
    "flatwise_compression", "Flatwise compression", BASIS, "Even load over the whole block.",
    FLAT_SIZES, reduce, predict, (("strength", ("Zc",)), ("modulus", ("E3",))), "core", "the core crushes",
    "core_crushing",
)  # fmt: skip
