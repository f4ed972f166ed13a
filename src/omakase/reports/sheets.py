"""Tables with numbers and units, as comma-separated values or as sheets of a workbook."""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Iterable

import msgspec

from omakase.core.progress import working_on
from omakase.project.cells import safe
from omakase.units import FIELD, UnitSystem, to_display

Value = str | float | int | None


class Table(msgspec.Struct, frozen=True):
    """A table: its ``name``, a head with units, and rows of text and numbers."""

    name: str
    head: tuple[str, ...]
    rows: tuple[tuple[Value, ...], ...]


def in_unit(value: float | None, dimension: str, units: UnitSystem) -> Value:
    """A number in the unit shown; an unlimited one as a word, since a sheet knows no infinity."""
    if value is None or math.isnan(value):
        return None
    return float(f"{to_display(value, dimension, units):.{FIELD}g}") if math.isfinite(value) else "unlimited"


def table_csv(table: Table) -> bytes:
    """UTF-8 with a byte-order mark; texts that a spreadsheet would take for a formula are made harmless."""
    text = io.StringIO(newline="")
    writer = csv.writer(text)
    writer.writerow(table.head)
    for row in table.rows:
        writer.writerow([_as_text(own) for own in row])
    return b"\xef\xbb\xbf" + text.getvalue().encode()


def _as_text(value: Value) -> str:
    if value is None:
        return ""
    return safe(value) if isinstance(value, str) else f"{value:.{FIELD}g}"


def workbook(tables: Iterable[Table]) -> bytes:
    """Tables as a workbook, one sheet each; texts stay texts."""
    from openpyxl import Workbook
    from openpyxl.styles import Font
    from openpyxl.utils import get_column_letter

    book = Workbook()
    book.remove(book.active)
    for table in tables:
        working_on(table.name)
        sheet = book.create_sheet(table.name)
        for k, row in enumerate((table.head, *table.rows), 1):
            for j, own in enumerate(row, 1):
                cell = sheet.cell(k, j)
                cell.value = own
                if isinstance(own, str):
                    cell.data_type = "s"  # a text that begins with = is no formula
                if k == 1:
                    cell.font = Font(bold=True)
        for j, name in enumerate(table.head, 1):
            longest = max([len(name), *(len(str(row[j - 1] or "")) for row in table.rows)])
            sheet.column_dimensions[get_column_letter(j)].width = min(longest + 2, 44)
        sheet.freeze_panes = "A2"
    stream = io.BytesIO()
    book.save(stream)
    return stream.getvalue()
