"""Panels with ribs: against beams of their section, a sine series of plate and beam, and sums by hand."""

from __future__ import annotations

import math
import unittest

import msgspec
import numpy as np

from omakase.core.errors import PanelError
from omakase.core.laminate.stack import Stack
from omakase.core.members.field import WallCase
from omakase.core.members.panel import PanelResponse, respond_zoned
from omakase.core.members.panel_given import LINEAR, Accuracy, Bolt, Held, LoadCase, Panel
from omakase.core.members.panel_patchwork import Box, Lying, patchwork
from omakase.core.members.panel_ribs import Rib, RibBeam, Ribbed, change_along
from omakase.core.plates.grid import Edges
from omakase.core.plates.section import PlateSection
from tests.support import isotropic, orthotropic, sandwich, sheet, soft_core

E = 70e9
ENDS = Edges("simple", "simple", "free", "free")
AIR = LoadCase("air", (1000.0,), (), 0.0, "a")


def metal(thickness: float, poisson: float = 0.0) -> Stack:
    return Stack((sheet(isotropic(E, poisson), thickness),))


def ribbed(
    panel: Panel, stack: Stack, ribs: list[tuple[Rib, Stack]], *cases: LoadCase, accuracy: Accuracy = LINEAR
) -> PanelResponse:
    work = patchwork(stack.layers, [Lying() for _ in stack.layers], panel.length, panel.width)
    return respond_zoned(panel, work, cases, "face_b", accuracy, ultimate=1.5, ribs=[Ribbed(*own) for own in ribs])


def blade(along_x: bool, place: float, reach: float, height: float, on_a: bool = False) -> Rib:
    return Rib(along_x, place, 0.0, reach, "blade", height, foot=0.0, on_a=on_a)


def largest(case: WallCase) -> float:
    """Of the strains at the outside of a wall where strength is judged."""
    strains = case.strains[~case.left_out]
    return float(max(np.abs(strains[:, :3] + z * strains[:, 3:6]).max() for z in (-1.5e-3, 1.5e-3)))


