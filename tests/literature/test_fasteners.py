"""Bolts: threads and grades against the tables of their standards, shares of a row against a framework of bars and
springs, clamps against springs side by side and against a plate on an elastic bed."""

from __future__ import annotations

import math
import unittest

import numpy as np
from scipy.special import j1

from omakase.core.checks.fasteners import bearing_strength, hole_factor
from omakase.core.checks.registry import run_details
from omakase.core.checks.result import CheckResult, Limits, Settings
from omakase.core.details.bolts import GRADES, flexibility, preload, row_shares, stress_area
from omakase.core.details.detail import DetailError, PointCase, Site, bending_stiffness, shear_strength
from omakase.core.details.fastener import Fastener, Plate, Plug, Sleeve
from omakase.core.laminate.stack import Layer, Stack, make_layer
from omakase.project.library import shipped_materials

LIB = shipped_materials()
FOAM = Stack((
    make_layer(LIB["twill200"], 45), make_layer(LIB["twill200"], 0), make_layer(LIB["pvc80"], 0, 0.01),
    make_layer(LIB["twill200"], 0), make_layer(LIB["twill200"], 45),
))  # fmt: skip
SOLID = Stack(tuple(make_layer(LIB["twill200"], angle) for angle in (45, 0, 45, 0, 0, 45, 0, 45)))
PULL = PointCase("pull", "p", 300.0)
PUSH = PointCase("push", "s", 0.0, 900.0)


def bolt(stack: Stack = FOAM, *cases: PointCase, **changes: object) -> Fastener:
    sizes: dict[str, object] = {"diameter": 0.006, "torque": 4.0, "washer": 0.018} | changes
    made = Fastener("d1", "bolt", Site(stack, 0.1, 0.1, (0.1, 0.5, 0.1, 0.3)), cases or (PULL,), **sizes)  # type: ignore[arg-type]
    made.check()
    return made


def judged(own: Fastener, safety: float = 1.5) -> dict[str, CheckResult]:
    return {result.check: result for result in run_details([own], Settings(safety), Limits())}


class Bolts(unittest.TestCase):
    def test_stress_areas_and_proof_loads_of_the_standard(self) -> None:
        """ISO 898-1, tables of stress areas in mm² and of proof loads in N (from memory)."""
        for diameter, area in (
            (3, 5.03),
            (4, 8.78),
            (5, 14.2),
            (6, 20.1),
            (8, 36.6),
            (10, 58.0),
            (12, 84.3),
            (16, 157),
        ):
            self.assertAlmostEqual(stress_area(diameter * 1e-3) * 1e6 / area, 1.0, delta=3e-3)
        for grade, diameter, load in (("8.8", 6, 11600), ("8.8", 8, 21200), ("10.9", 8, 30400), ("4.6", 6, 4520),
                                      ("12.9", 6, 19500), ("5.8", 6, 7640)):  # fmt: skip
            self.assertAlmostEqual(GRADES[grade].proof * stress_area(diameter * 1e-3) / load, 1.0, delta=7e-3)

    def test_torque_and_preload(self) -> None:
        self.assertAlmostEqual(preload(8.0, 0.2, 0.006), 8.0 / (0.2 * 0.006))

    def test_shares_of_a_row_against_bars_and_springs(self) -> None:
        """Displacements of 2 n nodes, bars between those of a plate, a spring at each fastener: another road."""
        for count, first, second, give in ((4, 6e5, 6e5, 2e-8), (5, 4e5, 9e5, 5e-9), (3, 2e6, 3e5, 1e-7)):
            distance = 0.03
            stiff = np.zeros((2 * count, 2 * count))

            def join(i: int, j: int, k: float, matrix: np.ndarray = stiff) -> None:
                matrix[np.ix_([i, j], [i, j])] += k * np.array([[1.0, -1.0], [-1.0, 1.0]])

            for k in range(count - 1):
                join(k, k + 1, first / distance)
                join(count + k, count + k + 1, second / distance)
            for k in range(count):
                join(k, count + k, 1.0 / give)
            force = np.zeros(2 * count)
            force[0], force[-1] = -1.0, 1.0  # the first plate pulls at its first fastener, the second at its last
            moved = np.linalg.lstsq(stiff, force, rcond=None)[0]
            expected = (moved[count:] - moved[:count]) / give
            np.testing.assert_allclose(row_shares(count, distance, first, second, give), expected, rtol=1e-7)

    def test_rows_with_plates_that_do_not_give_share_evenly(self) -> None:
        np.testing.assert_allclose(row_shares(6, 0.03, 1e15, 1e15, 1e-8), 1.0 / 6.0, rtol=1e-6)
        shares = row_shares(5, 0.03, 5e5, 5e5, 1e-9)
        np.testing.assert_allclose(shares, shares[::-1], rtol=1e-9)
        self.assertGreater(shares[0], shares[2])

    def test_flexibility_by_hand(self) -> None:
        """Huth's formula with numbers put in: d 6, both sheets 3 mm of 70 GPa, bolts of 205 GPa."""
        share = 2.0 / (3e-3 * 70e9) + 1.0 / (3e-3 * 205e9)
        expected = (6.0 / 12.0) ** (2.0 / 3.0) * 4.2 * share
        self.assertAlmostEqual(flexibility(0.006, (3e-3, 70e9), (3e-3, 70e9), 205e9) / expected, 1.0, places=9)

    def test_a_row_that_is_turned(self) -> None:
        own = bolt(FOAM, PointCase("turn", "t", turn=12.0, across=60.0), count=3, pitch=0.05)
        forces = own.forces(own.cases[0])
        np.testing.assert_allclose(forces.sum(axis=0), [0.0, 60.0], atol=1e-9)
        moment = (forces[:, 1] * 0.05 * np.arange(3)).sum() - 60.0 * 0.05
        self.assertAlmostEqual(moment, 12.0)
        with self.assertRaises(DetailError):
            bolt(FOAM, count=1).forces(PointCase("turn", "t", turn=1.0))


