"""What a finite-element solver says of a candidate, beside the program's own numbers."""

from __future__ import annotations

import msgspec
import numpy as np

from omakase.core.members.panel import PanelResponse
from omakase.core.members.panel_case import CaseResponse
from omakase.core.members.pressing import EIGENVALUE, knock_down
from omakase.core.members.span import SpanAnswers
from omakase.core.members.spar import SparResponse
from omakase.core.members.strip import StripResponse
from omakase.core.members.tube import TubeResponse
from omakase.core.mesh.mesh import Mesh
from omakase.devices.solver import Printed
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.second.stresses import interior, on_surface, panel_stress, stations, surface_stress

COARSE = 0.1  # change by the mesh from which on neither number judges the other
SMALL = 0.1  # of the larger stress: below it the other direction is not compared
NEGLIGIBLE = 1e-3  # of the largest stress of all load cases: below it nothing is compared
SWAYS = 3.0  # of the panel's largest movement, from which on a rib vibrates by itself
TINY = 0.01  # of the largest deflection: below it one is not compared
NO_TWIST = 1e-6  # degrees: what rounding leaves of none
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
    def coarse(self) -> bool:
        """Whether the mesh changes it so much that nothing can be said."""
        return self.mesh is not None and abs(self.mesh) > COARSE and abs(self.difference) > AGREES

    @property
    def agrees(self) -> bool:
        """Within the change of the mesh and two hundredths."""
        return not self.coarse and abs(self.difference) <= AGREES + (abs(self.mesh) if self.mesh is not None else 0.0)


def wanted_buckling(result: CandidateResult) -> str:
    """The load case whose buckling is asked for: that with the least factor of its own; none without one."""
    return _least_buckling(result)[0]


def _least_buckling(result: CandidateResult) -> tuple[str, float]:
    """The load case and the factor of its eigenvalue, of a curved panel before it is knocked down."""
    response = result.response
    if isinstance(response, PanelResponse):
        down = knock_down(response.section, response.panel.surface) if response.panel.curved else 1.0
        found = [
            (own.beyond.buckling / down, own.case.key)
            for own in response.cases
            if own.beyond is not None and own.beyond.buckling is not None and own.beyond.how == EIGENVALUE
        ]
        return (min(found)[1], min(found)[0]) if found else ("", np.inf)
    if type(response) is SparResponse:
        factors = [(response.sideways(i, linear=True), own.case.key) for i, own in enumerate(response.results)]
        finite = [own for own in factors if np.isfinite(own[0])]
        return (min(finite)[1], min(finite)[0]) if finite else ("", np.inf)
    return "", np.inf


def readings(mesh: Mesh, printed: Printed) -> dict[str, float]:
    """Largest deflection of each load case by its key, m, and the turn there of a member with a span, degrees."""
    found: dict[str, float] = {}
    static = printed.displacements[: len(mesh.cases)]  # modes are printed after them
    for case, moved in zip(mesh.cases, static, strict=True):
        if mesh.plates:
            found[f"deflection {case.key}"] = float(np.abs(_through(mesh, moved)[0]).max())
            continue
        stations = np.array([_station(mesh, column, moved) for column in mesh.columns])
        size = np.hypot(stations[:, 0], stations[:, 1])
        found[f"deflection {case.key}"] = float(size.max())
        found[f"twist {case.key}"] = float(np.degrees(np.abs(stations[:, 2]).max()))
    modes = printed.displacements[len(mesh.cases) :]
    upright = [k for k in range(len(printed.frequencies)) if k >= len(modes) or _is_known(mesh, modes[k])]
    for number, k in enumerate(upright, 1):
        found[f"frequency {number}"] = printed.frequencies[k]
    if printed.buckling:
        found["buckling"] = min((own for own in printed.buckling if own > 0.0), default=np.inf)
    return found


def _is_known(mesh: Mesh, moved: dict[int, np.ndarray]) -> bool:
    """Whether the program looks for a vibration: of panels out of their plane, of flat strips up and down, of others
    all."""
    if mesh.plates:
        return _bends(mesh, moved)
    if not mesh.upright:
        return True
    up, aside, turn = np.abs([_station(mesh, column, moved) for column in mesh.columns]).max(axis=0)
    half = float(np.ptp(mesh.nodes[:, 1])) / 2.0
    return bool(up > max(aside, turn * half))


def _bends(mesh: Mesh, moved: dict[int, np.ndarray]) -> bool:
    """Whether a vibration of a panel is out of its plane, and not of a rib that sways by itself; the program knows no
    others."""
    away, moves = _through(mesh, moved)
    if not (away**2).sum() > 0.5 * (moves**2).sum():
        return False
    tips = [float(np.linalg.norm(moved[node + 1])) for node in mesh.tips]
    return max(tips, default=0.0) < SWAYS * float(np.abs(away).max())


def _through(mesh: Mesh, moved: dict[int, np.ndarray]) -> tuple[np.ndarray, np.ndarray]:
    """Displacement of each place of a panel away from its surface (c,) and in space (c, 3), the mean of its nodes."""
    assert mesh.normals is not None
    moves = np.array([np.mean([moved[node + 1] for node in column], axis=0) for column in mesh.columns])
    return (moves * mesh.normals).sum(axis=1), moves


