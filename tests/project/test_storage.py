"""Reading and writing: what is broken is explained, nothing is overwritten or lost."""

from __future__ import annotations

import json
import os
import socket
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from unittest import mock

import jsonschema

from omakase.project import disk, storage
from omakase.project.commands import replace
from omakase.project.demo import demo_project
from omakase.project.disk import ReadError, WriteError, write_atomically
from omakase.project.library import materials_of
from omakase.project.migrations import MIGRATIONS
from omakase.project.model import VERSION, Acceptance, CurveColumn, CurveRecord, Project, new_project
from omakase.project.schema import schema_text, shipped_schema
from omakase.project.storage import (
    Lock,
    Recovery,
    from_bytes,
    left_behind,
    read_project,
    to_bytes,
    write_project,
)
from omakase.project.validation import problems

FILES = Path(__file__).parents[1] / "files"


class Folder(unittest.TestCase):
    def setUp(self) -> None:
        temporary = tempfile.TemporaryDirectory()
        self.addCleanup(temporary.cleanup)
        self.folder = Path(temporary.name)


class RoundTrip(Folder):
    def test_the_same_project_and_the_same_bytes(self) -> None:
        path = self.folder / "a.omakase.json"
        write_project(path, demo_project())
        again = read_project(path)
        self.assertEqual(to_bytes(again), path.read_bytes())
        self.assertEqual(again.briefs, demo_project().briefs)

    def test_the_shipped_demo_is_written_as_the_program_writes(self) -> None:
        self.assertEqual(to_bytes(demo_project()), (FILES / "version-15.json").read_bytes())

    def test_a_small_edit_makes_a_small_diff(self) -> None:
        before = to_bytes(demo_project()).decode().splitlines()
        after = to_bytes(demo_project()).decode().replace('"length": 0.62', '"length": 0.7', 1).splitlines()
        again = to_bytes(from_bytes("\n".join(after).encode(), "x")).decode().splitlines()
        self.assertEqual(sum(a != b for a, b in zip(before, again, strict=True)), 1)

    def test_what_the_schema_says_is_what_is_written(self) -> None:
        self.assertEqual(shipped_schema(), schema_text())
        jsonschema.validate(json.loads(to_bytes(demo_project())), json.loads(schema_text()))
        with self.assertRaises(jsonschema.ValidationError):
            jsonschema.validate({"format": "something"}, json.loads(schema_text()))


class SeriesProblems(unittest.TestCase):
    def test_what_cannot_count_is_told_by_its_place(self) -> None:
        project = demo_project()
        self.assertEqual(problems(project), [])
        series = project.series[0]
        broken = replace(series.specimens[0], curve=CurveRecord((CurveColumn("force", 1.0, "1 x"),), 2))
        entry = Acceptance("a1", series.id, series.name, "allowable", "pvc80", "S13", -1.0)
        project = replace(
            project,
            series=(replace(series, method="guess", specimens=(broken,)), *project.series[1:]),
            acceptances=(entry, replace(entry, id="a2", kind="factor"), replace(entry, id="a2", material="soap")),
        )
        found = {problem.place: problem.message for problem in problems(project)}
        self.assertIn("guess", found["series[0].method"])
        self.assertIn("whole number", found["series[0].specimens[0].curve"])
        self.assertIn("outside", found["acceptances[0]"])
        self.assertIn("factor", found["acceptances[1]"])
        self.assertIn("soap", found["acceptances[2]"])
        self.assertIn("used 2 times", found["acceptances"])
        self.assertEqual(
            materials_of(project)["pvc80"].value("S13"), materials_of(demo_project())["pvc80"].value("S13")
        )


class Versions(unittest.TestCase):
    def test_every_older_version_has_a_sample_that_still_opens(self) -> None:
        self.assertEqual(set(MIGRATIONS), set(range(VERSION)))
        for version in range(VERSION + 1):
            with self.subTest(version):
                data = (FILES / f"version-{version}.json").read_bytes()
                self.assertEqual(json.loads(data)["version"], version)
                project = from_bytes(data, "sample")
                self.assertEqual(project.version, VERSION)
                self.assertTrue(project.briefs[0].candidates)

    def test_a_newer_version_is_refused_politely(self) -> None:
        with self.assertRaisesRegex(ReadError, "newer version"):
            from_bytes(b'{"format": "omakase-project", "version": 99}', "future")


