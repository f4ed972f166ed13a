"""Decisions with what was frozen, what changed since, and two files held against each other."""

from __future__ import annotations

import unittest

from omakase.evaluate.history.changes import brief_changes, candidate_changes, material_changes, project_changes
from omakase.evaluate.history.decisions import (
    DecisionError,
    as_decided,
    decide,
    log,
    result_text,
    since,
    standing,
    standing_text,
    withdraw,
)
from omakase.evaluate.members.sentence import value_at, with_entry, with_value, without_entry
from omakase.evaluate.vehicle.effects import changed_candidates, state_of
from omakase.evaluate.vehicle.fields import numbers_of
from omakase.project.commands import EditCandidate, replace
from omakase.project.demo import demo_project
from omakase.project.document import Document
from omakase.project.library import materials_of
from omakase.project.model import Brief, Candidate, Project, find_brief, find_candidate
from omakase.project.spans import ForceLoad
from omakase.project.storage import from_bytes, to_bytes
from tests.support import EVALUATOR

PROJECT = demo_project()
MATERIALS = materials_of(PROJECT)
FLOOR = PROJECT.briefs[0]
CHOSEN = find_candidate(FLOOR, "c3")


def with_brief(new: Brief) -> Project:
    return replace(PROJECT, briefs=tuple(new if own.id == new.id else own for own in PROJECT.briefs))


def with_candidate(new: Candidate) -> Project:
    return EditCandidate(FLOOR.id, find_candidate(FLOOR, new.id), new, "edit").apply(PROJECT)


def decided(project: Project = PROJECT, who: str = "Q", why: str = "light", candidate: Candidate = CHOSEN) -> Project:
    result = EVALUATOR.evaluate(FLOOR, candidate, MATERIALS)
    return decide(project, FLOOR, candidate, result, MATERIALS, who, why, "2026-12-01").apply(project)


class Decisions(unittest.TestCase):
    def test_what_is_frozen_gives_the_same_again(self) -> None:
        """The copy is whole: judged alone, without the project, it comes to what stands in the decision."""
        project = from_bytes(to_bytes(decided()), "x")
        own = standing(project, FLOOR.id)
        brief = as_decided(own)
        result = EVALUATOR.evaluate(brief, brief.candidates[0], {entry.id: entry for entry in own.materials})
        self.assertEqual(result.mass, own.values["mass"])
        self.assertEqual(result.worst("deflection").value, own.values["deflection"])
        self.assertEqual((state_of(result).reserve, state_of(result).governs), (own.reserve, own.governs))
        self.assertIn("0.556 kg, passed, deflection governed at 1.28", result_text(own, "si"))

    def test_a_new_one_takes_the_place_of_the_last(self) -> None:
        project = decided()
        mine = [own for own in project.decisions if own.brief == FLOOR.id]
        self.assertEqual([(own.revision, bool(own.withdrawn)) for own in mine], [(1, True), (2, False)])
        self.assertEqual(mine[0].withdrawn_why, "R2 takes its place")
        document = Document(PROJECT)
        result = EVALUATOR.evaluate(FLOOR, CHOSEN, MATERIALS)
        document.do(decide(PROJECT, FLOOR, CHOSEN, result, MATERIALS, "Q", "light", "2026-12-01"))
        document.undo()
        self.assertEqual(to_bytes(document.project), to_bytes(PROJECT))

    def test_what_cannot_be_decided(self) -> None:
        for who, why, told in ((" ", "light", "who decides"), ("Q", "", "why")):
            with self.assertRaisesRegex(DecisionError, told):
                decided(who=who, why=why)
        with self.assertRaisesRegex(DecisionError, "no result"):
            decided(candidate=replace(CHOSEN, layers=()))

    def test_withdrawn_with_a_reason(self) -> None:
        own = standing(PROJECT, FLOOR.id)
        with self.assertRaisesRegex(DecisionError, "why"):
            withdraw(PROJECT, own, " ", "2026-12-02")
        project = withdraw(PROJECT, own, "mould broken", "2026-12-02").apply(PROJECT)
        self.assertIsNone(standing(project, FLOOR.id))
        with self.assertRaisesRegex(DecisionError, "was withdrawn"):
            withdraw(project, project.decisions[0], "again", "2026-12-03")
        self.assertEqual(log(project)[0][:2], ("2026-12-02", "withdrawn R1: mould broken"))

    def test_the_history_is_in_order(self) -> None:
        days = [day for day, _, _ in log(PROJECT)]
        self.assertEqual(days, sorted(days, reverse=True))
        told = " ".join(what for _, what, _ in log(PROJECT))
        for word in (
            "decided R2",
            "withdrawn R1",
            "predicted",
            "tested: 6 specimens of",
            "lives with 'one axis'",
        ):
            self.assertIn(word, told)


