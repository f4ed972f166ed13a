"""Strips and tubes against closed forms of beams, exact solutions, and other ways to the same number."""

from __future__ import annotations

import unittest

import numpy as np
from scipy.integrate import solve_bvp

from omakase.core.laminate.stack import Stack, make_layer
from omakase.core.members.field import Place
from omakase.core.members.panel import respond
from omakase.core.members.panel_given import LINEAR, LoadCase, Panel
from omakase.core.members.span_loads import (
    AxialForce,
    CarriedMass,
    Drop,
    LineLoad,
    Moment,
    PointLoad,
    SpanCase,
    SpanLoad,
    Spanned,
    Support,
    Torque,
)
from omakase.core.members.stretches import Run, stretches
from omakase.core.members.strip import Strip, StripResponse, WidthLaw
from omakase.core.members.strip_folding import half_wave
from omakase.core.members.tube import Tube, TubeResponse
from omakase.core.plates.grid import Edges
from omakase.core.plates.section import PlateSection
from omakase.core.sections.cylinder import (
    axial_buckling,
    flattening_moment,
    knock_down,
    ring_moment,
    torsion_buckling,
)
from omakase.core.sections.folded import FoldedPlate
from omakase.core.sections.profile import Profile, StripSection, StripWall, mid_line
from omakase.core.sections.ring import Ring
from omakase.project.demo import demo_project
from omakase.project.library import materials_of

MATERIALS = materials_of(demo_project())
SHEET = Stack((make_layer(MATERIALS["al6061"], 0.0, 0.004),))
E, G = MATERIALS["al6061"].value("E1"), MATERIALS["al6061"].value("G12")
LENGTH, WIDTH, DEPTH = 1.0, 0.02, 0.004
EI, GA = E * WIDTH * DEPTH**3 / 12.0, 5.0 / 6.0 * G * WIDTH * DEPTH
NONE = np.zeros((3, 3))  # no coupling of stretch and bending
CANTILEVER = (Support(0.0, "clamped"),)
SANDWICH = Stack(
    tuple(
        make_layer(MATERIALS[name], 0.0, thickness, role)  # type: ignore[arg-type]
        for name, thickness, role in (
            ("twill200", None, None), ("twill200", None, None), ("pvc80", 0.012, "core"), ("twill200", None, None),
        )
    )
)  # fmt: skip


def strip(
    supports: tuple[Support, ...], *loads: SpanLoad, gravity: float = 0.0, stack: Stack = SHEET, width: float = WIDTH,
    masses: tuple[CarriedMass, ...] = (),
) -> StripResponse:  # fmt: skip
    member = Strip(Spanned(LENGTH, supports, masses), WidthLaw(((0.0, width),)))
    return StripResponse(member, stack, (SpanCase("case", loads, gravity),))


def deflection(response: StripResponse | TubeResponse) -> float:
    return response.measures["deflection"][0].value


