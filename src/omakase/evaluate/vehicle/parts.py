"""The parts of a vehicle added up against its budget: of each brief the candidate that was decided for."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import msgspec

from omakase.evaluate.history.decisions import standing
from omakase.evaluate.results.engine import Evaluator
from omakase.evaluate.results.outcome import cost_of
from omakase.evaluate.results.relative import resolved
from omakase.project.library import materials_of
from omakase.project.model import Project, Vehicle, VehiclePart, by_id
from omakase.project.vehicle import Sheet
from omakase.units.formula import as_field
from omakase.units.parse import QuantityError


class PartRow(msgspec.Struct, frozen=True):
    """A part: mass in kg and cost of all of them, None where not known.

    ``candidate`` : name of the one taken; ``decided`` : whether it was decided for, else it is the lightest that
    passes.  ``passes`` : None for a typed part.  ``problem`` : what is wrong with it.
    """

    part: VehiclePart
    candidate: str = ""
    decided: bool = False
    passes: bool | None = None
    mass: float | None = None
    cost: float | None = None
    problem: str = ""


class Total(msgspec.Struct, frozen=True):
    """What a vehicle's parts come to: mass in kg and cost, with their budgets; ``open`` : how many parts are missing in
    it, ``problems`` : what is wrong with the budgets."""

    mass: float
    cost: float
    mass_budget: float | None
    cost_budget: float | None
    open: int
    problems: tuple[str, ...] = ()

    @property
    def mass_left(self) -> float | None:
        """kg under the budget, negative over it."""
        return None if self.mass_budget is None else self.mass_budget - self.mass


def part_rows(
    project: Project, vehicle: Vehicle, evaluator: Evaluator, cancelled: Callable[[], bool] = lambda: False
) -> Iterator[tuple[int, PartRow]]:
    """(place, row) of each part, typed ones first, since the others are computed."""
    sheet = Sheet(project.quantities)
    computed = []
    for i, part in enumerate(vehicle.parts):
        if part.count < 1:
            yield i, PartRow(part, problem="the count must be one or more")
        elif part.brief:
            computed.append((i, part))
        else:
            yield i, _typed(part, sheet)
    for i, part in computed:
        if cancelled():
            return
        yield i, _computed(project, part, evaluator)


def total(vehicle: Vehicle, rows: list[PartRow], sheet: Sheet) -> Total:
    """The sum of the rows, and the budgets."""
    budgets, problems = [], []
    for text, dimension, what in (
        (vehicle.mass_budget, "mass", "mass budget"), (vehicle.cost_budget, "ratio", "cost budget"),
    ):  # fmt: skip
        value = None
        if text.strip():
            try:
                value = as_field(sheet.value(text), dimension)
            except QuantityError as error:
                problems.append(f"{what}: {error}")
        budgets.append(value)
    missing = sum(row.mass is None for row in rows) + len(vehicle.parts) - len(rows)
    return Total(
        sum(row.mass or 0.0 for row in rows), sum(row.cost or 0.0 for row in rows), budgets[0], budgets[1], missing,
        tuple(problems),
    )  # fmt: skip


def _typed(part: VehiclePart, sheet: Sheet) -> PartRow:
    values: list[float | None] = []
    for text, dimension, what in ((part.mass, "mass", "mass"), (part.cost, "ratio", "cost")):
        if not text.strip():
            values.append(None)
            continue
        try:
            value = as_field(sheet.value(text), dimension)
        except QuantityError as error:
            return PartRow(part, problem=f"{what}: {error}")
        if value < 0.0:
            return PartRow(part, problem=f"the {what} must not be less than zero")
        values.append(value * part.count)
    return PartRow(part, mass=values[0], cost=values[1], problem="" if part.mass.strip() else "no mass typed yet")


def _computed(project: Project, part: VehiclePart, evaluator: Evaluator) -> PartRow:
    brief = by_id(project.briefs, part.brief)
    if brief is None:
        return PartRow(part, problem="its brief was removed")
    materials = materials_of(project)
    brief = resolved(brief, materials, evaluator)
    decision = standing(project, brief.id)
    decided = by_id(brief.candidates, decision.candidate) if decision is not None else None
    if decided is not None:
        candidate, result = decided, evaluator.evaluate(brief, decided, materials)
    else:
        offered = [own for own in brief.candidates if own.id != brief.baseline]
        results = [(own, evaluator.evaluate(brief, own, materials)) for own in offered]
        passing = [pair for pair in results if pair[1].passes]
        if not passing:
            return PartRow(part, problem="no candidate passes yet")
        candidate, result = min(passing, key=lambda pair: pair[1].mass)
    name = candidate.name or candidate.id
    cost = cost_of(brief, candidate, materials)
    row = PartRow(part, name, decided is not None, cost=None if cost is None else part.count * cost.value)
    if not result.ok:
        return msgspec.structs.replace(row, problem=result.error)
    return msgspec.structs.replace(row, passes=result.passes, mass=part.count * result.mass)
