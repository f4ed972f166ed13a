"""The parts of a job with what they are made of: brief, candidate, process, resin."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping

import msgspec

from omakase.core.build.errors import BuildError
from omakase.core.materials.material import Material
from omakase.evaluate.history.decisions import standing
from omakase.project.build import Job, JobPart, ProcessRecord, Shop
from omakase.project.library import materials_of
from omakase.project.model import Brief, Candidate, Project, by_id

Problem = tuple[tuple[str | int, ...], str]  # (path from the job, or "shop" first; what is wrong)


class MadePart(msgspec.Struct, frozen=True, eq=False):
    """A part of a job.  ``index`` in it, ``letter`` that its pieces are named by; ``decided`` : whether the candidate
    was decided for.  ``resin`` : None where nothing is mixed."""

    index: int
    part: JobPart
    letter: str
    brief: Brief
    candidate: Candidate
    process: ProcessRecord
    resin: Material | None
    decided: bool = False

    @property
    def title(self) -> str:
        return self.part.name or self.brief.name


def letter(index: int) -> str:
    """A, B … Z, AA, AB …"""
    text = ""
    index += 1
    while index:
        index, rest = divmod(index - 1, 26)
        text = chr(65 + rest) + text
    return text


def made_parts(project: Project, job: Job) -> tuple[list[MadePart], list[Problem]]:
    """The parts that can be built, and what is wrong with the others."""
    materials = materials_of(project)
    made: list[MadePart] = []
    problems: list[Problem] = []
    for index, part in enumerate(job.parts):
        try:
            made.append(_made(project, job, index, materials))
        except BuildError as error:
            problems.append((("parts", index, error.field), str(error)))
        problems += [(("parts", index, field), text) for field, text in _numbers(part)]
    return made, problems


def _numbers(part: JobPart) -> Iterator[tuple[str, str]]:
    if part.count < 1:
        yield "count", "the count must be one or more"
    if not 5.0 <= part.chamfer <= 90.0:
        yield "chamfer", "a core's edge is chamfered to between 5° and 90°"
    if part.score and not part.score >= 0.002:
        yield "score", "cuts in a core are 2 mm apart or more; 0 for none"


def _made(project: Project, job: Job, index: int, materials: Mapping[str, Material]) -> MadePart:
    part, shop = job.parts[index], project.shop
    brief = by_id(project.briefs, part.brief)
    if brief is None:
        raise BuildError("its brief was removed: choose another", "brief")
    decision = standing(project, brief.id)
    wanted = part.candidate or (decision.candidate if decision is not None else "")
    candidate = by_id(brief.candidates, wanted) if wanted else None
    if candidate is None:
        said = "its candidate was removed" if part.candidate else "no candidate was decided for (Ctrl+H)"
        raise BuildError(f"{said}: choose one", "candidate")
    if not candidate.layers:
        raise BuildError(f"'{candidate.name or candidate.id}' has no layers to build", "candidate")
    missing = sorted({layer.material for layer in candidate.layers} - set(materials))
    if missing:
        raise BuildError(f"no material is named {', '.join(missing)}", "candidate")
    process = by_id(shop.processes, part.process)
    if process is None:
        raise BuildError("its process is not one of the shop's: choose another", "process")
    resin = resin_of(part, candidate, process, materials)
    return MadePart(index, part, letter(index), brief, candidate, process, resin, not part.candidate)


def resin_of(
    part: JobPart, candidate: Candidate, process: ProcessRecord, materials: Mapping[str, Material]
) -> Material | None:  # fmt: skip
    """What is mixed for a part: the resin that it names, or the one that most of its plies are worked out with; None
    for a process that mixes none, or a part without plies.  Raises BuildError."""
    plies = [materials[layer.material] for layer in candidate.layers if materials[layer.material].kind == "ply"]
    if not process.mixed or not plies:
        return None
    if part.resin:
        resin = materials.get(part.resin)
        if resin is None or resin.kind != "resin":
            raise BuildError(f"no resin is named '{part.resin}'", "resin")
        return resin
    named = Counter(ply.recipe.resin for ply in plies if ply.recipe is not None and ply.recipe.resin in materials)
    if not named:
        raise BuildError("its plies do not say which resin they are laid up with: choose one", "resin")
    return materials[named.most_common(1)[0][0]]


def mould_count(shop: Shop) -> dict[str, int]:
    return {own.name: own.count for own in shop.moulds}
