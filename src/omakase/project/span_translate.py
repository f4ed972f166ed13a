"""From the records of strips and tubes to the core's members, load cases and walls along the span."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from functools import lru_cache
from itertools import pairwise

import numpy as np

from omakase.core.errors import LayupError, MaterialError, MemberError, OmakaseError, both_units
from omakase.core.laminate.stack import Layer, make_layer
from omakase.core.materials.conditions import in_service
from omakase.core.materials.material import Material
from omakase.core.materials.sleeve import nominal, pulled
from omakase.core.members import span_loads as core
from omakase.core.members.spar_given import Spar, SparShape
from omakase.core.members.stretches import Run, Stretch, stretch_at, stretches
from omakase.core.members.strip import Strip, WidthLaw
from omakase.core.members.tube import Tube, check_tube
from omakase.core.plates.basis import gauss
from omakase.core.sections.aerofoils import four_digit
from omakase.core.sections.drawn import DrawnOutline
from omakase.core.sections.outlines import mid_lines, outline_walls
from omakase.core.sections.profile import Profile, mid_line
from omakase.project import edits, model, panels, spans, wings

AT_ROOM = model.Surroundings()
Curve = Callable[[np.ndarray], np.ndarray]
LIFT_PIECES, LIFT_POINTS = 20, 12
LIFT_CURVES = {"even": ("even",), "elliptic": ("ellipse",), "chord": ("chord",), "mean": ("ellipse", "chord")}
SpanMember = (
    spans.StripMember | spans.TubeMember | spans.SparMember | spans.LegMember | wings.RibMember | wings.SurfaceMember
)
SLEEVE_STEP = 0.04  # of the diameter, over which a sleeve's angle counts as one


def spanned(member: SpanMember) -> core.Spanned:
    """The core's span.  Raises MemberError."""
    return core.Spanned(
        member.length,
        tuple(core.Support(entry.x, entry.held, entry.along) for entry in member.supports),
        tuple(core.CarriedMass(entry.mass, entry.x) for entry in member.carried),
    )


def span_case(case: model.LoadCase, chord: WidthLaw | None = None) -> core.SpanCase:
    """The core's load case; ``chord`` : by which a lift may be shared out.

    Raises MemberError for a load that only a panel can have, and for a share by a chord that is not given.
    """
    loads: list[core.SpanLoad] = []
    gravity = 0.0
    for load in edits.acting(case).loads:
        if isinstance(load, panels.OwnWeight):
            gravity += load.g
        elif isinstance(load, spans.ForceLoad):
            loads.append(core.PointLoad(load.force, load.x, load.along, load.across, load.offset))
        elif isinstance(load, spans.SpreadLoad):
            loads.append(core.LineLoad(load.start, load.end, load.low, load.high, load.offset))
        elif isinstance(load, spans.LiftLoad):
            loads.append(lift(load, chord))
        elif isinstance(load, spans.TableLoad):
            loads.append(_table(load))
        elif isinstance(load, spans.MomentLoad):
            loads.append(core.Moment(load.moment, load.x))
        elif isinstance(load, spans.AxialLoad):
            loads.append(core.AxialForce(load.force, load.x))
        elif isinstance(load, spans.TorqueLoad):
            loads.append(core.Torque(load.torque, load.x))
        elif isinstance(load, spans.SideLoad):
            loads.append(core.SideForce(load.force, load.x, load.arm))
        elif isinstance(load, spans.DropLoad):
            loads.append(core.Drop(load.mass, load.height, load.x, load.along, load.across))
        else:
            raise MemberError(
                f"load case '{case.name or case.id}': a strip, tube or spar cannot take the load of a panel"
            )
    return core.SpanCase(case.name or case.id, tuple(loads), gravity, case.id)


