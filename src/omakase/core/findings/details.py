"""What is found about details beside their checks; each detail's findings are accepted on their own."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator, Sequence

import msgspec
import numpy as np

from omakase.core.details.bolts import GRADES
from omakase.core.details.bond import Bond
from omakase.core.details.detail import Detail
from omakase.core.details.doubler import SLOPE, TOGETHER, Doubler
from omakase.core.details.edge import Edge
from omakase.core.details.fastener import EDGE, PITCH, Fastener
from omakase.core.findings.finding import Finding
from omakase.core.materials.material import Material

CORRODES, NOBLE = ("steel", "aluminium"), ("stainless", "ti")  # beside carbon; short names of metals that do not
NEAR, SMALL = 10.0, 0.5  # diameters from which two bolts are apart; share of a force that must lie along the line
MARGIN = 28.0  # K below the wet transition
Look = Callable[[Detail], tuple[str, str] | None]  # (what is found, what would help)


class DetailRule(msgspec.Struct, frozen=True):
    """A rule about details of the class ``of``: its identity, what it looks for, its basis, and why it matters."""

    of: type
    name: str
    summary: str
    basis: str
    reason: str
    run: Look


DETAIL_RULES: dict[str, DetailRule] = {}


def register(of: type, name: str, summary: str, basis: str, reason: str) -> Callable[[Look], Look]:
    """Decorator that puts a rule about details on the list."""

    def decorate(look: Look) -> Look:
        DETAIL_RULES[name] = DetailRule(of, name, summary, basis, reason, look)
        return look

    return decorate


def find_in_details(details: Sequence[Detail]) -> tuple[Finding, ...]:
    """All findings of all rules; the rule is named with the detail's id, since each is accepted for itself."""
    found = list(_pulling_pairs(details))
    for own in details:
        for rule in DETAIL_RULES.values():
            told = rule.run(own) if isinstance(own, rule.of) else None
            if told is not None:
                found.append(Finding(f"{rule.name}:{own.key}", f"{own.name}: {told[0]}", rule.reason, told[1]))
    return tuple(found)


def _pulling_pairs(details: Sequence[Detail]) -> Iterator[Finding]:
    """Two bolts that pull on each other across the member under one load case, along the line between them."""
    bolts = [own for own in details if isinstance(own, Fastener) and own.site.x is not None and own.site.y is not None]
    rule = DETAIL_RULES["bolts_pull"]
    for one, two in itertools.combinations(bolts, 2):
        line = np.array([two.site.x, two.site.y], float) - np.array([one.site.x, one.site.y], float)
        distance = float(np.hypot(*line))
        if one.site.wall != two.site.wall or distance < NEAR * max(one.bears, two.bears):
            continue
        way = line / distance
        others = {case.name: case for case in two.cases}
        for case in one.cases:
            other = others.get(case.name)
            if other is None:
                continue
            pulls = way @ [case.along, case.across], -(way @ [other.along, other.across])
            if min(-pulls[0], -pulls[1]) > SMALL * max(case.shear, other.shear, 1.0):
                force = min(abs(pulls[0]), abs(pulls[1]))
                told = (
                    f"{one.name} and {two.name} pull on each other with {force:.0f} N over {distance * 1e3:.0f} mm "
                    f"under {case.name}"
                )
                fix = "a strip of plies along the line between them, and a patch of cross-plies under each"
                yield Finding(f"{rule.name}:{one.key}", told, rule.reason, fix)
                break


@register(
    Fastener, "bolts_pull", "Two bolts pull on each other across the member", "common practice, no source",
    "the laminate between them carries it on the width of a few diameters only until it has spread",
)  # fmt: skip
def bolts_pull(_own: Detail) -> tuple[str, str] | None:
    """Of pairs: a single bolt has nobody to pull on."""
    return None


@register(
    Fastener, "edge_distance", "A bolt is closer to an edge than three diameters", "common practice, no source",
    "a laminate tears out toward a near edge before its full bearing strength is reached",
)  # fmt: skip
def edge_distance(own: Detail) -> tuple[str, str] | None:
    """Below three diameters from the middle of the hole."""
    assert isinstance(own, Fastener)
    ratio = own.edge_distance / own.bears
    if ratio >= EDGE * (1.0 - 1e-9):
        return None
    return f"the edge is {ratio:.1f} diameters away, common practice is {EDGE:g}", "move it inward"


