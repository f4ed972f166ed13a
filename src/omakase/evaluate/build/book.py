"""The ply book: what to do with a part, one step a line, in the order it is done."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

import msgspec

from omakase.core.materials.material import Material
from omakase.evaluate.build.cutting import CutPiece, Cutting
from omakase.evaluate.build.mixing import Card
from omakase.evaluate.build.parts import MadePart
from omakase.evaluate.build.working import cure_time
from omakase.project.build import Job, Shop, WorkRecord
from omakase.project.details import FastenerDetail, InsertDetail
from omakase.project.model import Candidate
from omakase.project.spans import TubeForm
from omakase.units import UnitSystem, format_value

DUST = "Dust of cut fibre and sanded resin hurts lungs and eyes: respirator, glasses, extraction."
RESIN = "Resin and hardener harm skin and lungs: gloves, glasses, fresh air; read the maker's data sheet."
EXOTHERM = "A full cup gets hot and can burn: pour it out flat at once, never leave it standing."
PROOF = "A part under proof load can break suddenly: stand clear, fence it off."
DATUM = "Angles are as you see them from above, from the arrow along the length; + is to the left, counter-clockwise."


class Step(msgspec.Struct, frozen=True):
    """A line with a box to tick: ``title`` in large type, what to know below it, a warning where there is one.

    ``pieces`` : names of the pieces it takes.  ``seen`` : angle of the warp as it is seen from above, None where there
    is none; ``layer`` : place in the candidate, −1 for none.
    """

    number: int
    title: str
    lines: tuple[str, ...] = ()
    warning: str = ""
    pieces: tuple[str, ...] = ()
    seen: float | None = None
    layer: int = -1


class Book(msgspec.Struct, frozen=True, eq=False):
    """The steps of one part."""

    part: MadePart
    steps: tuple[Step, ...]


class Said(msgspec.Struct, frozen=True):
    """A step before it has its number."""

    title: str
    lines: tuple[str, ...] = ()
    warning: str = ""
    pieces: tuple[str, ...] = ()
    seen: float | None = None
    layer: int = -1


def book(
    part: MadePart, cutting: Cutting, card: Card | None, areas: Sequence[float], predicted: str, shop: Shop,
    materials: Mapping[str, Material], units: UnitSystem,
) -> Book:  # fmt: skip
    """The ply book of a part; ``predicted`` : its mass when it comes out of the mould, in words."""
    said = [
        *_before(part, cutting),
        *_laying(part, cutting, card, areas, materials, units),
        *_bagging(part, units),
        *_after(part, predicted, shop, units),
    ]
    return Book(part, numbered(said))


def numbered(said: Sequence[Said]) -> tuple[Step, ...]:
    return tuple(
        Step(i + 1, own.title, own.lines, own.warning, own.pieces, own.seen, own.layer) for i, own in enumerate(said)
    )  # fmt: skip


def laying_order(candidate: Candidate, first: str) -> list[int]:
    """Places of the layers in the order they are laid: from the face in the mould, wall by wall."""
    walls = list(dict.fromkeys(layer.wall for layer in candidate.layers))
    order = []
    for wall in walls:
        rows = [i for i, layer in enumerate(candidate.layers) if layer.wall == wall]
        order += rows if first == "face_a" else rows[::-1]
    return order


def seen_angle(angle: float, first: str) -> float:
    """Angle of a layer as it is seen from above: a layup states it as seen from face A, which is below where that lies
    in the mould."""
    seen = -angle if first == "face_a" else angle
    seen = (seen + 90.0) % 180.0 - 90.0
    return 90.0 if seen == -90.0 else seen + 0.0


def angle_words(seen: float) -> str:
    return f"{seen:+g}°" if seen not in (0.0, 90.0) else f"{seen:g}°"


def _before(part: MadePart, cutting: Cutting) -> Iterator[Said]:
    own = [piece for piece in cutting.pieces if piece.part == part.index]
    count = sum(piece.plies for piece in own)
    yield Said("Cut and mark all pieces", (f"{count} pieces, see the cut list.",), DUST)
    mould = part.part.mould or "the mould"
    face = "A" if part.part.first == "face_a" else "B"
    yield Said(f"Clean {mould}, put on release agent", (f"Face {face} lies in the mould.", DATUM))


def _laying(
    part: MadePart, cutting: Cutting, card: Card | None, areas: Sequence[float], materials: Mapping[str, Material],
    units: UnitSystem,
) -> Iterator[Said]:  # fmt: skip
    batches = list(card.plan.batches) if card is not None else []
    total = sum(areas[i] for i, layer in enumerate(part.candidate.layers) if materials[layer.material].kind == "ply")
    mixed, wetted = 0, 0.0
    below = ""
    wall = part.candidate.layers[0].wall
    for place in laying_order(part.candidate, part.part.first):
        layer = part.candidate.layers[place]
        own = [piece for piece in cutting.pieces if piece.part == part.index and piece.layer == place]
        if layer.wall != wall:
            wall, below = layer.wall, ""
        if not own:
            continue
        is_ply = own[0].material.kind == "ply"
        while is_ply and mixed < len(batches) and (mixed == 0 or wetted >= total * mixed / len(batches) - 1e-9):
            assert card is not None
            yield _mix(card, mixed, units)
            mixed += 1
        yield _layer(part, place, own, below, units)
        below = own[0].name
        wetted += areas[place] if is_ply else 0.0
        if layer.role == "core":
            yield from _set_in(part, layer.wall, units)
    while card is not None and mixed < len(batches):
        yield _mix(card, mixed, units)
        mixed += 1


def _mix(card: Card, which: int, units: UnitSystem) -> Said:
    batch = card.plan.batches[which]
    resin, hardener = (format_value(own, "small_mass", units, with_unit=True) for own in (batch.resin, batch.hardener))
    volume = f"by volume 100 : {100.0 * card.mix.hardener_volume:.0f}"
    return Said(
        f"Mix batch {which + 1} of {len(card.plan.batches)}: {resin} + {hardener}",
        (f"{card.resin.name} and its hardener; {volume}.", f"Use it within {batch.seconds / 60.0:.0f} min."),
        f"{RESIN} {EXOTHERM}" if which == 0 else EXOTHERM,
    )  # fmt: skip


def _layer(part: MadePart, place: int, pieces: Sequence[CutPiece], below: str, units: UnitSystem) -> Said:
    first = pieces[0]
    layer, material = first.record, first.material
    seen = seen_angle(layer.angle, part.part.first)
    where = f" · {layer.wall}" if layer.wall else ""
    if layer.zone:
        zone = next((own.name for own in part.candidate.zones if own.id == layer.zone), layer.zone)
        where += f" · {'outside ' if layer.outside else ''}{zone}"
    lines = [f"{material.name}. {_sizes(pieces, units)}."]
    if first.plies > 1:
        lines.append(f"{first.plies} plies, one on the other.")
    if material.has_face:
        warp_up = layer.turned == (part.part.first == "face_a")
        lines.append("Warp side up." if warp_up else "Warp side down.")
    form = part.candidate.form
    if isinstance(form, TubeForm) and form.overlap > 0.0 and not first.sleeve and layer.role != "core":
        lines.append(f"The wrap overlaps by {format_value(form.overlap, 'length', units, with_unit=True)}.")
    if first.splice:
        over = format_value(first.splice, "length", units, with_unit=True)
        lines.append(f"Strips overlap by {over}; not above the splice of {below}." if below else
                     f"Strips overlap by {over}.")  # fmt: skip
    if not layer.structural:
        lines.append("Not counted in strength: it may be sanded.")
    if layer.role != "core":
        return Said(f"{first.name}  {material.id} at {angle_words(seen)}{where}", tuple(lines), "",
                    tuple(own.name for own in pieces), seen, place)  # fmt: skip
    thick = format_value(layer.thickness or 0.0, "length", units, with_unit=True)
    if material.family == "honeycomb" or layer.angle:
        lines.append(f"Ribbon at {angle_words(seen)}.")
    if part.part.score:
        every = format_value(part.part.score, "length", units, with_unit=True)
        fill = "fill the cuts with resin" if part.part.kerfs == "filled" else "leave the cuts open"
        lines.append(f"Scored every {every} both ways, cuts to the outside of the bend; {fill}.")
    if part.part.chamfer < 90.0:
        lines.append(f"Edges chamfered to {part.part.chamfer:g}°.")
    return Said(f"{first.name}  core {material.id}, {thick}{where}", tuple(lines), DUST,
                tuple(own.name for own in pieces), seen, place)  # fmt: skip


def _sizes(pieces: Sequence[CutPiece], units: UnitSystem) -> str:
    """Size in the part, and as it is cut where trim is left round it; a sleeve's length."""

    def shown(size: tuple[float, float]) -> str:
        along, across = size
        return f"{format_value(along, 'length', units)} × {format_value(across, 'length', units, with_unit=True)}"

    first = pieces[0]
    if first.sleeve:
        return f"Sleeve, {format_value(first.sleeve, 'length', units, with_unit=True)} long"
    if len({id(piece.net) for piece in pieces}) > 1:
        return f"{len(pieces)} pieces, the first {shown(first.net.size)}, cut to {shown(first.cut.size)}"
    text = shown(first.net.size)
    if len(pieces) > 1:
        return f"{text}, in {len(pieces)} strips"
    cut = shown(first.cut.size)
    return text if cut == text else f"{text}, cut to {cut}"


