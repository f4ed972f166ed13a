"""The main job through the real window: change the core, see the line-up follow, undo, save, reopen, same numbers."""

from __future__ import annotations

import json
import unittest
from pathlib import Path
from unittest import mock

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from omakase.core.laminate.constants import LaminateConstants
from omakase.core.materials.areal import ply_thickness
from omakase.evaluate.results.engine import Evaluator
from omakase.project.library import materials_of, shipped_materials
from omakase.project.model import Project, new_project
from omakase.project.storage import Recovery, left_behind, read_project, write_project
from omakase.ui.layup.layer_table import ANGLE, MATERIAL, THICKNESS
from omakase.ui.materials.material_card import SOURCE, VALUE
from tests.ui.support import WindowTest

CTRL, SHIFT, ALT = (
    Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.AltModifier,
)  # fmt: skip


class Decide(WindowTest):
    def test_core_thickness_to_decision_and_back(self) -> None:
        window, session = self.window, self.window.session
        self.assertEqual(session.candidate_id, "c2")
        before = self.value("deflection")
        picture = window.line_up_view.grab().toImage()
        window.layup_editor.table.select_row(1, THICKNESS)
        window.layup_editor.table.setFocus()
        for _ in range(4):
            self.press(Qt.Key.Key_Right)
        self.assertAlmostEqual(session.candidate.layers[1].thickness, 0.012)
        after = self.value("deflection")
        self.assertLess(after, 0.8 * before)
        self.assertNotEqual(picture, window.line_up_view.grab().toImage())
        self.assertIn("12 mm", window.layup_editor.line.text())
        self.assertTrue(session.document.modified)
        # four key presses are one step
        self.press(Qt.Key.Key_Z, CTRL)
        self.assertEqual(self.value("deflection"), before)
        self.assertFalse(session.document.modified)
        self.press(Qt.Key.Key_Z, CTRL | SHIFT)
        self.assertEqual(self.value("deflection"), after)
        path = self.folder / "decision.omakase.json"
        window.files.ask_save = lambda _name, _kinds: str(path)
        self.press(Qt.Key.Key_S, CTRL)
        self.assertFalse(session.document.modified)
        self.assertEqual(json.loads(path.read_bytes())["briefs"][0]["candidates"][1]["layers"][1]["thickness"], 0.012)
        shown = [cell.value for row in session.line_up().rows for cell in row.cells]
        window.files.ask_open = lambda _kinds: str(path)
        self.press(Qt.Key.Key_O, CTRL)
        again = [cell.value for row in session.line_up().rows for cell in row.cells]
        self.assertEqual(shown, again)
        self.assertEqual(session.document.undo_text, "")

    def test_a_candidate_from_the_keyboard(self) -> None:
        session = self.window.session
        self.press(Qt.Key.Key_N, CTRL)
        line = self.window.layup_editor.line
        self.assertIs(self.application.focusWidget(), line)
        QTest.keyClicks(line, "2 twill200 ±45 ; core hc48 1/2 in ; ud200 0/90")
        self.assertIn("reads as [45/-45/core 12.7/0/90]", self.window.layup_editor.message.text())
        QTest.keyClick(line, Qt.Key.Key_Return)
        self.process()
        self.assertEqual([la.angle for la in session.candidate.layers], [45.0, -45.0, 0.0, 0.0, 90.0])
        self.assertGreater(self.value("frequency"), 100.0)
        self.press(Qt.Key.Key_M, CTRL)
        layers = session.candidate.layers
        self.assertEqual(layers, layers[::-1])
        self.press(Qt.Key.Key_D, CTRL)
        self.assertEqual(session.brief.candidates[3].layers, layers)
        self.press(Qt.Key.Key_Delete, CTRL)
        while session.document.undo_text:
            self.press(Qt.Key.Key_Z, CTRL)
        self.assertEqual(session.document.project, self.project())

    def test_keys_on_the_layers(self) -> None:
        table, session = self.window.layup_editor.table, self.window.session
        table.setFocus()
        table.select_row(0, ANGLE)
        self.press(Qt.Key.Key_Right)
        self.assertEqual(session.candidate.layers[0].angle, 15.0)
        self.press(Qt.Key.Key_Left, SHIFT)
        self.assertEqual(session.candidate.layers[0].angle, 14.0)
        self.press(Qt.Key.Key_Space)
        self.assertFalse(session.candidate.layers[0].structural)
        self.assertIn("face A has no structural ply", session.result.error)
        self.press(Qt.Key.Key_Return, CTRL)
        self.assertEqual(len(session.candidate.layers), 4)
        self.press(Qt.Key.Key_Delete)
        self.press(Qt.Key.Key_Down, ALT)
        self.assertEqual(session.candidate.layers[-1].material, "pvc80")
        self.assertIn("outer layer", self.window.layup_editor.message.text())
        while session.document.undo_text:
            self.press(Qt.Key.Key_Z, CTRL)
        self.assertEqual(session.document.project, self.project())

    def test_the_line_up_by_keys_and_mouse(self) -> None:
        view, session = self.window.line_up_view, self.window.session
        view.setFocus()
        self.press(Qt.Key.Key_Right)
        self.assertEqual(session.candidate_id, "c3")
        self.click(view, view.width() - 20, 100)
        self.assertEqual(session.candidate_id, "c5")
        self.press(Qt.Key.Key_Left, ALT | SHIFT)
        self.assertEqual([c.id for c in session.brief.candidates], ["c1", "c2", "c3", "c5", "c4"])
        self.press(Qt.Key.Key_B, CTRL)
        self.assertEqual(session.brief.baseline, "c5")
        column = view._label_width() + 30
        rows = view._drawn.head_height() + view._section_height(session.line_up())
        self.assertIn("Method: plate solution", view.explanation(column, rows + 5))
        self.assertIn("weighed at 2.93 kg", view.explanation(column, 20))


