"""Bolts and pins: their sentence, what may be changed about them, and a section through one."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping

from omakase.core.build.masses import MassRow
from omakase.core.details.bolts import GRADES, NUT_FACTORS, preload
from omakase.core.details.detail import Detail as CoreDetail
from omakase.core.details.fastener import EDGE, Fastener
from omakase.core.materials.material import Material
from omakase.evaluate.details import added
from omakase.evaluate.details.kind import (
    COUNTS,
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
from omakase.evaluate.details.section import bolt_section
from omakase.evaluate.members.drawing import Drawing
from omakase.evaluate.members.sentence import Part, Sentence, Words, with_value
from omakase.evaluate.sizing.lever import Lever, Option
from omakase.project.details import FastenerDetail
from omakase.project.model import Brief, Candidate
from omakase.units import UnitSystem, format_value

KINDS = (("bolt", "bolt", "bolt"), ("pin", "pin", "pin"))
GRADE_CHOICES = tuple((grade, grade, grade) for grade in GRADES)
LUBRICATED = (
    ("dry", "dry (K 0.20)", "dry"), ("oiled", "oiled (K 0.16)", "oiled"), ("greased", "greased (K 0.13)", "greased"),
    ("locked", "with a locking nut (K 0.24)", "locked"),
)  # fmt: skip
SEATS = (("washer", "a washer", "washer"), ("plate", "a plate", "plate"))
WASHERS = (12e-3, 15e-3, 18e-3, 24e-3, 30e-3, 40e-3, 50e-3)  # outside diameters that are bought, m
SLEEVES = (1.3, 1.6, 2.0, 2.5)  # outside over the bolt's diameter
PLUGS = (3.0, 4.0, 5.0, 6.0, 8.0)  # times the washer or the bolt
TORQUES = (0.8, 0.65, 0.5, 0.35, 0.25, 0.15)  # of the present one
SLEEVE_OF, PLUGS_OF = ("stainless", "al6082"), ("pvc200", "ply-birch", "potting650")


class FastenerKind:
    """See ``DetailKind``."""

    name = "fastener"
    title = "bolts or pins"
    record = FastenerDetail

    def new(self, brief: Brief, candidate: Candidate, identity: str) -> FastenerDetail:
        x, y, wall = start(brief, candidate)
        return FastenerDetail(identity, f"bolt {identity[1:]}", x, y, wall, axis=axis_of(wall))

    def sentence(self, brief: Brief, candidate: Candidate, index: int, materials: Mapping[str, Material]) -> Sentence:
        detail = candidate.details[index]
        assert isinstance(detail, FastenerDetail)
        fields = Fields(index, detail.name)
        parts: list[Part] = [
            *place_sentence(brief, candidate, fields), Words(":"), fields.choice("count", "Number", COUNTS), Words("×"),
            fields.choice("what", "Kind", KINDS), Words("of"), fields.number("diameter", "length", "Diameter"),
            Words(", grade"), fields.choice("grade", "Grade", GRADE_CHOICES),
        ]  # fmt: skip
        if detail.count > 1 or detail.taken == "support":
            parts += [Words(","), fields.number("pitch", "length", "Pitch"), Words("apart")]
        if detail.count > 1:
            parts += [Words("in a row at"), fields.number("row_angle", "angle", "Direction of the row", "anything")]
        if detail.what == "bolt":
            parts += _tightened(detail, fields)
        parts += _seat(detail, fields)
        parts += _round_it(detail, fields, materials)
        parts += [*loads_sentence(brief, candidate, index, fields), Words(".")]
        parts += layup_sentence(brief, candidate, index, fields)
        return tuple(parts)

    def levers(
        self, candidate: Candidate, index: int, materials: Mapping[str, Material], units: UnitSystem
    ) -> Iterator[Lever]:
        detail = candidate.details[index]
        assert isinstance(detail, FastenerDetail)

        def option(text: str, **changes: object) -> Option:
            return changed(candidate, index, text, **changes)

        def length(value: float) -> str:
            return length_text(value, units)

        def lever(name: str, title: str, options: list[Option]) -> Iterator[Lever]:
            return one_lever(name, title, detail, options)

        larger = [size for size in WASHERS if size > detail.washer * 1.001]
        if detail.seat == "washer":
            yield from lever("washer", "a larger washer", [option(f"washer {length(s)}", washer=s) for s in larger])
        known = next((name for name in SLEEVE_OF if name in materials), "")
        if known and not detail.sleeve and detail.what == "bolt":
            sizes = [round(share * detail.diameter, 4) for share in SLEEVES]
            yield from lever("sleeve", "a hard sleeve", [
                option(f"a sleeve of {known}, {length(size)} outside", sleeve=known, sleeve_outside=size,
                       sleeve_short=0.0, washer=max(detail.washer, round(1.8 * size, 4)))
                for size in sizes
            ])  # fmt: skip
        base = max(detail.washer, 2.0 * detail.diameter)
        yield from lever("plug", "something solid for the core", [
            option(f"{name} for the core, {length(size)} across", plug=name, plug_diameter=size)
            for name in PLUGS_OF if name in materials and not detail.plug
            for size in (round(base * share / 3.0, 4) for share in PLUGS)
        ])  # fmt: skip
        if detail.what == "bolt" and detail.torque:
            yield from lever("torque", "less torque", [
                option(f"tightened to {format_value(detail.torque * s, 'bending', units, with_unit=True)}",
                       torque=float(f"{detail.torque * s:.2g}"))
                for s in TORQUES
            ])  # fmt: skip
        if detail.edge is not None:
            wanted = [k * detail.diameter for k in (EDGE, 4.0, 5.0) if k * detail.diameter > detail.edge * 1.001]
            yield from lever("edge", "further from the edge", [
                option(f"{length(round(size, 4))} from the edge", edge=round(size, 4)) for size in wanted
            ])  # fmt: skip
        yield from lever("count", "more of them", [
            option(f"{n} of them", count=n, pitch=max(detail.pitch, round(5.0 * detail.diameter, 4)))
            for n in range(detail.count + 1, min(detail.count + 5, 13))
        ])  # fmt: skip
        thicker = [size for size in (5e-3, 6e-3, 8e-3, 10e-3, 12e-3) if size > detail.diameter * 1.001]
        yield from lever("diameter", "a thicker one", [
            option(f"diameter {length(size)}", diameter=size, washer=max(detail.washer, 3.0 * size))
            for size in thicker
        ])  # fmt: skip

    def masses(
        self, brief: Brief, candidate: Candidate, detail: FastenerDetail,
        materials: Mapping[str, Material], units: UnitSystem,
    ) -> Iterator[MassRow]:  # fmt: skip
        """Bolts with their heads, nuts and washers; sleeves and plugs in place of the core."""
        stack = added.stack_there(brief, candidate, detail, materials)
        core, areal = added.core_there(stack)
        grip = stack.thickness + (detail.plate_thickness if detail.plate else 0.0)
        washer = detail.washer if detail.seat == "washer" else 0.0
        if detail.what == "bolt":
            each = added.bolt_mass(detail.diameter, grip, washer, detail.grade)
        else:
            each = added.STEEL * added.disc(detail.diameter) * grip
        yield added.row("hardware", detail, detail.count * each, f"{detail.count} of {each * 1e3:.1f} g")
        sleeve, plug = materials.get(detail.sleeve), materials.get(detail.plug)
        if sleeve is not None:
            ring = added.disc(detail.sleeve_outside, detail.diameter)
            mass = ring * stack.thickness * sleeve.value("density") - added.disc(detail.sleeve_outside) * areal
            yield added.row("insert", detail, detail.count * mass, f"sleeve of {sleeve.id}, without the core there")
        if plug is not None:
            mass = added.disc(detail.plug_diameter) * (core * plug.value("density") - areal)
            yield added.row("insert", detail, detail.count * mass, f"plug of {plug.id}, without the core there")

    def drawing(self, made: CoreDetail) -> Drawing | None:
        return bolt_section(made) if isinstance(made, Fastener) else None


def _tightened(detail: FastenerDetail, fields: Fields) -> list[Part]:
    if detail.torque is not None:
        return [
            Words(", tightened to"), fields.number("torque", "bending", "Torque", "not_negative"),
            fields.choice("lubrication", "Lubrication", LUBRICATED),
            fields.act("by preload", "State the preload",
                       lambda c: with_value(with_value(c, (*fields.base, "torque"), None), (*fields.base, "preload"),
                                            _preload(detail))),
        ]  # fmt: skip
    return [
        Words(", preload"),
        *([fields.number("preload", "force", "Preload", "not_negative")] if detail.preload is not None else []),
        fields.act("by torque", "State the torque",
                   lambda c: with_value(with_value(c, (*fields.base, "preload"), None), (*fields.base, "torque"), 2.0)),
    ]  # fmt: skip


def _preload(detail: FastenerDetail) -> float:
    return float(f"{preload(detail.torque or 0.0, NUT_FACTORS[detail.lubrication], detail.diameter):.3g}")


def _seat(detail: FastenerDetail, fields: Fields) -> list[Part]:
    parts: list[Part] = [Words("; under"), fields.choice("seat", "Seat", SEATS), Words("of")]
    if detail.seat == "plate":
        parts += [
            fields.number("seat_length", "length", "Length of the plate"), Words("×"),
            fields.number("seat_width", "length", "Width of the plate"),
        ]  # fmt: skip
    else:
        parts.append(fields.number("washer", "length", "Washer"))
    parts += [Words("on both faces, countersunk by"), fields.number("countersink", "length", "Countersink",
                                                                     "not_negative")]  # fmt: skip
    if detail.edge is None:
        own = round(EDGE * detail.diameter, 4)
        parts += [Words("; edge as the member's"), fields.put("nearer", "State the edge distance", "edge", own)]
    else:
        parts += [
            Words("; edge at"), fields.number("edge", "length", "Edge distance"),
            fields.put("as the member's", "Take the edge of the member", "edge", None),
        ]  # fmt: skip
    return parts


def _round_it(detail: FastenerDetail, fields: Fields, materials: Mapping[str, Material]) -> list[Part]:
    parts: list[Part] = [
        Words(". Sleeve:"), fields.material("sleeve", "Sleeve", materials, lambda m: m.is_metal),
    ]  # fmt: skip
    if detail.sleeve:
        parts += [
            fields.number("sleeve_outside", "length", "Outside of the sleeve"), Words("outside, shorter by"),
            fields.number("sleeve_short", "length", "Sleeve shorter by", "not_negative"),
        ]  # fmt: skip
    parts += [Words("; for the core:"), fields.material("plug", "Plug", materials, _can_be_plug)]
    if detail.plug:
        parts += [fields.number("plug_diameter", "length", "Diameter of the plug"), Words("across")]
    parts += [
        Words("; fastened on:"),
        fields.material("plate", "Part fastened on", materials, lambda m: m.kind == "sheet", "not said"),
    ]  # fmt: skip
    if detail.plate:
        parts += [fields.number("plate_thickness", "length", "Thickness of what is fastened on"), Words("thick")]
    return [*parts, Words(".")]


def _can_be_plug(material: Material) -> bool:
    return material.can_be_core and math.isfinite(material.value("Zc"))


KIND = FastenerKind()
