"""Ways out against trying every step of a lever by hand; what is proposed passes when it is evaluated again."""

from __future__ import annotations

import unittest
from functools import cache

from omakase.evaluate.engine import Evaluator
from omakase.evaluate.ways_out import THINNEST, Way, WaysOut, as_candidate
from omakase.project import edits
from omakase.project.commands import replace
from omakase.project.demo import demo_project
from omakase.project.library import materials_of
from omakase.project.model import Candidate, find_candidate

EVALUATOR = Evaluator()
PROJECT = demo_project()
MATERIALS = materials_of(PROJECT)


@cache
def ways(brief: int, candidate: str) -> tuple[Way, ...]:
    own = PROJECT.briefs[brief]
    return tuple(WaysOut(own, find_candidate(own, candidate), MATERIALS, "si", EVALUATOR).find())


def passes(brief: int, candidate: Candidate) -> bool:
    return EVALUATOR.evaluate(PROJECT.briefs[brief], candidate, MATERIALS).passes


class Levers(unittest.TestCase):
    def test_core_thickness_by_brute_force(self) -> None:
        """A failing candidate: the first step that passes; a passing one: the last before one fails."""
        for brief, name in ((0, "c2"), (2, "c2"), (2, "c3")):
            own = find_candidate(PROJECT.briefs[brief], name)
            core = next(i for i, layer in enumerate(own.layers) if layer.role == "core")
            now, up = own.layers[core].thickness, not passes(brief, own)
            best = None
            for step in range(1, 60):
                thickness = round(now + (step if up else -step) * 0.5e-3, 9)
                if thickness < THINNEST * now:
                    break
                changed = edits.set_layer(own, core, replace(own.layers[core], thickness=thickness))
                if passes(brief, changed) == up:
                    best = changed if up else best
                    break
                best = best if up else changed
            way = next(way for way in ways(brief, name) if way.lever == "core")
            self.assertEqual(way.candidate.layers, best.layers, f"{brief} {name}")

    def test_every_proposal_passes_when_evaluated_again(self) -> None:
        for brief, name in ((0, "c2"), (0, "c5"), (1, "c3"), (2, "c2")):
            for way in ways(brief, name):
                with self.subTest(brief=brief, candidate=name, way=way.text):
                    self.assertEqual(way.candidate is None, bool(way.blocked))
                    if way.candidate is not None:
                        self.assertTrue(passes(brief, way.candidate))

    def test_what_cannot_says_what_stops_it(self) -> None:
        blocked = {way.text: way.blocked for way in ways(2, "c2") if way.candidate is None}
        self.assertIn("stopped by deflection", blocked["another core of this thickness"])

    def test_a_way_stands_beside_its_origin(self) -> None:
        brief = PROJECT.briefs[0]
        way = next(way for way in ways(0, "c2") if way.lever == "core")
        command, identity = as_candidate(way, brief)
        after = command.apply(PROJECT).briefs[0]
        self.assertEqual([c.id for c in after.candidates][1:3], ["c2", identity])
        self.assertEqual(find_candidate(after, "c2"), find_candidate(brief, "c2"))
        self.assertEqual(command.revert(command.apply(PROJECT)), PROJECT)

    def test_it_ends_when_told(self) -> None:
        own = PROJECT.briefs[0]
        search = WaysOut(own, own.candidates[1], MATERIALS, "si", Evaluator(), lambda: search.count >= 3)
        self.assertEqual(list(search.find()), [])
        self.assertEqual(search.count, 3)

    def test_a_broken_candidate_has_none(self) -> None:
        own = PROJECT.briefs[0]
        self.assertEqual(list(WaysOut(own, Candidate("x", "x"), MATERIALS, "si", EVALUATOR).find()), [])


if __name__ == "__main__":
    unittest.main()