class Brief(WindowTest):
    def test_without_a_load_case_the_window_goes_on(self) -> None:
        session = self.window.session
        for case in session.brief.load_cases:
            self.window.brief_view._remove_case(case)
            self.process()
        self.assertTrue(session.result.ok)
        self.assertIsNotNone(self.value("mass"))
        while session.document.undo_text:
            session.document.undo()
        self.assertEqual(session.document.project, self.project())

    def test_a_value_in_any_unit(self) -> None:
        before = self.value("deflection")
        self.type_into("Panel length", "2 ft")
        self.assertAlmostEqual(self.window.session.brief.member.length, 0.6096)
        self.assertNotEqual(self.value("deflection"), before)
        self.type_into("Force, l1", "98 kgf")
        self.assertAlmostEqual(self.window.session.brief.load_cases[0].loads[0].force, 98 * 9.80665)

    def test_the_project_has_a_title(self) -> None:
        self.type_into("Title of the project", "Heronwick, spring")
        self.assertEqual(self.window.session.document.project.title, "Heronwick, spring")
        self.assertIn("spring", self.window.windowTitle())
        self.window.session.document.undo()
        self.assertEqual(self.field("Title of the project").text(), "Heronwick Works")

    def test_a_wrong_value_is_explained_where_it_stands(self) -> None:
        session = self.window.session
        for text, part in (("12 kg", "does not fit"), ("-3 mm", "more than zero"), ("wide", "number")):
            field = self.type_into("Panel length", text)
            self.assertEqual(field.text(), text)
            self.assertTrue(field.property("wrong"))
            self.assertIn(part, self.window.brief_view.paragraphs["panel"].message)
            self.assertFalse(session.document.modified)
        QTest.keyClick(self.field("Panel length"), Qt.Key.Key_Escape)
        self.assertEqual(self.window.brief_view.paragraphs["panel"].message, "")

    def test_a_brief_that_makes_no_sense_stays_editable(self) -> None:
        session = self.window.session
        self.type_into("Patch centre along the length, l1", "600 mm")
        self.assertIn("panel", self.window.brief_view.paragraphs["l1"].message)
        self.assertIn("not complete", session.result.error)
        self.type_into("Patch centre along the length, l1", "200 mm")
        self.assertEqual(self.window.brief_view.paragraphs["l1"].message, "")
        self.assertTrue(session.result.ok)

    def test_arrow_keys_step_and_merge(self) -> None:
        field = self.field("Largest deflection allowed")
        field.setFocus()
        for _ in range(5):
            self.press(Qt.Key.Key_Up)
        self.assertAlmostEqual(self.window.session.brief.limits.deflection, 0.0065)
        self.assertEqual(self.window.line_up_view.session.line_up().rows[0].cells[1].status, "meets")
        self.press(Qt.Key.Key_Z, CTRL)
        self.assertEqual(self.window.session.brief.limits.deflection, 0.006)

    def test_supports_loads_and_limits_come_and_go(self) -> None:
        session, view = self.window.session, self.window.brief_view
        edge = self.field("Support of the left end")
        edge.setCurrentIndex(edge.findData("clamped"))
        edge.activated.emit(edge.currentIndex())
        self.assertEqual(session.brief.member.supports.x0, "clamped")
        self.press(Qt.Key.Key_L, CTRL | SHIFT)
        self.assertEqual(len(session.brief.load_cases), 4)
        identity = session.brief.load_cases[-1].id
        view._add_load(identity, "patch")
        self.process()
        face = self.field(f"Face pressed on, {identity} load 2")
        face.setCurrentIndex(1)
        face.activated.emit(1)
        self.assertLess(session.brief.load_cases[-1].loads[1].force, 0.0)
        self.type_into(f"Force, {identity} load 2", "500 N")
        self.assertEqual(session.brief.load_cases[-1].loads[1].force, -500.0)
        view._set_limit("mass", None)
        view._set_limit("frequency_band", (80.0, 120.0))
        self.type_into("Upper end of the forbidden band", "300 Hz")
        self.assertEqual(session.brief.limits.frequency_band, (80.0, 300.0))
        self.assertEqual([row.key for row in session.line_up().rows][:3], ["deflection", "frequency", "frequency_band"])
        while session.document.undo_text:
            session.document.undo()
        self.assertEqual(session.document.project, self.project())

    def test_a_patch_is_dragged(self) -> None:
        picture, session = self.window.panel_picture, self.window.session
        plan, scale = picture.plan()
        load = session.brief.load_cases[0].loads[0]
        start = plan.bottomLeft() + self._offset(load.x * scale, -load.y * scale)
        end = plan.bottomLeft() + self._offset(0.4 * scale, -0.1 * scale)
        QTest.mousePress(picture, Qt.MouseButton.LeftButton, CTRL & SHIFT, start.toPoint())
        for step in (0.5, 1.0):
            QTest.mouseMove(picture, (start + (end - start) * step).toPoint())
        QTest.mouseRelease(picture, Qt.MouseButton.LeftButton, CTRL & SHIFT, end.toPoint())
        moved = session.brief.load_cases[0].loads[0]
        self.assertAlmostEqual(moved.x, 0.4, delta=2.5 / scale)
        self.assertAlmostEqual(moved.y, 0.1, delta=2.5 / scale)
        session.document.undo()
        self.assertEqual(session.document.project, self.project())
        self.click(picture, plan.right() - 3, plan.top() + 3)
        self.assertEqual(session.load_case.name, "luggage")

    @staticmethod
    def _offset(x: float, y: float):  # type: ignore[no-untyped-def]
        from PyQt6.QtCore import QPointF

        return QPointF(x, y)


