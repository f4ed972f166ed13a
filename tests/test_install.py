"""The wheel in a new environment, and the program in a user's desktop, judged by the usual tools where they are."""

from __future__ import annotations

import configparser
import json
import os
import shutil
import subprocess
import sys
import tarfile
import tempfile
import unittest
import venv
import xml.etree.ElementTree as ElementTree
import zipfile
from pathlib import Path

from omakase import __version__, desktop
from omakase.cli import _parser
from omakase.project.commands import replace
from omakase.project.storage import to_bytes
from tests.support import demo_project

ROOT = Path(__file__).parents[1]


def run(*words: str, **more: object) -> subprocess.CompletedProcess[str]:
    return subprocess.run(words, capture_output=True, text=True, timeout=300, **more)  # type: ignore[call-overload]


class Wheel(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        temporary = tempfile.TemporaryDirectory()
        cls.addClassCleanup(temporary.cleanup)
        cls.folder = Path(temporary.name)
        tree = cls.folder / "tree"  # building leaves traces, which the working tree is spared
        shutil.copytree(ROOT / "src", tree / "src", ignore=shutil.ignore_patterns("__pycache__", "*.egg-info"))
        shutil.copytree(ROOT / "scripts", tree / "scripts", ignore=shutil.ignore_patterns("__pycache__"))
        for name in ("pyproject.toml", "README.md", "LICENSE"):
            shutil.copy(ROOT / name, tree)
        made = run(sys.executable, "-m", "scripts.package", str(cls.folder / "dist"), cwd=tree)
        assert made.returncode == 0, made.stderr
        (cls.wheel,) = (cls.folder / "dist").glob("*.whl")
        (cls.source,) = (cls.folder / "dist").glob("*.tar.gz")

    def test_every_file_of_the_program_is_in_both(self) -> None:
        wanted = {
            str(path.relative_to(ROOT / "src")) for path in (ROOT / "src/omakase").rglob("*")
            if path.is_file() and "__pycache__" not in path.parts
        }  # fmt: skip
        self.assertEqual(wanted - set(zipfile.ZipFile(self.wheel).namelist()), set())
        with tarfile.open(self.source) as archive:
            held = {name.partition("/src/")[2] for name in archive.getnames()}
        self.assertEqual(wanted - held, set())

    def test_a_new_environment_evaluates_offline(self) -> None:
        """The wheel alone is installed without an index; what it depends on is lent by this environment."""
        place = self.folder / "new"
        venv.create(place, with_pip=True)
        python = place / "bin/python"
        done = run(str(python), "-m", "pip", "install", "--no-index", "--no-deps", "--quiet", str(self.wheel))
        self.assertEqual(done.returncode, 0, done.stderr)
        (site,) = place.glob("lib/python*/site-packages")
        lent = next(path for path in sys.path if path.endswith("site-packages"))
        (site / "lent.pth").write_text(f"{lent}\n")
        project = demo_project()
        brief = next(own for own in project.briefs if own.id == "b12")  # brackets answer at once
        small = self.folder / "small.omakase.json"
        small.write_bytes(to_bytes(replace(project, briefs=(brief,), jobs=(), decisions=(), vehicles=())))
        environment = {"PATH": str(place / "bin"), "HOME": str(self.folder), "LC_ALL": "C.UTF-8"}
        program = str(place / "bin/omakase")
        self.assertEqual(run(program, "--version", env=environment).stdout.strip(), f"omakase {__version__}")
        answer = run(program, "evaluate", str(small), "--json", env=environment, cwd=self.folder)
        self.assertIn(answer.returncode, (0, 1), answer.stderr)
        self.assertEqual(len(json.loads(answer.stdout)["briefs"][0]["candidates"]), len(brief.candidates))
        where = run(str(python), "-c", "import omakase; print(omakase.__file__)", env=environment, cwd=self.folder)
        self.assertTrue(where.stdout.startswith(str(place)), where.stdout)
        told = run(program, "integrate", env=environment)
        self.assertEqual(told.returncode, 0, told.stderr)
        self.assertIn("applications/local.omakase.Omakase.desktop", told.stdout)


class Desktop(unittest.TestCase):
    def setUp(self) -> None:
        temporary = tempfile.TemporaryDirectory()
        self.addCleanup(temporary.cleanup)
        self.home = Path(temporary.name)
        self.paths = desktop.integrate(_parser(), self.home, '/opt/my "tools"/omakase')

    def usual(self, tool: str, *words: str) -> None:
        """Runs a validator where it is installed."""
        if shutil.which(tool) is None:
            self.skipTest(f"{tool} is not installed")
        done = run(tool, *words)
        self.assertEqual(done.returncode, 0, done.stdout + done.stderr)

    def test_what_is_put_there_is_taken_away(self) -> None:
        self.assertEqual(len(self.paths), 6)
        self.assertTrue(all(path.is_file() for path in self.paths))
        self.assertEqual(sorted(desktop.withdraw(self.home)), sorted(self.paths))
        self.assertFalse(any(path.exists() for path in self.paths))
        self.assertEqual(desktop.withdraw(self.home), [])

    def test_the_entry_names_the_program_whatever_its_path(self) -> None:
        entry = configparser.RawConfigParser()
        entry.optionxform = str  # type: ignore[assignment,method-assign]
        entry.read(self.home / f"applications/{desktop.ID}.desktop", encoding="utf-8")
        self.assertEqual(entry["Desktop Entry"]["Exec"], '"/opt/my \\\\"tools\\\\"/omakase" open %f')
        self.assertEqual(desktop.quoted("/a %b/c"), '"/a %%b/c"')
        self.assertIn("application/x-omakase-project+json", entry["Desktop Entry"]["MimeType"])

    def test_the_usual_tools_find_nothing_wrong_with_the_entry(self) -> None:
        desktop.integrate(_parser(), self.home, "/usr/bin/omakase")
        self.usual("desktop-file-validate", str(self.home / f"applications/{desktop.ID}.desktop"))

    def test_nor_with_the_description(self) -> None:
        self.usual("appstreamcli", "validate", "--no-net", str(self.home / f"metainfo/{desktop.ID}.metainfo.xml"))

    def test_files_are_well_formed_and_agree(self) -> None:
        for path in self.paths:
            if path.suffix in (".xml", ".svg"):
                ElementTree.parse(path)
        info = ElementTree.parse(self.home / f"metainfo/{desktop.ID}.metainfo.xml")
        self.assertEqual(info.findtext("id"), desktop.ID)
        self.assertEqual(info.find("releases/release").get("version"), __version__)  # type: ignore[union-attr]
        self.assertEqual(info.findtext("launchable"), f"{desktop.ID}.desktop")

    def test_the_man_page_tells_every_command(self) -> None:
        page = (self.home / desktop.MAN).read_text()
        for name in ("evaluate", "validate", "report", "size", "tests", "job", "compare", "integrate"):
            self.assertIn(f".B {name}", page)
        if shutil.which("groff"):
            done = run("groff", "-man", "-Tutf8", "-ww", str(self.home / desktop.MAN))
            self.assertEqual((done.returncode, done.stderr), (0, ""))
            self.assertIn("Sizing aid only", " ".join(done.stdout.split()))  # lines are filled with blanks

    def test_bash_completes_commands_and_options(self) -> None:
        script = (
            f"source {self.home / desktop.COMPLETION};"
            "COMP_WORDS=(omakase ev); COMP_CWORD=1; _omakase; echo ${COMPREPLY[@]};"
            "COMP_WORDS=(omakase size x.json --ch); COMP_CWORD=3; _omakase; echo ${COMPREPLY[@]}"
        )
        self.assertEqual(run("bash", "-c", script).stdout.split(), ["evaluate", "--choices"])

    def test_the_data_folder_is_the_users(self) -> None:
        old = os.environ.get("XDG_DATA_HOME")
        try:
            os.environ["XDG_DATA_HOME"] = "/somewhere/share"
            self.assertEqual(desktop.data_home(), Path("/somewhere/share"))
            os.environ["XDG_DATA_HOME"] = "relative"  # by the specification not to be followed
            self.assertEqual(desktop.data_home(), Path.home() / ".local/share")
        finally:
            os.environ.pop("XDG_DATA_HOME") if old is None else os.environ.update(XDG_DATA_HOME=old)


if __name__ == "__main__":
    unittest.main()
