"""The quick line: the laminate code of the field, short names, and mistakes told with their place."""

from __future__ import annotations

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from omakase.project.edits import keep_thicknesses
from omakase.project.library import shipped_materials
from omakase.project.model import LayerRecord
from omakase.project.quickline import QuickLineError, laminate_code, read_quick_line, write_quick_line

LIB = shipped_materials()


def brief(text: str, **more: object) -> list[str]:
    """'material@angle' or 'material:mm' of each layer."""
    layers = read_quick_line(text, LIB, **more)  # type: ignore[arg-type]
    return [
        f"{la.material}@{la.angle:g}" if la.thickness is None else f"{la.material}:{la.thickness * 1e3:g}"
        for la in layers
    ]


class Reads(unittest.TestCase):
    def test_lines(self) -> None:
        t = "twill200"
        cases = {
            "twill200": [f"{t}@0"],
            "2 twill200 ±45": [f"{t}@45", f"{t}@-45"],
            "3 twill200 30": [f"{t}@30"] * 3,
            "twill200 45/0/-45": [f"{t}@45", f"{t}@0", f"{t}@-45"],
            "twill200 45 ; core pvc80 12 ; twill200 0": [f"{t}@45", "pvc80:12", f"{t}@0"],
            "core pvc80 1/2 in": ["pvc80:12.7"],
            "al6082 3 mm": ["al6082:3"],
            "twill200 [45/0/core pvc80 10]s": [f"{t}@45", f"{t}@0", "pvc80:10", f"{t}@0", f"{t}@45"],
            "ud200 [0/90]s": ["ud200@0", "ud200@90", "ud200@90", "ud200@0"],
            "ud200 [0_2/90]": ["ud200@0", "ud200@0", "ud200@90"],
            "ud200 [0/90]2s": ["ud200@0", "ud200@90"] * 2 + ["ud200@90", "ud200@0"] * 2,
            "2 ud200 [0/90]": ["ud200@0", "ud200@90"] * 2,
            "2 pvc60 5": ["pvc60:5", "pvc60:5"],
        }
        for text, expected in cases.items():
            with self.subTest(text):
                self.assertEqual(brief(text), expected)

    def test_angles_and_core_taken_from_before(self) -> None:
        self.assertEqual(brief("[45/0/core]s", ply="ud200", core="hc48", core_thickness=0.0127)[2], "hc48:12.7")

    def test_roles(self) -> None:
        layers = read_quick_line("satin300 0 ns ; al6082 1 ; core ply-birch 6 @90 ; twill200", LIB)
        self.assertEqual([la.role for la in layers], ["ply", "ply", "core", "ply"])
        self.assertEqual([la.structural for la in layers], [False, True, True, True])
        self.assertEqual(layers[2].angle, 90.0)

    def test_inch_pound_thickness(self) -> None:
        self.assertAlmostEqual(read_quick_line("core pvc80 0.5", LIB, "inch_pound")[0].thickness or 0.0, 0.0127)


class Explains(unittest.TestCase):
    def test_mistakes(self) -> None:
        cases = {
            "": "type a layup",
            "twil200 45": "did you mean twill200",
            "twill200 x": "not an angle",
            "twill200 1e9": "not an angle",
            "twill200 1000000000": "outside −360",
            "core pvc80": "bought by thickness",
            "core pvc80 12 kg": "does not fit",
            "core pvc80 -3": "outside",
            "core twill200 3": "cannot serve as a core",
            "twill200 [45/0": "a bracket reads like",
            "[45/0]s": "name the cloth",
            "999 twill200": "outside 1 to 200",
            "ud200 [0_150/90_150]s": "more than 200",
            "x" * 3000: "too long",
        }
        for text, part in cases.items():
            with self.subTest(text[:30]), self.assertRaises(QuickLineError) as caught:
                read_quick_line(text, LIB)
            self.assertIn(part, str(caught.exception))

    def test_the_place_of_the_mistake(self) -> None:
        text = "2 twill200 ±45 ; core pvk80 12 ; twill200"
        with self.assertRaises(QuickLineError) as caught:
            read_quick_line(text, LIB)
        self.assertEqual(text[caught.exception.start : caught.exception.end], "pvk80")

    def test_cloth_that_is_no_layer(self) -> None:
        for name in ("c-twill200", "ep-slow", "f-eglass", "g-paste"):
            with self.assertRaisesRegex(QuickLineError, "make a ply of it first"):
                read_quick_line(f"{name} 0", LIB)

    @given(st.text("twil200 ±45/[]core;pvc80.,s@x_-½ns", max_size=60))
    @settings(deadline=None, max_examples=300)
    def test_whatever_is_typed_is_read_or_explained(self, text: str) -> None:
        try:
            self.assertTrue(read_quick_line(text, LIB))
        except QuickLineError as error:
            self.assertTrue(str(error))


PLIES = st.builds(
    LayerRecord,
    st.sampled_from(["twill200", "satin4"]),
    st.integers(-720, 720).map(lambda half: half / 2.0),
    st.none(),
    st.just("ply"),
    st.booleans(),
    st.booleans(),
)
THICK = st.builds(
    LayerRecord,
    st.sampled_from(["pvc80", "hc48"]),
    st.sampled_from([0.0, 90.0, -30.0]),
    st.integers(1, 4000).map(lambda n: round(n * 1e-5, 9)),
    st.just("core"),
    st.booleans(),
)


class Writes(unittest.TestCase):
    @given(st.lists(st.one_of(PLIES, THICK), min_size=1, max_size=12).map(tuple), st.sampled_from(["si", "inch_pound"]))
    @settings(deadline=None, max_examples=200)
    def test_what_is_written_reads_back(self, layers: tuple[LayerRecord, ...], system: str) -> None:
        again = keep_thicknesses(layers, read_quick_line(write_quick_line(layers, system), LIB, system))
        self.assertEqual(again, layers)

    def test_laminate_code(self) -> None:
        cases = {
            "twill200 [45/0/core pvc80 10]s": "[45/0/core 10]s",
            "twill200 45/0 ; core pvc80 10 ; twill200 0": "[45/0/core 10/0]",
            "ud200 [0/90]s": "[0/90]s",
            "al6082 3": "[al6082 3]",
            "satin300 0 ns ; twill200 45": "[0*/45]",
        }
        for line, code in cases.items():
            self.assertEqual(laminate_code(read_quick_line(line, LIB)), code)
        self.assertEqual(laminate_code(()), "[ ]")

    def test_a_mirror_turns_the_cloths_that_have_a_face(self) -> None:
        layers = read_quick_line("[satin4 0/core pvc80 10]s", LIB)
        self.assertEqual([layer.turned for layer in layers], [False, False, True])
        self.assertEqual(laminate_code(layers, "si", {"satin4"}), "[0/core 10]s")
        same_side = read_quick_line("satin4 0/90 ; satin4 45 turned ; twill200 0", LIB)
        self.assertEqual([layer.turned for layer in same_side], [False, False, True, False])
        self.assertEqual(laminate_code(same_side, "si", {"satin4"}), "[0/90/45ᵗ/0]")


if __name__ == "__main__":
    unittest.main()