class Findings(WindowTest):
    def test_a_finding_is_accepted_with_a_reason_that_is_kept(self) -> None:
        session, view = self.window.session, self.window.layup_editor.findings
        self.assertTrue(view.isHidden())
        session.choose("c5")
        self.process()
        self.assertEqual(set(view.fields), {"unsymmetric"})
        field = view.fields["unsymmetric"]
        field.setFocus()
        QTest.keyClicks(field, "the long edges carry")
        QTest.keyClick(field, Qt.Key.Key_Return)
        self.process()
        self.assertEqual([entry.reason for entry in session.candidate.accepted], ["the long edges carry"])
        self.assertEqual(len(session.line_up().results[4].open_findings), 0)
        self.assertEqual(view.fields["unsymmetric"].text(), "the long edges carry")
        session.document.undo()
        self.assertEqual(session.candidate.accepted, ())
        self.process()
        self.assertEqual(view.fields["unsymmetric"].text(), "")


class Why(WindowTest):
    def test_choosing_a_check_moves_the_pictures(self) -> None:
        view, session = self.window.checks_view, self.window.session
        session.choose("c4")
        self.process()
        checks = view.checks_model.checks
        ratios = [check.reserve_factor / check.required for check in checks]
        self.assertEqual(ratios, sorted(ratios))
        row = next(i for i, c in enumerate(checks) if c.check == "core_shear" and c.load_case == "pothole")
        before = self.window.lower.field_picture.grab().toImage()
        view.table.setFocus()
        view.table.selectRow(row)
        self.process()
        self.assertEqual(session.check, checks[row])
        self.assertIn("Core shear", view.text.toPlainText())
        self.assertEqual(session.load_case.name, "pothole")
        self.assertNotEqual(before, self.window.lower.field_picture.grab().toImage())
        profile = self.window.lower.profile_picture.profile()
        self.assertAlmostEqual(profile.place.x, checks[row].place.x)

    def test_a_choice_outlives_an_edit(self) -> None:
        session = self.window.session
        session.look_at_check(next(c for c in session.result.checks if c.check == "core_shear"))
        self.window.layup_editor.thicken_core(2)
        self.process()
        self.assertEqual(session.check.check, "core_shear")


