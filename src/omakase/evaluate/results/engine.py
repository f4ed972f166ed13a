"""Evaluates candidates, remembering responses so that a change of limits or of one candidate costs only itself."""

from __future__ import annotations

import math
import threading
from collections import OrderedDict, deque
from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import cached_property, lru_cache

import msgspec
import numpy as np

from omakase.core.checks.registry import all_checks, run_all, worst_first
from omakase.core.checks.result import CheckResult, Limits, Settings
from omakase.core.details.detail import Detail
from omakase.core.errors import OmakaseError
from omakase.core.findings.details import find_in_details
from omakase.core.findings.finding import Finding
from omakase.core.findings.registry import find_all
from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material
from omakase.core.materials.provenance import TYPICAL_SCATTER, Source, least_trusted
from omakase.core.members.field import Response
from omakase.core.members.panel import PanelResponse
from omakase.core.members.panel_given import FULL, QUICK, Accuracy
from omakase.core.members.reduced_panel import LIVE, ReducedPanel
from omakase.evaluate.details.judging import judge_details, loads_taken
from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.results.inputs import materials_used, response_inputs
from omakase.evaluate.results.measured import measured_response
from omakase.project import edits, translate
from omakase.project.commands import replace
from omakase.project.detail_translate import Cases
from omakase.project.model import Brief, Candidate, Surroundings
from omakase.project.validation import brief_problems, field_name, is_fatal

CACHE_SIZE = 64
# reserve factors of what moves far are found on the load: those so many times the least; to this share, in so many
# steps, between these times ultimate load; a reserve over its level falls at least so steeply with the level
WEAKEST, ON_LOAD, MOST_LEVELS, LEAST_LEVEL, MOST_LEVEL, STEEP = 1.5, 0.01, 5, 0.2, 4.0, -0.2
PREPARED = 3  # candidates whose shapes are kept, some 10 MB each
CORE_SHARES = (0.7, 1.4)
MOST_PLIES = 6
TURNS = (12.0, -12.0, 45.0, -45.0, 90.0)
QUICK_WITHIN = 0.03  # a quick reserve factor further from the full one asks for new shapes
ENOUGH = 20.0  # reserve factors beyond it are alike
WAITING = "being computed"  # stands as the error of a result that is on its way


