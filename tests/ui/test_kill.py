"""The window is killed in the middle of work, in four rhythms: at most two seconds of edits may be lost.

Seconds are counted by a timer of the window itself, which is late where the machine is busy with other things, as the
writing of the recovery file is: what is lost is compared with what the window had time for."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path
from unittest import mock

from omakase.project.storage import left_behind

WORK = """
import sys
from PyQt6.QtCore import Qt, QTimer
from omakase.project.commands import EditHeader
from omakase.project.demo import demo_project
from omakase.project.document import Document
from omakase.ui.window.application import keep_work_on_errors, make_application, make_window, preferences
settings = preferences()
application = make_application(settings)
document = Document(demo_project())
window = make_window(document, settings)
keep_work_on_errors(window)
window.show()
gaps, count, ticks = [float(word) for word in sys.argv[1].split()], 0, 0
def tick():
    global ticks
    ticks += 1
clock = QTimer()
clock.setTimerType(Qt.TimerType.PreciseTimer)
clock.timeout.connect(tick)
clock.start(50)
def edit():
    global count
    count += 1
    title = f"edit {count}"
    window.layup_editor.thicken_core(1 if count % 2 else -1)
    document.do(EditHeader(document.project.title, title, "si", "si", title))
    print(count, ticks, flush=True)
    QTimer.singleShot(int(1000 * gaps[count % len(gaps)]), edit)
QTimer.singleShot(300, edit)
application.exec()
"""
RHYTHMS = {"steady": "0.3", "slow": "1.5", "typing": "0.06 0.06 0.06 0.06 0.06 0.06 0.9", "dragging": "0.02"}
TICK = 0.05  # s of the window's clock
LOST = 2.0  # s of edits


class Killed(unittest.TestCase):
    def setUp(self) -> None:
        temporary = tempfile.TemporaryDirectory()
        self.addCleanup(temporary.cleanup)
        self.folder = Path(temporary.name)

    def test_at_most_two_seconds_are_lost(self) -> None:
        for name, gaps in RHYTHMS.items():
            with self.subTest(name):
                self.kill(name, gaps)

    def kill(self, name: str, gaps: str) -> None:
        state = self.folder / name
        environment = {**os.environ, "XDG_STATE_HOME": str(state), "XDG_CONFIG_HOME": str(state)}
        window = subprocess.Popen(
            [sys.executable, "-c", WORK, gaps], env=environment, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL
        )
        assert window.stdout is not None
        done: dict[int, float] = {}
        now, end = 0.0, time.monotonic() + 60.0
        while time.monotonic() < end and (not done or now - done[1] < 4.5):
            count, ticks = (int(word) for word in window.stdout.readline().split())
            now = done[count] = TICK * ticks
        os.kill(window.pid, signal.SIGKILL)
        window.wait()
        window.stdout.close()
        with mock.patch.dict(os.environ, environment):
            found = left_behind(state / "omakase" / "recovery")
        self.assertEqual(len(found), 1)
        kept = int(found[0].project.title.split()[1])
        first_lost = min((when for count, when in done.items() if count > kept), default=now)
        self.assertLess(now - first_lost, LOST)


SEARCH = """
import sys, tempfile, time
from omakase.evaluate.sizing.workers import Workers
def sleep(evaluator, common, task):
    time.sleep(60)
if __name__ == "__main__":
    workers = Workers(2)
    session = workers.session([1, 2, 3])
    for _ in range(2):
        workers._pool.submit(time.sleep, 60)
    time.sleep(2.5)
    print(" ".join(str(p.pid) for p in workers._pool._processes.values()), session._folder.name, flush=True)
    time.sleep(60)
"""


class Orphans(unittest.TestCase):
    def test_workers_and_scratch_folders_of_a_killed_window_go(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            script = Path(folder) / "search.py"
            script.write_text(SEARCH)
            environment = {**os.environ, "TMPDIR": folder}
            window = subprocess.Popen([sys.executable, str(script)], env=environment, stdout=subprocess.PIPE)
            assert window.stdout is not None
            *pids, scratch = window.stdout.readline().decode().split()
            window.stdout.close()
            self.assertEqual((len(pids), Path(scratch).exists()), (2, True))
            os.kill(window.pid, signal.SIGKILL)
            window.wait()
            end = time.monotonic() + 10.0
            while time.monotonic() < end and (Path(scratch).exists() or any(_runs(int(pid)) for pid in pids)):
                time.sleep(0.05)
            self.assertFalse(Path(scratch).exists())
            self.assertFalse(any(_runs(int(pid)) for pid in pids))


def _runs(pid: int) -> bool:
    """Whether a process runs and is no zombie that nobody has waited for."""
    try:
        return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0] != "Z"
    except OSError:
        return False
