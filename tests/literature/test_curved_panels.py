"""Curved panels, forces along the edges and large deflections against published and independent solutions."""

from __future__ import annotations

import math
import unittest

import msgspec
import numpy as np
from scipy.optimize import brentq

from omakase.core.laminate.stack import Stack
from omakase.core.members.panel import respond
from omakase.core.members.panel_given import FULL, LINEAR, Arc, LoadCase, Panel
from omakase.core.plates.grid import Edges
from omakase.core.plates.loads import EdgeLoad
from tests.support import CLAMPED, SIMPLE, isotropic, sheet

ENDS = Edges("simple", "simple", "free", "free")
E = 70e9


def even(thickness: float, nu: float = 0.3) -> Stack:
    return Stack((sheet(isotropic(E, nu, 2700.0), thickness),))


def sag(panel: Panel, stack: Stack, case: LoadCase, large: bool = False, ultimate: float = 1.0) -> float:
    response = respond(panel, stack, (case,), FULL if large else LINEAR, False, ultimate)
    return response.cases[0].largest_deflection[0]


class Arcs(unittest.TestCase):
    def test_an_arc_and_its_chord(self) -> None:
        arc = Arc(1.0, 0.2)
        radius = 1.0 / arc.curvature
        self.assertAlmostEqual(radius, (0.25 + 0.04) / 0.4)  # (c²/4 + h²)/2h
        self.assertAlmostEqual(arc.length, 2.0 * radius * math.asin(0.5 / radius))
        for place in (0.0, 0.1, 0.5, 0.93, 1.0):
            self.assertAlmostEqual(float(arc.on_chord(np.array([arc.along(place)]))[0]), place)
        self.assertEqual(Arc(1.0).length, 1.0)
        self.assertAlmostEqual(Arc(1.0, -0.2).curvature, -arc.curvature)

    def test_no_rise_is_a_flat_panel(self) -> None:
        case, stack = LoadCase("p", (1000.0,)), even(0.004)
        flat, none = sag(Panel(0.8, 0.6), stack, case), sag(Panel(0.8, 0.6, rise=(1e-7, 1e-7)), stack, case)
        self.assertAlmostEqual(none / flat, 1.0, delta=1e-4)


def sine_shell(p: float, q: float, kx: float, ky: float, t: float, nu: float) -> np.ndarray:
    """Stiffness (3, 3) per area of u cos sin, v sin cos, w sin sin with waves p and q, which are exact with shear
    diaphragms at the edges, by Sanders' strains without the turn in the plane (Leissa, Vibration of shells, 1973,
    chapters 1 and 3; derived)."""
    A, D = E * t / (1.0 - nu**2), E * t**3 / 12.0 / (1.0 - nu**2)
    law = np.array([[1.0, nu], [nu, 1.0]])
    # along x and y (sin sin), and shear (cos cos)
    stretched, sheared = np.array([[-p, 0.0, kx], [0.0, -q, ky]]), np.array([[q, p, 0.0]])
    bent, twisted = np.array([[-p * kx, 0.0, p**2], [0.0, -q * ky, q**2]]), np.array([[q * kx, p * ky, -2.0 * p * q]])
    half = (1.0 - nu) / 2.0
    return (
        A * (stretched.T @ law @ stretched + half * sheared.T @ sheared)
        + D * (bent.T @ law @ bent + half * twisted.T @ twisted)
    )  # fmt: skip


