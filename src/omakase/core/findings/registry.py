"""The registry of rules.  A new finding is one file with a decorated function, named in RULE_MODULES."""

from __future__ import annotations

import importlib
from collections.abc import Callable, Sequence
from functools import cache

import msgspec

from omakase.core.checks.result import CheckResult
from omakase.core.findings.details import DETAIL_RULES
from omakase.core.findings.finding import Finding, Rule, Surroundings
from omakase.core.laminate.stack import Stack

RULE_MODULES = (
    "carbon_on_metal",
    "one_axis",
    "unsymmetric",
    "unbalanced",
    "stiff_on_wood",
    "ribbon",
    "resin_share",
    "satin_sides",
    "aerial",
    "heat",
    "sanding_ply",
    "open_edge",
    "not_sold",
    "drape",
    "twist",
    "ply_drops",
)

EVERYDAY = Surroundings()


def told_of(rule: str) -> tuple[str, str]:
    """(what it looks for, its basis) of a rule as a finding names it, perhaps with the detail that it is about."""
    name = rule.partition(":")[0]
    known = all_rules().get(name) or DETAIL_RULES[name]
    return known.summary, known.basis


class Registration(msgspec.Struct, frozen=True):
    """A rule's identity, what it looks for, and its basis."""

    name: str
    summary: str
    basis: str
    run: Rule


_registered: dict[str, Registration] = {}


def register(name: str, summary: str, basis: str) -> Callable[[Rule], Rule]:
    """Decorator that puts a rule on the list."""

    def decorate(rule: Rule) -> Rule:
        _registered[name] = Registration(name, summary, basis, rule)
        return rule

    return decorate


def all_rules() -> dict[str, Registration]:
    """Every registered rule by name, in the order of RULE_MODULES."""
    _import_rules()
    order = {f"omakase.core.findings.{module}": place for place, module in enumerate(RULE_MODULES)}
    return dict(sorted(_registered.items(), key=lambda item: order[item[1].run.__module__]))


@cache
def _import_rules() -> None:
    for module in RULE_MODULES:
        importlib.import_module(f"omakase.core.findings.{module}")


def find_all(
    stack: Stack, checks: Sequence[CheckResult] = (), surroundings: Surroundings = EVERYDAY
) -> tuple[Finding, ...]:
    """All findings of all rules."""
    batches = (registration.run(stack, checks, surroundings) for registration in all_rules().values())
    return tuple(finding for finding in batches if finding is not None)
