"""A choice among the parts of the job, shared by the pages about one part."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox

from omakase.ui.build.model import BuildModel


class PartChoice(QComboBox):
    """``chosen``: the person has chosen another; ``key`` is that of ``others`` or empty where a part is chosen."""

    chosen = pyqtSignal()

    def __init__(self, model: BuildModel, others: Sequence[tuple[str, str]] = ()) -> None:
        super().__init__()
        self.model, self.key = model, ""
        self._others = tuple(others)
        self.setAccessibleName("Part of the job")
        self.activated.connect(self._take)

    def refresh(self) -> None:
        """Offers the present parts."""
        plan, part = self.model.plan, self.model.part
        parts = [(own.made.part.id, own.made.title) for own in plan.parts] if plan is not None else []
        entries = [*parts, *self._others]
        if [(self.itemData(i), self.itemText(i)) for i in range(self.count())] != entries:
            self.clear()
            for key, text in entries:
                self.addItem(text, key)
        wanted = self.key or (part.made.part.id if part is not None else "")
        self.setCurrentIndex(max(self.findData(wanted), 0))

    def _take(self, index: int) -> None:
        key = str(self.itemData(index))
        self.key = key if key in {own for own, _ in self._others} else ""
        if not self.key:
            self.model.choose_part(key)
        self.chosen.emit()
