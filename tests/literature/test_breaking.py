"""The order of breaking, strength by direction, and heat, against mixtures worked by hand and a bimetal strip.

Timoshenko, Journal of the Optical Society of America 11 (1925) 233: the curvature of a bimetal strip.  Jones (1999),
section 4.5: ply discount.  The hybrids are bars side by side, derived.
"""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from omakase.core.laminate.breaking import LOADINGS, breaking_order
from omakase.core.laminate.constants import LaminateConstants
from omakase.core.laminate.stack import Layer, Stack, make_layer
from omakase.core.laminate.strength import first_layer_strength
from omakase.core.laminate.thermal import free_expansion
from omakase.evaluate.results.wording import breaking_words, event_words, thermal_words
from omakase.project.library import shipped_materials
from tests.support import isotropic

LIB = shipped_materials()


def layup(*layers: tuple[str, float]) -> Stack:
    return Stack(tuple(make_layer(LIB[name], angle, None if LIB[name].kind == "ply" else 0.01)
                       for name, angle in layers))  # fmt: skip


def bar(E: float, X: float, t: float):  # type: ignore[no-untyped-def]
    """A layer that does nothing across: no Poisson's ratio, so that layers are bars side by side."""
    material = isotropic(E, 0.0, Xt=X, Xc=X, Yt=X, Yc=X, S12=X, S13=X, S23=X)
    return Layer(material, 0.0, t)


class Hybrids(unittest.TestCase):
    def test_stiff_brittle_bars_break_first_and_tough_ones_hold(self) -> None:
        """Two kinds of bars: the first break at ε₁ under N = (E₁t₁ + E₂t₂) ε₁, the load falls to E₂t₂ ε₁, and the
        others carry E₂t₂ ε₂: the classic hybrid, of which the larger peak is the strength."""
        stiff, tough = bar(100e9, 1000e6, 0.2e-3), bar(20e9, 800e6, 0.6e-3)
        walk = breaking_order(Stack((stiff, tough, stiff)), "stretch_x")
        K1, K2 = 2 * 100e9 * 0.2e-3, 20e9 * 0.6e-3
        self.assertAlmostEqual(walk.stiffness / (K1 + K2), 1.0, places=9)
        first, second = walk.events
        self.assertEqual({index for index, _ in first.layers}, {0, 2})
        for value, wanted in ((first.strain, 0.01), (first.before, (K1 + K2) * 0.01), (first.after, K2 * 0.01),
                              (second.strain, 0.04), (second.before, K2 * 0.04)):  # fmt: skip
            self.assertAlmostEqual(value / wanted, 1.0, delta=1e-3)  # a broken bar keeps 1e-4 of its stiffness
        self.assertAlmostEqual(walk.strongest / max((K1 + K2) * 0.01, K2 * 0.04), 1.0, delta=1e-3)

    def test_little_of_the_tough_one_cannot_take_over(self) -> None:
        stiff, tough = bar(100e9, 1000e6, 0.5e-3), bar(20e9, 800e6, 0.1e-3)
        walk = breaking_order(Stack((stiff, tough, stiff)), "stretch_x")
        self.assertEqual(walk.strongest, walk.events[0].before)
        self.assertAlmostEqual(walk.residual, 20e9 * 0.1e-3 * 0.04 / walk.strongest, delta=1e-3)
        self.assertEqual(walk.holding, (1,))

    def test_bending_breaks_the_surface_first(self) -> None:
        """A bar of one material: M = X t²/6 at the surface, and the curvature X/E/(t/2)."""
        E, X, t = 70e9, 300e6, 2e-3
        quarter = bar(E, X, t / 4)
        walk = breaking_order(Stack((quarter,) * 4), "bend_x")
        self.assertAlmostEqual(walk.first / (X * t**2 / 6.0), 1.0, places=6)
        self.assertEqual({index for index, _ in walk.events[0].layers}, {0, 3})
        self.assertAlmostEqual(walk.events[0].strain, X / E, places=9)

    def test_order_of_layers_changes_bending_and_not_tension(self) -> None:
        outside = layup(
            ("twill200", 0), ("polyester150", 0), ("polyester150", 0), ("twill200", 0))  # fmt: skip
        inside = layup(("polyester150", 0), ("twill200", 0), ("twill200", 0), ("polyester150", 0))
        pulled = [breaking_order(stack, "stretch_x") for stack in (outside, inside)]
        self.assertAlmostEqual(pulled[0].strongest / pulled[1].strongest, 1.0, places=9)
        bent = [breaking_order(stack, "bend_x") for stack in (outside, inside)]
        self.assertGreater(bent[0].stiffness, 2.5 * bent[1].stiffness)
        self.assertGreater(bent[0].strongest, 2.0 * bent[1].strongest)
        for walk, stack in zip(pulled, (outside, inside), strict=True):
            self.assertIn("twill200", event_words(stack, walk.events[0]))
            self.assertIn("polyester150", event_words(stack, walk.events[1]))

    def test_a_cross_ply_cracks_before_it_breaks(self) -> None:
        """[0/90]s: the resin across cracks first and the fibres along still carry more (Jones, section 4.5.3)."""
        walk = breaking_order(layup(("ud200", 0), ("ud200", 90), ("ud200", 90), ("ud200", 0)), "stretch_x")
        self.assertEqual([mode for _, mode in walk.events[0].layers], ["along 2", "along 2"])
        self.assertGreater(walk.strongest, 1.5 * walk.first)
        self.assertIn("first layer at", breaking_words(walk, "si")[1])

    @given(st.lists(st.tuples(st.sampled_from(["ud200", "twill200", "satin4", "aramid170", "gmat225", "al6061"]),
                              st.integers(-90, 90)), min_size=1, max_size=8))  # fmt: skip
    @settings(deadline=None, max_examples=40)
    def test_any_layup_breaks_and_the_walk_hangs_together(self, layers: list[tuple[str, int]]) -> None:
        stack = Stack(tuple(make_layer(LIB[n], float(a), None if LIB[n].kind == "ply" else 1e-3) for n, a in layers))
        for loading in LOADINGS:
            walk = breaking_order(stack, loading)
            self.assertTrue(walk.events)
            strains = [event.strain for event in walk.events]
            self.assertEqual(strains, sorted(strains))
            for event in walk.events:
                self.assertLessEqual(event.after, event.before * (1 + 1e-6))
            self.assertGreaterEqual(walk.strongest, walk.first)
            self.assertLessEqual(walk.residual, 1.0)
            self.assertTrue(breaking_words(walk, "inch_pound")[0])


