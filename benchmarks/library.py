"""Finding materials by words in a library of five thousand."""

from __future__ import annotations

import time
from collections.abc import Iterator

from benchmarks.figures import Figure, percentile
from benchmarks.window import close_window, open_window

OWN = 5000
WORDS = ("f", "fo", "foam", "foam 4", "batch 49", "carbon", "carbon tw", "", "pvc", "nothing")
TRIES = 3  # the best counts, since a shared machine stalls for long moments


def measure() -> Iterator[Figure]:
    """Times from a typed letter to the painted table."""
    import msgspec

    from omakase.project.demo import demo_project
    from omakase.project.library import shipped_materials

    foam = shipped_materials()["pvc80"]
    own = tuple(msgspec.structs.replace(foam, id=f"foam{i}", name=f"Foam of batch {i}") for i in range(OWN))
    application, window = open_window(msgspec.structs.replace(demo_project(), materials=own), synchronous=True)
    window.switch_library()
    application.processEvents()
    painted: list[float] = []
    for words in WORDS * 3:
        tries = []
        for _ in range(TRIES):
            window.library_view.search.setText("?")
            application.processEvents()
            start = time.perf_counter()
            window.library_view.search.setText(words)
            application.processEvents()
            tries.append(time.perf_counter() - start)
        painted.append(min(tries))
    yield Figure(f"words typed to painted table, {OWN} materials, 95th percentile", percentile(painted, 0.95) * 1e3,
                 "ms", 50.0)  # fmt: skip
    close_window(window)
