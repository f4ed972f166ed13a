"""The test bench through its real widgets: from a doubtful core to a tested one, and files of all kinds."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtWidgets import QComboBox, QLineEdit

from omakase.core.specimens.curve import Curve
from omakase.devices.simulated import SimulatedFrame
from omakase.evaluate.results.wording import verdict_line
from omakase.project import series as edits
from omakase.project.commands import replace
from omakase.project.curves import to_record
from omakase.project.demo import demo_project
from omakase.project.library import materials_of
from omakase.project.model import Limits, Project
from omakase.ui.testing import BELIEF, COMPARE, FRAME, IMPORT, PLAN, SPECIMENS, STATISTICS
from omakase.ui.testing.frame_page import FramePage
from tests.ui.support import WindowTest

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


class Bench(WindowTest):
    def open_bench(self, series: str = "") -> None:
        self.press(Qt.Key.Key_J, CTRL)
        self.view = self.window.tests_view
        self.assertTrue(self.view.isVisible())
        if series:
            self.view.model.choose_series(series)
            self.process()

    def choose_method(self, name: str) -> None:
        combo = self.view.method
        combo.setCurrentIndex(combo.findData(name))
        self.process()

    def numbers(self) -> dict[str, str]:
        tree = self.view.specimens.results
        items = [tree.topLevelItem(i) for i in range(tree.topLevelItemCount())]
        return {item.text(0): item.text(1) for item in items}

    def start_by_hand(self) -> tuple[FramePage, list[float]]:
        """Starts a test on the frame; its clock shows the first of the numbers and goes on when that does."""
        page, now = self.view.frame, [0.0]
        made = page.make_frame

        def with_clock(*args: object) -> SimulatedFrame:
            frame = made(*args)
            frame._clock = lambda: now[0]
            return frame

        page.make_frame = with_clock
        page.start.click()
        page.make_frame = made
        return page, now

    def run_one(self) -> None:
        """A whole test on the frame, its clock in our hands."""
        page, now = self.start_by_hand()
        self.assertFalse(page.start.isEnabled())
        for _ in range(500):
            if page.frame is None or not page.frame.running:
                break
            now[0] += 3.0
            page.poll()
        self.process()
        page.keep.click()
        self.process()


class Loop(Bench):
    def project(self) -> Project:
        """A plank that only its core limits, and the core's strength is an estimate."""
        project = demo_project()
        foam = materials_of(project)["pvc130"]
        guessed = {key: replace(foam.properties[key], source="estimated") for key in ("S13", "S23")}
        foam = replace(foam, properties={**foam.properties, **guessed})
        brief = project.briefs[2]
        layers = brief.candidates[2].layers
        face, core = [layer for layer in layers if layer.role == "ply"][:2], layers[2]
        layers = (*face * 6, core, *face * 6)
        candidate = replace(brief.candidates[2], layers=layers)
        jumping = replace(brief.judgement, special_factor=15.0, special_factor_reason="three people jumping")
        brief = replace(brief, limits=Limits(), judgement=jumping, candidates=(candidate,), baseline="")
        return replace(project, briefs=(brief,), materials=(*project.materials, foam), series=())

    def reserve(self) -> float:
        return self.window.session.result.worst("core_shear").reserve_factor

    def test_from_an_estimate_to_a_test_and_back(self) -> None:
        before = self.reserve()
        self.assertEqual(self.window.session.result.governing.check, "core_shear")
        self.assertLess(before, 1.0)
        self.open_bench()
        self.assertEqual(self.view.method.itemData(0), "core_shear_beam")
        self.assertIn("estimated", self.view.why.text())
        self.press(Qt.Key.Key_T, CTRL | SHIFT)
        self.assertEqual(self.view.pages.currentIndex(), PLAN)
        told = self.view.plan_page.told.text()
        self.assertIn("core shear at", told)
        self.assertIn("frozen", told)
        self.assertIn("let", self.view.plan_page.safety.text())
        self.type_into("Compliance of machine", "20 µm/kN")
        for _ in range(5):
            self.press(Qt.Key.Key_R, CTRL)
            self.assertEqual(self.view.pages.currentIndex(), FRAME)
            self.run_one()
            self.assertEqual(self.view.pages.currentIndex(), SPECIMENS)
        report = self.view.model.report
        self.assertEqual([own.verdict for own in report.specimens], ["valid"] * 5)
        self.view.show_page(STATISTICS)
        self.process()
        self.assertIn("3.407", self.view.statistics.list.topLevelItem(0).text(5))
        self.view.show_page(BELIEF)
        self.process()
        belief = self.view.belief
        self.assertEqual(belief.basis.currentData(), "B")
        belief.basis.setCurrentIndex(belief.basis.findData("mean"))
        belief.basis.activated.emit(belief.basis.currentIndex())
        belief.accept.click()
        self.process()
        after = self.window.session.result.worst("core_shear")
        ratio = report.summaries["strength"].mean / 2.2e6
        self.assertAlmostEqual(after.reserve_factor / before, ratio, delta=1e-6)
        self.assertTrue(any(report.series.name in remark for remark in after.remarks))
        self.assertIn("✓", self.view.list.topLevelItem(0).text(1))
        self.assertIn("1 test", verdict_line(self.window.session.result))
        self.view.remove_series()
        self.assertIn("withdraw", self.view.message.text())
        for _ in range(2):  # S13 and S23
            belief.withdraw.click()
            self.process()
        self.assertFalse(belief.withdraw.isEnabled())
        self.assertEqual(self.reserve(), before)
        self.press(Qt.Key.Key_Escape)
        self.assertTrue(self.window.line_up_view.isVisible())
        self.assertTrue(self.window.splitters["bottom"].isVisible())


