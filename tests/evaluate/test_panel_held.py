"""Bolts, lines of support, elastic edges, a bed and ribs of a panel: as records, sentences, problems and results."""

from __future__ import annotations

import math
import unittest

import numpy as np

from omakase.core.members.panel import PanelResponse, respond
from omakase.core.members.panel_given import FULL, LINEAR
from omakase.core.members.panel_ribs import ACROSS
from omakase.evaluate.members.panel_ribs import evenly, new_rib, ribbed
from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.members.sentence import Act, Choice, Number, value_at, with_value
from omakase.evaluate.results.outcome import outcome
from omakase.evaluate.results.quick import slow
from omakase.evaluate.results.records import candidate_record
from omakase.evaluate.results.wording import reserve_text
from omakase.evaluate.sizing.forms import FormStudy, forms
from omakase.evaluate.sizing.levers import levers
from omakase.evaluate.sizing.study import measures, parameters
from omakase.evaluate.sizing.ways_out import all_beside
from omakase.project import edits, translate
from omakase.project.commands import replace
from omakase.project.demo import demo_project
from omakase.project.library import materials_of
from omakase.project.model import Brief, Candidate, LayerRecord, Limits, LoadCase, find_candidate
from omakase.project.panels import BoltCircle, BoltRow, PanelMember, PatchLoad, PressureLoad, SupportLine, Supports
from omakase.project.spans import PanelForm, RibRecord
from omakase.project.storage import from_bytes, to_bytes
from omakase.project.validation import brief_problems, candidate_problems
from tests.support import EVALUATOR

PROJECT = demo_project()
MATERIALS = materials_of(PROJECT)
BULKHEAD = next(brief for brief in PROJECT.briefs if brief.id == "b9")
FLOOR = PROJECT.briefs[0]
SHEET, FOAM, ON_A_HAT = (find_candidate(BULKHEAD, name) for name in ("c1", "c2", "c3"))


def act(brief: Brief, text: str) -> Act:
    return next(part for part in kind_of(brief).sentence(brief) if isinstance(part, Act) and part.text == text)


def held(brief: Brief, **changes: object) -> Brief:
    supports = replace(brief.member.supports, **changes)
    return replace(brief, member=replace(brief.member, supports=supports))


