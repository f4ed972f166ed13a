"""Thin isotropic plates against the handbooks.

Timoshenko and Woinowsky-Krieger, Theory of Plates and Shells (1959), tables 8 and 35; Leissa, Vibration of Plates,
NASA SP-160 (1969); Timoshenko and Gere, Theory of Elastic Stability (1961), chapter 9.
"""

from __future__ import annotations

import unittest

import numpy as np

from omakase.core.laminate.stack import Stack
from omakase.core.plates.grid import Edges
from tests.support import CANTILEVER, CLAMPED, SIMPLE, isotropic, plate, pressure_sag, sheet

E, NU, RHO, T = 70e9, 0.3, 2700.0, 0.5e-3
D = E * T**3 / (12.0 * (1.0 - NU**2))


def thin() -> Stack:
    return Stack((sheet(isotropic(E, NU, RHO), T),))


class Deflection(unittest.TestCase):
    def test_simply_supported_under_pressure(self) -> None:
        for ratio, coefficient in ((1.0, 0.004062), (1.5, 0.007724), (2.0, 0.010129)):
            with self.subTest(ratio=ratio):
                model = plate(thin(), ratio, 1.0)
                w = pressure_sag(model, 100.0, ratio / 2.0, 0.5)
                self.assertAlmostEqual(w * D / 100.0 / coefficient, 1.0, delta=0.001)

    def test_clamped_square(self) -> None:
        model = plate(thin(), 1.0, 1.0, CLAMPED)
        # Timoshenko gives three digits, 0.00126; 0.00126532 is the value of later series solutions
        self.assertAlmostEqual(pressure_sag(model, 100.0, 0.5, 0.5) * D / 100.0, 0.00126, delta=0.00126 * 0.005)

    def test_resting_and_simple_agree_on_a_thin_sheet(self) -> None:
        resting = plate(thin(), 1.0, 1.0, Edges("resting", "resting", "resting", "resting"), 12)
        self.assertAlmostEqual(pressure_sag(resting, 100.0, 0.5, 0.5) * D / 100.0 / 0.004062, 1.0, delta=0.005)


class Vibration(unittest.TestCase):
    def test_first_frequency_of_leissa(self) -> None:
        # Leissa's 3.49 for the cantilever is an upper bound from few Ritz terms, half a per cent high: the general
        # finite-element check in test_finite_elements has the last word there
        cases = ((SIMPLE, 19.739, 0.005), (CLAMPED, 35.99, 0.005), (CANTILEVER, 3.49, 0.006))
        for edges, parameter, tolerance in cases:
            with self.subTest(edges=edges):
                hertz = plate(thin(), 1.0, 1.0, edges).frequencies(3)[0][0]
                omega = 2.0 * np.pi * hertz * np.sqrt(RHO * T / D)
                self.assertAlmostEqual(omega / parameter, 1.0, delta=tolerance)

    def test_six_modes_of_a_simply_supported_rectangle(self) -> None:
        a, b = 1.4, 1.0
        exact = sorted(np.pi**2 * ((m / a) ** 2 + (n / b) ** 2) for m in range(1, 6) for n in range(1, 6))[:6]
        found = plate(thin(), a, b).frequencies(6)[0] * 2.0 * np.pi * np.sqrt(RHO * T / D)
        np.testing.assert_allclose(found, exact, rtol=0.002)


class Buckling(unittest.TestCase):
    def check(self, edges: Edges, load: tuple[float, float, float], low: float, high: float) -> None:
        factors, _ = plate(thin(), 1.0, 1.0, edges, 12).buckling(*load, count=2)
        k = factors[0] / (np.pi**2 * D)
        self.assertGreater(k, low * 0.995)
        self.assertLess(k, high * 1.005)

    def test_compression(self) -> None:
        self.check(SIMPLE, (-1.0, 0.0, 0.0), 4.00, 4.00)
        self.check(CLAMPED, (-1.0, 0.0, 0.0), 10.07, 10.07)

    def test_shear(self) -> None:
        self.check(SIMPLE, (0.0, 0.0, 1.0), 9.32, 9.34)
        self.check(CLAMPED, (0.0, 0.0, 1.0), 14.6, 14.7)

    def test_tension_never_buckles(self) -> None:
        factors, shapes = plate(thin(), 1.0, 1.0).buckling(1.0, 1.0, 0.0)
        self.assertEqual(len(factors), 0)
        self.assertEqual(shapes, [])


class Workshop(unittest.TestCase):
    """Common practice, no source: the figures a workshop remembers."""

    def test_five_foot_aluminium_plate(self) -> None:
        inch, pound = 0.0254, 0.45359237
        density = 0.1 * pound / inch**3
        stack = Stack((sheet(isotropic(69e9, 0.33, density), 1.75 * inch),))
        model = plate(stack, 60 * inch, 60 * inch)
        mass = stack.thickness * density * (60 * inch) ** 2 / pound
        self.assertAlmostEqual(mass, 630.0, delta=1.0)
        self.assertAlmostEqual(model.frequencies(1)[0][0], 92.0, delta=2.0)


if __name__ == "__main__":
    unittest.main()