class Clamps(unittest.TestCase):
    def test_pressure_by_hand_and_the_torque_that_crushes(self) -> None:
        own = bolt()
        area = own.core_area
        self.assertLess(area, math.pi / 4.0 * ((0.018 + 4.0 * SOLID.layers[0].thickness) ** 2 - own.hole**2))
        self.assertGreater(area, 0.85 * own.seat_area())
        result = judged(own)["clamp_core"]
        force = 4.0 / (0.2 * 0.006) + 300.0
        self.assertAlmostEqual(result.value / (1.5 * force / area), 1.0, places=9)
        self.assertAlmostEqual(result.reserve_factor, LIB["pvc80"].value("Zc") / result.value, places=9)
        crushing = LIB["pvc80"].value("Zc") * area * 0.2 * 0.006
        at_limit = judged(bolt(FOAM, PointCase("none", "n"), torque=crushing), safety=1.0)["clamp_core"]
        self.assertAlmostEqual(at_limit.reserve_factor, 1.0, places=9)
        self.assertIn(f"{crushing:.2g} N m", " ".join(result.remarks))

    def test_a_sleeve_carries_by_stiffness_once_the_core_has_given_way(self) -> None:
        """Two springs, one of which begins after a gap: solved by bisection on how far the faces come together."""
        sleeve = Sleeve(0.012, LIB["al6082"], 0.05e-3)
        own = bolt(washer=0.024, sleeve=sleeve, torque=6.0)
        soft, hard = own.core_stiffness(), own.sleeve_stiffness()
        for force in (50.0, 400.0, 5000.0):
            low, high = 0.0, 1.0
            for _ in range(200):
                closer = (low + high) / 2.0
                carried = soft * closer + hard * max(0.0, closer - sleeve.short)
                low, high = (closer, high) if carried < force else (low, closer)
            on_core, on_sleeve = own.on_core(force)
            self.assertAlmostEqual(on_core / (soft * low), 1.0, places=9)
            self.assertAlmostEqual(on_core + on_sleeve, force)
        strength = own.core_strength()[0]
        self.assertAlmostEqual(own.on_core(own.clamp_that_crushes(strength))[0] / (strength * own.core_area), 1.0)

    def test_a_flush_sleeve_saves_the_core_and_a_short_one_does_not(self) -> None:
        flush = judged(bolt(washer=0.024, sleeve=Sleeve(0.012, LIB["al6082"]), torque=6.0))["clamp_core"]
        short = judged(bolt(washer=0.024, sleeve=Sleeve(0.012, LIB["al6082"], 0.5e-3), torque=6.0))["clamp_core"]
        self.assertGreater(flush.reserve_factor, 1.0)
        self.assertLess(short.reserve_factor, 1.0)
        self.assertIn("shorter than the laminate", " ".join(short.remarks))

    def test_spread_through_a_face_against_a_plate_on_an_elastic_bed(self) -> None:
        """Largest pressure under an even round load (by Hankel's integral), or 45° where that presses more."""
        wavenumbers = np.linspace(1e-3, 2e4, 200001)
        for plies, radius in ((1, 0.009), (2, 0.006), (8, 0.006), (12, 0.02)):
            face = tuple(make_layer(LIB["twill200"], 0) for _ in range(plies))
            core = make_layer(LIB["pvc200"], 0, 0.01)
            own = bolt(Stack((*face, core, *face)), washer=2.0 * radius, diameter=0.003, torque=1.0)
            thickness = plies * face[0].thickness
            D = bending_stiffness(Stack(face))
            bed = LIB["pvc200"].value("E3") / 0.01
            pressed = j1(wavenumbers * radius) / (D * wavenumbers**4 + bed)
            peak = bed / (math.pi * radius) * float(np.trapezoid(pressed, wavenumbers))
            hole = math.pi / 4.0 * own.hole**2
            elastic = 1.0 / peak * (1.0 - hole / (math.pi * radius**2))
            spread = math.pi * (radius + thickness) ** 2 - hole
            self.assertAlmostEqual(own.core_area / min(elastic, spread), 1.0, delta=2e-3)

    def test_a_plug_takes_the_clamp_in_place_of_the_core(self) -> None:
        own = judged(bolt(plug=Plug(0.03, LIB["ply-birch"])))["clamp_core"]
        self.assertEqual(own.allowable, LIB["ply-birch"].value("Zc"))


