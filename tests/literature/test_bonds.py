"""Glued seams: closed forms of the books, differential equations solved numerically, finite elements of a lap."""

from __future__ import annotations

import math
import unittest
from unittest.mock import patch

import numpy as np
import skfem
from scipy.integrate import solve_bvp
from scipy.interpolate import CubicSpline
from skfem.models.elasticity import lame_parameters, linear_elasticity

from omakase.core.checks.registry import run_details
from omakase.core.checks.result import CheckResult, Limits, Settings
from omakase.core.details.adhesive_layer import (
    Adherend,
    Glue,
    Lap,
    elastic_peak,
    end_moments,
    end_strain,
    long_capacity,
    plastic_capacity,
    shear_between,
    volkersen,
)
from omakase.core.details.bond import Bond
from omakase.core.details.detail import DetailError, LineCase, Site
from omakase.core.laminate.stack import Stack, make_layer
from omakase.project.library import shipped_materials

LIB = shipped_materials()
E, NU, T = 70e9, 0.3, 2e-3
PLANE = E / (1.0 - NU**2)
SHEET = Adherend(PLANE * T, PLANE * T**3 / 12.0, T)
GLUE = Glue(1e9, 2.6e9, 0.2e-3, 30e6, 30e6, 0.3)
LAMINATE = Stack(tuple(make_layer(LIB["twill200"], angle) for angle in (45, 0, 0, 45)))


def seam(*cases: LineCase, first: Stack = LAMINATE, second: Stack = LAMINATE, **changes: object) -> Bond:
    sizes: dict[str, object] = {"adhesive": LIB["g-paste"], "overlap": 0.02, "gap": 0.5e-3} | changes
    made = Bond("d1", "seam", Site(first), cases or (LineCase("pull", "p", 40e3),), first, second, **sizes)  # type: ignore[arg-type]
    made.check()
    return made


def judged(own: Bond) -> dict[str, CheckResult]:
    return {result.check: result for result in run_details([own], Settings(1.5), Limits())}