class Holding(unittest.TestCase):
    def test_bolts_of_a_row_stand_evenly(self) -> None:
        row = BoltRow(0.02, 0.03, 0.42, 0.03, 0.15)
        bolts = translate.bolts_of(row)
        np.testing.assert_allclose([bolt.x for bolt in bolts], [0.02, 0.02 + 0.4 / 3, 0.02 + 0.8 / 3, 0.42])
        self.assertEqual(len(translate.bolts_of(BoltRow(0.1, 0.1, 0.1, 0.1))), 1)

    def test_every_field_of_the_sentence_edits_and_reads_back(self) -> None:
        brief = held(FLOOR, x0="elastic", lines=(SupportLine(0.3),), bed=2e6)
        brief = act(brief, "+ bolts").change(brief)
        for part in kind_of(brief).sentence(brief):
            if isinstance(part, Number):
                new = with_value(brief, part.path, value_at(brief, part.path) * 1.01)
                self.assertNotEqual(new, brief)
            elif isinstance(part, Choice):
                for _, _, value in part.options:
                    self.assertEqual(value_at(part.put(brief, value), part.path), value)
        project = replace(PROJECT, briefs=(brief,))
        self.assertEqual(from_bytes(to_bytes(project), "t").briefs, (brief,))
        words = kind_of(brief).plain_member(brief, "si")
        for told in (
            "bolts from x",
            "a line of support across at x 300 mm",
            "bed of 2 N/cm³",
            "elastic edges take",
        ):
            self.assertIn(told, words)

    def test_bolts_all_round_hold_a_panel_that_nothing_else_holds(self) -> None:
        brief = act(FLOOR, "+ bolts all round").change(FLOOR)
        self.assertEqual({getattr(brief.member.supports, edge) for edge in ("x0", "x1", "y0", "y1")}, {"free"})
        self.assertEqual(brief_problems(brief), brief_problems(FLOOR))
        places = [(bolt.x, bolt.y) for bolt in translate.held(brief.member.supports).bolts]
        self.assertEqual(len(places), len(set(places)))
        result = EVALUATOR.evaluate(brief, find_candidate(brief, "c2"), MATERIALS, LINEAR)
        self.assertTrue(result.ok, result.error)

    def test_what_cannot_hold_is_told_at_the_panel(self) -> None:
        free = dict.fromkeys(("x0", "x1", "y0", "y1"), "free")
        for changes, words in (
            ({**free, "bolts": (BoltRow(0.1, 0.1, 0.3, 0.1),)}, "from swinging"),
            ({"bolts": (BoltRow(0.1, 0.1, 0.3, 0.1, 0.0),)}, "pitch"),
            ({"bolts": (BoltRow(0.1, 0.1, 3.0, 0.1),)}, "off the panel"),
            ({"lines": (SupportLine(2.0),)}, "not inside"),
            ({"bed": -1.0}, "more than zero"),
        ):
            told = dict(brief_problems(held(FLOOR, **changes)))
            self.assertIn(words, told.get("member", ""))

    def test_a_line_of_support_shortens_the_span(self) -> None:
        candidate = find_candidate(FLOOR, "c2")
        plain = EVALUATOR.evaluate(FLOOR, candidate, MATERIALS, LINEAR)
        brief = held(FLOOR, lines=(SupportLine(0.31),))
        lined = EVALUATOR.evaluate(brief, candidate, MATERIALS, LINEAR)
        for result in (plain, lined):
            self.assertTrue(result.ok, result.error)
        self.assertGreater(lined.worst("frequency").value, 1.2 * plain.worst("frequency").value)
        self.assertFalse(slow(FLOOR, candidate))
        self.assertTrue(slow(brief, candidate))

    def test_reactions_are_in_the_records(self) -> None:
        result = EVALUATOR.evaluate(BULKHEAD, FOAM, MATERIALS, LINEAR)
        taken = candidate_record(result, False)["reactions"]
        air = [entry for entry in taken if entry["load_case_id"] == "l2"]
        self.assertEqual({entry["kind"] for entry in air}, {"bolt"})
        self.assertAlmostEqual(sum(entry["force"] for entry in air), 900.0 * 0.48 * 0.36, places=4)
        floor = EVALUATOR.evaluate(FLOOR, find_candidate(FLOOR, "c2"), MATERIALS, LINEAR)
        entries = candidate_record(floor, False)["reactions"]
        self.assertEqual({entry["kind"] for entry in entries}, {"edge"})


