"""A second opinion on the chosen candidate: a general finite-element solver's numbers beside our own."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QCheckBox, QHBoxLayout, QProgressBar, QPushButton, QTreeWidgetItem

from omakase.core.materials.material import Material
from omakase.devices.solver import HOW_TO_GET, installed
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.second.comparing import Line
from omakase.evaluate.second.keeping import drop, keep, kept, lines_of, of_candidate
from omakase.project.library import materials_of
from omakase.project.model import Brief, Candidate, Opinion
from omakase.reports.second import HEAD, line_texts, second_opinion
from omakase.ui.kit.day import today
from omakase.ui.kit.fitting_list import RIGHT, fitting_list
from omakase.ui.kit.flow import page_column
from omakase.ui.kit.labels import Heading, Label, Message
from omakase.ui.kit.searching import Searching
from omakase.ui.kit.top_page import TopPage
from omakase.ui.session import Session

ABOUT = (
    "The member is written once more, without this program's theories: a panel as layered bricks, a strip, tube "
    "or spar as layered shells, with the loads and supports as modelled. Two meshes are solved; what the finer one "
    "changes is the error of the mesh. Agrees: within that and 2 %."
)
Judged = tuple[Brief, Candidate, dict[str, Material]]


class SecondView(TopPage):
    """Runs the solver off the thread, shows its numbers, and keeps them in the project, from where the design record
    takes them as long as they are about the candidate as it is.

    ``deck_wanted`` : the button that writes the deck was pressed.
    """

    deck_wanted = pyqtSignal()
    _progressed = pyqtSignal(str)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.search = Searching("second", self)
        self.lines: tuple[Line, ...] = ()
        self._of: Judged | None = None  # what the lines are about
        self._told: tuple[Judged | None, str, bool] | None = None  # what the last run came to, and of what
        self.head, self.message = Heading(), Message()
        about = Label(ABOUT)
        about.setWordWrap(True)
        about.setProperty("role", "quiet")
        self.begin, self.halt = QPushButton("Run the solver"), QPushButton("Stop")
        self.write = QPushButton("Write the deck…")
        self.keep = QCheckBox("keep it in the project and its design record")
        self.keep.setChecked(True)
        self.keep.clicked.connect(self._keep_or_drop)
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
        session.document.state.connect(self.refresh)

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

    @property
    def kept(self) -> Opinion | None:
        """What is kept of the chosen candidate as it is now."""
        judged = self.judged
        return None if judged is None else kept(self.session.document.project, *judged)

    def _keep_or_drop(self, wanted: bool) -> None:
        """Keeps the lines that are shown in the project, or takes them out; they stay on the screen."""
        judged, project, lines = self.judged, self.session.document.project, self._shown()
        if judged is None or not lines:
            return
        self.lines, self._of = lines, judged
        self.session.do(keep(project, *judged, lines, today()) if wanted else drop(project, *judged[:2]))

    def _shown(self) -> tuple[Line, ...]:
        """The lines of this run, else those that are kept."""
        return self.lines if self._of is not None else lines_of(self.kept)

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
        self.begin.setToolTip("" if installed() else HOW_TO_GET)
        self.write.setEnabled(candidate is not None)
        self.halt.setVisible(running)
        self.bar.setVisible(running)
        self.state.setVisible(running)
        lines, own = self._shown(), self.kept
        self.keep.setVisible(bool(lines))
        if lines:
            self.keep.setChecked(own is not None)
        self.list.clear()
        for line in lines:
            item = QTreeWidgetItem(list(line_texts(line, self.session.units)))
            for column in range(1, len(HEAD) - 1):
                item.setTextAlignment(column, RIGHT)
            self.list.addTopLevelItem(item)
        self._say(running, lines, own)

    def _say(self, running: bool, lines: tuple[Line, ...], own: Opinion | None) -> None:
        """What the last run came to, where that was about the candidate as it is; else what there is to know."""
        earlier = self._earlier()
        if self._told is not None and self._told[0] == self.judged:
            self.message.say(*self._told[1:])
        elif running:
            self.message.say("")
        elif own is not None:
            self.message.say(f"Kept on {own.on}. {_verdict(lines)}")
        else:
            way = "The solver runs in the background: ten seconds to a few minutes." if installed() else HOW_TO_GET
            old = (
                f"What was kept on {earlier.on} is about another state of the candidate. "
                if earlier is not None
                else ""
            )
            self.message.say(old + way)

    def _tell(self, text: str, alarm: bool = False) -> None:
        self._told = self.judged, text, alarm

    def _earlier(self) -> Opinion | None:
        """What is kept of the chosen candidate in whatever state."""
        judged = self.judged
        project = self.session.document.project
        return None if judged is None else of_candidate(project, judged[0].id, judged[1].id)

    def start(self) -> None:
        """Runs the solver on both meshes."""
        judged, find = self.judged, self.result()
        if judged is None or find is None:
            return
        title = f"{self.session.document.project.title}: {judged[0].name}"

        def work(stopped: Callable[[], bool]) -> Iterator[object]:
            yield second_opinion(find(), title, self._progressed.emit, stopped)

        self.lines, self._of = (), judged
        self._told = None
        self.state.setText("writing the meshes …")
        self.search.begin(work)
        self.search.begin_now()
        self.refresh()

    def stop(self) -> None:
        """Ends a run that is under way."""
        self.search.stop()
        self._of = None
        self._tell("Stopped.")
        self.refresh()

    def _receive(self, lines: object) -> None:
        assert isinstance(lines, tuple)
        self.lines = lines

    def _end(self, message: str) -> None:
        if message:
            self._of = None
            self._tell(message, True)
        else:
            self._tell(_verdict(self.lines))
            if self.lines and self.keep.isChecked():
                self._keep_or_drop(True)
        self.refresh()


def _verdict(lines: tuple[Line, ...]) -> str:
    apart = sum(not line.agrees for line in lines)
    differ = f"{apart} of {len(lines)} numbers differ by more: look at these before you rely on either."
    return differ if apart else "All numbers agree within the mesh change and 2 %."
