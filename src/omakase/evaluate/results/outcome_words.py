"""A proposal in words: what it comes to, and what it changes."""

from __future__ import annotations

import math

from omakase.evaluate.results.outcome import Outcome
from omakase.evaluate.results.wording import quantity, reserve_text
from omakase.units import UnitSystem


def outcome_words(own: Outcome, before: Outcome | None, units: UnitSystem) -> str:
    """What a proposal comes to, and what it does to the load cases of the candidate it came from."""
    parts = [f"{quantity(own.mass, 'mass', units)}, {quantity(own.thickness, 'length', units)} thick"]
    if not math.isnan(own.deflection):
        parts.append(f"deflection {quantity(own.deflection, 'deflection', units)}")
    if not math.isnan(own.frequency):
        parts.append(f"first frequency {quantity(own.frequency, 'frequency', units)}")
    text = f"{'; '.join(parts)}. Then governs: {own.governs}."
    if own.cost is not None:
        without = f" without {', '.join(own.cost.missing)}" if own.cost.missing else ""
        text += f" Cloth and core for {own.cost.value:.2f} of the shop's money{without}."
    was = {own.id: own.share for own in before.cases} if before is not None else {}
    changes = [
        f"{case.name} {reserve_text(was[case.id])} → {reserve_text(case.share)}" for case in own.cases if case.id in was
    ]
    return f"{text} Least reserve over limit: {', '.join(changes)}." if changes else text