class Ribs(unittest.TestCase):
    def test_a_rib_is_added_with_layers_and_goes_with_them(self) -> None:
        first = find_candidate(FLOOR, "c2")
        with_one = ribbed(FLOOR, first, 1)
        self.assertEqual(kind_of(FLOOR).walls(with_one), ("", "rib"))
        self.assertTrue(edits.rows_of_wall(with_one, "rib"))
        self.assertEqual(candidate_problems(FLOOR, with_one, MATERIALS), [])
        removed = next(
            part
            for part in kind_of(FLOOR).form_sentence(FLOOR, with_one, MATERIALS)
            if isinstance(part, Act) and part.what == "Remove rib 1"
        ).change(with_one)
        self.assertEqual(removed.layers, first.layers)

    def test_every_field_of_the_sentence_edits(self) -> None:
        for outline in ("strip", "blade", "tee", "hat"):
            rib = RibRecord(True, 0.2, 0.05, 0.3, outline, face="face_a")
            candidate = replace(ribbed(FLOOR, find_candidate(FLOOR, "c2"), 1), form=PanelForm(ribs=(rib,)))
            for part in kind_of(FLOOR).form_sentence(FLOOR, candidate, MATERIALS):
                if isinstance(part, Number):
                    new = with_value(candidate, part.path, value_at(candidate, part.path) + 1e-3)
                    self.assertNotEqual(new, candidate)
                elif isinstance(part, Choice):
                    for _, _, value in part.options:
                        self.assertEqual(value_at(part.put(candidate, value), part.path), value)

    def test_mass_areas_and_thickness(self) -> None:
        result = EVALUATOR.evaluate(BULKHEAD, ON_A_HAT, MATERIALS, LINEAR)
        assert isinstance(result.response, PanelResponse)
        beam = result.response.ribs[0].beam
        bare = EVALUATOR.evaluate(BULKHEAD, replace(FOAM, layers=ON_A_HAT.layers[:3]), MATERIALS, LINEAR)
        self.assertAlmostEqual(result.mass - bare.mass, beam.mass * 0.36, places=9)
        self.assertEqual(result.worst("thickness").value, bare.worst("thickness").value)
        areas = kind_of(BULKHEAD).layer_areas(BULKHEAD, ON_A_HAT)
        self.assertAlmostEqual(areas[-1], 0.36 * (2 * 0.014 + 2 * math.hypot(0.004, 0.02) + 0.018), delta=1e-5)

    def test_checks_of_a_rib_by_hand(self) -> None:
        result = EVALUATOR.evaluate(BULKHEAD, find_candidate(BULKHEAD, "c4"), MATERIALS, LINEAR)
        assert isinstance(result.response, PanelResponse)
        buckling, bond = result.worst("rib_buckling"), result.worst("rib_bond")
        # the air pulls from face B, so that blades there are pressed where the back pushes and pulled where it does not
        rib = result.response.ribs[0]
        blade = [piece.name for piece in rib.beam.pieces].index("blade")
        limit = rib.beam.buckling_strains[blade]
        standing = slice(blade * len(ACROSS), (blade + 1) * len(ACROSS))
        pressed = max(float(-case.strains[:, standing, 0].min()) for own in result.response.ribs for case in own.cases)
        self.assertAlmostEqual(buckling.reserve_factor, limit / pressed / 1.5, delta=0.02 * buckling.reserve_factor)
        flow = max(float(case.flow.max()) for own in result.response.ribs for case in own.cases)
        self.assertAlmostEqual(bond.value, 1.5 * flow / (2.0 * 0.012), delta=1e-6 * bond.value)
        self.assertEqual({buckling.wall, bond.wall}, {"rib"})
        self.assertTrue(reserve_text(buckling.reserve_factor))

    def test_twice_the_load_halves_every_reserve(self) -> None:
        double = replace(BULKHEAD, load_cases=tuple(edits.scaled_case(case, 2.0) for case in BULKHEAD.load_cases))
        one, two = (EVALUATOR.evaluate(brief, ON_A_HAT, MATERIALS, LINEAR) for brief in (BULKHEAD, double))
        for name in ("rib_buckling", "rib_bond", "face_failure", "core_shear"):
            ratio = one.worst(name).reserve_factor / two.worst(name).reserve_factor
            self.assertAlmostEqual(ratio, 2.0, places=6)

    def test_bad_ribs_are_told_in_words(self) -> None:
        base = ribbed(FLOOR, find_candidate(FLOOR, "c2"), 1)
        rib = new_rib(FLOOR)
        for changed, words in (
            (replace(rib, place=5.0), "off the panel"),
            (replace(rib, low=0.3, high=0.1), "further on"),
            (replace(rib, height=0.0), "height"),
            (replace(rib, crown=1.0), "crown"),
        ):
            told = candidate_problems(FLOOR, replace(base, form=PanelForm(ribs=(changed,))), MATERIALS)
            self.assertIn(words, " ".join(text for _, text in told))
        bare = replace(base, layers=tuple(layer for layer in base.layers if not layer.wall))
        self.assertIn("the rib has no layers yet", [text for _, text in candidate_problems(FLOOR, bare, MATERIALS)])
        orphan = replace(base, form=PanelForm())
        self.assertTrue(any("wall 'rib'" in text for _, text in candidate_problems(FLOOR, orphan, MATERIALS)))
        filled = replace(base, form=PanelForm(ribs=(replace(rib, filling="nothing-like-it"),)))
        self.assertIn("not among the materials", EVALUATOR.evaluate(FLOOR, filled, MATERIALS).error)

    def test_equal_pitch(self) -> None:
        ribs = (*(RibRecord(False, place) for place in (0.1, 0.15, 0.3)), RibRecord(True, 0.0))
        np.testing.assert_allclose([rib.place for rib in evenly(ribs, FLOOR.member)], [0.155, 0.31, 0.465, 0.0])

    def test_levers_and_parameters(self) -> None:
        offered = {lever.name: lever for lever in levers(BULKHEAD, FOAM, MATERIALS, "si", False)}
        self.assertIn("ribs", offered)
        options = offered["ribs"].options
        self.assertEqual([len(option.candidate.form.ribs) for option in options], [1, 2, 3])
        found = EVALUATOR.evaluate(BULKHEAD, options[1].candidate, MATERIALS, LINEAR)
        self.assertTrue(found.ok, found.error)
        names = {parameter.key: parameter for parameter in parameters(BULKHEAD, ON_A_HAT, MATERIALS)}
        state = names["rib_pitch"].put((BULKHEAD, ON_A_HAT, MATERIALS), 0.12)
        self.assertEqual(len(state[1].form.ribs), 3)
        offered = {measure.key: measure for measure in measures(BULKHEAD)}
        result = outcome(BULKHEAD, EVALUATOR.evaluate(BULKHEAD, ON_A_HAT, MATERIALS, LINEAR), MATERIALS)
        parts = [offered[key].of(result) for key in ("skin_mass", "rib_mass")]
        self.assertAlmostEqual(sum(parts), result.mass, places=12)
        self.assertGreater(min(parts), 0.01)
        self.assertNotIn("rib_mass", {measure.key for measure in measures(FLOOR)})
        state = names["rib_height"].put((BULKHEAD, ON_A_HAT, MATERIALS), 0.03)
        self.assertEqual(state[1].form.ribs[0].height, 0.03)


