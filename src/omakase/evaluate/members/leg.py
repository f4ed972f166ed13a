"""The leg or leaf as a kind of member."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Mapping

import numpy as np

from omakase.core.errors import OmakaseError
from omakase.core.materials.material import Material
from omakase.core.members.leg import LegResponse
from omakase.core.members.span import SpanModel
from omakase.core.members.span_loads import (
    Distribution,
    Drop,
    LineLoad,
    Moment,
    PointLoad,
    SpanCase,
    SpanLoad,
)
from omakase.core.members.span_mesh import Kinematics, Term
from omakase.core.members.strip import Strip
from omakase.core.plates.loads import STANDARD_GRAVITY
from omakase.evaluate.members import span_sizing, spans
from omakase.evaluate.members.sentence import Part, Sentence, Words
from omakase.evaluate.members.strip import StripKind
from omakase.evaluate.sizing.lever import Lever, Option
from omakase.evaluate.sizing.parameter import Parameter
from omakase.project import span_translate
from omakase.project.commands import replace
from omakase.project.model import Brief, Candidate, LayerRecord, new_id
from omakase.project.spans import LegForm, LegMember, Zone
from omakase.units import UnitSystem, format_value

ALONG = 20.0  # degrees from the leg's axis up to which a ply carries its bending
LEAST_KEPT = (0.25, 0.4, 0.55, 0.7, 0.85)  # shares of the plies along that run all along
MOST_STEPS = 5  # in which plies end, each step a zone
WORKED = 0.6  # share of the largest need from which extra plies lie
ROUNDED = 0.005  # m, to which the ends of plies are rounded outward
FALL = 5.0  # times its weight that a falling mass is taken to press with where only the place of its moment is asked
MARGIN = 0.02  # of the length, by which a ply runs on beyond where it is needed
EVEN = Kinematics(
    (("w", True),), ((Term("w", 2, -1.0),),), (Term("w", 0),), (("w", 0), ("w", 1)), (("w", 0),), (), Term("w", 1, -1.0)
)


class LegKind(StripKind):
    """A leg or leaf: solid, tapering, bent both ways and twisted."""

    name, title = "leg", "leg or leaf spring"
    member, form = LegMember, LegForm
    loads = (*spans.SPAN_LOADS, spans.SIDE, spans.TORQUE)
    limits = ("deflection", "rotation", "twist", "frequency_minimum", "frequency_band", "mass", "thickness")
    opening, noun = "A leg or leaf", "leg"
    answer = LegResponse

    def made(self, brief: Brief, candidate: Candidate) -> Strip:
        return span_translate.leg(brief, candidate)

    # --- sentences ------------------------------------------------------------------------------------------

    def form_sentence(self, brief: Brief, candidate: Candidate, _materials: Mapping[str, Material]) -> Sentence:
        form = candidate.form
        if not isinstance(form, LegForm):
            return ()
        length = spans.long_member(brief).length
        parts: list[Part] = [Words("Width"), *spans.stations_sentence(("form", "width"), form.width, "Width", length)]
        return (*parts, Words("."), *spans.zones_sentence(candidate, length))

    # --- sizing ---------------------------------------------------------------------------------------------

    def parameters(self, brief: Brief, candidate: Candidate, _materials: Mapping[str, Material]) -> Iterator[Parameter]:
        yield span_sizing.length_parameter("leg", brief)
        if isinstance(candidate.form, LegForm):
            yield from span_sizing.scaled_sizes("width", "width of the leg", candidate.form.width)

    def levers(self, brief: Brief, candidate: Candidate, units: UnitSystem, passes: bool) -> Iterator[Lever]:
        """Wider or narrower; plies that end where they are not needed, or extra ones where it works hardest."""
        form = candidate.form
        if not isinstance(form, LegForm) or not form.width:
            return
        yield span_sizing.size_lever(candidate, "width", "width", "leg", 0.05, units, passes)
        yield from span_sizing.zone_levers(brief, candidate, units, passes)
        try:
            x, need = needed(brief, candidate)
        except OmakaseError:
            return
        if passes:
            levels = [levelled(brief, candidate, x, need, least) for least in LEAST_KEPT]
            options = tuple(option for option in levels if option is not None)
            if options:
                yield Lever("level", "plies that end where they are not needed", options, "lightest")
        else:
            extra = tuple(strengthened(brief, candidate, x, need, units))
            if extra:
                yield Lever("extra plies", "extra plies where it works hardest", extra, "steps")


def needed(brief: Brief, candidate: Candidate) -> tuple[np.ndarray, np.ndarray]:
    """(places in m, the thickness needed there over the largest): of the bending moments of all load cases of an even
    leg, exact where statics alone gives them.  Thickness goes with the root of moment per width.  Raises OmakaseError.
    """
    member = span_translate.leg(brief, candidate)
    cases = [_bending_only(span_translate.span_case(case)) for case in brief.load_cases]
    model = SpanModel(member.span, EVEN, lambda x: np.ones((len(x), 1, 1)), lambda x: np.full((len(x), 1), 1e-6), cases)
    moment = np.max([np.abs(result.diagrams.moment) for result in model.results()], axis=0, initial=0.0)
    per_width = moment / member.width(model.x)
    return model.x, np.sqrt(per_width / max(float(per_width.max()), 1e-12))


def _bending_only(case: SpanCase) -> SpanCase:
    """A case without what an even leg does not say: a falling mass presses as a guessed multiple of its weight."""
    loads: list[SpanLoad] = []
    for load in case.loads:
        if isinstance(load, Drop):
            force = FALL * load.mass * STANDARD_GRAVITY
            loads.append(PointLoad(force, load.x, load.along, load.across))
        elif isinstance(load, PointLoad | LineLoad | Distribution | Moment):
            loads.append(load)
    return SpanCase(case.name, tuple(loads), 0.0, case.id)


def _along(candidate: Candidate) -> list[int]:
    """Rows of the plies along the leg that run all over it and may end, the middle of the stack first."""
    layers, middle = candidate.layers, (len(candidate.layers) - 1) / 2.0
    rows = [i for i, layer in enumerate(layers) if _may_end(layer)]
    return sorted(rows, key=lambda row: abs(row - middle))


def _may_end(layer: LayerRecord) -> bool:
    turned = abs((layer.angle + 90.0) % 180.0 - 90.0)
    return layer.structural and layer.role == "ply" and not layer.zone and turned <= ALONG and not layer.shared


def _stretch(x: np.ndarray, margin: float, length: float) -> tuple[float, float] | None:
    """(low, high) in m of a zone over some places and a margin, its ends rounded outward; None if it runs all along."""
    low = max(math.floor((x.min() - margin) / ROUNDED) * ROUNDED, 0.0)
    high = min(math.ceil((x.max() + margin) / ROUNDED) * ROUNDED, length)
    if low <= ROUNDED / 2.0 and high >= length - ROUNDED / 2.0:
        return None
    return round(low, 4), round(high, 4)


def levelled(brief: Brief, candidate: Candidate, x: np.ndarray, need: np.ndarray, least: float) -> Option | None:
    """The candidate whose plies along end where thinner would do, in whole plies and a few steps; None without any.

    ``least`` : share of them that runs all along whatever the bending needs, for drag and twist.  The middle ones end
    first: what ends lies under plies that run on (common practice, no source).
    """
    rows, length = _along(candidate), spans.long_member(brief).length
    count, whole = len(rows), len([layer for layer in candidate.layers if layer.structural])
    if count < 3:
        return None
    # of all structural plies those along make up a share; the rest stays
    kept = max(1, math.ceil(least * count))
    wanted = np.clip(np.ceil(need * whole - (whole - count) - 1e-9), kept, count)
    steps = np.unique(np.ceil(np.linspace(kept, count, MOST_STEPS + 1)))
    zones, layers = list(candidate.zones), list(candidate.layers)
    for low_count, high_count in itertools.pairwise(steps):
        over = x[wanted > low_count]
        if not len(over):
            return None
        ends = _stretch(over, MARGIN * length, length)
        if ends is None:
            continue
        name = new_id("z", {zone.id for zone in zones})
        zones.append(Zone(name, f"over {int(low_count)} plies", *ends))
        # the outermost stay: rows run from the middle outward
        for row in rows[count - int(high_count) : count - int(low_count)]:
            layers[row] = replace(layers[row], zone=name)
    if len(zones) == len(candidate.zones):
        return None
    fewest, most = int(wanted.min()), int(wanted.max())
    text = f"plies along it end where they are not needed: {most} where it works hardest, {fewest} where least"
    return Option(text, replace(candidate, zones=tuple(zones), layers=tuple(layers)))


def strengthened(
    brief: Brief, candidate: Candidate, x: np.ndarray, need: np.ndarray, units: UnitSystem
) -> Iterator[Option]:
    """One to six pairs of plies more over the stretch that works hardest, beside the middle ones."""
    rows, length = _along(candidate), spans.long_member(brief).length
    if not rows:
        return
    ends = _stretch(x[need > WORKED], 0.0, length)
    if ends is None:
        return
    zone = Zone(new_id("z", {own.id for own in candidate.zones}), "extra plies", *ends)
    low, high = (format_value(end, "length", units, with_unit=True) for end in ends)
    at, ply = rows[0], replace(candidate.layers[rows[0]], zone=zone.id)
    for pairs in range(1, 7):
        layers = (*candidate.layers[:at], *(ply,) * (2 * pairs), *candidate.layers[at:])
        text = f"{2 * pairs} plies more from {low} to {high}"
        yield Option(text, replace(candidate, zones=(*candidate.zones, zone), layers=layers))


KIND = LegKind()
