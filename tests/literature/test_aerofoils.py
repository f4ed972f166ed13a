"""4-digit aerofoils against tabulated ordinates, their defining properties, and the section that they make."""

from __future__ import annotations

import unittest

import numpy as np
from scipy.integrate import quad

from omakase.core.errors import MemberError
from omakase.core.sections.aerofoils import camber, digits, four_digit, half_thickness, sides
from omakase.core.sections.drawn import DrawnOutline

# station, upper and lower side of the profile 2412 in percent of the chord (Abbott and von Doenhoff, Theory of Wing
# Sections, appendix III; from memory)
TABLE = (
    (5.0, 4.13, -3.01), (10.0, 5.63, -3.75), (20.0, 7.26, -4.23), (30.0, 7.88, -4.12), (40.0, 7.80, -3.80),
    (50.0, 7.24, -3.34), (60.0, 6.36, -2.76), (70.0, 5.18, -2.14), (80.0, 3.75, -1.50), (90.0, 2.08, -0.82),
)  # fmt: skip


class Ordinates(unittest.TestCase):
    def test_tabulated_ones(self) -> None:
        upper, lower = (own[np.argsort(own[:, 0])] for own in sides("2412", np.linspace(0.0, 1.0, 2001)))
        for x, above, below in TABLE:
            self.assertAlmostEqual(100.0 * np.interp(x / 100.0, upper[:, 0], upper[:, 1]), above, delta=0.02)
            self.assertAlmostEqual(100.0 * np.interp(x / 100.0, lower[:, 0], lower[:, 1]), below, delta=0.02)

    def test_what_the_digits_state(self) -> None:
        """Largest thickness at 30 % and largest camber where they say."""
        x = np.linspace(0.0, 1.0, 10001)
        half = half_thickness(x, 0.15)
        self.assertAlmostEqual(2.0 * half.max(), 0.15, delta=1e-4)
        self.assertAlmostEqual(x[np.argmax(half)], 0.3, delta=0.002)
        height, slope = camber(x, 0.04, 0.6)
        self.assertAlmostEqual(height.max(), 0.04, places=9)
        self.assertAlmostEqual(x[np.argmax(height)], 0.6, delta=1e-3)
        np.testing.assert_allclose(np.gradient(height, x)[1:-1], slope[1:-1], atol=2e-5)
        self.assertEqual(digits("6409"), (0.06, 0.4, 0.09))

    def test_a_symmetric_one_is_its_own_mirror_image(self) -> None:
        points = np.array(four_digit("0012"))
        mirrored = points[0:1].tolist() + (points[:0:-1] * [1.0, -1.0]).tolist()
        np.testing.assert_allclose(points, mirrored, atol=1e-9)

    def test_numbers_that_are_none(self) -> None:
        for number, told in (
            ("24", "four digits"), ("24l2", "four digits"), ("241\u0662", "four digits"), ("2402", "last two digits"),
            ("0099", "last two digits"), ("0412", "without camber"), ("2012", "without camber"),
        ):  # fmt: skip
            with self.assertRaisesRegex(MemberError, told):
                four_digit(number)


class Area(unittest.TestCase):
    def test_area_and_second_moment_by_quadrature(self) -> None:
        """The polygon's, against quadrature of the equation between its ends; 33 points lose half a percent."""
        points = np.array(four_digit("0012"))
        after = np.roll(points, -1, axis=0)
        cross = points[:, 0] * after[:, 1] - after[:, 0] * points[:, 1]
        z = points[:, 1] ** 2 + points[:, 1] * after[:, 1] + after[:, 1] ** 2
        area, second = abs(cross.sum()) / 2.0, abs((cross * z).sum()) / 12.0
        ends = points[:, 0].min(), points[:, 0].max()
        exact = quad(lambda x: 2.0 * half_thickness(x, 0.12), *ends)[0]
        self.assertAlmostEqual(area / exact, 1.0, delta=0.007)
        exact = quad(lambda x: 2.0 / 3.0 * half_thickness(x, 0.12) ** 3, *ends)[0]
        self.assertAlmostEqual(second / exact, 1.0, delta=0.018)

    def test_every_profile_makes_an_outline(self) -> None:
        for number in ("0004", "0040", "2412", "4415", "6409", "9940", "9104"):
            self.assertGreater(DrawnOutline(four_digit(number), (0.3,)).aspect, 0.02)


if __name__ == "__main__":
    unittest.main()
