"""Writes a line-up to a file; the ending of its name says how."""

from __future__ import annotations

from pathlib import Path

from omakase.core.errors import OmakaseError
from omakase.evaluate.results.lineup import LineUp
from omakase.project.disk import write_atomically
from omakase.project.model import Project


def write_report(target: Path, project: Project, lineup: LineUp) -> None:
    """Writes ``target`` as .csv, .xlsx or .pdf.  Raises OmakaseError; an existing file is then as it was."""
    if target.suffix.lower() == ".csv":
        from omakase.reports.table import line_up_csv

        data = line_up_csv(lineup, project.units)
    elif target.suffix.lower() == ".pdf":
        from omakase.reports.page import line_up_pdf

        data = line_up_pdf(project, lineup)
    elif target.suffix.lower() == ".xlsx":
        from omakase.reports.line_up_tables import line_up_tables
        from omakase.reports.sheets import workbook

        data = workbook(line_up_tables(lineup, project.units))
    else:
        raise OmakaseError(f"'{target.name}' should end in .csv, .xlsx or .pdf")
    write_atomically(target, data)
