"""Lifting surfaces as jobs: what is told where it does not make sense, resizing, sections along the span."""

from __future__ import annotations

import unittest

import numpy as np

from omakase.core.members.surface import SurfaceResponse
from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.results.diagrams import curves
from omakase.evaluate.vehicle.resize import Rule, resized
from omakase.project.commands import replace
from omakase.project.demo import demo_project
from omakase.project.library import materials_of
from omakase.project.model import find_candidate
from omakase.project.outline_file import read_outline
from omakase.project.spans import DropLoad, Station
from omakase.project.validation import brief_problems, candidate_problems
from omakase.project.wings import SurfaceMember
from tests.support import EVALUATOR

PROJECT = demo_project()
MATERIALS = dict(materials_of(PROJECT))
BRIEF = next(brief for brief in PROJECT.briefs if isinstance(brief.member, SurfaceMember))
SOLID, HOLLOW = find_candidate(BRIEF, "c2"), find_candidate(BRIEF, "c4")


class Jobs(unittest.TestCase):
    def test_sections_along_the_span_shrink_toward_the_tip(self) -> None:
        result = EVALUATOR.evaluate(BRIEF, HOLLOW, MATERIALS)
        listed = {curve.key: curve.values for curve in curves(BRIEF, result, 0)}
        for key in ("chord", "bending_stiffness", "torsional_stiffness"):
            self.assertGreater(listed[key][0], 1.2 * listed[key][-1])
        # a tube of the same walls, half as large all over, is an eighth as stiff: between that and what its zones add
        self.assertLess(listed["torsional_stiffness"][-1] / listed["torsional_stiffness"][0], (0.17 / 0.26) ** 2)

    def test_what_fills_it_counts(self) -> None:
        hollow = replace(SOLID, form=replace(SOLID.form, filling=""))
        one, two = (EVALUATOR.evaluate(BRIEF, own, MATERIALS) for own in (SOLID, hollow))
        self.assertGreater(one.mass, two.mass)
        self.assertLess(one.worst("deflection").value, two.worst("deflection").value)
        checks = {check.check for check in one.checks}
        self.assertLessEqual({"skin_wrinkling", "filling_shear", "filling_crushing", "divergence"}, checks)
        self.assertNotIn("wall_buckling", checks)
        self.assertIn("wall_buckling", {check.check for check in two.checks})

    def test_crushing_grows_with_the_square_of_the_load(self) -> None:
        result = EVALUATOR.evaluate(BRIEF, SOLID, MATERIALS)
        assert isinstance(result.response, SurfaceResponse)
        pressure, _ = result.response.crushing(0)
        worst = next(check for check in result.checks if check.check == "filling_crushing" and check.case_id == "l1")
        self.assertAlmostEqual(worst.reserve_factor, np.sqrt(MATERIALS["xps35"].value("Zc") / pressure) / 1.5)

    def test_an_outline_from_a_file_takes_the_place_of_the_profile(self) -> None:
        points = ((1.0, 0.01), (0.4, 0.06), (0.0, 0.01), (0.0, -0.01), (0.4, -0.04), (1.0, -0.01))
        text = "profile\n" + "\n".join(f"{x} {z}" for x, z in points)
        drawn = kind_of(BRIEF).drawn_by(SOLID, read_outline(text))
        self.assertEqual((drawn.form.profile, len(drawn.form.points)), ("", 6))
        self.assertTrue(EVALUATOR.evaluate(BRIEF, drawn, MATERIALS).ok)

    def test_what_is_wrong_with_a_surface_is_told_at_its_place(self) -> None:
        for member, words in (
            (replace(BRIEF.member, root=0.001), "a chord lies between"),
            (replace(BRIEF.member, sweep=70.0), "at most 60"),
            (replace(BRIEF.member, planform="stations", chord=(Station(0.0, 0.2),)), "two of them"),
            (replace(BRIEF.member, supports=()), "nothing holds"),
        ):
            found = brief_problems(replace(BRIEF, member=member))
            self.assertIn(words, next(text for place, text in found if place == "member"))
        falls = replace(BRIEF, load_cases=(replace(BRIEF.load_cases[0], loads=(DropLoad(1.0, 0.1, 1.0),)),))
        self.assertEqual([place for place, _ in brief_problems(falls)], ["load_cases[0]"])
        for change, words in (
            ({"profile": "63-412"}, "no closed equation"), ({"profile": "abc"}, "four digits"),
            ({"filling": "plain90"}, "a core material"), ({"filling": "nothing"}, "no material"),
            ({"cut": 0.1}, "between 30 %"), ({"tip_ratio": 9.0}, "20 %"), ({"webs": (0.3, 0.3)}, "webs"),
            ({"profile": ""}, "no outline"),
        ):  # fmt: skip
            wrong = replace(SOLID, form=replace(SOLID.form, **change))
            found = candidate_problems(BRIEF, wrong, MATERIALS)
            self.assertEqual(found[0][0], ".form")
            self.assertIn(words, found[0][1])

    def test_thick_walls_that_end_before_a_thin_tip_are_allowed(self) -> None:
        """The room for walls is looked at where they are, not everywhere."""
        shell = find_candidate(BRIEF, "c5")
        thick = tuple(replace(own, thickness=0.006) if own.role == "core" else own for own in shell.layers)
        shell = replace(shell, layers=thick)
        thin = replace(BRIEF, member=replace(BRIEF.member, tip=0.06))
        places = [place for place, _ in candidate_problems(thin, shell, MATERIALS)]
        self.assertEqual(places, [".form"])
        layers = tuple(replace(layer, zone="z2") if layer.role == "core" else layer for layer in shell.layers)
        self.assertEqual(candidate_problems(thin, replace(shell, layers=layers), MATERIALS), [])

    def test_resized_along_and_across(self) -> None:
        new, told = resized(replace(BRIEF, formulas=()), Rule(along=1.06, across=1.08))
        self.assertEqual(told, [])
        self.assertAlmostEqual(new.member.length / BRIEF.member.length, 1.06)
        self.assertAlmostEqual(new.member.root / BRIEF.member.root, 1.08)
        self.assertAlmostEqual(new.load_cases[0].loads[0].total / BRIEF.load_cases[0].loads[0].total, 1.06 * 1.08)
