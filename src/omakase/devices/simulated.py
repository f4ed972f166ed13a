"""A simulated load frame and scale.  The true properties of its specimens are hidden.

The specimen's force grows with its stiffness and falls when the first of its failures is reached; its slope falls
evenly on the way there, by 16 % unless stated (twice its ``softening``).  The frame adds what a real one adds: slack at
the start, its own compliance in the travel, noise, and a capacity, at which it stops with the specimen unbroken.
"""

from __future__ import annotations

import hashlib
import time
from collections.abc import Callable

import msgspec
import numpy as np

from omakase.core.specimens.curve import Quantity
from omakase.core.specimens.method import Method, Prediction
from omakase.devices.driver import DeviceError, Rows

RATE = 50.0  # rows per second
AFTER = 0.35  # of the failure travel that the frame runs on after a break
SPEEDS = (1e-7, 0.02)  # m/s
GRIP_CHANCE = 0.06


class Hidden(msgspec.Struct, frozen=True):
    """True properties of one specimen.  ``failures`` : manner in words to force in N; ``stiffness`` N/m.

    ``softening`` : share of the stiffness lost at failure; ``strain``, ``cross_strain`` : per N at the gauge.
    ``mass`` : kg, 0 if nobody weighs it.
    """

    failures: dict[str, float]
    stiffness: float
    softening: float = 0.08
    strain: float = 0.0
    cross_strain: float = 0.0
    mass: float = 0.0

    @property
    def manner(self) -> str:
        return min(self.failures, key=self.failures.__getitem__)

    @property
    def force(self) -> float:
        return min(self.failures.values())


def _draws(*names: str) -> np.random.Generator:
    """Random numbers that are always the same for the same names."""
    digest = hashlib.sha256("\0".join(names).encode()).digest()
    return np.random.default_rng(int.from_bytes(digest[:8], "big"))


def hide(
    expected: Prediction, method: Method, material: str, specimen: str, bias: dict[str, float] | None = None,
    mass: float = 0.0,
) -> Hidden:  # fmt: skip
    """A specimen near a prediction: off by what its material is off by, and by its own scatter.

    ``material`` and ``specimen`` name the draws, so that a specimen is the same one whenever it is looked at;
    ``bias`` : manner to factor where it is to be a certain one.  Materials come out within some 12 % of
    what was predicted, most below it; specimens scatter by 4 % in strength and 2 % in stiffness
    (common practice, no source).
    """
    draws = _draws(material, specimen)
    failures = {}
    for manner, force in expected.forces.items():
        shared = _draws(material, manner).normal(0.93, 0.07)
        factor = (bias or {}).get(manner, min(max(shared, 0.75), 1.12))
        failures[manner] = force * factor * max(draws.normal(1.0, 0.04), 0.5)
    if method.gripped and draws.random() < GRIP_CHANCE:
        failures["it breaks at the grip"] = min(failures.values()) * draws.uniform(0.7, 0.95)
    factor = _draws(material, "stiffness").normal(0.97, 0.03) * draws.normal(1.0, 0.02)
    return Hidden(
        failures, expected.stiffness * factor, 0.08, expected.strain / factor, expected.cross_strain / factor, mass
    )


