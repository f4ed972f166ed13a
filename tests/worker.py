"""What a process of the test run does: it settles in a home of its own and runs one module of tests after the other."""

from __future__ import annotations

import os
import tempfile
import time
import unittest
import warnings

Counts = tuple[int, int, int]  # run, failed, skipped


def settle(homes: str) -> None:
    """No test may touch the person's own recovery files or settings; hypothesis finds the same examples every time."""
    home = tempfile.mkdtemp(dir=homes)
    os.environ.update(HOME=home, XDG_STATE_HOME=f"{home}/state", XDG_CONFIG_HOME=f"{home}/config")
    warnings.simplefilter("error")
    from hypothesis import HealthCheck, settings

    settings.register_profile("house", deadline=None, derandomize=True, suppress_health_check=[HealthCheck.too_slow])
    settings.load_profile("house")


def run(name: str) -> Counts:
    start = time.monotonic()
    suite = unittest.TestLoader().loadTestsFromName(f"tests.{name.removeprefix('tests.')}")
    result = unittest.TextTestRunner(verbosity=0, warnings="error").run(suite)
    bad = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    print(f"{time.monotonic() - start:6.1f} s  {name}", flush=True)
    return result.testsRun, bad, len(result.skipped)
