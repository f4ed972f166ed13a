"""The menu of spars against every combination judged one by one."""

from __future__ import annotations

import unittest

import msgspec

from omakase.core.errors import OmakaseError
from omakase.evaluate.results.engine import Evaluator
from omakase.evaluate.sizing.combinations import MenuChoices, choices_of
from omakase.evaluate.sizing.menu import MenuSearch
from omakase.evaluate.sizing.wall_menu import NEAR, WallSpace
from omakase.project.commands import replace
from omakase.project.demo import demo_project
from omakase.project.library import materials_of
from omakase.project.spans import SparMember

PROJECT = demo_project()
MATERIALS = materials_of(PROJECT)
BRIEF = next(brief for brief in PROJECT.briefs if isinstance(brief.member, SparMember))
CHOICES = MenuChoices(
    ("ud300", "plain90"),
    ("pvc60",),
    (45.0,),
    fewest=2,
    most=3,
    thicknesses=(0.003,),
    matters=("mass", "cost"),
    base="c3",
)
EVALUATOR = Evaluator()


class WallMenu(unittest.TestCase):
    def test_none_that_is_better_is_missed(self) -> None:
        space = WallSpace(BRIEF, CHOICES, MATERIALS)
        self.assertEqual(space.total, len(space.caps) * len(space.webs))
        results = [EVALUATOR.evaluate(BRIEF, space.candidate(row), MATERIALS) for row in range(space.total)]
        self.assertTrue(all(own.ok for own in results), [own.error for own in results if not own.ok])
        passing = [own for own in results if own.passes]
        self.assertTrue(0 < len(passing) < len(results))
        for row, own in enumerate(results):  # what they weigh before they are judged
            self.assertAlmostEqual(space.values[row, 0] / own.mass, 1.0, delta=NEAR)
        menu = list(MenuSearch(BRIEF, CHOICES, MATERIALS, EVALUATOR).run())[-1]
        self.assertTrue(menu.complete)
        self.assertLess(menu.judged, menu.total)
        lightest = next(dish for dish in menu.dishes if "lightest" in dish.titles)
        self.assertAlmostEqual(lightest.outcome.mass, min(own.mass for own in passing), places=9)
        self.assertNotIn("thinnest", [title for dish in menu.dishes for title in dish.titles])
        for dish in menu.dishes:
            self.assertTrue(dish.outcome.passes)
            again = EVALUATOR.evaluate(BRIEF, dish.candidate, MATERIALS)
            self.assertAlmostEqual(again.mass, dish.outcome.mass, places=9)
            self.assertNotIn("ply_drops", {own.rule for own in again.findings})

    def test_nothing_passes_shows_what_comes_nearest(self) -> None:
        brief = replace(BRIEF, limits=replace(BRIEF.limits, deflection=1e-4))
        choices = msgspec.structs.replace(CHOICES, most=2)
        menu = list(MenuSearch(brief, choices, MATERIALS, EVALUATOR).run())[-1]
        self.assertEqual(menu.dishes, ())
        self.assertTrue(menu.least_bad)
        self.assertEqual(menu.judged, menu.total)

    def test_what_cannot_be_searched_is_told(self) -> None:
        for choices, words in (
            (msgspec.structs.replace(CHOICES, skins=("plain90",)), "no unidirectional"),
            (msgspec.structs.replace(CHOICES, most=24), "more than the"),
        ):
            with self.assertRaisesRegex(OmakaseError, words):
                WallSpace(BRIEF, choices, MATERIALS)
        with self.assertRaisesRegex(OmakaseError, "make one first"):
            WallSpace(replace(BRIEF, candidates=()), CHOICES, MATERIALS)
        self.assertIn("ud300", choices_of(BRIEF, MATERIALS).skins)


if __name__ == "__main__":
    unittest.main()
