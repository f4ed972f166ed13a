"""Studies: one or two numbers of a candidate or its brief over a range, and how a result changes.

A curve is shown as soon as the evaluator's quick answers are there, then every point is judged again with the full
evaluator, and where the curve crosses its limit the place is searched with it.  A map has too many points for that: it
keeps the quick answers; nine of its points are judged in full, and the largest difference is stated with it.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping

import msgspec
import numpy as np

from omakase.core.errors import OmakaseError
from omakase.core.materials.areal import ply_thickness
from omakase.core.materials.grades import family_stem, grade_between, grades_of
from omakase.core.materials.material import Material
from omakase.core.quantities import QUANTITIES
from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.results.engine import Evaluator
from omakase.evaluate.results.outcome import Outcome, outcome
from omakase.evaluate.results.wording import layer_words
from omakase.evaluate.sizing.parameter import Parameter, State
from omakase.evaluate.sizing.trials import Trials
from omakase.evaluate.sizing.workers import Workers
from omakase.project import edits
from omakase.project.commands import EditBrief, EditCandidate, replace
from omakase.project.model import Brief, Candidate
from omakase.project.spans import PanelForm

POINTS = 25
MAP_POINTS = 13
REFINEMENTS = 6
PER_TASK = 6  # points that a worker judges at a time


class Measure(msgspec.Struct, frozen=True):
    """A result that is studied, with the brief's limit on it, and on which side of it is good."""

    key: str
    title: str
    dimension: str
    limit: float | None
    most: bool

    def of(self, outcome: Outcome) -> float:
        """Its value; nan where there is none."""
        if outcome.error:
            return math.nan
        return outcome.others[self.key] if self.key in outcome.others else float(getattr(outcome, self.key, math.nan))


class Crossing(msgspec.Struct, frozen=True):
    """Where a curve crosses the limit, found with the full evaluator; ``above``: the good side is above."""

    value: float
    above: bool


class Curve(msgspec.Struct, frozen=True, eq=False):
    """``x`` (n,) values of the parameter, ``outcomes`` there, ``y`` the measure, ``crossings`` of its limit.

    ``verified`` : how many of the points the full evaluator has judged; all of them once it is done.
    """

    parameter: Parameter
    measure: Measure
    x: np.ndarray
    y: np.ndarray
    outcomes: tuple[Outcome, ...]
    crossings: tuple[Crossing, ...] = ()
    verified: int = 0


class Map(msgspec.Struct, frozen=True, eq=False):
    """A measure over two parameters, (x, y) table of values, and the share of the limits there.

    ``checked`` : how many points were judged in full; ``error`` : largest relative difference of a quick value there.
    """

    first: Parameter
    second: Parameter
    measure: Measure
    x: np.ndarray
    y: np.ndarray
    values: np.ndarray
    shares: np.ndarray
    checked: int = 0
    error: float = math.nan


def measures(brief: Brief) -> tuple[Measure, ...]:
    """What may be studied under a brief."""
    limits, kind = brief.limits, kind_of(brief)
    offered = [
        Measure(q.key, q.title, q.dimension, getattr(limits, q.limit), q.way == "at_most")
        for q in QUANTITIES
        if q.limit in kind.limits and q.way != "outside" and (q.always or getattr(limits, q.limit) is not None)
    ]
    reserve = Measure("reserve", "Least reserve factor", "ratio", limits.reserve_factor, False)
    at = next((i for i, measure in enumerate(offered) if measure.key == "mass"), len(offered))
    if any(isinstance(own.form, PanelForm) and own.form.ribs for own in brief.candidates):
        offered += [
            Measure("skin_mass", "Mass without ribs", "mass", None, True),
            Measure("rib_mass", "Mass of the ribs", "mass", None, True),
        ]
    if "span_mass" in kind.limits:
        required = limits.reserve_factor
        offered += [
            Measure("bay_buckling", "Reserve of the skin's buckling", "ratio", required, False),
            Measure("crushing", "Reserve against crushing by the skins", "ratio", required, False),
        ]
    return (Measure("share", "Least reserve over limit", "ratio", 1.0, False), *offered[:at], reserve, *offered[at:])