class Shells(unittest.TestCase):
    def test_navier(self) -> None:
        """Double sine series; Timoshenko and Woinowsky-Krieger, chapter 16, has that of the shallow shell."""
        t, a, b, nu = 0.004, 0.9, 0.6, 0.3
        for rise in ((0.0, 0.01), (0.006, 0.01), (0.006, -0.01), (0.0, 0.05)):
            panel = Panel(a, b, SIMPLE, rise=rise)
            surface = panel.surface
            x, y = np.linspace(0.0, surface.length, 101)[1:-1], np.linspace(0.0, surface.width, 101)[1:-1]
            w = np.zeros((len(x), len(y)))
            for m in range(1, 60, 2):
                for n in range(1, 60, 2):
                    p, q = m * np.pi / surface.length, n * np.pi / surface.width
                    load = np.array([0.0, 0.0, 16.0 * 1000.0 / (np.pi**2 * m * n)])
                    moved = np.linalg.solve(sine_shell(p, q, *surface.curvature, t, nu), load)[2]
                    w += moved * np.outer(np.sin(p * x), np.sin(q * y))
            with self.subTest(rise=rise):
                own = sag(panel, even(t), LoadCase("p", (1000.0,)))
                self.assertAlmostEqual(own / np.abs(w).max(), 1.0, delta=0.003)

    def test_vibrations_with_inertia_in_the_plane(self) -> None:
        """Double sine shapes with the inertia of all three movements."""
        t, a, b, nu, density = 0.004, 0.9, 0.6, 0.3, 2700.0
        for rise in ((0.0, 0.01), (0.0, 0.06), (0.03, 0.05)):
            panel = Panel(a, b, SIMPLE, rise=rise)
            surface = panel.surface
            exact, without = [], []
            for m in range(1, 7):
                for n in range(1, 7):
                    waves = m * np.pi / surface.length, n * np.pi / surface.width
                    K, mass = sine_shell(*waves, *surface.curvature, t, nu), density * t
                    exact.append(math.sqrt(np.linalg.eigvalsh(K)[0] / mass) / (2.0 * np.pi))
                    alone = K[2, 2] - K[2, :2] @ np.linalg.solve(K[:2, :2], K[:2, 2])
                    without.append(math.sqrt(alone / mass) / (2.0 * np.pi))
            found = respond(panel, even(t), (LoadCase("p", (1.0,)),), LINEAR).frequencies
            with self.subTest(rise=rise):
                np.testing.assert_allclose(found[:4], sorted(exact)[:4], rtol=5e-3)
        self.assertGreater(sorted(without)[0], 1.005 * sorted(exact)[0])  # would be seen

    def test_a_dish_is_as_curved_as_it_is_in_the_mean(self) -> None:
        """z = f(x) + g(y): where g falls by tan φ, the normal curvature along x is 1/R over √(1 + tan²φ cos²θ)
        (differential geometry); its mean over the surface, by numbers."""
        dish = Panel(0.9, 0.5, SIMPLE, rise=(0.03, 0.05)).surface
        theta, phi = (np.linspace(-1.0, 1.0, 401) * arc.length / 2.0 * arc.curvature for arc in (dish.x, dish.y))
        leaning = np.cos(theta)[:, None] * np.tan(phi)[None]
        mean = dish.x.curvature * float((1.0 / np.sqrt(1.0 + leaning**2)).mean())
        self.assertAlmostEqual(dish.curvature[0] / mean, 1.0, delta=1e-3)

    def test_an_arch_that_may_spread_bends_as_a_ring(self) -> None:
        length, t, q = 0.6, 0.004, 500.0
        case, stack = LoadCase("p", (q,)), even(t, 0.0)
        panel = Panel(length, 0.1, ENDS, rise=(0.01, 0.0))
        k, n = panel.surface.curvature[0], np.arange(1, 40, 2)
        alpha = n * np.pi / panel.surface.length
        # N'' + k² N = k q, M = N/k, w'' + k² w = −M/EI of a ring, in sines
        parts = 4.0 * q / (n * np.pi) / (E * t**3 / 12.0) / (alpha**2 - k**2) ** 2
        spread = sag(panel, stack, case)
        self.assertAlmostEqual(spread / float(parts @ np.sin(n * np.pi / 2.0)), 1.0, delta=0.005)
        held = sag(Panel(length, 0.1, ENDS, "ends", (0.01, 0.0)), stack, case)
        self.assertLess(held, 0.1 * spread)

    def test_snap_through_of_a_pinned_arch(self) -> None:
        """A shallow arch bends sideways where its thrust reaches 4π² EI/L² (Timoshenko and Gere, chapter 7); the load
        there by the beam-column series with the arch's shortening (derived)."""
        length, t, rise = 0.6, 0.004, 0.02
        EA, EI = E * t, E * t**3 / 12.0
        k = Arc(length, rise).curvature
        arc = Arc(length, rise).length
        n = np.arange(1, 60, 2)
        alpha = n * np.pi / arc
        thrust = 4.0 * np.pi**2 * EI / arc**2
        unit = 4.0 / (n * np.pi) / (EI * alpha**4 - thrust * alpha**2)  # deflection up, per net pressure up
        linear = k * np.sum(unit * 2.0 / (n * np.pi))
        square = np.sum((alpha * unit) ** 2) / 4.0
        # −P = EA (linear f + square f²), f = P k − q: the state that comes first has moved less
        roots = np.roots([EA * square, EA * linear, thrust])
        self.assertTrue(np.all(np.isreal(roots)))
        expected = thrust * k - float(roots.real.min())
        panel = Panel(length, 0.1, ENDS, "ends", (rise, 0.0))
        response = respond(panel, even(t, 0.0), (LoadCase("p", (0.8 * expected,)),), FULL, False, 1.5)
        beyond = response.cases[0].beyond
        assert beyond is not None
        self.assertAlmostEqual(0.8 * beyond.snap, 1.0, delta=0.02)
        self.assertLessEqual(beyond.buckling, beyond.snap)
        safe = respond(panel, even(t, 0.0), (LoadCase("p", (0.5 * expected,)),), FULL, False, 1.5).cases[0].beyond
        assert safe is not None
        self.assertEqual(safe.snap, math.inf)  # not below ultimate load


