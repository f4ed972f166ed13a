"""From the document's records to the core's value objects, which check themselves when made."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Mapping
from functools import lru_cache

import msgspec
import numpy as np

from omakase.core.checks.result import Limits, Settings
from omakase.core.design_values import DesignCondition, FamilyValues
from omakase.core.errors import LayupError, PanelError, both_units
from omakase.core.findings.finding import Surroundings
from omakase.core.laminate.stack import Layer, Stack, make_layer
from omakase.core.materials.conditions import in_service
from omakase.core.materials.material import Material
from omakase.core.members.panel_given import MOST_BOLTS, Bolt, Held, LoadCase, Panel
from omakase.core.members.panel_patchwork import Box, Lying
from omakase.core.members.panel_ribs import RIB, Rib, Ribbed
from omakase.core.plates.grid import Edges, InPlane
from omakase.core.plates.loads import EdgeLoad, PatchLoad
from omakase.project import edits, model, panels
from omakase.project.commands import replace
from omakase.project.conditions import AppliedCondition
from omakase.project.spans import LegMember, PanelForm, RibRecord, SparMember, StripMember, TubeMember, Zone

NEAREST_OPENING = 0.01  # of the shorter side: openings nearer to an edge than that leave no panel beside them
NARROWEST = 0.2  # of the shorter side: what bolts must span each way to stand for a panel
ROUND_SIDE = math.sqrt(math.pi / 4.0)  # of its axes: sides of a rectangle as large as an oval
AT_ROOM = model.Surroundings()
PANEL_LOADS = (panels.PressureLoad, panels.PatchLoad, panels.EdgeLoad, panels.OwnWeight)


def panel(brief: model.Brief, candidate: model.Candidate | None = None) -> Panel:
    """The core's panel, flat without a candidate.  Raises PanelError, also for a brief of another kind of member."""
    member = brief.member
    if not isinstance(member, panels.PanelMember):
        raise PanelError("this works for panels only")
    supports = member.supports
    form = None if candidate is None else candidate.form
    rise = (form.rise_along, form.rise_across) if isinstance(form, PanelForm) else (0.0, 0.0)
    if member.outline == "round":
        _check_round(candidate)
        edge = "free" if supports.x0 == "elastic" else supports.x0
        in_plane: InPlane = "may_spread" if supports.in_plane == "may_spread" else "all"
        edges, rise = Edges(edge, edge, edge, edge), (rise[0], rise[0])
        return Panel(member.length, member.width, edges, in_plane, rise, held_of(member), "round")
    return Panel(member.length, member.width, _edges(supports), supports.in_plane, rise, held(supports))


def _check_round(candidate: model.Candidate | None) -> None:
    """Raises PanelError for zones and ribs, which rectangles have."""
    if candidate is None:
        return
    if has_zones(candidate):
        raise PanelError("zones are rectangles and belong to a rectangular panel: remove them from the round one")
    if isinstance(candidate.form, PanelForm) and candidate.form.ribs:
        raise PanelError("ribs belong to a rectangular panel: remove them from the round one")


def held_of(member: panels.PanelMember) -> Held:
    """What holds a panel beside its edges.  Raises PanelError."""
    return round_held(member) if member.outline == "round" else held(member.supports)


def round_held(member: panels.PanelMember) -> Held:
    """What holds a round panel beside its edge; nothing of what only a rectangle has.  Raises PanelError."""
    supports = member.supports
    spring = supports.spring if supports.x0 == "elastic" else 0.0
    return Held(circle_bolts(member), (), (), (spring, spring, spring, spring), supports.bed)


def circle_bolts(member: panels.PanelMember) -> tuple[Bolt, ...]:
    """The bolts round a round panel, evenly along their circle or oval, the first at its right end.  Raises
    PanelError."""
    circle = member.supports.circle
    if circle is None:
        return ()
    a, b = member.length / 2.0 - circle.inset, member.width / 2.0 - circle.inset
    if not (3 <= circle.count <= MOST_BOLTS):
        raise PanelError(f"a circle of bolts has 3 to {MOST_BOLTS} of them")
    if not (circle.inset >= 0.0 and min(a, b) > circle.washer > 0.0):
        raise PanelError("the circle of bolts must lie inside the panel, wider than its washers")
    theta = np.linspace(0.0, 2.0 * np.pi, 721)
    steps = np.hypot(np.diff(a * np.cos(theta)), np.diff(b * np.sin(theta)))
    along = np.concatenate([[0.0], np.cumsum(steps)])
    at = np.interp(np.arange(circle.count) / circle.count * along[-1], along, theta)
    half = member.length / 2.0, member.width / 2.0
    return tuple(
        Bolt(half[0] + a * math.cos(angle), half[1] + b * math.sin(angle), circle.washer, circle.in_plane)
        for angle in at
    )


