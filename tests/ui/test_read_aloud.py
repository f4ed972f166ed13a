"""What a screen reader finds: a name on every control of every page, and words for every picture; focus can be seen."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSpinBox,
    QComboBox,
    QLineEdit,
    QPlainTextEdit,
    QTextEdit,
    QVBoxLayout,
    QWidget,
)

from omakase.ui.kit.labels import SteadyLabel
from omakase.ui.kit.telling import REST_MS
from tests.ui.support import WindowTest

CONTROLS = (QAbstractButton, QAbstractItemView, QAbstractSpinBox, QComboBox, QLineEdit, QPlainTextEdit, QTextEdit)
PARTS = ("qt_spinbox_lineedit", "qt_menubar_ext_button", "ScrollLeftButton", "ScrollRightButton")


def own_of_another(widget: QWidget) -> bool:
    """Whether it is a part of a control that has the name: the line of a box, a header, a list that drops down."""
    parent = widget.parentWidget()
    if widget.objectName() in PARTS or type(widget).__name__ in ("QComboBoxListView", "QTableCornerButton"):
        return True
    while parent is not None:
        if isinstance(parent, QComboBox | QAbstractSpinBox | QAbstractItemView):
            return True
        if isinstance(parent, QLineEdit) and isinstance(widget, QAbstractButton):
            return True
        parent = parent.parentWidget()
    return type(widget).__name__ == "QHeaderView"


class Layouts(QObject):
    """Counts how often a widget's layout is asked for anew."""

    def __init__(self, widget: QWidget) -> None:
        super().__init__(widget)
        self.count = 0
        widget.installEventFilter(self)

    def eventFilter(self, _watched: QObject | None, event: QEvent | None) -> bool:
        self.count += event is not None and event.type() == QEvent.Type.LayoutRequest
        return False


class ReadAloud(WindowTest):
    def pages(self) -> list[tuple[str, object]]:
        window = self.window
        tops = ("library_view", "cloth_view", "samples_view", "menu_view", "study_view", "diagram_page", "vehicle_view",
                "history_view", "parts_view", "details_view", "design_values_view", "resize_view", "second_view",
                "help_view", "preview")  # fmt: skip
        found: list[tuple[str, object]] = [(name, lambda name=name: self.top(name)) for name in tops]
        found += [(f"tests {k}", lambda k=k: window.at_the_tests(lambda tests: tests.show_page(k))) for k in range(7)]
        found += [(f"build {k}", lambda k=k: window.at_the_bench(k)) for k in range(9)]
        found += [(f"beside {k}", lambda k=k: window.show_page(k)) for k in range(window.pages.count())]
        return found

    def top(self, name: str) -> None:
        page = getattr(self.window, name)
        if self.window.top.currentWidget() is not page:
            self.window.switch_top(page)

    def look(self, where: str) -> None:
        self.process()
        QTest.qWait(REST_MS + 60)
        self.process()
        for widget in self.window.findChildren(QWidget):
            if not widget.isVisible():
                continue
            with self.subTest(where=where, widget=type(widget).__name__, name=widget.objectName()):
                if isinstance(widget, CONTROLS) and not own_of_another(widget):
                    text = getattr(widget, "text", str)() if isinstance(widget, QAbstractButton) else ""
                    self.assertTrue(widget.accessibleName() or text)
                if "Picture" in type(widget).__name__ or type(widget).__name__ in ("LineUpView", "CurvePlot"):
                    self.assertTrue(widget.accessibleName())
                    self.assertTrue(widget.accessibleDescription(), widget.accessibleName())

    def test_every_control_has_a_name_and_every_picture_words(self) -> None:
        for brief in ("b1", "b6"):
            self.window.session.choose_brief(brief)
            for where, show in self.pages():
                if brief == "b6" and where.startswith(("tests", "build", "help", "preview")):
                    continue
                show()  # type: ignore[operator]
                self.look(f"{brief} {where}")

    def test_pictures_say_what_they_show(self) -> None:
        window = self.window
        window.session.choose("c3")
        self.process()
        QTest.qWait(REST_MS + 60)
        self.assertIn("foot 1100 N", window.panel_picture.accessibleDescription())
        self.assertIn("Deflection, driver steps in: 4.68 mm", window.lower.field_picture.accessibleDescription())
        self.assertIn("along ply, MPa", window.lower.profile_picture.accessibleDescription())
        self.assertIn("Two above, one below", window.line_up_view.accessibleDescription())

    def test_the_keyboard_can_be_seen(self) -> None:
        """Whatever Tab reaches looks other with the keyboard than without."""
        window, unseen = self.window, set()
        window.session.choose("c3")
        first = window.line_up_view
        first.setFocus(Qt.FocusReason.TabFocusReason)
        for _ in range(120):
            QTest.keyClick(self.application.focusWidget() or window, Qt.Key.Key_Tab)
            self.process()
            widget = self.application.focusWidget()
            if widget is None or widget is first:
                break
            with_it = widget.grab().toImage()
            widget.clearFocus()
            self.process()
            if widget.grab().toImage() == with_it:
                unseen.add(f"{type(widget).__name__} {widget.accessibleName()}")
            widget.setFocus(Qt.FocusReason.TabFocusReason)
        self.assertEqual(unseen, set())

    def test_a_steady_label_tells_what_it_shows_and_stays_in_its_place(self) -> None:
        page = QWidget()
        layout = QVBoxLayout(page)
        label = SteadyLabel("What is decided", wrapped=True)
        layout.addWidget(label)
        label.setText("one candidate passes")
        page.resize(200, 300)
        page.show()
        self.process()
        layouts, low = Layouts(page), label.heightForWidth(label.width())
        label.setText("two candidates pass")
        self.process()
        self.assertEqual((layouts.count, label.text()), (0, "two candidates pass"))
        self.assertEqual((label.accessibleName(), label.accessibleDescription()), ("What is decided", label.text()))
        label.setText("a sentence that is much longer than the label is wide, so that it takes several lines " * 2)
        self.process()
        self.assertGreater(layouts.count, 0)
        self.assertGreater(label.heightForWidth(label.width()), 2 * low)
        self.assertGreaterEqual(label.height(), label.heightForWidth(label.width()))
        label.setText("two\nlines")
        self.assertGreater(label.heightForWidth(label.width()), low)
        narrow = SteadyLabel("A finding", wrapped=True)
        narrow.setText("a sentence that takes several lines, told before the label has its width " * 2)
        layout.addWidget(narrow)
        layout.addStretch(1)
        self.process()
        self.assertGreater(narrow.heightForWidth(narrow.width()), 2 * low)
        self.assertGreaterEqual(narrow.height(), narrow.heightForWidth(narrow.width()))
        vars(label).pop("_sizes")  # as of one that is being taken apart: it still gets events
        label.changeEvent(QEvent(QEvent.Type.FontChange))
        page.hide()
