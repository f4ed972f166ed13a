"""Local failure by direction: waves, cells, hinges, yield, and cloth of several directions, each by a second way.

The second ways are searches over all directions, a finite-element library, the beam's differential equation, and the
same fibres laid up as single plies.
"""

from __future__ import annotations

import unittest
from types import SimpleNamespace

import numpy as np
from scipy.integrate import quad

from omakase.core.checks.compression import (
    Compression,
    axis_at,
    core_share,
    directional_bending,
    directional_core_shear,
    face_compression,
    mean_bending,
)
from omakase.core.checks.core_crushing import patch_pressures
from omakase.core.checks.indentation import (
    brittle_indentation_load,
    core_yield_load,
    foundation_moment,
    plastic_indentation_load,
)
from omakase.core.checks.places import Places
from omakase.core.checks.registry import run_all
from omakase.core.checks.result import CheckResult, Context, Limits, Settings
from omakase.core.checks.wrinkling import WrinklingStress, _Carried, _Waves, wave_depth
from omakase.core.laminate.failure import metal_allowable, von_mises
from omakase.core.laminate.stack import Layer, Stack, make_layer
from omakase.core.laminate.strength import first_layer_strength
from omakase.core.materials.material import Material
from omakase.core.materials.micromechanics import lamina
from omakase.core.members.field import Place, WallField
from omakase.core.members.panel import respond
from omakase.core.members.panel_given import LoadCase, Panel
from omakase.core.plates.loads import PatchLoad
from omakase.core.plates.section import PlateSection
from omakase.project.library import shipped_materials
from tests.support import isotropic, orthotropic

LIB = shipped_materials()


def layup(*layers: tuple) -> Stack:
    return Stack(tuple(make_layer(LIB[own[0]], own[1], own[2] if len(own) > 2 else None) for own in layers))


def pressed(section: PlateSection, forces: np.ndarray) -> Places:
    """Places at which face A bears ``forces`` (3, n), N/m, alone, and the core and the other face hardly anything."""
    face = section.faces[0]
    strains = np.zeros((11, forces.shape[1]))
    strains[0:3] = np.linalg.solve(face.A, forces) / 2.0
    strains[3:6] = strains[0:3] / face.z_middle
    strains[6:9] = 0.0
    count = forces.shape[1]
    case = SimpleNamespace(
        strains=strains.T.reshape(count, 1, 11), left_out=np.zeros((count, 1), bool), x=np.arange(count), y=np.zeros(1)
    )
    return Places((case,))  # type: ignore[arg-type]


