"""Spars of the demo: their walls, zones, load factors, how far plies must run, and what is told of wrong input."""

from __future__ import annotations

import itertools
import unittest
from unittest import mock

import numpy as np

from omakase.core.checks.registry import run_all
from omakase.core.checks.result import Limits, Settings
from omakase.core.checks.wall_buckling import is_curved, on_flange, together_by_case
from omakase.core.checks.walls_together import buckling_of_section
from omakase.core.members.panel_given import QUICK
from omakase.core.members.spar import SparResponse
from omakase.evaluate.members.outline import outline
from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.members.spar import KIND
from omakase.evaluate.record.workings import worked_out
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.results.diagrams import curves, most_bent
from omakase.evaluate.results.engine import Evaluator
from omakase.evaluate.results.wording import place_text
from omakase.evaluate.sizing.levers import levers
from omakase.evaluate.sizing.needed_runs import needed_runs
from omakase.evaluate.sizing.study import parameters
from omakase.evaluate.testing.planning import plan, plan_proof
from omakase.project import edits
from omakase.project.commands import replace
from omakase.project.demo import demo_project
from omakase.project.library import materials_of
from omakase.project.model import Candidate, LayerRecord
from omakase.project.spans import LiftLoad, LoadStation, OutlinePoint, SparForm, SparMember, Station, TableLoad, Zone
from omakase.project.validation import brief_problems, candidate_problems

PROJECT = demo_project()
MATERIALS = materials_of(PROJECT)
BRIEF = next(brief for brief in PROJECT.briefs if isinstance(brief.member, SparMember))
EVALUATOR = Evaluator()
CHANNEL, BOX, NOSE, BARE = BRIEF.candidates[1:]


def evaluated(candidate: Candidate) -> CandidateResult:
    return EVALUATOR.evaluate(BRIEF, candidate, MATERIALS)


