"""The program without its window, for people who work in scripts and notebooks.

``import omakase`` offers ``open``, ``demo`` and ``new``; each gives a ``Workbook`` over a project.  All numbers are SI,
angles in degrees.  Layups are written as in the quick line.  Nothing is saved until ``save`` is called, and every
change can be taken back by ``undo``.  Errors meant for a person are ValueErrors whose text says what to do.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import msgspec

from omakase.core.checks.result import CheckResult
from omakase.core.errors import OmakaseError
from omakase.core.materials.material import Material
from omakase.evaluate.build.plan import JobPlan, Planner
from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.results.engine import Evaluator
from omakase.evaluate.results.relative import resolved
from omakase.evaluate.sizing.combinations import MenuChoices, choices_of
from omakase.evaluate.sizing.menu import MenuSearch
from omakase.evaluate.sizing.menu_state import Menu
from omakase.evaluate.sizing.study import Curve, Study, measures, parameters
from omakase.evaluate.sizing.ways_out import Way, WaysOut, as_command
from omakase.project import edits
from omakase.project.commands import Command, EditBrief, EditCandidate, replace
from omakase.project.document import Document
from omakase.project.library import faced_materials, materials_of
from omakase.project.model import Brief, Candidate, Project, find_brief, find_candidate, new_project
from omakase.project.quickline import read_quick_line, write_quick_line
from omakase.project.storage import read_project, write_project

__all__ = ["BriefView", "CandidateView", "Workbook", "demo", "new", "open_project"]


def open_project(path: str | Path) -> Workbook:
    """A project file.  Raises ReadError, a ValueError, where it cannot be read; the file is never changed."""
    target = Path(path)
    return Workbook(read_project(target), target)


def demo() -> Workbook:
    """The demo project that ships with the program."""
    from omakase.project.demo import demo_project

    return Workbook(demo_project())


def new() -> Workbook:
    """An empty project with one brief."""
    return Workbook(new_project())


class Workbook:
    """A project with its results; ``project`` is the record, which is never changed in place."""

    def __init__(self, project: Project, path: Path | None = None) -> None:
        self._document = Document(project, path)
        self._document.refused.connect(self._refuse)
        self.evaluator = Evaluator()
        self._planner = Planner()

    def __repr__(self) -> str:
        return f"<Workbook '{self.project.title}', {len(self.project.briefs)} briefs>"

    @property
    def project(self) -> Project:
        return self._document.project

    @property
    def materials(self) -> dict[str, Material]:
        """All materials by short name, with what was accepted from tests."""
        return dict(materials_of(self.project))

    @property
    def briefs(self) -> list[BriefView]:
        return [BriefView(self, brief.id) for brief in self.project.briefs]

    def brief(self, name: str) -> BriefView:
        """A brief by its id or name.  Raises OmakaseError."""
        for brief in self.project.briefs:
            if name in (brief.id, brief.name):
                return BriefView(self, brief.id)
        raise OmakaseError(f"there is no brief '{name}'")

    def plan(self, job: str = "") -> JobPlan:
        """A job by its id or name, the first one without, planned: pieces, rolls, resin, calendar, cost, masses.

        Raises OmakaseError.
        """
        for own in self.project.jobs:
            if not job or job in (own.id, own.name):
                return self._planner.plan(self.project, own)
        raise OmakaseError(f"there is no job '{job}'" if job else "the project has no jobs")

    def do(self, command: Command) -> None:
        """Changes the project by a command.  Raises OmakaseError for what cannot be taken in."""
        self._document.do(command)

    def undo(self) -> None:
        """Takes the last change back, if there is one."""
        self._document.undo()

    def redo(self) -> None:
        self._document.redo()

    @property
    def modified(self) -> bool:
        """Whether there are changes that were not saved."""
        return self._document.modified

    def save(self, path: str | Path = "") -> Path:
        """Saves under the name it has, or another; the path.  Raises OmakaseError without a name, or WriteError."""
        target = Path(path) if path else self._document.path
        if target is None:
            raise OmakaseError("say under which name to save it")
        write_project(target, self.project)
        self._document.mark_saved(target)
        return target

    @staticmethod
    def _refuse(text: str) -> None:
        raise OmakaseError(text)


class BriefView:
    """A brief as it now is; ``record`` is its record."""

    def __init__(self, book: Workbook, identity: str) -> None:
        self.book, self.id = book, identity

    def __repr__(self) -> str:
        return f"<brief {self.id} '{self.name}', {len(self.record.candidates)} candidates>"

    @property
    def record(self) -> Brief:
        return find_brief(self.book.project, self.id)

    @property
    def judged(self) -> Brief:
        """The brief by which candidates are judged: limits against the baseline are numbers in it."""
        return resolved(self.record, materials_of(self.book.project), self.book.evaluator)

    @property
    def name(self) -> str:
        return self.record.name

    @property
    def candidates(self) -> list[CandidateView]:
        return [CandidateView(self, own.id) for own in self.record.candidates]

    def candidate(self, name: str) -> CandidateView:
        """A candidate by its id or name.  Raises OmakaseError."""
        for own in self.record.candidates:
            if name in (own.id, own.name):
                return CandidateView(self, own.id)
        raise OmakaseError(f"there is no candidate '{name}' in '{self.name}'")

    def add(self, name: str, layup: str) -> CandidateView:
        """A candidate of a layup as in the quick line, the last one.

        Raises QuickLineError, a ValueError, or OmakaseError for a kind of member with several walls.
        """
        book, kind = self.book, kind_of(self.record)
        form = kind.new_form(self.record)
        if len(kind.walls(Candidate("new", name, form=form))) > 1:
            raise OmakaseError(f"a {kind.title} has several walls: copy a candidate and change its layers")
        layers = read_quick_line(layup, materials_of(book.project), book.project.units)
        last = self.record.candidates[-1].id if self.record.candidates else ""
        command, identity = edits.add_candidate(self.record, last, form)
        made = tuple(
            replace(own, name=name, layers=layers) if own.id == identity else own for own in command.new
        )  # fmt: skip
        book.do(replace(command, new=made))
        return CandidateView(self, identity)

    def change(self, **changes: object) -> None:
        """Changes fields of the brief's record, such as limits or load_cases."""
        self.book.do(EditBrief(self.record, msgspec.structs.replace(self.record, **changes), "change the brief"))

    def menu(self, choices: MenuChoices | None = None) -> Menu:
        """The best trade-offs of all combinations allowed; in this process, which takes its time."""
        materials = materials_of(self.book.project)
        brief = self.judged
        menu = Menu(0)
        search = MenuSearch(brief, choices or choices_of(brief, materials), materials, self.book.evaluator)
        for state in search.run():
            menu = state
        return menu


