"""A proposal in words: what it comes to, and what it changes."""

from __future__ import annotations

import math

from omakase.evaluate.results.outcome import Outcome
from omakase.evaluate.results.wording import quantity, reserve_text
from omakase.units import UnitSystem


def outcome_words(outcome: Outcome, before: Outcome | None, units: UnitSystem) -> str:
    """What a proposal comes to, and what it does to the load cases of the candidate it came from."""
    parts = [f"{quantity(*outcome.weight, units)}, {quantity(outcome.thickness, 'length', units)} thick"]
    if not math.isnan(outcome.deflection):
        parts.append(f"deflection {quantity(outcome.deflection, 'deflection', units)}")
    if not math.isnan(outcome.frequency):
        parts.append(f"first frequency {quantity(outcome.frequency, 'frequency', units)}")
    text = f"{'; '.join(parts)}. Then governs: {outcome.governs}."
    if outcome.cost is not None:
        without = f" without {', '.join(outcome.cost.missing)}" if outcome.cost.missing else ""
        what = "Material, waste and hands" if outcome.cost.laid else "Cloth and core"
        text += f" {what} for {outcome.cost.value:.2f} of the shop's money{without}."
    was = {case.id: case.share for case in before.cases} if before is not None else {}
    changes = [
        f"{case.name} {reserve_text(was[case.id])} → {reserve_text(case.share)}"
        for case in outcome.cases
        if case.id in was
    ]
    return f"{text} Least reserve over limit: {', '.join(changes)}." if changes else text