class Results(unittest.TestCase):
    def test_each_wall_has_results_of_its_own(self) -> None:
        result = evaluated(BOX)
        keys = [check.key for check in result.checks]
        self.assertEqual(len(keys), len(set(keys)))
        for wall in KIND.walls(BOX):
            own = [check for check in result.checks if check.wall == wall and check.check == "face_failure"]
            self.assertEqual(len(own), len(BRIEF.load_cases))
            for check in own:
                stack, index = result.governing_layer(check)  # type: ignore[misc]
                self.assertIs(stack.layers[index], result.stack.layers[check.place.layer])  # type: ignore[union-attr, index]
                self.assertEqual(BOX.layers[check.place.layer].wall, wall)  # type: ignore[index]
                self.assertIn(wall, place_text(check, result, "si"))
                self.assertIn(wall, check.full_title)

    def test_like_webs_share_like_loads(self) -> None:
        pull_up = [own for own in evaluated(BARE).checks if own.check == "wall_buckling" and own.case_id == "l1"]
        webs = [own.reserve_factor for own in pull_up if "web" in own.wall]
        self.assertEqual(len(webs), 2)
        self.assertAlmostEqual(webs[0] / webs[1], 1.0, places=6)
        self.assertLess(max(webs), 1.0)

    def test_a_cap_that_runs_on_into_a_thin_skin_buckles_with_it(self) -> None:
        """The nose's caps end where its skin begins, those of a box at webs: what edits are answered by first tells so,
        the full answer finds both together by finite strips."""
        for candidate, expected in ((NOSE, {"upper cap", "lower cap"}), (BOX, set())):
            first, full = (
                [own for own in result.checks if own.check == "wall_buckling"]
                for result in (EVALUATOR.evaluate(BRIEF, candidate, MATERIALS, QUICK), evaluated(candidate))
            )
            told = {own.wall for own in first if any("runs on" in remark for remark in own.remarks)}
            self.assertEqual(told, expected)
            self.assertFalse(any("runs on" in remark for own in full for remark in own.remarks))
            alone = {own.key: own.reserve_factor for own in first}
            together = [own for own in full if "finite strips" in own.method]
            self.assertEqual({own.wall for own in together} & expected, expected)
            for own in full:
                share = own.reserve_factor / alone[own.key]
                self.assertTrue(share < 1.0 if own in together else abs(share - 1.0) < 1e-9, own.title)

    def test_a_quick_answer_takes_over_how_walls_buckled_together(self) -> None:
        """Until the full one is there, so that an edit does not show a cap three times as strong for a moment."""
        evaluator = Evaluator()
        first = evaluator.quick(BRIEF, NOSE, MATERIALS)
        full = evaluator.evaluate(BRIEF, NOSE, MATERIALS)
        thicker = edits.insert_layers(NOSE, 0, [NOSE.layers[0]])
        searched = evaluator.quick(BRIEF, thicker, MATERIALS)  # a search must not depend on what was asked before
        (quick,) = evaluator.quick_all(BRIEF, [thicker], MATERIALS, carried=True)
        after = evaluator.evaluate(BRIEF, thicker, MATERIALS)
        cap = NOSE.layers[0].wall
        reserves = [
            min(own.reserve_factor for own in result.checks if own.check == "wall_buckling" and own.wall == cap)
            for result in (first, full, quick, after, searched)
        ]
        self.assertGreater(reserves[0], 1.5 * reserves[1])
        self.assertAlmostEqual(reserves[2] / reserves[3], 1.0, delta=0.1)
        self.assertGreater(reserves[4], 1.5 * reserves[3])
        own = next(own for own in quick.checks if own.check == "wall_buckling" and own.wall == cap)
        self.assertIn("finite strips", own.method)
        self.assertGreater(len(worked_out(quick, own)), 3)
        other = replace(NOSE, form=replace(NOSE.form, outline="box"), layers=BARE.layers)
        (changed,) = evaluator.quick_all(BRIEF, [other], MATERIALS, carried=True)
        self.assertFalse(any("finite strips" in own.method for own in changed.checks))

    def test_what_is_held_does_not_buckle_together(self) -> None:
        """A skin that lies on something helps its caps; where all walls do, nothing is looked at."""
        response = evaluated(NOSE).response
        assert isinstance(response, SparResponse)

        def of_cap(spar: SparResponse = response) -> float:
            found = {spar.chains[own.chain].wall: own.factor for own in buckling_of_section(spar, 0, 0)}
            return found.get("upper cap", np.inf)

        free = of_cap()
        self.assertTrue(np.isfinite(free))
        with mock.patch.object(SparResponse, "held_walls", frozenset({"nose skin"})):
            self.assertGreater(of_cap(), free)
        with mock.patch.object(SparResponse, "held_walls", frozenset(response.member.shape.walls)):
            fresh = SparResponse(response.member, response._stretches, [own.case for own in response.results])
            fresh.walls_together = True
            self.assertEqual(list(together_by_case(fresh).values()), [{}] * len(fresh.results))

    def test_a_web_with_rounded_corners_is_no_shell(self) -> None:
        """It bends in its plane: as a cylinder it seemed nine times as strong as finite strips say."""
        for candidate, shells in ((CHANNEL, set()), (NOSE, {"nose skin"})):
            response = evaluated(candidate).response
            self.assertEqual({chain.wall for chain in response.chains if is_curved(chain)}, shells)  # type: ignore[union-attr]

    def test_a_flange_counts_what_is_pressed_near_its_free_edge(self) -> None:
        """Against the buckling coefficients of EN 1993-1-5, table 4.2 (from memory): 0.43 pressed evenly, 0.57 with all
        at the free edge and nothing at the held one, 1.70 the other way round."""
        response = evaluated(CHANNEL).response
        lines = response.sections.lines  # type: ignore[union-attr]
        flanges = [chain for chain in response.chains if chain.free]  # type: ignore[union-attr]
        self.assertEqual(len(flanges), 2)  # one begins at its free edge, one ends there
        for chain in flanges:
            lengths = lines.lengths[0, list(chain.pieces)]
            ends = np.concatenate([[0.0], np.cumsum(lengths)])
            samples = np.concatenate([[0.0], (ends[1:] + ends[:-1]) / 2.0, [ends[-1]]]) / ends[-1]
            free_first = np.bincount(lines.pieces.ravel())[lines.pieces[chain.pieces[0], 0]] == 1
            out = 1.0 - samples if free_first else samples
            even, outer, inner = (
                float(on_flange(response, chain, own[None])[0]) for own in (1.0 + 0.0 * out, out, 1.0 - out)
            )  # type: ignore[arg-type]
            self.assertAlmostEqual(even, 1.0)
            self.assertTrue(0.43 / 0.57 - 0.02 < outer < 0.43 / 0.57 + 0.1)
            self.assertGreater(inner, 0.43 / 1.70)

    def test_the_factor_of_a_load_case_counts(self) -> None:
        cases = tuple(replace(case, factor=2.0 * case.factor) for case in BRIEF.load_cases)
        doubled = EVALUATOR.evaluate(replace(BRIEF, load_cases=cases), BOX, MATERIALS)
        for before, after in zip(evaluated(BOX).response.results, doubled.response.results, strict=True):  # type: ignore[union-attr]
            self.assertAlmostEqual(
                np.abs(after.displacements["w"]).max() / np.abs(before.displacements["w"]).max(), 2.0
            )

    def test_crushing_by_the_caps_goes_with_the_square_of_the_load(self) -> None:
        cases = tuple(replace(case, factor=2.0 * case.factor) for case in BRIEF.load_cases)
        doubled = EVALUATOR.evaluate(replace(BRIEF, load_cases=cases), BARE, MATERIALS)
        one, two = evaluated(BARE).worst("cap_crushing"), doubled.worst("cap_crushing")
        assert one is not None
        assert two is not None
        self.assertAlmostEqual(one.reserve_factor / two.reserve_factor, 2.0, places=6)

    def test_a_reserve_at_every_station_and_slope_and_twist(self) -> None:
        result = evaluated(BARE)
        shown = {curve.key: curve for curve in curves(BRIEF, result, 2)}
        for key in ("load", "shear", "moment", "torque", "deflection", "slope", "twist", "reserve"):
            self.assertIn(key, shown)
        deflection, slope = shown["deflection"], shown["slope"]
        inner = slice(20, -20)
        x = deflection.x[inner] + 1e-12 * np.arange(len(deflection.x[inner]))
        derived = np.degrees(np.gradient(deflection.values[inner], x))
        self.assertAlmostEqual(np.median(derived / slope.values[inner]), 1.0, delta=0.05)
        worst = min(own.reserve_factor for own in result.checks if own.check == "wall_buckling")
        least = min(curves(BRIEF, result, i)[-1].values.min() for i in range(3))
        self.assertAlmostEqual(least, worst, delta=0.01)
        self.assertEqual(most_bent(result), 0.0)

    def test_sections_at_a_station(self) -> None:
        result = evaluated(BOX)
        root, tip = (outline(result.response, result.stack, x) for x in (0.0, 2.1))  # type: ignore[arg-type]
        self.assertAlmostEqual(root.height, 0.030, delta=2e-4)
        self.assertAlmostEqual(tip.height, 0.0195, delta=2e-4)
        self.assertEqual([wall.name for wall in root.walls], list(KIND.walls(BOX)))
        y, z = root.at("upper cap", 0.0)  # type: ignore[misc]
        self.assertTrue(y < 0.0 < z)

    def test_every_outline_with_the_same_layers(self) -> None:
        """Changing the outline keeps layers by what walls do, and every one of them is computed."""
        for shape in ("channel", "z", "i", "box", "two_cells", "hat", "nose", "drawn"):
            with self.subTest(shape):
                part = next(p for p in KIND.form_sentence(BRIEF, BOX, MATERIALS) if getattr(p, "follow", None))
                new = part.put(BOX, shape)  # type: ignore[union-attr]
                new = replace(new, form=replace(new.form, width=(Station(0.0, 0.07),)))
                result = evaluated(new)
                self.assertTrue(result.ok, result.error)
                self.assertEqual({layer.wall for layer in new.layers}, set(KIND.walls(new)))

    def test_a_proof_load_is_the_lift_by_hand(self) -> None:
        series = plan(BRIEF, BOX, "proof_load", MATERIALS, "2026-11-27", False)
        planned = plan_proof(series, BRIEF, evaluated(BOX), "2026-11-27")
        assert planned.prediction is not None
        lift = 9.2 * 9.80665 / 2.0  # of half the drone, as its vehicle sheet says
        self.assertAlmostEqual(planned.prediction.values["ultimate"], lift * 5.0 * 1.5, delta=1e-6)
        line = planned.prediction.line
        self.assertAlmostEqual(sum(station.load for station in line), lift * 5.0, delta=1e-6)
        self.assertTrue(all(a.load > b.load for a, b in itertools.pairwise(line)))
        self.assertAlmostEqual(line[-1].deflection, evaluated(BOX).worst("deflection").value, delta=1e-9)  # type: ignore[union-attr]
        self.assertIsNotNone(planned.prediction.twist)


