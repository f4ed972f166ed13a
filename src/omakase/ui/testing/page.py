"""What the pages of the test bench share: they follow the model, and are filled only while they are seen."""

from __future__ import annotations

from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QWidget

from omakase.ui.testing.model import SeriesModel


class BenchPage(QWidget):
    """``fill`` shows what is chosen; it is called whenever that changes, and when the page appears."""

    model: SeriesModel

    def follow(self, model: SeriesModel) -> None:
        """Follows a model from now on."""
        self.model = model
        model.changed.connect(self.refresh)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()

    def refresh(self) -> None:
        if self.isVisible():
            self.fill()

    def fill(self) -> None:
        raise NotImplementedError
