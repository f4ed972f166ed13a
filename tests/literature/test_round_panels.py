"""Round and oval panels against handbooks, closed forms, and the axisymmetric equations solved as a boundary value
problem.

Timoshenko and Woinowsky-Krieger, Theory of Plates and Shells (1959), articles 16, 17, 19 and 100 (from memory);
Leissa, Vibration of Plates, NASA SP-160 (1969), tables 2.1 and 2.2 (from memory).
"""

from __future__ import annotations

import math
import unittest

import numpy as np
from scipy.integrate import solve_bvp

from omakase.core.laminate.stack import Stack, make_layer
from omakase.core.members.panel import PanelResponse, respond
from omakase.core.members.panel_given import FULL as LARGE
from omakase.core.members.panel_given import LINEAR, REFINED, Accuracy, Bolt, EdgeLoad, Held, LoadCase, Panel
from omakase.core.plates.disc import polar_terms
from omakase.core.plates.grid import Edges
from omakase.core.plates.loads import PatchLoad
from tests.support import isotropic, orthotropic, soft_core

E, NU, T, A, Q = 70e9, 0.3, 0.002, 0.3, 100.0
D = E * T**3 / 12.0 / (1.0 - NU**2)
SHEET = Stack((make_layer(isotropic(E=E, nu=NU), 0.0, T),))
PRESSED = LoadCase("pressed", (Q,))
PULLED = EdgeLoad((-1e3, -1e3), (-1e3, -1e3))


def disc(edge: str, length: float = 2.0 * A, width: float = 2.0 * A, **given: object) -> Panel:
    return Panel(length, width, Edges(edge, edge, edge, edge), outline="round", **given)


def solved(panel: Panel, *cases: LoadCase, stack: Stack = SHEET, accuracy: Accuracy = LINEAR) -> PanelResponse:
    return respond(panel, stack, cases, accuracy)


def moments(response: PanelResponse) -> np.ndarray:
    """M_x, M_y, M_xy at the samples of the first case."""
    return response.cases[0].strains[..., :9] @ response.section.membrane[:, 3:6]


