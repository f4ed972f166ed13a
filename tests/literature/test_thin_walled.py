"""Sections of thin walls and spars against handbook formulas, a finite-element library, and other ways to a number."""

from __future__ import annotations

import unittest

import numpy as np
import skfem
from scipy.integrate import quad
from scipy.linalg import eigh, null_space
from skfem.helpers import dot, grad

from omakase.core.errors import MemberError
from omakase.core.laminate.stack import Stack, make_layer
from omakase.core.members.span_loads import CarriedMass, LineLoad, PointLoad, SpanCase, Spanned, Support
from omakase.core.members.spar import SparResponse
from omakase.core.members.spar_given import Spar, SparShape
from omakase.core.members.stretches import whole
from omakase.core.members.strip import WidthLaw
from omakase.core.plates.section import PlateSection
from omakase.core.sections.aerofoils import half_thickness
from omakase.core.sections.drawn import DrawnOutline
from omakase.core.sections.long_plates import LongPlate, long_plate
from omakase.core.sections.outlines import OUTLINE_WALLS, OutlineSizes, mid_lines, outline_walls
from omakase.core.sections.ring import Ring
from omakase.core.sections.thin_walled import MidLines, ThinWalled, wall_law
from omakase.project.demo import demo_project
from omakase.project.library import materials_of
from omakase.project.span_translate import lift
from omakase.project.spans import LiftLoad
from tests.support import plate as plate_model

MATERIALS = materials_of(demo_project())
METAL = MATERIALS["al6061"]
E, G, NU = METAL.value("E1"), METAL.value("G12"), METAL.value("nu12")
T = 0.5e-3
SHEET = Stack((make_layer(METAL, 0.0, T),))
OPEN = [(0, 1), (1, 2), (2, 3)]


def laminate(*plies: tuple[str, float]) -> Stack:
    return Stack(tuple(make_layer(MATERIALS[name], angle) for name, angle in plies))


def section(nodes: list[tuple[float, float]], pieces: list[tuple[int, int]], *stacks: Stack,
            walls: list[int] | None = None) -> ThinWalled:  # fmt: skip
    lines = MidLines(np.array([nodes], float), np.array(pieces), np.array(walls or [0] * len(pieces)))
    return ThinWalled(lines, np.array([wall_law(PlateSection(stack)).stiffness for stack in stacks or (SHEET,)]))


def rectangle(width: float, height: float) -> list[tuple[float, float]]:
    return [(-width / 2, height / 2), (width / 2, height / 2), (width / 2, -height / 2), (-width / 2, -height / 2)]


ROUND = [(0, 1), (1, 2), (2, 3), (3, 0)]


