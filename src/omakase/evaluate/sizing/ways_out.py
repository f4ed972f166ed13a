"""Changes that make a failing candidate pass, and changes that make a passing one lighter: for each lever the smallest
change that passes.

Every proposal is judged by the full evaluator; the quick one only decides what to judge first.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping, Sequence
from itertools import groupby

import msgspec

from omakase.core.errors import OmakaseError
from omakase.core.materials.material import Material
from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.results.engine import Evaluator
from omakase.evaluate.results.outcome import Outcome, outcome
from omakase.evaluate.results.quick import slow
from omakase.evaluate.sizing.lever import Lever, Option
from omakase.evaluate.sizing.levers import levers
from omakase.evaluate.sizing.workers import Workers
from omakase.project import edits, translate
from omakase.project.commands import ArrangeCandidates, EditBrief, replace
from omakase.project.model import Brief, Candidate
from omakase.units import UnitSystem

DOUBT = 0.08  # quick shares of the limit this near below 1 are judged in full all the same
LEAST_DOUBT = 0.01  # once a full evaluation has confirmed the quick answer
FAR = 0.2  # the same for the few that come nearest when nothing else passes
NEAREST = 2
TRIES = 5  # full evaluations of one lever before it counts as blocked
LOOKS = 12  # places of the first look over an ordered lever
PAIRED, MOST_PAIRS = 3, 6  # levers from whose nearest settings others are tried; ways of two changes offered
FIRST_PAIR = 1000  # place of the first way of two changes, after every single lever
BETTER = 1.005  # times the least reserve, from which turning over is offered
HOPE = 0.85  # between two failing places a better one is looked for when one of them comes this near


class Way(msgspec.Struct, frozen=True):
    """What one lever can do alone: ``option`` passes with ``outcome``; or it is None and ``blocked`` says why."""

    lever: str
    text: str
    option: Option | None = None
    outcome: Outcome | None = None
    blocked: str = ""
    place: int = 0  # of its lever among all; pairs come from FIRST_PAIR on
    nearest: Option | None = None  # the setting that comes nearest, where none passes
    share: float = 0.0  # of what is required that it reaches

    @property
    def is_pair(self) -> bool:
        return self.place >= FIRST_PAIR


class Cancelled(Exception):  # noqa: N818 - it is no error
    """The search was told to stop."""


class LeverSearch:
    """Searches the levers of one candidate.  ``cancelled`` is asked before each evaluation."""

    def __init__(
        self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material], evaluator: Evaluator,
        cancelled: Callable[[], bool] = lambda: False,
    ) -> None:  # fmt: skip
        self.brief, self.candidate, self.materials = brief, candidate, materials
        self._evaluator, self._cancelled = evaluator, cancelled
        self._quick: dict[int, Outcome] = {}
        self._full: dict[int, Outcome] = {}
        self.count = 0

    def present(self) -> Outcome:
        """The candidate as it is."""
        return self._judge(Option("", self.candidate), False)

    def search(self, lever: Lever, present: Outcome) -> Way:
        """The smallest setting of a lever that passes; when the candidate passes already, the furthest or lightest."""
        self._quick, self._full = {}, {}
        if lever.wanted == "steps":
            return self._last_down(lever) if present.passes else self._first_up(lever)
        if lever.wanted == "first":
            return self._first(lever)
        if lever.wanted == "better":
            return self._better(lever, present)
        return self._lightest(lever, present)

    def _judge(self, option: Option, quick: bool) -> Outcome:
        if self._cancelled():
            raise Cancelled
        self.count += 1
        brief = option.brief or self.brief
        evaluate = self._evaluator.hint if quick else self._evaluator.evaluate
        return outcome(brief, evaluate(brief, option.candidate, self.materials), self.materials)

    def _at(self, lever: Lever, index: int, quick: bool = False) -> Outcome:
        known = self._quick if quick else self._full
        if index not in known:
            known[index] = self._judge(lever.options[index], quick)
        return known[index]

    # --- ordered levers -------------------------------------------------------------------------------------

    def _first_up(self, lever: Lever) -> Way:
        """The first step that passes; thicker need not be better all the way, so the range is looked over first."""
        options = range(len(lever.options))
        looked = _spread(len(options))
        for index in looked:
            self._at(lever, index, True)
        self._look_between(lever)
        passing = [i for i in sorted(self._quick) if self._quick[i].passes]
        if not passing:
            return self._nearest(lever)
        start = passing[0]
        low = max((i for i in self._quick if i < start), default=-1)
        while start - low > 1:
            middle = (low + start) // 2
            if self._at(lever, middle, True).passes:
                start = middle
            else:
                low = middle
        return self._settle(lever, start, 1)

    def _settle(self, lever: Lever, start: int, onward: int) -> Way:
        """The full evaluator's own border near the quick one's: ``onward`` leads deeper into what passes."""
        index = start
        while 0 <= index < len(lever.options) and not self._at(lever, index).passes:
            index += onward
            if abs(index - start) > TRIES:
                return self._nearest(lever)
        if not 0 <= index < len(lever.options):
            return self._nearest(lever)
        while 0 <= index - onward < len(lever.options) and self._at(lever, index - onward).passes:
            index -= onward
        return Way(lever.name, lever.options[index].text, lever.options[index], self._at(lever, index))

    def _last_down(self, lever: Lever) -> Way:
        """The last step before the first that fails."""
        looked = _spread(len(lever.options))
        low, high = -1, len(lever.options)
        for index in looked:
            if not self._at(lever, index, True).passes:
                high = index
                break
            low = index
        while high - low > 1:
            middle = (low + high) // 2
            if self._at(lever, middle, True).passes:
                low = middle
            else:
                high = middle
        return self._settle(lever, max(low, 0), -1)

    def _look_between(self, lever: Lever) -> None:
        """Looks closer where a range that fails everywhere is close to passing: it may pass between two looks."""
        for _ in range(3):
            known = sorted(self._quick)
            if any(self._quick[i].passes for i in known) or not known:
                return
            best = max(known, key=lambda i: self._quick[i].share)
            if self._quick[best].share < HOPE:
                return
            place = known.index(best)
            for neighbour in known[max(place - 1, 0) : place] + known[place + 1 : place + 2]:
                self._at(lever, (best + neighbour) // 2, True)

    def _first(self, lever: Lever) -> Way:
        for index, option in enumerate(lever.options):
            if self._at(lever, index).passes:
                return Way(lever.name, option.text, option, self._at(lever, index))
        return self._nearest(lever)

    def _better(self, lever: Lever, present: Outcome) -> Way:
        """What a change does that weighs nothing: taken where the least reserve is larger by more than the rounding."""
        option, outcome = lever.options[0], self._at(lever, 0)
        change = f"least reserve {present.share:.2f} to {outcome.share:.2f} of what is required"
        if outcome.passes and outcome.share > BETTER * present.share:
            return Way(lever.name, f"{option.text}: {change}", option, outcome)
        return Way(lever.name, option.text, blocked=f"no better: {change}", nearest=option, share=outcome.share)

    # --- levers without order -------------------------------------------------------------------------------

    def _lightest(self, lever: Lever, present: Outcome) -> Way:
        """The lightest setting that passes; of equal ones that with the most reserve.

        Settings are looked at from the lightest on, so that those heavier than the first that passes are left alone.
        """
        masses = {index: round(self._mass(option.candidate), 6) for index, option in enumerate(lever.options)}
        if present.passes:
            masses = {index: mass for index, mass in masses.items() if mass < present.mass * (1.0 - 1e-6)}
        tries, doubt, far, hoped = 0, DOUBT, FAR, False
        for _, group in groupby(sorted(masses, key=masses.__getitem__), key=masses.__getitem__):
            looked = list(group)
            for index in looked:
                self._at(lever, index, True)
            if tries > TRIES:
                continue  # all are looked at, to find what comes nearest
            hopeful = [i for i in looked if self._quick[i].share >= 1.0 - DOUBT]
            hoped = hoped or bool(hopeful)
            for index in sorted(hopeful, key=lambda i: -self._quick[i].share):
                if self._quick[index].share < 1.0 - doubt:
                    continue
                outcome = self._at(lever, index)
                if outcome.passes:
                    return Way(lever.name, lever.options[index].text, lever.options[index], outcome)
                # how far the quick answer was off here tells how far it is off for settings like it
                off = abs(outcome.share / self._quick[index].share - 1.0)
                doubt = far = min(doubt, max(LEAST_DOUBT, 3.0 * off))
                tries += not self._quick[index].passes
                if tries > TRIES:
                    break
        if not present.passes:
            rest = [i for i in self._quick if i not in self._full and self._quick[i].share >= 1.0 - far]
            for index in sorted(rest, key=lambda i: -self._quick[i].share)[:NEAREST]:
                if self._at(lever, index).passes:
                    return Way(lever.name, lever.options[index].text, lever.options[index], self._at(lever, index))
        if present.passes and not hoped:
            return Way(lever.name, lever.title, blocked=self._lighter_ones(present))
        return self._nearest(lever)

    def _mass(self, candidate: Candidate) -> float:
        """Mass of the member, kg, without solving it; infinite for a layup that cannot be."""
        try:
            stack = translate.stack(candidate, self.materials)
            areas = kind_of(self.brief).layer_areas(self.brief, candidate)
        except OmakaseError:
            return math.inf
        if len(set(areas)) == 1:
            return sum(stack.areal_mass().values()) * areas[0]
        layers = zip(stack.layer_densities(), stack.layers, areas, strict=True)
        return float(sum(density * layer.thickness * area for density, layer, area in layers))

    def _lighter_ones(self, present: Outcome) -> str:
        """What stops the lighter settings of a lever, or that there is none."""
        lighter = [outcome for outcome in self._quick.values() if outcome.weight[0] < present.weight[0]]
        return max(lighter, key=lambda outcome: outcome.share).stops if lighter else "none is lighter"

    def _nearest(self, lever: Lever) -> Way:
        """Nothing passes: what stops the setting that comes nearest."""
        known = {**self._quick, **self._full}
        if not known:
            return Way(lever.name, lever.title, blocked="none is lighter")
        best = max(known, key=lambda i: known[i].share)
        # far from passing the quick answer says as well what stops it
        outcome = known[best] if known[best].share < 1.0 - FAR else self._at(lever, best)
        remark = f"at best {lever.options[best].text}: {outcome.stops}"
        if lever.wanted == "steps":
            beyond = [known[i] for i in sorted(known) if i > best and known[i].wall != outcome.wall]
            if beyond:
                remark += f"; beyond it {beyond[0].stops}"
        return Way(lever.name, lever.title, blocked=remark, nearest=lever.options[best], share=outcome.share)


def _spread(count: int) -> list[int]:
    """Up to LOOKS places from first to last."""
    return sorted({round((count - 1) * k / (LOOKS - 1)) for k in range(LOOKS)}) if count else []


class WaysOut:
    """All ways of one candidate, here or on worker processes; ``present`` is known once the first way is."""

    def __init__(
        self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material], units: UnitSystem,
        evaluator: Evaluator, cancelled: Callable[[], bool] = lambda: False,
    ) -> None:  # fmt: skip
        self.brief, self.candidate, self.materials, self.units = brief, candidate, materials, units
        self._evaluator, self._cancelled = evaluator, cancelled
        self.present: Outcome | None = None

    def find(self, workers: Workers | None = None) -> Iterator[Way]:
        """The ways as they are found, with ``workers`` in no fixed order; ends early when cancelled."""
        try:
            search = LeverSearch(self.brief, self.candidate, self.materials, self._evaluator, self._cancelled)
            self.present = search.present()
            if self.present.error:
                return
            tried = list(levers(self.brief, self.candidate, self.materials, self.units, self.present.passes))
            if not tried:
                return
            self._evaluator.prepare(self.brief, self.candidate, self.materials)
            if workers is None:
                for place, lever in enumerate(tried):
                    yield msgspec.structs.replace(search.search(lever, self.present), place=place)
                return
            reduced = self._evaluator.prepared_shapes(self.brief, self.candidate)
            common = (self.brief, self.candidate, dict(self.materials), self.present, reduced)
            # the quickest at once, to have something to see; of the others long ones first, or one would be waited for
            (place, first), *rest = sorted(enumerate(tried), key=lambda task: _cost(task[1]))
            rest.reverse()
            yield msgspec.structs.replace(search.search(first, self.present), place=place)
            for index, way in workers.run(search_in_worker, common, [lever for _, lever in rest], self._cancelled):
                yield msgspec.structs.replace(way, place=rest[index][0])
        except Cancelled:
            return

    def pairs(self, ways: Sequence[Way], workers: Workers | None = None) -> Iterator[Way]:
        """Ways of two changes at once, lightest first, where no single one of ``ways`` passes; ends early if cancelled.

        From the nearest setting of each of the levers that come nearest, all other levers are searched but those that
        give a panel another form: they take long to judge, and the form study asks them.
        """
        present = self.present
        if present is None or present.passes:
            return
        if any(way.option is not None and way.option.brief is None for way in ways):
            return
        near = [way for way in ways if way.nearest is not None and way.nearest.brief is None]
        near = sorted(near, key=lambda way: -way.share)[:PAIRED]
        tasks = []
        for k, way in enumerate(near):
            assert way.nearest is not None
            # an id of its own: prepared shapes are kept by it
            base = replace(way.nearest, candidate=replace(way.nearest.candidate, id=f"{self.candidate.id}+{k}"))
            done = {way.lever for way in near[: k + 1]}
            for lever in levers(self.brief, base.candidate, self.materials, self.units, False):
                if lever.name in done or (lever.options and slow(self.brief, lever.options[0].candidate)):
                    continue
                if all(option.brief is None for option in lever.options):
                    tasks.append((base, lever))
        common = (self.brief, dict(self.materials), present)
        paired: list[Way] = []
        try:
            if workers is None:
                paired = [_search_pair(self._evaluator, common, task, self._cancelled) for task in tasks]
            else:
                paired = [way for _, way in workers.run(_search_pair, common, tasks, self._cancelled)]
        except Cancelled:
            return
        passing = [way for way in paired if way.outcome is not None]
        passing.sort(key=lambda way: way.outcome.weight[0] if way.outcome is not None else math.inf)
        for place, way in enumerate(passing[:MOST_PAIRS]):
            yield msgspec.structs.replace(way, place=FIRST_PAIR + place)


def _search_pair(
    evaluator: Evaluator, common: tuple, task: tuple[Option, Lever], cancelled: Callable[[], bool] = lambda: False
) -> Way:
    """One lever searched from a candidate that another one has changed already."""
    brief, materials, present = common
    first, lever = task
    evaluator.prepare(brief, first.candidate, materials)
    way = LeverSearch(brief, first.candidate, materials, evaluator, cancelled).search(lever, present)
    if way.option is None:
        return way
    text = f"{first.text} and {way.text}"
    return msgspec.structs.replace(way, text=text, option=msgspec.structs.replace(way.option, text=text))


def _cost(lever: Lever) -> int:
    """How long a lever takes to search, about, in quick evaluations: a full one of another brief is ten of them."""
    if lever.wanted == "steps":
        return min(len(lever.options), LOOKS) + 20  # and some full ones around the border
    return 10 * len(lever.options) if lever.wanted == "first" else len(lever.options)


def search_in_worker(evaluator: Evaluator, common: tuple, lever: Lever) -> Way:
    """One lever searched; ``common``: brief, candidate, materials, what is there, and prepared shapes or None."""
    brief, candidate, materials, present, reduced = common
    if reduced is not None and not evaluator.prepared(brief, candidate):
        evaluator.take_shapes(brief, candidate, reduced)
    return LeverSearch(brief, candidate, materials, evaluator).search(lever, present)


def as_command(way: Way, brief: Brief, candidate: Candidate) -> tuple[ArrangeCandidates | EditBrief, str]:
    """(command, id of the candidate to choose) that puts a way beside the candidate, or changes the brief."""
    assert way.option is not None
    if way.option.brief is not None:
        changed = replace(
            way.option.brief, limits=brief.limits
        )  # it was searched with those against the baseline in numbers
        return EditBrief(brief, changed, way.text), candidate.id
    return as_candidate(way.option.candidate, way.text, brief, candidate)


def all_beside(ways: Sequence[Way], brief: Brief, candidate: Candidate) -> ArrangeCandidates:
    """The command that puts all ways that pass beside the candidate they came from."""
    now = brief
    for way in reversed(ways):  # each is put right beside it
        if way.option is not None and way.option.brief is None:
            command, _ = as_candidate(way.option.candidate, way.text, now, candidate)
            now = replace(now, candidates=command.new)
    return edits.arrange(brief, now.candidates, "add the forms")


def as_candidate(new: Candidate, text: str, brief: Brief, beside: Candidate) -> tuple[ArrangeCandidates, str]:
    """(command, id) that puts a proposed candidate beside the one it came from, its origin noted."""
    command, identity = edits.duplicate_candidate(brief, beside.id)
    name = f"{beside.name}, {text}"[:80]
    new = replace(new, id=identity, name=name, origin=f"{beside.name}: {text}", accepted=())
    candidates = tuple(new if candidate.id == identity else candidate for candidate in command.new)
    return replace(command, new=candidates, text=f"add '{text}'"), identity