def parameters(brief: Brief, candidate: Candidate, materials: Mapping[str, Material]) -> tuple[Parameter, ...]:
    """The numbers of a candidate and its brief that may be studied."""
    offered = []
    # of walls that are alike one stands for all, and they change together
    first = [i for i in range(len(candidate.layers)) if edits.same_rows(candidate, i)[0] == i]
    for i in first:
        layer, words = candidate.layers[i], layer_words(candidate, i)
        if layer.role == "core" and layer.thickness:
            now = layer.thickness
            offered.append(
                Parameter(f"core{i}", f"core thickness, {words}", "length", now, 0.3 * now, 2.5 * now, _core(i))
            )
            density = _density_parameter(i, layer.material, materials, words)
            if density is not None:
                offered.append(density)
    plies = [i for i, la in enumerate(candidate.layers) if la.role == "ply" and la.material in materials]
    cloths = [i for i in plies if materials[candidate.layers[i].material].kind == "ply"]
    if cloths:
        total = sum(_thickness(candidate, i, materials) for i in cloths)
        offered.append(
            Parameter(
                "faces",
                "thickness of all plies",
                "length",
                total,
                0.4 * total,
                2.5 * total,
                _plies(tuple(cloths), total),
            )
        )
    for i in (row for row in plies if row in first):
        layer, words = candidate.layers[i], layer_words(candidate, i)
        offered.append(
            Parameter(f"angle{i}", f"angle of {words} ({layer.material})", "angle", layer.angle, -90.0, 90.0, _angle(i))
        )
        if layer.thickness is not None:
            now = layer.thickness
            offered.append(
                Parameter(f"sheet{i}", f"thickness of {words}", "length", now, 0.3 * now, 2.5 * now, _core(i))
            )
    offered += kind_of(brief).parameters(brief, candidate, materials)
    offered.append(Parameter("loads", "all loads, times", "ratio", 1.0, 0.25, 3.0, _loads, True))
    return tuple(offered)


def _thickness(candidate: Candidate, index: int, materials: Mapping[str, Material]) -> float:
    layer = candidate.layers[index]
    return layer.thickness if layer.thickness is not None else ply_thickness(materials[layer.material])


def _core(index: int) -> Callable[[State, float], State]:
    def put(state: State, value: float) -> State:
        brief, candidate, materials = state
        for row in edits.same_rows(candidate, index):
            candidate = edits.set_layer(candidate, row, replace(candidate.layers[row], thickness=round(value, 9)))
        return brief, candidate, materials

    return put


def _plies(indices: tuple[int, ...], total: float) -> Callable[[State, float], State]:
    def put(state: State, value: float) -> State:
        brief, candidate, materials = state
        layers = list(candidate.layers)
        for i in indices:
            layers[i] = replace(layers[i], thickness=round(_thickness(candidate, i, materials) * value / total, 9))
        return brief, replace(candidate, layers=tuple(layers)), materials

    return put


def _angle(index: int) -> Callable[[State, float], State]:
    def put(state: State, value: float) -> State:
        brief, candidate, materials = state
        for row in edits.same_rows(candidate, index):
            candidate = edits.set_layer(candidate, row, replace(candidate.layers[row], angle=round(value, 3)))
        return brief, candidate, materials

    return put


def _loads(state: State, value: float) -> State:
    brief, candidate, materials = state
    cases = tuple(edits.scaled_case(case, value) for case in brief.load_cases)
    return replace(brief, load_cases=cases), candidate, materials


def _density_parameter(index: int, name: str, materials: Mapping[str, Material], words: str) -> Parameter | None:
    """Density between the grades of the same kind (the same letters before the number), properties along with it."""
    grades = grades_of(name, materials)
    if not grades:
        return None
    stem = family_stem(name)
    low, high = grades[0].value("density"), grades[-1].value("density")

    def put(state: State, value: float) -> State:
        brief, candidate, known = state
        return brief, candidate, {**known, name: grade_between(known[name], grades, value)}

    title = f"density of {stem} foam, {words}" if materials[name].family == "foam" else f"density of {stem}"
    return Parameter(
        f"density{index}", title, "density", materials[name].value("density"), low, high, put, False, False
    )


