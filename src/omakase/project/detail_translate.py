"""Details of a file as the core's: where they sit, the layup there, and what is wrong with them."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping, Sequence

from omakase.core.details.adhesive_layer import Glue
from omakase.core.details.bond import PREPARED, SURROUNDED, Bond, glue_of
from omakase.core.details.detail import Detail as CoreDetail
from omakase.core.details.detail import DetailError, LineCase, PointCase, Site, faces
from omakase.core.details.doubler import Doubler
from omakase.core.details.edge import Edge
from omakase.core.details.fastener import Fastener, Plate, Plug, Sleeve
from omakase.core.details.impact import ImpactFace
from omakase.core.details.insert import Insert
from omakase.core.errors import LayupError, OmakaseError, both_units
from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material
from omakase.core.members.panel_patchwork import Box, Lying, rows_at
from omakase.project import edits, translate
from omakase.project.details import (
    AlongSeam,
    AtPoint,
    BondDetail,
    Detail,
    DoublerDetail,
    EdgeDetail,
    FastenerDetail,
    ImpactDetail,
    InsertDetail,
)
from omakase.project.layers import LayerRecord
from omakase.project.model import Brief, Candidate
from omakase.project.panels import PanelMember

REACH = 0.02  # m from a detail, within which the support or load is that it takes forces from


def typed_cases(detail: Detail) -> tuple[PointCase, ...] | tuple[LineCase, ...]:
    """Loads that were typed, each a load case of its own."""
    if isinstance(detail, AlongSeam):
        return tuple(
            LineCase(load.name, f"own{i}", load.pull, load.flow, load.opening) for i, load in enumerate(detail.loads)
        )
    assert isinstance(detail, AtPoint)
    return tuple(
        PointCase(load.name, f"own{i}", load.pull, load.along, load.across, load.moment)
        for i, load in enumerate(detail.loads)
    )  # fmt: skip


def rows_there(brief: Brief, candidate: Candidate, detail: Detail) -> tuple[int, ...]:
    """Which of the candidate's layers lie where a detail is.  Raises DetailError where it is outside the part."""
    member = brief.member
    own = edits.rows_of_wall(candidate, detail.wall)
    if not own:
        walls = list(dict.fromkeys(layer.wall for layer in candidate.layers))
        raise DetailError("wall", f"there is no wall '{detail.wall}' here: {', '.join(w or 'panel' for w in walls)}")
    length = float(getattr(member, "length", math.inf))
    width = member.width if isinstance(member, PanelMember) else math.inf
    if not 0.0 <= detail.x <= length:
        raise DetailError("x", f"it is outside the part: x {both_units(detail.x)} is beyond {both_units(length)}")
    if isinstance(member, PanelMember):
        if not 0.0 <= detail.y <= width:
            raise DetailError("y", f"it is outside the part: y {both_units(detail.y)} is beyond {both_units(width)}")
        if any(box.holds(detail.x, detail.y) for box in translate.openings(candidate, length, width)):
            raise DetailError("x", "it is outside the part: there is an opening here")
        if member.outline == "round" and math.hypot(2.0 * detail.x / length - 1.0, 2.0 * detail.y / width - 1.0) > 1.0:
            raise DetailError("x", "it is outside the part: beyond the edge of the round panel")
        lying = translate.lying(candidate, length, width)
    else:
        zones = {zone.id: Box(zone.low, zone.high, -math.inf, math.inf) for zone in candidate.zones}
        lying = tuple(Lying((zones[layer.zone],) if layer.zone in zones else ()) for layer in candidate.layers)
    here = rows_at([lying[row] for row in own], detail.x, detail.y)
    if not here:
        raise DetailError("x", "it is outside the part: there is no layer here")
    return tuple(own[row] for row in here)


def stack_of(records: Sequence[LayerRecord], brief: Brief, materials: Mapping[str, Material], field: str) -> Stack:
    """A layup where the part works.  Raises DetailError naming the field it stands in."""
    try:
        return Stack(tuple(translate.layer(record, materials, brief.surroundings) for record in records))
    except LayupError as error:
        raise DetailError(field, str(error)) from None


def site(brief: Brief, candidate: Candidate, detail: Detail, materials: Mapping[str, Material]) -> Site:
    """Where a detail is.  Raises DetailError."""
    rows = rows_there(brief, candidate, detail)
    records = detail.layers or tuple(candidate.layers[row] for row in rows)
    stack = stack_of(records, brief, materials, "layers")
    panel = isinstance(brief.member, PanelMember)
    return Site(stack, detail.x, detail.y if panel else None, edges(brief, candidate, detail), detail.wall)


