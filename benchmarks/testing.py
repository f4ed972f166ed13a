"""The test bench: taking in a long curve, how much of the file it needs, drawing, panning, and a dragged region."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from typing import Any

from benchmarks.figures import Figure, percentile
from benchmarks.window import close_window, open_window

ROWS = 100_000
CURVES = 20
FRAME = 1000.0 / 60.0


def measure() -> Iterator[Figure]:
    """Figures of a file of 100,000 rows of three columns with noise, then of the demo's own curves."""
    import numpy as np

    from omakase.project import series as edits
    from omakase.project.commands import replace
    from omakase.project.curve_file import make_curve, read_table, suggest
    from omakase.project.curves import to_record
    from omakase.project.demo import demo_project
    from omakase.project.model import Specimen
    from omakase.project.storage import to_bytes

    random = np.random.default_rng(1)
    travel = np.linspace(0.0, 4.0, ROWS)
    force = 500.0 * travel + random.normal(0.0, 2.0, ROWS)
    lines = [
        f"{i * 0.01:.2f};{x:.5f};{f:.3f}" for i, (x, f) in enumerate(zip(travel.tolist(), force.tolist(), strict=True))
    ]
    data = ("Time (s);Travel (mm);Force (N)\n" + "\n".join(lines)).encode()
    start = time.perf_counter()
    table = read_table(data, "long.csv")
    curve, _ = make_curve(table, suggest(table))
    record = to_record(curve, "long.csv", data)
    taken = time.perf_counter() - start
    start = time.perf_counter()
    np.loadtxt(data.decode().splitlines(), delimiter=";", skiprows=1)
    plain = time.perf_counter() - start
    yield Figure(f"file of {ROWS:,} rows read, checked and made ready to keep", taken, "s", 1.0)
    yield Figure("the same over reading its numbers alone", taken / plain, "×")
    project = demo_project()
    specimens = tuple(Specimen(f"p{i}", str(i), curve=record) for i in range(CURVES))
    held = replace(project, series=(replace(project.series[0], specimens=specimens),))
    yield Figure(f"project with {CURVES} such curves", len(to_bytes(held)) / 1e6, "MB", 2.0)

    application, window = open_window(project)
    view = window.tests_view
    window.session.start()
    while not window.session.idle:
        application.processEvents()
    window.switch_top(view)
    application.processEvents()
    plot = view.frame.plot
    view.show_page(6)
    plot.show_curve(travel, force)
    application.processEvents()
    drawn = _times(application, lambda i: plot.show_curve(travel, force * (1.0 + 1e-3 * i)))
    box = plot.plot.getPlotItem().getViewBox()
    panned = _times(application, lambda i: box.translateBy(x=0.01 * (-1) ** i))
    yield Figure(f"{ROWS:,} points drawn anew, 95th percentile", percentile(drawn, 0.95) * 1e3, "ms", 2.0 * FRAME)
    yield Figure(f"{ROWS:,} points panned, 95th percentile", percentile(panned, 0.95) * 1e3, "ms", FRAME)
    view.show_page(0)
    view.model.choose_series("t2")
    application.processEvents()
    page = view.specimens
    low, high = page.plot.region.getRegion()
    dragged = _times(application, lambda i: page.plot.region_moved.emit(low, high * (1.0 + 0.01 * (i % 7))))
    yield Figure("region dragged to its numbers, 95th percentile", percentile(dragged, 0.95) * 1e3, "ms", FRAME)
    edited = _times(application, lambda i: view.model.edit_specimen(
        lambda s: edits.with_size(s, "width", 0.025 + 1e-4 * i), "size"))  # fmt: skip
    yield Figure("edit of a specimen to the painted bench, 95th percentile", percentile(edited, 0.95) * 1e3, "ms", 50.0)
    close_window(window)


def _times(application: Any, act: Callable[[int], object]) -> list[float]:
    """Seconds from an act to the painted window, thirty times."""
    found = []
    for i in range(30):
        start = time.perf_counter()
        act(i)
        application.processEvents()
        found.append(time.perf_counter() - start)
    return found
