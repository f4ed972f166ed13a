"""Fields inside sentences: quantities in any unit, choices and words; each explains its own mistake in place."""

from __future__ import annotations

import re
from collections.abc import Callable

from PyQt6.QtCore import QEvent, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QFontMetrics, QKeyEvent, QKeySequence, QMouseEvent, QWheelEvent
from PyQt6.QtWidgets import QComboBox, QLabel, QLineEdit, QWidget

from omakase.ui.kit.labels import Label, plain
from omakase.ui.kit.theme import set_property
from omakase.units import FIELD, QuantityError, UnitSystem, display_unit, format_value, parse_quantity, to_display

FIELD_MARGIN = 7  # px that a style's frame, padding and cursor take beside the text
MOST_TYPED = 400  # texts that are remembered
WRITTEN = re.compile(r"[-−]?(?:\d+[ -]\d+/\d+|\d+/\d+|\d*[.,]?\d+)")  # 12.5, 1 1/2, 3/8
Check = Callable[[float], str]


def positive(value: float) -> str:
    """Message for a value that must be positive; empty when it is."""
    return "" if value > 0.0 else "must be more than zero"


def not_negative(value: float) -> str:
    """Message for a value that may be zero and no less; empty when it is not less."""
    return "" if value >= 0.0 else "must not be less than zero"


def anything(_value: float) -> str:
    """No restriction."""
    return ""


def within(low: float, high: float, text: str) -> Check:
    """A check that the SI value lies between two bounds."""
    return lambda value: "" if low <= value <= high else text


# by what a field is called and the units shown: the value, and how it was written
_typed: dict[tuple[str, UnitSystem], tuple[float, str]] = {}


class FittingLine(QLineEdit):
    """A line edit as wide as its text, unless another size is ``fixed``; shows what is wrong through ``problem``."""

    extra_height = 3  # px beside the text: little within a sentence
    extra_width = 0  # px beside the text, for a field that stands in a frame of its own
    fixed = False  # its text has no say in its size: nothing around it is laid out again for another text

    problem = pyqtSignal(str)
    focused = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        if not self.fixed:
            self.textChanged.connect(lambda _text: self.updateGeometry())
        self.setProperty("wrong", False)
        self._clicked_into = False

    def event(self, event: QEvent | None) -> bool:
        # undo and redo belong to the document; a line edit would swallow the keys even with nothing typed
        if (
            isinstance(event, QKeyEvent)
            and event.type() == QEvent.Type.ShortcutOverride
            and not self.isModified()
            and (event.matches(QKeySequence.StandardKey.Undo) or event.matches(QKeySequence.StandardKey.Redo))
        ):
            event.ignore()
            return False
        return super().event(event)

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)
        self._clicked_into = event is not None and event.reason() == Qt.FocusReason.MouseFocusReason
        self.focused.emit()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        """The click that brings the focus selects the whole, as Tab does; a second one places the cursor."""
        super().mouseReleaseEvent(event)
        if self._clicked_into and not self.hasSelectedText():
            self.selectAll()
        self._clicked_into = False

    def sizeHint(self) -> QSize:
        shown = self.text() or self.placeholderText() or "00"
        metrics = QFontMetrics(self.font())
        width = max(18, metrics.horizontalAdvance(shown) + FIELD_MARGIN) + self.extra_width
        return QSize(width, metrics.height() + self.extra_height)

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def show_problem(self, message: str) -> None:
        """Marks the field and tells why; an empty message clears it."""
        if message or self.property("wrong"):
            set_property(self, "wrong", bool(message))
        self.problem.emit(message)


