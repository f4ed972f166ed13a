"""Every registered kind of member keeps the same promises."""

from __future__ import annotations

import gc
import math
import unittest
from collections.abc import Callable
from functools import wraps
from typing import Any

import msgspec
import numpy as np

from omakase.core.checks.registry import KEPT
from omakase.core.members.field import Place
from omakase.core.members.panel_given import FULL
from omakase.core.plates.large_deflection import LargeDeflection
from omakase.core.plates.solver import PlateModel
from omakase.evaluate.members.drawing import Arrow, Drawing, Line, Mark, Note
from omakase.evaluate.members.kind import MemberKind
from omakase.evaluate.members.registry import MEMBER_MODULES, all_kinds, kind_of
from omakase.evaluate.members.sentence import (
    Act,
    Choice,
    Name,
    Number,
    Sentence,
    Side,
    outer_form,
    plain,
    value_at,
    with_value,
)
from omakase.evaluate.record.workings import worked_out
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.results.diagrams import curves, reserve_curve
from omakase.evaluate.results.engine import Evaluator
from omakase.evaluate.results.outcome import outcome
from omakase.evaluate.results.profile import thickness_profile
from omakase.evaluate.results.records import candidate_record, project_record
from omakase.evaluate.results.wording import brief_sentences
from omakase.evaluate.sizing.levers import levers
from omakase.evaluate.sizing.study import measures, parameters
from omakase.project import edits
from omakase.project.commands import EditBrief, replace
from omakase.project.demo import demo_project
from omakase.project.document import Document
from omakase.project.library import materials_of
from omakase.project.model import Brief, Candidate, Project, find_candidate, new_brief
from omakase.project.spans import Zone
from omakase.project.storage import from_bytes, to_bytes
from omakase.project.validation import brief_problems, candidate_problems, problems
from omakase.project.wings import SkinLoad
from omakase.units.display import DIMENSIONS
from tests.support import EVALUATOR

PROJECT = demo_project()
MATERIALS = materials_of(PROJECT)


def demo_brief(kind: MemberKind) -> Brief:
    """The demo's first brief about a kind of member."""
    return next(brief for brief in PROJECT.briefs if kind_of(brief).name == kind.name)


def passing(brief: Brief) -> Candidate:
    """A candidate that meets its brief, so that every check of it has been reached."""
    return next(own for own in brief.candidates if EVALUATOR.evaluate(brief, own, MATERIALS).passes)


def fields(sentence: Sentence) -> list[Any]:
    return [part for part in sentence if isinstance(part, Number | Side | Choice | Name)]


def of_every_kind(test: Callable[[Any, MemberKind, Brief], None]) -> Callable[[Any], None]:
    """A test that is run for each kind with the demo's brief about it."""

    @wraps(test)
    def run(case: Any) -> None:
        for kind in all_kinds().values():
            with case.subTest(kind.name):
                test(case, kind, demo_brief(kind))

    return run