class Handbook(unittest.TestCase):
    """Isotropic sections: Roark's Formulas for Stress and Strain, tables 9.2 and 10.1; Megson, Aircraft Structures."""

    def close(self, found: float, expected: float, within: float = 0.005) -> None:
        self.assertAlmostEqual(found / expected, 1.0, delta=within)

    def test_channel(self) -> None:
        h, b = 0.1, 0.04
        own = section([(b, -h / 2), (0, -h / 2), (0, h / 2), (b, h / 2)], OPEN)
        self.close(own.axial[0], E * T * (h + 2 * b))
        self.close(own.bending[0, 0, 0], E * T * (h**3 / 12 + b * h**2 / 2))
        self.close(own.torsion[0], G * (h + 2 * b) * T**3 / 3)
        self.close(-own.shear_centre[0][0], 3 * b**2 / (h + 6 * b))
        self.close(own.tension_centre[0][0], b**2 / (h + 2 * b))
        self.close(own.warping[0], E * T * b**3 * h**2 / 12 * (2 * h + 3 * b) / (h + 6 * b))

    def test_unequal_z_has_the_principal_axes_of_its_moments_of_area(self) -> None:
        h, a, b = 0.1, 0.04, 0.06
        own = section([(-a, h / 2), (0, h / 2), (0, -h / 2), (b, -h / 2)], OPEN).bending[0] / E
        area = T * (a + b + h)
        y, z = T * (b**2 - a**2) / 2 / area, T * (a - b) * h / 2 / area
        exact = np.array([
            [T * (h**3 / 12 + (a + b) * h**2 / 4) - area * z**2, -T * (a**2 + b**2) * h / 4 - area * y * z],
            [0.0, T * (a**3 + b**3) / 3 - area * y**2],
        ])  # fmt: skip
        exact[1, 0] = exact[0, 1]
        self.assertLess(np.abs(own - exact).max(), 0.005 * exact[0, 0])
        angles = [np.linalg.eigh(matrix)[1][:, 0] for matrix in (own, exact)]
        self.close(abs(float(angles[0] @ angles[1])), 1.0)

    def test_box_shear_flow_and_shear_centre(self) -> None:
        w, h = 0.06, 0.04
        own = section(rectangle(w, h), ROUND)
        self.close(own.torsion[0], G * 4 * (w * h) ** 2 * T / (2 * (w + h)))
        second = T * (w * h**2 / 2 + h**3 / 6)
        self.close(-own.flows[0, 1, 1, 1, 4], T * (w * h / 4 + h**2 / 8) / second)  # half way down a web
        self.close(-own.flows[0, 1, 0, 1, 4], T * w * h / 4 / second)  # its top
        self.close(own.flows[0, 0, 0, 1, 1], 1 / (2 * w * h))  # Bredt
        self.assertLess(abs(own.shear_centre[0][0]), 1e-9)
        # shear stiffness from the energy of that shear flow
        energy = 2 * quad(lambda s: (T * h / 2 * s / second) ** 2, -w / 2, w / 2)[0]
        energy += 2 * quad(lambda s: (T * (w * h / 4 + h**2 / 8 - s**2 / 2) / second) ** 2, -h / 2, h / 2)[0]
        self.close(own.compliance[0, 4, 4], energy / (G * T))

    def test_two_cells(self) -> None:
        a, b, h = 0.05, 0.03, 0.04
        nodes = [(0, h / 2), (a, h / 2), (a + b, h / 2), (a + b, -h / 2), (a, -h / 2), (0, -h / 2)]
        pieces = [(0, 1), (1, 2), (2, 3), (3, 4), (4, 5), (5, 0), (1, 4)]
        own = section(nodes, pieces, SHEET, Stack((make_layer(METAL, 0.0, 2 * T),)), walls=[0] * 6 + [1])
        self.assertEqual(own.lines.cells, 2)
        # Megson: 2 A_i θ' G = Σ q_i ∮ds/t − q_j ∫ds/t over the wall between them, T = Σ 2 A_i q_i
        areas = np.array([a * h, b * h])
        around = np.array([
            [(2 * a + h) / T + h / (2 * T), -h / (2 * T)], [-h / (2 * T), (2 * b + h) / T + h / (2 * T)],
        ])  # fmt: skip
        flow = np.linalg.solve(around, 2 * areas * G)
        self.close(own.torsion[0], float(2 * areas @ flow))

    def test_closed_d(self) -> None:
        radius, count = 0.03, 48
        angles = np.linspace(-np.pi, 0.0, count + 1)
        nodes = [(radius * np.sin(a), radius * np.cos(a)) for a in angles]
        own = section(nodes, [*((i, i + 1) for i in range(count)), (count, 0)])
        area = np.pi * radius**2 / 2
        self.close(own.torsion[0], G * 4 * area**2 * T / ((np.pi + 2) * radius))
        # shear flow of a vertical force through the web's middle: closed in the test by ∮ q ds = 0 without twist
        self.close(own.bending[0, 0, 0], E * T * radius**3 * (np.pi / 2 + 2 / 3))

    def test_a_thick_box_against_saint_venant(self) -> None:
        """Prandtl's stress function on the true section (scikit-fem): the mid-line is off by about a third of t/h."""
        w, h = 0.06, 0.04
        for t, within in ((0.001, 0.01), (0.002, 0.02), (0.004, 0.035)):
            thick = Stack((make_layer(METAL, 0.0, t),))
            own = section(rectangle(w - t, h - t), ROUND, thick)
            self.close(own.torsion[0] / G, self.saint_venant(w, h, t), within)

    @staticmethod
    def saint_venant(w: float, h: float, t: float) -> float:
        """J of a box w × h over its outside: −Δφ = 2, φ zero outside and even over the hole, J = 2 ∫φ + 2 A φ_hole."""

        def lines(size: float) -> np.ndarray:
            return np.unique([*np.linspace(0, t, 5), *np.linspace(t, size - t, 13), *np.linspace(size - t, size, 5)])

        mesh = skfem.MeshQuad.init_tensor(lines(w), lines(h))
        x, y = mesh.p[:, mesh.t].mean(axis=1)
        hole = (x > t) & (x < w - t) & (y > t) & (y < h - t)
        material = skfem.Basis(mesh.remove_elements(np.nonzero(hole)[0]), skfem.ElementQuad2())

        @skfem.BilinearForm
        def stiffness(u, v, _):
            return dot(grad(u), grad(v))

        @skfem.LinearForm
        def load(v, _):
            return 2.0 * v

        K, f = stiffness.assemble(material), load.assemble(material)
        p = material.doflocs
        outer = np.nonzero((p[0] < 1e-12) | (p[0] > w - 1e-12) | (p[1] < 1e-12) | (p[1] > h - 1e-12))[0]
        edge = np.nonzero((p[0] > t - 1e-12) & (p[0] < w - t + 1e-12) & (p[1] > t - 1e-12) & (p[1] < h - t + 1e-12))[0]
        # φ is even on the hole's edge: one unknown more, whose equation is that of its area
        fixed = np.concatenate([outer, edge])
        base = skfem.solve(*skfem.condense(K, f, x=np.zeros(len(f)), D=fixed))
        lifted = np.zeros(len(f))
        lifted[edge] = 1.0
        one = skfem.solve(*skfem.condense(K, np.zeros(len(f)), x=lifted, D=fixed))
        area = (w - 2 * t) * (h - 2 * t)
        level = float((f @ one + 2.0 * area - one @ (K @ base)) / (one @ (K @ one)))
        phi = base + level * one
        return float(f @ phi + 2.0 * area * level)


