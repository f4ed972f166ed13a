"""The vehicle sheet and formulas in the brief, through the real widgets."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from omakase.project.demo import demo_project
from omakase.project.storage import to_bytes
from omakase.project.vehicle import formula_at
from tests.ui.support import WindowTest

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
FORCE = ("load_cases", 0, "loads", 0, "force")


class VehicleSheet(WindowTest):
    def cell(self, row: int, column: int) -> str:
        item = self.window.vehicle_view.list.topLevelItem(row)
        assert item is not None
        return item.text(column)

    def write(self, row: int, column: int, text: str) -> None:
        """Types into a cell as a person does."""
        view = self.window.vehicle_view
        item = view.list.topLevelItem(row)
        view.list.setCurrentItem(item, column)
        view.list.editItem(item, column)
        editor = self.application.focusWidget()
        editor.selectAll()
        QTest.keyClicks(editor, text)
        QTest.keyClick(editor, Qt.Key.Key_Return)
        self.process()

    def test_a_heavier_payload_and_back(self) -> None:
        self.press(Qt.Key.Key_V, CTRL | SHIFT)
        view, session = self.window.vehicle_view, self.window.session
        self.assertTrue(view.isVisible())
        self.assertEqual(self.cell(2, 2), "9.2 kg")
        self.write(1, 1, "3.6 kg")
        self.assertEqual(self.cell(2, 2), "10 kg")
        view.search.begin_now()
        self.wait(lambda: not view.search.running)
        self.process()
        self.assertEqual(view.effects.topLevelItemCount(), 10)  # the candidates of the spar and of the wing
        first = view.effects.topLevelItem(0)
        self.assertIn("no longer passes", first.text(4))
        self.assertIn("No longer pass: 2", view.state.text())
        view.effects.setCurrentItem(first)
        view.show_chosen()
        self.process()
        self.assertEqual((session.brief_id, session.candidate.name), ("b6", first.text(1)))
        self.assertTrue(self.window.line_up_view.isVisible())
        session.document.undo()
        self.assertEqual(to_bytes(session.document.project), to_bytes(demo_project()))

    def test_mistakes_are_told_at_their_row_and_nothing_is_lost(self) -> None:
        self.press(Qt.Key.Key_V, CTRL | SHIFT)
        view, session = self.window.vehicle_view, self.window.session
        lift = session.document.project.briefs[5].load_cases[0].loads[0].total
        self.write(2, 1, "= airframe + airspeed")
        self.assertEqual((self.cell(2, 1), self.cell(2, 2)), ("= airframe + airspeed", "!"))
        self.assertIn("drone_mass: kg and m/s cannot be added", view.message.text())
        self.assertEqual(session.document.project.briefs[5].load_cases[0].loads[0].total, lift)
        view.list.setCurrentItem(view.list.topLevelItem(0))
        self.assertIn("formulas of briefs", view.message.text())
        self.write(2, 1, "= wing_lift / g0")
        self.assertIn("from itself", view.message.text())
        self.write(2, 0, "kg")
        self.assertIn("is a unit", view.message.text())
        for _ in range(3):
            session.document.undo()
        self.process()
        self.assertEqual(to_bytes(session.document.project), to_bytes(demo_project()))
        self.assertFalse(view.renew.isEnabled())

    def test_rows_come_and_go(self) -> None:
        self.press(Qt.Key.Key_V, CTRL | SHIFT)
        view, session = self.window.vehicle_view, self.window.session
        view.list.setCurrentItem(view.list.topLevelItem(0))
        self.press(Qt.Key.Key_Insert)
        editor = self.application.focusWidget()
        QTest.keyClicks(editor, "flaps")
        QTest.keyClick(editor, Qt.Key.Key_Return)
        self.process()
        self.assertEqual(session.document.project.quantities[1].name, "flaps")
        self.write(1, 1, "300 g")
        self.assertEqual(self.cell(1, 2), "0.3 kg")
        self.write(1, 3, "oz")
        self.assertEqual(self.cell(1, 2), "10.582 oz")
        view.list.setCurrentItem(view.list.topLevelItem(0))
        self.press(Qt.Key.Key_Delete)
        self.assertIn("airframe", session.document.undo_text)
        self.assertEqual(self.cell(2, 2), "!")
        self.press(Qt.Key.Key_Escape)
        self.assertTrue(self.window.line_up_view.isVisible())

    def test_an_empty_sheet_teaches(self) -> None:
        session = self.window.session
        self.press(Qt.Key.Key_V, CTRL | SHIFT)
        view = self.window.vehicle_view
        for _ in range(len(session.document.project.quantities)):
            view.list.setCurrentItem(view.list.topLevelItem(0))
            view.remove_quantity()
        self.process()
        self.assertIn("Press Insert", view.head.text())


class FormulasInTheBrief(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.window.session.choose_brief("b5")
        self.process()

    def test_shown_as_a_value_with_the_formula_one_key_away(self) -> None:
        field = self.field("Force, l1 load 1")
        self.assertEqual(field.text(), "= 951.2 N")
        self.assertIn("= seat_load", field.toolTip())
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, "=")
        self.assertEqual(field.text(), "= seat_load")
        QTest.keyClick(field, Qt.Key.Key_Escape)
        self.assertEqual(field.text(), "= 951.2 N")
        QTest.keyClick(field, Qt.Key.Key_Up)
        self.assertIn("follows = seat_load", self.window.brief_view.paragraphs["l1"].message)
        self.assertEqual(to_bytes(self.window.session.document.project), to_bytes(demo_project()))

    def test_typed_replaced_and_refused(self) -> None:
        session = self.window.session
        self.type_into("Force, l1 load 1", "= 1.2 * seat_load")
        self.assertAlmostEqual(session.brief.load_cases[0].loads[0].force, 1.2 * 97 * 9.80665)
        self.assertEqual(formula_at(session.brief, FORCE), "= 1.2 * seat_load")
        field = self.type_into("Force, l1 load 1", "= rider")
        self.assertIn("a force is wanted here", self.window.brief_view.paragraphs["l1"].message)
        self.assertEqual(field.text(), "= rider")  # what was typed stays until it is mended
        self.assertEqual(formula_at(session.brief, FORCE), "= 1.2 * seat_load")
        self.type_into("Force, l1 load 1", "900 N")
        self.assertEqual((session.brief.load_cases[0].loads[0].force, session.brief.formulas), (900.0, ()))
        session.document.undo()
        session.document.undo()
        self.process()
        self.assertEqual(self.field("Force, l1 load 1").text(), "= 951.2 N")

    def test_a_limit_may_follow_too(self) -> None:
        self.type_into("Largest mass allowed", "= rider / 200")
        self.assertAlmostEqual(self.window.session.brief.limits.mass, 0.485)
        self.assertEqual(self.field("Largest mass allowed").text(), "= 0.485 kg")


class Decisions(WindowTest):
    def test_decided_changed_and_withdrawn(self) -> None:
        session, view = self.window.session, self.window.history_view
        self.assertIn("Decided R1: Two above, one below, unchanged.", self.window.decision.text())
        self.press(Qt.Key.Key_H, CTRL)
        self.assertTrue(view.isVisible())
        session.choose("c4")
        view.decide_button.click()
        self.assertIn("write down who decides", view.message.text())
        self.type_into("Who decides", "Q")
        self.type_into("Why", "one ply less to cut")
        view.decide_button.click()
        self.process()
        self.assertEqual(session.decision.candidate, "c4")
        self.assertEqual(session.decision.revision, 2)
        self.assertIn("one ply less to cut", view.log.topLevelItem(0).text(0))
        self.type_into("Largest mass allowed", "0.6 kg")
        self.assertIn("0.9 kg → 0.6 kg. It no longer passes.", self.window.decision.text())
        self.assertIn("1 change since", view.list.topLevelItem(0).text(5))
        view.list.setCurrentItem(view.list.topLevelItem(0))
        view.withdraw_button.click()
        self.assertIn("why it is withdrawn", view.message.text())
        self.type_into("Why", "too heavy now")
        view.withdraw_button.click()
        self.process()
        self.assertIsNone(session.decision)
        self.assertNotIn("Decided", self.window.decision.text())
        for _ in range(3):
            session.document.undo()
        self.process()
        self.assertEqual(to_bytes(session.document.project), to_bytes(demo_project()))
        self.assertEqual(self.settings.value("who"), "Q")
        self.press(Qt.Key.Key_Escape)
        self.assertTrue(self.window.line_up_view.isVisible())


class Parts(WindowTest):
    def test_added_counted_and_held_against_the_budget(self) -> None:
        self.press(Qt.Key.Key_V, CTRL | Qt.KeyboardModifier.AltModifier)
        view, session = self.window.parts_view, self.window.session
        self.assertTrue(view.isVisible())
        view.new.click()
        self.process()
        self.type_into("Name of the vehicle", "Trailer")
        view.add_part("b1")
        view.add_part("")
        view.change(0, 2, "2")
        view.change(1, 3, "= rider / 10")
        self.assertEqual(session.document.project.vehicles[-1].parts[0].count, 2)
        view.search.begin_now()
        self.wait(lambda: not view.search.running)
        self.process()
        self.assertIn("decided, passes", view.list.topLevelItem(0).text(6))
        self.assertIn("Mass 10.8", view.sum.text())  # twice 0.556 kg and 9.7 kg
        self.type_into("Mass budget", "10 kg")
        view.search.begin_now()
        self.wait(lambda: not view.search.running)
        self.process()
        self.assertIn("over", view.sum.text())
        self.assertEqual(view.sum.property("role"), "alarm")
        view.change(0, 2, "many")
        self.assertIn("whole number", view.message.text())
        view.list.setFocus()
        view.list.setCurrentItem(view.list.topLevelItem(1))
        self.press(Qt.Key.Key_Delete)
        self.assertEqual(len(session.document.project.vehicles[-1].parts), 1)
        view.drop_vehicle.click()
        self.process()
        self.assertEqual([own.name for own in session.document.project.vehicles], ["Survey drone", "Solar tricycle"])
        self.press(Qt.Key.Key_Escape)
        self.assertTrue(self.window.line_up_view.isVisible())


class Resize(WindowTest):
    def test_previewed_and_done_in_one_step(self) -> None:
        session, view = self.window.session, self.window.resize_view
        self.command("resize the brief")
        self.assertTrue(view.isVisible())
        self.assertFalse(view.apply.isEnabled())
        self.type_into("Length times", "110 %")
        self.type_into("Speed times", "1.2")
        texts = [view.list.topLevelItem(i).text(0) for i in range(view.list.topLevelItemCount())]
        self.assertTrue(any("620 mm → 682 mm" in text for text in texts), texts)
        self.type_into("Width times", "0")
        self.assertIn("between 0.05 and 20", view.message.text())
        view.apply.click()
        self.process()
        self.assertAlmostEqual(session.brief.member.length, 0.682)
        self.assertAlmostEqual(session.brief.load_cases[1].loads[0].pressure, 1500.0 * 1.44)
        self.assertIn("resize", session.document.undo_text)
        session.document.undo()
        self.assertEqual(to_bytes(session.document.project), to_bytes(demo_project()))