class Specimens(Bench):
    def test_a_region_that_is_dragged_moves_the_modulus(self) -> None:
        self.open_bench("t2")
        plot = self.view.specimens.plot
        before = self.numbers()["Flexural modulus, apparent"]
        low, high = plot.region.getRegion()
        moved_to = high, high + 2.0 * (high - low)
        plot.region_moved.emit(*moved_to)
        moved = self.numbers()["Flexural modulus, apparent"]
        self.assertNotEqual(before, moved)
        self.assertIsNone(self.view.model.specimen.specimen.region)
        plot.region.setRegion(moved_to)  # which is what the mouse does when it lets go
        self.process()
        self.assertEqual(self.numbers()["Flexural modulus, apparent"], moved)
        self.assertIsNotNone(self.view.model.specimen.specimen.region)
        self.assertIn("region chosen by hand", self.view.specimens.message.text())
        self.view.specimens.standard.click()
        self.process()
        self.assertEqual(self.numbers()["Flexural modulus, apparent"], before)

    def test_a_region_without_points_is_told_and_can_be_taken_back(self) -> None:
        self.open_bench("t2")
        page = self.view.specimens
        low, _ = page.plot.region.getRegion()
        page.plot.region_set.emit(low, low * 1.0001)
        self.process()
        self.assertIn("points lie in the region", page.message.text())
        self.assertGreater(len(page.plot.curve.getOriginalDataset()[0]), 200)
        self.assertTrue(page.plot.region.isVisible())
        page.standard.click()
        self.process()
        self.assertIn("Flexural modulus, apparent", self.numbers())

    def test_a_curve_of_force_alone(self) -> None:
        self.open_bench("t1")
        curve = to_record(Curve({"force": np.append(np.linspace(0.0, 900.0, 50), 10.0)}))
        self.view.model.take_in(lambda s: edits.with_curve(s, curve), "take in")
        self.process()
        self.assertIn("Core shear strength", self.numbers())
        self.assertNotIn("Stiffness", self.numbers())

    def test_a_place_turns_a_value_into_a_bound(self) -> None:
        self.open_bench("t5")
        page = self.view.specimens
        self.assertNotIn("≥", self.numbers()["Tensile strength"])
        mean = self.view.model.report.summaries["strength"].n
        page.place.setCurrentIndex(page.place.findData("tab"))
        page.place.activated.emit(page.place.currentIndex())
        self.process()
        self.assertIn("at least", page.list.topLevelItem(0).text(2))
        self.assertEqual(self.view.model.report.summaries["strength"].n, mean - 1)
        page.verdict.setCurrentIndex(page.verdict.findData("void"))
        page.verdict.activated.emit(page.verdict.currentIndex())
        self.type_into("Reason for the verdict", "tab badly bonded")
        self.assertIn("tab badly bonded", page.list.topLevelItem(0).text(2))
        self.window.session.document.undo()
        self.process()
        self.assertIn("no reason given", page.list.topLevelItem(0).text(2))

    def test_a_log_and_a_single_value(self) -> None:
        self.open_bench("t6")
        page = self.view.specimens
        page.buttons["add"].click()
        self.process()
        page.log.setPlainText("2 block; 17 mm\n3 soup")
        page.keep_log.click()
        self.process()
        self.assertIn("line 2", page.message.text())
        page.log.setPlainText("2 block; 17 mm\n1 block; 26 mm\n1 bar; broke")
        page.keep_log.click()
        self.process()
        self.assertIn("…", self.numbers()["Outer stress at the root"])
        self.type_into("Force at failure", "broke at 98 kgf")
        data = self.view.model.specimen.data
        self.assertAlmostEqual(data.held, 97.5 * 9.80665)
        self.assertAlmostEqual(data.failed, 98.5 * 9.80665)
        self.type_into("Batch of the specimen", "day 2")
        self.assertEqual(self.view.model.specimen.specimen.batch, "day 2")
        self.type_into("Force at failure", "98 mm")
        self.assertIn("a force is wanted", self.view.message.text())
        page.buttons["weigh"].click()
        self.process()
        self.assertIsNotNone(self.view.model.specimen.specimen.mass)

    def test_the_mistake_of_the_demo_is_found_and_mended(self) -> None:
        self.open_bench("t1")
        self.view.show_page(STATISTICS)
        self.process()
        self.assertIn("4 stands out", self.view.statistics.words.text())
        self.view.show_page(BELIEF)
        self.process()
        self.assertIn("settle that first", self.view.belief.message.text())
        self.view.show_page(SPECIMENS)
        self.view.model.choose_specimen("p4")
        self.process()
        self.type_into("Width of the specimen", "50 mm")
        self.assertFalse(self.view.model.report.summaries["strength"].outlier.found)

    def test_recipes_side_by_side(self) -> None:
        self.open_bench("t2")
        self.view.show_page(COMPARE)
        self.process()
        bars = self.view.compare.picture.comparison.bars
        self.assertEqual({bar.name for bar in bars["force"]}, {"Drone floor, bars bagged", "Drone floor, bars by hand"})
        self.assertEqual(bars["stiffness"][0].name, "Drone floor, bars bagged")
        self.assertIn("within scatter of", self.view.compare.words.text())
        for per in ("size", "mass", "cost"):
            self.view.compare.per.setCurrentIndex(self.view.compare.per.findData(per))
            self.view.compare.refresh()
            self.assertEqual(len(self.view.compare.picture.comparison.bars["force"]), 2)

    def test_a_proof_load_is_planned_and_watched(self) -> None:
        self.window.session.choose_brief("b2")
        self.window.session.choose("c2")
        self.open_bench()
        self.choose_method("proof_load")
        self.view.plan.click()
        self.process()
        self.assertIn("in 6 steps", self.view.plan_page.told.text())
        self.view.show_page(SPECIMENS)
        self.process()
        page = self.view.specimens
        page.log.setPlainText("= 4 kg; 0.3 mm\n= 8 kg; 0.6 mm\n= 12 kg; 0.9 mm\n= 16 kg; 1.5 mm")
        page.keep_log.click()
        self.process()
        self.assertIn("stop and unload", page.message.text())

    def test_a_command_about_the_candidate_makes_room_for_it(self) -> None:
        bottom = self.window.splitters["bottom"]
        for key in (Qt.Key.Key_1, Qt.Key.Key_4, Qt.Key.Key_L):
            self.open_bench("t1")
            self.assertFalse(bottom.isVisible())
            self.press(key, CTRL)
            self.assertTrue(bottom.isVisible())
            self.assertFalse(self.view.isVisible())

    def test_other_units_and_colours(self) -> None:
        self.open_bench("t1")
        self.press(Qt.Key.Key_U, CTRL)
        self.assertIn("psi", self.numbers()["Core shear strength"])
        for page in (STATISTICS, PLAN, COMPARE, BELIEF, SPECIMENS):
            self.view.show_page(page)
            self.process()
        self.press(Qt.Key.Key_T, CTRL)
        self.window.grab()


