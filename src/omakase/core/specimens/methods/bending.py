"""What solid bars in bending share: outer stress, modulus with the shear share, the machine's own deflection."""

from __future__ import annotations

import numpy as np

from omakase.core.laminate.stack import Stack
from omakase.core.specimens import beams
from omakase.core.specimens import method as m
from omakase.core.specimens.expected import Strip

SLENDER, LEAST_SLENDER = 32.0, 16.0  # span over thickness, of ASTM D7264 and of ASTM D790
SANDWICH = (
    "a method for solid bars: a sandwich bends by core shear too and fails in its core or faces; choose core shear, "
    "short beam (ASTM C393) or facings, long beam (ASTM D7249)"
)
LARGE = 0.1  # deflection over span from which ASTM D790 wants its corrected stress
WINDOW = (0.001, 0.003)  # strain of the chord, ASTM D7264


def reduce_bar(data: m.Data, sizes: m.Sizes, options: m.Options, load_share: float, basis: str) -> m.Reduction:
    """Outer stress M h/(2 I) and the bending modulus of a bar; ``load_share`` is the load span over the span."""
    width, thickness, span = m.positive(sizes, "width", "thickness", "span")
    load_span = load_share * span
    inertia = width * thickness**3 / 12.0
    per_force = beams.moment_per_force(span, load_span) * thickness / 2.0 / inertia
    factor = 1.5 * (1.0 - load_share)
    formula = (f"σ = {factor:g} P S/(b h²) = {factor:g} × {m.newtons(data.end)} × {m.mm(span)}/"
               f"({m.mm(width)} × ({m.mm(thickness)})²)")  # fmt: skip
    results: list[m.Result] = [m.failure(data, "strength", "Flexural strength", "strength", per_force, formula, basis)]
    gauge = data.curve is not None and "deflection" in data.curve.columns
    at_rollers = not gauge and data.curve is not None
    per_x = _strain_per_deflection(thickness, span, load_span, at_rollers)
    line, x, axis, remarks = m.stiffness_line(data, options, per_x, WINDOW)
    slender = span / thickness
    if slender < SLENDER:
        worse = f" and below the {LEAST_SLENDER:g} of D790" if slender < LEAST_SLENDER else ""
        remarks += (
            f"span/thickness of {slender:.3g} is below the {SLENDER:g} of D7264{worse}: shear has a share in the "
            "deflection and the modulus reads low, at 16 by about a tenth for unidirectional carbon",
        )
    if line is not None:
        notes, more = _modulus(line.slope, sizes, options, load_span, at_rollers, basis)
        results += notes
        remarks += more
        if data.curve is not None and x is not None:
            toe = line.toe if options.toe else 0.0
            sag = float(x[data.curve.peak]) - toe
            results.append(m.Result("failure_strain", "Outer strain at the peak", "strain", per_x * sag,
                                  per_x * sag if data.failed is not None else np.inf,
                                  f"ε = {per_x:.4g}/m × deflection", basis))  # fmt: skip
            if sag / span > LARGE:
                remarks += (_large(sag, span, thickness, load_share),)
            results += m.work_result(data, x, toe)
    return m.Reduction(tuple(results), line, axis, remarks)


def _strain_per_deflection(thickness: float, span: float, load_span: float, at_rollers: bool) -> float:
    """Outer strain in the middle per deflection, 1/m."""
    return (
        beams.moment_per_force(span, load_span) * thickness / 2.0 / beams.bending_per_force(span, load_span, at_rollers)
    )


def _modulus(
    slope: float, sizes: m.Sizes, options: m.Options, load_span: float, at_rollers: bool, basis: str
) -> tuple[list[m.Result], tuple[str, ...]]:
    width, thickness, span = sizes["width"], sizes["thickness"], sizes["span"]
    inertia = width * thickness**3 / 12.0
    D, _ = beams.bending_from_slope(slope, 0.0, span, load_span, at_rollers)
    shape = beams.bending_per_force(span, load_span, at_rollers) * 12.0 / span**3
    results = [
        m.single("modulus", "Flexural modulus, apparent", "modulus", D / inertia,
               f"E = {shape:.4g} S³ m/(b h³), m = {slope / 1e3:.4g} N/mm", basis)
    ]  # fmt: skip
    remarks: tuple[str, ...] = ()
    if options.shear_modulus > 0.0:
        U = beams.KAPPA * options.shear_modulus * width * thickness
        D, share = beams.bending_from_slope(slope, U, span, load_span, at_rollers)
        if D > 0.0:
            results.append(
                m.single("modulus_without_shear", "Flexural modulus, shear taken off", "modulus", D / inertia,
                       f"shear has {share:.1%} of the deflection: (S − L)/(4 · 5/6 G b h), "
                       f"G = {options.shear_modulus / 1e9:.3g} GPa", "beam theory, as ASTM D7250")
            )  # fmt: skip
        else:
            remarks = ("shear alone would bend it more than was measured: its shear modulus is not that low",)
    known = sizes.get("known_modulus", 0.0)
    if known > 0.0:
        remarks += (_known(slope, known, sizes, options, load_span, at_rollers),)
        compliance = compliance_of_blank(slope, known, sizes, options, load_span)
        if compliance > 0.0 and at_rollers:
            formula = "1/m − 1/m of the known blank, bending and shear"
            results.append(m.single("compliance", "Compliance that explains it", "compliance", compliance, formula,
                                  "beam theory"))  # fmt: skip
    return results, remarks


