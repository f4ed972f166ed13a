"""The vehicle sheet: quantities, formulas that stay with their numbers, and what a change does to every brief."""

from __future__ import annotations

import unittest
from unittest import mock

import msgspec

from omakase.evaluate.members.sentence import value_at, with_entry, with_value, without_entry
from omakase.evaluate.vehicle.effects import Effect, State, effects, state_of
from omakase.evaluate.vehicle.fields import (
    all_problems,
    edit_quantities,
    followed,
    numbers_of,
    rename_quantity,
    uses_of,
    worked_out,
)
from omakase.evaluate.vehicle.words import value_text
from omakase.project.commands import EditBrief, replace
from omakase.project.demo import demo_project
from omakase.project.document import Document
from omakase.project.library import materials_of
from omakase.project.model import Formula, VehicleQuantity, find_brief
from omakase.project.spans import ForceLoad
from omakase.project.storage import from_bytes, to_bytes
from omakase.project.vehicle import Sheet, formula_at, read_path, with_formula, with_kept_formulas, write_path
from omakase.units import QuantityError
from tests.support import EVALUATOR

PROJECT = demo_project()
SPAR = find_brief(PROJECT, "b6")
LIFT = ("load_cases", 0, "loads", 0, "total")


def sheet(**texts: str) -> Sheet:
    return Sheet([VehicleQuantity(name, text) for name, text in texts.items()])


def with_text(name: str, text: str):  # type: ignore[no-untyped-def]
    quantities = tuple(replace(own, text=text) if own.name == name else own for own in PROJECT.quantities)
    return edit_quantities(PROJECT, quantities, "change a quantity")


class Quantities(unittest.TestCase):
    def test_in_whatever_order(self) -> None:
        found = sheet(lift="= mass * g0 / 2", mass="= empty + load", empty="6.4 kg", load="2.8 kg")
        self.assertEqual(found.problems, {})
        self.assertAlmostEqual(found.values["lift"].number, 9.2 * 9.80665 / 2)

    def test_circles_and_what_hangs_on_them(self) -> None:
        found = sheet(a="= b + 1", b="= c", c="= 2 * a", after="= a", e="5", f="= f")
        for place in (0, 1, 2):
            self.assertIn("from itself", found.problems[place])
        self.assertIn("a ← b ← c ← a", found.problems[0])
        self.assertEqual(found.problems[3], "it needs 'a', which cannot be worked out")
        self.assertIn("f ← f", found.problems[5])
        self.assertEqual(list(found.values), ["e"])

    def test_broken_ones(self) -> None:
        listed = [VehicleQuantity("a", "1 kg", "m"), VehicleQuantity("a", "2"), VehicleQuantity("kg", "1"),
                  VehicleQuantity("b", "= a + 1"), VehicleQuantity("c", "= nothing")]  # fmt: skip
        found = Sheet(listed)
        self.assertIn("'m' is m; it comes to kg", found.problems[0])
        self.assertIn("two quantities", found.problems[1])
        self.assertIn("is a unit", found.problems[2])
        self.assertIn("cannot be added", found.problems[3])
        self.assertIn("no quantity 'nothing'", found.problems[4])

    def test_a_long_chain(self) -> None:
        chain = {f"q{i}": f"= q{i + 1} + 1" for i in range(400)} | {"q400": "1"}
        self.assertEqual(sheet(**chain).values["q0"].number, 401.0)

    def test_shown_in_its_unit(self) -> None:
        found = sheet(v="120 km/h", q="= 0.5 * 1.225 kg/m³ * v²")
        self.assertEqual(value_text(VehicleQuantity("v", "", "km/h"), found.values["v"], "si"), "120 km/h")
        self.assertEqual(value_text(VehicleQuantity("q"), found.values["q"], "si"), "0.68056 kPa")
        self.assertEqual(value_text(VehicleQuantity("q"), found.values["q"], "inch_pound"), "0.098706 psi")


