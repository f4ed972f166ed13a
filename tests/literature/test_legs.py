"""Legs and leaves against closed forms, Saint-Venant's torsion and the elastica as a boundary value problem."""

from __future__ import annotations

import unittest

import numpy as np
from scipy.integrate import solve_bvp

from omakase.core.laminate.stack import Stack
from omakase.core.members.leg import LegResponse, bent_far, torsion_stiffness
from omakase.core.members.span_loads import LineLoad, PointLoad, SideForce, SpanCase, SpanLoad, Spanned, Support, Torque
from omakase.core.members.stretches import Stretch
from omakase.core.members.strip import Strip, WidthLaw
from omakase.core.plates.section import PlateSection
from tests.support import isotropic, orthotropic, sheet

E, NU = 70e9, 0.3
G = E / (2.0 * (1.0 + NU))
METAL = isotropic(E, NU)
LENGTH, WIDTH, THICKNESS = 0.5, 0.05, 0.008
ROOT = (Support(0.0, "clamped"),)


def leg(
    *loads: SpanLoad,
    widths: tuple[tuple[float, float], ...] = ((0.0, WIDTH),),
    wall: Stack | tuple[Stretch, ...] | None = None,
    supports: tuple[Support, ...] = ROOT,
) -> LegResponse:
    stack = wall or Stack((sheet(METAL, THICKNESS),))
    return LegResponse(Strip(Spanned(LENGTH, supports), WidthLaw(widths)), stack, [SpanCase("one", loads, 0.0, "l1")])


def value(response: LegResponse, name: str) -> float:
    return response.measures[name][0].value


class Straight(unittest.TestCase):
    """Beam theory with shear, both ways, and torsion; all must be exact."""

    def test_tip_loads_both_ways_and_twist(self) -> None:
        response = leg(PointLoad(100.0, LENGTH), SideForce(60.0, LENGTH, 0.1))
        flat, edge = WIDTH * THICKNESS**3 / 12.0, THICKNESS * WIDTH**3 / 12.0
        shear = 5.0 / 6.0 * G * WIDTH * THICKNESS
        w = 100.0 * LENGTH**3 / (3.0 * E * flat) + 100.0 * LENGTH / shear
        v = 60.0 * LENGTH**3 / (3.0 * E * edge) + 60.0 * LENGTH / shear
        self.assertAlmostEqual(value(response, "deflection") / np.hypot(w, v), 1.0, places=6)
        J = WIDTH * THICKNESS**3 / 3.0 * (1.0 - 0.63 * THICKNESS / WIDTH)
        self.assertAlmostEqual(value(response, "twist") / np.degrees(6.0 * LENGTH / (G * J)), 1.0, places=6)
        strains = response.fields[0].cases[0].strains[0]  # at the root: front edge, middle, back edge
        bent, drawn = 100.0 * LENGTH / (E * flat), 60.0 * LENGTH / (E * edge) * WIDTH / 2.0
        np.testing.assert_allclose(strains[:, 3], bent, rtol=1e-6)
        np.testing.assert_allclose(strains[:, 0], [drawn, 0.0, -drawn], atol=1e-9)  # pushed back, the front is pulled
        np.testing.assert_allclose(strains[:, 5], -2.0 * 6.0 / (G * J), rtol=1e-6)
        stored = (100.0 * w + 60.0 * v + 6.0 * 6.0 * LENGTH / (G * J)) / 2.0
        told = next(text for text in response.measures["deflection"][0].remarks if "stores" in text)
        self.assertAlmostEqual(float(told.split()[2]) / stored, 1.0, delta=0.005)

    def test_frequencies_of_both_ways(self) -> None:
        """1.8751² √(EI/ρA L⁴) flatwise and edgewise, √(GJ/I)/4L in torsion (Blevins 1979); shear takes a little."""
        response = leg(PointLoad(1.0, LENGTH))
        line = 2700.0 * WIDTH * THICKNESS
        flat, edge = (
            1.875104**2 / (2.0 * np.pi * LENGTH**2) * np.sqrt(E * inertia / line)
            for inertia in (WIDTH * THICKNESS**3 / 12.0, THICKNESS * WIDTH**3 / 12.0)
        )
        self.assertAlmostEqual(response.frequencies[0] / flat, 1.0, delta=0.001)
        self.assertTrue(any(abs(own / edge - 1.0) < 0.01 for own in response.frequencies))
        J = WIDTH * THICKNESS**3 / 3.0 * (1.0 - 0.63 * THICKNESS / WIDTH)
        twist = np.sqrt(G * J / (line * WIDTH**2 / 12.0)) / (4.0 * LENGTH)
        self.assertTrue(any(abs(own / twist - 1.0) < 0.01 for own in response.edgewise[0].frequencies()))

    def test_two_clamps_and_an_overhang(self) -> None:
        """Held at 0 and a: the tip sags P c² (a + c)/3EI, c the overhang (handbook)."""
        a, c = 0.15, LENGTH - 0.15
        slender = Stack((sheet(METAL, 0.002),))
        response = leg(PointLoad(1.0, LENGTH), wall=slender, supports=(Support(0.0), Support(a)))
        EI = E * WIDTH * 0.002**3 / 12.0
        self.assertAlmostEqual(value(response, "deflection") / (c**2 * (a + c) / (3.0 * EI)), 1.0, delta=2e-4)


