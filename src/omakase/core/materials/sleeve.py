"""A braided sleeve pulled over another diameter than the one it was braided at."""

from __future__ import annotations

import math
from collections.abc import Mapping
from functools import lru_cache

import msgspec

from omakase.core.errors import MaterialError, both_units
from omakase.core.materials.cloth import make_ply
from omakase.core.materials.material import BRAID_ANGLE, Material

LOCKED, STRETCHED = 65.0, 15.0  # degrees at which yarns touch each other (common practice, no source)


def nominal(ply: Material, materials: Mapping[str, Material]) -> tuple[float, float] | None:
    """(diameter in m, angle in degrees) at which a ply's sleeve was braided; None for a ply that is not a sleeve of a
    recipe."""
    if ply.build is None or ply.build.architecture != "braid" or ply.recipe is None:
        return None
    cloth = materials.get(ply.recipe.cloth)
    if cloth is None or "roll_width" not in cloth.properties:
        return None
    angle = abs(ply.build.angles[0]) if ply.build.angles else BRAID_ANGLE
    return cloth.value("roll_width"), angle


def pulled_angle(diameter: float, braided_at: float, angle: float) -> float:
    """Angle in degrees between the fibres and the axis of a sleeve pulled over ``diameter`` m.

    A yarn keeps its length and the number of its turns: sin θ/sin θ₀ = d/d₀ (geometry).  Raises MaterialError where the
    sleeve locks: yarns touch beyond 65°, or below 15° when it is stretched thin.
    """
    sine = math.sin(math.radians(angle)) * diameter / braided_at
    reached = math.degrees(math.asin(sine)) if sine < 1.0 else 90.0
    if not STRETCHED <= reached <= LOCKED:
        low, high = (
            braided_at * math.sin(math.radians(limit)) / math.sin(math.radians(angle)) for limit in (STRETCHED, LOCKED)
        )
        raise MaterialError(
            f"a sleeve braided for {both_units(braided_at)} does not go over {both_units(diameter)}: it locks outside "
            f"{both_units(low, high, between=' to ')}"
        )
    return reached


def pulled(ply: Material, materials: Mapping[str, Material], diameter: float) -> Material:
    """The ply of a sleeve pulled over a diameter in m: its angle, areal mass ∝ 1/(d cos θ), and so its thickness.

    A material that is not a sleeve is returned unchanged.  Raises MaterialError where the sleeve locks.
    """
    unpulled = nominal(ply, materials)
    if unpulled is None or ply.recipe is None:
        return ply
    braided_at, angle = unpulled
    new = pulled_angle(diameter, braided_at, angle)
    cloth = materials[ply.recipe.cloth]
    areal = cloth.properties["fibre_areal_mass"]
    stretch = braided_at * math.cos(math.radians(angle)) / (diameter * math.cos(math.radians(new)))
    return _ply(ply, cloth, _Parts(materials, ply), new, areal.value * stretch)


class _Parts:
    """Fibres and resin of a ply, compared by what they are: so that a pulled ply is made once."""

    def __init__(self, materials: Mapping[str, Material], ply: Material) -> None:
        assert ply.recipe is not None
        assert ply.build is not None
        names = (ply.recipe.resin, ply.build.fibre, ply.build.second_fibre)
        self.known = {name: materials[name] for name in names if name in materials}
        self._key = tuple(self.known.items())

    def __hash__(self) -> int:
        return hash(self._key)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Parts) and other._key == self._key


@lru_cache(maxsize=512)
def _ply(ply: Material, cloth: Material, parts: _Parts, angle: float, areal: float) -> Material:
    """The ply of a cloth braided at another angle and areal mass, with the resin fraction the ply has."""
    assert ply.recipe is not None
    assert cloth.build is not None
    sourced = msgspec.structs.replace(cloth.properties["fibre_areal_mass"], value=areal)
    other = msgspec.structs.replace(
        cloth, build=msgspec.structs.replace(cloth.build, angles=(angle, -angle)),
        properties={**cloth.properties, "fibre_areal_mass": sourced},
    )  # fmt: skip
    made = make_ply(
        ply.recipe, {**parts.known, cloth.id: other}, ply.id, ply.name, ply.properties["resin_mass_fraction"]
    )
    return msgspec.structs.replace(made, tests=ply.tests, knock_downs=ply.knock_downs)
