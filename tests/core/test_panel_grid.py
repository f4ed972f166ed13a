"""The grids of panels: how long their cells are, and what cutting every cell in two still changes.

The refined grid halves the cells of the full order in both directions; the values beside the long clamped panel were
computed once with layered three-dimensional finite elements of a general solver, outside this project.
"""

from __future__ import annotations

import random
import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from omakase.core.checks.registry import run_all
from omakase.core.checks.result import Limits, Settings
from omakase.core.errors import PanelError
from omakase.core.laminate.stack import Layer, Stack, make_layer
from omakase.core.members.panel import PanelResponse, respond
from omakase.core.members.panel_given import LINEAR, QUICK, REFINED, Accuracy, LoadCase, Panel
from omakase.core.members.panel_grid import grid_key
from omakase.core.plates.grid import Edges
from omakase.core.plates.lines import CELL_ASPECT, corner_reach
from omakase.core.plates.loads import PatchLoad
from omakase.core.plates.section import PlateSection
from omakase.project.library import shipped_materials
from tests.support import CLAMPED, SIMPLE, orthotropic

LIB = shipped_materials()
WITHIN_STIFFNESS, WITHIN_STRENGTH = 0.01, 0.03


def layup(*layers: tuple[str, float] | tuple[str, float, float]) -> Stack:
    """Plies as (cloth, angle), cores and sheets as (material, angle, thickness in mm)."""
    return Stack(tuple(make_layer(LIB[own[0]], own[1], own[2] / 1e3 if len(own) > 2 else None) for own in layers))


THIN = layup(("twill200", 0.0), ("pvc80", 0.0, 10.0), ("twill200", 0.0))
SKEW = layup(
    ("ud200", 45.0), ("ud200", -45.0), ("pvc80", 0.0, 10.0), ("ud200", -45.0), ("ud200", 45.0)
)  # fmt: skip
PRESSED = (LoadCase("pressure", (10e3,)),)


def foot(size: float, x: float, y: float, across: float | None = None) -> tuple[LoadCase, ...]:
    return (LoadCase("foot", (), (PatchLoad(500.0, x, y, size, across or size),)),)


def reserves(stack: Stack, response: PanelResponse) -> dict[str, float]:
    """Reserve factor of each strength check that comes from the plate solution."""
    checks = run_all(response, Settings(1.0), Limits())
    local = ("indentation", "core_crushing")
    return {own.check: own.reserve_factor for own in checks if own.kind == "strength" and own.check not in local}