@register(
    Fastener, "fastener_pitch", "Bolts are closer than five diameters", "common practice, no source",
    "what one hole concentrates reaches the next",
)  # fmt: skip
def fastener_pitch(own: Detail) -> tuple[str, str] | None:
    """Below five diameters between bolts of a row."""
    assert isinstance(own, Fastener)
    ratio = own.pitch / own.bears
    if own.count == 1 or ratio >= PITCH * (1.0 - 1e-9):
        return None
    return f"the bolts stand {ratio:.1f} diameters apart, common practice is {PITCH:g}", "fewer bolts, or smaller ones"


@register(
    Fastener, "metal_on_carbon", "Steel or aluminium touches carbon",
    "Galvanic corrosion; guidance of CMH-17, from memory", "the metal corrodes where it touches carbon and gets wet",
)  # fmt: skip
def metal_on_carbon(own: Detail) -> tuple[str, str] | None:
    """Bolts and sleeves that go through carbon, and what is fastened on a face of carbon."""
    assert isinstance(own, Fastener)
    layers = own.site.stack.layers
    if not any(layer.material.family == "carbon" for layer in layers):
        return None
    touching = [f"a bolt of {GRADES[own.grade].material}"] if GRADES[own.grade].material in CORRODES else []
    if own.sleeve is not None and _corrodes(own.sleeve.material):
        touching.append(f"a sleeve of {own.sleeve.material.name}")
    if own.plate is not None and layers[0].material.family == "carbon" and _corrodes(own.plate.material):
        touching.append(own.plate.material.name)
    if not touching:
        return None
    return f"{' and '.join(touching)} touches carbon", "use stainless steel or titanium, or lay glass between them"


def _corrodes(material: Material) -> bool:
    return material.is_metal and not material.id.startswith(NOBLE)


@register(
    Bond, "bond_heat", "A glue is used near its glass transition",
    "Wet transition − 28 K, guidance of CMH-17, from memory", "a glue softens and creeps before it fails",
)  # fmt: skip
def bond_heat(own: Detail) -> tuple[str, str] | None:
    """Service temperature above the wet transition less 28 K."""
    assert isinstance(own, Bond)
    known = own.adhesive.properties
    if "glass_wet" not in known or own.temperature <= known["glass_wet"].value - MARGIN:
        return None
    celsius = own.temperature - 273.15, known["glass_wet"].value - MARGIN - 273.15
    return (
        f"{own.adhesive.id} works at up to {celsius[0]:.0f} °C, {celsius[1]:.0f} °C is advised",
        "a glue cured warmer, or a cooler place",
    )


@register(
    Doubler, "steep_end", "Plies of a doubler end too steeply, or too many together",
    "common practice, no source: ten times as long as high, half a millimetre together",
    "each end of a ply turns load sideways and starts to peel",
)  # fmt: skip
def steep_end(own: Detail) -> tuple[str, str] | None:
    """Steps shorter than ten times their height, more than 0.5 mm together, or ends that no ply covers."""
    assert isinstance(own, Doubler)
    told = []
    if own.step_height > TOGETHER * (1.0 + 1e-9) and not own.tapered:
        told.append(f"{own.step_height * 1e3:.2f} mm of plies end together")
    if (own.steps > 1 or own.tapered) and own.slope < SLOPE * (1.0 - 1e-9):
        told.append(f"its ends run out 1 to {own.slope:.0f}, 1 to {SLOPE:.0f} is usual")
    if not own.covered:
        told.append("no ply covers its ends")
    if not told:
        return None
    return "; ".join(told), "more and longer steps, and a ply over them"


@register(
    Edge, "edge_moisture", "The core at an edge can absorb water", "common practice, no source",
    "water freezes, adds mass and rots or corrodes the core",
)  # fmt: skip
def edge_moisture(own: Detail) -> tuple[str, str] | None:
    """An open edge, or tape over a core with open cells."""
    assert isinstance(own, Edge)
    if not own.absorbs_water:
        return None
    how = "nothing closes it" if own.closing == "open" else "tape over open cells leaks in time"
    return f"the core absorbs water at this edge: {how}", "pot it, lay plies round it or run it out"
