"""The cut list of a job: every ply and core piece with its trim, and how they lie on rolls and sheets."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence

import msgspec
import numpy as np

from omakase.core.build.errors import BuildError
from omakase.core.build.nesting import Layout, lay_out
from omakase.core.build.pieces import Piece, cut_to_fit, mirrored, with_trim
from omakase.core.materials.areal import ply_masses, ply_thickness
from omakase.core.materials.material import Material
from omakase.core.materials.pricing import bought_price
from omakase.evaluate.build.parts import MadePart, Problem
from omakase.evaluate.members.kind import Flat
from omakase.evaluate.members.registry import kind_of
from omakase.project.build import Shop, StockRecord
from omakase.project.layers import LayerRecord

Flats = tuple[tuple[Flat, ...], ...]

USUAL_ROLL = 1.27  # m, where a cloth does not say: common practice, no source
USUAL_SHEET = (2.44, 1.22)  # m, of cores and sheets: common practice, no source
SQUARE = (0.0, 90.0, 180.0, 270.0)
MOST_PIECES = 800
TRIES = 120  # orders that are tried on each roll


class CutPiece(msgspec.Struct, frozen=True, eq=False):
    """A piece to cut.

    ``name`` : such as A3, or A3b of a layer in several pieces.  ``layer`` : place in the candidate; ``net`` : as it
    lies in the part, ``cut`` : as it is cut, with trim and seen from the side that is up on the roll.  ``copies`` : in
    the whole job.  ``plies`` : laid one on the other, where a layer states a thickness.  ``sleeve`` : m of a braid,
    which is cut to length.  ``splice`` : m by which it overlaps its neighbour of the same layer, 0 for none.
    """

    name: str
    part: int
    layer: int
    record: LayerRecord
    material: Material
    net: Piece
    cut: Piece
    copies: int
    plies: int = 1
    sleeve: float = 0.0
    splice: float = 0.0

    @property
    def what(self) -> str:
        """core, sheet, sleeve or ply."""
        if self.record.role == "core":
            return "core"
        return "sleeve" if self.sleeve else "ply" if self.material.kind == "ply" else "sheet"


class Roll(msgspec.Struct, frozen=True, eq=False):
    """A material that is bought: its pieces laid out, or ``metres`` of sleeve.

    ``thickness`` : of a core or sheet, m.  ``pieces`` : in the order of the layout's indices.  ``left`` : m or sheets
    in stock, None where nobody counted.  ``mass`` kg and ``price`` of what is bought, None where no price is stated.
    """

    material: Material
    thickness: float | None
    layout: Layout | None
    pieces: tuple[CutPiece, ...]
    metres: float
    left: float | None
    mass: float
    price: float | None

    @property
    def sheets(self) -> int:
        return self.layout.sheets if self.layout is not None else 0

    @property
    def missing(self) -> float:
        """m or sheets that stock lacks; 0 where nobody counted."""
        return 0.0 if self.left is None else max((self.sheets or self.metres) - self.left, 0.0)


class Cutting(msgspec.Struct, frozen=True, eq=False):
    """All pieces of a job and the rolls they lie on; ``problems`` : what could not be laid out."""

    pieces: tuple[CutPiece, ...]
    rolls: tuple[Roll, ...]
    problems: tuple[Problem, ...]


class Layouts:
    """Layouts that were worked out before: an edit that leaves a roll's pieces as they were does not lay it out
    again."""

    MOST = 200

    def __init__(self) -> None:
        self._known: dict[object, Layout] = {}

    def get(
        self, pieces: Sequence[Piece], width: float, spacing: float, length: float, cancelled: Callable[[], bool]
    ) -> Layout:  # fmt: skip
        key = (width, spacing, length, tuple((own.outline.tobytes(), own.grain, own.turns) for own in pieces))
        known = self._known.get(key)
        if known is None:
            known = lay_out(pieces, width, spacing, TRIES, length, cancelled)
            if cancelled():
                return known
            if len(self._known) >= self.MOST:
                self._known.clear()
            self._known[key] = known
        return known


def flat_layers(part: MadePart) -> Flats:
    """Each layer of a part laid out flat, without trim.  Raises OmakaseError."""
    return kind_of(part.brief).flat_layers(part.brief, part.candidate)


def flat_areas(flats: Flats) -> tuple[float, ...]:
    """m² of each layer, without trim."""
    return tuple(sum(own.area for own in flat) for flat in flats)


def plies_of(record: LayerRecord, material: Material) -> float:
    """How many plies' worth a layer is: one, unless it states a thickness."""
    if material.kind != "ply" or record.thickness is None:
        return 1.0
    return record.thickness / ply_thickness(material)


def cutting(
    parts: Sequence[MadePart], flats: Mapping[int, Flats], units: int, shop: Shop, materials: Mapping[str, Material],
    layouts: Layouts, cancelled: Callable[[], bool] = lambda: False,
) -> Cutting:  # fmt: skip
    """The cut list of ``units`` of the parts."""
    pieces: list[CutPiece] = []
    problems: list[Problem] = []
    for field, words in (("trim", "trim round a ply"), ("spacing", "space between pieces"), ("splice", "splice")):
        if getattr(shop, field) < 0.0:
            problems.append((("shop", field), f"the {words} is not less than zero"))
    if problems:
        return Cutting((), (), tuple(problems))
    for part in parts:
        try:
            pieces += _pieces(part, flats[part.index], units, shop, materials)
        except BuildError as error:
            problems.append((("shop", *error.field.split(".")), f"{part.title}: {error}"))
    count = sum(own.copies * own.plies for own in pieces)
    if count > MOST_PIECES:
        text = f"{count:,} pieces are more than can be laid out at once ({MOST_PIECES}): plan fewer units"
        return Cutting(tuple(pieces), (), (*problems, (("units",), text)))
    groups: dict[tuple[str, float | None], list[CutPiece]] = {}
    for piece in pieces:
        thick = None if piece.material.kind == "ply" else piece.record.thickness
        groups.setdefault((piece.material.id, thick), []).append(piece)
    rolls = []
    for (name, thickness), own in groups.items():
        if cancelled():
            break
        try:
            rolls.append(_roll(own, thickness, shop, layouts, cancelled))
        except BuildError as error:
            problems.append((("shop", *error.field.split(".")), f"{name}: {error}"))
    return Cutting(tuple(pieces), tuple(rolls), tuple(problems))


