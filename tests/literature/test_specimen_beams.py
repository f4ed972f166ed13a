"""Beams and coupons against second methods: integrated beams, coverage by drawing, specimens made as predicted."""

from __future__ import annotations

import unittest

import numpy as np
from scipy.integrate import cumulative_trapezoid

from omakase.core.laminate.stack import Stack, make_layer
from omakase.core.laminate.strength import shear_ratios, shear_strength_along
from omakase.core.specimens import beams, statistics
from omakase.core.specimens.curve import Curve
from omakase.core.specimens.expected import SandwichStrip, Strip
from omakase.core.specimens.method import Data, Method, Options
from omakase.core.specimens.registry import all_methods
from omakase.devices.simulated import Hidden, SimulatedFrame, run_through
from omakase.evaluate.testing.planning import sizes_for
from omakase.project.library import shipped_materials

MATERIALS = shipped_materials()
TWILL, UD, FOAM, COMB = (MATERIALS[name] for name in ("twill200", "ud200", "pvc80", "hc48"))
SOLID = Stack(tuple(make_layer(UD) for _ in range(8)))
SLANTED = Stack(tuple(make_layer(UD, angle) for angle in (45.0, -45.0, -45.0, 45.0)))
SANDWICH = Stack(
    (make_layer(TWILL), make_layer(TWILL), make_layer(FOAM, 0.0, 0.012), make_layer(TWILL), make_layer(TWILL))
)


def integrated(span: float, load_span: float, D: float) -> tuple[float, float]:
    """Deflection in the middle and under a roller for 1 N, by integrating M/D twice; y(0) = y(S) = 0."""
    x = np.linspace(0.0, span, 40_001)
    arm = (span - load_span) / 2.0
    moment = 0.5 * np.minimum(np.minimum(x, span - x), arm)
    slope = cumulative_trapezoid(-moment / D, x, initial=0.0)
    sag = cumulative_trapezoid(slope, x, initial=0.0)
    sag -= sag[-1] * x / span
    return float(np.interp(span / 2.0, x, sag)), float(np.interp(arm, x, sag))


class Beams(unittest.TestCase):
    def test_deflections_against_integration(self) -> None:
        for share in (0.0, 0.2, 1.0 / 3.0, 0.5, 0.8):
            span, D = 0.3, 7.0
            middle, roller = integrated(span, share * span, D)
            for at_rollers, expected in ((False, middle), (True, roller)):
                with self.subTest(share=share, at_rollers=at_rollers):
                    found = beams.bending_per_force(span, share * span, at_rollers) / D
                    self.assertAlmostEqual(found / expected, 1.0, delta=1e-6)

    def test_printed_factors(self) -> None:
        # 11/768 of P S³/(E I) in the middle and 1/96 under the rollers of quarter points; 23/1296 for third points
        self.assertAlmostEqual(beams.bending_per_force(1.0, 0.5, False), 11.0 / 768.0)
        self.assertAlmostEqual(beams.bending_per_force(1.0, 0.5, True), 1.0 / 96.0)
        self.assertAlmostEqual(beams.bending_per_force(1.0, 1.0 / 3.0, False), 23.0 / 1296.0)
        self.assertAlmostEqual(beams.bending_per_force(1.0, 0.0, True), 1.0 / 48.0)

    def test_taking_the_shear_off_gives_back_what_went_in(self) -> None:
        for span in (0.05, 0.1, 0.4):
            slope = beams.stiffness(12.0, 3e4, span, 0.2 * span, True)
            D, share = beams.bending_from_slope(slope, 3e4, span, 0.2 * span, True)
            self.assertAlmostEqual(D, 12.0)
            self.assertTrue(0.0 < share < 1.0)
        self.assertEqual(beams.bending_from_slope(1e9, 3e4, 0.1, 0.0, True)[0], 0.0)


