"""A brief made larger or smaller by a stated rule: geometry by two factors, loads by area, speed and load factor."""

from __future__ import annotations

from typing import Any, Literal

import msgspec

from omakase.evaluate.history.changes import brief_changes, candidate_changes
from omakase.evaluate.members.sentence import value_at, with_value, within
from omakase.evaluate.vehicle.fields import numbers_of
from omakase.project.commands import ArrangeBriefs, replace
from omakase.project.model import Brief, Candidate, Project
from omakase.project.vehicle import read_path
from omakase.units import UnitSystem

Forces = Literal["area", "kept"]
DIGITS = 9


class Rule(msgspec.Struct, frozen=True):
    """Factors on sizes ``along`` and ``across``, on the ``speed`` and on the ``load_factor``.

    Pressures go with speed² × load factor; forces also with the area where ``forces`` says so, else they stay (a foot
    is a foot); forces per length with the size across the other way; moments like forces and the length; own weight
    with the load factor; masses that are carried or fall with the volume, along × across².
    """

    along: float = 1.0
    across: float = 1.0
    speed: float = 1.0
    load_factor: float = 1.0
    forces: Forces = "area"

    @property
    def pressure(self) -> float:
        return self.speed**2 * self.load_factor

    @property
    def force(self) -> float:
        return self.pressure * self.along * self.across if self.forces == "area" else 1.0

    @property
    def mass(self) -> float:
        return self.along * self.across**2


def _factors(rule: Rule) -> dict[str, dict[str, float]]:
    """Factor by the name of a record and of its field; what is not named stays."""
    a, c, F = rule.along, rule.across, rule.force
    # per metre along, per metre of an edge, moments, torques and falling masses: with the area, or they stay
    per_length, per_edge, moment, torque, falling = (
        (rule.pressure * c, rule.pressure * a, F * a, F * c, rule.mass) if rule.forces == "area" else (1.0,) * 5
    )
    placed = {"x": a, "low": a, "high": a}
    return {
        "PanelMember": {"length": a, "width": c},
        "BoltRow": {"x": a, "to_x": a, "y": c, "to_y": c},
        **{name: {"length": a} for name in ("StripMember", "TubeMember", "LegMember")},
        "SparMember": {"length": a, "rib_pitch": a},
        "BracketMember": {"arm": a, "reach": a},
        "SpanSupport": placed,
        "Carried": {"x": a, "mass": rule.mass},
        "Station": {"x": a, "size": c},
        "PressureLoad": {"pressure": rule.pressure},
        "PatchLoad": {"force": F, "x": a, "y": c},
        "EdgeLoad": dict.fromkeys(("ends", "sides", "shear", "ends_far", "sides_far"), per_edge),
        "OwnWeight": {"g": rule.load_factor},
        "ForceLoad": {"force": F, "x": a, "offset": c},
        "SpreadLoad": {**placed, "start": per_length, "end": per_length, "offset": c},
        "LiftLoad": {**placed, "total": rule.pressure * a * c, "offset": c},  # air loads go with the area in any case
        "LoadStation": {"x": a, "load": rule.pressure * c},
        "TableLoad": {"offset": c},
        "MomentLoad": {"x": a, "moment": moment},
        "AxialLoad": {"x": a, "force": F},
        "TorqueLoad": {"x": a, "torque": torque},
        "SideLoad": {"x": a, "force": F, "arm": c},
        "TipLoad": {"opening": F, "pull": F, "moment": moment},
        "DropLoad": {"x": a, "mass": falling},
        "FastenerDetail": {"x": a, "y": c},  # bolts themselves stay as they are bought
        "BondDetail": {"x": a, "y": c},
        "InsertDetail": {"x": a, "y": c},
        "EdgeDetail": {"x": a, "y": c},
        "ImpactDetail": {"x": a, "y": c},
        "DoublerDetail": {"x": a, "y": c},
        "SeamLoad": dict.fromkeys(("pull", "flow", "opening"), per_edge),
        "DetailLoad": {"pull": F, "along": F, "across": F, "moment": moment},
        "Zone": {"low": a, "high": a, "near": c, "far": c},
        "PanelForm": {"rise_along": a, "rise_across": c},
        "StripForm": {"rise": c, "crown": c, "flange": c},
        "BracketForm": {"radius": c, "width": c},
        # a rib lies across the wing: its length is that of the chord
        "RibMember": {"length": a, "chord": a, "ahead": a},
        "SurfaceMember": {"length": a, "root": c, "tip": c},
        "SurfaceForm": {"cap": c, "bond": c},
        "AirTorque": {"pressure": rule.pressure},
        "RibForm": {"width": a, "radius": a, "pitch": c, "lip": a},
        "HoleRecord": {"x": a, "diameter": a},
        "AirLoad": {"low": a, "high": a, "lift": rule.pressure * a},
        "SkinLoad": {"pressed": rule.pressure * a, "shear": rule.pressure * a},
    }  # fmt: skip


