"""Edges of sandwiches: their sentence, what may be changed about them, and a section through one."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from omakase.core.build.masses import MassRow
from omakase.core.details.detail import Detail as CoreDetail
from omakase.core.details.edge import Edge
from omakase.core.materials.material import Material
from omakase.evaluate.details import added
from omakase.evaluate.details.kind import (
    Fields,
    changed,
    layup_sentence,
    one_lever,
    own_layers,
    place_sentence,
    seam_loads,
    start,
)
from omakase.evaluate.details.section import edge_section
from omakase.evaluate.members.drawing import Drawing
from omakase.evaluate.members.sentence import Part, Sentence, Words
from omakase.evaluate.sizing.lever import Lever
from omakase.project import detail_translate
from omakase.project.details import EdgeDetail
from omakase.project.layers import LayerRecord
from omakase.project.model import Brief, Candidate
from omakase.units import UnitSystem

CLOSINGS = (
    ("run_out", "run out to a solid flange", "run_out"), ("potted", "potted", "potted"),
    ("wrap", "closed by plies laid round it", "wrap"), ("strip", "closed by a solid strip", "strip"),
    ("tape", "closed by tape", "tape"), ("open", "left open", "open"),
)  # fmt: skip
CLOSED = (
    ("run_out", "one face comes down at a slope: bolts and glue find solid laminate"),
    ("potted", "core raked out and filled: heavy and tight"), ("wrap", "light and tough, takes time"),
    ("strip", "wood or dense foam: easy, takes screws"), ("tape", "keeps dust out, not water"),
    ("open", "for trials only: the core absorbs water"),
)  # fmt: skip
FLAT = (("face_a", "face A", "face_a"), ("face_b", "face B", "face_b"))
SLOPES = (30.0, 25.0, 20.0, 15.0, 10.0)


class EdgeKind:
    """See ``DetailKind``."""

    name = "edge"
    title = "an edge of a sandwich"
    record = EdgeDetail

    def new(self, brief: Brief, candidate: Candidate, identity: str) -> EdgeDetail:
        _, y, wall = start(brief, candidate)
        return EdgeDetail(identity, f"edge {identity[1:]}", 0.0, y, wall)

    def sentence(self, brief: Brief, candidate: Candidate, index: int, materials: Mapping[str, Material]) -> Sentence:
        detail = candidate.details[index]
        assert isinstance(detail, EdgeDetail)
        fields = Fields(index, detail.name)
        cloth = LayerRecord(next((own.material for own in candidate.layers if own.role == "ply"), "twill200"), 45.0)
        parts: list[Part] = [
            *place_sentence(brief, candidate, fields), Words(": the edge is"),
            fields.choice("closing", "Closing", CLOSINGS, CLOSED),
        ]  # fmt: skip
        if detail.closing == "run_out":
            parts += [
                Words("at"), fields.number("slope", "angle", "Slope"), Words(", the flange"),
                fields.number("width", "length", "Width of the flange"), Words("wide and of"),
                *_layers(fields, "flange", "Flange", detail.flange, "both faces together", (cloth,) * 4),
                Words("; even:"), fields.choice("flat", "Even face", FLAT), Words("; between the faces at the kink:"),
                *_layers(fields, "tongue", "Tongue", detail.tongue, "no tongue", (cloth,) * 2),
            ]  # fmt: skip
        elif detail.closing in ("potted", "strip"):
            parts += [
                Words(","), fields.number("width", "length", "Width of what closes it"), Words("of"),
                fields.material("filler", "Filler", materials, lambda m: m.can_be_core),
            ]  # fmt: skip
        elif detail.closing == "wrap":
            parts += [
                Words(":"), *_layers(fields, "wrap", "Plies round it", detail.wrap, "not said", (cloth,)),
                Words(", overlapping by"), fields.number("width", "length", "Overlap of the plies round it"),
            ]  # fmt: skip
        return (
            *parts, Words(". Across it at"), fields.number("angle", "angle", "Direction across", "anything"),
            Words("to x."), *seam_loads(candidate, index, fields), Words("."),
            *layup_sentence(brief, candidate, index, fields),
        )  # fmt: skip

    def levers(
        self, candidate: Candidate, index: int, _materials: Mapping[str, Material], _units: UnitSystem
    ) -> Iterator[Lever]:
        detail = candidate.details[index]
        assert isinstance(detail, EdgeDetail)
        if detail.closing != "run_out":
            return
        yield from one_lever("slope", "a gentler slope", detail, [
            changed(candidate, index, f"a slope of {slope:g}°", slope=slope) for slope in SLOPES if slope < detail.slope
        ])  # fmt: skip
        cloths = [own for own in candidate.layers if own.role == "ply"]
        plies = tuple(own_layers(cloths[:1]) * count for count in (1, 2, 4)) if cloths else ()
        yield from one_lever("tongue", "a tongue between the faces", detail, [
            changed(candidate, index, f"a tongue of {len(layers)} plies of {layers[0].material}", tongue=layers)
            for layers in plies
        ])  # fmt: skip

    def masses(
        self, brief: Brief, candidate: Candidate, detail: EdgeDetail,
        materials: Mapping[str, Material], units: UnitSystem,
    ) -> Iterator[MassRow]:  # fmt: skip
        """What closes the edge, without what it takes the place of."""
        where = detail_translate.site(brief, candidate, detail, materials)
        made = detail_translate.edge(detail, where, (), brief, materials)
        long = added.seam_length(brief, candidate, detail)
        if made.mass:
            yield added.row("edge", detail, made.mass * long, added.length_words(long, units))

    def drawing(self, made: CoreDetail) -> Drawing | None:
        return edge_section(made) if isinstance(made, Edge) else None


def _layers(
    fields: Fields, field: str, title: str, now: tuple[LayerRecord, ...], none: str, offered: tuple[LayerRecord, ...]
) -> list[Part]:
    """Layers as a quick line with a button that takes them away, or what stands for none with one that puts some."""
    if now:
        return [fields.layup(field, title), fields.put("×", f"{title}: {none}", field, ())]
    return [Words(none), fields.put(f"+ {title.lower()}", f"{title}: layers of its own", field, offered)]


KIND = EdgeKind()
