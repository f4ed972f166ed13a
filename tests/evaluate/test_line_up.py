"""From a project to the line-up and the records of the command line."""

from __future__ import annotations

import json
import math
import unittest
from collections.abc import Iterator
from functools import cache

import numpy as np

from omakase.core.materials.conditions import heat_factor
from omakase.core.members.field import Place
from omakase.core.members.panel_given import FULL, LINEAR, QUICK
from omakase.core.members.panel_grid import assembler
from omakase.evaluate.results.decision import decision
from omakase.evaluate.results.engine import Evaluator
from omakase.evaluate.results.lineup import LineUp
from omakase.evaluate.results.profile import deflection_map, thickness_profile
from omakase.evaluate.results.quick import quickly_reduced
from omakase.evaluate.results.records import evaluate_brief, project_record
from omakase.evaluate.results.relative import resolved
from omakase.evaluate.results.wording import (
    brief_sentences,
    cell_explained,
    distance_text,
    governing_text,
    limit_text,
    percent_text,
    verdict,
)
from omakase.project import edits
from omakase.project.commands import replace
from omakase.project.demo import demo_project
from omakase.project.library import materials_of
from omakase.project.model import Candidate, LayerRecord, Limits, LoadCase
from omakase.project.panels import PressureLoad
from omakase.project.validation import brief_problems
from tests.support import EVALUATOR


@cache
def line_up(index: int = 0) -> LineUp:
    project = demo_project()
    return evaluate_brief(project, project.briefs[index], EVALUATOR)


class Rows(unittest.TestCase):
    def test_limits_come_first(self) -> None:
        keys = [row.key for row in line_up().rows]
        self.assertEqual(
            keys, ["deflection", "frequency", "reserve_factor", "mass", "thickness", "areal_mass", "price", "hours"]
        )
        self.assertEqual([row.limit is None for row in line_up(2).rows], [False, False, *[True] * 6])

    def test_the_demo_tells_the_story_it_should(self) -> None:
        """The metal floor is heavy, one ply each side sags, the others meet the brief."""
        self.assertEqual(
            [verdict(result) for result in line_up().results],
            ["fails mass", "fails deflection", *["meets the brief"] * 3],
        )

    def test_cells_agree_with_the_checks(self) -> None:
        for row in line_up().rows:
            for cell, result in zip(row.cells, line_up().results, strict=True):
                if row.limit is not None and cell.check is not None:
                    self.assertEqual(cell.status == "meets", cell.check.passes or cell.check.kind == "strength")
                if row.key == "mass":
                    panel = result.response.panel
                    self.assertAlmostEqual(
                        cell.value, sum(result.stack.areal_mass().values()) * panel.length * panel.width
                    )

    def test_differences_are_from_the_baseline(self) -> None:
        row = line_up().rows[0]
        self.assertIsNone(row.cells[0].difference)
        for cell in row.cells[1:]:
            self.assertAlmostEqual(cell.difference, cell.value / row.cells[0].value - 1.0)

    def test_ties_are_between_what_cannot_be_told_apart(self) -> None:
        row = line_up().rows[0]
        values = [cell.value for cell in row.cells]
        self.assertTrue(row.cells[3].tie)  # 2.18 mm against the best, 2.12 mm
        self.assertFalse(
            any(cell.tie for cell, value in zip(row.cells, values, strict=True) if value > 2 * min(values))
        )

    def test_a_broken_candidate_does_not_spoil_the_rest(self) -> None:
        project = demo_project()
        brief = project.briefs[0]
        broken = edits.set_layer(brief.candidates[1], 0, LayerRecord("unobtainium"))
        changed = replace(brief, candidates=(brief.candidates[0], broken, *brief.candidates[2:]))
        lineup = evaluate_brief(project, changed, EVALUATOR)
        self.assertIn("unobtainium", lineup.results[1].error)
        self.assertEqual([cell.value is None for cell in lineup.rows[0].cells], [False, True, False, False, False])
        self.assertEqual(lineup.rows[0].cells[2].value, line_up().rows[0].cells[2].value)


