"""Buckling of arched and hat strips against plates in print, strips of classical plates and a finite-element solver."""

from __future__ import annotations

import unittest
from itertools import pairwise

import numpy as np

from omakase.core.checks.registry import run_all
from omakase.core.checks.result import CheckResult, Limits, Settings
from omakase.core.laminate.stack import Stack, make_layer
from omakase.core.members.span_loads import Moment, SpanCase, Spanned, Support
from omakase.core.members.strip import Strip, StripResponse, WidthLaw
from omakase.core.sections.curved_walls import CurvedWall
from omakase.core.sections.profile import Profile, corners_of
from omakase.evaluate.results.diagrams import reserve_curve
from omakase.evaluate.results.engine import Evaluator
from omakase.project import translate
from omakase.project.demo import demo_project
from omakase.project.library import materials_of
from omakase.project.spans import StripForm
from tests.literature.test_curved_walls import Strips

PROJECT = demo_project()
MATERIALS = materials_of(PROJECT)
LENGTH, WIDTH, THICK = 0.8, 0.16, 0.6e-3
HAT = Profile("hat", 0.03, 0.06, 0.02)
AT_LIMIT = Settings(factor_of_safety=1.0)


def strip(profile: Profile, moment: float) -> StripResponse:
    """Of aluminium under even moments; positive ones press its feet."""
    ends = Moment(-moment, 0.0), Moment(moment, LENGTH)
    width = WidthLaw(((0.0, WIDTH), (LENGTH, WIDTH)))
    sheet = Stack((make_layer(MATERIALS["al6061"], 0.0, THICK),))
    span = Spanned(LENGTH, (Support(0.0), Support(LENGTH)))
    return StripResponse(Strip(span, width, profile), sheet, [SpanCase("x", ends)])


def buckling(response: StripResponse) -> list[CheckResult]:
    return [own for own in run_all(response, AT_LIMIT, Limits()) if own.check == "strip_buckling"]


class Hats(unittest.TestCase):
    def pressed(self, response: StripResponse) -> tuple[np.ndarray, np.ndarray]:
        """Corners of its strips, m, and compression there, N/m, from N = EI κ of a thin wall."""
        nodes = WIDTH * corners_of(response.section.line, 4)[0]
        case = response.fields[0].cases[0]
        middle = len(case.x) // 2
        ends = case.strains[middle, [0, int(np.argmax(response.section.line.z))], 0]
        at = np.interp(nodes[:, 1], [0.0, HAT.rise], ends)
        return nodes, -at * MATERIALS["al6061"].value("E1") * THICK

    def test_as_strips_of_classical_plates(self) -> None:
        """Pressed at its crown and at its feet: the least factor over half waves."""
        for moment in (1.0, -1.0):
            response = strip(HAT, moment)
            nodes, loads = self.pressed(response)
            pairs = list(pairwise(range(len(nodes))))
            other = Strips(nodes, pairs, [response.plate] * len(pairs))
            expected = other.factor(list(pairwise(loads.tolist())), np.geomspace(0.015, LENGTH, 40))
            (found,) = buckling(response)
            self.assertAlmostEqual(found.reserve_factor / expected, 1.0, delta=0.03)

    def test_walls_are_between_hinged_and_clamped(self) -> None:
        """k = 4 to 6.97 of the crown, 0.425 to 1.28 of the feet, whose outer edge is free (Timoshenko and Gere 1961,
        article 9.4)."""
        E, nu = (MATERIALS["al6061"].value(key) for key in ("E1", "nu12"))
        stiff = E * THICK**3 / (12.0 * (1.0 - nu**2))
        for moment, wide, low, high in ((-1.0, HAT.crown, 4.0, 6.97), (1.0, HAT.flange, 0.425, 1.28)):
            response = strip(HAT, moment)
            _, loads = self.pressed(response)
            (found,) = buckling(response)
            k = found.reserve_factor * loads.max() * wide**2 / (np.pi**2 * stiff)
            self.assertTrue(low < k < high, k)

    def test_flat_strips_have_no_walls(self) -> None:
        self.assertEqual(buckling(strip(Profile(), 1.0)), [])
        self.assertEqual(buckling(strip(HAT, 0.0)), [])

    def test_loads_in_proportion_have_factors_in_proportion(self) -> None:
        one, two = (buckling(strip(HAT, moment))[0].reserve_factor for moment in (1.0, 2.0))
        self.assertAlmostEqual(one / two, 2.0, places=6)


class Arches(unittest.TestCase):
    def test_a_plank_against_a_finite_element_solver(self) -> None:
        """The demo's arched plank as layered bricks (192 C3D20R of CalculiX, linear buckling of the perfect one): 3.08
        under the driver, 20.6 under a foot beside a support.  The check takes the compression all along the wave as
        where it is largest, so it is below, and knocks an arc down."""
        brief, plank = next(
            (brief, own) for brief in PROJECT.briefs for own in brief.candidates
            if isinstance(own.form, StripForm) and own.form.section == "arched"
        )  # fmt: skip
        result = Evaluator().evaluate(brief, plank, MATERIALS)
        response = result.response
        assert isinstance(response, StripResponse)
        arc = CurvedWall(0.24 * corners_of(response.section.line, 4)[0])
        knocked = float(arc.pressed(response.plate, "bending")[0].min() / arc.pressed(response.plate)[0].min())
        self.assertTrue(0.3 < knocked < 0.9)
        for case_id, solver in (("l1", 3.08), ("l3", 20.6)):
            own = next(own for own in result.checks if own.check == "strip_buckling" and own.case_id == case_id)
            perfect = own.reserve_factor * translate.settings(brief, plank).ultimate_factor / knocked
            self.assertTrue(0.7 < perfect / solver < 1.0, perfect)
        for index, case in enumerate(brief.load_cases):
            own = next(own for own in result.checks if own.check == "strip_buckling" and own.case_id == case.id)
            along = reserve_curve(brief, result, index)
            self.assertLessEqual(along.values.min(), own.reserve_factor + 1e-9)
            k = int(np.abs(along.x - own.place.x).argmin())
            self.assertAlmostEqual(along.values[k] / own.reserve_factor, 1.0, delta=1e-6)


if __name__ == "__main__":
    unittest.main()
