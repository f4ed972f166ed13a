"""The whole force of a load case, as a test or a measured part knows it."""

from __future__ import annotations

from omakase.project import edits, translate
from omakase.project.model import Brief, LoadCase
from omakase.project.panels import PanelMember, PatchLoad, PressureLoad
from omakase.project.spans import ForceLoad, LiftLoad, SpreadLoad, TipLoad


def total_force(brief: Brief, case: LoadCase) -> float:
    """Force in N that a load case presses on the member with; own weight is there anyway and not counted."""
    member, total = brief.member, 0.0
    for load in edits.acting(case).loads:
        if isinstance(load, PressureLoad) and isinstance(member, PanelMember):
            total += load.pressure * translate.panel(brief).plan_area
        elif isinstance(load, PatchLoad | ForceLoad):
            total += load.force
        elif isinstance(load, SpreadLoad):
            total += (load.start + load.end) / 2.0 * (load.high - load.low)
        elif isinstance(load, LiftLoad):
            total += load.total  # upward: the part is turned over for its test
        elif isinstance(load, TipLoad):
            total += load.opening
    return total
