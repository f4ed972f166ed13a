"""What the chosen candidate chooses beside its layers: width or diameter, shape, zones, as a sentence to edit."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QFrame, QScrollArea, QStyle, QVBoxLayout

from omakase.evaluate.members.sentence import Sentence, outer_form
from omakase.evaluate.results.measured import form_sentence
from omakase.project.library import materials_of
from omakase.ui.kit.leaving import leave
from omakase.ui.kit.paragraph import Paragraph
from omakase.ui.kit.sentence_writer import write_sentence
from omakase.ui.session import Session

LINES, SHARE = 6, 0.35  # of text at most, and of the height of what it stands in


class FormScroll(QScrollArea):
    """The form, as high as it is up to ``LINES`` lines; a longer one is scrolled, so that layers keep their room."""

    def __init__(self, form: FormView) -> None:
        super().__init__()
        self.form = form
        self.setWidget(form)
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        form.changed.connect(self._fit)
        self._fit()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        paragraph = self.form.paragraph
        self.setVisible(not self.form.isHidden())
        style = self.style()
        if paragraph is not None and style is not None:
            width = self.width() - style.pixelMetric(QStyle.PixelMetric.PM_ScrollBarExtent)
            line, editor = 1.5 * self.fontMetrics().height(), self.parentWidget()
            most = (
                int(LINES * line)
                if editor is None
                else int(max(2.0 * line, min(LINES * line, SHARE * editor.height())))
            )
            self.setFixedHeight(min(paragraph.heightForWidth(width) + 4, most))


class FormView(QFrame):
    """Shows and edits the form and zones of the session's candidate; hidden where its kind has none."""

    changed = pyqtSignal()  # other words or fields, so that it may be higher or lower

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.paragraph: Paragraph | None = None
        self._shape: object = None
        self._shown: object = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        self.setAccessibleName("Form of the candidate")
        self.setProperty("role", "card")
        session.chosen_changed.connect(self.refresh)
        session.brief_changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Shows the present values; the sentence is set anew only when its parts change."""
        brief, candidate = self.session.brief, self.session.candidate
        shown = None if brief is None or candidate is None else (
            brief.id, candidate.id, brief.member, candidate.form, candidate.zones, candidate.layers,
            candidate.measured, self.session.units,
        )  # fmt: skip
        if shown == self._shown and shown is not None:
            return
        self._shown = shown
        materials = materials_of(self.session.document.project)
        sentence: Sentence = ()
        if brief is not None and candidate is not None:
            sentence = form_sentence(brief, candidate, materials)
        shape = (shown and shown[:2], outer_form(sentence))
        if shape != self._shape:
            self._shape = shape
            self._build(sentence)
        self.setVisible(bool(sentence))
        if brief is None or candidate is None or self.paragraph is None:
            self.changed.emit()
            return
        self.paragraph.refresh(candidate, self.session.units)
        rows = [
            text for place, text in self.session.problems()
            if place.startswith((".form", ".zones"))
        ]  # fmt: skip
        self.paragraph.set_problem("; ".join(rows))
        self.changed.emit()

    def _build(self, sentence: Sentence) -> None:
        layout = self.layout()
        assert layout is not None
        focus = self._focused_name()
        if self.paragraph is not None:  # it may hold the field that is being left just now
            self.paragraph.hide()
            layout.removeWidget(self.paragraph)
            leave(self.paragraph)
        self.paragraph = Paragraph()
        layout.addWidget(self.paragraph)
        write_sentence(self.paragraph, sentence, self._edit)
        for field in self.paragraph.fields if focus else ():
            if field.accessibleName() == focus:
                field.setFocus()

    def _focused_name(self) -> str:
        focus = self.focusWidget()
        return focus.accessibleName() if focus is not None and focus.hasFocus() else ""

    def _edit(self, change: Callable[[Any], Any], text: str, merge_key: str) -> None:
        candidate = self.session.candidate
        if candidate is not None:
            key = f"{candidate.id} {merge_key}" if merge_key else ""
            self.session.edit_candidate(change(candidate), text, key)
