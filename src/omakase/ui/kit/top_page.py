"""What stands in the line-up's place for a while, since it needs its width; Escape brings the line-up back."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QWidget

from omakase.ui.kit.searching import Searching
from omakase.ui.kit.theme import Theme
from omakase.ui.session import Session


class TopPage(QWidget):
    """``left``: back to the line-up.  ``entry`` is where the keyboard goes when the page is shown."""

    left = pyqtSignal()
    entry: QWidget
    whole = False  # takes the place of what stands below, too
    alone = False  # is not about the brief, which is folded away
    searches: tuple[Searching, ...] = ()  # of its parts, to be ended with the window

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session

    def set_theme(self, _theme: Theme) -> None:
        """Its colours are those of the style sheet."""

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.left.emit()
        else:
            super().keyPressEvent(event)