class Shear(unittest.TestCase):
    def test_volkersen_against_the_differential_equation(self) -> None:
        for A1, A2, length in ((140e6, 140e6, 0.025), (140e6, 35e6, 0.04), (20e6, 90e6, 0.006)):
            rate = GLUE.G / GLUE.gap

            def slope(_x: np.ndarray, y: np.ndarray, rate: float = rate, A: tuple = (A1, A2)) -> np.ndarray:
                return np.vstack([-y[1], rate * ((1.0 - y[0]) / A[1] - y[0] / A[0])])  # N1' = −τ

            ends = solve_bvp(slope, lambda a, b: np.array([a[0] - 1.0, b[0]]), np.linspace(0, length, 200),
                             np.vstack([np.linspace(1, 0, 200), np.full(200, 1.0 / length)]), tol=1e-9)  # fmt: skip
            x = np.linspace(0.0, length, 7)
            np.testing.assert_allclose(volkersen(GLUE, A1, A2, length, x), ends.sol(x)[1], rtol=1e-5)

    def test_volkersen_of_equal_sheets_is_the_form_of_the_books(self) -> None:
        """τ_max/τ_mean = (ω/2) coth(ω/2) with ω² = 2 G ℓ²/(gap E t)."""
        length, A = 0.03, 100e6
        omega = math.sqrt(2.0 * GLUE.G * length**2 / (GLUE.gap * A))
        peak = elastic_peak(GLUE, A, A, length) * length
        self.assertAlmostEqual(peak, omega / 2.0 / math.tanh(omega / 2.0), places=9)

    def test_shear_carries_the_load_and_is_even_in_a_short_overlap(self) -> None:
        x = np.linspace(0.0, 0.03, 4001)
        self.assertAlmostEqual(np.trapezoid(volkersen(GLUE, 8e7, 2e8, 0.03, x), x), 1.0, places=5)
        self.assertAlmostEqual(elastic_peak(GLUE, 1e9, 1e9, 1e-3) * 1e-3, 1.0, delta=2e-2)

    def test_bars_with_springs_against_volkersen_and_an_even_scarf(self) -> None:
        bars = shear_between([140e6] * 400, [280e6] * 400, 0.025, GLUE.G / GLUE.gap)
        exact = volkersen(GLUE, 140e6, 280e6, 0.025, np.array([0.0, 0.025]))
        np.testing.assert_allclose(bars[[0, -1]], exact, rtol=1e-4)
        middles = (np.arange(400) + 0.5) / 400
        even = shear_between(140e6 * (1.0 - middles), 140e6 * middles, 0.04, GLUE.G / GLUE.gap)
        np.testing.assert_allclose(even, 1.0 / 0.04, rtol=2e-2)  # a scarf of equal sheets is loaded evenly
        unlike = shear_between(70e6 * (1.0 - middles), 140e6 * middles, 0.4, GLUE.G / GLUE.gap)
        self.assertGreater(unlike.max() * 0.4, 1.4)  # toward the ratio of the sheets, at the softer one's tip

    def test_a_glue_that_yields_against_the_differential_equation(self) -> None:
        """γ'' = (1/A1 + 1/A2) τ(γ)/gap with γ' set by the load at both ends, elastic then plastic."""
        for A1, A2, length, plastic, gap in (
            (140e6, 140e6, 0.025, 0.3, 0.2e-3), (140e6, 60e6, 0.04, 0.3, 0.2e-3), (200e6, 40e6, 0.012, 0.05, 0.1e-3),
            (20e6, 200e6, 0.06, 0.02, 0.2e-3),
        ):  # fmt: skip
            glue = Glue(1e9, 2.6e9, gap, 30e6, 30e6, plastic)
            capacity = plastic_capacity(glue, A1, A2, length)
            for share in (0.6, 0.95, 1.0):
                load = min(share * capacity, 0.999 * glue.shear_strength * length)
                self.assertAlmostEqual(
                    end_strain(glue, A1, A2, length, load) / self._strain(glue, A1, A2, length, load), 1.0, places=6
                )

    @staticmethod
    def _strain(glue: Glue, A1: float, A2: float, length: float, load: float) -> float:
        def slope(_x: np.ndarray, y: np.ndarray) -> np.ndarray:
            stress = np.clip(glue.G * y[0], -glue.shear_strength, glue.shear_strength)
            return np.vstack([y[1], (1.0 / A1 + 1.0 / A2) / glue.gap * stress])

        def ends(a: np.ndarray, b: np.ndarray) -> np.ndarray:
            return np.array([a[1] + load / (A1 * glue.gap), b[1] - load / (A2 * glue.gap)])

        x = np.linspace(0.0, length, 400)
        start = np.vstack([np.full(400, load / length / glue.G), np.zeros(400)])
        return float(solve_bvp(slope, ends, x, start, tol=1e-8, max_nodes=200000).y[0].max())

    def test_what_a_long_overlap_bears_no_longer_grows(self) -> None:
        bound = long_capacity(GLUE, 140e6, 70e6)
        self.assertAlmostEqual(plastic_capacity(GLUE, 140e6, 70e6, 0.3) / bound, 1.0, places=6)
        self.assertEqual(plastic_capacity(GLUE, 140e6, 70e6, 0.005), GLUE.shear_strength * 0.005)

    def test_a_brittle_glue_fails_at_its_elastic_peak(self) -> None:
        brittle = Glue(1e9, 2.6e9, 0.2e-3, 30e6, 30e6)
        self.assertAlmostEqual(
            plastic_capacity(brittle, 1e8, 1e8, 0.03) * elastic_peak(brittle, 1e8, 1e8, 0.03), 30e6, places=3
        )