class AsBeams(unittest.TestCase):
    length, width, skin, rib, height = 1.0, 0.08, 2e-3, 3e-3, 0.02

    def bending(self) -> tuple[float, float]:
        """EI of skin and rib about their common neutral axis, and how far that lies above the face of the rib."""
        plate, web = self.width * self.skin, self.rib * self.height
        neutral = (plate * self.skin / 2.0 - web * self.height / 2.0) / (plate + web)
        inertia = plate * self.skin**2 / 12.0 + plate * (self.skin / 2.0 - neutral) ** 2
        inertia += web * self.height**2 / 12.0 + web * (self.height / 2.0 + neutral) ** 2
        return E * inertia, neutral

    def strip(self, on_a: bool, along_x: bool) -> PanelResponse:
        rib = blade(along_x, self.width / 2.0, self.length, self.height, on_a)
        size = (self.length, self.width) if along_x else (self.width, self.length)
        edges = ENDS if along_x else Edges("free", "free", "simple", "simple")
        return ribbed(Panel(*size, edges), metal(self.skin), [(rib, metal(self.rib))], AIR)

    def test_a_sheet_of_beads_side_by_side_is_a_folded_plate(self) -> None:
        """Triangles formed into all of a sheet: n E t s h²/12 of walls s long that rise by h, and nothing is flat."""
        thickness, pitch, rise, count = 5e-4, 0.04, 0.02, 3
        width = count * pitch
        ribs = [Rib(True, (k + 0.5) * pitch, 0.0, self.length, "triangle", rise + thickness, pitch, formed=True)
                for k in range(count)]  # fmt: skip
        sheet_ = metal(thickness)
        strip = ribbed(Panel(self.length, width, ENDS), sheet_, [(rib, sheet_) for rib in ribs], AIR)
        developed = 2.0 * count * math.hypot(pitch / 2.0, rise + thickness / 2.0)
        bending = E * thickness * developed * (rise + thickness / 2.0) ** 2 / 12.0
        sag = 5.0 / 384.0 * 1000.0 * width * self.length**4 / bending
        moved = strip.cases[0].w[:, 0], strip.cases[0].largest_deflection[0]
        self.assertAlmostEqual(moved[1] / sag, 1.0, delta=0.03)
        self.assertAlmostEqual(strip.mass / (2700.0 * thickness * developed * self.length), 1.0, delta=0.02)

    def test_sag_and_frequency_of_a_tee(self) -> None:
        bending, _ = self.bending()
        line = 1000.0 * self.width
        sag = 5.0 / 384.0 * line * self.length**4 / bending
        mass = 2700.0 * (self.width * self.skin + self.rib * self.height)
        first = math.pi / 2.0 * math.sqrt(bending / mass / self.length**4)
        for on_a in (False, True):
            for along_x in (True, False):
                strip = self.strip(on_a, along_x)
                self.assertAlmostEqual(strip.cases[0].largest_deflection[0] / sag, 1.0, delta=0.01)
                self.assertAlmostEqual(strip.frequencies[0] / first, 1.0, delta=0.01)
                self.assertAlmostEqual(strip.mass, mass * self.length, places=9)

    def test_strains_and_shear_flow_of_a_tee(self) -> None:
        bending, neutral = self.bending()
        moment = 1000.0 * self.width * self.length**2 / 8.0
        case = self.strip(False, True).ribs[0].cases[0]
        tip = moment / bending * (self.height + neutral)
        self.assertAlmostEqual(np.abs(case.strains[..., 0]).max() / tip, 1.0, delta=0.01)
        self.assertGreater(case.strains[..., 0].max(), 0.0)  # pulled below a panel that is pressed from above
        # V S/I at the end, S of the rib about the neutral axis
        first = E * self.rib * self.height * (self.height / 2.0 + neutral)
        flow = 1000.0 * self.width * self.length / 2.0 * first / bending
        quarter = int(np.argmin(np.abs(case.x - self.length / 8.0)))
        known = flow * (1.0 - 2.0 * case.x[quarter] / self.length)
        self.assertAlmostEqual(case.flow[quarter] / known, 1.0, delta=0.02)

    def test_feet_pass_their_share_through_the_bond(self) -> None:
        """V S/I at the bond, S of blade and feet about the neutral axis; a twist of the panel alone passes none."""
        foot, plate = 0.01, self.width * self.skin
        feet = 2.0 * foot * self.rib
        rib = Rib(True, self.width / 2.0, 0.0, self.length, "blade", self.height, foot=foot)
        strip = ribbed(Panel(self.length, self.width, ENDS), metal(self.skin), [(rib, metal(self.rib))], AIR)
        beam = strip.ribs[0].beam
        web = self.rib * (self.height - self.rib / 2.0)  # from the middle of the feet, where it begins
        low, high = self.rib / 2.0, (self.height + self.rib / 2.0) / 2.0
        neutral = (plate * self.skin / 2.0 - feet * low - web * high) / (plate + feet + web)
        inertia = plate * self.skin**2 / 12.0 + plate * (self.skin / 2.0 - neutral) ** 2
        inertia += feet * (low + neutral) ** 2
        inertia += web * ((self.height - self.rib / 2.0) ** 2 / 12.0 + (high + neutral) ** 2)
        first = feet * (low + neutral) + web * (high + neutral)
        case = strip.ribs[0].cases[0]
        quarter = int(np.argmin(np.abs(case.x - self.length / 8.0)))
        shear = 1000.0 * self.width * (self.length / 2.0 - case.x[quarter])
        self.assertAlmostEqual(case.flow[quarter] / (shear * first / inertia), 1.0, delta=0.03)
        np.testing.assert_array_equal(beam.force[:, 2], 0.0)

    def test_a_sandwich_with_a_strip_is_one_with_a_thicker_face(self) -> None:
        # the strip under a narrow sandwich as wide as itself
        face, core = isotropic(E, 0.0), soft_core(40e6)
        wide, length = 0.05, 0.8
        strip = Rib(True, wide / 2.0, 0.0, length, "strip", width=wide)
        panel = Panel(length, wide, ENDS)
        glued = ribbed(panel, sandwich(face, 1e-3, core, 15e-3), [(strip, metal(1e-3))], AIR)
        thick = ribbed(panel, sandwich(face, 1e-3, core, 15e-3, 2e-3), [], AIR)
        ratio = glued.cases[0].largest_deflection[0] / thick.cases[0].largest_deflection[0]
        self.assertAlmostEqual(ratio, 1.0, delta=0.01)

    def test_a_short_deep_rib_shears_as_a_beam(self) -> None:
        """5 q l⁴/(384 EI) + q l²/(8 κ G A) of a web that carries all shear; κ = 5/6 of a flow that falls to nothing at
        its free edge, as the neutral axis lies near the skin (Timoshenko)."""
        length, width, skin, web, height = 0.24, 0.04, 4e-3, 3e-3, 0.04
        plate, upright = width * skin, web * height
        neutral = (plate * skin / 2.0 - upright * height / 2.0) / (plate + upright)
        inertia = plate * skin**2 / 12.0 + plate * (skin / 2.0 - neutral) ** 2
        inertia += web * height**3 / 12.0 + upright * (height / 2.0 + neutral) ** 2
        bent, sheared = 5.0 * length**4 / (384.0 * E * inertia), length**2 / (8.0 * 5.0 / 6.0 * E / 2.0 * upright)
        rib = blade(True, width / 2.0, length, height)
        strip = ribbed(Panel(length, width, ENDS), metal(skin), [(rib, metal(web))], AIR)
        sag, case = 1000.0 * width * (bent + sheared), strip.cases[0]
        i, j = (int(np.argmin(np.abs(places - places[-1] / 2.0))) for places in (case.w_x, case.w_y))
        self.assertGreater(sheared / bent, 0.1)
        self.assertAlmostEqual(-float(case.w[i, j]) / sag, 1.0, delta=0.03)  # beside the rib the skin sags by itself