class Wrinkles(unittest.TestCase):
    SKEW = layup(("ud200", 30.0), ("ud200", 10.0), ("pvc80", 0.0, 0.02), ("ud200", 10.0), ("ud200", 30.0))
    COMB = layup(("ud200", 40.0), ("hc48", 0.0, 0.0127), ("ud200", 40.0))

    def waves(self, stack: Stack, force: np.ndarray) -> tuple[_Waves, WrinklingStress, PlateSection]:
        section = PlateSection(stack)
        assert section.core is not None
        rule = WrinklingStress(stack, section.faces[0], section.core, "design")
        places = pressed(section, force[:, None])
        compressed = face_compression(section, places)
        return _Waves(_Carried(section.faces[0], rule), compressed, places, 0, np.zeros(1)), rule, section

    def test_one_way_compression_against_all_directions(self) -> None:
        """A plane wave along n: N_w(n) over nᵀ(−N)n, searched in steps of a tenth of a degree."""
        every = axis_at(np.arange(0.0, 180.0, 0.1))
        for stack in (self.SKEW, self.COMB):
            for angle in (0.0, 20.0, 75.0, 130.0):
                c, s = np.cos(np.radians(angle)), np.sin(np.radians(angle))
                waves, rule, section = self.waves(stack, -1e4 * np.array([c * c, s * s, c * s]))
                along = 1e4 * (1.0 + np.cos(np.radians(2.0 * (np.arange(0.0, 180.0, 0.1) - angle)))) / 2.0
                exact = np.min(section.faces[0].thickness * rule(every) / np.maximum(along, 1e-9))
                self.assertAlmostEqual(float(waves.factor[0]) / exact, 1.0, delta=0.01)

    def test_skew_faces_wrinkle_across_the_compression(self) -> None:
        waves, rule, section = self.waves(self.COMB, np.array([-1e4, 0.0, 0.0]))
        principal = section.faces[0].thickness * float(rule(axis_at(np.array(0.0)))) / 1e4
        self.assertLess(float(waves.factor[0]), 0.8 * principal)
        self.assertLess(waves.angle(0), 0.0)  # away from the fibres at +40°

    def test_pressed_alike_both_ways_it_does_not_hang_on_a_hair(self) -> None:
        """The principal axes of an even compression are anybody's guess; a hair more one way must change nothing."""
        section = layup(("twill200", 0.0), ("pvc80", 0.0, 0.02), ("twill200", 0.0))
        factors = [
            float(self.waves(section, -1e4 * np.array([1.0 + dx, 1.0, dxy]))[0].factor[0])
            for dx, dxy in ((0.0, 0.0), (1e-6, 0.0), (-1e-6, 0.0), (0.0, 1e-6))
        ]
        np.testing.assert_allclose(factors, factors[0], rtol=5e-3)

    def test_depth_of_the_wave(self) -> None:
        """Where it is printed: 0.91 t_f (E_f E_c/G_c²)^⅓ for an even face (Hoff and Mautner 1945)."""
        E_f, E_c, G_c, t = 60e9, 90e6, 27e6, 0.5e-3
        depth = wave_depth(np.array(E_f * t**3 / 12.0), E_c, np.array(G_c))
        self.assertAlmostEqual(float(depth) / (0.91 * t * np.cbrt(E_f * E_c / G_c**2)), 1.0, delta=2e-3)

    def test_a_wave_deeper_than_half_the_core_is_told(self) -> None:
        for thickness, expected in ((0.003, True), (0.03, False)):
            stack = layup(("twill200", 0.0), ("twill200", 0.0), ("pvc80", 0.0, thickness), ("twill200", 0.0))
            response = respond(Panel(0.6, 0.4), stack, (LoadCase("air", (1000.0,)),), with_frequencies=False)
            found = next(own for own in run_all(response, Settings(), Limits()) if own.check == "wrinkling")
            self.assertEqual(any("half the core" in remark for remark in found.remarks), expected)

    def test_crimping_of_a_core_with_a_ribbon_against_all_directions(self) -> None:
        core = PlateSection(self.COMB).core
        assert core is not None
        angles = np.arange(0.0, 180.0, 0.1)
        axis = axis_at(angles)
        for force in (np.array([-1.0, 0.2, 0.5]), np.array([-0.3, -1.0, 0.4]), np.array([0.5, 0.5, 0.1])):
            along = -(force[0] + force[1]) / 2.0 - (force[0] - force[1]) / 2.0 * axis[0] - force[2] * axis[1]
            exact = max(float(np.max(along / directional_core_shear(core, axis))), 0.0)
            self.assertAlmostEqual(
                float(core_share(core, Compression(force))) / max(exact, 1e-30), float(exact > 0.0), delta=1e-5
            )


