"""Building: a large job planned first and again after an edit, how full rolls get, and edits while a plan is under
way."""

from __future__ import annotations

import time
from collections.abc import Iterator
from statistics import median

from benchmarks.figures import Figure, percentile
from benchmarks.window import close_window, open_window

FIRST, AGAIN, PAINTED, LATE = 2.0, 0.7, 33.0, 100.0  # s, s; ms to the painted window, median and 95 %
EDITS = 15


def measure() -> Iterator[Figure]:
    """Seconds of a job of 60 plies in 40 pieces and more, and of the demo's; share of the roll that goes into
    pieces."""
    from omakase.core.build.nesting import lay_out
    from omakase.evaluate.build.plan import Planner
    from omakase.project.build import Job, JobPart
    from omakase.project.commands import replace
    from omakase.project.demo import demo_project
    from omakase.project.layers import LayerRecord

    project = demo_project()
    brief = project.briefs[0]
    plies = tuple(LayerRecord("twill200", 45.0 * (i % 2)) for i in range(20))
    candidate = replace(brief.candidates[1], layers=plies, details=())
    large = replace(project, briefs=(replace(brief, candidates=(candidate,)),), decisions=())
    job = Job("j1", "large", start="2026-11-30", parts=tuple(
        JobPart(f"p{i}", f"part {i}", brief.id, candidate.id) for i in range(3)
    ))  # fmt: skip
    Planner().plan(project, project.jobs[0])  # what is imported at the first plan
    planner = Planner()
    yield Figure("60 plies planned for the first time", _once(lambda: planner.plan(large, job)), "s", FIRST)
    edited = replace(job, planned=20)
    yield Figure("the same after an edit of its cost", _once(lambda: planner.plan(large, edited)), "s", AGAIN)
    parts = (("b1", "c3"), ("b7", "c4"), ("b8", "c4"), ("b9", "c3"), ("b10", "c3"), ("b12", "c3"), ("b6", "c2"))
    mixed = Job("j2", "mixed", start="2026-11-30", parts=tuple(
        JobPart(f"p{i}", f"part {i}", *own) for i, own in enumerate(parts)
    ))  # fmt: skip
    pieces = [own.cut for own in planner.plan(project, mixed).cutting.pieces if own.material.id == "twill200"]
    for tries in (0, 30, 300):
        layout = lay_out(pieces, 1.27, 0.005, tries)
        yield Figure(f"roll that goes into pieces, {tries} orders tried", layout.used, "")
    yield from _edits(project)


def _once(act) -> float:  # type: ignore[no-untyped-def]
    start = time.perf_counter()
    act()
    return time.perf_counter() - start


def _edits(project) -> Iterator[Figure]:  # type: ignore[no-untyped-def]
    """A part's mass of hardware typed again and again while the job is planned behind the window."""
    from omakase.project.commands import replace

    application, window = open_window(project)
    window.at_the_bench(0)
    view = window.build_view
    times = []
    for i in range(EDITS):
        start = time.perf_counter()
        view.model.edit_job(lambda job, i=i: replace(job, planned=(10, 12, 15, 20)[i % 4]), "planned")
        view.repaint()
        times.append((time.perf_counter() - start) * 1e3)
        until = time.perf_counter() + 0.15  # the plan of the last edit is under way
        while time.perf_counter() < until:
            application.processEvents()
    close_window(window)
    yield Figure("edit to painted page while the job is planned, median", median(times), "ms", PAINTED)
    yield Figure("edit to painted page while the job is planned, 95 %", percentile(times, 0.95), "ms", LATE)
