"""Materials as a table of comma-separated values: a line per value, with its unit and where it comes from.

    material,name,kind,family,property,value,unit,source,note
    myfoam,My foam,core,foam,density,75,kg/m³,tested,weighed

A cloth states its build (architecture, fibre, angles of a multiaxial: ``multiaxial f-carbon-sm 45/-45``; a hybrid adds
the second fibre and its share along and across: ``twill f-carbon-sm+f-aramid:0/1``), a ply that was worked out its
recipe (cloth, resin, process, rule: ``c-twill200 ep-slow bagged chamis``); once is enough.

Read line by line: a line that makes no sense is named with its number and left out, the rest is taken.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Mapping
from typing import get_args

import msgspec

from omakase.core.errors import MaterialError
from omakase.core.materials.material import SHORT_NAME, Architecture, Build, Family, Kind, Material, Recipe
from omakase.core.materials.processing import PROCESSES
from omakase.core.materials.properties import PROPERTIES
from omakase.core.materials.provenance import RANKING, Sourced
from omakase.project.cells import plain_again, safe
from omakase.project.commands import ArrangeMaterials
from omakase.project.model import Project
from omakase.units import TYPED, QuantityError, UnitSystem, display_unit, format_value, parse_quantity

COLUMNS = ("material", "name", "kind", "family", "property", "value", "unit", "source", "note", "build", "recipe")
NEEDED = ("material", "property", "value")
MAX_BYTES = 20_000_000


class LineError(msgspec.Struct, frozen=True):
    """What is wrong in a line of a table, counted from 1 with the heading, or in another ``part`` of a file."""

    line: int
    message: str
    part: str = "line"

    def __str__(self) -> str:
        return f"{self.part} {self.line}: {self.message}" if self.line else self.message


def write_materials(materials: Iterable[Material], units: UnitSystem) -> bytes:
    """The table as UTF-8 with a byte-order mark, values in the project's units."""
    text = io.StringIO(newline="")
    writer = csv.writer(text)
    writer.writerow(COLUMNS)
    for material in materials:
        for key, sourced in material.properties.items():
            dimension = PROPERTIES[key].dimension
            value = format_value(sourced.value, dimension, units, digits=TYPED).replace("−", "-")
            unit = display_unit(dimension, units).label
            writer.writerow(
                [material.id, safe(material.name), material.kind, material.family, key, value, unit, sourced.source,
                 safe(sourced.note), _build_text(material.build), _recipe_text(material.recipe)]
            )  # fmt: skip
    return b"\xef\xbb\xbf" + text.getvalue().encode("utf-8")


def read_materials(
    data: bytes, units: UnitSystem, known: Mapping[str, Material]
) -> tuple[list[Material], list[LineError]]:
    """(materials, errors) of a table.

    A material that is ``known`` already may be given in part: what the table leaves out is kept from it.  Without a
    unit the project's is meant; without a source a value counts as assumed.
    """
    if len(data) > MAX_BYTES:
        return [], [LineError(1, f"{len(data) / 1e6:.0f} MB are more than a table of materials has")]
    try:
        lines = list(csv.reader(io.StringIO(data.decode("utf-8-sig")), strict=True))
    except UnicodeDecodeError:
        return [], [LineError(1, "the file is not text in UTF-8")]
    except csv.Error as error:
        return [], [LineError(1, f"the file is not comma-separated values: {error}")]
    heading = [word.strip().lower() for word in lines[0]] if lines else []
    missing = [name for name in NEEDED if name not in heading]
    if missing:
        return [], [LineError(1, f"the heading lacks {', '.join(missing)}; it reads {','.join(COLUMNS)}")]
    return _Table(heading, units, known).read(lines[1:])