def resized(brief: Brief, rule: Rule) -> tuple[Brief, list[str]]:
    """(the brief with its candidates by a rule, what was left since it follows a formula, in words)."""
    table = _factors(rule)
    new = replace(
        brief, member=_scaled(brief.member, table, rule), load_cases=_scaled(brief.load_cases, table, rule),
        candidates=tuple(_candidate(own, table, rule) for own in brief.candidates),
    )  # fmt: skip
    left = []
    numbers = numbers_of(brief)
    for own in brief.formulas:
        number = numbers.get(read_path(own.path))
        if number is not None and value_at(new, number.path) != value_at(brief, number.path):
            new = with_value(new, number.path, value_at(brief, number.path))
            left.append(f"{within(number.name)} follows {own.text}: change it in the vehicle sheet")
    return new, left


def _candidate(candidate: Candidate, table: dict[str, dict[str, float]], rule: Rule) -> Candidate:
    return replace(
        candidate, form=_scaled(candidate.form, table, rule), zones=_scaled(candidate.zones, table, rule),
        details=_scaled(candidate.details, table, rule),
    )  # fmt: skip


def _scaled(record: Any, table: dict[str, dict[str, float]], rule: Rule) -> Any:
    """A record and all in it with their sizes and loads times their factors."""
    if isinstance(record, tuple):
        return tuple(_scaled(entry, table, rule) for entry in record)
    if not isinstance(record, msgspec.Struct):
        return record
    name = type(record).__name__
    factors = table.get(name, {})
    if name == "RibRecord":
        along = rule.along if record.along else rule.across  # type: ignore[attr-defined]
        other = rule.across if record.along else rule.along  # type: ignore[attr-defined]
        factors = {"place": other, "low": along, "high": along}
    elif name == "AirTable":
        table = {**table, "LoadStation": {"x": rule.along, "load": rule.pressure}}
    elif name == "SupportLine":
        factors = {"place": rule.across if record.along else rule.along}  # type: ignore[attr-defined]
    changes: dict[str, Any] = {}
    for field in record.__struct_fields__:
        value = getattr(record, field)
        if isinstance(value, tuple | msgspec.Struct):
            new = _scaled(value, table, rule)
            if new != value:
                changes[field] = new
        elif isinstance(value, float) and factors.get(field, 1.0) != 1.0:
            changes[field] = round(value * factors[field], DIGITS)
    return replace(record, **changes) if changes else record


def resize_changes(old: Brief, new: Brief, units: UnitSystem) -> list[str]:
    """Everything that differs, the candidates' after their names."""
    listed = brief_changes(old, new, units)
    for one, two in zip(old.candidates, new.candidates, strict=True):
        listed += [f"{two.name}: {text}" for text in candidate_changes(new, one, two, units)]
        if one.zones != two.zones and one.form == two.form:
            listed.append(f"{two.name}: its zones")
    return listed


def resize_command(project: Project, brief: Brief, rule: Rule) -> ArrangeBriefs:
    """The one undoable step that resizes a brief with its candidates."""
    new, _ = resized(brief, rule)
    briefs = tuple(new if own.id == brief.id else own for own in project.briefs)
    return ArrangeBriefs(project.briefs, briefs, f"resize {brief.name}")
