"""Masses of a job's parts, row by row: layers by their flat areas, details, works, finishes and hardware."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from omakase.core.build.masses import MassRow
from omakase.core.errors import OmakaseError
from omakase.core.materials.areal import ply_masses
from omakase.core.materials.material import Material
from omakase.core.members.panel_patchwork import patchwork
from omakase.core.members.panel_ribs import RibBeam, rib_pieces
from omakase.core.plates.section import PlateSection
from omakase.evaluate.build.cutting import plies_of
from omakase.evaluate.build.parts import MadePart
from omakase.evaluate.details.registry import detail_kind
from omakase.evaluate.members.panel_ribs import rib_areas
from omakase.evaluate.results.engine import Evaluator
from omakase.project import edits, translate
from omakase.project.build import Shop, WorkRecord
from omakase.project.layers import LayerRecord
from omakase.project.panels import PanelMember
from omakase.project.spans import TubeForm
from omakase.units import UnitSystem, format_value

KERF_DEPTH = 0.9  # of a core's thickness that is cut


def face_area(part: MadePart, areas: Sequence[float]) -> float:
    """m² of one face of a part: of each wall the largest of its layers."""
    largest: dict[str, float] = {}
    for layer, area in zip(part.candidate.layers, areas, strict=True):
        largest[layer.wall] = max(largest.get(layer.wall, 0.0), area)
    return sum(largest.values())


def layer_rows(
    part: MadePart, materials: Mapping[str, Material], units: UnitSystem, areas: Sequence[float]
) -> list[MassRow]:  # fmt: skip
    """Cloth, resin, core, uptake and sheets: one row for each material and kind.  Raises OmakaseError."""
    made: dict[tuple[str, str], tuple[float, float, str]] = {}

    def add(kind: str, what: str, mass: float, area: float, source: str) -> None:
        if mass:
            before = made.get((kind, what), (0.0, 0.0, source))
            made[kind, what] = before[0] + mass, before[1] + area, source

    layers = part.candidate.layers
    for layer, area in zip(layers, areas, strict=True):
        material = materials[layer.material]
        if material.kind == "ply":
            cloth, resin = ply_masses(material)
            scale = plies_of(layer, material)
            source = material.source(("fibre_areal_mass",))
            add("cloth", material.name, cloth * scale * area, area * scale, source)
            source = material.source(("fibre_areal_mass", "resin_mass_fraction"))
            add("resin", f"in {material.id}", resin * scale * area, area * scale, source)
            continue
        mass = material.value("density") * (layer.thickness or 0.0) * area
        kind = "core" if layer.role == "core" else "sheet"
        add(kind, material.name, mass, area, material.source(("density",)))
        if layer.role == "core":
            add("uptake", f"in kerfs of {material.id}", kerf_resin(part, layer) * area, area, "estimated")
    for name, (mass, area) in uptakes(part, materials, areas).items():
        add("uptake", f"by {name}", mass, area, materials[name].source(("resin_uptake",)))
    return [
        MassRow(kind, what, mass, format_value(area, "area", units, with_unit=True), source)  # type: ignore[arg-type]
        for (kind, what), (mass, area, source) in made.items()
    ]


def kerf_resin(part: MadePart, layer: LayerRecord) -> float:
    """kg/m² of resin in the cuts made in a core, a grid of them ``score`` m apart, 0.9 of the core deep (common
    practice, no source); none where the cuts stay open."""
    own = part.part
    if not own.score > own.kerf or own.kerfs != "filled" or part.resin is None:
        return 0.0
    share = 1.0 - (1.0 - own.kerf / own.score) ** 2
    return share * KERF_DEPTH * (layer.thickness or 0.0) * part.resin.value("density")


def uptakes(
    part: MadePart, materials: Mapping[str, Material], areas: Sequence[float]
) -> dict[str, tuple[float, float]]:  # fmt: skip
    """(kg, m² of wetted faces) of resin that cores absorb, by their short name: each face on which a ply lies.

    Of a panel with zones patch by patch, as what lies on a core differs from place to place.
    """
    brief, candidate = part.brief, part.candidate
    found: dict[str, tuple[float, float]] = {}

    def add(names: Sequence[tuple[str, str]], area: float) -> None:
        for i, (name, role) in enumerate(names):
            if role == "core" and "resin_uptake" in materials[name].properties:
                faces = sum(1 for k in (i - 1, i + 1) if 0 <= k < len(names) and names[k][1] == "ply")
                mass, wet = found.get(name, (0.0, 0.0))
                drunk = faces * materials[name].value("resin_uptake") * area
                found[name] = mass + drunk, wet + faces * area

    walls = dict.fromkeys(layer.wall for layer in candidate.layers)
    member = brief.member
    for wall in walls:
        rows = edits.rows_of_wall(candidate, wall)
        layers = [candidate.layers[row] for row in rows]
        if isinstance(member, PanelMember) and not wall and translate.has_zones(candidate):
            own = edits.of_wall(candidate, "")
            lying = translate.lying(own, member.length, member.width)
            made = tuple(translate.layer(layer, materials, brief.surroundings) for layer in layers)
            openings = translate.openings(candidate, member.length, member.width)
            work = patchwork(made, lying, member.length, member.width, openings)
            whole = translate.panel(brief, candidate).area + rib_areas(brief, candidate)[1]
            share = whole / (member.length * member.width)
            for which, area in zip(work.rows, work.areas, strict=True):
                add([(layers[k].material, layers[k].role) for k in which], float(area) * share)
        else:
            core = [areas[row] for row in rows if candidate.layers[row].role == "core"]
            add([(layer.material, layer.role) for layer in layers], max(core, default=0.0))
    return {name: own for name, own in found.items() if own[0]}


def filling_row(part: MadePart, materials: Mapping[str, Material], units: UnitSystem) -> Iterator[MassRow]:
    """What a tube is filled with."""
    form = part.candidate.form
    name = getattr(form, "filling", "")
    if not (isinstance(form, TubeForm) and name in materials):
        return
    import numpy as np

    length = float(getattr(part.brief.member, "length", 0.0))
    places = [own.x for own in form.diameter]
    x = np.linspace(0.0, length, 401)
    inside = np.interp(x, places, [own.size for own in form.diameter])
    volume = float(np.trapezoid(np.pi / 4.0 * inside**2, x))
    material = materials[name]
    size = format_value(length, "run", units, with_unit=True)
    yield MassRow("core", f"{material.name}, inside", volume * material.value("density"), size,
                  material.source(("density",)))  # fmt: skip


def fit_row(
    part: MadePart, rows: Sequence[MassRow], materials: Mapping[str, Material], evaluator: Evaluator, units: UnitSystem
) -> Iterator[MassRow]:  # fmt: skip
    """Difference in mass between walls and ribs and their layers laid out flat: layers lie on each other, and ribs on a
    core.

    Flat layers are those of walls without thickness; with this row a part weighs what the line-up says.
    Raises OmakaseError.
    """
    member = part.brief.member
    if isinstance(member, PanelMember):
        ribs = translate.ribs(part.brief, part.candidate, materials)
        beams = [RibBeam(own.rib, PlateSection(own.stack), 1.0, own.rows) for own in ribs if not own.rib.formed]
        flat = sum(
            sum(piece.length for piece in rib_pieces(beam.rib, 1e-9)) * (beam.rib.high - beam.rib.low)
            * sum(beam.plate.stack.areal_mass().values())
            for beam in beams
        )  # fmt: skip
        mass = sum(beam.mass * (beam.rib.high - beam.rib.low) for beam in beams) - flat
        said = "ribs with what they are laid over"
    else:
        result = evaluator.evaluate(part.brief, part.candidate, materials)
        if not result.mass > 0.0:
            return
        mass = result.mass - sum(row.mass for row in rows)
        said = "against layers laid out flat"
    if abs(mass) > 1e-9:
        yield MassRow("fit", "walls as thick as they are", mass, said, "estimated")


def detail_rows(part: MadePart, materials: Mapping[str, Material], units: UnitSystem) -> Iterator[MassRow]:
    """What the details of a candidate put on."""
    for detail in part.candidate.details:
        try:
            yield from detail_kind(detail).masses(part.brief, part.candidate, detail, materials, units)
        except OmakaseError:
            continue  # a detail that is not possible is reported among the findings


def finish_rows(part: MadePart, area: float, units: UnitSystem) -> Iterator[MassRow]:
    for own in part.part.finishes:
        mass = own.thickness * own.density * own.share * area
        amount = (
            f"{format_value(own.thickness, 'length', units, with_unit=True)} on "
            f"{format_value(own.share * area, 'area', units, with_unit=True)}"
        )
        yield MassRow(own.kind, own.what, mass, amount, "assumed")


def hardware_rows(part: MadePart) -> Iterator[MassRow]:
    for own in part.part.hardware:
        yield MassRow("hardware", own.what, own.mass * own.count, f"{own.count} of them", "assumed")


def work_row(work: WorkRecord, materials: Mapping[str, Material], units: UnitSystem) -> MassRow | None:
    """The bond line of a work."""
    adhesive = materials.get(work.adhesive)
    if adhesive is None or work.area <= 0.0:
        return None
    amount = (
        f"{format_value(work.gap, 'length', units, with_unit=True)} on "
        f"{format_value(work.area, 'area', units, with_unit=True)}"
    )
    mass = work.area * work.gap * adhesive.value("density")
    return MassRow("bond", f"{work.name}: {adhesive.id}", mass, amount, adhesive.source(("density",)))


def part_rows(
    part: MadePart, shop: Shop, materials: Mapping[str, Material], units: UnitSystem, areas: Sequence[float],
    evaluator: Evaluator,
) -> list[MassRow]:  # fmt: skip
    """All rows of one part; what the ledger has shown of its process multiplies its layup's.  Raises OmakaseError."""
    rows = [*layer_rows(part, materials, units, areas), *filling_row(part, materials, units)]
    rows += fit_row(part, rows, materials, evaluator, units)
    factor = next((own for own in shop.factors if own.what == "mass" and own.process == part.process.id), None)
    if factor is not None:
        rows = [_times(row, factor.value) for row in rows]
    face = face_area(part, areas)
    return [*rows, *detail_rows(part, materials, units), *finish_rows(part, face, units), *hardware_rows(part)]


def _times(row: MassRow, factor: float) -> MassRow:
    return MassRow(row.kind, row.what, row.mass * factor, f"{row.amount}, × {factor:.3f} from the ledger", "tested")
