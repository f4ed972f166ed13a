"""Details as jobs: loads from supports and loads of the member, what hangs in the air, ways out, files and records."""

from __future__ import annotations

import json
import math
import unittest

from omakase.core.checks.result import CheckResult
from omakase.core.design_values import DesignCondition, FamilyValues
from omakase.core.details.fastener import Fastener
from omakase.core.details.impact import LEVELS
from omakase.core.members.panel import PanelResponse
from omakase.evaluate.details.kind import doubled, free_id, with_detail, without_detail
from omakase.evaluate.details.registry import all_detail_kinds, detail_drawing, detail_kind, detail_levers
from omakase.evaluate.history.changes import candidate_changes
from omakase.evaluate.members.sentence import Act, Choice, Number, plain, value_at, with_value
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.results.engine import Evaluator
from omakase.evaluate.results.records import candidate_record
from omakase.evaluate.sizing.ways_out import LeverSearch
from omakase.evaluate.vehicle.resize import Rule, resized
from omakase.project.commands import EditConditions, replace
from omakase.project.conditions import CAUTIOUS, AppliedCondition, DesignValue
from omakase.project.demo import demo_project
from omakase.project.details import BondDetail, Detail, DetailLoad, FastenerDetail, ImpactDetail, InsertDetail, SeamLoad
from omakase.project.layers import LayerRecord
from omakase.project.library import materials_of
from omakase.project.model import Accepted, Brief, Candidate, find_brief, find_candidate
from omakase.project.panels import BoltRow, EdgeLoad, PanelMember
from omakase.project.spans import SpanSupport
from omakase.project.storage import from_bytes, to_bytes
from omakase.project.translate import settings
from omakase.project.validation import candidate_problems
from tests.support import EVALUATOR

PROJECT = demo_project()
MATERIALS = dict(materials_of(PROJECT))


def job(brief: str, candidate: str) -> tuple[Brief, Candidate]:
    found = find_brief(PROJECT, brief)
    return found, find_candidate(found, candidate)


def judged(brief: Brief, candidate: Candidate) -> CandidateResult:
    result = EVALUATOR.evaluate(brief, candidate, MATERIALS)
    assert result.ok, result.error
    return result


def of_detail(result: CandidateResult, identity: str) -> dict[str, CheckResult]:
    return {f"{check.check} {check.case_id}": check for check in result.checks if check.detail == identity}


def with_details(brief: str, candidate: str, *details: Detail) -> tuple[Brief, Candidate]:
    found, own = job(brief, candidate)
    return found, replace(own, details=details)


