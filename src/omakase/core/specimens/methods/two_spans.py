"""Bending and shear stiffness of a sandwich from two spans."""

from __future__ import annotations

import numpy as np

from omakase.core.errors import SpecimenError
from omakase.core.laminate.stack import Stack
from omakase.core.specimens import beams
from omakase.core.specimens import method as m
from omakase.core.specimens.expected import SandwichStrip
from omakase.core.specimens.methods.sandwich_beam import BEAM_SIZES, beam_sizes

BASIS = "ASTM D7250"
SLOPE_ERROR = 0.02  # of a slope read in a shop's rig (common practice, no source)
POOR = 0.3  # of D or U, from which a pair of spans says too little


def solve(slopes: tuple[float, float], spans: tuple[float, float], at_rollers: bool) -> tuple[float, float]:
    """(D, U) of the whole width, N m² and N, from force over deflection at two spans of one roller in the middle.

    1/m = S³/(48 D) + S/(4U), two linear equations in 1/D and 1/U.  Raises SpecimenError where they have no sense.
    """
    rows = [[beams.bending_per_force(span, 0.0, at_rollers), beams.shear_per_force(span, 0.0)] for span in spans]
    try:
        one_over_D, one_over_U = np.linalg.solve(np.array(rows), 1.0 / np.array(slopes))
    except np.linalg.LinAlgError:
        raise SpecimenError("the two spans are the same") from None
    if one_over_D <= 0.0 or one_over_U <= 0.0:
        raise SpecimenError("the two slopes contradict each other: one stiffness would be negative; spans further "
                            "apart, or the machine's compliance, may help")  # fmt: skip
    return float(1.0 / one_over_D), float(1.0 / one_over_U)


def sensitivity(slopes: tuple[float, float], spans: tuple[float, float], at_rollers: bool) -> tuple[float, float]:
    """Relative errors of (D, U) from SLOPE_ERROR in each slope apart, added as squares; infinite without a solution."""
    D, U = solve(slopes, spans, at_rollers)
    moved = np.zeros((2, 2))
    for k in range(2):
        other = [slope * (1.0 + SLOPE_ERROR * (k == i)) for i, slope in enumerate(slopes)]
        try:
            D_moved, U_moved = solve((other[0], other[1]), spans, at_rollers)
        except SpecimenError:
            return np.inf, np.inf
        moved[k] = D_moved / D - 1.0, U_moved / U - 1.0
    error = np.sqrt(np.sum(moved**2, axis=0))
    return float(error[0]), float(error[1])


def reduce(data: m.Data, sizes: m.Sizes, options: m.Options) -> m.Reduction:
    """D and U from the slope of this curve and that of the same beam on the other span, and from them E_f and G_c."""
    width, total, core, span = beam_sizes(sizes)
    line, _x, axis, remarks = m.stiffness_line(data, options, 1.0, None)
    remarks = tuple(r.replace("the modulus reads", "the stiffness reads") for r in remarks)
    if line is None:
        raise SpecimenError("two spans need a curve, or deflections read at two loads")
    results = [
        m.single("stiffness", "Stiffness at this span", "line_load", line.slope, "slope of the straight part", BASIS)
    ]
    other, slope = sizes.get("other_span", 0.0), sizes.get("other_stiffness", 0.0)
    if other > 0.0 and slope > 0.0:
        D, U = solve((line.slope, slope), (span, other), axis == "travel")
        G = 4.0 * U * core / ((total + core) ** 2 * width)
        E = 12.0 * D / (width * (total**3 - core**3))
        wrong_D, wrong_U = sensitivity((line.slope, slope), (span, other), axis == "travel")
        if max(wrong_D, wrong_U) > POOR:
            which = "bending" if wrong_D > wrong_U else "shear"
            raise SpecimenError(
                f"these two spans give {which} with a large error: {SLOPE_ERROR:.0%} in either slope moves it by "
                f"{max(wrong_D, wrong_U):.0%}; choose a span in which shear has more than half of the deflection and "
                "one in which bending has"
            )
        remarks += (
            f"{SLOPE_ERROR:.0%} in either slope moves the bending stiffness by {wrong_D:.0%} and the shear stiffness "
            f"by {wrong_U:.0%}",
        )
        results += [
            m.single(
                "bending", "Bending stiffness per width", "bending", D / width, "1/m = S³/(48 D) + S/(4U), twice", BASIS
            ),
            m.single("shear", "Shear stiffness per width", "line_load", U / width, "the same two equations", BASIS),
            m.single("modulus", "Facing modulus", "modulus", E, "12 D/(b (d³ − c³))", BASIS),
            m.single("shear_modulus", "Core shear modulus", "core_stress", G, "4 U c/((d + c)² b)", BASIS),
        ]
    else:
        remarks += ("state the other span and the stiffness found there, and D and U follow",)
    return m.Reduction(tuple(results), line, axis, remarks)


def predict(stack: Stack, sizes: m.Sizes) -> m.Prediction:
    """The slope at this span, and what the two together should give."""
    width, _total, _core, span = m.positive(sizes, "width", "thickness", "core_thickness", "span")
    strip = SandwichStrip(stack)
    slope = beams.stiffness(strip.bending * width, strip.shear * width, span, 0.0, True)
    values = {"stiffness": slope, "bending": strip.bending, "shear": strip.shear,
              "shear_modulus": strip.core_shear_modulus}  # fmt: skip
    return m.Prediction(strip.beam_failures(width, beams.moment_per_force(span, 0.0)), slope, values)


METHOD = m.Method(
    "two_spans", "Sandwich on two spans", BASIS,
    "One roller in the middle, equal faces; loaded well below failure.",
    (
        *BEAM_SIZES,
        m.Size("span", "support span", "length", 0.2),
        m.Size("other_span", "the other span", "length", 0.0, True),
        m.Size("other_stiffness", "stiffness found there", "line_load", 0.0, True),
    ),
    reduce, predict, (("shear_modulus", ("G13", "G23")),), "core", "", "", "stiffness",
    shape="two spans",
)  # fmt: skip
