"""A candidate under its brief with something changed, judged: what sensitivity and studies are made of."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from omakase.core.materials.material import Material
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.results.engine import Evaluator
from omakase.evaluate.results.outcome import Outcome, outcome
from omakase.evaluate.sizing.parameter import State
from omakase.project.model import Brief, Candidate


class Trials:
    """One candidate to be tried with changes; who tries many asks ``cancelled`` in between."""

    def __init__(
        self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material], evaluator: Evaluator,
        cancelled: Callable[[], bool] = lambda: False,
    ) -> None:  # fmt: skip
        self._state: State = brief, candidate, materials
        self._evaluator, self._cancelled = evaluator, cancelled

    def result(self, state: State, full: bool = False) -> CandidateResult:
        """The full result of one state, or one that is nearly as good."""
        evaluate = self._evaluator.evaluate if full else self._evaluator.estimate
        return evaluate(*state)

    def judge(self, state: State, full: bool = False) -> Outcome:
        """What one state comes to."""
        return outcome(state[0], self.result(state, full), state[2])
