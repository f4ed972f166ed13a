"""The ledger: predicted against weighed over parts and jobs, the factor it offers, and a coupon's difference carried to
a part."""

from __future__ import annotations

import math
from collections.abc import Sequence

import msgspec
import numpy as np

from omakase.core.build.errors import BuildError

LEAST_PARTS = 3  # below it a mean is shown, and no factor offered
CONFIDENCE = 0.9


class Entry(msgspec.Struct, frozen=True):
    """A part in a state that was predicted and weighed, kg."""

    name: str
    predicted: float
    weighed: float
    process: str = ""
    crew: str = ""

    @property
    def ratio(self) -> float:
        return self.weighed / self.predicted


class Tally(msgspec.Struct, frozen=True):
    """Ratios of weighed over predicted: their ``count``, ``mean``, standard deviation, and the ``low`` and ``high``
    ends of the 90 % confidence interval of the mean; None where one part alone tells nothing of it."""

    count: int
    mean: float
    deviation: float | None
    low: float | None
    high: float | None

    @property
    def offers(self) -> bool:
        """Whether it is enough to go by: three parts, and the interval leaves 1 out."""
        if self.count < LEAST_PARTS or self.low is None or self.high is None:
            return False
        return not self.low <= 1.0 <= self.high


def tally(ratios: Sequence[float]) -> Tally:
    """Mean of weighed over predicted with its interval, by Student's t.  Raises BuildError."""
    values = np.asarray(ratios, float)
    if not len(values):
        raise BuildError("nothing has been weighed")
    if not (np.isfinite(values).all() and (values > 0.0).all()):
        raise BuildError("a predicted or weighed mass is not above zero")
    mean = float(values.mean())
    if len(values) < 2:
        return Tally(1, mean, None, None, None)
    from scipy.special import stdtrit

    deviation = float(values.std(ddof=1))
    reach = float(stdtrit(len(values) - 1, 0.5 + CONFIDENCE / 2.0)) * deviation / math.sqrt(len(values))
    return Tally(len(values), mean, deviation, mean - reach, mean + reach)


class Carried(msgspec.Struct, frozen=True):
    """A difference that coupons show, carried to a part: kg with one standard deviation, of one part and of all."""

    per_area: float
    per_area_scatter: float
    part: float
    part_scatter: float
    all_parts: float
    all_scatter: float


def coupon_to_part(
    masses: Sequence[float], other_masses: Sequence[float], area: float, other_area: float, part_area: float, count: int
) -> Carried:  # fmt: skip
    """What a part of ``part_area`` m² gains where the second recipe takes the first one's place, and ``count`` parts.

    ``masses`` kg of specimens of ``area`` m² each, and the others.  The scatter is that of the difference of the means,
    √(s₁²/n₁ + s₂²/n₂) (Welch); it goes with the area, since all of a part is laid up by the same hands on the same day.
    Raises BuildError for a single specimen, whose scatter is unknown.
    """
    for values, size in ((masses, area), (other_masses, other_area)):
        if len(values) < 2:
            raise BuildError("two specimens or more of each recipe show a scatter")
        if not size > 0.0:
            raise BuildError("a specimen needs an area")
    if not part_area > 0.0 or count < 1:
        raise BuildError("the part needs an area, and a count of one or more")
    first, second = np.asarray(masses, float) / area, np.asarray(other_masses, float) / other_area
    difference = float(second.mean() - first.mean())
    scatter = math.sqrt(float(first.var(ddof=1)) / len(first) + float(second.var(ddof=1)) / len(second))
    part, spread = difference * part_area, scatter * part_area
    return Carried(difference, scatter, part, spread, part * count, spread * count)
