"""What differs between two states of a brief, a candidate, a material or a whole project, in words."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator, Mapping
from typing import Any

from omakase.core.materials.material import Material
from omakase.core.quantities import BY_LIMIT
from omakase.evaluate.details.registry import detail_kind
from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.members.sentence import Choice, Layup, Name, Number, Sentence, Side, chosen, value_at, within
from omakase.evaluate.results.measured import form_sentence
from omakase.evaluate.results.wording import AGAINST_WORDS, conditions_text
from omakase.evaluate.vehicle.fields import numbers_of
from omakase.project.commands import replace
from omakase.project.details import Detail
from omakase.project.model import Brief, Candidate, Project
from omakase.project.quickline import layup_code, write_quick_line
from omakase.units import FIELD, UnitSystem, format_value

NOTHING = "–"


def brief_changes(old: Brief, new: Brief, units: UnitSystem) -> list[str]:
    """What differs between two states of a brief, without its candidates."""
    if replace(old, candidates=new.candidates, baseline=new.baseline) == new:
        return []  # asked with every edit of a candidate
    if type(old.member) is not type(new.member):
        return [f"it is about a {kind_of(new).title}, no longer about a {kind_of(old).title}"]
    listed = list(_compared(_brief_values(old, units), _brief_values(new, units)))
    for words, one, two in (("now", new, old), ("no longer", old, new)):
        listed += [f"{words} {AGAINST_WORDS[own]} the baseline" for own in one.limits.against
                   if own not in two.limits.against]  # fmt: skip
    for what, get in _OTHERS.items():
        if get(old) != get(new):
            listed.append(f"{what}: {get(old)} → {get(new)}")
    return listed


_OTHERS: dict[str, Callable[[Brief], str]] = {
    "failure criterion": lambda brief: brief.judgement.criterion.replace("_", " "),
    "wrinkling rule": lambda brief: brief.judgement.wrinkling,
    "surroundings": lambda brief: "wet" if brief.surroundings.wet else "dry",
    "service temperature": lambda brief: f"{brief.surroundings.temperature - 273.15:.0f} °C",
    "design values": conditions_text,
    "behind it": lambda brief: "an aerial" if brief.surroundings.aerial else "no aerial",
}


def _brief_values(brief: Brief, units: UnitSystem) -> dict[str, str]:
    """Every value of a brief by what it is called; load cases by their names, so that their order does not matter."""
    kind = kind_of(brief)
    values = dict(_sentence_values(kind.sentence(brief), brief, units))
    for i, case in enumerate(brief.load_cases):
        name = case.name or case.id
        for k in range(len(case.loads)):
            for what, text in _sentence_values(kind.load_sentence(brief, i, k), brief, units):
                called = what.replace(f", {case.id} load {k + 1}", f" of load {k + 1}")
                values[f"{name}, {within(called)}"] = text
        values[f"{name}, factor"] = f"{case.factor:g}"
    numbers = numbers_of(brief)
    for path, number in numbers.items():
        if path[0] in ("limits", "judgement"):
            values[number.name] = _number_text(number, brief, units)
    band = brief.limits.frequency_band
    if band is not None:
        values[BY_LIMIT["frequency_band"].problem] = f"{band[0]:g} to {band[1]:g} Hz"
    return values


def candidate_changes(
    brief: Brief, old: Candidate, new: Candidate, units: UnitSystem, faced: Collection[str] = ()
) -> list[str]:
    """What differs between two states of a candidate of a brief."""
    if old == new:
        return []
    listed = []
    if old.name != new.name:
        listed.append(f"name: {old.name} → {new.name}")
    forms = [replace(own, name="", layers=(), details=()) for own in (old, new)]
    if forms[0] != forms[1] and type(old.form) is type(new.form):
        listed += _compared(*(dict(_sentence_values(form_sentence(brief, own, {}), own, units)) for own in (old, new)))
    if old.layers != new.layers:
        codes = [layup_code(own.layers, units, faced, materials=True) for own in (old, new)]
        same = codes[0] == codes[1]  # which zone a layer lies in, and the like, is not in the code
        listed.append("layers differ in zones, sides or roles" if same else f"layers: {codes[0]} → {codes[1]}")
    if old.details != new.details:
        listed += _detail_changes(brief, old, new, units)
    return listed


def _detail_changes(brief: Brief, old: Candidate, new: Candidate, units: UnitSystem) -> Iterator[str]:
    before, after = ({own.id: i for i, own in enumerate(candidate.details)} for candidate in (old, new))
    for identity, i in before.items():
        if identity not in after:
            yield f"detail '{old.details[i].name}' is gone"
    for identity, k in after.items():
        detail = new.details[k]
        if identity not in before or type(old.details[before[identity]]) is not type(detail):
            yield f"detail '{detail.name}' is new"
            continue
        kind, at = detail_kind(detail), before[identity]
        texts = (
            dict(_sentence_values(kind.sentence(brief, own, where, {}), own, units))
            for own, where in ((old, at), (replace(new, details=_renamed(new, k, old.details[at].name)), k))
        )
        if old.details[at].name != detail.name:
            yield f"detail '{old.details[at].name}' is now called '{detail.name}'"
        yield from _compared(*texts)


def _renamed(candidate: Candidate, index: int, name: str) -> tuple[Detail, ...]:
    """The details with one called otherwise, so that its fields have the same names as before."""
    own = replace(candidate.details[index], name=name)
    return (*candidate.details[:index], own, *candidate.details[index + 1 :])


def material_changes(old: Mapping[str, Material], new: Mapping[str, Material]) -> list[str]:
    """Properties that differ, by material."""
    listed = []
    for name, before in old.items():
        after = new.get(name)
        if after is None:
            listed.append(f"{name} is gone")
            continue
        for key in sorted(before.properties.keys() | after.properties.keys()):
            one, two = (own.properties.get(key) for own in (before, after))
            if one is None or two is None or one.value != two.value:
                texts = [NOTHING if own is None else f"{own.value:.4g}" for own in (one, two)]
                listed.append(f"{name}, {key}: {texts[0]} → {texts[1]}")
        if before.tests != after.tests:
            listed.append(f"{name}: rests on other tests")
    return listed


def project_changes(old: Project, new: Project) -> Iterator[tuple[str, list[str]]]:
    """(what, its differences) between two files: quantities, briefs with their candidates, materials of the project."""
    units = new.units
    texts = [{own.name: own.text for own in project.quantities} for project in (old, new)]
    differing = list(_compared(*texts))
    if differing:
        yield "vehicle sheet", differing
    before, after = ({brief.id: brief for brief in project.briefs} for project in (old, new))
    for identity, brief in before.items():
        if identity not in after:
            yield brief.name, ["the brief is gone"]
    for identity, brief in after.items():
        if identity not in before:
            yield brief.name, [f"a new brief with {len(brief.candidates)} candidates"]
            continue
        was = before[identity]
        listed = [] if was.name == brief.name else [f"name: {was.name} → {brief.name}"]
        listed += brief_changes(was, brief, units)
        candidates = {own.id: own for own in was.candidates}
        for own in brief.candidates:
            if own.id not in candidates:
                listed.append(f"candidate '{own.name}' is new")
            else:
                listed += [f"{own.name}: {text}" for text in candidate_changes(brief, candidates[own.id], own, units)]
        kept = {own.id for own in brief.candidates}
        listed += [f"candidate '{own.name}' is gone" for own in was.candidates if own.id not in kept]
        if listed:
            yield brief.name, listed
    materials = [{own.id: own for own in project.materials} for project in (old, new)]
    listed = material_changes(*materials)
    listed += [f"{name} is new" for name in materials[1] if name not in materials[0]]
    if listed:
        yield "materials of the project", listed


def _sentence_values(sentence: Sentence, record: Any, units: UnitSystem) -> Iterator[tuple[str, str]]:
    for part in sentence:
        if isinstance(part, Number):
            yield part.name, _number_text(part, record, units)
        elif isinstance(part, Choice):
            value = value_at(record, part.path)
            known = any(value == option for _, _, option in part.options)
            yield part.name, chosen(part, record)[1] if known or not isinstance(value, str) else value
        elif isinstance(part, Side):
            yield part.name, part.words[0 if value_at(record, part.path) >= 0.0 else 1]
        elif isinstance(part, Name):
            yield part.name, str(value_at(record, part.path))
        elif isinstance(part, Layup):
            yield part.name, write_quick_line(value_at(record, part.path), units)


def _number_text(number: Number, record: Any, units: UnitSystem) -> str:
    value = value_at(record, number.path)
    return format_value(abs(value) if number.signed else value, number.dimension, units, True, digits=FIELD)


def _compared(old: Mapping[str, str], new: Mapping[str, str]) -> Iterator[str]:
    for what in dict.fromkeys((*old, *new)):
        one, two = old.get(what, NOTHING), new.get(what, NOTHING)
        if one != two:
            yield f"{within(what)}: {one} → {two}"
