"""What flatwise pulling and pressing share."""

from __future__ import annotations

from omakase.core.errors import SpecimenError
from omakase.core.laminate.stack import Stack
from omakase.core.materials.properties import PROPERTIES
from omakase.core.specimens import method as m
from omakase.core.specimens.expected import SandwichStrip

FLAT_SIZES = (
    m.Size("length", "length", "length", 0.05),
    m.Size("width", "width", "length", 0.05),
    m.Size("core_thickness", "thickness of the core", "length", 0.012),
)


def reduce_flat(
    data: m.Data, sizes: m.Sizes, options: m.Options, title: str, basis: str, with_modulus: bool
) -> m.Reduction:
    """P over the area; the core's modulus from the slope where it is wanted."""
    length, width, thickness = m.positive(sizes, "length", "width", "core_thickness")
    area = length * width
    formula = f"σ = P/A = {m.newtons(data.end)}/({m.mm(length)} × {m.mm(width)})"
    results: list[m.Result] = [m.failure(data, "strength", title, "core_stress", 1.0 / area, formula, basis)]
    line, x, axis, remarks = m.stiffness_line(data, options, 1.0 / thickness, None)
    if line is not None and with_modulus:
        results.append(m.single("modulus", "Core modulus through the thickness", "modulus",
                                line.slope * thickness / area, f"E = S t/A, S = {line.slope / 1e3:.4g} N/mm",
                                basis))  # fmt: skip
    if not with_modulus:
        remarks = tuple(r for r in remarks if "modulus" not in r)
    return m.Reduction((*results, *m.work_result(data, x, line.toe if line else 0.0)), line, axis, remarks)


def predict_flat(stack: Stack, sizes: m.Sizes, key: str, manner: str) -> m.Prediction:
    """The core's strength ``key`` and its modulus through the thickness.  Raises SpecimenError where it states none."""
    length, width, thickness = m.positive(sizes, "length", "width", "core_thickness")
    strip = SandwichStrip(stack)
    strength, modulus = strip.core_value(key), strip.core_value("E3")
    if strength is None or modulus is None:
        raise SpecimenError(f"the core states no {PROPERTIES[key].meaning}: nothing can be predicted")
    area = length * width
    values = {"strength": strength, "modulus": modulus}
    return m.Prediction({manner: strength * area}, modulus * area / thickness, values)