class Layup(WindowTest):
    def test_properties_of_the_layup(self) -> None:
        self.press(Qt.Key.Key_2, CTRL)
        self.assertTrue(self.window.lower.layup_picture.isVisible())
        before = self.window.lower.layup_picture.grab().toImage()
        self.window.layup_editor.thicken_core(2)
        self.process()
        self.assertNotEqual(before, self.window.lower.layup_picture.grab().toImage())
        self.press(Qt.Key.Key_C, CTRL | SHIFT)
        rows = self.application.clipboard().text().splitlines()
        self.assertEqual((rows[0], rows[4], rows[8]), ("A, N/m", "B, N", "D, N m"))
        A = LaminateConstants(self.window.session.result.stack).A
        self.assertAlmostEqual(float(rows[1].split("\t")[0]) / A[0, 0], 1.0, delta=1e-5)
        self.press(Qt.Key.Key_3, CTRL)
        card = self.window.material_card
        self.assertEqual(card.chooser.currentText(), "twill200")
        self.window.layup_editor.table.select_row(1)
        self.process()
        self.assertEqual(card.chooser.currentText(), "pvc80")
        shown = {entry.symbol: entry.value for entry in card.model.rows}
        material = materials_of(self.window.session.document.project)["pvc80"]
        self.assertEqual(shown["ρ"], f"{material.value('density'):.0f} kg/m³")
        self.assertEqual(len(card.model.rows), len(material.properties) + 1)  # and the thicknesses sold
        self.press(Qt.Key.Key_1, CTRL)
        self.assertFalse(self.window.lower.layup_picture.isVisible())


