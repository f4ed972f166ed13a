"""Lifting surfaces against closed forms: planforms, what fills a section, turning of the air, divergence."""

from __future__ import annotations

import unittest

import numpy as np
from scipy.integrate import quad

from omakase.core.errors import MemberError
from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material
from omakase.core.members.span_loads import LineLoad, PointLoad, SpanCase
from omakase.core.members.stretches import whole
from omakase.core.members.surface import AIR_DENSITY, Planform, Surface, SurfaceResponse, core_section
from omakase.core.sections.aerofoils import CUT, four_digit, half_thickness
from omakase.core.sections.drawn import DrawnOutline
from omakase.core.sections.outlines import OutlineSizes, mid_lines
from omakase.core.sections.thin_walled import MidLines
from omakase.project import surface_translate
from omakase.project.commands import replace
from omakase.project.model import Brief, Candidate, LoadCase
from omakase.project.spans import LiftLoad
from omakase.project.wings import AirTorque, SurfaceForm, SurfaceMember
from tests.support import isotropic, material, sheet

E, NU = 70e9, 0.3
METAL = isotropic(E, NU)


def filler(density: float, E: float, G: float) -> Material:
    return material(
        "core", "foam", density=density, E1=E, E2=E, E3=E, G12=G, G13=G, G23=G, nu12=0.3, S13=1e6, S23=1e6, Zc=1e6,
        Zt=1e6, resin_uptake=0.0,
    )  # fmt: skip


class Planforms(unittest.TestCase):
    def test_half_ellipse(self) -> None:
        """Area π/4 · span · root chord of both halves together; the law in straight pieces comes within 1 %."""
        plan = Planform("half_elliptic", 2.1, 0.3)
        self.assertAlmostEqual(2 * plan.area / (np.pi / 4 * plan.span * plan.root), 1.0, places=12)
        x = np.linspace(0.0, 2.1, 2001)
        self.assertAlmostEqual(np.trapezoid(plan.law(x), x) / plan.area, 1.0, delta=0.01)
        self.assertAlmostEqual(plan.aspect_ratio, plan.span**2 / (2 * plan.area))

    def test_tapered_and_swept(self) -> None:
        """Trapezium; sweep of a given length along its axis shortens span and area by its cosine."""
        plan = Planform("tapered", 2.0, 0.3, 0.2, sweep=25.0)
        c = np.cos(np.radians(25.0))
        self.assertAlmostEqual(plan.area, 2.0 * 0.25 * c)
        self.assertAlmostEqual(plan.span, 4.0 * c)
        self.assertAlmostEqual(plan.mean_chord, 0.25)
        self.assertAlmostEqual(plan.aspect_ratio, 4.0 * c / 0.25)
        by_hand = Planform("stations", 2.0, 0.0, stations=((0.0, 0.3), (2.0, 0.2)), sweep=25.0)
        self.assertAlmostEqual(by_hand.area, plan.area)

    def test_what_makes_no_planform(self) -> None:
        for wrong in (
            {"sweep": 80.0}, {"root": 0.0}, {"form": "stations", "stations": ((0.0, 0.3),)},
            {"form": "stations", "stations": ((1.0, 0.3), (0.0, 0.3))},
        ):  # fmt: skip
            with self.assertRaises(MemberError):
                Planform(**{"form": "tapered", "length": 1.0, "root": 0.2, "tip": 0.1} | wrong)  # type: ignore[arg-type]


