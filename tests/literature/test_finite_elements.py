"""Plates against a general finite-element library (scikit-fem), modelled there in another way.

Thin plates: Kirchhoff theory on Argyris triangles.  Sandwiches: plane-strain elasticity of the layers, quadratic
quadrilaterals, against a strip that bends to a cylinder (ν = 0, so that free sides do not matter).
"""

from __future__ import annotations

import math
import unittest

import numpy as np
import skfem
from scipy.sparse.linalg import eigsh
from skfem.helpers import dd, ddot, dot, eye, sym_grad, trace

from omakase.core.laminate.stack import Stack
from omakase.core.members.panel import respond, respond_zoned
from omakase.core.members.panel_given import LINEAR, LoadCase, Panel
from omakase.core.members.panel_patchwork import Box, Lying, patchwork
from omakase.core.members.panel_ribs import Rib, Ribbed
from omakase.core.plates.grid import Edges
from omakase.core.plates.loads import PatchLoad
from omakase.core.plates.solver import PlateSolution
from tests.support import CANTILEVER, CLAMPED, isotropic, plate, pressure_sag, sandwich, sheet, soft_core

E, NU, RHO, T = 70e9, 0.3, 2700.0, 1e-3
D = E * T**3 / (12.0 * (1.0 - NU**2))


class KirchhoffPlate:
    """A thin isotropic plate of unit D and unit mass on the unit square, clamped on some edges, free elsewhere."""

    def __init__(
        self, clamped: tuple[str, ...], refinement: int = 3, hole: tuple[float, float, float, float] | None = None
    ) -> None:
        """``hole`` : x low, x high, y low, y high of an opening, on multiples of 1/20."""
        if hole is None:
            mesh = skfem.MeshTri.init_sqsymmetric().refined(refinement).with_defaults()
        else:
            places = np.linspace(0.0, 1.0, 21)
            mesh = skfem.MeshTri.init_tensor(places, places)
            x, y = mesh.p[:, mesh.t].mean(axis=1)
            inside = (x > hole[0]) & (x < hole[1]) & (y > hole[2]) & (y < hole[3])
            mesh = mesh.remove_elements(np.flatnonzero(inside))
            mesh = mesh.with_boundaries(
                {"left": lambda p: p[0] == 0.0, "right": lambda p: p[0] == 1.0, "bottom": lambda p: p[1] == 0.0,
                 "top": lambda p: p[1] == 1.0}
            )  # fmt: skip
        self.basis = skfem.Basis(mesh, skfem.ElementTriArgyris())

        @skfem.BilinearForm
        def bending(u, v, w):
            curvature = dd(u)
            return ddot((1.0 - NU) * curvature + NU * eye(trace(curvature), 2), dd(v))

        @skfem.BilinearForm
        def mass(u, v, w):
            return u * v

        @skfem.LinearForm
        def pressure(v, w):
            return 1.0 * v

        self.K, self.M, self.f = bending.assemble(self.basis), mass.assemble(self.basis), pressure.assemble(self.basis)
        held = []
        for edge in clamped:
            dofs = self.basis.get_dofs(edge)
            names = ["u", "u_x", "u_y", "u_n"]
            # along an edge the second derivatives ∂tt and ∂tn vanish too where w and its slope do
            names += ["u_yy", "u_xy"] if edge in ("left", "right") else ["u_xx", "u_xy"]
            held.append(dofs.all(names))
        self.held = np.unique(np.concatenate(held))

    def deflection(self, x: float, y: float) -> float:
        w = skfem.solve(*skfem.condense(self.K, self.f, D=self.held))
        return float((self.basis.probes(np.array([[x], [y]])) @ w)[0])

    def omega(self) -> float:
        K, M = (skfem.condense(matrix, D=self.held, expand=False) for matrix in (self.K, self.M))
        return float(np.sqrt(eigsh(K.tocsc(), M=M.tocsc(), k=1, sigma=0.0)[0][0]))


