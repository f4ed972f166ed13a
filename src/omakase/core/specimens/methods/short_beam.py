"""Short beam: shear between plies."""

from __future__ import annotations

from omakase.core.laminate.stack import Stack
from omakase.core.specimens import method as m
from omakase.core.specimens.expected import Strip

BASIS = "ASTM D2344"


def reduce(data: m.Data, sizes: m.Sizes, options: m.Options) -> m.Reduction:
    """0.75 P/(b h), an index for comparing rather than a property where the failure is mixed."""
    width, thickness = m.positive(sizes, "width", "thickness")
    formula = f"F = 0.75 P/(b h) = 0.75 × {m.newtons(data.end)}/({m.mm(width)} × {m.mm(thickness)})"
    strength = m.failure(
        data, "strength", "Short-beam strength", "strength", 0.75 / (width * thickness), formula, BASIS
    )
    line, x, axis, remarks = m.stiffness_line(data, options, 1.0, None)
    span = sizes.get("span", 0.0)
    if span > 0.0 and not 3.5 <= span / thickness <= 6.0:
        remarks += (f"span/thickness of {span / thickness:.3g}: D2344 asks for 4",)
    remarks = tuple(r for r in remarks if "modulus reads low" not in r)  # no modulus is taken from it
    return m.Reduction((strength, *m.work_result(data, x, line.toe if line else 0.0)), line, axis, remarks)


def predict(stack: Stack, sizes: m.Sizes) -> m.Prediction:
    """Its plies' transverse shear strength."""
    width, thickness, span = m.positive(sizes, "width", "thickness", "span")
    strip = Strip(stack)
    force = strip.interlaminar * width * strip.thickness / 0.75
    fibres = 4.0 * strip.strongest("bend_x") * width / span
    stiffness = 1.0 / (span**3 / (48.0 * strip.bending * width) + span / (4.0 * strip.shear * width))
    values = {"strength": min(force, fibres) * 0.75 / (width * thickness)}
    return m.Prediction({"it shears between plies": force, "outer fibres fail": fibres}, stiffness, values)


METHOD = m.Method(
    "short_beam", "Short beam", BASIS, "Span 4 thicknesses, width 2 thicknesses.",
    (
        m.Size("width", "width", "length", 0.008),
        m.Size("thickness", "thickness", "length", 0.004),
        m.Size("span", "support span", "length", 0.016),
    ),
    reduce, predict, (("strength", ("S13", "S23")),), "ply", "it shears between plies", "interlaminar_shear",
    accepted=("gauge", "core"), shape="short bar", solid_only=True,
    rules=(m.SizeRule("width", "thickness", 1.9, 3.0, "ASTM D2344"),),
)  # fmt: skip