def stand_in(brief: model.Brief) -> tuple[Panel, tuple[LoadCase, ...]]:
    """A flat rectangle that its edges alone hold, with a brief's lateral loads, for searches that go by something
    quick: no softer than the panel that is asked for, so that what it takes for too soft is too soft.

    A round panel's has its area, which makes it stiffer.  Where edges do not hold the panel, all rest instead of its
    bolts, over what these span; where lines, bolts or a bed hold it beside edges that do, these are clamped and the
    rectangle is that of the largest bay.  Raises PanelError.
    """
    whole = panel(brief)
    held, edges = whole.held, whole.edges
    share = ROUND_SIDE if whole.outline == "round" else 1.0
    size = whole.length * share, whole.width * share
    try:
        edges.check_held()
    except PanelError:
        edges = Edges("resting", "resting", "resting", "resting")
        places = zip(*((bolt.x, bolt.y) for bolt in held.bolts), strict=True)
        spans = [max(own) - min(own) for own in places]
        if len(spans) == 2 and min(spans) > NARROWEST * min(size):
            size = min(size[0], spans[0]), min(size[1], spans[1])
    else:
        if held.bolts or held.across or held.along or held.bed:
            edges = Edges(*("clamped" if edge != "free" else "free" for edge in msgspec.structs.astuple(edges)))
            size = _largest_bay(held, *size)
    cases = (load_case(case) for case in brief.load_cases)
    scales = size[0] / whole.length, size[1] / whole.width
    flat = Panel(*size, edges, whole.in_plane)
    return flat, tuple(_on_stand_in(case, size, scales) for case in cases if case.edge is None)


def _largest_bay(held: Held, length: float, width: float) -> tuple[float, float]:
    """Between lines of support; of half the panel each way where bolts or a bed hold it inside too."""
    sizes = [
        max(high - low for low, high in itertools.pairwise([0.0, *sorted(places), size]))
        for size, places in ((length, held.across), (width, held.along))
    ]
    share = 0.5 if held.bolts or held.bed else 1.0
    return sizes[0] * share, sizes[1] * share


def _on_stand_in(case: LoadCase, size: tuple[float, float], scales: tuple[float, float]) -> LoadCase:
    """A case with its patches moved to the same share of a smaller panel, and cut where they are wider."""
    if scales == (1.0, 1.0):
        return case
    patches = []
    for patch in case.patches:
        along = min(patch.along_x, size[0]), min(patch.along_y, size[1])
        x, y = (
            min(max(place * scale, own / 2.0), whole - own / 2.0)
            for place, scale, own, whole in zip((patch.x, patch.y), scales, along, size, strict=True)
        )
        patches.append(msgspec.structs.replace(patch, x=x, y=y, along_x=along[0], along_y=along[1]))
    return msgspec.structs.replace(case, patches=tuple(patches))


def _edges(supports: panels.Supports) -> Edges:
    """The core's edges, of which elastic ones are free and stand on springs."""
    named = (supports.x0, supports.x1, supports.y0, supports.y1)
    return Edges(*("free" if edge == "elastic" else edge for edge in named))


def held(supports: panels.Supports) -> Held:
    """What holds a panel beside its edges."""
    springs = [
        supports.spring if edge == "elastic" else 0.0 for edge in (supports.x0, supports.x1, supports.y0, supports.y1)
    ]
    return Held(
        tuple(bolt for row in supports.bolts for bolt in bolts_of(row)),
        tuple(line.place for line in supports.lines if not line.along),
        tuple(line.place for line in supports.lines if line.along),
        (springs[0], springs[1], springs[2], springs[3]),
        supports.bed,
    )


