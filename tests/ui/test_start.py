"""The window is painted first; the lower row and the numbers follow."""

from __future__ import annotations

import time
import unittest
from collections.abc import Callable

from omakase.project.document import Document
from omakase.ui.window.application import make_application, make_window, preferences
from tests.support import demo_project


class Start(unittest.TestCase):
    def setUp(self) -> None:
        self.settings = preferences()
        self.application = make_application(self.settings)

    def process(self, seconds: float, until: Callable[[], bool] = lambda: False) -> None:
        end = time.monotonic() + seconds
        while not until() and time.monotonic() < end:
            self.application.processEvents()

    def test_the_window_is_painted_before_the_rest_is_made(self) -> None:
        window = make_window(Document(demo_project()), self.settings)
        self.assertNotIn("lower", vars(window))
        self.assertIn("panel", window.brief_view.paragraphs)
        self.assertNotIn("judgement", window.brief_view.paragraphs)
        self.assertFalse(window.session.settled)
        line_up = window.session.line_up()
        assert line_up is not None
        self.assertEqual({result.error for result in line_up.results}, {"being computed"})
        window.show()
        self.process(60.0, lambda: window.session.settled)
        self.assertIn("lower", vars(window))
        line_up = window.session.line_up()
        assert line_up is not None
        self.assertTrue(all(result.ok for result in line_up.results))
        self.assertIn("judgement", window.brief_view.paragraphs)
        self.assertTrue(window.layup_editor.isVisible())
        self.assertTrue(window.checks_view.isVisible())
        self.assertGreater(window.splitters["bottom"].height(), 200)
        self.assertTrue(window.decision.isVisible())
        window.close()

    def test_a_window_that_is_closed_at_once_keeps_its_panes(self) -> None:
        self.settings.remove("splitter")
        window = make_window(Document(demo_project()), self.settings)
        window.show()
        window.close()
        self.assertIsNone(self.settings.value("splitter/bottom"))
        self.assertIsNotNone(self.settings.value("splitter/main"))
        self.process(0.5)
        self.assertNotIn("lower", vars(window))
        self.assertFalse(window.session.settled)


if __name__ == "__main__":
    unittest.main()