class Zones(unittest.TestCase):
    def test_how_far_a_ply_must_run(self) -> None:
        rows = edits.rows_of_wall(BOX, "upper cap")
        known = dict(needed_runs(BRIEF, BOX, rows, MATERIALS, EVALUATOR))
        self.assertEqual(set(known), set(rows))
        inner = rows[1]  # the first unidirectional ply, which runs all along but is needed where others have ended
        run = known[inner]
        self.assertTrue(run.needed and 0.5 <= run.low < run.high < 1.5)
        low, high = run.ends(2.1)
        short = edits.run_over(BOX, inner, low, high, 2.1)
        cut = edits.run_over(BOX, inner, low, run.low + 0.3 * (run.high - run.low), 2.1)
        worst = [min(curves(BRIEF, evaluated(own), i)[-1].values.min() for i in range(3)) for own in (short, cut)]
        self.assertGreaterEqual(worst[0], 0.999)
        self.assertLess(worst[1], 1.0)

    def test_plies_that_end_together_are_found(self) -> None:
        self.assertNotIn("ply_drops", {own.rule for own in evaluated(BOX).findings})
        rows = edits.rows_of_wall(BOX, "upper cap")[2:4]
        together = replace(BOX, zones=(*BOX.zones, Zone("z9", "both", 0.0, 0.7)))
        for row in rows:
            together = edits.set_layer(together, row, replace(together.layers[row], zone="z9"))
        found = {own.rule: own for own in evaluated(together).findings}
        self.assertIn("ply_drops", found)
        self.assertEqual(found["ply_drops"].layers, rows)
        self.assertIn("upper cap", found["ply_drops"].text)