class Accuracies(unittest.TestCase):
    def test_quick_and_full_order_differ_by_less_than_one_percent(self) -> None:
        """What is shown first and what follows: the rows of the line-up; for forms see test_panel_forms."""
        project = demo_project()
        for index, brief in enumerate(project.briefs[:6]):
            full = line_up(index)
            for j, candidate in enumerate(brief.candidates):
                if candidate.measured is not None:
                    continue
                quick = EVALUATOR.evaluate(brief, candidate, materials_of(project), QUICK)
                self.assertGreaterEqual(quick.rough, bool(full.results[j].moving_far))
                if quick.rough:
                    quick = EVALUATOR.estimate(brief, candidate, materials_of(project))
                one = {c.check: c for c in full.results[j].checks if c.check in ("deflection", "frequency")}
                for check in (quick.worst("deflection"), quick.worst("frequency")):
                    exact = full.results[j].worst(check.check) or one[check.check]
                    self.assertAlmostEqual(check.value / exact.value, 1.0, delta=0.01, msg=f"{brief.id} {candidate.id}")

    def test_what_is_prepared_answers_edits_as_the_full_order_does(self) -> None:
        """Reserve factors of every check after edits to thickness, angle and plies, for every demo candidate."""
        project = demo_project()
        materials = materials_of(project)
        off = []
        for brief in project.briefs[:6]:
            for candidate in brief.candidates:
                if not quickly_reduced(brief, candidate):
                    continue
                evaluator = Evaluator()
                evaluator.prepare(brief, candidate, materials)
                self.assertTrue(evaluator.prepared(brief, candidate))
                layer = candidate.layers[-1]
                turned = edits.set_layer(candidate, len(candidate.layers) - 1, replace(layer, angle=layer.angle + 5.0))
                for changed in (turned, edits.insert_layers(turned, 0, [candidate.layers[0]])):
                    quick = evaluator.quick(brief, changed, materials)
                    self.assertEqual(quick.accuracy.patch_order, FULL.patch_order)
                    full = EVALUATOR.evaluate(brief, changed, materials, LINEAR)
                    self.assertEqual(len(quick.checks), len(full.checks))
                    exact = {c.key: c.reserve_factor for c in full.checks}
                    for check in quick.checks:
                        reserve = min(exact[check.key], 20.0)
                        off.append(abs(min(check.reserve_factor, 20.0) / reserve - 1.0))
        self.assertLess(np.percentile(off, 95), 0.02)
        self.assertLess(max(off), 0.15)  # core shear in the corner of the panel, where it rises without end

    def test_another_brief_releases_shapes_and_grids_and_the_answers_stay_the_same(self) -> None:
        project, evaluator = demo_project(), Evaluator()
        materials, (brief, other) = materials_of(project), project.briefs[:2]
        candidate = brief.candidates[1]
        evaluator.prepare(brief, candidate, materials)
        before = evaluator.quick(brief, candidate, materials).worst("deflection").value
        evaluator.turn_to(brief)
        self.assertTrue(evaluator.prepared(brief, candidate))
        evaluator.turn_to(other)
        self.assertFalse(evaluator.prepared(brief, candidate))
        self.assertEqual(assembler.cache_info().currsize, 0)
        evaluator.prepare(brief, candidate, materials)
        self.assertAlmostEqual(evaluator.quick(brief, candidate, materials).worst("deflection").value / before, 1.0)

    def test_the_promise_about_single_edits(self) -> None:
        """What the docstring of ``ReducedPanel`` promises, on a part of the edits that it was measured with."""
        project = demo_project()
        materials = materials_of(project)
        sag, first = [], []
        for index, own in ((0, 2), (2, 1)):
            brief = project.briefs[index]
            candidate = brief.candidates[own]
            evaluator = Evaluator()
            evaluator.prepare(brief, candidate, materials)
            for changed in self.single_edits(candidate):
                quick = evaluator.quick(brief, changed, materials)
                self.assertTrue(quick.accuracy.layers)  # from the shapes, not by the quick order
                full = EVALUATOR.evaluate(brief, changed, materials, LINEAR)
                sag.append(abs(quick.worst("deflection").value / full.worst("deflection").value - 1.0))
                first.append(abs(quick.worst("frequency").value / full.worst("frequency").value - 1.0))
        self.assertGreater(np.mean(np.array(sag) < 0.01), 0.97)
        self.assertGreater(np.mean(np.array(first) < 0.005), 0.95)
        self.assertLess(max(sag), 0.06)
        self.assertLess(max(first), 0.015)

    @staticmethod
    def single_edits(candidate: Candidate) -> Iterator[Candidate]:
        for i, layer in enumerate(candidate.layers):
            if layer.role == "core":
                for share in (0.5, 3.0):
                    yield edits.set_layer(candidate, i, replace(layer, thickness=layer.thickness * share))
                for other in ("pvc60", "hc48", "balsa150"):
                    yield edits.set_layer(candidate, i, replace(layer, material=other))
            else:
                for turn in (5.0, -5.0, 30.0, -30.0, 90.0):
                    yield edits.set_layer(candidate, i, replace(layer, angle=layer.angle + turn))
                for other in ("ud200", "twill200", "satin300"):
                    yield edits.set_layer(candidate, i, replace(layer, material=other))
                yield edits.insert_layers(candidate, i, [layer])

    def test_turned_one_way_or_the_other_it_is_the_same(self) -> None:
        """A panel symmetric about both axes cannot tell +θ from −θ."""
        brief = demo_project().briefs[0]
        brief = replace(brief, load_cases=(LoadCase("l1", "air", (PressureLoad(3e3),)),))
        materials = materials_of(demo_project())
        candidate = brief.candidates[1]
        evaluator = Evaluator()
        evaluator.prepare(brief, candidate, materials)
        values = []
        for turn in (25.0, -25.0):
            changed = edits.set_layer(candidate, 0, replace(candidate.layers[0], angle=turn))
            result = evaluator.quick(brief, changed, materials)
            values.append((result.worst("deflection").value, result.worst("frequency").value))
        np.testing.assert_allclose(values[0], values[1], rtol=1e-3)

    def test_limits_against_the_baseline_follow_it(self) -> None:
        project = demo_project()
        brief, materials, evaluator = project.briefs[0], materials_of(project), Evaluator()
        limits = Limits(against=("mass", "deflection", "thickness"))
        asked = replace(brief, limits=limits)
        numbers = resolved(asked, materials, evaluator).limits
        base = evaluator.evaluate(brief, brief.candidates[0], materials)
        self.assertAlmostEqual(numbers.mass, base.mass)
        self.assertAlmostEqual(numbers.thickness, 0.004)
        self.assertAlmostEqual(numbers.deflection, base.worst("deflection").value)
        shown = evaluate_brief(project, asked, evaluator)
        self.assertTrue(shown.results[0].passes)  # the baseline is no worse than itself
        self.assertFalse(shown.results[2].passes)  # thicker than the sheet
        thicker = edits.set_layer(brief.candidates[0], 0, replace(brief.candidates[0].layers[0], thickness=0.006))
        moved = replace(asked, candidates=(thicker, *brief.candidates[1:]))
        self.assertAlmostEqual(resolved(moved, materials, evaluator).limits.mass / numbers.mass, 1.5)
        tighter = replace(asked, limits=replace(limits, mass=0.4))
        self.assertEqual(resolved(tighter, materials, evaluator).limits.mass, 0.4)
        gone = replace(asked, baseline="")
        self.assertIs(resolved(gone, materials, evaluator), gone)
        told = dict(brief_problems(gone))
        self.assertIn("counts for nothing", told["limits.against"])
        self.assertTrue(evaluator.evaluate(gone, gone.candidates[2], materials).ok)
        self.assertIn("no heavier than the baseline", " ".join(brief_sentences(asked, "si")))

    def test_the_decision_in_one_sentence(self) -> None:
        project = demo_project()
        brief, materials, evaluator = project.briefs[0], materials_of(project), Evaluator()
        self.assertEqual(
            decision(line_up(), "si"),
            "Lightest that passes: Two above, one below, 0.556 kg, 81% lighter than the baseline.",
        )
        hard = replace(brief, limits=replace(brief.limits, deflection=0.0005))
        told = decision(evaluate_brief(project, hard, evaluator), "si")
        self.assertIn("None passes; nearest is ", told)
        self.assertRegex(told, r"deflection \d+% over|deflection \d+ times over")
        self.assertEqual(decision(None, "si"), "")
        none = replace(brief, candidates=brief.candidates[:1])
        self.assertIn("only the baseline", decision(evaluate_brief(project, none, evaluator), "si"))
        self.assertEqual(materials_of(project), materials)

    def test_heat_and_water_weaken_what_the_resin_carries(self) -> None:
        """Interlaminar shear goes with the resin alone, the quick answer with the full one, stiffness not at all."""
        sheet = LayerRecord("twill200")
        candidate = Candidate("c", "solid", layers=(sheet,) * 30)  # too thick to stretch
        project = demo_project()
        room, materials = project.briefs[0], materials_of(project)
        hot = replace(room, surroundings=replace(room.surroundings, temperature=318.15, wet=True))
        evaluator = Evaluator()
        cool, warm = (evaluator.evaluate(brief, candidate, materials) for brief in (room, hot))
        share = heat_factor(materials["twill200"], 318.15, True)
        before, after = cool.worst("interlaminar_shear"), warm.worst("interlaminar_shear")
        self.assertAlmostEqual(after.reserve_factor / before.reserve_factor, share, places=5)
        self.assertTrue(any("45 °C (113 °F), wet" in remark for remark in after.remarks), after.remarks)

        self.assertEqual(cool.worst("deflection").value, warm.worst("deflection").value)
        evaluator.prepare(hot, candidate, materials)
        quick = evaluator.quick(hot, candidate, materials).worst("interlaminar_shear")
        self.assertAlmostEqual(quick.reserve_factor / after.reserve_factor, 1.0, delta=0.05)

    def test_the_cache_is_keyed_by_what_counts(self) -> None:
        project = demo_project()
        brief, materials = project.briefs[0], materials_of(project)
        EVALUATOR.evaluate(brief, brief.candidates[1], materials, FULL)
        renamed = replace(brief.candidates[1], name="other", note="x")
        self.assertTrue(EVALUATOR.has_response(brief, renamed, materials, FULL))
        limits = replace(brief, limits=replace(brief.limits, deflection=1.0))
        self.assertTrue(EVALUATOR.has_response(limits, renamed, materials, FULL))
        thicker = edits.set_layer(renamed, 1, replace(renamed.layers[1], thickness=0.0101))
        self.assertFalse(EVALUATOR.has_response(brief, thicker, materials, FULL))
        longer = replace(brief, member=replace(brief.member, length=0.63))
        self.assertFalse(EVALUATOR.has_response(longer, renamed, materials, FULL))