class Directions(unittest.TestCase):
    def test_isotropic_sheet_is_the_same_all_round(self) -> None:
        strength = first_layer_strength(layup(("al6061", 0)), np.arange(0.0, 180.0, 15.0), "tsai_wu")
        np.testing.assert_allclose(strength, LIB["al6061"].value("Xt"), rtol=2e-2)

    def test_off_axis_strength_of_one_ply(self) -> None:
        """Maximum stress by angle (Jones, 2.9.1): least of X/c², Y/s², S/(c s); maximum strain differs from it by
        Poisson's ratio only, which is left out here."""
        ply = layup(("ud200", 0)).layers[0].material
        changed = type(ply)(ply.id, ply.name, ply.kind, ply.family,
                            {**ply.properties, "nu12": type(ply.properties["E1"])(0.0, "assumed")})  # fmt: skip
        stack = Stack((make_layer(changed),))
        for angle in (5.0, 20.0, 45.0, 70.0):
            c, s = np.cos(np.radians(angle)), np.sin(np.radians(angle))
            wanted = min(ply.value("Xt") / c**2, ply.value("Yt") / s**2, ply.value("S12") / (c * s))
            self.assertAlmostEqual(float(first_layer_strength(stack, np.array([angle]))[0]) / wanted, 1.0, places=6)

    def test_pressing_and_pulling_differ(self) -> None:
        stack, along = layup(("aramid170", 0), ("aramid170", 0)), np.array([0.0])
        pulled, pressed = (float(first_layer_strength(stack, along, pulled=way)[0]) for way in (True, False))
        self.assertAlmostEqual(pulled / pressed, LIB["aramid170"].value("Xt") / LIB["aramid170"].value("Xc"), places=6)