class Peel(unittest.TestCase):
    def test_moment_factor_of_goland_and_reissner(self) -> None:
        """k = cosh u/(cosh u + 2√2 sinh u), u = √(3(1 − ν²)/2) (c/t) √(p/E) (their paper, 1944)."""
        length = 0.025
        for load in (2e4, 2e5, 2e6):
            u = math.sqrt(1.5 * (1.0 - NU**2)) * (length / 2.0 / T) * math.sqrt(load / T / E)
            k = math.cosh(u) / (math.cosh(u) + 2.0 * math.sqrt(2.0) * math.sinh(u))
            left, right = end_moments(SHEET, SHEET, 0.0, length, load)
            self.assertAlmostEqual(-left / (load * T / 2.0) / k, 1.0, places=9)
            self.assertAlmostEqual(left, -right)

    def test_without_pull_the_moment_is_that_of_the_eccentricity(self) -> None:
        left, _ = end_moments(SHEET, SHEET, 0.2e-3, 0.025, 1e-3)
        self.assertAlmostEqual(-left / (1e-3 * (T + 0.2e-3) / 2.0), 1.0, places=3)
        pressed, _ = end_moments(SHEET, SHEET, 0.2e-3, 0.025, -100.0)
        self.assertAlmostEqual(pressed / (100.0 * (T + 0.2e-3) / 2.0), 1.0, places=2)

    def test_shear_of_goland_and_reissner(self) -> None:
        """Their closed form for equal sheets; the lever of the glue's own thickness is not in it."""
        length, load, thin = 0.025, 2e5, Glue(1e9, 2.6e9, 2e-5, 30e6, 30e6)
        stress = Lap(SHEET, SHEET, thin, length).stress(load)
        k = -stress.moments[0] / (load * T / 2.0)
        ratio = math.sqrt(8.0 * thin.G * T / (PLANE * thin.gap)) * length / 2.0 / T
        peak = load / (4.0 * length) * (ratio * (1.0 + 3.0 * k) / math.tanh(ratio) + 3.0 * (1.0 - k))
        self.assertAlmostEqual(stress.shear.max() / peak, 1.0, delta=0.02)

    def test_peel_of_equal_sheets_is_a_beam_on_an_elastic_bed(self) -> None:
        """Two beams with springs between: σ = M χ² + V χ at the end, χ⁴ = E/(2 gap D) (Hetényi 1946)."""
        length, load = 0.04, 2e5
        stress = Lap(SHEET, SHEET, GLUE, length).stress(load)
        chi = (GLUE.E / (2.0 * GLUE.gap * SHEET.D)) ** 0.25
        left, right = stress.moments
        cut = (right - left - (T + GLUE.gap) * load) / length
        self.assertAlmostEqual(stress.peel[0] / (abs(left) * chi**2 + abs(cut) * chi), 1.0, places=4)

    def test_stiff_sheets_give_volkersen(self) -> None:
        stiff = Adherend(SHEET.A, 1e9, T)
        stress = Lap(stiff, stiff, GLUE, 0.025).stress(1e5, bends=False)
        self.assertAlmostEqual(stress.shear.max() / (1e5 * elastic_peak(GLUE, SHEET.A, SHEET.A, 0.025)), 1.0, places=5)

    def test_unlike_sheets_against_the_differential_equations(self) -> None:
        """Goland and Reissner's equations of both sheets, collocated by SciPy: forces, moments, slopes and the glue."""
        other, length, load = Adherend(60e6, 6.0, 1.2e-3), 0.012, 1e5
        lap = Lap(SHEET, other, GLUE, length)
        found = lap.stress(load)
        left, right = found.moments
        h1, h2 = (SHEET.thickness + GLUE.gap) / 2.0, (other.thickness + GLUE.gap) / 2.0
        cut = (right - left - (h1 + h2) * load) / length
        shear, peel = GLUE.G / GLUE.gap, GLUE.E / GLUE.gap

        def slope(_x: np.ndarray, y: np.ndarray) -> np.ndarray:
            N, V1, M1, V2, M2, tau, sigma, dsigma = y
            turned1, turned2 = -M1 / SHEET.D, -M2 / other.D  # w''
            return np.vstack([
                tau, sigma, V1 - h1 * tau, -sigma, V2 - h2 * tau,
                shear * (N / SHEET.A - (load - N) / other.A + h1 * turned1 + h2 * turned2), dsigma,
                peel * (turned1 - turned2),
            ])  # fmt: skip

        def ends(a: np.ndarray, b: np.ndarray) -> np.ndarray:
            return np.array([a[0] - load, a[1] - cut, a[2] - left, a[3], a[4], b[0], b[1], b[2]])

        start = np.zeros((8, 300))
        start[0], start[5] = np.linspace(load, 0.0, 300), -load / length
        solved = solve_bvp(slope, ends, np.linspace(0.0, length, 300), start, tol=1e-6, max_nodes=50000)
        self.assertEqual(solved.status, 0)
        states = solved.sol(found.x)
        np.testing.assert_allclose(found.shear, -states[5], atol=1e-4 * found.shear.max())
        np.testing.assert_allclose(found.peel, states[6], atol=1e-4 * found.peel.max())

    def test_unlike_sheets_balance(self) -> None:
        other = Adherend(40e6, 8.0, 1e-3)
        with patch("omakase.core.details.adhesive_layer.LEAST_SEGMENTS", 120):
            stress = Lap(SHEET, other, GLUE, 0.03).stress(1.5e5)
        shear, peel = (CubicSpline(stress.x, own) for own in (stress.shear, stress.peel))
        self.assertAlmostEqual(float(shear.integrate(0.0, 0.03)) / 1.5e5, 1.0, delta=1e-4)
        lever = (T + other.thickness) / 2.0 + GLUE.gap
        cut = (stress.moments[1] - stress.moments[0] - lever * 1.5e5) / 0.03
        self.assertAlmostEqual(float(peel.integrate(0.0, 0.03)), -cut, delta=1e-4 * 1.5e5)

    def test_a_lap_against_plane_finite_elements(self) -> None:
        """Quadratic elements, plane strain, the same forces at the ends; stresses half way through the glue, from one
        thickness of it off its ends on: beams with springs do not see the free edge."""
        gap, length, x = 0.25e-3, 0.02, np.array([0.25, 0.5, 1.0, 10.0, 19.0, 19.5, 19.75]) * 1e-3
        stack = Stack((make_layer(LIB["al6082"], 0, T),))
        own = seam(first=stack, second=stack, gap=0.3e-3)
        nu, modulus = 0.35, 2.6e9
        stub = 0.01
        along = np.concatenate([
            np.linspace(-stub, 0.0, 13)[:-1], length * (0.5 - 0.5 * np.cos(np.pi * np.linspace(0, 1, 81))),
            np.linspace(length, length + stub, 13)[1:],
        ])  # fmt: skip
        up = np.concatenate([
            np.linspace(-gap / 2 - T, -gap / 2, 9)[:-1], np.linspace(-gap / 2, gap / 2, 5),
            np.linspace(gap / 2, gap / 2 + T, 9)[1:],
        ])  # fmt: skip
        mesh = skfem.MeshQuad.init_tensor(along, up)
        cx, cy = mesh.p[:, mesh.t].mean(axis=1)
        inside = (cx > 0.0) & (cx < length)
        mesh = mesh.restrict(np.flatnonzero(
            ((cy > gap / 2) & (cx < length)) | ((cy < -gap / 2) & (cx > 0.0)) | ((abs(cy) < gap / 2) & inside)
        ))  # fmt: skip
        element = skfem.ElementVector(skfem.ElementQuad2())
        basis = skfem.Basis(mesh, element)
        glued = abs(mesh.p[:, mesh.t].mean(axis=1)[1]) < gap / 2
        stiffness = sum(
            linear_elasticity(*lame_parameters(*law)).assemble(
                skfem.Basis(mesh, element, elements=np.flatnonzero(chosen))
            )
            for chosen, law in ((~glued, (E, NU)), (glued, (modulus, nu)))
        )
        moment = -(T + gap) / 2.0
        end = skfem.FacetBasis(mesh, element, facets=mesh.facets_satisfying(lambda p: np.isclose(p[0], -stub)))

        @skfem.LinearForm
        def pull(v, w):  # type: ignore[no-untyped-def]
            return -(1.0 / T + 12.0 * moment * (w.x[1] - gap / 2 - T / 2) / T**3) * v[0]

        held = basis.get_dofs(mesh.facets_satisfying(lambda p: np.isclose(p[0], length + stub)))
        moved = skfem.solve(*skfem.condense(stiffness, pull.assemble(end), D=held.all()))

        def at(dx: float, dy: float) -> np.ndarray:
            return (basis.probes(np.vstack([x + dx, np.full_like(x, dy)])) @ moved).reshape(2, -1)

        step = 1e-6
        d_x, d_y = ((at(step, 0.0) - at(-step, 0.0)) / 2e-6, (at(0.0, step) - at(0.0, -step)) / 2e-6)
        lam, mu = lame_parameters(modulus, nu)
        shear, peel = mu * (d_y[0] + d_x[1]), lam * (d_x[0] + d_y[1]) + 2.0 * mu * d_y[1]
        self.assertAlmostEqual(own.glue.E / (modulus / (1.0 - nu**2)), 1.0, places=9)
        lap = Lap(SHEET, SHEET, Glue(mu, own.glue.E, gap, 1.0, 1.0), length).under(1.0, 0.0, moment, -moment)
        found = CubicSpline(lap.x, lap.shear)(x), CubicSpline(lap.x, lap.peel)(x)
        np.testing.assert_allclose(found[0], np.abs(shear), atol=0.02 * np.abs(shear).max())
        np.testing.assert_allclose(found[1], peel, atol=0.06 * peel.max())


