"""The sentences and labels that screens and reports share: the brief in words, where a check governs, and so on."""

from __future__ import annotations

import math

from omakase.core.checks.result import CheckResult
from omakase.core.laminate.stack import Stack
from omakase.project import model
from omakase.units import UnitSystem, format_value

EDGE_WORDS = {"free": "free", "resting": "resting", "simple": "simply supported", "clamped": "clamped"}
EDGE_EXPLAINED = {
    "free": "nothing holds the edge",
    "resting": "held up (w = 0) but free to slide and twist on its support",
    "simple": "held by a frame or a row of fasteners: w, sliding along and twisting along the edge are zero",
    "clamped": "built in: nothing moves or turns",
}
SOURCE_MARKS = {"tested": "T", "datasheet": "D", "estimated": "E", "assumed": "A"}
SOURCE_WORDS = {
    "tested": "tested here",
    "datasheet": "from a datasheet",
    "estimated": "estimated by a rule",
    "assumed": "assumed",
}
CAUTION = (
    "Sizing aid only. Certification rules, local codes and a licensed engineer decide on load-bearing parts of "
    "aircraft and vehicles."
)


def quantity(value: float, dimension: str, units: UnitSystem) -> str:
    """Value with its unit."""
    return format_value(value, dimension, units, with_unit=True)


def panel_sentence(member: model.PanelMember, units: UnitSystem) -> str:
    supports = member.supports
    edges = [supports.x0, supports.x1, supports.y0, supports.y1]
    size = f"{quantity(member.length, 'length', units)} long and {quantity(member.width, 'length', units)} wide"
    if len(set(edges)) == 1:
        return f"A flat panel, {size}, {EDGE_WORDS[edges[0]]} on all four edges."
    return (
        f"A flat panel, {size}; ends {EDGE_WORDS[edges[0]]} and {EDGE_WORDS[edges[1]]}, "
        f"sides {EDGE_WORDS[edges[2]]} and {EDGE_WORDS[edges[3]]}."
    )


def load_text(load: model.Load, units: UnitSystem) -> str:
    if isinstance(load, model.PressureLoad):
        face = "A" if load.pressure >= 0.0 else "B"
        return f"{quantity(abs(load.pressure), 'pressure', units)} over the whole of face {face}"
    if isinstance(load, model.PatchLoad):
        face = "A" if load.force >= 0.0 else "B"
        return (
            f"{quantity(abs(load.force), 'force', units)} from a {load.what or 'patch'} of "
            f"{format_value(load.along_x, 'length', units)} × {quantity(load.along_y, 'length', units)} on face {face} "
            f"at ({format_value(load.x, 'length', units)}, {quantity(load.y, 'length', units)})"
        )
    return f"its own weight times {format_value(load.g, 'acceleration', units)} g"


def case_sentence(case: model.LoadCase, units: UnitSystem) -> str:
    loads = " and ".join(load_text(load, units) for load in case.loads) or "no load yet"
    return f"{case.name}: {loads}."


def limit_sentences(brief: model.Brief, units: UnitSystem) -> list[str]:
    limits, judgement = brief.limits, brief.judgement
    sentences = []
    if limits.deflection is not None:
        sentences.append(f"It may sag at most {quantity(limits.deflection, 'deflection', units)}.")
    if limits.frequency_minimum is not None:
        sentences.append(f"Its first frequency is at least {quantity(limits.frequency_minimum, 'frequency', units)}.")
    if limits.frequency_band is not None:
        low, high = limits.frequency_band
        sentences.append(
            f"No mode lies between {format_value(low, 'frequency', units)} and {quantity(high, 'frequency', units)}."
        )
    if limits.mass is not None:
        sentences.append(f"It weighs at most {quantity(limits.mass, 'mass', units)}.")
    if limits.thickness is not None:
        sentences.append(f"It is at most {quantity(limits.thickness, 'length', units)} thick.")
    special = (
        f" times {judgement.special_factor:g} for {judgement.special_factor_reason or 'an unnamed reason'}"
        if judgement.special_factor != 1.0
        else ""
    )
    sentences.append(
        f"Reserve factor at least {limits.reserve_factor:g} "
        f"at ultimate = limit × {judgement.factor_of_safety:g}{special}."
    )
    return sentences


def brief_sentences(brief: model.Brief, units: UnitSystem) -> list[str]:
    """The brief as plain text that a colleague could check."""
    return [
        panel_sentence(brief.member, units),
        *(case_sentence(case, units) for case in brief.load_cases),
        *limit_sentences(brief, units),
    ]


def layer_label(stack: Stack, index: int) -> str:
    """'2 twill200 45°' or '3 core pvc80', numbered from face A."""
    layer = stack.layers[index]
    if layer.role == "core":
        return f"{index + 1} core {layer.material.id}"
    return f"{index + 1} {layer.material.id} {layer.angle:g}°"


def place_text(check: CheckResult, stack: Stack, units: UnitSystem) -> str:
    """Where a check governs: point on the panel, layer, surface."""
    parts = []
    place = check.place
    if place.x is not None and place.y is not None:
        parts.append(f"x {format_value(place.x, 'length', units)}, y {format_value(place.y, 'length', units)}")
    if place.layer is not None:
        parts.append(layer_label(stack, place.layer))
    if place.surface:
        parts.append(place.surface)
    return " · ".join(parts)


def reserve_text(value: float) -> str:
    """A reserve factor with two decimals; large ones as '> 99'."""
    if math.isinf(value) or value > 99.0:
        return "> 99"
    return f"{value:.2f}"


def percent_text(value: float) -> str:
    """A signed difference in percent."""
    if abs(value) >= 10.0:
        return f"×{value + 1.0:.0f}"
    return f"{value * 100.0:+.0f}%".replace("-", "−")
