"""A cloth with more or less resin: bookkeeping and scaling against published relations."""

from __future__ import annotations

import unittest

from omakase.core.errors import MaterialError
from omakase.core.materials.areal import fibre_volume_fraction, ply_thickness
from omakase.core.materials.processing import (
    PROCESSES,
    halpin_tsai,
    resin_fraction_from_thickness,
    with_resin,
)
from omakase.project.library import shipped_materials

LIB = shipped_materials()


class HalpinTsai(unittest.TestCase):
    def test_limits(self) -> None:
        """No fibres give the resin; ξ → ∞ the rule of mixtures; ξ = 0 its inverse (Halpin and Kardos 1976)."""
        self.assertAlmostEqual(halpin_tsai(30e9, 1.2e9, 0.0, 1.0), 1.2e9)
        self.assertAlmostEqual(halpin_tsai(30e9, 1.2e9, 0.5, 1e9) / (0.5 * 30e9 + 0.5 * 1.2e9), 1.0, places=6)
        self.assertAlmostEqual(halpin_tsai(30e9, 1.2e9, 0.5, 0.0) * (0.5 / 30e9 + 0.5 / 1.2e9), 1.0, places=9)

    def test_glass_epoxy(self) -> None:
        """Glass (G 30.19 GPa, ν 0.22 from E 73.7) in epoxy (G 1.287) at V_f 0.6, ξ = 1, worked by hand: η = 0.9182,
        G12 = 1.287 (1 + 0.5509)/(1 − 0.5509) = 4.444 GPa."""
        self.assertAlmostEqual(halpin_tsai(30.19e9, 1.287e9, 0.6, 1.0) / 4.444e9, 1.0, delta=1e-3)


class Resin(unittest.TestCase):
    def test_nothing_changes_without_a_change(self) -> None:
        for name in ("twill200", "ud200", "satin300", "aramid170"):
            before = LIB[name]
            after = with_resin(before, before.value("resin_mass_fraction"), "the same")
            for key in before.properties:
                self.assertAlmostEqual(after.value(key) / before.value(key), 1.0, places=9, msg=f"{name} {key}")

    def test_the_load_per_width_of_the_fibres_stays(self) -> None:
        """E1 t is the fibres' own, whatever the resin: thickness ∝ 1/V_f and E1 ∝ V_f."""
        before = LIB["ud200"]
        for process in PROCESSES.values():
            after = with_resin(before, process.resin_fraction(1780.0, 1150.0), process.name)
            ratio = after.value("E1") * ply_thickness(after) / (before.value("E1") * ply_thickness(before))
            self.assertAlmostEqual(ratio, 1.0, places=9)
            self.assertEqual(after.properties["E1"].source, "estimated")
            self.assertIn(process.name, after.properties["E1"].note)
            thicker = ply_thickness(after) > ply_thickness(before)
            for key in ("E2", "G12", "G13", "G23"):  # of resin and fibres in series: the more fibres, the stiffer
                self.assertEqual(
                    after.value(key) <= before.value(key), thicker or after.value(key) == before.value(key)
                )
            self.assertEqual(after.value("S12"), before.value("S12"))

    def test_cloth_scales_both_ways_and_shear_with_it(self) -> None:
        before = LIB["twill200"]
        richer = with_resin(before, 0.55, "rich")
        share = fibre_volume_fraction(0.55, 1780.0, 1150.0) / fibre_volume_fraction(
            before.value("resin_mass_fraction"), before.value("fibre_density"), before.value("resin_density")
        )
        self.assertAlmostEqual(richer.value("E2") / before.value("E2") / share, 1.0, delta=0.02)
        self.assertTrue(1.0 > richer.value("G12") / before.value("G12") > share)

    def test_a_measured_thickness_gives_the_resin_back(self) -> None:
        for name in ("twill200", "satin300"):
            material = LIB[name]
            fraction = resin_fraction_from_thickness(material, ply_thickness(material))
            self.assertAlmostEqual(fraction, material.value("resin_mass_fraction"), places=9)
        with self.assertRaisesRegex(MaterialError, "thinner than the fibres"):
            resin_fraction_from_thickness(LIB["twill200"], 0.05e-3)

    def test_only_for_plies(self) -> None:
        with self.assertRaises(MaterialError):
            with_resin(LIB["al6082"], 0.4, "x")
        with self.assertRaises(MaterialError):
            with_resin(LIB["twill200"], 1.2, "x")


if __name__ == "__main__":
    unittest.main()
