"""From an open question to a tested value: plan, run, reduce, judge, believe, withdraw."""

from __future__ import annotations

import unittest
from collections.abc import Callable

import numpy as np

from omakase.core.errors import OmakaseError
from omakase.core.specimens import beams
from omakase.core.specimens.curve import Curve
from omakase.core.specimens.registry import all_methods
from omakase.devices.driver import DeviceError
from omakase.devices.simulated import Hidden, SimulatedFrame, SimulatedScale, hide, run_through
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.results.engine import Evaluator
from omakase.evaluate.testing import believing, comparing, planning
from omakase.evaluate.testing.reducing import Reducer, SeriesReport
from omakase.project import series as edits
from omakase.project.commands import replace
from omakase.project.curves import to_record
from omakase.project.demo import demo_project
from omakase.project.library import materials_of
from omakase.project.model import CurveColumn, CurveRecord, LayerRecord, Project, Reading, Series, Specimen
from omakase.project.storage import from_bytes, to_bytes

MINUTE = 60.0


def plank() -> Project:
    """The demo's test plank with foam cores whose shear strength is an estimate."""
    project = demo_project()
    foam = materials_of(project)["pvc130"]
    guessed = {key: replace(foam.properties[key], source="estimated") for key in ("S13", "S23")}
    return replace(project, materials=(*project.materials, replace(foam, properties={**foam.properties, **guessed})))


def planned(project: Project, method: str, count: int = 6) -> tuple[Project, Series]:
    brief = project.briefs[2]
    series = planning.plan(brief, brief.candidates[2], method, materials_of(project), "2026-11-20", count=count)
    command, _ = edits.add_series(project, series)
    project = command.apply(project)
    return project, project.series[-1]


def run(project: Project, series: Series, bias: dict[str, float] | None = None) -> tuple[Project, Series]:
    """Every specimen run through the simulated frame."""
    expected = planning.predicted(series, materials_of(project))
    assert expected is not None
    for specimen in series.specimens:
        hidden = hide(expected, all_methods()[series.method], series.material, series.id + specimen.id, bias)
        curve = Curve(run_through(SimulatedFrame(hidden), 5e-3 / MINUTE))
        series = edits.change_specimen(series, specimen.id, lambda own, c=curve: edits.with_curve(own, to_record(c)))
    return edits.change_series(project, series, "run").apply(project), series


def reported(series: Series) -> SeriesReport:
    report = Reducer().report(series)
    assert report is not None
    return report


def result_of(project: Project) -> CandidateResult:
    brief = project.briefs[2]
    return Evaluator().evaluate(brief, brief.candidates[2], materials_of(project))


class Loop(unittest.TestCase):
    def test_a_tested_core_changes_the_reserve_and_is_named_and_withdrawn(self) -> None:
        project = plank()
        before = result_of(project).worst("core_shear")
        question = next(q for q in planning.questions(result_of(project)) if q.check.check == "core_shear")
        self.assertEqual(question.method, "core_shear_beam")
        self.assertIn("estimated", question.why)
        project, series = planned(project, question.method)
        self.assertEqual(series.prediction.source, "estimated")
        self.assertIn("S₁₃ of pvc130 (estimated)", series.prediction.rests_on)
        project, series = run(project, series, {"core shear": 0.8})
        report = reported(series)
        self.assertEqual([own.verdict for own in report.specimens], ["valid"] * 6)
        self.assertAlmostEqual(report.ratio("strength"), 0.8, delta=0.05)
        offer = believing.offers(report, materials_of(project))[0]
        self.assertEqual((offer.material, offer.keys), ("pvc130", ("S13", "S23")))
        accepted = believing.take(project, report, offer, "mean", "2026-11-25").apply(project)
        after = result_of(accepted).worst("core_shear")
        expected = report.summaries["strength"].mean / 2.2e6  # what the library states for this foam
        self.assertAlmostEqual(after.reserve_factor / before.reserve_factor, expected, delta=1e-6)
        self.assertTrue(any(series.name in remark for remark in after.remarks))
        again = from_bytes(to_bytes(accepted), "x")
        self.assertEqual(result_of(again).worst("core_shear").reserve_factor, after.reserve_factor)
        with self.assertRaisesRegex(OmakaseError, "withdraw"):
            edits.remove_series(accepted, series.id)
        for entry in accepted.acceptances:
            accepted = edits.withdraw(accepted, entry.id).apply(accepted)
        self.assertEqual(result_of(accepted).worst("core_shear"), before)

    def test_a_factor_on_a_check_touches_every_result_of_it(self) -> None:
        project, series = planned(demo_project(), "core_shear_beam")
        project, series = run(project, series, {"core shear": 0.9})
        report = reported(series)
        offer = believing.offers(report, materials_of(project))[-1]
        self.assertEqual((offer.kind, offer.keys), ("factor", ("core_shear",)))
        accepted = believing.take(project, report, offer, "B", "2026-11-25").apply(project)
        factor = accepted.acceptances[0].value
        self.assertLess(factor, report.ratio("strength"))
        before, after = result_of(project).worst("core_shear"), result_of(accepted).worst("core_shear")
        self.assertAlmostEqual(after.reserve_factor, before.reserve_factor * factor)
        self.assertTrue(any("× " in remark and series.name in remark for remark in after.remarks))
        self.assertEqual(result_of(accepted).worst("wrinkling"), result_of(project).worst("wrinkling"))

    def test_the_prediction_does_not_follow_later_edits(self) -> None:
        project, series = planned(demo_project(), "core_shear_beam")
        frozen = series.prediction
        foam = materials_of(project)["pvc130"]
        stronger = {**foam.properties, "S13": replace(foam.properties["S13"], value=9e6)}
        project = replace(project, materials=(*project.materials, replace(foam, properties=stronger)))
        self.assertEqual(project.series[-1].prediction, frozen)
        self.assertGreater(planning.predicted(series, materials_of(project)).forces["core shear"],
                           2 * frozen.forces["core shear"])  # fmt: skip


