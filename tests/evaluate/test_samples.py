"""Samples: readings as they were written down, and the areal bookkeeping backwards."""

from __future__ import annotations

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from omakase.core.errors import MaterialError
from omakase.core.materials.areal import ply_masses, ply_thickness
from omakase.evaluate.materials.samples import disagree, report
from omakase.project import materials as own
from omakase.project import samples as edits
from omakase.project.commands import replace
from omakase.project.demo import demo_project
from omakase.project.document import Document
from omakase.project.library import materials_of, shipped_materials
from omakase.project.model import Reading, Sample
from omakase.project.quickline import read_quick_line
from omakase.units import QuantityError, last_place, parse_reading

LIB = shipped_materials()


def sample(line: str, *masses: str, length: float = 0.3, width: float = 0.3) -> Sample:
    made = Sample("s1", "plate", read_quick_line(line, LIB), length, width)
    for place, text in enumerate(masses):
        made = edits.read_mass(made, place, text, "si")
    return made


class Readings(unittest.TestCase):
    def test_the_worth_of_the_last_digit(self) -> None:
        for text, worth in (("412 g", 1.0), ("14.50 oz", 0.01), ("1/8 in", 0.125), ("1 1/2 lb", 0.5), ("1.2e3", 100.0),
                            ("1,25 kg", 0.01), ("½ in", 0.5), (".5", 0.1)):  # fmt: skip
            self.assertAlmostEqual(last_place(text), worth, places=12, msg=text)
        value, half = parse_reading("14.5 oz", "mass")
        self.assertAlmostEqual(value, 14.5 * 0.45359237 / 16.0)
        self.assertAlmostEqual(half, 0.05 * 0.45359237 / 16.0)
        self.assertEqual(parse_reading("20 °C", "temperature"), (293.15, 0.5))
        with self.assertRaises(QuantityError):
            last_place("grams")

    def test_two_units_for_one_mass(self) -> None:
        """163 g and 5.75 oz are one mass (5.75 oz = 163.0 g); 112 g and 4.2 oz (119 g) are not."""
        for first, second, wrong in (("163 g", "5.75 oz", False), ("112 g", "4.2 oz", True), ("412 g", "14.5 oz", 0),
                                     ("1.000 kg", "1001 g", False), ("1.000 kg", "1002 g", True)):  # fmt: skip
            readings = [Reading(*parse_reading(text, "mass"), text) for text in (first, second)]
            self.assertEqual(disagree(*readings), wrong, (first, second))


class Reports(unittest.TestCase):
    def test_what_was_weighed_gives_the_resin_back(self) -> None:
        """One each side on foam, by hand: 2 × 200 g/m² cloth, 800 g/m² core and its uptake; the rest is resin."""
        made = sample("twill200 0 ; core pvc80 10 ; twill200 0", "163 g")
        told = report(made, LIB)
        uptake = 2 * LIB["pvc80"].value("resin_uptake")
        resin = 0.163 / 0.09 - 0.4 - 0.8 - uptake
        self.assertAlmostEqual(told.fraction, resin / (resin + 0.4))
        self.assertAlmostEqual(told.predicted_fraction, LIB["twill200"].value("resin_mass_fraction"))
        self.assertAlmostEqual(told.mass_difference, 0.163 / told.predicted_mass - 1.0)

    @given(st.floats(0.3, 0.65))
    @settings(deadline=None, max_examples=30)
    def test_a_sample_of_known_resin(self, fraction: float) -> None:
        command = own.from_sample(demo_project(), ["twill200"], fraction, "x")
        changed = command.apply(demo_project())
        ply = materials_of(changed)["twill200"]
        mass = 3 * sum(ply_masses(ply)) * 0.04
        made = replace(sample("twill200 0/45/0", length=0.2, width=0.2), masses=(Reading(mass, 0.0, "x"),))
        self.assertAlmostEqual(report(made, LIB).fraction, fraction, places=9)

    def test_warnings(self) -> None:
        apart = report(sample("twill200 0/0", "112 g", "4.2 oz"), LIB)
        self.assertIn("not the same mass", apart.warnings[0])
        self.assertIsNone(apart.weighed)
        light = report(sample("twill200 0/0", "20 g"), LIB)
        self.assertIsNone(light.fraction)
        self.assertIn("lighter than its cloth", light.warnings[0])
        thick = report(edits.read_thickness(sample("twill200 0/0"), "5 mm", "si"), LIB)
        self.assertIn("far from", thick.warnings[0])
        self.assertAlmostEqual(thick.thickness_difference, 5e-3 / thick.predicted_thickness - 1.0)
        self.assertEqual(report(sample("twill200 0/0"), LIB).warnings, ())

    def test_voids_from_mass_and_thickness(self) -> None:
        """Three plies of known resin share, laid without a void: measured 4 % thicker, 1 − 1/1.04 of it is air."""
        ply = LIB["twill200"]
        mass = 3 * sum(ply_masses(ply)) * 0.04
        solid = 3 * ply_thickness(ply)
        made = replace(sample("twill200 0/45/0", length=0.2, width=0.2), masses=(Reading(mass, 0.0, "x"),))
        for share, expected in ((1.04, 1.0 - 1.0 / 1.04), (1.0, 0.0)):
            voids = report(replace(made, thickness=Reading(solid * share, 5e-6, "x")), LIB).voids
            self.assertAlmostEqual(voids[0], expected, places=9)
            self.assertAlmostEqual(voids[1], 5e-6 / solid / share**2, delta=2e-4)
        thin = report(replace(made, thickness=Reading(solid * 0.93, 5e-6, "x")), LIB)
        self.assertIsNone(thin.voids)
        self.assertIn("thinner than its fibres and resin", thin.warnings[-1])
        cored = sample("twill200 0 ; core pvc80 10 ; twill200 0", "163 g")
        self.assertIsNone(report(edits.read_thickness(cored, "10.5 mm", "si"), LIB).voids)

    def test_what_cannot_be_worked_out_says_why(self) -> None:
        self.assertIn("empty", report(Sample("s", "s"), LIB).error)
        self.assertIn("positive", report(sample("twill200 0", length=0.0), LIB).error)

    def test_readings_come_and_go(self) -> None:
        made = sample("twill200 0", "10 g", "0.35 oz")
        self.assertEqual([m.text for m in made.masses], ["10 g", "0.35 oz"])
        self.assertEqual([m.text for m in edits.read_mass(made, 0, "", "si").masses], ["0.35 oz"])
        self.assertIsNone(edits.read_thickness(edits.read_thickness(made, "1 mm", "si"), " ", "si").thickness)
        with self.assertRaises(QuantityError):
            edits.read_mass(made, 0, "10 mm", "si")

    def test_the_plies_of_a_project_take_the_share_over(self) -> None:
        document = Document(demo_project())
        before = document.project
        document.do(own.from_sample(document.project, ["twill200", "twill160"], 0.5, "trial plate"))
        materials = materials_of(document.project)
        for name in ("twill200", "twill160"):
            self.assertEqual(materials[name].properties["resin_mass_fraction"].source, "tested")
            self.assertIn("trial plate", materials[name].properties["resin_mass_fraction"].note)
            self.assertLess(materials[name].value("E1"), LIB[name].value("E1"))
        document.undo()
        self.assertEqual(document.project, before)
        with self.assertRaises(MaterialError):
            own.from_sample(document.project, ["twill200"], 1.5, "x")


if __name__ == "__main__":
    unittest.main()
