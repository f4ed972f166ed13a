"""Flatwise compression of a core."""

from __future__ import annotations

import math

from omakase.core.laminate.stack import Stack
from omakase.core.specimens import method as m
from omakase.core.specimens.methods.flatwise import FLAT_SIZES, predict_flat, reduce_flat

BASIS = "ASTM C365"


def reduce(data: m.Data, sizes: m.Sizes, options: m.Options) -> m.Reduction:
    """P/A and S t/A."""
    return reduce_flat(data, sizes, options, "Flatwise compressive strength", BASIS, with_modulus=True)


def predict(stack: Stack, sizes: m.Sizes) -> m.Prediction:
    """See ``flatwise.predict_flat``."""
    return predict_flat(stack, sizes, "Zc", "the core crushes")


METHOD = m.Method(
    "flatwise_compression", "Flatwise compression", BASIS, "Even load over the whole block.",
    FLAT_SIZES, reduce, predict, (("strength", ("Zc",)), ("modulus", ("E3",))), "core", "the core crushes",
    "core_crushing",
    accepted=("core", "gauge"), shape="block", reads="any",
    rules=(m.SizeRule("length", "", 0.025, math.inf, BASIS), m.SizeRule("width", "", 0.025, math.inf, BASIS)),
)  # fmt: skip
