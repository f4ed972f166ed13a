"""Which numbers of a brief may follow the vehicle's quantities, and their values worked out."""

from __future__ import annotations

from collections.abc import Iterator

from omakase.core.quantities import BY_LIMIT
from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.members.sentence import Number, value_at, with_value
from omakase.project.commands import EditQuantities, replace
from omakase.project.model import Brief, Project, VehicleQuantity
from omakase.project.vehicle import Path, Sheet, read_path, renamed
from omakase.units.formula import as_field, names_in
from omakase.units.parse import QuantityError

RANGE_WORDS = {"positive": "it must be more than zero", "not_negative": "it must not be less than zero"}


def numbers_of(brief: Brief) -> dict[Path, Number]:
    """Every number of a brief by its path."""
    kind = kind_of(brief)
    sentences = [kind.sentence(brief)]
    for i, case in enumerate(brief.load_cases):
        sentences += [kind.load_sentence(brief, i, k) for k in range(len(case.loads))]
    listed = [part for sentence in sentences for part in sentence if isinstance(part, Number)]
    listed += _others(brief)
    return {part.path: part for part in listed}


def _others(brief: Brief) -> Iterator[Number]:
    for i, case in enumerate(brief.load_cases):
        path: Path = ("load_cases", i, "factor")
        yield Number(path, "ratio", f"Factor on the loads of {case.id}", "factor of a load case")
    for name in kind_of(brief).limits:
        quantity, value = BY_LIMIT[name], getattr(brief.limits, name)
        if isinstance(value, float):
            yield Number(("limits", name), quantity.dimension, quantity.field, f"limit: {quantity.offer}")
    yield Number(("limits", "reserve_factor"), "ratio", "Reserve factor required", "limit: reserve factor")
    for name, what in (("factor_of_safety", "Factor of safety"), ("special_factor", "Special factor")):
        yield Number(("judgement", name), "ratio", what, what.lower())


def worked_out(brief: Brief, number: Number, text: str, sheet: Sheet) -> float:
    """What a formula gives for one number of a brief, with the sign it has.  Raises QuantityError."""
    value = as_field(sheet.value(text), number.dimension)
    if (number.range == "positive" or number.signed) and value <= 0.0:
        raise QuantityError(RANGE_WORDS["positive"])
    if number.range == "not_negative" and value < 0.0:
        raise QuantityError(RANGE_WORDS["not_negative"])
    return -value if number.signed and value_at(brief, number.path) < 0.0 else value


def followed(brief: Brief, sheet: Sheet) -> tuple[Brief, dict[str, str]]:
    """The brief with all its formulas worked out, and what is wrong with some, by path: those keep their number."""
    if not brief.formulas:
        return brief, {}
    numbers, problems = numbers_of(brief), {}
    for own in brief.formulas:
        number = numbers.get(read_path(own.path))
        if number is None:
            problems[own.path] = "there is no such number in this brief any more"
            continue
        try:
            value = worked_out(brief, number, own.text, sheet)
        except QuantityError as error:
            problems[own.path] = str(error)
            continue
        if value != value_at(brief, number.path):
            brief = with_value(brief, number.path, value)
    return brief, problems


def edit_quantities(
    project: Project, new: tuple[VehicleQuantity, ...], text: str, merge_key: str = ""
) -> EditQuantities:
    """The command that puts other quantities in place, with every number that follows them."""
    sheet = Sheet(new)
    pairs = [(brief, followed(brief, sheet)[0]) for brief in project.briefs]
    changed = tuple(pair for pair in pairs if pair[0] is not pair[1])
    return EditQuantities(project.quantities, new, changed, text, merge_key)


def rename_quantity(project: Project, at: int, name: str) -> EditQuantities:
    """The command that calls a quantity otherwise, also in every formula."""
    old = project.quantities[at].name
    taken = {own.name for own in project.quantities}

    def told(text: str) -> str:
        return renamed(text, old, name) if old and name and name not in taken else text

    quantities = tuple(
        replace(own, name=name if i == at else own.name, text=told(own.text) if own.text.startswith("=") else own.text)
        for i, own in enumerate(project.quantities)
    )
    briefs = []
    for brief in project.briefs:
        formulas = tuple(replace(own, text=told(own.text)) for own in brief.formulas)
        if formulas != brief.formulas:
            briefs.append((brief, replace(brief, formulas=formulas)))
    return EditQuantities(project.quantities, quantities, tuple(briefs), f"rename the quantity {old or name}")


def uses_of(project: Project) -> dict[str, list[str]]:
    """Where each quantity is used, in words: other quantities, and numbers of briefs."""
    found: dict[str, list[str]] = {}
    for own in project.quantities:
        for name in names_in(own.text):
            found.setdefault(name, []).append(own.name)
    for brief in project.briefs:
        if brief.formulas:
            numbers = numbers_of(brief)
            for formula in brief.formulas:
                number = numbers.get(read_path(formula.path))
                what = number.name if number is not None else formula.path
                for name in names_in(formula.text):
                    found.setdefault(name, []).append(f"{brief.name}: {what.lower()}")
    return found


def all_problems(project: Project) -> list[tuple[str, str]]:
    """(place in the file, message) of quantities and formulas that cannot be worked out, or that the file holds with
    another number than they give."""
    sheet, listed = Sheet(project.quantities), []
    listed += [(f"quantities[{i}]", text) for i, text in sorted(sheet.problems.items())]
    for i, brief in enumerate(project.briefs):
        new, problems = followed(brief, sheet)
        listed += [(f"briefs[{i}].{path}", text) for path, text in problems.items()]
        if new is not brief:
            for own in brief.formulas:
                path = read_path(own.path)
                if own.path not in problems and value_at(new, path) != value_at(brief, path):
                    text = f"the formula {own.text} gives another number than the one shown"
                    listed.append((f"briefs[{i}].{own.path}", text))
    return listed