class Tapered(unittest.TestCase):
    def test_a_triangular_leaf_bends_into_an_arc(self) -> None:
        """Its width falls straight to nearly nothing at the tip: the same strain all along, P L³/2EI (handbook)."""
        slender = Stack((sheet(METAL, 0.003),))
        tip = 0.0011
        response = leg(PointLoad(10.0, LENGTH), widths=((0.0, WIDTH), (LENGTH, tip)), wall=slender)
        # with what is left at the tip: ∫ P (L−x)²/EI dx by quadrature
        x = np.linspace(0.0, LENGTH, 200_001)
        EI = E * (WIDTH + (tip - WIDTH) * x / LENGTH) * 0.003**3 / 12.0
        exact = np.trapezoid(10.0 * (LENGTH - x) ** 2 / EI, x)
        self.assertAlmostEqual(exact / (10.0 * LENGTH**3 / (2.0 * EI[0])), 1.0, delta=0.05)
        self.assertAlmostEqual(value(response, "deflection") / exact, 1.0, delta=2e-4)

    def test_steps_of_thickness(self) -> None:
        """Thick to the middle, half as thick beyond: by moment areas."""
        thick, thin = Stack((sheet(METAL, 0.002), sheet(METAL, 0.002))), Stack((sheet(METAL, 0.002),))
        half = LENGTH / 2.0
        walls = (Stretch(0.0, half, thick, (0, 1)), Stretch(half, LENGTH, thin, (1,)))
        response = leg(PointLoad(1.0, LENGTH), wall=walls)
        one, two = (E * WIDTH * t**3 / 12.0 for t in (0.004, 0.002))
        exact = (LENGTH**3 - half**3) / (3.0 * one) + half**3 / (3.0 * two)
        self.assertAlmostEqual(value(response, "deflection") / exact, 1.0, delta=5e-4)


def saint_venant(b: float, t: float, ratio: float) -> float:
    """J of a rectangle b × t: t³ b/3 (1 − 192/π⁵ (t/b) s Σ tanh(nπb/2ts)/n⁵), s = √(G_xy/G_xz) (Lekhnitskii)."""
    n = np.arange(1, 60, 2)
    s = np.sqrt(ratio)
    series = np.sum(np.tanh(n * np.pi * b / (2.0 * t * s)) / n**5)
    return t**3 * b / 3.0 * (1.0 - 192.0 / np.pi**5 * t / b * s * series)


