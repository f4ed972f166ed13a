"""The decision on one page: the brief's sentences, the sections to one scale, the line-up, and the caution."""

from __future__ import annotations

import io
from functools import lru_cache
from xml.sax.saxutils import escape

from reportlab.lib.colors import HexColor
from reportlab.lib.enums import TA_RIGHT
from reportlab.lib.pagesizes import A4, landscape, letter
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Frame, KeepInFrame, Paragraph, Spacer, Table, TableStyle

from omakase.evaluate.members.outline import Outline, outline
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.results.diagrams import most_bent
from omakase.evaluate.results.lineup import Cell, LineUp, Row
from omakase.evaluate.results.wording import (
    CAUTION,
    SOURCE_MARKS,
    brief_sentences,
    details_text,
    distance_text,
    findings_text,
    governing_text,
    layup_text,
    limit_text,
    percent_text,
    value_text,
    verdict,
)
from omakase.project.model import Project
from omakase.reports.section_drawing import SectionDrawing, WallsDrawing
from omakase.shipped import shipped
from omakase.units import UNIT_SYSTEM_NAMES, UnitSystem

MARGIN = 12.0 * mm
LABEL_WIDTH = 88.0
SECTION_HEIGHT = 104.0
MARKS = {"meets": "✓ ", "fails": "✗ ", "fact": "", "none": ""}
LEGEND = (
    "✓ meets, ✗ fails its limit. T tested here, D datasheet, E estimated, A assumed: the least trusted value that a "
    "number rests on. ≈ is within scatter of the best."
)
SIGNED = "Decided for: ____________________    Date: ______________    Checked by: ____________________".replace(
    " ", "\u00a0"
)
QUIET, LINE, ALARM, SHADE = HexColor("#5a5f63"), HexColor("#b5b1a6"), HexColor("#a02c1b"), HexColor("#f3f1ea")


@lru_cache(maxsize=1)
def register_fonts() -> None:
    folder = shipped("data/fonts")
    for name, file in (("Body", "DejaVuSansCondensed.ttf"), ("Body-Bold", "DejaVuSansCondensed-Bold.ttf")):
        pdfmetrics.registerFont(TTFont(name, io.BytesIO(folder.joinpath(file).read_bytes())))
    pdfmetrics.registerFontFamily("Body", normal="Body", bold="Body-Bold", italic="Body", boldItalic="Body-Bold")


def text_style(size: float, **more: object) -> ParagraphStyle:
    return ParagraphStyle("text", fontName="Body", fontSize=size, leading=size * 1.22, **more)


BODY, SMALL, TITLE = text_style(8.0), text_style(6.6, textColor=QUIET), text_style(14.0)
NUMBER = text_style(7.6, alignment=TA_RIGHT)


def line_up_pdf(project: Project, lineup: LineUp) -> bytes:
    """The page as PDF bytes: A4 across, or letter for inch-pound projects; shrunk as a whole if it would not fit."""
    register_fonts()
    size = landscape(letter if project.units == "inch_pound" else A4)
    width, height = size[0] - 2.0 * MARGIN, size[1] - 2.0 * MARGIN
    brief = lineup.brief
    sentences = [Paragraph(escape(text), BODY) for text in brief_sentences(brief, project.units)]
    half = (len(sentences) + 1) // 2
    columns = Table([[sentences[:half], sentences[half:]]], colWidths=[width / 2.0] * 2)
    columns.setStyle(TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 0)]))
    story = [
        Paragraph(f"<b>{escape(brief.name)}</b>", TITLE),
        Paragraph(escape(f"{project.title} · {UNIT_SYSTEM_NAMES[project.units]}"), SMALL),
        Spacer(0, 6),
        columns,
        Spacer(0, 6),
        line_up_table(lineup, project.units, width),
        Spacer(0, 4),
        Paragraph(escape(LEGEND), SMALL),
        Paragraph(escape(CAUTION), SMALL),
        Spacer(0, 16),
        Paragraph(SIGNED, BODY),
    ]
    data = io.BytesIO()
    canvas = Canvas(data, pagesize=size, invariant=1)
    canvas.setTitle(brief.name)
    canvas.setSubject("Line-up of candidates")
    frame = Frame(MARGIN, MARGIN, width, height, leftPadding=0, rightPadding=0, topPadding=0, bottomPadding=0)
    frame.addFromList([KeepInFrame(width, height, story, mode="shrink")], canvas)
    canvas.showPage()
    canvas.save()
    return data.getvalue()


def _outline(result: CandidateResult) -> Outline | None:
    """The section of several walls where it is bent most; None where one stack is drawn."""
    if result.response is None or result.stack is None:
        return None
    drawn = outline(result.response, result.stack, most_bent(result))
    return drawn if drawn.walls else None