class Plans(Bench):
    def plan(self, brief: str, candidate: str, method: str) -> None:
        self.window.session.choose_brief(brief)
        self.window.session.choose(candidate)
        self.open_bench()
        self.choose_method(method)
        self.view.plan.click()
        self.process()

    def test_what_hangs_on_the_lever(self) -> None:
        self.plan("b3", "c3", "cantilever")
        page = self.view.plan_page
        before = page.told.text()
        self.type_into("Lever ratio", "4")
        self.assertNotEqual(page.told.text(), before)
        self.type_into("Weights available", "block 10.4 kg; bar 2.5 lb")
        items = self.view.model.report.series.items
        self.assertEqual([item.name for item in items], ["block", "bar"])
        self.assertAlmostEqual(items[1].mass, 2.5 * 0.45359237)
        self.type_into("Weights available", "block 10.4 mm")
        self.assertIn("a mass is wanted", self.view.message.text())
        self.assertEqual(self.view.model.report.series.items, items)
        self.type_into("Number of specimens planned", "3")
        self.assertIn("only the mean and the minimum", page.told.text())

    def test_a_size_planned_moves_the_prediction_until_something_is_logged(self) -> None:
        self.plan("b1", "c4", "core_shear_beam")
        planned = self.view.model.report.series
        first, width = planned.prediction, planned.sizes["width"]
        self.type_into("Planned width", "100 mm")
        second = self.view.model.report.series.prediction
        self.assertAlmostEqual(second.forces["core shear"] / first.forces["core shear"], 0.1 / width)
        self.view.show_page(SPECIMENS)
        self.process()
        self.type_into("Force at failure", "2 kN")
        self.view.show_page(PLAN)
        self.process()
        self.type_into("Planned width", "60 mm")
        self.assertEqual(self.view.model.report.series.prediction, second)

    def test_a_rig_that_is_too_weak_is_warned_of(self) -> None:
        self.plan("b1", "c4", "core_shear_beam")
        self.type_into("Capacity of the rig", "500 N")
        self.assertIn("the rig carries 500 N", self.view.plan_page.warning.text())

    def test_the_material_of_a_bond_is_stated(self) -> None:
        self.plan("b1", "c4", "lap_shear")
        self.assertEqual(self.view.model.report.series.material, "")
        self.type_into("Material the series is for", "soap")
        self.assertIn("no material is named 'soap'", self.view.message.text())
        adhesive = next(m for m in materials_of(self.window.session.document.project).values() if m.kind == "adhesive")
        self.type_into("Material the series is for", adhesive.id)
        self.view.show_page(SPECIMENS)
        self.process()
        for force in ("9.1 kN", "9.4 kN", "8.9 kN", "9.2 kN", "9.3 kN"):
            self.view.model.take_in(lambda s, f=force: edits.with_force(s, f, "si"), "one force")
        self.view.show_page(BELIEF)
        self.process()
        self.view.belief.accept.click()
        self.process()
        tested = materials_of(self.window.session.document.project)[adhesive.id].properties["lap_shear"]
        self.assertEqual(tested.source, "tested")
        self.assertIn("B-basis", tested.note)
        self.window.session.document.undo()
        self.assertEqual(materials_of(self.window.session.document.project)[adhesive.id], adhesive)

    def test_a_layup_without_a_core_is_offered_no_test_of_one(self) -> None:
        self.press(Qt.Key.Key_J, CTRL)
        self.window.session.choose_brief("b2")
        self.window.session.choose("c4")
        self.process()
        methods = {self.window.tests_view.method.itemData(i) for i in range(self.window.tests_view.method.count())}
        self.assertNotIn("core_shear_beam", methods)
        self.assertIn("flexure_3", methods)


