"""Bent laminates against the elasticity of a ring sector, curved-beam formulas and finite elements of a bracket."""

from __future__ import annotations

import unittest

import numpy as np
import skfem
from skfem.helpers import ddot, sym_grad, trace

from omakase.core.errors import LayupError, MemberError, SpecimenError
from omakase.core.laminate.bend import BendStress, radial_strength
from omakase.core.laminate.stack import Stack
from omakase.core.members.bracket import Bracket, BracketCase, BracketResponse, TipForce, section_forces
from omakase.core.specimens.method import Data, Options
from omakase.core.specimens.registry import all_methods
from tests.support import isotropic, orthotropic, sheet

E, NU = 70e9, 0.3
METAL = isotropic(E, NU)


class RingSector(unittest.TestCase):
    def test_isotropic_pure_bending(self) -> None:
        """σ_r and σ_θ of a curved bar under end moments (Timoshenko and Goodier, Theory of Elasticity, article 29)."""
        for a, b in ((0.005, 0.010), (0.002, 0.010), (0.050, 0.054)):
            found = BendStress(Stack(tuple(sheet(METAL, (b - a) / 8.0) for _ in range(8))), a)
            r = found.r
            N = (b * b - a * a) ** 2 - 4.0 * a * a * b * b * np.log(b / a) ** 2
            common = -4.0 / N  # of a moment that opens
            hollow = a * a * b * b / r**2 * np.log(b / a)
            radial = common * (hollow + b * b * np.log(r / b) + a * a * np.log(a / r))
            hoop = common * (-hollow + b * b * np.log(r / b) + a * a * np.log(a / r) + b * b - a * a)
            np.testing.assert_allclose(found.radial, radial, atol=2e-4 * radial.max())
            ends = [0, -1]  # where σ_r is nothing, so that strain is stress over E
            np.testing.assert_allclose(found.strain[ends] * E, hoop[ends], rtol=2e-4)

    def test_orthotropic_in_closed_form(self) -> None:
        """One layer, k = √(E_θ/E_r) (Lekhnitskii, Anisotropic Plates 1968, section 12): maximum σ_r."""
        ply = orthotropic(120e9, 9e9, 4.5e9, 0.3)
        a, b = 0.004, 0.008
        found = BendStress(Stack(tuple(sheet(ply, (b - a) / 10.0) for _ in range(10))), a)
        k = np.sqrt(120e9 / 9e9)  # wide or narrow: a ply of one direction contracts freely
        c = a / b
        g = (1.0 - c * c) / 2.0 - k / (k + 1.0) * (1.0 - c ** (k + 1.0)) ** 2 / (1.0 - c ** (2.0 * k))
        g += k * c * c / (k - 1.0) * (c ** (k - 1.0) - 1.0) ** 2 / (1.0 - c ** (2.0 * k))
        rho = found.r / b
        first = (1.0 - c ** (k + 1.0)) / (1.0 - c ** (2.0 * k)) * rho ** (k - 1.0)
        second = (1.0 - c ** (k - 1.0)) / (1.0 - c ** (2.0 * k)) * c ** (k + 1.0) * rho ** (-k - 1.0)
        radial = (1.0 - first - second) / (b * b * g)
        self.assertAlmostEqual(found.radial.max() / np.abs(radial).max(), 1.0, delta=0.005)

    def test_kedwards_formula_comes_near(self) -> None:
        """3M/(2t√(r_i r_o)) (Kedward, Wilson and McLean 1989) for thin bends."""
        t, a = 0.002, 0.02
        found = BendStress(Stack(tuple(sheet(METAL, t / 4.0) for _ in range(4))), a)
        self.assertAlmostEqual(found.radial.max() * 2.0 * t * np.sqrt(a * (a + t)) / 3.0, 1.0, delta=0.005)

    def test_in_the_limit_a_straight_laminate(self) -> None:
        ply, cloth = orthotropic(120e9, 9e9, 4.5e9, 0.3), orthotropic(60e9, 60e9, 4e9, 0.05)
        stack = Stack(
            (sheet(ply, 5e-4), sheet(cloth, 5e-4), sheet(ply, 5e-4, 90.0), sheet(cloth, 5e-4), sheet(ply, 5e-4))
        )
        response = BracketResponse(Bracket(0.1, 0.1, 1.0, 0.01), stack, ())
        self.assertLess(response.raised - 1.0, 0.005)
        tight = BracketResponse(Bracket(0.1, 0.1, 0.0015, 0.01), stack, ())
        self.assertGreater(tight.raised, 1.3)

    def test_what_makes_no_bend(self) -> None:
        with self.assertRaises(LayupError):
            BendStress(Stack((sheet(METAL, 0.001),)), 0.0)
        for sizes in ((0.0, 0.1, 0.01, 0.1, 90.0), (0.1, 0.1, 0.01, 0.1, 180.0), (0.1, 0.1, 0.0, 0.1, 90.0)):
            with self.assertRaises(MemberError):
                Bracket(*sizes)
        self.assertEqual(radial_strength(sheet(orthotropic(120e9, 9e9, 4.5e9, 0.3, Zt=30e6), 1e-3)), (30e6, True))


