"""Materials as JSON: the format of the shipped library, for handing on, and the user's own shelf.

    {"format": "omakase-library", "version": 2, "materials": [ … ]}

Read entry by entry: one that makes no sense is named with its place and short name and left out, the rest is taken.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Any

import msgspec
import platformdirs

from omakase.core.materials.material import Material
from omakase.project.commands import as_stated
from omakase.project.disk import WriteError, write_atomically
from omakase.project.material_table import MAX_BYTES, LineError

FORMAT, VERSION = "omakase-library", 2


def write_library(materials: Iterable[Material]) -> bytes:
    """The file, UTF-8, SI values, keys in the order of the records, two spaces, final newline."""
    records = {"format": FORMAT, "version": VERSION, "materials": [as_stated(own) for own in materials]}
    return msgspec.json.format(msgspec.json.encode(records), indent=2) + b"\n"


def read_library(data: bytes) -> tuple[list[Material], list[LineError]]:
    """(materials, errors) of a file; an error's place is the entry's number, or 0 for the whole file."""
    if len(data) > MAX_BYTES:
        return [], [_whole(f"{len(data) / 1e6:.0f} MB are more than a library has")]
    try:
        records = json.loads(data.decode("utf-8-sig"), parse_constant=_refuse)
    except UnicodeDecodeError:
        return [], [_whole("the file is not text in UTF-8")]
    except (json.JSONDecodeError, ValueError, RecursionError) as error:
        return [], [_whole(f"the file is not JSON: {error}")]
    if not isinstance(records, dict) or records.get("format") != FORMAT:
        return [], [_whole(f'it does not say that it is one: "format": "{FORMAT}"')]
    version, entries = records.get("version"), records.get("materials")
    if isinstance(version, bool) or not isinstance(version, int) or not 1 <= version <= VERSION:
        return [], [_whole(f"its version is {version!r}; this program reads 1 to {VERSION}")]
    if not isinstance(entries, list):
        return [], [_whole("it has no list of materials")]
    return _entries(entries)


def _refuse(name: str) -> float:
    raise ValueError(f"it contains {name}, which is no number")


def _whole(message: str) -> LineError:
    return LineError(0, message, "file")


def _entries(entries: list[Any]) -> tuple[list[Material], list[LineError]]:
    materials: dict[str, Material] = {}
    errors = []
    for number, entry in enumerate(entries, start=1):
        name = entry.get("id") if isinstance(entry, dict) else None
        try:
            material = msgspec.convert(entry, Material)
        except msgspec.ValidationError as error:
            errors.append(LineError(number, f"{name!r}: {error}" if name else str(error), "entry"))
            continue
        if material.id in materials:
            errors.append(LineError(number, f"'{material.id}' is there twice; the first counts", "entry"))
        else:
            materials[material.id] = material
    return list(materials.values()), errors


class Shelf:
    """The user's own materials, kept in a file beside the settings and shown in every project.

    What a project uses of them is copied into it, so that its file stands alone.  ``problem`` says why the file could
    not be read; it is then never written over.
    """

    def __init__(self, path: Path | None = None) -> None:
        folder = Path(platformdirs.user_config_dir("omakase", appauthor=False))
        self.path = path or folder / "shelf.json"
        self.problem = ""
        self.materials: Mapping[str, Material] = {}
        self._read()

    def _read(self) -> None:
        try:
            data = self.path.read_bytes()
        except FileNotFoundError:
            return
        except OSError as error:
            self.problem = f"'{self.path.name}' cannot be read: {error.strerror or error}"
            return
        materials, errors = read_library(data)
        if errors:
            self.problem = f"'{self.path}': {errors[0]}"
        self.materials = {material.id: material for material in materials}

    def put(self, material: Material) -> None:
        """Keeps a material, in place of one of its name.  Raises WriteError; a file with a problem stays as it is."""
        self._write({**self.materials, material.id: material})

    def remove(self, short_name: str) -> None:
        """Takes a material off.  Raises WriteError."""
        self._write({name: material for name, material in self.materials.items() if name != short_name})

    def _write(self, materials: Mapping[str, Material]) -> None:
        if self.problem:
            raise WriteError(f"the shelf is left as it is, since {self.problem}")
        write_atomically(self.path, write_library(materials.values()))
        self.materials = materials
