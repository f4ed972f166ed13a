"""Materials as a sheet of a workbook: the rows of their table, values as numbers."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable

from omakase.core.materials.material import Material
from omakase.project.cells import plain_again
from omakase.project.material_table import COLUMNS, write_materials
from omakase.reports.sheets import Table, Value, workbook
from omakase.units import UnitSystem

VALUE = COLUMNS.index("value")


def material_workbook(materials: Iterable[Material], units: UnitSystem) -> bytes:
    """A workbook that reads back as the same materials."""
    text = write_materials(materials, units).decode("utf-8-sig")
    rows = list(csv.reader(io.StringIO(text, newline="")))
    return workbook([Table("Materials", tuple(rows[0]), tuple(_row(row) for row in rows[1:]))])


def _row(texts: list[str]) -> tuple[Value, ...]:
    return tuple(float(own) if k == VALUE else plain_again(own) for k, own in enumerate(texts))
