"""Arches, zones, forces along the edges and shapes in the window, through its real widgets."""

from __future__ import annotations

import csv
from unittest import mock

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QToolButton

from omakase.core.members.panel_given import FULL
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.results.profile import shapes
from omakase.project import edits
from omakase.project.commands import ArrangeCandidates, replace
from omakase.project.model import find_brief
from omakase.ui.kit.fields import ChoiceField
from tests.ui.support import WindowTest

CTRL = Qt.KeyboardModifier.ControlModifier


class PanelForms(WindowTest):
    def show(self, brief_id: str, candidate_id: str) -> None:
        """The candidate alone: the others would be computed with every edit of the brief."""
        session = self.window.session
        brief = find_brief(session.document.project, brief_id)
        alone = tuple(own for own in brief.candidates if own.id == candidate_id)
        command = ArrangeCandidates(brief_id, brief.candidates, alone, brief.baseline, "", "alone")
        session.document.do(command)
        session.choose_brief(brief_id)
        session.choose(candidate_id)
        self.process()

    def push(self, what: str) -> None:
        button = next(own for own in self.window.findChildren(QToolButton) if own.accessibleName() == what)
        button.click()
        self.process()

    def test_a_floor_gets_a_rim_and_a_plate(self) -> None:
        """Zones by buttons, layers by the quick line, a bad size told at its field, all of it undone."""
        self.show("b1", "c2")
        session, editor = self.window.session, self.window.layup_editor
        before, mass = session.candidate, session.result.mass
        self.push("Add a rim")
        self.push("Add a zone")
        self.type_into("Name of zone 2", "seat")
        self.type_into("Rim of zone 1", "50 mm")
        self.type_into("End along of zone 2", "8 in")
        self.assertAlmostEqual(session.candidate.zones[1].high, 0.2032)
        self.assertAlmostEqual(session.result.mass, mass)  # nothing lies in them yet
        editor.line.selectAll()
        QTest.keyClicks(
            editor.line, "twill200 0 ; twill200 45 @ rim ; core ply-birch 10 mm @ seat ; core pvc80 10 mm ; twill200 0"
        )
        QTest.keyClick(editor.line, Qt.Key.Key_Return)
        self.process()
        self.assertTrue(session.result.ok, session.result.error)
        self.assertGreater(session.result.mass, 1.2 * mass)
        self.assertEqual(len(session.result.response.fields), 4)
        texts = [editor.table.layer_model.cell(row, 1)[0] for row in range(5)]
        self.assertIn("twill200  @ rim", texts)
        self.type_into("End along of zone 2", "900 mm")
        self.assertIn("beyond the panel", editor.form.paragraph.message)
        self.assertIn("beyond the panel", session.result.error)
        for _ in range(7):
            self.press(Qt.Key.Key_Z, CTRL)
        self.assertEqual(session.candidate, before)

    def test_an_arch_is_typed_and_its_thrust_told(self) -> None:
        self.show("b7", "c3")
        session = self.window.session
        flat = session.result.worst("deflection").value
        self.type_into("Rise across the width", "40 mm")
        self.assertLess(session.result.worst("deflection").value, 0.5 * flat)
        self.assertIsNotNone(session.result.worst("buckling"))
        self.type_into("Rise across the width", "300 mm")
        self.assertIn("half a circle", self.window.layup_editor.form.paragraph.message)
        self.press(Qt.Key.Key_Z, CTRL)
        choice = next(
            own
            for own in self.window.findChildren(ChoiceField)
            if own.accessibleName() == "Whether the edges may spread"
        )
        stiff = session.result.worst("deflection").value
        choice.setCurrentIndex(0)
        choice.activated.emit(0)
        self.process()
        self.assertEqual(session.brief.member.supports.in_plane, "may_spread")
        self.assertGreater(session.result.worst("deflection").value, 1.01 * stiff)

    def test_a_push_is_typed_let_change_and_drawn(self) -> None:
        self.show("b7", "c3")
        session = self.window.session
        factor = session.result.worst("buckling").reserve_factor
        self.type_into("Pull at the ends, l2 load 1", "-8 N/mm")
        self.assertAlmostEqual(session.result.worst("buckling").reserve_factor, factor / 2.0, delta=1e-3 * factor)
        self.push("Pull at the ends changes along the edge, l2 load 1")
        self.type_into("Pull at the ends at the far side, l2 load 1", "0")
        self.assertGreater(session.result.worst("buckling").reserve_factor, 0.7 * factor)
        picture = self.window.panel_picture
        session.look_at_case("l3")
        bare = picture.grab().toImage()
        session.look_at_case("l2")
        self.assertNotEqual(picture.grab().toImage(), bare)

    def test_a_bulkhead_gets_a_rib_and_a_line_of_support(self) -> None:
        """Ribs and their own layers by buttons and the quick line, a bad place told at its field, all of it undone."""
        self.show("b9", "c2")
        session, editor = self.window.session, self.window.layup_editor
        before, sag, bare = session.candidate, session.result.worst("deflection").value, self.plan()
        self.push("Add a rib")
        self.assertLess(session.result.worst("deflection").value, 0.7 * sag)
        self.assertNotEqual(self.plan(), bare)
        self.assertEqual(tuple(editor.walls.buttons), ("", "rib"))
        editor.walls.buttons["rib"].click()
        self.process()
        mass = session.result.mass
        editor.line.selectAll()
        QTest.keyClicks(editor.line, "twill200 45 ; twill200 0 ; twill200 0")
        QTest.keyClick(editor.line, Qt.Key.Key_Return)
        self.process()
        self.assertGreater(session.result.mass, mass)
        self.assertEqual([layer.wall for layer in session.candidate.layers], ["", "", "", "rib", "rib", "rib"])
        self.type_into("Place of rib 1", "900 mm")
        self.assertIn("off the panel", editor.form.paragraph.message)
        for _ in range(3):
            self.press(Qt.Key.Key_Z, CTRL)
        self.assertEqual(session.candidate, before)
        frequency = session.result.worst("frequency").value
        self.push("Add a line of support")
        self.assertGreater(session.result.worst("frequency").value, 1.2 * frequency)
        self.assertIn("line across 1", {own.name for own in session.result.response.cases[0].reactions})

    def test_a_hatch_is_round_on_bolts_and_a_rectangle_again(self) -> None:
        self.show("b10", "c2")
        session = self.window.session
        mass, shown, brief = session.result.mass, self.plan(), session.brief
        self.type_into("Panel length", "300 mm")
        self.assertAlmostEqual(session.result.mass / mass, 300.0 / 420.0)
        self.type_into("Rise of the middle", "8 mm")
        self.assertIsNotNone(session.result.worst("buckling"))
        self.push("A circle of bolts instead of its edge")
        self.assertNotEqual(self.plan(), shown)
        self.type_into("Bolts inside the edge by", "200 mm")
        self.assertIn("inside the panel", session.result.error)
        for _ in range(4):
            self.press(Qt.Key.Key_Z, CTRL)
        self.assertEqual(session.brief, brief)
        self.assertEqual(self.plan(), shown)
        outline = next(
            own for own in self.window.findChildren(ChoiceField) if own.accessibleName() == "Outline of the panel"
        )
        outline.setCurrentIndex(0)
        outline.activated.emit(0)
        self.process()
        self.assertGreater(session.result.mass, 1.2 * mass)

    def plan(self) -> QImage:
        return self.window.panel_picture.grab().toImage()

    def test_shapes_follow_the_check_and_a_click(self) -> None:
        self.show("b7", "c4")
        session, picture = self.window.session, self.window.lower.field_picture
        frequency = session.result.worst("frequency")
        session.look_at_check(frequency)
        self.process()
        first = picture.grab().toImage()
        QTest.mouseClick(picture, Qt.MouseButton.LeftButton, pos=QPoint(40, 40))
        self.process()
        self.assertNotEqual(picture.grab().toImage(), first)
        for _ in range(len(shapes(session.result, frequency)) - 1):
            QTest.mouseClick(picture, Qt.MouseButton.LeftButton, pos=QPoint(40, 40))
        self.process()
        self.assertEqual(picture.grab().toImage(), first)


