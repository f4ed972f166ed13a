"""A glued seam: a lap, a lip that closes two shells, a cap or stringer on its sheet, a scarf, a stepped joint."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import cached_property
from typing import Literal

import msgspec
import numpy as np

from omakase.core.details.adhesive_layer import (
    NODES,
    Adherend,
    Glue,
    Lap,
    LapStress,
    elastic_peak,
    end_moments,
    plastic_capacity,
    shear_between,
)
from omakase.core.details.detail import (
    BentSheet,
    DetailError,
    LineCase,
    Site,
    bending_across,
    stiffness_along,
    strength_along,
    turned,
)
from omakase.core.errors import both_units
from omakase.core.laminate.stack import Stack
from omakase.core.laminate.stiffness import laminate_abd
from omakase.core.materials.material import Material

Form = Literal["lap", "lip", "cap", "stringer", "scarf", "step"]
# what is left of a glue's strength (common practice, no source): tests of one's own replace them
PREPARED = {"abraded": 1.0, "peel_abraded": 0.95, "peel_ply": 0.8, "moulded": 0.4}
SURROUNDED = {"dry": 1.0, "warm": 0.75, "hot_wet": 0.5}
MOST_OVERLAP = 0.3  # m, up to which a wider overlap is looked for


class Bond(msgspec.Struct, frozen=True, eq=False, dict=True):
    """A seam ``overlap`` m wide, its ``gap`` m filled with an ``adhesive``, between two sheets.

    ``first`` lies above, glued with its face B, on face A of ``second``; it is the site's laminate or one of its faces.
    ``angle`` : direction of the pull across the seam, degrees from x toward y.  ``bends`` : free to bend as a single
    lap is.  ``laminate_first`` : the sheets are to fail before the glue.  ``steps`` of a stepped joint.
    ``preparation``, ``surroundings`` : keys of ``PREPARED`` and ``SURROUNDED``.
    """

    key: str
    name: str
    site: Site
    cases: tuple[LineCase, ...]
    first: Stack
    second: Stack
    adhesive: Material
    overlap: float
    gap: float
    form: Form = "lap"
    angle: float = 0.0
    bends: bool = True
    laminate_first: bool = False
    steps: int = 4
    preparation: str = "abraded"
    surroundings: str = "dry"
    temperature: float = 296.15

    def check(self) -> None:
        """Raises DetailError for sizes that cannot be."""
        low, high = (self._stated(key, default) for key, default in (("gap_low", 0.0), ("gap_high", math.inf)))
        for fails, field, message in (
            (not 1e-3 <= self.overlap <= 1.0, "overlap",
             f"an overlap of {both_units(self.overlap)} is not within 1 mm to 1 m"),
            (not 1e-6 <= self.gap <= 0.02, "gap", f"a bond line of {both_units(self.gap)} is outside 1 µm to 20 mm"),
            (not low * (1.0 - 1e-9) <= self.gap <= high * (1.0 + 1e-9), "gap",
             f"{self.adhesive.id} wants a bond line of {low * 1e3:g} to {high * 1e3:g} mm, not {self.gap * 1e3:g}"),
            (self.steps < 1, "steps", "at least one step"),
        ):  # fmt: skip
            if fails:
                raise DetailError(field, message)

    def _stated(self, key: str, default: float) -> float:
        return stated(self.adhesive, key, default)

    @property
    def kept(self) -> float:
        """Share of the glue's strength that surface and surroundings leave."""
        return PREPARED[self.preparation] * SURROUNDED[self.surroundings]

    @cached_property
    def glue(self) -> Glue:
        """The glue as the theory takes it."""
        return glue_of(self.adhesive, self.gap, self.kept)

    @property
    def mean_strength(self) -> float:
        """Lap strength that is left, Pa."""
        return self.kept * self.adhesive.value("lap_shear")

    # --- sheets ---------------------------------------------------------------------------------------------------

    @cached_property
    def sheets(self) -> tuple[Adherend, Adherend]:
        """Both sheets across the seam: stretched free to contract, bent over a long seam."""
        one, two = (
            Adherend(stiffness_along(stack, self.angle), bending_across(stack, self.angle), stack.thickness)
            for stack in (self.first, self.second)
        )
        return one, two

    @cached_property
    def shear_sheets(self) -> tuple[float, float]:
        """Stiffness of both sheets against shear along the seam, N/m."""
        one, two = (float(laminate_abd(turned(stack, -self.angle))[0][2, 2]) for stack in (self.first, self.second))
        return one, two

    def sheet_strength(self, pulled: bool = True) -> float:
        """N/m across the seam at which a ply of the weaker sheet fails first."""
        return min(
            strength_along(stack, self.angle, pulled) * stack.thickness for stack in (self.first, self.second)
        )  # fmt: skip

    # --- shear ----------------------------------------------------------------------------------------------------

    @cached_property
    def capacity(self) -> float:
        """N/m across the seam that the glue carries in shear."""
        return self.capacity_of(self.overlap, self.gap)

    @cached_property
    def flow_capacity(self) -> float:
        """N/m along the seam that the glue carries in shear."""
        return plastic_capacity(self.glue, *self.shear_sheets, self.overlap)

    def capacity_of(self, overlap: float, gap: float) -> float:
        """``capacity`` with another overlap and bond line."""
        glue = msgspec.structs.replace(self.glue, gap=gap)
        A1, A2 = self.sheets[0].A, self.sheets[1].A
        if self.form in ("scarf", "step"):
            return glue.shear_strength / self._tapered_peak(overlap, gap)
        return plastic_capacity(glue, A1, A2, overlap)

    def _tapered_peak(self, overlap: float, gap: float) -> float:
        """Largest elastic shear stress per N/m of a scarf or a stepped joint, 1/m."""
        middles = (np.arange(NODES - 1) + 0.5) / (NODES - 1)
        if self.form == "step":
            middles = (np.floor(middles * self.steps) + 0.5) / self.steps
        one, two = self.sheets[0].A * (1.0 - middles), self.sheets[1].A * middles
        return float(np.abs(shear_between(one, two, overlap, self.glue.G / gap)).max())

    @cached_property
    def peak(self) -> float:
        """Largest elastic shear stress per N/m of pull, over the mean: how uneven the glue is loaded."""
        if self.form in ("scarf", "step"):
            return self._tapered_peak(self.overlap, self.gap) * self.overlap
        return elastic_peak(self.glue, self.sheets[0].A, self.sheets[1].A, self.overlap) * self.overlap

    def turns_at(self, wanted: float) -> tuple[float | None, float | None]:
        """(least overlap, at the present bond line, else None; thickest-needed bond line at the present overlap, else
        None) in m at which the glue carries ``wanted`` N/m."""
        return (
            _least(lambda overlap: self.capacity_of(overlap, self.gap) - wanted, 1e-3, MOST_OVERLAP),
            _least(lambda gap: self.capacity_of(self.overlap, gap) - wanted, 2e-5, self._stated("gap_high", 5e-3)),
        )

    # --- peel -----------------------------------------------------------------------------------------------------

    @cached_property
    def lap(self) -> Lap:
        return Lap(*self.sheets, self.glue, self.overlap)

    @cached_property
    def bent(self) -> tuple[BentSheet, BentSheet]:
        """Both sheets across the seam, pulled and bent."""
        return BentSheet(turned(self.first, -self.angle)), BentSheet(turned(self.second, -self.angle))

    @property
    def peels(self) -> bool:
        """Whether pull opens the seam: not that of scarfs and steps."""
        return self.form not in ("scarf", "step")

    def stress(self, case: LineCase, level: float) -> LapStress:
        """Stress in the glue under a case times ``level``."""
        return self.lap.stress(case.pull * level, abs(case.opening) * level, self.bends)

    def largest_peel(self, case: LineCase, level: float) -> float:
        """Largest stress that pulls the sheets apart, Pa."""
        return max(0.0, float(self.stress(case, level).peel.max()))

    def sheet_index(self, case: LineCase, level: float, criterion: str) -> float:
        """Load over strength of the plies where a sheet enters the overlap: its pull and the moment of the lap."""
        pull, left, right = case.pull * level, 0.0, 0.0
        if self.bends:
            left, right = end_moments(*self.sheets, self.gap, self.overlap, pull)
        least = min(
            sheet.reserve(pull, moment, criterion) for sheet, moment in zip(self.bent, (left, right), strict=True)
        )
        return 1.0 / least if least > 0.0 else math.inf


