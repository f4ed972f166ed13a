"""Pull-out tests of a project, as values that an insert may take."""

from __future__ import annotations

from collections.abc import Iterator

import msgspec

from omakase.evaluate.testing.reducing import Reducer
from omakase.project.model import Project

METHOD = "insert_pull_out"


class PullOut(msgspec.Struct, frozen=True):
    """A series of pull-out tests: its name, the load in N to count on, and what that is."""

    series: str
    load: float
    what: str


def pull_outs(project: Project, reducer: Reducer) -> Iterator[PullOut]:
    """The series with a load that something came out at: the B-basis where there are enough, else the least."""
    for series in project.series:
        report = reducer.report(series) if series.method == METHOD else None
        summary = report.main if report is not None else None
        if summary is None:
            continue
        basis = summary.basis.get("B")
        least = basis[1] if basis is not None and basis[1] > 0.0 else summary.minimum
        if least is None and summary.observations:
            least = min(own.lower for own in summary.observations)
        if least is not None and least > 0.0:
            what = "B-basis" if basis is not None and least == basis[1] else "the least"
            yield PullOut(series.name, float(least), f"{series.name}: {what} of {summary.n}")
