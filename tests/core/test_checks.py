"""Every registered check on every demo candidate, and what must hold of all of them."""

from __future__ import annotations

import math
import unittest
from functools import cache

import msgspec
import numpy as np

from omakase.core.checks.core_shear import core_shear_stress
from omakase.core.checks.registry import CHECK_MODULES, all_checks, run_all
from omakase.core.checks.result import CheckResult, Limits, Settings
from omakase.core.laminate.stack import Layer, Stack, make_layer
from omakase.core.members.panel import respond
from omakase.core.members.panel_given import QUICK, LoadCase, Panel
from omakase.core.plates.grid import Edges
from omakase.core.plates.loads import PatchLoad
from omakase.evaluate.members.registry import kind_of
from omakase.project import translate
from omakase.project.library import materials_of, shipped_materials
from omakase.project.panels import PanelMember
from omakase.units.display import DIMENSIONS
from tests.support import demo_project

LIMITS = Limits(0.006, 40.0, (80.0, 120.0), 1.0, 2.0, 0.03)
JUDGED = Settings(1.5, 1.15)
LIB = shipped_materials()


def build(*layers: tuple) -> Stack:
    return Stack(tuple(make_layer(LIB[name], angle, thickness) for name, angle, thickness in layers))


FOAM = build(("twill200", 45, None), ("twill200", 0, None), ("pvc80", 0, 0.01), ("twill200", 0, None))
COMB = build(("spread100", 0, None), ("hc48", 0, 0.0127), ("spread100", 45, None))
PANEL = Panel(0.62, 0.44, Edges("simple", "clamped", "simple", "free"))
PATCH = PatchLoad(900.0, 0.2, 0.22, 0.24, 0.09)
CASES = (LoadCase("foot", (), (PATCH,)), LoadCase("air", (1500.0,)), LoadCase("weight", (), (), 4.0))


@cache
def results(stack: Stack, factor: float = 1.0, settings: Settings = JUDGED) -> tuple[CheckResult, ...]:
    cases = tuple(
        LoadCase(
            case.name,
            tuple(p * factor for p in case.pressures),
            tuple(msgspec.structs.replace(p, force=p.force * factor) for p in case.patches),
            case.gravity * factor,
        )
        for case in CASES
    )
    return tuple(run_all(respond(PANEL, stack, cases), settings, LIMITS))


