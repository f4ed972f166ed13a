"""The leaf spring of the demo: its problems, its levers and what its layers weigh."""

from __future__ import annotations

import unittest

import numpy as np

from omakase.evaluate.members.leg import LEAST_KEPT, levelled, needed, strengthened
from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.members.sentence import with_entry, with_value
from omakase.evaluate.results.diagrams import curves
from omakase.project.commands import replace
from omakase.project.demo import demo_project
from omakase.project.library import materials_of
from omakase.project.model import find_brief, find_candidate
from omakase.project.spans import ForceLoad, SideLoad, StripForm
from omakase.project.validation import brief_problems, candidate_problems
from tests.support import EVALUATOR

PROJECT = demo_project()
MATERIALS = materials_of(PROJECT)
LEAF = find_brief(PROJECT, "b11")
CARBON = find_candidate(LEAF, "c2")


class Leaf(unittest.TestCase):
    def test_the_wraps_carry_the_twist(self) -> None:
        """Without wraps it is as strong and stiff in bending and fails in twist."""
        bare = EVALUATOR.evaluate(LEAF, find_candidate(LEAF, "c4"), MATERIALS)
        wrapped = EVALUATOR.evaluate(LEAF, CARBON, MATERIALS)
        self.assertFalse(bare.passes)
        self.assertEqual(bare.governing.check, "twist")
        self.assertTrue(wrapped.passes)
        self.assertGreater(bare.worst("twist").value, 2.0 * wrapped.worst("twist").value)
        self.assertLess(bare.worst("deflection").value, wrapped.worst("deflection").value)

    def test_a_ply_to_be_sanded_does_not_count(self) -> None:
        """The outer glass weighs, and adds nothing to strength or stiffness."""
        layers = tuple(layer for layer in CARBON.layers if layer.structural)
        with_it, without = (
            EVALUATOR.evaluate(LEAF, own, MATERIALS) for own in (CARBON, replace(CARBON, layers=layers))
        )
        self.assertGreater(with_it.mass, without.mass)
        self.assertAlmostEqual(with_it.worst("twist").value / without.worst("twist").value, 1.0, delta=0.05)
        self.assertAlmostEqual(with_it.worst("deflection").value / without.worst("deflection").value, 1.0, delta=0.05)

    def test_drag_works_an_edge_and_says_where(self) -> None:
        check = next(own for own in EVALUATOR.evaluate(LEAF, CARBON, MATERIALS).checks
                     if own.check == "face_failure" and own.case_id == "l2")  # fmt: skip
        self.assertAlmostEqual(abs(check.place.y), 0.02, delta=0.0101)
        turned = with_value(LEAF, ("load_cases", 1, "loads", 1, "force"), -260.0)
        other = next(own for own in EVALUATOR.evaluate(turned, CARBON, MATERIALS).checks
                     if own.check == "face_failure" and own.case_id == "l2")  # fmt: skip
        self.assertAlmostEqual(other.place.y, -check.place.y)

    def test_what_the_clamp_presses(self) -> None:
        """1,000 N at 360 mm held over 60 mm of a leg 60 mm wide: R/ba + 6M/ba², by hand."""
        check = next(own for own in EVALUATOR.evaluate(LEAF, CARBON, MATERIALS).checks
                     if own.check == "clamp_pressure" and own.case_id == "l1")  # fmt: skip
        pressure = 1000.0 / 0.06**2 + 6.0 * 1000.0 * 0.36 / 0.06**3
        self.assertAlmostEqual(check.value, 1.5 * pressure, delta=0.002 * pressure)
        self.assertEqual(check.place.x, 0.0)
        shorter = with_value(LEAF, ("member", "supports", 0, "along"), 0.03)
        worse = EVALUATOR.evaluate(shorter, CARBON, MATERIALS).worst("clamp_pressure")
        self.assertLess(worse.reserve_factor, 0.5 * check.reserve_factor)
        edge = with_value(LEAF, ("member", "supports", 0, "along"), 0.0)
        self.assertIsNone(EVALUATOR.evaluate(edge, CARBON, MATERIALS).worst("clamp_pressure"))

    def test_the_thickness_that_would_level_it(self) -> None:
        """A sheet under a force at its end: as the root of moment per width (Timoshenko, beams of uniform strength)."""
        tip = replace(LEAF, load_cases=LEAF.load_cases[:1])
        sheet = find_candidate(LEAF, "c1")
        shown = {own.key: own for own in curves(tip, EVALUATOR.evaluate(tip, sheet, MATERIALS), 0)}
        law, x = shown["thickness"].wanted, shown["thickness"].x
        width = 0.06 - 0.02 * x / 0.36
        np.testing.assert_allclose(law / law[0], np.sqrt((1.0 - x / 0.36) * 0.06 / width), atol=0.002)
        reserve = shown["reserve"].values[0]
        required = tip.limits.reserve_factor
        self.assertAlmostEqual(law[0] / shown["thickness"].values[0], (required / reserve) ** 0.5, places=6)

    def test_that_thickness_in_whole_plies(self) -> None:
        """What is sanded off is added; the last ply stays; no place asks for more than the plies that carry it now."""
        result = EVALUATOR.evaluate(LEAF, CARBON, MATERIALS)
        curve = next(own for own in curves(LEAF, result, 0) if own.key == "thickness")
        layers = result.response.parts[0].stretch.stack.layers
        structural = [layer.thickness for layer in layers if layer.structural]
        idle = sum(layer.thickness for layer in layers) - sum(structural)
        self.assertGreater(idle, 0.0)
        plies = (curve.wanted - idle) / (sum(structural) / len(structural))
        np.testing.assert_allclose(plies, np.round(plies), atol=1e-6)
        self.assertTrue((plies <= len(structural)).all() and (plies >= 1.0).all())
        self.assertEqual(curve.wanted_at(0.0), curve.wanted[0])

    def test_what_is_wrong_is_told(self) -> None:
        off = with_entry(LEAF, ("load_cases", 0, "loads"), 0, SideLoad(10.0, 0.5))
        self.assertIn("beyond the member", dict(brief_problems(off))["load_cases[0]"])
        seat = find_brief(PROJECT, "b5")
        wrong = with_entry(seat, ("load_cases", 0, "loads"), 0, SideLoad(10.0, 0.1))
        self.assertIn("only a leg carries a force edgewise", dict(brief_problems(wrong))["load_cases[0]"])
        strip = replace(CARBON, form=StripForm())
        self.assertIn("not made for a leg", candidate_problems(LEAF, strip, MATERIALS)[0][1])


