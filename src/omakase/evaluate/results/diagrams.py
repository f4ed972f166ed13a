"""Curves along the span of a member: section forces, deflection, twist, and the reserve at every station."""

from __future__ import annotations

import msgspec
import numpy as np

from omakase.core.checks.core_shear import core_shear_severity
from omakase.core.checks.face_failure import ply_severity
from omakase.core.checks.registry import contexts_of
from omakase.core.checks.strip_walls import section_severity
from omakase.core.checks.surface import skin_severity
from omakase.core.checks.tube_walls import wall_factors
from omakase.core.checks.wall_buckling import wall_severity
from omakase.core.checks.wrinkling import wrinkling_severity
from omakase.core.laminate.stack import Stack
from omakase.core.members.leg import LegResponse
from omakase.core.members.spar import SparResponse
from omakase.core.members.stretches import stretch_at
from omakase.core.members.strip import StripResponse
from omakase.core.members.surface import SurfaceResponse
from omakase.core.members.tube import TubeResponse
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.project import translate
from omakase.project.model import Brief

SPAN = StripResponse | TubeResponse | SparResponse
MOST_RESERVE = 6.0  # a curve of reserves is cut there: what is beyond it is plenty
SECTIONS = (
    ("chord", "Chord", "length"), ("bending_stiffness", "Bending stiffness", "beam_stiffness"),
    ("torsional_stiffness", "Torsional stiffness", "beam_stiffness"),
    ("shear_centre", "Shear centre behind the quarter chord", "deflection"),
)  # fmt: skip
NEXT_TO_NOTHING = 1e-9  # of the largest of its kind


class Curve(msgspec.Struct, frozen=True, eq=False):
    """One diagram: ``values`` at ``x`` m, with steps where two values stand at one place.

    ``limit`` : a level that must be kept, or None; ``cut`` : values above it are not drawn.  ``wanted`` : of the same
    quantity at the same places, what would do; None where nothing says so.
    """

    key: str
    title: str
    dimension: str
    x: np.ndarray
    values: np.ndarray
    limit: float | None = None
    cut: float | None = None
    wanted: np.ndarray | None = None

    def at(self, x: float) -> float:
        """Value at a station; the larger in size of two at a step."""
        return self._at(x, self.values)

    def wanted_at(self, x: float) -> float | None:
        """What would do there."""
        return None if self.wanted is None else self._at(x, self.wanted)

    def _at(self, x: float, values: np.ndarray) -> float:
        near = np.nonzero(np.abs(self.x - x) <= np.abs(self.x - x).min() + 1e-9)[0]
        if abs(self.x[near[0]] - x) < 1e-9:
            return float(values[near][np.argmax(np.abs(values[near]))])
        return float(np.interp(x, self.x, values))


def has_span(result: CandidateResult | None) -> bool:
    """Whether there are diagrams of a result."""
    return result is not None and isinstance(result.response, SPAN)


def most_bent(result: CandidateResult) -> float:
    """The station of the largest bending moment under any load case, m; 0 for a member without diagrams."""
    response = result.response
    if not isinstance(response, SPAN) or not response.results:
        return 0.0
    moments = np.max([np.abs(result.diagrams.moment) for result in response.results], axis=0)
    return float(response.x[int(np.argmax(moments))])


def curves(brief: Brief, result: CandidateResult, index: int) -> tuple[Curve, ...]:
    """The diagrams of one load case that say something, the reserve last."""
    response = result.response
    assert isinstance(response, SPAN)
    case_result, x = response.results[index], response.x
    forces = case_result.diagrams
    drawn = [
        Curve("load", "Load", "line_load", x, forces.load),
        Curve("shear", "Shear force", "force", x, forces.shear),
        Curve("moment", "Bending moment", "bending", x, forces.moment),
        Curve("axial", "Axial force", "force", x, forces.axial),
        Curve("torque", "Torque", "bending", x, forces.torque),
        Curve("deflection", "Deflection", "deflection", x, case_result.displacements["w"]),
    ]
    # φ turns against the slope of the deflection; a strip without shear gives its slope itself
    drawn.append(Curve("slope", "Slope", "angle", x, -np.degrees(case_result.displacements["turn"])))
    if "theta" in case_result.displacements:
        drawn.append(Curve("twist", "Twist", "angle", x, np.degrees(case_result.displacements["theta"])))
    if "v" in case_result.displacements:
        drawn.append(Curve("sideways", "Sideways", "deflection", x, case_result.displacements["v"]))
    largest: dict[str, float] = {}
    for curve in drawn:
        largest[curve.dimension] = max(largest.get(curve.dimension, 0.0), float(np.abs(curve.values).max()))
    kept = [
        curve for curve in drawn
        if np.abs(curve.values).max() > max(NEXT_TO_NOTHING * largest[curve.dimension], SMALLEST[curve.dimension])
    ]  # fmt: skip
    if isinstance(response, LegResponse):
        kept.append(thickness_curve(brief, result))
    if isinstance(response, SurfaceResponse):
        along = response.along
        kept += [Curve(key, title, dimension, x, along[key]) for key, title, dimension in SECTIONS]
    return (*kept, _down_at_places(reserve_curve(brief, result, index), result, case_result.case.key))