class BeamTables(unittest.TestCase):
    """Roark's Formulas for Stress and Strain, table 8.1, and Timoshenko's shear terms (textbook), to 0.1 %."""

    def close(self, found: float, expected: float) -> None:
        self.assertAlmostEqual(found / expected, 1.0, delta=1e-3)

    def test_cantilever(self) -> None:
        weight = SHEET.layers[0].material.value("density") * WIDTH * DEPTH * 9.80665
        for response, expected in (
            (strip(CANTILEVER, PointLoad(10.0, LENGTH)), 10.0 * LENGTH**3 / (3.0 * EI) + 10.0 * LENGTH / GA),
            (strip(CANTILEVER, LineLoad(5.0, 5.0, 0.0, LENGTH)), 5.0 * LENGTH**4 / (8.0 * EI) + 2.5 * LENGTH**2 / GA),
            (strip(CANTILEVER, LineLoad(6.0, 0.0, 0.0, LENGTH)), 6.0 * LENGTH**4 / (30.0 * EI) + 1.0 * LENGTH**2 / GA),
            (strip(CANTILEVER, gravity=2.0), 2.0 * weight * LENGTH**4 / (8.0 * EI) + weight * LENGTH**2 / GA),
            (strip(CANTILEVER, Moment(1.5, LENGTH)), 1.5 * LENGTH**2 / (2.0 * EI)),
        ):
            self.close(deflection(response), expected)
            self.assertLess(response.left_over, 1e-8)
        self.close(
            strip(CANTILEVER, PointLoad(10.0, LENGTH)).measures["rotation"][0].value, np.degrees(10.0 / (2.0 * EI))
        )

    def test_two_supports_with_overhang(self) -> None:
        response = strip((Support(0.2), Support(0.8)), PointLoad(10.0, LENGTH))
        bending = 10.0 * 0.2**2 * (0.6 + 0.2) / (3.0 * EI)
        shear = 10.0 * 0.2 / GA * (1.0 + 0.2 / 0.6)
        self.close(deflection(response), bending + shear)
        np.testing.assert_allclose(response.results[0].reactions[:, 0], (-10.0 / 3.0, 40.0 / 3.0), rtol=1e-9)

    def test_three_and_four_point_bending(self) -> None:
        ends = (Support(0.0), Support(LENGTH))
        self.close(deflection(strip(ends, PointLoad(10.0, 0.5))), 10.0 / (48.0 * EI) + 10.0 / (4.0 * GA))
        a = 0.3
        self.close(
            deflection(strip(ends, PointLoad(5.0, a), PointLoad(5.0, LENGTH - a))),
            5.0 * a * (3.0 - 4.0 * a**2) / (24.0 * EI) + 5.0 * a / GA,
        )

    def test_both_ends_fixed(self) -> None:
        ends = (Support(0.0, "clamped"), Support(LENGTH, "clamped"))
        response = strip(ends, PointLoad(10.0, 0.5))
        self.close(deflection(response), 10.0 / (192.0 * EI) + 10.0 / (4.0 * GA))
        np.testing.assert_allclose(response.results[0].diagrams.moment[0], -10.0 / 8.0, rtol=1e-6)
        self.close(deflection(strip(ends, LineLoad(8.0, 8.0, 0.0, LENGTH))), 8.0 / (384.0 * EI) + 1.0 / GA)

    def test_propped_cantilever_reacts(self) -> None:
        response = strip((Support(0.0, "clamped"), Support(LENGTH)), LineLoad(8.0, 8.0, 0.0, LENGTH))
        np.testing.assert_allclose(response.results[0].reactions[1, 0], 3.0, rtol=1e-3)  # 3/8 q L

    def test_modes(self) -> None:
        """Blevins, Formulas for Natural Frequency, table 8-1: λ of a cantilever 1.875, 4.694, 7.855."""
        line = SHEET.layers[0].material.value("density") * WIDTH * DEPTH
        for found, root in zip(strip(CANTILEVER).frequencies, (1.87510, 4.69409, 7.85476), strict=False):
            self.close(found, root**2 / (2.0 * np.pi) * np.sqrt(EI / line))

    def test_a_mass_at_the_tip(self) -> None:
        """Blevins, table 8-8: ω² = 3 EI/(L³ (M + 0.24 m))."""
        line = SHEET.layers[0].material.value("density") * WIDTH * DEPTH
        for mass in (0.5, 1e12):  # the second leaves the iteration one direction
            response = strip(CANTILEVER, masses=(CarriedMass(mass, LENGTH),))
            self.close(response.frequencies[0] * np.sqrt(mass + 0.24 * line), np.sqrt(3.0 * EI) / (2.0 * np.pi))

    def test_euler(self) -> None:
        for supports, factor in ((CANTILEVER, 0.25), ((Support(0.0), Support(LENGTH)), 1.0)):
            push = AxialForce(-1.0, LENGTH)
            member = Strip(Spanned(LENGTH, supports), WidthLaw(((0.0, WIDTH),)))
            found = StripResponse(member, SHEET, (SpanCase("push", (push,)),)).measures["strut"][0].value
            self.close(found, factor * np.pi**2 * EI)
        pulled = strip(CANTILEVER, AxialForce(1.0, LENGTH))
        self.assertEqual(pulled.measures["strut"], ())

    def test_a_tapering_cantilever(self) -> None:
        """Width falling straight to a point: uniform stress, w = P L³/(2 E I_root) (leaf springs, textbook)."""
        member = Strip(Spanned(LENGTH, CANTILEVER), WidthLaw(((0.0, WIDTH), (LENGTH, 0.001))))
        found = deflection(StripResponse(member, SHEET, (SpanCase("tip", (PointLoad(10.0, LENGTH),)),)))
        x = np.linspace(0.0, LENGTH, 200001)
        flexible = 12.0 / (E * DEPTH**3 * member.width(x))
        self.close(found, float(np.trapezoid(10.0 * (LENGTH - x) ** 2 * flexible, x)) + 10.0 * float(
            np.trapezoid(1.0 / (5.0 / 6.0 * G * DEPTH * member.width(x)), x)))  # fmt: skip
        self.assertAlmostEqual(found, 10.0 * LENGTH**3 / (2.0 * EI), delta=0.05 * found)

    def test_a_doubler_at_the_root(self) -> None:
        """A second sheet over 0.4 m: ∫ M²/EI in two stretches, the step of the middle moves nothing but the axis."""
        sheet = SHEET.layers[0]
        wall = stretches((Run(sheet, 0.0, 0.4), Run(sheet, 0.0, LENGTH)), LENGTH)
        self.assertEqual([own.rows for own in wall], [(0, 1), (1,)])
        member = Strip(Spanned(LENGTH, CANTILEVER), WidthLaw(((0.0, WIDTH),)))
        response = StripResponse(member, wall, (SpanCase("tip", (PointLoad(10.0, LENGTH),)),))
        bending = 10.0 * ((1.0 - 0.6**3) / 8.0 + 0.6**3) / (3.0 * EI)
        self.close(deflection(response), bending + 10.0 * (0.2 + 0.6) / GA)
        area = WIDTH * DEPTH * 1.4
        self.close(response.mass, area * sheet.material.value("density"))
        # each stretch has its own stress: 6 M/(b t²)
        for field, moment, thickness in zip(response.fields, (10.0, 6.0), (2.0 * DEPTH, DEPTH), strict=True):
            strains = field.cases[0].strains
            self.close(float(np.abs(strains[..., 3]).max()) * thickness / 2.0 * E,
                       6.0 * moment / (WIDTH * thickness**2))  # fmt: skip

    def test_a_falling_mass(self) -> None:
        """1 + √(1 + 2 h/δ), and the potential energy lost is the strain energy gained."""
        response = strip(CANTILEVER, Drop(0.1, 0.05, LENGTH))
        force = response.results[0].drop_factor * 0.1 * 9.80665
        sag = deflection(response)
        self.close(0.1 * 9.80665 * (0.05 + sag), force * sag / 2.0)