class OwnMaterials(WindowTest):
    def test_a_measured_value_of_ones_own(self) -> None:
        session, window = self.window.session, self.window
        before = self.value("deflection")
        window.layup_editor.table.setFocus()
        window.layup_editor.table.select_row(1)
        self.press(Qt.Key.Key_M, CTRL | SHIFT)
        self.assertEqual(session.candidate.layers[1].material, "pvc80-2")
        self.assertEqual(self.value("deflection"), before)
        card = window.material_card
        row = next(i for i, entry in enumerate(card.model.rows) if entry.key == "G13")
        self.assertFalse(card.model.setData(card.model.index(row, VALUE), "12 kg"))
        self.assertIn("does not fit", card.message.text())
        self.assertEqual(card.model.index(row, VALUE).data(), "12 kg")
        self.assertFalse(card.model.setData(card.model.index(row, VALUE), "-3 MPa"))
        self.assertTrue(card.model.setData(card.model.index(row, VALUE), "10 MPa"))
        self.assertTrue(card.model.setData(card.model.index(row, SOURCE), "tested"))
        self.assertGreater(self.value("deflection"), 1.05 * before)
        self.assertEqual(card.model.rows[row].source, "tested")
        while session.document.undo_text:
            session.document.undo()
        self.assertEqual(session.document.project, self.project())

    def test_a_cloth_laid_up_another_way(self) -> None:
        session, card = self.window.session, self.window.material_card
        self.window.layup_editor.table.select_row(0)
        self.press(Qt.Key.Key_M, CTRL | SHIFT)
        mass, thickness = self.value("mass"), self.value("thickness")
        card.process.setCurrentIndex(card.process.findData("one_to_one"))
        card.process.activated.emit(card.process.currentIndex())
        self.process()
        own = materials_of(session.document.project)["twill200-2"]
        self.assertEqual(own.value("resin_mass_fraction"), 0.5)
        self.assertGreater(self.value("mass"), mass)
        self.assertGreater(self.value("thickness"), thickness)
        self.type_into("Measured thickness", "0.01 mm")
        self.assertIn("thinner than the fibres", card.message.text())
        self.type_into("Measured thickness", "0.24 mm")
        own = materials_of(session.document.project)["twill200-2"]
        self.assertEqual(own.properties["resin_mass_fraction"].source, "tested")
        self.assertAlmostEqual(ply_thickness(own), 0.24e-3)
        self.assertIn("measured thickness", own.properties["resin_mass_fraction"].note)

    def test_shipped_ones_are_read_only(self) -> None:
        self.press(Qt.Key.Key_3, CTRL)
        model = self.window.material_card.model
        self.assertFalse(model.flags(model.index(4, VALUE)) & Qt.ItemFlag.ItemIsEditable)
        self.assertFalse(model.setData(model.index(4, VALUE), "1"))
        self.assertIn("copy it", self.window.material_card.message.text())

    def test_out_to_a_table_and_in_again(self) -> None:
        path = self.folder / "m.csv"
        self.window.files.ask_save = lambda _name, _kinds: str(path)
        self.command("materials to")
        self.window.files.ask_open = lambda _kinds: str(path)
        text = path.read_text("utf-8-sig")
        path.write_text(text.replace("steel,", "st eel,", 1))
        self.command("materials from")
        self.assertIn("left out:\nline ", self.window.notice.text)
        self.assertIn("st eel", self.window.notice.text)
        self.assertEqual(self.window.session.document.undo_text, f"read {len(shipped_materials())} materials")
        self.window.notice.answer(0)


class Ways(WindowTest):
    def test_a_way_out_becomes_a_candidate(self) -> None:
        session, view = self.window.session, self.window.ways_view
        self.press(Qt.Key.Key_4, CTRL)
        self.wait(lambda: not view.searching, 60.0)
        self.assertEqual([way.lever for way in view.ways][:4], ["core", "sold", "more A", "more B"])
        self.assertIn("Ways out", view.head.text())
        QTest.keyClick(view.list, Qt.Key.Key_Return)
        self.process()
        self.assertEqual(session.brief.candidates[2].id, session.candidate_id)
        self.assertTrue(session.result.passes)
        self.assertIn("core 10.50 mm", session.candidate.origin)
        self.wait(lambda: not view.searching, 60.0)  # now from the new one, which has room
        self.assertIn("make it lighter", view.head.text())
        session.document.undo()
        self.assertEqual(session.document.project, self.project())
        self.press(Qt.Key.Key_1, CTRL)
        self.assertFalse(view.searching)


