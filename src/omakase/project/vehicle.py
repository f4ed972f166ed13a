"""The vehicle's named quantities worked out, and formulas of a brief kept with the numbers they belong to."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any

import msgspec

from omakase.project.commands import replace
from omakase.project.model import Brief, Formula, VehicleQuantity
from omakase.units.formula import Value, in_unit, name_problem, names_in, work_out
from omakase.units.parse import QuantityError

Path = tuple[str | int, ...]
_STEP = re.compile(r"\.?(?P<name>[a-z_0-9]+)|\[(?P<index>\d{1,6})\]")
MOST_QUANTITIES = 500


def write_path(path: Path) -> str:
    """("load_cases", 0, "factor") as load_cases[0].factor."""
    text = "".join(f"[{key}]" if isinstance(key, int) else f".{key}" for key in path)
    return text.removeprefix(".")


def read_path(text: str) -> Path:
    """``write_path`` backwards; empty where it is no path."""
    path: list[str | int] = []
    at = 0
    while at < len(text):
        match = _STEP.match(text, at)
        if match is None:
            return ()
        path.append(match["name"] if match["name"] is not None else int(match["index"]))
        at = match.end()
    return tuple(path)


class Sheet:
    """Quantities with what they come to: ``values`` by name; ``problems`` by place in the list, in words."""

    def __init__(self, quantities: Sequence[VehicleQuantity]) -> None:
        self.quantities = tuple(quantities)
        self.values: dict[str, Value] = {}
        self.problems: dict[int, str] = {}
        self._places: dict[str, int] = {}
        for i, own in enumerate(self.quantities):
            problem = name_problem(own.name)
            if not problem and own.name in self._places:
                problem = f"there are two quantities '{own.name}'"
            if problem:
                self.problems[i] = problem
            else:
                self._places[own.name] = i
        for name in self._places:
            self._work_out(name)
        for i, own in enumerate(self.quantities):
            if own.unit and i not in self.problems:
                try:
                    in_unit(self.values[own.name], own.unit)
                except QuantityError as error:
                    self.problems[i] = str(error)

    def _work_out(self, wanted: str) -> None:
        """What one comes to, and before it all that it is worked out from: without recursion, so that no chain of
        formulas is too long."""
        waiting = [wanted]
        while waiting:
            name = waiting[-1]
            at = self._places[name]
            if name in self.values or at in self.problems:
                waiting.pop()
                continue
            uses = names_in(self.quantities[at].text)
            missing = [own for own in uses if own not in self.values]
            ahead = [own for own in missing if own in self._places and self._places[own] not in self.problems]
            if not ahead:
                self._finish(name, missing)
                waiting.pop()
            elif ahead[0] in waiting:
                circle = [*waiting[waiting.index(ahead[0]) :], ahead[0]]
                text = f"it is worked out from itself: {' ← '.join(circle)}"
                for own in circle:
                    self.problems[self._places[own]] = text
            else:
                waiting.append(ahead[0])

    def _finish(self, name: str, missing: Sequence[str]) -> None:
        at = self._places[name]
        broken = next((own for own in missing if own in self._places), None)
        if broken is not None:
            self.problems[at] = f"it needs '{broken}', which cannot be worked out"
            return
        try:
            self.values[name] = work_out(self.quantities[at].text, self.values)
        except QuantityError as error:
            self.problems[at] = str(error)

    def value(self, text: str) -> Value:
        """What a formula comes to.  Raises QuantityError."""
        broken = next((own for own in names_in(text) if own in self._places and own not in self.values), None)
        if broken is not None:
            raise QuantityError(f"it needs '{broken}', which cannot be worked out")
        return work_out(text, self.values)


def formula_at(brief: Brief, path: Path) -> str:
    """The formula of a number, with its "="; empty for a number that was typed."""
    wanted = write_path(path)
    return next((own.text for own in brief.formulas if own.path == wanted), "")


def with_formula(brief: Brief, path: Path, text: str) -> Brief:
    """The brief with a formula for one of its numbers; with an empty text without one."""
    wanted = write_path(path)
    others = tuple(own for own in brief.formulas if own.path != wanted)
    return replace(brief, formulas=(*others, Formula(wanted, text)) if text else others)


def with_kept_formulas(old: Brief, new: Brief) -> Brief:
    """An edited brief whose formulas follow their numbers, where entries before them came or went.

    One whose number was typed over or removed goes; one that the edit has set stays as it is.
    """
    if not new.formulas:
        return new
    known = set(old.formulas)
    kept = []
    for own in new.formulas:
        if own not in known:
            kept.append(own)
            continue
        path = _followed(old, new, read_path(own.path))
        if path is not None:
            kept.append(own if write_path(path) == own.path else replace(own, path=write_path(path)))
    return new if tuple(kept) == new.formulas else replace(new, formulas=tuple(kept))


def _followed(old: Any, new: Any, path: Path) -> Path | None:
    """Where the number at a path of the old record is in the new one; None where it changed or went."""
    found: list[str | int] = []
    for key in path:
        if isinstance(key, int):
            if not isinstance(old, tuple) or not isinstance(new, tuple) or key >= len(old):
                return None
            place = key
            if len(old) != len(new):
                place = next((i for i, entry in enumerate(new) if entry is old[key]), -1)
            if not 0 <= place < len(new):
                return None
            old, new = old[key], new[place]
            found.append(place)
        else:
            if not isinstance(old, msgspec.Struct) or type(old) is not type(new) or not hasattr(old, key):
                return None
            old, new = getattr(old, key), getattr(new, key)
            found.append(key)
    return tuple(found) if old == new else None


def renamed(text: str, old: str, new: str) -> str:
    """A formula with a quantity called otherwise; no unit has the name of a quantity."""
    return re.sub(rf"(?<!\w){re.escape(old)}(?!\w)", new, text)
