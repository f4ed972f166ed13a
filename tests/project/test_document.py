"""Commands, undo and the edits of layups; validation of what a file may hold."""

from __future__ import annotations

import random
import unittest

import msgspec

from omakase.project import edits
from omakase.project.commands import ArrangeBriefs, EditBrief, EditCandidate, EditHeader, replace
from omakase.project.demo import demo_project
from omakase.project.document import Document
from omakase.project.library import materials_of
from omakase.project.model import Brief, Candidate, LayerRecord, find_candidate, new_brief
from omakase.project.quickline import read_quick_line
from omakase.project.validation import brief_problems, layup_problems, problems


def layup(text: str) -> Candidate:
    return Candidate("c1", "one", read_quick_line(text, materials_of(demo_project())))


class Undo(unittest.TestCase):
    def setUp(self) -> None:
        self.document = Document(demo_project())

    def rename(self, name: str, key: str = "") -> None:
        brief = self.document.project.briefs[0]
        old = find_candidate(brief, "c2")
        self.document.do(EditCandidate(brief.id, old, replace(old, name=name), "rename", key))

    def test_a_random_walk_is_taken_back_and_done_again(self) -> None:
        rng = random.Random(7)
        start = self.document.project
        for step in range(60):
            brief = rng.choice(self.document.project.briefs)
            one = rng.choice(brief.candidates) if brief.candidates else None
            kind = rng.randrange(7)
            if kind == 0 and one:
                new = replace(one, layers=(*one.layers, LayerRecord("ud200", float(step))))
                self.document.do(EditCandidate(brief.id, one, new, "add a ply"))
            elif kind == 1:
                self.document.do(edits.add_candidate(brief)[0])
            elif kind == 2 and one:
                self.document.do(edits.remove_candidate(brief, one.id))
            elif kind == 3 and one:
                self.document.do(edits.duplicate_candidate(brief, one.id)[0])
            elif kind == 4:
                size = "length" if hasattr(brief.member, "length") else "arm"
                member = replace(brief.member, **{size: 0.5 + step / 100.0})
                self.document.do(EditBrief(brief, replace(brief, member=member), "length"))
            elif kind == 5:
                briefs = self.document.project.briefs
                self.document.do(ArrangeBriefs(briefs, (*briefs, new_brief(f"n{step}")), "brief"))
            else:
                title = self.document.project.title
                self.document.do(EditHeader(title, f"{title}.", "si", "inch_pound", "title"))
        end = self.document.project
        while self.document.undo_text:
            self.document.undo()
        self.assertEqual(self.document.project, start)
        while self.document.redo_text:
            self.document.redo()
        self.assertEqual(self.document.project, end)

    def test_typing_merges_into_one_step(self) -> None:
        for name in ("a", "ab", "abc"):
            self.rename(name, "typing")
        self.document.undo()
        self.assertEqual(self.document.project, demo_project())
        self.assertEqual(self.document.undo_text, "")

    def test_merging_ends_when_told(self) -> None:
        self.rename("a", "typing")
        self.document.end_merging()
        self.rename("ab", "typing")
        self.document.undo()
        self.assertEqual(find_candidate(self.document.project.briefs[0], "c2").name, "a")

    def test_modified_follows_the_saved_state(self) -> None:
        from pathlib import Path

        self.assertFalse(self.document.modified)
        self.rename("a")
        self.assertTrue(self.document.modified)
        self.document.mark_saved(Path("x"))
        self.assertFalse(self.document.modified)
        self.document.undo()
        self.assertTrue(self.document.modified)
        self.document.redo()
        self.assertFalse(self.document.modified)
        self.document.undo()
        self.rename("other")
        self.document.undo()
        self.assertTrue(self.document.modified)  # the saved state can no longer be reached

    def test_a_step_after_saving_does_not_merge_into_the_saved_one(self) -> None:
        from pathlib import Path

        self.rename("a", "typing")
        self.document.mark_saved(Path("x"))
        self.rename("ab", "typing")
        self.document.undo()
        self.assertFalse(self.document.modified)

    def test_history_is_bounded(self) -> None:
        for i in range(1100):
            self.rename(f"name {i}")
        count = 0
        while self.document.undo_text:
            self.document.undo()
            count += 1
        self.assertEqual(count, 1000)


