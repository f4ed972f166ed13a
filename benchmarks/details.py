"""Details of candidates: what their checks cost beside those of the walls, and edits to the painted window."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from functools import partial
from statistics import median

from benchmarks.figures import Figure, percentile
from benchmarks.window import close_window, open_window

TIMES, EDITS = 15, 20
CHECKS, PAINTED, LATE = 10.0, 33.0, 66.0  # ms: all details of a candidate; to the painted window, median, 95 %


def measure() -> Iterator[Figure]:
    """Ratios for every candidate with details, and milliseconds of edits of a detail and of the load it takes."""
    from omakase.core.checks.registry import run_all
    from omakase.evaluate.details.judging import judge_details
    from omakase.evaluate.results.engine import Evaluator
    from omakase.project import translate
    from omakase.project.demo import demo_project
    from omakase.project.library import materials_of

    project = demo_project()
    materials, evaluator = materials_of(project), Evaluator()
    for brief in project.briefs:
        for candidate in (own for own in brief.candidates if own.details):
            result = evaluator.evaluate(brief, candidate, materials)
            asked = translate.settings(brief, candidate), translate.limits(brief)
            own = _best(partial(judge_details, brief, candidate, result.stack, result.response, materials))
            walls = _best(partial(run_all, result.response, *asked))
            name = f"{brief.name}, {candidate.name}"
            yield Figure(f"checks of details over those of walls, {name}", own / walls, "")
            yield Figure(f"checks of details, {name}", own * 1e3, "ms", CHECKS)
    yield from _edits(project)


def _best(act: Callable[[], object]) -> float:
    """Seconds of the quickest of several runs."""
    times = []
    for _ in range(TIMES):
        start = time.perf_counter()
        act()
        times.append(time.perf_counter() - start)
    return min(times)


def _edits(project) -> Iterator[Figure]:  # type: ignore[no-untyped-def]
    """With the page of details open: a washer, and the load that the detail takes from its member."""
    from omakase.evaluate.members.sentence import with_value

    application, window = open_window(project)
    session = window.session
    session.choose_brief("b8")
    session.choose("c4")
    window.switch_top(window.details_view)
    while not session.settled:
        application.processEvents()
    for what in ("washer of a detail", "load that a detail takes"):
        times = []
        for step in range(EDITS):
            start = time.perf_counter()
            if what.startswith("washer"):
                changed = with_value(session.candidate, ("details", 0, "washer"), 0.016 + 1e-4 * (step + 1))
                session.edit_candidate(changed, "edit")
            else:
                path = ("load_cases", 1, "loads", 0, "force")
                session.edit_brief(with_value(session.brief, path, -300.0 - step), "edit")
            application.processEvents()
            times.append((time.perf_counter() - start) * 1e3)
            while not session.settled:
                application.processEvents()
        yield Figure(f"edit to the painted window, {what}, median", median(times), "ms", PAINTED)
        yield Figure(f"edit to the painted window, {what}, 95th percentile", percentile(times, 0.95), "ms", LATE)
    close_window(window)