class Strips(unittest.TestCase):
    def test_a_strip_of_one_material_has_its_moduli(self) -> None:
        strip = Strip(SOLID)
        self.assertAlmostEqual(strip.modulus / UD.value("E1"), 1.0, delta=1e-9)
        self.assertAlmostEqual(strip.poisson, UD.value("nu12"))
        self.assertAlmostEqual(strip.bending / (UD.value("E1") * strip.thickness**3 / 12.0), 1.0, delta=1e-9)
        self.assertAlmostEqual(strip.shear / (5.0 / 6.0 * UD.value("G13") * strip.thickness), 1.0, delta=1e-6)
        self.assertAlmostEqual(strip.strongest("stretch_x") / (UD.value("Xt") * strip.thickness), 1.0, delta=1e-9)
        self.assertAlmostEqual(strip.pressed / UD.value("Xc"), 1.0, delta=1e-9)

    def test_a_slanted_strip_gives_the_shear_modulus_of_its_ply(self) -> None:
        # ASTM D3518 rests on it: G12 = E/(2 (1 + ν)) of a balanced ±45° strip
        strip = Strip(SLANTED)
        self.assertAlmostEqual(strip.modulus / (2.0 * (1.0 + strip.poisson)) / UD.value("G12"), 1.0, delta=1e-9)

    def test_a_honeycomb_is_weaker_across(self) -> None:
        for angle, key in ((0.0, "S13"), (90.0, "S23")):
            self.assertAlmostEqual(shear_strength_along([make_layer(COMB, angle, 0.01)]) / COMB.value(key), 1.0)
        slanted = 1.0 / np.linalg.norm(shear_ratios(make_layer(COMB, 45.0, 0.01))[:, 0])
        self.assertTrue(COMB.value("S23") < slanted < COMB.value("S13"))
        self.assertEqual(shear_strength_along([]), np.inf)

    def test_thin_faces_on_a_core(self) -> None:
        # Allen: D = E t d²/2 for thin equal faces, and U = G d²/c
        strip = SandwichStrip(SANDWICH)
        face = strip.section.faces[0]
        thin = TWILL.value("E1") * face.thickness * strip.distance**2 / 2.0
        self.assertAlmostEqual(strip.bending / thin, 1.0, delta=0.03)
        self.assertAlmostEqual(strip.shear, FOAM.value("G13") * strip.distance**2 / 0.012)


class RoundTrip(unittest.TestCase):
    """A specimen made exactly as predicted is reduced to what was predicted."""

    STACKS = {"in_plane_shear": SLANTED, "tension": SOLID, "compression": SOLID, "flexure_3": SOLID, "flexure_4": SOLID,
              "short_beam": SOLID, "curved_beam": SOLID, "cantilever": SOLID}  # fmt: skip

    def broken(self, method: Method, stack: Stack) -> tuple[Data, dict[str, float], dict[str, float]]:
        """(data, sizes, predicted values) of one specimen without any scatter, bias, slack or noise."""
        sizes = sizes_for(method, stack)
        if method.name == "compression":
            sizes["gauge_length"] = 0.006  # short enough not to buckle
        assert method.predict is not None
        expected = method.predict(stack, sizes)
        hidden = Hidden(expected.forces, expected.stiffness, 0.0, expected.strain, expected.cross_strain)
        gauges = ("strain", "cross_strain") if expected.strain else ()
        frame = SimulatedFrame(hidden, 1e7, 0.0, 0.0, 0.0, gauges)  # type: ignore[arg-type]
        travel = expected.force / expected.stiffness
        curve = Curve(run_through(frame, min(max(travel / 60.0, 1e-6), 0.02)))
        peak = float(curve.force[curve.peak])
        return Data(peak, peak, curve), sizes, expected.values

    def test_every_method_that_predicts(self) -> None:
        seen = 0
        for method in all_methods().values():
            if method.predict is None:
                continue
            stack = self.STACKS.get(method.name, SANDWICH)
            if method.name == "flatwise_tension" and "Zt" not in FOAM.properties:
                continue
            with self.subTest(method.name):
                data, sizes, values = self.broken(method, stack)
                options = Options(shear_modulus=UD.value("G13") if method.name.startswith("flexure") else 0.0)
                found = method.reduce(data, sizes, options)
                for key, value in values.items():
                    result = found.get(key)
                    if result is not None:
                        seen += 1
                        # gauges tell strain by the microstrain, the frame force by what a fiftieth of a second adds
                        self.assertAlmostEqual(result.value / value, 1.0, delta=0.02, msg=key)
        self.assertGreater(seen, 20)


class Coverage(unittest.TestCase):
    def test_a_b_basis_lies_below_nine_of_ten_in_ninety_five_of_a_hundred_series(self) -> None:
        draws = np.random.default_rng(8).normal(100.0, 6.0, (20_000, 6))
        factor = statistics.tolerance_factor(6, 0.90)
        values = draws.mean(axis=1) - factor * draws.std(axis=1, ddof=1)
        tenth = 100.0 - 1.2815515655446004 * 6.0
        self.assertAlmostEqual(float(np.mean(values < tenth)), 0.95, delta=0.005)

    def test_the_interval_of_a_difference_holds_it_nineteen_times_in_twenty(self) -> None:
        random = np.random.default_rng(9)
        inside = 0
        for _ in range(2000):
            found = statistics.difference(random.normal(10.0, 1.0, 5), random.normal(11.0, 2.0, 7))
            assert found is not None
            inside += found.lower <= 1.0 <= found.upper
        self.assertAlmostEqual(inside / 2000.0, 0.95, delta=0.015)


if __name__ == "__main__":
    unittest.main()
