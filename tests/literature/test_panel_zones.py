"""Panels whose layers run over parts of them: against the even panel, stepped beams and sums by hand."""

from __future__ import annotations

import unittest

import numpy as np

from omakase.core.checks.registry import run_all
from omakase.core.checks.result import Limits, Settings
from omakase.core.errors import LayupError, PanelError
from omakase.core.laminate.stack import Layer, Stack, make_layer
from omakase.core.members.panel import PanelResponse, respond, respond_zoned
from omakase.core.members.panel_given import FULL, LINEAR, REFINED, Accuracy, LoadCase, Panel
from omakase.core.members.panel_patchwork import Box, Lying, layer_areas, patchwork
from omakase.core.members.panel_regions import Flush
from omakase.core.plates.grid import Edges
from omakase.core.plates.loads import EdgeLoad, PatchLoad
from omakase.project.library import shipped_materials
from tests.support import SIMPLE, isotropic, sheet

LIB = shipped_materials()
E = 70e9
ENDS = Edges("simple", "simple", "free", "free")
AIR, FOOT = LoadCase("air", (1500.0,), (), 0.0, "a"), LoadCase("foot", (), (PatchLoad(900.0, 0.2, 0.22, 0.24, 0.09),))
Item = tuple[Layer, tuple[Box, ...], bool]


def layer(name: str, angle: float = 0.0, thickness: float | None = None) -> Layer:
    return make_layer(LIB[name], angle, thickness, "core" if LIB[name].kind == "core" else "ply")


def metal(thickness: float, poisson: float = 0.0) -> Layer:
    return sheet(isotropic(E, poisson, 2700.0), thickness)


def zoned(
    panel: Panel, items: list[Item], cases: tuple[LoadCase, ...], flush: Flush = "face_b", accuracy: Accuracy = LINEAR
) -> PanelResponse:
    lying = [Lying(boxes, outside, own.role == "core") for own, boxes, outside in items]
    work = patchwork([own for own, _, _ in items], lying, panel.length, panel.width)
    return respond_zoned(panel, work, cases, flush, accuracy, ultimate=1.5)


def rim(panel: Panel, wide: float) -> tuple[Box, ...]:
    a, b = panel.length, panel.width
    return Box(0, wide, 0, b), Box(a - wide, a, 0, b), Box(0, a, 0, wide), Box(0, a, b - wide, b)


