"""Help by F1 and the menu; the README's table of keys is what the window has."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from scripts.keys import README, with_keys

from omakase.evaluate.help.topics import all_topics, topic_of
from omakase.ui.window.help_view import keys_of
from tests.ui.support import WindowTest


class Help(WindowTest):
    def test_f1_explains_marks_keys_and_words(self) -> None:
        self.press(Qt.Key.Key_F1)
        view = self.window.help_view
        self.assertTrue(view.isVisible())
        text = view.page.toPlainText()
        for part in ("Marks and symbols", "a tie", "reserve factor", "Words of the quick line", "core hc48 12.7 @90",
                     "Terms", "Keys", "Ctrl+Shift+T"):  # fmt: skip
            self.assertIn(part, text)
        self.press(Qt.Key.Key_Escape)
        self.assertFalse(view.isVisible())
        self.command("Terms")
        self.assertTrue(view.isVisible())

    def test_f1_explains_a_check_with_its_numbers(self) -> None:
        self.window.session.choose("c4")
        checks = self.window.checks_view
        checks.table.setFocus()
        rows = checks.checks_model.checks
        for name, words in (("core_shear", "Core shear"), ("deflection", "Deflection"), ("mass", "Mass")):
            check = next(own for own in rows if own.check == name)
            self.window.session.look_at_check(check)
            self.press(Qt.Key.Key_F1)
            text = self.window.help_view.page.toPlainText()
            for part in (words, "Basis", "Valid", "With the numbers here", f"required {check.required:g}"):
                self.assertIn(part, text)
            self.press(Qt.Key.Key_Escape)
            checks.table.setFocus()

    def test_f1_elsewhere(self) -> None:
        window = self.window
        window.show_page(2)
        table = window.material_card.table
        table.setFocus()
        row, key = next((i, own.key) for i, own in enumerate(window.material_card.model.rows) if own.key)
        table.setCurrentIndex(window.material_card.model.index(row, 0))
        self.press(Qt.Key.Key_F1)
        topic = topic_of(f"property:{key}")
        self.assertIn(topic.title if topic is not None else "?", window.help_view.page.toPlainText())
        window.at_the_tests(lambda tests: None)
        window.help_here()
        self.assertIn("Basis", window.help_view.page.toPlainText())
        self.field("Largest deflection allowed").setFocus()
        window.help_here()
        self.assertIn("It may sag at most", window.help_view.page.toPlainText())

    def test_search_lists_what_has_every_word(self) -> None:
        self.command("Search help")
        view = self.window.help_view
        QTest.keyClicks(view.query, "wrinkling faces")
        view.search()
        self.assertIn("wrinkl", view.page.toPlainText().casefold())
        QTest.keyClicks(view.query, " nosuchword")
        view.search()
        self.assertEqual(view.list.topLevelItemCount(), 1)

    def test_every_topic_can_be_shown(self) -> None:
        view = self.window.help_view
        view.search()
        for topic in all_topics():
            view.tell(topic)
            self.assertIn(topic.title[:20], view.page.toPlainText())

    def test_first_ten_minutes(self) -> None:
        """Each step is done as its words say; the strip goes on by itself, and goes when it is left."""
        window = self.window
        self.command("First ten minutes")
        path = window.first_path
        self.assertTrue(path.isVisible() and path.number == 0)
        self.type_into("Panel length", "650 mm")
        self.assertEqual(path.number, 1)
        window.session.choose("c4")
        self.assertEqual(path.number, 2)
        self.command("Thicken the core")
        self.assertEqual(path.number, 3)
        window.checks_view.table.setFocus()
        self.press(Qt.Key.Key_F1)
        self.assertEqual(path.number, 3)
        self.press(Qt.Key.Key_Escape)
        self.assertEqual(path.number, 4)
        window.acts.duplicate_candidate()
        self.assertEqual(path.number, 5)
        path.skip.click()
        self.assertEqual((path.number, path.leave.text()), (6, "Done"))
        path.leave.click()
        self.assertFalse(path.isVisible())

    def test_the_table_in_the_readme_is_current(self) -> None:
        text = README.read_text("utf-8")
        self.assertEqual(text, with_keys(text, keys_of(self.window.commands)), "run python -m scripts.keys")

    def test_no_key_is_taken_twice(self) -> None:
        keys = [key.toString() for action in self.window.commands for key in action.shortcuts()]
        self.assertEqual(len(keys), len(set(keys)))

    def test_every_example_of_the_quick_line_reads(self) -> None:
        from omakase.project.library import shipped_materials
        from omakase.project.quickline import read_quick_line
        from omakase.ui.window.help_view import QUICK_LINE

        for words, _ in QUICK_LINE:
            if words[0] not in "…(;":
                self.assertTrue(read_quick_line(words, shipped_materials()), words)
