"""Edits of records as plain functions: what a command will put in place.  None of them changes its argument."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Sequence
from typing import Any

from omakase.project.commands import ArrangeCandidates, replace
from omakase.project.model import (
    Accepted,
    Brief,
    Candidate,
    Form,
    LayerRecord,
    Load,
    LoadCase,
    MeasuredPart,
    find_candidate,
    new_id,
)
from omakase.project.panels import EdgeLoad, OwnWeight, PanelMember, PatchLoad, PressureLoad
from omakase.project.spans import PanelForm, Zone
from omakase.project.wings import SkinLoad

LOAD_SIZES = (
    "pressure",
    "lift",
    "pressed",
    "force",
    "g",
    "start",
    "end",
    "moment",
    "torque",
    "opening",
    "pull",
    "mass",
    "total",
    "load",
    "ends",
    "sides",
    "shear",
    "ends_far",
    "sides_far",
)  # how big a load is


def insert_layers(candidate: Candidate, at: int, layers: Iterable[LayerRecord]) -> Candidate:
    """Layers put in before index ``at``, counted from face A."""
    return replace(candidate, layers=(*candidate.layers[:at], *layers, *candidate.layers[at:]))


def remove_layers(candidate: Candidate, indices: Iterable[int]) -> Candidate:
    gone = set(indices)
    return replace(candidate, layers=tuple(la for i, la in enumerate(candidate.layers) if i not in gone))


def set_layer(candidate: Candidate, index: int, layer: LayerRecord) -> Candidate:
    return replace(candidate, layers=tuple(layer if i == index else old for i, old in enumerate(candidate.layers)))


def with_stretches(candidate: Candidate, layers: tuple[LayerRecord, ...]) -> Candidate:
    """The candidate with these layers; stretches that a quick line wrote out become zones, if need be new ones."""
    zones = list(candidate.zones)
    known = {zone.id for zone in zones}
    kept = []
    for layer in layers:
        if layer.zone and layer.zone not in known:
            low, high = (float(end) for end in layer.zone.split(".."))
            same = (z for z in zones if abs(z.low - low) < 1e-9 and abs(z.high - high) < 1e-9)
            zone = next(same, None)
            if zone is None:
                identity = new_id("z", {zone.id for zone in zones})
                zone = Zone(identity, f"zone {identity[1:]}", low, high)
                zones.append(zone)
            layer = replace(layer, zone=zone.id)
        kept.append(layer)
    return replace(candidate, layers=tuple(kept), zones=tuple(zones))


def run_over(candidate: Candidate, index: int, low: float, high: float, length: float) -> Candidate:
    """A layer that runs from ``low`` to ``high`` m of a span; over the whole of it it has no zone.

    A zone that only this layer has is changed, one that others share stays as it is and the layer gets its own.
    """
    layer = candidate.layers[index]
    users = sum(other.zone == layer.zone for other in candidate.layers)
    if low <= 1e-9 and high >= length * (1.0 - 1e-9):
        zones = tuple(zone for zone in candidate.zones if users > 1 or zone.id != layer.zone)
        return set_layer(replace(candidate, zones=zones), index, replace(layer, zone=""))
    if layer.zone and users == 1:
        zones = tuple(replace(z, low=low, high=high) if z.id == layer.zone else z for z in candidate.zones)
        return replace(candidate, zones=zones)
    identity = new_id("z", {zone.id for zone in candidate.zones})
    zone = Zone(identity, f"zone {identity[1:]}", low, high)
    return set_layer(replace(candidate, zones=(*candidate.zones, zone)), index, replace(layer, zone=identity))


def runs(candidate: Candidate, length: float) -> Iterator[tuple[float, float]]:
    """From where to where on the span each layer runs, m; the end is not beyond the start where nothing is left."""
    zones = {zone.id: (zone.low, zone.high) for zone in candidate.zones}
    for layer in candidate.layers:
        low, high = zones.get(layer.zone, (0.0, length))
        yield max(0.0, low), min(high, length)


def keep_thicknesses(old: tuple[LayerRecord, ...], new: tuple[LayerRecord, ...]) -> tuple[LayerRecord, ...]:
    """``new`` with the thicknesses of ``old`` where they differ by the rounding of a text shown in other units only."""
    known = [layer.thickness for layer in old if layer.thickness is not None]

    def kept(layer: LayerRecord) -> LayerRecord:
        thickness = layer.thickness
        if thickness is None:
            return layer
        same = (t for t in known if abs(t - thickness) <= 1e-9 * t)
        return replace(layer, thickness=next(same, thickness))

    return tuple(kept(layer) for layer in new)


def move_layer(candidate: Candidate, source: int, target: int) -> Candidate:
    """The layer at ``source`` taken out and put in so that it ends at index ``target``."""
    layers = list(candidate.layers)
    layer = layers.pop(source)
    layers.insert(max(0, min(target, len(layers))), layer)
    return replace(candidate, layers=tuple(layers))


def turn(layer: LayerRecord, faced: Collection[str]) -> LayerRecord:
    """A layer with its other side up, where its material is one of those with a face."""
    return replace(layer, turned=not layer.turned) if layer.material in faced else layer


def flip(candidate: Candidate, faced: Collection[str] = ()) -> Candidate:
    """The layup turned over about x: order reversed, angles negated, other sides up.

    That is not the mirror image, so that it no longer shares sub-stacks.
    """
    layers = (
        replace(turn(layer, faced), angle=-layer.angle + 0.0, shared="", mirrored=False)
        for layer in reversed(candidate.layers)
    )
    return replace(candidate, layers=tuple(layers))


def mirrored(layers: Sequence[LayerRecord], faced: Collection[str] = ()) -> list[LayerRecord]:
    """The mirror image of layers: order reversed, and the side that was up is down."""
    image = [turn(layer, faced) for layer in reversed(layers)]
    return [replace(layer, mirrored=not layer.mirrored) if layer.shared else layer for layer in image]


def mirror(candidate: Candidate, faced: Collection[str] = ()) -> Candidate:
    """Face A's plies mirrored to face B: about the core if there is one, else the whole stack is doubled."""
    layers = candidate.layers
    cores = [i for i, layer in enumerate(layers) if layer.role == "core"]
    if cores:
        face = layers[: cores[0]]
        return replace(candidate, layers=(*layers[: cores[-1] + 1], *mirrored(face, faced)))
    return replace(candidate, layers=(*layers, *mirrored(layers, faced)))