class Looks(WindowTest):
    def test_units_theme_and_size(self) -> None:
        session = self.window.session
        value = self.value("deflection")
        self.press(Qt.Key.Key_U, CTRL)
        self.assertIn("in", self.field("Panel length").text())
        self.assertEqual(self.value("deflection"), value)
        self.press(Qt.Key.Key_U, CTRL)
        self.assertEqual(session.document.project, self.project())
        light = self.window.line_up_view.grab().toImage().pixelColor(4, 4).lightness()
        self.press(Qt.Key.Key_T, CTRL)
        self.assertLess(self.window.line_up_view.grab().toImage().pixelColor(4, 4).lightness(), light - 100)
        height = self.window.line_up_view.fontMetrics().height()
        self.command("larger")
        self.assertGreater(self.window.line_up_view.fontMetrics().height(), height)
        self.command("smaller")

    def test_briefs_and_panes(self) -> None:
        session = self.window.session
        self.press(Qt.Key.Key_PageDown, CTRL)
        self.assertEqual(session.brief.name, "Drone payload bay floor")
        panes = []
        for _ in range(4):
            self.press(Qt.Key.Key_F6)
            panes.append(self.application.focusWidget())
        self.assertEqual(len(set(panes)), 4)
        count = len(session.document.project.briefs)
        self.press(Qt.Key.Key_N, CTRL | SHIFT)
        QTest.keyClick(self.window.kind_menu, Qt.Key.Key_Return)  # the first kind that is offered
        self.assertEqual((len(session.document.project.briefs), session.brief.name), (count + 1, "New panel"))
        self.command("remove brief")
        self.assertEqual(len(session.document.project.briefs), count)

    def test_every_command_has_a_name_and_no_key_twice(self) -> None:
        keys = [key.toString() for action in self.window.commands for key in action.shortcuts()]
        self.assertEqual(len(keys), len(set(keys)))
        self.assertGreater(len(self.window.commands), 30)
        self.window.command_list.open()
        self.assertEqual(self.window.command_list.list.topLevelItemCount(), len(self.window.commands))
        QTest.keyClick(self.window.command_list.query, Qt.Key.Key_Escape)
        self.assertFalse(self.window.command_list.isVisible())


class Empty(WindowTest):
    def project(self) -> Project:
        return new_project()

    def test_an_empty_project_teaches_and_can_be_filled(self) -> None:
        session = self.window.session
        self.assertIn("Ctrl+N", self.window.layup_editor.message.text())
        self.press(Qt.Key.Key_N, CTRL)
        self.assertIn("empty", session.result.error)
        QTest.keyClicks(self.window.layup_editor.line, "al6082 3")
        QTest.keyClick(self.window.layup_editor.line, Qt.Key.Key_Return)
        self.process()
        self.assertTrue(session.result.ok)
        self.command("remove brief")
        self.assertIsNone(session.brief)
        self.window.grab()
        self.press(Qt.Key.Key_N, CTRL | SHIFT)
        QTest.keyClick(self.window.kind_menu, Qt.Key.Key_Return)
        self.assertIsNotNone(session.brief)


