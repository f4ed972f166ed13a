"""A line-up as tables with numbers: what stands in it, every check, every layer."""

from __future__ import annotations

from collections.abc import Iterator

from omakase.evaluate.results.lineup import LineUp
from omakase.evaluate.results.wording import SOURCE_WORDS, layup_text, verdict
from omakase.reports.sheets import Table, Value, in_unit
from omakase.units import UnitSystem, display_unit


def line_up_tables(lineup: LineUp, units: UnitSystem) -> Iterator[Table]:
    """The line-up, its checks and its layers."""
    yield _line_up(lineup, units)
    yield _checks(lineup, units)
    yield layers_table(lineup, units)


def _line_up(lineup: LineUp, units: UnitSystem) -> Table:
    results = lineup.results
    names = tuple(own.candidate.name or own.candidate.id for own in results)
    rows: list[tuple[Value, ...]] = [
        ("Layup", "", None, None, *(layup_text(own, units, materials=True) for own in results)),
        ("Verdict", "", None, None, *(verdict(own) for own in results)),
    ]
    for row in lineup.rows:
        limit = row.limit or ()
        least, most = (None, None) if not limit else (limit if len(limit) == 2 else (
            (None, limit[0]) if row.lower_is_better else (limit[0], None)
        ))  # fmt: skip
        rows.append((
            row.title, display_unit(row.dimension, units).label, in_unit(least, row.dimension, units),
            in_unit(most, row.dimension, units), *(in_unit(cell.value, row.dimension, units) for cell in row.cells),
        ))  # fmt: skip
    head = ("quantity", "unit", "at least, or outside from", "at most, or outside to", *names)
    return Table("Line-up", head, tuple(rows))


def _checks(lineup: LineUp, units: UnitSystem) -> Table:
    length = display_unit("length", units).label
    head = ("candidate", "check", "wall or detail", "load case", "value", "allowable", "unit", "reserve factor",
            "required", "passes", f"x, {length}", f"y, {length}", "rests on", "method")  # fmt: skip
    rows: list[tuple[Value, ...]] = []
    for result in lineup.results:
        for own in result.checks:
            rows.append((
                result.candidate.name or result.candidate.id, own.title, own.detail_name or own.wall, own.load_case,
                in_unit(own.value, own.dimension, units), in_unit(own.allowable, own.dimension, units),
                display_unit(own.dimension, units).label, in_unit(own.reserve_factor, "ratio", units),
                own.required,
                "yes" if own.passes else "no", in_unit(own.place.x, "length", units),
                in_unit(own.place.y, "length", units), SOURCE_WORDS[own.source], own.method,
            ))  # fmt: skip
    return Table("Checks", head, tuple(rows))


def layers_table(lineup: LineUp, units: UnitSystem) -> Table:
    """Every layer of every candidate, as ``project.candidate_table`` reads it back."""
    head = ("candidate", "layer", "wall", "zone", "material", "angle, °",
            f"thickness, {display_unit('length', units).label}", "role", "counted on")  # fmt: skip
    rows: list[tuple[Value, ...]] = []
    for result in lineup.results:
        zones = {zone.id: zone.name for zone in result.candidate.zones}
        for i, own in enumerate(result.candidate.layers):
            rows.append((
                result.candidate.name or result.candidate.id, i + 1, own.wall, zones.get(own.zone, own.zone),
                own.material,
                own.angle, in_unit(own.thickness, "length", units), own.role, "yes" if own.structural else "no",
            ))  # fmt: skip
    return Table("Layers", head, tuple(rows))