@lru_cache(maxsize=256)
def lift(load: spans.LiftLoad, chord: WidthLaw | None) -> core.Distribution:
    """A lift as straight pieces, each with the force and the moment of the true curve.  Raises MemberError."""
    if not load.low < load.high:
        raise MemberError("lift must end further out than it begins")
    if load.shape in ("chord", "mean") and chord is None:
        raise MemberError("the brief gives no chord by which lift could be shared out: add it, or choose another share")
    # pieces close to the tip are shorter, where an ellipse drops steeply
    places = load.low + (load.high - load.low) * np.sin(np.linspace(0.0, np.pi / 2.0, LIFT_PIECES + 1))
    if chord is not None and load.shape in ("chord", "mean"):
        knots = [x for x, _ in chord.points if load.low < x < load.high]
        places = np.unique(np.concatenate([places, knots]))
    low, high = places[:-1], places[1:]
    start, end = np.zeros((2, len(low)))
    for curve in LIFT_CURVES[load.shape]:
        law = _ellipse(load) if curve == "ellipse" else _even
        q0, q1 = _straightened(chord if curve == "chord" and chord is not None else law, low, high)
        share = load.total / len(LIFT_CURVES[load.shape]) / float(((q0 + q1) / 2.0 * (high - low)).sum())
        start, end = start + share * q0, end + share * q1
    ends = zip(start.tolist(), end.tolist(), low.tolist(), high.tolist(), strict=True)
    return core.Distribution(tuple(core.LineLoad(-q0, -q1, a, b, load.offset) for q0, q1, a, b in ends))