def accept(candidate: Candidate, rule: str, reason: str, on: str = "") -> Candidate:
    """A finding accepted for a reason on a day; an empty reason takes that back."""
    rest = tuple(accepted for accepted in candidate.accepted if accepted.rule != rule)
    return replace(candidate, accepted=(*rest, Accepted(rule, reason, on)) if reason else rest)


def step_angle(angle: float, step: float) -> float:
    """The angle a step on, kept within (−90°, 90°], since a ply at 135° is one at −45°."""
    turned = (angle + step + 90.0) % 180.0 - 90.0
    return 90.0 if turned == -90.0 else turned


def arrange(brief: Brief, candidates: Iterable[Candidate], text: str, baseline: str | None = None) -> ArrangeCandidates:
    """Command that puts a list of candidates in place; a baseline that is gone becomes empty."""
    new = tuple(candidates)
    wanted = brief.baseline if baseline is None else baseline
    if wanted not in {candidate.id for candidate in new}:
        wanted = ""
    return ArrangeCandidates(brief.id, brief.candidates, new, brief.baseline, wanted, text)


def add_candidate(brief: Brief, after: str = "", form: Form | None = None) -> tuple[ArrangeCandidates, str]:
    """Command for an empty candidate of a form after another, and its id."""
    identity = new_id("c", {candidate.id for candidate in brief.candidates})
    new = Candidate(identity, f"Candidate {identity[1:]}", form=form or PanelForm())
    return insert_candidate(brief, new, after, "add a candidate"), identity