class Inside(unittest.TestCase):
    def test_ellipse(self) -> None:
        """π a b, π a b³/4, and the torsion constant π a³ b³/(a² + b²) (Saint-Venant 1855)."""
        a, b, count = 0.2, 0.03, 400
        t = -np.arange(count) / count * 2 * np.pi  # the way of the clock
        nodes = np.stack([a * np.cos(t) + 0.05, b * np.sin(t)], axis=1)[None]
        pieces = np.stack([np.arange(count), (np.arange(count) + 1) % count], axis=1)
        found = core_section(MidLines(nodes, pieces, np.zeros(count, int)), np.zeros((1, count)))
        np.testing.assert_allclose(found.area, np.pi * a * b, rtol=1e-3)
        np.testing.assert_allclose(found.zz, np.pi * a * b**3 / 4, rtol=1e-3)
        np.testing.assert_allclose(found.yy, np.pi * a**3 * b / 4 + np.pi * a * b * 0.05**2, rtol=1e-3)
        np.testing.assert_allclose(found.torsion, np.pi * a**3 * b**3 / (a**2 + b**2), rtol=2e-3)

    def test_four_digit_profile_by_quadrature_of_its_equation(self) -> None:
        c, t = 0.3, 0.0008
        outline = DrawnOutline(four_digit("0012"))
        width = CUT * c
        sizes = OutlineSizes(np.array([outline.aspect * width]), np.array([width]), drawn=outline)
        lines = mid_lines("drawn", sizes, {"skin": t})
        count = len(lines.pieces)
        found = core_section(lines, np.full((1, count), t))

        def half(x: float) -> float:
            return float(half_thickness(np.array([x / c]), 0.12)[0]) * c

        area = 2 * quad(half, 0.0, CUT * c)[0]
        second = 2 / 3 * quad(lambda x: half(x) ** 3, 0.0, CUT * c)[0]
        # less the skin, of its own length and place
        length = (
            2 * quad(lambda s: np.hypot(1.0, (half(s + 1e-7) - half(s)) / 1e-7), 1e-6, CUT * c - 1e-6, limit=200)[0]
        )
        self.assertAlmostEqual(found.area[0] / (area - t * (length + 2 * half(CUT * c))), 1.0, delta=0.01)
        skin = 2 * t * quad(lambda s: half(s) ** 2, 0.0, CUT * c)[0]
        self.assertAlmostEqual(found.zz[0] / (second - skin), 1.0, delta=0.02)


