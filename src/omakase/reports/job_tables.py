"""A job as tables with numbers and units: for a workbook, and its cut list as comma-separated values."""

from __future__ import annotations

from collections.abc import Iterator

from omakase.core.build.masses import KINDS
from omakase.evaluate.build.cutting import CutPiece, Roll
from omakase.evaluate.build.plan import JobPlan
from omakase.evaluate.build.weighing import STATE_NAMES
from omakase.project.model import by_id
from omakase.reports.sheets import Table, Value, workbook
from omakase.units import FIELD, UnitSystem, display_unit, to_display


def _head(text: str, dimension: str, units: UnitSystem) -> str:
    return f"{text}, {display_unit(dimension, units).label}"


def _shown(value: float | None, dimension: str, units: UnitSystem) -> float | None:
    return None if value is None else float(f"{to_display(value, dimension, units):.{FIELD}g}")


def cut_list(plan: JobPlan) -> Table:
    """A row for each piece: where it belongs, its sizes over all, area, warp, and where it lies on its roll."""
    units = plan.units
    head = (
        "piece", "part", "layer", "wall", "zone", "material", "what", _head("thickness", "length", units), "warp, °",
        "pieces", _head("length", "length", units), _head("width", "length", units), _head("area cut", "area", units),
        _head("area in the part", "area", units),
    )  # fmt: skip
    titles = {own.made.index: own.made.title for own in plan.parts}
    zones = {
        own.made.index: {zone.id: zone.name for zone in own.made.candidate.zones} for own in plan.parts
    }  # fmt: skip
    rows = tuple(_piece_row(piece, titles, zones, units) for piece in plan.cutting.pieces)
    return Table("Cut list", head, rows)


def _piece_row(
    piece: CutPiece, titles: dict[int, str], zones: dict[int, dict[str, str]], units: UnitSystem
) -> tuple[Value, ...]:  # fmt: skip
    along, across = (piece.sleeve, 0.0) if piece.sleeve else piece.cut.size
    record = piece.record
    return (
        piece.name, titles.get(piece.part, ""), piece.layer + 1, record.wall,
        zones.get(piece.part, {}).get(record.zone, record.zone), piece.material.id, piece.what,
        _shown(record.thickness, "length", units), record.angle, piece.copies * piece.plies,
        _shown(along, "length", units), _shown(across, "length", units), _shown(piece.cut.area, "area", units),
        _shown(piece.net.area, "area", units),
    )  # fmt: skip


def rolls(plan: JobPlan) -> Table:
    units = plan.units
    head = (
        "material", _head("thickness", "length", units), _head("roll or sheet width", "length", units),
        _head("length bought", "run", units), "sheets", "share used", _head("least length", "run", units),
        _head("mass", "mass", units), "price", "in stock", "missing",
    )  # fmt: skip
    return Table("Rolls and sheets", head, tuple(_roll_row(roll, units) for roll in plan.cutting.rolls))


def _roll_row(roll: Roll, units: UnitSystem) -> tuple[Value, ...]:
    layout = roll.layout
    return (
        roll.material.id, _shown(roll.thickness, "length", units),
        _shown(layout.width if layout is not None else None, "length", units), _shown(roll.metres, "run", units),
        roll.sheets or None, round(layout.used, 4) if layout is not None else None,
        _shown(layout.bound if layout is not None else None, "run", units), _shown(roll.mass, "mass", units),
        roll.price, roll.left, roll.missing or None,
    )  # fmt: skip


def resin(plan: JobPlan) -> Table:
    units = plan.units
    head = (
        "part", "times", "resin", *(_head(name, "small_mass", units) for name in (
            "plies", "core", "consumables", "tools", "cups", "rounding", "mixed", "resin of a batch",
            "hardener of a batch")), "batches", _head("use within", "minutes", units),
    )  # fmt: skip
    rows = []
    for card in plan.cards:
        demand, batches = card.plan.demand, card.plan.batches
        first = batches[0] if batches else None
        masses = (
            demand.laminate, demand.core, demand.consumables, demand.tools, card.plan.cups, card.plan.rounding,
            card.plan.mixed, first.resin if first else None, first.hardener if first else None,
        )  # fmt: skip
        rows.append((
            card.part.title, card.times, card.resin.id, *(_shown(own, "small_mass", units) for own in masses),
            len(batches), _shown(first.seconds if first else None, "minutes", units),
        ))  # fmt: skip
    return Table("Resin", head, tuple(rows))


def calendar(plan: JobPlan) -> Table:
    head = ("operation", "begins", "hands on until", "ends", "people", "hours of each", "critical")
    rows: list[tuple[Value, ...]] = []
    if plan.calendar is not None:
        for slot in plan.calendar.plan.slots:
            times = (plan.calendar.moment(own).isoformat(" ", "minutes") for own in (slot.start, slot.worked, slot.end))
            rows.append((slot.operation.what, *times, slot.operation.people, round(slot.operation.hours, 4),
                         "yes" if slot.critical else ""))  # fmt: skip
    return Table("Calendar", head, tuple(rows))


def cost(plan: JobPlan) -> Table:
    rows: list[tuple[Value, ...]] = []
    if plan.cost is not None:
        rows += [(own.kind, own.what, own.amount, own.money) for own in plan.cost.lines]
        made = plan.cost.price
        for name in ("material", "labour", "scrap", "tooling", "overhead", "margin", "total"):
            rows.append(("price", name, f"one of {plan.cost.rates.parts}", getattr(made, name)))
        rows.append(("price", "total", "a single one", plan.cost.one.total))
        rows.append(("price", "total", "one of ten", plan.cost.ten.total))
    return Table("Cost", ("kind", "what", "how much", "money"), tuple(rows))


def masses(plan: JobPlan) -> Table:
    units = plan.units
    head = ("part", "pieces", "kind", "what", "worked out", _head("mass", "small_mass", units),
            _head("scatter", "small_mass", units), "source")  # fmt: skip
    rows: list[tuple[Value, ...]] = []
    for part in plan.parts:
        for own in part.rows:
            rows.append((
                part.made.title, part.made.part.count, KINDS[own.kind], own.what, own.amount,
                _shown(own.mass, "small_mass", units), _shown(own.scatter, "small_mass", units), own.source,
            ))  # fmt: skip
    for own in plan.works:
        rows.append(("works", 1, KINDS[own.kind], own.what, own.amount, _shown(own.mass, "small_mass", units),
                     _shown(own.scatter, "small_mass", units), own.source))  # fmt: skip
    return Table("Masses", head, tuple(rows))


def weighings(plan: JobPlan) -> Table:
    units = plan.units
    head = ("part", "which", "day", "state", _head("predicted", "mass", units), _head("weighed", "mass", units),
            "ratio", "as written", "crew")  # fmt: skip
    rows: list[tuple[Value, ...]] = []
    for own in plan.job.weighed:
        part = by_id(plan.job.parts, own.part)
        ratio = round(own.mass.value / own.predicted, 4) if own.predicted > 0.0 else None
        rows.append((
            part.name if part is not None else own.part, own.serial, own.on, STATE_NAMES[own.state],
            _shown(own.predicted, "mass", units), _shown(own.mass.value, "mass", units), ratio, own.mass.text, own.crew,
        ))  # fmt: skip
    return Table("Weighings", head, tuple(rows))


def all_tables(plan: JobPlan) -> Iterator[Table]:
    for make in (cut_list, rolls, resin, calendar, cost, masses, weighings):
        yield make(plan)


def job_workbook(plan: JobPlan) -> bytes:
    """All tables as a workbook, one sheet each."""
    return workbook(all_tables(plan))
