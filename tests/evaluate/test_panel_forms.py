"""Panels with a form: rises, zones, forces along the edges; as records, sentences, quick lines and results."""

from __future__ import annotations

import unittest
from unittest import mock

from omakase.core.members.panel_beyond import AT_MOST
from omakase.core.members.panel_given import FULL, LINEAR, QUICK
from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.members.sentence import Act, Choice, Name, Number, plain, value_at, with_value
from omakase.evaluate.results import judging
from omakase.evaluate.results.engine import Evaluator
from omakase.evaluate.results.lineup import line_up
from omakase.evaluate.results.profile import shapes
from omakase.evaluate.results.records import candidate_record
from omakase.evaluate.results.wording import shape_text
from omakase.evaluate.sizing.levers import levers
from omakase.evaluate.sizing.study import parameters
from omakase.project import edits
from omakase.project.commands import replace
from omakase.project.demo import demo_project
from omakase.project.library import materials_of
from omakase.project.model import Brief, Candidate, LoadCase, find_candidate
from omakase.project.panels import EdgeLoad, PatchLoad, PressureLoad, Supports
from omakase.project.quickline import read_quick_line, write_quick_line
from omakase.project.spans import PanelForm, Zone
from omakase.project.validation import candidate_problems
from tests.support import EVALUATOR

PROJECT = demo_project()
MATERIALS = materials_of(PROJECT)
FAIRING = next(brief for brief in PROJECT.briefs if brief.id == "b7")
FLOOR = PROJECT.briefs[0]
RIM, PLATE = Zone("z1", "rim", 0.0, 0.0, rim=0.04), Zone("z2", "hinge plate", 0.05, 0.12, 0.08, 0.14)
LINE = (
    "twill200 0 ; twill200 45 @ rim ; core ply-birch 10 mm @ hinge plate ; core pvc80 10 mm @ outside rim ; twill200 0"
)


def lid(line: str = LINE, zones: tuple[Zone, ...] = (RIM, PLATE)) -> Candidate:
    layers = read_quick_line(line, MATERIALS, "si", zones={zone.name: zone.id for zone in zones})
    return Candidate("c9", "Lid", layers=layers, zones=zones)


def sentence_acts(brief: Brief, candidate: Candidate) -> dict[str, Act]:
    sentence = kind_of(brief).form_sentence(brief, candidate, MATERIALS)
    acts = [part for part in sentence if isinstance(part, Act)]
    return {act.text: act for act in reversed(acts)}  # of several alike the first


