"""Measured parts: what they are held against, and what is told of them."""

from __future__ import annotations

import json
import unittest

from omakase.evaluate.history.changes import candidate_changes
from omakase.evaluate.results.lineup import line_up
from omakase.evaluate.results.records import project_record
from omakase.project.commands import replace
from omakase.project.demo import demo_project
from omakase.project.library import materials_of
from omakase.project.model import Candidate, MeasuredPart, Project, find_brief, find_candidate
from omakase.project.validation import candidate_problems, problems
from omakase.reports.table import line_up_csv
from omakase.reports.text import results_text
from tests.support import EVALUATOR

PROJECT = demo_project()
MATERIALS = materials_of(PROJECT)
SEAT = find_brief(PROJECT, "b5")
BOUGHT = find_candidate(SEAT, "c9")


class Measured(unittest.TestCase):
    def test_by_hand(self) -> None:
        """Sag is force over stiffness, reserve is breaking load over ultimate force; what falls has no force."""
        result = EVALUATOR.evaluate(SEAT, BOUGHT, MATERIALS)
        self.assertAlmostEqual(result.worst("deflection").value, 97 * 9.80665 / 9.0e4)
        self.assertAlmostEqual(result.worst("breaking_load").reserve_factor, 3400.0 / (97 * 9.80665 * 1.5))
        self.assertEqual({check.case_id for check in result.checks if check.check == "breaking_load"}, {"l1", "l3"})
        self.assertEqual(
            (result.mass, result.worst("mass").method, result.worst("mass").source), (0.66, "weighed", "tested")
        )
        self.assertEqual(result.findings, ())

    def test_what_was_not_measured_is_not_judged(self) -> None:
        bare = replace(BOUGHT, measured=MeasuredPart(0.4, 0.012))
        result = EVALUATOR.evaluate(SEAT, bare, MATERIALS)
        self.assertEqual({check.check for check in result.checks}, {"mass", "thickness"})
        self.assertTrue(result.passes)

    def test_a_panel_has_an_areal_mass_and_a_strip_has_none(self) -> None:
        floor = PROJECT.briefs[0]
        sheet = Candidate("c9", "old floor", measured=MeasuredPart(2.0, 0.006))
        self.assertAlmostEqual(EVALUATOR.evaluate(floor, sheet, MATERIALS).areal_mass, 2.0 / (0.62 * 0.44))
        for brief, candidate in ((SEAT, BOUGHT), (floor, sheet)):
            results = [EVALUATOR.evaluate(brief, own, MATERIALS) for own in (*brief.candidates[:2], candidate)]
            self.assertTrue(line_up(brief, results).rows)

    def test_on_paper(self) -> None:
        """It says so where a code would stand, and what is not known is no zero."""
        results = line_up(SEAT, [EVALUATOR.evaluate(SEAT, BOUGHT, MATERIALS)])
        self.assertIn("measured, layup unknown", line_up_csv(results, "si").decode())
        project = Project(briefs=(replace(SEAT, candidates=(BOUGHT,), baseline=""),))
        text = results_text(project_record(project, EVALUATOR), "si")
        self.assertRegex(text, r"0\.660 kg +13\.00 mm +10\.57 mm +–  Mass RF 0\.76  FAILS")

    def test_wrong_ones_are_told(self) -> None:
        for measured, told in ((MeasuredPart(0.0, 0.01), "measured mass must be"),
                               (MeasuredPart(1.0, -0.01), "measured thickness"),
                               (MeasuredPart(1.0, 0.01, float("nan")), "measured stiffness"),
                               (MeasuredPart(1.0, 0.01, 1.0, 0.0), "measured breaking load")):  # fmt: skip
            wrong = replace(BOUGHT, measured=measured)
            self.assertIn(told, candidate_problems(SEAT, wrong, MATERIALS)[0][1])
            self.assertIn(told, EVALUATOR.evaluate(SEAT, wrong, MATERIALS).error)
        layered = replace(BOUGHT, layers=SEAT.candidates[0].layers)
        self.assertIn("no layers", candidate_problems(SEAT, layered, MATERIALS)[0][1])
        self.assertEqual(problems(PROJECT), [])

    def test_in_files_and_histories(self) -> None:
        project = Project(briefs=(replace(SEAT, candidates=(BOUGHT,), baseline=""),))
        record = json.loads(json.dumps(project_record(project, EVALUATOR), allow_nan=False))
        self.assertIsNone(record["briefs"][0]["candidates"][0]["areal_mass"])
        heavier = replace(BOUGHT, measured=replace(BOUGHT.measured, mass=0.7))
        self.assertEqual(candidate_changes(SEAT, BOUGHT, heavier, "si"), ["measured mass: 0.66 kg → 0.7 kg"])
