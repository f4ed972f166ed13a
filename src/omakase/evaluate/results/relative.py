"""Limits that follow the baseline: lighter, stiffer or thinner than it, as numbers."""

from __future__ import annotations

from collections.abc import Mapping

import msgspec

from omakase.core.materials.material import Material
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.results.engine import Evaluator
from omakase.project.model import Brief, Limits, Relative, find_candidate

ROOM = 1e-9  # the baseline itself meets them, whatever its last digit


def resolved(brief: Brief, materials: Mapping[str, Material], evaluator: Evaluator) -> Brief:
    """The brief with its limits against the baseline as numbers; the tighter one counts where both are set.

    Without a baseline that can be computed they ask nothing; the validation of the brief tells so.
    """
    if not brief.limits.against:
        return brief
    result = _baseline(brief, materials, evaluator)
    if result is None:
        return brief
    limits = brief.limits
    for name in limits.against:
        value, stated = _value(result, name) * (1.0 + ROOM), getattr(limits, name)
        limits = msgspec.structs.replace(limits, **{name: value if stated is None else min(value, stated)})
    return msgspec.structs.replace(brief, limits=limits)


def _baseline(brief: Brief, materials: Mapping[str, Material], evaluator: Evaluator) -> CandidateResult | None:
    """The baseline's full result without any limit, kept by the evaluator; None where there is none."""
    if brief.baseline not in {candidate.id for candidate in brief.candidates}:
        return None
    bare = msgspec.structs.replace(brief, limits=Limits())
    result = evaluator.evaluate(bare, find_candidate(brief, brief.baseline), materials)
    return result if result.ok else None


def _value(result: CandidateResult, name: Relative) -> float:
    if name == "mass":
        return result.mass
    if name == "thickness":
        assert result.response is not None
        return result.response.measures["thickness"][0].value
    assert result.response is not None
    return max((measure.value for measure in result.response.measures["deflection"]), default=0.0)