def bolts_of(row: panels.BoltRow) -> tuple[Bolt, ...]:
    """The bolts of a row.  Raises PanelError for a pitch that makes no sense."""
    length = math.hypot(row.to_x - row.x, row.to_y - row.y)
    if not (row.pitch > 0.0 and length / row.pitch <= MOST_BOLTS):
        raise PanelError(f"a row of bolts needs a pitch, of at least {both_units(length / MOST_BOLTS)}")
    count = math.ceil(length / row.pitch - 1e-9)
    shares = [k / count for k in range(count + 1)] if count else [0.0]
    return tuple(
        Bolt(row.x + share * (row.to_x - row.x), row.y + share * (row.to_y - row.y), row.washer, row.in_plane)
        for share in shares
    )


def rib_of(record: RibRecord, length: float, width: float, filling: float = 0.0) -> Rib:
    """The core's rib on a panel of this size, laid over what weighs ``filling`` kg/m³."""
    high = (length if record.along else width) if record.high is None else record.high
    return Rib(
        record.along, record.place, record.low, high, record.outline, record.height, record.width, record.crown,
        record.foot, record.face == "face_a", filling, record.is_bead,
    )  # fmt: skip


def ribs(brief: model.Brief, candidate: model.Candidate, materials: Mapping[str, Material]) -> list[Ribbed]:
    """The ribs of a panel, all of the layers of the wall of that name.  Raises LayupError, PanelError."""
    member, form = brief.member, candidate.form
    if not (isinstance(member, panels.PanelMember) and isinstance(form, PanelForm) and form.ribs):
        return []
    rows, made = edits.rows_of_wall(candidate, RIB), []
    walls = None
    if not all(own.is_bead for own in form.ribs):
        if not rows:
            raise LayupError("the rib has no layers")
        try:
            walls = stack(edits.of_wall(candidate, RIB), materials, brief.surroundings)
        except LayupError as error:
            raise LayupError(f"rib: {error}") from None
    for number, own in enumerate(form.ribs, 1):
        if own.is_bead:
            made.append(_bead(brief, candidate, materials, own, number))
            continue
        assert walls is not None
        filling = materials.get(own.filling)
        if own.filling and filling is None:
            raise PanelError(f"rib {number} is laid over '{own.filling}', which is not among the materials")
        weight = filling.value("density") if filling is not None else 0.0
        made.append(Ribbed(rib_of(own, member.length, member.width, weight), walls, rows))
    return made


def _bead(
    brief: model.Brief, candidate: model.Candidate, materials: Mapping[str, Material], record: RibRecord, number: int
) -> Ribbed:
    """A bead, of the panel's own layers.  Raises PanelError for a panel with a core."""
    own = edits.of_wall(candidate, "")
    if any(layer.role == "core" for layer in own.layers):
        raise PanelError(f"rib {number} is formed into the sheet: a panel with a core has no such beads")
    member = brief.member
    assert isinstance(member, panels.PanelMember)
    if not record.along:  # its walls run across
        own = replace(own, layers=tuple(replace(layer, angle=layer.angle - 90.0) for layer in own.layers))
    sheet = stack(own, materials, brief.surroundings)
    return Ribbed(rib_of(record, member.length, member.width), sheet, edits.rows_of_wall(candidate, ""))


def is_built(brief: model.Brief, candidate: model.Candidate) -> bool:
    """Whether a panel is more than an even rectangle held along its edges: round, or with zones, ribs, bolts."""
    member, form = brief.member, candidate.form
    if isinstance(member, panels.PanelMember) and member.outline == "round":
        return True
    ribbed = isinstance(form, PanelForm) and bool(form.ribs)
    return has_zones(candidate) or ribbed or (isinstance(member, panels.PanelMember) and held(member.supports).anything)


def has_zones(candidate: model.Candidate) -> bool:
    """Whether a layer of it lies in a part of the panel only, or a part is open."""
    return any(layer.zone for layer in candidate.layers) or any(zone.opening for zone in candidate.zones)


def openings(candidate: model.Candidate, length: float, width: float) -> list[Box]:
    """Where nothing of a panel is."""
    return [box for zone in candidate.zones if zone.opening for box in _boxes(zone, length, width)]


def lying(candidate: model.Candidate, length: float, width: float) -> tuple[Lying, ...]:
    """Where each layer of a panel lies.  Raises PanelError for a zone that cannot be."""
    for _, message in zone_problems(candidate, length, width):
        raise PanelError(message)
    boxes = {zone.id: _boxes(zone, length, width) for zone in candidate.zones}
    return tuple(Lying(boxes.get(own.zone, ()), own.outside, own.role == "core") for own in candidate.layers)


