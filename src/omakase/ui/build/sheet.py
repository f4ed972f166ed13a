"""A sentence about a record, with what is wrong with each value told at its field."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from PyQt6.QtWidgets import QFrame, QVBoxLayout

from omakase.evaluate.build.parts import Problem
from omakase.evaluate.members.sentence import Sentence, outer_form
from omakase.ui.kit.fields import QuantityField, WordField
from omakase.ui.kit.leaving import leave
from omakase.ui.kit.paragraph import Paragraph
from omakase.ui.kit.sentence_writer import Edit, write_sentence
from omakase.units import UnitSystem


class RecordSheet(QFrame):
    """Shows one sentence; it is written anew where its shape changes, else only its values."""

    def __init__(self, edit: Edit) -> None:
        super().__init__()
        self._edit = edit
        self._shape: object = None
        self.paragraph = Paragraph()
        self.setProperty("role", "card")
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(4, 4, 4, 4)
        self._layout.addWidget(self.paragraph)
        self._layout.addStretch(1)

    def show_record(
        self, record: Any, sentence: Sentence, units: UnitSystem, problems: Iterable[Problem] = (), key: object = None
    ) -> None:  # fmt: skip
        """Shows a record; ``problems`` : those whose paths lie in the sentence stand at their fields, others below.

        ``key`` : of what is shown, so that the same sentence about another record is written anew.
        """
        shape = (key, outer_form(sentence), units)
        if shape != self._shape:
            self._shape = shape
            self._build(sentence)
        self.paragraph.refresh(record, units)
        told = {".".join(map(str, path)): text for path, text in problems}
        for field in self.paragraph.fields:
            place = str(field.property("path") or "")
            if isinstance(field, QuantityField | WordField) and (place in told or field.property("told")):
                text = told.pop(place, "")
                field.show_problem(text)
                field.setProperty("told", bool(text))
        self.paragraph.set_problem("; ".join(dict.fromkeys(told.values())))

    def _build(self, sentence: Sentence) -> None:
        focus = self.focusWidget()
        kept = focus.accessibleName() if focus is not None and self.isAncestorOf(focus) else ""
        old = self.paragraph  # it may hold the field that is being left just now
        old.hide()
        self._layout.removeWidget(old)
        leave(old)
        self.paragraph = Paragraph()
        self._layout.insertWidget(0, self.paragraph)
        write_sentence(self.paragraph, sentence, self._edit)
        for field in self.paragraph.fields if kept else ():
            if field.accessibleName() == kept:
                field.setFocus()
