"""Edges and doublers: a run-out against plane finite elements, shear lag against its closed form, free edges."""

from __future__ import annotations

import math
import unittest

import numpy as np
import skfem
from skfem.models.elasticity import lame_parameters, linear_elasticity

from omakase.core.checks.registry import run_details
from omakase.core.checks.result import CheckResult, Limits, Settings
from omakase.core.details.adhesive_layer import Glue
from omakase.core.details.detail import DetailError, LineCase, Site
from omakase.core.details.doubler import Doubler
from omakase.core.details.edge import Edge
from omakase.core.findings.details import find_in_details
from omakase.core.laminate.stack import Layer, Stack, make_layer
from omakase.project.library import shipped_materials
from tests.support import isotropic, material

LIB = shipped_materials()
PLIES = tuple(make_layer(LIB["twill200"], angle) for angle in (45, 0))
FOAM = Stack((*PLIES, make_layer(LIB["pvc80"], 0, 0.012), *PLIES[::-1]))
FLANGE = Stack((*PLIES, *PLIES[::-1]))
HELD = LineCase("held", "h", 0.0, 0.0, 800.0)


def edge(*cases: LineCase, stack: Stack = FOAM, **changes: object) -> Edge:
    sizes: dict[str, object] = {"flange": FLANGE} | changes
    made = Edge("d1", "edge", Site(stack, 0.0, 0.1), cases or (HELD,), **sizes)  # type: ignore[arg-type]
    made.check()
    return made


def judged(own: object) -> dict[str, CheckResult]:
    return {result.check: result for result in run_details([own], Settings(1.5), Limits())}  # type: ignore[list-item]


def finite_elements(slope: float, height: float, face: float, E_f: float, E_c: float, width: float) -> float:
    """Largest stress through the thickness of the core, just over the face at the kink, Pa per N/m held up in the
    middle of the flange; plane strain, quadratic elements, the face that comes down is the lower one."""
    nu_f, nu_c, far = 0.05, 0.3, 0.15
    run, thin = height / math.tan(math.radians(slope)), 0.02 * height
    along = np.concatenate([
        np.linspace(-width, 0.0, 10)[:-1], np.linspace(0.0, run, 81)[:-1],
        run + np.linspace(0.0, 1.0, 91) ** 1.8 * (far - run),
    ])  # fmt: skip
    rows = np.concatenate([np.linspace(0, 1, 4)[:-1], 1 + np.linspace(0, 1, 21)[:-1], 2 + np.linspace(0, 1, 4)])
    flat = skfem.MeshQuad.init_tensor(along, rows)
    x, row = flat.p
    core = np.clip(x / run, 0.0, 1.0) * (height - thin) + thin
    z = np.where(row <= 1, -row * face, np.where(row <= 2, -face - (row - 1) * core, -core - (row - 1) * face))
    mesh = skfem.MeshQuad(np.vstack([x, z]), flat.t[[0, 3, 2, 1]])
    middles = row[flat.t].mean(axis=0), x[flat.t].mean(axis=0)
    soft = (middles[0] > 1) & (middles[0] < 2) & (middles[1] > 0.0)
    element = skfem.ElementVector(skfem.ElementQuad2())
    basis = skfem.Basis(mesh, element)
    stiffness = sum(
        linear_elasticity(*lame_parameters(*law)).assemble(skfem.Basis(mesh, element, elements=np.flatnonzero(where)))
        for where, law in ((~soft, (E_f, nu_f)), (soft, (E_c, nu_c)))
    )
    end = skfem.FacetBasis(mesh, element, facets=mesh.facets_satisfying(lambda p: np.isclose(p[0], far)))

    @skfem.LinearForm
    def load(v, _w):  # type: ignore[no-untyped-def]
        return -v[1] / (2.0 * face + height)

    middle = basis.get_dofs(mesh.facets_satisfying(lambda p: np.isclose(p[0], far))).all("u^1")
    held = np.argmin((mesh.p[0] + width / 2.0) ** 2 + (mesh.p[1] + face) ** 2)
    fixed = np.concatenate([middle, [basis.nodal_dofs[1, held]]])
    moved = skfem.solve(*skfem.condense(stiffness, load.assemble(end), D=fixed))
    at = run + np.linspace(-0.3, 0.3, 61) * run
    depth = -face - 0.97 * (np.clip(at / run, 0.0, 1.0) * (height - thin) + thin)

    def moves(dx: float, dz: float) -> np.ndarray:
        return (basis.probes(np.vstack([at + dx, depth + dz])) @ moved).reshape(2, -1)

    step = 1e-6
    d_x, d_z = (moves(step, 0.0) - moves(-step, 0.0)) / 2e-6, (moves(0.0, step) - moves(0.0, -step)) / 2e-6
    lam, mu = lame_parameters(E_c, nu_c)
    return float(np.abs(lam * (d_x[0] + d_z[1]) + 2.0 * mu * d_z[1]).max())