class Frame(Bench):
    def test_a_frame_that_runs_out_of_load_gives_a_bound(self) -> None:
        self.open_bench("t1")
        self.view.show_page(FRAME)
        self.process()
        self.type_into("Capacity of the frame", "400 N")
        self.run_one()
        own = self.view.model.specimen
        self.assertEqual(own.verdict, "at_least")
        self.assertIn("≥", self.numbers()["Core shear strength"])

    def test_stopped_by_hand_and_looked_at_elsewhere(self) -> None:
        self.open_bench("t1")
        count = len(self.view.model.report.specimens)
        self.view.show_page(FRAME)
        self.process()
        page, now = self.start_by_hand()
        now[0] += 3.0
        page.poll()
        page.stop.click()
        self.process()
        self.assertIn("stopped by hand", page.state.text())
        self.view.model.choose_series("t2")
        page.keep.click()
        self.process()
        self.assertEqual(self.view.model.report.series.id, "t1")
        self.assertEqual(len(self.view.model.report.specimens), count + 1)

    def test_what_cannot_be_simulated_is_told(self) -> None:
        self.open_bench("t7")
        self.view.show_page(FRAME)
        self.process()
        self.view.frame.start.click()
        self.process()
        self.assertIn("this series has none", self.view.frame.state.text())