class Laminated(unittest.TestCase):
    CAP = laminate(("twill200", 45.0), ("ud300", 0.0), ("ud300", 0.0), ("ud300", 0.0), ("twill200", 45.0))
    WEB = laminate(("twill200", 45.0), ("twill200", 45.0))
    SKEW = laminate(*(("ud300", 25.0) for _ in range(4)))
    OTHER = laminate(*(("ud300", -25.0) for _ in range(4)))

    @staticmethod
    def law(stack: Stack) -> np.ndarray:
        """(N_x, q) per (ε_x, γ) with N_s = 0, of the membrane alone."""
        A = PlateSection(stack).membrane[:3, :3]
        flexible = np.linalg.inv(A)[np.ix_([0, 2], [0, 2])]
        return np.linalg.inv(flexible)

    def closed(self, nodes: list[tuple[float, float]], stacks: list[Stack]) -> np.ndarray:
        """Compliance of (N, T, My, Mz) of one cell by Kollár and Springer 2003, 6.4: q is even, ∮γ ds = 2 A θ'."""
        K = np.zeros((5, 5))  # ε, κy, κz, θ' and q as unknowns; q by the condition of closing
        p = np.array(nodes)
        area = 0.5 * abs(sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(p, np.roll(p, -1, 0), strict=True)))
        for a, b, stack in zip(p, np.roll(p, -1, 0), stacks, strict=True):
            k = self.law(stack)
            length = float(np.hypot(*(b - a)))
            for s, weight in zip(*np.polynomial.legendre.leggauss(3), strict=True):
                y, z = (a + b) / 2 + s * (b - a) / 2
                one = np.array([1.0, z, y])
                w = weight * length / 2
                K[:3, :3] += w * (k[0, 0] - k[0, 1] ** 2 / k[1, 1]) * np.outer(one, one)
                K[:3, 4] += w * k[0, 1] / k[1, 1] * one
                K[4, :3] += w * k[0, 1] / k[1, 1] * one
                K[4, 4] -= w / k[1, 1]
        K[3, 4] = K[4, 3] = 2.0 * area  # T = 2 A q
        F = np.linalg.inv(K)[:4, :4]
        order = [0, 3, 1, 2]
        return F[np.ix_(order, order)]

    def test_box_with_caps_and_webs_of_cloth(self) -> None:
        nodes = rectangle(0.05, 0.04)
        own = section(nodes, ROUND, self.CAP, self.WEB, walls=[0, 1, 0, 1])
        self.compare(own, self.closed(nodes, [self.CAP, self.WEB, self.CAP, self.WEB]))

    def test_boxes_that_couple_bending_and_pull_with_twist(self) -> None:
        nodes = rectangle(0.05, 0.04)
        for upper, lower in ((self.SKEW, self.SKEW), (self.SKEW, self.OTHER)):
            stacks = [upper, self.WEB, lower, self.WEB]
            own = section(nodes, ROUND, *stacks, walls=[0, 1, 2, 3])
            exact = self.closed(nodes, stacks)
            self.compare(own, exact)
            self.assertGreater(np.abs(exact[1, [0, 2]]).max(), 0.05 * np.sqrt(exact[1, 1] * exact[0, 0]))

    def compare(self, own: ThinWalled, exact: np.ndarray) -> None:
        found = own.compliance[0, :4, :4]
        size = np.sqrt(np.outer(np.diag(exact), np.diag(exact)))
        self.assertLess((np.abs(found - exact) / size).max(), 0.01)

    def test_channel_of_cloth_and_unidirectional(self) -> None:
        """An open section has no cell: q follows from the pull alone (Jourawski), GJ from twisting of the walls."""
        h, b = 0.06, 0.025
        own = section([(b, -h / 2), (0, -h / 2), (0, h / 2), (b, h / 2)], OPEN, self.CAP, self.WEB, walls=[0, 1, 0])
        cap, web = self.law(self.CAP)[0, 0], self.law(self.WEB)[0, 0]
        EI = web * h**3 / 12 + cap * b * h**2 / 2
        self.assertAlmostEqual(own.bending[0, 0, 0] / EI, 1.0, delta=0.01)
        e = cap * b**2 * h**2 / (4 * EI)
        self.assertAlmostEqual(-own.shear_centre[0][0] / e, 1.0, delta=0.01)
        twisting = sum(
            length * 4.0 / np.linalg.inv(PlateSection(stack).membrane[3:6, 3:6])[2, 2]
            for stack, length in ((self.CAP, 2 * b), (self.WEB, h))
        )
        self.assertAlmostEqual(own.torsion[0] / twisting, 1.0, delta=0.01)

    def test_a_ring_of_pieces_is_the_round_tube(self) -> None:
        """All couplings of a wall that winds one way, against the closed form of ``Ring``."""
        radius, count = 0.05, 120
        angles = 2 * np.pi * np.arange(count) / count
        nodes = [(radius * np.sin(a), radius * np.cos(a)) for a in angles]
        plate = PlateSection(laminate(("ud300", 30.0)))
        own = section(nodes, [(i, (i + 1) % count) for i in range(count)], plate.stack).compliance[0]
        exact = Ring(plate, np.array([radius])).compliance[0]
        size = np.sqrt(np.outer(np.diag(exact), np.diag(exact)))
        self.assertLess((np.abs(own - exact) / size).max(), 0.005)


