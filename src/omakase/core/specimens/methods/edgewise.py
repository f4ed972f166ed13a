"""Edgewise compression of a sandwich."""

from __future__ import annotations

import numpy as np

from omakase.core.laminate.stack import Stack
from omakase.core.specimens.expected import SandwichStrip
from omakase.core.specimens.method import (
    Data,
    Method,
    Options,
    Prediction,
    Reduction,
    Size,
    Sizes,
    failure,
    mm,
    newtons,
    positive,
    stiffness_line,
    work_result,
)

BASIS = "ASTM C364"


def reduce(data: Data, sizes: Sizes, options: Options) -> Reduction:
    """Facing stress P/(2 t b), the core carrying nothing."""
    width, face = positive(sizes, "width", "face_thickness")
    end = data.failed if data.failed is not None else data.held
    formula = f"σ = P/(2 t b) = {newtons(end)}/(2 × {mm(face)} × {mm(width)})"
    strength = failure(data, "strength", "Facing stress at failure", "strength", 0.5 / (face * width), formula, BASIS)
    line, x, axis, remarks = stiffness_line(data, options, 1.0, None)
    remarks = tuple(r for r in remarks if "modulus reads low" not in r)
    return Reduction((strength, *work_result(data, x, line.toe if line else 0.0)), line, axis, remarks)


def predict(stack: Stack, sizes: Sizes) -> Prediction:
    """The lower of face failure, wrinkling, crimping, and buckling of the free length between simple ends."""
    width, face, height = positive(sizes, "width", "face_thickness", "height")
    strip = SandwichStrip(stack)
    forces = {}
    for own in strip.section.faces:
        other_share = 2.0  # both faces carry alike
        forces[f"face {own.name} fails pressed"] = strip.face_strength(own, False) * other_share * width
        forces[f"face {own.name} wrinkles"] = strip.wrinkling(own) * other_share * width
    forces["the core crimps"] = strip.crimping * width
    euler = np.pi**2 * strip.bending / height**2
    forces["it buckles"] = float(euler / (1.0 + euler / strip.shear)) * width
    rigidity = strip.modulus * strip.thickness * width
    return Prediction(forces, rigidity / height, {"strength": min(forces.values()) / (2.0 * face * width)})


METHOD = Method(
    "edgewise", "Edgewise compression of a sandwich", BASIS, "Equal faces, ends potted or clamped square.",
    (
        Size("width", "width", "length", 0.06),
        Size("face_thickness", "thickness of one face", "length", 0.001),
        Size("height", "free height", "length", 0.08),
    ),
    reduce, predict, (), "", "face A wrinkles", "wrinkling",
)  # fmt: skip
