"""Core shear of a short sandwich beam."""

from __future__ import annotations

from omakase.core.laminate.stack import Stack
from omakase.core.specimens.method import Data, Method, Options, Prediction, Reduction, Size, Sizes
from omakase.core.specimens.methods.sandwich_beam import BEAM_SIZES, predict_beam, reduce_beam

BASIS = "ASTM C393"


def reduce(data: Data, sizes: Sizes, options: Options) -> Reduction:
    """τ = P/((d + c) b), d the total thickness; the facing stress reached is told beside it."""
    return reduce_beam(data, sizes, options, BASIS, "core")


def predict(stack: Stack, sizes: Sizes) -> Prediction:
    """See ``sandwich_beam.predict_beam``."""
    return predict_beam(stack, sizes, "core")


METHOD = Method(
    "core_shear_beam", "Core shear, short beam", BASIS, "Thin faces; the core fails first.",
    (
        *BEAM_SIZES,
        Size("span", "support span", "length", 0.15),
        Size("load_span", "load span, 0 for one roller", "length", 0.0, True),
    ),
    reduce, predict, (("strength", ("S13", "S23")),), "core", "core shear", "core_shear",
)  # fmt: skip
