"""A job's tables as rows of text: for the window, for paper and for files."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from omakase.core.build.masses import KINDS, MassRow
from omakase.evaluate.build.cutting import CutPiece, Roll
from omakase.evaluate.build.mixing import Card, ResinTotal
from omakase.evaluate.build.plan import JobPlan, PartPlan
from omakase.evaluate.build.pricing import CostSheet, roll_amount
from omakase.evaluate.results.wording import SOURCE_MARKS
from omakase.units import UnitSystem, format_value

Rows = list[tuple[str, tuple[str, ...]]]
ROLL_TITLES = ("Material", "To buy", "Used", "At least", "Mass", "Price", "In stock")
PIECE_TITLES = ("Piece", "Times", "Size", "Warp")
RESIN_TITLES = ("Part", "Resin", "Takes", "Mixed", "Batches", "Each: resin + hardener", "Use within")
DEMAND_TITLES = ("Where it goes", "Mass")
COST_TITLES = ("What", "How much", "Money")
MASS_TITLES = ("What", "How it is worked out", "Mass", "±", "")
CALENDAR_TITLES = ("Operation", "Begins", "Hands on until", "Ends", "Hands", "Waits for")


def roll_rows(rolls: Sequence[Roll], units: UnitSystem) -> Rows:
    """A row for each roll: what is bought, its yield, and the least length that the pieces' area allows."""
    rows: Rows = []
    for roll in rolls:
        thick = "" if roll.thickness is None else f", {format_value(roll.thickness, 'length', units, with_unit=True)}"
        used = "" if roll.layout is None else f"{100.0 * roll.layout.used:.0f} %"
        least = "" if roll.layout is None else format_value(roll.layout.bound, "run", units, with_unit=True)
        price = "?" if roll.price is None else f"{roll.price:,.0f}"
        left = "" if roll.left is None else _left_words(roll, units)
        rows.append((
            f"{roll.material.id}{thick}",
            (f"{roll.material.id}{thick}", roll_amount(roll, units), used, least,
             format_value(roll.mass, "mass", units, with_unit=True), price, left),
        ))  # fmt: skip
    return rows


def _left_words(roll: Roll, units: UnitSystem) -> str:
    assert roll.left is not None
    text = f"{roll.left:g}" if roll.sheets else format_value(roll.left, "run", units, with_unit=True)
    return f"{text} ✗" if roll.missing else text


def roll_words(roll: Roll, units: UnitSystem) -> str:
    """What a person should know of a roll."""
    if roll.layout is None:
        return f"A sleeve: {format_value(roll.metres, 'run', units, with_unit=True)} in all, cut to length."
    layout = roll.layout
    width = format_value(layout.width, "length", units, with_unit=True)
    bound = format_value(layout.bound, "run", units, with_unit=True)
    used = f"{100.0 * layout.used:.0f} % of what is cut off goes into pieces"
    said = [f"{used}; no layout on {width} can be shorter than {bound}"]
    if layout.sheets and layout.offcut > 0.0:
        said.append(f"{format_value(layout.offcut, 'run', units, with_unit=True)} of the last sheet stay whole")
    scrap = layout.bought - layout.area
    if scrap > 0.0:
        said.append(f"offcuts {format_value(scrap, 'area', units, with_unit=True)}")
    bias = sum(1 for own in roll.pieces if abs((own.record.angle % 90.0) - 45.0) < 20.0)
    if bias:
        said.append(f"{bias} of {len(roll.pieces)} pieces are cut on the bias")
    spliced = {own.name.rstrip("abcdefghijklmnopqrstuvwxyz") for own in roll.pieces if own.splice}
    if spliced:
        said.append(f"spliced, as they are wider than the roll: {', '.join(sorted(spliced))}")
    return "; ".join(said) + "."


def piece_rows(roll: Roll, units: UnitSystem) -> Rows:
    """Pieces of a roll, alike ones once."""
    times = Counter(own.name for own in roll.pieces)
    known: dict[str, CutPiece] = {own.name: own for own in roll.pieces}
    rows: Rows = []
    for name, own in known.items():
        angle = f"{own.record.angle:+g}°" if own.record.angle else "0°"
        rows.append((name, (name, str(times[name]), size_words(own, units), angle)))
    return rows


def size_words(piece: CutPiece, units: UnitSystem) -> str:
    """Length × width over all of a piece as it is cut; the length of a sleeve."""
    if piece.sleeve:
        return format_value(piece.sleeve, "length", units, with_unit=True)
    along, across = piece.cut.size
    return f"{format_value(along, 'length', units)} × {format_value(across, 'length', units, with_unit=True)}"


def resin_rows(cards: Sequence[Card], units: UnitSystem) -> Rows:
    """A row for each card."""
    rows: Rows = []
    for card in cards:
        plan = card.plan
        first = plan.batches[0] if plan.batches else None
        each = "" if first is None else (
            f"{format_value(first.resin, 'small_mass', units)} + "
            f"{format_value(first.hardener, 'small_mass', units, with_unit=True)}"
        )  # fmt: skip
        within = "" if first is None else f"{first.seconds / 60.0:.0f} min"
        rows.append((
            card.part.part.id,
            (card.part.title + (f" × {card.times}" if card.times > 1 else ""), card.resin.id,
             format_value(plan.demand.total, "small_mass", units, with_unit=True),
             format_value(plan.mixed, "small_mass", units, with_unit=True), str(len(plan.batches)), each, within),
        ))  # fmt: skip
    return rows


