"""Ways out against trying every setting of a lever in full; what is proposed passes when it is evaluated again."""

from __future__ import annotations

import os
import unittest
from functools import cache
from typing import Any
from unittest import mock

import numpy as np

from omakase.core.errors import OmakaseError
from omakase.evaluate.results.engine import Evaluator
from omakase.evaluate.results.outcome import Outcome, outcome
from omakase.evaluate.sizing.levers import Lever
from omakase.evaluate.sizing.levers import levers as all_levers
from omakase.evaluate.sizing.ways_out import LeverSearch, Way, WaysOut, as_command
from omakase.evaluate.sizing.workers import Workers
from omakase.project import edits
from omakase.project.commands import EditBrief, replace
from omakase.project.demo import demo_project
from omakase.project.library import materials_of
from omakase.project.model import Brief, Candidate, LayerRecord, Limits, LoadCase, find_candidate
from omakase.project.panels import PanelMember, PatchLoad, PressureLoad, Supports
from tests.support import EVALUATOR, lightly_loaded

DEMO = demo_project()
PROJECT = replace(DEMO, briefs=(*DEMO.briefs[:2], lightly_loaded(DEMO.briefs[2])))  # the plank is quick to judge then
MATERIALS = materials_of(PROJECT)
FEW = {name: MATERIALS[name] for name in (
    "twill200", "ud200", "spread100", "aramid170", "gsatin300", "pvc60", "pvc80", "pvc130", "hc48", "balsa150", "al6082"
)}  # fmt: skip


def full(brief: Brief, candidate: Candidate) -> Outcome:
    return outcome(brief, EVALUATOR.evaluate(brief, candidate, MATERIALS), MATERIALS)


FORMS = {"arch", "dish", "ribs", "lips", "rib_height"}  # slow to judge; they have tests of their own


def levers(*what: Any) -> list[Lever]:
    """Those that leave a panel's form alone."""
    return [lever for lever in all_levers(*what) if lever.name not in FORMS]


def setUpModule() -> None:
    fewer = mock.patch("omakase.evaluate.sizing.ways_out.levers", levers)
    fewer.start()
    unittest.addModuleCleanup(fewer.stop)


@cache
def ways(brief: int, candidate: str) -> tuple[Way, ...]:
    own = PROJECT.briefs[brief]
    return tuple(WaysOut(own, find_candidate(own, candidate), MATERIALS, "si", EVALUATOR).find())


def brute_force(brief: Brief, lever: Lever, present: Outcome) -> float | None:
    """Mass of the setting that is wanted, by evaluating every one in full; None where none passes."""
    results = [full(option.brief or brief, option.candidate) for option in lever.options]
    passing = [own for own in results if own.passes]
    if lever.wanted == "lightest" and present.passes:
        passing = [own for own in passing if own.mass < present.mass * (1.0 - 1e-6)]
    if lever.wanted == "steps" and present.passes:
        passing = passing[: next((i for i, own in enumerate(results) if not own.passes), len(results))][-1:]
    if lever.wanted != "lightest":
        return passing[0].mass if passing else None
    return min((own.mass for own in passing), default=None)


def random_brief(rng: np.random.Generator) -> tuple[Brief, Candidate]:
    """A brief and a candidate near its limits."""
    length, width = rng.uniform(0.4, 1.0), rng.uniform(0.3, 0.6)
    edges = [str(rng.choice(["simple", "clamped", "resting"])) for _ in range(4)]
    cases = (
        LoadCase("l1", "pressed", (PressureLoad(float(rng.uniform(50.0, 400.0))),)),
        LoadCase("l2", "foot", (PatchLoad(float(rng.uniform(20.0, 90.0)), length * 0.4, width * 0.5, 0.1, 0.08),)),
    )
    faces = [
        LayerRecord(str(rng.choice(["twill200", "ud200", "aramid170"])), float(rng.choice([0.0, 45.0])))
        for _ in range(2)
    ]
    core = LayerRecord(str(rng.choice(["pvc60", "pvc80", "hc48"])), 0.0, float(rng.choice([5e-3, 8e-3])), "core")
    candidate = Candidate("c1", "one", layers=(faces[0], core, faces[1]))
    limits = Limits(deflection=1.0)
    brief = Brief("b1", "random", PanelMember(length, width, Supports(*edges)), cases, limits, candidates=(candidate,))
    sag = full(brief, candidate).deflection
    return replace(brief, limits=replace(limits, deflection=float(sag * rng.uniform(0.6, 1.7)))), candidate