def _straightened(curve: Curve, low: np.ndarray, high: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Values at both ends of straight pieces, (pieces,), with the force and the moment of a curve each."""
    points, weights = (np.array(values) for values in gauss(LIFT_POINTS))
    half = (high - low)[:, None] / 2.0
    x = (low + high)[:, None] / 2.0 + half * points
    q = curve(x.ravel()).reshape(x.shape) * weights
    mean, slope = q.sum(axis=1) / 2.0, 1.5 * (q * points).sum(axis=1)
    return mean - slope, mean + slope


def _ellipse(load: spans.LiftLoad) -> Curve:
    def height(x: np.ndarray) -> np.ndarray:
        share = (x - load.low) / (load.high - load.low)
        return np.sqrt(np.maximum(1.0 - share * share, 0.0))

    return height


def _even(x: np.ndarray) -> np.ndarray:
    return np.ones_like(x)


def _table(load: spans.TableLoad) -> core.Distribution:
    """Raises MemberError where the stations do not rise along the span."""
    if len(load.stations) < 2:
        raise MemberError("a table of loads needs two stations or more")
    for i, (one, two) in enumerate(pairwise(load.stations)):
        if not one.x < two.x:
            raise MemberError(f"station {i + 2} of a table of loads must lie further out than station {i + 1}")
    return core.Distribution(tuple(
        core.LineLoad(-one.load, -two.load, one.x, two.x, load.offset) for one, two in pairwise(load.stations)
    ))  # fmt: skip


def law(stations: Sequence[spans.Station]) -> WidthLaw:
    """Sizes along the span.  Raises MemberError."""
    return WidthLaw(tuple((station.x, station.size) for station in stations))


def strip(brief: model.Brief, candidate: model.Candidate) -> Strip:
    """The core's strip.  Raises MemberError."""
    form = candidate.form
    if not isinstance(brief.member, spans.StripMember) or not isinstance(form, spans.StripForm):
        raise MemberError("this candidate was not made for a strip: start a new one in this brief")
    profile = Profile(form.section, form.rise, form.crown, form.flange)
    member = Strip(spanned(brief.member), law(form.width), profile)
    mid_line(profile, member.width.first)
    return member


def leg(brief: model.Brief, candidate: model.Candidate) -> Strip:
    """The core's flat strip that a leg is.  Raises MemberError."""
    form = candidate.form
    if not isinstance(brief.member, spans.LegMember) or not isinstance(form, spans.LegForm):
        raise MemberError("this candidate was not made for a leg: start a new one in this brief")
    return Strip(spanned(brief.member), law(form.width))


def tube(brief: model.Brief, candidate: model.Candidate, materials: Mapping[str, Material]) -> Tube:
    """The core's tube.  Raises MemberError."""
    form = candidate.form
    if not isinstance(brief.member, spans.TubeMember) or not isinstance(form, spans.TubeForm):
        raise MemberError("this candidate was not made for a tube: start a new one in this brief")
    if form.filling and form.filling not in materials:
        raise MemberError(f"no material is named '{form.filling}' to fill the tube with")
    filling = materials[form.filling] if form.filling else None
    if filling is not None and filling.kind != "core":
        raise MemberError(f"'{form.filling}' is a {filling.kind}: fill a tube with a core material")
    member = Tube(spanned(brief.member), law(form.diameter), form.overlap, filling)
    check_tube(member)
    return member


def chord_of(brief: model.Brief) -> WidthLaw | None:
    """The chord along a spar; None where none is given, or of other members."""
    member = brief.member
    return law(member.chord) if isinstance(member, spans.SparMember) and member.chord else None


def drawn(form: spans.SparForm) -> DrawnOutline | None:
    """The outline of a form that is drawn, by its profile or by points; None for another.  Raises MemberError."""
    points = outline_points(form)
    return _outline(points, form.webs) if form.outline == "drawn" and points else None


def outline_points(form: spans.SparForm) -> tuple[spans.OutlinePoint, ...]:
    """The points of its profile, else its own.  Raises MemberError."""
    if not form.profile:
        return form.points
    return tuple(spans.OutlinePoint(y, z) for y, z in four_digit(form.profile))


@lru_cache(maxsize=64)
def _outline(points: tuple[spans.OutlinePoint, ...], webs: tuple[float, ...]) -> DrawnOutline:
    """Kept, since looking for lines that cross takes long."""
    return DrawnOutline(tuple((point.y, point.z) for point in points), webs)


def form_walls(form: spans.SparForm) -> tuple[str, ...]:
    """Names of the walls of a spar's form.  Raises MemberError."""
    return outline_walls(form.outline, drawn(form), form.cap)


def spar(brief: model.Brief, candidate: model.Candidate) -> Spar:
    """The core's spar.  Raises MemberError."""
    form, member = candidate.form, brief.member
    if not isinstance(member, spans.SparMember) or not isinstance(form, spans.SparForm):
        raise MemberError("this candidate was not made for a spar: start a new one in this brief")
    height = law(form.height) if form.height and form.outline != "nose" else None
    cap = form.cap if form.outline != "drawn" or form.webs else 0.0
    shape = SparShape(
        form.outline, law(form.width), height, form.radius, form.crown, form.foot, cap, chord_of(brief), member.ratio,
        drawn(form), form.at,
    )  # fmt: skip
    return Spar(spanned(member), shape, member.rib_pitch, form.bond, form.bond_strength)


def spar_walls(
    brief: model.Brief, candidate: model.Candidate, materials: Mapping[str, Material]
) -> dict[str, tuple[Stretch, ...]]:
    """The stacks along the span of each wall of a spar; see ``named_walls``."""
    form, member = candidate.form, brief.member
    assert isinstance(form, spans.SparForm)
    assert isinstance(member, spans.SparMember)
    return named_walls(brief, candidate, materials, member.length, form_walls(form))


def named_walls(
    brief: model.Brief, candidate: model.Candidate, materials: Mapping[str, Material], length: float,
    names: Sequence[str], others: Sequence[str] = (),
) -> dict[str, tuple[Stretch, ...]]:  # fmt: skip
    """The stacks along the span of each wall, their rows counted among all layers of the candidate.

    ``others`` : walls that layers may name too.  Raises LayupError or MemberError that names the wall.
    """
    for _, message in zone_problems(candidate, length):
        raise MemberError(message)
    walls = {}
    for layer in candidate.layers:
        if layer.wall not in (*names, *others):
            raise MemberError(f"a layer belongs to a wall '{layer.wall}' that this section does not have")
    for name in names:
        rows = edits.rows_of_wall(candidate, name)
        if not rows:
            raise MemberError(f"the {name} has no layers yet")
        try:
            stack = wall(edits.of_wall(candidate, name), length, materials, brief.surroundings)
        except LayupError as error:
            raise LayupError(f"{name}, {error}") from None
        walls[name] = tuple(
            Stretch(part.low, part.high, part.stack, tuple(rows[k] for k in part.rows)) for part in stack
        )
    return walls


def zone_problems(candidate: model.Candidate, length: float) -> Iterator[tuple[str, str]]:
    """(place below the candidate, message) of zones that make no sense, and of layers in zones that are not there."""
    known = {zone.id for zone in candidate.zones}
    for i, zone in enumerate(candidate.zones):
        if not zone.low < zone.high:
            yield f".zones[{i}]", f"zone '{zone.name}' must end further out than it begins"
        if zone.opening:
            yield f".zones[{i}]", f"zone '{zone.name}' is an opening: those are for panels"
        elif zone.low < -1e-9 or zone.high > length * (1.0 + 1e-9):
            reach = both_units(zone.low, zone.high, between=" to ")
            yield f".zones[{i}]", f"zone '{zone.name}' runs over {reach}, beyond the member of {both_units(length)}"
    if len(known) < len(candidate.zones):
        yield ".zones", "two zones have the same id"
    for i, layer in enumerate(candidate.layers):
        if layer.zone and layer.zone not in known:
            yield f".layers[{i}]", f"layer {i + 1} runs over a zone that is not there"


def wall(
    candidate: model.Candidate, length: float, materials: Mapping[str, Material], where: model.Surroundings = AT_ROOM,
    inside: WidthLaw | None = None,
) -> tuple[Stretch, ...]:  # fmt: skip
    """The stacks along the span; ``inside`` : diameter of a tube, which its sleeves follow.

    Raises LayupError naming the layer, or MemberError for a zone.
    """
    for _, message in zone_problems(candidate, length):
        raise MemberError(message)
    zones = {zone.id: zone for zone in candidate.zones}
    pieces = _pieces(candidate, length, materials, inside)
    runs: list[Run] = []
    rows: list[int] = []
    for low, high in pieces:
        diameter = 0.0 if inside is None else float(inside(np.array([(low + high) / 2.0]))[0])
        built = 0.0
        there: list[tuple[int, Run]] = []
        # from the inside outward: a sleeve lies on what is below it
        for i in reversed(range(len(candidate.layers))):
            record = candidate.layers[i]
            zone = zones.get(record.zone)
            start, end = (low, high) if zone is None else (max(low, zone.low), min(high, zone.high))
            if end - start <= 1e-9 * length:
                continue
            try:
                layer = _layer(record, materials, where, diameter + 2.0 * built if diameter else 0.0)
            except (LayupError, MaterialError) as error:
                raise LayupError(f"layer {i + 1}: {error}") from None
            built += layer.thickness
            there.append((i, Run(layer, start, end)))
        for i, run in reversed(there):
            rows.append(i)
            runs.append(run)
    return tuple(
        Stretch(stretch.low, stretch.high, stretch.stack, tuple(rows[k] for k in stretch.rows))
        for stretch in stretches(runs, length)
    )


def _pieces(
    candidate: model.Candidate, length: float, materials: Mapping[str, Material], inside: WidthLaw | None
) -> list[tuple[float, float]]:
    """The span in pieces over which a sleeve's angle counts as one; one piece unless a sleeve lies on a taper."""
    used = {layer.material for layer in candidate.layers} & set(materials)
    if inside is None or not any(nominal(materials[name], materials) for name in used):
        return [(0.0, length)]
    knots = [0.0, *(x for x, _ in inside.points if 0.0 < x < length), length]
    pieces = []
    for low, high in pairwise(knots):
        ends = inside(np.array([low, high]))
        count = max(1, min(12, int(np.ceil(abs(ends[1] - ends[0]) / (SLEEVE_STEP * ends.min()) - 1e-9))))
        pieces += [(low + (high - low) * k / count, low + (high - low) * (k + 1) / count) for k in range(count)]
    return pieces


def _layer(
    record: model.LayerRecord, materials: Mapping[str, Material], where: model.Surroundings, diameter: float
) -> Layer:
    """The core's layer where it works; a sleeve as it lies over ``diameter``, 0 for none.  Raises LayupError."""
    if record.material not in materials:
        raise LayupError(f"no material is named '{record.material}'")
    ply = materials[record.material]
    if diameter > 0.0:
        ply = pulled(ply, materials, diameter)
    return _made(record, ply, where)


@lru_cache(maxsize=1024)
def _made(record: model.LayerRecord, ply: Material, where: model.Surroundings) -> Layer:
    """Kept, since an edit changes one layer of many."""
    material = in_service(ply, record.thickness, where.temperature, where.wet)
    return make_layer(material, record.angle, record.thickness, record.role, record.structural, record.turned)


def span_problems(brief: model.Brief) -> Iterator[tuple[str, str]]:
    """(field, message) of what is wrong with a strip's or tube's supports and loads."""
    member = brief.member
    assert not isinstance(member, panels.PanelMember | spans.BracketMember)
    length = member.length
    if not core.MIN_LENGTH <= length <= core.MAX_LENGTH:
        yield "member", f"a length of {both_units(length)} is outside 10 mm to 50 m (0.4 in to 164 ft)"
        return
    chord = None
    try:
        spanned(member)
        chord = chord_of(brief)
    except OmakaseError as error:
        yield "member", str(error)
    if isinstance(member, spans.SparMember):
        if not member.rib_pitch >= 0.0:
            yield "member", "the pitch of ribs must not be negative"
        if not 0.02 <= member.ratio <= 0.5:
            yield "member", "the thickness of an aerofoil lies between 2 % and 50 % of its chord"
    for i, case in enumerate(brief.load_cases):
        try:
            span_case(case, chord).check_on(length)
        except OmakaseError as error:
            yield f"load_cases[{i}]", str(error)
        if isinstance(member, spans.StripMember) and any(isinstance(load, spans.TorqueLoad) for load in case.loads):
            yield (
                f"load_cases[{i}]",
                f"load case '{case.name or case.id}': a strip cannot carry torque here: use a tube",
            )
        sideways = any(isinstance(load, spans.SideLoad) for load in case.loads)
        if sideways and not isinstance(member, spans.LegMember):
            yield f"load_cases[{i}]", f"load case '{case.name or case.id}': only a leg carries a force edgewise"


def form_problems(
    brief: model.Brief, candidate: model.Candidate, materials: Mapping[str, Material]
) -> Iterator[tuple[str, str]]:
    """(place below the candidate, message) of what is wrong with the form, zones and wall of a strip or tube."""
    member = brief.member
    assert not isinstance(member, panels.PanelMember | spans.BracketMember)
    length = member.length
    yield from zone_problems(candidate, length)
    inside = None
    try:
        if isinstance(member, spans.StripMember):
            strip(brief, candidate)
        elif isinstance(member, spans.LegMember):
            leg(brief, candidate)
        elif isinstance(member, spans.SparMember):
            yield from _spar_problems(brief, candidate, materials)
            return
        else:
            inside = tube(brief, candidate, materials).diameter
    except OmakaseError as error:
        yield ".form", str(error)
        return
    if candidate.layers and not list(zone_problems(candidate, length)):
        try:
            wall(candidate, length, materials, AT_ROOM, inside)
        except OmakaseError as error:
            yield ".layers", str(error)


def _spar_problems(
    brief: model.Brief, candidate: model.Candidate, materials: Mapping[str, Material]
) -> Iterator[tuple[str, str]]:
    """What is wrong with a spar's form and walls.  Raises MemberError for its sizes alone."""
    member = spar(brief, candidate)
    yield from walled_problems(brief, candidate, materials, member, member.shape.walls)


def walled_problems(
    brief: model.Brief, candidate: model.Candidate, materials: Mapping[str, Material], member: Spar,
    names: Sequence[str], others: Sequence[str] = (),
) -> Iterator[tuple[str, str]]:  # fmt: skip
    """(place below the candidate, message) of what is wrong with the walls of a section of several."""
    for i, layer in enumerate(candidate.layers):
        if layer.wall not in (*names, *others):
            yield f".layers[{i}]", f"layer {i + 1} belongs to a wall '{layer.wall}' that this section does not have"
    if not candidate.layers or list(zone_problems(candidate, member.span.length)):
        return
    try:
        walls = named_walls(brief, candidate, materials, member.span.length, names, others)
    except OmakaseError as error:
        yield ".layers", str(error)
        return
    try:
        check_room(member, walls)
    except OmakaseError as error:
        yield ".form", str(error)


def check_room(member: Spar, walls: Mapping[str, Sequence[Stretch]]) -> None:
    """Raises MemberError where the walls do not fit into the section, at the ends of every even stretch."""
    length = member.span.length
    borders = {0.0, length, *member.shape.knots(length)}
    borders |= {part.low for parts in walls.values() for part in parts}
    for low, high in pairwise(sorted(borders)):
        middle = np.array([(low + high) / 2.0])
        thickness = {name: parts[int(stretch_at(parts, middle)[0])].stack.thickness for name, parts in walls.items()}
        mid_lines(member.shape.outline, member.shape.sizes(np.array([low, high])), thickness)