class EveryCheck(unittest.TestCase):
    def test_without_a_load_case_what_needs_no_load_is_still_told(self) -> None:
        for layers in (
            (("twill200", 0.0, None), ("hc48", 0.0, 0.01), ("twill200", 0.0, None)),
            (("al6061", 0.0, 2e-3),),
        ):
            stack = Stack(tuple(make_layer(LIB[name], angle, thickness) for name, angle, thickness in layers))
            response = respond(PANEL, stack, ())
            self.assertEqual(
                {check.check for check in run_all(response, Settings(1.5), LIMITS)},
                {"frequency", "frequency_band", "mass", "thickness"},
            )

    def test_registrations_are_complete(self) -> None:
        found = all_checks()
        self.assertEqual({check.run.__module__.rsplit(".", 1)[1] for check in found.values()}, set(CHECK_MODULES))
        for name, registration in found.items():
            with self.subTest(name):
                for text in (registration.summary, registration.basis, registration.validity):
                    self.assertGreater(len(text), 8)

    def test_each_result_is_complete_on_each_demo_candidate(self) -> None:
        project = demo_project()
        seen = set()
        for brief in (own for own in project.briefs if isinstance(own.member, PanelMember)):
            cases = tuple(translate.load_case(case) for case in brief.load_cases)
            names = {case.name for case in cases} | {"", "own vibration"}
            for candidate in brief.candidates:
                stack, response = kind_of(brief).respond(brief, candidate, materials_of(project), QUICK)
                for check in run_all(response, translate.settings(brief), translate.limits(brief)):
                    with self.subTest(brief=brief.id, candidate=candidate.id, check=check.check, case=check.load_case):
                        self._complete(check, stack, response.panel, names)
                    seen.add(check.check)
        # those of strips, tubes, spars, brackets, ribs, surfaces and measured parts only are seen elsewhere
        of_others = {
            "bend",
            "clamp_pressure",
            "breaking_load",
            "strut",
            "tipping",
            "rotation",
            "twist",
            "diameter",
            "tube_buckling",
            "flattening",
            "clamp_crushing",
            "overlap",
            "strip_buckling",
            "wall_buckling",
            "wall_core_shear",
            "cap_crushing",
            "cap_bond",
            "skin_bond",
            "support_crushing",
            "hole_edge",
            "hole_buckling",
            "rib_crushing",
            "flange_corner",
            "bay_sag",
            "span_mass",
            "skin_wrinkling",
            "filling_shear",
            "filling_crushing",
            "divergence",
        }
        of_others |= {name for name, registration in all_checks().items() if registration.per == "detail"}
        self.assertEqual(seen | {"frequency_band"}, (set(all_checks()) - of_others) | {"frequency_band"})

    def _complete(self, check: CheckResult, stack: Stack, panel: Panel, names: set[str]) -> None:
        self.assertIn(check.dimension, DIMENSIONS)
        self.assertGreater(check.reserve_factor, 0.0)
        self.assertFalse(math.isnan(check.value) or math.isnan(check.allowable))
        self.assertIn(check.load_case, names)
        self.assertTrue(check.method and check.title)
        if check.place.layer is not None:
            self.assertIn(check.place.layer, range(len(stack.layers)))
        if check.place.x is not None:
            self.assertTrue(0.0 <= check.place.x <= panel.length and 0.0 <= check.place.y <= panel.width)

    def test_sorted_by_reserve(self) -> None:
        ratios = [check.reserve_factor / check.required for check in results(FOAM)]
        self.assertEqual(ratios, sorted(ratios))

    def test_doubling_every_load_halves_every_strength_reserve(self) -> None:
        for stack in (FOAM, COMB):
            single = {(c.check, c.load_case): c for c in results(stack)}
            for check in results(stack, 2.0):
                before = single[check.check, check.load_case]
                with self.subTest(check=check.check, case=check.load_case):
                    if check.kind == "strength":
                        self.assertAlmostEqual(check.reserve_factor / before.reserve_factor, 0.5, delta=1e-6)
                    elif check.check == "deflection":
                        self.assertAlmostEqual(check.value / before.value, 2.0, delta=1e-6)

    def test_factors_take_the_loads_to_ultimate(self) -> None:
        plain = {(c.check, c.load_case): c for c in results(FOAM, 1.0, Settings(1.0, 1.0))}
        for check in results(FOAM):
            if check.kind == "strength":
                ratio = plain[check.check, check.load_case].reserve_factor / check.reserve_factor
                self.assertAlmostEqual(ratio, 1.15 if check.check == "dent" else 1.5 * 1.15, delta=1e-9)


