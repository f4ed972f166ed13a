"""Sentences as data: words, and values of a record by their path; a window makes fields of them, paper plain text.

A path is a tuple of field names and indices from the record that the sentence is about, a brief or a candidate.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, Literal

import msgspec

from omakase.project.quickline import write_quick_line
from omakase.units import FIELD, UnitSystem, format_value

Path = tuple[str | int, ...]
Range = Literal["positive", "not_negative", "anything"]


class Words(msgspec.Struct, frozen=True):
    """Words between fields."""

    text: str


class Number(msgspec.Struct, frozen=True):
    """A quantity.  ``name`` : what a screen reader calls it; ``step`` : what undo calls its edit.

    ``signed`` : only its size is shown, its sign belongs to a ``Side``.
    """

    path: Path
    dimension: str
    name: str
    step: str
    range: Range = "positive"
    signed: bool = False


class Side(msgspec.Struct, frozen=True):
    """The sign of a quantity as one of two words, the first for positive."""

    path: Path
    name: str
    step: str
    words: tuple[str, str] = ("face A", "face B")


class Choice(msgspec.Struct, frozen=True):
    """One of several values: (key, word, value), and what each means.

    ``follow`` : (record before, record with the other value) → that record with what else must go along.
    """

    path: Path
    name: str
    step: str
    options: tuple[tuple[str, str, Any], ...]
    explained: tuple[tuple[str, str], ...] = ()
    follow: Callable[[Any, Any], Any] | None = None

    def put(self, record: Any, value: Any) -> Any:
        """The record with another value chosen."""
        new = with_value(record, self.path, value)
        return new if self.follow is None else self.follow(record, new)


class Name(msgspec.Struct, frozen=True):
    """A short text."""

    path: Path
    name: str
    step: str


class Layup(msgspec.Struct, frozen=True):
    """Layers as a quick line."""

    path: Path
    name: str
    step: str


class Act(msgspec.Struct, frozen=True):
    """A small button that changes the record: an entry put into a list, or taken out.  Not on paper."""

    text: str
    what: str
    step: str
    change: Callable[[Any], Any]


# a line over a panel, by its axis
WAYS = (("along", "along at y", True), ("across", "across at x", False))

Part = Words | Number | Side | Choice | Name | Layup | Act
Sentence = tuple[Part, ...]


def value_at(record: Any, path: Path) -> Any:
    """The value at a path."""
    for key in path:
        record = record[key] if isinstance(key, int) else getattr(record, key)
    return record


def with_value(record: Any, path: Path, value: Any) -> Any:
    """The record with another value at a path; all else is shared with the old one."""
    if not path:
        return value
    key, rest = path[0], path[1:]
    if isinstance(key, int):
        new = with_value(record[key], rest, value)
        return (*record[:key], new, *record[key + 1 :])
    return msgspec.structs.replace(record, **{key: with_value(getattr(record, key), rest, value)})


def with_entry(record: Any, path: Path, index: int, entry: Any) -> Any:
    """The record with an entry put into the list at a path, before ``index``."""
    entries = value_at(record, path)
    return with_value(record, path, (*entries[:index], entry, *entries[index:]))


def without_entry(record: Any, path: Path, index: int) -> Any:
    """The record with an entry of the list at a path taken out."""
    entries = value_at(record, path)
    return with_value(record, path, (*entries[:index], *entries[index + 1 :]))


def chosen(part: Choice, record: Any) -> tuple[str, str]:
    """(key, word) of a choice's present value; of the first where it is none of them."""
    value = value_at(record, part.path)
    return next(((key, word) for key, word, option in part.options if option == value), part.options[0][:2])


def outer_form(sentence: Sequence[Part]) -> tuple[object, ...]:
    """A sentence without what its buttons do, so that two can be compared."""
    return tuple(
        part.what if isinstance(part, Act)
        else msgspec.structs.replace(part, follow=None) if isinstance(part, Choice)
        else part
        for part in sentence
    )  # fmt: skip


NOT_TAKEN: Sentence = (Words("a load that this kind of member cannot carry: remove it"),)


def within(text: str) -> str:
    """A title as it stands within a sentence: its first letter small."""
    return text[:1].lower() + text[1:]


def plain(sentence: Sequence[Part], record: Any, units: UnitSystem) -> str:
    """The sentence as text, values as they were typed, ending in a full stop."""
    words: list[str] = []
    for part in sentence:
        if isinstance(part, Words):
            words.append(part.text)
        elif isinstance(part, Number):
            value = value_at(record, part.path)
            value = abs(value) if part.signed else value
            words.append(format_value(value, part.dimension, units, with_unit=True, digits=FIELD))
        elif isinstance(part, Side):
            words.append(part.words[0 if value_at(record, part.path) >= 0.0 else 1])
        elif isinstance(part, Choice):
            words.append(chosen(part, record)[1])
        elif isinstance(part, Name):
            words.append(str(value_at(record, part.path)))
        elif isinstance(part, Layup):
            words.append(write_quick_line(value_at(record, part.path), units))
    text = " ".join(word for word in words if word)
    for mark in ",;.":
        text = text.replace(f" {mark}", mark)
    return text.rstrip(".") + "."


def own_weight(path: Path, which: str) -> Sentence:
    """Own weight times g; for every kind alike."""
    number = Number(path, "acceleration", f"Multiple of g, {which}", "multiple of g", "anything")
    return Words("its own weight times"), number