class Planning(unittest.TestCase):
    def test_spans_put_the_wanted_failure_first(self) -> None:
        project = demo_project()
        for method in ("core_shear_beam", "long_beam"):
            _, series = planned(project, method)
            forces = dict(series.prediction.forces)
            core = forces.pop("core shear")
            first = core < min(forces.values())
            self.assertEqual(first, method == "core_shear_beam", forces)

    def test_a_span_too_short_for_the_faces_is_warned_of(self) -> None:
        project, series = planned(demo_project(), "long_beam")
        short = replace(series, sizes={**series.sizes, "span": 0.12, "load_span": 0.0})
        told = planning.prepare(short, materials_of(project)).warnings
        self.assertTrue(any("core shears before a face fails" in one for one in told), told)
        weak = replace(series, capacity=1000.0)
        self.assertTrue(any("the rig carries" in one for one in planning.prepare(weak, materials_of(project)).warnings))

    def test_the_predicted_slope_against_the_beam_formula_by_hand(self) -> None:
        project, series = planned(demo_project(), "core_shear_beam")
        S, b, d, c = (series.sizes[k] for k in ("span", "width", "thickness", "core_thickness"))
        stack = planning.stack_of(series.layers, False, materials_of(project))
        G = stack.layers[stack.core.start].material.value("G13")
        shear_only = 1.0 / beams.shear_per_force(S, 0.0) * G * ((d + c) / 2) ** 2 / c * b
        self.assertLess(series.prediction.stiffness, shear_only)
        self.assertGreater(series.prediction.stiffness, 0.4 * shear_only)

    def test_every_method_can_be_planned_for_a_sandwich_or_says_why_not(self) -> None:
        project = demo_project()
        for method in all_methods().values():
            with self.subTest(method.name):
                project2, series = planned(project, method.name)
                told = planning.prepare(series, materials_of(project2))
                self.assertGreater(told.blank[0], 0.0)
                if method.predict is not None:
                    self.assertGreater(told.force, 0.0)

    def test_a_solid_laminate_is_told_which_tests_need_a_core(self) -> None:
        project = demo_project()
        brief, materials = project.briefs[1], materials_of(project)
        refused = []
        for method in all_methods():
            try:
                series = planning.plan(brief, brief.candidates[3], method, materials, "2026-11-20")
            except OmakaseError as error:
                self.assertIn("sandwich", str(error))
                refused.append(method)
            else:
                planning.prepare(series, materials)
        self.assertEqual(set(refused), {"core_shear_plate", "core_shear_beam", "long_beam", "two_spans",
                                        "flatwise_tension", "flatwise_compression", "edgewise"})  # fmt: skip

    def test_mass_on_a_lever(self) -> None:
        project, series = planned(demo_project(), "core_shear_beam")
        light = replace(series, lever=5.0, tare=3.0)
        told = planning.prepare(light, materials_of(project))
        self.assertAlmostEqual((told.mass + 3.0) * 5.0 * 9.80665, told.force)


