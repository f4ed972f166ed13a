"""The registry of checks.  A new failure mode is one file with a decorated function, named in CHECK_MODULES."""

from __future__ import annotations

import importlib
from collections.abc import Callable

import msgspec

from omakase.core.checks.result import Check, CheckResult, Context

CHECK_MODULES = (
    "face_failure",
    "interlaminar_shear",
    "core_shear",
    "wrinkling",
    "dimpling",
    "crimping",
    "core_crushing",
    "indentation",
    "limits",
)


class Registration(msgspec.Struct, frozen=True):
    """A check's identity, what it is in one sentence, the published basis and the range of validity."""

    name: str
    summary: str
    basis: str
    validity: str
    run: Check


_registered: dict[str, Registration] = {}


def register(name: str, summary: str, basis: str, validity: str) -> Callable[[Check], Check]:
    """Decorator that puts a check on the list."""

    def decorate(check: Check) -> Check:
        _registered[name] = Registration(name, summary, basis, validity, check)
        return check

    return decorate


def all_checks() -> dict[str, Registration]:
    """Every registered check by name, in the order of CHECK_MODULES."""
    for module in CHECK_MODULES:
        importlib.import_module(f"omakase.core.checks.{module}")
    # registered as imported, which may have been in another order
    order = {f"omakase.core.checks.{module}": place for place, module in enumerate(CHECK_MODULES)}
    return dict(sorted(_registered.items(), key=lambda item: order[item[1].run.__module__]))


def run_all(context: Context) -> list[CheckResult]:
    """All results of all checks, worst first by reserve factor over what is required."""
    results = [result for registration in all_checks().values() for result in registration.run(context)]
    return sorted(results, key=lambda result: result.reserve_factor / result.required)