class Particular(unittest.TestCase):
    def only(self, stack: Stack, name: str, case: LoadCase, panel: Panel = PANEL) -> CheckResult:
        checks = run_all(respond(panel, stack, (case,)), Settings(1.0), LIMITS)
        return next(check for check in checks if check.check == name)

    def test_wrinkling_names_the_compressed_face(self) -> None:
        panel = Panel(0.6, 0.4)
        self.assertEqual(self.only(FOAM, "wrinkling", LoadCase("down", (1000.0,)), panel).place.surface, "face A")
        self.assertEqual(self.only(FOAM, "wrinkling", LoadCase("up", (-1000.0,)), panel).place.surface, "face B")

    def test_ribbon_direction_matters(self) -> None:
        """On a strip that spans along x the L direction carries; turning the ribbon costs about its ratio."""
        strip = Panel(0.3, 0.9, Edges("simple", "simple", "free", "free"))
        along = self.only(COMB, "core_shear", LoadCase("air", (5000.0,)), strip)
        turned = Stack(tuple(Layer(la.material, 90.0 if la.role == "core" else la.angle, la.thickness, la.role,
                                   la.structural) for la in COMB.layers))  # fmt: skip
        across = self.only(turned, "core_shear", LoadCase("air", (5000.0,)), strip)
        expected = LIB["hc48"].value("S13") / LIB["hc48"].value("S23")
        # the free corners carry more, and not in the same measure for both
        self.assertAlmostEqual(along.reserve_factor / across.reserve_factor / expected, 1.0, delta=0.15)
        self.assertEqual((along.place.surface, across.place.surface), ("mostly L", "mostly W"))

    def test_core_shear_at_the_support_of_a_strip(self) -> None:
        """τ = q L / (2 d) by statics in the middle of the support, d the distance of the face mid-planes."""
        stack = build(("twill200", 0, None), ("pvc80", 0, 0.01), ("twill200", 0, None))
        strip = Panel(0.3, 0.9, Edges("simple", "simple", "free", "free"))
        response = respond(strip, stack, (LoadCase("air", (4000.0,)),), with_frequencies=False)
        case = response.cases[0]
        middle = int(np.argmin(np.abs(case.y - 0.45)))
        tau = abs(core_shear_stress(response.section, case)[0, middle, 0])
        self.assertAlmostEqual(tau / (4000.0 * 0.3 / 2.0 / (0.01 + stack.layers[0].thickness)), 1.0, delta=0.01)
        check = self.only(stack, "core_shear", LoadCase("air", (4000.0,)), strip)
        self.assertGreater(check.value * LIB["pvc80"].value("S13"), 0.99 * tau)

    def test_a_core_in_two_layers_is_the_core_in_one(self) -> None:
        case = LoadCase("foot", (500.0,), (PATCH,))
        one = build(("twill200", 0, None), ("pvc80", 0, 0.012), ("twill200", 45, None))
        two = build(("twill200", 0, None), ("pvc80", 0, 0.004), ("pvc80", 0, 0.008), ("twill200", 45, None))
        whole, parts = (run_all(respond(PANEL, stack, (case,)), Settings(1.5), LIMITS) for stack in (one, two))
        known = {check.check: check.reserve_factor for check in whole}
        for check in parts:
            self.assertAlmostEqual(check.reserve_factor / known[check.check], 1.0, places=6, msg=check.check)

    def test_the_softer_layer_of_a_core_shears_first(self) -> None:
        """Layers on each other bear the same stress: the weaker governs, and the compliances add up."""
        mixed = build(("twill200", 0, None), ("pvc130", 0, 0.006), ("pvc60", 0, 0.006), ("twill200", 0, None))
        check = self.only(mixed, "core_shear", LoadCase("air", (2000.0,)))
        self.assertEqual(check.place.layer, 2)
        G = [LIB[name].value("G13") for name in ("pvc130", "pvc60")]
        core = respond(PANEL, mixed, ()).section.core
        assert core is not None
        self.assertAlmostEqual(core.shear_modulus[0, 0] / (2.0 / (1.0 / G[0] + 1.0 / G[1])), 1.0, places=9)

    def test_several_cores_are_judged_as_one_laminate_and_said_so(self) -> None:
        stack = build(("twill200", 0, None), ("pvc80", 0, 0.006), ("twill200", 0, None), ("pvc80", 0, 0.006),
                      ("twill200", 0, None))  # fmt: skip
        check = self.only(stack, "face_failure", LoadCase("air", (2000.0,)))
        self.assertTrue(any("several cores" in remark for remark in check.remarks))

    def test_crushing_is_force_over_area(self) -> None:
        check = self.only(FOAM, "core_crushing", LoadCase("foot", (), (PATCH,)))
        self.assertAlmostEqual(check.value, 900.0 / (0.24 * 0.09), places=3)

    def test_a_layer_not_counted_does_not_govern(self) -> None:
        plain = build(("satin300", 0, None), ("twill200", 0, None), ("pvc80", 0, 0.01), ("twill200", 0, None))
        cover = Stack((msgspec.structs.replace(plain.layers[0], structural=False), *plain.layers[1:]))
        check = self.only(cover, "face_failure", LoadCase("foot", (), (PATCH,)))
        self.assertNotEqual(check.place.layer, 0)
        mass = self.only(cover, "mass", LoadCase("foot", (), (PATCH,)))
        self.assertAlmostEqual(mass.value, self.only(plain, "mass", LoadCase("foot", (), (PATCH,))).value, places=12)

    def test_out_of_range_is_said(self) -> None:
        thin = build(("al6082", 0, 0.001))
        check = self.only(thin, "deflection", LoadCase("foot", (), (PATCH,)))
        self.assertIn("times the thickness", " ".join(check.remarks))

    def test_a_band_is_judged_by_the_nearest_mode(self) -> None:
        check = self.only(FOAM, "frequency_band", LoadCase("air", (1.0,)))
        response = respond(PANEL, FOAM, (LoadCase("air", (1.0,)),))
        inside = [f for f in response.frequencies if 80.0 < f < 120.0]
        self.assertEqual(check.passes, not inside)


if __name__ == "__main__":
    unittest.main()