class Handbook(unittest.TestCase):
    def near(self, value: float, expected: float, share: float = 1e-3) -> None:
        self.assertLess(abs(value / expected - 1.0), share, f"{value} for {expected}")

    def test_sag_moments_and_edge_force_under_pressure(self) -> None:
        clamped, simple = solved(disc("clamped"), PRESSED), solved(disc("simple"), PRESSED)
        self.near(clamped.cases[0].largest_deflection[0], Q * A**4 / 64.0 / D)
        self.near(simple.cases[0].largest_deflection[0], Q * A**4 / 64.0 / D * (5.0 + NU) / (1.0 + NU))
        self.near(moments(clamped)[-1, 0, 0], Q * A**2 / 8.0)
        self.near(-moments(clamped)[0, 0, 0], (1.0 + NU) * Q * A**2 / 16.0)
        self.near(-moments(simple)[0, 0, 0], (3.0 + NU) * Q * A**2 / 16.0)
        for own in (clamped, simple):
            (edge,) = own.cases[0].reactions
            self.near(edge.force, math.pi * A**2 * Q, 1e-6)
            self.near(edge.most or 0.0, Q * A / 2.0)

    def test_frequencies(self) -> None:
        for edge, expected in (
            ("clamped", (10.2158, 21.26, 21.26, 34.88)),
            ("simple", (4.9351, 13.898, 13.898, 25.613)),
        ):
            found = np.array(solved(disc(edge)).frequencies[:4])
            for value, known in zip(2.0 * np.pi * found * A**2 * math.sqrt(2700.0 * T / D), expected, strict=True):
                self.near(value, known)

    def test_buckling_pressed_evenly(self) -> None:
        """N a²/D = 14.68 clamped and 4.20 simply supported."""
        case = LoadCase("pressed", edge=PULLED)
        for edge, known in (("clamped", 14.682), ("simple", 4.1978)):
            beyond = solved(disc(edge), case).cases[0].beyond
            assert beyond is not None
            assert beyond.buckling is not None
            self.near(beyond.buckling * 1e3 * A**2 / D, known)

    def test_a_force_at_the_middle_and_beside_it(self) -> None:
        """w under a force at b from the middle of a clamped plate: F (a² − b²)²/(16 π D a²)."""
        small = 0.012
        for b in (0.0, 0.12):
            case = LoadCase("force", patches=(PatchLoad(100.0, A + 0.6 * b, A + 0.8 * b, small, small),))
            response = solved(disc("clamped"), case)
            expected = 100.0 * (A**2 - b**2) ** 2 / (16.0 * math.pi * D * A**2)
            x, y = np.array([A + 0.6 * b]), np.array([A + 0.8 * b])
            self.near(-float(response.cases[0].deflection_at(x, y)[0, 0]), expected, 5e-3)
            self.near(sum(own.force for own in response.cases[0].reactions), 100.0, 1e-6)

    def test_an_orthotropic_ellipse_clamped(self) -> None:
        """w = w0 (1 − x²/a² − y²/b²)², exact for any thin orthotropic plate: Lekhnitskii (1968); derived."""
        stack = Stack((make_layer(orthotropic(140e9, 10e9, 5e9, 0.3), 0.0, T),))
        for a, b in ((0.3, 0.2), (0.45, 0.15)):
            response = solved(disc("clamped", 2.0 * a, 2.0 * b), PRESSED, stack=stack)
            D11, D12, D22, D66 = (response.section.membrane[i, j] for i, j in ((3, 3), (3, 4), (4, 4), (5, 5)))
            w0 = Q / (24.0 * D11 / a**4 + 24.0 * D22 / b**4 + 16.0 * (D12 + 2.0 * D66) / (a * b) ** 2)
            self.near(response.cases[0].largest_deflection[0], w0, 3e-3)

    def test_a_sandwich_bends_and_shears(self) -> None:
        """Thin faces, simply supported: the sag of bending and q a²/(4 S); Plantema, Sandwich Construction (1966)."""
        face, core = 0.0005, 0.01
        stack = Stack(
            tuple(
                make_layer(own, 0.0, t)
                for own, t in ((isotropic(nu=NU), face), (soft_core(20e6), core), (isotropic(nu=NU), face))
            )
        )
        response = solved(disc("simple"), PRESSED, stack=stack)
        bending, shear = response.section.membrane[3, 3], response.section.shear[0, 0]
        expected = Q * A**4 / 64.0 / bending * (5.0 + NU) / (1.0 + NU) + Q * A**2 / 4.0 / shear
        self.near(response.cases[0].largest_deflection[0], expected, 3e-3)
        self.assertGreater(Q * A**2 / 4.0 / shear, 0.1 * expected)

    def test_a_bed_carries_evenly(self) -> None:
        w = solved(disc("free", held=Held(bed=1e6)), PRESSED).cases[0].w
        np.testing.assert_allclose(w, -Q / 1e6, rtol=1e-9)


