"""The samples of all load cases side by side, so that a check works through them at once."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from omakase.core.members.panel import CaseResponse


class Samples:
    """Every sample of every load case as one row of places.

    ``strains`` : (11, places) generalised strains at limit load.  ``derived`` : what one check worked out from them
    and others need too.
    """

    def __init__(self, cases: tuple[CaseResponse, ...]) -> None:
        self.cases = cases
        self.strains = np.concatenate([np.moveaxis(case.strains, -1, 0).reshape(11, -1) for case in cases], axis=1)
        self._ends = np.cumsum([case.strains.shape[0] * case.strains.shape[1] for case in cases])
        self.derived: dict[str, tuple[np.ndarray, ...]] = {}

    def largest(self, values: np.ndarray) -> Iterator[tuple[CaseResponse, int]]:
        """Each load case with the place of the largest of its ``values`` (places,)."""
        start = 0
        for case, end in zip(self.cases, self._ends, strict=True):
            yield case, start + int(np.argmax(values[start:end]))
            start = int(end)

    def per_case(self, values: np.ndarray) -> np.ndarray:
        """The largest of each load case's ``values`` (places,), repeated at all of its places."""
        starts = np.concatenate([[0], self._ends[:-1]])
        return np.repeat(np.maximum.reduceat(values, starts), np.diff(self._ends, prepend=0))

    def at(self, case: CaseResponse, place: int) -> tuple[float, float]:
        """(x, y) in m of a place, which must be one of the load case's."""
        index = next(i for i, other in enumerate(self.cases) if other is case)
        first = int(self._ends[index - 1]) if index else 0
        i, j = divmod(place - first, len(case.y))
        return float(case.x[i]), float(case.y[j])