def edges(brief: Brief, candidate: Candidate, detail: Detail) -> tuple[float, float, float, float]:
    """Distances in m from a detail to the edges of its member toward −x, +x, −y, +y; also to those of openings."""
    member = brief.member
    x, y = detail.x, detail.y
    if not isinstance(member, PanelMember):
        length = float(getattr(member, "length", math.inf))
        return x, length - x, math.inf, math.inf
    low_x, high_x, low_y, high_y = 0.0, member.length, 0.0, member.width
    if member.outline == "round":
        half_x, half_y = member.length / 2.0, member.width / 2.0
        reach_x = half_x * math.sqrt(max(0.0, 1.0 - (y / half_y - 1.0) ** 2))
        reach_y = half_y * math.sqrt(max(0.0, 1.0 - (x / half_x - 1.0) ** 2))
        low_x, high_x, low_y, high_y = half_x - reach_x, half_x + reach_x, half_y - reach_y, half_y + reach_y
    for box in translate.openings(candidate, member.length, member.width):
        if box.low_y <= y <= box.high_y:
            low_x, high_x = (max(low_x, box.high_x), high_x) if box.high_x <= x else (low_x, min(high_x, box.low_x))
        if box.low_x <= x <= box.high_x:
            low_y, high_y = (max(low_y, box.high_y), high_y) if box.high_y <= y else (low_y, min(high_y, box.low_y))
    return x - low_x, high_x - x, y - low_y, high_y - y


def material(name: str, materials: Mapping[str, Material], needs: Sequence[str], field: str) -> Material:
    """A material by name that states the properties needed.  Raises DetailError."""
    known = materials.get(name)
    if known is None:
        raise DetailError(field, f"no material is named '{name}'")
    missing = [key for key in needs if key not in known.properties]
    if missing:
        raise DetailError(field, f"'{name}' does not state {', '.join(missing)}, which is needed here")
    return known


def made(record: Detail, where: Site, cases: Cases, brief: Brief, materials: Mapping[str, Material]) -> CoreDetail:
    """The core's detail of a record.  Raises DetailError."""
    maker: Callable[..., CoreDetail] = MAKERS[type(record)]
    return maker(record, where, cases, brief, materials)


def fastener(
    record: FastenerDetail, where: Site, cases: Sequence[PointCase], _brief: Brief, materials: Mapping[str, Material]
) -> Fastener:
    """The core's fastener.  Raises DetailError."""
    sleeve = plug = plate = None
    if record.sleeve:
        own = material(record.sleeve, materials, ("E1", "Xc"), "sleeve")
        sleeve = Sleeve(record.sleeve_outside, own, record.sleeve_short)
    if record.plug:
        plug = Plug(record.plug_diameter, material(record.plug, materials, ("Zc", "E3"), "plug"))
    if record.plate:
        plate = Plate(material(record.plate, materials, ("E1",), "plate"), record.plate_thickness)
    seat = (record.seat_length, record.seat_width) if record.seat == "plate" else None
    made = Fastener(
        record.id, record.name, where, tuple(cases), record.diameter, record.count, record.pitch, record.row_angle,
        record.grade, record.torque, record.preload, record.lubrication, record.washer, seat, record.countersink,
        record.edge, sleeve, plug, plate, record.what,
    )  # fmt: skip
    made.check()
    for case in cases:
        made.forces(case)  # what cannot be carried is reported once, here
    return made


def bond(
    record: BondDetail, where: Site, cases: Sequence[LineCase], brief: Brief, materials: Mapping[str, Material]
) -> Bond:
    """The core's seam.  Raises DetailError."""
    adhesive = material(record.adhesive, materials, ("lap_shear",), "adhesive")
    sheets = faces(where.stack)
    first = sheets[-1] if record.side == "face_b" else sheets[0]
    second = stack_of(record.other, brief, materials, "other") if record.other else first
    made = Bond(
        record.id, record.name, where, tuple(cases), first, second, adhesive, record.overlap, record.gap, record.form,
        record.angle, record.bends, record.laminate_first, record.steps, record.preparation, record.surroundings,
        brief.surroundings.temperature,
    )  # fmt: skip
    made.check()
    return made


