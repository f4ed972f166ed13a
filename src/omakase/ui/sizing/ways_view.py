"""Ways out of a candidate that fails, or down from one with room, or what each form of a panel comes to; one key puts
the chosen one into the line-up."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from PyQt6.QtGui import QHideEvent, QShowEvent
from PyQt6.QtWidgets import QPushButton, QTreeWidgetItem, QVBoxLayout, QWidget

from omakase.evaluate.results.outcome import Outcome
from omakase.evaluate.results.outcome_words import outcome_words
from omakase.evaluate.results.wording import percent_text, quantity
from omakase.evaluate.sizing.forms import FormStudy
from omakase.evaluate.sizing.ways_out import Way, WaysOut, all_beside, as_command
from omakase.project.library import faced_materials, materials_of
from omakase.project.quickline import laminate_code
from omakase.ui.kit.fitting_list import fitting_list
from omakase.ui.kit.labels import Label, plain
from omakase.ui.kit.searching import Searching
from omakase.ui.kit.theme import SPACE, Theme
from omakase.ui.session import Session


def _order(way: Way) -> tuple[bool, int]:
    """Ways that pass first, each kind in the order of its levers."""
    return way.outcome is None, way.place


class WaysView(QWidget):
    """Searches on a worker while it is in sight; an edit stops the search and starts another.

    ``forms`` : whether it looks for the lightest of each form in place of ways out.
    """

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.ways: list[Way] = []
        self.forms = False
        self.search = Searching("ways", self)
        self._inputs: object = None
        self._present: Outcome | None = None
        self.head = Label()
        self.head.setWordWrap(True)
        self.list = fitting_list("Ways out", ("Change", "Mass", ""))
        self.detail = Label()
        self.detail.setWordWrap(True)
        self.detail.setProperty("role", "quiet")
        self.take = QPushButton("Make it a candidate (Enter)")
        self.take_all = QPushButton("All that pass into the line-up")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(SPACE, SPACE, SPACE, SPACE)
        layout.addWidget(self.head)
        layout.addWidget(self.list, 1)
        layout.addWidget(self.detail)
        layout.addWidget(self.take)
        layout.addWidget(self.take_all)
        self.take_all.hide()
        self.take_all.clicked.connect(self.put_all)
        self.take.clicked.connect(lambda: self.take_chosen())
        self.list.currentItemChanged.connect(lambda _now, _before: self._tell())
        self.list.itemActivated.connect(lambda _item, _column: self.take_chosen())
        self.search.found.connect(self._receive)
        self.search.ended.connect(self._end)
        session.brief_changed.connect(self.follow)
        session.chosen_changed.connect(self.follow)

    def set_theme(self, _theme: Theme) -> None:
        """Its colours are those of the style sheet."""

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.follow()

    def hideEvent(self, event: QHideEvent | None) -> None:
        super().hideEvent(event)
        self.stop()

    # --- searching ------------------------------------------------------------------------------------------

    def stop(self) -> None:
        """Ends a search that is under way; what was found is forgotten at the next."""
        self.search.stop()
        self._inputs = None

    @property
    def searching(self) -> bool:
        """A search is under way or about to begin."""
        return self.search.running

    def follow(self) -> None:
        """Starts anew when the layup, the brief or the choice is another and the view is in sight."""
        inputs = self.session.searched and (self.session.searched, self.forms)
        if not self.isVisible() or inputs == self._inputs:
            return
        self.stop()
        self._inputs = inputs
        self.ways = []
        self.list.clear()
        self.take.setEnabled(False)
        self.take_all.setVisible(self.forms)
        self.take_all.setEnabled(False)
        self._present = None
        looking = "Sizing each form …" if self.forms else "Looking for ways …"
        self.head.setText(looking if inputs else "Choose a candidate to see ways.")
        if inputs:
            self.search.begin(self._search)

    def _search(self, stopped: Callable[[], bool]) -> Iterator[object]:
        brief, candidate, project = self.session.judged_brief, self.session.candidate, self.session.document.project
        if brief is not None and candidate is not None and self.forms:
            study = FormStudy(brief, candidate, materials_of(project), project.units, self.session.evaluator, stopped)
            for way in study.find(self.session.workers):
                yield way, study.present
        elif brief is not None and candidate is not None:
            search = WaysOut(brief, candidate, materials_of(project), project.units, self.session.evaluator, stopped)
            ways = []
            for way in search.find(self.session.workers):
                ways.append(way)
                yield way, search.present
            for way in search.pairs(ways, self.session.workers):
                yield way, search.present

    def _receive(self, found_way: tuple[Way, Outcome | None]) -> None:
        way, self._present = found_way
        at = sum(_order(other) < _order(way) for other in self.ways)
        self.ways.insert(at, way)
        item = QTreeWidgetItem([way.text, "", ""])
        if way.outcome is None:
            item.setText(1, f"✗ {way.share:.2f}" if way.nearest is not None and way.share > 0.0 else "✗")
            item.setToolTip(0, plain(f"{way.text}: {way.blocked}"))
        else:
            item.setText(1, quantity(way.outcome.mass, "mass", self.session.units))
            if self._present is not None:
                item.setText(2, percent_text(way.outcome.mass / self._present.mass - 1.0))
            item.setToolTip(0, plain(way.text))
        self.list.insertTopLevelItem(at, item)
        if way.outcome is not None and not self.take.isEnabled():
            self.list.setCurrentItem(item)
        self.take_all.setEnabled(any(own.outcome is not None for own in self.ways))
        self._tell()

    def _tell(self) -> None:
        """What the chosen way comes to, below the list."""
        row = self.list.currentIndex().row()
        way = self.ways[row] if 0 <= row < len(self.ways) else None
        self.take.setEnabled(way is not None and way.outcome is not None)
        if way is None or way.outcome is None or self._present is None:
            self.detail.setText("" if way is None else f"No way: {way.blocked}.")
            return
        remark = outcome_words(way.outcome, self._present, self.session.units)
        if way.option is not None:
            project = self.session.document.project
            layers = way.option.candidate.layers
            remark = f"{laminate_code(layers, project.units, faced_materials(project), materials=True)}: {remark}"
        self.detail.setText(remark)
        changes_brief = way.option is not None and way.option.brief is not None
        self.take.setText("Change the brief (Enter)" if changes_brief else "Make it a candidate (Enter)")

    def _end(self, message: str) -> None:
        if message:
            self.head.setText(message)
            return
        passing = [way for way in self.ways if way.outcome is not None]
        self._tell()
        if self.forms:
            none = "No form meets the brief." if self.ways else "Forms are compared of panels only."
            self.head.setText("Of each form the lightest that meets the brief." if passing else none)
            return
        lighter = self._present is not None and self._present.passes
        title = "Ways to make it lighter, or better as it is" if lighter else "Ways out"
        none = "No single change makes it lighter and still passes." if lighter else "No single change makes it pass."
        if passing:
            alone = any(not way.is_pair for way in passing)
            each = "each without ✗ meets the brief" if alone else "no single change passes, these pairs do"
            self.head.setText(f"{title}: {each}.")
        else:
            self.head.setText(none if self.ways else "There is nothing here to change one by one.")

    def show_forms(self, forms: bool) -> None:
        """Looks for the lightest of each form, or for ways out."""
        self.forms = forms
        self.follow()

    def put_all(self) -> None:
        """Puts all forms that pass into the line-up beside the candidate they came from."""
        brief, candidate = self.session.brief, self.session.candidate
        if brief is not None and candidate is not None and any(way.option is not None for way in self.ways):
            self.session.do(all_beside(self.ways, brief, candidate))

    def take_chosen(self) -> None:
        """Puts the chosen way into the line-up beside the candidate it came from, and chooses it."""
        row, brief, candidate = self.list.currentIndex().row(), self.session.brief, self.session.candidate
        if brief is None or candidate is None or not 0 <= row < len(self.ways) or self.ways[row].option is None:
            return
        command, identity = as_command(self.ways[row], brief, candidate)
        self.session.do(command)
        self.session.choose(identity)