class Pictures(unittest.TestCase):
    def test_the_map_meets_the_largest_deflection(self) -> None:
        result = line_up().results[3]
        case = result.response.cases[0]
        self.assertAlmostEqual(
            np.abs(deflection_map(result, 0, 200, 150)).max() / case.largest_deflection[0], 1.0, delta=5e-3
        )

    def test_stress_through_the_thickness_balances_the_pressure(self) -> None:
        """At mid-span of a strip on two supports, Σ σ_x z t is the moment q L²/8 per width by statics."""
        project = demo_project()
        brief = project.briefs[0]
        supports = replace(brief.member.supports, y0="free", y1="free")
        case = replace(brief.load_cases[1], loads=(replace(brief.load_cases[1].loads[0], pressure=1000.0),))
        strip = replace(
            brief, member=replace(brief.member, length=0.3, width=0.9, supports=supports), load_cases=(case,)
        )
        result = EVALUATOR.evaluate(strip, brief.candidates[3], materials_of(project))
        profile = thickness_profile(result, 0, Place(0.15, 0.45))
        force, z = 0.0, profile.z
        for k in range(0, len(z), 2):
            t, (s0, s1), (z0, z1) = z[k] - z[k + 1], profile.stress[k : k + 2, 0], z[k : k + 2]
            force += t / 6.0 * (2 * s0 * z0 + s0 * z1 + s1 * z0 + 2 * s1 * z1)
        self.assertAlmostEqual(abs(force) / (1000.0 * 0.3**2 / 8.0), 1.0, delta=0.02)