class Forms(unittest.TestCase):
    """What shape may do in place of plies, as ways out offer it."""

    def test_free_edges_are_turned_up(self) -> None:
        brief = held(FLOOR, y0="free", y1="free")
        candidate = find_candidate(brief, "c2")
        offered = {lever.name: lever for lever in levers(brief, candidate, MATERIALS, "si", False)}
        lipped = offered["lips"].options[-1].candidate
        self.assertEqual([(rib.along, rib.place) for rib in lipped.form.ribs], [(True, 0.0), (True, 0.44)])
        plain, stiff = (EVALUATOR.evaluate(brief, own, MATERIALS, LINEAR) for own in (candidate, lipped))
        self.assertLess(stiff.worst("deflection").value, 0.6 * plain.worst("deflection").value)
        self.assertIn("dish", offered)
        self.assertEqual(offered["dish"].options[0].candidate.form.rise_along, 0.0088)

    def test_an_opening_takes_mass_and_adds_sag(self) -> None:
        candidate = find_candidate(FLOOR, "c4")
        add = next(
            part
            for part in kind_of(FLOOR).form_sentence(FLOOR, candidate, MATERIALS)
            if isinstance(part, Act) and part.text == "+ opening"
        )
        opened = add.change(candidate)
        hole = replace(opened.zones[0], low=0.45, high=0.55, near=0.25, far=0.35)
        opened = replace(opened, zones=(hole,))
        self.assertEqual(candidate_problems(FLOOR, opened, MATERIALS), [])
        before, after = (EVALUATOR.evaluate(FLOOR, own, MATERIALS, LINEAR) for own in (candidate, opened))
        self.assertAlmostEqual(after.mass / before.mass, 1.0 - 0.01 / (0.62 * 0.44), places=9)
        self.assertGreater(after.worst("deflection").value, before.worst("deflection").value)
        self.assertTrue(any(finding.rule == "open_edge" for finding in after.findings))
        for check in after.checks:
            inside = (
                check.place.x is not None and 0.451 < check.place.x < 0.549 and 0.251 < (check.place.y or 0) < 0.349
            )
            self.assertFalse(inside, check.title)
        for changed, words in (
            (replace(hole, low=0.0), "away from its edges"),
            (replace(hole, rim=0.02), "rim cannot"),
            (replace(hole, high=0.4), "further on"),
        ):
            told = candidate_problems(FLOOR, replace(opened, zones=(changed,)), MATERIALS)
            self.assertIn(words, " ".join(text for _, text in told))
        foot = next(load for case in FLOOR.load_cases for load in case.loads if isinstance(load, PatchLoad))
        below = replace(hole, low=foot.x - 0.02, high=foot.x + 0.02, near=foot.y - 0.02, far=foot.y + 0.02)
        stands = EVALUATOR.evaluate(FLOOR, replace(opened, zones=(below,)), MATERIALS, LINEAR)
        self.assertIn("is in an opening", stands.error)


