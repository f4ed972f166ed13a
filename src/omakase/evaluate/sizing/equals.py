"""The same stiffness, or the same mass, made another way: solid, as a sandwich, and in metal, beside a candidate."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping
from typing import Literal

import msgspec

from omakase.core.errors import OmakaseError
from omakase.core.materials.material import Material
from omakase.core.members.panel_given import FULL, LINEAR
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.results.engine import Evaluator
from omakase.project import edits
from omakase.project.commands import ArrangeCandidates, replace
from omakase.project.model import Brief, Candidate, LayerRecord, new_id

By = Literal["stiffness", "mass"]
BY_WORDS: dict[By, str] = {"stiffness": "as stiff", "mass": "as heavy"}
METAL, CORE = "al6082", "pvc80"  # where the brief has none of its own
THINNEST, THICKEST = 2e-4, 0.15  # m, between which a thickness is looked for
MOST_PLIES = 100
CLOSE = 1e-3  # of the target
STEP = 0.2  # of the logarithm of a thickness: steps to one that is not stiff enough


class Equal(msgspec.Struct, frozen=True):
    """One of them; ``candidate`` is None where it cannot be, and ``why`` says so."""

    title: str
    candidate: Candidate | None
    why: str = ""


class Equals:
    """Looks for the solid laminate, the sandwich on a ``core`` and the sheet of metal that equal a candidate.

    Stiffness is the largest deflection under the brief's loads.  Sheet and core get the thickness that matches; a
    laminate takes whole plies of the candidate's own, as many as come nearest.  Raises OmakaseError for a candidate
    that cannot be computed, or under no load.
    """

    def __init__(
        self, brief: Brief, candidate: Candidate, materials: Mapping[str, Material], evaluator: Evaluator, by: By,
        core: str = "", cancelled: Callable[[], bool] = lambda: False,
    ) -> None:  # fmt: skip
        self.brief, self.candidate, self.materials, self.by = brief, candidate, materials, by
        self._evaluator, self._cancelled = evaluator, cancelled
        self.core = core or core_of(brief, materials)
        self.metal = metal_of(brief, materials)
        self._target = self._value(candidate)

    def find(self) -> Iterator[Equal]:
        """Each of the three in turn, but what the candidate is itself."""
        layers = self.candidate.layers
        cored = any(layer.role == "core" for layer in layers)
        plies = [layer for layer in layers if self._is_ply(layer)]
        if plies:
            if cored:
                yield self._solid(plies)
            yield self._sandwich(plies)
        if plies or cored or len(layers) > 1:
            yield self._sheet()

    def _is_ply(self, layer: LayerRecord) -> bool:
        known = self.materials.get(layer.material)
        return known is not None and known.kind == "ply" and layer.role == "ply" and layer.structural

    # --- the three --------------------------------------------------------------------------------------------

    def _sheet(self) -> Equal:
        def made(thickness: float) -> tuple[LayerRecord, ...]:
            return (LayerRecord(self.metal, thickness=thickness),)

        return self._by_thickness(f"{self.metal} sheet", made)

    def _sandwich(self, plies: list[LayerRecord]) -> Equal:
        """The candidate's plies in two halves, the larger above, on a core of the thickness that matches."""
        half = (len(plies) + 1) // 2
        above, below = tuple(plies[:half]), tuple(plies[half:]) or tuple(plies[:1])
        strip = [tuple(replace(ply, zone="", shared="", mirrored=False) for ply in face) for face in (above, below)]

        def made(thickness: float) -> tuple[LayerRecord, ...]:
            return (*strip[0], LayerRecord(self.core, thickness=thickness, role="core"), *strip[1])

        return self._by_thickness(f"sandwich on {self.core}", made)

    def _solid(self, plies: list[LayerRecord]) -> Equal:
        """Whole plies, in the candidate's own order over and over, as many as come nearest."""
        solid = [replace(ply, zone="", shared="", mirrored=False) for ply in plies]

        def made(count: int) -> tuple[LayerRecord, ...]:
            return tuple(solid[k % len(solid)] for k in range(count))

        low, high = 1, 2
        while not self._more_than(made(high)):
            if high == MOST_PLIES or self._cancelled():
                return Equal("solid laminate", None, f"it would need more than {MOST_PLIES} plies")
            low, high = high, min(2 * high, MOST_PLIES)
        while high - low > 1:
            middle = (low + high) // 2
            low, high = (low, middle) if self._more_than(made(middle)) else (middle, high)
        best = min((low, high), key=lambda count: abs(math.log(self._value_of(made(count)) / self._target)))
        return self._found("solid laminate", made(best))

    def _by_thickness(self, title: str, made: Callable[[float], tuple[LayerRecord, ...]]) -> Equal:
        from scipy.optimize import brentq  # slow to import

        def missing(exponent: float, linear: bool = False) -> float:
            return math.log(self._value(self._with(made(math.exp(exponent))), linear) / self._target)

        low, high = math.log(THINNEST), math.log(THICKEST)
        try:
            ends = [missing(end, linear=True) for end in (low, high)]
        except OmakaseError as error:
            return Equal(title, None, str(error))
        if (ends[0] > 0.0) == (ends[1] > 0.0):
            more = (ends[0] < 0.0) == (self.by == "stiffness")
            return Equal(title, None, f"even the {'thinnest is more' if more else 'thickest is less'} than that")
        found = brentq(missing, low, high, (True,), xtol=0.2 * CLOSE)
        # one that moves far is stiffer than the linear plate: a thinner one will do
        if self.by == "stiffness" and missing(found) < -CLOSE:
            high = found
            while missing(found) < 0.0:
                found -= STEP
                if found < low or self._cancelled():
                    return Equal(title, None, "even the thinnest is more than that")
            found = brentq(missing, found, high, xtol=0.2 * CLOSE)
        return self._found(title, made(round(math.exp(found), 7)))

    # --- values -----------------------------------------------------------------------------------------------

    def _found(self, title: str, layers: tuple[LayerRecord, ...]) -> Equal:
        value = self._value_of(layers) / self._target
        text = f"{title}, {BY_WORDS[self.by]} as {self.candidate.name or self.candidate.id}"
        if abs(value - 1.0) > 5.0 * CLOSE:
            text += f" ({value - 1.0:+.0%} {'deflection' if self.by == 'stiffness' else 'mass'})".replace("-", "−")
        return Equal(title, replace(self._with(layers), name=title[:1].upper() + title[1:], origin=text))

    def _with(self, layers: tuple[LayerRecord, ...]) -> Candidate:
        others = tuple(layer for layer in self.candidate.layers if layer.wall)  # ribs stay as they are
        return replace(self.candidate, layers=(*layers, *others), zones=(), accepted=(), note="")

    def _more_than(self, layers: tuple[LayerRecord, ...]) -> bool:
        """Whether a layup is stiffer, or heavier, than the candidate."""
        value = self._value_of(layers)
        return value < self._target if self.by == "stiffness" else value > self._target

    def _value_of(self, layers: tuple[LayerRecord, ...]) -> float:
        return self._value(self._with(layers))

    def _value(self, candidate: Candidate, linear: bool = False) -> float:
        """Largest deflection in m, or mass in kg.  Raises OmakaseError."""
        accuracy = LINEAR if linear or self.by == "mass" else FULL
        result: CandidateResult = self._evaluator.evaluate(self.brief, candidate, self.materials, accuracy)
        if not result.ok or result.response is None:
            raise OmakaseError(result.error)
        if self.by == "mass":
            return result.mass
        value = max((measure.value for measure in result.response.measures["deflection"]), default=0.0)
        if value <= 0.0:
            raise OmakaseError("nothing bends it: there is no stiffness to compare")
        return value


