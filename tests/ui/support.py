"""The real window, driven through its widgets; messages of Qt count as failures."""

from __future__ import annotations

import os
import sys
import tempfile
import time
import traceback
import unittest
from collections.abc import Callable
from pathlib import Path
from unittest import mock

from PyQt6.QtCore import QEvent, QPoint, QSettings, Qt, QtMsgType, qInstallMessageHandler
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QWidget

from omakase.project.demo import demo_project
from omakase.project.document import Document
from omakase.project.model import Project
from omakase.ui.kit.fields import ChoiceField, FittingLine, QuantityField
from omakase.ui.window.application import make_application, make_window
from omakase.ui.window.main_window import MainWindow
from tests.support import EVALUATOR

HARMLESS = ("propagateSizeHints", "raise()", "grabbing the keyboard")  # the offscreen platform, of windows and lists
_messages: list[str] = []


def _listen(kind: QtMsgType, _context: object, text: str | None) -> None:
    if kind != QtMsgType.QtDebugMsg and not any(word in (text or "") for word in HARMLESS):
        _messages.append(text or "")


class WindowTest(unittest.TestCase):
    """A window on the demo for each test; ``project`` and ``synchronous`` may be set by a class."""

    synchronous = True
    application: QApplication

    def project(self) -> Project:
        return demo_project()

    def setUp(self) -> None:
        temporary = tempfile.TemporaryDirectory()
        self.addCleanup(temporary.cleanup)
        self.folder = Path(temporary.name)
        for name in ("XDG_STATE_HOME", "XDG_CONFIG_HOME"):
            old = os.environ.get(name)
            os.environ[name] = str(self.folder / name.lower())
            self.addCleanup(os.environ.__setitem__, name, old or str(self.folder))
        self.settings = QSettings(str(self.folder / "window.ini"), QSettings.Format.IniFormat)
        type(self).application = make_application(self.settings)
        _messages.clear()
        hook = sys.excepthook
        sys.excepthook = lambda kind, error, trace: _messages.append(
            "".join(traceback.format_exception(kind, error, trace))
        )
        self.addCleanup(setattr, sys, "excepthook", hook)
        qInstallMessageHandler(_listen)
        self.window = self.open(self.project())

    def open(self, project: Project) -> MainWindow:
        with mock.patch("omakase.ui.computed.Evaluator", return_value=EVALUATOR):  # many windows show the same demo
            window = make_window(Document(project), self.settings, self.synchronous)
        window.resize(1280, 800)
        window.show()
        window.activateWindow()
        self.addCleanup(self._end, window)
        self.process()
        return window

    def _end(self, window: MainWindow) -> None:
        window._closing = True
        window.close()
        window.deleteLater()
        self.process()
        qInstallMessageHandler(None)
        self.assertEqual(_messages, [])

    def process(self) -> None:
        for _ in range(3):
            self.application.processEvents()
            self.application.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)

    def wait(self, until: Callable[[], bool], seconds: float = 90.0) -> None:
        end = time.monotonic() + seconds
        while not until():
            self.assertLess(time.monotonic(), end, "waited in vain")
            self.application.processEvents()
            time.sleep(0.005)

    # --- what a person does ---------------------------------------------------------------------------------

    def field(self, name: str) -> QWidget:
        """The field whose accessible name starts so."""
        found = [w for w in self.window.findChildren(QWidget) if w.accessibleName().startswith(name)]
        self.assertTrue(found, f"no field called '{name}'")
        return found[-1]

    def type_into(self, name: str, text: str) -> QuantityField:
        """Replaces a field's text and presses Enter."""
        field = self.field(name)
        assert isinstance(field, FittingLine)
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, text)
        QTest.keyClick(field, Qt.Key.Key_Return)
        self.process()
        return field  # type: ignore[return-value]

    def choose(self, name: str, word: str) -> None:
        """Chooses a word of a choice in a sentence."""
        field = next(own for own in self.window.findChildren(ChoiceField) if own.accessibleName() == name)
        index = next(i for i in range(field.count()) if field.itemText(i) == word)
        field.setCurrentIndex(index)
        field.activated.emit(index)
        self.process()

    def press(self, key: Qt.Key, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        QTest.keyClick(self.application.focusWidget() or self.window, key, modifier)
        self.process()

    def command(self, query: str) -> None:
        """Runs a command by typing its name into the command list."""
        self.window.command_list.open()
        QTest.keyClicks(self.window.command_list.query, query)
        QTest.keyClick(self.window.command_list.query, Qt.Key.Key_Return)
        self.process()

    def click(self, widget: QWidget, x: float, y: float) -> None:
        QTest.mouseClick(widget, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(int(x), int(y)))
        self.process()

    def value(self, row: str, candidate: str = "") -> float:
        """A number of the line-up as it stands."""
        line_up = self.window.session.line_up()
        assert line_up is not None
        wanted = candidate or self.window.session.candidate_id
        index = next(i for i, result in enumerate(line_up.results) if result.candidate.id == wanted)
        found = next(r for r in line_up.rows if r.key == row).cells[index].value
        assert found is not None
        return found
