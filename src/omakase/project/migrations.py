"""Stepwise migrations of older files.  Each takes the plain records of one version to the next."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from omakase.project.model import VERSION

Records = dict[str, Any]


def from_version_0(records: Records) -> Records:
    """Version 0, never released: one panel per file, its brief at the top level."""
    brief = records.pop("brief", {})
    records["briefs"] = [brief] if brief else []
    records["version"] = 1
    return records


def from_version_1(records: Records) -> Records:
    """Version 1: candidates without accepted findings, which take their default."""
    records["version"] = 2
    return records


def from_version_2(records: Records) -> Records:
    """Version 2: no surroundings, samples, sides of layers, builds or recipes, which take their defaults."""
    records["version"] = 3
    return records


def from_version_3(records: Records) -> Records:
    """Version 3: no series of tests and nothing accepted from them."""
    records["version"] = 4
    return records


def from_version_4(records: Records) -> Records:
    """Version 4: specimens without a batch, cloths of one fibre, which take their defaults."""
    records["version"] = 5
    return records


def from_version_5(records: Records) -> Records:
    """Version 5: panels only, so that no candidate had a form, a zone or a limit on turns; they take their defaults."""
    records["version"] = 6
    return records


def from_version_6(records: Records) -> Records:
    """Version 6: one wall in every member, and load cases without a factor; they take their defaults."""
    records["version"] = 7
    return records


def from_version_7(records: Records) -> Records:
    """Version 7: flat panels whose edges may spread, without forces along them; they take their defaults."""
    records["version"] = 8
    return records


def from_version_8(records: Records) -> Records:
    """Version 8: panels held by their edges only, without ribs; they take their defaults."""
    records["version"] = 9
    return records


def from_version_9(records: Records) -> Records:
    """Version 9: all panels are rectangles."""
    records["version"] = 10
    return records


def from_version_10(records: Records) -> Records:
    """Version 10: no vehicles, their quantities, formulas or decisions, and no legs, brackets or measured parts."""
    records["version"] = 11
    return records


def from_version_11(records: Records) -> Records:
    """Version 11: no ribs and no lifting surfaces."""
    records["version"] = 12
    return records


def from_version_12(records: Records) -> Records:
    """Version 12: no details."""
    records["version"] = 13
    return records


def from_version_13(records: Records) -> Records:
    """Version 13: no shop and no jobs."""
    records["version"] = 14
    return records


def from_version_14(records: Records) -> Records:
    """Version 14: no second opinions."""
    records["version"] = 15
    return records


MIGRATIONS: dict[int, Callable[[Records], Records]] = {
    0: from_version_0, 1: from_version_1, 2: from_version_2, 3: from_version_3, 4: from_version_4,
    5: from_version_5, 6: from_version_6, 7: from_version_7, 8: from_version_8, 9: from_version_9,
    10: from_version_10, 11: from_version_11, 12: from_version_12, 13: from_version_13,
    14: from_version_14,
}  # fmt: skip


def migrate(records: Records, version: int) -> Records:
    """Records of ``version`` brought to the present version, one step at a time."""
    while version < VERSION:
        records = MIGRATIONS[version](records)
        version += 1
    return records
