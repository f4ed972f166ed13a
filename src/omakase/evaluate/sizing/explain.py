"""Why one candidate is heavier or softer than another: the difference split by cause.

Mass splits exactly.  For deflection and frequency the panel is computed with some causes taken from the one and the
rest from the other; each cause gets its mean effect over all orders in which the causes can be changed (Shapley 1953),
so that the parts, as factors, multiply to the whole.
"""

from __future__ import annotations

import copy
import itertools
import math
from collections.abc import Mapping, Sequence

import msgspec
import numpy as np

from omakase.core.errors import OmakaseError
from omakase.core.laminate.stack import Stack
from omakase.core.materials.material import Material
from omakase.core.members.panel import respond
from omakase.core.members.panel_given import FULL
from omakase.core.members.reduced_panel import LIVE, ReducedPanel
from omakase.core.plates.section import PlateSection
from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.results.engine import Evaluator
from omakase.evaluate.results.quick import quickly_reduced
from omakase.project import translate
from omakase.project.commands import replace
from omakase.project.model import Brief, Candidate, LayerRecord

CAUSES = ("distance between the faces", "stiffness of the faces", "core in shear", "areal mass")
SOLID_CAUSES = ("thickness", "modulus", "shear through the thickness", "areal mass")  # of a laminate without core
KINDS = "another kind of construction"  # a sandwich for a laminate, or the reverse: no cause of one is one of the other
STRETCHING = "stretching by its large deflection"
SIZE, CORE, PLIES = "width, diameter and shape", "core", "plies"
RECORD_CAUSES = (SIZE, CORE, PLIES)
MASS_CAUSES = {"cloth": "cloth", "resin": "resin", "core": "core", "uptake": "resin in the core", "sheet": "sheet"}


class Difference(msgspec.Struct, frozen=True):
    """``before`` and ``after`` of one result in SI units, and its causes.

    ``parts`` : for mass (cause, kg); otherwise (cause, factor), the factors multiplying to ``after`` / ``before``.
    """

    key: str
    before: float
    after: float
    parts: tuple[tuple[str, float], ...]


def explain(
    brief: Brief, one: Candidate, two: Candidate, materials: Mapping[str, Material], evaluator: Evaluator
) -> tuple[Difference, ...]:
    """From ``one`` to ``two``: mass, deflection and frequency.  Raises OmakaseError."""
    if not all(quickly_reduced(brief, candidate) for candidate in (one, two)):
        return _by_records(brief, one, two, materials)
    stacks = [translate.stack(candidate, materials) for candidate in (one, two)]
    differences = [_mass(brief, stacks)]
    if len({PlateSection(stack).kinematics for stack in stacks}) == 1:
        differences += _stiffness(brief, stacks)
    else:
        differences += _kinds(brief, stacks)
    results = [evaluator.evaluate(brief, candidate, materials) for candidate in (one, two)]
    if any(result.moving_far for result in results):
        differences = [_stretched(difference, results) for difference in differences]
    return tuple(differences)


def _stretched(linear: Difference, results: Sequence[CandidateResult]) -> Difference:
    """A difference in deflection as it is where a panel stretches: what the linear causes leave is put down to that."""
    checks = [result.worst("deflection") for result in results]
    if linear.key != "deflection" or checks[0] is None or checks[1] is None:
        return linear
    before, after = checks[0].value, checks[1].value
    rest = (after / before) / (linear.after / linear.before)
    return Difference("deflection", before, after, (*linear.parts, (STRETCHING, rest)))


def _kinds(brief: Brief, stacks: Sequence[Stack]) -> list[Difference]:
    """Deflection and frequency of two kinds of construction, with the one cause that they have."""
    panel, cases = translate.panel(brief), tuple(translate.load_case(case) for case in brief.load_cases)
    responses = [respond(panel, stack, cases) for stack in stacks]
    sags = [max((case.largest_deflection[0] for case in response.cases), default=0.0) for response in responses]
    differences = []
    for key, (before, after) in (
        ("deflection", sags),
        ("frequency", [response.frequencies[0] for response in responses]),
    ):
        if before > 0.0 and after > 0.0:
            differences.append(Difference(key, before, after, ((KINDS, after / before),)))
    return differences