class Outlines(unittest.TestCase):
    def sizes(self, radius: float = 0.0, **more: float) -> OutlineSizes:
        one = np.ones(1)
        return OutlineSizes(0.04 * one, 0.06 * one, radius, 0.02, 0.015, 0.015, 0.2 * one, **more)

    def test_outside_of_every_outline_is_its_size(self) -> None:
        for name, walls in OUTLINE_WALLS.items():
            with self.subTest(name):
                t = 0.002
                lines = mid_lines(name, self.sizes(), dict.fromkeys(walls, t))  # type: ignore[arg-type]
                high = np.ptp(lines.nodes[0, :, 1]) + t
                expected = 2 * half_thickness(np.array([0.3]), 0.12)[0] * 0.2 if name == "nose" else 0.04
                self.assertAlmostEqual(high / expected, 1.0, delta=0.01)
                self.assertEqual(set(lines.walls.tolist()), set(range(len(walls))))

    def test_face_a_is_outside(self) -> None:
        lines = mid_lines("box", self.sizes(), dict.fromkeys(OUTLINE_WALLS["box"], 0.002))
        middle = lines.at(np.array([0.0]))[0, :, 0]
        left = np.stack([-lines.tangents[0, :, 1], lines.tangents[0, :, 0]], axis=1)
        self.assertTrue(((middle * left).sum(axis=1) > 0.0).all())

    def test_round_corners_shorten_the_way_round(self) -> None:
        sharp, rounded = (
            mid_lines("box", self.sizes(r), dict.fromkeys(OUTLINE_WALLS["box"], 0.002)) for r in (0.0, 0.011)
        )
        lost = sharp.lengths.sum() - rounded.lengths.sum()
        self.assertAlmostEqual(lost / (8 * 0.01 * (1 - np.pi / 4)), 1.0, delta=0.03)  # four straight pieces

    def test_aerofoil(self) -> None:
        """A 4-digit section is thickest at 0.3 of the chord and has a nose radius of 1.1019 t² (NACA report 460)."""
        x = np.linspace(0.0, 1.0, 2001)
        half = half_thickness(x, 0.12)
        self.assertAlmostEqual(2 * half.max(), 0.12, delta=1e-4)
        self.assertAlmostEqual(x[half.argmax()], 0.3, delta=0.002)
        near = 1e-6
        radius = half_thickness(np.array([near]), 0.12)[0] ** 2 / (2 * near)
        self.assertAlmostEqual(radius, 1.1019 * 0.12**2, delta=2e-4)

    def test_what_does_not_fit_is_told(self) -> None:
        thick = dict.fromkeys(OUTLINE_WALLS["channel"], 0.002)
        for sizes, walls, words in (
            (self.sizes(0.05), thick, "corner radius"),
            (self.sizes(0.0005), thick, "corner radius"),
            (self.sizes(), dict.fromkeys(thick, 0.03), "leave nothing"),
        ):
            with self.assertRaisesRegex(MemberError, words):
                mid_lines("channel", sizes, walls)
        with self.assertRaisesRegex(MemberError, "no length"):
            section([(0, 0), (0, 0), (0, 0.1), (0.1, 0.1)], OPEN)
        with self.assertRaisesRegex(MemberError, "not connected"):
            section([(0, 0), (0, 0.1), (0.1, 0), (0.1, 0.1)], [(0, 1), (2, 3)])


