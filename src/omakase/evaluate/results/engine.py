"""Evaluates candidates, remembering responses so that a change of limits or of one candidate costs only itself."""

from __future__ import annotations

import copy
import threading
import time
from collections import OrderedDict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import lru_cache

import msgspec
import numpy as np

from omakase.core.checks.wall_buckling import EarlierTogether, together_by_case
from omakase.core.errors import OmakaseError
from omakase.core.kept import release
from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material
from omakase.core.members.field import Response
from omakase.core.members.panel import PanelResponse
from omakase.core.members.panel_given import FULL, Accuracy
from omakase.core.members.reduced_panel import ReducedPanel
from omakase.core.members.spar import SparResponse
from omakase.evaluate.details.judging import loads_taken
from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.results.inputs import Inputs, materials_used, response_inputs
from omakase.evaluate.results.judging import judge, on_the_load
from omakase.evaluate.results.measured import measured_response
from omakase.evaluate.results.quick import live, neighbours, quick_order, quickly_reduced, stretched_order
from omakase.project import translate
from omakase.project.detail_translate import Cases
from omakase.project.model import Brief, Candidate, Surroundings, without_candidates
from omakase.project.validation import brief_problems, field_name, is_fatal

CACHE_SIZE = 24  # responses, some 1 to 8 MB each
PREPARED = 3  # candidates whose shapes are kept, some 30 MB each
LONG = 0.3  # s of a full answer, from which a coarser one is worth its time


def _stacks(candidates: Iterable[Candidate], materials: Mapping[str, Material], where: Surroundings) -> Iterator[Stack]:
    """Stacks of those that have one: without a ply a face may be gone."""
    for candidate in candidates:
        try:
            yield translate.stack(candidate, materials, where)
        except OmakaseError:
            continue


def _incomplete(brief: Brief) -> str:
    """What keeps a brief from being evaluated, or nothing; its candidates have no say in that."""
    return _lacking(without_candidates(brief))


@lru_cache(maxsize=64)
def _lacking(brief: Brief) -> str:
    fatal = [f"{field_name(brief, field)}: {message}" for field, message in brief_problems(brief) if is_fatal(field)]
    return "the brief is not complete: " + "; ".join(fatal) if fatal else ""


def _shapes_key(brief: Brief, candidate: Candidate) -> Inputs:
    return brief.id, brief.member, candidate.id


def _blurred(result: CandidateResult) -> bool:
    """Whether only a grid that follows its edges says anything of a panel."""
    return getattr(result.response, "edges_blurred", False)


