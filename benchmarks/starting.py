"""Start of the program with the demo, against a bare window; peak memory."""

from __future__ import annotations

import compileall
import os
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import omakase
from benchmarks.figures import Figure

STARTS, WHOLE = 15, 3  # how often each is started by turns, and how often the program runs until all is computed
BARE = """
import sys
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication, QMainWindow
import numpy
import pyqtgraph
application = QApplication([])
window = QMainWindow()
window.resize(1280, 800)
window.show()
application.processEvents()
print('painted', flush=True)
"""
OURS = """
import gc
import os
gc.disable()  # as the command does
os.environ['OPENBLAS_NUM_THREADS'] = '1'
from omakase.cli import main  # as the command does
from omakase.project.demo import demo_project
from omakase.project.document import Document
from omakase.ui.window.application import make_application, make_window, preferences
settings = preferences()
application = make_application(settings)
window = make_window(Document(demo_project()), settings)
window.show()
application.processEvents()
print('painted', flush=True)
while not window.session.settled:
    application.processEvents()
window.grab()
print('settled', flush=True)
print(next(line.split()[1] for line in open('/proc/self/status') if line.startswith('VmHWM')), flush=True)
os._exit(0)
"""


def _run(code: str, whole: bool = False) -> tuple[float, float, float]:
    """(seconds to 'painted', seconds to the end, MB), the last two of one that runs on as a ``whole``."""
    with tempfile.TemporaryDirectory() as home:
        environment = os.environ | {"HOME": home, "XDG_STATE_HOME": home, "XDG_CONFIG_HOME": home}
        start = time.perf_counter()
        process = subprocess.Popen(
            [sys.executable, "-c", code], stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True, env=environment
        )
        assert process.stdout is not None
        process.stdout.readline()
        painted = time.perf_counter() - start
        if not whole:
            process.kill()
            process.wait()
            return painted, 0.0, 0.0
        process.stdout.readline()
        settled = time.perf_counter() - start
        memory = process.stdout.readline()
        process.wait()
    return painted, settled, float(memory or 0.0) / 1024.0


def measure() -> Iterator[Figure]:
    """Runs both by turns, so that a busy moment hits both; compiled, as an installed program is."""
    compileall.compile_dir(Path(omakase.__file__).parent, quiet=1)
    bare, ours = [], []
    for _ in range(STARTS):
        bare.append(_run(BARE)[0])
        ours.append(_run(OURS)[0])
    whole = [_run(OURS, whole=True) for _ in range(WHOLE)]
    reference, painted = statistics.median(bare), statistics.median(ours)
    settled = statistics.median(run[1] for run in whole)
    yield Figure("bare window with PyQt6, numpy and pyqtgraph imported", reference * 1e3, "ms")
    yield Figure("demo window painted and open to input", painted * 1e3, "ms")
    yield Figure("demo window / bare window", painted / reference, "", 1.5)
    yield Figure("demo with every candidate at full order / bare window", settled / reference, "")
    yield Figure("peak memory with the demo open", max(run[2] for run in whole), "MB", 250.0)
