"""Files written behind the window: how far they are, and a way to stop them."""

from __future__ import annotations

import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from omakase.core.progress import StoppedError, watched
from omakase.project.disk import shown_name
from omakase.ui.window.notice import Notice

PATIENCE_MS = 500  # what takes longer says how far it is, and can be stopped


class Writing(QObject):
    """One file after the other, on a thread of its own.

    Signals: ``told`` with words about how it went; the notice shows what takes long, and what went wrong.
    """

    told = pyqtSignal(str)
    _stepped = pyqtSignal(int, str)
    _ended = pyqtSignal(int, str)

    def __init__(self, notice: Notice, parent: QObject) -> None:
        super().__init__(parent)
        self.notice = notice
        self.worker = ThreadPoolExecutor(1, thread_name_prefix="export")
        self._names: dict[int, str] = {}
        self._stops: dict[int, threading.Event] = {}
        self._said: dict[int, str] = {}  # what the notice says of it
        self._count = 0
        self._stepped.connect(self._show_step)
        self._ended.connect(self._end)

    def begin(self, path: Path, write: Callable[[Path], object]) -> None:
        """Writes a file; it is as it was where this is stopped or goes wrong."""
        self._count += 1
        turn, name, stop = self._count, shown_name(path), threading.Event()
        self._names[turn], self._stops[turn] = name, stop

        def listen(what: str) -> None:
            if stop.is_set():
                raise StoppedError("stopped")
            self._stepped.emit(turn, what)

        def work() -> None:
            try:
                with watched(listen):
                    listen("")
                    write(path)
            except StoppedError:
                self._ended.emit(turn, "")
            except Exception as error:  # whatever went wrong is reported; the window goes on
                self._ended.emit(turn, f"'{name}' could not be written: {error}")
            else:
                stop.clear()  # it is there: too late to stop
                self._ended.emit(turn, "")

        self.told.emit(f"writing {name} …")
        QTimer.singleShot(PATIENCE_MS, lambda: self._say(turn, ""))
        self.worker.submit(work)

    def _say(self, turn: int, what: str) -> None:
        if turn not in self._names:
            return
        before = self._said.get(turn, "")
        self._said[turn] = f"Writing {self._names[turn]} … {what}".rstrip()
        if before:
            self.notice.renew(before, self._said[turn])
        else:
            self.notice.say(self._said[turn], [("Stop", lambda: self.stop(turn))])

    def stop(self, turn: int) -> None:
        """Stops a file at its next step."""
        if turn in self._stops:
            self._stops[turn].set()
            self._said.pop(turn, None)

    def _show_step(self, turn: int, what: str) -> None:
        if turn in self._said:
            self._say(turn, what)

    def _end(self, turn: int, error: str) -> None:
        name, stopped = self._names.pop(turn), self._stops.pop(turn).is_set()
        said = self._said.pop(turn, "")
        if said:
            self.notice.withdraw(said)
        if error:
            self.notice.say(error)
        else:
            self.told.emit(f"stopped: {name} was not written" if stopped else f"wrote {name}")

    def close(self) -> None:
        """Waits for what is being written; nothing may be lost with the window."""
        self.worker.shutdown(wait=True)
