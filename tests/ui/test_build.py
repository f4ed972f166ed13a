"""The build view driven through its widgets: from a candidate to a weighed part, with a shortage and a leak on the
way."""

from __future__ import annotations

import time

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLineEdit, QPushButton, QToolButton

from omakase.devices.gauge import SimulatedGauge
from omakase.project.commands import replace
from omakase.ui.build import BAG, BOOK, CALENDAR, COST, CUT, PARTS, RESIN, SHOP, WEIGHTS
from omakase.ui.build.view import BuildView
from tests.ui.support import WindowTest

CTRL, ALT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier


class BuildTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.press(Qt.Key.Key_B, CTRL | ALT)
        self.view: BuildView = self.window.build_view
        self.settle()

    def settle(self) -> None:
        """Lets the plan of the last edit arrive."""
        self.view.model.plan_now()
        self.wait(lambda: not self.view.model.busy)
        self.process()

    def show_page(self, page: int) -> None:
        self.view.show_page(page)
        self.process()

    def button(self, button: QPushButton) -> None:
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)
        self.process()
        self.settle()

    def click_button(self, name: str) -> None:
        """A small button of a sentence, by its accessible name."""
        self.process()
        found = [own for own in self.view.findChildren(QToolButton) if own.accessibleName() == name and own.isVisible()]
        QTest.mouseClick(found[-1], Qt.MouseButton.LeftButton)
        self.process()
        self.settle()

    def write(self, field: QLineEdit, text: str) -> None:
        field.setFocus()
        field.clear()
        QTest.keyClicks(field, text)

    @property
    def job(self):  # type: ignore[no-untyped-def]
        return self.view.model.job


class Jobs(BuildTest):
    def test_the_brief_folds_away_and_comes_back(self) -> None:
        self.assertFalse(self.window.brief_view.isVisible())
        self.press(Qt.Key.Key_Escape)
        self.assertTrue(self.window.brief_view.isVisible())
        self.assertTrue(self.window.line_up_view.isVisible())
        self.press(Qt.Key.Key_B, CTRL | ALT)
        self.press(Qt.Key.Key_F6)  # the next pane that is in sight
        self.press(Qt.Key.Key_F6, Qt.KeyboardModifier.ShiftModifier)

    def test_a_candidate_becomes_a_job(self) -> None:
        self.press(Qt.Key.Key_Escape)
        self.window.session.choose("c5")
        self.window.new_job()
        self.settle()
        self.assertEqual(self.job.parts[0].candidate, "c5")
        self.assertEqual(len(self.view.list.findItems("Tricycle footwell floor", Qt.MatchFlag.MatchExactly)), 1)
        plan = self.view.model.plan
        self.assertEqual(plan.problems, ())
        self.assertAlmostEqual(plan.parts[0].mass(), self.value("mass", "c5"), places=9)
        self.press(Qt.Key.Key_Z, CTRL)
        self.assertEqual(len(self.view.model.project.jobs), 2)

    def test_edits_plan_again(self) -> None:
        before = self.view.model.plan.cost.price.total
        self.choose("How many of part 1", "2")
        self.settle()
        self.assertEqual(self.job.parts[0].count, 2)
        self.assertGreater(self.view.model.plan.cost.price.total, before)
        self.assertIn("One unit weighs 2.79", self.view.head.text())
        self.press(Qt.Key.Key_Z, CTRL)
        self.settle()
        self.assertAlmostEqual(self.view.model.plan.cost.price.total, before)

    def test_an_edit_that_is_taken_back_while_it_is_planned(self) -> None:
        before = self.view.model.plan
        self.view.model.edit_job(lambda job: replace(job, units=3), "units")
        self.window.session.document.undo()
        self.process()
        self.assertFalse(self.view.model.busy)
        self.assertIs(self.view.model.plan, before)

    def test_works_wait_for_what_is_chosen(self) -> None:
        self.button(self.view.parts.work)
        self.assertEqual(self.job.works[-1].after, ("w2",))
        self.click_button("Wait for floor")
        self.assertEqual(self.job.works[-1].after, ("w2", "p1"))
        self.click_button("Do not wait for fit fairing and lid")
        self.assertEqual(self.job.works[-1].after, ("p1",))
        self.view.parts.list.setFocus()
        self.press(Qt.Key.Key_Delete)
        self.assertEqual(len(self.job.works), 2)

    def test_a_part_with_weighings_stays(self) -> None:
        self.view.parts._choose("p1")
        self.button(self.view.parts.drop)
        self.assertEqual(len(self.job.parts), 4)
        self.assertIn("weighings or logs", self.view.message.text())

    def test_a_first_day_that_is_none_is_told_at_its_field(self) -> None:
        field = self.type_into("First day", "30 November")
        self.settle()
        self.assertIn("written as 2026-11-30", self.view.parts.sheet.paragraph.message)
        self.assertTrue(field.property("told"))
        self.type_into("First day", "2026-12-01")
        self.settle()
        self.assertEqual(self.view.parts.sheet.paragraph.message, "")

    def test_a_circle_of_works_is_told(self) -> None:
        self.view.parts._choose("w1")
        self.click_button("Wait for fit fairing and lid")
        self.settle()
        self.assertIn("waits for itself", self.view.notes.text())
        self.assertIsNone(self.view.model.plan.calendar)
        for page in (CALENDAR, COST):
            self.show_page(page)

    def test_every_page_of_every_job_shows_itself(self) -> None:
        for row in range(self.view.list.topLevelItemCount()):
            self.view.list.setCurrentItem(self.view.list.topLevelItem(row))
            self.settle()
            for page in range(SHOP + 1):
                self.show_page(page)
                self.assertTrue(self.view.pages.currentWidget().isVisible())
        self.press(Qt.Key.Key_U, CTRL)
        self.settle()
        for page in range(SHOP + 1):
            self.show_page(page)
        self.window.switch_theme()
        self.process()

    def test_without_a_job_the_next_step_is_told(self) -> None:
        for _ in range(2):
            self.button(self.view.drop)
        self.assertIn("No job yet", self.view.head.text())
        for page in range(SHOP + 1):
            self.show_page(page)


