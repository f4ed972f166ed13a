"""The vehicle sheet: named quantities as typed or by formula, and what a change of them does to every brief."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QHideEvent, QKeyEvent, QShowEvent
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QPushButton,
    QSplitter,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from omakase.evaluate.vehicle.effects import ORDER, Effect, effects
from omakase.evaluate.vehicle.fields import all_problems, edit_quantities, rename_quantity, uses_of
from omakase.evaluate.vehicle.words import TURN_WORDS, state_text, value_text
from omakase.project.commands import Change, replace
from omakase.project.model import VehicleQuantity
from omakase.ui.kit.fitting_list import chosen_key, editable, fill_list, fitting_list, typed_list
from omakase.ui.kit.labels import Heading, Label, Message, plain
from omakase.ui.kit.searching import Searching
from omakase.ui.kit.theme import SPACE, set_property
from omakase.ui.kit.top_page import TopPage
from omakase.ui.session import Session

TITLES = ("Quantity", "Value or formula", "Comes to", "Shown in", "Used", "Note")
NAME, TEXT, VALUE, UNIT, USED, NOTE = range(len(TITLES))
TYPED = {NAME: "name", TEXT: "text", UNIT: "unit", NOTE: "note"}
STEPS = {TEXT: "change the quantity", UNIT: "unit of the quantity", NOTE: "note on the quantity"}
EFFECT_TITLES = ("Brief", "Candidate", "Before", "After", "What the change does")
HINT = (
    "No quantity yet. Press Insert and type a name and a value, such as all_up_mass and 9.2 kg; then type a formula "
    "such as = all_up_mass * 4 * g0 / 2 into any number of a brief."
)


class VehicleView(TopPage):
    """Quantities above, their effects below; a row is edited where it stands."""

    whole = True

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.head, self.message, self.state = Heading(), Message(), Label()
        self.list = self.entry = typed_list("Quantities of the vehicle", TITLES, 2, TYPED)
        self.effects = fitting_list("Effects on the briefs", EFFECT_TITLES, 2)
        self.add, self.drop = QPushButton("New quantity (Insert)"), QPushButton("Remove (Del)")
        self.again = QPushButton("Compare from here on")
        self.renew = QPushButton("Work all formulas out again")
        self.found: dict[tuple[str, str], Effect] = {}
        self.search = Searching("vehicle", self)
        self._before = session.document.project
        self._filling = False
        self._arrange()
        self._connect()

    def _arrange(self) -> None:
        self.list.setAllColumnsShowFocus(False)
        self.state.setWordWrap(True)
        set_property(self.state, "role", "quiet")
        buttons = QHBoxLayout()
        for button in (self.add, self.drop, self.renew):
            buttons.addWidget(button)
        buttons.addStretch(1)
        upper, lower = QWidget(), QWidget()
        top, low = QVBoxLayout(upper), QVBoxLayout(lower)
        for layout in (top, low):
            layout.setContentsMargins(0, 0, 0, 0)
            layout.setSpacing(SPACE)
        top.addWidget(self.head)
        top.addWidget(self.list, 1)
        top.addWidget(self.message)
        top.addLayout(buttons)
        line = QHBoxLayout()
        line.addWidget(self.state, 1)
        line.addWidget(self.again)
        low.addLayout(line)
        low.addWidget(self.effects, 1)
        split = QSplitter(Qt.Orientation.Vertical)
        split.setChildrenCollapsible(False)
        split.addWidget(upper)
        split.addWidget(lower)
        split.setSizes([360, 300])
        layout = QVBoxLayout(self)
        layout.setContentsMargins(SPACE, SPACE, SPACE, SPACE)
        layout.addWidget(split)

    def _connect(self) -> None:
        self.add.clicked.connect(lambda: self.add_quantity())
        self.drop.clicked.connect(lambda: self.remove_quantity())
        self.again.clicked.connect(lambda: self.compare_from_here())
        self.renew.clicked.connect(lambda: self.work_out_again())
        self.list.itemChanged.connect(self._typed)
        self.list.currentItemChanged.connect(lambda _now, _before: self._show_message())
        self.effects.itemActivated.connect(lambda _item, _column: self.show_chosen())
        self.effects.setToolTip("Enter or a double click shows the candidate in its line-up.")
        self.search.found.connect(self._take)
        self.search.ended.connect(self._ended)
        self.session.document.changed.connect(self._changed)
        self.session.document.reset.connect(self._reset)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()
        self._compare()

    def hideEvent(self, event: QHideEvent | None) -> None:
        super().hideEvent(event)
        self.search.stop()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Insert:
            self.add_quantity()
        elif event is not None and event.key() == Qt.Key.Key_Delete:
            self.remove_quantity()
        else:
            super().keyPressEvent(event)

    # --- what is shown --------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Shows the present quantities; the cursor stays where it is."""
        if not self.isVisible():
            return
        project, sheet = self.session.document.project, self.session.sheet
        uses = uses_of(project)
        rows = []
        for i, own in enumerate(project.quantities):
            used = len(uses.get(own.name, []))
            value = value_text(own, sheet.values.get(own.name), project.units) if i not in sheet.problems else "!"
            rows.append((str(i), (own.name, own.text, value, own.unit, str(used or ""), own.note)))
        self._filling = True
        current = self.list.currentIndex()
        at, column = current.row(), current.column()
        fill_list(self.list, rows, str(at), (VALUE, USED))
        editable(self.list)
        for i in range(self.list.topLevelItemCount()):
            item = self.list.topLevelItem(i)
            assert item is not None
            item.setToolTip(USED, plain("\n".join(uses.get(project.quantities[i].name, []))))
        if column > 0 and self.list.currentItem() is not None:
            self.list.setCurrentItem(self.list.currentItem(), column)
        self._filling = False
        if rows:
            self.head.show_parts(
                "Vehicle sheet", "type into a row; any number of a brief may follow these; Esc goes back"
            )
        else:
            self.head.show_parts("Vehicle sheet", HINT)
        self.drop.setEnabled(bool(rows))
        self._show_message()

    def _show_message(self) -> None:
        if self._filling:
            return
        project, sheet, at = self.session.document.project, self.session.sheet, self.list.currentIndex().row()
        if at in sheet.problems:
            self.message.warn(f"{project.quantities[at].name or 'no name'}: {sheet.problems[at]}")
            return
        wrong = [text for place, text in all_problems(project) if place.startswith("briefs")]
        self.renew.setEnabled(bool(wrong))
        if wrong:
            self.message.warn(f"{len(wrong)} formulas of briefs: {wrong[0]}")
            return
        if 0 <= at < len(project.quantities):
            uses = uses_of(project).get(project.quantities[at].name, [])
            self.message.say(f"Used by: {'; '.join(uses)}." if uses else "Nothing uses it yet.")
        else:
            self.message.say("")

    # --- acts -----------------------------------------------------------------------------------------------

    def _typed(self, item: QTreeWidgetItem, column: int) -> None:
        """A cell was typed into; what it does is done when the editor is closed."""
        if not self._filling and column in TYPED:
            at, text = self.list.indexOfTopLevelItem(item), " ".join(item.text(column).split())
            QTimer.singleShot(0, lambda: self.change(at, column, text))

    def change(self, at: int, column: int, text: str) -> None:
        """Puts what was typed into a cell in place."""
        project = self.session.document.project
        if not 0 <= at < len(project.quantities) or getattr(project.quantities[at], TYPED[column]) == text:
            self.refresh()
            return
        if column == NAME:
            self.session.do(rename_quantity(project, at, text))
            return
        new = tuple(
            replace(own, **{TYPED[column]: text}) if i == at else own for i, own in enumerate(project.quantities)
        )
        self.session.do(edit_quantities(project, new, f"{STEPS[column]} {project.quantities[at].name}"))

    def add_quantity(self) -> None:
        """Adds a row below the current one and lets its name be typed."""
        project = self.session.document.project
        taken = {own.name for own in project.quantities}
        name = next(name for name in (f"quantity_{k}" for k in range(1, len(taken) + 2)) if name not in taken)
        at = self.list.currentIndex().row() + 1 or len(project.quantities)
        new = (*project.quantities[:at], VehicleQuantity(name, "1"), *project.quantities[at:])
        self.session.do(edit_quantities(project, new, "add a quantity"))
        item = self.list.topLevelItem(at)
        if item is not None:
            self.list.setCurrentItem(item, NAME)
            self.list.editItem(item, NAME)

    def remove_quantity(self) -> None:
        """Removes the current row; formulas that use it keep their numbers and say so."""
        project, at = self.session.document.project, self.list.currentIndex().row()
        if 0 <= at < len(project.quantities):
            new = (*project.quantities[:at], *project.quantities[at + 1 :])
            self.session.do(edit_quantities(project, new, f"remove the quantity {project.quantities[at].name}"))

    def work_out_again(self) -> None:
        """Brings every number that follows a formula in line with it."""
        project = self.session.document.project
        command = edit_quantities(project, project.quantities, "work all formulas out again")
        if command.briefs:
            self.session.do(command)

    def show_chosen(self) -> None:
        """Goes to the line-up with the candidate of the chosen effect."""
        brief, _, candidate = chosen_key(self.effects).partition(" ")
        if candidate:
            self.session.choose_brief(brief)
            self.session.choose(candidate)
            self.left.emit()

    def compare_from_here(self) -> None:
        """Takes the present project as what later changes are compared with."""
        self._before = self.session.document.project
        self._compare()

    # --- effects --------------------------------------------------------------------------------------------

    def _reset(self) -> None:
        self._before = self.session.document.project
        self.found = {}
        self.refresh()
        if self.isVisible():
            self._compare()

    def _changed(self, _change: Change) -> None:
        if self.isVisible():
            self.refresh()
            self._compare()

    def _compare(self) -> None:
        """Judges what differs between the reference and the present project, off the window's thread."""
        before, after, session = self._before, self.session.document.project, self.session
        self.found = {}
        self._show_effects()
        if before.briefs == after.briefs:
            self.search.stop()
            self.state.setText("Nothing differs from where this page was opened. Change a quantity to see its effects.")
            return
        self.state.setText("judging …")

        def make(stopped: Callable[[], bool]) -> Iterator[object]:
            return effects(before, after, session.evaluator, session.workers, stopped)

        self.search.begin(make)

    def _take(self, found: object) -> None:
        effect, done, of = found  # type: ignore[misc]
        if isinstance(effect, Effect):
            self.found[effect.brief, effect.candidate] = effect
            self._show_effects()
        self.state.setText(f"{done} of {of} candidates judged before and after …" if done < of else self._summary())

    def _ended(self, message: str) -> None:
        self.state.setText(message or self._summary())

    def _summary(self) -> str:
        count = Counter(effect.turn for effect in self.found.values())
        return (
            f"Candidates judged: {len(self.found)}. No longer pass: {count['lost']}. Pass now: {count['gained']}. "
            f"Have more room now: {count['room']}. Ctrl+Z undoes it."
        )

    def _show_effects(self) -> None:
        project = self.session.document.project
        place = {
            (brief.id, candidate.id): (i, k)
            for i, brief in enumerate(project.briefs)
            for k, candidate in enumerate(brief.candidates)
        }
        ordered = sorted(
            self.found.values(),
            key=lambda own: (ORDER.index(own.turn), place.get((own.brief, own.candidate), (0, 0))),
        )
        rows = [
            (
                f"{own.brief} {own.candidate}",
                (
                    own.brief_name,
                    own.candidate_name,
                    state_text(own.before),
                    state_text(own.after),
                    TURN_WORDS[own.turn],
                ),
            )
            for own in ordered
        ]
        fill_list(self.effects, rows, "", ())
