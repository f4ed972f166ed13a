"""What sandwich beams share: core shear and facing stress from one force."""

from __future__ import annotations

import math

from omakase.core.errors import SpecimenError
from omakase.core.laminate.stack import Stack
from omakase.core.specimens import beams
from omakase.core.specimens import method as m
from omakase.core.specimens.expected import SandwichStrip

BEAM_SIZES = (
    m.Size("width", "width", "length", 0.075),
    m.Size("thickness", "total thickness", "length", 0.012),
    m.Size("core_thickness", "thickness of the core", "length", 0.010),
)


def beam_sizes(sizes: m.Sizes) -> tuple[float, float, float, float]:
    """(width, total thickness, thickness of the core, span).  Raises SpecimenError for what cannot be a beam."""
    width, total, core, span = m.positive(sizes, "width", "thickness", "core_thickness", "span")
    if core >= total:
        raise SpecimenError("the core is as thick as the whole or thicker: check the sizes")
    if not 0.0 <= sizes.get("load_span", 0.0) < span:
        raise SpecimenError("the load span must be shorter than the support span")
    return width, total, core, span


def beam_results(data: m.Data, sizes: m.Sizes, basis: str, main: str) -> tuple[m.Result, m.Result]:
    """(core shear, facing stress) at failure; ``main`` is called "strength", the other what it reached."""
    width, total, core, span = beam_sizes(sizes)
    load_span = sizes.get("load_span", 0.0)
    face = (total - core) / 2.0
    sum_ = total + core
    keys = ("strength", "face_stress") if main == "core" else ("core_shear", "strength")
    shear = m.failure(data, keys[0], "Core shear strength" if main == "core" else "Core shear reached", "core_stress",
                    1.0 / (sum_ * width), f"τ = P/((d + c) b) = {m.newtons(data.end)}/({m.mm(sum_)} × {m.mm(width)})",
                    basis)  # fmt: skip
    per = (span - load_span) / (2.0 * face * sum_ * width)
    stress = m.failure(data, keys[1], "Facing stress reached" if main == "core" else "Facing strength", "strength", per,
                     f"σ = P (S − L)/(2 t (d + c) b), S = {m.mm(span)}, L = {m.mm(load_span)}, t = {m.mm(face)}",
                     basis)  # fmt: skip
    return shear, stress


def reduce_beam(data: m.Data, sizes: m.Sizes, options: m.Options, basis: str, main: str) -> m.Reduction:
    """Both stresses, the slope, and a warning where the faces are not thin."""
    shear, stress = beam_results(data, sizes, basis, main)
    line, x, axis, remarks = m.stiffness_line(data, options, 1.0, None)
    remarks = tuple(r.replace("the modulus reads", "the stiffness reads") for r in remarks)
    results: list[m.Result] = [shear, stress] if main == "core" else [stress, shear]
    if line is not None:
        results.append(m.single("stiffness", "Stiffness", "line_load", line.slope,
                              "force over deflection, slope of the straight part", basis))  # fmt: skip
        results += _facing_modulus(line.slope, sizes, options, axis)
    face = (sizes["thickness"] - sizes["core_thickness"]) / 2.0
    if face > sizes["core_thickness"] / 5.0:
        remarks += ("the faces are not thin against the core: the formulas of thin faces are rough",)
    return m.Reduction((*results, *m.work_result(data, x, line.toe if line else 0.0)), line, axis, remarks)


def _facing_modulus(slope: float, sizes: m.Sizes, options: m.Options, axis: str) -> list[m.Result]:
    """Facing modulus from the slope once the core's shear share is taken off with a known G."""
    if options.shear_modulus <= 0.0:
        return []
    width, total, core, span = (sizes[k] for k in ("width", "thickness", "core_thickness", "span"))
    U = options.shear_modulus * (total + core) ** 2 * width / (4.0 * core)
    D, share = beams.bending_from_slope(slope, U, span, sizes.get("load_span", 0.0), axis == "travel")
    if D <= 0.0:
        return []
    modulus = 12.0 * D / (width * (total**3 - core**3))
    formula = f"12 D/(b (d³ − c³)), core shear has {share:.0%} of the deflection"
    return [m.single("modulus", "Facing modulus", "modulus", modulus, formula, "ASTM D7250 with G known")]


PAD = m.Size("pad", "loading pad, 0 for bare rollers", "length", 0.025, True)
CRUSHED = "the core is crushed under a pad"


def crushing_force(strip: SandwichStrip, width: float, sizes: m.Sizes) -> float | None:
    """Force at which the core yields under the loading pads, Z_c × pad × width for each; None where it is not known.

    ASTM C393 and D7249 ask for pads at least so wide that this comes after the wanted failure.
    """
    strength, pad = strip.core_value("Zc"), sizes.get("pad", 0.0)
    if strength is None or pad <= 0.0:
        return None
    return strength * pad * width * (2.0 if sizes.get("load_span", 0.0) > 0.0 else 1.0)


def predict_beam(stack: Stack, sizes: m.Sizes, main: str) -> m.Prediction:
    """Failures of the beam, face A pressed, and its stiffness; crushing only where the pads are known."""
    width, total, core, span = beam_sizes(sizes)
    load_span = sizes.get("load_span", 0.0)
    strip = SandwichStrip(stack)
    forces = strip.beam_failures(width, beams.moment_per_force(span, load_span))
    crushed = crushing_force(strip, width, sizes)
    slope = beams.stiffness(strip.bending * width, strip.shear * width, span, load_span, True)
    face = (total - core) / 2.0
    first = min(forces.values())
    values = {"stiffness": slope}
    if main == "core":
        values |= {"strength": strip.core_strength}
    else:
        faces = min(force for mode, force in forces.items() if mode != "core shear")
        values |= {"strength": faces * (span - load_span) / (2.0 * face * (total + core) * width)}
    sheared = forces["core shear"] <= first
    remarks: tuple[str, ...] = ()
    if main == "core" and not sheared:
        remarks = ("a face fails before the core shears: a shorter span or thicker faces would test the core",)
    elif main != "core" and sheared:
        remarks = ("the core shears before a face fails: a longer span would test the faces",)
    if crushed is not None:
        if crushed < first:
            wider = sizes["pad"] * first / crushed
            remarks += (f"the core is crushed under the pads first: take them {m.mm(wider)} wide or more",)
        forces = {**forces, CRUSHED: crushed}
    return m.Prediction(forces, slope, values, remarks=remarks)


def beam_method(
    name: str, title: str, basis: str, main: str, sizes: tuple[m.Size, ...], validity: str, how: str
) -> m.Method:
    """A method on a sandwich beam that asks its core or its faces, ``main``."""
    core = main == "core"

    def reduce(data: m.Data, sizes: m.Sizes, options: m.Options) -> m.Reduction:
        return reduce_beam(data, sizes, options, basis, main)

    def predict(stack: Stack, sizes: m.Sizes) -> m.Prediction:
        return predict_beam(stack, sizes, main)

    reduce.__doc__ = how
    becomes = (("strength", ("S13", "S23") if core else ("Xc", "Xt")),)
    return m.Method(
        name, title, basis, validity, (*BEAM_SIZES, *sizes, PAD), reduce, predict, becomes, "core" if core else "ply",
        "core shear" if core else "face A fails in compression", "core_shear" if core else "face_failure",
        accepted=("core",) if core else ("face", "gauge"), shape="sandwich beam", reads="along" if core else "faces",
        rules=(m.SizeRule("width", "thickness", 2.0, math.inf, basis), m.SizeRule("width", "span", 0.0, 0.5, basis)),
    )  # fmt: skip