class Levers(unittest.TestCase):
    def test_every_lever_of_demo_candidates_by_brute_force(self) -> None:
        for index, name in ((0, "c3"), (2, "c2")):
            brief = PROJECT.briefs[index]
            candidate = find_candidate(brief, name)
            present = full(brief, candidate)
            found = {way.lever: way for way in ways(index, name)}
            for lever in levers(brief, candidate, MATERIALS, "si", present.passes):
                if len(lever.options) > 10 or lever.wanted == "better":
                    continue  # a minute each, random briefs try all of few materials; what is better has its own test
                with self.subTest(brief=brief.name, candidate=name, lever=lever.name):
                    self._agrees(found[lever.name], brute_force(brief, lever, present), lever)

    def test_random_briefs_by_brute_force(self) -> None:
        """Panels, supports, loads and layups drawn at random near their limits; seeds in the order they are drawn."""
        for seed in (5,):
            brief, candidate = random_brief(np.random.default_rng(seed))
            present = full(brief, candidate)
            EVALUATOR.forget_all()
            EVALUATOR.prepare(brief, candidate, FEW)
            search = LeverSearch(brief, candidate, FEW, EVALUATOR)
            for lever in levers(brief, candidate, FEW, "si", present.passes):
                if lever.wanted == "better":
                    continue
                with self.subTest(seed=seed, lever=lever.name):
                    self._agrees(search.search(lever, present), brute_force(brief, lever, present), lever)

    def _agrees(self, way: Way, mass: float | None, lever: Lever) -> None:
        if mass is None:
            self.assertIsNone(way.option, f"{lever.name}: {way.text}")
            self.assertTrue(way.blocked)
        else:
            assert way.outcome is not None, f"{lever.name}: {way.blocked}, but one of {mass:.4f} kg passes"
            self.assertAlmostEqual(way.outcome.mass, mass, places=7, msg=lever.name)

    def test_every_proposal_passes_when_evaluated_again(self) -> None:
        fresh = Evaluator()
        for index, name in ((0, "c2"), (1, "c3"), (2, "c2")):
            brief = PROJECT.briefs[index]
            for way in ways(index, name):
                with self.subTest(brief=index, candidate=name, way=way.text):
                    self.assertEqual(way.option is None, bool(way.blocked))
                    if way.option is not None:
                        own = way.option.brief or brief
                        self.assertTrue(fresh.evaluate(own, way.option.candidate, MATERIALS).passes)

    def test_two_changes_where_none_alone_passes(self) -> None:
        """Nearly twice as stiff and no thicker than 11.5 mm: no single change does it, two do."""
        brief = PROJECT.briefs[0]
        brief = replace(brief, limits=replace(brief.limits, deflection=0.0035, thickness=0.0115, mass=0.75))
        candidate = find_candidate(brief, "c2")
        search = WaysOut(brief, candidate, FEW, "si", EVALUATOR)
        # an arch would do: a panel that has to stay flat
        alone = [way for way in search.find() if way.lever != "arch"]
        self.assertTrue(all(way.option is None or way.option.brief is not None for way in alone))
        thicker = next(way for way in alone if way.lever == "thickness" or "thicker core" in way.text)
        self.assertRegex(thicker.blocked, "at best core .*stopped by deflection.*; beyond it stopped by thickness")
        pairs = list(search.pairs(alone))
        self.assertTrue(pairs)
        for way in pairs:
            self.assertIn(" and ", way.text)
            self.assertTrue(full(brief, way.option.candidate).passes)
            command, identity = as_command(way, brief, candidate)
            added = find_candidate(command.apply(replace(PROJECT, briefs=(brief,))).briefs[0], identity)
            self.assertEqual(added.layers, way.option.candidate.layers)
        masses = [way.outcome.mass for way in pairs]
        self.assertEqual(masses, sorted(masses))
        self.assertEqual(list(search.pairs([*alone, pairs[0]])), [])  # nothing where a single one passes

    def test_the_right_way_up(self) -> None:
        """Two plies below and one above, pressed from above: turned over it is better or worse, and turned back."""
        layers = tuple(LayerRecord("twill200", angle) for angle in (45.0, 0.0))
        core = LayerRecord("pvc80", 0.0, 0.014, "core")
        brief = PROJECT.briefs[0]
        brief = replace(brief, limits=Limits(deflection=1.0))
        one = Candidate("c1", "one", layers=(layers[1], core, *layers, layers[1]))
        over = edits.flip(one)
        shares = [full(brief, own).share for own in (one, over)]
        self.assertTrue(min(shares) > 1.0 and shares[0] != shares[1], shares)
        for own, share, other in ((one, *shares), (over, *shares[::-1])):
            search = LeverSearch(brief, own, FEW, EVALUATOR)
            lever = next(la for la in levers(brief, own, FEW, "si", True) if la.name == "flip")
            way = search.search(lever, search.present())
            self.assertEqual(way.option is not None, other > 1.005 * share)
            self.assertIn(f"{share:.2f} to {other:.2f}", way.text + way.blocked)

    def test_what_cannot_says_what_stops_it(self) -> None:
        blocked = {way.lever: way.blocked for way in ways(2, "c2") if way.option is None}
        self.assertIn("stopped by deflection", blocked["grade"])

    def test_a_window_between_two_looks_is_found(self) -> None:
        """A forbidden band above and a sag below leave a few steps of thickness: not monotonic."""
        brief = PROJECT.briefs[2]
        candidate = find_candidate(brief, "c2")
        thick = next(way for way in ways(2, "c2") if way.lever == "core")
        assert thick.outcome is not None
        top = thick.outcome.thickness + 0.9e-3
        tight = replace(brief, limits=replace(brief.limits, thickness=top))
        search = LeverSearch(tight, candidate, MATERIALS, EVALUATOR)
        present = search.present()
        lever = next(la for la in levers(tight, candidate, MATERIALS, "si", False) if la.name == "core")
        self._agrees(search.search(lever, present), brute_force(tight, lever, present), lever)
        self.assertIsNotNone(search.search(lever, present).option)

    def test_on_workers_the_ways_are_the_same(self) -> None:
        workers = Workers(2)
        self.addCleanup(workers.close)
        brief = PROJECT.briefs[0]
        search = WaysOut(brief, find_candidate(brief, "c2"), MATERIALS, "si", Evaluator())
        found = sorted(search.find(workers), key=lambda way: way.place)
        self.assertEqual([(w.text, w.blocked) for w in found], [(w.text, w.blocked) for w in ways(0, "c2")])