class Files(Bench):
    def write(self, text: str, name: str = "run.csv") -> str:
        path = self.folder / name
        path.write_text(text, "utf-8")
        return str(path)

    def rows(self, count: int = 200) -> str:
        return "\n".join(f"{i * 0.01:.3f};{i * 4.0:.2f}" for i in range(count))

    def test_a_file_is_dropped_mapped_taken_in_and_remembered(self) -> None:
        self.open_bench("t1")
        count = len(self.view.model.report.specimens)
        data = QMimeData()
        data.setUrls([QUrl.fromLocalFile(self.write("Way;Load\n" + self.rows() + "\n2.1;over\n"))])
        none = Qt.MouseButton.NoButton
        self.window.dropEvent(QDropEvent(QPointF(5, 5), Qt.DropAction.CopyAction, data, none,
                                       Qt.KeyboardModifier.NoModifier))  # fmt: skip
        self.process()
        page = self.view.files
        self.assertEqual(self.view.pages.currentIndex(), IMPORT)
        self.assertIn("line 202", page.problems.item(0).text())
        self.assertFalse(page.take.isEnabled())
        what, unit = page.columns.cellWidget(0, 0), page.columns.cellWidget(1, 0)
        assert isinstance(what, QComboBox)
        assert isinstance(unit, QLineEdit)
        what.setCurrentIndex(what.findData("travel"))
        unit.setText("mm")
        other = page.columns.cellWidget(1, 1)
        assert isinstance(other, QLineEdit)
        self.assertIn("states no unit", page.message.text())
        other.setText("kgf")
        self.assertTrue(page.take.isEnabled())
        page.take.click()
        self.process()
        report = self.view.model.report
        self.assertEqual(len(report.specimens), count + 1)
        self.assertAlmostEqual(report.specimens[-1].data.held, 199 * 4.0 * 9.80665, delta=1.0)
        self.view.read_file(self.write("Way;Load\n" + self.rows()))
        self.assertTrue(page.take.isEnabled())
        self.window.session.document.undo()
        self.assertEqual(len(self.view.model.report.specimens), count)

    def test_what_cannot_be_read_changes_nothing(self) -> None:
        self.open_bench("t1")
        before = self.window.session.document.project
        for text, words in (("", "is empty"), ("hello\nworld", "no table"), ("\x00\x01\x02", "not a text file")):
            self.view.read_file(self.write(text))
            self.assertIn(words, self.view.files.message.text())
            self.assertFalse(self.view.files.take.isEnabled())
        self.view.read_file(str(self.folder / "nowhere.csv"))
        self.assertIn("cannot be read", self.view.files.message.text())
        self.view.files.back.click()
        self.assertEqual(self.view.pages.currentIndex(), SPECIMENS)
        self.assertIs(self.window.session.document.project, before)

    def test_a_long_file_is_read_behind_the_page(self) -> None:
        self.open_bench("t1")
        x = np.arange(150_000) * 1e-5
        text = "Travel (mm);Force (N)\n" + "\n".join(f"{v:.5f};{v * 700:.4f}" for v in x.tolist())
        self.view.read_file(self.write(text))
        self.wait(lambda: self.view.files.table is not None)
        self.view.files.take.click()
        self.process()
        own = self.view.model.specimen
        self.assertEqual(own.specimen.curve.rows, 150_000)
        self.assertLess(len(own.curve), 2100)
