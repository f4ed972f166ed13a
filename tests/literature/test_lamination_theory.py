"""Laminate stiffness and first-ply failure against textbooks.

Tsai and Hahn, Introduction to Composite Materials (1980), chapters 2 to 5; Jones, Mechanics of Composite Materials
(1999), chapters 2 and 4; Tsai and Wu, Journal of Composite Materials 5 (1971) 58.
"""

from __future__ import annotations

import unittest

import numpy as np

from omakase.core.laminate.constants import LaminateConstants
from omakase.core.laminate.failure import maximum_strain, tsai_wu
from omakase.core.laminate.stack import Stack
from omakase.core.laminate.stiffness import laminate_abd, material_stiffness
from omakase.core.rotation import strain_rotation, transformed_stiffness
from tests.support import isotropic, orthotropic, sheet

# T300/5208-class graphite/epoxy of Tsai and Hahn, table 2.1 and 5.1 for strengths
GRAPHITE = orthotropic(
    181e9, 10.3e9, 7.17e9, 0.28, Xt=1500e6, Xc=1500e6, Yt=40e6, Yc=246e6, S12=68e6, S13=68e6, S23=68e6
)  # fmt: skip


class PlyStiffness(unittest.TestCase):
    def test_reduced_stiffness(self) -> None:
        Q = material_stiffness(GRAPHITE) / 1e9
        for value, book in ((Q[0, 0], 181.8), (Q[1, 1], 10.35), (Q[0, 1], 2.897), (Q[2, 2], 7.17)):
            self.assertAlmostEqual(value / book, 1.0, delta=0.0005)

    def test_invariants(self) -> None:
        Q = material_stiffness(GRAPHITE) / 1e9
        U1 = (3 * Q[0, 0] + 3 * Q[1, 1] + 2 * Q[0, 1] + 4 * Q[2, 2]) / 8
        U2 = (Q[0, 0] - Q[1, 1]) / 2
        U3 = (Q[0, 0] + Q[1, 1] - 2 * Q[0, 1] - 4 * Q[2, 2]) / 8
        U4 = (Q[0, 0] + Q[1, 1] + 6 * Q[0, 1] - 4 * Q[2, 2]) / 8
        U5 = (Q[0, 0] + Q[1, 1] - 2 * Q[0, 1] + 4 * Q[2, 2]) / 8
        np.testing.assert_allclose((U1, U2, U3, U4, U5), (76.37, 85.73, 19.71, 22.61, 26.88), rtol=0.0005)
        # the rotated ply as the invariants give it, at an odd angle
        theta = np.radians(33.0)
        rotated = transformed_stiffness(Q, 33.0)
        self.assertAlmostEqual(rotated[0, 0], U1 + U2 * np.cos(2 * theta) + U3 * np.cos(4 * theta), places=9)
        self.assertAlmostEqual(rotated[0, 2], U2 * np.sin(2 * theta) / 2 + U3 * np.sin(4 * theta), places=9)


class Coupling(unittest.TestCase):
    def test_symmetric_has_no_B(self) -> None:
        stack = Stack(tuple(sheet(GRAPHITE, 0.2e-3, angle) for angle in (30, -60, -60, 30)))
        A, B, _ = laminate_abd(stack)
        self.assertLess(np.abs(B).max(), 1e-12 * np.abs(A).max())

    def test_cross_ply_pair(self) -> None:
        # Jones (1999), section 4.4.4: B11 = −B22 = (Q22 − Q11) t²/4 · (sign by which ply is on top), others zero
        t = 1e-3
        stack = Stack((sheet(GRAPHITE, t, 0), sheet(GRAPHITE, t, 90)))
        _, B, _ = laminate_abd(stack)
        Q = material_stiffness(GRAPHITE)
        self.assertAlmostEqual(B[0, 0] / ((Q[0, 0] - Q[1, 1]) * t**2 / 2), 1.0, places=9)
        self.assertAlmostEqual(B[0, 0], -B[1, 1])
        self.assertAlmostEqual(B[2, 2], 0.0)

    def test_antisymmetric_angle_ply_twists(self) -> None:
        _, B, _ = laminate_abd(Stack((sheet(GRAPHITE, 1e-3, 45), sheet(GRAPHITE, 1e-3, -45))))
        self.assertGreater(abs(B[0, 2]), 0.0)
        self.assertAlmostEqual(B[0, 0] / abs(B[0, 2]), 0.0, places=9)


