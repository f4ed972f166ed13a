"""Commands: the only way a document changes.  Each holds ids with old and new values and can be taken back."""

from __future__ import annotations

from typing import ClassVar, Generic, Protocol, TypeVar

import msgspec

from omakase.core.materials.material import Material
from omakase.project.conditions import ConditionRecord
from omakase.project.model import (
    Acceptance,
    Brief,
    Candidate,
    Decision,
    Job,
    Opinion,
    Project,
    Sample,
    Series,
    Shop,
    Vehicle,
    VehicleQuantity,
    find_brief,
)

replace = msgspec.structs.replace


class Change(msgspec.Struct, frozen=True):
    """What a command touched: the brief and candidate ids, empty where the whole is meant.

    ``apart`` : nothing that briefs are judged by.
    """

    brief: str = ""
    candidate: str = ""
    apart: bool = False


class Command(Protocol):
    """One act of the user."""

    text: str
    merge_key: str

    def apply(self, project: Project) -> Project: ...

    def revert(self, project: Project) -> Project: ...

    @property
    def change(self) -> Change: ...


def _with_brief(project: Project, brief: Brief) -> Project:
    return replace(project, briefs=tuple(brief if b.id == brief.id else b for b in project.briefs))


def _with_candidates(project: Project, brief_id: str, candidates: tuple[Candidate, ...]) -> Project:
    return _with_brief(project, replace(find_brief(project, brief_id), candidates=candidates))


class Linked(msgspec.Struct, frozen=True):
    """Another candidate that changes with an edited one, since they share a sub-stack."""

    brief: str
    old: Candidate
    new: Candidate


class EditCandidate(msgspec.Struct, frozen=True):
    """Replaces one candidate's record: its layers, name or note.  Edits with the same merge key become one step.

    ``others`` : candidates that change with it.
    """

    brief: str
    old: Candidate
    new: Candidate
    text: str
    merge_key: str = ""
    others: tuple[Linked, ...] = ()

    @staticmethod
    def _swap(project: Project, brief_id: str, record: Candidate) -> Project:
        brief = find_brief(project, brief_id)
        return _with_candidates(project, brief_id, tuple(record if c.id == record.id else c for c in brief.candidates))

    def apply(self, project: Project) -> Project:
        project = self._swap(project, self.brief, self.new)
        for other in self.others:
            project = self._swap(project, other.brief, other.new)
        return project

    def revert(self, project: Project) -> Project:
        project = self._swap(project, self.brief, self.old)
        for other in self.others:
            project = self._swap(project, other.brief, other.old)
        return project

    def merged(self, later: EditCandidate) -> EditCandidate:
        others = {(other.brief, other.old.id): other for other in self.others}
        for other in later.others:
            first = others.get((other.brief, other.old.id))
            others[other.brief, other.old.id] = other if first is None else replace(first, new=other.new)
        return replace(self, new=later.new, text=later.text, others=tuple(others.values()))

    @property
    def change(self) -> Change:
        return Change(self.brief, self.old.id)


class EditBrief(msgspec.Struct, frozen=True):
    """Replaces a brief's own fields; its candidates stay as they are."""

    old: Brief
    new: Brief
    text: str
    merge_key: str = ""

    def _swap(self, project: Project, record: Brief) -> Project:
        current = find_brief(project, record.id)
        return _with_brief(project, replace(record, candidates=current.candidates))

    def apply(self, project: Project) -> Project:
        return self._swap(project, self.new)

    def revert(self, project: Project) -> Project:
        return self._swap(project, self.old)

    def merged(self, later: EditBrief) -> EditBrief:
        return replace(self, new=later.new, text=later.text)

    @property
    def change(self) -> Change:
        return Change(self.old.id)


class ArrangeCandidates(msgspec.Struct, frozen=True):
    """Adds, removes or reorders candidates: the list before and after, and the baseline before and after."""

    brief: str
    old: tuple[Candidate, ...]
    new: tuple[Candidate, ...]
    old_baseline: str
    new_baseline: str
    text: str
    merge_key: str = ""

    def _set(self, project: Project, candidates: tuple[Candidate, ...], baseline: str) -> Project:
        brief = replace(find_brief(project, self.brief), candidates=candidates, baseline=baseline)
        return _with_brief(project, brief)

    def apply(self, project: Project) -> Project:
        return self._set(project, self.new, self.new_baseline)

    def revert(self, project: Project) -> Project:
        return self._set(project, self.old, self.old_baseline)

    @property
    def change(self) -> Change:
        return Change(self.brief)


Item = TypeVar("Item")


class _ArrangeList(msgspec.Struct, Generic[Item], frozen=True):
    """Adds, removes, changes or reorders the entries of one list of the project: the list before and after."""

    LIST: ClassVar[str]
    old: tuple[Item, ...]
    new: tuple[Item, ...]
    text: str
    merge_key: str = ""

    def apply(self, project: Project) -> Project:
        return replace(project, **{self.LIST: self.new})

    def revert(self, project: Project) -> Project:
        return replace(project, **{self.LIST: self.old})

    @property
    def change(self) -> Change:
        return Change()


