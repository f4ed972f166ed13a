"""Runs every test without a monitor and closes with "N passed, N failed".

./run test                         everything
./run test core.test_stack ui      modules or folders below tests/
"""

from __future__ import annotations

import os
import sys
import tempfile
import unittest
import warnings
from pathlib import Path


def _suite(names: list[str]) -> unittest.TestSuite:
    root = Path(__file__).parent
    loader = unittest.TestLoader()
    if not names:
        return loader.discover(str(root), top_level_dir=str(root.parent))
    suite = unittest.TestSuite()
    for name in names:
        name = name.removeprefix("tests.")
        folder = root / name.replace(".", "/")
        if folder.is_dir():
            suite.addTests(loader.discover(str(folder), top_level_dir=str(root.parent)))
        else:
            suite.addTests(loader.loadTestsFromName(f"tests.{name}"))
    return suite


def _settle_hypothesis() -> None:
    """The same examples in every run, and no complaint that a busy machine is slow to make them."""
    from hypothesis import HealthCheck, settings

    settings.register_profile("house", deadline=None, derandomize=True, suppress_health_check=[HealthCheck.too_slow])
    settings.load_profile("house")


def main() -> int:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    with tempfile.TemporaryDirectory(prefix="omakase-tests-") as home:
        # no test may touch the person's own recovery files or settings
        os.environ.update(HOME=home, XDG_STATE_HOME=f"{home}/state", XDG_CONFIG_HOME=f"{home}/config")
        warnings.simplefilter("error")
        _settle_hypothesis()
        result = unittest.TextTestRunner(verbosity=1, warnings="error").run(_suite(sys.argv[1:]))
    bad = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    skipped = f", {len(result.skipped)} skipped" if result.skipped else ""
    print(f"{result.testsRun - bad - len(result.skipped)} passed, {bad} failed{skipped}")
    return 0 if result.wasSuccessful() and result.testsRun else 1


if __name__ == "__main__":
    sys.exit(main())
