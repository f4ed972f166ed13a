"""Runs every test without a monitor and closes with "N passed, N failed".

./run test                         everything, a module of tests at a time in as many processes as there are processors
./run test core.test_stack ui      modules or folders below tests/
"""

from __future__ import annotations

import multiprocessing
import os
import sys
import tempfile
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

from tests.worker import run, settle

ROOT = Path(__file__).parent
LONG = (
    "evaluate.test_menu", "evaluate.test_ways_out", "ui.test_sizing", "ui.test_main_job", "ui.test_every_page",
    "ui.test_testing", "evaluate.test_line_up", "core.test_panel_grid", "ui.test_panel_forms", "ui.test_hands",
    "evaluate.test_panel_forms", "evaluate.test_panel_held", "ui.test_first_use", "evaluate.test_equals",
)  # fmt: skip


def _modules(names: list[str]) -> list[str]:
    """The modules of tests that are named, all without a name; those that take long and the longest files first,
    so that none is left over."""
    modules = []
    for name in names or [""]:
        folder = ROOT / name.removeprefix("tests.").replace(".", "/")
        files = sorted(folder.rglob("test_*.py")) if folder.is_dir() else []
        files.sort(key=lambda file: -file.stat().st_size)
        modules += [".".join(file.relative_to(ROOT).with_suffix("").parts) for file in files] or [name]
    return sorted(modules, key=lambda module: LONG.index(module) if module in LONG else len(LONG))


def main() -> int:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    fresh = multiprocessing.get_context("spawn")
    with (
        tempfile.TemporaryDirectory(prefix="omakase-tests-") as homes,
        ProcessPoolExecutor(os.cpu_count(), fresh, settle, (homes,)) as pool,
    ):
        counts = list(pool.map(run, _modules(sys.argv[1:])))
    ran, bad, skipped = (sum(column) for column in zip(*counts, strict=True))
    print(f"{ran - bad - skipped} passed, {bad} failed" + (f", {skipped} skipped" if skipped else ""))
    return 0 if ran and not bad else 1


if __name__ == "__main__":
    sys.exit(main())
