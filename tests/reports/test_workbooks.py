"""Line-up, tests and materials as workbooks, read back by another library; texts stay texts, numbers numbers."""

from __future__ import annotations

import csv
import io
import tempfile
import unittest
from pathlib import Path

import openpyxl

from omakase.evaluate.results.lineup import LineUp
from omakase.evaluate.results.records import evaluate_brief
from omakase.project.commands import replace
from omakase.project.library import materials_of, stated_materials
from omakase.project.material_table import read_materials
from omakase.project.workbook import sheet_as_csv
from omakase.reports.line_up_tables import line_up_tables
from omakase.reports.material_sheet import material_workbook
from omakase.reports.series_table import series_csv, write_series
from omakase.reports.sheets import workbook
from omakase.reports.write import write_report
from tests.support import EVALUATOR, demo_project

HOSTILE = '=HYPERLINK("x")'


def line_up(units: str = "si") -> tuple[LineUp, object]:
    project = replace(demo_project(), units=units)
    brief = next(own for own in project.briefs if own.id == "b12")
    candidates = (replace(brief.candidates[0], name=HOSTILE), *brief.candidates[1:])
    return evaluate_brief(project, replace(brief, candidates=candidates), EVALUATOR), project


class LineUps(unittest.TestCase):
    def test_the_sheets_hold_what_the_line_up_says(self) -> None:
        results, _ = line_up()
        book = openpyxl.load_workbook(io.BytesIO(workbook(line_up_tables(results, "si"))))
        self.assertEqual(book.sheetnames, ["Line-up", "Checks", "Layers"])
        rows = {row[0]: row for row in book["Line-up"].iter_rows(values_only=True)}
        self.assertEqual(rows["quantity"][4], HOSTILE)
        for row in results.rows:
            for cell, shown in zip(row.cells, rows[row.title][4:], strict=True):
                if cell.value is not None and row.key == "mass":
                    self.assertAlmostEqual(shown, cell.value, places=5)
        checks = list(book["Checks"].iter_rows(min_row=2, values_only=True))
        self.assertEqual(len(checks), sum(len(own.checks) for own in results.results))
        for row, own in zip(checks, (check for result in results.results for check in result.checks), strict=True):
            if isinstance(row[7], float):
                self.assertAlmostEqual(row[7] / own.reserve_factor, 1.0, places=4)
            self.assertEqual(row[9], "yes" if own.passes else "no")
        layers = list(book["Layers"].iter_rows(min_row=2, values_only=True))
        self.assertEqual(len(layers), sum(len(own.candidate.layers) for own in results.results))
        self.assertTrue(all(cell.data_type != "f" for sheet in book for row in sheet.iter_rows() for cell in row))

    def test_inch_pound_by_the_ending_of_the_name(self) -> None:
        results, project = line_up("inch_pound")
        with tempfile.TemporaryDirectory() as folder:
            target = Path(folder) / "line-up.xlsx"
            write_report(target, project, results)
            units = {row[0]: row[1] for row in openpyxl.load_workbook(target)["Line-up"].iter_rows(values_only=True)}
        self.assertEqual(units["Mass"], "lb")


class Tests(unittest.TestCase):
    def test_a_row_for_each_number(self) -> None:
        project = demo_project()
        with tempfile.TemporaryDirectory() as folder:
            target = Path(folder) / "tests.xlsx"
            write_series(target, project)
            rows = list(openpyxl.load_workbook(target)["Results"].iter_rows(values_only=True))
        table = list(csv.reader(io.StringIO(series_csv(project).decode("utf-8-sig"))))
        self.assertEqual({len(row) for row in table}, {len(rows[0])})  # means and bases stand in the same columns
        self.assertEqual(len(rows), len(table))
        values = [row[rows[0].index("value")] for row in rows[1:]]
        self.assertGreater(sum(isinstance(own, float | int) for own in values), 50)


class Materials(unittest.TestCase):
    def test_what_is_written_is_read_again(self) -> None:
        project = demo_project()
        wanted = [stated_materials(project)[name] for name in ("twill200", "pvc80", "c-twill200", "ep-slow", "al6082")]
        data = material_workbook([materials_of(project)[own.id] for own in wanted], "si")
        read, errors = read_materials(sheet_as_csv(data, "materials.xlsx"), "si", {})
        self.assertEqual(errors, [])
        for before, after in zip(wanted, read, strict=True):
            self.assertEqual((before.id, before.kind, before.build, before.recipe),
                             (after.id, after.kind, after.build, after.recipe))  # fmt: skip
            for key, own in before.properties.items():
                self.assertAlmostEqual(after.value(key) / own.value if own.value else 1.0, 1.0, places=8)
                self.assertEqual((after.properties[key].source, after.properties[key].note), (own.source, own.note))


if __name__ == "__main__":
    unittest.main()
