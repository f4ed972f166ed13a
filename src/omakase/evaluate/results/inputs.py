"""What a result depends on: asked by every cache and every test for something stale."""

from __future__ import annotations

from collections.abc import Mapping

from omakase.core.materials.material import Material
from omakase.project.details import named_materials
from omakase.project.model import Brief, Candidate

Inputs = tuple[object, ...]


def response_inputs(brief: Brief, candidate: Candidate) -> Inputs:
    """The records that a response is worked out from, beside the materials: compared as values."""
    where = brief.surroundings
    return (
        brief.member, brief.load_cases, where.temperature, where.wet, candidate.layers, candidate.form, candidate.zones,
        candidate.measured,
    )  # fmt: skip


def result_inputs(brief: Brief, candidate: Candidate) -> Inputs:
    """The records that a judged result is worked out from, beside the materials."""
    return (
        *response_inputs(brief, candidate), candidate.details, brief.limits, brief.judgement, brief.surroundings,
        brief.conditions,
    )  # fmt: skip


def materials_used(candidate: Candidate, materials: Mapping[str, Material]) -> list[Material]:
    """The records of the materials in a candidate, and of what its sleeves are worked out from, by name."""
    names = {layer.material for layer in candidate.layers} | {getattr(candidate.form, "filling", "")}
    names |= {name for detail in candidate.details for name in named_materials(detail)}
    for name in list(names):
        ply = materials.get(name)
        if ply is not None and ply.recipe is not None and ply.build is not None and ply.build.architecture == "braid":
            names |= {ply.recipe.cloth, ply.recipe.resin, ply.build.fibre, ply.build.second_fibre}
    return [materials[name] for name in sorted(names & set(materials))]
