"""What a hand does at the real window: clicks into values, Enter, Tab; nothing is lost and nothing is in the way."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel, QLineEdit, QWidget

from omakase.project import edits
from omakase.project.commands import replace
from omakase.ui.kit.fields import FittingLine, QuantityField
from omakase.ui.kit.labels import Heading, plain
from tests.ui.support import WindowTest

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


class Hands(WindowTest):
    @property
    def focus(self) -> QWidget | None:
        return QApplication.focusWidget()

    def name(self) -> str:
        return self.focus.accessibleName() if self.focus is not None else ""

    def keys(self, text: str) -> None:
        QTest.keyClicks(self.focus, text)
        self.process()

    def press_into(self, field: QWidget) -> None:
        """A real click in the middle of a field."""
        self.window.brief_view.ensureWidgetVisible(field)
        self.process()
        QTest.mouseClick(
            field, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(field.width() // 3, 5)
        )
        self.process()


class Values(Hands):
    def test_a_click_selects_the_whole_value_and_a_second_places_the_cursor(self) -> None:
        field = self.field("Panel length")
        self.press_into(field)
        self.assertEqual(field.selectedText(), field.text())
        self.keys("800")
        self.press(Qt.Key.Key_Return)
        self.assertAlmostEqual(self.window.session.brief.member.length, 0.8)
        field = self.field("Panel length")
        self.press_into(field)
        self.assertEqual(field.selectedText(), "" if field.hasSelectedText() is False else field.text())

    def test_enter_and_tab_keep_their_place_in_the_brief(self) -> None:
        brief = self.window.session.brief  # with one candidate, for every edit computes them all
        self.window.session.do(edits.arrange(brief, brief.candidates[3:4], "one alone"))
        self.window.session.choose(brief.candidates[3].id)
        self.process()
        names = [
            field.accessibleName()
            for field in self.window.brief_view.findChildren(FittingLine)
            if field.isVisible() and not field.accessibleName().startswith("Tightest bend")
        ]
        for name in names:
            for key in (Qt.Key.Key_Return, Qt.Key.Key_Tab):
                field = self.field(name)
                assert isinstance(field, FittingLine)
                self.window.brief_view.ensureWidgetVisible(field)
                field.setFocus(Qt.FocusReason.TabFocusReason)
                before = field.text()
                if isinstance(field, QuantityField):
                    QTest.keyClick(field, Qt.Key.Key_Up)
                    self.process()
                    self.press(key)
                else:
                    field.selectAll()
                    self.keys(before + " x")
                    self.press(key)
                with self.subTest(name, key=key):
                    self.assertIsNotNone(self.focus)
                    if key == Qt.Key.Key_Return:
                        self.assertEqual(self.name(), name)
                    else:
                        self.assertNotEqual(self.name(), name)
                        self.assertTrue(self.window.brief_view.isAncestorOf(self.focus), self.name())

    def test_new_limits_and_loads_take_the_focus(self) -> None:
        view = self.window.brief_view
        view._set_limit("mass", None)
        self.process()
        view._set_limit("mass", 1.0)
        self.process()
        self.assertEqual(self.name(), "Largest mass allowed")
        self.assertTrue(self.focus.selectedText())
        view.add_case()
        self.process()
        self.assertTrue(self.name().startswith("Name of load case"), self.name())
        case = self.window.session.brief.load_cases[-1].id
        view._add_load(case, "pressure")
        self.process()
        self.assertTrue(view.isAncestorOf(self.focus))
        self.assertIsInstance(self.focus, QuantityField)

    def test_what_was_typed_is_undone_in_one_step(self) -> None:
        for name, text in (
            ("Panel length", "710 mm"),
            ("Largest deflection allowed", "7 mm"),
            ("Factor of safety", "2"),
        ):
            before = self.window.session.document.project
            field = self.field(name)
            self.press_into(field)
            self.keys(text)
            self.press(Qt.Key.Key_Return)
            self.assertNotEqual(self.window.session.document.project, before)
            self.press(Qt.Key.Key_Z, CTRL)
            self.assertEqual(self.window.session.document.project, before, name)


class Bench(Hands):
    def test_enter_and_tab_keep_their_place_at_the_bench(self) -> None:
        from omakase.ui.testing import PLAN, SPECIMENS

        self.press(Qt.Key.Key_J, CTRL)
        view = self.window.tests_view
        view.model.choose_series("t6")
        for page in (PLAN, SPECIMENS):
            view.show_page(page)
            self.process()
            names = [
                field.accessibleName() for field in view.findChildren(FittingLine)
                if field.isVisible() and field.isEnabled() and "photograph" not in field.accessibleName().lower()
            ]  # fmt: skip
            self.assertTrue(names)
            for name in names:
                for key in (Qt.Key.Key_Return, Qt.Key.Key_Tab):
                    found = [own for own in view.findChildren(FittingLine) if own.accessibleName() == name]
                    field = next(own for own in found if own.isVisible())
                    field.setFocus(Qt.FocusReason.TabFocusReason)
                    if isinstance(field, QuantityField):
                        QTest.keyClick(field, Qt.Key.Key_Up)
                    else:
                        self.keys(field.text() + "1")
                    self.press(key)
                    with self.subTest(name, key=key):
                        self.assertIsNotNone(self.focus)
                        self.assertTrue(self.window.isAncestorOf(self.focus))
                        self.assertIsInstance(self.focus, QWidget)
                        if key == Qt.Key.Key_Return:
                            self.assertEqual(self.name(), name)


class Samples(Hands):
    def test_two_readings_with_tab_between(self) -> None:
        self.press(Qt.Key.Key_W, CTRL | SHIFT)
        self.process()
        self.assertIsInstance(self.focus, QLineEdit)
        self.keys("305 g")
        self.press(Qt.Key.Key_Tab)
        self.keys("10.4 oz")
        self.press(Qt.Key.Key_Return)
        made = self.window.session.document.project.samples[-1]
        self.assertEqual([reading.text for reading in made.masses], ["305 g", "10.4 oz"])
        self.assertIsInstance(self.focus, QLineEdit)


class Writing(Hands):
    def test_names_are_offered_by_words(self) -> None:
        editor = self.window.layup_editor
        editor.line.setFocus()
        editor.line.selectAll()
        self.keys("2 honeyc")
        self.assertTrue(any(name.startswith("hc48 ") for name in editor.completing.names), editor.completing.names)
        self.assertTrue(editor.completing.completer.popup().isVisible())
        editor.completing.put(next(name for name in editor.completing.names if name.startswith("hc48 ")))
        self.assertEqual(editor.line.text(), "2 hc48")
        self.assertFalse(editor.completing.completer.popup().isVisible())
        editor.line.selectAll()
        self.keys("twi")
        self.assertTrue(editor.completing.names[0].startswith("twill"))
        editor.completing.completer.popup().hide()

    def test_what_is_typed_stays_as_typed_and_the_rest_as_people_write(self) -> None:
        self.window.switch_units()
        self.process()
        self.assertEqual(self.field("Panel length").text(), "24.4 in")  # 620 mm
        self.assertEqual(self.field("Largest mass allowed").text(), "1.98 lb")
        self.type_into("Panel length", "24 13/32")
        self.assertEqual(self.field("Panel length").text(), "24 13/32 in")
        self.assertAlmostEqual(self.window.session.brief.member.length, (24 + 13 / 32) * 0.0254)
        for _ in range(2):  # its field is made anew, and shows it as it was typed
            self.window.acts.step_brief(1)
            self.process()
            self.window.acts.step_brief(-1)
            self.process()
            self.assertEqual(self.field("Panel length").text(), "24 13/32 in")
        self.window.session.document.undo()
        self.process()
        self.assertEqual(self.field("Panel length").text(), "24.4 in")
        self.assertAlmostEqual(self.window.session.brief.member.length, 0.62)
        self.type_into("Panel length", "200 mm * 3")
        self.assertAlmostEqual(self.window.session.brief.member.length, 0.6)

    def test_a_new_project_keeps_the_units(self) -> None:
        self.window.switch_units()
        self.window.session.document.mark_saved(self.folder / "x")
        self.window.files.new()
        self.process()
        self.assertEqual(self.window.session.units, "inch_pound")
        from omakase.ui.window.application import last_units

        self.assertEqual(last_units(self.settings), "inch_pound")

    def test_an_edited_value_is_the_user_s_own(self) -> None:
        self.window.layup_editor.table.select_row(1)
        self.window.show_page(2)
        card = self.window.material_card
        new = card.copy()
        model = card.model
        row = next(i for i, entry in enumerate(model.rows) if entry.key == "density")
        self.assertTrue(model.setData(model.index(row, 1), "90"))
        self.process()
        density = model.material.properties["density"]
        self.assertEqual((density.value, density.source), (90.0, "assumed"))
        self.assertIn("typed by hand, was 80", density.note)
        self.assertEqual(card.model.short_name, new)
        self.assertIn("density", model.data(model.index(row, 1), Qt.ItemDataRole.AccessibleTextRole))

    def test_only_tests_that_suit_the_layup_are_offered(self) -> None:
        self.press(Qt.Key.Key_J, CTRL)
        box = self.window.tests_view.method
        for candidate, there, gone in (("c1", "flexure_3", "core_shear_beam"), ("c2", "core_shear_beam", "flexure_3")):
            self.window.session.choose(candidate)
            self.process()
            names = {box.itemData(i) for i in range(box.count())}
            self.assertIn(there, names)
            self.assertNotIn(gone, names)


class Plain(Hands):
    def test_names_and_notes_are_never_markup(self) -> None:
        """A name that looks like markup is shown as it is, in every label and tip."""
        odd = "<img src='/etc/passwd'><b>x</b>"
        session = self.window.session
        session.edit_candidate(replace(session.candidate, name=odd, note=odd), "name")
        self.press(Qt.Key.Key_J, CTRL)
        self.window.show_help("keys")
        self.process()
        for label in self.window.findChildren(QLabel):
            if label.textFormat() != Qt.TextFormat.PlainText:
                self.assertIsInstance(label, Heading)
                self.assertNotIn("<img", label.text())
        self.assertNotIn("<img", plain(odd))
        self.window.notice.say(odd)
        self.assertEqual(self.window.notice.text, odd)

    def test_a_limit_against_no_baseline_is_told_at_its_place(self) -> None:
        view, session = self.window.brief_view, self.window.session
        view._set_against("mass", True)
        self.process()
        self.assertEqual(view.paragraphs["against mass"].message, "")
        self.assertIn("no heavier than the baseline", self.window.session.document.undo_text)
        session.edit_brief(replace(session.brief, baseline=""), "none")
        self.process()
        self.assertIn("made the baseline", view.paragraphs["against mass"].message)

    def test_a_field_that_is_wrong_is_named_as_on_the_screen(self) -> None:
        session = self.window.session
        session.edit_brief(replace(session.brief, limits=replace(session.brief.limits, mass=-1.0)), "x")
        self.process()
        self.assertIn("mass allowed: must be", session.result.error)
        self.assertNotIn("limits.", session.result.error)


class Places(Hands):
    def test_f6_goes_round_and_is_seen(self) -> None:
        seen = []
        for _ in range(4):
            self.press(Qt.Key.Key_F6)
            self.assertTrue(self.focus is not None and self.focus.isVisible())
            seen.append(self.focus)
        self.assertEqual(len(set(map(id, seen))), 4)
        line_up = self.window.line_up_view
        line_up.setFocus()
        self.process()
        with_focus = line_up.grab().toImage()
        self.window.layup_editor.table.setFocus()
        self.process()
        self.assertNotEqual(with_focus, line_up.grab().toImage())
        self.press(Qt.Key.Key_5, CTRL)
        self.window.brief_view.setFocus()
        for _ in range(4):
            self.press(Qt.Key.Key_F6)
            self.assertTrue(self.focus.isVisible())

    def test_the_library_s_card_goes_with_the_library(self) -> None:
        self.window.show_page(0)
        self.press(Qt.Key.Key_5, CTRL)
        self.assertEqual(self.window.pages.currentIndex(), 2)
        self.press(Qt.Key.Key_Escape)
        self.assertEqual(self.window.pages.currentIndex(), 0)

    def test_the_list_of_checks_keeps_its_words_when_narrow(self) -> None:
        table = self.window.checks_view.table
        wide = [table.model().index(0, column).data() for column in range(1, 3)]
        self.assertEqual(wide, ["Deflection !", "driver steps in"])
        for _ in range(6):
            self.window.step_size(1)
        self.process()
        self.assertEqual(table.model().index(0, 1).data(), "Deflection !, driver steps in")
        self.window.step_size(-20)
        self.window.step_size(1)

    def test_the_window_opens_inside_the_screen(self) -> None:
        room = self.window.screen().availableGeometry()
        self.window.resize(3000, 3000)
        self.window.keep_on_screen()
        self.assertLessEqual(self.window.height(), max(room.height(), self.window.minimumSizeHint().height()))
        self.assertLessEqual(self.window.width(), max(room.width(), self.window.minimumSizeHint().width()))
