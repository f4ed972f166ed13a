"""A value as it was read off an instrument."""

from omakase.project.spans import Record


class Reading(Record, frozen=True):
    """A value as it was read: SI, half the worth of its last digit, and the text that was written down."""

    value: float
    half: float
    text: str