def line_up_table(lineup: LineUp, units: UnitSystem, width: float) -> Table:
    results = lineup.results
    column = min(150.0, (width - LABEL_WIDTH) / max(len(results), 1))
    outlines = [_outline(result) for result in results]
    walls = [drawn for drawn in outlines if drawn is not None and drawn.walls]
    thickest = max(
        [r.stack.thickness for r, drawn in zip(results, outlines, strict=True) if r.stack is not None and drawn is None]
        + [drawn.height for drawn in walls], default=0.0,
    )  # fmt: skip
    scale = (SECTION_HEIGHT - 20.0) / thickest if thickest else 0.0
    widest = max((drawn.frame[2] - drawn.frame[0] for drawn in walls), default=0.0)
    scale = min(scale, (column - 14.0) / widest) if widest else scale
    heads: list[object] = [Paragraph("Sections to one scale", SMALL)]
    drawings: list[object] = [""]
    for result, drawn in zip(results, outlines, strict=True):
        baseline = "baseline, " if result.candidate.id == lineup.brief.baseline else ""
        heads.append(
            [
                Paragraph(f"<b>{escape(result.candidate.name)}</b>", BODY),
                Paragraph(escape(layup_text(result, units, materials=True)), SMALL),
                Paragraph(escape(baseline + verdict(result)), SMALL),
            ]
        )
        drawings.append(
            SectionDrawing(result.stack, column - 10.0, SECTION_HEIGHT, scale) if drawn is None
            else WallsDrawing(drawn, column - 10.0, SECTION_HEIGHT, scale)
        )  # fmt: skip
    cells: list[list[object]] = [heads, drawings]
    for row in lineup.rows:
        label = [Paragraph(f"<b>{escape(row.title)}</b>", BODY), Paragraph(escape(limit_text(row, units)), SMALL)]
        cells.append([label, *(_cell(row, cell, units) for cell in row.cells)])
    governing: list[object] = [Paragraph("Governs", BODY)]
    for result in results:
        check, place = governing_text(result) if result.ok else (result.error, "")
        governing.append([Paragraph(escape(check), text_style(7.0)), Paragraph(escape(place), SMALL)])
    cells.append(governing)
    if any(result.findings for result in results):
        findings = [[Paragraph(escape(text), SMALL) for text in findings_text(result, units)] for result in results]
        cells.append([Paragraph("Findings", BODY), *findings])
    if any(result.details for result in results):
        details = [[Paragraph(escape(text), SMALL) for text in details_text(result)] for result in results]
        cells.append([Paragraph("Details", BODY), *details])
    if any(result.candidate.note for result in results):
        notes = [Paragraph(escape(result.candidate.note), SMALL) for result in results]
        cells.append([Paragraph("Note", BODY), *notes])
    table = Table(cells, colWidths=[LABEL_WIDTH] + [column] * len(results), hAlign="LEFT")
    table.setStyle(
        TableStyle(
            [
                ("VALIGN", (0, 0), (-1, 0), "TOP"),
                ("VALIGN", (0, 1), (-1, 1), "BOTTOM"),
                ("VALIGN", (0, 2), (-1, -1), "TOP"),
                ("LEFTPADDING", (0, 0), (-1, -1), 4),
                ("RIGHTPADDING", (0, 0), (-1, -1), 4),
                ("TOPPADDING", (0, 0), (-1, -1), 2),
                ("BOTTOMPADDING", (0, 0), (-1, -1), 2),
                ("LINEABOVE", (0, 2), (-1, -1), 0.4, LINE),
                ("LINEBEFORE", (1, 0), (-1, -1), 0.4, LINE),
                ("ROWBACKGROUNDS", (0, 2), (-1, -2), [SHADE, None]),
            ]
        )
    )
    return table


def _cell(row: Row, cell: Cell, units: UnitSystem) -> object:
    if cell.value is None:
        return ""
    text = escape(MARKS[cell.status] + value_text(row, cell, units))
    if cell.status == "fails":
        text = f'<b><font color="{ALARM.hexval().replace("0x", "#")}">{text}</font></b>'
    tie = "≈ " if cell.tie else ""
    difference = percent_text(cell.difference) if cell.difference is not None else ""
    lower = "  ".join(part for part in (tie + distance_text(row, cell), difference) if part.strip())
    return [
        Paragraph(f"{text} <font size=6>{SOURCE_MARKS[cell.source]}</font>", NUMBER),
        Paragraph(escape(lower), text_style(6.6, textColor=QUIET, alignment=TA_RIGHT)),
    ]
