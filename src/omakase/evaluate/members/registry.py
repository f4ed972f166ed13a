"""The registry of kinds of members.  A new kind is one file with its ``KIND``, named in MEMBER_MODULES."""

from __future__ import annotations

import importlib
from functools import cache

from omakase.evaluate.members.kind import MemberKind
from omakase.project.model import Brief, Member

MEMBER_MODULES = ("panel", "strip", "leg", "bracket", "tube", "spar", "rib", "surface")


@cache
def all_kinds() -> dict[str, MemberKind]:
    """Every kind by its name in the file, in the order of MEMBER_MODULES."""
    kinds = [importlib.import_module(f"omakase.evaluate.members.{module}").KIND for module in MEMBER_MODULES]
    return {kind.name: kind for kind in kinds}


@cache
def _by_record() -> dict[type, MemberKind]:
    return {kind.member: kind for kind in all_kinds().values()}


def kind_of(where: Brief | Member) -> MemberKind:
    """The kind of a member, or of a brief's member."""
    return _by_record()[type(where.member if isinstance(where, Brief) else where)]