class Statics(unittest.TestCase):
    def test_forces_by_hand(self) -> None:
        """A right angle: the force across the second arm bends the first one evenly, that along it does not stop."""
        t, arm, reach, radius = 0.004, 0.06, 0.05, 0.006
        response = BracketResponse(Bracket(arm, reach, radius, 0.04), Stack((sheet(METAL, t),)), ())
        R = radius + t / 2.0
        across = section_forces(response.line, BracketCase("a", (TipForce(100.0),)))
        self.assertAlmostEqual(across.moment[0], 100.0 * (reach + R))
        self.assertAlmostEqual(across.axial[0], 100.0)
        self.assertAlmostEqual(across.shear[-1], -100.0)
        along = section_forces(response.line, BracketCase("a", (TipForce(along=100.0),)))
        self.assertAlmostEqual(along.moment[0], -100.0 * (arm + R))
        self.assertAlmostEqual(along.axial[-1], 100.0)
        moment = section_forces(response.line, BracketCase("a", (TipForce(moment=3.0),)))
        np.testing.assert_allclose(moment.moment, 3.0)

    def test_an_even_moment_turns_the_end(self) -> None:
        """A nearly straight bracket of one long arm under a moment: M L²/2EI (handbook)."""
        t, b = 0.002, 0.02
        response = BracketResponse(Bracket(0.3, 0.001, 0.0005, b, 5.0), Stack((sheet(METAL, t),)),
                                   [BracketCase("m", (TipForce(moment=1.0),))])  # fmt: skip
        length = response.line.s[-1]
        exact = length**2 / (2.0 * E * b * t**3 / 12.0)
        self.assertAlmostEqual(response.measures["deflection"][0].value / exact, 1.0, delta=0.002)
        self.assertLess(response.left_over, 1e-12)


