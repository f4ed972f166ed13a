"""Ways out, the screen and the menu: how long they take, and whether the window stays free meanwhile."""

from __future__ import annotations

import time
from collections.abc import Iterator
from typing import Any

from benchmarks.figures import Figure, percentile
from benchmarks.window import close_window, open_window

WIDE = {"skins": ("twill200", "ud200", "spread100"), "cores": ("pvc60", "pvc80", "hc48"), "thicknesses": (0.003, 0.02)}
TICK = 0.005
RANDOM_BRIEFS, RANDOM_EACH = 20, 100


def measure() -> Iterator[Figure]:
    """Figures on the demo project, the window open and its workers started."""
    from omakase.project.demo import demo_project
    from omakase.ui.window.memory import settle_memory

    application, window = open_window(demo_project())
    session = window.session
    session.workers.warm()
    session.start()
    _wait(application, lambda: session.idle)
    settle_memory()  # as the program does a while after its start
    firsts, wholes, blocks = [], [], []
    for brief in session.document.project.briefs:
        session.choose_brief(brief.id)
        for candidate in brief.candidates:
            session.choose(candidate.id)
            _wait(application, lambda: session.idle)
            if candidate is not brief.candidates[0]:  # the baselines have next to nothing to change
                first, whole, block = _ways(application, window)
                firsts.append(first)
                wholes.append(whole)
                blocks += block
    yield Figure("first way of a candidate shown, median", percentile(firsts, 0.5) * 1e3, "ms", 200.0)
    yield Figure("all ways of a candidate, median", percentile(wholes, 0.5), "s", 1.5)
    yield Figure("all ways of a candidate, the slowest", max(wholes), "s", 1.5)
    yield Figure("longest turn of the event loop meanwhile", max(blocks) * 1e3, "ms", 50.0)
    yield from _menu(application, window)
    close_window(window)
    yield from _screen()


def _wait(application: Any, until: Any) -> list[float]:
    """Runs the event loop until something holds; how long each of its turns took."""
    turns = []
    while not until():
        start = time.perf_counter()
        application.processEvents()
        turns.append(time.perf_counter() - start)
        time.sleep(TICK)
    return turns


def _ways(application: Any, window: Any) -> tuple[float, float, list[float]]:
    view = window.ways_view
    window.show_ways()
    application.processEvents()
    view.follow()
    start = time.perf_counter()
    view.search.begin_now()
    turns = _wait(application, lambda: bool(view.ways) or not view.searching)
    first = time.perf_counter() - start
    turns += _wait(application, lambda: not view.searching)
    whole = time.perf_counter() - start
    window.pages.setCurrentIndex(0)
    return first, whole, turns


def _menu(application: Any, window: Any) -> Iterator[Figure]:
    import msgspec

    view, session = window.menu_view, window.session
    session.choose_brief("b1")
    _wait(application, lambda: session.idle)
    window.switch_top(view)
    choices = msgspec.structs.replace(view.read_choices(), **WIDE)
    view._show_choices(choices)
    application.processEvents()  # the page itself is not what is measured
    start = time.perf_counter()
    view.start()
    turns = _wait(application, lambda: not view.searching)
    yield Figure(
        f"menu of {view.menu.total:,} combinations, verified and shown", time.perf_counter() - start, "s", 20.0
    )
    yield Figure("combinations of it", float(view.menu.total), "")
    yield Figure("judged of it", float(view.menu.judged), "")
    yield Figure("longest turn of the event loop meanwhile", max(turns) * 1e3, "ms", 50.0)
    window.switch_top(view)


def _screen() -> Iterator[Figure]:
    """On one core, in this process."""
    import numpy as np
    from tests.core import test_screen as random_cases

    from omakase.core.checks.result import Limits, Settings
    from omakase.core.members.panel import respond

    rng = np.random.default_rng(1)
    screen = random_cases.make_screen(rng, Limits(1.0, 1.0), Settings(1.5))
    batch = random_cases.draw(rng, 40_000)
    middle = respond(screen.panel, random_cases.stack(batch, 0), screen.cases)
    screen.limits = Limits(max(case.largest_deflection[0] for case in middle.cases), middle.frequencies[0] * 0.8)
    start = time.perf_counter()
    for first in range(0, len(batch), 2048):
        screen.look(batch.take(np.arange(first, min(first + 2048, len(batch)))))
    each = (time.perf_counter() - start) / len(batch)
    yield Figure("the screen on one core, per combination; 60 are a million a minute", each * 1e6, "µs", 60.0)
    rejected, _, wrong = random_cases.false_rejections(RANDOM_BRIEFS, RANDOM_EACH)
    yield Figure(f"rejected of {RANDOM_BRIEFS * RANDOM_EACH} random sandwiches", float(rejected), "")
    yield Figure("of these accepted by the full evaluator", float(len(wrong)), "", 0.0)
