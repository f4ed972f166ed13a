"""What help can be asked about: one topic for each check, quantity, property, test, finding, method and term."""

from __future__ import annotations

import math
from collections.abc import Mapping
from functools import cache
from html import escape

import msgspec

from omakase.core.checks.registry import all_checks
from omakase.core.materials.material import Material
from omakase.core.materials.properties import PROPERTIES
from omakase.core.quantities import QUANTITIES
from omakase.core.specimens.registry import all_methods
from omakase.evaluate.help.methods import Section, check_section, method_section, parts
from omakase.evaluate.help.terms import TERMS
from omakase.evaluate.record.workings import worked_out
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.results.wording import figure, finding_words, quantity, reserve_text
from omakase.evaluate.testing.reducing import reduce_specimen
from omakase.project.model import Project
from omakase.units import UnitSystem, display_unit, to_display

CHECKS, QUANTITY, PROPERTY = "Checks", "Quantities", "Material properties"
TESTS, FINDINGS, TERM = "Tests", "Findings", "Terms"
FACTS = {
    "areal_mass": ("Areal mass", "Mass of the member over its area: plies, cores with the resin they absorb, glue."),
    "price": ("Price", "Material with what is cut away, and hands-on hours at the rates of the shop."),
    "hours": ("Hands-on hours", "Hours that people work on one unit, from the rates of the shop."),
    "reserve_factor": ("Least reserve factor", "The check that governs: what it can carry over what it must carry."),
}


class Topic(msgspec.Struct, frozen=True):
    """``key`` as in ``check:core_shear``; ``group`` it is listed under; ``text`` in Markdown."""

    key: str
    group: str
    title: str
    text: str

    def found_by(self, query: str) -> bool:
        """Whether every word of a query is in it."""
        text = f"{self.title} {self.group} {self.text}".casefold()
        return all(word in text for word in query.casefold().split())


@cache
def all_topics() -> tuple[Topic, ...]:
    """Every topic, group by group."""
    found = [_of(CHECKS, check_section(check), check.summary) for check in all_checks().values()]
    found += [_quantity(own.key, own.title) for own in QUANTITIES]
    found += [Topic(f"quantity:{key}", QUANTITY, title, text) for key, (title, text) in FACTS.items()]
    for key, own in PROPERTIES.items():
        found.append(Topic(f"property:{key}", PROPERTY, f"{own.symbol}, {own.meaning}", _property(key)))
    found += [_of(TESTS, method_section(method)) for method in all_methods().values()]
    for part in parts():
        if part.title == "Findings":
            found += [_of(FINDINGS, section) for section in part.sections]
        elif part.title != "Checks":
            theory = [own for own in part.sections if own.key.startswith("theory:")]
            found += [Topic(f"theory:{part.title}: {own.title}", part.title, own.title, own.text) for own in theory]
    found += [Topic(f"term:{term}", TERM, term, f"{meaning[:1].upper()}{meaning[1:]}.") for term, meaning in TERMS]
    return tuple(found)


def topic_of(key: str) -> Topic | None:
    """The topic of a key; a quantity without one of its own is explained by the check of its name."""
    return _by_key().get(key)


@cache
def _by_key() -> dict[str, Topic]:
    return {topic.key: topic for topic in all_topics()}


def _of(group: str, section: Section, title: str = "") -> Topic:
    """``title`` : more of it, behind the section's own."""
    more = f": {title[:1].lower()}{title[1:]}" if title else ""
    return Topic(section.key, group, f"{section.title}{more}", section.text)


def _quantity(key: str, title: str) -> Topic:
    check = all_checks().get(key)
    limit = next(own for own in QUANTITIES if own.key == key)
    sentence = f"{limit.before} … {limit.after}".rstrip()
    text = f"A brief limits it with the sentence “{sentence}”."
    if check is not None:
        text += f"\n\n{check_section(check).text}"
    return Topic(f"quantity:{key}", QUANTITY, title, text)


