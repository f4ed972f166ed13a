"""Strips and tubes in the window, through its real widgets."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QToolButton

from omakase.project.spans import LegMember, StripForm, TubeForm
from omakase.ui.kit.fields import ChoiceField
from tests.ui.support import WindowTest

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


class Members(WindowTest):
    def show(self, brief_id: str, candidate_id: str) -> None:
        self.window.session.choose_brief(brief_id)
        self.window.session.choose(candidate_id)
        self.process()

    def push(self, what: str) -> None:
        button = next(own for own in self.window.findChildren(QToolButton) if own.accessibleName() == what)
        button.click()
        self.process()

    # --- a new brief ----------------------------------------------------------------------------------------

    def test_a_new_tube_from_nothing(self) -> None:
        self.press(Qt.Key.Key_N, CTRL | SHIFT)
        menu = self.window.kind_menu
        entry = next(action for action in menu.actions() if "tube" in action.text())
        menu.setActiveAction(entry)
        QTest.keyClick(menu, Qt.Key.Key_Return)
        session = self.window.session
        self.assertEqual(session.brief.name, "New tube")
        self.type_into("Tube length", "1.2 m")
        self.assertAlmostEqual(session.brief.member.length, 1.2)
        self.press(Qt.Key.Key_N, CTRL)
        self.assertIsInstance(session.candidate.form, TubeForm)
        QTest.keyClicks(self.window.layup_editor.line, "3 twill200 0/45")
        QTest.keyClick(self.window.layup_editor.line, Qt.Key.Key_Return)
        self.process()
        self.assertTrue(session.result.ok, session.result.error)
        self.type_into("Inside diameter at station 1", "1 in")
        self.assertAlmostEqual(session.candidate.form.diameter[0].size, 0.0254)
        before, mass = session.result.worst("deflection").value, session.result.mass
        self.push("Another inside diameter further along")
        self.assertEqual(len(session.candidate.form.diameter), 2)
        self.type_into("Inside diameter at station 2", "20")
        self.assertLess(session.result.mass, 0.95 * mass)
        self.press(Qt.Key.Key_Z, CTRL)
        self.press(Qt.Key.Key_Z, CTRL)
        self.assertEqual(len(session.candidate.form.diameter), 1)
        self.assertAlmostEqual(session.result.worst("deflection").value, before)

    def test_supports_loads_and_masses_are_edited_in_the_sentence(self) -> None:
        self.show("b5", "c2")
        session = self.window.session
        self.push("Add a support")
        self.assertEqual(len(session.brief.member.supports), 3)
        self.push("Remove support 3")
        self.assertEqual(len(session.brief.member.supports), 2)
        self.type_into("Place of support 2", "500 mm")
        self.assertAlmostEqual(session.brief.member.supports[1].x, 0.5)
        bare = session.result.response.frequencies[0]
        self.push("Add a mass that it carries")
        self.assertLess(session.result.response.frequencies[0], 0.99 * bare)
        self.type_into("Force, l1 load 1", "214 lbf")
        self.assertAlmostEqual(session.brief.load_cases[0].loads[0].force, 951.9, delta=0.1)
        held = next(
            own for own in self.window.findChildren(ChoiceField) if own.accessibleName() == "How it is held, support 1"
        )
        held.setCurrentIndex(0)
        held.activated.emit(0)
        self.process()
        self.assertEqual(session.brief.member.supports[0].held, "clamped")

    def test_what_makes_no_sense_is_told_at_its_field(self) -> None:
        self.show("b5", "c2")
        self.type_into("Place of support 2", "900 mm")
        self.assertIn("beyond the member", self.window.brief_view.paragraphs["panel"].message)
        self.assertIn("beyond the member", self.window.session.result.error)
        self.press(Qt.Key.Key_Z, CTRL)
        self.assertEqual(self.window.brief_view.paragraphs["panel"].message, "")
        self.show("b4", "c2")
        self.type_into("Inside diameter at station 1", "60 mm")
        self.assertIn("locks", self.window.layup_editor.message.text())
        self.type_into("Overlap of each wrap, 0 for sleeves", "500 mm")
        self.assertIn("overlap", self.window.layup_editor.form.paragraph.message)

    # --- pictures -------------------------------------------------------------------------------------------

    def test_a_support_is_dragged_in_the_picture(self) -> None:
        self.show("b4", "c3")
        picture, session = self.window.span_picture, self.window.session
        self.assertTrue(picture.isVisible() and not self.window.panel_picture.isVisible())
        plan = picture.painter_of_plan()
        handle = next(own for own in plan.drawing.handles if own.path == ("member", "supports", 1, "x"))
        start = plan.point(handle.at).toPoint()
        end = plan.point((1.0, handle.at[1])).toPoint()
        QTest.mousePress(picture, Qt.MouseButton.LeftButton, pos=start)
        QTest.mouseMove(picture, end)
        QTest.mouseRelease(picture, Qt.MouseButton.LeftButton, pos=end)
        self.process()
        self.assertAlmostEqual(session.brief.member.supports[1].x, 1.0, delta=0.02)
        case = session.load_case
        QTest.mouseClick(picture, Qt.MouseButton.LeftButton, pos=QPoint(6, 6))
        self.assertNotEqual(session.load_case, case)

    def test_the_cursor_is_followed_by_sections_and_stresses(self) -> None:
        self.show("b4", "c4")
        session, window = self.window.session, self.window
        self.command("diagrams along the span")
        self.assertIs(window.top.currentWidget(), window.diagram_page)
        picture = window.diagram_page.picture
        keys = [own.key for own, _ in picture.rows()]
        self.assertEqual(keys[-1], "reserve")
        self.assertTrue({"shear", "moment", "torque", "deflection", "twist"} <= set(keys))
        QTest.keyClick(picture, Qt.Key.Key_Home)
        worst = session.station
        QTest.mouseClick(picture, Qt.MouseButton.LeftButton, pos=QPoint(int(picture.plot().left()) + 4, 60))
        self.assertLess(session.station, 0.05)
        thin = window.lower.profile_picture.profile()
        QTest.mouseClick(
            picture,
            Qt.MouseButton.LeftButton,
            pos=QPoint(int(picture.plot().left() + 0.35 * picture.plot().width()), 60),
        )
        thick = window.lower.profile_picture.profile()
        self.assertEqual(len(thick.stack.layers), len(thin.stack.layers) + 2)  # between 0.6 and 1.3 m
        QTest.keyClick(picture, Qt.Key.Key_Right)
        QTest.keyClick(picture, Qt.Key.Key_Home)
        self.assertEqual(session.station, worst)
        QTest.keyClick(picture, Qt.Key.Key_O)
        QTest.keyClick(picture, Qt.Key.Key_O)
        self.assertIsNotNone(picture.rows()[0][1])
        window.grab()

    def test_every_member_with_a_span_has_its_diagrams(self) -> None:
        """Also the thickness that a leg wants, with a second load case laid over."""
        self.window.switch_top(self.window.diagram_page)
        picture, leg = self.window.diagram_page.picture, []
        for brief in self.window.session.document.project.briefs:
            self.window.session.choose_brief(brief.id)
            self.process()
            QTest.keyClick(picture, Qt.Key.Key_O)
            self.window.grab()
            if isinstance(brief.member, LegMember):
                leg = [own for own, _ in picture.rows() if own.wanted is not None]
        self.assertEqual([own.key for own in leg], ["thickness"])

    def test_runs_of_plies_are_dragged(self) -> None:
        self.show("b4", "c3")
        session, window = self.window.session, self.window
        self.command("diagrams along the span")
        runs = window.diagram_page.runs
        mass = session.result.mass
        bar = runs.bar(1)
        start, end = bar.center().toPoint(), bar.center().toPoint()
        start.setX(int(bar.right()))
        end.setX(int(bar.left() + 0.5 * bar.width()))
        QTest.mousePress(runs, Qt.MouseButton.LeftButton, pos=start)
        QTest.mouseMove(runs, end)
        QTest.mouseRelease(runs, Qt.MouseButton.LeftButton, pos=end)
        self.process()
        zone = session.candidate.zones[0]
        self.assertAlmostEqual(zone.high / session.brief.member.length, 0.5, delta=0.01)
        self.assertEqual(session.candidate.layers[1].zone, zone.id)
        self.assertLess(session.result.mass, mass)
        self.assertIsNone(runs.end_at(QPointF(-5.0, -5.0)))
        QTest.keyClick(runs, Qt.Key.Key_Right, SHIFT)
        self.assertGreater(session.candidate.zones[0].low, 0.0)
        for _ in range(3):
            self.press(Qt.Key.Key_Z, CTRL)
        self.assertEqual(session.candidate.zones, ())
        self.assertAlmostEqual(session.result.mass, mass)

    # --- layups ---------------------------------------------------------------------------------------------

    def test_stretches_in_the_quick_line(self) -> None:
        self.show("b4", "c4")
        line, session = self.window.layup_editor.line, self.window.session
        self.assertIn("@ at the gate", line.text())
        line.setFocus()
        line.selectAll()
        QTest.keyClicks(line, "twill200 45 ; 3 ud300 0 ; 2 ud300 90 @ 0..800 mm ; twill200 45 @ at the gate")
        QTest.keyClick(line, Qt.Key.Key_Return)
        self.process()
        candidate = session.candidate
        self.assertEqual([layer.zone for layer in candidate.layers], ["", "", "", "", "z2", "z2", "z1"])
        self.assertEqual((candidate.zones[1].low, candidate.zones[1].high), (0.0, 0.8))
        self.assertTrue(session.result.ok, session.result.error)
        line.end(False)
        QTest.keyClicks(line, " ; twill200 0 @ 3..2")
        self.assertIn("must end further out", self.window.layup_editor.message.text())

    def test_as_stiff_and_as_heavy(self) -> None:
        self.show("b5", "c2")
        session = self.window.session
        count = len(session.brief.candidates)
        self.command("just as stiff")
        QTest.keyClick(self.window.equals.menu, Qt.Key.Key_Return)  # the brief's own core
        self.wait(lambda: not self.window.equals.search.running)
        names = [own.name for own in session.brief.candidates]
        self.assertEqual(len(names), count + 3)
        self.assertEqual(names[2:5], ["Solid laminate", "Sandwich on pvc80", "Al6082 sheet"])
        self.press(Qt.Key.Key_Z, CTRL)
        self.assertEqual(len(session.brief.candidates), count)

    def test_a_page_that_a_kind_lacks_says_so(self) -> None:
        self.show("b5", "c2")
        self.command("menu of trade-offs")
        self.assertIn("flat panels only", self.window.menu_view.head.text())
        self.assertFalse(self.window.menu_view.begin.isEnabled())
        self.window.session.choose_brief("b1")
        self.process()
        self.assertTrue(self.window.menu_view.begin.isEnabled())

    def test_a_strip_in_other_units_and_dark(self) -> None:
        self.show("b5", "c4")
        self.assertIsInstance(self.window.session.candidate.form, StripForm)
        self.command("units")
        self.command("light or dark")
        self.window.grab()
        self.assertIn("in", self.field("Strip length").text())
        self.command("light or dark")
