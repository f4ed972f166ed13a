"""Sandwich plates against series solutions with shear, their limits, and the doubling figures of the trade.

Allen, Analysis and Design of Structural Sandwich Panels (1969), chapters 2 and 5; Zenkert, An Introduction to
Sandwich Construction (1995), chapter 8.
"""

from __future__ import annotations

import unittest

import numpy as np

from omakase.core.laminate.stack import Layer, Stack
from omakase.core.laminate.stiffness import TransverseShear, laminate_abd
from omakase.core.plates.section import PlateSection
from tests.support import isotropic, plate, pressure_sag, sandwich, sheet, soft_core

E, NU, T_FACE, T_CORE = 60e9, 0.25, 0.6e-3, 12e-3
D_FACE = E * T_FACE**3 / (12.0 * (1.0 - NU**2))
DISTANCE = T_FACE + T_CORE
D_FAR = E * T_FACE * DISTANCE**2 / (2.0 * (1.0 - NU**2))


def navier_centre(a: float, b: float, pressure: float, S: float) -> float:
    """Centre deflection of a simply supported isotropic sandwich with thick faces: Navier series, each term the sum of
    the faces' own bending in parallel with bending in series with shear (Allen 1969, chapter 5)."""
    total = 0.0
    for m in range(1, 120, 2):
        for n in range(1, 120, 2):
            k2 = np.pi**2 * ((m / a) ** 2 + (n / b) ** 2)
            load = 16.0 * pressure / (np.pi**2 * m * n)
            stiffness = 2.0 * D_FACE * k2**2 + 1.0 / (1.0 / (D_FAR * k2**2) + 1.0 / (S * k2))
            total += load / stiffness * (-1.0) ** ((m - 1) // 2 + (n - 1) // 2)
    return total


class NavierSeries(unittest.TestCase):
    def compare(self, G: float, tolerance: float = 0.002) -> float:
        a, b, pressure = 0.9, 0.6, 2000.0
        stack = sandwich(isotropic(E, NU), T_FACE, soft_core(G), T_CORE)
        S = G * DISTANCE**2 / T_CORE
        found = pressure_sag(plate(stack, a, b), pressure, a / 2.0, b / 2.0)
        exact = navier_centre(a, b, pressure, S)
        self.assertAlmostEqual(found / exact, 1.0, delta=tolerance)
        return found

    def test_usual_core(self) -> None:
        self.compare(25e6)

    def test_soft_cores_down_to_independent_faces(self) -> None:
        for G in (5e6, 1e6, 1e5):
            with self.subTest(G=G):
                self.compare(G)

    def test_limit_of_a_rigid_core(self) -> None:
        found = self.compare(1e12)
        # Timoshenko, table 8: 0.007724 q b⁴/D at a/b = 1.5
        self.assertAlmostEqual(found / (0.007724 * 2000.0 * 0.6**4 / (D_FAR + 2 * D_FACE)), 1.0, delta=0.002)

    def test_limit_of_no_core(self) -> None:
        thick = 5.0 * T_FACE  # so that the faces outweigh the little that the softest possible core adds
        stack = sandwich(isotropic(E, NU), thick, soft_core(1e3), T_CORE)
        found = pressure_sag(plate(stack, 0.9, 0.6), 2.0, 0.45, 0.3)
        self.assertAlmostEqual(found / (0.007724 * 2.0 * 0.6**4 / (2 * 125.0 * D_FACE)), 1.0, delta=0.005)

    def test_frequency_and_buckling(self) -> None:
        a = b = 0.7
        G = 20e6
        S = G * DISTANCE**2 / T_CORE
        stack = sandwich(isotropic(E, NU), T_FACE, soft_core(G), T_CORE)
        k2 = 2.0 * np.pi**2 / a**2
        stiffness = 2.0 * D_FACE * k2**2 + 1.0 / (1.0 / (D_FAR * k2**2) + 1.0 / (S * k2))
        model = plate(stack, a, b)
        exact = np.sqrt(stiffness / model.section.areal_mass) / (2.0 * np.pi)
        self.assertAlmostEqual(model.frequencies(1)[0][0] / exact, 1.0, delta=0.003)  # rotary inertia lowers it
        self.assertAlmostEqual(model.buckling(-1.0, -1.0, 0.0)[0][0] / (stiffness / k2), 1.0, delta=0.001)


class TransverseShearStiffness(unittest.TestCase):
    def test_homogeneous_plate(self) -> None:
        stuff = isotropic(70e9, 0.3)
        stack = Stack((sheet(stuff, 1e-3), sheet(stuff, 3e-3), sheet(stuff, 1e-3)))
        G = stuff.value("G13")
        np.testing.assert_allclose(TransverseShear(stack).stiffness, np.eye(2) * 5.0 / 6.0 * G * 5e-3, rtol=1e-9)

    def test_thin_stiff_faces_on_a_soft_core(self) -> None:
        G = 20e6
        stack = sandwich(isotropic(E, NU), 0.05e-3, soft_core(G), T_CORE)
        distance = T_CORE + 0.05e-3
        shear = TransverseShear(stack).stiffness
        self.assertAlmostEqual(shear[0, 0] / (G * distance**2 / T_CORE), 1.0, delta=0.005)

    def test_three_layers_have_the_same_core_shear_stiffness(self) -> None:
        section = PlateSection(sandwich(isotropic(E, NU), T_FACE, soft_core(20e6), T_CORE))
        np.testing.assert_allclose(section.shear, np.eye(2) * 20e6 * DISTANCE**2 / T_CORE, rtol=1e-12)


class Doubling(unittest.TestCase):
    """A sheet split in two on a core so that the total is 2t or 4t: 7 and 37 times as stiff, 3.5 and 9.25 times as
    strong in bending (exact for a core without stiffness in its plane; figures of the trade, derived here)."""

    def test_factors(self) -> None:
        t, stuff = 2e-3, isotropic(70e9, 0.3)
        D_sheet = laminate_abd(Stack((sheet(stuff, t),)))[2][0, 0]
        for total, stiffer, stronger in ((2 * t, 7.0, 3.5), (4 * t, 37.0, 9.25)):
            core = Layer(soft_core(1e6), 0.0, total - t, "core")
            stack = Stack((sheet(stuff, t / 2), core, sheet(stuff, t / 2)))
            D = laminate_abd(stack)[2][0, 0]
            self.assertAlmostEqual(D / D_sheet, stiffer, delta=1e-3)
            # strength: moment at equal outer strain is D over the outer distance
            self.assertAlmostEqual((D / total) / (D_sheet / t), stronger, delta=1e-3)


class CarbonBulkhead(unittest.TestCase):
    """Common practice, no source: two 6-ply quasi-isotropic carbon faces of 5-mil plies on 1.5 in of light core ring
    near the 92 Hz of a 1.75 in aluminium plate, 60 in square, at about 40 lb."""

    def test_frequency_and_mass(self) -> None:
        inch, pound = 0.0254, 0.45359237
        face = isotropic(53e9, 0.31, 1570.0)  # quasi-isotropic carbon laminate
        core = soft_core(60e6, density=112.0)
        stack = sandwich(face, 6 * 0.005 * inch, core, 1.5 * inch)
        model = plate(stack, 60 * inch, 60 * inch)
        mass = model.section.areal_mass * (60 * inch) ** 2 / pound
        self.assertAlmostEqual(mass, 40.0, delta=6.0)
        self.assertAlmostEqual(model.frequencies(1)[0][0], 92.0, delta=12.0)


if __name__ == "__main__":
    unittest.main()
