"""Evaluates candidates, remembering responses so that a change of limits or of one candidate costs only itself."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Mapping

import msgspec

from omakase.core.checks.registry import run_all
from omakase.core.checks.result import CheckResult, Context
from omakase.core.errors import OmakaseError
from omakase.core.findings.finding import Finding
from omakase.core.findings.registry import find_all
from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material
from omakase.core.materials.provenance import TYPICAL_SCATTER, Source, least_trusted
from omakase.core.members.panel import FULL, Accuracy, PanelResponse, respond
from omakase.project import translate
from omakase.project.model import Brief, Candidate
from omakase.project.validation import brief_problems, is_fatal

CACHE_SIZE = 64
WAITING = "being computed"  # stands as the error of a result that is on its way


class CandidateResult(msgspec.Struct, frozen=True, eq=False):
    """Everything computed for one candidate, or the message that says why nothing could be."""

    candidate: Candidate
    error: str = ""
    stack: Stack | None = None
    response: PanelResponse | None = None
    checks: tuple[CheckResult, ...] = ()
    findings: tuple[Finding, ...] = ()
    accuracy: Accuracy = FULL

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
    def ok(self) -> bool:
        return self.response is not None

    @property
    def governing(self) -> CheckResult | None:
        """The check with the least reserve for what is required of it."""
        return self.checks[0] if self.checks else None

    @property
    def passes(self) -> bool:
        return self.ok and all(check.passes for check in self.checks)

    def worst(self, name: str) -> CheckResult | None:
        """The result of one check over all load cases with the least reserve, then the largest value."""
        own = [check for check in self.checks if check.check == name]
        return min(own, key=lambda check: (check.reserve_factor, -check.value), default=None)

    @property
    def source(self) -> Source:
        """Least trusted provenance among all results."""
        return least_trusted(check.source for check in self.checks)

    @property
    def areal_mass(self) -> float:
        assert self.response is not None
        return self.response.section.areal_mass

    @property
    def mass(self) -> float:
        assert self.response is not None
        return self.areal_mass * self.response.panel.length * self.response.panel.width


# How a scatter in modulus, strength or areal mass shows in each result: deflection follows the modulus, a
# frequency its root, and masses scatter about a third as much as strengths (common practice, no source).
SCATTER_SHARE: dict[str, float] = {"frequency": 0.5, "frequency_band": 0.5, "mass": 0.33, "thickness": 0.33}


def scatter(check: CheckResult) -> float:
    """Coefficient of variation to expect of a result from the provenance of what feeds it."""
    return TYPICAL_SCATTER[check.source] * SCATTER_SHARE.get(check.check, 1.0)


class Evaluator:
    """Evaluates candidates of briefs; safe to call from several threads."""

    def __init__(self) -> None:
        self._responses: OrderedDict[bytes, tuple[Stack, PanelResponse]] = OrderedDict()
        self._lock = threading.Lock()

    def evaluate(
        self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material], accuracy: Accuracy = FULL
    ) -> CandidateResult:
        """Result of one candidate; errors of the candidate or brief come back as text, not as exceptions."""
        fatal = [f"{field}: {message}" for field, message in brief_problems(brief) if is_fatal(field)]
        if fatal:
            return CandidateResult(candidate, error="the brief is not complete: " + "; ".join(fatal))
        try:
            stack, response = self._respond(brief, candidate, materials, accuracy)
        except OmakaseError as error:
            return CandidateResult(candidate, error=str(error))
        context = Context(stack, response, translate.settings(brief), translate.limits(brief))
        checks = tuple(run_all(context))
        findings = find_all(stack, checks, translate.surroundings(brief))
        return CandidateResult(candidate, "", stack, response, checks, findings, accuracy)

    def has_response(
        self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material], accuracy: Accuracy = FULL
    ) -> bool:
        """Whether evaluating would find its response in the cache."""
        with self._lock:
            return self._key(brief, candidate, materials, accuracy) in self._responses

    def _respond(
        self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material], accuracy: Accuracy
    ) -> tuple[Stack, PanelResponse]:
        key = self._key(brief, candidate, materials, accuracy)
        with self._lock:
            if key in self._responses:
                self._responses.move_to_end(key)
                return self._responses[key]
        stack = translate.stack(candidate, materials)
        cases = tuple(translate.load_case(case) for case in brief.load_cases)
        found = (stack, respond(translate.panel(brief), stack, cases, accuracy))
        with self._lock:
            self._responses[key] = found
            while len(self._responses) > CACHE_SIZE:
                self._responses.popitem(last=False)
        return found

    @staticmethod
    def _key(brief: Brief, candidate: Candidate, materials: Mapping[str, Material], accuracy: Accuracy) -> bytes:
        """What a response depends on: panel, loads, layers, the records of the materials used, accuracy."""
        used = [materials[name] for name in sorted({layer.material for layer in candidate.layers} & set(materials))]
        return msgspec.json.encode([brief.member, brief.load_cases, candidate.layers, used, accuracy])
