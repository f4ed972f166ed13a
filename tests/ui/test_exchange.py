"""Tables and drawings by the menu, and files dropped into the window, each read back by an independent reader."""

from __future__ import annotations

import csv
import io
import xml.etree.ElementTree as ET
from pathlib import Path

import ezdxf
import openpyxl
from PyQt6.QtCore import QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDragEnterEvent, QDropEvent, QImage

from omakase.project.library import shipped_materials
from omakase.project.material_table import write_materials
from omakase.project.series import sizes_of
from omakase.project.storage import write_project
from tests.ui.support import WindowTest

SPAR = "b6"
SVG = "{http://www.w3.org/2000/svg}"


class Exchanged(WindowTest):
    def written(self, command: str, name: str) -> Path:
        path = self.folder / name
        self.window.files.ask_save = lambda _name, _kinds: str(path)
        self.command(command)
        self.wait(lambda: path.exists() or "could not" in self.window.notice.text)
        self.wait(lambda: not self.window.notice.text)  # which says how far it is where that takes long
        return path

    def drop(self, path: Path) -> None:
        data = QMimeData()
        data.setUrls([QUrl.fromLocalFile(str(path))])
        buttons, keys = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        enter = QDragEnterEvent(QPointF(300, 300).toPoint(), Qt.DropAction.CopyAction, data, buttons, keys)
        self.window.dragEnterEvent(enter)
        self.assertTrue(enter.isAccepted())
        self.window.dropEvent(QDropEvent(QPointF(300, 300), Qt.DropAction.CopyAction, data, buttons, keys))
        self.process()

    # --- out --------------------------------------------------------------------------------------------------

    def test_sections_as_dxf_and_svg(self) -> None:
        self.window.session.choose_brief(SPAR)
        drawn = ezdxf.readfile(self.written("section at the cursor", "section.dxf"))
        lines = list(drawn.modelspace().query("LWPOLYLINE"))
        result = self.window.session.result
        walls = [field.stack for field in result.response.fields]  # type: ignore[union-attr]
        self.assertGreaterEqual(len(lines), sum(len(stack.layers) for stack in walls[:4]) // 2)
        self.assertTrue(all(line.closed for line in lines))
        svg = ET.parse(self.written("section at the cursor", "section.svg")).getroot()
        self.assertEqual(svg.tag, f"{SVG}svg")
        self.assertTrue(svg.get("width", "").endswith("mm"))

    def test_diagrams_as_table_and_pictures(self) -> None:
        self.window.session.choose_brief(SPAR)
        rows = list(csv.reader(io.StringIO(self.written("diagrams to csv", "d.csv").read_text("utf-8-sig"))))
        self.assertEqual(rows[0][:3], ["load case", "diagram", "unit"])
        moments = [float(row[4]) for row in rows[1:] if "oment" in row[1]]
        self.assertGreater(max(map(abs, moments)), 0.0)
        image = QImage(str(self.written("diagrams to csv", "d.png")))
        self.assertGreater(image.width(), 800)
        svg = ET.parse(self.written("diagrams to csv", "d.svg")).getroot()
        self.assertGreater(len(list(svg.iter(f"{SVG}polyline"))) + len(list(svg.iter(f"{SVG}path"))), 5)
        self.window.session.choose_brief("b1")
        self.command("diagrams to csv")  # a panel has none: it is told, nothing is asked

    # --- in ---------------------------------------------------------------------------------------------------

    def test_candidates_go_out_and_come_back(self) -> None:
        session = self.window.session
        before = session.brief
        for name in ("layers.csv", "layers.xlsx"):
            path = self.written("candidates to a table", name)
            self.drop(path)
            new = session.brief.candidates[len(before.candidates) :]
            for own, copy in zip(before.candidates, new, strict=True):
                self.assertEqual(copy.name, f"{own.name} (2)")
                self.assertEqual([layer.material for layer in copy.layers], [layer.material for layer in own.layers])
                self.assertEqual([layer.angle for layer in copy.layers], [layer.angle for layer in own.layers])
            self.window.session.document.undo()
            self.assertEqual(session.brief, before)
        if path.suffix == ".xlsx":
            self.assertEqual(openpyxl.load_workbook(path).sheetnames, ["Layers"])

    def test_candidates_in_words_and_bad_lines(self) -> None:
        path = self.folder / "candidates.csv"
        path.write_text(
            "candidate;layup\nThin;2 twill200 ±45 ; core pvc80 8 ; 2 twill200 ±45\nBad;3 nosuch\n;twill200 0\n"
        )
        count = len(self.window.session.brief.candidates)
        self.drop(path)
        names = [own.name for own in self.window.session.brief.candidates[count:]]
        self.assertEqual(names, ["Thin"])
        self.assertIn("line 3", self.window.notice.text)
        self.assertIn("line 4", self.window.notice.text)

    def test_specimens_come_in_by_series(self) -> None:
        every = self.window.session.document.project.series
        series = next(one for one in every if "width" in sizes_of(one, one.specimens[0]))
        own = series.specimens[0]
        path = self.folder / "specimens.csv"
        path.write_text(
            'series,specimen,"width, mm","mass, g",batch\n'
            f'"{series.name}",{own.name},31.5,12.25,B7\n"{series.name}",new one,30,,\nNo such series,1,1,,\n'
            f'"{series.name}",{own.name},wide,,\n'
        )
        self.drop(path)
        changed = next(one for one in self.window.session.document.project.series if one.id == series.id)
        self.assertAlmostEqual(changed.specimens[0].sizes["width"], 0.0315, places=9)
        self.assertAlmostEqual(changed.specimens[0].mass.value, 0.01225, places=9)
        self.assertEqual(changed.specimens[0].batch, "B7")
        self.assertEqual(changed.specimens[-1].name, "new one")
        self.assertIn("line 4: there is no series", self.window.notice.text)
        self.assertIn("line 5: width 'wide'", self.window.notice.text)
        self.window.session.document.undo()
        self.assertEqual(self.window.session.document.project.series, every)

    def test_a_workbook_of_tests_comes_back_as_it_was(self) -> None:
        """The sheet of results is no input, that of specimens says again what is known."""
        before = self.window.session.document.project.series
        path = self.written("all series to a workbook", "tests.xlsx")
        self.assertEqual(openpyxl.load_workbook(path).sheetnames, ["Results", "Specimens"])
        self.drop(path)
        after = self.window.session.document.project.series
        self.assertEqual(len(after), len(before))
        for old, new in zip(before, after, strict=True):
            self.assertEqual([own.name for own in old.specimens], [own.name for own in new.specimens])
            for one, other in zip(old.specimens, new.specimens, strict=True):
                self.assertEqual((one.curve, one.log, one.place), (other.curve, other.log, other.place))
                for key, value in sizes_of(old, one).items():
                    self.assertAlmostEqual(sizes_of(new, other)[key] / value if value else 1.0, 1.0, delta=1e-5)
        results = self.written("all series to csv", "tests.csv")
        self.drop(results)
        self.assertEqual(self.window.session.document.project.series, after)

    def test_each_kind_of_file_finds_its_place(self) -> None:
        materials = self.folder / "m.csv"
        own = shipped_materials()["pvc80"]
        materials.write_bytes(write_materials([own], "si").replace(b"pvc80", b"mine80"))
        self.drop(materials)
        self.assertIn("mine80", {own.id for own in self.window.session.document.project.materials})
        outline = self.folder / "section.dat"
        outline.write_text("tip\n0.05 0.0\n0.05 0.03\n0.0 0.03\n0.0 0.0\n")
        self.window.session.choose_brief(SPAR)
        layers = self.window.session.candidate
        self.drop(outline)
        self.assertNotEqual(self.window.session.candidate, layers)
        curve = self.folder / "curve.csv"
        curve.write_text("time s,force N,travel mm\n" + "".join(f"{k},{k * 10},{k * 0.1}\n" for k in range(50)))
        self.drop(curve)
        self.assertTrue(self.window.is_at_the_tests)
        project = self.folder / "other.omakase.json"
        write_project(project, self.project())
        self.window.session.document.mark_saved(self.folder / "x")
        self.drop(project)
        self.assertEqual(self.window.session.document.path, project)
        nothing = self.folder / "gone.csv"
        self.drop(nothing)
        self.assertTrue(self.window.notice.text)
