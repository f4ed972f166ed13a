"""Results as plain records for other programs; the keys are documented in docs/results.md."""

from __future__ import annotations

import math
from typing import Any

import msgspec

from omakase.core.checks.result import CheckResult
from omakase.core.members.field import Place
from omakase.core.members.panel import PanelResponse
from omakase.core.members.rib import RibResponse
from omakase.core.members.span import SpanAnswers
from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.results.costing import costs_of
from omakase.evaluate.results.engine import Evaluator
from omakase.evaluate.results.lineup import LineUp, line_up
from omakase.evaluate.results.relative import resolved
from omakase.evaluate.results.wording import finding_words, governing_layer_label
from omakase.project.library import materials_of
from omakase.project.model import Brief, Project
from omakase.project.vehicle import Sheet
from omakase.units.formula import dimension_text


def evaluate_brief(project: Project, brief: Brief, evaluator: Evaluator) -> LineUp:
    """Line-up of one brief at full order."""
    materials = materials_of(project)
    brief = resolved(brief, materials, evaluator)
    results = [evaluator.evaluate(brief, candidate, materials) for candidate in brief.candidates]
    return line_up(brief, results, None, costs_of(brief, materials), project.shop.currency)


def number(value: float | None) -> float | None:
    """JSON knows no infinity: an unlimited reserve factor or allowable is null."""
    return None if value is None or not math.isfinite(value) else value


def check_record(check: CheckResult, result: CandidateResult) -> dict[str, Any]:
    """One check as a record, SI units."""
    assert result.stack is not None
    place = check.place
    layer = None
    if place.layer is not None:
        governing = result.stack.layers[place.layer]
        layer = {
            "index": place.layer,
            "label": governing_layer_label(result, check),
            "material": governing.material.id,
            "angle": governing.angle,
        }
    return {
        "check": check.check,
        "title": check.title,
        "kind": check.kind,
        **({"wall": check.wall} if check.wall else {}),
        **({"detail": check.detail, "detail_name": check.detail_name} if check.detail else {}),
        "load_case": check.load_case,
        "load_case_id": check.case_id,
        "dimension": check.dimension,
        "value": number(check.value),
        "allowable": number(check.allowable),
        "reserve_factor": number(check.reserve_factor),
        "required": check.required,
        "passes": check.passes,
        "place": place_record(place),
        "layer": layer,
        "surface": place.surface,
        "method": check.method,
        "source": check.source,
        "remarks": list(check.remarks),
    }


def place_record(place: Place) -> dict[str, Any] | None:
    """Where on the member; ``around`` and ``wall`` only where they say something."""
    if place.x is None:
        return None
    more = {key: value for key in ("around", "s") if (value := getattr(place, key)) is not None}
    return {"x": place.x, "y": place.y} | more | ({"wall": place.wall} if place.wall else {})


def limits_record(brief: Brief) -> dict[str, Any]:
    """The limits that a brief of its kind may set, null where it sets none."""
    stated: dict[str, Any] = {}
    for name in kind_of(brief).limits:
        if name == "mass":
            stated["reserve_factor"] = brief.limits.reserve_factor
        stated[name] = getattr(brief.limits, name)
    return stated


def condition_records(brief: Brief) -> list[dict[str, Any]]:
    """The conditions whose design values a brief is judged by, as in its file."""
    return [msgspec.to_builtins(applied) for applied in brief.conditions]


def detail_records(result: CandidateResult) -> list[dict[str, Any]]:
    """The details of a candidate: what they are, the loads they take under each case, SI at limit load, and the layup
    there."""
    known = {own.key: own for own in result.details}
    records = []
    for record in result.judged.details if result.judged is not None else ():
        made = known.get(record.id)
        problem = getattr(made, "problem", "")
        cases = getattr(made, "cases", ())
        rating = getattr(made, "rating", None)
        records.append(
            {
                "id": record.id,
                "name": record.name,
                "kind": record.__struct_config__.tag,
                "place": {"x": record.x, "y": record.y} | ({"wall": record.wall} if record.wall else {}),
                "problem": problem or None,
                "layers": [
                    {"material": own.material.id, "angle": own.angle, "thickness": own.thickness}
                    for own in made.site.stack.layers
                ] if made is not None and not problem else None,
                "cases": [msgspec.to_builtins(case) for case in cases],
                **({"rating": msgspec.to_builtins(rating)} if rating is not None else {}),
            }
        )  # fmt: skip
    return records


