"""Ways, menu, studies and reasons, driven in the real window."""

from __future__ import annotations

import csv
import unittest

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from omakase.evaluate.sizing.study import Curve, Map
from omakase.ui.kit.searching import Searching
from tests.ui.support import WindowTest


class Sizing(WindowTest):
    def finish(self, search: Searching) -> None:
        self.process()
        search.begin_now()
        self.wait(lambda: not search.running, 60.0)
        self.process()

    def test_ways_are_told_with_what_they_come_to_and_taken(self) -> None:
        session, view = self.window.session, self.window.ways_view
        session.choose("c2")
        self.window.show_ways()
        self.finish(view.search)
        levers = [way.lever for way in view.ways]
        self.assertEqual([way.place for way in view.ways], sorted(way.place for way in view.ways))
        for lever in ("core", "sold", "more A", "more B", "turn", "edges", "grade", "material"):
            self.assertIn(lever, levers)
        view.list.setCurrentItem(view.list.topLevelItem(levers.index("core")))
        self.assertIn("Least reserve over limit: driver steps in 0.94 →", view.detail.text())
        before = session.document.project
        QTest.keyClick(view.list, Qt.Key.Key_Return)
        self.process()
        self.assertTrue(session.result.passes)
        self.assertIn("core 10.50 mm", session.candidate.origin)
        self.window.session.document.undo()
        self.assertEqual(session.document.project, before)

    def test_clamping_the_edges_changes_the_brief_and_comes_back(self) -> None:
        session, view = self.window.session, self.window.ways_view
        session.choose("c2")
        self.window.show_ways()
        self.finish(view.search)
        row = [way.lever for way in view.ways].index("edges")
        view.list.setCurrentItem(view.list.topLevelItem(row))
        self.assertIn("brief", view.take.text())
        view.take_chosen()
        self.assertIn("clamped", str(session.brief.member.supports))
        session.document.undo()
        self.assertNotIn("clamped", str(session.brief.member.supports))
        choice = self.field("Whether the supports may change")
        choice.setCurrentIndex(choice.findData("given"))
        choice.activated.emit(choice.currentIndex())
        self.finish(view.search)
        self.assertNotIn("edges", [way.lever for way in view.ways])

    def test_the_menu_is_searched_and_one_is_taken(self) -> None:
        session, view = self.window.session, self.window.menu_view
        self.window.switch_top(view)
        self.process()
        view.skins.set_value("twill200")
        view.most.setCurrentIndex(view.most.findData(1))
        view.start()
        self.wait(lambda: not view.searching, 60.0)
        self.assertIn("none is better", view.menu.proof)
        self.assertIn("none is better", view.head.text())
        self.assertTrue(view.dishes)
        self.assertEqual(view.list.topLevelItemCount(), len(view.dishes))
        self.assertTrue(view.front._spots)
        spot, _ = view.front._spots[-1]
        QTest.mouseClick(view.front, Qt.MouseButton.LeftButton, pos=spot.toPoint())
        chosen = next(at for at, row in view.front._spots if row == view.list.currentIndex().row())
        self.assertEqual(chosen, spot)
        before = session.document.project
        QTest.keyClick(view.list, Qt.Key.Key_Return)
        self.process()
        self.assertTrue(session.result.passes)
        self.assertIn("menu", session.candidate.origin)
        session.document.undo()
        self.assertEqual(session.document.project, before)

    def test_choices_that_cannot_be_are_told_at_the_top(self) -> None:
        view = self.window.menu_view
        self.window.switch_top(view)
        self.process()
        for field, text, word in (
            (view.skins, "twill200, nosuch", "nosuch"), (view.cores, "twill200", "cannot be a core"),
            (view.angles, "zero", "numbers"), (view.sizes, "5 kg to 10 mm", "kg"), (view.sizes, "2 m", "between"),
        ):  # fmt: skip
            before = field.text()
            field.set_value(text)
            view.start()
            self.assertIn(word, view.head.text())
            self.assertEqual(view.head.property("role"), "alarm")
            self.assertFalse(view.searching)
            field.set_value(before)

    def test_a_stopped_search_leaves_the_document_and_the_menu_so_far(self) -> None:
        session, view = self.window.session, self.window.menu_view
        self.window.switch_top(view)
        self.process()
        before = session.document.project
        view.start()
        self.wait(lambda: view.menu.total > 0, 60.0)
        view.stop()
        self.process()
        self.assertFalse(view.searching)
        self.assertIn("Stopped", view.head.text())
        self.assertEqual(session.document.project, before)
        self.assertFalse(session.document.modified)

    def test_nothing_passes_and_the_least_bad_are_shown(self) -> None:
        session, view = self.window.session, self.window.menu_view
        brief = session.brief
        session.edit_brief(type(brief)(**{
            **{name: getattr(brief, name) for name in brief.__struct_fields__},
            "limits": type(brief.limits)(deflection=1e-6),
        }), "impossible")  # fmt: skip
        self.window.switch_top(view)
        self.process()
        view.most.setCurrentIndex(view.most.findData(1))
        view.start()
        self.wait(lambda: not view.searching, 60.0)
        self.assertIn("Nothing passes", view.head.text())
        self.assertIn("Deflection", view.list.topLevelItem(0).text(6))

    def test_a_study_is_drawn_saved_and_its_point_dragged(self) -> None:
        session, view = self.window.session, self.window.study_view
        session.choose("c2")
        self.window.switch_top(view)
        self.finish(view.search)
        study = view.picture.study
        assert isinstance(study, Curve)
        self.assertEqual(len(study.crossings), 2)
        self.assertIn("Crosses the limit at 10.3", view.message.text())
        path = self.folder / "study.csv"
        view.save_csv(str(path))
        with path.open(encoding="utf-8") as file:
            rows = list(csv.reader(file))
        self.assertEqual(len(rows), len(study.x) + 1)
        view.save_picture(str(self.folder / "study.png"))
        self.assertGreater((self.folder / "study.png").stat().st_size, 1000)
        view.save_csv(str(self.folder / "nowhere" / "study.csv"))
        self.assertIn("cannot be written", view.message.text())
        before = session.document.project
        box = view.picture._box
        start = QPoint(int(box.left() + 0.3 * box.width()), int(box.center().y()))
        end = QPoint(int(box.left() + 0.4 * box.width()), int(box.center().y()))
        QTest.mousePress(view.picture, Qt.MouseButton.LeftButton, pos=start)
        QTest.mouseMove(view.picture, end)
        QTest.mouseRelease(view.picture, Qt.MouseButton.LeftButton, pos=end)
        self.process()
        wanted = study.parameter.low + 0.4 * (study.parameter.high - study.parameter.low)
        self.assertAlmostEqual(session.candidate.layers[1].thickness, wanted, delta=2e-4)
        session.document.undo()  # a drag is one step
        self.assertEqual(session.document.project, before)

    def test_a_map_of_two_numbers(self) -> None:
        view = self.window.study_view
        self.window.session.choose("c5")  # stiff: it hardly stretches
        self.window.switch_top(view)
        self.process()
        view.second.setCurrentIndex(view.second.findData("loads"))
        view.restart()
        self.finish(view.search)
        self.assertIsInstance(view.picture.study, Map)
        self.assertIn("meet the brief", view.message.text())
        view.second.setCurrentIndex(view.second.findData(view.first.currentData()))
        view.restart()
        self.finish(view.search)
        self.assertIn("two different numbers", view.message.text())

    def test_what_it_hangs_on_and_why_it_differs(self) -> None:
        picture = self.window.reasons_picture
        self.window.session.choose("c3")
        self.window.show_page(5)
        self.finish(picture.search)
        assert picture.sensitivity is not None
        self.assertIn("moduli of twill200", picture.sensitivity.bars[0].name)
        self.assertEqual(picture.other.id, "c1")
        self.assertEqual(picture.differences[1].parts[0][0], "another kind of construction")
        picture.turn()
        self.finish(picture.search)
        self.assertEqual(picture.other.id, "c2")
        self.assertEqual([own.key for own in picture.differences], ["mass", "deflection", "frequency"])
        self.assertFalse(picture.grab().isNull())


if __name__ == "__main__":
    unittest.main()