class ThickFaces(unittest.TestCase):
    """The thick-face beam (Allen 1969, chapter 2) solved as a boundary value problem by collocation, to 0.5 %."""

    def exact(self, clamped: bool, point: bool) -> float:
        """Deflection in the middle of a span of 0.4 m under 100 N, half of it by symmetry."""
        k = StripWall(PlateSection(SANDWICH), False).stiffness * 0.05
        # with no force along the span: ε0 follows from N = 0
        b = k[1:3, 1:3] - np.outer(k[1:3, 0], k[0, 1:3]) / k[0, 0]
        S, half = k[3, 3], 0.2
        q = 0.0 if point else 100.0 / 0.4

        # unknowns w, w', κw = −w'', κw', φ, φ'; moments M1 = b00 φ' + b01 κw, M2 = b01 φ' + b11 κw
        def slopes(x: np.ndarray, y: np.ndarray) -> np.ndarray:
            w1, k0, k1, f, f1 = y[1], y[2], y[3], y[4], y[5]
            shear = S * (f + w1)
            dshear = S * (f1 - k0)
            matrix = np.array([[b[0, 0], b[0, 1]], [b[0, 1], b[1, 1]]])
            # M1' = Q; M1'' = Q' and M2'' + Q' = q (w up, q down) give φ''' and κ''
            f2 = (shear - b[0, 1] * k1) / b[0, 0]
            solved = np.linalg.solve(matrix, np.stack([dshear, q - dshear]))
            return np.stack([w1, -k0, k1, solved[1], f1, f2])

        def ends(a: np.ndarray, m: np.ndarray) -> np.ndarray:
            start = (
                [a[0], a[4], a[1]]
                if clamped
                else [a[0], b[0, 0] * a[5] + b[0, 1] * a[2], b[0, 1] * a[5] + b[1, 1] * a[2]]
            )
            f2 = (S * (m[4] + m[1]) - b[0, 1] * m[3]) / b[0, 0]
            total = S * (m[4] + m[1]) + b[0, 1] * f2 + b[1, 1] * m[3]  # Q + M2', the shear force
            return np.array([*start, m[4], m[1], total - (-50.0 if point else 0.0)])

        x = np.concatenate(
            [np.linspace(0.0, 0.02, 60)[:-1], np.linspace(0.02, 0.18, 60)[:-1], np.linspace(0.18, half, 60)]
        )
        found = solve_bvp(slopes, ends, x, np.zeros((6, len(x))), tol=1e-8, max_nodes=60000)
        self.assertTrue(found.success, found.message)
        return float(abs(found.sol(half)[0]))

    def test_clamped_and_simple_under_a_point_and_an_even_load(self) -> None:
        for clamped in (True, False):
            held = "clamped" if clamped else "simple"
            supports = (Support(0.0, held), Support(0.4, held))  # type: ignore[arg-type]
            member = Strip(Spanned(0.4, supports), WidthLaw(((0.0, 0.05),)))
            for point in (True, False):
                load = PointLoad(100.0, 0.2) if point else LineLoad(250.0, 250.0, 0.0, 0.4)
                found = deflection(StripResponse(member, SANDWICH, (SpanCase("q", (load,)),)))
                with self.subTest(clamped=clamped, point=point):
                    self.assertAlmostEqual(found / self.exact(clamped, point), 1.0, delta=5e-3)

    def test_halved_cells_change_nothing(self) -> None:
        ends = (Support(0.0, "clamped"), Support(0.7))
        case = (SpanCase("q", (PointLoad(100.0, 0.31, 0.08), LineLoad(100.0, 20.0, 0.1, 0.9)), 1.0),)
        member = Strip(Spanned(1.0, ends), WidthLaw(((0.0, 0.05), (1.0, 0.03))))
        one, two = (StripResponse(member, SANDWICH, case, parts=parts) for parts in (1, 2))
        self.assertAlmostEqual(deflection(one) / deflection(two), 1.0, delta=1e-4)
        np.testing.assert_allclose(one.frequencies[:3], two.frequencies[:3], rtol=1e-4)
        largest = [np.abs(own.fields[0].cases[0].strains).max(axis=(0, 1))[[0, 3, 6, 9]] for own in (one, two)]
        np.testing.assert_allclose(*largest, rtol=3e-3)


