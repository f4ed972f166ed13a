"""The menu: all sandwiches that a few choices allow, and the best trade-offs among those that pass.

Combinations are enumerated, or drawn at random where there are too many.  The rules and the screen reject; what is left
is judged by the full evaluator in the order of what matters; one that is worse in everything that matters than a
verified one is not judged.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import Any

import msgspec
import numpy as np

from omakase.core.errors import OmakaseError
from omakase.core.materials.material import Material
from omakase.core.members.reduced_panel import ReducedPanel
from omakase.core.screen import RULES, Batch, Cores, Faces, Screen
from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.results.engine import Evaluator
from omakase.evaluate.results.outcome import Outcome, outcome
from omakase.evaluate.results.quick import live
from omakase.evaluate.sizing.combinations import CHUNK, MATTERS, MenuChoices, Space, widened
from omakase.evaluate.sizing.menu_state import HEAVIER, LEAST_BAD, Dish, Menu, State, reason, served, waves
from omakase.evaluate.sizing.wall_menu import WallMenu
from omakase.evaluate.sizing.workers import Workers
from omakase.project import edits, translate
from omakase.project.commands import ArrangeCandidates, replace
from omakase.project.model import Brief, Candidate, new_id

FEW = 8 * CHUNK  # combinations that are sooner looked at here than by worker processes
PER_TASK = 6
DOUBT = 0.08  # quick shares this near below 1 are judged in full
WIDER_JUDGED = 400  # evaluations of the wider search without one that passes, after which it ends
ROBUST = 24  # judged in full for the most robust


def as_candidate(dish: Dish, brief: Brief, after: str) -> tuple[ArrangeCandidates, str]:
    """(command, id) that puts a dish into the line-up beside the candidate ``after``, its origin noted."""
    identity = new_id("c", {candidate.id for candidate in brief.candidates})
    title = f"{dish.titles[0]} of the menu" if dish.titles else "of the menu"
    new = replace(dish.candidate, id=identity, name=title.capitalize(), origin=f"menu: {', '.join(dish.titles)}")
    return edits.insert_candidate(brief, new, after, f"add {title}"), identity


class MenuSearch:
    """One search.  ``cancelled`` is asked at every step; the menu so far stays what it is."""

    def __init__(
        self,
        brief: Brief,
        choices: MenuChoices,
        materials: Mapping[str, Material],
        evaluator: Evaluator,
        cancelled: Callable[[], bool] = lambda: False,
    ) -> None:
        self.brief, self.choices, self.materials = brief, choices, materials
        self._evaluator, self._cancelled = evaluator, cancelled

    def run(self, workers: Workers | None = None) -> Iterator[Menu]:
        """The menu as it grows; the last one is complete unless cancelled.  Raises OmakaseError.

        Where nothing passes it is searched once more with all that ``widened`` allows, and says so.
        """
        if "menu" in kind_of(self.brief).missing:
            raise OmakaseError(kind_of(self.brief).missing["menu"])
        if kind_of(self.brief).can_be_drawn:  # members of several walls
            yield from WallMenu(self.brief, self.choices, self.materials, self._evaluator, self._cancelled).run(workers)
            return
        menu = Menu(0)
        for menu in self._run(workers):
            yield menu
        wider, remark = widened(self.choices, self.materials)
        if self._cancelled() or not menu.complete or menu.dishes or wider == self.choices:
            return
        asked, self.choices = self.choices, wider
        try:
            for menu in self._run(workers):
                yield msgspec.structs.replace(menu, note=remark)
                if menu.judged > WIDER_JUDGED and not menu.dishes:
                    return  # the screen sees nothing of what they fail by: this would go on for minutes
        finally:
            self.choices = asked

    def _run(self, workers: Workers | None) -> Iterator[Menu]:
        space = Space(self.brief, self.choices, self.materials)
        materials = dict(self.materials)
        if workers is None:
            screen, shapes = (_build(self._evaluator, (self.brief, space, materials), what) for what in (True, False))
        else:  # there, so that the window keeps this process to itself
            built = dict(workers.run(_build, (self.brief, space, materials), [True, False], self._cancelled))
            if len(built) < 2:
                return
            screen, shapes = built[0], built[1]
        menu = Menu(space.total, enumerated=space.enumerated)
        yield menu
        kept: list[Batch] = []
        shares: list[np.ndarray] = []
        looked = 0
        for k, (batch, (share, rule)) in enumerate(self._look(space, screen, workers)):
            if self._cancelled():
                return
            for which, number in zip(*np.unique(rule[rule >= 0], return_counts=True), strict=True):
                space.count(RULES[int(which)].replace("_", " "), int(number))
            left = np.flatnonzero(rule < 0)
            kept.append(batch.take(left))
            shares.append(share[left])
            looked += len(batch)
            if k % 16 == 15:
                yield msgspec.structs.replace(menu, looked=looked, excluded=dict(space.excluded))
        if self._cancelled():
            return
        every = _joined(kept)
        share = np.concatenate(shares) if shares else np.zeros(0)
        menu = msgspec.structs.replace(menu, looked=looked, left=len(every), excluded=dict(space.excluded))
        yield menu
        if not len(every):
            yield from self._nothing(space, screen, menu)
            return
        judge = _Judge(self, space, shapes, workers)
        try:
            yield from self._judge(space, screen, every, share, menu, judge)
        finally:
            judge.close()

    def _look(
        self, space: Space, screen: Screen, workers: Workers | None
    ) -> Iterator[tuple[Batch, tuple[np.ndarray, np.ndarray]]]:
        """Each chunk of the combinations with what the screen says of it, in order."""
        if workers is None or space.allowed < FEW:
            for batch in space.batches():
                yield batch, screen.look(batch)
            return
        batches = space.batches()
        with workers.session(screen) as session:
            while chunk := list(itertools.islice(batches, 4 * workers.count)):
                looks = dict(session.run(_look_at, chunk, self._cancelled))
                if len(looks) < len(chunk):
                    return  # cancelled
                for i, batch in enumerate(chunk):
                    yield batch, looks[i]

    # --- parts of a search ----------------------------------------------------------------------------------

    def _judge(
        self, space: Space, screen: Screen, every: Batch, share: np.ndarray, menu: Menu, judge: _Judge
    ) -> Iterator[Menu]:
        values = np.stack([space.value(matter, screen, every) for matter in self.choices.matters], axis=1)
        best = np.stack([space.value(matter, screen, every) for matter in MATTERS], axis=1)
        state = State(values, best)
        for rows in waves(state):
            if self._cancelled():
                return
            for row, result in judge.all(rows, every):
                state.note(row, result)
                if not result.passes:
                    space.count(f"judged: {reason(result)}", 1)
            yield self._menu(space, every, state, menu, False)
            if self._cancelled():
                return
        # the most robust among those not much heavier than the lightest
        if state.passing:
            lightest = min(best[row, 0] for row in state.passing)
            near = np.flatnonzero((best[:, 0] <= HEAVIER * lightest) & ~state.judged)
            near = near[np.argsort(-share[near], kind="stable")][:ROBUST]
            for row, result in judge.all(near.tolist(), every):
                state.note(row, result)
            yield self._menu(space, every, state, menu, True)
        else:
            yield self._menu(space, every, state, menu, True)

    def _menu(self, space: Space, every: Batch, state: State, menu: Menu, done: bool) -> Menu:
        return served(menu, state, lambda row: _candidate(space, every, row), space.excluded, done)

    def _nothing(self, space: Space, screen: Screen, menu: Menu) -> Iterator[Menu]:
        """The screen leaves nothing: those that come nearest by it, judged in full, with what blocks them."""
        nearest: list[tuple[float, int, Candidate]] = []
        for k, batch in enumerate(space.batches()):
            if self._cancelled():
                return
            share, _ = screen.look(batch)
            for row in np.argsort(-share)[:LEAST_BAD]:
                nearest.append((float(-share[row]), k, _candidate(space, batch, int(row))))
        nearest.sort(key=lambda item: item[:2])
        dishes = []
        for _, _, candidate in nearest[:LEAST_BAD]:
            result = self._evaluator.evaluate(self.brief, candidate, self.materials)
            dishes.append(Dish(candidate, outcome(self.brief, result, self.materials), ()))
        dishes.sort(key=lambda dish: -dish.outcome.share)
        yield msgspec.structs.replace(menu, complete=True, open=0, least_bad=tuple(dishes))


class _Judge:
    """Judges combinations: quickly, and in full what may pass; on worker processes if there are any."""

    def __init__(self, search: MenuSearch, space: Space, shapes: ReducedPanel, workers: Workers | None) -> None:
        self._space, self.workers = space, workers
        self._common = (search.brief, dict(search.materials), shapes)
        self._evaluator, self._cancelled = search._evaluator, search._cancelled
        self._session = workers.session(self._common) if workers is not None else None

    def close(self) -> None:
        """Releases what the workers share."""
        if self._session is not None:
            self._session.close()

    def all(self, rows: Sequence[int], every: Batch) -> list[tuple[int, Outcome]]:
        """(row, outcome) in the order asked, so that the same search gives the same result."""
        candidates = [_candidate(self._space, every, row) for row in rows]
        if self._session is None:
            outcomes = _judge_some(self._evaluator, self._common, candidates)
            return list(zip(rows, outcomes, strict=True))
        tasks = [candidates[i : i + PER_TASK] for i in range(0, len(candidates), PER_TASK)]
        results = dict(self._session.run(_judge_some, tasks, self._cancelled))
        return [(rows[PER_TASK * i + k], judged) for i in sorted(results) for k, judged in enumerate(results[i])]


def _build(_evaluator: Evaluator, common: tuple[Brief, Space, dict[str, Material]], first: bool) -> Any:
    """The screen, or the shapes for quick answers, of a space of combinations."""
    brief, space, materials = common
    (panel, cases), span = translate.stand_in(brief), space.span()
    if not first:
        shapes = ReducedPanel(panel, cases, span, live(brief), 2)
        shapes.respond(span[0], cases)
        return shapes
    settings = translate.settings(brief)
    top, bottom = (
        Faces(
            [tuple(translate.layer(layer, materials, brief.surroundings) for layer in face) for face in faces],
            settings.factor_of_safety,
        )
        for faces in (space.top, space.bottom)
    )
    cores = Cores([materials[name] for name in space.choices.cores], [0.0] * len(space.choices.cores))
    limits = translate.limits(brief)
    if limits.mass is not None:  # of the panel that is asked for
        limits = msgspec.structs.replace(limits, mass=limits.mass * panel.length * panel.width / space.area)
    return Screen(panel, cases, limits, settings, span[:8], (top, bottom), cores)


def _look_at(_evaluator: Evaluator, screen: Screen, batch: Batch) -> tuple[np.ndarray, np.ndarray]:
    return screen.look(batch)


def _judge_some(evaluator: Evaluator, common: tuple, candidates: list[Candidate]) -> list[Outcome]:
    brief, materials, shapes = common
    outcomes = []
    for candidate in candidates:
        if not evaluator.prepared(brief, candidate):
            evaluator.take_shapes(brief, candidate, shapes)
        judged = outcome(brief, evaluator.hint(brief, candidate, materials), materials)
        if judged.share >= 1.0 - DOUBT:
            judged = outcome(brief, evaluator.evaluate(brief, candidate, materials), materials)
        outcomes.append(judged)
    return outcomes


def _candidate(space: Space, every: Batch, row: int) -> Candidate:
    return space.candidate(
        int(every.face_a[row]), int(every.face_b[row]), int(every.core[row]), float(every.thickness[row])
    )


def _joined(batches: list[Batch]) -> Batch:
    if not batches:
        empty = np.zeros(0, dtype=int)
        return Batch(empty, empty, empty, np.zeros(0))
    names = ("face_a", "face_b", "core", "thickness")
    return Batch(*(np.concatenate([getattr(batch, name) for batch in batches]) for name in names))