def reaction_records(result: CandidateResult) -> list[dict[str, Any]]:
    """What supports take under each load case, N and N/m, positive pushing up; empty where it is not known."""
    response = result.response
    if isinstance(response, SpanAnswers):
        return span_reactions(response)
    if not isinstance(response, PanelResponse):
        return []
    return [
        {
            "load_case": case.case.name,
            "load_case_id": case.case.key,
            "support": own.name,
            "kind": own.kind,
            "force": own.force,
            "most": own.most,
            "shear": own.shear,
            "place": {"x": own.x, "y": own.y},
        }
        for case in response.cases
        for own in case.reactions
    ]


def span_reactions(response: SpanAnswers) -> list[dict[str, Any]]:
    """What each support of a member with a span gives: N up, N m about the width, N along, N m about the span; of a rib
    in a cell of skin also the shear flow along its edges, N/m."""
    flows = response.flows_of if isinstance(response, RibResponse) else [0.0] * len(response.results)
    return [
        {
            "load_case": result.case.name,
            "load_case_id": result.case.key,
            "support": f"at {support.x:g} m",
            "kind": support.held,
            "force": float(own[0]),
            "moment": float(own[1]),
            "along": float(own[2]),
            "torque": float(own[3]),
            **({"skin_flow": flow} if flow else {}),
            "place": {"x": support.x, "y": None},
        }
        for result, flow in zip(response.results, flows, strict=True)
        for support, own in zip(response.supports, result.reactions, strict=True)
    ]


def candidate_record(result: CandidateResult, is_baseline: bool) -> dict[str, Any]:
    """One candidate's results as a record, SI units."""
    record: dict[str, Any] = {
        "id": result.candidate.id,
        "name": result.candidate.name,
        "baseline": is_baseline,
        "error": result.error or None,
    }
    if not result.ok or result.stack is None or result.response is None:
        return record
    governing = result.governing
    accepted = result.candidate.reasons
    return record | {
        "passes": result.passes,
        "mass": result.mass,
        "areal_mass": number(result.areal_mass),
        "areal_mass_parts": None if result.is_measured else result.stack.areal_mass(),
        **({"measured": msgspec.to_builtins(result.candidate.measured)} if result.is_measured else {}),
        "thickness": result.stack.thickness,
        "theory": result.response.fields[0].section.kinematics,
        "frequencies": list(result.response.frequencies),
        "large_deflection": sorted(result.moving_far),
        **({"reactions": taken} if (taken := reaction_records(result)) else {}),
        **({"details": detail_records(result)} if result.details else {}),
        "source": result.source,
        "governing_check": governing.check if governing else None,
        "findings": [
            {
                "rule": finding.rule,
                "text": finding_words(finding, "si")[0],
                "reason": finding.reason,
                "fix": finding_words(finding, "si")[1],
                "measures": {measure.name: measure.value for measure in finding.measures},
                "layers": list(finding.layers),
                "accepted": accepted.get(finding.rule),
            }
            for finding in result.findings
        ],
        "checks": [check_record(check, result) for check in result.checks],
    }


def project_record(project: Project, evaluator: Evaluator | None = None) -> dict[str, Any]:
    """Results of every brief of a project."""
    evaluator = evaluator or Evaluator()
    briefs = []
    for brief in project.briefs:
        lineup = evaluate_brief(project, brief, evaluator)
        briefs.append(
            {
                "id": brief.id,
                "name": brief.name,
                "limits": limits_record(brief),
                **({"design_values": condition_records(brief)} if brief.conditions else {}),
                "candidates": [
                    candidate_record(result, result.candidate.id == brief.baseline) for result in lineup.results
                ],
            }
        )
    return {
        "format": "omakase-results",
        "version": 1,
        "title": project.title,
        "quantities": quantity_records(project),
        "briefs": briefs,
    }


def quantity_records(project: Project) -> list[dict[str, Any]]:
    """The vehicle's quantities as typed, and what they come to in SI."""
    sheet = Sheet(project.quantities)
    records = []
    for i, own in enumerate(project.quantities):
        value = sheet.values.get(own.name) if i not in sheet.problems else None
        records.append(
            {
                "name": own.name,
                "text": own.text,
                "value": None if value is None else number(value.number),
                "dimension": None if value is None else dimension_text(value.dimension),
                "problem": sheet.problems.get(i),
            }
        )
    return records