class WideStrips(unittest.TestCase):
    def test_against_the_plate(self) -> None:
        """A strip three times as wide as long between two simple ends, in its middle, to 1 %."""
        edges = Edges("resting", "resting", "free", "free")
        plate = respond(Panel(0.3, 1.2, edges), SANDWICH, (LoadCase("p", (2000.0,)),), with_frequencies=False)
        middle = plate.cases[0]
        i, j = np.argmin(np.abs(middle.w_x - 0.15)), np.argmin(np.abs(middle.w_y - 0.6))
        member = Strip(Spanned(0.3, (Support(0.0), Support(0.3))), WidthLaw(((0.0, 1.2),)))
        own = StripResponse(member, SANDWICH, (SpanCase("p", (LineLoad(2400.0, 2400.0, 0.0, 0.3),)),))
        self.assertAlmostEqual(deflection(own) / abs(float(middle.w[i, j])), 1.0, delta=0.01)

    def test_between_narrow_and_wide_against_the_plate(self) -> None:
        """Sheets of aluminium from a third to three times as wide as long, in the mean over the width: to 1 % for even
        loads, where the rule of either end would be up to 11 % off; and the first frequency."""
        edges = Edges("resting", "resting", "free", "free")
        span = Spanned(0.3, (Support(0.0), Support(0.3)))
        for width in (0.1, 0.2, 0.3, 0.6, 0.9):
            plate = respond(Panel(0.3, width, edges), SHEET, (LoadCase("p", (2000.0,)),), LINEAR)
            case = plate.cases[0]
            middle = case.w[int(np.argmin(np.abs(case.w_x - 0.15)))]
            sag = -float(np.trapezoid(middle, case.w_y)) / width
            load = LineLoad(2000.0 * width, 2000.0 * width, 0.0, 0.3)
            own = StripResponse(Strip(span, WidthLaw(((0.0, width),))), SHEET, (SpanCase("p", (load,)),))
            with self.subTest(width):
                self.assertAlmostEqual(deflection(own) / sag, 1.0, delta=0.01)
                self.assertAlmostEqual(own.frequencies[0] / plate.frequencies[0], 1.0, delta=0.02)

    def test_narrow_against_the_plate(self) -> None:
        """A strip a twelfth as wide as long: free to curve across."""
        edges = Edges("resting", "resting", "free", "free")
        plate = respond(Panel(0.6, 0.05, edges), SANDWICH, (LoadCase("p", (2000.0,)),), with_frequencies=False)
        member = Strip(Spanned(0.6, (Support(0.0), Support(0.6))), WidthLaw(((0.0, 0.05),)))
        own = StripResponse(member, SANDWICH, (SpanCase("p", (LineLoad(100.0, 100.0, 0.0, 0.6),)),))
        self.assertAlmostEqual(deflection(own) / plate.cases[0].largest_deflection[0], 1.0, delta=0.01)


