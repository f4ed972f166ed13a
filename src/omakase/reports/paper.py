"""Pages of documents of several pages: the head with what it is of, "page of pages", tables and texts."""

from __future__ import annotations

import io
from collections.abc import Callable, Sequence
from xml.sax.saxutils import escape

from reportlab.lib.colors import HexColor
from reportlab.lib.enums import TA_RIGHT
from reportlab.lib.pagesizes import A4, letter
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import BaseDocTemplate, Flowable, Frame, PageTemplate, Paragraph, Table, TableStyle

from omakase.core.progress import working_on
from omakase.reports.page import ALARM, LINE, QUIET, register_fonts, text_style
from omakase.units import UnitSystem

MARGIN = 14.0 * mm
HEADER = 13.0 * mm
TITLE, BODY = text_style(17.0, spaceAfter=6.0), text_style(9.5)
HEADING = text_style(12.5, spaceBefore=10.0, spaceAfter=4.0, keepWithNext=1)
SMALL, WARN = text_style(7.8, textColor=QUIET), text_style(8.8, textColor=ALARM)
CELL, NUMBER = text_style(8.4), text_style(8.4, alignment=TA_RIGHT)
NUMBER_HEAD = text_style(7.8, textColor=QUIET, alignment=TA_RIGHT)
INK = HexColor("#22262b")


def page_width(units: UnitSystem) -> float:
    """Room between the margins in points: of A4, or of letter for inch-pound."""
    return float((letter if units == "inch_pound" else A4)[0]) - 2.0 * MARGIN


def pages(
    story: Sequence[Flowable], units: UnitSystem, title: str, about: str, author: str, right: str = ""
) -> bytes:  # fmt: skip
    """A document as PDF bytes, A4 upright, or letter for inch-pound.

    ``title`` and ``about`` stand at the head of each page, ``right`` beside them.
    """
    register_fonts()
    size = letter if units == "inch_pound" else A4
    stream = io.BytesIO()
    document = BaseDocTemplate(
        stream, pagesize=size, title=title, author=author, leftMargin=MARGIN, rightMargin=MARGIN,
        topMargin=MARGIN + HEADER, bottomMargin=MARGIN,
    )  # fmt: skip
    frame = Frame(
        MARGIN, MARGIN, size[0] - 2.0 * MARGIN, size[1] - 2.0 * MARGIN - HEADER, 0.0, 0.0, 0.0, 0.0, id="page"
    )  # fmt: skip
    document.addPageTemplates(PageTemplate("page", frame, onPage=_head(title, about, right)))
    document.build(list(story), canvasmaker=_Numbered)
    return stream.getvalue()


def _head(title: str, about: str, right: str) -> Callable[[Canvas, BaseDocTemplate], None]:
    def draw(canvas: Canvas, document: BaseDocTemplate) -> None:
        width, height = document.pagesize
        top = height - MARGIN
        canvas.saveState()
        canvas.setFillColor(INK)
        canvas.setFont("Body-Bold", 10.0)
        canvas.drawString(MARGIN, top - 9.0, title[:80])
        canvas.setFont("Body", 8.5)
        canvas.setFillColor(QUIET)
        canvas.drawString(MARGIN, top - 21.0, about[:90])
        canvas.drawRightString(width - MARGIN, top - 9.0, right)
        canvas.setStrokeColor(LINE)
        canvas.line(MARGIN, top - 27.0, width - MARGIN, top - 27.0)
        canvas.restoreState()

    return draw


class _Numbered(Canvas):  # type: ignore[misc]
    """Writes "page of pages" when all pages are known."""

    def __init__(self, *arguments: object, **more: object) -> None:
        super().__init__(*arguments, **more)
        self._states: list[dict[str, object]] = []

    def showPage(self) -> None:
        working_on(f"page {len(self._states) + 1}")
        self._states.append(dict(self.__dict__))
        self._startPage()

    def save(self) -> None:
        for state in self._states:
            self.__dict__.update(state)
            self.setFont("Body", 8.5)
            self.setFillColor(QUIET)
            width, height = self._pagesize
            self.drawRightString(
                width - MARGIN, height - MARGIN - 21.0, f"page {self._pageNumber} of {len(self._states)}"
            )
            super().showPage()
        super().save()


def text(words: str, style: object = BODY) -> Paragraph:
    """Words of a person or the program, never read as markup."""
    return Paragraph(escape(words), style)


def grid(
    titles: Sequence[str], rows: Sequence[Sequence[str]], widths: Sequence[float], numbers: Sequence[int] = ()
) -> Table:  # fmt: skip
    """A table with a head that is repeated on each page; ``numbers`` : columns that are set to the right."""
    cells = [[text(own, NUMBER_HEAD if j in numbers else SMALL) for j, own in enumerate(titles)]]
    cells += [[text(own, NUMBER if j in numbers else CELL) for j, own in enumerate(row)] for row in rows]
    table = Table(cells, colWidths=list(widths), repeatRows=1)
    style = [
        ("LINEBELOW", (0, 0), (-1, 0), 0.8, INK), ("LINEBELOW", (0, 1), (-1, -1), 0.3, LINE),
        ("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 2.0),
        ("RIGHTPADDING", (0, 0), (-1, -1), 2.0), ("TOPPADDING", (0, 0), (-1, -1), 1.5),
        ("BOTTOMPADDING", (0, 0), (-1, -1), 1.5),
    ]  # fmt: skip
    table.setStyle(TableStyle(style))
    return table


def shares(width: float, *parts: float) -> list[float]:
    """Widths of columns by their parts of all."""
    return [width * own / sum(parts) for own in parts]


def in_pairs(parts: Sequence[Flowable], width: float) -> Table:
    """Drawings two in a row."""
    cells: list[object] = [*parts, *([""] if len(parts) % 2 else [])]
    table = Table([cells[n : n + 2] for n in range(0, len(cells), 2)], colWidths=[width / 2.0] * 2)
    table.setStyle(TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 0.0)]))
    return table
