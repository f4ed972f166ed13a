"""Design values by condition: strains and stresses that a team agrees not to go beyond, by family of materials."""

from __future__ import annotations

import msgspec

Box = tuple[float, float, float, float]  # low x, high x, low y, high y, m


class FamilyValues(msgspec.Struct, frozen=True):
    """Cut-offs of one family, None for none: strains along the fibres pulled and pressed, and in shear, at ultimate
    load; of metals the stress at limit load, ``yield_stress``, and at ultimate load, ``ultimate``, Pa.

    ``told`` : source, basis and temperature in words.
    """

    tension: float | None = None
    compression: float | None = None
    shear: float | None = None
    yield_stress: float | None = None
    ultimate: float | None = None
    told: str = ""
    assumed: bool = False


class DesignCondition(msgspec.Struct, frozen=True):
    """A named condition: values by family, and the ``boxes`` of the member that it is for; None for everywhere."""

    name: str
    families: dict[str, FamilyValues]
    boxes: tuple[Box, ...] | None = None
