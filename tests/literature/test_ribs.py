"""Ribs against statics done apart, sheets with holes in closed form, and finite elements of a web that buckles."""

from __future__ import annotations

import unittest

import numpy as np
import skfem
from scipy.integrate import quad
from scipy.sparse import bmat
from scipy.sparse.linalg import LinearOperator, eigsh, splu, spsolve
from skfem.helpers import dd, ddot, eye, grad, sym_grad, trace

from omakase.core.checks.rib_walls import hole_share
from omakase.core.errors import MemberError
from omakase.core.laminate.open_hole import AROUND, beside_hole
from omakase.core.laminate.stack import Stack
from omakase.core.members.rib import Hole, Rib, RibCase, RibResponse
from omakase.core.members.span_loads import LineLoad, PointLoad, Spanned, Support
from omakase.core.members.spar_given import Spar, SparShape
from omakase.core.members.stretches import whole
from omakase.core.members.strip import WidthLaw
from tests.support import isotropic, sheet

E, NU = 70e9, 0.3
METAL = isotropic(E, NU)


def stiffness(E1: float, E2: float, G: float, nu: float) -> np.ndarray:
    return np.linalg.inv(np.array([[1 / E1, -nu / E1, 0.0], [-nu / E1, 1 / E2, 0.0], [0.0, 0.0, 1 / G]]))


