"""Planning a series: which test answers what is open about a candidate, how large, how many, and what to prepare."""

from __future__ import annotations

import itertools
from collections.abc import Mapping

import msgspec
import numpy as np

from omakase.core.checks.registry import all_checks
from omakase.core.checks.result import CheckResult
from omakase.core.errors import OmakaseError, SpecimenError
from omakase.core.laminate.stack import Layer, Stack
from omakase.core.materials.material import Material
from omakase.core.materials.properties import PROPERTIES
from omakase.core.materials.provenance import RANKING, Source, least_trusted
from omakase.core.members.field import Response
from omakase.core.members.span import SpanAnswers
from omakase.core.members.span_loads import Distribution, LineLoad, PointLoad, SpanLoad
from omakase.core.specimens import beams
from omakase.core.specimens.expected import Strip
from omakase.core.specimens.method import Method, Prediction
from omakase.core.specimens.methods.sandwich_beam import CRUSHED
from omakase.core.specimens.registry import all_methods
from omakase.evaluate.members.loading import total_force
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.testing.reducing import rig_of
from omakase.project import translate
from omakase.project.commands import replace
from omakase.project.model import Brief, Candidate, Frozen, LayerRecord, LoadCase, ProofStation, Series
from omakase.project.step_log import mass_for
from omakase.units.parse import WATER_DENSITY

USUAL_COUNT = 5
OVERHANG, KERF = 0.025, 0.003  # m beyond each support or into each grip; what a saw takes
SAFE_ORDER = 1.3  # the wanted failure comes first by so much
SPANS = np.concatenate([np.arange(0.04, 0.4, 0.01), np.arange(0.4, 2.01, 0.05)])
SANDWICH_METHOD = {
    "core_shear": "core_shear_beam", "face_failure": "long_beam", "wrinkling": "edgewise", "crimping": "edgewise",
    "core_crushing": "flatwise_compression", "indentation": "flatwise_compression", "deflection": "two_spans",
    "frequency": "two_spans", "interlaminar_shear": "short_beam", "dimpling": "edgewise",
}  # fmt: skip
SOLID_METHOD = {
    "face_failure": "flexure_4", "interlaminar_shear": "short_beam", "deflection": "flexure_3",
    "frequency": "flexure_3", "bend": "curved_beam",
}  # fmt: skip
PROOF_STATIONS = 6  # stretches of a span that are loaded and measured one by one
SAFETY = (
    "A loaded rig lets go all at once: keep hands, feet and face out of the way of weights, levers and splinters; "
    "stand to the side. Glasses and gloves; carbon splinters go deep. Dust from cutting and breaking: mask and "
    "suction. Catch falling weights a hand's breadth below, on something soft. For parts that people trust their "
    "lives to, the rules of the field and a licensed engineer decide what a test is worth."
)


class Question(msgspec.Struct, frozen=True):
    """What is open about a candidate and the method that answers it."""

    method: str
    check: CheckResult
    why: str


class Preparation(msgspec.Struct, frozen=True):
    """What to cut and hang for a series.  SI."""

    blank: tuple[float, float]
    sheet: tuple[float, float]
    force: float
    deflection: float | None
    manner: str
    mass: float
    litres: float
    warnings: tuple[str, ...]


def questions(result: CandidateResult) -> list[Question]:
    """Strength and stiffness checks of a candidate that are not backed by a test, the most urgent first.

    Urgent is a small reserve on a weak source: sorted by reserve over required, after the reserve of a less trusted
    value is reduced by the scatter usual for its source.
    """
    if not result.ok or result.stack is None:
        return []
    sandwich = result.stack.core is not None
    table = SANDWICH_METHOD if sandwich else SOLID_METHOD
    ranked: dict[str, tuple[float, Question]] = {}
    governing = result.governing
    for check in result.checks:
        method = table.get(check.check)
        if method is None or not np.isfinite(check.reserve_factor):
            continue
        source = strength_source(result.stack, check)
        if source == "tested":
            continue
        urgency = check.reserve_factor / check.required * (1.0 - 0.15 * RANKING.index(source))
        governs = check is governing
        why = f"{check.full_title} {'governs with' if governs else 'has'} RF {check.reserve_factor:.2f}"
        why += f" and rests on {'a datasheet' if source == 'datasheet' else f'what is {source}'}"
        if method not in ranked or urgency < ranked[method][0]:
            ranked[method] = urgency, Question(method, check, why)
    return [question for _, question in sorted(ranked.values(), key=lambda entry: entry[0])]