class Study(Trials):
    """Curves and maps of one candidate."""

    def curve(
        self, parameter: Parameter, measure: Measure, count: int = POINTS, workers: Workers | None = None
    ) -> Iterator[Curve]:
        """The curve as it grows, the last time with its crossings; fewer times when cancelled.

        Of members without prepared shapes ``workers`` that run already judge the points in full.
        """
        self._evaluator.prepare(*self._state)
        x = _places(parameter, count)
        outcomes: dict[int, Outcome] = {}
        kind = kind_of(self._state[0])
        at_once = not kind.quicker  # the quick answer is the full one
        hands = workers if workers is not None and workers.started and not kind.reduced else None
        if at_once and hands is not None:
            for judged in self._by_workers(parameter, x, hands):
                outcomes |= judged
                yield self._curve(parameter, measure, x, outcomes, len(outcomes))
            if len(outcomes) < len(x):
                return  # cancelled
        for k in (place for place in _coarse_first(len(x)) if place not in outcomes):
            if self._cancelled():
                return
            outcomes[k] = self.judge(parameter.put(self._state, float(x[k])), at_once)
            if len(outcomes) % 6 == 0:
                yield self._curve(parameter, measure, x, outcomes, len(outcomes) if at_once else 0)
        yield self._curve(parameter, measure, x, outcomes)
        left = [] if at_once else _coarse_first(len(x))
        if left and hands is not None:
            for judged in self._by_workers(parameter, x, hands):
                outcomes |= judged
                left = [k for k in left if k not in judged]
                yield self._curve(parameter, measure, x, outcomes, len(x) - len(left))
            if left:
                return  # cancelled
        for done, k in enumerate(left, 1):
            if self._cancelled():
                return
            outcomes[k] = self.judge(parameter.put(self._state, float(x[k])), full=True)
            if done % 4 == 0:
                yield self._curve(parameter, measure, x, outcomes, done)
        whole = self._curve(parameter, measure, x, outcomes, len(x))
        yield whole
        crossings = tuple(self._crossings(whole))
        if not self._cancelled():
            yield msgspec.structs.replace(whole, crossings=crossings)

    def _by_workers(self, parameter: Parameter, x: np.ndarray, workers: Workers) -> Iterator[dict[int, Outcome]]:
        """Outcomes by point, some points at a time."""
        order, known = _coarse_first(len(x)), self._state[2]
        states = {k: parameter.put(self._state, float(x[k])) for k in order}
        tasks = [
            [(k, *states[k][:2], None if states[k][2] is known else states[k][2]) for k in order[i : i + PER_TASK]]
            for i in range(0, len(order), PER_TASK)
        ]
        for _, judged in workers.run(_judge_points, known, tasks, self._cancelled):
            yield judged

    @staticmethod
    def _curve(
        parameter: Parameter, measure: Measure, x: np.ndarray, outcomes: dict[int, Outcome], verified: int = 0
    ) -> Curve:
        places = sorted(outcomes)
        return Curve(
            parameter, measure, x[places], np.array([measure.of(outcomes[k]) for k in places]),
            tuple(outcomes[k] for k in places), (), verified,
        )  # fmt: skip

    def _crossings(self, curve: Curve) -> Iterator[Crossing]:
        """Each place where the measure crosses its limit, between two points of the curve, by the full evaluator."""
        measure = curve.measure
        if measure.limit is None:
            return
        height = curve.y - measure.limit
        for k in range(len(height) - 1):
            one, two = height[k], height[k + 1]
            if not (math.isfinite(one) and math.isfinite(two)) or (one > 0.0) == (two > 0.0):
                continue
            a, b = float(curve.x[k]), float(curve.x[k + 1])
            fa, fb = (self._height(curve, x) for x in (a, b))
            if (fa > 0.0) == (fb > 0.0):  # the quick answer's crossing is just outside
                a, b = a - (b - a), b + (b - a)
                fa, fb = (self._height(curve, x) for x in (a, b))
            for _ in range(REFINEMENTS):
                if self._cancelled() or (fa > 0.0) == (fb > 0.0) or not math.isfinite(fa + fb):
                    break
                x = min(max(a - fa * (b - a) / (fb - fa), a + 0.05 * (b - a)), b - 0.05 * (b - a))
                fx = self._height(curve, x)
                if (fx > 0.0) == (fa > 0.0):
                    a, fa = x, fx
                else:
                    b, fb = x, fx
            if (fa > 0.0) != (fb > 0.0):
                yield Crossing(a - fa * (b - a) / (fb - fa), bool(two > 0.0) != measure.most)

    def _height(self, curve: Curve, x: float) -> float:
        assert curve.measure.limit is not None
        judged = self.judge(curve.parameter.put(self._state, x), full=True)
        return curve.measure.of(judged) - curve.measure.limit

    def map(self, first: Parameter, second: Parameter, measure: Measure, count: int = MAP_POINTS) -> Iterator[Map]:
        """The map as it grows row by row; fewer times when cancelled."""
        if first.key == second.key:
            raise OmakaseError("a map needs two different numbers")
        self._evaluator.prepare(*self._state)
        x, y = _places(first, count), _places(second, count)
        values, shares = np.full((len(x), len(y)), np.nan), np.full((len(x), len(y)), np.nan)
        for j in range(len(y)):
            for i in range(len(x)):
                if self._cancelled():
                    return
                judged = self.judge(first.put(second.put(self._state, float(y[j])), float(x[i])))
                values[i, j] = measure.of(judged)
                shares[i, j] = judged.share if not judged.error else math.nan
            yield Map(first, second, measure, x, y, values.copy(), shares.copy())
        worst, checked = 0.0, 0
        for j in _ends_and_middle(len(y)):
            for i in _ends_and_middle(len(x)):
                if self._cancelled():
                    return
                judged = self.judge(first.put(second.put(self._state, float(y[j])), float(x[i])), full=True)
                exact = measure.of(judged)
                if math.isfinite(exact) and exact != 0.0 and math.isfinite(values[i, j]):
                    worst, checked = max(worst, abs(float(values[i, j]) / exact - 1.0)), checked + 1
                values[i, j], shares[i, j] = exact, judged.share if not judged.error else math.nan
        yield Map(first, second, measure, x, y, values, shares, checked, worst if checked else math.nan)


