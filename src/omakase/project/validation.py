"""What in a project does not make sense, each with its place; the rest of the project stays usable."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence

import msgspec

from omakase.core.errors import OmakaseError
from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material
from omakase.core.members.panel_ribs import MOST_RIBS, RIB
from omakase.core.quantities import QUANTITIES
from omakase.core.specimens.registry import all_methods
from omakase.project import edits, translate
from omakase.project.bracket_translate import bracket_form_problems, bracket_problems
from omakase.project.curves import to_curve
from omakase.project.detail_translate import detail_problems
from omakase.project.library import materials_of, stated_materials, with_accepted
from omakase.project.model import Brief, Candidate, Project
from omakase.project.panels import PanelMember
from omakase.project.rib_translate import rib_form_problems, rib_problems
from omakase.project.span_translate import form_problems, span_problems
from omakase.project.spans import BracketMember, PanelForm, SparMember
from omakase.project.surface_translate import surface_form_problems, surface_problems
from omakase.project.wings import RibMember, SurfaceMember

Found = Iterator[tuple[str, str]]  # (place, message)
OfBrief = Callable[[Brief], Found]
OfCandidate = Callable[[Brief, Candidate, Mapping[str, Material]], Found]


class Problem(msgspec.Struct, frozen=True):
    """``place`` is a path in the file such as briefs[0].candidates[2].layers[1]; ``message`` is for a person."""

    place: str
    message: str


def problems(project: Project) -> list[Problem]:
    """Everything that keeps a brief or candidate from being evaluated."""
    listed: list[Problem] = []
    materials = materials_of(project)
    listed += _repeated_ids(project)
    listed += _series_problems(project)
    for i, brief in enumerate(project.briefs):
        place = f"briefs[{i}]"
        listed += [Problem(f"{place}.{where}", text) for where, text in brief_problems(brief)]
        for j, candidate in enumerate(brief.candidates):
            here = f"{place}.candidates[{j}]"
            listed += [
                Problem(f"{here}{where}", text) for where, text in candidate_problems(brief, candidate, materials)
            ]
    listed += _job_problems(project)
    return listed


def _series_problems(project: Project) -> Iterator[Problem]:
    """Series of tests that cannot be reduced, and acceptances that do not count."""
    for i, series in enumerate(project.series):
        if series.method not in all_methods():
            yield Problem(f"series[{i}].method", f"no method of testing is called '{series.method}'")
        for j, specimen in enumerate(series.specimens):
            if specimen.curve is not None:
                try:
                    to_curve(specimen.curve)
                except OmakaseError as error:
                    yield Problem(f"series[{i}].specimens[{j}].curve", str(error))
    stated = stated_materials(project)
    for i, entry in enumerate(project.acceptances):
        place = f"acceptances[{i}]"
        if entry.material not in stated:
            yield Problem(place, f"no material is named '{entry.material}'")
        else:
            try:
                with_accepted(stated[entry.material], entry)
            except OmakaseError as error:
                yield Problem(place, str(error))


def _job_problems(project: Project) -> Iterator[Problem]:
    """Jobs that build what is not there, and weighings and logs of parts that are not theirs."""
    briefs = {brief.id: {own.id for own in brief.candidates} for brief in project.briefs}
    processes = {own.id for own in project.shop.processes}
    for i, job in enumerate(project.jobs):
        for k, part in enumerate(job.parts):
            here = f"jobs[{i}].parts[{k}]"
            if part.brief not in briefs:
                yield Problem(f"{here}.brief", f"there is no brief '{part.brief}' to build")
            elif part.candidate and part.candidate not in briefs[part.brief]:
                yield Problem(f"{here}.candidate", f"there is no candidate '{part.candidate}' to build")
            if part.process not in processes:
                yield Problem(f"{here}.process", f"the shop has no process '{part.process}'")
        parts, works = {own.id for own in job.parts}, {own.id for own in job.works}
        for k, work in enumerate(job.works):
            for name in set(work.after) - parts - works:
                yield Problem(f"jobs[{i}].works[{k}].after", f"it waits for '{name}', which is not in the job")
        for field in ("weighed", "uses", "bags", "cures"):
            for k, own in enumerate(getattr(job, field)):
                if own.part not in parts:
                    yield Problem(f"jobs[{i}].{field}[{k}].part", f"there is no part '{own.part}' in the job")


def _repeated_ids(project: Project) -> Iterator[Problem]:
    for place, ids in [
        ("briefs", [brief.id for brief in project.briefs]),
        ("series", [series.id for series in project.series]),
        ("acceptances", [entry.id for entry in project.acceptances]),
        ("jobs", [job.id for job in project.jobs]),
        ("shop.processes", [own.id for own in project.shop.processes]),
        *(
            (f"jobs[{i}]", [*(own.id for own in job.parts), *(own.id for own in job.works)])
            for i, job in enumerate(project.jobs)
        ),
        *(
            (f"jobs[{i}].{name}", [own.id for own in getattr(job, name)])
            for i, job in enumerate(project.jobs)
            for name in ("weighed", "uses", "bags", "cures")
        ),
        *(
            (f"series[{i}].specimens", [specimen.id for specimen in series.specimens])
            for i, series in enumerate(project.series)
        ),
        *(
            (f"briefs[{i}].{name}", [record.id for record in records])
            for i, brief in enumerate(project.briefs)
            for name, records in (("candidates", brief.candidates), ("load_cases", brief.load_cases))
        ),
    ]:
        for identity, count in Counter(ids).items():
            if count > 1:
                yield Problem(place, f"the id '{identity}' is used {count} times")


def brief_problems(brief: Brief) -> list[tuple[str, str]]:
    """(field, message) of everything wrong with a brief's own values."""
    listed: list[tuple[str, str]] = []
    listed += _of_kind(brief)[0](brief)
    listed += _limit_problems(brief)
    if brief.baseline and brief.baseline not in {candidate.id for candidate in brief.candidates}:
        listed.append(("baseline", f"there is no candidate '{brief.baseline}' to be the baseline"))
    elif brief.limits.against and not brief.baseline:
        listed.append(("limits.against", "it counts for nothing until a candidate is made the baseline (Ctrl+B)"))
    return listed


