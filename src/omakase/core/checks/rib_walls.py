"""What may happen to a rib beside what happens to any thin wall: holes in its web, crushing by the skins, its bond."""

from __future__ import annotations

import numpy as np

from omakase.core.checks.limits import at_most, ratio, stiffness_source
from omakase.core.checks.registry import register
from omakase.core.checks.result import CheckResult, Context
from omakase.core.checks.spar_walls import web_capacity
from omakase.core.laminate.failure import CRITERIA
from omakase.core.laminate.open_hole import CHARACTERISTIC, beside_hole
from omakase.core.members.field import Place
from omakase.core.members.rib import Hole, RibCase, RibResponse
from omakase.core.plates.section import PlateSection
from omakase.core.rotation import strain_rotation
from omakase.core.sections.cylinder import wall_stiffness
from omakase.core.sections.long_plates import long_plate

SHEAR_POWER = 1.65  # of 1 − d/h, the share of its shear buckling load that a web with round holes keeps
LIP_TOLD = "what the lip of a hole adds against buckling is not counted"
ESTIMATE = "an estimate until a rib is tested"
# the search for the load at which plies fail: all powers of two at once, then each time so many parts between two loads
POWERS, PARTS, ROUNDS = 2.0 ** np.arange(14), 32, 6


def _shear(response: RibResponse, case: int) -> np.ndarray:
    """Shear flow at mid-height of the web at the sampled places, N/m."""
    flow = response.line_forces(response.webs[0], case)
    return np.abs(flow[:, flow.shape[1] // 2, 1])


def _under(response: RibResponse, hole: Hole, values: np.ndarray) -> float:
    """Largest of values along the rib over the width of a hole."""
    at = np.abs(response.x - hole.x) <= hole.diameter / 2.0
    return float(np.max(values[at])) if at.any() else float(np.interp(hole.x, response.x, values))


def _room(response: RibResponse, hole: Hole) -> float:
    """m from hole to hole, or twice the distance to an end, the lesser: the length of web that passes crushing on."""
    others = [abs(other.x - hole.x) for other in response.rib.holes if other is not hole]
    length = response.rib.beam.span.length
    return min([*others, 2.0 * hole.x, 2.0 * (length - hole.x)])


def _crush(case: RibCase, response: RibResponse) -> float:
    """Compression along s of the web from skins that a bent box draws together, N/m."""
    return abs(case.pressed * case.bent) * response.rib.pitch


@register(
    "hole_edge", "Plies of a rib's web fail beside a lightening hole",
    "Stress beside a round hole of an anisotropic sheet (Lekhnitskii 1968) under the forces that the web beside it "
    "carries, read 1 mm off the edge (point stress of Whitney and Nuismer 1974; the distance from memory) by the "
    "brief's criterion",
    "Holes half way up the web, up to about 0.7 of its height; what bending adds there is not counted; an "
    "estimate.",
    ("Xt", "Xc", "S12"), per="member",
)  # fmt: skip
def hole_edge(context: Context) -> list[CheckResult]:
    """The worst hole of each load case."""
    response = context.response
    if not isinstance(response, RibResponse) or not response.rib.holes:
        return []
    edges = [_Edge(response.web_at(hole.x), hole, context.settings.criterion) for hole in response.rib.holes]
    results = []
    for index, result in enumerate(response.results):
        assert isinstance(result.case, RibCase)
        shear, pressed = _shear(response, index), _crush(result.case, response)
        factors = []
        for hole, edge in zip(response.rib.holes, edges, strict=True):
            deep, room = _under(response, hole, response.depth), _room(response, hole)
            flow = _under(response, hole, shear) * deep / (deep - hole.diameter)
            factors.append(edge.factor(flow, pressed * room / (room - hole.diameter)))
        worst = int(np.argmin(factors))
        if np.isfinite(factors[worst]):
            results.append(
                ratio(context, "hole_edge", "Edge of a hole", result.case,
                      factors[worst] / context.settings.ultimate_factor, Place(response.rib.holes[worst].x, wall="web"),
                      "stress beside a round hole, 1 mm off its edge", (ESTIMATE,), wall="web")
            )  # fmt: skip
    return results


class _Edge:
    """Plies beside a hole in a web, by a criterion: strains round it under 1 N/m of shear, and of crushing."""

    def __init__(self, plate: PlateSection, hole: Hole, criterion: str) -> None:
        A, _, _ = wall_stiffness(plate)
        reach = CHARACTERISTIC / (hole.diameter / 2.0)
        self._sheared, self._crushed = (
            np.linalg.solve(A, beside_hole(A, np.array(forces), reach).T).T
            for forces in ((0.0, 0.0, 1.0), (0.0, -1.0, 0.0))
        )
        self._criterion = CRITERIA[criterion]
        plies = [own for own in plate.stack.layers if own.structural and own.role == "ply"]
        alike = {(own.angle, own.material.id): own for own in plies}
        self._turned = [(strain_rotation(ply.angle).T, ply.material) for ply in alike.values()]

    def factor(self, flow: float, crush: float) -> float:
        """Least factor on the loads at which a ply fails; crushing grows with the square of the load."""

        sheared, crushed = flow * self._sheared, crush * self._crushed
        if not self._turned:
            return np.inf
        if crush == 0.0:
            return float(self._least(sheared).min())
        low, tried = 0.0, POWERS
        for turn in range(ROUNDS):
            failing = self._least(tried[:, None, None] * sheared + tried[:, None, None] ** 2 * crushed) <= 1.0
            failed = np.nonzero(failing.any(axis=1))[0]
            first = int(failed[0]) if len(failed) else len(tried) - 1
            low, high = float(tried[first - 1]) if first else low, float(tried[first])
            if turn and len(failed):  # the factor is known closely: no place comes before those
                sheared, crushed = sheared[failing[first]], crushed[failing[first]]
            tried = np.linspace(low, high, PARTS + 1)[1:]
        return (low + high) / 2.0

    def _least(self, strains: np.ndarray) -> np.ndarray:
        """Least factor of the plies at strains (..., 3): (...)."""
        flat = strains.reshape(-1, 3)
        factors = [self._criterion(flat @ turn, ply) for turn, ply in self._turned]
        return np.min(factors, axis=0).reshape(strains.shape[:-1])


@register(
    "hole_buckling", "A rib's web with lightening holes buckles in shear",
    "A long web's shear buckling load times (1 − d/h)^1.65: fitted to finite elements of a simply supported square "
    "sheet with a round hole; up to a quarter below them for d/h up to 0.7 (own runs)",
    "Holes at least a web's height apart; lips are not counted.",
    per="member",
)  # fmt: skip
def hole_buckling(context: Context) -> list[CheckResult]:
    """The worst hole of each load case that shears the web."""
    response = context.response
    if not isinstance(response, RibResponse) or not response.rib.holes:
        return []
    holes, remarks = response.rib.holes, (LIP_TOLD,) if response.rib.lip else ()
    loads = np.empty(len(holes))
    for k, hole in enumerate(holes):
        deep = _under(response, hole, response.depth)
        whole = long_plate(response.web_at(hole.x)).in_shear(np.array([deep]))[0]
        loads[k] = whole * hole_share(hole.diameter / deep)
    results = []
    for index, result in enumerate(response.results):
        shear = _shear(response, index)
        flows = np.array([_under(response, hole, shear) for hole in holes])
        shares = flows / loads
        worst = int(np.argmax(shares))
        if shares[worst] > 0.0:
            results.append(
                ratio(context, "hole_buckling", "Buckling beside a hole", result.case,
                      1.0 / float(shares[worst]) / context.settings.ultimate_factor,
                      Place(holes[worst].x, wall="web"),
                      "shear buckling of the web times (1 − d/h)^1.65", remarks, wall="web")
            )  # fmt: skip
    return results


def hole_share(ratio: float) -> float:
    """Share of its shear buckling load that a web with round holes of d/h = ``ratio`` keeps."""
    return float((1.0 - ratio) ** SHEAR_POWER)


def crushing_capacity(context: Context, response: RibResponse) -> np.ndarray:
    """Compression along s that the web takes, N/m, at every place along; beside holes what is left of it."""
    carried = web_capacity(context, response, "web", response.depth)[0]
    for hole in response.rib.holes:
        room = _room(response, hole)
        at = np.abs(response.x - hole.x) <= room / 2.0
        carried = np.where(at, carried * (1.0 - hole.diameter / room), carried)
    return carried


@register(
    "rib_crushing", "The skins of a bent wing press its ribs together",
    "Each skin pressed by N per width presses with N κ on what lies between (Brazier 1927), times the pitch on each "
    "rib: ply failure of the web and its buckling as a wide column between the skins; beside holes on what is left",
    "The rib carries it alone, evenly along the chord; a core that fills the wing is not counted.",
    ("Xc", "Yc"), per="member",
)  # fmt: skip
def rib_crushing(context: Context) -> list[CheckResult]:
    """One result per load case that states what the skins carry and how far the box bends."""
    response = context.response
    if not isinstance(response, RibResponse):
        return []
    carried = crushing_capacity(context, response)
    results = []
    for result in response.results:
        assert isinstance(result.case, RibCase)
        pressure = _crush(result.case, response)
        if pressure:
            k = int(np.argmin(carried))
            # both the force of the skins and the curvature grow with the load
            factor = float(np.sqrt(carried[k] / pressure)) / context.settings.ultimate_factor
            results.append(
                ratio(context, "rib_crushing", "Crushing by the skins", result.case, factor,
                      Place(float(response.x[k]), wall="web"),
                      "force of the skins times curvature times pitch; grows with the square of the load", wall="web")
            )  # fmt: skip
    return results


@register(
    "skin_bond", "The bond of a rib to the skin fails",
    "Shear flow of the cell over the bond's width against its shear strength, and the lift of a bay as a pull on one "
    "edge against its strength in tension, squares added (common practice, no source)",
    "Mean stresses: peel at the bond's edges is not counted; test the bond and reduce its strengths.",
    per="member",
)  # fmt: skip
def skin_bond(context: Context) -> list[CheckResult]:
    """One result per load case of a rib whose edges are bonded over a stated width."""
    response = context.response
    if not isinstance(response, RibResponse) or response.rib.bond <= 0.0:
        return []
    rib, results = response.rib, []
    for result, flow in zip(response.results, response.flows_of, strict=True):
        pulls = np.abs(result.diagrams.load)
        k = int(np.argmax(pulls))
        pull = float(pulls[k])
        square = (abs(flow) / rib.bond / rib.bond_shear) ** 2 + (pull / rib.bond / rib.bond_tension) ** 2
        if square > 0.0:
            results.append(
                ratio(context, "skin_bond", "Bond to the skin", result.case,
                      1.0 / float(np.sqrt(square)) / context.settings.ultimate_factor, Place(float(response.x[k])),
                      "shear flow and pull over the width of the bond",
                      ("the strengths of the bond are as stated in the form: test it",))
            )  # fmt: skip
    return results


@register(
    "bay_sag", "The skin between two ribs sags", "Plate solution (docs/methods.md)",
    "A flat bay whose edges turn freely on ribs and spars, under the whole lift of its area: on the safe side for skin "
    "that is curved, runs on over the ribs, or shares the lift with the other side.",
    per="member",
)  # fmt: skip
def bay_sag(context: Context) -> list[CheckResult]:
    """One result per load case of a rib whose skin is given."""
    results = []
    for measure in context.response.measures.get("bay_sag", ()):
        allowable, reserve = at_most(context.limits.bay_sag, measure.value)
        results.append(
            context.result(
                "bay_sag", "Sag of the skin", measure, measure.value, allowable, reserve=reserve,
                method="plate solution at limit load", source=stiffness_source(context), remarks=measure.remarks,
                dimension="deflection", kind="stiffness",
            )
        )  # fmt: skip
    return results


@register(
    "span_mass", "Mass of ribs and skin per length of wing", "Sum of the layers, from cloth and resin mass",
    "The rib over its pitch, and both skins between its spars; without bonds, spars and paint.",
    per="member",
)  # fmt: skip
def span_mass(context: Context) -> list[CheckResult]:
    """The mass against its limit, of a rib."""
    results = []
    for measure in context.response.measures.get("span_mass", ()):
        allowable, reserve = at_most(context.limits.span_mass, measure.value)
        results.append(
            context.result(
                "span_mass", "Mass per length of wing", None, measure.value, allowable, reserve=reserve,
                method="rib over its pitch, and two skins", source=stiffness_source(context), dimension="line_mass",
                kind="limit",
            )
        )  # fmt: skip
    return results