class Drawn(unittest.TestCase):
    """Outlines by points: any unit, either way round."""

    SQUARE = ((0.0, 0.0), (60.0, 0.0), (60.0, 40.0), (0.0, 40.0))

    @staticmethod
    def solved(drawn: DrawnOutline, width: float, cap: float = 0.0) -> ThinWalled:
        one = np.ones(1)
        sizes = OutlineSizes(drawn.aspect * width * one, width * one, cap=cap, drawn=drawn)
        names = outline_walls("drawn", drawn, cap)
        law = wall_law(PlateSection(SHEET)).stiffness
        return ThinWalled(mid_lines("drawn", sizes, dict.fromkeys(names, T)), np.array([law] * len(names)))

    def test_a_rectangle_is_the_box(self) -> None:
        box = section(rectangle(0.06 - T, 0.04 - T), ROUND).compliance
        for points in (self.SQUARE, self.SQUARE[::-1]):
            own = self.solved(DrawnOutline(points), 0.06).compliance
            self.assertLess(np.abs(own - box).max(), 1e-9 * np.abs(box).max())

    def test_a_web_makes_two_cells_and_caps_change_nothing_of_the_same_sheet(self) -> None:
        plain, capped = (self.solved(DrawnOutline(self.SQUARE, (0.5,)), 0.06, cap) for cap in (0.0, 0.2))
        self.assertEqual((plain.lines.cells, capped.lines.cells), (2, 2))
        # about the web at the middle, which an even box does not need in torsion
        self.assertAlmostEqual(
            plain.torsion[0] / section(rectangle(0.06 - T, 0.04 - T), ROUND).torsion[0], 1.0, delta=0.01
        )
        self.assertLess(np.abs(plain.compliance - capped.compliance).max(), 1e-6 * np.abs(plain.compliance).max())

    def test_bad_outlines_are_named(self) -> None:
        for points, webs, words in (
            (((0, 0), (1, 1), (1, 0), (0, 1)), (), "crosses itself: from point 1"),
            (((0, 0), (2, 0), (2, 0), (1, 1)), (), "points 2 and 3"),
            (((0, 0), (1, 0)), (), "3 to"),
            (((0, 0), (1, 0), (2, 0)), (), "one line"),
            (self.SQUARE, (1.2,), "between the two ends"),
            (self.SQUARE, (0.6, 0.3), "from the smallest"),
            (((0, 0), (4, 0), (4, 4), (3, 4), (2, 1), (1, 4), (0, 4)), (0.1,), ""),
        ):
            with self.subTest(words):
                if words:
                    with self.assertRaisesRegex(MemberError, words):
                        DrawnOutline(points, webs)  # type: ignore[arg-type]
                else:
                    DrawnOutline(points, webs)  # type: ignore[arg-type]
        with self.assertRaisesRegex(MemberError, "too sharp"):
            self.solved(DrawnOutline(((0, 0), (100, 3), (0, 6))), 0.1)