def _panel_problems(brief: Brief) -> Iterator[tuple[str, str]]:
    try:
        panel = translate.panel(brief)
    except OmakaseError as error:
        yield "member", str(error)
        panel = None
    for i, case in enumerate(brief.load_cases):
        try:
            translated = translate.load_case(case)
            if panel is not None:
                translated.check_on(panel)
        except OmakaseError as error:
            yield f"load_cases[{i}]", str(error)


def _panel_form_problems(brief: Brief, candidate: Candidate) -> Iterator[tuple[str, str]]:
    try:
        translate.panel(brief)
    except OmakaseError:
        return  # told at the brief
    try:
        panel = translate.panel(brief, candidate)
    except OmakaseError as error:
        yield ".form", str(error)
    else:
        if panel.outline == "round":
            return
        yield from translate.zone_problems(candidate, panel.length, panel.width)
        yield from _rib_problems(candidate, panel.length, panel.width)


def _rib_problems(candidate: Candidate, length: float, width: float) -> Iterator[tuple[str, str]]:
    """Ribs that make no sense, ribs without layers and layers of ribs that are not there."""
    form = candidate.form
    records = form.ribs if isinstance(form, PanelForm) else ()
    bonded = any(not rib.is_bead for rib in records)
    names = {RIB, ""} if bonded else {""}
    for i, layer in enumerate(candidate.layers):
        if layer.wall not in names:
            yield f".layers[{i}]", f"layer {i + 1} belongs to a wall '{layer.wall}' that this panel does not have"
    for i, rib in enumerate(records):
        try:
            translate.rib_of(rib, length, width).check(length, width, i + 1)
        except OmakaseError as error:
            yield f".form.ribs[{i}]", str(error)
    if len(records) > MOST_RIBS:
        yield ".form.ribs", f"more than {MOST_RIBS} ribs"
    if any(rib.is_bead for rib in records) and any(own.role == "core" and not own.wall for own in candidate.layers):
        yield ".form.ribs", "a bead is formed into a sheet: a panel with a core has none"
    if bonded and not any(layer.wall == RIB for layer in candidate.layers):
        yield ".layers", "the rib has no layers yet"


def candidate_problems(brief: Brief, candidate: Candidate, materials: Mapping[str, Material]) -> list[tuple[str, str]]:
    """(place below the candidate, message) of everything wrong with its form and its layers."""
    if candidate.measured is not None:
        return list(_measured_problems(candidate))
    return [*_of_kind(brief)[1](brief, candidate, materials), *detail_problems(brief, candidate, materials)]


def _panel_candidate(brief: Brief, candidate: Candidate, materials: Mapping[str, Material]) -> Found:
    yield from _panel_form_problems(brief, candidate)
    for wall in dict.fromkeys(("", *(layer.wall for layer in candidate.layers))):
        rows = edits.rows_of_wall(candidate, wall)
        for place, message in layup_problems(tuple(candidate.layers[row] for row in rows), materials):
            yield _in_all(place, rows), message


def _with_one_wall(of_form: OfCandidate) -> OfCandidate:
    """Of a member with one wall: what is wrong with its form, else with its layers."""

    def found(brief: Brief, candidate: Candidate, materials: Mapping[str, Material]) -> Found:
        listed = list(of_form(brief, candidate, materials))
        yield from listed or layup_problems(candidate.layers, materials)

    return found