class Cells(unittest.TestCase):
    def test_a_hexagonal_plate_pressed_both_ways_bears_half(self) -> None:
        """Simply supported hexagon by Morley's triangles of scikit-fem: N s²/D = 42 one way, 21.3 both ways."""
        from scipy.sparse.linalg import eigsh
        from skfem import Basis, ElementTriMorley, MeshTri, condense
        from skfem.assembly import BilinearForm
        from skfem.helpers import dd, ddot, dot, grad, trace

        corners = np.array([[np.cos(a), np.sin(a)] for a in np.radians(np.arange(0, 360, 60))]) / np.sqrt(3.0)
        points = np.vstack([[0.0, 0.0], corners]).T
        mesh = MeshTri(points, np.array([[0, k, k % 6 + 1] for k in range(1, 7)]).T).refined(4)
        basis = Basis(mesh, ElementTriMorley(), intorder=4)
        nu = 0.3

        @BilinearForm
        def bending(u, v, _):  # type: ignore[no-untyped-def]
            return (1.0 - nu) * ddot(dd(u), dd(v)) + nu * trace(dd(u)) * trace(dd(v))

        @BilinearForm
        def one_way(u, v, _):  # type: ignore[no-untyped-def]
            return grad(u)[0] * grad(v)[0]

        @BilinearForm
        def both_ways(u, v, _):  # type: ignore[no-untyped-def]
            return dot(grad(u), grad(v))

        held = basis.get_dofs().all(["u"])
        K = bending.assemble(basis)
        for form, expected in ((one_way, 42.0), (both_ways, 21.3)):
            stiffness, load, *_ = condense(K, form.assemble(basis), D=held)
            value = 1.0 / eigsh(load, k=1, M=stiffness, which="LA", return_eigenvectors=False)[0]
            self.assertAlmostEqual(value / expected, 1.0, delta=0.02)  # across flats is 1

    def test_the_mean_stiffness_is_that_over_all_directions(self) -> None:
        face = PlateSection(Wrinkles.COMB).faces[0]
        mean, _ = quad(lambda a: float(directional_bending(face, axis_at(np.array(a)))), 0.0, 180.0)
        self.assertAlmostEqual(mean_bending(face) / (mean / 180.0), 1.0, places=6)

    def test_the_reserve_is_by_the_sum(self) -> None:
        stack = layup(("twill160", 0.0), ("hc48-6", 0.0, 0.012), ("twill160", 0.0))
        section = PlateSection(stack)
        checks = {}
        for second in (0.0, -1e3):
            places = pressed(section, np.array([[-1e3], [second], [0.0]]))
            case = SimpleNamespace(name="x", key="x", patches=(), pressures=())
            case_response = places._cases[0][0]
            case_response.case = case
            case_response.place = lambda i, j: Place(0.0, 0.0)
            field = WallField(stack, section, (case_response,))
            context = Context(field, SimpleNamespace(), Settings(1.0), Limits())  # type: ignore[arg-type]
            from omakase.core.checks.dimpling import dimpling

            checks[second] = dimpling(context)[0].reserve_factor
        self.assertAlmostEqual(checks[0.0] / checks[-1e3], 2.0, places=6)