def add_measured(brief: Brief, after: str = "", form: Form | None = None) -> tuple[ArrangeCandidates, str]:
    """Command for a part known by its measurements, to be typed over, and its id."""
    identity = new_id("c", {candidate.id for candidate in brief.candidates})
    measured = MeasuredPart(1.0, 0.004)
    new = Candidate(identity, f"Measured part {identity[1:]}", form=form or PanelForm(), measured=measured)
    return insert_candidate(brief, new, after, "add a measured part"), identity


def duplicate_candidate(brief: Brief, candidate_id: str) -> tuple[ArrangeCandidates, str]:
    """Command for a copy beside the original, and its id."""
    original = find_candidate(brief, candidate_id)
    identity = new_id("c", {candidate.id for candidate in brief.candidates})
    copy = replace(original, id=identity, name=f"{original.name} (copy)", origin=f"copy of {original.name}")
    return insert_candidate(brief, copy, candidate_id, f"duplicate {original.name}"), identity


def insert_candidate(brief: Brief, candidate: Candidate, after: str, text: str) -> ArrangeCandidates:
    """Command that puts a candidate in beside another, or at the end where that one is not there."""
    ids = [c.id for c in brief.candidates]
    at = ids.index(after) + 1 if after in ids else len(ids)
    return arrange(brief, (*brief.candidates[:at], candidate, *brief.candidates[at:]), text)


def shift_candidate(brief: Brief, candidate_id: str, step: int) -> ArrangeCandidates | None:
    """Command that moves a candidate in the line-up; None at the end."""
    ids = [c.id for c in brief.candidates]
    source = ids.index(candidate_id)
    target = source + step
    if not 0 <= target < len(ids):
        return None
    candidates = list(brief.candidates)
    candidates.insert(target, candidates.pop(source))
    return arrange(brief, candidates, f"move {find_candidate(brief, candidate_id).name}")


def remove_candidate(brief: Brief, candidate_id: str) -> ArrangeCandidates:
    rest = [c for c in brief.candidates if c.id != candidate_id]
    return arrange(brief, rest, f"remove {find_candidate(brief, candidate_id).name}")


def set_case(brief: Brief, case: LoadCase) -> Brief:
    """The load case with the same id replaced."""
    return replace(brief, load_cases=tuple(case if c.id == case.id else c for c in brief.load_cases))


def add_case(brief: Brief, load: Load) -> Brief:
    """Another load case with one load."""
    identity = new_id("l", {case.id for case in brief.load_cases})
    return replace(
        brief,
        load_cases=(*brief.load_cases, LoadCase(identity, f"case {identity[1:]}", (load,))),
    )


def remove_case(brief: Brief, case_id: str) -> Brief:
    return replace(brief, load_cases=tuple(case for case in brief.load_cases if case.id != case_id))


def set_load(brief: Brief, case_id: str, index: int, load: Load | None) -> Brief:
    """A load of a case replaced, or removed with None; an index past the end adds it."""
    case = next(case for case in brief.load_cases if case.id == case_id)
    before, after = case.loads[:index], case.loads[index + 1 :]
    return set_case(brief, replace(case, loads=(*before, *(() if load is None else (load,)), *after)))


def default_load(brief: Brief, kind: str) -> Load:
    """A load to start from: 1 kPa, a foot in the middle, a push at its ends, or its own weight."""
    if kind == "patch":
        member = brief.member
        assert isinstance(member, PanelMember)
        size_x, size_y = min(0.25, member.length / 2.0), min(0.1, member.width / 2.0)
        if member.outline == "round":
            size_x, size_y = min(0.1, member.length / 4.0), min(0.1, member.width / 4.0)
        return PatchLoad(900.0, member.length / 2.0, member.width / 2.0, size_x, size_y)
    if kind == "edge":
        return EdgeLoad(-1000.0)
    return OwnWeight(1.0) if kind == "own_weight" else PressureLoad(1000.0)


def scaled_case(case: LoadCase, factor: float) -> LoadCase:
    """A load case with every load times ``factor``."""
    return replace(case, loads=tuple(_scaled(load, factor) for load in case.loads))


