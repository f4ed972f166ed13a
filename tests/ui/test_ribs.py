"""Ribs in the window: holes and pitch typed, the outline changed, and the study of the pitch."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLabel, QToolButton

from tests.ui.support import WindowTest

CTRL = Qt.KeyboardModifier.ControlModifier


class Ribs(WindowTest):
    def show(self, candidate_id: str) -> None:
        self.window.session.choose_brief("b13")
        self.window.session.choose(candidate_id)
        self.process()

    def test_a_hole_is_added_typed_and_refused_where_it_does_not_fit(self) -> None:
        self.show("c2")
        session = self.window.session
        mass = session.result.mass
        button = next(own for own in self.window.findChildren(QToolButton) if own.accessibleName().endswith("hole"))
        button.click()
        self.process()
        self.assertEqual(len(session.candidate.form.holes), 1)
        self.assertLess(session.result.mass, mass)
        self.type_into("Diameter of hole 1", "12")
        self.assertEqual(session.candidate.form.holes[0].diameter, 0.012)
        self.assertIn("Buckling beside a hole", {check.title for check in session.result.checks})
        self.type_into("Diameter of hole 1", "60")
        self.assertFalse(session.result.ok)
        self.assertIn("leaves nothing", session.result.error)
        self.press(Qt.Key.Key_Z, CTRL)
        self.assertTrue(session.result.ok)

    def test_a_channel_becomes_an_i_with_its_layers(self) -> None:
        self.show("c4")
        session = self.window.session
        self.choose("Section of the rib", "an I")
        self.assertEqual({layer.wall for layer in session.candidate.layers}, {"upper cap", "web", "lower cap", "skin"})
        self.assertTrue(session.result.ok, session.result.error)

    def test_the_study_names_the_lightest_pitch(self) -> None:
        self.show("c4")
        view = self.window.study_view
        self.window.switch_top(view)
        view.first.setCurrentIndex(view.first.findData("pitch"))
        view.measure.setCurrentIndex(view.measure.findData("share"))
        view.restart()
        self.wait(lambda: "Lightest that meets the brief" in view.message.text())
        self.assertTrue(view.table.isVisibleTo(view))
        told = " ".join(label.text() for label in view.table.findChildren(QLabel))
        for row in ("Sag of the skin", "Mass per length of wing", "crushing by the skins", "First frequency"):
            self.assertIn(row, told)
        best = max(own.value for own in view.picture.study.crossings)
        self.type_into("Pitch of the ribs", f"{1e3 * best * 0.99:.1f}")
        self.assertTrue(self.window.session.result.passes)
        self.type_into("Pitch of the ribs", f"{1e3 * best * 1.02:.1f}")
        self.assertFalse(self.window.session.result.passes)
