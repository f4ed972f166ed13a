"""The session: the document, what is chosen and looked at in it, and its results."""

from __future__ import annotations

from collections.abc import Callable

import msgspec
from PyQt6.QtCore import QObject, pyqtSignal

from omakase.core.checks.result import CheckResult
from omakase.core.laminate.stack import Stack
from omakase.evaluate.history.decisions import Since, since, standing, standing_text
from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.members.sentence import Number, with_value
from omakase.evaluate.results.candidate_result import WAITING, CandidateResult
from omakase.evaluate.results.costing import PartCost, part_cost
from omakase.evaluate.results.lineup import LineUp, line_up
from omakase.evaluate.results.relative import resolved
from omakase.evaluate.sizing.workers import Workers
from omakase.evaluate.vehicle.fields import worked_out
from omakase.project import edits
from omakase.project.commands import Change, Command, EditBrief, EditCandidate
from omakase.project.document import Document
from omakase.project.library import faced_materials, materials_of
from omakase.project.model import (
    Brief,
    Candidate,
    Decision,
    LoadCase,
    Project,
    by_id,
    find_candidate,
    without_candidates,
)
from omakase.project.shared import linked_edits
from omakase.project.validation import candidate_problems
from omakase.project.vehicle import Sheet, with_formula, with_kept_formulas
from omakase.ui.computed import Computed
from omakase.units import QuantityError, UnitSystem

_Chosen = tuple[Brief | None, Candidate | None, tuple[str, ...]]  # with the names of its walls