class AgainstTheEvenPanel(unittest.TestCase):
    panel = Panel(0.62, 0.44, SIMPLE)
    plies = layer("twill200"), layer("twill200", 45.0)

    def test_a_zone_of_the_same_foam_changes_nothing(self) -> None:
        foam, box = layer("pvc80", 0.0, 0.01), (Box(0.1, 0.35, 0.1, 0.3),)
        cases = AIR, FOOT, LoadCase("weight", (), (), 4.0, "w")
        even = respond(self.panel, Stack((self.plies[0], foam, self.plies[0])), cases)
        items: list[Item] = [
            (self.plies[0], (), False),
            (foam, box, False),
            (foam, box, True),
            (self.plies[0], (), False),
        ]
        parts = zoned(self.panel, items, cases)
        for one, two in zip(even.cases, parts.cases, strict=True):
            self.assertAlmostEqual(two.largest_deflection[0] / one.largest_deflection[0], 1.0, delta=1e-3)
        np.testing.assert_allclose(parts.frequencies, even.frequencies, rtol=2e-3)
        self.assertAlmostEqual(parts.mass / even.mass, 1.0, places=9)
        exact = {check.key: check.reserve_factor for check in run_all(even, Settings(1.5, 1.0), Limits())}
        for check in run_all(parts, Settings(1.5, 1.0), Limits()):
            if np.isfinite(check.reserve_factor):
                self.assertAlmostEqual(check.reserve_factor / exact[check.key], 1.0, delta=0.03, msg=check.check)

    def test_stretching_is_counted_in_every_zone(self) -> None:
        """A sheet that moves 1.5 times its thickness, in one piece and as a patchwork of the same sheet."""
        box = (Box(0.1, 0.35, 0.1, 0.3),)
        foot = LoadCase("foot", (), (PatchLoad(900.0, 0.2, 0.22, 0.24, 0.09),))
        even = respond(self.panel, Stack((metal(0.003, 0.3),)), (foot,), FULL, False, 1.5)
        items: list[Item] = [(metal(0.003, 0.3), box, False), (metal(0.003, 0.3), box, True)]
        parts = zoned(self.panel, items, (foot,), "face_b", FULL)
        self.assertEqual(parts.moving_far, even.moving_far)
        sags = [response.cases[0].largest_deflection[0] for response in (even, parts)]
        self.assertAlmostEqual(sags[1] / sags[0], 1.0, delta=2e-3)
        reserves = [run_all(response, Settings(1.5, 1.0), Limits())[0] for response in (even, parts)]
        self.assertEqual(reserves[0].check, "face_failure")
        self.assertAlmostEqual(reserves[1].reserve_factor / reserves[0].reserve_factor, 1.0, delta=0.01)

    def test_buckling_of_a_patchwork_of_alike_sheets(self) -> None:
        """k = 4 of a square on simple supports (Timoshenko and Gere, chapter 9)."""
        panel, t = Panel(0.5, 0.5, SIMPLE), 0.002
        box = (Box(0.1, 0.3, 0.2, 0.4),)
        case = LoadCase("pushed", edge=EdgeLoad((-1.0, -1.0)))
        items: list[Item] = [(metal(t, 0.3), box, False), (metal(t, 0.3), box, True)]
        found = zoned(panel, items, (case,)).measures["buckling"][0].value
        D = E * t**3 / 12.0 / (1.0 - 0.09)
        self.assertAlmostEqual(found / (4.0 * np.pi**2 * D / 0.25), 1.0, delta=0.01)

    def test_cells_halved_change_little(self) -> None:
        """A rim without core and a plate of balsa in the foam: deflection within 1 %, strengths within 3 %."""
        edge = rim(self.panel, 0.04)
        items: list[Item] = [
            (self.plies[0], (), False),
            (self.plies[1], edge, False),
            (layer("balsa150", 0.0, 0.01), (Box(0.04, 0.12, 0.1, 0.16),), False),
            (layer("pvc80", 0.0, 0.01), edge, True),
            (self.plies[1], edge, False),
            (self.plies[0], (), False),
        ]
        one, two = (zoned(self.panel, items, (AIR, FOOT), "face_b", how) for how in (LINEAR, REFINED_ORDER))
        for case, exact in zip(one.cases, two.cases, strict=True):
            self.assertAlmostEqual(case.largest_deflection[0] / exact.largest_deflection[0], 1.0, delta=0.01)
        np.testing.assert_allclose(one.frequencies, two.frequencies, rtol=0.012)
        reserves = {check.key: check.reserve_factor for check in run_all(two, Settings(1.5, 1.0), Limits())}
        for check in run_all(one, Settings(1.5, 1.0), Limits()):
            if check.kind == "strength" and reserves[check.key] < 20.0 and check.check != "interlaminar_shear":
                self.assertAlmostEqual(check.reserve_factor / reserves[check.key], 1.0, delta=0.03, msg=check.check)


# orders of the cells of zones: two above the full one's
REFINED_ORDER = Accuracy(REFINED.smooth_order, REFINED.edge_order, REFINED.patch_order + 2)


