"""Edits of a project's own materials, as commands; shipped ones are never changed, only copied."""

from __future__ import annotations

import re
from collections.abc import Iterable

from omakase.core.errors import MaterialError
from omakase.core.materials.cloth import make_ply
from omakase.core.materials.grades import family_stem, grade_between, grades_of
from omakase.core.materials.material import SHORT_NAME, Material, Recipe
from omakase.core.materials.processing import PROCESSES, resin_fraction_from_thickness, with_resin
from omakase.core.materials.provenance import Sourced
from omakase.project.commands import ArrangeMaterials, replace
from omakase.project.details import named_materials
from omakase.project.library import materials_of, stated_materials
from omakase.project.model import Project


def is_own(project: Project, short_name: str) -> bool:
    """Whether a material is the project's own and may be changed."""
    return any(material.id == short_name for material in project.materials)


def users(project: Project, short_name: str) -> list[str]:
    """Names of the candidates that use a material."""
    return [
        candidate.name or candidate.id
        for brief in project.briefs
        for candidate in brief.candidates
        if any(layer.material == short_name for layer in candidate.layers)
        or any(short_name in named_materials(detail) for detail in candidate.details)
    ]


def copy(project: Project, short_name: str) -> tuple[ArrangeMaterials, str]:
    """Command for a copy of any material as the project's own, and its short name.  Raises MaterialError."""
    materials = stated_materials(project)  # what was tested on one material is not copied to another
    if short_name not in materials:
        raise MaterialError(f"no material is named '{short_name}'")
    stem, number = short_name[:28].rstrip("-_"), 2
    while f"{stem}-{number}" in materials:
        number += 1
    new = replace(materials[short_name], id=f"{stem}-{number}", name=f"{materials[short_name].name}, own values")
    return ArrangeMaterials(project.materials, (*project.materials, new), f"copy {short_name}"), new.id


def change(project: Project, new: Material, text: str) -> ArrangeMaterials:
    """Command that puts a changed material in the place of the one with its short name."""
    materials = tuple(new if material.id == new.id else material for material in project.materials)
    return ArrangeMaterials(project.materials, materials, text)


def set_value(project: Project, short_name: str, key: str, sourced: Sourced) -> ArrangeMaterials:
    """Command that states a property of an own material.  Raises MaterialError for what cannot be."""
    material = own_material(project, short_name)
    new = replace(material, properties={**material.properties, key: sourced})
    return change(project, new, f"{key} of {short_name}")


def set_process(project: Project, short_name: str, process: str) -> ArrangeMaterials:
    """Command that lays an own cloth up by another process of PROCESSES.  Raises MaterialError."""
    chosen, material = PROCESSES[process], own_material(project, short_name)
    if material.recipe is not None:
        new = _made_again(project, material, replace(material.recipe, process=process), None)
    else:
        densities = material.value("fibre_density"), material.value("resin_density")
        mat = material.build is not None and material.build.architecture == "mat"
        new = with_resin(material, chosen.resin_fraction(*densities, mat), chosen.name)
    return change(project, new, f"{short_name}: {chosen.name}")


def set_resin(project: Project, short_name: str, resin: str) -> ArrangeMaterials:
    """Command that makes an own ply with a recipe of another resin.  Raises MaterialError."""
    material = own_material(project, short_name)
    if material.recipe is None:
        raise MaterialError(f"'{short_name}' states no recipe: its values were given, not worked out")
    new = _made_again(project, material, replace(material.recipe, resin=resin), None)
    return change(project, new, f"{short_name}: {resin}")


def _made_again(project: Project, old: Material, recipe: Recipe, fraction: Sourced | None) -> Material:
    """A ply worked out anew; what was tested stays, also the resin fraction if none is given."""
    tested = {key: sourced for key, sourced in old.properties.items() if sourced.source == "tested"}
    fraction = fraction or tested.get("resin_mass_fraction")
    new = make_ply(recipe, materials_of(project), old.id, old.name, fraction)
    tested.pop("resin_mass_fraction", None)
    return replace(new, properties={**new.properties, **tested}, note=old.note)


def new_ply(project: Project, cloth: str, resin: str, process: str) -> tuple[ArrangeMaterials, str]:
    """Command for a ply of a cloth in a resin as the project's own, and its short name.  Raises MaterialError."""
    materials = materials_of(project)
    stem, number = re.sub(r"^[a-z]-", "", cloth)[:24] or "ply", 1
    while f"{stem}-{number}" in materials:
        number += 1
    new = make_ply(Recipe(cloth, resin, process), materials, f"{stem}-{number}")
    return ArrangeMaterials(project.materials, (*project.materials, new), f"make a ply of {cloth}"), new.id