def strength_source(stack: Stack, check: CheckResult) -> Source:
    """Where the strength that a check rests on comes from, rather than everything that fed it."""
    strengths = all_checks()[check.check].strengths if check.check in all_checks() else ()
    if check.place.layer is None or not strengths:
        return check.source
    return stack.layers[check.place.layer].material.source(strengths)


def turned_stack(stack: Stack) -> Stack:
    """The stack as a specimen cut along the panel's width sees it."""
    layers = (Layer(layer.material, layer.angle - 90.0, layer.thickness, layer.role, layer.structural, layer.turned)
              for layer in stack.layers)  # fmt: skip
    return Stack(tuple(layers))


def stack_of(layers: tuple[LayerRecord, ...], turned: bool, materials: Mapping[str, Material]) -> Stack:
    """The stack of a series' specimens along their length.  Raises LayupError."""
    stack = translate.stack(Candidate("", "", layers), materials)
    return turned_stack(stack) if turned else stack


def sizes_for(method: Method, stack: Stack) -> dict[str, float]:
    """Sizes to begin with: those of the stack, and a span at which the wanted failure comes first."""
    sizes = {size.key: size.usual for size in method.sizes}
    core = 0.0
    if stack.core is not None:
        core = sum(layer.thickness for layer in stack.layers[stack.core])
    known = {"thickness": stack.thickness, "core_thickness": core, "face_thickness": (stack.thickness - core) / 2.0}
    sizes |= {key: value for key, value in known.items() if key in sizes and value > 0.0}
    if method.shape == "short bar":
        sizes |= {"width": 2.0 * stack.thickness, "span": 4.0 * stack.thickness}
    elif method.shape == "bar":
        sizes["span"] = _rounded(32.0 * stack.thickness)
    elif method.shape == "two spans":
        sizes |= {"span": _rounded(12.0 * stack.thickness), "other_span": _rounded(40.0 * stack.thickness)}
    elif method.shape == "sandwich beam":
        sizes["width"] = max(0.05, _rounded(2.0 * stack.thickness))
        sizes["span"] = best_span(method, stack, sizes)
        if method.wanted != "core shear":
            sizes["load_span"] = _rounded(0.2 * sizes["span"])
        sizes["pad"] = pad_for(method, stack, sizes)
    return sizes


def _rounded(length: float) -> float:
    """To whole 5 mm, at least 5 mm."""
    return float(max(round(length / 0.005), 1) * 0.005)


def best_span(method: Method, stack: Stack, sizes: Mapping[str, float]) -> float:
    """The span at which the wanted failure comes first by a third: the longest such span for core shear, since short
    ones crush under the rollers, the shortest for faces; if there is none, the span with the largest margin."""
    assert method.predict is not None
    orders = []
    for span in SPANS:
        if span < 4.0 * stack.thickness:
            continue
        with_span = {**sizes, "span": float(span)}
        if method.wanted != "core shear":
            with_span["load_span"] = 0.2 * float(span)
        orders.append((float(span), _order(method, method.predict(stack, with_span))))
    if not orders:
        return sizes["span"]
    good = [span for span, order in orders if order >= SAFE_ORDER]
    if not good:
        return max(orders, key=lambda order: order[1])[0]
    return (
        max(span for span in good if span <= 0.6 or span == min(good)) if method.wanted == "core shear" else min(good)
    )


def _order(method: Method, prediction: Prediction) -> float:
    """By what factor the wanted failure comes before the others; for faces, any face failure before core shear.

    Crushing under the pads does not count: the pads are made wide enough once the span is known.
    """
    sheared = prediction.forces["core shear"]
    faces = min(force for manner, force in prediction.forces.items() if manner not in ("core shear", CRUSHED))
    return faces / sheared if method.wanted == "core shear" else sheared / faces


def pad_for(method: Method, stack: Stack, sizes: Mapping[str, float]) -> float:
    """Width in m of the loading pads under which the core is not crushed first, by a third; at least 25 mm."""
    assert method.predict is not None
    forces = method.predict(stack, sizes).forces
    others = min(force for manner, force in forces.items() if manner != CRUSHED)
    return _rounded(sizes["pad"] * max(1.0, SAFE_ORDER * others / forces.get(CRUSHED, np.inf)) + 0.0024)


def suits(method: Method, stack: Stack | None) -> bool:
    """Whether a test can be made of a layup: sandwich methods of a sandwich, bars of a solid laminate.

    A sandwich may be pulled, pressed edgewise and bent as such; the methods of solid bars read it wrong.
    """
    if stack is None:
        return True
    keys = {size.key for size in method.sizes}
    if keys & {"core_thickness", "face_thickness"}:
        return stack.core is not None
    return stack.core is None or not method.solid_only


