"""Panels held by bolts, lines of support, elastic edges and a bed: against published plates, beams and the edges."""

from __future__ import annotations

import math
import unittest
from unittest import mock

import numpy as np

from omakase.core.errors import PanelError
from omakase.core.laminate.stack import Stack
from omakase.core.members.panel import PanelResponse, respond, respond_zoned
from omakase.core.members.panel_beyond import CaseSolver
from omakase.core.members.panel_case import CaseResponse
from omakase.core.members.panel_given import FULL, LINEAR, QUICK, REFINED, Accuracy, Bolt, Held, LoadCase, Panel
from omakase.core.members.panel_patchwork import Lying, patchwork
from omakase.core.members.panel_ribs import Rib, Ribbed
from omakase.core.plates.grid import Edges
from omakase.core.plates.loads import EdgeLoad, PatchLoad
from tests.support import isotropic, orthotropic, sandwich, sheet, soft_core

FREE = Edges("free", "free", "free", "free")
ENDS = Edges("simple", "simple", "free", "free")
RESTING = Edges("resting", "resting", "resting", "resting")
CLAMPED = Edges("clamped", "clamped", "clamped", "clamped")
AIR = LoadCase("air", (1000.0,), (), 0.0, "a")
FACE = orthotropic(60e9, 60e9, 4e9, 0.05)
SANDWICH = sandwich(FACE, 0.6e-3, soft_core(20e6, density=75.0), 12e-3)


def even(panel: Panel, stack: Stack, *cases: LoadCase, accuracy: Accuracy = LINEAR) -> PanelResponse:
    """A panel without zones, on the grid of what holds it."""
    work = patchwork(stack.layers, [Lying() for _ in stack.layers], panel.length, panel.width)
    return respond_zoned(panel, work, cases, "face_b", accuracy, ultimate=1.5)


def metal(thickness: float, poisson: float = 0.3) -> Stack:
    return Stack((sheet(isotropic(70e9, poisson), thickness),))


def rigidity(thickness: float, poisson: float = 0.3) -> float:
    return 70e9 * thickness**3 / 12.0 / (1.0 - poisson**2)


def middle(response: PanelResponse) -> float:
    case = response.cases[0]
    i, j = (int(np.argmin(np.abs(places - places[-1] / 2.0))) for places in (case.w_x, case.w_y))
    return -float(case.w[i, j])


def around(length: float, width: float, inset: float, count: tuple[int, int], washer: float) -> tuple[Bolt, ...]:
    xs, ys = (np.linspace(inset, size - inset, n) for size, n in zip((length, width), count, strict=True))
    sides = [(x, y) for x in xs for y in (ys[0], ys[-1])] + [(x, y) for x in (xs[0], xs[-1]) for y in ys[1:-1]]
    return tuple(Bolt(float(x), float(y), washer) for x, y in sides)


def outer_strain(case: CaseResponse) -> float:
    """Largest strain at the outer side of a face of ``SANDWICH`` where strength is judged."""
    strain = 6.3e-3 * case.strains[..., 3:6] + 0.3e-3 * case.strains[..., 6:9]
    return float(np.abs(strain[~case.left_out]).max())