class Loads(unittest.TestCase):
    def test_a_hinge_takes_the_load_that_acts_there(self) -> None:
        brief, own = job("b8", "c4")
        hinge = next(made for made in judged(brief, own).details if made.key == "d1")
        assert isinstance(hinge, Fastener)
        self.assertEqual([(case.key, case.pull, case.shear) for case in hinge.cases], [("l2", 300.0, 0.0)])

    def test_bolts_take_their_reaction_case_by_case(self) -> None:
        """The floor on four bolts near its corners: what the bolts push up is what the detail is pulled by."""
        brief, own = job("b1", "c4")
        supports = find_brief(PROJECT, "b1").member.supports  # type: ignore[union-attr]
        free = replace(supports, x0="free", x1="free", y0="free", y1="free", bolts=tuple(
            BoltRow(x, y, x, y) for x in (0.03, 0.59) for y in (0.03, 0.41)
        ))  # fmt: skip
        assert isinstance(brief.member, PanelMember)
        held = replace(brief, member=replace(brief.member, supports=free))
        bolt = FastenerDetail("d1", "corner bolt", 0.03, 0.03, taken="support", torque=0.2, washer=0.02)
        result = judged(held, replace(own, details=(bolt,)))
        assert isinstance(result.response, PanelResponse)
        (made,) = result.details
        for case, response in zip(made.cases, result.response.cases, strict=True):  # type: ignore[attr-defined]
            near = next(r for r in response.reactions if math.hypot(r.x - 0.03, r.y - 0.03) < 1e-6)
            self.assertAlmostEqual(case.pull, near.force)

    def test_an_edge_gives_its_largest_force_per_length_times_the_pitch(self) -> None:
        bolt = FastenerDetail("d1", "edge bolt", 0.0, 0.22, taken="support", torque=0.2, pitch=0.05, edge=0.02)
        brief, own = with_details("b1", "c4", bolt)
        result = judged(brief, own)
        assert isinstance(result.response, PanelResponse)
        for case, response in zip(result.details[0].cases, result.response.cases, strict=True):  # type: ignore[attr-defined]
            edge = next(r for r in response.reactions if r.name == "left end")
            self.assertAlmostEqual(case.pull, 0.05 * float(edge.most or 0.0))

    def test_a_spar_root_is_borne_by_a_row_of_two(self) -> None:
        brief, own = job("b6", "c2")
        result = judged(brief, own)
        (made,) = result.details
        assert isinstance(made, Fastener)
        for case, spanned in zip(made.cases, result.response.results, strict=True):  # type: ignore[union-attr]
            up, bending = float(spanned.reactions[0, 0]), float(spanned.reactions[0, 1])
            forces = made.forces(case)
            self.assertAlmostEqual(forces[:, 1].sum(), up, places=6)
            self.assertAlmostEqual((forces[1, 1] - forces[0, 1]) * made.pitch / 2.0, bending, places=6)

    def test_twice_the_load_of_the_member_doubles_what_a_detail_takes(self) -> None:
        brief, own = job("b8", "c4")
        twice = replace(brief, load_cases=tuple(replace(case, factor=2.0 * case.factor) for case in brief.load_cases))
        cases = [judged(b, own).details[0].cases[0] for b in (brief, twice)]  # type: ignore[attr-defined]
        self.assertAlmostEqual(cases[1].pull / cases[0].pull, 2.0)

    def test_a_seam_takes_what_goes_through_its_edge(self) -> None:
        brief, own = job("b1", "c4")
        pulled = replace(brief.load_cases[1], id="l9", loads=(EdgeLoad(ends=-4000.0, shear=500.0),))
        brief = replace(brief, load_cases=(*brief.load_cases, pulled))
        seam = BondDetail("d1", "seam", 0.62, 0.22, taken="support")
        result = judged(brief, replace(own, details=(seam,)))
        pulls = {case.key: case.pull for case in result.details[0].cases}  # type: ignore[attr-defined]
        self.assertEqual(pulls, {"l1": 0.0, "l2": 0.0, "l3": 0.0, "l9": -4000.0})

    def test_a_seam_takes_the_flow_of_its_web(self) -> None:
        seam = BondDetail("d1", "seam", 0.5, wall="front web", taken="support", overlap=0.01)
        brief, own = with_details("b6", "c3", seam)
        flows = [case.flow for case in judged(brief, own).details[0].cases]  # type: ignore[attr-defined]
        self.assertTrue(all(flow > 100.0 for flow in flows))

    def test_a_stringer_takes_the_flow_under_its_rib(self) -> None:
        brief, own = job("b9", "c3")
        rib = own.form.ribs[0]  # type: ignore[union-attr]
        seam = BondDetail("d1", "foot", 0.3 if rib.along else rib.place, rib.place if rib.along else 0.3, wall="rib",
                          taken="support", form="stringer", overlap=2.0 * rib.foot)  # fmt: skip
        result = judged(brief, replace(own, details=(seam,)))
        (made,) = result.details
        assert isinstance(result.response, PanelResponse)
        flows = [float(case.flow.max()) for case in result.response.ribs[0].cases]
        for case, most in zip(made.cases, flows, strict=True):  # type: ignore[attr-defined]
            self.assertGreater(case.flow, 0.0)
            self.assertLessEqual(case.flow, most)
        far = replace(seam, x=0.01, y=0.01)
        self.assertTrue(
            [check for check in judged(brief, replace(own, details=(far,))).checks if check.check == "detail"]
        )


