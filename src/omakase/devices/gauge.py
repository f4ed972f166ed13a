"""A simulated vacuum gauge on a bag: it settles after the pump is closed, and rises on if the bag leaks."""

from __future__ import annotations

from typing import Protocol

import numpy as np

AIR = 101325.0  # Pa
SETTLING, SETTLED = 60.0, 250.0  # s and Pa by which a tight bag settles


class Gauge(Protocol):
    """A gauge that tells the absolute pressure in a bag; ``resolution`` in Pa."""

    name: str
    resolution: float

    def read(self, seconds: float) -> float:
        """Pa at ``seconds`` after the pump was closed.  Raises DeviceError."""


class SimulatedGauge:
    """A bag at ``start`` Pa that a leak of ``leak`` Pa/s fills, read to 1 mbar with the last digit trembling."""

    def __init__(self, start: float = 2500.0, leak: float = 0.5, seed: int = 1) -> None:
        self.name, self.resolution = "simulated gauge", 50.0
        self._start, self._leak, self._random = start, leak, np.random.default_rng(seed)

    def read(self, seconds: float) -> float:
        settled = SETTLED * (1.0 - np.exp(-seconds / SETTLING))
        inside = AIR - (AIR - self._start) * np.exp(-self._leak * seconds / (AIR - self._start))
        value = inside + settled + self._random.normal(0.0, 0.3 * self.resolution)
        return float(min(round(value / self.resolution) * self.resolution, AIR))
