"""Quantities as people type them, against conversion factors of NIST Special Publication 811 (2008)."""

from __future__ import annotations

import contextlib
import math
import unittest

from hypothesis import assume, given, settings
from hypothesis import strategies as st

from omakase.units import FIELD, TYPED, QuantityError, format_value, parse_number, parse_quantity
from omakase.units.display import DIMENSIONS, from_display
from omakase.units.parse import DEGREES, DIMENSION_NAMES, LARGEST, SI_UNITS

INCH, POUND, POUND_FORCE = 0.0254, 0.45359237, 4.4482216152605


class Typed(unittest.TestCase):
    def test_spellings(self) -> None:
        cases = [
            ("1/8 in", "length", INCH / 8),
            ("1 1/2 in", "length", 1.5 * INCH),
            ("1½ in", "length", 1.5 * INCH),
            ('⅛"', "length", INCH / 8),
            ("5'", "length", 12 * 5 * INCH),
            ("12,5 mm", "length", 0.0125),
            ("12.5", "length", 0.0125),
            ("20 mil", "length", 20e-3 * INCH),
            ("5.6 oz/yd2", "areal_mass", 5.6 * POUND / 16 / (36 * INCH) ** 2),
            ("5.6 oz/yd²", "areal_mass", 5.6 * POUND / 16 / (36 * INCH) ** 2),
            ("200 gsm", "areal_mass", 0.2),
            ("6 pcf", "density", 6 * POUND / (12 * INCH) ** 3),
            ("6 lb/ft^3", "density", 6 * POUND / (12 * INCH) ** 3),
            ("98 kgf", "force", 98 * 9.80665),
            ("220 lbf", "force", 220 * POUND_FORCE),
            ("2.7 gal water", "force", 2.7 * 3.785411784e-3 * 998.2 * 9.80665),
            ("10 l of water", "mass", 9.982),
            ("30 inHg", "pressure", 30 * 3386.389),
            ("14.7 psi", "pressure", 14.7 * POUND_FORCE / INCH**2),
            ("10 Msi", "modulus", 10e6 * POUND_FORCE / INCH**2),
            ("1.5e3 Pa", "pressure", 1500.0),
            ("−3 kPa", "pressure", -3000.0),
            ("45°", "angle", 45.0),
            ("-45 deg", "angle", -45.0),
            ("4 g", "acceleration", 4.0),
            ("115 %", "ratio", 1.15),
            ("1200 rpm", "frequency", 20.0),
        ]
        for text, dimension, expected in cases:
            with self.subTest(text):
                self.assertAlmostEqual(parse_quantity(text, dimension) / expected, 1.0, delta=2e-6)

    def test_refused_with_a_reason(self) -> None:
        cases = [
            ("12 kg", "length", "does not fit"),
            ("90 kg", "force", "kgf"),
            ("", "length", "type a number"),
            ("thick", "length", "does not start with a number"),
            ("1,250 mm", "length", "write it plainly"),
            ("1/0 in", "length", "fraction"),
            ("5 furloughs", "length", "not a unit"),
            ("nan", "length", "number"),
            ("1e999 mm", "length", "beyond"),
            ("5 mm; import os", "length", "not a unit"),
            ("9" * 500, "length", "too long"),
            ("45 mm", "angle", "does not fit"),
            ("1.2.3", "length", "decimal mark"),
        ]
        for text, dimension, part in cases:
            with self.subTest(text), self.assertRaises(QuantityError) as caught:
                parse_quantity(text, dimension)
            self.assertIn(part, str(caught.exception))

    @given(st.text("0123456789½,.eE+-−/ *^²()mingftlbokPa'\"%°#", max_size=14), st.sampled_from(["length", "force"]))
    @settings(deadline=None, max_examples=300)
    def test_whatever_is_typed_is_read_or_refused(self, text: str, dimension: str) -> None:
        with contextlib.suppress(QuantityError):
            self.assertTrue(math.isfinite(parse_quantity(text, dimension)))

    def test_numbers(self) -> None:
        self.assertEqual(parse_number("1.250,5 mm"), (1250.5, "mm"))
        self.assertEqual(parse_number("1,250.5"), (1250.5, ""))
        self.assertEqual(parse_number("3-1/4 in")[0], 3.25)

    @given(
        st.sampled_from([d for d in DIMENSIONS if d != "strain"]),
        st.floats(1e-4, 1e6),
        st.sampled_from(["si", "inch_pound"]),
    )
    @settings(deadline=None, max_examples=150)
    def test_what_is_shown_reads_back(self, dimension: str, shown: float, system: str) -> None:
        """A field's own text, left as it stands, must mean the same value again."""
        value = from_display(shown, dimension, system)
        assume(value < LARGEST)  # fields take no more than that
        text = format_value(value, dimension, system, with_unit=True, digits=TYPED)
        self.assertTrue(math.isclose(parse_quantity(text, dimension, system), value, rel_tol=1e-8))

    def test_temperatures(self) -> None:
        """Fixed points of the scales: ice melts at 32 °F = 0 °C, water boils at 212 °F, both scales meet at −40."""
        for text, system, kelvin in (
            ("32 °F", "si", 273.15), ("212 F", "si", 373.15), ("100 °C", "inch_pound", 373.15), ("-40", "si", 233.15),
            ("-40", "inch_pound", 233.15), ("0 K", "si", 0.0),
        ):  # fmt: skip
            self.assertAlmostEqual(parse_quantity(text, "temperature", system), kelvin, places=9)  # type: ignore[arg-type]
        self.assertEqual(format_value(373.15, "temperature", "inch_pound", with_unit=True), "212 °F")
        self.assertAlmostEqual(parse_quantity("18 F", "temperature_change"), 10.0)
        self.assertAlmostEqual(parse_quantity("10 ppm/F", "expansion"), 18e-6)
        self.assertAlmostEqual(parse_quantity("90 min", "duration"), 5400.0)
        with self.assertRaisesRegex(QuantityError, "a temperature is wanted"):
            parse_quantity("20 mm", "temperature")

    def test_every_dimension_is_known_to_both_sides(self) -> None:
        for dimension in set(DIMENSIONS) - {"strain"}:  # strains are shown and never typed
            self.assertIn(dimension, DIMENSION_NAMES)
            self.assertTrue(
                dimension in SI_UNITS or dimension in DEGREES or dimension in ("angle", "acceleration"), dimension
            )


class Shown(unittest.TestCase):
    def test_digits(self) -> None:
        self.assertEqual(format_value(0.0063307, "deflection", "si", with_unit=True), "6.33 mm")
        self.assertEqual(format_value(0.9, "length", "inch_pound", with_unit=True, digits=FIELD), "35.4 in")
        self.assertEqual(format_value(0.016, "length", "inch_pound", with_unit=True, digits=FIELD), "0.63 in")
        self.assertEqual(format_value(0.9, "mass", "inch_pound", with_unit=True, digits=FIELD), "1.98 lb")
        self.assertEqual(format_value(20000.0, "force", "inch_pound", digits=FIELD), "4500")
        self.assertEqual(format_value(24.125 * 0.0254, "length", "inch_pound", digits=FIELD), "24.125")
        self.assertEqual(format_value(-0.25, "length", "si"), "−250.0")
        self.assertEqual(format_value(-1e-9, "length", "si"), "0.00")
        self.assertEqual(format_value(math.inf, "force", "si"), "∞")
        self.assertEqual(format_value(math.nan, "force", "si"), "–")


if __name__ == "__main__":
    unittest.main()