def compliance_of_blank(slope: float, known: float, sizes: m.Sizes, options: m.Options, load_span: float) -> float:
    """Compliance in m/N that explains what a bar of modulus ``known`` showed from crosshead travel, shear taken off.

    Negative where the bar showed itself stiffer than it is.
    """
    width, thickness, span = m.positive(sizes, "width", "thickness", "span")
    D = known * width * thickness**3 / 12.0
    G = options.shear_modulus or known / 2.6  # an isotropic blank with ν = 0.3
    true = beams.stiffness(D, beams.KAPPA * G * width * thickness, span, load_span, True)
    return beams.explaining_compliance(slope, true) + options.compliance


def _known(slope: float, known: float, sizes: m.Sizes, options: m.Options, load_span: float, at_rollers: bool) -> str:
    D, _ = beams.bending_from_slope(slope, 0.0, sizes["span"], load_span, at_rollers)
    apparent = D / (sizes["width"] * sizes["thickness"] ** 3 / 12.0)
    compliance = compliance_of_blank(slope, known, sizes, options, load_span)
    if compliance <= 0.0 or not at_rollers:
        return f"{apparent / 1e9:.3g} GPa for a blank of {known / 1e9:.3g} GPa: compliance does not explain that"
    return (
        f"{apparent / 1e9:.3g} GPa for a blank of {known / 1e9:.3g} GPa: affected by crosshead compliance or shear; "
        f"{compliance * 1e9:.4g} µm/kN of machine and fixture would explain it"
    )


def _large(sag: float, span: float, thickness: float, load_share: float) -> str:
    remark = f"deflection is {sag / span:.0%} of the span: the stress formula is off"
    if load_share == 0.0:
        # ASTM D790 eq. 4
        corrected = 1.0 + 6.0 * (sag / span) ** 2 - 4.0 * (thickness / span) * (sag / span)
        remark += f"; D790's correction is × {corrected:.3f}"
    return remark


def bar_method(name: str, title: str, basis: str, load_share: float) -> m.Method:
    """A method of bending a solid bar whose load span is ``load_share`` of the span."""

    def reduce(data: m.Data, sizes: m.Sizes, options: m.Options) -> m.Reduction:
        return reduce_bar(data, sizes, options, load_share, basis)

    def predict(stack: Stack, sizes: m.Sizes) -> m.Prediction:
        return predict_bar(stack, sizes, load_share)

    reduce.__doc__ = (
        "3 P S/(2 b h²) and S³ m/(4 b h³)." if load_share == 0.0 else
        "3 P S/(4 b h²); S³ m/(8 b h³) from the rollers' travel, 11 S³ m/(64 b h³) from a gauge in the middle."
    )  # fmt: skip
    return m.Method(
        name, title, basis, "Solid bars, span of 32 thicknesses (D790: 16), deflection under a tenth of the span.",
        (
            m.WIDTH,
            m.THICKNESS,
            m.Size("span", "support span", "length", 0.08),
            m.Size("known_modulus", "modulus known of a blank", "modulus", 0.0, True),
        ),
        reduce, predict, (), "", "outer fibres fail", "face_failure", accepted=("gauge", "face"),
        shape="bar", solid_only=True,
    )  # fmt: skip


def predict_bar(stack: Stack, sizes: m.Sizes, load_share: float) -> m.Prediction:
    """The order of breaking of the strip bent about y, its stiffness with shear, and its interlaminar strength."""
    width, thickness, span = m.positive(sizes, "width", "thickness", "span")
    load_span = load_share * span
    strip = Strip(stack)
    arm = beams.moment_per_force(span, load_span)
    fibres = strip.strongest("bend_x") * width / arm
    between = strip.interlaminar * width * strip.thickness / 0.75
    slope = beams.stiffness(strip.bending * width, strip.shear * width, span, load_span, True)
    inertia = width * thickness**3 / 12.0
    D, _ = beams.bending_from_slope(slope, 0.0, span, load_span, True)
    values = {
        "strength": min(fibres, between) * arm * thickness / 2.0 / inertia,
        "modulus": D / inertia,
        "modulus_without_shear": strip.bending * width / inertia,
    }
    remarks = (SANDWICH,) if stack.core is not None else ()
    return m.Prediction({"outer fibres fail": fibres, "it shears between plies": between}, slope, values,
                        remarks=remarks)  # fmt: skip
