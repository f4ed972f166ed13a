"""Samples that were made: weighed, measured, and given back to the materials."""

from __future__ import annotations

import msgspec
from PyQt6.QtCore import Qt

from omakase.project.library import materials_of
from omakase.project.model import Project
from tests.ui.support import WindowTest

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


class Samples(WindowTest):
    def test_made_weighed_and_fed_back(self) -> None:
        session, view = self.window.session, self.window.samples_view
        session.choose("c2")
        before = self.value("mass")
        self.press(Qt.Key.Key_W, CTRL | SHIFT)
        self.assertTrue(view.isVisible())
        self.assertEqual(view.sample.layers, session.candidate.layers)
        self.type_into("Length of the sample", "12 in")
        self.type_into("Width of the sample", "300 mm")
        self.assertAlmostEqual(view.sample.length, 0.3048)
        self.type_into("Weighed mass", "170 g")
        self.assertIsNotNone(view.reports[-1].fraction)
        self.type_into("The same mass", "7 oz")
        self.assertIn("not the same mass", view.message.text())
        self.assertFalse(view.feed.isEnabled())
        self.type_into("The same mass", "6.0 oz")
        self.type_into("Thickness of the sample", "10.7 mm")
        self.assertEqual(view.sample.thickness.text, "10.7 mm")
        self.type_into("Weighed mass", "17 mm")
        self.assertIn("a mass is wanted", view.message.text())
        view.feed.click()
        self.process()
        self.assertGreater(self.value("mass"), 1.02 * before)
        self.assertEqual(materials_of(session.document.project)["twill200"].properties["resin_mass_fraction"].source,
                         "tested")  # fmt: skip
        session.document.undo()
        self.assertAlmostEqual(self.value("mass"), before)
        self.press(Qt.Key.Key_Escape)
        self.assertTrue(self.window.line_up_view.isVisible())

    def test_a_photograph_is_shown_beside_its_sample(self) -> None:
        self.press(Qt.Key.Key_8, CTRL)
        view = self.window.samples_view
        view.list.setCurrentItem(view.list.topLevelItem(0))
        picture = self.folder / "sample.png"
        self.window.grab().save(str(picture))
        view.choose_photo(str(picture))
        self.process()
        self.assertTrue(view.picture.isVisible())
        self.assertLessEqual(view.picture.pixmap().height(), 96)
        self.assertEqual(view.sample.photo, str(picture))
        picture.write_text("no picture")
        view.refresh()
        self.assertFalse(view.picture.isVisible())
        self.assertIn("cannot be shown", view.message.text())
        self.window.session.document.undo()
        self.assertEqual(view.sample.photo, "")

    def test_the_demos_mistake_is_found(self) -> None:
        self.press(Qt.Key.Key_8, CTRL)
        view = self.window.samples_view
        self.assertEqual([bool(own.warnings) for own in view.reports], [False, True, False])
        view.list.setCurrentItem(view.list.topLevelItem(1))
        self.assertIn("112 g and 4.2 oz", view.message.text())
        view.drop.click()
        self.process()
        self.assertEqual(len(view.reports), 2)
        self.press(Qt.Key.Key_U, CTRL)
        self.assertIn("lb", view.list.topLevelItem(0).text(2))


class NoSamples(WindowTest):
    def project(self) -> Project:
        return msgspec.structs.replace(super().project(), samples=())

    def test_an_empty_list_says_what_to_do(self) -> None:
        self.press(Qt.Key.Key_8, CTRL)
        self.assertIn("Ctrl+Shift+W", self.window.samples_view.head.text())