class Refused(Folder):
    def test_each_with_its_reason(self) -> None:
        good = json.loads(to_bytes(demo_project()))
        wrong_type = json.loads(to_bytes(demo_project()))
        wrong_type["briefs"][0]["member"]["length"] = "long"
        unknown = good | {"colour": "blue"}
        cases = {
            b"": "not complete JSON",
            b'{"format": "omakase-project", "ver': "line 1",
            b"\xff\xfe\x00": "UTF-8",
            b"[1, 2]": "not a project",
            b'{"format": "else"}': "not a project",
            b'{"format": "omakase-project"}': "which version",
            b'{"format": "omakase-project", "version": true}': "which version",
            b'{"format": "omakase-project", "version": 1, "x": NaN}': "NaN",
            b"[" * 100_000: "JSON|nested",
            json.dumps(wrong_type).encode(): r"briefs\[.*\]\.member\.length",
            json.dumps(unknown).encode(): "colour",
        }
        for data, reason in cases.items():
            path = self.folder / "broken.json"
            path.write_bytes(data)
            with self.subTest(data[:40]), self.assertRaisesRegex(ReadError, reason):
                read_project(path)
            self.assertEqual(path.read_bytes(), data)

    def test_a_huge_file_is_not_even_read(self) -> None:
        path = self.folder / "huge.json"
        with path.open("wb") as file:
            file.truncate(200_000_000)
        with self.assertRaisesRegex(ReadError, "200 MB"):
            read_project(path)

    def test_a_missing_file(self) -> None:
        with self.assertRaisesRegex(ReadError, "cannot be read"):
            read_project(self.folder / "nothing.json")


class Atomic(Folder):
    def test_a_failed_write_leaves_the_old_file(self) -> None:
        path = self.folder / "a.json"
        write_project(path, demo_project())
        old = path.read_bytes()
        full = mock.patch.object(disk.os, "replace", side_effect=OSError(28, "No space left on device"))
        with full, self.assertRaisesRegex(WriteError, "No space"):
            write_project(path, new_project())
        self.assertEqual(path.read_bytes(), old)
        self.assertEqual(os.listdir(self.folder), ["a.json"])

    def test_a_link_is_written_through(self) -> None:
        path, link = self.folder / "a.json", self.folder / "link.json"
        write_atomically(path, b"old")
        link.symlink_to(path.name)
        write_atomically(link, b"new")
        self.assertTrue(link.is_symlink())
        self.assertEqual(path.read_bytes(), b"new")

    def test_modes_are_respected(self) -> None:
        old = os.umask(0o027)
        self.addCleanup(os.umask, old)
        path = self.folder / "a.json"
        write_atomically(path, b"1")
        self.assertEqual(path.stat().st_mode & 0o777, 0o640)
        path.chmod(0o664)
        write_atomically(path, b"2")
        self.assertEqual(path.stat().st_mode & 0o777, 0o664)
        path.chmod(0o444)
        with self.assertRaisesRegex(WriteError, "write-protected"):
            write_atomically(path, b"3")
        self.assertEqual(path.read_bytes(), b"2")

    def test_a_file_of_another_user_is_not_taken(self) -> None:
        path = self.folder / "a.json"
        write_atomically(path, b"1")
        state = path.stat()
        other = mock.Mock(st_mode=state.st_mode, st_uid=state.st_uid + 1, st_gid=state.st_gid)
        with (
            mock.patch.object(disk, "_old_state", return_value=other),
            mock.patch.object(disk.os, "fchown", side_effect=PermissionError),
            self.assertRaisesRegex(WriteError, "another user"),
        ):
            write_atomically(path, b"2")
        self.assertEqual((path.read_bytes(), os.listdir(self.folder)), (b"1", ["a.json"]))

    def test_what_a_killed_writer_left_is_swept(self) -> None:
        dead, living = self.folder / ".omakase-999999999-ab.tmp", self.folder / f".omakase-{os.getpid()}-ab.tmp"
        dead.write_text("half")
        living.write_text("half")
        write_atomically(self.folder / "a.json", b"1")
        self.assertEqual(set(os.listdir(self.folder)), {"a.json", living.name})

    def test_names_that_are_too_long_or_no_text(self) -> None:
        with self.assertRaisesRegex(WriteError, "too long"):
            write_atomically(self.folder / ("a" * 300), b"1")
        with self.assertRaisesRegex(WriteError, "not a name"):
            write_atomically(self.folder / "a\0b", b"1")
        odd = self.folder / "a\udcffb.json"
        write_project(odd, demo_project())
        self.assertEqual(to_bytes(read_project(odd)), to_bytes(demo_project()))
        odd.write_text("{")
        with self.assertRaises(ReadError) as raised:
            read_project(odd)
        str(raised.exception).encode()
        write_atomically(self.folder / ("b" * 255), b"1")  # the longest there is

    def test_pipes_and_devices_are_refused_at_once(self) -> None:
        os.mkfifo(self.folder / "pipe.json")
        for path in (self.folder / "pipe.json", Path("/dev/zero"), self.folder):
            with self.assertRaisesRegex(ReadError, "not a file"):
                read_project(path)
        with self.assertRaisesRegex(WriteError, "ordinary"):
            write_atomically(self.folder / "pipe.json", b"1")