class InThePlane(unittest.TestCase):
    def test_bearing_of_plywood_by_the_code(self) -> None:
        """EN 1995-1-1: 0.11 (1 − 0.01 d) ρ, d 8 mm."""
        wood = LIB["ply-birch"]
        strength, _, source = bearing_strength(Stack((make_layer(wood, 0, 0.012),)), 0.0, 0.008, "maximum_strain")
        self.assertAlmostEqual(strength * 1e-6, 0.11 * 0.92 * wood.value("density"), places=6)
        self.assertEqual(source, "estimated")

    def test_bearing_shear_out_and_net_section_by_hand(self) -> None:
        sheet = Stack((make_layer(LIB["al6082"], 0, 0.003),))
        results = judged(bolt(sheet, PUSH, edge=0.015, torque=1.0))
        self.assertAlmostEqual(results["bearing"].value, 1.5 * 900.0 / (0.006 * 0.003))
        self.assertAlmostEqual(results["bearing"].allowable, 1.5 * LIB["al6082"].value("Fu"))
        self.assertAlmostEqual(results["shear_out"].value, 1.5 * 900.0 / (2.0 * 0.015 * 0.003))
        self.assertAlmostEqual(results["net_section"].value, 1.5 * 900.0 / ((0.03 - 1.05 * 0.006) * 0.003))

    def test_a_countersink_takes_half_its_depth_from_what_bears(self) -> None:
        plain, sunk = (judged(bolt(SOLID, PUSH, countersink=depth)) for depth in (0.0, 0.001))
        thickness = SOLID.thickness
        self.assertAlmostEqual(
            sunk["bearing"].value / plain["bearing"].value, thickness / (thickness - 0.0005), places=9
        )

    def test_faces_share_by_stiffness_only_where_they_are_tied(self) -> None:
        alone = bolt(FOAM, PUSH)
        self.assertEqual(alone.face_shares(0.0), (1.0, 0.0))
        tied = bolt(FOAM, PUSH, plug=Plug(0.03, LIB["ply-birch"]))
        self.assertAlmostEqual(sum(tied.face_shares(0.0)), 1.0)
        self.assertAlmostEqual(tied.face_shares(0.0)[0], 0.5, places=9)
        hard = judged(tied)["bearing"].reserve_factor
        self.assertAlmostEqual(hard / judged(alone)["bearing"].reserve_factor, 2.0, places=6)

    def test_strength_in_shear_turns_with_the_laminate(self) -> None:
        turned = Stack(tuple(Layer(own.material, own.angle + 20.0, own.thickness) for own in SOLID.layers))
        self.assertAlmostEqual(shear_strength(turned, 50.0) / shear_strength(SOLID, 30.0), 1.0, places=9)
        single = Stack((make_layer(LIB["ud300"], 0),))
        self.assertAlmostEqual(shear_strength(single, 0.0) / LIB["ud300"].value("S12"), 1.0, places=9)
        self.assertAlmostEqual(shear_strength(single, 90.0) / LIB["ud300"].value("S12"), 1.0, places=9)

    def test_factor_beside_a_loaded_hole(self) -> None:
        """Hart-Smith's formula with numbers put in (from memory); a wide strip's stress goes with its width."""
        self.assertAlmostEqual(hole_factor(30.0, 6.0, 60.0), 2.0 + 4.0 - 1.5 * 4.0 / 6.0)
        self.assertAlmostEqual(hole_factor(6000.0, 6.0, 6000.0) / 1000.0, 1.0, delta=2e-3)

    def test_rows_take_their_shares_with_the_part_that_is_fastened_on(self) -> None:
        own = bolt(SOLID, PUSH, count=4, pitch=0.03, plate=Plate(LIB["al6082"], 0.002))
        forces = own.forces(PUSH)
        self.assertAlmostEqual(forces[:, 0].sum(), 900.0)
        self.assertGreater(own.worst(PUSH)[0], 900.0 / 4.0)

    def test_the_edge_ahead_is_that_in_the_direction_of_the_force(self) -> None:
        own = bolt(SOLID, PUSH)
        self.assertAlmostEqual(own.ahead(PUSH, 0.0), 0.5)
        self.assertAlmostEqual(own.ahead(PUSH, 180.0), 0.1)
        self.assertAlmostEqual(own.ahead(PUSH, 90.0), 0.3)
        self.assertAlmostEqual(own.site.ahead(45.0), 0.3 * math.sqrt(2.0))

    def test_a_row_is_as_near_to_the_edge_as_its_nearest_bolt(self) -> None:
        own = bolt(
            SOLID, PUSH, count=3, pitch=0.2
        )  # edges at 0.1 and 0.5 m along x: the third is 0.1 m from the far one
        self.assertAlmostEqual(own.ahead(PUSH, 0.0), 0.1)
        self.assertAlmostEqual(own.ahead(PUSH, 180.0), 0.1)
        across = bolt(SOLID, PUSH, count=2, pitch=0.28, row_angle=90.0)
        self.assertAlmostEqual(across.edge_distance, 0.02)
        with self.assertRaises(DetailError) as caught:
            bolt(SOLID, PUSH, count=4, pitch=0.2)
        self.assertEqual(caught.exception.field, "pitch")


