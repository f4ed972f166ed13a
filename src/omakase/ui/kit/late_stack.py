"""Pages one above the other, each made when it is first shown: a window starts without those nobody looks at."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QStackedWidget, QWidget

from omakase.ui.kit.leaving import leave


class LateStack(QStackedWidget):
    """Pages keep the places in which they were announced."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._makers: dict[int, Callable[[], QWidget]] = {}

    def add_late(self, maker: Callable[[], QWidget]) -> None:
        """Announces a page that ``maker`` makes, the same one each time it is asked."""
        self._makers[self.addWidget(QWidget())] = maker

    def setCurrentIndex(self, index: int) -> None:
        """Shows the page at a place, made now where nobody has seen it."""
        maker = self._makers.pop(index, None)
        if maker is not None:
            empty, current = self.widget(index), self.currentIndex()
            self.insertWidget(index, maker())
            if empty is not None:
                self.removeWidget(empty)
                leave(empty)
            super().setCurrentIndex(current)
        super().setCurrentIndex(index)

    def made(self) -> list[QWidget]:
        """The pages that are there."""
        pages = [self.widget(index) for index in range(self.count()) if index not in self._makers]
        return [page for page in pages if page is not None]
