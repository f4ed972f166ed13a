"""Parts of a vehicle added up against its budget."""

from __future__ import annotations

import unittest

from omakase.evaluate.vehicle.parts import PartRow, part_rows, total
from omakase.project.commands import ArrangeVehicles, replace
from omakase.project.demo import demo_project
from omakase.project.document import Document
from omakase.project.library import materials_of
from omakase.project.model import Project, Vehicle, VehiclePart, find_brief, find_candidate
from omakase.project.vehicle import Sheet
from tests.support import EVALUATOR

PROJECT = demo_project()
MATERIALS = materials_of(PROJECT)
SHEET = Sheet(PROJECT.quantities)


def rows(vehicle: Vehicle, project: Project = PROJECT) -> list[PartRow]:
    found = dict(part_rows(project, vehicle, EVALUATOR))
    return [found[i] for i in sorted(found)]


class Parts(unittest.TestCase):
    def test_sums_by_hand(self) -> None:
        """Twice the decided floor and a typed part: masses of the candidates themselves."""
        vehicle = Vehicle(
            "v9", "one", (VehiclePart("floor", "b1", 2), VehiclePart("wheel", "", 3, "1.2 kg", "40")), "6 kg", "500"
        )
        found = rows(vehicle)
        floor = EVALUATOR.evaluate(PROJECT.briefs[0], find_candidate(PROJECT.briefs[0], "c3"), MATERIALS)
        self.assertTrue(found[0].decided and found[0].passes)
        self.assertAlmostEqual(found[0].mass, 2.0 * floor.mass)
        self.assertAlmostEqual(found[1].mass, 3.6)
        self.assertEqual((found[1].cost, found[1].passes), (120.0, None))
        result = total(vehicle, found, SHEET)
        self.assertAlmostEqual(result.mass, 2.0 * floor.mass + 3.6)
        self.assertAlmostEqual(result.mass_left, 6.0 - result.mass)
        self.assertEqual((result.cost_budget, result.open), (500.0, 0))

    def test_without_a_decision_the_lightest_that_passes(self) -> None:
        spar = find_brief(PROJECT, "b6")
        (row,) = rows(Vehicle("v9", "one", (VehiclePart("spar", "b6"),)))
        passing = [EVALUATOR.evaluate(spar, own, MATERIALS) for own in spar.candidates]
        lightest = min((own for own in passing if own.passes), key=lambda own: own.mass)
        self.assertFalse(row.decided)
        self.assertEqual((row.candidate, row.mass), (lightest.candidate.name, lightest.mass))

    def test_a_budget_may_be_a_formula(self) -> None:
        drone = PROJECT.vehicles[0]
        self.assertEqual(total(drone, [], SHEET).mass_budget, 6.4)
        self.assertEqual(total(drone, [], SHEET).open, len(drone.parts))
        bad = total(replace(drone, mass_budget="= airspeed", cost_budget="3 kg"), [], SHEET)
        self.assertEqual(len(bad.problems), 2)
        self.assertIn("a mass is wanted", bad.problems[0])

    def test_what_is_wrong_is_told_part_by_part(self) -> None:
        parts = (VehiclePart("a", "", 1, "= nothing"), VehiclePart("b", "", 1, "2 m"), VehiclePart("c", "", 1, "-1 kg"),
                 VehiclePart("d", "", 0, "1 kg"), VehiclePart("e", "gone"), VehiclePart("f"))  # fmt: skip
        told = [row.problem for row in rows(Vehicle("v9", "one", parts))]
        for text, word in zip(told, ("no quantity", "a mass is wanted", "less than zero", "one or more", "was removed",
                                     "no mass typed"), strict=True):  # fmt: skip
            self.assertIn(word, text)
        heavy = replace(
            PROJECT, briefs=(replace(PROJECT.briefs[0], candidates=PROJECT.briefs[0].candidates[:1]),), decisions=()
        )
        (row,) = rows(Vehicle("v9", "one", (VehiclePart("floor", "b1"),)), heavy)
        self.assertEqual(row.problem, "no candidate passes yet")

    def test_one_step_of_undo(self) -> None:
        document = Document(PROJECT)
        document.do(ArrangeVehicles(PROJECT.vehicles, PROJECT.vehicles[:1], "remove"))
        document.undo()
        self.assertEqual(document.project, PROJECT)