def _boxes(zone: Zone, length: float, width: float) -> tuple[Box, ...]:
    if zone.rim is not None:
        rim = zone.rim
        return (
            Box(0.0, rim, 0.0, width), Box(length - rim, length, 0.0, width),
            Box(0.0, length, 0.0, rim), Box(0.0, length, width - rim, width),
        )  # fmt: skip
    return (Box(zone.low, zone.high, zone.near or 0.0, width if zone.far is None else zone.far),)


def _reaches_an_edge(zone: Zone, length: float, width: float) -> bool:
    low, high = zone.near or 0.0, width if zone.far is None else zone.far
    return min(zone.low, length - zone.high, low, width - high) < NEAREST_OPENING * min(length, width)


def zone_problems(candidate: model.Candidate, length: float, width: float) -> Iterator[tuple[str, str]]:
    """(place below the candidate, message) of zones of a panel that make no sense, and of layers in missing ones."""
    for i, zone in enumerate(candidate.zones):
        near, far = zone.near or 0.0, width if zone.far is None else zone.far
        if zone.rim is not None:
            if not 0.0 < zone.rim < min(length, width) / 2.0:
                yield f".zones[{i}]", f"the rim of zone '{zone.name}' must be narrower than half the panel"
        elif not (zone.low < zone.high and near < far):
            yield f".zones[{i}]", f"zone '{zone.name}' must end further on than it begins, along and across"
        elif min(zone.low, near) < -1e-9 or zone.high > length * (1.0 + 1e-9) or far > width * (1.0 + 1e-9):
            size = both_units(length, width, between=" × ")
            yield f".zones[{i}]", f"zone '{zone.name}' reaches beyond the panel of {size}"
        elif zone.opening and _reaches_an_edge(zone, length, width):
            yield f".zones[{i}]", f"the opening '{zone.name}' must lie inside the panel, away from its edges"
        if zone.opening and zone.rim is not None:
            yield f".zones[{i}]", f"a rim cannot be an opening: make '{zone.name}' a rectangle, or for layers"
    known = {zone.id for zone in candidate.zones}
    open_ones = {zone.id for zone in candidate.zones if zone.opening}
    if len(known) < len(candidate.zones):
        yield ".zones", "two zones have the same id"
    for i, own in enumerate(candidate.layers):
        if own.zone and own.zone not in known:
            yield f".layers[{i}]", f"layer {i + 1} lies in a zone that is not there"
        elif own.zone in open_ones and not own.outside:
            yield f".layers[{i}]", f"layer {i + 1} lies in an opening"


def is_linear(brief: model.Brief, candidate: model.Candidate) -> bool:
    """Whether a panel's answers are sums of linear solutions of one layup: flat, even, nothing pulls at its edges."""
    if is_built(brief, candidate) or is_curved(candidate):
        return False
    return not any(isinstance(load, panels.EdgeLoad) for case in brief.load_cases for load in case.loads)


def is_curved(candidate: model.Candidate) -> bool:
    """Whether a panel is arched or dished."""
    form = candidate.form
    return isinstance(form, PanelForm) and (form.rise_along != 0.0 or form.rise_across != 0.0)


@lru_cache(maxsize=256)
def load_case(case: model.LoadCase) -> LoadCase:
    """The core's load case of a panel; kept.  Raises PanelError for a load of another kind of member."""
    case = edits.acting(case)
    if not all(isinstance(load, PANEL_LOADS) for load in case.loads):
        raise PanelError(
            f"load case '{case.name or case.id}': a panel takes pressures, patches, forces along its edges and its own "
            "weight"
        )
    return LoadCase(
        case.name or case.id,
        tuple(load.pressure for load in case.loads if isinstance(load, panels.PressureLoad)),
        tuple(
            PatchLoad(load.force, load.x, load.y, load.along_x, load.along_y)
            for load in case.loads
            if isinstance(load, panels.PatchLoad)
        ),
        sum(load.g for load in case.loads if isinstance(load, panels.OwnWeight)),
        case.id,
        _edge_load(case),
    )


