"""Edgewise compression of a sandwich."""

from __future__ import annotations

import math

import numpy as np

from omakase.core.laminate.stack import Stack
from omakase.core.specimens import method as m
from omakase.core.specimens.expected import SandwichStrip

BASIS = "ASTM C364"


def reduce(data: m.Data, sizes: m.Sizes, options: m.Options) -> m.Reduction:
    """Facing stress P/(2 t b), assuming that the core carries nothing."""
    width, face = m.positive(sizes, "width", "face_thickness")
    formula = f"σ = P/(2 t b) = {m.newtons(data.end)}/(2 × {m.mm(face)} × {m.mm(width)})"
    strength = m.failure(data, "strength", "Facing stress at failure", "strength", 0.5 / (face * width), formula, BASIS)
    line, x, axis, remarks = m.stiffness_line(data, options, 1.0, None)
    remarks = tuple(r for r in remarks if "modulus reads low" not in r)
    return m.Reduction((strength, *m.work_result(data, x, line.toe if line else 0.0)), line, axis, remarks)


def predict(stack: Stack, sizes: m.Sizes) -> m.Prediction:
    """The lower of face failure, wrinkling, crimping, and buckling of the free length between simple ends."""
    width, face, height = m.positive(sizes, "width", "face_thickness", "height")
    strip = SandwichStrip(stack)
    forces = {}
    for side in strip.section.faces:
        other_share = 2.0  # both faces carry alike
        forces[f"face {side.name} fails pressed"] = strip.face_strength(side, False) * other_share * width
        forces[f"face {side.name} wrinkles"] = strip.wrinkling(side) * other_share * width
    forces["the core crimps"] = strip.crimping * width
    euler = np.pi**2 * strip.bending / height**2
    forces["it buckles"] = float(euler / (1.0 + euler / strip.shear)) * width
    rigidity = strip.modulus * strip.thickness * width
    first = min(forces, key=forces.__getitem__)
    remarks = ("it buckles before a face fails: a lower specimen shows the faces",) if first == "it buckles" else ()
    return m.Prediction(
        forces, rigidity / height, {"strength": min(forces.values()) / (2.0 * face * width)}, remarks=remarks
    )


METHOD = m.Method(
    "edgewise", "Edgewise compression of a sandwich", BASIS, "Equal faces, ends potted or clamped square.",
    (
        m.Size("width", "width", "length", 0.06),
        m.Size("face_thickness", "thickness of one face", "length", 0.001),
        m.Size("height", "free height", "length", 0.08),
    ),
    reduce, predict, (), "", "face A wrinkles", "wrinkling",
    accepted=("face", "core", "gauge"),
    rules=(m.SizeRule("width", "", 0.05, math.inf, "ASTM C364"), m.SizeRule("height", "", 0.0, 0.2, "ASTM C364")),
)  # fmt: skip
