"""Details of the chosen candidate in the line-up's place: a list, the chosen one as a sentence, section and checks."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent, QShowEvent
from PyQt6.QtWidgets import QFrame, QScrollArea, QSplitter, QVBoxLayout, QWidget

from omakase.core.checks.result import CheckResult
from omakase.core.details.impact import THREATS, ImpactFace
from omakase.evaluate.details.kind import doubled, free_id, with_detail, without_detail
from omakase.evaluate.details.registry import all_detail_kinds, detail_kind
from omakase.evaluate.details.tested import PullOut, pull_outs
from omakase.evaluate.members.sentence import Sentence, outer_form, with_value
from omakase.evaluate.results.wording import SOURCE_MARKS, quantity, reserve_text
from omakase.evaluate.testing.reducing import Reducer
from omakase.project.commands import replace
from omakase.project.detail_translate import detail_problems
from omakase.project.details import InsertDetail
from omakase.project.library import materials_of
from omakase.project.model import Candidate
from omakase.project.quickline import read_quick_line, write_quick_line
from omakase.ui.details.detail_picture import DetailPicture
from omakase.ui.kit.fields import QuantityField
from omakase.ui.kit.fitting_list import chosen_key, fill_list, fitting_list
from omakase.ui.kit.flow import FlowLayout
from omakase.ui.kit.labels import Label
from omakase.ui.kit.leaving import leave
from omakase.ui.kit.paragraph import Paragraph, menu_button, small_button
from omakase.ui.kit.popup import popup
from omakase.ui.kit.sentence_writer import QuickLines, write_sentence
from omakase.ui.kit.theme import SPACE, Theme
from omakase.ui.kit.top_page import TopPage
from omakase.ui.session import Session

EMPTY = "This candidate has no details yet. Add one where a load enters: a bolt, a pin; its checks join the list below."
FAILS = "✗"


class DetailsView(TopPage):
    """Lists, adds, edits and removes the details of the session's candidate."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(session)
        self.chosen = ""
        self.paragraph: Paragraph | None = None
        self._shape: object = None
        self.list = fitting_list("Details", ("Detail", "RF", ""))
        self.checks = fitting_list("Checks of the detail", ("Check", "RF", "Load case", "Value", "Allowed", ""))
        self.told = Label()
        self.told.setWordWrap(True)
        self.told.setProperty("role", "quiet")
        self.picture = DetailPicture(session, theme)
        self.add = menu_button("+ detail", "Add a detail", [
            (kind.title, partial(self.add_detail, name)) for name, kind in all_detail_kinds().items()
        ])  # fmt: skip
        self.double = small_button("copy", "A copy of the detail beside it")
        self.remove = small_button("remove", "Remove the detail")
        self.test = small_button("from a test", "Take the pull-out load of a series of tests (Ctrl+J) for the insert")
        self.reducer = Reducer()
        self.entry = self.list
        self._arrange()
        self.list.currentItemChanged.connect(lambda _now, _before: self._choose(chosen_key(self.list)))
        self.checks.currentItemChanged.connect(lambda _now, _before: self._tell())
        self.double.clicked.connect(lambda: self._edit_list(doubled, "copy a detail"))
        self.test.clicked.connect(lambda: self.take_test())
        self.remove.clicked.connect(lambda: self._edit_list(without_detail, "remove a detail"))
        for signal in (session.brief_changed, session.chosen_changed, session.results_changed):
            signal.connect(self.refresh)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Delete and self.list.hasFocus():
            self._edit_list(without_detail, "remove a detail")
        else:
            super().keyPressEvent(event)

    def _arrange(self) -> None:
        left, right = QWidget(), QWidget()
        buttons = FlowLayout(gap=SPACE)
        for button in (self.add, self.double, self.remove, self.test):
            buttons.addWidget(button)
        column = QVBoxLayout(left)
        column.setContentsMargins(SPACE, SPACE, SPACE, SPACE)
        column.addLayout(buttons)
        column.addWidget(self.list, 1)
        column.addWidget(self.picture, 2)
        self.scroll = QScrollArea()
        self.scroll.setWidgetResizable(True)
        self.scroll.setFrameShape(QFrame.Shape.NoFrame)
        self.scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.sheet = QFrame()
        self.sheet.setProperty("role", "card")
        self.scroll.setWidget(self.sheet)
        QVBoxLayout(self.sheet).setContentsMargins(0, 0, 0, 0)
        other = QVBoxLayout(right)
        other.setContentsMargins(SPACE, SPACE, SPACE, SPACE)
        other.addWidget(self.scroll, 3)
        other.addWidget(self.checks, 4)
        other.addWidget(self.told)
        split = QSplitter(Qt.Orientation.Horizontal)
        split.setChildrenCollapsible(False)
        split.addWidget(left)
        split.addWidget(right)
        split.setSizes([330, 650])
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(split)

    def set_theme(self, theme: Theme) -> None:
        self.picture.set_theme(theme)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()

    # --- what is shown ----------------------------------------------------------------------------------------

    @property
    def index(self) -> int | None:
        """Place of the chosen detail among those of the candidate."""
        candidate = self.session.candidate
        ids = [detail.id for detail in candidate.details] if candidate is not None else []
        if not ids:
            return None
        return ids.index(self.chosen) if self.chosen in ids else 0

    def refresh(self) -> None:
        """Shows the present details and what is known of them."""
        if not self.isVisible():
            return
        candidate, index = self.session.candidate, self.index
        details = candidate.details if candidate is not None else ()
        if index is not None:
            self.chosen = details[index].id
        rows = [(detail.id, (detail.name, *self._state(detail.id))) for detail in details]
        fill_list(self.list, rows, self.chosen, (1,))
        for button in (self.double, self.remove):
            button.setEnabled(index is not None)
        self.test.setVisible(index is not None and isinstance(details[index], InsertDetail))
        self._show_sentence()
        self._show_checks()
        made = next((own for own in self._made() if own.key == self.chosen), None)
        self.picture.show_detail(made)

    def _made(self) -> tuple[Any, ...]:
        result = self.session.result
        return result.details if result is not None else ()

    def _own_checks(self, identity: str) -> list[CheckResult]:
        result = self.session.result
        return [check for check in result.checks if check.detail == identity] if result is not None else []

    def _struck(self, identity: str) -> ImpactFace | None:
        return next((own for own in self._made() if isinstance(own, ImpactFace) and own.key == identity), None)

    def _state(self, identity: str) -> tuple[str, str]:
        """(least reserve, what governs) of a detail."""
        worst = next(iter(self._own_checks(identity)), None)
        if worst is None:
            struck = self._struck(identity)
            return "", "" if struck is None else struck.rating.level
        mark = "" if worst.passes else f"{FAILS} "
        return f"{mark}{reserve_text(worst.reserve_factor)}", worst.title

    def _show_sentence(self) -> None:
        brief, candidate, index = self.session.brief, self.session.candidate, self.index
        sentence: Sentence = ()
        if brief is not None and candidate is not None and index is not None:
            detail = candidate.details[index]
            materials = materials_of(self.session.document.project)
            sentence = detail_kind(detail).sentence(brief, candidate, index, materials)
        shape = (
            self.session.brief_id,
            self.session.candidate_id,
            self.chosen,
            outer_form(sentence),
            self.session.units,
        )
        if shape != self._shape:
            self._shape = shape
            self._build(sentence)
        if self.paragraph is None or candidate is None or brief is None:
            return
        if index is None:
            self.paragraph.set_problem("")
            return
        self.paragraph.refresh(candidate, self.session.units)  # type: ignore[arg-type]
        materials = materials_of(self.session.document.project)
        place = f".details[{index}]"
        told = {where: text for where, text in detail_problems(brief, candidate, materials) if where.startswith(place)}
        rest = dict(told)
        for field in self.paragraph.fields:
            where = f".details[{index}].{str(field.property('path') or '').rpartition('.')[2]}"
            if isinstance(field, QuantityField) and (where in told or field.property("told")):
                field.show_problem(rest.pop(where, ""))
                field.setProperty("told", where in told)
        broken = [check.method for check in self._own_checks(self.chosen) if check.check == "detail"]
        self.paragraph.set_problem("; ".join(rest.values() if told else broken))

    def _build(self, sentence: Sentence) -> None:
        layout = self.sheet.layout()
        assert isinstance(layout, QVBoxLayout)
        focus = self.focusWidget()
        kept = focus.accessibleName() if focus is not None and self.sheet.isAncestorOf(focus) else ""
        if self.paragraph is not None:  # it may hold the field that is being left just now
            self.paragraph.hide()
            layout.removeWidget(self.paragraph)
            leave(self.paragraph)
        self.paragraph = Paragraph()
        layout.insertWidget(0, self.paragraph)
        if layout.count() == 1:
            layout.addStretch(1)
        if sentence:
            write_sentence(self.paragraph, sentence, self._edit, lines=QuickLines(self._write, self._read))
        else:
            self.paragraph.text(EMPTY if self.session.candidate is not None else "Choose a candidate.")
        for field in self.paragraph.fields if kept else ():
            if field.accessibleName() == kept:
                field.setFocus()

    def _show_checks(self) -> None:
        rows = []
        for check in self._own_checks(self.chosen):
            value, allowed = (
                quantity(own, check.dimension, self.session.units) for own in (check.value, check.allowable)
            )
            mark = "" if check.passes else f"{FAILS} "
            rows.append((
                "|".join(check.key),
                (check.title, f"{mark}{reserve_text(check.reserve_factor)}", check.load_case, value, allowed,
                 SOURCE_MARKS[check.source]),
            ))  # fmt: skip
        known = {key for key, _ in rows}
        chosen = chosen_key(self.checks)
        fill_list(self.checks, rows, chosen if chosen in known else (rows[0][0] if rows else ""), (1, 3, 4))
        self._tell()

    def _tell(self) -> None:
        """Method and remarks of the chosen check."""
        key = chosen_key(self.checks)
        check = next((own for own in self._own_checks(self.chosen) if "|".join(own.key) == key), None)
        struck = self._struck(self.chosen)
        if struck is not None:
            reasons = "; ".join(struck.rating.reasons)
            self.told.setText(f"Rated {struck.rating.level} against {THREATS[struck.threat]}: {reasons}.")
        else:
            self.told.setText("" if check is None else "; ".join((f"Method: {check.method}", *check.remarks)) + ".")
        if check is not None and self.checks.hasFocus():
            self.session.look_at_check(check)

    def _choose(self, identity: str) -> None:
        if identity and identity != self.chosen:
            self.chosen = identity
            self.refresh()

    # --- edits --------------------------------------------------------------------------------------------------

    def add_detail(self, kind_name: str) -> None:
        """Adds a detail of a kind and shows it."""
        brief, candidate = self.session.brief, self.session.candidate
        if brief is None or candidate is None or candidate.measured is not None:
            return
        made = all_detail_kinds()[kind_name].new(brief, candidate, free_id(candidate))
        self.chosen = made.id
        self.session.edit_candidate(with_detail(candidate, made), f"add {all_detail_kinds()[kind_name].title}")
        self.refresh()

    def take_test(self) -> None:
        """Takes a pull-out load from a series of tests: the only one, or one of a menu."""
        offered = list(pull_outs(self.session.document.project, self.reducer))
        if not offered:
            self.told.setText("No series of pull-out tests has a value yet: plan one at the test bench (Ctrl+J).")
        elif len(offered) == 1:
            self._take(offered[0])
        else:
            entries = [(own.what, partial(self._take, own)) for own in offered]
            self.menu = popup(self.test, entries)

    def _take(self, own: PullOut) -> None:
        candidate, index = self.session.candidate, self.index
        if candidate is None or index is None:
            return
        detail = candidate.details[index]
        if isinstance(detail, InsertDetail):
            tested = replace(detail, tested=own.load, tested_by=own.what)
            new = with_value(candidate, ("details", index), tested)
            self.session.edit_candidate(new, f"pull-out load from {own.series}")

    def _edit_list(self, change: Callable[[Candidate, int], Candidate], text: str) -> None:
        candidate, index = self.session.candidate, self.index
        if candidate is not None and index is not None:
            self.session.edit_candidate(change(candidate, index), text)

    def _edit(self, change: Callable[[Any], Any], text: str, merge_key: str) -> None:
        candidate = self.session.candidate
        if candidate is not None:
            key = f"{candidate.id} {merge_key}" if merge_key else ""
            self.session.edit_candidate(change(candidate), text, key)

    def _write(self, layers: tuple) -> str:  # type: ignore[type-arg]
        return write_quick_line(layers, self.session.units)

    def _read(self, text: str) -> tuple:  # type: ignore[type-arg]
        materials = materials_of(self.session.document.project)
        return read_quick_line(text, materials, self.session.units)
