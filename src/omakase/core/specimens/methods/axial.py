"""What pulled and pressed coupons share: stress over strain along the specimen."""

from __future__ import annotations

import numpy as np

from omakase.core.specimens import method as m
from omakase.core.specimens.curve import Line, modulus_line, offset_point

WINDOW = (0.001, 0.003)  # strain of the chord, ASTM D3039 table 3


def strain_axis(data: m.Data, sizes: m.Sizes, options: m.Options) -> tuple[np.ndarray | None, str, tuple[str, ...]]:
    """(strain, axis, remarks): a strain gauge, else travel over the gauge length."""
    if data.curve is not None and "strain" in data.curve.columns:
        return data.curve.columns["strain"], "strain", ()
    x, axis, remarks = m.travel_of(data, options)
    length = sizes.get("gauge_length", 0.0)
    if x is None or length <= 0.0:
        return None, "", ()
    return x / length, axis, remarks


def reduce_axial(
    data: m.Data, sizes: m.Sizes, options: m.Options, manner: str, source: str, extra: tuple[m.Result, ...] = ()
) -> m.Reduction:
    """Strength P/A, modulus between 0.1 and 0.3 % strain, strain at failure, Poisson's ratio, yield by offset, work."""
    width, thickness = m.positive(sizes, "width", "thickness")
    area = width * thickness
    results: list[m.Result] = [
        m.failure(data, "strength", f"{manner} strength", "strength", 1.0 / area,
                f"σ = P/(b h) = {m.newtons(data.end)}/({m.mm(width)} × {m.mm(thickness)})", source)
    ]  # fmt: skip
    strain, axis, remarks = strain_axis(data, sizes, options)
    line: Line | None = None
    if data.curve is not None and strain is not None:
        curve = data.curve
        scale = 1.0 if axis == "strain" else sizes["gauge_length"]
        region = None if options.region is None else (options.region[0] / scale, options.region[1] / scale)
        line = modulus_line(curve, strain, WINDOW, region)
        remarks += m.line_remarks(line, options)
        toe = line.toe if options.toe else 0.0
        results.append(
            m.single("modulus", f"{manner} modulus", "modulus", line.slope / area,
                   f"E = Δσ/Δε between {line.start - toe:.2%} and {line.end - toe:.2%} strain", source)
        )  # fmt: skip
        at_break = float(strain[curve.peak]) - toe
        upper = at_break if data.failed is not None else np.inf
        results.append(m.Result("failure_strain", "Strain at the peak", "strain", at_break, upper,
                              f"ε at the peak, toe of {toe:.3%} taken off", source))  # fmt: skip
        results += _poisson(data, strain, line, source) + _yield(data, strain, line, options, area)
        if axis == "strain":
            x, _, _ = m.travel_of(data, options)
        else:
            x = strain * scale
        results += m.work_result(data, x, toe * scale if axis != "strain" else 0.0)
        line = _in_axis(line, scale)
    return m.Reduction((*results, *extra), line, axis, remarks)


def _in_axis(line: Line, scale: float) -> Line:
    """The line over the curve's own axis rather than over strain."""
    return Line(line.slope / scale, line.toe * scale, line.start * scale, line.end * scale, line.points, line.bend)


def _poisson(data: m.Data, strain: np.ndarray, line: Line, source: str) -> list[m.Result]:
    assert data.curve is not None
    if "cross_strain" not in data.curve.columns:
        return []
    mask = data.curve.first_loading(strain) & (strain >= line.start) & (strain <= line.end)
    along, across = strain[mask], data.curve.columns["cross_strain"][mask]
    spread = along - along.mean()
    value = -float(spread @ across) / float(spread @ spread)
    return [
        m.single("poisson", "Poisson's ratio", "ratio", value, "ν = −Δε_across/Δε_along in the same region", source)
    ]


def _yield(data: m.Data, strain: np.ndarray, line: Line, options: m.Options, area: float) -> list[m.Result]:
    assert data.curve is not None
    point = offset_point(data.curve, strain, line, options.offset)
    if point is None:
        return []
    return [
        m.single("yield", f"Yield at {options.offset:.1%} offset", "strength", point[1] / area,
               "stress where the curve meets the line moved on by the offset", "ASTM E8/E8M, D3518")
    ]  # fmt: skip
