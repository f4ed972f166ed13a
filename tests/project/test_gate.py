"""What cannot be saved and read again never enters a project, whichever way it comes."""

from __future__ import annotations

import json
import time
import unittest

from omakase.project.commands import EditBrief, EditHeader, replace
from omakase.project.demo import demo_project
from omakase.project.disk import ReadError, WriteError
from omakase.project.document import Document
from omakase.project.gate import Gate
from omakase.project.model import LoadCase
from omakase.project.panels import PressureLoad
from omakase.project.storage import from_bytes, to_bytes

HALF = "cut \ud83d emoji"


class Typed(unittest.TestCase):
    def setUp(self) -> None:
        self.document, self.told = Document(demo_project()), []
        self.document.refused.connect(self.told.append)

    def test_numbers_that_are_none_are_refused_and_named(self) -> None:
        brief = self.document.project.briefs[0]
        for value in (float("inf"), float("nan"), 1e200, -1e16):
            before = self.document.project
            case = LoadCase("l1", "x", (PressureLoad(value),))
            self.document.do(EditBrief(brief, replace(brief, load_cases=(case,)), "load"))
            self.assertIs(self.document.project, before)
            self.assertFalse(self.document.modified)
            self.assertIn("briefs[0].load_cases[0].loads[0].pressure", self.told[-1])
            with self.assertRaises(WriteError):
                to_bytes(replace(before, briefs=(replace(brief, load_cases=(case,)),)))

    def test_half_a_character_becomes_a_mark(self) -> None:
        self.document.do(EditHeader("", HALF, "si", "si", "title"))
        self.assertEqual(self.document.project.title, "cut \ufffd emoji")
        self.assertEqual(from_bytes(to_bytes(self.document.project), "x"), self.document.project)
        self.document.undo()
        self.document.redo()
        self.assertEqual(self.document.project.title, "cut \ufffd emoji")

    def test_too_many_of_a_thing(self) -> None:
        brief = self.document.project.briefs[0]
        cases = tuple(LoadCase(f"l{i}", "x") for i in range(3000))
        self.document.do(EditBrief(brief, replace(brief, load_cases=cases), "loads"))
        self.assertIn("3,000 entries", self.told[-1])

    def test_an_edit_looks_only_at_what_is_new(self) -> None:
        gate, project = Gate(), demo_project()
        start = time.perf_counter()
        gate.passed(project)
        whole = time.perf_counter() - start
        brief = replace(project.briefs[0], note="new")
        edited = replace(project, briefs=(brief, *project.briefs[1:]))
        start = time.perf_counter()
        gate.passed(edited)
        self.assertLess(time.perf_counter() - start, whole)


class Read(unittest.TestCase):
    def records(self) -> dict:
        return json.loads(to_bytes(demo_project()))

    def test_what_a_file_may_not_hold(self) -> None:
        text = json.dumps(self.records())
        start = '"length": 0.62'
        for value, words in (("1e400", "not a finite"), ("1e299", "larger"), ("9" * 5000, "digits"), ("NaN", "NaN"),
                             ("-Infinity", "Infinity"), ("9" * 300, "larger")):  # fmt: skip
            with self.subTest(value[:10]), self.assertRaisesRegex(ReadError, words):
                from_bytes(text.replace(start, f'"length": {value}', 1).encode(), "x")

    def test_surrogates_in_texts_and_choices(self) -> None:
        records = self.records()
        records["title"] = HALF
        records["briefs"][0]["candidates"][0]["name"] = HALF
        project = from_bytes(json.dumps(records).encode(), "x")
        self.assertEqual(from_bytes(to_bytes(project), "x"), project)
        records["units"] = HALF
        with self.assertRaises(ReadError) as raised:
            from_bytes(json.dumps(records).encode(), "x")
        str(raised.exception).encode()
        records["units"], records[HALF] = "si", 1
        with self.assertRaises(ReadError) as raised:
            from_bytes(json.dumps(records).encode(), "x")
        str(raised.exception).encode()

    def test_deep_and_many(self) -> None:
        records = self.records()
        deep: object = []
        for _ in range(300):
            deep = [deep]
        with self.assertRaisesRegex(ReadError, "levels deep"):
            from_bytes(json.dumps(records | {"note": deep}).encode(), "x")
        records["briefs"][0]["candidates"] *= 100
        with self.assertRaisesRegex(ReadError, "entries; at most"):
            from_bytes(json.dumps(records).encode(), "x")
