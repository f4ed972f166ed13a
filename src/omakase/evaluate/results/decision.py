"""The decision in one sentence: the lightest candidate that passes, or the one that comes nearest."""

from __future__ import annotations

import math

from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.results.lineup import LineUp
from omakase.evaluate.results.wording import over_words, quantity, reserve_words
from omakase.units import UnitSystem


def decision(line_up: LineUp | None, units: UnitSystem) -> str:
    """What stands above the line-up; nothing without a brief."""
    if line_up is None:
        return ""
    if not line_up.results:
        return "No candidate yet: Ctrl+N makes one, Ctrl+9 searches the menu for one."
    base = line_up.baseline_index
    others = [result for i, result in enumerate(line_up.results) if i != base and result.ok]
    if not others:
        return "" if any(not r.ok for r in line_up.results) else "There is only the baseline: Ctrl+N makes a candidate."
    passing = [result for result in others if result.passes]
    if passing:
        best = min(passing, key=lambda result: result.weight[0])
        text = f"Lightest that passes: {_name(best)}, {quantity(*best.weight, units)}"
        if base is not None and line_up.results[base].ok:
            text += f", {_than(best.weight[0] / line_up.results[base].weight[0] - 1.0)} the baseline"
        return text + "."
    nearest = max(others, key=lambda result: min(check.reserve_factor / check.required for check in result.checks))
    return f"None passes; nearest is {_name(nearest)}: {_shortfall(nearest, units)}."


def _name(result: CandidateResult) -> str:
    return result.candidate.name or result.candidate.id


def _than(difference: float) -> str:
    if abs(difference) < 0.005:
        return "as heavy as"
    return f"{abs(difference):.0%} {'lighter' if difference < 0.0 else 'heavier'} than"


def _shortfall(result: CandidateResult, units: UnitSystem) -> str:
    """'deflection 6 % over' of the check that governs."""
    check = result.governing
    assert check is not None
    if check.kind == "strength":
        return f"{check.full_title.lower()}, {reserve_words(check.reserve_factor, check.required)}"
    if check.value > 0.0 and math.isfinite(check.allowable) and check.allowable > 0.0:
        over = max(check.value / check.allowable, check.allowable / check.value) - 1.0
        side = "over" if check.value > check.allowable else "short"
        return f"{check.full_title.lower()} {over_words(over)} {side}"
    return check.full_title.lower()
