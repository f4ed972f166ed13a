"""What flatwise pulling and pressing share."""

from __future__ import annotations

import numpy as np

from omakase.core.errors import SpecimenError
from omakase.core.laminate.stack import Stack
from omakase.core.materials.properties import PROPERTIES
from omakase.core.specimens import method as m
from omakase.core.specimens.curve import FEWEST, Curve, modulus_line
from omakase.core.specimens.expected import SandwichStrip

MOST_STRAIN = 0.02  # of the thickness, where ASTM C365 reads the stress if no peak came before
NOISE = 0.005  # of the largest force, below which a fall is no peak
FALL = 0.02  # of the largest force so far, that counts as a peak passed

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
    if with_modulus:
        data, notes = until_crushed(data, thickness, options)
    formula = f"σ = P/A = {m.newtons(data.end)}/({m.mm(length)} × {m.mm(width)})"
    results: list[m.Result] = [m.failure(data, "strength", title, "core_stress", 1.0 / area, formula, basis)]
    line, x, axis, remarks = m.stiffness_line(data, options, 1.0 / thickness, None)
    if line is not None and with_modulus:
        results.append(m.single("modulus", "Core modulus through the thickness", "modulus",
                                line.slope * thickness / area, f"E = S t/A, S = {line.slope / 1e3:.4g} N/mm",
                                basis))  # fmt: skip
    if with_modulus:
        remarks += notes
    else:
        remarks = tuple(r for r in remarks if "modulus" not in r)
    return m.Reduction((*results, *m.work_result(data, x, line.toe if line else 0.0)), line, axis, remarks)


def until_crushed(data: m.Data, thickness: float, options: m.Options) -> tuple[m.Data, tuple[str, ...]]:
    """The test up to its first peak or 2 % of the thickness, whichever comes first, as ASTM C365 has it, and a remark.

    Beyond that a core only packs, and its force may rise far above its strength.
    """
    curve = data.curve
    x, _, _ = m.travel_of(data, options)
    if curve is None or x is None:
        return data, ()
    force = curve.force
    fallen = np.nonzero(force < (1.0 - FALL) * np.maximum.accumulate(force))[0]
    fallen = fallen[force[fallen] > NOISE * force.max()]
    first_fall = int(fallen[0]) if len(fallen) else len(force)
    begun = min(first_fall, _first_beyond(x - x[0], 2.5 * MOST_STRAIN * thickness))
    if begun < FEWEST:
        return data, ()
    try:
        toe = modulus_line(_until(curve, begun), x[:begun], None, None).toe
    except SpecimenError:  # too few rows to see where it began
        return data, ()
    end = min(first_fall, _first_beyond(x - toe, MOST_STRAIN * thickness))
    if end >= len(force) or end < FEWEST:
        return data, ()
    part = _until(curve, end)
    peak = float(part.force[part.peak])
    how = "its first peak" if end == first_fall else f"{MOST_STRAIN:.0%} of its thickness"
    remarks = () if peak >= 0.99 * float(force.max()) else (f"read at {how}: beyond it the crushed core only packs",)
    return m.Data(peak, peak, part, data.readings), remarks


def _first_beyond(x: np.ndarray, most: float) -> int:
    """Number of rows up to the first at which ``x`` reaches ``most``, that one included."""
    past = np.nonzero(x >= most)[0]
    return int(past[0]) + 1 if len(past) else len(x)


def _until(curve: Curve, end: int) -> Curve:
    return Curve({name: values[:end] for name, values in curve.columns.items()})


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