class CandidateResult(msgspec.Struct, frozen=True, eq=False, dict=True):
    """Everything computed for one candidate, or the message that says why nothing could be.

    ``candidate`` : as it is now called and noted; ``brief`` and ``judged`` : as they were when it was judged, None
    where nothing could be.  ``details`` : as
    the core's, with their loads.  ``stale`` : of the candidate as it was before an edit, until the new one is judged.
    """

    candidate: Candidate
    error: str = ""
    stack: Stack | None = None
    response: Response | None = None
    checks: tuple[CheckResult, ...] = ()
    accuracy: Accuracy = FULL
    brief: Brief | None = None
    judged: Candidate | None = None
    details: tuple[Detail, ...] = ()
    stale: bool = False

    @cached_property
    def findings(self) -> tuple[Finding, ...]:
        """What is found in its layups and details, worked out when asked for: searches and studies do not ask."""
        if self.brief is None or self.judged is None or self.stack is None or self.is_measured:
            return ()
        return (*self._in_layups, *find_in_details(self.details))

    @property
    def _in_layups(self) -> tuple[Finding, ...]:
        assert self.judged is not None
        assert self.brief is not None
        assert self.stack is not None
        work = getattr(self.response, "patchwork", None)
        if work is None:
            return _findings(self.brief, self.judged, self.stack, self.checks)
        # of a panel with zones in the layup of most of it
        rows = work.rows[work.base]
        openings = tuple(zone for zone in self.judged.zones if zone.opening)
        even = replace(self.judged, layers=tuple(self.judged.layers[row] for row in rows), zones=openings)
        return tuple(
            msgspec.structs.replace(finding, layers=tuple(rows[i] for i in finding.layers))
            for finding in _findings(self.brief, even, work.stacks[work.base], tuple(_in_rows(self.checks, rows)))
        )

    @property
    def open_findings(self) -> tuple[Finding, ...]:
        """Findings that nobody has accepted."""
        return tuple(finding for finding in self.findings if finding.rule not in self.candidate.reasons)

    @property
    def faced(self) -> frozenset[str]:
        """Short names of the cloths in it whose two sides differ."""
        layers = self.stack.layers if self.stack is not None else ()
        return frozenset(layer.material.id for layer in layers if layer.material.has_face)

    @property
    def is_measured(self) -> bool:
        """Whether it is a part known by its measurements: nothing inside it is computed."""
        return self.judged is not None and self.judged.measured is not None

    def wall_stack(self, wall: str) -> Stack | None:
        """The stack of one of its walls; None where there is none."""
        if self.stack is None or self.judged is None or all(layer.wall == wall for layer in self.judged.layers):
            return self.stack
        rows = edits.rows_of_wall(self.judged, wall)
        return _part_of(self.stack, rows) if rows else None

    def governing_layer(self, check: CheckResult) -> tuple[Stack, int] | None:
        """The layer where a check governs: the stack of its wall, and which of its layers; None where no layer does."""
        stack, layer = self.wall_stack(check.wall), check.place.layer
        if stack is None or layer is None or self.judged is None:
            return None
        rows = edits.rows_of_wall(self.judged, check.wall)
        return stack, rows.index(layer) if layer in rows else layer

    @property
    def ok(self) -> bool:
        return self.response is not None

    @property
    def governing(self) -> CheckResult | None:
        """The check with the least reserve for what is required of it."""
        return self.checks[0] if self.checks else None

    @cached_property
    def passes(self) -> bool:
        return self.ok and all(check.passes for check in self.checks)

    def worst(self, name: str) -> CheckResult | None:
        """The result of one check over all load cases with the least reserve, then the largest value."""
        return self._worst.get(name)

    @cached_property
    def _worst(self) -> dict[str, CheckResult]:
        worst: dict[str, CheckResult] = {}
        for check in self.checks:
            known = worst.get(check.check)
            if known is None or (check.reserve_factor, -check.value) < (known.reserve_factor, -known.value):
                worst[check.check] = check
        return worst

    @property
    def source(self) -> Source:
        """Least trusted provenance among all results."""
        return least_trusted(check.source for check in self.checks)

    @property
    def tests(self) -> tuple[str, ...]:
        """Names of the accepted test series that its materials rest on."""
        layers = self.stack.layers if self.stack is not None else ()
        return tuple(dict.fromkeys(name for layer in layers for name in layer.material.tests))

    @property
    def moving_far(self) -> frozenset[str]:
        """Ids of the load cases under which it moves so far that it stretches, which linear answers do not count."""
        return getattr(self.response, "moving_far", frozenset())

    @property
    def rough(self) -> bool:
        """Whether its numbers say little: they are stale, or it stretches and only the linear answer is there yet."""
        return self.stale or (not self.accuracy.large and bool(self.moving_far))

    @property
    def areal_mass(self) -> float:
        assert self.response is not None
        return self.response.areal_mass

    @property
    def mass(self) -> float:
        assert self.response is not None
        return self.response.mass

    @cached_property
    def weight(self) -> tuple[float, str]:
        """(by what it is compared with others, its dimension): its mass in kg, of ribs that with skin per length of
        wing, kg/m."""
        assert self.response is not None
        per_length = self.response.measures.get("span_mass")
        return (per_length[0].value, "line_mass") if per_length else (self.mass, "mass")


# How a scatter in modulus, strength or areal mass shows in each result: deflection follows the modulus, a
# frequency its root, and masses scatter about a third as much as strengths (common practice, no source).
SCATTER_SHARE: dict[str, float] = {"frequency": 0.5, "frequency_band": 0.5, "mass": 0.33, "thickness": 0.33}


def scatter(check: CheckResult) -> float:
    """Coefficient of variation to expect of a result from the provenance of what feeds it."""
    return TYPICAL_SCATTER[check.source] * SCATTER_SHARE.get(check.check, 1.0)


# walls judged last, of candidates with details: edits of a detail, and searches for one that passes, leave them as they
# are; a result holds its response, so that nothing is freed but by the bound
_judged_walls: deque[tuple[Response, Settings, Limits, list[CheckResult]]] = deque(maxlen=8)


def _walls_judged(brief: Brief, candidate: Candidate, response: Response) -> list[CheckResult]:
    """All checks of a response, kept."""
    asked = translate.settings(brief, candidate), translate.limits(brief)
    for kept, *known, checks in tuple(_judged_walls):
        if kept is response and known == [*asked]:
            return checks
    made = run_all(response, *asked)
    _judged_walls.append((response, *asked, made))
    return made