class WithThePlate(unittest.TestCase):
    a, b, skin, rib, height = 0.6, 0.4, 3e-3, 2e-3, 0.012

    def series(self) -> float:
        """Sag at the middle of a simply supported plate over a beam along its middle line, both about one axis, by
        Ritz with sines: for each half wave along, the plate's energy and the beam's couple the waves across."""
        D = E * self.skin**3 / 12.0 / (1.0 - 0.3**2)
        inertia = 2.0 * self.rib * (self.height**3 / 12.0 + self.height * (self.height / 2.0 + self.skin / 2.0) ** 2)
        J = 2.0 * self.height * self.rib**3 / 3.0
        waves = np.arange(1, 80)
        total = 0.0
        for m in range(1, 40, 2):
            k = m * math.pi / self.a
            plate = D * (k**2 + (waves * math.pi / self.b) ** 2) ** 2 * self.a * self.b / 4.0
            value, slope = np.sin(waves * math.pi / 2.0), waves * math.pi / self.b * np.cos(waves * math.pi / 2.0)
            twisted = E / 2.6 * J * k**2 * np.outer(slope, slope)
            matrix = np.diag(plate) + self.a / 2.0 * (E * inertia * k**4 * np.outer(value, value) + twisted)
            load = 1000.0 * 2.0 * self.a / (m * math.pi) * self.b * (1.0 - np.cos(waves * math.pi)) / (waves * math.pi)
            total += float(np.linalg.solve(matrix, load) @ value) * math.sin(m * math.pi / 2.0)
        return total

    def test_a_rib_on_both_faces_against_a_sine_series(self) -> None:
        ribs = [(blade(True, self.b / 2.0, self.a, self.height, on_a), metal(self.rib, 0.3)) for on_a in (False, True)]
        plate = ribbed(Panel(self.a, self.b), metal(self.skin, 0.3), ribs, AIR)
        case = plate.cases[0]
        i, j = (int(np.argmin(np.abs(places - places[-1] / 2.0))) for places in (case.w_x, case.w_y))
        self.assertAlmostEqual(-float(case.w[i, j]) / self.series(), 1.0, delta=0.01)

    def test_a_strip_as_wide_as_the_panel_makes_it_thicker(self) -> None:
        """A foot follows its face across, too: a sheet of 2 mm with 1 mm bonded all over it is one of 3 mm (Navier)."""
        rigidity = E * 3e-3**3 / 12.0 / (1.0 - 0.3**2)
        waves = np.arange(1, 40, 2)
        m, n = np.meshgrid(waves, waves, indexing="ij")
        series = np.sin(m * math.pi / 2.0) * np.sin(n * math.pi / 2.0) / (m * n)
        series = series / ((m / self.a) ** 2 + (n / self.b) ** 2) ** 2
        sag = 16.0 * 1000.0 / math.pi**6 / rigidity * float(series.sum())
        for along_x, on_a in ((True, False), (False, True)):
            place, reach, wide = (self.b / 2.0, self.a, self.b) if along_x else (self.a / 2.0, self.b, self.a)
            strip = Rib(along_x, place, 0.0, reach, "strip", width=wide, on_a=on_a)
            panel = Panel(self.a, self.b)
            thick = ribbed(panel, metal(2e-3, 0.3), [(strip, metal(1e-3, 0.3))], AIR)
            self.assertAlmostEqual(thick.cases[0].largest_deflection[0] / sag, 1.0, delta=0.01)

    def test_ribs_of_nothing_change_nothing(self) -> None:
        soft = Stack((sheet(isotropic(1e6, 0.3, 100.0), 1e-3),))
        panel, stack = Panel(self.a, self.b), metal(self.skin, 0.3)
        with_it = ribbed(panel, stack, [(blade(True, 0.13, self.a, 0.005), soft)], AIR)
        without = ribbed(panel, stack, [], AIR)
        ratio = with_it.cases[0].largest_deflection[0] / without.cases[0].largest_deflection[0]
        self.assertAlmostEqual(ratio, 1.0, delta=5e-4)
        np.testing.assert_allclose(with_it.frequencies, without.frequencies, rtol=1e-3)

    def test_the_grid_is_fine_enough(self) -> None:
        hat = Rib(False, 0.25, 0.03, 0.37, "hat", 0.018, 0.025, 0.015, 0.015)
        tee = Rib(True, 0.2, 0.0, 0.6, "tee", 0.02, 0.02, foot=0.012, on_a=True)
        face = orthotropic(60e9, 60e9, 4e9, 0.05)
        laminate = Stack((sheet(face, 0.3e-3), sheet(face, 0.3e-3, 45.0), sheet(face, 0.3e-3)))
        stack = sandwich(face, 0.4e-3, soft_core(20e6), 6e-3)
        ribs = [(hat, laminate), (tee, laminate)]
        rough = ribbed(Panel(self.a, self.b), stack, ribs, AIR)
        fine = ribbed(Panel(self.a, self.b), stack, ribs, AIR, accuracy=Accuracy(12, 10, 8))
        # ribs that end inside the panel hold it in a corner that every refinement softens a little
        self.assertAlmostEqual(
            rough.cases[0].largest_deflection[0] / fine.cases[0].largest_deflection[0], 1.0, delta=0.01
        )
        np.testing.assert_allclose(rough.frequencies, fine.frequencies, rtol=0.01)
        for one, other in zip(rough.ribs, fine.ribs, strict=True):
            strains = [np.abs(own.cases[0].strains[..., 0]).max() for own in (one, other)]
            self.assertAlmostEqual(strains[0] / strains[1], 1.0, delta=0.02)

    def test_what_strength_is_judged_by_is_read_from_the_grid(self) -> None:
        """Strains of skins, walls and feet and the shear of bonds, with more functions and with more cells.

        Ribs with feet and without, from edge to edge and with ends inside, on bolts and on edges.
        """
        face = orthotropic(60e9, 60e9, 4e9, 0.05)
        laminate = Stack((sheet(face, 0.3e-3), sheet(face, 0.3e-3, 45.0), sheet(face, 0.3e-3)))
        thin = sandwich(face, 0.4e-3, soft_core(20e6), 3e-3)
        bolts = tuple(Bolt(x, y, 0.018) for x in (0.015, 0.2, 0.4, 0.585) for y in (0.015, 0.385))
        free = Edges("free", "free", "free", "free")
        hat = Rib(False, 0.3, 0.0, self.b, "hat", 0.02, 0.026, 0.018, 0.014)
        short = msgspec.structs.replace(hat, low=0.05, high=0.35)
        feet = Rib(False, 0.12, 0.0, self.b, "blade", 0.016, foot=0.012)
        bare = Rib(True, 0.2, 0.0, self.a, "tee", 0.02, 0.02, foot=0.0)
        for name, panel, rib in (
            ("a hat over the edges", Panel(self.a, self.b, free, held=Held(bolts)), hat),
            ("a hat that ends inside", Panel(self.a, self.b, free, held=Held(bolts)), short),
            ("a blade with feet", Panel(self.a, self.b), feet),
            ("a tee without feet", Panel(self.a, self.b), bare),
        ):
            own, more, cut = (
                ribbed(panel, thin, [(rib, laminate)], AIR, accuracy=how)
                for how in (LINEAR, Accuracy(12, 10, 8), Accuracy(10, 8, 6, cells=2))
            )
            for kind, fine in (("functions", more), ("cells", cut)):
                with self.subTest(name, more=kind):
                    for k in (0, 1):  # of the rib, of the skin
                        found = [largest(response.fields[-1 - k].cases[0]) for response in (own, fine)]
                        # beside an end inside the panel strains grow without bound
                        self.assertAlmostEqual(found[0] / found[1], 1.0, delta=0.16 if rib is short else 0.06)
                    flows = [response.ribs[0].cases[0].flow.max() for response in (own, fine)]
                    self.assertAlmostEqual(flows[0] / flows[1], 1.0, delta=0.1)

    def test_a_rib_over_a_bolt_is_told(self) -> None:
        bolts = tuple(Bolt(x, y, 0.018) for x in (0.1, 0.5) for y in (0.02, 0.38))
        panel = Panel(self.a, self.b, Edges("free", "free", "free", "free"), held=Held(bolts))
        for place, low, told in ((0.11, 0.0, True), (0.11, 0.05, False), (0.14, 0.0, False)):
            rib = Rib(False, place, low, 0.35, "blade", 0.016, foot=0.012)
            response = ribbed(
                panel, sandwich(isotropic(E, 0.3), 0.5e-3, soft_core(20e6), 6e-3), [(rib, metal(1e-3))], AIR
            )
            remarks = response.measures["deflection"][0].remarks
            self.assertEqual(any("washer of bolt 1" in remark for remark in remarks), told, (place, low))

    def test_a_rib_over_a_zone_follows_its_surface(self) -> None:
        # a doubler below a rib lifts it: the same as a panel that is thick all over, where the doubler is all over
        stuff = sheet(isotropic(E, 0.3), 1e-3)
        panel = Panel(self.a, self.b)
        lying = [Lying(), Lying((Box(0.0, self.a, 0.0, self.b),))]
        rib = blade(True, 0.2, self.a, 0.015)
        work = patchwork([stuff, stuff], lying, panel.length, panel.width)
        zoned = respond_zoned(panel, work, (AIR,), "face_b", LINEAR, ribs=[Ribbed(rib, metal(2e-3))])
        whole = ribbed(panel, Stack((stuff, stuff)), [(rib, metal(2e-3))], AIR)
        self.assertAlmostEqual(
            zoned.cases[0].largest_deflection[0] / whole.cases[0].largest_deflection[0], 1.0, delta=1e-6
        )