def lightest(curve: Curve) -> tuple[float, float, str] | None:
    """(value of the parameter, mass there, its dimension) of the lightest point that meets the brief, or where its
    least reserve crosses its limit; None where no point does or the mass never changes."""
    values = np.array([judged.weight[0] for judged in curve.outcomes])
    if not len(values) or not np.isfinite(values).any() or np.nanmax(values) <= np.nanmin(values) * (1.0 + 1e-9):
        return None
    found = [
        (value, x)
        for x, value, judged in zip(curve.x.tolist(), values.tolist(), curve.outcomes, strict=True)
        if judged.passes
    ]
    if curve.measure.key == "share":
        found += [(float(np.interp(own.value, curve.x, values)), own.value) for own in curve.crossings]
    if not found:
        return None
    value, x = min(found)
    return x, value, next(judged.weight[1] for judged in curve.outcomes if not judged.error)


def table(curve: Curve, brief: Brief, rows: int = 6) -> list[list[tuple[float, str]]]:
    """Some points of a curve with all that may be studied there, (value, dimension) each; the parameter first."""
    offered = measures(brief)[1:]
    picked = np.unique(np.linspace(0, len(curve.x) - 1, rows).round().astype(int))
    return [
        [
            (float(curve.x[k]), curve.parameter.dimension),
            *((own.of(curve.outcomes[k]), own.dimension) for own in offered),
        ]
        for k in picked
    ]


def _places(parameter: Parameter, count: int) -> np.ndarray:
    """Even places over the range; where it stands now is one of them."""
    x = np.linspace(parameter.low, parameter.high, count)
    x[int(np.argmin(np.abs(x - parameter.now)))] = parameter.now
    return x


def _ends_and_middle(count: int) -> tuple[int, ...]:
    return tuple(dict.fromkeys((0, count // 2, count - 1)))


def _judge_points(evaluator: Evaluator, known: Mapping[str, Material], task: list) -> dict[int, Outcome]:
    return {
        k: outcome(brief, evaluator.evaluate(brief, candidate, changed or known), changed or known)
        for k, brief, candidate, changed in task
    }


def _coarse_first(count: int) -> list[int]:
    """All indices, every fourth first, so that a curve shows its course early."""
    return sorted(range(count), key=lambda k: (k % 4 != 0, k % 2 != 0, k))


def as_command(
    brief: Brief, candidate: Candidate, materials: Mapping[str, Material], parameter: Parameter, value: float
) -> EditBrief | EditCandidate:
    """The edit that sets a parameter.  Raises OmakaseError for one that no record holds."""
    if not parameter.stored:
        raise OmakaseError(f"{parameter.title}: no such grade is sold; choose another core instead")
    if not math.isfinite(value) or not parameter.low <= value <= parameter.high:
        raise OmakaseError(f"{parameter.title}: outside the range of the study")
    new_brief, new_candidate, _ = parameter.put((brief, candidate, materials), value)
    if parameter.of_brief:
        return EditBrief(brief, new_brief, f"set {parameter.title}", f"study {parameter.key}")
    return EditCandidate(brief.id, candidate, new_candidate, f"set {parameter.title}", f"study {parameter.key}")


def csv_rows(study: Curve | Map, brief: Brief | None = None) -> list[list[str]]:
    """A study as rows of a table in SI units, the first of titles; a curve shown as a table with all results of
    its ``brief``."""
    if isinstance(study, Curve):
        if study.parameter.table and brief is not None:
            titles = [study.parameter.title, *(own.title for own in measures(brief)[1:])]
            told = table(study, brief, len(study.x))
            return [[f"{title} (SI)" for title in titles], *([f"{v:.9g}" for v, _ in row] for row in told)]
        head = [f"{study.parameter.title} (SI)", f"{study.measure.title} (SI)", "least reserve over limit", "governs"]
        rows = [
            [f"{x:.9g}", f"{y:.9g}", f"{judged.share:.6g}", judged.governs or judged.error]
            for x, y, judged in zip(study.x, study.y, study.outcomes, strict=True)
        ]
        return [head, *rows]
    head = [
        f"{study.first.title} (SI)",
        f"{study.second.title} (SI)",
        f"{study.measure.title} (SI)",
        "least reserve over limit",
    ]
    return [
        head,
        *(
            [f"{x:.9g}", f"{y:.9g}", f"{study.values[i, j]:.9g}", f"{study.shares[i, j]:.6g}"]
            for j, y in enumerate(study.y)
            for i, x in enumerate(study.x)
        ),
    ]
