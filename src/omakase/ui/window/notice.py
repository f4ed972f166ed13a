"""A strip on top of the window that tells and asks without stopping the work."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton

from omakase.ui.kit.labels import Label
from omakase.ui.kit.leaving import leave
from omakase.ui.kit.theme import SPACE

Answer = tuple[str, Callable[[], object]]
MOST_WAITING = 10


class Notice(QFrame):
    """Hidden until there is something to say; every answer closes it, Escape gives the last answer."""

    def __init__(self) -> None:
        super().__init__()
        self.setProperty("role", "notice")
        self.setAccessibleName("Notice")
        self._layout = QHBoxLayout(self)
        self._layout.setContentsMargins(2 * SPACE, SPACE, 2 * SPACE, SPACE)
        self._text = Label()
        self._text.setWordWrap(True)
        self._layout.addWidget(self._text, 1)
        self.buttons: list[QPushButton] = []
        self._answers: list[Answer] = []
        self._waiting: list[tuple[str, list[Answer]]] = []
        self.hide()

    @property
    def text(self) -> str:
        """What is being said; empty when nothing is."""
        return self._text.text() if not self.isHidden() else ""

    def say(self, text: str, answers: list[Answer] | None = None) -> None:
        """Shows a text with its answers, the first one being the default; without any, one that closes it.

        While something is asked what comes waits for its turn, and a question waits while a message is shown.
        """
        entry = text, answers or [("Close", lambda: None)]
        if not self.isHidden() and (len(self._answers) > 1 or answers):
            if all(text != waiting for waiting, _ in self._waiting) and len(self._waiting) < MOST_WAITING:
                self._waiting.append(entry)
            return
        self._show(*entry)

    def _show(self, text: str, answers: list[Answer]) -> None:
        for button in self.buttons:
            self._layout.removeWidget(button)
            leave(button)
        self.buttons = []
        self._text.setText(text)
        self._answers = answers
        for number, (label, _act) in enumerate(self._answers):
            button = QPushButton(label)
            button.clicked.connect(lambda _on, number=number: self.answer(number))
            self._layout.addWidget(button)
            self.buttons.append(button)
        self.show()
        if len(answers) > 1:
            self.buttons[0].setFocus()

    def answer(self, number: int) -> None:
        """Closes the strip and does what the answer stands for; then what waited is said."""
        act = self._answers[number][1]
        self.hide()
        act()
        if self._waiting and self.isHidden():
            self._show(*self._waiting.pop(0))

    def renew(self, before: str, text: str) -> None:
        """Puts other words in the place of some that are shown or wait; their answers stay."""
        if self.text == before:
            self._text.setText(text)
        self._waiting = [(text if own == before else own, answers) for own, answers in self._waiting]

    def withdraw(self, text: str) -> None:
        """Takes back one text that is shown or waits; then what waited for it is said."""
        self._waiting = [entry for entry in self._waiting if entry[0] != text]
        if self.text == text:
            self.hide()
            if self._waiting:
                self._show(*self._waiting.pop(0))

    def clear(self) -> None:
        """Takes back what was said, and what waits to be said."""
        self._waiting.clear()
        self.hide()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape and not self.isHidden():
            self.answer(len(self._answers) - 1)
        elif event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            for number, button in enumerate(self.buttons):
                if button.hasFocus():
                    self.answer(number)
                    return
        else:
            super().keyPressEvent(event)
