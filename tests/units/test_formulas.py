"""Formulas with dimensions: against the units library, and against what must not be worked out."""

from __future__ import annotations

import subprocess
import sys
import time
import unittest
from fractions import Fraction

from hypothesis import given, settings
from hypothesis import strategies as st

from omakase.units import QuantityError
from omakase.units.formula import (
    BASES,
    COMMON_UNITS,
    LONGEST,
    Value,
    as_field,
    dimension_text,
    in_unit,
    name_problem,
    names_in,
    shown_unit,
    work_out,
)
from omakase.units.parse import registry, unit_in_base, unit_names

NAMES = {
    name: work_out(text)
    for name, text in {
        "mass": "9.2 kg", "n": "3.8", "v": "34 m/s", "rho": "1.225 kg/m³", "span": "4.2 m", "area": "1.1 m²",
    }.items()
}  # fmt: skip
IN_PINT = {"mass": "9.2 kg", "n": "3.8", "v": "34 m/s", "rho": "1.225 kg/m**3", "span": "4.2 m", "area": "1.1 m**2"}


def by_pint(text: str) -> tuple[float, dict[str, int]]:
    """(SI value, powers of the base units) of the same formula, worked out by the library's own parser."""
    ureg = registry()
    names = {name: ureg.Quantity(own) for name, own in IN_PINT.items()}
    value = eval(text, {"__builtins__": {}}, {**names, "g0": ureg.Quantity("1 g0")})
    if not hasattr(value, "to_base_units"):
        return float(value), {}
    base = value.to_base_units()
    powers = {str(name): power for name, power in base.unit_items()}
    return float(base.magnitude) * 1e-3 ** powers.get("gram", 0), powers


class AgainstTheUnitsLibrary(unittest.TestCase):
    def test_formulas_of_the_trade(self) -> None:
        for text in (
            "mass * n * g0 / 2", "0.5 * rho * v**2 * area", "mass * g0 / area", "(span / 2)**3 * 4 - span * area",
            "2 * mass / (rho * area * span)", "-mass * n + 3 * mass", "v**2 / (g0 * n)", "(v * v)**0.5 + v",
        ):  # fmt: skip
            value, powers = by_pint(text)
            mine = work_out(text, NAMES)
            self.assertAlmostEqual(mine.number / value, 1.0, places=12, msg=text)
            symbols = {"gram": "kg", "meter": "m", "second": "s"}
            wanted = {symbols[name]: power for name, power in powers.items()}
            self.assertEqual({b: float(p) for b, p in zip(BASES, mine.dimension, strict=True) if p},
                             {name: float(power) for name, power in wanted.items()}, text)  # fmt: skip

    def test_units_that_need_no_library(self) -> None:
        for unit, (factor, *powers) in COMMON_UNITS.items():
            value, base = unit_in_base(unit)
            self.assertAlmostEqual(value / factor, 1.0, places=12, msg=unit)
            self.assertEqual([base.get(name, 0) for name in ("kg", "m", "s")], powers, unit)

    def test_names_of_units_are_those_of_the_library(self) -> None:
        ureg = registry()
        for name in unit_names():
            self.assertGreater(ureg.Quantity(1.0, ureg.parse_units(name)).to_base_units().magnitude, 0.0, name)
        for name in ("kg", "mm", "kN", "lbf", "pcf", "kgf", "inHg", "µm"):
            self.assertIn(name, unit_names())
        for name in ("mass", "span", "airspeed", "rider", "n", "rho", "q"):
            self.assertNotIn(name, unit_names())
            with self.assertRaises(QuantityError):
                unit_in_base(name)

    def test_a_usual_sheet_needs_no_library(self) -> None:
        """It takes a third of a second to import, which the start of the program does not have."""
        code = (
            "import sys; from omakase.project.demo import demo_project; from omakase.project.vehicle import Sheet; "
            "s = Sheet(demo_project().quantities); assert not s.problems; assert 'pint' not in sys.modules"
        )
        subprocess.run([sys.executable, "-c", code], check=True, timeout=60)

    @settings(deadline=None, max_examples=60)
    @given(st.recursive(
        st.sampled_from(["mass", "n", "span", "2", "0.5", "7"]),
        lambda inner: st.tuples(inner, st.sampled_from(["*", "/"]), inner).map(lambda own: f"({' '.join(own)})"),
        max_leaves=12,
    ))  # fmt: skip
    def test_any_product(self, text: str) -> None:
        self.assertAlmostEqual(work_out(text, NAMES).number / by_pint(text)[0], 1.0, places=10)


