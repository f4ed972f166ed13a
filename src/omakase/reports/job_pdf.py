"""A job on paper: ply books, cut list with drawings, resin card, calendar, cost sheet and weigh-in cards.

Large type and boxes to tick; each page says which job, revision and day it is of, and has a place for initials.
"""

from __future__ import annotations

import datetime
from collections.abc import Sequence

import numpy as np
from reportlab.lib.colors import HexColor, white
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import (
    Flowable,
    KeepTogether,
    PageBreak,
    Spacer,
    Table,
    TableStyle,
)

from omakase.core.build.pieces import shoelace
from omakase.core.progress import working_on
from omakase.evaluate.build import tables
from omakase.evaluate.build.book import DATUM, DUST, PROOF, RESIN, Book, Step
from omakase.evaluate.build.cutting import CutPiece, Roll
from omakase.evaluate.build.plan import JobPlan, PartPlan, mass_words, sums
from omakase.evaluate.build.weighing import STATE_NAMES, planned_thickness
from omakase.evaluate.build.working import Calendar
from omakase.evaluate.results.wording import CAUTION
from omakase.reports.page import LINE, QUIET, SHADE, register_fonts, text_style
from omakase.reports.paper import BODY, INK, SMALL, TITLE, WARN, grid, page_width, pages, shares, text
from omakase.units import format_value

STEP = text_style(12.5)
PAPER = HexColor("#eceae3")
CARD_TITLES = ("Which", "State", "Predicted", "Weighed", "Day", "Initials")
HATCHES = 7
TICK = 11.0


def job_pdf(plan: JobPlan, project_title: str, day: str) -> bytes:
    """The job as PDF bytes, A4 upright, or letter for inch-pound projects; ``day`` : printed on each page."""
    register_fonts()
    width = page_width(plan.units)
    story: list[Flowable] = []
    for section in (_overview, _books, _cut_list, _resin, _calendar, _cost, _weigh_in):
        working_on(section.__name__.strip("_").replace("_", " "))
        part = section(plan, width)
        if part:
            story += [*([PageBreak()] if story else []), *part]
    by = f", planned by {plan.job.who}" if plan.job.who else ""
    return pages(
        story, plan.units, f"{plan.job.name} · revision {plan.job.revision}", f"{project_title} · {day}{by}",
        project_title, "Initials: ____________   Date: ____________",
    )  # fmt: skip


# --- drawings -----------------------------------------------------------------------------------------------------


class TickBox(Flowable):  # type: ignore[misc]
    """A box to tick."""

    def wrap(self, *_room: float) -> tuple[float, float]:
        return TICK, TICK

    def draw(self) -> None:
        self.canv.setStrokeColor(INK)
        self.canv.rect(0.0, 0.0, TICK, TICK)


class PieceDrawing(Flowable):  # type: ignore[misc]
    """Pieces of a step as they are seen from above, with their warp and the arrow that angles start from."""

    def __init__(self, pieces: Sequence[CutPiece], seen: float, flip: bool, width: float, height: float) -> None:
        super().__init__()
        turn = np.array([1.0, -1.0 if flip else 1.0])
        self.outlines = [piece.net.outline * turn for piece in pieces]
        self.holes = [hole * turn for piece in pieces for hole in piece.net.holes]
        self.seen, self.size = seen, (width, height)

    def wrap(self, *_room: float) -> tuple[float, float]:
        return self.size

    def draw(self) -> None:
        every = np.vstack(self.outlines)
        low, span = every.min(axis=0), np.maximum(np.ptp(every, axis=0), 1e-9)
        factor = min(self.size[0] / span[0], (self.size[1] - 9.0) / span[1])
        shift = np.array([(self.size[0] - span[0] * factor) / 2.0, 9.0])
        for outline in self.outlines:
            points = (outline - low) * factor + shift
            _polygon(self.canv, points, PAPER)
            _hatch(self.canv, points, self.seen)
        for hole in self.holes:
            _polygon(self.canv, (hole - low) * factor + shift, white)
        self.canv.setStrokeColor(INK)
        self.canv.line(0.0, 3.0, 22.0, 3.0)
        self.canv.line(22.0, 3.0, 18.0, 5.0)
        self.canv.line(22.0, 3.0, 18.0, 1.0)