class Zones(unittest.TestCase):
    def test_the_quick_line_reads_back(self) -> None:
        candidate = lid()
        self.assertEqual([layer.zone for layer in candidate.layers], ["", "z1", "z2", "z1", ""])
        self.assertEqual([layer.outside for layer in candidate.layers], [False, False, False, True, False])
        text = write_quick_line(candidate.layers, "si", zones={"z1": "rim", "z2": "hinge plate"})
        self.assertIn("core pvc80 10 mm @ outside rim", text)
        self.assertEqual(lid(text).layers, candidate.layers)

    def test_mass_and_areas(self) -> None:
        """Each layer by its area: the rim 0.62 × 0.44 less 0.54 × 0.36, the plate 0.07 × 0.06."""
        candidate = lid()
        rim, plate = 0.62 * 0.44 - 0.54 * 0.36, 0.07 * 0.06
        areas = kind_of(FLOOR).layer_areas(FLOOR, candidate)
        for area, expected in zip(areas, (0.2728, rim, plate, 0.54 * 0.36 - plate, 0.2728), strict=True):
            self.assertAlmostEqual(area, expected)
        result = EVALUATOR.evaluate(FLOOR, candidate, MATERIALS, LINEAR)
        assert result.stack is not None
        by_layer = zip(result.stack.layer_densities(), result.stack.layers, areas, strict=True)
        cloth_and_core = sum(density * layer.thickness * area for density, layer, area in by_layer)
        uptake = result.mass - cloth_and_core
        self.assertTrue(0.0 <= uptake < 0.2 * result.mass, uptake)  # resin that the cores drink

    def test_results_name_layers_of_the_list(self) -> None:
        result = EVALUATOR.evaluate(FLOOR, lid(), MATERIALS, LINEAR)
        self.assertTrue(result.ok, result.error)
        shear = result.worst("core_shear")
        assert shear is not None
        self.assertIn(result.candidate.layers[shear.place.layer or 0].material, ("pvc80", "ply-birch"))
        self.assertTrue(all(max(finding.layers, default=0) < 5 for finding in result.findings))

    def test_the_sentence_makes_moves_and_removes_zones(self) -> None:
        bare = lid("twill200 0 ; core pvc80 10 mm ; twill200 0", ())
        one = sentence_acts(FLOOR, bare)["+ rim"].change(bare)
        two = sentence_acts(FLOOR, one)["+ zone"].change(one)
        self.assertEqual([zone.name for zone in two.zones], ["rim", "zone 2"])
        for part in kind_of(FLOOR).form_sentence(FLOOR, two, MATERIALS):
            if isinstance(part, Number | Choice | Name):
                self.assertIsNotNone(value_at(two, part.path), part.name)
        self.assertIn("within", plain(kind_of(FLOOR).form_sentence(FLOOR, two, MATERIALS), two, "si"))
        laid = edits.set_layer(two, 1, replace(two.layers[1], zone=two.zones[0].id, outside=True))
        gone = sentence_acts(FLOOR, laid)["×"].change(laid)
        self.assertEqual((gone.layers[1].zone, gone.layers[1].outside), ("", False))
        strip = lid("twill200 0 @ left ; core pvc80 10 mm ; twill200 0", (Zone("z1", "left", 0.0, 0.2),))
        narrowed = sentence_acts(FLOOR, strip)["only a part"].change(strip)
        self.assertEqual((narrowed.zones[0].near, narrowed.zones[0].far), (0.0, 0.147))

    def test_a_thicker_core_takes_its_inserts_along(self) -> None:
        found = {own.name: own for own in levers(FLOOR, lid(), MATERIALS, "si", False)}
        thicker = found["core"].options[0].candidate
        self.assertEqual([thicker.layers[row].thickness for row in (2, 3)], [0.0105, 0.0105])
        self.assertIn("material", found)

    def test_bad_zones_are_told_at_their_place(self) -> None:
        for zone, words in (
            (replace(PLATE, high=0.7), "beyond the panel"),
            (replace(PLATE, high=0.01), "must end further on"),
            (replace(PLATE, near=0.3, far=0.2), "must end further on"),
            (replace(RIM, rim=0.3), "narrower than half"),
        ):
            with self.subTest(words):
                zones = (zone, PLATE) if zone.rim else (RIM, zone)
                candidate = replace(lid(), zones=zones)
                told = dict(candidate_problems(FLOOR, candidate, MATERIALS))
                self.assertIn(words, told[f".zones[{zones.index(zone)}]"])
                self.assertIn(words, EVALUATOR.evaluate(FLOOR, candidate, MATERIALS).error)
        lost = replace(lid(), zones=(RIM,))
        self.assertIn("a zone that is not there", dict(candidate_problems(FLOOR, lost, MATERIALS))[".layers[2]"])
        bare = lid("twill200 0 @ rim ; core pvc80 10 mm ; twill200 0")
        self.assertIn("outer layer", EVALUATOR.evaluate(FLOOR, bare, MATERIALS).error)

    def test_the_even_face_tells(self) -> None:
        """On edges that are held the step's offset carries moment, alike to either side until the panel stretches."""
        supports = replace(FLOOR.member.supports, in_plane="all")
        held = replace(FLOOR, member=replace(FLOOR.member, supports=supports), load_cases=FLOOR.load_cases[:1])
        linear, large = (
            [
                EVALUATOR.evaluate(held, replace(lid(), form=PanelForm(flush=flush)), MATERIALS, accuracy)
                for flush in ("face_a", "middle", "face_b")
            ]
            for accuracy in (LINEAR, FULL)
        )
        sags = [result.worst("deflection").value for result in linear]
        self.assertAlmostEqual(sags[0] / sags[2], 1.0, places=4)
        self.assertLess(sags[0], 0.7 * sags[1])
        self.assertTrue(all(result.moving_far for result in large))
        sags = [result.worst("deflection").value for result in large]
        self.assertGreater(sags[0], 1.1 * sags[2])  # pressed on the even side the rim's pull bends it further