class EveryKind(unittest.TestCase):
    def evaluated(self, brief: Brief, candidate: Candidate) -> CandidateResult:
        result = EVALUATOR.evaluate(brief, candidate, MATERIALS)
        self.assertTrue(result.ok, result.error)
        return result

    @of_every_kind
    def test_registrations(self, kind: MemberKind, brief: Brief) -> None:
        self.assertEqual(tuple(all_kinds()), MEMBER_MODULES)
        self.assertIsInstance(brief.member, kind.member)
        self.assertIsInstance(kind.new_form(brief), kind.form)
        self.assertTrue(all(text.endswith(".") for text in kind.missing.values()))

    @of_every_kind
    def test_the_demo_job_is_clean_and_one_fails_for_a_reason(self, kind: MemberKind, brief: Brief) -> None:
        self.assertEqual(problems(PROJECT), [])
        results = [self.evaluated(brief, candidate) for candidate in brief.candidates]
        self.assertGreaterEqual(len(results), 3)
        others = [own for own in results if own.candidate.id != brief.baseline]
        self.assertTrue(any(own.passes for own in others) and any(not own.passes for own in others))

    @of_every_kind
    def test_a_new_brief_of_the_kind_is_ready_to_fill(self, kind: MemberKind, brief: Brief) -> None:
        brief = new_brief("b9", "new", kind.new_member())
        self.assertEqual(brief_problems(brief), [])
        candidate = Candidate("c1", "one", form=kind.new_form(brief))
        first = demo_brief(kind).candidates[0]
        one = edits.of_wall(first, kind.walls(first)[0]).layers
        layers = tuple(replace(layer, wall=wall) for wall in kind.walls(candidate) for layer in one)
        self.evaluated(brief, replace(candidate, layers=layers))

    @of_every_kind
    def test_json_round_trip(self, kind: MemberKind, brief: Brief) -> None:
        project = Project(title="t", briefs=(brief,), materials=PROJECT.materials)
        self.assertEqual(from_bytes(to_bytes(project), "t"), project)

    @of_every_kind
    def test_every_field_of_its_sentences_edits_and_undoes(self, kind: MemberKind, brief: Brief) -> None:
        sentences = [kind.sentence(brief)]
        sentences += [
            kind.load_sentence(brief, i, k)
            for i, case in enumerate(brief.load_cases) for k in range(len(case.loads))
        ]  # fmt: skip
        names = []
        for part in [part for sentence in sentences for part in fields(sentence)]:
            names.append(part.name)
            self.edit_and_undo(brief, part)
        self.assertEqual(len(names), len(set(names)))
        candidate = passing(brief)
        for part in fields(kind.form_sentence(brief, candidate, MATERIALS)):
            other = self.other(part, value_at(candidate, part.path))
            new = part.put(candidate, other) if isinstance(part, Choice) else with_value(candidate, part.path, other)
            self.assertNotEqual(new, candidate)
            if isinstance(part, Choice):
                self.evaluated(brief, new)

    def edit_and_undo(self, brief: Brief, part: Any) -> None:
        document = Document(Project(title="t", briefs=(brief,), materials=PROJECT.materials))
        new = with_value(brief, part.path, self.other(part, value_at(brief, part.path)))
        document.do(EditBrief(brief, new, part.step))
        self.assertNotEqual(document.project.briefs[0], brief)
        document.undo()
        self.assertEqual(document.project.briefs[0], brief)
        if isinstance(part, Number):
            self.assertIn(part.dimension, DIMENSIONS)

    @staticmethod
    def other(part: Any, value: Any) -> Any:
        if isinstance(part, Number):
            return value * 1.1 + 0.01
        if isinstance(part, Side):
            return -value
        if isinstance(part, Choice):
            return next(own for _, _, own in part.options if own != value)
        return f"{value} other"

    @of_every_kind
    def test_its_buttons_change_the_record(self, kind: MemberKind, brief: Brief) -> None:
        candidate = passing(brief)
        for record, sentence in (
            (brief, kind.sentence(brief)), (candidate, kind.form_sentence(brief, candidate, MATERIALS)),
        ):  # fmt: skip
            for part in sentence:
                if isinstance(part, Act):
                    self.assertNotEqual(part.change(record), record, part.what)

    @of_every_kind
    def test_an_edit_of_a_value_leaves_the_sentence_in_place(self, kind: MemberKind, brief: Brief) -> None:
        """Its fields are made anew only where its words change: they take most of the time of an edit."""
        for own in (other for other in PROJECT.briefs if kind_of(other) is kind):
            for candidate in own.candidates:
                two = [outer_form(kind.form_sentence(own, candidate, MATERIALS)) for _ in range(2)]
                self.assertEqual(two[0], two[1])
            two = [outer_form(kind.sentence(own)) for _ in range(2)]
            self.assertEqual(two[0], two[1])

    @of_every_kind
    def test_sentences_for_paper(self, kind: MemberKind, brief: Brief) -> None:
        for units in ("si", "inch_pound"):
            for text in brief_sentences(brief, units):  # type: ignore[arg-type]
                self.assertTrue(text.endswith(".") and "  " not in text, text)
            candidate = passing(brief)
            for sentence, record in (
                (kind.sentence(brief), brief), (kind.form_sentence(brief, candidate, MATERIALS), candidate),
            ):  # fmt: skip
                self.assertNotIn("None", plain(sentence, record, units))  # type: ignore[arg-type]

    @of_every_kind
    def test_twice_the_load_halves_every_strength_reserve(self, kind: MemberKind, brief: Brief) -> None:
        candidate = passing(brief)
        if kind.name == "panel":  # one that does not move far
            candidate = find_candidate(brief, "c4")
        # a mass that falls presses less than twice as hard when it is twice as heavy, and pressed skin sags more
        cases = tuple(
            replace(
                case,
                loads=tuple(
                    load for load in case.loads if not hasattr(load, "height") and not isinstance(load, SkinLoad)
                ),
            )
            for case in brief.load_cases
        )
        brief = replace(brief, load_cases=tuple(case for case in cases if case.loads))
        twice = replace(brief, load_cases=tuple(edits.scaled_case(case, 2.0) for case in brief.load_cases))
        self.assertFalse(self.evaluated(twice, candidate).moving_far)
        before = {check.key: check for check in self.evaluated(brief, candidate).checks}
        compared = 0
        for check in self.evaluated(twice, candidate).checks:
            own = before[check.key]
            if check.detail:
                continue  # its loads may be typed, its preload stays: see the tests of details
            if check.kind == "strength" and math.isfinite(own.reserve_factor):
                self.assertAlmostEqual(own.reserve_factor / check.reserve_factor, 2.0, places=5, msg=check.check)
                compared += 1
        self.assertGreater(compared, 2)

    @of_every_kind
    def test_equilibrium_closes(self, kind: MemberKind, brief: Brief) -> None:
        response = self.evaluated(brief, passing(brief)).response
        if hasattr(response, "left_over"):
            self.assertLess(response.left_over, 1e-8)

    @of_every_kind
    def test_answers_nobody_holds_are_freed(self, kind: MemberKind, brief: Brief) -> None:
        """A search judges thousands of candidates: no cache may hold the answers to all of them."""
        evaluator = Evaluator()
        first = evaluator.quick(brief, brief.candidates[1], MATERIALS).response

        def alive() -> int:
            gc.collect()
            return sum(isinstance(thing, type(first)) for thing in gc.get_objects())

        before = alive()
        layer = brief.candidates[1].layers[0]
        for step in range(4 * KEPT):
            turned = edits.set_layer(brief.candidates[1], 0, replace(layer, angle=layer.angle + 0.1 * step))
            evaluator.quick(brief, turned, MATERIALS)
        del evaluator  # what it keeps itself is bounded too
        self.assertLess(alive() - before, 2 * KEPT)

    @of_every_kind
    def test_every_lever_and_parameter_evaluates(self, kind: MemberKind, brief: Brief) -> None:
        for candidate in brief.candidates[2:4]:  # not a sleeve, which would lock at the ends of some ranges
            passes = self.evaluated(brief, candidate).passes
            for lever in levers(brief, candidate, MATERIALS, "si", passes):
                option = lever.options[len(lever.options) // 2]
                result = EVALUATOR.quick(option.brief or brief, option.candidate, MATERIALS)
                self.assertTrue(result.ok or result.error)
                self.assertNotIn("internal", result.error)
            found = parameters(brief, candidate, MATERIALS)
            self.assertEqual(len({own.key for own in found}), len(found))
            for parameter in found:
                state = parameter.put((brief, candidate, MATERIALS), (parameter.low + 3.0 * parameter.high) / 4.0)
                result = EVALUATOR.quick(*state)
                self.assertTrue(result.ok, f"{parameter.title}: {result.error}")
                own = outcome(state[0], result, state[2])
                for measure in measures(state[0]):
                    self.assertFalse(math.isnan(measure.of(own)), measure.key)

    @of_every_kind
    def test_its_drawing_is_finite_and_inside_its_frame(self, kind: MemberKind, brief: Brief) -> None:
        for case in (*brief.load_cases, None):
            drawing = kind.plan(brief, case, "si")
            if drawing is None:
                continue
            self.inside(drawing)

    def inside(self, drawing: Drawing) -> None:
        left, bottom, right, top = drawing.frame
        for shape in drawing.shapes:
            points = {
                Line: lambda own: own.points, Arrow: lambda own: (own.tip,), Mark: lambda own: (own.at,),
                Note: lambda own: (own.at,),
            }[type(shape)](shape)  # fmt: skip
            for x, y in points:
                self.assertTrue(left <= x <= right and bottom <= y <= top, shape)
        for handle in drawing.handles:
            self.assertLess(handle.low, handle.high)

    @of_every_kind
    def test_a_result_as_json(self, kind: MemberKind, brief: Brief) -> None:
        record = project_record(Project(title="t", briefs=(brief,), materials=PROJECT.materials), EVALUATOR)
        text = msgspec.json.encode(record)
        self.assertNotIn(b"NaN", text)

    @of_every_kind
    def test_measures_have_a_place_and_a_name(self, kind: MemberKind, brief: Brief) -> None:
        response = self.evaluated(brief, passing(brief)).response
        cases = {case.id for case in brief.load_cases}
        for own in response.measures["deflection"]:
            self.assertIn(own.case, cases)
            self.assertIsNotNone(own.x)
        self.assertEqual(FULL, self.evaluated(brief, passing(brief)).accuracy)


class Diagrams(unittest.TestCase):
    def test_no_reserve_of_a_place_is_below_the_curve(self) -> None:
        """Crushing at clamps and supports, by the skins, edges of holes: what the list says at a place along the member
        the curve says, too, and the worst of the list is its least."""
        lowered = set()
        for brief, number in (("Shaft of a sculling oar", 4), ("Wing spar of the survey drone", 1),
                              ("Wing rib of the survey drone", 3), ("Seat plank of the tricycle", 1)):  # fmt: skip
            asked = next(own for own in PROJECT.briefs if own.name == brief)
            result = EVALUATOR.evaluate(asked, asked.candidates[number], MATERIALS)
            for index, case in enumerate(own.case.key for own in result.response.results):
                curve, plain = curves(asked, result, index)[-1], reserve_curve(asked, result, index)
                listed = [
                    check for check in result.checks
                    if (check.case_id, check.kind, check.detail) == (case, "strength", "")
                    and check.place.x is not None and check.wall != "skin"
                ]  # fmt: skip
                least = min(check.reserve_factor for check in listed)
                with self.subTest(brief, case=case):
                    self.assertLessEqual(curve.values.min(), least * (1.0 + 1e-9))
                    self.assertAlmostEqual(curve.values.min() / min(least, plain.values.min()), 1.0, places=6)
                if curve.values.min() < plain.values.min():
                    lowered.add(brief)
        self.assertGreaterEqual(len(lowered), 3)


class Askew(unittest.TestCase):
    def test_a_strip_whose_plies_lie_askew_comes_out_everywhere(self) -> None:
        """It has a twist that other strips have not: diagrams, workings, records and pictures take it."""
        brief = next(own for own in PROJECT.briefs if own.name == "Seat plank of the tricycle")
        for number in (0, 1):
            given = brief.candidates[number]
            layers = tuple(replace(own, angle=25.0) if own.role != "core" else own for own in given.layers)
            result = EVALUATOR.evaluate(brief, replace(given, layers=layers), MATERIALS)
            with self.subTest(given.name):
                self.assertEqual(result.error, "")
                shown = {curve.key: curve for curve in curves(brief, result, 0)}
                self.assertIn("twist", shown)
                self.assertNotIn("sideways", shown)
                ends = np.abs(np.interp([0.04, 0.48], shown["twist"].x, shown["twist"].values))
                self.assertLess(ends.max(), 1e-3 * np.abs(shown["twist"].values).max())  # its supports hold it
                self.assertIn("checks", candidate_record(result, False))
                self.assertEqual(len(thickness_profile(result, 0, Place(0.26)).strain[0]), 3)
                for check in result.checks:
                    for step in worked_out(result, check):
                        self.assertTrue(step.symbol)


class WrongInput(unittest.TestCase):
    """What makes no sense is told in words at its place, and nothing falls over."""

    def told(self, brief: Brief, candidate: Candidate, place: str, words: str) -> None:
        found = [*brief_problems(brief), *candidate_problems(brief, candidate, MATERIALS)]
        self.assertTrue(any(place in where and words in text for where, text in found), found)
        self.assertFalse(EVALUATOR.evaluate(brief, candidate, MATERIALS).ok)

    def test_zones(self) -> None:
        for name in ("strip", "tube"):
            brief = demo_brief(all_kinds()[name])
            candidate = passing(brief)
            length = brief.member.length
            for zone, words in (
                (Zone("z9", "nothing", 0.2, 0.2), "must end further out"),
                (Zone("z9", "crossed", 0.3, 0.1), "must end further out"),
                (Zone("z9", "beyond", 0.2, length + 0.1), "beyond the member"),
            ):
                with self.subTest(name, zone=zone.name):
                    self.told(brief, replace(candidate, zones=(*candidate.zones, zone)), ".zones", words)
            lost = (replace(candidate.layers[0], zone="z77"), *candidate.layers[1:])
            self.told(brief, replace(candidate, layers=lost), ".layers[0]", "zone that is not there")

    def test_supports(self) -> None:
        for name in ("strip", "tube"):
            brief = demo_brief(all_kinds()[name])
            member, candidate = brief.member, passing(brief)
            first = member.supports[0]
            for supports, words in (
                ((), "nothing holds"),
                ((replace(first, held="simple"),), "lets it turn"),
                ((first, replace(first, x=first.x)), "same place"),
                ((first, replace(first, x=member.length + 1.0)), "beyond the member"),
                ((first, replace(first, x=member.length, along=2.0 * member.length)), "does not fit"),
            ):
                with self.subTest(name, words=words):
                    self.told(replace(brief, member=replace(member, supports=supports)), candidate, "member", words)

    def test_forms(self) -> None:
        tube, strip = demo_brief(all_kinds()["tube"]), demo_brief(all_kinds()["strip"])
        braided = next(own for own in tube.candidates if any("braid" in la.material for la in own.layers))
        wide = replace(braided.form, diameter=(replace(braided.form.diameter[0], size=0.06),))
        self.told(tube, replace(braided, form=wide), ".layers", "locks")
        wrap = passing(tube)
        self.told(tube, replace(wrap, form=replace(wrap.form, overlap=1.0)), ".form", "overlap")
        self.told(tube, replace(wrap, form=replace(wrap.form, filling="nonesuch")), ".form", "no material")
        plank = passing(strip)
        self.told(strip, replace(plank, form=replace(plank.form, section="arched", rise=0.2)), ".form", "shallow arc")
        hat = replace(plank.form, section="hat", rise=0.1, crown=0.15, flange=0.03)
        self.told(strip, replace(plank, form=hat), ".form", "more cloth")
        self.told(strip, wrap, ".form", "not made for a strip")

    def test_loads(self) -> None:
        strip = demo_brief(all_kinds()["strip"])
        kind, case = kind_of(strip), strip.load_cases[0]
        beyond = replace(kind.default_load(strip, "force"), x=strip.member.length + 0.2)
        brief = replace(strip, load_cases=(replace(case, loads=(beyond,)),))
        self.told(brief, passing(strip), "load_cases[0]", "beyond the member")
        panel = demo_brief(all_kinds()["panel"])
        brief = replace(panel, load_cases=(replace(case, loads=(kind.default_load(strip, "force"),)),))
        self.told(brief, panel.candidates[0], "load_cases[0]", "a panel takes")
        brief = replace(strip, load_cases=(replace(case, loads=panel.load_cases[0].loads),))
        self.told(brief, passing(strip), "load_cases[0]", "load of a panel")


class Memory(unittest.TestCase):
    """What panels are solved in takes a hundred MB and more: an edit may not leave it behind."""

    def test_panels_that_stretch_give_back_what_they_were_solved_in(self) -> None:
        """Flat, with a zone, arched; the reserve is found on the load, so that each is solved at several levels."""

        def held() -> int:
            gc.collect()
            return sum(isinstance(own, PlateModel | LargeDeflection) for own in gc.get_objects())

        evaluator, before = Evaluator(), held()
        for brief_id, candidate_id, zoned in (("b3", "c2", False), ("b3", "c2", True), ("b7", "c4", False)):
            brief = next(own for own in demo_project().briefs if own.id == brief_id)
            candidate = find_candidate(brief, candidate_id)
            if zoned:
                more = replace(candidate.layers[0], zone="z1")
                zone = Zone("z1", "rim", 0.0, brief.member.length, 0.0, 0.2 * brief.member.width)
                candidate = replace(candidate, layers=(more, *candidate.layers), zones=(zone,))
            with self.subTest(candidate.name, zoned=zoned):
                result = evaluator.evaluate(brief, candidate, MATERIALS)
                self.assertTrue(result.ok, result.error)
                self.assertTrue(result.moving_far)
                self.assertLessEqual(held(), before)


if __name__ == "__main__":
    unittest.main()