def new_grade(project: Project, short_name: str, density: float) -> tuple[ArrangeMaterials, str]:
    """Command for a core of another density in kg/m³ between two grades known, and its short name.

    The project's own, estimated.  Raises MaterialError for a core without grades beside it or a density outside them.
    """
    materials = materials_of(project)
    grades = grades_of(short_name, stated_materials(project))
    if not grades:
        raise MaterialError(f"'{short_name}' has no other grade in the library to interpolate to")
    stem, number = f"{family_stem(short_name)}{density:.0f}", 1
    name = stem
    while name in materials:
        number += 1
        name = f"{stem}-{number}"
    nearest = min(grades, key=lambda grade: abs(grade.value("density") - density))
    title = f"{re.sub(r' *[0-9]+ kg/m³.*', '', nearest.name)} {density:.0f} kg/m³, between grades"
    new = replace(grade_between(nearest, grades, density), id=name, name=title, sold=nearest.sold)
    return ArrangeMaterials(project.materials, (*project.materials, new), f"make {name}"), name


def set_measured_thickness(project: Project, short_name: str, thickness: float) -> ArrangeMaterials:
    """Command that corrects an own cloth by the measured thickness of one cured ply, m.  Raises MaterialError."""
    material = own_material(project, short_name)
    fraction = resin_fraction_from_thickness(material, thickness)
    return _measured(project, material, fraction, f"measured thickness {thickness * 1e3:.3g} mm")


def set_measured_fraction(project: Project, short_name: str, fraction: float) -> ArrangeMaterials:
    """Command that corrects an own cloth by the resin mass fraction that a burn-off gave.  Raises MaterialError.

    Loss on ignition over the specimen's mass, as ASTM D2584 and D3171 take it, no fibre lost.
    """
    return _measured(project, own_material(project, short_name), fraction, f"burn-off, {fraction:.1%} resin")


def from_sample(project: Project, names: Iterable[str], fraction: float, sample: str) -> ArrangeMaterials:
    """Command that gives plies the resin fraction of a weighed sample; a shipped one becomes an own one of its name.

    Raises MaterialError for a fraction that is none.
    """
    materials, route = stated_materials(project), f"weighed: {sample}"
    own_ones = {material.id: material for material in project.materials}
    for name in names:
        own_ones[name] = _with_measured(project, materials[name], fraction, route)
    return ArrangeMaterials(project.materials, tuple(own_ones.values()), f"resin share of {sample}")


def _measured(project: Project, material: Material, fraction: float, route: str) -> ArrangeMaterials:
    return change(project, _with_measured(project, material, fraction, route), f"{material.id}: {route}")


def _with_measured(project: Project, material: Material, fraction: float, route: str) -> Material:
    """A ply with a measured resin fraction: worked out anew where it has a recipe, else scaled."""
    if material.recipe is not None:
        return _made_again(project, material, material.recipe, Sourced(fraction, "tested", route))
    return with_resin(material, fraction, route, measured=True)


def rename(project: Project, short_name: str, name: str) -> ArrangeMaterials:
    """Command that gives an own material another long name.  Raises MaterialError."""
    return change(project, replace(own_material(project, short_name), name=name), f"rename {short_name}")


def remove(project: Project, short_name: str) -> ArrangeMaterials:
    """Command that removes an own material.  Raises MaterialError while candidates use it."""
    own_material(project, short_name)
    using = users(project, short_name)
    if using:
        raise MaterialError(f"'{short_name}' is used by {', '.join(using[:3])}{' …' if len(using) > 3 else ''}")
    rest = tuple(material for material in project.materials if material.id != short_name)
    return ArrangeMaterials(project.materials, rest, f"remove {short_name}")


def own_material(project: Project, short_name: str) -> Material:
    """An own material.  Raises MaterialError for a shipped one."""
    for material in project.materials:
        if material.id == short_name:
            return material
    if not SHORT_NAME.match(short_name) or short_name not in materials_of(project):
        raise MaterialError(f"no material is named '{short_name}'")
    raise MaterialError(f"'{short_name}' is shipped with the program: copy it into the project to change it")