class Walls(unittest.TestCase):
    """Long plates against a series of sines across and a wave along, exact as the series grows."""

    @staticmethod
    def series(plate: LongPlate, load: str, terms: int = 14) -> float:
        """Least load of a plate of unit width, N/m."""
        points, weights = np.polynomial.legendre.leggauss(60)
        y, weights = (points + 1) / 2, weights / 2
        n = np.pi * np.arange(1, terms + 1)
        f, slope = np.sin(np.outer(n, y)), n[:, None] * np.cos(np.outer(n, y))
        least = np.inf
        for k in np.linspace(0.5, 12.0, 400):
            twist = plate.D12 + 2 * plate.D66
            K = np.diag(0.5 * (plate.D11 * k**4 + 2 * twist * k**2 * n**2 + plate.D22 * n**4)).astype(complex)
            if load == "shear":
                mixed = (f * weights) @ slope.T
                work = 1j * k * (mixed - mixed.T)
            else:
                along = np.ones_like(y) if load == "compression" else 1 - 2 * y
                work = k**2 * (f * weights * along) @ f.T + 0j
            largest = eigh(work, K, eigvals_only=True)[-1]
            least = min(least, 1.0 / largest) if largest > 0 else least
        return least

    def test_against_the_series(self) -> None:
        one = np.ones(1)
        for D11, D22, K in ((1.0, 1.0, 1.0), (1.0, 1.0, 0.3), (4.0, 1.0, 0.6), (1.0, 3.0, 1.8)):
            twist = K * np.sqrt(D11 * D22)
            plate = LongPlate(D11, D22, 0.3 * twist, 0.35 * twist)
            for load, found in (
                ("compression", plate.compression(one)), ("bending", plate.bending(one)),
                ("shear", plate.in_shear(one)),
            ):  # fmt: skip
                with self.subTest(f"{D11} {D22} {K} {load}"):
                    self.assertAlmostEqual(found[0] / self.series(plate, load), 1.0, delta=0.01)

    @staticmethod
    def held(plate: LongPlate, spring: float, free: bool) -> float:
        """Least load of a plate of unit width with edges held by springs, one free if so: a series of polynomials."""
        y, weights = np.polynomial.legendre.leggauss(40)
        weights = weights / 2
        basis = [np.polynomial.legendre.Legendre.basis(i) for i in range(12)]

        def values(derivative: int, at: np.ndarray | float) -> np.ndarray:
            return np.array([(own.deriv(derivative) if derivative else own)(at) for own in basis]) * 2.0**derivative

        w, slope, bent = (values(d, y) for d in range(3))
        Z = null_space(np.array([values(0, -1.0)] if free else [values(0, -1.0), values(0, 1.0)]))
        turns = [values(1, -1.0)] if free else [values(1, -1.0), values(1, 1.0)]
        least = np.inf
        for k in np.concatenate([np.linspace(0.02, 1.0, 25), np.linspace(1.0, 12.0, 200)]):
            mixed = (w * weights) @ bent.T
            K = plate.D11 * k**4 * (w * weights) @ w.T + plate.D22 * (bent * weights) @ bent.T
            K += -plate.D12 * k**2 * (mixed + mixed.T) + 4 * plate.D66 * k**2 * (slope * weights) @ slope.T
            K += spring * sum(np.outer(turn, turn) for turn in turns)
            G = k**2 * (w * weights) @ w.T
            least = min(least, 1.0 / eigh(Z.T @ G @ Z, Z.T @ K @ Z, eigvals_only=True)[-1])
        return least

    def test_edges_held_by_springs(self) -> None:
        one = np.ones(1)
        for K in (0.3, 1.0, 1.5):
            plate = LongPlate(1.0, 1.0, 0.3 * K, 0.35 * K)
            for spring in (0.0, 0.5, 5.0, 1e6):
                with self.subTest(f"{K} {spring}"):
                    own = plate.compression(one, spring)[0] / self.held(plate, spring, False)
                    self.assertAlmostEqual(own, 1.0, delta=0.015)
                    flange = plate.flange(one, 0.0, spring)[0] / self.held(plate, spring, True)
                    self.assertTrue(0.86 < flange < 1.01, flange)

    def test_compression_against_the_plate_solver(self) -> None:
        """A plate as long as three of its half waves buckles as a long one does."""
        stack = laminate(("twill200", 0.0), ("ud300", 0.0), ("ud300", 0.0), ("twill200", 0.0))
        section_ = PlateSection(stack)
        law = long_plate(section_)
        model = plate_model(stack, 3 * 0.12 * (law.D11 / law.D22) ** 0.25, 0.12)
        own = law.compression(np.array([0.12]))[0]
        self.assertAlmostEqual(own / float(model.buckling(-1.0, 0.0, 0.0)[0][0]), 1.0, delta=0.01)

    def test_isotropic_coefficients(self) -> None:
        """Timoshenko and Gere: k = 4.00 in compression, 5.35 in shear, 23.9 in bending, 0.425 with one edge free."""
        D, one = 1.0, np.ones(1)
        plate = LongPlate(D, D, 0.3 * D, 0.35 * D)
        unit = np.pi**2 * D
        for found, k in (
            (plate.compression(one), 4.0), (plate.in_shear(one), 5.35), (plate.bending(one), 23.9),
            (plate.flange(one), 0.425),
        ):  # fmt: skip
            self.assertAlmostEqual(found[0] / unit / k, 1.0, delta=0.01)


