"""A job on paper and in files, read back by other libraries; texts of the project stay texts in all of them."""

from __future__ import annotations

import csv
import io
import tempfile
import unittest
from pathlib import Path
from xml.etree import ElementTree

import ezdxf
import numpy as np
import openpyxl
import pypdf

from omakase.core.build.pieces import shoelace
from omakase.core.errors import OmakaseError
from omakase.evaluate.build.plan import JobPlan, Planner
from omakase.project.commands import replace
from omakase.project.model import Project
from omakase.reports.job_write import job_bytes, write_job
from omakase.reports.patterns import layer_name
from tests.support import demo_project

DAY = "2026-11-28"
HOSTILE = '=HYPERLINK("x") <b>&amp; ../../name'


def hostile(project: Project) -> Project:
    """The demo's job with names that try to be something else."""
    job = project.jobs[0]
    parts = (replace(job.parts[0], name=HOSTILE), *job.parts[1:])
    works = (replace(job.works[0], name=HOSTILE), *job.works[1:])
    return replace(project, title=HOSTILE, jobs=(replace(job, name=HOSTILE, who="<i>", parts=parts, works=works),))


class Papers(unittest.TestCase):
    plan: JobPlan

    @classmethod
    def setUpClass(cls) -> None:
        cls.project = demo_project()
        cls.plan = Planner().plan(cls.project, cls.project.jobs[0])
        cls.bad = hostile(cls.project)
        cls.bad_plan = Planner().plan(cls.bad, cls.bad.jobs[0])

    def pages(self, data: bytes) -> list[str]:
        return [page.extract_text() for page in pypdf.PdfReader(io.BytesIO(data)).pages]

    def test_patterns_as_svg_at_full_size(self) -> None:
        """Read back as XML: as wide as the longest roll, in mm, a path for each piece; names are lines, no text."""
        root = ElementTree.fromstring(job_bytes(self.plan, ".svg", self.project.title, DAY))
        longest = max(roll.layout.length for roll in self.plan.cutting.rolls if roll.layout is not None)
        self.assertAlmostEqual(float(root.get("width", "").removesuffix("mm")), 1e3 * longest + 10.0, delta=2.0)
        pieces = sum(len(roll.layout.placed) for roll in self.plan.cutting.rolls if roll.layout is not None)
        self.assertGreaterEqual(len([own for own in root.iter() if own.tag.endswith("path")]), pieces)
        self.assertFalse([own for own in root.iter() if own.tag.endswith(("text", "script"))])

    def test_each_page_says_what_it_belongs_to(self) -> None:
        pages = self.pages(job_bytes(self.plan, ".pdf", self.project.title, DAY))
        for number, text in enumerate(pages, 1):
            for words in ("Tricycle tub · revision 2", DAY, "Initials", f"page {number} of {len(pages)}"):
                self.assertIn(words, text)
        whole = "\n".join(pages)
        for words in ("Ply book: floor", "Ply book: rear fairing", "Works on the unit", "Cut list", "Resin card",
                      "Calendar",
                      "Cost sheet", "Weigh-in card: battery lid", "A1 twill200 at", "Mix batch 1 of 2", "respirator",
                      "licensed engineer"):  # fmt: skip
            self.assertIn(words, whole)
        self.assertIn("buy 0.266 kg", whole.replace("\n", " "))

    def test_names_cannot_inject_markup(self) -> None:
        whole = "\n".join(self.pages(job_bytes(self.bad_plan, ".pdf", self.bad.title, DAY)))
        self.assertIn('HYPERLINK("x") <b>&amp;', whole)

    def test_patterns_are_at_full_size_on_layers_by_material(self) -> None:
        """Read back by ezdxf: closed polylines whose areas are the pieces', in mm, and an arrow on each."""
        data = job_bytes(self.plan, ".dxf", self.project.title, DAY)
        document = ezdxf.read(io.StringIO(data.decode()))
        self.assertEqual(document.header["$INSUNITS"], 4)
        space = document.modelspace()
        for roll in self.plan.cutting.rolls:
            name = layer_name(roll)
            areas = [
                shoelace(np.array([(x, y) for x, y, *_ in line.get_points()])) * 1e-6
                for line in space.query(f'LWPOLYLINE[layer=="{name}"]') if line.closed
            ]  # fmt: skip
            expected = sum(own.cut.gross for own in roll.pieces)
            expected += sum(shoelace(hole) for own in roll.pieces for hole in own.cut.holes)
            self.assertAlmostEqual(sum(areas), expected, places=6)
            self.assertEqual(len(space.query(f'LINE[layer=="{name}_GRAIN"]')), 3 * len(roll.pieces))
            texts = {text.dxf.text for text in space.query(f'TEXT[layer=="{name}_GRAIN"]')}
            self.assertEqual(texts, {own.name for own in roll.pieces})
            # the first line of each piece is its arrow's shaft: on a roll it lies along x
            shafts = list(space.query(f'LINE[layer=="{name}_GRAIN"]'))[::3]
            for shaft in shafts:
                along = np.array(shaft.dxf.end - shaft.dxf.start)[:2]
                turns = np.degrees(np.arctan2(along[1], along[0])) % 90.0
                self.assertAlmostEqual(min(turns, 90.0 - turns), 0.0, places=6)
        self.assertEqual(document.audit().errors, [])

    def test_a_workbook_holds_numbers_and_texts(self) -> None:
        book = openpyxl.load_workbook(io.BytesIO(job_bytes(self.bad_plan, ".xlsx", self.bad.title, DAY)))
        self.assertEqual(
            book.sheetnames, ["Cut list", "Rolls and sheets", "Resin", "Calendar", "Cost", "Masses", "Weighings"]
        )
        cut = [dict(zip([c.value for c in book["Cut list"][1]], row, strict=True))
               for row in book["Cut list"].iter_rows(min_row=2, values_only=True)]  # fmt: skip
        self.assertEqual(len(cut), len(self.bad_plan.cutting.pieces))
        self.assertAlmostEqual(cut[0]["length, mm"], 660.0)
        self.assertAlmostEqual(cut[0]["area in the part, m²"], 0.62 * 0.44)
        masses = [row[5] for row in book["Masses"].iter_rows(min_row=2, values_only=True) if row[0] == "bulkhead"]
        self.assertAlmostEqual(sum(masses) / 1e3, self.bad_plan.parts[1].mass(), places=5)
        for sheet in book:
            for row in sheet.iter_rows(min_row=2):
                self.assertTrue(all(cell.data_type != "f" for cell in row))

    def test_a_cut_list_as_text(self) -> None:
        text = job_bytes(self.bad_plan, ".csv", self.bad.title, DAY).decode("utf-8-sig")
        rows = list(csv.DictReader(io.StringIO(text)))
        self.assertEqual(len(rows), len(self.bad_plan.cutting.pieces))
        self.assertFalse(any(value.startswith("=") for row in rows for value in row.values()))
        self.assertEqual({row["warp, °"] for row in rows if row["piece"] == "A1"}, {"45"})

    def test_inch_pound_and_other_endings(self) -> None:
        project = replace(self.project, units="inch_pound")
        plan = Planner().plan(project, project.jobs[1])
        page = pypdf.PdfReader(io.BytesIO(job_bytes(plan, ".pdf", "t", DAY))).pages[0]
        self.assertAlmostEqual(float(page.mediabox.width), 612.0)
        self.assertIn("length, in", job_bytes(plan, ".csv", "t", DAY).decode("utf-8-sig"))
        with self.assertRaises(OmakaseError):
            job_bytes(plan, ".doc", "t", DAY)
        with tempfile.TemporaryDirectory() as folder:
            target = Path(folder) / "job.dxf"
            write_job(target, plan, "t", DAY)
            self.assertTrue(target.read_bytes().startswith(b"  0\nSECTION"))


if __name__ == "__main__":
    unittest.main()
