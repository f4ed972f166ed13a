"""What equals the chosen candidate as a solid laminate, sandwich and metal: worked out, then put beside it."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QWidget

from omakase.evaluate.sizing.equals import BY_WORDS, By, Equals, beside, core_of
from omakase.project.library import materials_of
from omakase.ui.kit.popup import popup
from omakase.ui.kit.searching import Searching
from omakase.ui.session import Session


class EqualsSearch(QObject):
    """Asks for a core over a widget, searches, and edits the brief; ``told`` says what goes on."""

    told = pyqtSignal(str)

    def __init__(self, session: Session, over: QWidget) -> None:
        super().__init__(over)
        self.session, self._over = session, over
        self.search = Searching("equals", self)
        self.search.found.connect(self._take)
        self.search.ended.connect(lambda message: self.told.emit(message) if message else None)

    def ask_core(self, by: By) -> None:
        """Offers the cores on which the sandwich may be: the brief's own first."""
        brief, materials = self.session.brief, materials_of(self.session.document.project)
        if brief is None:
            return
        first = core_of(brief, materials)
        cores = [
            first,
            *sorted(name for name, material in materials.items() if material.kind == "core" and name != first),
        ]
        entries = [
            (f"Sandwich on {name}: {materials[name].name}", lambda name=name: self.make(by, name)) for name in cores
        ]
        self.menu = popup(self._over, entries)

    def make(self, by: By, core: str = "") -> None:
        """Works them out for the chosen candidate and puts them beside it."""
        brief, candidate, session = self.session.judged_brief, self.session.candidate, self.session
        if brief is None or candidate is None or not candidate.layers:
            self.told.emit("choose a candidate with a layup first")
            return
        materials, evaluator = materials_of(session.document.project), session.evaluator

        def search(stopped: Callable[[], bool]) -> Iterator[object]:
            yield candidate, list(Equals(brief, candidate, materials, evaluator, by, core, stopped).find())

        self.told.emit(f"looking for what is {BY_WORDS[by]} as {candidate.name} …")
        self.search.begin(search)
        self.search.begin_now()

    def _take(self, answer: object) -> None:
        brief = self.session.brief
        assert isinstance(answer, tuple)
        candidate, equals = answer
        if brief is None or candidate.id not in {other.id for other in brief.candidates}:
            return
        if any(equal.candidate is not None for equal in equals):
            self.session.do(beside(brief, candidate, equals))
        missing = "; ".join(f"no {equal.title}: {equal.why}" for equal in equals if equal.candidate is None)
        self.told.emit(missing or "put beside it; Ctrl+Z undoes it")
