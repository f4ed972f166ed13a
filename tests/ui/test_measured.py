"""Parts that are known by their measurements, beside computed ones, through the real widgets."""

from __future__ import annotations

from PyQt6.QtCore import Qt

from omakase.project.demo import demo_project
from omakase.project.storage import to_bytes
from tests.ui.support import WindowTest

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


class MeasuredParts(WindowTest):
    def test_typed_and_held_against_the_brief(self) -> None:
        session = self.window.session
        self.press(Qt.Key.Key_A, CTRL | SHIFT)
        self.assertIsNotNone(session.candidate.measured)
        self.type_into("Measured mass", "1.9 kg")
        self.type_into("Measured thickness", "6.5 mm")
        self.assertAlmostEqual(self.value("mass"), 1.9)
        self.field("Add its measured stiffness").click()
        self.process()
        self.type_into("Measured stiffness", "150 N/mm")
        self.assertAlmostEqual(self.value("deflection"), 1100.0 / 150e3)  # a foot of 1,100 N is the most
        self.field("Add its measured breaking load").click()
        self.process()
        self.type_into("Measured breaking load", "2.2 kN")
        check = session.result.worst("breaking_load")
        judged = session.brief.judgement
        ultimate = 1100.0 * judged.factor_of_safety * judged.special_factor
        self.assertAlmostEqual(check.reserve_factor, 2200.0 / ultimate)
        self.type_into("Measured mass", "0 kg")
        self.assertAlmostEqual(session.candidate.measured.mass, 1.9)  # refused at its field
        for _ in range(8):
            session.document.undo()
        self.assertEqual(to_bytes(session.document.project), to_bytes(demo_project()))

    def test_every_page_bears_one(self) -> None:
        for brief in ("b1", "b5", "b6", "b11", "b12"):
            self.window.session.choose_brief(brief)
            self.press(Qt.Key.Key_A, CTRL | SHIFT)
            for page in range(6):
                self.window.show_page(page)
                self.process()
            for top in (self.window.study_view, self.window.diagram_page, self.window.menu_view):
                self.window.switch_top(top)
                self.process()
            self.window.show_line_up()
            self.assertTrue(self.window.session.result.ok, self.window.session.result.error)