class Files(WindowTest):
    def test_a_broken_file_is_explained_and_nothing_is_lost(self) -> None:
        session = self.window.session
        self.window.layup_editor.thicken_core(1)
        kept = session.document.project
        path = self.folder / "broken.json"
        path.write_text('{"format": "omakase-project", "version": 99}')
        self.assertFalse(self.window.files.open_path(path))
        self.assertIn("newer version", self.window.notice.text)
        self.assertEqual(session.document.project, kept)
        self.assertIn("99", path.read_text())
        self.window.notice.answer(0)

    def test_unsaved_work_is_asked_about_in_the_window(self) -> None:
        self.window.layup_editor.thicken_core(1)
        self.window.close()
        self.assertTrue(self.window.isVisible())
        self.assertIn("not saved", self.window.notice.text)
        QTest.keyClick(self.window.notice, Qt.Key.Key_Escape)
        self.assertEqual(self.window.notice.text, "")
        path = self.folder / "kept.omakase.json"
        self.window.files.ask_save = lambda _name, _kinds: str(path)
        self.window.close()
        self.window.notice.answer(0)
        self.assertFalse(self.window.isVisible())
        self.assertTrue(path.exists())

    def test_a_save_that_fails_keeps_the_work(self) -> None:
        self.window.layup_editor.thicken_core(1)
        (self.folder / "blocked").write_text("a file, not a folder")
        self.window.files.ask_save = lambda _name, _kinds: str(self.folder / "blocked" / "x.json")
        self.window.files.save()
        self.assertIn("could not be written", self.window.notice.text)
        self.assertTrue(self.window.session.document.modified)
        self.window.notice.answer(0)

    def test_a_file_changed_by_another_program(self) -> None:
        path = self.folder / "a.omakase.json"
        self.window.files.ask_save = lambda _name, _kinds: str(path)
        self.window.files.save()
        path.write_text(path.read_text() + " ")
        self.window.layup_editor.thicken_core(1)
        self.assertFalse(self.window.files.save())
        self.assertIn("changed by another program", self.window.notice.text)
        self.window.notice.answer(1)
        self.assertFalse(self.window.session.document.modified)

    def test_work_outlives_a_crash(self) -> None:
        self.window.layup_editor.thicken_core(3)
        changed = self.window.session.document.project
        self.window.files.autosave(wait=True)
        kept = left_behind()
        self.assertEqual(kept[0].project, changed)
        # another window starts after the crash of this one and is offered the work
        second = self.open(self.project())
        second.files.recovery = Recovery()
        second.files.offer_recovery()
        self.assertIn("ended without saving", second.notice.text)
        second.notice.answer(0)
        self.assertEqual(second.session.document.project, changed)
        self.assertTrue(second.session.document.modified)
        self.window.session.document.mark_saved(Path("x"))

    def test_the_line_up_is_exported(self) -> None:
        for suffix in (".csv", ".pdf"):
            path = self.folder / f"line{suffix}"
            self.window.files.ask_save = lambda _name, _kinds, path=path: str(path)
            self.window.files.export(self.window.session.line_up(), suffix)
            self.wait(path.exists)
        self.process()

    def test_an_error_inside_is_told_and_the_work_kept(self) -> None:
        import contextlib
        import io
        import logging
        import sys

        from omakase.ui.window.application import keep_work_on_errors

        old = sys.excepthook
        self.addCleanup(setattr, sys, "excepthook", old)
        self.window.layup_editor.thicken_core(1)
        keep_work_on_errors(self.window)
        logging.disable(logging.CRITICAL)
        self.addCleanup(logging.disable, logging.NOTSET)
        with contextlib.redirect_stderr(io.StringIO()):
            sys.excepthook(ZeroDivisionError, ZeroDivisionError("by zero"), None)
        self.assertIn("went wrong", self.window.notice.text)
        self.wait(lambda: bool(left_behind()))
        self.assertEqual(left_behind()[0].project, self.window.session.document.project)

    def test_an_error_in_the_keeping_is_told_too(self) -> None:
        told: list[str] = []
        self.window.files.told.connect(told.append)
        with mock.patch.object(self.window.files.recovery, "keep", side_effect=UnicodeError("half a character")):
            self.window.layup_editor.thicken_core(1)
            self.window.files.autosave(wait=True)
            self.process()
        self.assertIn("could not be kept", told[-1])

    def test_work_kept_before_a_later_save_does_not_overwrite_it(self) -> None:
        path = self.folder / "a.omakase.json"
        self.window.files.ask_save = lambda _name, _kinds: str(path)
        self.window.files.save()
        self.window.layup_editor.thicken_core(3)
        self.window.files.autosave(wait=True)
        changed = self.window.session.document.project
        write_project(path, new_project())  # saved elsewhere since
        second = self.open(self.project())
        second.files.offer_recovery()
        second.notice.answer(0)
        self.assertIsNone(second.session.document.path)
        self.assertEqual(second.session.document.project, changed)
        self.assertIn("was saved after", second.notice.text)
        self.assertEqual(read_project(path), new_project())
        for window in (self.window, second):
            window.session.document.mark_saved(Path("x"))

    def test_an_ending_added_after_the_question_is_asked_about(self) -> None:
        path = self.folder / "a.omakase.json"
        path.write_text("precious")
        self.window.files.ask_save = lambda _name, _kinds: str(self.folder / "a")
        self.assertFalse(self.window.files.save_as())
        self.assertIn("exists already", self.window.notice.text)
        self.window.notice.answer(2)
        self.assertEqual(path.read_text(), "precious")
        self.window.files.save_as()
        self.window.notice.answer(1)
        self.assertEqual(read_project(path), self.window.session.document.project)
        table = self.folder / "materials.csv"
        table.write_text("precious")
        self.window.files.ask_save = lambda _name, _kinds: str(self.folder / "materials")
        self.window.files.write_materials()
        self.window.notice.answer(2)
        self.assertEqual(table.read_text(), "precious")

    def test_a_large_table_of_materials_is_read_behind_the_window(self) -> None:
        table = self.folder / "many.csv"
        lines = ["material,name,kind,family,property,value,unit,source,note"]
        table.write_text("\n".join([*lines, *(f"odd{i},x,core,foam,density,1,kg,tested," for i in range(20_000))]))
        self.window.files.ask_open = lambda _kinds: str(table)
        before = self.window.session.document.project
        self.window.files.read_materials()
        self.assertIn("Reading 'many.csv'", self.window.notice.text)
        self.window.notice.answer(0)  # stop: what arrives is not taken, and nothing is said of it
        self.window.files.writing.worker.submit(int).result()
        self.process()
        self.assertEqual(self.window.notice.text, "")
        self.window.files.read_materials()
        self.wait(lambda: "left out" in self.window.notice.text)
        self.assertIn("0 materials read", self.window.notice.text)
        self.assertIs(self.window.session.document.project, before)

    def test_what_asks_waits_for_its_turn(self) -> None:
        notice, done = self.window.notice, []
        notice.say("first?", [("Yes", lambda: done.append(1)), ("No", lambda: None)])
        notice.say("second")
        notice.say("second")
        notice.say("third?", [("Yes", lambda: done.append(3)), ("No", lambda: None)])
        self.assertEqual(notice.text, "first?")
        notice.answer(0)
        self.assertEqual(notice.text, "second")
        notice.answer(0)
        self.assertEqual(notice.text, "third?")
        notice.answer(0)
        self.assertEqual((notice.text, done), ("", [1, 3]))


