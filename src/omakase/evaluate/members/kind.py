"""What the program must know of a kind of member; everything else is written once for all kinds."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Protocol

import msgspec
import numpy as np

from omakase.core.build.pieces import shoelace
from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material
from omakase.core.members.field import Response
from omakase.core.members.panel_given import Accuracy
from omakase.evaluate.members.drawing import Drawing
from omakase.evaluate.members.sentence import Sentence
from omakase.evaluate.sizing.lever import Lever
from omakase.evaluate.sizing.parameter import Parameter
from omakase.project.model import Brief, Candidate, Form, Load, LoadCase, Member
from omakase.project.spans import OutlinePoint
from omakase.units import UnitSystem


class LoadOffer(msgspec.Struct, frozen=True):
    """A load that may be added: its kind in the file, and the words that offer it."""

    kind: str
    text: str


class Flat(msgspec.Struct, frozen=True, eq=False):
    """A layer laid out flat: its ``outline`` (n, 2) in m along and across, and the outlines of its ``holes``."""

    outline: np.ndarray
    holes: tuple[np.ndarray, ...] = ()

    @property
    def area(self) -> float:
        """m², without its holes."""
        return shoelace(self.outline) - sum(shoelace(hole) for hole in self.holes)


class MemberKind(Protocol):
    """A kind of member.

    ``name`` : as in the file; ``title`` : as people say it.  ``member``, ``form`` : its records.  ``loads`` : what it
    may carry, ``first_load`` : the kind that a new load case begins with.  ``limits`` : which of the quantities a brief
    may limit.  ``reduced`` : edits are answered from prepared shapes, as responding takes long; ``quicker`` : a coarse
    answer is quicker than the full one.
    ``can_be_drawn`` : its section may be drawn by points.  ``missing`` : pages that do not work for it yet, with the
    sentence that stands there.
    """

    name: str
    title: str
    member: type
    form: type
    loads: tuple[LoadOffer, ...]
    first_load: str
    limits: tuple[str, ...]
    reduced: bool
    quicker: bool
    missing: Mapping[str, str]
    can_be_drawn: bool

    def respond(
        self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material], accuracy: Accuracy
    ) -> tuple[Stack, Response]:
        """The whole wall's stack and the response.  Raises OmakaseError."""
        ...

    def walls(self, candidate: Candidate) -> tuple[str, ...]:
        """Names of the walls that a candidate has, as its layers name them; one empty name where there is one wall."""
        ...

    def layer_areas(self, brief: Brief, candidate: Candidate) -> tuple[float, ...]:
        """m² of each layer of the candidate; zeros where it cannot be said."""
        ...

    def flat_layers(self, brief: Brief, candidate: Candidate) -> tuple[tuple[Flat, ...], ...]:
        """Each layer of the candidate as it is cut; none where it lies nowhere.  Raises OmakaseError."""
        ...

    def drawn_by(self, candidate: Candidate, points: tuple[OutlinePoint, ...]) -> Candidate:
        """The candidate with a section drawn by these points; itself where that cannot be."""
        ...

    def new_member(self) -> Member: ...
    def new_form(self, brief: Brief) -> Form:
        """The form a new candidate of a brief starts with."""
        ...

    def default_load(self, brief: Brief, kind: str) -> Load: ...

    def sentence(self, brief: Brief) -> Sentence:
        """The member as it is given; paths from the brief."""
        ...

    def load_sentence(self, brief: Brief, case: int, load: int) -> Sentence:
        """A load; paths from the brief."""
        ...

    def form_sentence(self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material]) -> Sentence:
        """What a candidate chooses beside its layers; paths from the candidate.  Empty where there is nothing."""
        ...

    def plain_member(self, brief: Brief, units: UnitSystem) -> str:
        """The member as text for paper."""
        ...

    def plan(self, brief: Brief, case: LoadCase | None, units: UnitSystem) -> Drawing | None:
        """The member with its supports and the loads of a case; None where the window has a picture of its own."""
        ...

    def parameters(self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material]) -> Iterator[Parameter]:
        """Numbers of the member and the form that may be studied."""
        ...

    def levers(self, brief: Brief, candidate: Candidate, units: UnitSystem, passes: bool) -> Iterator[Lever]:
        """What may be changed beside the layers."""
        ...
