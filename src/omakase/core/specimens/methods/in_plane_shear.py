"""In-plane shear by pulling a ±45° coupon."""

from __future__ import annotations

import numpy as np

from omakase.core.laminate.stack import Stack
from omakase.core.specimens import method as m
from omakase.core.specimens.curve import Curve, Line, modulus_line, offset_point
from omakase.core.specimens.expected import Strip

BASIS = "ASTM D3518"
WINDOW = (0.002, 0.006)  # shear strain of the chord
MOST_STRAIN = 0.05  # where D3518 ends the test


def reduce(data: m.Data, sizes: m.Sizes, options: m.Options) -> m.Reduction:
    """τ = P/(2 b h) up to 5 % shear strain; G between 0.2 and 0.6 % of γ = ε_along − ε_across; 0.2 % offset."""
    width, thickness = m.positive(sizes, "width", "thickness")
    per = 0.5 / (width * thickness)
    curve = data.curve
    if curve is None or "strain" not in curve.columns or "cross_strain" not in curve.columns:
        formula = f"τ = P/(2 b h) = {m.newtons(data.end)}/(2 × {m.mm(width)} × {m.mm(thickness)})"
        remarks: tuple[str, ...] = (
            f"without both strains it is unknown where {MOST_STRAIN:.0%} of shear strain was passed, at which D3518 "
            "reads the strength: beyond it the fibres turn into the load, and the value is too high",
        )
        if curve is not None:
            remarks += ("no strain along and across in the curve: no shear modulus",)
        return m.Reduction(
            (m.failure(data, "strength", "Shear strength", "strength", per, formula, BASIS),), None, "", remarks
        )
    gamma = curve.columns["strain"] - curve.columns["cross_strain"]
    results: list[m.Result] = [_strength(data, curve, gamma, per)]
    chosen = None
    along = float(curve.columns["strain"][curve.peak])
    if options.region is not None and along != 0.0:
        ratio = float(gamma[curve.peak]) / along  # of the strains; even as long as the curve is straight
        chosen = options.region[0] * ratio, options.region[1] * ratio
    line = modulus_line(curve, gamma, WINDOW, chosen)
    results.append(m.single("shear_modulus", "Shear modulus G12", "modulus", line.slope * per,
                          f"G = Δτ/Δγ between {line.start - line.toe:.2%} and {line.end - line.toe:.2%}",
                          BASIS))  # fmt: skip
    point = offset_point(curve, gamma, line, options.offset)
    if point is not None:
        results.append(m.single("yield", f"Shear stress at {options.offset:.1%} offset", "strength", point[1] * per,
                              "stress where the curve meets the line moved on by the offset", BASIS))  # fmt: skip
    # over the strain along, which is what the picture shows
    share = float(np.interp(line.end, gamma[: curve.peak + 1], curve.columns["strain"][: curve.peak + 1])) / line.end
    shown = Line(line.slope / share, line.toe * share, line.start * share, line.end * share, line.points, line.bend)
    return m.Reduction(tuple(results), shown, "strain", m.line_remarks(line, options))


def _strength(data: m.Data, curve: Curve, gamma: np.ndarray, per: float) -> m.Result:
    beyond = np.nonzero(gamma[: curve.peak + 1] >= MOST_STRAIN)[0]
    if len(beyond):
        force = float(curve.force[: beyond[0] + 1].max())
        return m.single("strength", "Shear strength", "strength", force * per,
                      f"τ = P/(2 b h) at {MOST_STRAIN:.0%} shear strain, {m.newtons(force)}", BASIS)  # fmt: skip
    force = data.failed if data.failed is not None else data.held
    return m.failure(data, "strength", "Shear strength", "strength", per, f"τ = P/(2 b h), {m.newtons(force)}", BASIS)


def predict(stack: Stack, sizes: m.Sizes) -> m.Prediction:
    """The weakest ply's shear strength, and the strip's moduli: G = E/(2(1 + ν)) of a ±45° strip, exactly."""
    width, thickness, length = m.positive(sizes, "width", "thickness", "gauge_length")
    strip = Strip(stack)
    strength = min(layer.material.value("S12") for layer in stack.layers if layer.role == "ply")
    force = 2.0 * strength * width * strip.thickness
    rigidity = strip.modulus * strip.thickness * width
    scale = strip.thickness / thickness
    values = {
        "strength": strength * scale,
        "shear_modulus": strip.modulus / (2.0 * (1.0 + strip.poisson)) * scale,
    }
    return m.Prediction(
        {"it shears at 45°": force}, rigidity / length, values, 1.0 / rigidity, -strip.poisson / rigidity
    )


METHOD = m.Method(
    "in_plane_shear", "In-plane shear of ±45°", BASIS, "Balanced ±45° coupons; ends at 5 % shear strain.",
    (m.WIDTH, m.THICKNESS, m.Size("gauge_length", "length between the grips", "length", 0.15)),
    reduce, predict, (("strength", ("S12",)), ("shear_modulus", ("G12",))), "ply", "it shears at 45°", "face_failure",
    accepted=("gauge",), solid_only=True, gripped=True, reads="at 45",
)  # fmt: skip