def _set_in(part: MadePart, wall: str, units: UnitSystem) -> Iterator[Said]:
    """Inserts and plugs that are put into the core."""
    for detail in part.candidate.details:
        plug = isinstance(detail, FastenerDetail) and bool(detail.plug)
        if detail.wall == wall and (isinstance(detail, InsertDetail) or plug):
            x, y = (format_value(own, "length", units, with_unit=True) for own in (detail.x, detail.y))
            yield Said(f"Set in: {detail.name}", (f"At {x} along, {y} across.",))


def _bagging(part: MadePart, units: UnitSystem) -> Iterator[Said]:
    process = part.process
    for own in process.consumables:
        yield Said(f"Lay on: {own.name}")
    if process.drop > 0.0:
        drop = format_value(process.drop, "vacuum", units, with_unit=True)
        yield Said(
            "Pull vacuum, close the pump, watch the gauge",
            (f"It may lose at most {drop} in {process.drop_time / 60.0:g} min. Write the readings down.",),
        )  # fmt: skip


def _after(part: MadePart, predicted: str, shop: Shop, units: UnitSystem) -> Iterator[Said]:
    process = part.process
    at = format_value(process.oven or shop.temperature, "temperature", units, with_unit=True)
    hours = cure_time(process, part, shop) / 3600.0
    lines = [f"{hours:.1f} h at {at}."]
    full = cure_time(process, part, shop, "full_time") / 3600.0
    if full > hours:
        lines.append(f"Full strength after {full / 24.0:.1f} days: do not load it before.")
    yield Said("Cure", tuple(lines))
    yield Said("Demould, trim", (), DUST)
    yield Said("Weigh it, write it down", (f"Predicted {predicted}. Measure its thickness at five places.",))
    for own in part.part.finishes:
        thick = format_value(own.thickness, "length", units, with_unit=True)
        yield Said(
            f"{own.what}: {thick} stays on", ("Weigh it before and after.",), DUST if own.kind == "filler" else RESIN
        )


def works_book(job: Job, names: Mapping[str, str], units: UnitSystem) -> tuple[Step, ...]:
    """Works on a unit, each with what it waits for."""
    return numbered([_work(own, names, units) for own in job.works])


def _work(work: WorkRecord, names: Mapping[str, str], units: UnitSystem) -> Said:
    lines = []
    if work.after:
        lines.append(f"After: {', '.join(names.get(own, own) for own in work.after)}.")
    if work.adhesive:
        gap = format_value(work.gap, "length", units, with_unit=True)
        lines.append(f"{work.adhesive}, bond line {gap}. Abrade, wipe clean, glue within the hour.")
    if work.wait:
        lines.append(f"Then leave it alone for {work.wait / 3600.0:g} h.")
    return Said(work.name, tuple(lines), RESIN if work.adhesive else "")