class Pressed(unittest.TestCase):
    def test_buckling_under_forces_along_the_edges(self) -> None:
        """k of N = k π² D/b² of a square: on simple supports 4.00, 9.34 in shear and 25.6 bent in its plane; 10.07
        clamped (Timoshenko and Gere, chapter 9)."""
        a, t = 0.5, 0.002
        D = E * t**3 / 12.0 / (1.0 - 0.09)
        for name, edges, load, k in (
            ("ends", SIMPLE, EdgeLoad((-1.0, -1.0)), 4.0),
            ("both ways", SIMPLE, EdgeLoad((-1.0, -1.0), (-1.0, -1.0)), 2.0),
            ("shear", SIMPLE, EdgeLoad(Nxy=1.0), 9.34),
            ("bending", SIMPLE, EdgeLoad((-1.0, 1.0)), 25.6),
            ("clamped", CLAMPED, EdgeLoad((-1.0, -1.0)), 10.07),
        ):
            with self.subTest(name):
                case = LoadCase("pushed", edge=load)
                measures = respond(Panel(a, a, edges), even(t), (case,), LINEAR, False).measures
                self.assertAlmostEqual(measures["buckling"][0].value / (k * np.pi**2 * D / a**2), 1.0, delta=0.01)
        pulled = respond(Panel(a, a), even(t), (LoadCase("pulled", edge=EdgeLoad((1.0, 1.0))),), LINEAR, False)
        self.assertNotIn("buckling", pulled.measures)

    def test_a_push_makes_deflections_grow(self) -> None:
        """Beam-column on two supports under pressure (Timoshenko and Gere, chapter 1), at ultimate load."""
        length, t, q, factor = 0.5, 0.004, 200.0, 1.5
        EI = E * t**3 / 12.0
        push = 0.3 * np.pi**2 * EI / length**2
        case = LoadCase("both", (q,), edge=EdgeLoad((-push, -push)))
        response = respond(Panel(length, 0.1, ENDS), even(t, 0.0), (case,), LINEAR, False, factor).cases[0]

        def moment(P: float) -> float:
            u = math.sqrt(P / EI) * length / 2.0
            return q / (P / EI) * (1.0 / math.cos(u) - 1.0)

        curvature = -response.strains[..., 3] * EI
        self.assertAlmostEqual(float(np.abs(curvature).max()) / moment(factor * push), 1.0, delta=0.005)
        u = math.sqrt(push / EI) * length / 2.0
        w = q * length**4 / (16.0 * EI * u**4) * (1.0 / math.cos(u) - 1.0 - u**2 / 2.0)
        self.assertAlmostEqual(response.largest_deflection[0] / w, 1.0, delta=0.005)


