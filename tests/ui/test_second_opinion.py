"""The page of the second opinion: run, stopped, kept for the record, written as a deck."""

from __future__ import annotations

from pathlib import Path
from unittest import mock

import pypdf

from omakase.core.errors import OmakaseError
from omakase.devices.solver import HOW_TO_GET
from omakase.evaluate.second.comparing import Line
from omakase.project.storage import from_bytes, to_bytes
from omakase.ui.why import second_view
from tests.ui.support import WindowTest

LINES = (
    Line("Deflection, test", "deflection", 1e-3, 1.01e-3, 0.001),
    Line("Frequency 1", "frequency", 10.0, 11.0, 0.0),
)


class SecondOpinion(WindowTest):
    def run_with(self, answer: object) -> None:
        with (
            mock.patch.object(second_view, "installed", return_value=True),
            mock.patch.object(second_view, "second_opinion", side_effect=answer),
        ):
            self.command("Second opinion by a solver, or the line-up")
            self.page.begin.click()
            self.wait(lambda: not self.page.search.running)

    @property
    def page(self) -> second_view.SecondView:
        return self.window.second_view

    def test_lines_are_kept_in_the_project_and_count_until_an_edit(self) -> None:
        self.run_with(lambda result, title, told, stopped: told("mesh 1 of 2") or LINES)
        self.assertEqual(self.page.list.topLevelItemCount(), 2)
        self.assertIn("1 of 2 numbers differ", self.page.message.text())
        self.assertEqual(self.window.recorded()[2], LINES)
        path = self.folder / "record.pdf"
        self.window.files.ask_save = lambda _name, _kinds: str(path)
        self.command("design record")
        self.wait(path.exists)
        words = " ".join(page.extract_text() for page in pypdf.PdfReader(path).pages)
        self.assertIn("Second opinion", words)
        self.page.keep.click()
        self.assertEqual(self.window.recorded()[2], ())
        self.assertEqual(self.page.list.topLevelItemCount(), 2)
        self.page.keep.click()
        project = from_bytes(to_bytes(self.window.session.document.project), "again")
        self.assertEqual(project.opinions[-1].candidate, self.window.session.candidate_id)
        self.command("Thicken the core")
        self.process()
        self.assertEqual(self.window.recorded()[2], ())
        self.assertEqual(self.page.list.topLevelItemCount(), 0)
        self.assertIn("another state", self.page.message.text())
        self.command("Undo")
        self.process()
        self.assertEqual(self.window.recorded()[2], LINES)
        self.assertEqual(self.page.list.topLevelItemCount(), 2)
        self.assertIn("1 of 2", self.page.message.text())
        self.assertTrue(self.page.keep.isChecked())
        self.window.session.choose("c3")  # the demo keeps one of it
        self.process()
        self.assertIn("Kept on 2026-10-12. All numbers agree", self.page.message.text())
        self.window.session.choose("c4")
        self.process()
        self.assertNotIn("Kept on", self.page.message.text())

    def test_what_goes_wrong_is_told(self) -> None:
        def fails(*_given: object) -> None:
            raise OmakaseError("the solver gave up: it printed nothing")

        self.run_with(fails)
        self.assertIn("gave up", self.page.message.text())
        self.assertEqual(self.window.recorded()[2], ())

    def test_it_can_be_stopped(self) -> None:
        asked: list[bool] = []

        def slow(result: object, title: str, told: object, stopped: object) -> tuple[Line, ...]:
            while not stopped():  # type: ignore[operator]
                asked.append(True)
            raise OmakaseError("stopped")

        with (
            mock.patch.object(second_view, "installed", return_value=True),
            mock.patch.object(second_view, "second_opinion", side_effect=slow),
        ):
            self.command("Second opinion by a solver, or the line-up")
            self.page.begin.click()
            self.wait(lambda: bool(asked))
            self.assertTrue(self.page.bar.isVisible() and not self.page.begin.isEnabled())
            self.page.halt.click()
            self.assertEqual(self.page.message.text(), "Stopped.")
            self.assertFalse(self.page.bar.isVisible())
            self.assertTrue(self.page.begin.isEnabled())

    def test_without_the_solver_the_deck_is_written(self) -> None:
        with mock.patch.object(second_view, "installed", return_value=False):
            self.command("Second opinion by a solver, or the line-up")
            self.assertEqual(self.page.message.text(), HOW_TO_GET)
            self.assertFalse(self.page.begin.isEnabled())
        path = Path(self.folder) / "deck.inp"
        self.window.files.ask_save = lambda _name, _kinds: str(path.with_suffix(""))
        self.page.write.click()
        self.wait(path.exists)
        self.assertIn("*STATIC", path.read_text())
