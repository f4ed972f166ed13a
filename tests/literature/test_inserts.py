"""Inserts: closed forms by hand, the faces' share against the differential equation, screws in wood by the code."""

from __future__ import annotations

import math
import unittest

import numpy as np
from scipy.integrate import solve_bvp

from omakase.core.checks.registry import run_details
from omakase.core.checks.result import CheckResult, Limits, Settings
from omakase.core.details.detail import DetailError, PointCase, Site, bending_stiffness
from omakase.core.details.insert import Insert
from omakase.core.laminate.stack import Stack, make_layer
from omakase.core.laminate.stiffness import laminate_abd
from omakase.project.library import shipped_materials

LIB = shipped_materials()
FACE = tuple(make_layer(LIB["twill200"], angle) for angle in (45, 0))
FOAM = Stack((*FACE, make_layer(LIB["pvc80"], 0, 0.012), *FACE[::-1]))
COMB = Stack((*FACE, make_layer(LIB["hc48"], 0, 0.0127), *FACE[::-1]))
PULL, PUSH, TILT = PointCase("p", "p", 200.0), PointCase("s", "s", 0.0, 400.0), PointCase("m", "m", moment=3.0)


def insert(*cases: PointCase, stack: Stack = FOAM, **changes: object) -> Insert:
    sizes: dict[str, object] = {"filler": LIB["potting650"], "glue": LIB["g-paste"]} | changes
    made = Insert("d1", "insert", Site(stack, 0.1, 0.1, (0.1,) * 4), cases or (PULL,), **sizes)  # type: ignore[arg-type]
    made.check()
    return made


def judged(own: Insert) -> dict[str, CheckResult]:
    return {result.check: result for result in run_details([own], Settings(1.5), Limits())}


class Core(unittest.TestCase):
    def test_shear_round_a_potting_by_hand(self) -> None:
        depth = FOAM.thickness - FACE[0].thickness * 2.0
        result = judged(insert())["insert_core"]
        self.assertAlmostEqual(result.value / (1.5 * 200.0 / (2.0 * math.pi * 0.01 * depth)), 1.0, places=9)
        shallow = judged(insert(kind="potted", depth=0.008))["insert_core"]
        deep = 0.008 - FACE[0].thickness
        self.assertAlmostEqual(shallow.value / (1.5 * 200.0 / (2.0 * math.pi * 0.01 * deep)), 1.0, places=9)

    def test_a_moment_is_carried_by_shear_round_it(self) -> None:
        """q = q0 cos θ: M = ∮ q0 cos²θ r² dθ, and of a rectangle the integral over its four sides."""
        own = insert(TILT)
        angles = np.linspace(0.0, 2.0 * np.pi, 2001)
        peak = 1.0 / own.tilting
        self.assertAlmostEqual(float(np.trapezoid(peak * np.cos(angles) ** 2 * own.radius**2, angles)), 1.0, places=9)
        block = insert(TILT, kind="plug", filler=LIB["ply-birch"], length=0.05, width=0.03)
        x = np.linspace(-0.015, 0.015, 4001)
        slope = (1.0 / block.tilting) / 0.015
        carried = 2.0 * 0.05 * slope * 0.015**2 + 2.0 * float(np.trapezoid(slope * x**2, x))
        self.assertAlmostEqual(carried, 1.0, places=6)

    def test_what_faces_carry_against_the_differential_equation(self) -> None:
        """Slope of the faces and turn of the section on their own: D_f and D0 bend, the core shears between them."""
        own = insert()
        depth = own.held_depth
        D_f = sum(bending_stiffness(face) for face in own.faces)
        A = math.sqrt(np.prod(np.diag(laminate_abd(own.faces[0])[0])[:2]))
        D_0 = depth**2 * A / 2.0
        S = LIB["pvc80"].value("G13") * depth**2 / 0.012
        far = 0.3

        def slope(r: np.ndarray, y: np.ndarray) -> np.ndarray:
            w, dw, turn, dturn = y  # slope of the faces, turn of the section
            sheared = S * (w + turn)
            load = 1.0 / (2.0 * np.pi * r)
            return np.vstack([
                dw, -dw / r + w / r**2 + (sheared - load) / D_f, dturn, -dturn / r + turn / r**2 + sheared / D_0,
            ])  # fmt: skip

        def ends(a: np.ndarray, b: np.ndarray) -> np.ndarray:
            return np.array([a[0], a[2], b[0], b[2]])

        r = np.geomspace(own.radius, far, 4000)
        found = solve_bvp(slope, ends, r, np.zeros((4, 4000)), tol=1e-8, max_nodes=100000)
        near = np.linspace(own.radius, 6.0 * own.radius, 4000)
        states = found.sol(near)
        most = float(np.max(S * (states[0] + states[2]))) * 2.0 * np.pi * own.radius
        self.assertAlmostEqual(own.faces_share / most, 1.0, delta=5e-3)
        self.assertLess(own.faces_share, 1.0)

    def test_thin_faces_leave_all_to_the_core(self) -> None:
        thin = Stack(
            (make_layer(LIB["gplain50"], 0), make_layer(LIB["pvc200"], 0, 0.02), make_layer(LIB["gplain50"], 0))
        )
        self.assertGreater(insert(stack=thin, potting=0.06).faces_share, 0.85)

    def test_honeycomb_is_filled_beyond_the_hole(self) -> None:
        """ESA PSS-03-1202, least effective radius in mm (from memory)."""
        own = insert(stack=COMB, diameter=0.0142, potting=0.0142)
        expected = 0.93192 * 7.1 + 0.874 * LIB["hc48"].value("cell_size") * 1e3 - 0.66151
        self.assertAlmostEqual(own.radius * 1e3, expected, places=6)


