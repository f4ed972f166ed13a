"""Series of tests as comma-separated values: a line for each specimen of each series, and one for each statistic."""

from __future__ import annotations

import csv
import io
from pathlib import Path

from omakase.evaluate.testing.reducing import Reducer, SeriesReport
from omakase.project.cells import plain_again, safe
from omakase.project.disk import write_atomically
from omakase.project.model import Project
from omakase.project.series import sizes_of
from omakase.project.specimen_table import specimen_columns
from omakase.reports.sheets import Table, Value, in_unit, workbook
from omakase.units import FIELD, UnitSystem, display_unit, to_display

HEAD = (
    "series",
    "method",
    "specimen",
    "batch",
    "place",
    "manner",
    "worth",
    "why",
    "number",
    "unit",
    "value",
    "to",
    "formula",
)


def series_csv(project: Project) -> bytes:
    """UTF-8 with a byte-order mark.  ``to`` : empty for a single value, "at least", or the end of an interval."""
    text = io.StringIO(newline="")
    writer = csv.writer(text)
    writer.writerow(HEAD)
    reducer = Reducer()
    for series in project.series:
        report = reducer.report(series)
        if report is not None:
            writer.writerows(_rows(report, project.units))
    return b"\xef\xbb\xbf" + text.getvalue().encode()


def _rows(report: SeriesReport, units: UnitSystem) -> list[list[str]]:
    def shown(value: float, dimension: str) -> str:
        return f"{to_display(value, dimension, units):.{FIELD}g}"

    rows = []
    head = [safe(report.series.name), report.method.name]
    for one in report.specimens:
        specimen = one.specimen
        start = [
            *head,
            safe(specimen.name),
            safe(specimen.batch),
            specimen.place,
            safe(specimen.manner),
            one.verdict,
            safe(one.error or one.why),
        ]
        for result in one.reduction.results if one.reduction is not None else ():
            unit = display_unit(result.dimension, units).label
            seen = one.observation(result.key)
            to = ""
            if seen is None or seen.lower != seen.upper:
                upper = result.upper if seen is None else seen.upper
                to = "at least" if upper == float("inf") else shown(upper, result.dimension)
            rows.append([*start, result.title, unit, shown(result.lower, result.dimension), to, safe(result.formula)])
        if one.reduction is None:
            rows.append([*start, "", "", "", "", ""])
    for key, summary in report.summaries.items():
        title = report.titles[key]
        unit = display_unit(title.dimension, units).label
        values = [("mean", summary.mean), ("least", summary.minimum), ("deviation", summary.deviation)]
        values += [(f"{name}-basis, k = {basis[1]:.3f}", basis[0]) for name, basis in summary.basis.items()]
        for name, value in values:
            if value is not None:
                shown_value = f"{value / display_unit(title.dimension, units).factor:.{FIELD}g}"
                rows.append(
                    [*head, f"{name} of {summary.n}", "", "", "", "", "", title.title, unit, shown_value, "", ""]
                )
    return rows


def write_series(target: Path, project: Project) -> None:
    """Writes ``target`` as .xlsx, or as .csv whatever else it ends in.  Raises WriteError."""
    as_sheet = target.suffix.lower() == ".xlsx"
    tables = series_table(project), specimens_table(project)
    write_atomically(target, workbook(tables) if as_sheet else series_csv(project))


def specimens_table(project: Project) -> Table:
    """What was measured of each specimen, as ``project.specimen_table`` reads it back; curves and logs stand in files
    of their own."""
    units = project.units
    sizes = specimen_columns(project)
    measures = (f"{key}, {display_unit(dimension, units).label}" for key, dimension in sizes)
    head = ("series", "specimen", "batch", *measures,
            f"force, {display_unit('force', units).label}", f"mass, {display_unit('mass', units).label}", "place",
            "manner")  # fmt: skip
    rows: list[tuple[Value, ...]] = []
    for series in project.series:
        for own in series.specimens:
            known = sizes_of(series, own)
            rows.append((
                series.name, own.name, own.batch,
                *(in_unit(known.get(key), dimension, units) for key, dimension in sizes),
                in_unit(own.force.value if own.force is not None else None, "force", units),
                in_unit(own.mass.value if own.mass is not None else None, "mass", units), own.place, own.manner,
            ))  # fmt: skip
    return Table("Specimens", head, tuple(rows))


def series_table(project: Project) -> Table:
    """The same as a table whose values are numbers."""
    reducer = Reducer()
    rows: list[tuple[Value, ...]] = []
    for series in project.series:
        report = reducer.report(series)
        for texts in _rows(report, project.units) if report is not None else ():
            *start, value, to, formula = (plain_again(text) for text in texts)
            rows.append((*start, _number(value), _number(to), formula))
    return Table("Results", HEAD, tuple(rows))


def _number(text: str) -> Value:
    try:
        return float(text)
    except ValueError:
        return text