class SimulatedFrame:
    """A load frame that ships with the program; see ``driver.LoadFrame``.

    ``compliance`` m/N, ``slack`` m, ``noise`` N as standard deviation, ``gauges`` : extra channels.  ``clock`` gives
    seconds; ``hurry`` makes the specimen's time run faster than the clock's.
    """

    def __init__(
        self, specimen: Hidden, capacity: float = 20e3, compliance: float = 2e-8, slack: float = 1e-4,
        noise: float | None = None, gauges: tuple[Quantity, ...] = (), seed: int = 1,
        clock: Callable[[], float] = time.monotonic, hurry: float = 1.0,
    ) -> None:  # fmt: skip
        self.name, self.capacity = "simulated load frame", capacity
        self.channels: tuple[Quantity, ...] = ("time", "travel", "force", *gauges)
        self._specimen, self._clock, self.hurry = specimen, clock, hurry
        self._noise = capacity * 1e-4 if noise is None else noise
        self._random = np.random.default_rng(seed)
        self._at = self._travel = self._speed = 0.0
        self._since: float | None = None
        self._why = ""
        self._table(compliance, slack)

    def _table(self, compliance: float, slack: float) -> None:
        """Travel of the crosshead and force of the specimen over its own deflection."""
        specimen = self._specimen
        if specimen.stiffness <= 0.0:
            raise DeviceError("this specimen has no stiffness to simulate")
        # F = k x (1 − s x/x_f) with F(x_f) = force: the slope at failure is below the first by 2 s/(1 − s) or so
        end = specimen.force / specimen.stiffness / (1.0 - specimen.softening)
        x = np.linspace(0.0, end, 400)
        force = specimen.stiffness * x * (1.0 - specimen.softening * x / end)
        # a seating slack is taken up as an exponential of the force: the toe of the curve
        seat = slack * (1.0 - np.exp(-force / (0.02 * specimen.force)))
        travel = x + compliance * force + seat
        rest = 0.25 * force[-1]
        self._deflections = np.append(x, [end * 1.0001, end * (1.0 + AFTER)])
        self._forces = np.append(force, [rest, 0.8 * rest])
        self._travels = np.append(travel, [travel[-1] * 1.0001, travel[-1] * (1.0 + AFTER)])

    def start(self, speed: float) -> None:
        if not SPEEDS[0] <= speed <= SPEEDS[1]:
            raise DeviceError(f"the frame runs between {SPEEDS[0] * 6e4:g} and {SPEEDS[1] * 6e4:g} mm/min")
        self._speed, self._since, self._why = speed, self._clock(), ""

    def stop(self) -> None:
        if self.running:
            self._since, self._why = None, "stopped by hand"

    @property
    def running(self) -> bool:
        return self._since is not None

    @property
    def why_stopped(self) -> str:
        return self._why

    def read(self) -> Rows:
        if self._since is None:
            return {name: np.empty(0) for name in self.channels}
        now = self._clock()
        count = int((now - self._since) * self.hurry * RATE)
        self._since += count / RATE / self.hurry
        times = self._at + np.arange(1, count + 1) / RATE
        travel = self._travel + np.arange(1, count + 1) / RATE * self._speed
        if count:
            self._at, self._travel = float(times[-1]), float(travel[-1])
        force = np.interp(travel, self._travels, self._forces)
        over = np.nonzero(force >= self.capacity)[0]
        ended = np.nonzero(travel >= self._travels[-1])[0]
        last = min([*over[:1], *ended[:1], count])
        if last < count:
            self._since = None
            self._why = "the capacity of the frame was reached" if len(over) and over[0] == last else "it broke"
            times, travel, force = times[: last + 1], travel[: last + 1], force[: last + 1]
        return self._measured(times, travel, force)

    def _measured(self, times: np.ndarray, travel: np.ndarray, force: np.ndarray) -> Rows:
        """What the sensors make of it: noise, and the last digit of each."""
        n, specimen = len(times), self._specimen
        readings = np.round(force + self._random.normal(0.0, self._noise, n), 2)
        deflection = np.interp(travel, self._travels, self._deflections)
        rows: Rows = {"time": times, "travel": np.round(travel, 7), "force": readings}
        if "deflection" in self.channels:
            rows["deflection"] = np.round(deflection + self._random.normal(0.0, 1e-6, n), 7)
        # a gauge reads strain of the specimen, which follows its own deflection rather than the softened force
        per = specimen.stiffness * deflection
        if "strain" in self.channels:
            rows["strain"] = np.round(specimen.strain * per + self._random.normal(0.0, 2e-6, n), 7)
        if "cross_strain" in self.channels:
            rows["cross_strain"] = np.round(specimen.cross_strain * per + self._random.normal(0.0, 2e-6, n), 7)
        return {name: rows[name] for name in self.channels}


def run_through(frame: SimulatedFrame, speed: float) -> Rows:
    """A whole test at once, as if time had passed: for demo data and tests."""
    now = [0.0]
    frame._clock = lambda: now[0]
    frame.start(speed)
    parts: list[Rows] = []
    while frame.running:
        now[0] += 2.0
        parts.append(frame.read())
    return {name: np.concatenate([part[name] for part in parts]) for name in frame.channels}


class SimulatedScale:
    """A scale that ships with the program: what lies on it, with the last digit trembling."""

    def __init__(self, mass: float, resolution: float = 1e-4, seed: int = 1) -> None:
        self.name, self.resolution = "simulated scale", resolution
        self._mass, self._random = mass, np.random.default_rng(seed)

    def read(self) -> float:
        value = self._mass + self._random.normal(0.0, 0.4 * self.resolution)
        return float(max(round(value / self.resolution), 0) * self.resolution)
