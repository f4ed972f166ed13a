"""What a check is given and what it returns."""

from __future__ import annotations

from functools import cached_property
from typing import Literal, Protocol

import msgspec
import numpy as np

from omakase.core.checks.places import Places
from omakase.core.design_values import DesignCondition
from omakase.core.details.detail import Detail
from omakase.core.laminate.stack import Stack
from omakase.core.materials.provenance import Source
from omakase.core.members.field import Named, Place, Response, WallCase, WallField
from omakase.core.plates.section import PlateSection

Kind = Literal["strength", "stiffness", "limit"]
NOWHERE = Place()
WrinklingRule = Literal["design", "theory"]


class Settings(msgspec.Struct, frozen=True):
    """How strength is judged.  ``factor_of_safety`` × ``special_factor`` takes limit loads to ultimate;
    ``conditions`` : design values agreed on."""

    factor_of_safety: float = 1.5
    special_factor: float = 1.0
    criterion: str = "maximum_strain"
    wrinkling: WrinklingRule = "design"
    conditions: tuple[DesignCondition, ...] = ()

    @property
    def ultimate_factor(self) -> float:
        return self.factor_of_safety * self.special_factor


class Limits(msgspec.Struct, frozen=True):
    """Limits of a brief in SI units; None where the brief sets none."""

    deflection: float | None = None
    frequency_minimum: float | None = None
    frequency_band: tuple[float, float] | None = None
    reserve_factor: float = 1.0
    mass: float | None = None
    thickness: float | None = None
    rotation: float | None = None
    twist: float | None = None
    diameter: float | None = None
    bay_sag: float | None = None
    span_mass: float | None = None
    divergence: float | None = None


class CheckResult(msgspec.Struct, frozen=True):
    """One check of one candidate.

    ``value`` and ``allowable`` are in SI units of ``dimension``; strength values are at ultimate load, stiffness
    values at limit load.  ``reserve_factor`` = allowable / value where the check is linear; infinite when nothing
    acts.  ``required`` is what the reserve factor must reach.  ``load_case`` is the name a person gave, which two may
    share; ``case_id`` tells them apart.  Both are empty where no load case is meant.  ``wall`` : whose result it is,
    empty where the member has only one wall, or of the member as a whole.  ``detail`` : id of the detail that it is
    about, ``detail_name`` what people call that; empty for all else.
    """

    check: str
    title: str
    kind: Kind
    dimension: str
    value: float
    allowable: float
    reserve_factor: float
    required: float
    load_case: str
    place: Place
    method: str
    source: Source
    remarks: tuple[str, ...] = ()
    case_id: str = ""
    wall: str = ""
    detail: str = ""
    detail_name: str = ""

    @property
    def key(self) -> tuple[str, str, str, str]:
        """Check, load case, wall, detail: what distinguishes this result from all others, whatever load cases are
        called."""
        return self.check, self.case_id, self.wall, self.detail

    @property
    def full_title(self) -> str:
        """The title, with the wall or the detail it is about."""
        if self.detail:
            return f"{self.title}, {self.detail_name}"
        return f"{self.title}, {self.wall}" if self.wall and self.wall not in self.title else self.title

    @property
    def short_title(self) -> str:
        """The title for a list that names the detail in a column of its own."""
        return self.title if self.detail else self.full_title

    @property
    def passes(self) -> bool:
        # equal to the limit is within it; the slack covers rounding in unit conversion only
        return self.reserve_factor >= self.required * (1.0 - 1e-9)


class Context(msgspec.Struct, frozen=True, eq=False, dict=True):
    """Everything a check may look at: one wall of a member, and the member's own numbers."""

    field: WallField
    response: Response
    settings: Settings
    limits: Limits

    @property
    def stack(self) -> Stack:
        return self.field.stack

    @property
    def section(self) -> PlateSection:
        return self.field.section

    @property
    def cases(self) -> tuple[WallCase, ...]:
        return self.field.cases

    def result(
        self, check: str, title: str, case: Named | None, value: float, allowable: float,
        place: Place = NOWHERE, *, method: str, source: Source, reserve: float | None = None,
        remarks: tuple[str, ...] = (), dimension: str = "ratio", kind: Kind = "strength", wall: str = "",
    ) -> CheckResult:  # fmt: skip
        """The result of one check under a load case, or under none.

        ``reserve`` : where it is not allowable over value.  A strength must reach the brief's reserve factor, others 1.
        """
        return made_result(
            self.limits, check, title, case, value, allowable, place, method, source, reserve, remarks, dimension, kind,
            wall,
        )  # fmt: skip

    @cached_property
    def places(self) -> Places:
        """All load cases' places side by side."""
        return Places(self.field.cases)


class DetailContext(msgspec.Struct, frozen=True, eq=False):
    """Everything a check of a detail may look at: the detail with its load cases, and how strength is judged."""

    detail: Detail
    settings: Settings
    limits: Limits

    def result(
        self, check: str, title: str, case: Named | None, value: float, allowable: float, *, method: str,
        source: Source, reserve: float | None = None, remarks: tuple[str, ...] = (), dimension: str = "ratio",
        kind: Kind = "strength", surface: str = "",
    ) -> CheckResult:  # fmt: skip
        """The result of one check of the detail under a load case, or under none."""
        site = self.detail.site
        place = Place(site.x, site.y, wall=site.wall, surface=surface)
        made = made_result(
            self.limits, check, title, case, value, allowable, place, method, source, reserve, remarks, dimension, kind
        )
        return msgspec.structs.replace(made, detail=self.detail.key, detail_name=self.detail.name)


def made_result(
    limits: Limits, check: str, title: str, case: Named | None, value: float, allowable: float, place: Place,
    method: str, source: Source, reserve: float | None, remarks: tuple[str, ...], dimension: str, kind: Kind,
    wall: str = "",
) -> CheckResult:  # fmt: skip
    """A result with what is required of it: of a strength the brief's reserve factor, of others 1."""
    if reserve is None:
        reserve = allowable / value if value > 0.0 else np.inf
    required = limits.reserve_factor if kind == "strength" else 1.0
    name, key = ("", "") if case is None else (case.name, case.key)
    return CheckResult(
        check, title, kind, dimension, value, allowable, reserve, required, name, place, method, source, remarks,
        key, wall,
    )  # fmt: skip


class Check(Protocol):
    """A failure mode or limit: gives one result per load case it applies to, or none."""

    def __call__(self, context: Context) -> list[CheckResult]: ...


class DetailCheck(Protocol):
    """A failure mode of a kind of detail: gives one result per load case it applies to, or none."""

    def __call__(self, context: DetailContext) -> list[CheckResult]: ...
