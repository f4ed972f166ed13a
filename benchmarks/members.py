"""Strips, tubes and spars of the demo, a floor with ribs, zones and feet: a full evaluation, an edit to the painted
window; a winding study."""

from __future__ import annotations

import time
from collections.abc import Iterator

from benchmarks.figures import Figure, percentile
from benchmarks.window import close_window, open_window

TIMES, EDITS, POINTS = 15, 12, 90
EVALUATION = {
    "strip": 20.0,
    "leg": 100.0,
    "bracket": 20.0,
    "tube": 20.0,
    "spar": 60.0,
    "rib": 60.0,
    "surface": 80.0,
}  # ms wanted
EDIT = {
    "strip": 50.0,
    "leg": 100.0,
    "bracket": 50.0,
    "tube": 50.0,
    "spar": 100.0,
    "rib": 150.0,
    "surface": 150.0,
    "floor": 100.0,
}
PLAIN = {"bracket": "width", "rib": "width", "surface": "tip_ratio"}  # sizes that are no law along the span
FLOOR = "b-floor"


def measure() -> Iterator[Figure]:
    """Milliseconds of each; the tapering braid is told apart, since its wall is another at every station."""
    from omakase.core.members.panel_given import FULL
    from omakase.evaluate.members.registry import kind_of
    from omakase.evaluate.results.engine import Evaluator
    from omakase.evaluate.results.judging import judge
    from omakase.evaluate.sizing.study import Study, measures, parameters
    from omakase.evaluate.sizing.workers import Workers
    from omakase.project.commands import replace
    from omakase.project.demo import demo_project
    from omakase.project.library import materials_of

    project = demo_project()
    materials = materials_of(project)
    for brief in project.briefs:
        kind = kind_of(brief)
        if kind.reduced:
            continue
        for candidate in (own for own in brief.candidates if own.measured is None):
            best = 1e9
            for _ in range(TIMES):
                start = time.perf_counter()
                judge(brief, candidate, *kind.respond(brief, candidate, materials, FULL), FULL, materials)
                best = min(best, time.perf_counter() - start)
            what = f"full evaluation, {kind.name}, {candidate.name}, best of {TIMES}"
            yield Figure(what, best * 1e3, "ms", EVALUATION[kind.name])
        winding = next((own for own in parameters(brief, brief.candidates[2], materials) if own.key == "winding"), None)
        if winding is not None:
            workers = Workers()
            workers.warm()
            for _ in range(2):  # the first run finds the processes still importing
                start = time.perf_counter()
                study = Study(brief, brief.candidates[2], materials, Evaluator())
                for _ in study.curve(winding, measures(brief)[0], POINTS, workers):
                    pass
                seconds = time.perf_counter() - start
            yield Figure(f"study of the winding angle, {POINTS} points", seconds, "s", 1.0)
            workers.close()
    floor, candidate = _stiffened(project)
    best = 1e9
    for _ in range(TIMES):
        start = time.perf_counter()
        judge(floor, candidate, *kind_of(floor).respond(floor, candidate, materials, FULL), FULL, materials)
        best = min(best, time.perf_counter() - start)
    yield Figure(f"full evaluation, floor with 3 ribs, 4 zones, 2 feet, best of {TIMES}", best, "s", 1.0)
    yield from _edits(replace(project, briefs=(*project.briefs, replace(floor, candidates=(candidate,)))))


def _stiffened(project):  # type: ignore[no-untyped-def]
    """A floor of the demo with three blades across, four doublers and two feet in cases of their own; its layup."""
    from omakase.project.commands import replace
    from omakase.project.spans import Zone

    floor = project.briefs[0]
    ribbed = [own for brief in project.briefs for own in brief.candidates if getattr(own.form, "ribs", ())]
    bladed = next(own for own in ribbed if own.form.ribs[0].outline == "blade")
    base, length, width = floor.candidates[2], floor.member.length, floor.member.width
    ribs = tuple(replace(bladed.form.ribs[0], place=share * length) for share in (0.25, 0.5, 0.75))
    corners = ((0.05, 0.1), (0.6, 0.1), (0.05, 0.6), (0.8, 0.7))
    zones = tuple(
        Zone(f"z{k}", f"doubler {k}", x * length, (x + 0.12) * length, y * width, (y + 0.2) * width)
        for k, (x, y) in enumerate(corners)
    )
    doublers = tuple(replace(base.layers[0], zone=zone.id) for zone in zones)
    plies = tuple(layer for layer in bladed.layers if layer.wall)
    form = replace(base.form, ribs=ribs)
    candidate = replace(base, id="c1", form=form, layers=(*doublers, *base.layers, *plies), zones=zones)
    return replace(floor, id=FLOOR, name="Stiffened floor"), candidate


def _edits(project) -> Iterator[Figure]:  # type: ignore[no-untyped-def]
    """Edits of plies, of the form and of the brief until the window is painted."""
    from omakase.evaluate.members.registry import kind_of
    from omakase.evaluate.members.sentence import with_value
    from omakase.project import edits
    from omakase.project.commands import replace

    application, window = open_window(project)
    session = window.session
    seconds: dict[str, list[float]] = {}
    for brief in project.briefs:
        kind = kind_of(brief)
        if kind.reduced and brief.id != FLOOR:
            continue
        session.choose_brief(brief.id)
        for candidate in brief.candidates[len(brief.candidates) > 1 :]:
            if candidate.measured is not None:
                continue
            session.choose(candidate.id)
            while not session.settled:
                application.processEvents()
            for step in range(EDITS):
                now = session.candidate
                start = time.perf_counter()
                if step % 3 == 0:
                    layer = replace(now.layers[0], angle=now.layers[0].angle + 1.0 + 0.1 * step)
                    session.edit_candidate(edits.set_layer(now, 0, layer), "edit")
                elif step % 3 == 1 and kind.reduced:
                    place = now.form.ribs[0].place * 1.001
                    session.edit_candidate(with_value(now, ("form", "ribs", 0, "place"), place), "edit")
                elif step % 3 == 1 and now.zones:
                    session.edit_candidate(with_value(now, ("zones", 0, "high"), now.zones[0].high * 1.001), "edit")
                elif step % 3 == 1 and kind.name in PLAIN:
                    name = PLAIN[kind.name]
                    session.edit_candidate(with_value(now, ("form", name), getattr(now.form, name) * 1.001), "edit")
                elif step % 3 == 1:
                    name = "width" if hasattr(now.form, "width") else "diameter"
                    size = getattr(now.form, name)[0].size
                    session.edit_candidate(with_value(now, ("form", name, 0, "size"), size * 1.001), "edit")
                else:
                    load = session.brief.load_cases[0].loads[0]
                    name = next(name for name in ("force", "total", "opening", "lift") if hasattr(load, name))
                    path = ("load_cases", 0, "loads", 0, name)
                    session.edit_brief(with_value(session.brief, path, getattr(load, name) * 1.001), "edit")
                application.processEvents()
                name = "floor" if kind.reduced else kind.name
                seconds.setdefault(name, []).append(time.perf_counter() - start)
                while not session.settled:
                    application.processEvents()
    for name, own in seconds.items():
        what = f"edit of a {name} to painted window"
        yield Figure(f"{what}, median of {len(own)}", percentile(own, 0.5) * 1e3, "ms")
        yield Figure(f"{what}, 95th percentile", percentile(own, 0.95) * 1e3, "ms", EDIT[name])
    close_window(window)