class FormStudies(unittest.TestCase):
    """A sheet that is too soft, held along two edges: what each form comes to for the same limits."""

    def setUp(self) -> None:
        pressed = LoadCase("l1", "air", (PressureLoad(1500.0),))
        supports = Supports("simple", "simple", "free", "free")
        self.brief = Brief("f", "Floor", PanelMember(0.5, 0.3, supports), (pressed,), Limits(deflection=0.004))
        self.sheet = Candidate("c", "Sheet", (LayerRecord("al6082", 0.0, 0.0012, "ply"),))

    def test_the_lightest_of_each_form_passes_and_is_what_it_says(self) -> None:
        study = FormStudy(self.brief, self.sheet, MATERIALS, "si", EVALUATOR)
        ways = {way.lever: way for way in study.find()}
        self.assertEqual(set(ways), {"skins", "ribs", "arch", "dish", "lips"})
        self.assertFalse(study.present.passes)
        passing = [way for way in ways.values() if way.outcome is not None]
        self.assertGreater(len(passing), 1)
        for way in passing:
            found = EVALUATOR.evaluate(self.brief, way.option.candidate, MATERIALS)
            self.assertTrue(found.passes, way.text)
            self.assertAlmostEqual(found.mass, way.outcome.mass, places=9)
        # shape beats mass
        self.assertLess(ways["ribs"].outcome.mass, 0.5 * ways["skins"].outcome.mass)
        command = all_beside(list(ways.values()), replace(self.brief, candidates=(self.sheet,)), self.sheet)
        self.assertEqual(len(command.new), 1 + len(passing))
        self.assertEqual(command.new[0], self.sheet)

    def test_families_start_from_the_flat_candidate(self) -> None:
        ribbed_one = ribbed(self.brief, replace(self.sheet, form=PanelForm(0.02)), 2)
        families = {family.name: family for family in forms(self.brief, ribbed_one, "si")}
        self.assertEqual(families["skins"].options[0].candidate.form, PanelForm())
        self.assertEqual([len(option.candidate.form.ribs) for option in families["ribs"].options][:4], [1, 1, 1, 2])
        self.assertEqual({layer.wall for layer in families["arch"].options[0].candidate.layers}, {""})


class QuickAnswers(unittest.TestCase):
    def test_the_quick_order_is_near_the_full_one(self) -> None:
        quick = EVALUATOR.quick(BULKHEAD, ON_A_HAT, MATERIALS)
        full = EVALUATOR.evaluate(BULKHEAD, ON_A_HAT, MATERIALS, FULL)
        for name, within in (("deflection", 0.03), ("frequency", 0.03), ("mass", 1e-9)):
            ratio = quick.worst(name).value / full.worst(name).value
            self.assertAlmostEqual(ratio, 1.0, delta=within)

    def test_searches_stand_in_for_bolts(self) -> None:
        panel, cases = translate.stand_in(BULKHEAD)
        self.assertEqual(len(cases), len(BULKHEAD.load_cases))
        self.assertEqual(panel.edges.x0, "resting")
        self.assertFalse(panel.held.anything)
        candidate = Candidate("n", "n", FOAM.layers)
        self.assertFalse(translate.is_linear(BULKHEAD, candidate))

    def test_what_stands_in_is_no_softer(self) -> None:
        """Whatever holds a panel: the quick rectangle sags less and vibrates no slower."""
        hatch = next(brief for brief in PROJECT.briefs if brief.id == "b10")
        layers = Candidate("n", "n", FOAM.layers)
        for brief in (
            BULKHEAD, hatch, held(hatch, x0="clamped"), held(FLOOR, lines=(SupportLine(0.3),)),
            held(hatch, circle=BoltCircle(8, 0.05)), held(FLOOR, bolts=(BoltRow(0.31, 0.22, 0.31, 0.22),)),
            held(FLOOR, bed=1e7),
        ):  # fmt: skip
            full = EVALUATOR.evaluate(brief, layers, MATERIALS, LINEAR)
            panel, cases = translate.stand_in(brief)
            quick = respond(panel, full.stack, cases, LINEAR)
            for own, exact in zip(quick.cases, full.response.cases, strict=True):
                self.assertLessEqual(own.largest_deflection[0], exact.largest_deflection[0])
            self.assertGreaterEqual(quick.frequencies[0], full.response.frequencies[0])


