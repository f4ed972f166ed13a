"""Writes a sentence that is data into a paragraph: words stay words, values become fields that edit the record."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import msgspec
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QWidget

from omakase.evaluate.members.sentence import (
    Act,
    Choice,
    Layup,
    Name,
    Number,
    Path,
    Sentence,
    Side,
    Words,
    chosen,
    value_at,
    with_value,
)
from omakase.project.layers import LayerRecord
from omakase.ui.kit.fields import Check, ChoiceField, QuantityField, WordField, anything, not_negative, positive
from omakase.ui.kit.paragraph import Follow, Paragraph, small_button

CHECKS: dict[str, Check] = {"positive": positive, "not_negative": not_negative, "anything": anything}


class QuickLines(msgspec.Struct, frozen=True):
    """How layers are written as a line, and read from one; that raises ValueError."""

    write: Callable[[tuple[LayerRecord, ...]], str]
    read: Callable[[str], tuple[LayerRecord, ...]]


Edit = Callable[[Callable[[Any], Any], str, str], None]  # what changes the record, what undo calls it, what merges


def write_sentence(
    paragraph: Paragraph, sentence: Sentence, edit: Edit, follow: Callable[[Number], Follow] | None = None,
    lines: QuickLines | None = None,
) -> None:  # fmt: skip
    """Adds the parts of a sentence; the paragraph's ``refresh`` is given the record that its paths start from.

    ``follow`` : how a number follows a formula, where it may.  ``lines`` : how layers are written and read.
    """
    for part in sentence:
        if isinstance(part, Words):
            paragraph.text(part.text)
        elif isinstance(part, Number):
            _number(paragraph, part, edit, follow(part) if follow is not None else None)
        elif isinstance(part, Side):
            _side(paragraph, part, edit)
        elif isinstance(part, Choice):
            _choice(paragraph, part, edit)
        elif isinstance(part, Name):
            _name(paragraph, part, edit)
        elif isinstance(part, Layup):
            assert lines is not None
            _layup(paragraph, part, edit, lines)
        elif isinstance(part, Act):
            button = small_button(part.text, part.what)
            button.clicked.connect(lambda _on, part=part: edit(part.change, part.step, ""))
            paragraph.widget(button)


def _number(paragraph: Paragraph, part: Number, edit: Edit, follow: Follow | None) -> None:
    def shown(record: Any) -> float:
        value = float(value_at(record, part.path))
        return abs(value) if part.signed else value

    def put(value: float) -> None:
        def change(record: Any) -> Any:
            negative = part.signed and value_at(record, part.path) < 0.0
            return with_value(record, part.path, -value if negative else value)

        edit(change, part.step, ".".join(map(str, part.path)))

    field = paragraph.quantity(QuantityField(part.dimension, part.name, CHECKS[part.range]), shown, put, follow)
    _name_path(field, part.path)


def _name_path(field: QWidget, path: Path) -> None:
    """By which what is wrong with a value finds its field."""
    field.setProperty("path", ".".join(map(str, path)))


def _side(paragraph: Paragraph, part: Side, edit: Edit) -> None:
    def put(key: str) -> None:
        sign = 1.0 if key == "+" else -1.0
        edit(lambda record: with_value(record, part.path, sign * abs(value_at(record, part.path))), part.step, "")

    field = ChoiceField(part.name, {"+": part.words[0], "-": part.words[1]})
    paragraph.choice(field, lambda record: "+" if value_at(record, part.path) >= 0.0 else "-", put)


def _choice(paragraph: Paragraph, part: Choice, edit: Edit) -> None:
    values = {key: value for key, _, value in part.options}
    field = ChoiceField(part.name, {key: word for key, word, _ in part.options})
    _name_path(field, part.path)
    explained = dict(part.explained)
    for i, key in enumerate(values):
        if key in explained:
            field.setItemData(i, explained[key], Qt.ItemDataRole.ToolTipRole)
    paragraph.choice(
        field, lambda record: chosen(part, record)[0],
        lambda key: edit(lambda record: part.put(record, values[key]), part.step, ""),
    )  # fmt: skip


def _layup(paragraph: Paragraph, part: Layup, edit: Edit, lines: QuickLines) -> None:
    """A quick line; one that cannot be read stays as it was typed, with what is wrong below the sentence."""
    field = WordField(part.name)
    field.setMaxLength(400)

    def put(text: str) -> None:
        try:
            layers = lines.read(text)
        except ValueError as error:
            field.show_problem(str(error))
            return
        field.show_problem("")
        edit(lambda record: with_value(record, part.path, layers), part.step, "")

    paragraph.word(field, lambda record: lines.write(value_at(record, part.path)), put)


def _name(paragraph: Paragraph, part: Name, edit: Edit) -> None:
    field = WordField(part.name)
    _name_path(field, part.path)
    paragraph.word(
        field, lambda record: str(value_at(record, part.path)),
        lambda text: edit(lambda record: with_value(record, part.path, text), part.step, ""),
    )  # fmt: skip
