"""What a rule is given and what it returns."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol

import msgspec

from omakase.core.checks.result import CheckResult
from omakase.core.laminate.stack import Stack


class Finding(msgspec.Struct, frozen=True):
    """Something to know before the layup is built: ``text`` says what, ``reason`` why, ``fix`` what would help.

    ``layers`` are indices from face A.  One rule finds at most one thing in a layup, so that a person can accept it.
    """

    rule: str
    text: str
    reason: str
    fix: str
    layers: tuple[int, ...] = ()


class Rule(Protocol):
    """Looks at a stack and at what its checks gave; None where there is nothing to say."""

    def __call__(self, stack: Stack, checks: Sequence[CheckResult], /) -> Finding | None: ...


def names(layers: Sequence[int]) -> str:
    """'layers 2 and 3' for a sentence, counted from 1."""
    numbers = [str(i + 1) for i in layers]
    if len(numbers) == 1:
        return f"layer {numbers[0]}"
    return f"layers {', '.join(numbers[:-1])} and {numbers[-1]}"