class Evaluator:
    """Evaluates candidates of briefs; safe to call from several threads."""

    def __init__(self) -> None:
        self._responses: OrderedDict[Inputs, tuple[Stack, Response]] = OrderedDict()
        self._reduced: OrderedDict[Inputs, ReducedPanel] = OrderedDict()
        self._on_load: OrderedDict[Inputs, PanelResponse] = OrderedDict()
        self._taken: dict[tuple[str, str], dict[str, Cases]] = {}  # by brief and candidate
        self._together: dict[tuple[str, str], tuple[tuple[str, ...], dict[str, dict[int, EarlierTogether]]]] = {}
        self._seconds: dict[tuple[str, str], float] = {}  # that the last full answer took, by brief and candidate
        self._lock = threading.Lock()

    def evaluate(
        self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material], accuracy: Accuracy = FULL,
        carried: bool = False,
    ) -> CandidateResult:  # fmt: skip
        """Result of one candidate; errors of the candidate or brief come back as text, not as exceptions.
        ``carried`` : of less than full order, with what the last full answer says that it does not look at."""
        problem = _incomplete(brief)
        if problem:
            return CandidateResult(candidate, error=problem)
        timed = (
            accuracy == FULL and kind_of(brief).quicker and not self.has_response(brief, candidate, materials, accuracy)
        )
        asked = time.perf_counter()
        try:
            stack, response = self._respond(brief, candidate, materials, accuracy)
        except OmakaseError as error:
            return CandidateResult(candidate, error=str(error))
        response = self._carry(brief, candidate, response, carried)
        try:
            return self._judged(brief, candidate, stack, response, materials, accuracy)
        finally:
            if isinstance(response, PanelResponse):
                response.rest()
            if timed:
                self._seconds[brief.id, candidate.id] = time.perf_counter() - asked

    def _carry(self, brief: Brief, candidate: Candidate, response: Response, carried: bool) -> Response:
        """Notes how walls buckle together, or has a quick answer take that over until the next full one is there: a
        copy, since the one that is kept is for everybody."""
        if not isinstance(response, SparResponse):
            return response
        key, walls = (brief.id, candidate.id), tuple(chain.wall for chain in response.chains)
        if response.walls_together:
            self._together[key] = walls, together_by_case(response)
        elif carried and key in self._together and self._together[key][0] == walls:
            response = copy.copy(response)
            response.derived, response.together_before = {}, self._together[key][1]
        return response

    def _judged(
        self, brief: Brief, candidate: Candidate, stack: Stack, response: Response, materials: Mapping[str, Material],
        accuracy: Accuracy,
    ) -> CandidateResult:  # fmt: skip
        """A response judged, of what moves far with reserves found on the load."""
        taken = self._taken.get((brief.id, candidate.id), {})
        result = judge(brief, candidate, stack, response, accuracy, materials, taken)
        if candidate.details and accuracy == FULL:
            self._taken[brief.id, candidate.id] = loads_taken(candidate, result.details)
        if not accuracy.large or not isinstance(response, PanelResponse):
            return result
        key = (*self._key(brief, candidate, materials, accuracy), brief.judgement, brief.conditions)
        with self._lock:
            found = self._on_load.get(key)
        if found is None:
            found = on_the_load(brief, candidate, result, materials)
            with self._lock:
                self._on_load[key] = found
                while len(self._on_load) > CACHE_SIZE:
                    self._on_load.popitem(last=False)
        return result if found is response else judge(brief, candidate, stack, found, accuracy, materials)

    # --- quickly, for what is being edited ------------------------------------------------------------------

    def prepare(self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material]) -> None:
        """Makes the few shapes from which ``quick`` answers for edits to a candidate; a third of a second."""
        if not quickly_reduced(brief, candidate) or _incomplete(brief) or self.prepared(brief, candidate):
            return
        try:
            where = brief.surroundings
            stacks = [
                translate.stack(candidate, materials, where),
                *_stacks(neighbours(candidate), materials, where),
            ]
            cases = tuple(translate.load_case(case) for case in brief.load_cases)
            reduced = ReducedPanel(translate.panel(brief), cases, stacks, live(brief))
            reduced.sample(stacks, cases)
        except (OmakaseError, np.linalg.LinAlgError):
            return  # the full evaluation says why
        self.take_shapes(brief, candidate, reduced)

    def prepared(self, brief: Brief, candidate: Candidate) -> bool:
        """Whether ``quick`` has what it needs for a candidate: shapes, or what responds quickly as it is."""
        if not quickly_reduced(brief, candidate):
            return True
        with self._lock:
            return _shapes_key(brief, candidate) in self._reduced

    def forget(self, brief: Brief, candidate: Candidate) -> None:
        """Drops the shapes of a candidate that has moved away from them."""
        with self._lock:
            self._reduced.pop(_shapes_key(brief, candidate), None)

    def forget_all(self) -> None:
        """Drops all prepared shapes, and what quick answers take over from full ones: names may mean others now."""
        with self._lock:
            self._reduced.clear()
        for known in (self._taken, self._together, self._seconds):
            known.clear()

    def turn_to(self, brief: Brief) -> None:
        """Releases what only edits in other briefs need: prepared shapes, some 20 MB each, responses, grids, and what
        checks keep."""
        with self._lock:
            for key in [key for key in self._reduced if key[0] != brief.id]:
                del self._reduced[key]
            for responses in (self._responses, self._on_load):
                for key in [key for key in responses if key[0] != brief.member]:
                    del responses[key]
        release()

    def prepared_shapes(self, brief: Brief, candidate: Candidate) -> ReducedPanel | None:
        """The shapes of a candidate, to be taken by an evaluator elsewhere; None if there are none."""
        with self._lock:
            return self._reduced.get(_shapes_key(brief, candidate))

    def take_shapes(self, brief: Brief, candidate: Candidate, shapes: ReducedPanel) -> None:
        """Takes shapes that another evaluator has prepared for a candidate."""
        with self._lock:
            self._reduced[_shapes_key(brief, candidate)] = shapes
            while len(self._reduced) > PREPARED:
                self._reduced.popitem(last=False)

    def quick(self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material]) -> CandidateResult:
        """Result to show until the full one is there: from the prepared shapes, else of the quick order."""
        return self.quick_all(brief, [candidate], materials)[0]

    def estimate(self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material]) -> CandidateResult:
        """What searches go by: the quick result, of a panel that stretches the coarse answer that counts it."""
        quick = self.quick(brief, candidate, materials)
        if not quick.rough:
            return quick
        return self.evaluate(brief, candidate, materials, FULL if _blurred(quick) else stretched_order(brief))

    def first(self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material]) -> CandidateResult | None:
        """A coarse answer that counts stretching, to be shown while the full one is on its way; None where that took
        too short a time, the last time, for another answer before it, and where no coarse answer says anything."""
        if self._seconds.get((brief.id, candidate.id), 0.0) < LONG:
            return None
        # of zones, ribs and bolts with the lines beside them, for the shear
        followed = translate.is_built(brief, candidate) and not translate.is_curved(candidate)
        coarse = msgspec.structs.replace(stretched_order(brief), layers=followed)
        result = self.evaluate(brief, candidate, materials, coarse)
        return None if not result.ok or _blurred(result) else result

    def hint(self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material]) -> CandidateResult:
        """What tells a search whether to judge in full: ``estimate``, but the quick result where that is enough.

        A panel that passes as a linear plate will hardly fail for stretching; one that sags too far even when its
        stretching is counted at its most, or is too heavy, too thick or too slow, fails in any case.
        """
        quick = self.quick(brief, candidate, materials)
        if not quick.rough or quick.passes or _blurred(quick):
            return quick
        limit = brief.limits.deflection
        too_far = limit is not None and getattr(quick.response, "sag_at_least", 0.0) > limit
        if too_far or any(not check.passes for check in quick.checks if not check.case_id):
            return quick
        return self.estimate(brief, candidate, materials)

    def quick_all(
        self, brief: Brief, candidates: Sequence[Candidate], materials: Mapping[str, Material], carried: bool = False
    ) -> list[CandidateResult]:
        """``quick`` of several.  All respond before any is judged: a processor does what it has just done faster.
        ``carried`` : see ``evaluate``; not for searches, whose answers may not depend on what was asked before."""
        responses = [self._quick_response(brief, candidate, materials) for candidate in candidates]
        results = []
        order = quick_order(brief) if kind_of(brief).quicker else FULL
        for candidate, response in zip(candidates, responses, strict=True):
            if response is None:
                results.append(self.evaluate(brief, candidate, materials, order, carried))
            elif isinstance(response, str):
                results.append(CandidateResult(candidate, error=response))
            else:
                results.append(self._quickly(brief, candidate, response, materials))
        return results

    def _quickly(
        self, brief: Brief, candidate: Candidate, response: tuple[Stack, Response], materials: Mapping[str, Material]
    ) -> CandidateResult:
        taken = self._taken.get((brief.id, candidate.id), {})
        return judge(brief, candidate, *response, live(brief), materials, taken)

    def _quick_response(
        self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material]
    ) -> tuple[Stack, Response] | str | None:
        """From the prepared shapes, or what is wrong with the candidate; None without shapes that serve."""
        key = _shapes_key(brief, candidate)
        with self._lock:
            reduced = self._reduced.get(key)
            if reduced is not None:
                self._reduced.move_to_end(key)
        if reduced is None or not quickly_reduced(brief, candidate) or _incomplete(brief):
            return None
        try:
            stack = translate.stack(candidate, materials, brief.surroundings)
            response = reduced.respond(stack, tuple(translate.load_case(case) for case in brief.load_cases))
        except OmakaseError as error:
            return str(error)
        except np.linalg.LinAlgError:
            response = None  # too far from what the shapes were made for
        if response is None:
            self.forget(brief, candidate)
            return None
        return stack, response

    # --- responses ------------------------------------------------------------------------------------------

    def has_response(
        self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material], accuracy: Accuracy = FULL
    ) -> bool:
        """Whether evaluating would find its response in the cache."""
        with self._lock:
            return self._key(brief, candidate, materials, accuracy) in self._responses

    def _respond(
        self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material], accuracy: Accuracy
    ) -> tuple[Stack, Response]:
        key = self._key(brief, candidate, materials, accuracy)
        with self._lock:
            if key in self._responses:
                self._responses.move_to_end(key)
                return self._responses[key]
        if candidate.measured is not None:
            response = measured_response(brief, candidate)
        else:
            response = kind_of(brief).respond(brief, candidate, materials, accuracy)
        with self._lock:
            self._responses[key] = response
            while len(self._responses) > CACHE_SIZE:
                self._responses.popitem(last=False)
        return response

    @staticmethod
    def _key(brief: Brief, candidate: Candidate, materials: Mapping[str, Material], accuracy: Accuracy) -> Inputs:
        """What a response depends on, with the records of the materials used and the accuracy."""
        return (*response_inputs(brief, candidate), *materials_used(candidate, materials), accuracy)