class CandidateView:
    """A candidate of a brief as it now is; ``record`` is its record."""

    def __init__(self, brief: BriefView, identity: str) -> None:
        self.brief, self.id = brief, identity

    def __repr__(self) -> str:
        return f"<candidate {self.id} '{self.name}' [{self.layup}]>"

    @property
    def record(self) -> Candidate:
        return find_candidate(self.brief.record, self.id)

    @property
    def name(self) -> str:
        return self.record.name

    @property
    def layup(self) -> str:
        """Its layers as a quick line; of a member with walls those of all walls, one behind the other."""
        project = self.brief.book.project
        zones = {zone.id: zone.name for zone in self.record.zones}
        return write_quick_line(self.record.layers, project.units, faced=faced_materials(project), zones=zones)

    @layup.setter
    def layup(self, text: str) -> None:
        project = self.brief.book.project
        if any(layer.wall for layer in self.record.layers):
            raise OmakaseError("it has several walls: change its layers by change(layers=…)")
        zones = {zone.name: zone.id for zone in self.record.zones}
        self.change(layers=read_quick_line(text, materials_of(project), project.units, zones=zones))

    def change(self, **changes: object) -> None:
        """Changes fields of its record, such as name, layers, form, zones or details."""
        new = msgspec.structs.replace(self.record, **changes)
        self.brief.book.do(EditCandidate(self.brief.id, self.record, new, "change the candidate"))

    def copy(self, name: str) -> CandidateView:
        """A copy of it beside it, under another name."""
        command, identity = edits.duplicate_candidate(self.brief.record, self.id)
        made = tuple(replace(own, name=name) if own.id == identity else own for own in command.new)
        self.brief.book.do(replace(command, new=made))
        return CandidateView(self.brief, identity)

    def remove(self) -> None:
        self.brief.book.do(edits.remove_candidate(self.brief.record, self.id))

    def result(self) -> CandidateResult:
        """Everything computed for it, in full; ``error`` says why where nothing could be."""
        book = self.brief.book
        return book.evaluator.evaluate(self.brief.judged, self.record, materials_of(book.project))

    def checks(self, name: str = "") -> list[CheckResult]:
        """Its checks, the least reserve over what is required first; only those of a ``name`` such as deflection."""
        found = sorted(self.result().checks, key=lambda own: own.reserve_factor / own.required)
        return [own for own in found if not name or own.check == name]

    def ways(self) -> Iterator[Way]:
        """What each lever alone can do about it, as it is found; ``take`` makes one a candidate."""
        book = self.brief.book
        return WaysOut(
            self.brief.judged, self.record, materials_of(book.project), book.project.units, book.evaluator
        ).find()  # fmt: skip

    def take(self, way: Way) -> CandidateView:
        """A way that passes as a candidate beside this one, or as a change of the brief.  Raises OmakaseError."""
        if way.option is None:
            raise OmakaseError(f"this way does not pass: {way.blocked}")
        command, identity = as_command(way, self.brief.record, self.record)
        self.brief.book.do(command)
        return CandidateView(self.brief, identity)

    @property
    def parameters(self) -> dict[str, str]:
        """What may be studied of it: key and meaning."""
        materials = materials_of(self.brief.book.project)
        return {own.key: own.title for own in parameters(self.brief.judged, self.record, materials)}

    def study(
        self, parameter: str, measure: str = "share", low: float = 0.0, high: float = 0.0, count: int = 12
    ) -> Curve:  # fmt: skip
        """A measure over a parameter by its key, from ``low`` to ``high`` in SI, its usual range without them.

        ``measure`` : share (least reserve over limit), mass, deflection and so on.  All points are judged in full; the
        curve tells where the limit is crossed.  Raises OmakaseError.
        """
        book, brief = self.brief.book, self.brief.judged
        materials = materials_of(book.project)
        wanted = next((own for own in parameters(brief, self.record, materials) if own.key == parameter), None)
        counted = next((own for own in measures(brief) if own.key == measure), None)
        if wanted is None or counted is None:
            name, keys = (parameter, list(self.parameters)) if wanted is None else (measure, None)
            known = ", ".join(keys or [own.key for own in measures(brief)])
            raise OmakaseError(f"'{name}' cannot be studied here; there are {known}")
        if low or high:
            if not low < high:
                raise OmakaseError("a study needs a range, low before high")
            wanted = msgspec.structs.replace(wanted, low=low, high=high)
        *_, curve = Study(brief, self.record, materials, book.evaluator).curve(wanted, counted, count)
        return curve
