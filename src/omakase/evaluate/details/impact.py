"""Struck faces: their sentence, and the face drawn as it lies."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from omakase.core.build.masses import MassRow
from omakase.core.details.detail import Detail as CoreDetail
from omakase.core.details.impact import THREATS, ImpactFace
from omakase.core.materials.material import Material
from omakase.evaluate.details.kind import Fields, layup_sentence, place_sentence, start
from omakase.evaluate.details.section import layers
from omakase.evaluate.members.drawing import Arrow, Drawing, Note
from omakase.evaluate.members.sentence import Sentence, Words
from omakase.evaluate.sizing.lever import Lever
from omakase.project.details import ImpactDetail
from omakase.project.model import Brief, Candidate
from omakase.units import UnitSystem

SIDES = (("face_a", "face A", "face_a"), ("face_b", "face B", "face_b"))
STRUCK = tuple((key, word, key) for key, word in THREATS.items())


class ImpactKind:
    """See ``DetailKind``."""

    name = "impact"
    title = "a face that is struck"
    record = ImpactDetail

    def new(self, brief: Brief, candidate: Candidate, identity: str) -> ImpactDetail:
        x, y, wall = start(brief, candidate)
        return ImpactDetail(identity, f"struck face {identity[1:]}", x, y, wall)

    def sentence(self, brief: Brief, candidate: Candidate, index: int, _materials: Mapping[str, Material]) -> Sentence:
        fields = Fields(index, candidate.details[index].name)
        return (
            *place_sentence(brief, candidate, fields), Words(":"), fields.choice("side", "Struck face", SIDES),
            Words("is struck by"), fields.choice("threat", "What strikes it", STRUCK),
            Words(". It is rated, with reasons: no reserve factor follows from that."),
            *layup_sentence(brief, candidate, index, fields),
        )  # fmt: skip

    def levers(
        self, _candidate: Candidate, _index: int, _materials: Mapping[str, Material], _units: UnitSystem
    ) -> Iterator[Lever]:
        yield from ()

    def masses(
        self, brief: Brief, candidate: Candidate, detail: ImpactDetail,
        materials: Mapping[str, Material], units: UnitSystem,
    ) -> Iterator[MassRow]:  # fmt: skip
        """Nothing: it rates what is there."""
        return iter(())

    def drawing(self, made: CoreDetail) -> Drawing | None:
        if not isinstance(made, ImpactFace):
            return None
        thickness = made.site.stack.thickness
        reach = 1.5 * thickness
        up = made.side == "face_a"
        at = (0.0, 0.0 if up else -thickness)
        return Drawing((
            *layers(made.site.stack, -reach, reach), Arrow(at, (0.0, -1.0 if up else 1.0)),
            Note((0.0, 0.7 * thickness if up else -1.7 * thickness), f"{THREATS[made.threat]}: {made.rating.level}"),
        ), (-reach, -2.0 * thickness, reach, thickness))  # fmt: skip


KIND = ImpactKind()