class QuantityField(FittingLine):
    """An SI value shown with its unit, typed in any unit; arrow keys and wheel step it.

    ``committed`` carries the new SI value.  What cannot be read stays in the field, marked, until it is mended or
    Escape brings the old value back; the document keeps its value meanwhile.

    Where ``takes_formulas``, a text that begins with "=" is carried by ``formula_committed``; a value that follows a
    formula stands behind a "=", and that key shows the formula.
    """

    committed = pyqtSignal(float)
    formula_committed = pyqtSignal(str)

    def __init__(self, dimension: str, what: str, check: Check = anything, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.dimension, self.what, self._check = dimension, what, check
        self.system: UnitSystem = "si"
        self._value: float | None = None
        self.takes_formulas, self.formula = False, ""
        self.setAccessibleName(what)
        self.setToolTip(f"{what}. Any unit may be typed; ↑ ↓ step the value.")
        self.editingFinished.connect(self._finish)

    def set_value(self, value: float | None, system: UnitSystem) -> None:
        """Shows a value of the document, nothing for None; a mistake that is still being typed is left alone."""
        changed = value != self._value or system != self.system
        self._value, self.system = value, system
        if changed:
            self._show()

    def set_formula(self, formula: str) -> None:
        """The formula that the value follows, with its "="; empty for one that was typed."""
        if formula == self.formula:
            return
        self.formula = formula
        tip = "Any unit may be typed; ↑ ↓ step the value."
        if formula:
            tip = f"It follows the vehicle sheet: {formula}. The key = shows the formula; a number replaces it."
        self.setToolTip(plain(f"{self.what}. {tip}"))
        if not self.isModified() or not self.hasFocus():
            self._show()

    def _text(self) -> str:
        """The value as it stands in the field: as it was typed in the shown unit, else as people write it."""
        if self._value is None:
            return ""
        if self.formula:
            digits = 4 if abs(to_display(self._value, self.dimension, self.system)) < 1e4 else FIELD
            return f"= {format_value(self._value, self.dimension, self.system, True, digits=digits)}"
        typed = _typed.get((self.what, self.system))
        if typed is not None and typed[0] == self._value:
            return typed[1]
        return format_value(self._value, self.dimension, self.system, True, digits=FIELD)

    def _show(self) -> None:
        text = self._text()
        if text != self.text():
            self.setText(text)
        self.setModified(False)  # undo belongs to the document again, not to what was typed
        self.show_problem("")

    def _finish(self) -> None:
        if self.text() == self._text():
            self.show_problem("")
            return
        if self.takes_formulas and self.text().lstrip().startswith("="):
            self._finish_formula(self.text().strip())
            return
        try:
            value = parse_quantity(self.text(), self.dimension, self.system)
            message = self._check(value)
        except QuantityError as error:
            message = str(error)
        if message:
            self.show_problem(f"{self.what}: {message}")
            return
        self._keep_as_typed(value)
        self._commit(value)

    def _finish_formula(self, text: str) -> None:
        """Hands on a formula; whoever takes it reports what is wrong through ``show_problem``."""
        if text == self.formula:
            self._show()
        else:
            self.show_problem("")
            self.formula_committed.emit(text)

    def _keep_as_typed(self, value: float) -> None:
        """A fraction, or more digits than are shown, in the unit of the field: it is shown as it was written, also in
        a field that is made later for the same."""
        label = display_unit(self.dimension, self.system).label
        written = " ".join(self.text().split())
        number = written.removesuffix(label).strip()
        _typed.pop((self.what, self.system), None)
        if label and WRITTEN.fullmatch(number):
            _typed[self.what, self.system] = value, f"{number} {label}"
            while len(_typed) > MOST_TYPED:
                del _typed[next(iter(_typed))]

    def _commit(self, value: float) -> None:
        if value == self._value and not self.formula:
            self._show()
            return
        self._value = value
        self._show()
        self.committed.emit(value)

    def _step(self, steps: int) -> None:
        if self._value is None:
            return
        if self.formula:
            self.show_problem(f"{self.what} follows {self.formula}: type a number to replace the formula")
            return
        factor = display_unit(self.dimension, self.system).factor
        shown = self._value / factor
        size = abs(shown)
        unit = 1.0
        while size and unit > size / 8.0:
            unit /= 10.0
        while unit * 80.0 < size:
            unit *= 10.0
        value = round((round(shown / unit) + steps) * unit, 10) * factor
        if not self._check(value):
            self._commit(value)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._step(1 if event.key() == Qt.Key.Key_Up else -1)
        elif event.key() == Qt.Key.Key_Escape and self._value is not None:
            self.setText("")
            self._show()
        elif event.text() == "=" and self.formula and self.text() == self._text():
            self.setText(self.formula)
            self.setModified(True)
            self.setSelection(1, len(self.formula))  # behind its "=": what is typed next takes its place
        else:
            super().keyPressEvent(event)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None and self.hasFocus():
            self._step(1 if event.angleDelta().y() > 0 else -1)
            event.accept()


class WordField(FittingLine):
    """A short text; ``committed`` carries it when it changed."""

    committed = pyqtSignal(str)

    def __init__(self, what: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setMaxLength(80)
        self._value = ""
        self.setAccessibleName(what)
        self.setToolTip(what)
        self.editingFinished.connect(self._finish)

    def set_value(self, value: str) -> None:
        if value != self._value or not self.hasFocus():
            self._value = value
            if self.text() != value:
                self.setText(value)
                self.setCursorPosition(0)  # a long one shows its beginning

    def _finish(self) -> None:
        text = self.text().strip()
        self.setModified(False)  # as above
        if text != self._value:
            self._value = text
            self.committed.emit(text)


class ChoiceField(QComboBox):
    """A choice of words; ``committed`` carries the chosen key."""

    extra_width = 0
    extra_height = 3
    committed = pyqtSignal(str)

    def __init__(self, what: str, choices: dict[str, str], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName(what)
        self.setToolTip(what)
        for key, text in choices.items():
            self.addItem(text, key)
        self.currentIndexChanged.connect(lambda _index: self.updateGeometry())
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.activated.connect(lambda index: self.committed.emit(self.itemData(index)))

    def sizeHint(self) -> QSize:
        metrics = QFontMetrics(self.font())
        width = metrics.horizontalAdvance(self.currentText()) + FIELD_MARGIN + self.extra_width
        return QSize(width, metrics.height() + self.extra_height)

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def set_value(self, key: str) -> None:
        index = self.findData(key)
        if index >= 0 and index != self.currentIndex():
            self.setCurrentIndex(index)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None:
            event.ignore()  # scrolling the page must not change a support


def framed(field: FittingLine | ChoiceField) -> None:
    """Gives a field the room that its own frame takes, where it does not stand within a sentence of a card."""
    field.extra_height = 8
    field.extra_width = 12 if isinstance(field, FittingLine) else 30


def words(text: str) -> list[QLabel]:
    """One label per word, so that a sentence flows around its fields."""
    return [Label(word) for word in text.split()]
