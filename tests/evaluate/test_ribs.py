"""Ribs as jobs: what is compared, what is told where it does not make sense, loads that bend the wing further."""

from __future__ import annotations

import unittest

import numpy as np

from omakase.core.materials.material import Material
from omakase.core.members.rib import RibResponse
from omakase.core.sections.cylinder import wall_stiffness
from omakase.evaluate.results.decision import decision
from omakase.evaluate.results.lineup import line_up
from omakase.evaluate.results.records import candidate_record
from omakase.evaluate.vehicle.resize import Rule, resized
from omakase.project import edits
from omakase.project.commands import replace
from omakase.project.demo import demo_project
from omakase.project.library import materials_of
from omakase.project.model import Brief, Candidate, find_candidate
from omakase.project.panels import OwnWeight
from omakase.project.spans import LoadStation, SpanSupport, Station, TorqueLoad
from omakase.project.validation import brief_problems, candidate_problems
from omakase.project.wings import AirLoad, AirTable, HoleRecord, RibMember, SkinLoad
from tests.support import EVALUATOR

PROJECT = demo_project()
MATERIALS: dict[str, Material] = dict(materials_of(PROJECT))
BRIEF = next(brief for brief in PROJECT.briefs if isinstance(brief.member, RibMember))
CHANNEL = find_candidate(BRIEF, "c4")


def response(brief: Brief = BRIEF, candidate: Candidate = CHANNEL) -> RibResponse:
    result = EVALUATOR.evaluate(brief, candidate, MATERIALS)
    assert result.ok, result.error
    assert isinstance(result.response, RibResponse)
    return result.response