def _of_kind(brief: Brief) -> tuple[OfBrief, OfCandidate]:
    """What looks at a brief and at its candidates, by the kind of the member."""
    return KINDS.get(type(brief.member), (span_problems, _with_one_wall(form_problems)))


def _measured_problems(candidate: Candidate) -> Iterator[tuple[str, str]]:
    """What is wrong with a part that is known by its measurements."""
    own = candidate.measured
    assert own is not None
    if candidate.layers:
        yield ".layers", "a measured part has no layers: its layup is not known"
    for name, value in (("mass", own.mass), ("thickness", own.thickness), ("stiffness", own.stiffness),
                        ("breaking", own.breaking)):  # fmt: skip
        if value is not None and not (math.isfinite(value) and value > 0.0):
            yield ".measured", f"the measured {name.replace('breaking', 'breaking load')} must be more than zero"


def _limit_problems(brief: Brief) -> Iterator[tuple[str, str]]:
    limits, judgement = brief.limits, brief.judgement
    values = {
        f"limits.{quantity.limit}": getattr(limits, quantity.limit)
        for quantity in QUANTITIES
        if quantity.way != "outside"
    }
    values["limits.reserve_factor"] = limits.reserve_factor
    for field, value in values.items():
        if value is not None and not (math.isfinite(value) and value > 0.0):
            yield field, "must be a positive number"
    band = limits.frequency_band
    if band is not None and not 0.0 < band[0] < band[1] < math.inf:
        yield "limits.frequency_band", "the band must run from a lower to a higher positive frequency"
    for field, factor in (
        ("judgement.factor_of_safety", judgement.factor_of_safety),
        ("judgement.special_factor", judgement.special_factor),
    ):
        if not 0.1 <= factor <= 100.0:
            yield field, "a factor must lie between 0.1 and 100"
    if not 173.15 <= brief.surroundings.temperature <= 573.15:
        yield "surroundings.temperature", "a service temperature must lie between −100 °C and 300 °C"
    radius = brief.surroundings.radius
    if radius is not None and not 1e-4 <= radius <= 1e3:
        yield "surroundings.radius", "the radius of a bend must lie between 0.1 mm and 1 km"
    if judgement.special_factor != 1.0 and not judgement.special_factor_reason:
        yield "judgement.special_factor_reason", "say what the special factor is for"


def _in_all(place: str, rows: Sequence[int]) -> str:
    """The place of a layer among all those of a candidate, from that among those of one wall."""
    if not place.startswith(".layers["):
        return place
    return f".layers[{rows[int(place[len('.layers[') : -1])]}]"


def layup_problems(layers: tuple, materials: Mapping[str, Material]) -> list[tuple[str, str]]:
    """(place below the candidate, message) of everything wrong with a layup."""
    listed = []
    translated = []
    for i, record in enumerate(layers):
        try:
            translated.append(translate.layer(record, materials))
        except OmakaseError as error:
            listed.append((f".layers[{i}]", str(error)))
    if not listed:
        try:
            Stack(tuple(translated))
        except OmakaseError as error:
            listed.append((".layers", str(error)))
    return listed


KINDS: dict[type, tuple[OfBrief, OfCandidate]] = {
    PanelMember: (_panel_problems, _panel_candidate),
    BracketMember: (bracket_problems, _with_one_wall(bracket_form_problems)),
    SparMember: (span_problems, form_problems),
    RibMember: (rib_problems, rib_form_problems),
    SurfaceMember: (surface_problems, surface_form_problems),
}

LIMIT_NAMES = {
    **{quantity.limit: quantity.problem for quantity in QUANTITIES},
    "against": "limit against the baseline", "reserve_factor": "reserve factor required",
}  # fmt: skip
FIELD_NAMES = {
    "baseline": "baseline", "judgement.factor_of_safety": "factor of safety",
    "judgement.special_factor": "special factor", "judgement.special_factor_reason": "special factor",
    "surroundings.temperature": "service temperature", "surroundings.radius": "tightest bend",
}  # fmt: skip


def field_name(brief: Brief, field: str) -> str:
    """What the screen calls a field of ``brief_problems``."""
    if field.startswith("load_cases["):
        case = brief.load_cases[int(field[len("load_cases[") : field.index("]")])]
        return f"load case '{case.name or case.id}'"
    if field.startswith("limits."):
        return LIMIT_NAMES.get(field.removeprefix("limits."), field)
    if field == "member":
        return str(brief.member.__struct_config__.tag)  # its kind
    return FIELD_NAMES.get(field, field)


def is_fatal(field: str) -> bool:
    """Whether a problem of a brief keeps its candidates from being evaluated."""
    return not field.startswith(("baseline", "judgement.special_factor_reason", "limits.against"))
