"""Series of tests as plain records for other programs; the keys are documented in docs/results.md."""

from __future__ import annotations

from typing import Any

import msgspec

from omakase.core.specimens.statistics import Summary
from omakase.evaluate.results.records import number
from omakase.evaluate.testing.believing import factor_summary
from omakase.evaluate.testing.reducing import Reducer, SeriesReport, SpecimenReport
from omakase.project.model import Project


def specimen_record(report: SpecimenReport) -> dict[str, Any]:
    """One specimen, SI units; ``upper`` is null where it is at least ``lower``."""
    specimen, results = report.specimen, report.reduction.results if report.reduction is not None else ()
    return {
        "id": specimen.id,
        "name": specimen.name,
        "sizes": report.sizes,
        "mass": specimen.mass.value if specimen.mass is not None else None,
        "place": specimen.place,
        "manner": specimen.manner,
        "verdict": report.verdict or None,
        "why": report.why,
        "error": report.error or None,
        "remarks": list(report.reduction.remarks) if report.reduction is not None else [],
        "results": [
            {
                "key": result.key,
                "title": result.title,
                "dimension": result.dimension,
                "lower": result.lower,
                "upper": number(result.upper),
                "formula": result.formula,
                "source": result.source,
            }
            for result in results
        ],
    }


def summary_record(summary: Summary | None) -> dict[str, Any] | None:
    """Statistics of one result, SI units."""
    if summary is None:
        return None
    outlier = summary.outlier
    return {
        "n": summary.n,
        "bounds": len(summary.observations) - summary.n,
        "mean": summary.mean,
        "deviation": summary.deviation,
        "variation": summary.variation,
        "minimum": summary.minimum,
        "basis": {name: {"value": value, "factor": factor} for name, (value, factor) in summary.basis.items()},
        "outlier": None if outlier is None else msgspec.to_builtins(outlier) | {"found": outlier.found},
        "fit_with_bounds": None if summary.bounded_mean is None else [summary.bounded_mean, summary.bounded_deviation],
        "words": list(summary.words),
    }


def series_record(report: SeriesReport) -> dict[str, Any]:
    """One series with its specimens, statistics and prediction."""
    series = report.series
    return {
        "id": series.id,
        "name": series.name,
        "method": report.method.name,
        "basis": report.method.basis,
        "material": series.material or None,
        "prediction": None if series.prediction is None else msgspec.to_builtins(series.prediction),
        "statistics": {key: summary_record(summary) for key, summary in report.summaries.items()},
        "measured_over_predicted": summary_record(factor_summary(report)),
        "specimens": [specimen_record(one) for one in report.specimens],
    }


def tests_record(project: Project) -> dict[str, Any]:
    """All series of a project, and what was accepted from them."""
    reducer = Reducer()
    reports = [report for series in project.series if (report := reducer.report(series)) is not None]
    return {
        "format": "omakase-tests",
        "version": 1,
        "title": project.title,
        "series": [series_record(report) for report in reports],
        "accepted": [msgspec.to_builtins(entry) for entry in project.acceptances],
    }
