"""Candidates from a table: one row a layer, as the sheet "Layers" of a line-up has it, or one row a candidate with its
layup in the quick line's words.

    candidate,layer,material,angle,thickness           candidate,layup
    Thin,1,twill200,45,                                Thin,2 twill200 ±45 ; core pvc80 8 ; 2 twill200 ±45
    Thin,2,pvc80,0,8 mm
"""

from __future__ import annotations

from collections.abc import Mapping

from omakase.core.errors import OmakaseError
from omakase.core.materials.material import Material
from omakase.project.commands import ArrangeCandidates, replace
from omakase.project.edits import arrange
from omakase.project.layers import LayerRecord
from omakase.project.material_table import LineError
from omakase.project.model import Brief, Candidate, Form, new_id
from omakase.project.quickline import QuickLineError, read_quick_line
from omakase.project.table_rows import Row, TableError, read_rows
from omakase.units import UnitSystem

YES = ("", "yes", "true", "1", "x")


def read_candidates(
    data: bytes, name: str, materials: Mapping[str, Material], units: UnitSystem
) -> tuple[dict[str, tuple[LayerRecord, ...]], list[LineError]]:  # fmt: skip
    """Layers of each candidate by name, in the table's order, and what is wrong by line; a candidate with a wrong line
    is left out.  Raises TableError for what is no such table."""
    try:
        rows = list(read_rows(data, name, ("candidate", "layup")))
    except TableError:
        rows = list(read_rows(data, name, ("candidate", "material")))
    layers: dict[str, list[LayerRecord]] = {}
    errors: list[LineError] = []
    wrong: set[str] = set()
    for row in rows:
        own = row.text("candidate")
        try:
            if not own:
                raise TableError("no name of a candidate")
            found = _layup(row, materials, units) if "layup" in row.cells else (_layer(row, materials, units),)
        except OmakaseError as error:
            errors.append(LineError(row.line, str(error)))
            wrong.add(own)
            continue
        layers.setdefault(own, []).extend(found)
    return {own: tuple(found) for own, found in layers.items() if own not in wrong}, errors


def _layup(row: Row, materials: Mapping[str, Material], units: UnitSystem) -> tuple[LayerRecord, ...]:
    try:
        return read_quick_line(row.text("layup"), materials, units)
    except QuickLineError as error:
        raise TableError(str(error)) from None


def _layer(row: Row, materials: Mapping[str, Material], units: UnitSystem) -> LayerRecord:
    material = row.text("material")
    if material not in materials:
        raise TableError(f"there is no material '{material}'")
    if row.text("zone"):
        raise TableError(f"zones are not read from tables: give '{row.text('zone')}' its layers in the window")
    thickness = row.number("thickness", "length", units)
    kind = materials[material].kind
    if thickness is None and kind != "ply":
        raise TableError(f"'{material}' needs a thickness")
    role = row.text("role").lower() or ("core" if kind == "core" else "ply")
    if role not in ("ply", "core"):
        raise TableError(f"role '{role}' is neither ply nor core")
    return LayerRecord(
        material, row.number("angle", "angle", units) or 0.0, thickness, "core" if role == "core" else "ply",
        row.text("counted on").lower() in YES, wall=row.text("wall"),
    )  # fmt: skip


def bring_candidates(brief: Brief, layups: Mapping[str, tuple[LayerRecord, ...]], form: Form) -> ArrangeCandidates:
    """Command that puts them behind the brief's own, in one step; a name that is taken gets a number."""
    candidates = list(brief.candidates)
    for name, layers in layups.items():
        names, number, free = {own.name for own in candidates}, 2, name
        while free in names:
            free, number = f"{name} ({number})", number + 1
        identity = new_id("c", {own.id for own in candidates})
        candidates.append(replace(Candidate(identity, free, form=form), layers=layers))
    return arrange(brief, candidates, "bring in candidates")