class SkinsThatBuckle(unittest.TestCase):
    pitch, height = 0.16, 0.03

    def bent(self, pressure: float) -> PanelResponse:
        """A skin of 1 mm on three blades that sag together; positive pressure presses the skin."""
        panel = Panel(0.6, 3.0 * self.pitch, ENDS)
        ribs = [(blade(True, (k + 0.5) * self.pitch, 0.6, self.height), metal(4e-3)) for k in range(3)]
        return ribbed(panel, metal(1e-3), ribs, LoadCase("air", (pressure,), (), 0.0, "a"))

    def test_between_ribs_as_a_long_plate(self) -> None:
        """k between 4, hinged on the ribs, and 6.97, clamped there (Timoshenko and Gere 1961, article 9.4), of what
        presses it at mid-span; pulled as much it does not buckle."""
        response = self.bent(10.0)
        case = response.cases[0]
        i, j = np.abs(case.x - 0.3).argmin(), np.abs(case.y - self.pitch).argmin()
        pressed = -case.strains[i, j, 0] * E * 1e-3
        self.assertGreater(pressed, 0.0)
        beyond = case.beyond
        assert beyond is not None
        assert beyond.buckling is not None
        k = beyond.buckling * pressed * self.pitch**2 / (math.pi**2 * E * 1e-9 / 12.0)
        self.assertTrue(4.0 < k < 6.97, k)
        told = response.measures["buckling"][0]
        self.assertAlmostEqual(told.value, beyond.buckling)
        self.assertTrue(any("ribs" in remark for remark in told.remarks))
        pulled = self.bent(-10.0).cases[0].beyond
        assert pulled is not None
        self.assertTrue(pulled.buckling is None or pulled.buckling > 5.0 * beyond.buckling)