class Heat(unittest.TestCase):
    def test_bimetal_strip(self) -> None:
        """κ = 6 (α₂ − α₁) ΔT (1 + m)²/(h (3 (1 + m)² + (1 + m n)(m² + 1/(m n)))), m = t₁/t₂, n = E₁/E₂ (Timoshenko).
        As a plate free both ways with equal Poisson's ratios the strip's formula holds too."""
        for m, n in ((1.0, 1.0), (0.5, 3.0), (2.0, 0.3)):
            h, dT = 2e-3, 80.0
            t2 = h / (1.0 + m)
            upper = isotropic(70e9 * n, 0.3, alpha1=12e-6, alpha2=12e-6)
            lower = isotropic(70e9, 0.3, alpha1=23e-6, alpha2=23e-6)
            stack = Stack((Layer(upper, 0.0, m * t2), Layer(lower, 0.0, t2)))
            wanted = 6 * 11e-6 * dT * (1 + m) ** 2 / (h * (3 * (1 + m) ** 2 + (1 + m * n) * (m**2 + 1 / (m * n))))
            response = free_expansion(stack, dT)
            self.assertAlmostEqual(abs(response.curvature[0]) / wanted, 1.0, places=9)
            self.assertAlmostEqual(response.curvature[0], response.curvature[1])
            self.assertAlmostEqual(abs(response.rise(0, 0.5)), wanted * 0.25 / 8.0, places=9)

    def test_symmetric_layups_stay_flat_and_one_material_expands_as_it_does(self) -> None:
        flat = free_expansion(layup(("ud200", 0), ("twill200", 45), ("ud200", 0)), -60.0)
        np.testing.assert_allclose(flat.curvature, 0.0, atol=1e-12)
        alone = free_expansion(layup(("al6061", 30)), 10.0)
        np.testing.assert_allclose(alone.strain, [236e-6, 236e-6, 0.0], atol=1e-12)
        self.assertIn("stays flat", thermal_words(layup(("al6061", 0)), "si")[1])

    def test_unsymmetric_cross_ply_is_a_saddle_and_an_angle_ply_twists(self) -> None:
        saddle = free_expansion(layup(("ud200", 0), ("ud200", 90)), -100.0)
        self.assertAlmostEqual(saddle.curvature[0], -saddle.curvature[1])
        self.assertGreater(abs(saddle.curvature[0]), 0.5)
        twisted = free_expansion(layup(("ud200", 30), ("ud200", -30)), -100.0)
        self.assertGreater(abs(twisted.curvature[2]), 0.5)
        self.assertIn("twists", thermal_words(layup(("ud200", 30), ("ud200", -30)), "inch_pound")[1])

    def test_a_single_satin_ply_curls_as_two_crossed_mixtures(self) -> None:
        """Each half of an n-harness satin as straight fibres both ways, (n − 1)/n of them one way (derived): forces and
        moments of the two halves about the middle written out, solved apart from the program's own sums."""
        for name, turned in (("satin4", False), ("gsatin300", True), ("asatin4", False)):
            cloth = LIB[name]
            ply = Stack((make_layer(cloth, 0.0, turned=turned),))
            across = {"carbon": 8e9, "glass": 11e9, "aramid": 5.5e9}[cloth.family]
            along_alpha = {"carbon": 0.5e-6, "glass": 8e-6, "aramid": -3e-6}[cloth.family]
            nu = cloth.value("nu12")
            whole = cloth.value("E1") / (1 - nu**2)  # of the cloth, the same both ways
            Q11, Q12 = 2 * whole - across, nu * whole
            across_alpha = (2 * (whole + Q12) * cloth.value("alpha1") - (Q11 + Q12) * along_alpha) / (Q12 + across)
            self.assertTrue(1.5e-5 < across_alpha < 1.2e-4, name)  # as resin with fibres in it expands
            warp = np.array([[Q11, Q12], [Q12, across]])
            hold = warp @ [along_alpha, across_alpha]
            s, h = (cloth.value("harness") - 1) / cloth.value("harness"), ply.thickness / 2
            upper = 1 - s if turned else s
            A, B, D, N, M = np.zeros((2, 2)), np.zeros((2, 2)), np.zeros((2, 2)), np.zeros(2), np.zeros(2)
            for share, low, high in ((upper, 0.0, h), (1 - upper, -h, 0.0)):
                Q = share * warp + (1 - share) * warp[::-1, ::-1]
                A, B, D = A + Q * (high - low), B + Q * (high**2 - low**2) / 2, D + Q * (high**3 - low**3) / 3
                held = (share * hold + (1 - share) * hold[::-1]) * -60.0
                N, M = N + held * (high - low), M + held * (high**2 - low**2) / 2
            wanted = np.linalg.solve(np.block([[A, B], [B, D]]), np.concatenate([N, M]))
            response = free_expansion(ply, -60.0)
            np.testing.assert_allclose(response.curvature[:2], wanted[2:], rtol=1e-6)
            np.testing.assert_allclose(response.strain[:2], wanted[:2], rtol=1e-6)
            self.assertAlmostEqual(response.curvature[0], -response.curvature[1])
            # colder, the side with more weft shrinks more along the warp and is the hollow one
            self.assertEqual(response.curvature[0] > 0.0, not turned)

    def test_satins_that_mirror_each_other_stay_flat(self) -> None:
        for angle, turned in ((0.0, True), (90.0, False)):
            pair = Stack((make_layer(LIB["satin4"], 0.0), make_layer(LIB["satin4"], angle, turned=turned)))
            np.testing.assert_allclose(free_expansion(pair, -60.0).curvature, 0.0, atol=1e-9)
        alike = Stack((make_layer(LIB["satin4"], 0.0), make_layer(LIB["satin4"], 0.0)))
        self.assertIn("bows", thermal_words(alike, "inch_pound")[1])
        self.assertIn("each yard", thermal_words(alike, "inch_pound")[1])

    def test_what_states_no_expansion_is_named(self) -> None:
        response = free_expansion(Stack((Layer(isotropic(70e9, 0.3), 0.0, 1e-3),)), 10.0)
        self.assertEqual(len(response.missing), 1)
        np.testing.assert_allclose(response.strain, 0.0)


class Constants(unittest.TestCase):
    def test_strength_times_direction_of_a_quasi_isotropic_layup_hardly_changes(self) -> None:
        stack = layup(("ud200", 0), ("ud200", 45), ("ud200", 90), ("ud200", -45), ("ud200", -45), ("ud200", 90),
                      ("ud200", 45), ("ud200", 0))  # fmt: skip
        modulus = LaminateConstants(stack).modulus(np.arange(0.0, 180.0, 10.0))
        self.assertLess(np.ptp(modulus) / modulus.mean(), 1e-9)
        strength = first_layer_strength(stack, np.arange(0.0, 180.0, 5.0))
        self.assertLess(np.ptp(strength) / strength.mean(), 0.35)


if __name__ == "__main__":
    unittest.main()
