"""From an edit to the painted window, and from the quick to the full order, on the demo project."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

from benchmarks.figures import Figure, percentile

EDITS = 12


def measure() -> Iterator[Figure]:
    """Times of edits to every candidate with a core and to the brief."""
    from PyQt6.QtCore import QEventLoop, QSettings

    from omakase.project import edits
    from omakase.project.commands import replace
    from omakase.project.demo import demo_project
    from omakase.project.document import Document
    from omakase.ui.application import make_application, make_window

    settings = QSettings(str(Path(tempfile.mkdtemp()) / "w.ini"), QSettings.Format.IniFormat)
    application = make_application(settings)
    window = make_window(Document(demo_project()), settings)
    window.resize(1280, 800)
    window.show()
    session = window.session

    loop = QEventLoop()
    session.results_changed.connect(lambda: loop.quit() if session.settled else None)

    def settle() -> None:
        """Waits as the program does, asleep in the event loop: a busy wait would take the workers' processor."""
        while not session.settled:
            loop.exec()
        application.processEvents()

    painted: list[float] = []
    full: list[float] = []
    differences: list[float] = []
    local: list[float] = []
    for brief in session.document.project.briefs:
        session.choose_brief(brief.id)
        settle()
        for candidate in brief.candidates:
            core = next((i for i, layer in enumerate(candidate.layers) if layer.role == "core"), None)
            if core is None:
                continue
            session.choose(candidate.id)
            settle()
            for step in range(EDITS):
                now = session.candidate
                assert now is not None
                layer = now.layers[core]
                new = replace(layer, thickness=round((layer.thickness or 0.01) + 0.25e-3, 9))
                if step % 3 == 2:
                    new_candidate = edits.set_layer(now, 0, replace(now.layers[0], angle=float(7 * step)))
                else:
                    new_candidate = edits.set_layer(now, core, new)
                start = time.perf_counter()
                session.edit_candidate(new_candidate, "edit")
                application.processEvents()
                painted.append(time.perf_counter() - start)
                quick = session.result
                settle()
                full.append(time.perf_counter() - start)
                _compare(quick, session.result, differences, local)
    yield Figure(
        f"edit of a candidate to painted window, median of {len(painted)}", percentile(painted, 0.5) * 1e3, "ms"
    )
    yield Figure("the same, 95th percentile", percentile(painted, 0.95) * 1e3, "ms", 50.0)
    yield Figure("edit to full order painted, 95th percentile", percentile(full, 0.95) * 1e3, "ms", 300.0)
    yield Figure("quick against full order: deflection and frequency, largest", max(differences) * 100.0, "%", 1.0)
    yield Figure("quick against full order: strength reserves, 95th percentile", percentile(local, 0.95) * 100.0, "%")
    yield Figure("quick against full order: strength reserves, largest", max(local) * 100.0, "%")
    window._closing = True
    window.close()


def _compare(quick, full, differences: list[float], local: list[float]) -> None:  # type: ignore[no-untyped-def]
    """Differences of what the line-up shows, and of the reserves of each strength check."""
    for name in ("deflection", "frequency"):
        differences.append(abs(quick.worst(name).value / full.worst(name).value - 1.0))
    exact = {(check.check, check.load_case): check for check in full.checks}
    for check in quick.checks:
        other = exact[check.check, check.load_case]
        if check.kind == "strength" and other.reserve_factor < 20.0:
            local.append(abs(check.reserve_factor / other.reserve_factor - 1.0))