class Offers(unittest.TestCase):
    def offered(self, method: str, *layers: LayerRecord) -> list[tuple[str, ...]]:
        """Properties that a series of these layers offers."""
        project = demo_project()
        candidate = replace(project.briefs[2].candidates[2], layers=layers)
        series = planning.plan(project.briefs[2], candidate, method, materials_of(project), "2026-11-20")
        specimens = tuple(Specimen(f"p{i}", f"{i}", force=Reading(9000.0 + 50 * i, 0.5, "")) for i in range(5))
        series = replace(series, id="t", specimens=specimens)
        found = believing.offers(reported(series), materials_of(project))
        return [offer.keys for offer in found if offer.kind == "allowable"]

    def test_only_what_the_specimens_can_speak_of(self) -> None:
        ud, across = LayerRecord("ud200"), LayerRecord("ud200", 90.0)
        self.assertEqual(self.offered("tension", ud, ud), [("Xt",)])
        self.assertEqual(self.offered("tension", across, across), [("Yt",)])
        self.assertEqual(self.offered("tension", ud, across), [])
        self.assertEqual(self.offered("tension", ud, LayerRecord("twill200")), [])
        slanted = [LayerRecord("ud200", angle) for angle in (45.0, -45.0, -45.0, 45.0)]
        self.assertEqual(self.offered("in_plane_shear", *slanted), [("S12",)])
        self.assertEqual(self.offered("in_plane_shear", ud, ud), [])
        foam = LayerRecord("pvc80", 0.0, 0.012, "core")
        self.assertEqual(self.offered("core_shear_beam", ud, foam, ud), [("S13", "S23")])
        comb = LayerRecord("hc48", 90.0, 0.0127, "core")
        self.assertEqual(self.offered("core_shear_beam", ud, comb, ud), [("S23",)])
        self.assertEqual(self.offered("lap_shear", ud, ud), [])  # nobody has said of which adhesive


class Judging(unittest.TestCase):
    SERIES = Series("t1", "x", "tension", sizes={"width": 0.01, "thickness": 0.003, "gauge_length": 0.1})

    def judged(self, change: Callable[[Specimen], Specimen], **series: object) -> object:
        specimen = change(Specimen("p1", "1", force=Reading(9120.0, 0.5, "930 kgf")))
        return reported(replace(self.SERIES, specimens=(specimen,), **series)).specimens[0]

    def test_places_that_make_a_bound(self) -> None:
        for place, words in (("grip", "grip"), ("tab", "tab"), ("roller", "roller"), ("none", "run-out")):
            own = self.judged(lambda s, p=place: replace(s, place=p))
            self.assertEqual(own.verdict, "at_least")
            self.assertIn(words, own.why)
            self.assertEqual(own.observation("strength").upper, np.inf)
        self.assertEqual(self.judged(lambda s: replace(s, place="gauge")).verdict, "valid")

    def test_a_person_overrules_with_a_reason(self) -> None:
        own = self.judged(lambda s: replace(s, place="grip", verdict="void", reason="wrong fixture"))
        self.assertEqual((own.verdict, own.why, own.observation("strength")), ("void", "wrong fixture", None))

    def test_the_rig_and_the_load_cell_run_out(self) -> None:
        self.assertIn("rig", self.judged(lambda s: s, capacity=9200.0).why)
        force = np.minimum(np.linspace(0, 2000, 300), 1500.0)
        flat = to_record(Curve({"travel": np.linspace(0, 1e-3, 300), "force": force}))
        self.assertIn("off scale", self.judged(lambda s: edits.with_curve(s, flat)).why)

    def test_a_curve_that_just_ends_is_a_bound_until_a_manner_is_stated(self) -> None:
        rising = to_record(Curve({"travel": np.linspace(0, 1e-3, 100), "force": np.linspace(0, 900, 100)}))
        own = self.judged(lambda s: edits.with_curve(s, rising))
        self.assertEqual(own.verdict, "at_least")
        self.assertIn("say how it failed", own.why)
        told = self.judged(lambda s: replace(edits.with_curve(s, rising), manner="fibres break"))
        self.assertEqual(told.verdict, "valid")

    def test_a_broken_curve_in_a_file_is_told_at_its_specimen(self) -> None:
        bad = CurveRecord((CurveColumn("force", 1.0, "1 two 3"),), 3)
        self.assertIn("not a whole number", self.judged(lambda s: edits.with_curve(s, bad)).error)

    def test_a_step_log_is_an_interval(self) -> None:
        own = self.judged(lambda s: edits.with_log(s, "100 kg\n20 kg\n20 kg; broke"))
        self.assertEqual(own.verdict, "valid")
        seen = own.observation("strength")
        self.assertAlmostEqual(seen.lower, 120 * 9.80665 / 3e-5)
        self.assertAlmostEqual(seen.upper, 140 * 9.80665 / 3e-5)


