"""Coupon to part: what two recipes differ by in mass per specimen area, carried to a part and to the vehicle."""

from __future__ import annotations

import msgspec

from omakase.core.build.errors import BuildError
from omakase.core.build.ledger import Carried, coupon_to_part
from omakase.evaluate.build.plan import PartPlan
from omakase.evaluate.build.weights import face_area
from omakase.evaluate.testing.comparing import specimen_area
from omakase.project.model import Project, Series, by_id
from omakase.units import UnitSystem, format_value

LEAST = 2  # weighed specimens of a series


class Weighed(msgspec.Struct, frozen=True):
    """A series with weighed specimens: kg of each, and m² of one where its sizes say so, else 0."""

    series: Series
    masses: tuple[float, ...]
    area: float


def weighed_series(project: Project) -> list[Weighed]:
    """Series with two weighed specimens or more."""
    found = []
    for series in project.series:
        masses = tuple(own.mass.value for own in series.specimens if own.mass is not None and own.mass.value > 0.0)
        if len(masses) >= LEAST:
            found.append(Weighed(series, masses, specimen_area(series.sizes, "overlap")))
    return found


def parts_in_vehicles(project: Project, part: PartPlan) -> int:
    """How many of a part's brief the vehicles hold, at least as many as the job's unit."""
    held = sum(own.count for vehicle in project.vehicles for own in vehicle.parts if own.brief == part.made.brief.id)
    return max(held, part.made.part.count)


def carried(project: Project, first: str, second: str, area: float, part: PartPlan) -> tuple[Carried, int]:
    """The difference of the second series from the first, and of how many parts.  ``area`` : m² of a specimen.

    Raises BuildError.
    """
    known = {own.series.id: own for own in weighed_series(project)}
    if first not in known or second not in known or by_id(project.series, first) is None:
        raise BuildError("two series with weighed specimens are wanted: weigh them at the test bench (Ctrl+J)")
    if first == second:
        raise BuildError("choose two different series")
    count = parts_in_vehicles(project, part)
    face = face_area(part.made, part.areas)
    return coupon_to_part(known[first].masses, known[second].masses, area, area, face, count), count


def carried_words(found: Carried, count: int, title: str, units: UnitSystem) -> str:
    """The difference in one sentence."""

    def pair(value: float, spread: float, dimension: str) -> str:
        shown = format_value(value, dimension, units)
        sign = "" if shown.startswith("−") else "+"
        return f"{sign}{shown} ± {format_value(spread, dimension, units, with_unit=True)}"

    text = f"{pair(found.per_area, found.per_area_scatter, 'areal_mass')}; {title}: "
    text += pair(found.part, found.part_scatter, "small_mass")
    if count > 1:
        text += f"; {count} of them: {pair(found.all_parts, found.all_scatter, 'small_mass')}"
    return f"{text}."