class AfterACrash(Folder):
    def test_a_dead_windows_work_is_found_once(self) -> None:
        code = (
            "import sys; from pathlib import Path; from omakase.project.demo import demo_project;"
            "from omakase.project.storage import Recovery;"
            "Recovery(Path(sys.argv[1])).keep(demo_project(), Path('/somewhere/floor.json'))"
        )
        subprocess.run([sys.executable, "-c", code, str(self.folder)], check=True)
        found = left_behind(self.folder)
        self.assertEqual([r.path for r in found], [Path("/somewhere/floor.json")])
        self.assertEqual(found[0].project.briefs, demo_project().briefs)

    def test_a_living_windows_work_is_left_alone(self) -> None:
        recovery = Recovery(self.folder)
        recovery.keep(demo_project(), None)
        envelope = json.loads(next(self.folder.glob("*.json")).read_bytes())
        envelope |= {"pid": os.getppid(), "started": storage.started_at(os.getppid())}
        next(self.folder.glob("*.json")).write_text(json.dumps(envelope))
        self.assertEqual(left_behind(self.folder), [])
        envelope["started"] = "an earlier boot 1"  # another process has the number now
        next(self.folder.glob("*.json")).write_text(json.dumps(envelope))
        self.assertEqual(len(left_behind(self.folder)), 1)
        recovery.drop()
        self.assertEqual(list(self.folder.iterdir()), [])

    def test_only_the_user_may_read_it(self) -> None:
        Recovery(self.folder / "new").keep(demo_project(), None)
        file = next((self.folder / "new").iterdir())
        self.assertEqual((file.stat().st_mode & 0o777, file.parent.stat().st_mode & 0o777), (0o600, 0o700))

    def test_a_file_saved_since_is_told_apart(self) -> None:
        path = self.folder / "floor \udcff 100 %.json"
        write_project(path, demo_project())
        recovery = Recovery(self.folder / "kept")
        recovery.keep(demo_project(), path, storage.fingerprint(path))
        found = left_behind(self.folder / "kept")[0]
        self.assertEqual((found.path, found.saved_since), (path, False))
        write_project(path, new_project())
        self.assertTrue(found.saved_since)

    def test_a_broken_recovery_file_is_kept_and_skipped(self) -> None:
        broken = ('{"pid": 1, "pro', "[" * 5000, '{"pid": 99999999, "path": "", "project": {"format": "x"}}', "7",
                  '{"pid": 1e999, "path": "", "project": {}}', '{"pid": "' + "9" * 5000 + '"}')  # fmt: skip
        for k, text in enumerate(broken):
            (self.folder / f"{k}-a.json").write_text(text)
        (self.folder / "8-a.json").mkdir()
        os.mkfifo(self.folder / "9-a.json")
        self.assertEqual(left_behind(self.folder), [])
        self.assertEqual(len(list(self.folder.iterdir())), len(broken) + 2)
        code = "import sys; from pathlib import Path; from omakase.project.demo import demo_project;"
        code += "from omakase.project.storage import Recovery; Recovery(Path(sys.argv[1])).keep(demo_project(), None)"
        subprocess.run([sys.executable, "-c", code, str(self.folder)], check=True)
        self.assertEqual(len(left_behind(self.folder)), 1)


class Locks(Folder):
    def test_a_second_window_is_told(self) -> None:
        path = self.folder / "a.json"
        ours = Lock(path)
        ours.take()
        self.addCleanup(ours.release)
        self.assertEqual(ours.holder(), "")
        ours._file.write_text(f"{os.getppid()} {socket.gethostname()}")
        self.assertIn(str(os.getppid()), Lock(path).holder())
        ours._file.write_text(f"999999999 {socket.gethostname()}")
        self.assertEqual(Lock(path).holder(), "")


class Empty(unittest.TestCase):
    def test_a_new_project_is_a_project(self) -> None:
        project: Project = from_bytes(to_bytes(new_project()), "new")
        self.assertEqual(project.briefs[0].candidates, ())


if __name__ == "__main__":
    unittest.main()
