"""The line-up as a table of comma-separated values, one column per candidate, as on the screen."""

from __future__ import annotations

import csv
import io
import math

from omakase.evaluate.results.lineup import Cell, LineUp, Row
from omakase.evaluate.results.wording import SOURCE_WORDS, findings_text, governing_text, layup_text, verdict
from omakase.project.cells import safe
from omakase.units import FIELD, UnitSystem, display_unit, to_display

STATUS = {"meets": "meets", "fails": "fails", "fact": "", "none": ""}


def _number(value: float | None, row: Row, units: UnitSystem) -> str:
    if value is None or not math.isfinite(value):
        return ""
    return f"{to_display(value, row.dimension, units):.{FIELD}g}"


def _limit(row: Row, units: UnitSystem) -> str:
    if row.limit is None:
        return ""
    numbers = " to ".join(_number(value, row, units) for value in row.limit)
    if len(row.limit) == 2:
        return f"outside {numbers}"
    return ("at most " if row.lower_is_better else "at least ") + numbers


def _difference(cell: Cell) -> str:
    return "" if cell.difference is None else f"{cell.difference * 100.0:.2f}"


def line_up_csv(lineup: LineUp, units: UnitSystem) -> bytes:
    """UTF-8 with a byte-order mark, which spreadsheets need to read it as such; a point is the decimal mark."""
    text = io.StringIO(newline="")
    writer = csv.writer(text)
    results = lineup.results
    writer.writerow(["", "unit", "limit", *(safe(r.candidate.name or r.candidate.id) for r in results)])
    writer.writerow(["Layup", "", "", *(safe(layup_text(r, units, materials=True)) for r in results)])
    baseline = lineup.brief.baseline
    writer.writerow(["Baseline", "", "", *("yes" if r.candidate.id == baseline else "" for r in results)])
    writer.writerow(["Verdict", "", "", *(safe(verdict(r)) for r in results)])
    for row in lineup.rows:
        unit = display_unit(row.dimension, units).label
        writer.writerow([row.title, unit, _limit(row, units), *(_number(cell.value, row, units) for cell in row.cells)])
        if row.limit is not None:
            writer.writerow([f"{row.title}: status", "", "", *(STATUS[cell.status] for cell in row.cells)])
        if any(cell.difference is not None for cell in row.cells):
            writer.writerow([f"{row.title}: from baseline", "%", "", *(_difference(cell) for cell in row.cells)])
        sources = [SOURCE_WORDS[cell.source] if cell.value is not None else "" for cell in row.cells]
        writer.writerow([f"{row.title}: rests on values", "", "", *sources])
    governing = [governing_text(r) if r.ok else ("", "") for r in results]
    writer.writerow(["Governing check, RF", "", "", *(safe(check) for check, _ in governing)])
    writer.writerow(["Governing place", "", "", *(safe(place) for _, place in governing)])
    findings = [" / ".join(findings_text(r, units)) for r in results]
    if any(findings):
        writer.writerow(["Findings", "", "", *(safe(text) for text in findings)])
    return b"\xef\xbb\xbf" + text.getvalue().encode("utf-8")