class InTheAir(unittest.TestCase):
    def broken(self, brief: Brief, candidate: Candidate) -> str:
        result = judged(brief, candidate)
        (check,) = [own for own in result.checks if own.check == "detail"]
        self.assertFalse(result.passes)
        self.assertEqual(result.checks[0], check)
        return check.method

    def test_a_detail_whose_member_changed_is_told(self) -> None:
        brief, own = job("b8", "c4")
        assert isinstance(brief.member, PanelMember)
        shorter = replace(brief, member=replace(brief.member, length=0.3))
        cases = tuple(replace(case, loads=()) for case in shorter.load_cases)
        typed = tuple(replace(detail, taken="typed") for detail in own.details)
        text = self.broken(replace(shorter, load_cases=cases), replace(own, details=typed[1:], zones=(), layers=FLAT))
        self.assertIn("outside the part", text)

    def test_no_support_no_load_no_wall(self) -> None:
        for changes, words in (
            ({"taken": "support", "x": 0.3, "y": 0.2}, "no bolt, line or held edge"),
            ({"taken": "load", "x": 0.55, "y": 0.4}, "no load acts"), ({"wall": "web"}, "no wall 'web'"),
            ({"plate": "unobtainium"}, "no material"), ({"plug": "al6082"}, "does not state"),
            ({"layers": (LayerRecord("twill200"), LayerRecord("nothing"))}, "no material is named 'nothing'"),
        ):  # fmt: skip
            bolt = replace(FastenerDetail("d1", "bolt", 0.3, 0.2), **changes)
            brief, own = with_details("b1", "c4", bolt)
            with self.subTest(changes=changes):
                self.assertIn(words, self.broken(brief, own))

    def test_a_single_pin_cannot_bear_a_root_moment(self) -> None:
        brief, own = job("b6", "c2")
        pin = replace(own.details[0], count=1)
        self.assertIn("one bolt cannot carry the moment", self.broken(brief, replace(own, details=(pin,))))

    def test_a_support_that_moves_away_is_told(self) -> None:
        brief, own = job("b6", "c2")
        moved = replace(brief, member=replace(brief.member, supports=(SpanSupport(0.4, "clamped", 0.05),)))  # type: ignore[call-arg]
        self.assertIn("no support within", self.broken(moved, own))

    def test_what_is_wrong_is_told_at_its_field(self) -> None:
        for field, changes in (
            ("edge", {"edge": 0.002}), ("torque", {"torque": None}), ("washer", {"washer": 0.001}),
        ):  # fmt: skip
            brief, own = with_details("b1", "c4", replace(FastenerDetail("d1", "bolt", 0.3, 0.2), **changes))
            places = [place for place, _ in candidate_problems(brief, own, MATERIALS)]
            self.assertEqual(places, [f".details[0].{field}"])
        brief, own = with_details("b1", "c4", BondDetail("d1", "seam", 0.3, 0.2, gap=0.05e-3))
        self.assertEqual([p for p, _ in candidate_problems(brief, own, MATERIALS)], [".details[0].gap"])
        brief, own = with_details("b1", "c4", FastenerDetail("d1", "a", 0.1, 0.1), FastenerDetail("d1", "b", 0.2, 0.2))
        self.assertIn("used twice", candidate_problems(brief, own, MATERIALS)[0][1])


FLAT = (LayerRecord("twill200"), LayerRecord("pvc80", 0.0, 0.008, "core"), LayerRecord("twill200"))


