"""How far each ply must run along a span: where the rest of the member does not carry its loads without it."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence

import msgspec
import numpy as np

from omakase.core.errors import OmakaseError
from omakase.core.laminate.stack import Layer
from omakase.core.materials.material import Material
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.results.diagrams import has_span, reserve_curve
from omakase.evaluate.results.engine import Evaluator
from omakase.project import edits, translate
from omakase.project.model import Brief, Candidate

LEAST_RUN_OUT = 20.0  # ply thicknesses (common practice, no source)


class NeededRun(msgspec.Struct, frozen=True):
    """From ``low`` to ``high`` m a layer is needed for strength; both 0 where it is nowhere.

    ``run_out`` : m beyond that over which its force passes into the plies beside it.  ``limits`` : what else would fail
    without it, in words.  ``error`` : why nothing could be worked out without it, as where it is all that a wall has.
    """

    low: float = 0.0
    high: float = 0.0
    run_out: float = 0.0
    limits: tuple[str, ...] = ()
    error: str = ""

    @property
    def needed(self) -> bool:
        return self.high > self.low

    def ends(self, length: float) -> tuple[float, float]:
        """Where the layer may begin and end, m, its run-outs counted."""
        return max(0.0, self.low - self.run_out) if self.low > 0.0 else 0.0, min(length, self.high + self.run_out)


def run_out(layer: Layer) -> float:
    """m over which the force of a ply at its strength goes into the plies beside it: t X_t/S_13 (mean shear, common
    practice, no source), at least 20 times its thickness."""
    material, least = layer.material, LEAST_RUN_OUT * layer.thickness
    if "Xt" not in material.properties or "S13" not in material.properties:
        return least
    return max(least, layer.thickness * material.value("Xt") / material.value("S13"))


def needed_runs(
    brief: Brief, candidate: Candidate, rows: Sequence[int], materials: Mapping[str, Material], evaluator: Evaluator,
    stopped: Callable[[], bool] = lambda: False,
) -> Iterator[tuple[int, NeededRun]]:  # fmt: skip
    """(row, how far it must run) of layers of a candidate, each worked out by leaving that one out.

    Each is judged with all others in place: two that are not needed one at a time may be needed together.
    """
    length = float(getattr(brief.member, "length", 0.0))
    for row in rows:
        if stopped():
            return
        without = evaluator.evaluate(brief, edits.remove_layers(candidate, [row]), materials)
        if not without.ok or not has_span(without):
            yield row, NeededRun(0.0, length, error=without.error)
            continue
        try:
            out = run_out(translate.layer(candidate.layers[row], materials, brief.surroundings))
        except OmakaseError as error:
            yield row, NeededRun(0.0, length, error=str(error))
            continue
        low, high = _where_it_fails(brief, without, length)
        limits = dict.fromkeys(
            check.full_title.lower() for check in without.checks if not check.passes and check.kind != "strength"
        )
        yield row, NeededRun(low, high, out, tuple(limits))


def _where_it_fails(brief: Brief, result: CandidateResult, length: float) -> tuple[float, float]:
    """The stretch, m, outside of which the reserve of plies and walls is enough under every load case."""
    required = brief.limits.reserve_factor
    low, high = length, 0.0
    for index in range(len(brief.load_cases)):
        curve = reserve_curve(brief, result, index)
        short = np.nonzero(curve.values < required * (1.0 - 1e-9))[0]
        if len(short):
            low = min(low, _crossing(curve.x, curve.values, int(short[0]), -1, required))
            high = max(high, _crossing(curve.x, curve.values, int(short[-1]), 1, required))
    return (low, high) if high > low else (0.0, 0.0)


def _crossing(x: np.ndarray, values: np.ndarray, index: int, step: int, required: float) -> float:
    """Where a curve reaches what is required, between a station that falls short and the next one."""
    other = index + step
    if not 0 <= other < len(x):
        return float(x[index])
    share = (required - values[index]) / (values[other] - values[index])
    return float(x[index] + min(max(share, 0.0), 1.0) * (x[other] - x[index]))