def _station(mesh: Mesh, column: np.ndarray, moved: dict[int, np.ndarray]) -> np.ndarray:
    """(w, v, turn z toward y) of a section at its reference line, as a rigid one that fits best."""
    y, z = mesh.nodes[column, 1], mesh.nodes[column, 2]
    shifts = np.array([moved[node + 1] for node in column])
    one, none = np.ones_like(y), np.zeros_like(y)
    rows = np.concatenate([np.stack([one, none, -y], axis=1), np.stack([none, one, z], axis=1)])
    return np.linalg.lstsq(rows, np.concatenate([shifts[:, 2], shifts[:, 1]]), rcond=None)[0]


def _grown(response: PanelResponse | SpanAnswers) -> set[str]:
    """Load cases whose deflection the program lets grow by forces along the edges: no solver of one step does."""
    if not isinstance(response, PanelResponse):
        return set()
    return {own.case.key for own in response.cases if own.case.edge is not None and not _is_large(own)}


def _is_large(case: CaseResponse) -> bool:
    return case.beyond is not None and case.beyond.large


def stress_lines(
    result: CandidateResult, coarse: Printed | None, fine: Printed
) -> tuple[Line, ...]:  # fmt: skip
    """Stress at the points that both solutions print, away from edges and supports; none where displacements are
    large, whose strains the program keeps for ultimate load."""
    response, lines = result.response, []
    if isinstance(response, PanelResponse):
        least = NEGLIGIBLE * _largest_stress(response)
        for k, own in enumerate(response.cases):
            if own.case.edge is not None or _is_large(own):
                continue
            found, here = [], []
            for printed in (coarse, fine):
                if printed is not None:
                    places, stress = on_surface(response, printed.stresses[k])
                    inside = interior(response, *places.T)
                    found.append(np.abs(stress[inside]).max(axis=0, initial=0.0))
                    here.append(panel_stress(response, k, places[inside]).max(axis=0, initial=0.0))
            said = here[-1]
            for axis, name in enumerate("xy"):
                if said[axis] > max(SMALL * said.max(), least):
                    # finer points lie elsewhere: what the program says at them changes, too
                    coarser = found[0][axis] / here[0][axis] if here[0][axis] else np.inf
                    mesh = float(found[1][axis] / said[axis] / coarser - 1.0) if len(found) == 2 else None
                    lines.append(Line(f"Face stress along {name}, {own.case.name}", "stress", float(said[axis]),
                                      float(found[-1][axis]), mesh))  # fmt: skip
    elif isinstance(response, SparResponse | StripResponse | TubeResponse):
        curves = [stations(response.fields, k) for k in range(len(response.results))]
        largest = max((float(stress.max()) for _, stress in curves), default=0.0)
        for k, (result_of, (x, stress)) in enumerate(zip(response.results, curves, strict=True)):
            pairs = []
            for printed in (coarse, fine):
                if printed is not None and len(printed.stresses[k]):
                    points = printed.stresses[k]
                    pairs.append((float(np.interp(points[:, 0], x, stress).max()), float(np.abs(points[:, 3]).max())))
            if pairs and pairs[-1][0] > SMALL * largest:
                mesh = pairs[1][1] / pairs[1][0] * pairs[0][0] / pairs[0][1] - 1.0 if len(pairs) == 2 else None
                lines.append(Line(f"Face stress, {result_of.case.name}", "stress", *pairs[-1], mesh))
    return tuple(lines)


def _largest_stress(response: PanelResponse) -> float:
    """Pa in the outer layers of most of the panel, of any load case."""
    every = [surface_stress(response, k) for k in range(len(response.cases))]
    return max((float(own.max()) for own in every), default=0.0)


def compare(result: CandidateResult, coarse: dict[str, float] | None, fine: dict[str, float]) -> tuple[Line, ...]:
    """The lines that both say something about; ``coarse`` : of the coarser mesh, None where only one was run."""
    response = result.response
    assert isinstance(response, PanelResponse | SpanAnswers)
    lines: list[Line] = []

    def add(what: str, dimension: str, program: float, key: str) -> None:
        if key in fine and np.isfinite(program) and program > 0.0:
            mesh = None if coarse is None else fine[key] / coarse[key] - 1.0 if coarse.get(key) else 0.0
            lines.append(Line(what, dimension, program, fine[key], mesh))

    grown = _grown(response)
    most = max((own.value for own in response.measures["deflection"]), default=0.0)
    for own in response.measures["deflection"]:
        if own.key in grown or own.value < TINY * most:
            continue
        add(f"Deflection, {own.name}", "deflection", own.value, f"deflection {own.key}")
    largest = max((own.value for own in response.measures.get("twist", ())), default=0.0)
    for own in response.measures.get("twist", ()):
        if own.value > max(0.05 * largest, NO_TWIST):
            add(f"Twist, {own.name}", "angle", own.value, f"twist {own.key}")
    flat = isinstance(response, StripResponse) and not response.section.bent
    known = 1 if flat else 3  # a flat strip knows no vibration sideways or in twist
    for number, frequency in enumerate(response.frequencies[:known], 1):
        add(f"Frequency {number}", "frequency", float(frequency), f"frequency {number}")
    key, factor = _least_buckling(result)
    if key:
        sideways = "Buckling factor sideways, where no wall buckles first"
        what = sideways
        if isinstance(response, PanelResponse):
            what = "Buckling factor" + (" before its knock-down" if response.panel.curved else "")
            what += ", where no wall of a rib buckles first" if response.ribs else ""
        add(what, "ratio", factor, "buckling")
    return tuple(lines)