def _down_at_places(curve: Curve, result: CandidateResult, case: str) -> Curve:
    """The reserves with what checks of the whole member, such as crushing at supports and edges of holes, find at the
    one place that is worst: no reserve of a place in the list of checks is below the curve there."""
    response, values = result.response, curve.values.copy()
    assert isinstance(response, SPAN)
    elsewhere = {field.name for field in response.fields if field.stations is None}  # places that are not along it
    for check in result.checks:
        along = check.kind == "strength" and not check.detail and check.wall not in elsewhere
        if along and check.case_id == case and check.place.x is not None:
            at = int(np.abs(curve.x - check.place.x).argmin())
            values[at] = min(values[at], check.reserve_factor)
    return msgspec.structs.replace(curve, values=values)


def thickness_curve(brief: Brief, result: CandidateResult) -> Curve:
    """Thickness of a leg, and the one with which no place would work harder than its neighbours, in whole plies.

    A moment strains a solid laminate by the inverse square of its thickness, so what is wanted is the present one times
    the root of reserve required over least reserve of all load cases.  Validity: where bending flatwise governs.
    """
    response = result.response
    assert isinstance(response, LegResponse)
    required = translate.limits(brief).reserve_factor
    least = np.min([reserve_curve(brief, result, k).values for k in range(len(response.results))], axis=0)
    which = stretch_at([part.stretch for part in response.parts], response.x)
    built, idle, ply = np.array([_thicknesses(part.stretch.stack) for part in response.parts])[which].T
    wanted = (built - idle) * np.sqrt(required / least)
    with np.errstate(divide="ignore", invalid="ignore"):
        in_plies = np.maximum(np.ceil(wanted / ply - 1e-6), 1.0) * ply
    wanted = idle + np.where(ply > 0.0, in_plies, wanted)
    return Curve("thickness", "Thickness", "length", response.x, built, wanted=wanted)


def _thicknesses(stack: Stack) -> tuple[float, float, float]:
    """(all of it, what does not count, a ply) in m; 0 for the ply of one sheet, which may have any thickness."""
    plies = [layer.thickness for layer in stack.layers if layer.structural]
    return stack.thickness, stack.thickness - sum(plies), sum(plies) / len(plies) if len(plies) > 1 else 0.0


SMALLEST = {"line_load": 1e-6, "force": 1e-6, "bending": 1e-6, "deflection": 1e-9, "angle": 1e-6}


def reserve_curve(brief: Brief, result: CandidateResult, index: int) -> Curve:
    """Least reserve factor of plies, core, wrinkling and wall buckling at every station, at ultimate load."""
    response = result.response
    assert isinstance(response, SPAN)
    settings, limits = translate.settings(brief, result.judged), translate.limits(brief)
    severity = np.zeros(len(response.x))
    for context in contexts_of(response, settings, limits):
        field, case = context.field, context.field.cases[index]
        if field.stations is None:
            continue  # the skin beside a rib: no place along the rib is its own
        size = len(case.x) * len(case.y)
        span = slice(index * size, (index + 1) * size)  # every load case is sampled at the same places
        worst = ply_severity(context)[span]
        for more in (core_shear_severity(context), wrinkling_severity(context), skin_severity(context)):
            if more is not None:
                worst = np.maximum(worst, more[span])
        along = worst.reshape(len(case.x), len(case.y)).max(axis=1)
        severity[field.stations] = np.maximum(severity[field.stations], along)
    if isinstance(response, TubeResponse):
        severity = np.maximum(severity, 1.0 / wall_factors(response)[index])
    if isinstance(response, SparResponse):
        severity = np.maximum(severity, wall_severity(response, index))
    if isinstance(response, StripResponse):
        severity = np.maximum(severity, section_severity(response, index))
    with np.errstate(divide="ignore"):
        reserves = 1.0 / (severity * settings.ultimate_factor)
    return Curve("reserve", "Reserve factor", "ratio", response.x, np.minimum(reserves, 1e6),
                 limits.reserve_factor, MOST_RESERVE)  # fmt: skip
