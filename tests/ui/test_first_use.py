"""A first floor: a new project in inches, a foot, a sheet to beat, two sandwiches, a way out, a page of paper."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QToolButton, QWidget

from omakase.evaluate.results.decision import decision
from omakase.evaluate.results.engine import Evaluator
from omakase.evaluate.results.records import evaluate_brief
from omakase.project.model import Project, new_project
from omakase.project.storage import read_project
from tests.ui.support import WindowTest

CTRL = Qt.KeyboardModifier.ControlModifier


class FirstUse(WindowTest):
    def project(self) -> Project:
        return new_project()

    def click_into(self, name: str, text: str) -> None:
        field = self.field(name)
        self.window.brief_view.ensureWidgetVisible(field)
        self.process()
        QTest.mouseClick(field, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(6, 6))
        QTest.keyClicks(field, text)
        self.press(Qt.Key.Key_Return)

    def choose_in(self, button: str, action: str) -> None:
        """Opens a menu in the brief and takes one of its entries."""
        buttons = [own for own in self.window.brief_view.findChildren(QToolButton) if own.accessibleName() == button]
        self.assertTrue(buttons, f"no button '{button}'")
        menu = buttons[-1].menu()
        found = [own for own in menu.actions() if action in own.text()]
        self.assertTrue(found, f"no entry '{action}'")
        found[0].trigger()
        self.process()

    def write(self, text: str) -> None:
        self.window.activateWindow()  # the platform of the tests forgets it when a list closes
        self.process()
        self.press(Qt.Key.Key_L, CTRL)
        focus = QApplication.focusWidget()
        assert isinstance(focus, QWidget)
        QTest.keyClicks(focus, text)
        self.window.layup_editor.completing.completer.popup().hide()
        QTest.keyClick(focus, Qt.Key.Key_Return)
        self.process()

    def test_from_nothing_to_a_decision_on_paper(self) -> None:
        session = self.window.session
        self.press(Qt.Key.Key_U, CTRL)
        self.click_into("Panel length", "24")
        self.click_into("Panel width", "18")
        self.choose_in("Add a load to own weight, or remove the case", "force on a patch")
        self.assertTrue(QApplication.focusWidget().accessibleName().startswith("Force"))
        QTest.keyClicks(QApplication.focusWidget(), "180 lbf * 1.5")
        self.press(Qt.Key.Key_Return)
        self.click_into("Largest deflection allowed", "3/8")
        brief = session.brief
        self.assertAlmostEqual(brief.member.length, 24 * 0.0254)
        self.assertAlmostEqual(brief.limits.deflection, 0.375 * 0.0254)
        self.assertAlmostEqual(brief.load_cases[0].loads[1].force, 270 * 4.4482216152605)

        self.press(Qt.Key.Key_N, CTRL)
        self.write("al6082 1/8 in")
        self.press(Qt.Key.Key_B, CTRL)
        self.choose_in("Add a limit", "no heavier than the baseline")
        for line in (
            "twill200 0 ; core pvc60 1/4 in ; twill200 0",
            "2 twill200 ±45 ; core hc48 1/2 in ; 2 twill200 ±45",
        ):
            self.press(Qt.Key.Key_N, CTRL)
            self.write(line)
        self.process()
        thin, thick = (candidate.id for candidate in session.brief.candidates[1:])
        told = self.window.decision.text()
        self.assertIn("Lightest that passes: ", told)
        self.assertIn("lighter than the baseline", told)
        passes = {result.candidate.id: result.passes for result in session.line_up().results}
        self.assertEqual((passes[thin], passes[thick]), (False, True))

        session.choose(thin)
        self.press(Qt.Key.Key_4, CTRL)
        self.wait(lambda: bool(self.window.ways_view.ways) and not self.window.ways_view.search.running, 90.0)
        self.assertTrue(self.window.ways_view.ways)

        page, file = self.folder / "floor.pdf", self.folder / "floor.omakase.json"
        self.window.files.ask_save = lambda name, _kinds: str(page if name.endswith(".pdf") else file)
        self.press(Qt.Key.Key_P, CTRL)
        self.wait(page.exists)
        self.press(Qt.Key.Key_S, CTRL)
        self.assertFalse(session.document.modified)
        again = read_project(file)
        self.assertEqual(decision(evaluate_brief(again, again.briefs[0], Evaluator()), again.units), told)
        self.assertTrue(page.read_bytes().startswith(b"%PDF"))
