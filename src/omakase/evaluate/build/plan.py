"""A job planned as a whole, from a snapshot of the project: off the interface thread, again after each edit."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence

import msgspec

from omakase.core.build.masses import MassRow, in_state, scatter, total
from omakase.core.errors import OmakaseError
from omakase.core.materials.areal import ply_thickness
from omakase.core.materials.material import Material
from omakase.evaluate.build.book import Book, Step, book, works_book
from omakase.evaluate.build.cutting import Cutting, Flats, Layouts, cutting, flat_areas, flat_layers
from omakase.evaluate.build.mixing import Card, ResinTotal, cards, resin_totals
from omakase.evaluate.build.parts import MadePart, Problem, made_parts
from omakase.evaluate.build.pricing import CostSheet, cost_sheet, roll_amount
from omakase.evaluate.build.weights import part_rows, work_row
from omakase.evaluate.build.working import Calendar, Hours, calendar, hours_of, labels
from omakase.evaluate.results.engine import Evaluator
from omakase.project.build import Job, State
from omakase.project.library import ROUTES, materials_of
from omakase.project.model import Project
from omakase.units import UnitSystem, format_value


class PartPlan(msgspec.Struct, frozen=True, eq=False):
    """A part with its masses and hours; ``areas`` : m² and ``plies`` : m of thickness of its layers."""

    made: MadePart
    areas: tuple[float, ...]
    rows: tuple[MassRow, ...]
    hours: Hours
    plies: tuple[float, ...] = ()

    def thickness(self, layer: int) -> float:
        """m of a layer as it cures."""
        return self.plies[layer]

    def mass(self, state: State = "painted") -> float:
        """kg of one part in a state."""
        return total(in_state(self.rows, state))

    def spread(self, state: State = "painted") -> float:
        return scatter(in_state(self.rows, state))


class JobPlan(msgspec.Struct, frozen=True, eq=False):
    """Everything that a job's records come to.  ``problems`` : what is wrong, by the path of its field; ``notes`` :
    what a person should know: what is short, what was left out."""

    job: Job
    units: UnitSystem
    parts: tuple[PartPlan, ...]
    works: tuple[MassRow, ...]
    cutting: Cutting
    cards: tuple[Card, ...]
    resins: tuple[ResinTotal, ...]
    calendar: Calendar | None
    cost: CostSheet | None
    books: tuple[Book, ...]
    works_steps: tuple[Step, ...]
    problems: tuple[Problem, ...]
    notes: tuple[str, ...]

    @property
    def mass(self) -> float:
        """kg of one unit with all its parts and works."""
        return sum(own.mass() * own.made.part.count for own in self.parts) + total(self.works)

    @property
    def spread(self) -> float:
        """kg, one standard deviation; parts by the same hands scatter together."""
        parts = sum(own.spread() * own.made.part.count for own in self.parts)
        return math.hypot(parts, scatter(self.works))

    def part(self, identity: str) -> PartPlan | None:
        """The plan of a part by its id in the job."""
        return next((own for own in self.parts if own.made.part.id == identity), None)


class Planner:
    """Plans jobs; it remembers layouts of rolls that an edit has left as they were."""

    def __init__(self) -> None:
        self._layouts = Layouts()
        self._evaluator = Evaluator()

    def plan(self, project: Project, job: Job, cancelled: Callable[[], bool] = lambda: False) -> JobPlan:
        """The plan of a job of the project."""
        materials, shop, units = materials_of(project), project.shop, project.units
        made, problems = made_parts(project, job)
        if job.units < 1:
            problems.append((("units",), "one unit or more is built"))
        if job.planned < 1:
            problems.append((("planned",), "tooling is spread over one unit or more"))
        count = max(job.units, 1)
        made, flats = _laid_flat(made, problems)
        areas = {index: flat_areas(own) for index, own in flats.items()}
        cuts = cutting(made, flats, count, shop, materials, self._layouts, cancelled)
        problems += cuts.problems
        hours = {part.index: hours_of(part, cuts, areas[part.index]) for part in made}
        parts = tuple(
            PartPlan(
                part, tuple(areas[part.index]),
                tuple(part_rows(part, shop, materials, units, areas[part.index], self._evaluator)),
                hours[part.index], _thicknesses(part, materials),
            )
            for part in made
        )  # fmt: skip
        mixed, wrong = cards(made, count, cuts, areas, shop, materials)
        problems += wrong
        resins = resin_totals(mixed, shop)
        when, wrong = calendar(job, made, hours, shop) if made or job.works else (None, [])
        problems += wrong
        money, wrong = cost_sheet(job, made, cuts, mixed, hours, areas, shop, materials, units)
        problems += wrong
        works = tuple(row for work in job.works if (row := work_row(work, materials, units)) is not None)
        problems += _work_problems(job, materials)
        by_part = {card.part.index: card for card in mixed}
        books = tuple(
            book(
                own.made, cuts, by_part.get(own.made.index), own.areas, mass_words(own, "demoulded", units), shop,
                materials, units,
            )
            for own in parts
        )  # fmt: skip
        return JobPlan(
            job, units, parts, works, cuts, tuple(mixed), tuple(resins), when, money, books,
            works_book(job, labels(job.parts, job.works), units), tuple(problems),
            (*_notes(cuts, resins, money, units), *_recipe_notes(made, materials)),
        )  # fmt: skip


def mass_words(part: PartPlan, state: State, units: UnitSystem) -> str:
    """Mass of a part in a state with its scatter, in words."""
    mass, spread = (format_value(own, "mass", units, with_unit=last) for own, last in (
        (part.mass(state), False), (part.spread(state), True),
    ))  # fmt: skip
    return f"{mass} ± {spread}"


def sums(plan: JobPlan) -> str:
    """What the whole job comes to, in one sentence."""
    mass = format_value(plan.mass, "mass", plan.units)
    spread = format_value(plan.spread, "mass", plan.units, with_unit=True)
    said = [f"One unit weighs {mass} ± {spread}"]
    if plan.calendar is not None:
        days = plan.calendar.plan.elapsed / 24.0
        said.append(f"{days:.1f} days from start to end, {plan.calendar.plan.hands_on:.1f} h of hands")
    if plan.cost is not None:
        said.append(f"price of one {plan.cost.one.total:,.0f}, of ten {plan.cost.ten.total:,.0f} each")
    return "; ".join(said) + "."


def _thicknesses(part: MadePart, materials: Mapping[str, Material]) -> tuple[float, ...]:
    return tuple(
        layer.thickness if layer.thickness is not None else ply_thickness(materials[layer.material])
        for layer in part.candidate.layers
    )


def _laid_flat(made: Sequence[MadePart], problems: list[Problem]) -> tuple[list[MadePart], dict[int, Flats]]:
    """Parts whose layers can be laid out flat, and these."""
    kept, flats = [], {}
    for part in made:
        try:
            flats[part.index] = flat_layers(part)
            kept.append(part)
        except OmakaseError as error:
            problems.append((("parts", part.index, "candidate"), f"{part.title}: {error}"))
    return kept, flats


def _work_problems(job: Job, materials: Mapping[str, Material]) -> list[Problem]:
    found: list[Problem] = []
    for i, work in enumerate(job.works):
        if work.adhesive and work.adhesive not in materials:
            found.append((("works", i, "adhesive"), f"no adhesive is named '{work.adhesive}'"))
        elif work.adhesive and not work.area > 0.0:
            found.append((("works", i, "area"), f"'{work.name}': the bond needs an area"))
    return found


def _notes(
    cuts: Cutting, resins: Sequence[ResinTotal], money: CostSheet | None, units: UnitSystem
) -> list[str]:  # fmt: skip
    notes = []
    for total_ in resins:
        if total_.missing > 0.0:
            missing = format_value(total_.missing, "mass", units, with_unit=True)
            wanted = format_value(total_.mixed, "mass", units, with_unit=True)
            notes.append(f"Resin is short: {total_.resin.id}, {missing} missing of {wanted} with its hardener.")
    for roll in cuts.rolls:
        if roll.missing > 0.0:
            left = _left(roll.left, roll.sheets, units)
            notes.append(f"{roll.material.id} is short: {roll_amount(roll, units)} wanted, {left} in stock.")
    if money is not None and money.missing:
        notes.append(f"Without a price, so not in the cost: {', '.join(money.missing)}.")
    return notes


def _recipe_notes(made: Sequence[MadePart], materials: Mapping[str, Material]) -> list[str]:
    """Parts that are laid up another way than their plies are worked out for."""
    notes = []
    for part in made:
        plies = {layer.material for layer in part.candidate.layers}
        recipes = [own.recipe for name in plies if (own := materials[name]).recipe is not None]
        others = sorted({ROUTES[own.process] for own in recipes if own is not None and own.process in ROUTES})
        if part.process.id in ROUTES.values() and others and part.process.id not in others:
            notes.append(
                f"{part.title}: laid up as '{part.process.name}', its plies are worked out for another process; "
                "their resin share and strength differ."
            )
    return notes


def _left(left: float | None, sheets: int, units: UnitSystem) -> str:
    if left is None:
        return "nothing counted"
    return f"{left:g} sheets" if sheets else format_value(left, "run", units, with_unit=True)