def plan(
    brief: Brief, candidate: Candidate, method_name: str, materials: Mapping[str, Material], on: str,
    turned: bool = False, count: int = USUAL_COUNT,
) -> Series:  # fmt: skip
    """A series for a candidate, its prediction frozen.  Raises OmakaseError where the layup is not a laminate."""
    method = all_methods()[method_name]
    stack = stack_of(candidate.layers, turned, materials)
    of_sandwich = {"core_thickness", "face_thickness"} & {size.key for size in method.sizes}
    if of_sandwich and stack.core is None:
        raise SpecimenError("this test needs a sandwich, faces on one core, and this layup has none")
    name = f"{method.title}, {candidate.name}"
    series = Series(
        "", name, method_name, candidate.layers, turned, brief.id, candidate.id, material_of(method, stack),
        sizes=sizes_for(method, stack), planned=count, shear_modulus=shear_of(method, stack),
    )  # fmt: skip
    return replace(series, prediction=freeze(series, materials, on))


def shear_of(method: Method, stack: Stack) -> float:
    """Shear modulus through the thickness, Pa, whose share is taken off a bar's deflection; 0 for other tests."""
    if method.shape != "bar" or stack.core is not None:
        return 0.0
    return float(Strip(stack).shear / (beams.KAPPA * stack.thickness))


def plan_proof(series: Series, brief: Brief, result: CandidateResult | None, on: str) -> Series:
    """The proof load of a whole part: the load case that governs its strength, applied in steps.

    ``values`` of the prediction: "ultimate" is the load in N that the part must carry, limit times factors; the forces
    are those at which it should fail.  Raises OmakaseError where no load case can be put on by hand.
    """
    if result is None or not result.ok or result.response is None:
        raise OmakaseError("this candidate cannot be computed, so the load that its part must carry is not known")
    cases = {case.id: case for case in brief.load_cases}
    checks = [
        check for check in result.checks
        if check.kind == "strength" and check.case_id in cases and total_force(brief, cases[check.case_id]) > 0.0
    ]  # fmt: skip
    if not checks:
        raise OmakaseError("no load case of this brief is a pressure or a force that could be put on by hand")
    worst = min(checks, key=lambda check: check.reserve_factor)
    force = total_force(brief, cases[worst.case_id])
    factor = translate.settings(brief).ultimate_factor
    sag = next(measure.value for measure in result.response.measures["deflection"] if measure.case == worst.case_id)
    case_checks = [check for check in checks if check.case_id == worst.case_id]
    forces = {check.full_title.lower(): force * factor * check.reserve_factor for check in case_checks}
    stiffness = force / sag if sag > 0.0 else 0.0
    frozen = _frozen(on, forces, {"ultimate": force * factor, "stiffness": stiffness}, stiffness, worst.source)
    line, twist = _deflection_line(brief, cases[worst.case_id], result.response)
    frozen = replace(frozen, line=line, twist=twist)
    name = f"Proof load, {result.candidate.name}, {worst.load_case}"
    sizes = {"predicted_stiffness": float(stiffness)}
    return replace(series, name=name, material="", sizes=sizes, planned=1, prediction=frozen)


def _deflection_line(brief: Brief, case: LoadCase, response: Response) -> tuple[tuple[ProofStation, ...], float | None]:
    """What to put on each stretch of a part with a span, how far it goes down there, and its twist at the far end."""
    if not isinstance(response, SpanAnswers):
        return (), None
    result = next(other for other in response.results if other.case.key == case.id)
    length, x = float(getattr(brief.member, "length", 0.0)), response.x
    edges = np.linspace(0.0, length, PROOF_STATIONS + 1)
    stations = []
    for low, high in itertools.pairwise(edges):
        middle = float(low + high) / 2.0
        force = sum(_force_between(load, float(low), float(high), length) for load in result.case.loads)
        stations.append(
            ProofStation(middle, abs(force), float(np.interp(middle, x, np.abs(result.displacements["w"]))))
        )
    stations.append(ProofStation(length, 0.0, float(np.abs(result.displacements["w"][-1]))))
    twist = result.displacements.get("theta")
    return tuple(stations), None if twist is None else float(np.degrees(twist[-1]))