class AlongTheSpan(unittest.TestCase):
    LENGTH = 1.6
    CLAMP = (Support(0.0, "clamped"),)

    def spar(
        self, case: SpanCase, supports: tuple[Support, ...] = CLAMP, outline: str = "box", cap: Stack = Laminated.CAP,
        lower: Stack | None = None, masses: tuple[CarriedMass, ...] = (), taper: float = 0.5,
    ) -> SparResponse:  # fmt: skip
        def law(size: float) -> WidthLaw:
            return WidthLaw(((0.0, size), (self.LENGTH, taper * size)))

        shape = SparShape(outline, law(0.05), law(0.04))  # type: ignore[arg-type]
        stacks = {name: Laminated.WEB if "web" in name else cap for name in OUTLINE_WALLS[outline]}
        if lower is not None:
            stacks["lower cap"] = lower
        walls = {name: whole(stack, self.LENGTH) for name, stack in stacks.items()}
        return SparResponse(Spar(Spanned(self.LENGTH, supports, masses), shape), walls, [case])

    def test_tapered_cantilever_under_elliptic_lift_against_quadrature(self) -> None:
        total, L = 300.0, self.LENGTH
        found = self.spar(SpanCase("lift", (lift(LiftLoad(total, 0.0, L, "elliptic"), None),)))
        result = found.results[0]
        # root moment 4/(3π) of force times half span
        self.assertAlmostEqual(abs(result.reactions[0, 1]) / (4 / (3 * np.pi) * total * L), 1.0, delta=1e-6)
        self.assertAlmostEqual(abs(result.reactions[0, 0]) / total, 1.0, delta=1e-9)

        def moment(x: float) -> float:
            return quad(lambda s: 4 * total / (np.pi * L) * np.sqrt(1 - (s / L) ** 2) * (s - x), x, L)[0]

        def shear(x: float) -> float:
            return quad(lambda s: 4 * total / (np.pi * L) * np.sqrt(1 - (s / L) ** 2), x, L)[0]

        points, weights = np.polynomial.legendre.leggauss(16)
        x, w = (points + 1) / 2 * L, weights * L / 2
        tip = 0.0
        for place, weight in zip(x, w, strict=True):
            lines, plates = found.lines_at(float(place))
            F = ThinWalled(lines, np.array([wall_law(plate).stiffness for plate in plates])).compliance[0]
            tip += weight * (F[2, 2] * moment(place) * (L - place) + F[4, 4] * shear(place))
        self.assertAlmostEqual(float(np.abs(result.displacements["w"]).max()) / tip, 1.0, delta=1e-3)

    def test_shares_of_lift(self) -> None:
        chord = WidthLaw(((0.0, 0.3), (self.LENGTH, 0.15)))
        centres = {"even": 0.5, "elliptic": 4 / (3 * np.pi), "chord": (0.3 + 2 * 0.15) / (3 * (0.3 + 0.15))}
        centres["mean"] = (centres["elliptic"] + centres["chord"]) / 2
        for shape, centre in centres.items():
            pieces = lift(LiftLoad(80.0, 0.0, self.LENGTH, shape), chord).pieces  # type: ignore[arg-type]
            force = sum((own.start + own.end) / 2 * (own.high - own.low) for own in pieces)
            about = sum(
                (own.start + own.end) / 2 * (own.high - own.low) * own.low
                + (own.high - own.low) ** 2 * (own.start / 6 + own.end / 3)
                for own in pieces
            )
            self.assertAlmostEqual(force, -80.0, places=9)
            self.assertAlmostEqual(about / force / self.LENGTH, centre, delta=1e-6)

    def test_two_pins_by_statics_and_equilibrium_at_every_station(self) -> None:
        pins = (Support(0.0), Support(0.3))
        case = SpanCase(
            "lift", (LineLoad(-200.0, -50.0, 0.0, self.LENGTH, 0.02), PointLoad(60.0, 1.1, offset=-0.03)), 2.0
        )
        found = self.spar(case, pins, masses=(CarriedMass(0.4, 0.8),))
        result = found.results[0]
        self.assertLess(result.left_over, 1e-9)
        down = (found.mass + 0.4) * 2 * 9.80665 + 60.0 - (200.0 + 50.0) / 2 * self.LENGTH
        self.assertAlmostEqual(float(result.reactions[:, 0].sum()) / down, 1.0, delta=1e-3)
        # the forces that strains give are those of the diagrams, which are statics alone
        for index, diagram in ((1, result.diagrams.torque), (2, result.diagrams.moment), (4, result.diagrams.shear)):
            size = np.abs(diagram).max()
            self.assertLess(np.abs(np.abs(found.forces[0][:, index]) - np.abs(diagram)).max(), 2e-3 * size)

    def test_a_coupled_spar_twists_under_bending_as_its_compliance_says(self) -> None:
        """Uniform box that couples bending with twist, a force at its tip: exact integrals of the section above."""
        force, L = 20.0, self.LENGTH
        upper, lower, web = Laminated.SKEW, Laminated.OTHER, Laminated.WEB
        found = self.spar(SpanCase("tip", (PointLoad(force, L),)), cap=upper, lower=lower, taper=1.0)
        nodes = rectangle(0.05 - web.thickness, 0.04 - upper.thickness)
        F = Laminated().closed(nodes, [upper, web, lower, web])
        result = found.results[0]
        bent, twisted = F[2, 2] * force * L**3 / 3, F[1, 2] * force * L**2 / 2
        self.assertAlmostEqual(float(np.abs(result.displacements["theta"]).max()) / abs(twisted), 1.0, delta=0.01)
        self.assertAlmostEqual(float(np.abs(result.displacements["w"]).max()) / bent, 1.0, delta=0.02)  # and shear
        self.assertGreater(abs(twisted), 1e-3)

    def test_a_channel_loaded_through_its_web_twists(self) -> None:
        force, L = 5.0, self.LENGTH
        twist, centre = [], 0.0
        for _ in range(2):
            case = SpanCase("tip", (PointLoad(force, L, offset=centre),))
            found = self.spar(case, outline="channel", taper=1.0)
            twist.append(float(np.abs(found.results[0].displacements["theta"]).max()))
            centre = float(found.sections.shear_centre[0][0])
        self.assertLess(twist[1], 1e-6 * twist[0])

    def test_a_bent_box_crushes_by_its_curvature(self) -> None:
        """Brazier's pressure of a cap: its force times the curvature, here from σ/E of the cap alone."""
        found = self.spar(SpanCase("tip", (PointLoad(20.0, self.LENGTH),)), taper=1.0)
        cap = Laminated.law(Laminated.CAP)[0, 0]
        web = Laminated.law(Laminated.WEB)[0, 0]
        h, w = 0.04 - Laminated.CAP.thickness, 0.05 - Laminated.WEB.thickness
        EI = cap * w * h**2 / 2 + web * h**3 / 6
        self.assertAlmostEqual(abs(found.results[0].strains[0, 2]) / (20.0 * self.LENGTH / EI), 1.0, delta=0.01)


if __name__ == "__main__":
    unittest.main()
