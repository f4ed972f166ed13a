"""Details in the window: added, typed, told where they make no sense, drawn on the member, ways out, design values."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLabel, QToolButton, QTreeWidget

from omakase.core.details.fastener import Fastener
from omakase.project.commands import ArrangeSeries
from omakase.project.details import FastenerDetail, InsertDetail
from omakase.project.model import Reading, Series, Specimen
from omakase.project.storage import read_project
from omakase.ui.details.details_view import DetailsView
from tests.ui.support import WindowTest

CTRL_SHIFT = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
CTRL = Qt.KeyboardModifier.ControlModifier


class Details(WindowTest):
    def show(self, brief: str, candidate: str) -> DetailsView:
        session = self.window.session
        session.choose_brief(brief)
        session.choose(candidate)
        self.press(Qt.Key.Key_B, CTRL_SHIFT)
        view = self.window.details_view
        self.assertTrue(view.isVisible())
        return view

    def rows(self, tree: QTreeWidget) -> list[list[str]]:
        return [
            [item.text(column) for column in range(tree.columnCount())]
            for item in (tree.topLevelItem(i) for i in range(tree.topLevelItemCount())) if item is not None
        ]  # fmt: skip

    def add(self, view: DetailsView, words: str) -> None:
        menu = view.add.menu()
        assert menu is not None
        next(action for action in menu.actions() if action.text() == words).trigger()
        self.process()

    def detail(self, index: int = 0) -> object:
        candidate = self.window.session.candidate
        assert candidate is not None
        return candidate.details[index]

    def test_a_bolt_is_added_typed_over_and_taken_back(self) -> None:
        view = self.show("b1", "c3")
        session = self.window.session
        words = " ".join(label.text() for label in view.paragraph.findChildren(QLabel))
        self.assertIn("no details yet", words)
        self.add(view, "bolts or pins")
        self.assertIsInstance(self.detail(), FastenerDetail)
        self.type_into("Place along, bolt 1", "150")
        self.type_into("Diameter, bolt 1", "5 mm")
        self.type_into("Pull of load 1, bolt 1", "90 kgf")
        own = self.detail()
        assert isinstance(own, FastenerDetail)
        self.assertEqual((own.x, own.diameter), (0.15, 0.005))
        self.assertAlmostEqual(own.loads[0].pull, 90 * 9.80665)
        self.assertIn("✗", self.rows(view.list)[0][1])
        self.assertIn("Core under the clamp", [row[0] for row in self.rows(view.checks)])
        self.assertIn("N m", view.told.text())
        self.assertFalse(session.result.passes)
        self.choose("Sleeve, bolt 1", "stainless")
        self.type_into("Washer, bolt 1", "24")
        self.assertIn("Sleeve under the clamp", [row[0] for row in self.rows(view.checks)])
        for _ in range(30):
            self.press(Qt.Key.Key_Z, CTRL)
        self.assertFalse(session.candidate.details)
        self.window.grab()

    def test_what_makes_no_sense_is_told_below_the_sentence(self) -> None:
        view = self.show("b1", "c4")
        self.type_into("Washer, seat rail bolts", "5")
        assert view.paragraph is not None
        self.assertIn("washer", view.paragraph.message)
        field = self.field("Washer, seat rail bolts")
        self.assertTrue(field.property("wrong"))
        self.assertFalse(self.window.session.result.passes)
        self.assertIn("Detail cannot be judged", [row[2] for row in self.rows(view.list)])
        self.type_into("Washer, seat rail bolts", "24")
        self.assertEqual(view.paragraph.message, "")
        self.assertFalse(self.field("Washer, seat rail bolts").property("wrong"))
        self.type_into("Place along, seat rail bolts", "900")
        self.assertIn("outside the part", view.paragraph.message)
        self.window.grab()

    def test_a_layup_of_its_own_is_a_quick_line(self) -> None:
        view = self.show("b8", "c4")
        name = "Another layup there, left hinge"
        next(own for own in view.paragraph.findChildren(QToolButton) if own.accessibleName() == name).click()
        self.process()
        self.type_into("Layup there, left hinge", "4 twill200 ±45")
        self.assertEqual(len(self.detail().layers), 4)  # type: ignore[attr-defined]
        self.type_into("Layup there, left hinge", "4 twil200")
        self.assertIn("twil200", view.paragraph.message)
        self.assertEqual(len(self.detail().layers), 4)  # type: ignore[attr-defined]

    def test_loads_follow_the_member_as_it_is_edited(self) -> None:
        self.show("b8", "c4")
        session = self.window.session
        self.type_into("Force, l2 load 1", "450")
        (left, _) = session.result.details
        assert isinstance(left, Fastener)
        self.assertEqual(left.cases[0].pull, 450.0)

    def test_the_button_beside_the_layup_leads_to_them(self) -> None:
        window, session = self.window, self.window.session
        session.choose("c3")
        self.process()
        button = window.layup_editor.details
        self.assertEqual(button.text(), "+ detail")
        session.choose_brief("b8")
        session.choose("c2")
        self.process()
        self.assertEqual(button.text(), "✗ 2 details 0.10")
        button.click()
        self.process()
        self.assertTrue(window.details_view.isVisible())
        window.details_view.list.setFocus()
        self.press(Qt.Key.Key_Delete)
        self.assertEqual(len(session.candidate.details), 1)
        self.assertEqual(button.text(), "✗ 1 detail 0.10")

    def test_marks_on_the_panel_and_on_the_span(self) -> None:
        from omakase.ui.details.marks import marked

        for brief, candidate, failing in (("b8", "c2", {"d1", "d2"}), ("b6", "c2", set())):
            self.window.session.choose_brief(brief)
            self.window.session.choose(candidate)
            self.process()
            details, told = marked(self.window.session)
            self.assertTrue(details)
            self.assertEqual(set(told), failing)
            self.window.grab()

    def test_seam_with_its_target_and_copies(self) -> None:
        view = self.show("b7", "c4")
        names = [row[0] for row in self.rows(view.list)]
        self.assertEqual(names, ["lip to the lower shell", "stones from the front wheel", "rear edge"])
        self.type_into("Overlap, lip to the lower shell", "5")
        self.assertIn("Laminate before glue", self.rows(view.checks)[0][0])
        self.assertIn("turns at an overlap", view.told.text())
        self.type_into("Bond line, lip to the lower shell", "0.05")
        self.assertIn("wants a bond line of 0.3 to 3 mm", view.paragraph.message)
        self.assertEqual(self.detail().gap, 0.05e-3)  # type: ignore[attr-defined]
        view.double.click()
        self.process()
        self.assertEqual(len(self.window.session.candidate.details), 4)
        view.remove.click()
        self.process()
        self.assertEqual(len(self.window.session.candidate.details), 3)
        view._choose("d2")
        self.process()
        self.assertTrue(view.told.text().startswith("Rated"))
        self.window.grab()

    def test_a_pull_out_test_gives_its_value_back(self) -> None:
        view = self.show("b10", "c2")
        view.test.click()
        self.process()
        self.assertIn("No series of pull-out tests", view.told.text())
        specimens = tuple(
            Specimen(f"s{i}", f"P{i}", force=Reading(force, 1.0, f"{force:g} N"), place="core")
            for i, force in enumerate((820.0, 790.0, 865.0), 1)
        )
        project = self.window.session.document.project
        series = Series("s99", "Latches pulled", "insert_pull_out", sizes={"ring": 0.07}, specimens=specimens)
        self.window.session.do(ArrangeSeries(project.series, (*project.series, series), "add a series"))
        view.test.click()
        self.process()
        own = self.detail()
        assert isinstance(own, InsertDetail)
        self.assertAlmostEqual(own.tested or 0.0, 790.0, delta=1.0)  # to the last digit read
        self.assertIn("Latches pulled", own.tested_by)
        self.assertIn("Pull-out, tested", [row[0] for row in self.rows(view.checks)])

    def test_a_finding_of_a_detail_is_accepted_with_a_reason(self) -> None:
        view = self.show("b1", "c4")
        self.choose("Grade, seat rail bolts", "8.8")
        findings = self.window.layup_editor.findings
        self.assertIn("metal_on_carbon:d1", findings.fields)
        self.type_into("Reason to accept: Steel or aluminium touches carbon", "greased and painted")
        candidate = self.window.session.candidate
        self.assertEqual(candidate.reasons, {"metal_on_carbon:d1": "greased and painted"})
        shown = self.window.session.line_up()
        result = next(own for own in shown.results if own.candidate.id == "c4")
        self.assertNotIn("metal_on_carbon:d1", {own.rule for own in result.open_findings})
        self.assertTrue(view.isVisible())

    def test_ways_out_offer_what_saves_the_bolt(self) -> None:
        self.show("b8", "c2")
        self.window.show_ways()
        ways = self.window.ways_view
        self.wait(lambda: not ways.searching)
        titles = {way.lever for way in ways.ways}
        self.assertTrue(any(title.startswith("sleeve d1") for title in titles), titles)

    def test_every_kind_is_added_and_drawn(self) -> None:
        view = self.show("b1", "c2")
        for title in ("bolts or pins", "an insert or hard point", "a glued seam", "an edge of a sandwich",
                      "a doubler or patch", "a face that is struck"):  # fmt: skip
            self.add(view, title)
            self.assertIsNotNone(view.picture.made)
            self.window.grab()
        self.assertEqual(len(self.window.session.candidate.details), 6)
        self.press(Qt.Key.Key_U, CTRL)
        self.window.grab()

    def test_work_is_kept_in_the_file(self) -> None:
        self.show("b1", "c4")
        self.type_into("Torque, seat rail bolts", "4.5")
        path = Path(self.folder / "kept.omakase.json")
        self.window.files._write(path)
        kept = read_project(path).briefs[0].candidates[3].details[0]
        assert isinstance(kept, FastenerDetail)
        self.assertEqual(kept.torque, 4.5)


class DesignValuesPage(WindowTest):
    def test_sets_are_offered_named_typed_and_kept_from_going(self) -> None:
        session = self.window.session
        session.choose_brief("b1")
        session.choose("c4")
        self.press(Qt.Key.Key_I, CTRL_SHIFT)
        page = self.window.design_values_view
        self.assertEqual(page.sets.topLevelItemCount(), 2)
        page.offer.click()
        self.process()
        self.assertEqual(page.sets.topLevelItemCount(), 6)
        self.assertFalse(session.brief.conditions)
        page.sets.setCurrentItem(page.sets.topLevelItem(0))
        page.name_it.click()
        self.process()
        self.assertEqual(len(session.brief.conditions), 1)
        self.assertTrue(any(check.check == "design_values" for check in session.result.checks))
        item = page.values.topLevelItem(0)
        assert item is not None
        item.setText(1, "1000 µε")
        self.process()
        self.assertEqual(session.brief.conditions[0].condition.values[0].tension, 0.001)
        self.assertEqual(session.document.project.briefs[9].conditions[0].condition.values[0].tension, 0.001)
        self.assertFalse(session.result.passes)
        self.assertIn("Design value", session.result.governing.title)
        item = page.values.topLevelItem(0)
        assert item is not None
        item.setText(1, "-3")
        self.process()
        self.assertIn("more than zero", page.message.text())
        page.drop.click()
        self.process()
        self.assertIn("name it", page.message.text())
        self.assertEqual(page.sets.topLevelItemCount(), 6)
        self.type_into("Zones that the condition is for", "nowhere")
        self.assertIn("no candidate has a zone 'nowhere'", page.message.text())
        page.name_it.click()
        self.process()
        self.assertFalse(session.brief.conditions)
        page.new.click()
        self.process()
        self.assertEqual(page.sets.topLevelItemCount(), 7)
        self.window.grab()

    def test_a_family_is_added_and_taken_away(self) -> None:
        self.press(Qt.Key.Key_I, CTRL_SHIFT)
        page, session = self.window.design_values_view, self.window.session
        last = page.values.topLevelItem(page.values.topLevelItemCount() - 1)
        assert last is not None
        last.setText(0, "metal")
        self.process()
        self.assertEqual(session.document.project.conditions[0].values[-1].family, "metal")
        last = page.values.topLevelItem(page.values.topLevelItemCount() - 1)
        assert last is not None
        last.setText(0, "wool")
        self.process()
        self.assertIn("a family is one of", page.message.text())
        metal = page.values.topLevelItem(2)
        assert metal is not None
        metal.setText(0, "")
        self.process()
        self.assertEqual(len(session.document.project.conditions[0].values), 2)