class Rises(unittest.TestCase):
    def test_more_than_half_a_circle_is_told_at_the_form(self) -> None:
        steep = replace(find_candidate(FAIRING, "c4"), form=PanelForm(0.0, 0.26))
        self.assertIn("half a circle", dict(candidate_problems(FAIRING, steep, MATERIALS))[".form"])
        self.assertIn("half a circle", EVALUATOR.evaluate(FAIRING, steep, MATERIALS).error)

    def test_short_waves_beside_a_free_edge_are_looked_for(self) -> None:
        """The grid of the deflection alone gave a third too much."""
        supports = Supports(x0="clamped", x1="simple", y0="free", y1="simple")
        member = replace(FLOOR.member, length=1.13, width=0.53, supports=supports)
        case = LoadCase("l1", "press", (PressureLoad(1260.0),))
        brief = replace(FLOOR, member=member, load_cases=(case,))
        shell = replace(find_candidate(FLOOR, "c3"), form=PanelForm(rise_across=0.0406))
        finer = replace(FULL, smooth_order=14, edge_order=12, patch_order=10)
        factors = [
            EVALUATOR.evaluate(brief, shell, MATERIALS, how).worst("buckling").reserve_factor for how in (FULL, finer)
        ]
        self.assertGreater(factors[0], 0.98 * factors[1])
        self.assertLess(factors[0], 1.15 * factors[1])

    def test_an_arch_is_a_way_out_and_its_rise_a_parameter(self) -> None:
        flat = find_candidate(FAIRING, "c3")
        arch = next(lever for lever in levers(FAIRING, flat, MATERIALS, "si", False) if lever.name == "arch")
        rises = [option.candidate.form.rise_across for option in arch.options]
        self.assertEqual(rises, [0.01, 0.025, 0.05, 0.075])
        offered = {own.key: own for own in parameters(FAIRING, flat, MATERIALS)}
        raised = offered["rise_across"].put((FAIRING, flat, MATERIALS), 0.05)[1]
        self.assertEqual(raised.form.rise_across, 0.05)
        sags = [EVALUATOR.evaluate(FAIRING, own, MATERIALS).worst("deflection").value for own in (flat, raised)]
        self.assertLess(sags[1], 0.5 * sags[0])

    def test_what_a_quick_answer_does_not_see_is_marked(self) -> None:
        quick = [EVALUATOR.evaluate(FAIRING, own, MATERIALS, QUICK) for own in FAIRING.candidates]
        full = [EVALUATOR.evaluate(FAIRING, own, MATERIALS, FULL) for own in FAIRING.candidates]
        self.assertTrue(all(own.rough for own in quick))
        self.assertFalse(EVALUATOR.evaluate(FLOOR, find_candidate(FLOOR, "c2"), MATERIALS, QUICK).rough)
        self.assertFalse(any(own.rough for own in full))
        rows = {row.key: row.cells for row in line_up(FAIRING, [quick[0], *full[1:]]).rows}
        self.assertTrue(rows["deflection"][0].rough)
        self.assertFalse(rows["frequency"][0].rough)
        rows = {row.key: row.cells for row in line_up(FAIRING, full).rows}
        self.assertEqual([cell.far for cell in rows["deflection"]], [True, False, True, True, False])
        self.assertEqual(candidate_record(full[0], True)["large_deflection"], ["l1", "l3"])


class Swinging(unittest.TestCase):
    def test_a_shell_that_is_all_but_loose_is_answered(self) -> None:
        """Two free edges that meet: no first state is found when its load is raised, and it has no snap to tell of."""
        supports = Supports(x0="free", x1="resting", y0="free", y1="simple")
        member = replace(FLOOR.member, length=0.51, width=0.54, supports=supports)
        loads = PressureLoad(1480.0), PatchLoad(290.0, 0.105, 0.135, 0.19, 0.1, "foot")
        brief = replace(FLOOR, member=member, load_cases=(LoadCase("l1", "push", loads),))
        shell = replace(find_candidate(FLOOR, "c5"), form=PanelForm(rise_along=0.013, rise_across=0.032))
        result = EVALUATOR.evaluate(brief, shell, MATERIALS)
        self.assertTrue(result.ok, result.error)
        self.assertGreater(result.worst("buckling").reserve_factor, 0.1)
        self.assertFalse(result.passes)


