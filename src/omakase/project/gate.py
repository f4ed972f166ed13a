"""The one gate for what enters a project, from a file, a field or an import.

It lets finite numbers of a possible size through, whole texts, and lists that can be worked with.
What passed it can always be written as JSON and read again.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Iterator
from functools import lru_cache
from itertools import repeat
from typing import Any

import msgspec

from omakase.core.errors import OmakaseError
from omakase.project.model import Project

LARGEST = 1e15  # no quantity of this trade in SI units is larger
LONGEST_TEXT = 100_000
DEEPEST = 40
MOST = {  # entries of a list by its name: beyond it the window would be busy for seconds
    "briefs": 200, "candidates": 200, "load_cases": 100, "loads": 200, "layers": 400, "materials": 20_000,
    "samples": 5_000, "series": 500, "specimens": 500, "acceptances": 5_000,
    "jobs": 200, "parts": 400, "works": 200, "weighed": 2_000, "points": 20_000, "opinions": 2_000,
}  # fmt: skip
RECORDS = frozenset((dict, list, tuple))
DIGITS = 400  # of a number written out

_SURROGATE = re.compile("[\ud800-\udfff]")
_CONTROL = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f]")


class GateError(OmakaseError):
    """What cannot be taken into a project, with its place."""


def clean_text(text: str) -> str:
    """A text that can be written as UTF-8: half characters become �, control characters go."""
    return text if _is_whole(text) else _CONTROL.sub("", _SURROGATE.sub("\ufffd", text))


def _is_whole(text: str) -> bool:
    return text.isprintable() or not (_CONTROL.search(text) or _SURROGATE.search(text))


_is_whole_name = lru_cache(maxsize=500)(_is_whole)  # the same names come again in every record


def read_integer(text: str) -> int | float:
    """An integer of a JSON text.  Raises GateError for one that fills pages."""
    if len(text) > DIGITS:
        raise GateError(f"a number of {len(text)} digits ({text[:12]}…) is no quantity")
    return int(text)


def clean(records: Any) -> Any:
    """Plain records with whole texts.  Raises GateError naming the place of what cannot be."""
    return records if _is_clean(records, "", 0, {}) else _cleaned(records, "", 0)


def _is_clean(value: Any, name: str, depth: int, seen: dict[int, object]) -> bool:
    """Whether there is nothing to mend or to refuse in plain records or those of a project, told without writing out
    the place of each value, since most are right and there are many.  ``seen`` : records that were clean before."""
    names: Iterable[str]
    kind = type(value)
    if kind is list or kind is tuple:
        if len(value) > MOST.get(name, len(value)):
            return False
        if id(value) in seen:
            return True
        names, values = repeat(name), value
    elif kind is dict:
        names, values = value, value.values()
        if not all(map(_is_whole_name, names)):
            return False
    elif not isinstance(value, msgspec.Struct):
        names, values = (name,), (value,)  # a single one
    elif id(value) in seen:
        return True
    else:
        names, values = value.__struct_fields__, msgspec.structs.astuple(value)
    if depth > DEEPEST:
        return False
    for own_name, own in zip(names, values, strict=False):
        kind = type(own)  # most are no records: these are looked at without a call for each
        if kind is str:
            if len(own) > LONGEST_TEXT or not (own.isprintable() or _is_whole(own)):
                return False
        elif kind is float or kind is int:
            if not -LARGEST <= own <= LARGEST:
                return False
        elif (
            id(own) not in seen
            and (kind in RECORDS or isinstance(own, msgspec.Struct))
            and not _is_clean(own, own_name, depth + 1, seen)
        ):
            return False
    if isinstance(value, msgspec.Struct | tuple):
        seen[id(value)] = value
    return True


def _cleaned(records: Any, place: str, depth: int) -> Any:
    if isinstance(records, float | int) and not isinstance(records, bool):
        _check_number(records, place)
        return records
    if isinstance(records, str):
        _check_length(records, place)
        return clean_text(records)
    if isinstance(records, list | dict):
        if depth > DEEPEST:
            raise GateError(f"{_shown(place)} is nested more than {DEEPEST} levels deep")
        if isinstance(records, dict):
            return {clean_text(key): _cleaned(value, f"{place}.{key}", depth + 1) for key, value in records.items()}
        _check_count(records, place)
        return [_cleaned(value, f"{place}[{i}]", depth + 1) for i, value in enumerate(records)]
    return records


def _check_number(value: float, place: str) -> None:
    if not math.isfinite(value):
        raise GateError(f"{_shown(place)} is not a finite number")
    if abs(value) > LARGEST:
        raise GateError(f"{_shown(place)} = {float(value):.3g} is larger than anything that can be built")


def _check_length(text: str, place: str) -> None:
    if len(text) > LONGEST_TEXT:
        raise GateError(f"{_shown(place)} has {len(text):,} characters; at most {LONGEST_TEXT:,} are read")


def _check_count(values: list | tuple, place: str) -> None:
    most = MOST.get(re.sub(r"\[\d+\]\Z", "", place).rsplit(".", 1)[-1])
    if most is not None and len(values) > most:
        raise GateError(f"{_shown(place)} has {len(values):,} entries; at most {most:,} can be worked with")


def _shown(place: str) -> str:
    return clean_text(place.lstrip(".")[-120:]) or "the file"


class Gate:
    """Checks a project; what it has seen before it does not look at again, so that an edit costs microseconds."""

    MOST_SEEN = 200_000

    def __init__(self) -> None:
        self._seen: dict[int, object] = {}

    def passed(self, project: Project) -> Project:
        """The project, with whole texts.  Raises GateError naming what cannot be."""
        if len(self._seen) > self.MOST_SEEN:
            self._seen.clear()
        if _is_clean(project, "", 0, self._seen) or not self._dirty(project, ""):
            return project
        return msgspec.convert(clean(msgspec.to_builtins(project)), Project)

    def _dirty(self, value: object, place: str) -> bool:
        """Whether a text below needs cleaning.  Raises GateError."""
        if isinstance(value, float | int):
            _check_number(value, place)
            return False
        if isinstance(value, str):
            _check_length(value, place)
            return clean_text(value) != value
        if not isinstance(value, msgspec.Struct | tuple | list | dict) or id(value) in self._seen:
            return False
        if isinstance(value, tuple | list):
            _check_count(value, place)
        dirty = False
        for here, inner in _inside(value, place):  # all of them: each is checked, whatever the first one is
            dirty |= self._dirty(inner, here)
        if not dirty and isinstance(value, msgspec.Struct):
            self._seen[id(value)] = value
        return dirty


def _inside(value: object, place: str) -> Iterator[tuple[str, object]]:
    if isinstance(value, msgspec.Struct):
        for name in value.__struct_fields__:
            yield f"{place}.{name}", getattr(value, name)
    elif isinstance(value, dict):
        for key, inner in value.items():
            yield f"{place}.{key}", key
            yield f"{place}.{key}", inner
    elif isinstance(value, tuple | list):
        for i, inner in enumerate(value):
            yield f"{place}[{i}]", inner
