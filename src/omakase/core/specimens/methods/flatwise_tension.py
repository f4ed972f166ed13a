"""Flatwise tension: the faces pulled off the core."""

from __future__ import annotations

import math

from omakase.core.laminate.stack import Stack
from omakase.core.specimens import method as m
from omakase.core.specimens.methods.flatwise import FLAT_SIZES, predict_flat, reduce_flat

BASIS = "ASTM C297"


def reduce(data: m.Data, sizes: m.Sizes, options: m.Options) -> m.Reduction:
    """P/A.  The place of failure matters more than the number: in the core is good, at the bond is not."""
    return reduce_flat(data, sizes, options, "Flatwise tensile strength", BASIS, with_modulus=False)


def predict(stack: Stack, sizes: m.Sizes) -> m.Prediction:
    """See ``flatwise.predict_flat``."""
    return predict_flat(stack, sizes, "Zt", "the core parts")


METHOD = m.Method(
    "flatwise_tension", "Flatwise tension", BASIS, "Blocks bonded to the faces; even load.",
    FLAT_SIZES, reduce, predict, (("strength", ("Zt",)),), "core", "the core parts", "",
    accepted=("core", "bond"), shape="block", reads="any",
    rules=(m.SizeRule("length", "", 0.025, math.inf, BASIS), m.SizeRule("width", "", 0.025, math.inf, BASIS)),
)  # fmt: skip
