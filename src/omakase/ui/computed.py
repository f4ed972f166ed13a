"""Results of a brief's candidates kept up to date behind every edit.

An edit is evaluated at once and quickly for the candidate it touches and for those that share a sub-stack with it;
the full order follows on worker threads, and when they rest, what the next quick answer needs.  Where the quick answer
says little and the full one takes long, a coarse one comes between them.
Results carry the records they were computed from, so a stale one is recognised and dropped.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from concurrent.futures import Future, ThreadPoolExecutor

import msgspec
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from omakase.core.materials.material import Material
from omakase.core.members.panel_given import FULL, QUICK
from omakase.evaluate.results.candidate_result import WAITING, CandidateResult
from omakase.evaluate.results.engine import PREPARED, Evaluator
from omakase.evaluate.results.inputs import Inputs, result_inputs
from omakase.evaluate.results.keeper import Keeper, Key
from omakase.evaluate.results.quick import differs, quickly_reduced, slow
from omakase.project.document import Document
from omakase.project.library import materials_of
from omakase.project.model import Brief, Candidate

FULL_ORDER_DELAY_MS = 70
AFTER_PAINTING_MS = 1  # not 0, which would come before the numbers are painted
REST_MS = 400  # after the last full result, until what the next edit needs is prepared


class Computed(QObject):
    """The results of a document's candidates.

    ``chosen`` : says which brief and which candidate are looked at.  ``synchronous`` : everything is computed at once,
    in full.  Signals: ``changed`` (a result), ``rested`` (nothing left to do).
    """

    changed = pyqtSignal()
    rested = pyqtSignal()
    _arrived = pyqtSignal(object, object)
    _prepared = pyqtSignal()

    def __init__(
        self, document: Document, chosen: Callable[[], tuple[Brief | None, Candidate | None]], synchronous: bool
    ) -> None:
        super().__init__()
        self._document, self._chosen, self._synchronous = document, chosen, synchronous
        self.evaluator = Evaluator()
        self.keeper = Keeper()
        self._pool = ThreadPoolExecutor(2, thread_name_prefix="evaluate")
        # the full order starts when the edit is painted and the keys rest: Python's threads share one processor
        self._waiting: dict[str, tuple[Brief, Candidate, Inputs]] = {}
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(FULL_ORDER_DELAY_MS)
        self._timer.timeout.connect(self.go_on)
        self.held = not synchronous  # until the window is painted: nothing is evaluated before
        self._arrived.connect(self._receive)
        self._changed_together = 0  # candidates that the newest edit has changed at once
        self._preparing = ""
        self._worn: set[str] = set()  # candidates that have moved away from what was prepared
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(REST_MS)
        self._rest.timeout.connect(self.prepare)
        self._closed = False
        self._when_settled: list[Callable[[], None]] = []
        self._prepared.connect(self._after_preparing)

    def inputs(self, brief: Brief, candidate: Candidate) -> Inputs:
        """What a result depends on."""
        project = self._document.project
        return *result_inputs(brief, candidate), (project.materials, project.acceptances)

    @property
    def settled(self) -> bool:
        """Nothing is being computed."""
        return self.keeper.settled and not self.held

    @property
    def idle(self) -> bool:
        """Nothing is being computed and the next edit is prepared for."""
        return self.settled and not self._preparing and not self._rest.isActive()

    def reset(self) -> None:
        """Another project was put in place: its candidates may have the same names."""
        self.evaluator.forget_all()
        self.keeper.clear()

    def begin(self) -> bool:
        """Lets it compute, when the window is there to see; False where it does so already or no longer."""
        if not self.held or self._closed:
            return False
        self.held = False
        return True

    def bring_up(self, brief: Brief, chosen: str, at_once: bool = True) -> None:
        """Brings every result of a brief in line with the records: ``at_once`` what is cached or ``chosen``, the rest
        on workers."""
        materials, keeper = materials_of(self._document.project), self.keeper
        keeper.keep_only(brief.id, {candidate.id for candidate in brief.candidates})
        first_time = not keeper.has_any(brief.id)
        edited: list[tuple[Candidate, Inputs]] = []
        for candidate in sorted(brief.candidates, key=lambda c: c.id != chosen):
            inputs = self.inputs(brief, candidate)
            key = brief.id, candidate.id
            if keeper.is_current(key, inputs):
                keeper.done(key)
                continue
            if self._synchronous or self.evaluator.has_response(brief, candidate, materials, FULL):
                keeper.take(key, inputs, self.evaluator.evaluate(brief, candidate, materials, FULL))
                keeper.done(key)
                continue
            at_hand = quickly_reduced(brief, candidate) and self.evaluator.prepared(brief, candidate)
            before = keeper.result(key)
            if slow(brief, candidate) or not at_once:
                if before is not None:
                    keeper.take(key, inputs, _until_judged(before))
            elif not first_time and (candidate.id == chosen or at_hand):
                edited.append((candidate, inputs))
            if keeper.expect(key, inputs):
                self._waiting[candidate.id] = brief, candidate, inputs
                self._timer.start()
        answers = self.evaluator.quick_all(brief, [candidate for candidate, _ in edited], materials, carried=True)
        for (candidate, inputs), result in zip(edited, answers, strict=True):
            keeper.take((brief.id, candidate.id), inputs, result)
            if result.accuracy == FULL:  # of a kind that responds quickly as it is
                self._waiting.pop(candidate.id, None)
        self._changed_together = len(edited)
        self.changed.emit()
        self._act_if_settled()

    def once_settled(self, act: Callable[[], None]) -> None:
        """Does something now, or as soon as nothing is being computed: with numbers of the full order."""
        self._when_settled.append(act)
        self._act_if_settled()

    def _act_if_settled(self) -> None:
        if self.settled:
            acts, self._when_settled = self._when_settled, []
            for act in acts:
                act()

    def after_numbers(self, show: Callable[[], None]) -> None:
        """Shows something now, or in a moment where an edit has changed several candidates: first their numbers."""
        if self._changed_together > 1:
            QTimer.singleShot(AFTER_PAINTING_MS, show)
        else:
            show()

    # --- on worker threads ------------------------------------------------------------------------------------

    def go_on(self) -> None:
        """Hands what waits to the workers, without waiting for the keys to rest."""
        waiting, self._waiting = self._waiting, {}
        for brief, candidate, inputs in waiting.values():
            if self.keeper.expects((brief.id, candidate.id), inputs):
                self._submit(brief, candidate, inputs)

    def _submit(self, brief: Brief, candidate: Candidate, inputs: Inputs) -> None:
        materials, key = materials_of(self._document.project), (brief.id, candidate.id)
        shown = self.keeper.result(key)
        says_little = shown is not None and shown.ok and shown.rough

        def work() -> CandidateResult | None:
            if not self.keeper.expects(key, inputs):
                return None  # overtaken while waiting in the queue
            first = self.evaluator.first(brief, candidate, materials) if says_little else None
            if first is not None:
                self._arrived.emit((key, inputs), first)
            if not self.keeper.expects(key, inputs):
                return None
            return self.evaluator.evaluate(brief, candidate, materials, FULL)

        def finished(future: Future[CandidateResult | None]) -> None:
            if future.cancelled():
                return
            error = future.exception()
            if error is not None:
                self._arrived.emit((key, inputs), CandidateResult(candidate, error=f"internal error: {error}"))
            elif future.result() is not None:
                self._arrived.emit((key, inputs), future.result())

        self._pool.submit(work).add_done_callback(finished)

    def _receive(self, of: tuple[Key, Inputs], result: CandidateResult) -> None:
        key, inputs = of
        if not self.keeper.expects(key, inputs):
            return
        before = self.keeper.result(key)
        if before is not None and self.keeper.inputs(key) == inputs and differs(before, result):
            self._worn.add(result.candidate.id)
        self.keeper.take(key, inputs, result)
        self._changed_together = 0
        if result.accuracy == FULL:  # so is an error
            self.keeper.done(key)
            self._rest.start()
        self.changed.emit()
        self._act_if_settled()

    # --- what the next edit needs -----------------------------------------------------------------------------

    def prepare(self) -> None:
        """When nothing else is to do: shapes for the chosen candidate, then for those that change with it."""
        brief, chosen = self._chosen()
        if self._synchronous or not self.keeper.settled or self._preparing:
            return
        if brief is not None and chosen is not None:
            names = {layer.shared for layer in chosen.layers if layer.shared}
            linked = [other for other in brief.candidates if names & {layer.shared for layer in other.layers}]
            for candidate in [chosen, *(other for other in linked if other is not chosen)][:PREPARED]:
                if candidate.id in self._worn:
                    self._worn.discard(candidate.id)
                    self.evaluator.forget(brief, candidate)
                if candidate.layers and not self.evaluator.prepared(brief, candidate):
                    self._preparing = candidate.id
                    self._pool.submit(self._work_ahead, brief, candidate, materials_of(self._document.project))
                    return
        self.rested.emit()

    def _work_ahead(self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material]) -> None:
        try:
            self.evaluator.prepare(brief, candidate, materials)
        finally:
            if not self._closed:
                self._prepared.emit()

    def _after_preparing(self) -> None:
        before, self._preparing = self._preparing, ""
        brief, _ = self._chosen()
        if brief is None or all(c.id != before or self.evaluator.prepared(brief, c) for c in brief.candidates):
            self.prepare()
        else:
            self.rested.emit()  # it could not be prepared; the full evaluation says why

    def close(self) -> None:
        """Ends the worker threads; call before the application goes."""
        self._closed = True
        self._timer.stop()
        self._rest.stop()
        self.keeper.expect_nothing()
        self._pool.shutdown(wait=True, cancel_futures=True)


def _until_judged(before: CandidateResult) -> CandidateResult:
    """What stands in the place of a result that takes a while: the one before, marked, or that it is on its way."""
    if before.ok:
        return msgspec.structs.replace(before, stale=True, accuracy=QUICK)
    return CandidateResult(before.candidate, error=WAITING, accuracy=QUICK)
