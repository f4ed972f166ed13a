"""What the pages of the build view share: they follow the model, and are filled only while they are seen."""

from __future__ import annotations

from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QWidget

from omakase.ui.build.model import BuildModel
from omakase.ui.kit.theme import Theme


class BuildPage(QWidget):
    """``fill`` shows the chosen job; it is called whenever that or its plan changes, and when the page appears."""

    def __init__(self, model: BuildModel) -> None:
        super().__init__()
        self.model = model
        model.changed.connect(self.refresh)
        model.planned.connect(self.refresh)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()

    def refresh(self) -> None:
        if self.isVisible():
            self.fill()

    def fill(self) -> None:
        raise NotImplementedError

    def set_theme(self, _theme: Theme) -> None:
        """Its colours are those of the style sheet."""
