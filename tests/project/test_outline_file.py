"""Files of coordinates: what they hold is read, what is wrong is named by its line."""

from __future__ import annotations

import unittest

from omakase.core.errors import MemberError
from omakase.core.sections.drawn import MOST_POINTS
from omakase.project.outline_file import OutlineFileError, read_outline


class Outlines(unittest.TestCase):
    def points(self, text: str) -> list[tuple[float, float]]:
        return [(point.y, point.z) for point in read_outline(text)]

    def test_numbers_apart_by_anything(self) -> None:
        expected = [(0.0, 0.0), (10.5, 0.0), (10.5, 4.0)]
        for text in (
            "0 0\n10.5 0\n10.5 4\n", "section\n0,0\n10.5,0\n10.5,4", "0;0\r\n10,5;0\r\n10,5;4\r\n0;0",
            "# by hand\n\n0\t0\n 10.5\t0 \n1.05e1\t4",
        ):  # fmt: skip
            with self.subTest(text):
                self.assertEqual(self.points(text), expected)

    def test_what_is_wrong_is_named_by_its_line(self) -> None:
        for text, words in (
            ("0 0\n1 x\n1 1", "line 2: 'x'"), ("title\n0 0\n1 0 3\n1 1", "line 3: two numbers"),
            ("0 0\n1 0\n1 0\n1 1", "line 3: the same point as on line 2"), ("0 0\n1 1", "three points"),
            ("0 0\n1 nan\n1 1", "line 2: 'nan' is not a finite"), ("", "three points"),
        ):  # fmt: skip
            with self.subTest(text), self.assertRaisesRegex(OutlineFileError, words):
                read_outline(text)
        with self.assertRaisesRegex(MemberError, "crosses itself"):
            read_outline("0 0\n1 1\n1 0\n0 1")

    def test_of_many_points_those_are_kept_that_make_the_shape(self) -> None:
        side = [(k / 200.0, 0.0) for k in range(200)]
        text = "\n".join(f"{y} {z}" for y, z in [*side, (1.0, 0.5), (0.0, 0.5)])
        kept = self.points(text)
        self.assertLessEqual(len(kept), MOST_POINTS)
        for corner in ((0.0, 0.0), (1.0, 0.5), (0.0, 0.5)):
            self.assertIn(corner, kept)


if __name__ == "__main__":
    unittest.main()