class Broken(unittest.TestCase):
    def test_a_worker_that_dies_is_told_and_the_next_search_starts_others(self) -> None:
        workers = Workers(1)
        self.addCleanup(workers.close)
        with self.assertRaisesRegex(OmakaseError, "worker process"):
            list(workers.run(_die, None, [0]))
        self.assertEqual(list(workers.run(_double, None, [4])), [(0, 8)])


def _die(_evaluator: Evaluator, _common: object, _task: object) -> None:
    os._exit(1)


def _double(_evaluator: Evaluator, _common: object, task: int) -> int:
    return 2 * task


class Taking(unittest.TestCase):
    def test_a_way_stands_beside_its_origin(self) -> None:
        brief = PROJECT.briefs[0]
        candidate = find_candidate(brief, "c2")
        way = next(way for way in ways(0, "c2") if way.lever == "core")
        command, identity = as_command(way, brief, candidate)
        after = command.apply(PROJECT).briefs[0]
        self.assertEqual([c.id for c in after.candidates][1:3], ["c2", identity])
        self.assertEqual(find_candidate(after, "c2"), candidate)
        self.assertIn(way.text, find_candidate(after, identity).origin)
        self.assertEqual(command.revert(command.apply(PROJECT)), PROJECT)

    def test_clamped_edges_are_a_change_of_the_brief(self) -> None:
        brief = PROJECT.briefs[0]
        way = next(way for way in ways(0, "c2") if way.lever == "edges")
        command, identity = as_command(way, brief, find_candidate(brief, "c2"))
        self.assertIsInstance(command, EditBrief)
        self.assertEqual(identity, "c2")
        self.assertIn("clamped", str(command.apply(PROJECT).briefs[0].member.supports))

    def test_supports_that_are_given_stay(self) -> None:
        brief = replace(PROJECT.briefs[0], supports_given=True)
        candidate = find_candidate(brief, "c2")
        found = [lever.name for lever in levers(brief, candidate, MATERIALS, "si", False)]
        self.assertNotIn("edges", found)
        self.assertIn("core", found)

    def test_it_ends_when_told(self) -> None:
        own = PROJECT.briefs[0]
        count = 0

        def cancelled() -> bool:
            nonlocal count
            count += 1
            return count > 3

        search = WaysOut(own, own.candidates[1], MATERIALS, "si", Evaluator(), cancelled)
        self.assertEqual(list(search.find()), [])
        self.assertEqual(count, 4)

    def test_a_broken_candidate_has_none(self) -> None:
        own = PROJECT.briefs[0]
        self.assertEqual(list(WaysOut(own, Candidate("x", "x"), MATERIALS, "si", EVALUATOR).find()), [])


if __name__ == "__main__":
    unittest.main()
