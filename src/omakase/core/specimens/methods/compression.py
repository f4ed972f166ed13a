"""Compression of a flat coupon in a fixture."""

from __future__ import annotations

import numpy as np

from omakase.core.laminate.stack import Stack
from omakase.core.specimens import method as m
from omakase.core.specimens.expected import Strip
from omakase.core.specimens.methods.axial import reduce_axial

BASIS = "ASTM D6641"
BUCKLES = "the free length buckles before the fibres crush: a shorter one or a thicker coupon shows the strength"


def reduce(data: m.Data, sizes: m.Sizes, options: m.Options) -> m.Reduction:
    """P/(b h), the chord between 0.1 and 0.3 % strain, and the stress at which the free length would buckle."""
    reduction = reduce_axial(data, sizes, options, "Compressive", BASIS)
    modulus, strength = reduction.get("modulus"), reduction.get("strength")
    if modulus is None or strength is None or sizes.get("gauge_length", 0.0) <= 0.0:
        return reduction
    # ASTM D6641 eq. 1: pinned ends, l ≤ 0.9069 h √((1 − 1.2 F/G) E/F), which is Euler's stress with shear
    euler = np.pi**2 * modulus.value * sizes["thickness"] ** 2 / (12.0 * sizes["gauge_length"] ** 2)
    buckling = euler / (1.0 + 1.2 * euler / options.shear_modulus) if options.shear_modulus > 0.0 else euler
    if strength.lower < 0.8 * buckling:
        return reduction
    remark = f"the free length buckles at about {buckling / 1e6:.4g} MPa: the strength may be that of a column"
    return m.Reduction(reduction.results, reduction.line, reduction.axis, (*reduction.remarks, remark))


def predict(stack: Stack, sizes: m.Sizes) -> m.Prediction:
    """First ply to fail of the strip pressed along x."""
    width, thickness, length = m.positive(sizes, "width", "thickness", "gauge_length")
    strip = Strip(stack)
    force = strip.pressed * strip.thickness * width
    rigidity = strip.modulus * strip.thickness * width
    euler = np.pi**2 * strip.bending * width / length**2  # pinned, as D6641 takes it
    buckling = euler / (1.0 + euler / (strip.shear * width))
    values = {"strength": force / (width * thickness), "modulus": rigidity / (width * thickness)}
    failures = {"fibres crush": force, "the free length buckles": float(buckling)}
    remarks = (BUCKLES,) if buckling < force else ()
    return m.Prediction(failures, rigidity / length, values, 1.0 / rigidity, -strip.poisson / rigidity, remarks)


METHOD = m.Method(
    "compression", "Compression of a coupon", BASIS,
    "Short free length, ends and sides held; bending below a tenth of the strain.",
    (
        m.Size("width", "width", "length", 0.013),
        m.THICKNESS,
        m.Size("gauge_length", "free length", "length", 0.013),
    ),
    reduce, predict, (("strength", ("Xc", "Yc")), ("modulus", ("E1", "E2"))), "ply", "fibres crush", "face_failure",
    accepted=("gauge",), solid_only=True,
)  # fmt: skip
