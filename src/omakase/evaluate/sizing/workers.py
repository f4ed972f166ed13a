"""Worker processes for searches: the interface keeps its own processor, and all cores work."""

from __future__ import annotations

import os
import pickle
import shutil
import tempfile
import threading
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import FIRST_COMPLETED, BrokenExecutor, Future, wait
from pathlib import Path
from typing import TYPE_CHECKING, Any

from omakase.core.errors import OmakaseError
from omakase.evaluate.results.engine import Evaluator

if TYPE_CHECKING:
    from concurrent.futures import ProcessPoolExecutor

KINDNESS = 10  # lets the window go first where there are fewer cores than processes
POLL = 0.05  # seconds between two looks at whether the search was cancelled

Work = Callable[[Evaluator, Any, Any], Any]

_evaluator: Evaluator | None = None
_common: tuple[str, Any] = ("", None)


class Workers:
    """A pool of processes, started at the first use; each keeps one evaluator with its caches.

    What all tasks of a run share is written once, to a file that the workers read; a task's outcome does not depend
    on which process takes it, so that the same search gives the same result.
    """

    def __init__(self, count: int | None = None) -> None:
        self.count = count or os.cpu_count() or 1
        self._pool: ProcessPoolExecutor | None = None
        self._lock = threading.Lock()

    def _start(self) -> ProcessPoolExecutor:
        with self._lock:
            if self._pool is None:
                import multiprocessing  # not before it is needed: the window starts without it
                from concurrent.futures import ProcessPoolExecutor

                os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
                context = multiprocessing.get_context("spawn")
                self._pool = ProcessPoolExecutor(self.count, context, initializer=_initialise)
            return self._pool

    @property
    def started(self) -> bool:
        """Whether its processes run already."""
        return self._pool is not None

    def warm(self) -> None:
        """Starts the processes, so that the first search finds them ready."""
        pool = self._start()
        for _ in range(self.count):
            pool.submit(_nothing)

    def session(self, common: object) -> WorkerSession:
        """For many runs that share ``common``, which is written once; to be closed, or used in a ``with``."""
        return WorkerSession(self, self._start(), common)

    def run(
        self, work: Work, common: object, tasks: Sequence[object], cancelled: Callable[[], bool] = lambda: False
    ) -> Iterator[tuple[int, Any]]:
        """(index of the task, ``work(evaluator, common, task)``) as they are done; fewer when cancelled."""
        with self.session(common) as session:
            yield from session.run(work, tasks, cancelled)

    def close(self) -> None:
        """Ends the processes."""
        with self._lock:
            if self._pool is not None:
                self._pool.shutdown(wait=True, cancel_futures=True)
                self._pool = None


class WorkerSession:
    """Runs of tasks that share what is written to one file, which goes when the session is closed."""

    def __init__(self, workers: Workers, pool: ProcessPoolExecutor, common: object) -> None:
        self._workers, self._pool = workers, pool
        self._folder = tempfile.TemporaryDirectory(prefix=_scratch_prefix(os.getpid()))
        self._path = Path(self._folder.name) / "common"
        self._path.write_bytes(pickle.dumps(common, pickle.HIGHEST_PROTOCOL))

    def __enter__(self) -> WorkerSession:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def close(self) -> None:
        """Removes the file."""
        self._folder.cleanup()

    def run(
        self, work: Work, tasks: Sequence[object], cancelled: Callable[[], bool] = lambda: False
    ) -> Iterator[tuple[int, Any]]:
        """See ``Workers.run``; the tasks are handed out at once."""
        try:
            pending = {self._pool.submit(_run, work, str(self._path), task): i for i, task in enumerate(tasks)}
        except BrokenExecutor:
            raise self._broken() from None
        return self._collect(pending, cancelled)

    def _collect(self, pending: dict[Future[Any], int], cancelled: Callable[[], bool]) -> Iterator[tuple[int, Any]]:
        try:
            while pending and not cancelled():
                done, _ = wait(pending, POLL, FIRST_COMPLETED)
                for future in done:
                    yield pending.pop(future), future.result()
        except BrokenExecutor:
            raise self._broken() from None
        finally:
            for future in pending:
                future.cancel()
            wait([future for future in pending if not future.cancelled()])

    def _broken(self) -> OmakaseError:
        """A worker was ended from outside, perhaps for want of memory; the next search starts others."""
        self._workers.close()
        return OmakaseError(
            "a worker process ended before its time; search again, with fewer choices if memory is short"
        )


def _scratch_prefix(pid: int) -> str:
    return f"omakase-{pid}-"


def _initialise() -> None:
    global _evaluator
    _evaluator = Evaluator()
    os.nice(KINDNESS)
    threading.Thread(target=_end_with_window, daemon=True).start()


def _end_with_window() -> None:
    """Waits until the window is gone, which a killed one does not tell: ends this process and removes what it left."""
    from multiprocessing import connection, parent_process

    parent = parent_process()
    if parent is None or parent.pid is None:
        return
    connection.wait([parent.sentinel])
    for folder in Path(tempfile.gettempdir()).glob(_scratch_prefix(parent.pid) + "*"):
        shutil.rmtree(folder, ignore_errors=True)
    os._exit(0)


def _nothing() -> None:
    from scipy.linalg import lapack  # noqa: F401 - what every solution needs


def _run(work: Work, path: str, task: object) -> Any:
    global _common
    if _common[0] != path:
        _common = path, pickle.loads(Path(path).read_bytes())
        if _evaluator is not None:
            _evaluator.forget_all()
    assert _evaluator is not None
    return work(_evaluator, _common[1], task)
