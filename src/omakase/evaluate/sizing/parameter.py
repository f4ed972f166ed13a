"""A number of a candidate or its brief that may be studied."""

from __future__ import annotations

from collections.abc import Callable, Mapping

import msgspec

from omakase.core.materials.material import Material
from omakase.project.model import Brief, Candidate

State = tuple[Brief, Candidate, Mapping[str, Material]]


class Parameter(msgspec.Struct, frozen=True):
    """A number that may be studied: where it stands, over which range, and what sets it.

    ``dimension`` for display.  ``of_brief`` : it belongs to the brief; ``stored`` : it can be put back into the
    document, as a change of the candidate or the brief.  ``table`` : its study is shown as a table too.
    """

    key: str
    title: str
    dimension: str
    now: float
    low: float
    high: float
    put: Callable[[State, float], State]
    of_brief: bool = False
    stored: bool = True
    table: bool = False
