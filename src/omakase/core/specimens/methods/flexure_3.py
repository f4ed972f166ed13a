"""Bending on three points, a solid bar."""

from __future__ import annotations

from omakase.core.laminate.stack import Stack
from omakase.core.specimens.method import THICKNESS, WIDTH, Data, Method, Options, Prediction, Reduction, Size, Sizes
from omakase.core.specimens.methods.bending import predict_bar, reduce_bar

BASIS = "ASTM D790, D7264 procedure A"
LOAD_SHARE = 0.0


def reduce(data: Data, sizes: Sizes, options: Options) -> Reduction:
    """3 P S/(2 b h²) and S³ m/(4 b h³)."""
    return reduce_bar(data, sizes, options, LOAD_SHARE, BASIS)


def predict(stack: Stack, sizes: Sizes) -> Prediction:
    """See ``bending.predict_bar``."""
    return predict_bar(stack, sizes, LOAD_SHARE)


METHOD = Method(
    "flexure_3", "Bending on three points", BASIS,
    "Solid bars, span over 16 thicknesses, deflection under a tenth of the span.",
    (
        WIDTH,
        THICKNESS,
        Size("span", "support span", "length", 0.08),
        Size("known_modulus", "modulus known of a blank", "modulus", 0.0, True),
    ),
    reduce, predict, (), "", "outer fibres fail", "face_failure",
)  # fmt: skip
