"""Print preview and recent projects, through the window."""

from __future__ import annotations

from pathlib import Path

import pypdf
from PyQt6.QtPrintSupport import QPrinter

from tests.ui.support import WindowTest


class Paper(WindowTest):
    def pages(self) -> int:
        preview = self.window.preview
        self.wait(lambda: bool(preview.data) and not preview.search.running)
        self.process()
        return preview.document.pageCount()

    def test_what_is_looked_at_is_shown_page_by_page(self) -> None:
        window = self.window
        self.command("print preview")
        self.assertEqual(self.pages(), 1)
        self.assertTrue(window.preview.isVisible())
        path = self.folder / "page.pdf"
        window.files.ask_save = lambda _name, _kinds: str(path)
        window.preview.save.click()
        self.wait(path.exists)
        self.assertEqual(len(pypdf.PdfReader(path).pages), 1)
        window.show_line_up()
        window.at_the_tests(lambda tests: None)
        self.command("print preview")
        self.assertGreaterEqual(self.pages(), 1)
        self.assertIn(window.tests_view.model.named()[1], window.preview.head.text())

    def test_the_record_is_printed_as_it_is_shown(self) -> None:
        window = self.window
        window.session.choose("c4")
        self.command("print preview of the design record")
        count = self.pages()
        self.assertGreater(count, 3)
        printed = self.folder / "printed.pdf"

        def to_file(printer: QPrinter) -> bool:
            printer.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
            printer.setOutputFileName(str(printed))
            return True

        window.preview.ask_printer = to_file
        window.preview.print.click()
        self.assertEqual(len(pypdf.PdfReader(printed).pages), count)
        window.preview.ask_printer = lambda _printer: False
        window.preview.print.click()
        window.preview.zoom.click()
        window.preview.zoom.click()


class RecentProjects(WindowTest):
    def test_newest_first_and_gone_ones_are_dropped(self) -> None:
        window = self.window
        for name in ("one", "two"):
            path = self.folder / f"{name}.omakase.json"
            window.files.ask_save = lambda _name, _kinds, path=path: str(path)
            self.command("save as")
        window.recent.fill()
        shown = [action.text() for action in window.recent.menu.actions()]
        self.assertEqual([text.split()[-1] for text in shown], ["two.omakase.json", "one.omakase.json"])
        window.recent.menu.actions()[1].trigger()
        self.assertEqual(window.session.document.path, self.folder / "one.omakase.json")
        Path(self.folder / "two.omakase.json").unlink()
        window.recent.open(str(self.folder / "two.omakase.json"))
        self.assertTrue(window.notice.text)
        self.assertEqual(window.recent.paths, [str(self.folder / "one.omakase.json")])

    def test_none_yet(self) -> None:
        self.window.recent.fill()
        (only,) = self.window.recent.menu.actions()
        self.assertFalse(only.isEnabled())
