"""Sub-stacks that candidates share: an edit in one changes all, undo takes it back in all."""

from __future__ import annotations

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from omakase.project import edits
from omakase.project.commands import EditCandidate, replace
from omakase.project.demo import demo_project
from omakase.project.document import Document
from omakase.project.library import materials_of
from omakase.project.model import Candidate, find_brief, find_candidate
from omakase.project.quickline import QuickLineError, laminate_code, read_quick_line, write_quick_line
from omakase.project.shared import free_name, instances, linked_edits, released, runs, share, shared_stacks

LIB = materials_of(demo_project())
FACED = frozenset({"satin4"})


class Shared(unittest.TestCase):
    def setUp(self) -> None:
        project = demo_project()
        self.document = Document(project)
        self.edit("c3", share(self.get("c3"), [0, 1], "A"))
        stack = shared_stacks(self.document.project, FACED)["A"]
        core = self.get("c4").layers[2]
        mirror = tuple(edits.mirrored(stack, FACED))
        self.edit("c4", replace(self.get("c4"), layers=(*stack, core, *mirror)))

    def get(self, identity: str) -> Candidate:
        return find_candidate(find_brief(self.document.project, "b1"), identity)

    def edit(self, identity: str, new: Candidate, key: str = "") -> None:
        old = self.get(identity)
        new, others = linked_edits(self.document.project, "b1", old, new, FACED)
        self.document.do(EditCandidate("b1", old, new, "edit", key, others))

    def angles(self, identity: str) -> list[float]:
        return [layer.angle for layer in self.get(identity).layers if layer.role == "ply"]

    def test_one_edit_changes_every_instance(self) -> None:
        before = self.document.project
        one = self.get("c3")
        self.edit("c3", edits.set_layer(one, 0, replace(one.layers[0], angle=30.0)))
        self.assertEqual(self.angles("c3")[:2], [30.0, 0.0])
        self.assertEqual(self.angles("c4"), [30.0, 0.0, 0.0, 30.0])
        self.document.undo()
        self.assertEqual(self.document.project, before)
        self.document.redo()
        self.assertEqual(self.angles("c4"), [30.0, 0.0, 0.0, 30.0])

    def test_an_edit_of_the_mirror_image_too(self) -> None:
        one = self.get("c4")
        self.edit("c4", edits.set_layer(one, 4, replace(one.layers[4], angle=-20.0)))
        self.assertEqual(self.angles("c4"), [-20.0, 0.0, 0.0, -20.0])
        self.assertEqual(self.angles("c3")[:2], [-20.0, 0.0])

    def test_layers_come_and_go_in_all(self) -> None:
        one = self.get("c3")
        self.edit("c3", edits.insert_layers(one, 1, [replace(one.layers[0], angle=90.0, shared="")]))
        self.assertEqual(self.angles("c3")[:3], [45.0, 90.0, 0.0])
        self.assertEqual(self.angles("c4"), [45.0, 90.0, 0.0, 0.0, 90.0, 45.0])
        self.edit("c4", edits.remove_layers(self.get("c4"), [1]))
        self.assertEqual(self.angles("c3")[:2], [45.0, 0.0])

    def test_a_row_of_steps_is_one_and_comes_back_in_all(self) -> None:
        before = self.document.project
        for angle in (50.0, 55.0, 60.0):
            one = self.get("c3")
            self.edit("c3", edits.set_layer(one, 0, replace(one.layers[0], angle=angle)), "step")
        self.assertEqual(self.angles("c4")[0], 60.0)
        self.document.undo()
        self.assertEqual(self.document.project, before)

    def test_removing_it_from_one_leaves_the_others(self) -> None:
        self.edit("c4", edits.remove_layers(self.get("c4"), [0, 1]))
        self.assertEqual(self.angles("c3")[:2], [45.0, 0.0])

    def test_let_go_it_changes_alone(self) -> None:
        self.edit("c3", released(self.get("c3"), "A"))
        one = self.get("c3")
        self.edit("c3", edits.set_layer(one, 0, replace(one.layers[0], angle=10.0)))
        self.assertEqual(self.angles("c4")[0], 45.0)

    def test_two_that_touch_are_told_apart(self) -> None:
        stack = shared_stacks(self.document.project, FACED)["A"]
        both = (*stack, *edits.mirrored(stack, FACED))
        self.assertEqual(list(runs(both)), [("A", 0, 2), ("A", 2, 4)])
        self.assertEqual(instances(both, "A", 2), [(0, 2), (2, 4)])
        self.edit("c2", replace(self.get("c2"), layers=both))
        one = self.get("c2")
        self.edit("c2", edits.set_layer(one, 3, replace(one.layers[3], angle=15.0)))
        self.assertEqual(self.angles("c2"), [15.0, 0.0, 0.0, 15.0])
        self.assertEqual(self.angles("c3")[0], 15.0)

    def test_one_that_reads_the_same_both_ways_keeps_its_mirror_image(self) -> None:
        one = self.get("c4")
        self.edit("c4", edits.set_layer(one, 0, replace(one.layers[0], angle=0.0)))
        self.assertEqual(self.angles("c4"), [0.0, 0.0, 0.0, 0.0])
        one = self.get("c4")
        self.edit("c4", edits.set_layer(one, 4, replace(one.layers[4], angle=30.0)))  # the outermost of face B
        self.assertEqual(self.angles("c4"), [30.0, 0.0, 0.0, 30.0])
        self.assertEqual(self.angles("c3")[:2], [30.0, 0.0])

    def test_turned_over_it_goes_its_own_way(self) -> None:
        before = self.angles("c4")
        self.edit("c3", edits.flip(self.get("c3"), FACED))
        self.assertEqual(self.angles("c4"), before)
        self.assertFalse(any(layer.shared for layer in self.get("c3").layers))

    def test_what_cannot_be_shared(self) -> None:
        for rows in ([], [0, 2]):
            with self.assertRaisesRegex(ValueError, "side by side"):
                share(self.get("c2"), rows, "B")
        with self.assertRaisesRegex(ValueError, "already"):
            share(self.get("c3"), [0], "B")
        self.assertEqual(free_name(self.document.project), "B")

    def test_in_the_quick_line(self) -> None:
        known = shared_stacks(self.document.project, FACED)
        layers = read_quick_line("(A) ; core pvc80 8 ; (A)m", LIB, shared=known)
        self.assertEqual([layer.angle for layer in layers], [45.0, 0.0, 0.0, 0.0, 45.0])
        self.assertEqual(write_quick_line(layers, "si", known), "(A) ; core pvc80 8 mm ; (A)m")
        self.assertEqual(laminate_code(layers), "[45/0/core 8]s")
        self.assertIn("twill200 45/0", write_quick_line(layers, "si"))
        with self.assertRaisesRegex(QuickLineError, "no sub-stack is called 'B'; there are"):
            read_quick_line("(B)", LIB, shared=known)

    @given(st.lists(st.tuples(st.integers(0, 4), st.integers(-90, 90)), min_size=1, max_size=8))
    @settings(deadline=None, max_examples=40)
    def test_any_row_of_edits_keeps_all_instances_alike(self, steps: list[tuple[int, int]]) -> None:
        self.setUp()
        for row, angle in steps:
            one = self.get("c4")
            if one.layers[row].role == "ply":
                self.edit("c4", edits.set_layer(one, row, replace(one.layers[row], angle=float(angle))))
            stack = shared_stacks(self.document.project, FACED)["A"]
            first = self.get("c3").layers[:2]
            last = self.get("c4").layers[3:]
            self.assertEqual(first, stack)
            self.assertEqual(tuple(edits.mirrored(last, FACED)), stack)


if __name__ == "__main__":
    unittest.main()
