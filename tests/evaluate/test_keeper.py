"""Results kept by brief and candidate, without a window."""

from __future__ import annotations

import unittest

from omakase.core.members.panel_given import FULL, QUICK
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.results.keeper import MOST, Keeper
from omakase.project.model import Candidate

ONE, TWO = ("b1", "c1"), ("b1", "c2")


def result(name: str = "c1", quick: bool = False) -> CandidateResult:
    return CandidateResult(Candidate(name, name), accuracy=QUICK if quick else FULL)


class Kept(unittest.TestCase):
    def setUp(self) -> None:
        self.keeper = Keeper()

    def test_a_quick_result_is_shown_until_the_full_one_comes(self) -> None:
        self.assertTrue(self.keeper.expect(ONE, ("layers",)))
        self.assertFalse(self.keeper.expect(ONE, ("layers",)))
        self.keeper.take(ONE, ("layers",), result(quick=True))
        self.assertFalse(self.keeper.is_final(ONE) or self.keeper.settled or self.keeper.is_current(ONE, ("layers",)))
        self.keeper.take(ONE, ("layers",), result())
        self.assertTrue(self.keeper.is_final(ONE) and self.keeper.settled and self.keeper.is_current(ONE, ("layers",)))

    def test_what_was_overtaken_is_not_expected(self) -> None:
        self.keeper.expect(ONE, ("old",))
        self.keeper.expect(ONE, ("new",))
        self.assertFalse(self.keeper.expects(ONE, ("old",)))
        self.assertTrue(self.keeper.expects(ONE, ("new",)))
        self.keeper.expect_nothing()
        self.assertFalse(self.keeper.expects(ONE, ("new",)))

    def test_a_result_of_older_records_is_stale(self) -> None:
        self.keeper.take(ONE, ("old",), result())
        self.assertFalse(self.keeper.is_current(ONE, ("new",)))
        self.assertEqual(self.keeper.inputs(ONE), ("old",))
        self.assertIsNotNone(self.keeper.result(ONE))

    def test_candidates_of_one_name_in_two_briefs(self) -> None:
        own, other = result(), result()
        self.keeper.take(ONE, (), own)
        self.keeper.take(("b2", "c1"), (), other)
        self.assertIs(self.keeper.result(ONE), own)
        self.keeper.take(TWO, (), result("c2"))
        self.keeper.keep_only("b1", {"c2"})
        self.assertIsNone(self.keeper.result(ONE))
        self.assertIs(self.keeper.result(("b2", "c1")), other)
        self.assertTrue(self.keeper.has_any("b1"))
        self.keeper.clear()
        self.assertFalse(self.keeper.has_any("b1") or self.keeper.has_any("b2"))

    def test_the_oldest_brief_goes_first_and_the_present_one_never(self) -> None:
        for brief in ("b1", "b2"):
            for k in range(MOST):
                self.keeper.take((brief, f"c{k}"), (), result())
        self.assertFalse(self.keeper.has_any("b1"))
        for k in range(2 * MOST):
            self.keeper.take(("b3", f"c{k}"), (), result())
        self.assertIsNotNone(self.keeper.result(("b3", "c0")))


if __name__ == "__main__":
    unittest.main()
