"""Runs every test without a monitor and closes with "N passed, N failed".

./run test                         everything, a module of tests at a time in as many processes as there are processors
./run test core.test_stack ui      modules or folders below tests/
"""

from __future__ import annotations

import multiprocessing
import os
import sys
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

from tests.worker import run, settle

ROOT = Path(__file__).parent


def _modules(names: list[str]) -> list[str]:
    """The modules of tests that are named, all without a name; the longest files first, so that none is left over."""
    files: list[Path] = [] if names else sorted(ROOT.rglob("test_*.py"))
    for name in names:
        name = name.removeprefix("tests.")
        folder = ROOT / name.replace(".", "/")
        if not folder.is_dir():
            return names if len(names) == 1 else [own for each in names for own in _modules([each])]
        files += sorted(folder.rglob("test_*.py"))
    files.sort(key=lambda file: -file.stat().st_size)
    return [".".join(file.relative_to(ROOT).with_suffix("").parts) for file in files]


def main() -> int:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    fresh = multiprocessing.get_context("spawn")
    with ProcessPoolExecutor(os.cpu_count(), fresh, settle) as pool:
        counts = list(pool.map(run, _modules(sys.argv[1:])))
    ran, bad, skipped = (sum(column) for column in zip(*counts, strict=True)) if counts else (0, 0, 0)
    print(f"{ran - bad - skipped} passed, {bad} failed" + (f", {skipped} skipped" if skipped else ""))
    return 0 if ran and not bad else 1


if __name__ == "__main__":
    sys.exit(main())