class Jobs(unittest.TestCase):
    def test_ribs_are_compared_by_mass_per_length_of_wing(self) -> None:
        listed = line_up(BRIEF, [EVALUATOR.evaluate(BRIEF, own, MATERIALS) for own in BRIEF.candidates])
        self.assertIn("kg/m", decision(listed, "si"))

    def test_air_loads_go_with_the_pitch_and_add_up(self) -> None:
        even = replace(
            BRIEF, load_cases=(replace(BRIEF.load_cases[0], factor=1.0, loads=(AirLoad(30.0, 0.0, 0.185),)),)
        )
        form = replace(CHANNEL.form, pitch=2 * CHANNEL.form.pitch)
        for candidate in (CHANNEL, replace(CHANNEL, form=form)):
            own = response(even, candidate)
            depth = own.rib.beam.shape.sizes(np.array(own.rib.cell)).height
            taken = own.results[0].reactions[:, 0].sum() + own.flows_of[0] * float(depth[1] - depth[0])
            self.assertAlmostEqual(-taken / (30.0 * candidate.form.pitch), 1.0, places=9)
        table = AirTable((LoadStation(0.0, 30.0 / 0.185), LoadStation(0.185, 30.0 / 0.185)))
        listed = replace(even, load_cases=(replace(even.load_cases[0], loads=(table,)),))
        self.assertAlmostEqual(response(listed).flows_of[0] / response(even).flows_of[0], 1.0, places=9)

    def test_the_bond_to_the_skin_is_judged(self) -> None:
        """Flow of the cell and pull of the skin over the width of the bond, as squares."""
        result = EVALUATOR.evaluate(BRIEF, CHANNEL, MATERIALS)
        own = response()
        found = {check.case_id: check for check in result.checks if check.check == "skin_bond"}
        self.assertEqual(set(found), {case.id for case in BRIEF.load_cases})
        level = BRIEF.judgement.factor_of_safety * BRIEF.judgement.special_factor
        for answer, flow in zip(own.results, own.flows_of, strict=True):
            pull = np.abs(answer.diagrams.load).max() / own.rib.bond / own.rib.bond_tension
            share = level * np.hypot(flow / own.rib.bond / own.rib.bond_shear, pull)
            self.assertAlmostEqual(found[answer.case.key].reserve_factor * share, 1.0, places=9)
        loose = EVALUATOR.evaluate(BRIEF, replace(CHANNEL, form=replace(CHANNEL.form, bond=0.0)), MATERIALS)
        self.assertFalse([check for check in loose.checks if check.check == "skin_bond"])

    def test_a_corner_names_the_layer_of_its_own_wall(self) -> None:
        result = EVALUATOR.evaluate(BRIEF, CHANNEL, MATERIALS)
        webs = [row for row, layer in enumerate(CHANNEL.layers) if layer.wall == "web"]
        corners = [check for check in result.checks if check.check == "flange_corner"]
        self.assertTrue(corners)
        for check in corners:
            self.assertIn(check.place.layer, webs)

    def test_a_load_factor_bends_the_wing_further(self) -> None:
        case = edits.scaled_case(replace(BRIEF.load_cases[0], loads=(SkinLoad(100.0, 20.0, 30.0), OwnWeight(1.0))), 3.0)
        self.assertEqual(case.loads[0], SkinLoad(300.0, 60.0, 10.0))

    def test_reactions_and_skin_flow_are_in_the_record(self) -> None:
        record = candidate_record(EVALUATOR.evaluate(BRIEF, CHANNEL, MATERIALS), False)
        self.assertEqual(len(record["reactions"]), 4)
        self.assertAlmostEqual(record["reactions"][0]["skin_flow"], response().flows_of[0])

    def test_resized_along_the_chord_and_the_wing(self) -> None:
        new, _ = resized(BRIEF, Rule(along=1.1, across=1.2))
        member, form = new.member, find_candidate(new, "c4").form
        self.assertAlmostEqual(member.length / BRIEF.member.length, 1.1)
        self.assertAlmostEqual(member.chord / BRIEF.member.chord, 1.1)
        self.assertAlmostEqual(form.pitch / CHANNEL.form.pitch, 1.2)
        self.assertAlmostEqual(new.load_cases[0].loads[0].lift / BRIEF.load_cases[0].loads[0].lift, 1.1)

    def test_what_is_wrong_with_a_rib_is_told_at_its_place(self) -> None:
        def told(member: RibMember) -> str:
            return next(
                (text for place, text in brief_problems(replace(BRIEF, member=member)) if place == "member"), ""
            )

        member = BRIEF.member
        for wrong, words in (
            (replace(member, ahead=0.1), "must lie between"),
            (replace(member, profile="24x2"), "four digits"),
            (replace(member, cell="box", supports=member.supports[:1]), "needs two"),
            (replace(member, cell="nose", supports=(SpanSupport(0.0), SpanSupport(0.1))), "no room"),
            (replace(member, supports=(SpanSupport(0.068, "clamped"), SpanSupport(0.185))), "without clamping"),
            (replace(member, cell="none", supports=(SpanSupport(0.068),)), "one support"),
            (replace(member, share=1.2), "none and all"),
        ):
            self.assertIn(words, told(wrong))
        torque = replace(BRIEF, load_cases=(replace(BRIEF.load_cases[0], loads=(TorqueLoad(1.0, 0.1),)),))
        self.assertEqual([place for place, _ in brief_problems(torque)], ["load_cases[0]"])
        for holes in ((HoleRecord(0.1, 0.05),), (HoleRecord(0.2, 0.01),)):
            wrong = replace(CHANNEL, form=replace(CHANNEL.form, holes=holes))
            self.assertEqual([place for place, _ in candidate_problems(BRIEF, wrong, MATERIALS)], [".form"])

    def test_depth_may_be_stated_instead(self) -> None:
        flat = replace(BRIEF, member=replace(BRIEF.member, depth=(Station(0.0, 0.03),)))
        self.assertAlmostEqual(response(flat).measures["thickness"][0].value, 0.03)

    def test_a_rib_without_skin_has_no_bay(self) -> None:
        bare = replace(CHANNEL, layers=tuple(layer for layer in CHANNEL.layers if layer.wall != "skin"))
        own = response(BRIEF, bare)
        self.assertEqual(own.frequencies, ())
        self.assertNotIn("bay_sag", own.measures)

    def test_the_corner_of_a_flange_is_pulled_open(self) -> None:
        """3 M/(2 t √(r_i r_o)) of Kedward, Wilson and McLean (1989), M the pull of a bay at half the bond's width."""
        result = EVALUATOR.evaluate(BRIEF, CHANNEL, MATERIALS)
        check = next(own for own in result.checks if own.check == "flange_corner" and own.case_id == "l1")
        own, form = response(), CHANNEL.form
        t = own.web_at(0.1).stack.thickness
        pull = np.abs(own.results[0].diagrams.load).max()
        moment = pull * form.bond / 2.0
        stress = 3.0 * moment / (2.0 * t * np.sqrt((form.radius - t) * form.radius))
        strength = 0.6 * MATERIALS["plain90"].value("S13")
        self.assertAlmostEqual(check.value / (1.5 * stress / strength), 1.0, delta=0.03)
        sharp = replace(CHANNEL, form=replace(form, radius=0.0))
        checks = {own.check for own in EVALUATOR.evaluate(BRIEF, sharp, MATERIALS).checks}
        self.assertNotIn("flange_corner", checks)

    def test_crushing_by_hand(self) -> None:
        """N κ times the pitch on the web, which fails as a column or by its plies, whichever is less."""
        result = EVALUATOR.evaluate(BRIEF, CHANNEL, MATERIALS)
        check = next(own for own in result.checks if own.check == "rib_crushing" and own.case_id == "l1")
        load = BRIEF.load_cases[0].loads[1]
        pressure = 5 * load.pressed * 5 / load.radius * CHANNEL.form.pitch
        own = response()
        plate = own.web_at(0.1)
        _, _, D = wall_stiffness(plate)
        hole = CHANNEL.form.holes[1]
        room = min(abs(other.x - hole.x) for other in CHANNEL.form.holes if other is not hole)
        column = np.pi**2 * D[1, 1] / own.depth[np.argmin(np.abs(own.x - 0.081))] ** 2 * (1 - hole.diameter / room)
        self.assertAlmostEqual(check.reserve_factor / (np.sqrt(column / pressure) / 1.5), 1.0, delta=0.03)
