"""The design record: a decision as someone else checks it, with every check worked out by hand.

Brief, quantities of the vehicle, materials with the source of each value, layups, loads, checks with formulas and the
numbers put in, details, findings, tests, the alternatives and why they lost, and a place for signatures.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from pathlib import Path
from xml.sax.saxutils import escape

import msgspec
from reportlab.platypus import Flowable, KeepTogether, Paragraph, Spacer, Table, TableStyle

from omakase.core.checks.registry import all_checks
from omakase.core.checks.result import CheckResult
from omakase.core.checks.working import Step, Term
from omakase.core.errors import OmakaseError
from omakase.core.materials.material import Material
from omakase.core.materials.properties import PROPERTIES
from omakase.core.members.panel import PanelResponse
from omakase.core.progress import working_on
from omakase.evaluate.details.registry import detail_drawing, detail_kind
from omakase.evaluate.members.sentence import plain
from omakase.evaluate.record.decided import Subject, plan_of, quantities_used, quantity_names, sheet_of, subject
from omakase.evaluate.record.workings import worked_out
from omakase.evaluate.results.diagrams import Curve, curves, has_span
from omakase.evaluate.results.lineup import LineUp
from omakase.evaluate.results.measured import form_sentence
from omakase.evaluate.results.wording import (
    CAUTION,
    SOURCE_MARKS,
    SOURCE_WORDS,
    brief_sentences,
    figure,
    finding_words,
    governing_text,
    place_text,
    quantity,
    reserve_text,
    verdict,
)
from omakase.evaluate.second.comparing import Line
from omakase.evaluate.vehicle.words import value_text
from omakase.project.disk import write_atomically
from omakase.project.edits import of_wall
from omakase.project.library import materials_of
from omakase.project.model import Project
from omakase.project.quickline import write_quick_line
from omakase.project.spans import Zone
from omakase.reports.drawings import Diagram, MemberDrawing, PanelField
from omakase.reports.page import line_up_table, register_fonts, text_style
from omakase.reports.paper import BODY, HEADING, SMALL, TITLE, WARN, grid, in_pairs, page_width, pages, shares, text
from omakase.reports.second import HEAD, line_texts
from omakase.reports.section_drawing import SectionDrawing
from omakase.units import UnitSystem, format_value

FORMULA = text_style(9.0, leftIndent=10.0)
GIVEN = text_style(7.8, leftIndent=10.0)
SECTION = 60.0  # points, height of a drawn section
FOLLOWED = (
    "Put each number in with its unit, in N, m and Pa; strains in µε are millionths; sin and cos take degrees; ^ is a "
    "power. Strains and forces are those of the solution at the place named, at limit load."
)
SOURCE_LEGEND = "T tested here, D datasheet, E estimated by a rule, A assumed."
SIGNATURES = ("Designed", "Checked", "Approved")


class _Record(msgspec.Struct, frozen=True, eq=False):
    project: Project
    line_up: LineUp
    subject: Subject
    width: float
    second: tuple[Line, ...] = ()

    @property
    def units(self) -> UnitSystem:
        return self.project.units


def record_pdf(
    project: Project, line_up: LineUp, own: Subject, day: str, second: tuple[Line, ...] = ()
) -> bytes:  # fmt: skip
    """The record as PDF bytes, A4 upright, or letter for inch-pound projects; ``day`` : printed on each page.

    ``second`` : what a finite-element solver said, kept in a section of its own.
    """
    register_fonts()
    record = _Record(project, line_up, own, page_width(project.units), second)
    story: list[Flowable] = []
    parts = []
    for title, section in SECTIONS:
        working_on(title.lower())
        part = list(section(record))
        if part:
            parts.append((title, part))
    for number, (title, part) in enumerate(parts, 1):
        story += [text(f"{number}  {title}", HEADING), *part]
    name = own.result.candidate.name
    revision = f" · R{own.decision.revision}" if own.decision is not None else " · not decided"
    return pages(
        [*_title(record), *story], project.units, f"Design record: {line_up.brief.name}{revision}",
        f"{project.title} · {name} · printed {day}", project.title, "Initials: ____________",
    )  # fmt: skip


def _title(record: _Record) -> Iterator[Flowable]:
    brief, own, result = record.line_up.brief, record.subject, record.subject.result
    yield text(brief.name, TITLE)
    decision = own.decision
    yield text(f"{result.candidate.name}: {verdict(result)}; {quantity(result.mass, 'mass', record.units)}.")
    if decision is not None:
        yield text(f"Decided as revision {decision.revision} on {decision.on} by {decision.who}: {decision.why}")
    else:
        yield text("No decision has been made for this candidate; this is a record of its state.", WARN)
    if own.changed is not None and (own.changed.changes or own.changed.gone):
        yield text("Changed since the decision: " + (own.changed.gone or "; ".join(own.changed.changes)), WARN)
    if result.stale or not result.ok:
        yield text("The results are not those of the last edit.", WARN)
    yield Spacer(0.0, 8.0)
    rows = [(name, "", "", "") for name in SIGNATURES]
    table = grid(("", "Name", "Date", "Signature"), rows, shares(record.width, 14, 34, 18, 34))
    table.setStyle(TableStyle([("TOPPADDING", (0, 1), (-1, -1), 9.0)]))
    yield table
    yield Spacer(0.0, 6.0)
    yield text(CAUTION, WARN)


def _brief(record: _Record) -> Iterator[Flowable]:
    for sentence in brief_sentences(record.line_up.brief, record.units):
        yield text(sentence)


def _vehicle(record: _Record) -> Iterator[Flowable]:
    brief, units = record.line_up.brief, record.units
    used = quantities_used(brief)
    if not used:
        return
    rows = [(what, formula, quantity(value, number.dimension, units)) for what, formula, number, value in used]
    yield grid(("In the brief", "Formula", "Value"), rows, shares(record.width, 36, 46, 18), (2,))
    sheet, names = sheet_of(record.project), quantity_names(record.project, brief)
    own = [entry for entry in record.project.quantities if entry.name in names]
    yield Spacer(0.0, 6.0)
    yield grid(
        ("Quantity", "As written", "Value", "Note"),
        [(q.name, q.text, value_text(q, sheet.values.get(q.name), units), q.note) for q in own],
        shares(record.width, 24, 36, 16, 24), (2,),
    )  # fmt: skip


def _materials(record: _Record) -> Iterator[Flowable]:
    for material in record.subject.materials:
        rows = []
        for key, own in material.properties.items():
            spec = PROPERTIES[key]
            value = format_value(own.value, spec.dimension, record.units, with_unit=True)
            rows.append((spec.symbol, spec.meaning, value, SOURCE_MARKS[own.source], own.note))
        yield text(f"{material.id}: {material.name}", text_style(9.5, spaceBefore=5.0, keepWithNext=1))
        yield grid(("", "Property", "Value", "", "From"), rows, shares(record.width, 6, 35, 15, 3, 41), (2,))
        yield from _tested(material)
    yield text(SOURCE_LEGEND, SMALL)


def _tested(material: Material) -> Iterator[Flowable]:
    for own in material.knock_downs:
        yield text(f"{own.check}: × {own.factor:.3f}, from the tests {own.name}", SMALL)
    for words in material.conditions:
        yield text(words, SMALL)
    if material.note:
        yield text(material.note, SMALL)


def _layup(record: _Record) -> Iterator[Flowable]:
    candidate, result = record.subject.result.candidate, record.subject.result
    if candidate.measured is not None:
        yield text("Measured; its layup is not known.")
        return
    words = plain(form_sentence(record.line_up.brief, candidate, materials_of(record.project)), candidate, record.units)
    if words.strip("."):
        yield text(words)
    for zone in candidate.zones:
        yield text(f"Zone {zone.name or zone.id}: {_stretch(zone, record.units)}", SMALL)
    walls = list(dict.fromkeys(layer.wall for layer in candidate.layers))
    names = {zone.id: zone.name for zone in candidate.zones}
    for wall in walls:
        line = write_quick_line(of_wall(candidate, wall).layers, record.units, zones=names)
        stack = result.wall_stack(wall)
        if stack is None:
            yield text(f"{wall}: {line}")
            continue
        scale = min(2000.0, (SECTION - 20.0) / stack.thickness)
        caption = f"{quantity(stack.thickness, 'length', record.units)} with all its layers, face A above"
        yield KeepTogether([
            text(f"{wall}: {line}" if wall else line), text(caption, SMALL),
            SectionDrawing(stack, record.width / 2.0, SECTION, scale), Spacer(0.0, 4.0),
        ])  # fmt: skip


def _stretch(zone: Zone, units: UnitSystem) -> str:
    along = f"x {quantity(zone.low, 'length', units)} to {quantity(zone.high, 'length', units)}"
    if zone.near is None or zone.far is None:
        return along
    return f"{along}, y {quantity(zone.near, 'length', units)} to {quantity(zone.far, 'length', units)}"


def _loads(record: _Record) -> Iterator[Flowable]:
    result, brief = record.subject.result, record.line_up.brief
    response = result.response
    if response is None:
        return
    if isinstance(response, PanelResponse):
        half = record.width / 2.0
        fields = [PanelField(result, index, record.units, half - 8.0, 130.0) for index in range(len(response.cases))]
        yield in_pairs(fields, record.width)
        return
    for index, case in enumerate(response.fields[0].cases if response.fields else ()):
        which = next((n for n, own in enumerate(brief.load_cases) if own.id == case.case.key), index)
        drawing = plan_of(record.project, brief, which)
        part: list[Flowable] = []
        if drawing is not None:
            part += [text(case.case.name), MemberDrawing(drawing, record.width, 80.0)]
        if has_span(result):
            part.append(_diagrams(record, curves(brief, result, index)))
        yield KeepTogether(part)
        yield Spacer(0.0, 6.0)


def _diagrams(record: _Record, drawn: tuple[Curve, ...]) -> Table:
    half = record.width / 2.0 - 8.0
    return in_pairs([Diagram(own, record.units, half) for own in drawn], record.width)


def _checks(record: _Record) -> Iterator[Flowable]:
    yield text(FOLLOWED, SMALL)
    registry = all_checks()
    for check in record.subject.checks:
        if math.isfinite(check.reserve_factor):
            yield KeepTogether(list(_check(record, check, registry[check.check].basis, registry[check.check].validity)))


def _check(record: _Record, check: CheckResult, basis: str, validity: str) -> Iterator[Flowable]:
    units, result = record.units, record.subject.result
    mark = "✓" if check.passes else "✗"
    case = f", {check.load_case}" if check.load_case else ""
    head = f"{mark} {check.full_title}{case}: reserve factor {reserve_text(check.reserve_factor)}"
    yield Paragraph(f"<b>{escape(head)}</b>", text_style(9.5, spaceBefore=7.0))
    where = place_text(check, result, units)
    told = (where, f"Method: {check.method}", f"Rests on values {SOURCE_WORDS[check.source]}")
    yield text(". ".join(part for part in told if part), SMALL)
    for step in worked_out(result, check):
        if step.terms:
            yield text("; ".join(term_text(term, units) for term in step.terms), GIVEN)
        yield text(step_text(step, units), FORMULA)
    yield text(f"Basis: {basis}. Range: {validity}", SMALL)
    for remark in check.remarks:
        yield text(f"Note: {remark}", SMALL)


def term_text(term: Term, units: UnitSystem) -> str:
    """'t_c = 12 mm (core thickness)'."""
    return f"{term.symbol} = {figure(term.value, term.dimension, units)} ({term.meaning})"


def step_text(step: Step, units: UnitSystem) -> str:
    """'σ = j * N / t_f = 147.8 MPa (compression at ultimate load)'."""
    return f"{step.symbol} = {step.formula} = {figure(step.value, step.dimension, units)} ({step.meaning})"


def _others(record: _Record) -> Iterator[Flowable]:
    """Checks that nothing acts on, and load cases that are not the worst: the numbers alone."""
    worked = {check.key for check in record.subject.checks if math.isfinite(check.reserve_factor)}
    rows = [
        (check.full_title, check.load_case, place_text(check, record.subject.result, record.units),
         reserve_text(check.reserve_factor))
        for check in record.subject.result.checks if check.key not in worked
    ]  # fmt: skip
    if rows:
        yield grid(("Check", "Load case", "Where", "RF"), rows, shares(record.width, 34, 24, 32, 10), (3,))


def _details(record: _Record) -> Iterator[Flowable]:
    brief, candidate = record.line_up.brief, record.subject.result.candidate
    materials = materials_of(record.project)
    for index, detail in enumerate(candidate.details):
        sentence = detail_kind(detail).sentence(brief, candidate, index, materials)
        yield text(plain(sentence, candidate, record.units))
    for own in record.subject.result.details:
        drawing = detail_drawing(own)
        if drawing is not None:
            yield KeepTogether([text(own.name, SMALL), MemberDrawing(drawing, record.width / 2.0, 90.0)])


def _findings(record: _Record) -> Iterator[Flowable]:
    reasons = record.subject.result.candidate.reasons
    for finding in record.subject.result.findings:
        words, fix = finding_words(finding, record.units)
        accepted = reasons.get(finding.rule)
        yield text(f"{words}. " + (f"Accepted: {accepted}" if accepted else f"Open: {fix}"), BODY if accepted else WARN)
        yield text(finding.reason, SMALL)


def _tests(record: _Record) -> Iterator[Flowable]:
    result, names = record.subject.result, set(record.subject.result.tests)
    for own in record.project.acceptances:
        if own.name in names:
            yield text(f"{own.name}, taken on {own.on}: {own.text or own.key}")
    for series in record.project.series:
        prediction = series.prediction
        if series.brief == record.line_up.brief.id and series.candidate == result.candidate.id and prediction:
            yield text(f"{series.name}: predicted on {prediction.on}, {len(series.specimens)} specimens")


def _second(record: _Record) -> Iterator[Flowable]:
    if record.second:
        rows = [line_texts(own, record.units) for own in record.second]
        yield grid(HEAD, rows, shares(record.width, 34, 16, 16, 12, 12, 10), (1, 2, 3, 4))
        yield text("A general finite-element solver on two meshes: its numbers are those of the finer one.", SMALL)


def _alternatives(record: _Record) -> Iterator[Flowable]:
    line_up, own = record.line_up, record.subject.result
    rows = []
    for result in line_up.results:
        if result.candidate.id == own.candidate.id:
            continue
        why = verdict(result)
        if result.ok and result.passes:
            more = result.mass - own.mass
            why += f"; {quantity(abs(more), 'mass', record.units)} {'heavier' if more >= 0.0 else 'lighter'}"
        elif result.ok:
            why += f" ({governing_text(result)[0]})"
        rows.append((result.candidate.name, why, result.candidate.note))
    if rows:
        yield grid(("Alternative", "Compared with this one", "Note"), rows, shares(record.width, 26, 46, 28))
    yield Spacer(0.0, 6.0)
    yield line_up_table(line_up, record.units, record.width)


Section = Callable[[_Record], Iterator[Flowable]]
SECTIONS: tuple[tuple[str, Section], ...] = (
    ("Brief", _brief),
    ("Quantities of the vehicle", _vehicle),
    ("Materials", _materials),
    ("Layup", _layup),
    ("Loads and what they do", _loads),
    ("Checks worked out", _checks),
    ("All other load cases", _others),
    ("Details", _details),
    ("Findings", _findings),
    ("Tests", _tests),
    ("Second opinion", _second),
    ("Alternatives", _alternatives),
)


def write_record(
    target: Path, project: Project, line_up: LineUp, candidate: str, day: str, second: tuple[Line, ...] = ()
) -> None:  # fmt: skip
    """Writes the record of a candidate, or of the one decided on.  Raises OmakaseError; a file is then as it was."""
    if target.suffix.lower() != ".pdf":
        raise OmakaseError(f"'{target.name}' should end in .pdf")
    found = subject(project, line_up, materials_of(project), candidate)
    if found is None:
        raise OmakaseError("no candidate of the brief can be computed")
    write_atomically(target, record_pdf(project, line_up, found, day, second))