class OfTheSection(unittest.TestCase):
    def test_a_bond_evens_out_what_is_shorter_than_the_rib_is_high(self) -> None:
        """A force that grows evenly, one that is there at once, and one that an edge takes."""
        x = np.linspace(0.005, 0.995, 100)
        growing, sudden = 500.0 * np.minimum(x, 1.0 - x), np.full(100, 80.0)
        even, at_once = change_along(x, np.array([growing, sudden]), (0.0, 1.0), (False, False), 0.04)
        np.testing.assert_allclose(even[:47], 500.0)
        np.testing.assert_allclose(even[-47:], -500.0)
        np.testing.assert_allclose(at_once[[0, 1, 50, -1]], [2000.0, 2000.0, 0.0, -2000.0], atol=1e-9)
        taken = change_along(x, sudden[None, :], (0.0, 1.0), (True, False), 0.04)[0]
        np.testing.assert_allclose(taken[[0, -1]], [0.0, -2000.0], atol=1e-9)
        backward = change_along(x[::-1], growing[None, ::-1], (0.0, 1.0), (False, False), 0.04)[0]
        np.testing.assert_allclose(backward, even[::-1])

    def test_sizes_of_a_hat(self) -> None:
        thickness = 1e-3
        hat = Rib(True, 0.1, 0.0, 0.5, "hat", 0.02, 0.03, 0.02, 0.012, filling=60.0)
        beam = RibBeam(hat, PlateSection(metal(thickness)), 26e6)
        side = math.hypot(0.005, 0.02 - thickness)
        developed = 2.0 * 0.012 + 2.0 * side + 0.02
        self.assertAlmostEqual(beam.stiffness[0, 0], E * thickness * developed, delta=1.0)
        enclosed = 0.025 * (0.02 - thickness / 2.0)
        self.assertAlmostEqual(beam.mass, 2700.0 * thickness * developed + 60.0 * enclosed, places=9)
        # Bredt: 4 A² / Σ (s/Gt), most of the torsional stiffness
        G = E / 2.0
        closed = 4.0 * enclosed**2 / ((2.0 * side + 0.02) / (G * thickness) + 0.03 / 26e6)
        self.assertAlmostEqual(beam.stiffness[2, 2] / closed, 1.0, delta=0.01)
        # first and second moment about the face
        flat, middle = thickness / 2.0, (thickness / 2.0 + 0.02 - thickness / 2.0) / 2.0
        first = 0.024 * flat + 2.0 * side * middle + 0.02 * (0.02 - flat)
        self.assertAlmostEqual(beam.stiffness[0, 1] / (E * thickness * first), 1.0, delta=1e-6)

    def test_sizes_of_an_arc(self) -> None:
        """A half circle of mid-line radius r: EA = E t π r, moments 2 E t r² and E t π r³/2 about its base, area
        π r²/2, and in torsion the whole ring of two halves by Bredt where the sheet below closes it."""
        thickness, r = 2e-4, 0.02
        arc = Rib(True, 0.1, 0.0, 0.5, "half_round", r + thickness, 2.0 * r, foot=0.0)
        beam = RibBeam(arc, PlateSection(metal(thickness)), E / 2.0 * thickness)
        stretch = E * thickness
        for found, exact in (
            (beam.stiffness[0, 0], stretch * math.pi * r), (beam.stiffness[0, 1], 2.0 * stretch * r**2),
            (beam.stiffness[1, 1], stretch * math.pi * r**3 / 2.0), (beam.enclosed, math.pi * r**2 / 2.0),
            (beam.stiffness[2, 2],
             4.0 * (math.pi * r**2 / 2.0) ** 2 / ((math.pi * r + 2.0 * r) / (stretch / 2.0))),
        ):  # fmt: skip
            self.assertAlmostEqual(found / exact, 1.0, delta=0.025)

    def test_an_arc_buckles_as_a_cylinder(self) -> None:
        """σ = 0.605 E t/r of a long cylinder (Timoshenko), times the knock-down 1 − 0.901 (1 − e^(−√(r/t)/16))."""
        thickness, r = 5e-4, 0.03
        arc = Rib(True, 0.1, 0.0, 0.5, "half_round", r, 2.0 * r, foot=0.0)
        beam = RibBeam(arc, PlateSection(metal(thickness, 0.3)), 1e9)
        down = 1.0 - 0.901 * (1.0 - math.exp(-math.sqrt(r / thickness) / 16.0))
        self.assertAlmostEqual(beam.buckling_strains[0] / (0.605 * thickness / r * down), 1.0, delta=0.05)

    def test_blades_buckle_as_plates_with_a_free_edge(self) -> None:
        # 12 D66/b² + 7 √(D11 D22)… without a spring: N = 12 D66/b², G t³/b² of an isotropic blade
        tall, thickness = 0.04, 1e-3
        beam = RibBeam(blade(True, 0.1, 0.5, tall), PlateSection(metal(thickness)), 1e9)
        strain = (E / 2.0) * thickness**3 / tall**2 / (E * thickness)
        self.assertAlmostEqual(beam.buckling_strains[0] / strain, 1.0, delta=0.01)

    def test_what_is_refused(self) -> None:
        panel, stack = Panel(0.6, 0.4), metal(2e-3)
        for rib, words in (
            (blade(True, 0.5, 0.6, 0.02), "off the panel"),
            (Rib(True, 0.2, 0.3, 0.3), "further on"),
            (Rib(False, 0.2, 0.0, 0.5), "further on"),
            (blade(True, 0.2, 0.6, 0.0), "height"),
            (Rib(True, 0.2, 0.0, 0.6, "hat", 0.02, 0.03, 0.0), "crown"),
            (blade(True, 0.2, 0.6, 0.001), "no room"),
            (Rib(True, 0.2, 0.0, 0.6, "half_round", 0.03, 0.04), "half its width"),
        ):
            with self.assertRaisesRegex(PanelError, words):
                ribbed(panel, stack, [(rib, metal(2e-3))], AIR)


if __name__ == "__main__":
    unittest.main()