class Every(unittest.TestCase):
    """What every kind of detail promises: met in the demo, read and written, edited, drawn, offered ways out."""

    def test_every_kind_is_in_the_demo_and_makes_sense_there(self) -> None:
        kinds = set()
        for brief in PROJECT.briefs:
            for own in brief.candidates:
                kinds |= {detail_kind(detail).name for detail in own.details}
                if own.details:
                    self.assertFalse(candidate_problems(brief, own, MATERIALS))
                    result = judged(brief, own)
                    self.assertEqual(len(result.details), len(own.details))
                    for made in result.details:
                        drawing = detail_drawing(made)
                        assert drawing is not None
                        self.assertTrue(all(math.isfinite(end) for end in drawing.frame))
        self.assertEqual(kinds, set(all_detail_kinds()))

    def test_every_field_of_its_sentence_is_of_the_record_and_reads_as_text(self) -> None:
        for name, kind in all_detail_kinds().items():
            for where, candidate in (("b1", "c4"), ("b6", "c3")):
                brief, own = job(where, candidate)
                made = with_detail(replace(own, details=()), kind.new(brief, own, "d1"))
                sentence = kind.sentence(brief, made, 0, MATERIALS)
                text = plain(sentence, made, "si")
                self.assertNotIn("None", text, name)
                for part in sentence:
                    if isinstance(part, Number):
                        again = with_value(made, part.path, value_at(made, part.path))
                        self.assertEqual(again, made)
                    elif isinstance(part, Choice):
                        for _, _, value in part.options:
                            self.assertEqual(value_at(part.put(made, value), part.path), value)
                            other = part.put(made, value)
                            plain(kind.sentence(brief, other, 0, MATERIALS), other, "inch_pound")
                    elif isinstance(part, Act):
                        changed = part.change(made)
                        self.assertNotEqual(changed, made)
                        plain(kind.sentence(brief, changed, 0, MATERIALS), changed, "si")

    def test_files_keep_them(self) -> None:
        self.assertEqual(from_bytes(to_bytes(PROJECT), "x"), PROJECT)

    def test_levers_of_every_kind_make_candidates_that_evaluate(self) -> None:
        brief, own = job("b1", "c4")
        for kind in all_detail_kinds().values():
            made = with_detail(replace(own, details=()), kind.new(brief, own, "d1"))
            for lever in detail_levers(made, MATERIALS, "si"):
                for option in lever.options[:2]:
                    self.assertTrue(EVALUATOR.evaluate(brief, option.candidate, MATERIALS).ok, lever.title)

    def test_copies_and_removals(self) -> None:
        _, own = job("b8", "c4")
        twice = doubled(own, 0)
        self.assertEqual([detail.id for detail in twice.details], ["d1", "d3", "d2"])
        self.assertEqual(without_detail(twice, 1), own)
        self.assertEqual(free_id(own), "d3")


class WaysOut(unittest.TestCase):
    def test_the_smallest_change_that_passes(self) -> None:
        """A bolt on bare foam: larger washers, a sleeve, a plug and less torque are tried from the least on."""
        bolt = FastenerDetail("d1", "bolt", 0.3, 0.2, torque=1.5, washer=0.018, grade="A2-70")
        brief, own = with_details("b1", "c4", bolt)
        self.assertFalse(judged(brief, own).passes)
        search = LeverSearch(brief, own, MATERIALS, EVALUATOR)
        present = search.present()
        found = {lever.name: search.search(lever, present) for lever in detail_levers(own, MATERIALS, "si")}
        self.assertTrue(found["sleeve d1"].outcome is not None and found["sleeve d1"].outcome.passes)
        self.assertTrue(found["plug d1"].outcome is not None)
        washer = found["washer d1"]
        assert washer.option is not None
        size = washer.option.candidate.details[0].washer  # type: ignore[union-attr]
        smaller = replace(own, details=(replace(bolt, washer=max(w for w in (0.018, 0.024, 0.03, 0.04) if w < size)),))
        self.assertFalse(judged(brief, smaller).passes)

    def test_laminate_before_glue_is_reached_by_overlap_or_bond_line(self) -> None:
        lip = BondDetail("d1", "lip", 0.0, 0.2, form="lip", overlap=0.004, laminate_first=True, adhesive="g-paste",
                         bends=False, loads=(SeamLoad("pull", 1000.0),))  # fmt: skip
        brief, own = with_details("b1", "c4", lip)
        search = LeverSearch(brief, own, MATERIALS, EVALUATOR)
        way = search.search(
            next(v for v in detail_levers(own, MATERIALS, "si") if v.name == "overlap d1"), search.present()
        )
        self.assertIsNotNone(way.outcome)


