"""Labels and tips that show texts as they are: names and notes of a project are never taken for markup."""

from __future__ import annotations

from html import escape

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLabel

from omakase.ui.kit.theme import set_property


class Label(QLabel):
    """Plain text, whatever is in it."""

    def __init__(self, text: str = "") -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(text)


class Message(Label):
    """What a page has to say: quiet, or in the colour of what is wrong."""

    def __init__(self) -> None:
        super().__init__()
        self.setWordWrap(True)

    def say(self, text: str, alarm: bool = False) -> None:
        """Shows a text in the place of the last one."""
        set_property(self, "role", "alarm" if alarm else "quiet")
        self.setText(text)

    def warn(self, text: str) -> None:
        """Shows what is wrong."""
        self.say(text, True)


class Heading(QLabel):
    """A title in bold and a text behind it, both plain."""

    def __init__(self, title: str = "", text: str = "") -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.RichText)
        self.show_parts(title, text)

    def show_parts(self, title: str, text: str = "") -> None:
        """``title`` may be empty."""
        bold = f"<b>{escape(title)}</b>" if title else ""
        self.setText(f"{bold} {escape(text)}".strip().replace("\n", "<br>"))

    def setText(self, text: str | None) -> None:
        super().setText(text)


def plain(text: str) -> str:
    """A tip's text that is shown as it is: Qt takes what looks like markup for markup."""
    return f"<p>{escape(text)}</p>".replace("\n", "<br>") if "<" in text or "&" in text else text
