"""A search in the background for a page that is in sight: begun when edits rest, stopped by the next edit."""

from __future__ import annotations

import logging
import threading
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from omakase.core.errors import OmakaseError

log = logging.getLogger("omakase")
REST_MS = 400  # after the last edit, before a search begins


class Searching(QObject):
    """Runs one search at a time on a thread of its own.

    Signals: ``found`` with each thing that the search yields; ``ended`` with a message, empty when all went well.
    Neither comes from a search that was stopped.
    """

    found = pyqtSignal(object)
    ended = pyqtSignal(str)
    _arrived = pyqtSignal(object, int)
    _done = pyqtSignal(str, int)

    def __init__(self, name: str, parent: QObject, rest: int = REST_MS) -> None:
        super().__init__(parent)
        self.running = False
        self._run = 0
        self._stop = threading.Event()
        self._worker = ThreadPoolExecutor(1, thread_name_prefix=name)
        self._make: Callable[[Callable[[], bool]], Iterator[object]] | None = None
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(rest)
        self._timer.timeout.connect(self.begin_now)
        self._arrived.connect(self._receive)
        self._done.connect(self._end)

    def begin(self, make: Callable[[Callable[[], bool]], Iterator[object]]) -> None:
        """Begins a search after a rest; ``make`` gets what tells whether it was stopped, and gives the search."""
        self.stop()
        self._make = make
        self.running = True
        self._timer.start()

    def begin_now(self) -> None:
        """Begins the search that waits for its rest."""
        self._timer.stop()
        make, self._make = self._make, None
        if make is None:
            return
        self._stop = stop = threading.Event()
        self._run += 1
        run = self._run

        def work() -> None:
            message = ""
            try:
                for thing in make(stop.is_set):
                    self._arrived.emit(thing, run)
            except OmakaseError as error:
                message = str(error)
            except Exception as error:
                log.exception("a search ended with an error inside")
                message = f"something went wrong inside the search ({type(error).__name__}: {error})"
            self._done.emit(message, run)

        self._worker.submit(work)

    def stop(self) -> None:
        """Ends what is under way."""
        self._stop.set()
        self._timer.stop()
        self._make = None
        self._run += 1
        self.running = False

    def _receive(self, thing: object, run: int) -> None:
        if run == self._run:
            self.found.emit(thing)

    def _end(self, message: str, run: int) -> None:
        if run == self._run:
            self.running = False
            self.ended.emit(message)

    def close(self) -> None:
        """Ends the thread; call before the application goes."""
        self.stop()
        self._worker.shutdown(wait=True)
