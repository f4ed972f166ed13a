"""Decisions and the project's history: decide for the chosen candidate, see what changed since, withdraw."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QSettings
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton

from omakase.evaluate.history.decisions import (
    DecisionError,
    decide,
    log,
    result_text,
    since,
    standing_text,
    withdraw,
)
from omakase.evaluate.results.wording import counted
from omakase.project.commands import ArrangeDecisions
from omakase.project.library import materials_of
from omakase.project.model import Decision, by_id
from omakase.ui.kit.day import today
from omakase.ui.kit.fields import WordField, framed
from omakase.ui.kit.fitting_list import chosen_key, fill_list, fitting_list
from omakase.ui.kit.flow import page_column
from omakase.ui.kit.labels import Heading, Label, Message
from omakase.ui.kit.top_page import TopPage
from omakase.ui.session import Session

TITLES = ("Brief", "Decided for", "Revision", "Day", "Who", "State")
LOG_TITLES = ("What was done", "About", "Day")
MOST_SHOWN = 12  # changes since a decision
HINT = "Nothing is decided yet. Choose a candidate, write down who decides and why, and press the button."


class HistoryView(TopPage):
    """Decisions above with what changed since, the project's history below."""

    def __init__(self, session: Session, settings: QSettings) -> None:
        super().__init__(session)
        self.settings = settings
        self.head, self.about, self.message = Heading(), Label(), Message()
        self.list = fitting_list("Decisions", TITLES, 2)
        self.log = fitting_list("History of the project", LOG_TITLES, 2)
        self.who, self.why = WordField("Who decides"), WordField("Why")
        self.decide_button, self.withdraw_button = QPushButton("Decide for it"), QPushButton("Withdraw")
        self.entry = self.why
        self._arrange()
        self.decide_button.clicked.connect(lambda: self.decide())
        self.withdraw_button.clicked.connect(lambda: self.withdraw())
        self.list.currentItemChanged.connect(lambda _now, _before: self._show_chosen())
        session.brief_changed.connect(self.refresh)
        session.chosen_changed.connect(self.refresh)
        session.results_changed.connect(self.refresh)

    def _arrange(self) -> None:
        self.who.setPlaceholderText("who")
        self.why.setPlaceholderText("why, or why it is withdrawn")
        self.why.setMaxLength(400)
        for field, width in ((self.who, 120), (self.why, 330)):
            framed(field)
            field.setMinimumWidth(width)
        self.who.setText(str(self.settings.value("who", "")))
        self.about.setWordWrap(True)
        line = QHBoxLayout()
        line.addWidget(self.who)
        line.addWidget(self.why, 1)
        line.addWidget(self.decide_button)
        line.addWidget(self.withdraw_button)
        layout = page_column(self)
        layout.addWidget(self.head)
        layout.addLayout(line)
        layout.addWidget(self.list, 2)
        layout.addWidget(self.about)
        layout.addWidget(self.message)
        layout.addWidget(self.log, 2)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()

    # --- what is shown --------------------------------------------------------------------------------------

    @property
    def decision(self) -> Decision | None:
        """The decision of the chosen row."""
        return by_id(self.session.document.project.decisions, chosen_key(self.list))

    def refresh(self) -> None:
        """Shows the present decisions, those of the chosen brief first."""
        if not self.isVisible():
            return
        project, brief, candidate = self.session.document.project, self.session.brief, self.session.candidate
        names = {own.id: own.name for own in project.briefs}
        ordered = sorted(project.decisions, key=lambda own: (own.brief != self.session.brief_id, bool(own.withdrawn)))
        rows = [
            (own.id, (names.get(own.brief, own.given.name), own.chosen.name or own.candidate, f"R{own.revision}",
                      own.on, own.who, self._state(own)))
            for own in ordered
        ]  # fmt: skip
        chosen = chosen_key(self.list)
        fill_list(self.list, rows, chosen if any(key == chosen for key, _ in rows) else rows[0][0] if rows else "", ())
        fill_list(self.log, [(str(i), (what, about, day)) for i, (day, what, about) in enumerate(log(project))], "", ())
        if brief is not None and candidate is not None:
            self.head.show_parts("Decide", f"{brief.name}: {candidate.name or candidate.id}")
        self.decide_button.setEnabled(candidate is not None)
        self._show_chosen()

    def _state(self, decision: Decision) -> str:
        if decision.withdrawn:
            return f"withdrawn {decision.withdrawn}"
        project = self.session.document.project
        found = since(project, decision, materials_of(project))
        changes = f"{counted(len(found.changes), 'change')} since"
        return "out of date" if found.gone else changes if found.changes else "stands"

    def _show_chosen(self) -> None:
        decision, project = self.decision, self.session.document.project
        self.withdraw_button.setEnabled(decision is not None and not decision.withdrawn)
        if decision is None:
            self.about.setText(HINT if not project.decisions else "")
            return
        lines = [f"{result_text(decision, project.units)}. Why: {decision.why.rstrip('.')}."]
        if decision.withdrawn:
            lines.append(f"Withdrawn on {decision.withdrawn}: {decision.withdrawn_why.rstrip('.')}.")
        else:
            found = since(project, decision, materials_of(project))
            result = self.session.keeper.result((decision.brief, decision.candidate))
            lines.append(standing_text(decision, found, result))
            lines += [f"·  {text}" for text in found.changes[1:MOST_SHOWN]]
            if len(found.changes) > MOST_SHOWN:
                lines.append(f"·  and {len(found.changes) - MOST_SHOWN} more")
        self.about.setText("\n".join(lines))

    # --- acts -----------------------------------------------------------------------------------------------

    def decide(self) -> None:
        """Decides for the chosen candidate."""
        session, brief, candidate, result = (
            self.session,
            self.session.brief,
            self.session.candidate,
            self.session.result,
        )
        judged = session.judged_brief
        if brief is None or candidate is None or result is None or judged is None:
            return
        if not session.is_final(candidate.id):
            self.message.warn("the candidate is still being computed: press again in a moment")
            return
        project, day = session.document.project, today()
        self.settings.setValue("who", self.who.text().strip())
        self._do(lambda: decide(project, brief, candidate, result, materials_of(project), self.who.text(),
                                self.why.text(), day), "decided; Ctrl+Z undoes it")  # fmt: skip

    def withdraw(self) -> None:
        """Withdraws the decision of the chosen row."""
        decision = self.decision
        if decision is not None:
            project, day = self.session.document.project, today()
            self._do(lambda: withdraw(project, decision, self.why.text(), day), "withdrawn; Ctrl+Z undoes it")

    def _do(self, make: Callable[[], ArrangeDecisions], done: str) -> None:
        try:
            command = make()
        except DecisionError as error:
            self.message.warn(str(error))
            return
        self.session.do(command)
        self.why.set_value("")
        self.why.setText("")
        self.message.say(done)
