"""Studies, sensitivity and explained differences against closed forms and against evaluating by hand."""

from __future__ import annotations

import math
import unittest

import numpy as np

from omakase.core.errors import OmakaseError
from omakase.core.members.panel_given import LINEAR
from omakase.evaluate.results.engine import Evaluator
from omakase.evaluate.results.lineup import line_up
from omakase.evaluate.results.outcome import outcome
from omakase.evaluate.sizing.explain import explain
from omakase.evaluate.sizing.sensitivity import SensitivitySearch, inputs
from omakase.evaluate.sizing.study import Curve, Map, Study, as_command, csv_rows, measures, parameters
from omakase.evaluate.sizing.workers import Workers
from omakase.project import edits
from omakase.project.commands import replace
from omakase.project.demo import demo_project
from omakase.project.library import materials_of
from omakase.project.model import find_candidate
from omakase.project.spans import SparMember
from tests.support import EVALUATOR

PROJECT = demo_project()
MATERIALS = materials_of(PROJECT)
BRIEF = PROJECT.briefs[0]
CANDIDATE = find_candidate(BRIEF, "c2")
PARAMETERS = {own.key: own for own in parameters(BRIEF, CANDIDATE, MATERIALS)}
MEASURES = {own.key: own for own in measures(BRIEF)}


def curve(parameter: str, measure: str) -> Curve:
    found = list(Study(BRIEF, CANDIDATE, MATERIALS, EVALUATOR).curve(PARAMETERS[parameter], MEASURES[measure], 9))
    return found[-1]


class Studies(unittest.TestCase):
    def test_crossings_are_where_the_full_evaluator_changes_its_mind(self) -> None:
        found = curve("core1", "share")
        self.assertEqual([own.above for own in found.crossings], [True, False])  # too soft below, too thick above
        for own in found.crossings:
            sides = []
            for by in (-2e-5, 2e-5):
                layer = replace(CANDIDATE.layers[1], thickness=own.value + by)
                changed = edits.set_layer(CANDIDATE, 1, layer)
                sides.append(EVALUATOR.evaluate(BRIEF, changed, MATERIALS).passes)
            self.assertEqual(sides, [not own.above, own.above])

    def test_deflection_is_in_proportion_to_the_loads(self) -> None:
        """A panel that does not move far: twice the load, twice the deflection."""
        stiff = edits.set_layer(CANDIDATE, 1, replace(CANDIDATE.layers[1], thickness=0.025))
        measure = replace(MEASURES["deflection"], limit=0.0015)
        found = list(Study(BRIEF, stiff, MATERIALS, EVALUATOR).curve(PARAMETERS["loads"], measure, 9))[-1]
        np.testing.assert_allclose(found.y / found.x, found.y[0] / found.x[0], rtol=1e-9)
        self.assertAlmostEqual(found.crossings[0].value, 0.0015 / (found.y[0] / found.x[0]), delta=2e-3)

    def test_an_angle_of_a_cloth_alike_both_ways_repeats_every_quarter_turn(self) -> None:
        found = curve("angle0", "deflection")
        values = dict(zip(found.x.round(6), found.y, strict=True))
        self.assertAlmostEqual(values[-90.0], values[90.0], places=9)
        self.assertAlmostEqual(values[0.0] / values[90.0], 1.0, delta=2e-3)

    def test_every_point_that_stays_was_judged_in_full(self) -> None:
        found = curve("angle0", "reserve")
        self.assertEqual(found.verified, len(found.x))
        for x, judged in zip(found.x[::3], found.outcomes[::3], strict=True):
            changed = edits.set_layer(CANDIDATE, 0, replace(CANDIDATE.layers[0], angle=round(float(x), 3)))
            exact = EVALUATOR.evaluate(BRIEF, changed, MATERIALS)
            self.assertEqual(judged.share, min(own.reserve_factor / own.required for own in exact.checks))

    def test_density_runs_through_the_grades_sold(self) -> None:
        parameter = PARAMETERS["density1"]
        for name in ("pvc60", "pvc130", "pvc200"):
            density = MATERIALS[name].value("density")
            own = parameter.put((BRIEF, CANDIDATE, MATERIALS), density)[2]["pvc80"]
            for key in ("G13", "S13", "E3", "Zc"):
                self.assertAlmostEqual(own.value(key) / MATERIALS[name].value(key), 1.0, places=9)
        with self.assertRaisesRegex(OmakaseError, "no such grade"):
            as_command(BRIEF, CANDIDATE, MATERIALS, parameter, 100.0)

    def test_workers_judge_members_without_prepared_shapes(self) -> None:
        """A spar: a first curve from quick answers, then every point in full, the same by workers and without."""
        brief = next(own for own in PROJECT.briefs if isinstance(own.member, SparMember))
        candidate = brief.candidates[2]
        loads = next(own for own in parameters(brief, candidate, MATERIALS) if own.key == "loads")
        measure = next(own for own in measures(brief) if own.key == "reserve")
        workers = Workers(1)
        workers.warm()
        try:
            alone, shared = (
                list(Study(brief, candidate, MATERIALS, Evaluator()).curve(loads, measure, 3, own))[-1]
                for own in (None, workers)
            )
        finally:
            workers.close()
        self.assertEqual(shared.verified, 3)
        np.testing.assert_allclose(shared.y, alone.y, rtol=1e-9)

    def test_a_map_holds_what_curves_hold(self) -> None:
        study = Study(BRIEF, CANDIDATE, MATERIALS, EVALUATOR)
        maps = list(study.map(PARAMETERS["core1"], PARAMETERS["loads"], MEASURES["deflection"], 5))
        last = maps[-1]
        self.assertEqual(len(maps), 6)  # row by row, and once more with nine points judged in full
        self.assertEqual(last.checked, 9)
        self.assertLess(last.error, 0.01)
        at = int(np.argmin(abs(last.y - 1.0)))
        level = curve("core1", "deflection")
        for x, y in zip(last.x, last.values[:, at], strict=True):
            self.assertAlmostEqual(y / np.interp(x, level.x, level.y), 1.0, delta=0.12)  # straight between points
        self.assertIsInstance(last, Map)
        self.assertEqual(len(csv_rows(last)), 26)
        self.assertEqual(len(csv_rows(level)), 10)

    def test_a_value_is_put_back_as_an_edit(self) -> None:
        command = as_command(BRIEF, CANDIDATE, MATERIALS, PARAMETERS["core1"], 0.0125)
        after = command.apply(PROJECT)
        self.assertEqual(find_candidate(after.briefs[0], "c2").layers[1].thickness, 0.0125)
        self.assertEqual(command.revert(after), PROJECT)
        wider = as_command(BRIEF, CANDIDATE, MATERIALS, PARAMETERS["width"], 0.5).apply(PROJECT).briefs[0]
        self.assertEqual(wider.member.width, 0.5)
        with self.assertRaisesRegex(OmakaseError, "range"):
            as_command(BRIEF, CANDIDATE, MATERIALS, PARAMETERS["width"], math.nan)


