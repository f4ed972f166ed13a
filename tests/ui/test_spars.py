"""Spars in the window: walls, sections by points, loads along the span, and how far plies must run."""

from __future__ import annotations

import tempfile
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QToolButton

from omakase.project import edits
from tests.ui.support import WindowTest

CTRL = Qt.KeyboardModifier.ControlModifier
CTRL_ALT = CTRL | Qt.KeyboardModifier.AltModifier


class Spars(WindowTest):
    def show(self, candidate_id: str) -> None:
        self.window.session.choose_brief("b6")
        self.window.session.choose(candidate_id)
        self.process()

    def test_walls_are_shown_one_at_a_time(self) -> None:
        self.show("c5")
        session, editor = self.window.session, self.window.layup_editor
        self.assertEqual(list(editor.walls.buttons), ["upper cap", "front web", "rear web", "lower cap"])
        self.assertIn("web", session.wall)  # the wall of the check that governs
        self.assertTrue(editor.walls.buttons["front web"].text().startswith("✗ front web 0."))
        self.assertFalse(editor.walls.buttons["upper cap"].text().startswith("✗"))
        editor.walls.buttons["upper cap"].click()
        self.process()
        self.assertEqual(session.wall, "upper cap")
        self.assertEqual(editor.table.layer_model.rowCount(), len(edits.rows_of_wall(session.candidate, "upper cap")))
        self.assertIn("ud300", editor.line.text())
        self.press(Qt.Key.Key_Right, CTRL_ALT)
        self.assertEqual(session.wall, "front web")
        self.press(Qt.Key.Key_Left, CTRL_ALT)
        self.assertEqual(session.wall, "upper cap")
        rear = next(i for i, own in enumerate(session.result.checks) if own.wall == "rear web")
        session.look_at_check(session.result.checks[rear])
        self.process()
        self.assertEqual(session.wall, "rear web")
        self.window.grab()

    def test_a_wall_is_written_in_the_quick_line_and_the_others_stay(self) -> None:
        self.show("c5")
        session, editor = self.window.session, self.window.layup_editor
        before, mass = session.candidate, session.result.mass
        session.look_at_wall("front web")
        editor.line.setFocus()
        editor.line.selectAll()
        QTest.keyClicks(editor.line, "plain90 45 ; core pvc60 3 ; plain90 45")
        QTest.keyClick(editor.line, Qt.Key.Key_Return)
        self.process()
        after = session.candidate
        self.assertEqual([layer.role for layer in edits.of_wall(after, "front web").layers], ["ply", "core", "ply"])
        for wall in ("upper cap", "rear web", "lower cap"):
            self.assertEqual(edits.of_wall(after, wall).layers, edits.of_wall(before, wall).layers)
        self.assertNotEqual(session.result.mass, mass)
        self.press(Qt.Key.Key_Z, CTRL)
        self.assertEqual(session.candidate, before)

    def test_the_outline_is_chosen_in_the_sentence(self) -> None:
        self.show("c3")
        session = self.window.session
        self.choose("Outline of the section", "a box of two cells")
        self.assertEqual(session.walls, ("upper cap", "front web", "middle web", "rear web", "lower cap"))
        self.assertTrue(session.result.ok, session.result.error)
        self.type_into("Width at station 1", "26 mm")
        self.choose("Outline of the section", "drawn by points")
        self.assertIn("skin", session.walls)
        self.assertTrue(session.result.ok, session.result.error)
        self.type_into("Width at station 1", "200 mm")
        self.type_into("Width at station 2", "150 mm")
        self.assertTrue(session.result.ok, session.result.error)
        self.click("Another web")
        self.assertEqual(len(session.candidate.form.webs), 2)
        self.assertTrue(session.result.ok, session.result.error)
        self.type_into("Place of web 1 as a share of the width", "0.9")
        self.assertIn("from the smallest", self.window.layup_editor.form.paragraph.message)
        self.window.grab()

    def test_an_outline_by_the_number_of_its_profile(self) -> None:
        self.show("c3")
        session, form = self.window.session, self.window.layup_editor.form
        self.choose("Outline of the section", "drawn by points")
        self.type_into("Width at station 1", "200 mm")
        self.type_into("Width at station 2", "150 mm")
        self.click("Let the height follow: in proportion")
        symmetric = session.result.worst("deflection").value
        self.type_into("Number of the 4-digit profile", "4418")
        self.assertTrue(session.result.ok, session.result.error)
        self.assertLess(session.result.worst("deflection").value, 0.7 * symmetric)
        self.type_into("Number of the 4-digit profile", "44")
        self.assertIn("four digits", form.paragraph.message)
        self.window.grab()
        self.press(Qt.Key.Key_Z, CTRL)
        deflection = session.result.worst("deflection").value
        self.click("Keep the outline as points of its own")
        self.assertEqual((len(session.candidate.form.points), session.candidate.form.profile), (33, ""))
        self.assertAlmostEqual(session.result.worst("deflection").value, deflection)
        self.click("Draw it as the 4-digit profile 0012, then type another")
        self.assertEqual(session.candidate.form.profile, "0012")

    def click(self, name: str) -> None:
        next(own for own in self.window.findChildren(QToolButton) if own.accessibleName() == name).click()
        self.process()

    def test_an_outline_is_read_from_a_file(self) -> None:
        self.show("c3")
        session, window = self.window.session, self.window
        before = session.candidate
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "outline.csv"
            window.files.ask_open = lambda _kinds: str(path)
            path.write_text("y, z\n0, 0\n60, 0\nsixty, 40\n")
            self.press(Qt.Key.Key_O, CTRL_ALT)
            self.assertIn("line 4", window.notice.text)
            self.assertEqual(session.candidate, before)
            path.write_text("y, z\n0, 0\n60, 0\n60, 40\n0, 40\n")
            self.press(Qt.Key.Key_O, CTRL_ALT)
        self.assertEqual(session.candidate.form.outline, "drawn")
        self.assertEqual(len(session.candidate.form.points), 4)
        self.assertTrue(session.result.ok, session.result.error)
        self.window.session.choose_brief("b4")
        self.process()
        self.press(Qt.Key.Key_O, CTRL_ALT)
        self.assertIn("cannot be drawn", window.notice.text)

    def test_loads_and_their_factor(self) -> None:
        self.show("c3")
        session = self.window.session
        sag = session.result.worst("deflection").value
        self.type_into("Factor on the loads of l1", "10")
        self.assertAlmostEqual(session.result.worst("deflection").value / sag, 2.0, delta=1e-6)
        self.type_into("Lift in all, l1 load 1", "10.1 lbf")
        self.assertAlmostEqual(session.brief.load_cases[0].loads[0].total, 44.93, delta=0.01)
        self.choose("How lift is shared out, l1 load 1", "as an ellipse")
        self.assertEqual(session.brief.load_cases[0].loads[0].shape, "elliptic")
        self.type_into("Where lift ends, l1 load 1", "2.5 m")
        self.assertIn("beyond the member", self.window.brief_view.paragraphs["l1"].message)

    def test_a_ply_ends_where_the_rest_is_enough(self) -> None:
        self.show("c3")
        session = self.window.session
        session.look_at_wall("upper cap")
        self.command("diagrams along the span")
        runs = self.window.diagram_page.runs
        self.assertTrue(runs.search.running)
        runs.search.begin_now()
        self.wait(lambda: not runs.search.running)
        self.assertEqual(set(runs.needed), set(edits.rows_of_wall(session.candidate, "upper cap")))
        runs.chosen = 1
        runs.setFocus()
        self.assertIn("must run", runs._head())
        must = runs.known(1)
        runs.grab()
        QTest.keyClick(runs, Qt.Key.Key_E)
        self.process()
        low, high = runs.run_of(1)
        self.assertAlmostEqual(low, must.ends(2.1)[0], places=3)
        self.assertAlmostEqual(high, must.ends(2.1)[1], places=3)
        self.assertIsNone(runs.known(1))  # it has to be worked out anew
        self.assertTrue(all(own.reserve_factor >= 1.0 for own in session.result.checks if own.kind == "strength"))

    def test_a_proof_load_says_what_to_put_where(self) -> None:
        self.show("c3")
        self.command("tests, or the line-up")
        view = self.window.tests_view
        view.method.setCurrentIndex(view.method.findData("proof_load"))
        view.plan_series()
        self.process()
        told = view.plan_page.told.text()
        self.assertIn("At the last step:", told)
        self.assertEqual(told.count("around x"), 6)
        self.assertIn("Expected deflection then:", told)

    def test_the_menu_of_a_spar(self) -> None:
        self.show("c3")
        self.command("menu of trade-offs")
        view, session = self.window.menu_view, self.window.session
        for field, text in (
            (view.skins, "ud300, plain90"),
            (view.cores, "pvc60"),
            (view.angles, "45"),
            (view.sizes, "3 mm to 3 mm"),
        ):
            field.setText(text)
        view.fewest.setCurrentIndex(view.fewest.findData(2))
        view.most.setCurrentIndex(view.most.findData(3))
        view.start()
        self.wait(lambda: not view.searching, 60.0)
        self.assertIn("none is better", view.head.text())
        self.assertIn("On the outline and sizes of Box, UD caps", view.head.text())
        self.assertTrue(view.dishes)
        self.window.grab()
        count = len(session.brief.candidates)
        view.take_chosen()
        self.process()
        self.assertEqual(len(session.brief.candidates), count + 1)
        self.assertTrue(session.result.passes)
        self.assertEqual(session.candidate.form.outline, "box")
