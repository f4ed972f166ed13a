"""The program without a window, as another program would call it."""

from __future__ import annotations

import contextlib
import csv
import io
import json
import tempfile
import unittest
from pathlib import Path

from omakase.cli import main
from omakase.project.commands import replace
from omakase.project.demo import demo_project
from omakase.project.storage import to_bytes
from omakase.reports.text import sizing_text
from tests.support import DEMO


def run(*words: str) -> tuple[int, str, str]:
    out, err = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        status = main(list(words))
    return status, out.getvalue(), err.getvalue()


class CommandLine(unittest.TestCase):
    def setUp(self) -> None:
        temporary = tempfile.TemporaryDirectory()
        self.addCleanup(temporary.cleanup)
        self.folder = Path(temporary.name)

    def write(self, change: tuple[str, str] | None = None) -> str:
        """The demo's first job and its tests in a file of its own, with one place of its text changed."""
        project = demo_project()
        text = to_bytes(replace(project, briefs=project.briefs[:1])).decode()
        if change:
            self.assertIn(change[0], text)
            text = text.replace(*change, 1)
        path = self.folder / "a.json"
        path.write_text(text)
        return str(path)

    def test_evaluate_json(self) -> None:
        status, out, err = run("evaluate", self.write(), "--json")
        record = json.loads(out)
        self.assertEqual((status, err), (0, ""))
        self.assertEqual(record["briefs"][0]["candidates"][0]["name"], "Aluminium sheet 4")

    def test_tests_as_json_text_and_table(self) -> None:
        status, out, err = run("tests", str(DEMO), "--json")
        record = json.loads(out)
        self.assertEqual((status, err, record["format"]), (0, "", "omakase-tests"))
        oar = next(series for series in record["series"] if series["method"] == "tension")
        own = oar["statistics"]["strength"]
        self.assertEqual((own["n"], own["bounds"]), (6, 1))
        self.assertAlmostEqual(own["basis"]["B"]["factor"], 3.006, delta=5e-4)
        gripped = next(specimen for specimen in oar["specimens"] if specimen["place"] == "grip")
        self.assertEqual(gripped["verdict"], "at_least")
        self.assertIn("P/(b h)", gripped["results"][0]["formula"])
        status, out, _ = run("tests", str(DEMO))
        self.assertIn("Footwell floor, core shear (ASTM C393)", out)
        self.assertIn("4 stands out", out)
        target = self.folder / "tests.csv"
        status, out, _ = run("tests", str(DEMO), "--csv", str(target))
        rows = list(csv.DictReader(io.StringIO(target.read_text("utf-8-sig"))))
        self.assertEqual((status, out), (0, ""))
        self.assertEqual(
            {row["to"] for row in rows if row["place"] == "grip" and "strength" in row["number"]}, {"at least"}
        )
        broken = self.write(("2 block; 17.9 mm", "2 soup; 17.9 mm"))
        status, _, err = run("tests", broken)
        self.assertEqual(status, 1)
        self.assertIn("line 1", err)

    def test_evaluate_as_text(self) -> None:
        status, out, _ = run("evaluate", self.write())
        self.assertEqual(status, 0)
        self.assertIn("Tricycle footwell floor", out)
        self.assertIn("FAILS", out)

    def test_a_broken_candidate_is_told_and_the_rest_computed(self) -> None:
        status, out, err = run("evaluate", self.write(('"material": "pvc80"', '"material": "pvx80"')), "--json")
        self.assertEqual(status, 1)
        self.assertIn("no material is named 'pvx80'", err)
        candidates = json.loads(out)["briefs"][0]["candidates"]
        self.assertEqual([bool(c["error"]) for c in candidates], [False, True, False, False, False])

    def test_validate(self) -> None:
        self.assertEqual(run("validate", str(DEMO))[:2], (0, "no problems found\n"))
        status, out, _ = run("validate", self.write(('"angle": 45.0', '"angle": 1e9')))
        self.assertEqual(status, 1)
        self.assertRegex(out, r"^briefs\[0\]\.candidates\[2\]\.layers\[0\]: .*outside")

    def test_compare(self) -> None:
        old = self.write()
        self.assertEqual(run("compare", old, old), (0, "no differences\n", ""))
        new = str(self.folder / "new.json")
        Path(new).write_text(
            Path(old).read_text("utf-8").replace('"deflection": 0.006', '"deflection": 0.0045', 1), "utf-8"
        )
        status, out, err = run("compare", old, new)
        self.assertEqual((status, err), (1, ""))
        self.assertIn("largest deflection allowed: 6 mm → 4.5 mm", out)
        self.assertRegex(out, "Two above, one below: ✓ 1.28 deflection → × 0.96 deflection, no longer passes")

    def test_what_cannot_be_read(self) -> None:
        for words in (("evaluate", "nothing.json"), ("validate", self.write(("omakase-project", "x")))):
            status, out, err = run(*words)
            self.assertEqual((status, out), (2, ""))
            self.assertTrue(err.startswith("omakase: '"))

    def test_report(self) -> None:
        target = self.folder / "line.csv"
        self.assertEqual(run("report", str(DEMO), str(target), "--brief", "b3")[0], 0)
        self.assertIn("balsa", target.read_text("utf-8-sig"))
        self.assertEqual(run("report", str(DEMO), str(target), "--brief", "b99")[0], 2)

    def test_size(self) -> None:
        choices = self.folder / "choices.json"
        choices.write_text('{"skins": ["ud200"], "cores": ["pvc130"], "angles": [0], "most": 2, "matters": ["mass"]}')
        words = ("size", str(DEMO), "--brief", "b3", "--candidate", "c2", "--choices", str(choices))
        status, out, err = run(*words, "--json")
        record = json.loads(out)
        self.assertEqual((status, err), (0, ""))
        self.assertEqual(record["brief"], "b3")
        ways = {way["lever"]: way for way in record["candidates"][0]["ways"]}
        self.assertEqual(ways["core"]["change"], "core 16.70 mm")
        self.assertTrue(ways["core"]["passes"])
        self.assertIn("stopped by deflection", ways["more A"]["blocked"])
        menu = record["menu"]
        self.assertIn("none is better", menu["proof"])
        self.assertEqual(menu["combinations"], sum(n for k, n in menu["excluded"].items() if "judged" not in k)
                         + menu["left_by_screen"])  # fmt: skip
        self.assertTrue(all(dish["passes"] for dish in menu["dishes"]))
        self.assertIn("✓ core 16.70 mm", sizing_text(record, "si"))
        choices.write_text('{"skins": 3}')
        status, _, err = run(*words)
        self.assertEqual(status, 2)
        self.assertIn("no choices for a menu", err)
        self.assertIn("no candidate 'c9'", run("size", str(DEMO), "--candidate", "c9")[2])

    def test_schema(self) -> None:
        self.assertEqual(json.loads(run("schema")[1])["title"], "Omakase project")


if __name__ == "__main__":
    unittest.main()