class Told(unittest.TestCase):
    def test_records_carry_details_and_their_checks(self) -> None:
        brief, own = job("b8", "c4")
        record = json.loads(json.dumps(candidate_record(judged(brief, own), False)))
        self.assertEqual([entry["kind"] for entry in record["details"]], ["fastener", "fastener"])
        self.assertEqual(record["details"][0]["cases"][0]["pull"], 300.0)
        self.assertEqual({check["detail"] for check in record["checks"] if "detail" in check}, {"d1", "d2"})
        struck = candidate_record(judged(*job("b7", "c4")), False)["details"][1]
        self.assertIn(struck["rating"]["level"], LEVELS)
        self.assertTrue(struck["rating"]["reasons"])

    def test_findings_of_a_detail_are_accepted_for_themselves(self) -> None:
        steel = FastenerDetail("d1", "one", 0.1, 0.1, torque=0.1), FastenerDetail("d2", "two", 0.2, 0.2, torque=0.1)
        brief, own = with_details("b1", "c4", *steel)
        rules = {finding.rule for finding in judged(brief, own).findings}
        self.assertLessEqual({"metal_on_carbon:d1", "metal_on_carbon:d2"}, rules)
        accepted = replace(own, accepted=(Accepted("metal_on_carbon:d1", "greased"),))
        still = {finding.rule for finding in judged(brief, accepted).open_findings}
        self.assertNotIn("metal_on_carbon:d1", still)
        self.assertIn("metal_on_carbon:d2", still)

    def test_bolts_that_pull_on_each_other_are_found(self) -> None:
        def bolt(identity: str, x: float, along: float) -> FastenerDetail:
            return FastenerDetail(identity, identity, x, 0.2, torque=0.1, loads=(DetailLoad("strap", 0.0, along, 0.0),))

        for left, right in ((600.0, -600.0), (-600.0, 600.0), (600.0, 600.0)):
            brief, own = with_details("b1", "c4", bolt("d1", 0.1, left), bolt("d2", 0.5, right))
            rules = {finding.rule for finding in judged(brief, own).findings}
            # what the bolts push on the laminate: toward each other presses it, apart pulls it
            self.assertEqual("bolts_pull:d1" in rules, left < 0.0 < right, (left, right))

    def test_changes_in_words(self) -> None:
        brief, own = job("b8", "c4")
        bolt = own.details[0]
        assert isinstance(bolt, FastenerDetail)
        other = replace(own, details=(replace(bolt, washer=0.02), ImpactDetail("d9", "stones")))
        told = candidate_changes(brief, own, other, "si")
        self.assertIn("washer, left hinge: 16 mm → 20 mm", told)
        self.assertIn("detail 'right hinge' is gone", told)
        self.assertIn("detail 'stones' is new", told)

    def test_resizing_moves_details_and_keeps_bolts(self) -> None:
        brief, _ = job("b8", "c4")
        new, _ = resized(brief, Rule(along=2.0, across=1.5))
        bolt = find_candidate(new, "c4").details[0]
        assert isinstance(bolt, FastenerDetail)
        self.assertEqual((bolt.x, bolt.y, bolt.diameter), (0.24, 0.06, 0.004))

    def test_a_rating_is_no_check(self) -> None:
        brief, own = job("b1", "c5")
        result = judged(brief, own)
        self.assertFalse([check for check in result.checks if check.detail])
        (made,) = result.details
        harder = replace(own, details=(replace(own.details[0], layers=(LayerRecord("twill200"),) * 8),))
        levels = [LEVELS.index(face.rating.level) for face in (made, judged(brief, harder).details[0])]  # type: ignore[attr-defined]
        self.assertGreater(levels[1], levels[0])
        self.assertTrue(any("aramid" in reason for reason in made.rating.reasons))  # type: ignore[attr-defined]

    def test_inserts_of_the_bay_floor_take_the_cameras(self) -> None:
        brief, own = job("b2", "c2")
        assert isinstance(own.details[0], InsertDetail)
        (made,) = judged(brief, own).details
        self.assertEqual([case.pull for case in made.cases], [-160.0 * brief.load_cases[0].factor])  # type: ignore[attr-defined]


