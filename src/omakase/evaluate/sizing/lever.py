"""A lever: what may be changed about a candidate, and what it can be set to."""

from __future__ import annotations

from typing import Literal

import msgspec

from omakase.project.model import Brief, Candidate

Wanted = Literal["steps", "first", "lightest", "better"]


class Option(msgspec.Struct, frozen=True):
    """One setting of a lever; ``brief`` is another one where the lever changes that instead of the candidate."""

    text: str
    candidate: Candidate
    brief: Brief | None = None


class Lever(msgspec.Struct, frozen=True):
    """A lever and its settings; ``title`` says it when none will do.

    ``wanted`` : of *steps* of a growing change the smallest that passes (the last before one fails, on the way down);
    the *first* of a few that passes; the *lightest*; or one that passes with a *better* least reserve.
    """

    name: str
    title: str
    options: tuple[Option, ...]
    wanted: Wanted = "lightest"
