"""The line-up: the brief's limits and the facts of every candidate as rows, with differences from the baseline."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import Literal

import msgspec

from omakase.core.checks.result import CheckResult
from omakase.core.materials.provenance import Source
from omakase.core.quantities import QUANTITIES
from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.results.candidate_result import CandidateResult, scatter
from omakase.evaluate.results.costing import PartCost
from omakase.project.model import Brief

Status = Literal["meets", "fails", "fact", "none"]


class Cell(msgspec.Struct, frozen=True):
    """One number of one candidate.

    ``margin`` is the reserve over what is required, minus one (how far from the limit; negative fails); None where
    no limit is set.  ``difference`` is relative to the baseline; None for the baseline and without one.
    ``tie`` : its difference from the best of the row is within the scatter of the data.
    ``far`` : the panel moves so far that it stretches: non-linear; ``rough`` : that is not counted yet.
    """

    value: float | None
    status: Status
    margin: float | None = None
    difference: float | None = None
    tie: bool = False
    source: Source = "tested"
    note: str = ""
    check: CheckResult | None = None
    far: bool = False
    rough: bool = False


class Row(msgspec.Struct, frozen=True):
    """A row of the line-up.  ``limit`` in SI, None for a fact; ``lower_is_better`` orders candidates."""

    key: str
    title: str
    dimension: str
    limit: tuple[float, ...] | None
    lower_is_better: bool
    cells: tuple[Cell, ...]


class LineUp(msgspec.Struct, frozen=True):
    """Columns (results, in the brief's order) and rows."""

    brief: Brief
    results: tuple[CandidateResult, ...]
    rows: tuple[Row, ...]

    @property
    def baseline_index(self) -> int | None:
        for i, result in enumerate(self.results):
            if result.candidate.id == self.brief.baseline:
                return i
        return None


Getter = Callable[[CandidateResult], tuple[float, CheckResult | None]]


def _checked(name: str) -> Getter:
    def get(result: CandidateResult) -> tuple[float, CheckResult | None]:
        check = result.worst(name)
        return (math.nan if check is None else check.value), check

    return get


def _reserve(result: CandidateResult) -> tuple[float, CheckResult | None]:
    strength = [check for check in result.checks if check.kind == "strength"]
    worst = min(strength, key=lambda check: check.reserve_factor, default=None)
    return (math.inf if worst is None else worst.reserve_factor), worst


def _areal_mass(result: CandidateResult) -> tuple[float, CheckResult | None]:
    return result.areal_mass, result.worst("mass")


def line_up(
    brief: Brief, results: Sequence[CandidateResult], spreads: Mapping[str, Mapping[str, float]] | None = None,
    costs: Mapping[str, PartCost] | None = None, currency: str = "",
) -> LineUp:  # fmt: skip
    """Rows of the brief, by the table of quantities: those with a limit first; ``costs`` : of candidates by id, which
    stand last, in a ``currency``.

    ``spreads`` : by candidate and row the coefficient of variation among drawn samples, where samples were drawn; ties
    elsewhere rest on the typical scatter of what the number comes from.
    """
    limits = brief.limits
    wanted: list[tuple[str, str, str, tuple[float, ...] | None, bool, Getter]] = []
    for quantity in QUANTITIES:
        limit = getattr(limits, quantity.limit)
        if quantity.limit not in kind_of(brief).limits or not (quantity.always or limit is not None):
            continue
        if quantity.key == "mass":
            wanted.append(
                ("reserve_factor", "Least reserve factor", "ratio", (limits.reserve_factor,), False, _reserve)
            )
        band = limit if quantity.way == "outside" else _one(limit)
        wanted.append(
            (quantity.key, quantity.title, quantity.dimension, band, quantity.way == "at_most", _checked(quantity.key))
        )
    wanted.append(("areal_mass", "Areal mass", "areal_mass", None, True, _areal_mass))
    wanted.sort(key=lambda item: item[3] is None)
    baseline = next((r for r in results if r.candidate.id == brief.baseline and r.ok), None)
    rows = tuple(
        Row(key, title, dimension, limit, lower, _cells(results, baseline, limit, lower, get, key, spreads or {}))
        for key, title, dimension, limit, lower, get in wanted
    )
    return LineUp(brief, tuple(results), (*rows, *_cost_rows(results, baseline, costs or {}, currency)))


def _cost_rows(
    results: Sequence[CandidateResult], baseline: CandidateResult | None, costs: Mapping[str, PartCost], currency: str
) -> Iterator[Row]:  # fmt: skip
    """Price and hours of hands of each candidate, where the shop states its rates."""
    if not costs:
        return
    price = f"Price, {currency}" if currency else "Price"
    for key, title, dimension in (("price", price, "money"), ("hours", "Hands-on", "duration")):
        first = costs.get(baseline.candidate.id) if baseline is not None else None
        base = getattr(first, key, None)
        cells = []
        for result in results:
            cost = costs.get(result.candidate.id)
            value = getattr(cost, key, None)
            if value is None or cost is None:
                cells.append(Cell(None, "none"))
                continue
            alike = first is not None and (first.hours is None) == (cost.hours is None)  # both with hands, or neither
            difference = value / base - 1.0 if base and alike and result is not baseline else None
            without = f", without {', '.join(cost.missing)}" if cost.missing else ""
            note = f"{cost.note}{without}; no moulds in it" if key == "price" else cost.note
            cells.append(Cell(value, "fact", None, difference, False, "assumed", note))
        yield Row(key, title, dimension, None, True, tuple(cells))


def _one(limit: float | None) -> tuple[float, ...] | None:
    return None if limit is None else (limit,)


def _cells(
    results: Sequence[CandidateResult],
    baseline: CandidateResult | None,
    limit: tuple[float, ...] | None,
    lower_is_better: bool,
    get: Getter,
    key: str,
    spreads: Mapping[str, Mapping[str, float]],
) -> tuple[Cell, ...]:
    values = [get(result) if result.ok else (math.nan, None) for result in results]
    base = get(baseline)[0] if baseline is not None else math.nan
    best = _best([value for value, _ in values], lower_is_better)
    deviations = [
        0.0 if check is None else spreads.get(result.candidate.id, {}).get(key, scatter(check)) * value
        for result, (value, check) in zip(results, values, strict=True)
    ]
    best_deviation = next((entry for entry, (value, _) in zip(deviations, values, strict=True) if value == best), 0.0)
    ranked = key != "frequency_band"
    cells = []
    for result, (value, check), deviation in zip(results, values, deviations, strict=True):
        if not result.ok or math.isnan(value):
            cells.append(Cell(None, "none"))
            continue
        margin = _margin(limit, check, value, lower_is_better, key)
        far = check is not None and check.case_id in result.moving_far
        rough = result.stale or (far and result.rough)
        difference = None
        if baseline is not None and result is not baseline and math.isfinite(base) and base and math.isfinite(value):
            difference = value / base - 1.0
        cells.append(
            Cell(
                value,
                "fact" if margin is None else ("meets" if margin >= -1e-9 else "fails"),
                margin,
                difference if ranked else None,
                ranked and _ties(value, best, math.hypot(deviation, best_deviation)),
                check.source if check else "tested",
                _note(check, key),
                check,
                far,
                rough,
            )
        )
    return tuple(cells)


def _margin(
    limit: tuple[float, ...] | None, check: CheckResult | None, value: float, lower: bool, key: str
) -> float | None:
    if limit is None:
        return None
    if key in ("reserve_factor",):
        return value / limit[0] - 1.0
    if check is not None:
        return check.reserve_factor / check.required - 1.0
    return limit[0] / value - 1.0 if lower else value / limit[0] - 1.0


def _best(values: list[float], lower_is_better: bool) -> float:
    finite = [value for value in values if math.isfinite(value)]
    if not finite:
        return math.nan
    return min(finite) if lower_is_better else max(finite)


def _ties(value: float, best: float, deviation: float) -> bool:
    """Within one standard deviation of the difference to the row's best, and not the best itself."""
    return math.isfinite(value) and value != best and abs(value - best) <= deviation


def _note(check: CheckResult | None, key: str) -> str:
    if check is None or key in ("mass", "thickness", "diameter", "areal_mass", "frequency", "frequency_band"):
        return ""
    return f"{check.full_title}, {check.load_case}" if key == "reserve_factor" else check.load_case
