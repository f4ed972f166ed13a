"""Shared by the tests: simple materials, stacks and plates.  Nothing here is checked, only used."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np

from omakase.core.laminate.stack import Layer, Stack
from omakase.core.materials.material import Material
from omakase.core.materials.provenance import Sourced
from omakase.core.mesh.mesh import Mesh
from omakase.core.plates.assembly import Assembler
from omakase.core.plates.grid import Edges, Grid
from omakase.core.plates.loads import PatchLoad, Pressure
from omakase.core.plates.section import PlateSection
from omakase.core.plates.solver import PlateModel, PlateSolution, plate_fields
from omakase.evaluate.results.engine import Evaluator
from omakase.project.commands import replace
from omakase.project.model import Brief, Project
from omakase.project.storage import read_project

DEMO = Path(__file__).parents[1] / "src/omakase/data/demo/heronwick.omakase.json"
SIMPLE = Edges()
CLAMPED = Edges("clamped", "clamped", "clamped", "clamped")
CANTILEVER = Edges("clamped", "free", "free", "free")


EVALUATOR = Evaluator()  # what one test has computed serves the others of its process


def demo_project() -> Project:
    return read_project(DEMO)


def lightly_loaded(brief: Brief, share: float = 0.01) -> Brief:
    """A share of a brief's patches and of its sag: no panel moves far, so each is judged quickly."""
    cases = tuple(
        replace(case, loads=tuple(replace(patch, force=patch.force * share) for patch in case.loads))
        for case in brief.load_cases
    )
    return replace(brief, load_cases=cases, limits=replace(brief.limits, deflection=brief.limits.deflection * share))


def material(kind: str = "sheet", family: str = "metal", name: str = "test", **values: float) -> Material:
    return Material(name, name, kind, family, {k: Sourced(v, "tested") for k, v in values.items()})


def isotropic(
    E: float = 70e9, nu: float = 0.3, density: float = 2700.0, strength: float = 300e6, **other: float
) -> Material:
    """A metal-like sheet."""
    G = E / (2.0 * (1.0 + nu))
    stiffness = {"density": density, "E1": E, "E2": E, "G12": G, "G13": G, "G23": G, "nu12": nu}
    strengths = dict.fromkeys(("Xt", "Xc", "Yt", "Yc"), strength) | dict.fromkeys(
        ("S12", "S13", "S23"), strength / 3.0**0.5
    )
    return material(**(stiffness | strengths | other))


def orthotropic(E1: float, E2: float, G12: float, nu12: float, **other: float) -> Material:
    """A sheet with axes, all strengths 1 GPa unless given."""
    strengths = dict.fromkeys(("Xt", "Xc", "Yt", "Yc", "S12", "S13", "S23"), 1e9)
    values = (
        {"density": 1600.0, "E1": E1, "E2": E2, "G12": G12, "G13": G12, "G23": G12, "nu12": nu12} | strengths | other
    )
    return material(family="carbon", **values)


def soft_core(G: float, E: float = 3e3, density: float = 60.0, E3: float = 80e6, **other: float) -> Material:
    """A core with next to no in-plane stiffness unless E is given."""
    values = {
        "density": density, "E1": E, "E2": E, "G12": E / 2.6, "G13": G, "G23": G, "nu12": 0.0, "E3": E3,
        "S13": 1e6, "S23": 1e6, "Zc": 1e6, "Zt": 1e6, "resin_uptake": 0.0,
    }  # fmt: skip
    return material("core", "foam", **(values | other))


def sheet(stuff: Material, thickness: float, angle: float = 0.0) -> Layer:
    return Layer(stuff, angle, thickness, "ply")


def sandwich(face: Material, t_face: float, core: Material, t_core: float, t_bottom: float | None = None) -> Stack:
    """One sheet each side of one core; equal faces unless ``t_bottom`` is given."""
    return Stack(
        (sheet(face, t_face), Layer(core, 0.0, t_core, "core"), sheet(face, t_face if t_bottom is None else t_bottom))
    )


def plate(
    stack: Stack,
    length: float,
    width: float,
    edges: Edges = SIMPLE,
    order: int = 10,
    x_breaks: Sequence[float] = (),
    y_breaks: Sequence[float] = (),
) -> PlateModel:
    section = PlateSection(stack)
    three = section.kinematics == "three_layer"
    grid = Grid(length, width, edges, order, x_breaks, y_breaks, three, plate_fields(section))
    return PlateModel(section, Assembler(grid))


def sag(solution: PlateSolution, x: float, y: float) -> float:
    """Deflection, positive down, at a point."""
    field = "w"
    place = []
    for basis, at in ((solution.grid.x[field], x), (solution.grid.y[field], y)):
        cell = min(max(int((basis.nodes <= at).sum()) - 1, 0), basis.cells - 1)
        middle = (basis.nodes[cell] + basis.nodes[cell + 1]) / 2.0
        half = (basis.nodes[cell + 1] - basis.nodes[cell]) / 2.0
        place.append(basis.table([(cell, ((at - middle) / half,))])[0])
    coefficients = solution._coefficients[field]
    return -float(place[0] @ coefficients @ place[1])


def pressure_sag(model: PlateModel, pressure: float, x: float, y: float) -> float:
    return sag(model.solve([[Pressure(pressure)]])[0], x, y)


def patch_sag(model: PlateModel, patch: PatchLoad) -> float:
    return sag(model.solve([[patch]])[0], patch.x, patch.y)


def brick_weight(mesh: Mesh) -> float:
    """kg of bricks drawn along one direction, by their ends and the mean way between these."""
    total = 0.0
    for group in mesh.groups:
        p = mesh.nodes[group.elements[:, :8]]
        ends = [np.cross(p[:, k + 2] - p[:, k], p[:, k + 3] - p[:, k + 1]) / 2.0 for k in (0, 4)]
        along = (p[:, 4:] - p[:, :4]).mean(axis=1)
        total += float(np.abs(((ends[0] + ends[1]) / 2.0 * along).sum(axis=1)).sum()) * group.densities[0]
    return total
