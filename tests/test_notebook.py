"""The interface for scripts and notebooks: the page that explains it runs, and what it promises holds."""

from __future__ import annotations

import re
import subprocess
import sys
import tempfile
import unittest
from contextlib import redirect_stdout
from io import StringIO
from pathlib import Path

import omakase
from omakase.core.errors import OmakaseError
from omakase.project.commands import replace
from omakase.project.storage import ReadError
from tests.support import demo_project

PAGE = Path(__file__).parents[1] / "docs/scripting.md"


class Page(unittest.TestCase):
    def test_its_examples_run_one_after_the_other(self) -> None:
        names: dict[str, object] = {}
        told = StringIO()
        blocks = re.findall(r"```python\n(.*?)```", PAGE.read_text("utf-8"), re.DOTALL)
        self.assertGreater(len(blocks), 4)
        with redirect_stdout(told):
            for block in blocks:
                exec(compile(block, str(PAGE), "exec"), names)
        text = told.getvalue()
        for words in ("Twill, wide bend", "meets", "twill200", "kg, ", "unobtainium"):
            self.assertIn(words, text)


class Books(unittest.TestCase):
    def test_a_file_is_opened_changed_and_saved(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "a.omakase.json"
            book = omakase.demo()
            with self.assertRaisesRegex(OmakaseError, "under which name"):
                book.save()
            self.assertEqual(book.save(path), path)
            again = omakase.open(path)
            self.assertEqual(again.project, demo_project())
            brief = again.brief("b12")
            made = brief.add("Another", "12 twill200 0")
            self.assertTrue(again.modified)
            again.save()
            self.assertEqual(omakase.open(path).brief("b12").candidate("Another").layup, made.layup)
            with self.assertRaises(ReadError):
                omakase.open(Path(folder) / "nothing.json")

    def test_changes_are_taken_back(self) -> None:
        book = omakase.demo()
        brief = book.brief("b12")
        limits = brief.record.limits
        brief.change(limits=replace(limits, reserve_factor=9.0))
        self.assertFalse(brief.candidates[1].result().passes)
        book.undo()
        self.assertEqual(brief.record.limits, limits)
        book.redo()
        book.undo()
        self.assertEqual(brief.candidate("c2").copy("again").layup, brief.candidate("c2").layup)
        brief.candidate("c2").remove()
        with self.assertRaisesRegex(OmakaseError, "no candidate 'c2'"):
            brief.candidate("c2")
        self.assertEqual(omakase.new().briefs[0].candidates, [])

    def test_what_cannot_be_is_told(self) -> None:
        book = omakase.demo()
        for act, words in (
            (lambda: book.brief("x"), "no brief"), (lambda: book.plan("x"), "no job"),
            (lambda: book.brief("b12").candidate("c2").study("x"), "cannot be studied"),
            (lambda: book.brief("b12").candidate("c2").study("faces", "x"), "cannot be studied"),
            (lambda: book.brief("b12").candidate("c2").study("faces", low=2.0, high=1.0), "low before high"),
            (lambda: setattr(book.brief("b6").candidate("c2"), "layup", "2 twill200 0"), "several walls"),
            (lambda: book.brief("b6").add("x", "2 twill200 0"), "several walls"),
            (lambda: book.brief("b12").candidate("c2").change(note="x" * 200_000), "characters"),
        ):  # fmt: skip
            with self.assertRaisesRegex(OmakaseError, words):
                act()
        with self.assertRaises(AttributeError):
            omakase.nothing  # noqa: B018

    def test_importing_the_package_loads_no_numbers(self) -> None:
        """The window starts without what scripts need."""
        code = "import omakase, sys; print('numpy' in sys.modules, omakase.__version__)"
        done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
        self.assertEqual(done.stdout.split()[0], "False")


if __name__ == "__main__":
    unittest.main()