class Words(unittest.TestCase):
    def test_the_brief_in_sentences(self) -> None:
        text = " ".join(brief_sentences(demo_project().briefs[0], "si"))
        for part in (
            "620 mm long and 440 mm wide",
            "1100 N from a foot of 240 × 90 mm on face A at (200, 220 mm)",
            "4 times its own weight",
            "sag at most 6 mm",
            "at least 45 Hz",
            "1.5 times 1.15 for fitting",
        ):
            self.assertIn(part, text)
        band = " ".join(brief_sentences(demo_project().briefs[1], "inch_pound"))
        self.assertIn("No mode lies between 85 and 130 Hz", band)
        self.assertIn("face B", band)

    def test_cells_in_words(self) -> None:
        deflection = line_up().rows[0]
        self.assertEqual(limit_text(deflection, "si"), "at most 6.00 mm")
        self.assertEqual(distance_text(deflection, deflection.cells[1]), "7% over")
        self.assertIn("margin", distance_text(deflection, deflection.cells[2]))
        explained = cell_explained(deflection, deflection.cells[1], "si")
        for part in ("6.41 mm", "Method: plate solution", "estimated by a rule", "times the thickness"):
            self.assertIn(part, explained)
        self.assertEqual(percent_text(-0.1934), "−19%")
        self.assertEqual(percent_text(11.4), "×12")
        self.assertEqual(governing_text(line_up().results[1]), ("Deflection 0.94", "driver steps in"))


class Records(unittest.TestCase):
    def test_json_holds_no_infinity_and_all_that_is_promised(self) -> None:
        record = json.loads(json.dumps(project_record(demo_project(), EVALUATOR), allow_nan=False))
        self.assertEqual([brief["id"] for brief in record["briefs"]], [f"b{k}" for k in range(1, 15)])
        candidate = record["briefs"][0]["candidates"][1]
        self.assertAlmostEqual(sum(candidate["areal_mass_parts"].values()), candidate["areal_mass"])
        for check in candidate["checks"]:
            for key in (
                "check",
                "reserve_factor",
                "load_case",
                "load_case_id",
                "place",
                "layer",
                "value",
                "allowable",
                "method",
                "source",
            ):
                self.assertIn(key, check)
            if check["reserve_factor"] is not None:
                self.assertEqual(check["passes"], check["reserve_factor"] >= check["required"])
        self.assertTrue(math.isclose(candidate["checks"][0]["reserve_factor"], 0.9364, rel_tol=5e-3))


if __name__ == "__main__":
    unittest.main()
