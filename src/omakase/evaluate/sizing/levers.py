"""What may be changed about a candidate, one thing at a time: the levers, and what each can be set to."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

import msgspec

from omakase.core.materials.material import Material
from omakase.evaluate.details.registry import detail_levers
from omakase.evaluate.members.kind import MemberKind
from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.results.wording import quantity, together
from omakase.evaluate.sizing.lever import Lever, Option, Wanted
from omakase.project import edits
from omakase.project.commands import replace
from omakase.project.model import Brief, Candidate, LayerRecord
from omakase.units import UnitSystem

STEP = {"si": 0.5e-3, "inch_pound": 25.4e-3 / 32.0}  # in which core thickness is proposed
THICKEST, THINNEST = 3.0, 0.25  # times the present core
ANGLES = (0.0, 45.0, 90.0)


def levers(
    brief: Brief, candidate: Candidate, materials: Mapping[str, Material], units: UnitSystem, passes: bool
) -> Iterator[Lever]:
    """The levers of a candidate that fails (ways out) or passes (ways down), quickest to look at first."""
    if not passes:
        yield from detail_levers(candidate, materials, units)
    kind = kind_of(brief)
    walls = kind.walls(candidate)
    if len(walls) > 1:
        yield from kind.levers(brief, candidate, units, passes)
        for group in edits.walls_alike(candidate, walls):
            part = edits.of_wall(candidate, group[0][0])
            for lever in _of_wall(brief, part, materials, units, passes):
                yield _in_walls(lever, candidate, group, walls)
        return
    yield from _of_wall(brief, candidate, materials, units, passes, kind)


def _in_walls(lever: Lever, candidate: Candidate, group: tuple[tuple[str, bool], ...], walls: tuple[str, ...]) -> Lever:
    """A lever on the layers of walls that are alike as one of the whole candidate."""
    where = together([wall for wall, _ in group])
    options = tuple(
        Option(f"{where}: {option.text}", edits.with_walls_alike(candidate, group, option.candidate, walls))
        for option in lever.options
    )
    return msgspec.structs.replace(
        lever, name=f"{lever.name}, {where}", title=f"{where}: {lever.title}", options=options
    )


def _of_wall(
    brief: Brief, candidate: Candidate, materials: Mapping[str, Material], units: UnitSystem, passes: bool,
    kind: MemberKind | None = None,
) -> Iterator[Lever]:  # fmt: skip
    """Levers on the layers of one wall, with those of a ``kind`` of member among them."""
    core = _main_core(candidate)
    if core is not None:
        yield from _ribbon(candidate, materials, core, passes)
        yield _thickness(candidate, core, units, passes)
        sold = _sold(candidate, materials, core, units, passes)
        if sold.options:
            yield sold
    if passes:
        yield from _one_less(candidate, core)
        if kind is not None:
            yield from _other_side(candidate, materials, "better")
    else:
        yield from _one_more(candidate, core)
        yield from _turned(candidate, materials)
        yield from _swapped(candidate)
        yield from _other_side(candidate, materials)
    if not passes and kind is not None:
        yield from kind.levers(brief, candidate, units, passes)
    if core is not None:
        yield from _other_cores(candidate, materials, core)
    yield from _other_cloths(candidate, materials)
    if passes and kind is not None:
        yield from kind.levers(brief, candidate, units, passes)


def _main_core(candidate: Candidate) -> int | None:
    """The row of the core, beside which others may stand in zones of a panel; None where several lie all over."""
    cores = [i for i, layer in enumerate(candidate.layers) if layer.role == "core"]
    main = [i for i in cores if not candidate.layers[i].zone or candidate.layers[i].outside]
    side_by_side = bool(cores) and cores == list(range(cores[0], cores[-1] + 1))
    return main[0] if len(main) == 1 and side_by_side else None


def _faces(candidate: Candidate, core: int | None) -> list[tuple[str, range]]:
    """(name, rows) of the faces; of a laminate without core only what lies on side A."""
    count = len(candidate.layers)
    return [("A", range(count))] if core is None else [("A", range(core)), ("B", range(core + 1, count))]


def _is_ply(layer: LayerRecord) -> bool:
    return layer.role == "ply" and layer.thickness is None


def _ribbon(candidate: Candidate, materials: Mapping[str, Material], core: int, passes: bool) -> Iterator[Lever]:
    layer = candidate.layers[core]
    known = materials.get(layer.material)
    if not passes and known is not None and known.family == "honeycomb":
        turned = replace(layer, angle=edits.step_angle(layer.angle, 90.0))
        text = f"turn the ribbon to {turned.angle:g}°"
        yield Lever("ribbon", text, (Option(text, edits.set_layer(candidate, core, turned)),))


def _with_core(candidate: Candidate, core: int, thickness: float) -> Candidate:
    """Another thickness of the core, and of the inserts that are as thick."""
    now = candidate.layers[core].thickness
    for i, layer in enumerate(candidate.layers):
        if i == core or (layer.role == "core" and layer.zone and layer.thickness == now):
            candidate = edits.set_layer(candidate, i, replace(layer, thickness=round(thickness, 9)))
    return candidate


def _thickness(candidate: Candidate, core: int, units: UnitSystem, passes: bool) -> Lever:
    now, step = candidate.layers[core].thickness or 0.0, STEP[units]
    furthest = max(1, round(now * ((1.0 - THINNEST) if passes else (THICKEST - 1.0)) / step))
    sizes = [now + (-k if passes else k) * step for k in range(1, furthest + 1)]
    options = tuple(
        Option(f"core {quantity(size, 'length', units)}", _with_core(candidate, core, size))
        for size in sizes
        if size > 1e-4
    )
    return Lever("core", f"a {'thinner' if passes else 'thicker'} core", options, "steps")


def _sold(candidate: Candidate, materials: Mapping[str, Material], core: int, units: UnitSystem, passes: bool) -> Lever:
    layer = candidate.layers[core]
    now = layer.thickness or 0.0
    known = materials.get(layer.material)
    sizes = [t for t in sorted(known.sold if known else ()) if (t < now * 0.999 if passes else t > now * 1.001)]
    options = tuple(
        Option(f"core {quantity(size, 'length', units)} (sold)", _with_core(candidate, core, size))
        for size in (reversed(sizes) if passes else sizes)
    )
    return Lever("sold", f"a {'thinner' if passes else 'thicker'} core as sold", options, "steps")


def _one_more(candidate: Candidate, core: int | None) -> Iterator[Lever]:
    """One more ply on the outside of each face, of each cloth that the candidate has."""
    cloths = list(dict.fromkeys(layer.material for layer in candidate.layers if _is_ply(layer)))
    for face, rows in _faces(candidate, core):
        at = rows.start if face == "A" else rows.stop
        options = tuple(
            Option(
                f"face {face}: + {cloth} {angle:g}°",
                edits.insert_layers(candidate, at, [LayerRecord(cloth, angle)]),
            )
            for cloth in cloths
            for angle in ANGLES
        )
        if options:
            yield Lever(f"more {face}", f"one more ply on face {face}", options)


def _one_less(candidate: Candidate, core: int | None) -> Iterator[Lever]:
    for face, rows in _faces(candidate, core):
        options = tuple(
            Option(
                f"face {face}: − {candidate.layers[i].material} {candidate.layers[i].angle:g}° (layer {i + 1})",
                edits.remove_layers(candidate, [i]),
            )
            for i in rows
            if _is_ply(candidate.layers[i]) and len(rows) > 1
        )
        if options:
            yield Lever(f"less {face}", f"one ply less on face {face}", options)


def _turned(candidate: Candidate, materials: Mapping[str, Material]) -> Iterator[Lever]:
    options = []
    for i, layer in enumerate(candidate.layers):
        known = materials.get(layer.material)
        if not _is_ply(layer) or known is None:
            continue
        for angle in (*ANGLES, -45.0):
            same = {angle, angle + 90.0, angle - 90.0} if known.is_woven and not known.has_face else {angle}
            if layer.angle not in same:
                text = f"layer {i + 1} at {angle:g}° for {layer.angle:g}°"
                options.append(Option(text, edits.set_layer(candidate, i, replace(layer, angle=angle))))
    if options:
        yield Lever("turn", "a ply at another angle", tuple(options))


def _swapped(candidate: Candidate) -> Iterator[Lever]:
    """Neighbouring plies that change places."""
    options = tuple(
        Option(f"layers {i + 1} and {i + 2} swapped", edits.move_layer(candidate, i, i + 1))
        for i, (one, two) in enumerate(zip(candidate.layers, candidate.layers[1:], strict=False))
        if _is_ply(one) and _is_ply(two) and one != two
    )
    if options:
        yield Lever("swap", "two plies swapped", options)


def _other_side(
    candidate: Candidate, materials: Mapping[str, Material], wanted: Wanted = "lightest"
) -> Iterator[Lever]:
    """The whole turned over, where its faces differ."""
    flipped = edits.flip(candidate, frozenset(m.id for m in materials.values() if m.has_face))
    if flipped.layers != candidate.layers:
        yield Lever("flip", "face A for face B", (Option("face A for face B", flipped),), wanted)


def _other_cores(candidate: Candidate, materials: Mapping[str, Material], core: int) -> Iterator[Lever]:
    """Another grade of the same family, then cores of other families, at the same thickness."""
    layer = candidate.layers[core]
    material = materials.get(layer.material)
    cores = sorted((m for m in materials.values() if m.kind == "core"), key=lambda m: (m.value("density"), m.id))
    same = [m for m in cores if material is not None and m.family == material.family and m.id != layer.material]
    others = [m for m in cores if material is None or m.family != material.family]
    for name, title, group in (("grade", "another grade of core", same), ("material", "another kind of core", others)):
        options = tuple(
            Option(f"core of {m.id}", edits.set_layer(candidate, core, replace(layer, material=m.id))) for m in group
        )
        if options:
            yield Lever(name, title, options)


def _other_cloths(candidate: Candidate, materials: Mapping[str, Material]) -> Iterator[Lever]:
    """Each cloth of the candidate for another, everywhere it is used."""
    for cloth in dict.fromkeys(layer.material for layer in candidate.layers if _is_ply(layer)):
        options = tuple(
            Option(
                f"{other} for {cloth}",
                replace(
                    candidate,
                    layers=tuple(
                        replace(layer, material=other) if layer.material == cloth and _is_ply(layer) else layer
                        for layer in candidate.layers
                    ),
                ),
            )
            for other, material in materials.items()
            if material.kind == "ply" and other != cloth
        )
        if options:
            yield Lever(f"cloth {cloth}", f"another cloth for {cloth}", options)