def judge(
    brief: Brief, candidate: Candidate, stack: Stack, response: Response, accuracy: Accuracy,
    materials: Mapping[str, Material], taken: Mapping[str, Cases] | None = None,
) -> CandidateResult:  # fmt: skip
    """All checks of a candidate whose response is known, and of its details; ``taken`` : their loads by the last full
    response, of a quick one."""
    if candidate.details and candidate.measured is None:
        checks = _walls_judged(brief, candidate, response)
    else:
        checks = run_all(response, translate.settings(brief, candidate), translate.limits(brief))
    last = None if accuracy == FULL else taken or {}
    judged = judge_details(brief, candidate, stack, response, materials, last)
    if judged.checks:
        checks = worst_first((*checks, *judged.checks))
    return CandidateResult(candidate, "", stack, response, tuple(checks), accuracy, brief, candidate, judged.details)


def on_the_load(
    brief: Brief, candidate: Candidate, result: CandidateResult, materials: Mapping[str, Material]
) -> PanelResponse:
    """The response whose weakest cases, where they move so far that strains do not follow their load, have strains
    solved where the first strength is reached: there reserve factors are factors on the load.

    The same response where nothing moves so far, or where it holds far more or far less than it must.
    """
    response = result.response
    assert isinstance(response, PanelResponse)
    reserves = {}
    for case in response.cases:
        least = _least_strength(result, case.case.key) if case.again is not None else None
        if least is not None:
            reserves[case.case.key] = least.reserve_factor
    for key, reserve in reserves.items():
        if reserve <= MOST_LEVEL and reserve <= WEAKEST * min(reserves.values()):
            result = _on_the_load(brief, candidate, result, key, reserve, materials)
    assert isinstance(result.response, PanelResponse)
    return result.response


def _on_the_load(
    brief: Brief, candidate: Candidate, result: CandidateResult, key: str, reserve: float,
    materials: Mapping[str, Material],
) -> CandidateResult:  # fmt: skip
    """``on_the_load`` of one case, whose least reserve is the factor ``reserve`` at ultimate load; the result as it was
    where no level is found."""
    present = result
    response = result.response
    assert isinstance(response, PanelResponse)
    own = next(case.again for case in response.cases if case.case.key == key)
    assert own is not None
    assert result.stack is not None
    ultimate = translate.settings(brief).ultimate_factor
    level = 1.0 / ultimate if ultimate > 1.0 else reserve  # its state at limit load is known
    x, y = 0.0, math.log(max(reserve, 1e-9))  # logarithms of the level and of reserve over level
    for _ in range(MOST_LEVELS):
        if abs(y) < ON_LOAD:
            return result
        try:
            response = response.with_answer(own(level))
        except OmakaseError:
            return present
        result = judge(brief, candidate, result.stack, response, result.accuracy, materials)
        found = _least_strength(result, key)
        if found is None:
            return present
        before, x, y = (x, y), math.log(level), math.log(max(found.reserve_factor, 1e-9) / level)
        slope = (y - before[1]) / (x - before[0]) if x != before[0] else -1.0
        level = math.exp(x - y / min(slope, STEEP))
        if not LEAST_LEVEL <= level <= MOST_LEVEL:
            return present
    return result if abs(y) < ON_LOAD else present


def _least_strength(result: CandidateResult, case: str) -> CheckResult | None:
    """The strength that is reached first under a load case."""
    known = all_checks()
    own = [
        check
        for check in result.checks
        if check.case_id == case and check.check in known and known[check.check].per == "wall"
    ]
    return min(own, key=lambda check: check.reserve_factor, default=None)


@lru_cache(maxsize=256)
def _part_of(stack: Stack, rows: tuple[int, ...]) -> Stack:
    return Stack(tuple(stack.layers[i] for i in rows))


def _in_rows(checks: Iterable[CheckResult], rows: tuple[int, ...]) -> Iterator[CheckResult]:
    """Checks with their layers counted among ``rows``; those of other layers left out."""
    for check in checks:
        layer = check.place.layer
        if layer is None:
            yield check
        elif layer in rows:
            place = msgspec.structs.replace(check.place, layer=rows.index(layer))
            yield msgspec.structs.replace(check, place=place)