class Sensitivities(unittest.TestCase):
    def test_bars_are_what_moving_one_input_does(self) -> None:
        found = SensitivitySearch(BRIEF, CANDIDATE, MATERIALS, EVALUATOR).run(20)
        assert found is not None
        loads = next(bar for bar in found.bars if bar.name == "loads")
        # governed by deflection, which is in proportion to the loads: the share goes with 1/load
        self.assertAlmostEqual(loads.high, found.share * (1.0 / 1.1 - 1.0), places=9)
        self.assertAlmostEqual(loads.low, found.share * (1.0 / 0.9 - 1.0), places=9)
        self.assertEqual([bar.width for bar in found.bars], sorted((bar.width for bar in found.bars), reverse=True))
        self.assertIn("moduli of twill200", found.bars[0].name)

    def test_how_far_the_quick_answers_were_off_is_told(self) -> None:
        found = SensitivitySearch(BRIEF, CANDIDATE, MATERIALS, EVALUATOR).run(12)
        assert found is not None
        self.assertEqual(found.checked, 7)
        self.assertLess(found.error, 0.05)
        self.assertIn("judged in full", found.sentence)

    def test_the_share_that_fails_is_that_of_the_normal_distribution(self) -> None:
        """With loads alone uncertain, P(load > limit) of a normal load: SciPy's distribution."""
        from scipy.stats import norm

        search = SensitivitySearch(BRIEF, CANDIDATE, MATERIALS, EVALUATOR)
        present = search.judge((BRIEF, CANDIDATE, MATERIALS))
        own = next(one for one in inputs(CANDIDATE, MATERIALS) if one.name == "loads")
        found = search._draw([own], present, (), 100)
        assert found is not None
        expected = norm.cdf((1.0 - present.share) / own.deviation)
        self.assertAlmostEqual(found.fails / found.draws, expected, delta=0.02)
        self.assertEqual(found.by[0][0], "Deflection")
        self.assertIn("Latin hypercube", found.sentence)
        self.assertEqual(search._draw([own], present, (), 100), found)

    def test_ties_follow_the_draws(self) -> None:
        results = [EVALUATOR.evaluate(BRIEF, candidate, MATERIALS) for candidate in BRIEF.candidates]
        row = next(row for row in line_up(BRIEF, results).rows if row.key == "deflection")
        self.assertTrue(any(cell.tie for cell in row.cells))
        none = {candidate.id: {"deflection": 0.0} for candidate in BRIEF.candidates}
        row = next(row for row in line_up(BRIEF, results, none).rows if row.key == "deflection")
        self.assertFalse(any(cell.tie for cell in row.cells))


