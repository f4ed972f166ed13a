"""Ways out of a candidate that fails, and ways down for one with room: for each lever the smallest change that passes.

Every proposal is judged by the full evaluator; nothing simpler decides.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping

import msgspec

from omakase.core.materials.material import Material
from omakase.evaluate.engine import CandidateResult, Evaluator
from omakase.evaluate.wording import governing_text, quantity
from omakase.project import edits
from omakase.project.commands import ArrangeCandidates, replace
from omakase.project.model import Brief, Candidate, LayerRecord
from omakase.units import UnitSystem

STEP = {"si": 0.5e-3, "inch_pound": 25.4e-3 / 32.0}  # in which core thickness is proposed
COARSE = 8  # steps of the first look over a range, before the smallest is searched
THICKEST, THINNEST = 3.0, 0.25  # times the present core
ANGLES = (0.0, 45.0, 90.0)

Judge = Callable[[Candidate], CandidateResult]


class Way(msgspec.Struct, frozen=True):
    """What one lever can do alone: ``candidate`` passes, or is None and ``blocked`` says what stops it."""

    lever: str
    text: str
    candidate: Candidate | None = None
    result: CandidateResult | None = None
    blocked: str = ""


class WaysOut:
    """The levers of one candidate.  ``cancelled`` is asked before each evaluation and ends the search."""

    def __init__(
        self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material], units: UnitSystem,
        evaluator: Evaluator, cancelled: Callable[[], bool] = lambda: False,
    ) -> None:  # fmt: skip
        self.brief, self.candidate, self.materials, self.units = brief, candidate, materials, units
        self._evaluator, self._cancelled = evaluator, cancelled
        self.count = 0

    def judge(self, candidate: Candidate) -> CandidateResult:
        """Full result of a changed candidate.  Raises Cancelled."""
        if self._cancelled():
            raise Cancelled
        self.count += 1
        return self._evaluator.evaluate(self.brief, candidate, self.materials)

    def find(self) -> Iterator[Way]:
        """The ways, cheapest levers to look at first; ends early when cancelled."""
        try:
            result = self.judge(self.candidate)
            if not result.ok:
                return
            cores = [i for i, layer in enumerate(self.candidate.layers) if layer.role == "core"]
            if len(cores) == 1:
                yield from self._turn_ribbon(cores[0])
                yield self._core_thickness(cores[0], up=not result.passes)
            yield from self._one_less_ply() if result.passes else self._one_more_ply(cores)
            if len(cores) == 1:
                yield self._other_core(cores[0], result)
        except Cancelled:
            return

    # --- levers ---------------------------------------------------------------------------------------------

    def _turn_ribbon(self, core: int) -> Iterator[Way]:
        layer = self.candidate.layers[core]
        if self.materials[layer.material].family == "honeycomb":
            turned = replace(layer, angle=edits.step_angle(layer.angle, 90.0))
            yield self._way(
                "ribbon", f"turn the ribbon to {turned.angle:g}°", edits.set_layer(self.candidate, core, turned)
            )

    def _core_thickness(self, core: int, up: bool) -> Way:
        """Thickness need not work one way only: the range is looked over before the smallest change is searched."""
        layer, step = self.candidate.layers[core], STEP[self.units]
        now = layer.thickness or 0.0
        furthest = max(1, round(now * ((THICKEST - 1.0) if up else (1.0 - THINNEST)) / step))

        def changed(steps: int) -> Candidate:
            thickness = round(now + (steps if up else -steps) * step, 9)
            return edits.set_layer(self.candidate, core, replace(layer, thickness=thickness))

        looked = sorted({max(1, round(furthest * k / COARSE)) for k in range(1, COARSE + 1)})
        results = {steps: self.judge(changed(steps)) for steps in looked}
        passing = [steps for steps in looked if results[steps].passes]
        if not passing:
            nearest = max(looked, key=lambda steps: _worst(results[steps]))
            return Way("core", f"a {'thicker' if up else 'thinner'} core", blocked=_stops(results[nearest]))
        # up: the first that passes; down: the last before the first that fails
        if up:
            best = passing[0]
            low, high = max((s for s in looked if s < best), default=0), best
        else:
            best = next((a for a, b in zip(looked, [*looked[1:], 0], strict=True)
                         if results[a].passes and (b == 0 or not results[b].passes)), passing[-1])  # fmt: skip
            low, high = best, min((s for s in looked if s > best), default=best + 1)
        while high - low > 1:
            middle = (low + high) // 2
            if self.judge(changed(middle)).passes == up:
                high = middle
            else:
                low = middle
        steps = high if up else low
        thickness = quantity(now + (steps if up else -steps) * step, "length", self.units)
        return self._way("core", f"core {thickness}", changed(steps))

    def _one_more_ply(self, cores: list[int]) -> Iterator[Way]:
        """The best angle of one more ply on the outside of each face, and the best of those is named with its face."""
        plies = [layer for layer in self.candidate.layers if layer.thickness is None]
        for face, at in (("A", 0), ("B", len(self.candidate.layers))):
            if not plies or (face == "B" and not cores):
                continue
            outer = next(la for la in (self.candidate.layers if face == "A" else self.candidate.layers[::-1])
                         if la.thickness is None)  # fmt: skip
            tried = []
            for angle in ANGLES:
                new = edits.insert_layers(self.candidate, at, [LayerRecord(outer.material, angle)])
                tried.append((self.judge(new), angle, new))
            result, angle, new = max(tried, key=lambda item: _worst(item[0]))
            text = f"face {face}: one more {outer.material} {angle:g}°"
            yield self._way("ply", text, new, result)

    def _one_less_ply(self) -> Iterator[Way]:
        """The lightest candidate without one of the plies."""
        tried = []
        for i, layer in enumerate(self.candidate.layers):
            if layer.role == "ply" and layer.thickness is None:
                new = edits.remove_layers(self.candidate, [i])
                tried.append((self.judge(new), i, new))
        passing = [item for item in tried if item[0].passes]
        if passing:
            result, i, new = min(passing, key=lambda item: item[0].mass)
            yield self._way("ply", f"without layer {i + 1} ({self.candidate.layers[i].material})", new, result)
        elif tried:
            nearest = max(tried, key=lambda item: _worst(item[0]))
            yield Way("ply", "one ply less", blocked=_stops(nearest[0]))

    def _other_core(self, core: int, present: CandidateResult) -> Way:
        """The lightest other core of the same thickness that passes."""
        layer = self.candidate.layers[core]
        tried = []
        for name, material in self.materials.items():
            if name != layer.material and material.kind == "core":
                new = edits.set_layer(self.candidate, core, replace(layer, material=name))
                tried.append((self.judge(new), name, new))
        passing = [item for item in tried if item[0].passes and (not present.passes or item[0].mass < present.mass)]
        if passing:
            result, name, new = min(passing, key=lambda item: item[0].mass)
            return self._way("material", f"core of {name}", new, result)
        nearest = max(tried, key=lambda item: _worst(item[0]), default=None)
        why = "no lighter core passes" if present.passes else _stops(nearest[0]) if nearest else "there is no other"
        return Way("material", "another core of this thickness", blocked=why)

    def _way(self, lever: str, text: str, candidate: Candidate, result: CandidateResult | None = None) -> Way:
        result = result or self.judge(candidate)
        if not result.passes:
            return Way(lever, text, blocked=_stops(result))
        origin = f"{self.candidate.name}: {text}"
        return Way(lever, text, replace(candidate, origin=origin), result)


class Cancelled(Exception):  # noqa: N818 - it is no error
    """The search was told to stop."""


def _worst(result: CandidateResult) -> float:
    """Least reserve over what is required; below any other where nothing could be computed."""
    check = result.governing
    return -1.0 if check is None else check.reserve_factor / check.required


def _stops(result: CandidateResult) -> str:
    """What keeps a change from passing."""
    if not result.ok:
        return result.error
    check, _ = governing_text(result)
    return f"stopped by {check[:1].lower()}{check[1:]}"


def as_candidate(way: Way, brief: Brief) -> tuple[ArrangeCandidates, str]:
    """(command, id) that puts a way into the line-up beside the candidate it came from."""
    assert way.candidate is not None
    command, identity = edits.duplicate_candidate(brief, way.candidate.id)
    name = f"{way.candidate.name}, {way.text}"
    new = replace(way.candidate, id=identity, name=name[:80], accepted=())
    candidates = tuple(new if candidate.id == identity else candidate for candidate in command.new)
    return replace(command, new=candidates, text=f"add '{way.text}'"), identity
