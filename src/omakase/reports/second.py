"""The second opinion from deck to lines: writes two meshes, runs the solver on both, sets its numbers beside ours."""

from __future__ import annotations

from collections.abc import Callable

from omakase.core.errors import OmakaseError
from omakase.core.mesh.mesh import Mesh
from omakase.devices.solver import HOW_TO_GET, Printed, installed, solve
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.results.wording import quantity
from omakase.evaluate.second.comparing import Line, compare, readings, stress_lines, wanted_buckling
from omakase.evaluate.second.meshing import mesh_of
from omakase.reports.deck import deck_text
from omakase.units import UnitSystem

HEAD = ("Quantity", "Program", "Solver", "Difference", "Mesh change", "")


def deck_of(result: CandidateResult, about: str, finer: bool = False) -> str:
    """The deck of a candidate as text; ``about`` : where it is from.  Raises OmakaseError where there is none."""
    return _deck(mesh_of(result, finer), result, about)


def _deck(mesh: Mesh, result: CandidateResult, about: str) -> str:
    return deck_text(mesh, result.candidate.name, about, wanted_buckling(result))


def second_opinion(
    result: CandidateResult, about: str, told: Callable[[str], None] | None = None,
    stopped: Callable[[], bool] = lambda: False,
) -> tuple[Line, ...]:  # fmt: skip
    """Both meshes solved.  ``told`` : called with what is going on.  Raises OmakaseError, also when stopped."""
    if not installed():
        raise OmakaseError(HOW_TO_GET)
    found: list[Printed] = []
    meshes: list[Mesh] = []
    for number, finer in enumerate((False, True), 1):
        mesh = mesh_of(result, finer)

        def tell(seconds: float, number: int = number, elements: int = mesh.elements) -> None:
            if told is not None:
                told(f"mesh {number} of 2, {elements} elements: {seconds:.0f} s")

        meshes.append(mesh)
        found.append(solve(_deck(mesh, result, about), tell, stopped))
    coarse, fine = (readings(mesh, own) for mesh, own in zip(meshes, found, strict=True))
    return (*compare(result, coarse, fine), *stress_lines(result, found[0], found[1]))


def line_texts(line: Line, units: UnitSystem) -> tuple[str, ...]:
    """A row of the table, as of ``HEAD``."""
    mesh = "" if line.mesh is None else _share(line.mesh)
    verdict = "mesh too coarse" if line.coarse else "agrees" if line.agrees else "differs"
    return (
        line.what, quantity(line.program, line.dimension, units), quantity(line.solver, line.dimension, units),
        _share(line.difference), mesh, verdict,
    )  # fmt: skip


def _share(value: float) -> str:
    text = f"{value:+.1%}".replace("-", "−")
    return "0.0%" if text[1:] == "0.0%" else text