class Pulled(unittest.TestCase):
    def test_core_shear_and_punching_by_hand(self) -> None:
        face = 2.0 * SOLID.layers[0].thickness
        result = judged(bolt())["pulled_core"]
        rim, depth = math.pi * (0.018 + 2.0 * face), 0.01 + face
        self.assertAlmostEqual(result.value / (1.5 * 300.0 / (rim * depth)), 1.0, places=9)
        punched = judged(bolt(SOLID))["pull_through"]
        self.assertAlmostEqual(punched.value / (1.5 * 300.0 / (math.pi * 0.018 * SOLID.thickness)), 1.0, places=9)

    def test_bolts_bear_preload_and_pull_against_the_proof_load(self) -> None:
        result = judged(bolt(SOLID, PointCase("pull", "p", 2000.0), torque=10.0))["bolt_strength"]
        self.assertAlmostEqual(result.value, (10.0 / (0.2 * 0.006) + 2000.0) / (580e6 * stress_area(0.006)), places=9)

    def test_a_moment_tilts_a_single_bolt_about_its_washer_and_a_row_as_a_whole(self) -> None:
        tilt = PointCase("tilt", "m", moment=9.0)
        self.assertAlmostEqual(bolt(SOLID, tilt).tension(tilt), 9.0 / 0.009)
        self.assertAlmostEqual(bolt(SOLID, tilt, count=2, pitch=0.06).tension(tilt), 9.0 / 0.06)


class Refused(unittest.TestCase):
    def test_what_cannot_be_is_told_at_its_field(self) -> None:
        for field, changes in (
            ("edge", {"edge": 0.002}), ("torque", {"torque": None}), ("washer", {"washer": 0.006}),
            ("pitch", {"count": 2, "pitch": 0.004}), ("diameter", {"diameter": 0.2}),
            ("sleeve_outside", {"sleeve": Sleeve(0.006, LIB["al6082"])}),
            ("plug_diameter", {"plug": Plug(0.005, LIB["pvc200"])}),
            ("countersink", {"countersink": 0.02}), ("seat_length", {"seat": (0.005, 0.05)}),
            ("sleeve_short", {"sleeve": Sleeve(0.012, LIB["al6082"], 0.05)}), ("count", {"count": 0}),
        ):  # fmt: skip
            with self.subTest(field=field), self.assertRaises(DetailError) as caught:
                bolt(FOAM, **changes)
            self.assertEqual(caught.exception.field, field)
        with self.assertRaises(DetailError):
            bolt(SOLID, plug=Plug(0.03, LIB["pvc200"]))


if __name__ == "__main__":
    unittest.main()