class AsPeopleWrite(unittest.TestCase):
    def test_numbers_with_units(self) -> None:
        for text, number in {
            "1/8 in": 0.003175, "1 1/2 in": 0.0381, "½ in": 0.0127, "12,5 kg": 12.5, "10 km/h": 10 / 3.6,
            "span + 1/8 in": 4.203175, "2 N/(4 m)": 0.5, "2 kN·m": 2000.0, "10 %": 0.1, "2 -1": 1.0, "− 3 kg": -3.0,
            "6 pcf": 96.11077, "3 m²*2": 6.0, "2·span": 8.4, "= 2 × n": 7.6,
        }.items():  # fmt: skip
            self.assertAlmostEqual(work_out(text, NAMES).number, number, places=4, msg=text)

    def test_functions(self) -> None:
        for text, number in {
            "sqrt(area / 4)": 0.5244, "sin(30°)": 0.5, "cos(pi)": -1.0, "tan(45 deg)": 1.0, "abs(-n)": 3.8,
            "min(3, 4)": 3.0, "max(span; 5 m; 1 m)": 5.0,
        }.items():  # fmt: skip
            self.assertAlmostEqual(work_out(text, NAMES).number, number, places=4, msg=text)

    def test_what_fits_a_field(self) -> None:
        self.assertAlmostEqual(as_field(work_out("mass * g0", NAMES), "force"), 90.221, places=3)
        self.assertAlmostEqual(as_field(work_out("3 * g0"), "acceleration"), 3.0)
        self.assertEqual(as_field(work_out("3"), "acceleration"), 3.0)
        self.assertEqual(as_field(work_out("5°"), "angle"), 5.0)
        self.assertEqual(as_field(work_out("300 K"), "temperature"), 300.0)
        for text, dimension, told in (
            ("mass", "force", "it comes to kg; a force is wanted"), ("2", "length", "a length is wanted"),
            ("span", "ratio", "a plain number is wanted"),
        ):  # fmt: skip
            with self.assertRaisesRegex(QuantityError, told):
                as_field(work_out(text, NAMES), dimension)

    def test_shown_in_a_unit_that_reads_back(self) -> None:
        for text in (
            "v",
            "mass * g0 / area",
            "rho",
            "rho * v**2",
            "mass * span",
            "1 / span",
            "mass * span / 2 s",
            "30°",
        ):
            value = work_out(text, NAMES)
            for system in ("si", "inch_pound"):
                unit = shown_unit(value, system)
                self.assertAlmostEqual(work_out(f"{in_unit(value, unit)!r} {unit}").number, value.number, places=9)
        self.assertEqual(dimension_text(work_out("mass * g0", NAMES).dimension), "kg m/s²")

    def test_names(self) -> None:
        self.assertEqual(names_in("= mass * n * g0 / max(a; b_2) + 3 kg"), ("mass", "n", "a", "b_2"))
        for name, told in {"mass": "", "Spannweite_1": "", "kg": "unit", "mm": "unit", "g0": "taken", "min": "taken",
                           "2x": "letter", "a b": "letter", "": "letter", "v²": "letter"}.items():  # fmt: skip
            self.assertIn(told, name_problem(name), name)
            self.assertEqual(bool(told), bool(name_problem(name)), name)


class Hostile(unittest.TestCase):
    def test_a_message_in_milliseconds(self) -> None:
        for text, told in {
            "__import__('os').system('x')": "not part of a formula", "mass.__class__": "not part of a formula",
            "lambda: 1": "not part of a formula", "open(1)": "not a function", "eval(1)": "not a function",
            "9^9^9^9": "beyond", "2^99999999999999999999": "beyond", "9e99 * 9e99": "beyond all bounds",
            "(" * 30 + "1" + ")" * 30: "deep", "-" * 190 + "1": "too long", "1" * 5000: "characters",
            "mass + n": "cannot be added", "n / (n - n)": "divides by zero", "0^-1": "divides by zero",
            "(0-8)^0.5": "not negative", "sqrt(0-1)": "not negative", "min(1)": "two values", "mass n": "not expected",
            "2 n": "write \\*", "2 N/n": "spaces", "20 °C": "in K", "(1": "not closed", "2 *": "missing at its end",
            "": "missing", "x": "no quantity 'x'", "mass^0.3333 + 1 kg": "cannot be added", "sin(mass)": "plain number",
            "[x for x in y]": "not part", "a = 3": "not part", "1;2": "not expected", "\u0000": "not part",
            "((mass^6)^6)^6": "beyond all bounds",
        }.items():  # fmt: skip
            start = time.perf_counter()
            with self.assertRaisesRegex(QuantityError, told, msg=text[:40]):
                work_out(text, NAMES)
            self.assertLess(time.perf_counter() - start, 0.5, text[:40])  # a bound, not a measurement: milliseconds

    @settings(deadline=None, max_examples=300)
    @given(st.text(alphabet="manxv0123456789.+-*/^()²³·,; °%eE_'\"[]", max_size=LONGEST + 5))
    def test_whatever_is_typed(self, text: str) -> None:
        try:
            value = work_out(text, NAMES)
        except QuantityError:
            return
        self.assertIsInstance(value, Value)
        self.assertTrue(abs(value.number) <= 1e30)
        self.assertTrue(all(isinstance(power, Fraction) for power in value.dimension))