class Dents(unittest.TestCase):
    """A foot of 20 mm on faces of 0.5 mm over foam of 1.4 MPa and 90 MPa, 10 mm thick."""

    b = a = 0.02
    t, core, face = 0.5e-3, 1.4e6, 430e6
    D, k = 51e9 * 0.5e-3**3 / 12.0, 90e6 / 0.010

    def test_a_brittle_face_by_its_differential_equation(self) -> None:
        """Integrated from the end of the yielded zone inward: flat there, level in the middle, σ_f in the middle."""
        load = brittle_indentation_load(self.b, self.a, self.t, self.core, self.face)
        F, c = load / self.b / 2.0, self.a / 2.0
        strength = self.face * self.t**2 / 6.0
        L = next(
            x for x in np.linspace(c, 0.1, 200001) if F * (x - c / 2.0) - self.core * x**2 / 2.0 <= strength and x > c
            and F * x - self.core * x**2 / 2 - F * c / 2 <= strength and 2 * self.core * x**3 / (3 * x**2 - c**2) >= F
        )  # fmt: skip

        def moment(x: float) -> float:  # about x, of what acts on the half beyond it and the middle's moment
            on = F / c * min(x, c) * (x - min(x, c) / 2.0)
            return -strength + on - self.core * x**2 / 2.0

        turn, _ = quad(moment, 0.0, L, points=[c], limit=200)
        self.assertAlmostEqual(turn / (strength * L), 0.0, delta=2e-3)  # level at both ends
        self.assertAlmostEqual(moment(L) / strength, 0.0, delta=5e-3)  # flat beyond
        self.assertAlmostEqual(load, 765.0, delta=8.0)  # found once with finite elements outside this project

    def test_limits_of_the_yielded_core(self) -> None:
        line = brittle_indentation_load(self.b, 1e-7, self.t, self.core, self.face)
        exact = 4.0 / 3.0 * self.b * self.t * np.sqrt(self.core * self.face)
        self.assertAlmostEqual(line / exact, 1.0, delta=1e-3)
        plastic = plastic_indentation_load(self.b, self.a, self.t, self.core, self.face)
        self.assertLess(brittle_indentation_load(self.b, self.a, self.t, self.core, self.face), plastic)

    def test_first_yield_of_the_core(self) -> None:
        """An even load on a long beam on springs, by Fourier's integral of its deflection in the middle."""
        load = core_yield_load(self.b, self.a, self.D, self.k, self.core)

        def part(q: float) -> float:
            return 2.0 / np.pi * np.sin(q * self.a / 2.0) / q / (self.D * q**4 + self.k)

        middle, _ = quad(part, 1e-9, 6000.0, limit=2000)
        self.assertAlmostEqual(load / (self.a * self.b) * self.k * middle / self.core, 1.0, delta=2e-3)
        self.assertAlmostEqual(load, 525.0, delta=3.0)  # as above
        self.assertGreater(foundation_moment(1.0, self.a, self.D, self.k), 0.0)

    def test_a_dent_is_judged_at_limit_load_and_comes_first(self) -> None:
        stack = layup(("twill200", 0.0), ("twill200", 0.0), ("pvc80", 0.0, 0.01), ("twill200", 0.0), ("twill200", 0.0))
        case = LoadCase("foot", (), (PatchLoad(300.0, 0.3, 0.2, 0.02, 0.02),))
        response = respond(Panel(0.6, 0.4), stack, (case,), with_frequencies=False)
        found = {own.check: own for own in run_all(response, Settings(1.5), Limits())}
        self.assertAlmostEqual(found["dent"].value, 300.0)
        self.assertAlmostEqual(found["indentation"].value, 450.0)
        self.assertLess(found["dent"].allowable, found["indentation"].allowable)

    def test_patches_that_overlap_press_together(self) -> None:
        one, two = PatchLoad(100.0, 0.1, 0.1, 0.1, 0.1), PatchLoad(50.0, 0.16, 0.17, 0.1, 0.1)
        found = max(patch_pressures((one, two)))
        self.assertAlmostEqual(found[0], one.pressure + two.pressure)
        self.assertTrue(0.11 < found[1] < 0.15)
        self.assertTrue(0.12 < found[2] < 0.15)

    def test_suction_pulls_the_face_off(self) -> None:
        stack = layup(("twill200", 0.0), ("pvc80", 0.0, 0.01), ("twill200", 0.0))
        for pressure, expected in ((-2e4, LIB["pvc80"].value("Zt") / 3e4), (2e4, None)):
            response = respond(Panel(0.6, 0.4), stack, (LoadCase("air", (pressure,)),), with_frequencies=False)
            found = [
                own for own in run_all(response, Settings(1.5), Limits())
                if own.check == "flatwise_tension"
            ]  # fmt: skip
            self.assertEqual(len(found), expected is not None)
            if expected is not None:
                self.assertAlmostEqual(found[0].reserve_factor, expected)