class Twisted(unittest.TestCase):
    def test_a_bar_of_any_width(self) -> None:
        for b in (0.02, 0.04, 0.1):
            for t in (0.002, 0.008):
                section = PlateSection(Stack((sheet(METAL, t),)))
                found = torsion_stiffness(section, np.array([b]))[0] / G
                self.assertAlmostEqual(found / saint_venant(b, t, 1.0), 1.0, delta=0.001)

    def test_an_orthotropic_bar(self) -> None:
        plies = orthotropic(120e9, 9e9, 4.5e9, 0.3)
        section = PlateSection(Stack((sheet(plies, 0.01),)))
        found = torsion_stiffness(section, np.array([0.05]))[0] / 4.5e9
        self.assertAlmostEqual(found / saint_venant(0.05, 0.01, 1.0), 1.0, delta=0.001)

    def test_a_torque_between_two_clamps(self) -> None:
        """Half of it to each side of the middle."""
        response = leg(Torque(8.0, LENGTH / 2.0), supports=(Support(0.0, "clamped"), Support(LENGTH, "clamped")))
        J = saint_venant(WIDTH, THICKNESS, 1.0)
        self.assertAlmostEqual(value(response, "twist") / np.degrees(4.0 * LENGTH / 2.0 / (G * J)), 1.0, delta=0.001)


def elastica(stiffness: np.ndarray, x: np.ndarray, tip: float, spread: float) -> float:
    """Deflection of the tip of a cantilever under loads that stay vertical: θ'' = −(H(s)/EI)' of SciPy's solver."""

    def EI(s: np.ndarray) -> np.ndarray:
        return np.interp(s, x, stiffness)

    def rates(s: np.ndarray, y: np.ndarray) -> np.ndarray:
        moment, theta, _ = y
        force = tip + spread * (LENGTH - s)
        return np.stack([-force * np.cos(theta), moment / EI(s), np.sin(theta)])

    def ends(a: np.ndarray, b: np.ndarray) -> np.ndarray:
        return np.array([b[0], a[1], a[2]])

    s = np.linspace(0.0, LENGTH, 400)
    start = np.stack([tip * (LENGTH - s), np.zeros_like(s), np.zeros_like(s)])
    found = solve_bvp(rates, ends, s, start, tol=1e-8, max_nodes=50_000)
    assert found.success
    return float(found.y[2, -1])


class BendsFar(unittest.TestCase):
    def test_against_bisshopp_and_drucker(self) -> None:
        """P L²/EI of 1, 2, 5: δ/L 0.3017, 0.4935, 0.7138 (Bisshopp and Drucker 1945; table from memory)."""
        thin = Stack((sheet(METAL, 0.002),))
        EI = E * WIDTH * 0.002**3 / 12.0
        for load, share in ((1.0, 0.30172), (2.0, 0.49346), (5.0, 0.71379)):
            response = leg(PointLoad(load * EI / LENGTH**2, LENGTH), wall=thin)
            result = response.results[0]
            found = bent_far(response.x, response.bending(response.x), result)
            self.assertAlmostEqual(found / LENGTH, share, delta=0.002)
            told = " ".join(response.measures["deflection"][0].remarks)
            self.assertIn(f"sags {1e3 * found:.4g} mm", told)

    def test_a_taper_under_spread_load_and_tip_load(self) -> None:
        thin = Stack((sheet(METAL, 0.002),))
        widths = ((0.0, 0.06), (LENGTH, 0.03))
        response = leg(PointLoad(5.0, LENGTH), LineLoad(20.0, 20.0, 0.0, LENGTH), widths=widths, wall=thin)
        x = np.linspace(0.0, LENGTH, 500)
        exact = elastica(E * np.interp(x, *zip(*widths, strict=True)) * 0.002**3 / 12.0, x, 5.0, 20.0)
        found = bent_far(response.x, response.bending(response.x), response.results[0])
        self.assertAlmostEqual(found / exact, 1.0, delta=0.01)

    def test_small_deflections_are_left_alone(self) -> None:
        self.assertFalse(
            any("bends far" in text for text in leg(PointLoad(1.0, LENGTH)).measures["deflection"][0].remarks)
        )
