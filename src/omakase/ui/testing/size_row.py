"""The sizes of a specimen or series as fields in a row: which ones follows from the method."""

from __future__ import annotations

from collections.abc import Mapping

from PyQt6.QtCore import QObject, pyqtSignal

from omakase.core.specimens.method import Method
from omakase.ui.kit.fields import QuantityField, anything, framed, positive
from omakase.ui.kit.flow import FlowLayout
from omakase.ui.kit.labels import Label
from omakase.ui.kit.leaving import leave
from omakase.ui.kit.theme import SPACE
from omakase.units import UnitSystem


class SizeRow(QObject):
    """``layout`` holds the fields; ``changed`` carries the key of a size and its SI value, ``problem`` what is wrong.

    ``called`` : accessible name of a field, with the size's words put in for the braces.
    """

    changed = pyqtSignal(str, float)
    problem = pyqtSignal(str)

    def __init__(self, called: str, in_sentence: bool) -> None:
        super().__init__()
        self.layout = FlowLayout(gap=SPACE)
        self.fields: dict[str, QuantityField] = {}
        self._called, self._in_sentence = called, in_sentence

    def show(self, method: Method, sizes: Mapping[str, float], units: UnitSystem) -> None:
        """Fields of a method's sizes with their values."""
        if list(self.fields) != [size.key for size in method.sizes]:
            self._make(method)
        for key, field in self.fields.items():
            field.set_value(sizes.get(key), units)

    def _make(self, method: Method) -> None:
        while self.layout.count():
            item = self.layout.takeAt(0)
            widget = item.widget() if item is not None else None
            if widget is not None:
                widget.hide()  # it is deleted when the event loop comes round
                leave(widget)
        self.fields.clear()
        for size in method.sizes:
            name = self._called.format(size.label)
            field = QuantityField(size.dimension, name[0].upper() + name[1:], anything if size.optional else positive)
            if self._in_sentence:
                field.extra_height = 6
            else:
                framed(field)
            field.setProperty("glue", "loose")
            field.committed.connect(lambda value, key=size.key: self.changed.emit(key, value))
            field.problem.connect(self.problem.emit)
            self.layout.addWidget(Label(size.label))
            self.layout.addWidget(field)
            self.fields[size.key] = field
