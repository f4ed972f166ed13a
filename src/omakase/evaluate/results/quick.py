"""What edits are answered by before the full order is there, and when that is near enough."""

from __future__ import annotations

import math
from collections.abc import Iterator

import msgspec

from omakase.core.members.panel_given import FULL, QUICK, Accuracy
from omakase.core.members.reduced_panel import LIVE
from omakase.evaluate.members.registry import kind_of
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.project import edits, translate
from omakase.project.commands import replace
from omakase.project.model import Brief, Candidate

CORE_SHARES = (0.7, 1.4)
MOST_PLIES = 6
TURNS = (12.0, -12.0, 45.0, -45.0, 90.0)
QUICK_WITHIN = 0.03  # a quick reserve factor further from the full one asks for new shapes
ENOUGH = 20.0  # reserve factors beyond it are alike


def live(brief: Brief) -> Accuracy:
    """How finely prepared shapes are looked at: the first modes only, unless a band forbids others too."""
    return _with_modes(LIVE, brief)


def quick_order(brief: Brief) -> Accuracy:
    """The quick order for a brief."""
    return _with_modes(QUICK, brief)


def stretched_order(brief: Brief) -> Accuracy:
    """The coarse order that counts stretching."""
    return msgspec.structs.replace(quick_order(brief), large=True)


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


def differs(quick: CandidateResult, full: CandidateResult) -> bool:
    """Whether a quick result was further from the full one than it should be; one that is rough says nothing, and one
    that counts stretching nothing of prepared shapes."""
    if quick.rough or quick.accuracy.large:
        return False
    exact = {check.key: check for check in full.checks}
    for check in quick.checks:
        other = exact.get(check.key)
        if other is None or not math.isclose(
            min(check.reserve_factor, ENOUGH), min(other.reserve_factor, ENOUGH), rel_tol=QUICK_WITHIN
        ):
            return True
    return False


def quickly_reduced(brief: Brief, candidate: Candidate) -> bool:
    """Whether edits of a candidate are answered from prepared shapes, which are those of a linear flat panel."""
    return candidate.measured is None and kind_of(brief).reduced and translate.is_linear(brief, candidate)


def slow(brief: Brief, candidate: Candidate) -> bool:
    """Whether even the quick order takes longer than an edit may: of panels with zones, ribs or bolts, and curved."""
    if candidate.measured is not None or not kind_of(brief).reduced:
        return False
    return translate.is_built(brief, candidate) or translate.is_curved(candidate)