def _findings(brief: Brief, candidate: Candidate, stack: Stack, checks: tuple[CheckResult, ...]) -> tuple[Finding, ...]:
    """What is found in each wall; of what one rule finds in several walls, the first with the layers of all."""
    surroundings, walls = translate.surroundings(brief, candidate), kind_of(brief).walls(candidate)
    length = float(getattr(brief.member, "length", 0.0))
    runs = tuple(edits.runs(candidate, length)) if candidate.zones else ()
    if len(walls) == 1:
        return find_all(stack, checks, msgspec.structs.replace(surroundings, runs=runs, length=length))
    findings: dict[str, Finding] = {}
    named: dict[str, list[str]] = {}
    for wall in walls:
        rows = edits.rows_of_wall(candidate, wall)
        if not rows:
            continue
        wall_checks = tuple(check for check in checks if check.wall == wall)
        where = msgspec.structs.replace(
            surroundings, runs=tuple(runs[i] for i in rows) if runs else (), length=length
        )  # fmt: skip
        for finding in find_all(_part_of(stack, rows), wall_checks, where):
            layers = tuple(rows[i] for i in finding.layers)
            known = findings.get(finding.rule)
            if known is not None:  # a rule finds one thing, which a person can accept
                layers, finding = (*known.layers, *layers), known
            findings[finding.rule] = msgspec.structs.replace(finding, layers=layers)
            named.setdefault(finding.rule, []).append(wall or "panel")
    return tuple(
        msgspec.structs.replace(finding, text=f"{', '.join(named[rule])}: {finding.text}")
        for rule, finding in findings.items()
    )


def live(brief: Brief) -> Accuracy:
    """How finely prepared shapes are looked at: the first modes only, unless a band forbids others too."""
    return _with_modes(LIVE, brief)


def quick_order(brief: Brief) -> Accuracy:
    """The quick order for a brief."""
    return _with_modes(QUICK, brief)


def _with_modes(accuracy: Accuracy, brief: Brief) -> Accuracy:
    return accuracy if brief.limits.frequency_band is None else msgspec.structs.replace(accuracy, modes=FULL.modes)


def neighbours(candidate: Candidate) -> Iterator[Candidate]:
    """Candidates from whose shapes edits to one are made: other core thickness, plies turned, doubled, left out.

    Of a layup with many plies only some, evenly spread: what they do differs less and less.
    """
    plies = [i for i, layer in enumerate(candidate.layers) if layer.role != "core"]
    chosen = {plies[round(k * (len(plies) - 1) / (MOST_PLIES - 1))] for k in range(MOST_PLIES)} if plies else set()
    for i, layer in enumerate(candidate.layers):
        if layer.role == "core":
            for share in CORE_SHARES:
                thickness = round((layer.thickness or 0.0) * share, 9)
                yield edits.set_layer(candidate, i, replace(layer, thickness=thickness))
        elif i in chosen:
            for turn in TURNS:
                yield edits.set_layer(candidate, i, replace(layer, angle=edits.step_angle(layer.angle, turn)))
            yield edits.insert_layers(candidate, i, [layer])
            yield edits.remove_layers(candidate, [i])


def _stacks(candidates: Iterable[Candidate], materials: Mapping[str, Material], where: Surroundings) -> Iterator[Stack]:
    """Stacks of those that have one: without a ply a face may be gone."""
    for candidate in candidates:
        try:
            yield translate.stack(candidate, materials, where)
        except OmakaseError:
            continue


def differs(quick: CandidateResult, full: CandidateResult) -> bool:
    """Whether a quick result was further from the full one than it should be; one that is rough says nothing."""
    if quick.rough:
        return False
    exact = {check.key: check for check in full.checks}
    for check in quick.checks:
        other = exact.get(check.key)
        if other is None or not math.isclose(
            min(check.reserve_factor, ENOUGH), min(other.reserve_factor, ENOUGH), rel_tol=QUICK_WITHIN
        ):
            return True
    return False


def _incomplete(brief: Brief) -> str:
    """What keeps a brief from being evaluated, or nothing."""
    fatal = [f"{field_name(brief, field)}: {message}" for field, message in brief_problems(brief) if is_fatal(field)]
    return "the brief is not complete: " + "; ".join(fatal) if fatal else ""


def _shapes_key(brief: Brief, candidate: Candidate) -> bytes:
    return msgspec.json.encode([brief.id, brief.member, candidate.id])


