"""Pages about the chosen layup: how it breaks, where it works, what it shares, which cloth does as well."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QColor, QFontMetrics, QPainter, QPaintEvent, QRegion
from PyQt6.QtWidgets import QWidget

from omakase.project import edits
from omakase.project.commands import replace
from omakase.project.shared import share, shared_stacks
from omakase.ui.kit.kept_pictures import KeptPictures
from omakase.ui.kit.theme import fitting, font
from tests.ui.support import WindowTest

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


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
        picture = self.window.lower.layup_picture
        shown = picture.grab().toImage()
        self.window.layup_editor.table.setFocus()
        self.window.layup_editor.table.select_row(0)
        self.press(Qt.Key.Key_Right)
        self.assertNotEqual(picture.grab().toImage(), shown)

    def test_the_change_of_temperature_is_typed(self) -> None:
        self.window.session.choose("c3")
        self.press(Qt.Key.Key_2, CTRL)
        picture = self.window.lower.layup_picture
        before = picture.grab().toImage()
        self.type_into("Change of temperature", "-90 F")
        self.assertAlmostEqual(picture.change, -50.0)
        self.type_into("Change of temperature", "80 K")
        self.assertEqual(picture.change, 80.0)
        self.assertNotEqual(picture.grab().toImage(), before)
        self.press(Qt.Key.Key_U, CTRL)
        self.assertEqual(picture.field.text(), "144 °F")

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


class SharedAtOnce(WindowTest):
    synchronous = False

    def test_one_edit_answers_all_before_it_returns(self) -> None:
        """The quick answers of all who share come with the edit; the full ones agree, and undo brings all back."""
        session = self.window.session
        self.wait(lambda: session.settled)
        session.choose("c3")
        session.edit_candidate(share(session.candidate, [0, 1], "A"), "share")
        stack = shared_stacks(session.document.project, ())["A"]
        for identity in ("c2", "c4"):
            session.choose(identity)
            core = next(layer for layer in session.candidate.layers if layer.role == "core")
            layers = (*stack, core, *edits.mirrored(stack))
            session.edit_candidate(replace(session.candidate, layers=layers), "take in")
        self.wait(lambda: session.idle)
        session.look_at_check(session.result.worst("deflection"))
        ids = ("c2", "c3", "c4")
        before = {identity: self.value("deflection", identity) for identity in ids}
        layer = session.candidate.layers[0]
        explained = self.window.checks_view.text.toPlainText()
        session.edit_candidate(edits.set_layer(session.candidate, 0, replace(layer, angle=layer.angle + 7.0)), "turn")
        quick = {identity: self.value("deflection", identity) for identity in ids}
        self.assertFalse(session.settled)
        self.assertTrue(all(quick[identity] != before[identity] for identity in ids))
        self.wait(lambda: self.window.checks_view.text.toPlainText() != explained)  # words follow the numbers
        self.wait(lambda: session.settled)
        for identity in ids:
            self.assertAlmostEqual(quick[identity] / self.value("deflection", identity), 1.0, delta=0.01)
        session.document.undo()
        self.wait(lambda: session.settled)
        for identity in ids:
            self.assertAlmostEqual(self.value("deflection", identity), before[identity], places=12)


class Regions(QObject):
    """Where a widget was painted."""

    def __init__(self, widget: QWidget) -> None:
        super().__init__(widget)
        self.painted = QRegion()
        widget.installEventFilter(self)

    def eventFilter(self, _widget: QObject | None, event: QEvent | None) -> bool:
        if isinstance(event, QPaintEvent):
            self.painted = self.painted.united(event.region())
        return False


class Painted(WindowTest):
    def test_a_line_up_painted_in_parts_is_the_one_painted_anew(self) -> None:
        """After edits of every kind the parts kept from before make the same picture as none kept, and nothing differs
        where it was not painted again."""
        session, view = self.window.session, self.window.line_up_view
        session.choose("c3")
        self.process()
        regions, shown = Regions(view), view.grab().toImage()
        areas: dict[str, float] = {}

        def same(step: str) -> None:
            nonlocal shown
            regions.painted = QRegion()
            self.process()
            painted, before, kept = regions.painted, shown, view.grab().toImage()
            shown = kept.copy()
            view._kept = KeptPictures()
            self.assertTrue(kept == view.grab().toImage(), step)
            areas[step] = painted.boundingRect().width() / view.width()
            for image in (before, kept):
                painter = QPainter(image)
                painter.setClipRegion(painted)
                painter.fillRect(view.rect(), QColor("black"))
                painter.end()
            self.assertTrue(before == kept, step)

        same("start")
        layer, core = session.candidate.layers[0], 1
        session.edit_candidate(edits.set_layer(session.candidate, 0, replace(layer, angle=30.0)), "turn")
        same("a ply turned")
        thicker = replace(session.candidate.layers[core], thickness=0.018)
        session.edit_candidate(edits.set_layer(session.candidate, core, thicker), "thicken")
        same("beyond the limit of thickness")
        session.edit_candidate(replace(session.candidate, name="Another name"), "name")
        same("another name")
        session.choose("c2")
        same("another one chosen")
        session.edit_brief(replace(session.brief, limits=replace(session.brief.limits, deflection=0.002)), "limit")
        same("another limit")
        session.edit_candidate(replace(session.candidate, layers=()), "clear")
        same("nothing to compute")
        session.document.undo()
        same("undone")
        session.edit_brief(replace(session.brief, limits=replace(session.brief.limits, mass=None)), "no limit")
        same("a limit less")
        self.assertLess(areas["a ply turned"], 0.25)  # its column
        self.assertEqual(areas["another limit"], 1.0)

    def test_the_plan_of_a_spar_is_painted_only_when_it_shows_something_else(self) -> None:
        session, view = self.window.session, self.window.span_picture
        session.choose_brief("b6")
        self.process()
        regions = Regions(view)
        layer = session.candidate.layers[0]
        session.edit_candidate(edits.set_layer(session.candidate, 0, replace(layer, angle=30.0)), "turn")
        self.process()
        self.assertTrue(regions.painted.isEmpty())
        cases = session.brief.load_cases
        case = replace(cases[0], name="Another name")
        session.edit_brief(replace(session.brief, load_cases=(case, *cases[1:])), "name")
        self.process()
        self.assertFalse(regions.painted.isEmpty())

    def test_nothing_is_painted_below_the_quick_line(self) -> None:
        session, editor = self.window.session, self.window.layup_editor
        self.press(Qt.Key.Key_T, CTRL)  # a theme takes back what the line was told before
        self.process()
        regions, before = Regions(editor), editor.line.text()
        layer = session.candidate.layers[0]
        session.edit_candidate(edits.set_layer(session.candidate, 0, replace(layer, angle=30.0)), "turn")
        self.process()
        self.assertNotEqual(editor.line.text(), before)
        self.assertFalse(regions.painted.intersects(editor.line.geometry()))

    def test_words_that_surely_fit_are_not_measured(self) -> None:
        for text in ("12.3 mm", "Wrinkling of face A", "±45 ° · 3.2 kg/m²", "WWWW", "→ 10", "", "‱‱ ЖЩЩЖ"):
            for width in (5, 30, 44, 60, 200):
                for bold in (False, True):
                    metrics = QFontMetrics(font("normal", bold))
                    whole = metrics.elidedText(text, Qt.TextElideMode.ElideRight, width)
                    self.assertEqual(fitting(text, width, "normal", bold), whole, (text, width))


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
