"""What details add to a part's mass: bolts, fillers, glue, plies."""

from __future__ import annotations

import math
from collections.abc import Mapping

from omakase.core.build.masses import MassRow
from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material
from omakase.core.materials.provenance import Source
from omakase.project import detail_translate
from omakase.project.details import BondDetail, Detail, DoublerDetail, EdgeDetail
from omakase.project.model import Brief, Candidate
from omakase.project.panels import PanelMember
from omakase.units import UnitSystem, format_value

STEEL, TITANIUM, ALUMINIUM = 7850.0, 4430.0, 2800.0  # kg/m³, handbook values from memory
HEAD_AND_NUT = 3.4  # diameters of shank that a hexagon head and a nut weigh as much as: by their nominal sizes
OUT_OF_NUT = 0.5  # diameters by which a bolt stands out of its nut
WASHER = 0.2  # thickness of a washer over the bolt's diameter


def stack_there(brief: Brief, candidate: Candidate, detail: Detail, materials: Mapping[str, Material]) -> Stack:
    """The layup at a detail.  Raises DetailError."""
    return detail_translate.site(brief, candidate, detail, materials).stack


def core_there(stack: Stack) -> tuple[float, float]:
    """(m, kg/m²) of the core at a detail."""
    cores = [layer for layer in stack.layers if layer.role == "core"]
    return sum(own.thickness for own in cores), sum(own.thickness * own.material.value("density") for own in cores)


def seam_length(brief: Brief, candidate: Candidate, detail: BondDetail | EdgeDetail | DoublerDetail) -> float:
    """m of a seam: through its place, square to its pull, from edge to edge of a panel; else the member's span."""
    member = brief.member
    if not isinstance(member, PanelMember):
        return float(getattr(member, "length", 0.0))
    left, right, below, above = detail_translate.edges(brief, candidate, detail)
    direction = math.radians(detail.angle + 90.0)
    c, s = math.cos(direction), math.sin(direction)

    def reach(sign: float) -> float:
        along = right if sign * c > 0.0 else left
        across = above if sign * s > 0.0 else below
        return min(along / abs(c) if abs(c) > 1e-9 else math.inf, across / abs(s) if abs(s) > 1e-9 else math.inf)

    return reach(1.0) + reach(-1.0)


def disc(diameter: float, inside: float = 0.0) -> float:
    """m² of a ring."""
    return math.pi / 4.0 * (diameter**2 - inside**2)


def bolt_mass(diameter: float, grip: float, washer: float, grade: str) -> float:
    """kg of a bolt with head, nut and two washers, by its nominal sizes."""
    density = {"titanium": TITANIUM, "aluminium": ALUMINIUM}.get(grade, STEEL)
    shank = disc(diameter) * (grip + (HEAD_AND_NUT + OUT_OF_NUT) * diameter)
    return density * (shank + 2.0 * disc(max(washer, diameter), diameter) * WASHER * diameter)


def row(
    kind: str, detail: Detail, mass: float, amount: str, source: Source = "estimated"
) -> MassRow:  # fmt: skip
    return MassRow(kind, detail.name, mass, amount, source)


def length_words(value: float, units: UnitSystem) -> str:
    return format_value(value, "run", units, with_unit=True)