class Comparing(unittest.TestCase):
    def two(self, factors: tuple[tuple[float, float], ...]) -> list[SeriesReport]:
        """Series of bars with chosen strength and stiffness."""
        found = []
        for i, (strength, stiffness) in enumerate(factors):
            random = np.random.default_rng(i)
            series = Series(f"t{i}", f"recipe {i}", "flexure_3", working_load=200.0,
                            sizes={"width": 0.025, "thickness": 0.004, "span": 0.128})  # fmt: skip
            for k in range(5):
                hidden = Hidden({"x": 900.0 * strength * random.normal(1, 0.02)}, 3e5 * stiffness)
                curve = Curve(run_through(SimulatedFrame(hidden, seed=k), 5e-3 / MINUTE))
                series, identity = edits.add_specimen(series)
                series = edits.change_specimen(series, identity, lambda s, c=curve: edits.with_curve(s, to_record(c)))
            found.append(reported(series))
        return found

    def test_strong_and_stiff_rank_differently(self) -> None:
        found = comparing.compare(self.two(((1.0, 1.0), (1.3, 0.7))), {})
        self.assertEqual(found.bars["force"][0].name, "recipe 1")
        self.assertEqual(found.bars["stiffness"][0].name, "recipe 0")
        self.assertEqual(found.bars["sag"][0].name, "recipe 0")
        self.assertTrue(any("soft" in word for word in found.words))
        self.assertFalse(found.bars["force"][1].tie)

    def test_ties_are_told(self) -> None:
        found = comparing.compare(self.two(((1.0, 1.0), (1.005, 1.0))), {})
        self.assertTrue(found.bars["force"][1].tie)
        self.assertTrue(any("within scatter of" in word for word in found.words))

    def test_only_one_method_at_a_time(self) -> None:
        own = self.two(((1.0, 1.0),))
        other = reported(replace(own[0].series, method="peel"))
        with self.assertRaises(OmakaseError):
            comparing.compare([*own, other], {})


class Devices(unittest.TestCase):
    def test_a_frame_in_pieces_of_time(self) -> None:
        now = [0.0]
        frame = SimulatedFrame(Hidden({"x": 1000.0}, 1e6), compliance=0.0, slack=0.0, noise=0.0, clock=lambda: now[0])
        with self.assertRaises(DeviceError):
            frame.start(1.0)
        frame.start(1e-5)
        now[0] = 10.0
        rows = frame.read()
        self.assertEqual(len(rows["force"]), 500)
        self.assertAlmostEqual(rows["force"][-1] / 100.0, 1.0, delta=0.02)
        frame.stop()
        self.assertEqual((frame.running, frame.why_stopped), (False, "stopped by hand"))
        self.assertEqual(len(frame.read()["force"]), 0)

    def test_capacity_and_breaking(self) -> None:
        strong = SimulatedFrame(Hidden({"x": 1000.0}, 1e6), capacity=600.0)
        rows = run_through(strong, 1e-4)
        self.assertIn("capacity", strong.why_stopped)
        self.assertLess(rows["force"].max(), 610.0)
        weak = SimulatedFrame(Hidden({"x": 1000.0}, 1e6))
        rows = run_through(weak, 1e-4)
        self.assertEqual(weak.why_stopped, "it broke")
        self.assertAlmostEqual(rows["force"].max() / 1000.0, 1.0, delta=0.01)

    def test_a_specimen_is_the_same_whenever_it_is_looked_at(self) -> None:
        project, series = planned(demo_project(), "core_shear_beam")
        expected = planning.predicted(series, materials_of(project))
        method = all_methods()[series.method]
        self.assertEqual(hide(expected, method, "foam", "s1"), hide(expected, method, "foam", "s1"))
        self.assertNotEqual(hide(expected, method, "foam", "s1"), hide(expected, method, "foam", "s2"))

    def test_a_scale(self) -> None:
        scale = SimulatedScale(0.1234, 1e-4)
        self.assertAlmostEqual(np.mean([scale.read() for _ in range(50)]), 0.1234, delta=1e-4)


if __name__ == "__main__":
    unittest.main()
