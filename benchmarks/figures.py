"""A measured figure with what it should be, and how to measure."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True)
class Figure:
    """``target`` is the largest value wanted; None where the figure only informs."""

    name: str
    value: float
    unit: str
    target: float | None = None

    @property
    def met(self) -> bool:
        return self.target is None or self.value <= self.target

    def __str__(self) -> str:
        text = f"{self.name:66} {self.value:9.3g} {self.unit:3}"
        if self.target is None:
            return text
        return f"{text} (at most {self.target:g}{'' if self.met else ': MISSED'})"


def seconds(act: Callable[[], object], repeats: int = 7) -> float:
    """Median time of an act after one run to warm up."""
    act()
    times = []
    for _ in range(repeats):
        start = time.perf_counter()
        act()
        times.append(time.perf_counter() - start)
    return statistics.median(times)


def percentile(times: list[float], share: float) -> float:
    """The time that ``share`` of all stay below."""
    ordered = sorted(times)
    return ordered[min(len(ordered) - 1, int(share * len(ordered)))]
