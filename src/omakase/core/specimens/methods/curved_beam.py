"""Curved beam: plies pulled apart in a bend that four rollers open."""

from __future__ import annotations

import math

from omakase.core.errors import SpecimenError
from omakase.core.laminate.bend import BendStress, radial_strength
from omakase.core.laminate.stack import Stack
from omakase.core.specimens import method as m
from omakase.core.specimens.expected import Strip

BASIS = "ASTM D6415"
TURN = math.radians(45.0)  # of each arm from level where it begins


def moment_per_force(sizes: m.Sizes) -> float:
    """Moment in the bend over the force, m: (d_x/cos φ + (D + t) tan φ)/(2 cos φ), arms at 45°, as it begins."""
    thickness, bottom, top, roller = m.positive(sizes, "thickness", "span", "load_span", "roller")
    if bottom <= top:
        raise SpecimenError("the support span must be wider than the loading span")
    apart = (bottom - top) / 2.0
    return (apart / math.cos(TURN) + (roller + thickness) * math.tan(TURN)) / (2.0 * math.cos(TURN))


def reduce(data: m.Data, sizes: m.Sizes, options: m.Options) -> m.Reduction:
    """Curved-beam strength M/b, and the radial stress 3M/(2 b t √(r_i r_o)) that it stands for."""
    width, thickness, radius = m.positive(sizes, "width", "thickness", "radius")
    arm = moment_per_force(sizes)
    outer = radius + thickness
    moment = f"M = {arm * 1e3:.4g} mm × {m.newtons(data.end)}"
    bend = m.failure(data, "bend", "Curved-beam strength", "force", arm / width, f"M/b, {moment}", BASIS)
    per_force = 1.5 * arm / (width * thickness * math.sqrt(radius * outer))
    formula = f"σ_r = 3 M/(2 b t √(r_i r_o)), {moment}, r {m.mm(radius)} to {m.mm(outer)}"
    strength = m.failure(data, "strength", "Radial strength", "strength", per_force, formula, BASIS)
    line, x, axis, remarks = m.stiffness_line(data, options, 1.0, None)
    remarks = tuple(r for r in remarks if "modulus reads low" not in r)
    if radius < 0.5 * thickness:
        remarks += ("a bend tighter than half its thickness: the formula reads the stress too low",)
    return m.Reduction((strength, bend, *m.work_result(data, x, line.toe if line else 0.0)), line, axis, remarks)


def predict(stack: Stack, sizes: m.Sizes) -> m.Prediction:
    """Its plies part where the radial stress of a ring sector reaches their strength; else the inside breaks."""
    width, thickness, radius = m.positive(sizes, "width", "thickness", "radius")
    arm = moment_per_force(sizes)
    bend = BendStress(stack, radius)
    strengths = [radial_strength(layer)[0] for layer in stack.layers]
    weakest = max(
        max(float(bend.radial[k]), 0.0) / min(strengths[bend.layer[k - 1]], strengths[bend.layer[k]])
        for k in range(1, len(bend.r) - 1)
    )  # fmt: skip
    moment = 1.0 / weakest  # per width
    force = moment * width / arm
    stress = 1.5 * moment / (thickness * math.sqrt(radius * (radius + thickness)))
    # half the force bends each arm up to its roller; between the rollers the moment is even
    apart = (sizes["span"] - sizes["load_span"]) / 2.0 / math.cos(TURN)
    middle = radius + thickness / 2.0
    even = math.pi / 2.0 * middle + max(sizes["load_span"] / math.cos(TURN) - 2.0 * middle, 0.0)
    stiffness = Strip(stack).bending * width / (arm**2 * (even + 2.0 * apart / 3.0))
    return m.Prediction({"the plies part in the bend": force}, stiffness, {"strength": stress, "bend": moment})


METHOD = m.Method(
    "curved_beam", "Curved beam", BASIS, "A right-angled strip opened by four rollers; one layup all along.",
    (
        m.WIDTH, m.Size("thickness", "thickness", "length", 0.004),
        m.Size("radius", "inside radius of the bend", "length", 0.0064),
        m.Size("span", "support span", "length", 0.1), m.Size("load_span", "loading span", "length", 0.075),
        m.Size("roller", "diameter of the rollers", "length", 0.01),
    ),
    reduce, predict, (("strength", ("Zt",)),), "ply", "the plies part in the bend", "bend",
    accepted=("gauge", "core"), solid_only=True, reads="any",
    rules=(m.SizeRule("width", "", 0.02, 0.03, BASIS), m.SizeRule("thickness", "", 0.002, 0.012, BASIS)),
)  # fmt: skip