class Since(unittest.TestCase):
    def told(self, project: Project) -> tuple[str, ...]:
        return since(project, standing(project, FLOOR.id), materials_of(project)).changes

    def test_nothing(self) -> None:
        self.assertEqual(self.told(PROJECT), ())
        renamed = with_brief(replace(FLOOR, note="looked at", candidates=FLOOR.candidates[:3]))
        self.assertEqual(self.told(renamed), ())

    def test_every_number_of_the_brief(self) -> None:
        for path, number in numbers_of(FLOOR).items():
            new = with_value(FLOOR, path, 1.01 * value_at(FLOOR, path) + 0.001)
            told = self.told(with_brief(new))
            self.assertEqual(len(told), 1, path)
            word = number.name.split(",")[0].removeprefix("Factor on the loads of ").lower()
            self.assertTrue(word in told[0].lower() or "factor" in told[0], (word, told))

    def test_loads_cases_and_limits(self) -> None:
        twice = with_entry(FLOOR, ("load_cases",), 1, replace(FLOOR.load_cases[1], id="l9", name="rain"))
        told = ("pressure of load 1: – → 1.5 kPa", "face pressed on of load 1: – → face A", "factor: – → 1")
        self.assertEqual(self.told(with_brief(twice)), tuple(f"rain, {own}" for own in told))
        fewer = without_entry(FLOOR, ("load_cases",), 1)
        self.assertEqual(self.told(with_brief(fewer))[-1], "luggage, factor: 1 → –")
        turned = replace(FLOOR, load_cases=FLOOR.load_cases[::-1])
        self.assertEqual(self.told(with_brief(turned)), ())
        against = with_value(FLOOR, ("limits", "against"), ("mass",))
        self.assertIn("now no heavier than the baseline", self.told(with_brief(against)))
        wet = with_value(with_value(FLOOR, ("surroundings", "wet"), True), ("judgement", "criterion"), "tsai_wu")
        told = ("failure criterion: maximum strain → tsai wu", "surroundings: dry → wet")
        self.assertEqual(self.told(with_brief(wet)), told)
        band = with_value(FLOOR, ("limits", "frequency_band"), (85.0, 130.0))
        self.assertIn("– → 85 to 130 Hz", self.told(with_brief(band))[0])

    def test_layers_form_and_materials(self) -> None:
        thick = replace(CHOSEN.layers[2], thickness=0.012)
        layers = (*CHOSEN.layers[:2], thick, *CHOSEN.layers[3:])
        (text,) = self.told(with_candidate(replace(CHOSEN, layers=layers)))
        self.assertRegex(text, r"^layers: .*pvc80 10.* → .*pvc80 12")
        arched = replace(CHOSEN, form=replace(CHOSEN.form, rise_along=0.01))
        self.assertEqual(self.told(with_candidate(arched)), ("rise along the length: 0 mm → 10 mm",))
        ply = MATERIALS["twill200"]
        softer = replace(ply, properties=ply.properties | {"E1": replace(ply.properties["E1"], value=50e9)})
        (text,) = self.told(replace(PROJECT, materials=(softer,)))
        self.assertRegex(text, r"^twill200, E1: .* → 5e\+10")

    def test_what_is_gone(self) -> None:
        own = standing(PROJECT, FLOOR.id)
        without = with_brief(replace(FLOOR, candidates=FLOOR.candidates[:2]))
        self.assertEqual(since(without, own, MATERIALS).gone, "its candidate was removed")
        self.assertEqual(since(replace(PROJECT, briefs=()), own, MATERIALS).gone, "its brief was removed")

    def test_whether_it_still_holds(self) -> None:
        own, less = standing(PROJECT, FLOOR.id), with_value(FLOOR, ("limits", "deflection"), 0.0045)
        project = with_brief(less)
        result = EVALUATOR.evaluate(less, CHOSEN, MATERIALS)
        text = standing_text(own, since(project, own, MATERIALS), result)
        self.assertIn("6 mm → 4.5 mm", text)
        self.assertIn("It no longer passes", text)
        self.assertIn("unchanged", standing_text(own, since(PROJECT, own, MATERIALS), None))
        more = with_value(FLOOR, ("limits", "deflection"), 0.0055)
        result = EVALUATOR.evaluate(more, CHOSEN, MATERIALS)
        self.assertIn("still passes", standing_text(own, since(with_brief(more), own, MATERIALS), result))


