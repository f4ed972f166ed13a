"""Bending on four points, a solid bar."""

from __future__ import annotations

from omakase.core.laminate.stack import Stack
from omakase.core.specimens.method import THICKNESS, WIDTH, Data, Method, Options, Prediction, Reduction, Size, Sizes
from omakase.core.specimens.methods.bending import predict_bar, reduce_bar

BASIS = "ASTM D7264 procedure B, load span half the span"
LOAD_SHARE = 0.5


def reduce(data: Data, sizes: Sizes, options: Options) -> Reduction:
    """3 P S/(4 b h²); S³ m/(8 b h³) from the rollers' travel, 11 S³ m/(64 b h³) from a gauge in the middle."""
    return reduce_bar(data, sizes, options, LOAD_SHARE, BASIS)


def predict(stack: Stack, sizes: Sizes) -> Prediction:
    """See ``bending.predict_bar``."""
    return predict_bar(stack, sizes, LOAD_SHARE)


METHOD = Method(
    "flexure_4", "Bending on four points", BASIS,
    "Solid bars, span over 16 thicknesses, deflection under a tenth of the span.",
    (
        WIDTH,
        THICKNESS,
        Size("span", "support span", "length", 0.08),
        Size("known_modulus", "modulus known of a blank", "modulus", 0.0, True),
    ),
    reduce, predict, (), "", "outer fibres fail", "face_failure",
)  # fmt: skip
