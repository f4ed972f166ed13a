"""The window is painted first; the lower row and the numbers follow."""

from __future__ import annotations

import time
import unittest

from omakase.project.document import Document
from omakase.ui.window.application import make_application, make_window, preferences
from tests.support import demo_project


class Start(unittest.TestCase):
    def test_the_window_is_painted_before_the_rest_is_made(self) -> None:
        settings = preferences()
        application = make_application(settings)
        window = make_window(Document(demo_project()), settings)
        self.addCleanup(window.session.close)
        self.assertNotIn("lower", vars(window))
        self.assertFalse(window.session.settled)
        line_up = window.session.line_up()
        assert line_up is not None
        self.assertEqual({result.error for result in line_up.results}, {"being computed"})
        window.show()
        end = time.monotonic() + 60.0
        while not window.session.settled and time.monotonic() < end:
            application.processEvents()
        self.assertIn("lower", vars(window))
        line_up = window.session.line_up()
        assert line_up is not None
        self.assertTrue(all(result.ok for result in line_up.results))
        self.assertTrue(window.layup_editor.isVisible())
        self.assertTrue(window.checks_view.isVisible())
        self.assertGreater(window.splitters["bottom"].height(), 200)
        self.assertTrue(window.decision.isVisible())

    def test_a_window_that_is_closed_at_once_keeps_its_panes(self) -> None:
        settings = preferences()
        make_application(settings)
        settings.remove("splitter")
        window = make_window(Document(demo_project()), settings)
        window.show()
        window.close()
        self.assertIsNone(settings.value("splitter/bottom"))
        self.assertIsNotNone(settings.value("splitter/main"))


if __name__ == "__main__":
    unittest.main()
