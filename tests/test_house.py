"""Rules of the house that a tool can check: the core without Qt, no strangers in the documents, links that hold."""

from __future__ import annotations

import re
import subprocess
import sys
import textwrap
import unittest
from pathlib import Path

import msgspec

from omakase.cli import _parser
from omakase.core.checks.registry import all_checks
from omakase.core.materials.properties import PROPERTIES
from omakase.core.specimens.registry import all_methods
from omakase.evaluate.results.records import project_record
from omakase.project.demo import demo_project
from omakase.project.library import shipped_materials
from omakase.project.model import LoadItem
from omakase.project.quickline import read_quick_line
from omakase.project.step_log import Rig, read_log
from omakase.project.storage import from_bytes
from omakase.project.validation import problems

ROOT = Path(__file__).parents[1]


class Core(unittest.TestCase):
    def test_it_computes_where_qt_cannot_be_imported(self) -> None:
        code = """
import sys
class Refuse:
    def find_spec(self, name, path=None, target=None):
        if name.split('.')[0] in ('PyQt6', 'pyqtgraph', 'pint', 'reportlab', 'platformdirs'):
            raise ImportError(name + ' is not for the core')
sys.meta_path.insert(0, Refuse())
import omakase.core, pkgutil, importlib
for module in pkgutil.walk_packages(omakase.core.__path__, 'omakase.core.'):
    importlib.import_module(module.name)
from omakase.core.members.panel import respond
from omakase.core.members.panel_given import Panel, LoadCase
from omakase.core.laminate.stack import Stack, Layer
from omakase.core.materials.material import Material
from omakase.core.materials.provenance import Sourced
values = dict(density=2700., E1=70e9, E2=70e9, G12=26.9e9, G13=26.9e9, G23=26.9e9, nu12=.3, Xt=3e8, Xc=3e8, Yt=3e8,
              Yc=3e8, S12=2e8, S13=2e8, S23=2e8)
metal = Material('m', 'm', 'sheet', 'metal', {k: Sourced(v, 'tested') for k, v in values.items()})
r = respond(Panel(1., 1.), Stack((Layer(metal, 0., .01),)), (LoadCase('p', (1000.,)),))
print(r.cases[0].largest_deflection[0])
"""
        done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
        self.assertEqual(done.returncode, 0, done.stderr)
        # Timoshenko and Woinowsky-Krieger, table 8: 0.00406 q a⁴/D, and a little shear
        D = 70e9 * 0.01**3 / 12 / (1 - 0.3**2)
        self.assertAlmostEqual(float(done.stdout) / (0.00406 * 1000.0 / D), 1.0, delta=0.005)


class Documents(unittest.TestCase):
    def test_links_lead_somewhere(self) -> None:
        for page in [ROOT / "README.md", ROOT / "CHANGELOG.md", *sorted((ROOT / "docs").glob("*.md"))]:
            for target in re.findall(r"\]\(([^)#:]+)(?:#[^)]*)?\)", page.read_text("utf-8")):
                with self.subTest(page=page.name, target=target):
                    self.assertTrue((page.parent / target).exists())

    def test_commands_in_the_readme_are_what_the_script_knows(self) -> None:
        script = (ROOT / "run").read_text()
        commands = {name for action in _parser()._actions if action.dest == "command" for name in action.choices}
        for word in set(re.findall(r"\./run ([a-z]\w*)", (ROOT / "README.md").read_text("utf-8"))):
            with self.subTest(word):
                known = word in commands or re.search(rf"^ +.*\b{word}\b.*\)", script, re.M)
                self.assertTrue(known)

    def test_the_example_project_opens_and_evaluates(self) -> None:
        text = (ROOT / "docs" / "file-format.md").read_text("utf-8")
        example = re.search(r"```json\n(.*?)```", text, re.S)
        assert example is not None
        project = from_bytes(example[1].encode(), "example")
        self.assertEqual(problems(project), [])
        results = project_record(project)["briefs"][0]["candidates"]
        self.assertEqual([candidate["error"] for candidate in results], [None, None])

    def test_lines_of_the_readme_read(self) -> None:
        text = (ROOT / "README.md").read_text("utf-8")
        blocks = [block for block in re.findall(r"(?:^    .*\n)+", text, re.M) if "./run" not in block]
        lines = [line.strip() for block in blocks for line in block.splitlines() if "block" not in block]
        self.assertGreaterEqual(len(lines), 3)
        for line in lines:
            self.assertTrue(read_quick_line(line, shipped_materials()))
        log = next(block for block in blocks if "block" in block)
        rig = Rig(items=(LoadItem("block", 10.4), LoadItem("bar", 1.2)))
        self.assertFalse(read_log(textwrap.dedent(log), rig)[-1].held)

    def test_every_key_of_the_results_is_documented(self) -> None:
        project = demo_project()
        record = project_record(msgspec.structs.replace(project, briefs=project.briefs[1:2]))
        text = (ROOT / "docs" / "results.md").read_text("utf-8")

        def visit(node: object) -> None:
            if isinstance(node, dict):
                for key, value in node.items():
                    self.assertIn(f"`{key}`", text)
                    visit(value)
            elif isinstance(node, list):
                for value in node:
                    visit(value)

        visit(record)

    def test_every_method_is_documented(self) -> None:
        text = (ROOT / "docs" / "methods.md").read_text("utf-8")
        for method in all_methods().values():
            self.assertIn(f"### {method.title}\n", text)
            self.assertIn(f"- Basis: {method.basis}\n", text)

    def test_methods_and_glossary_are_what_the_help_says(self) -> None:
        from omakase.evaluate.help.methods import methods_text
        from omakase.evaluate.help.terms import TERMS, glossary_text
        from omakase.evaluate.help.topics import all_topics

        self.assertEqual((ROOT / "docs" / "methods.md").read_text("utf-8"), methods_text())
        self.assertEqual((ROOT / "docs" / "glossary.md").read_text("utf-8"), glossary_text())
        self.assertEqual([term for term, _ in TERMS], sorted((term for term, _ in TERMS), key=str.casefold))
        keys = [topic.key for topic in all_topics()]
        self.assertEqual(len(keys), len(set(keys)))
        for kind, names in (("check", all_checks()), ("test", all_methods()), ("property", PROPERTIES)):
            self.assertLessEqual({f"{kind}:{name}" for name in names}, set(keys))


if __name__ == "__main__":
    unittest.main()
