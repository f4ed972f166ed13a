"""Files written behind the window: how far they are, stopped by a person, and a preview that is left."""

from __future__ import annotations

import threading
import unittest
from pathlib import Path

from omakase.core.progress import working_on
from omakase.project.disk import write_atomically
from tests.ui.support import WindowTest


class Writing(WindowTest):
    def slow(self, path: Path) -> None:
        """A file of three pages, each of which waits until the test lets it go on."""
        for page in (1, 2, 3):
            working_on(f"page {page}")
            self.reached = page
            self.gate.acquire()
        write_atomically(path, b"whole")

    def setUp(self) -> None:
        super().setUp()
        self.gate, self.reached = threading.Semaphore(0), 0
        self.path = self.folder / "long.pdf"
        self.told: list[str] = []
        self.window.files.told.connect(self.told.append)

    def begin(self) -> None:
        self.window.files.writing.begin(self.path, self.slow)
        self.wait(lambda: "Writing long.pdf" in self.window.notice.text)

    def test_it_says_how_far_it_is_and_is_quiet_when_it_is_done(self) -> None:
        self.begin()
        self.gate.release()
        self.wait(lambda: self.window.notice.text.endswith("page 2"))
        for _ in range(2):
            self.gate.release()
        self.wait(lambda: not self.window.notice.text)
        self.assertEqual(self.path.read_bytes(), b"whole")
        self.assertEqual(self.told[-1], "wrote long.pdf")

    def test_stopped_it_leaves_the_file_as_it_was(self) -> None:
        self.path.write_bytes(b"old")
        self.begin()
        self.window.notice.answer(0)
        self.gate.release()
        self.wait(lambda: self.told[-1].startswith("stopped"))
        self.assertEqual(self.reached, 1)
        self.assertEqual(self.path.read_bytes(), b"old")
        self.assertEqual(self.window.notice.text, "")

    def test_what_goes_wrong_is_said(self) -> None:
        def wrong(_path: Path) -> None:
            raise ValueError("no room")

        self.window.files.writing.begin(self.path, wrong)
        self.wait(lambda: "could not be written: no room" in self.window.notice.text)

    def test_a_question_waits_behind_it_and_is_asked_after(self) -> None:
        self.begin()
        self.window.notice.say("Keep it?", [("Yes", lambda: None), ("No", lambda: None)])
        for _ in range(3):
            self.gate.release()
        self.wait(lambda: self.window.notice.text == "Keep it?")
        self.window.notice.answer(1)

    def test_a_preview_that_is_left_is_not_made(self) -> None:
        preview = self.window.preview
        self.window.switch_top(preview)
        preview.show_pages("long", self.slow)
        self.wait(lambda: "page 1" in preview.message.text())
        self.window.show_line_up()
        self.gate.release()
        self.wait(lambda: self.reached == 1 and not preview.search.running)
        self.assertEqual(preview.data, b"")


if __name__ == "__main__":
    unittest.main()
