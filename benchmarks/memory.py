"""Memory of the window: with every candidate of the demo looked at, and what edits of a dish leave behind."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from benchmarks.figures import Figure
from benchmarks.window import close_window, open_window

PAGE = 4096  # bytes
DISH = "b10", "c3"  # thin enough to stretch: its plates take the most memory of the demo
EDITS = 8


def _used() -> float:
    """MB that the program has of the machine's memory."""
    from omakase.ui.window.memory import give_back

    give_back()  # as it does when it rests
    return int(Path("/proc/self/statm").read_text().split()[1]) * PAGE / 1e6


def measure() -> Iterator[Figure]:
    """Looks at every candidate of every brief, then edits one."""
    from PyQt6.QtCore import QEventLoop

    from omakase.project import edits
    from omakase.project.commands import replace
    from omakase.project.demo import demo_project

    application, window = open_window(demo_project())
    session = window.session
    loop = QEventLoop()
    session.results_changed.connect(lambda: loop.quit() if session.settled else None)
    session.rested.connect(loop.quit)

    def settle() -> None:
        while not (session.settled and session.idle):
            loop.exec()
        application.processEvents()

    settle()
    yield Figure("with the first brief of the demo", _used(), "MB", 250.0)
    most = 0.0
    for brief in session.document.project.briefs:
        session.choose_brief(brief.id)
        for candidate in session.brief.candidates:
            session.choose(candidate.id)
            settle()
        most = max(most, _used())
    yield Figure("at most on the way, at rest in one brief", most, "MB")
    yield Figure("with every candidate of the demo looked at", _used(), "MB", 250.0)
    session.choose_brief(DISH[0])
    session.choose(DISH[1])
    settle()
    before = 0.0
    for step in range(EDITS + 1):
        now = session.candidate
        core = next(i for i, layer in enumerate(now.layers) if layer.role == "core")
        thickness = round(now.layers[core].thickness + (1 if step % 2 else -1) * 0.05e-3 * (step + 1), 9)
        session.edit_candidate(edits.set_layer(now, core, replace(now.layers[core], thickness=thickness)), "edit")
        settle()
        before = before or _used()  # with the grid that the first edit of this brief makes
    yield Figure(f"left behind by each of {EDITS} edits of a dish", max(_used() - before, 0.0) / EDITS, "MB", 10.0)
    close_window(window)
