"""Pictures that can be read: what a picture writes into itself is its accessible description."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QTimer
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QWidget

REST_MS = 120  # after the last painting, before the description follows
MOST = 60  # words told: a screen reader says all of them


class TellingPainter(QPainter):
    """A painter on a picture that keeps the texts it draws, in order, each once."""

    def __init__(self, picture: QWidget) -> None:
        super().__init__(picture)
        self._words: dict[str, None] = {}
        _told_later(picture, self._words)

    def tell(self, text: str) -> None:
        """Keeps a text that is drawn cut, or as a shape."""
        if text.strip():
            self._words[text.strip()] = None

    def drawText(self, *given: Any) -> Any:
        self.tell(next((own for own in given if isinstance(own, str)), ""))
        return super().drawText(*given)

    def draw_cut(self, *given: Any) -> None:
        """Draws a text whose whole was told already."""
        super().drawText(*given)


def _told_later(picture: QWidget, words: dict[str, None]) -> None:
    """Sets the description when painting rests: at every edit it would cost time that nobody hears."""
    timer = picture.findChild(QTimer, "telling")
    if timer is None:
        timer = QTimer(picture)
        timer.setObjectName("telling")
        timer.setSingleShot(True)
        timer.setInterval(REST_MS)
        timer.timeout.connect(lambda: picture.setAccessibleDescription("; ".join([*picture.told_words][:MOST])))  # type: ignore[attr-defined]
    picture.told_words = words  # type: ignore[attr-defined]
    timer.start()
