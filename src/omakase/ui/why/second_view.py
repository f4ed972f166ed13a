"""A second opinion on the chosen candidate: a general finite-element solver's numbers beside our own."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QCheckBox, QHBoxLayout, QProgressBar, QPushButton, QTreeWidgetItem

from omakase.core.materials.material import Material
from omakase.devices.solver import HOW_TO_GET, installed
from omakase.evaluate.results.engine import CandidateResult
from omakase.evaluate.second.comparing import Line
from omakase.project.library import materials_of
from omakase.project.model import Brief, Candidate
from omakase.reports.second import HEAD, line_texts, second_opinion
from omakase.ui.kit.fitting_list import RIGHT, fitting_list
from omakase.ui.kit.flow import page_column
from omakase.ui.kit.labels import Heading, Label, Message
from omakase.ui.kit.searching import Searching
from omakase.ui.kit.top_page import TopPage
from omakase.ui.session import Session

ABOUT = (
    "The member is written once more, without this program's theories: a flat panel as layered bricks, a strip, tube "
    "or spar as layered shells, with the loads and supports as modelled. Two meshes are solved; what the finer one "
    "changes is the error of the mesh. Agrees: within that and 2 %."
)
Judged = tuple[Brief, Candidate, dict[str, Material]]


class SecondView(TopPage):
    """Runs the solver off the thread, shows its numbers, and keeps them for the record while nothing is edited.

    ``deck_wanted`` : the button that writes the deck was pressed.
    """

    deck_wanted = pyqtSignal()
    _progressed = pyqtSignal(str)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.search = Searching("second", self)
        self.lines: tuple[Line, ...] = ()
        self._of: Judged | None = None  # what the lines are about
        self.head, self.message = Heading(), Message()
        about = Label(ABOUT)
        about.setWordWrap(True)
        about.setProperty("role", "quiet")
        self.begin, self.halt = QPushButton("Run the solver"), QPushButton("Stop")
        self.write = QPushButton("Write the deck…")
        self.keep = QCheckBox("keep it in the design record")
        self.keep.setChecked(True)
        self.bar = QProgressBar()
        self.bar.setAccessibleName("The solver works")
        self.bar.setRange(0, 0)
        self.bar.setTextVisible(False)
        self.bar.setMaximumWidth(120)
        self.state = Label()
        self.state.setAccessibleName("What the solver does")
        self.list = self.entry = fitting_list("Second opinion", HEAD)
        row = QHBoxLayout()
        for widget in (self.begin, self.halt, self.write, self.keep, self.bar, self.state):
            row.addWidget(widget)
        row.addStretch(1)
        layout = page_column(self)
        layout.addWidget(self.head)
        layout.addWidget(about)
        layout.addLayout(row)
        layout.addWidget(self.list, 1)
        layout.addWidget(self.message)
        self.begin.clicked.connect(lambda: self.start())
        self.halt.clicked.connect(lambda: self.stop())
        self.write.clicked.connect(lambda: self.deck_wanted.emit())
        self.search.found.connect(self._receive)
        self.search.ended.connect(self._end)
        self._progressed.connect(self.state.setText)
        session.brief_changed.connect(self.refresh)
        session.chosen_changed.connect(self.refresh)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()

    @property
    def judged(self) -> Judged | None:
        """What a run would be about now."""
        brief, candidate = self.session.judged_brief, self.session.candidate
        if brief is None or candidate is None:
            return None
        return brief, candidate, dict(materials_of(self.session.document.project))

    def kept(self) -> tuple[Line, ...]:
        """What the design record of the chosen candidate gets: the lines, where they are of it as it is now."""
        return self.lines if self.keep.isChecked() and self._of is not None and self._of == self.judged else ()

    def result(self) -> Callable[[], CandidateResult] | None:
        """Works out the chosen candidate in full; to be called on a worker thread."""
        judged, evaluator = self.judged, self.session.evaluator
        return None if judged is None else lambda: evaluator.evaluate(*judged)

    def refresh(self) -> None:
        """Lines of another candidate, or of this one before an edit, go; a run that was under way is stopped."""
        if self._of is not None and self._of != self.judged:
            self.search.stop()
            self.lines, self._of = (), None
        if not self.isVisible():
            return
        candidate, running = self.session.candidate, self.search.running
        self.head.show_parts("Second opinion", f"on {candidate.name}" if candidate is not None else "")
        ready = candidate is not None and installed()
        self.begin.setEnabled(ready and not running)
        self.write.setEnabled(candidate is not None)
        self.halt.setVisible(running)
        self.bar.setVisible(running)
        self.state.setVisible(running)
        self.keep.setVisible(bool(self.lines))
        self.list.clear()
        for line in self.lines:
            item = QTreeWidgetItem(list(line_texts(line, self.session.units)))
            for column in range(1, len(HEAD) - 1):
                item.setTextAlignment(column, RIGHT)
            self.list.addTopLevelItem(item)
        if not installed():
            self.message.say(HOW_TO_GET)
        elif not running and not self.lines and not self.message.text():
            self.message.say("The solver runs in the background: ten seconds to a few minutes.")

    def start(self) -> None:
        """Runs the solver on both meshes."""
        judged, find = self.judged, self.result()
        if judged is None or find is None:
            return
        title = f"{self.session.document.project.title}: {judged[0].name}"

        def work(stopped: Callable[[], bool]) -> Iterator[object]:
            yield second_opinion(find(), title, self._progressed.emit, stopped)

        self.lines, self._of = (), judged
        self.message.say("")
        self.state.setText("writing the meshes …")
        self.search.begin(work)
        self.search.begin_now()
        self.refresh()

    def stop(self) -> None:
        """Ends a run that is under way."""
        self.search.stop()
        self._of = None
        self.message.say("Stopped.")
        self.refresh()

    def _receive(self, lines: object) -> None:
        assert isinstance(lines, tuple)
        self.lines = lines

    def _end(self, message: str) -> None:
        if message:
            self._of = None
            self.message.warn(message)
        else:
            apart = sum(not line.agrees for line in self.lines)
            differ = f"{apart} of {len(self.lines)} numbers differ by more: look at these before you rely on either."
            self.message.say(differ if apart else "All numbers agree within the mesh change and 2 %.")
        self.refresh()