class Levers(unittest.TestCase):
    def test_what_a_cantilever_needs(self) -> None:
        """A force at the tip of an even leg: thickness by the root of the distance to the tip."""
        even = replace(CARBON, form=replace(CARBON.form, width=CARBON.form.width[:1]))
        case = replace(LEAF.load_cases[0], loads=(ForceLoad(-1000.0, 0.36),))
        x, need = needed(replace(LEAF, load_cases=(case,)), even)
        np.testing.assert_allclose(need, np.sqrt(1.0 - x / 0.36), atol=2e-4)

    def test_plies_end_where_they_are_not_needed(self) -> None:
        x, need = needed(LEAF, CARBON)
        before = EVALUATOR.evaluate(LEAF, CARBON, MATERIALS)
        masses = []
        for least in LEAST_KEPT:
            option = levelled(LEAF, CARBON, x, need, least)
            assert option is not None
            result = EVALUATOR.evaluate(LEAF, option.candidate, MATERIALS)
            self.assertTrue(result.ok, result.error)
            masses.append(result.mass)
            self.assertEqual(len(option.candidate.layers), len(CARBON.layers))
            outer = [layer.zone for layer in option.candidate.layers[:4]]
            self.assertEqual(outer, ["", "", "", ""])  # the sanding ply, the wraps and the outermost along run on
        self.assertTrue(all(mass < before.mass for mass in masses))

    def test_extra_plies_where_it_works_hardest(self) -> None:
        x, need = needed(LEAF, CARBON)
        thin = replace(CARBON, layers=(*CARBON.layers[:3], *CARBON.layers[9:]))
        before = EVALUATOR.evaluate(LEAF, thin, MATERIALS)
        strengths = []
        for option in strengthened(LEAF, thin, x, need, "si"):
            result = EVALUATOR.evaluate(LEAF, option.candidate, MATERIALS)
            strengths.append(result.worst("face_failure").reserve_factor)
        self.assertEqual(len(strengths), 6)
        self.assertGreater(strengths[0], before.worst("face_failure").reserve_factor)
        self.assertEqual(strengths[:2], sorted(strengths[:2]))

    def test_offered_by_the_kind(self) -> None:
        kind = kind_of(LEAF)
        self.assertIn("level", [lever.name for lever in kind.levers(LEAF, CARBON, "si", True)])
        self.assertIn("extra plies", [lever.name for lever in kind.levers(LEAF, CARBON, "si", False)])
