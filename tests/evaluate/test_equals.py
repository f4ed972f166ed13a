"""The same stiffness or mass in another construction."""

from __future__ import annotations

import unittest

from omakase.core.errors import OmakaseError
from omakase.evaluate.results.engine import Evaluator
from omakase.evaluate.sizing.equals import Equals, beside
from omakase.project.commands import replace
from omakase.project.demo import demo_project
from omakase.project.library import materials_of
from omakase.project.model import find_candidate

PROJECT = demo_project()
MATERIALS = materials_of(PROJECT)
PLANK = next(brief for brief in PROJECT.briefs if brief.id == "b5")
OAR = next(brief for brief in PROJECT.briefs if brief.id == "b4")


class EqualStiffnessAndMass(unittest.TestCase):
    def equals(self, by: str, brief=PLANK, candidate_id: str = "c2"):  # type: ignore[no-untyped-def]
        candidate = find_candidate(brief, candidate_id)
        evaluator = Evaluator()
        found = list(Equals(brief, candidate, MATERIALS, evaluator, by).find())  # type: ignore[arg-type]
        results = {own.title: evaluator.evaluate(brief, own.candidate, MATERIALS) for own in found if own.candidate}
        return evaluator.evaluate(brief, candidate, MATERIALS), results, found

    def test_as_stiff(self) -> None:
        """Sheet and core are exact; whole plies come within one ply.  The sheet weighs t ∝ EI^⅓ (textbook)."""
        own, results, _ = self.equals("stiffness")
        self.assertEqual(set(results), {"solid laminate", "sandwich on pvc80", "al6082 sheet"})
        sag = own.worst("deflection").value
        for title in ("sandwich on pvc80", "al6082 sheet"):
            self.assertAlmostEqual(results[title].worst("deflection").value / sag, 1.0, delta=2e-3)
        solid = results["solid laminate"]
        self.assertLess(abs(solid.worst("deflection").value / sag - 1.0), 4.0 / len(solid.stack.layers))
        self.assertGreater(solid.mass, 2.0 * own.mass)
        self.assertGreater(results["al6082 sheet"].mass, 2.0 * own.mass)

    def test_as_heavy(self) -> None:
        own, results, _ = self.equals("mass")
        self.assertAlmostEqual(results["al6082 sheet"].mass / own.mass, 1.0, delta=2e-3)
        self.assertGreater(results["al6082 sheet"].worst("deflection").value, 5.0 * own.worst("deflection").value)

    def test_a_tube_and_a_panel(self) -> None:
        own, results, _ = self.equals("stiffness", OAR, "c3")
        self.assertAlmostEqual(
            results["al6082 sheet"].worst("deflection").value / own.worst("deflection").value, 1.0, delta=2e-3
        )
        floor = PROJECT.briefs[0]
        flat = replace(floor, load_cases=floor.load_cases[1:2])  # a pressure: the sheet is judged quickly
        own, results, _ = self.equals("mass", flat, "c3")
        self.assertAlmostEqual(results["al6082 sheet"].mass / own.mass, 1.0, delta=2e-3)

    def test_they_come_beside_it_in_one_step(self) -> None:
        _, _, found = self.equals("stiffness")
        command = beside(PLANK, find_candidate(PLANK, "c2"), found)
        ids = [own.id for own in command.new]
        self.assertEqual(len(ids), len(set(ids)))
        self.assertEqual(ids[:2], ["c1", "c2"])
        self.assertIn("as stiff as", command.new[2].origin)
        self.assertEqual(command.old, PLANK.candidates)

    def test_without_a_load_there_is_no_stiffness(self) -> None:
        bare = replace(PLANK, load_cases=())
        with self.assertRaises(OmakaseError):
            Equals(bare, find_candidate(bare, "c2"), MATERIALS, Evaluator(), "stiffness")


if __name__ == "__main__":
    unittest.main()