def demand_rows(card: Card, units: UnitSystem) -> Rows:
    """Where the resin of a card goes; the rows add up to what is mixed."""
    demand, plan = card.plan.demand, card.plan
    said = (
        ("plies with their trim", demand.laminate), ("taken up by the core", demand.core),
        ("peel ply, breather and the like", demand.consumables), ("brushes and rollers", demand.tools),
        ("left in cups", plan.cups), ("rounded up to whole grams", plan.rounding), ("mixed", plan.mixed),
    )  # fmt: skip
    return [(name, (name, format_value(mass, "small_mass", units, with_unit=True))) for name, mass in said]


def card_words(card: Card, units: UnitSystem) -> str:
    """What a person should know of a card."""
    hardener = 100.0 * card.mix.hardener
    said = [
        f"100 : {hardener:.0f} by mass, 100 : {100.0 * card.mix.hardener_volume:.0f} by volume",
        f"size of a batch: {card.plan.limit}", f"pot life of this cup {card.pot_life / 60.0:.0f} min",
    ]  # fmt: skip
    if card.factor != 1.0:
        said.append(f"× {card.factor:.3f} by what was used before")
    return "; ".join(said) + ". A full cup gets hot: pour it out at once."


def total_words(own: ResinTotal, units: UnitSystem) -> str:
    """A resin over the job against stock."""

    def mass(value: float) -> str:
        return format_value(value, "mass", units, with_unit=True)

    text = f"{own.resin.id}: {mass(own.mixed)} in all, {mass(own.base)} of resin and {mass(own.hardener)} of hardener"
    if own.left is None:
        return f"{text}; the stock was not counted."
    if own.missing <= 0.0:
        return f"{text}; {mass(own.left)} in stock are enough."
    short = " + ".join(format_value(part, "small_mass", units, with_unit=True) for part in own.short)
    return f"{text}; only {mass(own.left)} in stock: buy {mass(own.missing)}, or end with a short batch of {short}."


def cost_rows(sheet: CostSheet, currency: str) -> Rows:
    """The lines of the sheet, then how they add up to the price."""
    rows: Rows = []
    for i, line in enumerate(sheet.lines):
        rows.append((f"l{i}", (line.what, line.amount, "?" if line.money is None else f"{line.money:,.2f}")))
    price, rates = sheet.price, sheet.rates
    for name, amount, money in (
        ("Material", "", price.material), ("Hands", f"{price.hours:.2f} h, mean of {rates.parts}", price.labour),
        ("Scrap", f"{100.0 * rates.scrap:.0f} %", price.scrap),
        ("Moulds", f"{rates.tooling:,.0f} over {rates.parts}", price.tooling),
        ("Overhead", f"{100.0 * rates.overhead:.0f} %", price.overhead),
        ("Margin", f"{100.0 * rates.margin:.0f} %", price.margin),
        (f"Price, one of {rates.parts}", currency, price.total),
        ("Price of a single one", currency, sheet.one.total), ("Price, one of ten", currency, sheet.ten.total),
    ):  # fmt: skip
        rows.append((name, (name, amount, f"{money:,.2f}")))
    return rows


def swing_words(sheet: CostSheet) -> str:
    """How the price moves, the widest swing first."""
    return "; ".join(f"{own.what}: {own.low:,.0f} to {own.high:,.0f}" for own in sheet.swings) + "."


def mass_rows(rows: Sequence[MassRow], units: UnitSystem) -> Rows:
    made: Rows = []
    for i, own in enumerate(rows):
        mass, spread = (format_value(value, "small_mass", units, with_unit=True) for value in (own.mass, own.scatter))
        kind = KINDS[own.kind]
        what = own.what if own.what.startswith(kind) else f"{kind}: {own.what}"
        made.append((f"m{i}", (what, own.amount, mass, spread, SOURCE_MARKS[own.source])))
    return made


def calendar_rows(plan: JobPlan) -> Rows:
    """A row for each operation, in the order of their starts."""
    if plan.calendar is None:
        return []
    names = {slot.operation.name: slot.operation.what for slot in plan.calendar.plan.slots}
    rows: Rows = []
    for slot in plan.calendar.plan.slots:
        begins, worked, ends = (plan.calendar.moment(own) for own in (slot.start, slot.worked, slot.end))
        rows.append((
            slot.operation.name,
            (slot.operation.what, f"{begins:%a %d %b %H:%M}", f"{worked:%a %d %b %H:%M}", f"{ends:%a %d %b %H:%M}",
             f"{slot.operation.people} × {slot.operation.hours:.2f} h", names.get(slot.waits_for, slot.waits_for)),
        ))  # fmt: skip
    return rows


def calendar_words(plan: JobPlan) -> str:
    """Elapsed against hands-on time, and what a second mould would save."""
    calendar = plan.calendar
    if calendar is None:
        return "No calendar: see what is wrong."
    made = calendar.plan
    begin, end = calendar.moment(made.begin), calendar.moment(made.end)
    said = [
        f"{made.elapsed / 24.0:.1f} days from {begin:%a %d %b} to {end:%a %d %b}",
        f"{made.hands_on:.1f} h of hands", f"full strength {calendar.moment(calendar.full):%a %d %b}",
    ]  # fmt: skip
    saved = sorted(calendar.saved.items(), key=lambda own: -own[1])
    said += [f"a second {name} would save {hours:.0f} h" for name, hours in saved[:2]]
    if not saved:
        said.append("a second mould would save nothing")
    return "; ".join(said) + ". ● and an outline: any delay there delays the end."


def part_title(part: PartPlan) -> str:
    count = part.made.part.count
    return part.made.title + (f" × {count}" if count > 1 else "")
