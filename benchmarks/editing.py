"""From an edit to the painted window, and from the quick to the full order, on the demo project."""

from __future__ import annotations

import time
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from benchmarks.figures import Figure, percentile
from benchmarks.quiet import NEAR, Machine
from benchmarks.window import close_window, open_window

EDITS = 6
# Each pass makes the same kinds of edit, by these shares of a step so that no layup comes twice.  The targets are for a
# quiet machine: on a shared one, which halves its speed for minutes on end, those edits count that began and ended in a
# quiet moment, and all are given beside them.
PASSES = (1.0, -0.92)
FRAME = 1000.0 / 60.0  # ms
FLAT, OTHER = "flat panel", "other member"
ENOUGH = 30  # edits in quiet moments, below which all of them are judged
TARGETS = {FLAT: (FRAME, 2.0 * FRAME), OTHER: (None, 3.0 * FRAME)}  # ms, median and 95th percentile


def measure() -> Iterator[Figure]:
    """Times of edits to every candidate with a core, flat panels first."""
    from PyQt6.QtCore import QEventLoop

    from omakase.evaluate.results.quick import quickly_reduced
    from omakase.project.demo import demo_project
    from omakase.ui.window.memory import settle_memory

    application, window = open_window(demo_project())
    session = window.session
    settle_memory()  # as the program does a while after its start

    loop = QEventLoop()
    session.results_changed.connect(lambda: loop.quit() if session.settled else None)
    session.rested.connect(loop.quit)

    def settle() -> None:
        """Waits as the program does, asleep in the event loop: a busy wait would take the workers' processor."""
        while not session.settled:
            loop.exec()
        application.processEvents()

    def ready() -> None:
        """Half a second, as it takes to look at a candidate before the first edit of it."""
        while not session.idle:
            loop.exec()
        application.processEvents()

    machine = Machine()
    chosen: dict[str, list[tuple[str, str, int]]] = {FLAT: [], OTHER: []}
    for brief in session.document.project.briefs:
        for candidate in brief.candidates:
            core = next((i for i, layer in enumerate(candidate.layers) if layer.role == "core"), None)
            if core is not None:
                chosen[FLAT if quickly_reduced(brief, candidate) else OTHER].append((brief.id, candidate.id, core))
    made = {group: _Edits() for group in chosen}
    for group, candidates in chosen.items():
        edits = made[group]
        for share in PASSES:
            for brief_id, candidate_id, core in candidates:
                session.choose_brief(brief_id)
                settle()
                session.choose(candidate_id)
                ready()
                for step in range(EDITS):
                    found = _edit(session, application, settle, core, step, share, machine)
                    edits.take((brief_id, candidate_id, step), found, share == PASSES[0] and group == FLAT)
    for group, edits in made.items():  # not before all are made: the longer, the surer what is quiet
        yield from edits.figures(group, machine.best)
    yield Figure("fixed work beside the edits, median by its best (1 on a quiet machine)", machine.usual, "")
    usual, shared, best_shared, pictured, settled = _shared_edits(session, application, settle, ready)
    yield Figure("edit of a sub-stack that three share, numbers of all painted, median", usual * 1e3, "ms", 50.0)
    yield Figure(
        "edit of a sub-stack that three share, numbers of all painted, 95th percentile", shared * 1e3, "ms", 50.0
    )
    yield Figure("the same, best pass of each edit, 95th percentile", best_shared * 1e3, "ms")
    yield Figure("the same, pictures of the chosen one painted too, 95th percentile", pictured * 1e3, "ms")
    yield Figure("the same, all three at full order, 95th percentile", settled * 1e3, "ms")
    close_window(window)


@dataclass(frozen=True)
class _Edit:
    """Seconds of one edit: until it was ``painted``, of ``processor`` time then, until an answer that is not rough was
    ``said`` and the ``full`` one painted; the ``quick`` result and the ``exact`` one; what fixed work took ``beside``
    it, before and after, the longer."""

    painted: float
    processor: float
    said: float
    full: float
    quick: Any
    exact: Any
    beside: float