class OnPoints(unittest.TestCase):
    """Washers a five-hundredth of the side across stand in for points."""

    def test_a_square_plate_on_its_four_corners(self) -> None:
        # w = 0.0255 q a⁴/D at the middle for ν 0.3 and ω a² √(ρh/D) = 7.11 and 15.77 (Leissa, NASA SP-160, table 4.73
        # from memory; 0.0249 of Timoshenko & Woinowsky-Krieger, art. 48, is an older series)
        side, thickness = 0.5, 1e-3
        bolts = tuple(Bolt(x, y, side / 500.0) for x in (0.0, side) for y in (0.0, side))
        plate = even(Panel(side, side, FREE, held=Held(bolts)), metal(thickness), LoadCase("q", (1.0,)))
        self.assertAlmostEqual(middle(plate) * rigidity(thickness) / side**4, 0.0255, delta=0.0255 * 0.01)
        scale = 2.0 * math.pi * side**2 * math.sqrt(2700.0 * thickness / rigidity(thickness))
        for found, known in zip(plate.frequencies, (7.11, 15.77, 15.77), strict=False):
            self.assertAlmostEqual(found * scale, known, delta=0.01 * known)

    def test_bolts_take_what_presses(self) -> None:
        foot = LoadCase("foot", (), (PatchLoad(300.0, 0.2, 0.13, 0.06, 0.04),), 0.0, "f")
        panel = Panel(0.6, 0.4, FREE, held=Held(around(0.6, 0.4, 0.015, (4, 3), 0.02)))
        for case, total in zip(even(panel, SANDWICH, AIR, foot).cases, (240.0, 300.0), strict=True):
            self.assertAlmostEqual(sum(own.force for own in case.reactions), total, delta=1e-6 * total)
            for axis, at in (("x", 0.3 if total == 240.0 else 0.2), ("y", 0.2 if total == 240.0 else 0.13)):
                turned = sum(own.force * getattr(own, axis) for own in case.reactions)
                self.assertAlmostEqual(turned, total * at, delta=1e-3 * total * 0.6)

    def test_bolts_close_together_are_a_resting_edge(self) -> None:
        # the limit: the closer the bolts, the nearer to the panel whose edges rest on a line
        rested = respond(Panel(0.5, 0.4, Edges("free", "free", "resting", "resting")), metal(4e-3), (AIR,))
        wide = rested.cases[0].largest_deflection[0]
        off = []
        for count in (6, 11):
            xs = np.linspace(0.0, 0.5, count)
            bolts = tuple(Bolt(float(x), y, 1e-4) for x in xs for y in (0.0, 0.4))
            bolted = even(Panel(0.5, 0.4, FREE, held=Held(bolts)), metal(4e-3), AIR)
            off.append(abs(bolted.cases[0].largest_deflection[0] / wide - 1.0))
        self.assertLess(off[0], 2e-3)
        self.assertLess(off[1], 3e-4)

    def test_the_grid_is_fine_enough(self) -> None:
        # strength is judged beside the washers: half the cells and two more orders move what is reported by little
        panel = Panel(0.6, 0.4, FREE, held=Held(around(0.6, 0.4, 0.02, (4, 3), 0.024)))
        foot = LoadCase("foot", (), (PatchLoad(300.0, 0.2, 0.13, 0.06, 0.04),), 0.0, "f")
        rough = even(panel, SANDWICH, AIR, foot)
        fine = even(panel, SANDWICH, AIR, foot, accuracy=Accuracy(12, 10, 8))
        for one, other in zip(rough.cases, fine.cases, strict=True):
            self.assertAlmostEqual(one.largest_deflection[0] / other.largest_deflection[0], 1.0, delta=0.005)
            for own, exact in zip(one.reactions, other.reactions, strict=True):
                self.assertAlmostEqual(own.force, exact.force, delta=0.01 * max(own.force for own in one.reactions))
            # they rise toward a washer, up to the places left out
            seen = [outer_strain(case) for case in (one, other)]
            self.assertAlmostEqual(seen[0] / seen[1], 1.0, delta=0.09)
        np.testing.assert_allclose(rough.frequencies, fine.frequencies, rtol=0.005)

    def test_bolts_that_hold_the_plane_stiffen_a_sheet_that_stretches(self) -> None:
        bolts = around(0.4, 0.3, 0.01, (5, 4), 0.015)
        loose, tight = (
            even(Panel(0.4, 0.3, FREE, held=Held(held)), metal(0.8e-3), AIR, accuracy=FULL)
            for held in (bolts, tuple(Bolt(bolt.x, bolt.y, bolt.washer, True) for bolt in bolts))
        )
        self.assertLess(middle(tight), 0.8 * middle(loose))
        shears = [own.shear for own in tight.cases[0].reactions]
        self.assertGreater(min(shears), 1.0)
        self.assertEqual(max(own.shear for own in loose.cases[0].reactions), 0.0)


