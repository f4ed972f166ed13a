"""Core shear between two plates."""

from __future__ import annotations

import math

from omakase.core.laminate.stack import Stack
from omakase.core.specimens import method as m
from omakase.core.specimens.expected import SandwichStrip

BASIS = "ASTM C273"
SLENDER = 12.0  # length over thickness that C273 asks for


def reduce(data: m.Data, sizes: m.Sizes, options: m.Options) -> m.Reduction:
    """τ = P/(l b), G = S t/(l b) with S the slope of force over the plates' travel."""
    length, width, thickness = m.positive(sizes, "length", "width", "core_thickness")
    area = length * width
    formula = f"τ = P/(l b) = {m.newtons(data.end)}/({m.mm(length)} × {m.mm(width)})"
    results: list[m.Result] = [
        m.failure(data, "strength", "Core shear strength", "core_stress", 1.0 / area, formula, BASIS)
    ]
    line, x, axis, remarks = m.stiffness_line(data, options, 1.0 / thickness, None)
    if line is not None:
        results.append(m.single("shear_modulus", "Core shear modulus", "core_stress", line.slope * thickness / area,
                              f"G = S t/(l b), S = {line.slope / 1e3:.4g} N/mm", BASIS))  # fmt: skip
    if length < SLENDER * thickness:
        remarks += (
            f"length/thickness of {length / thickness:.3g} is below {SLENDER:g}: stress at the ends has a share",
        )
    return m.Reduction((*results, *m.work_result(data, x, line.toe if line else 0.0)), line, axis, remarks)


def predict(stack: Stack, sizes: m.Sizes) -> m.Prediction:
    """The core's strength and modulus along x."""
    length, width, thickness = m.positive(sizes, "length", "width", "core_thickness")
    strip = SandwichStrip(stack)
    area = length * width
    force = strip.core_strength * area
    values = {"strength": strip.core_strength, "shear_modulus": strip.core_shear_modulus}
    return m.Prediction({"core shear": force}, strip.core_shear_modulus * area / thickness, values)


METHOD = m.Method(
    "core_shear_plate", "Core shear between plates", BASIS, "Length over 12 thicknesses, stiff plates.",
    (
        m.Size("length", "length", "length", 0.15),
        m.Size("width", "width", "length", 0.05),
        m.Size("core_thickness", "thickness of the core", "length", 0.012),
    ),
    reduce, predict, (("strength", ("S13", "S23")), ("shear_modulus", ("G13", "G23"))), "core", "core shear",
    "core_shear",
    accepted=("core",), rules=(m.SizeRule("length", "core_thickness", 12.0, math.inf, "ASTM C273"),),
)  # fmt: skip
