"""Facing strength of a long sandwich beam."""

from __future__ import annotations

from omakase.core.laminate.stack import Stack
from omakase.core.specimens.method import Data, Method, Options, Prediction, Reduction, Size, Sizes
from omakase.core.specimens.methods.sandwich_beam import BEAM_SIZES, predict_beam, reduce_beam

BASIS = "ASTM D7249"


def reduce(data: Data, sizes: Sizes, options: Options) -> Reduction:
    """σ = P (S − L)/(2 t (d + c) b); the core shear reached is told beside it."""
    return reduce_beam(data, sizes, options, BASIS, "face")


def predict(stack: Stack, sizes: Sizes) -> Prediction:
    """See ``sandwich_beam.predict_beam``; warns where the core would shear before a face fails."""
    found = predict_beam(stack, sizes, "face")
    if found.mode != "core shear":
        return found
    told = "the core shears before a face fails: a longer span would ask the faces"
    return Prediction(found.forces, found.stiffness, found.values, remarks=(told,))


METHOD = Method(
    "long_beam", "Facings, long beam", BASIS, "Thin faces; a face fails between the load rollers.",
    (
        *BEAM_SIZES,
        Size("span", "support span", "length", 0.5),
        Size("load_span", "load span, 0 for one roller", "length", 0.1, True),
    ),
    reduce, predict, (("strength", ("Xc", "Xt")),), "ply", "face A fails pressed", "face_failure",
)  # fmt: skip
