"""Specimens from a table: what was measured of each, by the name of its series and its own.

series,specimen,batch,"width, mm","thickness, mm","force, N","mass, g",place,manner
Floor bending,3,B,50.1,12.4,1180,88,face,
"""

from __future__ import annotations

from collections.abc import Sequence

from omakase.core.specimens.registry import all_methods
from omakase.project.commands import ArrangeSeries, replace
from omakase.project.material_table import LineError
from omakase.project.model import Project, Reading, Series, Specimen, new_id
from omakase.project.series import dated
from omakase.project.table_rows import Row, TableError, read_rows
from omakase.units import QuantityError, UnitSystem, parse_reading

NEEDED = ("series", "specimen")
RESULTS = ("formula",)  # a heading of the table of results, which is no input


def read_specimens(
    data: bytes, name: str, project: Project, day: str
) -> tuple[ArrangeSeries | None, int, list[LineError]]:
    """Command that changes the specimens named and adds those that are new, how many rows it takes, and what is wrong
    by line.  A curve or log that a specimen has is kept.  Raises TableError for what is no such table."""
    series = {own.name: own for own in project.series}
    errors: list[LineError] = []
    taken = 0
    for row in read_rows(data, name, NEEDED, RESULTS):
        own = series.get(row.text("series"))
        try:
            if own is None:
                raise TableError(f"there is no series '{row.text('series')}'")
            if not row.text("specimen"):
                raise TableError("no name of a specimen")
            series[own.name] = _changed(own, row, project.units)
            taken += 1
        except (TableError, QuantityError) as error:
            errors.append(LineError(row.line, str(error)))
    new = tuple(dated(old, series[old.name], day) for old in project.series)
    if new == project.series:
        return None, taken, errors
    return ArrangeSeries(project.series, new, "bring in specimens"), taken, errors


def _changed(series: Series, row: Row, units: UnitSystem) -> Series:
    specimens = list(series.specimens)
    at = next((k for k, own in enumerate(specimens) if own.name == row.text("specimen")), len(specimens))
    if at == len(specimens):
        specimens.append(Specimen(new_id("p", {own.id for own in specimens}), row.text("specimen")))
    own = specimens[at]
    sizes = dict(own.sizes)
    for size in all_methods()[series.method].sizes:
        for key in (size.key, size.label.casefold()):
            value = row.number(key, size.dimension, units)
            if value is not None:
                sizes[size.key] = value
    texts = {key: row.text(key) for key in ("batch", "place", "manner") if row.text(key)}
    specimens[at] = replace(own, sizes=sizes, force=_reading(row, "force", own.force, units),
                            mass=_reading(row, "mass", own.mass, units), **texts)  # fmt: skip
    if specimens[at].force is not None and (own.curve is not None or own.log):
        specimens[at] = replace(specimens[at], force=None)  # what it carried is in its curve or log
    return replace(series, specimens=tuple(specimens))


def _reading(row: Row, key: str, before: Reading | None, units: UnitSystem) -> Reading | None:
    if not row.text(key):
        return before
    typed = row.with_unit(key)
    value, half = parse_reading(typed, key, units)
    return Reading(value, half, typed)


def specimen_columns(project: Project) -> Sequence[tuple[str, str]]:
    """(size, dimension) of every size that a series of the project asks for, in order."""
    found: dict[str, str] = {}
    for series in project.series:
        for size in all_methods()[series.method].sizes:
            found.setdefault(size.key, size.dimension)
    return tuple(found.items())
