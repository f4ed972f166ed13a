"""Briefs made larger or smaller by the rule that is stated."""

from __future__ import annotations

import unittest

from omakase.evaluate.members.sentence import value_at
from omakase.evaluate.vehicle.fields import numbers_of
from omakase.evaluate.vehicle.resize import Rule, resize_changes, resize_command, resized
from omakase.project.commands import replace
from omakase.project.demo import demo_project
from omakase.project.document import Document
from omakase.project.library import materials_of
from omakase.project.model import find_brief, find_candidate
from omakase.project.validation import brief_problems, candidate_problems
from tests.support import EVALUATOR

PROJECT = demo_project()
MATERIALS = materials_of(PROJECT)


class Resized(unittest.TestCase):
    def test_nothing_by_one(self) -> None:
        for brief in PROJECT.briefs:
            self.assertEqual(resized(brief, Rule()), (brief, []))

    def test_every_demo_brief_stays_whole(self) -> None:
        """Larger and smaller: nothing falls off the member, and forth and back is the same within the last digit."""
        for brief in PROJECT.briefs:
            bare = replace(brief, formulas=())
            for along, across in ((1.06, 1.08), (1.5, 0.9)):
                new, left = resized(bare, Rule(along, across, 1.1, 1.2))
                self.assertEqual(left, [])
                self.assertEqual(brief_problems(new), [], brief.name)
                for candidate in new.candidates:
                    if brief.id != "b4":  # its braid locks on a thinner mandrel, which is told
                        self.assertEqual(candidate_problems(new, candidate, MATERIALS), [], candidate.name)
                back, _ = resized(new, Rule(1.0 / along, 1.0 / across, 1.0 / 1.1, 1.0 / 1.2))
                for path in numbers_of(bare):
                    self.assertAlmostEqual(value_at(back, path), value_at(bare, path), delta=1e-6, msg=str(path))

    def test_the_wing_spar_by_hand(self) -> None:
        """Span +6 %, chord +8 %, a fifth faster: lift by area and speed², moments with the span."""
        spar = replace(find_brief(PROJECT, "b6"), formulas=())
        new, _ = resized(spar, Rule(1.06, 1.08, 1.2))
        self.assertAlmostEqual(new.member.length, 2.1 * 1.06)
        self.assertAlmostEqual(new.member.chord[-1].x, 2.1 * 1.06)
        self.assertAlmostEqual(new.member.chord[0].size, 0.26 * 1.08)
        lift = spar.load_cases[0].loads[0].total
        self.assertAlmostEqual(new.load_cases[0].loads[0].total, lift * 1.06 * 1.08 * 1.44, places=6)
        self.assertAlmostEqual(new.member.carried[0].mass, 0.55 * 1.06 * 1.08**2, places=6)
        self.assertEqual(new.candidates[1].layers, spar.candidates[1].layers)

    def test_the_same_stresses_in_a_plate_of_twice_the_size(self) -> None:
        """Twice all sizes but the thickness under a quarter of the pressure: the same moments, four times the sag."""
        floor = PROJECT.briefs[0]
        case = floor.load_cases[1]
        one = replace(floor, load_cases=(replace(case, loads=(replace(case.loads[0], pressure=400.0),)),))
        two, _ = resized(one, Rule(2.0, 2.0, 0.5))
        candidate = find_candidate(floor, "c4")
        before, after = (EVALUATOR.evaluate(own, candidate, MATERIALS) for own in (one, two))
        moments = [result.worst("face_failure").reserve_factor for result in (before, after)]
        self.assertAlmostEqual(moments[0] / moments[1], 1.0, delta=0.02)  # but for shear and the own bending of faces

    def test_point_forces_may_stay(self) -> None:
        floor = PROJECT.briefs[0]
        grown, kept = (resized(floor, Rule(1.2, 1.1, forces=forces))[0] for forces in ("area", "kept"))
        self.assertAlmostEqual(grown.load_cases[0].loads[0].force, 1100.0 * 1.2 * 1.1)
        self.assertEqual(kept.load_cases[0].loads[0].force, 1100.0)
        self.assertEqual(kept.load_cases[0].loads[0].along_x, 0.24)

    def test_what_follows_a_formula_is_left_and_told(self) -> None:
        new, left = resized(find_brief(PROJECT, "b5"), Rule(1.2, 1.2))
        self.assertEqual(left, ["force, l1 load 1 follows = seat_load: change it in the vehicle sheet"])
        self.assertAlmostEqual(new.load_cases[0].loads[0].force, 97 * 9.80665)

    def test_one_step_with_its_list(self) -> None:
        lid = find_brief(PROJECT, "b8")
        document = Document(PROJECT)
        document.do(resize_command(PROJECT, lid, Rule(1.1)))
        new = find_brief(document.project, "b8")
        told = resize_changes(lid, new, "si")
        self.assertIn("panel length: 550 mm → 605 mm", [text.lower() for text in told])
        self.assertIn("Hinge plates: its zones", told)
        document.undo()
        self.assertEqual(document.project, PROJECT)