class RollDrawing(Flowable):  # type: ignore[misc]
    """A roll, or a sheet, with its pieces and their names."""

    def __init__(self, roll: Roll, sheet: int, width: float, most: float) -> None:
        super().__init__()
        self.roll, self.sheet = roll, sheet
        layout = roll.layout
        assert layout is not None
        self.factor = min(width / max(layout.length, 1e-9), most / layout.width)
        self.size = layout.length * self.factor, layout.width * self.factor

    def wrap(self, *_room: float) -> tuple[float, float]:
        return self.size[0], self.size[1] + 4.0

    def draw(self) -> None:
        canvas, layout = self.canv, self.roll.layout
        assert layout is not None
        canvas.setStrokeColor(LINE)
        canvas.rect(0.0, 0.0, *self.size)
        for placed in layout.placed:
            if placed.sheet != self.sheet:
                continue
            piece = self.roll.pieces[placed.index]
            points = placed.outline(piece.cut) * self.factor
            _polygon(canvas, points, PAPER)
            for hole in placed.holes(piece.cut):
                _polygon(canvas, hole * self.factor, white)
            if shoelace(points) > 7.0 * float(np.ptp(points, axis=0).max()):
                canvas.setFillColor(INK)
                canvas.setFont("Body", 6.5)
                canvas.drawCentredString(*(points.mean(axis=0) - np.array([0.0, 2.0])), piece.name)


class BarsDrawing(Flowable):  # type: ignore[misc]
    """The calendar as bars: hands on filled, waiting hatched, the chain that sets the end outlined."""

    ROW = 11.0

    def __init__(self, calendar: Calendar, width: float, first: int, last: int) -> None:
        super().__init__()
        self.calendar, self.width = calendar, width
        self.slots = calendar.plan.slots[first:last]

    def wrap(self, *_room: float) -> tuple[float, float]:
        return self.width, self.ROW * len(self.slots) + 16.0

    def draw(self) -> None:
        canvas, plan = self.canv, self.calendar.plan
        left, top = 0.34 * self.width, self.ROW * len(self.slots)
        first, last = 24.0 * np.floor(plan.begin / 24.0), 24.0 * np.ceil(plan.end / 24.0)
        per_hour = (self.width - left) / max(last - first, 24.0)
        days = int((last - first) / 24.0)
        every = max(1, int(np.ceil(30.0 / (24.0 * per_hour))))
        canvas.setFont("Body", 6.5)
        for day in range(days + 1):
            x = left + 24.0 * day * per_hour
            canvas.setStrokeColor(LINE)
            canvas.line(x, 0.0, x, top + 3.0)
            if day < days and day % every == 0:
                date = self.calendar.day + datetime.timedelta(days=day + int(first / 24.0))
                canvas.setFillColor(QUIET)
                canvas.drawString(x + 1.0, top + 5.0, f"{date:%a} {date.day}.{date.month}.")
        for row, slot in enumerate(self.slots):
            y = top - (row + 1) * self.ROW
            canvas.setFillColor(INK)
            canvas.setFont("Body-Bold" if slot.critical else "Body", 7.0)
            canvas.drawString(0.0, y + 3.0, slot.operation.what[:52])
            x = left + (slot.start - first) * per_hour
            ends = max((slot.end - slot.start) * per_hour, 1.0)
            canvas.setStrokeColor(INK)
            canvas.setLineWidth(1.2 if slot.critical else 0.3)
            canvas.setFillColor(SHADE)
            canvas.rect(x, y + 2.0, ends, self.ROW - 4.0, fill=1)
            canvas.setFillColor(INK)
            for low, high in self.calendar.shift.stretches(slot.start, slot.worked):
                canvas.rect(left + (low - first) * per_hour, y + 2.0, max((high - low) * per_hour, 0.6), self.ROW - 4.0,
                            stroke=0, fill=1)  # fmt: skip
            canvas.setLineWidth(0.5)


def _polygon(canvas: Canvas, points: np.ndarray, fill: object) -> None:
    path = canvas.beginPath()
    path.moveTo(*points[0])
    for own in points[1:]:
        path.lineTo(*own)
    path.close()
    canvas.setLineWidth(0.6)
    canvas.setStrokeColor(INK)
    canvas.setFillColor(fill)
    canvas.drawPath(path, fill=1)


def _hatch(canvas: Canvas, points: np.ndarray, angle: float) -> None:
    canvas.saveState()
    path = canvas.beginPath()
    path.moveTo(*points[0])
    for own in points[1:]:
        path.lineTo(*own)
    path.close()
    canvas.clipPath(path, stroke=0)
    c, s = np.cos(np.radians(angle)), np.sin(np.radians(angle))
    along, across = points @ np.array([c, s]), points @ np.array([-s, c])
    canvas.setLineWidth(0.4)
    for own in np.linspace(across.min(), across.max(), HATCHES + 2)[1:-1]:
        a, b = ((t * c - own * s, t * s + own * c) for t in (along.min(), along.max()))
        canvas.line(*a, *b)
    canvas.restoreState()