class TwistingStrips(unittest.TestCase):
    """Plies askew: the strip twists as it bends, and supports across its width hold the twist."""

    STACK = Stack(tuple(make_layer(MATERIALS["ud300"], 30.0) for _ in range(8)))
    PRESSURE = 500.0

    def test_against_its_compliances(self) -> None:
        """[κ, κ_xy] = s [M, M_xy] with M_y = 0, over the width.  Between two supports the torque is even and the twist
        comes to nothing: M_xy = −(s16/s66) mean M; so the sag under an even load q is 5 q L⁴ s11/384 − (s16²/s66)
        (q L²/12) L²/8 (derived).  On one clamp nothing holds the twist: q L⁴ s11/8."""
        width, length = 0.02, 1.0
        d = np.linalg.inv(PlateSection(self.STACK).membrane[3:6, 3:6])
        s11, s16, s66 = d[0, 0] / width, d[0, 2] / width, d[2, 2] / width
        q = self.PRESSURE * width
        load = LineLoad(q, q, 0.0, length)
        held = 5.0 * q * length**4 * s11 / 384.0 - s16**2 / s66 * q * length**4 / 96.0
        self.assertLess(held, 0.8 * 5.0 * q * length**4 * s11 / 384.0)
        for supports, expected in (
            ((Support(0.0), Support(length)), held), (CANTILEVER, q * length**4 * s11 / 8.0),
        ):  # fmt: skip
            found = strip(supports, load, stack=self.STACK, width=width)
            with self.subTest(supports):
                self.assertAlmostEqual(deflection(found) / expected, 1.0, delta=4e-3)
                self.assertTrue(any("twists as it bends" in remark for remark in found.remarks()))

    def test_against_the_plate(self) -> None:
        """Sag, frequency and the strain that governs, of a strip a tenth as wide as long with two simple ends."""
        width, length = 0.08, 0.8
        edges = Edges("resting", "resting", "free", "free")
        plate = respond(Panel(length, width, edges), self.STACK, (LoadCase("p", (self.PRESSURE,)),))
        q = self.PRESSURE * width
        member = Strip(Spanned(length, (Support(0.0), Support(length))), WidthLaw(((0.0, width),)))
        own = StripResponse(member, self.STACK, (SpanCase("p", (LineLoad(q, q, 0.0, length),)),))
        self.assertAlmostEqual(deflection(own) / plate.cases[0].largest_deflection[0], 1.0, delta=0.02)
        self.assertAlmostEqual(own.frequencies[0] / plate.frequencies[0], 1.0, delta=0.02)
        middle = own.fields[0].cases[0].strains[len(own.x) // 2, 0]
        case = plate.fields[0].cases[0]
        there = case.strains[case.nearest(Place(length / 2.0, width / 2.0))]
        np.testing.assert_allclose(middle[[3, 4, 5]], there[[3, 4, 5]], rtol=0.09)  # of a plate: not quite even across

    def test_plies_along_and_across_leave_it_as_it_was(self) -> None:
        self.assertEqual(StripWall(PlateSection(SANDWICH), False, True).twists, 0.0)
        self.assertNotIn("theta", strip(CANTILEVER, PointLoad(1.0, 1.0), stack=SANDWICH).results[0].displacements)


class BentSections(unittest.TestCase):
    """Arch and hat of thin sheet against integrals over the mid-line, done here another way."""

    def bending(self, profile: Profile, width: float) -> float:
        wall = StripWall(PlateSection(SHEET), False)
        return StripSection(wall, mid_line(profile, width)).bending(width)

    def test_arch(self) -> None:
        width, rise, t = 0.1, 0.012, DEPTH
        # the half angle of an arc by its length and rise, by bisection
        low, high = 1e-3, 1.5
        for _ in range(60):
            half = (low + high) / 2.0
            low, high = (half, high) if width / (2 * half) * (1 - np.cos(half)) < rise else (low, half)
        R, angle = width / (2.0 * half), np.linspace(-half, half, 20001)
        z = R * np.cos(angle)
        centre = np.trapezoid(z, angle) / (2.0 * half)
        second = np.trapezoid(((z - centre) ** 2 * t + np.cos(angle) ** 2 * t**3 / 12.0) * R, angle)
        self.assertAlmostEqual(self.bending(Profile("arched", rise), width) / (E * second), 1.0, delta=2e-3)
        self.assertGreater(second, 10.0 * width * t**3 / 12.0)

    def test_an_arch_flattens_as_it_bends(self) -> None:
        """A wide arch sags as the curved panel that it is, many times as far as its section would let it; a long narrow
        one bends as its section does."""
        stack = SHEET
        ends = (Support(0.0, "simple"), Support(0.44, "simple"))
        wide = Strip(Spanned(0.44, ends), WidthLaw(((0.0, 0.24),)), Profile("arched", 0.02))
        line = mid_line(wide.profile, 0.24)
        chord = line.span * 0.24
        panel = Panel(0.44, chord, Edges("simple", "simple", "free", "free"), rise=(0.0, line.height * 0.24))
        bent = respond(panel, stack, (LoadCase("p", (1000.0,)),), LINEAR, False).cases[0]
        middle = bent.w[int(np.argmin(np.abs(bent.w_x - 0.22)))]
        shell = -float(np.trapezoid(middle, bent.w_y)) / float(np.ptp(bent.w_y))
        case = SpanCase("p", (LineLoad(1000.0 * chord, 1000.0 * chord, 0.0, 0.44),))
        strip = StripResponse(wide, stack, (case,))
        self.assertAlmostEqual(strip.measures["deflection"][0].value / shell, 1.0, delta=0.08)
        self.assertLess(strip.section.kept, 0.85)
        self.assertTrue(any("flattens" in remark for remark in strip.remarks()))
        # the vibrations of the same panel: the theory of shells beside folded walls, in twist, up and down, by turns
        shaken = respond(panel, stack, (LoadCase("p", (1000.0,)),), LINEAR).frequencies[:3]
        np.testing.assert_allclose(strip.frequencies[:3], shaken, rtol=0.04)
        self.assertLess(strip.frequencies[0], 0.7 * strip.model.frequencies()[0])  # of the beam
        long = Spanned(3.0, (Support(0.0, "simple"), Support(3.0, "simple")))
        narrow = Strip(long, WidthLaw(((0.0, 0.2),)), Profile("arched", 0.005))
        self.assertGreater(StripResponse(narrow, stack, (case,)).section.kept, 0.9)

    def test_folded_plates_by_finite_strips(self) -> None:
        """A flat wall with ν = 0 sags as a beam, 1/(EI k⁴); with ν, narrow by the stiffness of a beam that curves
        across and wide, but for its edges, by that of a plate bent to a cylinder (Timoshenko and Woinowsky-Krieger
        1959, from memory)."""
        t, b, wave = 2e-3, 0.05, 1.0
        k = np.pi / wave
        A, D = np.diag([E * t, E * t, E * t / 2.0]), np.diag([E, E, E / 2.0]) * t**3 / 12.0
        flat = np.column_stack([np.linspace(-b / 2.0, b / 2.0, 9), np.zeros(9)])
        even = np.full(8, 1.0 / 8.0)
        beam = 1.0 / (E * t**3 * b / 12.0 * k**4)
        self.assertAlmostEqual(FoldedPlate(flat, A, NONE, D).sag(wave, even) / beam, 1.0, delta=1e-3)
        D[0, 1] = D[1, 0] = 0.3 * D[0, 0]  # narrow it curves freely, wide it stays flat across
        place = -np.cos(np.linspace(0.0, np.pi, 17)) / 2.0
        for width, law, near in ((0.05, D[0, 0] - D[0, 1] ** 2 / D[1, 1], 4e-3), (40.0, D[0, 0], 0.06)):
            line = np.column_stack([place, np.zeros(17)]) * width
            sag = 1.0 / (law * width * k**4)
            self.assertAlmostEqual(FoldedPlate(line, A, NONE, D).sag(wave, np.diff(place)) / sag, 1.0, delta=near)

    def test_a_folded_plate_vibrates(self) -> None:
        """A flat wall with ν = 0: up and down as a beam, π/(2λ²) √(EI/m); in twist (1/2λ) √(GJ/I_p) with GJ = G b t³/3
        (Blevins 1979, tables 8-1 and 8-19, from memory); on edge, against each other sideways, as a beam too."""
        t, b, wave, rho = 2e-3, 0.05, 1.0, 1600.0
        A, D = np.diag([E * t, E * t, E * t / 2.0]), np.diag([E, E, E / 2.0]) * t**3 / 12.0
        flat = np.column_stack([np.linspace(-b / 2.0, b / 2.0, 9), np.zeros(9)])
        plate = FoldedPlate(flat, A, NONE, D, rho * t)
        beam = np.pi / (2.0 * wave**2) * np.sqrt(E * t**2 / 12.0 / rho)
        self.assertAlmostEqual(plate.frequencies(wave, even=True)[0] / beam, 1.0, delta=1e-3)
        twist = np.sqrt(E / 2.0 * b * t**3 / 3.0 / (rho * t * b**3 / 12.0)) / (2.0 * wave)
        shear = 1.0 + np.pi**2 / wave**2 * b**2 / 12.0 * (1.0 + 2.0 / (5.0 / 6.0))  # and rotary inertia (Timoshenko)
        aside = np.pi / (2.0 * wave**2) * np.sqrt(E * b**2 / 12.0 / rho / shear)
        np.testing.assert_allclose(plate.frequencies(wave, even=False)[:2], sorted((twist, aside)), rtol=0.01)

    def test_waves_of_bays_and_overhangs(self) -> None:
        """Half a wave of each is that of its first vibration: the beam's own solution says the same."""
        wall = WidthLaw(((0.0, 0.02),))
        EI, m = E * 0.02 * DEPTH**3 / 12.0, float(PlateSection(SHEET).areal_mass) * 0.02
        for supports in (
            (Support(0.0, "simple"), Support(1.0, "simple")), (Support(0.0, "clamped"), Support(1.0, "simple")),
            (Support(0.0, "clamped"), Support(1.0, "clamped")), (Support(0.0, "clamped"),),
        ):  # fmt: skip
            span = Spanned(1.0, supports)
            frequency = StripResponse(Strip(span, wall), SHEET, ()).frequencies[0]
            wave = np.pi * (EI / m / (2.0 * np.pi * frequency) ** 2) ** 0.25
            with self.subTest(supports):
                self.assertAlmostEqual(half_wave(span) / wave, 1.0, delta=0.01)
        self.assertEqual(half_wave(Spanned(1.0, (Support(0.2, "simple"), Support(0.9, "simple")))), 0.7)
        self.assertEqual(half_wave(Spanned(1.0, (Support(0.5, "simple"), Support(0.6, "simple")))), 1.0)

    def test_hat(self) -> None:
        t, crown, foot, height, width = DEPTH, 0.03, 0.015, 0.02, 0.110
        web = (width - crown - 2.0 * foot) / 2.0
        slope = height / web
        parts = [
            (crown, height, 0.0, 1.0),
            (2 * foot, 0.0, 0.0, 1.0),
            (2 * web, height / 2.0, slope, np.sqrt(1 - slope**2)),
        ]
        area = sum(length for length, *_ in parts)
        centre = sum(length * z for length, z, *_ in parts) / area
        second = sum(
            length * t * (z - centre) ** 2 + length * t**3 / 12.0 * c**2 + (length / 2.0) ** 3 * 2.0 * t * s**2 / 12.0
            for length, z, s, c in parts
        )
        self.assertAlmostEqual(self.bending(Profile("hat", height, crown, foot), width) / (E * second), 1.0, delta=1e-3)


def tube(*loads: SpanLoad, stack: Stack = SHEET, diameter: float = 0.04, length: float = LENGTH,
         supports: tuple[Support, ...] = CANTILEVER) -> TubeResponse:  # fmt: skip
    member = Tube(Spanned(length, supports), WidthLaw(((0.0, diameter - 2.0 * stack.thickness),)))
    return TubeResponse(member, stack, (SpanCase("case", loads),))


class Tubes(unittest.TestCase):
    outer, inner = 0.02, 0.016
    second = np.pi / 4.0 * (outer**4 - inner**4)
    area = np.pi * (outer**2 - inner**2)

    def test_stiffness_of_a_thick_isotropic_tube(self) -> None:
        """π/4 (r_o⁴ − r_i⁴), twice that for torsion (textbook)."""
        ring = Ring(PlateSection(SHEET), np.array([0.018]))
        for found, expected in (
            (ring.bending, E * self.second),
            (ring.torsion, 2.0 * G * self.second),
            (ring.axial, E * self.area),
        ):
            self.assertAlmostEqual(float(found[0]) / expected, 1.0, places=6)

    def test_bredt(self) -> None:
        """Thin: GJ = 4 A² G t/s (Bredt 1896), shear stress T/(2 A t)."""
        thin = Stack((make_layer(MATERIALS["al6061"], 0.0, 0.0005),))
        ring = Ring(PlateSection(thin), np.array([0.03]))
        A, around = np.pi * 0.03**2, 2.0 * np.pi * 0.03
        self.assertAlmostEqual(ring.torsion[0] / (4.0 * A**2 * G * 0.0005 / around), 1.0, delta=1e-3)
        strains = ring.wall_strains(np.array([[0.0, 10.0, 0.0, 0.0, 0.0, 0.0]]), np.zeros(1))
        self.assertAlmostEqual(G * strains[0, 0, 2] / (10.0 / (2.0 * A * 0.0005)), 1.0, delta=1e-3)

    def test_tip_load_torque_and_strut(self) -> None:
        shear = G * self.area / 2.0  # of a thin ring (Cowper 1966 gives 0.53 for ν 0.3)
        self.assertAlmostEqual(
            deflection(tube(PointLoad(100.0, LENGTH))) / (100.0 / (3.0 * E * self.second) + 100.0 / shear),
            1.0,
            delta=1e-3,
        )
        twist = tube(Torque(10.0, LENGTH)).measures["twist"][0].value
        self.assertAlmostEqual(np.radians(twist) / (10.0 / (2.0 * G * self.second)), 1.0, places=6)

    def test_euler_with_shear(self) -> None:
        """P_E/(1 + P_E/S) (Engesser 1889, in Timoshenko and Gere 1961, section 2.17), on a short strut."""
        short = tube(AxialForce(-1.0, 0.15), length=0.15, supports=(Support(0.0), Support(0.15)))
        euler = np.pi**2 * E * self.second / 0.15**2
        expected = euler / (1.0 + euler * Ring(PlateSection(SHEET), np.array([0.018])).compliance[0, 4, 4])
        self.assertAlmostEqual(short.measures["strut"][0].value / expected, 1.0, delta=1e-3)
        self.assertLess(expected, 0.8 * euler)

    def test_fibres_that_wind_one_way(self) -> None:
        """A membrane cylinder with displacements in the first harmonic, by Ritz: it bows sideways as the tube does."""
        ply = MATERIALS["ud300"]
        stack = Stack((make_layer(ply, 30.0),) * 2)
        response = tube(PointLoad(100.0, LENGTH), stack=stack)
        plate = PlateSection(stack)
        A = plate.membrane[:3, :3]
        C = A[np.ix_([0, 2], [0, 2])] - np.outer(A[[0, 2], 1], A[1, [0, 2]]) / A[1, 1]
        R = 0.02 - stack.thickness / 2.0
        # u = U1 cos α + U2 sin α, v = V1 sin α + V2 cos α, w free; U, V powers of x from 1 on
        degree = 5
        x, weights = np.polynomial.legendre.leggauss(8)
        x, weights = (x + 1.0) / 2.0 * LENGTH, weights / 2.0 * LENGTH
        angle = np.arange(16) * 2.0 * np.pi / 16
        rows = np.zeros((8, 16, 2, 4 * degree))
        for p in range(1, degree + 1):
            f, df = x**p, p * x ** (p - 1)
            for block, shape, slope, is_u in (
                (0, np.cos(angle), -np.sin(angle), True), (1, np.sin(angle), np.cos(angle), True),
                (2, np.sin(angle), None, False), (3, np.cos(angle), None, False),
            ):  # fmt: skip
                column = block * degree + p - 1
                if is_u:
                    rows[:, :, 0, column] = np.outer(df, shape)
                    rows[:, :, 1, column] = np.outer(f, slope) / R
                else:
                    rows[:, :, 1, column] = np.outer(df, shape)
        K = np.einsum("xaic,ij,xajd,x->cd", rows, C, rows, weights) * R * 2.0 * np.pi / 16
        # the tip's force down: z moves by −V1 (v = −w_z sin α + w_y cos α), work of the flow V sin α/(πR)
        force = np.zeros(4 * degree)
        force[2 * degree : 3 * degree] = 100.0 * LENGTH ** np.arange(1, degree + 1)
        answer = np.linalg.solve(K, force)
        middle = int(np.argmin(np.abs(response.x - LENGTH / 2.0)))
        powers = response.x[middle] ** np.arange(1, degree + 1)
        down, aside = powers @ answer[2 * degree : 3 * degree], powers @ answer[3 * degree :]
        w, v = (response.results[0].displacements[name][middle] for name in ("w", "v"))
        self.assertAlmostEqual(-w / down, 1.0, delta=5e-3)
        self.assertAlmostEqual(v / aside, 1.0, delta=5e-3)
        self.assertGreater(abs(v), 0.02 * abs(w))
        self.assertLess(abs(response.results[0].displacements["v"][-1]), 1e-9)  # what bending bows, shear bows back

    def test_pull_turns_it(self) -> None:
        """a16/(2πR²) of the wall with N_s = 0 (Librescu and Song 2006, chapter 6; derived)."""
        stack = Stack((make_layer(MATERIALS["ud300"], 30.0),) * 2)
        twist = tube(AxialForce(1000.0, LENGTH), stack=stack).measures["twist"][0].value
        A = PlateSection(stack).membrane[:3, :3]
        R = 0.02 - stack.thickness / 2.0
        self.assertAlmostEqual(
            np.radians(twist) / abs(np.linalg.inv(A)[0, 2] * 1000.0 / (2.0 * np.pi * R**2)), 1.0, delta=2e-3
        )


class Cylinders(unittest.TestCase):
    """Isotropic walls against the printed formulas of NASA SP-8007 (1968) and Brazier (1927)."""

    walls = ((0.001, 0.05), (0.0005, 0.1))

    def plate(self, thickness: float) -> PlateSection:
        return PlateSection(Stack((make_layer(MATERIALS["al6061"], 0.0, thickness),)))

    def test_axial(self) -> None:
        """N = E t²/(R √(3 (1 − ν²)))."""
        nu = MATERIALS["al6061"].value("nu12")
        for t, R in self.walls:
            expected = E * t**2 / (R * np.sqrt(3.0 * (1.0 - nu**2)))
            self.assertAlmostEqual(axial_buckling(self.plate(t), np.array([R]), 1.0)[0] / expected, 1.0, delta=5e-3)

    def test_torsion(self) -> None:
        """N = 0.747 E t (t/R)^(5/4) (R/L)^(1/2) before its knock-down, of moderate length."""
        for t, R in self.walls:
            expected = 0.747 * E * t * (t / R) ** 1.25 * (R / 0.5) ** 0.5
            self.assertAlmostEqual(torsion_buckling(self.plate(t), np.array([R]), 0.5)[0] / expected, 1.0, delta=0.01)

    def test_knock_downs(self) -> None:
        """γ at R/t 100 and 1500, read off the formula: φ 0.625 and 2.42."""
        for ratio, axial, bending in ((100.0, 0.5813, 0.6603), (1500.0, 0.1791, 0.3340)):
            plate = self.plate(0.001)
            self.assertAlmostEqual(knock_down(plate, np.array([0.001 * ratio]), "axial")[0], axial, delta=2e-3)
            self.assertAlmostEqual(knock_down(plate, np.array([0.001 * ratio]), "bending")[0], bending, delta=2e-3)

    def test_brazier(self) -> None:
        """(2√2/9) π E r t²/√(1 − ν²)."""
        nu = MATERIALS["al6061"].value("nu12")
        for t, R in self.walls:
            expected = 2.0 * np.sqrt(2.0) / 9.0 * np.pi * E * R * t**2 / np.sqrt(1.0 - nu**2)
            self.assertAlmostEqual(flattening_moment(self.plate(t), np.array([R]))[0] / expected, 1.0, places=6)

    def test_a_pinched_ring(self) -> None:
        """F R/π by the strain energy of half a ring, integrated."""
        angle = np.linspace(0.0, np.pi / 2.0, 20001)
        # quarter ring: M = M0 − F R/2 (1 − cos α) from the horizontal; no turn at either end: ∫ M = 0
        part = 0.5 * (1.0 - np.cos(angle))
        at_side = np.trapezoid(part, angle) / (np.pi / 2.0)
        self.assertAlmostEqual(abs(at_side - 0.5) * 100.0 * 0.02 / ring_moment(100.0, 0.02), 1.0, places=6)


if __name__ == "__main__":
    unittest.main()