class OnLines(unittest.TestCase):
    def test_a_strip_over_three_supports(self) -> None:
        # a beam over two equal spans: 3/8, 10/8 and 3/8 q l on the supports, w = q l⁴/185 EI (Timoshenko, Strength of
        # Materials); ν = 0 makes a plate of free sides a beam
        length, width, thickness = 1.0, 0.2, 4e-3
        stack = metal(thickness, 0.0)
        strip = even(Panel(length, width, ENDS, held=Held(across=(length / 2.0,))), stack, AIR)
        forces = {own.name: own.force for own in strip.cases[0].reactions}
        load = 1000.0 * width * length / 2.0
        self.assertAlmostEqual(forces["line across 1"] / load, 1.25, delta=0.002)
        self.assertAlmostEqual(forces["left end"] / load, 0.375, delta=0.002)
        self.assertAlmostEqual(sum(forces.values()), 2.0 * load, delta=1e-6 * load)
        sag = 1000.0 * (length / 2.0) ** 4 / 185.0 / (70e9 * thickness**3 / 12.0)
        self.assertAlmostEqual(strip.cases[0].largest_deflection[0] / sag, 1.0, delta=0.005)

    def test_a_strip_on_springs(self) -> None:
        # rigid sinking of the supports q l/2k adds to the beam's own sag
        length, width, thickness, spring = 0.6, 0.1, 5e-3, 2e5
        panel = Panel(length, width, FREE, held=Held(springs=(spring, spring, 0.0, 0.0)))
        beam = 5.0 / 384.0 * 1000.0 * length**4 / (70e9 * thickness**3 / 12.0)
        found = even(panel, metal(thickness, 0.0), AIR).cases[0]
        self.assertAlmostEqual(found.largest_deflection[0], beam + 1000.0 * length / 2.0 / spring, delta=0.005 * beam)
        self.assertEqual([own.name for own in found.reactions], ["left end", "right end"])
        self.assertAlmostEqual(found.reactions[0].force, 1000.0 * length * width / 2.0, places=4)

    def test_stiff_springs_are_resting_edges(self) -> None:
        panel = Panel(0.5, 0.4, FREE, held=Held(springs=(1e11, 1e11, 1e11, 1e11)))
        rested = respond(Panel(0.5, 0.4, RESTING), SANDWICH, (AIR,))
        sprung = even(panel, SANDWICH, AIR)
        self.assertAlmostEqual(middle(sprung) / middle(rested), 1.0, delta=4e-4)
        np.testing.assert_allclose(sprung.frequencies[:3], rested.frequencies[:3], rtol=1e-3)