class Stepped(unittest.TestCase):
    def test_a_stepped_strip_is_a_stepped_beam(self) -> None:
        """w = 2 ∫ M x / EI over half the span, of a beam twice as thick in its middle third, plane strain of ν = 0."""
        length, t, q = 0.6, 0.003, 400.0
        panel, box = Panel(length, 0.15, ENDS), (Box(0.2, 0.4, 0.0, 0.15),)
        x = np.linspace(0.0, length / 2.0, 200_001)
        inertia = np.where(x < 0.2, t**3, (2.0 * t) ** 3) / 12.0
        beam = float(np.trapezoid(q * x * (length - x) / 2.0 * x / (E * inertia), x))
        items: list[Item] = [(metal(t), (), False), (metal(t), box, False)]
        for flush in ("face_a", "middle", "face_b"):
            with self.subTest(flush):  # what may spread has no pull: the step's offset does not tell
                response = zoned(panel, items, (LoadCase("p", (q,)),), flush)
                self.assertAlmostEqual(response.cases[0].largest_deflection[0] / beam, 1.0, delta=0.003)

    def test_the_offset_of_a_step_is_in_the_answer(self) -> None:
        """Ends held: a pull N and M by the offset e; two statically unknown pulls by virtual work (derived)."""
        length, t, q = 0.6, 0.003, 400.0
        panel, box = Panel(length, 0.15, ENDS, "ends"), (Box(0.2, 0.4, 0.0, 0.15),)
        items: list[Item] = [(metal(t), (), False), (metal(t), box, False)]
        response = zoned(panel, items, (LoadCase("p", (q,)),), "face_b")
        x = np.linspace(0.0, length, 200_001)
        inside = (x > 0.2) & (x < 0.4)
        EA, EI = E * t * np.where(inside, 2.0, 1.0), E * t**3 / 12.0 * np.where(inside, 8.0, 1.0)
        # the plane of reference is the thin part's middle, on which the ends are held; the thick one lies t/2 higher
        height = np.where(inside, t / 2.0, 0.0)
        moment = q * x * (length - x) / 2.0
        flexible = np.trapezoid(1.0 / EA + height**2 / EI, x)
        pull = -np.trapezoid(-height * moment / EI, x) / flexible
        # about its own middle a part carries M − N e
        bent = (moment - pull * height) / EI
        unit = np.where(x < length / 2.0, x, length - x) / 2.0
        self.assertAlmostEqual(response.cases[0].largest_deflection[0] / np.trapezoid(bent * unit, x), 1.0, delta=0.005)


class Patchworks(unittest.TestCase):
    panel = Panel(0.5, 0.4, SIMPLE)

    def test_a_core_in_a_zone_takes_the_place_of_those_beside_it(self) -> None:
        ply, foam, wood = layer("twill200"), layer("pvc80", 0.0, 0.01), layer("balsa150", 0.0, 0.01)
        lying = [Lying(), Lying((Box(0.1, 0.2, 0.1, 0.2),), is_core=True), Lying(is_core=True), Lying()]
        work = patchwork([ply, wood, foam, ply], lying, 0.5, 0.4)
        self.assertEqual(set(work.rows), {(0, 2, 3), (0, 1, 3)})
        areas = layer_areas(lying, 0.5, 0.4)
        np.testing.assert_allclose(areas, [0.2, 0.01, 0.19, 0.2])
        response = respond_zoned(self.panel, work, (AIR,), "face_b")
        by_layer = sum(
            sum(Stack((ply, own, ply)).areal_mass().values()) * area for own, area in ((wood, 0.01), (foam, 0.19))
        )
        self.assertAlmostEqual(response.mass, by_layer, places=9)

    def test_a_place_is_judged_by_its_own_layers(self) -> None:
        """The foot stands on wood: crushing there, and not of the foam beside it."""
        ply, foam, wood = layer("twill200"), layer("pvc80", 0.0, 0.01), layer("balsa150", 0.0, 0.01)
        box = (Box(0.2, 0.3, 0.15, 0.25),)
        foot = LoadCase("foot", (), (PatchLoad(900.0, 0.25, 0.2, 0.05, 0.05),))
        items: list[Item] = [(ply, (), False), (wood, box, False), (foam, (), False), (ply, (), False)]
        checks = run_all(zoned(self.panel, items, (foot,)), Settings(1.5, 1.0), Limits())
        crushing = next(check for check in checks if check.check == "core_crushing")
        self.assertEqual(crushing.place.layer, 1)
        self.assertAlmostEqual(crushing.allowable, LIB["balsa150"].value("Zc"))

    def test_what_cannot_be_is_told_with_its_place(self) -> None:
        ply, foam = layer("twill200"), layer("pvc80", 0.0, 0.01)
        box = (Box(0.0, 0.5, 0.0, 0.1),)
        with self.assertRaisesRegex(LayupError, "at x 250 mm .*, y 50 mm .*core"):
            patchwork([ply, foam], [Lying(), Lying(box, is_core=True)], 0.5, 0.4)
        with self.assertRaisesRegex(LayupError, "no layer is left"):
            patchwork([ply], [Lying(box)], 0.5, 0.4)
        with self.assertRaisesRegex(PanelError, "zones cut"):
            layer_areas([Lying(tuple(Box(k / 100, k / 100 + 0.005, 0, 1) for k in range(20)))], 0.5, 0.4)


if __name__ == "__main__":
    unittest.main()