def _edge_load(case: model.LoadCase) -> EdgeLoad | None:
    """The sum of a case's forces along the edges; None without any."""
    loads = [load for load in case.loads if isinstance(load, panels.EdgeLoad)]
    if not loads:
        return None
    ends, sides = (
        tuple(sum(getattr(load, name) if end == 0 else _far(load, name) for load in loads) for end in (0, 1))
        for name in ("ends", "sides")
    )
    return EdgeLoad((ends[0], ends[1]), (sides[0], sides[1]), sum(load.shear for load in loads))


def _far(load: panels.EdgeLoad, name: str) -> float:
    far: float | None = getattr(load, f"{name}_far")
    return getattr(load, name) if far is None else far


def layer(record: model.LayerRecord, materials: Mapping[str, Material], where: model.Surroundings = AT_ROOM) -> Layer:
    """The core's layer, with the strengths its material has ``where`` it works.  Raises LayupError."""
    if record.material not in materials:
        raise LayupError(f"no material is named '{record.material}'")
    material = in_service(materials[record.material], record.thickness, where.temperature, where.wet)
    return make_layer(material, record.angle, record.thickness, record.role, record.structural, record.turned)


def stack(candidate: model.Candidate, materials: Mapping[str, Material], where: model.Surroundings = AT_ROOM) -> Stack:
    """The core's stack ``where`` it works.  Raises LayupError naming the layer, counted from the top."""
    layers = []
    for i, record in enumerate(candidate.layers):
        try:
            layers.append(layer(record, materials, where))
        except LayupError as error:
            raise LayupError(f"layer {i + 1}: {error}") from None
    return Stack(tuple(layers))


def limits(brief: model.Brief) -> Limits:
    """The core's limits."""
    stated = brief.limits
    return Limits(
        stated.deflection, stated.frequency_minimum, stated.frequency_band, stated.reserve_factor, stated.mass,
        stated.thickness, stated.rotation, stated.twist, stated.diameter, stated.bay_sag, stated.span_mass,
        stated.divergence,
    )  # fmt: skip


def surroundings(brief: model.Brief, candidate: model.Candidate | None = None) -> Surroundings:
    """Where the part works, for the findings; openings of a candidate have open edges."""
    stated, member = brief.surroundings, brief.member
    if isinstance(member, panels.PanelMember):
        edges = member.supports
        if member.outline == "round":
            edges = replace(edges, x1=edges.x0, y0=edges.x0, y1=edges.x0)
        open_edge = any(edge in ("free", "elastic") for edge in (edges.x0, edges.x1, edges.y0, edges.y1))
        open_edge |= candidate is not None and any(zone.opening for zone in candidate.zones)
    else:
        open_edge = isinstance(member, StripMember | LegMember)  # its long sides
    return Surroundings(stated.temperature, stated.wet, stated.aerial, open_edge, stated.radius, stated.twisted,
                        isinstance(member, TubeMember | SparMember))  # fmt: skip


def settings(brief: model.Brief, candidate: model.Candidate | None = None) -> Settings:
    """The core's way of judging strength; conditions for zones only where a candidate has them."""
    rules = brief.judgement
    return Settings(
        rules.factor_of_safety, rules.special_factor, rules.criterion, rules.wrinkling,
        tuple(condition_of(applied, brief, candidate) for applied in brief.conditions),
    )  # fmt: skip


def condition_of(applied: AppliedCondition, brief: model.Brief, candidate: model.Candidate | None) -> DesignCondition:
    """The core's condition, with the boxes of its zones in a candidate."""
    record = applied.condition
    celsius = record.temperature - 273.15
    where = f"at {celsius:.0f} °C ({celsius * 1.8 + 32.0:.0f} °F), {'wet' if record.wet else 'dry'}"
    families = {
        own.family: FamilyValues(
            own.tension, own.compression, own.shear, own.yield_stress, own.ultimate,
            f"{own.source or 'no source stated'}; {own.basis}, {where}", record.cautious or not own.source,
        )
        for own in record.values
    }  # fmt: skip
    boxes = None
    if applied.zones:
        zones = [zone for zone in candidate.zones if zone.name in applied.zones] if candidate is not None else []
        member = brief.member
        if isinstance(member, panels.PanelMember):
            boxes = tuple(
                (box.low_x, box.high_x, box.low_y, box.high_y)
                for zone in zones for box in _boxes(zone, member.length, member.width)
            )  # fmt: skip
        else:
            boxes = tuple((zone.low, zone.high, -math.inf, math.inf) for zone in zones)
    return DesignCondition(record.name, families, boxes)