class OnABed(unittest.TestCase):
    def test_a_simply_supported_plate_by_navier(self) -> None:
        # w = Σ 16 q/(π⁶ m n) sin sin / (D (m²/a² + n²/b²)² + k/π⁴): Timoshenko & Woinowsky-Krieger, art. 57
        a, b, thickness, bed = 0.6, 0.4, 3e-3, 2e6
        plate = even(Panel(a, b, held=Held(bed=bed)), metal(thickness), AIR)
        total = 0.0
        for m in range(1, 60, 2):
            for n in range(1, 60, 2):
                resists = rigidity(thickness) * (m**2 / a**2 + n**2 / b**2) ** 2 + bed / math.pi**4
                total += 16.0 * 1000.0 / math.pi**6 / (m * n) * (-1) ** ((m + n) // 2 - 1) / resists
        self.assertAlmostEqual(middle(plate) / total, 1.0, delta=0.002)

    def test_a_free_plate_floats(self) -> None:
        # even pressure sinks it evenly, and it bobs at √(k/m)
        floating = even(Panel(0.4, 0.3, FREE, held=Held(bed=1e6)), SANDWICH, AIR)
        self.assertAlmostEqual(middle(floating), 1e-3, delta=1e-8)
        bob = math.sqrt(1e6 / floating.areal_mass) / 2.0 / math.pi
        self.assertLess(min(abs(mode / bob - 1.0) for mode in floating.frequencies[:3]), 1e-6)

    def test_a_long_strip_on_a_bed_under_a_line(self) -> None:
        # Hetényi, Beams on Elastic Foundation (1946): w = P λ/2k under the load, λ⁴ = k/4EI
        width, thickness, bed = 0.1, 4e-3, 4e7
        rigid = 70e9 * thickness**3 / 12.0
        wave = (bed / 4.0 / rigid) ** 0.25
        press = LoadCase("line", (), (PatchLoad(100.0, 0.5, 0.05, 2e-3, 0.1),))
        strip = even(Panel(1.0, width, FREE, held=Held(bed=bed)), metal(thickness, 0.0), press)
        sag = 100.0 / width * wave / 2.0 / bed
        self.assertAlmostEqual(strip.cases[0].largest_deflection[0] / sag, 1.0, delta=0.01)


class WhatEdgesTake(unittest.TestCase):
    def test_published_forces_along_simply_supported_edges(self) -> None:
        # Timoshenko & Woinowsky-Krieger, table 8: shear force at the middle of the sides of a square 0.338 q a;
        # 0.424 and 0.363 q b for 1.5 times as long as wide, on the long and the short sides
        for length, known in ((0.5, (0.338, 0.338)), (0.75, (0.363, 0.424))):
            taken = respond(Panel(length, 0.5), metal(2e-3), (AIR,)).cases[0].reactions
            per_length = [own.most / 1000.0 / 0.5 for own in (taken[0], taken[2]) if own.most is not None]
            np.testing.assert_allclose(per_length, known, rtol=0.01)

    def test_they_balance_the_loads(self) -> None:
        both = LoadCase(
            "both", (500.0,), (PatchLoad(80.0, 0.2, 0.1, 0.05, 0.05), PatchLoad(-20.0, 0.4, 0.3, 0.05, 0.1))
        )
        for edges in (CLAMPED, RESTING, Edges("clamped", "simple", "free", "resting")):
            for stack in (metal(5e-3), SANDWICH):
                taken = respond(Panel(0.6, 0.4, edges), stack, (both,)).cases[0].reactions
                self.assertAlmostEqual(sum(own.force for own in taken), 500.0 * 0.24 + 60.0, delta=1e-5)

    def test_a_cantilever_takes_all_at_its_root(self) -> None:
        taken = respond(Panel(0.4, 0.2, Edges("clamped", "free", "free", "free")), SANDWICH, (AIR,)).cases[0].reactions
        self.assertEqual([own.name for own in taken], ["left end"])
        self.assertAlmostEqual(taken[0].force, 80.0, delta=1e-4)


class Refused(unittest.TestCase):
    def test_what_cannot_hold(self) -> None:
        for held, words in (
            (Held((Bolt(0.1, 0.1), Bolt(0.3, 0.3))), "from swinging"),
            (Held((Bolt(0.1, 0.1), Bolt(0.2, 0.2), Bolt(0.3, 0.3))), "from swinging"),
            (Held(across=(0.2,)), "from swinging"),
            (Held((Bolt(0.9, 0.1),)), "off the panel"),
            (Held((Bolt(0.1, 0.1, 0.3),)), "washer"),
            (Held(along=(0.5,)), "not inside"),
            (Held(bed=-1.0), "more than zero"),
        ):
            with self.assertRaisesRegex(PanelError, words):
                Panel(0.6, 0.4, FREE, held=held)

    def test_a_panel_pressed_between_bolts_buckles(self) -> None:
        # a line of support across the middle of a plate pressed along it: two half waves anyway, k = 4 of the square
        thickness = 2e-3
        squeeze = LoadCase("push", (), (), 0.0, "p", EdgeLoad((-1000.0, -1000.0)))
        plate = even(Panel(0.6, 0.3, held=Held(across=(0.3,))), metal(thickness), squeeze)
        beyond = plate.cases[0].beyond
        assert beyond is not None
        assert beyond.buckling is not None
        known = 4.0 * math.pi**2 * rigidity(thickness) / 0.3**2 / 1000.0
        self.assertAlmostEqual(beyond.buckling / known, 1.0, delta=0.005)


class AlongEdges(unittest.TestCase):
    """Forces along the edges of a flat panel, whose plane and bending are solved apart."""

    SIMPLE = Edges("simple", "simple", "simple", "simple")

    def test_a_pressed_plate_sags_more(self) -> None:
        """Navier's series with the work of N_x taken off each wave (Timoshenko and Woinowsky-Krieger 1959, section 92,
        number from memory)."""
        a, b, t, q, N = 0.6, 0.4, 3e-3, 200.0, -12e3
        pushed = LoadCase("push", (q,), (), 0.0, "p", EdgeLoad((N, N)))
        found = respond(Panel(a, b, self.SIMPLE), metal(t), (pushed,), LINEAR)
        D, waves = rigidity(t), np.arange(1, 60, 2)
        m, n = waves[:, None] * math.pi / a, waves[None] * math.pi / b
        stiff = D * (m**2 + n**2) ** 2
        signs = np.sin(waves[:, None] * math.pi / 2.0) * np.sin(waves[None] * math.pi / 2.0)
        sags = [float((16.0 * q / (m * n * a * b) / (stiff - less * m**2) * signs).sum()) for less in (0.0, -N)]
        self.assertGreater(sags[1], 1.2 * sags[0])
        self.assertAlmostEqual(found.cases[0].largest_deflection[0] / sags[1], 1.0, delta=0.003)
        beyond = found.cases[0].beyond
        assert beyond is not None
        assert beyond.buckling is not None
        halves = np.arange(1, 6) * math.pi / a  # along; one half wave across
        known = float((D * (halves**2 + (math.pi / b) ** 2) ** 2 / halves**2).min()) / -N
        self.assertAlmostEqual(beyond.buckling / known, 1.0, delta=0.003)

    def test_apart_is_together(self) -> None:
        """Of a sandwich with a foot, pressed and sheared: the same as with all fields in one system."""
        foot = PatchLoad(400.0, 0.2, 0.15, 0.06, 0.06)
        case = LoadCase("all", (300.0,), (foot,), 0.0, "a", EdgeLoad((-8e3, -4e3), (2e3, 2e3), 3e3))
        for accuracy in (LINEAR, QUICK):
            apart = respond(Panel(0.6, 0.4, self.SIMPLE), SANDWICH, (case,), accuracy)
            with mock.patch.object(CaseSolver, "_apart", return_value=False):
                whole = respond(Panel(0.6, 0.4, self.SIMPLE), SANDWICH, (case,), accuracy)
            np.testing.assert_allclose(apart.cases[0].strains, whole.cases[0].strains, rtol=1e-6, atol=1e-12)
            factors = [own.cases[0].beyond.buckling for own in (apart, whole)]
            self.assertAlmostEqual(factors[0] / factors[1], 1.0, places=6)
            self.assertAlmostEqual(apart.cases[0].largest_deflection[0] / whole.cases[0].largest_deflection[0], 1.0)


class LongPanels(unittest.TestCase):
    """Five and ten times as long as wide: cells cut in two each way change sag and frequencies by less than 1 %."""

    def compare(self, panel: Panel, stack: Stack, patch: PatchLoad, ribs: list[Ribbed]) -> None:
        work = patchwork(stack.layers, [Lying() for _ in stack.layers], panel.length, panel.width)
        case = LoadCase("foot", (500.0,), (patch,), 0.0, "f")
        coarse, fine = (
            respond_zoned(panel, work, (case,), "face_b", how, ultimate=1.5, ribs=ribs) for how in (LINEAR, REFINED)
        )
        self.assertGreater(fine.unknowns, 3 * coarse.unknowns)
        sags = [own.cases[0].largest_deflection[0] for own in (coarse, fine)]
        self.assertAlmostEqual(sags[0] / sags[1], 1.0, delta=0.003)
        np.testing.assert_allclose(coarse.frequencies, fine.frequencies, rtol=3e-3)
        bent = [np.abs(own.fields[0].cases[0].strains[..., 3:6]).max(axis=(0, 1)) for own in (coarse, fine)]
        np.testing.assert_allclose(bent[0].max(), bent[1].max(), rtol=2e-2)

    def test_with_clamps_a_foot_and_ribs(self) -> None:
        edges = Edges("clamped", "clamped", "simple", "simple")
        ribs = [Ribbed(Rib(False, x, 0.0, 0.2, "blade", 0.02, foot=0.01), metal(1.5e-3)) for x in (0.25, 0.5, 0.75)]
        self.compare(Panel(1.0, 0.2, edges), metal(2e-3), PatchLoad(200.0, 0.37, 0.1, 0.06, 0.05), ribs)

    def test_on_bolts_under_a_foot(self) -> None:
        bolts = tuple(Bolt(float(x), y, 0.016) for x in np.linspace(0.02, 1.98, 6) for y in (0.02, 0.18))
        panel = Panel(2.0, 0.2, FREE, held=Held(bolts=bolts))
        self.compare(panel, metal(3e-3), PatchLoad(300.0, 0.37, 0.1, 0.1, 0.08), [])


if __name__ == "__main__":
    unittest.main()
