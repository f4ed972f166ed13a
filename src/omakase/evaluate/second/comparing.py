"""What a finite-element solver says of a candidate, beside the program's own numbers."""

from __future__ import annotations

import msgspec
import numpy as np

from omakase.core.members.panel import PanelResponse
from omakase.core.members.span import SpanAnswers
from omakase.core.members.spar import SparResponse
from omakase.core.mesh.mesh import Mesh
from omakase.devices.solver import Printed
from omakase.evaluate.results.engine import CandidateResult

AGREES = 0.02  # beyond what the mesh changes, up to which two answers are the same


class Line(msgspec.Struct, frozen=True):
    """One number of both.  ``solver`` : of the finer mesh; ``mesh`` : relative change from the coarser one, or None
    where only one was run."""

    what: str
    dimension: str
    program: float
    solver: float
    mesh: float | None

    @property
    def difference(self) -> float:
        """Solver over program, less one."""
        return self.solver / self.program - 1.0 if self.program else 0.0

    @property
    def agrees(self) -> bool:
        """Within the change of the mesh and two hundredths."""
        return abs(self.difference) <= AGREES + (abs(self.mesh) if self.mesh is not None else 0.0)


def wanted_buckling(result: CandidateResult) -> str:
    """The load case whose buckling is asked for: that with the least factor of its own; none without one."""
    return _least_buckling(result)[0]


def _least_buckling(result: CandidateResult) -> tuple[str, float]:
    response = result.response
    if isinstance(response, PanelResponse):
        found = [(own.value, own.key) for own in response.measures.get("buckling", ())]
        return (min(found)[1], min(found)[0]) if found else ("", np.inf)
    if type(response) is SparResponse:
        factors = [(response.model.sideways(own.diagrams, bent_before=False), own.case.key) for own in response.results]
        finite = [own for own in factors if np.isfinite(own[0])]
        return (min(finite)[1], min(finite)[0]) if finite else ("", np.inf)
    return "", np.inf


def readings(mesh: Mesh, printed: Printed) -> dict[str, float]:
    """Largest deflection of each load case by its key, m, and the turn there of a member with a span, degrees."""
    found: dict[str, float] = {}
    static = printed.displacements[: len(mesh.cases)]  # modes are printed after them
    for case, moved in zip(mesh.cases, static, strict=True):
        if mesh.plates:
            w = np.array([np.mean([moved[node + 1][2] for node in column]) for column in mesh.columns])
            found[f"deflection {case.key}"] = float(np.abs(w).max())
            continue
        stations = np.array([_station(mesh, column, moved) for column in mesh.columns])
        size = np.hypot(stations[:, 0], stations[:, 1])
        found[f"deflection {case.key}"] = float(size.max())
        found[f"twist {case.key}"] = float(np.degrees(np.abs(stations[:, 2]).max()))
    for number, frequency in enumerate(printed.frequencies, 1):
        found[f"frequency {number}"] = frequency
    if printed.buckling:
        found["buckling"] = min((own for own in printed.buckling if own > 0.0), default=np.inf)
    return found


def _station(mesh: Mesh, column: np.ndarray, moved: dict[int, np.ndarray]) -> np.ndarray:
    """(w, v, turn z toward y) of a section at its reference line, as a rigid one that fits best."""
    y, z = mesh.nodes[column, 1], mesh.nodes[column, 2]
    shifts = np.array([moved[node + 1] for node in column])
    one, none = np.ones_like(y), np.zeros_like(y)
    rows = np.concatenate([np.stack([one, none, -y], axis=1), np.stack([none, one, z], axis=1)])
    return np.linalg.lstsq(rows, np.concatenate([shifts[:, 2], shifts[:, 1]]), rcond=None)[0]


def compare(result: CandidateResult, coarse: dict[str, float] | None, fine: dict[str, float]) -> tuple[Line, ...]:
    """The lines that both say something about; ``coarse`` : of the coarser mesh, None where only one was run."""
    response = result.response
    assert isinstance(response, PanelResponse | SpanAnswers)
    lines: list[Line] = []

    def add(what: str, dimension: str, program: float, key: str) -> None:
        if key in fine and np.isfinite(program) and program > 0.0:
            mesh = None if coarse is None else fine[key] / coarse[key] - 1.0 if coarse.get(key) else 0.0
            lines.append(Line(what, dimension, program, fine[key], mesh))

    for own in response.measures["deflection"]:
        add(f"Deflection, {own.name}", "deflection", own.value, f"deflection {own.key}")
    largest = max((own.value for own in response.measures.get("twist", ())), default=0.0)
    for own in response.measures.get("twist", ()):
        if own.value > 0.05 * largest > 0.0:
            add(f"Twist, {own.name}", "angle", own.value, f"twist {own.key}")
    for number, frequency in enumerate(response.frequencies[:3], 1):
        add(f"Frequency {number}", "frequency", float(frequency), f"frequency {number}")
    key, factor = _least_buckling(result)
    if key:
        add("Linear buckling factor", "ratio", factor, "buckling")
    return tuple(lines)
