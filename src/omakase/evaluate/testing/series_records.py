"""Series of tests as plain records for other programs; the keys are documented in docs/results.md."""

from __future__ import annotations

from typing import Any

import msgspec

from omakase.core.specimens.statistics import Summary
from omakase.evaluate.results.records import number
from omakase.evaluate.testing.believing import factor_summary
from omakase.evaluate.testing.reducing import Reducer, SeriesReport, SpecimenReport
from omakase.project.model import Project


def specimen_record(own: SpecimenReport) -> dict[str, Any]:
    """One specimen, SI units; ``upper`` is null where it is at least ``lower``."""
    specimen, results = own.specimen, own.reduction.results if own.reduction is not None else ()
    return {
        "id": specimen.id,
        "name": specimen.name,
        "sizes": own.sizes,
        "mass": specimen.mass.value if specimen.mass is not None else None,
        "place": specimen.place,
        "manner": specimen.manner,
        "verdict": own.verdict or None,
        "why": own.why,
        "error": own.error or None,
        "remarks": list(own.reduction.remarks) if own.reduction is not None else [],
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


def summary_record(own: Summary | None) -> dict[str, Any] | None:
    """Statistics of one result, SI units."""
    if own is None:
        return None
    outlier = own.outlier
    return {
        "n": own.n,
        "bounds": len(own.observations) - own.n,
        "mean": own.mean,
        "deviation": own.deviation,
        "variation": own.variation,
        "minimum": own.minimum,
        "basis": {name: {"value": value, "factor": factor} for name, (value, factor) in own.basis.items()},
        "outlier": None if outlier is None else msgspec.to_builtins(outlier) | {"found": outlier.found},
        "fit_with_bounds": None if own.bounded_mean is None else [own.bounded_mean, own.bounded_deviation],
        "words": list(own.words),
    }


def series_record(own: SeriesReport) -> dict[str, Any]:
    """One series with its specimens, statistics and prediction."""
    series = own.series
    return {
        "id": series.id,
        "name": series.name,
        "method": own.method.name,
        "basis": own.method.basis,
        "material": series.material or None,
        "prediction": None if series.prediction is None else msgspec.to_builtins(series.prediction),
        "statistics": {key: summary_record(summary) for key, summary in own.summaries.items()},
        "measured_over_predicted": summary_record(factor_summary(own)),
        "specimens": [specimen_record(one) for one in own.specimens],
    }


def tests_record(project: Project) -> dict[str, Any]:
    """All series of a project, and what was accepted from them."""
    reducer = Reducer()
    reports = [report for series in project.series if (report := reducer.report(series)) is not None]
    return {
        "format": "omakase-tests",
        "version": 1,
        "title": project.title,
        "series": [series_record(own) for own in reports],
        "accepted": [msgspec.to_builtins(entry) for entry in project.acceptances],
    }