class Session(QObject):
    """What the window shows.

    Signals: ``brief_changed`` (the record or the chosen brief), ``results_changed``, ``chosen_changed`` (another
    candidate), ``looked_at`` (another check or load case is shown in the pictures), ``station_changed`` (the
    cursor along the span), ``wall_changed`` (another wall's layers), ``rested`` (nothing left to do).
    """

    brief_changed = pyqtSignal()
    results_changed = pyqtSignal()
    chosen_changed = pyqtSignal()
    looked_at = pyqtSignal()
    station_changed = pyqtSignal()
    wall_changed = pyqtSignal()
    rested = pyqtSignal()

    def __init__(self, document: Document, synchronous: bool = False) -> None:
        super().__init__()
        self.document = document
        self.computed = Computed(document, lambda: (self.brief, self.candidate), synchronous)
        self.evaluator, self.keeper = self.computed.evaluator, self.computed.keeper
        self.workers: Workers | None = None if synchronous else Workers()  # started by the first search
        self.brief_id = ""
        self._judged: tuple[Project, str, Brief] | None = None
        self.candidate_id = ""
        self._found: tuple[Project, tuple[str, str], _Chosen] | None = None
        self._check_key: tuple[str, ...] | None = None
        self._case_id = ""
        self._wall = ""
        self._problems: tuple[Project, Candidate, list[tuple[str, str]]] | None = None
        self._layup: tuple[Candidate, str, Candidate] | None = None
        self._station: float | None = None  # where the cursor along the span was put; None follows the chosen check
        self._sheet = Sheet(())
        self._since: tuple[tuple[object, ...], Since] | None = None
        self._line_up: LineUp | None = None
        self._costs: dict[tuple[str, str], tuple[object, PartCost | None]] = {}
        self._spreads: dict[str, tuple[object, dict[str, float]]] = {}  # by candidate, with the layers it holds for
        self.computed.changed.connect(self._results_came)
        self.computed.rested.connect(self.rested)
        document.changed.connect(self._document_changed)
        document.reset.connect(self.reset)
        self.reset()

    # --- what is chosen -------------------------------------------------------------------------------------

    @property
    def units(self) -> UnitSystem:
        return self.document.project.units

    @property
    def brief(self) -> Brief | None:
        return self._chosen()[0]

    @property
    def judged_brief(self) -> Brief | None:
        """The brief as candidates are judged by it: limits against the baseline as numbers."""
        brief = self.brief
        if brief is None or not brief.limits.against:
            return brief
        project = self.document.project
        if self._judged is None or self._judged[0] is not project or self._judged[1] != brief.id:
            self._judged = project, brief.id, resolved(brief, materials_of(project), self.evaluator)
        return self._judged[2]

    @property
    def candidate(self) -> Candidate | None:
        return self._chosen()[1]

    @property
    def decision(self) -> Decision | None:
        """The decision for the chosen brief that stands."""
        return standing(self.document.project, self.brief_id)

    @property
    def decided(self) -> str:
        """What was decided for the chosen brief, whether it changed since and still holds; empty without a decision."""
        decision, project = self.decision, self.document.project
        if decision is None or self.computed.held:
            return ""
        brief, materials = by_id(project.briefs, decision.brief), materials_of(project)
        candidate = None if brief is None else by_id(brief.candidates, decision.candidate)
        bare = None if brief is None else without_candidates(brief)
        asked = decision, bare, candidate, materials, project.units
        if self._since is None or self._since[0] != asked:  # what is edited is mostly another candidate
            self._since = asked, since(project, decision, materials)
        result = self.keeper.result((decision.brief, decision.candidate))
        return standing_text(decision, self._since[1], result)

    # --- the wall that is looked at ---------------------------------------------------------------------------

    @property
    def walls(self) -> tuple[str, ...]:
        """Names of the chosen candidate's walls; one without a name where there is only one."""
        return self._chosen()[2]

    @property
    def wall(self) -> str:
        """The wall whose layers are shown and edited."""
        walls = self.walls
        return self._wall if self._wall in walls else walls[0]

    def look_at_wall(self, wall: str) -> None:
        """Shows another wall's layers."""
        if wall != self.wall:
            self._wall = wall
            self.document.end_merging()
            self.wall_changed.emit()

    @property
    def layup(self) -> Candidate | None:
        """The chosen candidate with the layers of the wall that is looked at, and no others."""
        candidate = self.candidate
        if candidate is None:
            return None
        if self._layup is None or self._layup[0] is not candidate or self._layup[1] != self.wall:
            self._layup = candidate, self.wall, edits.of_wall(candidate, self.wall)
        return self._layup[2]

    def problems(self) -> list[tuple[str, str]]:
        """(place below the candidate, message) of what is wrong with the chosen candidate; kept until it changes."""
        brief, candidate, _ = self._chosen()
        if brief is None or candidate is None:
            return []
        result, project = self.result, self.document.project
        if result is not None and result.ok and result.candidate is candidate:
            return []  # what could be computed makes sense
        if self._problems is None or self._problems[0] is not project or self._problems[1] is not candidate:
            self._problems = project, candidate, candidate_problems(brief, candidate, materials_of(project))
        return self._problems[2]

    def edit_layup(self, new: Candidate, text: str, merge_key: str = "") -> None:
        """As ``edit_candidate``, of a candidate whose layers are those of the wall that is looked at."""
        candidate = self.candidate
        if candidate is not None:
            self.edit_candidate(edits.with_wall(candidate, self.wall, new, self.walls), text, merge_key)

    @property
    def rows(self) -> tuple[int, ...]:
        """Which of all the candidate's layers are those of the wall that is looked at."""
        return () if self.candidate is None else edits.rows_of_wall(self.candidate, self.wall)

    @property
    def stack(self) -> Stack | None:
        """The stack of the wall that is looked at, of the newest result."""
        result = self.result
        return None if result is None else result.wall_stack(self.wall)

    def _chosen(self) -> _Chosen:
        """The chosen brief and candidate as they are now, and its walls; asked for some hundred times at every edit."""
        project, ids = self.document.project, (self.brief_id, self.candidate_id)
        if self._found is None or self._found[0] is not project or self._found[1] != ids:
            brief = by_id(project.briefs, self.brief_id)
            candidate = by_id(brief.candidates, self.candidate_id) if brief is not None else None
            walls = kind_of(brief).walls(candidate) if brief is not None and candidate is not None else ("",)
            self._found = project, ids, (brief, candidate, walls)
        return self._found[2]

    @property
    def result(self) -> CandidateResult | None:
        """Newest result of the chosen candidate."""
        return self.keeper.result((self.brief_id, self.candidate_id))

    @property
    def check(self) -> CheckResult | None:
        """The check that the pictures explain: the one that was chosen, else the governing one."""
        result = self.result
        if result is None:
            return None
        if self._check_key is None:
            return result.governing
        return next((check for check in result.checks if check.key == self._check_key), result.governing)

    def look_at_check(self, check: CheckResult | None) -> None:
        """Shows a check in the pictures, with its load case; None returns to the governing one."""
        self._check_key = None if check is None else check.key
        self._station = None
        if check is not None and check.wall in self.walls:
            self.look_at_wall(check.wall)
        brief = self.brief
        if check is not None and brief is not None:
            self._case_id = next((case.id for case in brief.load_cases if case.id == check.case_id), self._case_id)
        self.looked_at.emit()

    @property
    def station(self) -> float:
        """Where the cursor along the span stands, m: where it was put, else where the chosen check governs."""
        length = float(getattr(self.brief.member, "length", 0.0)) if self.brief is not None else 0.0
        if self._station is not None:
            return min(self._station, length)
        check = self.check
        return check.place.x if check is not None and check.place.x is not None else length / 2.0

    def move_to(self, station: float | None) -> None:
        """Puts the cursor at a station; None lets it follow the chosen check again."""
        if station != self._station:
            self._station = station
            self.station_changed.emit()

    @property
    def load_case(self) -> LoadCase | None:
        """The load case that the picture of the panel shows."""
        brief = self.brief
        if brief is None or not brief.load_cases:
            return None
        return next((case for case in brief.load_cases if case.id == self._case_id), brief.load_cases[0])

    def look_at_case(self, case_id: str) -> None:
        """Shows a load case in the picture of the panel."""
        if case_id != self._case_id:
            self._case_id = case_id
            self.looked_at.emit()

    def is_final(self, candidate_id: str) -> bool:
        """Whether the shown result of a candidate is of the full order and of the present records."""
        return self.keeper.is_final((self.brief_id, candidate_id))

    @property
    def settled(self) -> bool:
        """Nothing is being computed."""
        return self.computed.settled

    @property
    def searched(self) -> tuple[object, ...] | None:
        """What a search about the chosen candidate depends on: begun anew when it is another; None without one."""
        brief, candidate = self.judged_brief, self.candidate
        if brief is None or candidate is None:
            return None
        return (candidate.id, brief.supports_given, *self.computed.inputs(brief, candidate))

    @property
    def idle(self) -> bool:
        """Nothing is being computed and the next edit is prepared for."""
        return self.computed.idle

    def choose_brief(self, brief_id: str) -> None:
        if brief_id != self.brief_id:
            self.brief_id = brief_id
            self.keeper.expect_nothing()
            self._choose_some()
            if self.brief is not None:
                self.evaluator.turn_to(self.brief)
            self._evaluate()
            self.brief_changed.emit()
            self.chosen_changed.emit()

    def choose(self, candidate_id: str) -> None:
        if candidate_id != self.candidate_id:
            self.candidate_id = candidate_id
            self.document.end_merging()
            check = self.check
            if check is not None and check.wall:
                self._wall = check.wall  # the layers that matter most
            self.chosen_changed.emit()
            self.computed.prepare()

    def _choose_some(self) -> None:
        brief = self.brief
        ids = [candidate.id for candidate in brief.candidates] if brief else []
        if self.candidate_id not in ids:
            others = [i for i in ids if brief is None or i != brief.baseline]
            self.candidate_id = (others or ids or [""])[0]

    # --- edits ----------------------------------------------------------------------------------------------

    def do(self, command: Command) -> None:
        """Does a command; formulas of a brief stay with their numbers."""
        if isinstance(command, EditBrief):
            command = msgspec.structs.replace(command, new=with_kept_formulas(command.old, command.new))
        self.document.do(command)

    @property
    def sheet(self) -> Sheet:
        """The vehicle's quantities worked out; kept until they change."""
        quantities = self.document.project.quantities
        if self._sheet.quantities is not quantities:
            self._sheet = Sheet(quantities)
        return self._sheet

    def follow(self, number: Number, text: str) -> str:
        """Lets a number of the chosen brief follow a formula; what is wrong with it in words, else empty."""
        brief = self.brief
        if brief is None:
            return ""
        try:
            value = worked_out(brief, number, text, self.sheet)
        except QuantityError as error:
            return f"{number.name}: {error}"
        new = with_formula(with_value(brief, number.path, value), number.path, f"= {text.strip(' =')}")
        self.edit_brief(new, f"formula of {number.step}")
        return ""

    def edit_brief(self, new: Brief, text: str, merge_key: str = "") -> None:
        """Puts a changed brief in place as one undoable step."""
        brief = self.brief
        if brief is not None and new != brief:
            self.do(EditBrief(brief, new, text, merge_key))

    def edit_candidate(self, new: Candidate, text: str, merge_key: str = "") -> None:
        """Puts a changed candidate in place as one undoable step."""
        brief = self.brief
        if brief is None:
            return
        old = find_candidate(brief, new.id)
        if new != old:
            project = self.document.project
            new, others = linked_edits(project, brief.id, old, new, faced_materials(project))
            self.do(EditCandidate(brief.id, old, new, text, merge_key, others))

    # --- results --------------------------------------------------------------------------------------------

    def reset(self) -> None:
        """Another project was put in place."""
        self.computed.reset()
        self._spreads.clear()
        briefs = self.document.project.briefs
        self.brief_id = briefs[0].id if briefs else ""
        self.candidate_id = ""
        self._choose_some()
        self._evaluate()
        self.brief_changed.emit()
        self.chosen_changed.emit()

    def _document_changed(self, change: Change) -> None:
        if change.apart:
            return
        ids = [brief.id for brief in self.document.project.briefs]
        if self.brief_id not in ids:
            self.brief_id = ids[0] if ids else ""
        if change.brief and change.brief != self.brief_id and change.brief in ids:
            self.brief_id = change.brief  # undo reached back into another brief: show what it changed
            self.keeper.expect_nothing()
        before = self.candidate_id
        self._choose_some()
        if change.candidate and change.candidate != self.candidate_id:
            self.candidate_id = change.candidate
            self._choose_some()
        self._evaluate(at_once=bool(change.brief))  # what touches the whole project is judged behind the window
        self.brief_changed.emit()
        if before != self.candidate_id:
            self.chosen_changed.emit()

    def line_up(self) -> LineUp | None:
        """The line-up of the newest results; candidates not computed yet stand as errors that say so."""
        brief = self.judged_brief
        if brief is None:
            return None
        if self._line_up is None:
            results = []
            for candidate in brief.candidates:
                kept = self.keeper.result((brief.id, candidate.id))
                result = kept or CandidateResult(candidate, error=WAITING)
                if result.candidate is not candidate:
                    result = msgspec.structs.replace(result, candidate=candidate)
                results.append(result)
            spreads = {
                candidate.id: self._spreads[candidate.id][1]
                for candidate in brief.candidates
                if candidate.id in self._spreads and self._spreads[candidate.id][0] == _part(brief.id, candidate)
            }
            self._line_up = line_up(brief, results, spreads, self._costs_of(brief), self.document.project.shop.currency)
        return self._line_up

    def _costs_of(self, brief: Brief) -> dict[str, PartCost]:
        """Price and hours of each candidate where the shop states its rates; kept while nothing of it changes."""
        project = self.document.project
        if project.shop.rate <= 0.0 or self.computed.held:
            return {}
        materials = materials_of(project)
        costs = {}
        for candidate in brief.candidates:
            inputs = (brief.member, candidate.layers, candidate.form, candidate.zones, id(materials))
            kept = self._costs.get((brief.id, candidate.id))
            if kept is None or kept[0] != inputs:
                kept = inputs, part_cost(brief, candidate, materials)
                self._costs[brief.id, candidate.id] = kept
            if kept[1] is not None and kept[1].laid:
                costs[candidate.id] = kept[1]
        return costs

    def take_spread(self, candidate: Candidate, spread: dict[str, float]) -> None:
        """Takes how widely the results of a candidate scatter among drawn samples; ties of the line-up follow it."""
        self._spreads[candidate.id] = _part(self.brief_id, candidate), spread
        self._line_up = None
        self.results_changed.emit()

    def _evaluate(self, at_once: bool = True) -> None:
        """Brings the results of the chosen brief in line with the records."""
        self._line_up = None
        brief = self.judged_brief
        if brief is not None and not self.computed.held:
            self.computed.bring_up(brief, self.candidate_id, at_once)

    def _results_came(self) -> None:
        self._line_up = None
        self.results_changed.emit()

    def after_numbers(self, show: Callable[[], None]) -> None:
        """Shows something when the numbers of an edit are there to see."""
        self.computed.after_numbers(show)

    def start(self) -> None:
        """Begins to compute; called when the window is there to see."""
        if self.computed.begin():
            self._evaluate(at_once=False)
            self.computed.go_on()

    def close(self) -> None:
        """Ends the worker threads; call before the application goes."""
        self.computed.close()
        if self.workers is not None:
            self.workers.close()


def _part(brief: str, candidate: Candidate) -> object:
    """What the results of drawn samples hold for."""
    return brief, candidate.layers, candidate.form, candidate.zones, candidate.details