class Wings(unittest.TestCase):
    MEMBER = SurfaceMember(1.5, planform="tapered", root=0.3, tip=0.3)
    FORM = SurfaceForm("0012", webs=(0.35,))
    SKIN = Stack((sheet(METAL, 0.0008),))

    def respond(
        self, *loads: object, member: SurfaceMember = MEMBER, filling: object = None, skin: Stack = SKIN,
        form: SurfaceForm = FORM,
    ) -> SurfaceResponse:  # fmt: skip
        brief = Brief("b", "b", member=member)
        made = surface_translate.surface(brief, Candidate("c", "c", form=form), {})
        made = Surface(made.beam, made.planform, filling, made.reference)  # type: ignore[arg-type]
        walls = {name: whole(skin, member.length) for name in made.beam.shape.walls}
        case = surface_translate.surface_case(LoadCase("l", "l", tuple(loads)), made.planform, made.reference)  # type: ignore[arg-type]
        return SurfaceResponse(made, walls, [case])

    def test_elliptic_lift_turns_about_the_web(self) -> None:
        """Root moment 4/(3π) of lift times half span, root torque lift times the way from quarter chord to web."""
        lift, L = 400.0, self.MEMBER.length
        found = self.respond(LiftLoad(lift, 0.0, L, "elliptic")).results[0].reactions[0]
        self.assertAlmostEqual(abs(found[1]) / (4 / (3 * np.pi) * lift * L), 1.0, delta=1e-6)
        arm = (CUT * 0.35 - 0.25) * 0.3
        # lift in front of the web turns the nose up, the root holds it down
        self.assertAlmostEqual(found[3] / (-lift * arm), 1.0, delta=1e-9)

    def test_turning_of_the_air(self) -> None:
        """c_m q ∫ c² dx of a taper, in twelve straight pieces."""
        member = replace(self.MEMBER, tip=0.15)
        found = self.respond(AirTorque(-0.08, 600.0), member=member).results[0].reactions[0]
        expected = -0.08 * 600.0 * quad(lambda x: (0.3 - 0.15 * x / 1.5) ** 2, 0.0, 1.5)[0]
        self.assertAlmostEqual(found[3] / -expected, 1.0, delta=0.001)

    def test_divergence_of_an_even_wing(self) -> None:
        """q = π² GJ/(4 L² e c a) (Bisplinghoff, Ashley and Halfman 1955)."""
        found = self.respond(LiftLoad(1.0, 0.0, 1.5))
        GJ, e, plan = found.torsion[0], found.behind[0], found.surface.planform
        self.assertGreater(e, 0.0)
        q = np.pi**2 * GJ / (4 * 1.5**2 * e * 0.3 * plan.lift_slope)
        self.assertAlmostEqual(found.divergence / np.sqrt(2 * q / AIR_DENSITY), 1.0, delta=0.001)
        # its shear centre as the section says it, from the web
        y, _ = found.sections.shear_centre
        self.assertAlmostEqual(e / (y[0] + (CUT * 0.35 - 0.25) * 0.3), 1.0, places=6)

    def test_frequency_in_torsion_of_an_even_wing(self) -> None:
        """√(GJ/I_p)/4L of a shaft held at one end (textbook)."""
        found = self.respond(LiftLoad(1.0, 0.0, 1.5))
        f = np.sqrt(found.torsion[0] / found._section_inertia[0, 5]) / (4 * 1.5)
        self.assertAlmostEqual(found.torsion_frequency / f, 1.0, delta=0.001)

    def test_mass_is_skin_and_core(self) -> None:
        foam = filler(60.0, 50e6, 20e6)
        bare, filled = self.respond(LiftLoad(1.0, 0.0, 1.5)), self.respond(LiftLoad(1.0, 0.0, 1.5), filling=foam)
        inside = 60.0 * filled.filled.area[0] * 1.5
        self.assertAlmostEqual((filled.mass - bare.mass) / inside, 1.0, places=6)
        self.assertLess(filled.frequencies[0], bare.frequencies[0])

    def test_a_core_alone_is_a_solid_beam(self) -> None:
        """Skins next to nothing: P L³/3EI + P L/(5/6 G A)."""
        core = filler(150.0, 3e9, 0.2e9)
        soft = Stack((sheet(isotropic(1e4, NU), 1e-5),))
        found = self.respond(filling=core, skin=soft, form=replace(self.FORM, webs=()))
        case = SpanCase("tip", (PointLoad(20.0, 1.5),))
        found = SurfaceResponse(found.surface, {"skin": whole(soft, 1.5)}, [case])
        inside = found.filled
        EI = 3e9 * (inside.zz[0] - inside.z[0] ** 2 / inside.area[0])
        expected = 20.0 * 1.5**3 / (3 * EI) + 20.0 * 1.5 / (5 / 6 * 0.2e9 * inside.area[0])
        w = np.abs(found.results[0].displacements["w"]).max()
        self.assertAlmostEqual(w / expected, 1.0, delta=0.002)

    def test_section_across_a_swept_axis(self) -> None:
        """The chord across the axis is shorter by the cosine, the thickness is the same."""
        swept = self.respond(LiftLoad(1.0, 0.0, 1.5), member=replace(self.MEMBER, sweep=30.0)).member.shape
        plain = self.respond(LiftLoad(1.0, 0.0, 1.5)).member.shape
        at = np.array([0.5])
        self.assertAlmostEqual(swept.sizes(at).width[0] / plain.sizes(at).width[0], np.cos(np.radians(30.0)))
        self.assertAlmostEqual(swept.sizes(at).height[0], plain.sizes(at).height[0])

    def test_six_series_are_refused_with_the_reason(self) -> None:
        for name in ("63-412", "64A010", "65(2)-415", "662215"):
            with self.assertRaisesRegex(MemberError, "no closed equation"):
                surface_translate.walls(replace(self.FORM, profile=name))

    def test_even_load_along_a_cantilever(self) -> None:
        """w L⁴/8EI of its section, with shear."""
        found = self.respond(LiftLoad(1.0, 0.0, 1.5))
        case = SpanCase("even", (LineLoad(100.0, 100.0, 0.0, 1.5),))
        found = SurfaceResponse(found.surface, {n: whole(self.SKIN, 1.5) for n in found.member.shape.walls}, [case])
        EI, GA = found.sections.bending[0, 0, 0], 1.0 / found.sections.compliance[0, 4, 4]
        expected = 100.0 * 1.5**4 / (8 * EI) + 100.0 * 1.5**2 / (2 * GA)
        self.assertAlmostEqual(np.abs(found.results[0].displacements["w"]).max() / expected, 1.0, delta=0.001)
