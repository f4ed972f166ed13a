"""The state of a menu: what is judged, what is beaten, and what stands on it."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping

import msgspec
import numpy as np

from omakase.evaluate.results.outcome import Outcome
from omakase.project.model import Candidate

WAVE, WAVE_MOST = 12, 72  # judged at a time, at first and at most
LEAST_BAD = 8  # shown when nothing passes
HEAVIER = 1.25  # times the lightest that a most robust one may weigh


class Dish(msgspec.Struct, frozen=True):
    """One verified combination: ``values`` of what matters in order; ``titles`` : what it is the best in."""

    candidate: Candidate
    outcome: Outcome
    values: tuple[float, ...]
    titles: tuple[str, ...] = ()


class Menu(msgspec.Struct, frozen=True):
    """The state of a search.

    ``dishes`` : verified ones that no other verified one beats in everything that matters, and the titled ones.
    ``excluded`` : how many combinations each reason has put out.  ``enumerated`` : all combinations were looked at;
    ``complete`` : every one was rejected for certain, judged, or beaten.  ``least_bad`` : when nothing passes.
    ``note`` : that more was allowed than asked for, since nothing passed.
    """

    total: int
    looked: int = 0
    left: int = 0
    judged: int = 0
    open: int = 0
    enumerated: bool = True
    complete: bool = False
    excluded: dict[str, int] = {}
    dishes: tuple[Dish, ...] = ()
    least_bad: tuple[Dish, ...] = ()
    points: tuple[tuple[float, float, bool], ...] = ()
    note: str = ""

    @property
    def proof(self) -> str:
        """What the menu can be trusted for, in words."""
        if not self.complete:
            return f"not finished: {self.open} combinations are still unchecked"
        if not self.enumerated:
            part = f"{self.looked:,} of {self.total:,}"
            return f"{part} combinations were checked, drawn at random; there may be better ones"
        return f"all {self.total:,} combinations were checked; none is better"


class State:
    """What is known of the combinations that are left: ``open`` ones are neither judged nor beaten.

    ``values`` (n, matters) of what matters and ``best`` (n, 4) of everything that has a title.  ``near`` : share by
    which the values of those not judged may be off.  ``untitled`` : titles that say nothing, as all are alike in it.
    """

    def __init__(self, values: np.ndarray, best: np.ndarray, near: float = 0.0, untitled: tuple[str, ...] = ()) -> None:
        self.values, self.best, self._near, self._untitled = values, best, near, untitled
        self.open = np.ones(len(values), dtype=bool)
        self.judged = np.zeros(len(values), dtype=bool)
        self.outcomes: dict[int, Outcome] = {}
        self.passing: list[int] = []

    def note(self, row: int, judged: Outcome) -> None:
        """Takes the judgement of one; what it beats or equals in everything that matters is no longer open."""
        self.judged[row] = True
        self.open[row] = False
        self.outcomes[row] = judged
        if judged.passes:
            self.passing.append(row)
            self.open &= ~np.all(self.values >= self.values[row] * (1.0 + self._near - 1e-9), axis=1)

    def front(self) -> list[int]:
        """Passing ones that no other passing one beats."""
        rows = []
        for row in self.passing:
            values = self.values[row]
            beaten = any(
                np.all(self.values[other] <= values * (1.0 + 1e-9))
                and np.any(self.values[other] < values * (1.0 - 1e-9))
                for other in self.passing
            )
            twin = any(np.allclose(self.values[other], values, rtol=1e-9) and other < row for other in self.passing)
            if not beaten and not twin:
                rows.append(row)
        return rows

    def titles(self) -> dict[int, list[str]]:
        """What verified ones are the best in: lightest, cheapest, thinnest, simplest, most robust."""
        reasons: dict[int, list[str]] = {}
        if not self.passing:
            return reasons
        lightest = min(self.best[row, 0] for row in self.passing)
        for column, title in enumerate(("lightest", "cheapest", "thinnest", "simplest")):
            if title in self._untitled:
                continue
            row = min(self.passing, key=lambda row: (self.best[row, column], self.best[row, 0], row))
            reasons.setdefault(row, []).append(title)
        near = [row for row in self.passing if self.best[row, 0] <= HEAVIER * lightest]
        row = max(near, key=lambda row: (self.outcomes[row].share, -row))
        reasons.setdefault(row, []).append("most robust")
        return reasons


def served(
    menu: Menu, state: State, candidate: Callable[[int], Candidate], excluded: Mapping[str, int], done: bool
) -> Menu:
    """The menu as it stands; ``candidate`` makes the candidate of a row."""
    titles = state.titles()
    dishes = [
        Dish(candidate(row), state.outcomes[row], tuple(map(float, state.values[row])), tuple(titles.get(row, ())))
        for row in sorted(set(state.front()) | set(titles), key=lambda row: tuple(state.values[row]))
    ]
    nearest = sorted(state.outcomes.items(), key=lambda item: (-item[1].share, item[0]))[:LEAST_BAD]
    least_bad = [Dish(candidate(row), outcome, ()) for row, outcome in nearest if not state.passing]
    second = 1 if state.values.shape[1] > 1 else 0
    points = tuple(
        (float(state.values[row, 0]), float(state.values[row, second]), outcome.passes)
        for row, outcome in sorted(state.outcomes.items())
    )
    return msgspec.structs.replace(
        menu, judged=len(state.outcomes), open=0 if done else int(state.open.sum()), complete=done,
        excluded=dict(excluded), dishes=tuple(dishes), least_bad=tuple(least_bad), points=points,
    )  # fmt: skip


def waves(state: State) -> Iterator[list[int]]:
    """Open combinations to judge next: the best in each thing that matters in turn, as many as the workers take."""
    orders = [np.argsort(column, kind="stable") for column in state.values.T]
    at = [0] * len(orders)
    size = WAVE
    while state.open.any():
        wave: dict[int, None] = {}
        while len(wave) < size:
            before = len(wave)
            for which, order in enumerate(orders):
                while at[which] < len(order) and not state.open[order[at[which]]]:
                    at[which] += 1
                place = at[which]
                while place < len(order) and (not state.open[order[place]] or int(order[place]) in wave):
                    place += 1
                if place < len(order):
                    wave[int(order[place])] = None
            if len(wave) == before:
                break
        yield list(wave)
        size = min(2 * size, WAVE_MOST)


def reason(outcome: Outcome) -> str:
    """The check that a judged one fails, without numbers."""
    if outcome.error:
        return "cannot be evaluated"
    words = [word for word in outcome.governs.split(",")[0].split(" ") if not word.replace(".", "").isdigit()]
    return " ".join(words).lower()
