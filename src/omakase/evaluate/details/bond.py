"""Glued seams: their sentence, what may be changed about them, and a section through one."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from omakase.core.build.masses import MassRow
from omakase.core.details.bond import Bond, stated
from omakase.core.details.detail import Detail as CoreDetail
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
from omakase.evaluate.details.section import seam_section
from omakase.evaluate.members.drawing import Drawing
from omakase.evaluate.members.sentence import Part, Sentence, Words
from omakase.evaluate.sizing.lever import Lever
from omakase.project.details import BondDetail
from omakase.project.model import Brief, Candidate
from omakase.units import UnitSystem

FORMS = (
    ("lap", "single lap", "lap"), ("lip", "lip that closes two shells", "lip"), ("cap", "cap on its web", "cap"),
    ("stringer", "stringer on its skin", "stringer"), ("scarf", "scarf", "scarf"), ("step", "stepped lap", "step"),
)  # fmt: skip
SIDES = (("face_b", "face B", "face_b"), ("face_a", "face A", "face_a"))
PREPARATIONS = (
    ("abraded", "abraded and wiped clean", "abraded"),
    ("peel_abraded", "peel ply torn off and abraded", "peel_abraded"),
    ("peel_ply", "peel ply torn off", "peel_ply"), ("moulded", "as it came from the mould", "moulded"),
)  # fmt: skip
PREPARED_WORDS = (
    ("abraded", "all of the glue's strength"), ("peel_abraded", "95 % of it (common practice, no source)"),
    ("peel_ply", "80 % of it (common practice, no source)"),
    ("moulded", "40 % of it: release agent stays on it (common practice, no source)"),
)  # fmt: skip
SURROUNDINGS = (("dry", "at room temperature, dry", "dry"), ("warm", "warm or damp", "warm"),
                ("hot_wet", "hot and wet", "hot_wet"))  # fmt: skip
SURROUNDED_WORDS = (
    ("dry", "all of the glue's strength"), ("warm", "75 % of it (common practice, no source)"),
    ("hot_wet", "50 % of it (common practice, no source)"),
)  # fmt: skip
HELD = (("free", "free to bend", True), ("held", "held against bending", False))
HELD_WORDS = (
    ("free", "as a single lap is: its eccentricity peels"),
    ("held", "backed by something stiff, or a lap on both sides: no peel by eccentricity"),
)
TARGET = (("no", "need not", False), ("yes", "is to", True))
WIDER = (1.25, 1.5, 2.0, 2.5, 3.0, 4.0, 5.0, 6.0)
GAPS = (0.2e-3, 0.3e-3, 0.5e-3, 0.8e-3, 1e-3, 1.5e-3, 2e-3, 3e-3)


class BondKind:
    """See ``DetailKind``."""

    name = "bond"
    title = "a glued seam"
    record = BondDetail

    def new(self, brief: Brief, candidate: Candidate, identity: str) -> BondDetail:
        x, y, wall = start(brief, candidate)
        return BondDetail(identity, f"seam {identity[1:]}", x, y, wall)

    def sentence(self, brief: Brief, candidate: Candidate, index: int, materials: Mapping[str, Material]) -> Sentence:
        detail = candidate.details[index]
        assert isinstance(detail, BondDetail)
        fields = Fields(index, detail.name)
        parts: list[Part] = [
            *place_sentence(brief, candidate, fields), Words(": a"), fields.choice("form", "Form", FORMS), Words(","),
            fields.number("overlap", "length", "Overlap"), Words("wide"),
        ]  # fmt: skip
        if detail.form == "step":
            parts += [Words("in"), fields.choice("steps", "Steps", COUNTS), Words("steps")]
        parts += [
            Words(", glued with"), fields.material("adhesive", "Adhesive", materials, lambda m: m.kind == "adhesive"),
            fields.number("gap", "length", "Bond line"), Words("thick. Surface:"),
            fields.choice("preparation", "Surface", PREPARATIONS, PREPARED_WORDS), Words("; works"),
            fields.choice("surroundings", "Surroundings of the glue", SURROUNDINGS, SURROUNDED_WORDS),
        ]  # fmt: skip
        if detail.form not in ("scarf", "step"):
            parts += [Words("; it is"), fields.choice("bends", "Bending", HELD, HELD_WORDS)]
        parts += [
            Words(". The laminate"), fields.choice("laminate_first", "Laminate before glue", TARGET),
            Words("fail before the glue. Pulled at"),
            fields.number("angle", "angle", "Direction of the pull", "anything"),
            Words("to x."), *seam_loads(candidate, index, fields), Words("."),
            *layup_sentence(brief, candidate, index, fields), Words("("),
            fields.choice("side", "Glued face", SIDES), Words("of a sandwich); the other sheet is"),
        ]  # fmt: skip
        if detail.other:
            parts += [fields.layup("other", "Other sheet"), fields.put("the same", "Another one like it", "other", ())]
        else:
            own = detail.layers or own_layers(candidate.layers[:1])
            parts += [Words("the same"), fields.put("another", "Another sheet below", "other", own)]
        return tuple(parts)

    def levers(
        self, candidate: Candidate, index: int, materials: Mapping[str, Material], units: UnitSystem
    ) -> Iterator[Lever]:
        detail = candidate.details[index]
        assert isinstance(detail, BondDetail)
        sizes = [round(share * detail.overlap, 4) for share in WIDER]
        yield from one_lever("overlap", "a wider overlap", detail, [
            changed(candidate, index, f"overlap {length_text(size, units)}", overlap=size) for size in sizes
        ])  # fmt: skip
        glue = materials.get(detail.adhesive)
        low, high = (0.0, 1.0) if glue is None else (stated(glue, "gap_low", 0.0), stated(glue, "gap_high", 1.0))
        gaps = [gap for gap in GAPS if max(low, detail.gap * 1.001) <= gap <= high]
        yield from one_lever("gap", "a thicker bond line", detail, [
            changed(candidate, index, f"bond line {length_text(gap, units)}", gap=gap) for gap in gaps
        ])  # fmt: skip
        others = [name for name, own in materials.items() if own.kind == "adhesive" and name != detail.adhesive]
        yield from one_lever("adhesive", "another glue", detail, [
            changed(candidate, index, f"glued with {name}", adhesive=name, gap=_within(materials[name], detail.gap))
            for name in others
        ])  # fmt: skip
        if detail.preparation != "abraded":
            yield from one_lever("surface", "a better surface", detail, [
                changed(candidate, index, "abraded and wiped clean", preparation="abraded")
            ])  # fmt: skip
        if detail.form == "lap":
            yield from one_lever("scarf", "a scarf", detail, [
                changed(candidate, index, f"a scarf of {length_text(size, units)}", form="scarf", overlap=size)
                for size in sizes
            ])  # fmt: skip

    def masses(
        self, brief: Brief, candidate: Candidate, detail: BondDetail,
        materials: Mapping[str, Material], units: UnitSystem,
    ) -> Iterator[MassRow]:  # fmt: skip
        """The glue of its bond line."""
        adhesive = materials.get(detail.adhesive)
        if adhesive is None:
            return
        long = added.seam_length(brief, candidate, detail)
        mass = long * detail.overlap * detail.gap * adhesive.value("density")
        yield added.row("bond", detail, mass, f"{added.length_words(long, units)} of {adhesive.id}")

    def drawing(self, made: CoreDetail) -> Drawing | None:
        return seam_section(made) if isinstance(made, Bond) else None


def _within(glue: Material, gap: float) -> float:
    """The bond line nearest to ``gap`` that a glue can fill."""
    return min(max(gap, stated(glue, "gap_low", gap)), stated(glue, "gap_high", gap))


KIND = BondKind()
