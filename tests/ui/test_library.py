"""The library in the line-up's place: finding, looking, using, and making plies of cloth and resin."""

from __future__ import annotations

import msgspec
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLineEdit

from omakase.core.materials.areal import ply_thickness
from omakase.project.library import materials_of, shipped_materials
from omakase.project.model import Project
from omakase.ui.library_view import MASS, NAME, LibraryView
from tests.ui.support import WindowTest

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


class Library(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.window.layup_editor.table.select_row(0)
        self.press(Qt.Key.Key_5, CTRL)

    @property
    def view(self) -> LibraryView:
        return self.window.library_view

    def names(self) -> list[str]:
        return [self.view.model.index(i, NAME).data() for i in range(self.view.model.rowCount())]

    def type_words(self, words: str) -> None:
        self.view.search.setText(words)
        self.process()

    def test_every_kind_that_a_designer_looks_for_is_there(self) -> None:
        self.assertEqual(set(self.names()), set(shipped_materials()))
        self.assertGreaterEqual(len(self.names()), 60)
        for kind in range(self.view.kind.count()):
            self.view.kind.setCurrentIndex(kind)
            found = self.view.model.rowCount()
            self.assertEqual(found == 0, self.view.kind.currentData() == "own", self.view.kind.currentText())
        for words in ("unidirectional", "plain weave", "twill 2×2", "satin", "spread tow", "multiaxial", "random mat",
                      "braided sleeve", "printed", "core mat", "scored", "perforated", "contour", "balsa", "plywood",
                      "honeycomb", "vinylester", "polypropylene", "polyester fibre", "magnesium"):  # fmt: skip
            self.view.kind.setCurrentIndex(0)
            self.type_words(words)
            self.assertTrue(self.names(), words)

    def test_words_narrow_and_the_card_follows(self) -> None:
        self.type_words("glass mat")
        self.assertEqual(set(self.names()), {"g-mat225", "g-mat450", "gmat225", "gmat450"})
        self.press(Qt.Key.Key_Down)
        self.assertIs(self.window.focusWidget(), self.view.table)
        self.assertEqual(self.window.material_card.model.short_name, self.view.material.id)
        self.type_words("nothing like it")
        self.assertEqual(self.names(), [])
        self.assertIn("fewer words", self.view.count.text())
        self.assertIsNone(self.view.material)

    def test_sorted_by_a_column(self) -> None:
        self.view.kind.setCurrentIndex(self.view.kind.findData("core"))
        self.view.model.sort(MASS, Qt.SortOrder.DescendingOrder)
        densities = [material.value("density") for material in self.view.model.rows]
        self.assertEqual(densities, sorted(densities, reverse=True))
        self.view.model.sort(NAME)
        self.assertEqual(self.names(), sorted(self.names()))

    def test_one_key_puts_it_into_the_selected_layer(self) -> None:
        before = self.window.session.candidate.layers
        self.type_words("spread160")
        self.press(Qt.Key.Key_Return)
        after = self.window.session.candidate.layers
        self.assertEqual((after[0].material, after[0].angle), ("spread160", before[0].angle))
        self.assertEqual(after[1:], before[1:])
        self.press(Qt.Key.Key_Z, CTRL)
        self.assertEqual(self.window.session.candidate.layers, before)

    def test_a_cloth_becomes_a_ply_with_resin(self) -> None:
        self.type_words("c-satin5")
        self.assertTrue(self.view.make.isVisible())
        self.view.resin.setCurrentIndex(self.view.resin.findData("ve"))
        self.view.process.setCurrentIndex(self.view.process.findData("one_to_one"))
        self.view.make.click()
        own = materials_of(self.window.session.document.project)["satin5-1"]
        self.assertEqual((own.recipe.cloth, own.recipe.resin), ("c-satin5", "ve"))
        self.assertAlmostEqual(own.value("resin_mass_fraction"), 0.5)
        self.assertEqual(self.view.material.id, "satin5-1")
        card = self.window.material_card
        self.assertTrue(card.resin.isVisible())
        card.resin.setCurrentIndex(card.resin.findData("ep-tough"))
        card.resin.activated.emit(card.resin.currentIndex())
        self.type_into("Resin mass fraction by burn-off", "45 %")
        own = materials_of(self.window.session.document.project)["satin5-1"]
        self.assertEqual(own.recipe.resin, "ep-tough")
        self.assertEqual(own.properties["resin_mass_fraction"].source, "tested")
        self.assertAlmostEqual(own.value("resin_mass_fraction"), 0.45)
        self.type_into("Resin mass fraction by burn-off", "3")
        self.assertTrue(card.message.text())
        again = materials_of(self.window.session.document.project)["satin5-1"]
        self.assertEqual(ply_thickness(again), ply_thickness(own))

    def test_a_resin_is_no_layer(self) -> None:
        before = self.window.session.candidate
        self.type_words("ep-fast")
        self.assertFalse(self.view.use.isVisible())
        self.press(Qt.Key.Key_Return)
        self.assertIn("no layer", self.view.message.text())
        self.assertIs(self.window.session.candidate, before)

    def test_back_to_the_line_up(self) -> None:
        self.press(Qt.Key.Key_Escape)
        self.assertFalse(self.view.isVisible())
        self.assertTrue(self.window.line_up_view.isVisible())
        self.press(Qt.Key.Key_5, CTRL)
        self.assertTrue(self.view.isVisible())
        self.assertIsInstance(self.window.focusWidget(), QLineEdit)

    def test_in_the_other_units(self) -> None:
        self.type_words("pvc80")
        row = self.names().index("pvc80")
        self.assertEqual(self.view.model.index(row, MASS).data(), "80 kg/m³")
        self.press(Qt.Key.Key_U, CTRL)
        self.assertEqual(self.view.model.index(row, MASS).data(), "4.99 lb/ft³")

    def test_a_cloths_other_side(self) -> None:
        self.type_words("satin4")
        self.press(Qt.Key.Key_Return)
        self.press(Qt.Key.Key_U, CTRL | SHIFT)
        self.assertTrue(self.window.session.candidate.layers[0].turned)
        self.assertIn("turned", self.window.layup_editor.line.text())
        self.window.layup_editor.mirror()
        self.assertFalse(self.window.session.candidate.layers[-1].turned)
        self.assertTrue(self.window.session.candidate.layers[0].turned)


class Pictures(WindowTest):
    """What the pages beside the checks show of the chosen layup."""

    def test_how_it_breaks(self) -> None:
        self.window.session.choose("c5")
        self.press(Qt.Key.Key_6, CTRL)
        picture = self.window.break_picture
        self.assertTrue(picture.isVisible())
        stack = self.window.session.result.stack
        self.assertEqual([walk.loading for walk in picture.walks(stack)], ["stretch_x", "bend_x"])
        self.press(Qt.Key.Key_X, CTRL | SHIFT)
        self.assertEqual([walk.loading for walk in picture.walks(stack)], ["stretch_y", "bend_y"])
        before = picture.grab().toImage()
        self.click(picture, 50, 50)
        self.assertEqual(picture.axis, "x")
        self.assertNotEqual(picture.grab().toImage(), before)
        self.press(Qt.Key.Key_T, CTRL)
        self.assertNotEqual(picture.grab().toImage(), before)

    def test_the_layup_page_follows_every_edit(self) -> None:
        self.press(Qt.Key.Key_2, CTRL)
        picture = self.window.layup_picture
        shown = picture.grab().toImage()
        self.window.layup_editor.table.setFocus()
        self.window.layup_editor.table.select_row(0)
        self.press(Qt.Key.Key_Right)
        self.assertNotEqual(picture.grab().toImage(), shown)

    def test_where_it_works_is_a_sentence(self) -> None:
        session = self.window.session
        self.type_into("Highest service temperature", "120 F")
        self.assertAlmostEqual(session.brief.surroundings.temperature, 322.04, places=2)
        self.assertIn("heat", {finding.rule for finding in session.result.findings})
        self.type_into("Highest service temperature", "900 °C")
        self.assertAlmostEqual(session.brief.surroundings.temperature, 322.04, places=2)
        choice = self.field("What lies behind it")
        choice.setCurrentIndex(1)
        choice.activated.emit(1)
        self.process()
        self.assertTrue(session.brief.surroundings.aerial)
        self.assertIn("aerial", {finding.rule for finding in session.result.findings})
        session.document.undo()
        self.assertFalse(session.brief.surroundings.aerial)


class ManyMaterials(WindowTest):
    def project(self) -> Project:
        foam = shipped_materials()["pvc80"]
        many = tuple(
            msgspec.structs.replace(foam, id=f"foam{i}", name=f"Foam of batch {i}, {60 + i % 90} kg/m³")
            for i in range(5000)
        )
        return msgspec.structs.replace(super().project(), materials=many)

    def test_five_thousand_are_found_by_words(self) -> None:
        self.press(Qt.Key.Key_5, CTRL)
        view = self.window.library_view
        self.assertEqual(view.model.rowCount(), 5000 + len(shipped_materials()))
        view.search.setText("batch 4321")
        self.assertEqual([material.id for material in view.model.rows], ["foam4321"])


class SharedStacks(WindowTest):
    def test_shared_by_keys_and_changed_in_all(self) -> None:
        window, session = self.window, self.window.session
        session.choose("c3")
        window.layup_editor.table.setFocus()
        window.layup_editor.table.select_row(0)
        self.press(Qt.Key.Key_K, CTRL | SHIFT)
        self.assertIn("(A)", window.layup_editor.message.text())
        self.assertTrue(window.layup_editor.line.text().startswith("(A) ;"))
        session.choose("c2")
        self.type_line("(A) ; core pvc80 10 ; (A)m")
        before = self.value("deflection", "c3")
        window.layup_editor.table.setFocus()
        window.layup_editor.table.select_row(2)
        self.press(Qt.Key.Key_Left)
        for identity in ("c2", "c3"):
            layers = next(c for c in session.brief.candidates if c.id == identity).layers
            self.assertEqual(layers[0].angle, 30.0)
        self.assertNotEqual(self.value("deflection", "c3"), before)
        session.document.undo()
        self.assertEqual(self.value("deflection", "c3"), before)
        self.press(Qt.Key.Key_J, CTRL | SHIFT)
        self.assertFalse(any(layer.shared for layer in session.candidate.layers))

    def type_line(self, text: str) -> None:
        line = self.window.layup_editor.line
        line.setFocus()
        line.selectAll()
        line.insert(text)
        line.setModified(True)
        self.press(Qt.Key.Key_Return)

    def test_layers_with_a_gap_cannot_be_shared(self) -> None:
        self.window.session.choose("c5")
        table = self.window.layup_editor.table
        table.clearSelection()
        self.press(Qt.Key.Key_K, CTRL | SHIFT)
        self.assertIn("side by side", self.window.layup_editor.message.text())


class WhichCloth(WindowTest):
    def ask(self) -> None:
        self.press(Qt.Key.Key_7, CTRL)
        self.wait(lambda: not self.window.cloth_view.searching)

    def test_asked_answered_and_taken(self) -> None:
        self.window.session.choose("c4")
        self.ask()
        view, session = self.window.cloth_view, self.window.session
        masses = [view.list.topLevelItem(i).option.mass for i in range(view.list.topLevelItemCount())]
        self.assertGreater(len(masses), 20)
        self.assertEqual(masses, sorted(masses))
        count = len(session.brief.candidates)
        view.list.setFocus()
        view.list.setCurrentItem(view.list.topLevelItem(0))
        self.press(Qt.Key.Key_Return)
        self.assertEqual(len(session.brief.candidates), count + 1)
        self.assertIn("which cloth", session.candidate.origin)
        self.assertTrue(self.window.line_up_view.isVisible())
        session.document.undo()
        self.assertEqual(len(session.brief.candidates), count)

    def test_asked_for_more_there_is_less(self) -> None:
        self.ask()
        view = self.window.cloth_view
        before = view.list.topLevelItemCount()
        self.type_into("Wanted: mass up to", "600 g/m²")
        self.wait(lambda: not view.searching)
        fewer = view.list.topLevelItemCount()
        self.assertLess(fewer, before)
        self.type_into("Wanted: E t along x", "1e9 N/mm")
        self.wait(lambda: not view.searching)
        self.assertEqual(view.list.topLevelItemCount(), 0)
        self.assertIn("No cloth", view.head.text())
        self.press(Qt.Key.Key_7, CTRL)
        self.assertTrue(self.window.line_up_view.isVisible())