def in_stock(shop: Shop, material: Material, thickness: float | None) -> tuple[int, StockRecord | None]:
    """(place, record) of what the shop has of a material: that of its thickness before one for all; −1 without any."""
    listed = [(k, own) for k, own in enumerate(shop.stock) if own.material == material.id]
    exact = [pair for pair in listed if thickness and abs(pair[1].thickness - thickness) < 1e-6]
    others = [pair for pair in listed if not pair[1].thickness]
    return next(iter((*exact, *others)), (-1, None))


def roll_size(material: Material, shop: Shop, thickness: float | None = None) -> tuple[float, float]:
    """(width, length) in m that a material is bought in; length 0 for a roll.  Raises BuildError."""
    place, stock = in_stock(shop, material, thickness)
    width, length = (stock.width, stock.length) if stock is not None else (0.0, 0.0)
    if min(width, length) < 0.0:
        raise BuildError(f"'{material.id}' in stock has a size below zero", f"stock.{place}.width")
    if material.kind == "ply":
        usual = material.value("roll_width") if "roll_width" in material.properties else USUAL_ROLL
        return width or usual, length
    return width or USUAL_SHEET[1], length or USUAL_SHEET[0]


def turns_of(material: Material, role: str) -> tuple[float, ...]:
    """How a piece may be turned: cloth end for end; foam, metal and mat also by quarters, as they have no direction."""
    mat = material.family == "mat" or (material.build is not None and material.build.architecture == "mat")
    if mat or material.is_metal or (role == "core" and material.family == "foam"):
        return SQUARE
    return (0.0, 180.0)


def _pieces(
    part: MadePart, flats: Flats, units: int, shop: Shop, materials: Mapping[str, Material]
) -> Iterator[CutPiece]:  # fmt: skip
    copies = part.part.count * units
    for place, (record, flat) in enumerate(zip(part.candidate.layers, flats, strict=True)):
        material = materials[record.material]
        plies = max(1, round(plies_of(record, material)))
        trim = shop.trim if material.kind == "ply" else 0.0
        name = f"{part.letter}{place + 1}"
        if material.build is not None and material.build.architecture == "braid":
            long = sum(float(np.ptp(own.outline[:, 0])) for own in flat)
            whole = Piece(flat[0].outline) if flat else None
            if whole is not None:
                yield CutPiece(
                    name, part.index, place, record, material, whole, whole, copies, plies, long + 2.0 * trim
                )  # fmt: skip
            continue
        width, length = roll_size(material, shop, record.thickness)
        made: list[tuple[Piece, Piece, float]] = []
        for own in flat:
            net = Piece(own.outline, record.angle, own.holes, turns_of(material, record.role))
            cut = with_trim(net, trim)
            splice = shop.splice if material.kind == "ply" else 0.0
            strips = cut_to_fit(cut, width, splice, length)
            if len(strips) > 1 and material.kind == "ply" and shop.splice <= 0.0:
                raise BuildError(
                    f"layer {place + 1} of {material.id} is wider than its roll, and plies may not be spliced", "splice"
                )
            made += [(net, strip, splice if len(strips) > 1 else 0.0) for strip in strips]
        for k, (net, cut, splice) in enumerate(made):
            label = name if len(made) == 1 else f"{name}{_suffix(k)}"
            seen = mirrored(cut) if record.turned else cut
            yield CutPiece(label, part.index, place, record, material, net, seen, copies, plies, 0.0, splice)


def _suffix(k: int) -> str:
    return chr(97 + k) if k < 26 else f".{k + 1}"


def _roll(
    pieces: Sequence[CutPiece], thickness: float | None, shop: Shop, layouts: Layouts, cancelled: Callable[[], bool],
) -> Roll:  # fmt: skip
    material = pieces[0].material
    _, stock = in_stock(shop, material, thickness)
    left = stock.left if stock is not None else None
    if pieces[0].sleeve:
        metres = sum(own.sleeve * own.copies * own.plies for own in pieces)
        area = sum(own.net.area * own.copies * own.plies for own in pieces)
        mass, price = _mass(material, area, None), _price(material, area)
        return Roll(material, None, None, tuple(pieces), metres, left, mass, price)
    width, length = roll_size(material, shop, thickness)
    every = [own for own in pieces for _ in range(own.copies * own.plies)]
    layout = layouts.get([own.cut for own in every], width, shop.spacing, length, cancelled)
    metres = layout.length if not layout.sheets else layout.length * layout.sheets
    price = bought_price(material, thickness or 0.0)
    return Roll(
        material, thickness, layout, tuple(every), metres, left, _mass(material, layout.bought, thickness),
        None if price is None else price * layout.bought,
    )  # fmt: skip


def _mass(material: Material, area: float, thickness: float | None) -> float:
    """kg of dry cloth, or of core or sheet."""
    if material.kind == "ply":
        return ply_masses(material)[0] * area
    return material.value("density") * (thickness or 0.0) * area


def _price(material: Material, area: float) -> float | None:
    price = bought_price(material, 0.0)
    return None if price is None else price * area