def _property(key: str) -> str:
    spec = PROPERTIES[key]
    lines = [f"**{spec.symbol}**: {spec.meaning}.", ""]
    unit = display_unit(spec.dimension, "si")
    low, high = (to_display(value, spec.dimension, "si") for value in (spec.lower, spec.upper))
    lines.append(f"- Taken where it lies within {low:.4g} to {high:.4g} {unit}".rstrip())
    used = [own.summary for own in all_checks().values() if key in own.strengths]
    lines += [f"- Strength in the check: {text[:1].lower()}{text[1:]}" for text in used]
    measured = [own.title for own in all_methods().values() if any(key in keys for _, keys in own.becomes)]
    lines += [f"- Measured by: {title}" for title in measured]
    lines.append("- Trusted in this order: tested here (T), datasheet (D), estimated (E), assumed (A)")
    return "\n".join(lines)


# --- worked examples, from what is on the screen ------------------------------------------------------------------


def example(topic: Topic, result: CandidateResult | None, project: Project, materials: Mapping[str, Material]) -> str:
    """HTML of the topic worked out with the numbers at hand; empty where these say nothing about it."""
    kind, _, name = topic.key.partition(":")
    if kind in ("check", "quantity") and result is not None:
        return _worked(name, result, project.units)
    if kind == "finding" and result is not None:
        return "".join(
            f"<p>{escape(' '.join(finding_words(own, project.units)))}</p>" for own in result.findings
            if own.rule.partition(":")[0] == name
        )  # fmt: skip
    if kind == "property":
        return _values(name, materials, project.units)
    if kind == "test":
        return _reduced(name, project)
    return ""


def _worked(check_name: str, result: CandidateResult, units: UnitSystem) -> str:
    check = result.worst(check_name)
    if check is None:
        return ""
    lines = [f"<p>{escape(result.candidate.name)}, {escape(check.full_title)}"
             f"{', ' + escape(check.load_case) if check.load_case else ''}:</p><table>"]  # fmt: skip
    for step in worked_out(result, check):
        lines += [_row(term.symbol, "", term.value, term.dimension, term.meaning, units) for term in step.terms]
        lines.append(_row(step.symbol, step.formula, step.value, step.dimension, step.meaning, units))
    reserve = reserve_text(check.reserve_factor) if math.isfinite(check.reserve_factor) else "no limit"
    return "".join(lines) + f"</table><p>Reserve factor {reserve}, required {check.required:g}.</p>"


def _row(symbol: str, formula: str, value: float, dimension: str, meaning: str, units: UnitSystem) -> str:
    middle = f"{escape(formula)} = " if formula else ""
    shown = f"{escape(symbol)} = {middle}<b>{escape(figure(value, dimension, units))}</b>"
    return f"<tr><td style='padding:1px 16px 1px 0'>{shown}</td><td>{escape(meaning)}</td></tr>"


def _values(key: str, materials: Mapping[str, Material], units: UnitSystem) -> str:
    found = [(own.properties[key].value, own) for own in materials.values() if key in own.properties]
    if not found:
        return ""
    found.sort(key=lambda pair: pair[0])
    dimension = PROPERTIES[key].dimension
    low, high = found[0], found[-1]
    return (
        f"<p>{len(found)} of {len(materials)} materials state it: from {escape(quantity(low[0], dimension, units))} "
        f"({escape(low[1].name)}) to {escape(quantity(high[0], dimension, units))} ({escape(high[1].name)}).</p>"
    )


def _reduced(name: str, project: Project) -> str:
    method = all_methods()[name]
    for series in project.series:
        if series.method != name:
            continue
        for specimen in series.specimens:
            reduction = reduce_specimen(series, specimen, method).reduction
            if reduction is not None and reduction.results:
                rows = "".join(
                    f"<tr><td style='padding:1px 16px 1px 0'>{escape(own.title)}</td><td>{escape(own.formula)} = "
                    f"<b>{escape(quantity(own.value, own.dimension, project.units))}</b></td></tr>"
                    for own in reduction.results
                )
                return f"<p>{escape(series.name)}, specimen {escape(specimen.name)}:</p><table>{rows}</table>"
    return ""
