"""Units by their grammar, and arithmetic in fields: nothing typed is evaluated, whatever it is."""

from __future__ import annotations

import time
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from omakase.units import QuantityError, parse_quantity
from omakase.units.expression import ExpressionError, factors
from omakase.units.parse import SI_UNITS, registry


class Grammar(unittest.TestCase):
    def test_products_quotients_and_powers(self) -> None:
        for text, expected in (
            ("kg/m³", [("kg", 1), ("m", -3)]),
            ("kg/m**3", [("kg", 1), ("m", -3)]),
            ("N·m", [("N", 1), ("m", 1)]),
            ("ft lbf", [("ft", 1), ("lbf", 1)]),
            ("µm/(m K)", [("µm", 1), ("m", -1), ("K", -1)]),
            ("(m/s)^2", [("m", 2), ("s", -2)]),
            ("m/s/s", [("m", 1), ("s", -1), ("s", -1)]),
            ("1/s", [("s", -1)]),
            ("oz/yd2", [("oz", 1), ("yd", -2)]),
            ("m^-1", [("m", -1)]),
        ):
            self.assertEqual(factors(text), expected, text)

    def test_what_is_refused(self) -> None:
        for text in ("9**9**9 m", "m**9", "m^99999", "m/", "(m", "m)", "(((((((m)))))))", "m**m", "2 m", "m + s", "m;s",
                     "__import__('os')", "m**1.5", "lambda: 0", "m[0]", "m.n", ""):  # fmt: skip
            with self.subTest(text), self.assertRaises(ExpressionError):
                factors(text)

    def test_as_the_units_library_has_them(self) -> None:
        """Against pint's own reading of the same units written its way."""
        ureg = registry()
        for text, other, dimension in (
            ("oz/yd2", "oz/yd**2", "areal_mass"), ("lb/ft³", "lb/ft**3", "density"), ("N·m", "N*m", "bending"),
            ("kgf/(cm cm)", "kgf/cm**2", "pressure"), ("in lbf", "inch*lbf", "energy"), ("1/min", "1/min", "frequency"),
        ):  # fmt: skip
            expected = ureg.Quantity(3.0, other).to(SI_UNITS[dimension]).magnitude
            self.assertAlmostEqual(parse_quantity(f"3 {text}", dimension) / expected, 1.0, places=12)

    @given(st.text(alphabet="0123456789*^/()·. ²³-+eEmkgNlbx%'\"μ°", max_size=60))
    @settings(deadline=None, max_examples=400)
    def test_any_text_is_answered_at_once(self, text: str) -> None:
        start = time.perf_counter()
        for dimension in ("length", "force", "ratio"):
            try:
                value = parse_quantity(text, dimension)
            except QuantityError as error:
                self.assertTrue(str(error))
            else:
                self.assertLessEqual(abs(value), 1e15)
        self.assertLess(time.perf_counter() - start, 2.0)


class Arithmetic(unittest.TestCase):
    def test_worked_out(self) -> None:
        for text, dimension, expected in (
            ("200 lb * 2", "mass", 400 * 0.45359237),
            ("2 × 3 in", "length", 0.1524),
            ("8 mm / 4", "length", 0.002),
            ("8 mm/4", "length", 0.002),
            ("1 m + 20 mm - 1 cm", "length", 1.01),
            ("620 / 2", "length", 0.31),
            ("5 mm * 2 / 4", "length", 0.0025),
            ("1/8 in", "length", 0.003175),
            ("10 N/m", "line_load", 10.0),
        ):
            self.assertAlmostEqual(parse_quantity(text, dimension), expected, places=12, msg=text)

    def test_not_worked_out(self) -> None:
        lengths = "8 mm / 0", "1 m + 2 kg", "1 m +", "* 2", "2 m * 3 m", "1e300 m", "9" * 400, "1 9**9**9 m"
        others = ("20 °C + 5 °C", "temperature"), ("1e299 Msi", "modulus")
        for text, dimension in (*((text, "length") for text in lengths), *others):
            with self.subTest(text), self.assertRaises(QuantityError):
                parse_quantity(text, dimension)