class ThinPlates(unittest.TestCase):
    def compare(self, edges: Edges, clamped: tuple[str, ...], x: float, y: float) -> None:
        reference = KirchhoffPlate(clamped)
        stack = Stack((sheet(isotropic(E, NU, RHO), T),))
        model = plate(stack, 1.0, 1.0, edges, 12)
        self.assertAlmostEqual(
            pressure_sag(model, 100.0, x, y) * D / 100.0 / reference.deflection(x, y), 1.0, delta=0.002
        )
        omega = model.frequencies(1)[0][0] * 2.0 * np.pi * np.sqrt(RHO * T / D)
        self.assertAlmostEqual(omega / reference.omega(), 1.0, delta=0.002)

    def test_clamped(self) -> None:
        self.compare(CLAMPED, ("left", "right", "top", "bottom"), 0.5, 0.5)

    def test_cantilever(self) -> None:
        self.compare(CANTILEVER, ("left",), 1.0, 0.5)

    def test_clamped_on_two_neighbouring_edges(self) -> None:
        self.compare(Edges("clamped", "free", "clamped", "free"), ("left", "bottom"), 1.0, 1.0)


class PlateWithAnOpening(unittest.TestCase):
    def test_clamped_with_a_window(self) -> None:
        window = (0.3, 0.6, 0.4, 0.7)
        reference = KirchhoffPlate(("left", "right", "top", "bottom"), hole=window)
        stack = Stack((sheet(isotropic(E, NU, RHO), T),))
        work = patchwork(stack.layers, [Lying()], 1.0, 1.0, [Box(*window)])
        case = LoadCase("q", (1.0,))
        plate = respond_zoned(Panel(1.0, 1.0, CLAMPED), work, (case,), "face_b", LINEAR)
        moved = plate.cases[0].parts[0].solution
        assert isinstance(moved, PlateSolution)
        for x, y in ((0.25, 0.55), (0.7, 0.5), (0.45, 0.3)):
            found = -float(moved.deflection_at(np.array([x]), np.array([y]))[0, 0]) * D
            self.assertAlmostEqual(found / reference.deflection(x, y), 1.0, delta=0.01)
        omega = plate.frequencies[0] * 2.0 * np.pi * np.sqrt(RHO * T / D)
        self.assertAlmostEqual(omega / reference.omega(), 1.0, delta=0.01)
        self.assertAlmostEqual(plate.mass, RHO * T * 0.91, places=9)
        taken = sum(own.force for own in plate.cases[0].reactions)
        self.assertAlmostEqual(taken, 0.91, delta=1e-3)  # nothing presses on the window


class RibbedPlate:
    """A plate clamped all round, 2 × 1, with u and v by quadratic and w by Argyris triangles, and a rib along its
    middle: EA, ES, EI of its strain at the plane z = ``face`` and of its curvature."""

    def __init__(self, stretching: float, bending: float, rib: np.ndarray, face: float, refinement: int = 4) -> None:
        count = 4 * refinement
        mesh = skfem.MeshTri.init_tensor(np.linspace(0.0, 2.0, 2 * count + 1), np.linspace(0.0, 1.0, count + 1))
        plane = skfem.Basis(mesh, skfem.ElementVector(skfem.ElementTriP2()))
        out = skfem.Basis(mesh, skfem.ElementTriArgyris(), quadrature=plane.quadrature)
        line = mesh.facets_satisfying(lambda p: np.abs(p[1] - 0.5) < 1e-9)
        sides = [skfem.FacetBasis(mesh, own.elem, facets=line, intorder=8) for own in (plane, out)]

        @skfem.BilinearForm
        def stretched(u, v, w):
            e = sym_grad(u)
            return stretching * ddot((1.0 - NU) * e + NU * eye(trace(e), 2), sym_grad(v))

        @skfem.BilinearForm
        def bent(u, v, w):
            return bending * ddot((1.0 - NU) * dd(u) + NU * eye(trace(dd(u)), 2), dd(v))

        # the rib below: strain u,x − face w,xx at the face, curvature away from it w,xx
        EA, ES, EI = rib

        @skfem.BilinearForm
        def along(u, v, w):
            return EA * u.grad[0, 0] * v.grad[0, 0]

        @skfem.BilinearForm
        def both(u, v, w):
            return (ES - EA * face) * dd(u)[0, 0] * v.grad[0, 0]

        @skfem.BilinearForm
        def over(u, v, w):
            return (EI - 2.0 * ES * face + EA * face**2) * dd(u)[0, 0] * dd(v)[0, 0]

        @skfem.LinearForm
        def pressure(v, w):
            return -1.0 * v

        uu = stretched.assemble(plane) + along.assemble(sides[0])
        uw = both.assemble(sides[1], sides[0])
        ww = bent.assemble(out) + over.assemble(sides[1])
        K = skfem.bmat([[uu, uw], [uw.T, ww]], "csr")
        f = np.concatenate([np.zeros(plane.N), pressure.assemble(out)])
        held = [plane.get_dofs().all()]
        for edge, second in (("left", "u_yy"), ("right", "u_yy"), ("bottom", "u_xx"), ("top", "u_xx")):
            dofs = out.get_dofs(mesh.with_defaults().boundaries[edge])
            held.append(plane.N + dofs.all(["u", "u_x", "u_y", "u_n", second, "u_xy"]))
        moved = skfem.solve(*skfem.condense(K, f, D=np.unique(np.concatenate(held))))
        self._w, self._out = moved[plane.N :], out

    def deflection(self, x: float, y: float) -> float:
        return float((self._out.probes(np.array([[x], [y]])) @ self._w)[0])


