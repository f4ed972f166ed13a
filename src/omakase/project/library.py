"""The shipped material library, and the materials a project sees: shipped ones and its own on top."""

from __future__ import annotations

from collections.abc import Mapping
from functools import lru_cache
from importlib import resources
from typing import Literal

import msgspec

from omakase.core.materials.material import Material
from omakase.project.model import Project


class LibraryFile(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A file of materials."""

    format: Literal["omakase-library"]
    version: int
    materials: tuple[Material, ...]


@lru_cache(maxsize=1)
def shipped_materials() -> Mapping[str, Material]:
    """The read-only library by short name."""
    data = resources.files("omakase").joinpath("data/library/materials.json").read_bytes()
    return {material.id: material for material in msgspec.json.decode(data, type=LibraryFile).materials}


@lru_cache(maxsize=8)
def _merged(own: tuple[Material, ...]) -> Mapping[str, Material]:
    return {**shipped_materials(), **{material.id: material for material in own}}


def materials_of(project: Project) -> Mapping[str, Material]:
    """Materials by short name; a project's own override shipped ones of the same name."""
    return _merged(project.materials) if project.materials else shipped_materials()
