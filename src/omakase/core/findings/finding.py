"""What a rule is given and what it returns."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol

import msgspec

from omakase.core.checks.result import CheckResult
from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material


class Measure(msgspec.Struct, frozen=True):
    """A number in SI units that a sentence speaks of as {name}; ``given`` is to be shown as a person gave it."""

    name: str
    value: float
    dimension: str
    given: bool = False


class Finding(msgspec.Struct, frozen=True):
    """Something to know before the layup is built: ``text`` says what, ``reason`` why, ``fix`` what would help.

    ``layers`` are indices from face A; ``measures`` what stands for {name} in ``text`` and ``fix``, whose units are the
    reader's.  One rule finds at most one thing in a layup, so that a person can accept it.
    """

    rule: str
    text: str
    reason: str
    fix: str
    layers: tuple[int, ...] = ()
    measures: tuple[Measure, ...] = ()


class Surroundings(msgspec.Struct, frozen=True):
    """Where the part works: highest ``temperature`` in K, ``wet`` or dry, an ``aerial`` that must see through it.

    ``open_edge``: an edge that nothing holds, so that the core is seen there.  ``radius``: tightest bend of the part in
    m, None where it is flat.  ``twisted``: carries twist.  ``closed``: a closed section, which keeps
    its wall from bending.  ``runs`` : from where to where each layer runs along a span of ``length`` m; empty for all.
    """

    temperature: float = 296.15
    wet: bool = False
    aerial: bool = False
    open_edge: bool = False
    radius: float | None = None
    twisted: bool = False
    closed: bool = False
    runs: tuple[tuple[float, float], ...] = ()
    length: float = 0.0


class Rule(Protocol):
    """Looks at a stack, at what its checks gave and where it works; None where there is nothing to say."""

    def __call__(
        self, stack: Stack, checks: Sequence[CheckResult], surroundings: Surroundings, /
    ) -> Finding | None: ...


def is_metallic(material: Material) -> bool:
    """Metal in sheets, or a core that states that it conducts; of one that states nothing the name decides."""
    if "conductive" in material.properties:
        return material.is_metal or material.value("conductive") > 0.0
    return material.is_metal or (material.family == "honeycomb" and "alumin" in material.name.lower())


def names(layers: Sequence[int]) -> str:
    """'layers 2 and 3' for a sentence, counted from 1."""
    numbers = [str(i + 1) for i in layers]
    if len(numbers) == 1:
        return f"layer {numbers[0]}"
    return f"layers {', '.join(numbers[:-1])} and {numbers[-1]}"
