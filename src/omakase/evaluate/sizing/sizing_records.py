"""Ways out and menus as plain records for other programs; keys are documented in docs/results.md."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import msgspec

from omakase.core.errors import OmakaseError
from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.results.engine import Evaluator
from omakase.evaluate.results.outcome import Outcome
from omakase.evaluate.results.records import number
from omakase.evaluate.results.relative import resolved
from omakase.evaluate.sizing.combinations import MenuChoices, choices_of
from omakase.evaluate.sizing.menu import MenuSearch
from omakase.evaluate.sizing.menu_state import Dish, Menu
from omakase.evaluate.sizing.ways_out import Way, WaysOut
from omakase.evaluate.sizing.workers import Workers
from omakase.project.library import faced_materials, materials_of
from omakase.project.model import Brief, Candidate, Project
from omakase.project.quickline import layup_code
from omakase.units import UnitSystem


def sizing_record(
    project: Project, brief: Brief, candidates: tuple[Candidate, ...], workers: Workers | None = None,
    choices: MenuChoices | None = None, tell: Callable[[str], None] = lambda text: None,
) -> dict[str, Any]:  # fmt: skip
    """Ways of some candidates of a brief, and its menu."""
    materials, evaluator = materials_of(project), Evaluator()
    brief = resolved(brief, materials, evaluator)
    ways = []
    for candidate in candidates:
        tell(f"ways of {candidate.name}")
        search = WaysOut(brief, candidate, materials, project.units, evaluator)
        listed = sorted(search.find(workers), key=lambda way: way.place)
        ways.append(
            {
                "id": candidate.id,
                "name": candidate.name,
                "error": search.present.error if search.present else "",
                "passes": bool(search.present and search.present.passes),
                "ways": [_way(way, project) for way in listed],
            }
        )
    missing = kind_of(brief).missing.get("menu", "")
    menu_part: dict[str, Any] = {"missing": missing}
    if not missing:
        wanted = choices or choices_of(brief, materials)
        menu = Menu(0)
        tell("menu")
        for menu in MenuSearch(brief, wanted, materials, evaluator).run(workers):  # noqa: B007 - the last one counts
            pass
        menu_part = menu_record(menu, wanted, project)
    return {
        "format": "omakase-sizing",
        "version": 1,
        "brief": brief.id,
        "name": brief.name,
        "candidates": ways,
        "menu": menu_part,
    }


def read_choices(path: Path) -> MenuChoices:
    """Choices of a menu from a JSON file.  Raises OmakaseError that says what is wrong and where."""
    try:
        return msgspec.json.decode(path.read_bytes(), type=MenuChoices)
    except OSError as error:
        raise OmakaseError(f"'{path}' cannot be read: {error.strerror}") from None
    except msgspec.DecodeError as error:
        raise OmakaseError(f"'{path.name}' are no choices for a menu: {error}") from None


def menu_record(menu: Menu, choices: MenuChoices, project: Project) -> dict[str, Any]:
    """A menu with what it was chosen from."""
    return {
        "choices": msgspec.to_builtins(choices),
        "combinations": menu.total,
        "looked_at": menu.looked,
        "left_by_screen": menu.left,
        "judged": menu.judged,
        "excluded": dict(sorted(menu.excluded.items())),
        "proof": menu.proof,
        "dishes": [_dish(dish, choices, project) for dish in menu.dishes],
        "least_bad": [_dish(dish, choices, project) for dish in menu.least_bad],
    }


def _code(candidate: Candidate, project: Project) -> str:
    units: UnitSystem = project.units
    return layup_code(candidate.layers, units, faced_materials(project), materials=True)


def _dish(dish: Dish, choices: MenuChoices, project: Project) -> dict[str, Any]:
    return {
        "titles": list(dish.titles),
        "values": {name: number(value) for name, value in zip(choices.matters, dish.values, strict=False)},
        "layup": _code(dish.candidate, project),
        "layers": msgspec.to_builtins(dish.candidate.layers),
        **outcome_record(dish.outcome),
    }


def _way(way: Way, project: Project) -> dict[str, Any]:
    record: dict[str, Any] = {"lever": way.lever, "change": way.text, "blocked": way.blocked}
    if way.option is not None and way.outcome is not None:
        record["layup"] = _code(way.option.candidate, project)
        record["changes_brief"] = way.option.brief is not None
        record |= outcome_record(way.outcome)
    return record


def outcome_record(outcome: Outcome) -> dict[str, Any]:
    """The numbers of a proposal in SI units; null where there is none."""
    cost = (
        None if outcome.cost is None else {"cloth": number(outcome.cost.value), "without": list(outcome.cost.missing)}
    )
    return {
        "passes": outcome.passes,
        "share": number(outcome.share),
        "governs": outcome.governs,
        "error": outcome.error,
        "mass": number(outcome.mass),
        "areal_mass": number(outcome.areal_mass),
        "thickness": number(outcome.thickness),
        "deflection": number(outcome.deflection),
        "frequency": number(outcome.frequency),
        "reserve_factor": number(outcome.reserve),
        "cost": cost,
        "load_cases": [{"id": case.id, "name": case.name, "share": number(case.share)} for case in outcome.cases],
    }