class FirstPlyFailure(unittest.TestCase):
    def ply_strain(self, stress: tuple[float, float, float]) -> np.ndarray:
        return np.linalg.solve(material_stiffness(GRAPHITE), np.array(stress))

    def test_each_strength_alone(self) -> None:
        for stress, strength in (
            ((1e6, 0, 0), 1500), ((-1e6, 0, 0), 1500), ((0, 1e6, 0), 40), ((0, -1e6, 0), 246), ((0, 0, 1e6), 68),
        ):  # fmt: skip
            for criterion in (maximum_strain, tsai_wu):
                with self.subTest(stress=stress, criterion=criterion.__name__):
                    self.assertAlmostEqual(float(criterion(self.ply_strain(stress), GRAPHITE)), strength, places=6)

    def test_off_axis_tension_by_tsai_wu(self) -> None:
        # Jones (1999), section 2.9: stresses of an off-axis coupon σ cos²θ, σ sin²θ, −σ sinθ cosθ put in the polynomial
        theta = np.radians(30.0)
        c, s = np.cos(theta), np.sin(theta)
        unit = np.array([c * c, s * s, -s * c])
        strain = np.linalg.solve(material_stiffness(GRAPHITE), 1e6 * unit)
        strength = float(tsai_wu(strain, GRAPHITE)) * 1e6
        s1, s2, s6 = strength * unit
        Xt, Xc, Yt, Yc, S = 1500e6, 1500e6, 40e6, 246e6, 68e6
        F12 = -0.5 / np.sqrt(Xt * Xc * Yt * Yc)
        polynomial = (
            (1 / Xt - 1 / Xc) * s1 + (1 / Yt - 1 / Yc) * s2
            + s1**2 / (Xt * Xc) + s2**2 / (Yt * Yc) + s6**2 / S**2 + 2 * F12 * s1 * s2
        )  # fmt: skip
        self.assertAlmostEqual(polynomial, 1.0, places=9)

    def test_tsai_wu_of_a_metal_is_von_mises(self) -> None:
        metal = isotropic(70e9, 0.3, strength=250e6)
        stress = np.array([120e6, -60e6, 40e6])
        strain = np.linalg.solve(material_stiffness(metal), stress)
        mises = np.sqrt(120**2 + 60**2 + 120 * 60 + 3 * 40**2)
        self.assertAlmostEqual(float(tsai_wu(strain, metal)), 250.0 / mises, places=6)

    def test_strain_rotation_is_a_tensor_rotation(self) -> None:
        strain = np.array([[1e-3, 0.4e-3 / 2], [0.4e-3 / 2, -2e-3]])
        c, s = np.cos(np.radians(25.0)), np.sin(np.radians(25.0))
        R = np.array([[c, s], [-s, c]])
        turned = R @ strain @ R.T
        found = strain_rotation(25.0) @ np.array([1e-3, -2e-3, 0.4e-3])
        np.testing.assert_allclose(found, (turned[0, 0], turned[1, 1], 2 * turned[0, 1]), atol=1e-15)


class Constants(unittest.TestCase):
    """A laminate as one material."""

    def test_quasi_isotropic(self) -> None:
        """Tsai and Hahn, Introduction to Composite Materials (1980): E 69.7, ν 0.296, G 26.9 GPa."""
        angles = (0, 45, -45, 90, 90, -45, 45, 0)
        constants = LaminateConstants(Stack(tuple(sheet(GRAPHITE, 0.125e-3, angle) for angle in angles)))
        own = constants.in_plane
        for value, published in ((own.Ex, 69.7e9), (own.Ey, 69.7e9), (own.Gxy, 26.9e9), (own.nuxy, 0.296)):
            self.assertAlmostEqual(value / published, 1.0, delta=0.002)
        np.testing.assert_allclose(constants.modulus(np.arange(0.0, 180.0, 7.0)), own.Ex, rtol=1e-9)

    def test_one_ply_off_its_axis(self) -> None:
        """Jones (1999), eq. 2.97: 1/E = c⁴/E1 + (1/G12 − 2 ν12/E1) s²c² + s⁴/E2; in bending the same."""
        E1, E2, G, nu = 181e9, 10.3e9, 7.17e9, 0.28
        constants = LaminateConstants(Stack((sheet(orthotropic(E1, E2, G, nu), 1e-3),)))
        angles = np.arange(0.0, 91.0, 5.0)
        c, s = np.cos(np.radians(angles)), np.sin(np.radians(angles))
        expected = 1.0 / (c**4 / E1 + (1.0 / G - 2.0 * nu / E1) * s**2 * c**2 + s**4 / E2)
        for bending in (False, True):
            np.testing.assert_allclose(constants.modulus(angles, bending), expected, rtol=1e-9)


if __name__ == "__main__":
    unittest.main()
