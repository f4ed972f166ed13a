"""Pictures' data: deflection over the panel, strain and stress through the thickness at a place."""

from __future__ import annotations

from functools import lru_cache

import msgspec
import numpy as np

from omakase.core.checks.core_shear import stress_per_strain
from omakase.core.checks.result import CheckResult
from omakase.core.kept import keep_last
from omakase.core.laminate.stack import Stack
from omakase.core.members.field import Place, WallField
from omakase.core.members.panel import PanelResponse
from omakase.core.members.panel_round import RoundCase
from omakase.core.plates.solver import PlateSolution
from omakase.core.rotation import strain_rotation
from omakase.evaluate.results.candidate_result import CandidateResult


class ThicknessProfile(msgspec.Struct, frozen=True, eq=False):
    """At one place, face A first, two points per layer (its upper and lower surface) of the ``stack`` there.

    ``rows`` : which of the whole wall's layers the stack's are.

    ``z`` : (2n,) m above the mid-plane; ``strain``, ``stress`` : (2n, 3) in panel axes x, y, xy (engineering shear),
    stress in Pa; ``along`` : (2n,) stress along each ply's own first axis; ``core_shear`` : (τ_xz, τ_yz) or None.
    """

    place: Place
    stack: Stack
    rows: tuple[int, ...]
    z: np.ndarray
    strain: np.ndarray
    stress: np.ndarray
    along: np.ndarray
    core_shear: tuple[float, float] | None


def case_index(result: CandidateResult, case_id: str) -> int:
    """Index of a load case; the first where none is meant (own vibration, mass)."""
    assert result.response is not None
    known = [case.case.key for case in result.response.fields[0].cases]
    return known.index(case_id) if case_id in known else 0


def deflection_map(result: CandidateResult, index: int, columns: int, rows: int) -> np.ndarray:
    """Deflection in m, positive up, on a regular grid (columns, rows) from edge to edge; no number outside a round
    panel."""
    assert isinstance(result.response, PanelResponse)
    case = result.response.cases[index]
    panel = result.response.panel
    if isinstance(case, RoundCase):
        return case.deflection_at(np.linspace(0.0, panel.length, columns), np.linspace(0.0, panel.width, rows))
    along_x = _interpolation(case.w_x.tobytes(), panel.length, columns)
    return along_x @ case.w @ _interpolation(case.w_y.tobytes(), panel.width, rows).T


class Shape(msgspec.Struct, frozen=True, eq=False):
    """A shape without a size: of a natural vibration or of buckling.

    ``number`` : of the vibration, from 1, among ``count``; 0 for buckling.  ``value`` : frequency in Hz, or the factor
    on the loads of case ``case`` at limit load.
    """

    solution: PlateSolution
    number: int
    count: int
    value: float
    case: str = ""

    def map(self, columns: int, rows: int) -> np.ndarray:
        """The shape on a regular grid (columns, rows) from edge to edge, its largest value 1."""
        grid = self.solution.grid
        x, y = np.linspace(0.0, grid.length, columns), np.linspace(0.0, grid.width, rows)
        values = self.solution.deflection_at(x, y)
        return values / np.nanmax(np.abs(values))


def shapes(result: CandidateResult, check: CheckResult | None) -> tuple[Shape, ...]:
    """The shapes that belong to a check, first the one that it is about; none for other checks."""
    response = result.response
    if check is None or not isinstance(response, PanelResponse):
        return ()
    if check.check in ("frequency", "frequency_band"):
        count = len(response.modes)
        made = [Shape(response.modes[i], i + 1, count, response.frequencies[i]) for i in range(count)]
        first = min(range(count), key=lambda i: abs(response.frequencies[i] - check.value), default=0)
        return tuple(made[first:] + made[:first])
    if check.check == "buckling":
        beyond = response.cases[case_index(result, check.case_id)].beyond
        if beyond is not None and beyond.shape is not None and beyond.buckling is not None:
            return (Shape(beyond.shape, 0, 1, beyond.buckling, check.load_case),)
    return ()


@keep_last(16)
def _interpolation(of: bytes, size: float, count: int) -> np.ndarray:
    """Linear interpolation at ``count`` places from 0 to ``size`` of values given at ascending places (n,), whose bytes
    are ``of``: as a matrix (count, n).  The same from edit to edit."""
    places, at = np.frombuffer(of), np.linspace(0.0, size, count)
    right = np.clip(np.searchsorted(places, at, side="right"), 1, len(places) - 1)
    step = places[right] - places[right - 1]
    # cell borders are sampled from both sides: two places at one point
    share = np.divide(at - places[right - 1], step, out=np.zeros_like(at), where=step > 0.0)
    matrix = np.zeros((count, len(places)))
    row = np.arange(count)
    matrix[row, right - 1] = 1.0 - share
    matrix[row, right] = share
    return matrix


def thickness_profile(result: CandidateResult, index: int, place: Place) -> ThicknessProfile:
    """Profile at the sample nearest to a place, limit load; the core's strain runs between the faces'."""
    assert result.response is not None
    fields = [wall_field for wall_field in result.response.fields if wall_field.name == place.wall] or list(
        result.response.fields
    )

    if place.layer is not None:  # of a panel with zones the stack that has the layer
        fields = [field for field in fields if not field.rows or place.layer in field.rows] or fields

    def distance(field: WallField) -> float:
        case = field.cases[index]
        there = case.place(*case.nearest(place))
        return sum(
            (at - wanted) ** 2
            for at, wanted in ((there.x, place.x), (there.y, place.y))
            if at is not None and wanted is not None
        )

    field = min(fields, key=distance)
    section, case, stack = field.section, field.cases[index], field.stack
    i, j = case.nearest(place)
    z = np.ravel(np.column_stack([stack.z_top, stack.z_bottom]))
    strain = np.zeros((len(z), 3))
    core = section.core.layers if section.core is not None else range(0)
    here = case.strains[i, j]
    for k in range(len(stack.layers)):
        if k not in core:
            for row in (2 * k, 2 * k + 1):
                z_phi, z_w = section.levels(k, float(z[row]))
                strain[row] = here[0:3] + z_phi * here[3:6] + z_w * here[6:9]
    if section.core is not None:
        first, last = 2 * core.start, 2 * core.stop - 1
        share = (z[first : last + 1] - z[last]) / (z[first] - z[last])
        strain[first : last + 1] = np.outer(share, strain[first - 1]) + np.outer(1.0 - share, strain[last + 1])
    stress = np.einsum("kij,kj->ki", np.repeat(section.Q, 2, axis=0), strain)
    surfaces = stress.reshape(-1, 2, 3)  # of each layer
    along = np.concatenate(
        [stress @ _stress_rotation(layer.angle)[0] for stress, layer in zip(surfaces, stack.layers, strict=True)]
    )
    shear = None
    if section.core is not None:
        tau = stress_per_strain(section) @ here[9:11]
        shear = (float(tau[0]), float(tau[1]))
    rows = field.rows or tuple(range(len(stack.layers)))
    return ThicknessProfile(case.place(i, j), stack, rows, z, strain, stress, along, shear)


@lru_cache(maxsize=256)
def _stress_rotation(angle: float) -> np.ndarray:
    """Matrix from stress in panel axes to those at ``angle``: the inverse transpose of the strains' rotation."""
    return np.linalg.inv(strain_rotation(angle)).T