class ArrangeBriefs(_ArrangeList[Brief], frozen=True):
    """The project's briefs."""

    LIST = "briefs"


class ArrangeMaterials(_ArrangeList[Material], frozen=True):
    """The project's own materials, without what laying them takes in the shop."""

    LIST = "materials"

    def apply(self, project: Project) -> Project:
        return replace(project, materials=tuple(as_stated(own) for own in self.new))


def as_stated(material: Material) -> Material:
    """A material as it is kept."""
    return material if material.laid is None else replace(material, laid=None)


class ArrangeSamples(_ArrangeList[Sample], frozen=True):
    """The project's samples."""

    LIST = "samples"


class ArrangeSeries(_ArrangeList[Series], frozen=True):
    """The project's series of tests."""

    LIST = "series"


class ArrangeAcceptances(_ArrangeList[Acceptance], frozen=True):
    """What was accepted from tests."""

    LIST = "acceptances"


class ArrangeDecisions(_ArrangeList[Decision], frozen=True):
    """What was decided, and withdrawn."""

    LIST = "decisions"


class ArrangeVehicles(_ArrangeList[Vehicle], frozen=True):
    """Vehicles with their parts and budgets."""

    LIST = "vehicles"


class ArrangeJobs(_ArrangeList[Job], frozen=True):
    """The project's jobs; edits of the same field of one become one step."""

    LIST = "jobs"

    @property
    def change(self) -> Change:
        return Change(apart=True)

    def merged(self, later: ArrangeJobs) -> ArrangeJobs:
        return replace(self, new=later.new, text=later.text)


class ArrangeOpinions(_ArrangeList[Opinion], frozen=True):
    """What a finite-element solver said."""

    LIST = "opinions"

    @property
    def change(self) -> Change:
        return Change(apart=True)


class EditShop(msgspec.Struct, frozen=True):
    """Changes the shop: its rates, processes, stock, moulds and factors."""

    old: Shop
    new: Shop
    text: str
    merge_key: str = ""

    def apply(self, project: Project) -> Project:
        return replace(project, shop=self.new)

    def revert(self, project: Project) -> Project:
        return replace(project, shop=self.old)

    def merged(self, later: EditShop) -> EditShop:
        return replace(self, new=later.new, text=later.text)

    @property
    def change(self) -> Change:
        return Change()


class EditQuantities(msgspec.Struct, frozen=True):
    """Changes the vehicle's quantities, and the numbers of briefs that follow them: (before, after) of each.

    Edits with the same merge key become one step.
    """

    old: tuple[VehicleQuantity, ...]
    new: tuple[VehicleQuantity, ...]
    briefs: tuple[tuple[Brief, Brief], ...]
    text: str
    merge_key: str = ""

    def _put(self, project: Project, quantities: tuple[VehicleQuantity, ...], which: int) -> Project:
        for pair in self.briefs:
            current = find_brief(project, pair[0].id)
            project = _with_brief(project, replace(pair[which], candidates=current.candidates))
        return replace(project, quantities=quantities)

    def apply(self, project: Project) -> Project:
        return self._put(project, self.new, 1)

    def revert(self, project: Project) -> Project:
        return self._put(project, self.old, 0)

    @property
    def change(self) -> Change:
        return Change()


class EditConditions(msgspec.Struct, frozen=True):
    """Changes the project's conditions, and the briefs that name one of them, which keep it as it is."""

    old: tuple[ConditionRecord, ...]
    new: tuple[ConditionRecord, ...]
    text: str
    merge_key: str = ""

    @staticmethod
    def _put(project: Project, conditions: tuple[ConditionRecord, ...]) -> Project:
        known = {own.id: own for own in conditions}
        briefs = tuple(
            replace(brief, conditions=tuple(
                replace(applied, condition=known.get(applied.condition.id, applied.condition))
                for applied in brief.conditions
            )) if brief.conditions else brief
            for brief in project.briefs
        )  # fmt: skip
        return replace(project, conditions=conditions, briefs=briefs)

    def apply(self, project: Project) -> Project:
        return self._put(project, self.new)

    def revert(self, project: Project) -> Project:
        return self._put(project, self.old)

    @property
    def change(self) -> Change:
        return Change()


class EditHeader(msgspec.Struct, frozen=True):
    """Sets the project's title and unit system."""

    old_title: str
    new_title: str
    old_units: str
    new_units: str
    text: str
    merge_key: str = ""

    def apply(self, project: Project) -> Project:
        return replace(project, title=self.new_title, units=self.new_units)

    def revert(self, project: Project) -> Project:
        return replace(project, title=self.old_title, units=self.old_units)

    @property
    def change(self) -> Change:
        return Change()


MERGING = (EditCandidate, EditBrief, ArrangeJobs, EditShop)  # whose edits of one field become one step
