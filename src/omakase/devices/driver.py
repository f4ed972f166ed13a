"""What the program expects of a load frame and of a scale.

A real device is one class with these methods, most often over a serial line; the program asks, the device never calls
back.  Units are SI.  ``read`` may be called as often as wanted and gives what has come in since the last call.
"""

from __future__ import annotations

from typing import Protocol

import numpy as np

from omakase.core.errors import OmakaseError
from omakase.core.specimens.curve import Quantity

Rows = dict[Quantity, np.ndarray]


class DeviceError(OmakaseError):
    """A device does not answer or cannot do what is asked, in words for the person beside it."""


class LoadFrame(Protocol):
    """A machine that pulls or presses a specimen at a steady speed and tells force and travel.

    ``capacity`` : N, it stops there by itself.  ``channels`` : what ``read`` gives, "time" in s first.
    """

    name: str
    capacity: float
    channels: tuple[Quantity, ...]

    def start(self, speed: float) -> None:
        """Sets off at ``speed`` in m/s.  Raises DeviceError for a speed it cannot run."""

    def stop(self) -> None:
        """Stops at once; the load stays on."""

    def read(self) -> Rows:
        """Rows since the last call, (n,) arrays, n may be 0."""

    @property
    def running(self) -> bool: ...

    @property
    def why_stopped(self) -> str:
        """In words: stopped by hand, the specimen broke, the capacity was reached; empty while it runs."""


class Scale(Protocol):
    """A scale; ``resolution`` in kg."""

    name: str
    resolution: float

    def read(self) -> float:
        """Mass in kg once it has come to rest.  Raises DeviceError."""