class PlateWithARib(unittest.TestCase):
    def test_an_eccentric_blade(self) -> None:
        thickness, height, wall = 0.01, 0.06, 0.015
        skin, blade = (Stack((sheet(isotropic(E, NU, RHO), own),)) for own in (thickness, wall))
        rib = Rib(True, 0.5, 0.0, 2.0, "blade", height, foot=0.0)
        work = patchwork(skin.layers, [Lying()], 2.0, 1.0)
        case = LoadCase("q", (1.0,))
        panel = Panel(2.0, 1.0, CLAMPED, "all")
        found = respond_zoned(panel, work, (case,), "face_b", LINEAR, ribs=[Ribbed(rib, blade)])
        moved = found.cases[0].parts[0].solution
        assert isinstance(moved, PlateSolution)
        # a long wall with free sides: E, not E/(1 − ν²)
        own = E * wall * np.array([height, height**2 / 2.0, height**3 / 3.0])
        # the reference knows no shear of the blade: it gets what is left of it over half of the span, since both ends
        # are built in
        turned, sheared = own[1:], 5.0 / 6.0 * E / 2.0 / (1.0 + NU) * wall * height * (1.0 / math.pi) ** 2
        own = own - np.array([turned[0] ** 2, turned[0] * turned[1], turned[1] ** 2]) / (turned[1] + sheared)
        stretching, bending = E * thickness / (1.0 - NU**2), E * thickness**3 / 12.0 / (1.0 - NU**2)
        reference = RibbedPlate(stretching, bending, own, -thickness / 2.0)
        for x, y in ((1.0, 0.5), (1.0, 0.25), (0.5, 0.5), (0.4, 0.75)):
            value = float(moved.deflection_at(np.array([x]), np.array([y]))[0, 0])
            self.assertAlmostEqual(value / reference.deflection(x, y), 1.0, delta=0.01)
        bare = respond_zoned(panel, work, (case,), "face_b", LINEAR).cases[0].largest_deflection[0]
        self.assertLess(found.cases[0].largest_deflection[0], 0.5 * bare)


