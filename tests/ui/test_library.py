"""The library in the line-up's place: finding, looking, using, and making plies of cloth and resin."""

from __future__ import annotations

import msgspec
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLineEdit

from omakase.core.materials.areal import ply_thickness
from omakase.project.demo import demo_project
from omakase.project.library import materials_of, shipped_materials
from omakase.project.model import Project
from omakase.ui.materials.library_view import MASS, NAME, LibraryView
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
            self.assertEqual(found == 0, self.view.kind.currentData() in ("own", "shelf"), self.view.kind.currentText())
        for words in ("unidirectional", "plain weave", "twill 2×2", "satin", "spread tow", "multiaxial", "random mat",
                      "braided sleeve", "printed", "core mat", "scored", "perforated", "contour", "balsa", "plywood",
                      "honeycomb", "vinylester", "polypropylene", "polyester fibre", "magnesium"):  # fmt: skip
            self.view.kind.setCurrentIndex(0)
            self.type_words(words)
            self.assertTrue(self.names(), words)

    def test_a_grade_between_those_listed(self) -> None:
        self.type_words("pvc80 foam")
        self.view.choose("pvc80")
        self.assertTrue(self.view.grade.isVisible())
        self.view.density.setText("6 pcf")
        self.view.density.editingFinished.emit()
        self.view.grade.click()
        self.process()
        made = materials_of(self.window.session.document.project)["pvc96"]
        self.assertAlmostEqual(made.value("density"), 96.11, delta=0.01)
        self.assertEqual(self.view.material.id, "pvc96")
        self.view.choose("twill200")
        self.assertFalse(self.view.grade.isVisible())

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
        self.assertIn("is not a layer", self.view.message.text())
        self.assertIs(self.window.session.candidate, before)

    def test_back_to_the_line_up(self) -> None:
        self.press(Qt.Key.Key_Escape)
        self.assertFalse(self.view.isVisible())
        self.assertTrue(self.window.line_up_view.isVisible())
        self.press(Qt.Key.Key_5, CTRL)
        self.assertTrue(self.view.isVisible())
        self.assertIsInstance(self.window.focusWidget(), QLineEdit)

    def test_a_shelf_for_every_project(self) -> None:
        self.type_words("c-satin5")
        self.view.make.click()
        self.assertEqual(self.view.material.id, "satin5-1")
        self.view.keep.click()
        self.assertIn("on your shelf", self.view.message.text())
        other = self.open(demo_project())
        self.window = other
        other.layup_editor.table.select_row(0)
        self.press(Qt.Key.Key_5, CTRL)
        self.view.kind.setCurrentIndex(self.view.kind.findData("shelf"))
        self.assertEqual(self.names(), ["satin5-1"])
        self.view.table.selectRow(0)
        self.view.use_chosen()
        self.assertEqual(other.session.candidate.layers[0].material, "satin5-1")
        self.assertIn("satin5-1", {material.id for material in other.session.document.project.materials})
        self.view.kind.setCurrentIndex(self.view.kind.findData("shelf"))
        self.view.drop.click()
        self.assertEqual(self.names(), [])
        self.assertIn("satin5-1", {material.id for material in other.session.document.project.materials})

    def test_out_to_json_and_in_again(self) -> None:
        path = self.folder / "mine.json"
        self.window.files.ask_save = lambda _name, _kinds: str(path)
        self.window.files.ask_open = lambda _kinds: str(path)
        self.command("materials to")
        text = path.read_text("utf-8").replace('"id": "steel"', '"id": "St eel"', 1)
        path.write_text(text)
        self.command("materials from")
        self.assertIn("entry ", self.window.notice.text)
        self.assertIn("St eel", self.window.notice.text)
        self.assertEqual(len(self.window.session.document.project.materials), len(shipped_materials()) - 1)
        self.window.notice.answer(0)

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