def along_edge(forces: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(along the edge of a hole, through it)."""
    c, s = np.cos(AROUND), np.sin(AROUND)
    N = forces
    return N[:, 0] * s * s + N[:, 1] * c * c - 2 * N[:, 2] * s * c, N[:, 0] * c * c + N[:, 1] * s * s + 2 * N[
        :, 2
    ] * s * c


class OpenHole(unittest.TestCase):
    def test_isotropic(self) -> None:
        """3 and −1 in tension, ±4 in shear, and on the way out σ_x = 1 + a²/2r² + 3a⁴/2r⁴ (Kirsch 1898)."""
        A = stiffness(1.0, 1.0, 1 / 2.6, 0.3)
        for far, most, least in (((1, 0, 0), 3, -1), ((0, 1, 0), 3, -1), ((0, 0, 1), 4, -4)):
            hoop, through = along_edge(beside_hole(A, np.array(far, float)))
            np.testing.assert_allclose([hoop.max(), hoop.min()], [most, least], rtol=1e-6)
            np.testing.assert_allclose(through, 0.0, atol=1e-8)
        for reach in (0.5, 1.0, 3.0):
            r = 1.0 + reach
            beside = beside_hole(A, np.array([1.0, 0.0, 0.0]), reach)[30]  # at 90°
            self.assertAlmostEqual(beside[0], 1 + 1 / (2 * r**2) + 3 / (2 * r**4), places=6)

    def test_orthotropic(self) -> None:
        """1 + √(2 (√(E_x/E_y) − ν_xy) + E_x/G_xy) in tension (Lekhnitskii 1968, section 43)."""
        for E1, E2, G, nu in ((10.0, 1.0, 0.6, 0.3), (1.0, 4.0, 0.7, 0.1), (2.0, 2.0, 3.0, 0.7)):
            hoop, through = along_edge(beside_hole(stiffness(E1, E2, G, nu), np.array([1.0, 0.0, 0.0])))
            self.assertAlmostEqual(hoop[30], 1 + np.sqrt(2 * (np.sqrt(E1 / E2) - nu) + E1 / G), delta=0.01)
            np.testing.assert_allclose(through, 0.0, atol=1e-8)

    def test_far_away_nothing_is_disturbed(self) -> None:
        far = np.array([1.0, 0.3, -0.5])
        found = beside_hole(stiffness(10.0, 1.0, 0.6, 0.3), far, 200.0)
        np.testing.assert_allclose(found, np.tile(far, (len(AROUND), 1)), atol=1e-3)


def hole_mesh(ratio: float, rings: int, around: int) -> skfem.MeshTri:
    """A unit square with a round hole at its middle."""
    t = np.arange(around) / around * 2 * np.pi
    rim = np.stack([np.cos(t), np.sin(t)])
    outer = rim / np.maximum(np.abs(np.cos(t)), np.abs(np.sin(t))) * 0.5
    shares = np.linspace(0.0, 1.0, rings + 1) ** 1.2
    points = np.concatenate([ratio / 2 * rim + (outer - ratio / 2 * rim) * s for s in shares], axis=1)
    cells = []
    for j in range(rings):
        for i in range(around):
            a, b = j * around + i, j * around + (i + 1) % around
            c, d = b + around, a + around
            one_way = (i // (around // 8)) % 2 == 0
            cells += [[a, b, c], [a, c, d]] if one_way else [[a, b, d], [b, c, d]]
    return skfem.MeshTri(points, np.array(cells).T)


def shear_buckling(mesh: skfem.MeshTri) -> float:
    """Critical shear along the edges of a simply supported unit square of D = 1, the hole's edge free."""

    def outer(x: np.ndarray) -> np.ndarray:
        return (np.abs(np.abs(x[0]) - 0.5) < 1e-9) | (np.abs(np.abs(x[1]) - 0.5) < 1e-9)

    edge = mesh.facets_satisfying(outer, boundaries_only=True)
    flat = skfem.Basis(mesh, skfem.ElementVector(skfem.ElementTriP2()), intorder=6)

    @skfem.BilinearForm
    def membrane(u, v, w):  # type: ignore[no-untyped-def]
        return (1 - NU) * ddot(sym_grad(u), sym_grad(v)) + NU * trace(sym_grad(u)) * trace(sym_grad(v))

    @skfem.LinearForm
    def shear(v, w):  # type: ignore[no-untyped-def]
        return w.n[1] * v[0] + w.n[0] * v[1]

    K = membrane.assemble(flat)
    f = shear.assemble(skfem.FacetBasis(mesh, flat.elem, facets=edge, intorder=6))
    x, y = flat.doflocs
    second = np.zeros(K.shape[0], bool)
    second[flat.get_dofs(elements=True).all(["u^2"])] = True
    rigid = np.stack([~second, second, np.where(second, x, -y)]).astype(float)
    system = bmat([[K, rigid.T], [rigid, None]], format="csc")
    moved = spsolve(system, np.concatenate([f, np.zeros(3)]))[: K.shape[0]]
    bent = skfem.Basis(mesh, skfem.ElementTriMorley(), intorder=6)
    held = flat.interpolate(moved)

    @skfem.BilinearForm
    def bending(u, v, w):  # type: ignore[no-untyped-def]
        return (1 - NU) * ddot(dd(u), dd(v)) + NU * trace(dd(u)) * trace(dd(v))

    @skfem.BilinearForm
    def geometric(u, v, w):  # type: ignore[no-untyped-def]
        strain = sym_grad(w["held"])
        N = (1 - NU) * strain + NU * eye(trace(strain), 2)
        a, b = grad(u), grad(v)
        return -sum(N[i, j] * a[i] * b[j] for i in range(2) for j in range(2))

    free = np.setdiff1d(np.arange(bent.N), bent.get_dofs(edge).all(["u"]))
    K = bending.assemble(bent)[free][:, free].tocsc()
    G = geometric.assemble(bent, held=held)[free][:, free].tocsc()
    inverse = LinearOperator(K.shape, splu(K).solve)
    return 1.0 / float(eigsh(G, k=2, M=K, Minv=inverse, which="LA", return_eigenvectors=False).max())


class HoleBuckling(unittest.TestCase):
    def test_share_that_a_square_sheet_with_a_hole_keeps(self) -> None:
        """Own finite elements; without a hole 9.34 π² (Timoshenko and Gere)."""
        for ratio in (0.3, 0.5, 0.7):
            coarse, fine = (shear_buckling(hole_mesh(ratio, *size)) for size in ((6, 32), (12, 64)))
            kept = (fine + (fine - coarse) / 3.0) / (9.34 * np.pi**2)
            self.assertLess(hole_share(ratio), 1.01 * kept)
            self.assertGreater(hole_share(ratio), 0.75 * kept)


class Statics(unittest.TestCase):
    LENGTH, DEPTH = 0.3, 0.04
    CAP, WEB = Stack((sheet(METAL, 0.001),)), Stack((sheet(METAL, 0.0008),))

    def rib(
        self, spars: tuple[float, ...], cell: tuple[float, float] | None = None, share: float = 0.5,
        rear: float = DEPTH, held: str = "simple", **more: object,
    ) -> Rib:  # fmt: skip
        span = Spanned(self.LENGTH, tuple(Support(x, held) for x in spars))  # type: ignore[arg-type]
        depth = WidthLaw(((0.0, self.DEPTH), (self.LENGTH, rear)))
        beam = Spar(span, SparShape("i", WidthLaw(((0.0, 0.02),)), depth))
        return Rib(beam, 0.25, 0.2, cell, share, **more)  # type: ignore[arg-type]

    def respond(self, rib: Rib, *loads: LineLoad | PointLoad, skin: Stack | None = None, **more: float) -> RibResponse:
        stacks = {"upper cap": self.CAP, "web": self.WEB, "lower cap": self.CAP}
        walls = {name: whole(stack, self.LENGTH) for name, stack in stacks.items()}
        return RibResponse(rib, walls, (RibCase("one", tuple(loads), **more),), skin)

    def test_between_two_spars_a_beam(self) -> None:
        """5 w L⁴/384 EI, and w L²/8 G A of the web with its shear spread evenly."""
        w = 800.0
        found = self.respond(self.rib((0.0, self.LENGTH)), LineLoad(w, w, 0.0, self.LENGTH))
        h = self.DEPTH - 0.001
        EI = E * (2 * 0.02 * 0.001 * h**2 / 4 + 0.0008 * h**3 / 12)
        GA = E / (2 * (1 + NU)) * 0.0008 * h
        expected = 5 * w * self.LENGTH**4 / (384 * EI) + w * self.LENGTH**2 / (8 * GA)
        self.assertAlmostEqual(found.measures["deflection"][0].value / expected, 1.0, delta=0.01)

    def test_nose_takes_the_torque_of_a_single_spar(self) -> None:
        """Loads behind the spar turn the rib; the flow T/2A round the nose holds it (Bredt), its depth tapering."""
        spar, tail = 0.1, 60.0
        for rear in (self.DEPTH, 0.02):
            rib = self.rib((spar,), (0.0, spar), rear=rear, held="clamped")
            found = self.respond(rib, PointLoad(tail, 0.25))
            depth = np.interp([0.0, spar], [0.0, self.LENGTH], [self.DEPTH, rear])
            area = spar * depth.mean()
            # a push down behind the spar turns the rib as a positive moment does: the skin must turn it back
            self.assertAlmostEqual(found.flows_of[0] / (-tail * (0.25 - spar) / (2 * area)), 1.0, places=9)
            reactions = found.results[0].reactions[0]
            self.assertAlmostEqual(reactions[1], 0.0, places=8)
            # the spar's web passes the flow on over its height
            self.assertAlmostEqual(reactions[0] / (tail - found.flows_of[0] * depth[1]), 1.0, places=9)
            self.assertLess(found.left_over, 1e-12)

    def test_box_shares_the_lift_out_by_its_spars(self) -> None:
        """Each spar takes its share of the lift and Bredt's flow over its height; bending by quadrature."""
        front, rear, share, w = 0.05, 0.25, 0.7, 500.0
        rib = self.rib((front, rear), (front, rear), share, rear=0.02)
        found = self.respond(rib, LineLoad(w, w, 0.0, self.LENGTH))
        result, V = found.results[0], w * self.LENGTH

        def depth(x: float) -> float:
            return float(np.interp(x, [0.0, self.LENGTH], [self.DEPTH, 0.02]))

        area = quad(depth, front, rear)[0]
        centre = share * front + (1 - share) * rear
        flow = -V * (self.LENGTH / 2 - centre) / (2 * area)  # against the turn of the load about it
        self.assertAlmostEqual(found.flows_of[0] / flow, 1.0, places=9)
        expected = [share * V + flow * depth(front), (1 - share) * V - flow * depth(rear)]
        np.testing.assert_allclose(result.reactions[:, 0], expected, rtol=1e-9)
        # bending moment in the middle of the box, from what lies in front of it
        x = 0.15
        rise = (0.02 - self.DEPTH) / self.LENGTH
        moment = expected[0] * (x - front) - w * x**2 / 2
        moment += quad(lambda s: flow * depth(s) + flow * rise * (x - s), front, x)[0]
        at = int(np.argmin(np.abs(found.x - x)))
        self.assertAlmostEqual(found.x[at], x, places=6)
        self.assertAlmostEqual(result.diagrams.moment[at] / moment, 1.0, places=6)
        # and what the walls carry is the same moment
        self.assertAlmostEqual(abs(found.forces[0][at, 2]) / abs(moment), 1.0, delta=5e-4)

    def test_skin_between_ribs_buckles_as_a_plate(self) -> None:
        """4 π² D/b² along a square or long bay (Timoshenko and Gere)."""
        skin = Stack((sheet(METAL, 0.001),))
        rib = self.rib((0.05, 0.25))
        found = self.respond(rib, skin=skin, pressed=100.0)
        D = E * 0.001**3 / (12 * (1 - NU**2))
        m, a, b = 1, rib.pitch, rib.bay
        load = np.pi**2 * D / b**2 * (m * b / a + a / (m * b)) ** 2
        self.assertAlmostEqual(found.measures["buckling"][0].value / (load / 100.0), 1.0, delta=0.001)
        self.assertAlmostEqual(found.measures["span_mass"][0].value, found.mass / 0.25 + 2 * 0.2 * 0.001 * 2700)

    def test_holes_and_lips_weigh(self) -> None:
        plain = self.respond(self.rib((0.0, self.LENGTH)), PointLoad(1.0, 0.1)).mass
        holes = (Hole(0.1, 0.02), Hole(0.2, 0.01))
        with_lips = self.respond(self.rib((0.0, self.LENGTH), holes=holes, lip=0.002), PointLoad(1.0, 0.1)).mass
        gone = np.pi / 4 * (0.02**2 + 0.01**2) - np.pi * (0.02 + 0.01) * 0.002
        self.assertAlmostEqual(plain - with_lips, gone * 0.0008 * 2700, places=9)

    def test_holes_that_do_not_fit_are_told(self) -> None:
        for holes in ((Hole(0.1, 0.04),), (Hole(0.1, 0.02), Hole(0.12, 0.02)), (Hole(0.295, 0.01),), (Hole(0.1, 0.0),)):
            with self.assertRaises(MemberError):
                self.rib((0.0, self.LENGTH), holes=holes)
