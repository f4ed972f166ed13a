"""What was computed of one candidate: its response, checks, details and findings."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from functools import cached_property, lru_cache

import msgspec

from omakase.core.checks.result import CheckResult
from omakase.core.details.detail import Detail
from omakase.core.findings.details import find_in_details
from omakase.core.findings.finding import Finding
from omakase.core.findings.registry import find_all
from omakase.core.laminate.stack import Stack
from omakase.core.materials.provenance import TYPICAL_SCATTER, Source, least_trusted
from omakase.core.members.field import Response
from omakase.core.members.panel_given import FULL, Accuracy
from omakase.evaluate.members.registry import kind_of
from omakase.project import edits, translate
from omakase.project.commands import replace
from omakase.project.model import Brief, Candidate

WAITING = "being computed"  # stands as the error of a result that is on its way


class CandidateResult(msgspec.Struct, frozen=True, eq=False, dict=True):
    """Everything computed for one candidate, or the message that says why nothing could be.

    ``candidate`` : as it is now called and noted; ``brief`` and ``judged`` : as they were when it was judged, None
    where nothing could be.  ``details`` : as the core's, with their loads.  ``stale`` : of the candidate as it was
    before an edit, until the new one is judged.
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

    @cached_property
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
