"""Which inputs a candidate depends on most: each input moved by its scatter, and all of them drawn together.

First one input at a time, by one standard deviation up and down.  Then all together: a Latin hypercube of normal
inputs, cut at three standard deviations (McKay, Beckman and Conover, Technometrics 21 (1979) 239).  Every draw is
judged by the evaluator's quick answer; the present state and both ends of the three widest bars are judged in full as
well, and the largest difference is stated.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Iterator, Mapping

import msgspec
import numpy as np

from omakase.core.errors import MaterialError
from omakase.core.materials.material import Material
from omakase.core.materials.processing import with_resin
from omakase.core.materials.provenance import TYPICAL_SCATTER
from omakase.evaluate.results.outcome import Outcome, outcome
from omakase.evaluate.results.wording import layer_words
from omakase.evaluate.sizing.parameter import State
from omakase.evaluate.sizing.trials import Trials
from omakase.project import edits
from omakase.project.commands import replace
from omakase.project.model import Candidate

CHECKED_BARS = 3
DRAWS = 200
SEED = 20260101
CUT = 3.0  # standard deviations
CORE_TOLERANCE = 0.02  # of a core's or sheet's thickness; common practice, no source
RESIN_SCATTER = 0.04  # of mass, absolute, of a share nobody weighed; a quarter of it where it was; common practice
LOAD_SCATTER = 0.10  # of loads as a whole, which are seldom known better; common practice, no source
DENSITY_SCATTER = 0.05  # of a core's density, with what follows from it; common practice, no source

MODULI = ("E1", "E2", "G12")
STRENGTHS = ("Xt", "Xc", "Yt", "Yc", "S12")
CORE_SHEAR = ("G13", "G23")
CORE_STRENGTHS = ("S13", "S23", "Zt", "Zc")


class Input(msgspec.Struct, frozen=True):
    """An uncertain input: ``deviation`` is one standard deviation, relative or, for a share of resin, absolute."""

    name: str
    deviation: float
    move: Callable[[State, float], State]
    absolute: bool = False


class Bar(msgspec.Struct, frozen=True):
    """What one input does to the least share of a limit: down by one standard deviation, and up."""

    name: str
    deviation: float
    absolute: bool
    low: float
    high: float

    @property
    def width(self) -> float:
        return max(abs(self.low), abs(self.high))


class Sensitivity(msgspec.Struct, frozen=True):
    """``bars`` widest first, as changes of ``share``; of ``draws`` so many fail, ``by`` check.

    ``spread`` : standard deviation over mean of deflection, frequency, reserve_factor and mass among the draws.
    ``checked`` : how many answers were judged in full, ``error`` : largest relative difference of a quick share there.
    """

    share: float
    governs: str
    bars: tuple[Bar, ...]
    draws: int
    fails: int
    by: tuple[tuple[str, int], ...]
    spread: dict[str, float]
    checked: int = 0
    error: float = 0.0

    @property
    def sentence(self) -> str:
        """The result of the draws in words, with method and count, and how far the quick answers were off."""
        method = f"{self.draws} samples drawn (Latin hypercube)"
        off = f" Quick answers: at most {self.error:.1%} off in {self.checked} judged in full." if self.checked else ""
        if not self.fails:
            return f"Fails in none of {method}: fewer than 1 in {self.draws // 3} at 95 % confidence.{off}"
        worst = self.by[0][0] if self.by else ""
        share = self.fails / self.draws
        often = f"1 of {1.0 / share:.0f}" if share <= 0.34 else f"{share:.0%}"
        return f"Fails in {often}: {self.fails} of {method}, most often by {worst.lower()}.{off}"


def inputs(candidate: Candidate, materials: Mapping[str, Material]) -> Iterator[Input]:
    """The uncertain inputs of a candidate under a brief."""
    for name in dict.fromkeys(layer.material for layer in candidate.layers):
        material = materials.get(name)
        if material is None:
            continue
        groups: tuple[tuple[str, tuple[str, ...]], ...]
        if material.kind == "core":
            groups = (("shear modulus", CORE_SHEAR), ("strength", CORE_STRENGTHS), ("density", ("density",)))
        else:
            groups = (("moduli", MODULI), ("strengths", STRENGTHS))
        for words, keys in groups:
            there = tuple(key for key in keys if key in material.properties)
            deviation = DENSITY_SCATTER if words == "density" else TYPICAL_SCATTER[material.source(there)]
            yield Input(f"{words} of {name}", deviation, _of_material(name, there))
        if material.kind == "ply":
            weighed = material.properties["resin_mass_fraction"].source == "tested"
            yield Input(f"resin share of {name}", RESIN_SCATTER / (4.0 if weighed else 1.0), _resin(name), True)
    for i, layer in enumerate(candidate.layers):
        if layer.thickness is not None:
            yield Input(f"thickness of {layer_words(candidate, i)} ({layer.material})", CORE_TOLERANCE, _thickness(i))
    yield Input("loads", LOAD_SCATTER, _loads)


def _of_material(name: str, keys: tuple[str, ...]) -> Callable[[State, float], State]:
    def move(state: State, by: float) -> State:
        brief, candidate, materials = state
        material = materials[name]
        changed = {
            key: msgspec.structs.replace(material.properties[key], value=material.value(key) * (1.0 + by))
            for key in keys
        }
        new = msgspec.structs.replace(material, properties={**material.properties, **changed})
        return brief, candidate, {**materials, name: new}

    return move


def _resin(name: str) -> Callable[[State, float], State]:
    def move(state: State, by: float) -> State:
        brief, candidate, materials = state
        material = materials[name]
        share = min(max(material.value("resin_mass_fraction") + by, 0.15), 0.85)
        return brief, candidate, {**materials, name: with_resin(material, share, "scatter")}

    return move


def _thickness(index: int) -> Callable[[State, float], State]:
    def move(state: State, by: float) -> State:
        brief, candidate, materials = state
        layers = list(candidate.layers)
        layers[index] = replace(layers[index], thickness=(layers[index].thickness or 0.0) * (1.0 + by))
        return brief, replace(candidate, layers=tuple(layers)), materials

    return move


def _loads(state: State, by: float) -> State:
    brief, candidate, materials = state
    cases = tuple(edits.scaled_case(case, 1.0 + by) for case in brief.load_cases)
    return replace(brief, load_cases=cases), candidate, materials


class SensitivitySearch(Trials):
    """The sensitivity of one candidate."""

    def run(self, draws: int = DRAWS) -> Sensitivity | None:
        """Bars and draws; None when cancelled or the candidate cannot be evaluated."""
        brief, candidate, materials = self._state
        self._evaluator.prepare(brief, candidate, materials)
        present = self.judge(self._state)
        if present.error:
            return None
        varied = list(inputs(candidate, materials))
        bars = []
        for moved in varied:
            if self._cancelled():
                return None
            try:
                low, high = (
                    self.judge(moved.move(self._state, sign * moved.deviation)).share - present.share
                    for sign in (-1.0, 1.0)
                )
            except MaterialError:
                continue  # a value at the edge of what is possible cannot be moved
            bars.append(Bar(moved.name, moved.deviation, moved.absolute, low, high))
        bars.sort(key=lambda bar: -bar.width)
        whole = self._draw(varied, present, tuple(bars), draws)
        return None if whole is None else self._checked(whole, varied, present)

    def _checked(self, whole: Sensitivity, varied: list[Input], present: Outcome) -> Sensitivity | None:
        """The present state and both ends of the widest bars judged in full, and how far the quick answers were off."""
        by_name = {moved.name: moved for moved in varied}
        states = [(self._state, present.share)]
        for bar in whole.bars[:CHECKED_BARS]:
            moved = by_name[bar.name]
            for sign, change in ((-1.0, bar.low), (1.0, bar.high)):
                states.append((moved.move(self._state, sign * moved.deviation), present.share + change))
        worst, checked = 0.0, 0
        for state, share in states:
            if self._cancelled():
                return None
            exact = self.judge(state, full=True)
            if not exact.error and exact.share > 0.0:
                worst, checked = max(worst, abs(share / exact.share - 1.0)), checked + 1
        return msgspec.structs.replace(whole, checked=checked, error=worst)

    def _draw(self, varied: list[Input], present: Outcome, bars: tuple[Bar, ...], draws: int) -> Sensitivity | None:
        from scipy.stats import norm, qmc  # slow to import, and only needed here

        cube = qmc.LatinHypercube(len(varied), seed=SEED).random(draws)
        edge = norm.cdf(-CUT)
        normal = norm.ppf(edge + cube * (1.0 - 2.0 * edge))
        fails: Counter[str] = Counter()
        failed, done = 0, 0
        values: dict[str, list[float]] = {name: [] for name in ("deflection", "frequency", "reserve_factor", "mass")}
        for row in normal:
            if self._cancelled():
                return None
            state = self._state
            try:
                for moved, z in zip(varied, row, strict=True):
                    state = moved.move(state, float(z) * moved.deviation)
            except MaterialError:
                continue
            result = self.result(state)
            if not result.ok:
                continue
            done += 1
            failing = [check.full_title for check in result.checks if not check.passes]
            failed += bool(failing)
            fails.update(set(failing))
            drawn = outcome(state[0], result, state[2])
            for name, value in (
                ("deflection", drawn.deflection), ("frequency", drawn.frequency),
                ("reserve_factor", drawn.reserve), ("mass", drawn.mass),
            ):  # fmt: skip
                if math.isfinite(value):
                    values[name].append(value)
        spread = {
            name: float(np.std(series) / np.mean(series))
            for name, series in values.items()
            if len(series) > 2 and np.mean(series)
        }
        return Sensitivity(
            present.share, present.governs, bars, done, failed, tuple(fails.most_common()), spread
        )  # fmt: skip
