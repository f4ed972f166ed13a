"""A bag's vacuum: a gauge's log, its leak-down test, and whether it passes."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec
import numpy as np

from omakase.core.build.errors import BuildError

# common practice in wet layup and infusion shops, no source; the shop sets its own
USUAL_DROP, USUAL_TIME = 1700.0, 300.0
STANDARD_PRESSURE = 101325.0


class LeakDown(msgspec.Struct, frozen=True):
    """A drop test: Pa lost over ``seconds`` after the pump was closed; ``rate`` Pa/s.

    ``allowed`` : Pa over the time tested.  ``growing`` : the rate did not fall off, as it does while a bag settles, so
    that it is a leak.
    """

    start: float
    end: float
    seconds: float
    allowed: float
    growing: bool

    @property
    def lost(self) -> float:
        return self.end - self.start

    @property
    def passes(self) -> bool:
        return self.lost <= self.allowed

    @property
    def rate(self) -> float:
        return self.lost / self.seconds


def leak_down(
    seconds: Sequence[float], pressure: Sequence[float], drop: float = USUAL_DROP, time: float = USUAL_TIME
) -> LeakDown:  # fmt: skip
    """The test of absolute ``pressure`` in Pa logged at ``seconds`` after the pump was closed.

    Taken over the first ``time`` s where the log is as long, else over what there is, with a limit in proportion.
    Raises BuildError for a log that is too short or whose times do not increase.
    """
    if not (drop > 0.0 and time > 0.0):
        raise BuildError("a drop test needs a limit and a time above zero", "drop")
    t, p = np.asarray(seconds, float), np.asarray(pressure, float)
    if len(t) != len(p) or len(t) < 2:
        raise BuildError("a drop test needs two readings or more")
    if not (np.isfinite(t).all() and np.isfinite(p).all()):
        raise BuildError("a reading of the gauge is not a number")
    if (np.diff(t) <= 0.0).any():
        raise BuildError("readings of the gauge must run on in time")
    if (p < 0.0).any() or (p > 1.2 * STANDARD_PRESSURE).any():
        raise BuildError("the gauge reads less than no pressure, or more than the air's")
    span = min(time, float(t[-1] - t[0]))
    ends = np.interp([t[0], t[0] + span], t, p)
    halves = np.interp([t[0] + span / 2.0], t, p)[0]
    first, second = halves - ends[0], ends[1] - halves
    growing = second > 0.0 and second > 0.6 * first
    return LeakDown(float(ends[0]), float(ends[1]), span, drop * span / time, bool(growing))


def leak_conductance(rate: float, volume: float, inside: float, outside: float = STANDARD_PRESSURE) -> float:
    """m³/s of a leak by which a bag of ``volume`` m³ at ``inside`` Pa gains ``rate`` Pa/s: V ṗ / (p_out − p_in)."""
    return volume * rate / (outside - inside)
