"""Edits of a project's own materials, as commands; shipped ones are never changed, only copied."""

from __future__ import annotations

from omakase.core.errors import MaterialError
from omakase.core.materials.material import SHORT_NAME, Material
from omakase.core.materials.processing import PROCESSES, resin_fraction_from_thickness, with_resin
from omakase.core.materials.provenance import Sourced
from omakase.project.commands import ArrangeMaterials, replace
from omakase.project.library import materials_of
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
    ]


def copy(project: Project, short_name: str) -> tuple[ArrangeMaterials, str]:
    """Command for a copy of any material as the project's own, and its short name.  Raises MaterialError."""
    materials = materials_of(project)
    if short_name not in materials:
        raise MaterialError(f"no material is called '{short_name}'")
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
    material = own(project, short_name)
    new = replace(material, properties={**material.properties, key: sourced})
    return change(project, new, f"{key} of {short_name}")


def set_process(project: Project, short_name: str, process: str) -> ArrangeMaterials:
    """Command that lays an own cloth up by another process of PROCESSES.  Raises MaterialError."""
    chosen = PROCESSES[process]
    new = with_resin(own(project, short_name), chosen.resin_mass_fraction, chosen.name)
    return change(project, new, f"{short_name}: {chosen.name}")


def set_measured_thickness(project: Project, short_name: str, thickness: float) -> ArrangeMaterials:
    """Command that corrects an own cloth by the measured thickness of one cured ply, m.  Raises MaterialError."""
    material = own(project, short_name)
    fraction = resin_fraction_from_thickness(material, thickness)
    new = with_resin(material, fraction, f"measured thickness {thickness * 1e3:.3g} mm", measured=True)
    return change(project, new, f"measured thickness of {short_name}")


def rename(project: Project, short_name: str, name: str) -> ArrangeMaterials:
    """Command that gives an own material another long name.  Raises MaterialError."""
    return change(project, replace(own(project, short_name), name=name), f"rename {short_name}")


def remove(project: Project, short_name: str) -> ArrangeMaterials:
    """Command that removes an own material.  Raises MaterialError while candidates use it."""
    own(project, short_name)
    using = users(project, short_name)
    if using:
        raise MaterialError(f"'{short_name}' is used by {', '.join(using[:3])}{' …' if len(using) > 3 else ''}")
    rest = tuple(material for material in project.materials if material.id != short_name)
    return ArrangeMaterials(project.materials, rest, f"remove {short_name}")


def own(project: Project, short_name: str) -> Material:
    """An own material.  Raises MaterialError for a shipped one."""
    for material in project.materials:
        if material.id == short_name:
            return material
    if not SHORT_NAME.match(short_name) or short_name not in materials_of(project):
        raise MaterialError(f"no material is called '{short_name}'")
    raise MaterialError(f"'{short_name}' is shipped with the program: copy it into the project to change it")