# --- sections -----------------------------------------------------------------------------------------------------


def _overview(plan: JobPlan, width: float) -> list[Flowable]:
    rows = []
    for part in plan.parts:
        made = part.made
        rows.append((
            tables.part_title(part), f"{made.brief.name}: {made.candidate.name}", made.process.name,
            mass_words(part, "painted", plan.units), f"{part.hours.total / 3600.0:.1f} h",
        ))  # fmt: skip
    for work in plan.job.works:
        rows.append((work.name, "", "work", "", f"{work.people} × {work.hours / 3600.0:.1f} h"))
    story: list[Flowable] = [
        text(plan.job.name, TITLE), text(sums(plan)), Spacer(0.0, 8.0),
        grid(("Part or work", "Made of", "Process", "Mass of one", "Hands"), rows, shares(width, 26, 34, 20, 18, 12)),
        Spacer(0.0, 8.0),
    ]  # fmt: skip
    for words in (*(own for _, own in plan.problems), *plan.notes):
        story.append(text(words, WARN))
    for words in (DUST, RESIN, PROOF, CAUTION):
        story += [Spacer(0.0, 3.0), text(words, SMALL)]
    return story


def _books(plan: JobPlan, width: float) -> list[Flowable]:
    story: list[Flowable] = []
    for own in plan.books:
        story += [PageBreak()] if story else []
        story += _book(plan, own, width)
    if plan.works_steps:
        story += [PageBreak(), text("Works on the unit", TITLE)]
        story += [_step(step, None, width) for step in plan.works_steps]
    return story


def _book(plan: JobPlan, own: Book, width: float) -> list[Flowable]:
    made = own.part
    times = made.part.count * plan.job.units
    story: list[Flowable] = [
        text(f"Ply book: {made.title}" + (f", {times} times" if times > 1 else ""), TITLE),
        text(f"{made.brief.name}: {made.candidate.name}, {made.process.name}. {DATUM}", SMALL), Spacer(0.0, 4.0),
    ]  # fmt: skip
    pieces = {piece.name: piece for piece in plan.cutting.pieces if piece.part == made.index}
    for step in own.steps:
        drawing = None
        shown = [pieces[name] for name in step.pieces if name in pieces]
        if shown and step.seen is not None:
            drawing = PieceDrawing(shown, step.seen, made.part.first == "face_a", 88.0, 52.0)
        story.append(_step(step, drawing, width))
    return story


def _step(step: Step, drawing: Flowable | None, width: float) -> Flowable:
    texts: list[Flowable] = [text(f"{step.number}.  {step.title}", STEP)]
    texts += [text(line) for line in step.lines]
    if step.warning:
        texts.append(text(step.warning, WARN))
    table = Table([[TickBox(), texts, drawing or ""]], colWidths=[20.0, width - 116.0, 96.0])
    table.setStyle(TableStyle([
        ("VALIGN", (0, 0), (-1, -1), "TOP"), ("LINEBELOW", (0, 0), (-1, -1), 0.3, LINE),
        ("TOPPADDING", (0, 0), (-1, -1), 4.0), ("BOTTOMPADDING", (0, 0), (-1, -1), 4.0),
        ("LEFTPADDING", (0, 0), (-1, -1), 0.0), ("RIGHTPADDING", (0, 0), (-1, -1), 4.0),
    ]))  # fmt: skip
    return KeepTogether(table)


def _cut_list(plan: JobPlan, width: float) -> list[Flowable]:
    units = plan.units
    if not plan.cutting.rolls:
        return []
    rows = [texts for _, texts in tables.roll_rows(plan.cutting.rolls, units)]
    story: list[Flowable] = [
        text("Cut list", TITLE), text(DUST, WARN), Spacer(0.0, 4.0),
        grid(tables.ROLL_TITLES, rows, shares(width, 22, 30, 9, 12, 13, 11, 14), (2, 3, 4, 5, 6)), Spacer(0.0, 8.0),
    ]  # fmt: skip
    for roll in plan.cutting.rolls:
        title = tables.roll_rows([roll], units)[0][0]
        block: list[Flowable] = [text(f"{title}: {tables.roll_words(roll, units)}")]
        for sheet in range(max(roll.layout.sheets, 1) if roll.layout is not None else 0):
            block.append(RollDrawing(roll, sheet, width, 150.0))
        story += [KeepTogether(block), Spacer(0.0, 3.0)]
        lines = [("", *texts) for _, texts in tables.piece_rows(roll, units)]
        story += [
            grid(("cut", *tables.PIECE_TITLES), lines, shares(width, 8, 20, 12, 36, 16), (2, 4)), Spacer(0.0, 10.0)
        ]  # fmt: skip
    return story