class DesignValues(unittest.TestCase):
    def test_a_cut_off_is_the_strain_at_ultimate_load(self) -> None:
        """Cloth at 0° only: the strains of the response along x and y, worked out here again."""
        brief, own = job("b1", "c2")
        values = DesignCondition("test", {"carbon": FamilyValues(compression=0.002, told="own")})
        named = replace(brief, conditions=(
            AppliedCondition(replace(CAUTIOUS[0], values=(DesignValue("carbon", compression=0.002, source="own"),))),
        ))  # fmt: skip
        checks = [check for check in judged(named, own).checks if check.check == "design_values"]
        self.assertEqual(len(checks), len(brief.load_cases))
        result = judged(brief, own)
        assert result.stack is not None
        assert result.response is not None
        (field,) = result.response.fields
        for check in checks:
            case = next(own for own in field.cases if own.case.key == check.case_id)
            least = 0.0
            stack, section = result.stack, field.section
            for i, layer in enumerate(stack.layers):
                if layer.role == "core":
                    continue
                for z in (float(stack.z_top[i]), float(stack.z_bottom[i])):
                    levels = (1.0, *section.levels(i, z))
                    strain = sum(level * case.strains[..., 3 * k : 3 * k + 3] for k, level in enumerate(levels))
                    least = min(
                        least, float(strain[..., 0][~case.left_out].min()), float(strain[..., 1][~case.left_out].min())
                    )
            self.assertAlmostEqual(check.value / (settings(brief).ultimate_factor * -least / 0.002), 1.0, places=6)
            self.assertEqual(values.families["carbon"].compression, 0.002)
            self.assertIn("room, dry", check.title)

    def test_conditions_count_where_their_zones_are(self) -> None:
        brief, own = job("b8", "c4")
        tight = replace(CAUTIOUS[0], values=(DesignValue("carbon", 1e-6, 1e-6, 1e-6),))
        everywhere = replace(brief, conditions=(AppliedCondition(tight),))
        rim = replace(brief, conditions=(AppliedCondition(tight, ("rim",)),))
        nowhere = replace(brief, conditions=(AppliedCondition(tight, ("no such zone",)),))
        places = [
            [check.place for check in judged(b, own).checks if check.check == "design_values"]
            for b in (everywhere, rim, nowhere)
        ]  # fmt: skip
        self.assertTrue(places[0])
        self.assertEqual(places[2], [])
        self.assertTrue(all(
            min(p.x, 0.55 - p.x, p.y, 0.4 - p.y) <= 0.02 + 1e-9 for p in places[1]
        ))  # type: ignore[operator, type-var]  # fmt: skip
        self.assertEqual(len(settings(rim, own).conditions[0].boxes or ()), 4)

    def test_metals_yield_at_limit_and_break_at_ultimate(self) -> None:
        brief, own = job("b7", "c1")
        stress = []
        for value in (DesignValue("metal", yield_stress=100e6), DesignValue("metal", ultimate=150e6)):
            named = replace(brief, conditions=(AppliedCondition(replace(CAUTIOUS[0], values=(value,))),))
            checks = [check for check in judged(named, own).checks if check.check == "design_values"]
            stress.append(max(check.value for check in checks))
        self.assertAlmostEqual(stress[0], stress[1], places=9)

    def test_a_changed_condition_changes_the_briefs_that_name_it(self) -> None:
        old = PROJECT.conditions
        new = tuple(replace(own, name=f"{own.name}, own tests") for own in old)
        command = EditConditions(old, new, "rename")
        changed = command.apply(PROJECT)
        self.assertEqual(find_brief(changed, "b10").conditions[0].condition.name, "barely visible impact, own tests")
        self.assertEqual(command.revert(changed), PROJECT)

    def test_cautious_values_count_for_nothing_until_a_brief_names_them(self) -> None:
        brief, own = job("b1", "c4")
        self.assertFalse(brief.conditions)
        self.assertFalse([check for check in judged(brief, own).checks if check.check == "design_values"])
        self.assertTrue(all(value.source for condition in CAUTIOUS for value in condition.values))


class Quick(unittest.TestCase):
    def test_loads_that_a_quick_answer_does_not_tell_are_left_out_until_the_full_one(self) -> None:
        bolt = FastenerDetail("d1", "edge bolt", 0.0, 0.22, taken="support", torque=0.2, pitch=0.05, edge=0.02)
        brief, own = with_details("b1", "c4", bolt, FastenerDetail("d2", "typed", 0.3, 0.2, torque=0.2,
                                                                   loads=(DetailLoad("a", 100.0),)))  # fmt: skip
        evaluator = Evaluator()
        evaluator.prepare(brief, own, MATERIALS)
        self.assertEqual({check.detail for check in evaluator.quick(brief, own, MATERIALS).checks}, {"", "d2"})
        full = evaluator.evaluate(brief, own, MATERIALS)
        again = evaluator.quick(brief, own, MATERIALS)
        self.assertNotEqual(again.accuracy, full.accuracy)
        for result in (full, again):
            self.assertEqual({check.detail for check in result.checks}, {"", "d1", "d2"})
            self.assertNotIn("detail", {check.check for check in result.checks})


if __name__ == "__main__":
    unittest.main()