class Levers(unittest.TestCase):
    def test_walls_that_are_alike_change_together(self) -> None:
        groups = edits.walls_alike(BARE, KIND.walls(BARE))
        self.assertIn((("front web", False), ("rear web", False)), groups)
        ways = list(levers(BRIEF, BARE, MATERIALS, "si", False))
        more = next(own for own in ways if own.title.startswith("webs: one more ply"))
        new = more.options[0].candidate
        for wall in ("front web", "rear web"):
            self.assertEqual(len(edits.of_wall(new, wall).layers), len(edits.of_wall(BARE, wall).layers) + 1)
        self.assertEqual(edits.of_wall(new, "upper cap").layers, edits.of_wall(BARE, "upper cap").layers)
        self.assertTrue(any("section" in own.title for own in ways))

    def test_studies_change_walls_that_are_alike_together(self) -> None:
        core = next(own for own in parameters(BRIEF, BOX, MATERIALS) if own.title.startswith("core thickness"))
        self.assertEqual(core.title, "core thickness, layer 2 of the webs")
        changed = core.put((BRIEF, BOX, MATERIALS), 0.004)[1]
        cores = [layer.thickness for layer in changed.layers if layer.role == "core"]
        self.assertEqual(cores, [0.004, 0.004])

    def test_mirrored_walls_stay_mirrored(self) -> None:
        own = edits.of_wall(BOX, "upper cap").layers
        mirrored = edits.with_wall(BOX, "lower cap", replace(BOX, layers=own[::-1]))
        group = edits.walls_alike(mirrored, ("upper cap", "lower cap"))
        if own == own[::-1]:
            self.skipTest("a symmetric cap")
        self.assertEqual(group, [(("upper cap", False), ("lower cap", True))])
        edited = edits.insert_layers(edits.of_wall(mirrored, "upper cap"), 0, [LayerRecord("twill200", 30.0)])
        new = edits.with_walls_alike(mirrored, group[0], edited, KIND.walls(BOX))
        self.assertEqual(edits.of_wall(new, "lower cap").layers[-1].angle, 30.0)