FILLED = {"potted": ("S13", "S23"), "through": ("S13", "S23"), "plate": ("Xt",), "plug": ("S13", "density")}


def insert(
    record: InsertDetail, where: Site, cases: Sequence[PointCase], _brief: Brief, materials: Mapping[str, Material]
) -> Insert:
    """The core's insert.  Raises DetailError."""
    filler = glue = None
    if record.what in FILLED:
        filler = material(record.filler, materials, FILLED[record.what], "filler")
    if record.what in ("bush", "plate"):
        glue = material(record.adhesive, materials, ("lap_shear",), "adhesive")
    made = Insert(
        record.id, record.name, where, tuple(cases), record.what, record.diameter, record.potting, record.depth,
        record.length, record.width, record.thickness, filler, glue,
        PREPARED[record.preparation] * SURROUNDED[record.surroundings], record.tested, record.tested_by,
    )  # fmt: skip
    made.check()
    return made


def edge(
    record: EdgeDetail, where: Site, cases: Sequence[LineCase], brief: Brief, materials: Mapping[str, Material]
) -> Edge:
    """The core's edge.  Raises DetailError."""
    flange, wrap, tongue = (
        stack_of(layers, brief, materials, field) if layers else None
        for field, layers in (("flange", record.flange), ("wrap", record.wrap), ("tongue", record.tongue))
    )
    sheets = faces(where.stack)
    if flange is None and len(sheets) == 2:
        flange = Stack((*sheets[0].layers, *sheets[1].layers))
    filler = None
    if record.closing in ("potted", "strip"):
        filler = material(record.filler, materials, ("density",), "filler")
    made = Edge(
        record.id, record.name, where, tuple(cases), record.closing, record.slope, record.width, record.flat,
        record.angle, flange, wrap, filler, tongue,
    )  # fmt: skip
    made.check()
    return made


CURED_GAP = 0.1e-3  # m of resin between plies that are cured together (common practice, no source)


def doubler(
    record: DoublerDetail, where: Site, cases: Sequence[LineCase], brief: Brief, materials: Mapping[str, Material]
) -> Doubler:
    """The core's doubler.  Raises DetailError."""
    own = stack_of(record.other, brief, materials, "other") if record.other else faces(where.stack)[0]
    if record.adhesive:
        adhesive = material(record.adhesive, materials, ("lap_shear",), "adhesive")
        held, name = glue_of(adhesive, record.gap, 1.0), adhesive.id
    else:
        plies = [layer.material for layer in own.layers if layer.structural and layer.role == "ply"]
        weakest = min(plies, key=lambda ply: ply.transverse_strength)
        strength = weakest.transverse_strength
        modulus = min(weakest.value("G13"), weakest.value("G23"))
        held, name = Glue(modulus, 2.5 * modulus, CURED_GAP, strength, strength), "cured together"
    made = Doubler(
        record.id, record.name, where, tuple(cases), own, record.length, held, name, record.steps, record.run,
        record.angle, record.covered, record.tapered,
    )  # fmt: skip
    made.check()
    return made


def impact(
    record: ImpactDetail, where: Site, _cases: Sequence[LineCase], _brief: Brief, _materials: Mapping[str, Material]
) -> ImpactFace:
    """The core's struck face."""
    return ImpactFace(record.id, record.name, where, (), record.side, record.threat)


MAKERS: dict[type, Callable[..., CoreDetail]] = {
    FastenerDetail: fastener, BondDetail: bond, InsertDetail: insert, EdgeDetail: edge, DoublerDetail: doubler,
    ImpactDetail: impact,
}  # fmt: skip
Cases = Sequence[PointCase] | Sequence[LineCase]


def detail_problems(brief: Brief, candidate: Candidate, materials: Mapping[str, Material]) -> Iterator[tuple[str, str]]:
    """(place below the candidate, message) of each detail that makes no sense by its records alone."""
    seen = set()
    for i, detail in enumerate(candidate.details):
        if detail.id in seen:
            yield f".details[{i}]", f"the id '{detail.id}' is used twice"
        seen.add(detail.id)
        try:
            cases = typed_cases(detail) if detail.taken == "typed" else ()
            made(detail, site(brief, candidate, detail, materials), cases, brief, materials)
        except DetailError as error:
            yield f".details[{i}].{error.field}", f"{detail.name}: {error}"
        except OmakaseError as error:
            yield f".details[{i}]", f"{detail.name}: {error}"
