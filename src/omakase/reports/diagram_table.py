"""Diagrams along the span as a table: a row for each load case, diagram and station."""

from __future__ import annotations

from omakase.core.errors import OmakaseError
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.results.diagrams import curves, has_span
from omakase.project.model import Brief
from omakase.reports.sheets import Table, Value, in_unit
from omakase.units import UnitSystem, display_unit


def diagram_table(brief: Brief, result: CandidateResult, units: UnitSystem) -> Table:
    """Every diagram of every load case.  Raises OmakaseError for a member without a span."""
    if not has_span(result):
        raise OmakaseError("diagrams are for members with a span")
    rows: list[tuple[Value, ...]] = []
    for index, case in enumerate(brief.load_cases):
        for curve in curves(brief, result, index):
            unit = display_unit(curve.dimension, units).label
            for x, value in zip(curve.x, curve.values, strict=True):
                place, shown = in_unit(float(x), "length", units), in_unit(float(value), curve.dimension, units)
                rows.append((case.name, curve.title, unit, place, shown))
    length = display_unit("length", units).label
    return Table("Diagrams", ("load case", "diagram", "unit", f"x, {length}", "value"), tuple(rows))