class OnWorkers(WindowTest):
    synchronous = False

    def test_what_takes_a_while_is_marked_until_it_is_there(self) -> None:
        session = self.window.session
        session.choose_brief("b8")
        session.choose("c3")
        self.wait(lambda: session.settled)
        before = session.result
        self.assertFalse(before.rough)
        layer = session.candidate.layers[-1]
        session.edit_candidate(edits.insert_layers(session.candidate, 0, [layer]), "one more ply")
        self.assertTrue(session.result.rough)
        rows = {row.key: row.cells for row in session.line_up().rows if row.key not in ("price", "hours")}
        column = [own.candidate.id for own in session.line_up().results].index("c3")
        self.assertTrue(all(cells[column].rough for cells in rows.values() if cells[column].value is not None))
        self.wait(lambda: session.settled)
        self.assertFalse(session.result.rough)
        self.assertGreater(session.result.mass, 1.1 * before.mass)

    def test_what_is_written_waits_for_the_full_order(self) -> None:
        session = self.window.session
        session.choose_brief("b8")
        session.choose("c3")
        self.wait(lambda: session.settled)
        core = next(i for i, layer in enumerate(session.candidate.layers) if layer.role == "core")
        layer = session.candidate.layers[core]
        thicker = replace(layer, thickness=layer.thickness + 0.5e-3)
        session.edit_candidate(edits.set_layer(session.candidate, core, thicker), "thicker")
        target = self.folder / "line-up.csv"
        self.window.files.ask_save = lambda _name, _kinds: str(target)
        self.command("Line-up to CSV")
        self.wait(lambda: session.settled)
        self.wait(target.exists)
        rows = list(csv.DictReader(target.read_text(encoding="utf-8-sig").splitlines()))
        told = next(
            float(row[session.candidate.name]) for row in rows if row[""] == "Deflection" and row["unit"] == "mm"
        )
        self.assertAlmostEqual(told / (1e3 * session.result.worst("deflection").value), 1.0, delta=2e-3)
        self.assertEqual(session.result.accuracy, FULL)

    def test_a_coarse_answer_comes_before_what_takes_long(self) -> None:
        session = self.window.session
        session.choose_brief("b7")
        session.choose("c5")
        self.wait(lambda: session.settled)
        layer = session.candidate.layers[0]
        seen: list[CandidateResult] = []
        session.results_changed.connect(lambda: seen.append(session.result))
        with mock.patch("omakase.evaluate.results.engine.LONG", 0.0):
            session.edit_candidate(
                edits.set_layer(session.candidate, 0, replace(layer, angle=layer.angle + 5.0)), "turn"
            )
            self.wait(lambda: session.settled)
        stale, first, full = dict.fromkeys(seen)
        self.assertTrue(stale.stale)
        self.assertFalse(first.rough or first.accuracy == FULL)
        self.assertEqual(full.accuracy, FULL)
        self.assertAlmostEqual(first.worst("deflection").value / full.worst("deflection").value, 1.0, delta=0.03)
