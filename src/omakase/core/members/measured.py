"""A part that is known by its measurements only: it stands in a line-up without a layup."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

import msgspec

from omakase.core.laminate.stack import Layer, Stack
from omakase.core.materials.material import Material
from omakase.core.materials.provenance import Sourced
from omakase.core.members.field import Measured, WallField
from omakase.core.plates.section import PlateSection

BY_STIFFNESS = "the whole force of the load case over the measured stiffness, which is that of one way of loading"
NOT_MEASURED = "its deflection was not measured"


class MeasuredCase(msgspec.Struct, frozen=True):
    """A load case by its name and the sum of its forces in N, without its sign."""

    name: str
    key: str
    force: float


class MeasuredResponse:
    """What the checks need of a measured part: ``mass`` kg, ``thickness`` m, ``area`` m² or nan where it is not known,
    ``stiffness`` N/m, and the force in N at which it broke."""

    def __init__(
        self, mass: float, thickness: float, area: float, cases: Sequence[MeasuredCase],
        stiffness: float | None = None, breaking: float | None = None,
    ) -> None:  # fmt: skip
        self.mass, self.area, self.breaking = mass, area, breaking
        self.loaded = tuple(case for case in cases if case.force > 0.0)
        self.areal_mass = mass / area
        density = self.areal_mass / thickness if math.isfinite(area) else 1000.0
        self.stack = Stack((Layer(_stand_in(density), 0.0, thickness),))
        self.fields = (WallField(self.stack, PlateSection(self.stack), ()),)
        self.frequencies: tuple[float, ...] = ()
        self.case_remarks: Mapping[str, tuple[str, ...]] = {}
        deflections: tuple[Measured, ...] = ()
        if stiffness is not None:
            deflections = tuple(
                Measured(case.force / stiffness, case.name, case.key, 0.0, None, (BY_STIFFNESS,))
                for case in self.loaded
            )  # fmt: skip
        self.measures: dict[str, tuple[Measured, ...]] = {
            "deflection": deflections, "thickness": (Measured(thickness),),
        }  # fmt: skip


def _stand_in(density: float) -> Material:
    """A sheet that gives the part its place in pictures; nothing of it is computed."""
    one = Sourced(1e9, "tested", "stands for a measured part")
    values = dict.fromkeys(("E1", "E2", "G12", "G13", "G23", "Xt", "Xc", "Yt", "Yc", "S12", "S13", "S23"), one)
    values |= {"density": Sourced(min(max(density, 5.0), 25000.0), "tested"), "nu12": Sourced(0.3, "tested")}
    return Material("measured", "a measured part", "sheet", "metal", values)
