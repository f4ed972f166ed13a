"""Round panels in the brief: their sentence, problems, file, search and results."""

from __future__ import annotations

import math
import unittest

import numpy as np

from omakase.core.members.panel import PanelResponse
from omakase.core.members.panel_given import LINEAR, QUICK
from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.members.sentence import Act, Choice, Number, value_at, with_value
from omakase.evaluate.results.profile import deflection_map, shapes
from omakase.evaluate.results.records import candidate_record
from omakase.evaluate.sizing.forms import forms
from omakase.evaluate.sizing.levers import levers
from omakase.evaluate.sizing.study import parameters
from omakase.evaluate.testing.planning import total_force
from omakase.project import translate
from omakase.project.commands import replace
from omakase.project.demo import demo_project
from omakase.project.library import materials_of
from omakase.project.model import Brief, Zone, find_candidate
from omakase.project.panels import BoltCircle, EdgeLoad, PatchLoad
from omakase.project.storage import from_bytes, to_bytes
from omakase.project.validation import brief_problems, candidate_problems
from tests.support import EVALUATOR

PROJECT = demo_project()
MATERIALS = materials_of(PROJECT)
HATCH = next(brief for brief in PROJECT.briefs if brief.id == "b10")
BULKHEAD = next(brief for brief in PROJECT.briefs if brief.id == "b9")
PLYWOOD, FOAM, DISH = (find_candidate(HATCH, name) for name in ("c1", "c2", "c3"))


def held(brief: Brief, **changes: object) -> Brief:
    supports = replace(brief.member.supports, **changes)
    return replace(brief, member=replace(brief.member, supports=supports))


def choice(brief: Brief, name: str) -> Choice:
    return next(part for part in kind_of(brief).sentence(brief) if isinstance(part, Choice) and part.name == name)


def load(brief: Brief, *loads: object) -> Brief:
    return replace(brief, load_cases=(replace(brief.load_cases[0], loads=loads),))


class Records(unittest.TestCase):
    def test_every_field_of_the_sentence_edits_and_reads_back(self) -> None:
        brief = held(HATCH, x0="elastic", bed=2e6, circle=BoltCircle())
        for part in kind_of(brief).sentence(brief):
            if isinstance(part, Number):
                self.assertNotEqual(with_value(brief, part.path, value_at(brief, part.path) * 1.01), brief)
            elif isinstance(part, Choice):
                for _, _, value in part.options:
                    self.assertEqual(value_at(part.put(brief, value), part.path), value)
            elif isinstance(part, Act):
                self.assertNotEqual(part.change(brief), brief)
        project = replace(PROJECT, briefs=(brief,))
        self.assertEqual(from_bytes(to_bytes(project), "t").briefs, (brief,))

    def test_a_rectangle_on_bolts_becomes_round_on_bolts_and_comes_back(self) -> None:
        outline = choice(BULKHEAD, "Outline of the panel")
        round_one = outline.put(BULKHEAD, "round")
        circle = round_one.member.supports.circle
        self.assertEqual(circle.count, 12)
        self.assertEqual(brief_problems(round_one), [])
        self.assertEqual(len(translate.panel(round_one).held.bolts), 12)
        row = replace(BULKHEAD.member.supports.bolts[0], pitch=0.0)
        self.assertIsNone(outline.put(held(BULKHEAD, bolts=(row,)), "round").member.supports.circle)
        back = choice(round_one, "Outline of the panel").put(round_one, "rectangle")
        self.assertEqual(translate.panel(back), translate.panel(BULKHEAD))

    def test_bolts_round_an_oval_are_evenly_apart(self) -> None:
        member = replace(HATCH.member, supports=replace(HATCH.member.supports, circle=BoltCircle(24, 0.01, 0.01)))
        bolts = translate.circle_bolts(member)
        steps = [math.hypot(a.x - b.x, a.y - b.y) for a, b in zip(bolts, (*bolts[1:], bolts[0]), strict=True)]
        self.assertLess(max(steps) / min(steps), 1.02)

    def test_on_paper_it_reads_as_in_the_window(self) -> None:
        text = kind_of(HATCH).plain_member(held(HATCH, x0="free", circle=BoltCircle(10)), "si")
        self.assertEqual(
            text,
            "A round or oval panel, 420 mm long and 300 mm wide; its edge free; 10 bolts round it, 15 mm inside the "
            "edge, washers 20 mm.",
        )

    def test_what_cannot_be_is_told_at_its_field(self) -> None:
        for brief, field, words in (
            (held(HATCH, x0="free"), "member", "not held|free"),
            (held(HATCH, circle=BoltCircle(2)), "member", "3 to 80"),
            (held(HATCH, circle=BoltCircle(8, 0.2)), "member", "inside the panel"),
            (load(HATCH, PatchLoad(100.0, 0.04, 0.04, 0.05, 0.05)), "load_cases[0]", "beyond the round panel"),
            (load(HATCH, EdgeLoad(-1e3, ends_far=-2e3)), "load_cases[0]", "the same all along"),
            (replace(HATCH, member=replace(HATCH.member, length=1.5)), "member", "4 times as long"),
        ):
            with self.subTest(words=words):
                problems = brief_problems(brief)
                self.assertEqual([own for own, _ in problems], [field])
                self.assertRegex(problems[0][1], words)
                self.assertFalse(EVALUATOR.evaluate(brief, FOAM, MATERIALS).ok)
        zoned = replace(
            FOAM, zones=(Zone("z1", "patch", 0.1, 0.2),), layers=(replace(FOAM.layers[0], zone="z1"), *FOAM.layers)
        )
        ((place, message),) = candidate_problems(HATCH, zoned, MATERIALS)
        self.assertEqual(place, ".form")
        self.assertIn("rectangular", message)
        form = kind_of(HATCH).form_sentence(HATCH, zoned, MATERIALS)
        (remove,) = (part for part in form if isinstance(part, Act))
        self.assertEqual(candidate_problems(HATCH, remove.change(zoned), MATERIALS), [])