class WrongInput(unittest.TestCase):
    def told(self, place: str, words: str, candidate: Candidate = BOX, **form: object) -> None:
        changed = replace(candidate, form=replace(candidate.form, **form)) if form else candidate
        found = candidate_problems(BRIEF, changed, MATERIALS)
        self.assertTrue(any(where.startswith(place) and words in text for where, text in found), found)
        self.assertFalse(evaluated(changed).ok)

    def test_forms(self) -> None:
        self.told(".form", "does not fit", CHANNEL, radius=0.05)
        self.told(".form", "less than half", CHANNEL, radius=0.0002)
        self.told(".form", "leave nothing", height=(Station(0.0, 0.003),))
        self.told(".form", "must rise along", width=(Station(0.5, 0.03), Station(0.2, 0.03)))
        self.told(".form", "no points yet", outline="drawn")
        self.told(".form", "four digits", outline="drawn", profile="24")
        self.told(".form", "crosses itself", outline="drawn",
                  points=tuple(OutlinePoint(*p) for p in ((0, 0), (1, 1), (1, 0), (0, 1))))  # fmt: skip
        self.told(".form", "stand between", NOSE, width=(Station(0.0, 0.4),))

    def test_walls(self) -> None:
        gone = replace(BOX, layers=tuple(layer for layer in BOX.layers if layer.wall != "front web"))
        self.told(".layers", "front web has no layers", gone)
        strange = edits.set_layer(BOX, 0, replace(BOX.layers[0], wall="keel"))
        self.told(".layers[0]", "'keel'", strange)
        unknown = edits.set_layer(BOX, 1, replace(BOX.layers[1], material="unobtainium"))
        self.told(".layers", "unobtainium", unknown)

    def test_loads(self) -> None:
        for load, words in (
            (LiftLoad(10.0, 0.0, 3.0), "beyond the member"),
            (LiftLoad(10.0, 1.0, 0.5), "further out"),
            (TableLoad((LoadStation(0.5, 1.0), LoadStation(0.2, 1.0))), "station 2"),
            (TableLoad((LoadStation(0.0, 1.0), LoadStation(2.5, 1.0))), "beyond the member"),
        ):
            case = replace(BRIEF.load_cases[0], loads=(load,))
            found = brief_problems(replace(BRIEF, load_cases=(case,)))
            self.assertTrue(any(where == "load_cases[0]" and words in text for where, text in found), found)
        bare = replace(BRIEF, member=replace(BRIEF.member, chord=()))
        self.assertTrue(any("no chord" in text for _, text in brief_problems(bare)))

    def test_a_wall_thicker_than_its_place_is_no_crash(self) -> None:
        for shape in ("channel", "z", "i", "box", "two_cells", "hat", "nose"):
            form = SparForm(shape, (Station(0.0, 0.0009),), (Station(0.0, 0.0009),))  # type: ignore[arg-type]
            kind = kind_of(BRIEF)
            layers = tuple(LayerRecord("twill200", wall=wall) for wall in kind.walls(Candidate("c", "c", form=form)))
            result = evaluated(Candidate("c", "c", layers * 3, form=form))
            self.assertTrue(result.error, shape)


class Speed(unittest.TestCase):
    def test_checks_are_made_of_each_wall_once(self) -> None:
        """Stretches of a wall give one result for each check and load case, the worst of them."""
        result = evaluated(CHANNEL)
        assert isinstance(result.response, SparResponse)
        self.assertGreater(len(result.response.fields), len(result.response.walls))
        again = run_all(result.response, Settings(), Limits())
        self.assertEqual(len(again), len({own.key for own in again}))


if __name__ == "__main__":
    unittest.main()
