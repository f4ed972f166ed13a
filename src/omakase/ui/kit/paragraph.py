"""Paragraphs of a brief: sentences with fields in them, and below each what is wrong with it."""

from __future__ import annotations

from collections.abc import Callable

import msgspec
from PyQt6.QtCore import QSize, pyqtSignal
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QMenu, QSizePolicy, QToolButton, QVBoxLayout, QWidget

from omakase.project.model import Brief
from omakase.ui.kit.fields import ChoiceField, FittingLine, QuantityField, WordField, words
from omakase.ui.kit.flow import FlowLayout
from omakase.ui.kit.labels import Label
from omakase.units import UnitSystem

Refresh = Callable[[Brief, UnitSystem], None]


class Follow(msgspec.Struct, frozen=True):
    """How a number follows a formula: ``get`` it of the brief, ``put`` another and say what is wrong with it."""

    get: Callable[[Brief], str]
    put: Callable[[str], str]


class InlineButton(QToolButton):
    """A button that takes no more room than a word."""

    def sizeHint(self) -> QSize:
        metrics = self.fontMetrics()
        return QSize(max(16, metrics.horizontalAdvance(self.text()) + 8), metrics.height() + 2)


def small_button(text: str, what: str) -> QToolButton:
    """A button within a sentence; ``what`` is given to a tool tip and to a screen reader."""
    button = InlineButton()
    button.setText(text)
    button.setToolTip(what)
    button.setAccessibleName(what)
    button.setProperty("role", "inline")
    button.setProperty("glue", True)
    return button


def menu_button(text: str, what: str, entries: list[tuple[str, Callable[[], object]]]) -> QToolButton:
    """A button with a menu of (text, action)."""
    button = small_button(text, what)
    menu = QMenu(button)
    for label, act in entries:
        entry = QAction(label, menu)
        entry.triggered.connect(lambda _checked, act=act: act())
        menu.addAction(entry)
    button.setMenu(menu)
    button.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
    return button


class Paragraph(QWidget):
    """Words and fields in a line that wraps, with the messages of its fields and of the brief below."""

    touched = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.refreshers: list[Refresh] = []
        self.fields: list[QWidget] = []
        self._messages: dict[QWidget, str] = {}
        self._brief_message = ""
        self._flow_holder = QWidget()
        self._flow_holder.setProperty("role", "flow")
        policy = QSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)
        policy.setHeightForWidth(True)
        self._flow_holder.setSizePolicy(policy)
        self._flow = FlowLayout(self._flow_holder)
        self._message = Label()
        self._message.setWordWrap(True)
        self._message.setProperty("role", "alarm")
        self._message.hide()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(2)
        layout.addWidget(self._flow_holder)
        layout.addWidget(self._message)

    def text(self, sentence: str) -> None:
        """Adds words."""
        for label in words(sentence):
            if label.text()[0] in ",;.":
                label.setProperty("glue", "tight")
            self._flow.addWidget(label)

    def widget(self, widget: QWidget) -> None:
        """Adds a button or another widget without a value of the brief."""
        self._flow.addWidget(widget)

    def _field(self, field: QWidget) -> None:
        self.fields.append(field)
        self._flow.addWidget(field)
        if isinstance(field, FittingLine):
            field.problem.connect(lambda message, field=field: self._take_message(field, message))
            field.focused.connect(self.touched)

    def quantity(
        self, field: QuantityField, get: Callable[[Brief], float | None], put: Callable[[float], None],
        follow: Follow | None = None,
    ) -> QuantityField:  # fmt: skip
        """Adds a quantity that shows ``get(brief)`` and commits through ``put``; ``follow`` where it may follow a
        formula."""
        self._field(field)
        field.committed.connect(put)
        if follow is not None:
            field.takes_formulas = True
            field.formula_committed.connect(lambda text: field.show_problem(follow.put(text)))

        def refresh(brief: Brief, units: UnitSystem) -> None:
            value = get(brief)
            if follow is not None:
                field.set_formula(follow.get(brief))
            if value is not None:
                field.set_value(value, units)

        self.refreshers.append(refresh)
        return field

    def word(self, field: WordField, get: Callable[[Brief], str], put: Callable[[str], None]) -> WordField:
        """Adds a text."""
        self._field(field)
        field.committed.connect(put)
        self.refreshers.append(lambda brief, _units: field.set_value(get(brief)))
        return field

    def choice(self, field: ChoiceField, get: Callable[[Brief], str], put: Callable[[str], None]) -> ChoiceField:
        """Adds a choice."""
        self._field(field)
        field.committed.connect(put)
        self.refreshers.append(lambda brief, _units: field.set_value(get(brief)))
        return field

    def refresh(self, brief: Brief, units: UnitSystem) -> None:
        """Shows the brief's present values."""
        for refresher in self.refreshers:
            refresher(brief, units)

    def set_problem(self, message: str) -> None:
        """What the brief as a whole has against this paragraph; empty for nothing."""
        self._brief_message = message
        self._show_messages()

    def _take_message(self, field: QWidget, message: str) -> None:
        if message:
            self._messages[field] = message
        else:
            self._messages.pop(field, None)
        self._show_messages()

    @property
    def message(self) -> str:
        """All messages shown below the paragraph."""
        shown = [*self._messages.values(), *([self._brief_message] if self._brief_message else [])]
        return "; ".join(shown)

    def _show_messages(self) -> None:
        text = self.message
        if text != self._message.text():
            self._message.setText(text)
        self._message.setVisible(bool(text))