class FirstAnswers(unittest.TestCase):
    """What stands on the screen between an edit and the full answer, of what takes long."""

    def test_it_counts_what_the_linear_answer_does_not(self) -> None:
        hatch = next(brief for brief in PROJECT.briefs if brief.id == "b10")
        lids = next(brief for brief in PROJECT.briefs if brief.id == "b8")
        evaluator = Evaluator()
        for brief, candidate_id in ((FAIRING, "c4"), (hatch, "c3"), (lids, "c5")):
            candidate = find_candidate(brief, candidate_id)
            with self.subTest(candidate.name), mock.patch("omakase.evaluate.results.engine.LONG", 0.0):
                full = evaluator.evaluate(brief, candidate, MATERIALS)
                first = evaluator.first(brief, candidate, MATERIALS)
                self.assertFalse(first.rough)
                self.assertNotEqual(first.accuracy, FULL)
                for check in ("deflection", "frequency"):
                    ratio = first.worst(check).value / full.worst(check).value
                    self.assertAlmostEqual(ratio, 1.0, delta=0.02, msg=check)
                ratio = first.governing.reserve_factor / full.governing.reserve_factor
                self.assertAlmostEqual(ratio, 1.0, delta=0.12)

    def test_nothing_comes_before_what_comes_soon(self) -> None:
        evaluator = Evaluator()
        plain = find_candidate(FLOOR, "c2")
        self.assertTrue(evaluator.evaluate(FLOOR, plain, MATERIALS).ok)
        with mock.patch("omakase.evaluate.results.engine.LONG", 60.0):
            self.assertIsNone(evaluator.first(FLOOR, plain, MATERIALS))


class OnTheLoad(unittest.TestCase):
    """Of what moves far a reserve factor is the factor on the load at which it fails: at that load it is 1."""

    def falls_to_one(self, brief: Brief, candidate: Candidate, check: str) -> float:
        result = EVALUATOR.evaluate(brief, candidate, MATERIALS)
        first = result.worst(check)
        self.assertTrue(any("found on the load" in remark for remark in first.remarks), first.remarks)
        cases = tuple(edits.scaled_case(case, first.reserve_factor) for case in brief.load_cases)
        again = EVALUATOR.evaluate(replace(brief, load_cases=cases), candidate, MATERIALS).worst(check)
        self.assertAlmostEqual(again.reserve_factor, 1.0, delta=0.02)
        return first.reserve_factor

    def test_a_sheet_that_is_pulled_tight(self) -> None:
        """Its strain follows its load less than in proportion: by scaling it would hold less."""
        one = replace(FLOOR, load_cases=(edits.scaled_case(FLOOR.load_cases[0], 2.5),))
        sheet = find_candidate(FLOOR, "c1")
        on_the_load = self.falls_to_one(one, sheet, "face_failure")
        with mock.patch.object(judging, "MOST_LEVEL", 0.0):
            scaled = Evaluator().evaluate(one, sheet, MATERIALS).worst("face_failure").reserve_factor
        self.assertGreater(on_the_load, 1.15 * scaled)

    def test_a_sheet_with_a_thicker_rim(self) -> None:
        """A patchwork is solved on the load as a panel of one layup is, its stacks and its cases with it."""
        one = replace(FLOOR, load_cases=(edits.scaled_case(FLOOR.load_cases[0], 2.5),))
        sheet = find_candidate(FLOOR, "c1")
        doubler = replace(sheet.layers[0], zone=RIM.id, thickness=0.5e-3)
        self.falls_to_one(one, replace(sheet, layers=(*sheet.layers, doubler), zones=(RIM,)), "face_failure")

    def test_a_thin_board_that_holds_several_times_its_load(self) -> None:
        """Its steps aim beyond the highest level before they close in; a little more and it holds that level, too."""
        shelf = next(brief for brief in PROJECT.briefs if brief.id == "b2")
        board = find_candidate(shelf, "c1")
        one = replace(shelf, load_cases=shelf.load_cases[:1])
        reserve = self.falls_to_one(one, board, "face_failure")
        self.assertGreater(reserve, 3.5)
        lighter = replace(one, load_cases=(edits.scaled_case(one.load_cases[0], reserve / 4.05),))
        found = EVALUATOR.evaluate(lighter, board, MATERIALS).worst("face_failure")
        self.assertIn(AT_MOST, found.remarks)
        self.assertAlmostEqual(found.reserve_factor, 4.05, delta=0.04)

    def test_a_dish_that_softens_before_it_snaps(self) -> None:
        hatch = next(brief for brief in PROJECT.briefs if brief.id == "b10")
        one = replace(hatch, load_cases=hatch.load_cases[:1])
        self.falls_to_one(one, find_candidate(hatch, "c3"), "wrinkling")