class Metals(unittest.TestCase):
    def test_equal_stress_both_ways_and_opposite(self) -> None:
        """σ_vm = σ for σ, σ and √3 σ for σ, −σ (von Mises 1913)."""
        metal = isotropic(70e9, 0.33, strength=250e6)
        for stress, expected in (((1.0, 1.0), 1.0), ((1.0, -1.0), np.sqrt(3.0)), ((1.0, 0.0), 1.0)):
            strain = np.array([stress[0] - 0.33 * stress[1], stress[1] - 0.33 * stress[0], 0.0]) * 100e6 / 70e9
            self.assertAlmostEqual(2.5 / float(von_mises(strain, metal)), expected, places=9)

    def test_yield_at_limit_and_ultimate_at_ultimate(self) -> None:
        soft = isotropic(strength=250e6, Fu=300e6)
        hard = isotropic(strength=250e6, Fu=500e6)
        unknown = isotropic(strength=250e6)
        for metal, allowable, what in (
            (soft, 300e6, "ultimate strength"), (hard, 375e6, "yield at limit"), (unknown, 250e6, "yield at ultimate"),
        ):  # fmt: skip
            self.assertAlmostEqual(metal_allowable(metal, 1.5)[0], allowable)
            check = self.failure(metal)
            self.assertIn(what, check.method)
            self.assertAlmostEqual(check.reserve_factor / self.failure(unknown).reserve_factor, allowable / 250e6)

    def failure(self, metal: Material) -> CheckResult:
        stack = Stack((Layer(metal, 0.0, 2e-3),))
        response = respond(Panel(0.6, 0.4), stack, (LoadCase("air", (1e4,)),), with_frequencies=False)
        checks = run_all(response, Settings(1.5), Limits())
        return next(own for own in checks if own.check == "face_failure")


class SeveralDirections(unittest.TestCase):
    """A multiaxial cloth against the same fibres laid as single plies whose resin may crack across the fibres."""

    def test_every_direction_pulled_and_pressed(self) -> None:
        every = np.arange(0.0, 180.0, 7.5)
        for name in ("biax300", "triax450", "quad600", "gbiax450", "braid30"):
            ply = LIB[name]
            assert ply.build is not None
            assert ply.recipe is not None
            cloth = LIB[ply.recipe.cloth]
            fibre, resin = LIB[ply.build.fibre], LIB[ply.recipe.resin]
            fraction = ply.value("resin_mass_fraction")
            ratio = (1.0 - fraction) / fibre.value("density")
            straight = lamina(fibre, resin, ratio / (ratio + fraction / resin.value("density")))
            crimp = cloth.value("crimp")
            single = orthotropic(
                straight.E1 * crimp, straight.E2, straight.G12, straight.nu12, Xt=straight.Xt * crimp**4,
                Xc=straight.Xc * crimp, Yt=1e10, Yc=1e10, S12=straight.S12,
            )  # fmt: skip
            count = len(ply.build.directions)
            half = [Layer(single, angle, 1e-3 / count) for angle in ply.build.directions]
            laid = Stack((*half, *reversed(half)))
            whole = Stack((Layer(ply, 0.0, 2e-3),))
            for pulled in (True, False):
                found = first_layer_strength(whole, every, pulled=pulled)
                exact = first_layer_strength(laid, every, pulled=pulled)
                np.testing.assert_allclose(found, exact, rtol=1e-6, err_msg=name)

    def test_a_tested_strength_of_the_ply_counts(self) -> None:
        from omakase.core.materials.provenance import Sourced

        ply = LIB["biax300"]
        whole = Stack((Layer(ply, 0.0, 1e-3),))
        before = first_layer_strength(whole, np.array([0.0]))[0]
        tested = Material(
            ply.id, ply.name, ply.kind, ply.family, ply.properties | {"Xt": Sourced(0.8 * before, "tested")}, "",
            ply.build, ply.recipe,
        )  # fmt: skip
        after = first_layer_strength(Stack((Layer(tested, 0.0, 1e-3),)), np.array([0.0]))[0]
        self.assertAlmostEqual(after / before, 0.8, places=6)


if __name__ == "__main__":
    unittest.main()