class SelfCheck(unittest.TestCase):
    """Deflection and six frequencies within 1 %, reserves within 3 %, over supports, proportions, feet and layups."""

    def compare(
        self, panel: Panel, stack: Stack, cases: tuple[LoadCase, ...], strength: float = WITHIN_STRENGTH
    ) -> None:
        found, fine = respond(panel, stack, cases, LINEAR), respond(panel, stack, cases, REFINED)
        sag = [response.cases[0].largest_deflection[0] for response in (found, fine)]
        self.assertAlmostEqual(sag[0] / sag[1], 1.0, delta=WITHIN_STIFFNESS)
        np.testing.assert_allclose(found.frequencies, fine.frequencies, rtol=WITHIN_STIFFNESS)
        exact = reserves(stack, fine)
        for check, factor in reserves(stack, found).items():
            with self.subTest(check=check):
                self.assertLess(factor / exact[check], 1.0 + strength)
                self.assertGreater(factor / exact[check], 1.0 - 2.0 * strength)  # the safe side may be further off

    def test_chosen_panels(self) -> None:
        balsa = layup(("twill200", 0.0), ("twill200", 0.0), ("balsa150", 0.0, 8.0), ("twill200", 0.0))
        honeycomb = layup(("satin300", 0.0), ("hc48-6", 90.0, 12.0), ("satin300", 0.0))
        mixed = Edges("clamped", "simple", "free", "simple")
        for name, panel, stack, cases in (
            ("long, clamped", Panel(2.0, 0.4, CLAMPED), THIN, PRESSED),
            ("small foot", Panel(0.9, 0.6), THIN, foot(0.02, 0.4, 0.3)),
            ("tiny foot on balsa", Panel(0.8, 0.4), balsa, foot(0.008, 0.2, 0.19)),
            ("foot on a long panel", Panel(2.0, 0.4), THIN, foot(0.04, 0.9, 0.2)),
            ("honeycomb with a free edge", Panel(1.5, 0.5, mixed), honeycomb, PRESSED),
            ("skew faces", Panel(0.9, 0.6), SKEW, PRESSED),
            ("skew faces, clamped edge", Panel(0.9, 0.6, mixed), SKEW, PRESSED),
            ("metal", Panel(0.9, 0.6, mixed), layup(("al6082", 0.0, 2.0)), foot(0.05, 0.4, 0.3)),
        ):
            with self.subTest(name):
                self.compare(panel, stack, cases)

    def test_random_panels(self) -> None:
        draw = random.Random(12)
        faces = ["twill200", "satin300", "ud200", "spread100"]
        cores = [("pvc80", 10.0), ("pvc130", 20.0), ("hc48", 12.7), ("balsa150", 9.5)]
        for count in range(8):
            width = draw.choice((0.2, 0.5, 1.0))
            length = width * draw.choice((1.0, 1.6, 3.0, 10.0))
            kinds = [draw.choice(("clamped", "simple", "simple", "resting")) for _ in range(4)]
            if count % 4 == 3:  # one free edge
                kinds[draw.randrange(4)] = "free"
            edges = Edges(*kinds)
            core, thickness = draw.choice(cores)
            face = [(draw.choice(faces), draw.choice((0.0, 90.0))) for _ in range(draw.choice((1, 2)))]
            stack = layup(*face, (core, 0.0, thickness), *reversed(face))
            cases = PRESSED if count % 2 else foot(
                width * draw.choice((0.03, 0.1, 0.3)), length * draw.uniform(0.2, 0.8), width * draw.uniform(0.3, 0.7)
            )  # fmt: skip
            with self.subTest(panel=(length, width), edges=edges, face=face, core=core):
                self.compare(Panel(length, width, edges), stack, cases)

    def test_skew_laminates_buckle_and_vibrate_as_refined(self) -> None:
        stack = layup(*[("ud200", 30.0)] * 8)
        panel = Panel(0.9, 0.6)
        frequencies = [respond(panel, stack, PRESSED, own).frequencies for own in (LINEAR, REFINED)]
        np.testing.assert_allclose(*frequencies, rtol=5e-3)

    def test_skew_faces_under_a_foot(self) -> None:
        """One order more where fibres turn pull into shear: against halved cells of an order below."""
        skew = layup(("ud200", 0.0), ("ud200", 90.0), ("pvc80", 0.0, 25.0), ("ud200", 45.0), ("ud200", -45.0))
        panel, cases = Panel(0.6, 0.4, Edges("simple", "clamped", "simple", "resting")), foot(0.04, 0.37, 0.16)
        fine = Accuracy(10, 8, 5, cells=2)
        found, exact = (
            reserves(skew, respond(panel, skew, cases, own, with_frequencies=False)) for own in (LINEAR, fine)
        )
        for check, factor in exact.items():
            self.assertLess(found[check] / factor, 1.0 + WITHIN_STRENGTH, check)

    def test_high_modes_of_thin_faces_on_honeycomb(self) -> None:
        face = ("ud200", 0.0)
        for panel, faces in (
            (Panel(0.6, 0.6, Edges("simple", "clamped", "simple", "simple")), face),
            (Panel(1.5, 1.0, Edges("simple", "simple", "resting", "resting")), ("twill200", 45.0)),
            (Panel(0.9, 0.6, CLAMPED), ("spread100", 0.0)),
        ):
            stack = layup(faces, ("hc48", 90.0, 12.7), faces)
            found, fine = (respond(panel, stack, PRESSED, own).frequencies for own in (LINEAR, REFINED))
            with self.subTest(panel):
                np.testing.assert_allclose(found, fine, rtol=3e-3)

    def test_interlaminar_shear_says_where_it_is_rough(self) -> None:
        plain, loose = Panel(0.9, 0.6), Panel(0.9, 0.6, Edges("clamped", "simple", "free", "simple"))
        cross, turned = layup(*[("twill200", 0.0)] * 6), layup(*[("ud200", 30.0)] * 8)
        for panel, stack, rough in ((plain, cross, False), (plain, turned, True), (loose, cross, True)):
            response = respond(panel, stack, PRESSED, QUICK, with_frequencies=False)
            checks = run_all(response, Settings(1.0), Limits())
            shear = next(own for own in checks if own.check == "interlaminar_shear")
            self.assertEqual(any("rough" in remark for remark in shear.remarks), rough)


