"""Sheets of a workbook as text, within bounds: the size that a file states is not believed, blank rows do not count."""

from __future__ import annotations

import csv
import io
import zipfile
from collections.abc import Iterator

from omakase.project.curve_file import CurveFileError, Stop, StoppedError

MAX_SHEET, MAX_STRINGS, MAX_PART = 80_000_000, 6_000_000, 20_000_000  # bytes, unpacked
MAX_COLUMNS = 100
BLANK_RUN = 2_000  # empty rows after which nothing is expected to follow


def read_sheets(data: bytes, name: str, stop: Stop) -> Iterator[tuple[str, str]]:
    """(title, rows as lines with ";") of each filled sheet.

    Raises CurveFileError for what is no workbook, or too large a one; StoppedError soon after ``stop`` says so.
    """
    for title, rows in _sheets(data, name, stop):
        yield title, _as_text(rows)


def sheet_as_csv(data: bytes, name: str) -> bytes:
    """The first filled sheet of a workbook as comma-separated values.  Raises CurveFileError."""
    for _, rows in _sheets(data, name, lambda: False):
        text = io.StringIO(newline="")
        csv.writer(text).writerows([["" if own is None else own for own in row] for row in rows])
        return text.getvalue().encode("utf-8")
    raise CurveFileError(f"'{name}' has no filled sheet")


def _sheets(data: bytes, name: str, stop: Stop) -> Iterator[tuple[str, list[tuple[object, ...]]]]:
    """(title, rows) of each filled sheet."""
    _check_size(data, name)
    import openpyxl

    try:
        book = openpyxl.load_workbook(io.BytesIO(data), read_only=True, data_only=True, keep_links=False)
        for sheet in book.worksheets:
            rows = _filled(sheet, stop)
            if rows:
                yield sheet.title, rows
    except (CurveFileError, StoppedError):
        raise
    except Exception as error:  # the package raises what the zip and XML parsers below it raise
        raise CurveFileError(f"'{name}' is not a workbook that can be read: {str(error)[:200]}") from None


def _check_size(data: bytes, name: str) -> None:
    try:
        parts = zipfile.ZipFile(io.BytesIO(data)).infolist()
    except (zipfile.BadZipFile, ValueError, NotImplementedError, OSError) as error:
        raise CurveFileError(f"'{name}' is not a workbook that can be read: {error}") from None
    for part in parts:
        lower = part.filename.lower()
        most = MAX_SHEET if "worksheets/" in lower else MAX_STRINGS if "sharedstrings" in lower else MAX_PART
        if part.file_size > most and lower.endswith((".xml", ".rels")):
            raise CurveFileError(
                f"'{name}' unpacks to {part.file_size / 1e6:.0f} MB in {part.filename[-60:]}; {most / 1e6:.0f} MB are "
                "read. Export the table as CSV."
            )


def _filled(sheet: object, stop: Stop) -> list[tuple[object, ...]]:
    """Rows up to the last filled one, or up to a long run of empty ones."""
    sheet.reset_dimensions()  # type: ignore[attr-defined]  # a stated range may be of any size
    rows: list[tuple[object, ...]] = []
    last = 0
    for count, row in enumerate(sheet.iter_rows(values_only=True, max_col=MAX_COLUMNS)):  # type: ignore[attr-defined]
        if count % 1024 == 0 and stop():
            raise StoppedError("given up")
        rows.append(row)
        if any(cell is not None for cell in row):
            last = len(rows)
        elif len(rows) - last > BLANK_RUN:
            break
    return rows[:last]


def _as_text(rows: list[tuple[object, ...]]) -> str:
    """Lines of the columns that hold a number or a time somewhere, or of all where none does."""
    width = max(map(len, rows))
    filled = [i for i in range(width) if any(len(row) > i and row[i] is not None for row in rows)]
    return "\n".join(";".join(_cell(row[i]) if len(row) > i else "" for i in filled) for row in rows)


def _cell(value: object) -> str:
    if isinstance(value, bool):
        return str(value)
    if isinstance(value, float):
        return repr(value)
    return "" if value is None else str(value).replace(";", ",").replace("\n", " ").replace("\r", " ")
