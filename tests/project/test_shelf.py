"""Materials as JSON and the user's shelf: entries that make no sense are named, a broken file is never written over."""

from __future__ import annotations

import json
import tempfile
import unittest
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

from omakase.project.disk import WriteError
from omakase.project.library import shipped_materials
from omakase.project.material_json import Shelf, read_library, write_library

LIB = shipped_materials()
ANYTHING = st.recursive(
    st.none() | st.booleans() | st.floats(allow_nan=False) | st.text(max_size=8),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=8), inner, max_size=3),
    max_leaves=12,
)


class Json(unittest.TestCase):
    def test_all_go_out_and_come_back(self) -> None:
        data = write_library(LIB.values())
        materials, errors = read_library(data)
        self.assertEqual(errors, [])
        self.assertEqual(write_library(materials), data)
        for material in materials:
            self.assertEqual((material.build, material.recipe), (LIB[material.id].build, LIB[material.id].recipe))

    def test_bad_entries_are_named_and_the_rest_is_taken(self) -> None:
        records = json.loads(write_library([LIB["pvc80"], LIB["twill200"], LIB["steel"], LIB["ep-slow"]]))
        entries = records["materials"]
        del entries[0]["properties"]["E3"]
        entries[1]["properties"]["E1"]["value"] = -5.0
        entries.append(dict(entries[2]))
        entries += [17, {"id": "x", "colour": "red"}]
        materials, errors = read_library(json.dumps(records).encode())
        self.assertEqual([material.id for material in materials], ["steel", "ep-slow"])
        self.assertEqual([error.line for error in errors], [1, 2, 5, 6, 7])
        for error, part in zip(errors, ("lacks E3", "outside", "twice", "int", "colour"), strict=True):
            self.assertIn(part, str(error))
            self.assertTrue(str(error).startswith("entry "))

    def test_other_files(self) -> None:
        for data, part in (
            (b"", "not JSON"), (b"\xff\xfe", "UTF-8"), (b"[]", "does not say"),
            (b'{"format": "omakase-project"}', "does not say"),
            (b'{"format": "omakase-library", "version": 99, "materials": []}', "reads 1 to"),
            (b'{"format": "omakase-library", "version": true, "materials": []}', "reads 1 to"),
            (b'{"format": "omakase-library", "version": 2}', "no list"), (b'{"x": NaN}', "NaN"),
            (b" " * 20_000_001, "more than"), (b"[" * 100_000, "not JSON"),
        ):  # fmt: skip
            materials, errors = read_library(data)
            self.assertEqual(materials, [])
            self.assertIn(part, str(errors[0]), data[:40])

    @given(ANYTHING)
    @settings(deadline=None, max_examples=60)
    def test_whatever_stands_for_a_material(self, entry: object) -> None:
        data = json.dumps({"format": "omakase-library", "version": 2, "materials": [entry]}).encode()
        materials, errors = read_library(data)
        self.assertEqual((materials, len(errors)), ([], 1))


class OnTheShelf(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "deep" / "shelf.json"

    def test_put_found_again_and_taken_off(self) -> None:
        Shelf(self.path).put(LIB["pvc80"])
        Shelf(self.path).put(LIB["twill200"])
        again = Shelf(self.path)
        self.assertEqual(list(again.materials), ["pvc80", "twill200"])
        again.remove("pvc80")
        self.assertEqual(list(Shelf(self.path).materials), ["twill200"])

    def test_a_broken_one_is_told_and_left(self) -> None:
        self.path.parent.mkdir()
        for broken in (b"not a shelf", write_library([LIB["pvc80"]]).replace(b'"E3"', b'"E9"')):
            self.path.write_bytes(broken)
            shelf = Shelf(self.path)
            self.assertTrue(shelf.problem)
            with self.assertRaisesRegex(WriteError, "left as it is"):
                shelf.put(LIB["steel"])
            self.assertEqual(self.path.read_bytes(), broken)

    def test_none_yet(self) -> None:
        shelf = Shelf(self.path)
        self.assertEqual((dict(shelf.materials), shelf.problem), ({}, ""))


if __name__ == "__main__":
    unittest.main()