def core_of(brief: Brief, materials: Mapping[str, Material]) -> str:
    """The first core of a brief's candidates, else a foam of medium weight."""
    used = (layer.material for other in brief.candidates for layer in other.layers if layer.role == "core")
    return next((name for name in used if name in materials), CORE)


def metal_of(brief: Brief, materials: Mapping[str, Material]) -> str:
    """The metal of a brief's candidates, the baseline's first, else an aluminium."""
    ordered = sorted(brief.candidates, key=lambda other: other.id != brief.baseline)
    used = (layer.material for other in ordered for layer in other.layers)
    return next((name for name in used if name in materials and materials[name].is_metal), METAL)


def beside(brief: Brief, candidate: Candidate, equals: list[Equal]) -> ArrangeCandidates:
    """Command that puts them into the line-up after the candidate, as one step."""
    new: list[Candidate] = []
    taken = {other.id for other in brief.candidates}
    for equal in equals:
        if equal.candidate is not None:
            identity = new_id("c", taken)
            taken.add(identity)
            new.append(replace(equal.candidate, id=identity))
    at = [other.id for other in brief.candidates].index(candidate.id) + 1
    together = (*brief.candidates[:at], *new, *brief.candidates[at:])
    return edits.arrange(brief, together, f"what equals {candidate.name or candidate.id}")
