"""The campaign in small: every reader, seeded, so that each run sees the same cases."""

from __future__ import annotations

import unittest

from tests.fuzz.campaign import READERS, failure

CASES = {
    "project": 150,
    "quantity": 200,
    "curve": 150,
    "materials": 100,
    "words": 200,
    "member": 60,
    "detail": 60,
    "job": 40,
    "outline": 150,
    "tables": 150,
}


class Campaign(unittest.TestCase):
    def test_no_exception_but_the_program_s_own_and_nothing_slow(self) -> None:
        for reader in READERS:
            for seed in range(CASES[reader]):
                self.assertEqual(failure(reader, seed), "")
