"""Writes a planned job to a file; the ending of its name says how."""

from __future__ import annotations

from pathlib import Path

from omakase.core.errors import OmakaseError
from omakase.evaluate.build.plan import JobPlan
from omakase.project.disk import write_atomically

ENDINGS = (".pdf", ".xlsx", ".csv", ".dxf", ".svg")


def job_bytes(plan: JobPlan, ending: str, project_title: str, day: str) -> bytes:
    """The job as a PDF of all sheets, a workbook of all tables, its cut list as CSV, or flat patterns as DXF or SVG.

    Raises OmakaseError for another ending.
    """
    if ending == ".pdf":
        from omakase.reports.job_pdf import job_pdf

        return job_pdf(plan, project_title, day)
    if ending in (".dxf", ".svg"):
        from omakase.reports.patterns import patterns
        from omakase.reports.vector import drawing_bytes

        return drawing_bytes(patterns(plan), ending)
    from omakase.reports.job_tables import cut_list, job_workbook
    from omakase.reports.sheets import table_csv

    if ending == ".xlsx":
        return job_workbook(plan)
    if ending == ".csv":
        return table_csv(cut_list(plan))
    raise OmakaseError(f"a job is written as {', '.join(ENDINGS)}, not as '{ending}'")


def write_tables(target: Path, plan: JobPlan) -> list[Path]:
    """Writes each table of a job as CSV beside ``target``, its name with the table's put behind; the paths.

    Raises OmakaseError.
    """
    from omakase.reports.job_tables import all_tables
    from omakase.reports.sheets import table_csv

    written = []
    for table in all_tables(plan):
        path = target.with_name(f"{target.stem}-{table.name.lower().replace(' ', '-')}.csv")
        write_atomically(path, table_csv(table))
        written.append(path)
    return written


def write_job(target: Path, plan: JobPlan, project_title: str, day: str) -> None:
    """Writes a job.  Raises OmakaseError; an existing file is then as it was."""
    write_atomically(target, job_bytes(plan, target.suffix.lower(), project_title, day))
