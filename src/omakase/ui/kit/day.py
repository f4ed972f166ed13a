"""The day on which a person does what the record names by its day."""

from __future__ import annotations

from datetime import date


def today() -> str:
    """The day by this machine's clock, as 2026-11-28."""
    return date.today().isoformat()