def _mass(brief: Brief, stacks: Sequence[Stack]) -> Difference:
    panel = translate.panel(brief)
    area = panel.length * panel.width
    before, after = (stack.areal_mass() for stack in stacks)
    parts = tuple(
        (words, (after[key] - before[key]) * area)
        for key, words in MASS_CAUSES.items()
        if abs(after[key] - before[key]) > 1e-12
    )
    return Difference("mass", sum(before.values()) * area, sum(after.values()) * area, parts)


class _Mixed:
    """Panels with each cause from the one or the other of two of a kind; all in the same few shapes."""

    def __init__(self, brief: Brief, stacks: Sequence[Stack]) -> None:
        self._sections = [PlateSection(stack) for stack in stacks]
        self._cases = tuple(translate.load_case(case) for case in brief.load_cases)
        self._panel = ReducedPanel(translate.panel(brief), self._cases, stacks, LIVE, 3)
        self.causes = CAUSES if self._sections[0].core is not None else SOLID_CAUSES

    def values(self, chosen: tuple[int, ...]) -> tuple[float, float]:
        """(largest deflection, first frequency), ``chosen`` telling for each of CAUSES which sandwich it is from."""
        section = self._section(chosen)
        response = self._panel.respond_section(section, self._cases)
        sag = max((case.largest_deflection[0] for case in response.cases), default=math.nan)
        return sag, response.frequencies[0]

    def _section(self, chosen: tuple[int, ...]) -> PlateSection:
        """The section with each cause from the one that is chosen for it."""
        return self._solid(chosen) if self.causes is SOLID_CAUSES else self._sandwich(chosen)

    def _solid(self, chosen: tuple[int, ...]) -> PlateSection:
        """A and the like go with the thickness, B with its square, D with its cube, the laminate staying the same."""
        thickness, modulus, shear, mass = (self._sections[which] for which in chosen)
        mixed = copy.copy(modulus)
        power = np.diag([1.0] * 3 + [thickness.stack.thickness / modulus.stack.thickness] * 3 + [0.0] * 3)
        mixed.membrane = (thickness.stack.thickness / modulus.stack.thickness) * power @ modulus.membrane @ power
        mixed.shear = shear.shear * (thickness.stack.thickness / shear.stack.thickness)
        mixed.areal_mass, mixed.rotary_inertia = mass.areal_mass, mass.rotary_inertia
        return mixed

    def _sandwich(self, chosen: tuple[int, ...]) -> PlateSection:
        distance, faces, shear, mass = (self._sections[which] for which in chosen)
        mixed = copy.copy(faces)
        assert distance.core is not None
        assert shear.core is not None
        gap = distance.core.thickness
        top, bottom = faces.faces
        whole = top.thickness + gap + bottom.thickness
        upper = msgspec.structs.replace(top, z_middle=(whole - top.thickness) / 2.0)
        lower = msgspec.structs.replace(bottom, z_middle=(bottom.thickness - whole) / 2.0)
        mixed.faces = (upper, lower)
        # the core's own stiffness in the plane, which is small, goes with its thickness
        mixed.membrane = upper.energy() + lower.energy() + distance.core_energy(upper, lower)
        between = upper.z_middle - lower.z_middle
        mixed.shear = shear.core.shear_modulus * between**2 / gap
        mixed.areal_mass, mixed.rotary_inertia = mass.areal_mass, mass.rotary_inertia
        return mixed