class Files(unittest.TestCase):
    def test_the_same(self) -> None:
        self.assertEqual(list(project_changes(PROJECT, demo_project())), [])

    def test_what_differs(self) -> None:
        spar = find_brief(PROJECT, "b6")
        quantities = (replace(PROJECT.quantities[0], text="7 kg"), *PROJECT.quantities[1:])
        new = replace(
            PROJECT,
            quantities=quantities,
            briefs=(
                replace(FLOOR, name="Floor", candidates=FLOOR.candidates[:-1]),
                replace(spar, id="b99"),
                *PROJECT.briefs[3:],
            ),
        )
        told = dict(project_changes(PROJECT, new))
        self.assertEqual(told["vehicle sheet"], ["airframe: 6.4 kg → 7 kg"])
        self.assertEqual(told["Floor"], [f"name: {FLOOR.name} → Floor", "candidate 'Honeycomb' is gone"])
        self.assertEqual(told[PROJECT.briefs[1].name], ["the brief is gone"])
        self.assertEqual(told[spar.name], [f"a new brief with {len(spar.candidates)} candidates"])

    def test_a_material_touches_the_verdicts_of_all_that_use_it(self) -> None:
        ply = MATERIALS["twill200"]
        softer = replace(ply, properties=ply.properties | {"E1": replace(ply.properties["E1"], value=50e9)})
        new = replace(PROJECT, materials=(softer,))
        self.assertEqual(material_changes({"twill200": ply}, {}), ["twill200 is gone"])
        self.assertEqual(len(dict(project_changes(PROJECT, new))["materials of the project"]), 1)
        touched = {(brief.id, own.id) for _, brief, own in changed_candidates(PROJECT, new)}
        using = {(brief.id, own.id) for brief in PROJECT.briefs for own in brief.candidates
                 if any(layer.material == "twill200" for layer in own.layers)}  # fmt: skip
        self.assertEqual(touched & using, using)

    def test_another_member(self) -> None:
        spar = find_brief(PROJECT, "b6")
        self.assertEqual(brief_changes(FLOOR, replace(FLOOR, member=spar.member), "si"),
                         ["it is about a spar, no longer about a flat panel"])  # fmt: skip
        moved = with_entry(spar, ("load_cases", 0, "loads"), 0, ForceLoad(10.0, 1.0))
        self.assertTrue(brief_changes(spar, moved, "si"))
        self.assertEqual(candidate_changes(spar, spar.candidates[0], replace(spar.candidates[0], name="x"), "si"),
                         [f"name: {spar.candidates[0].name} → x"])  # fmt: skip
