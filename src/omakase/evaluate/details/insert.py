"""Inserts: their sentence, what may be changed about them, and a section through one."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from omakase.core.build.masses import MassRow
from omakase.core.details.detail import Detail as CoreDetail
from omakase.core.details.insert import Insert
from omakase.core.materials.material import Material
from omakase.evaluate.details import added
from omakase.evaluate.details.bond import PREPARATIONS, PREPARED_WORDS, SURROUNDED_WORDS, SURROUNDINGS
from omakase.evaluate.details.kind import (
    Fields,
    axis_of,
    changed,
    layup_sentence,
    length_text,
    loads_sentence,
    one_lever,
    place_sentence,
    start,
)
from omakase.evaluate.details.section import insert_section
from omakase.evaluate.members.drawing import Drawing
from omakase.evaluate.members.sentence import Name, Part, Sentence, Words, with_value
from omakase.evaluate.sizing.lever import Lever
from omakase.project.details import InsertDetail
from omakase.project.model import Brief, Candidate
from omakase.units import UnitSystem

KINDS = (
    ("through", "insert potted through", "through"), ("potted", "insert potted part of the way", "potted"),
    ("bush", "glued bush", "bush"), ("plate", "metal plate laid in under face A", "plate"),
    ("plug", "solid plug for the core", "plug"),
)  # fmt: skip
STARTS = {"through": "potting650", "potted": "potting650", "plate": "al6082", "plug": "ply-birch"}
WIDER = (1.25, 1.5, 2.0, 2.5, 3.0, 4.0)


class InsertKind:
    """See ``DetailKind``."""

    name = "insert"
    title = "an insert or hard point"
    record = InsertDetail

    def new(self, brief: Brief, candidate: Candidate, identity: str) -> InsertDetail:
        x, y, wall = start(brief, candidate)
        return InsertDetail(identity, f"insert {identity[1:]}", x, y, wall, axis=axis_of(wall))

    def sentence(self, brief: Brief, candidate: Candidate, index: int, materials: Mapping[str, Material]) -> Sentence:
        detail = candidate.details[index]
        assert isinstance(detail, InsertDetail)
        fields = Fields(index, detail.name)
        parts: list[Part] = [
            *place_sentence(brief, candidate, fields), Words(": a"),
            fields.choice("what", "Kind", KINDS, follow=lambda old, new: _other_kind(new, index)),
        ]  # fmt: skip
        parts += _block(detail, fields, materials)
        if detail.taken == "support":
            parts += [Words("; of an edge's force it takes"), fields.number("pitch", "length", "Pitch")]
        parts += _tested(detail, fields)
        return (*parts, *loads_sentence(brief, candidate, index, fields), Words("."),
                *layup_sentence(brief, candidate, index, fields))  # fmt: skip

    def levers(
        self, candidate: Candidate, index: int, materials: Mapping[str, Material], units: UnitSystem
    ) -> Iterator[Lever]:
        detail = candidate.details[index]
        assert isinstance(detail, InsertDetail)

        def sizes(field: str) -> list[float]:
            return [round(share * getattr(detail, field), 4) for share in WIDER]

        if detail.what in ("potted", "through"):
            yield from one_lever("potting", "a wider potting", detail, [
                changed(candidate, index, f"potting {length_text(size, units)} across", potting=size)
                for size in sizes("potting")
            ])  # fmt: skip
        if detail.what == "potted":
            yield from one_lever("through", "potted through", detail, [
                changed(candidate, index, "potted through", what="through")
            ])  # fmt: skip
        if detail.what in ("plate", "plug"):
            yield from one_lever("block", "a larger one", detail, [
                changed(candidate, index, f"{length_text(a, units)} × {length_text(b, units)}", length=a, width=b)
                for a, b in zip(sizes("length"), sizes("width"), strict=True)
            ])  # fmt: skip
        else:
            yield from one_lever("plug", "a plug of plywood", detail, [
                changed(candidate, index, f"a plug of plywood, {length_text(size, units)} square", what="plug",
                        filler="ply-birch", length=size, width=size)
                for size in (0.03, 0.04, 0.05, 0.06, 0.08, 0.1)
            ])  # fmt: skip

    def masses(
        self, brief: Brief, candidate: Candidate, detail: InsertDetail,
        materials: Mapping[str, Material], units: UnitSystem,
    ) -> Iterator[MassRow]:  # fmt: skip
        """Its body and what it is potted with, without the core they take the place of; a plate as it is."""
        stack = added.stack_there(brief, candidate, detail, materials)
        core, areal = added.core_there(stack)
        filler = materials.get(detail.filler)
        density = filler.value("density") if filler is not None else 0.0
        gone = areal / core if core > 0.0 else 0.0
        if detail.what == "plate":
            mass = detail.length * detail.width * detail.thickness * (density - gone)
        elif detail.what == "plug":
            mass = added.disc(detail.potting) * core * (density - gone)
        else:
            deep = detail.depth if detail.what == "potted" else stack.thickness
            body = added.ALUMINIUM * added.disc(detail.diameter, 0.5 * detail.diameter) * deep
            mass = body + added.disc(detail.potting, detail.diameter) * deep * density
            mass -= added.disc(detail.potting) * min(deep, core) * gone
        yield added.row("insert", detail, detail.count * mass, f"{detail.count} of {mass * 1e3:.1f} g")

    def drawing(self, made: CoreDetail) -> Drawing | None:
        return insert_section(made) if isinstance(made, Insert) else None


def _other_kind(candidate: Candidate, index: int) -> Candidate:
    """With what such an insert is usually potted with or made of."""
    detail = candidate.details[index]
    assert isinstance(detail, InsertDetail)
    filler = STARTS.get(detail.what, detail.filler)
    return with_value(candidate, ("details", index, "filler"), filler)


def _block(detail: InsertDetail, fields: Fields, materials: Mapping[str, Material]) -> list[Part]:
    """What holds it, by its kind."""
    parts: list[Part] = []
    if detail.what not in ("plate", "plug"):
        parts += [Words(","), fields.number("diameter", "length", "Diameter"), Words("across")]
    if detail.what in ("potted", "through"):
        parts += [
            Words(", in a hole"), fields.number("potting", "length", "Diameter of the potting"), Words("across"),
        ]  # fmt: skip
        if detail.what == "potted":
            parts += [fields.number("depth", "length", "Depth of the potting"), Words("deep")]
        parts += [
            Words("filled with"),
            fields.material("filler", "Potting", materials, lambda m: "S13" in m.properties and m.kind != "ply"),
        ]  # fmt: skip
    elif detail.what in ("plate", "plug"):
        wanted = (lambda m: m.is_metal) if detail.what == "plate" else (lambda m: m.can_be_core)
        parts += [
            Words("of"), fields.material("filler", "Made of", materials, wanted),
            fields.number("length", "length", "Length"), Words("×"), fields.number("width", "length", "Width"),
        ]  # fmt: skip
        if detail.what == "plate":
            parts += [fields.number("thickness", "length", "Thickness"), Words("thick")]
        parts += [Words("for a screw of"), fields.number("diameter", "length", "Diameter of the screw")]
    if detail.what in ("bush", "plate"):
        parts += [
            Words(", glued with"), fields.material("adhesive", "Adhesive", materials, lambda m: m.kind == "adhesive"),
            Words(", surface"), fields.choice("preparation", "Surface", PREPARATIONS, PREPARED_WORDS), Words(","),
            fields.choice("surroundings", "Surroundings of the glue", SURROUNDINGS, SURROUNDED_WORDS),
        ]  # fmt: skip
    return parts


def _tested(detail: InsertDetail, fields: Fields) -> list[Part]:
    if detail.tested is None:
        return [
            Words(". Not tested"),
            fields.put("tested", "State a tested pull-out load", "tested", 1000.0),
            Words("."),
        ]
    return [
        Words(". Pulled out in a test at"), fields.number("tested", "force", "Pull-out load"),
        Name((*fields.base, "tested_by"), f"Test, {fields.what}", "name the test"),
        fields.put("×", "Drop the test", "tested", None), Words("."),
    ]  # fmt: skip


KIND = InsertKind()
