"""Formulas of local failure and bookkeeping, each put beside its published or derived form.

Hoff and Mautner, Journal of the Aeronautical Sciences 12 (1945) 285; MIL-HDBK-23A (1968); Hetényi, Beams on Elastic
Foundation (1946); the zero-void relations of ASTM D3171.
"""

from __future__ import annotations

import unittest

import numpy as np
from scipy.integrate import solve_bvp
from scipy.optimize import minimize_scalar

from omakase.core.checks.compression import Compression, axis_at, directional_bending, directional_core_shear
from omakase.core.checks.dimpling import dimpling_stress
from omakase.core.checks.indentation import foundation_moment, plastic_indentation_load
from omakase.core.checks.wrinkling import (
    HONEYCOMB,
    SOLID_CORE,
    interaction_factor,
    wrinkling_stress_honeycomb,
    wrinkling_stress_solid,
)
from omakase.core.materials.areal import cured_thickness, fibre_volume_fraction
from omakase.core.plates.section import PlateSection
from omakase.project import translate
from omakase.project.library import shipped_materials
from omakase.project.model import Candidate
from omakase.project.quickline import read_quick_line

LIB = shipped_materials()


def section(line: str) -> PlateSection:
    return PlateSection(translate.stack(Candidate("c", "c", read_quick_line(line, LIB)), LIB))


class Compressed(unittest.TestCase):
    def test_principal_values_are_eigenvalues(self) -> None:
        """Pressed most along the eigenvector of the least eigenvalue of the force tensor, as NumPy finds them."""
        forces = np.random.default_rng(5).normal(size=(3, 200))
        found = Compression(forces)
        for k, (nx, ny, nxy) in enumerate(forces.T):
            values, vectors = np.linalg.eigh([[nx, nxy], [nxy, ny]])
            self.assertAlmostEqual(found.first[k], max(-values[0], 0.0))
            self.assertAlmostEqual(found.second[k], max(-values[1], 0.0))
            x, y = vectors[:, 0]
            np.testing.assert_allclose(found.axis()[:, k], [x * x - y * y, 2.0 * x * y], atol=1e-9)
        nothing = Compression(np.zeros((3, 2)))
        np.testing.assert_array_equal(nothing.first, 0.0)
        self.assertTrue(np.all(np.isfinite(nothing.axis())))

    def test_stiffness_by_direction_is_that_of_the_turned_section(self) -> None:
        """Everything turned back by an angle shows along x what the section shows along that angle."""
        for angle in (0.0, 17.0, 45.0, 90.0, 133.0):
            plain = section("twill200 10 ; ud200 40 ; core hc48 12.7 ; twill200 10")
            turned = section(
                f"twill200 {10 - angle} ; ud200 {40 - angle} ; core hc48 12.7 @{-angle} ; twill200 {10 - angle}"
            )
            assert plain.core is not None
            assert turned.core is not None
            axis = axis_at(np.array(angle))
            along = float(directional_bending(plain.faces[0], axis))
            self.assertAlmostEqual(along / turned.faces[0].bending[0, 0], 1.0, places=9)
            shear = float(directional_core_shear(plain.core, axis))
            self.assertAlmostEqual(shear / turned.core.shear_modulus[0, 0], 1.0, places=9)

    def test_energy_of_a_sandwich_by_integration(self) -> None:
        """½ ∫ εᵀ Q ε dz by Gauss's rule in every layer: faces ε0 + z_f κφ + (z − z_f) κw, the core's strain running
        from one interface to the other."""
        own = section("twill200 20 ; ud200 -35 ; core pvc80 9 ; ud200 70")
        assert own.core is not None
        points, weights = np.polynomial.legendre.leggauss(4)
        faces = {k: face for face in own.faces for k in face.layers}
        rng, stack = np.random.default_rng(11), own.stack

        def strain(s: np.ndarray, middle: float, z: float) -> np.ndarray:
            return s[0:3] + middle * s[3:6] + (z - middle) * s[6:9]

        for s in rng.normal(size=(5, 9)):
            upper, lower = (strain(s, face.z_middle, z) for face, z in
                            zip(own.faces, (own.core.z_top, own.core.z_bottom), strict=True))  # fmt: skip
            energy = 0.0
            for k in range(len(stack.layers)):
                half, middle = (stack.z_top[k] - stack.z_bottom[k]) / 2, (stack.z_top[k] + stack.z_bottom[k]) / 2
                for point, weight in zip(points, weights, strict=True):
                    z = middle + point * half
                    share = (z - own.core.z_bottom) / own.core.thickness
                    e = strain(s, faces[k].z_middle, z) if k in faces else share * upper + (1 - share) * lower
                    energy += weight * half * float(e @ own.Q[k] @ e) / 2
            self.assertAlmostEqual(energy / float(s @ own.membrane @ s / 2), 1.0, places=9)