class LongPanels(unittest.TestCase):
    def test_a_long_clamped_panel_has_all_its_modes(self) -> None:
        # the faces of the outside model: twill of 200 g/m² with 45 % resin by mass
        face = orthotropic(51e9, 51e9, 3.25e9, 0.05, G13=2.9e9, G23=2.9e9, density=1427.9)
        core = make_layer(LIB["pvc80"], 0.0, 0.010)
        stack = Stack((Layer(face, 0.0, 0.2547e-3), core, Layer(face, 0.0, 0.2547e-3)))
        response = respond(Panel(2.0, 0.4, CLAMPED), stack, PRESSED)
        np.testing.assert_allclose(response.frequencies, (337.0, 342.0, 353.0, 374.0, 407.0, 454.0), rtol=3e-3)
        _, x, y = response.cases[0].largest_deflection
        self.assertAlmostEqual(y, 0.2, delta=0.01)
        self.assertTrue(0.4 < x < 1.6)

    def test_far_ends_no_longer_matter_to_a_foot(self) -> None:
        """In the middle of a panel four or more widths long a foot is too far away to feel the ends (St Venant)."""
        values = [
            respond(Panel(length, 0.5), THIN, foot(0.08, length / 2.0, 0.25), with_frequencies=False)
            for length in (2.0, 3.0, 4.0)
        ]
        sag = [response.cases[0].largest_deflection[0] for response in values]
        np.testing.assert_allclose(sag, sag[-1], rtol=1e-3)

    def test_a_patch_across_the_whole_width_keeps_the_panel_s_cells(self) -> None:
        key = grid_key(Panel(4.0, 0.4).surface, PlateSection(THIN), PatchLoad(1.0, 2.0, 0.2, 0.1, 0.4), LINEAR)
        nodes = np.array([0.0, *key.x_breaks, 4.0])
        self.assertLessEqual(np.diff(nodes).max(), CELL_ASPECT * 0.4 + 1e-9)

    @given(
        length=st.floats(0.1, 3.0),
        aspect=st.floats(1.0, 20.0),
        share=st.floats(0.01, 1.0),
        place=st.floats(0.0, 1.0),
        edges=st.tuples(*[st.sampled_from(("free", "resting", "simple", "clamped"))] * 4),
        accuracy=st.sampled_from((LINEAR, QUICK)),
    )
    def test_no_cell_is_longer_than_one_and_a_half_widths(
        self, length: float, aspect: float, share: float, place: float, edges: tuple, accuracy: Accuracy
    ) -> None:  # fmt: skip
        width = length / aspect
        if width < 0.01 or (sum(edge != "free" for edge in edges) < 2 and "clamped" not in edges):
            return
        size = share * width
        patch = PatchLoad(1.0, size / 2 + place * (length - size), width / 2, size, size)
        for own in (None, patch):
            for stack in (THIN, SKEW):
                key = grid_key(Panel(length, width, Edges(*edges)).surface, PlateSection(stack), own, accuracy)
                for total, breaks in ((length, key.x_breaks), (width, key.y_breaks)):
                    steps = np.diff([0.0, *breaks, total])
                    self.assertGreater(steps.min(), 0.0)
                    self.assertLessEqual(steps.max(), CELL_ASPECT * width * (1.0 + 1e-6))


class Corners(unittest.TestCase):
    """Simply supported corners of off-axis faces: strains without bound, which no reserve may hang on."""

    def response(self, order: int) -> PanelResponse:
        return respond(Panel(0.9, 0.6), SKEW, PRESSED, Accuracy(order, order, order))

    def test_the_strain_in_the_corner_grows_with_the_order_and_the_reserve_does_not(self) -> None:
        coarse, fine = self.response(6), self.response(8)
        corner = [abs(own.cases[0].strains[..., 6:9][own.cases[0].left_out]).max() for own in (coarse, fine)]
        self.assertGreater(corner[1], 1.1 * corner[0])
        for check, factor in reserves(SKEW, coarse).items():
            self.assertAlmostEqual(factor / reserves(SKEW, fine)[check], 1.0, delta=0.04)

    def test_it_is_said_and_only_where_it_matters(self) -> None:
        case = self.response(6).cases[0]
        reach = corner_reach(0.9, 0.6)
        self.assertFalse(np.any(case.left_out & (np.add.outer(case.x, np.zeros_like(case.y)) > reach) &
                                (np.add.outer(case.x, np.zeros_like(case.y)) < 0.9 - reach)))  # fmt: skip
        checks = run_all(self.response(6), Settings(), Limits())
        failure = next(own for own in checks if own.check == "face_failure")
        self.assertTrue(any("corners are left out" in remark for remark in failure.remarks))
        plain = run_all(respond(Panel(0.9, 0.6), THIN, PRESSED), Settings(), Limits())
        self.assertFalse(any("corners are left out" in remark for own in plain for remark in own.remarks))

    def test_regular_corners_are_looked_at(self) -> None:
        for edges in (SIMPLE, CLAMPED):
            self.assertFalse(respond(Panel(0.9, 0.6, edges), THIN, PRESSED).cases[0].left_out.any())
        self.assertTrue(respond(Panel(0.9, 0.6, Edges(y1="free")), THIN, PRESSED).cases[0].left_out.any())


class Loads(unittest.TestCase):
    def test_a_place_that_is_no_number_is_named(self) -> None:
        for name, patch in (
            ("place along x", PatchLoad(1.0, float("nan"), 0.2, 0.1, 0.1)),
            ("place along y", PatchLoad(1.0, 0.2, float("inf"), 0.1, 0.1)),
            ("width", PatchLoad(1.0, 0.2, 0.2, 0.1, float("nan"))),
        ):
            with self.assertRaisesRegex(PanelError, name):
                respond(Panel(0.9, 0.6), THIN, (LoadCase("foot", (), (patch,)),))


if __name__ == "__main__":
    unittest.main()