class Axisymmetric(unittest.TestCase):
    """Von Kármán's and Marguerre's equations of a disc as a boundary value problem of r, by SciPy."""

    def sag(self, edge: str, held: bool, pressure: float, rise: float = 0.0) -> float:
        C = E * T / (1.0 - NU**2)
        start = 1e-4 * A

        def slope(r: np.ndarray) -> np.ndarray:
            return -2.0 * rise * r / A**2

        def change(r: np.ndarray, y: np.ndarray) -> np.ndarray:
            _, bent, kappa, u, N = y
            around = NU * N + E * T * u / r
            return np.stack([
                bent, kappa, (N * (bent + slope(r)) - pressure * r / 2.0) / D - kappa / r + bent / r**2,
                N / C - NU * u / r - bent**2 / 2.0 - slope(r) * bent, (around - N) / r,
            ])  # fmt: skip

        def ends(first: np.ndarray, last: np.ndarray) -> np.ndarray:
            turned = last[1] if edge == "clamped" else last[2] + NU * last[1] / A
            return np.array([first[1], first[3], last[0], turned, last[3] if held else last[4]])

        r = np.linspace(start, A, 400)
        guess = np.zeros((5, len(r)))
        for share in np.linspace(0.1, 1.0, 10):  # raised in steps
            full, pressure = pressure, pressure * share
            found = solve_bvp(change, ends, r, guess, tol=1e-6, max_nodes=50_000)
            pressure = full
            self.assertTrue(found.success, found.message)
            guess, r = found.y, found.x
        return float(-found.y[0, 0])

    def compare(self, edge: str, held: bool, pressure: float, rise: float = 0.0, share: float = 2e-3) -> float:
        panel = disc(edge, in_plane="all" if held else "may_spread", rise=(rise, rise))
        response = solved(panel, LoadCase("pressed", (pressure,)), accuracy=LARGE)
        case = response.cases[0]
        middle = float(-case.w[0].mean())
        expected = self.sag(edge, held, pressure, rise)
        self.assertLess(abs(middle / expected - 1.0), share, f"{edge} {held} {pressure} {rise}: {middle} {expected}")
        return middle

    def test_sheets_that_stretch(self) -> None:
        for edge, held in (("clamped", True), ("simple", True), ("simple", False)):
            with self.subTest(edge=edge, held=held):
                self.assertGreater(self.compare(edge, held, 8e3), 2.0 * T)

    def test_dishes(self) -> None:
        self.compare("clamped", True, 50.0, 0.01)  # moves little: linear
        self.compare("simple", False, 20.0, 0.01)
        self.compare("clamped", True, 400.0, 0.004)  # near its snap: raised in steps


class Bolted(unittest.TestCase):
    def test_many_bolts_are_a_resting_circle(self) -> None:
        """Bolts ever closer on a circle inside the edge; four to forty-eight of them.

        The limit is the plate simply supported at b with an overhang, w at the middle by superposition of article 17:
        M and Q of the ring outside turn the inner disc's edge."""
        b = 0.28
        sags = []
        for count in (6, 12, 24, 48):
            angles = 2.0 * np.pi * np.arange(count) / count
            bolts = tuple(Bolt(A + b * math.cos(t), A + b * math.sin(t), 0.01) for t in angles)
            response = solved(disc("free", held=Held(bolts=bolts)), PRESSED)
            forces = [own.force for own in response.cases[0].reactions]
            np.testing.assert_allclose(forces, math.pi * A**2 * Q / count, rtol=1e-3)
            sags.append(float(-response.cases[0].w[0].mean()))
        expected = overhanging(b)
        self.assertLess(abs(sags[-1] / expected - 1.0), 5e-3)
        self.assertEqual(sags, sorted(sags, reverse=True))

    def test_a_bolt_at_the_middle(self) -> None:
        middle = Bolt(A, A, 0.02)
        response = solved(disc("simple", held=Held(bolts=(middle,))), PRESSED)
        force = response.cases[0].reactions[0].force
        # w of the pressure less that of a force at the middle, (3 + ν)/(1 + ν) F a²/(16 π D), is nothing there
        expected = Q * A**4 / 64.0 * (5.0 + NU) / (3.0 + NU) / A**2 * 16.0 * math.pi
        self.assertLess(abs(force / expected - 1.0), 1e-2)


