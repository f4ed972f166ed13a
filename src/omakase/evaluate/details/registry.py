"""The registry of kinds of details.  A new kind is one file with its ``KIND``, named in DETAIL_MODULES."""

from __future__ import annotations

import importlib
from collections.abc import Iterator, Mapping
from functools import cache

from omakase.core.details.detail import Detail as CoreDetail
from omakase.core.materials.material import Material
from omakase.evaluate.details.kind import DetailKind
from omakase.evaluate.members.drawing import Drawing
from omakase.evaluate.sizing.lever import Lever
from omakase.project.details import Detail
from omakase.project.model import Candidate
from omakase.units import UnitSystem

DETAIL_MODULES = ("fastener", "insert", "bond", "edge", "doubler", "impact")


@cache
def all_detail_kinds() -> dict[str, DetailKind]:
    """Every kind by its name in the file, in the order of DETAIL_MODULES."""
    kinds = [importlib.import_module(f"omakase.evaluate.details.{module}").KIND for module in DETAIL_MODULES]
    return {kind.name: kind for kind in kinds}


def detail_kind(detail: Detail) -> DetailKind:
    """The kind of a detail."""
    return next(kind for kind in all_detail_kinds().values() if kind.record is type(detail))


def detail_drawing(made: CoreDetail) -> Drawing | None:
    """A section through a detail; None for one that makes no sense."""
    return next((own for kind in all_detail_kinds().values() if (own := kind.drawing(made)) is not None), None)


def detail_levers(candidate: Candidate, materials: Mapping[str, Material], units: UnitSystem) -> Iterator[Lever]:
    """What may be changed about the details of a candidate that fails."""
    for index, detail in enumerate(candidate.details):
        yield from detail_kind(detail).levers(candidate, index, materials, units)