class Shapes(unittest.TestCase):
    def test_of_buckling_and_of_vibration(self) -> None:
        result = EVALUATOR.evaluate(FAIRING, find_candidate(FAIRING, "c4"), MATERIALS)
        buckling, vibration = (next(own for own in result.checks if own.check == k) for k in ("buckling", "frequency"))
        shape = shapes(result, buckling)[0]
        self.assertAlmostEqual(shape.value / 1.5, buckling.reserve_factor, places=6)
        self.assertIn("times the load", shape_text(result, shape, "si"))
        table = shape.map(40, 30)
        self.assertAlmostEqual(abs(table).max(), 1.0)
        self.assertLess(abs(table[0]).max(), 1e-9)  # the ends are held
        modes = shapes(result, vibration)
        self.assertEqual([own.number for own in modes], [1, 2, 3, 4, 5, 6])
        self.assertIn("Vibration 1 of 6", shape_text(result, modes[0], "si"))
        self.assertEqual(shapes(result, result.worst("mass")), ())


class EdgeForces(unittest.TestCase):
    def test_the_sentence_lets_a_force_change_along_its_edge(self) -> None:
        kind = kind_of(FAIRING)
        sentence = kind.load_sentence(FAIRING, 1, 0)
        act = next(part for part in sentence if isinstance(part, Act))
        changed = act.change(FAIRING)
        self.assertEqual(changed.load_cases[1].loads[0].ends_far, -4000.0)
        even = next(part for part in kind.load_sentence(changed, 1, 0) if isinstance(part, Act) and part.text == "even")
        self.assertEqual(even.change(changed), FAIRING)

    def test_pushes_add_up_and_scale(self) -> None:
        case = FAIRING.load_cases[1]
        twice = LoadCase("l9", "both", (*case.loads, EdgeLoad(ends=-4000.0, ends_far=-4000.0)))
        candidate = find_candidate(FAIRING, "c3")
        values = []
        for own in (case, twice, edits.scaled_case(case, 2.0)):
            brief = replace(FAIRING, load_cases=(own,))
            values.append(EVALUATOR.evaluate(brief, candidate, MATERIALS).worst("buckling").reserve_factor)
        self.assertAlmostEqual(values[0] / values[1], 2.0, places=6)
        self.assertAlmostEqual(values[2] / values[1], 1.0, places=6)

    def test_a_push_makes_a_sag_grow(self) -> None:
        """By 1/(1 − P/P_cr), near enough for a panel that bends as it buckles (Timoshenko and Gere, chapter 1)."""
        candidate = find_candidate(FAIRING, "c3")
        member = replace(FAIRING.member, length=0.5)
        foot = PatchLoad(20.0, 0.25, 0.25, 0.1, 0.1, "hand")
        alone, pushed = (
            EVALUATOR.evaluate(
                with_value(replace(FAIRING, load_cases=(LoadCase("l1", "p", loads),)), ("member",), member),
                candidate, MATERIALS,
            )
            for loads in ((foot,), (foot, EdgeLoad(ends=-8000.0)))
        )  # fmt: skip
        factor = pushed.worst("buckling").reserve_factor * 1.5
        growth = pushed.worst("deflection").value / alone.worst("deflection").value
        self.assertAlmostEqual(growth * (1.0 - 1.0 / factor), 1.0, delta=0.05)


if __name__ == "__main__":
    unittest.main()