class LayeredStrip:
    """Half of a clamped sandwich strip, length along x, in plane strain with ν = 0: symmetric about mid-span."""

    def __init__(self, half: float, patch: float, t_face: float, t_core: float, E_face: float, G_core: float) -> None:
        loaded = half - patch / 2.0
        x = np.concatenate(  # graded toward the clamp and to both sides of the load's edge
            [
                loaded / 2.0 * np.linspace(0.0, 1.0, 61) ** 1.5,
                loaded - loaded / 2.0 * np.linspace(1.0, 0.0, 41)[1:] ** 1.5,
                loaded + (half - loaded) * np.linspace(0.0, 1.0, 41)[1:] ** 1.5,
            ]
        )
        E_core = 75e6
        z = np.concatenate(
            [
                np.linspace(0.0, t_face, 5),
                np.linspace(t_face, t_face + t_core, 13)[1:],
                np.linspace(t_face + t_core, 2 * t_face + t_core, 5)[1:],
            ]
        )
        self.height, self.t_face = 2 * t_face + t_core, t_face
        mesh = skfem.MeshQuad.init_tensor(x, z).with_defaults()
        self.basis = skfem.Basis(mesh, skfem.ElementVector(skfem.ElementQuad2()))

        def stiffness(w, face, core):
            z = w.x[1]
            inside = (z > t_face) & (z < t_face + t_core)
            return np.where(inside, core, face)

        @skfem.BilinearForm
        def elastic(u, v, w):
            e, d = sym_grad(u), sym_grad(v)
            modulus = stiffness(w, E_face, E_core)
            vertical = stiffness(w, E_face, 90e6)
            shear = stiffness(w, E_face / 2.0, G_core)
            return modulus * e[0, 0] * d[0, 0] + vertical * e[1, 1] * d[1, 1] + 4.0 * shear * e[0, 1] * d[0, 1]

        self.K = elastic.assemble(self.basis)
        self.half, self.patch = half, patch

    def solve(self, pressure: float) -> tuple[float, float]:
        """(mid-span sag of the mid-plane, compressive strain of the upper face's mid-plane there) under a central
        pressure strip over the patch."""
        facets = self.basis.mesh.facets_satisfying(
            lambda x: (np.abs(x[1] - self.height) < 1e-9) & (x[0] > self.half - self.patch / 2.0)
        )
        top = skfem.FacetBasis(self.basis.mesh, self.basis.elem, facets=facets)

        @skfem.LinearForm
        def push(v, w):
            return dot(np.array([0.0 * w.x[0], -pressure + 0.0 * w.x[0]]), v)

        f = push.assemble(top)
        left, right = self.basis.get_dofs("left"), self.basis.get_dofs("right")
        held = np.concatenate([left.all(), right.all(["u^1"])])
        u = skfem.solve(*skfem.condense(self.K, f, D=held))
        middle = self.basis.probes(np.array([[self.half], [self.height / 2.0]])) @ u
        step = 1e-4
        near = self.basis.probes(np.array([[self.half - step], [self.height - self.t_face / 2.0]])) @ u
        return -float(middle[1]), float(near[0]) / step


class SandwichStrip(unittest.TestCase):
    """Clamped ends and a narrow load, where first-order shear is 1 % soft in deflection and 16 % low in face stress."""

    LENGTH, FACE, CORE, E_FACE, G_CORE = 0.4, 0.5e-3, 12e-3, 60e9, 27e6

    def plate_solution(self, patch: float, force: float) -> tuple[float, float]:
        width = 0.2
        stack = sandwich(isotropic(self.E_FACE, 0.0), self.FACE, soft_core(self.G_CORE, E=75e6, E3=90e6), self.CORE)
        edges = Edges("clamped", "clamped", "free", "free")
        load = PatchLoad(force * width, self.LENGTH / 2.0, width / 2.0, patch, width)
        case = LoadCase("strip", (), (load,))
        response = respond(Panel(self.LENGTH, width, edges), stack, (case,), LINEAR, with_frequencies=False).cases[0]
        section_z = (self.CORE + self.FACE) / 2.0
        i = int(np.argmin(np.abs(response.x - self.LENGTH / 2.0)))
        j = int(np.argmin(np.abs(response.y - width / 2.0)))
        strain = response.strains[i, j, 0] + section_z * response.strains[i, j, 3]
        return response.largest_deflection[0], -float(strain)

    def compare(self, patch: float, own: tuple[float, float]) -> None:
        reference = LayeredStrip(self.LENGTH / 2, patch, self.FACE, self.CORE, self.E_FACE, self.G_CORE)
        sag, strain = reference.solve(10000.0)
        self.assertAlmostEqual(own[0] / sag, 1.0, delta=0.005)
        self.assertAlmostEqual(own[1] / strain, 1.0, delta=0.01)

    def test_load_over_most_of_the_strip(self) -> None:
        patch = 0.36
        self.compare(patch, self.plate_solution(patch, 10000.0 * patch))

    def test_narrow_load(self) -> None:
        patch = 0.06
        self.compare(patch, self.plate_solution(patch, 10000.0 * patch))


if __name__ == "__main__":
    unittest.main()