def stated(material: Material, key: str, default: float) -> float:
    """A property, or another value where it is not stated."""
    return material.value(key) if key in material.properties else default


def glue_of(adhesive: Material, gap: float, kept: float) -> Glue:
    """A layer of an adhesive as the theory takes it, with the share ``kept`` of its strength; what it does not state
    follows from its modulus and lap strength.

    Its stiffness in tension through the thickness is E/(1 − ν²), since a long seam cannot contract along itself: that
    comes nearest to a finite-element model of a lap.
    """
    E, nu, lap = stated(adhesive, "E1", 2.5e9), stated(adhesive, "nu12", 0.35), adhesive.value("lap_shear")
    return Glue(
        stated(adhesive, "G12", E / (2.0 * (1.0 + nu))), E / (1.0 - nu**2), gap, kept * stated(adhesive, "S12", lap),
        kept * stated(adhesive, "Zt", lap), stated(adhesive, "plastic", 0.0),
    )  # fmt: skip


def _least(excess: Callable[[float], float], low: float, high: float) -> float | None:
    """The least size from which something is enough; None where no size up to ``high`` is."""
    from scipy.optimize import brentq  # slow to import

    if excess(high) < 0.0:
        return None
    return low if excess(low) >= 0.0 else float(brentq(excess, low, high, xtol=1e-6))
