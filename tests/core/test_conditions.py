"""Strength where the part works, grades between grades, and cloths of two fibres."""

from __future__ import annotations

import math
import unittest

import numpy as np

from omakase.core.errors import MaterialError
from omakase.core.materials.cloth import make_ply
from omakase.core.materials.conditions import ROOM, heat_factor, in_service, thickness_factor
from omakase.core.materials.grades import grade_between, grades_of
from omakase.core.materials.material import Build, Material, Recipe
from omakase.core.materials.micromechanics import lamina, side_by_side
from omakase.project.library import shipped_materials

LIB = shipped_materials()
HOT = ROOM + 30.0


class Heat(unittest.TestCase):
    def test_chamis_s_factor(self) -> None:
        """√((T_gw − T)/(T_gd − T_0)), NASA TM-83320 (1983); slow epoxy T_g 75 °C dry and 55 °C wet, worked by hand:
        53.15 °C dry √(21.85/52) = 0.648, 40 °C wet √(15/52) = 0.537."""
        ply = LIB["twill200"]
        self.assertAlmostEqual(heat_factor(ply, 326.30, False), 0.648, places=3)
        self.assertAlmostEqual(heat_factor(ply, 313.15, True), 0.537, places=3)

    def test_limits(self) -> None:
        ply = LIB["ud200"]
        self.assertEqual(heat_factor(ply, ROOM, False), 1.0)
        self.assertEqual(heat_factor(ply, 200.0, False), 1.0)  # cold is not counted as stronger
        self.assertEqual(heat_factor(ply, 500.0, False), 0.05)
        self.assertEqual(heat_factor(LIB["al6082"], 350.0, True), 1.0)
        factors = [heat_factor(ply, ROOM + rise, False) for rise in range(0, 60, 5)]
        self.assertEqual(factors, sorted(factors, reverse=True))
        self.assertIs(in_service(ply, None, ROOM, False), ply)

    def test_only_what_the_resin_carries(self) -> None:
        for name in ("twill200", "ud200", "biax300"):
            before, after = LIB[name], in_service(LIB[name], None, HOT, False)
            share = heat_factor(before, HOT, False)
            for key in ("Xt", "E1", "E2", "G12"):
                self.assertEqual(after.value(key), before.value(key), (name, key))
            for key in ("Xc", "S12", "S13", "S23"):
                self.assertAlmostEqual(after.value(key) / before.value(key), share, places=5)
                self.assertEqual(after.properties[key].source, "estimated")
            # across, woven cloth has fibres and a tape has none
            self.assertAlmostEqual(after.value("Yt") / before.value("Yt"), share if name == "ud200" else 1.0, places=5)
            self.assertIn("53 °C (127 °F)", after.conditions[0])


class ThickHoneycomb(unittest.TestCase):
    def test_thicker_than_tested_is_weaker(self) -> None:
        honeycomb = LIB["hc48"]
        self.assertEqual(thickness_factor(honeycomb, 0.006), 1.0)
        self.assertEqual(thickness_factor(honeycomb, 0.0127), 1.0)
        self.assertAlmostEqual(thickness_factor(honeycomb, 0.0254), 2.0**-0.2)
        self.assertEqual(thickness_factor(LIB["pvc80"], 0.05), 1.0)
        self.assertGreater(thickness_factor(LIB["alhc50"], 0.0254), thickness_factor(honeycomb, 0.0254))
        thick = in_service(honeycomb, 0.0254, ROOM, False)
        self.assertAlmostEqual(thick.value("S23") / honeycomb.value("S23"), 0.8706, places=4)
        self.assertEqual(thick.value("Zc"), honeycomb.value("Zc"))


class Grades(unittest.TestCase):
    def test_a_grade_that_is_there_comes_back(self) -> None:
        grades = grades_of("pvc80", LIB)
        self.assertEqual([own.id for own in grades], ["pvc60", "pvc80", "pvc130", "pvc200"])
        for own in grades:
            found = grade_between(LIB["pvc80"], grades, own.value("density"))
            for key in ("G13", "S13", "Zc", "E3"):
                self.assertAlmostEqual(found.value(key) / own.value(key), 1.0, places=9)

    def test_between_two_the_logarithms_go_straight(self) -> None:
        grades = grades_of("balsa150", LIB)
        low, high = grades[0], grades[-1]
        found = grade_between(low, grades, math.sqrt(low.value("density") * high.value("density")))
        self.assertAlmostEqual(found.value("S13"), math.sqrt(low.value("S13") * high.value("S13")))
        self.assertEqual(found.properties["S13"].source, "estimated")
        self.assertEqual(found.value("open_cells"), 1.0)

    def test_not_beyond_the_grades(self) -> None:
        with self.assertRaisesRegex(MaterialError, "outside the grades known"):
            grade_between(LIB["pvc80"], grades_of("pvc80", LIB), 250.0)
        self.assertEqual(grades_of("xps35", LIB), [])


class Hybrids(unittest.TestCase):
    def made(self, build: Build) -> Material:
        cloth = LIB["c-twill200"]
        hybrid = Material("x-test", "test", "cloth", "carbon", dict(cloth.properties), build=build)
        return make_ply(Recipe("x-test", "ep-slow", "bagged"), {**LIB, "x-test": hybrid}, "test")

    def test_without_the_second_fibre_it_is_the_plain_cloth(self) -> None:
        plain = LIB["twill200"]
        for shares in ((0.0,), (0.0, 0.0)):
            own = self.made(Build("twill", "f-carbon-sm", (), "f-aramid", shares))
            for key in ("E1", "E2", "G12", "Xt", "Xc", "Yc", "S12", "fibre_density", "resin_mass_fraction"):
                self.assertAlmostEqual(own.value(key) / plain.value(key), 1.0, places=9, msg=key)

    def test_carbon_along_aramid_across(self) -> None:
        own = self.made(Build("twill", "f-carbon-sm", (), "f-aramid", (0.0, 1.0)))
        turned = self.made(Build("twill", "f-aramid", (), "f-carbon-sm", (0.0, 1.0)))
        self.assertGreater(own.value("E1"), 1.4 * own.value("E2"))
        self.assertLess(own.value("Yc"), 0.5 * own.value("Xc"))  # aramid buckles early
        self.assertAlmostEqual(own.value("E1") / turned.value("E2"), 1.0, places=9)
        self.assertEqual({own.family, turned.family}, {"carbon"})  # either way it corrodes metal

    def test_rule_of_mixtures_of_alternating_tows(self) -> None:
        """Along the tows strain is shared: E and the strain at which the stiffer fibre breaks first (Kelly)."""
        carbon, glass = (lamina(LIB[name], LIB["ep-slow"], 0.5) for name in ("f-carbon-sm", "f-eglass"))
        mixed = side_by_side([carbon, glass], [0.3, 0.7])
        self.assertAlmostEqual(mixed.E1, 0.3 * carbon.E1 + 0.7 * glass.E1)
        self.assertAlmostEqual(mixed.Xt / mixed.E1, carbon.Xt / carbon.E1)
        self.assertLess(carbon.Xt / carbon.E1, glass.Xt / glass.E1)
        np.testing.assert_allclose(1.0 / mixed.E2, 0.3 / carbon.E2 + 0.7 / glass.E2)

    def test_what_is_no_hybrid(self) -> None:
        for second, shares in (("f-aramid", ()), ("", (0.5,)), ("f-aramid", (0.1, 0.2, 0.3)), ("f-aramid", (1.5,))):
            with self.assertRaises(MaterialError):
                Build("twill", "f-carbon-sm", (), second, shares)
