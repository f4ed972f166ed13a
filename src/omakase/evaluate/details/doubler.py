"""Doublers: their sentence, what may be changed about them, and a section through one."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from omakase.core.build.masses import MassRow
from omakase.core.details.detail import Detail as CoreDetail
from omakase.core.details.doubler import Doubler
from omakase.core.materials.material import Material
from omakase.evaluate.details import added
from omakase.evaluate.details.kind import (
    COUNTS,
    Fields,
    changed,
    layup_sentence,
    length_text,
    one_lever,
    own_layers,
    place_sentence,
    seam_loads,
    start,
)
from omakase.evaluate.details.section import doubler_section
from omakase.evaluate.members.drawing import Drawing
from omakase.evaluate.members.sentence import Part, Sentence, Words
from omakase.evaluate.sizing.lever import Lever
from omakase.project import detail_translate
from omakase.project.details import DoublerDetail
from omakase.project.model import Brief, Candidate
from omakase.units import UnitSystem

ENDS = (("steps", "steps", False), ("scarf", "parts of a scarf", True))
COVERED = (("yes", "a ply covers them", True), ("no", "no ply covers them", False))
LONGER = (1.25, 1.5, 2.0, 3.0, 4.0)


class DoublerKind:
    """See ``DetailKind``."""

    name = "doubler"
    title = "a doubler or patch"
    record = DoublerDetail

    def new(self, brief: Brief, candidate: Candidate, identity: str) -> DoublerDetail:
        x, y, wall = start(brief, candidate)
        cores = [i for i, own in enumerate(candidate.layers) if own.role == "core"]
        face = candidate.layers[: cores[0]] if cores else candidate.layers
        other = own_layers([own for own in face if own.wall == wall and own.role == "ply"])
        return DoublerDetail(identity, f"doubler {identity[1:]}", x, y, wall, other=other)

    def sentence(self, brief: Brief, candidate: Candidate, index: int, materials: Mapping[str, Material]) -> Sentence:
        detail = candidate.details[index]
        assert isinstance(detail, DoublerDetail)
        fields = Fields(index, detail.name)
        parts: list[Part] = [
            *place_sentence(brief, candidate, fields), Words(": layers"),
            fields.layup("other", "Layers of the doubler"),
            Words("over"), fields.number("length", "length", "Length"), Words("at"),
            fields.number("angle", "angle", "Direction of the load", "anything"), Words("to x, ending in"),
            fields.choice("steps", "Steps", COUNTS), fields.choice("tapered", "Ends", ENDS), Words("of"),
            fields.number("run", "length", "Length of a step"), Words(";"),
            fields.choice("covered", "Covering ply", COVERED), Words(". Held by"),
            fields.material(
                "adhesive", "Adhesive", materials, lambda m: m.kind == "adhesive", "its resin, cured together"
            ),
        ]  # fmt: skip
        if detail.adhesive:
            parts += [fields.number("gap", "length", "Bond line"), Words("thick")]
        return (*parts, Words("."), *seam_loads(candidate, index, fields), Words("."),
                *layup_sentence(brief, candidate, index, fields))  # fmt: skip

    def levers(
        self, candidate: Candidate, index: int, _materials: Mapping[str, Material], units: UnitSystem
    ) -> Iterator[Lever]:
        detail = candidate.details[index]
        assert isinstance(detail, DoublerDetail)
        yield from one_lever("length", "a longer doubler", detail, [
            changed(candidate, index, f"{length_text(size, units)} long", length=size)
            for size in (round(share * detail.length, 4) for share in LONGER)
        ])  # fmt: skip
        yield from one_lever("steps", "more steps", detail, [
            changed(candidate, index, f"{count} steps", steps=count) for count in range(detail.steps + 1, 13)
        ])  # fmt: skip
        if not detail.tapered:
            yield from one_lever("scarf", "scarfed ends", detail, [
                changed(candidate, index, f"ends scarfed over {length_text(count * detail.run, units)}", tapered=True,
                        steps=count)
                for count in range(detail.steps, 13)
            ])  # fmt: skip

    def masses(
        self, brief: Brief, candidate: Candidate, detail: DoublerDetail,
        materials: Mapping[str, Material], units: UnitSystem,
    ) -> Iterator[MassRow]:  # fmt: skip
        """Its layers, stepped at both ends, and its glue."""
        stack = added.stack_there(brief, candidate, detail, materials)
        own = detail_translate.stack_of(detail.other, brief, materials, "other") if detail.other else None
        core = next((i for i, layer in enumerate(stack.layers) if layer.role == "core"), len(stack.layers))
        areal = sum((own or type(stack)(stack.layers[:core])).areal_mass().values())
        long = added.seam_length(brief, candidate, detail)
        yield added.row("insert", detail, areal * detail.length * long, f"{added.length_words(long, units)} wide")
        adhesive = materials.get(detail.adhesive)
        if adhesive is not None:
            mass = long * detail.length * detail.gap * adhesive.value("density")
            yield added.row("bond", detail, mass, f"under it, {adhesive.id}")

    def drawing(self, made: CoreDetail) -> Drawing | None:
        return doubler_section(made) if isinstance(made, Doubler) else None


KIND = DoublerKind()
