"""Where a number comes from.

The four classes rank how far a value may be trusted: tested > datasheet > estimated > assumed.  A result
carries the least trusted class among the values it was computed from.
"""

from collections.abc import Iterable
from typing import Literal

import msgspec

Source = Literal["tested", "datasheet", "estimated", "assumed"]

RANKING: tuple[Source, ...] = ("tested", "datasheet", "estimated", "assumed")

# Coefficient of variation taken for a strength or modulus of each class when no test series says better.
# Common practice, no source: a coupon series repeats within about 4 %, a datasheet within 8 %, a value from
# micromechanics within 15 %, a guess within 25 %.
TYPICAL_SCATTER: dict[Source, float] = {
    "tested": 0.04,
    "datasheet": 0.08,
    "estimated": 0.15,
    "assumed": 0.25,
}


class Sourced(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """A value in SI units with its provenance."""

    value: float
    source: Source
    note: str = ""


def least_trusted(sources: Iterable[Source]) -> Source:
    """The weakest provenance among ``sources``; "tested" for an empty collection."""
    return max(sources, key=RANKING.index, default="tested")
