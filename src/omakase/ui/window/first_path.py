"""The first ten minutes: seven things to do on the demo, told one after the other; left at any moment."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

import msgspec
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton

from omakase.project.model import Brief, Candidate, Project
from omakase.ui.kit.labels import Label
from omakase.ui.kit.theme import SPACE

if TYPE_CHECKING:
    from omakase.ui.window.main_window import MainWindow

BRIEF, CANDIDATE = "b1", "c4"


class Seen(msgspec.Struct, frozen=True, eq=False):
    """What a step compares with: the state when it began, or now."""

    project: Project
    brief: Brief | None
    candidate: Candidate | None
    explained: bool

    @property
    def candidates(self) -> int:
        """How many there are in the brief."""
        return len(self.brief.candidates) if self.brief is not None else 0


class Step(msgspec.Struct, frozen=True):
    """What to do, and whether it was done between two states."""

    text: str
    done: Callable[[Seen, Seen], bool]


def _resized(before: Seen, now: Seen) -> bool:
    return before.brief is not None and now.brief is not None and before.brief.member != now.brief.member


def _read(before: Seen, now: Seen) -> bool:
    return before.explained and not now.explained


def _other_layers(before: Seen, now: Seen) -> bool:
    return (
        before.candidate is not None and now.candidate is not None and before.candidate.id == now.candidate.id
        and before.candidate.layers != now.candidate.layers
    )  # fmt: skip


STEPS = (
    Step("The brief at the left says what the part must do. Click its length, 620 mm, type 650 and press Enter: all "
         "numbers follow.", _resized),
    Step("Each column is a candidate: one layup. ✗ marks a limit that is not met. Click the column “Thicker foam”.",
         lambda _before, now: now.candidate is not None and now.candidate.id == CANDIDATE),
    Step("Its layers are listed below the line-up. Press Ctrl+↑ to make the core thicker, Ctrl+↓ to make it thinner.",
         _other_layers),
    Step("The list of checks begins with the one that governs. Click a row: the pictures show where. Then press F1: "
         "it explains the check with its numbers. Esc goes back.", _read),
    Step("Press Ctrl+4: the program looks for the smallest changes that help. Choose one and press Enter to make it a "
         "candidate.", lambda before, now: now.candidates > before.candidates),
    Step("Press Ctrl+H, write who decides and why, and press “Decide for it”. Later changes are listed there.",
         lambda before, now: len(now.project.decisions) > len(before.project.decisions)),
    Step("That is the way from brief to decision. Ctrl+P prints it on one page, Ctrl+Alt+E writes the design record, "
         "Ctrl+K finds every command, Ctrl+Z undoes steps.", lambda _before, _now: False),
)  # fmt: skip


class FirstPath(QFrame):
    """A strip above the work that says what to do next and sees when it is done."""

    def __init__(self, window: MainWindow) -> None:
        super().__init__()
        self.window_, self.number = window, -1
        self._before: Seen | None = None
        self.setProperty("role", "notice")
        self.setAccessibleName("First ten minutes")
        self.text = Label()
        self.text.setWordWrap(True)
        self.skip, self.leave = QPushButton("Skip"), QPushButton("Leave")
        row = QHBoxLayout(self)
        row.setContentsMargins(2 * SPACE, SPACE, 2 * SPACE, SPACE)
        row.addWidget(self.text, 1)
        row.addWidget(self.skip)
        row.addWidget(self.leave)
        self.hide()
        self.skip.clicked.connect(lambda: self._go(self.number + 1))
        self.leave.clicked.connect(lambda: self._go(len(STEPS)))
        session = window.session
        for signal in (session.brief_changed, session.chosen_changed, session.results_changed):
            signal.connect(self.look)
        window.top.currentChanged.connect(lambda _index: self.look())

    @property
    def running(self) -> bool:
        return 0 <= self.number < len(STEPS)

    def begin(self) -> None:
        """Starts with the first step; the demo is open."""
        self.window_.session.choose_brief(BRIEF)
        self.window_.show_line_up()
        self._go(0)

    def _seen(self) -> Seen:
        session = self.window_.session
        helping = "help_view" in self.window_.__dict__ and self.window_.top.currentWidget() is self.window_.help_view
        return Seen(session.document.project, session.brief, session.candidate, helping)

    def _go(self, number: int) -> None:
        self.number = number
        self.setVisible(self.running)
        if not self.running:
            self._before = None
            return
        self._before = self._seen()
        self.text.setText(f"{number + 1} of {len(STEPS)}   {STEPS[number].text}")
        last = number == len(STEPS) - 1
        self.skip.setVisible(not last)
        self.leave.setText("Done" if last else "Leave")

    def look(self) -> None:
        """Goes on where what the step asks for is done."""
        if not self.running or self._before is None:
            return
        now = self._seen()
        if STEPS[self.number].done(self._before, now):
            self._go(self.number + 1)
        elif now.explained and not self._before.explained:
            self._before = msgspec.structs.replace(self._before, explained=True)
