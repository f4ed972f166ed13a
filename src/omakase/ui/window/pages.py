"""What writes each kind of paper to a path; made in the window, called on a worker thread."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from omakase.evaluate.results.lineup import LineUp
from omakase.project.model import Project
from omakase.ui.kit.day import today

if TYPE_CHECKING:
    from omakase.evaluate.build.plan import JobPlan
    from omakase.evaluate.second.comparing import Line

Make = Callable[[Path], object]


def of_line_up(project: Project, line_up: LineUp) -> Make:
    """The line-up on one page."""

    def make(path: Path) -> None:
        from omakase.reports.write import write_report  # slow to import and rarely needed

        write_report(path, project, line_up)

    return make


def of_record(project: Project, line_up: LineUp, candidate: str, second: tuple[Line, ...]) -> Make:
    """The design record of a candidate, with what a finite-element solver said of it."""
    day = today()

    def make(path: Path) -> None:
        from omakase.reports.record_pdf import write_record  # slow to import and rarely needed

        write_record(path, project, line_up, candidate, day, second)

    return make


def of_series(project: Project, series: str) -> Make:
    """The report of a series of tests."""
    day = today()

    def make(path: Path) -> None:
        from omakase.reports.series_pdf import write_series_report  # slow to import and rarely needed

        write_series_report(path, project, series, day)

    return make


def of_job(project: Project, plan: JobPlan) -> Make:
    """All sheets of a job; by the ending of the path its tables too."""
    title, day = project.title, today()

    def make(path: Path) -> None:
        from omakase.reports.job_write import write_job  # slow to import and rarely needed

        write_job(path, plan, title, day)

    return make