class Results(unittest.TestCase):
    def test_the_demo(self) -> None:
        for candidate, passes in ((PLYWOOD, False), (FOAM, True), (DISH, True)):
            result = EVALUATOR.evaluate(HATCH, candidate, MATERIALS)
            self.assertEqual(result.passes, passes, candidate.name)
        dish = EVALUATOR.evaluate(HATCH, DISH, MATERIALS)
        self.assertTrue(any(check.check == "buckling" for check in dish.checks))
        self.assertTrue(any("spherical cap" in remark for check in dish.checks for remark in check.remarks))

    def test_its_mass_is_that_of_its_area(self) -> None:
        result = EVALUATOR.evaluate(HATCH, FOAM, MATERIALS)
        flat = math.pi / 4.0 * HATCH.member.length * HATCH.member.width
        self.assertAlmostEqual(result.mass, flat * result.areal_mass)
        risen = EVALUATOR.evaluate(HATCH, replace(FOAM, form=replace(FOAM.form, rise_along=0.03)), MATERIALS, LINEAR)
        self.assertGreater(risen.mass, 1.01 * result.mass)
        areas = kind_of(HATCH).layer_areas(HATCH, FOAM)
        self.assertAlmostEqual(areas[0], flat)
        self.assertAlmostEqual(total_force(HATCH, HATCH.load_cases[1]), -1.7 * 0.5 * 1.225 * 34.0**2 * flat)

    def test_twice_the_load_sags_twice_as_far(self) -> None:
        once = EVALUATOR.evaluate(HATCH, FOAM, MATERIALS, LINEAR)
        twice = EVALUATOR.evaluate(
            load(HATCH, replace(HATCH.load_cases[0].loads[0], force=360.0)), FOAM, MATERIALS, LINEAR
        )
        first, second = (own.response.cases[0].largest_deflection[0] for own in (once, twice))
        self.assertAlmostEqual(second / first, 2.0, places=9)

    def test_the_quick_answer_is_near(self) -> None:
        quick, full = (EVALUATOR.evaluate(HATCH, FOAM, MATERIALS, own) for own in (QUICK, LINEAR))
        exact = {check.key: check for check in full.checks}
        for check in quick.checks:
            if check.check in ("deflection", "frequency", "core_shear", "ply"):
                self.assertLess(abs(check.reserve_factor / exact[check.key].reserve_factor - 1.0), 0.05, check.key)

    def test_reactions_balance_the_load(self) -> None:
        bolted = held(HATCH, x0="free", circle=BoltCircle(10, 0.014, 0.016))
        result = EVALUATOR.evaluate(bolted, FOAM, MATERIALS, LINEAR)
        record = candidate_record(result, False)
        forces = [own["force"] for own in record["reactions"]]
        self.assertEqual(len(forces), 20)
        self.assertAlmostEqual(sum(forces[:10]), 180.0, places=3)

    def test_pictures_end_at_its_edge(self) -> None:
        result = EVALUATOR.evaluate(HATCH, FOAM, MATERIALS)
        assert isinstance(result.response, PanelResponse)
        field = deflection_map(result, 0, 41, 31)
        inside = np.isfinite(field)
        self.assertAlmostEqual(inside.mean(), math.pi / 4.0, delta=0.05)
        self.assertAlmostEqual(-np.nanmin(field), result.response.cases[0].largest_deflection[0], delta=2e-5)
        frequency = next(check for check in result.checks if check.check == "frequency")
        shape = shapes(result, frequency)[0].map(21, 21)
        self.assertAlmostEqual(float(np.nanmax(np.abs(shape))), 1.0)

    def test_ways_out_and_studies_offer_what_a_round_panel_can_have(self) -> None:
        offered = {lever.name for lever in levers(HATCH, FOAM, MATERIALS, "si", False)}
        self.assertLessEqual({"arch", "edges"}, offered)
        self.assertFalse({"ribs", "lips", "dish"} & offered)
        self.assertEqual([family.name for family in forms(HATCH, FOAM, "si")], ["skins", "core", "dish"])
        named = {parameter.key for parameter in parameters(HATCH, FOAM, MATERIALS)}
        self.assertIn("rise_along", named)
        self.assertNotIn("rise_across", named)


if __name__ == "__main__":
    unittest.main()