class Sheets(BuildTest):
    def test_the_ply_book(self) -> None:
        self.show_page(BOOK)
        page = self.view.book
        titles = [page.list.topLevelItem(i).text(1) for i in range(page.list.topLevelItemCount())]
        self.assertIn("A1  twill200 at -45°", titles)
        page.list.setCurrentItem(page.list.topLevelItem(titles.index("A1  twill200 at -45°")))
        self.process()
        self.assertIn("620.0 × 440.0 mm", page.told.text())
        self.assertEqual(page.picture.seen, -45.0)
        page.choice._take(page.choice.count() - 1)
        self.process()
        self.assertIn("closing bond", page.list.topLevelItem(0).text(1))

    def test_another_cloth_is_priced(self) -> None:
        self.show_page(CUT)
        page = self.view.cut
        self.assertIn("no layout on 1270 mm can be shorter", page.told.text())
        page.other.setCurrentText("spread100")
        QTest.mouseClick(page.swap, Qt.MouseButton.LeftButton)
        page.search.begin_now()
        self.wait(lambda: not page.search.running)
        self.process()
        self.assertIn("spread100 in place of twill200: −", page.swap_told.text())

    def test_a_roll_narrower_than_its_pieces(self) -> None:
        self.show_page(SHOP)
        self.type_into("Width of stock 2", "300 mm")
        self.settle()
        self.show_page(CUT)
        self.assertIn("spliced", self.view.cut.told.text())
        self.show_page(SHOP)
        field = self.type_into("Overlap of a splice", "0")
        self.settle()
        self.assertTrue(field.property("told"))
        self.assertIn("may not be spliced", self.view.shop.shop.paragraph.message)

    def test_the_shortage_and_what_was_used(self) -> None:
        self.show_page(RESIN)
        page = self.view.resin
        self.assertIn("buy 0.266 kg", page.stock.text())
        self.type_into("Mixed, resin and hardener", "150 g")
        self.type_into("Left over", "160 g")
        page.list.setCurrentItem(page.list.topLevelItem(1))
        self.button(page.note)
        self.assertIn("less than what was mixed", self.view.message.text() + page.left.toolTip())
        self.assertEqual(len(self.job.uses), 3)
        self.type_into("Left over", "12 g")
        self.button(page.note)
        self.assertEqual(self.job.uses[-1].part, "p2")
        self.assertAlmostEqual(self.job.uses[-1].left, 0.012)
        self.assertEqual(page.uses.topLevelItemCount(), 1)

    def test_the_calendar_is_dragged_to_another_day(self) -> None:
        self.show_page(CALENDAR)
        picture = self.view.calendar.picture
        per_day = 24.0 * picture._span()[2]
        start = QPoint(picture.width() // 2, 60)
        QTest.mousePress(picture, Qt.MouseButton.LeftButton, pos=start)
        QTest.mouseMove(picture, start + QPoint(round(1.1 * per_day), 0))
        QTest.mouseRelease(picture, Qt.MouseButton.LeftButton, pos=start + QPoint(round(1.1 * per_day), 0))
        self.settle()
        self.assertEqual(self.job.start, "2026-12-01")
        self.button(self.view.calendar.earlier)
        self.assertEqual(self.job.start, "2026-11-30")
        self.assertIn("a second glass plate would save", self.view.calendar.told.text())

    def test_an_hour_that_costs_more(self) -> None:
        self.show_page(COST)
        before = self.view.model.plan.cost.price.total
        self.show_page(SHOP)
        self.type_into("Money of an hour", "60")
        self.settle()
        self.assertGreater(self.view.model.plan.cost.price.total, before)
        self.button(self.view.shop.new)
        self.assertEqual(len(self.view.model.project.shop.processes), 5)
        self.button(self.view.shop.drop)
        self.assertEqual(len(self.view.model.project.shop.processes), 4)
        self.view.shop.chosen = "bag"
        self.button(self.view.shop.drop)
        self.assertIn("a job uses this process", self.view.message.text())

    def test_writing_the_job(self) -> None:
        for ending in (".pdf", ".xlsx", ".csv", ".dxf"):
            path = self.folder / f"job{ending}"
            self.window.files.ask_save = lambda _name, _kinds, path=path: str(path)
            self.window.write_job(ending)
            self.wait(path.exists)
            self.assertGreater(len(path.read_bytes()), 1000)
        self.window.files.ask_save = lambda _name, _kinds: str(self.folder / "tub.csv")
        self.window.write_job("")
        self.wait(lambda: len(list(self.folder.glob("tub-*.csv"))) == 7)


class Weighing(BuildTest):
    def test_a_part_on_the_scale(self) -> None:
        self.show_page(WEIGHTS)
        page = self.view.weights
        self.view.model.choose_part("p2")
        self.process()
        self.button(page.scale)
        self.assertIn("kg", page.mass.text())
        self.write(page.crew, "Ada")
        self.choose("State of the part", "trimmed")
        self.button(page.note)
        made = self.job.weighed[-1]
        self.assertEqual((made.part, made.state, made.crew, made.process), ("p2", "trimmed", "Ada", "bag"))
        self.assertTrue(1.0 < made.mass.value / made.predicted < 1.1)
        self.assertEqual(page.ledger.topLevelItemCount(), 5)
        self.write(page.mass, "heavy")
        self.button(page.note)
        self.assertIn("Mass on the scale", self.view.message.text())
        self.assertEqual(page.mass.text(), "heavy")  # nothing typed is lost

    def test_the_factor_is_taken_and_withdrawn(self) -> None:
        self.show_page(WEIGHTS)
        page = self.view.weights
        page.offers.setCurrentItem(page.offers.topLevelItem(0))
        before = self.view.model.plan.parts[0].mass("trimmed")
        self.button(page.take)
        self.assertAlmostEqual(self.view.model.plan.parts[0].mass("trimmed") / before, 1.0515, places=3)
        self.assertIn("counts", page.offers.topLevelItem(0).text(2))
        self.button(page.take)
        self.assertAlmostEqual(self.view.model.plan.parts[0].mass("trimmed"), before)

    def test_coupon_to_part(self) -> None:
        self.show_page(WEIGHTS)
        self.assertIn("floor: +", self.view.weights.carried.text())
        self.type_into("Area of a specimen", "20 cm**2")
        self.assertIn("+313", self.view.weights.carried.text())

    def test_the_leak_is_found_and_the_gauge_read(self) -> None:
        self.show_page(BAG)
        page = self.view.bag
        self.view.model.choose_part("p3")
        self.process()
        page.list.setCurrentItem(page.list.topLevelItem(0))
        self.process()
        self.assertIn("it leaks", page.told.text())
        page.make_gauge = lambda _name: SimulatedGauge(2400.0, 0.4)
        self.button(page.gauge)
        self.assertEqual(len(self.job.bags), 4)
        self.assertIn("the bag holds", page.told.text())
        self.write(page.line, "0 25 mbar; soon 31 mbar")
        self.button(page.note)
        self.assertIn("reading 2", self.view.message.text())
        self.write(page.line, "0 22 °C; 1 h 24 °C; 29 h 22 °C")
        self.button(page.note)
        self.assertEqual(len(self.job.cures), 2)
        self.assertIn("Glass transition", page.told.text())

    def test_planning_leaves_the_window_free(self) -> None:
        """While a job is planned the window goes on answering; no call of the event loop takes long."""
        self.choose("Units built now", "6")
        self.view.model.plan_now()
        longest = 0.0
        while self.view.model.busy:
            start = time.perf_counter()
            self.application.processEvents()
            longest = max(longest, time.perf_counter() - start)
            time.sleep(0.001)
        self.assertGreater(len(self.view.model.plan.cutting.pieces), 20)
        self.assertLess(longest, 1.0)
        self.show_page(PARTS)


if __name__ == "__main__":
    import unittest

    unittest.main()