def _stiffness(brief: Brief, stacks: Sequence[Stack]) -> list[Difference]:
    mixed = _Mixed(brief, stacks)
    causes = mixed.causes
    choices = list(itertools.product((0, 1), repeat=len(causes)))
    logs = {choice: np.log(np.maximum(mixed.values(choice), 1e-300)) for choice in choices}
    if not np.all(np.isfinite(list(logs.values()))):
        raise OmakaseError("nothing loads the panel: there is no deflection to explain")
    count = len(causes)
    effects = np.zeros((count, 2))
    for order in itertools.permutations(range(count)):
        state = [0] * count
        for cause in order:
            before = logs[tuple(state)]
            state[cause] = 1
            effects[cause] += logs[tuple(state)] - before
    effects /= math.factorial(count)
    differences = []
    for k, key in enumerate(("deflection", "frequency")):
        parts = tuple((cause, float(math.exp(effects[i, k]))) for i, cause in enumerate(causes))
        ends = [float(math.exp(logs[(which,) * count][k])) for which in (0, 1)]
        if key == "deflection" and not brief.load_cases:
            continue
        differences.append(Difference(key, ends[0], ends[1], parts))
    return differences


def _by_records(
    brief: Brief, one: Candidate, two: Candidate, materials: Mapping[str, Material]
) -> tuple[Difference, ...]:
    """Of a kind that responds quickly: every mixture of size, core and plies is worked out whole."""
    causes = [cause for cause in RECORD_CAUSES if _mixed(one, two, (cause,)) not in (one, None)]
    if not causes:
        return ()
    values: dict[frozenset[str], tuple[float, float, float]] = {}
    for size in range(len(causes) + 1):
        for chosen in itertools.combinations(causes, size):
            candidate = _mixed(one, two, chosen)
            assert candidate is not None
            _, response = kind_of(brief).respond(brief, candidate, materials, FULL)
            sag = max((measure.value for measure in response.measures["deflection"]), default=0.0)
            values[frozenset(chosen)] = response.mass, sag, response.frequencies[0]
    differences = []
    for index, key in enumerate(("mass", "deflection", "frequency")):
        before, after = values[frozenset()][index], values[frozenset(causes)][index]
        if key != "mass" and not (before > 0.0 and after > 0.0):
            continue
        parts = []
        for cause in causes:
            effect = 0.0
            for rest in _subsets([other for other in causes if other != cause]):
                weight = math.factorial(len(rest)) * math.factorial(len(causes) - len(rest) - 1)
                low, high = values[rest][index], values[rest | {cause}][index]
                step = high - low if key == "mass" else math.log(high / low)
                effect += weight / math.factorial(len(causes)) * step
            parts.append((cause, effect if key == "mass" else math.exp(effect)))
        differences.append(Difference(key, before, after, tuple(parts)))
    return tuple(differences)


def _subsets(items: Sequence[str]) -> list[frozenset[str]]:
    return [frozenset(subset) for size in range(len(items) + 1) for subset in itertools.combinations(items, size)]


def _mixed(one: Candidate, two: Candidate, chosen: Sequence[str]) -> Candidate | None:
    """``one`` with what is chosen taken from ``two``; None where their layers cannot be mixed so."""
    state = one
    if SIZE in chosen:
        state = replace(state, form=two.form)
    cores = [[layer for layer in stack.layers if layer.role == "core"] for stack in (one, two)]
    alike = len(cores[0]) == len(cores[1])
    if PLIES in chosen:
        layers = two.layers
        if alike and CORE not in chosen:
            layers = _with_cores(two.layers, cores[0])
        return replace(state, layers=layers, zones=two.zones)
    if CORE in chosen:
        return replace(state, layers=_with_cores(one.layers, cores[1])) if alike else state
    return state


def _with_cores(layers: tuple[LayerRecord, ...], cores: list[LayerRecord]) -> tuple[LayerRecord, ...]:
    left = iter(cores)
    return tuple(
        replace(next(left), zone=layer.zone) if layer.role == "core" else layer for layer in layers
    )  # fmt: skip
