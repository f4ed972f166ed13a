"""Quiet moments of a shared machine: a fixed piece of work beside what is measured tells how fast it runs just then."""

from __future__ import annotations

import time

import numpy as np

NEAR = 1.2  # times the best time of the fixed work, up to which a moment is quiet
LONGEST = 0.3  # s that a quiet moment is waited for
PAUSE = 0.01  # s from one look to the next
FIRST = 1000  # looks, spread over some seconds, from which the best is taken at the start


def fixed_work() -> float:
    """Seconds of about a millisecond of interpreter and small arrays, as an edit has them."""
    start = time.perf_counter()
    counted: dict[int, int] = {}
    for i in range(6000):
        counted[i % 997] = counted.get(i % 997, 0) + len(str(i))
    matrix = np.eye(3)
    for _ in range(100):
        (matrix @ matrix).sum(axis=0)
    return time.perf_counter() - start


class Machine:
    """How fast the machine is beside what is measured."""

    def __init__(self) -> None:
        self.looks = []
        for _ in range(FIRST):
            self.looks.append(fixed_work())
            time.sleep(PAUSE / 2.0)
        self.best = min(self.looks)

    def look(self) -> float:
        """Seconds that the fixed work takes now."""
        self.looks.append(fixed_work())
        self.best = min(self.best, self.looks[-1])
        return self.looks[-1]

    def await_quiet(self) -> float:
        """Waits for a quiet moment, but not long; seconds that the fixed work took last."""
        until = time.perf_counter() + LONGEST
        while (last := self.look()) > NEAR * self.best and time.perf_counter() < until:
            time.sleep(PAUSE)
        return last

    @property
    def usual(self) -> float:
        """How many times its best the fixed work took, median."""
        return float(np.median(self.looks)) / self.best
