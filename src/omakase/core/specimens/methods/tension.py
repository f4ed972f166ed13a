"""Tension of a flat coupon."""

from __future__ import annotations

from omakase.core.laminate.stack import Stack
from omakase.core.specimens import method as m
from omakase.core.specimens.expected import Strip
from omakase.core.specimens.methods.axial import reduce_axial

BASIS = "ASTM D3039"


def reduce(data: m.Data, sizes: m.Sizes, options: m.Options) -> m.Reduction:
    """P/(b h), and the chord between 0.1 and 0.3 % strain."""
    return reduce_axial(data, sizes, options, "Tensile", BASIS)


def predict(stack: Stack, sizes: m.Sizes) -> m.Prediction:
    """The order of breaking of the strip pulled along x."""
    width, thickness, length = m.positive(sizes, "width", "thickness", "gauge_length")
    strip = Strip(stack)
    force = strip.strongest("stretch_x") * width
    rigidity = strip.modulus * strip.thickness * width  # the plies carry it, however thick they came out
    area = width * thickness
    values = {"strength": force / area, "modulus": rigidity / area, "poisson": strip.poisson}
    return m.Prediction({"fibres break": force}, rigidity / length, values, 1.0 / rigidity, -strip.poisson / rigidity)


METHOD = m.Method(
    "tension", "Tension of a coupon", BASIS,
    "Flat coupons of even width; a failure within one width of the grip counts as a bound.",
    (m.WIDTH, m.THICKNESS, m.Size("gauge_length", "length between the grips", "length", 0.15)),
    reduce, predict,
    (("strength", ("Xt", "Yt")), ("modulus", ("E1", "E2")), ("poisson", ("nu12",))), "ply", "fibres break",
    "face_failure",
    accepted=("gauge",), gripped=True,
)  # fmt: skip
