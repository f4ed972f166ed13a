"""A cantilever with weights at its tip."""

from __future__ import annotations

from omakase.core.laminate.stack import Stack
from omakase.core.specimens import method as m
from omakase.core.specimens.expected import SandwichStrip, Strip

BASIS = "beam theory; common practice, no standard"


def reduce(data: m.Data, sizes: m.Sizes, options: m.Options) -> m.Reduction:
    """E I = m L³/3, and the outer stress at the root, 6 P L/(b h²)."""
    width, thickness, length = m.positive(sizes, "width", "thickness", "length")
    results: list[m.Result] = [
        m.failure(data, "strength", "Outer stress at the root", "strength", 6.0 * length / (width * thickness**2),
                f"σ = 6 P L/(b h²) = 6 × {m.newtons(data.end)} × {m.mm(length)}/({m.mm(width)} × ({m.mm(thickness)})²)",
                  BASIS)
    ]  # fmt: skip
    line, x, axis, remarks = m.stiffness_line(data, options, 1.0, None)
    if line is not None:
        stiff = line.slope * length**3 / 3.0
        results += [
            m.single("bending", "Bending stiffness per width", "bending", stiff / width,
                   f"D = m L³/(3 b), m = {line.slope / 1e3:.4g} N/mm", BASIS),
            m.single("modulus", "Bending modulus", "modulus", 12.0 * stiff / (width * thickness**3),
                   "E = 4 m L³/(b h³)", BASIS),
        ]  # fmt: skip
        remarks += ("a clamp that gives makes it read low",)
    return m.Reduction((*results, *m.work_result(data, x, line.toe if line else 0.0)), line, axis, remarks)


def predict(stack: Stack, sizes: m.Sizes) -> m.Prediction:
    """The strip bent about y, face A pulled or pressed alike; of a sandwich also its core and the pressed face."""
    width, thickness, length = m.positive(sizes, "width", "thickness", "length")
    strip = Strip(stack)
    forces = {"it breaks at the root": strip.strongest("bend_x") * width / length}
    shear = strip.shear
    if stack.core is not None:
        sandwich = SandwichStrip(stack)
        shear = sandwich.shear
        forces["core shear"] = sandwich.core_strength * sandwich.distance * width
        wrinkling = min(sandwich.wrinkling(face) for face in sandwich.section.faces)
        forces["a face wrinkles at the root"] = wrinkling * sandwich.distance * width / length
    slope = 1.0 / (length**3 / (3.0 * strip.bending * width) + length / (shear * width))
    apparent = slope * length**3 / 3.0 / width  # as the reduction sees it, shear and all
    strength = 6.0 * min(forces.values()) * length / (width * thickness**2)
    values = {"strength": strength, "bending": apparent, "modulus": 12.0 * apparent / thickness**3}
    sheared = slope * length / (shear * width)
    remarks: tuple[str, ...] = ()
    if stack.core is not None:
        remarks += (
            f"core shear has {sheared:.0%} of the deflection at the tip: the bending stiffness read from it is "
            "that much too low",
        )
    return m.Prediction(forces, slope, values, remarks=remarks)


METHOD = m.Method(
    "cantilever", "Cantilever with weights", BASIS, "Small tilt, firm clamp, weights at the tip.",
    (
        m.Size("width", "width", "length", 0.05),
        m.Size("thickness", "thickness", "length", 0.004),
        m.Size("length", "length from the clamp", "length", 0.3),
    ),
    reduce, predict, (), "", "it breaks at the root", "face_failure", "bending",
)  # fmt: skip
