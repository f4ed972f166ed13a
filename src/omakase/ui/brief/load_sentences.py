"""The part of a brief's sentence that tells one load: a force on a patch, a pressure, or own weight."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from omakase.project import edits, model
from omakase.project.commands import replace
from omakase.project.model import Brief, LoadCase
from omakase.ui.kit.fields import Check, ChoiceField, QuantityField, WordField, anything, positive
from omakase.ui.kit.paragraph import Paragraph
from omakase.ui.session import Session


def case_of(brief: Brief, case_id: str) -> LoadCase:
    """A load case of a brief by its id."""
    return next(case for case in brief.load_cases if case.id == case_id)


class LoadSentence:
    """Writes one load into a paragraph; its fields edit the session's brief."""

    def __init__(self, paragraph: Paragraph, session: Session, case_id: str, index: int) -> None:
        self.paragraph, self.session = paragraph, session
        self.case_id, self.index = case_id, index
        self._which = f"{case_id} load {index + 1}"

    def load(self, brief: Brief) -> Any:
        """The load as the brief has it."""
        return case_of(brief, self.case_id).loads[self.index]

    def put(self, what: str, change: Callable[[Any], Any], merge: bool = True) -> None:
        """Replaces the load by what ``change`` makes of it; a run of changes to one thing is one step."""
        brief = self.session.brief
        if brief is not None:
            new = edits.set_load(brief, self.case_id, self.index, change(self.load(brief)))
            key = f"{brief.id} {what} {self._which}" if merge else ""
            self.session.edit_brief(new, what, key)

    def number(self, field: str, dimension: str, what: str, check: Check) -> None:
        """A quantity of the load."""
        self.paragraph.quantity(
            QuantityField(dimension, f"{what}, {self._which}", check),
            lambda brief: getattr(self.load(brief), field),
            lambda value: self.put(what.lower(), lambda load: replace(load, **{field: value})),
        )

    def size(self, field: str) -> None:
        """A force or pressure without its sign, which is told as the face it presses on."""
        self.paragraph.quantity(
            QuantityField(field, f"{field.title()}, {self._which}", positive),
            lambda brief: abs(getattr(self.load(brief), field)),
            lambda value: self.put(
                field, lambda load: replace(load, **{field: value if getattr(load, field) >= 0.0 else -value})
            ),
        )

    def face(self, field: str) -> None:
        """The face that a force or pressure presses on."""
        self.paragraph.text("on")
        self.paragraph.choice(
            ChoiceField(f"Face pressed on, {self._which}", {"A": "face A", "B": "face B"}),
            lambda brief: "A" if getattr(self.load(brief), field) >= 0.0 else "B",
            lambda face: self.put(
                "turn a load over",
                lambda load: replace(load, **{field: abs(getattr(load, field)) * (1.0 if face == "A" else -1.0)}),
                merge=False,
            ),
        )

    def write(self, load: model.Load) -> None:
        """Adds words and fields for this kind of load."""
        p = self.paragraph
        if isinstance(load, model.OwnWeight):
            p.text("its own weight times")
            self.number("g", "acceleration", "Multiple of g", anything)
        elif isinstance(load, model.PressureLoad):
            self.size("pressure")
            self.face("pressure")
        else:
            self.size("force")
            p.text("from a")
            p.word(
                WordField(f"What presses, {self._which}"),
                lambda brief: self.load(brief).what,
                lambda text: self.put("name a load", lambda load: replace(load, what=text), merge=False),
            )
            p.text("of")
            self.number("along_x", "length", "Patch length", positive)
            p.text("×")
            self.number("along_y", "length", "Patch width", positive)
            p.text("at x")
            self.number("x", "length", "Patch centre along the length", anything)
            p.text("y")
            self.number("y", "length", "Patch centre across the width", anything)
            self.face("force")


def write_load(paragraph: Paragraph, session: Session, case_id: str, index: int, load: model.Load) -> None:
    """Writes one load of a case into a paragraph."""
    LoadSentence(paragraph, session, case_id, index).write(load)