class Formulas(unittest.TestCase):
    def test_every_number_of_every_demo_brief_may_follow(self) -> None:
        for brief in PROJECT.briefs:
            for path, number in numbers_of(brief).items():
                self.assertEqual(read_path(write_path(path)), path)
                self.assertIsInstance(value_at(brief, path), float, write_path(path))
                with self.assertRaises(QuantityError):  # of no dimension that a field has
                    worked_out(brief, number, "= 1 kg²", sheet())

    def test_the_demo_is_worked_out(self) -> None:
        self.assertEqual(all_problems(PROJECT), [])
        self.assertGreaterEqual(len(PROJECT.quantities), 10)
        self.assertAlmostEqual(value_at(SPAR, LIFT), 9.2 * 9.80665 / 2.0)
        self.assertEqual(len(uses_of(PROJECT)["wing_lift"]), 6)  # of the spar and of the wing

    def test_a_side_keeps_its_sign(self) -> None:
        hatch = find_brief(PROJECT, "b10")
        new, problems = followed(hatch, Sheet(with_text("airspeed", "20 m/s").new))
        self.assertEqual(problems, {})
        pressure = value_at(new, ("load_cases", 1, "loads", 0, "pressure"))
        self.assertAlmostEqual(pressure, -1.7 * 0.5 * 1.225 * 400.0)

    def test_what_cannot_be_worked_out_keeps_its_number(self) -> None:
        for text, told in (("= kg", "no quantity"), ("2 m", "a plain number"), ("= -1", "more than zero")):
            new, problems = followed(SPAR, Sheet([VehicleQuantity("pull_up", text)]))
            self.assertEqual(new.load_cases[0].factor, 5.0)
            word = "cannot be worked out" if "quantity" in told else told
            self.assertIn(word, problems["load_cases[0].factor"])

    def test_they_follow_their_number_through_edits(self) -> None:
        """Loads that come and go before it, and one that goes itself; a number typed over lets the formula go."""
        brief = replace(SPAR, formulas=(Formula(write_path(LIFT), "= wing_lift"),))
        loads = ("load_cases", 0, "loads")
        before = with_kept_formulas(brief, with_entry(brief, loads, 0, ForceLoad(10.0, 1.0)))
        self.assertEqual(formula_at(before, (*loads, 1, "total")), "= wing_lift")
        again = with_kept_formulas(before, without_entry(before, loads, 0))
        self.assertEqual(formula_at(again, LIFT), "= wing_lift")
        self.assertEqual(with_kept_formulas(brief, without_entry(brief, loads, 0)).formulas, ())
        self.assertEqual(with_kept_formulas(brief, with_value(brief, LIFT, 50.0)).formulas, ())
        other = with_kept_formulas(brief, with_value(brief, ("load_cases", 0, "name"), "pull"))
        self.assertEqual(other.formulas, brief.formulas)
        case = with_entry(brief, ("load_cases",), 0, brief.load_cases[2])
        self.assertEqual(with_kept_formulas(brief, case).formulas[0].path, "load_cases[1].loads[0].total")
        new = with_formula(with_value(brief, LIFT, 60.0), LIFT, "= wing_lift * 2")
        self.assertEqual(with_kept_formulas(brief, new).formulas, new.formulas)

    def test_paths_that_lead_nowhere(self) -> None:
        for path in ("", "nothing", "load_cases[99].factor", "load_cases[0].loads[0].total.x", "name", "a b", "[0]"):
            brief = replace(SPAR, formulas=(Formula(path, "= 1"),))
            self.assertIn("no such number", next(iter(followed(brief, sheet())[1].values())))
            with_kept_formulas(brief, with_value(brief, LIFT, 50.0))

    def test_a_number_in_the_file_that_the_formula_does_not_give(self) -> None:
        changed = with_value(PROJECT, ("briefs", 5, *LIFT), 99.0)
        ((place, text),) = all_problems(changed)
        self.assertEqual(place, "briefs[5].load_cases[0].loads[0].total")
        self.assertIn("another number", text)
        again = edit_quantities(changed, changed.quantities, "work out").apply(changed)
        self.assertEqual(to_bytes(again), to_bytes(PROJECT))

    def test_kept_in_the_file(self) -> None:
        self.assertEqual(from_bytes(to_bytes(PROJECT), "x").briefs[5].formulas, SPAR.formulas)


