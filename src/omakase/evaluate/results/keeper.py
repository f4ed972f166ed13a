"""Keeps the newest result of every candidate with the records it was computed from, and knows what is being computed.

Results are kept by brief and candidate; a result of other records than the present ones is recognised as stale by
its inputs.  Nothing here knows a window.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Collection

from omakase.core.members.panel_given import FULL
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.results.inputs import Inputs

MOST = 12  # results kept, some 1 to 10 MB each; those of the brief that was looked at longest ago go first
Key = tuple[str, str]  # ids of the brief and of the candidate


class Keeper:
    """Results, and the inputs of those that are expected."""

    def __init__(self) -> None:
        self._kept: OrderedDict[Key, tuple[Inputs, CandidateResult]] = OrderedDict()
        self._expected: dict[Key, Inputs] = {}

    def result(self, key: Key) -> CandidateResult | None:
        """The newest result of a candidate, perhaps of older records."""
        kept = self._kept.get(key)
        return kept[1] if kept else None

    def inputs(self, key: Key) -> Inputs | None:
        """What the newest result was computed from."""
        kept = self._kept.get(key)
        return kept[0] if kept else None

    def is_current(self, key: Key, inputs: Inputs) -> bool:
        """Whether the result is of these records and of the full order."""
        kept = self._kept.get(key)
        return kept is not None and kept[0] == inputs and kept[1].accuracy == FULL

    def has_any(self, brief_id: str) -> bool:
        """Whether any candidate of a brief has a result."""
        return any(key[0] == brief_id for key in self._kept)

    def take(self, key: Key, inputs: Inputs, result: CandidateResult) -> None:
        """Keeps a result; one of the full order is expected no longer."""
        self._kept[key] = inputs, result
        self._kept.move_to_end(key)
        if result.accuracy == FULL:
            self._expected.pop(key, None)
        while len(self._kept) > MOST and next(iter(self._kept))[0] != key[0]:
            self._kept.popitem(last=False)

    def keep_only(self, brief_id: str, candidate_ids: Collection[str]) -> None:
        """Drops what is known of candidates that a brief has no longer."""
        for table in (self._kept, self._expected):
            for key in [known for known in table if known[0] == brief_id and known[1] not in candidate_ids]:
                del table[key]

    # --- what is being computed -------------------------------------------------------------------------------

    def expect(self, key: Key, inputs: Inputs) -> bool:
        """Notes that a result of these records is on its way; False where that was known."""
        if self._expected.get(key) == inputs:
            return False
        self._expected[key] = inputs
        return True

    def expects(self, key: Key, inputs: Inputs) -> bool:
        """Whether a result of these records is waited for: if not, it has been overtaken."""
        return self._expected.get(key) == inputs

    def done(self, key: Key) -> None:
        """Nothing more is expected of a candidate."""
        self._expected.pop(key, None)

    def expect_nothing(self) -> None:
        """What is under way is no longer wanted."""
        self._expected.clear()

    @property
    def settled(self) -> bool:
        """Nothing is being computed."""
        return not self._expected

    def is_final(self, key: Key) -> bool:
        """Whether a candidate has a result and none newer is expected."""
        return key in self._kept and key not in self._expected

    def clear(self) -> None:
        """Forgets everything: another project was put in place."""
        self._kept.clear()
        self._expected.clear()