def _force_between(load: SpanLoad, low: float, high: float, length: float) -> float:
    """N of a load between two places along, positive down."""
    if isinstance(load, Distribution):
        return sum(_force_between(piece, low, high, length) for piece in load.pieces)
    if isinstance(load, LineLoad):
        a, b = max(low, load.low), min(high, load.high)
        if b <= a:
            return 0.0
        slope = (load.end - load.start) / (load.high - load.low)
        return (load.start + slope * ((a + b) / 2.0 - load.low)) * (b - a)
    if isinstance(load, PointLoad):
        inside = low <= load.x < high or (high == length and load.x >= high)
        return load.force if inside else 0.0
    return 0.0


def material_of(method: Method, stack: Stack) -> str:
    """The material a method speaks of: the core, or the ply that most of the thickness is; a person says which bond."""
    if method.becomes and not method.layer:
        return ""
    if method.layer == "core":
        return stack.layers[stack.core.start].material.id if stack.core is not None else ""
    share: dict[str, float] = {}
    for layer in stack.layers:
        if layer.role == "ply" and layer.structural:
            share[layer.material.id] = share.get(layer.material.id, 0.0) + layer.thickness
    return max(share, key=share.__getitem__) if share else ""


def freeze(series: Series, materials: Mapping[str, Material], on: str) -> Frozen | None:
    """What the series should show by everything known now; None where nothing can be predicted."""
    method, prediction = all_methods()[series.method], predicted(series, materials)
    if prediction is None:
        return None
    keys = [key for _, names in method.becomes for key in names]
    of_series = [materials[series.material]] if series.material in materials else []
    rests = [
        f"{PROPERTIES[key].symbol} of {material.id} ({material.properties[key].source})"
        for material in of_series for key in keys
        if key in material.properties and material.properties[key].source != "tested"
    ]  # fmt: skip
    source = least_trusted(material.source(keys) for material in of_series)
    return _frozen(on, prediction.forces, prediction.values, prediction.stiffness, source, tuple(rests))


def _frozen(
    on: str, forces: Mapping[str, float], values: Mapping[str, float], stiffness: float, source: Source,
    rests_on: tuple[str, ...] = (),
) -> Frozen:  # fmt: skip
    """The record, in plain numbers that a file can hold; a failure that cannot come is left out."""
    finite = {manner: float(force) for manner, force in forces.items() if np.isfinite(force)}
    plain = {key: float(value) for key, value in values.items() if np.isfinite(value)}
    return Frozen(on, finite, plain, float(stiffness), source, rests_on)


def predicted(series: Series, materials: Mapping[str, Material]) -> Prediction | None:
    """What the series would show by what is known now, for a simulation and for warnings; None if nothing can be."""
    return _predicted(series, materials)[0]


def _predicted(series: Series, materials: Mapping[str, Material]) -> tuple[Prediction | None, str]:
    """(prediction, why there is none); no reason where a method predicts nothing or no layers are known."""
    method = all_methods().get(series.method)
    if method is None or method.predict is None or not series.layers:
        return None, ""
    try:
        return method.predict(stack_of(series.layers, series.turned, materials), series.sizes), ""
    except OmakaseError as error:
        return None, str(error)


def prepare(series: Series, materials: Mapping[str, Material]) -> Preparation:
    """What to cut, what to hang, and what to be warned of."""
    method, sizes = all_methods()[series.method], series.sizes
    length = max(sizes.get(key, 0.0) for key in ("span", "other_span", "gauge_length", "length", "height", "overlap"))
    ends = 0.0 if method.shape == "block" else 2.0 * OVERHANG
    width = sizes.get("width", 0.0)
    blank = (length + ends + KERF, width + KERF)
    prediction, problem = _predicted(series, materials)
    warnings = list(prediction.remarks) if prediction is not None else []
    if problem:
        warnings.append(f"nothing is predicted: {problem}")
    warnings += method.size_remarks(sizes)
    force, manner, deflection = 0.0, "", None
    if prediction is not None:
        force, manner = prediction.force, prediction.mode
        deflection = force / prediction.stiffness if prediction.stiffness > 0.0 else None
        if method.shape == "sandwich beam":
            order = _order(method, prediction)
            if 1.0 <= order < SAFE_ORDER:
                warnings.append(
                    f"the wanted failure comes first by only {order - 1.0:.0%}: scatter may reverse the order"
                )
        if 0.0 < series.capacity < 1.3 * force:
            warnings.append(
                f"the rig carries {series.capacity:.0f} N and {force:.0f} N are expected, more with scatter: "
                "it may run out of load before the specimen does"
            )
    mass = mass_for(force, rig_of(series))
    return Preparation(
        blank,
        (blank[0], blank[1] * series.planned),
        force,
        deflection,
        manner,
        mass,
        mass / WATER_DENSITY * 1e3,
        tuple(warnings),
    )
