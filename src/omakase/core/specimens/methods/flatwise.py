"""What flatwise pulling and pressing share."""

from __future__ import annotations

from omakase.core.specimens.method import (
    Data,
    Options,
    Reduction,
    Result,
    Size,
    Sizes,
    failure,
    mm,
    newtons,
    positive,
    single,
    stiffness_line,
    work_result,
)

FLAT_SIZES = (
    Size("length", "length", "length", 0.05),
    Size("width", "width", "length", 0.05),
    Size("core_thickness", "thickness of the core", "length", 0.012),
)


def reduce_flat(data: Data, sizes: Sizes, options: Options, title: str, basis: str, with_modulus: bool) -> Reduction:
    """P over the area; the core's modulus from the slope where it is wanted."""
    length, width, thickness = positive(sizes, "length", "width", "core_thickness")
    area = length * width
    end = data.failed if data.failed is not None else data.held
    formula = f"σ = P/A = {newtons(end)}/({mm(length)} × {mm(width)})"
    results: list[Result] = [failure(data, "strength", title, "core_stress", 1.0 / area, formula, basis)]
    line, x, axis, remarks = stiffness_line(data, options, 1.0 / thickness, None)
    if line is not None and with_modulus:
        results.append(single("modulus", "Core modulus through the thickness", "modulus", line.slope * thickness / area,
                              f"E = S t/A, S = {line.slope / 1e3:.4g} N/mm", basis))  # fmt: skip
    if not with_modulus:
        remarks = tuple(r for r in remarks if "modulus" not in r)
    return Reduction((*results, *work_result(data, x, line.toe if line else 0.0)), line, axis, remarks)