class LargeDeflections(unittest.TestCase):
    def ratio(self, panel: Panel, t: float, nu: float, load: float) -> float:
        """Deflection over thickness under q = load E t⁴/a⁴."""
        case = LoadCase("p", (load * E * t**4 / panel.length**4,))
        return sag(panel, even(t, nu), case, large=True) / t

    def test_a_clamped_square(self) -> None:
        """Levy (NACA TR 740, 1942) and Pica, Wood and Hinton (1980); both from memory."""
        panel = Panel(1.0, 1.0, CLAMPED)
        for load, levy, pica in (
            (38.3, 0.471, 0.4699), (95.0, 0.912, 0.9029), (184.0, 1.323, 1.3009), (245.0, 1.521, 1.4928),
            (402.0, None, 1.8555),
        ):  # fmt: skip
            with self.subTest(load):
                own = self.ratio(panel, 0.002, 0.316, load)
                self.assertAlmostEqual(own / pica, 1.0, delta=0.003)
                if levy is not None:
                    self.assertAlmostEqual(own / levy, 1.0, delta=0.02)

    def test_a_long_panel_between_walls(self) -> None:
        """Cylindrical bending of a strip whose ends cannot spread (Timoshenko and Woinowsky-Krieger, chapter 1)."""
        length, t = 0.5, 0.001
        D, A = E * t**3 / 12.0, E * t
        for q in (100.0, 3000.0, 1e5):

            def stretched(u: float, q: float = q) -> float:
                """Stretch by the tension less that by the slope of the strip under it, u² = S L²/4D."""
                x, tension = np.linspace(0.0, length, 20001), 4.0 * D * u**2 / length**2
                root = 2.0 * u / length
                slope = q / tension * (length / 2.0 - x) - q / (tension * root) * np.sinh(
                    root * (length / 2 - x)
                ) / np.cosh(u)
                return tension * length / A - float(np.trapezoid(slope**2, x)) / 2.0

            u = brentq(stretched, 0.05, 300.0)
            tension = 4.0 * D * u**2 / length**2
            w = q * length**2 / (8.0 * tension) - q * length**2 / (4.0 * tension * u**2) * (1.0 - 1.0 / np.cosh(u))
            with self.subTest(q):
                panel = Panel(length, 0.1, ENDS, "ends")
                own = sag(panel, even(t, 0.0), LoadCase("p", (q,)), large=True)
                self.assertAlmostEqual(own / w, 1.0, delta=0.003)

    def test_a_small_load_is_the_linear_answer(self) -> None:
        panel, case, stack = Panel(0.8, 0.6), LoadCase("p", (5.0,)), even(0.002)
        thin = msgspec.structs.replace(case, pressures=(200.0,))
        self.assertEqual(sag(panel, stack, case, large=True), sag(panel, stack, case))
        self.assertLess(sag(panel, stack, thin, large=True), 0.9 * sag(panel, stack, thin))

    def test_strength_is_read_at_ultimate_load(self) -> None:
        """Strains times the ultimate factor are those of the panel under that factor on its load."""
        panel, stack = Panel(0.8, 0.6, CLAMPED), even(0.001)
        once = respond(panel, stack, (LoadCase("p", (1000.0,)),), FULL, False, 1.5).cases[0]
        more = respond(panel, stack, (LoadCase("p", (1500.0,)),), FULL, False, 1.0).cases[0]
        scale = float(np.abs(more.strains).max())
        np.testing.assert_allclose(1.5 * once.strains, more.strains, atol=1e-4 * scale)


if __name__ == "__main__":
    unittest.main()