class Explained(unittest.TestCase):
    def test_masses_add_up_and_factors_multiply(self) -> None:
        other = find_candidate(BRIEF, "c5")
        results = [EVALUATOR.evaluate(BRIEF, candidate, MATERIALS) for candidate in (CANDIDATE, other)]
        found = {own.key: own for own in explain(BRIEF, CANDIDATE, other, MATERIALS, EVALUATOR)}
        mass = found["mass"]
        self.assertAlmostEqual(sum(part for _, part in mass.parts), results[1].mass - results[0].mass, places=9)
        for key, check in (("deflection", "deflection"), ("frequency", "frequency")):
            own = found[key]
            self.assertAlmostEqual(math.prod(part for _, part in own.parts), own.after / own.before, places=9)
            for value, result in ((own.before, results[0]), (own.after, results[1])):
                self.assertAlmostEqual(value / result.worst(check).value, 1.0, delta=0.03)

    def test_one_cause_alone_takes_all(self) -> None:
        """Only another density: mass changes, stiffness does not, and the frequency goes with 1/√mass."""
        heavy = dict(MATERIALS)
        core = MATERIALS["pvc80"]
        from omakase.core.materials.provenance import Sourced

        heavy["pvc80h"] = type(core)("pvc80h", core.name, core.kind, core.family,
                                     {**core.properties, "density": Sourced(400.0, "assumed")})  # fmt: skip
        other = edits.set_layer(CANDIDATE, 1, replace(CANDIDATE.layers[1], material="pvc80h"))
        weightless = replace(BRIEF, load_cases=BRIEF.load_cases[:2])
        found = {own.key: own for own in explain(weightless, CANDIDATE, other, heavy, EVALUATOR)}
        for cause, factor in found["deflection"].parts:
            self.assertAlmostEqual(factor, 1.0, places=6, msg=cause)
        parts = dict(found["frequency"].parts)
        ratio = found["mass"].before / found["mass"].after
        self.assertAlmostEqual(parts["areal mass"], math.sqrt(ratio), delta=0.01)
        self.assertAlmostEqual(parts["stiffness of the faces"], 1.0, places=6)

    def test_a_sheet_and_a_sandwich_are_of_different_kinds(self) -> None:
        sheet = find_candidate(BRIEF, "c1")
        found = {own.key: own for own in explain(BRIEF, sheet, CANDIDATE, MATERIALS, EVALUATOR)}
        self.assertEqual(list(found), ["mass", "deflection", "frequency"])
        for key, check in (("deflection", "deflection"), ("frequency", "frequency")):
            own = found[key]
            self.assertEqual(own.parts[0][0], "another kind of construction")
            exact = [EVALUATOR.evaluate(BRIEF, c, MATERIALS).worst(check).value for c in (sheet, CANDIDATE)]
            whole = math.prod(factor for _, factor in own.parts)
            self.assertAlmostEqual(whole / (exact[1] / exact[0]), 1.0, delta=0.01)

    def test_a_thicker_sheet_is_stiffer_by_the_cube(self) -> None:
        """D = E h³/12 (1 − ν²): half again as thick is 1.5³ times as stiff; frequency with √(D/ρh)."""
        sheet = find_candidate(BRIEF, "c1")
        thick = edits.set_layer(sheet, 0, replace(sheet.layers[0], thickness=sheet.layers[0].thickness * 1.5))
        pressed = replace(BRIEF, load_cases=BRIEF.load_cases[1:2])
        found = {own.key: dict(own.parts) for own in explain(pressed, sheet, thick, MATERIALS, EVALUATOR)}
        self.assertAlmostEqual(found["deflection"]["thickness"], 1.5**-3, delta=2e-3)
        self.assertAlmostEqual(found["deflection"]["modulus"], 1.0, places=6)
        self.assertAlmostEqual(found["frequency"]["thickness"], 1.5**1.5, delta=5e-3)
        self.assertAlmostEqual(found["frequency"]["areal mass"], 1.5**-0.5, delta=1e-3)


class Loads(unittest.TestCase):
    def test_every_kind_of_load_is_scaled(self) -> None:
        for case in BRIEF.load_cases:
            twice = replace(BRIEF, load_cases=(edits.scaled_case(case, 2.0),))
            once = replace(BRIEF, load_cases=(case,))
            values = [
                outcome(own, EVALUATOR.evaluate(own, CANDIDATE, MATERIALS, LINEAR), MATERIALS).deflection
                for own in (once, twice)
            ]
            self.assertAlmostEqual(values[1] / values[0], 2.0, places=9)


if __name__ == "__main__":
    unittest.main()