class Wrinkling(unittest.TestCase):
    def test_hoff_and_mautner_by_energy(self) -> None:
        """Their theory, derived again: a face in waves of length l on a core whose disturbance dies out linearly over
        a depth h; the least stress over l and h is 0.91 (E_f E_c G_c)^⅓ for any thickness."""
        E_f, E_c, G_c, t = 60e9, 90e6, 30e6, 0.5e-3

        def stress(wave: float, depth: float) -> float:
            q = np.pi / wave
            face = E_f * t**2 * q**2 / 12.0
            core = (E_c / (depth * q**2) + G_c * depth / 3.0) / t
            return face + core

        def best_depth(wave: float) -> float:
            return minimize_scalar(lambda d: stress(wave, d), bounds=(1e-5, 1.0), method="bounded").fun

        least = minimize_scalar(best_depth, bounds=(1e-3, 5e-2), method="bounded").fun
        formula = float(wrinkling_stress_solid(np.array(E_f), E_c, np.array(G_c), SOLID_CORE["theory"]))
        self.assertAlmostEqual(least / formula, 1.0, delta=0.01)
        self.assertEqual(SOLID_CORE["design"], 0.5)

    def test_honeycomb_by_energy(self) -> None:
        """Waves on a core that acts as springs E_c/(t_c/2), derived: σ = 2 √(k D)/t with D = E t³/12 gives
        0.816 E_f √(E_c t_f / (E_f t_c)), the 0.82 of the handbook."""
        E_f, E_c, t_f, t_c = 60e9, 138e6, 0.5e-3, 12.7e-3
        exact = 2.0 * np.sqrt(E_c / (t_c / 2.0) * E_f * t_f**3 / 12.0) / t_f
        theory = float(wrinkling_stress_honeycomb(np.array(E_f), E_c, t_f, t_c, HONEYCOMB["theory"]))
        self.assertAlmostEqual(theory / exact, 1.0, delta=0.01)
        self.assertEqual(HONEYCOMB["design"], 0.33)

    def test_interaction(self) -> None:
        factor = interaction_factor(np.array([0.5, 0.0, 0.5, 0.0]), np.array([0.0, 0.25, 0.5, 0.0]))
        np.testing.assert_allclose(factor[[0, 1]], (2.0, 4.0), rtol=1e-9)
        self.assertAlmostEqual((0.5 * factor[2]) ** 3 + 0.5 * factor[2], 1.0, places=9)
        self.assertEqual(factor[3], np.inf)
        # put in again over a wide range: (λ r1)³ + λ r2 = 1
        rng = np.random.default_rng(3)
        r1, r2 = 10.0 ** rng.uniform(-9.0, 9.0, (2, 2000))
        found = interaction_factor(r1, r2)
        np.testing.assert_allclose((found * r1) ** 3 + found * r2, 1.0, rtol=1e-11)


class Dimpling(unittest.TestCase):
    def test_handbook_form(self) -> None:
        E, nu, t, s = 70e9, 0.33, 0.4e-3, 6.4e-3
        D = E * t**3 / (12 * (1 - nu**2))
        self.assertAlmostEqual(float(dimpling_stress(D, t, s)) / (2 * E / (1 - nu**2) * (t / s) ** 2), 1.0, places=9)


class Indentation(unittest.TestCase):
    def test_plastic_load_is_the_least_over_the_hinge_distance(self) -> None:
        """Upper bound derived again: four hinges of moment σ_f b t²/4 turning by δ/λ, core crushed by δ under the
        load and by δ/2 on the mean over λ to each side."""
        b, a, t, core, face = 0.09, 0.24, 0.5e-3, 1.4e6, 430e6

        def load(reach: float) -> float:
            return 4 * face * b * t**2 / 4 / reach + core * b * (a + reach)

        least = minimize_scalar(load, bounds=(1e-4, 1.0), method="bounded").fun
        self.assertAlmostEqual(plastic_indentation_load(b, a, t, core, face) / least, 1.0, delta=1e-4)

    def test_beam_on_foundation_against_its_differential_equation(self) -> None:
        D, k, p, length, reach = 8.0, 9e6, 5e4, 0.03, 0.25

        def rhs(x: np.ndarray, y: np.ndarray) -> np.ndarray:
            load = p * 0.5 * (1.0 - np.tanh((x - length / 2) / 2e-4))
            return np.array([y[1], y[2], y[3], (load - k * y[0]) / D])

        def ends(a: np.ndarray, b: np.ndarray) -> np.ndarray:
            return np.array([a[1], a[3], b[0], b[1]])

        x = np.unique(np.concatenate([np.linspace(0, reach, 400), np.linspace(0.013, 0.017, 200)]))
        beam = solve_bvp(rhs, ends, x, np.zeros((4, len(x))), max_nodes=20000, tol=1e-6)
        moment = float(np.abs(D * beam.y[2]).max())
        self.assertAlmostEqual(foundation_moment(p, length, D, k) / moment, 1.0, delta=0.01)


class Bookkeeping(unittest.TestCase):
    def test_equal_masses_of_cloth_and_resin(self) -> None:
        V_f = fibre_volume_fraction(0.5, 1780.0, 1150.0)
        self.assertAlmostEqual(V_f, 0.3925, places=4)
        self.assertAlmostEqual(cured_thickness(0.2, 1780.0, V_f), 0.2 / 1780 + 0.2 / 1150, places=12)


if __name__ == "__main__":
    unittest.main()