class Edits(unittest.TestCase):
    def test_one_step_forth_and_back(self) -> None:
        document = Document(PROJECT)
        document.do(with_text("payload", "3.6 kg"))
        brief = find_brief(document.project, "b6")
        self.assertAlmostEqual(value_at(brief, LIFT), 10.0 * 9.80665 / 2.0)
        self.assertAlmostEqual(value_at(brief, ("load_cases", 1, "loads", 0, "total")), -10.0 * 9.80665 / 2.0)
        document.undo()
        self.assertEqual(to_bytes(document.project), to_bytes(PROJECT))
        document.redo()
        self.assertEqual(document.project.quantities[1].text, "3.6 kg")

    def test_candidates_changed_meanwhile_stay(self) -> None:
        document = Document(PROJECT)
        document.do(with_text("payload", "3.6 kg"))
        brief = find_brief(document.project, "b6")
        document.do(EditBrief(brief, replace(brief, note="looked at"), "note"))
        document.undo()
        document.undo()
        self.assertEqual(to_bytes(document.project), to_bytes(PROJECT))

    def test_renamed_everywhere(self) -> None:
        at = [own.name for own in PROJECT.quantities].index("wing_lift")
        new = rename_quantity(PROJECT, at, "lift_per_wing").apply(PROJECT)
        self.assertEqual(all_problems(new), [])
        self.assertEqual(formula_at(find_brief(new, "b6"), LIFT), "= lift_per_wing")
        self.assertEqual(formula_at(find_brief(new, "b6"), ("load_cases", 1, "loads", 0, "total")), "= -lift_per_wing")
        taken = rename_quantity(PROJECT, at, "rider").apply(PROJECT)  # told, and nothing is mixed up
        self.assertEqual(formula_at(find_brief(taken, "b6"), LIFT), "= wing_lift")
        self.assertIn("two quantities", all_problems(taken)[0][1])


class Effects(unittest.TestCase):
    def test_a_heavier_payload(self) -> None:
        after = with_text("payload", "3.6 kg").apply(PROJECT)
        found = [effect for effect, _, _ in effects(PROJECT, after, EVALUATOR) if effect is not None]
        self.assertEqual({effect.brief for effect in found}, {"b6", "b14"})
        self.assertEqual(len(found), len(SPAR.candidates) + len(find_brief(PROJECT, "b14").candidates))
        turns = {(effect.brief, effect.candidate): effect.turn for effect in found}
        self.assertIn("lost", turns.values())
        for effect in found:  # as the brief itself is judged
            brief = find_brief(after, effect.brief)
            candidate = next(own for own in brief.candidates if own.id == effect.candidate)
            self.assertEqual(effect.after, state_of(EVALUATOR.evaluate(brief, candidate, materials_of(after))))
        back = [effect for effect, _, _ in effects(after, PROJECT, EVALUATOR) if effect is not None]
        self.assertEqual({(own.brief, own.candidate) for own in back if own.turn == "gained"},
                         {own for own, turn in turns.items() if turn == "lost"})  # fmt: skip

    def test_progress_and_stopping(self) -> None:
        after = with_text("payload", "3.6 kg").apply(PROJECT)
        stop = mock.Mock(side_effect=[False, False, True])
        found = list(effects(PROJECT, after, EVALUATOR, None, stop))
        self.assertEqual([(done, of) for _, done, of in found], [(0, 10), (1, 10)])
        self.assertEqual(list(effects(PROJECT, PROJECT, EVALUATOR)), [(None, 0, 0)])

    def test_words_for_a_change(self) -> None:
        good, less, much, bad = (State("passes", "", own) for own in (1.10, 1.05, 1.4, 1.1001))
        fails, broken = State("fails", "", 0.9), State("error", error="no layers")
        for before, after, turn in ((good, less, "less"), (good, much, "room"), (good, bad, "same"),
                                    (good, fails, "lost"), (fails, good, "gained"), (good, broken, "error"),
                                    (broken, good, "gained"), (fails, State("fails", "", 0.95), "more")):  # fmt: skip
            self.assertEqual(Effect("b", "c", "B", "C", before, after).turn, turn)

    def test_an_error_is_told(self) -> None:
        broken = with_value(PROJECT, ("briefs", 5, "member", "length"), 1e-6)
        found = [effect for effect, _, _ in effects(PROJECT, broken, EVALUATOR) if effect is not None]
        self.assertTrue(all(effect.turn == "error" and effect.after.error for effect in found))
        self.assertEqual(msgspec.structs.asdict(found[0])["brief"], "b6")
