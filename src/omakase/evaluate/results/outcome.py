"""What a proposal comes to, in the few numbers that a list shows: small enough to pass between processes."""

from __future__ import annotations

from collections.abc import Mapping

import msgspec

from omakase.core.materials.material import Material
from omakase.evaluate.members.sentence import within
from omakase.evaluate.results.candidate_result import CandidateResult
from omakase.evaluate.results.costing import part_cost
from omakase.evaluate.results.wording import governing_text
from omakase.project.model import Brief, Candidate

OTHERS = ("rotation", "twist", "diameter", "bay_sag", "span_mass", "divergence")
RIBBED = ("skin_mass", "rib_mass")
OF_A_RIB = {"bay_buckling": "buckling", "crushing": "rib_crushing"}  # reserves that are studied, by their check


class Cost(msgspec.Struct, frozen=True):
    """Price of a member's layers in the shop's money, and those that state none; ``laid`` : with hands and resin."""

    value: float
    missing: tuple[str, ...] = ()
    laid: bool = False


class CaseShare(msgspec.Struct, frozen=True):
    """Least reserve over what is required under one load case."""

    id: str
    name: str
    share: float


class Outcome(msgspec.Struct, frozen=True):
    """Result of one candidate in short.

    ``share`` : least reserve over what is required, 1 at the limit, negative where nothing could be computed;
    ``cases`` : the same per load case.  ``governs`` : which check that is, with its place.  Masses in kg and kg/m²,
    lengths in m, frequency in Hz; nan where a number is missing.  ``others`` : further quantities by key, of
    strips and tubes.
    """

    passes: bool
    share: float
    governs: str
    error: str = ""
    mass: float = float("nan")
    areal_mass: float = float("nan")
    thickness: float = float("nan")
    deflection: float = float("nan")
    frequency: float = float("nan")
    reserve: float = float("nan")
    cost: Cost | None = None
    cases: tuple[CaseShare, ...] = ()
    wall: str = ""
    others: dict[str, float] = {}

    @property
    def weight(self) -> tuple[float, str]:
        """(by what it is compared, its dimension), as of a result."""
        return (self.others["span_mass"], "line_mass") if "span_mass" in self.others else (self.mass, "mass")

    @property
    def stops(self) -> str:
        """What keeps it from passing, as the end of a sentence."""
        return self.error or f"stopped by {within(self.governs)}"


def cost_of(brief: Brief, candidate: Candidate, materials: Mapping[str, Material]) -> Cost | None:
    """Price of a member: by the shop's rates where it states them, else of what is bought; None where no layer states
    one."""
    made = part_cost(brief, candidate, materials)
    return None if made is None else Cost(made.price, made.missing, made.laid)


def outcome(brief: Brief, result: CandidateResult, materials: Mapping[str, Material]) -> Outcome:
    """A result in short."""
    check = result.governing
    if not result.ok or check is None:
        error = result.error or "the brief sets no load or limit"
        return Outcome(result.ok and not result.error, -1.0, "", error)
    per_case: dict[str, CaseShare] = {}
    for checked in result.checks:
        if checked.case_id:
            share = checked.reserve_factor / checked.required
            if checked.case_id not in per_case or share < per_case[checked.case_id].share:
                per_case[checked.case_id] = CaseShare(checked.case_id, checked.load_case, share)
    title, place = governing_text(result)
    deflection, frequency = result.worst("deflection"), result.worst("frequency")
    assert result.response is not None
    strength = [checked.reserve_factor for checked in result.checks if checked.kind == "strength"]
    others = {key: worst.value for key in OTHERS if (worst := result.worst(key)) is not None}
    others |= {key: found[0].value for key in RIBBED if (found := result.response.measures.get(key))}
    if "span_mass" in others:
        for key, name in OF_A_RIB.items():
            others[key] = min((own.reserve_factor for own in result.checks if own.check == name), default=float("inf"))
    return Outcome(
        result.passes,
        check.reserve_factor / check.required,
        f"{title}, {place}" if place else title,
        "",
        result.mass,
        result.areal_mass,
        result.response.measures["thickness"][0].value,
        float("nan") if deflection is None else deflection.value,
        float("nan") if frequency is None else frequency.value,
        min(strength, default=float("nan")),
        cost_of(brief, result.candidate, materials),
        tuple(per_case.values()),
        check.check,
        others,
    )
