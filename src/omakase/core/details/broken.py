"""A detail that cannot be judged, which keeps its candidate from passing."""

from __future__ import annotations

import msgspec

from omakase.core.details.detail import Site


class BrokenDetail(msgspec.Struct, frozen=True, eq=False):
    """A detail, and in words what is wrong with it."""

    key: str
    name: str
    site: Site
    problem: str