class WholeBracket(unittest.TestCase):
    """Plane-stress quadratic elements of a right angle of metal under a force across its end."""

    def finite_elements(self, arm: float, reach: float, radius: float, t: float, force: float) -> tuple[float, float]:
        """(deflection of the end across, largest σ_r in the bend) per metre of width."""
        R = radius + t / 2.0
        along = np.concatenate([np.linspace(0.0, arm, 60)[:-1], arm + np.linspace(0.0, np.pi / 2.0 * R, 81)[:-1],
                                arm + np.pi / 2.0 * R + np.linspace(0.0, reach, 60)])  # fmt: skip
        mesh = skfem.MeshQuad.init_tensor(along, np.linspace(-t / 2.0, t / 2.0, 17))
        basis0 = skfem.Basis(mesh, skfem.ElementQuad1())
        s, z = mesh.p  # z toward the inside
        angle = np.clip((s - arm) / R, 0.0, np.pi / 2.0)
        behind = np.maximum(s - arm - np.pi / 2.0 * R, 0.0)
        x = np.minimum(s, arm) + (R - z) * np.sin(angle)
        y = R - (R - z) * np.cos(angle) + behind
        self.assertGreater(basis0.N, 1000)
        bent = skfem.MeshQuad(np.stack([x, y]), mesh.t)
        basis = skfem.Basis(bent, skfem.ElementVector(skfem.ElementQuad2()), intorder=4)
        lam, mu = E * NU / (1.0 - NU**2), E / (2.0 * (1.0 + NU))

        def stress(strain):  # type: ignore[no-untyped-def]
            return lam * trace(strain)[None, None] * np.eye(2)[:, :, None, None] + 2.0 * mu * strain

        @skfem.BilinearForm
        def energy(u, v, _w):  # type: ignore[no-untyped-def]
            return ddot(stress(sym_grad(u)), sym_grad(v))

        K = energy.assemble(basis)
        top = bent.facets_satisfying(lambda p: np.abs(p[1] - y.max()) < 1e-9, boundaries_only=True)
        facets = skfem.FacetBasis(bent, skfem.ElementVector(skfem.ElementQuad2()), facets=top, intorder=4)

        @skfem.LinearForm
        def load(v, _w):  # type: ignore[no-untyped-def]
            return force / t * v[0]

        held = basis.get_dofs(lambda p: np.abs(p[0]) < 1e-9)
        u = skfem.solve(*skfem.condense(K, load.assemble(facets), D=held))
        tip = float(u[basis.get_dofs(top).all("u^1")].mean())
        values = basis.interpolate(u)
        tension = stress(sym_grad(values))
        at = np.asarray(basis.default_parameters()["x"])
        away = np.stack([at[0] - arm, at[1] - R])
        normal = away / np.linalg.norm(away, axis=0)
        radial = np.einsum("iab,ijab,jab->ab", normal, tension, normal)
        there = (at[0] > arm + 0.2 * R) & (at[1] < 0.8 * R)
        return abs(tip), float(radial[there].max())

    def test_deflection_and_radial_stress(self) -> None:
        arm, reach, radius, t, b = 0.06, 0.05, 0.006, 0.004, 0.001
        tip, radial = self.finite_elements(arm, reach, radius, t, 1000.0)
        stack = Stack(tuple(sheet(METAL, t / 8.0) for _ in range(8)))
        case = BracketCase("a", (TipForce(1000.0 * b),))
        response = BracketResponse(Bracket(arm, reach, radius, b), stack, [case])
        outward = self.across(response)
        self.assertAlmostEqual(outward / tip, 1.0, delta=0.01)
        moment = response.forces[0].moment[response.line.bend] / b
        found = float((response.bend.radial[:, None] * moment).max())
        self.assertAlmostEqual(found / radial, 1.0, delta=0.03)

    @staticmethod
    def across(response: BracketResponse) -> float:
        """Deflection of the end in the direction of the force, by its work."""
        forces, b = response.forces[0], response.member.width
        strain = np.stack([forces.axial, forces.moment], axis=1) / b @ response.flexible.T
        shear = forces.shear / b / response.wall.stiffness[3, 3]
        work = strain[:, 0] * forces.axial + strain[:, 1] * forces.moment + shear * forces.shear
        return float(np.trapezoid(work, response.line.s)) / (1000.0 * b)


class CurvedBeamTest(unittest.TestCase):
    SIZES = {"width": 0.025, "thickness": 0.004, "radius": 0.0064, "span": 0.1, "load_span": 0.075, "roller": 0.01}

    def test_reduced_by_hand(self) -> None:
        """M = (P/2cos φ)(d_x/cos φ + (D + t) tan φ) of ASTM D6415 with φ 45°, d_x 12.5, D 10, t 4 mm (from memory)."""
        found = all_methods()["curved_beam"].reduce(Data(2000.0, 2000.0), self.SIZES, Options())
        moment = 2000.0 / 2.0 / np.cos(np.pi / 4.0) * (0.0125 / np.cos(np.pi / 4.0) + 0.014)
        self.assertAlmostEqual(found.get("bend").value, moment / 0.025, places=6)
        stress = 1.5 * moment / 0.025 / (0.004 * np.sqrt(0.0064 * 0.0104))
        self.assertAlmostEqual(found.get("strength").value / stress, 1.0, places=9)
        with self.assertRaises(SpecimenError):
            all_methods()["curved_beam"].reduce(Data(1.0, 1.0), self.SIZES | {"load_span": 0.2}, Options())

    def test_what_is_predicted_is_what_the_bracket_fails_at(self) -> None:
        """The moment that parts the plies of the specimen parts those of a bracket of the same bend."""
        ply = orthotropic(120e9, 9e9, 4.5e9, 0.3, Zt=30e6)
        stack = Stack(tuple(sheet(ply, 2.5e-4) for _ in range(16)))
        predicted = all_methods()["curved_beam"].predict(stack, self.SIZES)
        moment = predicted.values["bend"] * 0.025
        response = BracketResponse(Bracket(0.05, 0.05, 0.0064, 0.025), stack,
                                   [BracketCase("m", (TipForce(moment=moment),))])  # fmt: skip
        self.assertAlmostEqual(response.delamination(response.forces[0])[0], 1.0, places=6)
        self.assertAlmostEqual(predicted.values["strength"] / 30e6, 1.0, delta=0.1)  # the formula against the exact one
        self.assertEqual(predicted.mode, "the plies part in the bend")
