"""Strips and tubes of the demo: a full evaluation, an edit to the painted window, and a study of the winding angle."""

from __future__ import annotations

import time
from collections.abc import Iterator

from benchmarks.figures import Figure, percentile
from benchmarks.window import close_window, open_window

TIMES, EDITS, POINTS = 15, 12, 90


def measure() -> Iterator[Figure]:
    """Milliseconds of each; the tapering braid is told apart, since its wall is another at every station."""
    from omakase.core.members.panel import FULL
    from omakase.evaluate.members.registry import kind_of
    from omakase.evaluate.results.engine import Evaluator, judge
    from omakase.evaluate.sizing.study import Study, measures, parameters
    from omakase.project.demo import demo_project
    from omakase.project.library import materials_of

    project = demo_project()
    materials = materials_of(project)
    for brief in project.briefs:
        kind = kind_of(brief)
        if kind.reduced:
            continue
        for candidate in brief.candidates:
            best = 1e9
            for _ in range(TIMES):
                start = time.perf_counter()
                judge(brief, candidate, *kind.respond(brief, candidate, materials, FULL), FULL)
                best = min(best, time.perf_counter() - start)
            yield Figure(f"full evaluation, {kind.name}, {candidate.name}, best of {TIMES}", best * 1e3, "ms", 20.0)
        winding = next((own for own in parameters(brief, brief.candidates[2], materials) if own.key == "winding"), None)
        if winding is not None:
            start = time.perf_counter()
            study = Study(brief, brief.candidates[2], materials, Evaluator())
            for _ in study.curve(winding, measures(brief)[0], POINTS):
                pass
            yield Figure(f"study of the winding angle, {POINTS} points", time.perf_counter() - start, "s", 1.0)
    yield from _edits(project)


def _edits(project) -> Iterator[Figure]:  # type: ignore[no-untyped-def]
    """Edits of plies, of the form and of the brief until the window is painted."""
    from omakase.evaluate.members.registry import kind_of
    from omakase.evaluate.members.sentence import with_value
    from omakase.project import edits
    from omakase.project.commands import replace

    application, window = open_window(project)
    session = window.session
    seconds: list[float] = []
    for brief in project.briefs:
        if kind_of(brief).reduced:
            continue
        session.choose_brief(brief.id)
        for candidate in brief.candidates[1:]:
            session.choose(candidate.id)
            while not session.settled:
                application.processEvents()
            for step in range(EDITS):
                now = session.candidate
                start = time.perf_counter()
                if step % 3 == 0:
                    layer = replace(now.layers[0], angle=now.layers[0].angle + 1.0 + 0.1 * step)
                    session.edit_candidate(edits.set_layer(now, 0, layer), "edit")
                elif step % 3 == 1:
                    name = "width" if hasattr(now.form, "width") else "diameter"
                    stations = getattr(now.form, name)
                    new = (replace(stations[0], size=stations[0].size * 1.001), *stations[1:])
                    session.edit_candidate(replace(now, form=replace(now.form, **{name: new})), "edit")
                else:
                    path = ("load_cases", 0, "loads", 0, "force")
                    force = session.brief.load_cases[0].loads[0].force
                    session.edit_brief(with_value(session.brief, path, force * 1.001), "edit")
                application.processEvents()
                seconds.append(time.perf_counter() - start)
                while not session.settled:
                    application.processEvents()
    what = "edit of a strip or tube to painted window"
    yield Figure(f"{what}, median of {len(seconds)}", percentile(seconds, 0.5) * 1e3, "ms")
    yield Figure(f"{what}, 95th percentile", percentile(seconds, 0.95) * 1e3, "ms", 50.0)
    close_window(window)