class Beads(unittest.TestCase):
    def bead(self, shape: str, formed: bool, along: bool = True) -> Candidate:
        rib = RibRecord(along, 0.18 if along else 0.24, outline=shape, height=0.012, width=0.03, formed=formed)
        return replace(SHEET, form=replace(SHEET.form, ribs=(rib,)))

    def choose(self, candidate: Candidate, name: str, value: object) -> Candidate:
        form = kind_of(BULKHEAD).form_sentence(BULKHEAD, candidate, MATERIALS)
        part = next(own for own in form if isinstance(own, Choice) and own.name == name)
        return part.put(candidate, value)

    def test_a_bead_is_of_the_sheet_and_has_no_layers_of_its_own(self) -> None:
        bonded = ribbed(BULKHEAD, SHEET, 1)
        self.assertEqual({layer.wall for layer in bonded.layers}, {"", "rib"})
        arc = self.choose(bonded, "Shape of rib 1", "half_round")
        self.assertEqual({layer.wall for layer in arc.layers}, {"", "rib"})
        bead = self.choose(arc, "How rib 1 is made", True)
        self.assertEqual({layer.wall for layer in bead.layers}, {""})
        self.assertEqual(kind_of(BULKHEAD).walls(bead), ("",))
        self.assertEqual(candidate_problems(BULKHEAD, bead, MATERIALS), [])
        back = self.choose(bead, "Shape of rib 1", "blade")
        self.assertEqual({layer.wall for layer in back.layers}, {"", "rib"})
        self.assertEqual(from_bytes(to_bytes(replace(PROJECT, briefs=(replace(BULKHEAD, candidates=(bead,)),))), "t")
                         .briefs[0].candidates, (bead,))  # fmt: skip

    def test_formed_it_adds_only_the_longer_way(self) -> None:
        bare = EVALUATOR.evaluate(BULKHEAD, SHEET, MATERIALS, LINEAR)
        for shape, way in (("triangle", 2.0 * math.hypot(0.015, 0.012)), ("half_round", 0.0)):
            for along in (True, False):
                bead = self.bead(shape, True, along)
                result = EVALUATOR.evaluate(BULKHEAD, bead, MATERIALS, LINEAR)
                self.assertTrue(result.ok, result.error)
                sags = [own.response.cases[0].largest_deflection[0] for own in (result, bare)]
                self.assertLess(sags[0], 0.8 * sags[1])
                self.assertFalse(any(check.check == "rib_bond" for check in result.checks))
                self.assertTrue(any(check.check == "rib_buckling" for check in result.checks))
                if way:
                    more = (way - 0.03) * (BULKHEAD.member.length if along else BULKHEAD.member.width)
                    self.assertAlmostEqual((result.mass - bare.mass) / (more * bare.areal_mass), 1.0, delta=0.03)

    def test_a_sandwich_has_none(self) -> None:
        form = replace(FOAM.form, ribs=self.bead("triangle", True).form.ribs)
        problems = candidate_problems(BULKHEAD, replace(FOAM, form=form), MATERIALS)
        self.assertEqual([place for place, _ in problems], [".form.ribs"])
        self.assertIn("a panel with a core has none", problems[0][1])


if __name__ == "__main__":
    unittest.main()
