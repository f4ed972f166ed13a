"""The shipped material library, and the materials a project sees: shipped ones and its own on top."""

from __future__ import annotations

import contextlib
from collections.abc import Mapping
from functools import lru_cache
from typing import Literal

import msgspec

from omakase.core.errors import MaterialError
from omakase.core.materials.areal import ply_masses
from omakase.core.materials.cloth import make_ply
from omakase.core.materials.material import LAYER_KINDS, KnockDown, Laid, Material, Recipe
from omakase.core.materials.provenance import Sourced
from omakase.project.build import ProcessRecord
from omakase.project.model import Acceptance, Project
from omakase.shipped import shipped


class LibraryFile(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A file of materials."""

    format: Literal["omakase-library"]
    version: int
    materials: tuple[Material, ...]


# what a shipped cloth is shown with as a ply, until someone chooses
USUAL_RESIN, USUAL_PROCESS = "ep-slow", "bagged"
# plies of which people know the short name: the cloth each is made of, and what it is called
KNOWN_PLIES = {
    "ud200": ("c-ud200", "Carbon unidirectional 200 g/m², epoxy"),
    "plain200": ("c-plain200", "Carbon plain weave 200 g/m², epoxy"),
    "twill200": ("c-twill200", "Carbon twill 2×2 200 g/m², epoxy"),
    "spread100": ("c-spread100", "Carbon spread tow 100 g/m², epoxy"),
    "satin300": ("g-satin300", "Glass 8-harness satin 300 g/m², epoxy"),
    "aramid170": ("a-plain170", "Aramid plain weave 170 g/m², epoxy"),
}
PLY_NAMES = {"c-": "", "g-": "g", "s-": "s", "b-": "b", "a-": "a", "x-": ""}  # short name of a cloth's ply


@lru_cache(maxsize=1)
def shipped_materials() -> Mapping[str, Material]:
    """The read-only library by short name: what the file lists, and a ply of each cloth, all made the same way."""
    data = shipped("data/library/materials.json").read_bytes()
    listed = {material.id: material for material in msgspec.json.decode(data, type=LibraryFile).materials}
    plies = {
        name: make_ply(Recipe(cloth, USUAL_RESIN, USUAL_PROCESS), listed, name, title)
        for name, (cloth, title) in KNOWN_PLIES.items()
    }
    for cloth in listed.values():
        if cloth.kind == "cloth":
            name = PLY_NAMES[cloth.id[:2]] + cloth.id[2:]
            if name not in listed and name not in plies:
                plies[name] = make_ply(Recipe(cloth.id, USUAL_RESIN, USUAL_PROCESS), listed, name)
    given = {name: material for name, material in listed.items() if material.kind == "ply"}
    return {**given, **plies, **listed}


def layer_materials(project: Project) -> dict[str, Material]:
    """Those of the project's materials that can be a layer."""
    return {name: material for name, material in materials_of(project).items() if material.kind in LAYER_KINDS}


@lru_cache(maxsize=8)
def _merged(of_project: tuple[Material, ...]) -> Mapping[str, Material]:
    return {**shipped_materials(), **{material.id: material for material in of_project}}


@lru_cache(maxsize=8)
def _faced(of_project: tuple[Material, ...]) -> frozenset[str]:
    return frozenset(material.id for material in _merged(of_project).values() if material.has_face)


@lru_cache(maxsize=8)
def _tested(of_project: tuple[Material, ...], accepted: tuple[Acceptance, ...]) -> Mapping[str, Material]:
    """Materials with what test series have shown put in: a later acceptance of the same property counts."""
    materials = dict(_merged(of_project))
    for entry in accepted:
        if entry.material in materials:
            with contextlib.suppress(MaterialError):  # the record may have changed since; validation tells of it
                materials[entry.material] = with_accepted(materials[entry.material], entry)
    return materials


@lru_cache(maxsize=256)
def with_accepted(material: Material, entry: Acceptance) -> Material:
    """A material with one acceptance put in, the same record each time.  Raises MaterialError for a wrong value."""
    tests = tuple(dict.fromkeys((*material.tests, entry.name)))
    if entry.kind == "factor":
        if not 0.0 < entry.value <= 100.0:
            raise MaterialError(f"a factor of {entry.value:g} from '{entry.name}' is outside 0 to 100")
        knock_down = KnockDown(entry.key, entry.value, entry.name)
        return msgspec.structs.replace(material, knock_downs=(*material.knock_downs, knock_down), tests=tests)
    sourced = Sourced(entry.value, "tested", f"test series '{entry.name}', {entry.text}")
    properties = {**material.properties, entry.key: sourced}
    return msgspec.structs.replace(material, properties=properties, tests=tests)


ROUTES = {"one_to_one": "hand", "bagged": "bag", "infused": "infusion", "prepreg": "prepreg"}  # a recipe's in the shop


class ShopRates(msgspec.Struct, frozen=True):
    """What of a shop sets the price of a layer."""

    rate: float
    waste: float
    factor: float
    processes: tuple[ProcessRecord, ...]


@lru_cache(maxsize=4)
def _laid(
    of_project: tuple[Material, ...], accepted: tuple[Acceptance, ...], rates: ShopRates
) -> Mapping[str, Material]:  # fmt: skip
    """Materials with what laying them takes in the shop."""
    materials = _tested(of_project, accepted) if accepted else _merged(of_project)
    return {name: with_laying(own, materials, rates) for name, own in materials.items()}


def with_laying(material: Material, materials: Mapping[str, Material], rates: ShopRates) -> Material:
    """A material of layers with what laying it takes: hands by the process of its recipe, and its resin."""
    if material.kind not in LAYER_KINDS or not rates.processes:
        return material
    recipe = material.recipe
    wanted = ROUTES.get(recipe.process, "") if recipe is not None else ROUTES[USUAL_PROCESS]
    process = next((own for own in rates.processes if own.id == wanted), rates.processes[0])
    resin = materials.get(recipe.resin if recipe is not None else USUAL_RESIN)
    mass = 0.0
    if material.kind == "ply":
        mass = ply_masses(material)[1]
    elif "resin_uptake" in material.properties:
        mass = 2.0 * material.value("resin_uptake")
    price = resin.value("price_mass") if resin is not None and "price_mass" in resin.properties else 0.0
    laid = Laid(
        process.id, rates.waste, rates.factor, rates.rate, price * mass, process.cutting, process.laying,
        process.set_up + process.bagging + process.demoulding,
        sum(own.share * own.price for own in process.consumables),
    )  # fmt: skip
    return _with_laid(material, laid)


@lru_cache(maxsize=1024)
def _with_laid(material: Material, laid: Laid) -> Material:
    """The same record again where another material was changed: results are kept by it."""
    return msgspec.structs.replace(material, laid=laid)


def faced_materials(project: Project) -> frozenset[str]:
    """Short names of the cloths with a face, whose two sides differ."""
    return _faced(project.materials)


def stated_materials(project: Project) -> Mapping[str, Material]:
    """Materials by short name as they are stated, without what was accepted from tests."""
    return _merged(project.materials) if project.materials else shipped_materials()


def materials_of(project: Project) -> Mapping[str, Material]:
    """Materials by short name, as everything is computed with: a project's own override shipped ones of the same name,
    and what was accepted from its test series stands in the place of what was stated."""
    shop = project.shop
    if shop.rate > 0.0 and 0.0 <= shop.waste < 1.0 and 0.0 <= shop.scrap < 1.0:
        factor = (1.0 + shop.overhead) * (1.0 + shop.margin) / (1.0 - shop.scrap)
        rates = ShopRates(shop.rate, shop.waste, factor, shop.processes)
        return _laid(project.materials, project.acceptances, rates)
    if not project.acceptances:
        return stated_materials(project)
    return _tested(project.materials, project.acceptances)
