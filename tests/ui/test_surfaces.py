"""Lifting surfaces in the window: planform, filling and profile in their sentences."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLineEdit

from tests.ui.support import WindowTest

CTRL = Qt.KeyboardModifier.ControlModifier


class Surfaces(WindowTest):
    def test_planform_filling_and_profile(self) -> None:
        window, session = self.window, self.window.session
        session.choose_brief("b14")
        session.choose("c2")
        self.process()
        mass = session.result.mass
        self.choose("What fills it", "hollow")
        self.assertLess(session.result.mass, mass)
        self.press(Qt.Key.Key_Z, CTRL)
        self.choose("Planform", "stations")
        self.assertEqual(len(session.brief.member.chord), 2)
        self.type_into("Chord at station 2", "100")
        self.assertTrue(session.result.ok, session.result.error)
        self.assertLess(session.result.mass, mass)
        self.choose("Planform", "half an ellipse")
        self.assertTrue(session.result.ok, session.result.error)
        self.type_into("Sweep of the axis", "12")
        self.assertEqual(session.brief.member.sweep, 12.0)
        field = next(
            own for own in window.findChildren(QLineEdit) if own.accessibleName().startswith("Number of the 4")
        )
        field.setText("63-412")
        field.editingFinished.emit()
        self.process()
        self.assertIn("no closed equation", session.result.error)
        window.grab()

    def test_sections_along_the_span_are_drawn(self) -> None:
        window, session = self.window, self.window.session
        session.choose_brief("b14")
        session.choose("c5")
        self.process()
        window.switch_top(window.diagram_page)
        self.process()
        keys = {curve.key for curve in window.diagram_page.picture.shown()[0]}
        self.assertLessEqual({"chord", "bending_stiffness", "torsional_stiffness", "torque"}, keys)
        window.grab()
