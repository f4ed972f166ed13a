"""What goes on paper and into spreadsheets says what the line-up says."""

from __future__ import annotations

import csv
import io
import re
import tempfile
import unittest
import zlib
from base64 import a85decode
from functools import cache
from pathlib import Path

from omakase.core.errors import OmakaseError
from omakase.evaluate.results.lineup import LineUp
from omakase.evaluate.results.records import evaluate_brief
from omakase.project import edits
from omakase.project.commands import replace
from omakase.project.demo import demo_project
from omakase.reports.page import line_up_pdf
from omakase.reports.table import line_up_csv, safe
from omakase.reports.write import write_report
from tests.support import EVALUATOR


@cache
def line_up() -> LineUp:
    project = demo_project()
    return evaluate_brief(project, project.briefs[0], EVALUATOR)


def rows(data: bytes) -> dict[str, list[str]]:
    return {row[0]: row[1:] for row in csv.reader(io.StringIO(data.decode("utf-8-sig")))}


def pages(data: bytes) -> int:
    return len(re.findall(rb"/Type /Page\b", data))


class Spreadsheet(unittest.TestCase):
    def test_values_units_and_limits(self) -> None:
        table = rows(line_up_csv(line_up(), "si"))
        self.assertEqual(table["Deflection"][:2], ["mm", "at most 6"])
        for text, cell in zip(table["Deflection"][2:], line_up().rows[0].cells, strict=True):
            self.assertAlmostEqual(float(text) * 1e-3 / cell.value, 1.0, delta=1e-5)
        self.assertEqual(table["Mass: status"][2:], ["fails"] + ["meets"] * 4)
        self.assertEqual({len(row) for row in table.values()}, {7})

    def test_inch_pound(self) -> None:
        table = rows(line_up_csv(line_up(), "inch_pound"))
        self.assertEqual(table["Mass"][0], "lb")
        self.assertAlmostEqual(float(table["Mass"][2]) * 0.45359237 / line_up().rows[3].cells[0].value, 1.0, delta=1e-5)

    def test_no_name_becomes_a_formula(self) -> None:
        self.assertEqual(safe("=HYPERLINK(1)"), "'=HYPERLINK(1)")
        self.assertEqual(safe("Thicker foam"), "Thicker foam")


class Page(unittest.TestCase):
    def test_it_is_one_page_whatever_stands_on_it(self) -> None:
        project = demo_project()
        data = line_up_pdf(project, line_up())
        self.assertTrue(data.startswith(b"%PDF-"))
        self.assertEqual(pages(data), 1)
        brief = project.briefs[0]
        for _ in range(7):
            brief = edits.duplicate_candidate(brief, "c4")[0].apply(replace(project, briefs=(brief,))).briefs[0]
        many = evaluate_brief(project, replace(brief, name="<b> & Co"), EVALUATOR)
        self.assertEqual(pages(line_up_pdf(project, many)), 1)

    def test_the_same_decision_gives_the_same_file(self) -> None:
        self.assertEqual(line_up_pdf(demo_project(), line_up()), line_up_pdf(demo_project(), line_up()))

    def test_sections_stand_on_it_to_one_scale(self) -> None:
        """Heights of the filled core rectangles on the page are as their thicknesses."""
        data = line_up_pdf(demo_project(), line_up())
        streams = re.findall(rb"stream\r?\n(.*?)endstream", data, re.S)
        text = ""
        for stream in streams:
            try:
                text += zlib.decompress(a85decode(stream.strip().removesuffix(b"~>"))).decode("latin-1")
            except (ValueError, zlib.error):
                continue
        heights = [float(h) for h in re.findall(r"\s([\d.]+) re f\*?", text)]
        cores = sorted({h for h in heights if h > 40.0})
        self.assertAlmostEqual(cores[-1] / cores[0], 12.7 / 10.0, delta=0.01)


class Write(unittest.TestCase):
    def test_by_the_ending_of_the_name(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            for name in ("a.csv", "a.PDF"):
                write_report(Path(folder) / name, demo_project(), line_up())
                self.assertGreater((Path(folder) / name).stat().st_size, 500)
            with self.assertRaisesRegex(OmakaseError, "should end in"):
                write_report(Path(folder) / "a.docx", demo_project(), line_up())


if __name__ == "__main__":
    unittest.main()