class Edits(unittest.TestCase):
    def test_flip_twice_and_mirror(self) -> None:
        one = layup("twill200 45/0 ; core pvc80 10 ; ud200 30")
        self.assertEqual(edits.flip(edits.flip(one)), one)
        self.assertEqual(edits.flip(one).layers[0], LayerRecord("ud200", -30.0))
        faced = frozenset({"ud200"})
        self.assertTrue(edits.flip(one, faced).layers[0].turned)
        self.assertEqual(edits.flip(edits.flip(one, faced), faced), one)
        mirrored = edits.mirror(one).layers
        self.assertEqual(mirrored, mirrored[::-1])
        self.assertEqual(len(edits.mirror(layup("ud200 0/90")).layers), 4)

    def test_angles_step_around(self) -> None:
        self.assertEqual(edits.step_angle(75.0, 15.0), 90.0)
        self.assertEqual(edits.step_angle(90.0, 15.0), -75.0)
        self.assertEqual(edits.step_angle(-75.0, -15.0), 90.0)

    def test_moving_layers(self) -> None:
        one = layup("ud200 0/15/30/45")
        moved = edits.move_layer(one, 0, 2)
        self.assertEqual([la.angle for la in moved.layers], [15.0, 30.0, 0.0, 45.0])
        self.assertEqual(edits.move_layer(moved, 2, 0), one)

    def test_the_baseline_goes_with_its_candidate(self) -> None:
        document = Document(demo_project())
        brief = document.project.briefs[0]
        document.do(edits.remove_candidate(brief, brief.baseline))
        self.assertEqual(document.project.briefs[0].baseline, "")
        document.undo()
        self.assertEqual(document.project.briefs[0].baseline, brief.baseline)

    def test_ids_are_not_used_twice(self) -> None:
        document = Document(demo_project())
        for _ in range(3):
            document.do(edits.add_candidate(document.project.briefs[0])[0])
        ids = [candidate.id for candidate in document.project.briefs[0].candidates]
        self.assertEqual(len(ids), len(set(ids)))
        self.assertTrue(all("empty" in problem.message for problem in problems(document.project)))


class Records(unittest.TestCase):
    def test_a_material_stays_the_same_record_while_another_changes(self) -> None:
        """Results are kept by the records of their materials: an edit of one must not lose those of the others."""
        project = demo_project()
        self.assertGreater(project.shop.rate, 0.0)
        before = materials_of(project)
        one = replace(before["pvc80"], laid=None, note="another note")
        after = materials_of(replace(project, materials=(*project.materials, one)))
        self.assertIsNot(before["pvc80"], after["pvc80"])
        others = [name for name in before if name != "pvc80"]
        self.assertTrue(all(before[name] is after[name] for name in others))

    def test_what_results_are_kept_by_can_be_hashed(self) -> None:
        """Results are looked up by the records they follow from: none of them may hold a list or a table."""
        known: set[type] = set()

        def look(kind: msgspec.inspect.Type, place: str) -> None:
            self.assertNotIsInstance(
                kind, msgspec.inspect.DictType | msgspec.inspect.ListType | msgspec.inspect.SetType, place
            )
            inside = [getattr(kind, name) for name in ("item_type",) if hasattr(kind, name)]
            for one in (*inside, *getattr(kind, "types", ()), *getattr(kind, "item_types", ())):
                look(one, place)
            if isinstance(kind, msgspec.inspect.StructType) and kind.cls not in known:
                known.add(kind.cls)
                for field in kind.fields:
                    look(field.type, f"{place}.{field.name}")

        look(msgspec.inspect.type_info(Brief), "brief")
        self.assertIn(LayerRecord, known)


class Validation(unittest.TestCase):
    def test_the_demo_is_clean(self) -> None:
        self.assertEqual(problems(demo_project()), [])

    def test_layups(self) -> None:
        materials = materials_of(demo_project())
        ply, core = LayerRecord("twill200"), LayerRecord("pvc80", 0.0, 0.01, "core")
        cases = [
            ((), ".layers", "empty"),
            ((core, ply), ".layers", "outer layer"),
            ((ply, LayerRecord("unobtainium")), ".layers[1]", "unobtainium"),
            ((LayerRecord("twill200", 1e9),), ".layers[0]", "outside −360"),
            ((LayerRecord("al6082", 0.0, -0.001),), ".layers[0]", "outside 0.001 mm"),
            ((LayerRecord("al6082", 0.0, float("nan")),), ".layers[0]", "outside"),
            ((LayerRecord("pvc80", 0.0, 0.01, "ply"),), ".layers[0]", "cannot be a ply"),
            ((LayerRecord("twill200", 0.0, None, "ply", False),), ".layers", "something must carry"),
            ((ply, core, LayerRecord("ud200", 0.0, None, "ply", False)), ".layers", "face B"),
        ]
        for layers, place, part in cases:
            with self.subTest(part):
                found = layup_problems(layers, materials)
                self.assertEqual(found[0][0], place)
                self.assertIn(part, found[0][1])

    def test_briefs(self) -> None:
        brief = demo_project().briefs[0]
        cases = [
            (replace(brief, member=replace(brief.member, length=-1.0)), "member"),
            (replace(brief, member=replace(brief.member, supports=replace(brief.member.supports, x0="free", x1="free",
                     y0="free", y1="free"))), "member"),
            (replace(brief, limits=replace(brief.limits, deflection=0.0)), "limits.deflection"),
            (replace(brief, limits=replace(brief.limits, frequency_band=(120.0, 80.0))), "limits.frequency_band"),
            (replace(brief, judgement=replace(brief.judgement, factor_of_safety=0.0)), "judgement.factor_of_safety"),
            (replace(brief, judgement=replace(brief.judgement, special_factor_reason="")),
             "judgement.special_factor_reason"),
            (replace(brief, baseline="gone"), "baseline"),
            (edits.set_load(brief, "l1", 0, replace(brief.load_cases[0].loads[0], x=5.0)), "load_cases[0]"),
        ]  # fmt: skip
        for broken, field in cases:
            with self.subTest(field):
                self.assertIn(field, [name for name, _ in brief_problems(broken)])


if __name__ == "__main__":
    unittest.main()
