"""Tests planned for strips and tubes: what is predicted for them is what they themselves answer."""

from __future__ import annotations

import unittest

import numpy as np

from omakase.core.members.span_loads import PointLoad, SpanCase, Spanned, Support
from omakase.core.members.strip import Strip, StripResponse, WidthLaw
from omakase.evaluate.results.engine import Evaluator
from omakase.evaluate.testing import planning
from omakase.project import translate
from omakase.project.commands import replace
from omakase.project.demo import demo_project
from omakase.project.library import materials_of
from omakase.project.model import Series, find_candidate

PROJECT = demo_project()
MATERIALS = materials_of(PROJECT)
BRIEFS = {brief.id: brief for brief in PROJECT.briefs}
EVALUATOR = Evaluator()


class Planned(unittest.TestCase):
    def three_point(self, stack, span: float, width: float) -> StripResponse:  # type: ignore[no-untyped-def]
        member = Strip(Spanned(span, (Support(0.0), Support(span))), WidthLaw(((0.0, width),)))
        return StripResponse(member, stack, (SpanCase("press", (PointLoad(1.0, span / 2.0),)),), with_frequencies=False)

    def test_three_point_bending_of_a_strip_is_what_the_strip_answers(self) -> None:
        """The frozen stiffness of a planned flexure test against the strip model of that specimen."""
        for brief_id, candidate_id in (("b5", "c4"), ("b4", "c3")):
            brief = BRIEFS[brief_id]
            candidate = replace(find_candidate(brief, candidate_id), zones=())
            series = planning.plan(brief, candidate, "flexure_3", MATERIALS, "today")
            stack = translate.stack(candidate, MATERIALS)
            own = self.three_point(stack, series.sizes["span"], series.sizes["width"])
            stiffness = 1.0 / own.measures["deflection"][0].value
            # the strip counts that a coupon of some width curves less across, the test's formula does not
            self.assertAlmostEqual(stiffness / series.prediction.stiffness, 1.0, delta=0.03)

    def test_a_sandwich_on_two_spans(self) -> None:
        brief = BRIEFS["b5"]
        candidate = find_candidate(brief, "c2")
        series = planning.plan(brief, candidate, "two_spans", MATERIALS, "today")
        stack = translate.stack(candidate, MATERIALS)
        own = self.three_point(stack, series.sizes["span"], series.sizes["width"])
        stiffness = 1.0 / own.measures["deflection"][0].value
        # thin-face formulas of the method against thick faces that bend by themselves
        self.assertAlmostEqual(stiffness / series.prediction.stiffness, 1.0, delta=0.06)

    def test_the_proof_load_of_a_part(self) -> None:
        """The load case that strength hangs on, its force times the factors, and the stiffness of the member."""
        for brief_id, candidate_id in (("b5", "c2"), ("b4", "c4")):
            brief = BRIEFS[brief_id]
            result = EVALUATOR.evaluate(brief, find_candidate(brief, candidate_id), MATERIALS)
            series = planning.plan_proof(Series("", "", "proof_load"), brief, result, "today")
            prediction = series.prediction
            assert prediction is not None
            forces = np.array(list(prediction.forces.values()))
            self.assertTrue(np.all(forces > 0.0))
            case = next(own for own in brief.load_cases if own.name in series.name)
            pressed = planning.total_force(brief, case)
            self.assertAlmostEqual(prediction.values["ultimate"], 1.5 * pressed)
            sag = next(own.value for own in result.response.measures["deflection"] if own.case == case.id)
            self.assertAlmostEqual(prediction.stiffness, pressed / sag)
            least = min(c.reserve_factor for c in result.checks if c.kind == "strength" and c.case_id == case.id)
            self.assertAlmostEqual(forces.min(), 1.5 * pressed * least)


if __name__ == "__main__":
    unittest.main()
