"""What a part will weigh, row by row with provenance and scatter, and what a weighing says about it."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence

import msgspec

from omakase.core.materials.provenance import Source

# coefficient of variation of each kind of row, until parts have been weighed: common practice, no source
USUAL_SCATTER: dict[str, float] = {
    "cloth": 0.02, "fit": 0.10, "resin": 0.10, "sheet": 0.02, "core": 0.05, "uptake": 0.30, "bond": 0.25,
    "insert": 0.02, "edge": 0.20, "filler": 0.35, "paint": 0.30, "hardware": 0.01,
}  # fmt: skip
KINDS: dict[str, str] = {
    "cloth": "cloth", "fit": "walls and ribs as built", "resin": "resin in the plies", "sheet": "sheets",
    "core": "core", "uptake": "resin in the core",
    "bond": "bond lines", "insert": "inserts", "edge": "edge fill", "filler": "filler", "paint": "paint",
    "hardware": "hardware",
}  # fmt: skip
FINISHES = ("filler", "paint")


class MassRow(msgspec.Struct, frozen=True):
    """kg of one thing: ``what`` it is, ``amount`` how it was worked out in words, where the number is from."""

    kind: str
    what: str
    mass: float
    amount: str = ""
    source: Source = "estimated"

    @property
    def scatter(self) -> float:
        """kg, one standard deviation."""
        return abs(self.mass) * USUAL_SCATTER[self.kind]


class Weighing(msgspec.Struct, frozen=True):
    """What a part weighed: kg, its ``state``, and where it was measured its mean ``thickness`` in m."""

    mass: float
    state: str
    thickness: float | None = None


class Cause(msgspec.Struct, frozen=True):
    """A part of the difference between weighed and predicted, kg, and how it is known."""

    what: str
    mass: float
    how: str


def total(rows: Iterable[MassRow]) -> float:
    return sum(row.mass for row in rows)


def scatter(rows: Iterable[MassRow]) -> float:
    """kg, one standard deviation of the sum: rows of the same kind go together, kinds independently.

    Two cloths wetted by the same hands are both rich or both dry; cloth and paint have nothing to do with each other.
    """
    kinds: dict[str, float] = {}
    for row in rows:
        kinds[row.kind] = kinds.get(row.kind, 0.0) + row.scatter
    return math.sqrt(sum(own * own for own in kinds.values()))


# which kinds of rows are on a part in each state
STATES: dict[str, tuple[str, ...]] = {
    "demoulded": ("cloth", "fit", "resin", "sheet", "core", "uptake"),
    "trimmed": ("cloth", "fit", "resin", "sheet", "core", "uptake"),
    "assembled": ("cloth", "fit", "resin", "sheet", "core", "uptake", "bond", "insert", "edge", "hardware"),
    "faired": ("cloth", "fit", "resin", "sheet", "core", "uptake", "bond", "insert", "edge", "hardware", "filler"),
    "painted": tuple(KINDS),
}


def in_state(rows: Iterable[MassRow], state: str) -> list[MassRow]:
    """Rows that a part has in a state; the trim that is still on a part just demoulded is not among them."""
    return [row for row in rows if row.kind in STATES[state]]


def explained(
    rows: Sequence[MassRow], weighing: Weighing, earlier: Sequence[Weighing], plies: float, resin_density: float,
    area: float, trim: float = 0.0,
) -> list[Cause]:  # fmt: skip
    """Causes of the difference between what was weighed and the rows' sum in that state; they add up to it.

    ``plies`` : m, planned thickness of all plies; with a measured ``thickness`` of the part over the planned one the
    rest is taken as resin over ``area`` m² (ASTM D3171 without voids).  A later state against an earlier weighing gives
    what was put on in between, against its rows.  ``trim`` : kg of edge still on a part just demoulded.
    """
    predicted = total(in_state(rows, weighing.state))
    difference = weighing.mass - predicted
    causes = []
    order = list(STATES)
    if weighing.state == "demoulded" and trim > 0.0:
        causes.append(Cause("trim not cut off yet", trim, "planned trim times the areal mass"))
    thick = next((own for own in (weighing, *reversed(list(earlier))) if own.thickness is not None), None)
    if thick is not None and thick.thickness is not None and plies > 0.0:
        causes.append(
            Cause("resin", (thick.thickness - plies) * area * resin_density, "by the measured thickness of the plies")
        )
    before = [own for own in earlier if order.index(own.state) < order.index(weighing.state)]
    if before:
        last = max(before, key=lambda own: order.index(own.state))
        new = [row for row in rows if row.kind in STATES[weighing.state] and row.kind not in STATES[last.state]]
        if new:
            kinds = dict.fromkeys(KINDS[row.kind] for row in new)
            more = weighing.mass - last.mass - total(new)
            causes.append(Cause(", ".join(kinds), more, f"by the weighing {last.state} before"))
    rest = difference - sum(own.mass for own in causes)
    causes.append(Cause("not explained", rest, "not explained by the readings"))
    return causes
