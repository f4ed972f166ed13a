"""Grades of one family of cores, and a grade of another density between them."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

import msgspec
import numpy as np

from omakase.core.errors import MaterialError
from omakase.core.materials.material import Material

STATED_AS_THEY_ARE = ("open_cells", "conductive", "cell_size", "service_limit", "resin_uptake", "nu12")


def family_stem(short_name: str) -> str:
    """What the short names of the grades of a family begin with: the letters before the density."""
    return short_name.rstrip("0123456789")


def grades_of(short_name: str, materials: Mapping[str, Material]) -> list[Material]:
    """Cores of the same family by density, lightest first; empty where there are not two."""
    stem = family_stem(short_name)
    grades = [
        grade
        for grade in materials.values()
        if grade.kind == "core" and grade.id != stem and family_stem(grade.id) == stem
    ]
    if len(grades) < 2 or all(grade.id != short_name for grade in grades):
        return []
    return sorted(grades, key=lambda grade: grade.value("density"))


def grade_between(material: Material, grades: Sequence[Material], density: float) -> Material:
    """``own`` at another density in kg/m³: each property a power of density between the two grades beside it.

    Estimated: a straight line in the logarithms (common practice, no source).  Properties that do not depend on density
    are kept.  Raises MaterialError for a density outside the known grades.
    """
    low, high = grades[0].value("density"), grades[-1].value("density")
    if not low * (1.0 - 1e-9) <= density <= high * (1.0 + 1e-9):
        raise MaterialError(f"a density of {density:g} kg/m³ is outside the grades known, {low:g} to {high:g} kg/m³")
    k = int(np.clip(np.searchsorted([m.value("density") for m in grades], density), 1, len(grades) - 1))
    one, two = grades[k - 1], grades[k]
    share = math.log(density / one.value("density")) / math.log(two.value("density") / one.value("density"))
    note = f"between {one.id} and {two.id} by density"
    properties = dict(material.properties)
    for key in properties:
        if key in STATED_AS_THEY_ARE or key not in one.properties or key not in two.properties:
            continue
        if one.value(key) > 0.0 and two.value(key) > 0.0:
            value = one.value(key) * (two.value(key) / one.value(key)) ** share
            properties[key] = msgspec.structs.replace(properties[key], value=value, source="estimated", note=note)
    return msgspec.structs.replace(material, properties=properties)