class Seams(unittest.TestCase):
    def test_mean_and_shear_by_hand(self) -> None:
        own = seam(LineCase("both", "b", 30e3, 40e3))
        results = judged(own)
        self.assertAlmostEqual(results["bond_mean"].value, 1.5 * 50e3 / 0.02)
        self.assertAlmostEqual(results["bond_mean"].allowable, LIB["g-paste"].value("lap_shear"))
        used = math.hypot(30e3 / own.capacity, 40e3 / own.flow_capacity)
        self.assertAlmostEqual(results["bond_shear"].reserve_factor, 1.0 / (1.5 * used), places=9)

    def test_reserves_are_factors_on_the_load(self) -> None:
        """A pull that straightens its lap: the reserve times the load has a reserve of one."""
        for check in ("bond_peel", "bond_parting", "bond_sheet"):
            reserve = judged(seam())[check].reserve_factor
            again = judged(seam(LineCase("pull", "p", 40e3 * reserve)))[check].reserve_factor
            self.assertAlmostEqual(again, 1.0, places=6)

    def test_surface_and_surroundings_take_their_share(self) -> None:
        plain, poor = judged(seam()), judged(seam(preparation="moulded", surroundings="hot_wet"))
        self.assertAlmostEqual(poor["bond_mean"].allowable / plain["bond_mean"].allowable, 0.4 * 0.5)
        self.assertIn("common practice", poor["bond_mean"].remarks[0])

    def test_held_laps_and_scarfs_do_not_peel(self) -> None:
        bent, held = judged(seam())["bond_peel"], judged(seam(bends=False))["bond_peel"]
        self.assertGreater(held.reserve_factor, bent.reserve_factor)
        self.assertNotIn("bond_peel", judged(seam(form="scarf", overlap=0.03)))

    def test_laminate_before_glue_turns_where_it_says(self) -> None:
        own = seam(laminate_first=True, overlap=0.004)
        result = judged(own)["laminate_first"]
        self.assertFalse(result.passes)
        wider, _ = own.turns_at(own.sheet_strength())
        assert wider is not None
        enough = max(wider, own.sheet_strength() / own.mean_strength)
        self.assertIn(f"{enough * 1e3:.1f} mm", result.remarks[0])
        self.assertAlmostEqual(
            judged(seam(laminate_first=True, overlap=enough))["laminate_first"].reserve_factor, 1.0, places=4
        )

    def test_flow_alone_needs_no_direction(self) -> None:
        results = judged(seam(LineCase("flow", "f", 0.0, 20e3)))
        self.assertEqual(set(results), {"bond_mean", "bond_shear"})

    def test_opening_peels(self) -> None:
        opened = judged(seam(LineCase("open", "o", 0.0, 0.0, 2e3)))["bond_peel"]
        chi = (seam().glue.E / (2.0 * 0.5e-3 * seam().sheets[0].D)) ** 0.25
        self.assertAlmostEqual(opened.value / (2.0 * 1.5 * 2e3 * chi), 1.0, delta=0.02)

    def test_what_cannot_be_is_told_at_its_field(self) -> None:
        for field, changes in (
            ("gap", {"gap": 0.05e-3}), ("gap", {"gap": 0.03}), ("overlap", {"overlap": 0.0}), ("steps", {"steps": 0}),
        ):  # fmt: skip
            with self.subTest(field=field), self.assertRaises(DetailError) as caught:
                seam(**changes)
            self.assertEqual(caught.exception.field, field)
            if changes == {"gap": 0.05e-3}:
                self.assertIn("0.3 to 3 mm", str(caught.exception))


if __name__ == "__main__":
    unittest.main()
