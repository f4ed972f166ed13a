"""Weighings, causes and factors as rows of text."""

from __future__ import annotations

from collections.abc import Sequence

from omakase.core.build.masses import Cause
from omakase.evaluate.build.tables import Rows
from omakase.evaluate.build.weighing import STATE_NAMES, LedgerRow, Offer, tallies
from omakase.project.model import Project
from omakase.units import UnitSystem, format_value

LEDGER_TITLES = ("Part, job", "Day", "State", "Predicted", "Weighed", "Ratio", "Crew")
CAUSE_TITLES = ("Cause", "Mass", "How it is known")
OFFER_TITLES = ("Factor", "Rests on", "Value")


def ledger_rows(rows: Sequence[LedgerRow], units: UnitSystem) -> Rows:
    """A row for each weighing; the mass as it was written down."""
    return [
        (
            f"{row.job.id} {row.weighed.id}",
            (f"{row.entry.name}, {row.job.name}", row.weighed.on, STATE_NAMES[row.weighed.state],
             format_value(row.weighed.predicted, "mass", units, with_unit=True), row.weighed.mass.text,
             f"{row.entry.ratio:.3f}", row.weighed.crew),
        )
        for row in rows
    ]  # fmt: skip


def cause_rows(found: Sequence[Cause], units: UnitSystem) -> Rows:
    rows: Rows = []
    for i, own in enumerate(found):
        mass = format_value(own.mass, "small_mass", units, with_unit=True)
        rows.append((str(i), (own.what, mass if mass.startswith("−") else f"+{mass}", own.how)))
    return rows


def offer_rows(found: Sequence[Offer]) -> Rows:
    """A row for each factor, offered or standing."""
    rows: Rows = []
    for own in found:
        what = "mass of the layup" if own.what == "mass" else "resin to mix"
        if own.standing is not None:
            value = f"counts: {own.standing.value:.3f}"
        elif own.worth:
            value = f"offered: {own.tally.mean:.3f}"
        else:
            value = f"{own.tally.mean:.3f}, not enough to go by"
        rows.append((f"{own.what} {own.process}", (f"{what}, {own.name}", own.text, value)))
    return rows


def ledger_words(project: Project) -> str:
    """Mean and scatter of the ledger by crew, where crews are named."""
    by_crew = {name: own for name, own in tallies(project, "crew").items() if name}
    said = [
        f"{name}: {own.mean:.3f}" + (f" ± {own.deviation:.3f}" if own.deviation is not None else "") + f" ({own.count})"
        for name, own in sorted(by_crew.items())
    ]
    return f"Weighed over predicted by crew: {'; '.join(said)}." if said else "No part was weighed yet."