class RunOut(unittest.TestCase):
    def test_the_kink_against_finite_elements(self) -> None:
        """Slopes of 15 to 30 degrees within 20 %, and 45 no more than that below."""
        for slope, face, E_c in ((15.0, 0.5e-3, 90e6), (20.0, 1e-3, 90e6), (30.0, 0.5e-3, 400e6), (45.0, 0.5e-3, 90e6)):
            sheet = isotropic(50e9, 0.05)
            foam = material(
                "core", "foam", density=100.0, E1=E_c, E2=E_c, G12=E_c / 2.6, G13=E_c / 2.6, G23=E_c / 2.6, nu12=0.3,
                E3=E_c, S13=1e6, S23=1e6, Zc=1e6, resin_uptake=0.0,
            )  # fmt: skip
            layer = Layer(sheet, 0.0, face)
            own = edge(LineCase("held", "h", 0.0, 0.0, 1.0), stack=Stack((layer, make_layer(foam, 0, 0.012), layer)),
                       slope=slope, width=0.02)  # fmt: skip
            ratio = own.core_stress(own.cases[0]) / finite_elements(slope, 0.012, face, 50e9, E_c, 0.02)
            with self.subTest(slope=slope, face=face):
                self.assertGreater(ratio, 0.8)
                self.assertLess(ratio, 1.35)

    def test_a_thin_core_is_a_bed_of_springs(self) -> None:
        """Where the core is thin against the reach of the face, λ/2 and 1/4λ of a beam on springs (Hetényi 1946)."""
        plies = tuple(make_layer(LIB["ud300"], 0) for _ in range(12))
        stack = Stack((*plies, make_layer(LIB["pvc80"], 0, 0.002), *plies))
        own = edge(stack=stack)
        lam = (LIB["pvc80"].value("E3") / 0.002 / (4.0 * own.bending)) ** 0.25
        self.assertAlmostEqual(own.under_line[0] / (lam / 2.0), 1.0, delta=0.05)
        self.assertAlmostEqual(own.under_line[1] * 4.0 * lam, 1.0, delta=0.05)

    def test_no_direction_is_stiffer_where_all_is_isotropic(self) -> None:
        sheet = make_layer(LIB["al6082"], 0, 0.001)
        stack = Stack((sheet, make_layer(LIB["pvc80"], 0, 0.012), sheet))
        straight = edge(stack=stack).under_line
        for angle in (30.0, 45.0, 90.0, 135.0):
            np.testing.assert_allclose(edge(stack=stack, angle=angle).under_line, straight, rtol=1e-5)  # G12 is rounded

    def test_statics_of_the_face_that_comes_down(self) -> None:
        own = edge(slope=25.0, width=0.03)
        run = 0.012 / math.tan(math.radians(25.0))
        distance = 0.012 + 2.0 * PLIES[0].thickness
        self.assertAlmostEqual(own.face_load(HELD), 800.0 * (run + 0.015) / distance)
        self.assertAlmostEqual(own.turned_load(HELD), own.face_load(HELD) * math.sin(math.radians(25.0)))
        self.assertAlmostEqual(edge(flat="face_b").face_load(HELD), -edge().face_load(HELD))

    def test_pulled_off_or_pressed(self) -> None:
        pressed, off = judged(edge())["edge_kink"], judged(edge(flat="face_b"))["edge_kink"]
        self.assertEqual(pressed.allowable, LIB["pvc80"].value("Zc"))
        self.assertEqual(off.allowable, LIB["pvc80"].value("Zt"))

    def test_a_tongue_takes_what_turns(self) -> None:
        tongue = Stack(PLIES)
        results = judged(edge(tongue=tongue))
        self.assertNotIn("edge_kink", results)
        self.assertAlmostEqual(
            results["edge_tongue"].value, 1.5 * abs(edge().turned_load(HELD)) / tongue.thickness, places=3
        )

    def test_flange_by_hand(self) -> None:
        sheet = Stack((make_layer(LIB["al6082"], 0, 0.004),))
        result = judged(edge(flange=sheet, width=0.03))["edge_flange"]
        stress = 6.0 * 800.0 * 0.015 / 0.004**2
        nu = LIB["al6082"].value("nu12")
        mises = stress * math.sqrt(1.0 - nu + nu**2)  # a wide strip cannot curve across
        expected = min(LIB["al6082"].value("Xt"), LIB["al6082"].value("Xc")) / mises
        self.assertAlmostEqual(result.reserve_factor * 1.5 / expected, 1.0, places=6)