def quickly_reduced(brief: Brief, candidate: Candidate) -> bool:
    """Whether edits of a candidate are answered from prepared shapes, which are those of a linear flat panel."""
    return candidate.measured is None and kind_of(brief).reduced and translate.is_linear(brief, candidate)


def slow(brief: Brief, candidate: Candidate) -> bool:
    """Whether even the quick order takes longer than an edit may: a panel with zones, ribs or bolts."""
    return candidate.measured is None and kind_of(brief).reduced and translate.is_built(brief, candidate)


class Evaluator:
    """Evaluates candidates of briefs; safe to call from several threads."""

    def __init__(self) -> None:
        self._responses: OrderedDict[bytes, tuple[Stack, Response]] = OrderedDict()
        self._reduced: OrderedDict[bytes, ReducedPanel] = OrderedDict()
        self._on_load: OrderedDict[bytes, PanelResponse] = OrderedDict()
        self._taken: dict[tuple[str, str], dict[str, Cases]] = {}  # by brief and candidate
        self._lock = threading.Lock()

    def evaluate(
        self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material], accuracy: Accuracy = FULL
    ) -> CandidateResult:
        """Result of one candidate; errors of the candidate or brief come back as text, not as exceptions."""
        problem = _incomplete(brief)
        if problem:
            return CandidateResult(candidate, error=problem)
        try:
            stack, response = self._respond(brief, candidate, materials, accuracy)
        except OmakaseError as error:
            return CandidateResult(candidate, error=str(error))
        taken = self._taken.get((brief.id, candidate.id), {})
        result = judge(brief, candidate, stack, response, accuracy, materials, taken)
        if candidate.details and accuracy == FULL:
            self._taken[brief.id, candidate.id] = loads_taken(candidate, result.details)
        if not accuracy.large or not isinstance(response, PanelResponse):
            return result
        key = self._key(brief, candidate, materials, accuracy) + msgspec.json.encode(
            [brief.judgement, brief.conditions]
        )
        with self._lock:
            found = self._on_load.get(key)
        if found is None:
            found = on_the_load(brief, candidate, result, materials)
            with self._lock:
                self._on_load[key] = found
                while len(self._on_load) > CACHE_SIZE:
                    self._on_load.popitem(last=False)
        return result if found is response else judge(brief, candidate, stack, found, accuracy, materials)

    # --- quickly, for what is being edited ------------------------------------------------------------------

    def prepare(self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material]) -> None:
        """Makes the few shapes from which ``quick`` answers for edits to a candidate; a third of a second."""
        if not quickly_reduced(brief, candidate) or _incomplete(brief) or self.prepared(brief, candidate):
            return
        try:
            where = brief.surroundings
            stacks = [
                translate.stack(candidate, materials, where),
                *_stacks(neighbours(candidate), materials, where),
            ]
            cases = tuple(translate.load_case(case) for case in brief.load_cases)
            reduced = ReducedPanel(translate.panel(brief), cases, stacks, live(brief))
            reduced.sample(stacks, cases)
        except (OmakaseError, np.linalg.LinAlgError):
            return  # the full evaluation says why
        self.take_shapes(brief, candidate, reduced)

    def prepared(self, brief: Brief, candidate: Candidate) -> bool:
        """Whether ``quick`` has what it needs for a candidate: shapes, or what responds quickly as it is."""
        if not quickly_reduced(brief, candidate):
            return True
        with self._lock:
            return _shapes_key(brief, candidate) in self._reduced

    def forget(self, brief: Brief, candidate: Candidate) -> None:
        """Drops the shapes of a candidate that has moved away from them."""
        with self._lock:
            self._reduced.pop(_shapes_key(brief, candidate), None)

    def forget_all(self) -> None:
        """Drops all prepared shapes."""
        with self._lock:
            self._reduced.clear()

    def prepared_shapes(self, brief: Brief, candidate: Candidate) -> ReducedPanel | None:
        """The shapes of a candidate, to be taken by an evaluator elsewhere; None if there are none."""
        with self._lock:
            return self._reduced.get(_shapes_key(brief, candidate))

    def take_shapes(self, brief: Brief, candidate: Candidate, shapes: ReducedPanel) -> None:
        """Takes shapes that another evaluator has prepared for a candidate."""
        with self._lock:
            self._reduced[_shapes_key(brief, candidate)] = shapes
            while len(self._reduced) > PREPARED:
                self._reduced.popitem(last=False)

    def quick(self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material]) -> CandidateResult:
        """Result to show until the full one is there: from the prepared shapes, else of the quick order."""
        return self.quick_all(brief, [candidate], materials)[0]

    def estimate(self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material]) -> CandidateResult:
        """What searches go by: the quick result, of a panel that stretches the coarse answer that counts it."""
        quick = self.quick(brief, candidate, materials)
        if not quick.rough:
            return quick
        coarse = msgspec.structs.replace(quick_order(brief), large=True)
        stretched = FULL if getattr(quick.response, "edges_blurred", False) else coarse
        return self.evaluate(brief, candidate, materials, stretched)

    def hint(self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material]) -> CandidateResult:
        """What tells a search whether to judge in full: ``estimate``, but the quick result where that is enough.

        A panel that passes as a linear plate will hardly fail for stretching; one that sags too far even when its
        stretching is counted at its most, or is too heavy, too thick or too slow, fails in any case.
        """
        quick = self.quick(brief, candidate, materials)
        if not quick.rough or quick.passes or getattr(quick.response, "edges_blurred", False):
            return quick
        limit = brief.limits.deflection
        too_far = limit is not None and getattr(quick.response, "sag_at_least", 0.0) > limit
        if too_far or any(not check.passes for check in quick.checks if not check.case_id):
            return quick
        return self.estimate(brief, candidate, materials)

    def quick_all(
        self, brief: Brief, candidates: Sequence[Candidate], materials: Mapping[str, Material]
    ) -> list[CandidateResult]:
        """``quick`` of several.  All respond before any is judged: a processor does what it has just done faster."""
        responses = [self._quick_response(brief, candidate, materials) for candidate in candidates]
        results = []
        order = quick_order(brief) if kind_of(brief).quicker else FULL
        for candidate, response in zip(candidates, responses, strict=True):
            if response is None:
                results.append(self.evaluate(brief, candidate, materials, order))
            elif isinstance(response, str):
                results.append(CandidateResult(candidate, error=response))
            else:
                results.append(self._quickly(brief, candidate, response, materials))
        return results

    def _quickly(
        self, brief: Brief, candidate: Candidate, response: tuple[Stack, Response], materials: Mapping[str, Material]
    ) -> CandidateResult:
        taken = self._taken.get((brief.id, candidate.id), {})
        return judge(brief, candidate, *response, live(brief), materials, taken)

    def _quick_response(
        self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material]
    ) -> tuple[Stack, Response] | str | None:
        """From the prepared shapes, or what is wrong with the candidate; None without shapes that serve."""
        key = _shapes_key(brief, candidate)
        with self._lock:
            reduced = self._reduced.get(key)
            if reduced is not None:
                self._reduced.move_to_end(key)
        if reduced is None or not quickly_reduced(brief, candidate) or _incomplete(brief):
            return None
        try:
            stack = translate.stack(candidate, materials, brief.surroundings)
            response = reduced.respond(stack, tuple(translate.load_case(case) for case in brief.load_cases))
        except OmakaseError as error:
            return str(error)
        except np.linalg.LinAlgError:
            response = None  # too far from what the shapes were made for
        if response is None:
            self.forget(brief, candidate)
            return None
        return stack, response

    # --- responses ------------------------------------------------------------------------------------------

    def has_response(
        self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material], accuracy: Accuracy = FULL
    ) -> bool:
        """Whether evaluating would find its response in the cache."""
        with self._lock:
            return self._key(brief, candidate, materials, accuracy) in self._responses

    def _respond(
        self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material], accuracy: Accuracy
    ) -> tuple[Stack, Response]:
        key = self._key(brief, candidate, materials, accuracy)
        with self._lock:
            if key in self._responses:
                self._responses.move_to_end(key)
                return self._responses[key]
        if candidate.measured is not None:
            response = measured_response(brief, candidate)
        else:
            response = kind_of(brief).respond(brief, candidate, materials, accuracy)
        with self._lock:
            self._responses[key] = response
            while len(self._responses) > CACHE_SIZE:
                self._responses.popitem(last=False)
        return response

    @staticmethod
    def _key(brief: Brief, candidate: Candidate, materials: Mapping[str, Material], accuracy: Accuracy) -> bytes:
        """What a response depends on, with the records of the materials used and the accuracy."""
        used = materials_used(candidate, materials)
        return msgspec.json.encode([*response_inputs(brief, candidate), used, accuracy])