def acting(case: LoadCase) -> LoadCase:
    """A load case with the loads that act: as stated, times its factor."""
    return case if case.factor == 1.0 else replace(scaled_case(case, case.factor), factor=1.0)


def _scaled(load: Any, factor: float) -> Any:
    new = {name: getattr(load, name) * factor for name in LOAD_SIZES if getattr(load, name, None) is not None}
    if hasattr(load, "stations"):
        new["stations"] = tuple(_scaled(station, factor) for station in load.stations)
    if isinstance(load, SkinLoad) and factor:
        new["radius"] = load.radius / abs(factor)  # twice the load bends the wing twice as far
    return replace(load, **new)


# --- walls --------------------------------------------------------------------------------------------------


def of_wall(candidate: Candidate, wall: str) -> Candidate:
    """The candidate with the layers of one of its walls only."""
    if all(layer.wall == wall for layer in candidate.layers):
        return candidate
    return replace(candidate, layers=tuple(layer for layer in candidate.layers if layer.wall == wall))


def with_wall(candidate: Candidate, wall: str, edited: Candidate, order: Sequence[str] = ()) -> Candidate:
    """``edited`` with the layers it has for one wall and those of the ``candidate`` for all others.

    Walls stand in the ``order`` given, others behind them as they stood.
    """
    tagged = tuple(layer if layer.wall == wall else replace(layer, wall=wall) for layer in edited.layers)
    names = dict.fromkeys([*order, *(layer.wall for layer in candidate.layers), wall])
    by_wall = {name: tuple(layer for layer in candidate.layers if layer.wall == name) for name in names} | {
        wall: tagged
    }
    return replace(edited, layers=tuple(layer for layers in by_wall.values() for layer in layers))


def walls_alike(candidate: Candidate, walls: Sequence[str]) -> list[tuple[tuple[str, bool], ...]]:
    """Walls of the same layers together, each with whether it has them mirrored, face B for face A."""
    groups: list[list[tuple[str, bool]]] = []
    first: list[tuple[LayerRecord, ...]] = []
    for wall in walls:
        untagged = tuple(replace(layer, wall="") for layer in candidate.layers if layer.wall == wall)
        for layers, group in zip(first, groups, strict=True):
            if untagged == layers or untagged == layers[::-1]:
                group.append((wall, untagged != layers))
                break
        else:
            first.append(untagged)
            groups.append([(wall, False)])
    return [tuple(group) for group in groups]


def same_rows(candidate: Candidate, row: int) -> tuple[int, ...]:
    """The rows of a layer and of those in its place in walls of the same layers, ascending."""
    wall = candidate.layers[row].wall
    walls = tuple(dict.fromkeys(layer.wall for layer in candidate.layers))
    group = next(alike for alike in walls_alike(candidate, walls) if any(name == wall for name, _ in alike))
    turned = dict(group)
    wall_rows = rows_of_wall(candidate, wall)
    place = wall_rows.index(row)
    indices = []
    for name, mirrored_ in group:
        rows = rows_of_wall(candidate, name)
        indices.append(rows[::-1][place] if mirrored_ != turned[wall] else rows[place])
    return tuple(sorted(indices))


def with_walls_alike(
    candidate: Candidate, group: Sequence[tuple[str, bool]], edited: Candidate, order: Sequence[str]
) -> Candidate:
    """``edited`` with the layers it has for the first wall of a group in every wall of the group."""
    new = candidate
    for wall, mirrored_ in group:
        layers = edited.layers[::-1] if mirrored_ else edited.layers
        new = with_wall(new, wall, replace(new, layers=tuple(replace(layer, wall=wall) for layer in layers)), order)
    return replace(edited, layers=new.layers)


def rows_of_wall(candidate: Candidate, wall: str) -> tuple[int, ...]:
    """Which of the candidate's layers are those of a wall."""
    return tuple(i for i, layer in enumerate(candidate.layers) if layer.wall == wall)
