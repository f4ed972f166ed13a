"""Help by F1 and the menu; the README's table of keys is what the window has."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from scripts.keys import README, with_keys

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
