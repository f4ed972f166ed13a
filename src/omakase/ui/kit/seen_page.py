"""A page that is filled only while it is seen, and when it appears."""

from __future__ import annotations

from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QWidget


class SeenPage(QWidget):
    """``fill`` shows what is chosen; ``refresh`` is to be called whenever that changes."""

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()

    def refresh(self) -> None:
        if self.isVisible():
            self.fill()

    def fill(self) -> None:
        raise NotImplementedError
