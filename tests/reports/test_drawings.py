"""Sections, flat patterns and diagrams as files, read back by other libraries and measured there."""

from __future__ import annotations

import csv
import io
import tempfile
import unittest
import xml.etree.ElementTree as ET
from pathlib import Path

import ezdxf
import numpy as np

from omakase.cli import main
from omakase.core.members.field import Response
from omakase.core.members.spar import SparResponse
from omakase.core.members.tube import TubeResponse
from omakase.evaluate.members.outline import outline
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.results.records import evaluate_brief
from omakase.reports.diagram_table import diagram_table
from omakase.reports.section_lines import section
from omakase.reports.vector import drawing_bytes
from tests.support import DEMO, EVALUATOR, demo_project

PROJECT = demo_project()
SVG = "{http://www.w3.org/2000/svg}"


def results(brief: str) -> tuple[CandidateResult, ...]:
    own = next(own for own in PROJECT.briefs if own.id == brief)
    return tuple(evaluate_brief(PROJECT, own, EVALUATOR).results)


def area(points: np.ndarray) -> float:
    x, y = points.T
    return 0.5 * abs(float(x @ np.roll(y, -1) - y @ np.roll(x, -1)))


class Sections(unittest.TestCase):
    def drawn(self, response: Response, result: CandidateResult, at: float) -> ezdxf.document.Drawing:
        assert result.stack is not None
        data = drawing_bytes(section(outline(response, result.stack, at)), ".dxf")
        return ezdxf.read(io.StringIO(data.decode()))

    def test_walls_have_the_area_of_their_layers(self) -> None:
        """Straight walls: thickness times length; corners of bent ones are mitred, so it holds for them within 2 %."""
        for result in results("b6"):
            response = result.response
            assert isinstance(response, SparResponse)
            with self.subTest(result.candidate.name):
                lines, plates = response.lines_at(0.8)
                wanted = sum(
                    plates[int(wall)].stack.thickness * length
                    for wall, length in zip(lines.walls, lines.lengths[0], strict=True)
                )
                space = self.drawn(response, result, 0.8).modelspace()
                shapes = [np.array([point[:2] for point in own.get_points()]) for own in space.query("LWPOLYLINE")]
                self.assertAlmostEqual(sum(map(area, shapes)) / 1e6 / wanted, 1.0, delta=0.02)

    def test_a_tube_is_rings_of_its_thickness(self) -> None:
        result = results("b4")[1]
        response = result.response
        assert isinstance(response, TubeResponse)
        plate, radius, _ = response.wall(1.0)
        circles = [own.dxf.radius for own in self.drawn(response, result, 1.0).modelspace().query("CIRCLE")]
        self.assertAlmostEqual(max(circles) - min(circles), 1e3 * plate.stack.thickness, places=6)
        self.assertAlmostEqual((max(circles) + min(circles)) / 2.0, 1e3 * radius, places=6)
        self.assertEqual(len(circles), 2 * len(plate.stack.layers))

    def test_a_picture_is_as_large_as_the_part(self) -> None:
        result = results("b1")[0]
        assert result.response is not None
        assert result.stack is not None
        data = drawing_bytes(section(outline(result.response, result.stack, 0.0)), ".svg")
        root = ET.fromstring(data)
        self.assertAlmostEqual(float(root.get("width", "").removesuffix("mm")), 100.0 + 10.0, delta=0.5)
        self.assertEqual(list(root.iter(f"{SVG}script")), [])


class Diagrams(unittest.TestCase):
    def test_the_table_says_what_statics_says(self) -> None:
        """The root moment of every load case is the sum over the span of what the shear force adds up to."""
        brief = next(own for own in PROJECT.briefs if own.id == "b6")
        table = diagram_table(brief, results("b6")[0], "si")
        for case in brief.load_cases:
            rows = [row for row in table.rows if row[0] == case.name]
            shear = np.array([row[3:5] for row in rows if row[1] == "Shear force"], float)
            moment = np.array([row[3:5] for row in rows if row[1] == "Bending moment"], float)
            by_shear = np.trapezoid(shear[:, 1], shear[:, 0]) / 1e3  # N mm to N m
            self.assertAlmostEqual(abs(by_shear / moment[0, 1]), 1.0, delta=2e-3)

    def test_from_the_command_line(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            target = Path(folder) / "d.csv"
            self.assertEqual(main(["diagrams", str(DEMO), str(target), "--brief", "b6"]), 0)
            rows = list(csv.reader(io.StringIO(target.read_text("utf-8-sig"))))
            self.assertEqual(rows[0], ["load case", "diagram", "unit", "x, mm", "value"])
            drawn = Path(folder) / "s.svg"
            self.assertEqual(main(["section", str(DEMO), str(drawn), "--brief", "b6", "--at", "2 ft"]), 0)
            self.assertEqual(ET.parse(drawn).getroot().tag, f"{SVG}svg")
            for bad in (["diagrams", str(DEMO), str(target)], ["section", str(DEMO), str(Path(folder) / "s.txt")],
                        ["section", str(DEMO), str(drawn), "--at", "x"]):  # fmt: skip
                self.assertEqual(main(bad), 2)


if __name__ == "__main__":
    unittest.main()
