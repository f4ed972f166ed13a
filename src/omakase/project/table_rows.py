"""Rows of a table that a person made or this program wrote: CSV with comma, semicolon or tab, or a sheet of a workbook.

A heading may carry a unit behind a comma, as in "thickness, mm"; it is meant where a cell has none of its own.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator

import msgspec

from omakase.core.errors import OmakaseError
from omakase.project.cells import plain_again
from omakase.project.curve_file import CurveFileError
from omakase.project.workbook import read_sheets
from omakase.units import QuantityError, UnitSystem, parse_quantity

MOST_ROWS = 20_000


class TableError(OmakaseError):
    """A table that cannot be read at all."""


class Row(msgspec.Struct, frozen=True):
    """Cells by the first words of their headings, small letters; ``line`` counts from 1 with the heading."""

    line: int
    cells: dict[str, str]
    units: dict[str, str]

    def text(self, key: str) -> str:
        """A cell, empty where there is none."""
        return self.cells.get(key, "")

    def with_unit(self, key: str) -> str:
        """A cell with the unit of its heading, where it has none of its own."""
        text, unit = self.text(key), self.units.get(key, "")
        has_own = any(letter.isalpha() or letter in "°%µ" for letter in text)
        return f"{text} {unit}" if unit and not has_own else text

    def number(self, key: str, dimension: str, units: UnitSystem) -> float | None:
        """SI value of a cell, None where it is empty.  Raises TableError."""
        text = self.text(key)
        if not text:
            return None
        try:
            return parse_quantity(self.with_unit(key), dimension, units)
        except QuantityError as error:
            raise TableError(f"{key} '{text}': {error}") from None


def read_rows(data: bytes, name: str, needed: tuple[str, ...], without: tuple[str, ...] = ()) -> Iterator[Row]:
    """The rows of the first table with all ``needed`` headings and none of ``without``.  Raises TableError."""
    for records in _tables(data, name):
        head, *rest = records
        keys = _keys(head)
        if not set(needed) <= set(keys) or set(without) & set(keys):
            continue
        if len(rest) > MOST_ROWS:
            raise TableError(f"'{name}' has more than {MOST_ROWS} rows")
        units = {key: cell.partition(",")[2].strip() for key, cell in zip(keys, head, strict=True) if "," in cell}
        for line, record in enumerate(rest, 2):
            cells = {key: _clean(plain_again(cell)) for key, cell in zip(keys, record, strict=False)}
            if any(cells.values()):
                yield Row(line, cells, units)
        return
    raise TableError(f"'{name}' has no table with the columns {', '.join(needed)}")


def headings(data: bytes, name: str) -> list[set[str]]:
    """The headings of each table of a file, without its rows where it is CSV; none of what is no table."""
    first = data if name.lower().endswith(".xlsx") else data.partition(b"\n")[0]
    try:
        return [set(_keys(records[0])) for records in _tables(first, name)]
    except TableError:
        return []


def _keys(head: list[str]) -> list[str]:
    return [cell.split(",")[0].strip().casefold() for cell in head]


def _clean(cell: str) -> str:
    """Without signs that cannot be shown, nor space around."""
    return "".join(sign for sign in cell if sign.isprintable()).strip()


def _tables(data: bytes, name: str) -> Iterator[list[list[str]]]:
    if name.lower().endswith(".xlsx"):
        try:
            for _, text in read_sheets(data, name, lambda: False):
                yield list(csv.reader(io.StringIO(text), delimiter=";"))
        except CurveFileError as error:
            raise TableError(str(error)) from None
        return
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = data.decode("cp1252", errors="replace")
    first = text.partition("\n")[0]
    separator = max(",;\t", key=lambda sign: first.count(sign))
    try:
        records = list(csv.reader(io.StringIO(text), delimiter=separator))
    except csv.Error as error:
        raise TableError(f"'{name}' cannot be read as a table: {error}") from None
    if not records:
        raise TableError(f"'{name}' is empty")
    yield records