def _resin(plan: JobPlan, width: float) -> list[Flowable]:
    if not plan.cards:
        return []
    units = plan.units
    story: list[Flowable] = [text("Resin card", TITLE), text(RESIN, WARN), Spacer(0.0, 4.0)]
    for own in plan.resins:
        story.append(text(tables.total_words(own, units), WARN if own.missing else BODY))
    for card in plan.cards:
        story += [Spacer(0.0, 10.0), text(f"{card.part.title}: {card.resin.name}", STEP)]
        story.append(text(tables.card_words(card, units)))
        rows = [texts for _, texts in tables.demand_rows(card, units)]
        batches = []
        for time in range(card.times):
            for i, batch in enumerate(card.plan.batches):
                which = f"{time + 1}.{i + 1}" if card.times > 1 else f"{i + 1}"
                resin, hardener = (
                    format_value(v, "small_mass", units, with_unit=True) for v in (batch.resin, batch.hardener)
                )  # fmt: skip
                batches.append(("☐", which, resin, hardener, f"{batch.seconds / 60.0:.0f} min", "", ""))
        side = Table(
            [[
                grid(tables.DEMAND_TITLES, rows, shares(0.36 * width, 26, 12), (1,)),
                grid(("", "Batch", "Resin", "Hardener", "Within", "Mixed at", "Left"), batches,
                      shares(0.6 * width, 5, 9, 14, 14, 12, 18, 14), (2, 3, 4)),
            ]],
            colWidths=[0.39 * width, 0.61 * width],
        )  # fmt: skip
        side.setStyle(TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 0.0)]))
        story.append(side)
    return story


def _calendar(plan: JobPlan, width: float) -> list[Flowable]:
    if plan.calendar is None:
        return []
    story: list[Flowable] = [text("Calendar", TITLE), text(tables.calendar_words(plan)), Spacer(0.0, 6.0)]
    count = len(plan.calendar.plan.slots)
    for first in range(0, count, 40):
        story += [BarsDrawing(plan.calendar, width, first, min(first + 40, count)), Spacer(0.0, 6.0)]
    rows = [texts for _, texts in tables.calendar_rows(plan)]
    story.append(grid(tables.CALENDAR_TITLES, rows, shares(width, 30, 20, 20, 20, 15, 24)))
    return story


def _cost(plan: JobPlan, width: float) -> list[Flowable]:
    if plan.cost is None:
        return []
    rows = [texts for _, texts in tables.cost_rows(plan.cost, "")]
    return [
        text("Cost sheet, one unit", TITLE), grid(tables.COST_TITLES, rows, shares(width, 50, 35, 15), (2,)),
        Spacer(0.0, 6.0), text(f"The price moves with {tables.swing_words(plan.cost)}"),
    ]  # fmt: skip


def _weigh_in(plan: JobPlan, width: float) -> list[Flowable]:
    story: list[Flowable] = []
    for part in plan.parts:
        story += [PageBreak()] if story else []
        story += _weigh_card(plan, part, width)
    return story


def _weigh_card(plan: JobPlan, part: PartPlan, width: float) -> list[Flowable]:
    units = plan.units
    copies = part.made.part.count * plan.job.units
    wanted: list[str] = ["demoulded", "trimmed"]
    kinds = {row.kind for row in part.rows}
    if kinds & {"bond", "insert", "edge", "hardware"}:
        wanted.append("assembled")
    wanted += [state for state, kind in (("faired", "filler"), ("painted", "paint")) if kind in kinds]
    rows = [
        (f"no. {k + 1}", STATE_NAMES[state], mass_words(part, state, units), "", "", "")  # type: ignore[arg-type]
        for k in range(copies) for state in wanted
    ]  # fmt: skip
    thickness = format_value(planned_thickness(part), "length", units, with_unit=True)
    one_wall = len({layer.wall for layer in part.made.candidate.layers}) == 1
    planned = f"Thickness through all layers, planned {thickness}. " if one_wall else ""
    masses = [texts[:4] for _, texts in tables.mass_rows(part.rows, units)]
    return [
        text(f"Weigh-in card: {part.made.title}", TITLE),
        grid(CARD_TITLES, rows, shares(width, 12, 20, 26, 26, 18, 16)),
        Spacer(0.0, 8.0),
        text(f"{planned}Measured at five places: ______  ______  ______  ______  ______"),
        Spacer(0.0, 8.0),
        grid(tables.MASS_TITLES[:4], masses, shares(width, 40, 34, 14, 12), (2, 3)),
    ]  # fmt: skip