class InTheBackground(WindowTest):
    synchronous = False

    def test_a_quick_result_is_replaced_by_the_full_one(self) -> None:
        session = self.window.session
        self.wait(lambda: session.settled)
        self.window.layup_editor.thicken_core(1)
        first = self.value("deflection")  # there at once
        self.wait(lambda: session.settled)
        self.assertTrue(session.is_final(session.candidate_id))
        self.assertAlmostEqual(self.value("deflection") / first, 1.0, delta=0.01)

    def test_many_edits_in_a_row_end_with_the_last(self) -> None:
        session = self.window.session
        self.wait(lambda: session.settled)
        for _ in range(15):
            self.window.layup_editor.thicken_core(1)
        self.wait(lambda: session.settled)
        background = self.value("deflection")
        fresh = Evaluator().evaluate(session.brief, session.candidate, materials_of(session.document.project))
        self.assertEqual(fresh.worst("deflection").value, background)

    def test_a_table_cell_edited_with_a_mistake(self) -> None:
        model = self.window.layup_editor.table.layer_model
        self.assertFalse(model.setData(model.index(0, MATERIAL), "unobtainium"))
        self.assertIn("no material is named", self.window.layup_editor.message.text())
        self.assertFalse(model.setData(model.index(0, ANGLE), "1e9"))
        self.assertFalse(model.setData(model.index(1, THICKNESS), "-3"))
        self.assertFalse(self.window.session.document.modified)
        self.assertTrue(model.setData(model.index(1, THICKNESS), "1/2 in"))
        self.wait(lambda: self.window.session.settled)


if __name__ == "__main__":
    unittest.main()