class _Edits:
    """What edits of one group took, s."""

    def __init__(self) -> None:
        self.best: dict[tuple[str, str, int], float] = {}
        self.every: list[_Edit] = []
        self.differences: list[float] = []
        self.local: list[float] = []

    def take(self, key: tuple[str, str, int], edit: _Edit, compared: bool) -> None:
        self.best[key] = min(edit.painted, self.best.get(key, edit.painted))
        self.every.append(edit)
        if compared:
            _compare(edit.quick, edit.exact, self.differences, self.local)

    def figures(self, group: str, fastest: float) -> Iterator[Figure]:
        best, all_of, median, most = list(self.best.values()), len(self.every), *TARGETS[group]
        quiet = [edit.painted for edit in self.every if edit.beside <= NEAR * fastest]
        every = [edit.painted for edit in self.every]
        enough = len(quiet) >= ENOUGH
        for name, times, judged in (
            (f"edit, {group}: to painted window, {len(quiet)} of {all_of} in quiet moments, median", quiet, enough),
            (f"edit, {group}: to painted window, all, median", every, not enough),
        ):
            if times:
                yield Figure(name, percentile(times, 0.5) * 1e3, "ms", median if judged else None)
                yield Figure("95th percentile", percentile(times, 0.95) * 1e3, "ms", most if judged else None)
        yield Figure(f"best pass of each of {len(best)} edits, median", percentile(best, 0.5) * 1e3, "ms")
        yield Figure("best pass of each edit, 95th percentile", percentile(best, 0.95) * 1e3, "ms")
        processor = percentile([edit.processor for edit in self.every], 0.95) * 1e3
        yield Figure("processor time until painted, 95th percentile", processor, "ms")
        said = percentile([edit.said for edit in self.every], 0.95) * 1e3
        yield Figure("edit to an answer that counts stretching, 95th percentile", said, "ms")
        full = percentile([edit.full for edit in self.every], 0.95) * 1e3
        yield Figure("edit to full order painted, 95th percentile", full, "ms", 300.0)
        if self.differences:
            largest = max(self.differences) * 100.0
            yield Figure("quick against full order: deflection and frequency, largest", largest, "%", 1.0)
            usual = percentile(self.local, 0.95) * 100.0
            yield Figure("quick against full order: strength reserves, 95th percentile", usual, "%")
            yield Figure("quick against full order: strength reserves, largest", max(self.local) * 100.0, "%")


def _shared_edits(session, application, settle, ready) -> tuple[float, ...]:  # type: ignore[no-untyped-def]
    """Seconds to all numbers, median; 95th percentiles of that, of the best pass of each edit, to the pictures, to the
    full order."""
    from PyQt6.QtCore import QEventLoop

    from omakase.project import edits
    from omakase.project.commands import replace
    from omakase.project.shared import share, shared_stacks

    session.choose_brief("b1")
    settle()
    ids = ("c3", "c2", "c4")
    session.choose(ids[0])
    session.edit_candidate(share(session.candidate, [0, 1], "A"), "share")
    stack = shared_stacks(session.document.project, ())["A"]
    for identity in ids[1:]:
        session.choose(identity)
        own = session.candidate
        core = next(layer for layer in own.layers if layer.role == "core")
        session.edit_candidate(replace(own, layers=(*stack, core, *edits.mirrored(stack))), "take in")
    settle()
    painted: list[list[float]] = [[] for _ in range(EDITS)]
    pictured: list[float] = []
    settled: list[float] = []
    for share_of_step in (*PASSES, *PASSES):  # more of them than of the single edits, which have many candidates
        for edit in range(EDITS):
            ready()
            now = session.candidate
            new = edits.set_layer(now, 0, replace(now.layers[0], angle=now.layers[0].angle + 4.0 * share_of_step))
            start = time.perf_counter()
            session.edit_candidate(new, "edit")
            application.sendPostedEvents()  # paints, but lets no timer run
            painted[edit].append(time.perf_counter() - start)
            seen: list[int] = []
            session.after_numbers(lambda seen=seen: seen.append(1))  # behind the pictures, which asked before
            while not seen:
                application.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)
            application.sendPostedEvents()
            pictured.append(time.perf_counter() - start)
            settle()
            settled.append(time.perf_counter() - start)
    every = [seconds for passes in painted for seconds in passes]
    best = [min(passes) for passes in painted]
    return percentile(every, 0.5), *(percentile(seconds, 0.95) for seconds in (every, best, pictured, settled))


def _edit(session, application, settle, core: int, step: int, share: float, machine: Machine) -> _Edit:  # type: ignore[no-untyped-def]
    """Changes the core's thickness or turns a ply, in a quiet moment if there is one soon."""
    from omakase.project import edits
    from omakase.project.commands import replace

    now = session.candidate
    layer = now.layers[core]
    if step % 3 == 2:
        new = edits.set_layer(now, 0, replace(now.layers[0], angle=now.layers[0].angle + 5.0 * share))
    else:
        thickness = round((layer.thickness or 0.01) + 0.25e-3 * share, 9)
        new = edits.set_layer(now, core, replace(layer, thickness=thickness))
    said: list[float] = []
    told = session.results_changed.connect(lambda: None if session.result.rough else said.append(time.perf_counter()))
    before = machine.await_quiet()
    start, start_processor = time.perf_counter(), time.thread_time()
    session.edit_candidate(new, "edit")
    application.processEvents()
    painted, processor = time.perf_counter() - start, time.thread_time() - start_processor
    beside = max(before, machine.look())
    quick = session.result
    settle()
    full = time.perf_counter() - start
    session.results_changed.disconnect(told)
    return _Edit(painted, processor, said[0] - start, full, quick, session.result, beside)


def _compare(quick, full, differences: list[float], local: list[float]) -> None:  # type: ignore[no-untyped-def]
    """Differences of what the line-up shows, and of the reserves of each strength check."""
    for name in ("deflection", "frequency"):
        differences.append(abs(quick.worst(name).value / full.worst(name).value - 1.0))
    exact = {(check.check, check.load_case): check for check in full.checks}
    for check in quick.checks:
        other = exact[check.check, check.load_case]
        if check.kind == "strength" and other.reserve_factor < 20.0:
            local.append(abs(check.reserve_factor / other.reserve_factor - 1.0))