class Closed(unittest.TestCase):
    def test_masses_by_hand(self) -> None:
        potted = edge(closing="potted", width=0.01, filler=LIB["potting650"])
        self.assertAlmostEqual(potted.mass, 0.01 * 0.012 * (650.0 - 80.0))
        wrapped = edge(closing="wrap", width=0.02, wrap=Stack(PLIES))
        areal = sum(Stack(PLIES).areal_mass().values())
        self.assertAlmostEqual(wrapped.mass, areal * (FOAM.thickness + 0.04))

    def test_open_cells_drink(self) -> None:
        comb = Stack((*PLIES, make_layer(LIB["hc48"], 0, 0.01), *PLIES[::-1]))
        self.assertTrue(edge(stack=comb, closing="tape").absorbs_water)
        self.assertFalse(edge(closing="tape").absorbs_water)
        self.assertFalse(edge(stack=comb, closing="potted", filler=LIB["potting650"]).absorbs_water)
        self.assertIn("edge_moisture:d1", {finding.rule for finding in find_in_details([edge(closing="open")])})

    def test_free_edges_rank_stacking_orders(self) -> None:
        """[±θ/90]s-like orders part, their mirror orders close (Pagano and Pipes 1971: the order changes the sign)."""
        along = LineCase("pull", "p", 0.0, 50e3)
        ud = LIB["ud300"]
        parts = Stack(tuple(make_layer(ud, angle) for angle in (0, 90, 90, 0)))
        closes = Stack(tuple(make_layer(ud, angle) for angle in (90, 0, 0, 90)))
        even = Stack(tuple(make_layer(ud, angle) for angle in (0, 0, 0, 0)))
        stresses = [edge(along, stack=stack, closing="open", angle=90.0) for stack in (parts, closes, even)]
        values = [own.parting(50e3)[0] for own in stresses]
        self.assertGreater(values[0], 10.0 * max(values[2], 1.0))
        self.assertLess(values[1], values[0])

    def test_what_cannot_be_is_told_at_its_field(self) -> None:
        for field, changes in (("slope", {"slope": 2.0}), ("width", {"width": 0.0}), ("x", {"stack": FLANGE})):
            with self.subTest(field=field), self.assertRaises(DetailError) as caught:
                edge(**changes)  # type: ignore[arg-type]
            self.assertEqual(caught.exception.field, field)


GLUE = Glue(1e9, 2.6e9, 0.2e-3, 30e6, 30e6, 0.3)


def doubler(*cases: LineCase, **changes: object) -> Doubler:
    sizes: dict[str, object] = {"layers": Stack(PLIES), "length": 0.08, "glue": GLUE, "glue_name": "glue"} | changes
    made = Doubler("d1", "doubler", Site(FLANGE), cases or (LineCase("pull", "p", 50e3),), **sizes)  # type: ignore[arg-type]
    made.check()
    return made


class Doublers(unittest.TestCase):
    def test_shear_lag_of_one_step_by_its_closed_form(self) -> None:
        """N_d = share (1 − cosh λx/cosh λℓ/2), τ at the end share λ tanh(λℓ/2) (Volkersen's equation)."""
        for length in (0.01, 0.03, 0.15):
            own = doubler(length=length)
            rate = math.sqrt(GLUE.G / GLUE.gap * (1.0 / own.base + 1.0 / own.full))
            self.assertAlmostEqual(own.reached, 1.0 - 1.0 / math.cosh(rate * length / 2.0), places=3)
            self.assertAlmostEqual(own.peak / (own.share * rate * math.tanh(rate * length / 2.0)), 1.0, delta=2e-2)

    def test_the_length_it_needs_is_enough(self) -> None:
        own = doubler(length=doubler().needed_length())
        self.assertAlmostEqual(own.reached, 0.95, places=3)
        self.assertTrue(judged(doubler(length=own.length * 1.01))["doubler_length"].passes)
        self.assertFalse(judged(doubler(length=own.length * 0.9))["doubler_length"].passes)

    def test_steps_and_scarfs_lower_the_peak(self) -> None:
        one, three, scarf = doubler(), doubler(steps=3, run=0.01), doubler(steps=3, run=0.01, tapered=True)
        self.assertLess(three.peak, one.peak)
        self.assertLess(scarf.peak, three.peak)

    def test_what_is_taken_is_what_the_glue_hands_over(self) -> None:
        own = doubler(steps=2, run=0.015)
        x, sheared, taken = own.answer
        half = len(x) // 2
        self.assertAlmostEqual(abs(np.trapezoid(sheared[: half + 1], x[: half + 1])) / taken[half], 1.0, delta=5e-3)

    def test_steep_and_bare_ends_are_found(self) -> None:
        found = {finding.rule for finding in find_in_details([doubler(steps=2, run=0.001, covered=False)])}
        self.assertEqual(found, {"steep_end:d1"})
        self.assertFalse(find_in_details([doubler(steps=2, run=0.01)]))

    def test_what_cannot_be_is_told_at_its_field(self) -> None:
        for field, changes in (
            ("length", {"length": 0.0}),
            ("steps", {"steps": 0}),
            ("run", {"steps": 6, "run": 0.02}),
        ):
            with self.subTest(field=field), self.assertRaises(DetailError) as caught:
                doubler(**changes)
            self.assertEqual(caught.exception.field, field)


if __name__ == "__main__":
    unittest.main()