def overhanging(b: float) -> float:
    """Sag at the middle of a pressed disc of radius A resting on a circle of radius b, by the general solutions of
    D ∇⁴ w = −q inside and outside, matched at b (derived)."""
    q = -Q / D

    def terms(r: float, with_log: bool) -> np.ndarray:
        """w, w', M_r/−D, Q_r/−D of 1, r², ln r, r² ln r (columns)."""
        log = math.log(r)
        w = [1.0, r**2, log, r**2 * log]
        first = [0.0, 2.0 * r, 1.0 / r, 2.0 * r * log + r]
        second = [0.0, 2.0, -1.0 / r**2, 2.0 * log + 3.0]
        moment = [s + NU * f / r for s, f in zip(second, first, strict=True)]
        force = [0.0, 0.0, 0.0, 4.0 / r]  # d/dr of the Laplacian: 4 ln r + 4 of the last
        table = np.array([w, first, moment, force])
        return table if with_log else table[:, :2]

    def pressed(r: float) -> np.ndarray:
        return q * np.array([r**4 / 64.0, r**3 / 16.0, (3.0 + NU) * r**2 / 16.0, r / 2.0])

    rows, right = np.zeros((6, 6)), np.zeros(6)
    inner, outer, end = terms(b, False), terms(b, True), terms(A, True)
    rows[0, :2], right[0] = inner[0], -pressed(b)[0]
    rows[1, 2:], right[1] = outer[0], -pressed(b)[0]
    for k in (1, 2):
        rows[1 + k, :2], rows[1 + k, 2:] = inner[k], -outer[k]
    for k in (2, 3):
        rows[2 + k, 2:], right[2 + k] = end[k], -pressed(A)[k]
    return float(-np.linalg.solve(rows, right)[0])


class Grids(unittest.TestCase):
    def test_derivatives_of_polynomials(self) -> None:
        """∂x³ ∂y and ∂x ∂y² of x³ y and x y² through r and θ, whose own derivatives are exact: powers of r, and of
        cos and sin as sums of e^(ikθ)."""
        r, theta = 0.7, 1.1
        c, s = math.cos(theta), math.sin(theta)
        for m, n, dx, dy, exact in ((3, 1, 2, 1, 6.0 * r * c), (1, 2, 1, 1, 2.0 * r * s), (1, 2, 2, 1, 0.0)):
            waves = np.fft.fft([math.cos(t) ** m * math.sin(t) ** n for t in 2.0 * np.pi * np.arange(16) / 16]) / 16
            k = np.fft.fftfreq(16, 1.0 / 16)
            total = 0.0
            for (p, q), parts in polar_terms(dx, dy):
                radial = math.prod(m + n - own for own in range(p)) * r ** (m + n - p)
                around = float(np.real(np.sum(waves * (1j * k) ** q * np.exp(1j * k * theta))))
                total += sum(own * c**i * s**j / r**power for own, i, j, power in parts) * radial * around
            self.assertAlmostEqual(total, exact, places=10)

    def test_finer_cells_change_little(self) -> None:
        """Unidirectional faces aslant on foam, clamped, under a foot beside the middle: sag, frequencies, strains."""
        ply = orthotropic(130e9, 9e9, 5e9, 0.3)
        stack = Stack(tuple(make_layer(own, a, t) for own, a, t in ((ply, 30.0, 8e-4), (soft_core(2e7), 0.0, 0.01),
                                                                    (ply, 30.0, 8e-4))))  # fmt: skip
        case = LoadCase("foot", patches=(PatchLoad(100.0, 0.45, 0.22, 0.06, 0.04),))
        panel = disc("clamped", 0.6, 0.4)
        coarse, fine = (solved(panel, case, stack=stack, accuracy=own) for own in (LINEAR, REFINED))
        sags = [own.cases[0].largest_deflection[0] for own in (coarse, fine)]
        self.assertLess(abs(sags[0] / sags[1] - 1.0), 2e-3)
        np.testing.assert_allclose(coarse.frequencies, fine.frequencies, rtol=1e-3)
        bent, shear = (
            [np.abs(own.cases[0].strains[..., part]).max(axis=(0, 1)) for own in (coarse, fine)]
            for part in (slice(3, 6), slice(9, 11))
        )
        np.testing.assert_allclose(bent[0], bent[1], rtol=1e-2)
        np.testing.assert_allclose(shear[0], shear[1], rtol=1.5e-2)


if __name__ == "__main__":
    unittest.main()