class Others(unittest.TestCase):
    def test_glue_of_a_bush_and_bond_of_a_plate_by_hand(self) -> None:
        solid = Stack(FACE * 4)
        bush = judged(insert(PULL, stack=solid, kind="bush", kept=0.8))["insert_glue"]
        self.assertAlmostEqual(bush.value / (1.5 * 200.0 / (math.pi * 0.01 * solid.thickness)), 1.0, places=9)
        self.assertAlmostEqual(bush.allowable, 0.8 * LIB["g-paste"].value("lap_shear"))
        both = PointCase("b", "b", 200.0, moment=2.0)
        plate = judged(insert(both, kind="plate", filler=LIB["al6082"], diameter=0.005))["insert_glue"]
        self.assertAlmostEqual(plate.value, 1.5 * (200.0 / (0.04 * 0.03) + 6.0 * 2.0 / (0.03**2 * 0.04)), places=3)
        self.assertEqual(plate.allowable, LIB["pvc80"].value("Zt"))

    def test_a_screw_in_wood_by_the_code(self) -> None:
        """EN 1995-1-1 (8.38) to (8.40), from memory: f = 0.52 d^-0.5 l^-0.1 ρ^0.8, F = f d l min(d/8, 1)."""
        own = judged(insert(PULL, kind="plug", filler=LIB["ply-birch"], diameter=0.005))["insert_thread"]
        density = LIB["ply-birch"].value("density")
        self.assertAlmostEqual(own.allowable, 0.52 * 5**-0.5 * 12**-0.1 * density**0.8 * 5 * 12 * 5 / 8, places=6)

    def test_a_face_bears_alone_unless_the_insert_goes_through(self) -> None:
        through = judged(insert(PUSH))["insert_face"]
        shallow = judged(insert(PUSH, kind="potted", depth=0.008))["insert_face"]
        self.assertAlmostEqual(shallow.value / through.value, 2.0, places=6)
        self.assertIn("does not reach", shallow.remarks[0])

    def test_a_test_takes_the_place_of_the_estimates(self) -> None:
        results = judged(insert(PULL, tested=900.0, tested_by="three pulled in November"))
        self.assertEqual(set(results), {"insert_tested"})
        self.assertAlmostEqual(results["insert_tested"].reserve_factor, 900.0 / (1.5 * 200.0))
        self.assertEqual(results["insert_tested"].source, "tested")
        tilted = judged(insert(TILT, tested=900.0))["insert_tested"]
        self.assertAlmostEqual(tilted.value, 1.5 * 2.0 * 3.0 / 0.01, places=6)

    def test_pull_and_shear_add_up_as_squares(self) -> None:
        results = judged(insert(PointCase("b", "b", 200.0, 400.0)))
        pulled = min(results[name].reserve_factor for name in ("insert_core", "insert_glue"))
        used = math.hypot(1.0 / pulled, 1.0 / results["insert_face"].reserve_factor)
        self.assertAlmostEqual(results["insert_both"].value, used)

    def test_what_cannot_be_is_told_at_its_field(self) -> None:
        for field, changes in (
            ("potting", {"potting": 0.005}), ("depth", {"kind": "potted", "depth": 0.05}),
            ("diameter", {"diameter": 1.0}),
            ("what", {"stack": Stack(FACE)}), ("width", {"kind": "plug", "width": 0.002}), ("tested", {"tested": 0.0}),
            ("thickness", {"kind": "plate", "thickness": 0.02}), ("x", {"potting": 0.3}),
        ):  # fmt: skip
            with self.subTest(field=field), self.assertRaises(DetailError) as caught:
                insert(**changes)  # type: ignore[arg-type]
            self.assertEqual(caught.exception.field, field)


if __name__ == "__main__":
    unittest.main()