class _Table:
    def __init__(self, heading: list[str], units: UnitSystem, known: Mapping[str, Material]) -> None:
        self.heading, self.units, self.known = heading, units, known
        self.errors: list[LineError] = []
        self.heads: dict[str, dict[str, str]] = {}
        self.first_line: dict[str, int] = {}
        self.values: dict[str, dict[str, Sourced]] = {}

    def read(self, lines: list[list[str]]) -> tuple[list[Material], list[LineError]]:
        for number, cells in enumerate(lines, start=2):
            if any(cell.strip() for cell in cells):
                try:
                    self._line(number, cells)
                except (MaterialError, QuantityError) as error:
                    self.errors.append(LineError(number, str(error)))
        materials = []
        for name in self.values:
            try:
                materials.append(self._material(name))
            except MaterialError as error:
                self.errors.append(LineError(self.first_line[name], str(error)))
        return materials, sorted(self.errors, key=lambda error: error.line)

    def _line(self, number: int, cells: list[str]) -> None:
        if len(cells) > len(self.heading):
            raise MaterialError(f"{len(cells)} cells where the heading has {len(self.heading)}: is a comma in a text?")
        row = dict(zip(self.heading, (cell.strip() for cell in cells), strict=False))
        name, key = row.get("material", ""), row.get("property", "")
        if not SHORT_NAME.match(name):
            raise MaterialError(f"'{name}' is not a short name: a letter, then letters, digits, - or _")
        if key not in PROPERTIES:
            raise MaterialError(f"'{key}' is no property; there are {', '.join(PROPERTIES)}")
        if key in self.values.get(name, {}):
            raise MaterialError(f"{key} of '{name}' is given twice")
        source = row.get("source") or "assumed"
        if source not in RANKING:
            raise MaterialError(f"'{source}' is no source; there are {', '.join(RANKING)}")
        text = f"{row.get('value', '')} {row.get('unit', '')}".strip()
        value = parse_quantity(text, PROPERTIES[key].dimension, self.units)
        self.first_line.setdefault(name, number)
        head = self.heads.setdefault(name, {})
        if row.get("build"):
            _read_build(row["build"])
        if row.get("recipe"):
            _read_recipe(row["recipe"])
        for column in ("name", "kind", "family", "build", "recipe"):
            if row.get(column):
                head.setdefault(column, plain_again(row[column]))
        self.values.setdefault(name, {})[key] = Sourced(value, source, plain_again(row.get("note", "")))

    def _material(self, name: str) -> Material:
        before, head = self.known.get(name), self.heads[name]
        kind = head.get("kind") or (before.kind if before else "")
        family = head.get("family") or (before.family if before else "")
        if kind not in get_args(Kind):
            raise MaterialError(f"material '{name}': '{kind}' is no kind; there are {', '.join(get_args(Kind))}")
        if family not in get_args(Family):
            raise MaterialError(f"material '{name}': '{family}' is no family; there are {', '.join(get_args(Family))}")
        properties = {**(before.properties if before else {}), **self.values[name]}
        title = head.get("name") or (before.name if before else name)
        note = before.note if before else ""
        build = _read_build(head["build"]) if "build" in head else before.build if before else None
        recipe = _read_recipe(head["recipe"]) if "recipe" in head else before.recipe if before else None
        sold = before.sold if before else ()
        return Material(name, title, kind, family, properties, note, build, recipe, sold)  # type: ignore[arg-type]


def _build_text(build: Build | None) -> str:
    if build is None:
        return ""
    fibre = build.fibre
    if build.second_fibre:
        fibre += f"+{build.second_fibre}:{'/'.join(f'{share:g}' for share in build.second_shares)}"
    return f"{build.architecture} {fibre} {'/'.join(f'{angle:g}' for angle in build.angles)}".strip()


def _read_build(text: str) -> Build:
    words = text.split()
    if len(words) not in (2, 3) or words[0] not in get_args(Architecture):
        raise MaterialError(
            f"'{text}' is no build: architecture and fibre, then angles like 45/-45; architectures are "
            f"{', '.join(get_args(Architecture))}"
        )
    try:
        angles = tuple(float(angle) for angle in words[2].split("/")) if len(words) == 3 else ()
    except ValueError:
        raise MaterialError(f"'{words[2]}' are no angles: write 45/-45") from None
    fibre, _, second = words[1].partition("+")
    second, _, shares = second.partition(":")
    try:
        mixture = tuple(float(share) for share in shares.split("/")) if shares else ()
    except ValueError:
        raise MaterialError(f"'{shares}' are no shares of the second fibre: write 0/1 or 0.5") from None
    return Build(words[0], fibre, angles, second, mixture)  # type: ignore[arg-type]


def _recipe_text(recipe: Recipe | None) -> str:
    return "" if recipe is None else f"{recipe.cloth} {recipe.resin} {recipe.process} {recipe.rule}"


def _read_recipe(text: str) -> Recipe:
    words = text.split()
    if len(words) not in (3, 4) or words[2] not in PROCESSES or words[3:] not in ([], ["chamis"], ["halpin_tsai"]):
        raise MaterialError(
            f"'{text}' is no recipe: cloth, resin and process, then chamis or halpin_tsai; processes are "
            f"{', '.join(PROCESSES)}"
        )
    return Recipe(*words)  # type: ignore[arg-type]


def bring_in(project: Project, materials: Iterable[Material]) -> ArrangeMaterials:
    """Command that makes materials the project's own, in place of own ones of the same short name."""
    new = {material.id: material for material in project.materials}
    count = 0
    for material in materials:
        new[material.id] = material
        count += 1
    text = f"read {count} material{'s' if count != 1 else ''}"
    return ArrangeMaterials(project.materials, tuple(new.values()), text)
